//! The inputs of a move's decision.

use core::fmt;
use core::ops::Deref;

use crate::contact::{Geometry, Hit, Hull, Patch};
use crate::input::Intent;
use crate::level::{CarrierId, Ride, Surface, SurfaceId, Tag, Zone, ZoneId};
use crate::space::{Bounds, Frame, Vector};
use crate::state::{Maneuver, Mutes, Name, Span, State, WallKick, WallTouch};
use crate::travel::Stand;
use crate::tuning::Tuning;

/// Everything that is known when a tick is decided, read-only.
///
/// Vectors are in the body's frame unless noted: relative to its position, with [`Vector::UP`]
/// along its up and [`Vector::RIGHT`] to the player's right. [`Sensed::frame`] converts them into
/// the world and back.
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
            .field("steer", &self.steer)
            .finish_non_exhaustive()
    }
}

impl<'a, V: Geometry> Deref for Senses<'a, V> {
    type Target = Sensed<'a, V>;

    fn deref(&self) -> &Sensed<'a, V> {
        self.sensed
    }
}

/// What [`Senses`] hold beside the nearby pieces.
pub struct Sensed<'a, V: Geometry> {
    /// The tuning of the body.
    pub tuning: &'a Tuning,
    /// The intent of this tick.
    pub intent: &'a Intent,
    /// The state at the start of the tick.
    pub state: &'a State<V>,
    /// Converts the body's frame into the world and back.
    pub frame: &'a Frame<V>,
    /// The hull in this tick.
    pub hull: &'a Hull,
    /// The length of the tick, in seconds.
    pub dt: f32,
    /// The duration of the tick for timers.
    pub span: Span,
    /// The velocity in m/s; on firm ground relative to the ground.
    pub velocity: V,
    /// The velocity of the ground under the feet, in m/s.
    pub ground_velocity: V,
    /// Where the player steers, horizontally, with a length of 0 to 1. Zero while a maneuver mutes
    /// steering.
    pub steer: V,
    /// Where the player steers, even if steering is muted.
    pub steered: V,
    /// The speed of full steering, in m/s, at least 0.
    pub top: f32,
    /// True if the body is seen from above, without gravity or up.
    pub from_above: bool,
    /// True if it lies on ground that is too steep to stand on.
    pub lies_steep: bool,
    /// What the running maneuver keeps the player from doing.
    pub mutes: Mutes,
    /// The acceleration of the wind, in m/s².
    pub push: V,
    /// The factor of zones on the walking speed.
    pub pace: f32,
    /// The factor of zones on gravity.
    pub weight: f32,
    /// The height of the surface of the water above the feet, in metres, if the body is in water.
    pub water: Option<f32>,
    /// The running maneuver, turned as it is steered.
    pub(crate) under_way: Option<&'a UnderWay<V>>,
    /// The ground under the feet.
    pub ground: Stand<V>,
    /// The surface of the ground, its drift in the body's frame; plain in the air.
    pub(crate) surface: Surface<V>,
    /// The surface of the zone that is the floor of a body seen from above.
    pub(crate) floor: Option<SurfaceId>,
    /// The rotation of the ground in this tick, in radians.
    pub(crate) turn: f32,
    /// A displacement that the host set for this tick.
    pub(crate) led: Option<V>,
    /// A ladder within reach.
    pub ladder: Option<Rungs<V>>,
    /// The wall beside the body, or last beside it, with its normal in the world.
    pub wall: Option<WallTouch<V>>,
    /// The grip of that wall.
    pub wall_grip: f32,
    /// The last jump off a wall.
    pub kick: Option<WallKick<V>>,
    /// True if jump was released during the rise.
    pub(crate) cut: bool,
    /// The displacement in this tick by the carrier that the body is on or holds.
    pub(crate) carried: Option<(V, CarrierId)>,
}

