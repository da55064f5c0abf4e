//! Trials with several bodies: files, scripts, expectations and traces; and attempts with a second
//! player.

use std::time::Duration;

use crate::common::{InMemory, LEVEL, TUNING, read, refusal};
use rasant::glam::{DVec2, Vec2};
use rasant::{Bindings, Clock, DeviceEvent, Key, Press};
use rasant_lab::files::{Inputs, write_recorded_trial, write_tuning};
use rasant_lab::live::{Attempt, PlayerEvent, TimedPlayerEvent};
use rasant_lab::{Expectation, Row, Run, Trial, World, read_trial, run, run_at, trace};

const HEAD: &str = "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 4\n";

fn trial(own: &str, bodies: &str) -> Trial {
    read(LEVEL, TUNING, &format!("{HEAD}{own}\n{bodies}")).unwrap_or_else(|problem| panic!("{problem}"))
}

fn porter(more: &str) -> String {
    format!("[[body]]\nname = \"porter\"\ntuning = \"tuning\"\n{more}\n")
}

/// The gap between two capsules of the default hull, computed from their positions.
fn gap_by_hand(a: &Row, b: &Row) -> f64 {
    let (radius, height) = (f64::from(0.3f32), f64::from(1.7f32));
    let foot = |row: &Row| DVec2::new(row.position[0].into(), f64::from(row.position[1]) + radius);
    let apart = foot(b) - foot(a);
    let core = height - 2.0 * radius;
    // Two upright segments of the same length.
    let along = (apart.y.abs() - core).max(0.0);
    DVec2::new(apart.x, along).length() - 2.0 * radius
}

#[test]
fn a_gap_is_the_distance_of_the_hulls_in_every_tick() {
    let script = "script = '''\nat 0 s: steer right\nevery 0.7 s: press jump for 0.3 s\n'''";
    let expect = "[[expect]]\nleast_gap = \"porter\"\nat_least = 0\n[[expect]]\nbody = \"porter\"\nmost_gap = \"player\"\nat_most = 20\n";
    let trial = trial(
        script,
        &format!("{}{expect}", porter("start = [4, 0]\nscript = 'at 0.5 s: steer left for 2 s'")),
    );
    for rate in [24, 30, 60, 144] {
        let run = run_at(&trial, rate, 1);
        let other = run.of("porter").unwrap();
        let by_hand: Vec<f64> =
            run.trace.rows.iter().zip(&other.trace.rows).map(|(a, b)| gap_by_hand(a, b)).collect();
        for (row, gap) in run.trace.rows.iter().zip(&by_hand) {
            let measured = f64::from(row.gap_to("porter").unwrap());
            assert!((measured - gap).abs() < 1e-5, "{measured} and {gap} at {} of {rate}", row.tick);
        }
        let of = |one: &Expectation, least: bool| {
            let by_hand = by_hand.iter().copied();
            let expected = if least { by_hand.fold(9.0, f64::min) } else { by_hand.fold(-9.0, f64::max) };
            let finding = one.hold_against(&run);
            assert!((finding.measured.unwrap() - expected).abs() < 1e-5, "{finding}");
            assert!(finding.holds, "{finding}");
        };
        of(&trial.expectations[0], true);
        of(&trial.expectations[1], false);
    }
}

#[test]
fn a_body_that_meets_no_other_moves_as_if_alone() {
    let script = "script = '''\nat 0 s: steer right for 1 s\nat 0.3 s: press jump for 0.2 s\n'''";
    let alone = run(&trial(script, ""));
    let far = run(&trial(script, &porter("start = [30, 0]\nscript = 'every 1 s: press jump'")));
    assert_eq!(alone.trace, far.trace);
    assert_eq!(alone.others, []);
    assert!(far.of("porter").unwrap().summary.jumps >= 3);
    assert!(far.of("the cook").is_none());
}

#[test]
fn scripts_walk_to_points_and_follow_bodies_by_every_steering() {
    let floor = "dimensions = 3\n[[piece]]\nblock = [[-30, -1, -30], [30, 0, 30]]\n";
    for (steering, within) in [("usual", 0.02), ("view", 0.02), ("body", 0.02), ("plan", 0.02)] {
        let tuning = format!("steering = \"{steering}\"\n");
        let text = "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0, 0]\nduration = 8\nstrength = 200\n\
            script = '''\nat 0.2 s: walk to 3 0 -4\nat 3 s: walk to -2 0 1\n'''\n\
            [[body]]\nname = \"the dog\"\ntuning = \"tuning\"\nstart = [5, 0, 5]\n\
            script = '''\nwhen gap to player > 1: follow player\n'''\n\
            [[expect]]\nleast_gap = \"the dog\"\nat_least = 0\n";
        let trial = read(floor, &tuning, text).unwrap_or_else(|problem| panic!("{problem}"));
        let run = run(&trial);
        let at = |row: &Row| Vec2::new(row.position[0], row.position[2]);
        let passed = &run.trace.rows[3 * 60 - 1];
        assert!(at(passed).distance(Vec2::new(3.0, -4.0)) < within, "{steering}: {:?}", passed.position);
        // The end is reached with the dog at the heels.
        let [own, dog] = ["player", "the dog"].map(|name| run.of(name).unwrap().trace.rows.last().unwrap());
        assert!(at(own).distance(Vec2::new(-2.0, 1.0)) < 0.1, "{steering}: {:?}", own.position);
        assert!(at(own).distance(at(dog)) < 0.8, "{steering}: {:?}", dog.position);
        let finding = trial.expectations[0].hold_against(&run);
        assert!(finding.holds, "{steering}: {finding}");
    }
}

