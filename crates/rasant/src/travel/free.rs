//! Getting free of an overlap.

use smallvec::SmallVec;

use crate::contact::{Geometry, Nearest};
use crate::level::{CarrierId, PieceId, Tag};
use crate::thresholds::{room, rounding};

use super::{Among, Traveller, resolve};

/// Pieces that are pushed out of one after the other at most.
const PUSHES: usize = 12;

/// How an overlap was dealt with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Freed {
    /// There was none.
    Clear,
    /// The body was moved out of it.
    Moved,
    /// There is no way out.
    Crushed {
        /// Whether something that moves is in it: the body then stays where it is
        /// until that is gone.
        held: bool,
    },
}

impl<V: Geometry> Traveller<'_, V> {
    /// Moves the body out of whatever it overlaps, the deepest first, to the
    /// full clearance. Where that cannot be, or would lead through something,
    /// leaves it where it was.
    #[inline(never)]
    pub fn get_free(&mut self) -> Freed {
        let start = self.at;
        let mut planes: SmallVec<[V; PUSHES]> = SmallVec::new();
        let mut left: SmallVec<[PieceId; PUSHES]> = SmallVec::new();
        let mut held = false;
        for _ in 0..PUSHES {
            let Some(overlap) = self.patch.overlap(self.at, |tag| self.is_passed(tag)) else {
                if left.is_empty() {
                    return Freed::Clear;
                }
                if self.leads_through(start, &left) {
                    break;
                }
                return Freed::Moved;
            };
            held |= overlap.tag.carrier.is_some();
            left.push(overlap.tag.piece);
            let depth = self.patch.clearance() - overlap.distance;
            if !self.may_leave(&overlap, depth) {
                break;
            }
            // Out of the present piece without going back into an earlier one,
            // where the two leave a way.
            let way = resolve(overlap.normal * depth, &planes);
            let along = way.dot(overlap.normal);
            let way = if along > 0.1 * depth { way * (depth / along) } else { overlap.normal * depth };
            self.reach(self.at, way);
            self.at += way;
            planes.push(overlap.normal);
        }
        self.at = start;
        if held && !self.held && self.slips_out() { Freed::Moved } else { Freed::Crushed { held } }
    }

    /// Moves a body that a carrier has come to out from under it, if there is a free place within
    /// what the carrier has moved and half the body's width: the nearest of those with, or
    /// across, the carrier's motion. Returns true if there was one.
    #[inline(never)]
    fn slips_out(&mut self) -> bool {
        let Some(overlap) = self.patch.overlap(self.at, |tag| self.is_passed(tag)) else { return true };
        let Some(carrier) = overlap.tag.carrier else { return false };
        let moved = self.moved_to(carrier, overlap.point);
        let most = moved.length() + self.patch.ends()[0].component(0);
        let beside = V::RIGHT.crease(V::UP).unwrap_or(V::ZERO);
        let mut directions: SmallVec<[V; 8]> = SmallVec::new();
        directions.extend(
            [moved, moved.flat(), overlap.normal, overlap.normal.flat()]
                .iter()
                .filter_map(|vector| vector.direction()),
        );
        directions.extend([V::RIGHT, -V::RIGHT, beside, -beside]);
        let mut nearest: Option<V> = None;
        let is_with = |direction: V| {
            direction != V::ZERO && direction.dot(moved) >= -rounding::ALONG_PLANE * moved.length()
        };
        for direction in directions.into_iter().filter(|&direction| is_with(direction)) {
            let Some(out) = self.freed_along(direction * most, carrier) else { continue };
            if nearest.is_none_or(|held| out.length_squared() < held.length_squared()) {
                nearest = Some(out);
            }
        }
        let Some(out) = nearest else { return false };
        self.at += out;
        true
    }

    /// The least part of a displacement past which the body is free of a carrier that it is in,
    /// and of all else.
    fn freed_along(&mut self, displacement: V, carrier: CarrierId) -> Option<V> {
        let start = self.at;
        self.reach(start, displacement);
        let own = |tag: &Tag| tag.carrier == Some(carrier) || self.is_passed(tag);
        let met = self.patch.sweep_past(start, displacement, None, own).hit;
        let far = displacement * met.map_or(1.0, |hit| hit.time);
        let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
        // Back again, until the carrier is in the way.
        let back = self.patch.sweep_past(start + far, -far, None, others);
        if self.patch.is_overlap(back.depth) {
            return None;
        }
        let out = far * (1.0 - back.hit.map_or(1.0, |hit| hit.time));
        self.patch.overlap(start + out, |tag| self.is_passed(tag)).is_none().then_some(out)
    }

    /// Whether a body `depth` inside a piece goes out of it by the shortest way.
    ///
    /// What a carrier has pushed into a body that was outside it is left no
    /// further than the carrier has come, and not against its motion: that would
    /// be through it. A body that is deeper in was put there, and goes; but one that
    /// was held before waits until the carrier is as good as gone.
    fn may_leave(&self, overlap: &Nearest<V>, depth: f32) -> bool {
        let Some(carrier) = overlap.tag.carrier else { return true };
        if !self.held && self.rides.is_some_and(|(_, ridden)| ridden == carrier) {
            // It has been taken along, and is in it only by how far that has turned under it.
            return true;
        }
        let hair = room::LEFT_BY * self.patch.clearance();
        let way = self.moved_to(carrier, overlap.point);
        let is_pushed = depth <= way.length() + hair;
        let is_against = depth > hair && overlap.normal.dot(way) < 0.0;
        if self.held { is_pushed && !is_against } else { !(is_pushed && is_against) }
    }

    /// How far the point of a carrier that is at `point` now has come in this tick.
    pub(super) fn moved_to(&self, carrier: CarrierId, point: V) -> V {
        let Among { carriers, moved_to, .. } = self.among;
        let moves = |moving: &[(V, CarrierId)]| moving.iter().any(|moving| moving.1 == carrier);
        if moves(carriers) || moves(self.rides.as_slice()) { moved_to(carrier, point) } else { V::ZERO }
    }

    /// Whether something that the body did not overlap is between `start` and where
    /// it is now.
    fn leads_through(&mut self, start: V, left: &[PieceId]) -> bool {
        let way = self.at - start;
        let ignored = |tag: &crate::level::Tag| left.contains(&tag.piece) || self.is_passed(tag);
        let met = self.patch.sweep_past(start, way, None, ignored).hit;
        // It is free where it is now, if not by the whole clearance.
        met.is_some_and(|hit| (1.0 - hit.time) * way.length() > self.patch.clearance())
    }
}
