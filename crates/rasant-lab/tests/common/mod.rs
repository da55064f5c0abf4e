//! Shared by the tests: files in memory.
#![allow(dead_code)]

pub mod glb;

use std::collections::HashMap;
use std::path::Path;

use rasant_lab::{Files, Problem, Trial, read_trial};

pub const LEVEL: &str = "[[piece]]\nblock = [[-5, -1], [50, 0]]\n";
pub const TUNING: &str = "title = \"plain\"\n";
pub const TRIAL: &str = "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 1\n";

/// Files in memory.
pub struct InMemory(pub HashMap<&'static str, String>);

impl Files for InMemory {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let name = path.to_str().unwrap();
        self.0.get(name).cloned().ok_or_else(|| Problem::unreadable(path, "no such file"))
    }
}

/// Files of any bytes in memory.
#[derive(Default)]
pub struct Bytes(pub HashMap<String, Vec<u8>>);

impl Bytes {
    pub fn of(name: &str, bytes: impl Into<Vec<u8>>) -> Self {
        Self([(name.to_owned(), bytes.into())].into())
    }
}

impl Files for Bytes {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        String::from_utf8(self.read_bytes(path)?).map_err(|_| Problem::unreadable(path, "no text"))
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        let name = path.to_str().unwrap();
        self.0.get(name).cloned().ok_or_else(|| Problem::unreadable(path, "no such file"))
    }
}

pub fn read(level: &str, tuning: &str, trial: &str) -> Result<Trial, Problem> {
    let files = [("level", level), ("tuning", tuning), ("trial", trial)];
    read_trial(&InMemory(files.map(|(name, text)| (name, text.to_owned())).into()), Path::new("trial"))
}

pub fn refusal(level: &str, tuning: &str, trial: &str) -> String {
    read(level, tuning, trial).expect_err("it is wrong").to_string()
}
