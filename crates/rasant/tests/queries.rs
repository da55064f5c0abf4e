//! Queries for the game, compared with plain geometry in doubles.

use rasant::contact::Queries;
use rasant::glam::{DQuat, DVec2, DVec3, Quat, Vec2, Vec3};
use rasant::level::{AnySurroundings, Found, Tag};
use rasant::space::Bounds;
use rasant::{Geometry, Hull, HullShape, Layers, Level, Piece, PieceId, Surroundings};

use crate::common::Dice;
use crate::common::judge::Body;

/// The tolerance in metres in a world of 60 m, for rays of up to 90 m; more in larger worlds.
const CLOSE: f64 = 2e-3;

/// A rotated box, rounded to a ball if it has no sides, in doubles. In two dimensions its z is
/// without an end.
#[derive(Clone, Copy, Debug)]
struct Thing {
    centre: DVec3,
    half: DVec3,
    turn: DQuat,
    rounding: f64,
}

impl Thing {
    /// The distance of a point, negative inside.
    fn distance(&self, point: DVec3) -> f64 {
        let local = (self.turn.inverse() * (point - self.centre)).abs() - self.half;
        let outside = local.max(DVec3::ZERO).length();
        outside + local.max_element().min(0.0) - self.rounding
    }

    /// The least distance of the segment from `a` to `b`: the distance is convex along it.
    fn distance_of_segment(&self, a: DVec3, b: DVec3) -> f64 {
        let (mut low, mut high) = (0.0, 1.0);
        for _ in 0..60 {
            let [left, right] = [(2.0 * low + high) / 3.0, (low + 2.0 * high) / 3.0];
            if self.distance(a.lerp(b, left)) < self.distance(a.lerp(b, right)) {
                high = right;
            } else {
                low = left;
            }
        }
        self.distance(a.lerp(b, 0.5 * (low + high)))
    }

    /// The corners in space of a box, with bit 0 for x, bit 1 for y and bit 2 for z.
    fn corners(&self) -> [DVec3; 8] {
        std::array::from_fn(|i| {
            let sign = |bit: usize| if i >> bit & 1 == 1 { 1.0 } else { -1.0 };
            self.centre + self.turn * (self.half * DVec3::new(sign(0), sign(1), sign(2)))
        })
    }
}

/// The faces of a box, as pairs of triangles of its corners.
const FACES: [[usize; 4]; 6] =
    [[0, 1, 3, 2], [4, 5, 7, 6], [0, 1, 5, 4], [2, 3, 7, 6], [0, 2, 6, 4], [1, 3, 7, 5]];

/// A dimension with random pieces, in a world that is `scale` times as large as usual.
trait Dimension: Geometry {
    fn piece(dice: &mut Dice, scale: f32) -> (Piece<Self>, Thing);
    fn double(self) -> DVec3 {
        DVec3::from_array(
            [0, 1, 2].map(|axis| if axis < Self::DIMENSION { self.component(axis).into() } else { 0.0 }),
        )
    }
}

impl Dimension for Vec2 {
    fn piece(dice: &mut Dice, scale: f32) -> (Piece<Self>, Thing) {
        let centre: Self = dice.vector(20.0 * scale);
        let half = Self::new(dice.number(0.2, 3.0), dice.number(0.2, 3.0)) * scale;
        let angle = dice.number(0.0, 6.0);
        let turn = DQuat::from_rotation_z(angle.into());
        let thing = Thing { centre: centre.double(), half: half.double().with_z(1e9), turn, rounding: 0.0 };
        if dice.below(3) == 0 {
            let thing = Thing { half: DVec3::Z * 1e9, rounding: half.x.into(), ..thing };
            return (Piece::ball(centre, half.x).unwrap(), thing);
        }
        (Piece::turned_rectangle(centre, half, angle).unwrap(), thing)
    }
}

impl Dimension for Vec3 {
    fn piece(dice: &mut Dice, scale: f32) -> (Piece<Self>, Thing) {
        let centre: Self = dice.vector(11.0 * scale);
        let half = Self::new(dice.number(0.2, 4.0), dice.number(0.2, 4.0), dice.number(0.2, 4.0)) * scale;
        let axis = dice.direction();
        // Some along the axes of the world.
        let turn = if dice.below(4) == 0 { 0.0 } else { dice.number(0.0, 6.0) };
        let turn = Quat::from_axis_angle(axis, turn);
        let thing =
            Thing { centre: centre.double(), half: half.double(), turn: turn.as_dquat(), rounding: 0.0 };
        if dice.below(3) == 0 {
            let thing = Thing { half: DVec3::ZERO, rounding: half.x.into(), ..thing };
            return (Piece::ball(centre, half.x).unwrap(), thing);
        }
        (Piece::turned_box(centre, half, turn).unwrap(), thing)
    }
}

