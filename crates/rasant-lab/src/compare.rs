//! Runs of the same inputs with several tunings, and where they diverge.

use serde::Serialize;

use crate::played::Run;
use crate::run::run;
use crate::trace::{EventRow, Row, Trace};
use crate::trial::{Inputs, Trial};
use rasant_files::TuningFile;

/// The inputs of the runs after the first.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SameInputs {
    /// Tick by tick those of the first run.
    Tape,
    /// Those of the trial's script, by the circumstances of each run.
    Script,
}

/// Runs a trial once for each tuning.
#[must_use]
pub fn compare(trial: &Trial, tunings: &[TuningFile], inputs: SameInputs) -> Vec<(Trial, Run)> {
    let mut all: Vec<(Trial, Run)> = Vec::with_capacity(tunings.len());
    for tuning in tunings {
        let mut own = trial.with_tuning(tuning.clone());
        if let (SameInputs::Tape, Some((_, first))) = (inputs, all.first()) {
            own.inputs = Inputs::Tape(first.tape.clone());
        }
        let done = run(&own);
        all.push((own, done));
    }
    all
}

/// Where two runs diverge.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Parting {
    /// The first tick after which the bodies are more than a millimetre apart.
    pub first: Option<Place>,
    /// The first event that differs in kind or time, without footfalls.
    pub event: Option<Events>,
    /// The distance between their ends, in metres.
    pub end_m: f32,
    /// The largest distance between them, in metres.
    pub most_m: f32,
}

/// A tick at which runs diverge.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Place {
    /// The number of the tick.
    pub tick: usize,
    /// Its time in seconds.
    pub time_s: f64,
    /// The position of the first body.
    pub at_m: [f32; 3],
    /// The speeds of both along the ground or, in the air, perpendicular to up, in m/s.
    pub speeds_m_per_s: [f32; 2],
    /// The speeds of both along up, in m/s.
    pub rises_m_per_s: [f32; 2],
    /// The modes of both.
    pub modes: [String; 2],
}

/// The first differing events of two runs. `None` for a run without further events.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Events {
    /// In the first run.
    pub first: Option<Moment>,
    /// In the second.
    pub second: Option<Moment>,
}

/// An event and its time.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Moment {
    /// Seconds from the start.
    pub time_s: f64,
    /// The name and detail of the event.
    pub what: String,
}

/// The distance in metres above which runs have diverged.
const APART: f32 = 1e-3;

/// Finds where two runs of the same length and rate diverge.
#[must_use]
pub fn parting(first: &Run, second: &Run) -> Parting {
    let pairs = || first.trace.rows.iter().zip(&second.trace.rows);
    let apart = |(a, b): (&Row, &Row)| distance(a.position, b.position);
    let place = pairs().find(|pair| apart(*pair) > APART).map(|(a, b)| Place {
        tick: a.tick,
        time_s: a.time,
        at_m: a.position,
        speeds_m_per_s: [a.speed, b.speed],
        rises_m_per_s: [a.rise, b.rise],
        modes: [a.mode, b.mode].map(|mode| mode.to_string()),
    });
    Parting {
        first: place,
        event: first_other_event(&first.trace, &second.trace),
        end_m: pairs().next_back().map_or(0.0, apart),
        most_m: pairs().map(apart).fold(0.0, f32::max),
    }
}

/// The distance between two points.
pub(crate) fn distance(a: [f32; 3], b: [f32; 3]) -> f32 {
    (0..3).map(|axis| (a[axis] - b[axis]).powi(2)).sum::<f32>().sqrt()
}

/// The events that characterise a run: all but footfalls.
pub(crate) fn telling(trace: &Trace) -> impl Iterator<Item = (&Row, &EventRow)> {
    trace.events().filter(|(_, event)| event.name != "footfall")
}

/// The name and detail of an event.
pub(crate) fn what(event: &EventRow) -> String {
    match &event.detail {
        Some(detail) => format!("{} {detail}", event.name),
        None => event.name.to_owned(),
    }
}

fn first_other_event(first: &Trace, second: &Trace) -> Option<Events> {
    let (mut ours, mut theirs) = (telling(first), telling(second));
    loop {
        let (one, other) = (ours.next(), theirs.next());
        let same = match (&one, &other) {
            (None, None) => return None,
            (Some((a, one)), Some((b, other))) => a.tick == b.tick && what(one) == what(other),
            _ => false,
        };
        if !same {
            let moment = |it: Option<(&Row, &EventRow)>| {
                it.map(|(row, event)| Moment { time_s: row.time, what: what(event) })
            };
            return Some(Events { first: moment(one), second: moment(other) });
        }
    }
}
