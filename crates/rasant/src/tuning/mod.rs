//! Every number that a designer tunes.
//!
//! [`Tuning`] is plain data: read a field, write a field. [`Tuning::get`] and [`Tuning::set`] reach
//! the same numbers by path, and [`KNOBS`] describes them. Files, documents and sliders are made
//! from these descriptions.

mod groups;
mod knob;
mod own;

use crate::name::NameError;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::ScaleError;
use alloc::borrow::ToOwned;
pub use groups::{AirKnobs, CrouchKnobs, FallKnobs, RideKnobs, RunKnobs, SlopeKnobs, TurnKnobs, WalkKnobs};
pub use knob::{Knob, KnobError, Knobs, Range, Unit, whole};
pub use own::{KnobTable, Own};

use crate::animation::overlay::knobs::OverlayKnobs;
use crate::camera::knobs::CameraKnobs;
use crate::moves::dash::knobs::Dash;
use crate::moves::glide::knobs::Glide;
use crate::moves::hop::knobs::Hop;
use crate::moves::jump::knobs::Jump;
use crate::moves::ladder::knobs::Ladder;
use crate::moves::ledge::knobs::Ledge;
use crate::moves::roll::knobs::Roll;
use crate::moves::slam::knobs::Slam;
use crate::moves::swim::knobs::Swim;
use crate::moves::wall::knobs::WallSlide;

