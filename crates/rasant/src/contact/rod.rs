//! Pieces with a line as core, in three dimensions: capsules.
//!
//! The hull touches the line with one of its round ends, with its upright side, or, if it is a box,
//! with a side, an edge or a corner: each a closed form that facets use as well.

use glam::Vec3;

use crate::space::{TINY, Vector as _};

use super::facet::{Facet, gap_between, nearest_of_segments};
use super::upright::{is_upright, touch_edge_with_end, touch_edge_with_side, touch_side};
use super::{Gap, Obstacle, Patch, Ray, Touch, more_upward};

/// The line of a piece, from its start along its displacement.
pub(super) struct Rod {
    start: Vec3,
    along: Vec3,
}

impl Rod {
    pub(super) fn of(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>) -> Self {
        let ends = patch.corners_of(obstacle);
        Self { start: ends[0], along: ends[1] - ends[0] }
    }

    /// A direction at right angles to a line, for the [`Obstacle::normal`] of one.
    pub(super) fn across(along: Vec3) -> Vec3 {
        let axis = along.normalize_or_zero();
        axis.cross(Vec3::Y).try_normalize().unwrap_or(Vec3::X)
    }

    /// The most upward normal of the line: what a foot on a thin one rests on.
    fn face(&self, normal: Vec3) -> Vec3 {
        let axis = self.along.normalize_or_zero();
        Vec3::Y.slid_along(axis).try_normalize().map_or(normal, |top| more_upward(normal, top))
    }

    pub(super) fn touch(
        patch: &Patch<Vec3>,
        obstacle: &Obstacle<Vec3>,
        ray: &Ray<Vec3>,
        limit: f32,
    ) -> Option<Touch<Vec3>> {
        let rod = Self::of(patch, obstacle);
        let touch = if is_upright(&patch.core) {
            rod.touch_upright(patch.core.half.y, ray, limit)?
        } else {
            Facet::of(patch, obstacle).touch_box(patch.core.half, ray, limit)?
        };
        Some(Touch { face: rod.face(touch.normal), edge: true, ..touch })
    }

    fn touch_upright(&self, half: f32, ray: &Ray<Vec3>, limit: f32) -> Option<Touch<Vec3>> {
        let gap = self.gap_upright(half, ray.from);
        if gap.distance <= ray.reach {
            return gap.touch(ray);
        }
        let Self { start, along } = *self;
        let arm = ray.from - start;
        let mut first: Option<Touch<Vec3>> = None;
        let mut offer = |met: Option<(f32, (Vec3, Vec3))>| {
            let Some((time, (normal, point))) = met else { return };
            if time <= first.as_ref().map_or(limit, |held| held.time) {
                first = Some(Touch { time, normal, face: normal, point, edge: true, depth: 0.0 });
            }
        };
        for end in [-half, half] {
            let met = touch_edge_with_end(arm + Vec3::Y * end, along, ray);
            offer(met.map(|(normal, fraction)| (normal, start + along * fraction)).at());
        }
        if half > 0.0 {
            offer(touch_edge_with_side(start, along, half, ray).at());
            for end in [Vec3::ZERO, along] {
                offer(touch_side(arm - end, half, ray).map(|normal| (normal, start + end)).at());
            }
        }
        first
    }

    pub(super) fn gap(patch: &Patch<Vec3>, obstacle: &Obstacle<Vec3>, at: Vec3) -> Gap<Vec3> {
        let (rod, half) = (Self::of(patch, obstacle), patch.core.half);
        let gap = if is_upright(&patch.core) {
            rod.gap_upright(half.y, at)
        } else {
            Facet::of(patch, obstacle).gap_to_box(half, at)
        };
        Gap { face: rod.face(gap.normal), edge: true, ..gap }
    }

    fn gap_upright(&self, half: f32, at: Vec3) -> Gap<Vec3> {
        let (own, point) =
            nearest_of_segments(at - Vec3::Y * half, Vec3::Y * (2.0 * half), self.start, self.along);
        // Where the two cross, they come apart at right angles to both.
        let aside = self.along.cross(Vec3::Y);
        let aside = aside.try_normalize().unwrap_or_else(|| Self::across(self.along));
        let aside = if aside.dot(at - point) < 0.0 { -aside } else { aside };
        let is_apart = (own - point).length_squared() > TINY * TINY;
        gap_between(own, point, if is_apart { Vec3::NEG_Y } else { aside })
    }
}
