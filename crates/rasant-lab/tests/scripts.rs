//! Scripts by time and by circumstance, played to bodies; and expectations of their runs.

use crate::common::{LEVEL, TUNING, read};
use proptest::prelude::*;
use rasant::Actions;
use rasant_lab::{Run, Trace, Trial, run, run_at};

/// A floor, and a wall on it at 20 m.
const WALLED: &str = "[[piece]]\nblock = [[-5, -1], [50, 0]]\n[[piece]]\nblock = [[20, 0], [21, 4]]\n";

fn trial(level: &str, script: &str, more: &str) -> Trial {
    let text = format!(
        "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 6\nscript = '''\n{script}\n'''\n{more}"
    );
    read(level, TUNING, &text).unwrap_or_else(|problem| panic!("{problem}"))
}

fn played(level: &str, script: &str) -> Run {
    run(&trial(level, script, ""))
}

/// The ticks in which an action is pressed.
fn presses(run: &Run, action: Actions) -> Vec<usize> {
    let pressed = |tick: &usize| run.tape.at(*tick).pressed.intersects(action);
    (0..run.tape.len()).filter(pressed).collect()
}

/// The ticks that an event happened in, as the rows count them.
fn ticks_of(trace: &Trace, event: &str) -> Vec<usize> {
    trace.events().filter(|(_, one)| one.is_called(event)).map(|(row, _)| row.tick).collect()
}

#[test]
fn times_are_those_of_the_first_tick_at_or_after_them() {
    let script = "at 0 s: steer right for 0.5 s\n\
                  at 0.1 s: press jump for 0.2 s\n\
                  at 0.3s: steer -0.5 0.25\n\
                  at 2 s: press dash for 0.001 s  # shorter than a tick is one tick\n\
                  at 0 s: look 90 deg -10 deg";
    let run = run_at(&trial(LEVEL, script, ""), 10, 1);
    let steers: Vec<[f32; 2]> = run.tape.intents()[..6].iter().map(|i| i.steer.to_array()).collect();
    let later = [-0.5, 0.25];
    assert_eq!(steers, [[1.0, 0.0], [1.0, 0.0], [1.0, 0.0], later, later, later]);
    let jumps: Vec<(bool, bool)> = run.tape.intents()[..4]
        .iter()
        .map(|i| (i.held.contains(Actions::JUMP), i.released.contains(Actions::JUMP)))
        .collect();
    assert_eq!(jumps, [(false, false), (true, false), (true, false), (false, true)]);
    let dashes: Vec<bool> = (19..23).map(|tick| run.tape.at(tick).held.contains(Actions::DASH)).collect();
    assert_eq!(dashes, [false, true, false, false]);
    assert!((run.tape.at(0).look.yaw - 90f32.to_radians()).abs() < 1e-6);
}

#[test]
fn a_circumstance_is_seen_by_the_tick_after_its_cause() {
    let script = "at 0 s: steer right\n\
                  when x > 5: press jump for 0.5 s\n\
                  on landed: press jump for 0.5 s\n\
                  on landed + 0.25 s: steer left until x < 3\n\
                  then + 0.5 s: press dash";
    let run = played(LEVEL, script);
    let rows = &run.trace.rows;
    let passed = rows.iter().position(|row| row.position[0] > 5.0).unwrap();
    let landings = ticks_of(&run.trace, "landed");
    assert_eq!(presses(&run, Actions::JUMP), [passed, landings[0]]);
    let turned = landings[1] + 15;
    assert_eq!(run.tape.at(turned - 1).steer.x, 1.0);
    assert_eq!(run.tape.at(turned).steer.x, -1.0);
    assert_eq!(presses(&run, Actions::DASH), [turned + 30]);
    let back = turned + rows[turned..].iter().position(|row| row.position[0] < 3.0).unwrap();
    assert_eq!((run.tape.at(back - 1).steer.x, run.tape.at(back).steer.x), (-1.0, 1.0));
    assert!(run.never_began.is_empty());
}

