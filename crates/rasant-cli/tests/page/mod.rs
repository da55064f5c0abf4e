//! The live page: its tool over plain sockets. The page itself is tested in `tests/browser`.

pub mod client;
mod socket;
pub mod tool;

pub use tool::{TUNING, Tool};
