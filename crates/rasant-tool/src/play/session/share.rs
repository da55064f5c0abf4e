//! Sharing an attempt: as a link, and as a page that opens without the tool.

use std::collections::BTreeMap;
use std::path::PathBuf;

use rasant::Tape;
use rasant_lab::files::shape_name;

use super::files::write_whole;
use super::{Live, Session, picture, with};
use crate::play::messages::{Answer, Exported, Link, Moment};
use crate::play::page;

/// The maximum size of the inputs in a link, in bytes: browsers and programs cut longer ones.
const LONGEST_LINK: usize = 60_000;
/// The maximum length of an exported attempt, in seconds, counted from its end.
const LONGEST_EXPORT: usize = 5 * 60;

impl Session {
    /// The content of a link to the current moment.
    pub(super) fn link(&self) -> Answer {
        let (tape, second, tick, rate) = with!(&self.live, attempt => {
            (attempt.tape(), attempt.second_tape(), attempt.tick(), attempt.rate())
        });
        let second_tape = second.map(|tape| tape.to_text(rate));
        let Some(tape) = tape.map(|tape| tape.to_text(rate)) else {
            return Answer::problem(
                "the beginning of the attempt was dropped: restart, and make the link sooner",
            );
        };
        let length = tape.len() + second_tape.as_ref().map_or(0, String::len);
        if length > LONGEST_LINK {
            return Answer::problem(format!(
                "the inputs take {} kB and a link can have {}: restart, and make the link sooner, or save a page",
                length / 1000,
                LONGEST_LINK / 1000
            ));
        }
        let own = self.numbers();
        let numbers: BTreeMap<String, f32> = own
            .numbers()
            .into_iter()
            .filter(|knob| own.is_described_by(knob.path))
            .filter_map(|knob| {
                let value = own.number(knob.path)?;
                (self.file.number(knob.path) != Some(value)).then(|| (knob.path.to_owned(), value))
            })
            .collect();
        let shape = shape_name(&own.hull);
        Answer::Link(Link {
            trial: self.name.clone(),
            tuning: self.tuning.clone(),
            shape: (shape != shape_name(&self.file.hull)).then(|| shape.to_owned()),
            numbers,
            tape: Some(tape),
            second_tape,
            tick,
        })
    }

    pub(super) fn open_link(&mut self, link: Link) -> Vec<Answer> {
        match self.try_open_link(link) {
            Ok(()) => {
                let mut answers = self.all();
                answers.push(Answer::note("opened from the link, paused at its time"));
                answers
            }
            Err(why) => vec![Answer::problem(format!("the link: {why}"))],
        }
    }

    fn try_open_link(&mut self, link: Link) -> Result<(), String> {
        let Link { trial, tuning, shape, numbers, tape, second_tape, tick } = link;
        let [tape, second] = [tape, second_tape]
            .map(|tape| tape.as_deref().map(Tape::from_text).transpose().map_err(|error| error.to_string()));
        let (tape, second) = (tape?, second?);
        self.try_open(trial, tuning.as_deref())?;
        let mut file = self.numbers().clone();
        if let Some(shape) = shape {
            file.set_shape(&shape).map_err(|error| error.to_string())?;
        }
        // Sizes of a hull limit each other: what is not allowed yet may be allowed after the
        // others.
        let mut left: Vec<(&String, f32)> = numbers.iter().map(|(path, value)| (path, *value)).collect();
        while !left.is_empty() {
            let before = left.len();
            let mut error = String::new();
            left.retain(|(path, value)| match file.set_number(path, *value) {
                Ok(()) => false,
                Err(why) => {
                    error = why.to_string();
                    true
                }
            });
            if left.len() == before {
                return Err(error);
            }
        }
        self.change(file);
        if let Some((tape, rate)) = tape {
            let own = with!(&self.live, attempt => attempt.rate());
            if rate != own {
                return Err(format!("its inputs have {rate} ticks per second, the trial {own}"));
            }
            let second = second.map(|(tape, _)| tape).unwrap_or_default();
            with!(&mut self.live, attempt => attempt.replay(&tape, &second, tick));
        }
        Ok(())
    }

    /// Writes the attempt as a page that opens without the tool.
    pub(super) fn export(&self, name: &str) -> Result<PathBuf, String> {
        let path = self.new_file(name, "html")?;
        let text = page::exported(&self.exported())?;
        write_whole(&path, &text).map_err(|error| format!("{}: {error}", path.display()))?;
        Ok(path)
    }

    fn exported(&self) -> Exported {
        let dimensions = self.dimensions();
        let mut place = with!(&self.live, attempt => picture::place(attempt.file(), &self.draft));
        place.trial.clone_from(&self.name);
        place.rate = with!(&self.live, attempt => attempt.rate());
        // There it can be neither edited nor plotted.
        (place.kinds, place.parts, place.columns) = (Vec::new(), Vec::new(), Vec::new());
        let columns: Vec<_> =
            ["y_m", "speed_m_per_s"].iter().filter_map(|name| picture::column(name, dimensions)).collect();
        let mut moments = Vec::new();
        with!(&self.live, attempt => {
            let end = attempt.len() + 1;
            let from = end.saturating_sub(LONGEST_EXPORT * attempt.rate() as usize);
            attempt.each_tick(from..end, |then, row| moments.push(Moment {
                body: picture::body(then),
                camera: picture::camera(then),
                others: picture::others(then),
                tick: picture::tick(row, &[], &columns, dimensions),
                carried: picture::carried(then.file()),
            }));
        });
        let own = self.numbers();
        Exported {
            version: env!("CARGO_PKG_VERSION"),
            title: own.title.clone(),
            steering: own.tuning.steering.in_dimension(dimensions).to_string(),
            place,
            moments,
            summary: with!(&self.live, attempt => attempt.path().summary),
            ghosts: self.ghosts.clone(),
        }
    }
}
