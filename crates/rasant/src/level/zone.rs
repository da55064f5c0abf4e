//! Regions that are not solid: ladders, wind, slow ground, goals.

use crate::space::{Bounds, Vector};

use super::carrier::CarrierId;
use super::surface::SurfaceId;

/// The id of a zone of a level.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct ZoneId(pub u16);

/// An axis-aligned region that affects the bodies whose hulls overlap it.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Effect, Level, Zone};
///
/// let mut builder = Level::<Vec2>::builder();
/// let ladder = Effect::Ladder { front: Vec2::ZERO };
/// let id = builder.add_zone(Zone::new(Vec2::new(3.0, 0.0), Vec2::new(3.5, 4.0), ladder));
/// builder.add_zone(Zone::new(Vec2::new(5.0, -3.0), Vec2::new(9.0, -1.0), Effect::Hazard));
/// assert_eq!(id.0, 0); // events name it
/// builder.build()?;
/// # Ok::<(), rasant::level::LevelError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Zone<V> {
    /// Its bounds. On a carrier, relative to the carrier's origin.
    pub bounds: Bounds<V>,
    /// One effect or several.
    pub effects: Effects<V>,
    /// The carrier that it rides on.
    pub carrier: Option<CarrierId>,
}

/// An effect of a zone.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Effect, Level, Zone};
///
/// let mut builder = Level::builder();
/// let (min, max) = (Vec2::ZERO, Vec2::new(2.0, 5.0));
/// let draught = Effect::Wind { push: Vec2::new(0.0, 12.0) };
/// let zone = builder.add_zone(Zone::new(min, max, draught));
/// assert_eq!(draught.name(), "wind");
/// # let _ = zone;
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Effect<V> {
    /// Can be climbed along the body's up, in the centre of the box, or as near to it as a wall
    /// allows: the box may be shallow, or half inside the wall. It reaches up to the roof that it
    /// leads to. With a `front`, the body climbs from its top onto the roof, and from there out in
    /// front of the wall and down. On the way down the body passes one-way pieces, such as hatches.
    Ladder {
        /// In three dimensions, the direction from the ladder to the body that climbs it: steering
        /// against it climbs, steering along it descends. Zero, and always in two dimensions, for
        /// steering forward and back.
        front: V,
    },
    /// Pushes bodies in the air by this acceleration in m/s². On the ground they drift at the speed
    /// that the acceleration reaches in the stop time of their walk. An upward push lifts them off
    /// if it is greater than gravity, both that of a fall from rest and that of a rise.
    Wind {
        /// The acceleration.
        push: V,
    },
    /// Multiplies the walking speed, on the ground and in the air.
    Slow {
        /// The factor, at least 0.
        pace: f32,
    },
    /// Multiplies gravity for bodies in the air: 0.16 for the moon, 0 for none. A jump keeps its
    /// take-off speed, so that it gets higher where gravity is less.
    Weight {
        /// The factor, at least 0.
        factor: f32,
    },
    /// The ground of bodies seen from above: its traction, pace and drift, and the surface of their
    /// footfalls. It has no effect on other bodies.
    Floor {
        /// The surface.
        surface: SurfaceId,
    },
    /// Returns the body to its last checkpoint.
    Hazard,
    /// Is filled with water up to its top. Bodies swim where it is deep enough for them.
    Water,
    /// A place to reach. It only causes events.
    Goal,
    /// Hazards return the body here: to where its feet stood when it entered the zone. If it enters
    /// without footing, or on something that moves, the checkpoint is set at the next firm ground
    /// that does not move.
    Checkpoint,
    /// A checkpoint with a position of its own.
    CheckpointAt {
        /// Where the middle of the underside is placed, in the world. It does not move with the
        /// zone.
        place: V,
    },
    /// Changes up for bodies whose centre is in it. Outside, up is what it was before.
    Gravity {
        /// The direction of up, not zero.
        up: V,
    },
    /// Makes up point away from the centre of its box, for bodies whose centre is in it: the
    /// gravity of a small planet. Standing bodies keep their feet on the ground as they walk around
    /// it. Outside, up is what it was before.
    Planet,
    /// The game's own. It only causes events.
    Own(u16),
}

impl<V: Vector> Effect<V> {
    /// Returns true if the effect changes the body, instead of only causing events.
    pub(crate) fn acts(&self) -> bool {
        !matches!(self, Self::Goal | Self::Own(_))
    }

