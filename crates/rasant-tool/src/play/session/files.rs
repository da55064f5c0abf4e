//! Files: read again when other programs change them, and written on request.

use std::path::{Path, PathBuf};

use rasant_lab::Trial;
use rasant_lab::files::{
    Inputs, LevelDraft, TuningFile, edit_tuning, read_tuning, write_recorded_trial, write_tuning,
};

use super::open::{Geometry, Source, modified};
use super::{Live, Session, Step, with};
use crate::files::suits;
use crate::play::messages::Answer;

/// The maximum length of a file's name, in characters.
const NAME: usize = 60;

impl Session {
    /// Reads files again that other programs changed. Invalid files change nothing.
    pub fn look_at_files(&mut self) -> Vec<Answer> {
        let mut answers = self.look_at_tuning();
        answers.extend(self.look_at_bindings());
        answers.extend(self.look_at_level());
        answers.extend(self.look_at_geometry());
        answers
    }

    /// Reads a level file again, unless the place was changed here and not saved.
    fn look_at_level(&mut self) -> Vec<Answer> {
        let Some(level) = &mut self.level else { return Vec::new() };
        if self.draft != self.written || !level.has_changed() {
            return Vec::new();
        }
        let path = level.path.clone();
        match LevelDraft::read(&self.setting.library.on_disk(), &path) {
            Ok((draft, _)) if draft == self.draft => Vec::new(),
            Ok((draft, world)) => {
                self.add_step(Step::Place(self.draft.clone()));
                self.written = draft.clone();
                self.geometry = Geometry::of(&draft, &path);
                let mut answers = self.put_place(draft, world);
                answers.insert(0, Answer::note("the level file has changed and was read again"));
                answers
            }
            Err(why) => vec![Answer::problem(format!("{why} (the last valid place stays)"))],
        }
    }

    /// Reads a drawing or a model of the place again.
    fn look_at_geometry(&mut self) -> Vec<Answer> {
        // All are checked, so that each change is noticed once.
        let changed =
            self.geometry.files.iter_mut().filter_map(|file| file.has_changed().then_some(())).count();
        if changed == 0 {
            return Vec::new();
        }
        match self.draft.again(&self.setting.library.on_disk(), &self.geometry.level) {
            Ok((draft, _)) if draft == self.draft => Vec::new(),
            Ok((draft, world)) => {
                if self.draft == self.written {
                    self.written = draft.clone();
                }
                self.add_step(Step::Place(self.draft.clone()));
                let mut answers = self.put_place(draft, world);
                answers.insert(
                    0,
                    Answer::note("a drawing or a model of the place has changed and was read again"),
                );
                answers
            }
            Err(why) => vec![Answer::problem(format!("{why} (the last valid place stays)"))],
        }
    }

    fn look_at_tuning(&mut self) -> Vec<Answer> {
        let Some(source) = &mut self.source else { return Vec::new() };
        if !source.has_changed() {
            return Vec::new();
        }
        let path = source.path.clone();
        match read_tuning(&self.setting.library.on_disk(), &path) {
            Ok(file) if file == self.file => Vec::new(),
            Ok(file) if suits(&self.trial, &file).is_err() => {
                let why = suits(&self.trial, &file).err().unwrap_or_default();
                vec![Answer::problem(format!("{}: {why} (the last valid numbers stay)", path.display()))]
            }
            Ok(file) => {
                self.file = file.clone();
                self.before = None;
                self.change(file);
                vec![Answer::note("the tuning file has changed and was read again"), self.numbers_message()]
            }
            Err(failure) => vec![Answer::problem(format!("{failure} (the last valid numbers stay)"))],
        }
    }

    /// Writes the numbers to their own file, or to a new one with this name.
    pub(super) fn save(&mut self, name: Option<&str>) -> Vec<Answer> {
        let saved = match (name, &self.source) {
            (None, Some(source)) => self.save_to_source(source.path.clone()),
            (None, None) => Err("the numbers have no file yet: give a name".to_owned()),
            (Some(name), _) => self.save_as(name),
        };
        match saved {
            Ok(path) => {
                vec![Answer::note(format!("saved to {}", path.display())), self.numbers_message()]
            }
            Err(why) => vec![Answer::problem(why)],
        }
    }

    fn save_to_source(&mut self, path: PathBuf) -> Result<PathBuf, String> {
        let failed = |error: std::io::Error| format!("{}: {error}", path.display());
        if self.source.as_ref().is_some_and(|source| modified(&path) != source.seen) {
            return Err(format!("{} was changed by another program: check it first", path.display()));
        }
        let text = std::fs::read_to_string(&path).map_err(failed)?;
        let edited = edit_tuning(&text, self.numbers()).map_err(|problem| problem.to_string())?;
        write_whole(&path, &edited).map_err(failed)?;
        self.file = self.numbers().clone();
        self.before = None;
        self.stale = true;
        self.source = Some(Source::now(path.clone()));
        Ok(path)
    }

