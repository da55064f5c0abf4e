//! The slam: straight down until the ground, then a moment to recover.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Gait, Locks, Name, Refusal, SAME};
use crate::tuning::Tuning;

use super::{Answer, Law, Move, Outcome, Proposal, Senses, SetWay, no_knobs};

/// Hangs in the air for a moment, goes straight down until the feet are on ground, and
/// holds the body there for another.
#[derive(Clone, Copy, Debug)]
pub struct Slam;

no_knobs!(Slam);

crate::memory! {
    /// A slam under way.
    pub struct Slamming {
        /// Seconds since it began; nothing while there is none.
        down_for: Option<f32>,
        /// Seconds for which the ground still keeps the body.
        recovers_for: f32,
    }
}

/// Slower down than this share of its speed, something holds it up.
const STUCK: f32 = 0.1;

impl<V: Geometry> Move<V> for Slam {
    const NAME: Name = Name::new("slam");
    type Memory = Slamming;

    fn actions(&self, tuning: &Tuning) -> Actions {
        Actions::of_knob(tuning.slam.action)
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, slamming: &Slamming) -> Answer<V> {
        if senses.tuning.slam.action < -0.5 || senses.from_above {
            return Answer::Nothing;
        }
        match slamming.age(senses) {
            Some(age) => goes_down(senses, age),
            None if slamming.recovers_for > SAME => recovers(senses),
            None => Answer::Nothing,
        }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, slamming: &mut Slamming) {
        if senses.tuning.slam.action < -0.5 || senses.from_above {
            return;
        }
        if senses.intent.pressed.has(Actions::of_knob(senses.tuning.slam.action)) {
            let begins = slamming.down_for.is_none() && outcome.is_mine();
            let was_busy = slamming.down_for.is_some() || slamming.recovers_for > SAME;
            if was_busy || !begins {
                outcome.refuse(Refusal::Move(<Self as Move<V>>::NAME));
            }
        }
        let standing = outcome.state.footing.is_firm();
        let age = slamming.age(senses).filter(|_| outcome.is_mine() && !outcome.bounced());
        slamming.recovers_for = (slamming.recovers_for - senses.dt).max(0.0);
        if age.is_some() && standing {
            slamming.recovers_for = (senses.tuning.slam.recovery - outcome.landed_for).max(0.0);
        } else if !standing || !outcome.is_mine() {
            slamming.recovers_for = 0.0;
        }
        slamming.down_for = age.filter(|_| !standing).map(|age| age + senses.dt);
    }
}

impl Slamming {
    /// How long the slam that is under way in this tick has been so; nothing where there
    /// is none.
    fn age<V: Geometry>(&self, senses: &Senses<'_, V>) -> Option<f32> {
        let slam = &senses.tuning.slam;
        match self.down_for {
            Some(age) => {
                let moves = -senses.velocity.height() > STUCK * slam.speed;
                (moves || age <= slam.startup + senses.dt).then_some(age)
            }
            None => {
                let pressed = senses.intent.pressed.has(Actions::of_knob(slam.action));
                (pressed && !senses.standing() && senses.maneuver().is_none()).then_some(0.0)
            }
        }
    }
}

#[inline(never)]
fn goes_down<V: Geometry>(senses: &Senses<'_, V>, age: f32) -> Answer<V> {
    let slam = &senses.tuning.slam;
    let hangs_for = (slam.startup - age).clamp(0.0, senses.dt);
    let down = -V::UP * slam.speed;
    let (from, to) = if hangs_for >= senses.dt { (V::ZERO, V::ZERO) } else { (down, down) };
    let way = SetWay { way: down * (senses.dt - hangs_for), from, to, gravity: false };
    Proposal { law: Law::Set(way), locks: Locks::ALL, ..Proposal::of(<Slam as Move<V>>::NAME) }.into()
}

fn recovers<V: Geometry>(senses: &Senses<'_, V>) -> Answer<V> {
    if !senses.standing() {
        return Answer::Nothing;
    }
    let gait = Some(Gait::Move(Name::new("slam-end")));
    Proposal { locks: Locks::ALL, gait, ..Proposal::of(<Slam as Move<V>>::NAME) }.into()
}
