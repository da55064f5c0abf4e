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
//!   drive     its motion law, as legs: displacements and velocities
//!           ▼
//!   travel    a displacement that touches nothing, and the incidents on it
//!           ▼
//!   settle    the new state and the events: the only stage that writes either
//!           ▼
//!   remember  each move keeps what it has to
//! ```
//!
//! Data flows down through the stages and never back up. [`tick()`] is a function over plain data;
//! [`Controller`] stores that data for the common case.

mod around;
mod charge;
mod debug;
mod decide;
mod drive;
mod go;
mod overlaid;
mod pose;
mod reach;
mod rest;
mod room;
mod sense;
mod settle;
mod take_in;
mod tick;
mod toward;
mod trail;

pub use debug::{DebugContact, DebugView, Timer};
pub use pose::{ManeuverPose, Pose};
pub use room::has_room;
pub use tick::{tick, tick_into};
pub use trail::Trail;

use glam::Vec3;

use crate::animation::{Overlay, OverlayPlan, PoseMemory, Step};
use crate::contact::{Geometry, Hull, Scratch};
use crate::input::{Actions, Intent, Look};
use crate::level::{Effect, SurfaceId, Surroundings};
use crate::space::Vector;
use crate::state::{Changes, Event, Events, FootingKind, Name, Plan, State, Touching};
use crate::tuning::Tuning;

use rest::Rest;

/// A body with its tuning and hull, moved by intents.
///
/// Everything in it is plain data: a clone is a snapshot, and a restored snapshot replays to the
/// same bits.
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
/// body.throw(Vec2::new(0.0, 9.0));
/// body.restore(kept);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(bound(
        serialize = "State<V>: serde::Serialize",
        deserialize = "State<V>: serde::Deserialize<'de>"
    ))
)]
pub struct Controller<V> {
    /// How it moves.
    pub tuning: Tuning,
    /// Its collision shape.
    pub hull: Hull,
    state: State<V>,
    before: State<V>,
    #[cfg_attr(feature = "serde", serde(skip))]
    events: Events<V>,
    #[cfg_attr(feature = "serde", serde(skip))]
    scratch: Scratch,
    /// The last tick, if it changed nothing.
    rest: Option<Rest>,
    overlay: Option<Overlay>,
    /// The overlay before the last tick.
    overlay_before: Option<Overlay>,
    memory: PoseMemory,
}

