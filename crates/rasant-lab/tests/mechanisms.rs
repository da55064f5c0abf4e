//! Doors, switches, crumbling floors, carriers of the host, and what scripts do to them.

use std::path::Path;

use crate::common::{InMemory, TUNING, read, refusal};
use rasant::glam::{Vec2, Vec3};
use rasant::level::{Shape, Surroundings as _};
use rasant::{PathEnd, SurfaceId};
use rasant_lab::files::{Deed, LevelFile, World, read_level};
use rasant_lab::{Run, run};

fn plane(text: &str) -> LevelFile<Vec2> {
    let files = InMemory([("level.toml", text.to_owned())].into());
    match read_level(&files, Path::new("level.toml")) {
        Ok(World::Plane(file)) => file,
        Ok(World::Space(_)) => panic!("three dimensions"),
        Err(why) => panic!("{why}"),
    }
}

fn space(text: &str) -> LevelFile<Vec3> {
    let text = format!("dimensions = 3\n{text}");
    let files = InMemory([("level.toml", text.to_owned())].into());
    match read_level(&files, Path::new("level.toml")) {
        Ok(World::Space(file)) => file,
        Ok(World::Plane(_)) => panic!("two dimensions"),
        Err(why) => panic!("{why}"),
    }
}

fn wrong(text: &str) -> String {
    let files = InMemory([("level.toml", text.to_owned())].into());
    read_level(&files, Path::new("level.toml")).unwrap_err().to_string()
}

fn played(level: &str, duration: f32, script: &str) -> Run {
    let trial = format!(
        "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = {duration}\nscript = '''\n{script}\n'''\n"
    );
    run(&read(level, TUNING, &trial).unwrap())
}

const FLOOR: &str = "[[piece]]\nblock = [[-9, -1], [30, 0]]\n";

/// The rows after a time.
fn at(run: &Run, seconds: f64) -> &rasant_lab::Row {
    &run.trace.rows[(seconds * f64::from(run.trace.rate)).round() as usize]
}

#[test]
fn every_shape_and_key_of_a_piece_is_read() {
    let file = plane(
        "[surfaces.ice]\n[[piece]]\nblock = [[-9, -1], [9, 0]]\nrounding = 0.25\nname = \"floor\"\n\
         [[piece]]\ncapsule = { from = [0, 1], to = [2, 1], radius = 0.3 }\nname = \"log\"\n\
         [[piece]]\nsegment = [[4, 1], [5, 2]]\ngrow = 0.2\nname = \"log\"\nsurface = \"ice\"\n\
         [[piece]]\nblock = [[6, 1], [8, 2]]\nrounding = 0.1\nturn_deg = 30\n",
    );
    let pieces: Vec<_> = file.level.all_pieces().collect();
    assert!(
        matches!(pieces[0].shape(), Shape::Polygon { rounding: 0.25, points } if points[0] == Vec2::new(-8.75, -0.75))
    );
    assert!(matches!(pieces[1].shape(), Shape::Capsule { radius: 0.3, .. }));
    assert!(matches!(pieces[2].shape(), Shape::Capsule { radius: 0.2, .. }));
    assert_eq!(pieces[2].surface, SurfaceId(1));
    assert!(matches!(pieces[3].shape(), Shape::Polygon { rounding: 0.1, .. }));
    assert_eq!(file.mechanisms.pieces("log").len(), 2);
    assert_eq!(file.mechanisms.pieces("beam"), []);

    let file = space(
        "[surfaces.slate]\n[[piece]]\ncylinder = { from = [0, 0, 0], to = [0, 2, 0], radius = 0.5 }\n\
         [[mesh]]\nname = \"hill\"\nvertices = [[0,0,0],[4,0,0],[0,0,-4],[4,1,-4]]\n\
         triangles = [[0,1,2],[1,3,2]]\nsurfaces = [\"\", \"slate\"]\n",
    );
    let mut surfaces = Vec::new();
    file.level.each_shape(|shape, tag| {
        if matches!(shape, Shape::Facet { .. }) {
            surfaces.push(tag.surface.0);
        }
    });
    surfaces.sort_unstable();
    assert_eq!(surfaces, [0, 1]);
    assert_eq!(file.mechanisms.pieces("hill").len(), 1);
}

