//! Every move, a file each. Asked in this order, the first that takes charge
//! decides the tick.

mod crouch;
mod dash;
mod drop;
mod hop;
mod jump;
mod ladder;
mod maneuver;
mod roll;
mod wall;

pub(super) use crouch::posture;
pub use dash::Dashes;
pub use maneuver::{Locks, Maneuver, ManeuverKind, Phase, Plan};
pub use wall::WallTouch;
pub(super) use wall::holds;

pub(super) use ladder::Climb;
pub(super) use maneuver::{finish, knocked_back};

use crate::contact::{Geometry, Patch};
use crate::input::Intent;
use crate::space::Frame;
use crate::tuning::Tuning;

use super::around::Around;
use super::event::{Event, Events, Refusal, tell};
use super::local::Local;
use super::state::{Mode, Owner, State};

/// All that a move decides by, and what it decides on.
pub(super) struct Choice<'a, V: Geometry> {
    pub tuning: &'a Tuning,
    pub intent: &'a Intent,
    pub frame: &'a Frame<V>,
    pub around: &'a Around<V>,
    pub patch: &'a Patch<V>,
    pub dt: f32,
    pub state: &'a mut State<V>,
    pub body: &'a mut Local<V>,
    pub events: &'a mut Events<V>,
}

impl<V: Geometry> Choice<'_, V> {
    /// Puts `owner` in charge of the tick, in `mode`.
    fn take_charge(&mut self, mode: Mode, owner: Owner) {
        self.body.mode = mode;
        self.body.owner = owner;
    }

    fn refuse(&mut self, what: Refusal) {
        tell(self.events, Event::Refused { what });
    }

    /// How far steered up or down: stick forward or back in a side view.
    fn steered_up(&self) -> f32 {
        if V::DIMENSION == 2 { self.intent.safe_steer().y } else { 0.0 }
    }

    /// The direction steered, or that faced.
    fn heading(&self) -> V {
        let faced = self.frame.local(self.state.facing);
        self.body.wish.direction().or(faced.direction()).unwrap_or(V::RIGHT)
    }
}

/// A knob that counts, as the nearest whole number, 0 to 255.
#[inline]
fn whole(knob: f32) -> u8 {
    (knob + 0.5) as u8
}

/// Asks each move in turn whether it takes charge of the tick.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) {
    if choice.state.root_motion.is_some() {
        // The host leads; what is under way goes on, and locks what it locks.
        maneuver::go_on(choice);
        if !choice.body.in_maneuver {
            choice.body.locks = Locks::ALL;
            choice.body.in_maneuver = true;
        }
        choice.body.wish = V::ZERO;
        choice.take_charge(Mode::Maneuver, Owner::Maneuver);
        return;
    }
    if choice.tuning.dash.charges > 0.0 {
        let standing = choice.state.footing.is_firm() || choice.body.from_above;
        choice.state.dashes.come_back(choice.tuning, standing, choice.dt);
    }
    maneuver::go_on(choice);
    if hop::decide(choice) || roll::decide(choice) || dash::decide(choice) {
        return;
    }
    if choice.body.from_above {
        return;
    }
    if choice.state.maneuver.is_none() && (ladder::decide(choice) || drop::decide(choice)) {
        return;
    }
    wall::decide(choice);
    jump::decide(choice);
}
