//! From what is wished to the way of the tick.
//!
//! Velocities change at uniform rates between moments that are worked out
//! exactly: when the wished speed is reached, when a turn back passes through
//! standing, the top of a rise, the terminal speed. The way is the integral of
//! the velocity over those parts, so it does not depend on the tick rate.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use smallvec::SmallVec;

use crate::contact::{Geometry, Hull};
use crate::input::Actions;
use crate::level::Surface;
use crate::moves::{Fall, Law, Sensed, Senses, SetWay, Toward, UnderWay};
use crate::space::{Bounds, TINY, Vector, cosine};
use crate::state::{Mode, Phase};
use crate::travel::{Leg, turned_onto};
use crate::tuning::Tuning;

use super::decide::Charge;

/// Most parts of a tick's rise or fall: past the cut, round the top, down, at
/// the terminal speed.
const PARTS: usize = 6;
/// Most legs of a tick: the parts of a fall, of which one is cut in two where air control changes.
const LEGS: usize = PARTS + 1;
/// Turns of less than this, in radians, are none.
const STRAIGHT: f32 = 1e-6;
/// How far down steering must point for a fast fall, of 1.
const DOWN: f32 = -0.5;

/// What a tick sets out to do.
#[derive(Clone)]
pub(super) enum Drive<V> {
    /// Along the ground.
    Walk { way: V, velocity: V },
    /// Through the air, leg by leg.
    Fly { legs: Legs<V> },
    /// Over the plane, or along a ladder: nothing is landed on.
    Glide { way: V, velocity: V, settles: bool },
}

/// The legs of a tick.
pub(super) type Legs<V> = SmallVec<[Leg<V>; LEGS]>;

impl<V: Vector> Drive<V> {
    /// Bounds of the displacements on the way that is set out, with some room
    /// to be turned aside.
    pub(super) fn reach(&self, tuning: &Tuning, hull: &Hull) -> Bounds<V> {
        let (straight, length) = self.straight();
        around_feet(straight.widened(V::splat(room_aside(length, hull.height()))), tuning)
    }

    /// What is left to do for a body that carriers have pushed by `push` at the
    /// start of the tick: who goes the same way is not taken further by it than
    /// the longer of the two.
    #[inline(never)]
    pub(super) fn after(&self, push: V) -> Self {
        let Some(along) = push.direction() else { return self.clone() };
        let done = |way: V| along * way.dot(along).clamp(0.0, push.length());
        match self {
            Self::Walk { way, velocity } => Self::Walk { way: *way - done(*way), velocity: *velocity },
            Self::Glide { way, velocity, settles } => {
                Self::Glide { way: *way - done(*way), velocity: *velocity, settles: *settles }
            }
            Self::Fly { legs } => {
                let (way, time) =
                    legs.iter().fold((V::ZERO, 0.0), |(way, time), leg| (way + leg.way, time + leg.time));
                let done = done(way);
                let less = |leg: &Leg<V>| Leg { way: leg.way - done * (leg.time / time), ..*leg };
                Self::Fly { legs: legs.iter().map(less).collect() }
            }
        }
    }

    /// Takes off what a body has done already that a step has put `ahead` of its way, in
    /// metres; gives how far it still is then. Half of each way is left, so that it goes
    /// on.
    #[inline]
    pub(super) fn shorten(&mut self, ahead: f32) -> f32 {
        match self {
            Self::Walk { way, .. } if ahead > 0.0 => {
                let length = way.length();
                let less = ahead.min(0.5 * length);
                if less > 0.0 {
                    *way *= 1.0 - less / length;
                }
                ahead - less
            }
            _ => 0.0,
        }
    }

    /// Whether it leads up through the air.
    pub(super) fn rises(&self) -> bool {
        match self {
            Self::Walk { .. } => false,
            Self::Fly { legs } => legs.iter().any(|leg| leg.from.height() > 0.0 || leg.to.height() > 0.0),
            Self::Glide { way, .. } => way.height() > 0.0,
        }
    }

