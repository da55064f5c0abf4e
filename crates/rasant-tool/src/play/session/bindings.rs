//! Bindings that are changed during play.

use rasant::input::{Chord, Direction, Meaning};
use rasant::{Actions, Bindings};
use rasant_lab::files::{edit_bindings, write_bindings};

use super::files::write_whole;
use super::open::{self, Source};
use super::{Live, Session, with};
use crate::play::messages::{Answer, Binding, Bindings as Message};

/// Parses a meaning such as `jump` or `steer left`.
fn meaning(text: &str) -> Option<Meaning> {
    if let Some(name) = text.strip_prefix("steer ") {
        return Direction::NAMES
            .iter()
            .find(|(known, _)| *known == name)
            .map(|(_, direction)| Meaning::Steer(*direction));
    }
    Actions::named(text).map(Meaning::Action)
}

impl Session {
    fn own_bindings(&self) -> &Bindings {
        with!(&self.live, attempt => attempt.bindings()[0])
    }

    /// Every meaning that is bound or that the tuning uses, with its chords.
    pub(super) fn bindings_message(&self) -> Answer {
        let bindings = self.own_bindings();
        let mut meanings: Vec<Meaning> =
            Direction::NAMES.iter().map(|(_, direction)| Meaning::Steer(*direction)).collect();
        let actions = (0..32).map(|bit| Actions::from_bits_retain(1 << bit));
        let is_bound = |action: &Actions| bindings.chords_of(Meaning::Action(*action)).next().is_some();
        let used = self.used_actions();
        meanings.extend(
            actions.filter(|action| used.intersects(*action) || is_bound(action)).map(Meaning::Action),
        );
        let binding = |meaning: &Meaning| Binding {
            meaning: meaning.to_string(),
            chords: bindings.chords_of(*meaning).map(ToString::to_string).collect(),
        };
        Answer::Bindings(Message {
            bindings: meanings.iter().map(binding).collect(),
            conflicts: bindings.conflicts().iter().map(ToString::to_string).collect(),
            source: self.bindings_source.as_ref().map(Source::shown),
            changed: *bindings != self.bindings,
            second: self.second_bindings(),
        })
    }

    /// What is bound for the second player, if there is one.
    fn second_bindings(&self) -> Vec<Binding> {
        let (bindings, is_there) = with!(&self.live, attempt => {
            (attempt.bindings()[1], attempt.second_player().is_some())
        });
        let mut all: Vec<Binding> = Vec::new();
        for (chord, meaning) in bindings.chords.iter().filter(|_| is_there) {
            let (chord, meaning) = (chord.to_string(), meaning.to_string());
            match all.iter_mut().find(|one| one.meaning == meaning) {
                Some(one) => one.chords.push(chord),
                None => all.push(Binding { meaning, chords: vec![chord] }),
            }
        }
        all
    }

    pub(super) fn rebind(&mut self, bindings: Bindings) {
        with!(&mut self.live, attempt => attempt.rebind(bindings));
    }

    pub(super) fn bind(&mut self, meaning_text: &str, chord: &str) -> Vec<Answer> {
        let parsed = meaning(meaning_text).ok_or_else(|| format!("there is no action `{meaning_text}`"));
        let parsed = parsed.and_then(|meaning| {
            Chord::named(chord).map(|chord| (meaning, chord)).map_err(|error| error.to_string())
        });
        match parsed {
            Ok((meaning, chord)) => {
                let mut bindings = self.own_bindings().clone();
                bindings.bind(chord, meaning);
                self.rebind(bindings);
                vec![self.bindings_message()]
            }
            Err(why) => vec![Answer::problem(why)],
        }
    }

    pub(super) fn unbind(&mut self, meaning_text: &str, chord: &str) -> Vec<Answer> {
        let mut bindings = self.own_bindings().clone();
        bindings
            .chords
            .retain(|(own, meaning)| own.to_string() != chord || meaning.to_string() != meaning_text);
        self.rebind(bindings);
        vec![self.bindings_message()]
    }

    pub(super) fn reset_bindings(&mut self) -> Vec<Answer> {
        self.rebind(self.bindings.clone());
        vec![self.bindings_message()]
    }

    /// Writes the bindings to their file, or to a new one with this name.
    pub(super) fn save_bindings(&mut self, name: Option<&str>) -> Vec<Answer> {
        let saved = match (name, &self.bindings_source) {
            (Some(name), _) => self.new_file(name, "bindings.toml").and_then(|path| {
                let text = write_bindings(self.own_bindings());
                write_whole(&path, &text).map_err(|error| format!("{}: {error}", path.display()))?;
                Ok(path)
            }),
            (None, Some(source)) => self.save_bindings_to(source),
            (None, None) => Err("the bindings have no file yet: give a name".to_owned()),
        };
        match saved {
            Ok(path) => {
                let words =
                    format!("saved to {0}; `rasant play --bindings {0}` starts with them", path.display());
                self.bindings = self.own_bindings().clone();
                self.bindings_source = Some(Source::now(path));
                vec![Answer::note(words), self.bindings_message()]
            }
            Err(why) => vec![Answer::problem(why)],
        }
    }

    fn save_bindings_to(&self, source: &Source) -> Result<std::path::PathBuf, String> {
        let failed = |error: std::io::Error| format!("{}: {error}", source.path.display());
        if open::modified(&source.path) != source.seen {
            return Err(format!(
                "{} was changed by another program: save under another name",
                source.shown()
            ));
        }
        let text = std::fs::read_to_string(&source.path).map_err(failed)?;
        let edited = edit_bindings(&text, self.own_bindings()).map_err(|problem| problem.to_string())?;
        write_whole(&source.path, &edited).map_err(failed)?;
        Ok(source.path.clone())
    }

    /// Reads a binding file again that another program changed.
    pub(super) fn look_at_bindings(&mut self) -> Vec<Answer> {
        let Some(source) = &mut self.bindings_source else { return Vec::new() };
        if !source.has_changed() {
            return Vec::new();
        }
        let path = source.path.clone();
        match open::bindings(Some(&path)) {
            Ok(bindings) if bindings == self.bindings => Vec::new(),
            Ok(bindings) => {
                self.bindings = bindings.clone();
                self.rebind(bindings);
                vec![Answer::note("the binding file has changed and was read again"), self.bindings_message()]
            }
            Err(why) => vec![Answer::problem(format!("{why} (the last valid bindings stay)"))],
        }
    }
}
