//! A view from above: eight directions with the same speed, sliding along a wall, mud with its own
//! speed and sound, and a stick that turns the body smoothly.

mod sketch;

use rasant::glam::Vec2;
use rasant::{
    Controller, Effect, Hull, Intent, Level, Piece, Steering, Surface, SurfaceId, Tuning, Vector, Zone,
};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The distance covered in each of the eight directions in a second at full speed, in metres.
    pub distances: [f32; 8],
    /// The final position of a diagonal walk into a wall.
    pub along: Vec2,
    /// The speed in the mud, and the surface underfoot there.
    pub mud: (f32, Option<SurfaceId>),
    /// Degrees turned, of ninety, in one half-life.
    pub turned: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(6.0, -9.0), Vec2::new(7.0, 3.0))?); // a wall
    let mud = builder.add_surface(Surface { pace: 0.5, ..Surface::default() });
    builder.add_zone(Zone::new(
        Vec2::new(-20.0, -20.0),
        Vec2::new(-8.0, 20.0),
        Effect::Floor { surface: mud },
    ));
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    tuning.turn.half_life = 0.1;
    let mut walk =
        |from: Vec2, steer: Vec2, ticks: usize| -> Result<Controller<Vec2>, Box<dyn std::error::Error>> {
            let mut body = Controller::new(tuning, Hull::ball(0.4)?, from);
            for _ in 0..ticks {
                body.tick(&Intent::steering(steer.x, steer.y), &level, DT);
                sketch.see(body.position());
            }
            Ok(body)
        };

    let mut distances = [0.0; 8];
    for (eighth, distance) in distances.iter_mut().enumerate() {
        let steer = Vec2::X.turned(std::f32::consts::FRAC_PI_4 * eighth as f32);
        // The steer of two keys: whole numbers, longer than 1 on diagonals.
        let keys = steer.map(|part| (part * 1.2).round());
        let [half, whole] = [walk(Vec2::ZERO, keys, 30)?, walk(Vec2::ZERO, keys, 60)?];
        *distance = 2.0 * (whole.position() - half.position()).length();
    }
    let along = walk(Vec2::new(4.0, -6.0), Vec2::ONE, 120)?.position();
    let wader = walk(Vec2::new(-12.0, 0.0), Vec2::Y, 60)?;
    let mud = (wader.velocity().length(), wader.ground_surface(&level));
    let turned = walk(Vec2::ZERO, Vec2::Y, 6)?.state().facing; // it faced to the right
    Ok(Outcome { distances, along, mud, turned: Vec2::X.angle_to(turned).to_degrees() })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { distances, along, mud, turned } = run(&mut sketch)?;
    println!("eight directions: {distances:.3?} m; along a wall to {along:.2}");
    println!("{:.2} m/s in the mud, on {:?}; turned {turned:.1}° of 90 in 0.1 s", mud.0, mud.1);
    sketch.write()
}