/// A random world, its pieces in doubles, and its scale.
struct Place<V> {
    level: Level<V>,
    things: Vec<Thing>,
    scale: f32,
}

impl<V: Dimension> Place<V> {
    fn close(&self) -> f64 {
        CLOSE * f64::from(self.scale)
    }

    fn distance(&self, point: V) -> f64 {
        self.things.iter().map(|it| it.distance(point.double())).fold(f64::INFINITY, f64::min)
    }
}

/// Calls `test` with random places, a new one after twenty cases, at three scales.
fn each_case<V: Dimension>(seed: u64, cases: u64, mut test: impl FnMut(u64, &mut Dice, &Place<V>)) {
    let mut dice = Dice(seed);
    for round in 0..cases / 20 {
        let scale = [1.0, 1.0 / 32.0, 32.0][round as usize % 3];
        let mut builder = Level::builder();
        let things = (0..30).map(|_| {
            let (piece, thing) = V::piece(&mut dice, scale);
            builder.add(piece);
            thing
        });
        let things = things.collect();
        let place = Place { level: builder.build().unwrap(), things, scale };
        (0..20).for_each(|case| test(20 * round + case, &mut dice, &place));
    }
}

/// A hull of any kind and size, with what the judge knows of it.
struct Solid {
    hull: Hull,
    body: Body,
}

impl Solid {
    fn any(dice: &mut Dice, scale: f32) -> Self {
        let [width, depth] = [0, 1].map(|_| dice.number(0.2, 2.0) * scale);
        let height = dice.number(2.0, 3.0) * scale;
        let shape = match dice.below(4) {
            0 => HullShape::Capsule { radius: 0.5 * width, height },
            1 => HullShape::Ball { radius: width },
            2 => HullShape::Box { width, depth, height, rounding: 0.0 },
            _ => HullShape::Box { width, depth, height, rounding: 0.3 * width.min(depth) },
        };
        let hull = Hull::new(shape).unwrap();
        let is_centred = dice.below(2) == 0;
        let hull = if is_centred { hull.centred() } else { hull };
        let body = Body::of(&hull);
        Self { hull, body: Body { lift: if is_centred { 0.0 } else { body.lift }, ..body } }
    }

    /// A lower bound of the separation from a thing, which is quickly found.
    fn at_least<V: Dimension>(&self, thing: &Thing, at: V) -> f64 {
        let middle = at.double() + DVec3::Y * self.body.lift;
        thing.distance(middle) - self.body.half.length() - self.body.radius
    }

    /// The separation from a thing; below 0 if the two overlap.
    fn gap<V: Dimension>(&self, thing: &Thing, at: V) -> f64 {
        // The judge is exact within the rounding, so it gets a large one.
        const WIDE: f64 = 1e5;
        let Body { half, radius, lift } = self.body;
        let (position, middle) = (at.double(), at.double() + DVec3::Y * lift);
        let wide = Body { radius: WIDE, ..self.body };
        let corners = thing.corners();
        let core = if V::DIMENSION == 2 {
            let outline = if thing.half.x > 0.0 { vec![0, 1, 3, 2] } else { vec![0] };
            let outline: Vec<DVec2> =
                outline.into_iter().map(|corner: usize| corners[corner].truncate()).collect();
            WIDE - wide.depth_in_outline(position.truncate(), &outline, 0.0)
        } else if thing.half == DVec3::ZERO {
            let apart = (thing.centre - middle).abs() - half;
            apart.max(DVec3::ZERO).length() + apart.max_element().min(0.0)
        } else if thing.distance(middle) < 0.0 {
            // The surface may be further away than the hull reaches.
            thing.distance(middle)
        } else {
            let triangles = FACES.iter().flat_map(|&[a, b, c, d]| [[a, b, c], [a, c, d]]);
            let depth =
                triangles.map(|triangle| wide.depth_in_triangle(position, triangle.map(|i| corners[i])));
            WIDE - depth.fold(f64::NEG_INFINITY, f64::max)
        };
        core - radius - thing.rounding
    }

