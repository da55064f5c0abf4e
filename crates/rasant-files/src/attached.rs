//! The files that a level names, kept beside its text.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use crate::{Files, Problem};

/// The files that a level names, by their paths from it, as they were when it was read.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Attached(BTreeMap<PathBuf, Arc<[u8]>>);

impl Attached {
    /// Each file with its path below a folder of their own.
    pub fn iter(&self) -> impl Iterator<Item = (&Path, &[u8])> {
        self.0.iter().map(|(path, bytes)| (&**path, &**bytes))
    }
}

impl Files for Attached {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let bytes = self.read_bytes(path)?;
        String::from_utf8(bytes).map_err(|_| Problem::unreadable(path, "it is no UTF-8 text"))
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        let bytes = self.0.get(&below(path)).map(|bytes| bytes.to_vec());
        bytes.ok_or_else(|| Problem::unreadable(path, "the level did not have it when it was read"))
    }
}

/// Files that remember what was read of them.
pub(super) struct Remembering<'a> {
    files: &'a dyn Files,
    /// The folder of the level.
    folder: &'a Path,
    read: RefCell<Attached>,
}

impl<'a> Remembering<'a> {
    pub fn new(files: &'a dyn Files, level: &'a Path) -> Self {
        let folder = level.parent().unwrap_or(Path::new(""));
        Self { files, folder, read: RefCell::default() }
    }

    /// What was read.
    pub fn attached(self) -> Attached {
        self.read.into_inner()
    }
}

impl Files for Remembering<'_> {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let text = self.files.read(path)?;
        self.keep(path, text.as_bytes());
        Ok(text)
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        let bytes = self.files.read_bytes(path)?;
        self.keep(path, &bytes);
        Ok(bytes)
    }
}

impl Remembering<'_> {
    fn keep(&self, path: &Path, bytes: &[u8]) {
        let own = path.strip_prefix(self.folder).unwrap_or(path);
        self.read.borrow_mut().0.insert(below(own), bytes.into());
    }
}

/// A path that does not leave its folder: what leads above it becomes a folder `_`.
pub(super) fn below(path: &Path) -> PathBuf {
    let mut all: Vec<&std::ffi::OsStr> = Vec::new();
    for part in path.components() {
        match part {
            Component::Normal(name) => all.push(name),
            Component::ParentDir if all.last().is_some_and(|last| *last != "_") => {
                all.pop();
            }
            Component::CurDir => {}
            _ => all.push("_".as_ref()),
        }
    }
    all.iter().collect()
}
