//! Hulls at their places, and the gaps between them.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;

use crate::contact::{Geometry, Hull, Patch};
use crate::controller::Controller;
use crate::level::{Found, RoundBox, Tag};
use crate::space::{Bounds, Frame};

/// A hull at its place.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Solid<V> {
    /// The centre in the world, in doubles, so that a body far from the origin moves smoothly.
    pub centre: [f64; 3],
    /// Half the sides of the core.
    pub half: V,
    pub radius: f32,
    pub right: V,
    pub up: V,
    hull: Hull,
}

/// The gap between two hulls.
#[derive(Clone, Copy, Debug)]
pub(super) struct Apart<V> {
    /// The distance in metres; below 0 if they overlap.
    pub gap: f32,
    /// From the first to the second, of length 1.
    pub normal: V,
}

impl<V: Geometry> Solid<V> {
    pub fn of(body: &Controller<V>) -> Self {
        let (hull, state) = (body.present_hull(), body.state());
        let core = hull.core::<V>();
        let middle = state.frame().world(core.middle).to_array();
        let [position, remainder] = [state.position, state.remainder].map(V::to_array);
        let centre = [0, 1, 2]
            .map(|axis| f64::from(position[axis]) + f64::from(remainder[axis]) + f64::from(middle[axis]));
        Self { centre, half: core.half, radius: core.radius, right: state.right, up: state.up, hull }
    }

    /// The displacement from another place to this one.
    pub fn displacement_from(&self, other: &Self) -> V {
        V::from_array([0, 1, 2].map(|axis| (self.centre[axis] - other.centre[axis]) as f32))
    }

    /// How far its surface moves against its centre while it becomes `end`, at most.
    fn grows_to(&self, end: &Self) -> f32 {
        let taller = (end.half - self.half).length();
        if self.up == end.up && self.right == end.right {
            return taller;
        }
        let reach = self.half.length().max(end.half.length());
        taller + ((end.up - self.up).length() + (end.right - self.right).length()) * reach
    }

    /// It, moved by a displacement.
    pub fn moved(&self, displacement: V) -> Self {
        let by = displacement.to_array();
        Self { centre: [0, 1, 2].map(|axis| self.centre[axis] + f64::from(by[axis])), ..*self }
    }

    /// It, at a fraction of the displacement to `end`.
    fn blended(&self, end: &Self, fraction: f64) -> Self {
        let centre = [0, 1, 2].map(|axis| {
            let (from, to) = (self.centre[axis], end.centre[axis]);
            from + (to - from) * fraction
        });
        let half = self.half.lerp(end.half, fraction as f32);
        Self { centre, half, ..*self }
    }

    /// The shape in the world, moved out by `grown`.
    pub fn shape(&self, grown: f32) -> RoundBox<V> {
        let centre = V::from_array(self.centre.map(|value| value as f32));
        let Self { half, radius, right, up, .. } = *self;
        RoundBox { centre, right, up, half, radius: radius + grown }
    }

    /// How far it extends from its centre along a direction in the world.
    pub fn extent(&self, direction: V) -> f32 {
        direction.in_axes(self.right, self.up).abs().dot(self.half) + self.radius
    }

    fn is_post(&self) -> bool {
        let sides = self.half.to_array();
        V::DIMENSION == 3 && sides[0] == 0.0 && sides[2] == 0.0
    }

