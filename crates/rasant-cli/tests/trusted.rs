//! What a tool must not do: destroy what it is pointed at, panic, never end, change a number
//! in silence.

use std::fs;
use std::path::Path;
use std::time::Duration;

use assert_cmd::Command;
use serde_json::Value;
use tempfile::{TempDir, tempdir};

fn rasant(folder: &Path) -> Command {
    let mut command = Command::cargo_bin("rasant").unwrap();
    command.current_dir(folder).timeout(Duration::from_secs(600));
    command
}

/// What it says on standard output, having succeeded.
fn said(folder: &Path, arguments: &[&str]) -> String {
    let done = rasant(folder).args(arguments).assert().success();
    String::from_utf8(done.get_output().stdout.clone()).unwrap()
}

/// What it says on standard error, having refused.
fn refused(folder: &Path, arguments: &[&str]) -> String {
    let done = rasant(folder).args(arguments).assert().code(2);
    let output = done.get_output();
    assert!(output.stdout.is_empty(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stdout));
    let said = String::from_utf8(output.stderr.clone()).unwrap();
    assert!(!said.contains("panicked"), "{arguments:?}: {said}");
    said
}

fn names_in(folder: &Path) -> Vec<String> {
    let names = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap());
    let mut names: Vec<String> = names.collect();
    names.sort();
    names
}

/// A folder with a trial, to whose text more is appended.
fn with_trial(more: &str) -> TempDir {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("level.toml"), "[[piece]]\nblock = [[-5, -1], [50, 0]]\n").unwrap();
    let text = format!("level = \"level.toml\"\ntuning = {{}}\nstart = [0, 0]\n{more}\n");
    fs::write(folder.path().join("trial.toml"), text).unwrap();
    folder
}

#[cfg(unix)]
#[test]
fn the_target_of_the_pointer_stays_the_same() {
    use std::os::unix::fs::{FileTypeExt, MetadataExt, PermissionsExt, symlink};
    let folder = tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    let sheet = |out: &str| rasant(folder.path()).args(["sheet", "--csv", out]).assert();
    fs::write(at("private.csv"), "old").unwrap();
    fs::set_permissions(at("private.csv"), fs::Permissions::from_mode(0o640)).unwrap();
    fs::write(at("aim.csv"), "old").unwrap();
    symlink("aim.csv", at("link.csv")).unwrap();
    symlink("later.csv", at("dangling.csv")).unwrap();
    fs::write(at("one.csv"), "old").unwrap();
    fs::hard_link(at("one.csv"), at("two.csv")).unwrap();
    fs::write(at("new.csv.part"), "somebody's").unwrap();
    for out in ["private.csv", "link.csv", "dangling.csv", "one.csv", "new.csv", "/dev/null"] {
        sheet(out).success();
    }
    let text = fs::read_to_string(at("new.csv")).unwrap();
    assert!(text.starts_with("figure,"), "{text}");
    for name in ["private.csv", "aim.csv", "later.csv", "one.csv", "two.csv"] {
        assert_eq!(fs::read_to_string(at(name)).unwrap(), text, "{name}");
    }
    assert_eq!(fs::metadata(at("private.csv")).unwrap().mode() & 0o777, 0o640);
    assert!(fs::symlink_metadata(at("link.csv")).unwrap().is_symlink());
    assert!(fs::symlink_metadata(at("dangling.csv")).unwrap().is_symlink());
    assert_eq!(fs::metadata(at("one.csv")).unwrap().nlink(), 2);
    assert_eq!(fs::read_to_string(at("new.csv.part")).unwrap(), "somebody's");
    assert!(fs::metadata("/dev/null").unwrap().file_type().is_char_device());
    // A full disk, and a place that is none, leave nothing; a pipe gets the text.
    sheet("/dev/full").code(2);
    sheet(".").code(2);
    let all = [
        "aim.csv",
        "dangling.csv",
        "later.csv",
        "link.csv",
        "new.csv",
        "new.csv.part",
        "one.csv",
        "private.csv",
        "two.csv",
    ];
    assert_eq!(names_in(folder.path()), all);
    let done = rasant(folder.path()).args(["sheet", "--csv", "-"]).assert().success();
    assert_eq!(String::from_utf8_lossy(&done.get_output().stdout), text);
    assert!(String::from_utf8_lossy(&done.get_output().stderr).contains("walk-speed"), "the words are there");
    let piped = std::process::Command::new("sh")
        .args(["-c", "mkfifo pipe && { cat pipe > got & \"$TOOL\" sheet --csv pipe > /dev/null; wait; }"])
        .env("TOOL", env!("CARGO_BIN_EXE_rasant"))
        .current_dir(folder.path())
        .status();
    assert!(piped.unwrap().success());
    assert_eq!(fs::read_to_string(at("got")).unwrap(), text);
    assert!(fs::symlink_metadata(at("pipe")).unwrap().file_type().is_fifo());
}

