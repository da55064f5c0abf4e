//! The scenes of the benchmarks: a rolling mesh in three dimensions, uneven boxes in two, and many
//! bodies that walk on each; and the same for the general library.
#![allow(dead_code, missing_docs)]

use std::hint::black_box;

use rasant::glam::{Vec2, Vec3};
use rasant::{Geometry, Hull, Intent, Layers, Level, Piece, State, SurfaceId, Tuning};

pub const BODIES: usize = 2000;
pub const DT: f32 = 1.0 / 60.0;

pub fn capsule() -> Hull {
    Hull::capsule(0.4, 1.8).unwrap()
}

/// A tuning with all moves.
pub fn everything() -> Tuning {
    let mut tuning = Tuning::default();
    tuning.jump.air_count = 2.0;
    tuning.jump.corner = 0.2;
    tuning.jump.lip = 0.2;
    tuning.fall.apex_speed = 1.5;
    tuning.fall.apex_gravity = 0.6;
    tuning.slope.uphill = 0.9;
    tuning.slope.downhill = 1.05;
    tuning.wall.slide_speed = 2.0;
    tuning.wall.jump_height = 1.5;
    tuning.turn.half_life = 0.05;
    tuning.dash.charges = 2.0;
    tuning.dash.recharge_time = 1.0;
    tuning.roll.action = 0.0;
    tuning
}

/// The vertices and triangles of a rolling ground of `cells` x `cells` squares.
pub fn rolling(cells: usize) -> (Vec<Vec3>, Vec<[u32; 3]>) {
    let side = cells + 1;
    let half = cells as f32 * 0.5;
    let vertices = (0..side * side)
        .map(|i| {
            let (x, z) = ((i % side) as f32, (i / side) as f32);
            let height =
                1.6 * (x * 0.23).sin() + 1.2 * (z * 0.31 + 1.0).sin() + 0.4 * (x * 0.9 + z * 0.7).sin();
            Vec3::new(x - half, height, z - half)
        })
        .collect();
    let mut triangles = Vec::with_capacity(cells * cells * 2);
    for row in 0..cells {
        for column in 0..cells {
            let a = (row * side + column) as u32;
            let c = a + side as u32;
            triangles.push([a, c, a + 1]);
            triangles.push([a + 1, c, c + 1]);
        }
    }
    (vertices, triangles)
}