    /// Bounds of the way, and its length, if nothing is met.
    fn straight(&self) -> (Bounds<V>, f32) {
        match self {
            Self::Walk { way, .. } | Self::Glide { way, .. } => {
                (Bounds { min: V::ZERO.min(*way), max: V::ZERO.max(*way) }, way.length())
            }
            Self::Fly { legs } => {
                let mut at = V::ZERO;
                let mut all = Bounds { min: at, max: at };
                for leg in legs {
                    at += leg.way;
                    all = all.joined(Bounds { min: at, max: at });
                }
                (all, legs.iter().map(|leg| leg.way.length()).sum())
            }
        }
    }
}

/// Bounds of displacement with room for a step up and a step down.
pub(super) fn around_feet<V: Vector>(reach: Bounds<V>, tuning: &Tuning) -> Bounds<V> {
    let slope = &tuning.slope;
    Bounds {
        min: reach.min - V::UP * slope.ground_snap.max(slope.step_height),
        max: reach.max + V::UP * slope.step_height,
    }
}

/// How far to each side of a displacement of length `way`, in metres, pieces are gathered for a
/// hull of some `height`. If the body is turned further aside, more is gathered on the way.
pub(super) fn room_aside(way: f32, height: f32) -> f32 {
    0.5 * way.min(height)
}

/// Whether wind takes a body that stands off its feet.
pub(super) fn is_lifted<V: Geometry>(senses: &Senses<'_, V>, charge: &Charge<'_, V>) -> bool {
    Weights::on(senses.sensed, charge).lift()
}

/// All that a drive is worked out from.
pub(super) struct Task<'a, V: Geometry> {
    pub sensed: &'a Sensed<'a, V>,
    pub charge: &'a Charge<'a, V>,
}

