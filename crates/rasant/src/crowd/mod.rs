//! Bodies that meet each other: they block, push, carry and stand on each other.
//!
//! All bodies read the state at the start of the tick, so the result depends neither on their order
//! nor on the number of threads:
//!
//! 1. *Freeze*: the hulls at the start, which bodies rest, which ride on others, and which pairs are
//!    near.
//! 2. *Push*: a body that steers into a lighter one moves it, and the chain before it, in the same
//!    tick.
//! 3. *Tick* every body. It sees the level, the hulls of resting neighbours, and the body that it
//!    stands on where that ends, but no moving neighbour.
//! 4. *Verify* each pair along the tick.
//! 5. *Again*, for the pairs that come too near, under stricter rules: one yields to where the
//!    other ends; or each keeps to its side of a plane between them; or both stay where they were.
//! 6. *Match* the velocity of a body that follows another one closely.

mod body;
#[cfg(feature = "rayon")]
mod parallel;
mod push;
mod solid;
mod tick;
mod view;

use alloc::collections::VecDeque;
use alloc::vec::Vec;
use core::hash::Hasher as _;

use crate::contact::Geometry;
use crate::input::Intent;
use crate::level::Surroundings;
use crate::state::Event;

pub use crate::level::BodyId;
pub use body::{CrowdBody, DashMeets};
pub use view::WithBodies;

use solid::Solid;
use thiserror::Error;
use tick::{Contact, Serial};

/// Bodies that meet each other, ticked together.
///
/// A clone is a snapshot; with it and one of the level, a game replays to the same bits. A body that
/// is near no other moves exactly as without a crowd.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Crowd, CrowdBody, Hull, Intent, Level, Piece, Tuning};
///
/// # let mut builder = Level::builder();
/// # builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0))?);
/// # let level = builder.build()?;
/// let hull = Hull::capsule(0.35, 1.8)?;
/// let mut crowd = Crowd::new();
/// let [left, right] = [-3.0, 3.0].map(|x| CrowdBody::new(Tuning::default(), hull, Vec2::X * x));
/// let (left, right) = (crowd.add(left)?, crowd.add(right)?);
/// for _ in 0..180 {
///     crowd.tick(&level, 1.0 / 60.0, |id, _| Intent::steering(if id == left { 1.0 } else { -1.0 }, 0.0));
/// }
/// // They stand chest to chest in the middle.
/// let [left, right] = [left, right].map(|id| crowd[id].body.position().x);
/// assert!(left < 0.0 && right > 0.0 && right - left < 0.72);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(
        bound(
            serialize = "V: Clone, CrowdBody<V>: serde::Serialize",
            deserialize = "CrowdBody<V>: serde::Deserialize<'de>"
        ),
        try_from = "Saved<V>"
    )
)]
pub struct Crowd<V> {
    places: Vec<Place<V>>,
    /// Places that are free, the longest free one first.
    free: VecDeque<u16>,
    /// The pairs that touched after the last tick, by the first body.
    #[cfg_attr(feature = "serde", serde(skip))]
    contacts: Vec<Contact<V>>,
}

/// A place for a body.
#[derive(Clone, Debug)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(bound(
        serialize = "CrowdBody<V>: serde::Serialize",
        deserialize = "CrowdBody<V>: serde::Deserialize<'de>"
    ))
)]
struct Place<V> {
    /// The number of bodies that were removed from here.
    generation: u16,
    body: Option<CrowdBody<V>>,
}

/// A crowd as it is read, before it is checked.
#[cfg(feature = "serde")]
#[derive(serde::Deserialize)]
#[serde(bound(deserialize = "CrowdBody<V>: serde::Deserialize<'de>"))]
struct Saved<V> {
    places: Vec<Place<V>>,
    free: VecDeque<u16>,
}

#[cfg(feature = "serde")]
impl<V> TryFrom<Saved<V>> for Crowd<V> {
    type Error = CrowdError;

