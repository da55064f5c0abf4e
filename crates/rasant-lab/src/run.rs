//! Runs a trial.

use rasant::{Geometry, Intent};

use crate::cast::{Cast, Mover, in_the_level};
use crate::expect::Figure;
use crate::played::{Run, summary};
use crate::script::Played;
use crate::trace::{Row, Trace};
use crate::trial::{Inputs, PLAYER, Trial};
use rasant_files::{LevelFile, World};

/// Simulates a trial.
#[must_use]
pub fn run(trial: &Trial) -> Run {
    run_at(trial, trial.rate, 1)
}

/// Simulates a trial at another rate, in ticks per second, with inputs that change only every
/// `ticks_an_input` ticks. A recording is played as if it were of this rate.
#[must_use]
pub fn run_at(trial: &Trial, rate: u32, ticks_an_input: usize) -> Run {
    match &trial.world {
        World::Plane(file) => play(trial, file, rate, ticks_an_input),
        World::Space(file) => play(trial, file, rate, ticks_an_input),
    }
}

/// The run of a body so far.
struct Part {
    mover: Mover,
    rows: Vec<Row>,
    intents: Vec<Intent>,
    /// Whether the depth inside pieces is measured, and the largest so far.
    deepest: Option<f32>,
}

fn play<V: Geometry>(trial: &Trial, file: &LevelFile<V>, rate: u32, ticks_an_input: usize) -> Run {
    let mut now = file.clone();
    let mut cast = Cast::<V>::of(trial);
    cast.find_footing(&now.level);
    let ticks = (f64::from(trial.duration) * f64::from(rate)).round().max(1.0) as usize;
    let dt = 1.0 / rate as f32;
    let inputs: Vec<&Inputs> =
        [&trial.inputs].into_iter().chain(trial.others.iter().map(|other| &other.inputs)).collect();
    let mut parts: Vec<Part> = (0..cast.len())
        .map(|number| {
            let measures_depth = trial.expectations.iter().any(|one| {
                let of = one.body.as_deref().unwrap_or(PLAYER);
                one.figure == Figure::Penetration && *of == **cast.name(number)
            });
            let mut rows = Vec::with_capacity(ticks + 1);
            let at = cast.body(number).position().to_array();
            rows.push(cast.row(number, (0, rate), &Intent::default(), at, file));
            Part {
                mover: Mover::of(inputs[number], rate, ticks_an_input),
                rows,
                intents: Vec::with_capacity(ticks),
                deepest: measures_depth.then_some(0.0),
            }
        })
        .collect();
    for tick in 0..ticks {
        // All decide by what they saw before any of them moves.
        let played: Vec<Played> = parts
            .iter_mut()
            .enumerate()
            .map(|(number, part)| part.mover.tick(&part.rows[tick], |target| cast.toward(number, target)))
            .collect();
        for (number, Played { host, .. }) in played.iter().enumerate() {
            for done in host {
                cast.by_the_host(number, done, &trial.tracks, dt);
                in_the_level(&mut now.level, &mut now.mechanisms, done);
            }
        }
        let intents: Vec<Intent> = played.iter().map(|played| played.intent).collect();
        cast.tick(&mut now, &intents, dt);
        for (number, part) in parts.iter_mut().enumerate() {
            let before = part.rows[tick].position;
            part.rows.push(cast.row(number, (tick + 1, rate), &intents[number], before, file));
            part.intents.push(intents[number]);
            part.deepest = part.deepest.map(|deepest| deepest.max(cast.depth(number, &now.level)));
        }
    }
    let tunings = [&trial.tuning].into_iter().chain(trial.others.iter().map(|other| &other.tuning));
    let titles = [&*trial.title].into_iter().chain(trial.others.iter().map(|other| &*other.name));
    let mut runs = parts.into_iter().zip(tunings).zip(titles).map(|((part, tuning), title)| {
        let trace = Trace { dimensions: V::DIMENSION, rate, rows: part.rows };
        let has_up = !tuning.tuning.steering.is_from_above(V::DIMENSION);
        let up = has_up.then(|| file.up().to_array());
        let (never_began, never_counted) = match &part.mover {
            Mover::Script(player) => (player.waiting().collect(), player.never_counted().collect()),
            Mover::Tape(..) => (Vec::new(), Vec::new()),
        };
        Run {
            tape: part.intents.into_iter().collect(),
            summary: summary(title, &trace, (up, file.scale())),
            trace,
            never_began,
            never_counted,
            penetration_m: part.deepest,
            others: Vec::new(),
        }
    });
    let Some(own) = runs.next() else { unreachable!("a trial has a body of its own") };
    let names = trial.others.iter().map(|other| other.name.clone());
    let others = names.zip(runs).collect();
    Run { others, ..own }
}