impl<V: Geometry> Task<'_, V> {
    /// Sets out the way of the tick by the law of who has charge.
    pub(super) fn drive(&self) -> Drive<V> {
        if let Some(way) = self.sensed.led {
            return self.by_root_motion(way);
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
            // Nothing falls that is seen from above, nor lands.
            Law::Fall(_) if self.sensed.from_above => self.over_the_plane(),
            Law::Fall(fall) => self.falling_by(fall),
            Law::Toward(toward) => self.toward(toward),
            Law::Set(set) => self.along(set),
            Law::Hold { way, velocity, lands } => {
                Drive::Glide { way: *way, velocity: *velocity, settles: *lands && !self.sensed.from_above }
            }
        }
    }

    /// Whether the rest of a tick in which feet come down is on foot as steered: not for
    /// who goes a way that is set.
    pub(super) fn walks_on(&self) -> bool {
        let free = matches!(self.charge.law, Law::Usual | Law::Fall(_));
        free && self.sensed.led.is_none() && self.charge.drives().is_none()
    }

    /// Whether a wall may hold who falls.
    pub(super) fn clings(&self) -> bool {
        self.sensed.tuning.wall.slide_speed > 0.0
            && self.charge.mode == Mode::Airborne
            && self.charge.law == Law::Usual
            && !self.charge.in_maneuver(self.sensed)
    }

    fn grounded(&self) -> Drive<V> {
        let (surface, normal) = (&self.sensed.surface, self.sensed.ground.normal);
        // Speeds are along the surface, directions as seen from above.
        let (velocity, way) = self.on_ground(level_of(self.charge.velocity), surface, normal, self.sensed.dt);
        Drive::Walk { way, velocity }
    }

    /// The velocity and way of a body on foot that begins with a level velocity,
    /// after `time` seconds on ground of a surface and normal: what a tick on
    /// foot sets out to do, and the rest of one in which the feet come down.
    pub(super) fn on_ground(&self, level: V, surface: &Surface<V>, normal: V, time: f32) -> (V, V) {
        let target =
            self.charge.wish * (self.sensed.top * surface.pace * self.sensed.pace * self.grade(normal));
        let (velocity, way) = self.grounded_times(surface.traction).approach(level, target, time);
        let drift = if surface.drift == V::ZERO { V::ZERO } else { turned_onto(surface.drift, normal) };
        let blown = self.blown();
        let drift = if blown == V::ZERO { drift } else { drift + turned_onto(blown, normal) };
        (turned_onto(velocity, normal), turned_onto(way, normal) + drift * time)
    }

    /// The velocity with which wind makes a standing body drift.
    pub(super) fn blown(&self) -> V {
        self.sensed.push.flat() * self.sensed.tuning.walk.stop_time
    }

    /// Less grip makes all times longer, which is to say all rates slower.
    fn grounded_times(&self, traction: f32) -> Times {
        let walk = &self.sensed.tuning.walk;
        let speed = walk.speed.abs() * traction;
        Times { speed, reach: walk.reach_time, stop: walk.stop_time, turn: walk.turn_time }
    }

    /// The factor on the speed up and down slopes: 1 across them, the knob's
    /// straight up the steepest, and evenly by the rise a metre between.
    fn grade(&self, normal: V) -> f32 {
        let slope = &self.sensed.tuning.slope;
        if normal == V::UP || (slope.uphill == 1.0 && slope.downhill == 1.0) {
            return 1.0;
        }
        // The way laid on the slope: so far ahead, and so far up.
        let ahead = self.charge.wish.flat();
        let rise = -normal.dot(ahead) / normal.height();
        let length = (ahead.length_squared() + rise * rise).sqrt();
        if length <= 1e-12 {
            return 1.0;
        }
        let cosine = cosine(slope.max_angle);
        let sine = (1.0 - cosine * cosine).sqrt();
        let share = (rise / (length * sine.max(1e-3))).clamp(-1.0, 1.0);
        let factor = if share > 0.0 { slope.uphill } else { slope.downhill };
        1.0 + (factor - 1.0) * share.abs()
    }

    #[inline(never)]
    fn over_the_plane(&self) -> Drive<V> {
        let surface = &self.sensed.surface;
        let target = self.charge.wish * (self.sensed.top * surface.pace * self.sensed.pace);
        let times = self.grounded_times(surface.traction);
        let (velocity, way) = times.approach(self.charge.velocity, target, self.sensed.dt);
        let drift = surface.drift + self.sensed.push * self.sensed.tuning.walk.stop_time;
        Drive::Glide { way: way + drift * self.sensed.dt, velocity, settles: false }
    }

    #[inline(never)]
    fn airborne(&self) -> Drive<V> {
        let slides = self.charge.mode == Mode::WallSlide;
        let wall = self.sensed.wall.filter(|_| slides).map(|wall| self.sensed.frame.local(wall.normal));
        Drive::Fly { legs: self.falling(self.no_faster_down(), &self.weights(), wall, self.sensed.dt) }
    }

    /// A fall with weights of its own.
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
        let (level, wish) = (velocity.flat(), self.charge.wish * fall.pace);
        let control = self.air_control();
        let slower = |times: Times| Times { speed: times.speed / fall.times.max(1e-3), ..times };
        let control = Control { now: slower(control.now), later: slower(control.later), ..control };
        let target = self.airborne_target(level, wish);
        let parts = braked_fall(velocity.height(), &weights, fall.brake, self.sensed.dt);
        Drive::Fly { legs: self.legs_of_fall(level, &parts, (control, target, V::ZERO)) }
    }

    /// Toward a velocity in every direction.
    #[inline(never)]
    fn toward(&self, toward: &Toward<V>) -> Drive<V> {
        let Toward { velocity, time, speed, lands } = *toward;
        let from = self.charge.velocity
            + if self.sensed.ground.firm { self.sensed.ground_velocity } else { V::ZERO };
        let times = Times { speed, reach: time, stop: time, turn: time };
        let (to, way) = times.approach(from, velocity, self.sensed.dt);
        if lands && !self.sensed.from_above {
            let mut legs = Legs::new();
            legs.push(Leg { way: way - self.taken(), from, to, time: self.sensed.dt });
            Drive::Fly { legs }
        } else {
            Drive::Glide { way, velocity: to, settles: false }
        }
    }

    /// A way that is set.
    #[inline(never)]
    fn along(&self, set: &SetWay<V>) -> Drive<V> {
        let SetWay { way, from, to, gravity } = *set;
        self.led(way, way, || self.flown(way, from, to, gravity), to)
    }

    /// How far the carrier that the body was on takes it along in this tick, beside the
    /// way that is set out here.
    fn taken(&self) -> V {
        self.sensed.carried.map_or(V::ZERO, |(way, _)| way)
    }

    /// The rest of a tick, `time` seconds, of who comes down along a wall with this
    /// normal and grip.
    #[inline(never)]
    pub(super) fn down_a_wall(&self, velocity: V, normal: V, grip: f32, time: f32) -> Legs<V> {
        let weights = self.weights();
        let terminal = weights.terminal.min(self.sensed.tuning.wall.slide_speed / grip);
        self.falling(velocity, &Weights { terminal, ..weights }, Some(normal), time)
    }

    /// A rise and fall; down along a wall if there is one, however that leans, and
    /// pressing into it no more than that takes: pressed against a wall that leans over,
    /// a body would be driven down it faster than it may.
    fn falling(&self, velocity: V, weights: &Weights, wall: Option<V>, time: f32) -> Legs<V> {
        let out = wall.and_then(|wall| wall.flat().direction());
        let off_the_wall = |level: V| match out {
            Some(out) => level - out * level.dot(out).min(0.0),
            None => level,
        };
        // How far it is off its foot, a metre up.
        let lean = wall.zip(out).map_or(V::ZERO, |(wall, out)| out * (-wall.height() / wall.dot(out)));
        let level = off_the_wall(velocity.flat());
        let target = off_the_wall(self.airborne_target(level, self.charge.wish));
        let parts = fall(velocity.height(), weights, time);
        self.legs_of_fall(level, &parts, (self.air_control(), target, lean))
    }

    /// The legs of a rise and fall, on which the level velocity follows a target; `lean`
    /// is how far each metre up goes aside.
    fn legs_of_fall(
        &self,
        mut level: V,
        parts: &[Part],
        (control, target, lean): (Control, V, V),
    ) -> Legs<V> {
        let mut legs = Legs::new();
        // Who has just left a carrier has its velocity, and its way already.
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

    /// Adds the leg of one part of a fall. Returns the level velocity after it.
    #[inline]
    fn leg_of_fall(
        &self,
        legs: &mut Legs<V>,
        level: V,
        part: &Part,
        (times, target, up): (&Times, V, V),
    ) -> V {
        let (next, way) = times.approach(level, target, part.time);
        legs.push(Leg {
            way: way + up * part.way - self.taken() * (part.time / self.sensed.dt),
            from: level + up * part.from,
            to: next + up * part.to,
            time: part.time,
        });
        next
    }

    /// The last part of a tick, of a body that has walked off an edge with `way`
    /// and `time` left: on as it went, and falling. Carriers have taken it along
    /// for the whole tick already, up and down too.
    pub(super) fn off_an_edge(&self, way: V, velocity: V, time: f32) -> Legs<V> {
        let ground = self.sensed.ground_velocity;
        let level = way.flat() * (1.0 / time);
        let going = velocity.flat() + ground.flat();
        let leg = |part: &Part| Leg {
            way: level * part.time + V::UP * (part.way - ground.height() * part.time),
            from: going + V::UP * part.from,
            to: going + V::UP * part.to,
            time: part.time,
        };
        fall(ground.height(), &self.weights(), time).iter().map(leg).collect()
    }

    /// The velocity, on ground too steep to stand on no faster down it than its
    /// limit.
    fn no_faster_down(&self) -> V {
        let velocity = self.charge.velocity;
        if !self.sensed.lies_steep {
            return velocity;
        }
        let Some(down) = (-V::UP).slid_along(self.sensed.ground.normal).direction() else { return velocity };
        let beyond = velocity.dot(down) - self.sensed.tuning.slope.slide_speed;
        if beyond > 0.0 { velocity - down * beyond } else { velocity }
    }

    /// How quickly steering changes the level velocity in this tick. Back to a wall that the body
    /// has just jumped off it is weaker, until the time for that is over.
    fn air_control(&self) -> Control {
        let Tuning { walk, air, wall, .. } = self.sensed.tuning;
        let speed = walk.speed.abs();
        let times = |speed| Times { speed, reach: air.reach_time, stop: air.stop_time, turn: air.turn_time };
        let steers_back = self
            .charge
            .kick(self.sensed)
            .filter(|kick| kick.back_for > 0.0 && self.charge.wish.dot(kick.normal) < 0.0);
        match steers_back {
            Some(kick) => {
                let weaker = times(speed * wall.back.max(1e-6));
                Control { now: weaker, later: times(speed), until: kick.back_for }
            }
            None => Control { now: times(speed), later: times(speed), until: f32::INFINITY },
        }
    }

    /// The level velocity that steering and wind lead to.
    fn airborne_target(&self, level: V, mut wish: V) -> V {
        let tuning = self.sensed.tuning;
        if self.sensed.lies_steep {
            wish = without_climbing(wish, self.sensed.ground.normal) * tuning.slope.slide_steer;
        }
        let mut target = wish * (self.sensed.top * self.sensed.pace);
        if tuning.air.keep >= 0.5
            && let Some(along) = target.direction()
        {
            target = along * target.length().max(level.dot(along));
        }
        if self.sensed.lies_steep
            && let Some(down) = self.sensed.ground.normal.flat().direction()
        {
            // Nobody brakes on ground too steep to stand on.
            let (slides, wanted) = (level.dot(down), target.dot(down));
            target += down * (slides.max(wanted) - wanted);
        }
        target + self.sensed.push.flat() * tuning.air.stop_time
    }

    fn weights(&self) -> Weights {
        Weights::on(self.sensed, self.charge)
    }

    #[inline(never)]
    fn by_root_motion(&self, way: V) -> Drive<V> {
        let velocity = way * (1.0 / self.sensed.dt);
        self.led(way, way, || self.flown(way, velocity, velocity, self.falls()), velocity)
    }

    /// Whether gravity works in this tick: not in a maneuver that keeps it off, nor while
    /// the host leads the body up.
    pub(super) fn falls(&self) -> bool {
        let led_up = self.sensed.led.is_some_and(|way| way.height() > 0.0);
        let by_law = match &self.charge.law {
            Law::Usual | Law::Fall(_) => true,
            Law::Set(set) => set.gravity,
            Law::Toward(_) | Law::Hold { .. } => false,
        };
        !led_up && by_law && self.charge.drives().is_none_or(|under_way| under_way.maneuver.plan.gravity)
    }

    /// The way of a maneuver in its startup or active phase: exact at any tick rate, for
    /// what is left of the tick after the drive is gone on with at its last
    /// speed.
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
        let way = if bend.abs() < STRAIGHT {
            direction * along
        } else {
            // Round an arc first: its chord is in the middle of the turn.
            let half = 0.5 * bend;
            let turning = plan.distance_at(from + (bend / plan.turn_rate).abs()) - plan.distance_at(from);
            let chord = direction.turned(-half) * (turning * libm::sinf(half) / half);
            chord + direction * (along - turning)
        };
        let start =
            if plan.phase_at(from) == Phase::Startup { V::ZERO } else { direction * plan.speed_at(from) };
        // Until it sets out it holds still where it stands, and along the ground it goes on
        // that it has come down to.
        let leads_off = maneuver.leads_off(direction, self.sensed.dt);
        let toward = match plan.phase_at(to) {
            Phase::Startup => V::ZERO,
            _ if leads_off => direction,
            _ => direction - V::UP * direction.height().max(0.0),
        };
        self.led(toward, way, || self.driven(way, start, velocity, under_way), velocity)
    }

    /// The way of a maneuver through the air. With gravity, one that leads up begins with
    /// its speed upward as a throw does, and keeps no more of it than its end says.
    fn driven(&self, way: V, from: V, to: V, under_way: &UnderWay<V>) -> Drive<V> {
        let (plan, age) = (&under_way.maneuver.plan, under_way.maneuver.age);
        let up = self.sensed.frame.local(under_way.maneuver.direction).height();
        let mut rise = self.charge.velocity.height();
        if under_way.maneuver.sets_out(self.sensed.dt) && up > 0.0 {
            rise = up * plan.speed_at(plan.startup);
        } else if plan.phase_at(age + self.sensed.dt) > Phase::Active && up > 0.0 {
            rise = rise.min(up * plan.end_speed);
        }
        self.flown_at(way, from, to, plan.gravity, rise)
    }

    /// A way that is set, toward a direction: over the plane, along the ground
    /// where that is underfoot and the way does not rise from it, or as `flown`.
    fn led(&self, toward: V, way: V, flown: impl Fn() -> Drive<V>, velocity: V) -> Drive<V> {
        let ground = &self.sensed.ground;
        if self.sensed.from_above {
            Drive::Glide { way, velocity, settles: false }
        } else if ground.firm && toward.height() <= 0.0 {
            Drive::Walk {
                way: turned_onto(way.flat(), ground.normal),
                velocity: turned_onto(velocity.flat(), ground.normal),
            }
        } else {
            flown()
        }
    }

    /// A way through the air, with gravity or without.
    fn flown(&self, way: V, from: V, to: V, gravity: bool) -> Drive<V> {
        self.flown_at(way, from, to, gravity, self.charge.velocity.height())
    }

    fn flown_at(&self, way: V, from: V, to: V, gravity: bool, rise: f32) -> Drive<V> {
        let mut legs = Legs::new();
        if gravity {
            let level = way.flat() * (1.0 / self.sensed.dt);
            for part in fall(rise, &self.weights(), self.sensed.dt) {
                legs.push(Leg {
                    way: level * part.time + V::UP * part.way,
                    from: from.flat() + V::UP * part.from,
                    to: to.flat() + V::UP * part.to,
                    time: part.time,
                });
            }
        } else {
            legs.push(Leg { way, from, to, time: self.sensed.dt });
        }
        Drive::Fly { legs }
    }
}

