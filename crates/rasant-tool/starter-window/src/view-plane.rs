//! What depends on the view: two dimensions.

use rasant::camera::Camera;
use rasant::glam::Vec2;
use rasant::{Controller, Intent, Level};
use rasant_files::{LevelFile, World};
use rasant_window::{BODY, Canvas};

pub type V = Vec2;

/// The height of the picture in metres.
const HEIGHT: f32 = 12.0;

pub fn level_of(world: &World) -> Option<&LevelFile<V>> {
    match world {
        World::Plane(file) => Some(file),
        World::Space(_) => None,
    }
}

/// The camera.
pub struct Film {
    pub camera: Camera<V>,
}

impl Film {
    pub fn new(body: &Controller<V>) -> Self {
        Self { camera: Camera::new(body.tuning.camera, body) }
    }

    pub fn follow(&mut self, body: &Controller<V>, _: &Level<V>, _: &Intent, dt: f32) {
        self.camera.tick(body, dt);
    }

    pub fn look(&self, canvas: &mut Canvas, _: &Controller<V>, _: &Level<V>, blend: f32) {
        canvas.look_from_the_side(self.camera.focus(blend), HEIGHT);
    }

    pub fn body(&self, canvas: &mut Canvas, body: &Controller<V>, blend: f32) {
        canvas.body(body, blend, BODY);
    }
}
