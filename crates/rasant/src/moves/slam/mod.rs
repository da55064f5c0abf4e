//! The slam: straight down until the ground, then a moment to recover.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Gait, Mutes, Name, Refusal, TIME_TOLERANCE};
use crate::thresholds::moves;
use crate::tuning::Tuning;

use super::{Answer, KnobsIn, Law, Move, Outcome, Proposal, Senses, SetMotion, Words};

pub use knobs::Slam;

crate::memory! {
    /// A slam in progress.
    pub struct Slamming {
        /// Above 0, the seconds since it began. Below 0, the remaining seconds of recovery on the
        /// ground.
        clock: f32,
    }
}

const NAME: Name = Name::new("slam");

impl<V: Geometry> Move<V> for Slam {
    const NAME: Name = NAME;
    const WORDS: Words = Words::MODE.gaits(&["slam-end"]).refusals(&[Refusal::of(NAME)]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.slam);
    type Memory = Slamming;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::of_knob(self.action)
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, slamming: &Slamming) -> Answer<V> {
        if self.action < -0.5 || senses.from_above {
            return Answer::Nothing;
        }
        match slamming.age(senses) {
            Some(age) => goes_down(senses, age),
            None if slamming.recovers_for() > TIME_TOLERANCE => recovers(senses),
            None => Answer::Nothing,
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, slamming: &mut Slamming) {
        if slamming.clock == 0.0 && senses.intent.pressed.is_empty() {
            return;
        }
        let pressed = senses.intent.pressed.intersects(Actions::of_knob(self.action));
        if (pressed || slamming.clock != 0.0) && self.action > -0.5 && !senses.from_above {
            *slamming = after(senses, outcome, *slamming, pressed);
        }
    }
}

#[inline(never)]
fn after<V: Geometry>(
    senses: &Senses<'_, V>,
    outcome: &Outcome<'_, V>,
    slamming: Slamming,
    pressed: bool,
) -> Slamming {
    if pressed && (slamming.clock != 0.0 || !outcome.is_mine()) {
        outcome.refuse(Refusal::of(NAME));
    }
    if !outcome.is_mine() {
        return Slamming { clock: 0.0 };
    }
    let standing = outcome.state.footing.is_firm();
    let clock = match slamming.age(senses).filter(|_| !outcome.bounced()) {
        Some(_) if standing => -(senses.tuning.slam.recovery - outcome.landed_for).max(0.0),
        Some(age) => age + senses.dt,
        None if standing => -(slamming.recovers_for() - senses.dt).max(0.0),
        None => 0.0,
    };
    Slamming { clock }
}

impl Slamming {
    /// The remaining seconds of recovery on the ground.
    fn recovers_for(self) -> f32 {
        (-self.clock).max(0.0)
    }

    /// The age of the slam that is in progress in this tick, if there is one.
    fn age<V: Geometry>(self, senses: &Senses<'_, V>) -> Option<f32> {
        let slam = &senses.tuning.slam;
        if self.clock > 0.0 {
            if is_afloat(senses) {
                return None;
            }
            let moves = -senses.velocity.height() > moves::SLAM_STUCK * slam.speed;
            return (moves || self.clock <= slam.startup + senses.dt).then_some(self.clock);
        }
        let pressed = senses.intent.pressed.intersects(Actions::of_knob(slam.action));
        (pressed && !senses.standing() && senses.maneuver().is_none() && !is_afloat(senses)).then_some(0.0)
    }
}

/// Returns true if the body is deep enough in water to swim, which brakes a slam.
fn is_afloat<V: Geometry>(senses: &Senses<'_, V>) -> bool {
    let floats = senses.tuning.swim.float * senses.hull.height();
    senses.tuning.swim.speed > 0.0 && senses.water.is_some_and(|depth| depth > floats)
}

#[inline(never)]
fn goes_down<V: Geometry>(senses: &Senses<'_, V>, age: f32) -> Answer<V> {
    let slam = &senses.tuning.slam;
    let hangs_for = (slam.startup - age).clamp(0.0, senses.dt);
    let down = -V::UP * slam.speed;
    let (from, to) = if hangs_for >= senses.dt { (V::ZERO, V::ZERO) } else { (down, down) };
    let displacement = SetMotion { displacement: down * (senses.dt - hangs_for), from, to, gravity: false };
    Proposal { law: Law::Set(displacement), mutes: Mutes::ALL, ..Proposal::of(NAME) }.into()
}

fn recovers<V: Geometry>(senses: &Senses<'_, V>) -> Answer<V> {
    if !senses.standing() {
        return Answer::Nothing;
    }
    let gait = Some(Gait::Move(Name::new("slam-end")));
    Proposal { mutes: Mutes::ALL, gait, ..Proposal::of(NAME) }.into()
}
