//! Space that is not solid: ladders, wind, slow ground, goals.

use crate::space::{Bounds, Vector};

use super::carrier::CarrierId;

/// Names one of a level's zones.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct ZoneId(pub u16);

/// A box of space, along the world's axes, that does something to the bodies
/// whose hulls overlap it.
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
pub enum Effect<V> {
    /// Can be climbed along the body's up, in the middle of the box. Before a wall,
    /// the box stands on the open side, as deep as a body is wide or deeper, and
    /// reaches up to the roof that it leads to: with a `front`, one goes from its top
    /// onto that, and from there out before the wall and down.
    Ladder {
        /// From the ladder to who climbs it, in three dimensions: steering
        /// against it climbs, along it descends. Zero, and always in two
        /// dimensions, for steering forward and back.
        front: V,
    },
    /// Pushes bodies aloft by this acceleration in m/s². Afoot they drift at the
    /// speed that it gives in the stop time of their walk; up by more than gravity,
    /// that of a fall from rest and that of a rise, it lifts them off.
    Wind {
        /// The acceleration.
        push: V,
    },
    /// A factor on the speed asked for, afoot and aloft.
    Slow {
        /// Above 0.
        pace: f32,
    },
    /// Puts the body back at its last checkpoint.
    Hazard,
    /// Is filled with water up to its top: bodies that it is deep enough for swim in it.
    Water,
    /// Is where one wants to come to. It only tells.
    Goal,
    /// Is where a hazard puts the body back to: the place where it first came
    /// into the zone.
    Checkpoint,
    /// Makes another direction up. Outside it is what it was before.
    Gravity {
        /// Not zero.
        up: V,
    },
    /// The host's own. It only tells.
    Own(u16),
}

impl<V: Vector> Effect<V> {
    /// Its name, as in files.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Ladder { .. } => "ladder",
            Self::Wind { .. } => "wind",
            Self::Slow { .. } => "slow",
            Self::Water => "water",
            Self::Hazard => "hazard",
            Self::Goal => "goal",
            Self::Checkpoint => "checkpoint",
            Self::Gravity { .. } => "gravity",
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
    /// A zone that stays where it is, between two opposite corners, with one [`Effect`] or
    /// several [`Effects`].
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Effect, Effects, Zone};
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
