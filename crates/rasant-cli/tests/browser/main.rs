//! The live page in a real browser: `cargo test -p rasant-cli --features browser --test browser`.
//! Needs Chromium with its driver, which `.ci/run` installs.

#[cfg(feature = "costs")]
#[allow(dead_code)] // the tests over plain sockets use more of it
#[path = "../page/client.rs"]
mod client;
mod controls;
#[cfg(feature = "costs")]
mod costs;
mod driver;
mod playing;
#[path = "../page/tool.rs"]
mod tool;

use tool::{TUNING, Tool};
