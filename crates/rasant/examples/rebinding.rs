//! A gamepad, and a key that is rebound while it is held: the old action is released, and nothing
//! is pressed. "Press the key" takes the next key.

use std::time::Duration;

use rasant::input::{Chord, Meaning, PadAxis, PadButton};
use rasant::{Actions, Bindings, DeviceEvent, Intent, Key, Press, Sampler};

/// Returns the intent of each tick, with a description of what the player did before it.
pub fn run() -> Result<Vec<(&'static str, Intent)>, Box<dyn std::error::Error>> {
    let at = Duration::from_millis;
    let mut sampler = Sampler::new(Bindings::default());
    let space = Key::named("Space").ok_or("a code of UI Events")?;
    let mut ticks = Vec::new();
    let mut end = 0;
    let mut tick = |sampler: &mut Sampler, what: &'static str, ticks: &mut Vec<(&'static str, Intent)>| {
        end += 16;
        ticks.push((what, sampler.tick(at(end))));
    };

    let stick = |value: f32| DeviceEvent::PadMoved { pad: 0, axis: PadAxis::LeftX, value };
    let south = |press: Press| DeviceEvent::Pad { pad: 0, button: PadButton::South, press };

    // A stick at 0.4, outside its dead zone, and a button.
    sampler.event(at(1), stick(0.4));
    sampler.event(at(2), south(Press::Down));
    tick(&mut sampler, "a stick and a button", &mut ticks);
    sampler.event(at(17), south(Press::Up));
    sampler.event(at(18), stick(0.0));
    tick(&mut sampler, "both let go", &mut ticks);

    sampler.event(at(33), DeviceEvent::Key(space, Press::Down));
    tick(&mut sampler, "space held", &mut ticks);
    // Space means the dash from here on, while it is held.
    let mut bindings = Bindings::none();
    bindings.bind(Chord::named("Space")?, Meaning::Action(Actions::DASH));
    sampler.rebind(bindings);
    tick(&mut sampler, "space rebound", &mut ticks);
    sampler.event(at(65), DeviceEvent::Key(space, Press::Up));
    sampler.event(at(66), DeviceEvent::Key(space, Press::Down));
    tick(&mut sampler, "space pressed again", &mut ticks);
    Ok(ticks)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    for (what, intent) in run()? {
        let names: Vec<String> = intent.pressed.each().filter_map(Actions::name).collect();
        println!("{what}: steer {:.2}, pressed {names:?}", intent.steer.x);
    }
    Ok(())
}
