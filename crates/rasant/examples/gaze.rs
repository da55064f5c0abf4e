//! Walk where you look: the body walks while the player looks down far enough, and stands
//! otherwise.

mod sketch;

use rasant::glam::Vec3;
use rasant::{Controller, Hull, Intent, Level, Look, Piece, Steering, Tuning};
use sketch::Sketch;

/// Returns the displacements while looking up, then down ahead, then down to the left.
pub fn run(sketch: &mut Sketch) -> Result<[Vec3; 3], Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec3::new(-20.0, -1.0, -20.0), Vec3::new(20.0, 0.0, 20.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning { steering: Steering::Gaze, ..Tuning::default() };
    tuning.turn.gaze = -25f32.to_radians();
    let mut body = Controller::new(tuning, Hull::capsule(0.3, 1.8)?, Vec3::ZERO);
    body.find_footing(&level);
    let mut walked = [Vec3::ZERO; 3];
    let looks = [(0.0, 10f32), (0.0, -30.0), (90.0f32, -30.0)];
    for (displacement, (yaw, pitch)) in walked.iter_mut().zip(looks) {
        let from = body.position();
        let look = Look { yaw: yaw.to_radians(), pitch: pitch.to_radians() };
        for _ in 0..60 {
            body.tick(&Intent { look, ..Intent::default() }, &level, DT);
            sketch.see(body.position());
        }
        *displacement = body.position() - from;
    }
    Ok(walked)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let [up, ahead, left] = run(&mut sketch)?;
    println!("looking up it walked {up:.2}, down ahead {ahead:.2}, down to the left {left:.2}");
    sketch.write()
}
