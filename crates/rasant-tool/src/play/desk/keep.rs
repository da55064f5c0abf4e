//! What is written to files, and what they say when something else has.

use std::path::{Path, PathBuf};

use rasant::Vector;
use rasant_lab::files::{
    LevelDraft, TuningFile, edit_tuning, read_tuning, write_recorded_trial, write_tuning,
};
use rasant_lab::{OnDisk, Trial};
use serde_json::Value;

use super::{Desk, Live, Named, Source, Step, modified, note, problem, with};

/// The longest name of a file.
const NAME: usize = 60;

impl Desk {
    /// Takes over files that were edited outside; broken ones change nothing.
    pub fn look_at_files(&mut self) -> Vec<Value> {
        let mut answers = self.look_at_tuning();
        answers.extend(self.look_at_level());
        answers.extend(self.look_at_named());
        answers
    }

    /// Takes over a level file that was edited outside, unless the place was changed
    /// here: then it is not saved over it.
    fn look_at_level(&mut self) -> Vec<Value> {
        let Some(level) = &mut self.level else { return Vec::new() };
        let now = modified(&level.path);
        if now == level.seen || self.draft != self.written {
            return Vec::new();
        }
        level.seen = now;
        let path = level.path.clone();
        match LevelDraft::read(&OnDisk, &path) {
            Ok((draft, _)) if draft == self.draft => Vec::new(),
            Ok((draft, world)) => {
                self.step(Step::Place(self.draft.clone()));
                self.written = draft.clone();
                self.named = Named::of(&draft, &path);
                let mut answers = self.put_place(draft, world);
                answers.insert(0, note("the level's file was changed: the place is taken from it"));
                answers
            }
            Err(why) => vec![problem(&format!("{why} (the last good place stays)"))],
        }
    }

    /// Takes over a drawing or a model that was changed by the program that it is made with.
    fn look_at_named(&mut self) -> Vec<Value> {
        let mut is_changed = false;
        for file in &mut self.named.files {
            let now = modified(&file.path);
            is_changed |= now != file.seen;
            file.seen = now;
        }
        if !is_changed {
            return Vec::new();
        }
        match self.draft.again(&OnDisk, &self.named.base) {
            Ok((draft, _)) if draft == self.draft => Vec::new(),
            Ok((draft, world)) => {
                if self.draft == self.written {
                    self.written = draft.clone();
                }
                self.step(Step::Place(self.draft.clone()));
                let mut answers = self.put_place(draft, world);
                answers.insert(0, note("what the place is drawn with was changed: it is taken from there"));
                answers
            }
            Err(why) => vec![problem(&format!("{why} (the last good place stays)"))],
        }
    }

    fn look_at_tuning(&mut self) -> Vec<Value> {
        let Some(source) = &mut self.source else { return Vec::new() };
        let now = modified(&source.path);
        if now == source.seen {
            return Vec::new();
        }
        source.seen = now;
        match read_tuning(&OnDisk, &source.path) {
            Ok(file) if file == self.file => Vec::new(),
            Ok(file) => {
                self.file = file.clone();
                self.before = None;
                self.change(file);
                vec![note("the file was changed: its numbers are taken"), self.numbers_told()]
            }
            Err(failure) => vec![problem(&format!("{} (the last good numbers stay)", failure))],
        }
    }

    /// Writes the numbers to their own file, or to a new one of this name.
    pub(super) fn save(&mut self, name: Option<&str>) -> Vec<Value> {
        let saved = match (name, &self.source) {
            (None, Some(source)) => self.save_to_source(source.path.clone()),
            (None, None) => Err("the numbers are of no file: give a name".to_owned()),
            (Some(name), _) => self.save_as(name),
        };
        match saved {
            Ok(path) => {
                vec![note(format!("saved to {}", path.display())), self.numbers_told()]
            }
            Err(why) => vec![problem(&why)],
        }
    }

    pub(super) fn save_to_source(&mut self, path: PathBuf) -> Result<PathBuf, String> {
        let failed = |error: std::io::Error| format!("{}: {error}", path.display());
        let text = std::fs::read_to_string(&path).map_err(failed)?;
        let edited = edit_tuning(&text, self.numbers()).map_err(|problem| problem.to_string())?;
        write_whole(&path, &edited).map_err(failed)?;
        self.file = self.numbers().clone();
        self.before = None;
        self.stale = true;
        if let Some(source) = &mut self.source {
            source.seen = modified(&path);
        }
        Ok(path)
    }

