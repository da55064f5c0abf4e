//! What is drawn.

use crate::contact::Hull;
use crate::space::Vector;

use crate::state::{Gait, State};

/// What to draw between two ticks.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pose<V> {
    /// Where the underside is drawn. On firm footing it touches the ground:
    /// the clearance is taken off. Steps are followed softly, within the half-life of
    /// `slope.soften_time`.
    pub position: V,
    /// Where the body faces, of length 1.
    pub facing: V,
    /// What the animation shows.
    pub gait: Gait,
    /// Seconds since the gait began.
    pub gait_age: f32,
    /// How far it is spun in the air, in radians.
    pub spin: f32,
    /// How far a ball has rolled, in radians: to the right in a side view, else toward
    /// where it faces. 0 for other hulls.
    pub rolled: f32,
    /// How high it is drawn above its position: the arc of a hop.
    pub lift: f32,
}

impl<V: Vector> Pose<V> {
    /// The pose `blend` of the way from one state to the next.
    #[must_use]
    pub fn between(before: &State<V>, now: &State<V>, hull: &Hull, blend: f32) -> Self {
        // Neither before nor past the two; what is no number is the last.
        let blend = if blend.is_nan() { 1.0 } else { blend.clamp(0.0, 1.0) };
        let position = drawn(before, hull).lerp(drawn(now, hull), blend);
        let facing = before.facing.lerp(now.facing, blend);
        Self {
            position,
            facing: facing.direction().unwrap_or(now.facing),
            gait: now.gait,
            gait_age: now.gait_age,
            spin: if now.spin == 0.0 { 0.0 } else { before.spin + (now.spin - before.spin) * blend },
            rolled: before.rolled + nearest_turn(now.rolled - before.rolled) * blend,
            lift: arc(before) + (arc(now) - arc(before)) * blend,
        }
    }
}

fn drawn<V: Vector>(state: &State<V>, hull: &Hull) -> V {
    let exact = state.position + state.remainder;
    let drawn = exact + state.up * state.behind;
    if state.footing.is_firm() { drawn - state.footing.normal * hull.clearance() } else { drawn }
}

/// An angle, less all whole turns.
fn nearest_turn(angle: f32) -> f32 {
    angle - libm::roundf(angle / std::f32::consts::TAU) * std::f32::consts::TAU
}

/// The height of a maneuver's arc: a parabola over its drive.
fn arc<V>(state: &State<V>) -> f32 {
    state.maneuver.as_ref().map_or(0.0, |maneuver| {
        let share = maneuver.plan.share(maneuver.age);
        4.0 * maneuver.plan.arc * share * (1.0 - share)
    })
}
