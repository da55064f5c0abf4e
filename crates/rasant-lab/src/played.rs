//! The result of a run.

use std::sync::Arc;

use rasant::Tape;
use rasant::state::Name;
use serde::Serialize;

use crate::trace::{Row, Trace};
use crate::trial::PLAYER;

/// A trial that has been run.
#[derive(Clone, Debug, PartialEq)]
pub struct Run {
    /// The inputs.
    pub tape: Tape,
    /// What happened.
    pub trace: Trace,
    /// The summary.
    pub summary: Summary,
    /// The lines of the script that never began.
    pub never_began: Vec<usize>,
    /// The lines that began without effect, because another steer or look had precedence.
    pub never_counted: Vec<usize>,
    /// The largest depth of the hull inside a piece, in metres. Only measured if the trial expects
    /// it.
    pub penetration_m: Option<f32>,
    /// The runs of the trial's other bodies, with their names.
    pub others: Vec<(Arc<str>, Run)>,
}

impl Run {
    /// The run of a body with a name, `player` for the trial's own.
    #[must_use]
    pub fn of(&self, name: &str) -> Option<&Self> {
        match name {
            PLAYER => Some(self),
            _ => self.others.iter().find(|(other, _)| **other == *name).map(|(_, run)| run),
        }
    }

    /// Every body with its name and its run, the trial's own first.
    pub fn bodies(&self) -> impl Iterator<Item = (&str, &Self)> {
        [(PLAYER, self)].into_iter().chain(self.others.iter().map(|(name, run)| (&**name, run)))
    }
}

/// The summary of a run.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
pub struct Summary {
    /// The title of the trial.
    pub title: String,
    /// Units of length per metre, where this is not 1. All lengths and speeds are then in these units.
    #[serde(skip_serializing_if = "is_one")]
    #[cfg_attr(feature = "json-schema", schemars(default = "one"))]
    pub scale: f32,
    /// Ticks per second.
    pub rate: u32,
    /// The number of ticks.
    pub ticks: usize,
    /// The duration, in seconds.
    pub duration_s: f64,
    /// The final position of the body, in metres.
    pub end_m: Vec<f32>,
    /// The distance along x from the start to the end, in metres.
    pub distance_m: f32,
    /// The length of the path, in metres.
    pub travelled_m: f64,
    /// The largest height of the underside above the start, in metres, including the exact tops of
    /// rises. `None` for a body seen from above, which has no up.
    pub highest_m: Option<f32>,
    /// The largest speed in any direction, in m/s.
    pub fastest_m_per_s: f32,
    /// The time in the air, in seconds.
    pub airborne_s: f64,
    /// The number of jumps.
    pub jumps: usize,
    /// The number of landings.
    pub landings: usize,
    /// The speed of the hardest landing, in m/s.
    pub hardest_landing_m_per_s: f32,
    /// The gaits that were shown, in the order of their first appearance.
    pub gaits: Vec<GaitTimes>,
}

fn is_one(scale: &f32) -> bool {
    *scale == 1.0
}

#[cfg(feature = "json-schema")]
fn one() -> f32 {
    1.0
}

/// The times for which a gait was shown in a run.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
pub struct GaitTimes {
    /// The gait.
    #[serde(serialize_with = "crate::trace::as_text")]
    #[cfg_attr(feature = "json-schema", schemars(with = "String"))]
    pub gait: Name,
    /// How often it began.
    pub times: usize,
    /// The total time, in seconds.
    pub all_s: f64,
    /// The shortest time for which it was shown, in seconds; `None` if it was only cut off by the
    /// beginning and the end of the run.
    pub shortest_s: Option<f64>,
}

/// Summarises a trace in a world with `scale` units of length per metre. `up` is that of the level,
/// `None` for a body seen from above.
pub(crate) fn summary(title: &str, trace: &Trace, (up, scale): (Option<[f32; 3]>, f32)) -> Summary {
    let rows = &trace.rows;
    let (first, last) = (&rows[0], &rows[rows.len() - 1]);
    let highest = up.map(|up| {
        let height = |of: [f32; 3]| of.iter().zip(up).map(|(part, up)| part * up).sum::<f32>();
        let start = height(first.position);
        let heights = rows.iter().map(|row| height(row.position));
        let tops = trace.events().map(|(_, event)| height(event.position));
        heights.chain(tops).fold(start, f32::max) - start
    });
    let length = |v: [f32; 3]| v.iter().map(|part| part * part).sum::<f32>().sqrt();
    let count = |name: &str| trace.events().filter(|(_, event)| event.name == name).count();
    Summary {
        title: title.to_owned(),
        scale,
        rate: trace.rate,
        ticks: rows.len() - 1,
        duration_s: trace.duration(),
        end_m: last.position[..trace.dimensions].to_vec(),
        distance_m: last.position[0] - first.position[0],
        travelled_m: rows.windows(2).map(|pair| length_between(&pair[0], &pair[1])).sum(),
        highest_m: highest,
        fastest_m_per_s: rows.iter().map(|row| length(row.velocity)).fold(0.0, f32::max),
        airborne_s: rows[1..].iter().filter(|row| row.mode == "airborne").count() as f64
            / f64::from(trace.rate),
        jumps: count("jumped"),
        landings: count("landed"),
        hardest_landing_m_per_s: trace
            .events()
            .filter(|(_, event)| event.name == "landed")
            .filter_map(|(_, event)| event.speed)
            .fold(0.0, f32::max),
        gaits: gaits(trace),
    }
}

fn length_between(a: &Row, b: &Row) -> f64 {
    let squares = a.position.iter().zip(b.position).map(|(a, b)| (f64::from(b) - f64::from(*a)).powi(2));
    squares.sum::<f64>().sqrt()
}

/// The times for which each gait was shown.
fn gaits(trace: &Trace) -> Vec<GaitTimes> {
    let rows = &trace.rows[1..];
    let mut all: Vec<GaitTimes> = Vec::new();
    let mut passed = 0;
    for shown in rows.chunk_by(|a, b| a.gait == b.gait) {
        let time = shown.len() as f64 / f64::from(trace.rate);
        let is_whole = passed > 0 && passed + shown.len() < rows.len();
        passed += shown.len();
        let gait = shown[0].gait;
        let place = all.iter().position(|it| it.gait == gait).unwrap_or_else(|| {
            all.push(GaitTimes { gait, times: 0, all_s: 0.0, shortest_s: None });
            all.len() - 1
        });
        let it = &mut all[place];
        it.times += 1;
        it.all_s += time;
        if is_whole {
            it.shortest_s = Some(it.shortest_s.map_or(time, |shortest| shortest.min(time)));
        }
    }
    all
}
