//! `rasant level FOLDER`: reads many files of other programs, and reports what was read of each.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::Instant;

use rasant_lab::files::{AnyFile, read_any};
use rasant_lab::survey::contents;
use serde::Serialize;

use crate::Outcome;
use crate::files::Library;
use crate::output::{Failure, Grid, ending, print_json, print_text, progress};

/// The extensions of files that may be levels.
const ENDINGS: [&str; 5] = ["svg", "glb", "gltf", "obj", "toml"];
/// The maximum number of files of each kind that are listed.
const LISTED: usize = 20;

/// The results for a folder.
#[derive(Serialize)]
struct Summary {
    folder: String,
    read: usize,
    /// The number of those of which something was left out.
    in_part: usize,
    refused: usize,
    seconds: f64,
    /// The peak memory of this process, in bytes; `None` if the system does not report it.
    peak_bytes: Option<u64>,
    /// What was left out, with the number of files.
    left_out: BTreeMap<String, usize>,
    files: Vec<OneFile>,
}

#[derive(Serialize)]
struct OneFile {
    file: String,
    bytes: u64,
    seconds: f64,
    /// The growth of the process' peak memory while reading it, in bytes.
    grew_bytes: Option<u64>,
    pieces: usize,
    zones: usize,
    left_out: BTreeMap<String, usize>,
    /// The error, if it could not be read.
    error: Option<String>,
}

/// Reads every level in a folder, and reports the results.
pub fn main(folder: &Path, library: Library, as_json: bool) -> Outcome {
    let mut paths = Vec::new();
    gather(folder, &mut paths)?;
    paths.sort();
    if paths.is_empty() {
        let expected = format!("it contains no file with the extension .{}", ENDINGS.join(", ."));
        return Err(Failure::Argument(format!("{}: {expected}", folder.display())));
    }
    let bar = progress(paths.len());
    let begun = Instant::now();
    let files: Vec<OneFile> = paths
        .iter()
        .filter_map(|path| {
            bar.inc(1);
            read(library, path)
        })
        .collect();
    bar.finish_and_clear();
    let summary = summed(folder, files, begun.elapsed().as_secs_f64());
    if as_json { print_json(&summary) } else { print_text(&in_words(&summary)) }
}

fn gather(folder: &Path, paths: &mut Vec<PathBuf>) -> Result<(), Failure> {
    let failed = |error: std::io::Error| Failure::Argument(format!("{}: {error}", folder.display()));
    for entry in std::fs::read_dir(folder).map_err(failed)? {
        let path = entry.map_err(failed)?.path();
        // A link may lead back to a parent.
        if path.is_dir() && !path.is_symlink() {
            gather(&path, paths)?;
        } else if ENDINGS.contains(&ending(&path).as_str()) {
            paths.push(path);
        }
    }
    Ok(())
}

/// Reads one file; `None` for a file of this program that is not a level.
fn read(library: Library, path: &Path) -> Option<OneFile> {
    let before = peak_memory();
    let begun = Instant::now();
    let read = read_any(&library.on_disk(), path);
    let seconds = begun.elapsed().as_secs_f64();
    let mut file = OneFile {
        file: path.display().to_string(),
        bytes: std::fs::metadata(path).map_or(0, |there| there.len()),
        seconds,
        grew_bytes: peak_memory().zip(before).map(|(after, before)| after.saturating_sub(before)),
        pieces: 0,
        zones: 0,
        left_out: BTreeMap::new(),
        error: None,
    };
    let world = match read {
        Ok(AnyFile::Level(world)) => *world,
        Ok(AnyFile::Trial(trial)) => trial.world,
        Ok(_) => return None,
        Err(problem) => {
            file.error = Some(problem.to_string());
            return Some(file);
        }
    };
    let contents = contents(&world);
    file.pieces = contents.pieces.iter().map(|(_, count)| count).sum();
    file.zones = contents.zones.len();
    file.left_out = contents.left_out.into_iter().collect();
    Some(file)
}

/// The peak memory of this process, in bytes, if the system reports it. The system counts in
/// batches per thread, so a later value may be a few pages smaller.
fn peak_memory() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"))?;
    let kilobytes: u64 = line.trim().trim_end_matches("kB").trim().parse().ok()?;
    Some(1024 * kilobytes)
}

fn summed(folder: &Path, files: Vec<OneFile>, seconds: f64) -> Summary {
    let refused = files.iter().filter(|file| file.error.is_some()).count();
    let mut left_out = BTreeMap::new();
    for what in files.iter().flat_map(|file| file.left_out.keys()) {
        *left_out.entry(what.clone()).or_default() += 1;
    }
    Summary {
        folder: folder.display().to_string(),
        read: files.len() - refused,
        in_part: files.iter().filter(|file| !file.left_out.is_empty()).count(),
        refused,
        seconds,
        peak_bytes: peak_memory(),
        left_out,
        files,
    }
}

fn in_words(summary: &Summary) -> String {
    let Summary { folder, read, in_part, refused, seconds, peak_bytes, left_out, files } = summary;
    let megabytes = |bytes: u64| format!("{:.1} MB", bytes as f64 / 1e6);
    let memory = peak_bytes.map_or(String::new(), |bytes| format!(", {} at most", megabytes(bytes)));
    let mut text = format!(
        "{folder}\n\n  {read} files read, {in_part} of them in part; {refused} with errors; {seconds:.2} s{memory}\n"
    );
    let mut grid = Grid::new(["left out", "of files"], [1]);
    let mut kinds: Vec<_> = left_out.iter().collect();
    kinds.sort_by_key(|(_, count)| std::cmp::Reverse(**count));
    for (what, count) in kinds.iter().take(LISTED) {
        grid.add([(*what).clone(), count.to_string()]);
    }
    text += &shown(&grid, kinds.len());
    let mut grid = Grid::new(["refused", "bytes", "why"], [1]);
    let all: Vec<&OneFile> = files.iter().filter(|file| file.error.is_some()).collect();
    for file in all.iter().take(LISTED) {
        let why = file.error.clone().unwrap_or_default();
        // Without the position, which names the file again.
        let why = why.strip_prefix(&file.file).unwrap_or(&why).trim_start_matches(':').to_owned();
        grid.add([short(&file.file, folder), file.bytes.to_string(), why]);
    }
    text += &shown(&grid, all.len());
    let mut slowest: Vec<&OneFile> = files.iter().collect();
    slowest.sort_by(|a, b| b.seconds.total_cmp(&a.seconds));
    let mut grid = Grid::new(["slowest", "bytes", "pieces", "time", "memory"], 1..5);
    for file in slowest.iter().take(5) {
        grid.add([
            short(&file.file, folder),
            file.bytes.to_string(),
            file.pieces.to_string(),
            format!("{:.3} s", file.seconds),
            file.grew_bytes.map_or("-".to_owned(), |bytes| format!("+{}", megabytes(bytes))),
        ]);
    }
    text + &shown(&grid, 0)
}

/// A table, with the number of rows that it does not show; nothing if it is empty.
fn shown(grid: &Grid, of: usize) -> String {
    if grid.is_empty() {
        return String::new();
    }
    let more = of.saturating_sub(LISTED);
    let more = if more > 0 { format!(" … and {more} more: --json has all\n") } else { String::new() };
    format!("\n{}\n{more}", grid.text())
}

fn short(file: &str, folder: &str) -> String {
    file.strip_prefix(folder).unwrap_or(file).trim_start_matches('/').to_owned()
}
