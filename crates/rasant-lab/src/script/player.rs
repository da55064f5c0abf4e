//! Plays a script, tick by tick, to a body it watches.

use std::collections::VecDeque;

use rasant::{Actions, Intent};

use crate::trace::Row;

use super::circumstance::Circumstance;
use super::line::{Doing, Host, Lasting, Script, Start, Step};

/// A press without a length lasts this long, in seconds.
const PRESS: f64 = 0.1;

/// A script under way.
///
/// It looks at the body and changes what it does at moments a whole number of
/// ticks apart; usually every tick is one.
#[derive(Clone, Debug)]
pub struct Player<'a> {
    script: &'a Script,
    /// Moments a second.
    rate: f64,
    ticks_a_moment: usize,
    tick: usize,
    /// The last row seen, with the events of all since the last moment.
    seen: Row,
    held: Intent,
    courses: Vec<Course>,
}

/// How far an instruction has come. Times are counted in moments.
#[derive(Clone, Debug, Default)]
struct Course {
    /// When the one before it had begun.
    armed: Option<usize>,
    /// When it is to begin, the next time first.
    due: VecDeque<usize>,
    /// When it last began.
    began: Option<usize>,
    /// When it ended since then.
    ended: Option<usize>,
    /// Whether its circumstance held a moment ago.
    held: bool,
    /// How often it has been due.
    times: usize,
    /// Whether it has counted since it began: a steer or a look may be under way while
    /// another is what is done.
    counted: bool,
}

/// What is played in a tick.
#[derive(Clone, Debug, PartialEq)]
pub struct Played {
    /// What the player does.
    pub intent: Intent,
    /// What the game does.
    pub host: Vec<ByTheHost>,
}

/// What a game does in a tick.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ByTheHost {
    /// What.
    pub what: Host,
    /// The seconds that it lasts.
    pub lasts: f64,
    /// The seconds since it began.
    pub since: f64,
    /// Whether it begins in this tick.
    pub begins: bool,
}

impl<'a> Player<'a> {
    /// A player from the start, at `rate` ticks a second.
    #[must_use]
    pub fn new(script: &'a Script, rate: u32) -> Self {
        Self {
            script,
            rate: f64::from(rate),
            ticks_a_moment: 1,
            tick: 0,
            seen: Row::default(),
            held: Intent::default(),
            courses: vec![Course::default(); script.steps.len()],
        }
    }

    /// The same player, who looks and acts only once in that many ticks.
    #[must_use]
    pub fn every(mut self, ticks: usize) -> Self {
        self.rate = self.rate * self.ticks_a_moment as f64 / ticks as f64;
        self.ticks_a_moment = ticks;
        self
    }

    /// What is done in the next tick, the body being as in `row` before it.
    pub fn tick(&mut self, row: &Row) -> Played {
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
        self.held = self.held_now();
        // What begins while its action is held lets go of it first.
        let anew = self.pressed_anew(moment);
        self.held.pressed = self.held.held.difference(before) | anew;
        self.held.released = before.difference(self.held.held) | (before & anew);
        Played { intent: self.held, host: self.host(moment, 0) }
    }

    /// The instructions that have not begun, by their lines.
    pub fn waiting(&self) -> impl Iterator<Item = usize> {
        self.lines_where(|course| course.began.is_none())
    }

    /// The instructions that have begun and never counted, by their lines: another steer or
    /// look was what was done all the while.
    pub fn never_counted(&self) -> impl Iterator<Item = usize> {
        self.lines_where(|course| course.began.is_some() && !course.counted)
    }

    fn lines_where(&self, is_so: fn(&Course) -> bool) -> impl Iterator<Item = usize> {
        let all = self.courses.iter().zip(self.script.steps());
        all.filter(move |(course, _)| is_so(course)).map(|(_, step)| step.line)
    }

    /// Begins and ends an instruction where it is time.
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

