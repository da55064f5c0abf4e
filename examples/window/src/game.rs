//! The game: a trial's level and body, in two or three dimensions, through a camera.

use std::path::Path;

use rasant::camera::Camera;
use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Event, Geometry, Intent, Layers, Level, Look, Tape};
use rasant_lab::files::{LevelFile, read_bindings};
use rasant_lab::{OnDisk, Trial, World, read_trial};
use rasant_window::{BODY, Canvas, Drawn, Failure, Game, Setup, TRAIL};

/// A trial that is played.
pub trait Playing: Game {
    fn rate(&self) -> u32;
    /// The inputs of the trial itself.
    fn scripted(&self) -> Tape;
    fn replay(&mut self, tape: Tape);
    fn recorded(&self) -> &Tape;
    fn in_words(&self) -> String;
    fn as_game(&mut self) -> &mut dyn Game;
}

/// Loads the game of a trial.
pub fn load(trial: &Path, bindings: &Path) -> Result<(Box<dyn Playing>, Setup), Failure> {
    let said = |problem: rasant_lab::Problem| problem.to_string();
    let trial = read_trial(&OnDisk, trial).map_err(said)?;
    let bindings = read_bindings(&OnDisk, bindings).map_err(said)?;
    for conflict in bindings.conflicts() {
        eprintln!("note: {conflict}");
    }
    let setup = Setup { rate: trial.rate, bindings: vec![bindings], ..Setup::default() };
    let game: Box<dyn Playing> = match trial.world.clone() {
        World::Plane(file) => Box::new(Played::<Vec2>::new(trial, &file)),
        World::Space(file) => Box::new(Played::<Vec3>::new(trial, &file)),
    };
    Ok((game, setup))
}

struct Played<V: Geometry> {
    trial: Trial,
    level: Level<V>,
    /// The up of the level, and its units of length per metre.
    up: V,
    scale: f32,
    body: Controller<V>,
    camera: Camera<V>,
    ticks: u32,
    /// Replayed in place of the player's intents.
    tape: Option<Tape>,
    recorded: Tape,
    /// The positions of the body, and the name of the last event.
    trail: Vec<V>,
    last_event: &'static str,
    look: Look,
}

/// What differs between the dimensions.
trait Filmed: Drawn {
    fn follow(game: &mut Played<Self>, dt: f32);
    fn film(game: &Played<Self>, canvas: &mut Canvas, blend: f32);
}

impl Filmed for Vec2 {
    fn follow(game: &mut Played<Self>, dt: f32) {
        game.camera.tick(&game.body, dt);
    }

    fn film(game: &Played<Self>, canvas: &mut Canvas, blend: f32) {
        /// The height of the picture in metres.
        const HEIGHT: f32 = 14.0;
        canvas.world(game.up, game.scale);
        canvas.look_from_the_side(game.camera.focus(blend), HEIGHT);
        canvas.level(&game.level, blend);
        // Up to the drawn position, between the last two ticks.
        let mut trail = game.trail[..game.trail.len().saturating_sub(1)].to_vec();
        trail.push(game.body.pose(blend).position);
        canvas.line(&trail, 0.04, TRAIL);
    }
}

impl Filmed for Vec3 {
    fn follow(game: &mut Played<Self>, dt: f32) {
        game.camera.tick_on_arm(&game.body, dt, game.look, &game.level, Layers::ALL);
    }

    fn film(game: &Played<Self>, canvas: &mut Canvas, blend: f32) {
        canvas.look(&game.camera.on_arm(&game.body, game.look, blend, &game.level, Layers::ALL));
        canvas.level(&game.level, blend);
    }
}

impl<V: Filmed> Played<V> {
    fn new(trial: Trial, file: &LevelFile<V>) -> Self {
        let level = file.level.clone();
        let mut body = file.body(&trial.tuning, V::from_array(trial.start));
        body.find_footing(&level);
        Self {
            camera: Camera::new(body.tuning.camera, &body),
            level,
            up: file.up(),
            scale: file.scale(),
            body,
            ticks: 0,
            tape: None,
            recorded: Tape::new(),
            trail: Vec::new(),
            last_event: "",
            look: Look::default(),
            trial,
        }
    }
}

impl<V: Filmed> Game for Played<V> {
    fn tick(&mut self, intents: &[Intent], dt: f32) {
        self.ticks += 1;
        let intent = self.tape.as_ref().map_or(intents[0], |tape| tape.at(self.ticks as usize - 1));
        self.look = intent.look;
        self.recorded.record(intent);
        self.level.advance(dt);
        for event in self.body.tick(&intent, &self.level, dt) {
            if !matches!(event, Event::Footfall { .. }) {
                self.last_event = event.name();
            }
        }
        self.trail.push(self.body.position());
        V::follow(self, dt);
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        V::film(self, canvas, blend);
        canvas.body(&self.body, blend, BODY);
    }
}

impl<V: Filmed> Playing for Played<V> {
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

    fn as_game(&mut self) -> &mut dyn Game {
        self
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