#[test]
fn repeated_lines_begin_each_time() {
    let script = "at 0 s: steer right\nwhenever on landed: press jump\nwhen at wall: steer left\n\
                  every 0.5 s: press dash\nwhen y > 100: steer 0 0";
    let run = played(WALLED, &format!("at 0 s: press jump\n{script}"));
    let mut landings = ticks_of(&run.trace, "landed");
    landings.retain(|tick| *tick < run.tape.len());
    let jumps = presses(&run, Actions::JUMP);
    assert_eq!(jumps[1..], landings[..], "every landing is followed by a jump");
    assert!(landings.len() > 3);
    let wall = run.trace.rows.iter().position(|row| row.at_wall).unwrap();
    assert_eq!((run.tape.at(wall - 1).steer.x, run.tape.at(wall).steer.x), (1.0, -1.0));
    let dashes: Vec<usize> = (wall..run.tape.len()).step_by(30).collect();
    assert_eq!(presses(&run, Actions::DASH), dashes);
    assert_eq!(run.never_began, [6]);
}

#[test]
fn two_lines_of_one_event_wait_for_two_events_and_of_one_state_for_none() {
    let run = played(LEVEL, "at 0 s: press jump\non landed: press jump\non landed: press dash");
    let landings = ticks_of(&run.trace, "landed");
    assert_eq!(presses(&run, Actions::JUMP), [0, landings[0]]);
    assert_eq!(presses(&run, Actions::DASH), [landings[1]]);
    let run = played(LEVEL, "at 0 s: steer right\nwhen x > 2: press jump\nwhen x > 2: press dash");
    assert_eq!(presses(&run, Actions::JUMP), presses(&run, Actions::DASH));
}

/// What of a script's lines is played in which ticks, at 10 ticks a second. The body lands
/// from its jump within 0.8 s.
#[test]
fn every_form_of_a_line_is_played_to_the_tick() {
    let dashes = |script: &str| {
        let run = run_at(&trial(LEVEL, script, ""), 10, 1);
        assert!(run.never_began.is_empty(), "{script}");
        let held: Vec<usize> =
            (0..60).filter(|tick| run.tape.at(*tick).held.contains(Actions::DASH)).collect();
        (held, presses(&run, Actions::DASH), run)
    };
    let ticks = |from: usize, to: usize| (from..to).collect::<Vec<_>>();
    for (line, held, pressed) in [
        ("at 1 s: press dash", vec![10], vec![10]),
        ("at 1 s + 0.3 s: press dash", vec![13], vec![13]),
        ("at 0.05 s: press dash", vec![1], vec![1]),
        ("at 1 s: press dash for 0.3 s", ticks(10, 13), vec![10]),
        ("at 2 s: press own-1\nthen: press dash", vec![20], vec![20]),
        ("at 2 s: press own-1\nthen + 0.5 s: press dash for 0.2 s", ticks(25, 27), vec![25]),
        ("every 2 s: press dash", vec![0, 20, 40], vec![0, 20, 40]),
        ("every 2 s + 0.5 s: press dash", vec![5, 25, 45], vec![5, 25, 45]),
        ("at 1 s: press own-1\nevery 2 s: press dash", vec![10, 30, 50], vec![10, 30, 50]),
        // Presses that touch, and that overlap, are presses all the same.
        ("at 1 s: press dash\nat 1.1 s: press dash", ticks(10, 12), ticks(10, 12)),
        ("at 1 s: press dash for 1 s\nat 1.5 s: press dash", ticks(10, 20), vec![10, 15]),
        ("every 0.1 s: press dash", ticks(0, 60), ticks(0, 60)),
        // A repeated circumstance begins the line each time, even within the delay.
        (
            "at 0 s: press own-1\nevery 0.2 s + 3 s: press dash",
            (30..60).step_by(2).collect(),
            (30..60).step_by(2).collect(),
        ),
        ("when x > -1: press dash for 0.2 s", ticks(0, 2), vec![0]),
        ("when not airborne and y < 1 m: press dash", vec![0], vec![0]),
    ] {
        let (was_held, was_pressed, run) = dashes(line);
        assert_eq!((was_held, was_pressed), (held, pressed), "{line}");
        let again = rasant::Tape::from_text(&run.tape.to_text(10)).unwrap().0;
        assert_eq!(again, run.tape, "{line}: a recording is the same");
    }
    // By what happens: a jump at 1 s, and what the trace says of it.
    let jump = "at 1 s: press jump for 0.5 s\n";
    for (line, event, later) in [
        ("on apex: press dash", "apex", 0),
        ("on landed: press dash", "landed", 0),
        ("when on landed + 0.4 s: press dash", "landed", 4),
        ("when rising: press dash", "left-ground", 0),
        ("whenever on landed + 0.3 s: press dash", "landed", 3),
        ("when falling and y > 0.1: press dash", "apex", 0),
    ] {
        let (_, pressed, run) = dashes(&format!("{jump}{line}"));
        assert_eq!(pressed[0], ticks_of(&run.trace, event)[0] + later, "{line}");
    }
    let (_, pressed, run) = dashes(&format!("{jump}on jumped: press own-1\non left-ground jump: press dash"));
    assert_eq!(pressed, ticks_of(&run.trace, "jumped"), "two events of one tick begin two lines");
    // Of steers, the one that began last counts, whatever the order of the lines.
    let steers = |script: &str| -> (Vec<f32>, Vec<usize>) {
        let run = run_at(&trial(LEVEL, script, ""), 10, 1);
        ((0..60).map(|tick| run.tape.at(tick).steer.x).collect(), run.never_counted)
    };
    let (steered, never) = steers("at 2 s: steer left\nat 0 s: steer right\nat 3 s: steer 0.5 0 for 1 s");
    assert!(steered[..20].iter().all(|x| *x == 1.0) && steered[20..30].iter().all(|x| *x == -1.0));
    assert!(steered[30..40].iter().all(|x| *x == 0.5) && steered[40..].iter().all(|x| *x == -1.0));
    assert!(never.is_empty());
    let (steered, never) = steers("at 1 s: steer left\nat 1 s: steer right");
    assert_eq!((steered[9], steered[10], never), (0.0, 1.0, vec![1]), "the later line of two");
    let (steered, _) = steers("at 0 s: steer right until x > 1\nwhenever x > 3: steer left");
    assert!(steered.contains(&1.0) && !steered.contains(&-1.0));
}

