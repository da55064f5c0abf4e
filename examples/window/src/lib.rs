//! A window for games and examples: keyboard, mouse and gamepads in, ticks, a picture out.
//!
//! ```no_run
//! use rasant::glam::Vec2;
//! use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
//! use rasant_window::{BODY, Canvas, Failure, Game, Setup, play};
//!
//! struct Walk {
//!     level: Level<Vec2>,
//!     body: Controller<Vec2>,
//! }
//!
//! impl Game for Walk {
//!     fn tick(&mut self, intents: &[Intent], dt: f32) {
//!         self.body.tick(&intents[0], &self.level, dt);
//!     }
//!
//!     fn draw(&self, canvas: &mut Canvas, blend: f32) {
//!         canvas.look_from_the_side(self.body.pose(blend).position, 12.0);
//!         canvas.level(&self.level, blend);
//!         canvas.body(&self.body, blend, BODY);
//!     }
//! }
//!
//! fn main() -> Result<(), Failure> {
//!     let mut builder = Level::builder();
//!     builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0))?);
//!     let (level, hull) = (builder.build()?, Hull::capsule(0.35, 1.8)?);
//!     let body = Controller::new(Tuning::default(), hull, Vec2::ZERO);
//!     play(&mut Walk { level, body }, Setup::default()).map(drop)
//! }
//! ```
//! It draws on the processor, without a graphics card: enough for a few thousand shapes.

mod canvas;
mod keys;
mod plane;
mod player;
mod space;

use std::time::Duration;

use rasant::{Bindings, GameLoop, Intent};
pub use tiny_skia::Pixmap;

pub use canvas::{AWNING, BODY, Canvas, Drawn, LAMP, PAPER, Rgb, STONE, TRAIL, WARNING};
pub use keys::{of_code, of_pointer};

/// What can go wrong in a window.
pub type Failure = Box<dyn std::error::Error>;

/// The size of the window and of pictures, in pixels.
pub const SIZE: (u32, u32) = (1280, 800);

/// What a window shows.
pub trait Game {
    /// Runs a tick of `dt` seconds with the intent of each player.
    fn tick(&mut self, intents: &[Intent], dt: f32);

    /// Draws the game, a fraction `blend` of the time between the last two ticks. Where it is seen in
    /// three dimensions ([`Canvas::look`]), a click locks the cursor, and the mouse turns the look.
    fn draw(&self, canvas: &mut Canvas, blend: f32);

    /// Called once before the ticks of a frame: for reading files that have changed, or the speed of
    /// the game, 1 for real time.
    fn frame(&mut self) -> f32 {
        1.0
    }
}

/// How a game is played.
#[derive(Clone, Debug)]
pub struct Setup {
    /// The title of the window.
    pub title: String,
    /// Ticks per second.
    pub rate: u32,
    /// The bindings of each player.
    pub bindings: Vec<Bindings>,
    /// Ends after this many frames.
    pub frames: Option<u32>,
}

impl Default for Setup {
    fn default() -> Self {
        Self { title: "Rasant".to_owned(), rate: 60, bindings: vec![Bindings::default()], frames: None }
    }
}

impl Setup {
    fn loops(&self) -> Result<Vec<GameLoop>, Failure> {
        self.bindings.iter().map(|one| Ok(GameLoop::new(self.rate, one.clone())?)).collect()
    }
}

/// Opens a window and plays a game until it is closed or Escape is pressed. Returns the number of
/// frames.
///
/// # Errors
/// If there is no window system, or a rate of ticks that cannot be.
pub fn play(game: &mut dyn Game, setup: Setup) -> Result<u32, Failure> {
    player::play(game, setup)
}

/// Runs a game for a number of frames of 1/60 s without a window and without input, and draws the
/// last.
///
/// # Errors
/// If the rate of ticks cannot be.
pub fn picture_after(game: &mut dyn Game, setup: &Setup, frames: u32) -> Result<Pixmap, Failure> {
    let mut loops = setup.loops()?;
    for number in 1..=frames {
        run_frame(game, &mut loops, Duration::from_nanos(16_666_667 * u64::from(number)));
    }
    let mut canvas = Canvas::new(SIZE).ok_or("a picture without a size")?;
    game.draw(&mut canvas, loops.first().map_or(1.0, GameLoop::blend));
    Ok(canvas.finish())
}

/// Runs the ticks that are due at a time since the start of the game.
fn run_frame(game: &mut dyn Game, loops: &mut [GameLoop], now: Duration) {
    let speed = game.frame();
    loops.iter_mut().for_each(|player| player.set_speed(speed));
    let Some(dt) = loops.first().map(GameLoop::dt) else { return };
    // All have the same clock, and so the same ticks.
    let of_players: Vec<Vec<Intent>> = loops.iter_mut().map(|player| player.frame(now).collect()).collect();
    for number in 0..of_players[0].len() {
        let intents: Vec<Intent> = of_players.iter().map(|of_player| of_player[number]).collect();
        game.tick(&intents, dt);
    }
}
