//! A jump given by its height and its rise time, which determine gravity: the same height at every
//! tick rate. A long fall ends at the terminal speed and does not pass through a thin floor.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The height of the jump in metres and its time in seconds, at 30, 60 and 240 ticks per
    /// second.
    pub tops: [(f32, f32); 3],
    /// The speed of the landing after a fall of 200 m, in m/s, and the final height.
    pub landed: (f32, f32),
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -0.01), Vec2::new(9.0, 0.0))?); // a sheet of 1 cm
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning::default();
    tuning.jump.height = 2.2;
    tuning.jump.rise_time = 0.4;
    tuning.fall.terminal_speed = 30.0;
    let hull = Hull::capsule(0.35, 1.8)?;

    let mut tops = [(0.0, 0.0); 3];
    for (top, rate) in tops.iter_mut().zip([30u16, 60, 240]) {
        let dt = 1.0 / f32::from(rate);
        let mut body = Controller::new(tuning, hull, Vec2::ZERO);
        body.find_footing(&level);
        let hold = Intent::steering(0.5, 0.0).holding(Actions::JUMP);
        body.tick(&hold.pressing(Actions::JUMP), &level, dt);
        for tick in 1..rate {
            for event in body.events() {
                if let Event::Apex { position } = event {
                    *top = (position.y, f32::from(tick) * dt);
                }
            }
            body.tick(&hold, &level, dt);
            sketch.see(body.position());
        }
    }

    let mut faller = Controller::new(tuning, hull, Vec2::new(0.0, 200.0));
    let mut speed = 0.0;
    for _ in 0..600 {
        faller.tick(&Intent::default(), &level, 1.0 / 60.0);
        for event in faller.events() {
            if let Event::Landed { speed: at, .. } = event {
                speed = *at;
            }
        }
    }
    Ok(Outcome { tops, landed: (speed, faller.position().y) })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { tops, landed: (speed, at) } = run(&mut sketch)?;
    println!("rose to (m, s): {tops:.3?}; fell 200 m, landed at {speed:.1} m/s, rests at {at:.3} m");
    sketch.write()
}
