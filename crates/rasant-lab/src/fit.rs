//! Figures asked for, and the knobs that give them.
//!
//! What has a closed form is tried first: a figure that is a knob's own, and the way of
//! an even ramp, v·t/2. Where all is reached so, the knobs are solved. Otherwise all of
//! them are searched for, from there and from elsewhere in their ranges, each on a scale
//! of factors about where it stands, or of steps where it stands at 0: one knob by
//! narrowing down, several by M. J. D. Powell's "The BOBYQA algorithm for bound
//! constrained optimization without derivatives", 2009. Knobs that take whole numbers are
//! tried one by one. All of it is measured at the sheet's own rate.

use bobyqa::{Bobyqa, Config};
use rasant::tuning::{Knob, Unit};
use serde::Serialize;
use thiserror::Error as ThisError;

use crate::files::{NumberError, TuningFile, number_of};
use crate::sheet::{RATE, SLACK, Sheet, figure_kind, nearest_figure, sheet_of};

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
    Number(#[from] NumberError),
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
        let number = number.trim();
        let number = number.strip_suffix(kind.unit).unwrap_or(number).trim_end();
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
    /// Where it is out of reach, the nearest to it that these knobs were found to give,
    /// nothing else being asked.
    pub nearest: Option<f64>,
}

/// How a target ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Ending {
    /// Reached, to within [`SLACK`].
    Reached,
    /// These knobs reach it alone, but were not found to do so together with the others.
    NotTogether,
    /// These knobs were not found to reach it, whatever becomes of the others.
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

/// Turns the knobs at `free` so that the figures of a tuning are what is wanted.
///
/// # Errors
/// A [`FitError`] when a knob is not there.
pub fn fit(file: &TuningFile, dimensions: usize, targets: &[Target], free: &[&str]) -> Result<Fit, FitError> {
    let knobs = free.iter().map(|path| turnable(file, path)).collect::<Result<Vec<_>, _>>()?;
    let task = Task { file, dimensions, targets, knobs: &knobs };
    let Found { file: mut found, solved } = task.best();
    found.title = file.title.clone();
    let sheet = task.measured(&found);
    let reached = targets.iter().map(|target| {
        let measured = sheet.get(target.figure);
        let unit = figure_kind(target.figure).map_or("", |kind| kind.unit);
        let (ending, nearest) = match is_met(&sheet, target) {
            true => (Ending::Reached, None),
            false => task.alone(target, measured),
        };
        Reached { figure: target.figure, unit, wanted: target.wanted, measured, ending, nearest }
    });
    let reached = reached.collect();
    let turned = knobs.iter().map(|knob| Turned {
        knob: knob.path,
        unit: knob.unit.sign(),
        before: value(file, knob),
        after: value(&found, knob),
        solved: solved.contains(&knob.path),
    });
    Ok(Fit { reached, turned: turned.collect(), file: found })
}

/// A number of the file by its path, if the file has it.
fn turnable(file: &TuningFile, path: &str) -> Result<&'static Knob, NumberError> {
    let knob = number_of(path)?;
    // A size that the hull's shape does not have says so when it is set.
    let mut tried = file.clone();
    tried.set_number(path, file.number(path).unwrap_or(knob.default))?;
    Ok(knob)
}

fn value(file: &TuningFile, knob: &Knob) -> f32 {
    file.number(knob.path).unwrap_or(knob.default)
}

/// The least and the greatest value that a knob may be turned to in `file`.
fn range(file: &TuningFile, knob: &Knob) -> [f32; 2] {
    file.range_of(knob.path).unwrap_or([knob.min, knob.max])
}

/// A tuning found, and the knobs that closed forms gave.
struct Found {
    file: TuningFile,
    solved: Vec<&'static str>,
}

/// What is to be reached, and by what.
#[derive(Clone, Copy)]
struct Task<'a> {
    file: &'a TuningFile,
    dimensions: usize,
    targets: &'a [Target],
    knobs: &'a [&'static Knob],
}

