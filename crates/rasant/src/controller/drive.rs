//! The drive stage: from the decision to the displacements of the tick.
//!
//! Velocities change at constant rates between moments that are computed exactly: when the target
//! speed is reached, when a reversal passes through standing, the top of a rise, the terminal
//! speed. The displacement is the integral of the velocity over those parts, so it does not depend
//! on the tick rate.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use smallvec::SmallVec;

use crate::contact::{Geometry, Hull};
use crate::input::Actions;
use crate::kinematics::{PARTS, Part, Times, Weights, braked_fall, fall};
use crate::level::Surface;
use crate::moves::{Fall, Law, Sensed, Senses, SetMotion, Toward, UnderWay};
use crate::space::{Bounds, TINY, Vector, cosine};
use crate::state::{Mode, Phase};
use crate::thresholds::{rounding, steering};
use crate::travel::{Leg, turned_onto};
use crate::tuning::Tuning;

use super::charge::{Charge, SLIDING};
use super::reach::{around_feet, room_aside};

/// The maximum number of legs of a tick: the parts of a fall, of which one is split where air
/// control changes.
const LEGS: usize = PARTS + 1;

/// The intended motion of a tick.
#[derive(Clone)]
pub(super) enum Drive<V> {
    /// Along the ground.
    Walk { displacement: V, velocity: V },
    /// Through the air, by legs.
    Fly { legs: Legs<V> },
    /// Over the plane, or along a ladder: it lands on nothing.
    Glide { displacement: V, velocity: V, settles: bool },
}

/// The legs of a tick.
pub(super) type Legs<V> = SmallVec<[Leg<V>; LEGS]>;

impl<V: Vector> Drive<V> {
    /// The bounds of the intended displacements, with a margin for deflections.
    pub(super) fn reach(&self, tuning: &Tuning, hull: &Hull) -> Bounds<V> {
        let (straight, length) = self.straight();
        around_feet(straight.widened(V::splat(room_aside(length, hull.height()))), tuning)
    }

    /// The motion that is left for a body that carriers have pushed by `push` at the start of the
    /// tick. If both have the same direction, the body moves by the longer of the two only.
    #[inline(never)]
    pub(super) fn after(&self, push: V) -> Self {
        let Some(along) = push.direction() else { return self.clone() };
        let done = |displacement: V| along * displacement.dot(along).clamp(0.0, push.length());
        match self {
            Self::Walk { displacement, velocity } => {
                Self::Walk { displacement: *displacement - done(*displacement), velocity: *velocity }
            }
            Self::Glide { displacement, velocity, settles } => Self::Glide {
                displacement: *displacement - done(*displacement),
                velocity: *velocity,
                settles: *settles,
            },
            Self::Fly { legs } => {
                let (displacement, time) = legs.iter().fold((V::ZERO, 0.0), |(displacement, time), leg| {
                    (displacement + leg.displacement, time + leg.time)
                });
                let done = done(displacement);
                let less =
                    |leg: &Leg<V>| Leg { displacement: leg.displacement - done * (leg.time / time), ..*leg };
                Self::Fly { legs: legs.iter().map(less).collect() }
            }
        }
    }

    /// Removes what a body has moved already that a step has put `ahead` of its path, in metres.
    /// Returns how far it is still ahead. Half of each displacement remains, so that the body keeps
    /// moving.
    pub(super) fn shorten(&mut self, ahead: f32) -> f32 {
        match self {
            Self::Walk { displacement, .. } if ahead > 0.0 => {
                let length = displacement.length();
                let less = ahead.min(0.5 * length);
                if less > 0.0 {
                    *displacement *= 1.0 - less / length;
                }
                ahead - less
            }
            _ => 0.0,
        }
    }

    /// Returns true if it leads up through the air.
    pub(super) fn rises(&self) -> bool {
        match self {
            Self::Walk { .. } => false,
            Self::Fly { legs } => legs.iter().any(|leg| leg.from.height() > 0.0 || leg.to.height() > 0.0),
            Self::Glide { displacement, .. } => displacement.height() > 0.0,
        }
    }

    /// The bounds of the displacement, and its length, if nothing stops it.
    fn straight(&self) -> (Bounds<V>, f32) {
        match self {
            Self::Walk { displacement, .. } | Self::Glide { displacement, .. } => (
                Bounds { min: V::ZERO.min(*displacement), max: V::ZERO.max(*displacement) },
                displacement.length(),
            ),
            Self::Fly { legs } => {
                let mut at = V::ZERO;
                let mut all = Bounds { min: at, max: at };
                for leg in legs {
                    at += leg.displacement;
                    all = all.joined(Bounds { min: at, max: at });
                }
                (all, legs.iter().map(|leg| leg.displacement.length()).sum())
            }
        }
    }
}

