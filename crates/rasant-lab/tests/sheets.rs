//! The movement sheet agrees with physics where physics has a closed form, and
//! answers to knobs where it has none.

use proptest::prelude::*;
use rasant::tuning::{KNOBS, Knob, Unit};
use rasant::{Hull, Steering, Tuning};
use rasant_lab::files::TuningFile;
use rasant_lab::sheet::{Figures, RATE, Sheet, sheet};

fn file(tuning: Tuning) -> TuningFile {
    TuningFile { title: "tried".to_owned(), tuning, hull: Hull::capsule(0.3, 1.7).unwrap(), up: None }
}

fn with(changes: &[(&str, f32)]) -> TuningFile {
    let mut tuning = Tuning::default();
    for (path, value) in changes {
        tuning.set(path, *value).unwrap();
    }
    file(tuning)
}

fn is(sheet: &Sheet, name: &str, expected: f32) {
    let found = sheet.get(name).unwrap_or_else(|| panic!("there is no {name}"));
    let expected = f64::from(expected);
    assert!(
        (found - expected).abs() <= 0.005 * expected.abs().max(1e-3),
        "{name} in {} dimensions: measured {found}, physics says {expected}",
        sheet.dimensions
    );
}

prop_compose! {
    fn tunings()(
        speed in 1.0f32..12.0, run in 1.0f32..14.0,
        reach in 0.02f32..0.6, stop in 0.02f32..0.6, turn in 0.02f32..0.6,
        air_reach in 0.05f32..0.5,
        height in 0.3f32..6.0, rise in 0.15f32..0.8, fall in 0.6f32..2.5,
        terminal in 14.0f32..60.0,
    ) -> TuningFile {
        with(&[
            ("walk.speed", speed), ("run.speed", run),
            ("walk.reach_time", reach), ("walk.stop_time", stop), ("walk.turn_time", turn),
            ("air.reach_time", air_reach),
            ("jump.height", height), ("jump.rise_time", rise), ("fall.gravity", fall),
            ("fall.terminal_speed", terminal),
            ("jump.air_count", 2.0), ("jump.air_height", 0.7 * height), ("jump.air_change", 0.8),
        ])
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn speeds_times_distances_and_heights_are_those_of_physics(file in tunings(), space in any::<bool>()) {
        let Tuning { walk, run, jump, fall, air, .. } = file.tuning;
        let sheet = sheet(&file, if space { 3 } else { 2 }, RATE);
        // Evenly faster: a ramp of time t covers v·t/2.
        is(&sheet, "walk-speed", walk.speed);
        for (time, distance, knob) in [
            ("walk-reach-time", "walk-reach-distance", walk.reach_time),
            ("walk-stop-time", "walk-stop-distance", walk.stop_time),
            ("walk-turn-time", "walk-turn-distance", walk.turn_time),
        ] {
            is(&sheet, time, knob);
            is(&sheet, distance, walk.speed * knob / 2.0);
        }
        // Running speeds up at the same rate.
        is(&sheet, "run-speed", run.speed);
        is(&sheet, "run-reach-time", walk.reach_time * run.speed / walk.speed);
        // h = g·t²/2 up; down with a heavier gravity, perhaps to the terminal speed.
        let gravity = 2.0 * jump.height / (jump.rise_time * jump.rise_time);
        let down = gravity * fall.gravity;
        let drop = fall.terminal_speed * fall.terminal_speed / (2.0 * down);
        let fall_time = if drop >= jump.height {
            (2.0 * jump.height / down).sqrt()
        } else {
            fall.terminal_speed / down + (jump.height - drop) / fall.terminal_speed
        };
        let in_air = jump.rise_time + fall_time;
        is(&sheet, "jump-height", jump.height);
        is(&sheet, "jump-rise-time", jump.rise_time);
        is(&sheet, "jump-fall-time", fall_time);
        is(&sheet, "jump-air-time", in_air);
        is(&sheet, "jump-landing-speed", (2.0 * down * jump.height).sqrt().min(fall.terminal_speed));
        is(&sheet, "terminal-speed", fall.terminal_speed);
        is(&sheet, "terminal-drop", drop);
        is(&sheet, "air-jump-1-height", 0.7 * jump.height);
        is(&sheet, "air-jump-2-height", 0.7 * 0.8 * jump.height);
        is(&sheet, "all-jumps-height", (1.0 + 0.7 + 0.7 * 0.8) * jump.height);
        // At constant speed, distance is speed times time; from standing, the body accelerates
        // first.
        is(&sheet, "walking-jump-distance", walk.speed * in_air);
        let rate = walk.speed / air.reach_time;
        let standing = if in_air < air.reach_time {
            rate * in_air * in_air / 2.0
        } else {
            walk.speed * (in_air - air.reach_time / 2.0)
        };
        is(&sheet, "standing-jump-distance", standing);
        prop_assert_eq!(sheet.get("steer-delay"), Some(0.0));
        prop_assert_eq!(sheet.get("jump-delay"), Some(0.0));
    }

    #[test]
    fn the_targets_of_knobs_are_measured(
        steepest in 5.0f32..80.0, step in 0.05f32..0.6, snap in 0.05f32..0.6, slide in 0.5f32..4.0, hop in 0.3f32..6.0,
        distance in 1.0f32..8.0, time in 0.08f32..0.5, rest in 0.05f32..0.6, curve in -0.9f32..0.9,
    ) {
        let mut file = with(&[
            ("slope.max_angle_deg", steepest), ("slope.step_height", step), ("slope.ground_snap", snap),
            ("wall.slide_speed", slide), ("wall.jump_height", hop),
            ("dash.charges", 1.0), ("dash.distance", distance), ("dash.active", time), ("dash.cooldown", rest),
            ("dash.curve", curve), ("dash.startup", 0.03), ("dash.recovery", 0.04), ("dash.end_speed", 0.0),
            ("roll.action", 3.0), ("roll.distance", distance), ("roll.active", time), ("roll.end_speed", 0.0),
        ]);
        // A round foot rolls over edges; a box has none.
        file.hull = Hull::upright_box(0.6, 1.7).unwrap();
        let sheet = sheet(&file, 2, RATE);
        let climbed = sheet.get("slope-climbed").unwrap();
        prop_assert!((climbed - f64::from(steepest)).abs() < 0.1, "{climbed} for {steepest} degrees");
        let climbed = sheet.get("step-climbed").unwrap();
        prop_assert!((climbed - f64::from(step)).abs() < 0.006, "{climbed} for {step}");
        let followed = sheet.get("drop-followed").unwrap();
        prop_assert!((followed - f64::from(snap)).abs() < 0.006, "{followed} for {snap}");
        is(&sheet, "wall-slide-speed", slide);
        is(&sheet, "wall-jump-height", hop);
        is(&sheet, "dash-distance", distance);
        is(&sheet, "dash-time", time);
        is(&sheet, "dash-top-speed", distance / time * (1.0 + curve.abs()));
        is(&sheet, "dash-cooldown", rest);
        is(&sheet, "roll-distance", distance);
        is(&sheet, "roll-time", time);
    }
}

/// More of a knob is more, or less, of a figure that has no closed form here.
#[test]
fn figures_change_with_knobs_in_the_right_direction() {
    let base = [
        ("wall.slide_speed", 2.0),
        ("wall.jump_height", 1.5),
        ("dash.charges", 1.0),
        ("jump.cut_gravity", 3.0),
    ];
    for (knob, from, to, figure, grows) in [
        ("jump.cut_gravity", 1.5, 6.0, "tap-height", false),
        ("wall.jump_away", 2.0, 8.0, "wall-jump-reach", true),
        ("slope.ground_snap", 0.1, 0.6, "drop-followed", true),
        ("dash.distance", 2.0, 6.0, "dashing-jump-distance", true),
        ("fall.apex_gravity", 0.9, 0.4, "jump-air-time", true),
        ("slope.uphill", 1.0, 0.5, "uphill-speed", false),
        ("slope.downhill", 1.0, 1.5, "downhill-speed", true),
        ("run.speed", 5.0, 8.0, "running-jump-distance", true),
        ("crouch.speed", 1.0, 3.0, "crouch-speed", true),
    ] {
        let measured = |value: f32| {
            let file = with(&[&base[..], &[("fall.apex_speed", 2.0), (knob, value)]].concat());
            Figures::default().sheet_of(&file, 2, RATE, &|kind| kind.name == figure).get(figure).unwrap()
        };
        let (less, more) = (measured(from), measured(to));
        assert!(
            (more > less * 1.05) == grows && (less > more * 1.05) != grows,
            "{figure}: {less}, then {more}"
        );
    }
}

#[test]
fn turning_takes_the_time_that_its_knobs_ask_for() {
    for (rate, half_life) in [(360.0, 0.0), (90.0, 0.0), (0.0, 0.12)] {
        let mut file = with(&[("turn.rate_deg", rate), ("turn.half_life", half_life)]);
        file.tuning.steering = Steering::View;
        let sheet = sheet(&file, 3, RATE);
        if half_life == 0.0 {
            is(&sheet, "turn-rate", rate);
            is(&sheet, "turn-half-time", 45.0 / rate);
        } else {
            is(&sheet, "turn-half-time", half_life);
        }
    }
    let mut cart = with(&[("turn.rate_deg", 70.0)]);
    cart.tuning.steering = Steering::Body;
    is(&sheet(&cart, 3, RATE), "turn-rate", 70.0);
}

#[test]
fn every_steering_has_a_sheet_in_both_dimensions() {
    for (name, steering) in Steering::NAMES {
        for dimensions in [2, 3] {
            let mut file = with(&[("hop.length", 1.2), ("hop.time", 0.25)]);
            file.tuning.steering = steering;
            let sheet = sheet(&file, dimensions, RATE);
            if steering == Steering::Hop {
                is(&sheet, "hop-length", 1.2);
                is(&sheet, "hop-time", 0.25);
            } else {
                is(&sheet, "walk-speed", 4.0);
                is(&sheet, "walk-stop-distance", 0.16);
            }
            let has_up = dimensions == 3 || matches!(steering, Steering::Usual | Steering::Side);
            assert_eq!(sheet.get("terminal-speed").is_some(), has_up, "{name}, {dimensions}");
            assert!(
                sheet.readings.iter().all(|reading| !reading.differs
                    || reading.name == "drop-followed"
                    || reading.name == "step-climbed"),
                "{name}, {dimensions}: {sheet:?}"
            );
        }
    }
}

#[test]
fn a_knob_that_another_one_spoils_is_marked() {
    // If the limit on the fall is too low for the jump's figures of the fall, they differ. A
    // crouch that does not change a low hull is left out.
    let sheet = sheet(
        &with(&[("fall.apex_speed", 30.0), ("fall.apex_gravity", 0.5), ("crouch.height", 1.7)]),
        2,
        RATE,
    );
    assert!(sheet.get("crouch-speed").is_none());
    let reading = sheet.readings.iter().find(|reading| reading.name == "jump-height").unwrap();
    assert!(!reading.differs && reading.target.is_some(), "its height it keeps: {reading:?}");
    let slow = Figures::default()
        .sheet_of(&with(&[("walk.reach_time", 10.0)]), 2, 60, &|kind| kind.name == "walk-speed");
    assert!(!slow.readings[0].differs);
    let parts = |file: &TuningFile, figure: &str| {
        let sheet = Figures::default().sheet_of(file, 2, RATE, &|kind| kind.name == figure);
        let reading = sheet.readings.iter().find(|reading| reading.name == figure).unwrap();
        (reading.differs, reading.measured)
    };
    // No wall slide is faster than a fall; a round foot climbs more than the knob; and a search
    // goes beyond the target.
    let braked = with(&[("wall.slide_speed", 5.0), ("fall.terminal_speed", 3.0)]);
    assert_eq!(parts(&braked, "wall-slide-speed"), (true, 3.0));
    let flat = with(&[("slope.step_height", 0.0)]);
    let (is_marked, climbed) = parts(&flat, "step-climbed");
    assert!(is_marked && climbed > 0.09, "{climbed}");
}

#[test]
fn immediate_changes_are_measured_as_zero_seconds() {
    let at_once = with(&[("walk.reach_time", 0.0), ("walk.stop_time", 0.0), ("walk.turn_time", 0.0)]);
    let sheet = sheet(&at_once, 2, RATE);
    for reading in sheet
        .readings
        .iter()
        .filter(|reading| reading.name.starts_with("walk-") || reading.name.starts_with("run-"))
    {
        let takes_time = ["-time", "-distance"].iter().any(|end| reading.name.ends_with(end));
        assert!(!takes_time || reading.measured.abs() < 1e-6, "{reading:?}");
        assert!(!reading.differs, "{reading:?}");
    }
    // A run of nearly three times the walk takes as long to come to: it has, before it jumps.
    let fast = with(&[("run.speed", 12.0), ("walk.reach_time", 0.6)]);
    let sheet = Figures::default().sheet_of(&fast, 2, RATE, &|kind| kind.name.contains("jump"));
    let (distance, time) = (sheet.get("running-jump-distance").unwrap(), sheet.get("jump-air-time").unwrap());
    assert!((distance - 12.0 * time).abs() < 0.03, "{distance} m in {time} s");
}

#[test]
fn figures_have_names_of_their_own() {
    let mut names: Vec<&str> = Figures::default().kinds().map(|kind| kind.name).collect();
    names.sort_unstable();
    let all = names.len();
    names.dedup();
    assert_eq!(names.len(), all);
    assert!(Figures::default().kinds().all(|kind| kind.meaning.ends_with('.')));
}

#[test]
fn glides_swims_climbs_and_slams_are_measured_as_set() {
    for dimensions in [2, 3] {
        let mut file = TuningFile::default();
        for (knob, value) in [
            ("glide.fall_speed", 1.5),
            ("swim.speed", 3.0),
            ("swim.dive_speed", 1.2),
            ("ledge.reach", 0.3),
            ("ledge.climb_time", 0.6),
            ("slam.action", 2.0),
            ("slam.speed", 14.0),
            ("slam.recovery", 0.5),
        ] {
            file.tuning.set(knob, value).unwrap();
        }
        let sheet = sheet(&file, dimensions, RATE);
        for (name, value) in [
            ("glide-fall-speed", 1.5),
            ("swim-speed", 3.0),
            ("dive-speed", 1.2),
            ("ledge-climb-time", 0.6),
            ("slam-speed", 14.0),
            ("slam-recovery-time", 0.5),
        ] {
            let measured = sheet.get(name).unwrap_or_else(|| panic!("no {name} in {dimensions}D"));
            assert!(
                (measured - value).abs() < 0.005 * value,
                "{name}: {measured} of {value} in {dimensions}D"
            );
        }
    }
}

/// Knobs that no figure of the sheet shows, and why.
const WITHOUT_A_FIGURE: &[(&str, &str)] = &[
    ("walk.lean_time", "it is only drawn"),
    ("fall.landing_time", "it is only drawn"),
    ("jump.edge_spin", "it is only drawn"),
    ("roll.in_air", "no roll is measured in the air"),
    ("overlay.", "it plays over the motion"),
    ("camera.", "it is only drawn"),
    ("jump.spin_deg", "is only drawn"),
    ("slope.soften_time", "is only drawn"),
    ("slam.action", "says which action begins it"),
    ("roll.action", "says which action begins it"),
    ("hop.arc", "is only drawn"),
    ("hop.queue", "says whether a steer during a hop counts, not when"),
    ("ride.let_go", "needs ground that moves; `run` and `check` show it on a trial"),
];

/// A tuning with every move on, and every knob where a change of it counts.
fn with_all_moves(steering: Steering) -> TuningFile {
    let mut file = with(&[
        ("dash.charges", 2.0),
        ("dash.air_count", 1.0),
        ("dash.startup", 0.05),
        ("dash.recovery", 0.05),
        ("dash.turn_deg", 90.0),
        ("dash.recharge_time", 1.0),
        ("dash.from_ground", 0.0),
        ("dash.cooldown", 0.1),
        ("roll.action", 1.0),
        ("roll.turn_deg", 90.0),
        ("slam.action", 2.0),
        ("ledge.reach", 0.3),
        ("glide.fall_speed", 1.5),
        ("glide.max_time", 1.0),
        ("wall.slide_speed", 2.0),
        ("wall.jump_height", 1.5),
        ("wall.in_a_row", 3.0),
        ("jump.air_count", 2.0),
        ("jump.repeat", 1.0),
        ("jump.lip", 0.1),
        ("jump.corner", 0.1),
        ("fall.apex_speed", 1.5),
        ("fall.apex_gravity", 0.6),
        ("fall.fast_gravity", 2.0),
        ("fall.fast_speed", 40.0),
        ("hop.run_time", 0.35),
    ]);
    file.tuning.steering = steering;
    file
}

/// Another value that a knob may have.
fn another(knob: &Knob, value: f32) -> f32 {
    let other = match knob.unit {
        Unit::Switch => 1.0 - value,
        Unit::Count => value + 1.0,
        _ if value == 0.0 => 0.07 * knob.max.min(10.0),
        _ => 1.37 * value,
    };
    let least = if value == knob.max && knob.unit != Unit::Count { 0.7 * value } else { knob.min };
    if other > knob.max { least } else { other }
}

#[test]
fn every_knob_changes_a_figure_or_is_known_not_to() {
    /// Ticks per second: enough to tell that a figure changes.
    const COARSE: u32 = 240;
    let mut bases = Vec::new();
    for steering in [Steering::Usual, Steering::Hop, Steering::Gaze, Steering::Plan] {
        for dimensions in [2, 3] {
            let file = with_all_moves(steering);
            bases.push((sheet(&file, dimensions, COARSE), file, dimensions));
        }
    }
    // Water that holds a body up, softness of turns, dashes that standing gives back.
    let mut others = with_all_moves(Steering::Usual);
    for (path, value) in [("swim.neutral_depth", 1.0), ("turn.rate_deg", 300.0), ("dash.from_ground", 1.0)] {
        others.tuning.set(path, value).unwrap();
    }
    bases.push((sheet(&others, 3, COARSE), others, 3));
    let is_changed = |knob: &Knob| {
        bases.iter().any(|(before, file, dimensions)| {
            let mut other = file.clone();
            let value = file.tuning.get(knob.path).unwrap();
            other.tuning.set(knob.path, another(knob, value)).unwrap();
            sheet(&other, *dimensions, COARSE).readings != before.readings
        })
    };
    let without: Vec<&str> = KNOBS.iter().filter(|knob| !is_changed(knob)).map(|knob| knob.path).collect();
    let known: Vec<&str> = KNOBS
        .iter()
        .map(|knob| knob.path)
        .filter(|path| {
            let is_in = |group: &str| group.ends_with('.') && path.starts_with(group);
            WITHOUT_A_FIGURE.iter().any(|(known, _)| known == path || is_in(known))
        })
        .collect();
    assert_eq!(without, known);
}
