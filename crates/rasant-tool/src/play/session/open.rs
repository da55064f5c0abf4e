//! Opens what is played.

use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rasant::{Bindings, Clock};
use rasant_lab::files::{LevelDraft, TuningFile};
use rasant_lab::live::Attempt;
use rasant_lab::{OnDisk, Problem, Trial, World, read_bindings};

use super::Live;
use crate::files::{self, Library, Shipped};

/// A file, with the time of its last known change.
pub struct Source {
    pub path: PathBuf,
    pub seen: Option<SystemTime>,
}

impl Source {
    /// The file as it is now.
    pub fn now(path: PathBuf) -> Self {
        Self { seen: modified(&path), path }
    }

    /// Returns true if the file has changed since the last call.
    pub fn has_changed(&mut self) -> bool {
        let now = modified(&self.path);
        let changed = now != self.seen;
        self.seen = now;
        changed
    }

    pub fn shown(&self) -> String {
        self.path.display().to_string()
    }
}

/// The time of the last change of a file; `None` if that cannot be read.
pub fn modified(path: &Path) -> Option<SystemTime> {
    std::fs::metadata(path).and_then(|about| about.modified()).ok()
}

/// The drawings and models that a place refers to.
#[derive(Default)]
pub struct Geometry {
    /// The level file. Their paths are relative to it.
    pub level: PathBuf,
    pub files: Vec<Source>,
}

impl Geometry {
    pub fn of(draft: &LevelDraft, level: &Path) -> Self {
        let source = |named: &Path| Source::now(level.with_file_name("").join(named));
        Self { level: level.to_owned(), files: draft.named().map(source).collect() }
    }
}

/// A place that is ready to be played.
pub struct Opened {
    pub trial: Trial,
    pub live: Live,
    pub draft: LevelDraft,
    pub level: Option<Source>,
    pub geometry: Geometry,
    pub file: TuningFile,
    /// The file of the numbers, if they are not shipped.
    pub source: Option<Source>,
}

impl Opened {
    /// Reads a trial or a level, with its own tuning or another.
    ///
    /// # Errors
    /// If a file cannot be read.
    pub fn new(
        library: Library,
        name: &str,
        tuning: Option<&str>,
        bindings: [Bindings; 2],
    ) -> Result<Self, Problem> {
        let place = library.place(name)?;
        let is_shipped = name.starts_with("demo:");
        let trial = place.trial.clone();
        let file = match tuning {
            Some(spec) => library.tuning_or_problem(spec)?,
            None => trial.tuning.clone(),
        };
        files::suits(&trial, &file).map_err(|why| Problem::unreadable(Path::new(name), &why))?;
        let source = tuning.filter(|spec| !spec.starts_with("demo:") && !spec.contains(','));
        let clock = Clock::new(trial.rate).unwrap_or_else(|_| Clock::new(60).expect("60 ticks a second"));
        let played = trial.with_tuning(file.clone());
        let live = match trial.world.clone() {
            World::Plane(world) => Live::Plane(Box::new(Attempt::new(&played, world, clock, bindings))),
            World::Space(world) => Live::Space(Box::new(Attempt::new(&played, world, clock, bindings))),
        };
        Ok(Self {
            trial,
            live,
            geometry: if is_shipped { Geometry::default() } else { Geometry::of(&place.draft, &place.base) },
            draft: place.draft,
            level: place.level.filter(|_| !is_shipped).map(Source::now),
            file,
            source: source.map(|spec| Source::now(PathBuf::from(spec))),
        })
    }
}

/// The second player's bindings: those of a file, or the shipped ones for a second player at the same
/// keyboard.
///
/// # Errors
/// If the file cannot be read.
pub fn second_bindings(path: Option<&Path>) -> Result<Bindings, Problem> {
    match path {
        Some(path) => read_bindings(&OnDisk, path),
        None => read_bindings(&Shipped, Path::new("bindings/two-on-a-keyboard.toml")),
    }
}

/// The bindings of a file, or the defaults.
///
/// # Errors
/// If the file cannot be read.
pub fn bindings(path: Option<&Path>) -> Result<Bindings, Problem> {
    path.map_or_else(|| Ok(Bindings::default()), |path| read_bindings(&OnDisk, path))
}
