//! The dash: fast, straight, with a limited number of charges.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::space::Vector;
use crate::state::{Mutes, Name, Plan, Refusal, Span, TIME_TOLERANCE};
use crate::tuning::{Tuning, whole};

use super::{Answer, KnobsIn, Memory, Move, Outcome, Proposal, Senses, Words};

pub use knobs::Dash;

/// The charges of the dash.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Dashes {
    /// The number of charges of `dash.charges` that are used up.
    pub spent: u8,
    /// The number of dashes since the feet left the ground.
    pub airborne: u8,
    /// The time since the next charge started to return.
    pub recharged_for: Span,
}

/// Stored in two words.
impl Memory for Dashes {
    const WORDS: usize = 2;

    fn read(words: &[u32]) -> Self {
        let [spent, airborne, ..] = words[0].to_le_bytes();
        Self { spent, airborne, recharged_for: Span::read(&words[1..]) }
    }

    fn write(&self, words: &mut [u32]) {
        words[0] = u32::from_le_bytes([self.spent, self.airborne, 0, 0]);
        self.recharged_for.write(&mut words[1..]);
    }
}

const NAME: Name = Name::new("dash");
const EMPTY: Refusal = Refusal::new(NAME, "empty");
const AIR_LIMIT: Refusal = Refusal::new(NAME, "air-limit");
const COOLDOWN: Refusal = Refusal::new(NAME, Refusal::COOLDOWN);

impl<V: Geometry> Move<V> for Dash {
    const NAME: Name = NAME;
    const WORDS: Words = Words::NONE.maneuver().refusals(&[EMPTY, AIR_LIMIT, COOLDOWN]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.dash);
    type Memory = Dashes;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    fn actions(&self, _tuning: &Tuning) -> Actions {
        if self.charges >= 0.5 { Actions::DASH } else { Actions::NONE }
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, dashes: &Dashes) -> Answer<V> {
        if self.charges >= 0.5 && senses.intent.pressed.contains(Actions::DASH) {
            self.pressed(senses, dashes.come_back(self, senses))
        } else {
            Answer::Nothing
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, dashes: &mut Dashes) {
        if self.charges > 0.0 {
            *dashes = dashes.come_back(self, senses);
            if !senses.intent.pressed.is_empty() && !outcome.was_consulted() {
                self.refuse_if_pressed(senses, outcome);
            }
            if outcome.is_mine() {
                dashes.spent += 1;
                dashes.airborne += u8::from(!senses.standing());
            }
        }
    }
}

impl Dash {
    /// Refuses a dash if another move has charge of the tick in which it is pressed.
    #[cold]
    fn refuse_if_pressed<V: Geometry>(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>) {
        if senses.intent.pressed.contains(Actions::DASH) && self.charges >= 0.5 {
            let left = outcome.state.maneuver.map_or(0.0, |maneuver| maneuver.plan.duration());
            outcome.refuse(COOLDOWN.missed_by(left));
        }
    }

    #[inline(never)]
    fn pressed<V: Geometry>(&self, senses: &Senses<'_, V>, dashes: Dashes) -> Answer<V> {
        let rest = senses.busy_for();
        if rest > TIME_TOLERANCE {
            return Answer::Refuses(COOLDOWN.missed_by(rest));
        }
        if dashes.spent >= whole(self.charges) {
            return Answer::Refuses(EMPTY);
        }
        if !senses.standing() && dashes.airborne >= whole(self.air_count) {
            return Answer::Refuses(AIR_LIMIT);
        }
        Proposal::maneuver(NAME, self.plan(), self.aim(senses)).into()
    }

    fn plan(&self) -> Plan {
        Plan {
            startup: self.startup,
            active: self.active,
            recovery: self.recovery,
            cooldown: self.cooldown,
            distance: self.distance,
            curve: self.curve,
            turn_rate: self.turn,
            gravity: self.gravity >= 0.5,
            mutes: [Mutes::ALL, Mutes::ALL, Mutes::STEER],
            ..Plan::default()
        }
        .ending_at(self.end_speed)
    }

    /// The direction of a dash, in the body's frame.
    fn aim<V: Geometry>(&self, senses: &Senses<'_, V>) -> V {
        let faced = senses.frame.local(senses.state.facing);
        if self.by_facing >= 0.5 {
            return faced;
        }
        let eight = self.eight_directions >= 0.5;
        let up = if eight { senses.steered_up() } else { 0.0 };
        match (senses.steer + V::UP * up).direction() {
            Some(direction) if eight => nearest_of_eight(direction),
            Some(direction) => direction,
            None => faced,
        }
    }
}

impl Dashes {
    /// The number of charges that are left.
    #[must_use]
    pub fn left(&self, tuning: &Tuning) -> u8 {
        whole(tuning.dash.charges).saturating_sub(self.spent)
    }

    /// The charges after what standing, and time, restore in a tick.
    fn come_back<V: Geometry>(mut self, dash: &Dash, senses: &Senses<'_, V>) -> Self {
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

/// The nearest of eight directions in the plane of `direction`.
fn nearest_of_eight<V: Vector>(direction: V) -> V {
    /// Half of the 45 degrees between two neighbours, as a fraction of the longer
    /// axis: tan 22.5°.
    const HALFWAY: f32 = 0.414_213_57;
    let parts = direction.to_array();
    let longest = parts.iter().fold(0.0f32, |longest, part| longest.max(part.abs()));
    let whole = parts.map(|part| if part.abs() > HALFWAY * longest { part.signum() } else { 0.0 });
    V::from_array(whole).direction().unwrap_or(direction)
}
