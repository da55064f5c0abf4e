//! What depends on the view: first person, from the eyes of the body.

use rasant::camera::Camera;
use rasant::glam::Vec3;
use rasant::{Controller, Intent, Level, Look};
use rasant_files::{LevelFile, World};
use rasant_window::Canvas;

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

    pub fn follow(&mut self, body: &Controller<V>, _: &Level<V>, intent: &Intent, dt: f32) {
        self.look = intent.look;
        self.camera.tick(body, dt);
    }

    pub fn look(&self, canvas: &mut Canvas, body: &Controller<V>, _: &Level<V>, blend: f32) {
        canvas.look(&self.camera.from_eyes(body, self.look, blend));
    }

    /// The player does not see the own body.
    pub fn body(&self, _: &mut Canvas, _: &Controller<V>, _: f32) {}
}
