//! Runs one standard scene for a number of ticks, for a tool that counts instructions: `.ci/counts`
//! compares the counts with `docs/instructions.txt`.
//!
//! Use `counts SCENE TICKS`, or `counts` alone to list the scenes.
#![allow(missing_docs)]

mod scenes;
#[path = "../tests/common/surfaces.rs"]
mod surfaces;

use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Geometry, Hull, Intent, Layers, Level, State, SurfaceId, Tuning};
use scenes::{Crowd, DT, boxes_level, everything, rolling_level};
use surfaces::Surface;

/// A scene's name, and the function that runs it for a number of ticks.
type Scene = (&'static str, fn(usize));

const SCENES: [Scene; 8] = [
    ("walk-3d", |ticks| run(&rolling_level(64), Tuning::default(), None, 27.0, ticks)),
    ("every-move-3d", |ticks| run(&rolling_level(64), everything(), None, 27.0, ticks)),
    ("walk-2d", |ticks| run::<Vec2>(&boxes_level(), Tuning::default(), None, 370.0, ticks)),
    ("every-move-2d", |ticks| run::<Vec2>(&boxes_level(), everything(), None, 370.0, ticks)),
    ("rest-3d", |ticks| rest(&rolling_level(64), 27.0, ticks)),
    ("rest-2d", |ticks| rest::<Vec2>(&boxes_level(), 370.0, ticks)),
    ("folds-capsule", |ticks| run(&folds(), Tuning::default(), None, 18.0, ticks)),
    ("folds-box", |ticks| {
        run(&folds(), Tuning::default(), Some(Hull::upright_box(0.7, 1.8).unwrap()), 18.0, ticks);
    }),
];

fn folds() -> Level<Vec3> {
    let (corners, triangles) = Surface::Folds.mesh(40.0);
    let mut builder = Level::builder();
    builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    builder.build().unwrap()
}

/// Runs the first 200 bodies of a crowd, which count as 200 ticks.
fn run<V: Geometry>(level: &Level<V>, tuning: Tuning, hull: Option<Hull>, reach: f32, ticks: usize) {
    let mut crowd = Crowd::tuned(tuning, level, reach);
    crowd.hull = hull.unwrap_or(crowd.hull);
    crowd.bodies.truncate(200);
    for _ in 0..ticks / 200 {
        crowd.tick(level);
    }
}

/// Runs controllers of 200 bodies at rest.
fn rest<V: Geometry>(level: &Level<V>, reach: f32, ticks: usize) {
    let crowd = Crowd::on(level, reach);
    let at_rest = |state: &State<V>| {
        let mut body = Controller::new(crowd.tuning, crowd.hull, state.position);
        body.restore(*state);
        for _ in 0..120 {
            body.tick(&Intent::default(), level, DT);
        }
        body
    };
    let mut bodies: Vec<Controller<V>> = crowd.bodies.iter().take(200).map(at_rest).collect();
    for _ in 0..ticks / 200 {
        for body in &mut bodies {
            std::hint::black_box(body.tick(&Intent::default(), level, DT));
        }
    }
}

fn main() {
    let mut arguments = std::env::args().skip(1).filter(|argument| argument != "--bench");
    let scene = arguments.next();
    let ticks = arguments.next().and_then(|ticks| ticks.parse().ok());
    match (SCENES.iter().find(|known| Some(known.0) == scene.as_deref()), ticks) {
        (Some((_, run)), Some(ticks)) => run(ticks),
        _ => SCENES.iter().for_each(|(name, _)| println!("{name}")),
    }
}