    /// Whether it holds, and an event that is asked for came once the instruction before had
    /// begun: what began that one does not begin this one too.
    fn is_so(&self, circumstance: &Circumstance, number: usize, (armed, moment): (usize, usize)) -> bool {
        let fresh = moment > armed || armed == 0 || !circumstance.asks_for_events();
        circumstance.holds(&self.seen) && (fresh || self.began_by_another(circumstance, number))
    }

    /// Whether the instruction before has just been begun by another event than is asked
    /// for.
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
        let over = match (&step.lasting, step.what) {
            (Lasting::Until(circumstance), _) => moment > began && circumstance.holds(&self.seen),
            // One moment more, in which what was moved comes to rest.
            (Lasting::For(time), Doing::Host(Host::Move(_))) => moment > began + self.moment_of(*time),
            (Lasting::For(time), _) => moment >= self.end(step, began, *time),
            (Lasting::Usual, Doing::Press(_)) => moment >= self.end(step, began, PRESS),
            (Lasting::Usual, Doing::Host(_)) => moment > began,
            (Lasting::Usual, _) => false,
        };
        if over {
            course.ended = Some(moment);
        }
        course
    }

    /// The first moment after an instruction that lasts `time`.
    fn end(&self, step: &Step, began: usize, time: f64) -> usize {
        let end = match step.start {
            Start::At(at) => self.moment_of(at + step.later + time),
            _ => began + self.moment_of(time),
        };
        end.max(began + 1)
    }

    /// The first moment at or after a time. One that is meant to be a moment's
    /// own may be off in the last place.
    fn moment_of(&self, time: f64) -> usize {
        (time * self.rate - 1e-6).ceil().max(0.0) as usize
    }

    fn under_way(&self) -> impl Iterator<Item = (usize, &Step, &Course)> {
        let all = self.script.steps.iter().zip(&self.courses).enumerate();
        all.map(|(number, (step, course))| (number, step, course))
            .filter(|(.., course)| course.began.is_some() && course.ended.is_none())
    }

    /// What is done now: all presses, and of steers and looks the one that began last; of
    /// two that began together, the later line.
    fn held_now(&mut self) -> Intent {
        let mut intent = Intent::default();
        let mut counting = Vec::new();
        let (mut steers, mut looks) = (None, None);
        for (number, step, course) in self.under_way() {
            let place = Some((course.began, number));
            match step.what {
                Doing::Steer(_) => steers = steers.max(place),
                Doing::Look(_) => looks = looks.max(place),
                Doing::Press(actions) => {
                    intent.held |= actions;
                    counting.push(number);
                }
                Doing::Host(_) => counting.push(number),
            }
        }
        counting.extend([steers, looks].into_iter().flatten().map(|(_, number)| number));
        for number in counting {
            self.courses[number].counted = true;
            match self.script.steps[number].what {
                Doing::Steer(steer) => intent.steer = steer,
                Doing::Look(look) => intent.look = look,
                Doing::Press(_) | Doing::Host(_) => {}
            }
        }
        intent
    }

    /// The actions of presses that begin at this moment.
    fn pressed_anew(&self, moment: usize) -> Actions {
        self.under_way().fold(Actions::NONE, |all, (_, step, course)| match step.what {
            Doing::Press(actions) if course.began == Some(moment) => all | actions,
            _ => all,
        })
    }

    /// What the game does in a tick, the one of that number in its moment.
    fn host(&self, moment: usize, within: usize) -> Vec<ByTheHost> {
        let doings = self.under_way().filter_map(|(_, step, course)| {
            let Doing::Host(what) = step.what else { return None };
            let lasts = if let Lasting::For(time) = step.lasting { time } else { 0.0 };
            let moments = course.began.map_or(0, |began| moment - began) as f64;
            let since = (moments + within as f64 / self.ticks_a_moment as f64) / self.rate;
            Some(ByTheHost { what, lasts, since, begins: within == 0 && course.began == Some(moment) })
        });
        doings.collect()
    }
}
