//! A dash of a given distance and time, with a trail, and its cooldown.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Phase, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
#[derive(Default)]
pub struct Outcome {
    /// The position in each tick of the dash: the trail.
    pub trail: Vec<Vec2>,
    /// The rest of the cooldown, in seconds, at each press that came too early.
    pub too_early: Vec<f32>,
    /// The number of dashes.
    pub dashes: usize,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(50.0, 0.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning::default();
    tuning.dash.charges = 1.0;
    tuning.dash.distance = 4.0;
    tuning.dash.active = 0.2;
    tuning.dash.cooldown = 0.5;
    let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
    body.find_footing(&level);
    let (mut outcome, mut is_dashing) = (Outcome::default(), false);
    for tick in 0..120 {
        let mut intent = Intent::steering(1.0, 0.0);
        if tick % 20 == 10 {
            intent = intent.pressing(Actions::DASH);
        }
        let before = body.position();
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
        for event in body.events() {
            match event {
                Event::ManeuverPhase { phase: Phase::Active, .. } => outcome.dashes += 1,
                Event::Refused { what } if what.is("dash", "cooldown") => {
                    outcome.too_early.extend(what.missed_by)
                }
                _ => {}
            }
        }
        // The maneuver is over in its last tick, which still counts.
        is_dashing |= body.state().maneuver.is_some();
        if outcome.dashes == 1 && is_dashing {
            outcome.trail.push(before);
            outcome.trail.push(body.position());
            outcome.trail.dedup();
        }
        is_dashing = body.state().maneuver.is_some();
    }
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { trail, too_early, dashes } = run(&mut sketch)?;
    println!("{dashes} dashes; too early, by {too_early:.2?} s; the trail of the first:");
    for at in trail {
        println!("  {at:.2}");
    }
    sketch.write()
}
