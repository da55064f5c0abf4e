//! Comparing, varying, rates, fitting, and tunings written.

use crate::common::{InMemory, LEVEL, TUNING, read};
use proptest::prelude::*;
use rasant::tuning::{KNOBS, Unit};
use rasant::{Face, Hull, Steering, Tuning};
use rasant_lab::Shard;
use rasant_lab::compare::{SameInputs, compare, parting};
use rasant_lab::files::{TuningFile, read_tuning, write_tuning};
use rasant_lab::rates::rates;
use rasant_lab::sheet::Figures;
use rasant_lab::vary::{Axis, AxisError, Measuring, vary};

fn file(title: &str, changes: &[(&str, f32)]) -> TuningFile {
    let mut tuning = Tuning::default();
    for (path, value) in changes {
        tuning.set(path, *value).unwrap();
    }
    TuningFile { title: title.to_owned(), tuning, hull: Hull::capsule(0.3, 1.7).unwrap(), up: None }
}

const SCRIPT: &str = "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 4\nscript = '''\n\
    at 0 s: steer right\nwhen x > 6: press jump for 0.4 s\n'''\n";

#[test]
fn the_same_inputs_are_the_same_ticks_or_the_same_circumstances() {
    let trial = read(LEVEL, TUNING, SCRIPT).unwrap();
    let tunings = [file("slow", &[("walk.speed", 3.0)]), file("fast", &[("walk.speed", 6.0)])];
    let jumped_at = |inputs| {
        let runs = compare(&trial, &tunings, inputs);
        let at = |run: &rasant_lab::Run| {
            let (row, _) = run.trace.events().find(|(_, event)| event.name == "jumped").unwrap();
            (row.time, row.position[0])
        };
        [at(&runs[0].1), at(&runs[1].1)]
    };
    let [slow, fast] = jumped_at(SameInputs::Tape);
    assert_eq!(slow.0, fast.0, "the same ticks");
    assert!(fast.1 > 1.8 * slow.1);
    let [slow, fast] = jumped_at(SameInputs::Script);
    assert!((slow.1 - fast.1).abs() < 0.2, "the same place");
    assert!(slow.0 > 1.8 * fast.0);
}

#[test]
fn runs_part_where_the_first_thing_differs() {
    let trial = read(LEVEL, TUNING, SCRIPT).unwrap();
    let tunings = [
        file("A", &[]),
        file("longer", &[("jump.rise_time", 0.42), ("jump.height", 2.4)]),
        file("softer", &[("walk.reach_time", 0.2)]),
        file("A again", &[("crouch.speed", 1.0)]),
    ];
    let runs = compare(&trial, &tunings, SameInputs::Tape);
    let parted = |number: usize| parting(&runs[0].1, &runs[number].1);
    let jump = runs[0].1.trace.events().find(|(_, event)| event.name == "jumped").unwrap().0.tick;
    let longer = parted(1);
    assert_eq!(longer.first.as_ref().unwrap().tick, jump);
    let event = longer.event.unwrap();
    let (first, second) = (event.first.unwrap(), event.second.unwrap());
    assert_eq!((first.what.as_str(), second.what.as_str()), ("apex", "apex"));
    assert!((second.time_s - first.time_s - 0.06).abs() < 0.02, "{first:?}, {second:?}");
    assert!(longer.most_m > 0.5);
    assert!(parted(2).first.unwrap().time_s < 0.05);
    let same = parted(3);
    assert!(same.first.is_none() && same.event.is_none() && same.most_m == 0.0);
}

#[test]
fn a_range_has_both_its_ends_and_stays_within_the_knobs() {
    let file = file("tried", &[]);
    let axis = Axis::parse(&file, "jump.height", "0.1:0.5:0.1").unwrap();
    assert_eq!(axis.values, [0.1, 0.2, 0.3, 0.4, 0.5]);
    assert_eq!(Axis::parse(&file, "jump.height", "3:1:-0.5").unwrap().values, [3.0, 2.5, 2.0, 1.5, 1.0]);
    assert_eq!(Axis::parse(&file, "jump.height", "1:1:1").unwrap().values, [1.0]);
    assert!(matches!(Axis::parse(&file, "jump.height", "1:2"), Err(AxisError::Form(_))));
    assert!(matches!(Axis::parse(&file, "jump.height", "1:2:nan"), Err(AxisError::Step(..))));
    assert!(matches!(Axis::parse(&file, "jump.height", "1:2:-1"), Err(AxisError::Step(..))));
    assert!(matches!(Axis::parse(&file, "jump.height", "-1:2:1"), Err(AxisError::Number(_))));
    assert!(matches!(Axis::parse(&file, "jump.hight", "1:2:1"), Err(AxisError::Number(_))));
}

#[test]
fn a_variation_is_the_same_on_any_number_of_cores() {
    let parsed = |path: &str, range: &str| Axis::parse(&file("tried", &[]), path, range).unwrap();
    let axes = [parsed("jump.height", "1:2:0.25"), parsed("walk.speed", "3:5:1")];
    let measuring = Measuring::Sheet { dimensions: 2, rates: 240.into(), figures: Figures::default() };
    let figures = [("jump-height", "m"), ("walking-jump-distance", "m")];
    let varied = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        pool.install(|| vary(&file("tried", &[]), &axes, &figures, measuring, Shard::ALL, &|| ()))
    };
    let (one, three) = (varied(1), varied(3));
    assert_eq!(one, three);
    assert_eq!(one.points.len(), 15);
    let alone = measuring.of(&file("tried", &[("jump.height", 1.5), ("walk.speed", 4.0)]), &["jump-height"]);
    let point = one.points.iter().find(|point| point.values == [1.5, 4.0]).unwrap();
    assert_eq!(point.measured[0], alone[0]);
    let names: Vec<&str> = one.answers().iter().map(|answer| answer.name).collect();
    assert_eq!(names, ["jump-height", "walking-jump-distance"]);
}

