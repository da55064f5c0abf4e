//! The place, changed while it is played.

use std::path::PathBuf;

use rasant_lab::files::{Change, LevelDraft};
use rasant_lab::sheet::reach;
use rasant_lab::{OnDisk, World};
use serde_json::{Value, json};

use super::keep::write_whole;
use super::{Desk, Live, Named, Source, Step, modified, problem, with};

impl Desk {
    /// Changes the place, with a step of undo.
    pub(super) fn shape(&mut self, change: &Change) -> Vec<Value> {
        match self.draft.changed(change) {
            Ok((draft, world)) => {
                self.step(Step::Place(self.draft.clone()));
                self.drag = None;
                self.put_place(draft, world)
            }
            // The page's own picture of the place goes back to what it is.
            Err(why) => vec![problem(&format!("{why} (the place is as it was)")), self.place_told(true)],
        }
    }

    pub(super) fn put_place(&mut self, draft: LevelDraft, world: World) -> Vec<Value> {
        match (&mut self.live, world) {
            (Live::Plane(attempt), World::Plane(file)) => attempt.reshape(file),
            (Live::Space(attempt), World::Space(file)) => attempt.reshape(file),
            _ => return vec![problem("a place has as many dimensions as it had")],
        }
        self.draft = draft;
        self.stale |= self.replays;
        vec![self.place_told(true), self.numbers_told(), self.frame_told(Vec::new())]
    }

    /// What lies between two points, and whether a jump goes from one to the other.
    pub(super) fn tape(&self, from: &[f64], to: &[f64]) -> Value {
        let dimensions = self.dimensions();
        if [from, to]
            .iter()
            .any(|point| point.len() != dimensions || !point.iter().all(|part| part.is_finite()))
        {
            return problem("a tape is laid from one point to another");
        }
        let by: Vec<f64> = to.iter().zip(from).map(|(to, from)| to - from).collect();
        let across = by[0].hypot(by.get(2).copied().unwrap_or(0.0));
        let rate = with!(&self.live, attempt => attempt.rate());
        // A picture's own limits: what is further is not jumped.
        let near = across.hypot(by[1]) < 200.0;
        let reach = near.then(|| reach(self.numbers(), dimensions, rate, by[1])).flatten();
        json!({
            "tell": "tape",
            "from": from,
            "to": to,
            "across": across,
            "up": by[1],
            "length": across.hypot(by[1]),
            "reach": reach,
        })
    }

    /// Writes the place to its own file, or to a new one of this name.
    pub(super) fn save_place(&mut self, name: Option<&str>) -> Result<PathBuf, String> {
        let path = match (name, &self.level) {
            (Some(name), _) => {
                let path = self.new_file(name, "level.toml")?;
                self.write_level(&path)?;
                let (draft, _) = LevelDraft::read(&OnDisk, &path).map_err(|problem| problem.to_string())?;
                self.level = Some(Source { seen: modified(&path), path: path.clone() });
                self.named = Named::of(&draft, &path);
                (self.written, self.draft) = (draft.clone(), draft);
                return Ok(path);
            }
            (None, Some(level)) if modified(&level.path) != level.seen => {
                return Err(format!(
                    "{} was changed meanwhile by something else: save under another name",
                    level.path.display()
                ));
            }
            (None, Some(level)) => level.path.clone(),
            (None, None) => return Err("the place has no file: give a name".to_owned()),
        };
        write_whole(&path, self.draft.text()).map_err(|error| format!("{}: {error}", path.display()))?;
        self.level = Some(Source { seen: modified(&path), path: path.clone() });
        self.written = self.draft.clone();
        Ok(path)
    }
}
