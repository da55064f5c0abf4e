//! Where a body was.

use alloc::collections::VecDeque;

use crate::contact::Geometry;
use crate::state::Event;

use super::{Controller, Pose};

/// The last poses of a body, at even intervals: for afterimages of a dash, a ribbon behind a blade,
/// or a follower on the same path.
///
/// ```
/// use rasant::controller::Trail;
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(99.0, 0.0))?);
/// let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
/// let mut trail = Trail::new(5, 0.1); // half a second
/// for _ in 0..120 {
///     body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
///     trail.tick(&body, 1.0 / 60.0);
/// }
/// assert_eq!(trail.poses().count(), 5);
/// let (age, oldest) = trail.poses().last().expect("five");
/// assert!((0.4..0.5).contains(&age) && oldest.position.x < body.position().x - 1.5);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Trail<V> {
    /// Newest first.
    poses: VecDeque<Pose<V>>,
    capacity: usize,
    interval: f32,
    /// Seconds since the newest.
    since: f32,
}

impl<V: Geometry> Trail<V> {
    /// A trail of at most `capacity` poses, one every `interval` seconds. An interval of 0 or less is
    /// one in every tick. It needs no memory from the heap after it is full.
    #[must_use]
    pub fn new(capacity: usize, interval: f32) -> Self {
        Self { poses: VecDeque::new(), capacity, interval: interval.max(0.0), since: f32::MAX }
    }

    /// Adds the pose of a body after a tick of `dt` seconds, if it is due. A trail begins again where
    /// the body is put elsewhere, by a teleport or at a checkpoint.
    pub fn tick(&mut self, body: &Controller<V>, dt: f32) {
        /// The part of a tick by which a pose may be early, because sums of ticks round.
        const EARLY: f32 = 0.01;
        if body.events().iter().any(Event::is_elsewhere) {
            self.clear();
        }
        self.since += dt;
        if self.since < self.interval - EARLY * dt || self.capacity == 0 {
            return;
        }
        // What is left over counts for the next, so that the mean interval is as asked for.
        let over = self.since - self.interval;
        self.since = if over < self.interval { over.max(0.0) } else { 0.0 };
        self.poses.truncate(self.capacity - 1);
        self.poses.push_front(body.pose(1.0));
    }

    /// The poses, newest first, each with the seconds since it was taken.
    pub fn poses(&self) -> impl DoubleEndedIterator<Item = (f32, &Pose<V>)> + ExactSizeIterator {
        let (since, interval) = (self.since, self.interval);
        self.poses.iter().enumerate().map(move |(number, pose)| (since + number as f32 * interval, pose))
    }

    /// Forgets all poses.
    pub fn clear(&mut self) {
        self.poses.clear();
        self.since = f32::MAX;
    }
}