/// A velocity along the ground, turned level without losing speed.
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

/// A wish without what pushes up a slope that is too steep to walk.
fn without_climbing<V: Vector>(wish: V, ground: V) -> V {
    match ground.flat().direction() {
        Some(away) if wish.dot(away) < 0.0 => wish.slid_along(away),
        _ => wish,
    }
}

/// A part of a tick's rise or fall in which the acceleration is uniform.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Part {
    time: f32,
    way: f32,
    from: f32,
    to: f32,
}

impl Part {
    /// The part up to `time` seconds from its start, before its end, and the rest. The first takes
    /// no time where the moment is before its start.
    fn cut_at(&self, time: f32) -> [Self; 2] {
        let none = Self { time: 0.0, way: 0.0, ..*self };
        if time <= 0.0 {
            return [Self { to: self.from, ..none }, *self];
        }
        let between = self.from + (self.to - self.from) * (time / self.time);
        let way = 0.5 * (self.from + between) * time;
        let first = Self { time, way, from: self.from, to: between };
        [first, Self { time: self.time - time, way: self.way - way, from: between, to: self.to }]
    }
}

/// The accelerations downward, in m/s², below 0 where wind lifts, and the
/// speeds between which each holds.
struct Weights {
    /// Up, faster than round the top.
    rising: f32,
    /// Up, round the top, where it is not as on the rise.
    top_rising: Option<f32>,
    /// Down, round the top, where it is not as on the fall.
    top_falling: Option<f32>,
    /// Down, faster than round the top.
    falling: f32,
    /// The speed below which it is round the top.
    slow: f32,
    /// The speed that ends a fall, and a lift.
    terminal: f32,
}

