//! The commands, a file each.

pub mod check;
pub mod demo;
pub mod knobs;
pub mod run;
pub mod sheet;
