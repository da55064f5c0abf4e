//! Closed curved meshes, walked on and about in from outside and inside: never
//! into a triangle, and never thrown.

use rasant::glam::{DVec3, Vec3};
use rasant::state::Mode;
use rasant::{Actions, Controller, Hull, HullShape, Intent, Layers, Level, SurfaceId, Tuning};

use crate::common::Dice;
use crate::common::judge::{Body, Triangles};
use crate::common::surfaces::{SURFACES, Surface};

/// The damage done to a mesh before it is built.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Damage {
    None,
    /// No damage, but rough: every corner moved by up to 0.3 m.
    Rough,
    /// Every third triangle twice, every fifth also upside down.
    Doubled,
    /// Every second triangle upside down.
    Turned,
}

pub fn level_of(corners: &[Vec3], triangles: &[[u32; 3]]) -> (Level<Vec3>, Triangles) {
    let mut builder = Level::builder();
    builder.add_mesh(corners, triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    let plain = triangles.iter().map(|of| of.map(|corner| corners[corner as usize].as_dvec3())).collect();
    (builder.build().unwrap(), Triangles::new(plain))
}

pub fn hulls() -> [Hull; 4] {
    let boxed = |rounding| HullShape::Box { width: 0.7, depth: 0.5, height: 1.7, rounding };
    [
        Hull::capsule(0.35, 1.8).unwrap(),
        Hull::new(HullShape::Ball { radius: 0.4 }).unwrap(),
        Hull::new(boxed(0.0)).unwrap(),
        Hull::new(boxed(0.1)).unwrap(),
    ]
}

/// Bodies start in free places, walk and jump. Returns the largest depth of one inside a triangle,
/// and the largest displacement in a tick beyond its speed.
fn wander(surface: Surface, damage: Damage, hull: Hull, bodies: usize, seconds: f32) -> (f64, f64) {
    let width = 40.0;
    let (mut corners, mut triangles) = surface.mesh(width);
    let mut dice = Dice(7 + surface as u64 * 31);
    match damage {
        Damage::None => {}
        Damage::Rough => corners.iter_mut().for_each(|corner| *corner += dice.vector::<Vec3>(0.3)),
        Damage::Doubled => {
            let again: Vec<_> = triangles.iter().step_by(3).copied().collect();
            let turned: Vec<_> = triangles.iter().step_by(5).map(|&[a, b, c]| [c, b, a]).collect();
            triangles.extend(again);
            triangles.extend(turned);
        }
        Damage::Turned => triangles.iter_mut().step_by(2).for_each(|of| of.swap(0, 1)),
    }
    let (level, judge) = level_of(&corners, &triangles);
    let body = Body::of(&hull);
    let (mut deepest, mut thrown) = (f64::NEG_INFINITY, 0.0f64);
    for number in 0..bodies {
        let at = loop {
            let at: Vec3 = dice.vector(0.48 * width);
            if judge.depth(&body, at.as_dvec3()) < -0.01 {
                break at;
            }
        };
        let rate = [24, 60, 144, 37][number % 4];
        let dt = 1.0 / rate as f32;
        let mut walker = Controller::new(Tuning::default(), hull, at);
        let mut steer = Intent::default();
        for tick in 0..(seconds * rate as f32) as usize {
            if tick % (rate / 2) == 0 {
                let direction = dice.direction::<rasant::glam::Vec2>();
                steer = Intent::steering(direction.x, direction.y);
            }
            let jumps = dice.below(rate) == 0;
            let intent = if jumps { steer.pressing(Actions::JUMP) } else { steer };
            let before = walker.position();
            let fastest = walker.velocity().length();
            walker.tick(&intent, &level, dt);
            let fastest = fastest.max(walker.velocity().length());
            let went = f64::from(walker.position().distance(before));
            let step = f64::from(walker.tuning.slope.step_height);
            thrown = thrown.max(went - f64::from(fastest * dt) - step);
            let depth = judge.depth(&body, walker.position().as_dvec3());
            if depth > deepest {
                deepest = depth;
                assert!(
                    depth < 1e-3,
                    "{surface:?} {damage:?} {hull:?}: {depth} m deep, body {number}, tick {tick}: {before} to {}",
                    walker.position()
                );
            }
            if walker.position().length() > 2.0 * width {
                break;
            }
        }
    }
    (deepest, thrown)
}

#[test]
fn no_body_enters_or_leaves_a_closed_mesh() {
    for surface in SURFACES {
        for hull in hulls() {
            for damage in [Damage::None, Damage::Rough] {
                let (deepest, thrown) = wander(surface, damage, hull, 8, 4.0);
                assert!(
                    deepest < 1e-4 && thrown < 0.1,
                    "{surface:?} {hull:?}: {deepest} deep, thrown {thrown}"
                );
            }
        }
    }
}

#[test]
fn triangles_listed_twice_or_upside_down_are_as_solid_as_others() {
    for surface in [Surface::Shell, Surface::Folds, Surface::Blob] {
        for damage in [Damage::Doubled, Damage::Turned] {
            for hull in [hulls()[0], hulls()[2]] {
                let (deepest, thrown) = wander(surface, damage, hull, 8, 4.0);
                assert!(
                    deepest < 1e-4 && thrown < 0.1,
                    "{surface:?} {damage:?}: {deepest} deep, thrown {thrown}"
                );
            }
        }
    }
}

#[test]
fn the_judge_knows_a_deep_body_from_a_shallow_one() {
    let triangle = [DVec3::new(-9.0, 0.0, -9.0), DVec3::new(0.0, 0.0, 9.0), DVec3::new(9.0, 0.0, -9.0)];
    for hull in hulls() {
        let body = Body::of(&hull);
        for height in [0.3, 0.01, 0.0, -0.02] {
            let depth = body.depth_in_triangle(DVec3::Y * height, triangle);
            assert!((depth + height).abs() < 1e-6, "{hull:?} at {height}: {depth}");
        }
    }
}

/// A flight of steps up along +x as a closed mesh: the corners of its side from the foot on,
/// and the same across.
fn flight(steps: usize, rise: f32, tread: f32) -> (Vec<Vec3>, Vec<[u32; 3]>) {
    let mut side = vec![(0.0, -1.0), (0.0, 0.0)];
    for step in 0..steps {
        let (x, y) = (2.0 + step as f32 * tread, step as f32 * rise);
        side.extend([(x, y), (x, y + rise)]);
    }
    let end = 4.0 + steps as f32 * tread;
    side.extend([(end, steps as f32 * rise), (end, -1.0)]);
    let count = side.len() as u32;
    let corner = |z: f32| side.iter().map(move |&(x, y)| Vec3::new(x, y, z)).collect::<Vec<_>>();
    let corners = [corner(-1.5), corner(1.5)].concat();
    // All but the two sides, which no body reaches.
    let face = |i: u32| {
        let (a, b) = (i, (i + 1) % count);
        [[a, a + count, b], [b, a + count, b + count]]
    };
    (corners, (0..count).flat_map(face).collect())
}

#[test]
fn steps_of_a_mesh_are_walked_up_and_down_however_its_vertices_are_numbered() {
    let mut dice = Dice(20);
    for case in 0..40 {
        let (rise, tread) = [(0.15, 0.3), (0.25, 0.4), (0.3, 0.45), (0.2, 0.7)][case % 4];
        let (corners, mut triangles) = flight(6, rise, tread);
        // Other numbers for the vertices, other first corners, another order, at any heading.
        let mut numbers: Vec<u32> = (0..corners.len() as u32).collect();
        for i in (1..numbers.len()).rev() {
            numbers.swap(i, dice.below(i + 1));
        }
        let angle = if case < 8 { 0.0 } else { dice.number(0.0, std::f32::consts::TAU) };
        let mut numbered = vec![Vec3::ZERO; corners.len()];
        for (corner, number) in corners.iter().zip(&numbers) {
            numbered[*number as usize] = rasant::Vector::turned(*corner, angle);
        }
        for of in &mut triangles {
            *of = of.map(|corner| numbers[corner as usize]);
            of.rotate_left(dice.below(3));
        }
        for i in (1..triangles.len()).rev() {
            triangles.swap(i, dice.below(i + 1));
        }
        let (level, _) = level_of(&numbered, &triangles);
        let along = rasant::Vector::turned(Vec3::X, angle);
        for hull in hulls() {
            // At other rates and speeds, too.
            let (rate, speed) = [(60.0, 4.0), (30.0, 2.5), (144.0, 6.0), (75.0, 1.0)][case / 4 % 4];
            let most = (15.0 * rate) as usize;
            let mut tuning = Tuning::default();
            tuning.walk.speed = speed;
            let mut body = Controller::new(tuning, hull, along * 1.0);
            body.find_footing(&level);
            let intent = Intent::steering(along.x, -along.z);
            let walk = |body: &mut Controller<Vec3>, intent: &Intent, to: &dyn Fn(f32) -> bool| {
                let mut ticks = 0;
                while !to(body.position().dot(along)) && ticks < most {
                    body.tick(intent, &level, 1.0 / rate);
                    assert!(
                        body.state().mode == Mode::Grounded,
                        "{case} {hull:?}: aloft at {}",
                        body.position()
                    );
                    ticks += 1;
                }
                ticks
            };
            let end = 3.0 + 6.0 * tread;
            let up = walk(&mut body, &intent, &|x| x > end);
            let top = body.position().y;
            assert!(
                up < most && (top - 6.0 * rise).abs() < 0.01,
                "{case} {hull:?}: {top} m up, at {}",
                body.position()
            );
            let down = walk(&mut body, &Intent::steering(-along.x, along.z), &|x| x < 1.2);
            assert!(down < most && body.position().y.abs() < 0.01, "{case} {hull:?}: at {}", body.position());
        }
    }
}

#[test]
fn contacts_with_a_mesh_do_not_depend_on_the_order_of_its_vertices() {
    use rasant::level::{Seams, Shape};
    let felt = |corners: &[Vec3], triangles: &[[u32; 3]]| -> Vec<(Vec<Vec3>, Seams)> {
        let (level, _) = level_of(corners, triangles);
        let mut all = Vec::new();
        level.each_shape(|shape, _| {
            if let Shape::Facet { points, seams } = shape {
                all.push((points.to_vec(), seams));
            }
        });
        all
    };
    let mut dice = Dice(5);
    for surface in SURFACES {
        let (corners, triangles) = surface.mesh(40.0);
        let first = felt(&corners, &triangles);
        for _ in 0..3 {
            let mut numbers: Vec<u32> = (0..corners.len() as u32).collect();
            for i in (1..numbers.len()).rev() {
                numbers.swap(i, dice.below(i + 1));
            }
            let mut numbered = vec![Vec3::ZERO; corners.len()];
            for (corner, number) in corners.iter().zip(&numbers) {
                numbered[*number as usize] = *corner;
            }
            let triangles: Vec<[u32; 3]> =
                triangles.iter().map(|of| of.map(|corner| numbers[corner as usize])).collect();
            assert!(felt(&numbered, &triangles) == first, "{surface:?}");
        }
    }
    // Of a box, seen from outside, each edge is felt by both of its triangles but for the flat
    // ones, and from inside by none.
    let corner = |i: u32| Vec3::new((i & 1) as f32, (i >> 1 & 1) as f32, (i >> 2) as f32);
    let corners: Vec<Vec3> = (0..8).map(corner).collect();
    let sides = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]];
    let triangles: Vec<[u32; 3]> =
        sides.iter().flat_map(|&[a, b, c, d]: &[u32; 4]| [[a, b, c], [a, c, d]]).collect();
    for (points, seams) in felt(&corners, &triangles) {
        for edge in 0..3 {
            let across = points[(edge + 1) % 3] - points[edge];
            let is_flat = across.length() > 1.1;
            assert_eq!((seams.hides_front(edge), seams.hides_back(edge)), (is_flat, true), "{points:?}");
        }
    }
}