impl Weights {
    /// Those of a body as it is.
    fn on<V: Geometry>(sensed: &Sensed<'_, V>, charge: &Charge<'_, V>) -> Self {
        let Sensed { tuning, intent, .. } = *sensed;
        let gravity = tuning.gravity();
        let steered_down = V::DIMENSION == 2 && intent.safe_steer().y < DOWN;
        let fast = steered_down || intent.held.has(Actions::CROUCH);
        let (mut falling, mut terminal) = (gravity * tuning.fall.gravity, tuning.fall.terminal_speed);
        if fast {
            falling *= tuning.fall.fast_gravity;
            terminal = terminal.max(tuning.fall.fast_speed);
        }
        if charge.mode == Mode::WallSlide {
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
        Self {
            rising: if cut { gravity * tuning.jump.cut_gravity } else { gravity } - lift,
            top_rising: (round_top && !cut).then_some(top - lift),
            top_falling: (round_top && !fast).then_some(top - lift),
            falling: falling - lift,
            slow,
            terminal,
        }
    }

    /// Whether a body at rest rises.
    fn lift(&self) -> bool {
        self.at(0.0, true).0 <= 0.0 && self.at(0.0, false).0 < 0.0
    }

    /// The acceleration just above (or below, going down) an upward speed, and
    /// the speeds between which it holds.
    fn at(&self, speed: f32, down: bool) -> (f32, f32, f32) {
        let above = if down { speed > 0.0 } else { speed >= 0.0 };
        if above {
            let beyond = if down { speed > self.slow } else { speed >= self.slow };
            match self.top_rising {
                Some(top) if !beyond => (top, 0.0, self.slow),
                Some(_) => (self.rising, self.slow, self.terminal),
                None => (self.rising, 0.0, self.terminal),
            }
        } else {
            // Round the top, too, nothing falls faster than it may.
            let slow = self.slow.min(self.terminal);
            let beyond = if down { -speed >= slow } else { -speed > slow };
            match self.top_falling {
                Some(top) if !beyond => (top, -slow, 0.0),
                Some(_) => (self.falling, -self.terminal, -slow),
                None => (self.falling, -self.terminal, 0.0),
            }
        }
    }
}

/// The rise and fall of a tick that begins with an upward speed: cut where the
/// acceleration changes, and at most at the terminal speed.
fn fall(speed: f32, weights: &Weights, dt: f32) -> SmallVec<[Part; PARTS]> {
    let mut parts = SmallVec::new();
    let (mut from, mut left) = (speed.max(-weights.terminal), dt);
    while left > 0.0 && parts.len() < PARTS - 1 {
        let (sinking, least, _) = weights.at(from, true);
        let (lifted, _, most) = weights.at(from, false);
        // Down where that is the way; up where wind lifts; else it hangs.
        let (rate, to) = if sinking > 0.0 && from > least {
            (sinking, least)
        } else if lifted < 0.0 && from < most {
            (lifted, most)
        } else {
            break;
        };
        let time = ((from - to) / rate).min(left);
        let reached = if time < left || (from - to) == rate * left { to } else { from - rate * left };
        parts.push(Part { time, way: 0.5 * (from + reached) * time, from, to: reached });
        (from, left) = (reached, left - time);
    }
    if left > 0.0 || parts.is_empty() {
        parts.push(Part { time: left, way: from * left, from, to: from });
    }
    parts
}

/// A [`fall`] whose beginning, where it is faster than the terminal speed, is slowed to
/// that at a rate.
fn braked_fall(speed: f32, weights: &Weights, rate: f32, dt: f32) -> SmallVec<[Part; PARTS]> {
    let time = ((-weights.terminal - speed) / rate).min(dt);
    if time.is_nan() || time <= 0.0 {
        return fall(speed, weights, dt);
    }
    let to = speed + rate * time;
    let mut parts = SmallVec::new();
    parts.push(Part { time, way: 0.5 * (speed + to) * time, from: speed, to });
    if dt - time > 0.0 {
        parts.extend(fall(to, weights, dt - time));
    }
    parts
}

/// How quickly the level velocity follows steering in the air.
struct Control {
    now: Times,
    /// From the moment `until` on.
    later: Times,
    /// Seconds from the start of the tick; infinite if nothing changes.
    until: f32,
}

/// How quickly a velocity follows a wish: times from and to `speed`.
#[derive(Clone, Copy)]
struct Times {
    speed: f32,
    reach: f32,
    stop: f32,
    turn: f32,
}

impl Times {
    /// The velocity after `dt` on the way from `from` to `target`, and the
    /// displacement.
    fn approach<V: Vector>(&self, from: V, target: V, dt: f32) -> (V, V) {
        if from == target {
            return (target, target * dt);
        }
        let against = from.dot(target);
        if against < 0.0 {
            // Turning back: at the turning rate until nothing is left of the
            // old direction, and at the reaching rate from there.
            let change = target - from;
            let share = -against / change.dot(target);
            let standing = from + change * share;
            let (velocity, way, left) = ramp(from, standing, self.rate(self.turn), dt);
            if left <= 0.0 {
                return (velocity, way);
            }
            let (velocity, more, left) = ramp(standing, target, self.rate(self.reach), left);
            return (velocity, way + more + velocity * left);
        }
        let slower = target.length_squared() < from.length_squared();
        let time = if slower { self.stop } else { self.reach };
        let (velocity, way, left) = ramp(from, target, self.rate(time), dt);
        (velocity, way + velocity * left)
    }

