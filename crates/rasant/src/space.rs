//! What two and three dimensions share: vectors, bounds, frames.
//!
//! All code above this module is written once, generic over [`Vector`]. The second axis of a body's
//! own frame is up. Inside a tick all geometry is expressed in that frame, relative to the body, so
//! the code that moves the body depends neither on which direction is up nor on the distance from
//! the origin.
//!
//! Conventions: metres, seconds, radians; +x right, +y up and, in three dimensions, −z forward at
//! yaw 0 (right-handed). A positive angle turns counter-clockwise, seen from above in three
//! dimensions.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use core::fmt::Debug;
use core::ops::{Add, AddAssign, Mul, MulAssign, Neg, Sub, SubAssign};

use glam::{Vec2, Vec3};

use crate::memory::Memory;

/// The length, or speed, below which a vector has no direction. It is far below the resolution of
/// single precision near a body, in a world of any scale, and its square is still a normal number.
pub(crate) const TINY: f32 = 1e-15;

/// The error for a scale factor that is not a finite number above 0.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[error("the scale is {factor}, expected a finite number above 0")]
pub struct ScaleError {
    /// The factor.
    pub factor: f32,
}

impl ScaleError {
    /// Returns an error if `factor` is not a finite number above 0.
    pub(crate) fn check(factor: f32) -> Result<(), Self> {
        if factor.is_finite() && factor > 0.0 { Ok(()) } else { Err(Self { factor }) }
    }
}

mod sealed {
    /// A trait that other crates cannot implement.
    pub trait Sealed {}
    impl Sealed for glam::Vec2 {}
    impl Sealed for glam::Vec3 {}
}
pub(crate) use sealed::Sealed;

/// The largest absolute value of a coordinate or a size in a level, and of a size of a hull, in
/// metres. Larger numbers are errors when pieces, meshes and hulls are made: their squares and
/// products would lose all precision, or overflow.
pub const MAX_LENGTH: f32 = 1e9;
/// The smallest size of a hull, in metres.
pub const MIN_LENGTH: f32 = 1e-6;

