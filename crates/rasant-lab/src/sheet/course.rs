//! A body on a course that is driven and watched.

use rasant::glam::Vec2;
use rasant::level::LevelBuilder;
use rasant::{
    Actions, Controller, Event, Geometry, Intent, Level, Look, Mode, Piece, State, Steering, Vector,
};

use super::figure::{Rates, Subject};
use rasant_files::TuningFile;

/// A body on a level of its own. It moves along x, whatever its steering.
pub struct Track<V: Geometry> {
    pub body: Controller<V>,
    pub level: Level<V>,
    pub dt: f64,
    /// The state before the first tick, and after each tick since.
    pub log: Vec<Sample<V>>,
}

/// The state of a body after a tick.
#[derive(Clone, Copy)]
pub struct Sample<V> {
    /// Seconds since the log began.
    pub time: f64,
    /// Along x, in metres from the start of the log.
    pub x: f64,
    /// Along up.
    pub y: f64,
    /// The velocity along x and up, in m/s.
    pub vx: f64,
    pub vy: f64,
    /// The exact top of a rise that ended in the tick, along x and up.
    pub top: Option<[f64; 2]>,
    pub state: State<V>,
}

impl<V: Geometry> Track<V> {
    /// A body that stands, or falls, at `at`, and faces along x.
    pub fn new(subject: &Subject, level: Level<V>, at: V) -> Self {
        let mut body = Controller::new(subject.tuning, subject.hull, at);
        body.restore(State { facing: V::RIGHT, ..*body.state() });
        body.find_footing(&level);
        let mut track = Self { body, level, dt: 1.0 / f64::from(subject.rate), log: Vec::new() };
        track.begin();
        track
    }

    /// Starts a new log.
    pub fn begin(&mut self) {
        self.log.clear();
        let state = *self.body.state();
        let velocity = self.body.velocity();
        self.log.push(Sample {
            time: 0.0,
            x: state.position.component(0).into(),
            y: state.position.height().into(),
            vx: velocity.component(0).into(),
            vy: velocity.height().into(),
            top: None,
            state,
        });
    }

    pub fn tick(&mut self, intent: &Intent) -> &[Event<V>] {
        self.body.tick(intent, &self.level, self.dt as f32);
        let state = *self.body.state();
        let velocity = self.body.velocity();
        self.log.push(Sample {
            time: self.log.len() as f64 * self.dt,
            x: f64::from(state.position.component(0)) + f64::from(state.remainder.component(0)),
            y: f64::from(state.position.height()) + f64::from(state.remainder.height()),
            vx: velocity.component(0).into(),
            vy: velocity.height().into(),
            top: self.body.events().iter().find_map(|event| match event {
                Event::Apex { position } => Some([position.component(0).into(), position.height().into()]),
                _ => None,
            }),
            state,
        });
        self.body.events()
    }

    /// Ticks for a time.
    pub fn run(&mut self, seconds: f64, intent: &Intent) {
        for _ in 0..(seconds / self.dt).ceil() as usize {
            self.tick(intent);
        }
    }

    /// Ticks until the body rests, or for this time at most.
    pub fn settle(&mut self, seconds: f64, intent: &Intent) {
        for _ in 0..(seconds / self.dt).ceil() as usize {
            let before = self.last().state.position;
            self.tick(intent);
            if self.last().state.position == before && self.body.velocity() == V::ZERO {
                break;
            }
        }
    }

    /// Ticks until an event that `is` accepts, or for this time at most. Returns true if it came.
    /// Actions are pressed in the first tick only.
    pub fn until(&mut self, seconds: f64, intent: &Intent, is: impl Fn(&Event<V>) -> bool) -> bool {
        let mut intent = *intent;
        for _ in 0..(seconds / self.dt).ceil() as usize {
            if self.tick(&intent).iter().any(&is) {
                return true;
            }
            intent.pressed = Actions::NONE;
        }
        false
    }

    pub fn last(&self) -> &Sample<V> {
        &self.log[self.log.len() - 1]
    }

