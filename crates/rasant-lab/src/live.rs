//! A body that is played by hand, its whole attempt kept.
//!
//! An [`Attempt`] is advanced by frames of real time, takes the player's device
//! events, and remembers every intent, so that any tick of it can be gone back to,
//! to the same bits, gone on from, and played again under other numbers. Numbers and
//! the place itself may change on the way; what held when is remembered.

use std::ops::Range;
use std::sync::Arc;
use std::time::Duration;

use rasant::glam::Vec2;
use rasant::{
    Actions, Bindings, Clock, Controller, DeviceEvent, Event, Geometry, Intent, Press, Sampler, State, Tape,
    Vector,
};

use crate::played::{self, Summary};
use crate::run;
use crate::trace::{Row, Trace};
use rasant_files::{LevelFile, NumberError, TuningFile};

/// Ticks between two states that are kept; those between are simulated again.
const EVERY: usize = 16;
/// Seconds that an attempt lasts at most; what is longer loses its beginning.
pub const LONGEST: usize = 30 * 60;
/// Metres below everything at which a body is put back to its checkpoint.
const ABYSS: f32 = 12.0;

/// Changes of the place that an attempt keeps; with more it begins later.
const PLACES: usize = 200;

/// A body, the level it is in, and all that it did since it was put there.
#[derive(Clone, Debug)]
pub struct Attempt<V: Geometry> {
    /// The place as it is in this tick.
    file: LevelFile<V>,
    /// The places that held from a tick on, before their carriers moved.
    places: Vec<(usize, Arc<LevelFile<V>>)>,
    /// Which of them the body is in.
    place: usize,
    start: V,
    clock: Clock,
    sampler: Sampler,
    touch: Touch,
    /// Real time that frames have told, and simulated.
    time: Duration,
    body: Controller<V>,
    tick: usize,
    tape: Tape,
    /// The numbers that held from a tick on.
    numbers: Vec<(usize, TuningFile)>,
    kept: Vec<(State<V>, f64)>,
    /// Whether its beginning has been forgotten.
    shortened: bool,
    /// The share of a tick that is yet to come, for drawing between two.
    blend: f32,
    speed: f32,
    paused: bool,
    /// The stretch that is played over and over.
    stretch: Option<Stretch>,
}

/// A stretch of an attempt that is played over and over, and the numbers and the place
/// that it is played with.
#[derive(Clone, Debug)]
struct Stretch {
    ticks: Range<usize>,
    /// Where the attempt was when it began.
    back: usize,
    /// The numbers that it is played with, once any were turned.
    numbers: Option<TuningFile>,
}

/// What the player does in a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum PlayerEvent {
    /// Something that a device said. The bindings say what it means.
    Device(DeviceEvent),
    /// An action that is pressed or released on the screen, whatever the bindings are.
    Action(Actions, Press),
    /// Where a stick on the screen steers: +x right, +y forward or up, of length 1 at most.
    Steer(Vec2),
}

/// Something that the player does in a frame, and when.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TimedPlayerEvent {
    /// Since the frame began.
    pub time: Duration,
    /// What.
    pub event: PlayerEvent,
}

/// The controls on the screen: what is held, and what was pressed and released since the
/// last tick.
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

    /// The intent of the devices with what the screen adds to it.
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

/// A path through a level, and what it comes to.
#[derive(Clone, Debug, PartialEq)]
pub struct Path<V> {
    /// Where the underside was, tick by tick.
    pub positions: Vec<V>,
    /// What it comes to.
    pub summary: Summary,
}

impl<V: Vector> Path<V> {
    /// After how many ticks it is first a millimetre from another; nothing where it never
    /// is.
    #[must_use]
    pub fn parts_from(&self, other: &Self) -> Option<usize> {
        const APART: f32 = 1e-3;
        self.positions.iter().zip(&other.positions).position(|(&own, &other)| (own - other).length() > APART)
    }
}

