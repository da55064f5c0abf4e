//! Rasant turns a player's input into movement: walking, jumping, gravity,
//! slopes, steps and walls, in two and three dimensions, at a fixed timestep.
//!
//! In order of importance: motion that is right; the same bits from the same
//! inputs; one way through a tick, down and never back up; no claim on the
//! host's world, clock or renderer; every number a knob with a unit; few
//! dependencies.
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
//! # Two doors
//! [`Controller`] with [`Level`] stores everything for you. Under it lies
//! [`tick`], a function over plain data, and [`Surroundings`], a trait that a
//! host implements over its own world.
//!
//! # In the order of the work
//! | step | look at |
//! | --- | --- |
//! | a hull round the body, a few boxes, slopes and steps | [`Hull`], [`Piece`], [`Level`] |
//! | read an axis, move, ticks of one length | [`Intent`], [`Controller`], [`Clock`] |
//! | gravity, slopes, jumps, and every number | [`Tuning`], [`tuning::Knob`] |
//! | keys, gamepads, two players | [`Bindings`], [`Sampler`], [`DeviceEvent`] |
//! | who steers how, and faces where | [`Steering`], [`Face`], [`Look`] |
//! | moving platforms, ladders, water, wind, hazards | [`Carrier`], [`Zone`], [`Effect`], [`Surface`] |
//! | dashes, rolls, maneuvers of one's own | [`Plan`], [`Locks`], [`moves`](mod@moves) |
//! | animation, sound, pictures between ticks | [`Event`], [`Gait`], [`Pose`] |
//! | recordings, snapshots, rollback | [`Tape`], [`State`], [`Level::snapshot`] |
//! | a world of one's own | [`Surroundings`], [`level::AnySurroundings`], [`tick`] |
//!
//! Tunings, levels and bindings are read from files by the crate `rasant-files`
//! (`read_tuning`, `read_level`, `read_bindings`), which a game may ship.
//!
//! # Conventions
//! Metres, seconds, radians; +x right, +y up, and −z forward in three
//! dimensions. Nothing here reads a clock, a file or a platform's maths
//! library.

#![no_std]
#![warn(missing_debug_implementations)]

extern crate alloc;
#[cfg(any(test, feature = "std"))]
extern crate std;

pub mod clock;
pub mod contact;
pub mod controller;
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
pub use input::{
    Actions, Bindings, DeviceEvent, GameLoop, Intent, Key, Look, Opposites, Press, Sampler, Tape,
};
pub use level::{
    Carrier, CarrierId, Effect, Keyframe, Layers, Level, PathEnd, Piece, PieceId, Surface, SurfaceId,
    Surroundings, Zone, ZoneId,
};
pub use space::{ScaleError, Vector};
pub use state::{Departure, Event, Gait, Locks, Mode, Phase, Plan, Refusal, State};
pub use tuning::{Face, Steering, Tuning};

/// The guide's example of a move, kept compiling.
#[cfg(doctest)]
#[doc = include_str!("../../../docs/moves.md")]
pub struct MovesGuide;

/// The README's example, kept compiling and true.
#[cfg(doctest)]
#[doc = include_str!("../../../README.md")]
pub struct Readme;