impl Task<'_> {
    fn measured(&self, file: &TuningFile) -> Sheet {
        let wanted = |name: &str| self.targets.iter().any(|target| target.figure == name);
        sheet_of(file, self.dimensions, RATE, &|kind| wanted(kind.name))
    }

    fn is_met_by(&self, file: &TuningFile) -> bool {
        let sheet = self.measured(file);
        self.targets.iter().all(|target| is_met(&sheet, target))
    }

    /// The best tuning that is found: with each set of whole numbers, the nearest first,
    /// until all is reached.
    fn best(&self) -> Found {
        let (whole, real): (Vec<_>, Vec<_>) = self.knobs.iter().partition(|knob| is_whole(knob));
        let mut best: Option<(f64, Found)> = None;
        for numbers in sets_of_whole(&whole, self.file) {
            let mut file = self.file.clone();
            for (knob, number) in whole.iter().zip(numbers) {
                // It is within its range.
                let _ = file.set_number(knob.path, number);
            }
            let task = Task { file: &file, knobs: &real, ..*self };
            let found = task.solved_or_searched();
            if self.is_met_by(&found.file) {
                return found;
            }
            let cost = self.cost_of(&found.file);
            if best.as_ref().is_none_or(|(least, _)| cost < *least) {
                best = Some((cost, found));
            }
        }
        best.map_or_else(|| Found { file: self.file.clone(), solved: Vec::new() }, |(_, found)| found)
    }

    fn solved_or_searched(&self) -> Found {
        let (file, solved) = self.solved();
        if self.knobs.is_empty() || self.is_met_by(&file) {
            return Found { file, solved };
        }
        // Those that are left, if they are enough; else a closed form is spoilt by one of
        // the others, and all are searched for.
        let left: Vec<&'static Knob> =
            self.knobs.iter().filter(|knob| !solved.contains(&knob.path)).copied().collect();
        if !solved.is_empty() && !left.is_empty() {
            let found = Task { file: &file, knobs: &left, ..*self }.found();
            if self.is_met_by(&found) {
                return Found { file: found, solved };
            }
        }
        Found { file: self.found(), solved: Vec::new() }
    }

    fn found(&self) -> TuningFile {
        match self.knobs {
            [knob] => self.narrowed_down(knob),
            _ => self.searched(&self.solved().0),
        }
    }

    /// The tuning with what closed forms give, and the knobs that they do.
    fn solved(&self) -> (TuningFile, Vec<&'static str>) {
        let mut found = self.file.clone();
        let mut solved: Vec<&'static str> = Vec::new();
        let mut settle = |found: &mut TuningFile, knob: &'static Knob, value: f64| {
            if solved.contains(&knob.path) || found.set_number(knob.path, value as f32).is_err() {
                return;
            }
            solved.push(knob.path);
        };
        let free = |path: &str| self.knobs.iter().find(|knob| knob.path == path).copied();
        for Target { figure, wanted } in self.targets {
            if let Some(knob) = OWN.iter().find(|own| own.0 == *figure).and_then(|own| free(own.1)) {
                settle(&mut found, knob, *wanted);
            }
        }
        for Target { figure, wanted } in self.targets {
            if let Some(knob) = RAMPS.iter().find(|ramp| ramp.0 == *figure).and_then(|ramp| free(ramp.1)) {
                let speed = f64::from(found.tuning.walk.speed.abs());
                settle(&mut found, knob, 2.0 * wanted / speed);
            }
        }
        (found, solved)
    }

    /// Whether the knobs reach a target that nothing else is asked beside, and how near
    /// they come to it if they do not.
    fn alone(&self, target: &Target, measured: Option<f64>) -> (Ending, Option<f64>) {
        let task = Task { targets: std::slice::from_ref(target), ..*self };
        let sheet = task.measured(&task.best().file);
        if is_met(&sheet, target) {
            return (Ending::NotTogether, None);
        }
        let all = [measured, sheet.get(target.figure)];
        let nearest = all.into_iter().flatten().min_by(|a, b| off(*a, target).total_cmp(&off(*b, target)));
        (Ending::OutOfReach, nearest)
    }

    fn cost_of(&self, file: &TuningFile) -> f64 {
        self.cost_from(&self.measured(file))
    }
}

fn is_whole(knob: &Knob) -> bool {
    matches!(knob.unit, Unit::Count | Unit::Switch)
}

