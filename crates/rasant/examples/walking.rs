//! Read an axis and move: two keys at once are no faster than one, the times of speeding up and
//! stopping are those of the tuning, and the body faces its direction.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Controller, Hull, Intent, Level, Steering, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The speeds straight ahead and on a diagonal, in m/s.
    pub speeds: [f32; 2],
    /// The distance covered after letting go, in metres.
    pub stopped_in: f32,
    /// The facing at the end.
    pub faces: Vec2,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    // A view from above, over an empty plane.
    let level = Level::<Vec2>::builder().build()?;
    sketch.level(&level);
    let mut tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    tuning.walk.speed = 5.0;
    tuning.walk.stop_time = 0.2;
    let mut walked = |x: f32, y: f32| -> Result<Controller<Vec2>, Box<dyn std::error::Error>> {
        let mut body = Controller::new(tuning, Hull::ball(0.4)?, Vec2::ZERO);
        for _ in 0..60 {
            // The steer of two keys is longer than 1 on a diagonal; the tick limits it to 1.
            body.tick(&Intent::steering(x, y), &level, DT);
            sketch.see(body.position());
        }
        Ok(body)
    };
    let straight = walked(1.0, 0.0)?;
    let mut diagonal = walked(1.0, 1.0)?;
    let speeds = [straight.velocity().length(), diagonal.velocity().length()];
    let from = diagonal.position();
    for _ in 0..60 {
        diagonal.tick(&Intent::default(), &level, DT);
        sketch.see(diagonal.position());
    }
    Ok(Outcome { speeds, stopped_in: (diagonal.position() - from).length(), faces: diagonal.state().facing })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { speeds: [straight, diagonal], stopped_in, faces } = run(&mut sketch)?;
    println!(
        "{straight:.3} m/s straight, {diagonal:.3} m/s diagonal; stopped in {stopped_in:.3} m, facing {faces:.2}"
    );
    sketch.write()
}
