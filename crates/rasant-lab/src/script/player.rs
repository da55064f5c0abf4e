//! Plays a script, tick by tick, to a body that it watches.

use std::collections::VecDeque;

use rasant::{Actions, Intent};

use crate::trace::Row;

use super::circumstance::Circumstance;
use super::line::{Command, Host, Lasting, Script, Start, Step, Target};

/// The duration of a press without one, in seconds.
const PRESS: f64 = 0.1;

/// A script that is played.
///
/// It looks at the body and changes its output at moments that are a whole number of ticks apart,
/// usually every tick.
#[derive(Clone, Debug)]
pub struct Player {
    script: Script,
    /// Moments per second.
    rate: f64,
    ticks_a_moment: usize,
    tick: usize,
    /// The last row, with all events since the last moment.
    seen: Row,
    held: Intent,
    courses: Vec<Course>,
}

/// The progress of an instruction. Times are counted in moments.
#[derive(Clone, Debug, Default)]
struct Course {
    /// When the instruction before it began.
    armed: Option<usize>,
    /// When it will begin, the next time first.
    due: VecDeque<usize>,
    /// When it last began.
    began: Option<usize>,
    /// When it ended since then.
    ended: Option<usize>,
    /// True if its circumstance held in the last moment.
    held: bool,
    /// How often it was due.
    times: usize,
    /// True if it has had an effect since it began: another steer or look may have had precedence.
    counted: bool,
}

/// The output for a tick.
#[derive(Clone, Debug, PartialEq)]
pub struct Played {
    /// What the player does.
    pub intent: Intent,
    /// What the game does.
    pub host: Vec<ByTheHost>,
}

/// Something that a game does in a tick.
#[derive(Clone, Debug, PartialEq)]
pub struct ByTheHost {
    /// The command.
    pub what: Host,
    /// Its duration in seconds.
    pub lasts: f64,
    /// Seconds since it began.
    pub since: f64,
    /// True if it begins in this tick.
    pub begins: bool,
}

impl Player {
    /// A player at the start, with `rate` ticks per second.
    #[must_use]
    pub fn new(script: &Script, rate: u32) -> Self {
        Self {
            script: script.clone(),
            rate: f64::from(rate),
            ticks_a_moment: 1,
            tick: 0,
            seen: Row::default(),
            held: Intent::default(),
            courses: vec![Course::default(); script.steps.len()],
        }
    }

    /// The player, looking and acting only once in this many ticks.
    #[must_use]
    pub fn every(mut self, ticks: usize) -> Self {
        self.rate = self.rate * self.ticks_a_moment as f64 / ticks as f64;
        self.ticks_a_moment = ticks;
        self
    }

    /// The output for the next tick, with the body as in `row` before it. `toward` returns the intent
    /// that walks to a target, of which the steer and the look count.
    pub fn tick(&mut self, row: &Row, toward: impl FnOnce(&Target) -> Intent) -> Played {
        let earlier = std::mem::take(&mut self.seen.events);
        self.seen = row.clone();
        self.seen.events.splice(0..0, earlier);
        let (moment, within) = (self.tick / self.ticks_a_moment, self.tick % self.ticks_a_moment);
        self.tick += 1;
        if within > 0 {
            self.held.pressed = Actions::NONE;
            self.held.released = Actions::NONE;
            return Played { intent: self.held, host: self.host(moment, within) };
        }
        for number in 0..self.courses.len() {
            self.follow(number, moment);
        }
        self.seen.events.clear();
        let before = self.held.held;
        self.held = self.held_now(toward);
        // A press that begins while its action is held releases the action first.
        let again = self.pressed_again(moment);
        self.held.pressed = self.held.held.difference(before) | again;
        self.held.released = before.difference(self.held.held) | (before & again);
        Played { intent: self.held, host: self.host(moment, 0) }
    }

    /// The lines of the instructions that have not begun.
    pub fn waiting(&self) -> impl Iterator<Item = usize> {
        self.lines_where(|course| course.began.is_none())
    }

    /// The lines of the instructions that have begun and never had an effect, because another steer
    /// or look had precedence all the time.
    pub fn never_counted(&self) -> impl Iterator<Item = usize> {
        self.lines_where(|course| course.began.is_some() && !course.counted)
    }

    fn lines_where(&self, is_so: fn(&Course) -> bool) -> impl Iterator<Item = usize> {
        let all = self.courses.iter().zip(self.script.steps());
        all.filter(move |(course, _)| is_so(course)).map(|(_, step)| step.line)
    }

    /// Begins and ends an instruction when it is time.
    fn follow(&mut self, number: usize, moment: usize) {
        let step = &self.script.steps[number];
        let armed = match (number, &step.start) {
            (0, _) | (_, Start::At(_)) => Some(0),
            _ => {
                let before = &self.courses[number - 1];
                match self.script.steps[number - 1].start {
                    Start::Whenever(_) | Start::Every(_) => before.armed,
                    _ => before.began,
                }
            }
        };
        let course = &self.courses[number];
        let course = Course { armed: course.armed.or(armed), ..course.clone() };
        let course = self.due(number, course, moment);
        let course = self.begun_and_ended(step, course, moment);
        self.courses[number] = course;
    }

