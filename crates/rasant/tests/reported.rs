//! Events of a body: each once, with its pair, at its time.

use crate::common::{RATES, Run, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Jump;
use rasant::state::Name;
use rasant::{
    Actions, Controller, Effect, Event, Gait, Geometry, Hull, Intent, Level, Mode, Piece, Plan, Tuning, Zone,
};

const JUMP: Actions = Actions::JUMP;

fn right() -> Intent {
    Intent::steering(1.0, 0.0)
}

fn standing<V: Geometry>(tuning: Tuning, level: &Level<V>, rate: u32) -> Run<V> {
    let mut run = Run::new(tuning, capsule(), V::ZERO, rate);
    run.body.find_footing(level);
    run
}

#[test]
fn a_ladder_above_the_floor_is_grabbed_from_a_jump() {
    for rate in RATES {
        for bottom in [0.95f32, 1.0, 1.4, 1.9] {
            let mut builder = Level::builder();
            builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
            let (low, high) = (Vec2::new(-0.3, bottom), Vec2::new(0.3, 6.0));
            builder.add_zone(Zone::new(low, high, Effect::Ladder { front: Vec2::ZERO }));
            let level = builder.build().unwrap();
            let mut run = standing(Tuning::default(), &level, rate);
            let up = Intent::steering(0.0, 1.0);
            run.run(&level, 0.5, up);
            assert_eq!(
                run.count("ladder-grabbed"),
                run.count("ladder-left"),
                "standing, {bottom} m at {rate}"
            );
            assert!(run.count("ladder-grabbed") <= 1, "{:?}", run.events);
            run.tick(&level, up.pressing(JUMP));
            run.run(&level, 1.5, up.holding(JUMP));
            assert_eq!(run.jumps(), [Jump::GROUND], "{bottom} m at {rate}");
            assert_eq!(
                run.body.state().mode,
                Mode::Move(Name::new("ladder")),
                "{bottom} m at {rate}: {:?}",
                run.body.position()
            );
            assert!(run.body.position().y > 2.0);
        }
    }
}

#[test]
fn being_put_back_is_not_blended() {
    fn check<V: Geometry>() {
        for rate in RATES {
            for hull in [capsule(), upright_box(), capsule().centred()] {
                let mut builder = Level::builder();
                let at = |x: f32, y: f32, z: f32| V::from_array([x, y, z]);
                builder.add(Piece::block(at(-9.0, -1.0, -9.0), at(9.0, 0.0, 9.0)).unwrap());
                builder.add_zone(Zone::new(at(5.0, -1.0, -9.0), at(6.0, 3.0, 9.0), Effect::Hazard));
                let level = builder.build().unwrap();
                let mut run = Run::new(Tuning::default(), hull, V::UP * 1.2, rate);
                while run.count("respawned") == 0 {
                    run.tick(&level, right());
                }
                let (now, half) = (run.body.pose(1.0).position, run.body.pose(0.5).position);
                assert!((now - half).length() < 0.01, "{now:?} and {half:?} at {rate}");
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_pose_is_between_two_ticks_whatever_the_blend() {
    let level = floor::<Vec2>(20.0);
    let mut run = standing(Tuning::default(), &level, 60);
    run.run(&level, 0.5, right());
    let at = |blend: f32| run.body.pose(blend).position.x;
    assert!(at(0.0) < at(0.5) && at(0.5) < at(1.0));
    assert_eq!((at(-3.0), at(7.0), at(f32::NAN)), (at(0.0), at(1.0), at(1.0)));
}

#[test]
fn a_press_waits_for_the_buffer_time_to_within_a_tick() {
    let level = floor::<Vec2>(20.0);
    for rate in [24u32, 30, 50, 60, 120, 144, 240] {
        let dt = 1.0 / rate as f32;
        for buffer in [0.02f32, 0.1, 0.15, 0.5] {
            let mut longest = 0.0f32;
            // Pressed a number of ticks before the landing.
            for early in 0..=(0.6 / dt) as usize {
                let mut tuning = Tuning::default();
                tuning.jump.buffer_time = buffer;
                let mut fall = Run::new(tuning, capsule(), Vec2::Y * 4.0, rate);
                let mut lands = 0;
                while fall.count("landed") == 0 {
                    fall.tick(&level, Intent::default());
                    lands += 1;
                }
                let mut run = Run::new(tuning, capsule(), Vec2::Y * 4.0, rate);
                for tick in 0..lands + 3 {
                    // The tick after that of the landing is the first that can take off.
                    let pressed = tick + early == lands;
                    run.tick(
                        &level,
                        if pressed { Intent::default().pressing(JUMP) } else { Intent::default() },
                    );
                }
                if !run.jumps().is_empty() {
                    longest = longest.max(early as f32 * dt);
                }
            }
            assert!((longest - buffer).abs() <= dt + 1e-4, "{buffer} s is {longest} s at {rate}");
            assert!(longest > 0.0 || buffer < dt, "{buffer} s at {rate}");
        }
    }
}

#[test]
fn after_a_roll_as_high_as_a_crouch_the_body_stands_up_or_reports_a_crouch() {
    fn check<V: Geometry>() {
        for rate in RATES {
            let mut tuning = Tuning::default();
            tuning.roll.action = 0.0;
            tuning.roll.height = tuning.crouch.height;
            let level = floor::<V>(40.0);
            let mut run = standing(tuning, &level, rate);
            run.run(&level, 0.3, right());
            run.tick(&level, right().pressing(Actions::own(0)));
            run.run(&level, 1.5, right());
            assert_eq!(run.body.state().posture.lowered, 0.0, "it stands up");
            assert!(!run.body.state().crouched);
            // With crouch held it crouches after it, and tells.
            run.events.clear();
            run.tick(&level, right().pressing(Actions::own(0)));
            run.run(&level, 1.5, right().holding(Actions::CROUCH));
            assert!(run.body.state().crouched && run.body.state().posture.lowered > 0.0);
            assert_eq!((run.count("crouched"), run.count("stood-up")), (1, 0), "{:?}", run.events);
            // A roll out of a crouch is no standing up.
            run.events.clear();
            run.tick(&level, right().holding(Actions::CROUCH).pressing(Actions::own(0)));
            run.run(&level, 0.2, right().holding(Actions::CROUCH));
            assert_eq!(run.count("stood-up"), 0, "{:?}", run.events);
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_press_has_one_result() {
    // Off a wall once too often, with a jump in the air left: it jumps, and refuses nothing.
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([1.0, 0.0, 0.0], [2.0, 30.0, 0.0])]);
    for rate in RATES {
        let mut tuning = Tuning::default();
        tuning.wall.slide_speed = 2.0;
        tuning.wall.jump_height = 1.5;
        tuning.wall.jump_away = 1.0;
        tuning.wall.in_a_row = 1.0;
        tuning.wall.back_time = 0.0;
        tuning.jump.air_count = 1.0;
        let mut run = standing(tuning, &level, rate);
        run.tick(&level, right().pressing(JUMP));
        for _ in 0..3 {
            run.run(&level, 0.6, right().holding(JUMP));
            run.tick(&level, right().pressing(JUMP));
        }
        let mut ticks: Vec<usize> = Vec::new();
        for (tick, event) in &run.events {
            if matches!(event, Event::Jumped { .. } | Event::Refused { .. }) {
                assert!(!ticks.contains(tick), "{rate}: {:?}", run.events);
                ticks.push(*tick);
            }
        }
    }
    // A roll during a roll: refused with the time that is left.
    let mut tuning = Tuning::default();
    tuning.roll.action = 0.0;
    let level = floor::<Vec2>(20.0);
    let mut run = standing(tuning, &level, 60);
    run.tick(&level, right().pressing(Actions::own(0)));
    run.run(&level, 0.1, right());
    run.tick(&level, right().pressing(Actions::own(0)));
    let refused = run.events.iter().find_map(|(_, event)| match event {
        Event::Refused { what } if what.is("roll", "cooldown") => what.missed_by,
        _ => None,
    });
    assert!(refused.is_some_and(|left| left > 0.3), "{refused:?}");
}

#[test]
fn the_stride_continues_over_short_stops() {
    fn check<V: Geometry>() {
        let level = floor::<V>(200.0);
        for rate in RATES {
            for stride in [0.5, 0.8, 1.3] {
                let mut tuning = Tuning::default();
                tuning.walk.stride = stride;
                let mut run = standing(tuning, &level, rate);
                let start = run.body.position();
                for _ in 0..30 {
                    run.run(&level, 0.2, right());
                    run.run(&level, 0.133, Intent::default());
                }
                let distance = (run.body.position() - start).length();
                let steps = run.count("footfall") as f32;
                assert!(
                    (steps - distance / stride).abs() <= 2.0,
                    "{steps} footfalls over {distance} m at {rate}"
                );
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn the_gait_is_never_idle_between_two_hops_or_while_turning_back() {
    for rate in [30, 60, 120] {
        let tuning = Tuning { steering: rasant::Steering::Hop, ..Tuning::default() };
        let level = floor::<Vec2>(40.0);
        let mut run = standing(tuning, &level, rate);
        run.tick(&level, right());
        for _ in 0..3 * rate {
            run.tick(&level, right());
            assert_ne!(run.body.state().animation.gait, Gait::Idle, "between hops at {rate}");
        }
        let mut tuning = Tuning::default();
        tuning.walk.turn_time = 3.0 / rate as f32;
        tuning.walk.reach_time = 3.0 / rate as f32;
        let mut run = standing(tuning, &level, rate);
        run.run(&level, 0.5, right());
        for _ in 0..rate {
            run.tick(&level, Intent::steering(-1.0, 0.0));
            assert_ne!(run.body.state().animation.gait, Gait::Idle, "turning back at {rate}");
        }
    }
}

#[test]
fn a_dash_up_from_the_floor_tells_each_thing_once() {
    for rate in RATES {
        for gravity in [0.0, 1.0] {
            for ceiling in [3.0f32, 20.0] {
                let mut tuning = Tuning::default();
                tuning.dash.charges = 1.0;
                tuning.dash.eight_directions = 1.0;
                tuning.dash.gravity = gravity;
                tuning.dash.startup = 0.1;
                let level = blocks::<Vec2>(&[
                    ([-20.0, -1.0, 0.0], [20.0, 0.0, 0.0]),
                    ([-20.0, ceiling, 0.0], [20.0, ceiling + 1.0, 0.0]),
                ]);
                let mut run = standing(tuning, &level, rate);
                run.run(&level, 0.2, Intent::default());
                let start = run.body.position().y;
                run.tick(&level, Intent::steering(0.0, 1.0).pressing(Actions::DASH));
                let mut highest = 0.0f32;
                for _ in 0..2 * rate {
                    run.tick(&level, Intent::default());
                    highest = highest.max(run.body.position().y - start);
                }
                let events = |name: &str| run.count(name);
                let what = format!("gravity {gravity}, ceiling {ceiling} at {rate}: {:?}", run.events);
                assert!(highest > 1.0, "{highest} m; {what}");
                assert_eq!(events("left-ground"), 1, "{what}");
                assert_eq!(events("landed"), 1, "{what}");
                assert!(events("apex") <= 1 && events("bumped-head") <= 1, "{what}");
            }
        }
    }
}

/// A maneuver against gravity throws the body up: it leaves the ground once and lands once, and
/// continues along the ground. Under an overhang into which it is pressed, it never leaves the
/// ground.
#[test]
fn a_maneuver_that_leads_up_leaves_the_ground_once_or_never() {
    // Its upper edge is closer to a body that comes up to it.
    const CORNERS: [Vec2; 4] =
        [Vec2::new(3.0, 0.0), Vec2::new(2.0, 3.0), Vec2::new(5.0, 3.0), Vec2::new(5.0, 0.0)];
    fn check<V: Geometry>(wall: fn() -> Piece<V>) {
        for (rate, angle) in
            RATES.into_iter().flat_map(|rate| [3.0f32, 11.0, 24.0, 37.0].map(|it| (rate, it)))
        {
            for hull in [capsule(), upright_box(), Hull::ball(0.5).unwrap(), capsule().centred()] {
                for (gravity, overhang) in [(true, false), (true, true), (false, true)] {
                    let at = |x: f32, y: f32, z: f32| V::from_array([x, y, z]);
                    let mut builder = Level::builder();
                    builder.add(Piece::block(at(-9.0, -1.0, -9.0), at(9.0, 0.0, 9.0)).unwrap());
                    if overhang {
                        builder.add(wall());
                    }
                    let level = builder.build().unwrap();
                    let mut run = Run::new(Tuning::default(), hull, V::ZERO, rate);
                    run.body.find_footing(&level);
                    run.run(
                        &level,
                        if overhang { 1.5 } else { 0.1 },
                        if overhang { right() } else { Intent::default() },
                    );
                    run.events.clear();
                    let plan = Plan { startup: 0.1, active: 0.6, distance: 3.0, gravity, ..Plan::default() };
                    let (sine, cosine) = angle.to_radians().sin_cos();
                    run.body.begin(Name::new("own-9"), plan, at(cosine, sine, 0.0));
                    run.run(&level, 1.0, Intent::default());
                    let times = run.count("left-ground");
                    let what =
                        format!("{hull:?} up {angle} at {rate}, {gravity} {overhang}: {:?}", run.events);
                    assert_eq!(times, run.count("landed"), "{what}");
                    assert!(times <= 1, "{what}");
                }
            }
        }
    }
    check::<Vec2>(|| Piece::polygon(&CORNERS).unwrap());
    check::<Vec3>(|| {
        Piece::solid(&CORNERS.map(|corner| [corner.extend(-4.0), corner.extend(4.0)]).concat()).unwrap()
    });
}

#[test]
fn wall_grace_runs_out_on_a_ladder() {
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(0.6, 0.0), Vec2::new(2.0, 4.0)).unwrap());
    builder.add_zone(Zone::new(
        Vec2::new(-0.3, 0.0),
        Vec2::new(0.5, 12.0),
        Effect::Ladder { front: Vec2::ZERO },
    ));
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default();
    tuning.wall.jump_height = 1.5;
    tuning.ladder.jump_height = 0.0;
    let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8).unwrap(), Vec2::new(0.2, 0.0));
    body.find_footing(&level);
    let mut run = Run { body, rate: 60, events: Vec::new(), ticks: 0 };
    run.tick(&level, right().pressing(JUMP));
    run.run(&level, 0.15, right().holding(JUMP));
    run.run(&level, 4.0, Intent::steering(0.0, 1.0));
    assert!(run.body.position().y > 6.0, "{:?}", run.body.position());
    run.events.clear();
    run.tick(&level, Intent::default().pressing(JUMP)); // lets go
    run.tick(&level, Intent::default());
    run.tick(&level, Intent::default().pressing(JUMP));
    assert!(run.jumps().is_empty(), "no wall is near");
}

/// The state names the piece of the wall that a body walks into, slides down, or was beside last, as
/// the event does.
#[test]
fn the_state_names_the_piece_of_the_wall() {
    fn names<V: Geometry>(rate: u32) {
        let corner = |x: f32, y: f32| V::from_array([x, y, -3.0]);
        let far = |x: f32, y: f32| V::from_array([x, y, 3.0]);
        let mut builder = Level::builder();
        builder.add(Piece::block(corner(-9.0, -1.0), far(9.0, 0.0)).unwrap());
        let low = builder.add(Piece::block(corner(2.0, 0.0), far(3.0, 4.0)).unwrap());
        let high = builder.add(Piece::block(corner(2.0, 4.0), far(3.0, 12.0)).unwrap());
        let level = builder.build().unwrap();
        let mut tuning = Tuning::default();
        (tuning.wall.slide_speed, tuning.wall.by_touch) = (2.0, 1.0);
        let mut run = standing(tuning, &level, rate);
        run.run(&level, 1.5, right());
        let met = run.events.iter().find_map(|(_, event)| match event {
            Event::WallMet { piece, .. } => Some(*piece),
            _ => None,
        });
        let beside = run.body.state().touching.beside.unwrap();
        assert_eq!((met, beside.piece), (Some(low), low), "{rate}/s");
        // From above, along the upper piece and then the lower one.
        run.body.restore(rasant::State::at(V::from_array([1.5, 8.0, 0.0])));
        let mut pieces = Vec::new();
        for _ in 0..5 * rate {
            run.tick(&level, right());
            if let Some(wall) = run.body.state().touching.beside.filter(|wall| wall.away_for == 0.0) {
                pieces.push(wall.piece);
            }
        }
        pieces.dedup();
        assert_eq!(pieces, [high, low], "{rate}/s");
    }
    for rate in RATES {
        names::<Vec2>(rate);
        names::<Vec3>(rate);
    }
}
