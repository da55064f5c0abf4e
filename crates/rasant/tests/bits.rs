//! The tests of what is the same to the bit in every build: `.ci/run` has them in release builds, with
//! threads, and for the processor at hand.

// Parts of the shared code serve other tests.
#![allow(dead_code, unused_imports)]

mod common;

mod crowd;
mod everything;
mod golden;
mod meeting;
