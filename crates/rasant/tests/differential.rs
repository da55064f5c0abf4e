//! Compares sweeps and gaps with an independent library.
//!
//! That library casts by iteration and stops at its own tolerance, so the two may return different
//! times. Whenever they differ by more than [`CLOSE`], the library's distance function decides: at
//! our time the shapes must touch and not overlap, and before it they must never overlap by more
//! than a graze. A case that fails this fails the test, and the number of such cases is bounded.

use crate::common::judge::Body;
use crate::common::{Dice, core_of};
use rasant::contact::Patch;
use rasant::contact::{Hit, Nearest};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::{Found, Shape, Sides, Tag};
use rasant::space::{Bounds, Frame};
use rasant::{Geometry, Hull, HullShape, Piece, Surroundings, Vector};

const CASES: usize = 120_000;
/// The distance along the path within which two times count as equal, in metres.
const CLOSE: f32 = 2e-3;
/// Distances within this are nothing: some hundred roundings at 10 m.
const NOTHING: f32 = 4e-4;

/// The other library's side of a dimension.
trait Oracle: Geometry {
    type Body;
    type Other;
    /// A random hull, and the same for the other library.
    fn hull(dice: &mut Dice) -> (Hull, Self::Body);
    /// A random obstacle for both: shapes for us.
    fn obstacle(dice: &mut Dice) -> (Kept<Self>, Self::Other);
    /// The other library's time and normal of a cast of a hull whose underside
    /// is at `at`.
    fn cast(
        hull: &Hull,
        body: &Self::Body,
        at: Self,
        motion: Self,
        other: &Self::Other,
    ) -> Option<(f32, Self)>;
    fn distance(hull: &Hull, body: &Self::Body, at: Self, other: &Self::Other) -> f32;
    fn distance_to_point(other: &Self::Other, point: Self) -> f32;
}

/// A piece as it is handed to a patch.
enum Kept<V> {
    Ball(V, f32),
    Capsule([V; 2], f32),
    Segment([V; 2]),
    Piece(Box<rasant::Level<V>>),
    Facet(Vec<V>),
}

fn patch_of<V: Geometry>(hull: &Hull, kept: &Kept<V>) -> Patch<V> {
    let far = Bounds { min: V::splat(-1e3), max: V::splat(1e3) };
    let mut patch = Patch::empty(Frame::new(V::ZERO, V::ZERO, V::RIGHT, V::UP), hull, far);
    let tag = Tag::default();
    match kept {
        Kept::Ball(centre, radius) => patch.piece(Shape::Ball { centre: *centre, radius: *radius }, tag),
        Kept::Capsule(ends, radius) => patch.piece(Shape::Capsule { ends: *ends, radius: *radius }, tag),
        Kept::Segment(ends) => patch.piece(Shape::Segment { ends: *ends, sides: Sides::Both }, tag),
        Kept::Piece(level) => level.pieces(&far, rasant::Layers::ALL, &mut patch),
        Kept::Facet(points) => patch.piece(Shape::Facet { points, seams: rasant::level::Seams::NONE }, tag),
    }
    patch
}

fn level_with<V: Geometry>(piece: Piece<V>) -> Kept<V> {
    let mut builder = rasant::Level::builder();
    builder.add(piece);
    Kept::Piece(Box::new(builder.build().unwrap()))
}

/// The rounding of a piece: often none, or more than the hull's size counts as an edge.
fn rounding(dice: &mut Dice) -> f32 {
    [0.0, 0.0, dice.number(0.01, 0.1), dice.number(0.1, 0.8)][dice.below(4)]
}

fn shape_of(dice: &mut Dice) -> HullShape {
    let (radius, tall) = (dice.number(0.05, 0.6), dice.number(0.0, 1.5));
    match dice.below(5) {
        0 | 1 => HullShape::Capsule { radius, height: 2.0 * radius + tall },
        2 => HullShape::Ball { radius },
        kind => {
            let sides: [f32; 3] = std::array::from_fn(|_| dice.number(0.2, 1.5));
            let least = sides.iter().copied().fold(f32::MAX, f32::min);
            let rounding = if kind == 3 { 0.0 } else { dice.number(0.02, 0.49) * least };
            HullShape::Box { width: sides[0], depth: sides[2], height: sides[1], rounding }
        }
    }
}

