//! What the examples come to: each is run as its readers run it.

use rasant::glam::{Vec2, Vec3};
use rasant::moves::Jump;
use rasant::state::Name;
use rasant::{Actions, Mode, Phase};

#[allow(dead_code)]
#[path = "../examples/dash.rs"]
mod dash;
#[allow(dead_code)]
#[path = "../examples/entities.rs"]
mod entities;
#[allow(dead_code)]
#[path = "../examples/first_fall.rs"]
mod first_fall;
#[allow(dead_code)]
#[path = "../examples/first_person.rs"]
mod first_person;
#[allow(dead_code)]
#[path = "../examples/gaze.rs"]
mod gaze;
#[allow(dead_code)]
#[path = "../examples/hops.rs"]
mod hops;
#[allow(dead_code)]
#[path = "../examples/jumping.rs"]
mod jumping;
#[allow(dead_code)]
#[path = "../examples/ladder.rs"]
mod ladder;
#[allow(dead_code)]
#[path = "../examples/late_and_again.rs"]
mod late_and_again;
#[allow(dead_code)]
#[path = "../examples/market_crowd.rs"]
mod market_crowd;
#[allow(dead_code)]
#[path = "../examples/moving_platforms.rs"]
mod moving_platforms;
#[allow(dead_code)]
#[path = "../examples/plan_view.rs"]
mod plan_view;
#[allow(dead_code)]
#[path = "../examples/rewind.rs"]
mod rewind;
#[allow(dead_code)]
#[path = "../examples/slopes_and_steps.rs"]
mod slopes_and_steps;
#[allow(dead_code)]
#[path = "../examples/sounds.rs"]
mod sounds;
#[allow(dead_code)]
#[path = "../examples/third_person.rs"]
mod third_person;
#[allow(dead_code)]
#[path = "../examples/turn_and_drive.rs"]
mod turn_and_drive;
#[allow(dead_code)]
#[path = "../examples/two_players.rs"]
mod two_players;
#[allow(dead_code)]
#[path = "../examples/two_who_meet.rs"]
mod two_who_meet;
#[allow(dead_code)]
#[path = "../examples/voxels.rs"]
mod voxels;
#[allow(dead_code)]
#[path = "../examples/walking.rs"]
mod walking;
#[allow(dead_code)]
#[path = "../examples/walls.rs"]
mod walls;

#[allow(dead_code)]
#[path = "../examples/rebinding.rs"]
mod rebinding;
#[allow(dead_code)]
#[path = "../examples/roll.rs"]
mod roll;
#[allow(dead_code)]
#[path = "../examples/rolling_ball.rs"]
mod rolling_ball;
#[test]
fn a_body_lands_once_and_stands_still() {
    let outcome = first_fall::run(&mut Default::default()).unwrap();
    // v = sqrt(2 g h), from 3 m and from 5 m; an edge gives no speed of its own.
    let speeds: Vec<f32> = [3.0f32, 5.0].map(|height| (2.0 * 27.78 * height).sqrt()).to_vec();
    assert_eq!(outcome.landings.len(), 2, "{:?}", outcome.landings);
    assert!(
        outcome.landings.iter().zip(&speeds).all(|(is, of)| (is - of).abs() < 0.3),
        "{:?}",
        outcome.landings
    );
    assert!(outcome.hovered < 0.006 && outcome.crept == 0.0, "{} {}", outcome.hovered, outcome.crept);
    assert!((0.0..0.5).contains(&outcome.first_speed), "{}", outcome.first_speed);
}

#[test]
fn two_keys_are_no_faster_than_one() {
    let outcome = walking::run(&mut Default::default()).unwrap();
    assert!(outcome.speeds.iter().all(|speed| (speed - 5.0).abs() < 1e-4), "{:?}", outcome.speeds);
    // v t / 2.
    assert!((outcome.stopped_in - 0.5).abs() < 1e-3, "{}", outcome.stopped_in);
    assert!((outcome.faces - Vec2::splat(0.5f32.sqrt())).length() < 1e-3);
}

#[test]
fn jumps_are_as_high_as_they_say_and_as_many_as_there_are() {
    let outcome = jumping::run(&mut Default::default()).unwrap();
    for (height, time) in outcome.tops {
        assert!((height - 2.2).abs() < 0.006 && (time - 0.4).abs() < 0.035, "{:?}", outcome.tops);
    }
    let (speed, at) = outcome.landed;
    assert!((speed - 30.0).abs() < 1e-3 && (0.0..0.006).contains(&at), "{speed} m/s, {at} m");
    let outcome = late_and_again::run(&mut Default::default()).unwrap();
    assert_eq!(outcome.in_the_air, [Jump::AIR]);
    assert_eq!(outcome.late, Some(Jump::LATE));
    assert!((1..5).contains(&outcome.early), "{}", outcome.early);
}