#[test]
fn differences_between_rates_are_divided_into_inputs_and_motion() {
    // An input between two ticks of 30 a second, and no wall to end at.
    let text = "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 3\nscript = '''\n\
        at 0.02 s: steer right for 1.01 s\nat 0.51 s: press jump\n'''\n";
    let done = rates(&read(LEVEL, TUNING, text).unwrap(), &[24, 30, 60, 120, 240]).unwrap();
    assert_eq!(done.fine, 480);
    for row in &done.rows {
        let longest = 4.0 / row.rate as f32;
        assert!(row.by_inputs.end_m <= 2.0 * longest, "{row:?}");
        // The motion itself depends on the rate by less than 0.5 % of its distance.
        assert!(row.by_motion.end_m < 0.005 * row.end_m[0], "{row:?}");
        assert!(row.by_motion.highest_m < 0.002, "{row:?}");
        assert!(row.all.end_m <= row.by_inputs.end_m + row.by_motion.end_m + 1e-4, "{row:?}");
    }
    assert!(done.rows[0].by_inputs.end_m > done.rows[0].by_motion.end_m, "{:?}", done.rows[0]);
    // A jump in place whose press is as long as two ticks of 24: it ends where it began at any
    // rate, and is not the same for that.
    let tap = "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 3\nscript = '''\n\
        at 0.51 s: press jump for 0.09 s\n'''\n";
    let done = rates(&read(LEVEL, "[jump]\ncut_gravity = 6\n", tap).unwrap(), &[24, 480]).unwrap();
    let [coarse, fine] = &done.rows[..] else { panic!("{:?}", done.rows) };
    assert!(coarse.all.end_m < 1e-3 && done.fine == 960, "{coarse:?}");
    assert!(coarse.all.path_m > 0.05 && coarse.all.path_at_s > 0.5, "{coarse:?}");
    assert_eq!(
        (coarse.verdict(), fine.verdict()),
        ("when inputs are seen", "the same"),
        "{coarse:?} {fine:?}"
    );
}

prop_compose! {
    fn any_tuning()(seed in any::<u64>(), steering in 0usize..7, face in 0usize..3, hull in 0usize..3) -> TuningFile {
        let mut file = file("a \"quoted\" name", &[]);
        file.tuning.steering = Steering::NAMES[steering].1;
        file.tuning.face = Face::NAMES[face].1;
        file.hull = [
            Hull::capsule(0.25, 1.5).unwrap(),
            Hull::ball(0.4).unwrap(),
            Hull::upright_box(0.6, 1.7).unwrap().with_clearance(0.01).unwrap(),
        ][hull];
        for (number, knob) in KNOBS.iter().enumerate() {
            let fraction = (seed.rotate_left(number as u32 * 7) % 1000) as f32 / 999.0;
            let value = knob.min + (knob.max - knob.min) * fraction;
            let whole = matches!(knob.unit, Unit::Count | Unit::Switch);
            if number % 3 != 0 {
                file.tuning.set(knob.path, if whole { value.round() } else { value }).unwrap();
            }
        }
        file
    }
}

proptest! {
    #[test]
    fn a_tuning_written_reads_back_the_same(file in any_tuning()) {
        let text = write_tuning(&file);
        let files = InMemory([("written", text.clone())].into());
        let read = read_tuning(&files, std::path::Path::new("written")).map_err(|problem| {
            TestCaseError::fail(format!("{problem}\n{text}"))
        })?;
        prop_assert_eq!(&read.title, &file.title);
        prop_assert_eq!(read.hull, file.hull);
        prop_assert_eq!((read.tuning.steering, read.tuning.face), (file.tuning.steering, file.tuning.face));
        for knob in KNOBS {
            let (a, b) = (read.tuning.get(knob.path).unwrap(), file.tuning.get(knob.path).unwrap());
            prop_assert!((a - b).abs() <= 1e-5 * b.abs(), "{}: {} for {}", knob.path, a, b);
        }
    }
}

/// At twice the rate, every shipped trial reports the same events in the same order, at times equal
/// to within 0.15 s, because the roundings of all earlier ticks add up. Footfalls are excluded: a
/// body that leaves the ground within a tick of the end of a stride may or may not have finished
/// it.
#[test]
fn the_same_is_reported_at_60_and_at_120_ticks_a_second() {
    /// Seconds.
    const LATE: f64 = 0.15;
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/trials");
    let mut events = 0;
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let trial = rasant_lab::read_trial(&rasant_lab::OnDisk, &path).unwrap();
        for zones in [false, true] {
            let is_of = |name: &str| name.starts_with("zone") == zones && name != "footfall";
            let stream = |rate: u32| -> Vec<(String, f64)> {
                let run = rasant_lab::run_at(&trial, rate, rate as usize / 60);
                let events = run.trace.events().filter(|(_, event)| is_of(event.name));
                events.map(|(row, event)| (format!("{} {:?}", event.name, event.detail), row.time)).collect()
            };
            let (coarse, fine) = (stream(60), stream(120));
            for (one, other) in coarse.iter().zip(&fine) {
                let same = one.0 == other.0 && (one.1 - other.1).abs() < LATE;
                assert!(same, "{one:?} and {other:?} in {}", path.display());
            }
            assert_eq!(coarse.len(), fine.len(), "{coarse:?} and {fine:?} in {}", path.display());
            events += coarse.len();
        }
    }
    assert!(events > 150, "{events}");
}
