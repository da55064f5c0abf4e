//! Swimming: in water that is deep enough to float in.

use crate::contact::Geometry;
use crate::input::Actions;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::state::{Gait, Mode, Name, Rise};

use super::{Answer, Law, Move, Proposal, Senses, Toward, no_knobs};

/// Floats at the surface, swims where it is steered, dives while crouch is held, and
/// jumps out where it floats.
#[derive(Clone, Copy, Debug)]
pub struct Swim;

no_knobs!(Swim);

/// Higher than this above where it floats, as a share of the hull's height, it is out of
/// the water.
const OUT: f32 = 0.1;
/// How long it takes to come to the place where it floats from nearby, in seconds.
const SETTLING: f32 = 0.15;
/// How much of what the water slows it by it counts on to stop where it floats.
const SLOWS: f32 = 0.6;
/// Nearer than this to where it floats, in clearances, the body is there.
const THERE: f32 = 0.02;

impl<V: Geometry> Move<V> for Swim {
    const NAME: Name = Name::new("swim");
    type Memory = ();

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        match senses.water {
            Some(depth) if senses.tuning.swim.speed > 0.0 && !senses.from_above => in_water(senses, depth),
            _ => Answer::Nothing,
        }
    }
}

#[inline(never)]
fn in_water<V: Geometry>(senses: &Senses<'_, V>, depth: f32) -> Answer<V> {
    let name = <Swim as Move<V>>::NAME;
    let swim = &senses.tuning.swim;
    let height = senses.hull.height();
    // How far up it is to where it floats.
    let up = depth - swim.float * height;
    let swims = senses.state.mode == Mode::Move(name);
    let deep = if senses.standing() || !swims { up > 0.0 } else { up > -OUT * height };
    let jumps_out = senses.state.air.is_some_and(|air| air.rise != Rise::Over) && up < OUT * height;
    if !deep || jumps_out || senses.maneuver().is_some() {
        return Answer::Nothing;
    }
    let along = senses.wish * (swim.speed * senses.pace);
    let held = senses.intent.held;
    if senses.intent.pressed.has(Actions::JUMP) && swim.jump_height > 0.0 && up < OUT * height {
        let rise = V::UP * senses.tuning.speed_to_rise(swim.jump_height);
        let velocity = senses.velocity_in_world().flat() + rise;
        return Proposal::jump_off(name, velocity).into();
    }
    let dives = held.has(Actions::CROUCH);
    let rise = if dives {
        -swim.dive_speed
    } else if held.has(Actions::JUMP) && up > OUT * height {
        swim.dive_speed
    } else if up.abs() < THERE * senses.hull.clearance() {
        0.0
    } else {
        // No faster than it can stop there.
        let slows = if swim.reach_time > 0.0 { SLOWS * swim.speed / swim.reach_time } else { f32::INFINITY };
        let stops = (2.0 * slows * up.abs()).sqrt();
        up.signum() * (up.abs() / SETTLING.max(senses.dt)).min(swim.float_speed).min(stops)
    };
    let drift = senses.push * swim.reach_time;
    // Water slows the more, the faster one is.
    let faster = senses.velocity_in_world().length() / swim.speed;
    let toward = Toward {
        velocity: along + drift + V::UP * rise,
        time: swim.reach_time / faster.max(1.0),
        speed: swim.speed,
        // Feet find ground where they could stand with the head out.
        lands: up <= OUT * height && !dives,
    };
    let gait = dives.then_some(Gait::Move(Name::new("dive")));
    let swim = Proposal::of(name);
    Proposal { law: Law::Toward(toward), gait: gait.or(swim.gait), ..swim }.into()
}
