//! `rasant new DIR`.

use std::path::{Path, PathBuf};

use include_dir::{Dir, DirEntry, include_dir};

use crate::Outcome;
use crate::output::{Failure, print_text, write_file};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder to make; its name is the project's.
    folder: PathBuf,
    /// The folder of Rasant's crates, if they have been moved since the tool was
    /// built.
    #[arg(long, value_name = "DIR")]
    crates: Option<PathBuf>,
}

static STARTER: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/starter");

/// Where the crates were when the tool was built.
const CRATES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/..");

/// Cargo reads a manifest wherever it finds one, so it has another name here.
const MANIFEST: &str = "Cargo.toml.in";

pub fn main(arguments: &Arguments) -> Outcome {
    let folder = &arguments.folder;
    let name = name_of(folder)?;
    if std::fs::read_dir(folder).is_ok_and(|mut inside| inside.next().is_some()) || folder.is_file() {
        return Err(Failure::Argument(format!("{}: it is there already, and not empty", folder.display())));
    }
    let crates = arguments.crates.clone().unwrap_or_else(|| PathBuf::from(CRATES));
    let found = |name: &str| {
        let path = crates.join(name);
        path.join("Cargo.toml")
            .canonicalize()
            .ok()
            .and_then(|path| path.parent().map(Path::to_owned))
            .ok_or_else(|| {
                let path = path.display();
                Failure::Argument(format!(
                    "{path}: there is no crate, expected --crates with Rasant's `crates` folder"
                ))
            })
    };
    let (rasant, lab, tool) = (found("rasant")?, found("rasant-lab")?, found("rasant-tool")?);
    let lib = name.replace('-', "_");
    let mut written = Vec::new();
    for file in files_of(&STARTER) {
        let (path, text) = file;
        let path =
            folder.join(if path.ends_with(MANIFEST) { path.with_file_name("Cargo.toml") } else { path });
        let quoted = |path: &Path| format!("'{}'", path.display());
        let text = text
            .replace("{name}", &name)
            .replace("{rasant}", &quoted(&rasant))
            .replace("{rasant-lab}", &quoted(&lab))
            .replace("{rasant-tool}", &quoted(&tool))
            .replace("{lib}", &lib);
        let parent = path.parent().unwrap_or(folder);
        std::fs::create_dir_all(parent).map_err(|error| Failure::Write { path: parent.to_owned(), error })?;
        write_file(&path, text.as_bytes())?;
        written.push(path);
    }
    let mut text: String = written.iter().map(|path| format!("wrote {}\n", path.display())).collect();
    text += &format!("\ncd {} && cargo run && cargo test\n", folder.display());
    print_text(&text)
}

/// The project's name: the folder's, if Cargo takes it.
fn name_of(folder: &Path) -> Result<String, Failure> {
    let name = folder.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let fits = name.starts_with(|c: char| c.is_ascii_alphabetic())
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
    if fits {
        return Ok(name);
    }
    Err(Failure::Argument(format!(
        "{}: the project's name would be `{name}`, expected a letter, and then letters, digits, - or _",
        folder.display()
    )))
}

fn files_of(folder: &'static Dir<'static>) -> Vec<(PathBuf, &'static str)> {
    let inside = |entry: &'static DirEntry<'static>| match entry {
        DirEntry::Dir(folder) => files_of(folder),
        DirEntry::File(file) => {
            file.contents_utf8().map(|text| (file.path().to_owned(), text)).into_iter().collect()
        }
    };
    folder.entries().iter().flat_map(inside).collect()
}
