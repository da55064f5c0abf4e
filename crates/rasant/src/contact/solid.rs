//! Contact in space.
//!
//! Pieces are flat facets, balls, and solids made of facets. A facet is met one
//! way by [balls and capsules](super::upright) and another by
//! [boxes](super::boxed).

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec3;
use smallvec::SmallVec;

use crate::level::{Seams, Shape, Tag};
use crate::space::{Bounds, TINY};

use super::brick::Brick;
use super::facet::{Facet, Place};
use super::upright::is_upright;
use super::{Core, Gap, Geometry, Obstacle, ObstacleKind, Patch, Ray, Touch};

/// Room for the corners of a crowded place.
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
            Shape::Facet { points, seams } => {
                collect_facet(patch, points, seams, tag);
            }
            Shape::Solid { points, faces } => collect_solid(patch, points, faces, tag),
            Shape::Segment { .. } | Shape::Polygon { .. } => {}
        }
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
        if by_box && matches!(obstacle.kind, ObstacleKind::Facet | ObstacleKind::Face) {
            Facet::of(patch, obstacle).nearest_to(touch.point)
        } else {
            touch.point
        }
    }

    #[inline(always)] // most facets are found out to be too far away at once
    fn touch(
        patch: &Patch<Self>,
        obstacle: &Obstacle<Self>,
        ray: &Ray<Self>,
        limit: f32,
    ) -> Option<Touch<Self>> {
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
            ObstacleKind::Solid(_) | ObstacleKind::Outline => None,
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
        match obstacle.kind {
            ObstacleKind::Point => gap_to_ball(patch, obstacle, at),
            ObstacleKind::Block => Brick::of(&obstacle.bounds, patch.core.half).gap(at),
            ObstacleKind::Solid(faces) => gap_to_solid(patch, obstacle, usize::from(faces), at),
            _ => gap_to_facet(patch, obstacle, at),
        }
    }
}

// ---- collecting ----

#[inline]
fn collect_facet(patch: &mut Patch<Vec3>, world: &[Vec3], seams: Seams, tag: Tag) {
    match world {
        // Nearly all facets there are.
        &[a, b, c] => {
            let local = [a, b, c].map(|point| patch.seen_from_core(point));
            add_facet(patch, &local, ObstacleKind::Facet, seams, tag);
        }
        _ => {
            let local: SmallVec<[Vec3; 64]> =
                world.iter().map(|&point| patch.seen_from_core(point)).collect();
            add_facet(patch, &local, ObstacleKind::Facet, seams, tag);
        }
    }
}

/// Adds a facet that is near, or a face of a solid that is, wherever the face
/// itself may be; gives whether it did. One without an area stops nothing that its
/// neighbours do not.
#[inline(always)] // for triangles, once more
fn add_facet(patch: &mut Patch<Vec3>, points: &[Vec3], kind: ObstacleKind, seams: Seams, tag: Tag) -> bool {
    let bounds = Bounds::around(points);
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
    patch.add(start, Obstacle { bounds, normal, seams, anchor: points[0], ..blank });
    true
}

/// The normal of a flat outline, of length 1: of its first corner with whichever
/// two that follow each other span the most.
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

/// Adds the faces of a solid, all of them, and the solid behind them.
fn collect_solid(patch: &mut Patch<Vec3>, points: &[Vec3], mut faces: &[u8], tag: Tag) {
    let local: SmallVec<[Vec3; 64]> = points.iter().map(|&point| patch.seen_from_core(point)).collect();
    let bounds = Bounds::around(&local);
    if !patch.is_within_reach(&bounds) {
        return;
    }
    if Brick::is_one(&local, &bounds) {
        let start = patch.corners.len();
        let block = patch.blank(ObstacleKind::Block, tag);
        patch.add(start, Obstacle { bounds, ..block });
        return;
    }
    let mut count = 0;
    while let Some((&corners, rest)) = faces.split_first() {
        let (face, rest) = rest.split_at(usize::from(corners));
        faces = rest;
        let corners: SmallVec<[Vec3; 64]> = face.iter().map(|&corner| local[usize::from(corner)]).collect();
        count += u8::from(add_facet(patch, &corners, ObstacleKind::Face, Seams::NONE, tag));
    }
    let start = patch.corners.len();
    let whole = patch.blank(ObstacleKind::Solid(count), tag);
    patch.add(start, Obstacle { bounds, ..whole });
}

// ---- balls ----

/// A ball's centre, and its sum with the core: the ball is met round that.
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
    // Inside, the way out is through the face that is passed soonest.
    let mut out = f32::NEG_INFINITY;
    let mut way = Vec3::Y;
    let mut nearest: Option<Gap<Vec3>> = None;
    for face in faces {
        let height = face.normal.dot(at - face.anchor);
        let distance = height - face.normal.abs().dot(half);
        if distance > out {
            (out, way) = (distance, face.normal);
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
            normal: way,
            point: at - way * (out + way.abs().dot(half)),
            face: way,
            edge: false,
        },
    }
}
