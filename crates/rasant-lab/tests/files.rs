//! Errors in files are reported at their place.

use std::path::Path;

use crate::common::{InMemory, LEVEL, TRIAL, TUNING, read, refusal};
use rasant_lab::files::{read_bindings, write_bindings};
use rasant_lab::sheet::Figures;
use rasant_lab::{Problem, run};

#[test]
fn a_plain_trial_is_read_and_run() {
    let trial = read(LEVEL, TUNING, TRIAL).unwrap();
    let run = run(&trial);
    assert_eq!(run.trace.rows.len(), 61);
    assert_eq!(run.trace.rows[60].footing, "firm");
}

#[test]
fn errors_are_reported_with_their_place() {
    for (level, tuning, trial, expected) in [
        (LEVEL, "[walk]\nsped = 3\n", TRIAL, "tuning:2:1: unknown key `walk.sped`, expected `speed`?"),
        (LEVEL, "[wolk]\nspeed = 3\n", TRIAL, "tuning:1:2: unknown key `wolk`, expected `walk`?"),
        (LEVEL, "[walk]\nspeed = nan\n", TRIAL, "tuning:2:9: found nan, expected a finite number"),
        (
            LEVEL,
            "[walk]\nspeed = 1e9\n",
            TRIAL,
            "tuning:2:9: `walk.speed` is 1000000000, expected -100 to 100 m/s",
        ),
        (
            LEVEL,
            "[walk]\nspeed = \"fast\"\n",
            TRIAL,
            "tuning:2:9: found the text \"fast\", expected a finite number",
        ),
        (LEVEL, "[walk\nspeed = 3\n", TRIAL, "tuning:1:6: not valid TOML"),
        (
            LEVEL,
            "[hull]\nshape = \"capsul\"\n",
            TRIAL,
            "tuning:2:9: unknown word \"capsul\", expected `capsule`?",
        ),
        (
            LEVEL,
            "[hull]\nshape = \"ball\"\nradius = -0.3\n",
            TRIAL,
            "tuning:1:1: the hull's radius is -0.3, expected a number above 0",
        ),
        (
            "[[piece]]\nball = { centre = [0, 0], radius = -1 }\n",
            TUNING,
            TRIAL,
            "level:2:8: a size is -1, expected more than 0",
        ),
        (
            "[[piece]]\nblock = [[0, 0], [1, inf]]\n",
            TUNING,
            TRIAL,
            "level:2:22: found inf, expected a finite number",
        ),
        (
            "[[piece]]\nblock = [[0, 0], [1]]\n",
            TUNING,
            TRIAL,
            "level:2:18: found a list of 1, expected a list of 2 numbers",
        ),
        (
            "[[piece]]\nname = \"roof\"\n",
            TUNING,
            TRIAL,
            "level:1:1: the piece has no shape, expected a shape",
        ),
        ("title = \"void\"\n", TUNING, TRIAL, "the level has no pieces: there is nothing to stand on"),
        (
            "[surfaces.slate]\n[[piece]]\nblock = [[0, 0], [1, 1]]\nsurface = \"slat\"\n",
            TUNING,
            TRIAL,
            "level:4:11: there is no surface \"slat\", expected `slate`?",
        ),
        ("dimensions = 4\n", TUNING, TRIAL, "level:1:14: found 4, expected 2 or 3"),
        (LEVEL, TUNING, "level = \"level\"\ntuning = \"tuning\"\nduration = 1\n", "`start` is missing"),
        (
            LEVEL,
            TUNING,
            "level = \"level\"\ntuning = \"tuning\"\nstart = [0, -0.5]\nduration = 1\n",
            "trial:3:9: the body would start 0.500 m inside piece 0, expected a start outside every piece",
        ),
        (
            LEVEL,
            TUNING,
            "level = \"elsewhere\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 1\n",
            "elsewhere: cannot be read: no such file",
        ),
    ] {
        let found = refusal(level, tuning, trial);
        assert!(found.contains(expected), "found    {found}\nexpected {expected}");
    }
}