    fn rate(&self, time: f32) -> f32 {
        if time > 0.0 { self.speed / time } else { f32::INFINITY }
    }
}

/// Changes a velocity evenly toward `to` for at most `dt`: the velocity, the
/// way, and the time left when `to` is reached.
fn ramp<V: Vector>(from: V, to: V, rate: f32, dt: f32) -> (V, V, f32) {
    let change = to - from;
    let needed = change.length() / rate;
    if needed.is_nan() || needed <= dt {
        let time = if needed.is_nan() { 0.0 } else { needed };
        (to, (from + to) * (0.5 * time), dt - time)
    } else {
        let reached = from + change * (dt / needed);
        (reached, (from + reached) * (0.5 * dt), 0.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::Vec2;

    /// The way of one tick is that of many short ones.
    #[test]
    fn a_way_is_the_integral_whatever_the_tick() {
        let times = Times { speed: 4.0, reach: 0.13, stop: 0.07, turn: 0.05 };
        for (from, target) in [(0.0, 4.0), (4.0, 0.0), (4.0, -4.0), (-1.0, 2.5), (3.0, 1.0)] {
            let (whole, way) = times.approach(Vec2::X * from, Vec2::X * target, 0.1);
            let (mut velocity, mut sum) = (Vec2::X * from, Vec2::ZERO);
            for _ in 0..1000 {
                let (next, step) = times.approach(velocity, Vec2::X * target, 1e-4);
                velocity = next;
                sum += step;
            }
            assert!((whole - velocity).length() < 1e-3, "{from} to {target}");
            assert!((way - sum).length() < 1e-4, "{from} to {target}: {way} {sum}");
        }
    }

    fn weights(terminal: f32) -> Weights {
        let (gravity, heavier) = (20.0, 30.0);
        Weights {
            rising: gravity,
            top_rising: None,
            top_falling: None,
            falling: heavier,
            slow: 0.0,
            terminal,
        }
    }

    #[test]
    fn a_fall_ends_at_the_terminal_speed() {
        let parts = fall(-1.0, &weights(3.0), 1.0);
        assert_eq!(parts.last().unwrap().to, -3.0);
        let way: f32 = parts.iter().map(|part| part.way).sum();
        assert!(way > -3.0 && way < -2.9);
        assert_eq!(parts.iter().map(|part| part.time).sum::<f32>(), 1.0);
    }

    /// However gravity changes on the way, one long tick is many short ones.
    #[test]
    fn a_fall_is_the_same_in_one_tick_or_many() {
        let lighter = |slow: f32, top: f32| Weights {
            top_rising: Some(top),
            top_falling: Some(top),
            slow,
            ..weights(9.0)
        };
        let lifted = Weights { rising: -5.0, falling: 8.0, ..weights(9.0) };
        for weights in [weights(9.0), lighter(1.5, 6.0), lighter(3.0, 2.0), lifted] {
            for start in [-9.0, -2.0, -0.5, 0.0, 0.4, 2.0, 7.0] {
                let whole = fall(start, &weights, 0.5);
                let (mut speed, mut way) = (start, 0.0);
                for _ in 0..5000 {
                    for part in fall(speed, &weights, 1e-4) {
                        (speed, way) = (part.to, way + part.way);
                    }
                }
                let sum: f32 = whole.iter().map(|part| part.way).sum();
                assert!((whole.last().unwrap().to - speed).abs() < 5e-3, "from {start}: {whole:?}, {speed}");
                assert!((sum - way).abs() < 5e-3, "from {start}: {sum}, {way}");
            }
        }
    }
}
