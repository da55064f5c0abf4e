//! Resolving overlaps.

use smallvec::SmallVec;

use crate::contact::{Geometry, Nearest};
use crate::level::{CarrierId, PieceId, Tag};
use crate::thresholds::{room, rounding};

use super::{Among, Mover, resolve};

/// The maximum number of pieces that are resolved one after the other.
const PUSHES: usize = 12;

/// How an overlap was resolved.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Freed {
    /// There was none.
    Clear,
    /// The body was moved out of it.
    Moved,
    /// There is no free place.
    Crushed {
        /// True if something that moves is in the body. The body then stays where it is until that
        /// has left.
        held: bool,
    },
}

impl<V: Geometry> Mover<'_, V> {
    /// Moves the body out of whatever it overlaps, the deepest first, to the full clearance. If
    /// that is impossible, or would lead through something, the body stays where it was.
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
            // Out of the current piece without going back into an earlier one, if the two allow it.
            let displacement = resolve(overlap.normal * depth, &planes);
            let along = displacement.dot(overlap.normal);
            let displacement =
                if along > 0.1 * depth { displacement * (depth / along) } else { overlap.normal * depth };
            self.reach(self.at, displacement);
            self.at += displacement;
            planes.push(overlap.normal);
        }
        self.at = start;
        if held && !self.held && self.slips_out() { Freed::Moved } else { Freed::Crushed { held } }
    }

    /// Moves a body that a carrier has run into out of its path, if there is a free place within
    /// the carrier's displacement plus half the body's width: the nearest of those along, or
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

    /// The smallest part of a displacement after which the body is free of a carrier that it
    /// overlaps, and of everything else.
    fn freed_along(&mut self, displacement: V, carrier: CarrierId) -> Option<V> {
        let start = self.at;
        self.reach(start, displacement);
        let own = |tag: &Tag| tag.carrier == Some(carrier) || self.is_passed(tag);
        let met = self.patch.sweep_past(start, displacement, None, own).hit;
        let far = displacement * met.map_or(1.0, |hit| hit.time);
        let others = |tag: &Tag| tag.carrier != Some(carrier) || self.is_passed(tag);
        // Back again, until the carrier stops it.
        let back = self.patch.sweep_past(start + far, -far, None, others);
        if self.patch.is_overlap(back.depth) {
            return None;
        }
        let out = far * (1.0 - back.hit.map_or(1.0, |hit| hit.time));
        self.patch.overlap(start + out, |tag| self.is_passed(tag)).is_none().then_some(out)
    }

    /// Returns true if a body `depth` inside a piece may leave it by the shortest displacement.
    ///
    /// A body that a carrier has run into must not be moved further than the carrier has come, nor
    /// against its motion: that would lead through it. A body that is deeper inside was put there,
    /// and leaves; but one that was held before waits until the carrier has almost left.
    fn may_leave(&self, overlap: &Nearest<V>, depth: f32) -> bool {
        let Some(carrier) = overlap.tag.carrier else { return true };
        if !self.held && self.rides.is_some_and(|(_, ridden)| ridden == carrier) {
            // The carrier took it along, and it is inside only because the carrier rotated under
            // it.
            return true;
        }
        let hair = room::LEFT_BY * self.patch.clearance();
        let displacement = self.moved_to(carrier, overlap.point);
        let is_pushed = depth <= displacement.length() + hair;
        let is_against = depth > hair && overlap.normal.dot(displacement) < 0.0;
        if self.held { is_pushed && !is_against } else { !(is_pushed && is_against) }
    }

    /// The displacement in this tick of the point of a carrier that is now at `point`.
    pub(super) fn moved_to(&self, carrier: CarrierId, point: V) -> V {
        let Among { carriers, moved_to, .. } = self.among;
        let moves = |moving: &[(V, CarrierId)]| moving.iter().any(|moving| moving.1 == carrier);
        if moves(carriers) || moves(self.rides.as_slice()) { moved_to(carrier, point) } else { V::ZERO }
    }

    /// Returns true if something that the body did not overlap is between `start` and its current
    /// position.
    fn leads_through(&mut self, start: V, left: &[PieceId]) -> bool {
        let displacement = self.at - start;
        let ignored = |tag: &crate::level::Tag| left.contains(&tag.piece) || self.is_passed(tag);
        let met = self.patch.sweep_past(start, displacement, None, ignored).hit;
        // It is free at its current position, even if not by the whole clearance.
        met.is_some_and(|hit| (1.0 - hit.time) * displacement.length() > self.patch.clearance())
    }
}
