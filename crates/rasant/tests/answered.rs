//! Every press leads to one event: the action, or its refusal.

use crate::common::{Dice, Run, blocks, capsule};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Jump;
use rasant::state::{Name, Phase};
use rasant::{Actions, Effect, Event, Geometry, Intent, Level, Piece, Tuning, Zone};

const ROLL: Actions = Actions::own(0);
const SLAM: Actions = Actions::own(1);

/// All moves that the library has, with a buffer for presses of jump, or without.
fn everything(buffer: f32) -> Tuning {
    let mut tuning = Tuning::default();
    tuning.jump.buffer_time = buffer;
    tuning.jump.air_count = 1.0;
    tuning.wall.jump_height = 1.2;
    tuning.wall.slide_speed = 2.0;
    tuning.dash.charges = 2.0;
    tuning.roll.action = 0.0;
    tuning.slam.action = 1.0;
    tuning
}

/// A floor between walls, with platforms.
fn yard<V: Geometry>() -> Level<V> {
    blocks(&[
        ([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]),
        ([-9.0, 0.0, -9.0], [-4.0, 6.0, 9.0]),
        ([4.0, 0.0, -9.0], [9.0, 3.0, 9.0]),
        ([0.0, 2.0, -9.0], [2.0, 2.4, 9.0]),
    ])
}

/// What answers a press of jump: a jump, or a refusal of one.
fn answers_jump<V>(event: &Event<V>) -> bool {
    match event {
        Event::Jumped { .. } => true,
        Event::Refused { what } => what.action == "jump",
        _ => false,
    }
}

fn answers_dash<V>(event: &Event<V>) -> bool {
    match event {
        Event::ManeuverPhase { name, phase } => *name == "dash" && *phase == Phase::Active,
        Event::Refused { what } => what.action == "dash",
        _ => false,
    }
}

fn answers_slam<V>(event: &Event<V>) -> bool {
    let slam = Name::new("slam");
    match event {
        Event::MoveBegan { name } => *name == slam,
        Event::Refused { what } => what.action == slam,
        _ => false,
    }
}

fn answers_roll<V>(event: &Event<V>) -> bool {
    match event {
        Event::ManeuverPhase { name, phase } => *name == "roll" && *phase == Phase::Startup,
        Event::Refused { what } => what.action == "roll",
        _ => false,
    }
}

#[test]
fn every_press_has_one_answer() {
    fn check<V: Geometry>() {
        let level = yard::<V>();
        let mut presses = 0;
        for life in 0..240 {
            let mut dice = Dice(life);
            let rate = [24, 30, 60, 144][dice.below(4)];
            let buffer = [0.0, 0.04, 0.1, 0.3][dice.below(4)];
            let mut run = Run::new(everything(buffer), capsule(), V::RIGHT * dice.number(-3.0, 3.0), rate);
            let (mut held, mut steer) = (Actions::NONE, 0.0);
            let mut pressed = [0; 4];
            for _ in 0..rate * 6 {
                if dice.below(rate as usize / 6) == 0 {
                    steer = [-1.0, 0.0, 1.0][dice.below(3)];
                }
                let mut intent = Intent::steering(steer, 0.0);
                for (number, action) in [Actions::JUMP, Actions::DASH, SLAM, ROLL].into_iter().enumerate() {
                    if held.intersects(action) {
                        if dice.below(4) == 0 {
                            held = held.difference(action);
                            intent.released |= action;
                        }
                    } else if dice.below(rate as usize / 4) == 0 {
                        held |= action;
                        intent.pressed |= action;
                        pressed[number] += 1;
                    }
                }
                intent.held = held;
                run.tick(&level, intent);
            }
            // Presses that still wait get their result.
            run.run(&level, 0.5, Intent::default());
            let count = |answers: fn(&Event<V>) -> bool| {
                run.events.iter().filter(|(_, event)| answers(event)).count()
            };
            let answered =
                [count(answers_jump), count(answers_dash), count(answers_slam), count(answers_roll)];
            assert_eq!(answered, pressed, "life {life} at {rate}/s, a buffer of {buffer} s");
            presses += pressed.iter().sum::<usize>();
        }
        assert!(presses > 4000, "{presses}");
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// A press that waits while a ladder, a ledge or water takes the body gets a result as well.
#[test]
fn a_press_that_waits_is_answered_on_ladders_ledges_and_in_water() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -9.0), Vec2::new(-2.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(2.0, -9.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(-9.0, -10.0), Vec2::new(9.0, -9.0)).unwrap());
    builder.add_zone(Zone::new(
        Vec2::new(-0.5, -4.0),
        Vec2::new(0.5, 1.0),
        Effect::Ladder { front: Vec2::ZERO },
    ));
    builder.add_zone(Zone::new(Vec2::new(-2.0, -9.0), Vec2::new(2.0, -5.0), Effect::Water));
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default();
    (tuning.ledge.reach, tuning.jump.buffer_time) = (0.4, 0.4);
    for (from, steer) in [(0.0, [0.0, 1.0]), (1.4, [1.0, 0.0]), (-1.0, [0.0, 0.0])] {
        for rate in [30, 60, 144] {
            for early in [0.02, 0.1, 0.2, 0.3] {
                let mut run = Run::new(tuning, capsule(), Vec2::new(from, 1.0), rate);
                let hold = |run: &Run<Vec2>| run.count("ladder-grabbed") + run.count("move-began") > 0;
                run.run(&level, if from < 0.0 { 0.55 } else { 0.12 }, Intent::default());
                run.tick(&level, Intent::default().pressing(Actions::JUMP));
                run.run(&level, early, Intent::default());
                run.run(&level, 1.2, Intent::steering(steer[0], steer[1]));
                let answers = run.events.iter().filter(|(_, event)| answers_jump(event)).count();
                assert_eq!(answers, 1, "from {from} at {rate}/s, {early} s early, {}", hold(&run));
            }
        }
    }
}