#[test]
fn slopes_and_steps_are_walked_at_one_speed() {
    let outcome = slopes_and_steps::run(&mut Default::default()).unwrap();
    assert!(
        (outcome.speeds.0 - 4.0).abs() < 0.05 && (outcome.speeds.1 - 4.0).abs() < 0.05,
        "{:?}",
        outcome.speeds
    );
    assert_eq!((outcome.off_ground, outcome.crept), (0, 0.0));
    assert!(outcome.slid > 3.0, "{}", outcome.slid);
}

#[test]
fn a_shaft_is_climbed_from_wall_to_wall() {
    let outcome = walls::run(&mut Default::default()).unwrap();
    assert!((outcome.slid_at - 2.0).abs() < 1e-3, "{}", outcome.slid_at);
    assert!(outcome.jumps > 5 && outcome.height > 9.0, "{} {}", outcome.jumps, outcome.height);
}

#[test]
fn a_ladder_is_climbed_and_left() {
    let modes = ladder::run(&mut Default::default()).unwrap();
    let kinds: Vec<Mode> = modes.iter().map(|(mode, _)| *mode).collect();
    assert_eq!(
        kinds,
        [Mode::Grounded, Mode::Move(Name::new("ladder")), Mode::Airborne, Mode::Grounded],
        "{modes:?}"
    );
    // 1.5 s up and half a second down, at 2.5 m/s.
    assert!((modes[2].1.y - 2.5).abs() < 0.3 && modes[3].1.x > 0.5, "{modes:?}");
}

#[test]
fn a_dash_has_its_length_and_waits_for_its_cooldown() {
    let outcome = dash::run(&mut Default::default()).unwrap();
    let distance = outcome.trail[outcome.trail.len() - 1] - outcome.trail[0];
    assert!((distance.x - 4.0).abs() < 0.1 && outcome.trail.len() > 10, "{distance}");
    assert!(outcome.dashes == 2 || outcome.dashes == 3, "{}", outcome.dashes);
    assert!(outcome.too_early.iter().all(|left| (0.0..0.5).contains(left)) && outcome.too_early.len() >= 3);
}

#[test]
fn a_rider_stays_on_its_deck_and_jumps_with_its_speed() {
    let outcome = moving_platforms::run(&mut Default::default()).unwrap();
    assert!(outcome.apart < 0.006, "{}", outcome.apart);
    // (v + 2)^2 / 2 g against v^2 / 2 g.
    let [still, rising] = outcome.jumps;
    assert!((still - 1.8).abs() < 0.05 && (rising - 2.59).abs() < 0.06, "{still} {rising}");
}

#[test]
fn eight_directions_are_as_fast_and_the_ground_is_known() {
    let outcome = plan_view::run(&mut Default::default()).unwrap();
    assert!(
        outcome.distances.iter().all(|distance| (distance - 4.0).abs() < 1e-3),
        "{:?}",
        outcome.distances
    );
    // Along the wall at a part of the speed, one clearance before it.
    assert!((outcome.along.x - 5.595).abs() < 1e-3 && outcome.along.y > -1.0, "{}", outcome.along);
    assert!((outcome.mud.0 - 2.0).abs() < 1e-3 && outcome.mud.1.is_some(), "{:?}", outcome.mud);
    assert!((outcome.turned - 45.0).abs() < 0.5, "{}", outcome.turned);
}

#[test]
fn a_cart_turns_and_drives() {
    let (turned, drove) = turn_and_drive::run(&mut Default::default()).unwrap();
    assert!((turned.abs() - 60.0).abs() < 0.1, "{turned}");
    assert!(drove.length() > 3.5);
}

#[test]
fn bodies_in_space_go_where_they_look() {
    let (at, off) = third_person::run(&mut Default::default()).unwrap();
    assert!(at.x < -9.0 && at.z.abs() < 0.1 && off < 0.5, "{at} {off}");
    let outcome = first_person::run(&mut Default::default()).unwrap();
    assert!(outcome.at.z < -7.0 && outcome.at.x.abs() < 1e-3 && (outcome.at.y - 0.255).abs() < 0.01);
    assert!(outcome.steps[1] > 0.2 && outcome.steps[0] < 0.1, "{:?}", outcome.steps);
    let [up, ahead, left] = gaze::run(&mut Default::default()).unwrap();
    assert!(up.length() < 1e-3 && ahead.z < -3.0 && left.x < -3.0, "{up} {ahead} {left}");
    let (at, jumps) = voxels::run(&mut Default::default()).unwrap();
    assert!(at.y > 4.9 && (5..20).contains(&jumps), "{at} {jumps}");
    assert!(at.is_finite() && at != Vec3::ZERO);
}

#[test]
fn hops_are_whole_steps() {
    let (stood, refused) = hops::run(&mut Default::default()).unwrap();
    let at = |x: f32, y: f32| Vec2::new(x, y);
    assert_eq!(stood, [at(1.0, 0.0), at(2.0, 0.0), at(2.0, 0.0), at(2.0, 1.0), at(3.0, 1.0)]);
    assert_eq!(refused, ["blocked"]);
}