#[test]
fn a_block_can_be_turned() {
    let (sine, cosine) = 20f32.to_radians().sin_cos();
    let rising_right = [-sine, cosine, 0.0];
    for (block, turn, start, normal) in [
        ("[[-5, -1], [5, 0]]", "20", "[0, 0.6]", rising_right),
        ("[[-5, -1, -5], [5, 0, 5]]", "[0, 0, 20]", "[0, 0.6, 0]", rising_right),
        // About y last: what rose to the right rises ahead.
        ("[[-5, -1, -5], [5, 0, 5]]", "[0, 90, 20]", "[0, 0.6, 0]", [0.0, cosine, sine]),
        ("[[-5, -1, -5], [5, 0, 5]]", "[20, 0, 0]", "[0, 0.6, 0]", [0.0, cosine, sine]),
    ] {
        let dimensions = start.matches(',').count() + 1;
        let level = format!("dimensions = {dimensions}\n[[piece]]\nblock = {block}\nturn_deg = {turn}\n");
        let trial = TRIAL.replace("[0, 0]", start);
        let run = run(&read(&level, TUNING, &trial).unwrap());
        let row = &run.trace.rows[60];
        assert_eq!(row.footing, "firm", "turned by {turn}");
        let off = (0..3).map(|axis| (row.normal[axis] - normal[axis]).abs()).fold(0.0, f32::max);
        assert!(off < 1e-5, "turned by {turn}: {:?}, expected {normal:?}", row.normal);
    }
    let found = refusal("[[piece]]\nblock = [[0, 0], [1, 1]]\nturn_deg = [0, 0, 20]\n", TUNING, TRIAL);
    assert!(found.contains("level:3:12: found a list, expected a finite number"), "{found}");
    let found = refusal("[[piece]]\nball = { centre = [0, 0], radius = 1 }\nturn_deg = 20\n", TUNING, TRIAL);
    assert!(found.contains("level:3:1: unknown key"), "{found}");
}

#[test]
fn a_mistake_in_a_script_is_placed_in_its_file() {
    let trial = format!("{TRIAL}script = \"\"\"\nat 0 s: steer right\nat 1 s: pres jump\n\"\"\"\n");
    let found = refusal(LEVEL, TUNING, &trial);
    assert_eq!(
        found,
        "trial:7:9: found `pres`, expected `steer`, `press`, `look`, `walk`, `follow`, `throw`, `knock`, `move`, `open`, `close`, `remove`, `restore`, `carry` or `turn`"
    );
}

#[test]
fn the_same_trial_twice_is_the_same_to_the_byte() {
    let trial = format!("{TRIAL}script = \"at 0 s: steer right\\nat 0.3 s: press jump\"\n");
    let bytes = || {
        let trace = run(&read(LEVEL, TUNING, &trial).unwrap()).trace;
        let (mut csv, mut lines) = (Vec::new(), Vec::new());
        trace.write_csv(&mut csv).unwrap();
        trace.write_json_lines(&mut lines).unwrap();
        (csv, lines)
    };
    let (csv, lines) = bytes();
    assert_eq!((csv.clone(), lines.clone()), bytes());
    let csv = String::from_utf8(csv).unwrap();
    assert!(csv.starts_with("tick,time_s,x_m,y_m,vx_m_per_s,vy_m_per_s,speed_m_per_s,rise_m_per_s,mode,"));
    assert_eq!(csv.lines().count(), 62);
    let last: serde_json::Value =
        serde_json::from_slice(lines.split(|b| *b == b'\n').nth(60).unwrap()).unwrap();
    assert_eq!(last["tick"], 60);
}

#[test]
fn rules_switches_and_zones_are_read_and_refused_where_they_stand() {
    let zone = |body: &str| format!("{LEVEL}[[zone]]\n{body}\n");
    let tuning = "steering = \"side\"\nface = \"eyes\"\n[air]\nkeep = true\n";
    let level = zone("box = [[0, 0], [1, 1]]\nkind = \"wind\"\npush = [1, 2]\nname = \"gust\"");
    let trial = read(&level, tuning, TRIAL).unwrap();
    assert_eq!(trial.tuning.tuning.steering, rasant::Steering::Side);
    assert_eq!(trial.tuning.tuning.air.keep, 1.0);
    let rasant_lab::World::Plane(file) = &trial.world else { panic!("two dimensions") };
    assert_eq!(file.zones, ["gust"]);
    for (level, tuning, expected) in [
        (LEVEL.to_owned(), "steering = \"gase\"\n", "tuning:1:12: unknown word \"gase\", expected `gaze`?"),
        (LEVEL.to_owned(), "[air]\nkeep = 1\n", "tuning:2:8: found 1, expected true or false"),
        (LEVEL.to_owned(), "[jump]\nair_count = 1.5\n", "`jump.air_count` is 1.5, expected 0 to 9, whole"),
        (zone("box = [[0, 0], [1, 1]]\nkind = \"windy\""), "", "unknown word \"windy\", expected `wind`?"),
        (zone("box = [[0, 0], [1, 1]]\nkind = \"wind\""), "", "`push` is missing in [zone]"),
        (zone("box = [[0, 0], [1, 1]]\nkind = \"gravity\"\nup = [0, 0]"), "", "found no direction"),
        (zone("box = [[0, 0]]\nkind = \"goal\""), "", "found 1 points, expected two points"),
        (zone("box = [[0, 0], [1, 1]]\nkind = \"goal\"\npush = [1, 1]"), "", "unknown key `zone.push`"),
    ] {
        let said = refusal(&level, tuning, TRIAL);
        assert!(said.contains(expected), "{said}\nexpected {expected}");
    }
}