struct Tally {
    hits: usize,
    decided: usize,
}

fn compare<V: Oracle>(seed: u64) -> Tally {
    let mut dice = Dice(seed);
    let mut tally = Tally { hits: 0, decided: 0 };
    for case in 0..CASES {
        let (hull, body) = V::hull(&mut dice);
        let (kept, other) = V::obstacle(&mut dice);
        let patch = patch_of(&hull, &kept);
        let at: V = dice.vector(4.0);
        let aim: V = dice.vector(1.5);
        let length = dice.number(0.1, 8.0);
        let motion = (aim - at).direction().unwrap_or(V::UP) * length;
        let apart = V::distance(&hull, &body, at, &other);
        check_gap(case, &hull, &patch, at, apart, &other);
        if apart < 1e-3 {
            continue; // starting within is the gap's business
        }
        let ours = patch.cast(at, motion);
        let theirs = V::cast(&hull, &body, at, motion, &other);
        tally.hits += usize::from(ours.is_some());
        if let (Some(hit), Some((time, normal))) = (&ours, theirs) {
            if (hit.time - time).abs() * length < CLOSE {
                check_normal(case, hit, normal);
                continue;
            }
        } else if ours.is_none() && theirs.is_none() {
            continue;
        }
        tally.decided += 1;
        decide(
            case,
            &ours,
            |fraction| {
                let there = at + motion * fraction;
                // In doubles where we can: the other's is 0 where it is a few
                // hundredths of a millimetre.
                in_doubles(&hull, there, &kept).unwrap_or_else(|| V::distance(&hull, &body, there, &other))
            },
            theirs.map(|t| t.0),
        );
    }
    tally
}

/// Our distance is between two points of hull and obstacle, so it is never too small. It must not
/// be greater than the other library's either. (The other's iteration may stop early and then be
/// too great by millimetres.)
fn check_gap<V: Oracle>(case: usize, hull: &Hull, patch: &Patch<V>, at: V, apart: f32, other: &V::Other) {
    let Nearest { distance, normal, point, own_point, .. } = patch.nearest(at, 1e3).expect("one obstacle");
    assert!((normal.length() - 1.0).abs() < 1e-3, "case {case}: normal {normal:?}");
    if apart <= 1e-3 {
        assert!(distance < 2e-3, "case {case}: {distance}, but they overlap");
        return;
    }
    assert!(distance < apart + 1e-3, "case {case}: {distance} against {apart}");
    assert!(distance > apart - 0.01 * (1.0 + apart), "case {case}: {distance} against {apart}");
    let between = (own_point - point).length();
    assert!(
        (between - distance).abs() < NOTHING,
        "case {case}: the nearest points are {between} apart, not {distance}"
    );
    let off = V::distance_to_point(other, point);
    assert!(off.abs() < NOTHING, "case {case}: the nearest point is {off} m off the obstacle");
    let core = core_of::<V>(hull);
    let arm = own_point - at - core.middle;
    let out = (arm - arm.max(-core.half).min(core.half)).length() - core.radius;
    assert!(out.abs() < NOTHING, "case {case}: the hull's nearest point is {out} m off its surface");
}

fn check_normal<V: Vector>(case: usize, hit: &Hit<V>, normal: V) {
    // Times within the tolerance may still be on either side of an edge, so only the direction of
    // the normals is compared.
    assert!((hit.normal.length() - 1.0).abs() < 1e-3, "case {case}");
    assert!(hit.normal.dot(normal) > 0.7, "case {case}: {:?} against {normal:?}", hit.normal);
}

/// How far a hull in space is from a facet.
fn in_doubles<V: Vector>(hull: &Hull, at: V, kept: &Kept<V>) -> Option<f32> {
    let Kept::Facet(points) = kept else { return None };
    let point = |point: V| Vec3::from_array(point.to_array()).as_dvec3();
    let body = Body::of(hull);
    let fan = (1..points.len() - 1).map(|i| [points[0], points[i], points[i + 1]].map(point));
    let depth = fan.map(|triangle| body.depth_in_triangle(point(at), triangle)).fold(f64::MIN, f64::max);
    Some(-depth.min(0.0) as f32)
}