pub fn rolling_level(cells: usize) -> Level<Vec3> {
    let (vertices, triangles) = rolling(cells);
    let mut builder = Level::builder();
    builder.add_mesh(&vertices, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    builder.build().unwrap()
}

/// Uneven boxes side by side, with tops that differ by less than a step.
pub fn boxes() -> Vec<(Vec2, Vec2)> {
    (0..512)
        .map(|i| {
            let x = i as f32 * 1.5 - 384.0;
            let top = 0.12 * ((i * 7919) % 17) as f32 / 17.0;
            (Vec2::new(x, -2.0), Vec2::new(x + 1.5, top))
        })
        .collect()
}

pub fn boxes_level() -> Level<Vec2> {
    let mut builder = Level::builder();
    for (min, max) in boxes() {
        builder.add(Piece::block(min, max).unwrap());
    }
    builder.build().unwrap()
}

/// Bodies of one kind, each with its own steering. They share a tuning and a hull, as in a crowd.
#[derive(Clone)]
pub struct Crowd<V> {
    pub tuning: Tuning,
    pub hull: Hull,
    pub bodies: Vec<State<V>>,
    pub intents: Vec<Intent>,
    /// The events of the last body, as a host would read them before the next body.
    pub events: rasant::state::Events<V>,
}

impl<V: Geometry> Crowd<V> {
    /// Spreads bodies over `reach` metres and walks them for a second, so that all stand.
    pub fn on(level: &Level<V>, reach: f32) -> Self {
        Self::tuned(Tuning::default(), level, reach)
    }

    /// The same with a given tuning.
    pub fn tuned(tuning: Tuning, level: &Level<V>, reach: f32) -> Self {
        let side = (BODIES as f32).sqrt();
        let place = |i: usize| {
            let along = i as f32 / BODIES as f32;
            let across = (i as f32 / side).fract();
            let at = if V::DIMENSION == 2 {
                [(along * 2.0 - 1.0) * reach, 6.0, 0.0]
            } else {
                [(along * 2.0 - 1.0) * reach, 6.0, (across * 2.0 - 1.0) * reach]
            };
            State::at(V::from_array(at))
        };
        let intents = (0..BODIES)
            .map(|i| {
                let angle = i as f32 * 2.399;
                if V::DIMENSION == 2 {
                    Intent::steering(if i % 2 == 0 { 1.0 } else { -1.0 }, 0.0)
                } else {
                    Intent::steering(angle.cos(), angle.sin())
                }
            })
            .collect();
        let bodies = (0..BODIES).map(place).collect();
        let mut crowd =
            Self { tuning, hull: capsule(), bodies, intents, events: rasant::state::Events::new() };
        for _ in 0..90 {
            crowd.tick(level);
        }
        crowd
    }

    pub fn tick(&mut self, level: &Level<V>) {
        for (body, intent) in self.bodies.iter_mut().zip(&self.intents) {
            rasant::controller::tick_into(
                &self.tuning,
                &self.hull,
                body,
                intent,
                level,
                DT,
                &mut self.events,
            );
            black_box(&self.events);
        }
    }

    pub fn grounded(&self) -> usize {
        self.bodies.iter().filter(|body| body.footing.is_firm()).count()
    }
}

/// The general library's side: one capsule cast per body, along the displacement of a tick.
pub struct General3 {
    mesh: parry3d::shape::TriMesh,
    capsule: parry3d::shape::Capsule,
}

impl General3 {
    pub fn new(cells: usize) -> Self {
        let (vertices, triangles) = rolling(cells);
        let points = vertices.iter().map(|v| parry3d::math::Vector::new(v.x, v.y, v.z)).collect();
        Self {
            mesh: parry3d::shape::TriMesh::new(points, triangles).unwrap(),
            capsule: parry3d::shape::Capsule::new_y(0.5, 0.4),
        }
    }

    /// Casts one body. Returns the time of impact, or 1.
    pub fn cast(&self, at: Vec3, displacement: Vec3) -> f32 {
        use parry3d::math::{Pose, Vector};
        use parry3d::query::{ShapeCastOptions, cast_shapes};
        let pose = Pose::from_parts(Vector::new(at.x, at.y + 0.9, at.z), Default::default());
        let displacement = Vector::new(displacement.x, displacement.y, displacement.z);
        let options = ShapeCastOptions { max_time_of_impact: 1.0, ..Default::default() };
        cast_shapes(&pose, displacement, &self.capsule, &Pose::IDENTITY, Vector::ZERO, &self.mesh, options)
            .unwrap()
            .map_or(1.0, |hit| hit.time_of_impact)
    }
}

pub struct General2 {
    boxes: parry2d::shape::Compound,
    capsule: parry2d::shape::Capsule,
}

impl General2 {
    pub fn new() -> Self {
        use parry2d::math::{Pose, Vector};
        use parry2d::shape::{Compound, Cuboid, SharedShape};
        let shapes = boxes()
            .iter()
            .map(|(min, max)| {
                let (centre, half) = ((*min + *max) * 0.5, (*max - *min) * 0.5);
                let pose = Pose::from_parts(Vector::new(centre.x, centre.y), Default::default());
                (pose, SharedShape::new(Cuboid::new(Vector::new(half.x, half.y))))
            })
            .collect();
        Self { boxes: Compound::new(shapes), capsule: parry2d::shape::Capsule::new_y(0.5, 0.4) }
    }

    pub fn cast(&self, at: Vec2, displacement: Vec2) -> f32 {
        use parry2d::math::{Pose, Vector};
        use parry2d::query::{ShapeCastOptions, cast_shapes};
        let pose = Pose::from_parts(Vector::new(at.x, at.y + 0.9), Default::default());
        let displacement = Vector::new(displacement.x, displacement.y);
        let options = ShapeCastOptions { max_time_of_impact: 1.0, ..Default::default() };
        cast_shapes(&pose, displacement, &self.capsule, &Pose::IDENTITY, Vector::ZERO, &self.boxes, options)
            .unwrap()
            .map_or(1.0, |hit| hit.time_of_impact)
    }
}

/// Our sweep of the same: gathers, then sweeps once.
pub fn sweep_once<V: Geometry>(level: &Level<V>, body: &State<V>, displacement: V) -> f32 {
    let reach = rasant::space::Bounds { min: V::ZERO.min(displacement), max: V::ZERO.max(displacement) };
    let patch = rasant::contact::Patch::gather(body.frame(), &capsule(), reach, level);
    patch.sweep(V::ZERO, displacement).map_or(1.0, |hit| hit.time)
}

/// The displacement of a tick of walking: along the ground, and slightly down.
pub fn displacement<V: Geometry>(body: &State<V>) -> V {
    body.velocity * DT - V::UP * 0.02
}