/// A maneuver in the coming tick.
#[derive(Clone, Copy)]
pub(crate) struct UnderWay<V> {
    pub name: Name,
    pub maneuver: Maneuver<V>,
    /// The rotation of its direction in this tick, in radians.
    pub bend: f32,
    /// True if it takes the body off the ground.
    pub leaves: bool,
    pub mutes: Mutes,
}

/// A ladder, relative to the feet.
#[derive(Clone, Copy, Debug)]
pub struct Rungs<V> {
    /// The zone of the ladder.
    pub zone: ZoneId,
    /// The direction from the ladder to the body that climbs it.
    pub front: Option<V>,
    /// The height of its top above the feet.
    pub top: f32,
    /// The height of its bottom above the feet: usually below 0.
    pub bottom: f32,
    /// True if more than half of the body hangs below the last rung.
    pub below: bool,
    /// The horizontal displacement to its centre.
    pub aside: V,
    /// Half of its width, in metres: across its front, or to the right.
    pub half_width: f32,
}

/// What a move can ask of a host in the middle of a tick.
pub(crate) trait Host<V: Geometry> {
    fn surface(&self, id: SurfaceId) -> Surface<V>;
    fn gather(&self, frame: &Frame<V>, hull: &Hull, reach: Bounds<V>) -> Patch<V>;
    fn zone(&self, id: ZoneId) -> Option<Zone<V>>;
    fn ride(&self, id: CarrierId) -> Ride<V>;
    fn mark(&self, kind: u16, number: u32) -> Option<V>;
}

impl<V: Geometry> Sensed<'_, V> {
    /// Returns true if the body has firm ground under its feet, or is seen from above.
    #[must_use]
    pub fn standing(&self) -> bool {
        self.ground.firm || self.from_above
    }

    /// The running maneuver.
    #[must_use]
    pub fn maneuver(&self) -> Option<&Maneuver<V>> {
        self.under_way.map(|under_way| &under_way.maneuver)
    }

    /// The time until another maneuver may begin, in seconds.
    #[must_use]
    pub fn busy_for(&self) -> f32 {
        let busy = self.maneuver().map_or(0.0, |maneuver| {
            let plan = maneuver.plan;
            plan.duration() + plan.cooldown - maneuver.age
        });
        if self.state.cooldown.is_over() { busy } else { self.state.cooldown.seconds().max(busy) }
    }

    /// The unit direction of the steering, or of the facing if there is no steering.
    #[must_use]
    pub fn heading(&self) -> V {
        let faced = self.frame.local(self.state.facing);
        self.steer.direction().or(faced.direction()).unwrap_or(V::RIGHT)
    }

    /// The vertical steering of the player, −1 to 1: the stick forward or back in a side view.
    #[must_use]
    pub fn steered_up(&self) -> f32 {
        if V::DIMENSION == 2 && !self.from_above { self.intent.safe_steer().y } else { 0.0 }
    }

    /// The middle of the hull's underside.
    #[must_use]
    pub fn feet(&self) -> V {
        V::UP * -self.hull.origin()
    }

    /// The displacement in this tick by what the body stands on or holds. What is near is sensed
    /// where it will be at the end of the tick, relative to the body after this displacement.
    #[must_use]
    pub fn carried_by(&self) -> V {
        self.carried.map_or(V::ZERO, |(displacement, _)| displacement)
    }

    /// The carrier that the body stands on or holds.
    #[must_use]
    pub fn carrier(&self) -> Option<CarrierId> {
        self.carried.map(|(_, carrier)| carrier)
    }

    /// The velocity in the world, in the body's frame, in m/s.
    #[must_use]
    pub fn velocity_in_world(&self) -> V {
        self.velocity + self.ground_velocity
    }
}

