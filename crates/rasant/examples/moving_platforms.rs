//! A lift on a path: its rider stays on it to the millimetre, jumps with its velocity, and is drawn
//! together with it between two ticks.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Carrier, Controller, Hull, Intent, Keyframe, Level, PathEnd, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The largest distance of the feet from the deck, in metres.
    pub apart: f32,
    /// The height of a jump above its take-off, on the lift at rest and while it rises, in metres.
    pub jumps: [f32; 2],
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let frame = |time: f32, y: f32| Keyframe::new(time, Vec2::new(0.0, y));
    let path = vec![frame(0.0, 0.0), frame(3.0, 6.0)];
    let mut builder = Level::builder();
    let lift = builder.add_carrier(Carrier::on_path(path, PathEnd::BackAndForth));
    builder.add(Piece::block(Vec2::new(-2.0, -0.3), Vec2::new(2.0, 0.0))?.riding(lift));
    builder.add(Piece::block(Vec2::new(4.0, -0.3), Vec2::new(9.0, 0.0))?);
    let mut outcome = Outcome { apart: 0.0, jumps: [0.0; 2] };
    let start = builder.build()?;
    sketch.level(&start);
    for (jump, x) in [(None, 0.0), (Some(0), 6.0), (Some(1), 0.0)] {
        let mut level = start.clone();
        let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::new(x, 0.0));
        body.find_footing(&level);
        let mut took_off = 0.0;
        for tick in 0..600 {
            // The level advances first, then the bodies in it.
            level.advance(DT);
            let intent = match (jump, tick) {
                (Some(_), 60) => {
                    took_off = body.position().y;
                    Intent::default().pressing(Actions::JUMP)
                }
                (Some(_), _) => Intent::default().holding(Actions::JUMP),
                _ => Intent::default(),
            };
            body.tick(&intent, &level, DT);
            sketch.see(body.position());
            match jump {
                None => {
                    // The position of the deck on its path, at the level's time.
                    let time = level.time() % 6.0;
                    let deck = 2.0 * if time < 3.0 { time } else { 6.0 - time };
                    outcome.apart = outcome.apart.max((body.position().y - deck as f32).abs());
                }
                Some(jump) if (60..110).contains(&tick) => {
                    let rise = body.position().y - took_off;
                    outcome.jumps[jump] = outcome.jumps[jump].max(rise);
                }
                Some(_) => {}
            }
        }
    }
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { apart, jumps: [still, rising] } = run(&mut sketch)?;
    println!(
        "never more than {apart:.4} m off its deck; jumps {still:.2} m high, from the lift {rising:.2} m"
    );
    sketch.write()
}
