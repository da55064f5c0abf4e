//! What a move decides by.

use core::fmt;
use core::ops::Deref;

use crate::contact::{Geometry, Hit, Hull, Patch};
use crate::input::Intent;
use crate::level::{CarrierId, Ride, Surface, SurfaceId, Tag, Zone, ZoneId};
use crate::space::{Bounds, Frame, Vector};
use crate::state::{Locks, Maneuver, Name, Span, State, WallKick, WallTouch};
use crate::travel::Stand;
use crate::tuning::Tuning;

/// All that is known when a tick is decided, read-only.
///
/// Vectors are in the body's frame, if nothing else is said: from its position, with
/// [`Vector::UP`] where its up is and [`Vector::RIGHT`] to the player's right.
/// [`Sensed::frame`] turns them into the world's and back.
pub struct Senses<'a, V: Geometry> {
    pub(crate) sensed: &'a Sensed<'a, V>,
    pub(crate) patch: &'a Patch<V>,
    pub(crate) host: &'a dyn Host<V>,
}

impl<V: Geometry> fmt::Debug for Senses<'_, V> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Debug::fmt(self.sensed, f)
    }
}

impl<V: Geometry> fmt::Debug for Sensed<'_, V> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Senses")
            .field("intent", &self.intent)
            .field("state", &self.state)
            .field("dt", &self.dt)
            .field("wish", &self.wish)
            .finish_non_exhaustive()
    }
}

impl<'a, V: Geometry> Deref for Senses<'a, V> {
    type Target = Sensed<'a, V>;

    fn deref(&self) -> &Sensed<'a, V> {
        self.sensed
    }
}

/// What [`Senses`] hold beside the pieces nearby.
pub struct Sensed<'a, V: Geometry> {
    /// How the body moves.
    pub tuning: &'a Tuning,
    /// What the player wants in this tick.
    pub intent: &'a Intent,
    /// The state as the tick began.
    pub state: &'a State<V>,
    /// Turns the body's frame into the world's and back.
    pub frame: &'a Frame<V>,
    /// The hull as it is in this tick.
    pub hull: &'a Hull,
    /// The length of the tick, in seconds.
    pub dt: f32,
    /// What the tick counts as in spans of time.
    pub span: Span,
    /// In m/s; on firm ground relative to that.
    pub velocity: V,
    /// That of the ground under the feet, in m/s.
    pub ground_velocity: V,
    /// Where the player wants to go, level, of length 0 to 1; zero while a maneuver
    /// locks steering.
    pub wish: V,
    /// Where the player steers, whatever locks it.
    pub steered: V,
    /// The speed of a full wish, in m/s, at least 0.
    pub top: f32,
    /// Whether it is a body seen from above, without gravity or up.
    pub from_above: bool,
    /// Whether it lies on ground that is too steep to stand on.
    pub lies_steep: bool,
    /// What the maneuver under way keeps the player from.
    pub locks: Locks,
    /// The acceleration of the wind, in m/s².
    pub push: V,
    /// A factor on the speed asked for, of zones.
    pub pace: f32,
    /// How far the surface of the water that it is in is above its feet, in metres.
    pub water: Option<f32>,
    /// The maneuver under way, turned as it is steered.
    pub(crate) under_way: Option<&'a UnderWay<V>>,
    /// The ground under the feet.
    pub ground: Stand<V>,
    /// What that is made of, its drift in the body's frame; plain airborne.
    pub(crate) surface: Surface<V>,
    /// The surface of the zone that is the floor of who is seen from above.
    pub(crate) floor: Option<SurfaceId>,
    /// How far the ground turns in this tick, in radians.
    pub(crate) turn: f32,
    /// A displacement handed in by the host.
    pub(crate) led: Option<V>,
    /// A ladder within reach.
    pub ladder: Option<Rungs<V>>,
    /// The wall beside it, or last beside it, with its normal in the world.
    pub wall: Option<WallTouch<V>>,
    /// How well that holds.
    pub wall_grip: f32,
    /// The last jump off a wall.
    pub kick: Option<WallKick<V>>,
    /// Whether a rise goes on with jump let go.
    pub(crate) cut: bool,
    /// How far the carrier that it is on or holds takes it along in this tick.
    pub(crate) carried: Option<(V, CarrierId)>,
}

