//! A body that is played by hand, with its whole attempt recorded.
//!
//! The other bodies of its trial follow their scripts, and a second player may move one of them.
//!
//! An [`Attempt`] is advanced by frames of real time, receives the player's device events, and
//! records every intent. So any tick of it can be restored to the same bits, continued, and
//! replayed with another tuning. The tuning and the level itself may change in between; the attempt
//! records what applied when.

use std::any::Any;
use std::ops::Range;
use std::sync::Arc;
use std::time::Duration;

use rasant::animation::{Overlay, PoseMemory};
use rasant::camera::{Camera, View};
use rasant::glam::{Vec2, Vec3};
use rasant::input::Source;
use rasant::level::LevelSnapshot;
use rasant::{
    Actions, Bindings, Clock, Controller, DeviceEvent, Event, Geometry, Intent, Layers, Level, Look, Press,
    Sampler, State, Tape, Vector,
};

use crate::cast::{Cast, Mover, in_the_level};
use crate::played::{self, Summary};
use crate::script::Played;
use crate::trace::{Row, Trace};
use crate::trial::Trial;
use rasant_files::{LevelFile, Mechanisms, NumberError, TuningFile};

/// The number of ticks between two stored states; those between are simulated again.
const EVERY: usize = 16;
/// The maximum length of an attempt in seconds; a longer one loses its beginning.
pub const LONGEST: usize = 30 * 60;
/// The distance in metres below everything at which a body is returned to its checkpoint.
const ABYSS: f32 = 12.0;

/// The maximum number of changes of the level that an attempt stores; with more it loses its
/// beginning.
const PLACES: usize = 200;

/// A body, its level, and everything that it did since it was placed there.
#[derive(Clone, Debug)]
pub struct Attempt<V: Geometry> {
    /// The level in this tick.
    file: LevelFile<V>,
    /// The levels, with the tick from which each applies, before their carriers moved.
    places: Vec<(usize, Arc<LevelFile<V>>)>,
    /// The level that the body is in.
    place: usize,
    /// The bodies and scripts. Its world and inputs are not used.
    trial: Arc<Trial>,
    clock: Clock,
    seats: [Seat; 2],
    /// The number of the body that the second player moves.
    second: Option<usize>,
    /// The real time of all frames that was simulated.
    time: Duration,
    /// Follows the body, for drawing.
    camera: Camera<V>,
    cast: Cast<V>,
    others: Vec<Follower>,
    tick: usize,
    /// The tunings, with the tick from which each applies.
    numbers: Vec<(usize, TuningFile)>,
    kept: Vec<Kept<V>>,
    /// True if its beginning was dropped.
    shortened: bool,
    /// The fraction of a tick since the last one, for drawing.
    blend: f32,
    speed: f32,
    paused: bool,
    /// The part that is repeated.
    stretch: Option<Stretch>,
}

/// A player at the devices, with everything that the player did.
#[derive(Clone, Debug)]
struct Seat {
    sampler: Sampler,
    touch: Touch,
    tape: Tape,
}

impl Seat {
    fn new(bindings: Bindings) -> Self {
        Self { sampler: Sampler::new(bindings), touch: Touch::default(), tape: Tape::new() }
    }

    /// Receives an event at a time.
    fn hear(&mut self, event: PlayerEvent, time: Duration) {
        match event {
            PlayerEvent::Device(device) => self.sampler.event(time, device),
            PlayerEvent::Action(actions, press) => self.touch.act(actions, press),
            PlayerEvent::Steer(steer) => {
                self.touch.steer = if steer.is_finite() { steer } else { Vec2::ZERO }
            }
        }
    }

    /// Records the intent of a tick that ends at a time.
    fn record(&mut self, time: Duration) {
        let intent = self.touch.onto(self.sampler.tick(time));
        self.tape.record(intent);
    }

    fn let_go(&mut self, time: Duration) {
        self.touch = Touch::default();
        self.sampler.event(time, DeviceEvent::FocusLost);
    }
}

/// A body that follows its inputs, and its last row.
#[derive(Clone, Debug)]
struct Follower {
    mover: Mover,
    row: Row,
    intent: Intent,
}