    /// The gap to another hull.
    pub fn apart(&self, other: &Self) -> Apart<V> {
        let displacement = other.displacement_from(self);
        let is_aligned =
            self.up == other.up && (self.right == other.right || (self.is_post() && other.is_post()));
        if !is_aligned {
            return self.apart_at_an_angle(other, displacement);
        }
        // Two boxes along the same axes: a point and the sum of both.
        let local = displacement.in_axes(self.right, self.up);
        let (sides, half) = (local.to_array(), (self.half + other.half).to_array());
        let radius = self.radius + other.radius;
        let mut beyond = [0.0f32; 3];
        let (mut outermost, mut most) = (0, f32::NEG_INFINITY);
        let mut length_squared = 0.0;
        for axis in 0..V::DIMENSION {
            let past = sides[axis].abs() - half[axis];
            if past > most {
                (outermost, most) = (axis, past);
            }
            if past > 0.0 {
                beyond[axis] = past.copysign(sides[axis]);
                length_squared += past * past;
            }
        }
        if length_squared > 0.0 {
            let length = length_squared.sqrt();
            let normal = V::from_array(beyond) * (1.0 / length);
            return Apart { gap: length - radius, normal: normal.out_of_axes(self.right, self.up) };
        }
        let mut normal = [0.0; 3];
        normal[outermost] = 1.0f32.copysign(sides[outermost]);
        let normal = V::from_array(normal).out_of_axes(self.right, self.up);
        Apart { gap: most - radius, normal }
    }

    /// The gap to a hull with other axes.
    #[cold]
    #[inline(never)]
    fn apart_at_an_angle(&self, other: &Self, displacement: V) -> Apart<V> {
        let centred = self.hull.centred();
        let frame = Frame::new(V::ZERO, V::ZERO, self.right, self.up);
        let everything = Bounds { min: V::splat(-1e9), max: V::splat(1e9) };
        let mut patch = Patch::empty(frame, &centred, everything);
        let shape = other.shape(0.0);
        patch.round_box(&RoundBox { centre: displacement, ..shape }, Tag::default());
        match patch.nearest(V::ZERO, 1e9) {
            Some(near) => Apart { gap: near.distance, normal: frame.world(-near.normal) },
            None => Apart { gap: f32::INFINITY, normal: V::UP },
        }
    }
}

/// Returns true if the gap of two hulls falls below `limit` while they move straight from their starts
/// to their ends. `start` is the gap at the start.
///
/// The gap of two convex shapes is a convex function of their displacement, whose slope is the
/// relative displacement along the normal. So it has one minimum: at the start if it does not fall
/// there, at the end if it still falls there, and else where the tangents enclose it.
pub(super) fn comes_within<V: Geometry>(
    start: &Apart<V>,
    a: [&Solid<V>; 2],
    b: [&Solid<V>; 2],
    limit: f32,
) -> bool {
    /// The number of times that the interval of the minimum is cut.
    const ROUNDS: usize = 32;
    /// Differences below this, in metres, are rounding.
    const SLACK: f32 = 1e-7;
    if start.gap < limit {
        return true;
    }
    let relative = b[1].displacement_from(b[0]) - a[1].displacement_from(a[0]);
    // A hull that gets taller or turns moves out on its sides as well.
    let grows = a[0].grows_to(a[1]) + b[0].grows_to(b[1]);
    let first = start.normal.dot(relative) - grows;
    if first >= 0.0 || start.gap + first >= limit + SLACK {
        return false;
    }
    let end = a[1].apart(b[1]);
    if end.gap < limit {
        return true;
    }
    let last = end.normal.dot(relative) + grows;
    if last <= 0.0 {
        return false;
    }
    let (mut low, mut high) = ((0.0f32, start.gap, first), (1.0f32, end.gap, last));
    for _ in 0..ROUNDS {
        // Where the two tangents meet the gap is no smaller than this.
        let width = high.0 - low.0;
        let meet = (high.1 - low.1 - high.2 * width) / (low.2 - high.2);
        let least = low.1 + low.2 * meet;
        if least >= limit || width < SLACK {
            return false;
        }
        let at = low.0 + meet.clamp(0.05 * width, 0.95 * width);
        let fraction = f64::from(at);
        let Apart { gap, normal } = a[0].blended(a[1], fraction).apart(&b[0].blended(b[1], fraction));
        if gap < limit {
            return true;
        }
        let slope = normal.dot(relative);
        if grows == 0.0 && slope == 0.0 {
            return false;
        } else if slope < 0.0 {
            low = (at, gap, slope - grows);
        } else {
            high = (at, gap, slope + grows);
        }
    }
    false
}
