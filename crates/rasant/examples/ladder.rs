//! Up a ladder, down again, and a jump off it.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Effect, Hull, Intent, Level, Mode, Piece, Tuning, Zone};
use sketch::Sketch;

/// Returns the modes of the body, and where each began.
pub fn run(sketch: &mut Sketch) -> Result<Vec<(Mode, Vec2)>, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    let ladder = Effect::Ladder { front: Vec2::ZERO };
    builder.add_zone(Zone::new(Vec2::new(-0.3, 0.0), Vec2::new(0.3, 4.2), ladder));
    let level = builder.build()?;
    sketch.level(&level);
    let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    body.find_footing(&level);
    let mut modes = vec![(body.state().mode, body.position())];
    for tick in 0..240 {
        let intent = match tick {
            0..90 => Intent::steering(0.0, 1.0),
            90..120 => Intent::steering(0.0, -1.0),
            // Off to the side, with a jump.
            120 => Intent::steering(1.0, 0.0).pressing(Actions::JUMP),
            _ => Intent::steering(1.0, 0.0).holding(Actions::JUMP),
        };
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
        if modes.last().is_none_or(|(mode, _)| *mode != body.state().mode) {
            modes.push((body.state().mode, body.position()));
        }
    }
    Ok(modes)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    for (mode, at) in run(&mut sketch)? {
        println!("{mode} from {at:.2}");
    }
    sketch.write()
}