/// A point or direction of the world: [`glam::Vec2`] or [`glam::Vec3`]. The trait is sealed.
pub trait Vector:
    Sealed
    + Copy
    + Debug
    + Default
    + PartialEq
    + Send
    + Sync
    + 'static
    + Add<Output = Self>
    + Sub<Output = Self>
    + Neg<Output = Self>
    + Mul<f32, Output = Self>
    + AddAssign
    + SubAssign
    + MulAssign<f32>
    + Memory
{
    /// The zero vector.
    const ZERO: Self;
    /// The first axis: right in a body's own frame.
    const RIGHT: Self;
    /// The second axis: up in a body's own frame.
    const UP: Self;
    /// The direction that a body faces, and that steer (0, 1) moves it, at yaw 0: −z in three
    /// dimensions, and +y (up the screen) in two.
    const FORWARD: Self;
    /// The number of components: 2 or 3.
    const DIMENSION: usize;

    /// A vector with the same value in every component.
    fn splat(value: f32) -> Self;
    /// Component number `axis`, from 0.
    ///
    /// # Panics
    /// If `axis` is not below [`Self::DIMENSION`].
    fn component(self, axis: usize) -> f32;
    /// A vector from the first [`Self::DIMENSION`] of three numbers.
    fn from_array(values: [f32; 3]) -> Self;
    /// The components. The third is 0 in two dimensions.
    fn to_array(self) -> [f32; 3];
    /// The dot product.
    fn dot(self, other: Self) -> f32;
    /// The componentwise minimum.
    fn min(self, other: Self) -> Self;
    /// The componentwise maximum.
    fn max(self, other: Self) -> Self;
    /// The componentwise absolute value.
    fn abs(self) -> Self;
    /// Returns true if no component is NaN or infinite.
    fn is_finite(self) -> bool;
    /// Returns true if every component of `self` is at most that of `other`.
    fn all_at_most(self, other: Self) -> bool;
    /// This vector with its height (the second component) replaced.
    fn with_height(self, height: f32) -> Self;
    /// This vector turned by `angle` in the walking plane: about +y in three dimensions, in the
    /// plane itself in two.
    fn turned(self, angle: f32) -> Self;
    /// The signed angle in the walking plane from `self` to `other`, in
    /// (−π, π], positive counter-clockwise.
    fn turn_to(self, other: Self) -> f32;
    /// The direction of the line in which two planes with normals `self` and `other` meet. `None`
    /// in two dimensions, where they meet in a point, and for parallel planes.
    fn crease(self, other: Self) -> Option<Self>;
    /// The components of this vector along the orthonormal axes `right`, `up` and, in three
    /// dimensions, right × up.
    fn in_axes(self, right: Self, up: Self) -> Self;
    /// The inverse of [`Self::in_axes`].
    fn out_of_axes(self, right: Self, up: Self) -> Self;
    /// Rotates counter-clockwise by `angle` radians, seen from the end of `axis`, which has length 1.
    /// In two dimensions the axis is ignored.
    fn turned_about(self, axis: Self, angle: f32) -> Self;
    /// The rotation that takes one pair of axes, right and up, to another: its axis, of length 1,
    /// and its angle in radians. In three dimensions the angle is 0 to π. In two the axis is
    /// [`Self::UP`] and the angle signed.
    fn rotation(from: [Self; 2], to: [Self; 2]) -> (Self, f32);
    /// The unit vector perpendicular to `up` that is nearest to `hint`.
    fn right_for(up: Self, hint: Self) -> Self;

    /// The component along up: the second one.
    #[inline]
    fn height(self) -> f32 {
        self.component(1)
    }

    /// This vector with a height of 0.
    #[inline]
    fn flat(self) -> Self {
        self.with_height(0.0)
    }

    /// The squared length.
    #[inline]
    fn length_squared(self) -> f32 {
        self.dot(self)
    }

    /// The length. The square root is exact by IEEE 754, so the result is the same on every
    /// platform.
    #[inline]
    fn length(self) -> f32 {
        self.length_squared().sqrt()
    }

    /// The unit vector of this direction, or `None` if the vector is too short to have one.
    #[inline]
    fn direction(self) -> Option<Self> {
        let length = self.length();
        (length > TINY).then(|| self * (1.0 / length))
    }

    /// Linear interpolation: `self` at 0, `other` at 1.
    #[inline]
    fn lerp(self, other: Self, fraction: f32) -> Self {
        self + (other - self) * fraction
    }

    /// This vector without its component into the plane with this normal. Unchanged if it points
    /// away from the plane.
    #[inline]
    fn slid_along(self, normal: Self) -> Self {
        self - normal * self.dot(normal)
    }

    /// This vector, shortened to at most `length`.
    #[inline]
    fn capped(self, length: f32) -> Self {
        let own = self.length();
        if own > length { self * (length / own) } else { self }
    }

    /// This point moved toward `target` by at most `step`.
    #[inline]
    fn toward(self, target: Self, step: f32) -> Self {
        let offset = target - self;
        let distance = offset.length();
        if distance <= step { target } else { self + offset * (step / distance) }
    }
}

impl Vector for Vec2 {
    const ZERO: Self = Vec2::ZERO;
    const RIGHT: Self = Vec2::X;
    const UP: Self = Vec2::Y;
    const FORWARD: Self = Vec2::Y;
    const DIMENSION: usize = 2;

    #[inline]
    fn splat(value: f32) -> Self {
        Vec2::splat(value)
    }
    #[inline]
    fn component(self, axis: usize) -> f32 {
        self[axis]
    }
    #[inline]
    fn from_array([x, y, _]: [f32; 3]) -> Self {
        Vec2::new(x, y)
    }
    #[inline]
    fn to_array(self) -> [f32; 3] {
        [self.x, self.y, 0.0]
    }
    #[inline]
    fn dot(self, other: Self) -> f32 {
        self.x * other.x + self.y * other.y
    }
    #[inline]
    fn min(self, other: Self) -> Self {
        Vec2::min(self, other)
    }
    #[inline]
    fn max(self, other: Self) -> Self {
        Vec2::max(self, other)
    }
    #[inline]
    fn abs(self) -> Self {
        Vec2::abs(self)
    }
    #[inline]
    fn is_finite(self) -> bool {
        Vec2::is_finite(self)
    }
    #[inline]
    fn all_at_most(self, other: Self) -> bool {
        (self.x <= other.x) & (self.y <= other.y)
    }
    #[inline]
    fn height(self) -> f32 {
        self.y
    }
    #[inline]
    fn with_height(self, height: f32) -> Self {
        Vec2::new(self.x, height)
    }
    #[inline]
    fn turned(self, angle: f32) -> Self {
        let (sin, cos) = libm::sincosf(angle);
        Vec2::new(self.x * cos - self.y * sin, self.x * sin + self.y * cos)
    }
    #[inline]
    fn turn_to(self, other: Self) -> f32 {
        libm::atan2f(self.x * other.y - self.y * other.x, self.dot(other))
    }
    #[inline]
    fn crease(self, _other: Self) -> Option<Self> {
        None
    }
    #[inline]
    fn in_axes(self, right: Self, up: Self) -> Self {
        Vec2::new(self.dot(right), self.dot(up))
    }
    #[inline]
    fn out_of_axes(self, right: Self, up: Self) -> Self {
        right * self.x + up * self.y
    }
    #[inline]
    fn turned_about(self, _axis: Self, angle: f32) -> Self {
        self.turned(angle)
    }
    #[inline]
    fn rotation([from, _]: [Self; 2], [to, _]: [Self; 2]) -> (Self, f32) {
        (Self::UP, from.turn_to(to))
    }
    #[inline]
    fn right_for(up: Self, hint: Self) -> Self {
        let right = Vec2::new(up.y, -up.x);
        if right.dot(hint) >= 0.0 { right } else { -right }
    }
}

