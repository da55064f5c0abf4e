//! The tool, run as its users run it, as one program.

mod commands;
mod page;
mod tuning;
