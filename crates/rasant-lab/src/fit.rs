//! Figures asked for, and the knobs that give them.
//!
//! What has a closed form is solved: a figure that is a knob's own, and the way
//! of an even ramp, v·t/2. The rest is searched for with the simplex method of
//! Nelder and Mead, "A simplex method for function minimization", 1965, over the
//! knobs that are left; each is searched on a scale of factors about where it
//! stands, or of steps where it stands at 0.

use crate::base_tuning;
use bobyqa::{Bobyqa, Config};
use rasant::Tuning;
use rasant::tuning::{Knob, KnobError, Unit};
use serde::Serialize;
use thiserror::Error as ThisError;

use crate::files::TuningFile;
use crate::sheet::{SLACK, Sheet, figure_kind, nearest_figure, sheet_of};

/// A figure of the sheet, and what it should be.
#[derive(Clone, Debug, PartialEq)]
pub struct Target {
    /// The figure's name.
    pub figure: &'static str,
    /// What it should be, in its unit.
    pub wanted: f64,
}

/// Why a fit cannot begin.
#[derive(Clone, Debug, PartialEq, ThisError)]
pub enum FitError {
    /// There is no figure of that name.
    #[error("there is no figure `{0}`{near}", near = suggestion(*.1))]
    Figure(String, Option<&'static str>),
    /// A target is not a number.
    #[error("found `{0}`, expected FIGURE=NUMBER, as in jump-height=3.2")]
    Target(String),
    /// A knob cannot be turned.
    #[error(transparent)]
    Knob(#[from] KnobError),
    /// A knob takes whole numbers only.
    #[error("`{0}` takes whole numbers only: vary it instead")]
    Whole(String),
}

fn suggestion(near: Option<&str>) -> String {
    near.map_or(String::new(), |near| format!(", expected `{near}`?"))
}

impl Target {
    /// Reads `FIGURE=NUMBER`, perhaps with the figure's unit behind it.
    ///
    /// # Errors
    /// A [`FitError`] when there is no such figure, or no number.
    pub fn parse(text: &str) -> Result<Self, FitError> {
        let bad = || FitError::Target(text.to_owned());
        let (name, number) = text.split_once('=').ok_or_else(bad)?;
        let kind = figure_kind(name.trim())
            .ok_or_else(|| FitError::Figure(name.trim().to_owned(), nearest_figure(name.trim())))?;
        let number = number.trim().trim_end_matches(kind.unit).trim_end();
        let wanted: f64 = number.parse().map_err(|_| bad())?;
        if wanted.is_finite() { Ok(Self { figure: kind.name, wanted }) } else { Err(bad()) }
    }
}

/// What a fit came to.
#[derive(Clone, Debug, PartialEq)]
pub struct Fit {
    /// The tuning found.
    pub file: TuningFile,
    /// What was asked for, and reached.
    pub reached: Vec<Reached>,
    /// The knobs that were free: path, before, after.
    pub turned: Vec<Turned>,
}

/// A target, and what became of it.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Reached {
    /// The figure.
    pub figure: &'static str,
    /// Its unit.
    pub unit: &'static str,
    /// What was wanted.
    pub wanted: f64,
    /// What was measured; nothing if the tuning does not have the figure.
    pub measured: Option<f64>,
    /// How it ended.
    pub ending: Ending,
}

/// How a target ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Ending {
    /// Reached, to within [`SLACK`].
    Reached,
    /// These knobs reach it alone, but not together with the others.
    NotTogether,
    /// These knobs do not reach it.
    OutOfReach,
}

/// A knob that was free.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Turned {
    /// Its path.
    pub knob: &'static str,
    /// Its unit.
    pub unit: &'static str,
    /// Its value before.
    pub before: f32,
    /// Its value now.
    pub after: f32,
    /// Whether a closed form gave it.
    pub solved: bool,
}

/// Figures that are a knob's own.
const OWN: &[(&str, &str)] = &[
    ("walk-speed", "walk.speed"),
    ("run-speed", "run.speed"),
    ("crouch-speed", "crouch.speed"),
    ("walk-reach-time", "walk.reach_time"),
    ("walk-stop-time", "walk.stop_time"),
    ("walk-turn-time", "walk.turn_time"),
    ("slope-climbed", "slope.max_angle_deg"),
    ("jump-height", "jump.height"),
    ("jump-rise-time", "jump.rise_time"),
    ("air-jump-1-height", "jump.air_height"),
    ("terminal-speed", "fall.terminal_speed"),
    ("wall-slide-speed", "wall.slide_speed"),
    ("wall-jump-height", "wall.jump_height"),
    ("ladder-up-speed", "ladder.up_speed"),
    ("ladder-down-speed", "ladder.down_speed"),
    ("ladder-slide-speed", "ladder.slide_speed"),
    ("dash-distance", "dash.distance"),
    ("dash-time", "dash.active"),
    ("dash-cooldown", "dash.cooldown"),
    ("roll-distance", "roll.distance"),
    ("roll-time", "roll.active"),
    ("hop-length", "hop.length"),
    ("hop-time", "hop.time"),
    ("turn-rate", "turn.rate_deg"),
];

