//! The same speed up, down and along; stairs without a jump; sliding down steep slopes; and no
//! creeping on walkable ones.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
use sketch::Sketch;

const DT: f32 = 1.0 / 60.0;

/// The result of the example.
pub struct Outcome {
    /// The least and the greatest speed along the ground, in m/s.
    pub speeds: (f32, f32),
    /// The number of ticks without firm ground.
    pub off_ground: usize,
    /// The distance crept in ten seconds on a slope of 40°, in metres.
    pub crept: f32,
    /// The distance slid in a second on a slope of 60°, in metres.
    pub slid: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    let point = Vec2::new;
    let mut builder = Level::builder();
    builder.add(Piece::block(point(-9.0, -1.0), point(40.0, 0.0))?);
    // Up 30° and down again, then three steps.
    builder.add(Piece::polygon(&[point(4.0, 0.0), point(10.93, 0.0), point(10.93, 4.0)])?);
    builder.add(Piece::polygon(&[point(10.93, 0.0), point(17.86, 0.0), point(10.93, 4.0)])?);
    for step in 0..3 {
        let x = 20.0 + step as f32;
        builder.add(Piece::block(point(x, 0.0), point(40.0, 0.25 * (step + 1) as f32))?);
    }
    let level = builder.build()?;
    sketch.level(&level);
    let tuning = Tuning::default();
    let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8)?, point(0.0, 0.0));
    body.find_footing(&level);
    let mut outcome = Outcome { speeds: (f32::MAX, 0.0), off_ground: 0, crept: 0.0, slid: 0.0 };
    while body.position().x < 24.0 {
        body.tick(&Intent::steering(1.0, 0.0), &level, DT);
        sketch.see(body.position());
        // After the acceleration.
        if body.position().x > 1.0 {
            let speed = body.state().ground_speed();
            outcome.speeds = (outcome.speeds.0.min(speed), outcome.speeds.1.max(speed));
            outcome.off_ground += usize::from(!body.state().footing.is_firm());
        }
    }
    for (degrees, time) in [(40.0f32, 10), (60.0, 1)] {
        let along = point(degrees.to_radians().cos(), degrees.to_radians().sin()) * 30.0;
        let mut builder = Level::builder();
        builder.add(Piece::polygon(&[Vec2::ZERO, point(along.x, 0.0), along])?);
        let slope = builder.build()?;
        let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8)?, along * 0.7 + point(0.0, 0.6));
        while body.state().footing.kind == rasant::state::FootingKind::None {
            body.tick(&Intent::default(), &slope, DT);
            sketch.see(body.position());
        }
        let from = body.position();
        for _ in 0..60 * time {
            body.tick(&Intent::default(), &slope, DT);
            sketch.see(body.position());
        }
        let distance = (body.position() - from).length();
        if time == 10 { outcome.crept = distance } else { outcome.slid = distance }
    }
    Ok(outcome)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { speeds: (least, most), off_ground, crept, slid } = run(&mut sketch)?;
    println!("up, down and over steps: {least:.3} to {most:.3} m/s, {off_ground} ticks off the ground");
    println!("on 40° it crept {crept:.5} m in 10 s; on 60° it slid {slid:.2} m in 1 s");
    sketch.write()
}
