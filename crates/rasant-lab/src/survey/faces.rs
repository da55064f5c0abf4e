//! The upward faces of a level, their rims, and probes below and above a point.
//!
//! Points and directions are in metres, with y up, whatever the units and the up of the level.

use std::collections::HashMap;

use rasant::contact::Patch;
use rasant::glam::Vec3;
use rasant::level::{Shape, Sides, Tag};
use rasant::space::{Bounds, Frame};
use rasant::{Geometry, Hull, Level};
use rasant_files::LevelFile;

/// The axes and the unit of a level.
#[derive(Clone, Copy)]
pub(super) struct Axes<V> {
    right: V,
    up: V,
    /// Units of length per metre.
    scale: f32,
}

impl<V: Geometry> Axes<V> {
    pub fn of(file: &LevelFile<V>) -> Self {
        let up = file.up();
        Self { right: V::right_for(up, V::RIGHT), up, scale: file.scale() }
    }

    /// A direction of the level.
    pub fn direction(&self, of: V) -> Vec3 {
        Vec3::from(of.in_axes(self.right, self.up).to_array())
    }

    /// A point or a displacement of the level.
    pub fn seen(&self, of: V) -> Vec3 {
        self.direction(of) / self.scale
    }

    /// A point or a displacement in the level.
    pub fn in_level(&self, of: Vec3) -> V {
        V::from_array((of * self.scale).to_array()).out_of_axes(self.right, self.up)
    }
}

/// An upward face. In two dimensions it has two corners.
pub(super) struct Face {
    pub corners: Vec<Vec3>,
    pub normal: Vec3,
    /// True if it is on a carrier.
    pub rides: bool,
}

/// A point of a face's rim, with the horizontal direction outward.
#[derive(Clone, Copy)]
pub(super) struct Rim {
    pub at: Vec3,
    pub out: Vec3,
    /// Half the length of the part of the rim that it represents.
    pub half: f32,
}

impl Face {
    pub fn angle(&self) -> f32 {
        self.normal.y.clamp(-1.0, 1.0).acos()
    }

    pub fn middle(&self) -> Vec3 {
        self.corners.iter().sum::<Vec3>() / self.corners.len() as f32
    }

    /// The smallest width: of a triangle its smallest height; `None` in two dimensions.
    pub fn width(&self) -> Option<f32> {
        let count = self.corners.len();
        let edges = (0..count).map(|i| self.corners[(i + 1) % count] - self.corners[i]);
        let longest = edges.map(Vec3::length).fold(0.0, f32::max);
        let across = (2..count).map(|i| {
            (self.corners[i - 1] - self.corners[0]).cross(self.corners[i] - self.corners[0]).length()
        });
        (count > 2).then(|| across.sum::<f32>() / longest.max(f32::MIN_POSITIVE))
    }
}

/// All faces of a level, whatever their direction.
pub(super) fn faces<V: Geometry>(level: &Level<V>, axes: &Axes<V>) -> Vec<Face> {
    let mut all = Vec::new();
    level.each_shape(|shape, tag| of_shape(&shape, tag, &mut all));
    let seen = |of: Vec3| axes.seen(V::from_array(of.to_array()));
    for Face { corners, normal, .. } in &mut all {
        corners.iter_mut().for_each(|corner| *corner = seen(*corner));
        *normal = axes.direction(V::from_array(normal.to_array()));
    }
    all
}

fn of_shape<V: Geometry>(shape: &Shape<'_, V>, tag: Tag, all: &mut Vec<Face>) {
    let mut add = |corners: Vec<Vec3>, normal: Vec3| {
        if normal.is_finite() && normal != Vec3::ZERO {
            all.push(Face { corners, normal, rides: tag.carrier.is_some() });
        }
    };
    let at = |point: V| Vec3::from(point.to_array());
    // The outside of a flat outline that runs counter-clockwise is to the right.
    let right = |from: Vec3, to: Vec3| Vec3::new(to.y - from.y, from.x - to.x, 0.0).normalize_or_zero();
    let of_plane = |corners: &[Vec3]| {
        let across = (2..corners.len()).map(|i| (corners[i - 1] - corners[0]).cross(corners[i] - corners[0]));
        across.sum::<Vec3>().normalize_or_zero()
    };
    match *shape {
        Shape::Polygon { .. } | Shape::Capsule { .. } if V::DIMENSION == 2 => shape.each_outline(|points| {
            for i in 0..points.len() {
                let ends = [at(points[i]), at(points[(i + 1) % points.len()])];
                add(ends.to_vec(), right(ends[0], ends[1]));
            }
        }),
        Shape::Segment { ends, sides } => {
            let ends = ends.map(at);
            add(ends.to_vec(), -right(ends[0], ends[1]));
            if sides == Sides::Both {
                add(ends.to_vec(), right(ends[0], ends[1]));
            }
        }
        Shape::Ball { .. } => {}
        _ => shape.each_outline(|corners| {
            let corners: Vec<Vec3> = corners.iter().copied().map(at).collect();
            let normal = of_plane(&corners);
            add(corners, normal);
        }),
    }
}

