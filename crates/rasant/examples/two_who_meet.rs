//! Two players who block each other on a plank, jump on each other's head, and move a crate.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Crowd, CrowdBody, Event, Hull, HullShape, Intent, Level, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
#[derive(Debug)]
pub struct Outcome {
    /// The gap between the two while they push against each other, in metres.
    pub gap: f32,
    /// True if the second landed on the first.
    pub stood_on_the_other: bool,
    /// How far the first then pushed the crate, with the second on its head, in metres.
    pub pushed: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-12.0, -0.2), Vec2::new(12.0, 0.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning::default();
    tuning.jump.height = 2.2;
    let hull = Hull::new(HullShape::Box { width: 0.7, depth: 0.7, height: 1.4, rounding: 0.1 })?;
    let mut crowd = Crowd::new();
    let player = |x: f32| CrowdBody { strength: 200.0, ..CrowdBody::new(tuning, hull, Vec2::X * x) };
    let (first, second) = (crowd.add(player(-3.0))?, crowd.add(player(3.0))?);
    let cube = Hull::new(HullShape::Box { width: 1.0, depth: 1.0, height: 1.0, rounding: 0.0 })?;
    let load = crowd.add(CrowdBody::crate_of(40.0, cube, Vec2::X * -6.0))?;
    let mut outcome = Outcome { gap: 0.0, stood_on_the_other: false, pushed: 0.0 };
    for tick in 0..480 {
        if tick == 180 {
            // They are of equal strength and mass 70 kg, so both would push. Neither wins.
            outcome.gap = crowd.touching(first).next().map_or(f32::INFINITY, |contact| contact.gap);
        }
        crowd.tick(&level, DT, |id, _| match (id == first, id == second, tick) {
            (true, _, 0..180) => Intent::steering(1.0, 0.0),
            (_, true, 0..180) => Intent::steering(-1.0, 0.0),
            (_, true, 200) => Intent::steering(0.0, 0.0).pressing(Actions::JUMP),
            (_, true, 201..225) => Intent::steering(-0.5, 0.0).holding(Actions::JUMP),
            (_, true, 225..240) => Intent::steering(-0.5, 0.0),
            (true, _, 300..) => Intent::steering(-1.0, 0.0),
            _ => Intent::default(),
        });
        let landed =
            |event: &Event<Vec2>| matches!(event, Event::Landed { piece, .. } if piece.body() == Some(first));
        outcome.stood_on_the_other |= crowd.events(second).iter().any(landed);
        sketch.see(crowd[second].body.position());
    }
    outcome.pushed = -6.0 - crowd[load].body.position().x;
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let outcome = run(&mut sketch)?;
    println!("gap {:.3} m; stood on the other: {}", outcome.gap, outcome.stood_on_the_other);
    println!("the crate was pushed by {:.2} m", outcome.pushed);
    sketch.write()
}