/// The two disagree: the distance along the path decides.
fn decide<V>(case: usize, ours: &Option<Hit<V>>, distance: impl Fn(f32) -> f32, theirs: Option<f32>) {
    let last = match ours {
        Some(hit) => {
            let there = distance(hit.time);
            assert!(there < NOTHING, "case {case}: we stop {there} m away from a touch (they: {theirs:?})");
            hit.time - 1e-3
        }
        None => 1.0,
    };
    for step in 0..=400 {
        let fraction = last * step as f32 / 400.0;
        if fraction > 0.0 {
            // The other library returns 0 for any overlap, so a graze is detected from the distance
            // slightly off.
            let there = distance(fraction);
            assert!(
                there > 0.0 || is_graze(&distance, fraction),
                "case {case}: we pass through at {fraction} (they: {theirs:?}, we: {:?})",
                ours.is_some()
            );
        }
    }
}

/// Returns true if the overlap around `fraction` ends within a very short part of the path.
fn is_graze(distance: &impl Fn(f32) -> f32, fraction: f32) -> bool {
    let clear = |step: f32| (1..=30).any(|i| distance(fraction + step * i as f32) > 0.0);
    clear(1e-3) && clear(-1e-3)
}

// ---- two dimensions ----

mod plane {
    use super::*;
    use parry2d::math::{Pose, Vector as Other};
    use parry2d::query::{ShapeCastOptions, cast_shapes, distance};
    use parry2d::shape::{
        Ball, Capsule, ConvexPolygon, Cuboid, RoundConvexPolygon, RoundCuboid, Segment, Shape as Shaped,
    };

    pub struct Body {
        whole: Box<dyn Shaped>,
        /// The body without its rounding; nothing for a point.
        core: Option<Box<dyn Shaped>>,
        radius: f32,
    }

    /// An obstacle, and the same without its rounding.
    pub struct Obstacle {
        whole: Box<dyn Shaped>,
        core: Box<dyn Shaped>,
        radius: f32,
    }

    impl Obstacle {
        fn sharp(shape: impl Shaped + Clone) -> Self {
            Self { whole: Box::new(shape.clone()), core: Box::new(shape), radius: 0.0 }
        }
    }

    fn other(v: Vec2) -> Other {
        Other::new(v.x, v.y)
    }

    fn pose(hull: &Hull, at: Vec2) -> Pose {
        Pose::from_parts(other(at + Vec2::Y * (0.5 * hull.height())), Default::default())
    }

    impl Oracle for Vec2 {
        type Body = Body;
        type Other = Obstacle;

        fn hull(dice: &mut Dice) -> (Hull, Body) {
            let shape = shape_of(dice);
            let body = match shape {
                HullShape::Capsule { radius, height } => {
                    let half = 0.5 * height - radius;
                    let (a, b) = (Other::new(0.0, -half), Other::new(0.0, half));
                    let core = (half > 0.0).then(|| Box::new(Segment::new(a, b)) as Box<dyn Shaped>);
                    Body { whole: Box::new(Capsule::new(a, b, radius)), core, radius }
                }
                HullShape::Ball { radius } => Body { whole: Box::new(Ball::new(radius)), core: None, radius },
                HullShape::Box { width, height, rounding, .. } => {
                    let half = Other::new(0.5 * width - rounding, 0.5 * height - rounding);
                    let core = Cuboid::new(half);
                    let whole: Box<dyn Shaped> = if rounding == 0.0 {
                        Box::new(core)
                    } else {
                        Box::new(RoundCuboid { inner_shape: core, border_radius: rounding })
                    };
                    Body { whole, core: Some(Box::new(core)), radius: rounding }
                }
            };
            (Hull::new(shape).unwrap(), body)
        }

