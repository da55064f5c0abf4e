//! Space that is not solid: ladders, wind, slow ground, goals.

use crate::space::{Bounds, Vector};

use super::carrier::CarrierId;
use super::surface::SurfaceId;

/// Names one of a level's zones.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct ZoneId(pub u16);

/// A box of space, along the world's axes, that does something to the bodies
/// whose hulls overlap it.
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
    /// Where it is; on a carrier, where it is at the carrier's own origin.
    pub bounds: Bounds<V>,
    /// What it does: one thing or several.
    pub effects: Effects<V>,
    /// What it rides on.
    pub carrier: Option<CarrierId>,
}

/// One thing that a zone does.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Effect<V> {
    /// Can be climbed along the body's up, in the middle of the box, or as near to that as a wall
    /// lets the body: the box may be shallow, or half in the wall. It reaches up to the roof that it
    /// leads to. With a `front`, the body goes from its top onto that, and from there out before
    /// the wall and down. On the way down the body is let through one-way pieces, such as hatches.
    Ladder {
        /// From the ladder to who climbs it, in three dimensions: steering
        /// against it climbs, along it descends. Zero, and always in two
        /// dimensions, for steering forward and back.
        front: V,
    },
    /// Pushes bodies airborne by this acceleration in m/s². Grounded they drift at the
    /// speed that it gives in the stop time of their walk; up by more than gravity,
    /// that of a fall from rest and that of a rise, it lifts them off.
    Wind {
        /// The acceleration.
        push: V,
    },
    /// A factor on the speed asked for, grounded and airborne.
    Slow {
        /// 0 or more.
        pace: f32,
    },
    /// Is the ground of bodies that are seen from above: its traction, pace and drift,
    /// and the surface of their footfalls. To others it is nothing.
    Floor {
        /// What it is made of.
        surface: SurfaceId,
    },
    /// Puts the body back at its last checkpoint.
    Hazard,
    /// Is filled with water up to its top: bodies that it is deep enough for swim in it.
    Water,
    /// Is where one wants to come to. It only tells.
    Goal,
    /// A hazard puts the body back here: to where its feet stood as it came into the zone. If it comes
    /// in without footing, or on something that moves, the checkpoint is set at the next firm
    /// ground that does not move.
    Checkpoint,
    /// A checkpoint with a place of its own.
    CheckpointAt {
        /// Where the middle of the underside is put, in the world. It stays there if the zone moves.
        place: V,
    },
    /// Makes another direction up for bodies whose middle is in it. Outside it is what it was before.
    Gravity {
        /// Not zero.
        up: V,
    },
    /// Makes up point away from the middle of its box, for bodies whose middle is in it: the gravity of a
    /// small planet. Who stands keeps its feet where they are as it walks round. Outside it up is what
    /// it was before.
    Planet,
    /// The host's own. It only tells.
    Own(u16),
}

impl<V: Vector> Effect<V> {
    /// Returns true if it does something to the body, and does not only tell.
    pub(crate) fn acts(&self) -> bool {
        !matches!(self, Self::Goal | Self::Own(_))
    }

    /// Returns true if it changes how a body in it moves.
    pub(crate) fn acts_on_motion(&self) -> bool {
        matches!(
            self,
            Self::Wind { .. }
                | Self::Slow { .. }
                | Self::Floor { .. }
                | Self::Water
                | Self::Gravity { .. }
                | Self::Planet
        )
    }

    /// Its name, as in files.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Ladder { .. } => "ladder",
            Self::Wind { .. } => "wind",
            Self::Slow { .. } => "slow",
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

/// What a zone does, in order: at most [`Effects::MOST`] things.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Effects<V>([Option<Effect<V>>; 4]);

impl<V: Vector> Effects<V> {
    /// How many effects a zone can have.
    pub const MOST: usize = 4;

    /// These effects; nothing where there are too many.
    #[must_use]
    pub fn of(effects: &[Effect<V>]) -> Option<Self> {
        let mut all = Self([None; 4]);
        for (number, effect) in effects.iter().enumerate() {
            *all.0.get_mut(number)? = Some(*effect);
        }
        Some(all)
    }

    /// Each of them.
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
    /// What is wrong with it, and what was expected.
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
                Some(("a pace that is none", "a factor of 0 or more"))
            }
            Effect::Ladder { front } if !front.is_finite() => {
                Some(("a front that is not finite", "a direction"))
            }
            Effect::CheckpointAt { place } if !place.is_finite() => {
                Some(("a checkpoint whose place is not finite", "a point"))
            }
            _ => None,
        })
    }

    /// A zone that stays where it is, between two opposite corners, with one [`Effect`] or
    /// several [`Effects`].
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

    /// The same zone on a carrier.
    #[must_use]
    pub fn riding(mut self, carrier: CarrierId) -> Self {
        self.carrier = Some(carrier);
        self
    }
}
