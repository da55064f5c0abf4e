//! Dash, roll, knockback, throw, root motion, and the host's own maneuvers.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Dash;
use rasant::state::Name;
use rasant::state::Owner;
use rasant::{
    Actions, Event, Gait, Geometry, Intent, Level, Mode, Mutes, Phase, Plan, Refusal, Tuning, Vector,
};

const DASH: fn() -> Intent = || Intent::default().pressing(Actions::DASH);
const RIGHT: fn() -> Intent = || Intent::steering(1.0, 0.0);

fn dasher() -> Tuning {
    let mut tuning = Tuning::default();
    tuning.dash.charges = 1.0;
    tuning.dash.end_speed = 0.0;
    tuning
}

fn standing<V: Geometry>(tuning: Tuning, level: &Level<V>, rate: u32) -> Run<V> {
    let mut run = Run::new(tuning, capsule(), V::ZERO, rate);
    run.body.find_footing(level);
    run
}

fn phases<V: Vector>(run: &Run<V>) -> Vec<(usize, Phase)> {
    let phase = |(tick, event): &(usize, Event<V>)| match event {
        Event::ManeuverPhase { phase, .. } => Some((*tick, *phase)),
        _ => None,
    };
    run.events.iter().filter_map(phase).collect()
}

fn refusals<V: Vector>(run: &Run<V>) -> Vec<Refusal> {
    let what = |(_, event): &(usize, Event<V>)| match event {
        Event::Refused { what } => Some(*what),
        _ => None,
    };
    run.events.iter().filter_map(what).collect()
}

#[test]
fn a_dash_covers_its_distance_in_its_time_at_any_tick_rate_and_speed_curve() {
    fn check<V: Geometry>(airborne: bool) {
        for rate in RATES {
            for curve in [0.0, 1.0, -0.5] {
                let mut tuning = dasher();
                tuning.dash.curve = curve;
                tuning.dash.startup = 0.07;
                tuning.walk.stop_time = 0.0;
                tuning.air.stop_time = 0.0;
                let level = floor::<V>(60.0);
                let mut run = standing(tuning, &level, rate);
                if airborne {
                    run.body.throw(V::UP * 0.5);
                }
                let start = run.body.position();
                let facing = run.body.state().facing;
                run.tick(&level, DASH());
                let state = run.body.state();
                assert_eq!(
                    (state.mode, state.velocity_owner),
                    (Mode::Move(Name::new("dash")), Owner::Maneuver)
                );
                assert_eq!(run.body.position(), start, "it holds still in its startup");
                run.run(&level, 0.4, Intent::default());
                let moved = (run.body.position() - start).dot(facing);
                assert!((moved - 3.5).abs() < 0.0035, "{moved} m at {rate} Hz, curve {curve}");
                let ticks: Vec<_> = phases(&run).iter().map(|&(tick, phase)| (phase, tick)).collect();
                let after = |seconds: f32| (seconds * rate as f32 - 1e-3).ceil() as usize - 1;
                assert_eq!(ticks[0], (Phase::Startup, 0));
                assert_eq!(ticks[1], (Phase::Active, after(0.07)), "{rate} Hz");
                assert_eq!(ticks[2], (Phase::Cooldown, after(0.07 + 0.18)), "{rate} Hz");
            }
        }
    }
    check::<Vec2>(false);
    check::<Vec3>(false);
    check::<Vec2>(true);
    check::<Vec3>(true);
}

#[test]
fn the_speed_of_a_dash_falls_off_by_its_curve_and_ends_at_its_end_speed() {
    let mut tuning = dasher();
    tuning.dash.curve = 0.5;
    tuning.dash.end_speed = 6.0;
    tuning.dash.recovery = 0.2;
    let level = floor::<Vec2>(60.0);
    let mut run = standing(tuning, &level, 240);
    run.tick(&level, DASH());
    let mean = 3.5 / 0.18;
    let mut seconds = 1.0 / 240.0;
    while phases(&run).len() == 1 {
        let expected = mean * (1.5 - seconds / 0.18);
        assert!((run.body.velocity().x - expected).abs() < 0.01 * mean);
        run.tick(&level, Intent::default());
        seconds += 1.0 / 240.0;
    }
    assert!((run.body.velocity().x - 6.0).abs() < 1e-4);
}