#[test]
fn places_that_cannot_be_written_are_refused_before_the_work_and_nothing_is_half_done() {
    let folder = tempdir().unwrap();
    fs::create_dir(folder.path().join("folder.svg")).unwrap();
    for (arguments, word) in [
        (&["run", "demo:first-roof", "--trace", "t.csv", "--figure", "nowhere/f.svg"][..], "nowhere/f.svg"),
        (&["run", "demo:first-roof", "--trace", "t.csv", "--figure", "folder.svg"], "it is a folder"),
        (&["run", "demo:first-roof", "--trace", "t.csv", "--tape", "t.csv"], "two outputs have this path"),
        (&["run", "demo:first-roof", "--trace", "t.csv", "--tape", "./t.csv"], "two outputs have this path"),
        (&["run", "demo:first-roof", "--trace", "t.txt"], ".csv or .jsonl"),
        (&["vary", "demo:porter", "--knob", "jump.height=1:3:0.001", "--csv", "nowhere/v.csv"], "nowhere"),
        (&["check", "--junit", "nowhere/j.xml"], "nowhere"),
    ] {
        assert!(refused(folder.path(), arguments).contains(word), "{arguments:?}");
        assert_eq!(names_in(folder.path()), ["folder.svg"], "{arguments:?}");
    }
}

#[cfg(unix)]
#[test]
fn no_reader_is_no_reason_to_panic() {
    let run = |script: &str| {
        let done = std::process::Command::new("sh")
            .args(["-c", script])
            .env("TOOL", env!("CARGO_BIN_EXE_rasant"))
            .output()
            .unwrap();
        assert!(!String::from_utf8_lossy(&done.stderr).contains("panicked"), "{script}");
        done.status.code().unwrap()
    };
    for (script, code) in [
        ("\"$TOOL\" sheet nowhere 2>&-", 2),
        ("\"$TOOL\" sheet nowhere 2>/dev/full", 2),
        ("\"$TOOL\" sheet nowhere --json 2>&- >&-", 2),
        ("\"$TOOL\" sheet >/dev/full", 2),
        ("\"$TOOL\" sheet --josn >/dev/full 2>/dev/full", 2),
        ("\"$TOOL\" run demo:first-roof --trace - | head -1 >/dev/null", 0),
    ] {
        assert_eq!(run(script), code, "{script}");
    }
}

#[test]
fn mistakes_are_shown_where_they_stand_whatever_is_written_round_them() {
    for (script, place) in [
        // Escapes and letters of several bytes before it: columns are of the file as it is.
        ("script = \"at 0 s: steer right # \\\"ü\\u00e9\\\"\\nat 1 s: press jmup\"\nduration = 1", "4:60"),
        ("duration = 1\nscript = \"\"\"\\\n   at 0 s: steer right\nat 1 s: press jmup\n\"\"\"", "7:15"),
        ("duration = 1\nscript = '''\nat 0 s: steer right\r\nat 1 s: press jmup\r\n'''", "7:15"),
    ] {
        let folder = with_trial(script);
        let said = refused(folder.path(), &["run", "trial.toml"]);
        assert!(said.contains(&format!("trial.toml:{place}:")) && said.contains("jmup"), "{place}: {said}");
    }
    // Far to the right in one line.
    let far =
        format!("duration = 1\nscript = \"at 0 s: steer right{}\\nat 1 s: press jmup\"", " ".repeat(70_000));
    let said = refused(with_trial(&far).path(), &["run", "trial.toml"]);
    assert!(said.contains("jmup") && said.len() < 1_000, "{said}");
}

