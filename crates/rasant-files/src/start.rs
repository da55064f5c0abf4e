//! Where a body can start.

use rasant::contact::Patch;
use rasant::space::{Bounds, Frame};
use rasant::{Controller, Geometry, Level};

use crate::TuningFile;

/// The piece that a body would overlap most at its start, with the depth. A gap below the clearance
/// is allowed, because a start at the height of the floor is what people write.
pub fn overlap_at<V: Geometry>(start: V, level: &Level<V>, numbers: &TuningFile) -> Option<(f32, u32)> {
    let clearance = numbers.hull.clearance();
    let overlap = patch(start, V::ZERO, level, numbers).overlap(V::ZERO, |_| false)?;
    (overlap.distance < -clearance).then_some((-overlap.distance, overlap.tag.piece.0))
}

/// The pieces around a body at `start` that moves by `motion`.
fn patch<V: Geometry>(start: V, motion: V, level: &Level<V>, numbers: &TuningFile) -> Patch<V> {
    let body = Controller::new(numbers.tuning, numbers.hull, start);
    let hull = &body.present_hull();
    let frame = Frame::new(start, V::ZERO, body.state().right, body.state().up);
    let reach = Bounds { min: V::ZERO.min(motion), max: V::ZERO.max(motion) };
    Patch::gather(frame, hull, reach, level)
}

/// Fractions of a level's width at which a start is tried, its sides last.
const TRIED: [f32; 9] = [0.2, 0.3, 0.1, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9];

/// A start on the ground, on level ground if there is any, from above. For a body seen from above,
/// a free place. Above the level's centre if there is neither.
pub fn found_start<V: Geometry>(level: &Level<V>, numbers: &TuningFile) -> [f32; 3] {
    /// Metres above the highest piece.
    const ABOVE: f32 = 3.0;
    /// The smallest vertical component of the normal of level ground.
    const EVEN: f32 = 0.95;
    let Bounds { min, max } = level.bounds();
    let from_above = numbers.tuning.steering.is_from_above(V::DIMENSION);
    let at = |[x, z]: [f32; 2]| {
        let parts = [min, max].map(V::to_array);
        let part = |axis: usize, fraction: f32| parts[0][axis] + (parts[1][axis] - parts[0][axis]) * fraction;
        let y = if from_above { part(1, z) } else { max.height() + ABOVE };
        V::from_array([part(0, x), y, part(2, z)])
    };
    let down = V::UP * -(max.height() - min.height() + 2.0 * ABOVE);
    let mut tried = TRIED.into_iter().flat_map(|z| TRIED.map(|x| at([x, z])));
    let found = if from_above {
        tried.find(|&from| overlap_at(from, level, numbers).is_none())
    } else {
        let ground = |from: V| {
            let hit = patch(from, down, level, numbers).sweep(V::ZERO, down).filter(|hit| !hit.edge)?;
            Some((from + down * hit.time, hit.normal.height()))
        };
        let grounds: Vec<(V, f32)> = tried.filter_map(ground).collect();
        let walkable = numbers.tuning.slope.max_angle.cos();
        let best = [EVEN, walkable].iter().find_map(|least| grounds.iter().find(|(_, up)| up >= least));
        best.map(|(place, _)| *place)
    };
    found.unwrap_or_else(|| at([0.5, 0.5])).to_array()
}