#[test]
fn a_dash_takes_the_body_up_a_slope_along_it_and_stops_at_a_wall() {
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([2.0, 0.0, 0.0], [3.0, 4.0, 0.0])]);
    let mut run = standing(dasher(), &level, 60);
    run.tick(&level, DASH());
    run.run(&level, 0.5, Intent::default());
    assert!((run.body.position().x - (2.0 - 0.35 - 0.005)).abs() < 1e-3);

    use crate::common::Slope;
    let level = Vec2::slope(30f32.to_radians());
    let mut run = standing(dasher(), &level, 60);
    run.tick(&level, DASH());
    run.run(&level, 0.5, Intent::default());
    let along = run.body.position().length();
    assert!((along - 3.5).abs() < 0.02, "{along} m along the slope");
}

#[test]
fn gravity_works_on_a_dash_only_when_set() {
    for gravity in [0.0, 1.0] {
        let mut tuning = dasher();
        tuning.dash.gravity = gravity;
        let level = floor::<Vec2>(9.0);
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 5.0, 60);
        run.tick(&level, Intent::default());
        let height = run.body.position().y;
        run.tick(&level, DASH());
        run.run(&level, 0.15, Intent::default());
        let fell = height - run.body.position().y;
        assert_eq!(fell > 0.2, gravity > 0.5, "fell {fell} m");
    }
}

#[test]
fn a_dash_is_aimed_by_steering_or_facing_and_to_eight_directions_if_set() {
    let aimed = |eight: f32, facing: f32, x: f32, y: f32| {
        let mut tuning = dasher();
        tuning.dash.eight_directions = eight;
        tuning.dash.by_facing = facing;
        let level = floor::<Vec2>(9.0);
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 5.0, 60);
        run.tick(&level, Intent::default());
        run.tick(&level, Intent::steering(x, y).pressing(Actions::DASH));
        run.body.velocity().normalize()
    };
    let close = |a: Vec2, x: f32, y: f32| (a - Vec2::new(x, y).normalize()).length() < 1e-4;
    assert!(close(aimed(0.0, 0.0, -1.0, 0.9), -1.0, 0.0), "a side view's steering is level");
    assert!(close(aimed(0.0, 0.0, 0.0, 0.0), 1.0, 0.0), "without it, where it faces");
    assert!(close(aimed(0.0, 1.0, -1.0, 0.0), 1.0, 0.0));
    for (x, y, to_x, to_y) in [(0.7, 0.6, 1.0, 1.0), (-0.9, 0.2, -1.0, 0.0), (0.1, -0.9, 0.0, -1.0)] {
        assert!(close(aimed(1.0, 0.0, x, y), to_x, to_y), "{x}, {y}");
    }
    // In three dimensions, a steered dash turns at its rate.
    let mut tuning = dasher();
    tuning.dash.turn = 300f32.to_radians();
    let level = floor::<Vec3>(60.0);
    let mut run = standing(tuning, &level, 60);
    run.tick(&level, RIGHT().pressing(Actions::DASH));
    run.run(&level, 0.1, Intent::steering(0.0, 1.0));
    let turned = Vec3::RIGHT.turn_to(run.body.velocity()).to_degrees();
    assert!((turned - 30.0).abs() < 6.0, "{turned} degrees after 0.1 s");
}

