//! Files that are read again when they change, while the game runs.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fmt;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rasant::Bindings;

use crate::{Files, Game, OnDisk, Problem, TuningFile, World, read_bindings, read_level, read_tuning};

/// A value from a file, that is read again when the file changes.
///
/// Call [`Self::poll`] once per frame. A file that has changed is read when two polls in a row find it
/// the same, so that one which is being written is not read half. Files that it refers to, as the
/// drawing of a level, are watched as well. A file with an error changes nothing: the last good value
/// stays, and the error is returned once. A poll costs a query of the file system per file, which takes
/// some microseconds.
///
/// ```
/// use rasant_files::{Problem, Watched};
/// # use std::time::{Duration, SystemTime};
/// # let folder = std::env::temp_dir().join(format!("rasant-watched-{}", std::process::id()));
/// # std::fs::create_dir_all(&folder).unwrap();
/// # let path = folder.join("walker.toml");
/// # std::fs::write(&path, "title = \"A walker\"\n").unwrap();
///
/// let mut walker = Watched::tuning(&path)?;
/// let mut body = rasant::Controller::new(walker.tuning, walker.hull, rasant::glam::Vec2::ZERO);
/// # std::fs::write(&path, "title = \"A walker\"\n[walk]\nspeed = 5\n").unwrap();
/// # walker.poll();
/// // In each frame:
/// match walker.poll() {
///     Some(Ok(file)) => body.tuning = file.tuning,
///     Some(Err(problem)) => eprintln!("{problem}"),
///     None => {}
/// }
/// # assert_eq!(body.tuning.walk.speed, 5.0);
/// # std::fs::remove_dir_all(&folder).unwrap();
/// # Ok::<(), Problem>(())
/// ```
pub struct Watched<T> {
    path: PathBuf,
    read: Read<T>,
    game: Game,
    value: T,
    /// The files that the value was read from, as they were.
    known: Stamps,
    /// The files as they were in the last poll, if they differed from `known`.
    seen: Option<Stamps>,
    /// The last error, if the files as they are have one.
    problem: Option<Problem>,
}

/// A function that reads a file.
type Read<T> = Box<dyn Fn(&dyn Files, &Path) -> Result<T, Problem>>;

/// When a file was written and how long it is, or `None` if it is not there.
type Stamp = Option<(SystemTime, u64)>;
type Stamps = BTreeMap<PathBuf, Stamp>;

impl Watched<TuningFile> {
    /// Reads and watches a tuning file.
    ///
    /// # Errors
    /// A [`Problem`] with the file.
    pub fn tuning(path: impl Into<PathBuf>) -> Result<Self, Problem> {
        Self::new(path, Game::default(), read_tuning)
    }
}

impl Watched<World> {
    /// Reads and watches a level with the drawings and models that it includes.
    ///
    /// # Errors
    /// A [`Problem`] with one of the files.
    pub fn level(path: impl Into<PathBuf>) -> Result<Self, Problem> {
        Self::new(path, Game::default(), read_level)
    }
}

impl Watched<Bindings> {
    /// Reads and watches a file of bindings.
    ///
    /// # Errors
    /// A [`Problem`] with the file.
    pub fn bindings(path: impl Into<PathBuf>) -> Result<Self, Problem> {
        Self::new(path, Game::default(), read_bindings)
    }
}

impl<T> Watched<T> {
    /// Reads and watches a file on the disk by a function such as [`read_tuning`], for a game with moves
    /// or zones of its own.
    ///
    /// # Errors
    /// A [`Problem`] with one of the files.
    pub fn new(
        path: impl Into<PathBuf>,
        game: Game,
        read: impl Fn(&dyn Files, &Path) -> Result<T, Problem> + 'static,
    ) -> Result<Self, Problem> {
        let path = path.into();
        let (value, known) = stamped(&path, game, &read);
        let value = value?;
        Ok(Self { path, read: Box::new(read), game, value, known, seen: None, problem: None })
    }

    /// Returns the new value or the error if the files have changed, and `None` if they are as before.
    pub fn poll(&mut self) -> Option<Result<&T, &Problem>> {
        if self.known.iter().all(|(path, stamp)| stamp_of(path) == *stamp) {
            self.seen = None;
            return None;
        }
        let now: Stamps = self.known.keys().map(|path| (path.clone(), stamp_of(path))).collect();
        if self.seen.as_ref() != Some(&now) {
            self.seen = Some(now);
            return None;
        }
        self.seen = None;
        let (value, known) = stamped(&self.path, self.game, &self.read);
        match value {
            Ok(value) => {
                (self.value, self.known, self.problem) = (value, known, None);
                Some(Ok(&self.value))
            }
            Err(problem) => {
                // The files of the last good value are still watched, because one of them may come back.
                self.known = now;
                self.known.extend(known);
                Some(Err(self.problem.insert(problem)))
            }
        }
    }

    /// Returns the new value if the files have changed and are right. If they have an error, `report`
    /// gets it, once. The same as [`Self::poll`], in the form that most games need.
    ///
    /// ```no_run
    /// use rasant_files::Watched;
    ///
    /// # let mut body = rasant::Controller::new(Default::default(), rasant::Hull::ball(0.5)?, rasant::glam::Vec2::ZERO);
    /// let mut tuning = Watched::tuning("data/walker.toml")?;
    /// if let Some(file) = tuning.changed(|problem| eprintln!("{problem}")) {
    ///     body.tuning = file.tuning;
    /// }
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn changed(&mut self, report: impl FnOnce(&Problem)) -> Option<&T> {
        match self.poll()? {
            Ok(value) => Some(value),
            Err(problem) => {
                report(problem);
                None
            }
        }
    }

    /// The path of the file.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The error of the files as they are now, if the value is an older one.
    #[must_use]
    pub fn problem(&self) -> Option<&Problem> {
        self.problem.as_ref()
    }
}

impl<T> std::ops::Deref for Watched<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.value
    }
}

impl<T: fmt::Debug> fmt::Debug for Watched<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { path, value, problem, .. } = self;
        f.debug_struct("Watched")
            .field("path", path)
            .field("value", value)
            .field("problem", problem)
            .finish_non_exhaustive()
    }
}

/// Files on the disk, with a record of what was read.
struct Recorded {
    game: Game,
    stamps: RefCell<Stamps>,
}

impl Recorded {
    /// The stamp is taken before the file is read, so that a change in between is seen later.
    fn note(&self, path: &Path) {
        self.stamps.borrow_mut().entry(path.to_owned()).or_insert_with(|| stamp_of(path));
    }
}

impl Files for Recorded {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        self.note(path);
        OnDisk.read(path)
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        self.note(path);
        OnDisk.read_bytes(path)
    }

    fn game(&self) -> Game {
        self.game
    }
}

fn stamped<T>(
    path: &Path,
    game: Game,
    read: &impl Fn(&dyn Files, &Path) -> Result<T, Problem>,
) -> (Result<T, Problem>, Stamps) {
    let files = Recorded { game, stamps: RefCell::new(Stamps::new()) };
    files.note(path);
    let value = read(&files, path);
    (value, files.stamps.into_inner())
}

fn stamp_of(path: &Path) -> Stamp {
    let about = std::fs::metadata(path).ok()?;
    Some((about.modified().ok()?, about.len()))
}
