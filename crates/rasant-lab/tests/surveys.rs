//! The contents of a level, and warnings for a tuning.

use std::path::Path;

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Hull, HullShape, Intent};
use rasant_lab::files::{TuningFile, read_level};
use rasant_lab::sheet::{RATE, reach};
use rasant_lab::survey::{Warning, contents, warnings};
use rasant_lab::{OnDisk, World};

use crate::common::Bytes;

fn world(text: &str) -> World {
    let files = Bytes::of("a.toml", text);
    read_level(&files, Path::new("a.toml")).unwrap_or_else(|why| panic!("{why}\n{text}"))
}

/// The default body, and others of other hulls, steps, slopes and jumps.
fn tunings() -> Vec<TuningFile> {
    let boxed = HullShape::Box { width: 0.6, depth: 0.4, height: 1.5, rounding: 0.0 };
    let ball = HullShape::Ball { radius: 0.45 };
    let other = |shape, step: f32, steepest: f32, jump: f32| {
        let mut file = TuningFile { hull: Hull::new(shape).unwrap(), ..TuningFile::default() };
        file.tuning.slope.step_height = step;
        file.tuning.slope.max_angle = steepest.to_radians();
        file.tuning.jump.height = jump;
        file.tuning.crouch.height = 0.8;
        file
    };
    vec![TuningFile::default(), other(boxed, 0.47, 37.0, 1.1), other(ball, 0.21, 58.0, 2.7)]
}

fn found_by(text: &str, tuning: &TuningFile) -> Vec<Warning> {
    warnings(&world(text), tuning)
}

fn found(text: &str) -> Vec<Warning> {
    found_by(text, &TuningFile::default())
}

fn kinds_by(text: &str, tuning: &TuningFile) -> Vec<&'static str> {
    found_by(text, tuning).iter().map(|warning| warning.kind).collect()
}

fn kinds(text: &str) -> Vec<&'static str> {
    kinds_by(text, &TuningFile::default())
}

/// A box in either dimension: across, up, and deep in three.
fn block(dimensions: usize, [x, y]: [f32; 2], [to_x, to_y]: [f32; 2]) -> String {
    match dimensions {
        2 => format!("[[piece]]\nblock = [[{x}, {y}], [{to_x}, {to_y}]]\n"),
        _ => format!("[[piece]]\nblock = [[{x}, {y}, -4], [{to_x}, {to_y}, 4]]\n"),
    }
}

fn level(dimensions: usize, blocks: &[([f32; 2], [f32; 2])]) -> String {
    let head = format!("dimensions = {dimensions}\n");
    blocks.iter().fold(head, |all, (from, to)| all + &block(dimensions, *from, *to))
}

#[test]
fn correct_levels_have_no_warnings() {
    for dimensions in [2, 3] {
        // Flush floors, a low step, a high wall, a wide gap, a hall.
        let text = level(
            dimensions,
            &[
                ([-9.0, -1.0], [0.0, 0.0]),
                ([0.0, -1.0], [9.0, 0.0]),
                ([2.0, 0.0], [4.0, 0.15]),
                ([8.0, 0.0], [9.0, 3.0]),
                ([40.0, -1.0], [49.0, 0.0]),
                ([-9.0, 4.0], [0.0, 5.0]),
            ],
        );
        assert_eq!(found(&text), [], "{dimensions}");
    }
    // A ramp up to a platform, flush with it.
    let ramp = "[[piece]]\npolygon = [[0, 0], [5, 0], [5, 1.5]]\n[[piece]]\nblock = [[5, 0], [9, 1.5]]\n";
    assert_eq!(found(ramp), []);
}

#[test]
fn steps_slopes_seams_and_cracks_are_reported_within_their_bounds_only() {
    for file in tunings() {
        held_within_their_bounds(&file);
    }
}

fn held_within_their_bounds(file: &TuningFile) {
    let slope = file.tuning.slope;
    let (step, steepest) = (slope.step_height, slope.max_angle.to_degrees());
    for dimensions in [2, 3] {
        let stepped = |rise: f32| level(dimensions, &[([0.0, -1.0], [9.0, 0.0]), ([3.0, 0.0], [6.0, rise])]);
        for (rise, expected) in [
            (step - 0.008, &["step"][..]),
            (step + 0.008, &["step"]),
            (step - 0.02, &[]),
            (step + 0.02, &[]),
            (0.004, &["seam"]),
            (0.05, &[]),
        ] {
            assert_eq!(kinds_by(&stepped(rise), file), expected, "{rise} in {dimensions} dimensions");
        }
        let cracked =
            |gap: f32| level(dimensions, &[([0.0, -1.0], [4.0, 0.0]), ([4.0 + gap, -1.0], [9.0, 0.0])]);
        assert_eq!((kinds_by(&cracked(0.01), file), kinds_by(&cracked(0.2), file)), (vec!["crack"], vec![]));
    }
    for (off, expected) in [(-1.5f32, 1), (1.5, 1), (-3.0, 0), (3.0, 0)] {
        let rise = 4.0 * (steepest + off).to_radians().tan();
        let text = format!("[[piece]]\npolygon = [[0, 0], [4, 0], [4, {rise}]]\n");
        let slopes: Vec<Warning> =
            found_by(&text, file).into_iter().filter(|one| one.kind == "slope").collect();
        assert_eq!(slopes.len(), expected, "{off}");
        assert!(slopes.iter().all(|one| one.what.contains("by 1.5°")));
    }
}

