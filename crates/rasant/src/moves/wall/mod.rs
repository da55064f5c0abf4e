//! Sliding down walls, and jumping off them.

pub(crate) mod knobs;

use crate::contact::{Geometry, Patch};
use crate::level::Tag;
use crate::space::{Frame, Vector};
use crate::state::{Mode, Name, Niche, Owner, State, TIME_TOLERANCE, WALL_SLIDE, WallKick, WallTouch};
use crate::thresholds::{steering, walls};
use crate::tuning::Tuning;

use super::{Answer, KnobsIn, Move, Proposal, Senses, Words};

pub use knobs::WallSlide;

impl<V: Geometry> Move<V> for WallSlide {
    const NAME: Name = WALL_SLIDE;
    const WORDS: Words = Words { is_mode: true, ..Words::NONE.jumps(&["wall"]) };
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.wall);
    type Memory = ();

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        match senses.wall {
            Some(wall) if wall.away_for == 0.0 && !senses.standing() => slides(senses, &wall),
            _ => Answer::Nothing,
        }
    }
}

impl WallSlide {
    /// Returns true if walls can hold a body.
    pub(crate) fn holds(&self) -> bool {
        self.enabled >= 0.5 && self.slide_speed > 0.0
    }

    /// Returns true if the body can jump off walls.
    pub(crate) fn lets_jump(&self) -> bool {
        self.enabled >= 0.5 && self.jump_height > 0.0
    }
}

#[inline(never)]
fn slides<V: Geometry>(senses: &Senses<'_, V>, wall: &WallTouch<V>) -> Answer<V> {
    let sinks = senses.velocity.height() <= 0.0;
    let free = sinks && senses.maneuver().is_none();
    let normal = senses.frame.local(wall.normal);
    if free && holds(senses.tuning, senses.steer, normal, senses.wall_grip) {
        Proposal::as_itself(Mode::Move(WALL_SLIDE), Owner::Wall).into()
    } else {
        Answer::Nothing
    }
}

/// Determines whether the body is still beside the wall that it touched.
#[inline]
pub(crate) fn beside<V: Geometry>(
    tuning: &Tuning,
    state: &State<V>,
    frame: &Frame<V>,
    patch: &Patch<V>,
    dt: f32,
) -> Option<WallTouch<V>> {
    if state.footing.is_firm() {
        None
    } else {
        state.touching.beside.map(|wall| still_beside(tuning, wall, frame, patch, dt))
    }
}

#[inline(never)]
fn still_beside<V: Geometry>(
    tuning: &Tuning,
    wall: WallTouch<V>,
    frame: &Frame<V>,
    patch: &Patch<V>,
    dt: f32,
) -> WallTouch<V> {
    let knobs = &tuning.wall;
    let used = knobs.holds() || knobs.lets_jump();
    if !used || wall.away_for > knobs.grace_time + 1.0 {
        return wall;
    }
    let within = walls::BESIDE * patch.clearance();
    let hit = patch.sweep(V::ZERO, -frame.local(wall.normal) * within);
    match hit.filter(|hit| (walls::MIN_HEIGHT..walls::MAX_HEIGHT).contains(&hit.normal.height())) {
        Some(hit) => {
            let Tag { surface, piece, .. } = hit.tag;
            WallTouch { normal: frame.world(hit.normal), surface, piece, away_for: 0.0, niche: Niche::Used }
        }
        None => WallTouch { away_for: wall.away_for + dt, ..wall },
    }
}

/// Returns true if a wall with this normal and grip holds a body that comes down along it, steered
/// toward `steer`.
pub(crate) fn holds<V: Vector>(tuning: &Tuning, steer: V, normal: V, grip: f32) -> bool {
    let knobs = &tuning.wall;
    knobs.holds() && grip > 0.0 && (knobs.by_touch >= 0.5 || steer.dot(normal) < -steering::MEANT)
}

/// The kind of a jump off a wall.
pub(super) const JUMP: Name = Name::new("wall");

/// What a wall offers to a body that is to jump.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Offer {
    Nothing,
    Jump,
    /// There were too many jumps in a row.
    TooMany,
}

pub(super) fn offers_jump<V: Geometry>(senses: &Senses<'_, V>) -> Offer {
    let knobs = &senses.tuning.wall;
    let Some(wall) = senses.wall else { return Offer::Nothing };
    if !(knobs.lets_jump() && wall.away_for <= knobs.grace_time + TIME_TOLERANCE && senses.wall_grip > 0.0) {
        return Offer::Nothing;
    }
    match senses.kick {
        Some(kick) if is_same(&kick, &wall) && f32::from(kick.in_a_row) >= knobs.in_a_row => Offer::TooMany,
        _ => Offer::Jump,
    }
}

fn is_same<V: Vector>(kick: &WallKick<V>, wall: &WallTouch<V>) -> bool {
    kick.normal.dot(wall.normal) > walls::ONE_WALL
}

/// The velocity of a jump off the wall at its take-off.
pub(super) fn push_off<V: Geometry>(senses: &Senses<'_, V>) -> V {
    let knobs = &senses.tuning.wall;
    let normal = senses.wall.map_or(V::ZERO, |wall| senses.frame.local(wall.normal));
    let off = normal.flat().direction().unwrap_or(V::ZERO);
    let along = senses.velocity.flat().slid_along(off);
    along + off * knobs.jump_away + V::UP * senses.tuning.speed_to_rise(knobs.jump_height)
}

/// The record of jumps off walls after one off this wall.
pub(crate) fn kicked<V: Vector>(
    tuning: &Tuning,
    wall: &WallTouch<V>,
    before: Option<WallKick<V>>,
) -> WallKick<V> {
    let same = before.filter(|kick| is_same(kick, wall));
    let in_a_row = same.map_or(1, |kick| kick.in_a_row.saturating_add(1));
    WallKick { normal: wall.normal, in_a_row, back_for: tuning.wall.back_time, niche: Niche::Used }
}
