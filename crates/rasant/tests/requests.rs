//! What a host does to a body between two ticks, and what presses come to in the midst
//! of something.

use crate::common::{Dice, Run, capsule, floor};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::Dash;
use rasant::state::Name;
use rasant::{
    Actions, Bindings, Controller, Departure, DeviceEvent, Effect, Event, Face, Geometry, Hull, HullShape,
    Intent, Key, Layers, Level, Mode, Mutes, Phase, Piece, Plan, Press, Sampler, Steering, SurfaceId, Tuning,
    Zone,
};
use std::time::Duration;

const DT: f32 = 1.0 / 60.0;

fn own(active: f32) -> Plan {
    Plan { active, distance: 3.0, recovery: 0.2, mutes: [Mutes::ALL; 3], ..Plan::default() }
}

fn phases<V: Geometry>(events: &[Event<V>]) -> Vec<(Name, Phase)> {
    let phase = |event: &Event<V>| match event {
        Event::ManeuverPhase { name, phase } => Some((*name, *phase)),
        _ => None,
    };
    events.iter().filter_map(phase).collect()
}

fn wait<V: Geometry>(body: &mut Controller<V>, level: &Level<V>, ticks: usize, intent: &Intent) {
    for _ in 0..ticks {
        body.tick(intent, level, DT);
    }
}

fn standing<V: Geometry>(tuning: Tuning) -> (Controller<V>, Level<V>) {
    let level = floor(200.0);
    let mut body = Controller::new(tuning, capsule(), V::ZERO);
    body.find_footing(&level);
    (body, level)
}

fn left_the_ground<V: Geometry>(events: &[Event<V>]) -> bool {
    events.iter().any(|event| matches!(event, Event::LeftGround { by: Departure::Throw, of: None }))
}

fn thrown<V: Geometry>() {
    let (mut body, level) = standing::<V>(Tuning::default());
    // In the midst of a maneuver: that is broken off, and the throw holds.
    body.begin(Name::new("own-3"), own(1.0), V::RIGHT);
    assert_eq!(phases(body.tick(&Intent::default(), &level, DT)), [(Name::new("own-3"), Phase::Active)]);
    wait(&mut body, &level, 9, &Intent::default());
    body.throw(V::UP * 8.0 - V::RIGHT * 2.0);
    let events = body.tick(&Intent::default(), &level, DT).to_vec();
    assert_eq!(phases(&events), [(Name::new("own-3"), Phase::Cooldown)]);
    assert!(left_the_ground(&events), "{events:?}");
    assert!(
        body.velocity().dot(V::UP) > 7.0 && body.velocity().dot(V::RIGHT) < -1.5,
        "{:?}",
        body.velocity()
    );
    // Reported once.
    let events = body.tick(&Intent::default(), &level, DT).to_vec();
    assert!(!left_the_ground(&events) && phases(&events).is_empty(), "{events:?}");
    // Thrown again in the air, it leaves nothing.
    body.throw(V::UP * 5.0);
    assert!(!left_the_ground(body.tick(&Intent::default(), &level, DT)));
}

#[test]
fn a_throw_breaks_off_a_maneuver_and_is_reported() {
    thrown::<Vec2>();
    thrown::<Vec3>();
}

#[test]
fn maneuvers_from_outside_tell_their_beginning_and_their_end() {
    let (mut body, level) = standing::<Vec2>(Tuning::default());
    body.begin(Name::new("own-1"), own(1.0), Vec2::X);
    body.begin(Name::new("own-2"), own(1.0), Vec2::X);
    // The first never began.
    assert_eq!(phases(body.tick(&Intent::default(), &level, DT)), [(Name::new("own-2"), Phase::Active)]);
    body.begin(Name::new("own-1"), own(1.0), -Vec2::X);
    let events = [(Name::new("own-2"), Phase::Cooldown), (Name::new("own-1"), Phase::Active)];
    assert_eq!(phases(body.tick(&Intent::default(), &level, DT)), events);
    body.break_off();
    assert_eq!(phases(body.tick(&Intent::default(), &level, DT)), [(Name::new("own-1"), Phase::Cooldown)]);
    assert_eq!(body.state().mode, Mode::Grounded);
    body.begin(Name::new("own-1"), own(1.0), Vec2::X);
    body.break_off();
    assert!(body.tick(&Intent::default(), &level, DT).is_empty());
    // Hit on the ground, and off it.
    body.knock_back(Vec2::new(-4.0, 0.0), 0.3);
    let events = body.tick(&Intent::default(), &level, DT).to_vec();
    assert_eq!(phases(&events), [(Name::new("knockback"), Phase::Recovery)]);
    assert!(!left_the_ground(&events));
    body.knock_back(Vec2::new(-2.0, 5.0), 0.3);
    let events = body.tick(&Intent::default(), &level, DT).to_vec();
    assert_eq!(
        phases(&events),
        [(Name::new("knockback"), Phase::Cooldown), (Name::new("knockback"), Phase::Recovery)]
    );
    assert!(left_the_ground(&events));
}