        fn obstacle(dice: &mut Dice) -> (Kept<Vec2>, Obstacle) {
            match dice.below(5) {
                4 => {
                    let a: Vec2 = dice.vector(1.5);
                    let b = a + dice.direction::<Vec2>() * dice.number(0.1, 2.0);
                    let radius = dice.number(0.01, 0.8);
                    let whole = Box::new(Capsule::new(other(a), other(b), radius));
                    let core = Box::new(Segment::new(other(a), other(b)));
                    (Kept::Capsule([a, b], radius), Obstacle { whole, core, radius })
                }
                0 => {
                    let (centre, radius): (Vec2, _) = (dice.vector(1.0), dice.number(0.05, 1.0));
                    let ball = Ball::new(radius);
                    let placed = parry2d::shape::Compound::new(vec![(
                        Pose::from_parts(other(centre), Default::default()),
                        parry2d::shape::SharedShape::new(ball),
                    )]);
                    (Kept::Ball(centre, radius), Obstacle::sharp(placed))
                }
                1 => {
                    let a: Vec2 = dice.vector(1.5);
                    let b = a + dice.direction::<Vec2>() * dice.number(0.1, 2.0);
                    (Kept::Segment([a, b]), Obstacle::sharp(Segment::new(other(a), other(b))))
                }
                _ => loop {
                    // Points on a circle, pulled about: convex when it succeeds.
                    let count = 3 + dice.below(6);
                    let centre: Vec2 = dice.vector(1.0);
                    let radii = Vec2::new(dice.number(0.2, 1.5), dice.number(0.05, 1.5));
                    let turn = dice.number(0.0, 6.0);
                    let mut angles: Vec<f32> =
                        (0..count).map(|_| dice.number(0.0, std::f32::consts::TAU)).collect();
                    angles.sort_by(f32::total_cmp);
                    if angles.windows(2).any(|pair| pair[1] - pair[0] < 0.15) {
                        continue;
                    }
                    let points: Vec<Vec2> = angles
                        .iter()
                        .map(|a| centre + (Vec2::from_angle(*a) * radii).rotate(Vec2::from_angle(turn)))
                        .collect();
                    let Ok(piece) = Piece::polygon(&points) else { continue };
                    let Some(theirs) = ConvexPolygon::from_convex_polyline_unmodified(
                        points.iter().map(|p| other(*p)).collect(),
                    ) else {
                        continue;
                    };
                    let radius = rounding(dice);
                    let piece = level_with(piece.grown(radius).unwrap());
                    let whole = RoundConvexPolygon { inner_shape: theirs.clone(), border_radius: radius };
                    let whole: Box<dyn Shaped> =
                        if radius == 0.0 { Box::new(theirs.clone()) } else { Box::new(whole) };
                    break (piece, Obstacle { whole, core: Box::new(theirs), radius });
                },
            }
        }

        fn cast(
            hull: &Hull,
            body: &Body,
            at: Vec2,
            motion: Vec2,
            obstacle: &Obstacle,
        ) -> Option<(f32, Vec2)> {
            let options = ShapeCastOptions { max_time_of_impact: 1.0, ..ShapeCastOptions::default() };
            let hit = cast_shapes(
                &Pose::IDENTITY,
                Other::ZERO,
                &*obstacle.whole,
                &pose(hull, at),
                other(motion),
                &*body.whole,
                options,
            );
            hit.unwrap().map(|hit| (hit.time_of_impact, Vec2::new(hit.normal1.x, hit.normal1.y)))
        }

        fn distance(hull: &Hull, body: &Body, at: Vec2, obstacle: &Obstacle) -> f32 {
            // Of the core: the library's distances between round shapes stop
            // millimetres short of the answer.
            let pose = pose(hull, at);
            let apart = match &body.core {
                Some(core) => distance(&pose, &**core, &Pose::IDENTITY, &*obstacle.core).unwrap().distance,
                None => obstacle.core.distance_to_point(&Pose::IDENTITY, pose.translation, true),
            };
            apart - body.radius - obstacle.radius
        }

        fn distance_to_point(obstacle: &Obstacle, point: Vec2) -> f32 {
            obstacle.core.distance_to_point(&Pose::IDENTITY, other(point), true) - obstacle.radius
        }
    }
}

