//! A game loop: frames in, ticks out, a pose to draw.
//!
//! It reads its numbers from `data/`, so that the game and the tool `rasant`
//! tune the same body.

use std::error::Error;
use std::path::Path;
use std::time::Duration;

use rasant::{Bindings, DeviceEvent, GameLoop, Key, Press, Vector};
use rasant_lab::{World, read_trial};

fn main() -> Result<(), Box<dyn Error>> {
    // The level, the tuning and the start of the trial; a game of your own may
    // build a `rasant::Level` in code, or implement `rasant::Surroundings`.
    let data = Path::new(env!("CARGO_MANIFEST_DIR")).join("data");
    // The files may use the game's own moves.
    let files = {lib}::game().on_disk();
    let trial = read_trial(&files, &data.join("first-steps.toml"))?;
    let World::Plane(world) = &trial.world else { return Err("a level of two dimensions".into()) };
    let mut level = world.level.clone();

    let mut input = GameLoop::new(60, Bindings::default())?;
    let dt = input.dt();
    let mut body = world.body(&trial.tuning, Vector::from_array(trial.start));
    body.find_footing(&level);

    // In place of a window: a player who holds D and, after a second, Space.
    let key = |code: &str| Key::named(code).ok_or("a W3C code");
    input.event(Duration::ZERO, DeviceEvent::Key(key("KeyD")?, Press::Down));
    input.event(Duration::from_millis(1000), DeviceEvent::Key(key("Space")?, Press::Down));
    input.event(Duration::from_millis(1200), DeviceEvent::Key(key("Space")?, Press::Up));

    for number in 0..180u32 {
        // With a window: the time since the game began, `start.elapsed()`.
        let now = Duration::from_micros(16_667) * (number + 1);
        for intent in input.frame(now) {
            level.advance(dt);
            for event in body.tick(&intent, &level, dt) {
                println!("{:.2} s: {}", now.as_secs_f32(), event.name());
            }
        }
        // What to draw in this frame, between the last two ticks.
        let pose = body.pose(input.blend());
        if number % 30 == 0 {
            println!("frame {number}: at {:.2}, {:.2} m", pose.position.x, pose.position.y);
        }
    }
    Ok(())
}