    fn gap_to_all<V: Dimension>(&self, place: &Place<V>, at: V) -> f64 {
        let mut things: Vec<_> = place.things.iter().map(|thing| (self.at_least(thing, at), thing)).collect();
        things.sort_by(|a, b| a.0.total_cmp(&b.0));
        things.into_iter().fold(f64::INFINITY, |least, (at_least, thing)| {
            if at_least < least { least.min(self.gap(thing, at)) } else { least }
        })
    }
}

fn rays_are_those_of_doubles<V: Dimension>() {
    let (mut hits, mut misses) = (0, 0);
    each_case::<V>(35, 3000, |case, dice, place| {
        let (scale, close) = (place.scale, place.close());
        let (from, direction): (V, V) = (dice.vector(18.0 * scale), dice.direction());
        let length = dice.number(0.5, 90.0) * scale;
        let start = from.double();
        let hit = place.level.ray(from, direction * dice.number(0.1, 9.0), length, Layers::ALL);
        // Up to the hit, or its end, the ray is outside of everything.
        let free = hit.map_or(f64::from(length), |hit| f64::from(hit.distance));
        if free > 0.0 {
            for thing in &place.things {
                let to = start + direction.double() * (free - close).max(0.0);
                let least = thing.distance_of_segment(start, to);
                assert!(least > -close, "case {case}: {thing:?} {hit:?} {least}");
            }
        }
        let Some(hit) = hit else {
            misses += 1;
            return;
        };
        hits += 1;
        let touched = &place.things[hit.piece.0 as usize];
        assert!((hit.normal.length() - 1.0).abs() < 1e-4, "case {case}: {hit:?}");
        if place.distance(from) < -close {
            assert_eq!((hit.distance, hit.position), (0.0, from), "case {case}: it starts inside");
            return;
        }
        assert!(touched.distance(hit.point.double()).abs() < close, "case {case}: {hit:?} {touched:?}");
        let end = from + direction * hit.distance;
        assert!((hit.position - end).length() < 1e-3 * scale, "case {case}: {hit:?}");
        // The normal is the direction in which the distance grows.
        let out = touched.distance(hit.point.double() + hit.normal.double() * f64::from(0.05 * scale));
        assert!(out > f64::from(0.03 * scale), "case {case}: {hit:?} {touched:?} {out}");
    });
    assert!(hits > 500 && misses > 600, "{hits} hits, {misses} misses");
}

#[test]
fn rays_agree_with_doubles_in_2d() {
    rays_are_those_of_doubles::<Vec2>();
}

#[test]
fn rays_agree_with_doubles_in_3d() {
    rays_are_those_of_doubles::<Vec3>();
}

fn sweeps_are_those_of_doubles<V: Dimension>() {
    let mut hits = 0;
    each_case::<V>(36, 1500, |case, dice, place| {
        let (scale, close) = (place.scale, place.close());
        let solid = Solid::any(dice, scale);
        let from: V = dice.vector(16.0 * scale);
        let displacement = dice.direction::<V>() * (dice.number(0.1, 60.0) * scale);
        if solid.gap_to_all(place, from) < close {
            return;
        }
        let hit = place.level.sweep(&solid.hull, from, displacement, Layers::ALL);
        let free = hit.map_or(1.0, |hit| hit.distance / displacement.length());
        for step in 0..=12 {
            let at = from + displacement * (free * step as f32 / 12.0);
            let gap = solid.gap_to_all(place, at);
            assert!(gap > -close, "case {case}: {:?} {hit:?} {gap}", solid.hull);
        }
        let Some(hit) = hit else { return };
        hits += 1;
        let gap = solid.gap_to_all(place, hit.position);
        assert!(gap.abs() < close, "case {case}: {:?} {hit:?} {gap}", solid.hull);
        let touched = place.things[hit.piece.0 as usize].distance(hit.point.double());
        assert!(touched.abs() < close, "case {case}: {:?} {hit:?} {touched}", solid.hull);
        assert!(hit.normal.dot(displacement) < 1e-3 * scale, "case {case}: {hit:?}");
    });
    assert!(hits > 200, "{hits}");
}

#[test]
fn sweeps_agree_with_doubles_in_2d() {
    sweeps_are_those_of_doubles::<Vec2>();
}