impl Vector for Vec3 {
    const ZERO: Self = Vec3::ZERO;
    const RIGHT: Self = Vec3::X;
    const UP: Self = Vec3::Y;
    const FORWARD: Self = Vec3::NEG_Z;
    const DIMENSION: usize = 3;

    #[inline]
    fn splat(value: f32) -> Self {
        Vec3::splat(value)
    }
    #[inline]
    fn component(self, axis: usize) -> f32 {
        self[axis]
    }
    #[inline]
    fn from_array(values: [f32; 3]) -> Self {
        Vec3::from_array(values)
    }
    #[inline]
    fn to_array(self) -> [f32; 3] {
        Vec3::to_array(&self)
    }
    #[inline]
    fn dot(self, other: Self) -> f32 {
        self.x * other.x + self.y * other.y + self.z * other.z
    }
    #[inline]
    fn min(self, other: Self) -> Self {
        Vec3::min(self, other)
    }
    #[inline]
    fn max(self, other: Self) -> Self {
        Vec3::max(self, other)
    }
    #[inline]
    fn abs(self) -> Self {
        Vec3::abs(self)
    }
    #[inline]
    fn is_finite(self) -> bool {
        Vec3::is_finite(self)
    }
    #[inline]
    fn all_at_most(self, other: Self) -> bool {
        (self.x <= other.x) & (self.y <= other.y) & (self.z <= other.z)
    }
    #[inline]
    fn height(self) -> f32 {
        self.y
    }
    #[inline]
    fn with_height(self, height: f32) -> Self {
        Vec3::new(self.x, height, self.z)
    }
    #[inline]
    fn turned(self, angle: f32) -> Self {
        let (sin, cos) = libm::sincosf(angle);
        Vec3::new(self.x * cos + self.z * sin, self.y, self.z * cos - self.x * sin)
    }
    #[inline]
    fn turn_to(self, other: Self) -> f32 {
        libm::atan2f(self.z * other.x - self.x * other.z, self.x * other.x + self.z * other.z)
    }
    #[inline]
    fn crease(self, other: Self) -> Option<Self> {
        let along = self.cross(other);
        // Planes within 0.06 degrees of each other count as one.
        (along.length_squared() > 1e-6).then(|| along * (1.0 / along.length()))
    }
    #[inline]
    fn in_axes(self, right: Self, up: Self) -> Self {
        Vec3::new(self.dot(right), self.dot(up), self.dot(right.cross(up)))
    }
    #[inline]
    fn out_of_axes(self, right: Self, up: Self) -> Self {
        right * self.x + up * self.y + right.cross(up) * self.z
    }
    /// Rodrigues' formula: O. Rodrigues, "Des lois géométriques qui régissent les déplacements d'un
    /// système solide dans l'espace", 1840.
    fn turned_about(self, axis: Self, angle: f32) -> Self {
        if axis == Vec3::UP {
            return self.turned(angle);
        }
        let (sin, cos) = libm::sincosf(angle);
        self * cos + axis.cross(self) * sin + axis * (axis.dot(self) * (1.0 - cos))
    }
    fn rotation(from: [Self; 2], to: [Self; 2]) -> (Self, f32) {
        let axes = |[right, up]: [Self; 2]| [right, up, right.cross(up)];
        let (from, to) = (axes(from), axes(to));
        // The trace of the rotation is 1 + 2 cos, and the sum of the cross products is 2 sin along
        // the axis.
        let pairs = || from.iter().zip(&to);
        let cross: Vec3 = pairs().map(|(from, to)| from.cross(*to)).sum();
        let trace: f32 = pairs().map(|(from, to)| from.dot(*to)).sum();
        let angle = libm::atan2f(cross.length(), trace - 1.0);
        // Close to half a turn the cross products vanish. There, the sum of an axis's image and its
        // image by the inverse, less twice its cosine part, is along the axis of the rotation.
        let along = if trace < 0.0 {
            let image = |(own, to): (&Vec3, &Vec3)| {
                let inverse: Vec3 = pairs().map(|(from, to)| *from * to.dot(*own)).sum();
                *to + inverse - *own * (trace - 1.0)
            };
            let longest = |a: &Vec3, b: &Vec3| a.length_squared().total_cmp(&b.length_squared());
            pairs().map(image).max_by(longest).unwrap_or(cross)
        } else {
            cross
        };
        let along = if along.dot(cross) < 0.0 { -along } else { along };
        (along.direction().unwrap_or(Vec3::UP), angle)
    }
    #[inline]
    fn right_for(up: Self, hint: Self) -> Self {
        let perpendicular = |hint: Vec3| {
            let flat = hint.slid_along(up);
            let part = flat.length_squared() / hint.length_squared();
            if part > 0.01 {
                flat.direction()
            } else if part > 1e-6 {
                // What is left of a hint that is nearly parallel to up is not quite perpendicular.
                flat.direction()?.slid_along(up).direction()
            } else {
                None
            }
        };
        // If the hint is parallel to up, any perpendicular will do.
        let other = if up.x.abs() < 0.9 { Vec3::X } else { Vec3::Z };
        perpendicular(hint).or_else(|| perpendicular(other)).unwrap_or(Vec3::X)
    }
}