    fn due(&self, number: usize, mut course: Course, moment: usize) -> Course {
        let step = &self.script.steps[number];
        let Some(armed) = course.armed else { return course };
        let first = course.times == 0;
        let due = match &step.start {
            Start::At(time) => first.then(|| self.moment_of(time + step.later)),
            Start::Then => first.then(|| armed + self.moment_of(step.later)),
            Start::Every(time) => {
                let next = armed + self.moment_of(step.later + time * course.times as f64);
                (next <= moment).then_some(moment)
            }
            Start::When(circumstance) | Start::Whenever(circumstance) => {
                let held =
                    std::mem::replace(&mut course.held, self.is_so(circumstance, number, (armed, moment)));
                let asked = if matches!(step.start, Start::When(_)) { first } else { !held };
                (asked && course.held).then(|| moment + self.moment_of(step.later))
            }
        };
        course.times += usize::from(due.is_some());
        course.due.extend(due);
        course
    }

    /// Returns true if a circumstance holds, and its event came after the instruction before had
    /// begun: the event that began that one does not begin this one too.
    fn is_so(&self, circumstance: &Circumstance, number: usize, (armed, moment): (usize, usize)) -> bool {
        let fresh = moment > armed || armed == 0 || !circumstance.asks_for_events();
        circumstance.holds(&self.seen) && (fresh || self.began_by_another(circumstance, number))
    }

    /// Returns true if the instruction before was just begun by another event.
    fn began_by_another(&self, circumstance: &Circumstance, number: usize) -> bool {
        let before = number.checked_sub(1).map(|before| &self.script.steps[before]);
        match before.map(|step| (&step.start, step.later)) {
            Some((Start::When(other), 0.0)) => !circumstance.shares_an_event(other, &self.seen),
            _ => false,
        }
    }

    fn begun_and_ended(&self, step: &Step, mut course: Course, moment: usize) -> Course {
        if course.due.front().is_some_and(|due| *due <= moment) {
            course.due.pop_front();
            course = Course { began: Some(moment), ended: None, ..course };
        }
        let (Some(began), None) = (course.began, course.ended) else { return course };
        let over = match (&step.lasting, &step.what) {
            (Lasting::Until(circumstance), _) => moment > began && circumstance.holds(&self.seen),
            // One more moment, in which the moved body comes to rest.
            (Lasting::For(time), Command::Host(Host::Move(_))) => moment > began + self.moment_of(*time),
            (Lasting::For(time), _) => moment >= self.end(step, began, *time),
            (Lasting::Usual, Command::Press(_)) => moment >= self.end(step, began, PRESS),
            (Lasting::Usual, Command::Host(_)) => moment > began,
            (Lasting::Usual, _) => false,
        };
        if over {
            course.ended = Some(moment);
        }
        course
    }

    /// The first moment after an instruction with this duration.
    fn end(&self, step: &Step, began: usize, time: f64) -> usize {
        let end = match step.start {
            Start::At(at) => self.moment_of(at + step.later + time),
            _ => began + self.moment_of(time),
        };
        end.max(began + 1)
    }

    /// The first moment at or after a time, allowing for rounding in the last digit.
    fn moment_of(&self, time: f64) -> usize {
        (time * self.rate - 1e-6).ceil().max(0.0) as usize
    }

    fn under_way(&self) -> impl Iterator<Item = (usize, &Step, &Course)> {
        let all = self.script.steps.iter().zip(&self.courses).enumerate();
        all.map(|(number, (step, course))| (number, step, course))
            .filter(|(.., course)| course.began.is_some() && course.ended.is_none())
    }

    /// The current input: all presses, and of steers and looks the one that began last; of two that
    /// began together, the later line.
    fn held_now(&mut self, toward: impl FnOnce(&Target) -> Intent) -> Intent {
        let mut intent = Intent::default();
        let mut counting = Vec::new();
        let (mut steers, mut looks) = (None, None);
        for (number, step, course) in self.under_way() {
            let place = Some((course.began, number));
            match &step.what {
                Command::Steer(_) | Command::Walk(_) => steers = steers.max(place),
                Command::Look(_) => looks = looks.max(place),
                Command::Press(actions) => {
                    intent.held |= *actions;
                    counting.push(number);
                }
                Command::Host(_) => counting.push(number),
            }
        }
        let mut walks = None;
        counting.extend([steers, looks].into_iter().flatten().map(|(_, number)| number));
        for number in counting {
            self.courses[number].counted = true;
            match &self.script.steps[number].what {
                Command::Steer(steer) => intent.steer = *steer,
                Command::Walk(target) => walks = Some(target.clone()),
                Command::Look(look) => intent.look = *look,
                Command::Press(_) | Command::Host(_) => {}
            }
        }
        if let Some(target) = walks {
            let Intent { steer, look, .. } = toward(&target);
            // A look of the script has precedence.
            let look = if looks.is_some() { intent.look } else { look };
            intent = Intent { steer, look, ..intent };
        }
        intent
    }

    /// The actions of presses that begin at this moment.
    fn pressed_again(&self, moment: usize) -> Actions {
        self.under_way().fold(Actions::NONE, |all, (_, step, course)| match &step.what {
            Command::Press(actions) if course.began == Some(moment) => all | *actions,
            _ => all,
        })
    }

    /// What the game does in a tick, given its index in its moment.
    fn host(&self, moment: usize, within: usize) -> Vec<ByTheHost> {
        let doings = self.under_way().filter_map(|(_, step, course)| {
            let Command::Host(what) = &step.what else { return None };
            let lasts = if let Lasting::For(time) = step.lasting { time } else { 0.0 };
            let moments = course.began.map_or(0, |began| moment - began) as f64;
            let since = (moments + within as f64 / self.ticks_a_moment as f64) / self.rate;
            Some(ByTheHost {
                what: what.clone(),
                lasts,
                since,
                begins: within == 0 && course.began == Some(moment),
            })
        });
        doings.collect()
    }
}
