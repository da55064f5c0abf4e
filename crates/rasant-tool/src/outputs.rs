//! Files that a command writes: checked before its work, and then all written or none.
//!
//! The kind of file stays the same. A plain file is replaced as a whole, with its permissions; a
//! symbolic link keeps its target; a device, a pipe or a file with several names gets the bytes;
//! `-` is standard output.

use std::fs::{File, Metadata, OpenOptions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use crate::output::{Failure, print_text};

/// Standard output, as a file's name.
const STANDARD: &str = "-";

/// The files that a command will write.
#[derive(Debug, Default)]
pub struct Outputs {
    files: Vec<(PathBuf, Vec<u8>)>,
    /// The paths to be written, and the files that they lead to.
    places: Vec<(PathBuf, PathBuf)>,
    /// True if one of them is standard output.
    to_standard: bool,
}

impl Outputs {
    /// Checks the places that will be written, so that nothing is computed in vain. `prints` says
    /// whether standard output is used for a document.
    ///
    /// # Errors
    /// A [`Failure`] with the first place that cannot be written, or that is named twice.
    pub fn checked<'a>(paths: impl IntoIterator<Item = &'a PathBuf>, prints: bool) -> Result<Self, Failure> {
        let mut outputs = Self::default();
        for path in paths {
            outputs.to_standard |= is_standard(path);
            if is_standard(path) && prints {
                let message = "standard output is used for the JSON document: expected a file instead of `-`";
                return Err(Failure::Argument(message.to_owned()));
            }
            let failed = |error| Failure::Write { path: path.clone(), error };
            let place = aim(path).map_err(failed)?;
            if outputs.places.iter().any(|(_, other)| is_one_file(other, &place)) {
                let message =
                    format!("{}: two outputs have this path, expected different paths", path.display());
                return Err(Failure::Argument(message));
            }
            look(path, &place).map_err(failed)?;
            outputs.places.push((path.clone(), place));
        }
        Ok(outputs)
    }

    /// Checks that the command does not overwrite a file that it reads.
    ///
    /// # Errors
    /// A [`Failure`] with the first output that is an input as well.
    pub fn apart_from<'a>(&self, inputs: impl IntoIterator<Item = &'a Path>) -> Result<(), Failure> {
        for input in inputs {
            if let Some((path, _)) = self.places.iter().find(|(_, place)| is_one_file(place, input)) {
                let message =
                    format!("{}: it is an input of this command, expected another path", path.display());
                return Err(Failure::Argument(message));
            }
        }
        Ok(())
    }

    /// Returns true if a path is standard output.
    pub fn is_standard(path: &Path) -> bool {
        is_standard(path)
    }

    /// Adds a file.
    pub fn put(&mut self, path: &Path, bytes: impl Into<Vec<u8>>) {
        self.files.push((path.to_owned(), bytes.into()));
    }

    /// Writes all files or none. Returns where messages about them go.
    ///
    /// # Errors
    /// A [`Failure`] with the first that could not be written.
    pub fn write(self) -> Result<Written, Failure> {
        let failed = |path: &Path| {
            let path = path.to_owned();
            move |error| Failure::Write { path, error }
        };
        let mut staged = Vec::new();
        for (path, bytes) in &self.files {
            staged.push((path, bytes, Staged::of(path, bytes).map_err(failed(path))?));
        }
        // What can fail now is done first; renaming a plain file cannot.
        staged.sort_by_key(|(.., staged)| matches!(staged, Staged::Whole(_)));
        for (path, bytes, staged) in staged {
            staged.commit(bytes).map_err(failed(path))?;
        }
        let files = self.files.into_iter().map(|(path, _)| path).filter(|path| !is_standard(path));
        Ok(Written { files: files.collect(), to_standard: self.to_standard })
    }
}

/// What has been written.
#[derive(Debug)]
pub struct Written {
    files: Vec<PathBuf>,
    to_standard: bool,
}

