//! Where a body can begin.

use rasant::{Bounds, Controller, Frame, Geometry, Level, Patch};

use super::TuningFile;

/// How deep a body would start inside which piece. Within the clearance is
/// still outside: a start at the floor's own height is what people write.
pub fn overlap_at<V: Geometry>(start: V, level: &Level<V>, numbers: &TuningFile) -> Option<(f32, u32)> {
    let clearance = numbers.hull.clearance();
    let overlap = patch(start, V::ZERO, level, numbers).overlap(V::ZERO, |_| false)?;
    (overlap.distance < -clearance).then_some((-overlap.distance, overlap.tag.piece.0))
}

/// What is round a body at `start` that moves by `motion`.
fn patch<V: Geometry>(start: V, motion: V, level: &Level<V>, numbers: &TuningFile) -> Patch<V> {
    let body = Controller::new(numbers.tuning, numbers.hull, start);
    let hull = &body.present_hull();
    let frame = Frame::new(start, V::ZERO, body.state().right, body.state().up);
    let reach = Bounds { min: V::ZERO.min(motion), max: V::ZERO.max(motion) };
    Patch::gather(frame, hull, reach, level)
}

/// Shares of a level's width at which a body is tried, its sides last.
const TRIED: [f32; 9] = [0.2, 0.3, 0.1, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9];

/// Somewhere on even ground, from above, or in the open for a body that is seen from
/// above; over the level's middle if there is none.
pub fn found_start<V: Geometry>(level: &Level<V>, numbers: &TuningFile) -> [f32; 3] {
    /// Metres over the highest.
    const ABOVE: f32 = 3.0;
    /// The least part of its normal that points up, of ground to begin on.
    const EVEN: f32 = 0.9;
    let Bounds { min, max } = level.bounds();
    let from_above = numbers.tuning.steering.is_from_above(V::DIMENSION);
    let at = |[x, z]: [f32; 2]| {
        let parts = [min, max].map(V::to_array);
        let part = |axis: usize, share: f32| parts[0][axis] + (parts[1][axis] - parts[0][axis]) * share;
        let y = if from_above { part(1, z) } else { max.height() + ABOVE };
        V::from_array([part(0, x), y, part(2, z)])
    };
    let down = V::UP * -(max.height() - min.height() + 2.0 * ABOVE);
    let tried = TRIED.into_iter().flat_map(|z| TRIED.map(|x| [x, z]));
    tried
        .filter_map(|shares| {
            let from = at(shares);
            if from_above {
                return overlap_at(from, level, numbers).is_none().then_some(from);
            }
            let hit = patch(from, down, level, numbers).sweep(V::ZERO, down)?;
            (hit.normal.height() > EVEN && !hit.edge).then_some(from + down * hit.share)
        })
        .next()
        .unwrap_or_else(|| at([0.5, 0.5]))
        .to_array()
}