#[test]
fn mistakes_in_mechanisms_are_reported_with_their_place() {
    for (text, expected) in [
        (
            "[[piece]]\nblock = [[0, 0], [1, 1]]\nrounding = 0.5\n",
            "level.toml:3:12: a rounding of 0.5, expected less than 0.5",
        ),
        ("[[piece]]\ncapsule = { from = [0, 0], to = [0, 0], radius = 1 }\n", "expected more than 0"),
        ("[[piece]]\ncapsule = { from = [0, 0], radius = 1 }\n", "`to` is missing"),
        (
            "[carriers.a]\npath = \"hots\"\n[[piece]]\nblock = [[0, 0], [1, 1]]\n",
            "level.toml:2:8: found the text \"hots\"",
        ),
        (
            "[carriers.a]\non = \"b\"\npath = \"host\"\n[[piece]]\nblock = [[0, 0], [1, 1]]\n",
            "there is no carrier \"b\"",
        ),
        (
            "[carriers.a]\non = \"b\"\npath = \"host\"\n[carriers.b]\non = \"a\"\npath = \"host\"\n[[piece]]\nblock = [[0, 0], [1, 1]]\n",
            "rides on itself",
        ),
        (
            "[carriers.a]\ndoor = [{ time = 0, ease = \"slow\" }]\n[[piece]]\nblock = [[0, 0], [1, 1]]\n",
            "unknown word \"slow\"",
        ),
        (
            "[[piece]]\nblock = [[0, 0], [1, 1]]\n[[zone]]\nkind = \"switch\"\nbox = [[0, 0], [1, 1]]\n",
            "the switch does nothing",
        ),
        (
            "[[piece]]\nname = \"plank\"\nblock = [[0, 0], [1, 1]]\n[[zone]]\nkind = \"switch\"\nbox = [[0, 0], [1, 1]]\nopens = \"planc\"\n",
            "level.toml:7:9: there is no piece, zone or door \"planc\", expected `plank`?",
        ),
        ("[[piece]]\nblock = [[0, 0], [1, 1]]\ncrumbles = { back = 1 }\n", "`after` is missing"),
        (
            "[[tiles]]\ncorner = [0, 0]\nrows = [\"I\"]\n[tiles.legend]\nII = { tile = \"solid\" }\n",
            "expected one character",
        ),
        (
            "[[tiles]]\ncorner = [0, 0]\nrows = [\"I\"]\n[tiles.legend]\nI = { surface = \"ice\" }\n",
            "found no meaning",
        ),
    ] {
        let found = wrong(text);
        assert!(found.contains(expected), "{text}\nfound {found}");
    }
    let level = format!("{FLOOR}name = \"floor\"\n[carriers.crane]\npath = \"host\"\n");
    for (script, expected) in [
        ("at 0 s: remove flor", "nothing in the level has the name \"flor\", expected \"floor\"?"),
        ("at 0 s: carry floor 0 1 for 1 s", "\"floor\" is nothing that can be used with `carry`"),
        ("at 0 s: carry crane 0 1", "expected `for` and how long"),
        ("at 0 s: open crane", "nothing that can be used with `open`"),
        ("at 0 s: turn crane 90 for 1 s", "an angle, as in `90 deg`"),
        ("at 0 s: remove", "the name of a piece, zone or carrier"),
    ] {
        let trial = format!(
            "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 1\nscript = '''\n{script}\n'''\n"
        );
        let found = refusal(&level, TUNING, &trial);
        assert!(found.contains(expected), "{script}\nfound {found}");
    }
}

#[test]
fn a_removed_plank_drops_its_body_and_is_put_back() {
    let level =
        "[[piece]]\nname = \"plank\"\nblock = [[-2, -1], [2, 0]]\n[[piece]]\nblock = [[-9, -4], [9, -3]]\n";
    let run = played(level, 4.0, "at 1 s: remove \"plank\"\nat 3 s: restore plank\nat 3.2 s: press jump");
    assert_eq!(at(&run, 1.0).footing, "firm");
    assert_eq!(at(&run, 1.05).footing, "none");
    assert!((at(&run, 2.5).position[1] + 3.0).abs() < 0.01);
    // Its head now bumps the plank.
    assert!(run.trace.rows.iter().flat_map(|row| &row.events).any(|event| event.name == "bumped-head"));
}

