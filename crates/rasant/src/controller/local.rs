//! What the stages of a tick hand on, in the body's frame.

use crate::level::{Surface, Tag};
use crate::space::{Bounds, Frame, Vector};
use crate::travel::{Contacts, Stand};
use crate::tuning::Tuning;

use super::moves::{Climb, Locks};
use super::state::{FootingKind, Mode, Owner, State};

/// Bounds of displacement with room for a step up and a step down.
pub(super) fn around_feet<V: Vector>(reach: Bounds<V>, tuning: &Tuning) -> Bounds<V> {
    let slope = &tuning.slope;
    Bounds { min: reach.min - V::UP * slope.cling.max(slope.curb), max: reach.max + V::UP * slope.curb }
}

/// How far to each side of a way, in metres, pieces are gathered. A way that is
/// turned further aside has more gathered for it.
pub(super) fn room_aside(way: f32) -> f32 {
    0.5 * way.min(1.0)
}

/// What travel found out, in the body's frame.
pub(super) struct Outcome<V> {
    pub at: V,
    pub velocity: V,
    pub ground_velocity: V,
    pub stand: Option<Stand<V>>,
    /// How long of the tick the feet were off the ground.
    pub off_for: f32,
    pub contacts: Contacts<V>,
    pub depth: f32,
    /// How far steps have put it ahead of its way, in metres.
    pub ahead: f32,
    /// Whether it is held by what has crushed it.
    pub held: bool,
    /// Whether it came to slide down a wall on the way.
    pub slides: bool,
}

/// The parts of a state that a tick works on in the body's frame.
pub(super) struct Local<V> {
    pub velocity: V,
    /// That of the ground under the feet.
    pub ground_velocity: V,
    /// How far the ground turns in this tick.
    pub turn: f32,
    /// What the ground is made of, its drift in the body's frame; plain aloft.
    pub surface: Surface<V>,
    /// What the feet are on at the start of the tick.
    pub ground: Stand<V>,
    /// Who is in charge of this tick.
    pub mode: Mode,
    /// Who drives the velocity in this tick.
    pub owner: Owner,
    /// Where the player wants to go, level, of length 0 to 1.
    pub wish: V,
    /// The same, whatever locks it.
    pub steered: V,
    /// The speed of a full wish; below 0 it is inverted.
    pub top: f32,
    /// How far the way of a maneuver turns in this tick, in radians.
    pub bend: f32,
    /// What a maneuver keeps the player from.
    pub locks: Locks,
    /// Whether a maneuver is under way.
    pub in_maneuver: bool,
    /// What it does on a ladder.
    pub climb: Climb,
    /// How far the ladder's middle is to the side.
    pub aside: V,
    /// Whether it lies on ground that is too steep.
    pub lies_steep: bool,
    /// Whether it is a body seen from above, without gravity or up.
    pub from_above: bool,
}

impl<V: Vector> Local<V> {
    pub fn of(state: &State<V>, frame: &Frame<V>) -> Self {
        let footing = &state.footing;
        Self {
            velocity: frame.local(state.velocity),
            ground_velocity: frame.local(state.ground_velocity),
            turn: 0.0,
            surface: Surface::default(),
            ground: Stand {
                firm: footing.is_firm(),
                normal: frame.local(footing.normal),
                point: frame.local(footing.point),
                tag: Tag {
                    piece: footing.piece,
                    surface: footing.surface,
                    carrier: footing.carrier,
                    one_way: footing.one_way,
                },
            },
            mode: if state.footing.is_firm() { Mode::Afoot } else { Mode::Aloft },
            owner: if state.footing.is_firm() { Owner::Walk } else { Owner::Air },
            wish: V::ZERO,
            steered: V::ZERO,
            top: 0.0,
            bend: 0.0,
            locks: Locks::default(),
            in_maneuver: false,
            climb: Climb { speed: 0.0, to_top: 0.0, sets_out: false },
            aside: V::ZERO,
            lies_steep: footing.kind == FootingKind::Steep,
            from_above: false,
        }
    }
}
