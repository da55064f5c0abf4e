//! Compares sweeps over many pieces at once (meshes with seams, flush blocks, one-way pieces) with
//! plain distances in doubles: at the time of impact something touches, and before it nothing does.

use crate::common::judge::{Body, Triangles};
use crate::common::surfaces::SURFACES;
use crate::common::{Dice, capsule, upright_box};
use rasant::contact::Hit;
use rasant::contact::Patch;
use rasant::glam::{DVec3, Quat, Vec2, Vec3};
use rasant::level::Sides;
use rasant::space::{Bounds, Frame};
use rasant::{
    Controller, Geometry, Hull, HullShape, Intent, Layers, Level, Piece, Steering, SurfaceId, Tuning,
};

/// Metres within which something is touched.
const TOUCH: f64 = 1e-4;

fn hulls() -> [Hull; 4] {
    let rounded = HullShape::Box { width: 0.8, depth: 0.5, height: 1.4, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.4).unwrap(), Hull::new(rounded).unwrap()]
}

/// A level, and its triangles as plain numbers.
struct Place {
    level: Level<Vec3>,
    plain: Triangles,
}

impl Place {
    fn mesh(corners: &[Vec3], triangles: &[[u32; 3]]) -> Self {
        let mut builder = Level::builder();
        builder.add_mesh(corners, triangles, SurfaceId::default(), Layers::GROUND).unwrap();
        let plain = triangles.iter().map(|of| of.map(|corner| corners[corner as usize].as_dvec3())).collect();
        Self { level: builder.build().unwrap(), plain: Triangles::new(plain) }
    }

    /// Blocks side by side, some left out, their sides on each other to the bit.
    fn flush(dice: &mut Dice) -> Self {
        let mut builder = Level::builder();
        let mut plain = Vec::new();
        for cell in 0..7 * 7 * 3 {
            if dice.below(3) == 0 {
                continue;
            }
            let [x, y, z] = [cell % 7, cell / 49, cell / 7 % 7].map(|i| i as f32 * 0.75 - 2.5);
            let (min, max) = (Vec3::new(x, y, z), Vec3::new(x, y, z) + Vec3::splat(0.75));
            builder.add(Piece::block(min, max).unwrap());
            let corner = |bits: usize| {
                let part = |bit: usize| if bits >> bit & 1 == 1 { max[bit] } else { min[bit] };
                Vec3::new(part(0), part(1), part(2)).as_dvec3()
            };
            for axis in 0..3 {
                let (u, v) = (1 << ((axis + 1) % 3), 1 << ((axis + 2) % 3));
                for side in [0, 1 << axis] {
                    let quad = [side, side | u, side | u | v, side | v].map(corner);
                    plain.push([quad[0], quad[1], quad[2]]);
                    plain.push([quad[0], quad[2], quad[3]]);
                }
            }
        }
        Self { level: builder.build().unwrap(), plain: Triangles::new(plain) }
    }
}

/// The bare hull's sweep in a place.
fn cast<V: Geometry>(level: &Level<V>, hull: &Hull, at: V, motion: V) -> Option<Hit<V>> {
    let frame = Frame::new(at, V::ZERO, V::RIGHT, V::UP);
    let displacement = Bounds { min: V::ZERO.min(motion), max: V::ZERO.max(motion) };
    Patch::gather(frame, hull, displacement, level).cast(V::ZERO, motion)
}

/// Where the distance grows fastest, if nothing else is about as near.
fn away(plain: &Triangles, body: &Body, at: DVec3) -> Option<DVec3> {
    const STEP: f64 = 1e-5;
    let axes = [DVec3::X, DVec3::Y, DVec3::Z];
    let slope = |axis: DVec3| plain.depth(body, at - axis * STEP) - plain.depth(body, at + axis * STEP);
    let gradient = DVec3::from_array(axes.map(slope)) / (2.0 * STEP);
    // Of several that are as near, the gradient is none of theirs and shorter.
    (gradient.length() > 0.999).then(|| gradient.normalize())
}