/// The rims of walkable faces: where they meet a face that is not walkable, or none.
pub(super) fn rims(faces: &[&Face]) -> Vec<Rim> {
    /// The maximum length of the rim that one point represents, in metres.
    const APART: f32 = 1.0;
    let key = |corner: Vec3| (corner + Vec3::ZERO).to_array().map(f32::to_bits);
    let is_flat = |face: &Face| face.corners.len() == 2;
    let mut met: HashMap<Vec<[u32; 3]>, usize> = HashMap::new();
    let sides = |face: &Face| -> Vec<Vec<Vec3>> {
        let count = face.corners.len();
        if is_flat(face) {
            return face.corners.iter().map(|corner| vec![*corner]).collect();
        }
        (0..count).map(|i| vec![face.corners[i], face.corners[(i + 1) % count]]).collect()
    };
    let key_of = |side: &[Vec3]| {
        let mut key: Vec<[u32; 3]> = side.iter().copied().map(key).collect();
        key.sort_unstable();
        key
    };
    for face in faces {
        for side in sides(face) {
            *met.entry(key_of(&side)).or_default() += 1;
        }
    }
    let mut rims = Vec::new();
    for face in faces {
        for side in sides(face).into_iter().filter(|side| met[&key_of(side)] == 1) {
            let middle = side.iter().sum::<Vec3>() / side.len() as f32;
            let away = middle - face.middle();
            let along = side.last().map_or(Vec3::ZERO, |last| *last - side[0]);
            let level = along.with_y(0.0).normalize_or_zero();
            let out = (away - level * away.dot(level)).with_y(0.0).normalize_or_zero();
            if out == Vec3::ZERO {
                continue;
            }
            let count = (along.length() / APART).ceil().clamp(1.0, 50.0);
            for number in 0..count as usize {
                let fraction = (number as f32 + 0.5) / count;
                rims.push(Rim { at: side[0] + along * fraction, out, half: along.length() / count / 2.0 });
            }
        }
    }
    rims
}

/// The radius of the probe, in metres, practically a point.
const POINT: f32 = 1e-4;

/// Straight probes into a level.
pub(super) struct Probe<'a, V> {
    level: &'a Level<V>,
    axes: Axes<V>,
    hull: Hull,
}

impl<'a, V: Geometry> Probe<'a, V> {
    /// A probe that is stopped by what stops `hull`.
    pub fn new(level: &'a Level<V>, axes: Axes<V>, hull: &Hull) -> Option<Self> {
        let size = POINT * axes.scale;
        let point = Hull::ball(size).ok()?.with_clearance(size).ok()?.with_mask(hull.mask());
        Some(Self { level, axes, hull: point })
    }

    /// The distance from a point to what is below, up to `most`.
    pub fn below(&self, from: Vec3, most: f32) -> Option<f32> {
        self.look(from, Vec3::NEG_Y * most, false)
    }

    /// The distance from a point to what is above, up to `most`, ignoring one-way pieces.
    pub fn above(&self, from: Vec3, most: f32) -> Option<f32> {
        self.look(from, Vec3::Y * most, true)
    }

    /// Returns true if a point is inside something.
    pub fn is_inside(&self, at: Vec3) -> bool {
        self.patch(at, Vec3::ZERO)
            .overlap(V::ZERO, |tag| tag.one_way)
            .is_some_and(|found| found.distance < 0.0)
    }

    fn look(&self, from: Vec3, by: Vec3, through: bool) -> Option<f32> {
        let by_own = V::from_array((by * self.axes.scale).to_array());
        let hit = self.patch(from, by).sweep_past(V::ZERO, by_own, None, |tag| through && tag.one_way).hit?;
        // It stops at its clearance.
        Some(hit.time * by.length() + POINT)
    }

    fn patch(&self, from: Vec3, by: Vec3) -> Patch<V> {
        let Axes { right, up, scale } = self.axes;
        let by = V::from_array((by * scale).to_array());
        let frame = Frame::new(self.axes.in_level(from), V::ZERO, right, up);
        let reach = Bounds { min: V::ZERO.min(by), max: V::ZERO.max(by) };
        Patch::gather(frame, &self.hull, reach, self.level)
    }
}