#[test]
fn every_shipped_tuning_is_whole_and_unlike_the_others() {
    let folder = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tunings"));
    let mut all: Vec<rasant_lab::files::TuningFile> = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let file = rasant_lab::files::read_tuning(&rasant_lab::OnDisk, &entry.unwrap().path()).unwrap();
        assert!(file.tuning.checked().is_ok() && file.title != "untitled", "{file:?}");
        for other in &all {
            assert!(other.tuning != file.tuning && other.title != file.title, "{}", file.title);
        }
        all.push(file);
    }
    assert!(all.len() >= 5);
}

fn bindings(text: &str) -> Result<rasant::Bindings, Problem> {
    read_bindings(&InMemory([("keys", text.to_owned())].into()), Path::new("keys"))
}

#[test]
fn bindings_written_read_back_the_same() {
    let mut all = rasant::Bindings::default();
    assert_eq!(bindings(&write_bindings(&all)).unwrap().chords.len(), all.chords.len());
    all.shaping.dead_zone = 0.2;
    all.rise_time = 0.07;
    all.look.invert_y = true;
    all.bind(
        rasant::input::Chord::named("ShiftLeft + KeyE").unwrap(),
        rasant::input::Meaning::Action(rasant::Actions::own(7)),
    );
    let read = bindings(&write_bindings(&all)).unwrap();
    let sorted = |bindings: &rasant::Bindings| {
        let mut chords: Vec<String> =
            bindings.chords.iter().map(|(chord, meaning)| format!("{meaning}: {chord}")).collect();
        chords.sort();
        chords
    };
    assert_eq!(sorted(&read), sorted(&all));
    assert_eq!((read.shaping, read.rise_time, read.stick), (all.shaping, all.rise_time, all.stick));
    assert!((read.look.stick_rate - all.look.stick_rate).abs() < 1e-5 && read.look.invert_y);
}

#[test]
fn broken_bindings_name_the_nearest_key() {
    for (text, expected) in [
        (
            "[actions]\njump = [\"Spacd\"]\n",
            "keys:2:9: there is no key, button or axis `Spacd`, expected `Space`?",
        ),
        ("[actions]\njump = [\"pad:souht\"]\n", "expected `pad:south`?"),
        ("[actions]\njmp = [\"Space\"]\n", "there is no action \"jmp\", expected `jump`?"),
        ("[actions]\njump = \"Space\"\n", "found the text \"Space\", expected a list"),
        ("[steer]\nleft = [\"KeyA + KeyB + KeyC + KeyD\"]\n", "found a chord with 4 parts, expected 1 to 3"),
        ("[steer]\ndead_zone = 2\n", "found 2, expected 0 to 0.9"),
        ("[steer]\nstick = \"lefft\"\n", "expected `left`?"),
        ("opposites = \"both\"\n", "unknown word \"both\""),
        ("[lok]\n", "unknown key `lok`, expected `look`?"),
    ] {
        let said = bindings(text).expect_err("it is wrong").to_string();
        assert!(said.contains(expected), "{said}\nexpected {expected}");
    }
}