/// An axis-aligned box.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Bounds<V> {
    /// The corner with the smallest coordinates.
    pub min: V,
    /// The corner with the largest coordinates.
    pub max: V,
}

impl<V: Vector> Bounds<V> {
    /// Empty bounds. They grow to whatever is joined to them.
    #[must_use]
    pub fn empty() -> Self {
        Self { min: V::splat(f32::INFINITY), max: V::splat(f32::NEG_INFINITY) }
    }

    /// The bounds of some points; [`Bounds::empty`] for none.
    #[must_use]
    pub fn around(points: &[V]) -> Self {
        points
            .iter()
            .fold(Self::empty(), |all, &point| Self { min: all.min.min(point), max: all.max.max(point) })
    }

    /// The smallest bounds that contain both.
    #[must_use]
    #[inline]
    pub fn joined(self, other: Self) -> Self {
        Self { min: self.min.min(other.min), max: self.max.max(other.max) }
    }

    /// These bounds, extended by `margin` on every side.
    #[must_use]
    #[inline]
    pub fn widened(self, margin: V) -> Self {
        Self { min: self.min - margin, max: self.max + margin }
    }

    /// Returns true if the two share a point. Touching counts.
    #[must_use]
    #[inline]
    pub fn overlaps(&self, other: &Self) -> bool {
        self.min.all_at_most(other.max) & other.min.all_at_most(self.max)
    }

    /// The centre.
    #[must_use]
    #[inline]
    pub fn centre(&self) -> V {
        (self.min + self.max) * 0.5
    }
}

/// A body's own coordinate frame: its origin and its axes.
///
/// The position is stored as a rounded value and a remainder, so that motion in a level four
/// kilometres wide adds up as exactly as at the origin.
#[derive(Clone, Copy, Debug)]
pub struct Frame<V> {
    position: V,
    remainder: V,
    right: V,
    up: V,
    aligned: bool,
}

impl<V: Vector> Frame<V> {
    /// A frame at `position` + `remainder` with orthonormal `right` and `up`.
    #[must_use]
    #[inline]
    pub fn new(position: V, remainder: V, right: V, up: V) -> Self {
        Self { position, remainder, right, up, aligned: right == V::RIGHT && up == V::UP }
    }

