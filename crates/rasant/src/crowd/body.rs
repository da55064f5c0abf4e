//! The bodies of a crowd.

use crate::contact::{Geometry, Hull};
use crate::controller::Controller;
use crate::level::{BodyId, Layers};
use crate::tuning::Tuning;

use super::CrowdError;

/// What the dash (or another maneuver) of a body does when it meets another body.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum DashMeets {
    /// The other body stops it, as a wall does.
    #[default]
    Stop,
    /// It passes through other bodies. If it ends inside one, the two separate within some ticks.
    Pass,
    /// It pushes the other body with the full strength of the body, at any mass.
    Push,
}

/// A body that meets other bodies: a [`Controller`], with the numbers that others need of it.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{CrowdBody, Hull, Tuning};
///
/// let hull = Hull::capsule(0.35, 1.8)?;
/// let porter = CrowdBody { strength: 150.0, ..CrowdBody::new(Tuning::default(), hull, Vec2::ZERO) };
/// # let _ = porter;
/// # Ok::<(), rasant::contact::HullError>(())
/// ```
#[derive(Clone, Debug)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(bound(
        serialize = "Controller<V>: serde::Serialize",
        deserialize = "Controller<V>: serde::Deserialize<'de>"
    ))
)]
pub struct CrowdBody<V> {
    /// Its state, tuning and hull, and how it is moved.
    pub body: Controller<V>,
    /// The layers that it is on. Two bodies meet if each is on a layer of the other's mask.
    pub layers: Layers,
    /// The layers of bodies that it meets. (The layers of pieces that it meets are the
    /// [mask of its hull](Hull::mask).)
    pub mask: Layers,
    /// Its mass in kilograms, above 0. Others push it if their strength is greater.
    pub mass: f32,
    /// The mass in kilograms that it can just not push, at least 0. What it pushes moves at 1 − mass /
    /// strength of its own speed. With 0, the default, it pushes nothing.
    pub strength: f32,
    /// The body that it pulls while it touches it and steers away from it: at 1 − mass / strength of
    /// its own speed, as when it pushes. Once the gap is too wide, it pulls nothing.
    pub pulls: Option<BodyId>,
    /// The gap in metres, at least 0, below which it steps aside for others, at no more than a third
    /// of its walking speed. 0, the default, for none.
    pub spacing: f32,
    /// What its maneuvers do when they meet another body.
    pub dash: DashMeets,
    /// The seconds for which it passes through other bodies after a respawn.
    pub passes_after_respawn: f32,
    /// The seconds for which it still passes through other bodies.
    pub passes_for: f32,
}

/// The mass of a body unless another is set, in kilograms.
const MASS: f32 = 70.0;

impl<V: Geometry> CrowdBody<V> {
    /// A body of 70 kg at rest at `position`, as by [`Controller::new`], that meets all others and
    /// pushes none.
    #[must_use]
    pub fn new(tuning: Tuning, hull: Hull, position: V) -> Self {
        Self::from(Controller::new(tuning, hull, position))
    }

    /// A crate of `mass` kilograms: a body that does not steer and stands where it is put. It falls,
    /// slides down slopes steeper than `slope.max_angle`, rides on carriers, and can be pushed and
    /// stood on. It takes no steps and is not lowered. In two dimensions it falls along −y unless its
    /// steering is set to [`Steering::Plan`](crate::Steering::Plan).
    #[must_use]
    pub fn crate_of(mass: f32, hull: Hull, position: V) -> Self {
        let mut tuning = Tuning::default();
        tuning.slope.step_height = 0.0;
        Self { mass, ..Self::new(tuning, hull, position) }
    }
}

impl<V> CrowdBody<V> {
    /// Checks the numbers.
    pub(super) fn check(&self) -> Result<(), CrowdError> {
        let number = |name, value: f32, is_valid: bool, expected| {
            if is_valid { Ok(()) } else { Err(CrowdError::Number { name, value, expected }) }
        };
        number("mass", self.mass, self.mass > 0.0, "a number above 0")?;
        for (name, value) in [
            ("strength", self.strength),
            ("spacing", self.spacing),
            ("passes_after_respawn", self.passes_after_respawn),
            ("passes_for", self.passes_for),
        ] {
            number(name, value, value >= 0.0, "a number of at least 0")?;
        }
        Ok(())
    }
}

impl<V: Geometry> From<Controller<V>> for CrowdBody<V> {
    fn from(body: Controller<V>) -> Self {
        Self {
            body,
            layers: Layers::ALL,
            mask: Layers::ALL,
            mass: MASS,
            strength: 0.0,
            pulls: None,
            spacing: 0.0,
            dash: DashMeets::default(),
            passes_after_respawn: 0.0,
            passes_for: 0.0,
        }
    }
}
