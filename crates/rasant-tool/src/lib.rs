//! The library behind the tool `rasant`: runs, plays and shows movement trials.
//!
//! The binary is one line:
//!
//! ```no_run
//! fn main() -> std::process::ExitCode {
//!     rasant_tool::main()
//! }
//! ```
//!
//! A game with its own moves, figures or zones has another one. Every command, the live page
//! included, then knows them.
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
mod outputs;
mod play;
mod report;

use std::process::ExitCode;

use clap::{Parser, Subcommand};
pub use rasant_lab::{Game, OwnFigure};

use files::Library;
use output::Failure;

/// Rasant measures player movement: trials in, figures and numbers out.
#[derive(Debug, Parser)]
#[command(
    name = "rasant",
    version,
    about = "Plays and measures player movement: trials in; numbers, figures and a live page out",
    propagate_version = true
)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Runs the shipped trials, prints what happened and writes the figures.
    #[command(after_help = help_of(&["rasant demo", "rasant demo --out figures"]))]
    Demo(commands::demo::Arguments),
    /// Opens the live page: play, tune while playing, rewind, compare.
    #[command(after_help = help_of(&["rasant play", "rasant play my-trial.toml --tuning my-tuning.toml", "rasant play my-level.toml --no-open --port 8080"]))]
    Play(commands::play::Arguments),
    /// Runs one trial: a summary, its events, and optionally a trace and a figure.
    #[command(after_help = help_of(&["rasant run demo:first-roof --figure roof.png", "rasant run demo:first-roof --tuning demo:porter,jump.height=1", "rasant run trial.toml --trace - | head"]))]
    Run(commands::run::Arguments),
    /// Runs trials and checks their expectations.
    #[command(after_help = help_of(&["rasant check", "rasant check trials/ --junit results.xml", "rasant check trials/ --shard 1/4 --json > part-1.json"]))]
    Check(commands::check::Arguments),
    /// Lists every knob with its unit, range and meaning.
    #[command(after_help = help_of(&["rasant knobs jump", "rasant knobs --schema tuning > tuning.schema.json"]))]
    Knobs(commands::knobs::Arguments),
    /// Compares tunings with the same inputs: figures side by side, runs drawn together, and where
    /// they diverge.
    #[command(after_help = help_of(&["rasant compare demo:lamplighter demo:lamplighter,jump.height=2.5 --figure compare.png"]))]
    Compare(commands::compare::Arguments),
    /// Measures figures for many values of one or two knobs.
    #[command(after_help = help_of(&["rasant vary demo:porter --knob jump.height=1:3:0.25", "rasant vary demo:porter --knob jump.height=1:3:0.01 --shard 2/4 --csv part-2.csv"]))]
    Vary(commands::vary::Arguments),
    /// Finds values of knobs for which figures reach their targets.
    #[command(after_help = help_of(&["rasant fit demo:porter --target jump-height=2.2 --turn jump.height", "rasant fit mine.toml --target walking-jump-distance=7 --turn jump.height,jump.rise_time --out mine.toml"]))]
    Fit(commands::fit::Arguments),
    /// Runs one trial at many tick rates, and shows the differences.
    #[command(after_help = help_of(&["rasant rates demo:market-square", "rasant rates trial.toml --rates 30,60,144"]))]
    Rates(commands::rates::Arguments),
    /// Makes a starter project: a game loop, a tuning, a level, a trial, a test.
    #[command(after_help = help_of(&["rasant new my-game", "rasant new somewhere/else --name my-game"]))]
    New(commands::new::Arguments),
    /// Measures the figures of a tuning by simulation: heights, times, distances.
    #[command(after_help = help_of(&["rasant sheet demo:chimney-sweep", "rasant sheet demo:porter,jump.height=2 --dimensions 3 --csv sheet.csv"]))]
    Sheet(commands::sheet::Arguments),
    /// Shows the contents of a level, and warns of what may be unintended for a tuning.
    #[command(after_help = help_of(&["rasant level demo:dye-works", "rasant level town.svg --tuning mine.toml --figure town.png", "rasant level tower.glb --json", "rasant level demo:first-roofs --svg first-roofs.svg"]))]
    Level(commands::level::Arguments),
    /// Lists what is shipped with the tool, and every figure with its meaning.
    #[command(after_help = help_of(&["rasant list", "rasant list figures"]))]
    List(commands::list::Arguments),
    /// Writes shipped files, to start from.
    #[command(after_help = help_of(&["rasant export first-roof --out my-trials"]))]
    Export(commands::export::Arguments),
    /// Merges the results of several machines that used --shard.
    #[command(after_help = help_of(&["rasant merge part-1.csv part-2.csv --out all.csv"]))]
    Merge(commands::merge::Arguments),
    /// Prints a completion script for a shell.
    #[command(after_help = help_of(&["rasant completions bash > rasant.bash"]))]
    Completions(commands::help::Completions),
    /// Writes manual pages.
    #[command(after_help = help_of(&["rasant man man1"]))]
    Man(commands::help::Man),
}

/// The text after a command's help: examples and exit codes.
fn help_of(examples: &[&str]) -> String {
    let examples: String = examples.iter().map(|example| format!("  {example}\n")).collect();
    format!(
        "Examples:\n{examples}\nExit codes:\n  0  done\n  1  an expectation failed, or a target was not reached\n  \
         2  an argument or a file is invalid; nothing was run or written"
    )
}

/// [`main`] for a game with its own moves and their knobs, figures and zones.
#[must_use]
pub fn main_of(game: Game) -> ExitCode {
    run(Library { game })
}

/// Runs the command line. Returns the exit code: 0 for success, 1 if an expectation failed, 2 for a
/// wrong argument or file.
#[must_use]
pub fn main() -> ExitCode {
    run(Library::default())
}

fn run(library: Library) -> ExitCode {
    let as_json = std::env::args_os().take_while(|word| word != "--").any(|word| word == "--json");
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) if as_json && error.use_stderr() => {
            return Failure::Argument(error.to_string().trim_start_matches("error: ").trim_end().to_owned())
                .report(true);
        }
        Err(error) => error.exit(),
    };
    let done = match &arguments.command {
        Command::Demo(arguments) => commands::demo::main(arguments, library),
        Command::Play(arguments) => commands::play::main(arguments, library),
        Command::Run(arguments) => commands::run::main(arguments, library),
        Command::Check(arguments) => commands::check::main(arguments, library),
        Command::Knobs(arguments) => commands::knobs::main(arguments, library),
        Command::Compare(arguments) => commands::compare::main(arguments, library),
        Command::Vary(arguments) => commands::vary::main(arguments, library),
        Command::Fit(arguments) => commands::fit::main(arguments, library),
        Command::Rates(arguments) => commands::rates::main(arguments, library),
        Command::New(arguments) => commands::new::main(arguments),
        Command::Sheet(arguments) => commands::sheet::main(arguments, library),
        Command::Level(arguments) => commands::level::main(arguments, library),
        Command::List(arguments) => commands::list::main(arguments, library),
        Command::Export(arguments) => commands::export::main(arguments),
        Command::Merge(arguments) => commands::merge::main(arguments),
        Command::Completions(arguments) => commands::help::completions(arguments),
        Command::Man(arguments) => commands::help::man(arguments),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => failure.report(as_json),
    }
}

/// The result of a command: nothing, or a failure with an exit code.
type Outcome = Result<(), Failure>;
