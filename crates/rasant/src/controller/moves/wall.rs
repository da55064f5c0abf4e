//! Sliding down walls, and jumping off them.

use crate::contact::Geometry;
use crate::controller::event::Refusal;
use crate::controller::state::{Mode, Owner};
use crate::level::SurfaceId;
use crate::space::Vector;
use crate::tuning::Tuning;

use super::jump::SAME;
use super::{Choice, whole};

/// How far a wall may be to count as touched, in clearances.
const BESIDE: f32 = 3.0;
/// How much of the steering must point into a wall to hold it.
const INTO: f32 = 0.3;
/// Walls whose normals are this alike, as a cosine, are one wall.
const ALIKE: f32 = 0.9;
/// A wall leans by less than this either way, as a cosine: 60 degrees over, 1
/// degree back.
const UPRIGHT: std::ops::Range<f32> = -0.866..0.0175;

/// What a body knows of the wall beside it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct WallTouch<V> {
    /// From the wall to the body, of length 1, in the world; zero before any.
    pub normal: V,
    /// What the wall is made of.
    pub surface: SurfaceId,
    /// Seconds since the body was beside it.
    pub away_for: f32,
    /// The normal of the wall jumped off last.
    pub jumped_off: V,
    /// Jumps in a row off walls that face that way, since the feet stood.
    pub in_a_row: u8,
    /// Seconds for which steering back to it is weak.
    pub back_for: f32,
}

impl<V: Vector> Default for WallTouch<V> {
    fn default() -> Self {
        Self {
            normal: V::ZERO,
            surface: SurfaceId::default(),
            away_for: f32::MAX,
            jumped_off: V::ZERO,
            in_a_row: 0,
            back_for: 0.0,
        }
    }
}

/// Finds out whether the body is still beside the wall that it came against,
/// and whether it slides down it.
pub(super) fn decide<V: Geometry>(choice: &mut Choice<'_, V>) {
    if !choice.state.footing.is_firm() {
        off_the_ground(choice);
    } else if choice.state.wall.normal != V::ZERO {
        choice.state.wall = WallTouch::default();
    }
}

#[inline(never)]
fn off_the_ground<V: Geometry>(choice: &mut Choice<'_, V>) {
    let knobs = &choice.tuning.wall;
    choice.state.wall.back_for = (choice.state.wall.back_for - choice.dt).max(0.0);
    let used = knobs.slide_speed > 0.0 || knobs.jump_height > 0.0;
    if !used || choice.state.wall.normal == V::ZERO || choice.state.wall.away_for > knobs.grace_time + 1.0 {
        return;
    }
    let normal = choice.frame.local(choice.state.wall.normal);
    let within = BESIDE * choice.patch.clearance();
    let hit = choice.patch.sweep(V::ZERO, -normal * within);
    let Some(hit) = hit.filter(|hit| UPRIGHT.contains(&hit.normal.height())) else {
        choice.state.wall.away_for += choice.dt;
        return;
    };
    choice.state.wall.away_for = 0.0;
    choice.state.wall.surface = hit.tag.surface;
    choice.state.wall.normal = choice.frame.world(hit.normal);
    let sinks = choice.body.velocity.height() <= 0.0;
    let free = choice.body.mode == Mode::Aloft && choice.state.maneuver.is_none();
    if free && sinks && holds(choice.tuning, choice.body.wish, hit.normal, choice.around.wall_grip) {
        choice.take_charge(Mode::WallSlide, Owner::Wall);
    }
}

/// Whether a wall with this normal and grip holds a body that comes down along it,
/// steered toward `wish`.
pub(in crate::controller) fn holds<V: Vector>(tuning: &Tuning, wish: V, normal: V, grip: f32) -> bool {
    let knobs = &tuning.wall;
    knobs.slide_speed > 0.0 && grip > 0.0 && (knobs.by_touch >= 0.5 || wish.dot(normal) < -INTO)
}

/// Whether a jump off a wall takes off. One that is not to be, for there were
/// too many, is told when it was `pressed`.
pub(super) fn offers_jump<V: Geometry>(choice: &mut Choice<'_, V>, pressed: bool) -> bool {
    let (knobs, wall) = (&choice.tuning.wall, &choice.state.wall);
    let near = wall.away_for <= knobs.grace_time + SAME;
    if !(knobs.jump_height > 0.0 && near && choice.around.wall_grip > 0.0) {
        return false;
    }
    let same = wall.jumped_off.dot(wall.normal) > ALIKE;
    let too_many = same && f32::from(wall.in_a_row) >= knobs.in_a_row;
    if too_many && pressed {
        choice.refuse(Refusal::WallJump);
    }
    !too_many
}

/// Counts the jump; gives the velocity with which it takes off.
pub(super) fn push_off<V: Geometry>(choice: &mut Choice<'_, V>) -> V {
    let knobs = &choice.tuning.wall;
    let wall = &mut choice.state.wall;
    let same = wall.jumped_off.dot(wall.normal) > ALIKE;
    wall.in_a_row = if same { wall.in_a_row.saturating_add(1) } else { 1 };
    wall.jumped_off = wall.normal;
    wall.back_for = knobs.back_time;
    wall.away_for = f32::MAX;
    if knobs.gives_jumps >= 0.5 {
        choice.state.air_jumps = whole(choice.tuning.jump.air_count);
    }
    let off = choice.frame.local(wall.normal).flat().direction().unwrap_or(V::ZERO);
    let along = choice.body.velocity.flat().slid_along(off);
    along + off * knobs.jump_away + V::UP * choice.tuning.speed_to_rise(knobs.jump_height)
}
