//! Turn-and-drive controls: sideways turns the body at its rate, forward and back drive it along
//! its facing.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Controller, Hull, Intent, Level, Steering, Tuning};
use sketch::Sketch;

/// Returns the degrees turned in half a second, and the displacement of the second after it.
pub fn run(sketch: &mut Sketch) -> Result<(f32, Vec2), Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let level = Level::<Vec2>::builder().build()?;
    sketch.level(&level);
    let mut tuning = Tuning { steering: Steering::Body, ..Tuning::default() };
    tuning.turn.rate = 120f32.to_radians();
    let mut cart = Controller::new(tuning, Hull::ball(0.5)?, Vec2::ZERO);
    let before = cart.state().facing;
    for _ in 0..30 {
        cart.tick(&Intent::steering(-1.0, 0.0), &level, DT);
        sketch.see(cart.position());
    }
    let turned = before.angle_to(cart.state().facing).to_degrees();
    let from = cart.position();
    for _ in 0..60 {
        cart.tick(&Intent::steering(0.0, 1.0), &level, DT);
        sketch.see(cart.position());
    }
    Ok((turned, cart.position() - from))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let (turned, drove) = run(&mut sketch)?;
    println!("turned by {turned:.1}° without moving, then drove {drove:.2} m");
    sketch.write()
}