/// A part of an attempt that is repeated, with the tuning and the level for it.
#[derive(Clone, Debug)]
struct Stretch {
    ticks: Range<usize>,
    /// The tick of the attempt when it began.
    back: usize,
    /// The tuning for it, if it was changed.
    numbers: Option<TuningFile>,
}

/// An input of the player in a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum PlayerEvent {
    /// An event of a device, to be interpreted by the bindings.
    Device(DeviceEvent),
    /// An action that is pressed or released on the screen, independent of the bindings.
    Action(Actions, Press),
    /// The position of a stick on the screen: +x right, +y forward or up, at most 1 long.
    Steer(Vec2),
}

/// An input of the player in a frame, with its time.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TimedPlayerEvent {
    /// Since the beginning of the frame.
    pub time: Duration,
    /// The input.
    pub event: PlayerEvent,
}

/// The controls on the screen: what is held, and what was pressed and released since the last tick.
#[derive(Clone, Copy, Debug, Default)]
struct Touch {
    steer: Vec2,
    held: Actions,
    pressed: Actions,
    released: Actions,
}

impl Touch {
    fn act(&mut self, actions: Actions, press: Press) {
        match press {
            Press::Down => {
                self.pressed |= actions.difference(self.held);
                self.held |= actions;
            }
            Press::Up => {
                self.released |= self.held & actions;
                self.held = self.held.difference(actions);
            }
        }
    }

    /// The intent of the devices combined with the controls on the screen.
    fn onto(&mut self, devices: Intent) -> Intent {
        let (pressed, released) = (self.pressed, self.released);
        (self.pressed, self.released) = (Actions::NONE, Actions::NONE);
        let steer = if self.steer.length_squared() > devices.steer.length_squared() {
            self.steer.clamp_length_max(1.0)
        } else {
            devices.steer
        };
        Intent {
            steer,
            held: devices.held | self.held,
            pressed: devices.pressed | pressed,
            released: devices.released | released,
            ..devices
        }
    }
}

/// One tick of an attempt.
#[derive(Clone, Debug, PartialEq)]
pub struct Ticked {
    /// The state after it, the intent and the events, as in a trace.
    pub row: Row,
    /// What was refused in it, in words, in the order of the events.
    pub refused: Vec<String>,
}

/// A path through a level, and its summary.
#[derive(Clone, Debug, PartialEq)]
pub struct Path<V> {
    /// The position of the underside, tick by tick.
    pub positions: Vec<V>,
    /// The summary.
    pub summary: Summary,
}

impl<V: Vector> Path<V> {
    /// The number of ticks after which it is first a millimetre from another path; `None` if it
    /// never is.
    #[must_use]
    pub fn parts_from(&self, other: &Self) -> Option<usize> {
        const APART: f32 = 1e-3;
        self.positions.iter().zip(&other.positions).position(|(&own, &other)| (own - other).length() > APART)
    }
}

/// A value of three dimensions, if it is one.
fn as_space<T: Any, S: Any>(value: &T) -> Option<&S> {
    (value as &dyn Any).downcast_ref()
}

/// The state of an attempt at a tick.
#[derive(Clone, Debug)]
struct Kept<V: Geometry> {
    state: State<V>,
    overlay: Option<Overlay>,
    pose_memory: PoseMemory,
    /// All bodies, if there are others than the own one.
    all: Option<Arc<(Cast<V>, Vec<Follower>)>>,
    /// The time of the level.
    time: f64,
    /// The level and its mechanisms, if more than its carriers with paths has changed.
    world: Option<Arc<(LevelSnapshot<V>, Mechanisms<V>)>>,
}

impl<V: Geometry> Attempt<V> {
    /// The bodies of a trial in `file`, which is its level or another one: its own body is moved by
    /// the player.
    #[must_use]
    pub fn new(trial: &Trial, file: LevelFile<V>, clock: Clock, bindings: [Bindings; 2]) -> Self {
        Self::of(Arc::new(trial.clone()), file, clock, bindings)
    }