#[test]
fn sweeps_agree_with_doubles_in_3d() {
    sweeps_are_those_of_doubles::<Vec3>();
}

fn closest_points_are_those_of_doubles<V: Dimension>() {
    each_case::<V>(37, 1500, |case, dice, place| {
        let (scale, close) = (place.scale, place.close());
        let (at, within): (V, f32) = (dice.vector(18.0 * scale), dice.number(0.0, 20.0) * scale);
        let least = place.distance(at);
        match place.level.closest(at, within, Layers::ALL) {
            None => assert!(least > f64::from(within) - close, "case {case}: {least}, within {within}"),
            Some(near) => {
                assert!((f64::from(near.distance) - least).abs() < close, "case {case}: {near:?} {least}");
                let touched = place.things[near.piece.0 as usize].distance(near.point.double());
                assert!(touched.abs() < close, "case {case}: {near:?} {touched}");
                let back = near.point + near.normal * near.distance;
                assert!(f64::from((back - at).length()) < close, "case {case}: {near:?} {at:?}");
            }
        }
        let solid = Solid::any(dice, scale);
        let expected = solid.gap_to_all(place, at);
        if let Some(near) = place.level.closest_to(&solid.hull, at, within, Layers::ALL)
            && expected > close
        {
            assert!((f64::from(near.distance) - expected).abs() < close, "case {case}: {near:?} {expected}");
        }
        let mut overlapped = vec![false; place.things.len()];
        place.level.overlaps(&solid.hull, at, Layers::ALL, |near| overlapped[near.piece.0 as usize] = true);
        for (thing, overlapped) in place.things.iter().zip(overlapped) {
            let gap = if solid.at_least(thing, at) > close { close } else { solid.gap(thing, at) };
            assert!(overlapped || gap > -close, "case {case}: {:?} {thing:?} {gap}", solid.hull);
            assert!(!overlapped || gap < close, "case {case}: {:?} {thing:?} {gap}", solid.hull);
        }
    });
}

#[test]
fn closest_points_and_overlaps_agree_with_doubles_in_2d() {
    closest_points_are_those_of_doubles::<Vec2>();
}

#[test]
fn closest_points_and_overlaps_agree_with_doubles_in_3d() {
    closest_points_are_those_of_doubles::<Vec3>();
}

/// Layers, one-way pieces, hulls that start inside, and arguments that are not finite.
#[test]
fn masks_one_way_pieces_and_broken_arguments() {
    let glass = Layers::only(4);
    let mut builder = Level::<Vec2>::builder();
    let floor = builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    let pane = builder.add(Piece::block(Vec2::new(2.0, 0.0), Vec2::new(2.1, 3.0)).unwrap().on_layers(glass));
    let shelf = builder.add(Piece::block(Vec2::new(-5.0, 2.0), Vec2::new(-3.0, 2.2)).unwrap().one_way());
    let level = builder.build().unwrap();
    let ray = |from, direction, mask| level.ray(from, direction, 30.0, mask).map(|hit| hit.piece);
    assert_eq!(ray(Vec2::Y, Vec2::X, Layers::ALL), Some(pane));
    assert_eq!(ray(Vec2::Y, Vec2::X, Layers::GROUND), None);
    assert_eq!(ray(Vec2::new(-4.0, 5.0), -Vec2::Y, Layers::ALL), Some(shelf));
    assert_eq!(ray(Vec2::new(-4.0, 1.0), Vec2::Y, Layers::ALL), None, "from below it is not solid");
    // It may leave the floor, and not enter it.
    let hull = Hull::upright_box(1.0, 1.0).unwrap();
    let inside = Vec2::new(0.0, -0.2);
    assert!(level.sweep(&hull, inside, Vec2::Y, Layers::ALL).is_none());
    let deeper = level.sweep(&hull, inside, -Vec2::Y, Layers::ALL).unwrap();
    assert_eq!((deeper.piece, deeper.distance, deeper.normal), (floor, 0.0, Vec2::Y));
    for wrong in [f32::NAN, f32::INFINITY, -f32::INFINITY] {
        let from = Vec2::new(wrong, 1.0);
        assert_eq!(level.ray(from, Vec2::X, 9.0, Layers::ALL), None);
        assert_eq!(level.ray(Vec2::Y, from, 9.0, Layers::ALL), None);
        assert_eq!(level.ray(Vec2::Y, Vec2::X, wrong, Layers::ALL), None);
        assert_eq!(level.sweep(&hull, from, Vec2::X, Layers::ALL), None);
        assert_eq!(level.sweep(&hull, Vec2::Y, from, Layers::ALL), None);
        assert_eq!(level.closest(from, 9.0, Layers::ALL), None);
        assert_eq!(level.closest(Vec2::Y, wrong, Layers::ALL), None);
        level.overlaps(&hull, from, Layers::ALL, |near| panic!("{near:?}"));
    }
    assert_eq!(level.ray(Vec2::Y, Vec2::ZERO, 9.0, Layers::ALL), None);
}

