//! The jump: from the ground, late off an edge, off a wall, and in the air.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Departure, Mode, Mutes, Name, Owner, Refusal, TIME_TOLERANCE};
use crate::tuning::{Tuning, whole};

use super::{Answer, KnobsIn, Memory, Move, Outcome, Proposal, Senses, Words, wall};

pub use knobs::Jump;

/// The buffered press, and the jumps that are left.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Jumps {
    /// Seconds for which a press of jump still waits for the ground.
    pub wait: f32,
    /// The number of jumps left in the air.
    pub air: u8,
    /// One more than the total number by the tuning when they were last counted; 0 before that.
    counted: u8,
}

/// Stored in two words.
impl Memory for Jumps {
    const WORDS: usize = 2;

    fn read(words: &[u32]) -> Self {
        let [air, counted, ..] = words[1].to_le_bytes();
        Self { wait: f32::from_bits(words[0]), air, counted }
    }

    fn write(&self, words: &mut [u32]) {
        words[0] = self.wait.to_bits();
        words[1] = u32::from_le_bytes([self.air, self.counted, 0, 0]);
    }
}

const NAME: Name = Name::new("jump");
const NO_FOOTING: Refusal = Refusal::new(NAME, "no-footing");
const LOCKED: Refusal = Refusal::new(NAME, "locked");
const WALL_LIMIT: Refusal = Refusal::new(NAME, "wall-limit");

impl Jump {
    /// The kind of a jump from firm footing.
    pub const GROUND: Name = Name::new("ground");
    /// The kind of a jump within the coyote time after walking off an edge.
    pub const LATE: Name = Name::new("late");
    /// The kind of a jump in the air.
    pub const AIR: Name = Name::new("air");
    /// The kind of a jump off a wall.
    pub const WALL: Name = wall::JUMP;
}

impl<V: Geometry> Move<V> for Jump {
    const NAME: Name = NAME;
    const WORDS: Words =
        Words::NONE.jumps(&["ground", "late", "air"]).refusals(&[NO_FOOTING, LOCKED, WALL_LIMIT]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.jump);
    type Memory = Jumps;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::JUMP
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, jumps: &Jumps) -> Answer<V> {
        let pressed = senses.intent.pressed.contains(Actions::JUMP);
        let repeats = self.repeat >= 0.5 && senses.intent.held.contains(Actions::JUMP) && senses.ground.firm;
        if senses.from_above || !(pressed || repeats || jumps.wait > TIME_TOLERANCE) {
            return Answer::Nothing;
        }
        requested(senses, &jumps.granted(senses.tuning), pressed, repeats)
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, jumps: &mut Jumps) {
        if senses.ground.firm {
            let count = whole(self.air_count);
            (jumps.air, jumps.counted) = (count, count.saturating_add(1));
        } else {
            *jumps = jumps.granted(senses.tuning);
        }
        let pressed = senses.intent.pressed.contains(Actions::JUMP);
        if pressed || jumps.wait > 0.0 || !outcome.events.is_empty() || senses.state.ladder.is_some() {
            after(senses, outcome, jumps, pressed);
        }
    }
}

impl Jumps {
    /// Adds or removes the jumps in the air that the tuning has gained or lost since the last tick.
    fn granted(self, tuning: &Tuning) -> Self {
        let count = whole(tuning.jump.air_count);
        if self.counted == count.saturating_add(1) {
            return self;
        }
        // A new body has none before it has stood.
        let before = self.counted.checked_sub(1).unwrap_or(count);
        let air = self.air.saturating_add(count.saturating_sub(before)).min(count);
        Self { air, counted: count.saturating_add(1), ..self }
    }

    /// The total number of jumps in the air.
    fn count(&self) -> u8 {
        self.counted.saturating_sub(1)
    }
}

#[inline(never)]
fn after<V: Geometry>(senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, jumps: &mut Jumps, pressed: bool) {
    let tuning = senses.tuning;
    let climbs = senses.state.ladder.is_some() || outcome.state.ladder.is_some();
    let by_ladder = climbs && tuning.ladder.gives_jumps >= 0.5;
    let by_wall = outcome.jumped(Jump::WALL) && tuning.wall.gives_jumps >= 0.5;
    if by_ladder || by_wall {
        jumps.air = jumps.count();
    }
    if outcome.jumped(Jump::AIR) {
        jumps.air = jumps.air.saturating_sub(1);
    }
    if senses.from_above {
        jumps.wait = 0.0;
        return;
    }
    // A press that a maneuver or a mute blocks waits like one in the air. A press that another move
    // has used does not.
    let pressed = pressed && (outcome.was_consulted() || outcome.mutes_jump || outcome.began);
    let waited = jumps.wait;
    if outcome.took_off() {
        jumps.wait = 0.0;
        return;
    }
    if pressed && tuning.jump.buffer_time > TIME_TOLERANCE {
        // Slightly longer, so that a whole number of ticks counts in full.
        jumps.wait = tuning.jump.buffer_time + 2.0 * TIME_TOLERANCE;
    }
    let glides = glide_answers(senses, outcome);
    if pressed && glides == Glides::AtTheTop {
        jumps.wait = jumps.wait.max(senses.dt + 2.0 * TIME_TOLERANCE);
    }
    // What it waits for may happen within the tick: it counts up to that moment.
    let until = if outcome.landed_for > 0.0 { senses.dt - outcome.landed_for } else { senses.dt };
    let comes = (outcome.state.footing.is_firm() && !senses.ground.firm)
        || (outcome.state.touching.wall && !senses.state.touching.wall && tuning.wall.lets_jump());
    let left = (jumps.wait - until).max(0.0);
    let in_time = comes && jumps.wait > TIME_TOLERANCE && (left > 0.0 || until >= senses.dt);
    let next = match (in_time, glides) {
        (true, _) | (_, Glides::AtTheTop) if jumps.wait > TIME_TOLERANCE => {
            (jumps.wait - senses.dt).max(2.0 * TIME_TOLERANCE)
        }
        _ => (jumps.wait - senses.dt).max(0.0),
    };
    jumps.wait = next;
    // A press is dropped when its time is over, or when another takes its place.
    let is_over = next <= TIME_TOLERANCE;
    let old = waited > TIME_TOLERANCE && (pressed || is_over);
    // Without a buffer, the move reported it when it was consulted.
    let is_reported =
        outcome.was_consulted() && tuning.jump.buffer_time <= TIME_TOLERANCE && !is_gliding_possible(senses);
    let new = pressed && is_over && !is_reported;
    if (old || new) && glides != Glides::Now {
        let locked = senses.mutes.contains(Mutes::JUMP) || (outcome.mutes_jump && !outcome.was_consulted());
        let what = refusal(senses, locked, wall::offers_jump(senses));
        for _ in 0..u8::from(old) + u8::from(new) {
            outcome.refuse(what);
        }
    }
}

