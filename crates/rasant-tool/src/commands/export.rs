//! `rasant export NAME`.

use std::path::PathBuf;

use crate::output::Failure;
use crate::outputs::Outputs;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// What to write, with the names of `rasant list`: a trial with its level and tuning, or one of
    /// those. Everything if none is named.
    names: Vec<String>,
    /// The folder to write to. It gets folders for trials, levels and tunings.
    #[arg(long, value_name = "DIR", default_value = ".")]
    out: PathBuf,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let texts = files::shipped(&arguments.names)?;
    let places: Vec<PathBuf> = texts.iter().map(|(path, _)| arguments.out.join(path)).collect();
    // Files that somebody may have changed are not overwritten.
    if let Some(place) = places.iter().find(|place| place.exists()) {
        return Err(Failure::Argument(format!("{}: it is there already", place.display())));
    }
    for place in &places {
        let folder = place.parent().unwrap_or(&arguments.out);
        std::fs::create_dir_all(folder).map_err(|error| Failure::Write { path: folder.to_owned(), error })?;
    }
    let mut outputs = Outputs::checked(&places, false)?;
    for (place, (_, text)) in places.iter().zip(texts) {
        outputs.put(place, text);
    }
    outputs.write()?.say("")
}
