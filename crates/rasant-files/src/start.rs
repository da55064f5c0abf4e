//! Where a body can start.

use rasant::contact::Patch;
use rasant::space::{Bounds, Frame};
use rasant::{Controller, Geometry};

use crate::{LevelFile, TuningFile};

/// The piece that a body would overlap most at its start, with the depth. A gap below the clearance
/// is allowed, because a start at the height of the floor is what people write.
pub fn overlap_at<V: Geometry>(start: V, file: &LevelFile<V>, numbers: &TuningFile) -> Option<(f32, u32)> {
    let clearance = numbers.hull.clearance();
    let overlap = patch(start, V::ZERO, file, numbers).overlap(V::ZERO, |_| false)?;
    (overlap.distance < -clearance).then_some((-overlap.distance, overlap.tag.piece.0))
}

/// The pieces around a body at `start` that moves by `motion`, relative to the body.
fn patch<V: Geometry>(start: V, motion: V, file: &LevelFile<V>, numbers: &TuningFile) -> Patch<V> {
    let body = file.body(numbers, start);
    let hull = &body.present_hull();
    let frame = Frame::new(start, V::ZERO, body.state().right, body.state().up);
    let reach = Bounds { min: V::ZERO.min(motion), max: V::ZERO.max(motion) };
    Patch::gather(frame, hull, reach, &file.level)
}

impl<V: Geometry> LevelFile<V> {
    /// A body with its underside at `start`, with the up of the level.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant_files::{OnDisk, Source, TuningFile, World, level_from};
    ///
    /// // In pixels, with y down: the floor is at y = 320.
    /// let text = "up = \"-y\"\nscale = 32\nstart = [80, 320]\n[[piece]]\nblock = [[0, 320], [640, 352]]\n";
    /// let source = Source { name: "yard".into(), text: text.into() };
    /// let World::Plane(file) = level_from(&source, &OnDisk, "yard.toml".as_ref())? else { unreachable!() };
    /// let numbers = TuningFile::default().scaled(file.scale())?;
    /// let mut body = file.body(&numbers, file.start.unwrap_or_default());
    /// body.find_footing(&file.level);
    /// assert!(body.state().footing.is_firm());
    /// assert_eq!(body.state().up, Vec2::NEG_Y);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn body(&self, numbers: &TuningFile, start: V) -> Controller<V> {
        Controller::new(numbers.tuning, numbers.hull, start).with_up(self.up())
    }
}

/// Fractions of a level's width at which a start is tried, its sides last.
const TRIED: [f32; 9] = [0.2, 0.3, 0.1, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9];

/// A start on the ground, on level ground if there is any, from above. For a body seen from above,
/// a free place. Above the level's centre if there is neither.
pub fn found_start<V: Geometry>(file: &LevelFile<V>, numbers: &TuningFile) -> [f32; 3] {
    /// Metres above the highest piece.
    const ABOVE: f32 = 3.0;
    /// The smallest vertical component of the normal of level ground.
    const EVEN: f32 = 0.95;
    let Bounds { min, max } = file.level.bounds();
    let from_above = numbers.tuning.steering.is_from_above(V::DIMENSION);
    let up = file.up();
    // The axis of heights, and the other axis across than x.
    let high = (1..V::DIMENSION).find(|axis| up.component(*axis) != 0.0).unwrap_or(1);
    let across = 3 - high;
    let above = ABOVE * file.scale();
    let parts = [min, max].map(V::to_array);
    let height = parts[1][high] - parts[0][high];
    let at = |[x, z]: [f32; 2]| {
        let part = |axis: usize, fraction: f32| parts[0][axis] + (parts[1][axis] - parts[0][axis]) * fraction;
        let mut place = [part(0, x); 3];
        place[across] = part(across, z);
        place[high] = if from_above {
            part(high, z)
        } else if up.component(high) > 0.0 {
            parts[1][high] + above
        } else {
            parts[0][high] - above
        };
        V::from_array(place)
    };
    // Relative to the body.
    let down = V::UP * -(height + 2.0 * above);
    let mut tried = TRIED.into_iter().flat_map(|z| TRIED.map(|x| at([x, z])));
    let found = if from_above {
        tried.find(|&from| overlap_at(from, file, numbers).is_none())
    } else {
        let ground = |from: V| {
            let hit = patch(from, down, file, numbers).sweep(V::ZERO, down).filter(|hit| !hit.edge)?;
            Some((from + up * (down.height() * hit.time), hit.normal.height()))
        };
        let grounds: Vec<(V, f32)> = tried.filter_map(ground).collect();
        let walkable = numbers.tuning.slope.max_angle.cos();
        let best = [EVEN, walkable].iter().find_map(|least| grounds.iter().find(|(_, up)| up >= least));
        best.map(|(place, _)| *place)
    };
    found.unwrap_or_else(|| at([0.5, 0.5])).to_array()
}