    /// Returns true if the axes are those of the world.
    #[inline]
    pub(crate) fn is_aligned(&self) -> bool {
        self.aligned
    }

    /// Returns true if these are its axes.
    pub(crate) fn has_axes(&self, right: V, up: V) -> bool {
        self.right == right && self.up == up
    }

    /// Returns true if this is its up.
    pub(crate) fn is_upright_to(&self, up: V) -> bool {
        self.up == up
    }

    /// Converts a world point into this frame.
    #[must_use]
    #[inline]
    pub fn local_point(&self, point: V) -> V {
        self.local((point - self.position) - self.remainder)
    }

    /// Converts a world direction into this frame.
    #[must_use]
    #[inline]
    pub fn local(&self, direction: V) -> V {
        if self.aligned { direction } else { direction.in_axes(self.right, self.up) }
    }

    /// Converts a direction of this frame into the world.
    #[must_use]
    #[inline]
    pub fn world(&self, direction: V) -> V {
        if self.aligned { direction } else { direction.out_of_axes(self.right, self.up) }
    }

    /// Converts a point of this frame into the world.
    #[must_use]
    #[inline]
    pub fn world_point(&self, point: V) -> V {
        self.position + (self.remainder + self.world(point))
    }

    /// World bounds that contain all of the local bounds.
    #[must_use]
    #[inline]
    pub fn world_bounds(&self, local: Bounds<V>) -> Bounds<V> {
        if self.aligned {
            let origin = self.position + self.remainder;
            return Bounds { min: origin + local.min, max: origin + local.max };
        }
        let centre = self.world_point(local.centre());
        let half = (local.max - local.min) * 0.5;
        let mut reach = V::ZERO;
        for axis in 0..V::DIMENSION {
            let mut edge = [0.0; 3];
            edge[axis] = half.component(axis);
            reach += self.world(V::from_array(edge)).abs();
        }
        Bounds { min: centre - reach, max: centre + reach }
    }

    /// Returns true if this frame mirrors the plane: its right and up turn in the opposite sense of
    /// the world's axes. Always false in three dimensions.
    #[must_use]
    #[inline]
    pub fn mirrors(&self) -> bool {
        V::DIMENSION == 2 && !self.aligned && {
            let [rx, ry, _] = self.right.to_array();
            let [ux, uy, _] = self.up.to_array();
            rx * uy - ry * ux < 0.0
        }
    }
}

/// Adds `step` to a position that is stored in two parts. Returns the new parts.
///
/// The Fast2Sum of T. J. Dekker, "A floating-point technique for extending the available
/// precision", 1971, by component.
#[must_use]
#[inline]
pub fn advance<V: Vector>(position: V, remainder: V, step: V) -> (V, V) {
    let step = remainder + step;
    let sum = position + step;
    (sum, step - (sum - position))
}

/// The cosine of an angle of 0 to π/2, to within 6e-7: its Taylor series, cut after the term in
/// x¹⁰. A general cosine costs several times as much, and this one is computed in every tick.
pub(crate) fn cosine(angle: f32) -> f32 {
    let x = angle * angle;
    1.0 + x * (-0.5 + x * (1.0 / 24.0 + x * (-1.0 / 720.0 + x * (1.0 / 40_320.0 - x * (1.0 / 3_628_800.0)))))
}

/// A blend factor clamped to 0 to 1. NaN becomes 1.
pub(crate) fn within(blend: f32) -> f32 {
    if blend.is_nan() { 1.0 } else { blend.clamp(0.0, 1.0) }
}

