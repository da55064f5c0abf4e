//! The place, changed while it is played.

use std::path::PathBuf;

use rasant_lab::files::{Change, LevelDraft};
use rasant_lab::sheet::reach;
use rasant_lab::{OnDisk, World};

use super::files::write_whole;
use super::open::{Geometry, Source, modified};
use super::{Live, Session, Step, with};
use crate::play::messages::{Answer, Measurement};

impl Session {
    /// Changes the place, with a step of undo.
    pub(super) fn change_place(&mut self, change: &Change) -> Vec<Answer> {
        match self.draft.changed(change) {
            Ok((draft, world)) => {
                self.add_step(Step::Place(self.draft.clone()));
                self.drag = None;
                self.put_place(draft, world)
            }
            // The page's own picture of the place goes back to what it is.
            Err(why) => {
                vec![Answer::problem(format!("{why} (the place is as it was)")), self.place_message(true)]
            }
        }
    }

    pub(super) fn put_place(&mut self, draft: LevelDraft, world: World) -> Vec<Answer> {
        match (&mut self.live, world) {
            (Live::Plane(attempt), World::Plane(file)) => attempt.reshape(file),
            (Live::Space(attempt), World::Space(file)) => attempt.reshape(file),
            _ => return vec![Answer::problem("a place cannot change the number of its dimensions")],
        }
        self.draft = draft;
        self.stale |= self.replays;
        vec![self.place_message(true), self.numbers_message(), self.frame_message(&[])]
    }

    /// Measures between two points, and how far a jump goes from the one toward the other.
    pub(super) fn measure(&self, from: &[f64], to: &[f64]) -> Answer {
        let dimensions = self.dimensions();
        let is_point = |point: &[f64]| point.len() == dimensions && point.iter().all(|part| part.is_finite());
        if !is_point(from) || !is_point(to) {
            return Answer::problem(format!("expected two points of {dimensions} finite numbers"));
        }
        let by: Vec<f64> = to.iter().zip(from).map(|(to, from)| to - from).collect();
        let across = by[0].hypot(by.get(2).copied().unwrap_or(0.0));
        let rate = with!(&self.live, attempt => attempt.rate());
        // Further than this, no jump is simulated.
        let near = across.hypot(by[1]) < 200.0;
        let reach = near.then(|| reach(self.numbers(), dimensions, rate, by[1])).flatten();
        Answer::Measurement(Measurement {
            from: from.to_vec(),
            to: to.to_vec(),
            across,
            up: by[1],
            length: across.hypot(by[1]),
            reach,
        })
    }

    /// Writes the place to its own file, or to a new one of this name.
    pub(super) fn save_place(&mut self, name: Option<&str>) -> Result<PathBuf, String> {
        let path = match (name, &self.level) {
            (Some(name), _) => {
                let path = self.new_file(name, "level.toml")?;
                self.write_level(&path)?;
                let (draft, _) = LevelDraft::read(&OnDisk, &path).map_err(|problem| problem.to_string())?;
                self.level = Some(Source::now(path.clone()));
                self.geometry = Geometry::of(&draft, &path);
                (self.written, self.draft) = (draft.clone(), draft);
                return Ok(path);
            }
            (None, Some(level)) if modified(&level.path) != level.seen => {
                return Err(format!(
                    "{} was changed by something else: save under another name",
                    level.path.display()
                ));
            }
            (None, Some(level)) => level.path.clone(),
            (None, None) => return Err("the place has no file yet: give a name".to_owned()),
        };
        write_whole(&path, self.draft.text()).map_err(|error| format!("{}: {error}", path.display()))?;
        self.level = Some(Source::now(path.clone()));
        self.written = self.draft.clone();
        Ok(path)
    }
}
