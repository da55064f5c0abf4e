//! Hops: whole steps of one length along the screen's axes, exact at their end.

use crate::contact::Geometry;
use crate::controller::event::Refusal;
use crate::input::Actions;
use crate::space::Vector;
use crate::tuning::Steering;

use super::maneuver::{Locks, ManeuverKind, Plan, begin};
use super::{Choice, jump::SAME};

/// Less steering than this, of 1, is none.
const STEERED: f32 = 0.5;

/// Begins a hop when one is steered and the way is free. Says whether it did.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    choice.tuning.steering == Steering::Hop && by_steps(choice)
}

#[inline(never)]
fn by_steps<V: Geometry>(choice: &mut Choice<'_, V>) -> bool {
    let steered = along_an_axis(choice.body.steered);
    choice.body.wish = V::ZERO;
    if steered != choice.state.hop_refused {
        choice.state.hop_refused = V::ZERO;
    }
    if let Some(maneuver) = choice.state.maneuver {
        wait(choice, steered, choice.frame.local(maneuver.direction));
        return false;
    }
    let standing = choice.state.footing.is_firm() || choice.body.from_above;
    let direction = if choice.state.hop_waits == V::ZERO { steered } else { choice.state.hop_waits };
    if direction == V::ZERO || !standing || choice.state.rest > SAME {
        return false;
    }
    choice.state.hop_waits = V::ZERO;
    let hop = &choice.tuning.hop;
    let steps = if choice.intent.held.has(Actions::RUN) { hop.run_steps.round() } else { 1.0 };
    let distance = steps * hop.length;
    if is_blocked(choice, direction * distance) {
        // Once, however long it is steered.
        if choice.state.hop_refused != direction {
            choice.state.hop_refused = direction;
            choice.refuse(Refusal::HopBlocked);
        }
        return false;
    }
    let plan = Plan {
        drive: hop.time * steps,
        rest: hop.rest,
        distance,
        arc: hop.arc,
        gravity: true,
        locks: [Locks::ALL; 3],
        ..Plan::default()
    };
    choice.state.hop_let_go = false;
    begin(choice, ManeuverKind::Hop, plan, direction);
    true
}

/// Steering during a hop waits for its end, or is refused. To go on steering
/// the same way is neither.
fn wait<V: Geometry>(choice: &mut Choice<'_, V>, steered: V, under_way: V) {
    choice.state.hop_let_go |= steered == V::ZERO;
    let is_held = steered == under_way && !choice.state.hop_let_go;
    let new = steered != V::ZERO && !is_held && steered != choice.state.hop_waits;
    if !new {
        return;
    }
    if choice.tuning.hop.queue >= 0.5 {
        choice.state.hop_waits = steered;
    } else if choice.state.hop_refused != steered {
        choice.state.hop_refused = steered;
        choice.refuse(Refusal::HopUnderWay);
    }
}

/// Whether something stands in the whole way of a hop. On foot, what a curb or
/// a slope takes is no hindrance.
fn is_blocked<V: Geometry>(choice: &Choice<'_, V>, way: V) -> bool {
    let lift = if choice.body.from_above { V::ZERO } else { V::UP * choice.tuning.slope.curb };
    choice.patch.sweep(lift, way).is_some()
}

/// The steering along the axis it is nearest to, of length 1; zero for none.
fn along_an_axis<V: Vector>(steered: V) -> V {
    if steered.length() < STEERED {
        return V::ZERO;
    }
    let parts = steered.to_array();
    let longest =
        (0..3).fold(0, |best, axis| if parts[axis].abs() > parts[best].abs() { axis } else { best });
    let mut whole = [0.0; 3];
    whole[longest] = parts[longest].signum();
    V::from_array(whole)
}
