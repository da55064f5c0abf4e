//! Third person on a triangle mesh: the stick is relative to the camera, and the body turns
//! smoothly to its direction, up a hill of triangles.

mod sketch;

use rasant::glam::Vec3;
use rasant::{Controller, Hull, Intent, Layers, Level, Look, Steering, SurfaceId, Tuning};
use sketch::Sketch;

/// Returns the final position, and the angle between the facing and the displacement, in degrees.
pub fn run(sketch: &mut Sketch) -> Result<(Vec3, f32), Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    // A hill of 40 x 40 squares of a metre, two triangles each.
    let height = |x: f32, z: f32| 1.5 * (0.35 * x).sin() * (0.25 * z).cos();
    let (mut vertices, mut triangles) = (Vec::new(), Vec::new());
    for row in 0..=40u32 {
        for column in 0..=40u32 {
            let (x, z) = (column as f32 - 20.0, row as f32 - 20.0);
            vertices.push(Vec3::new(x, height(x, z), z));
            if row < 40 && column < 40 {
                let corner = row * 41 + column;
                triangles.push([corner, corner + 41, corner + 1]);
                triangles.push([corner + 1, corner + 41, corner + 42]);
            }
        }
    }
    let mut builder = Level::builder();
    builder.add_mesh(&vertices, &triangles, SurfaceId::default(), Layers::GROUND)?;
    let level = builder.build()?;
    sketch.level(&level);

    let mut tuning = Tuning { steering: Steering::View, ..Tuning::default() };
    tuning.turn.half_life = 0.08;
    let start = Vec3::new(0.0, height(0.0, 0.0) + 0.5, 0.0);
    let mut body = Controller::new(tuning, Hull::capsule(0.3, 1.8)?, start);
    // The camera looks a quarter turn to the left: forward is −x.
    let look = Look { yaw: std::f32::consts::FRAC_PI_2, pitch: 0.0 };
    for _ in 0..180 {
        body.tick(&Intent { look, ..Intent::steering(0.0, 1.0) }, &level, DT);
        sketch.see(body.position());
    }
    let along = body.velocity().with_y(0.0);
    let off = body.state().facing.angle_between(along).to_degrees();
    Ok((body.position(), off))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let (at, off) = run(&mut sketch)?;
    println!("walked to {at:.2}, facing within {off:.2}° of its direction");
    sketch.write()
}
