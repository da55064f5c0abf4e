//! Data for animations and sounds: gaits with their times, and each event once.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Piece, Surface, Tuning};
use sketch::Sketch;

/// A sound with its time, or an animation with its beginning.
#[derive(Debug, PartialEq)]
pub enum Cue {
    /// The sound and its volume.
    Sound(&'static str, f32),
    /// The gait.
    Show(String),
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Vec<Cue>, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    let planks = builder.add_surface(Surface::default());
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(3.0, 0.0))?);
    builder.add(Piece::block(Vec2::new(3.0, -1.0), Vec2::new(20.0, 0.0))?.made_of(planks));
    let level = builder.build()?;
    sketch.level(&level);
    let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
    body.find_footing(&level);
    let (mut cues, mut shown) = (Vec::new(), None);
    for tick in 0..150 {
        let intent = match tick {
            0..40 => Intent::steering(1.0, 0.0),
            40 => Intent::steering(1.0, 0.0).pressing(Actions::JUMP),
            41..60 => Intent::steering(1.0, 0.0).holding(Actions::JUMP),
            _ => Intent::default(),
        };
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
        for event in body.events() {
            match event {
                // The surface underfoot gives the sound, the speed its volume.
                Event::Footfall { surface: Some(surface) } if *surface == planks => {
                    cues.push(Cue::Sound("a plank creaks", 0.3));
                }
                Event::Footfall { .. } => cues.push(Cue::Sound("a step on stone", 0.3)),
                Event::Jumped { .. } => cues.push(Cue::Sound("a breath", 0.5)),
                Event::Landed { speed, .. } if *speed > 2.0 => cues.push(Cue::Sound("a thud", speed / 10.0)),
                _ => {}
            }
        }
        // The pose contains the gait and its age, for blending.
        let gait = body.pose(1.0).gait;
        if shown != Some(gait) {
            cues.push(Cue::Show(gait.to_string()));
            shown = Some(gait);
        }
    }
    Ok(cues)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    for cue in run(&mut sketch)? {
        println!("{cue:?}");
    }
    sketch.write()
}
