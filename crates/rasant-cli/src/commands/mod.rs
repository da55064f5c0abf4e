//! The commands, a file each.

pub mod demo;
pub mod run;
