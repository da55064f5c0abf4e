//! Ground that turns down under fast feet: followed or left alike at any tick rate.

use crate::common::{Dice, Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::level::{LevelBuilder, Sides};
use rasant::{Geometry, Hull, Intent, Layers, Level, Piece, SurfaceId, Tuning};

const RATES: [u32; 7] = [20, 24, 30, 60, 144, 240, 960];

/// Ground along a line of points, from left to right.
pub trait Profile: Geometry {
    fn profile(builder: &mut LevelBuilder<Self>, points: &[Vec2]);
}

impl Profile for Vec2 {
    fn profile(builder: &mut LevelBuilder<Vec2>, points: &[Vec2]) {
        for pair in points.windows(2) {
            let [from, to] = [pair[0], pair[1]];
            if from.x == to.x {
                builder.add(Piece::segment(from, to, Sides::Both).unwrap());
            } else {
                let down = Vec2::Y * -3.0;
                builder.add(Piece::polygon(&[from, from + down, to + down, to]).unwrap());
            }
        }
    }
}

impl Profile for Vec3 {
    fn profile(builder: &mut LevelBuilder<Vec3>, points: &[Vec2]) {
        let corners: Vec<Vec3> =
            points.iter().flat_map(|point| [point.extend(-30.0), point.extend(30.0)]).collect();
        let triangles: Vec<[u32; 3]> = (0..points.len() as u32 - 1)
            .flat_map(|i| [[2 * i, 2 * i + 1, 2 * i + 3], [2 * i, 2 * i + 3, 2 * i + 2]])
            .collect();
        builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    }
}

pub fn level<V: Profile>(points: &[Vec2]) -> Level<V> {
    let mut builder = Level::builder();
    V::profile(&mut builder, points);
    builder.build().unwrap()
}

/// A level piece, and a slope down from it at an angle in degrees.
fn edge(angle: f32) -> Vec<Vec2> {
    let down = angle.to_radians();
    vec![Vec2::new(-60.0, 0.0), Vec2::ZERO, Vec2::new(down.cos(), -down.sin()) * 60.0]
}

/// A level piece that bends down evenly to an angle in degrees, round a circle.
pub fn round(angle: f32, radius: f32) -> Vec<Vec2> {
    let mut points = vec![Vec2::new(-60.0, 0.0)];
    let count = 24;
    for i in 0..=count {
        let turned = angle.to_radians() * i as f32 / count as f32;
        points.push(Vec2::new(turned.sin(), turned.cos() - 1.0) * radius);
    }
    let down = angle.to_radians();
    points.push(points[points.len() - 1] + Vec2::new(down.cos(), -down.sin()) * 60.0);
    points
}

/// Whether a body that walks over the crest at a speed stays on the ground, and where it lands
/// again if it does not.
fn follows<V: Profile>(level: &Level<V>, hull: Hull, speed: f32, rate: u32, start: f32) -> (bool, f32) {
    let mut tuning = Tuning::default();
    tuning.walk.speed = speed;
    tuning.walk.reach_time = 0.0;
    let mut run = Run::new(tuning, hull, V::RIGHT * start + V::UP * hull.clearance(), rate);
    run.body.find_footing(level);
    assert!(run.body.state().footing.is_firm());
    let mut landed = f32::NAN;
    for _ in 0..(rate as f32 * (10.0 - start) / speed) as usize {
        run.tick(level, Intent::steering(1.0, 0.0));
        if run.body.events().iter().any(|event| event.name() == "landed") {
            landed = run.body.position().component(0);
            break;
        }
    }
    (run.count("left-ground") == 0, landed)
}

fn alike<V: Profile>(points: &[Vec2], speed: f32, expected: Option<bool>) {
    let level = level::<V>(points);
    let mut dice = Dice(7);
    for hull in [capsule(), upright_box(), Hull::ball(0.45).unwrap()] {
        let all: Vec<(u32, f32, (bool, f32))> = RATES
            .iter()
            .flat_map(|&rate| [0.0, 0.31, 0.77].map(|phase| (rate, phase)))
            .map(|(rate, phase)| {
                let start = -3.0 - phase * speed / rate as f32 + dice.number(0.0, 1e-3);
                (rate, phase, follows::<V>(&level, hull, speed, rate, start))
            })
            .collect();
        let first = expected.unwrap_or(all[0].2.0);
        let differ: Vec<_> = all.iter().filter(|(_, _, (follows, _))| *follows != first).collect();
        assert!(differ.is_empty(), "{hull:?} {speed} m/s {points:?}: {first}, but {differ:?}");
        let landings = || all.iter().map(|(_, _, (_, landed))| *landed).filter(|landed| landed.is_finite());
        let spread = landings().fold(f32::MIN, f32::max) - landings().fold(f32::MAX, f32::min);
        assert!(
            first || spread < 0.35,
            "{hull:?} {speed} m/s {points:?}: {:?}",
            landings().collect::<Vec<_>>()
        );
    }
}

#[test]
fn a_sharp_crest_is_followed_or_left_alike_at_any_rate() {
    fn crests<V: Profile>() {
        for (angle, speed, expected) in [
            (40.0, 15.0, Some(true)),
            (25.0, 15.0, Some(true)),
            (48.0, 4.0, Some(true)),
            (48.0, 8.0, Some(true)),
            (25.0, 30.0, Some(true)),
            (48.0, 34.0, Some(false)),
            (45.0, 40.0, Some(false)),
            (30.0, 60.0, Some(false)),
        ] {
            alike::<V>(&edge(angle), speed, expected);
        }
    }
    crests::<Vec2>();
    crests::<Vec3>();
}

#[test]
fn a_round_crest_is_followed_or_left_alike_at_any_rate() {
    fn crests<V: Profile>() {
        for (radius, angle, speed, expected) in [
            (1.0, 45.0, 15.0, Some(true)),
            (4.0, 45.0, 24.0, Some(true)),
            (0.2, 48.0, 40.0, Some(false)),
            (20.0, 45.0, 30.0, Some(true)),
            (1.5, 48.0, 60.0, Some(false)),
        ] {
            alike::<V>(&round(angle, radius), speed, expected);
        }
    }
    crests::<Vec2>();
    crests::<Vec3>();
}
