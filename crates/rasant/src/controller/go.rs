//! The travel stage: carries out the motion of a tick, and records what happens on it.

use smallvec::SmallVec;

use crate::contact::{Geometry, Patch};
use crate::level::{CarrierId, PieceId, SurfaceId, Surroundings, Tag};
use crate::moves::{self, Sensed};
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::cosine;
use crate::state::Crushed;
use crate::thresholds::{feet, rounding, walls};
use crate::travel::{
    ContactKind, Contacts, Flight, Freed, Landings, Leg, Mover, Nudges, Rules, Stand, Walk, laid_on,
    turned_onto,
};
use crate::tuning::Tuning;

use super::drive::{Drive, Legs, Task};
use super::take_in::carried;

/// Whether a tick begins by resolving overlaps.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Overlaps {
    Unlikely,
    Likely,
}

/// Something that happened during travel.
#[derive(Clone, Copy, Debug)]
pub(super) enum Incident<V> {
    /// The body is enclosed from several sides.
    Crushed,
    /// The ground ended.
    OffAnEdge,
    /// The feet landed with a speed.
    Landed {
        speed: f32,
        surface: SurfaceId,
        piece: PieceId,
        /// The seconds of the tick that were left.
        left: f32,
    },
    /// They landed on ground that bounced them back up with a speed.
    Bounced { speed: f32, piece: PieceId },
    /// A rise ended at this position, in the body's frame.
    Apex { at: V },
}

/// Everything that happened during travel, in order.
pub(super) type Incidents<V> = SmallVec<[Incident<V>; 8]>;

/// The result of travel, in the body's frame.
pub(super) struct Outcome<V> {
    pub at: V,
    pub velocity: V,
    pub ground_velocity: V,
    pub stand: Option<Stand<V>>,
    /// The time in the tick for which the feet were off the ground.
    pub off_for: f32,
    pub contacts: Contacts<V>,
    pub incidents: Incidents<V>,
    pub depth: f32,
    /// How far steps have put it ahead of its path, in metres.
    pub ahead: f32,
    /// What has crushed it.
    pub crushed: Option<Crushed>,
    /// True if it started to slide down a wall.
    pub slides: bool,
    /// True if it was rising.
    pub rises: bool,
}

impl<V> Outcome<V> {
    /// Returns true if it is held by what has crushed it.
    pub fn is_held(&self) -> bool {
        self.crushed == Some(Crushed::Held)
    }

    /// Returns true if all contacts are ground to land on.
    pub fn only_lands(&self) -> bool {
        matches!(self.incidents[..], [Incident::Landed { .. }])
    }

    /// Seconds since the feet last landed in the tick.
    pub fn landed_for(&self) -> f32 {
        let left = |incident: &Incident<V>| match *incident {
            Incident::Landed { left, .. } => Some(left),
            _ => None,
        };
        self.incidents.iter().rev().find_map(left).unwrap_or(0.0)
    }

    /// Returns true if the ground bounced the body back up.
    pub fn bounced(&self) -> bool {
        self.incidents.iter().any(|incident| matches!(incident, Incident::Bounced { .. }))
    }
}

/// Computes the rest of a tick when feet land, ground ends or a wall holds, from the decision of
/// the tick.
pub(super) struct Ahead<'a, V: Geometry, S> {
    pub task: &'a Task<'a, V>,
    pub surroundings: &'a S,
}

impl<V: Geometry, S: Surroundings<V>> Ahead<'_, V, S> {
    /// The velocity of the ground at a piece.
    fn ground_velocity(&self, tag: &Tag) -> V {
        let frame = self.task.sensed.frame;
        frame.local(self.surroundings.surface(tag.surface).drift) + self.carrier_velocity(tag)
    }

    /// The part of it that comes from its carrier: in the rest of the tick it carries along a body
    /// that lands.
    fn carrier_velocity(&self, tag: &Tag) -> V {
        let sensed = self.task.sensed;
        match tag.carrier {
            Some(carrier) => {
                let displacement = match sensed.carried {
                    Some((displacement, ridden)) if ridden == carrier => displacement,
                    _ => carried(carrier, self.surroundings, sensed.frame, sensed.state.position),
                };
                displacement * (1.0 / sensed.dt)
            }
            None => V::ZERO,
        }
    }

    fn bounce(&self, tag: &Tag) -> f32 {
        self.surroundings.surface(tag.surface).bounce
    }

    /// The velocity and displacement on foot of a body that lands with a horizontal velocity, for
    /// the rest of the tick.
    fn on_foot(&self, level: V, stand: &Stand<V>, time: f32) -> (V, V) {
        let mut surface = self.surroundings.surface(stand.tag.surface);
        surface.drift = self.task.sensed.frame.local(surface.drift);
        self.task.on_ground(level, &surface, stand.normal, time)
    }

    fn holds(&self, normal: V, tag: &Tag) -> bool {
        let grip = self.surroundings.surface(tag.surface).grip;
        moves::holds(self.task.sensed.tuning, self.task.charge.steer, normal, grip)
    }

    fn down_a_wall(&self, velocity: V, normal: V, tag: &Tag, time: f32) -> Legs<V> {
        self.task.down_a_wall(velocity, normal, self.surroundings.surface(tag.surface).grip, time)
    }
}

