//! The dash: fast, straight, and only so many of them.

use crate::contact::Geometry;
use crate::controller::event::{Departure, Event, Refusal, tell};
use crate::input::Actions;
use crate::space::Vector;
use crate::tuning::Tuning;

use super::maneuver::{Locks, ManeuverKind, Plan, begin};
use super::{Choice, jump::SAME, whole};

/// The store of dashes.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Dashes {
    /// How many are left; a new body has all there can be.
    pub left: u8,
    /// How many were made since the feet left the ground.
    pub aloft: u8,
    /// Seconds since the next began to come back.
    pub recharged_for: f32,
}

impl Default for Dashes {
    fn default() -> Self {
        Self { left: u8::MAX, aloft: 0, recharged_for: 0.0 }
    }
}

impl Dashes {
    /// What standing, and time, give back in a tick.
    pub(super) fn come_back(&mut self, tuning: &Tuning, standing: bool, dt: f32) {
        let dash = &tuning.dash;
        let most = whole(dash.charges);
        self.left = self.left.min(most);
        if standing {
            self.aloft = 0;
            if dash.from_ground >= 0.5 {
                self.left = most;
            }
        }
        if self.left == most || dash.recharge_time <= 0.0 {
            self.recharged_for = 0.0;
            return;
        }
        self.recharged_for += dt;
        if self.recharged_for + SAME >= dash.recharge_time {
            self.recharged_for -= dash.recharge_time;
            self.left += 1;
        }
    }
}

/// Begins a dash when it is pressed and one is to be had. Says whether it did.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    choice.tuning.dash.charges >= 0.5 && choice.intent.pressed.has(Actions::DASH) && pressed(choice)
}

#[inline(never)]
fn pressed<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    let dash = &choice.tuning.dash;
    let standing = choice.state.footing.is_firm() || choice.body.from_above;
    let dashes = choice.state.dashes;
    let busy = choice.state.maneuver.as_ref().map_or(0.0, |maneuver| {
        let plan = maneuver.plan;
        plan.windup + plan.drive + plan.recover + plan.rest - maneuver.age
    });
    let rest = choice.state.rest.max(busy);
    if rest > SAME {
        choice.refuse(Refusal::Resting { left: rest });
        return false;
    }
    if dashes.left == 0 {
        choice.refuse(Refusal::DashEmpty);
        return false;
    }
    if !standing && dashes.aloft >= whole(dash.aloft) {
        choice.refuse(Refusal::DashAloft);
        return false;
    }
    choice.state.dashes.left -= 1;
    if !standing {
        choice.state.dashes.aloft += 1;
    }
    let direction = aim(choice);
    if choice.state.ladder.take().is_some() {
        choice.state.ladder_wait = choice.tuning.ladder.wait_time;
    }
    if choice.state.footing.is_firm() && direction.height() > 0.0 {
        tell(choice.events, Event::LeftGround { by: Departure::Maneuver });
        choice.state.left_by_jump = true;
    }
    begin(choice, ManeuverKind::Dash, plan(choice.tuning), direction);
    true
}

fn plan(tuning: &Tuning) -> Plan {
    let dash = &tuning.dash;
    Plan {
        windup: dash.windup,
        drive: dash.time,
        recover: dash.recover,
        rest: dash.rest,
        distance: dash.distance,
        curve: dash.curve,
        turn_rate: dash.turn,
        end_speed: dash.end_speed.min(dash.distance / dash.time * (1.0 + dash.curve.abs())),
        gravity: dash.gravity >= 0.5,
        locks: [Locks::ALL, Locks::ALL, Locks { steer: true, ..Locks::default() }],
        ..Plan::default()
    }
}

/// Where it goes, in the body's frame.
fn aim<V: Geometry>(choice: &Choice<'_, V>) -> V {
    let dash = &choice.tuning.dash;
    let faced = choice.frame.local(choice.state.facing);
    if dash.by_facing >= 0.5 {
        return faced;
    }
    let eight = dash.eight_ways >= 0.5;
    let side_view = V::DIMENSION == 2 && !choice.body.from_above;
    let steered =
        if side_view && eight { choice.body.wish + V::UP * choice.steered_up() } else { choice.body.wish };
    match steered.direction() {
        Some(direction) if eight => nearest_of_eight(direction),
        Some(direction) => direction,
        None => faced,
    }
}

/// The nearest of eight directions across the plane that `direction` lies in.
fn nearest_of_eight<V: Vector>(direction: V) -> V {
    /// Half of the 45 degrees between two neighbours, as a share of the longer
    /// axis: tan 22.5°.
    const HALFWAY: f32 = 0.414_213_57;
    let parts = direction.to_array();
    let longest = parts.iter().fold(0.0f32, |longest, part| longest.max(part.abs()));
    let whole = parts.map(|part| if part.abs() > HALFWAY * longest { part.signum() } else { 0.0 });
    V::from_array(whole).direction().unwrap_or(direction)
}
