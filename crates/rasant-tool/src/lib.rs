//! The library behind the tool `rasant`: movement trials, run, played and shown.
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
mod outputs;
mod play;
mod report;

use std::process::ExitCode;

use clap::{Parser, Subcommand};
pub use rasant_lab::{Game, OwnFigure};

use output::Failure;

/// Rasant measures how player movement behaves: trials in, figures and
/// numbers out.
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
    /// Serves the live page: play, turn the numbers while playing, rewind, compare.
    #[command(after_help = help_of(&["rasant play", "rasant play my-trial.toml --tuning my-tuning.toml", "rasant play my-level.toml --no-open --port 8080"]))]
    Play(commands::play::Arguments),
    /// Runs one trial: a summary, its events, and on request a trace and a figure.
    #[command(after_help = help_of(&["rasant run demo:first-roof --figure roof.png", "rasant run demo:first-roof --tuning demo:porter,jump.height=1", "rasant run trial.toml --trace - | head"]))]
    Run(commands::run::Arguments),
    /// Runs trials and holds them against what they expect.
    #[command(after_help = help_of(&["rasant check", "rasant check trials/ --junit results.xml", "rasant check trials/ --shard 1/4 --json > part-1.json"]))]
    Check(commands::check::Arguments),
    /// Every number a designer turns, with its unit, range and meaning.
    #[command(after_help = help_of(&["rasant knobs jump", "rasant knobs --schema tuning > tuning.schema.json"]))]
    Knobs(commands::knobs::Arguments),
    /// Tunings on the same inputs: figures side by side, runs over each other,
    /// and where they part.
    #[command(after_help = help_of(&["rasant compare demo:lamplighter demo:lamplighter,jump.height=2.5 --figure compare.png"]))]
    Compare(commands::compare::Arguments),
    /// Many runs over one or two knobs, and how each figure answers.
    #[command(after_help = help_of(&["rasant vary demo:porter --knob jump.height=1:3:0.25", "rasant vary demo:porter --knob jump.height=1:3:0.01 --shard 2/4 --csv part-2.csv"]))]
    Vary(commands::vary::Arguments),
    /// Figures asked for, and the knobs that give them.
    #[command(after_help = help_of(&["rasant fit demo:porter --target jump-height=2.2 --turn jump.height", "rasant fit mine.toml --target walking-jump-distance=7 --turn jump.height,jump.rise_time --out mine.toml"]))]
    Fit(commands::fit::Arguments),
    /// One trial at many tick rates, and how far they part.
    #[command(after_help = help_of(&["rasant rates demo:market-square", "rasant rates trial.toml --rates 30,60,144"]))]
    Rates(commands::rates::Arguments),
    /// A starter project that runs: a loop, a tuning, a level, a trial, a test.
    #[command(after_help = help_of(&["rasant new my-game", "rasant new somewhere/else --name my-game"]))]
    New(commands::new::Arguments),
    /// What a tuning comes to: heights, times and ways, measured by simulation.
    #[command(after_help = help_of(&["rasant sheet demo:chimney-sweep", "rasant sheet demo:porter,jump.height=2 --dimensions 3 --csv sheet.csv"]))]
    Sheet(commands::sheet::Arguments),
    /// What is in a level, and what of it a body of a tuning finds odd.
    #[command(after_help = help_of(&["rasant level demo:dye-works", "rasant level town.svg --tuning mine.toml --figure town.png", "rasant level tower.glb --json", "rasant level demo:first-roofs --svg first-roofs.svg"]))]
    Level(commands::level::Arguments),
    /// What is shipped, and every figure with its meaning.
    #[command(after_help = help_of(&["rasant list", "rasant list figures"]))]
    List(commands::list::Arguments),
    /// Writes what is shipped as files, to start from.
    #[command(after_help = help_of(&["rasant export first-roof --out my-trials"]))]
    Export(commands::export::Arguments),
    /// Puts together what several machines have done with --shard.
    #[command(after_help = help_of(&["rasant merge part-1.csv part-2.csv --out all.csv"]))]
    Merge(commands::merge::Arguments),
    /// Prints what a shell completes the tool's arguments with.
    #[command(after_help = help_of(&["rasant completions bash > rasant.bash"]))]
    Completions(commands::help::Completions),
    /// Writes manual pages.
    #[command(after_help = help_of(&["rasant man man1"]))]
    Man(commands::help::Man),
}

/// What stands below a command's help: how it is called, and what its exit code says.
fn help_of(examples: &[&str]) -> String {
    let examples: String = examples.iter().map(|example| format!("  {example}\n")).collect();
    format!(
        "Examples:\n{examples}\nExit codes:\n  0  done\n  1  something that was expected, or asked for, is not so\n  \
         2  an argument or a file is wrong: nothing has been run or written"
    )
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
        Command::Level(arguments) => commands::level::main(arguments),
        Command::List(arguments) => commands::list::main(arguments),
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

/// What a command gives: nothing, or a failure that has an exit code.
type Outcome = Result<(), Failure>;
