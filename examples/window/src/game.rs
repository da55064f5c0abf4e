//! The game: a level, a body, a clock and a sampler.

use std::path::Path;
use std::time::Duration;

use rasant::glam::Vec2;
use rasant::{Clock, Controller, DeviceEvent, Event, Level, Pose, Sampler, Tape};
use rasant_lab::files::read_bindings;
use rasant_lab::{OnDisk, Trial, World, read_trial};

use crate::Failure;

pub struct Game {
    trial: Trial,
    level: Level<Vec2>,
    body: Controller<Vec2>,
    sampler: Sampler,
    clock: Clock,
    blend: f32,
    ticks: u32,
    /// Played instead of what the sampler says.
    tape: Option<Tape>,
    recorded: Tape,
    /// Where the body has been, and the words of the last event.
    trail: Vec<Vec2>,
    last_event: String,
}

impl Game {
    pub fn load(trial: &Path, bindings: &Path) -> Result<Self, Failure> {
        let said = |problem: rasant_lab::Problem| problem.to_string();
        let trial = read_trial(&OnDisk, trial).map_err(said)?;
        let bindings = read_bindings(&OnDisk, bindings).map_err(said)?;
        for conflict in bindings.conflicts() {
            eprintln!("note: {conflict}");
        }
        let World::Plane(file) = &trial.world else {
            return Err("the trial is of three dimensions; this window draws two".into());
        };
        let level = file.level.clone();
        let [x, y, _] = trial.start;
        let mut body = Controller::new(trial.tuning.tuning, trial.tuning.hull, Vec2::new(x, y));
        body.find_footing(&level);
        Ok(Self {
            level,
            body,
            sampler: Sampler::new(bindings),
            clock: Clock::new(trial.rate)?,
            blend: 0.0,
            ticks: 0,
            tape: None,
            recorded: Tape::new(),
            trail: Vec::new(),
            last_event: String::new(),
            trial,
        })
    }

    pub fn rate(&self) -> u32 {
        self.trial.rate
    }

    /// The inputs of the trial itself.
    pub fn scripted(&self) -> Tape {
        rasant_lab::run(&self.trial).tape
    }

    pub fn replay(&mut self, tape: Tape) {
        self.tape = Some(tape);
    }

    pub fn recorded(&self) -> &Tape {
        &self.recorded
    }

    pub fn event(&mut self, time: Duration, event: DeviceEvent) {
        self.sampler.event(time, event);
    }

    /// Plays the ticks that a frame is due.
    pub fn frame(&mut self, elapsed: Duration) {
        let due = self.clock.frame(elapsed);
        self.blend = due.blend;
        for _ in 0..due.ticks {
            self.ticks += 1;
            let time = Duration::from_secs_f64(f64::from(self.ticks) / f64::from(self.clock.rate()));
            let sampled = self.sampler.tick(time);
            let intent = self.tape.as_ref().map_or(sampled, |tape| tape.at(self.ticks as usize - 1));
            self.recorded.record(intent);
            self.level.advance(self.clock.dt());
            for event in self.body.tick(&intent, &self.level, self.clock.dt()) {
                if !matches!(event, Event::Footfall { .. }) {
                    self.last_event = event.name().to_owned();
                }
            }
            self.trail.push(self.body.position());
        }
    }

    pub fn level(&self) -> &Level<Vec2> {
        &self.level
    }

    pub fn body(&self) -> &Controller<Vec2> {
        &self.body
    }

    pub fn pose(&self) -> Pose<Vec2> {
        self.body.pose(self.blend)
    }

    pub fn trail(&self) -> &[Vec2] {
        &self.trail
    }

    pub fn in_words(&self) -> String {
        let (at, state) = (self.body.position(), self.body.state());
        format!(
            "{} ticks, at {:.3}, {:.3} m, {}, last {}, checksum {:016x}",
            self.ticks,
            at.x,
            at.y,
            state.mode.name(),
            self.last_event,
            state.checksum()
        )
    }
}
