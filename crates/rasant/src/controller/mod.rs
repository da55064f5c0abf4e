//! One tick: take in, sense, decide, drive, travel, settle.
//!
//! ```text
//!   state ──┐   intent ──┐   surroundings ──┐
//!           ▼            ▼                  ▼
//!   take in   what the host did since, the hull's height, ground that lets go
//!           ▼
//!   sense     pieces, zones, carriers and wall nearby, and where the player wants
//!           ▼  to go: the senses, read-only from here on
//!   decide    the first move that proposes has the tick, or the body by itself
//!           ▼
//!   drive     its motion law, as legs: ways and velocities
//!           ▼
//!   travel    a displacement that touches nothing, and the incidents on it
//!           ▼
//!   settle    the new state and the events: the only stage that writes either
//!           ▼
//!   remember  each move keeps what it has to
//! ```
//!
//! Data goes down through the stages and never back up. [`tick()`] is a function
//! over plain data; [`Controller`] keeps that data for the common case.

mod around;
mod charge;
mod debug;
mod decide;
mod drive;
mod go;
mod pose;
mod reach;
mod rest;
mod room;
mod sense;
mod settle;
mod take_in;
mod tick;

pub use debug::{DebugContact, DebugView, Timer};
pub use pose::{ManeuverPose, Pose};
pub use room::has_room;
pub use tick::{tick, tick_into};

use glam::Vec3;

use crate::contact::{Geometry, Hull, Scratch};
use crate::input::{Intent, Look};
use crate::level::{Effect, SurfaceId, Surroundings};
use crate::space::Vector;
use crate::state::{Changes, Event, Events, FootingKind, Name, Plan, State};
use crate::tuning::Tuning;

use rest::Rest;

/// A body with its tuning and hull, moved by intents.
///
/// Everything in it is plain data: a clone is a snapshot, and a snapshot put
/// back replays to the same bits.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Actions, Controller, Hull, Intent, Tuning};
///
/// # let mut builder = rasant::Level::builder();
/// # builder.add(rasant::Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
/// body.find_footing(&level);
/// for event in body.tick(&Intent::steering(1.0, 0.0).pressing(Actions::JUMP), &level, 1.0 / 60.0) {
///     println!("{}", event.name()); // jumped, left-ground
/// }
/// let kept = *body.state(); // a snapshot is a copy
/// body.launch(Vec2::new(0.0, 9.0));
/// body.restore(kept);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Controller<V> {
    /// How it moves.
    pub tuning: Tuning,
    /// Its collision shape.
    pub hull: Hull,
    state: State<V>,
    before: State<V>,
    events: Events<V>,
    scratch: Scratch,
    /// What the last tick was, if it changed nothing.
    rest: Option<Rest>,
}

impl<V: Geometry> Controller<V> {
    /// A body airborne at `position` (the middle of its underside, or of its hull if
    /// it is seen from above), at rest. Put
    /// on ground it stands after its first tick.
    #[must_use]
    pub fn new(tuning: Tuning, hull: Hull, position: V) -> Self {
        let state = State::at(position);
        Self {
            tuning,
            hull,
            state,
            before: state,
            events: Events::new(),
            scratch: Scratch::default(),
            rest: None,
        }
    }

    /// Moves the body by one tick of `dt` seconds; gives what happened.
    pub fn tick(&mut self, intent: &Intent, surroundings: &impl Surroundings<V>, dt: f32) -> &[Event<V>] {
        self.before = self.state;
        let numbers = (&self.tuning, &self.hull);
        if let Some(rest) = &self.rest {
            if rest.goes_on(&self.state, numbers, intent, surroundings, dt) {
                self.events.clear();
                rest::count(&mut self.state, dt);
                return &self.events;
            }
            self.rest = None;
        }
        let kept = (&mut self.events, &mut self.scratch);
        tick::tick_in(numbers, &mut self.state, intent, surroundings, dt, kept);
        if self.events.is_empty() {
            self.rest = Rest::after(&self.before, &self.state, numbers, intent, surroundings, dt);
        }
        if self.events.contains(&Event::Respawned) {
            // Nobody is drawn on the way back.
            self.before = self.state;
        }
        &self.events
    }

    /// Stands the body on the ground if there is some within twice the clearance
    /// below (or it is sunk into it that far): for a start, without the landing
    /// that a first tick would report.
    pub fn find_footing(&mut self, surroundings: &impl Surroundings<V>) {
        self.rest = None;
        tick::find_footing(&self.tuning, &self.hull, &mut self.state, surroundings);
        self.before = self.state;
    }