#[test]
fn the_steep_side_of_a_turned_box_is_no_seam() {
    let reported = |text: &str| -> Vec<&'static str> {
        kinds(text).into_iter().filter(|kind| ["seam", "crack"].contains(kind)).collect()
    };
    let floor = level(2, &[([-10.0, -1.0], [10.0, 0.0])]);
    let floor_in_space = level(3, &[([-10.0, -1.0], [10.0, 0.0])]);
    for degrees in [3, 10, 22, 30, 41, 50, 64, 80, -30, -55] {
        let flat = format!("{floor}[[piece]]\nblock = [[2, 0.5], [4, 1]]\nturn_deg = {degrees}\n");
        assert_eq!(reported(&flat), [] as [&str; 0], "turned by {degrees}°");
        for axis in ["[0, 0, D]", "[D, 0, 0]"] {
            let turn = axis.replace('D', &degrees.to_string());
            let piece = format!("[[piece]]\nblock = [[2, 0.5, -1], [4, 1, 1]]\nturn_deg = {turn}\n");
            let in_space = format!("{floor_in_space}{piece}");
            assert_eq!(reported(&in_space), [] as [&str; 0], "turned by {turn}°");
        }
    }
}

#[test]
fn gaps_are_held_against_the_jump_that_is_measured() {
    for tuning in tunings() {
        gaps_are_held_for(&tuning);
    }
}

fn gaps_are_held_for(tuning: &TuningFile) {
    for dimensions in [2, 3] {
        for rise in [0.0f32, 0.5, -1.0] {
            let longest = reach(tuning, dimensions, RATE, f64::from(rise)).unwrap() as f32;
            let near = (0.02 * longest).max(0.05) - 0.01;
            let gapped = |gap: f32| {
                let text = level(dimensions, &[([-9.0, -3.0], [0.0, 0.0]), ([gap, -3.0], [gap + 9.0, rise])]);
                found_by(&text, tuning).into_iter().filter(|one| one.kind == "gap").collect::<Vec<_>>()
            };
            let up = format!("{:.2} m {}", rise.abs(), if rise > 0.0 { "up" } else { "down" });
            let level = if rise == 0.0 { "level".to_owned() } else { up };
            for (off, word) in [(-near, "cleared by"), (near, "missed by")] {
                let reported = gapped(longest + off);
                let has = |what: &String| what.contains(word) && what.contains(&level);
                assert!(
                    reported.iter().any(|one| has(&one.what)),
                    "{dimensions}, {rise}, {off}: {reported:?}"
                );
            }
            assert!(!gapped(longest * 0.9).iter().any(|one| one.what.contains(&level)));
            assert!(!gapped(longest * 1.1).iter().any(|one| one.what.contains(&level)));
        }
    }
}

#[test]
fn warnings_about_gaps_agree_with_jumping_bodies() {
    const DT: f32 = 1.0 / 60.0;
    for tuning in tunings() {
        let longest = reach(&tuning, 2, RATE, 0.0).unwrap() as f32;
        let width = tuning.hull.half_width();
        // Jumps as late as it can from a run, its middle still over the roof.
        let crosses = |gap: f32| {
            let text = level(2, &[([-30.0, -9.0], [0.0, 0.0]), ([gap, -9.0], [gap + 30.0, 0.0])]);
            let World::Plane(file) = world(&text) else { panic!() };
            let mut body = Controller::new(tuning.tuning, tuning.hull, Vec2::new(-20.0, 0.0));
            body.find_footing(&file.level);
            let run = Intent::steering(1.0, 0.0).holding(Actions::RUN | Actions::JUMP);
            let mut has_jumped = false;
            for _ in 0..900 {
                let ends = body.position().x + body.velocity().x * DT >= 0.0;
                let walk = Intent::steering(1.0, 0.0).holding(Actions::RUN);
                let intent = if has_jumped {
                    run
                } else if ends {
                    run.pressing(Actions::JUMP)
                } else {
                    walk
                };
                has_jumped |= ends;
                body.tick(&intent, &file.level, DT);
                if has_jumped && body.state().footing.is_firm() {
                    return body.position().x > 0.5 * gap;
                }
                if body.position().y < -3.0 {
                    return false;
                }
            }
            false
        };
        // The jump begins up to a tick's distance before the edge; a hull rests on the far edge
        // before its middle is over it.
        let tick = tuning.tuning.run.speed * DT;
        assert!(crosses(longest - tick - 0.05), "{:?}", tuning.hull.shape());
        assert!(!crosses(longest + 2.0 * width + 0.05), "{:?}", tuning.hull.shape());
    }
}