#[test]
fn expectations_need_one_figure_and_one_bound() {
    for (body, expected) in [
        ("figure = \"hihgest\"\nis = 1", "unknown word \"hihgest\", expected `highest`?"),
        ("is = 1", "found 0 figures, expected one of `figure`, `count`, `time_to`, `always`"),
        ("figure = \"highest\"\ncount = \"landed\"\nis = 1", "found 2 figures"),
        ("figure = \"highest\"", "an expectation needs one bound"),
        ("figure = \"highest\"\nwithin = 1", "an expectation needs one bound"),
        ("figure = \"highest\"\nis = 1\nat_most = 2", "an expectation needs one bound"),
        ("count = \"landet\"\nis = 1", "there is no event \"landet\", expected `landed`?"),
        ("time_to = \"landet\"\nis = 1", "there is no event \"landet\", expected `landed`?"),
        ("time_to = \"x > far\"\nis = 1", "trial:6:16: found `far`, expected a number"),
        ("always = \"afloat\"", "found `afloat`, expected x, y, z"),
        ("figure = \"slowest\"\nwhile = \"x >\"\nis = 1", "the line ends here, expected a number"),
        (
            "figure = \"highest\"\nis = 1\nwithin = 1\nwithni = 2",
            "unknown key `expect.withni`, expected `within`?",
        ),
        // What no run can fail, or none can pass.
        ("figure = \"highest\"\nis = 1", "is measured, and never exactly 1, expected `within`"),
        (
            "figure = \"highest\"\nwhile = \"x > 2\"\nat_least = 1",
            "trial:7:9: highest is measured over the whole run",
        ),
        ("figure = \"end-z\"\nat_least = 1", "unknown word \"end-z\""),
        ("count = \"landed\"\nat_least = 3\nat_most = 2", "no number is at least 3 and at most 2"),
        ("count = \"landed\"\nat_least = 0", "this always holds, expected a bound above 0"),
        ("count = \"landed\"\nis = -1", "this can never hold"),
        ("count = \"landed\"\nis = 1.5", "never exactly 1.5"),
        ("count = \"landed\"\nis = 1\nwithin = -1", "nothing is within -1"),
        ("always = \"grounded\"\nat_least = 1.2", "this can never hold, expected a bound between 0 and 1"),
        ("always = \"grounded\"\nat_least = 0", "this always holds"),
        ("always = \"grounded\"\nat_most = 1", "this always holds"),
        ("figure = \"fastest\"\nat_most = -2", "this can never hold"),
        // Details that nothing has.
        (
            "count = \"jumped twice\"\nis = 1",
            "there is no \"jumped twice\", expected one of ladder, ledge, swim, ground, late",
        ),
        ("count = \"landed on mud\"\nis = 1", "there is no \"landed on mud\""),
        ("count = \"zone-entered nowhere\"\nis = 1", "expected a name, but there is none here"),
        ("count = \"refused dash emty\"\nis = 1", "expected `empty`?"),
        ("count = \"apex high\"\nis = 1", "expected `apex` alone"),
        ("always = \"not on maneuver-phase roll activ\"", "expected `active`?"),
        // What nothing is refused for.
        ("count = \"refused dash no-footing\"\nis = 0", "expected one of empty, air-limit, cooldown"),
        ("count = \"refused roll empty\"\nis = 0", "expected one of no-footing, cooldown"),
        ("count = \"refused ledge cooldown\"\nis = 0", "expected `refused ledge` alone"),
        // What the level does not have.
        ("count = \"ladder-grabbed\"\nis = 0", "expected a level with a ladder: this one has none"),
        ("count = \"zone-entered\"\nis = 0", "expected a level with a zone: this one has none"),
        ("count = \"move-began swim\"\nis = 0", "expected a level with water: this one has none"),
        ("time_to = \"ladder-left\"\nat_most = 1", "expected a level with a ladder"),
        ("always = \"not ladder\"", "the level has no ladder"),
        ("time_to = \"swim\"\nat_most = 1", "the level has no water"),
        // An axis and a time that the trial does not have.
        ("always = \"z < 1\"", "there is no z in two dimensions, expected x or y"),
        ("time_to = \"z > 1\"\nat_most = 1", "there is no z in two dimensions"),
        ("figure = \"slowest\"\nwhile = \"grounded and z > 1\"\nat_least = 1", "there is no z"),
        ("time_to = \"landed\"\nat_most = 900", "the trial ends at"),
        ("time_to = \"landed\"\nat_least = 900", "the trial ends at"),
        ("figure = \"airborne\"\nat_least = 900", "the trial ends at"),
    ] {
        let said = refusal(LEVEL, TUNING, &format!("{TRIAL}[[expect]]\n{body}\n"));
        assert!(said.contains(expected), "{said}\nexpected {expected}");
    }
    // Facts of a body that the body itself reports.
    for event in [
        "refused ledge",
        "refused dash cooldown",
        "jumped ledge",
        "landed on plain",
        "left-ground drop",
        "maneuver-phase hop active",
        "maneuver-phase knockback",
        "move-began glide",
        "refused stand-up no-room",
    ] {
        let text = format!("{TRIAL}[[expect]]\ncount = \"{event}\"\nis = 0\n");
        assert!(read(LEVEL, TUNING, &text).is_ok(), "{event}: {:?}", read(LEVEL, TUNING, &text).err());
    }
}