#[test]
fn endless_work_is_refused_with_its_limit() {
    let tape = |lines: &str| format!("rasant-tape 1\n60 ticks a second\n{lines}\n");
    let folder = with_trial("duration = 3600\nrate = 10000");
    let at = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    let said = refused(folder.path(), &["run", "trial.toml"]);
    assert!(said.contains("36000000 ticks") && said.contains("at most 1000000"), "{said}");
    at("long.tape", &tape("90000000 0 0 0 0 - - -"));
    at("taped.toml", "level = \"level.toml\"\ntuning = {}\nstart = [0, 0]\ntape = \"long.tape\"\n");
    assert!(refused(folder.path(), &["run", "taped.toml"]).contains("4,000,000 in all"));
    at("hour.toml", "level = \"level.toml\"\ntuning = {}\nstart = [0, 0]\nduration = 3600\n");
    let said = refused(folder.path(), &["rates", "hour.toml", "--rates", "4800"]);
    assert!(said.contains("more than 1000000 ticks"), "{said}");
    for range in ["1:3:1e-30", "1:3:0", "1:x:3:1", "1:3", "3:1:0.1", "1:3:nan"] {
        let said =
            refused(folder.path(), &["vary", "demo:porter", "--knob", &format!("jump.height={range}")]);
        assert!(said.contains("expected"), "{range}: {said}");
    }
    // If a coordinate overflows, the error names the tick, and no figure is written.
    at(
        "thrown.toml",
        "level = \"level.toml\"\ntuning = {}\nstart = [0, 0]\nduration = 2\nscript = \"at 0.5 s: throw 1e38 1e38\"\n",
    );
    let done = rasant(folder.path()).args(["run", "thrown.toml", "--figure", "f.svg"]).assert().code(1);
    assert!(String::from_utf8_lossy(&done.get_output().stderr).contains("at tick 31"));
    assert!(!folder.path().join("f.svg").exists());
    let done = rasant(folder.path()).args(["run", "thrown.toml", "--json"]).assert().code(1);
    let document: Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
    assert!(document["error"]["message"].as_str().unwrap().contains("at tick 31"), "{document}");
    // As wide as a building: every figure, in seconds.
    at("wide.toml", "[hull]\nshape = \"capsule\"\nradius = 100\nheight = 201\n");
    assert!(said_of(&folder, &["sheet", "wide.toml"]).contains("step-climbed"));
    // Huge times begin nothing.
    for time in ["1e30", "1e300"] {
        at(
            "later.toml",
            &format!(
                "level = \"level.toml\"\ntuning = {{}}\nstart = [0, 0]\nduration = 1\nscript = \"at 0 s: press run\\nthen + {time} s: press jump\"\n"
            ),
        );
        assert!(refused(folder.path(), &["run", "later.toml"]).contains("a time up to 100000 s"));
    }
}

fn said_of(folder: &TempDir, arguments: &[&str]) -> String {
    said(folder.path(), arguments)
}

#[test]
fn numbers_are_accepted_unchanged_or_refused() {
    for (more, words) in [
        ("duration = 1\nrate = 59.94", "found 59.94, expected a whole number, 1 to 10000 ticks a second"),
        ("duration = 1\nrate = -60", "found -60, expected a whole number"),
        ("duration = nan", "found nan, expected a finite number"),
    ] {
        assert!(refused(with_trial(more).path(), &["run", "trial.toml"]).contains(words), "{more}");
    }
    let folder = tempdir().unwrap();
    for (triangle, words) in [
        ("[0, 1, -1]", "found -1, expected a whole number, 0 to 2"),
        ("[0, 1, 1.7]", "found 1.7, expected a whole number, 0 to 2"),
        ("[0, 1, 3]", "found 3, expected a whole number, 0 to 2"),
        ("[0, 1]", "found 2 numbers, expected three"),
    ] {
        let text = format!(
            "dimensions = 3\n[[mesh]]\nvertices = [[0, 0, 0], [1, 0, 0], [0, 0, 1]]\ntriangles = [{triangle}]\n"
        );
        fs::write(folder.path().join("mesh.toml"), text).unwrap();
        let said = refused(folder.path(), &["check", "mesh.toml"]);
        assert!(said.contains(words), "{triangle}: {said}");
    }
}

#[test]
fn a_refusal_is_one_json_document_where_that_is_requested() {
    let folder = with_trial("duration = 1\nscript = \"at 1 s: press jmup\"");
    for (arguments, line, word) in [
        (&["run", "trial.toml", "--json"][..], Some(5), "jmup"),
        (&["run", "demo:first-rof", "--json"], None, "first-rof"),
        (&["vary", "demo:porter", "--knob", "jump.height=1", "--json"], None, "FROM:TO:STEP"),
        (&["sheet", "--josn", "--json"], None, "--josn"),
        (&["run", "demo:first-roof", "--trace", "-", "--json"], None, "expected a file instead"),
        (&["check", "--shard", "3/2", "--json"], None, "with K from 1 to N"),
    ] {
        let done = rasant(folder.path()).args(arguments).assert().code(2);
        let document: Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
        let error = &document["error"];
        assert!(error.to_string().contains(word), "{arguments:?}: {error}");
        assert_eq!(error["line"].as_u64(), line, "{arguments:?}: {error}");
    }
}