#[test]
fn names_of_zones_may_hold_any_word_in_quotes() {
    let level = format!(
        "{LEVEL}[[zone]]\nbox = [[2, 0], [3, 2]]\nkind = \"checkpoint\"\nname = \"here: for and until\"\n"
    );
    let run =
        played(&level, "at 0 s: steer right\non zone-entered \"here: for and until\": press dash # now");
    assert_eq!(presses(&run, Actions::DASH).len(), 1);
    assert_eq!(presses(&run, Actions::DASH), ticks_of(&run.trace, "zone-entered here: for and until"));
}

#[test]
fn calls_of_the_game_affect_the_body() {
    let run =
        played(LEVEL, "at 1 s: throw 3 8\non landed: knock -4 3 for 0.5 s\nthen + 1 s: move 1.5 0 for 0.4 s");
    let rows = &run.trace.rows;
    assert!((rows[61].velocity[0] - 3.0).abs() < 0.2 && rows[61].velocity[1] > 7.0);
    let landed = ticks_of(&run.trace, "landed")[0];
    let knocked = &rows[landed + 1..landed + 30];
    assert!(knocked.iter().all(|row| row.mode == "knockback"), "{:?}", knocked[0]);
    assert!(rows[landed + 30].position[0] < rows[landed].position[0] - 0.2);
    let (from, to) = (&rows[landed + 60], &rows[landed + 60 + 24]);
    assert!((to.position[0] - from.position[0] - 1.5).abs() < 1e-4);
}

#[test]
fn one_script_suits_tunings_that_differ_much() {
    let script = "at 0 s: steer right\nwhen x > 12: press jump for 1 s\non landed: steer 0 0";
    for (speed, height) in [(2.5, 0.6), (4.0, 1.8), (9.0, 3.0)] {
        let tuning = format!("[walk]\nspeed = {speed}\n[jump]\nheight = {height}\n");
        let text = format!(
            "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 9\nscript = '''\n{script}\n'''\n"
        );
        let run = run(&read(LEVEL, &tuning, &text).unwrap());
        let jumped = run.trace.events().find(|(_, event)| event.name == "jumped").unwrap().0;
        assert!((12.0..12.4).contains(&jumped.position[0]), "at {} m", jumped.position[0]);
        assert_eq!(run.summary.jumps, 1);
        assert!((run.summary.highest_m.unwrap() - height).abs() < 0.002 * height);
    }
}