/// A maneuver in the tick that is to come.
#[derive(Clone, Copy)]
pub(crate) struct UnderWay<V> {
    pub name: Name,
    pub maneuver: Maneuver<V>,
    /// How far its way turns in this tick, in radians.
    pub bend: f32,
    /// Whether that takes it off the ground.
    pub leaves: bool,
    pub locks: Locks,
}

/// A ladder, seen from the feet.
#[derive(Clone, Copy, Debug)]
pub struct Rungs<V> {
    /// Which zone it is.
    pub zone: ZoneId,
    /// From it to who climbs it.
    pub front: Option<V>,
    /// How far its top is above the feet.
    pub top: f32,
    /// How far its bottom is above the feet: mostly below 0.
    pub bottom: f32,
    /// Whether the body hangs below its last rung by more than half.
    pub below: bool,
    /// The level displacement to its middle.
    pub aside: V,
    /// Half of its width, in metres: across its front, or to the right.
    pub half_width: f32,
}

/// What a host can be asked in the middle of a tick.
pub(crate) trait Host<V: Geometry> {
    fn surface(&self, id: SurfaceId) -> Surface<V>;
    fn gather(&self, frame: &Frame<V>, hull: &Hull, reach: Bounds<V>) -> Patch<V>;
    fn zone(&self, id: ZoneId) -> Option<Zone<V>>;
    fn ride(&self, id: CarrierId) -> Ride<V>;
    fn mark(&self, kind: u16, number: u32) -> Option<V>;
}

impl<V: Geometry> Sensed<'_, V> {
    /// Whether it has firm ground under its feet, or is seen from above.
    #[must_use]
    pub fn standing(&self) -> bool {
        self.ground.firm || self.from_above
    }

    /// The maneuver under way.
    #[must_use]
    pub fn maneuver(&self) -> Option<&Maneuver<V>> {
        self.under_way.map(|under_way| &under_way.maneuver)
    }

    /// How long it is until another maneuver may begin, in seconds.
    #[must_use]
    pub fn busy_for(&self) -> f32 {
        let busy = self.maneuver().map_or(0.0, |maneuver| {
            let plan = maneuver.plan;
            plan.duration() + plan.cooldown - maneuver.age
        });
        if self.state.cooldown.is_over() { busy } else { self.state.cooldown.seconds().max(busy) }
    }

    /// The direction steered, or that faced, of length 1.
    #[must_use]
    pub fn heading(&self) -> V {
        let faced = self.frame.local(self.state.facing);
        self.wish.direction().or(faced.direction()).unwrap_or(V::RIGHT)
    }

    /// How far the player wants up, −1 to 1: the stick forward or back in a side view.
    #[must_use]
    pub fn steered_up(&self) -> f32 {
        if V::DIMENSION == 2 && !self.from_above { self.intent.safe_steer().y } else { 0.0 }
    }

    /// Where the middle of the hull's underside is.
    #[must_use]
    pub fn feet(&self) -> V {
        V::UP * -self.hull.origin()
    }

    /// How far what it stands on or holds takes it along in this tick. What is near is
    /// sensed where it will be at the end of it, and so the body is as seen from there.
    #[must_use]
    pub fn carried_by(&self) -> V {
        self.carried.map_or(V::ZERO, |(way, _)| way)
    }

    /// What it stands on or holds, if that moves.
    #[must_use]
    pub fn carrier(&self) -> Option<CarrierId> {
        self.carried.map(|(_, carrier)| carrier)
    }

    /// The velocity over the world, as seen from the body's frame, in m/s.
    #[must_use]
    pub fn velocity_in_world(&self) -> V {
        self.velocity + self.ground_velocity
    }
}