impl<V: Geometry> Attempt<V> {
    /// A body with these numbers at `start`, before anything.
    #[must_use]
    pub fn new(file: LevelFile<V>, numbers: TuningFile, start: V, clock: Clock, bindings: Bindings) -> Self {
        let mut body = Controller::new(numbers.tuning, numbers.hull, start);
        body.find_footing(&file.level);
        let mut attempt = Self {
            places: vec![(0, Arc::new(file.clone()))],
            place: 0,
            file,
            start,
            clock,
            sampler: Sampler::new(bindings),
            touch: Touch::default(),
            time: Duration::ZERO,
            body,
            tick: 0,
            tape: Tape::new(),
            numbers: vec![(0, numbers)],
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
        &self.body
    }

    /// The level, as it is now.
    #[must_use]
    pub fn file(&self) -> &LevelFile<V> {
        &self.file
    }

    /// How many ticks it is from the start.
    #[must_use]
    pub fn tick(&self) -> usize {
        self.tick
    }

    /// How many ticks are kept.
    #[must_use]
    pub fn len(&self) -> usize {
        self.tape.len()
    }

    /// Whether nothing has happened yet.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.tape.is_empty()
    }

    /// Ticks a second.
    #[must_use]
    pub fn rate(&self) -> u32 {
        self.clock.rate()
    }

    /// The share of a tick since the last one, for [`Controller::pose`].
    #[must_use]
    pub fn blend(&self) -> f32 {
        self.blend
    }

    /// The intent of the last tick.
    #[must_use]
    pub fn intent(&self) -> Intent {
        self.tick.checked_sub(1).map_or_else(Intent::default, |tick| self.tape.at(tick))
    }

    /// The player's bindings.
    #[must_use]
    pub fn bindings(&self) -> &Bindings {
        self.sampler.bindings()
    }

    /// Gives the player other bindings from the next tick on. Keys that are held then do
    /// nothing until they are pressed again.
    pub fn rebind(&mut self, bindings: Bindings) {
        self.sampler.rebind(bindings);
    }

    /// The inputs up to now; nothing if their beginning has been forgotten.
    #[must_use]
    pub fn tape(&self) -> Option<Tape> {
        (!self.shortened).then(|| self.tape.trimmed(0..self.tick))
    }

    /// Whether it stands still.
    #[must_use]
    pub fn is_paused(&self) -> bool {
        self.paused
    }

    /// Holds it, or lets it go on. Gone on with from an earlier tick, what came after
    /// that is forgotten with the next tick.
    pub fn pause(&mut self, paused: bool) {
        self.paused = paused;
    }

    /// Simulated seconds a second, 0.05 to 1.
    pub fn set_speed(&mut self, speed: f32) {
        if speed.is_finite() {
            self.speed = speed.clamp(0.05, 1.0);
        }
    }

