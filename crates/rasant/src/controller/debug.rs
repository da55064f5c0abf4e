//! Contacts, timers and refusals of a body, for drawing and printing.

use crate::contact::{Geometry, Hull, Patch};
use crate::level::{SurfaceId, Surroundings, Tag};
use crate::space::Bounds;
use crate::tuning::Tuning;
use alloc::vec::Vec;

use crate::moves::{Dash, Jump, Ladder};
use crate::state::{Departure, Event, Refusal, State};

/// A view into a controller at one moment.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Hull, Intent, Tuning};
///
/// # let mut builder = rasant::Level::builder();
/// # builder.add(rasant::Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
/// body.tick(&Intent::default(), &level, 1.0 / 60.0);
/// for contact in &body.debug_view(&level).contacts {
///     println!("{:?}", contact); // what it touches, for drawing
/// }
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct DebugView<V> {
    /// Every piece within three clearances, nearest first.
    pub contacts: Vec<DebugContact<V>>,
    /// All timers that have not expired.
    pub timers: Vec<Timer>,
    /// The refusals of the last tick.
    pub refusals: Vec<Refusal>,
}

/// A piece near the hull, in the world.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct DebugContact<V> {
    /// The nearest point of the piece.
    pub point: V,
    /// From there to the hull, of length 1.
    pub normal: V,
    /// The distance from the hull, in metres.
    pub gap: f32,
    /// The surface of the piece.
    pub surface: SurfaceId,
    /// The piece.
    pub tag: Tag,
}

/// A timer.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Timer {
    /// The name.
    pub name: &'static str,
    /// Seconds left, or elapsed if the name says so.
    pub seconds: f32,
}

impl<V: Geometry> DebugView<V> {
    /// Views `state` and its surroundings.
    pub(super) fn of(
        tuning: &Tuning,
        hull: &Hull,
        state: &State<V>,
        events: &[Event<V>],
        surroundings: &impl Surroundings<V>,
    ) -> Self {
        let refusal = |event: &Event<V>| match event {
            Event::Refused { what } => Some(*what),
            _ => None,
        };
        Self {
            contacts: contacts(hull, state, surroundings),
            timers: timers(tuning, state),
            refusals: events.iter().filter_map(refusal).collect(),
        }
    }
}

fn contacts<V: Geometry>(
    hull: &Hull,
    state: &State<V>,
    surroundings: &impl Surroundings<V>,
) -> Vec<DebugContact<V>> {
    let within = 3.0 * hull.clearance();
    let frame = state.frame();
    let reach = Bounds { min: V::ZERO, max: V::ZERO }.widened(V::splat(within));
    let patch = Patch::gather(frame, hull, reach, surroundings);
    let mut contacts: Vec<DebugContact<V>> = patch
        .all_near(V::ZERO, within)
        .map(|near| DebugContact {
            point: frame.world_point(near.point),
            normal: frame.world(near.normal),
            gap: near.distance,
            surface: near.tag.surface,
            tag: near.tag,
        })
        .collect();
    contacts.sort_by(|a, b| a.gap.total_cmp(&b.gap));
    contacts
}

fn timers<V: Geometry>(tuning: &Tuning, state: &State<V>) -> Vec<Timer> {
    let air = state.air.filter(|air| air.by != Departure::Placed);
    let coyote =
        air.filter(|air| air.by == Departure::Edge).map(|air| tuning.jump.coyote_time - air.time.seconds());
    let all = [
        ("airborne for", air.map(|air| air.time.seconds())),
        ("coyote time", coyote),
        ("jump buffer", Some(state.memory::<Jump>().wait)),
        ("wall grace", state.touching.beside.as_ref().map(|wall| tuning.wall.grace_time - wall.away_for)),
        ("weak steering back", state.touching.kick.as_ref().map(|kick| kick.back_for)),
        ("ladder wait", Some(state.memory::<Ladder>().left)),
        ("maneuver's age", state.maneuver.as_ref().map(|maneuver| maneuver.age)),
        ("cooldown", Some(state.cooldown.seconds())),
        ("dash recharged for", Some(state.memory::<Dash>().recharged_for.seconds())),
        ("gait age", Some(state.animation.gait_age.seconds())),
    ];
    all.into_iter()
        .filter_map(|(name, seconds)| Some(Timer { name, seconds: seconds.filter(|left| *left > 0.0)? }))
        .collect()
}