/// Generates [`Tuning`] and [`KNOBS`] from the list of groups.
macro_rules! tuning {
    ($($(#[doc = $doc:literal])* $group:ident: $Group:ty;)*) => {
        /// How a body moves. Lengths in metres, times in seconds, angles in radians, switches 0 or
        /// 1.
        #[derive(Clone, Copy, Debug, PartialEq)]
        #[cfg_attr(
            feature = "serde",
            derive(serde::Serialize, serde::Deserialize),
            serde(try_from = "unchecked::Unchecked")
        )]
        pub struct Tuning {
            /// How steer becomes a direction.
            pub steering: Steering,
            /// What turns the body.
            pub face: Face,
            $(
                $(#[doc = $doc])*
                pub $group: $Group,
            )*
            /// Units of length per metre: 1, or the factor given to [`Self::scaled`]. The ranges of
            /// lengths, speeds and accelerations are multiplied by it.
            pub scale: f32,
            /// The list of moves, and the knobs of a game's own moves.
            pub own: Own,
        }

        #[cfg(feature = "serde")]
        mod unchecked {
            use super::*;

            /// A tuning that was read by serde and is not yet checked.
            #[derive(Debug, serde::Deserialize)]
            pub struct Unchecked {
                steering: Steering,
                face: Face,
                $($group: $Group,)*
                #[serde(default = "one")]
                scale: f32,
                own: Own,
            }

            fn one() -> f32 {
                1.0
            }

            impl TryFrom<Unchecked> for Tuning {
                type Error = KnobError;

                fn try_from(read: Unchecked) -> Result<Self, KnobError> {
                    let Unchecked { steering, face, $($group,)* scale, own } = read;
                    let tuning = Self { steering, face, $($group,)* scale, own };
                    tuning.in_range().map(|()| tuning)
                }
            }
        }

        const GROUPS: &[&[Knob]] = &[$(<$Group>::KNOBS),*];

        impl Tuning {
            /// Returns true if bodies move alike by both, whatever the camera does.
            pub(crate) fn moves_like(&self, other: &Self) -> bool {
                self.steering == other.steering
                    && self.face == other.face
                    && self.scale == other.scale
                    && self.own == other.own
                    $(&& (matches!(stringify!($group), "camera") || self.$group == other.$group))*
            }

            fn slot(&mut self, path: &str) -> Option<&mut f32> {
                $(
                    if let Some(slot) = self.$group.slot(path) {
                        return Some(slot);
                    }
                )*
                self.own.slot(path)
            }
        }

        impl Default for Tuning {
            fn default() -> Self {
                Self {
                    steering: Steering::default(),
                    face: Face::default(),
                    $($group: <$Group>::default(),)*
                    scale: 1.0,
                    own: Own::NONE,
                }
            }
        }
    };
}

tuning! {
    /// Walking on firm footing.
    walk: WalkKnobs;
    /// Running: while run is held.
    run: RunKnobs;
    /// Crouching: while crouch is held on the ground, and as long as there is no room to stand up.
    crouch: CrouchKnobs;
    /// Moving sideways while airborne.
    air: AirKnobs;
    /// Jumping from firm footing, and the gravity of the rise.
    jump: Jump;
    /// Falling.
    fall: FallKnobs;
    /// Slopes, steps and crests.
    slope: SlopeKnobs;
    /// Riding on carriers.
    ride: RideKnobs;
    /// Sliding down walls and jumping off them.
    wall: WallSlide;
    /// Ladders.
    ladder: Ladder;
    /// Turning the body.
    turn: TurnKnobs;
    /// A dash, by the action `dash`.
    dash: Dash;
    /// Holding on to ledges from the air, hanging from them and climbing up.
    ledge: Ledge;
    /// Swimming: in water deep enough to float in.
    swim: Swim;
    /// Gliding: while jump is held during a fall.
    glide: Glide;
    /// Slamming down from the air, by one of the game's own actions.
    slam: Slam;
    /// A roll along the ground, by one of the game's own actions.
    roll: Roll;
    /// Moving by whole steps, with the steering `hop`.
    hop: Hop;
    /// An action of the upper body over the motion, by one of the game's own actions.
    overlay: OverlayKnobs;
    /// How a camera follows: see [`Camera`](crate::camera::Camera).
    camera: CameraKnobs;
}

/// Every knob of the library, in the order of the groups. [`Tuning::knobs`] adds those of a game's
/// own moves.
pub const KNOBS: &[Knob] = &joined::<{ count(GROUPS) }>(GROUPS);

const fn count(groups: &[&[Knob]]) -> usize {
    let (mut sum, mut at) = (0, 0);
    while at < groups.len() {
        sum += groups[at].len();
        at += 1;
    }
    sum
}

const fn joined<const COUNT: usize>(groups: &[&[Knob]]) -> [Knob; COUNT] {
    let mut all = [WalkKnobs::KNOBS[0]; COUNT];
    let (mut at, mut group) = (0, 0);
    while group < groups.len() {
        let mut number = 0;
        while number < groups[group].len() {
            all[at] = groups[group][number];
            number += 1;
            at += 1;
        }
        group += 1;
    }
    all
}

/// How steer becomes a direction.
///
/// In two dimensions, all but [`Steering::Side`] make a body seen from above: it has no gravity and
/// no up, and moves over the whole plane.
///
/// ```
/// use rasant::{Face, Steering, Tuning};
///
/// // A third person: the stick goes where the camera looks, the body turns to where it goes.
/// let tuning = Tuning { steering: Steering::View, face: Face::Course, ..Tuning::default() };
/// assert_eq!(tuning.steering, Steering::View);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Steering {
    /// [`Steering::Side`] in two dimensions, [`Steering::View`] in three.
    #[default]
    Usual,
    /// Left and right only.
    Side,
    /// Along the axes of the screen, whatever the look.
    Plan,
    /// Relative to the yaw of the look.
    View,
    /// Sideways turns the body; forward and back move it where it faces.
    Body,
    /// The body walks where the player looks while the pitch is past `turn.gaze_deg`.
    Gaze,
    /// By whole steps along the axes of the screen.
    Hop,
}

/// What turns a body.
///
/// ```
/// use rasant::{Face, Tuning};
///
/// let tuning = Tuning { face: Face::Eyes, ..Tuning::default() }; // a shooter
/// assert_eq!("eyes".parse(), Ok(tuning.face));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Face {
    /// The body turns to where it is steered. It keeps its facing when the steering stops.
    #[default]
    Course,
    /// The body turns to where the player looks.
    Eyes,
    /// Only the host turns the body.
    Host,
}

