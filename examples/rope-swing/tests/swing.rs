//! The move in the library, and through the game's own command line.

use assert_cmd::Command;
use rasant::glam::{Vec2, Vec3};
use rasant::{Carrier, Controller, Geometry, Hull, Intent, Keyframe, Level, Mode, PathEnd, Piece, Tuning};
use rope_swing::{MOVES, ROPE, Swing};

fn tool() -> Command {
    Command::cargo_bin("rope-swing").unwrap()
}

fn printed(command: &mut Command) -> String {
    String::from_utf8(command.assert().success().get_output().stdout.clone()).unwrap()
}

/// A body that hangs from a beam at the origin by a rope of `length`, at 45 degrees.
fn hanging<V: Geometry>(length: f32, rate: u32) -> (Controller<V>, Level<V>) {
    let mut builder = Level::builder();
    let (min, max) = (V::from_array([-0.05, 0.0, -0.05]), V::from_array([0.05, 0.1, 0.05]));
    builder.add(Piece::block(min, max).unwrap());
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default().with_moves(&MOVES);
    tuning.set_group(Swing { pump: 0.0, ..Swing::default() }).unwrap();
    let hull = Hull::capsule(0.3, 1.6).unwrap();
    let half = std::f32::consts::FRAC_1_SQRT_2;
    let hands = (V::RIGHT + V::UP) * (-half * length);
    let mut body = Controller::new(tuning, hull, hands - hull.middle::<V>());
    let state = rasant::State { facing: V::RIGHT, ..*body.state() };
    body.restore(state);
    body.tick(&Intent::default().pressing(ROPE), &level, 1.0 / rate as f32);
    (body, level)
}