    /// The time at which a speed that changes evenly reaches `goal`, and the distance until then.
    /// `of` returns the distance and the speed of a sample.
    pub fn moment(&self, of: impl Fn(&Sample<V>) -> (f64, f64), goal: f64) -> Option<(f64, f64)> {
        let (start, first) = of(&self.log[0]);
        let slack = 1e-4 * goal.abs().max(1e-2);
        let reached = |sample: &Sample<V>| {
            let left = goal - of(sample).1;
            if goal > first { left <= slack } else { left >= -slack }
        };
        let at = self.log.iter().position(reached)?;
        let Some(before) = at.checked_sub(1).map(|before| &self.log[before]) else { return Some((0.0, 0.0)) };
        let ((from, speed), after) = (of(before), of(&self.log[at]));
        let more = self.even_rate(at - 1, &of).map(|rate| (goal - speed) / rate);
        let more = more.unwrap_or_else(|| self.within_tick((from, speed), after, goal, slack));
        let more = more.clamp(0.0, self.dt);
        Some((before.time + more, from + 0.5 * (speed + goal) * more - start))
    }

    /// The rate of change of a speed in the two ticks before a sample, if it was the same in both.
    fn even_rate(&self, at: usize, of: &impl Fn(&Sample<V>) -> (f64, f64)) -> Option<f64> {
        /// The fraction by which the two may differ because of rounding.
        const SAME: f64 = 2e-3;
        let [early, middle, late] = [at.checked_sub(2)?, at - 1, at].map(|at| of(&self.log[at]).1);
        let (first, second) = ((middle - early) / self.dt, (late - middle) / self.dt);
        ((first - second).abs() <= SAME * second.abs() && second != 0.0).then_some(second)
    }

    /// The part of a tick, in seconds, until a speed is `goal`, if the speed changes evenly until
    /// then, and from then on evenly or not at all. It follows from the distance of the tick.
    fn within_tick(&self, (from, speed): (f64, f64), (to, last): (f64, f64), goal: f64, slack: f64) -> f64 {
        // Each part moves at the mean of its two speeds; both are relative to the goal.
        let [speed_less, last_less] = [speed - goal, last - goal];
        let distance_less = to - from - goal * self.dt;
        let changes = 0.5 * (speed_less - last_less);
        if changes.abs() > slack { (distance_less - 0.5 * last_less * self.dt) / changes } else { 0.0 }
    }

    /// The position along x at a time of the log.
    pub fn x_at(&self, moment: f64) -> f64 {
        let before = ((moment / self.dt) as usize).min(self.log.len() - 1);
        let after = (before + 1).min(self.log.len() - 1);
        let fraction = moment / self.dt - before as f64;
        self.log[before].x + (self.log[after].x - self.log[before].x) * fraction
    }
}

/// Returns true if a move with this name has charge of the body.
pub fn in_move<V: Geometry>(track: &Track<V>, name: &str) -> bool {
    matches!(track.last().state.mode, Mode::Move(known) if known == name)
}

/// Returns true for the top of a rise.
pub fn is_top<V>(event: &Event<V>) -> bool {
    matches!(event, Event::Apex { .. })
}

/// Returns true for a take-off.
pub fn is_jump<V>(event: &Event<V>) -> bool {
    matches!(event, Event::Jumped { .. })
}

/// Returns true for a landing.
pub fn is_landing<V>(event: &Event<V>) -> bool {
    matches!(event, Event::Landed { .. })
}

/// A level without pieces.
pub fn nothing<V: Geometry>() -> Level<V> {
    Level::builder().build().expect("no pieces")
}

/// What a player does to move along x, with any steering.
pub struct Rider {
    /// No steering, looking along x.
    pub rest: Intent,
    /// Forward.
    pub ahead: Intent,
    /// Backward, if the steering allows it.
    pub back: Option<Intent>,
}

impl Rider {
    /// The intent that steers sideways to x, to the side of positive z, if the steering allows it.
    pub fn aside<V: Vector>(subject: &Subject, rest: &Intent) -> Option<Intent> {
        let sign = subject.tuning.walk.speed.signum();
        let steer = match subject.tuning.steering.in_dimension(V::DIMENSION) {
            Steering::View => Vec2::new(sign, 0.0),
            Steering::Plan | Steering::Hop => Vec2::new(0.0, -sign),
            _ => return None,
        };
        Some(Intent { steer, ..*rest })
    }