    /// Changes the hull, as for a crouch or for standing up, where there is room
    /// for it; says whether there was. The underside stays where it is.
    pub fn change_hull(&mut self, hull: Hull, surroundings: &impl Surroundings<V>) -> bool {
        let room = has_room(&take_in::as_seen::<V>(&self.tuning, &hull), &self.state, surroundings);
        if room {
            self.hull = hull;
        }
        room
    }

    /// The hull as it is now: lower than [`Self::hull`] in a crouch or a roll.
    #[must_use]
    pub fn present_hull(&self) -> Hull {
        take_in::as_seen::<V>(&self.tuning, &self.state.hull(&self.hull))
    }

    /// Throws the body off its feet, or its ladder, with a velocity in the world, in
    /// m/s. It stays in control; a maneuver that is under way is broken off. What it
    /// leaves is told in the next tick.
    pub fn launch(&mut self, velocity: V) {
        self.rest = None;
        self.state.launch(velocity);
    }

    /// Throws the body back with a velocity in the world, in m/s, and takes
    /// control away for `time` seconds.
    pub fn knock_back(&mut self, velocity: V, time: f32) {
        self.rest = None;
        self.state.knock_back(velocity, time);
    }

    /// Begins one of the host's own maneuvers, driving along `direction` in the
    /// world. One that is under way is broken off. Both are told in the next tick.
    pub fn begin(&mut self, name: Name, plan: Plan, direction: V) {
        self.rest = None;
        self.state.begin(name, plan, direction);
    }

    /// Breaks off the maneuver that is under way; it rests then, which is told in the
    /// next tick.
    pub fn break_off(&mut self) {
        self.rest = None;
        self.state.break_off();
    }

    /// Hands in the displacement of the next tick, in the world, as from an
    /// animation. It collides like any other, and steering neither moves nor turns the
    /// body meanwhile. Airborne it falls, unless it is led up or a maneuver keeps gravity
    /// off; what a maneuver under way locks stays locked.
    pub fn root_motion(&mut self, displacement: V) {
        self.rest = None;
        self.state.pending.displacement = displacement;
        self.state.pending.changes |= Changes::LED;
    }

