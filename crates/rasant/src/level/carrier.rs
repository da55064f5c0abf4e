//! Groups of pieces that move and take riders along.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::Vector;
use alloc::sync::Arc;
use alloc::vec::Vec;

use super::placement::{Placement, Ride};

/// The id of a carrier of a level.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CarrierId(pub u16);

/// How a carrier moves from one keyframe to the next: how the fraction of the distance depends on the
/// fraction t of the time.
///
/// ```
/// use rasant::level::Easing;
///
/// assert_eq!(Easing::InOut.at(0.5), 0.5);
/// assert!(Easing::In.at(0.1) < 0.02 && Easing::Out.at(0.1) > 0.15);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Easing {
    /// At a constant speed: t.
    #[default]
    Linear,
    /// From rest, faster and faster: t².
    In,
    /// Slower and slower, to rest: 1 − (1 − t)².
    Out,
    /// From rest to rest: 3t² − 2t³.
    InOut,
}

impl Easing {
    /// Every easing.
    pub const ALL: [Self; 4] = [Self::Linear, Self::In, Self::Out, Self::InOut];

    /// The fraction of the distance at a fraction of the time, both 0 to 1.
    #[must_use]
    pub fn at(self, t: f32) -> f32 {
        match self {
            Self::Linear => t,
            Self::In => t * t,
            Self::Out => t * (2.0 - t),
            Self::InOut => t * t * (3.0 - 2.0 * t),
        }
    }
}

/// A point on a carrier's path.
///
/// ```
/// use rasant::glam::{Vec2, Vec3};
/// use rasant::level::Easing;
/// use rasant::{Carrier, Keyframe, PathEnd};
///
/// let path = [(0.0, 0.0), (2.0, 6.0)];
/// let path = path.map(|(time, x)| Keyframe::new(time, Vec2::new(x, 0.0)));
/// let barge = Carrier::on_path(path.to_vec(), PathEnd::BackAndForth);
/// assert_eq!(barge.at(1.0).offset().x, 3.0);
/// assert_eq!(barge.at(3.0).offset().x, 3.0); // on the return
///
/// // A deck that tilts about z, from rest to rest.
/// let tilt = [(0.0, -0.2), (3.0, 0.2)].map(|(time, angle)| {
///     Keyframe::new(time, Vec3::ZERO).turned_about(Vec3::Z, angle).eased(Easing::InOut)
/// });
/// let deck = Carrier::on_path(tilt.to_vec(), PathEnd::BackAndForth);
/// assert!(deck.at(1.5).right().y.abs() < 1e-6);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub struct Keyframe<V> {
    /// The time in seconds from the start of the path.
    pub time: f32,
    /// The offset from where its pieces were added.
    pub offset: V,
    /// The rotation in radians about `axis`, counter-clockwise. Between keyframes with one axis it
    /// changes evenly, through several turns if it is more than 2π. Between others it takes the
    /// shorter arc.
    pub turn: f32,
    /// The axis of the rotation, of length 1: up by default. Ignored in two dimensions.
    pub axis: V,
    /// How the carrier moves from here to the next keyframe.
    pub easing: Easing,
}

impl<V: Vector> Keyframe<V> {
    /// A keyframe without a rotation.
    #[must_use]
    pub fn new(time: f32, offset: V) -> Self {
        Self { time, offset, turn: 0.0, axis: V::UP, easing: Easing::Linear }
    }

    /// The keyframe rotated by `turn` radians, counter-clockwise; about up in three dimensions.
    #[must_use]
    pub fn turned(self, turn: f32) -> Self {
        Self { turn, ..self }
    }

    /// The keyframe rotated by `turn` radians about `axis`, counter-clockwise seen from its end. In
    /// two dimensions the axis is ignored. An axis without a direction is an error when the level is
    /// built.
    #[must_use]
    pub fn turned_about(self, axis: V, turn: f32) -> Self {
        Self { turn, axis: axis.direction().unwrap_or(V::ZERO), ..self }
    }

    /// The keyframe with another motion to the next one.
    #[must_use]
    pub fn eased(self, easing: Easing) -> Self {
        Self { easing, ..self }
    }

    /// Its placement.
    fn placement(&self) -> Placement<V> {
        Placement::turned_about(self.offset, self.axis, self.turn)
    }

    /// Returns true if all numbers are finite and the axis has length 1, to within rounding.
    pub(super) fn is_valid(&self) -> bool {
        let is_unit = V::DIMENSION == 2 || (self.axis.length_squared() - 1.0).abs() < 1e-3;
        self.time.is_finite() && self.offset.is_finite() && self.turn.is_finite() && is_unit
    }
}

/// What a carrier does at the end of its path.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum PathEnd {
    /// It starts again from the first keyframe.
    #[default]
    Loop,
    /// It returns along the same path.
    BackAndForth,
    /// It stays at the last keyframe.
    Stop,
}