/// Every set of whole numbers, one a knob, those nearest to where the knobs stand first.
fn sets_of_whole(knobs: &[&'static Knob], file: &TuningFile) -> Vec<Vec<f32>> {
    /// Sets that are tried at most.
    const MOST: usize = 256;
    let mut sets: Vec<Vec<f32>> = vec![Vec::new()];
    for knob in knobs {
        let (low, high) = (knob.min as i32, knob.max as i32);
        let longer = |set: &Vec<f32>| -> Vec<Vec<f32>> {
            (low..=high).map(|number| [&set[..], &[number as f32]].concat()).collect()
        };
        sets = sets.iter().flat_map(longer).collect();
        let away = |set: &Vec<f32>| -> f32 {
            set.iter().zip(knobs).map(|(number, knob)| (number - value(file, knob)).abs()).sum()
        };
        sets.sort_by(|a, b| away(a).total_cmp(&away(b)));
        sets.truncate(MOST);
    }
    sets
}

fn is_met(sheet: &Sheet, target: &Target) -> bool {
    sheet.get(target.figure).is_some_and(|measured| off(measured, target) <= SLACK)
}

/// How far a figure is off, as a share of what is wanted.
fn off(measured: f64, target: &Target) -> f64 {
    (measured - target.wanted).abs() / target.wanted.abs().max(0.01)
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

/// Factors of e that a knob is turned by at most.
const FURTHEST: f64 = 5.0;

impl Task<'_> {
    /// The tuning at a point: a number for each knob, 0 being where it stands in `about`.
    fn at(&self, about: &TuningFile, point: &[f64]) -> TuningFile {
        let mut file = about.clone();
        for (knob, by) in self.knobs.iter().zip(point) {
            let stands = f64::from(value(about, knob));
            // About 0 in ever wider steps.
            let turned = if stands == 0.0 { step(knob) * by * by.abs() } else { stands * by.exp() };
            let [min, max] = range(&file, knob);
            // It is within the range now.
            let _ = file.set_number(knob.path, (turned as f32).clamp(min, max));
        }
        file
    }

    /// How far a knob may be turned from where it stands in `about`, down and up.
    fn bounds(&self, about: &TuningFile, knob: &Knob) -> (f64, f64) {
        let stands = f64::from(value(about, knob));
        let [least, most] = range(about, knob).map(f64::from);
        if stands == 0.0 {
            let [least, most] = [least, most].map(|end| (end.abs() / step(knob)).sqrt().copysign(end));
            return (least.max(-FURTHEST), most.min(FURTHEST));
        }
        let factor = |end: f64| if end / stands > 0.0 { (end / stands).ln() } else { -FURTHEST };
        let ends = [factor(least), factor(most)].map(|end| end.clamp(-FURTHEST, FURTHEST));
        (ends[0].min(ends[1]), ends[0].max(ends[1]))
    }

    /// The value of one knob that comes nearest: over its range in steps, and narrowed down
    /// between two of which one gives too little and the other too much.
    fn narrowed_down(&self, knob: &'static Knob) -> TuningFile {
        /// Steps over the range.
        const STEPS: usize = 40;
        /// Halvings of a step.
        const HALVINGS: usize = 26;
        let (low, high) = self.bounds(self.file, knob);
        let at = |by: f64| self.at(self.file, &[by]);
        let mut best = self.file.clone();
        let mut least = self.cost_of(&best);
        let mut tell = |file: &TuningFile| -> Option<f64> {
            let sheet = self.measured(file);
            let cost = self.cost_from(&sheet);
            if cost < least {
                (best, least) = (file.clone(), cost);
            }
            // Of several targets the first that is not met has a say.
            let first = self.targets.iter().find(|target| !is_met(&sheet, target))?;
            sheet.get(first.figure).map(|measured| measured - first.wanted)
        };
        let by = |step: usize| low + (high - low) * step as f64 / STEPS as f64;
        // Out from where it stands: what lies far off is slow to measure.
        let stands = ((0.0 - low) / (high - low) * STEPS as f64).clamp(0.0, STEPS as f64 - 1.0) as usize;
        let mut steps: Vec<usize> = (0..STEPS).collect();
        steps.sort_by_key(|step| step.abs_diff(stands));
        let mut told = [None; STEPS + 1];
        for step in steps {
            for end in [step, step + 1] {
                told[end] = told[end].or_else(|| Some(tell(&at(by(end)))));
            }
            let (Some(Some(from)), Some(Some(to))) = (told[step], told[step + 1]) else { continue };
            if (from > 0.0) == (to > 0.0) {
                continue;
            }
            let (mut low, mut high) = (by(step), by(step + 1));
            for _ in 0..HALVINGS {
                let middle = 0.5 * (low + high);
                match tell(&at(middle)) {
                    Some(off) if (off > 0.0) == (from > 0.0) => low = middle,
                    Some(_) => high = middle,
                    None => break,
                }
            }
            if tell(&at(low)).is_none() || tell(&at(high)).is_none() {
                break;
            }
        }
        if self.is_met_by(&best) {
            return best;
        }
        // The ends of the range, further off than factors go.
        for end in range(self.file, knob) {
            let mut file = self.file.clone();
            if file.set_number(knob.path, end).is_ok() && self.cost_of(&file) < self.cost_of(&best) {
                best = file;
            }
        }
        best
    }

    fn cost_from(&self, sheet: &Sheet) -> f64 {
        /// What a figure that is missing costs.
        const MISSING: f64 = 100.0;
        let costs = self.targets.iter().map(|target| match sheet.get(target.figure) {
            Some(measured) => off(measured, target).powi(2),
            None => MISSING,
        });
        costs.sum()
    }

    /// Searches for the knobs within their ranges: from what closed forms gave, from where
    /// they stood, and from the best of many places all over their ranges.
    fn searched(&self, solved: &TuningFile) -> TuningFile {
        /// Places that are looked at.
        const PLACES: u32 = 48;
        /// Of those, the ones that are begun from.
        const BEGUN: usize = 4;
        let bounds: Vec<(f64, f64)> = self.knobs.iter().map(|knob| self.bounds(self.file, knob)).collect();
        let place = |number: u32| -> TuningFile {
            let shares = (0..).map(|axis| halton(number, axis));
            let point: Vec<f64> =
                bounds.iter().zip(shares).map(|((low, high), share)| low + (high - low) * share).collect();
            self.at(self.file, &point)
        };
        let mut best = (self.cost_of(solved), solved.clone());
        let mut search = |start: &TuningFile| {
            let found = self.search_from(start);
            if found.0 < best.0 {
                best = found;
            }
            best.0 <= REACHED
        };
        if search(solved) || search(self.file) {
            return best.1;
        }
        let mut places: Vec<(f64, TuningFile)> =
            (1..=PLACES).map(place).map(|file| (self.cost_of(&file), file)).collect();
        places.sort_by(|a, b| a.0.total_cmp(&b.0));
        for (_, start) in places.iter().take(BEGUN) {
            if search(start) {
                break;
            }
        }
        best.1
    }

    /// The best near a tuning, and its cost.
    fn search_from(&self, start: &TuningFile) -> (f64, TuningFile) {
        /// How far it looks at first, each time anew from the best place.
        const ROUNDS: [f64; 3] = [0.4, 0.1, 1.0];
        /// Steps of a round at most, a knob.
        const STEPS: usize = 60;
        let bounds: Vec<(f64, f64)> = self.knobs.iter().map(|knob| self.bounds(start, knob)).collect();
        let (lower, upper): (Vec<f64>, Vec<f64>) = bounds.into_iter().unzip();
        let narrowest = lower.iter().zip(&upper).map(|(low, high)| high - low).fold(f64::INFINITY, f64::min);
        // Of two ways that reach it, the one that turns the knobs less.
        let cost = |point: &[f64]| {
            self.cost_of(&self.at(start, point)) + 1e-9 * point.iter().map(|by| by * by).sum::<f64>()
        };
        let mut best = vec![0.0; self.knobs.len()];
        let mut least = cost(&best);
        for size in ROUNDS {
            if least <= REACHED || self.knobs.is_empty() {
                break;
            }
            let size = size.min(0.45 * narrowest);
            let mut config = Config::new(self.knobs.len());
            config.rho_begin = size;
            config.rho_end = size * 1e-7;
            config.max_fun = STEPS * (1 + self.knobs.len());
            config.f_target = REACHED;
            let Ok(mut solver) = Bobyqa::new(self.knobs.len(), config) else { break };
            let mut point = best.clone();
            let found = solver.minimize(|point| cost(point), &mut point, &lower, &upper);
            if found.f < least {
                (best, least) = (point, found.f);
            }
        }
        (least, self.at(start, &best))
    }
}

/// A cost at which every target is reached.
const REACHED: f64 = (0.2 * SLACK) * (0.2 * SLACK);

/// The number of that place of Halton's sequence on an axis, 0 to 1: J. H. Halton, "On the
/// efficiency of certain quasi-random sequences of points", 1960.
fn halton(mut number: u32, axis: usize) -> f64 {
    const PRIMES: [u32; 8] = [2, 3, 5, 7, 11, 13, 17, 19];
    let base = PRIMES[axis % PRIMES.len()];
    let (mut share, mut digit) = (0.0, 1.0 / f64::from(base));
    while number > 0 {
        share += f64::from(number % base) * digit;
        number /= base;
        digit /= f64::from(base);
    }
    share
}