#[test]
fn a_press_that_begins_a_glide_is_not_refused() {
    fn check<V: Geometry>() {
        let level = blocks::<V>(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0])]);
        let mut tuning = Tuning::default();
        tuning.glide.fall_speed = 1.0;
        for rate in [30, 60, 144] {
            for buffer in [0.0, 0.1] {
                for rises in [-2.0, 3.0] {
                    tuning.jump.buffer_time = buffer;
                    let mut run = Run::new(tuning, capsule(), V::UP * 4.0, rate);
                    run.body.throw(V::UP * rises);
                    run.tick(&level, Intent::default());
                    run.tick(&level, Intent::default().pressing(Actions::JUMP));
                    let holding = Intent { held: Actions::JUMP, ..Intent::default() };
                    run.run(&level, 0.8, holding);
                    assert_eq!(run.count("move-began"), 1);
                    assert_eq!(run.count("refused"), 0, "{rate}/s, a buffer of {buffer} s, {rises} m/s");
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// A press waits for as long as the buffer says, whatever the tick rate.
#[test]
fn a_press_is_accepted_as_early_as_the_buffer_says() {
    fn check<V: Geometry>() {
        let level = blocks::<V>(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0])]);
        let mut dice = Dice(4);
        for rate in [24, 30, 50, 60, 144, 240] {
            for buffer in [0.04, 0.08, 0.1, 0.15] {
                for _ in 0..40 {
                    let height = dice.number(0.6, 2.0);
                    let dt = 1.0 / rate as f32;
                    let mut tuning = Tuning::default();
                    tuning.jump.buffer_time = buffer;
                    let mut fall = Run::new(tuning, capsule(), V::UP * height, rate);
                    while fall.count("landed") == 0 {
                        fall.tick(&level, Intent::default());
                    }
                    // The moment of the landing, by the fall itself.
                    let gravity = tuning.gravity();
                    let falls_for = (2.0 * (height - capsule().clearance()) / gravity).sqrt();
                    for early in 0..12 {
                        let ticks = (falls_for / dt) as i32 - early;
                        if ticks < 1 {
                            continue;
                        }
                        let mut run = Run::new(tuning, capsule(), V::UP * height, rate);
                        for tick in 0..rate as i32 {
                            let press = if tick == ticks { Actions::JUMP } else { Actions::NONE };
                            run.tick(&level, Intent::default().pressing(press));
                        }
                        let waited = falls_for - ticks as f32 * dt;
                        let jumps = run.jumps();
                        if (waited - buffer).abs() > 2e-3 {
                            let expected = if waited < buffer { vec![Jump::GROUND] } else { vec![] };
                            assert_eq!(jumps, expected, "{rate}/s, {waited} s early of {buffer} s");
                        }
                    }
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// A jump in the air that is granted in mid-air can be used there, also by a press that waits.
#[test]
fn a_jump_granted_in_the_air_is_there_at_once() {
    let level = blocks::<Vec2>(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0])]);
    for waits in [false, true] {
        let mut tuning = Tuning::default();
        tuning.jump.buffer_time = 0.2;
        let mut run = Run::new(tuning, capsule(), Vec2::Y * 0.005, 60);
        run.body.find_footing(&level);
        run.tick(&level, Intent::default().pressing(Actions::JUMP));
        run.run(&level, 0.4, Intent::default());
        if waits {
            run.tick(&level, Intent::default().pressing(Actions::JUMP));
        }
        run.body.tuning.jump.air_count = 1.0;
        run.tick(&level, Intent::default().pressing(if waits { Actions::NONE } else { Actions::JUMP }));
        assert_eq!(run.jumps(), [Jump::GROUND, Jump::AIR], "waits: {waits}");
        let refused = run
            .events
            .iter()
            .any(|(_, e)| matches!(e, Event::Refused { what } if what.is("jump", "no-footing")));
        assert!(!refused);
    }
}
