//! What is called on a body in the shipped level, compiled with the library itself.
//!
//! In builds for development, crates above take generic code that is already
//! compiled here instead of compiling it again (as rustc does up to opt-level 1):
//! a change to one test, or to a game, is then a matter of seconds. (Ticks in a level
//! are generic in nothing, and compiled here alone in any build.)

use glam::{Vec2, Vec3};

use crate::contact::Geometry;
use crate::controller::{self, Controller, DebugView};
use crate::level::{Level, LevelBuilder, LevelError};
use crate::{Hull, Pose, State};

/// What is called on a body and a level.
struct Shared<V: Geometry> {
    _footing: fn(&mut Controller<V>, &Level<V>),
    _room: fn(&Hull, &State<V>, &Level<V>) -> bool,
    _view: fn(&Controller<V>, &Level<V>) -> DebugView<V>,
    _pose: fn(&Controller<V>, f32) -> Pose<V>,
    _build: fn(LevelBuilder<V>) -> Result<Level<V>, LevelError>,
    _advance: fn(&mut Level<V>, f32),
}

impl<V: Geometry> Shared<V> {
    const ALL: Self = Self {
        _footing: Controller::find_footing,
        _room: controller::has_room,
        _view: Controller::debug_view,
        _pose: Controller::pose,
        _build: LevelBuilder::build,
        _advance: Level::advance,
    };
}

#[used]
static PLANE: Shared<Vec2> = Shared::ALL;
#[used]
static SPACE: Shared<Vec3> = Shared::ALL;