impl Written {
    /// Prints a text and the written files: on standard output, or on standard error if standard
    /// output has a file.
    ///
    /// # Errors
    /// A [`Failure`] if standard output cannot be written.
    pub fn say(&self, words: &str) -> Result<(), Failure> {
        let files = self.files.iter().map(|path| format!("wrote {}\n", path.display()));
        let text = words.to_owned() + &files.collect::<String>();
        if self.to_standard {
            // Errors are ignored, because they cannot be reported anywhere.
            let _ = io::stderr().write_all(text.as_bytes());
            return Ok(());
        }
        print_text(&text)
    }
}

/// Writes one file, as [`Outputs`] does.
///
/// # Errors
/// Those of the system.
pub fn write_file(path: &Path, bytes: &[u8]) -> io::Result<()> {
    Staged::of(path, bytes)?.commit(bytes)
}

fn is_standard(path: &Path) -> bool {
    path.as_os_str() == STANDARD
}

/// Returns true if two paths lead to the same file.
fn is_one_file(one: &Path, other: &Path) -> bool {
    let is_plain = |path: &Path| std::fs::metadata(path).is_ok_and(|there| there.is_file());
    // Two outputs may go to one device.
    one == other || (is_plain(one) && is_plain(other) && same_file::is_same_file(one, other).unwrap_or(false))
}

/// The file that a path leads to through symbolic links, whether it exists or not.
fn aim(path: &Path) -> io::Result<PathBuf> {
    /// The maximum number of links from link to link.
    const MOST_LINKS: usize = 40;
    let mut at = path.to_owned();
    for _ in 0..MOST_LINKS {
        if let Ok(there) = at.canonicalize() {
            return Ok(there);
        }
        // A link to a file that does not exist yet.
        match std::fs::read_link(&at) {
            Ok(named) => at = parent(&at).join(named),
            Err(_) => {
                return Ok(match (parent(&at).canonicalize(), at.file_name()) {
                    (Ok(folder), Some(name)) => folder.join(name),
                    _ => at,
                });
            }
        }
    }
    Err(io::Error::other("its links form a cycle, expected a file"))
}

fn parent(path: &Path) -> &Path {
    match path.parent() {
        Some(folder) if folder.as_os_str().is_empty() => Path::new("."),
        Some(folder) => folder,
        None => Path::new("/"),
    }
}

/// Checks that something can be written there, without changing it.
fn look(path: &Path, place: &Path) -> io::Result<()> {
    if is_standard(path) {
        return Ok(());
    }
    match std::fs::metadata(place) {
        Ok(there) if there.is_dir() => Err(io::Error::other("it is a folder, expected a file")),
        Ok(there) if there.is_file() => OpenOptions::new().write(true).open(place).map(drop),
        // Opening a pipe waits for its reader.
        Ok(_) => Ok(()),
        Err(_) => tempfile::tempfile_in(parent(place)).map(drop),
    }
}

/// A file that is ready to be written.
enum Staged {
    /// Written beside its place, to be renamed.
    Whole(Unnamed),
    /// To be written in place.
    Direct(File),
    Standard,
}

/// A file that is written as a whole and has no name yet.
struct Unnamed {
    place: PathBuf,
    content: Content,
}

enum Content {
    /// It has no name at all, and vanishes with this process.
    #[cfg(target_os = "linux")]
    Nameless(File),
    /// It has a temporary name.
    Named(tempfile::NamedTempFile),
}

impl Staged {
    fn of(path: &Path, bytes: &[u8]) -> io::Result<Self> {
        if is_standard(path) {
            return Ok(Self::Standard);
        }
        let place = aim(path)?;
        let there = std::fs::metadata(&place).ok();
        let direct = || OpenOptions::new().write(true).open(&place).map(Self::Direct);
        if there.as_ref().is_some_and(|there| !there.is_file() || has_other_names(there)) {
            return direct();
        }
        match Content::of(parent(&place), bytes, there.as_ref()) {
            Ok(content) => Ok(Self::Whole(Unnamed { place, content })),
            // A writable file in a folder that is not writable.
            Err(error) if there.is_some() && error.kind() == io::ErrorKind::PermissionDenied => direct(),
            Err(error) => Err(error),
        }
    }