/// Ways of even ramps, and the times that give them.
const RAMPS: &[(&str, &str)] = &[
    ("walk-reach-distance", "walk.reach_time"),
    ("walk-stop-distance", "walk.stop_time"),
    ("walk-turn-distance", "walk.turn_time"),
];

/// Ticks a second of the search: a quarter of the sheet's own, which the result
/// is measured with.
const RATE: u32 = 240;
/// Times the search begins anew from the best place.
const ROUNDS: [f64; 4] = [0.4, 0.8, 0.15, 1.5];
/// Steps of a round at most.
const STEPS: usize = 240;

/// Turns the knobs at `free` so that the figures of a tuning are what is wanted.
///
/// # Errors
/// A [`FitError`] when a knob is not there, or takes whole numbers only.
pub fn fit(file: &TuningFile, dimensions: usize, targets: &[Target], free: &[&str]) -> Result<Fit, FitError> {
    let known = base_tuning();
    let knobs = free.iter().map(|path| known.knob(path)).collect::<Result<Vec<_>, _>>()?;
    if let Some(whole) = knobs.iter().find(|knob| matches!(knob.unit, Unit::Count | Unit::Switch)) {
        return Err(FitError::Whole(whole.path.to_owned()));
    }
    let (mut found, solved) = solve_and_search(file, dimensions, targets, &knobs);
    found.title = file.title.clone();
    let sheet = measured(&found, dimensions, targets, crate::sheet::RATE);
    let reached = targets.iter().map(|target| Reached {
        figure: target.figure,
        unit: figure_kind(target.figure).map_or("", |kind| kind.unit),
        wanted: target.wanted,
        measured: sheet.get(target.figure),
        ending: if is_met(&sheet, target) {
            Ending::Reached
        } else if targets.len() > 1 && can_alone(file, dimensions, target, &knobs) {
            Ending::NotTogether
        } else {
            Ending::OutOfReach
        },
    });
    let reached = reached.collect();
    let turned = knobs.iter().map(|knob| Turned {
        knob: knob.path,
        unit: knob.unit.sign(),
        before: value(&file.tuning, knob),
        after: value(&found.tuning, knob),
        solved: solved.contains(&knob.path),
    });
    Ok(Fit { reached, turned: turned.collect(), file: found })
}

fn value(tuning: &Tuning, knob: &Knob) -> f32 {
    tuning.get(knob.path).unwrap_or(knob.default)
}

/// The tuning found, and the knobs that closed forms gave.
fn solve_and_search(
    file: &TuningFile,
    dimensions: usize,
    targets: &[Target],
    knobs: &[&'static Knob],
) -> (TuningFile, Vec<&'static str>) {
    let mut found = file.clone();
    let mut solved: Vec<&'static str> = Vec::new();
    let mut settle = |found: &mut TuningFile, knob: &'static Knob, value: f64| {
        if solved.contains(&knob.path) || found.tuning.set(knob.path, value as f32).is_err() {
            return;
        }
        solved.push(knob.path);
    };
    let free = |path: &str| knobs.iter().find(|knob| knob.path == path).copied();
    for Target { figure, wanted } in targets {
        if let Some(knob) = OWN.iter().find(|own| own.0 == *figure).and_then(|own| free(own.1)) {
            settle(&mut found, knob, *wanted);
        }
    }
    // The way of a ramp is v·t/2, once the speed is settled.
    let speed_is_settled = free("walk.speed").is_none() || targets.iter().any(|it| it.figure == "walk-speed");
    for Target { figure, wanted } in targets.iter().filter(|_| speed_is_settled) {
        if let Some(knob) = RAMPS.iter().find(|ramp| ramp.0 == *figure).and_then(|ramp| free(ramp.1)) {
            let speed = f64::from(found.tuning.walk.speed.abs());
            settle(&mut found, knob, 2.0 * wanted / speed);
        }
    }
    let sheet = measured(&found, dimensions, targets, RATE);
    if targets.iter().all(|target| is_met(&sheet, target)) {
        return (found, solved);
    }
    let left: Vec<&'static Knob> =
        knobs.iter().filter(|knob| !solved.contains(&knob.path)).copied().collect();
    if left.is_empty() {
        return (found, solved);
    }
    (search(found, dimensions, targets, &left), solved)
}

