//! `fit` finds the knobs of a known tuning from its figures.

use rasant::Tuning;
use rasant::tuning::{KNOBS, Unit};
use rasant_lab::files::TuningFile;
use rasant_lab::fit::{Ending, Fit, FitError, Free, Goal, Reached, Target};
use rasant_lab::sheet::{Figures, RATE, Sheet, sheet};

/// A tuning with every move on.
fn able() -> TuningFile {
    let mut tuning = Tuning::default();
    for (path, value) in [
        ("dash.charges", 1.0),
        ("roll.action", 1.0),
        ("slam.action", 2.0),
        ("ledge.reach", 0.3),
        ("glide.fall_speed", 1.5),
        ("wall.slide_speed", 2.0),
        ("wall.jump_height", 1.5),
        ("jump.air_count", 2.0),
        ("fall.apex_speed", 1.5),
        ("fall.apex_gravity", 0.6),
    ] {
        tuning.set(path, value).unwrap();
    }
    TuningFile { tuning, ..TuningFile::default() }
}

fn goal<'a>(dimensions: usize, targets: &'a [Target], free: &'a [Free]) -> Goal<'a> {
    Goal { dimensions, figures: Figures::default(), targets, free }
}

fn fit(
    file: &TuningFile,
    dimensions: usize,
    targets: &[Target],
    knobs: &[&'static str],
) -> Result<Fit, FitError> {
    let free: Vec<Free> = knobs.iter().map(|knob| Free::from(*knob)).collect();
    rasant_lab::fit::fit(file, goal(dimensions, targets, &free), &|| ())
}

fn turned(file: &TuningFile, changes: &[(&str, f32)]) -> TuningFile {
    let mut file = file.clone();
    for (path, value) in changes {
        file.tuning.set(path, *value).unwrap();
    }
    file
}

/// The figures that differ between two sheets by more than a twentieth.
fn moved(from: &Sheet, to: &Sheet) -> Vec<Target> {
    let readings = to.readings.iter().filter(|reading| !reading.name.ends_with("-delay"));
    readings
        .filter(|reading| {
            let before = from.get(reading.name);
            before.is_none_or(|before| (reading.measured - before).abs() > 0.05 * before.abs().max(0.02))
        })
        .map(|reading| Target { figure: reading.name, value: reading.measured })
        .collect()
}

fn missed(done: &Fit) -> Vec<String> {
    let missed = done.reached.iter().filter(|one| one.ending != Ending::Reached);
    missed.map(|one| format!("{} is {:?} of {}", one.figure, one.measured, one.value)).collect()
}

#[test]
fn fit_finds_the_value_of_one_knob() {
    let base = able();
    let before = sheet(&base, 2, RATE);
    let (mut wrong, mut problems) = (Vec::new(), 0);
    // Every other one: all of them take minutes, and are found as well.
    for knob in KNOBS.iter().filter(|knob| !matches!(knob.unit, Unit::Count | Unit::Switch)).step_by(2) {
        let stands = base.tuning.get(knob.path).unwrap();
        let value = if stands == 0.0 { 0.07 * knob.max.min(10.0) } else { 1.37 * stands };
        let other = turned(&base, &[(knob.path, value.clamp(knob.min, knob.max))]);
        let all = moved(&before, &sheet(&other, 2, RATE));
        // The last that it moves.
        if let Some(target) = all.last() {
            problems += 1;
            let done = fit(&base, 2, std::slice::from_ref(target), &[knob.path]).unwrap();
            wrong.extend(missed(&done).into_iter().map(|what| format!("{}: {what}", knob.path)));
        }
    }
    assert!(wrong.is_empty(), "{} of {problems}:\n{}", wrong.len(), wrong.join("\n"));
    assert!(problems > 25, "{problems}");
}

#[test]
fn fit_finds_the_values_of_several_knobs() {
    let base = able();
    type Problem = (&'static [(&'static str, f32)], &'static [&'static str]);
    let problems: [Problem; 9] = [
        // A ramp's distance whose speed another target determines, and one whose speed no target
        // determines.
        (&[("walk.speed", 5.5), ("walk.stop_time", 0.2)], &["walk-speed", "walk-stop-distance"]),
        (&[("walk.speed", 5.5), ("walk.reach_time", 0.2)], &["walk-reach-distance", "walk-reach-time"]),
        // Closed forms that another knob spoils.
        (&[("jump.take_off_speed", 9.0), ("jump.height", 1.5)], &["jump-height"]),
        (&[("jump.gravity", 30.0), ("jump.height", 2.5)], &["jump-height", "jump-rise-time"]),
        (&[("fall.apex_gravity", 0.4), ("jump.rise_time", 0.45)], &["jump-rise-time", "jump-air-time"]),
        (&[("fall.gravity", 1.8), ("fall.terminal_speed", 12.0)], &["jump-fall-time", "terminal-speed"]),
        // None of the old numbers.
        (&[("walk.stop_time", 0.0), ("walk.reach_time", 0.0)], &["walk-stop-time", "walk-reach-time"]),
        // Whole numbers, by themselves and beside others.
        (&[("jump.air_count", 3.0)], &["all-jumps-height"]),
        (&[("jump.air_count", 1.0), ("jump.air_height", 2.0)], &["all-jumps-height", "air-jump-1-height"]),
    ];
    for (changes, figures) in problems {
        let there = sheet(&turned(&base, changes), 2, RATE);
        let targets: Vec<Target> =
            figures.iter().map(|figure| Target { figure, value: there.get(figure).unwrap() }).collect();
        let knobs: Vec<&str> = changes.iter().map(|(path, _)| *path).collect();
        let done = fit(&base, 2, &targets, &knobs).unwrap();
        assert!(missed(&done).is_empty(), "{knobs:?}: {:?}", missed(&done));
    }
}