/// Sweeps at random; gives how many touched, and of those how many had their normal
/// compared.
fn agree(place: &Place, dice: &mut Dice, reach: f32, sweeps: usize, case: &str) -> (usize, usize) {
    let (mut touched, mut compared) = (0, 0);
    for number in 0..sweeps {
        let hull = hulls()[dice.below(4)];
        let body = Body::of(&hull);
        let at: Vec3 = dice.vector(reach);
        if place.plain.depth(&body, at.as_dvec3()) > -1e-3 {
            continue;
        }
        let motion = dice.direction::<Vec3>() * dice.number(0.05, 3.0);
        let hit = cast(&place.level, &hull, at, motion);
        let depth = |fraction: f64| place.plain.depth(&body, at.as_dvec3() + motion.as_dvec3() * fraction);
        let case = format!("{case}, sweep {number}: {hull:?} at {at} by {motion}: {hit:?}");
        let stop = hit.map_or(1.0, |hit| f64::from(hit.time));
        // Nothing before it is passed through.
        let last = (stop - TOUCH / f64::from(motion.length())).max(0.0);
        for step in 0..=40 {
            let fraction = last * f64::from(step) / 40.0;
            assert!(depth(fraction) < TOUCH, "{case}: {} m inside at {fraction}", depth(fraction));
        }
        let Some(hit) = hit else { continue };
        touched += 1;
        assert!(depth(stop) > -TOUCH, "{case}: {} m away", -depth(stop));
        // A hair further on, where the judge's distance is no mere bound.
        let further = stop + 4e-4 / f64::from(motion.length());
        let inside = at.as_dvec3() + motion.as_dvec3() * further;
        if depth(further) > 5e-5
            && let Some(normal) = away(&place.plain, &body, inside)
        {
            compared += 1;
            let dot = normal.dot(hit.normal.as_dvec3());
            assert!(dot > 0.96, "{case}: the normal should be {normal}");
        }
    }
    (touched, compared)
}

#[test]
fn over_seams_sweeps_stop_where_something_is_touched() {
    let (mut touched, mut compared) = (0, 0);
    for (number, surface) in SURFACES.into_iter().enumerate() {
        let mut dice = Dice(40 + number as u64);
        for rough in [0.0, 0.1] {
            let (mut corners, triangles) = surface.mesh(14.0);
            corners.iter_mut().for_each(|corner| *corner += dice.vector::<Vec3>(rough));
            let place = Place::mesh(&corners, &triangles);
            let (hits, normals) = agree(&place, &mut dice, 6.0, 250, &format!("{surface:?} {rough}"));
            (touched, compared) = (touched + hits, compared + normals);
        }
    }
    println!("{touched} touched, {compared} normals");
    assert!(touched > 250 && compared > 200, "{touched} {compared}");
}

#[test]
fn over_flush_blocks_sweeps_stop_where_something_is_touched() {
    let mut dice = Dice(77);
    let (mut touched, mut compared) = (0, 0);
    for town in 0..8 {
        let place = Place::flush(&mut dice);
        let (hits, normals) = agree(&place, &mut dice, 4.0, 500, &format!("town {town}"));
        (touched, compared) = (touched + hits, compared + normals);
    }
    assert!(touched > 200 && compared > 150, "{touched} {compared}");
}

