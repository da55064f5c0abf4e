//! A game for two: the plate opens the gate, the lift leads to the lamp, past the watchman and the crate.
//! `cargo run --release --example warehouse`. The first player: W, A, S, D, Space, and the mouse after a
//! click; the second: the arrow keys and Enter. F5 saves, F9 loads.

use rasant::camera::Camera;
use rasant::crowd::BodyId;
use rasant::glam::Vec3;
use rasant::level::LevelSnapshot;
use rasant::{Actions, Bindings, Crowd, CrowdBody, Event, Hull, Intent, Layers, Look, Steering};
use rasant_files::{LevelFile, OnDisk, World, read_bindings, read_level, read_tuning};
use rasant_window::{AWNING, BODY, Canvas, Failure, Game, LAMP, Setup, TRAIL, WARNING, play};

const DATA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/data/");

struct Warehouse {
    file: LevelFile<Vec3>,
    crowd: Crowd<Vec3>,
    /// The two players, the watchman, the crate.
    ids: [BodyId; 4],
    camera: Camera<Vec3>,
    look: Look,
    won: bool,
    saved: Option<String>, // as it would be in a file
}

impl Warehouse {
    fn new() -> Result<Self, Failure> {
        let world = read_level(&OnDisk, format!("{DATA}warehouse.toml").as_ref())?;
        let World::Space(file) = world else { return Err("a level of three dimensions".into()) };
        let walker = read_tuning(&OnDisk, format!("{DATA}lamplighter-3d.toml").as_ref())?;
        let mut guard = walker.tuning;
        (guard.walk.speed, guard.steering) = (2.0, Steering::Plan);
        let start = file.start.unwrap_or(Vec3::ZERO);
        let body = |x: f32| CrowdBody::new(walker.tuning, walker.hull, start + Vec3::X * x);
        let mut crowd = Crowd::new();
        let ids = [
            crowd.add(CrowdBody { strength: 150.0, ..body(0.0) })?,
            crowd.add(CrowdBody { strength: 150.0, ..body(1.5) })?,
            crowd.add(CrowdBody::new(guard, walker.hull, Vec3::new(-4.0, 0.0, -6.0)))?,
            crowd.add(CrowdBody::crate_of(60.0, Hull::upright_box(1.0, 1.0)?, Vec3::new(3.0, 0.0, 2.0)))?,
        ];
        let camera = Camera::new(walker.tuning.camera, &crowd[ids[0]].body);
        Ok(Self { file, crowd, ids, camera, look: Look::default(), won: false, saved: None })
    }

    fn save(&self) -> serde_json::Result<String> {
        serde_json::to_string(&(&self.crowd, self.file.level.snapshot(), self.file.mechanisms.saved()))
    }

    fn load(&mut self, text: &str) -> serde_json::Result<()> {
        let (crowd, level, mechanisms): (_, LevelSnapshot<Vec3>, _) = serde_json::from_str(text)?;
        self.file.level.restore(&level);
        self.file.mechanisms.restore(mechanisms);
        self.crowd = crowd;
        Ok(())
    }
}

impl Game for Warehouse {
    fn tick(&mut self, intents: &[Intent], dt: f32) {
        let [first, second, watchman, _] = self.ids;
        self.look = intents[0].look;
        self.file.mechanisms.begin_tick(&mut self.file.level, dt);
        self.file.level.advance(dt);
        // The watchman walks to the nearer player that has passed the gate, or back to his place.
        let at = [first, second].map(|id| self.crowd[id].body.position());
        let post = self.crowd[watchman].body.position();
        let seen = at.into_iter().filter(|at| at.z < -4.5 && at.y < 1.0);
        let target = seen.min_by(|a, b| a.distance(post).total_cmp(&b.distance(post)));
        let target = target.unwrap_or(Vec3::new(-4.0, 0.0, -6.0));
        // The second player shares the camera.
        let shared = Intent { look: self.look, ..intents[1] };
        self.crowd.tick(&self.file.level, dt, |id, body| match id {
            _ if id == first => intents[0],
            _ if id == second => shared,
            _ if id == watchman => Intent::toward(target, &body.body),
            _ => Intent::default(),
        });
        for player in [first, second] {
            let caught = self.crowd.touching(player).find(|contact| contact.other == watchman);
            let body = &mut self.crowd[player].body;
            if let Some(contact) = caught {
                body.knock_back(contact.normal * 6.0 + Vec3::Y * 3.0, 0.4);
                self.camera.shake(0.7);
            }
            self.file.mechanisms.observe(&self.file.level, body.state(), body.events());
            let lamp = self.file.mechanisms.zones("the lamp")[0];
            self.won |= body.events().contains(&Event::ZoneEntered { zone: lamp });
        }
        let body = &self.crowd[first].body;
        self.camera.tick_on_arm(body, dt, self.look, &self.file.level, Layers::ALL);
        if intents[0].pressed.contains(Actions::own(0)) {
            self.saved = self.save().map_err(|error| eprintln!("{error}")).ok();
        } else if intents[0].pressed.contains(Actions::own(1))
            && let Some(text) = self.saved.clone()
        {
            self.load(&text).unwrap_or_else(|error| eprintln!("{error}"));
        }
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        let body = &self.crowd[self.ids[0]].body;
        canvas.look(&self.camera.on_arm(body, self.look, blend, &self.file.level, Layers::ALL));
        canvas.level(&self.file.level, blend);
        for (id, colour) in self.ids.into_iter().zip([BODY, AWNING, WARNING, TRAIL]) {
            canvas.body(&self.crowd[id].body, blend, colour);
        }
        canvas.block(Vec3::new(5.0, 0.0, 1.0), Vec3::new(7.0, 0.05, 3.0), LAMP); // the plate
        canvas.ball(Vec3::new(0.0, 3.4, -12.5), 0.4, if self.won { LAMP } else { BODY });
        canvas.title(if self.won { "The warehouse: the lamp is lit" } else { "The warehouse" });
    }
}

fn main() -> Result<(), Failure> {
    let bindings = ["player-1.toml", "player-2.toml"]
        .map(|file| read_bindings(&OnDisk, format!("{DATA}{file}").as_ref()));
    let bindings = bindings.into_iter().collect::<Result<Vec<Bindings>, _>>()?;
    play(&mut Warehouse::new()?, Setup { bindings, ..Setup::default() })?;
    Ok(())
}

#[cfg(test)]
#[path = "bots/warehouse.rs"]
mod bot;