impl Steering {
    /// Every steering, with its name in files.
    pub const NAMES: [(&'static str, Self); 7] = [
        ("usual", Self::Usual),
        ("side", Self::Side),
        ("plan", Self::Plan),
        ("view", Self::View),
        ("body", Self::Body),
        ("gaze", Self::Gaze),
        ("hop", Self::Hop),
    ];

    /// The steering that is meant in a world of two or three dimensions.
    #[must_use]
    pub fn in_dimension(self, dimension: usize) -> Self {
        match (self, dimension) {
            (Self::Usual, 2) => Self::Side,
            (Self::Usual, _) => Self::View,
            (other, _) => other,
        }
    }

    /// Returns true if the steering makes a body seen from above, without gravity and up, in a
    /// world of this dimension.
    #[must_use]
    pub fn is_from_above(self, dimension: usize) -> bool {
        dimension == 2 && !matches!(self, Self::Usual | Self::Side)
    }
}

impl Face {
    /// Every choice, with its name in files.
    pub const NAMES: [(&'static str, Self); 3] =
        [("course", Self::Course), ("eyes", Self::Eyes), ("host", Self::Host)];
}

macro_rules! by_names {
    ($($Type:ident)*) => {$(
        impl core::fmt::Display for $Type {
            fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
                f.pad(Self::NAMES.iter().find(|(_, one)| one == self).map_or("", |(name, _)| name))
            }
        }

        impl core::str::FromStr for $Type {
            type Err = NameError;

            fn from_str(text: &str) -> Result<Self, NameError> {
                let known = Self::NAMES.iter().find(|(name, _)| *name == text);
                known.map(|(_, one)| *one).ok_or_else(|| NameError::unknown(text))
            }
        }
    )*};
}

by_names! { Steering Face }

impl Tuning {
    /// The gravity of a rise in m/s²: `jump.gravity` if it is set, else 2 × jump height / rise
    /// time², from h = g·t²/2.
    #[must_use]
    pub fn gravity(&self) -> f32 {
        if self.jump.gravity > 0.0 {
            return self.jump.gravity;
        }
        2.0 * self.jump.height / (self.jump.rise_time * self.jump.rise_time)
    }

    /// The upward speed at the take-off of a jump in m/s: `jump.take_off_speed` if it is set, else
    /// the speed that reaches the jump's height.
    #[must_use]
    pub fn take_off_speed(&self) -> f32 {
        if self.jump.take_off_speed > 0.0 {
            return self.jump.take_off_speed;
        }
        self.speed_to_rise(self.jump.height)
    }

    /// The height of a jump from the ground with jump held: the height that is set, or that follows
    /// from the take-off speed.
    #[must_use]
    pub fn jump_height(&self) -> f32 {
        if self.jump.take_off_speed <= 0.0 {
            return self.jump.height;
        }
        let (gravity, speed) = (self.gravity(), self.jump.take_off_speed);
        let slow = speed.min(self.fall.apex_speed);
        (speed * speed - slow * slow) / (2.0 * gravity)
            + slow * slow / (2.0 * gravity * self.fall.apex_gravity)
    }

    /// The upward speed in m/s that rises by `height`: √(2·g·h), or less where gravity is lighter
    /// around the apex. There, below the speed u, it is a·g, so that h = (v² − u²) / 2g + u² / 2ag.
    #[must_use]
    pub fn speed_to_rise(&self, height: f32) -> f32 {
        let gravity = self.gravity();
        let (slow, lighter) = (self.fall.apex_speed, self.fall.apex_gravity);
        let within_top = 2.0 * lighter * gravity * height;
        if within_top <= slow * slow {
            return within_top.sqrt();
        }
        (2.0 * gravity * height + slow * slow * (1.0 - 1.0 / lighter)).sqrt()
    }

    /// The height of jump number `number` in the air, from 0.
    #[must_use]
    pub fn air_jump_height(&self, number: u8) -> f32 {
        self.jump.air_height * libm::powf(self.jump.air_change, f32::from(number))
    }

    /// The tuning for the same motion in a world whose lengths are `factor` times as large, as in
    /// pixels: lengths and speeds grow, times and angles stay, and the ranges of the knobs grow
    /// with them. Scale the hull and the level as well. For powers of two from 1/64 to 64 the
    /// motion is then the same to the bit.
    ///
    /// # Errors
    /// If `factor` is not a finite number above 0.
    ///
    /// ```
    /// use rasant::{Hull, Tuning};
    ///
    /// let pixels = 32.0; // in a metre
    /// let mut tuning = Tuning::default().scaled(pixels)?;
    /// tuning.set("walk.speed", 5.0 * pixels)?;
    /// let hull = Hull::capsule(0.35, 1.8)?.scaled(pixels)?;
    /// assert_eq!(hull.height(), 57.6);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn scaled(mut self, factor: f32) -> Result<Self, ScaleError> {
        ScaleError::check(factor)?;
        for knob in self.knobs() {
            if let Some(slot) = self.slot(knob.path) {
                *slot *= knob.unit.scale(factor);
            }
        }
        self.scale *= factor;
        Ok(self)
    }

