//! Two players on one keyboard: each has bindings and a sampler, both receive every key, and a key
//! is rebound while it is held.

use std::time::Duration;

use rasant::input::{Chord, Direction, Meaning};
use rasant::{Actions, Bindings, DeviceEvent, Intent, Key, Press, Sampler};

fn keys(left: &str, right: &str, jump: &str) -> Result<Bindings, Box<dyn std::error::Error>> {
    let mut bindings = Bindings::none();
    bindings.bind(Chord::named(left)?, Meaning::Steer(Direction::Left));
    bindings.bind(Chord::named(right)?, Meaning::Steer(Direction::Right));
    bindings.bind(Chord::named(jump)?, Meaning::Action(Actions::JUMP));
    Ok(bindings)
}

/// Returns the intents of both players in each of four ticks.
pub fn run() -> Result<Vec<[Intent; 2]>, Box<dyn std::error::Error>> {
    let mut players = [
        Sampler::new(keys("KeyA", "KeyD", "KeyW")?),
        Sampler::new(keys("ArrowLeft", "ArrowRight", "ArrowUp")?),
    ];
    let at = Duration::from_millis;
    // Both hold a direction; the second taps jump for 4 ms, less than a tick.
    let heard = [
        (2, "KeyD", Press::Down),
        (3, "ArrowLeft", Press::Down),
        (20, "ArrowUp", Press::Down),
        (24, "ArrowUp", Press::Up),
        (40, "KeyD", Press::Up),
    ];
    let mut ticks = Vec::new();
    let mut next = heard.iter();
    let mut waits = next.next();
    for tick in 1..=4 {
        let end = at(tick * 16);
        while let Some((time, code, press)) = waits.filter(|(time, ..)| at(*time) <= end) {
            let key = Key::named(code).ok_or("a code of UI Events")?;
            for player in &mut players {
                player.event(at(*time), DeviceEvent::Key(key, *press));
            }
            waits = next.next();
        }
        ticks.push([players[0].tick(end), players[1].tick(end)]);
    }
    Ok(ticks)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    for (tick, [first, second]) in run()?.iter().enumerate() {
        println!("tick {tick}: {} and {}", first.steer.x, second.steer.x);
        println!(
            "        jump: {} and {}",
            first.pressed.contains(Actions::JUMP),
            second.pressed.contains(Actions::JUMP)
        );
    }
    Ok(())
}
