//! The files that a level refers to, stored with its text.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use crate::{Files, Game, Problem};

/// The files that a level refers to, by their paths relative to it, with their contents when it was
/// read.
#[derive(Clone, Debug, Default)]
pub(super) struct Attached {
    files: BTreeMap<PathBuf, Arc<[u8]>>,
    pub game: Game,
}

impl PartialEq for Attached {
    fn eq(&self, other: &Self) -> bool {
        // A program has one game.
        self.files == other.files
    }
}

impl Attached {
    /// Each file with its path inside a folder of their own.
    pub fn iter(&self) -> impl Iterator<Item = (&Path, &[u8])> {
        self.files.iter().map(|(path, bytes)| (&**path, &**bytes))
    }
}

impl Files for Attached {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let bytes = self.read_bytes(path)?;
        String::from_utf8(bytes).map_err(|_| Problem::unreadable(path, "it is not UTF-8 text"))
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        let bytes = self.files.get(&below(path)).map(|bytes| bytes.to_vec());
        bytes.ok_or_else(|| Problem::unreadable(path, "the level did not refer to it when it was read"))
    }

    fn game(&self) -> Game {
        self.game
    }
}

/// Files that record what is read of them.
pub(super) struct Remembering<'a> {
    files: &'a dyn Files,
    /// The folder of the level.
    folder: &'a Path,
    read: RefCell<Attached>,
}

impl<'a> Remembering<'a> {
    pub fn new(files: &'a dyn Files, level: &'a Path) -> Self {
        let folder = level.parent().unwrap_or(Path::new(""));
        let read = Attached { game: files.game(), ..Attached::default() };
        Self { files, folder, read: RefCell::new(read) }
    }

    /// The files that were read.
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

    fn game(&self) -> Game {
        self.files.game()
    }
}

impl Remembering<'_> {
    fn keep(&self, path: &Path, bytes: &[u8]) {
        let own = path.strip_prefix(self.folder).unwrap_or(path);
        self.read.borrow_mut().files.insert(below(own), bytes.into());
    }
}

/// A path inside its folder: parent folders become a folder `_`.
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
