//! A slow slide down a wall, and jumps from wall to wall up a shaft.

mod sketch;

use rasant::glam::Vec2;
use rasant::moves::Jump;
use rasant::state::Name;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Mode, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The speed down the wall, in m/s.
    pub slid_at: f32,
    /// The number of jumps off walls.
    pub jumps: usize,
    /// The height reached, in metres.
    pub height: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    builder.add(Piece::block(Vec2::new(-3.0, 0.0), Vec2::new(-1.5, 12.0))?);
    builder.add(Piece::block(Vec2::new(1.5, 0.0), Vec2::new(3.0, 12.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 2.0;
    tuning.wall.jump_height = 1.6;
    let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8)?, Vec2::new(0.0, 3.0));
    let mut outcome = Outcome { slid_at: 0.0, jumps: 0, height: 0.0 };
    let mut toward = 1.0;
    for tick in 0..600 {
        let mut intent = Intent::steering(toward, 0.0).holding(Actions::JUMP);
        // Slide for half a second, then jump off each wall.
        if body.state().mode == Mode::Move(Name::new("wall-slide")) {
            outcome.slid_at = outcome.slid_at.max(-body.velocity().y);
            if tick > 30 {
                intent = intent.pressing(Actions::JUMP);
                toward = -toward;
            }
        }
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
        let off = |event: &&Event<Vec2>| matches!(event, Event::Jumped { kind: Jump::WALL });
        outcome.jumps += body.events().iter().filter(off).count();
        outcome.height = outcome.height.max(body.position().y);
    }
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { slid_at, jumps, height } = run(&mut sketch)?;
    println!("slid at {slid_at:.2} m/s; {jumps} jumps from wall to wall came {height:.2} m high");
    sketch.write()
}