#[test]
fn dashes_run_out_aloft_and_come_back_by_standing_or_by_time() {
    let mut tuning = dasher();
    tuning.dash.charges = 3.0;
    tuning.dash.air_count = 2.0;
    tuning.dash.cooldown = 0.0;
    let level = floor::<Vec2>(200.0);
    let mut run = Run::new(tuning, capsule(), Vec2::Y * 40.0, 60);
    for _ in 0..3 {
        run.tick(&level, DASH());
        run.run(&level, 0.25, Intent::default());
    }
    assert_eq!(refusals(&run), [Refusal::new(Name::new("dash"), "air-limit")]);
    while run.body.state().mode != Mode::Grounded {
        run.tick(&level, Intent::default());
    }
    run.tick(&level, DASH());
    assert_eq!((refusals(&run).len(), run.body.state().memory::<Dash>().left(&run.body.tuning)), (1, 2));

    // By time alone.
    tuning.dash.from_ground = 0.0;
    tuning.dash.charges = 2.0;
    tuning.dash.recharge_time = 0.5;
    let mut run = standing(tuning, &level, 60);
    for _ in 0..3 {
        run.tick(&level, DASH());
        run.run(&level, 0.25, Intent::default());
    }
    // 0.8 s: one of the two has come back and was used.
    assert_eq!((refusals(&run), run.body.state().memory::<Dash>().left(&run.body.tuning)), (vec![], 0));
    run.tick(&level, DASH());
    assert_eq!(refusals(&run), [Refusal::new(Name::new("dash"), "empty")]);
    run.run(&level, 2.0, Intent::default());
    assert_eq!(run.body.state().memory::<Dash>().left(&run.body.tuning), 2);
}

#[test]
fn a_maneuver_rests_before_the_next_and_says_how_long() {
    let level = floor::<Vec3>(60.0);
    let mut run = standing(dasher(), &level, 60);
    run.tick(&level, DASH());
    run.run(&level, 0.3, Intent::default());
    run.tick(&level, DASH());
    let [Refusal { missed_by: Some(left), .. }] = refusals(&run)[..] else { panic!("{:?}", refusals(&run)) };
    assert!((left - (0.18 + 0.3 - 0.3)).abs() < 0.04, "{left} s left");
    run.run(&level, 0.2, Intent::default());
    run.tick(&level, DASH());
    assert_eq!(run.body.state().animation.gait, Gait::Move(Name::new("dash")));
}

fn roller() -> Tuning {
    let mut tuning = Tuning::default();
    tuning.roll.action = 2.0;
    tuning.roll.end_speed = 0.0;
    tuning.walk.stop_time = 0.0;
    tuning
}

#[test]
fn a_roll_is_low_covers_its_distance_and_mutes_inputs_by_phase() {
    fn check<V: Geometry>() {
        let roll = || RIGHT().pressing(Actions::own(2));
        let level = floor::<V>(60.0);
        let mut run = standing(roller(), &level, 60);
        run.tick(&level, roll());
        run.run(&level, 0.2, Intent::steering(-1.0, 0.0));
        assert_eq!(
            (run.body.state().animation.gait, run.body.present_hull().height()),
            (Gait::Move(Name::new("roll")), 0.9)
        );
        assert_eq!(run.body.state().facing_owner, Owner::Maneuver);
        assert!(run.body.velocity().component(0) > 0.0, "steering back does nothing");
        run.tick(&level, Intent::default().pressing(Actions::JUMP));
        assert_eq!(run.count("jumped"), 0, "nor does jumping");
        run.run(&level, 0.5, Intent::default());
        let moved = run.body.position().component(0);
        assert!((moved - 3.0).abs() < 0.003, "{moved} m");
        assert_eq!(run.body.present_hull().height(), 1.8);

        // A drive that does not lock the jump is broken off by one.
        let mut tuning = roller();
        tuning.roll.active_mutes = 5.0;
        let mut run = standing(tuning, &level, 60);
        run.tick(&level, roll());
        run.run(&level, 0.2, Intent::default());
        run.tick(&level, Intent::default().pressing(Actions::JUMP));
        assert_eq!((run.count("jumped"), run.body.state().maneuver), (1, None));
        assert_eq!(phases(&run).last().unwrap().1, Phase::Cooldown);

        // Not in the air.
        let mut run = Run::new(roller(), capsule(), V::UP * 5.0, 60);
        run.tick(&level, roll());
        assert_eq!(refusals(&run), [Refusal::new(Name::new("roll"), "no-footing")]);
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_roll_under_a_beam_ends_in_a_crouch_until_there_is_room() {
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([1.5, 1.2, 0.0], [6.0, 3.0, 0.0])]);
    let mut tuning = roller();
    tuning.roll.startup = 0.0;
    let mut run = standing(tuning, &level, 60);
    run.tick(&level, RIGHT().pressing(Actions::own(2)));
    run.run(&level, 1.0, Intent::default());
    assert!((run.body.position().x - 3.0).abs() < 0.01);
    assert!(run.body.state().crouched && run.body.present_hull().height() < 1.2);
    run.run(&level, 3.0, RIGHT());
    assert!(!run.body.state().crouched);
}