/// A one-way piece is solid from above only.
#[test]
fn one_way_pieces_are_solid_from_above_only() {
    let mut dice = Dice(5);
    let (mut stopped, mut passed) = (0, 0);
    for case in 0..4000 {
        let half = Vec3::new(dice.number(0.5, 2.0), dice.number(0.05, 0.5), dice.number(0.5, 2.0));
        let [solid, one_way] = [false, true].map(|one_way| {
            let mut builder = Level::builder();
            let piece = Piece::block(-half, half).unwrap();
            builder.add(if one_way { piece.one_way() } else { piece });
            Place { level: builder.build().unwrap(), plain: Triangles::new(Vec::new()) }
        });
        let hull = hulls()[dice.below(4)];
        let at: Vec3 = dice.vector(4.0);
        let motion = dice.direction::<Vec3>() * dice.number(0.5, 6.0);
        let (any, only) = (cast(&solid.level, &hull, at, motion), cast(&one_way.level, &hull, at, motion));
        let from_above = any.is_some_and(|hit| hit.normal.y > 0.35);
        if any.is_some_and(|hit| hit.time == 0.0) {
            continue; // It starts within.
        }
        let beside = any.is_none_or(|hit| hit.normal.y < 0.25);
        if from_above {
            assert_eq!(only.map(|hit| hit.time), any.map(|hit| hit.time), "case {case}");
            stopped += 1;
        } else if beside {
            assert!(only.is_none_or(|hit| hit.normal.y > 0.25), "case {case}: {any:?} {only:?}");
            passed += 1;
        }
    }
    assert!(stopped > 40 && passed > 500, "{stopped} {passed}");
}

/// Capsules and rounded boxes that are hardly more than a ball stop where the ball does.
fn stop_like_a_ball<V: Geometry>(
    dice: &mut Dice,
    piece: impl Fn(&mut Dice) -> Piece<V>,
    case: &str,
) -> usize {
    const RADIUS: f32 = 0.35;
    let mut stops = 0;
    for number in 0..300 {
        let mut builder = Level::builder();
        builder.add(piece(dice));
        let level = builder.build().unwrap();
        // A crouch may leave any of these of a height.
        let more = [0.0, 3e-8, 9e-8, 2e-7, 1e-6, 1e-5, 1e-4][dice.below(7)];
        let side = 2.0 * RADIUS + more;
        let hulls = [
            HullShape::Capsule { radius: RADIUS, height: side },
            HullShape::Box { width: side, depth: side, height: side, rounding: RADIUS },
        ];
        let at = dice.direction::<V>() * dice.number(2.0, 9.0);
        let motion = (dice.vector::<V>(0.6) - at - V::UP * RADIUS) * 1.5;
        let ball = cast(&level, &Hull::ball(RADIUS).unwrap(), at, motion);
        for shape in hulls {
            let hit = cast(&level, &Hull::new(shape).unwrap(), at, motion);
            let case =
                format!("{case} {number}: {shape:?} at {at:?} by {motion:?}: {hit:?}, a ball {ball:?}");
            // Grazing contacts depend on rounding.
            let is_met = ball.is_some_and(|ball| ball.normal.dot(motion) < -0.3 * motion.length());
            let Some(hit) = hit else {
                assert!(!is_met, "{case}");
                continue;
            };
            let Some(ball) = ball.filter(|_| is_met) else { continue };
            let apart = (hit.time - ball.time).abs() * motion.length();
            assert!(apart < 1e-4 + 5.0 * more, "{case}: {apart} m apart");
            stops += 1;
        }
    }
    stops
}