#[test]
fn a_throw_off_a_ladder_leaves_the_ladder() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add_zone(Zone::new(
        Vec2::new(-0.3, 0.0),
        Vec2::new(0.3, 6.0),
        Effect::Ladder { front: Vec2::ZERO },
    ));
    let level = builder.build().unwrap();
    let mut body = Controller::new(Tuning::default(), capsule(), Vec2::ZERO);
    body.find_footing(&level);
    wait(&mut body, &level, 60, &Intent::steering(0.0, 1.0));
    assert_eq!(body.state().mode, Mode::Move(Name::new("ladder")));
    body.throw(Vec2::new(6.0, 2.0));
    let events = body.tick(&Intent::default(), &level, DT);
    assert!(events.iter().any(|event| matches!(event, Event::LadderLeft { .. })), "{events:?}");
}

#[test]
fn a_press_in_a_locked_windup_does_not_break_the_roll_off() {
    for (at, buffer) in [(1, 0.1), (4, 0.15), (6, 0.3)] {
        let mut tuning = Tuning::default();
        for (knob, value) in [
            ("roll.action", 0.0),
            ("roll.startup", 0.12),
            ("roll.active", 0.4),
            ("roll.active_mutes", 1.0),
            ("roll.distance", 3.0),
            ("jump.buffer_time", buffer),
        ] {
            tuning.set(knob, value).unwrap();
        }
        let (mut body, level) = standing::<Vec2>(tuning);
        body.tick(&Intent::default().pressing(Actions::own(0)), &level, DT);
        for tick in 1..40 {
            let press =
                if tick == at { Intent::default().pressing(Actions::JUMP) } else { Intent::default() };
            body.tick(&press, &level, DT);
        }
        assert!(body.position().x > 3.0, "pressed in tick {at}: {}", body.position());
        assert!(body.position().y < 0.01);
    }
    // In the drive, which does not lock it, a press breaks it off as before.
    let mut tuning = Tuning::default();
    for (knob, value) in [("roll.action", 0.0), ("roll.active", 0.4), ("roll.active_mutes", 1.0)] {
        tuning.set(knob, value).unwrap();
    }
    let (mut body, level) = standing::<Vec2>(tuning);
    body.tick(&Intent::default().pressing(Actions::own(0)), &level, DT);
    wait(&mut body, &level, 10, &Intent::default());
    body.tick(&Intent::default().pressing(Actions::JUMP), &level, DT);
    assert_eq!(body.state().mode, Mode::Airborne);
}

#[test]
fn a_coasting_body_rolls_in_its_direction() {
    for sign in [-1.0, 1.0] {
        let mut tuning = Tuning { face: Face::Host, ..Tuning::default() };
        for (knob, value) in [("roll.action", 0.0), ("walk.stop_time", 0.5)] {
            tuning.set(knob, value).unwrap();
        }
        let (mut body, level) = standing::<Vec2>(tuning);
        wait(&mut body, &level, 30, &Intent::steering(sign, 0.0));
        let from = body.position().x;
        body.tick(&Intent::default().pressing(Actions::own(0)), &level, DT);
        wait(&mut body, &level, 30, &Intent::default());
        assert!((body.position().x - from) * sign > 2.0, "{sign}: {from} to {}", body.position());
    }
}