    /// The factor on speeds sideways to x.
    pub fn side_factor<V: Vector>(subject: &Subject) -> f32 {
        let by_look = subject.tuning.steering.in_dimension(V::DIMENSION) == Steering::View;
        if by_look { subject.tuning.walk.side } else { 1.0 }
    }

    pub fn of<V: Vector>(subject: &Subject) -> Self {
        let tuning = &subject.tuning;
        let sign = tuning.walk.speed.signum();
        let look = Look { yaw: V::FORWARD.turn_to(V::RIGHT), pitch: 0.0 };
        let steered = |x: f32, y: f32| Intent { look, ..Intent::steering(x * sign, y * sign) };
        let rest = Intent { look, ..Intent::default() };
        match tuning.steering.in_dimension(V::DIMENSION) {
            Steering::View | Steering::Body => {
                Self { rest, ahead: steered(0.0, 1.0), back: Some(steered(0.0, -1.0)) }
            }
            Steering::Gaze => {
                /// A degree past the pitch that walks, and short of it.
                const PAST: f32 = 0.0175;
                let gaze = tuning.turn.gaze;
                let past = if gaze < 0.0 { -PAST } else { PAST };
                let pitched = |pitch: f32| Intent { look: Look { pitch, ..look }, ..Intent::default() };
                Self { rest: pitched(gaze - past), ahead: pitched(gaze + past), back: None }
            }
            _ => Self { rest, ahead: steered(1.0, 0.0), back: Some(steered(-1.0, 0.0)) },
        }
    }
}

impl Subject {
    pub fn new(file: &TuningFile, rates: Rates) -> Self {
        Self { tuning: file.tuning, hull: file.hull, rate: rates.course, game_rate: rates.game }
    }

    /// The subject on courses at the game's rate.
    pub fn in_game(&self) -> Self {
        Self { rate: self.game_rate, ..*self }
    }

    /// The subject on courses whose figures have the resolution of a tick: with ten times as many
    /// ticks.
    pub fn finer(&self) -> Self {
        Self { rate: self.rate.saturating_mul(10).min(20_000), ..*self }
    }

    /// The subject on courses that search for something that does not depend on the rate: with at
    /// most 240 ticks per second.
    pub fn coarser(&self) -> Self {
        Self { rate: self.rate.min(240), ..*self }
    }

    /// Seconds per tick.
    pub fn dt(&self) -> f64 {
        1.0 / f64::from(self.rate)
    }

    /// Returns true if the body is seen from above in such a world, and has no up.
    pub fn is_from_above<V: Vector>(&self) -> bool {
        self.tuning.steering.is_from_above(V::DIMENSION)
    }

    /// The subject without the other effects of a held jump: gliding, and climbing ledges.
    pub fn that_only_jumps(&self) -> Self {
        let mut subject = *self;
        subject.tuning.glide.fall_speed = 0.0;
        subject.tuning.ledge.reach = 0.0;
        subject
    }

    /// Returns true if it moves by whole steps.
    pub fn hops(&self) -> bool {
        self.tuning.steering == Steering::Hop
    }

    /// Returns true if it walks over ground, with gravity.
    pub fn walks<V: Vector>(&self) -> bool {
        !self.is_from_above::<V>() && !self.hops() && self.tuning.walk.speed != 0.0
    }
}

/// The half width of floors, in metres.
pub const FAR: f32 = 2000.0;

/// A level of blocks, each between two corners; they extend far to the sides.
pub fn blocks<V: Geometry>(corners: &[([f32; 2], [f32; 2])]) -> LevelBuilder<V> {
    let mut builder = Level::builder();
    for ([x, y], [to_x, to_y]) in corners {
        let (min, max) = (V::from_array([*x, *y, -FAR]), V::from_array([*to_x, *to_y, FAR]));
        if let Ok(block) = Piece::block(min, max) {
            builder.add(block);
        }
    }
    builder
}

/// A floor at height 0; nothing for a body seen from above.
pub fn floor<V: Geometry>(subject: &Subject) -> Level<V> {
    if subject.is_from_above::<V>() {
        return Level::builder().build().expect("a few sound pieces");
    }
    blocks(&[([-FAR, -1.0], [FAR, 0.0])]).build().expect("a few sound pieces")
}
