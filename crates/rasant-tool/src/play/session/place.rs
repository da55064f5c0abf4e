//! The place, changed during play.

use std::path::PathBuf;

use rasant::Vector;
use rasant_lab::World;
use rasant_lab::files::{Change, LevelDraft};
use rasant_lab::sheet::reach;

use super::files::write_whole;
use super::open::{Geometry, Source, modified};
use super::{Live, Session, Step, picture, with};
use crate::play::messages::{Answer, Measurement, Pieces};

impl Session {
    /// Changes the place, with an undo step.
    pub(super) fn change_place(&mut self, change: &Change) -> Vec<Answer> {
        if let Some(answers) = self.edit_pieces(change) {
            return answers;
        }
        match self.draft.changed(change) {
            Ok((draft, world)) => {
                self.add_step(Step::Place(self.draft.clone()));
                self.drag = None;
                self.put_place(draft, world)
            }
            // The page's own copy of the place is reset.
            Err(why) => {
                vec![Answer::problem(format!("{why} (the place is unchanged)")), self.place_message(true)]
            }
        }
    }

    /// Changes pieces without reading the whole file again, and without sending all of it. `None` if
    /// the change is of another kind.
    fn edit_pieces(&mut self, change: &Change) -> Option<Vec<Answer>> {
        let now = match &self.live {
            Live::Plane(attempt) => World::Plane(attempt.place().clone()),
            Live::Space(attempt) => World::Space(attempt.place().clone()),
        };
        let (draft, world, edits) = self.draft.edited(change, &now)?;
        let edits = match &world {
            World::Plane(file) => picture::edits(file, &draft, &edits)?,
            World::Space(file) => picture::edits(file, &draft, &edits)?,
        };
        match (&mut self.live, world) {
            (Live::Plane(attempt), World::Plane(file)) => attempt.reshape(file),
            (Live::Space(attempt), World::Space(file)) => attempt.reshape(file),
            _ => return None,
        }
        let before = std::mem::replace(&mut self.draft, draft);
        self.add_step(Step::Place(before));
        self.drag = None;
        self.stale |= self.replays;
        let changed = self.draft != self.written;
        Some(vec![Answer::Pieces(Pieces { edits, changed }), self.numbers_message(), self.frame_message(&[])])
    }

    pub(super) fn put_place(&mut self, draft: LevelDraft, world: World) -> Vec<Answer> {
        match (&mut self.live, world) {
            (Live::Plane(attempt), World::Plane(file)) => attempt.reshape(file),
            (Live::Space(attempt), World::Space(file)) => attempt.reshape(file),
            _ => return vec![Answer::problem("the dimension of a place cannot change")],
        }
        self.draft = draft;
        self.stale |= self.replays;
        vec![self.place_message(true), self.numbers_message(), self.frame_message(&[])]
    }

    /// Measures between two points, and how far a jump goes from one toward the other.
    pub(super) fn measure(&self, from: &[f64], to: &[f64]) -> Answer {
        let dimensions = self.dimensions();
        let is_point = |point: &[f64]| point.len() == dimensions && point.iter().all(|part| part.is_finite());
        if !is_point(from) || !is_point(to) {
            return Answer::problem(format!("expected two points of {dimensions} finite numbers"));
        }
        let by: Vec<f64> = to.iter().zip(from).map(|(to, from)| to - from).collect();
        let (axis, scale) = with!(&self.live, attempt => {
            let file = attempt.place();
            (Vector::to_array(file.up()).map(f64::from), f64::from(file.scale()))
        });
        let up: f64 = by.iter().zip(axis).map(|(part, axis)| part * axis).sum();
        let across = by.iter().zip(axis).map(|(part, axis)| (part - up * axis).powi(2)).sum::<f64>().sqrt();
        let rate = with!(&self.live, attempt => attempt.rate());
        // Further away, no jump is simulated.
        let near = across.hypot(up) < 200.0 * scale;
        let reach = near.then(|| reach(self.numbers(), dimensions, rate, up)).flatten();
        Answer::Measurement(Measurement {
            from: from.to_vec(),
            to: to.to_vec(),
            across,
            up,
            length: across.hypot(up),
            reach,
        })
    }

    /// Writes the place to its own file, or to a new one with this name.
    pub(super) fn save_place(&mut self, name: Option<&str>) -> Result<PathBuf, String> {
        let path = match (name, &self.level) {
            (Some(name), _) => {
                let path = self.new_file(name, "level.toml")?;
                self.write_level(&path)?;
                let (draft, _) = LevelDraft::read(&self.setting.library.on_disk(), &path)
                    .map_err(|problem| problem.to_string())?;
                self.level = Some(Source::now(path.clone()));
                self.geometry = Geometry::of(&draft, &path);
                (self.written, self.draft) = (draft.clone(), draft);
                return Ok(path);
            }
            (None, Some(level)) if modified(&level.path) != level.seen => {
                return Err(format!(
                    "{} was changed by another program: save under another name",
                    level.path.display()
                ));
            }
            (None, Some(level)) => level.path.clone(),
            (None, None) => return Err("the level has no file yet: expected a name".to_owned()),
        };
        write_whole(&path, self.draft.text()).map_err(|error| format!("{}: {error}", path.display()))?;
        self.level = Some(Source::now(path.clone()));
        self.written = self.draft.clone();
        Ok(path)
    }
}
