//! `rasant new DIR`.

use std::path::{Path, PathBuf};

use include_dir::{Dir, DirEntry, include_dir};

use crate::Outcome;
use crate::output::{Failure, print_text};
use crate::outputs::write_file;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder to make. Its name is the project's, unless another is given.
    folder: PathBuf,
    /// The project's name.
    #[arg(long, value_name = "NAME")]
    name: Option<String>,
    /// Adds a window, a camera and controls: a game that is played from the side, from above, in third
    /// or in first person. Without it the project has a game loop without a window, and a move of its
    /// own.
    #[arg(long, value_name = "VIEW")]
    view: Option<View>,
    /// The folder of Rasant's crates, if they have been moved since the tool was built.
    #[arg(long, value_name = "DIR")]
    crates: Option<PathBuf>,
}

static STARTER: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/starter");
static STARTER_WINDOW: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/starter-window");

/// How a game with a window is seen.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
enum View {
    /// Two dimensions, with gravity.
    Side,
    /// Two dimensions, without gravity.
    Above,
    /// Three dimensions, from behind the body.
    Third,
    /// Three dimensions, from the eyes of the body.
    First,
}

impl View {
    fn name(self) -> &'static str {
        match self {
            Self::Side => "side",
            Self::Above => "above",
            Self::Third => "third",
            Self::First => "first",
        }
    }

    /// The path in the project of a file of the starter with a window: `data/level-side.toml` becomes
    /// `data/level.toml`. `None` if the file is for other views.
    fn path_of(self, path: &Path) -> Option<PathBuf> {
        let (stem, suffix) = (path.file_stem()?.to_str()?, path.extension()?.to_str()?);
        let Some((plain, of)) = stem.split_once('-') else { return Some(path.to_owned()) };
        let dimensions = match self {
            Self::Side | Self::Above => "plane",
            Self::Third | Self::First => "space",
        };
        (of == self.name() || of == dimensions).then(|| path.with_file_name(format!("{plain}.{suffix}")))
    }

    /// The texts that differ between the views, by their names in the files.
    fn texts(self) -> [(&'static str, &'static str); 2] {
        let (from, keys) = match self {
            Self::Side => (
                "from the side",
                "Walk: A, D, or the arrows. Jump: Space. Run: left Shift. Crouch: C. Dash: E.",
            ),
            Self::Above => ("from above", "Walk: W, A, S, D, or the arrows. Run: left Shift. Dash: E."),
            Self::Third => ("in third person", IN_SPACE),
            Self::First => ("in first person", IN_SPACE),
        };
        [("{from}", from), ("{keys}", keys)]
    }
}

/// The keys of a game in three dimensions.
const IN_SPACE: &str = "Walk: W, A, S, D, or the arrows. Look: the mouse, after a click. Jump: Space. Run: left Shift. Crouch: C. Dash: E.";

/// The folder of the crates when the tool was built.
const CRATES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/..");

/// Files that tools would interpret wherever they are, so they have other names here.
const RENAMED: [(&str, &str); 2] = [("Cargo.toml.in", "Cargo.toml"), ("gitignore.in", ".gitignore")];

