//! Contact in three dimensions.
//!
//! Pieces are flat facets, balls, capsules, and solids made of facets, with or without rounding. The
//! rounding of a piece adds to the reach of a sweep. [Balls and capsules](super::upright) and
//! [boxes](super::boxed) as hulls have their own contact with facets.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec3;
use smallvec::SmallVec;

use crate::level::{Seams, Shape, Tag};
use crate::space::{Bounds, TINY};

use super::brick::Brick;
use super::facet::{Facet, Place};
use super::rod::Rod;
use super::upright::is_upright;
use super::{Core, Gap, Geometry, Obstacle, ObstacleKind, Patch, Ray, Touch};

/// The number of corners that fit without the heap.
const POINTS: usize = 1152;

impl Geometry for Vec3 {
    type Corner = Vec3;
    type Room = [Vec3; POINTS];

    #[inline]
    fn beside_obstacles(core: &Core<Self>) -> Self {
        core.half
    }

    #[inline]
    fn collect(patch: &mut Patch<Self>, shape: Shape<'_, Self>, tag: Tag) {
        match shape {
            Shape::Ball { centre, radius } => {
                let centre = patch.seen_from_core(centre);
                let bounds = Bounds { min: centre, max: centre }.widened(Vec3::splat(radius));
                if patch.is_within_reach(&bounds) {
                    let obstacle = patch.blank(ObstacleKind::Point, tag);
                    let start = patch.corners.len();
                    patch.reserve_corners(1);
                    patch.corners.push(centre);
                    patch.add(start, Obstacle { bounds, rounding: radius, ..obstacle });
                }
            }
            Shape::Capsule { ends, radius } => {
                let ends = ends.map(|end| patch.seen_from_core(end));
                let bounds = Bounds::around(&ends).widened(Vec3::splat(radius));
                if patch.is_within_reach(&bounds) {
                    let rod = patch.blank(ObstacleKind::Rod, tag);
                    let start = patch.corners.len();
                    patch.reserve_corners(2);
                    patch.corners.extend(ends);
                    let normal = Rod::across(ends[1] - ends[0]);
                    patch.add(start, Obstacle { bounds, normal, anchor: ends[0], rounding: radius, ..rod });
                }
            }
            Shape::Facet { points, seams } => {
                collect_facet(patch, points, seams, tag);
            }
            Shape::Solid { points, faces, rounding } => collect_solid(patch, points, faces, rounding, tag),
            Shape::Mesh { .. } => shape.each_face(|points| collect_facet(patch, points, Seams::NONE, tag)),
            Shape::Segment { .. } | Shape::Polygon { .. } => {}
        }
    }

    #[inline]
    fn collect_block(patch: &mut Patch<Self>, min: Self, max: Self, tag: Tag) {
        if !patch.frame.is_aligned() {
            return Shape::block(min, max, |shape| Self::collect(patch, shape, tag));
        }
        let (min, max) = (patch.seen_from_core(min), patch.seen_from_core(max));
        add_block(patch, &Bounds { min, max }, 0.0, tag);
    }

    fn collect_round_block(patch: &mut Patch<Self>, own: Bounds<Self>, rounding: f32, tag: Tag) {
        add_block(patch, &own, rounding, tag);
    }

    #[inline]
    fn is_below(patch: &Patch<Self>, obstacle: &Obstacle<Self>, normal: Self, lowest: f32) -> bool {
        if obstacle.kind == ObstacleKind::Block {
            return Brick::is_below(&obstacle.bounds, normal, lowest);
        }
        patch.corners_of(obstacle).iter().all(|point| point.dot(normal) < lowest)
    }

    #[inline]
    fn touched_point(patch: &Patch<Self>, obstacle: &Obstacle<Self>, touch: &Touch<Self>) -> Self {
        let by_box = !is_upright(&patch.core);
        let is_flat = matches!(obstacle.kind, ObstacleKind::Facet | ObstacleKind::Face | ObstacleKind::Rod);
        let point =
            if by_box && is_flat { Facet::of(patch, obstacle).nearest_to(touch.point) } else { touch.point };
        if is_rounded(obstacle) { point + touch.normal * obstacle.rounding } else { point }
    }