/// Every word that has been renamed, wherever it stood: the error names the new one.
#[test]
fn old_names_are_refused_with_the_new_name() {
    let trial = |more: &str| format!("{}{more}", crate::common::TRIAL);
    let scripted = |line: &str| trial(&format!("script = '''\n{line}\n'''\n"));
    for (old, new) in rasant_lab::files::RENAMED {
        let key = |word: &str| word.rsplit('.').next().unwrap().to_owned();
        let mut refused: Vec<String> = Vec::new();
        for knob in rasant::tuning::KNOBS {
            let (group, name) = knob.path.split_once('.').unwrap();
            let is_it = if new.contains('.') { knob.path == *new } else { name == *new };
            if is_it
                && !rasant::tuning::KNOBS.iter().any(|other| other.path == format!("{group}.{}", key(old)))
            {
                let tuning = format!("title = \"old\"\n[{group}]\n{} = {}\n", key(old), knob.default);
                refused.push(refusal(LEVEL, &tuning, crate::common::TRIAL));
                assert_eq!(
                    rasant_lab::files::Game::default().nearest_number(&format!("{group}.{}", key(old))),
                    Some(knob.path)
                );
            }
        }
        let figures = Figures::default().kinds();
        if figures.map(|kind| kind.name).any(|name| name == *new) {
            assert_eq!(Figures::default().nearest(old), Some(*new));
            refused.push(format!("`{new}`"));
        }
        if rasant_lab::Vocabulary::default().states().contains(new) {
            refused.push(refusal(LEVEL, TUNING, &scripted(&format!("when {old}: press jump"))));
            refused.push(refusal(LEVEL, TUNING, &trial(&format!("[[expect]]\nalways = \"{old}\"\n"))));
        }
        if ["startup", "active", "recovery", "cooldown"].contains(new) {
            refused.push(refusal(
                LEVEL,
                TUNING,
                &scripted(&format!("on maneuver-phase dash {old}: press jump")),
            ));
            let count = format!("[[expect]]\ncount = \"maneuver-phase dash {old}\"\nis = 1\n");
            refused.push(refusal(LEVEL, TUNING, &trial(&count)));
        }
        if rasant::state::EVENTS.contains(new) {
            refused.push(refusal(LEVEL, TUNING, &scripted(&format!("on {old}: press jump"))));
            refused.push(refusal(LEVEL, TUNING, &trial(&format!("[[expect]]\ncount = \"{old}\"\nis = 1\n"))));
        }
        if let (Some(old), Some(new)) = (old.strip_prefix("face."), new.strip_prefix("face.")) {
            let text = refusal(LEVEL, &format!("title = \"old\"\nface = \"{old}\"\n"), crate::common::TRIAL);
            assert!(text.contains(&format!("`{new}`, its new name")), "{old}: {text}");
            continue;
        }
        if *new == "throw" {
            refused.push(refusal(LEVEL, TUNING, &scripted(&format!("at 1 s: {old} 3 8"))));
        }
        assert!(!refused.is_empty(), "{old} was nowhere");
        for text in refused {
            assert!(text.contains(&format!("`{}`", key(new))) || text.contains(new), "{old}: {text}");
        }
    }
    let figure = "[[expect]]\nfigure = \"aloft\"\nat_least = 1\n";
    assert!(refusal(LEVEL, TUNING, &trial(figure)).contains("`airborne`, its new name"));
    for figure in ["walk-stop-way", "running-jump-way"] {
        let new = Figures::default().nearest(figure).unwrap();
        assert_eq!(new, figure.replace("-way", "-distance"));
    }
}

