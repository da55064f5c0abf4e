//! The commands, one file each.

pub mod check;
pub mod compare;
pub mod demo;
pub mod export;
pub mod fit;
pub mod folder;
pub mod help;
pub mod knobs;
pub mod level;
pub mod list;
pub mod merge;
pub mod new;
pub mod play;
pub mod rates;
pub mod run;
pub mod sheet;
pub mod vary;