/// A host's own world of unit cubes, whose integer coordinates are even.
struct Cubes;

impl Surroundings<Vec3> for Cubes {
    fn pieces(&self, region: &Bounds<Vec3>, _mask: Layers, found: &mut impl Found<Vec3>) {
        let whole = |point: Vec3| point.to_array().map(|part| part.floor() as i32);
        let (min, max) = (whole(region.min), whole(region.max));
        for x in min[0]..=max[0] {
            for y in min[1]..=max[1] {
                for z in min[2]..=max[2] {
                    if [x, y, z].iter().all(|part| part % 2 == 0) {
                        let corner = Vec3::new(x as f32, y as f32, z as f32);
                        let piece = PieceId(
                            (x.rem_euclid(64) * 4096 + y.rem_euclid(64) * 64 + z.rem_euclid(64)) as u32,
                        );
                        found.block(corner, corner + 1.0, Tag { piece, ..Tag::default() });
                    }
                }
            }
        }
    }
}

#[test]
fn a_hosts_own_world_answers_the_same_queries() {
    let from = Vec3::new(1.5, 0.5, 0.5);
    let world: Box<dyn AnySurroundings<Vec3>> = Box::new(Cubes);
    for hit in [Cubes.ray(from, Vec3::X, 9.0, Layers::ALL), world.ray(from, Vec3::X, 9.0, Layers::ALL)] {
        let hit = hit.expect("the cube at 2");
        assert!(
            (hit.distance - 0.5).abs() < 1e-5 && hit.normal == -Vec3::X && hit.piece == PieceId(2 * 4096)
        );
    }
    // Through a corridor between the cubes, as long as a ray may be, and past all of its parts.
    assert_eq!(Cubes.ray(Vec3::splat(1.5), Vec3::Y, 500.0, Layers::ALL), None);
    let diagonal = Cubes.ray(Vec3::splat(1.5), Vec3::new(1.0, 0.0, 1.0), 90.0, Layers::ALL);
    assert_eq!(diagonal, None, "at a height of 1.5 m there is none");
    let near = Cubes.closest(Vec3::new(1.5, 0.5, 0.5), 2.0, Layers::ALL).unwrap();
    assert!((near.distance - 0.5).abs() < 1e-5, "{near:?}");
}

