//! `rasant play`.

use std::path::PathBuf;

use crate::output::{Failure, complain, print_text};
use crate::play::{self, Setting};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trial or level to play: a file, or `demo:NAME` for a shipped one.
    #[arg(value_name = "TRIAL|LEVEL", default_value = "demo:first-roof")]
    place: String,
    /// Another tuning than the trial's: a file, or `demo:NAME`.
    #[arg(long, value_name = "TUNING")]
    tuning: Option<String>,
    /// The folder that what is saved goes to where it has no file of its own.
    #[arg(long, value_name = "DIR", default_value = "rasant-out")]
    out: PathBuf,
    /// The port of the page; 0 for any that is free.
    #[arg(long, default_value_t = 0)]
    port: u16,
    /// Only prints the page's address.
    #[arg(long)]
    no_open: bool,
}

pub fn main(arguments: &Arguments) -> Outcome {
    // What cannot be read is said before a page is shown.
    files::place(&arguments.place)?;
    files::tuning(arguments.tuning.as_deref())?;
    let setting = Setting {
        place: arguments.place.clone(),
        tuning: arguments.tuning.clone(),
        out: arguments.out.clone(),
    };
    let opens = !arguments.no_open;
    play::serve(setting, arguments.port, |address| {
        print_text(&format!("{address}\n"))?;
        complain("Play at the address above; it is for this computer only. End with Ctrl+C.\n");
        if opens && let Err(error) = open::that_detached(address) {
            complain(&format!("no browser was opened ({error})\n"));
        }
        Ok(())
    })
    .map_err(|error| Failure::Argument(format!("port {}: {error}", arguments.port)))
}
