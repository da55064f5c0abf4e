//! A game seen {from}.

use rasant::camera::Camera;
use rasant::glam::Vec2;
use rasant::{Controller, Effect, Event, Intent};
use rasant_files::{LevelFile, OnDisk, TuningFile, Watched, World, read_bindings};
use rasant_window::{BODY, Canvas, Failure, Game, LAMP, Setup, play};

const DATA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/data");

struct MyGame {
    tuning: Watched<TuningFile>,
    world: Watched<World>,
    file: LevelFile<Vec2>,
    body: Controller<Vec2>,
    camera: Camera<Vec2>,
    won: bool,
}

impl MyGame {
    fn new() -> Result<Self, Failure> {
        let tuning = Watched::tuning(format!("{DATA}/tuning.toml"))?;
        let world = Watched::level(format!("{DATA}/level.toml"))?;
        let World::Plane(file) = &*world else { return Err("a level of two dimensions".into()) };
        let file = file.clone();
        let mut body = Controller::new(tuning.tuning, tuning.hull, file.start.unwrap_or(Vec2::ZERO));
        body.find_footing(&file.level);
        let camera = Camera::new(body.tuning.camera, &body);
        Ok(Self { tuning, world, file, body, camera, won: false })
    }

    /// Plays a sound: connect your audio library here.
    fn sound(&self, _name: &str, _volume: f32) {}

    fn hear(&mut self, event: &Event<Vec2>) {
        match *event {
            Event::Footfall { .. } => self.sound("step", 0.3),
            Event::Jumped { .. } => self.sound("jump", 0.8),
            Event::Landed { speed, .. } if speed > 2.0 => self.sound("land", speed / 20.0),
            Event::Respawned => self.camera.shake(1.0),
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
        match self.tuning.poll() {
            Some(Ok(file)) => (self.body.tuning, self.camera.knobs) = (file.tuning, file.tuning.camera),
            Some(Err(problem)) => eprintln!("{problem}"),
            None => {}
        }
        match self.world.poll() {
            Some(Ok(World::Plane(file))) => self.file = file.clone(),
            Some(Err(problem)) => eprintln!("{problem}"),
            _ => {}
        }
        1.0
    }

    fn tick(&mut self, intents: &[Intent], dt: f32) {
        self.file.mechanisms.begin_tick(&mut self.file.level, dt);
        self.file.level.advance(dt);
        let events = self.body.tick(&intents[0], &self.file.level, dt).to_vec();
        self.file.mechanisms.observe(&self.file.level, self.body.state(), &events);
        events.iter().for_each(|event| self.hear(event));
        self.camera.tick(&self.body, dt);
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        canvas.look_from_the_side(self.camera.focus(blend), 12.0);
        canvas.level(&self.file.level, blend);
        self.file.level.each_zone(|_, zone| {
            if zone.effects.iter().any(|effect| matches!(effect, Effect::Goal)) {
                canvas.ball((zone.bounds.min + zone.bounds.max) / 2.0, 0.4, LAMP);
            }
        });
        canvas.body(&self.body, blend, BODY);
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

    /// {test}
    #[test]
    fn the_body_walks_and_stops_at_walls() {
        let mut game = MyGame::new().unwrap();
        let start = game.body.position();
        for _ in 0..60 {
            game.tick(&[Intent::steering(1.0, 0.0)], 1.0 / 60.0);
        }
        let walked = game.body.position().x - start.x;
        assert!(walked > 1.0, "{walked} m");
        for _ in 0..600 {
            game.tick(&[Intent::steering(-1.0, 0.0)], 1.0 / 60.0);
        }
        assert!(game.body.position().x > -2.1, "the wall on the left");
    }
}