pub fn main(arguments: &Arguments) -> Outcome {
    let folder = &arguments.folder;
    let name = name_of(folder, arguments.name.as_deref())?;
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
    let files = found("rasant-files")?;
    // The window is needed only where there is one.
    let window = if arguments.view.is_some() { found("../examples/window")? } else { files.clone() };
    let lib = name.replace('-', "_");
    let failed = |path: &Path| {
        let path = path.to_owned();
        move |error| Failure::Write { path, error }
    };
    // Everything is written beside its place first, so that there is a complete project or none.
    let above = match folder.parent() {
        Some(above) if !above.as_os_str().is_empty() => above,
        _ => Path::new("."),
    };
    std::fs::create_dir_all(above).map_err(failed(above))?;
    let mut beside = tempfile::Builder::new();
    #[cfg(unix)]
    beside.permissions(std::os::unix::fs::PermissionsExt::from_mode(0o777));
    let beside = beside.prefix(".rasant-new-").tempdir_in(above).map_err(failed(above))?;
    let home = above.canonicalize().map_err(failed(above))?.join(folder.file_name().unwrap_or_default());
    let paths = [rasant, lab, tool, files, window].map(|path| from_project(&home, path));
    let is_relative = paths.iter().all(|path| path.is_relative());
    let [rasant, lab, tool, files, window] = paths;
    let place = if is_relative {
        "The paths are relative to this file: the project can be moved together with Rasant's folder."
    } else {
        "The paths are of this machine: change them where the project is built elsewhere."
    };
    let mut written = Vec::new();
    let starter = if arguments.view.is_some() { &STARTER_WINDOW } else { &STARTER };
    for (path, text) in files_of(starter) {
        let Some(path) = arguments.view.map_or(Some(path.clone()), |view| view.path_of(&path)) else {
            continue;
        };
        let renamed = RENAMED.iter().find(|(here, _)| path.ends_with(here));
        let path = renamed.map_or(path.clone(), |(_, there)| path.with_file_name(there));
        let quoted = |path: &Path| format!("'{}'", path.display());
        let text = arguments.view.map_or(text.to_owned(), |view| {
            let replaced = |text: String, (name, by): (&str, &str)| text.replace(name, by);
            view.texts().into_iter().fold(text.to_owned(), replaced)
        });
        let text = text
            .replace("{name}", &name)
            .replace("{where}", place)
            .replace("{version}", env!("CARGO_PKG_VERSION"))
            .replace("{rasant}", &quoted(&rasant))
            .replace("{rasant-lab}", &quoted(&lab))
            .replace("{rasant-tool}", &quoted(&tool))
            .replace("{rasant-files}", &quoted(&files))
            .replace("{rasant-window}", &quoted(&window))
            .replace("{lib}", &lib);
        let place = beside.path().join(&path);
        let parent = place.parent().unwrap_or(beside.path());
        std::fs::create_dir_all(parent).map_err(failed(parent))?;
        write_file(&place, text.as_bytes()).map_err(failed(&place))?;
        written.push(folder.join(path));
    }
    // An existing empty folder is replaced.
    let _ = std::fs::remove_dir(folder);
    std::fs::rename(beside.path(), folder).map_err(failed(folder))?;
    let _ = beside.keep();
    let mut text: String = written.iter().map(|path| format!("wrote {}\n", path.display())).collect();
    text += &match arguments.view {
        Some(_) => format!("\ncd {} && cargo run\ncargo test\n", folder.display()),
        None => format!(
            "\ncd {} && cargo run && cargo test\ncargo run -p {name}-tool -- play data/first-steps.toml\n",
            folder.display()
        ),
    };
    print_text(&text)
}

/// The path from a project to a crate: relative if both are in one folder below the root, so that
/// they can be moved together.
fn from_project(home: &Path, path: PathBuf) -> PathBuf {
    let shared = home.ancestors().find(|above| path.starts_with(above));
    let is_in_one_folder = shared.is_some_and(|shared| shared.parent().is_some());
    pathdiff::diff_paths(&path, home).filter(|_| is_in_one_folder).unwrap_or(path)
}

/// Names that Cargo rejects, or that mean something else in every program.
const TAKEN: [&str; 60] = [
    "abstract",
    "alloc",
    "as",
    "async",
    "await",
    "become",
    "box",
    "break",
    "build",
    "const",
    "continue",
    "core",
    "crate",
    "deps",
    "do",
    "dyn",
    "else",
    "enum",
    "examples",
    "extern",
    "false",
    "final",
    "fn",
    "for",
    "gen",
    "if",
    "impl",
    "in",
    "incremental",
    "let",
    "loop",
    "macro",
    "match",
    "mod",
    "move",
    "mut",
    "override",
    "priv",
    "proc_macro",
    "pub",
    "rasant",
    "rasant_lab",
    "ref",
    "return",
    "self",
    "static",
    "std",
    "struct",
    "super",
    "test",
    "trait",
    "true",
    "try",
    "type",
    "typeof",
    "unsafe",
    "use",
    "virtual",
    "where",
    "yield",
];

/// The project's name: the given one or the folder's, if Cargo accepts it.
fn name_of(folder: &Path, given: Option<&str>) -> Result<String, Failure> {
    let of_folder = || folder.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let name = given.map_or_else(of_folder, str::to_owned);
    let fits = name.starts_with(|c: char| c.is_ascii_alphabetic())
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
    let is_taken = TAKEN.contains(&name.replace('-', "_").as_str());
    if fits && is_taken {
        let expected = "expected a name that is not a keyword of Rust or one of its crates";
        return Err(Failure::Argument(format!(
            "{}: the project's name would be `{name}`, {expected} (`--name` gives another)",
            folder.display()
        )));
    }
    if fits {
        return Ok(name);
    }
    Err(Failure::Argument(format!(
        "{}: the project's name would be `{name}`, expected a letter, and then letters, digits, - or _ (`--name` gives another)",
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