/// A mesh is met from both sides, and a ray along the seam of two triangles hits one of them.
#[test]
fn rays_hit_meshes_on_seams_and_corners() {
    let mut builder = Level::<Vec3>::builder();
    let corners: Vec<Vec3> = (0..49)
        .map(|i| Vec3::new((i % 7) as f32 * 2.0, ((i * 5) % 3) as f32 * 0.4, (i / 7) as f32 * 2.0))
        .collect();
    let mut triangles = Vec::new();
    for (x, z) in (0..36u32).map(|i| (i % 6, i / 6)) {
        let at = x + 7 * z;
        triangles.extend([[at, at + 7, at + 1], [at + 1, at + 7, at + 8]]);
    }
    let surface = rasant::SurfaceId::default();
    let mesh = builder.add_mesh(&corners, &triangles, surface, Layers::default()).unwrap();
    let level = builder.build().unwrap();
    let last = PieceId(mesh.0 + triangles.len() as u32 - 1);
    for step in 0..400 {
        let along = 0.5 + step as f32 * 0.0275;
        for (x, z) in [(along, 4.0), (4.0, along), (along, 12.0 - along), (along, along), (6.0, 6.0)] {
            for (from, direction) in [(9.0, -Vec3::Y), (-9.0, Vec3::Y)] {
                let from = Vec3::new(x, from, z);
                let hit = level.ray(from, direction, 18.0, Layers::ALL);
                let hit = hit.unwrap_or_else(|| panic!("through the mesh at {x}, {z}"));
                assert!((-0.001..=0.801).contains(&hit.position.y), "{x}, {z}: {hit:?}");
                assert!((mesh.0..=last.0).contains(&hit.piece.0), "{hit:?}");
                assert!(hit.normal.dot(direction) < 0.0, "{hit:?}");
            }
        }
    }
    // In any direction: by the crossing with each triangle, in doubles (T. Moeller and B. Trumbore,
    // "Fast, minimum storage ray-triangle intersection", 1997).
    let mut dice = Dice(38);
    let mut hits = 0;
    for case in 0..4000 {
        let from = Vec3::new(dice.number(-3.0, 15.0), dice.number(-4.0, 5.0), dice.number(-3.0, 15.0));
        let direction: Vec3 = dice.direction();
        let crossed = triangles.iter().filter_map(|triangle| {
            let [a, b, c] = triangle.map(|corner| corners[corner as usize].as_dvec3());
            let (ab, ac, to) = (b - a, c - a, from.as_dvec3() - a);
            let across = direction.as_dvec3().cross(ac);
            let determinant = ab.dot(across);
            let (u, turned) = (to.dot(across) / determinant, to.cross(ab));
            let v = direction.as_dvec3().dot(turned) / determinant;
            let distance = ac.dot(turned) / determinant;
            // Well inside of the triangle, and not along it.
            let is_clear = u > 0.01 && v > 0.01 && u + v < 0.99 && determinant.abs() > 0.05;
            (is_clear && distance > 0.01 && distance < 24.0).then_some(distance)
        });
        let Some(nearest) = crossed.reduce(f64::min) else { continue };
        hits += 1;
        let hit = level.ray(from, direction, 25.0, Layers::ALL).expect("it crosses a triangle");
        // Nearer only where it crosses another triangle close to an edge.
        assert!(f64::from(hit.distance) < nearest + CLOSE, "case {case}: {hit:?} {nearest}");
        if f64::from(hit.distance) < nearest - CLOSE {
            let on_it = level.closest(hit.point, 0.01, Layers::ALL);
            assert!(on_it.is_some(), "case {case}: {hit:?} {nearest}");
        }
    }
    assert!(hits > 500, "{hits}");
}

/// Walls, ceilings, springy ground and slides name the piece, so that a game can act on it.
#[test]
fn events_name_the_touched_piece() {
    use crate::common::Run;
    use rasant::{Actions, Event, Intent, Surface, Tuning};

    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    let wall = builder.add(Piece::block(Vec2::new(2.0, 0.0), Vec2::new(3.0, 9.0)).unwrap());
    let beam = builder.add(Piece::block(Vec2::new(-3.0, 2.3), Vec2::new(1.0, 3.0)).unwrap());
    let spring = builder.add_surface(Surface { bounce: 0.8, ..Surface::default() });
    let bed = builder.add(Piece::block(Vec2::new(-9.0, 0.0), Vec2::new(-6.0, 0.5)).unwrap().made_of(spring));
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 2.0;
    let hull = Hull::capsule(0.3, 1.7).unwrap();

    let mut run = Run::new(tuning, hull, Vec2::ZERO, 60);
    run.run(&level, 0.1, Intent::default().pressing(Actions::JUMP));
    run.run(&level, 1.0, Intent::steering(1.0, 0.0));
    let met = |run: &Run<Vec2>| {
        run.events.iter().find_map(|(_, event)| match event {
            Event::WallMet { piece, .. } => Some(*piece),
            _ => None,
        })
    };
    let bumped = run.events.iter().find_map(|(_, event)| match event {
        Event::BumpedHead { piece, .. } => Some(*piece),
        _ => None,
    });
    assert_eq!((bumped, met(&run)), (Some(beam), Some(wall)));

    let mut run = Run::new(tuning, hull, Vec2::new(1.65, 6.0), 60);
    run.run(&level, 0.4, Intent::steering(1.0, 0.0));
    assert_eq!(met(&run), Some(wall), "sliding down it");

    let mut run = Run::new(tuning, hull, Vec2::new(-7.0, 4.0), 60);
    run.run(&level, 1.5, Intent::default());
    assert!(
        run.events.iter().any(|(_, event)| matches!(event, Event::Bounced { piece, .. } if *piece == bed))
    );
}