#[test]
fn sweeps_and_gaps_in_the_plane_agree_with_an_independent_library() {
    let tally = compare::<Vec2>(2);
    println!("{} hits, {} decided by distance", tally.hits, tally.decided);
    assert!(tally.hits > CASES / 5);
    assert!(tally.decided < CASES / 100, "{} of {CASES} decided by distance", tally.decided);
}

// ---- three dimensions ----

mod space {
    use super::*;
    use parry3d::math::{Pose, Vector as Other};
    use parry3d::query::{ShapeCastOptions, cast_shapes, distance};
    use parry3d::shape::{
        Ball, Capsule, ConvexPolyhedron, Cuboid, RoundConvexPolyhedron, RoundCuboid, Segment,
        Shape as Shaped, Triangle,
    };

    pub struct Body {
        whole: Box<dyn Shaped>,
        /// The body without its rounding; nothing for a point.
        core: Option<Box<dyn Shaped>>,
        radius: f32,
    }

    /// An obstacle, and the same without its rounding.
    pub struct Obstacle {
        whole: Box<dyn Shaped>,
        core: Box<dyn Shaped>,
        radius: f32,
    }

    impl Obstacle {
        fn sharp(shape: impl Shaped + Clone) -> Self {
            Self { whole: Box::new(shape.clone()), core: Box::new(shape), radius: 0.0 }
        }
    }

    fn other(v: Vec3) -> Other {
        Other::new(v.x, v.y, v.z)
    }

    fn pose(hull: &Hull, at: Vec3) -> Pose {
        Pose::from_parts(other(at + Vec3::Y * (0.5 * hull.height())), Default::default())
    }

    impl Oracle for Vec3 {
        type Body = Body;
        type Other = Obstacle;

        fn hull(dice: &mut Dice) -> (Hull, Body) {
            let shape = shape_of(dice);
            let body = match shape {
                HullShape::Capsule { radius, height } => {
                    let half = 0.5 * height - radius;
                    let (a, b) = (Other::new(0.0, -half, 0.0), Other::new(0.0, half, 0.0));
                    let core = (half > 0.0).then(|| Box::new(Segment::new(a, b)) as Box<dyn Shaped>);
                    Body { whole: Box::new(Capsule::new(a, b, radius)), core, radius }
                }
                HullShape::Ball { radius } => Body { whole: Box::new(Ball::new(radius)), core: None, radius },
                HullShape::Box { width, depth, height, rounding } => {
                    let half =
                        Other::new(0.5 * width - rounding, 0.5 * height - rounding, 0.5 * depth - rounding);
                    let core = Cuboid::new(half);
                    let whole: Box<dyn Shaped> = if rounding == 0.0 {
                        Box::new(core)
                    } else {
                        Box::new(RoundCuboid { inner_shape: core, border_radius: rounding })
                    };
                    Body { whole, core: Some(Box::new(core)), radius: rounding }
                }
            };
            (Hull::new(shape).unwrap(), body)
        }