/// Interpolates between two unit vectors along the shorter arc, or through `aside` where they are
/// opposite.
pub(crate) fn between<V: Vector>(from: V, to: V, aside: V, blend: f32) -> V {
    /// Below this cosine the vectors are opposite, and there is no shorter arc.
    const OPPOSITE: f32 = -0.9999;
    if from == to || blend >= 1.0 {
        return to;
    }
    if blend <= 0.0 {
        return from;
    }
    if from.dot(to) < OPPOSITE {
        let angle = core::f32::consts::PI * blend;
        return (from * libm::cosf(angle) + aside * libm::sinf(angle)).direction().unwrap_or(to);
    }
    let angle = libm::acosf(from.dot(to).clamp(-1.0, 1.0));
    let (less, more) = (libm::sinf(angle * (1.0 - blend)), libm::sinf(angle * blend));
    (from * less + to * more).direction().unwrap_or(to)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_short_cosine_is_the_cosine() {
        for step in 0..=1000 {
            let angle = step as f32 / 1000.0 * core::f32::consts::FRAC_PI_2;
            let exact = f64::from(angle).cos();
            assert!((f64::from(cosine(angle)) - exact).abs() < 6e-7, "{angle}");
        }
    }

    #[test]
    fn many_small_steps_far_from_the_origin_add_up_exactly() {
        let (mut position, mut remainder) = (Vec2::new(4000.0, 4000.0), Vec2::ZERO);
        for _ in 0..100_000 {
            (position, remainder) = advance(position, remainder, Vec2::new(1e-5, -3e-5));
        }
        let moved = (position - Vec2::splat(4000.0)) + remainder;
        assert!((moved.x - 1.0).abs() < 1e-4, "{moved}");
        assert!((moved.y + 3.0).abs() < 1e-4, "{moved}");
    }

    #[test]
    fn a_frame_and_back_is_the_same_vector() {
        let up = Vec3::new(1.0, 2.0, -0.5).direction().unwrap();
        let right = Vec3::right_for(up, Vec3::X);
        let frame = Frame::new(Vec3::ONE, Vec3::ZERO, right, up);
        let vector = Vec3::new(0.3, -2.0, 7.0);
        assert!((frame.world(frame.local(vector)) - vector).length() < 1e-5);
        assert!((frame.local(up) - Vec3::Y).length() < 1e-6);
    }

    #[test]
    fn right_is_perpendicular_also_to_an_up_that_is_nearly_parallel_to_the_hint() {
        for angle in [1e-8f32, 1e-7, 1e-6, 1e-5, 1e-4, 1e-3, 0.01, 0.1, 1.0] {
            for up in [Vec3::new(0.99999994, 0.0, 0.0), Vec3::X, -Vec3::X] {
                let up = (up + Vec3::new(0.0, angle, -angle)).direction().unwrap();
                let right = Vec3::right_for(up, Vec3::X);
                assert!(right.dot(up).abs() < 1e-6, "{right} for {up}");
                assert!((right.length() - 1.0).abs() < 1e-6);
            }
        }
    }

    #[test]
    fn flipping_up_keeps_right_on_the_right() {
        assert_eq!(Vec2::right_for(-Vec2::Y, Vec2::X), Vec2::X);
        let frame = Frame::new(Vec2::ZERO, Vec2::ZERO, Vec2::X, -Vec2::Y);
        assert!(frame.mirrors());
        assert_eq!(frame.local(Vec2::new(1.0, 2.0)), Vec2::new(1.0, -2.0));
    }

    #[test]
    fn a_rotation_between_axes_takes_one_pair_to_the_other() {
        let axes = [Vec3::X, Vec3::Z, Vec3::new(1.0, -2.0, 0.5), Vec3::new(-0.2, 0.1, 1.0)];
        for axis in axes.map(|axis| axis.direction().unwrap()) {
            for angle in [
                0.0,
                1e-4,
                -0.3,
                1.0,
                3.0,
                -3.13,
                core::f32::consts::PI - 1e-3,
                core::f32::consts::PI,
                3.2,
                6.0,
            ] {
                let from = [Vec3::X.turned_about(Vec3::Z, 0.7), Vec3::Y.turned_about(Vec3::Z, 0.7)];
                let to = from.map(|part| part.turned_about(axis, angle));
                let (found, turn) = Vec3::rotation(from, to);
                assert!((0.0..=core::f32::consts::PI + 1e-6).contains(&turn));
                for (from, to) in from.into_iter().zip(to) {
                    let off = (from.turned_about(found, turn) - to).length();
                    assert!(off < 2e-5, "{axis} by {angle}: {off}");
                }
            }
        }
    }

    #[test]
    fn turning_is_counter_clockwise_and_turn_to_undoes_it() {
        let turned = Vec3::FORWARD.turned(core::f32::consts::FRAC_PI_2);
        assert!((turned - Vec3::NEG_X).length() < 1e-6, "left of forward");
        assert!((Vec3::FORWARD.turn_to(turned) - core::f32::consts::FRAC_PI_2).abs() < 1e-6);
        let turned = Vec2::X.turned(1.0);
        assert!((Vec2::X.turn_to(turned) - 1.0).abs() < 1e-6);
    }
}