/// A group of pieces that moves along keyframes, or that the host places.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::Placement;
/// use rasant::{Carrier, Keyframe, Level, PathEnd, Piece};
///
/// let mut builder = Level::builder();
/// let path = [0.0, 4.0].map(|time| Keyframe::new(time, Vec2::X * time));
/// let raft = builder.add_carrier(Carrier::on_path(path.into(), PathEnd::BackAndForth));
/// let lift = builder.add_carrier(Carrier::set_by_host().starting_at(Placement::default()));
/// builder.add(Piece::block(Vec2::new(-1.0, -0.5), Vec2::new(1.0, 0.0))?.riding(raft));
/// let mut level = builder.build()?;
///
/// level.place(lift, Placement::new(Vec2::Y * 0.02, 0.0)); // where it is to be, then
/// level.advance(1.0 / 60.0); // a tick begins, then the bodies tick
/// assert_eq!(level.carrier(lift).ride().to.offset(), Vec2::Y * 0.02);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Carrier<V> {
    path: Arc<[Keyframe<V>]>,
    end: PathEnd,
    /// The carrier that it rides on.
    parent: Option<CarrierId>,
    /// The initial placement, if the host set one.
    start: Option<Placement<V>>,
    /// The motion relative to the parent.
    own: Ride<V>,
    /// The motion in the world.
    ride: Ride<V>,
    /// The placement that the host set for the next tick.
    next: Option<Placement<V>>,
    is_removed: bool,
}

/// A carrier as serde writes it.
#[cfg(feature = "serde")]
#[derive(serde::Serialize, serde::Deserialize)]
pub(super) struct Saved<V> {
    path: Vec<Keyframe<V>>,
    end: PathEnd,
    parent: Option<CarrierId>,
    start: Option<Placement<V>>,
    own: [Placement<V>; 2],
    next: Option<Placement<V>>,
    is_removed: bool,
}

#[cfg(feature = "serde")]
impl<V: Vector> Carrier<V> {
    pub(super) fn saved(&self) -> Saved<V> {
        Saved {
            path: self.path.to_vec(),
            end: self.end,
            parent: self.parent,
            start: self.start,
            own: [self.own.from, self.own.to],
            next: self.next,
            is_removed: self.is_removed,
        }
    }

    /// A carrier that serde has read, after the carriers `before` it. `None` if a placement is not finite, or its axes are not
    /// orthonormal.
    pub(super) fn of_saved(saved: Saved<V>, before: &[Self]) -> Option<Self> {
        let Saved { path, end, parent: on, start, own: [from, to], next, is_removed } = saved;
        let placements = [start, Some(from), Some(to), next];
        if !placements.into_iter().flatten().all(|placement| placement.is_valid()) {
            return None;
        }
        let still = Ride::still();
        let mut carrier =
            Self { path: path.into(), end, parent: on, start, own: still, ride: still, next, is_removed };
        carrier.put(from, to, ride_of(before, on));
        Some(carrier)
    }
}

impl<V: Vector> Carrier<V> {
    /// A carrier that follows `path`, by default at a constant speed between keyframes. Times must
    /// rise from 0.
    #[must_use]
    pub fn on_path(path: Vec<Keyframe<V>>, end: PathEnd) -> Self {
        let still = Ride::still();
        let mut carrier = Self {
            path: path.into(),
            end,
            parent: None,
            start: None,
            own: still,
            ride: still,
            next: None,
            is_removed: false,
        };
        let here = carrier.at(0.0);
        carrier.put(here, here, None);
        carrier
    }

    /// A carrier that only [`Level::place`](super::Level::place) moves. Its first placement is also
    /// its initial one, unless [`Self::starting_at`] sets another.
    #[must_use]
    pub fn set_by_host() -> Self {
        Self::on_path(Vec::new(), PathEnd::Stop)
    }

    /// The carrier with an initial placement. If the host places it, its first placement takes
    /// riders along from here. A carrier on a path begins its path with it.
    #[must_use]
    pub fn starting_at(mut self, placement: Placement<V>) -> Self {
        if self.path.is_empty() {
            self.start = Some(placement);
            self.put(placement, placement, None);
        }
        self
    }

