//! Every command that the README and the documents name is run as it stands there.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use tempfile::tempdir;

/// The commands in a text's shell blocks that are the tool's, each with the line that it
/// starts at; those that need a browser are tested with one.
fn commands(text: &str) -> Vec<(usize, String)> {
    let mut found: Vec<(usize, String)> = Vec::new();
    let (mut in_block, mut goes_on) = (false, false);
    for (number, line) in text.lines().enumerate() {
        if line.starts_with("```") {
            in_block = line == "```sh";
            continue;
        }
        let line = line.replace("cargo run --release -- ", "rasant ");
        if goes_on && let Some((_, last)) = found.last_mut() {
            last.push('\n');
            last.push_str(&line);
        } else if in_block && line.starts_with("rasant ") && !line.starts_with("rasant play") {
            found.push((number + 1, line.clone()));
        } else {
            continue;
        }
        goes_on = line.ends_with('\\');
    }
    found
}

fn copied(from: &Path, to: &Path) {
    fs::create_dir_all(to).unwrap();
    for entry in fs::read_dir(from).unwrap().map(Result::unwrap) {
        let target = to.join(entry.file_name());
        if entry.file_type().unwrap().is_dir() {
            copied(&entry.path(), &target);
        } else {
            fs::copy(entry.path(), target).unwrap();
        }
    }
}

#[cfg(unix)]
#[test]
fn every_command_of_the_documents_works_as_it_is_written() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut documents = vec![root.join("README.md")];
    for folder in ["docs", "docs/guide"] {
        documents.extend(fs::read_dir(root.join(folder)).unwrap().map(|entry| entry.unwrap().path()));
    }
    documents.retain(|path| path.extension().is_some_and(|ending| ending == "md"));
    let folder = tempdir().unwrap();
    copied(&root.join("demo"), &folder.path().join("demo"));
    let tool = PathBuf::from(env!("CARGO_BIN_EXE_rasant"));
    let mut run = 0;
    for document in documents {
        let text = fs::read_to_string(&document).unwrap();
        for (line, command) in commands(&text) {
            let script = format!("rasant() {{ \"$TOOL\" \"$@\"; }}\nset -e\n{command}");
            let done = Command::new("sh")
                .args(["-c", &script])
                .env("TOOL", &tool)
                .current_dir(folder.path())
                .output()
                .unwrap();
            let place = format!("{}:{line}: {command}", document.file_name().unwrap().display());
            let said = String::from_utf8(done.stdout).unwrap();
            assert!(done.status.success(), "{place}\n{said}\n{}", String::from_utf8_lossy(&done.stderr));
            assert!(!said.is_empty(), "{place} says nothing");
            // What it says that it wrote is there.
            for file in said.lines().filter_map(|line| line.strip_prefix("wrote ")) {
                assert!(folder.path().join(file).exists(), "{place}: no {file}");
            }
            run += 1;
        }
    }
    assert!(run >= 12, "{run} commands");
}

/// Every file that a document leads to is there.
#[test]
fn links_between_documents_lead_somewhere() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut documents: Vec<PathBuf> = ["README.md", "ARCHITECTURE.md", "CONTRIBUTING.md", "CHANGELOG.md"]
        .map(|name| root.join(name))
        .to_vec();
    for folder in ["docs", "docs/guide"] {
        documents.extend(fs::read_dir(root.join(folder)).unwrap().map(|entry| entry.unwrap().path()));
    }
    documents.retain(|path| path.extension().is_some_and(|ending| ending == "md"));
    let mut links = 0;
    for document in documents {
        let text = fs::read_to_string(&document).unwrap();
        for part in text.split("](").skip(1) {
            let aim = part.split([')', '#']).next().unwrap_or("");
            if aim.is_empty() || aim.contains("://") {
                continue;
            }
            links += 1;
            assert!(document.parent().unwrap().join(aim).exists(), "{}: {aim}", document.display());
        }
    }
    assert!(links > 60, "{links}");
}