#[test]
fn rows_of_characters_are_the_blocks_that_they_look_like() {
    let tiles = "[[tiles]]\ncorner = [-2, -2]\nsize = 0.5\nrows = [\n\"........===............#\",\n\
        \"......................##\",\n\"########################\",\n\"########################\",\n]\n";
    let same = "[[piece]]\nblock = [[2, -0.1], [3.5, 0]]\none_way = true\n\
        [[piece]]\nblock = [[9.5, -0.5], [10, 0]]\n[[piece]]\nblock = [[9, -1], [10, -0.5]]\n\
        [[piece]]\nblock = [[-2, -2], [10, -1]]\n";
    let script = "start = [0, -1]\nduration = 5\nscript = '''\nat 0 s: steer right\nat 0.3 s: press jump for 0.5 s\nat 3.2 s: press jump\n'''\n";
    let played = |level: &str| {
        let trial = format!("level = \"level\"\ntuning = \"tuning\"\n{script}");
        rasant_lab::run(&read(level, TUNING, &trial).unwrap())
    };
    let (of_tiles, of_blocks) = (played(tiles), played(same));
    for (row, other) in of_tiles.trace.rows.iter().zip(&of_blocks.trace.rows) {
        assert_eq!(row.position, other.position, "tick {}", row.tick);
        assert_eq!(row.mode, other.mode);
    }
    for (body, expected) in [
        (
            "[[tiles]]\ncorner = [0, 0]\nrows = [\"#x\"]\n",
            "found `x` in column 2, expected `#` for a solid tile",
        ),
        ("[[tiles]]\ncorner = [0, 0]\nrows = \"##\"\n", "expected a list"),
        ("[[tiles]]\nrows = [\"##\"]\n", "`corner` is missing"),
        ("[[tiles]]\ncorner = [0, 0]\nrows = [\"..\"]\n", "there is nothing to stand on"),
        (
            "dimensions = 3\n[[piece]]\nblock = [[0, 0, 0], [1, 1, 1]]\n[[tiles]]\ncorner = [0, 0]\nrows = [\"##\"]\n",
            "unknown key `tiles`",
        ),
    ] {
        let said = refusal(body, TUNING, TRIAL);
        assert!(said.contains(expected), "{said}\nexpected {expected}");
    }
}

/// A tuning in pixels: its numbers, their ranges and its hull are in its units, and it moves as the same
/// in metres does.
#[test]
fn a_tuning_with_a_scale_is_in_its_own_units() {
    let read = |text: &str| {
        let files = InMemory([("walker.toml", text.to_owned())].into());
        rasant_files::read_tuning(&files, "walker.toml".as_ref())
    };
    let pixels =
        read("title = \"In pixels\"\nscale = 32\n[walk]\nspeed = 160\n[jump]\nheight = 64\n").unwrap();
    let metres = read("title = \"In metres\"\n[walk]\nspeed = 5\n[jump]\nheight = 2\n").unwrap();
    assert_eq!(pixels.tuning, metres.tuning.scaled(32.0).unwrap());
    assert_eq!(pixels.hull, metres.hull.scaled(32.0).unwrap());
    // Ranges follow, in errors and where a number is set.
    let wrong = read("scale = 32\n[walk]\nspeed = 4000\n").unwrap_err().to_string();
    assert!(wrong.contains("-3200 to 3200 m/s") || wrong.contains("-3200 to 3200"), "{wrong}");
    let mut set = pixels.clone();
    set.set_number("walk.speed", 1000.0).unwrap();
    set.set_number("hull.height", 60.0).unwrap();
    assert!(set.set_number("hull.height", 40_000.0).is_err());
    assert_eq!(pixels.range_of("walk.speed"), Some([-3200.0, 3200.0]));
    for scale in ["0", "-1", "1e9", "\"big\""] {
        assert!(read(&format!("scale = {scale}\n")).is_err(), "{scale}");
    }
    // Written and edited, it stays in its units.
    let written = rasant_files::write_tuning(&set);
    assert!(written.contains("scale = 32") && written.contains("speed = 1000"), "{written}");
    assert!(!written.contains("terminal_speed"), "a default is not written: {written}");
    assert_eq!(read(&written).unwrap(), set);
    let text = "scale = 32 # pixels\n[walk]\nspeed = 160 # brisk\n";
    let mut edited = read(text).unwrap();
    edited.set_number("walk.speed", 200.0).unwrap();
    let text = rasant_files::edit_tuning(text, &edited).unwrap();
    assert!(text.contains("scale = 32 # pixels") && text.contains("speed = 200.0 # brisk"), "{text}");
    assert_eq!(read(&text).unwrap().tuning, edited.tuning);
}
