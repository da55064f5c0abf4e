//! A body with a hull falls onto a floor. It lands once, stands without sinking, hovering or
//! creeping, and starts to fall with speed 0 at an edge.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Controller, Event, Hull, Intent, Level, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The speeds of the landings, in m/s.
    pub landings: Vec<f32>,
    /// The maximum height of the feet above the floor, in metres.
    pub hovered: f32,
    /// The distance crept while standing, in metres.
    pub crept: f32,
    /// The downward speed one tick after the edge, in m/s.
    pub first_speed: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-8.0, -1.0), Vec2::new(4.0, 0.0))?);
    builder.add(Piece::block(Vec2::new(-8.0, -6.0), Vec2::new(20.0, -5.0))?);
    let level = builder.build()?;
    sketch.level(&level);

    // The position is the middle of the underside: 3 m above the floor.
    let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::new(0.0, 3.0));
    let mut outcome = Outcome { landings: Vec::new(), hovered: 0.0, crept: 0.0, first_speed: 0.0 };
    let mut landed_at = None;
    for tick in 0..900 {
        // No input for ten seconds, then to the right.
        let intent = if tick < 600 { Intent::default() } else { Intent::steering(1.0, 0.0) };
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
        for event in body.events() {
            match event {
                Event::Landed { speed, .. } => {
                    outcome.landings.push(*speed);
                    landed_at.get_or_insert(body.position());
                }
                Event::LeftGround { .. } => outcome.first_speed = -body.velocity().y,
                _ => {}
            }
        }
        if let (Some(from), true) = (landed_at, tick < 600) {
            outcome.hovered = outcome.hovered.max(body.position().y);
            outcome.crept = outcome.crept.max((body.position() - from).length());
        }
    }
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { landings, hovered, crept, first_speed } = run(&mut sketch)?;
    println!("landed at {landings:.2?} m/s; stood {hovered:.4} m over the floor and crept {crept:.4} m");
    println!("one tick off the edge it fell at {first_speed:.2} m/s");
    sketch.write()
}