#[test]
fn merged_shards_equal_the_whole() {
    let folder = tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    let vary = ["vary", "demo:porter", "--knob", "jump.height=1:2:0.1", "--show", "jump-air-time", "--csv"];
    said(folder.path(), &[&vary[..], &["all.csv"]].concat());
    for part in 1..=3 {
        let (shard, out) = (format!("{part}/3"), format!("part-{part}.csv"));
        said(folder.path(), &[&vary[..], &[out.as_str(), "--shard", shard.as_str()]].concat());
        let checked = said(folder.path(), &["check", "--json", "--shard", &shard]);
        fs::write(at(&format!("part-{part}.json")), checked).unwrap();
    }
    said(folder.path(), &["merge", "part-1.csv", "part-2.csv", "part-3.csv", "--out", "merged.csv"]);
    let [all, merged] = ["all.csv", "merged.csv"].map(|name| fs::read_to_string(at(name)).unwrap());
    assert_eq!(merged, all);
    assert!(all.starts_with("jump.height (m),jump-air-time (s)\n"), "{all}");
    let names = |text: &str| -> Vec<String> {
        let all: Vec<Value> = serde_json::from_str(text).unwrap();
        all.iter().map(|one| one["trial"].as_str().unwrap().to_owned()).collect()
    };
    let merged = said(folder.path(), &["merge", "part-1.json", "part-2.json", "part-3.json"]);
    assert_eq!(names(&merged), names(&said(folder.path(), &["check", "--json"])));
    assert!(refused(folder.path(), &["merge", "part-1.csv", "part-1.json"]).contains("part-1.json"));
    // In any order; but each, once, whole, and of the same work.
    let merged = said(folder.path(), &["merge", "part-3.csv", "part-1.csv", "part-2.csv"]);
    assert_eq!(merged, all);
    said(folder.path(), &[&vary[..], &["of-2.csv", "--shard", "1/2"]].concat());
    let short = fs::read_to_string(at("part-2.csv")).unwrap();
    let short = short.trim_end().rsplit_once('\n').unwrap().0;
    fs::write(at("short.csv"), short).unwrap();
    for (parts, expected) in [
        (&["part-1.csv", "part-3.csv"][..], "part 2/3 is missing"),
        (
            &["part-1.csv", "part-1.csv", "part-2.csv", "part-3.csv"],
            "found part 1/3 again, which is also in part-1.csv",
        ),
        (
            &["part-1.csv", "of-2.csv", "part-3.csv"],
            "found part 1/2 of 11 rows, expected a part of 3 with 11 rows in all",
        ),
        (&["part-1.csv", "short.csv", "part-3.csv"], "some are missing"),
        (&["all.csv"], "found no column `part K/N`"),
        (&["part-1.json", "part-3.json"], "part 2/3 is missing"),
        (&["part-1.json", "all.csv"], "all.csv: expected value"),
    ] {
        let why = refused(folder.path(), &[&["merge"], parts].concat());
        assert!(why.contains(expected), "{parts:?}: {why}");
    }
    assert!(
        refused(folder.path(), &["merge", "part-1.csv", "--out", "part-1.csv"]).contains("it is an input")
    );
}

