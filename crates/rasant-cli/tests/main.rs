//! The tool, run as its users run it, as one program.

mod commands;
mod documents;
mod fuzz;
mod page;
mod trusted;
mod tuning;