    #[inline(always)] // most facets are found out to be too far away at once
    fn touch(
        patch: &Patch<Self>,
        obstacle: &Obstacle<Self>,
        ray: &Ray<Self>,
        limit: f32,
    ) -> Option<Touch<Self>> {
        // Facets, by far the most frequent, have no rounding.
        if obstacle.kind != ObstacleKind::Facet && is_rounded(obstacle) {
            return touch_rounded(patch, obstacle, ray, limit);
        }
        match obstacle.kind {
            ObstacleKind::Point => touch_ball(patch, obstacle, ray, limit),
            ObstacleKind::Facet | ObstacleKind::Face => {
                if !is_upright(&patch.core) {
                    let core = &patch.core;
                    return Facet::of(patch, obstacle).touch_box(core.half, ray, limit);
                }
                let place = Place::over(obstacle, patch.core.half.y, ray);
                let late = place.comes_too_late(limit);
                if late { None } else { Facet::touch_upright(patch, obstacle, &place, ray, limit) }
            }
            ObstacleKind::Block => Brick::of(&obstacle.bounds, patch.core.half).touch(ray, limit),
            ObstacleKind::Solid(_) | ObstacleKind::Outline | ObstacleKind::Rod => None,
        }
    }

    #[inline]
    fn gap_within(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self, reach: f32) -> Option<Gap<Self>> {
        let gap = if obstacle.kind == ObstacleKind::Facet && !is_upright(&patch.core) {
            Facet::of(patch, obstacle).gap_to_box_within(patch.core.half, at, reach)?
        } else if obstacle.kind == ObstacleKind::Facet {
            let half = patch.core.half.y;
            if Place::over(obstacle, half, &Ray { from: at, motion: Vec3::ZERO, reach }).beyond > 0.0 {
                return None;
            }
            Facet::of(patch, obstacle).gap_upright_within(half, at, reach)?
        } else {
            Self::gap(patch, obstacle, at)
        };
        (gap.distance < reach).then_some(gap)
    }

    fn gap(patch: &Patch<Self>, obstacle: &Obstacle<Self>, at: Self) -> Gap<Self> {
        let mut gap = match obstacle.kind {
            ObstacleKind::Point => return gap_to_ball(patch, obstacle, at),
            ObstacleKind::Block => brick_of(patch, obstacle).gap(at),
            ObstacleKind::Solid(faces) => gap_to_solid(patch, obstacle, usize::from(faces), at),
            ObstacleKind::Rod => Rod::gap(patch, obstacle, at),
            _ => gap_to_facet(patch, obstacle, at),
        };
        if is_rounded(obstacle) {
            gap.distance -= obstacle.rounding;
            gap.point += gap.normal * obstacle.rounding;
            if gap.edge && patch.is_round(obstacle) {
                (gap.edge, gap.face) = (false, gap.normal);
            }
        }
        gap
    }
}

/// Returns true for a core with edges and a rounding. (A ball is its rounding alone.)
#[inline]
fn is_rounded(obstacle: &Obstacle<Vec3>) -> bool {
    obstacle.rounding != 0.0 && obstacle.kind != ObstacleKind::Point
}

