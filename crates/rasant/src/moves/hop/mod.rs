//! Hops: whole steps of one length along the axes of the screen, exact at their end.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::Vector;
use crate::state::{Mutes, Name, Plan, Refusal};
use crate::thresholds::steering;
use crate::tuning::Steering;

use super::{Answer, KnobsIn, Move, Outcome, Proposal, Senses, Words};

pub use knobs::Hop;

const NAME: Name = Name::new("hop");
const BLOCKED: Refusal = Refusal::new(NAME, "blocked");
const UNDER_WAY: Refusal = Refusal::new(NAME, "under-way");

/// A direction along one of the screen's axes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Heading {
    /// Toward +x.
    Right,
    /// Toward −x.
    Left,
    /// Up the screen; −z in three dimensions.
    Forward,
    /// Down the screen.
    Back,
}

crate::memory! {
    /// The pending and refused hops.
    pub struct Hops {
        /// Both headings and a flag in one word, which costs less in ticks without hops.
        bits: u32,
    }
}

impl<V: Geometry> Move<V> for Hop {
    const NAME: Name = NAME;
    const WORDS: Words = Words::NONE.maneuver().refusals(&[BLOCKED, UNDER_WAY]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.hop);
    type Memory = Hops;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, hops: &Hops) -> Answer<V> {
        if senses.tuning.steering == Steering::Hop { self.by_steps(senses, *hops) } else { Answer::Nothing }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, hops: &mut Hops) {
        if senses.tuning.steering == Steering::Hop {
            *hops = self.after(senses, outcome, *hops);
        }
    }
}

impl Hop {
    #[inline(never)]
    fn by_steps<V: Geometry>(&self, senses: &Senses<'_, V>, hops: Hops) -> Answer<V> {
        let steered = along_an_axis(senses.steered);
        if let Some(maneuver) = senses.maneuver() {
            let refuses = self.queue < 0.5 && hops.refused() != steered;
            return match requested_step(hops, steered, senses.frame.local(maneuver.direction)) {
                Some(_) if refuses => Answer::Refuses(UNDER_WAY),
                _ => Answer::Nothing,
            };
        }
        let again = self.repeat < 0.5 && steered.is_some() && steered == hops.done();
        let Some(heading) = hops.queued().or(steered.filter(|_| !again)) else { return Answer::Nothing };
        let direction = heading.vector::<V>();
        if !senses.standing() || !senses.state.cooldown.is_over() {
            return Answer::Nothing;
        }
        let steps = if senses.intent.held.contains(Actions::RUN) { self.run_steps.round() } else { 1.0 };
        let distance = steps * self.length;
        if is_blocked(senses, direction * distance) {
            // Reported once, however long it is steered.
            let known = hops.refused() == Some(heading) && steered == hops.refused();
            return if known { Answer::Nothing } else { Answer::Refuses(BLOCKED) };
        }
        let plan = Plan {
            active: if steps > 1.5 && self.run_time > 0.0 { self.run_time } else { self.time * steps },
            cooldown: self.cooldown,
            distance,
            arc: self.arc,
            gravity: true,
            exact: true,
            mutes: [Mutes::ALL; 3],
            ..Plan::default()
        };
        Proposal::maneuver(NAME, plan, direction).into()
    }

    #[inline(never)]
    fn after<V: Geometry>(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, hops: Hops) -> Hops {
        let steered = along_an_axis(senses.steered);
        let (mut queued, mut let_go) = (hops.queued(), hops.let_go());
        let mut refused = hops.refused().filter(|_| hops.refused() == steered);
        let mut done = hops.done().filter(|_| hops.done() == steered);
        if let Some(maneuver) = senses.maneuver() {
            let_go |= steered.is_none();
            let now = Hops::new(queued, let_go, refused, done);
            let requested = requested_step(now, steered, senses.frame.local(maneuver.direction));
            if self.queue >= 0.5 {
                queued = requested.or(queued);
            } else {
                refused = requested.or(refused);
            }
        } else if outcome.is_mine() {
            (queued, let_go, done) = (None, false, steered);
        } else if outcome.was_consulted() && senses.standing() && senses.state.cooldown.is_over() {
            // If a hop was steered, something blocked its path.
            let again = self.repeat < 0.5 && steered == done;
            (refused, queued) = (queued.or(steered.filter(|_| !again)), None);
        }
        Hops::new(queued, let_go, refused, done)
    }
}

