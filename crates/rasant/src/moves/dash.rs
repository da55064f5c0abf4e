//! The dash: fast, straight, and only so many of them.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::space::Vector;
use crate::state::{Dashes, Locks, ManeuverKind, Name, Plan, Refusal, SAME, Span, whole};
use crate::tuning::Tuning;

use super::maneuver::begins;
use super::{Answer, Move, Outcome, Senses, no_knobs};

/// Begins a dash when it is pressed and one is to be had.
#[derive(Clone, Copy, Debug)]
pub struct Dash;

no_knobs!(Dash);

impl<V: Geometry> Move<V> for Dash {
    const NAME: Name = Name::new("dash");
    type Memory = Dashes;

    fn actions(&self, tuning: &Tuning) -> Actions {
        if tuning.dash.charges >= 0.5 { Actions::DASH } else { Actions::NONE }
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, dashes: &Dashes) -> Answer<V> {
        if senses.tuning.dash.charges >= 0.5 && senses.intent.pressed.has(Actions::DASH) {
            pressed(senses, dashes.come_back(senses))
        } else {
            Answer::Nothing
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, dashes: &mut Dashes) {
        if senses.tuning.dash.charges > 0.0 {
            *dashes = dashes.come_back(senses);
            if !senses.intent.pressed.is_empty() && !outcome.was_asked() {
                refuse_if_pressed(senses, outcome);
            }
            if outcome.is_mine() {
                dashes.spent += 1;
                dashes.airborne += u8::from(!senses.standing());
            }
        }
    }
}

/// Tells that a dash is refused where another move has charge of the tick in which it is pressed.
#[cold]
fn refuse_if_pressed<V: Geometry>(senses: &Senses<'_, V>, outcome: &Outcome<'_, V>) {
    if senses.intent.pressed.has(Actions::DASH) && senses.tuning.dash.charges >= 0.5 {
        let left = outcome.state.maneuver.map_or(0.0, |maneuver| maneuver.plan.duration());
        outcome.refuse(Refusal::Cooldown { of: ManeuverKind::Dash, left });
    }
}

impl Dashes {
    /// With what standing, and time, give back in a tick.
    fn come_back<V: Geometry>(mut self, senses: &Senses<'_, V>) -> Self {
        let dash = &senses.tuning.dash;
        self.spent = self.spent.min(whole(dash.charges));
        if senses.standing() {
            self.airborne = 0;
            if dash.from_ground >= 0.5 {
                self.spent = 0;
            }
        }
        if self.spent == 0 || dash.recharge_time <= 0.0 {
            self.recharged_for = Span::ZERO;
            return self;
        }
        self.recharged_for += senses.span;
        if self.recharged_for.reaches(dash.recharge_time) {
            self.recharged_for -= Span::of(dash.recharge_time);
            self.spent -= 1;
        }
        self
    }
}

#[inline(never)]
fn pressed<V: Geometry>(senses: &Senses<'_, V>, dashes: Dashes) -> Answer<V> {
    let dash = &senses.tuning.dash;
    let rest = senses.busy_for();
    if rest > SAME {
        return Answer::Refuses(Refusal::Cooldown { of: ManeuverKind::Dash, left: rest });
    }
    if dashes.spent >= whole(dash.charges) {
        return Answer::Refuses(Refusal::DashEmpty);
    }
    if !senses.standing() && dashes.airborne >= whole(dash.air_count) {
        return Answer::Refuses(Refusal::DashAirLimit);
    }
    let direction = aim(senses);
    begins(ManeuverKind::Dash, plan(senses.tuning), direction).into()
}

fn plan(tuning: &Tuning) -> Plan {
    let dash = &tuning.dash;
    Plan {
        startup: dash.startup,
        active: dash.active,
        recovery: dash.recovery,
        cooldown: dash.cooldown,
        distance: dash.distance,
        curve: dash.curve,
        turn_rate: dash.turn,
        end_speed: dash.end_speed.min(dash.distance / dash.active * (1.0 + dash.curve.abs())),
        gravity: dash.gravity >= 0.5,
        locks: [Locks::ALL, Locks::ALL, Locks::STEER],
        ..Plan::default()
    }
}

/// Where it goes, in the body's frame.
fn aim<V: Geometry>(senses: &Senses<'_, V>) -> V {
    let dash = &senses.tuning.dash;
    let faced = senses.frame.local(senses.state.facing);
    if dash.by_facing >= 0.5 {
        return faced;
    }
    let eight = dash.eight_ways >= 0.5;
    let up = if eight { senses.steered_up() } else { 0.0 };
    match (senses.wish + V::UP * up).direction() {
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