#[test]
fn a_floor_crumbles_some_time_after_the_first_step_and_comes_back() {
    let level = "[[piece]]\nblock = [[-2, -1], [2, 0]]\ncrumbles = { after = 0.5, back = 1 }\n\
        [[piece]]\nblock = [[-9, -4], [9, -3]]\n";
    for rate in [30, 60, 144] {
        let trial = format!(
            "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nrate = {rate}\nduration = 4\nscript = ''\n"
        );
        let run = run(&read(level, TUNING, &trial).unwrap());
        let fell = run.trace.rows.iter().find(|row| row.footing == "none").unwrap().time;
        assert!((fell - 0.5).abs() < 2.5 / f64::from(rate), "at {rate}: {fell} s");
    }
    let file = plane(level);
    assert!(!file.mechanisms.is_still());
}

#[test]
fn a_switch_opens_a_door_for_a_while_and_the_door_moves_along_its_path() {
    let level = format!(
        "{FLOOR}[carriers.gate]\ndoor = [{{ time = 0 }}, {{ time = 1, offset = [0, 4] }}]\n\
         [[piece]]\nblock = [[8, 0.02], [8.5, 4]]\ncarrier = \"gate\"\n\
         [[zone]]\nkind = \"switch\"\nname = \"plate\"\nbox = [[1, 0], [2, 1]]\nopens = \"gate\"\nfor = 3\n"
    );
    // Quickly through; and too late.
    let through = played(&level, 6.0, "at 0 s: steer right");
    assert!(at(&through, 6.0).position[0] > 15.0);
    let late = played(&level, 8.0, "at 0 s: steer right until x > 3\nat 5 s: steer right");
    let end = at(&late, 8.0).position[0];
    assert!((7.0..8.0).contains(&end), "{end}");
    // A script does the same.
    let level = level.split("[[zone]]").next().unwrap();
    let shut = played(level, 5.0, "at 0 s: steer right");
    assert!(at(&shut, 5.0).position[0] < 8.0);
    let opened = played(level, 5.0, "at 0 s: open gate\nat 0 s: steer right");
    assert!(at(&opened, 5.0).position[0] > 10.0);
}

#[test]
fn a_carrier_of_the_host_carries_its_rider_from_rest_to_rest() {
    let level =
        "[carriers.crane]\npath = \"host\"\n[[piece]]\nblock = [[-2, -1], [2, 0]]\ncarrier = \"crane\"\n";
    let run = played(level, 5.0, "at 1 s: carry crane 2 3 for 2 s\nat 3.5 s: carry crane 0 -1 for 1 s");
    for (seconds, x, y) in [(1.0, 0.0, 0.0), (2.0, 1.0, 1.5), (3.1, 2.0, 3.0), (4.6, 2.0, 2.0)] {
        let [own_x, own_y, _] = at(&run, seconds).position;
        assert!((own_x - x).abs() < 0.05 && (own_y - y).abs() < 0.06, "{seconds} s: {own_x}, {own_y}");
    }
    let fastest = run.trace.rows.iter().map(|row| row.velocity[1]).fold(0.0, f32::max);
    // The steepest part of 3t² − 2t³ is 1.5 times its mean.
    assert!((fastest - 2.25).abs() < 0.03, "{fastest}");
}

#[test]
fn what_is_pushed_moves_along_its_path_while_it_is_pushed() {
    let level = format!(
        "{FLOOR}[carriers.crate]\npushed = [{{ time = 0 }}, {{ time = 4, offset = [4, 0] }}]\n\
         [[piece]]\nblock = [[3, 0.02], [4, 1]]\ncarrier = \"crate\"\n"
    );
    let run = played(&level, 12.0, "at 0 s: steer right for 3 s\nat 5 s: steer right");
    let at_rest = at(&run, 4.0).position[0];
    assert!((at(&run, 5.0).position[0] - at_rest).abs() < 1e-3);
    let end = at(&run, 12.0).position[0];
    let half = 0.3;
    assert!((end + half - 7.0).abs() < 0.02, "{end}: the crate stops at the end of its path");
    assert!(at_rest < end - 0.3 && at_rest > 3.5, "{at_rest}");
}