/// The touch with something rounded: as without the rounding, from further away.
#[inline(never)]
fn touch_rounded(
    patch: &Patch<Vec3>,
    obstacle: &Obstacle<Vec3>,
    ray: &Ray<Vec3>,
    limit: f32,
) -> Option<Touch<Vec3>> {
    let ray = Ray { reach: ray.reach + obstacle.rounding, ..*ray };
    let mut touch = match obstacle.kind {
        ObstacleKind::Rod => Rod::touch(patch, obstacle, &ray, limit)?,
        ObstacleKind::Block => brick_of(patch, obstacle).touch(&ray, limit)?,
        ObstacleKind::Face if !is_upright(&patch.core) => {
            Facet::of(patch, obstacle).touch_box(patch.core.half, &ray, limit)?
        }
        ObstacleKind::Face => {
            let place = Place::over(obstacle, patch.core.half.y, &ray);
            if place.comes_too_late(limit) {
                return None;
            }
            Facet::touch_upright(patch, obstacle, &place, &ray, limit)?
        }
        ObstacleKind::Facet | ObstacleKind::Point | ObstacleKind::Outline | ObstacleKind::Solid(_) => {
            return None;
        }
    };
    if touch.edge && patch.is_round(obstacle) {
        (touch.edge, touch.face) = (false, touch.normal);
    }
    Some(touch)
}

/// The sum of a box along the body's axes, without its rounding, and the core.
fn brick_of(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>) -> Brick {
    let own = obstacle.bounds.widened(Vec3::splat(-obstacle.rounding));
    Brick::of(if obstacle.rounding == 0.0 { &obstacle.bounds } else { &own }, patch.core.half)
}

// ---- collecting ----

#[inline]
fn collect_facet(patch: &mut Patch<Vec3>, world: &[Vec3], seams: Seams, tag: Tag) {
    match world {
        // Nearly all facets are triangles.
        &[a, b, c] => {
            let local = [a, b, c].map(|point| patch.seen_from_core(point));
            add_facet(patch, &local, ObstacleKind::Facet, seams, 0.0, tag);
        }
        _ => {
            let local: SmallVec<[Vec3; 64]> =
                world.iter().map(|&point| patch.seen_from_core(point)).collect();
            add_facet(patch, &local, ObstacleKind::Facet, seams, 0.0, tag);
        }
    }
}

/// Adds a facet that is near, or any face of a solid that is near. Returns true if it did. A facet
/// without an area stops nothing that its neighbours do not stop.
#[inline(always)] // for triangles, once more
fn add_facet(
    patch: &mut Patch<Vec3>,
    points: &[Vec3],
    kind: ObstacleKind,
    seams: Seams,
    rounding: f32,
    tag: Tag,
) -> bool {
    let mut bounds = Bounds::around(points);
    if rounding != 0.0 {
        bounds = bounds.widened(Vec3::splat(rounding));
    }
    if kind == ObstacleKind::Facet && !patch.is_within_reach(&bounds) {
        return false;
    }
    let Some(normal) = normal_of(points) else { return false };
    let start = patch.corners.len();
    patch.reserve_corners(points.len());
    for &point in points {
        patch.corners.push(point);
    }
    let blank = patch.blank(kind, tag);
    patch.add(start, Obstacle { bounds, normal, seams, rounding, anchor: points[0], ..blank });
    true
}

/// The unit normal of a flat outline: of its first corner with the two consecutive others that span
/// the largest area.
#[inline]
fn normal_of(points: &[Vec3]) -> Option<Vec3> {
    let span = |i: usize| (points[i] - points[0]).cross(points[i + 1] - points[0]);
    let mut best = span(1);
    for i in 2..points.len() - 1 {
        let other = span(i);
        if other.length_squared() > best.length_squared() {
            best = other;
        }
    }
    let length = best.length_squared().sqrt();
    (length > TINY * TINY).then(|| best / length)
}

/// Adds all faces of a solid, and the solid after them.
fn collect_solid(patch: &mut Patch<Vec3>, points: &[Vec3], mut faces: &[u8], rounding: f32, tag: Tag) {
    let local: SmallVec<[Vec3; 64]> = points.iter().map(|&point| patch.seen_from_core(point)).collect();
    let own = Bounds::around(&local);
    if Brick::is_one(&local, &own) {
        return add_block(patch, &own, rounding, tag);
    }
    let bounds = own.widened(Vec3::splat(rounding));
    if !patch.is_within_reach(&bounds) {
        return;
    }
    let mut count = 0;
    while let Some((&corners, rest)) = faces.split_first() {
        let (face, rest) = rest.split_at(usize::from(corners));
        faces = rest;
        let corners: SmallVec<[Vec3; 64]> = face.iter().map(|&corner| local[usize::from(corner)]).collect();
        count += u8::from(add_facet(patch, &corners, ObstacleKind::Face, Seams::NONE, rounding, tag));
    }
    let start = patch.corners.len();
    let whole = patch.blank(ObstacleKind::Solid(count), tag);
    patch.add(start, Obstacle { bounds, rounding, ..whole });
}

