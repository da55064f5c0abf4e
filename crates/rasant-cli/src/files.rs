//! Files from the disk, and those shipped inside the tool.

use std::path::{Component, Path, PathBuf};

use include_dir::{Dir, include_dir};
use rasant_lab::{Files, OnDisk, Problem, Trial, read_trial};

static SHIPPED: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// What a shipped file's path begins with on the command line.
const PREFIX: &str = "demo:";

/// The files inside the tool.
#[derive(Clone, Copy, Debug)]
pub struct Shipped;

impl Files for Shipped {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let inside = flattened(path.strip_prefix(PREFIX).unwrap_or(path));
        SHIPPED.get_file(&inside).and_then(|file| file.contents_utf8()).map(str::to_owned).ok_or_else(|| {
            Problem::unreadable(path, &format!("no such shipped file; there are {}", names().join(", ")))
        })
    }
}

/// The names of the shipped trials, as `run` takes them.
pub fn names() -> Vec<String> {
    let mut names: Vec<String> = SHIPPED
        .get_dir("trials")
        .into_iter()
        .flat_map(Dir::files)
        .filter_map(|file| file.path().file_stem())
        .map(|stem| format!("{PREFIX}{}", stem.to_string_lossy()))
        .collect();
    names.sort();
    names
}

/// Reads a trial: `demo:NAME` is a shipped one, anything else a path.
pub fn trial(name: &str) -> Result<Trial, Problem> {
    match name.strip_prefix(PREFIX) {
        Some(shipped) => read_trial(&Shipped, &Path::new("trials").join(shipped).with_extension("toml")),
        None => read_trial(&OnDisk, Path::new(name)),
    }
}

/// A path without its `..`.
fn flattened(path: &Path) -> PathBuf {
    let mut flat = PathBuf::new();
    for part in path.components() {
        match part {
            Component::ParentDir => {
                flat.pop();
            }
            Component::CurDir => {}
            other => flat.push(other),
        }
    }
    flat
}
