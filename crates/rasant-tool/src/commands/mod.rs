//! The commands, a file each.

pub mod check;
pub mod compare;
pub mod demo;
pub mod fit;
pub mod knobs;
pub mod new;
pub mod play;
pub mod rates;
pub mod run;
pub mod sheet;
pub mod vary;