pub(super) fn rules(tuning: &Tuning) -> Rules {
    Rules {
        cos_steepest: cosine(tuning.slope.max_angle),
        step_height: tuning.slope.step_height,
        ground_snap: tuning.slope.ground_snap,
    }
}

/// Moves the body: with and by carriers, then on foot or leg by leg through the air.
pub(super) fn go<V: Geometry, S: Surroundings<V>>(
    patch: &mut Patch<V>,
    overlaps: Overlaps,
    (others, shove): (&[(V, CarrierId)], V),
    drive: &Drive<V>,
    ahead: &Ahead<'_, V, S>,
) -> Outcome<V> {
    let Task { sensed, charge } = ahead.task;
    let (tuning, state) = (sensed.tuning, sensed.state);
    let gather = |patch: &mut Patch<V>, reach| patch.refill(sensed.hull, reach, ahead.surroundings);
    let moved_to = |carrier, place: V| {
        let world = sensed.frame.world_point(place);
        sensed.frame.local(ahead.surroundings.ride(carrier).displacement_to(world))
    };
    // Steep ground that the body walks into is felt again each time.
    let before =
        state.touching.beside.filter(|_| state.touching.wall).map(|wall| sensed.frame.local(wall.normal));
    let before = before.filter(|normal| normal.height() <= walls::MAX_HEIGHT);
    let mut mover = Mover::new(patch, &gather, rules(tuning), charge.velocity)
        .passing(charge.passes().or(state.carry_over.passing()), charge.passes_one_way())
        .against(before)
        .among(others, sensed.dt, &moved_to)
        .held(state.is_held())
        .nudged(Nudges { corner: tuning.jump.corner, lip: tuning.jump.lip });
    let mut incidents = Incidents::new();
    if let Some((displacement, carrier)) = sensed.carried {
        mover.carried(displacement, carrier);
    }
    let before = (mover.at, mover.velocity);
    if shove != V::ZERO {
        mover.shoved(shove, None);
    }
    mover.pushed();
    let (push, gained) = (mover.at - before.0, mover.velocity - before.1);
    let mut crushed = None;
    if overlaps == Overlaps::Likely
        && let Freed::Crushed { held } = mover.get_free()
    {
        incidents.push(Incident::Crushed);
        crushed = Some(Crushed::Stuck);
        if held {
            return held_fast(mover, incidents, ahead.task);
        }
    }
    let pushed_on = (push != V::ZERO).then(|| drive.after(push));
    let drive = pushed_on.as_ref().unwrap_or(drive);
    let (stand, off_for) = set_out(&mut mover, drive, gained, ahead, &mut incidents);
    mover.feel_wall(charge.steer);
    let ground_velocity =
        stand.as_ref().filter(|stand| stand.firm).map_or(V::ZERO, |stand| ahead.ground_velocity(&stand.tag));
    Outcome {
        at: mover.at,
        velocity: mover.velocity,
        ground_velocity,
        stand,
        off_for,
        contacts: mover.contacts,
        incidents,
        depth: mover.depth,
        ahead: mover.ahead,
        crushed,
        slides: mover.slides,
        rises: charge.velocity.height() > 0.0 || drive.rises(),
    }
}

/// A body that is held by what has crushed it: it stays where it is, on the ground that it stood on
/// if that is still there and does not overlap it.
#[cold]
#[inline(never)]
fn held_fast<V: Geometry>(
    mut mover: Mover<'_, V>,
    mut incidents: Incidents<V>,
    task: &Task<'_, V>,
) -> Outcome<V> {
    let stand = mover.still_on(&task.sensed.ground);
    if stand.is_none() && task.sensed.ground.firm {
        incidents.push(Incident::OffAnEdge);
    }
    Outcome {
        at: mover.at,
        velocity: V::ZERO,
        ground_velocity: V::ZERO,
        stand,
        off_for: task.sensed.dt,
        contacts: SmallVec::new(),
        incidents,
        depth: 0.0,
        ahead: 0.0,
        crushed: Some(Crushed::Held),
        slides: false,
        rises: false,
    }
}