/// In a world seen with that steering, for every direction of coasting.
fn coasts_in_any_direction<V: Geometry>(steering: Steering, level: &Level<V>) {
    let mut dice = Dice(8);
    for rate in [24, 61, 60, 144, 240] {
        let dt = 1.0 / rate as f32;
        let mut tuning = Tuning { face: Face::Host, steering, ..Tuning::default() };
        for (knob, value) in [("roll.action", 0.0), ("walk.stop_time", 0.5)] {
            tuning.set(knob, value).unwrap();
        }
        let displacement: Vec2 = dice.direction();
        let mut body = Controller::new(tuning, Hull::ball(0.4).unwrap(), V::ZERO);
        body.find_footing(level);
        for _ in 0..rate / 2 {
            body.tick(&Intent::steering(displacement.x, displacement.y), level, dt);
        }
        let (from, moves) = (body.position(), body.velocity().direction().unwrap());
        body.tick(&Intent::default().pressing(Actions::own(0)), level, dt);
        for _ in 0..rate / 2 {
            body.tick(&Intent::default(), level, dt);
        }
        let went = body.position() - from;
        let aside = (went - moves * went.dot(moves)).length();
        assert!(went.dot(moves) > 2.0 && aside < 0.01, "{steering:?} {displacement} at {rate}/s: {went:?}");
    }
}

#[test]
fn a_coasting_body_rolls_in_its_direction_in_every_view() {
    coasts_in_any_direction::<Vec2>(Steering::Plan, &Level::builder().build().unwrap());
    coasts_in_any_direction::<Vec3>(Steering::Usual, &floor(200.0));
    coasts_in_any_direction::<Vec3>(Steering::View, &floor(200.0));
}

#[test]
fn from_above_the_speed_is_that_over_the_plane() {
    let tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    let level = Level::<Vec2>::builder().build().unwrap();
    let mut dice = Dice(3);
    for _ in 0..24 {
        let displacement: Vec2 = dice.direction();
        let mut body = Controller::new(tuning, capsule(), Vec2::ZERO);
        let mut footfalls = 0;
        for _ in 0..90 {
            let events = body.tick(&Intent::steering(displacement.x, displacement.y), &level, DT);
            for event in events {
                if let Event::Footfall { surface } = event {
                    assert_eq!(*surface, None);
                    footfalls += 1;
                }
            }
        }
        assert!((body.state().ground_speed() - tuning.walk.speed).abs() < 1e-3, "{displacement}");
        assert!(footfalls > 3);
    }
}

/// The end of a dash that is steered up, in a side view.
fn turned_dash(turn: f32, up: f32, rate: u32) -> Vec2 {
    let mut tuning = Tuning::default();
    for (knob, value) in [
        ("dash.charges", 1.0),
        ("dash.distance", 4.0),
        ("dash.active", 0.25),
        ("dash.turn_deg", turn),
        ("dash.end_speed", 0.0),
    ] {
        tuning.set(knob, value).unwrap();
    }
    let (mut body, level) = standing::<Vec2>(tuning);
    let dt = 1.0 / rate as f32;
    body.tick(&Intent::steering(0.0, up).pressing(Actions::DASH), &level, dt);
    let mut ticks = 1;
    while body.state().maneuver.is_some() && (ticks as f32) * dt < 0.25 - 0.5 * dt {
        body.tick(&Intent::steering(0.0, up), &level, dt);
        ticks += 1;
    }
    body.position()
}

#[test]
fn a_dash_in_a_side_view_is_turned_up() {
    assert!(turned_dash(0.0, 1.0, 60).y < 0.01, "not without a rate");
    let fine = turned_dash(240.0, 1.0, 480);
    // A quarter of a circle at most, of the radius that speed and rate make.
    let radius = 4.0 / 0.25 / 240.0_f32.to_radians();
    let angle = 0.25 * 240.0_f32.to_radians();
    let arc = Vec2::new(angle.sin(), 1.0 - angle.cos()) * radius;
    assert!((fine - arc).length() < 0.1, "{fine} for {arc}");
    for rate in [24, 60, 144] {
        let end = turned_dash(240.0, 1.0, rate);
        assert!((end - fine).length() < 0.02, "{rate}: {end} for {fine}");
    }
    // Downward it meets the ground, and slides along it.
    assert!(turned_dash(240.0, -1.0, 60).y.abs() < 0.02);
}

