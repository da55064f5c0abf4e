//! `rasant play`.

use std::path::PathBuf;

use crate::Outcome;
use crate::files::Library;
use crate::output::{Failure, complain, print_text};
use crate::play::{self, Setting};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trial or level to play: a file, or `demo:NAME` for a shipped one.
    #[arg(value_name = "TRIAL|LEVEL", default_value = "demo:first-roof")]
    place: String,
    /// Another tuning than the trial's: a file, or `demo:NAME`.
    #[arg(long, value_name = "TUNING")]
    tuning: Option<String>,
    /// Which key does what: a binding file, as in docs/files.md. Changes are saved to it.
    #[arg(long, value_name = "FILE")]
    bindings: Option<PathBuf>,
    /// The keys of a second player, for a trial that has one. The first player does not have these keys.
    #[arg(long, value_name = "FILE")]
    second_bindings: Option<PathBuf>,
    /// Opens what a link of the page refers to: the trial, the numbers and the moment. Links of an
    /// earlier `rasant play` have another address; give them here.
    #[arg(long, value_name = "LINK")]
    link: Option<String>,
    /// The folder for saved files that have no file of their own.
    #[arg(long, value_name = "DIR", default_value = "rasant-out")]
    out: PathBuf,
    /// The port of the page; 0 for any free one.
    #[arg(long, default_value_t = 0)]
    port: u16,
    /// Prints the page's address without opening a browser.
    #[arg(long)]
    no_open: bool,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    // Files that cannot be read are reported before a page is shown.
    library.place(&arguments.place)?;
    library.tuning(arguments.tuning.as_deref())?;
    for path in arguments.bindings.iter().chain(&arguments.second_bindings) {
        rasant_lab::read_bindings(&library.on_disk(), path)?;
    }
    let moment = arguments.link.as_deref().map(moment_of).transpose()?.unwrap_or_default();
    let setting = Setting {
        library,
        place: arguments.place.clone(),
        tuning: arguments.tuning.clone(),
        bindings: arguments.bindings.clone(),
        second_bindings: arguments.second_bindings.clone(),
        out: arguments.out.clone(),
    };
    let opens = !arguments.no_open;
    play::serve(setting, arguments.port, |address| {
        let address = &format!("{address}{moment}");
        print_text(&format!("{address}\n"))?;
        complain("Play at the address above; it is for this computer only. End with Ctrl+C.\n");
        if opens && let Err(error) = open::that_detached(address) {
            complain(&format!("the browser could not be opened ({error})\n"));
        }
        Ok(())
    })
    .map_err(|error| Failure::Argument(format!("port {}: {error}", arguments.port)))
}

/// The part of a link from `#` on.
fn moment_of(link: &str) -> Result<String, Failure> {
    let found = link.split_once("#play=").map(|(_, moment)| moment).filter(|moment| {
        !moment.is_empty() && moment.chars().all(|c| c.is_ascii_alphanumeric() || "-_".contains(c))
    });
    found.map(|moment| format!("#play={moment}")).ok_or_else(|| {
        Failure::Argument(
            "--link: expected a link made by the page, including #play= and what follows it".to_owned(),
        )
    })
}