#[test]
fn hulls_with_hardly_a_core_stop_like_a_ball() {
    let mut dice = Dice(1);
    let point = |dice: &mut Dice| dice.vector::<Vec2>(0.9);
    let turned = |dice: &mut Dice| dice.number(-3.2, 3.2);
    let stops = [
        stop_like_a_ball::<Vec2>(&mut dice, |dice| Piece::ball(point(dice), 0.7).unwrap(), "a ball"),
        stop_like_a_ball::<Vec2>(
            &mut dice,
            |dice| Piece::segment(point(dice), point(dice) + Vec2::new(1.0, 0.9), Sides::Both).unwrap(),
            "a segment",
        ),
        stop_like_a_ball::<Vec2>(
            &mut dice,
            |dice| Piece::turned_rectangle(point(dice), Vec2::new(0.6, 0.4), turned(dice)).unwrap(),
            "a turned rectangle",
        ),
        stop_like_a_ball::<Vec2>(
            &mut dice,
            |_| Piece::block(Vec2::splat(-0.6), Vec2::ONE).unwrap(),
            "a block",
        ),
        stop_like_a_ball::<Vec3>(&mut dice, |dice| Piece::ball(dice.vector(0.9), 0.7).unwrap(), "a ball"),
        stop_like_a_ball::<Vec3>(
            &mut dice,
            |dice| {
                let spin = Quat::from_axis_angle(dice.direction(), turned(dice));
                Piece::turned_box(dice.vector(0.5), Vec3::new(0.6, 0.4, 0.8), spin).unwrap()
            },
            "a turned box",
        ),
        stop_like_a_ball::<Vec3>(
            &mut dice,
            |dice| {
                let corners = [0, 1, 2].map(|_| dice.direction::<Vec3>() * 1.2);
                Piece::facet(&corners).unwrap_or_else(|_| Piece::block(-Vec3::ONE, Vec3::ONE).unwrap())
            },
            "a facet",
        ),
        stop_like_a_ball::<Vec3>(
            &mut dice,
            |_| Piece::block(Vec3::splat(-0.6), Vec3::ONE).unwrap(),
            "a block",
        ),
    ];
    println!("{stops:?}");
    assert!(stops.iter().all(|&stops| stops > 100), "{stops:?}");
}

/// A flat floor cut into triangles, tilted and turned anyhow: a box anywhere on it stands on
/// its face, and touches it under itself.
#[test]
fn boxes_stand_on_the_face_of_a_flat_mesh_wherever_its_seams_are() {
    let mut dice = Dice(77);
    let rounded = HullShape::Box { width: 0.8, depth: 0.5, height: 1.4, rounding: 0.1 };
    for case in 0..400 {
        let (tilt, turn) = (dice.number(0.0, 0.8), dice.number(-3.1, 3.1));
        let rotation = Quat::from_rotation_y(turn) * Quat::from_rotation_z(tilt);
        let n = 3 + dice.below(5) as u32;
        // A fan about a point that is under the body, or nearly.
        let aside = Vec3::new(dice.number(-0.6, 0.6), 0.0, dice.number(-0.6, 0.6));
        let middle = if dice.below(3) == 0 { Vec3::ZERO } else { aside };
        let rim = (0..n).map(|corner| {
            let (sin, cos) =
                (dice.number(-0.2, 0.2) + corner as f32 * std::f32::consts::TAU / n as f32).sin_cos();
            Vec3::new(cos, 0.0, sin) * 20.0
        });
        let corners: Vec<Vec3> = [middle].into_iter().chain(rim).map(|corner| rotation * corner).collect();
        let triangles: Vec<[u32; 3]> = (1..=n).map(|corner| [0, corner % n + 1, corner]).collect();
        let mut builder = Level::builder();
        builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
        let level = builder.build().unwrap();
        let normal = rotation * Vec3::Y;
        for hull in [upright_box(), Hull::new(rounded).unwrap()] {
            let dt = 1.0 / [24.0, 60.0, 144.0][dice.below(3)];
            let mut body = Controller::new(Tuning::default(), hull, Vec3::Y * 1.2);
            for _ in 0..(1.5 / dt) as u32 {
                body.tick(&Intent::default(), &level, dt);
            }
            let state = body.state();
            let footing = &state.footing;
            assert!(footing.is_firm(), "case {case}: {state:?}");
            assert!(
                (footing.normal - normal).length() < 2e-3,
                "case {case}: {:?}, not {normal:?}",
                footing.normal
            );
            let at = state.position + footing.point;
            assert!(at.dot(normal).abs() < 2e-3, "case {case}: {at:?} is {} m off", at.dot(normal));
            let out = Vec3::new(footing.point.x, 0.0, footing.point.z).length();
            assert!(out < 0.52, "case {case}: touched {out} m aside");
        }
    }
}