#[test]
fn events_and_scripts_name_the_other_body() {
    let script = "strength = 60\nscript = '''\n\
        at 0 s: steer right for 1.5 s\n\
        on wall-met the chest + 1.2 s: steer left for 0.2 s\n\
        then + 0.5 s: steer right for 1 s\n\
        then: press jump for 0.3 s\n\
        on landed the chest + 0.1 s: press jump\n'''";
    let chest = "[[body]]\nname = \"the chest\"\ncrate = { shape = \"box\", width = 1.4, height = 1 }\n\
        mass = 30\nstart = [2, 0]\n";
    let run = run(&trial(script, chest));
    assert_eq!(run.never_began, [0usize; 0]);
    let count = |name: &str| run.trace.events().filter(|(_, event)| event.is_called(name)).count();
    assert_eq!(count("wall-met the chest"), 1, "pushed without a pause");
    assert_eq!(count("landed on the chest"), count("landed the chest"));
    assert!(count("landed the chest") >= 1);
    assert_eq!(run.summary.jumps, 2);
    // Half of its own speed.
    let pushed = run.of("the chest").unwrap();
    let walked = run.trace.rows[60].position[0] - run.trace.rows[50].position[0];
    let moved = pushed.trace.rows[60].position[0] - pushed.trace.rows[50].position[0];
    assert!((walked - moved).abs() < 1e-3 && moved > 0.2, "{walked} m and {moved} m");
}

#[test]
fn traces_have_a_row_for_every_tick_and_body() {
    let run = run(&trial("", &porter("start = [4, 0]\ncount = 2\nstep = [1, 0]")));
    let bodies: Vec<_> = run.bodies().map(|(name, run)| (name, &run.trace)).collect();
    let mut csv = Vec::new();
    trace::write_csv(&bodies, &mut csv).unwrap();
    let mut lines = csv::Reader::from_reader(&csv[..]);
    assert_eq!(lines.headers().unwrap().iter().take(2).collect::<Vec<_>>(), ["body", "tick"]);
    let records: Vec<csv::StringRecord> = lines.records().map(Result::unwrap).collect();
    assert_eq!(records.len(), 3 * 241);
    for (number, record) in records.iter().enumerate() {
        assert_eq!(&record[0], ["player", "porter-1", "porter-2"][number % 3]);
        assert_eq!(record[1].parse::<usize>().unwrap(), number / 3);
    }
    let mut json = Vec::new();
    trace::write_json_lines(&bodies, &mut json).unwrap();
    let text = String::from_utf8(json).unwrap();
    let values: Vec<serde_json::Value> =
        text.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(values.len(), 3 * 241);
    assert_eq!((&values[4]["body"], &values[4]["tick"]), (&"porter-1".into(), &1.into()));
    let x: f64 = records[4][3].parse().unwrap();
    assert_eq!(values[4]["position"][0].as_f64().unwrap() as f32, x as f32);
    // One alone has no such column.
    let mut alone = Vec::new();
    run.trace.write_csv(&mut alone).unwrap();
    assert!(alone.starts_with(b"tick,"));
}

