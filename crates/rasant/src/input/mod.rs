//! What the player wants, tick by tick.
//!
//! The controller never sees a device. It sees one [`Intent`] per tick: where to steer, where to
//! look, and which actions are held, were pressed and were released since the last tick.
//!
//! A game forwards its [`DeviceEvent`]s with their times to a [`Sampler`], which knows the player's
//! [`Bindings`], and asks it for the intent of each tick. A [`GameLoop`] is a sampler and a
//! [`Clock`](crate::Clock) with one time for both: frames in, ticks with their intents out.

mod bindings;
mod device;
mod game_loop;
mod sampler;
mod tape;

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use core::fmt;

use glam::{Vec2, Vec3};

pub use bindings::{
    Bindings, Chord, Conflict, Direction, End, Gesture, LookRule, Meaning, Opposites, Shaping, Source,
    SourceError, Stick, Zoning,
};
pub use device::{DeviceEvent, Key, PadAxis, PadButton, PointerButton, Press, TimedEvent, WheelTurn};
pub use game_loop::GameLoop;
pub use sampler::Sampler;
pub use tape::{Tape, TapeError};

/// A set of named actions, at most 32. `contains` returns true if all of the others are in the set,
/// `intersects` if any is.
///
/// The first four have a meaning to the controller; the other 28 are the game's own.
///
/// ```
/// use rasant::Actions;
///
/// let grab = Actions::own(0); // one of the game's own
/// let both = Actions::JUMP | grab;
/// assert!(both.contains(Actions::JUMP) && both - grab == Actions::JUMP);
/// assert_eq!(grab.name().as_deref(), Some("own-0"));
/// ```
#[derive(Clone, Copy, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Actions(u32);

bitflags::bitflags! {
    impl Actions: u32 {
        /// Jump.
        const JUMP = 1;
        /// Dash.
        const DASH = 1 << 1;
        /// Run.
        const RUN = 1 << 2;
        /// Crouch.
        const CROUCH = 1 << 3;
        /// The game's own.
        const _ = !0;
    }
}

impl Actions {
    /// No action.
    pub const NONE: Self = Self::empty();

    /// One of the game's own actions, 0 to 27.
    ///
    /// # Panics
    /// If `index` is 28 or more.
    #[must_use]
    pub const fn own(index: u32) -> Self {
        assert!(index < 28, "a game has 28 actions of its own, 0 to 27");
        Self(1 << (index + 4))
    }

    /// The action that a knob such as `roll.action` names by its number: one of the game's own, or
    /// none if the number is below 0.
    #[must_use]
    pub fn of_knob(number: f32) -> Self {
        if number < -0.5 { Self::NONE } else { Self::own(u32::from(crate::tuning::whole(number).min(27))) }
    }

    /// The name of the only action in the set: `jump`, `dash`, `run`, `crouch`, or `own-0` to
    /// `own-27`. `None` for an empty set and for several actions.
    #[must_use]
    pub fn name(self) -> Option<String> {
        if self.0.count_ones() != 1 {
            return None;
        }
        let index = self.0.trailing_zeros() as usize;
        Some(match NAMES.get(index) {
            Some(name) => (*name).to_owned(),
            None => format!("own-{}", index - NAMES.len()),
        })
    }

    /// The action with this name.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        if let Some(index) = NAMES.iter().position(|known| *known == name) {
            return Some(Self(1 << index));
        }
        let index: u32 = name.strip_prefix("own-")?.parse().ok()?;
        (index < 28).then(|| Self::own(index))
    }

    /// Each action of the set on its own, lowest first.
    pub fn each(self) -> impl Iterator<Item = Self> {
        (0..32).map(|index| Self(1 << index)).filter(move |&action| self.intersects(action))
    }
}

const NAMES: [&str; 4] = ["jump", "dash", "run", "crouch"];

impl fmt::Debug for Actions {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_set().entries(self.each().filter_map(Self::name)).finish()
    }
}

/// Where the player looks.
///
/// ```
/// use rasant::Look;
/// use rasant::glam::Vec3;
///
/// assert_eq!(Look::default().direction(), -Vec3::Z);
/// let left = Look::toward(-Vec3::X);
/// assert!((left.yaw - std::f32::consts::FRAC_PI_2).abs() < 1e-6 && left.pitch.abs() < 1e-6);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Look {
    /// The turn from forward, in radians, counter-clockwise from above.
    pub yaw: f32,
    /// The tilt from level, in radians, positive upward.
    pub pitch: f32,
}