    fn try_from(Saved { places, free }: Saved<V>) -> Result<Self, CrowdError> {
        if places.len() > BodyId::MAX {
            return Err(CrowdError::Full);
        }
        let mut listed: Vec<u16> = free.iter().copied().collect();
        listed.sort_unstable();
        let empty =
            places.iter().zip(0..).filter(|(place, _)| place.body.is_none()).map(|(_, number)| number);
        if !empty.eq(listed) {
            return Err(CrowdError::Places);
        }
        places.iter().filter_map(|place| place.body.as_ref()).try_for_each(CrowdBody::check)?;
        Ok(Self { places, free, contacts: Vec::new() })
    }
}

/// Why a body cannot be added.
#[derive(Clone, Copy, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum CrowdError {
    /// There are [`BodyId::MAX`] bodies already.
    #[error("the crowd has {} bodies, expected fewer", BodyId::MAX)]
    Full,
    /// A mass is not above 0, or a strength, spacing or time is below 0, or one is NaN.
    #[error("{name} is {value}, expected {expected}")]
    Number {
        /// The field.
        name: &'static str,
        /// The value.
        value: f32,
        /// What was expected.
        expected: &'static str,
    },
    /// Of a crowd that is read from a file: its list of free places does not match its places.
    #[error("the free places are not those without a body")]
    Places,
}

/// Another body that a body touches.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BodyContact<V> {
    /// The other body.
    pub other: BodyId,
    /// The distance between the two hulls, in metres.
    pub gap: f32,
    /// From the other body to this one, of length 1.
    pub normal: V,
}

impl<V> Default for Crowd<V> {
    fn default() -> Self {
        Self { places: Vec::new(), free: VecDeque::new(), contacts: Vec::new() }
    }
}

impl<V: Geometry> Crowd<V> {
    /// A crowd without bodies.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Adds a body. One that is placed into another is separated from it within some ticks.
    ///
    /// # Errors
    /// If there are [`BodyId::MAX`] bodies, the mass is not above 0, or the strength, the spacing or a
    /// time is below 0 or NaN.
    pub fn add(&mut self, body: CrowdBody<V>) -> Result<BodyId, CrowdError> {
        body.check()?;
        if let Some(place) = self.free.pop_front() {
            let free = &mut self.places[usize::from(place)];
            free.body = Some(body);
            return Ok(BodyId::new(place, free.generation));
        }
        if self.places.len() == BodyId::MAX {
            return Err(CrowdError::Full);
        }
        self.places.push(Place { generation: 0, body: Some(body) });
        Ok(BodyId::new(self.places.len() as u16 - 1, 0))
    }

    /// Removes a body. Bodies that stand on it fall in the next tick. `None` if there is none with
    /// this id.
    pub fn remove(&mut self, id: BodyId) -> Option<CrowdBody<V>> {
        self.get(id)?;
        let place = &mut self.places[usize::from(id.place())];
        place.generation = place.generation.wrapping_add(1);
        self.free.push_back(id.place());
        place.body.take()
    }

    /// A body.
    #[must_use]
    pub fn get(&self, id: BodyId) -> Option<&CrowdBody<V>> {
        let place = self.places.get(usize::from(id.place()))?;
        place.body.as_ref().filter(|_| BodyId::new(id.place(), place.generation) == id)
    }

    /// A body, to change it between two ticks: its numbers, its place, or by
    /// [`throw`](crate::Controller::throw) and the like.
    pub fn get_mut(&mut self, id: BodyId) -> Option<&mut CrowdBody<V>> {
        let place = self.places.get_mut(usize::from(id.place()))?;
        let generation = place.generation;
        place.body.as_mut().filter(|_| BodyId::new(id.place(), generation) == id)
    }

    /// The bodies with their ids, in the order in which they were added, except that a place that
    /// became free is used again.
    pub fn iter(&self) -> impl Iterator<Item = (BodyId, &CrowdBody<V>)> {
        self.places.iter().enumerate().filter_map(|(number, place)| {
            Some((BodyId::new(number as u16, place.generation), place.body.as_ref()?))
        })
    }

    /// The number of bodies.
    #[must_use]
    pub fn len(&self) -> usize {
        self.places.len() - self.free.len()
    }