#[test]
fn what_is_wrong_with_a_body_is_said_at_its_place() {
    let chest = "crate = { shape = \"box\", width = 1, height = 1 }";
    for (own, bodies, words) in [
        ("", "[[body]]\ntuning = \"tuning\"\nstart = [4, 0]\n".to_owned(), "`name` is missing"),
        ("", "[[body]]\nname = \"player\"\ntuning = \"tuning\"\nstart = [4, 0]\n".to_owned(), "own body"),
        ("", porter("start = [4, 0]").repeat(2), "two bodies have the name"),
        ("", "[[body]]\nname = \"a\"\nstart = [4, 0]\n".to_owned(), "`tuning` is missing"),
        ("", porter(&format!("start = [4, 0]\n{chest}")), "either a tuning or a crate"),
        ("", porter("start = [0.2, 0]"), "inside \"player\""),
        ("", porter("start = [4, -0.5]"), "inside piece 0"),
        ("", porter("start = [4, 0]\ncount = 3\nstep = [0.1, 0]"), "inside \"porter-1\""),
        ("", porter("start = [4, 0]\nstep = [1, 0]"), "`count` beside it"),
        ("", porter("start = [4, 0]\ncount = 2"), "`step` is missing"),
        ("", porter("start = [4, 0]\ncount = 501\nstep = [1, 0]"), "1 to 500"),
        ("", porter("start = [4, 0]\nmass = 0"), "0.001 to 1000000 kg"),
        ("", porter("start = [4, 0]\ndash = \"through\""), "`stop`, `pass`, `push`"),
        ("", porter("start = [4, 0]\nplayer = 3"), "no such player"),
        ("", porter("start = [4, 0]\nplayer = 2\ncount = 2\nstep = [1, 0]"), "at most one"),
        ("", porter("start = [4, 0]\npulls = \"cart\""), "there is no body \"cart\""),
        ("", porter("start = [4, 0]\nscript = 'at 0 s: follow plyer'"), "`player`?"),
        (
            "",
            porter("start = [4, 0]\nscript = 'when gap to cart < 1: press jump'"),
            "there is no body \"cart\"",
        ),
        ("", porter("start = [4, 0]\nscript = 'at 0 s: walk 3 0'"), "`to` and a point"),
        ("", porter("start = [4, 0]\nspeed = 3"), "unknown key `body.speed`"),
        ("strength = -1", porter("start = [4, 0]"), "0 to 1000000000 kg"),
        ("script = 'on wall-met porter: press jump'", String::new(), "`wall-met` alone"),
        ("", "[[expect]]\nleast_gap = \"porter\"\nat_least = 0\n".to_owned(), "there is no body \"porter\""),
        ("", "[[expect]]\nbody = \"porter\"\ncount = \"jumped\"\nis = 0\n".to_owned(), "there is no body"),
    ] {
        let refused = refusal(LEVEL, TUNING, &format!("{HEAD}{own}\n{bodies}"));
        assert!(refused.contains(words) && refused.starts_with("trial:"), "{bodies}: {refused}");
    }
}

/// A second player, a follower and a chest.
fn three_others() -> Trial {
    let bodies = porter("start = [6, 0]\nplayer = 2\nstrength = 90")
        + "[[body]]\nname = \"dog\"\ntuning = \"tuning\"\nstart = [-3, 0]\nscript = '''\n\
           at 0 s: follow player\nwhenever gap to porter < 1: press jump\n'''\n\
           [[body]]\nname = \"chest\"\ncrate = { shape = \"box\", width = 1, height = 1 }\nstart = [3, 0]\nmass = 30\n";
    trial("strength = 100", &bodies)
}

fn attempt() -> Attempt<Vec2> {
    let trial = three_others();
    let World::Plane(file) = trial.world.clone() else { unreachable!("it is in two dimensions") };
    let second = "[actions]\njump = [\"Enter\"]\n[steer]\nleft = [\"ArrowLeft\"]\nright = [\"ArrowRight\"]\n";
    let second = rasant_lab::read_bindings(&InMemory([("keys", second.to_owned())].into()), "keys".as_ref());
    Attempt::new(&trial, file, Clock::new(60).unwrap(), [Bindings::default(), second.unwrap()])
}

fn key(name: &str, press: Press) -> TimedPlayerEvent {
    let event = PlayerEvent::Device(DeviceEvent::Key(Key::named(name).unwrap(), press));
    TimedPlayerEvent { time: Duration::from_millis(2), event }
}

const FRAME: Duration = Duration::from_nanos(16_666_667);

/// The places of all bodies, to the bit.
fn places(attempt: &Attempt<Vec2>) -> Vec<[u32; 2]> {
    let others = attempt.others().map(|(_, body, _)| body.position());
    std::iter::once(attempt.body().position())
        .chain(others)
        .map(|at| at.to_array().map(f32::to_bits))
        .collect()
}

/// Plays both players at once.
fn play(attempt: &mut Attempt<Vec2>, frames: usize) -> Vec<Vec<[u32; 2]>> {
    let mut seen = vec![places(attempt)];
    for frame in 0..frames {
        let events: Vec<TimedPlayerEvent> = match frame {
            3 => vec![key("KeyD", Press::Down), key("ArrowLeft", Press::Down)],
            60 => vec![key("Enter", Press::Down)],
            70 => vec![key("Enter", Press::Up), key("Space", Press::Down)],
            90 => vec![key("Space", Press::Up), key("KeyD", Press::Up), key("KeyA", Press::Down)],
            150 => vec![key("ArrowLeft", Press::Up)],
            _ => Vec::new(),
        };
        attempt.frame(FRAME, &events);
        seen.resize(attempt.tick(), seen[seen.len() - 1].clone());
        seen.push(places(attempt));
    }
    seen
}