impl Heading {
    /// The heading as a unit vector.
    #[must_use]
    pub fn vector<V: Vector>(self) -> V {
        match self {
            Self::Right => V::RIGHT,
            Self::Left => -V::RIGHT,
            Self::Forward => V::FORWARD,
            Self::Back => -V::FORWARD,
        }
    }

    const ALL: [Self; 4] = [Self::Right, Self::Left, Self::Forward, Self::Back];
    /// The number of bits of an optional heading.
    const BITS: u32 = 3;

    fn to_bits(heading: Option<Self>) -> u32 {
        heading.map_or(0, |heading| heading as u32 + 1)
    }

    fn from_bits(bits: u32) -> Option<Self> {
        let number = (bits & ((1 << Self::BITS) - 1)).checked_sub(1)?;
        Self::ALL.get(number as usize).copied()
    }
}

impl Hops {
    fn new(queued: Option<Heading>, let_go: bool, refused: Option<Heading>, done: Option<Heading>) -> Self {
        let bits = Heading::to_bits(queued)
            | Heading::to_bits(refused) << Heading::BITS
            | Heading::to_bits(done) << (2 * Heading::BITS)
            | u32::from(let_go) << (3 * Heading::BITS);
        Self { bits }
    }

    /// The direction of a hop that was steered during another one.
    #[must_use]
    pub fn queued(self) -> Option<Heading> {
        Heading::from_bits(self.bits)
    }

    /// The direction of a hop that was refused and is still steered.
    #[must_use]
    pub fn refused(self) -> Option<Heading> {
        Heading::from_bits(self.bits >> Heading::BITS)
    }

    /// The direction of the last hop, while it is still steered.
    #[must_use]
    pub fn done(self) -> Option<Heading> {
        Heading::from_bits(self.bits >> (2 * Heading::BITS))
    }

    /// Returns true if nothing has been steered since the running hop began. The same direction is
    /// then another hop.
    #[must_use]
    pub fn let_go(self) -> bool {
        self.bits >> (3 * Heading::BITS) != 0
    }
}

/// The steering during a hop that requests another hop: `None` if the same direction is still
/// steered.
fn requested_step<V: Geometry>(hops: Hops, steered: Option<Heading>, under_way: V) -> Option<Heading> {
    steered.filter(|steered| {
        (steered.vector::<V>() != under_way || hops.let_go()) && hops.queued() != Some(*steered)
    })
}

/// Returns true if something blocks the path of a hop. On foot, a step or a slope that can be
/// walked does not.
fn is_blocked<V: Geometry>(senses: &Senses<'_, V>, displacement: V) -> bool {
    let lift = if senses.from_above { V::ZERO } else { V::UP * senses.tuning.slope.step_height };
    senses.sweep(lift, displacement).is_some()
}

/// The steering along the axis nearest to it.
fn along_an_axis<V: Vector>(steered: V) -> Option<Heading> {
    if steered.length() < steering::CHOSEN {
        return None;
    }
    let (right, forward) = (steered.dot(V::RIGHT), steered.dot(V::FORWARD));
    Some(match (forward.abs() > right.abs(), right > 0.0, forward > 0.0) {
        (false, true, _) => Heading::Right,
        (false, false, _) => Heading::Left,
        (true, _, true) => Heading::Forward,
        (true, _, false) => Heading::Back,
    })
}
