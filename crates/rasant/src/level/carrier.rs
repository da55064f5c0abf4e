//! Pieces that move and take riders along.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::{Bounds, Vector, between, within};
use alloc::vec::Vec;

/// Names one of a level's carriers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CarrierId(pub u16);

/// Where a carrier is: turned, then moved.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::Placement;
///
/// let quarter = Placement::new(Vec2::X * 3.0, std::f32::consts::FRAC_PI_2);
/// assert!((quarter.apply(Vec2::X) - Vec2::new(3.0, 1.0)).length() < 1e-6);
/// assert!((quarter.undo(quarter.apply(Vec2::Y)) - Vec2::Y).length() < 1e-6);
/// ```
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

    pub(super) fn up(&self) -> V {
        self.up
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

    /// How far the point of the carrier that is at `point` after the tick was moved in it.
    #[must_use]
    pub fn displacement_to(&self, point: V) -> V {
        if self.from.right() == self.to.right() {
            self.to.offset() - self.from.offset()
        } else {
            point - self.from.apply(self.to.undo(point))
        }
    }

    /// Where the carrier is drawn `blend` of the way (0 to 1) from before the tick to after
    /// it: for the same blend as a rider's [`Pose`](crate::Pose), so that both are drawn
    /// together. A rider of a carrier that turns goes straight from tick to tick: at r
    /// metres from the axis it is r·θ²/8 off at most for a turn of θ in the tick.
    #[must_use]
    pub fn blended(&self, blend: f32) -> Placement<V> {
        let blend = within(blend);
        let Self { from, to } = *self;
        Placement {
            offset: from.offset.lerp(to.offset, blend),
            right: between(from.right, to.right, to.up, blend),
            up: between(from.up, to.up, to.right, blend),
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
#[non_exhaustive]
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
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::level::Placement;
/// use rasant::{Carrier, Keyframe, Level, PathEnd, Piece};
///
/// let mut builder = Level::builder();
/// let path = [0.0, 4.0].map(|time| Keyframe { time, offset: Vec2::X * time, turn: 0.0 });
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
#[derive(Clone, Debug)]
pub struct Carrier<V> {
    path: Vec<Keyframe<V>>,
    end: PathEnd,
    /// Where it begins, if the host says so.
    start: Option<Placement<V>>,
    from: Placement<V>,
    to: Placement<V>,
    /// Where the host puts it in the next tick.
    next: Option<Placement<V>>,
}

/// What a level remembers of a carrier that the host sets.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Set<V> {
    start: Option<Placement<V>>,
    from: Placement<V>,
    to: Placement<V>,
    next: Option<Placement<V>>,
}

impl<V: Vector> Carrier<V> {
    /// A carrier that follows `path`, moving evenly from one keyframe to the
    /// next; times must rise from 0.
    #[must_use]
    pub fn on_path(path: Vec<Keyframe<V>>, end: PathEnd) -> Self {
        let here = Placement::default();
        let mut carrier = Self { path, end, start: None, from: here, to: here, next: None };
        carrier.from = carrier.at(0.0);
        carrier.to = carrier.from;
        carrier
    }

    /// A carrier that only moves when [`Level::place`](super::Level::place)
    /// says so. Where it is first put it is from the beginning, if
    /// [`Self::starting_at`] says nothing else.
    #[must_use]
    pub fn set_by_host() -> Self {
        Self::on_path(Vec::new(), PathEnd::Stop)
    }

    /// The same carrier, there from the beginning: for one that the host sets, so that its
    /// first placement takes riders along from here. One on a path begins with that.
    #[must_use]
    pub fn starting_at(mut self, placement: Placement<V>) -> Self {
        if self.path.is_empty() {
            self.start = Some(placement);
            (self.from, self.to) = (placement, placement);
        }
        self
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

    /// What it does at the end of its path.
    #[must_use]
    pub fn end(&self) -> PathEnd {
        self.end
    }

    pub(super) fn follow(&mut self, time: f64) {
        self.from = self.to;
        if !self.path.is_empty() {
            self.to = self.at(time);
        } else if let Some(next) = self.next.take() {
            self.to = next;
        }
    }

    /// Puts it where its path is in a tick from one time to another; one that the host sets
    /// stays where it is.
    pub(super) fn go_to(&mut self, before: f64, time: f64) {
        if !self.path.is_empty() {
            (self.from, self.to) = (self.at(before), self.at(time));
        }
    }

    /// Where the host puts it in the next tick; at once where it has been nowhere yet.
    pub(super) fn place(&mut self, placement: Placement<V>) {
        if self.path.is_empty() {
            if self.start.is_none() {
                self.start = Some(placement);
                (self.from, self.to) = (placement, placement);
            }
            self.next = Some(placement);
        }
    }

    /// What is to be remembered of it; nothing of one on a path.
    pub(super) fn set(&self) -> Option<Set<V>> {
        let Self { start, from, to, next, .. } = *self;
        self.path.is_empty().then_some(Set { start, from, to, next })
    }

    pub(super) fn put_back(&mut self, set: Set<V>) {
        let Set { start, from, to, next } = set;
        (self.start, self.from, self.to, self.next) = (start, from, to, next);
    }

    /// Whether it can be elsewhere a tick after `time`.
    pub(super) fn moves_on(&self, time: f64) -> bool {
        let is_over =
            self.end == PathEnd::Stop && self.path.last().is_none_or(|last| time >= f64::from(last.time));
        self.from != self.to || self.next.is_some() || (self.path.len() > 1 && !is_over)
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