impl<V: Geometry> Controller<V> {
    /// A body at rest in the air at `position`: the middle of its underside, or the centre of its
    /// hull if it is seen from above. If there is ground, it stands after its first tick.
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
            overlay: None,
            overlay_before: None,
            memory: PoseMemory::new(&state),
        }
    }

    /// Returns the body with another up, as for a world with y down or z up. Call it before the first
    /// tick; during a game, use [`turn_up`](Self::turn_up). The body keeps this up outside of zones with
    /// their own, also after a respawn. A vector that is too short to have a direction changes nothing.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
    ///
    /// let mut builder = Level::builder();
    /// builder.add(Piece::block(Vec2::new(-9.0, 0.0), Vec2::new(9.0, 1.0))?); // below, with y down
    /// let level = builder.build()?;
    /// let body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::new(0.0, -0.5));
    /// let mut body = body.with_up(Vec2::NEG_Y);
    /// for _ in 0..60 {
    ///     body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// }
    /// assert!(body.state().footing.is_firm() && body.position().y > -0.02);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn with_up(mut self, up: V) -> Self {
        self.state = self.state.with_up(up);
        self.before = self.state;
        self.memory = PoseMemory::new(&self.state);
        self.rest = None;
        self
    }

    /// Moves the body by one tick of `dt` seconds. Returns the events of the tick.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// let events = body.tick(&Intent::default().pressing(Actions::JUMP), &level, 1.0 / 60.0);
    /// for event in events {
    ///     println!("{event:?}"); // jumped, and left the ground
    /// }
    /// assert_eq!(events.len(), 2);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn tick(&mut self, intent: &Intent, surroundings: &impl Surroundings<V>, dt: f32) -> &[Event<V>] {
        self.before = self.state;
        if self.overlay.is_some() || self.overlay_before.is_some() {
            self.overlay_before = self.overlay;
        }
        let slowed;
        let begins = || intent.pressed.intersects(Actions::of_knob(self.tuning.overlay.action));
        let intent = if self.overlay.is_some() || begins() {
            slowed = overlaid::take_in(&mut self.overlay, &self.tuning, intent);
            &slowed
        } else {
            intent
        };
        if self.rests(intent, surroundings, dt) {
            self.events.clear();
            rest::count(&mut self.state, dt);
            if self.overlay.is_none() && self.memory.is_at_rest() {
                return &self.events;
            }
        } else {
            self.move_by(intent, surroundings, dt);
        }
        overlaid::advance(&mut self.overlay, dt, &mut self.events);
        let step = Step { before: &self.before, now: &self.state, events: &self.events, dt };
        self.memory.tick(&step, &self.tuning, &self.hull);
        if self.events.iter().any(Event::is_elsewhere) {
            // Nothing is drawn between the two positions.
            self.before = self.state;
        }
        &self.events
    }

    /// Returns true if a tick changes nothing but timers.
    fn rests(&mut self, intent: &Intent, surroundings: &impl Surroundings<V>, dt: f32) -> bool {
        let Some(rest) = &self.rest else { return false };
        let goes_on = rest.goes_on(&self.state, (&self.tuning, &self.hull), intent, surroundings, dt);
        if !goes_on {
            self.rest = None;
        }
        goes_on
    }

    /// Moves the body by one tick, without overlays.
    fn move_by(&mut self, intent: &Intent, surroundings: &impl Surroundings<V>, dt: f32) {
        let numbers = (&self.tuning, &self.hull);
        let kept = (&mut self.events, &mut self.scratch);
        tick::tick_in(numbers, &mut self.state, intent, surroundings, dt, kept);
        if self.events.is_empty() {
            self.rest = Rest::after(&self.before, &self.state, numbers, intent, surroundings, dt);
        }
    }

    /// Discards the last tick and does it again, in other surroundings.
    pub(crate) fn tick_again(&mut self, intent: &Intent, surroundings: &impl Surroundings<V>, dt: f32) {
        self.rest = None;
        self.state = self.before;
        self.overlay = self.overlay_before;
        self.memory.undo();
        self.tick(intent, surroundings, dt);
    }

    /// Discards the last tick: the body stays where it was, without a velocity.
    pub(crate) fn stay(&mut self) {
        self.rest = None;
        self.state = self.before;
        (self.state.velocity, self.state.ground_velocity) = (V::ZERO, V::ZERO);
        self.events.clear();
    }

    /// Changes the velocity after a tick.
    pub(crate) fn set_velocity(&mut self, velocity: V) {
        self.rest = None;
        self.state.velocity = velocity;
    }

    /// What it touches, to change it after a tick.
    pub(crate) fn touching_mut(&mut self) -> &mut Touching<V> {
        &mut self.state.touching
    }

    /// Returns true if the last tick changed nothing, and a tick with this intent and length changes
    /// nothing either unless something nearby has changed.
    pub(crate) fn is_at_rest(&self, intent: &Intent, dt: f32) -> bool {
        self.overlay.is_none()
            && self.memory.is_at_rest()
            && self.rest.as_ref().is_some_and(|rest| rest.is_for(intent, dt))
    }

    /// The velocity, in the world, to which an intent would bring the body on level ground, in m/s.
    pub(crate) fn target_velocity(&self, intent: &Intent) -> V {
        let pace = self.overlay.map_or(1.0, |overlay| overlay.plan.pace);
        self.steered(intent) * (pace * sense::top_speed(&self.tuning, &self.state, intent))
    }

    /// Puts the body on the ground, if there is some within twice the clearance below (or that far
    /// inside the hull): for a start, without the landing event of a first tick.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// assert_eq!(body.state().mode, Mode::Grounded);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn find_footing(&mut self, surroundings: &impl Surroundings<V>) {
        self.rest = None;
        tick::find_footing(&self.tuning, &self.hull, &mut self.state, surroundings);
        self.before = self.state;
        self.memory = PoseMemory::new(&self.state);
    }

    /// Changes the hull, if there is room for it. Returns true if there was. The underside stays
    /// where it is.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// assert!(body.change_hull(Hull::capsule(0.5, 2.4)?, &level), "there is room");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn change_hull(&mut self, hull: Hull, surroundings: &impl Surroundings<V>) -> bool {
        let room = has_room(&take_in::as_seen::<V>(&self.tuning, &hull), &self.state, surroundings);
        if room {
            self.hull = hull;
        }
        room
    }

    /// The current hull: lower than [`Self::hull`] in a crouch or a roll.
    #[must_use]
    pub fn present_hull(&self) -> Hull {
        take_in::as_seen::<V>(&self.tuning, &self.state.hull(&self.hull))
    }

    /// Throws the body off its feet, or its ladder, with a velocity in the world, in m/s. The
    /// player stays in control; a running maneuver is cancelled. The events come with the next
    /// tick.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// body.throw(Vec2::new(0.0, 12.0)); // a spring board
    /// body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// assert_eq!(body.state().mode, Mode::Airborne);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn throw(&mut self, velocity: V) {
        self.rest = None;
        self.state.throw(velocity);
    }

    /// Knocks the body back with a velocity in the world, in m/s, and takes control away for `time`
    /// seconds.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// body.knock_back(Vec2::new(-6.0, 3.0), 0.3);
    /// body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    /// assert!(body.velocity().x < 0.0);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn knock_back(&mut self, velocity: V, time: f32) {
        self.rest = None;
        self.state.knock_back(velocity, time);
    }

    /// Begins one of the game's own maneuvers along `direction` in the world. A running maneuver is
    /// cancelled. The events come with the next tick.
    pub fn begin(&mut self, name: Name, plan: Plan, direction: V) {
        self.rest = None;
        self.state.begin(name, plan, direction);
    }

    /// Cancels the running maneuver. Its cooldown follows. The event comes with the next tick.
    pub fn break_off(&mut self) {
        self.rest = None;
        self.state.break_off();
    }

    /// Begins an overlay: an action of the upper body that leaves the motion to the legs, or slows it.
    /// A running one is replaced. The next tick emits [`Event::OverlayPhase`].
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// use rasant::animation::OverlayPlan;
    /// use rasant::state::Name;
    ///
    /// # body.find_footing(&level);
    /// let load = OverlayPlan { active: f32::INFINITY, pace: 0.5, ..OverlayPlan::default() };
    /// body.begin_overlay(Name::new("carry"), load);
    /// for _ in 0..30 {
    ///     body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    /// }
    /// assert_eq!(body.velocity().x, 0.5 * body.tuning.walk.speed);
    /// assert_eq!(body.pose(1.0).overlay.expect("carry").name, "carry");
    /// body.end_overlay();
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn begin_overlay(&mut self, name: Name, plan: OverlayPlan) {
        self.overlay = Some(Overlay::begun(name, plan, self.overlay.as_ref()));
    }

    /// Brings the running overlay to its last phase.
    pub fn end_overlay(&mut self) {
        self.overlay = self.overlay.map(Overlay::ended);
    }

    /// The running overlay. It is not part of [`Self::state`]: a snapshot is a clone of the controller,
    /// or the state and the overlay.
    #[must_use]
    pub fn overlay(&self) -> Option<&Overlay> {
        self.overlay.as_ref()
    }

    /// The values of animations that depend on earlier ticks.
    #[must_use]
    pub fn pose_memory(&self) -> &PoseMemory {
        &self.memory
    }

    /// Sets these values to what [`Self::pose_memory`] returned before, beside [`Self::restore`].
    pub fn restore_pose_memory(&mut self, memory: PoseMemory) {
        self.memory = memory;
    }

    /// Sets the overlay to what [`Self::overlay`] returned before, beside [`Self::restore`].
    pub fn restore_overlay(&mut self, overlay: Option<Overlay>) {
        self.overlay = overlay;
    }

    /// The time in seconds until the feet touch ground, if the player goes on as with `intent` and
    /// presses nothing: for beginning the clip of a landing before it. `None` if they do not within
    /// `within` seconds, or stand. Carriers are taken to stay where they are. It costs up to 60 ticks
    /// for each second.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// let body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::Y * 2.0);
    /// let fall = (2.0 * 2.0 / body.tuning.gravity()).sqrt();
    /// let time = body.time_to_landing(&Intent::default(), &level, 1.0).expect("ground");
    /// assert!((time - fall).abs() < 0.01);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn time_to_landing(
        &self,
        intent: &Intent,
        surroundings: &impl Surroundings<V>,
        within: f32,
    ) -> Option<f32> {
        /// The length of a tick of the prediction, in seconds.
        const STEP: f32 = 1.0 / 60.0;
        let intent = Intent { pressed: Actions::NONE, released: Actions::NONE, ..*intent };
        let (mut state, mut scratch, mut events) = (self.state, Scratch::default(), Events::new());
        if state.footing.is_firm() || state.from_above {
            return None;
        }
        let mut time = 0.0;
        while time < within {
            let before = state;
            let kept = (&mut events, &mut scratch);
            tick::tick_in((&self.tuning, &self.hull), &mut state, &intent, surroundings, STEP, kept);
            let landing = events.iter().find_map(|event| match *event {
                Event::Landed { speed, .. } => Some(speed),
                _ => None,
            });
            if let Some(speed) = landing {
                // The touch is within the tick: with an even acceleration, a distance d takes 2·d / (v₀ + v₁).
                let down = (before.position - state.position).dot(state.up);
                let speeds = speed - before.velocity.dot(state.up);
                let part = if speeds > 0.0 { (2.0 * down / speeds).clamp(0.0, STEP) } else { STEP };
                return Some(time + part).filter(|time| *time <= within);
            }
            time += STEP;
        }
        None
    }

    /// Sets the displacement of the next tick, in the world, as from an animation. It collides like
    /// any other, and steering neither moves nor turns the body meanwhile. In the air the body
    /// falls, unless it is led up or a maneuver suspends gravity. What a running maneuver mutes
    /// stays muted.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// body.root_motion(Vec2::new(0.05, 0.0));
    /// body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// assert!((body.position().x - 0.05).abs() < 1e-5);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn root_motion(&mut self, displacement: V) {
        self.rest = None;
        self.state.pending.displacement = displacement;
        self.state.pending.changes |= Changes::LED;
    }

    /// Makes `up` the body's up from now on, as on a small planet or where gravity turns. Zones
    /// with another up still apply. The feet stay where they are: a standing body continues to
    /// stand if it can stand there with this up. Otherwise it is rotated about its centre, or to
    /// the nearest room, and is in the air.
    ///
    /// Returns false, and changes nothing, if there is no room for it, or `up` has no direction.
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

    /// Returns the body to its last checkpoint, as a hazard does. The events come with the next
    /// tick, including those of what was cancelled.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// for _ in 0..60 {
    ///     body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    /// }
    /// body.respawn(); // at the start, because there was no checkpoint
    /// body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// assert_eq!(body.position().x, 0.0);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn respawn(&mut self) {
        let mut fresh = around::placed_at(self.state.checkpoint, &self.state);
        fresh.pending.changes |= Changes::RESPAWNED;
        self.restore(fresh);
    }

    /// Moves the body to another place, as by a portal or when a level begins: the middle of its
    /// underside, in the world. It is at rest there, keeps its facing and checkpoint, and stands
    /// after the next tick if there is ground. What it was doing is cancelled. The next tick emits
    /// [`Event::Teleported`] and the events of what was cancelled. Call [`Self::throw`] afterwards
    /// to give it a velocity. A place that is not finite changes nothing.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Controller, Event, Hull, Intent, Level, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// body.teleport(Vec2::new(5.0, 0.0));
    /// let events = body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// assert!(events.contains(&Event::Teleported));
    /// assert_eq!(body.position().x, 5.0);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn teleport(&mut self, place: V) {
        if place.is_finite() {
            let mut fresh = around::placed_at(place, &self.state);
            fresh.pending.changes |= Changes::TELEPORTED;
            self.restore(fresh);
        }
    }

    /// Makes a place the checkpoint, to which hazards and [`Self::respawn`] return the body: the
    /// middle of its underside, in the world. A place that is not finite changes nothing. A
    /// checkpoint zone that the body enters afterwards replaces it.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// body.respawn_at(Vec2::new(4.0, 0.0)); // a lantern that the game has lit
    /// body.respawn();
    /// body.tick(&Intent::default(), &level, 1.0 / 60.0);
    /// assert_eq!(body.position().x, 4.0);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn respawn_at(&mut self, place: V) {
        if place.is_finite() {
            self.rest = None;
            self.state.checkpoint = place;
            self.state.carry_over.checkpoint_pending = false;
        }
    }

    /// The contacts, timers and refusals of the current state, for drawing and printing.
    #[must_use]
    pub fn debug_view(&self, surroundings: &impl Surroundings<V>) -> DebugView<V> {
        DebugView::of(&self.tuning, &self.present_hull(), &self.state, &self.events, surroundings)
    }

    /// The direction in the world in which an intent would steer the body now, with a length of 0
    /// to 1: what [`Steering`](crate::Steering) makes of the stick and the look. For drawing. A
    /// maneuver may mute steering, and steering by hops moves by whole steps.
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
        frame.world(sense::steer(&self.tuning, intent, frame.local(self.state.facing)))
    }

    /// The current state.
    #[must_use]
    pub fn state(&self) -> &State<V> {
        &self.state
    }

    /// The position of the body's underside.
    #[must_use]
    pub fn position(&self) -> V {
        self.state.position
    }

    /// The velocity in the world, in m/s.
    #[must_use]
    pub fn velocity(&self) -> V {
        self.state.velocity + self.state.ground_velocity
    }

    /// Sets the state: a snapshot, or a place to start from. The pose is not interpolated across
    /// this change.
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// let before = *body.state();
    /// body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    /// body.restore(before);
    /// assert_eq!(*body.state(), before);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn restore(&mut self, state: State<V>) {
        self.rest = None;
        self.state = state;
        self.before = state;
        self.events = Events::new();
    }

    /// The events of the last tick.
    #[must_use]
    pub fn events(&self) -> &[Event<V>] {
        &self.events
    }

    /// The surface under the body: that of its footing, or of the zone that is the floor of a body
    /// seen from above. `None` in the air, and over no floor.
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
        // Of several, the one that applies while walking.
        floors.last()
    }

    /// The pose to draw, interpolated from the tick before the last (0) to the last (1).
    ///
    /// ```
    /// # use rasant::glam::Vec2;
    /// # use rasant::{Actions, Controller, Hull, Intent, Level, Mode, Piece, Tuning};
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
    /// # let level = builder.build()?;
    /// # let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
    /// # body.find_footing(&level);
    /// body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
    /// let pose = body.pose(0.5); // half a tick after the last one
    /// println!("draw {} at {:.3}", pose.gait, pose.position);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn pose(&self, blend: f32) -> Pose<V> {
        let Self { before, state, memory, tuning, hull, overlay, .. } = self;
        let pose = Pose::between(before, state, memory, tuning, hull, blend);
        Pose { overlay: overlay.as_ref().map(pose::overlay), ..pose }
    }
}

impl Controller<Vec3> {
    /// The look that keeps a target in view while the body steers around it, for a tick of `dt`
    /// seconds. The circle neither grows nor shrinks, though turning its velocity takes time.
    /// [`Look::at`] does not account for that time.
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
        // To turn a velocity v by v·dt / r takes v²·dt / (r·a) seconds, half of which it lags
        // behind.
        let rate = self.tuning.walk.speed.abs() / self.tuning.walk.reach_time;
        let distance = (target - position).flat().length();
        let lag = 0.5 * velocity.length_squared() / (distance * rate);
        let lead = if lag.is_finite() { dt * lag.min(1.0) } else { 0.0 };
        Look::at(target, position + velocity * lead, velocity, dt)
    }
}