/// Adds a box along the body's axes.
fn add_block(patch: &mut Patch<Vec3>, own: &Bounds<Vec3>, rounding: f32, tag: Tag) {
    let bounds = if rounding == 0.0 { *own } else { own.widened(Vec3::splat(rounding)) };
    if patch.is_within_reach(&bounds) {
        let block = patch.blank(ObstacleKind::Block, tag);
        patch.add(patch.corners.len(), Obstacle { bounds, rounding, ..block });
    }
}

// ---- balls ----

/// The centre of a ball, and its sum with the core.
fn round_centre(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>) -> (Vec3, Brick) {
    let centre = patch.corners_of(obstacle)[0];
    (centre, Brick::of(&Bounds { min: centre, max: centre }, patch.core.half))
}

fn touch_ball(
    patch: &Patch<Vec3>,
    obstacle: &Obstacle<Vec3>,
    ray: &Ray<Vec3>,
    limit: f32,
) -> Option<Touch<Vec3>> {
    let (centre, sum) = round_centre(patch, obstacle);
    let touch = sum.touch(&Ray { reach: ray.reach + obstacle.rounding, ..*ray }, limit)?;
    let normal = touch.normal;
    Some(Touch { point: centre + normal * obstacle.rounding, face: normal, edge: false, ..touch })
}

fn gap_to_ball(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>, at: Vec3) -> Gap<Vec3> {
    let (centre, sum) = round_centre(patch, obstacle);
    let Gap { distance, normal, .. } = sum.gap(at);
    let point = centre + normal * obstacle.rounding;
    Gap { distance: distance - obstacle.rounding, normal, point, face: normal, edge: false }
}

// ---- facets and solids ----

fn gap_to_facet(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>, at: Vec3) -> Gap<Vec3> {
    let (facet, half) = (Facet::of(patch, obstacle), patch.core.half);
    if is_upright(&patch.core) { facet.gap_upright(half.y, at) } else { facet.gap_to_box(half, at) }
}

fn gap_to_solid(patch: &Patch<Vec3>, solid: &Obstacle<Vec3>, count: usize, at: Vec3) -> Gap<Vec3> {
    let end = patch
        .obstacles
        .iter()
        .position(|other| other.kind == solid.kind && other.corners == solid.corners)
        .unwrap_or(0);
    let faces = &patch.obstacles[end - count..end];
    let half = patch.core.half;
    // Inside, the shortest displacement to the outside leads through the nearest face.
    let mut out = f32::NEG_INFINITY;
    let mut direction = Vec3::Y;
    let mut nearest: Option<Gap<Vec3>> = None;
    for face in faces {
        let height = face.normal.dot(at - face.anchor);
        let distance = height - face.normal.abs().dot(half);
        if distance > out {
            (out, direction) = (distance, face.normal);
        }
        if height >= 0.0 || distance < 0.0 {
            let gap = gap_to_facet(patch, face, at);
            nearest = Some(nearest.map_or(gap, |held| held.nearer(gap)));
        }
    }
    let centre_inside = faces.iter().all(|face| face.normal.dot(at - face.anchor) <= 0.0);
    match nearest {
        Some(gap) if !centre_inside && gap.distance > 0.0 => gap,
        _ => Gap {
            distance: out.min(0.0),
            normal: direction,
            point: at - direction * (out + direction.abs().dot(half)),
            face: direction,
            edge: false,
        },
    }
}
