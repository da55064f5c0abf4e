//! Where a carrier is, and how it moves in a tick.

use glam::{Quat, Vec3};

use crate::space::{Bounds, Vector, between, within};

/// The placement of a carrier: a rotation, then an offset.
///
/// ```
/// use rasant::glam::{Quat, Vec2, Vec3};
/// use rasant::level::Placement;
///
/// let quarter = Placement::new(Vec2::X * 3.0, std::f32::consts::FRAC_PI_2);
/// assert!((quarter.apply(Vec2::X) - Vec2::new(3.0, 1.0)).length() < 1e-6);
/// assert!((quarter.undo(quarter.apply(Vec2::Y)) - Vec2::Y).length() < 1e-6);
///
/// let tilted = Placement::turned_about(Vec3::ZERO, Vec3::Z, 0.1); // its +x side up
/// assert!(tilted.apply(Vec3::X).y > 0.09);
/// assert_eq!(Placement::rotated(Vec3::Y, Quat::IDENTITY), Placement::new(Vec3::Y, 0.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Placement<V> {
    offset: V,
    right: V,
    up: V,
}

impl<V: Vector> Placement<V> {
    /// Rotates by `turn` radians counter-clockwise (from above in three dimensions), then moves by
    /// `offset`.
    #[must_use]
    pub fn new(offset: V, turn: f32) -> Self {
        if turn == 0.0 {
            return Self { offset, right: V::RIGHT, up: V::UP };
        }
        let up = if V::DIMENSION == 3 { V::UP } else { V::UP.turned(turn) };
        Self { offset, right: V::RIGHT.turned(turn), up }
    }

    /// Rotates by `turn` radians about `axis`, counter-clockwise seen from its end, then moves by
    /// `offset`. In two dimensions the axis is ignored; an axis without a direction counts as up.
    #[must_use]
    pub fn turned_about(offset: V, axis: V, turn: f32) -> Self {
        let axis = axis.direction().unwrap_or(V::UP);
        if V::DIMENSION == 2 || axis == V::UP || turn == 0.0 {
            return Self::new(offset, turn);
        }
        let [right, up] = [V::RIGHT, V::UP].map(|own| own.turned_about(axis, turn));
        Self { offset, right, up }
    }

    pub(super) fn is_finite(&self) -> bool {
        self.offset.is_finite() && self.right.is_finite() && self.up.is_finite()
    }

    /// Returns true if the offset is finite and the axes are orthonormal, to within rounding.
    #[cfg(feature = "serde")]
    pub(super) fn is_valid(&self) -> bool {
        const CLOSE: f32 = 1e-3;
        let Self { right, up, .. } = *self;
        let is_unit = |axis: V| (axis.length_squared() - 1.0).abs() < CLOSE;
        self.is_finite() && is_unit(right) && is_unit(up) && right.dot(up).abs() < CLOSE
    }

    /// Converts a point of the carrier into the world.
    #[must_use]
    pub fn apply(&self, point: V) -> V {
        self.turned(point) + self.offset
    }

    /// Converts a world point into the carrier.
    #[must_use]
    pub fn undo(&self, point: V) -> V {
        (point - self.offset).in_axes(self.right, self.up)
    }

    /// The offset.
    #[must_use]
    pub fn offset(&self) -> V {
        self.offset
    }

    /// The direction of the carrier's +x in the world.
    #[must_use]
    pub fn right(&self) -> V {
        self.right
    }

    /// The direction of the carrier's +y in the world.
    #[must_use]
    pub fn up(&self) -> V {
        self.up
    }

    /// This placement, which is relative to a carrier at `parent`, in the world.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::level::Placement;
    ///
    /// let wheel = Placement::new(Vec2::Y * 5.0, std::f32::consts::PI);
    /// let gondola = Placement::new(Vec2::X * 4.0, 0.0).on(&wheel);
    /// assert!((gondola.offset() - Vec2::new(-4.0, 5.0)).length() < 1e-5);
    /// ```
    #[must_use]
    pub fn on(&self, parent: &Self) -> Self {
        let offset = parent.apply(self.offset);
        if !parent.is_turned() {
            return Self { offset, ..*self };
        }
        Self { offset, right: parent.turned(self.right), up: parent.turned(self.up) }
    }

    /// Returns true if there is a rotation.
    fn is_turned(&self) -> bool {
        self.right != V::RIGHT || self.up != V::UP
    }

    /// Returns true if two placements have the same rotation.
    fn is_turned_as(&self, other: &Self) -> bool {
        self.right == other.right && self.up == other.up
    }

    fn axes(&self) -> [V; 2] {
        [self.right, self.up]
    }

    fn turned(&self, direction: V) -> V {
        if self.is_turned() { direction.out_of_axes(self.right, self.up) } else { direction }
    }

    /// Converts world bounds into bounds in the carrier's coordinates, slightly widened for
    /// rotations whose axes are not exactly perpendicular.
    pub(super) fn unmoved(&self, world: &Bounds<V>) -> Bounds<V> {
        let reach = self.reach_of(world, |along| along.in_axes(self.right, self.up)) * 1.001;
        let centre = self.undo(world.centre());
        Bounds { min: centre - reach, max: centre + reach }
    }

    /// Converts bounds in the carrier's coordinates into world bounds.
    pub(super) fn moved(&self, own: &Bounds<V>) -> Bounds<V> {
        let reach = self.reach_of(own, |along| along.out_of_axes(self.right, self.up));
        let centre = self.apply(own.centre());
        Bounds { min: centre - reach, max: centre + reach }
    }