#[test]
fn two_players_have_their_own_keys_and_every_tick_is_restored() {
    let mut attempt = attempt();
    let seen = play(&mut attempt, 240);
    let x = |places: &[[u32; 2]], body: usize| f32::from_bits(places[body][0]);
    // The arrow keys, which would move the first player without a second one, move the second.
    assert!(x(&seen[30], 0) > 0.5 && x(&seen[30], 1) < 5.5, "{:?}", seen[30]);
    assert!(attempt.second_tape().unwrap().intents().iter().any(|intent| intent.steer.x < 0.0));
    assert!(attempt.tape().unwrap().intents().iter().all(|intent| intent.steer.y == 0.0));
    // The chest was pushed by one of them, the dog has followed.
    assert!((x(&seen[240], 3) - 3.0).abs() > 0.1 && x(&seen[120], 2) > -2.0);
    for tick in [0, 1, 17, 100, 64, 239, 240, 5] {
        attempt.seek(tick);
        assert_eq!(places(&attempt), seen[tick], "tick {tick}");
    }
    // The whole attempt again, by its recordings.
    let mut again = self::attempt();
    attempt.seek(240);
    let tapes = (attempt.tape().unwrap(), attempt.second_tape().unwrap());
    again.replay(&tapes.0, &tapes.1, 200);
    assert_eq!(places(&again), seen[200]);
    // Restarted, all begin where they began.
    again.restart();
    assert_eq!(places(&again), seen[0]);
}

#[test]
fn pads_belong_to_players_and_losing_the_focus_releases_both() {
    let mut attempt = attempt();
    let button = |pad, press| {
        let button = rasant::input::PadButton::named("right").unwrap();
        let event = PlayerEvent::Device(DeviceEvent::Pad { pad, button, press });
        TimedPlayerEvent { time: Duration::ZERO, event }
    };
    attempt.frame(FRAME, &[button(0, Press::Down)]);
    attempt.frame(FRAME, &[key("ArrowRight", Press::Down), button(1, Press::Down)]);
    attempt.frame(FRAME, &[]);
    let steers = |attempt: &Attempt<Vec2>| {
        let second = attempt.others().next().map(|(_, _, intent)| intent.steer.x);
        (attempt.intent().steer.x, second.unwrap())
    };
    assert_eq!(steers(&attempt), (1.0, 1.0));
    let away = TimedPlayerEvent { time: Duration::ZERO, event: PlayerEvent::Device(DeviceEvent::FocusLost) };
    attempt.frame(FRAME, &[away]);
    attempt.frame(FRAME, &[]);
    assert_eq!(steers(&attempt), (0.0, 0.0));
}

#[test]
fn a_recorded_attempt_with_all_its_bodies_is_played_to_the_same_ends() {
    let mut attempt = attempt();
    let seen = play(&mut attempt, 200);
    let (tape, second) = (attempt.tape().unwrap(), attempt.second_tape().unwrap());
    let mut trial = three_others();
    trial.inputs = Inputs::Tape(tape.clone());
    trial.others[0].inputs = Inputs::Tape(second.clone());
    trial.duration = 200.0 / 60.0;
    let ends = |run: &Run| -> Vec<[u32; 2]> {
        let lasts = run.bodies().map(|(_, run)| run.trace.rows.last().unwrap().position);
        lasts.map(|at| [at[0].to_bits(), at[1].to_bits()]).collect()
    };
    let played = run(&trial);
    assert_eq!(ends(&played), seen[200]);
    // The same from the files that are written.
    let others = [("tuning", Some("second")), ("tuning", None), ("chest", None)]
        .map(|(tuning, tape)| (tuning.to_owned(), tape.map(str::to_owned)));
    let text = write_recorded_trial(&trial, &played, ("level", "tuning", "own"), &others);
    let files = [
        ("level", LEVEL.to_owned()),
        ("tuning", TUNING.to_owned()),
        ("chest", write_tuning(&trial.others[2].tuning)),
        ("own", tape.to_text(60)),
        ("second", second.to_text(60)),
        ("trial", text),
    ];
    let again = read_trial(&InMemory(files.into()), "trial".as_ref()).unwrap_or_else(|why| panic!("{why}"));
    let done = run(&again);
    assert_eq!(ends(&done), seen[200]);
    assert!(!again.expectations.is_empty());
    for expectation in &again.expectations {
        let finding = expectation.hold_against(&done);
        assert!(finding.holds, "{finding}");
    }
}