impl<V: Geometry> Senses<'_, V> {
    /// What the hull meets first on a straight way from `from`, with its clearance.
    #[must_use]
    pub fn sweep(&self, from: V, way: V) -> Option<Hit<V>> {
        self.within(from, way, |patch| patch.sweep(from, way))
    }

    /// What the hull meets first on a straight way from `from`, without any clearance.
    #[must_use]
    pub fn cast(&self, from: V, way: V) -> Option<Hit<V>> {
        self.within(from, way, |patch| patch.cast(from, way))
    }

    /// What the hull meets first on a straight displacement from `from`, with its clearance. It
    /// passes through one-way pieces.
    #[must_use]
    pub fn sweep_through_one_way(&self, from: V, displacement: V) -> Option<Hit<V>> {
        let through = |patch: &Patch<V>| patch.sweep_past(from, displacement, None, |tag| tag.one_way).hit;
        self.within(from, displacement, through)
    }

    /// What a small ball meets first on a straight way from the point `from`: for looking
    /// out for something, as for a hold or an anchor.
    #[must_use]
    pub fn look(&self, from: V, way: V) -> Option<Hit<V>> {
        /// The radius of the ball, in clearances.
        const THIN: f32 = 1.0;
        let radius = THIN * self.hull.clearance();
        let thin = Hull::ball(radius).ok()?.centred().with_mask(self.hull.mask());
        let thin = thin.with_clearance(0.1 * radius).ok()?;
        self.host.gather(self.frame, &thin, reach(from, way)).cast(from, way)
    }

    /// Whether the hull has room at `at`, overlapping nothing that is solid all round.
    #[must_use]
    pub fn has_room(&self, at: V) -> bool {
        self.within(at, V::ZERO, |patch| patch.overlap(at, |tag| tag.one_way).is_none())
    }

    /// Whether a hull of this height has room at `at`.
    #[must_use]
    pub fn has_room_at_height(&self, at: V, height: f32) -> bool {
        let hull = self.hull.at_height(height);
        let patch = self.host.gather(self.frame, &hull, reach(at, V::ZERO));
        patch.overlap(at, |tag| tag.one_way).is_none()
    }

    /// What a hull of this height meets first on a straight way from `from`, with its clearance.
    #[must_use]
    pub fn sweep_at_height(&self, from: V, way: V, height: f32) -> Option<Hit<V>> {
        let hull = self.hull.at_height(height);
        self.host.gather(self.frame, &hull, reach(from, way)).sweep(from, way)
    }

    /// The zones that the body is in, each where it is in the world.
    pub fn zones(&self) -> impl Iterator<Item = (ZoneId, Zone<V>)> {
        self.state.zones.ids().iter().filter_map(|&id| Some((id, self.host.zone(id)?)))
    }

    /// How far a carrier takes along a point in this tick. The point is where it was before the tick,
    /// in the body's frame, as is the displacement: for an anchor on something that moves.
    #[must_use]
    pub fn displacement(&self, carrier: CarrierId, point: V) -> V {
        self.frame.local(self.host.ride(carrier).displacement(self.frame.world_point(point)))
    }

    /// The places of one kind that the host keeps for its own moves, in the body's frame: see
    /// [`Surroundings::mark`](crate::Surroundings::mark).
    pub fn marks(&self, kind: u16) -> impl Iterator<Item = V> {
        (0..).map_while(move |number| self.host.mark(kind, number)).map(|place| self.frame.local_point(place))
    }

    /// What a surface is like.
    #[must_use]
    pub fn surface(&self, tag: &Tag) -> Surface<V> {
        self.host.surface(tag.surface)
    }

    /// Looks among the pieces that are gathered, or among more where that is not enough.
    fn within<T>(&self, from: V, way: V, look: impl Fn(&Patch<V>) -> T) -> T {
        let reach = reach(from, way);
        if self.patch.covers(&reach) {
            look(self.patch)
        } else {
            look(&self.host.gather(self.frame, self.hull, reach))
        }
    }
}

fn reach<V: Vector>(from: V, way: V) -> Bounds<V> {
    Bounds { min: from.min(from + way), max: from.max(from + way) }
}