/// A solid wall from the origin along `along`, with a thickness to its left, divided into pieces of
/// equal length.
fn turned_wall(along: Vec3, length: f32, thick: f32, each: f32) -> Vec<Piece<Vec3>> {
    let left = Vec3::Y.cross(along);
    let count = (length / each).round() as usize;
    (0..count)
        .map(|piece| {
            let from = along * (each * piece as f32);
            let corners: Vec<Vec3> = [Vec3::ZERO, along * each, left * thick, along * each + left * thick]
                .into_iter()
                .flat_map(|corner| [from + corner - Vec3::Y * 0.5, from + corner + Vec3::Y * 3.0])
                .collect();
            Piece::solid(&corners).unwrap()
        })
        .collect()
}

/// Every hull keeps its speed along a rotated wall, whether it is one piece or many, and past its
/// end.
#[test]
fn a_turned_wall_stops_no_hull_along_it_or_at_its_end() {
    let rounded = HullShape::Box { width: 0.62, depth: 0.62, height: 1.66, rounding: 0.08 };
    let deep = HullShape::Box { width: 0.4, depth: 0.9, height: 1.66, rounding: 0.0 };
    let hulls = [
        Hull::upright_box(0.62, 1.66).unwrap(),
        Hull::new(deep).unwrap(),
        Hull::new(rounded).unwrap(),
        Hull::capsule(0.31, 1.66).unwrap(),
    ];
    let (mut stopped, mut slowed, mut runs) = (Vec::new(), Vec::new(), 0);
    for degrees in [0.0f32, 7.0, 20.0, 30.0, 45.0, 63.0, 90.0, 111.0] {
        let along = Vec3::new(degrees.to_radians().cos(), 0.0, degrees.to_radians().sin());
        // To the right of the wall, where the body is.
        let right = along.cross(Vec3::Y);
        for each in [4.0, 1.0] {
            let mut builder = Level::builder();
            builder.add(Piece::block(Vec3::new(-20.0, -1.0, -20.0), Vec3::new(20.0, 0.0, 20.0)).unwrap());
            for piece in turned_wall(along, 4.0, 0.4, each) {
                builder.add(piece);
            }
            let level = builder.build().unwrap();
            for (number, hull) in hulls.iter().enumerate() {
                for push in [50.0f32, 60.0, 70.0, 80.0] {
                    // From the wall's normal: at 90 degrees it would go along the wall.
                    let into = -right * push.to_radians().cos() + along * push.to_radians().sin();
                    let steer = Intent::steering(into.x, -into.z);
                    for offset in 0..8 {
                        let tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
                        let start = along * (0.4 + 0.13 * offset as f32) + right * 0.75;
                        let mut body = Controller::new(tuning, *hull, start);
                        body.find_footing(&level);
                        runs += 1;
                        let chosen = tuning.walk.speed * push.to_radians().sin();
                        let (mut least, mut slid) = (f32::INFINITY, 0);
                        for _ in 0..240 {
                            body.tick(&steer, &level, 1.0 / 60.0);
                            let (at, speed) = (body.position().dot(along), body.velocity().dot(along));
                            // Where all of it is beside the wall, once it leans on that.
                            if (1.5..3.2).contains(&at) && body.state().touching.wall {
                                least = least.min(speed);
                                slid += 1;
                            }
                        }
                        let run = (degrees, each, number, push, offset);
                        if body.position().dot(along) < 5.0 {
                            stopped.push(run);
                        }
                        if slid > 5 && least < 0.95 * chosen {
                            slowed.push((run, least / chosen));
                        }
                    }
                }
            }
        }
    }
    assert!(
        stopped.is_empty(),
        "{} of {runs} stopped: {:?}",
        stopped.len(),
        &stopped[..stopped.len().min(6)]
    );
    assert!(slowed.is_empty(), "{} of {runs} slowed: {:?}", slowed.len(), &slowed[..slowed.len().min(6)]);
}