#[test]
fn acting_every_fourth_tick_misses_no_event() {
    let script = "at 0 s: steer right\nwhen x > 5: press jump\non landed: press jump\non landed: steer left";
    let run = run_at(&trial(LEVEL, script, ""), 240, 4);
    let changes: Vec<usize> =
        (1..run.tape.len()).filter(|&t| run.tape.at(t).held != run.tape.at(t - 1).held).collect();
    assert!(changes.len() == 4 && changes.iter().all(|tick| tick % 4 == 0), "{changes:?}");
    assert!(run.never_began.is_empty());
    assert_eq!(presses(&run, Actions::JUMP).len(), 2);
}

fn finding(level: &str, script: &str, expect: &str) -> rasant_lab::Finding {
    let trial = trial(level, script, &format!("[[expect]]\n{expect}\n"));
    trial.expectations[0].hold_against(&run(&trial))
}

#[test]
fn figures_are_of_the_part_of_the_run_that_is_chosen() {
    let script = "at 0 s: steer right\nat 2 s: press jump for 0.5 s\non landed: steer 0 0";
    let measured = |expect: &str| finding(LEVEL, script, expect).measured.unwrap();
    assert_eq!(measured("figure = \"slowest\"\nwhile = \"x > 2 and x < 6\"\nis = 4\nwithin = 0"), 4.0);
    assert_eq!(measured("figure = \"slowest\"\nis = 0"), 0.0);
    assert_eq!(measured("figure = \"quickest\"\nwhile = \"x < 6\"\nis = 4\nwithin = 0"), 4.0);
    assert_eq!(measured("count = \"footfall\"\nwhile = \"x > 4.2 and x < 7.4\"\nis = 4"), 4.0);
    let to = measured("time_to = \"x > 6\"\nat_most = 2");
    assert!((to - 1.55).abs() < 0.02, "{to}: 6 m at 4 m/s, and 0.05 s lost speeding up");
    assert!((measured("time_to = \"jumped\"\nat_most = 3") - 2.0).abs() < 0.02);
    let fraction = measured("always = \"grounded\"");
    assert!((fraction - (1.0 - 0.72 / 6.0)).abs() < 0.005, "{fraction}: 0.72 s of 6 are airborne");
    assert_eq!(measured("figure = \"penetration\"\nat_most = 0"), 0.0);
    let there_and_back = "at 0 s: steer right\nat 1 s: steer left\nat 2.05 s: steer 0 0";
    let distance = |figure: &str| {
        finding(LEVEL, there_and_back, &format!("figure = \"{figure}\"\nat_most = 99")).measured.unwrap()
    };
    assert!(
        distance("distance").abs() < 0.2 && (distance("travelled") - 7.9).abs() < 0.3,
        "{}, {}",
        distance("distance"),
        distance("travelled")
    );
}

#[test]
fn an_expectation_holds_or_says_what_was_measured() {
    let script = "at 0 s: steer right\nat 2 s: press jump for 0.5 s";
    for (expect, holds, said) in [
        (
            "always = \"grounded\"\nwhile = \"x < 7\"",
            true,
            "fraction of the time grounded while x < 7 is 1, expected 1",
        ),
        ("always = \"grounded\"", false, "fraction of the time grounded is 0.8"),
        (
            "figure = \"slowest\"\nwhile = \"x > 99\"\nat_least = 4",
            false,
            "slowest while x > 99 never happened",
        ),
        (
            "count = \"landed\"\nwhile = \"x > 99\"\nis = 0",
            false,
            "count of landed while x > 99 never happened",
        ),
        ("time_to = \"x > -1\"\nat_most = 0.001", true, "time to x > -1 is 0.0000 s"),
        ("time_to = \"x > 99\"\nat_most = 5", false, "time to x > 99 never happened, expected at most 5 s"),
    ] {
        let finding = finding(LEVEL, script, expect);
        assert_eq!(finding.holds, holds, "{finding}");
        assert!(finding.to_string().contains(said), "{finding}");
    }
}

