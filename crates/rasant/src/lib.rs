//! Rasant turns a player's input into movement: walking, jumping, gravity, slopes, steps and walls,
//! in two and three dimensions, at a fixed timestep.
//!
//! It pursues, in this order: correct motion; determinism (the same inputs give the same bits); a
//! data flow in one direction; independence from the host's world, clock and renderer; every number
//! as a knob with a unit and a range; few dependencies.
//!
//! ```
//! use rasant::glam::Vec2;
//! use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
//!
//! let mut builder = Level::builder();
//! builder.add(Piece::block(Vec2::new(-10.0, -1.0), Vec2::new(10.0, 0.0))?);
//! let roof = builder.build()?;
//!
//! let hull = Hull::capsule(0.35, 1.8)?;
//! let mut walker = Controller::new(Tuning::default(), hull, Vec2::ZERO);
//! let dt = 1.0 / 60.0;
//! walker.tick(&Intent::default(), &roof, dt); // finds its feet
//! walker.tick(&Intent::steering(1.0, 0.0).pressing(Actions::JUMP), &roof, dt);
//! assert_eq!(walker.state().mode, Mode::Airborne);
//! while !walker.state().footing.is_firm() {
//!     walker.tick(&Intent::steering(1.0, 0.0), &roof, dt);
//! }
//! println!("landed {:.2} m on", walker.position().x);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # Two interfaces
//! [`Controller`] with [`Level`] stores everything for you. It is written on [`tick`], a function
//! over plain data, and [`Surroundings`], a trait that a host implements over its own world.
//!
//! # In the order of the work
//! | step | look at |
//! | --- | --- |
//! | a collision shape, a few boxes, slopes and steps | [`Hull`], [`Piece`], [`Level`] |
//! | read an axis, move, ticks of one length | [`Intent`], [`Controller`], [`Clock`] |
//! | gravity, slopes, jumps, and every number | [`Tuning`], [`tuning::Knob`] |
//! | keys, gamepads, two players | [`Bindings`], [`Sampler`], [`DeviceEvent`] |
//! | how input steers, and what turns the body | [`Steering`], [`Face`], [`Look`] |
//! | moving platforms, ladders, water, wind, hazards | [`Carrier`], [`Zone`], [`Effect`], [`Surface`] |
//! | dashes, rolls, your own maneuvers | [`Plan`], [`Mutes`], [`moves`](mod@moves) |
//! | animation, sound, poses between ticks | [`Event`], [`Gait`], [`Pose`] |
//! | recordings, snapshots, rollback | [`Tape`], [`State`], [`Level::snapshot`] |
//! | rays, overlaps, closest points | [`contact::Queries`] |
//! | your own world | [`Surroundings`], [`level::AnySurroundings`], [`tick`] |
//!
//! The crate `rasant-files`, which a game can ship, reads tunings, levels and bindings from files
//! (`read_tuning`, `read_level`, `read_bindings`).
//!
//! # Conventions
//! Metres, seconds, radians; +x right, +y up, and −z forward in three dimensions. The library reads
//! no clock, no file and no maths library of the platform.

#![no_std]
#![warn(missing_debug_implementations)]

extern crate alloc;
#[cfg(any(test, feature = "std"))]
extern crate std;

pub mod animation;
pub mod camera;
pub mod clock;
pub mod contact;
pub mod controller;
pub mod crowd;
pub mod input;
pub mod level;
pub mod moves;
pub mod space;
pub mod state;
pub mod tuning;

mod kinematics;
mod memory;
mod name;
#[cfg(not(feature = "std"))]
mod real;
#[cfg(debug_assertions)]
mod shared;
mod summer;
mod thresholds;
mod travel;

pub use glam;

pub use clock::Clock;
pub use contact::{Geometry, Hull, HullShape};
pub use controller::{Controller, ManeuverPose, Pose, tick};
pub use crowd::{Crowd, CrowdBody};
pub use input::{
    Actions, Bindings, DeviceEvent, GameLoop, Intent, Key, Look, Opposites, Press, Sampler, Tape,
};
pub use level::{
    Carrier, CarrierId, Effect, Keyframe, Layers, Level, PathEnd, Piece, PieceId, Surface, SurfaceId,
    Surroundings, Zone, ZoneId,
};
pub use space::{ScaleError, Vector};
pub use state::{Departure, Event, Gait, Mode, Mutes, Phase, Plan, Refusal, State};
pub use tuning::{Face, Steering, Tuning};

/// The guide's example of a move, compiled as a test.
#[cfg(doctest)]
#[doc = include_str!("../../../docs/moves.md")]
pub struct MovesGuide;

/// The code of the guide's first page, compiled and run as a test, like that of the pages below.
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/01-place-and-body.md")]
pub struct GuidePlaceAndBody;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/02-view-and-camera.md")]
pub struct GuideView;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/03-input.md")]
pub struct GuideInput;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/08-sound-and-effects.md")]
pub struct GuideSoundAndEffects;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/17-levels.md")]
pub struct GuideLevels;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/21-game-loop.md")]
pub struct GuideGameLoop;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/26-other-bodies.md")]
pub struct GuideOtherBodies;

/// See [`GuidePlaceAndBody`].
#[cfg(doctest)]
#[doc = include_str!("../../../docs/guide/27-cameras.md")]
pub struct GuideCameras;

/// The README's example, compiled and run as a test.
#[cfg(doctest)]
#[doc = include_str!("../../../README.md")]
pub struct Readme;
