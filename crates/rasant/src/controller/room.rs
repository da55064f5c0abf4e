//! Whether there is room for a hull.

use crate::contact::{Geometry, Hull, Patch};
use crate::level::Surroundings;
use crate::space::Bounds;
use crate::state::State;

/// Returns true if a body in `state` with this hull would overlap nothing that is solid from all
/// sides: for standing up, and for places to start at. False if its position is not finite.
///
/// ```
/// use rasant::controller::has_room;
/// use rasant::glam::Vec2;
/// use rasant::{Hull, State};
///
/// # let mut builder = rasant::Level::builder();
/// # builder.add(rasant::Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// let hull = Hull::capsule(0.35, 1.8)?;
/// assert!(has_room(&hull, &State::at(Vec2::new(0.0, 0.01)), &level));
/// assert!(!has_room(&hull, &State::at(Vec2::new(0.0, -0.5)), &level), "half in the floor");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn has_room<V: Geometry>(hull: &Hull, state: &State<V>, surroundings: &impl Surroundings<V>) -> bool {
    if !state.position.is_finite() {
        return false;
    }
    let nowhere = Bounds { min: V::ZERO, max: V::ZERO };
    Patch::gather(state.frame(), hull, nowhere, surroundings).overlap(V::ZERO, |_| false).is_none()
}
