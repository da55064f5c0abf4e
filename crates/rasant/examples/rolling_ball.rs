//! A ball on a tilted roof: it stays where it is released, rolls by the distance that it moves, and
//! slides down steep ground.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// The distance crept in five seconds without input, in metres.
    pub crept: f32,
    /// The distance steered down the roof, in metres, and the rotation meanwhile, in radians.
    pub rolled: (f32, f32),
    /// The speed down a roof of 65 degrees after a second, in m/s.
    pub slides: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    const RADIUS: f32 = 0.4;
    let roof = |degrees: f32| -> Result<Level<Vec2>, Box<dyn std::error::Error>> {
        let (sine, cosine) = degrees.to_radians().sin_cos();
        let mut builder = Level::builder();
        let (top, foot) = (Vec2::new(-20.0 * cosine, 20.0 * sine), Vec2::new(20.0 * cosine, -20.0 * sine));
        builder.add(Piece::polygon(&[foot, top, Vec2::new(top.x, foot.y)])?);
        Ok(builder.build()?)
    };
    let on = |level: &Level<Vec2>| -> Result<Controller<Vec2>, Box<dyn std::error::Error>> {
        let mut body = Controller::new(Tuning::default(), Hull::ball(RADIUS)?, Vec2::new(0.0, 0.6));
        for _ in 0..30 {
            body.tick(&Intent::default(), level, DT);
        }
        Ok(body)
    };
    let gentle = roof(25.0)?;
    let mut ball = on(&gentle)?;
    let from = ball.position();
    for _ in 0..300 {
        ball.tick(&Intent::default(), &gentle, DT);
        sketch.see(ball.position());
    }
    let crept = (ball.position() - from).length();
    let (from, mut before, mut turned) = (ball.position(), ball.pose(1.0).rolled, 0.0);
    for _ in 0..60 {
        ball.tick(&Intent::steering(1.0, 0.0), &gentle, DT);
        sketch.see(ball.position());
        // The rotation from tick to tick is the smaller of the two possible ones.
        let now = ball.pose(1.0).rolled;
        let turn = std::f32::consts::TAU;
        turned += (now - before + 0.5 * turn).rem_euclid(turn) - 0.5 * turn;
        before = now;
    }
    let rolled = ((ball.position() - from).length(), turned);
    let steep = roof(65.0)?;
    let mut ball = on(&steep)?;
    for _ in 0..30 {
        ball.tick(&Intent::default(), &steep, DT);
        sketch.see(ball.position());
    }
    Ok(Outcome { crept, rolled, slides: ball.velocity().length() })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { crept, rolled: (distance, turned), slides } = run(&mut sketch)?;
    println!(
        "crept {crept:.5} m; {distance:.3} m down it turned by {turned:.3} radians; slides at {slides:.2} m/s"
    );
    sketch.write()
}