/// Whether the knobs reach a target that nothing else is asked beside.
fn can_alone(file: &TuningFile, dimensions: usize, target: &Target, knobs: &[&'static Knob]) -> bool {
    let alone = std::slice::from_ref(target);
    let (found, _) = solve_and_search(file, dimensions, alone, knobs);
    is_met(&measured(&found, dimensions, alone, crate::sheet::RATE), target)
}

fn measured(file: &TuningFile, dimensions: usize, targets: &[Target], rate: u32) -> Sheet {
    sheet_of(file, dimensions, rate, &|kind| targets.iter().any(|target| target.figure == kind.name))
}

fn is_met(sheet: &Sheet, target: &Target) -> bool {
    sheet.get(target.figure).is_some_and(|measured| off(measured, target) <= SLACK)
}

/// How far a figure is off, as a share of what is wanted.
fn off(measured: f64, target: &Target) -> f64 {
    (measured - target.wanted).abs() / target.wanted.abs().max(0.01)
}

/// The search for knobs that bring the figures nearest to what is wanted.
struct Search<'a> {
    start: &'a TuningFile,
    dimensions: usize,
    targets: &'a [Target],
    knobs: &'a [&'static Knob],
}

impl Search<'_> {
    /// The tuning at a point: a number for each knob, 0 being where it stands.
    fn tuning_at(&self, point: &[f64]) -> TuningFile {
        let mut file = self.start.clone();
        for (knob, by) in self.knobs.iter().zip(point) {
            let stands = f64::from(value(&self.start.tuning, knob));
            let turned = if stands == 0.0 { step(knob) * by } else { stands * by.clamp(-20.0, 20.0).exp() };
            let turned = (turned as f32).clamp(knob.min, knob.max);
            // It is within the range now.
            let _ = file.tuning.set(knob.path, turned);
        }
        file
    }
}

/// What one unit of the search is to a knob that stands at 0.
fn step(knob: &Knob) -> f64 {
    match knob.unit {
        Unit::MetresPerSecond => 4.0,
        Unit::MetresPerSecondSquared => 20.0,
        Unit::Seconds => 0.2,
        Unit::Degrees => 20.0,
        Unit::DegreesPerSecond => 360.0,
        _ => 1.0,
    }
}

impl Search<'_> {
    fn cost(&self, point: &[f64]) -> f64 {
        /// What a figure that is missing costs.
        const MISSING: f64 = 100.0;
        let sheet = measured(&self.tuning_at(point), self.dimensions, self.targets, RATE);
        let costs = self.targets.iter().map(|target| match sheet.get(target.figure) {
            Some(measured) => off(measured, target).powi(2),
            None => MISSING,
        });
        // Of two ways that reach it, the one that turns the knobs less.
        let turned: f64 = point.iter().map(|by| by * by).sum();
        costs.sum::<f64>() + 1e-9 * turned
    }

    /// How far a knob may be turned, down and up.
    fn bounds(&self, knob: &Knob) -> (f64, f64) {
        /// Factors of e that a knob is turned by at most.
        const FURTHEST: f64 = 20.0;
        let stands = f64::from(value(&self.start.tuning, knob));
        let [least, most] = [knob.min, knob.max].map(f64::from);
        if stands == 0.0 {
            return (least / step(knob), most / step(knob));
        }
        let factor = |end: f64| if end / stands > 0.0 { (end / stands).ln() } else { -FURTHEST };
        let ends = [factor(least), factor(most)].map(|end| end.clamp(-FURTHEST, FURTHEST));
        (ends[0].min(ends[1]), ends[0].max(ends[1]))
    }
}

/// Searches for the knobs within their ranges, by M. J. D. Powell's "The BOBYQA
/// algorithm for bound constrained optimization without derivatives", 2009.
fn search(start: TuningFile, dimensions: usize, targets: &[Target], knobs: &[&'static Knob]) -> TuningFile {
    let search = Search { start: &start, dimensions, targets, knobs };
    let (lower, upper): (Vec<f64>, Vec<f64>) = knobs.iter().map(|knob| search.bounds(knob)).unzip();
    let narrowest = lower.iter().zip(&upper).map(|(low, high)| high - low).fold(f64::INFINITY, f64::min);
    let reached = (0.2 * SLACK).powi(2);
    let mut best = vec![0.0; knobs.len()];
    let mut least = search.cost(&best);
    for size in ROUNDS {
        let size = size.min(0.45 * narrowest);
        let mut config = Config::new(knobs.len());
        config.rho_begin = size;
        config.rho_end = size * 1e-7;
        config.max_fun = STEPS;
        config.f_target = reached;
        let Ok(mut solver) = Bobyqa::new(knobs.len(), config) else { break };
        let mut point = best.clone();
        let found = solver.minimize(|point| search.cost(point), &mut point, &lower, &upper);
        if found.f < least {
            (best, least) = (point, found.f);
        }
        if least <= reached {
            break;
        }
    }
    search.tuning_at(&best)
}
