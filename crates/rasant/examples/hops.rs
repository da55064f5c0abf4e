//! Step by step: each press is one step of the same length and time, exactly on a grid, and a
//! blocked step is refused with its cause.

mod sketch;

use rasant::glam::Vec2;
use rasant::state::Name;
use rasant::{Controller, Event, Hull, Intent, Level, Piece, Steering, Tuning};
use sketch::Sketch;

/// The positions after each step, and the causes of refusals.
pub type Outcome = (Vec<Vec2>, Vec<Name>);

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(2.5, -3.0), Vec2::new(3.5, 0.5))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
    tuning.hop.length = 1.0;
    tuning.hop.time = 0.2;
    let mut frog = Controller::new(tuning, Hull::ball(0.3)?, Vec2::ZERO);
    let (mut stood, mut refused) = (Vec::new(), Vec::new());
    for steer in [(1.0, 0.0), (1.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 0.0)] {
        for tick in 0..18 {
            let intent = if tick == 0 { Intent::steering(steer.0, steer.1) } else { Intent::default() };
            frog.tick(&intent, &level, DT);
            sketch.see(frog.position());
            refused.extend(frog.events().iter().filter_map(|event| match event {
                Event::Refused { what } => what.cause,
                _ => None,
            }));
        }
        stood.push(frog.position());
    }
    Ok((stood, refused))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let (stood, refused) = run(&mut sketch)?;
    println!("stood at {stood:?}; refused: {refused:?}");
    sketch.write()
}
