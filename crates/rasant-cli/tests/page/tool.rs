//! `rasant play`, started for a test.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

/// `rasant play`, ended with the test.
pub struct Tool {
    child: Child,
    pub address: String,
}

impl Tool {
    pub fn start(folder: &Path, arguments: &[&str]) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_rasant"))
            .arg("play")
            .args(arguments)
            .arg("--no-open")
            .current_dir(folder)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut address = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut address).unwrap();
        Self { child, address: address.trim().to_owned() }
    }

    /// The number of its process.
    #[allow(dead_code)] // only the costs need it
    pub fn process(&self) -> u32 {
        self.child.id()
    }

    /// `127.0.0.1:PORT`.
    #[allow(dead_code)] // only tests over plain sockets need it
    pub fn host(&self) -> &str {
        self.address.trim_start_matches("http://").split('/').next().unwrap()
    }

    #[allow(dead_code)] // only tests over plain sockets need it
    pub fn token(&self) -> &str {
        self.address.split("token=").nth(1).unwrap()
    }
}

impl Drop for Tool {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// A tuning with comments, in an order of its own.
pub const TUNING: &str = "# The night watch.
title = \"Night watch\"

[jump] # jumps first
height = 1.5   # not too high
rise_time = 0.4

[walk]
speed = 3.5
";
