//! What a body touches, waits for and was refused, for drawing and printing.

use crate::contact::{Geometry, Hull, Patch};
use crate::level::{SurfaceId, Surroundings, Tag};
use crate::space::Bounds;
use crate::tuning::Tuning;
use alloc::vec::Vec;

use crate::moves::{Dash, Jump, Ladder};
use crate::state::{Departure, Event, Refusal, State};

/// The inside of a controller at one moment.
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
    /// Everything that counts time and has not run out.
    pub timers: Vec<Timer>,
    /// What the last tick refused.
    pub refusals: Vec<Refusal>,
}

/// A piece that the hull is at, in the world.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct DebugContact<V> {
    /// The nearest point of the piece.
    pub point: V,
    /// From there to the hull, of length 1.
    pub normal: V,
    /// How far the hull is from it, in metres.
    pub gap: f32,
    /// What it is made of.
    pub surface: SurfaceId,
    /// Which piece.
    pub tag: Tag,
}

/// Something that counts time.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Timer {
    /// What it is.
    pub name: &'static str,
    /// Seconds left, or gone by where the name says so.
    pub seconds: f32,
}

impl<V: Geometry> DebugView<V> {
    /// Looks at `state` and what surrounds it.
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
        ("gait's age", Some(state.animation.gait_age.seconds())),
    ];
    all.into_iter()
        .filter_map(|(name, seconds)| Some(Timer { name, seconds: seconds.filter(|left| *left > 0.0)? }))
        .collect()
}