    fn of(trial: Arc<Trial>, file: LevelFile<V>, clock: Clock, bindings: [Bindings; 2]) -> Self {
        let mut cast = Cast::of(&trial);
        cast.find_footing(&file.level);
        let followers = trial.others.iter().zip(1..).map(|(other, number)| Follower {
            mover: Mover::of(&other.inputs, clock.rate(), 1),
            intent: Intent::default(),
            row: cast.row(
                number,
                (0, clock.rate()),
                &Intent::default(),
                cast.body(number).position().to_array(),
                &file,
            ),
        });
        let mut attempt = Self {
            places: vec![(0, Arc::new(file.clone()))],
            place: 0,
            others: followers.collect(),
            second: trial.others.iter().position(|other| other.is_second_player).map(|place| place + 1),
            numbers: vec![(0, trial.tuning.clone())],
            trial,
            file,
            clock,
            seats: bindings.map(Seat::new),
            time: Duration::ZERO,
            camera: Camera::new(cast.body(0).tuning.camera, cast.body(0)),
            cast,
            tick: 0,
            kept: Vec::new(),
            shortened: false,
            blend: 0.0,
            speed: 1.0,
            paused: false,
            stretch: None,
        };
        attempt.keep();
        attempt
    }

    /// The body.
    #[must_use]
    pub fn body(&self) -> &Controller<V> {
        self.cast.body(0)
    }

    /// The point in the middle of the picture, by the numbers `camera.*` of the tuning, and in three
    /// dimensions the camera on its arm behind the body, between the last two ticks.
    #[must_use]
    pub fn view(&self) -> (V, Option<View>) {
        let look = self.intent().look;
        let focus = self.camera.focus(self.blend);
        let in_space = as_space(&self.camera).zip(as_space(self.body())).zip(as_space(&self.file.level));
        let view = |((camera, body), level): ((&Camera<Vec3>, &Controller<Vec3>), &Level<Vec3>)| {
            camera.on_arm(body, look, self.blend, level, Layers::ALL)
        };
        (focus, in_space.map(view))
    }

    /// Lets the camera follow the last tick.
    fn film(&mut self, look: Look, dt: f32) {
        let body = self.cast.body(0);
        self.camera.knobs = body.tuning.camera;
        let camera: &mut dyn Any = &mut self.camera;
        match (
            camera.downcast_mut::<Camera<Vec3>>(),
            as_space(body),
            as_space::<_, Level<Vec3>>(&self.file.level),
        ) {
            (Some(camera), Some(body), Some(level)) => {
                camera.tick_on_arm(body, dt, look, level, Layers::ALL);
            }
            _ => self.camera.tick(body, dt),
        }
    }

    /// The names of the others with their bodies and their intents of the last tick, in the order of
    /// the trial.
    pub fn others(&self) -> impl Iterator<Item = (&str, &Controller<V>, Intent)> {
        let all = self.others.iter().zip(1..);
        all.map(|(other, number)| (&**self.cast.name(number), self.cast.body(number), other.intent))
    }

    /// The name of the body that the second player moves.
    #[must_use]
    pub fn second_player(&self) -> Option<&str> {
        self.second.map(|number| &**self.cast.name(number))
    }

    /// The current level.
    #[must_use]
    pub fn file(&self) -> &LevelFile<V> {
        &self.file
    }

    /// The current level as it was read or changed last, before anything moved.
    #[must_use]
    pub fn place(&self) -> &LevelFile<V> {
        self.now()
    }

    /// The number of ticks since the start.
    #[must_use]
    pub fn tick(&self) -> usize {
        self.tick
    }

    /// The number of recorded ticks.
    #[must_use]
    pub fn len(&self) -> usize {
        self.own_tape().len()
    }

