//! The game: a level, a body and a loop, in two or three dimensions.

use std::path::Path;
use std::time::Duration;

use rasant::glam::{Vec2, Vec3};
use rasant::{Bindings, Controller, DeviceEvent, Event, GameLoop, Geometry, Level, Look, Pose, Tape};
use rasant_lab::files::{LevelFile, read_bindings};
use rasant_lab::{OnDisk, Trial, World, read_trial};
use tiny_skia::Pixmap;

use crate::Failure;

/// A game that the window shows.
pub trait Playing {
    fn rate(&self) -> u32;
    /// The inputs of the trial itself.
    fn scripted(&self) -> Tape;
    fn replay(&mut self, tape: Tape);
    fn recorded(&self) -> &Tape;
    fn event(&mut self, time: Duration, event: DeviceEvent);
    /// Runs the ticks that are due at a time since the start of the game.
    fn frame(&mut self, now: Duration);
    fn draw(&self, size: (u32, u32)) -> Result<Pixmap, Failure>;
    fn in_words(&self) -> String;
    /// Whether the motion of the pointer turns the look.
    fn looks_about(&self) -> bool;
}

/// A dimension in which a game can be drawn.
pub trait Drawn: Geometry {
    fn draw(game: &Game<Self>, size: (u32, u32)) -> Result<Pixmap, Failure>;
}

/// Loads the game of a trial.
pub fn load(trial: &Path, bindings: &Path) -> Result<Box<dyn Playing>, Failure> {
    let said = |problem: rasant_lab::Problem| problem.to_string();
    let trial = read_trial(&OnDisk, trial).map_err(said)?;
    let bindings = read_bindings(&OnDisk, bindings).map_err(said)?;
    for conflict in bindings.conflicts() {
        eprintln!("note: {conflict}");
    }
    Ok(match trial.world.clone() {
        World::Plane(file) => Box::new(Game::<Vec2>::new(trial, &file, bindings)?),
        World::Space(file) => Box::new(Game::<Vec3>::new(trial, &file, bindings)?),
    })
}

pub struct Game<V: Geometry> {
    trial: Trial,
    level: Level<V>,
    body: Controller<V>,
    /// The clock and the sampler, with one time for both.
    input: GameLoop,
    ticks: u32,
    /// Replayed in place of the sampler's intents.
    tape: Option<Tape>,
    recorded: Tape,
    /// The positions of the body, and the words of the last event.
    trail: Vec<V>,
    last_event: String,
    look: Look,
}

impl<V: Drawn> Game<V> {
    fn new(trial: Trial, file: &LevelFile<V>, bindings: Bindings) -> Result<Self, Failure> {
        let level = file.level.clone();
        let start = V::from_array(trial.start);
        let mut body = Controller::new(trial.tuning.tuning, trial.tuning.hull, start);
        body.find_footing(&level);
        Ok(Self {
            level,
            body,
            input: GameLoop::new(trial.rate, bindings)?,
            ticks: 0,
            tape: None,
            recorded: Tape::new(),
            trail: Vec::new(),
            last_event: String::new(),
            look: Look::default(),
            trial,
        })
    }

    pub fn level(&self) -> &Level<V> {
        &self.level
    }

    pub fn body(&self) -> &Controller<V> {
        &self.body
    }

    pub fn pose(&self) -> Pose<V> {
        self.body.pose(self.input.blend())
    }

    pub fn trail(&self) -> &[V] {
        &self.trail
    }

    /// The look of the player.
    pub fn look(&self) -> Look {
        self.look
    }
}

impl<V: Drawn> Playing for Game<V> {
    fn rate(&self) -> u32 {
        self.trial.rate
    }

    fn scripted(&self) -> Tape {
        rasant_lab::run(&self.trial).tape
    }

    fn replay(&mut self, tape: Tape) {
        self.tape = Some(tape);
    }

    fn recorded(&self) -> &Tape {
        &self.recorded
    }

    fn event(&mut self, time: Duration, event: DeviceEvent) {
        self.input.event(time, event);
    }

    fn frame(&mut self, now: Duration) {
        let dt = self.input.dt();
        for sampled in self.input.frame(now) {
            self.ticks += 1;
            let intent = self.tape.as_ref().map_or(sampled, |tape| tape.at(self.ticks as usize - 1));
            self.look = intent.look;
            self.recorded.record(intent);
            self.level.advance(dt);
            for event in self.body.tick(&intent, &self.level, dt) {
                if !matches!(event, Event::Footfall { .. }) {
                    self.last_event = event.name().to_owned();
                }
            }
            self.trail.push(self.body.position());
        }
    }

    fn draw(&self, size: (u32, u32)) -> Result<Pixmap, Failure> {
        V::draw(self, size)
    }

    fn looks_about(&self) -> bool {
        V::DIMENSION == 3
    }

    fn in_words(&self) -> String {
        let parts = self.body.position().to_array();
        let at: Vec<String> = parts[..V::DIMENSION].iter().map(|part| format!("{part:.3}")).collect();
        let state = self.body.state();
        format!(
            "{} ticks, at {} m, {}, last {}, checksum {:016x}",
            self.ticks,
            at.join(", "),
            state.mode.name(),
            self.last_event,
            state.checksum()
        )
    }
}