/// Returns true if wind lifts a standing body off its feet.
pub(super) fn is_lifted<V: Geometry>(senses: &Senses<'_, V>, charge: &Charge<'_, V>) -> bool {
    weights_on(senses.sensed, charge).lift()
}

/// The inputs of a drive.
pub(super) struct Task<'a, V: Geometry> {
    pub sensed: &'a Sensed<'a, V>,
    pub charge: &'a Charge<'a, V>,
}

impl<V: Geometry> Task<'_, V> {
    /// Computes the motion of the tick by its motion law.
    pub(super) fn drive(&self) -> Drive<V> {
        if let Some(displacement) = self.sensed.led {
            return self.by_root_motion(displacement);
        }
        if let Some(under_way) = self.charge.drives() {
            return self.by_maneuver(under_way);
        }
        match &self.charge.law {
            Law::Usual => match self.charge.mode {
                _ if self.sensed.from_above => self.over_the_plane(),
                Mode::Grounded => self.grounded(),
                Mode::Move(_) if self.sensed.ground.firm && self.charge.leaves.is_none() => self.grounded(),
                _ => self.airborne(),
            },
            // A body seen from above neither falls nor lands.
            Law::Fall(_) if self.sensed.from_above => self.over_the_plane(),
            Law::Fall(fall) => self.falling_by(fall),
            Law::Toward(toward) => self.toward(toward),
            Law::Set(set) => self.along(set),
            Law::Hold { displacement, velocity, lands } => Drive::Glide {
                displacement: *displacement,
                velocity: *velocity,
                settles: *lands && !self.sensed.from_above,
            },
        }
    }

    /// Returns true if the body walks as steered in the rest of a tick in which its feet land.
    /// False for a given displacement.
    pub(super) fn walks_on(&self) -> bool {
        let free = matches!(self.charge.law, Law::Usual | Law::Fall(_));
        free && self.sensed.led.is_none() && self.charge.drives().is_none()
    }

    /// Returns true if a wall may hold a falling body.
    pub(super) fn clings(&self) -> bool {
        self.sensed.tuning.wall.holds()
            && self.charge.mode == Mode::Airborne
            && self.charge.law == Law::Usual
            && !self.charge.in_maneuver(self.sensed)
    }

    fn grounded(&self) -> Drive<V> {
        let (surface, normal) = (&self.sensed.surface, self.sensed.ground.normal);
        // Speeds are along the surface, directions as seen from above.
        let (velocity, displacement) =
            self.on_ground(level_of(self.charge.velocity), surface, normal, self.sensed.dt);
        Drive::Walk { displacement, velocity }
    }

    /// The velocity and displacement of a walking body that starts with a horizontal velocity,
    /// after `time` seconds on ground with this surface and normal: for a tick on foot, and for the
    /// rest of one in which the feet land.
    pub(super) fn on_ground(&self, level: V, surface: &Surface<V>, normal: V, time: f32) -> (V, V) {
        let target =
            self.charge.steer * (self.sensed.top * surface.pace * self.sensed.pace * self.grade(normal));
        let (velocity, displacement) = self.grounded_times(surface.traction).approach(level, target, time);
        let drift = if surface.drift == V::ZERO { V::ZERO } else { turned_onto(surface.drift, normal) };
        let blown = self.blown();
        let drift = if blown == V::ZERO { drift } else { drift + turned_onto(blown, normal) };
        (turned_onto(velocity, normal), turned_onto(displacement, normal) + drift * time)
    }

    /// The velocity with which wind makes a standing body drift.
    pub(super) fn blown(&self) -> V {
        self.sensed.push.flat() * self.sensed.tuning.walk.stop_time
    }

    /// Less traction makes all times longer, which means all rates slower.
    fn grounded_times(&self, traction: f32) -> Times {
        let walk = &self.sensed.tuning.walk;
        let speed = walk.speed.abs() * traction;
        Times { speed, reach: walk.reach_time, stop: walk.stop_time, turn: walk.turn_time }
    }

    /// The factor on the speed up and down slopes: 1 across them, the knob's straight up the
    /// steepest, and in proportion to the rise per metre between.
    fn grade(&self, normal: V) -> f32 {
        let slope = &self.sensed.tuning.slope;
        if normal == V::UP || (slope.uphill == 1.0 && slope.downhill == 1.0) {
            return 1.0;
        }
        // The displacement on the slope: its horizontal and its vertical component.
        let ahead = self.charge.steer.flat();
        let rise = -normal.dot(ahead) / normal.height();
        let length = (ahead.length_squared() + rise * rise).sqrt();
        if length <= 1e-12 {
            return 1.0;
        }
        let cosine = cosine(slope.max_angle);
        let sine = (1.0 - cosine * cosine).sqrt();
        let fraction = (rise / (length * sine.max(1e-3))).clamp(-1.0, 1.0);
        let factor = if fraction > 0.0 { slope.uphill } else { slope.downhill };
        1.0 + (factor - 1.0) * fraction.abs()
    }

    #[inline(never)]
    fn over_the_plane(&self) -> Drive<V> {
        let surface = &self.sensed.surface;
        let target = self.charge.steer * (self.sensed.top * surface.pace * self.sensed.pace);
        let times = self.grounded_times(surface.traction);
        let (velocity, displacement) = times.approach(self.charge.velocity, target, self.sensed.dt);
        let drift = surface.drift + self.sensed.push * self.sensed.tuning.walk.stop_time;
        Drive::Glide { displacement: displacement + drift * self.sensed.dt, velocity, settles: false }
    }

    #[inline(never)]
    fn airborne(&self) -> Drive<V> {
        let slides = self.charge.mode == SLIDING;
        let wall = self.sensed.wall.filter(|_| slides).map(|wall| self.sensed.frame.local(wall.normal));
        Drive::Fly { legs: self.falling(self.no_faster_down(), &self.weights(), wall, self.sensed.dt) }
    }

    /// A fall with its own gravity and limits.
    #[inline(never)]
    fn falling_by(&self, fall: &Fall) -> Drive<V> {
        let usual = self.weights();
        let falling = usual.falling * fall.gravity;
        let weights = Weights {
            falling,
            top_falling: usual.top_falling.map(|top| top * fall.gravity),
            terminal: fall.terminal_speed.unwrap_or(usual.terminal),
            ..usual
        };
        let velocity = self.charge.velocity;
        let (level, steer) = (velocity.flat(), self.charge.steer * fall.pace);
        let control = self.air_control();
        let slower = |times: Times| Times { speed: times.speed / fall.times.max(1e-3), ..times };
        let control = Control { now: slower(control.now), later: slower(control.later), ..control };
        let target = self.airborne_target(level, steer);
        let parts = braked_fall(velocity.height(), &weights, fall.brake, self.sensed.dt);
        Drive::Fly { legs: self.legs_of_fall(level, &parts, (control, target, V::ZERO)) }
    }

    /// An approach to a velocity in any direction.
    #[inline(never)]
    fn toward(&self, toward: &Toward<V>) -> Drive<V> {
        let Toward { velocity, time, speed, lands } = *toward;
        let from = self.charge.velocity
            + if self.sensed.ground.firm { self.sensed.ground_velocity } else { V::ZERO };
        let times = Times { speed, reach: time, stop: time, turn: time };
        let (to, displacement) = times.approach(from, velocity, self.sensed.dt);
        if lands && !self.sensed.from_above {
            let mut legs = Legs::new();
            legs.push(Leg {
                displacement: displacement - self.carried_displacement(),
                from,
                to,
                time: self.sensed.dt,
            });
            Drive::Fly { legs }
        } else {
            Drive::Glide { displacement, velocity: to, settles: false }
        }
    }

    /// A given displacement.
    #[inline(never)]
    fn along(&self, set: &SetMotion<V>) -> Drive<V> {
        let SetMotion { displacement, from, to, gravity } = *set;
        self.led(displacement, displacement, || self.flown(displacement, from, to, gravity), to)
    }

    /// The displacement by the carrier that the body was on, which is not part of the motion
    /// computed here.
    fn carried_displacement(&self) -> V {
        self.sensed.carried.map_or(V::ZERO, |(displacement, _)| displacement)
    }

    /// The legs of the remaining `time` seconds of a tick for a body that comes down along a wall
    /// with this normal and grip.
    #[inline(never)]
    pub(super) fn down_a_wall(&self, velocity: V, normal: V, grip: f32, time: f32) -> Legs<V> {
        let weights = self.weights();
        let terminal = weights.terminal.min(self.sensed.tuning.wall.slide_speed / grip);
        self.falling(velocity, &Weights { terminal, ..weights }, Some(normal), time)
    }

    /// A rise and fall. If there is a wall, it goes down along the wall, however that leans, and
    /// presses into it no more than that needs: pressed against a wall that leans over, a body
    /// would be driven down it faster than it may.
    fn falling(&self, velocity: V, weights: &Weights, wall: Option<V>, time: f32) -> Legs<V> {
        let out = wall.and_then(|wall| wall.flat().direction());
        let off_the_wall = |level: V| match out {
            Some(out) => level - out * level.dot(out).min(0.0),
            None => level,
        };
        // The horizontal offset of the wall from its foot, per metre of height.
        let lean = wall.zip(out).map_or(V::ZERO, |(wall, out)| out * (-wall.height() / wall.dot(out)));
        let level = off_the_wall(velocity.flat());
        let target = off_the_wall(self.airborne_target(level, self.charge.steer));
        let parts = fall(velocity.height(), weights, time);
        self.legs_of_fall(level, &parts, (self.air_control(), target, lean))
    }

    /// The legs of a rise and fall, on which the horizontal velocity follows a target. `lean` is
    /// the horizontal offset per metre of height.
    fn legs_of_fall(
        &self,
        mut level: V,
        parts: &[Part],
        (control, target, lean): (Control, V, V),
    ) -> Legs<V> {
        let mut legs = Legs::new();
        // A body that has just left a carrier has its velocity, and its displacement already.
        let up = V::UP + lean;
        let mut over = 0.0;
        for part in parts {
            let left = control.until - over;
            over += part.time;
            if left >= part.time {
                level = self.leg_of_fall(&mut legs, level, part, (&control.now, target, up));
            } else {
                let [first, second] = part.cut_at(left);
                if first.time > 0.0 {
                    level = self.leg_of_fall(&mut legs, level, &first, (&control.now, target, up));
                }
                level = self.leg_of_fall(&mut legs, level, &second, (&control.later, target, up));
            }
        }
        legs
    }

    /// Adds the leg of one part of a fall. Returns the horizontal velocity after it.
    fn leg_of_fall(
        &self,
        legs: &mut Legs<V>,
        level: V,
        part: &Part,
        (times, target, up): (&Times, V, V),
    ) -> V {
        let (next, displacement) = times.approach(level, target, part.time);
        legs.push(Leg {
            displacement: displacement + up * part.distance
                - self.carried_displacement() * (part.time / self.sensed.dt),
            from: level + up * part.from,
            to: next + up * part.to,
            time: part.time,
        });
        next
    }

    /// The rest of a tick for a body that has walked off an edge with `displacement` and `time`
    /// left: it continues horizontally, and falls. Carriers have carried it for the whole tick
    /// already, vertically too.
    pub(super) fn off_an_edge(&self, displacement: V, velocity: V, time: f32) -> Legs<V> {
        let ground = self.sensed.ground_velocity;
        let level = displacement.flat() * (1.0 / time);
        let level_velocity = velocity.flat() + ground.flat();
        let leg = |part: &Part| Leg {
            displacement: level * part.time + V::UP * (part.distance - ground.height() * part.time),
            from: level_velocity + V::UP * part.from,
            to: level_velocity + V::UP * part.to,
            time: part.time,
        };
        fall(ground.height(), &self.weights(), time).iter().map(leg).collect()
    }

    /// The velocity. On ground too steep to stand on, it is limited to the speed of sliding down.
    fn no_faster_down(&self) -> V {
        let velocity = self.charge.velocity;
        if !self.sensed.lies_steep {
            return velocity;
        }
        let Some(down) = (-V::UP).slid_along(self.sensed.ground.normal).direction() else { return velocity };
        let beyond = velocity.dot(down) - self.sensed.tuning.slope.slide_speed;
        if beyond > 0.0 { velocity - down * beyond } else { velocity }
    }

    /// How quickly steering changes the horizontal velocity in this tick. Back to a wall that the
    /// body has just jumped off, it is weaker until that time is over.
    fn air_control(&self) -> Control {
        let Tuning { walk, air, wall, .. } = self.sensed.tuning;
        let speed = walk.speed.abs();
        let times = |speed| Times { speed, reach: air.reach_time, stop: air.stop_time, turn: air.turn_time };
        let steers_back = self
            .charge
            .kick(self.sensed)
            .filter(|kick| kick.back_for > 0.0 && self.charge.steer.dot(kick.normal) < 0.0);
        match steers_back {
            Some(kick) => {
                let weaker = times(speed * wall.back.max(1e-6));
                Control { now: weaker, later: times(speed), until: kick.back_for }
            }
            None => Control { now: times(speed), later: times(speed), until: f32::INFINITY },
        }
    }

    /// The horizontal velocity that steering and wind lead to.
    fn airborne_target(&self, level: V, mut steer: V) -> V {
        let tuning = self.sensed.tuning;
        if self.sensed.lies_steep {
            steer = without_climbing(steer, self.sensed.ground.normal) * tuning.slope.slide_steer;
        }
        let mut target = steer * (self.sensed.top * self.sensed.pace);
        if tuning.air.keep >= 0.5
            && let Some(along) = target.direction()
        {
            target = along * target.length().max(level.dot(along));
        }
        if self.sensed.lies_steep
            && let Some(down) = self.sensed.ground.normal.flat().direction()
        {
            // A body does not brake on ground too steep to stand on.
            let (slides, aimed) = (level.dot(down), target.dot(down));
            target += down * (slides.max(aimed) - aimed);
        }
        target + self.sensed.push.flat() * tuning.air.stop_time
    }

    fn weights(&self) -> Weights {
        weights_on(self.sensed, self.charge)
    }

    #[inline(never)]
    fn by_root_motion(&self, displacement: V) -> Drive<V> {
        let velocity = displacement * (1.0 / self.sensed.dt);
        self.led(
            displacement,
            displacement,
            || self.flown(displacement, velocity, velocity, self.falls()),
            velocity,
        )
    }

    /// Returns true if gravity applies in this tick: not in a maneuver that suspends it, nor while
    /// the host leads the body up.
    pub(super) fn falls(&self) -> bool {
        let led_up = self.sensed.led.is_some_and(|displacement| displacement.height() > 0.0);
        let by_law = match &self.charge.law {
            Law::Usual | Law::Fall(_) => true,
            Law::Set(set) => set.gravity,
            Law::Toward(_) | Law::Hold { .. } => false,
        };
        !led_up && by_law && self.charge.drives().is_none_or(|under_way| under_way.maneuver.plan.gravity)
    }

    /// The motion of a maneuver in its startup or active phase: exact at any tick rate. The rest of
    /// the tick after its end continues at its last speed.
    #[inline(never)]
    fn by_maneuver(&self, under_way: &UnderWay<V>) -> Drive<V> {
        let UnderWay { maneuver, bend, .. } = under_way;
        let direction = self.sensed.frame.local(maneuver.direction);
        let (plan, from) = (&maneuver.plan, maneuver.age);
        let to = from + self.sensed.dt;
        let over = to - (plan.startup + plan.active);
        let along = plan.distance_at(to) - plan.distance_at(from) + plan.end_speed * over.max(0.0);
        let speed = match plan.phase_at(to) {
            Phase::Startup => 0.0,
            Phase::Active => plan.speed_at(to),
            Phase::Recovery | Phase::Cooldown => plan.end_speed,
        };
        let velocity = direction * speed;
        let bend = *bend;
        let displacement = if bend.abs() < rounding::STRAIGHT {
            direction * along
        } else {
            // Around an arc: its chord points in the direction of the middle of the turn.
            let half = 0.5 * bend;
            let turning = plan.distance_at(from + (bend / plan.turn_rate).abs()) - plan.distance_at(from);
            let chord = direction.turned(-half) * (turning * libm::sinf(half) / half);
            chord + direction * (along - turning)
        };
        let start =
            if plan.phase_at(from) == Phase::Startup { V::ZERO } else { direction * plan.speed_at(from) };
        // Until its motion starts the body stands still, and a body that has come down continues
        // along the ground.
        let leads_off = maneuver.leads_off(direction, self.sensed.dt);
        let toward = match plan.phase_at(to) {
            Phase::Startup => V::ZERO,
            _ if leads_off => direction,
            _ => direction - V::UP * direction.height().max(0.0),
        };
        self.led(toward, displacement, || self.driven(displacement, start, velocity, under_way), velocity)
    }

    /// The motion of a maneuver through the air. With gravity, one that leads up starts with its
    /// upward speed as a throw does, and keeps no more of it than its end says.
    fn driven(&self, displacement: V, from: V, to: V, under_way: &UnderWay<V>) -> Drive<V> {
        let (plan, age) = (&under_way.maneuver.plan, under_way.maneuver.age);
        let up = self.sensed.frame.local(under_way.maneuver.direction).height();
        let mut rise = self.charge.velocity.height();
        if under_way.maneuver.sets_out(self.sensed.dt) && up > 0.0 {
            rise = up * plan.speed_at(plan.startup);
        } else if plan.phase_at(age + self.sensed.dt) > Phase::Active && up > 0.0 {
            rise = rise.min(up * plan.end_speed);
        }
        self.flown_at(displacement, from, to, plan.gravity, rise)
    }

    /// A given displacement, toward a direction: over the plane, along the ground if there is
    /// ground and the displacement does not rise from it, or as `flown`.
    fn led(&self, toward: V, displacement: V, flown: impl Fn() -> Drive<V>, velocity: V) -> Drive<V> {
        let ground = &self.sensed.ground;
        if self.sensed.from_above {
            Drive::Glide { displacement, velocity, settles: false }
        } else if ground.firm && toward.height() <= 0.0 {
            Drive::Walk {
                displacement: turned_onto(displacement.flat(), ground.normal),
                velocity: turned_onto(velocity.flat(), ground.normal),
            }
        } else {
            flown()
        }
    }

    /// A displacement through the air, with gravity or without.
    fn flown(&self, displacement: V, from: V, to: V, gravity: bool) -> Drive<V> {
        self.flown_at(displacement, from, to, gravity, self.charge.velocity.height())
    }

    fn flown_at(&self, displacement: V, from: V, to: V, gravity: bool, rise: f32) -> Drive<V> {
        let mut legs = Legs::new();
        if gravity {
            let level = displacement.flat() * (1.0 / self.sensed.dt);
            for part in fall(rise, &self.weights(), self.sensed.dt) {
                legs.push(Leg {
                    displacement: level * part.time + V::UP * part.distance,
                    from: from.flat() + V::UP * part.from,
                    to: to.flat() + V::UP * part.to,
                    time: part.time,
                });
            }
        } else {
            legs.push(Leg { displacement, from, to, time: self.sensed.dt });
        }
        Drive::Fly { legs }
    }
}

