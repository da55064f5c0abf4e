//! A small game from the side: collect the oil, mind the spikes, take the lift, light the lamp.
//!
//! `cargo run --release --example lamp_oil`, with A, D, Space, and the key B for the balloon. The level
//! is a map of characters in `data/lamp-oil.toml`; change it, or the numbers in `data/lamplighter.toml`,
//! while the game runs.

use std::error::Error;

use rasant::camera::Camera;
use rasant::glam::Vec2;
use rasant::input::{Chord, Meaning};
use rasant::moves::{Answer, Law, Move, MoveSet, Outcome, Proposal, Senses, Standard, Toward, Words};
use rasant::state::{Name, Span};
use rasant::{Actions, Bindings, Controller, Effect, Event, Geometry, Intent, ZoneId};
use rasant_files::{Game as Kinds, LevelFile, Problem, TuningFile, Watched, World, read_level, read_tuning};
use rasant_window::{BODY, Canvas, Game, LAMP, Setup, play};

rasant::knobs! {
    /// A balloon that lifts the body while it is held, until it is empty.
    pub struct Balloon {
        /// The speed of the rise.
        rise_speed: "balloon.rise_speed", MetresPerSecond, 3.0, 0.0..20.0;
        /// The time until it is empty. It is filled on the ground.
        time: "balloon.time", Seconds, 0.5, 0.0..10.0;
    }
}

impl<V: Geometry> Move<V> for Balloon {
    const NAME: Name = Name::new("balloon");
    const WORDS: Words = Words::MODE;
    /// The time for which it has been used.
    type Memory = Span;

    fn propose(&self, senses: &Senses<'_, V>, used: &Span) -> Answer<V> {
        let held = senses.intent.held.contains(Actions::own(0));
        if !held || senses.standing() || used.reaches(self.time) {
            return Answer::Nothing;
        }
        let up = V::UP * self.rise_speed + senses.velocity.flat();
        let toward = Toward { velocity: up, time: 0.1, speed: self.rise_speed, lands: false };
        Proposal { law: Law::Toward(toward), ..Proposal::of(Name::new("balloon")) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, used: &mut Span) {
        if senses.standing() {
            *used = Span::ZERO;
        } else if outcome.is_mine() {
            *used += senses.span;
        }
    }
}

static MOVES: MoveSet = MoveSet::of::<(Balloon, Standard)>();
const OIL: u16 = 0;
const KINDS: Kinds = Kinds { moves: Some(&MOVES), zones: &[("oil", OIL)] };

struct LampOil {
    world: Watched<World>,
    tuning: Watched<TuningFile>,
    /// The level as it is played: without the oil that was collected.
    file: LevelFile<Vec2>,
    body: Controller<Vec2>,
    camera: Camera<Vec2>,
    oil: usize,
    falls: usize,
    won: bool,
}

impl LampOil {
    fn new() -> Result<Self, Box<dyn Error>> {
        let data = concat!(env!("CARGO_MANIFEST_DIR"), "/data/");
        let world = Watched::new(format!("{data}lamp-oil.toml"), KINDS, read_level)?;
        let tuning = Watched::new(format!("{data}lamplighter.toml"), KINDS, read_tuning)?;
        let World::Plane(file) = &*world else { return Err("a level of two dimensions".into()) };
        let file = file.clone();
        let mut body = file.body(&tuning, file.start.unwrap_or(Vec2::ZERO));
        body.find_footing(&file.level);
        let camera = Camera::new(tuning.tuning.camera, &body);
        Ok(Self { world, tuning, file, body, camera, oil: 0, falls: 0, won: false })
    }

    fn enter(&mut self, zone: ZoneId) {
        let effect = self.file.level.all_zones()[usize::from(zone.0)].effects.iter().next().copied();
        match effect {
            Some(Effect::Own(OIL)) => self.oil += usize::from(self.file.level.remove_zone(zone)),
            Some(Effect::Goal) => self.won = true,
            _ => {}
        }
    }
}

impl Game for LampOil {
    fn frame(&mut self) -> f32 {
        let report = |problem: &Problem| eprintln!("{problem}");
        if let Some(file) = self.tuning.changed(report) {
            (self.body.tuning, self.camera.knobs) = (file.tuning, file.tuning.camera);
        }
        if let Some(World::Plane(file)) = self.world.changed(report) {
            self.file = file.clone();
        }
        if self.won { 0.3 } else { 1.0 } // slow motion at the end
    }

    fn tick(&mut self, intents: &[Intent], dt: f32) {
        self.file.level.advance(dt);
        let events = self.body.tick(&intents[0], &self.file.level, dt).to_vec();
        for event in events {
            match event {
                Event::ZoneEntered { zone } => self.enter(zone),
                Event::Respawned => (self.falls, _) = (self.falls + 1, self.camera.shake(1.0)),
                _ => {}
            }
        }
        self.camera.tick(&self.body, dt);
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        canvas.look_from_the_side(self.camera.focus(blend), 12.0);
        canvas.level(&self.file.level, blend);
        self.file.level.each_zone(|_, zone| {
            let middle = (zone.bounds.min + zone.bounds.max) / 2.0;
            match zone.effects.iter().next() {
                Some(Effect::Own(OIL)) => canvas.ball(middle, 0.2, LAMP),
                Some(Effect::Goal) => canvas.ball(middle, 0.45, if self.won { LAMP } else { BODY }),
                _ => {}
            }
        });
        canvas.body(&self.body, blend, BODY);
        let end = if self.won { ": the lamp is lit" } else { "" };
        canvas.title(format!("Lamp oil: {} cans, {} falls{end}", self.oil, self.falls));
    }
}

fn main() -> Result<(), Box<dyn Error>> {
    let mut bindings = Bindings::default();
    bindings.bind(Chord::named("KeyB")?, Meaning::Action(Actions::own(0)));
    play(&mut LampOil::new()?, Setup { bindings: vec![bindings], ..Setup::default() })?;
    Ok(())
}

#[cfg(test)]
#[path = "bots/lamp_oil.rs"]
mod bot;
