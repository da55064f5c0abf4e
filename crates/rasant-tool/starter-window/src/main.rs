//! A game seen {from}.

mod view;

use rasant::{Controller, Effect, Event, Intent};
use rasant_files::{LevelFile, OnDisk, Problem, TuningFile, Watched, World, read_bindings};
use rasant_window::{Canvas, Failure, Game, LAMP, Setup, play};

use view::{Film, V, level_of};

const DATA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/data");

struct MyGame {
    tuning: Watched<TuningFile>,
    world: Watched<World>,
    file: LevelFile<V>,
    body: Controller<V>,
    film: Film,
    won: bool,
}

impl MyGame {
    fn new() -> Result<Self, Failure> {
        let tuning = Watched::tuning(format!("{DATA}/tuning.toml"))?;
        let world = Watched::level(format!("{DATA}/level.toml"))?;
        let file = level_of(&world).ok_or("the level has another number of dimensions")?.clone();
        let mut body = file.body(&tuning, file.start.unwrap_or(V::ZERO));
        body.find_footing(&file.level);
        let film = Film::new(&body);
        Ok(Self { tuning, world, file, body, film, won: false })
    }

    /// Plays a sound: connect your audio library here.
    fn sound(&self, _name: &str, _volume: f32) {}

    fn hear(&mut self, event: &Event<V>) {
        match *event {
            Event::Footfall { .. } => self.sound("step", 0.3),
            Event::Jumped { .. } => self.sound("jump", 0.8),
            Event::Landed { speed, .. } if speed > 2.0 => self.sound("land", speed / 20.0),
            Event::Respawned => self.film.camera.shake(1.0),
            Event::ZoneEntered { zone } => {
                let zone = self.file.level.all_zones()[usize::from(zone.0)];
                self.won |= zone.effects.iter().any(|effect| matches!(effect, Effect::Goal));
            }
            _ => {}
        }
    }
}

impl Game for MyGame {
    /// Takes over the files that have changed.
    fn frame(&mut self) -> f32 {
        let report = |problem: &Problem| eprintln!("{problem}");
        if let Some(file) = self.tuning.changed(report) {
            (self.body.tuning, self.film.camera.knobs) = (file.tuning, file.tuning.camera);
        }
        if let Some(file) = self.world.changed(report).and_then(level_of) {
            self.file = file.clone();
        }
        1.0
    }

    fn tick(&mut self, intents: &[Intent], dt: f32) {
        self.file.mechanisms.begin_tick(&mut self.file.level, dt);
        self.file.level.advance(dt);
        let events = self.body.tick(&intents[0], &self.file.level, dt).to_vec();
        self.file.mechanisms.observe(&self.file.level, self.body.state(), &events);
        events.iter().for_each(|event| self.hear(event));
        self.film.follow(&self.body, &self.file.level, &intents[0], dt);
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        self.film.look(canvas, &self.body, &self.file.level, blend);
        canvas.level(&self.file.level, blend);
        self.film.body(canvas, &self.body, blend);
        self.file.level.each_zone(|_, zone| {
            if zone.effects.iter().any(|effect| matches!(effect, Effect::Goal)) {
                canvas.ball((zone.bounds.min + zone.bounds.max) / 2.0, 0.4, LAMP);
            }
        });
        canvas.title(if self.won { "{name}: won" } else { "{name}" });
    }
}

fn main() -> Result<(), Failure> {
    let bindings = read_bindings(&OnDisk, format!("{DATA}/bindings.toml").as_ref())?;
    play(&mut MyGame::new()?, Setup { bindings: vec![bindings], ..Setup::default() })?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A bot walks to a point beside the start and stays there.
    #[test]
    fn the_body_walks_to_a_point() {
        let mut game = MyGame::new().unwrap();
        let goal = game.body.position() + V::X;
        for _ in 0..120 {
            let intent = Intent::toward(goal, &game.body);
            game.tick(&[intent], 1.0 / 60.0);
        }
        assert!(game.body.position().distance(goal) < 0.05, "at {}", game.body.position());
    }
}