#[test]
fn a_body_placed_inside_a_wall_is_detected() {
    let level = "[[piece]]\nblock = [[-5, -1], [50, 0]]\n[carriers.gate]\n\
                 path = [{ time = 0, offset = [0, 0] }, { time = 1, offset = [-1.5, 0] }]\nend = \"stop\"\n\
                 [[piece]]\nblock = [[1, 0], [3, 3]]\ncarrier = \"gate\"\n[[piece]]\nblock = [[-2, 0], [-0.4, 3]]\n";
    let finding = finding(level, "", "figure = \"penetration\"\nat_most = 0.001");
    assert!(!finding.holds && finding.measured.unwrap() > 0.05, "{finding}: the gate crushes it");
}

proptest! {
    #[test]
    fn whatever_is_written_is_read_or_refused_within_the_text(text in "[a-z0-9 .:+<>#-]{0,60}") {
        if let Err(error) = text.parse::<rasant_lab::Script>() {
            let (span, message, expected) = error.into_parts();
            prop_assert!(span.start <= text.len() && !message.is_empty() && !expected.is_empty());
        }
    }
}

#[test]
fn refusals_are_reported_with_action_and_cause() {
    let tuning = "[dash]\ncharges = 1\nfrom_ground = false\ncooldown = 0.5\n[jump]\nair_count = 0\n";
    let script = "at 0.2 s: press dash\nat 0.6 s: press dash\nat 1.6 s: press dash\n\
                  on refused dash empty: press jump\non jumped + 0.2 s: press jump\n\
                  on refused jump: press own-2\n";
    let trial = format!(
        "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 4\nscript = \"\"\"\n{script}\"\"\"\n"
    );
    let trial = read(LEVEL, tuning, &trial).unwrap();
    let run = run(&trial);
    let count = |event: &str| rasant_lab::expect::Figure::Count(event.to_owned()).of(&run, None);
    let events: Vec<_> =
        run.trace.events().map(|(row, event)| (row.time, event.name, event.detail.clone())).collect();
    for (event, times) in [
        ("refused", 3.0),
        ("refused dash", 2.0),
        ("refused dash cooldown", 1.0),
        ("refused dash empty", 1.0),
        ("refused jump", 1.0),
        ("refused jump no-footing", 1.0),
        ("refused roll", 0.0),
        ("maneuver-phase dash", 2.0),
        ("maneuver-phase dash active", 1.0),
    ] {
        assert_eq!(count(event), times, "{event}: {events:?}");
    }
    // The refusal contains the time by which the press missed.
    let missed = |detail: &str| {
        let refused =
            |event: &rasant_lab::EventRow| event.name == "refused" && event.detail.as_deref() == Some(detail);
        run.trace.events().find(|(_, event)| refused(event)).unwrap().1.seconds
    };
    assert!(missed("dash cooldown").is_some_and(|left| left > 0.0 && left < 0.5));
    assert!(missed("jump no-footing").is_some_and(|late| (0.15..0.4).contains(&late)));
    assert_eq!(missed("dash empty"), None);
    // The first word is enough for a script, too.
    assert_eq!(presses(&run, Actions::own(2)).len(), 1);
}

/// It moves as far as it says, at any tick rate, and then stands.
#[test]
fn a_scripted_move_covers_its_distance() {
    for rate in [24, 30, 60, 144] {
        for (seconds, start) in [(0.33, 0.2), (0.05, 0.2), (0.3, 0.21), (0.01, 0.2083), (0.325, 0.2083)] {
            let text = format!("at {start} s: move 1 0 for {seconds} s");
            let run = run_at(&trial(WALLED, &text, ""), rate, 1);
            let rows = &run.trace.rows;
            let went = rows[rows.len() - 1].position[0] - rows[0].position[0];
            assert!((went - 1.0).abs() < 1e-3, "{text} at {rate}/s: {went} m");
            assert_eq!(rows[rows.len() - 1].speed, 0.0);
        }
    }
}