    /// The path of a new file of that name, in the folder for what is saved.
    pub(super) fn new_file(&self, name: &str, ending: &str) -> Result<PathBuf, String> {
        let is_plain = |c: char| c.is_alphanumeric() || " -_".contains(c);
        let name = name.trim();
        if name.is_empty() || name.chars().count() > NAME || !name.chars().all(is_plain) {
            return Err(format!(
                "`{name}` is no name for a file, expected at most {NAME} letters, digits, spaces, - and _"
            ));
        }
        let path = self.setting.out.join(name).with_extension(ending);
        std::fs::create_dir_all(&self.setting.out).map_err(|error| format!("{}: {error}", path.display()))?;
        if path.exists() { Err(format!("there is a {} already", path.display())) } else { Ok(path) }
    }

    /// Writes the inputs up to now, the level and the numbers, and a trial that plays
    /// them and expects what comes of it.
    pub(super) fn record(&self, name: &str) -> Result<(PathBuf, &'static str), String> {
        let tape = with!(&self.live, attempt => attempt.tape());
        let tape = tape.ok_or("the attempt's beginning has been forgotten: restart, and record sooner")?;
        if tape.is_empty() {
            return Err("nothing has been played yet".to_owned());
        }
        let path = self.new_file(name, "toml")?;
        let rate = with!(&self.live, attempt => attempt.rate());
        let named = |ending: &str| {
            let file = path.with_extension(ending);
            let name = file.file_name().map(|name| name.to_string_lossy().into_owned());
            (name.unwrap_or_default(), file)
        };
        let (level, level_file) = named("level.toml");
        let (tuning, tuning_file) = named("tuning.toml");
        let (recording, tape_file) = named("tape");
        let (start, was_changed) =
            with!(&self.live, attempt => (Vector::to_array(attempt.start()), attempt.was_changed()));
        let trial = Trial {
            world: self.draft.world().map_err(|problem| problem.to_string())?,
            start,
            title: name.trim().to_owned(),
            rate,
            duration: tape.len() as f32 / rate as f32,
            inputs: rasant_lab::files::Inputs::Tape(tape.clone()),
            expectations: Vec::new(),
            ..self.trial.with_tuning(self.numbers().clone())
        };
        let run = rasant_lab::run(&trial);
        let text = write_recorded_trial(&run, trial.start, &level, &tuning, &recording);
        self.write_level(&level_file)?;
        for (file, text) in [
            (&tuning_file, &*write_tuning(self.numbers())),
            (&tape_file, &*tape.to_text(rate)),
            (&path, &*text),
        ] {
            write_whole(file, text).map_err(|error| format!("{}: {error}", file.display()))?;
        }
        let words = if was_changed {
            "; numbers or the place were changed on the way: it has those of now from the start"
        } else {
            ""
        };
        Ok((path, words))
    }

    /// Writes the place as a new file, with what it names in a folder beside it.
    pub(super) fn write_level(&self, path: &Path) -> Result<(), String> {
        let folder = path.with_extension("").with_extension("geometry");
        let name = folder.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let (text, files) = self.draft.packed(&name).map_err(|problem| problem.to_string())?;
        for (named, bytes) in files {
            let file = path.with_file_name(named);
            let made = file.parent().map_or(Ok(()), std::fs::create_dir_all);
            let written = made.and_then(|()| crate::outputs::write_file(&file, &bytes));
            written.map_err(|error| format!("{}: {error}", file.display()))?;
        }
        write_whole(path, &text).map_err(|error| format!("{}: {error}", path.display()))
    }

    pub(super) fn save_as(&mut self, name: &str) -> Result<PathBuf, String> {
        let path = self.new_file(name, "toml")?;
        let name = name.trim();
        let failed = |error: std::io::Error| format!("{}: {error}", path.display());
        let numbers = TuningFile { title: name.to_owned(), ..self.numbers().clone() };
        write_whole(&path, &write_tuning(&numbers)).map_err(failed)?;
        self.source = Some(Source { seen: modified(&path), path: path.clone() });
        self.file = numbers.clone();
        self.before = None;
        self.put(numbers);
        Ok(path)
    }
}

/// Writes a file whole or not at all.
pub(super) fn write_whole(path: &Path, text: &str) -> std::io::Result<()> {
    crate::outputs::write_file(path, text.as_bytes())
}