    /// Makes `up` the body's up from now on, as on a small planet or where gravity turns; zones of
    /// another up still count where they are. The feet stay where they are: a body that stands goes
    /// on standing if it can stand there with this up. Else it is turned about its middle, or to
    /// where it has room next to that, and is airborne.
    ///
    /// Returns false, and changes nothing, where there is no room for it, or `up` has no direction.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
    ///
    /// let mut builder = Level::builder();
    /// builder.add(Piece::ball(Vec2::ZERO, 20.0)?); // a planet
    /// let level = builder.build()?;
    /// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::Y * 20.005);
    /// body.find_footing(&level);
    /// for _ in 0..600 {
    ///     body.turn_up(body.position(), &level); // away from its middle
    ///     body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    /// }
    /// assert!(body.state().footing.is_firm());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn turn_up(&mut self, up: V, surroundings: &impl Surroundings<V>) -> bool {
        let Some(up) = up.direction() else { return false };
        if up == self.state.up && up == self.state.home_up {
            return true;
        }
        let hull = self.present_hull();
        let turned = around::turned_on_its_feet(&self.state, up, &hull, &self.tuning, surroundings);
        let Some(turned) = turned.or_else(|| around::with_room(&self.state, up, &hull, surroundings)) else {
            return false;
        };
        self.rest = None;
        self.state = State { home_up: up, ..turned };
        true
    }

    /// Puts the body back at its last checkpoint, as a hazard does. It is told in the
    /// next tick, with what was broken off.
    pub fn respawn(&mut self) {
        let mut fresh = around::respawned(&self.state);
        fresh.pending.changes |= Changes::RESPAWNED;
        self.restore(fresh);
    }

    /// The contacts, timers and refusals of the present state, for drawing and
    /// printing.
    #[must_use]
    pub fn debug_view(&self, surroundings: &impl Surroundings<V>) -> DebugView<V> {
        DebugView::of(&self.tuning, &self.present_hull(), &self.state, &self.events, surroundings)
    }

    /// The direction in the world in which an intent would steer the body now, of length
    /// 0 to 1: what [`Steering`](crate::Steering) makes of the stick and the look. For
    /// drawing; a maneuver may lock steering, and steering by hops goes by whole steps.
    ///
    /// ```
    /// use rasant::glam::Vec3;
    /// use rasant::{Controller, Hull, Intent, Look, Tuning};
    ///
    /// let body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec3::ZERO);
    /// let left = Look { yaw: std::f32::consts::FRAC_PI_2, pitch: 0.0 };
    /// let forward = Intent { look: left, ..Intent::steering(0.0, 1.0) };
    /// assert!((body.steered(&forward) - Vec3::NEG_X).length() < 1e-6);
    /// # Ok::<(), rasant::contact::HullError>(())
    /// ```
    #[must_use]
    pub fn steered(&self, intent: &Intent) -> V {
        let frame = self.state.frame();
        frame.world(sense::wish(&self.tuning, intent, frame.local(self.state.facing)))
    }

    /// The present state.
    #[must_use]
    pub fn state(&self) -> &State<V> {
        &self.state
    }

    /// Where the body's underside is.
    #[must_use]
    pub fn position(&self) -> V {
        self.state.position
    }

    /// Its velocity in the world, in m/s.
    #[must_use]
    pub fn velocity(&self) -> V {
        self.state.velocity + self.state.ground_velocity
    }

    /// Puts the body into `state`: a snapshot, or a place to start from. The
    /// pose does not blend over the jump.
    pub fn restore(&mut self, state: State<V>) {
        self.rest = None;
        self.state = state;
        self.before = state;
        self.events = Events::new();
    }

    /// What happened in the last tick.
    #[must_use]
    pub fn events(&self) -> &[Event<V>] {
        &self.events
    }

    /// What is under the body: the surface that its feet are on, or of the zone that is the
    /// floor of a body seen from above. Nothing in the air, and over no floor.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Controller, Effect, Hull, Intent, Level, Steering, Surface, Tuning, Zone};
    ///
    /// let mut builder = Level::builder();
    /// let mud = builder.add_surface(Surface { pace: 0.5, ..Surface::default() });
    /// builder.add_zone(Zone::new(Vec2::ZERO, Vec2::new(9.0, 9.0), Effect::Floor { surface: mud }));
    /// let level = builder.build()?;
    /// let tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    /// let mut body = Controller::new(tuning, Hull::ball(0.4)?, Vec2::ONE);
    /// body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// assert_eq!(body.ground_surface(&level), Some(mud));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn ground_surface(&self, surroundings: &impl Surroundings<V>) -> Option<SurfaceId> {
        let State { footing, from_above, ref zones, .. } = self.state;
        if !from_above {
            return (footing.kind != FootingKind::None).then_some(footing.surface);
        }
        let floors = zones.ids().iter().filter_map(|id| surroundings.zone(*id)).filter_map(|zone| {
            let floor = |effect: &Effect<V>| match *effect {
                Effect::Floor { surface } => Some(surface),
                _ => None,
            };
            zone.effects.iter().filter_map(floor).last()
        });
        // Of several, the one that counts while walking.
        floors.last()
    }

    /// What to draw, `blend` of the way (0 to 1) from the tick before the last
    /// to the last.
    #[must_use]
    pub fn pose(&self, blend: f32) -> Pose<V> {
        Pose::between(&self.before, &self.state, &self.tuning, &self.hull, blend)
    }
}

impl Controller<Vec3> {
    /// The look with which the body keeps a target in view while it steers round it, for a tick of `dt`
    /// seconds: so the circle that it goes neither grows nor shrinks, though turning its velocity takes
    /// time. [`Look::at`] does the same without that.
    ///
    /// ```
    /// use rasant::glam::Vec3;
    /// use rasant::{Controller, Hull, Intent, Tuning};
    ///
    /// let body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec3::X * 5.0);
    /// let look = body.look_at(Vec3::ZERO, 1.0 / 60.0);
    /// let round = Intent { look, ..Intent::steering(1.0, 0.0) };
    /// # let _ = round;
    /// # Ok::<(), rasant::contact::HullError>(())
    /// ```
    #[must_use]
    pub fn look_at(&self, target: Vec3, dt: f32) -> Look {
        let (position, velocity) = (self.position(), self.velocity());
        // To turn a velocity v by v·dt / r takes v²·dt / (r·a) seconds, half of which it lags behind.
        let rate = self.tuning.walk.speed.abs() / self.tuning.walk.reach_time;
        let distance = (target - position).flat().length();
        let lag = 0.5 * velocity.length_squared() / (distance * rate);
        let lead = if lag.is_finite() { dt * lag.min(1.0) } else { 0.0 };
        Look::at(target, position + velocity * lead, velocity, dt)
    }
}