#[test]
fn inputs_are_not_overwritten() {
    let folder = tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    let text = "# Mine.\n[jump]\nheight = 1.5 # as high as a table\n";
    fs::write(at("a.toml"), text).unwrap();
    fs::write(at("b.toml"), text).unwrap();
    fs::write(at("yard.svg"), "<svg xmlns='http://www.w3.org/2000/svg'><rect width='4' height='1'/></svg>")
        .unwrap();
    fs::hard_link(at("a.toml"), at("same.toml")).unwrap();
    for arguments in [
        &["sheet", "a.toml", "--csv", "a.toml"][..],
        &["sheet", "a.toml,jump.height=2", "--csv", "./a.toml"],
        &["sheet", "a.toml", "--csv", "same.toml"],
        &["level", "yard.svg", "--svg", "yard.svg"],
        &["level", "yard.svg", "--tuning", "a.toml", "--svg", "a.toml"],
        &["vary", "a.toml", "--knob", "jump.height=1:2:1", "--csv", "a.toml"],
        &["run", "demo:first-roof", "--tuning", "a.toml", "--tape", "a.toml"],
    ] {
        let why = refused(folder.path(), arguments);
        assert!(why.contains("it is an input of this command"), "{arguments:?}: {why}");
    }
    assert!(
        refused(folder.path(), &["sheet", "b.toml", "--csv", "a.toml", "--report", "same.toml"])
            .contains("two outputs have this path")
    );
    assert_eq!(fs::read_to_string(at("a.toml")).unwrap(), text);
    // `fit` changes the numbers in the file and nothing else.
    let fit = ["fit", "a.toml", "--target", "jump-height=2.25", "--turn", "jump.height", "--out"];
    said(folder.path(), &[&fit[..], &["a.toml"]].concat());
    assert_eq!(fs::read_to_string(at("a.toml")).unwrap(), text.replace("1.5", "2.25"));
    said(folder.path(), &[&fit[..], &["c.toml"]].concat());
    assert_eq!(fs::read_to_string(at("c.toml")).unwrap(), text.replace("1.5", "2.25"));
}

#[cfg(unix)]
#[test]
fn names_that_are_no_text_and_links_that_lead_round_are_no_trouble() {
    use std::ffi::OsStr;
    use std::os::unix::ffi::OsStrExt;
    use std::os::unix::fs::symlink;

    let folder = tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    let odd = folder.path().join(OsStr::from_bytes(b"odd-\xff.toml"));
    fs::write(&odd, "[jump]\nheight = 2\n").unwrap();
    for json in [false, true] {
        let mut command = rasant(folder.path());
        command.arg("sheet").arg(&odd).args(json.then_some("--json"));
        command.assert().code(2);
    }
    // A folder may have one.
    assert!(said(folder.path(), &["check", "."]).contains("odd-"));
    // Links are followed to where they lead, from one to the next.
    symlink("second", at("first")).unwrap();
    symlink("there.csv", at("second")).unwrap();
    said(folder.path(), &["sheet", "demo:porter", "--show", "jump-height", "--csv", "first"]);
    assert!(at("there.csv").is_file() && at("first").is_symlink() && at("second").is_symlink());
    symlink("round", at("circle")).unwrap();
    symlink("circle", at("round")).unwrap();
    let why = refused(folder.path(), &["sheet", "demo:porter", "--csv", "circle"]);
    assert!(why.contains("links form a cycle"), "{why}");
    assert!(at("circle").is_symlink());
}

#[test]
fn shipped_data_is_listed_exported_and_checked_as_files() {
    let folder = tempdir().unwrap();
    let list: Vec<Value> = serde_json::from_str(&said(folder.path(), &["list", "--json"])).unwrap();
    for kind in ["trial", "tuning", "level", "figure of the sheet", "figure of a run"] {
        let of_kind = list.iter().filter(|one| one["kind"] == kind);
        assert!(of_kind.clone().count() > 5, "{kind}");
        assert!(of_kind.into_iter().all(|one| one["what"].as_str().unwrap().len() > 3), "{kind}");
    }
    let wrote = said(folder.path(), &["export", "gutters", "--out", "mine"]);
    assert_eq!(wrote.lines().count(), 3, "{wrote}");
    let checked = said(folder.path(), &["check", "mine"]);
    assert!(
        checked.contains("ok, a level")
            && checked.contains("ok, a tuning")
            && checked.contains("as expected")
    );
    assert!(refused(folder.path(), &["export", "gutters", "--out", "mine"]).contains("there already"));
    assert!(refused(folder.path(), &["export", "guters"]).contains("`rasant list`"));
    assert!(refused(folder.path(), &["knobs", "jmup"]).contains("no knob has `jmup` in its path"));
    assert!(refused(folder.path(), &["run", "gutters"]).contains("`demo:gutters` is shipped"));
    // Another body on a trial, and every command's help.
    let other = said(folder.path(), &["run", "demo:gutters", "--tuning", "demo:porter,jump.height=1"]);
    assert!(other.contains("The porter, jump.height = 1"), "{other}");
    said(folder.path(), &["man", "pages"]);
    assert!(said(folder.path(), &["completions", "fish"]).contains("rasant"));
    for page in names_in(&folder.path().join("pages")).iter().filter_map(|name| name.strip_prefix("rasant-"))
    {
        let help = said(folder.path(), &[page.trim_end_matches(".1"), "--help"]);
        assert!(help.contains("Examples:\n  rasant ") && help.contains("Exit codes:"), "{page}: {help}");
    }
}