    /// Returns true if no tick is recorded.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.own_tape().is_empty()
    }

    /// Everything that is recorded of the player.
    fn own_tape(&self) -> &Tape {
        &self.seats[0].tape
    }

    /// Ticks per second.
    #[must_use]
    pub fn rate(&self) -> u32 {
        self.clock.rate()
    }

    /// The fraction of a tick since the last one, for [`Controller::pose`].
    #[must_use]
    pub fn blend(&self) -> f32 {
        self.blend
    }

    /// The intent of the last tick.
    #[must_use]
    pub fn intent(&self) -> Intent {
        self.tick.checked_sub(1).map_or_else(Intent::default, |tick| self.own_tape().at(tick))
    }

    /// The bindings of the player and of the second player.
    #[must_use]
    pub fn bindings(&self) -> [&Bindings; 2] {
        self.seats.each_ref().map(|seat| seat.sampler.bindings())
    }

    /// Changes the player's bindings from the next tick on. Keys that are held then are ignored
    /// until they are pressed again.
    pub fn rebind(&mut self, bindings: Bindings) {
        self.seats[0].sampler.rebind(bindings);
    }

    /// The inputs so far; `None` if their beginning was dropped.
    #[must_use]
    pub fn tape(&self) -> Option<Tape> {
        (!self.shortened).then(|| self.own_tape().trimmed(0..self.tick))
    }

    /// The inputs of the second player so far. `None` without one, or if their beginning was dropped.
    #[must_use]
    pub fn second_tape(&self) -> Option<Tape> {
        self.second.filter(|_| !self.shortened).map(|_| self.seats[1].tape.trimmed(0..self.tick))
    }

    /// Returns true if it is paused.
    #[must_use]
    pub fn is_paused(&self) -> bool {
        self.paused
    }

    /// Pauses or resumes it. If it is resumed at an earlier tick, what came after that is dropped
    /// with the next tick.
    pub fn pause(&mut self, paused: bool) {
        self.paused = paused;
    }

    /// Sets the simulated seconds per real second, 0.05 to 1.
    pub fn set_speed(&mut self, speed: f32) {
        if speed.is_finite() {
            self.speed = speed.clamp(0.05, 1.0);
        }
    }

    /// Advances by a frame that took `elapsed`, in which the player did `events`. Returns the ticks
    /// that were simulated: none while it is paused.
    pub fn frame(&mut self, elapsed: Duration, events: &[TimedPlayerEvent]) -> Vec<Ticked> {
        // A repeated part has its own inputs.
        let heard = if self.stretch.is_some() { &[] } else { events };
        for &TimedPlayerEvent { time, event } in heard {
            let time = self.time + time.min(elapsed).mul_f32(self.speed);
            match event {
                PlayerEvent::Device(DeviceEvent::FocusLost) => {
                    self.seats.iter_mut().for_each(|seat| seat.let_go(time));
                }
                _ => self.seats[self.seat_of(&event)].hear(event, time),
            }
        }
        if self.paused {
            return Vec::new();
        }
        let due = self.clock.frame(elapsed.mul_f32(self.speed));
        self.blend = due.blend;
        let ticked = (0..due.ticks)
            .map(|_| if self.stretch.is_some() { self.step_of_stretch() } else { self.play() })
            .collect();
        if self.len() > self.longest() {
            self.shorten(self.len() / 2);
        }
        ticked
    }

    /// The seat that an event is for. With a second player, the keys that are bound for the second and
    /// all gamepads but the first are the second's.
    fn seat_of(&self, event: &PlayerEvent) -> usize {
        let is_for_second = match event {
            _ if self.second.is_none() => false,
            PlayerEvent::Device(DeviceEvent::Key(key, _)) => {
                let bindings = self.seats[1].sampler.bindings();
                let gestures = bindings.gestures.iter().map(|(chord, ..)| chord);
                let mut chords = bindings.chords.iter().map(|(chord, _)| chord).chain(gestures);
                chords.any(|chord| chord.sources().contains(&Source::Key(*key)))
            }
            PlayerEvent::Device(DeviceEvent::Pad { pad, .. } | DeviceEvent::PadMoved { pad, .. }) => *pad > 0,
            _ => false,
        };
        usize::from(is_for_second)
    }

    /// The number of ticks that an attempt can have: fewer with many bodies, whose states are stored.
    fn longest(&self) -> usize {
        LONGEST * self.rate() as usize / (1 + self.others.len() / 8)
    }

    /// Simulates a tick with the current input of the player. What came after it is dropped.
    fn play(&mut self) -> Ticked {
        self.forget_future();
        self.time += Duration::from_secs_f64(1.0 / f64::from(self.rate()));
        for seat in &mut self.seats {
            seat.record(self.time);
        }
        self.step(self.own_tape().at(self.tick))
    }

    /// Advances by one tick and pauses: the next one of the attempt, or at its end a new one with
    /// what the player holds now.
    pub fn step_on(&mut self) -> Ticked {
        self.end_stretch();
        self.paused = true;
        self.blend = 1.0;
        if self.tick < self.len() { self.step(self.own_tape().at(self.tick)) } else { self.play() }
    }

    /// Replays a recording from the start, with the current tuning and level, and pauses after
    /// `tick` ticks of it. `second` is that of the second player.
    pub fn replay(&mut self, tape: &Tape, second: &Tape, tick: usize) {
        self.restart();
        let longest = self.longest();
        let ticks = tape.len().min(longest);
        for (seat, tape) in self.seats.iter_mut().zip([tape, second]) {
            seat.tape = tape.trimmed(0..ticks.min(tape.len()));
        }
        while self.tick < self.len() {
            self.step(self.own_tape().at(self.tick));
        }
        self.seek(tick);
    }

    /// Calls `visit` with the attempt as it was after each tick of a range (0 is the start). The
    /// attempt itself does not change.
    pub fn each_tick(&self, ticks: Range<usize>, mut visit: impl FnMut(&Self, &Row)) {
        let mut again = self.clone();
        again.stretch = None;
        again.blend = 1.0;
        let first = ticks.start.min(again.len());
        again.go_to(first.saturating_sub(1));
        if first == 0 {
            let before = again.body().position().to_array();
            let row = again.row(Intent::default(), before);
            visit(&again, &row);
        }
        while again.tick < ticks.end.saturating_sub(1).min(again.len()) {
            let intent = again.own_tape().at(again.tick);
            let Ticked { row, .. } = again.step(intent);
            visit(&again, &row);
        }
    }

    /// Repeats a part, the ticks after `ticks.start` up to its end, with the same inputs and the
    /// current tuning. A tuning that is changed meanwhile applies from the beginning of the part.
    /// Does nothing if the part has no ticks.
    pub fn repeat(&mut self, ticks: Range<usize>) {
        let ticks = ticks.start.min(self.len())..ticks.end.min(self.len());
        if ticks.is_empty() {
            return;
        }
        self.end_stretch();
        self.let_go();
        let back = self.tick;
        self.seek(ticks.start);
        self.paused = false;
        self.stretch = Some(Stretch { ticks, back, numbers: None });
    }

    /// The part that is repeated.
    #[must_use]
    pub fn stretch(&self) -> Option<Range<usize>> {
        self.stretch.as_ref().map(|stretch| stretch.ticks.clone())
    }

    /// Stops repeating. The attempt is where it was before; or, if the tuning was changed
    /// meanwhile, at the beginning of the part with the new tuning.
    pub fn end_stretch(&mut self) {
        let Some(Stretch { ticks, back, numbers }) = self.stretch.take() else { return };
        match numbers {
            Some(numbers) => {
                self.seek(ticks.start);
                self.turn(numbers);
            }
            None => self.seek(back),
        }
    }

    /// One tick of the repeated part, which starts again after its end.
    fn step_of_stretch(&mut self) -> Ticked {
        let Some(Stretch { ticks, numbers, .. }) = &self.stretch else { return self.play() };
        let worn = numbers.as_ref().map(|numbers| (numbers.tuning, numbers.hull));
        if !ticks.contains(&self.tick) {
            self.go_to(ticks.start);
        }
        match worn {
            Some((tuning, hull)) => {
                let body = self.cast.body_mut(0);
                (body.tuning, body.hull) = (tuning, hull);
            }
            None => self.take_numbers(),
        }
        self.tick_with(self.own_tape().at(self.tick))
    }

    /// The window lost the focus: everything is released.
    pub fn let_go(&mut self) {
        for seat in &mut self.seats {
            seat.let_go(self.time);
        }
    }

    /// The current tuning.
    #[must_use]
    pub fn numbers(&self) -> &TuningFile {
        let turned = self.stretch.as_ref().and_then(|stretch| stretch.numbers.as_ref());
        turned.unwrap_or(&self.numbers[self.numbers.len() - 1].1)
    }

    /// Changes the tuning from now on. What came after now is dropped, except while a part is
    /// repeated.
    pub fn turn(&mut self, numbers: TuningFile) {
        if let Some(stretch) = &mut self.stretch {
            stretch.numbers = Some(numbers);
            return;
        }
        self.forget_future();
        let body = self.cast.body_mut(0);
        body.tuning = numbers.tuning;
        if numbers.hull != body.hull {
            body.change_hull(numbers.hull, &self.file.level);
        }
        match self.numbers.last_mut() {
            Some((tick, held)) if *tick == self.tick => *held = numbers,
            _ => self.numbers.push((self.tick, numbers)),
        }
        if self.tick.is_multiple_of(EVERY) {
            self.kept.truncate(self.tick / EVERY);
            self.keep();
        }
    }

    /// Changes the level from now on; the body stays where it is. What came after now is dropped,
    /// and a part is no longer repeated.
    ///
    /// Carriers are where they would be had they moved since the start. A body that rode on one
    /// looks for its ground again.
    pub fn reshape(&mut self, mut file: LevelFile<V>) {
        // An up or a scale that the file does not state was adopted from the tuning.
        (file.up, file.scale) = (file.up.or(self.file.up), file.scale.or(self.file.scale));
        self.end_stretch();
        self.forget_future();
        match self.places.last_mut() {
            Some((tick, held)) if *tick == self.tick => *held = Arc::new(file),
            _ => self.places.push((self.tick, Arc::new(file))),
        }
        let time = self.file.level.time();
        self.file = LevelFile::clone(self.now());
        self.place = self.places.len() - 1;
        self.enter(self.place, time);
        self.find_carrier();
        if self.tick.is_multiple_of(EVERY) {
            self.kept.truncate(self.tick / EVERY);
            self.keep();
        }
        if self.places.len() > PLACES {
            self.shorten(self.places[PLACES / 2].0);
        }
    }

    /// Moves the body to another start, and restarts.
    pub fn start_at(&mut self, start: V) {
        Arc::make_mut(&mut self.trial).start = start.to_array();
        self.restart();
    }

    /// The initial position of the middle of the underside.
    #[must_use]
    pub fn start(&self) -> V {
        V::from_array(self.trial.start)
    }

    /// Returns true if the tuning or the level were changed during the attempt.
    #[must_use]
    pub fn was_changed(&self) -> bool {
        self.numbers.len() > 1 || self.places.len() > 1
    }

    /// Goes to a tick and pauses there. A part that is repeated ends first.
    pub fn seek(&mut self, tick: usize) {
        self.end_stretch();
        self.paused = true;
        self.blend = 1.0;
        self.go_to(tick.min(self.len()));
    }

    /// Goes to a tick from the last stored state before it.
    fn go_to(&mut self, tick: usize) {
        let from = (tick / EVERY).min(self.kept.len() - 1);
        let Kept { state, overlay, pose_memory, all, time, world } = self.kept[from].clone();
        self.tick = from * EVERY;
        self.enter(self.place_of(self.tick), time);
        if let Some(world) = world {
            self.file.level.restore(&world.0);
            self.file.mechanisms = world.1.clone();
        }
        match all {
            Some(all) => (self.cast, self.others) = (*all).clone(),
            None => {
                self.cast.body_mut(0).restore(state);
                self.cast.body_mut(0).restore_overlay(overlay);
                self.cast.body_mut(0).restore_pose_memory(pose_memory);
            }
        }
        self.take_numbers();
        self.camera.cut(self.cast.body(0));
        while self.tick < tick {
            self.step(self.own_tape().at(self.tick));
        }
    }

    /// Restarts with the current tuning and level, and drops the recording.
    pub fn restart(&mut self) {
        let numbers = self.numbers().clone();
        let bindings = self.bindings().map(Clone::clone);
        let (paused, speed) = (self.paused, self.speed);
        let file = LevelFile::clone(self.now());
        let mut trial = Arc::clone(&self.trial);
        Arc::make_mut(&mut trial).tuning = numbers;
        *self = Self::of(trial, file, self.clock, bindings);
        (self.paused, self.speed) = (paused, speed);
    }

    /// The current level, before its carriers moved.
    fn now(&self) -> &Arc<LevelFile<V>> {
        &self.places[self.places.len() - 1].1
    }

    /// The level that applies in a tick.
    fn place_of(&self, tick: usize) -> usize {
        self.places.partition_point(|(from, _)| *from <= tick).saturating_sub(1)
    }

    /// Puts the body into one of the levels, at a time of its carriers.
    fn enter(&mut self, place: usize, time: f64) {
        // The current level is there already, wherever its carriers are, unless it was changed.
        if place != self.place || !self.file.mechanisms.is_still() {
            self.file = LevelFile::clone(&self.places[place].1);
        }
        self.place = place;
        self.file.level.set_time(time, self.clock.dt());
    }

    /// Puts the body into the level that applies from this tick on.
    fn take_place(&mut self) {
        let place = self.place_of(self.tick);
        if place != self.place {
            self.enter(place, self.file.level.time());
            self.find_carrier();
        }
    }

    /// In a changed level, a carrier may have another id.
    fn find_carrier(&mut self) {
        for number in 0..self.cast.len() {
            let footing = self.cast.body(number).state().footing;
            if footing.carrier.is_some() && footing.piece.body().is_none() {
                self.cast.body_mut(number).find_footing(&self.file.level);
            }
        }
    }

    /// The path with the same inputs, from the start, with another tuning and the current level
    /// throughout.
    #[must_use]
    pub fn replayed(&self, numbers: &TuningFile) -> Path<V> {
        let mut again = self.clone();
        again.numbers = vec![(0, numbers.clone())];
        again.places = vec![(0, Arc::clone(self.now()))];
        again.file = LevelFile::clone(self.now());
        again.place = 0;
        // What was stored is of the levels that were played.
        again.kept.truncate(1);
        again.kept[0].world = None;
        again.go_through(self.len())
    }

    /// The paths of a jump from here with the current steering, if no carrier moved: with jump
    /// held, and released at once. Empty if no jump takes off.
    #[must_use]
    pub fn arcs(&self) -> [Vec<V>; 2] {
        /// The number of seconds that are predicted.
        const AHEAD: f32 = 2.0;
        let ticks = (AHEAD * self.rate() as f32) as usize;
        [true, false].map(|held| {
            let mut body = self.body().clone();
            let level = &self.file.level;
            let steered = Intent { pressed: Actions::NONE, released: Actions::NONE, ..self.intent() };
            let jumps = steered.pressing(Actions::JUMP);
            let after = if held { steered.holding(Actions::JUMP) } else { steered.releasing(Actions::JUMP) };
            let mut arc = vec![body.position()];
            for tick in 0..ticks {
                body.tick(if tick == 0 { &jumps } else { &after }, level, self.clock.dt());
                let took_off = body.events().iter().any(|event| matches!(event, Event::Jumped { .. }));
                if tick == 0 && !took_off {
                    return Vec::new();
                }
                arc.push(body.position());
                if tick > 0 && body.state().footing.is_firm() {
                    break;
                }
            }
            arc
        })
    }

    /// The path so far, simulated again as it was.
    #[must_use]
    pub fn path(&self) -> Path<V> {
        self.clone().go_through(self.tick)
    }

    /// Simulates the first ticks again.
    fn go_through(mut self, ticks: usize) -> Path<V> {
        self.stretch = None;
        self.go_to(0);
        let rate = self.rate();
        let mut rows = vec![self.row(Intent::default(), self.body().position().to_array())];
        while self.tick < ticks {
            let intent = self.own_tape().at(self.tick);
            rows.push(self.step(intent).row);
        }
        let trace = Trace { dimensions: V::DIMENSION, rate, rows };
        let has_up = !self.numbers().tuning.steering.is_from_above(V::DIMENSION);
        Path {
            positions: trace.rows.iter().map(|row| V::from_array(row.position)).collect(),
            summary: played::summary(
                &self.numbers().title,
                &trace,
                (has_up.then(|| self.file.up().to_array()), self.file.scale()),
            ),
        }
    }

    /// One tick with an intent, with the tuning and the level that apply in it.
    fn step(&mut self, intent: Intent) -> Ticked {
        self.take_numbers();
        let ticked = self.tick_with(intent);
        if self.tick.is_multiple_of(EVERY) {
            self.kept.truncate(self.tick / EVERY);
            self.keep();
        }
        ticked
    }

    /// The row of the body after the last tick, which began at `before`.
    fn row(&self, intent: Intent, before: [f32; 3]) -> Row {
        self.cast.row(0, (self.tick, self.rate()), &intent, before, &self.file)
    }

    fn tick_with(&mut self, intent: Intent) -> Ticked {
        let before: Vec<[f32; 3]> =
            (0..self.cast.len()).map(|number| self.cast.body(number).position().to_array()).collect();
        let dt = self.clock.dt();
        let mut intents = vec![intent];
        for number in 1..self.cast.len() {
            let Played { intent, host } = self.played(number);
            intents.push(intent);
            for done in &host {
                self.cast.by_the_host(number, done, &self.trial.tracks, dt);
                in_the_level(&mut self.file.level, &mut self.file.mechanisms, done);
            }
        }
        self.cast.tick(&mut self.file, &intents, dt);
        let (up, bounds) = (self.file.up(), self.file.level.bounds());
        let lowest = bounds.centre().dot(up) - (bounds.max - bounds.min).dot(up.abs()) * 0.5;
        let abyss = lowest - ABYSS * self.file.scale();
        for number in 0..self.cast.len() {
            if self.cast.body(number).position().dot(up) < abyss {
                self.cast.body_mut(number).respawn();
            }
        }
        self.tick += 1;
        let row = self.row(intent, before[0]);
        let at = (self.tick, self.rate());
        for (place, follower) in self.others.iter_mut().enumerate() {
            let number = place + 1;
            follower.intent = intents[number];
            follower.row = self.cast.row(number, at, &intents[number], before[number], &self.file);
        }
        let refused = self.body().events().iter().filter_map(|event| match event {
            Event::Refused { what } => Some(what.to_string()),
            _ => None,
        });
        let ticked = Ticked { row, refused: refused.collect() };
        self.film(intent.look, dt);
        // The level may have been changed after this tick.
        self.take_place();
        ticked
    }

    /// What another body does in the next tick, by its inputs or by the second player.
    fn played(&mut self, number: usize) -> Played {
        if self.second == Some(number) {
            return Played { intent: self.seats[1].tape.at(self.tick), host: Vec::new() };
        }
        let Follower { mover, row, .. } = &mut self.others[number - 1];
        mover.tick(row, |target| self.cast.toward(number, target))
    }

    fn keep(&mut self) {
        let LevelFile { level, mechanisms, .. } = &self.file;
        let world = (!mechanisms.is_still()).then(|| Arc::new((level.snapshot(), mechanisms.clone())));
        let all = (!self.others.is_empty()).then(|| Arc::new((self.cast.clone(), self.others.clone())));
        let overlay = self.body().overlay().copied();
        self.kept.push(Kept {
            state: *self.body().state(),
            overlay,
            pose_memory: *self.body().pose_memory(),
            all,
            time: level.time(),
            world,
        });
    }

    /// Applies the tuning of this tick.
    fn take_numbers(&mut self) {
        let of = self.numbers.partition_point(|(from, _)| *from <= self.tick).saturating_sub(1);
        let (tuning, hull) = (self.numbers[of].1.tuning, self.numbers[of].1.hull);
        let body = self.cast.body_mut(0);
        (body.tuning, body.hull) = (tuning, hull);
    }

    fn forget_future(&mut self) {
        if self.tick < self.len() {
            for seat in &mut self.seats {
                seat.tape = seat.tape.trimmed(0..self.tick);
            }
            self.kept.truncate(self.tick / EVERY + 1);
            self.numbers.retain(|(from, _)| *from <= self.tick);
            self.places.retain(|(from, _)| *from <= self.tick);
        }
    }

    /// Drops the first ticks.
    fn shorten(&mut self, dropped: usize) {
        let dropped = dropped.min(self.tick) / EVERY * EVERY;
        self.shortened |= dropped > 0;
        let recorded = self.len();
        for seat in &mut self.seats {
            seat.tape = seat.tape.trimmed(dropped..recorded);
        }
        self.kept.drain(..dropped / EVERY);
        self.tick -= dropped;
        let of = self.numbers.partition_point(|(from, _)| *from <= dropped).saturating_sub(1);
        self.numbers.drain(..of);
        for (from, _) in &mut self.numbers {
            *from = from.saturating_sub(dropped);
        }
        let of = self.place_of(dropped);
        self.places.drain(..of);
        self.place -= of;
        for (from, _) in &mut self.places {
            *from = from.saturating_sub(dropped);
        }
    }
}

/// The tuning file with one number changed: a knob, or a size of its hull.
///
/// # Errors
/// If there is no such number, or it cannot have the value.
pub fn turned(file: &TuningFile, number: &str, value: f32) -> Result<TuningFile, NumberError> {
    let mut file = file.clone();
    file.set_number(number, value)?;
    Ok(file)
}