    fn commit(self, bytes: &[u8]) -> io::Result<()> {
        match self {
            Self::Standard => match io::stdout().lock().write_all(bytes) {
                // A closed pipe is not a failure.
                Err(error) if error.kind() == io::ErrorKind::BrokenPipe => Ok(()),
                done => done,
            },
            Self::Direct(mut file) => {
                // A device or a pipe has no length.
                let _ = file.set_len(0);
                file.write_all(bytes)?;
                file.flush()
            }
            Self::Whole(unnamed) => unnamed.name(),
        }
    }
}

impl Content {
    /// A new file with these bytes, and with the permissions and owner of the file that it
    /// replaces.
    fn of(folder: &Path, bytes: &[u8], there: Option<&Metadata>) -> io::Result<Self> {
        #[cfg(target_os = "linux")]
        if let Some(mut file) = nameless(folder) {
            file.write_all(bytes)?;
            take_after(&file, there)?;
            return Ok(Self::Nameless(file));
        }
        let mut builder = tempfile::Builder::new();
        #[cfg(unix)]
        builder.permissions(std::os::unix::fs::PermissionsExt::from_mode(0o666));
        let mut file = builder.tempfile_in(folder)?;
        file.write_all(bytes)?;
        take_after(file.as_file(), there)?;
        Ok(Self::Named(file))
    }
}

/// Gives a file the owner, if allowed, and the permissions of another.
fn take_after(file: &File, there: Option<&Metadata>) -> io::Result<()> {
    let Some(there) = there else { return Ok(()) };
    #[cfg(unix)]
    {
        use std::os::unix::fs::{MetadataExt, fchown};
        // Only root can give a file to another owner; otherwise the owner is the user.
        let _ = fchown(file, Some(there.uid()), Some(there.gid()));
    }
    file.set_permissions(there.permissions())
}

impl Unnamed {
    fn name(self) -> io::Result<()> {
        match self.content {
            #[cfg(target_os = "linux")]
            Content::Nameless(file) => name_it(&file, &self.place),
            Content::Named(file) => file.persist(&self.place).map(drop).map_err(|error| error.error),
        }
    }
}

/// A new file without a name in a folder; `None` if the system has no such files.
#[cfg(target_os = "linux")]
fn nameless(folder: &Path) -> Option<File> {
    use rustix::fs::{CWD, Mode, OFlags, openat};
    let flags = OFlags::TMPFILE | OFlags::RDWR | OFlags::CLOEXEC;
    openat(CWD, folder, flags, Mode::from_raw_mode(0o666)).ok().map(File::from)
}

/// Gives a nameless file its name, replacing an existing file.
#[cfg(target_os = "linux")]
fn name_it(file: &File, place: &Path) -> io::Result<()> {
    use std::os::fd::AsRawFd;

    use rustix::fs::{AtFlags, CWD, linkat};
    let itself = format!("/proc/self/fd/{}", file.as_raw_fd());
    let link = |name: &Path| linkat(CWD, itself.as_str(), CWD, name, AtFlags::SYMLINK_FOLLOW);
    match link(place) {
        Err(rustix::io::Errno::EXIST) => {
            // A temporary name, used until the other file is replaced.
            let mut beside = tempfile::Builder::new();
            let named = beside.prefix(".rasant-").make_in(parent(place), |name| Ok(link(name)?))?;
            named.persist(place).map(drop).map_err(|error| error.error)
        }
        done => Ok(done?),
    }
}

#[cfg(unix)]
fn has_other_names(there: &std::fs::Metadata) -> bool {
    std::os::unix::fs::MetadataExt::nlink(there) > 1
}

#[cfg(not(unix))]
fn has_other_names(_: &std::fs::Metadata) -> bool {
    false
}
