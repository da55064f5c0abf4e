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
//! assert_eq!(walker.state().mode, Mode::Aloft);
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
//! # Conventions
//! Metres, seconds, radians; +x right, +y up, and −z forward in three
//! dimensions. Nothing here reads a clock, a file or a platform's maths
//! library.

pub mod contact;
pub mod controller;
pub mod input;
pub mod level;
pub mod moves;
pub mod space;
pub mod state;
pub mod travel;
pub mod tuning;

mod clock;
mod memory;
mod name;
#[cfg(debug_assertions)]
mod shared;

pub use glam;

pub use clock::{Clock, ClockError, FrameTicks};
pub use contact::{Geometry, Hull, HullError, HullShape, Patch};
pub use controller::{Controller, DebugContact, DebugView, Pose, Timer, has_room, tick, tick_into};
pub use input::{
    Actions, Bindings, Chord, DeviceEvent, Intent, Key, Look, Meaning, PadAxis, PadButton, PointerButton,
    Press, Sampler, Source, Tape, TapeError, TimedEvent, Way,
};
pub use level::{
    Carrier, CarrierId, Effect, Effects, Found, HeightGrid, Keyframe, Layers, Level, LevelBuilder,
    LevelError, PathEnd, Piece, PieceError, PieceId, Placement, Ride, Seams, Shape, Sides, Surface,
    SurfaceId, Surroundings, Tag, Zone, ZoneId,
};
pub use memory::Memory;
pub use moves::{
    Answer, Fall, Law, Move, MoveSet, Moves, Outcome, Proposal, Sensed, Senses, SetWay, Standard, Then,
    Toward,
};
pub use space::{Bounds, Frame, Vector};
pub use state::{
    Air, Dashes, Departure, EVENTS, Event, Events, Footing, FootingKind, Gait, Heading, JumpKind, Locks,
    Maneuver, ManeuverKind, Memories, Mode, Name, NameError, Owner, Phase, Plan, Refusal, Rise, State,
    WallKick, WallTouch, Zones,
};
pub use tuning::{Face, KNOBS, Knob, KnobError, OwnKnobs, Steering, Tuning, Unit};

/// The guide's example of a move, kept compiling.
#[cfg(doctest)]
#[doc = include_str!("../../../docs/moves.md")]
pub struct MovesGuide;

/// The README's example, kept compiling and true.
#[cfg(doctest)]
#[doc = include_str!("../../../README.md")]
pub struct Readme;