#[test]
fn a_second_tap_during_a_hop_is_another_hop_or_refused() {
    for queue in [1.0, 0.0] {
        let mut tuning = Tuning { steering: Steering::Hop, ..Tuning::default() };
        tuning.set("hop.queue", queue).unwrap();
        let level = Level::<Vec2>::builder().build().unwrap();
        let mut walker = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        for tick in 0..60 {
            let taps = matches!(tick, 0 | 1 | 5 | 6);
            walker.tick(&level, if taps { Intent::steering(0.0, 1.0) } else { Intent::default() });
        }
        let hops = if queue > 0.0 { 2.0 } else { 1.0 };
        assert_eq!(walker.body.position(), Vec2::new(0.0, hops * tuning.hop.length), "queue {queue}");
        assert_eq!(walker.count("refused"), usize::from(queue == 0.0));
        // Held on, it is one tap.
        let mut walker = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        for tick in 0..60 {
            walker.tick(&level, if tick < 8 { Intent::steering(0.0, 1.0) } else { Intent::default() });
        }
        assert_eq!(walker.body.position(), Vec2::new(0.0, tuning.hop.length), "queue {queue}");
        assert_eq!(walker.count("refused"), 0);
    }
}

#[test]
fn counts_are_whole_wherever_they_are_counted() {
    for (count, expected) in [(0.4, 0), (1.4, 1), (1.6, 2), (2.5, 3)] {
        let mut tuning = Tuning::default();
        tuning.jump.air_count = count;
        let (mut body, level) = standing::<Vec2>(tuning);
        body.tick(&Intent::default().pressing(Actions::JUMP), &level, DT);
        let mut jumps = 0;
        for tick in 0..200 {
            let press =
                if tick % 8 == 7 { Intent::default().pressing(Actions::JUMP) } else { Intent::default() };
            let events = body.tick(&press, &level, DT);
            jumps += events.iter().filter(|event| matches!(event, Event::Jumped { .. })).count();
            if body.state().footing.is_firm() {
                break;
            }
        }
        assert_eq!(jumps, expected, "{count}");
        tuning.dash.charges = count;
        let (mut body, level) = standing::<Vec2>(tuning);
        body.tick(&Intent::default(), &level, DT);
        assert_eq!(usize::from(body.state().memory::<Dash>().left(&body.tuning)), expected, "{count}");
    }
}

#[test]
fn opposite_keys_cancel_each_other_unless_configured_otherwise() {
    let mut sampler = Sampler::new(Bindings::default());
    let key = |code: &str, press| DeviceEvent::Key(Key::named(code).unwrap(), press);
    let mut now = Duration::ZERO;
    let mut steer = |event| {
        sampler.event(now, event);
        now += Duration::from_millis(16);
        sampler.tick(now).steer.x
    };
    assert_eq!(steer(key("ArrowRight", Press::Down)), 1.0);
    assert_eq!(steer(key("ArrowLeft", Press::Down)), 0.0);
    assert_eq!(steer(key("ArrowRight", Press::Up)), -1.0);
}

#[test]
fn a_mesh_has_the_name_that_footings_tell() {
    let corners = [Vec3::new(-9.0, 0.0, -9.0), Vec3::new(-9.0, 0.0, 9.0), Vec3::new(9.0, 0.0, 0.0)];
    let mut builder = Level::builder();
    let lower = corners.map(|corner| corner - Vec3::Y * 5.0);
    let other = builder.add_mesh(&lower, &[[0, 1, 2]], SurfaceId::default(), Layers::GROUND).unwrap();
    let mesh = builder.add_mesh(&corners, &[[0, 1, 2]], SurfaceId::default(), Layers::GROUND).unwrap();
    let level = builder.build().unwrap();
    let mut body = Controller::new(Tuning::default(), Hull::ball(0.4).unwrap(), Vec3::ZERO);
    body.find_footing(&level);
    assert_eq!(body.state().footing.piece, mesh);
    assert_ne!(other, mesh);
}