    fn save_as(&mut self, name: &str) -> Result<PathBuf, String> {
        let path = self.new_file(name, "toml")?;
        let name = name.trim();
        let failed = |error: std::io::Error| format!("{}: {error}", path.display());
        let numbers = TuningFile { title: name.to_owned(), ..self.numbers().clone() };
        write_whole(&path, &write_tuning(&numbers)).map_err(failed)?;
        self.source = Some(Source::now(path.clone()));
        self.file = numbers.clone();
        self.before = None;
        self.put(numbers);
        Ok(path)
    }

    /// The path of a new file with this name, in the folder for saved files.
    pub(super) fn new_file(&self, name: &str, ending: &str) -> Result<PathBuf, String> {
        let is_plain = |c: char| c.is_alphanumeric() || " -_".contains(c);
        let name = name.trim();
        if name.is_empty() || name.chars().count() > NAME || !name.chars().all(is_plain) {
            return Err(format!(
                "`{name}` cannot be the name of a file, expected at most {NAME} letters, digits, spaces, - and _"
            ));
        }
        let path = self.setting.out.join(name).with_extension(ending);
        std::fs::create_dir_all(&self.setting.out).map_err(|error| format!("{}: {error}", path.display()))?;
        if path.exists() { Err(format!("there is a {} already", path.display())) } else { Ok(path) }
    }

    /// Writes the inputs so far, the level and the numbers, and a trial that plays them and expects
    /// the same results.
    pub(super) fn record(&self, name: &str) -> Result<(PathBuf, &'static str), String> {
        let tape = with!(&self.live, attempt => attempt.tape());
        let tape = tape.ok_or("the beginning of the attempt was dropped: restart, and record sooner")?;
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
        if level_file.exists() {
            return Err(format!("there is a {} already", level_file.display()));
        }
        let (start, was_changed) = with!(
            &self.live,
            attempt => (rasant::Vector::to_array(attempt.start()), attempt.was_changed())
        );
        let trial = Trial {
            world: self.draft.world().map_err(|problem| problem.to_string())?,
            start,
            title: name.trim().to_owned(),
            rate,
            duration: tape.len() as f32 / rate as f32,
            inputs: Inputs::Tape(tape.clone()),
            expectations: Vec::new(),
            ..self.trial.with_tuning(self.numbers().clone())
        };
        let mut trial = trial;
        let mut files = vec![(tuning_file, write_tuning(self.numbers())), (tape_file, tape.to_text(rate))];
        let second = with!(&self.live, attempt => attempt.second_tape());
        let mut others: Vec<(String, Option<String>)> = Vec::new();
        for number in 0..trial.others.len() {
            // Bodies of one tuning share its file.
            let same =
                trial.others[..number].iter().position(|one| one.tuning == trial.others[number].tuning);
            let tuning = match same {
                Some(same) => others[same].0.clone(),
                None => {
                    let (name, file) = named(&format!("body-{}.tuning.toml", number + 1));
                    files.push((file, write_tuning(&trial.others[number].tuning)));
                    name
                }
            };
            let body = &mut trial.others[number];
            let inputs = match &body.inputs {
                _ if body.is_second_player => second.clone(),
                Inputs::Tape(tape) => Some(tape.clone()),
                Inputs::Script(_) => None,
            };
            let tape = inputs.map(|tape| {
                let (name, file) = named(&format!("body-{}.tape", number + 1));
                files.push((file, tape.to_text(rate)));
                body.inputs = Inputs::Tape(tape);
                name
            });
            others.push((tuning, tape));
        }
        if let Some(there) = files.iter().map(|(file, _)| file).find(|file| file.exists()) {
            return Err(format!("there is a {} already", there.display()));
        }
        let run = rasant_lab::run(&trial);
        files
            .push((path.clone(), write_recorded_trial(&trial, &run, (&level, &tuning, &recording), &others)));
        self.write_level(&level_file)?;
        for (file, text) in &files {
            write_whole(file, text).map_err(|error| format!("{}: {error}", file.display()))?;
        }
        let words = if was_changed {
            "; numbers or the place were changed meanwhile: it has the current ones from the start"
        } else {
            ""
        };
        Ok((path, words))
    }

    /// Writes the place as a new file, with the drawings and models that it refers to in a folder
    /// beside it.
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
}

/// Writes a file as a whole or not at all.
pub(super) fn write_whole(path: &Path, text: &str) -> std::io::Result<()> {
    crate::outputs::write_file(path, text.as_bytes())
}
