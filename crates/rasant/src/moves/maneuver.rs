//! The motion of a running maneuver in a tick.

use crate::input::Intent;
use crate::space::{Frame, Vector};
use crate::state::{Maneuver, Name};

use super::UnderWay;

/// What turns a maneuver.
pub(crate) struct Turning<'a, V> {
    pub intent: &'a Intent,
    pub frame: &'a Frame<V>,
    pub from_above: bool,
    /// True if it has firm ground under its feet.
    pub firm: bool,
    /// The steering of the player, if nothing mutes it.
    pub steer: V,
    pub dt: f32,
}

/// A maneuver in the coming tick.
#[inline(never)]
pub(crate) fn under_way<V: Vector>(name: Name, maneuver: &Maneuver<V>, by: &Turning<'_, V>) -> UnderWay<V> {
    let mut now = UnderWay {
        name,
        maneuver: *maneuver,
        bend: 0.0,
        leaves: false,
        mutes: maneuver.plan.mutes_at(maneuver.age),
    };
    let turn = maneuver.plan.turn_rate * by.dt;
    // In a side view it turns up and down, unless it stays on the ground.
    let side_view = V::DIMENSION == 2 && !by.from_above;
    if turn > 0.0 && !(side_view && maneuver.plan.gravity) {
        let direction = by.frame.local(maneuver.direction);
        let turns = side_view || direction.height() == 0.0 || by.from_above;
        let up = if side_view { by.intent.safe_steer().y } else { 0.0 };
        let aim = by.steer + V::UP * up;
        if turns && aim != V::ZERO {
            now.bend = direction.turn_to(aim).clamp(-turn, turn);
            let turned = direction.turned(now.bend);
            now.maneuver.direction = by.frame.world(turned);
        }
    }
    // A maneuver that leads upward takes feet off the ground.
    now.leaves = by.firm && now.maneuver.leads_off(by.frame.local(now.maneuver.direction), by.dt);
    now
}
