//! Bots that win the game together, and a save in the middle of it.

use rasant::contact::Queries;
use rasant_window::picture_after;

use super::*;

/// The game as the bots play it: the second player opens the gate, the first one goes for the lamp.
struct Played {
    game: Warehouse,
    ticks: u32,
}

/// The points that the first player walks to, each until it is near.
const PATH: [Vec3; 4] = [
    Vec3::new(0.0, 0.0, -3.0),
    Vec3::new(0.0, 0.0, -6.5),
    Vec3::new(0.0, 0.0, -8.8),
    Vec3::new(0.0, 3.0, -12.5),
];

fn intents(game: &Warehouse) -> [Intent; 2] {
    let body = |number: usize| &game.crowd[game.ids[number]].body;
    let at = body(0).position();
    let gate_is_open = at.z < -5.0
        || game.file.level.ray(Vec3::new(0.0, 1.0, -3.5), Vec3::NEG_Z, 1.5, Layers::ALL).is_none();
    let goal = match at {
        _ if at.z > -2.5 || (at.z > -5.0 && !gate_is_open) => PATH[0],
        _ if at.z > -6.2 => PATH[1],
        _ if at.y < 2.95 => PATH[2],
        _ => PATH[3],
    };
    let plate = Vec3::new(6.0, 0.0, 2.0);
    let aside = Vec3::new(6.0, 0.0, 5.0);
    // On the plate and off it again, so that the gate stays open.
    let second = body(1).position();
    let target = if game.file.level.time() % 5.0 < 2.5 { plate } else { aside };
    let mut walk = Intent::toward(target, body(1));
    // The camera is shared: steering is relative to the first player's look.
    let by = (target - second).with_y(0.0);
    walk.steer = if by.length() < 0.2 {
        rasant::glam::Vec2::ZERO
    } else {
        rasant::glam::Vec2::new(by.x, -by.z).normalize()
    };
    let toward = Intent::toward(goal, body(0));
    let by = (goal - at).with_y(0.0);
    let steer = rasant::glam::Vec2::new(by.x, -by.z) * (toward.steer.length() / by.length().max(1e-3));
    [Intent { steer, look: Look::default(), ..toward }, Intent { look: Look::default(), ..walk }]
}

impl Game for Played {
    fn tick(&mut self, _: &[Intent], dt: f32) {
        self.ticks += 1;
        let intents = intents(&self.game);
        self.game.tick(&intents, dt);
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        self.game.draw(canvas, blend);
    }
}

fn play_to(frames: u32) -> Warehouse {
    let mut played = Played { game: Warehouse::new().unwrap(), ticks: 0 };
    let picture = picture_after(&mut played, &Setup::default(), frames).unwrap();
    if let Ok(folder) = std::env::var("RASANT_PICTURES") {
        picture.save_png(format!("{folder}/warehouse-{frames}.png")).unwrap();
    }
    played.game
}

#[test]
fn two_bots_light_the_lamp() {
    let game = play_to(1800);
    assert!(game.won, "{:?}", game.crowd.iter().map(|(_, one)| one.body.position()).collect::<Vec<_>>());
}

/// What is saved while the gate moves and the lift is up goes on to the same bits after it is loaded.
#[test]
fn a_save_goes_on_as_the_game_did() {
    let mut game = play_to(300);
    let text = game.save().unwrap();
    let run = |game: &mut Warehouse| {
        for _ in 0..600 {
            let intents = intents(game);
            game.tick(&intents, 1.0 / 60.0);
        }
        game.crowd.checksum()
    };
    let straight_on = run(&mut game);
    game.load(&text).unwrap();
    assert_eq!(run(&mut game), straight_on);
    // In a game that was started afresh, as from a file.
    let mut fresh = Warehouse::new().unwrap();
    fresh.load(&text).unwrap();
    assert_eq!(run(&mut fresh), straight_on);
    assert!(fresh.load("[1, 2]").is_err());
}
