//! What depends on the view: third person, behind the body.

use rasant::camera::Camera;
use rasant::glam::Vec3;
use rasant::{Controller, Intent, Layers, Level, Look};
use rasant_files::{LevelFile, World};
use rasant_window::{BODY, Canvas};

pub type V = Vec3;

pub fn level_of(world: &World) -> Option<&LevelFile<V>> {
    match world {
        World::Space(file) => Some(file),
        World::Plane(_) => None,
    }
}

/// The camera, and the direction in which the player looks.
pub struct Film {
    pub camera: Camera<V>,
    look: Look,
}

impl Film {
    pub fn new(body: &Controller<V>) -> Self {
        Self { camera: Camera::new(body.tuning.camera, body), look: Look::default() }
    }

    pub fn follow(&mut self, body: &Controller<V>, level: &Level<V>, intent: &Intent, dt: f32) {
        self.look = intent.look;
        self.camera.tick_on_arm(body, dt, self.look, level, Layers::ALL);
    }

    pub fn look(&self, canvas: &mut Canvas, body: &Controller<V>, level: &Level<V>, blend: f32) {
        canvas.look(&self.camera.on_arm(body, self.look, blend, level, Layers::ALL));
    }

    pub fn body(&self, canvas: &mut Canvas, body: &Controller<V>, blend: f32) {
        canvas.body(body, blend, BODY);
    }
}