#[test]
fn low_ceilings_starts_in_walls_and_ladders_out_of_reach_are_reported() {
    for tuning in tunings() {
        low_ceilings_are_reported_to(&tuning);
    }
}

fn low_ceilings_are_reported_to(tuning: &TuningFile) {
    let found = |text: &str| found_by(text, tuning);
    let kinds = |text: &str| kinds_by(text, tuning);
    let (high, low) = (tuning.hull.height(), tuning.tuning.crouch.height);
    for dimensions in [2, 3] {
        let under =
            |room: f32| level(dimensions, &[([-9.0, -1.0], [9.0, 0.0]), ([0.0, room], [5.0, room + 1.0])]);
        for (room, word) in [((high + low) / 2.0, "crouching only"), (low - 0.05, "too low: crouch.height")] {
            let reported = found(&under(room));
            assert!(
                reported.len() == 1 && reported[0].what.contains(word),
                "{room} in {dimensions}: {reported:?}"
            );
        }
        assert_eq!(found(&under(high + 0.1)), []);
        let start = if dimensions == 2 { "start = [0, -0.5]\n" } else { "start = [0, -0.5, 0]\n" };
        let text = format!("{start}{}", level(dimensions, &[([-9.0, -1.0], [9.0, 0.0])]));
        assert_eq!(kinds(&text), ["start"]);
        // As deep as the body is wide.
        let deep = 2.0 * tuning.hull.half_width() + 0.05;
        let ladder = |x: f32| {
            let zone = if dimensions == 2 {
                format!("[[zone]]\nbox = [[{x}, 0], [{}, 3]]\nkind = \"ladder\"\n", x + deep)
            } else {
                format!(
                    "[[zone]]\nbox = [[{x}, 0, -1], [{}, 3, 1]]\nkind = \"ladder\"\nfront = [-1, 0, 0]\n",
                    x + deep
                )
            };
            kinds(&(level(dimensions, &[([-9.0, -1.0], [9.0, 0.0]), ([4.0, 0.0], [9.0, 5.0])]) + &zone))
        };
        // Before the wall, and in it.
        assert_eq!((ladder(4.0 - deep), ladder(6.0)), (vec![], vec!["ladder"]), "in {dimensions} dimensions");
    }
}

#[test]
fn slivers_and_odd_sizes_are_reported() {
    let sliver = "[[piece]]\npolygon = [[0, 0], [9, 0], [9, 0.0005]]\n";
    assert!(kinds(sliver).contains(&"sliver"));
    let mesh = "dimensions = 3\n[[mesh]]\nvertices = [[0, 0, 0], [9, 0, 0], [4, 0, 0.0005], [4, 0, -9]]\ntriangles = [[0, 2, 1], [0, 1, 3]]\n";
    assert!(kinds(mesh).contains(&"sliver"));
    assert_eq!(kinds("[[piece]]\nblock = [[0, 0], [0.02, 0.02]]\n"), ["size"]);
    assert_eq!(kinds("[[piece]]\nblock = [[0, 0], [20000, 9]]\n"), ["size"]);
}

#[test]
fn the_contents_are_those_of_the_file() {
    let path = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/levels/dye-works.svg"));
    let reported = contents(&read_level(&OnDisk, path).unwrap());
    assert_eq!((reported.title.as_str(), reported.dimensions), ("The dye works", 2));
    assert_eq!(reported.start, Some(Vec2::ZERO.to_array().to_vec()));
    assert_eq!(
        reported.pieces.iter().map(|(_, count)| count).sum::<usize>(),
        reported.surfaces.iter().map(|(_, count)| count).sum::<usize>()
    );
    assert_eq!(reported.zones.iter().map(|zone| zone.name.as_str()).collect::<Vec<_>>(), ["water", "ladder"]);
    let [kettle] = &reported.carriers[..] else { panic!() };
    assert_eq!(
        (kettle.name.as_str(), kettle.pieces, kettle.time_s, kettle.end),
        ("kettle", 1, 4.0, Some("back-and-forth"))
    );
    // The arc that is drawn is some 5.9 m long.
    assert!((5.8..6.0).contains(&kettle.distance_m), "{}", kettle.distance_m);
    assert_eq!(reported.left_out.get("<text>"), Some(&1));
}