    /// Goes on by a frame that took `elapsed`, in which the player did `events`. Returns
    /// the ticks that were simulated: none while it is paused.
    pub fn frame(&mut self, elapsed: Duration, events: &[TimedPlayerEvent]) -> Vec<Ticked> {
        // A stretch that is repeated has its own inputs.
        let heard = if self.stretch.is_some() { &[] } else { events };
        for TimedPlayerEvent { time, event } in heard {
            let within = (*time).min(elapsed).mul_f32(self.speed);
            match *event {
                PlayerEvent::Device(device) => {
                    if device == DeviceEvent::FocusLost {
                        self.touch = Touch::default();
                    }
                    self.sampler.event(self.time + within, device);
                }
                PlayerEvent::Action(actions, press) => self.touch.act(actions, press),
                PlayerEvent::Steer(steer) => {
                    self.touch.steer = if steer.is_finite() { steer } else { Vec2::ZERO }
                }
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
        if self.len() > LONGEST * self.rate() as usize {
            self.shorten(self.len() / 2);
        }
        ticked
    }

    /// A tick with what the player does now; what came after it is forgotten.
    fn play(&mut self) -> Ticked {
        self.forget_future();
        self.time += Duration::from_secs_f64(1.0 / f64::from(self.rate()));
        let intent = self.touch.onto(self.sampler.tick(self.time));
        self.tape.record(intent);
        self.step(intent)
    }

    /// Goes on by one tick and holds there: the next one of the attempt, or at its end a new
    /// one with what the player holds now.
    pub fn step_on(&mut self) -> Ticked {
        self.end_stretch();
        self.paused = true;
        self.blend = 1.0;
        if self.tick < self.len() { self.step(self.tape.at(self.tick)) } else { self.play() }
    }

    /// Plays a recording from the start, with the numbers and the place of now, and holds
    /// after `tick` ticks of it.
    pub fn replay(&mut self, tape: &Tape, tick: usize) {
        self.restart();
        let longest = LONGEST * self.rate() as usize;
        self.tape = tape.trimmed(0..tape.len().min(longest));
        while self.tick < self.len() {
            self.step(self.tape.at(self.tick));
        }
        self.seek(tick);
    }

    /// Calls `visit` with the attempt as it was after each tick of a range, 0 being the
    /// start. The attempt itself stays as it is.
    pub fn each_tick(&self, ticks: Range<usize>, mut visit: impl FnMut(&Self, &Row)) {
        let mut again = self.clone();
        again.stretch = None;
        again.blend = 1.0;
        let first = ticks.start.min(again.len());
        again.go_to(first.saturating_sub(1));
        if first == 0 {
            let before = again.body.position().to_array();
            let row = again.row(Intent::default(), before);
            visit(&again, &row);
        }
        while again.tick < ticks.end.saturating_sub(1).min(again.len()) {
            let intent = again.tape.at(again.tick);
            let Ticked { row, .. } = again.step(intent);
            visit(&again, &row);
        }
    }

    /// Plays a stretch over and over, of the ticks after `ticks.start` up to its end,
    /// with the same inputs, under the numbers of now. Numbers turned meanwhile hold
    /// from its beginning on. Nothing is done where it has no ticks.
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

    /// The stretch that is played over and over.
    #[must_use]
    pub fn stretch(&self) -> Option<Range<usize>> {
        self.stretch.as_ref().map(|stretch| stretch.ticks.clone())
    }

    /// No longer plays a stretch over and over. It is where it was; or, where numbers
    /// were turned meanwhile, at the stretch's beginning with those, to go on from.
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

    /// One tick of the stretch, from its beginning again after its end.
    fn step_of_stretch(&mut self) -> Ticked {
        let Some(Stretch { ticks, numbers, .. }) = &self.stretch else { return self.play() };
        let worn = numbers.as_ref().map(|numbers| (numbers.tuning, numbers.hull));
        if !ticks.contains(&self.tick) {
            self.go_to(ticks.start);
        }
        match worn {
            Some(worn) => (self.body.tuning, self.body.hull) = worn,
            None => self.take_numbers(),
        }
        self.tick_with(self.tape.at(self.tick))
    }

    /// The window is no longer in front: everything is let go.
    pub fn let_go(&mut self) {
        self.touch = Touch::default();
        self.sampler.event(self.time, DeviceEvent::FocusLost);
    }

    /// The numbers that hold now.
    #[must_use]
    pub fn numbers(&self) -> &TuningFile {
        let turned = self.stretch.as_ref().and_then(|stretch| stretch.numbers.as_ref());
        turned.unwrap_or(&self.numbers[self.numbers.len() - 1].1)
    }

    /// Other numbers from now on. What came after now is forgotten; not so while a
    /// stretch is played over and over.
    pub fn turn(&mut self, numbers: TuningFile) {
        if let Some(stretch) = &mut self.stretch {
            stretch.numbers = Some(numbers);
            return;
        }
        self.forget_future();
        self.body.tuning = numbers.tuning;
        if numbers.hull != self.body.hull {
            self.body.change_hull(numbers.hull, &self.file.level);
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

    /// Another place from now on, the body where it is. What came after now is
    /// forgotten, and a stretch is no longer played over and over.
    ///
    /// Carriers are where they would be had they moved all along. A body that rode on
    /// one looks for its ground anew.
    pub fn reshape(&mut self, file: LevelFile<V>) {
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

    /// The body at another start, and from there again.
    pub fn start_at(&mut self, start: V) {
        self.start = start;
        self.restart();
    }

    /// Where the middle of the underside starts.
    #[must_use]
    pub fn start(&self) -> V {
        self.start
    }

    /// Whether the numbers or the place were changed on the way.
    #[must_use]
    pub fn was_changed(&self) -> bool {
        self.numbers.len() > 1 || self.places.len() > 1
    }

    /// Goes to a tick, and holds there; a stretch that is played over and over ends
    /// first.
    pub fn seek(&mut self, tick: usize) {
        self.end_stretch();
        self.paused = true;
        self.blend = 1.0;
        self.go_to(tick.min(self.len()));
    }

    /// Goes to a tick from the last state that is kept before it.
    fn go_to(&mut self, tick: usize) {
        let from = (tick / EVERY).min(self.kept.len() - 1);
        let (state, time) = self.kept[from];
        self.tick = from * EVERY;
        self.enter(self.place_of(self.tick), time);
        self.body.restore(state);
        self.take_numbers();
        while self.tick < tick {
            self.step(self.tape.at(self.tick));
        }
    }

    /// Back to the start, with the numbers and the place of now; nothing is kept.
    pub fn restart(&mut self) {
        let numbers = self.numbers().clone();
        let bindings = self.sampler.bindings().clone();
        let (paused, speed) = (self.paused, self.speed);
        let file = LevelFile::clone(self.now());
        *self = Self::new(file, numbers, self.start, self.clock, bindings);
        (self.paused, self.speed) = (paused, speed);
    }

    /// The place of now, before its carriers moved.
    fn now(&self) -> &Arc<LevelFile<V>> {
        &self.places[self.places.len() - 1].1
    }

    /// Which place holds in a tick.
    fn place_of(&self, tick: usize) -> usize {
        self.places.partition_point(|(from, _)| *from <= tick).saturating_sub(1)
    }

    /// Puts the body in one of the places, at a time of its carriers.
    fn enter(&mut self, place: usize, time: f64) {
        // The one it is in is there already, wherever its carriers are.
        if place != self.place {
            self.file = LevelFile::clone(&self.places[place].1);
        }
        self.place = place;
        self.file.level.set_time(time, self.clock.dt());
    }

    /// Puts the body in the place that holds from this tick on.
    fn take_place(&mut self) {
        let place = self.place_of(self.tick);
        if place != self.place {
            self.enter(place, self.file.level.time());
            self.find_carrier();
        }
    }

    /// A carrier's number may be another's in a changed place.
    fn find_carrier(&mut self) {
        if self.body.state().footing.carrier.is_some() {
            self.body.find_footing(&self.file.level);
        }
    }

    /// The same inputs, from the start, under other numbers and in the place of now all
    /// along.
    #[must_use]
    pub fn replayed(&self, numbers: &TuningFile) -> Path<V> {
        let mut again = self.clone();
        again.numbers = vec![(0, numbers.clone())];
        again.places = vec![(0, Arc::clone(self.now()))];
        again.file = LevelFile::clone(self.now());
        again.place = 0;
        again.go_through(self.len())
    }

    /// Where a jump would lead from here, while steered as now and if no carrier moved:
    /// held, and let go at once. Empty where none takes off.
    #[must_use]
    pub fn arcs(&self) -> [Vec<V>; 2] {
        /// Seconds that are looked ahead.
        const AHEAD: f32 = 2.0;
        let ticks = (AHEAD * self.rate() as f32) as usize;
        [true, false].map(|held| {
            let mut body = self.body.clone();
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

    /// What it came to up to now, played once more as it was.
    #[must_use]
    pub fn path(&self) -> Path<V> {
        self.clone().go_through(self.tick)
    }

    /// Plays the first ticks once more.
    fn go_through(mut self, ticks: usize) -> Path<V> {
        self.stretch = None;
        self.go_to(0);
        let rate = self.rate();
        let mut rows = vec![self.row(Intent::default(), self.body.position().to_array())];
        while self.tick < ticks {
            let intent = self.tape.at(self.tick);
            rows.push(self.step(intent).row);
        }
        let trace = Trace { dimensions: V::DIMENSION, rate, rows };
        Path {
            positions: trace.rows.iter().map(|row| V::from_array(row.position)).collect(),
            summary: played::summary(
                &self.numbers().title,
                &trace,
                !self.numbers().tuning.steering.is_from_above(V::DIMENSION),
            ),
        }
    }

    /// One tick with an intent, with the numbers and in the place that hold in it.
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
        run::row(&self.body, (self.tick, self.rate()), &intent, before, &self.file)
    }

    fn tick_with(&mut self, intent: Intent) -> Ticked {
        let before = self.body.position().to_array();
        let dt = self.clock.dt();
        self.file.level.advance(dt);
        self.body.tick(&intent, &self.file.level, dt);
        let bounds = self.file.level.bounds();
        if self.body.position().height() < bounds.min.height() - ABYSS {
            self.body.respawn();
        }
        self.tick += 1;
        let row = self.row(intent, before);
        let refused = self.body.events().iter().filter_map(|event| match event {
            Event::Refused { what } => Some(what.to_string()),
            _ => None,
        });
        let ticked = Ticked { row, refused: refused.collect() };
        // The place may have been changed after this tick.
        self.take_place();
        ticked
    }

    fn keep(&mut self) {
        self.kept.push((*self.body.state(), self.file.level.time()));
    }

    /// Puts the numbers in place that held in this tick.
    fn take_numbers(&mut self) {
        let of = self.numbers.partition_point(|(from, _)| *from <= self.tick).saturating_sub(1);
        let (tuning, hull) = (self.numbers[of].1.tuning, self.numbers[of].1.hull);
        (self.body.tuning, self.body.hull) = (tuning, hull);
    }

    fn forget_future(&mut self) {
        if self.tick < self.len() {
            self.tape = self.tape.trimmed(0..self.tick);
            self.kept.truncate(self.tick / EVERY + 1);
            self.numbers.retain(|(from, _)| *from <= self.tick);
            self.places.retain(|(from, _)| *from <= self.tick);
        }
    }

    /// Forgets the first ticks.
    fn shorten(&mut self, gone: usize) {
        let gone = gone.min(self.tick) / EVERY * EVERY;
        self.shortened |= gone > 0;
        self.tape = self.tape.trimmed(gone..self.len());
        self.kept.drain(..gone / EVERY);
        self.tick -= gone;
        let of = self.numbers.partition_point(|(from, _)| *from <= gone).saturating_sub(1);
        self.numbers.drain(..of);
        for (from, _) in &mut self.numbers {
            *from = from.saturating_sub(gone);
        }
        let of = self.place_of(gone);
        self.places.drain(..of);
        self.place -= of;
        for (from, _) in &mut self.places {
            *from = from.saturating_sub(gone);
        }
    }
}

/// The tuning of a file with one number at another value: a knob, or a size of its hull.
///
/// # Errors
/// When there is no such number, or it cannot have the value.
pub fn turned(file: &TuningFile, number: &str, value: f32) -> Result<TuningFile, NumberError> {
    let mut file = file.clone();
    file.set_number(number, value)?;
    Ok(file)
}
