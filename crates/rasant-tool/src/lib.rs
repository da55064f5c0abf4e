//! The tool `rasant` as a library: movement trials, run, played and shown.
//!
//! A binary is one line:
//!
//! ```no_run
//! fn main() -> std::process::ExitCode {
//!     rasant_tool::main()
//! }
//! ```
//!
//! That of a game with moves, figures or zones of its own is another: every command, the
//! live page among them, then knows them.
//!
//! ```no_run
//! use rasant::moves::{MoveSet, Standard};
//! use rasant_tool::Game;
//!
//! static MOVES: MoveSet = MoveSet::of::<Standard>(); // and the game's own
//!
//! fn main() -> std::process::ExitCode {
//!     rasant_tool::main_of(Game { moves: Some(&MOVES), ..Game::default() })
//! }
//! ```

mod commands;
mod figure;
mod files;
mod output;
mod play;
mod report;

use std::process::ExitCode;

use clap::{Parser, Subcommand};
pub use rasant_lab::{Game, OwnFigure};

use output::Failure;

/// Rasant measures how player movement behaves: trials in, figures and
/// numbers out.
#[derive(Debug, Parser)]
#[command(name = "rasant", version, about, propagate_version = true)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Runs the shipped trials, prints what happened and writes the figures.
    Demo(commands::demo::Arguments),
    /// Serves the live page: play, turn the numbers while playing, rewind, compare.
    Play(commands::play::Arguments),
    /// Runs one trial: a summary, its events, and on request a trace and a figure.
    Run(commands::run::Arguments),
    /// Runs trials and holds them against what they expect.
    Check(commands::check::Arguments),
    /// Every number a designer turns, with its unit, range and meaning.
    Knobs(commands::knobs::Arguments),
    /// Tunings on the same inputs: figures side by side, runs over each other,
    /// and where they part.
    Compare(commands::compare::Arguments),
    /// Many runs over one or two knobs, and how each figure answers.
    Vary(commands::vary::Arguments),
    /// Figures asked for, and the knobs that give them.
    Fit(commands::fit::Arguments),
    /// One trial at many tick rates, and how far they part.
    Rates(commands::rates::Arguments),
    /// A starter project that runs: a loop, a tuning, a level, a trial, a test.
    New(commands::new::Arguments),
    /// What a tuning comes to: heights, times and ways, measured by simulation.
    Sheet(commands::sheet::Arguments),
}

/// [`main`] for a game: with its moves and their knobs, its figures and its zones.
#[must_use]
pub fn main_of(game: Game) -> ExitCode {
    rasant_lab::set_game(game);
    main()
}

/// Does what the command line asks for, and gives the exit code: 0; 1 where trials are
/// not as they expect; 2 where an argument or a file is wrong.
#[must_use]
pub fn main() -> ExitCode {
    let arguments = Arguments::parse();
    let done = match &arguments.command {
        Command::Demo(arguments) => commands::demo::main(arguments),
        Command::Play(arguments) => commands::play::main(arguments),
        Command::Run(arguments) => commands::run::main(arguments),
        Command::Check(arguments) => commands::check::main(arguments),
        Command::Knobs(arguments) => commands::knobs::main(arguments),
        Command::Compare(arguments) => commands::compare::main(arguments),
        Command::Vary(arguments) => commands::vary::main(arguments),
        Command::Fit(arguments) => commands::fit::main(arguments),
        Command::Rates(arguments) => commands::rates::main(arguments),
        Command::New(arguments) => commands::new::main(arguments),
        Command::Sheet(arguments) => commands::sheet::main(arguments),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => failure.report(),
    }
}

/// What a command gives: nothing, or a failure that has an exit code.
type Outcome = Result<(), Failure>;