    /// Returns true if the effect changes how a body in it moves.
    pub(crate) fn acts_on_motion(&self) -> bool {
        matches!(
            self,
            Self::Wind { .. }
                | Self::Slow { .. }
                | Self::Weight { .. }
                | Self::Floor { .. }
                | Self::Water
                | Self::Gravity { .. }
                | Self::Planet
        )
    }

    /// The name, as in files.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Ladder { .. } => "ladder",
            Self::Wind { .. } => "wind",
            Self::Slow { .. } => "slow",
            Self::Weight { .. } => "weight",
            Self::Water => "water",
            Self::Floor { .. } => "floor",
            Self::Hazard => "hazard",
            Self::Goal => "goal",
            Self::Checkpoint | Self::CheckpointAt { .. } => "checkpoint",
            Self::Gravity { .. } => "gravity",
            Self::Planet => "planet",
            Self::Own(_) => "own",
        }
    }
}

/// The effects of a zone, in order: at most [`Effects::MAX`].
///
/// ```
/// use rasant::Effect;
/// use rasant::glam::Vec2;
/// use rasant::level::Effects;
///
/// let stream = [Effect::Water, Effect::Wind { push: Vec2::X }];
/// let effects = Effects::of(&stream).expect("at most four");
/// assert_eq!(effects.iter().count(), 2);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Effects<V>([Option<Effect<V>>; 4]);

impl<V: Vector> Effects<V> {
    /// The maximum number of effects of a zone.
    pub const MAX: usize = 4;

    /// These effects, or `None` if there are too many.
    #[must_use]
    pub fn of(effects: &[Effect<V>]) -> Option<Self> {
        let mut all = Self([None; 4]);
        for (number, effect) in effects.iter().enumerate() {
            *all.0.get_mut(number)? = Some(*effect);
        }
        Some(all)
    }

    /// Iterates over the effects.
    pub fn iter(&self) -> impl Iterator<Item = &Effect<V>> {
        self.0.iter().flatten()
    }
}

impl<V: Vector> From<Effect<V>> for Effects<V> {
    fn from(effect: Effect<V>) -> Self {
        Self([Some(effect), None, None, None])
    }
}

impl<V: Vector> Zone<V> {
    /// What is wrong with the zone, and what was expected.
    pub(super) fn fault(&self) -> Option<(&'static str, &'static str)> {
        let Bounds { min, max } = self.bounds;
        if !(min.is_finite() && max.is_finite()) {
            return Some(("bounds that are not finite", "two corners"));
        }
        self.effects.iter().find_map(|effect| match *effect {
            Effect::Gravity { up } if up.direction().is_none() => {
                Some(("an up without a direction", "a vector that is not zero"))
            }
            Effect::Wind { push } if !push.is_finite() => {
                Some(("a push that is not finite", "an acceleration"))
            }
            Effect::Slow { pace } if !(pace.is_finite() && pace >= 0.0) => {
                Some(("a pace that is negative or not finite", "a factor of 0 or more"))
            }
            Effect::Weight { factor } if !(factor.is_finite() && factor >= 0.0) => {
                Some(("a factor on gravity that is negative or not finite", "a factor of 0 or more"))
            }
            Effect::Ladder { front } if !front.is_finite() => {
                Some(("a front that is not finite", "a direction"))
            }
            Effect::CheckpointAt { place } if !place.is_finite() => {
                Some(("a checkpoint with a position that is not finite", "a point"))
            }
            _ => None,
        })
    }

    /// A zone between two opposite corners, with one [`Effect`] or several [`Effects`]. It does not
    /// move.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::level::Effects;
    /// use rasant::{Effect, Zone};
    ///
    /// let current = Effect::Wind { push: Vec2::new(4.0, 0.0) };
    /// let river = Effects::of(&[Effect::Water, current]).ok_or("too many effects")?;
    /// let canal = Zone::new(Vec2::ZERO, Vec2::new(40.0, -3.0), river);
    /// assert_eq!(canal.effects.iter().count(), 2);
    /// # Ok::<(), &str>(())
    /// ```
    #[must_use]
    pub fn new(corner: V, opposite: V, effects: impl Into<Effects<V>>) -> Self {
        Self { bounds: Bounds::around(&[corner, opposite]), effects: effects.into(), carrier: None }
    }

    /// The zone on a carrier.
    #[must_use]
    pub fn riding(mut self, carrier: CarrierId) -> Self {
        self.carrier = Some(carrier);
        self
    }
}