    /// The value of the knob at `path`, in the unit of files (angles in degrees).
    ///
    /// # Errors
    /// [`KnobError::Unknown`] if there is no such knob.
    pub fn get(&self, path: &str) -> Result<f32, KnobError> {
        let knob = self.knob(path)?;
        let mut copy = *self;
        let slot = copy.slot(path).ok_or_else(|| KnobError::Unknown(path.to_owned()))?;
        Ok(*slot / knob.unit.in_code())
    }

    /// The tuning between this one (`fraction` 0) and another one (1), for effects that fade in: mud
    /// that slows down, a potion that wears off.
    ///
    /// Every number is between those of the two. Switches, counts, the steering, the facing and the
    /// list of moves are those of the nearer tuning, and so is everything if the two have different
    /// scales. A number whose 0 stands for "not set", as `jump.gravity`, should be set in both or in
    /// neither. A fraction outside 0 to 1 counts as the nearer end, and NaN as 0.
    ///
    /// ```
    /// use rasant::Tuning;
    ///
    /// let dry = Tuning::default();
    /// let mut mud = dry;
    /// mud.set("walk.speed", 1.0)?;
    /// let ankle_deep = dry.lerp(&mud, 0.5);
    /// assert_eq!(ankle_deep.walk.speed, 0.5 * (dry.walk.speed + 1.0));
    /// assert_eq!(ankle_deep.jump, dry.jump);
    /// assert_eq!((dry.lerp(&mud, 0.0), dry.lerp(&mud, 1.0)), (dry, mud));
    /// # Ok::<(), rasant::tuning::KnobError>(())
    /// ```
    #[must_use]
    pub fn lerp(&self, other: &Self, fraction: f32) -> Self {
        let fraction = if fraction > 0.0 { fraction.min(1.0) } else { 0.0 };
        let (mut from, mut to) = (*self, *other);
        let mut between = if fraction < 0.5 { from } else { to };
        if from.scale != to.scale {
            return between;
        }
        for knob in self.knobs().iter().filter(|knob| !knob.unit.is_whole()) {
            let ends = [from.slot(knob.path), to.slot(knob.path)].map(|slot| slot.map(|value| *value));
            if let ([Some(from), Some(to)], Some(slot)) = (ends, between.slot(knob.path)) {
                // What is equal in both stays so, to the bit.
                *slot = if from == to { from } else { from * (1.0 - fraction) + to * fraction };
            }
        }
        between
    }

    /// Sets the knob at `path`, in the unit of files (angles in degrees).
    ///
    /// # Errors
    /// [`KnobError::Unknown`] if there is no such knob, [`KnobError::Range`] if the value is
    /// outside its range or NaN. The tuning is then unchanged.
    pub fn set(&mut self, path: &str, value: f32) -> Result<(), KnobError> {
        let knob = self.knob(path)?.scaled(self.scale);
        let broken = knob.unit.is_whole() && value.fract() != 0.0;
        if broken || !(knob.min..=knob.max).contains(&value) {
            return Err(KnobError::Range { knob, value });
        }
        let slot = self.slot(path).ok_or_else(|| KnobError::Unknown(path.to_owned()))?;
        *slot = value * knob.unit.in_code();
        Ok(())
    }

    /// The description of the knob at `path`, with its range at a scale of 1: see [`Knob::scaled`].
    ///
    /// # Errors
    /// [`KnobError::Unknown`] if there is no such knob.
    pub fn knob(&self, path: &str) -> Result<&'static Knob, KnobError> {
        let ours = KNOBS.iter().find(|knob| knob.path == path);
        ours.or_else(|| self.own.knob(path)).ok_or_else(|| KnobError::Unknown(path.to_owned()))
    }

    /// Checks that every knob is within its range.
    ///
    /// # Errors
    /// [`KnobError::Range`] for the first that is not, [`KnobError::Scale`], or
    /// [`KnobError::Detached`].
    pub fn checked(&self) -> Result<(), KnobError> {
        if self.is_detached() {
            return Err(KnobError::Detached);
        }
        self.in_range()
    }

    fn in_range(&self) -> Result<(), KnobError> {
        ScaleError::check(self.scale)?;
        self.knobs().into_iter().try_for_each(|knob| {
            let knob = knob.scaled(self.scale);
            let value = self.get(knob.path)?;
            // Converting degrees to radians and back may change the last digit.
            let slack = knob.max.abs() * 4.0 * f32::EPSILON;
            if (knob.min - slack..=knob.max + slack).contains(&value) {
                Ok(())
            } else {
                Err(KnobError::Range { knob, value })
            }
        })
    }
}