#[test]
fn unreachable_targets_are_reported_with_the_nearest_result() {
    let base = able();
    let target = |figure: &'static str, value: f64| Target { figure, value };
    let done = fit(&base, 2, &[target("wall-slide-speed", 40.0)], &["wall.slide_speed"]).unwrap();
    let [Reached { ending: Ending::OutOfReach, nearest: Some(nearest), .. }] = done.reached[..] else {
        panic!("{:?}", done.reached)
    };
    let terminal = f64::from(base.tuning.fall.terminal_speed);
    assert!((nearest - terminal).abs() < 0.01, "{nearest}: a fall is no faster than {terminal}");
    // Each by itself, not both.
    let both = [target("walk-stop-time", 0.1), target("walk-stop-distance", 3.0)];
    let done = fit(&base, 2, &both, &["walk.stop_time"]).unwrap();
    assert!(done.reached.iter().any(|one| one.ending == Ending::NotTogether), "{:?}", done.reached);
    assert!(done.reached.iter().all(|one| one.ending != Ending::OutOfReach), "{:?}", done.reached);
}

#[test]
fn figures_that_a_knob_asks_for_are_reached_by_round_numbers() {
    let base = able();
    for (figure, knob, value) in [
        ("glide-fall-speed", "glide.fall_speed", 1.3),
        ("swim-speed", "swim.speed", 1.5),
        ("ledge-climb-time", "ledge.climb_time", 0.55),
        ("slam-recovery-time", "slam.recovery", 0.35),
        ("slam-speed", "slam.speed", 15.0),
        ("coyote-time", "jump.coyote_time", 0.12),
        ("buffer-time", "jump.buffer_time", 0.15),
        ("roll-cooldown", "roll.cooldown", 0.3),
        ("fall-to-rise", "fall.gravity", 0.8),
    ] {
        let done = fit(&base, 2, &[Target { figure, value }], &[knob]).unwrap();
        assert!(missed(&done).is_empty(), "{:?}", missed(&done));
        let after = done.turned[0].after;
        let digits = format!("{after}").trim_start_matches(['0', '.']).replace('.', "").len();
        assert!(digits <= 5, "{knob} = {after} for {figure} = {value}");
        let own = figure != "fall-to-rise";
        assert!(!own || f64::from(after) == f64::from(value as f32), "{knob} = {after} of {value}");
    }
}

#[test]
fn several_whole_numbers_are_tried_in_every_combination() {
    let base = able();
    let there = turned(&base, &[("jump.air_count", 1.0), ("dash.charges", 7.0), ("dash.air_count", 9.0)]);
    let there = sheet(&there, 2, RATE);
    let targets: Vec<Target> = ["all-jumps-height", "air-dashes"]
        .map(|figure| Target { figure, value: there.get(figure).unwrap() })
        .into();
    let knobs = ["jump.air_count", "dash.charges", "dash.air_count"];
    let done = fit(&turned(&base, &[("jump.air_count", 9.0)]), 2, &targets, &knobs).unwrap();
    assert!(missed(&done).is_empty(), "{:?}", missed(&done));
    // Beside one that is no whole number.
    let there = turned(&base, &[("jump.air_count", 3.0), ("jump.air_height", 2.2), ("wall.in_a_row", 5.0)]);
    let there = sheet(&there, 2, RATE);
    let targets: Vec<Target> = ["all-jumps-height", "air-jump-1-height", "wall-jumps-in-a-row"]
        .map(|figure| Target { figure, value: there.get(figure).unwrap() })
        .into();
    let knobs = ["jump.air_count", "jump.air_height", "wall.in_a_row"];
    let done = fit(&base, 2, &targets, &knobs).unwrap();
    assert!(missed(&done).is_empty(), "{:?}", missed(&done));
    // More than can be tried is an error, and not an answer.
    let many = ["dash.charges", "dash.air_count", "jump.air_count", "wall.in_a_row", "roll.action"];
    assert!(matches!(fit(&base, 2, &targets, &many), Err(FitError::Combinations(_))));
}

#[test]
fn knobs_stay_within_their_bounds() {
    let base = able();
    let target = [Target { figure: "jump-air-time", value: 0.5 }];
    let free = ["fall.gravity=1.2:2", "jump.rise_time=0.2:0.4"].map(|text| Free::parse(&base, text).unwrap());
    let done = rasant_lab::fit::fit(&base, goal(2, &target, &free), &|| ()).unwrap();
    assert!(missed(&done).is_empty(), "{:?}", missed(&done));
    assert!((1.2..=2.0).contains(&done.turned[0].after), "{:?}", done.turned);
    assert!((0.2..=0.4).contains(&done.turned[1].after), "{:?}", done.turned);
    // Out of reach within them, though not without.
    let low = [Free::parse(&base, "jump.height=1:1.5").unwrap()];
    let target = [Target { figure: "jump-height", value: 2.0 }];
    let done = rasant_lab::fit::fit(&base, goal(2, &target, &low), &|| ()).unwrap();
    assert_eq!(done.reached[0].ending, Ending::OutOfReach);
    assert!((done.reached[0].nearest.unwrap() - 1.5).abs() < 0.01, "{:?}", done.reached);
    for wrong in
        ["fall.gravity=2:1.2", "fall.gravity=0:2", "fall.gravity=1", "fall.gravity=1:x", "fall.grvity"]
    {
        assert!(Free::parse(&base, wrong).is_err(), "{wrong}");
    }
}