/// What a body of that hull does on a course of everything that asks how high it is.
fn course<V: Geometry>(hull: Hull, start: V) -> Vec<(V, Vec<&'static str>)> {
    let mut builder = Level::<V>::builder();
    let block = |min: [f32; 3], max: [f32; 3]| Piece::block(V::from_array(min), V::from_array(max)).unwrap();
    for (min, max) in [
        ([-20.0, -1.0, -20.0], [40.0, 0.0, 20.0]),
        // A beam to crouch under, stairs, a landing with a ladder, a low ceiling.
        ([3.0, 1.3, -20.0], [4.5, 2.0, 20.0]),
        ([8.0, 0.0, -20.0], [9.0, 0.25, 20.0]),
        ([9.0, 0.0, -20.0], [10.0, 0.5, 20.0]),
        ([10.0, 0.0, -20.0], [13.0, 0.7, 20.0]),
        ([16.0, 2.8, -20.0], [22.0, 3.0, 20.0]),
    ] {
        builder.add(block(min, max));
    }
    let ladder = [[14.8, 0.0, -0.4], [16.0, 3.0, 0.4]].map(V::from_array);
    builder.add_zone(Zone::new(ladder[0], ladder[1], Effect::Ladder { front: V::RIGHT * -1.0 }));
    let level = builder.build().unwrap();
    let mut tuning = Tuning { steering: Steering::Usual, ..Tuning::default() };
    tuning.set("roll.action", 0.0).unwrap();
    let mut body = Controller::new(tuning, hull, start);
    body.find_footing(&level);
    let mut log = Vec::new();
    let look = rasant::Look { yaw: V::FORWARD.turn_to(V::RIGHT), pitch: 0.0 };
    for tick in 0..600 {
        let ahead = if V::DIMENSION == 3 { Intent::steering(0.0, 1.0) } else { Intent::steering(1.0, 0.0) };
        let mut intent = Intent { look, ..ahead };
        if (30..110).contains(&tick) {
            intent = intent.holding(Actions::CROUCH);
        }
        if tick == 150 || tick == 420 {
            intent = intent.pressing(Actions::JUMP);
        }
        if tick == 130 || tick == 500 {
            intent = intent.pressing(Actions::own(0));
        }
        let x = body.position().component(0);
        if V::DIMENSION == 2 && (14.9..15.4).contains(&x) && tick < 460 {
            intent.steer = rasant::glam::Vec2::new(0.0, 1.0);
        }
        let events = body.tick(&intent, &level, DT).iter().map(Event::name).collect();
        log.push((body.position(), events));
    }
    log
}

fn the_same_about_its_middle<V: Geometry>() {
    let ladders =
        |log: &[(V, Vec<&str>)]| log.iter().filter(|(_, events)| events.contains(&"ladder-grabbed")).count();
    let rounded = HullShape::Box { width: 0.6, depth: 0.6, height: 1.7, rounding: 0.1 };
    for hull in [capsule(), Hull::upright_box(0.5, 1.6).unwrap(), Hull::new(rounded).unwrap()] {
        let up = V::UP * (0.5 * hull.height());
        let (below, about) = (course::<V>(hull, V::ZERO), course::<V>(hull.centred(), up));
        assert!(ladders(&below) > 0 || V::DIMENSION == 3, "the course has a ladder");
        for events in ["crouched", "stood-up", "jumped", "maneuver-phase"] {
            assert!(below.iter().any(|(_, all)| all.contains(&events)), "{events} on the course");
        }
        for (tick, (below, about)) in below.iter().zip(&about).enumerate() {
            let apart = (about.0 - below.0 - up).length();
            assert!(apart < 2e-3, "{hull:?} in tick {tick}: {:?} and {:?}", below.0, about.0);
            assert_eq!(below.1, about.1, "{hull:?} in tick {tick}");
        }
    }
}

#[test]
fn a_body_about_its_middle_does_all_that_one_above_its_feet_does() {
    the_same_about_its_middle::<Vec2>();
    the_same_about_its_middle::<Vec3>();
}

fn led_off_a_ledge<V: Geometry>() {
    let mut builder = Level::<V>::builder();
    let block = |min: [f32; 3], max: [f32; 3]| Piece::block(V::from_array(min), V::from_array(max)).unwrap();
    builder.add(block([-9.0, -1.0, -9.0], [1.0, 0.0, 9.0]));
    builder.add(block([-9.0, -30.0, -9.0], [40.0, -20.0, 9.0]));
    let level = builder.build().unwrap();
    let start = |plan: Option<Plan>| {
        let mut body = Controller::new(Tuning::default(), capsule(), V::ZERO);
        body.find_footing(&level);
        if let Some(plan) = plan {
            body.begin(Name::new("own-1"), plan, V::RIGHT);
        }
        body
    };
    let steered = Intent::steering(-1.0, 0.0);
    let led = |body: &mut Controller<V>, displacement: V, ticks: usize| {
        let mut events = Vec::new();
        for _ in 0..ticks {
            body.root_motion(displacement);
            events.extend(body.tick(&steered, &level, DT).iter().map(Event::name));
        }
        events
    };
    // Along the ground and over its edge, where it falls as anybody would.
    let mut body = start(None);
    let facing = body.state().facing;
    let events = led(&mut body, V::RIGHT * 0.1, 60);
    assert!((body.position().component(0) - 6.0).abs() < 0.05, "{:?}", body.position());
    assert!(events.contains(&"left-ground"), "{events:?}");
    let fallen = -body.position().height();
    let gravity = Tuning::default().gravity();
    let airborne = body.state().air.unwrap().time.seconds();
    assert!((fallen - 0.5 * gravity * airborne * airborne).abs() < 0.3, "{fallen} in {airborne} s");
    assert_eq!(body.state().facing, facing);
    // Up it is led, and what keeps gravity off does.
    let mut body = start(None);
    led(&mut body, V::UP * 0.1, 20);
    assert!((body.position().height() - 2.0).abs() < 0.02, "{:?}", body.position());
    let floats = Plan { active: 5.0, mutes: [Mutes::ALL; 3], ..Plan::default() };
    let mut body = start(Some(floats));
    // (The round foot rolls down over the edge first.)
    led(&mut body, V::RIGHT * 0.1, 30);
    let height = body.position().height();
    led(&mut body, V::RIGHT * 0.1, 30);
    assert!(height > -0.1 && body.position().height() == height, "{:?}", body.position());
    assert_eq!(body.state().facing, if V::DIMENSION == 2 { facing } else { V::RIGHT });
}

