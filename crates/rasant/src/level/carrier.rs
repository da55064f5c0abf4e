//! Pieces that move and take riders along.

use crate::space::{Bounds, Vector};

/// Names one of a level's carriers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CarrierId(pub u16);

/// Where a carrier is: turned, then moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Placement<V> {
    offset: V,
    right: V,
    up: V,
}

impl<V: Vector> Placement<V> {
    /// Turned by `turn` radians counter-clockwise (from above in three
    /// dimensions), then moved by `offset`.
    #[must_use]
    pub fn new(offset: V, turn: f32) -> Self {
        if turn == 0.0 {
            return Self { offset, right: V::RIGHT, up: V::UP };
        }
        let up = if V::DIMENSION == 3 { V::UP } else { V::UP.turned(turn) };
        Self { offset, right: V::RIGHT.turned(turn), up }
    }

    pub(super) fn is_finite(&self) -> bool {
        self.offset.is_finite() && self.right.is_finite() && self.up.is_finite()
    }

    /// A point of the carrier, in the world.
    #[must_use]
    pub fn apply(&self, point: V) -> V {
        self.turned(point) + self.offset
    }

    /// A point of the world, in the carrier.
    #[must_use]
    pub fn undo(&self, point: V) -> V {
        (point - self.offset).in_axes(self.right, self.up)
    }

    /// How far the carrier is moved.
    #[must_use]
    pub fn offset(&self) -> V {
        self.offset
    }

    /// Where the carrier's +x points.
    #[must_use]
    pub fn right(&self) -> V {
        self.right
    }

    fn turned(&self, direction: V) -> V {
        if self.right == V::RIGHT { direction } else { direction.out_of_axes(self.right, self.up) }
    }

    /// Bounds about the carrier's origin of bounds in the world.
    pub(super) fn unmoved(&self, world: &Bounds<V>) -> Bounds<V> {
        let centre = self.undo(world.centre());
        let half = (world.max - world.min) * 0.5;
        let reach = if self.right == V::RIGHT { half } else { V::splat(half.length()) };
        Bounds { min: centre - reach, max: centre + reach }
    }

    /// World bounds of bounds about the carrier's origin.
    pub(super) fn moved(&self, own: &Bounds<V>) -> Bounds<V> {
        let centre = self.apply(own.centre());
        let half = (own.max - own.min) * 0.5;
        let reach = if self.right == V::RIGHT { half } else { V::splat(half.length()) };
        Bounds { min: centre - reach, max: centre + reach }
    }
}

impl<V: Vector> Default for Placement<V> {
    fn default() -> Self {
        Self::new(V::ZERO, 0.0)
    }
}

/// How a carrier moves in one tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ride<V> {
    /// Where it is before the tick.
    pub from: Placement<V>,
    /// Where it is after the tick, and where its pieces are found.
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

    /// How far a point that rides along is moved. Exact for a carrier that does
    /// not turn, however far from the origin.
    #[must_use]
    pub fn displacement(&self, point: V) -> V {
        if self.from.right() == self.to.right() {
            self.to.offset() - self.from.offset()
        } else {
            self.carry(point) - point
        }
    }

    /// The turn of the tick in radians.
    #[must_use]
    pub fn turn(&self) -> f32 {
        self.from.right().turn_to(self.to.right())
    }
}

/// A point on a carrier's path.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Keyframe<V> {
    /// When the carrier is there, in seconds from the start of the path.
    pub time: f32,
    /// How far it is from where its pieces were put.
    pub offset: V,
    /// How far it is turned, in radians counter-clockwise.
    pub turn: f32,
}

/// What a carrier does at the end of its path.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum PathEnd {
    /// Starts again from the first keyframe.
    #[default]
    Loop,
    /// Goes back the way it came.
    BackAndForth,
    /// Stays at the last keyframe.
    Stop,
}

/// A group of pieces that moves on a keyframed path, or is set by the host.
#[derive(Clone, Debug)]
pub struct Carrier<V> {
    path: Vec<Keyframe<V>>,
    end: PathEnd,
    from: Placement<V>,
    to: Placement<V>,
}

impl<V: Vector> Carrier<V> {
    /// A carrier that follows `path`, moving evenly from one keyframe to the
    /// next; times must rise from 0.
    #[must_use]
    pub fn on_path(path: Vec<Keyframe<V>>, end: PathEnd) -> Self {
        let mut carrier = Self { path, end, from: Placement::default(), to: Placement::default() };
        carrier.from = carrier.at(0.0);
        carrier.to = carrier.from;
        carrier
    }

    /// A carrier that only moves when [`Level::place`](super::Level::place)
    /// says so.
    #[must_use]
    pub fn set_by_host() -> Self {
        Self::on_path(Vec::new(), PathEnd::Stop)
    }

    /// How it moves in the present tick.
    #[must_use]
    pub fn ride(&self) -> Ride<V> {
        Ride { from: self.from, to: self.to }
    }

    /// The path.
    #[must_use]
    pub fn path(&self) -> &[Keyframe<V>] {
        &self.path
    }

    pub(super) fn follow(&mut self, time: f64) {
        self.from = self.to;
        if !self.path.is_empty() {
            self.to = self.at(time);
        }
    }

    pub(super) fn place(&mut self, placement: Placement<V>) {
        self.from = self.to;
        self.to = placement;
    }

    /// Whether it can be elsewhere a tick after `time`.
    pub(super) fn moves_on(&self, time: f64) -> bool {
        let is_over =
            self.end == PathEnd::Stop && self.path.last().is_none_or(|last| time >= f64::from(last.time));
        self.from != self.to || (self.path.len() > 1 && !is_over)
    }

    /// Where the path is at `time`.
    #[must_use]
    pub fn at(&self, time: f64) -> Placement<V> {
        let (Some(first), Some(last)) = (self.path.first(), self.path.last()) else {
            return self.to;
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
        let share = if span > 0.0 { ((time - f64::from(before.time)) / span) as f32 } else { 0.0 };
        Placement::new(
            before.offset.lerp(after.offset, share),
            before.turn + (after.turn - before.turn) * share,
        )
    }
}

/// The time since the last whole multiple of `length`: the remainder, but without
/// the slow division that is exact where nobody looks.
fn since_last(time: f64, length: f64) -> f64 {
    let over = time - (time / length).floor() * length;
    if (0.0..length).contains(&over) { over } else { 0.0 }
}
