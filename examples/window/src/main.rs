//! Rasant in a window: a trial's level and tuning, played by hand.
//!
//! ```sh
//! cargo run --release --features gamepad                       # play
//! cargo run --release -- --trial ../../demo/trials/bell-loft.toml   # in three dimensions
//! cargo run --release -- --frames 240 --tape t.tape --png t.png   # no window
//! ```
//! The library of this package has the window: it gives a `GameLoop` the device events and the frames
//! with their times. The game here ticks its body with each intent, and draws the pose between the last
//! two ticks through a camera.

mod game;

use std::path::{Path, PathBuf};

use clap::Parser;
use rasant::Tape;
use rasant_window::{Failure, Setup, picture_after, play};

use game::Playing;

#[derive(Parser)]
#[command(about = "Plays a trial's level by hand, or replays a tape without a window")]
struct Arguments {
    /// The trial whose level, tuning and start are used. Two dimensions are seen from the side,
    /// three from behind; there a click locks the cursor, and the mouse looks around until Escape
    /// is pressed.
    #[arg(long, default_value = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/trials/gutters.toml"))]
    trial: PathBuf,
    /// The bindings.
    #[arg(long, default_value = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/bindings/keys-and-pad.toml"))]
    bindings: PathBuf,
    /// Replays this tape, or the trial's own script if no file is given.
    #[arg(long)]
    tape: Option<PathBuf>,
    /// Runs this many frames of 1/60 s and stops.
    #[arg(long)]
    frames: Option<u32>,
    /// Draws the last frame into this file, without a window.
    #[arg(long, requires = "frames")]
    png: Option<PathBuf>,
    /// Records the inputs, for `tape` in a trial.
    #[arg(long)]
    record: Option<PathBuf>,
}

fn main() {
    if let Err(error) = run(&Arguments::parse()) {
        eprintln!("error: {error}");
        std::process::exit(2);
    }
}

fn run(arguments: &Arguments) -> Result<(), Failure> {
    let (mut game, setup) = game::load(&arguments.trial, &arguments.bindings)?;
    let setup = Setup { frames: arguments.frames, ..setup };
    if arguments.tape.is_some() || arguments.png.is_some() {
        game.replay(tape_of(arguments.tape.as_deref(), &*game)?);
    }
    if let Some(path) = &arguments.png {
        let frames = arguments.frames.unwrap_or(0);
        picture_after(game.as_game(), &setup, frames)?.save_png(path)?;
        println!("{} frames, {}; wrote {}", frames, game.in_words(), path.display());
        return Ok(());
    }
    let drawn = play(game.as_game(), setup)?;
    println!("{drawn} frames, {}", game.in_words());
    if let Some(path) = &arguments.record {
        std::fs::write(path, game.recorded().to_text(game.rate()))?;
        println!("wrote {}", path.display());
    }
    Ok(())
}

fn tape_of(path: Option<&Path>, game: &dyn Playing) -> Result<Tape, Failure> {
    let Some(path) = path else { return Ok(game.scripted()) };
    let text = std::fs::read_to_string(path).map_err(|error| format!("{}: {error}", path.display()))?;
    let (tape, rate) = Tape::from_text(&text).map_err(|error| format!("{}: {error}", path.display()))?;
    if rate == game.rate() {
        Ok(tape)
    } else {
        Err(format!("{}: it is of {rate} ticks a second, the trial of {}", path.display(), game.rate())
            .into())
    }
}