#[test]
fn root_motion_off_a_ledge_falls_and_is_not_turned_by_steering() {
    led_off_a_ledge::<Vec2>();
    led_off_a_ledge::<Vec3>();
}

#[test]
fn a_ladder_before_a_wall_leads_onto_the_roof_and_down_again() {
    let rounded = Hull::new(HullShape::Box { width: 0.6, depth: 0.6, height: 1.7, rounding: 0.1 }).unwrap();
    let hulls = [capsule(), Hull::upright_box(0.6, 1.7).unwrap(), Hull::ball(0.4).unwrap(), rounded];
    for hull in hulls.into_iter().flat_map(|hull| [hull, hull.centred()]) {
        for (degrees, rate, deep) in [(0.0f32, 60, 0.9), (33.0, 24, 0.8), (117.3, 144, 1.2), (250.0, 61, 0.9)]
        {
            let spin = rasant::glam::Quat::from_rotation_y(degrees.to_radians());
            let out = spin * Vec3::Z;
            let mut builder = Level::<Vec3>::builder();
            builder.add(Piece::block(Vec3::new(-30.0, -1.0, -30.0), Vec3::new(30.0, 0.0, 30.0)).unwrap());
            let slope =
                Piece::turned_box(Vec3::Y * 2.0 - out * 40.0, Vec3::new(9.0, 2.0, 40.0), spin).unwrap();
            builder.add(slope);
            // Before the wall, up to the roof. (Zones lie along the axes: as wide as deep.)
            let middle = out * (0.5 * deep) + Vec3::Y * 2.0;
            let half = Vec3::new(0.5 * deep, 2.0, 0.5 * deep);
            builder.add_zone(Zone::new(middle - half, middle + half, Effect::Ladder { front: out }));
            let level = builder.build().unwrap();
            let tuning = Tuning { steering: Steering::View, ..Tuning::default() };
            let mut run = Run::new(tuning, hull, out * (0.5 * deep) + Vec3::Y * (hull.height() * 0.5), rate);
            run.body.find_footing(&level);
            let look = rasant::Look { yaw: degrees.to_radians(), pitch: 0.0 };
            let toward = |y: f32| Intent { look, ..Intent::steering(0.0, y) };
            let feet = |run: &Run<Vec3>| {
                let state = run.body.state();
                state.position.y + hull.middle::<Vec3>().y - 0.5 * hull.height()
            };
            let case = |run: &Run<Vec3>| {
                format!("{hull:?} at {degrees}, {rate}/s: {:?} {:?}", run.body.position(), run.events)
            };
            run.run(&level, 4.0, toward(1.0));
            let back = -run.body.position().dot(out);
            assert!(back > 0.5 && (feet(&run) - 4.0).abs() < 0.02, "up: {}", case(&run));
            assert_eq!((run.count("ladder-grabbed"), run.count("ladder-left")), (1, 1), "up: {}", case(&run));
            // Back to the edge, and down by the ladder.
            run.events.clear();
            run.run(&level, 8.0, toward(-1.0));
            let state = run.body.state();
            assert!(feet(&run).abs() < 0.02 && state.footing.is_firm(), "down: {}", case(&run));
            assert_eq!(
                (run.count("ladder-grabbed"), run.count("ladder-left")),
                (1, 1),
                "down: {}",
                case(&run)
            );
            let fastest = run.events.iter().filter_map(|(_, event)| match event {
                Event::Landed { speed, .. } => Some(*speed),
                _ => None,
            });
            assert!(fastest.fold(0.0, f32::max) < tuning.ladder.down_speed + 0.5, "down: {}", case(&run));
        }
    }
}

