//! A game {from}.

use rasant::camera::Camera;
use rasant::glam::Vec3;
use rasant::{Controller, Effect, Event, Intent, {from rasant}};
use rasant_files::{LevelFile, OnDisk, TuningFile, Watched, World, read_bindings};
use rasant_window::{{from window}, Failure, Game, LAMP, Setup, play};

const DATA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/data");

struct MyGame {
    tuning: Watched<TuningFile>,
    world: Watched<World>,
    file: LevelFile<Vec3>,
    body: Controller<Vec3>,
    camera: Camera<Vec3>,
    look: Look,
    won: bool,
}

impl MyGame {
    fn new() -> Result<Self, Failure> {
        let tuning = Watched::tuning(format!("{DATA}/tuning.toml"))?;
        let world = Watched::level(format!("{DATA}/level.toml"))?;
        let World::Space(file) = &*world else { return Err("a level of three dimensions".into()) };
        let file = file.clone();
        let mut body = Controller::new(tuning.tuning, tuning.hull, file.start.unwrap_or(Vec3::ZERO));
        body.find_footing(&file.level);
        let camera = Camera::new(body.tuning.camera, &body);
        Ok(Self { tuning, world, file, body, camera, look: Look::default(), won: false })
    }

    /// Plays a sound: connect your audio library here.
    fn sound(&self, _name: &str, _volume: f32) {}

    fn hear(&mut self, event: &Event<Vec3>) {
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
            Some(Ok(World::Space(file))) => self.file = file.clone(),
            Some(Err(problem)) => eprintln!("{problem}"),
            _ => {}
        }
        1.0
    }

    fn tick(&mut self, intents: &[Intent], dt: f32) {
        self.look = intents[0].look;
        self.file.mechanisms.begin_tick(&mut self.file.level, dt);
        self.file.level.advance(dt);
        let events = self.body.tick(&intents[0], &self.file.level, dt).to_vec();
        self.file.mechanisms.observe(&self.file.level, self.body.state(), &events);
        events.iter().for_each(|event| self.hear(event));
        {follow}
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        {film}
        canvas.level(&self.file.level, blend);
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

    /// A bot walks up the steps to the goal.
    #[test]
    fn the_goal_is_reached_on_foot() {
        let mut game = MyGame::new().unwrap();
        for _ in 0..300 {
            let intent = Intent::toward(Vec3::new(0.0, 0.75, -10.0), &game.body);
            game.tick(&[intent], 1.0 / 60.0);
        }
        assert!(game.won, "at {}", game.body.position());
    }
}