    /// Half the size of the axis-aligned bounds around rotated bounds.
    fn reach_of(&self, bounds: &Bounds<V>, turned: impl Fn(V) -> V) -> V {
        let half = (bounds.max - bounds.min) * 0.5;
        if !self.is_turned() {
            return half;
        }
        let mut reach = V::ZERO;
        for axis in 0..V::DIMENSION {
            let mut along = [0.0; 3];
            along[axis] = half.component(axis);
            reach += turned(V::from_array(along)).abs();
        }
        reach
    }

    /// The placement at a fraction of the motion to another one: straight, and about one axis.
    pub(super) fn blended(&self, to: &Self, fraction: f32) -> Self {
        let offset = self.offset.lerp(to.offset, fraction);
        if V::DIMENSION == 2 || self.up == to.up {
            let right = between(self.right, to.right, to.up, fraction);
            return Self { offset, right, up: between(self.up, to.up, to.right, fraction) };
        }
        let (axis, angle) = V::rotation(self.axes(), to.axes());
        let [right, up] = self.axes().map(|own| own.turned_about(axis, angle * fraction));
        Self { offset, right, up }
    }
}

impl Placement<Vec3> {
    /// Rotates by `rotation`, then moves by `offset`. A rotation that cannot be normalised counts as
    /// none.
    #[must_use]
    pub fn rotated(offset: Vec3, rotation: Quat) -> Self {
        let length = rotation.length();
        if !(length.is_finite() && length > 0.0) {
            return Self::new(offset, 0.0);
        }
        let rotation = rotation.normalize();
        Self { offset, right: rotation * Vec3::X, up: rotation * Vec3::Y }
    }
}

impl<V: Vector> Default for Placement<V> {
    fn default() -> Self {
        Self::new(V::ZERO, 0.0)
    }
}

/// The motion of a carrier in one tick.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::{Placement, Ride};
///
/// let to = Placement::new(Vec2::new(0.0, 0.05), 0.0);
/// let lift = Ride { from: Placement::new(Vec2::ZERO, 0.0), to };
/// assert_eq!(lift.displacement(Vec2::new(1.0, 0.0)), Vec2::new(0.0, 0.05));
/// assert_eq!(lift.blended(0.5).offset().y, 0.025); // where to draw it between two ticks
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ride<V> {
    /// The placement before the tick.
    pub from: Placement<V>,
    /// The placement after the tick. The carrier's pieces are found there.
    pub to: Placement<V>,
}

impl<V: Vector> Ride<V> {
    /// No motion.
    #[must_use]
    pub fn still() -> Self {
        Self { from: Placement::default(), to: Placement::default() }
    }

    /// Where a point that rides along is after the tick.
    #[must_use]
    pub fn carry(&self, point: V) -> V {
        self.to.apply(self.from.undo(point))
    }

    /// The displacement of a point that rides along. Exact for a carrier that does not rotate,
    /// however far from the origin.
    #[must_use]
    pub fn displacement(&self, point: V) -> V {
        if self.from.is_turned_as(&self.to) {
            self.to.offset() - self.from.offset()
        } else {
            self.carry(point) - point
        }
    }

    /// The displacement in this tick of the carrier's point that is at `point` after the tick.
    #[must_use]
    pub fn displacement_to(&self, point: V) -> V {
        if self.from.is_turned_as(&self.to) {
            self.to.offset() - self.from.offset()
        } else {
            point - self.from.apply(self.to.undo(point))
        }
    }

    /// Returns true if a rider that stays upright is not carried as one point: the rotation is not
    /// about the world's up, or it is in two dimensions.
    pub(crate) fn tilts(&self) -> bool {
        !self.from.is_turned_as(&self.to)
            && (V::DIMENSION == 2 || self.from.up != V::UP || self.to.up != V::UP)
    }

    /// The placement to draw, interpolated from before the tick (0) to after it (1). Use the same
    /// blend as for a rider's [`Pose`](crate::Pose), so that both are drawn together. A rider of a
    /// rotating carrier is drawn on a straight line from tick to tick: at r metres from the axis it
    /// is at most r·θ²/8 off for a rotation of θ per tick.
    #[must_use]
    pub fn blended(&self, blend: f32) -> Placement<V> {
        let blend = within(blend);
        if blend >= 1.0 { self.to } else { self.from.blended(&self.to, blend) }
    }

    /// The rotation in this tick about the world's up, in radians: [`Self::turn_about`] it.
    #[must_use]
    pub fn turn(&self) -> f32 {
        self.turn_about(V::UP)
    }

    /// The part of this tick's rotation that is about `axis`, of length 1, in radians: the angle
    /// by which a rider turns that stays upright and has this axis as its up. In two dimensions it is the
    /// rotation, and the axis is ignored.
    ///
    /// It is the twist of the swing-twist decomposition: P. Dobrowolski, "Swing-twist decomposition
    /// in Clifford algebra", 2015.
    #[must_use]
    pub fn turn_about(&self, axis: V) -> f32 {
        let Self { from, to } = self;
        if from.is_turned_as(to) {
            return 0.0;
        }
        if V::DIMENSION == 2 {
            return from.right.turn_to(to.right);
        }
        if axis == V::UP && from.up == axis && to.up == axis {
            return from.right.turn_to(to.right);
        }
        let (own, angle) = V::rotation(from.axes(), to.axes());
        let (sin, cos) = libm::sincosf(angle * 0.5);
        2.0 * libm::atan2f(own.dot(axis) * sin, cos)
    }
}