    /// The carrier on another one, which must have been added before it: a gondola on a wheel, a
    /// turret on a cart. Its path and its placements are then relative to that carrier, which takes
    /// it along.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Carrier, Keyframe, Level, PathEnd};
    ///
    /// let turn = |time: f32, turn: f32| Keyframe::new(time, Vec2::ZERO).turned(turn);
    /// let mut builder = Level::builder();
    /// let round = vec![turn(0.0, 0.0), turn(8.0, 6.0)];
    /// let wheel = builder.add_carrier(Carrier::on_path(round, PathEnd::Loop));
    /// let upright = [(0.0, 0.0), (8.0, -6.0)];
    /// let upright = upright.map(|(time, turn)| Keyframe::new(time, Vec2::X * 5.0).turned(turn));
    /// let gondola = builder.add_carrier(Carrier::on_path(upright.to_vec(), PathEnd::Loop).riding(wheel));
    /// let mut level = builder.build()?;
    /// level.advance(4.0);
    /// let placement = level.carrier(gondola).ride().to;
    /// assert!((placement.right() - Vec2::X).length() < 1e-5); // as upright as before
    /// assert!((placement.offset().length() - 5.0).abs() < 1e-5);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn riding(mut self, parent: CarrierId) -> Self {
        self.parent = Some(parent);
        self
    }

    /// The carrier that it rides on.
    #[must_use]
    pub fn parent(&self) -> Option<CarrierId> {
        self.parent
    }

    /// The motion in the current tick, in the world.
    #[must_use]
    pub fn ride(&self) -> Ride<V> {
        self.ride
    }

    /// The path, relative to the carrier that it rides on.
    #[must_use]
    pub fn path(&self) -> &[Keyframe<V>] {
        &self.path
    }

    /// What the carrier does at the end of its path.
    #[must_use]
    pub fn end(&self) -> PathEnd {
        self.end
    }

    /// Returns true if it was removed from its level.
    #[must_use]
    pub fn is_removed(&self) -> bool {
        self.is_removed
    }

    /// Removes it: it stays where it is, without a path.
    pub(super) fn remove(&mut self) {
        let here = self.ride.to;
        *self = Self { is_removed: true, ..Self::set_by_host().starting_at(here) };
    }

    /// Sets its motion relative to its parent, and that in the world.
    fn put(&mut self, from: Placement<V>, to: Placement<V>, parent: Option<Ride<V>>) {
        self.own = Ride { from, to };
        self.follow_parent(parent);
    }

    /// Works out the motion in the world from the one relative to the parent.
    pub(super) fn follow_parent(&mut self, parent: Option<Ride<V>>) {
        let Ride { from, to } = self.own;
        self.ride = match parent {
            Some(parent) => Ride { from: from.on(&parent.from), to: to.on(&parent.to) },
            None => self.own,
        };
    }

    /// Begins a tick that ends at `time`, relative to the motion of the parent.
    pub(super) fn follow(&mut self, time: f64, parent: Option<Ride<V>>) {
        let from = self.own.to;
        let to = if self.path.is_empty() { self.next.take().unwrap_or(from) } else { self.at(time) };
        self.put(from, to, parent);
    }

    /// Moves the carrier to its placement for a tick from one time to another. A carrier that the
    /// host places keeps its motion relative to its parent.
    pub(super) fn go_to(&mut self, before: f64, time: f64, parent: Option<Ride<V>>) {
        if self.path.is_empty() {
            self.follow_parent(parent);
        } else {
            self.put(self.at(before), self.at(time), parent);
        }
    }

    /// Sets the placement for the next tick, or at once if the carrier has not been placed yet.
    pub(super) fn place(&mut self, placement: Placement<V>, parent: Option<Ride<V>>) {
        if self.path.is_empty() {
            if self.start.is_none() {
                self.start = Some(placement);
                self.put(placement, placement, parent);
            }
            self.next = Some(placement);
        }
    }

    /// Returns true if the carrier may move in a tick after `time`, relative to its parent.
    pub(super) fn moves_on(&self, time: f64) -> bool {
        let is_over =
            self.end == PathEnd::Stop && self.path.last().is_none_or(|last| time >= f64::from(last.time));
        let moves = self.own.from != self.own.to || self.ride.from != self.ride.to;
        moves || self.next.is_some() || (self.path.len() > 1 && !is_over)
    }

    /// The placement on the path at `time`, relative to the carrier that it rides on.
    #[must_use]
    pub fn at(&self, time: f64) -> Placement<V> {
        let (Some(first), Some(last)) = (self.path.first(), self.path.last()) else {
            return self.own.to;
        };
        let length = f64::from(last.time);
        let time = if length <= 0.0 {
            0.0
        } else {
            match self.end {
                PathEnd::Stop => time.min(length),
                PathEnd::Loop => since_last(time, length),
                PathEnd::BackAndForth => {
                    let there_and_back = since_last(time, 2.0 * length);
                    length - (there_and_back - length).abs()
                }
            }
        };
        let next = self.path.partition_point(|key| f64::from(key.time) <= time);
        let (before, after) = match next {
            0 => (first, first),
            n if n == self.path.len() => (last, last),
            n => (&self.path[n - 1], &self.path[n]),
        };
        let span = f64::from(after.time - before.time);
        let fraction = if span > 0.0 { ((time - f64::from(before.time)) / span) as f32 } else { 0.0 };
        let fraction = before.easing.at(fraction);
        if V::DIMENSION == 3 && before.axis != after.axis {
            return before.placement().blended(&after.placement(), fraction);
        }
        let turn = before.turn + (after.turn - before.turn) * fraction;
        Placement::turned_about(before.offset.lerp(after.offset, fraction), before.axis, turn)
    }
}

/// The motion of a carrier's parent.
pub(super) fn ride_of<V: Vector>(carriers: &[Carrier<V>], parent: Option<CarrierId>) -> Option<Ride<V>> {
    Some(carriers.get(usize::from(parent?.0))?.ride())
}

/// The time since the last whole multiple of `length`: a remainder, without the slow exact
/// division, whose precision is not needed here.
fn since_last(time: f64, length: f64) -> f64 {
    let over = time - (time / length).floor() * length;
    if (0.0..length).contains(&over) { over } else { 0.0 }
}