#[test]
fn carriers_ride_on_carriers_whatever_their_order_in_the_file() {
    let file = space(
        "[carriers.a-lamp]\non = \"m-mast\"\npath = [{ time = 0, offset = [0, 2, 0], turn_deg = 90, axis = [1, 0, 0] }]\n\
         [carriers.m-mast]\non = \"z-ship\"\npath = [{ time = 0, ease = \"in\" }, { time = 2, offset = [0, 4, 0] }]\nend = \"stop\"\n\
         [carriers.z-ship]\npath = [{ time = 0, offset = [10, 0, 0] }]\n\
         [[piece]]\nball = { centre = [0, 0, 0], radius = 1 }\ncarrier = \"a-lamp\"\n",
    );
    let mut level = file.level.clone();
    level.advance(1.0);
    let lamp = file.mechanisms.carrier("a-lamp").unwrap();
    let placement = level.ride(lamp).to;
    assert!((placement.offset() - Vec3::new(10.0, 3.0, 0.0)).length() < 1e-5);
    assert!((placement.up() - Vec3::Z).length() < 1e-5);
    assert_eq!(level.carrier(file.mechanisms.carrier("m-mast").unwrap()).end(), PathEnd::Stop);
}

#[test]
fn rows_of_characters_take_the_games_own_legend() {
    let file = plane(
        "[surfaces.ice]\n[[tiles]]\ncorner = [0, 0]\nrows = [\n\"..@..^^\",\n\"..II.^^\",\n\"#######\",\n]\n\
         [tiles.legend]\n\"@\" = { start = true }\n\"^\" = { kind = \"hazard\", name = \"thorns\" }\n\
         I = { tile = \"solid\", surface = \"ice\", name = \"slab\", crumbles = { after = 1 } }\n",
    );
    assert_eq!(file.start, Some(Vec2::new(2.5, 2.0)));
    let slab = file.mechanisms.pieces("slab");
    let piece = file.level.piece(slab[0]).unwrap();
    assert_eq!((slab.len(), piece.surface), (1, SurfaceId(1)));
    assert_eq!(piece.bounds().min, Vec2::new(2.0, 1.0));
    let thorns = &file.level.all_zones()[usize::from(file.mechanisms.zones("thorns")[0].0)];
    assert_eq!((thorns.bounds.min, thorns.bounds.max), (Vec2::new(5.0, 1.0), Vec2::new(7.0, 3.0)));
    assert!(file.mechanisms.may_vanish(slab[0]));
    // The file's own start counts more than one of a map.
    let text = "start = [7, 9]\n[[tiles]]\ncorner = [0, 0]\nrows = [\"@##\"]\n[tiles.legend]\n\"@\" = { start = true }\n";
    assert_eq!(plane(text).start, Some(Vec2::new(7.0, 9.0)));
}

/// A level that is read can be edited further, and a clone of its mechanisms is a snapshot.
#[test]
fn a_clone_of_level_and_mechanisms_is_a_snapshot() {
    let mut file = plane(&format!(
        "{FLOOR}[carriers.gate]\ndoor = [{{ time = 0 }}, {{ time = 1, offset = [0, 4] }}]\n\
         [[piece]]\nname = \"leaf\"\nblock = [[8, 0.02], [8.5, 4]]\ncarrier = \"gate\"\n"
    ));
    let gate = file.mechanisms.carrier("gate").unwrap();
    let height = |file: &LevelFile<Vec2>| file.level.carrier(gate).ride().to.offset().y;
    let step = |file: &mut LevelFile<Vec2>| {
        file.mechanisms.begin_tick(&mut file.level, 0.1);
        file.level.advance(0.1);
    };
    assert!(file.mechanisms.act(&mut file.level, Deed::Open, "gate"));
    (0..5).for_each(|_| step(&mut file));
    assert!((height(&file) - 2.0).abs() < 1e-4, "{}", height(&file));
    let kept = file.clone();
    (0..9).for_each(|_| step(&mut file));
    assert_eq!(height(&file), 4.0);
    file.mechanisms.act(&mut file.level, Deed::Remove, "leaf");
    assert_eq!(file.level.len(), 1);
    let mut again = kept;
    (0..9).for_each(|_| step(&mut again));
    assert_eq!((height(&again), again.level.len()), (4.0, 2));
    file.mechanisms.act(&mut file.level, Deed::Close, "gate");
    (0..12).for_each(|_| step(&mut file));
    assert_eq!(height(&file), 0.0);
}