/// Carries out the motion of the tick. Returns what the feet are on then, and how long they were
/// off the ground.
#[inline(always)] // called once, in every tick
fn set_out<V: Geometry, S: Surroundings<V>>(
    mover: &mut Mover<'_, V>,
    drive: &Drive<V>,
    gained: V,
    ahead: &Ahead<'_, V, S>,
    incidents: &mut Incidents<V>,
) -> (Option<Stand<V>>, f32) {
    let sensed = ahead.task.sensed;
    let dt = sensed.dt;
    let stand = match drive {
        Drive::Walk { displacement, velocity } => {
            mover.velocity = *velocity;
            mover.ground_velocity = sensed.ground_velocity + ahead.task.blown();
            if !ahead.task.falls() {
                let stand = mover.walk_straight_on(*displacement, dt, sensed.ground);
                leave_unless_firm(mover, stand.as_ref(), sensed.ground_velocity, incidents);
                return (stand, 0.0);
            }
            match mover.walk_to_edge(*displacement, dt, sensed.ground) {
                Walk::OnGround(stand) => return (Some(stand), 0.0),
                Walk::ToEdge(walked) => {
                    return off_an_edge(
                        mover,
                        *displacement * (1.0 - walked),
                        (1.0 - walked) * dt,
                        ahead,
                        incidents,
                    );
                }
            }
        }
        Drive::Fly { legs } => {
            let lay = sensed.lies_steep.then_some(sensed.ground.normal);
            let walls = Walls::of(ahead);
            if gained == V::ZERO {
                fly(mover, legs, lay, ahead, walls, incidents)
            } else {
                let legs: Legs<V> = legs.iter().map(|leg| leg.faster(gained)).collect();
                let before = incidents.len();
                let stand = fly(mover, &legs, lay, ahead, walls, incidents);
                landed_harder(&mut incidents[before..], gained.height());
                stand
            }
        }
        Drive::Glide { displacement, velocity, settles } => {
            let leg = Leg { displacement: *displacement, from: *velocity, to: *velocity, time: dt };
            mover.glide(&leg, if sensed.from_above { Landings::Plane } else { Landings::None });
            let stand = if *settles { mover.arrive() } else { None };
            if let Some(stand) = &stand {
                let speed = (-velocity.height()).max(0.0);
                incidents.push(Incident::Landed {
                    speed,
                    surface: stand.tag.surface,
                    piece: stand.tag.piece,
                    left: 0.0,
                });
            }
            stand
        }
    };
    (stand, dt)
}

/// Adds to the speed of a landing what a lift that came up from below has already removed, by
/// pushing the body in the same tick.
fn landed_harder<V>(incidents: &mut [Incident<V>], gained: f32) {
    for incident in incidents {
        if let Incident::Landed { speed, .. } = incident {
            *speed += gained.max(0.0);
        }
    }
}

/// The rest of a walk past the edge of the ground, in the time that is left.
#[inline(never)]
fn off_an_edge<V: Geometry, S: Surroundings<V>>(
    mover: &mut Mover<'_, V>,
    displacement: V,
    left: f32,
    ahead: &Ahead<'_, V, S>,
    incidents: &mut Incidents<V>,
) -> (Option<Stand<V>>, f32) {
    incidents.push(Incident::OffAnEdge);
    let legs = ahead.task.off_an_edge(displacement, mover.velocity, left);
    let stand = fly(mover, &legs, None, ahead, Walls::of(ahead), incidents);
    let is_firm = stand.as_ref().is_some_and(|stand| stand.firm);
    let sensed = ahead.task.sensed;
    if is_firm && has_hardly_left(incidents, speed_after(sensed, feet::MIN_FALL)) {
        incidents.truncate(incidents.len() - 2);
        return (stand, 0.0);
    }
    (stand, left)
}

/// The speed, in m/s, of a fall from a height in clearances.
#[inline(never)]
fn speed_after<V: Geometry>(sensed: &Sensed<'_, V>, clearances: f32) -> f32 {
    (2.0 * sensed.tuning.gravity() * (clearances * sensed.hull.clearance())).sqrt()
}

/// Returns true if the last two incidents are leaving the ground at an edge and landing again
/// without a fall between. That happens between slopes where rounding decides what holds the feet.
fn has_hardly_left<V: Geometry>(incidents: &Incidents<V>, least: f32) -> bool {
    let len = incidents.len();
    matches!(incidents[len.saturating_sub(2)..], [Incident::OffAnEdge, Incident::Landed { speed, .. }] if speed < least)
}