#[test]
fn a_swing_keeps_its_energy_and_its_rope_at_any_tick_rate() {
    fn check<V: Geometry>() {
        for rate in [30, 60, 144, 240] {
            let (mut body, level) = hanging::<V>(4.0, rate);
            let gravity = body.tuning.gravity();
            let energy = |body: &Controller<V>| {
                0.5 * body.velocity().length_squared() + gravity * body.position().height()
            };
            let before = energy(&body);
            for _ in 0..10 * rate {
                body.tick(&Intent::default().holding(ROPE), &level, 1.0 / rate as f32);
                assert_eq!(body.state().mode, "swing".parse::<Mode>().unwrap());
                let rope = (body.position() + body.present_hull().middle()).length();
                assert!((rope - 4.0).abs() < 0.02, "{rope} m at {rate}");
                assert!((energy(&body) - before).abs() < 0.3, "{} of {before} at {rate}", energy(&body));
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_snapshot_in_the_middle_of_a_swing_continues_with_the_same_bits() {
    let (mut body, level) = hanging::<Vec2>(4.0, 60);
    let on = |body: &mut Controller<Vec2>| {
        for _ in 0..100 {
            body.tick(&Intent::steering(1.0, 0.0).holding(ROPE), &level, 1.0 / 60.0);
        }
        body.state().checksum()
    };
    on(&mut body);
    let kept = *body.state();
    let first = on(&mut body);
    body.restore(kept);
    assert_eq!(on(&mut body), first);
}

#[test]
fn the_games_tool_knows_its_knobs_and_its_figure() {
    let knobs = printed(tool().args(["knobs", "swing"]));
    assert!(knobs.contains("swing.reach") && knobs.contains("swing.pump"), "{knobs}");
    let schema = printed(tool().args(["knobs", "--schema", "tuning"]));
    assert!(schema.contains("The acceleration by which steering pumps the swing."));
    let data = concat!(env!("CARGO_MANIFEST_DIR"), "/data/climber.toml");
    let sheet = printed(tool().args(["sheet", data, "--json"]));
    let sheet: serde_json::Value = serde_json::from_str(&sheet).unwrap();
    let readings = sheet["readings"].as_array().unwrap();
    let period =
        readings.iter().find(|one| one["name"] == "swing-period").unwrap()["measured"].as_f64().unwrap();
    // A pendulum of 4 m at 45 degrees: the series of the elliptic integral.
    let (gravity, angle): (f64, f64) = (2.0 * 1.8 / 0.16, 45f64.to_radians());
    let series = 1.0 + angle.powi(2) / 16.0 + 11.0 * angle.powi(4) / 3072.0;
    let wanted = std::f64::consts::TAU * (4.0 / gravity).sqrt() * series;
    assert!((period - wanted).abs() < 0.005 * wanted, "{period} s of {wanted}");
}

#[test]
fn the_games_tool_varies_fits_and_checks_with_them() {
    let data = |name: &str| format!("{}/data/{name}", env!("CARGO_MANIFEST_DIR"));
    printed(tool().args(["check", &data("over-the-canal.toml")]));
    let climber = data("climber.toml");
    let vary = ["--knob", "swing.reach=4:8:4", "--show", "swing-period", "--json"];
    let varied = printed(tool().arg("vary").args(vary).arg(&climber));
    assert!(varied.contains("swing-period"), "{varied}");
    // Twice the length gives √2 times the period.
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("fitted.toml");
    let fit = ["--target", "swing-period=1.9478", "--turn", "swing.reach", "--out"];
    printed(tool().arg("fit").args(fit).arg(&out).arg(&climber));
    let fitted = std::fs::read_to_string(&out).unwrap();
    let reach =
        fitted.lines().find_map(|line| line.strip_prefix("reach = ")).unwrap_or_else(|| panic!("{fitted}"));
    assert!((reach.parse::<f64>().unwrap() - 4.0).abs() < 0.05, "{fitted}");
}

#[test]
fn a_wrong_number_of_its_own_knob_is_named_with_its_place() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("wrong.toml");
    std::fs::write(&path, "title = \"wrong\"\n[swing]\nreach = 500\n").unwrap();
    let output = tool().arg("sheet").arg(&path).assert().code(2).get_output().stderr.clone();
    let said = String::from_utf8(output).unwrap();
    assert!(said.contains("swing.reach") && said.contains("0 to 100 m") && said.contains(":3:"), "{said}");
}

/// The rope hangs from the moved beam, with its length unchanged.
#[test]
fn the_rope_follows_a_beam_that_moves() {
    fn check<V: Geometry>() {
        for rate in [30, 60, 144] {
            let mut builder = Level::builder();
            let key = |time, right: f32| Keyframe::new(time, V::RIGHT * right);
            let path = vec![key(0.0, 0.0), key(4.0, 6.0)];
            let trolley = builder.add_carrier(Carrier::on_path(path, PathEnd::Stop));
            let (min, max) = (V::from_array([-0.05, 0.0, -0.05]), V::from_array([0.05, 0.1, 0.05]));
            builder.add(Piece::block(min, max).unwrap().riding(trolley));
            let mut level = builder.build().unwrap();
            let (mut body, _) = hanging::<V>(4.0, rate);
            let before = body.state().memory::<Swing>().held.unwrap();
            // The same rope, as if thrown at the moving beam.
            let start = *body.state();
            body.restore(rasant::State { position: start.position, ..rasant::State::at(start.position) });
            let dt = 1.0 / rate as f32;
            body.restore(rasant::State { facing: V::RIGHT, ..*body.state() });
            body.tick(&Intent::default().pressing(ROPE), &level, dt);
            for _ in 0..4 * rate {
                level.advance(dt);
                body.tick(&Intent::default().holding(ROPE), &level, dt);
            }
            let (anchor, length) = body.state().memory::<Swing>().held.unwrap();
            let moved = (anchor - before.0).component(0);
            assert!((moved - 6.0).abs() < 0.02, "{moved} m at {rate}/s");
            let hands = body.position() + body.present_hull().middle::<V>();
            assert!((anchor - hands).length() < length + 0.05, "{} of {length} m", (anchor - hands).length());
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