#[test]
fn tables_fit_a_hundred_columns() {
    let folder = tempdir().unwrap();
    for arguments in [
        &["sheet", "demo:lamplighter"][..],
        &["run", "demo:market-square"],
        &["compare", "demo:lamplighter", "demo:porter", "demo:nimble-runner"],
        &["rates", "demo:scaffold", "--rates", "30,60"],
        &["demo"],
        &["list"],
        &["knobs"],
        &["fit", "demo:porter", "--target", "jump-height=2.2", "--turn", "jump.height"],
    ] {
        let text = said(folder.path(), arguments);
        // Sentences stand at the margin.
        let widest = text
            .lines()
            .filter(|line| line.starts_with(' '))
            .max_by_key(|line| line.chars().count())
            .unwrap();
        assert!(widest.chars().count() <= 100, "{arguments:?}: {widest}");
    }
}

#[cfg(unix)]
#[test]
fn a_file_that_is_replaced_keeps_its_owner_and_permissions() {
    use std::os::unix::fs::{MetadataExt, PermissionsExt, chown};

    let folder = tempdir().unwrap();
    let out = folder.path().join("sheet.csv");
    fs::write(&out, "old").unwrap();
    fs::set_permissions(&out, fs::Permissions::from_mode(0o640)).unwrap();
    // Only root may give a file away; for others the owner is their own before and after.
    let _ = chown(&out, Some(12_345), Some(12_346));
    let before = fs::metadata(&out).unwrap();
    said(folder.path(), &["sheet", "demo:porter", "--show", "jump-height", "--csv", "sheet.csv"]);
    let after = fs::metadata(&out).unwrap();
    let of = |there: &fs::Metadata| (there.uid(), there.gid(), there.mode());
    assert_eq!(of(&after), of(&before));
    assert!(fs::read_to_string(&out).unwrap().contains("jump-height"));
}

#[test]
fn the_kind_of_a_wrong_file_is_reported() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("numbers.toml"), "[jump]\nheight = 2\n").unwrap();
    fs::write(folder.path().join("yard.toml"), "[[piece]]\nblock = [[0, 0], [4, 1]]\n").unwrap();
    let why = |arguments: &[&str]| refused(folder.path(), arguments);
    assert!(why(&["run", "numbers.toml"]).contains("it is a tuning; a trial was expected"));
    assert!(why(&["run", "yard.toml"]).contains("it is a level; a trial was expected"));
    assert!(why(&["play", "numbers.toml"]).contains("it is a tuning; a trial or a level was expected"));
    assert!(why(&["level", "numbers.toml"]).contains("it is a tuning"));
}

#[test]
fn names_and_titles_that_would_break_files_are_refused() {
    let folder = tempdir().unwrap();
    for name in ["fn", "test", "std", "core", "crate", "rasant", "self", "proc-macro"] {
        assert!(refused(folder.path(), &["new", name]).contains("not a keyword of Rust"), "{name}");
        assert!(
            refused(folder.path(), &["new", "fine", "--name", name]).contains("not a keyword of Rust"),
            "{name}"
        );
    }
    assert!(fs::read_dir(folder.path()).unwrap().next().is_none());
    for (file, text) in [
        ("a.toml", "title = \"bell \\u0007\"\n[jump]\nheight = 2\n"),
        ("b.toml", "title = \"red \\u001b[31m\"\n[[piece]]\nblock = [[0, 0], [4, 1]]\n"),
    ] {
        fs::write(folder.path().join(file), text).unwrap();
        let why = refused(folder.path(), &["check", file]);
        assert!(why.contains("found the control character U+00"), "{why}");
    }
    // Of a drawing of another program, the rest of the title stays.
    let drawing = "<svg xmlns='http://www.w3.org/2000/svg'><title>A\n  yard &#x85; here</title><rect width='4' height='1'/></svg>";
    fs::write(folder.path().join("yard.svg"), drawing).unwrap();
    let words = said(folder.path(), &["level", "yard.svg"]);
    assert!(words.starts_with("A yard"), "{words}");
    assert!(!words.chars().any(|sign| sign.is_control() && sign != '\n'), "{words}");
}