/// Walking off an edge starts a fall from zero: with no vertical velocity but that of the ground.
fn leave_unless_firm<V: Geometry>(
    mover: &mut Mover<'_, V>,
    stand: Option<&Stand<V>>,
    ground_velocity: V,
    incidents: &mut Incidents<V>,
) {
    if !stand.is_some_and(|stand| stand.firm) {
        incidents.push(Incident::OffAnEdge);
        mover.velocity = mover.velocity.flat() + ground_velocity;
    }
}

/// Whether walls may hold a body that flies along them.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Walls {
    Hold,
    LetBy,
}

impl Walls {
    fn of<V: Geometry, S>(ahead: &Ahead<'_, V, S>) -> Self {
        if ahead.task.clings() { Self::Hold } else { Self::LetBy }
    }
}

#[inline(never)]
fn fly<V: Geometry, S: Surroundings<V>>(
    mover: &mut Mover<'_, V>,
    legs: &[Leg<V>],
    lay: Option<V>,
    ahead: &Ahead<'_, V, S>,
    walls: Walls,
    incidents: &mut Incidents<V>,
) -> Option<Stand<V>> {
    let sensed = ahead.task.sensed;
    let ground_velocity = |tag: &Tag| ahead.ground_velocity(tag);
    let holds = |normal: V, tag: &Tag| ahead.holds(normal, tag);
    let mut to_come = legs.iter().map(|leg| leg.time).sum::<f32>();
    let slowest =
        if sensed.state.touching.ceiling { rounding::OF_RISE * sensed.tuning.take_off_speed() } else { 0.0 };
    // What drives a body up that something holds down does not make it rise, tick after tick.
    let charge = ahead.task.charge;
    let takes_over = charge.chosen.is_some() && charge.mode != sensed.state.mode;
    let begins = charge.begins || charge.jumps.is_some() || takes_over;
    let is_held_down = charge.velocity.height() <= 0.0 && !begins && charge.in_charge();
    let mut rises = legs.first().is_some_and(|leg| leg.from.height() > slowest) && !is_held_down;
    for (number, leg) in legs.iter().enumerate() {
        let flight =
            mover.fly(leg, to_come, &ground_velocity, if walls == Walls::Hold { Some(&holds) } else { None });
        to_come -= leg.time;
        if let Flight::AtWall { normal, wall, left } = flight {
            let legs = ahead.down_a_wall(mover.velocity, normal, &wall, left + to_come);
            mover.slides = true;
            return fly(mover, &legs, lay, ahead, Walls::LetBy, incidents);
        }
        if let Flight::Landed { on, speed, velocity, rest, left } = flight {
            let (surface, piece) = (on.tag.surface, on.tag.piece);
            let moves = ahead.ground_velocity(&on.tag);
            let thrown = speed * ahead.bounce(&on.tag);
            if thrown > 0.0 && thrown > speed_after(sensed, feet::MIN_BOUNCE) {
                incidents.push(Incident::Bounced { speed: thrown, piece });
                mover.velocity = mover.velocity.flat() + V::UP * (thrown + moves.height());
                return None;
            }
            incidents.push(Incident::Landed { speed, surface, piece, left: left + to_come });
            let later = &legs[number + 1..];
            let (velocity, displacement) = if ahead.task.walks_on() {
                let time = left + to_come;
                let (velocity, displacement) = ahead.on_foot((velocity - moves).flat(), &on, time);
                (velocity, displacement + laid_on(ahead.carrier_velocity(&on.tag).flat() * time, on.normal))
            } else {
                let rest = later.iter().fold(rest, |sum, leg| sum + leg.displacement);
                let velocity = legs[legs.len() - 1].to - moves;
                (turned_onto(velocity.flat(), on.normal), turned_onto(rest.flat(), on.normal))
            };
            mover.velocity = velocity;
            mover.ground_velocity = moves;
            let stand = mover.walk(displacement, on);
            leave_unless_firm(mover, stand.as_ref(), moves, incidents);
            let stays_off = !stand.as_ref().is_some_and(|stand| stand.firm);
            if stays_off && speed < speed_after(sensed, feet::MIN_FALL) {
                // It has been in the air all the time.
                incidents.truncate(incidents.len() - 2);
            }
            return stand;
        }
        // Judged by what the body does in the end: a wall or a slope on the path may end a rise, or
        // start one.
        let is_reported = || incidents.iter().any(|incident| matches!(incident, Incident::Apex { .. }));
        if rises && mover.velocity.height() <= 0.0 && !mover.met(ContactKind::Ceiling) && !is_reported() {
            incidents.push(Incident::Apex { at: mover.at });
        }
        rises = mover.velocity.height() > slowest;
    }
    mover.steep(lay)
}
