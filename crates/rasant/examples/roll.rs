//! A roll whose phases mute inputs, and root motion: the displacement of an animation, frame by
//! frame, stopped by obstacles.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Phase, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
#[derive(Default)]
pub struct Outcome {
    /// The phases of the roll, and the seconds at which they were reported.
    pub phases: Vec<(Phase, f32)>,
    /// The length of the roll while the player steered back, in metres.
    pub rolled: f32,
    /// The displacement by root motion, in the open and before a wall, in metres.
    pub led: [f32; 2],
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-30.0, -1.0), Vec2::new(30.0, 0.0))?);
    builder.add(Piece::block(Vec2::new(12.0, 0.0), Vec2::new(13.0, 3.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning::default();
    tuning.roll.action = 1.0; // by the game's own action 1
    tuning.roll.startup = 0.1;
    tuning.roll.active = 0.4;
    tuning.roll.recovery = 0.2;
    tuning.roll.distance = 3.0;
    let new = |x: f32| -> Result<Controller<Vec2>, Box<dyn std::error::Error>> {
        let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8)?, Vec2::new(x, 0.0));
        body.find_footing(&level);
        Ok(body)
    };
    let mut outcome = Outcome::default();
    let mut body = new(0.0)?;
    body.tick(&Intent::steering(1.0, 0.0), &level, DT); // faces to the right
    let from = body.position().x;
    for tick in 1..60 {
        let steered = Intent::steering(-1.0, 0.0);
        let intent = if tick == 1 { Intent::default().pressing(Actions::own(1)) } else { steered };
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
        for event in body.events() {
            if let Event::ManeuverPhase { phase, .. } = event {
                outcome.phases.push((*phase, tick as f32 * DT));
                if *phase == Phase::Recovery {
                    outcome.rolled = body.position().x - from;
                }
            }
        }
    }
    // The root of an animation of half a second, with smooth beginning and end.
    let root = |fraction: f32| 2.0 * (fraction * fraction * (3.0 - 2.0 * fraction));
    for (led, x) in outcome.led.iter_mut().zip([-20.0, 10.5]) {
        let mut body = new(x)?;
        for frame in 0..30 {
            let displacement = root((frame + 1) as f32 / 30.0) - root(frame as f32 / 30.0);
            body.root_motion(Vec2::new(displacement, 0.0));
            body.tick(&Intent::default(), &level, DT);
            sketch.see(body.position());
        }
        *led = body.position().x - x;
    }
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { phases, rolled, led: [open, wall] } = run(&mut sketch)?;
    println!("{phases:?}");
    println!("rolled {rolled:.3} m; the animation led {open:.3} m, before a wall {wall:.3} m");
    sketch.write()
}
