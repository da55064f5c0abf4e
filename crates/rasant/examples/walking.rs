//! Reading an axis and moving: two keys at once are no faster than one, speeding up and
//! stopping take the times that the tuning says, and the body faces where it went.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Controller, Hull, Intent, Level, Steering, Tuning};
use sketch::Sketch;

/// What came of it.
pub struct Outcome {
    /// Speeds straight and aslant, in m/s.
    pub speeds: [f32; 2],
    /// How far it went on after letting go, in metres.
    pub stopped_in: f32,
    /// Where it faces once it stands.
    pub faces: Vec2,
}

/// Plays it.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    // Seen from above, over an empty plane.
    let level = Level::<Vec2>::builder().build()?;
    sketch.level(&level);
    let mut tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    tuning.walk.speed = 5.0;
    tuning.walk.stop_time = 0.2;
    let mut walked = |x: f32, y: f32| -> Result<Controller<Vec2>, Box<dyn std::error::Error>> {
        let mut body = Controller::new(tuning, Hull::ball(0.4)?, Vec2::ZERO);
        for _ in 0..60 {
            // As two keys give it, longer than 1 aslant: the tick brings it back to 1.
            body.tick(&Intent::steering(x, y), &level, DT);
            sketch.see(body.position());
        }
        Ok(body)
    };
    let straight = walked(1.0, 0.0)?;
    let mut aslant = walked(1.0, 1.0)?;
    let speeds = [straight.velocity().length(), aslant.velocity().length()];
    let from = aslant.position();
    for _ in 0..60 {
        aslant.tick(&Intent::default(), &level, DT);
        sketch.see(aslant.position());
    }
    Ok(Outcome { speeds, stopped_in: (aslant.position() - from).length(), faces: aslant.state().facing })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { speeds: [straight, aslant], stopped_in, faces } = run(&mut sketch)?;
    println!(
        "{straight:.3} m/s straight, {aslant:.3} m/s aslant; stopped in {stopped_in:.3} m, facing {faces:.2}"
    );
    sketch.write()
}