#[test]
fn a_respawn_is_reported_with_everything_that_it_breaks_off() {
    fn check<V: Geometry>() {
        let (mut body, level) = standing::<V>(Tuning::default());
        body.begin(Name::new("own-3"), Plan { active: 1.0, ..Plan::default() }, V::RIGHT);
        body.tick(&Intent::default(), &level, DT);
        body.respawn();
        let events = body.tick(&Intent::default(), &level, DT).to_vec();
        let name = Name::new("own-3");
        let chosen = [
            Event::ManeuverPhase { name, phase: Phase::Cooldown },
            Event::LeftGround { by: Departure::Throw, of: None },
            Event::Respawned,
        ];
        assert_eq!(events[..3], chosen, "{events:?}");
        let again = body.tick(&Intent::default(), &level, DT);
        assert!(!again.contains(&Event::Respawned), "it is reported once");
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn another_up_takes_feet_off_the_ground_and_is_reported() {
    let (mut body, level) = standing::<Vec2>(Tuning::default());
    body.tick(&Intent::default(), &level, DT);
    let flipped = body.state().with_up(-Vec2::Y);
    body.restore(flipped);
    let events = body.tick(&Intent::default(), &level, DT);
    assert_eq!(
        events.first(),
        Some(&Event::LeftGround { by: rasant::Departure::Throw, of: None }),
        "{events:?}"
    );
}

#[test]
fn only_a_jump_spins_and_on_higher_ground_the_spin_ends_evenly() {
    for rate in [30, 60, 144] {
        let dt = 1.0 / rate as f32;
        let mut tuning = Tuning::default();
        tuning.jump.spin = 360f32.to_radians();
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(1.0, 0.0)).unwrap());
        builder.add(Piece::block(Vec2::new(1.0, -1.0), Vec2::new(9.0, 1.2)).unwrap());
        let level = builder.build().unwrap();
        let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8).unwrap(), Vec2::ZERO);
        body.find_footing(&level);
        let held = Intent::steering(1.0, 0.0).holding(Actions::JUMP);
        body.tick(&held.pressing(Actions::JUMP), &level, dt);
        let (mut before, mut most) = (0.0, 0.0f32);
        for _ in 0..2 * rate {
            body.tick(&held, &level, dt);
            let spin = body.state().animation.spin;
            if spin != 0.0 {
                most = most.max(spin - before);
                assert!(spin >= before, "it never turns back");
            } else {
                most = most.max(std::f32::consts::TAU - before);
                break;
            }
            before = spin;
        }
        // Three times as quick as in the air at most, and no snap.
        let even = std::f32::consts::TAU * dt / 0.6;
        assert!(most < 3.5 * even, "{most} rad in a tick at {rate}");
        // Neither walking off an edge nor a throw spins.
        let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8).unwrap(), Vec2::ZERO);
        body.find_footing(&level);
        body.throw(Vec2::new(0.0, 5.0));
        for _ in 0..rate / 4 {
            body.tick(&Intent::default(), &level, dt);
            assert_eq!(body.state().animation.spin, 0.0);
        }
    }
}

#[test]
fn facing_turns_into_a_roll_at_the_turning_rate() {
    for rate in [30, 60, 144] {
        let mut tuning = Tuning::default();
        tuning.roll.action = 0.0;
        tuning.turn.rate = 180f32.to_radians();
        let (mut body, level) = standing::<Vec3>(tuning);
        let dt = 1.0 / rate as f32;
        body.tick(&Intent::default(), &level, dt);
        let mut before = body.state().facing;
        let roll = Intent::steering(1.0, 0.0).pressing(Actions::own(0));
        for tick in 0..rate / 2 {
            let intent = if tick == 0 { roll } else { Intent::steering(1.0, 0.0) };
            body.tick(&intent, &level, dt);
            let turned = before.angle_between(body.state().facing);
            assert!(turned <= tuning.turn.rate * dt * 1.01 + 1e-5, "{turned} rad in a tick at {rate}");
            before = body.state().facing;
        }
    }
}