/// Whether a press of jump results in a glide.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Glides {
    No,
    /// The body rises with jump held, and glides from the top on.
    AtTheTop,
    Now,
}

/// Returns true if a press of jump may start a glide, so that it must not be refused before that is
/// known.
fn is_gliding_possible<V: Geometry>(senses: &Senses<'_, V>) -> bool {
    senses.tuning.glide.enabled >= 0.5 && senses.tuning.glide.fall_speed > 0.0
}

fn glide_answers<V: Geometry>(senses: &Senses<'_, V>, outcome: &Outcome<'_, V>) -> Glides {
    let glide = Mode::Move(Name::new("glide"));
    if !is_gliding_possible(senses) {
        Glides::No
    } else if outcome.state.mode == glide || senses.state.mode == glide {
        Glides::Now
    } else if senses.velocity.height() > 0.0
        && !senses.ground.firm
        && senses.intent.held.contains(Actions::JUMP)
    {
        Glides::AtTheTop
    } else {
        Glides::No
    }
}

#[inline(never)]
fn requested<V: Geometry>(senses: &Senses<'_, V>, jumps: &Jumps, pressed: bool, repeats: bool) -> Answer<V> {
    // A buffered press does not cancel what has begun meanwhile.
    let drives = senses.maneuver().is_some_and(|maneuver| maneuver.drives());
    let due = pressed || repeats || !drives;
    let locked = senses.mutes.contains(Mutes::JUMP);
    let waits = jumps.wait > TIME_TOLERANCE;
    let mut offer = wall::Offer::Nothing;
    if due && !locked {
        offer = wall::offers_jump(senses);
        if let Some(kind) = possible(senses, jumps, pressed, offer) {
            // Of two presses, one takes off.
            let refused = (pressed && waits).then(|| refusal(senses, locked, offer));
            return Proposal { refused, ..take_off(senses, jumps, kind) }.into();
        }
    }
    // A buffered press is reported when it has waited in vain.
    let hopeless = pressed && senses.tuning.jump.buffer_time <= TIME_TOLERANCE;
    if is_gliding_possible(senses) || !hopeless {
        return Answer::Nothing;
    }
    Answer::Refuses(refusal(senses, locked, offer))
}

fn refusal<V: Geometry>(senses: &Senses<'_, V>, locked: bool, offer: wall::Offer) -> Refusal {
    let air = senses.state.air.filter(|air| air.by != Departure::Placed);
    match offer {
        _ if locked => LOCKED,
        wall::Offer::TooMany => WALL_LIMIT,
        _ => Refusal { missed_by: air.map(|air| air.time.seconds()), ..NO_FOOTING },
    }
}

fn possible<V: Geometry>(
    senses: &Senses<'_, V>,
    jumps: &Jumps,
    pressed: bool,
    offer: wall::Offer,
) -> Option<Name> {
    let jump = &senses.tuning.jump;
    if senses.ground.firm {
        return Some(Jump::GROUND);
    }
    let walked_off = senses.state.air.is_some_and(|air| {
        air.by == Departure::Edge && air.time.is_within(jump.coyote_time) && jump.coyote_time > 0.0
    });
    if walked_off {
        return Some(Jump::LATE);
    }
    if offer == wall::Offer::Jump {
        return Some(Jump::WALL);
    }
    // A press that waits while there is no jump in the air uses one that is restored meanwhile.
    (pressed || jumps.wait > TIME_TOLERANCE).then_some(Jump::AIR).filter(|_| jumps.air > 0)
}

fn take_off<V: Geometry>(senses: &Senses<'_, V>, jumps: &Jumps, kind: Name) -> Proposal<V> {
    let tuning = senses.tuning;
    let level = senses.velocity.flat();
    let velocity = match kind {
        Jump::GROUND => level + senses.ground_velocity + V::UP * tuning.take_off_speed(),
        Jump::AIR => {
            let height = tuning.air_jump_height(jumps.count().saturating_sub(jumps.air));
            level + V::UP * tuning.speed_to_rise(height)
        }
        Jump::WALL => wall::push_off(senses),
        _ => level + V::UP * tuning.take_off_speed(),
    };
    Proposal {
        velocity: Some(velocity),
        leaves: Some(Departure::Jump),
        jumps: Some(kind),
        by_key: true,
        ..Proposal::as_itself(Mode::Airborne, Owner::Jump)
    }
}
