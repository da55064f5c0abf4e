//! `rasant completions SHELL` and `rasant man DIR`: help in other forms.

use std::path::PathBuf;

use clap::CommandFactory;
use clap_complete::Shell;

use crate::Outcome;
use crate::output::{Failure, print_text};
use crate::outputs::Outputs;

#[derive(Debug, clap::Args)]
pub struct Completions {
    /// The shell.
    shell: Shell,
}

/// Prints a completion script for a shell.
pub fn completions(arguments: &Completions) -> Outcome {
    let mut text = Vec::new();
    clap_complete::generate(arguments.shell, &mut crate::Arguments::command(), "rasant", &mut text);
    print_text(&String::from_utf8_lossy(&text))
}

#[derive(Debug, clap::Args)]
pub struct Man {
    /// The folder for the pages.
    folder: PathBuf,
}

/// Writes a manual page for the tool and each of its commands.
pub fn man(arguments: &Man) -> Outcome {
    let folder = &arguments.folder;
    let failed = |error| Failure::Write { path: folder.clone(), error };
    std::fs::create_dir_all(folder).map_err(failed)?;
    let tool = crate::Arguments::command();
    let mut commands = vec![tool.clone()];
    commands.extend(tool.get_subcommands().cloned().map(|command| {
        let name: &'static str = format!("rasant-{}", command.get_name()).leak();
        command.name(name)
    }));
    let places: Vec<PathBuf> =
        commands.iter().map(|command| folder.join(format!("{}.1", command.get_name()))).collect();
    let mut outputs = Outputs::checked(&places, false)?;
    for (command, place) in commands.into_iter().zip(&places) {
        let mut page = Vec::new();
        clap_mangen::Man::new(command).render(&mut page).map_err(failed)?;
        outputs.put(place, page);
    }
    outputs.write()?.say("")
}