impl Look {
    /// The unit vector of the look in the axes of the body: −z, with +y up, for yaw 0 and pitch 0.
    ///
    /// ```
    /// use rasant::Look;
    /// use rasant::glam::Vec3;
    ///
    /// let look = Look { yaw: 0.5, pitch: -0.25 };
    /// let again = Look::toward(look.direction());
    /// assert!((again.yaw - look.yaw).abs() < 1e-6 && (again.pitch - look.pitch).abs() < 1e-6);
    /// assert_eq!(Look::default().direction(), Vec3::NEG_Z);
    /// ```
    #[must_use]
    pub fn direction(self) -> Vec3 {
        let (level, up) = (libm::cosf(self.pitch), libm::sinf(self.pitch));
        Vec3::new(-libm::sinf(self.yaw) * level, up, -libm::cosf(self.yaw) * level)
    }

    /// The look along a direction of any length, as from a camera to its target. Straight ahead for
    /// a zero vector.
    #[must_use]
    pub fn toward(direction: Vec3) -> Self {
        let Some(along) = direction.try_normalize() else { return Self::default() };
        let pitch = libm::asinf(along.y.clamp(-1.0, 1.0));
        let level = Vec2::new(along.x, along.z);
        let yaw = if level == Vec2::ZERO { 0.0 } else { libm::atan2f(-along.x, -along.z) };
        Self { yaw, pitch }
    }
}

impl Look {
    /// The look from a body to a target for a tick of `dt` seconds, as for keeping an enemy in
    /// view. It starts from where the body will be in the middle of the tick, so that steering
    /// sideways circles the target at a constant distance.
    ///
    /// ```
    /// use rasant::Look;
    /// use rasant::glam::Vec3;
    ///
    /// let (position, velocity, target) = (Vec3::ZERO, Vec3::X * 4.0, Vec3::NEG_Z * 5.0);
    /// let look = Look::at(target, position, velocity, 1.0 / 60.0);
    /// assert!(look.yaw > 0.0, "a little to the left of where the target is now");
    /// ```
    #[must_use]
    pub fn at(target: Vec3, position: Vec3, velocity: Vec3, dt: f32) -> Self {
        Self::toward(target - (position + velocity * (0.5 * dt)))
    }
}

/// What the player wants in one tick.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Actions, Intent};
///
/// let jump = Intent::steering(1.0, 0.0).pressing(Actions::JUMP); // in the tick of the press
/// let held = Intent::steering(1.0, 0.0).holding(Actions::JUMP); // and in those after it
/// assert!(jump.pressed.contains(Actions::JUMP) && held.pressed.is_empty());
/// let diagonal = Intent { steer: Vec2::ONE, ..Intent::default() };
/// assert!((diagonal.safe_steer().length() - 1.0).abs() < 1e-6, "no faster");
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Intent {
    /// Where to go, in stick space: +x right, +y forward or up. A length above 1 counts as 1, so
    /// that diagonals are no faster.
    pub steer: Vec2,
    /// Where to look.
    pub look: Look,
    /// Actions held down during this tick.
    pub held: Actions,
    /// Actions pressed since the last tick.
    pub pressed: Actions,
    /// Actions released since the last tick.
    pub released: Actions,
}

impl Intent {
    /// An intent to steer by `x` and `y` and nothing else.
    #[must_use]
    pub fn steering(x: f32, y: f32) -> Self {
        Self { steer: Vec2::new(x, y), ..Self::default() }
    }

    /// The intent with `actions` pressed in this tick, and held.
    #[must_use]
    pub fn pressing(mut self, actions: Actions) -> Self {
        self.pressed |= actions;
        self.held |= actions;
        self
    }

    /// The intent with `actions` held since an earlier tick.
    #[must_use]
    pub fn holding(mut self, actions: Actions) -> Self {
        self.held |= actions;
        self
    }

    /// The intent with `actions` released in this tick.
    #[must_use]
    pub fn releasing(mut self, actions: Actions) -> Self {
        self.released |= actions;
        self.held = self.held.difference(actions);
        self
    }

    /// The steer as the controller uses it: finite, and no longer than 1.
    #[must_use]
    pub fn safe_steer(&self) -> Vec2 {
        let length_squared = self.steer.x * self.steer.x + self.steer.y * self.steer.y;
        if length_squared <= 1.0 {
            self.steer
        } else if length_squared.is_finite() {
            self.steer * (1.0 / length_squared.sqrt())
        } else {
            Vec2::ZERO
        }
    }
}