#[test]
fn three_walk_through_a_market_and_one_is_followed() {
    let outcome = market_crowd::run(&mut Default::default()).unwrap();
    assert!(outcome.walked.iter().all(|walked| *walked > 8.0), "{:?}", outcome.walked);
    assert!(outcome.closest > 0.6, "{} m", outcome.closest);
    assert!(outcome.behind < 1.0, "{} m", outcome.behind);
}

#[test]
fn two_players_block_each_other_and_one_rides_on_the_other() {
    let outcome = two_who_meet::run(&mut Default::default()).unwrap();
    assert!(outcome.gap > 0.005 && outcome.gap < 0.015, "{outcome:?}");
    assert!(outcome.stood_on_the_other && outcome.pushed > 3.0, "{outcome:?}");
}

#[test]
fn bodies_are_components_of_a_general_store() {
    let (guard, landings) = entities::run().unwrap();
    assert!((-4.2..4.2).contains(&guard.x) && guard.y.abs() < 1e-3, "{guard}");
    // A jump and the tick of its landing, over and over.
    let tuning = rasant::Tuning::default();
    let jump = 2.0 * tuning.jump.rise_time + 1.5 / 60.0;
    assert!((f64::from(landings) - f64::from(10.0 / jump)).abs() <= 1.0, "{landings} landings");
}

#[test]
fn two_players_share_a_keyboard() {
    let ticks = two_players::run().unwrap();
    let steers: Vec<[f32; 2]> = ticks.iter().map(|both| [both[0].steer.x, both[1].steer.x]).collect();
    assert_eq!(steers, [[1.0, -1.0], [1.0, -1.0], [0.0, -1.0], [0.0, -1.0]]);
    let jumps: Vec<[bool; 2]> =
        ticks.iter().map(|both| both.map(|intent| intent.pressed.contains(Actions::JUMP))).collect();
    assert_eq!(jumps.iter().filter(|both| both[1]).count(), 1, "a tap shorter than a tick is one press");
    assert!(jumps.iter().all(|both| !both[0]));
}

#[test]
fn sounds_and_animations_come_once_each() {
    let cues = sounds::run(&mut Default::default()).unwrap();
    let count = |of: &str| {
        cues.iter().filter(|cue| matches!(cue, sounds::Cue::Sound(name, _) if *name == of)).count()
    };
    assert_eq!((count("a breath"), count("a thud")), (1, 1), "{cues:?}");
    assert!(count("a step on stone") >= 2);
    let shown: Vec<&str> = cues
        .iter()
        .filter_map(|cue| if let sounds::Cue::Show(gait) = cue { Some(gait.as_str()) } else { None })
        .collect();
    assert_eq!(shown, ["idle", "walk", "rise", "fall", "walk", "idle"], "{cues:?}");
}

#[test]
fn restored_snapshots_continue_with_the_same_bits() {
    let [first, again] = rewind::run(&mut Default::default()).unwrap();
    assert_eq!(first, again);
}

#[test]
fn a_roll_has_its_phases_and_an_animation_its_path() {
    let outcome = roll::run(&mut Default::default()).unwrap();
    let phases: Vec<Phase> = outcome.phases.iter().map(|(phase, _)| *phase).collect();
    assert_eq!(phases, [Phase::Startup, Phase::Active, Phase::Recovery, Phase::Cooldown]);
    for ((_, time), after) in outcome.phases.iter().zip([0.0, 0.1, 0.5, 0.7]) {
        assert!((time - 1.0 / 60.0 - after).abs() < 0.02, "{:?}", outcome.phases);
    }
    assert!((outcome.rolled - 3.0).abs() < 0.1, "{}", outcome.rolled);
    let [open, wall] = outcome.led;
    assert!((open - 2.0).abs() < 1e-3 && (1.1..1.16).contains(&wall), "{open} {wall}");
}

#[test]
fn rebinding_a_held_key_presses_nothing() {
    let ticks = rebinding::run().unwrap();
    let pressed: Vec<Actions> = ticks.iter().map(|(_, intent)| intent.pressed).collect();
    assert_eq!(pressed, [Actions::JUMP, Actions::NONE, Actions::JUMP, Actions::NONE, Actions::DASH]);
    assert!(ticks[0].1.steer.x > 0.1 && ticks[1].1.steer.x == 0.0, "{:?}", ticks[0]);
    assert!(!ticks[3].1.held.contains(Actions::JUMP) && !ticks[3].1.held.contains(Actions::DASH));
}

#[test]
fn a_ball_stands_rolls_and_slides() {
    let outcome = rolling_ball::run(&mut Default::default()).unwrap();
    assert_eq!(outcome.crept, 0.0);
    let (distance, turned) = outcome.rolled;
    assert!(
        distance > 3.5 && (turned.abs() - distance / 0.4).abs() < 0.05 * distance,
        "{distance} m, {turned} radians"
    );
    assert!(outcome.slides > 5.0, "{}", outcome.slides);
}