/// A velocity along the ground, turned horizontal without losing speed.
fn level_of<V: Vector>(velocity: V) -> V {
    if velocity.height() == 0.0 {
        return velocity;
    }
    let flat = velocity.flat();
    let length_squared = flat.length_squared();
    if length_squared > TINY * TINY {
        flat * (velocity.length_squared() / length_squared).sqrt()
    } else {
        V::ZERO
    }
}

/// Steering without its component up a slope that is too steep to walk on.
fn without_climbing<V: Vector>(steer: V, ground: V) -> V {
    match ground.flat().direction() {
        Some(away) if steer.dot(away) < 0.0 => steer.slid_along(away),
        _ => steer,
    }
}

/// How quickly the horizontal velocity follows steering in the air.
struct Control {
    now: Times,
    /// The times from the moment `until` on.
    later: Times,
    /// Seconds from the start of the tick; infinite if nothing changes.
    until: f32,
}

/// The gravity of a body in its current situation.
fn weights_on<V: Geometry>(sensed: &Sensed<'_, V>, charge: &Charge<'_, V>) -> Weights {
    let Sensed { tuning, intent, .. } = *sensed;
    let gravity = tuning.gravity() * sensed.weight;
    let steered_down = V::DIMENSION == 2 && intent.safe_steer().y < -steering::CHOSEN;
    let fast = steered_down || intent.held.contains(Actions::CROUCH);
    let (mut falling, mut terminal) = (gravity * tuning.fall.gravity, tuning.fall.terminal_speed);
    if fast {
        falling *= tuning.fall.fast_gravity;
        terminal = terminal.max(tuning.fall.fast_speed);
    }
    if charge.mode == SLIDING {
        terminal = terminal.min(tuning.wall.slide_speed / sensed.wall_grip);
    } else if sensed.lies_steep {
        let sine = sensed.ground.normal.flat().length();
        terminal = terminal.min(tuning.slope.slide_speed * sine);
    }
    let lift = sensed.push.height();
    let top = gravity * tuning.fall.apex_gravity;
    let slow = tuning.fall.apex_speed;
    let round_top = slow > 0.0;
    let cut = charge.cut;
    Weights {
        rising: if cut { gravity * tuning.jump.cut_gravity } else { gravity } - lift,
        top_rising: (round_top && !cut).then_some(top - lift),
        top_falling: (round_top && !fast).then_some(top - lift),
        falling: falling - lift,
        slow,
        terminal,
    }
}