        fn obstacle(dice: &mut Dice) -> (Kept<Vec3>, Obstacle) {
            match dice.below(6) {
                5 => {
                    let a: Vec3 = dice.vector(1.5);
                    // Upright, lying and oblique ones.
                    let along = match dice.below(4) {
                        0 => Vec3::Y,
                        1 => dice.direction::<Vec3>().with_y(0.0).normalize_or(Vec3::X),
                        _ => dice.direction::<Vec3>(),
                    };
                    let b = a + along * dice.number(0.1, 2.0);
                    let radius = dice.number(0.01, 0.8);
                    let whole = Box::new(Capsule::new(other(a), other(b), radius));
                    let core = Box::new(Segment::new(other(a), other(b)));
                    (Kept::Capsule([a, b], radius), Obstacle { whole, core, radius })
                }
                0 => {
                    let (centre, radius): (Vec3, _) = (dice.vector(1.0), dice.number(0.05, 1.0));
                    let placed = parry3d::shape::Compound::new(vec![(
                        Pose::from_parts(other(centre), Default::default()),
                        parry3d::shape::SharedShape::new(Ball::new(radius)),
                    )]);
                    (Kept::Ball(centre, radius), Obstacle::sharp(placed))
                }
                1 | 2 => loop {
                    let points: [Vec3; 3] = std::array::from_fn(|_| dice.vector(1.5));
                    let area = (points[1] - points[0]).cross(points[2] - points[0]).length();
                    if area < 0.1 {
                        continue;
                    }
                    let [a, b, c] = points.map(other);
                    break (Kept::Facet(points.to_vec()), Obstacle::sharp(Triangle::new(a, b, c)));
                },
                _ => loop {
                    let half =
                        Vec3::new(dice.number(0.05, 1.0), dice.number(0.05, 1.0), dice.number(0.05, 1.0));
                    let (axis, angle) = (dice.direction::<Vec3>(), dice.number(0.0, 3.0));
                    let turn = Quat::from_axis_angle(axis, if dice.below(4) == 0 { 0.0 } else { angle });
                    let centre: Vec3 = dice.vector(1.0);
                    let boxed = dice.below(2) == 0;
                    let corners: Vec<Vec3> = (0..8)
                        .map(|i| {
                            let sign = |bit: usize| if i >> bit & 1 == 1 { 1.0 } else { -1.0 };
                            let pull = if boxed { 1.0 } else { dice.number(0.6, 1.4) };
                            centre + turn * (half * Vec3::new(sign(0), sign(1), sign(2)) * pull)
                        })
                        .collect();
                    let piece =
                        if boxed { Piece::turned_box(centre, half, turn) } else { Piece::solid(&corners) };
                    let theirs: Vec<Other> = corners.iter().map(|corner| other(*corner)).collect();
                    let (Ok(piece), Some(theirs)) = (piece, ConvexPolyhedron::from_convex_hull(&theirs))
                    else {
                        continue;
                    };
                    let radius = rounding(dice);
                    let piece = level_with(piece.grown(radius).unwrap());
                    let whole = RoundConvexPolyhedron { inner_shape: theirs.clone(), border_radius: radius };
                    let whole: Box<dyn Shaped> =
                        if radius == 0.0 { Box::new(theirs.clone()) } else { Box::new(whole) };
                    break (piece, Obstacle { whole, core: Box::new(theirs), radius });
                },
            }
        }

        fn cast(
            hull: &Hull,
            body: &Body,
            at: Vec3,
            motion: Vec3,
            obstacle: &Obstacle,
        ) -> Option<(f32, Vec3)> {
            let options = ShapeCastOptions { max_time_of_impact: 1.0, ..ShapeCastOptions::default() };
            let hit = cast_shapes(
                &Pose::IDENTITY,
                Other::ZERO,
                &*obstacle.whole,
                &pose(hull, at),
                other(motion),
                &*body.whole,
                options,
            );
            hit.unwrap()
                .map(|hit| (hit.time_of_impact, Vec3::new(hit.normal1.x, hit.normal1.y, hit.normal1.z)))
        }

        fn distance(hull: &Hull, body: &Body, at: Vec3, obstacle: &Obstacle) -> f32 {
            // Of the core: the library's distances between round shapes stop
            // millimetres short of the answer.
            let pose = pose(hull, at);
            let apart = match &body.core {
                Some(core) => distance(&pose, &**core, &Pose::IDENTITY, &*obstacle.core).unwrap().distance,
                None => obstacle.core.distance_to_point(&Pose::IDENTITY, pose.translation, true),
            };
            apart - body.radius - obstacle.radius
        }

        fn distance_to_point(obstacle: &Obstacle, point: Vec3) -> f32 {
            obstacle.core.distance_to_point(&Pose::IDENTITY, other(point), true) - obstacle.radius
        }
    }
}

#[test]
fn sweeps_and_gaps_in_space_agree_with_an_independent_library() {
    let tally = compare::<Vec3>(3);
    println!("{} hits, {} decided by distance", tally.hits, tally.decided);
    assert!(tally.hits > CASES / 5);
    assert!(tally.decided < CASES / 100, "{} of {CASES} decided by distance", tally.decided);
}
