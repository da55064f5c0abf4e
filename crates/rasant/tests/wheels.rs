//! Carriers that rotate fast push bodies aside, and hold none that has free space beside it.

use crate::common::lives::any_intent;
use crate::common::{Dice, capsule, upright_box};
use rasant::contact::Patch;
use rasant::glam::{Vec2, Vec3};
use rasant::space::Bounds;
use rasant::{
    Carrier, Controller, Event, Geometry, Hull, HullShape, Intent, Keyframe, Level, PathEnd, Piece, State,
    Tuning,
};

const RATE: f32 = 60.0;

pub fn hulls() -> [Hull; 4] {
    let rounded = HullShape::Box { width: 0.6, depth: 0.5, height: 1.6, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()]
}

/// How deep the body is in a piece, in metres; below 0 outside.
pub fn depth<V: Geometry>(body: &Controller<V>, level: &Level<V>) -> f32 {
    let nowhere = Bounds { min: V::ZERO, max: V::ZERO };
    let patch = Patch::gather(body.state().frame(), &body.present_hull(), nowhere, level);
    patch.overlap(V::ZERO, |_| false).map_or(f32::NEG_INFINITY, |overlap| -overlap.distance)
}

/// Over a wide floor, a carrier about the origin that turns by some degrees in each tick. Its bars
/// are at some height above the floor, if it turns about the vertical.
pub fn wheel<V: Geometry>(bars: usize, degrees: f32, height: f32) -> Level<V> {
    let mut builder = Level::builder();
    let corner = |x, y, z| V::from_array([x, y, z]);
    builder.add(Piece::block(corner(-60.0, -1.0, -60.0), corner(60.0, 0.0, 60.0)).unwrap());
    let turn = std::f32::consts::TAU * degrees.signum();
    let time = 360.0 / degrees.abs() / RATE;
    let middle = corner(0.0, height, 0.0);
    let keys = [(0.0, 0.0), (time, turn)].map(|(time, turn)| Keyframe::new(time, middle).turned(turn));
    let wheel = builder.add_carrier(Carrier::on_path(keys.to_vec(), PathEnd::Loop));
    let (long, thin) = (5.0, 0.15);
    builder.add(Piece::block(corner(0.0, -thin, -thin), corner(long, thin, thin)).unwrap().riding(wheel));
    if bars > 1 {
        let (min, max) = if V::DIMENSION == 2 {
            (corner(-thin, 0.0, 0.0), corner(thin, long, 0.0))
        } else {
            (corner(-long, -thin, -thin), corner(0.0, thin, thin))
        };
        builder.add(Piece::block(min, max).unwrap().riding(wheel));
    }
    builder.build().unwrap()
}

/// Runs bodies among the bars; how often one was crushed, and was inside.
pub fn among_bars<V: Geometry>(degrees: f32, bars: usize, seeds: std::ops::Range<u64>) -> (u32, u32, f32) {
    let (mut crushed, mut inside, mut deepest) = (0, 0, 0.0f32);
    for seed in seeds {
        let mut dice = Dice(seed);
        let hull = hulls()[dice.below(4)];
        // In the plane the bars come down from above, and go round in the open.
        let height = if V::DIMENSION == 2 { dice.number(5.5, 6.5) } else { dice.number(0.3, 1.2) };
        let mut level = wheel::<V>(bars, degrees, height);
        let mut body = Controller::new(Tuning::default(), hull, V::RIGHT * 8.0 + V::UP * 0.01);
        if V::DIMENSION == 2 {
            let side = if dice.below(2) == 0 { 1.0 } else { -1.0 };
            let at = V::RIGHT * (side * dice.number(1.0, 3.0)) + V::UP * dice.number(6.8, 9.0);
            body.restore(State::at(at));
        }
        body.find_footing(&level);
        let mut intent = Intent::default();
        for _ in 0..600 {
            level.advance(1.0 / RATE);
            intent = any_intent(&mut dice, &intent);
            // Toward the axis, mostly.
            if dice.below(3) > 0 {
                let at = body.position();
                let (x, z) = (at.component(0), if V::DIMENSION == 3 { at.to_array()[2] } else { 0.0 });
                let length = (x * x + z * z).sqrt().max(1.0);
                intent.steer = Vec2::new(-x / length, z / length);
            }
            body.tick(&intent, &level, 1.0 / RATE);
            let crushed_now = body.events().iter().any(|event| matches!(event, Event::Crushed));
            crushed += u32::from(crushed_now);
            let deep = depth(&body, &level);
            if body.state().carry_over.crushed.is_none() && deep > 1e-3 {
                inside += 1;
                deepest = deepest.max(deep);
            }
        }
    }
    (crushed, inside, deepest)
}

#[test]
fn bars_that_rotate_fast_push_bodies_that_have_a_way_out() {
    fn push<V: Geometry>() {
        let mut wrong = Vec::new();
        for degrees in [1.0, 2.0, -4.0, 6.0, -9.0] {
            for bars in [1, 2] {
                let found = among_bars::<V>(degrees, bars, 0..60);
                if (found.0, found.1) != (0, 0) {
                    wrong.push((degrees, bars, found));
                }
            }
        }
        assert!(
            wrong.is_empty(),
            "{} dimensions: degrees, bars, (crushed, inside, deepest): {wrong:?}",
            V::DIMENSION
        );
    }
    push::<Vec3>();
    push::<Vec2>();
}