#[test]
fn knockback_takes_control_away_for_its_time_and_a_throw_does_not() {
    fn check<V: Geometry>() {
        let level = floor::<V>(60.0);
        let mut run = standing(Tuning::default(), &level, 60);
        run.body.knock_back(V::RIGHT * -5.0 + V::UP * 4.0, 0.5);
        for _ in 0..29 {
            run.tick(&level, RIGHT().pressing(Actions::JUMP));
            let state = run.body.state();
            assert!(run.body.velocity().component(0) <= 0.0);
            assert_eq!(
                (state.mode, state.velocity_owner),
                (Mode::Move(Name::new("knockback")), Owner::Maneuver)
            );
            assert_eq!(state.facing_owner, Owner::Maneuver);
        }
        assert_eq!(run.count("jumped"), 0);
        run.run(&level, 0.5, RIGHT());
        assert!(run.body.velocity().component(0) > 3.0);

        let mut run = standing(Tuning::default(), &level, 60);
        run.body.throw(V::UP * 10.0);
        run.run(&level, 0.3, RIGHT());
        assert_eq!(run.body.state().mode, Mode::Airborne);
        assert!(run.body.velocity().component(0) > 3.9, "in control");
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn root_motion_is_the_displacement_of_the_tick_and_collides_like_any_other() {
    fn check<V: Geometry>() {
        let level =
            blocks::<V>(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]), ([2.0, 0.0, -9.0], [3.0, 4.0, 9.0])]);
        let mut run = standing(Tuning::default(), &level, 60);
        for tick in 1..=10 {
            run.body.root_motion(V::RIGHT * 0.1);
            run.tick(&level, Intent::steering(-1.0, 0.0));
            assert!((run.body.position().component(0) - 0.1 * tick as f32).abs() < 1e-5);
            assert_eq!(run.body.state().velocity_owner, Owner::Maneuver);
        }
        for _ in 0..10 {
            run.body.root_motion(V::RIGHT * 0.4);
            run.tick(&level, Intent::default());
        }
        assert!((run.body.position().component(0) - (2.0 - 0.355)).abs() < 1e-3, "a wall is a wall");
        run.body.root_motion(V::UP * 0.5);
        run.tick(&level, Intent::default());
        assert!((run.body.position().height() - 0.505).abs() < 1e-4, "up is up");
        run.run(&level, 1.0, Intent::steering(-1.0, 0.0));
        assert!(run.body.velocity().component(0) < -3.9, "then the player is back in charge");
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_host_makes_its_own_maneuver_and_breaks_it_off() {
    let level = floor::<Vec3>(60.0);
    let plan = Plan {
        startup: 0.1,
        active: 0.3,
        recovery: 0.2,
        cooldown: 0.1,
        distance: 2.0,
        mutes: [Mutes::ALL; 3],
        ..Plan::default()
    };
    let mut run = standing(Tuning::default(), &level, 60);
    run.body.begin(Name::new("own-5"), plan, Vec3::X);
    run.run(&level, 0.5, Intent::default());
    assert_eq!(run.body.state().animation.gait, Gait::Move(Name::new("own-5")));
    assert!((run.body.position().x - 2.0).abs() < 0.002);
    assert!(run.body.state().maneuver.is_some());
    assert_eq!(run.body.state().mode, Mode::Move(Name::new("own-5")));
    run.run(&level, 0.2, Intent::default());
    assert_eq!(run.body.state().maneuver, None);

    let mut run = standing(Tuning::default(), &level, 60);
    run.body.begin(Name::new("own-5"), plan, Vec3::X);
    run.run(&level, 0.25, Intent::default());
    run.body.break_off();
    run.run(&level, 0.5, Intent::default());
    assert!(run.body.position().x < 1.5, "{}", run.body.position());
}

#[test]
fn two_bodies_of_different_tunings_share_a_level() {
    let level = floor::<Vec2>(60.0);
    let mut heavy = Tuning::default();
    heavy.walk.speed = 2.0;
    let (mut a, mut b) = (standing(Tuning::default(), &level, 60), standing(heavy, &level, 60));
    for _ in 0..60 {
        a.tick(&level, RIGHT());
        b.tick(&level, Intent::steering(-1.0, 0.0));
    }
    assert_eq!((a.body.velocity().x, b.body.velocity().x), (4.0, -2.0));
}

#[test]
fn the_debug_view_shows_contacts_timers_and_refusals_in_words() {
    let level = floor::<Vec2>(60.0);
    let mut tuning = dasher();
    tuning.jump.buffer_time = 0.0;
    let mut run = standing(tuning, &level, 60);
    let view = run.body.debug_view(&level);
    assert_eq!(view.contacts.len(), 1);
    assert!((view.contacts[0].gap - 0.005).abs() < 1e-4 && view.contacts[0].normal == Vec2::Y);
    run.tick(&level, Intent::default().pressing(Actions::JUMP));
    run.run(&level, 8.0 / 60.0, Intent::default().holding(Actions::JUMP));
    run.tick(&level, Intent::default().pressing(Actions::JUMP));
    let view = run.body.debug_view(&level);
    let words: Vec<String> = view.refusals.iter().map(ToString::to_string).collect();
    assert_eq!(words, ["jump refused: no footing, missed by 0.15 s"]);
    assert!(view.timers.iter().any(|timer| timer.name == "airborne for" && timer.seconds > 0.1));
    assert!(view.contacts.is_empty());
}

/// With gravity it falls from the edge on, without it continues level, at any rate.
#[test]
fn a_maneuver_off_an_edge_falls_from_there_if_gravity_works() {
    let hull = upright_box();
    let plan = Plan { active: 1.0, distance: 6.0, end_speed: 6.0, gravity: true, ..Plan::default() };
    let level = blocks::<Vec3>(&[([-9.0, -1.0, -9.0], [2.0, 0.0, 9.0])]);
    for rate in RATES {
        for gravity in [true, false] {
            let tuning = Tuning::default();
            let mut run = Run::new(tuning, hull, Vec3::ZERO, rate);
            run.body.find_footing(&level);
            run.body.begin(Name::new("own-0"), Plan { gravity, ..plan }, Vec3::X);
            let mut deepest = 0f32;
            for _ in 1..rate {
                run.tick(&level, Intent::default());
                let at = run.body.position() - Vec3::Y * hull.clearance();
                let past = at.x - hull.half_width() - 2.0;
                deepest = deepest.max(-at.y);
                if gravity && at.y < -0.1 {
                    let fell_over = 6.0 * (2.0 * -at.y / tuning.gravity()).sqrt();
                    let off = past - fell_over;
                    assert!((-1e-3..8e-3).contains(&off), "{off} m at {rate} Hz");
                }
            }
            assert!(run.body.position().x > 5.5, "{:?}", run.body.position());
            assert_eq!(deepest > 1.0, gravity, "{deepest} m deep at {rate} Hz");
        }
    }
}
