//! First person: steering follows the look, the body faces the look at once, and the eyes follow a
//! step smoothly while the feet are on it already.

mod sketch;

use rasant::glam::Vec3;
use rasant::{Controller, Face, Hull, Intent, Level, Look, Piece, Steering, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The final position.
    pub at: Vec3,
    /// The largest rise of the eyes from one picture to the next, and of the feet, in metres.
    pub steps: [f32; 2],
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec3::new(-20.0, -1.0, -20.0), Vec3::new(20.0, 0.0, 20.0))?);
    builder.add(Piece::block(Vec3::new(-20.0, 0.0, -20.0), Vec3::new(20.0, 0.25, -4.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let tuning = Tuning { steering: Steering::View, face: Face::Eyes, ..Tuning::default() };
    let mut body = Controller::new(tuning, Hull::upright_box(0.6, 1.8)?, Vec3::ZERO);
    body.find_footing(&level);
    let mut outcome = Outcome { at: Vec3::ZERO, steps: [0.0; 2] };
    // Yaw 0 looks along −z; the pitch does not slow the walk.
    let look = Look { yaw: 0.0, pitch: -0.6 };
    let (mut eyes, mut feet) = (body.pose(1.0).position.y, body.position().y);
    for _ in 0..120 {
        body.tick(&Intent { look, ..Intent::steering(0.0, 1.0) }, &level, DT);
        sketch.see(body.position());
        let now = [body.pose(1.0).position.y, body.position().y];
        outcome.steps = [outcome.steps[0].max(now[0] - eyes), outcome.steps[1].max(now[1] - feet)];
        [eyes, feet] = now;
    }
    outcome.at = body.position();
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { at, steps: [eyes, feet] } = run(&mut sketch)?;
    println!("walked to {at:.2}; the feet stepped {feet:.3} m at once, the eyes {eyes:.3} m a picture");
    sketch.write()
}