impl<V: Geometry> Senses<'_, V> {
    /// The first piece that stops the hull on a straight displacement from `from`, with its
    /// clearance.
    #[must_use]
    pub fn sweep(&self, from: V, displacement: V) -> Option<Hit<V>> {
        self.within(from, displacement, |patch| patch.sweep(from, displacement))
    }

    /// The first piece that the hull touches on a straight displacement from `from`, without
    /// clearance.
    #[must_use]
    pub fn cast(&self, from: V, displacement: V) -> Option<Hit<V>> {
        self.within(from, displacement, |patch| patch.cast(from, displacement))
    }

    /// As [`Self::sweep`], ignoring one-way pieces.
    #[must_use]
    pub fn sweep_through_one_way(&self, from: V, displacement: V) -> Option<Hit<V>> {
        let through = |patch: &Patch<V>| patch.sweep_past(from, displacement, None, |tag| tag.one_way).hit;
        self.within(from, displacement, through)
    }

    /// The first piece that a small ball touches on a straight displacement from the point `from`:
    /// for finding a hold or an anchor.
    #[must_use]
    pub fn look(&self, from: V, displacement: V) -> Option<Hit<V>> {
        /// The radius of the ball, in clearances.
        const THIN: f32 = 1.0;
        let radius = THIN * self.hull.clearance();
        let thin = Hull::ball(radius).ok()?.centred().with_mask(self.hull.mask());
        let thin = thin.with_clearance(0.1 * radius).ok()?;
        self.host.gather(self.frame, &thin, reach(from, displacement)).cast(from, displacement)
    }

    /// Returns true if the hull overlaps nothing at `at` that is solid from all sides.
    #[must_use]
    pub fn has_room(&self, at: V) -> bool {
        self.within(at, V::ZERO, |patch| patch.overlap(at, |tag| tag.one_way).is_none())
    }

    /// Returns true if a hull with this height overlaps nothing at `at`.
    #[must_use]
    pub fn has_room_at_height(&self, at: V, height: f32) -> bool {
        let hull = self.hull.at_height(height);
        let patch = self.host.gather(self.frame, &hull, reach(at, V::ZERO));
        patch.overlap(at, |tag| tag.one_way).is_none()
    }

    /// As [`Self::sweep`], for a hull with this height.
    #[must_use]
    pub fn sweep_at_height(&self, from: V, displacement: V, height: f32) -> Option<Hit<V>> {
        let hull = self.hull.at_height(height);
        self.host.gather(self.frame, &hull, reach(from, displacement)).sweep(from, displacement)
    }

    /// The zones that the body is in, each at its position in the world.
    pub fn zones(&self) -> impl Iterator<Item = (ZoneId, Zone<V>)> {
        self.state.zones.ids().iter().filter_map(|&id| Some((id, self.host.zone(id)?)))
    }

    /// The displacement of a point on a carrier in this tick. The point is the one before the tick,
    /// in the body's frame, as is the displacement: for an anchor on something that moves.
    #[must_use]
    pub fn displacement(&self, carrier: CarrierId, point: V) -> V {
        self.frame.local(self.host.ride(carrier).displacement(self.frame.world_point(point)))
    }

    /// The positions of one kind that the host stores for its own moves, in the body's frame: see
    /// [`Surroundings::mark`](crate::Surroundings::mark).
    pub fn marks(&self, kind: u16) -> impl Iterator<Item = V> {
        (0..).map_while(move |number| self.host.mark(kind, number)).map(|place| self.frame.local_point(place))
    }

    /// The properties of a surface.
    #[must_use]
    pub fn surface(&self, tag: &Tag) -> Surface<V> {
        self.host.surface(tag.surface)
    }

    /// Queries the gathered pieces, or more if those do not suffice.
    fn within<T>(&self, from: V, displacement: V, look: impl Fn(&Patch<V>) -> T) -> T {
        let reach = reach(from, displacement);
        if self.patch.covers(&reach) {
            look(self.patch)
        } else {
            look(&self.host.gather(self.frame, self.hull, reach))
        }
    }
}

fn reach<V: Vector>(from: V, displacement: V) -> Bounds<V> {
    Bounds { min: from.min(from + displacement), max: from.max(from + displacement) }
}
