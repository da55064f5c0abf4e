//! Speeds on foot (running, crouching, backwards, up and down slopes), and the facing meanwhile.

use crate::common::{RATES, Run, Slope, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::state::Name;
use rasant::state::Owner;
use rasant::{Actions, Event, Face, Gait, Geometry, Intent, Level, Look, Mode, Steering, Tuning, Vector};

fn on<V: Geometry>(level: &Level<V>, tuning: Tuning) -> Run<V> {
    let mut run = Run::new(tuning, capsule(), V::ZERO, 60);
    run.body.find_footing(level);
    run
}

fn speed_of<V: Geometry>(tuning: Tuning, intent: Intent) -> V {
    let level = floor::<V>(60.0);
    let mut run = on(&level, tuning);
    run.run(&level, 2.0, intent);
    run.body.velocity()
}

#[test]
fn each_gait_has_its_own_top_speed() {
    fn check<V: Geometry>() {
        let right = Intent::steering(1.0, 0.0);
        let tuning = Tuning::default();
        let speed = |intent| speed_of::<V>(tuning, intent).component(0);
        assert_eq!(speed(right), tuning.walk.speed);
        assert_eq!(speed(right.holding(Actions::RUN)), tuning.run.speed);
        assert_eq!(speed(right.holding(Actions::CROUCH)), tuning.crouch.speed);
        let mut inverted = tuning;
        inverted.walk.speed = -tuning.walk.speed;
        assert_eq!(speed_of::<V>(inverted, right).component(0), -tuning.walk.speed);
        assert_eq!(speed_of::<V>(inverted, right.holding(Actions::RUN)).component(0), -tuning.run.speed);
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn backwards_and_sideways_are_slower_if_set_and_measured_by_the_look() {
    let mut tuning = Tuning::default();
    tuning.walk.back = 0.5;
    tuning.walk.side = 0.75;
    for yaw in [0.0f32, 1.0, -2.5] {
        let looking = |x, y| Intent { look: Look { yaw, pitch: 0.0 }, ..Intent::steering(x, y) };
        let ahead = Vec3::FORWARD.turned(yaw);
        for (x, y, expected) in [(0.0, 1.0, 4.0), (0.0, -1.0, -2.0)] {
            let along = speed_of::<Vec3>(tuning, looking(x, y)).dot(ahead);
            assert!((along - expected).abs() < 1e-4, "{along} m/s, expected {expected}");
        }
        let right = speed_of::<Vec3>(tuning, looking(1.0, 0.0));
        assert!((right.length() - 3.0).abs() < 1e-4 && right.dot(ahead).abs() < 1e-4, "{right}");
    }
}

#[test]
fn hills_slow_and_hasten_by_their_rise_and_leave_the_motion_across_alone() {
    let angle = 30f32.to_radians();
    let mut tuning = Tuning::default();
    tuning.slope.uphill = 0.5;
    tuning.slope.downhill = 1.2;
    let fraction = angle.sin() / tuning.slope.max_angle.sin();
    let level = Vec3::slope(angle);
    for (x, y, factor) in
        [(1.0, 0.0, 1.0 - 0.5 * fraction), (-1.0, 0.0, 1.0 + 0.2 * fraction), (0.0, 1.0, 1.0)]
    {
        let mut run = on(&level, tuning);
        run.run(&level, 1.0, Intent::steering(x, y));
        let speed = run.body.velocity().length();
        assert!((speed - 4.0 * factor).abs() < 1e-3, "{speed} m/s steering {x}, {y}");
    }
}

#[test]
fn a_crouch_passes_low_ceilings_and_stands_up_where_there_is_room() {
    fn check<V: Geometry>() {
        // A beam 1.3 m above the floor, from 2 to 4 m.
        let level: Level<V> =
            blocks(&[([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]), ([2.0, 1.3, -9.0], [4.0, 3.0, 9.0])]);
        let right = Intent::steering(1.0, 0.0);
        for hull in [capsule(), upright_box()] {
            let mut run = Run::new(Tuning::default(), hull, V::ZERO, 60);
            run.body.find_footing(&level);
            run.run(&level, 1.5, right);
            assert!(run.body.position().component(0) < 2.0, "a standing body does not fit under the beam");
            run.run(&level, 1.0, right.holding(Actions::CROUCH));
            assert_eq!((run.count("crouched"), run.body.present_hull().height()), (1, 1.1));
            assert_eq!(run.body.state().animation.gait, Gait::Crouch);
            // Crouch is released under the beam: the body stays low, refuses, and stands up past
            // the beam.
            run.tick(&level, right.releasing(Actions::CROUCH));
            assert_eq!(run.count("refused"), 1);
            assert!((2.0..4.0).contains(&run.body.position().component(0)));
            run.run(&level, 0.1, right);
            assert!(run.body.state().crouched && run.body.velocity().component(0) <= 2.0);
            while run.body.state().crouched {
                run.tick(&level, right);
            }
            let at = run.body.position().component(0);
            assert!((4.0..4.5).contains(&at), "stood up at {at}");
            assert_eq!((run.count("stood-up"), run.body.present_hull().height()), (1, hull.height()));
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn footfalls_come_a_stride_apart_with_their_surface() {
    let level = floor::<Vec2>(60.0);
    let mut tuning = Tuning::default();
    tuning.walk.stride = 0.7;
    let mut run = on(&level, tuning);
    run.run(&level, 10.0, Intent::steering(1.0, 0.0));
    let falls = run.count("footfall");
    let expected = run.body.position().x / 0.7;
    assert!((falls as f32 - expected).abs() <= 1.0, "{falls} footfalls, expected {expected}");
    run.run(&level, 0.1, Intent::default());
    run.events.clear();
    run.run(&level, 1.0, Intent::default());
    assert_eq!(run.count("footfall"), 0, "standing makes none");
}

#[test]
fn letting_go_keeps_the_facing_and_turning_takes_the_shorter_way_at_the_rate() {
    for rate in RATES {
        let level = floor::<Vec3>(60.0);
        let mut tuning = Tuning::default();
        tuning.turn.rate = 90f32.to_radians();
        let mut run = Run::new(tuning, capsule(), Vec3::ZERO, rate);
        run.body.find_footing(&level);
        // From forward to 150 degrees to the right: clockwise, 1.667 s.
        let (x, y) = (150f32.to_radians().sin(), 150f32.to_radians().cos());
        run.run(&level, 1.0, Intent::steering(x, y));
        let facing = run.body.state().facing;
        let turned = Vec3::FORWARD.turn_to(facing).to_degrees();
        assert!((turned + 90.0).abs() < 0.05, "{turned} degrees after 1 s at {rate} Hz");
        run.run(&level, 0.5, Intent::default());
        assert_eq!(run.body.state().facing, facing);
        assert_eq!(run.body.state().facing_owner, Owner::Nobody);
    }
}

#[test]
fn a_soft_turn_halves_the_rest_every_half_life_at_any_tick_rate() {
    for rate in RATES {
        let level = floor::<Vec3>(60.0);
        let mut tuning = Tuning::default();
        tuning.turn.half_life = 0.2;
        let mut run = Run::new(tuning, capsule(), Vec3::ZERO, rate);
        run.body.find_footing(&level);
        run.run(&level, 0.6, Intent::steering(1.0, 0.0));
        let left = run.body.state().facing.turn_to(Vec3::RIGHT).to_degrees().abs();
        assert!((left - 90.0 / 8.0).abs() < 0.05, "{left} degrees left after three half-lives at {rate} Hz");
    }
}

#[test]
fn a_body_faces_its_steering_the_look_or_nothing_as_set() {
    let level = floor::<Vec3>(60.0);
    let intent = Intent { look: Look { yaw: 0.5, pitch: 0.0 }, ..Intent::steering(1.0, 0.0) };
    let faced = |face| {
        let mut run = on(&level, Tuning { face, ..Tuning::default() });
        run.run(&level, 0.2, intent);
        (run.body.state().facing, run.body.state().facing_owner)
    };
    let (by_steer, owner) = faced(Face::Course);
    assert!((by_steer - Vec3::RIGHT.turned(0.5)).length() < 1e-5 && owner == Owner::Walk);
    let (by_look, owner) = faced(Face::Eyes);
    assert!((by_look - Vec3::FORWARD.turned(0.5)).length() < 1e-5 && owner == Owner::Look);
    assert_eq!(faced(Face::Host), (Vec3::FORWARD, Owner::Nobody));
}

#[test]
fn turn_and_drive_moves_along_the_facing() {
    fn check<V: Geometry>(level: &Level<V>) {
        for rate in RATES {
            let mut tuning = Tuning { steering: Steering::Body, ..Tuning::default() };
            tuning.turn.rate = 1.0;
            tuning.walk.back = 0.5;
            let mut run = Run::new(tuning, capsule(), V::ZERO, rate);
            run.body.find_footing(level);
            let start = run.body.state().facing;
            run.run(level, 1.0, Intent::steering(0.5, 0.0));
            assert!(run.body.velocity().length() < 1e-6, "steering sideways only turns");
            let turned = start.turn_to(run.body.state().facing);
            assert!((turned + 0.5).abs() < 1e-3, "{turned} radians, right is clockwise, {rate} Hz");
            run.run(level, 1.0, Intent::steering(0.0, 1.0));
            let (velocity, facing) = (run.body.velocity(), run.body.state().facing);
            assert!((velocity - facing * 4.0).length() < 1e-3, "{velocity:?} along {facing:?}");
            run.run(level, 1.0, Intent::steering(0.0, -1.0));
            assert!((run.body.velocity() + run.body.state().facing * 2.0).length() < 1e-3);
        }
    }
    check(&floor::<Vec3>(60.0));
    check(&blocks::<Vec2>(&[([50.0, 50.0, 0.0], [51.0, 51.0, 0.0])]));
}

#[test]
fn walking_where_one_looks_begins_past_the_pitch() {
    let level = floor::<Vec3>(60.0);
    let tuning = Tuning { steering: Steering::Gaze, ..Tuning::default() };
    let speed = |pitch: f32, gaze: f32| {
        let mut tuning = tuning;
        tuning.turn.gaze = gaze.to_radians();
        let mut run = on(&level, tuning);
        run.run(
            &level,
            0.5,
            Intent { look: Look { yaw: 0.8, pitch: pitch.to_radians() }, ..Intent::default() },
        );
        run.body.velocity().dot(Vec3::FORWARD.turned(0.8))
    };
    assert_eq!(speed(-20.0, -25.0), 0.0);
    assert!((speed(-26.0, -25.0) - 4.0).abs() < 1e-4);
    assert!((speed(30.0, 25.0) - 4.0).abs() < 1e-4);
    assert_eq!(speed(20.0, 25.0), 0.0);
}

#[test]
fn a_body_seen_from_above_has_no_gravity_and_slides_along_walls() {
    // A wall whose side faces up the screen would be a floor in a side view.
    let level = blocks::<Vec2>(&[([-9.0, -3.0, 0.0], [9.0, -2.0, 0.0])]);
    for steering in [Steering::Plan, Steering::View] {
        let mut run = Run::new(Tuning { steering, ..Tuning::default() }, capsule(), Vec2::ZERO, 60);
        run.run(&level, 1.0, Intent::default());
        assert_eq!(run.body.position(), Vec2::ZERO, "nothing pulls");
        let diagonal = Intent::steering(1.0, -1.0);
        run.tick(&level, diagonal);
        assert_eq!(run.body.state().mode, Mode::Grounded);
        run.run(&level, 0.2, diagonal);
        assert!((run.body.velocity().length() - 4.0).abs() < 1e-4, "diagonals are no faster");
        run.run(&level, 1.0, diagonal);
        let velocity = run.body.velocity();
        assert!((velocity.x - 4.0 * 0.5f32.sqrt()).abs() < 1e-3 && velocity.y.abs() < 1e-4, "{velocity}");
        assert_eq!((run.count("wall-met"), run.count("landed")), (1, 0));
        run.tick(&level, Intent::default().pressing(Actions::JUMP));
        assert_eq!(run.count("jumped"), 0);
    }
}

#[test]
fn hops_are_whole_steps_exact_to_the_bit_at_any_tick_rate() {
    fn check<V: Geometry>(level: &Level<V>, rate: u32) {
        let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
        tuning.hop.length = 1.1;
        tuning.hop.time = 0.23;
        let mut run = Run::new(tuning, capsule(), V::RIGHT * 0.3, rate);
        run.body.find_footing(level);
        let ticks = (0.23 * rate as f32).ceil() as usize;
        let mut expected = 0.3f32;
        for steps in [1.0, 2.0, 1.0] {
            let mut intent = Intent::steering(1.0, 0.2);
            if steps == 2.0 {
                intent = intent.holding(Actions::RUN);
            }
            run.tick(level, intent);
            assert_eq!(run.body.state().animation.gait, Gait::Move(Name::new("hop")));
            for _ in 1..(ticks * steps as usize) {
                run.tick(level, Intent::default());
            }
            run.run(level, 0.1, Intent::default());
            expected += steps * 1.1;
            let at = run.body.position();
            assert_eq!(at.component(0), expected, "{steps} steps at {rate} Hz");
            assert_eq!(run.body.velocity(), V::ZERO);
        }
    }
    for rate in RATES {
        check(&floor::<Vec3>(60.0), rate);
        check(&blocks::<Vec2>(&[([50.0, 50.0, 0.0], [51.0, 51.0, 0.0])]), rate);
    }
}

#[test]
fn a_hop_waits_for_the_one_under_way_or_is_refused_and_never_starts_into_a_wall() {
    let level = blocks::<Vec2>(&[([-9.0, 1.5, 0.0], [0.5, 3.0, 0.0])]);
    for queue in [0.0, 1.0] {
        let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
        tuning.hop.queue = queue;
        let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        run.tick(&level, Intent::steering(1.0, 0.0));
        run.tick(&level, Intent::steering(0.0, -1.0)); // it turns
        run.run(&level, 0.5, Intent::default());
        let expected = if queue > 0.5 { Vec2::new(1.0, -1.0) } else { Vec2::new(1.0, 0.0) };
        assert_eq!(run.body.position(), expected);
        assert_eq!(run.count("refused"), usize::from(queue < 0.5));
    }
    let mut run =
        Run::new(Tuning { steering: Steering::Hop, ..Tuning::default() }, capsule(), Vec2::ZERO, 60);
    run.tick(&level, Intent::steering(0.0, 1.0));
    run.run(&level, 0.5, Intent::default());
    assert_eq!((run.body.position(), run.count("refused")), (Vec2::ZERO, 1));
    assert!(run.events.iter().all(|(_, event)| !matches!(event, Event::ManeuverPhase { .. })));
}

#[test]
fn the_arc_of_a_hop_is_drawn_and_is_flat_at_both_ends() {
    let level = floor::<Vec3>(9.0);
    let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
    tuning.hop.arc = 0.4;
    let mut run = on(&level, tuning);
    let mut highest = 0f32;
    run.tick(&level, Intent::steering(1.0, 0.0));
    assert!(run.body.pose(0.0).lift < 1e-6);
    for _ in 0..11 {
        highest = highest.max(run.body.pose(1.0).lift);
        run.tick(&level, Intent::default());
    }
    assert!((highest - 0.4).abs() < 0.02, "{highest}");
    run.run(&level, 0.1, Intent::default());
    assert_eq!(run.body.pose(1.0).lift, 0.0);
}

/// The same inputs reversed, in a life with every move.
#[test]
fn a_negative_walking_speed_inverts_every_move_alike() {
    use crate::common::Dice;
    use crate::common::lives::{any_intent, any_tuning};
    fn check<V: Geometry>(seed: u64) {
        let mut dice = Dice(seed);
        let mut tuning = any_tuning(&mut dice, V::DIMENSION);
        tuning.walk.speed = tuning.walk.speed.abs().max(1.0);
        // These tell forward from back by the controls.
        (tuning.walk.back, tuning.walk.side) = (1.0, 1.0);
        if tuning.steering == Steering::Gaze {
            tuning.steering = Steering::View;
        }
        let mut inverted = tuning;
        inverted.walk.speed = -tuning.walk.speed;
        let opposite = |intent: &Intent| {
            let Vec2 { x, y } = intent.steer;
            let steer = match tuning.steering.in_dimension(V::DIMENSION) {
                Steering::Side => Vec2::new(-x, y),
                Steering::Body => Vec2::new(x, -y),
                _ => Vec2::new(-x, -y),
            };
            Intent { steer, ..*intent }
        };
        for hull in [capsule(), upright_box()] {
            let mut level = crate::everything::town::<V>();
            let mut plain = rasant::Controller::new(tuning, hull, V::UP * 2.0);
            let mut other = rasant::Controller::new(inverted, hull, V::UP * 2.0);
            let mut intent = Intent::default();
            for tick in 0..900 {
                intent = any_intent(&mut dice, &intent);
                level.advance(1.0 / 60.0);
                plain.tick(&intent, &level, 1.0 / 60.0);
                other.tick(&opposite(&intent), &level, 1.0 / 60.0);
                let (is, was) = (other.state(), plain.state());
                // This ladder is climbed by the controls, up and down, which stay as they are.
                let by_controls = tuning.steering.in_dimension(V::DIMENSION) != Steering::Side;
                if by_controls
                    && (was.mode == Mode::Move(Name::new("ladder"))
                        || is.mode == Mode::Move(Name::new("ladder")))
                {
                    break;
                }
                let at = (seed, tick, tuning.steering, was.mode);
                assert_eq!((is.position, is.velocity), (was.position, was.velocity), "{at:?}");
                assert_eq!((is.facing, is.mode), (was.facing, was.mode), "{at:?}");
                assert_eq!(plain.events(), other.events(), "{at:?}");
            }
        }
    }
    for seed in 0..40 {
        check::<Vec2>(seed);
        check::<Vec3>(seed);
    }
}
