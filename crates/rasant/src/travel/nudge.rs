//! Help past corners: a rising head around the corner of a ceiling, and feet onto a lip that they
//! miss by a hair.

use crate::contact::{Geometry, Hit};
use crate::thresholds::walls;

use super::{ContactKind, Mover, Stand, laid_on};

/// How far a body in the air is helped past corners, in metres.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Nudges {
    /// To the side, around the corner of a ceiling.
    pub corner: f32,
    /// Up, onto a lip.
    pub lip: f32,
}

impl<V: Geometry> Mover<'_, V> {
    /// Moves a body whose head touched a ceiling just far enough to the side for the rest of its
    /// rise, if that is near enough. Returns true if it did.
    pub(super) fn nudge_round_corner(&mut self, hit: &Hit<V>, rest: V) -> bool {
        let most = self.nudges.corner;
        let rise = rest.height();
        // A round head touches the corner itself, at a tilt.
        let above = self.kind_of(hit.normal) == ContactKind::Ceiling
            || (hit.edge && hit.normal.height() < walls::BESIDE_HEAD);
        if most <= 0.0 || rise <= 0.0 || !above {
            return false;
        }
        let clear = V::UP * rise.max(2.0 * self.patch.clearance());
        let beside = V::RIGHT.crease(V::UP).unwrap_or(V::ZERO);
        for side in [V::RIGHT, -V::RIGHT, beside, -beside] {
            if side == V::ZERO || rest.dot(side) < 0.0 {
                continue;
            }
            let out = most * self.sweep(self.at, side * most).map_or(1.0, |hit| hit.time);
            let aside = self.at + side * out;
            if self.sweep(aside, clear).is_some() {
                continue;
            }
            // Back toward the corner, so that it is no further than needed.
            let back = self.sweep(aside + clear, side * -out).map_or(1.0, |hit| hit.time);
            let moved = out * (1.0 - back);
            if moved > self.patch.slack() {
                self.at += side * moved;
                return true;
            }
        }
        false
    }

    /// Lifts a body that touches a wall onto the top of the wall, if that is near enough above the
    /// feet. Returns the ground there and the rest of the displacement.
    pub(super) fn nudge_onto_lip(&mut self, hit: &Hit<V>, rest: V) -> Option<(Stand<V>, V)> {
        let most = self.nudges.lip;
        // Feet that are over the edge by less than the clearance touch it at a tilt.
        let beside = self.kind_of(hit.normal) == ContactKind::Wall || (hit.edge && hit.normal.height() > 0.0);
        if most <= 0.0 || rest.height() > 0.0 || !beside {
            return None;
        }
        let (left, stand) = self.step_onto(rest, most, self.at.height())?;
        Some((stand, laid_on(rest.flat() * left, stand.normal)))
    }
}