    /// Returns true if there are no bodies.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The events of a body in the last tick. Where another body was met (landed on, walked into),
    /// the event's piece is that [body](crate::PieceId::body). None for an unknown id.
    #[must_use]
    pub fn events(&self, id: BodyId) -> &[Event<V>] {
        self.get(id).map_or(&[], |body| body.body.events())
    }

    /// The bodies that a body touched after the last tick: those at a distance of no more than
    /// one and a half times the sum of both clearances.
    pub fn touching(&self, id: BodyId) -> impl Iterator<Item = BodyContact<V>> {
        let from = self.contacts.partition_point(|contact| contact.body < id);
        let own = self.contacts[from..].iter().take_while(move |contact| contact.body == id);
        own.map(|contact| contact.with)
    }

    /// The distance between the hulls of two bodies in metres; below 0 if they overlap. `None` if one
    /// of them is not in the crowd.
    #[must_use]
    pub fn gap(&self, one: BodyId, other: BodyId) -> Option<f32> {
        let [one, other] = [self.get(one)?, self.get(other)?].map(|body| Solid::of(&body.body));
        Some(one.apart(&other).gap)
    }

    /// Moves all bodies by one tick of `dt` seconds, each by the intent that `intents` returns for
    /// it.
    ///
    /// As in [`tick`](crate::tick), a tick whose length is not above 0 changes nothing. A host's own
    /// surroundings may have 32,768 carriers with ids from 0, as a level: the ids above are those of
    /// bodies.
    pub fn tick(
        &mut self,
        surroundings: &impl Surroundings<V>,
        dt: f32,
        intents: impl FnMut(BodyId, &CrowdBody<V>) -> Intent,
    ) {
        tick::tick(self, surroundings, dt, intents, &Serial);
    }

    /// The same as [`tick`](Self::tick), on the threads of the present `rayon` pool, with the same
    /// bits. `intents` is called for one body after another.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Crowd, CrowdBody, Hull, Intent, Level, Piece, Tuning};
    ///
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0))?);
    /// # let level = builder.build()?;
    /// let mut crowd = Crowd::new();
    /// for number in 0..20 {
    ///     let place = Vec2::X * number as f32;
    ///     crowd.add(CrowdBody::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, place))?;
    /// }
    /// let mut other = crowd.clone();
    /// crowd.tick(&level, 1.0 / 60.0, |_, _| Intent::steering(1.0, 0.0));
    /// other.tick_parallel(&level, 1.0 / 60.0, |_, _| Intent::steering(1.0, 0.0));
    /// assert_eq!(crowd.checksum(), other.checksum());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[cfg(feature = "rayon")]
    pub fn tick_parallel<S: Surroundings<V> + Sync>(
        &mut self,
        surroundings: &S,
        dt: f32,
        intents: impl FnMut(BodyId, &CrowdBody<V>) -> Intent,
    ) {
        tick::tick(self, surroundings, dt, intents, &parallel::Parallel);
    }

    /// A checksum over the states of all bodies, in their order: to compare two games that should
    /// be the same.
    #[must_use]
    pub fn checksum(&self) -> u64 {
        let mut sum = crate::summer::Summer::new();
        for (id, body) in self.iter() {
            sum.word(u64::from(id.piece().0));
            sum.word(body.body.state().checksum());
            sum.word(u64::from(body.passes_for.to_bits()));
        }
        sum.finish()
    }
}

impl<V: Geometry> core::ops::Index<BodyId> for Crowd<V> {
    type Output = CrowdBody<V>;

    /// The body with an id.
    ///
    /// # Panics
    /// If there is none.
    fn index(&self, id: BodyId) -> &CrowdBody<V> {
        self.get(id).unwrap_or_else(|| panic!("the crowd has no body {id:?}"))
    }
}

impl<V: Geometry> core::ops::IndexMut<BodyId> for Crowd<V> {
    fn index_mut(&mut self, id: BodyId) -> &mut CrowdBody<V> {
        self.get_mut(id).unwrap_or_else(|| panic!("the crowd has no body {id:?}"))
    }
}
