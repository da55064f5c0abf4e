//! A bot that wins the game.

use rasant::contact::Queries;
use rasant::{Layers, Level, Mode};
use rasant_window::{Pixmap, picture_after};

use super::*;

/// What the bot does: it walks right, waits for the lift, and jumps at walls, gaps and spikes.
fn intent(game: &LampOil, jumped: &mut u32) -> Intent {
    let (body, level) = (&game.body, &game.file.level);
    let at = body.position();
    let lift_is_up = (26.5..28.0).contains(&at.x) && !stands_at(level, Vec2::new(29.0, 2.5));
    let on_lift = (28.6..31.0).contains(&at.x) && at.y < 6.9;
    if lift_is_up || on_lift || game.won {
        return Intent::default();
    }
    let right = Intent::steering(1.0, 0.0);
    *jumped = jumped.saturating_sub(1);
    if *jumped > 0 {
        return right.holding(Actions::JUMP);
    }
    let spikes = level.all_zones().iter().any(|zone| {
        zone.effects.iter().any(|effect| matches!(effect, Effect::Hazard))
            && (0.0..0.95).contains(&(zone.bounds.min.x - at.x))
    });
    let gap = !stands_at(level, at + Vec2::new(0.9, 0.5)) && at.x < 27.0;
    if body.state().mode == Mode::Grounded && (spikes || gap || body.state().touching.wall) {
        *jumped = 24;
        return right.pressing(Actions::JUMP);
    }
    right
}

/// Returns true if there is ground within a metre below a point.
fn stands_at(level: &Level<Vec2>, point: Vec2) -> bool {
    level.ray(point, -Vec2::Y, 1.0, Layers::ALL).is_some()
}

/// The game as the bot plays it.
struct Played {
    game: LampOil,
    jumped: u32,
}

impl Game for Played {
    fn frame(&mut self) -> f32 {
        self.game.frame()
    }

    fn tick(&mut self, _: &[Intent], dt: f32) {
        let intent = intent(&self.game, &mut self.jumped);
        self.game.tick(&[intent], dt);
    }

    fn draw(&self, canvas: &mut Canvas, blend: f32) {
        self.game.draw(canvas, blend);
    }
}

/// The end of the game, and a picture of it.
fn play_to(frames: u32) -> (LampOil, Pixmap) {
    let mut played = Played { game: LampOil::new().unwrap(), jumped: 0 };
    let picture = picture_after(&mut played, &Setup::default(), frames).unwrap();
    if let Ok(folder) = std::env::var("RASANT_PICTURES") {
        picture.save_png(format!("{folder}/lamp-oil-{frames}.png")).unwrap();
    }
    (played.game, picture)
}

#[test]
fn a_bot_wins_without_a_fall_and_with_most_of_the_oil() {
    let (game, picture) = play_to(1500);
    assert!(game.won && game.oil >= 5, "{} cans, at {}", game.oil, game.body.position());
    assert_eq!(game.falls, 0);
    assert_eq!((picture.width(), picture.height()), rasant_window::SIZE);
    // Not at once, and the same again.
    let (middle, _) = play_to(250);
    assert!(!middle.won && middle.oil > 1);
    assert_eq!(play_to(1500).0.body.state(), game.body.state());
}

#[test]
fn the_balloon_lifts_until_it_is_empty() {
    let mut game = LampOil::new().unwrap();
    let balloon = Actions::own(0);
    let jump = Intent::default().pressing(Actions::JUMP);
    game.tick(&[jump], 1.0 / 60.0);
    let mut lifted = 0;
    for _ in 0..120 {
        game.tick(&[Intent::default().holding(balloon)], 1.0 / 60.0);
        lifted += u32::from(game.body.state().mode.to_string() == "balloon");
    }
    let ticks = game.body.tuning.get("balloon.time").unwrap() * 60.0;
    assert!((f64::from(lifted) - f64::from(ticks)).abs() <= 1.0, "{lifted} ticks");
}
