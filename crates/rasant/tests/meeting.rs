//! What bodies of a crowd do to each other: dash, push, carry, crush, and stand on each other.

use crate::common::{Dice, Slope, blocks, capsule, cube, floor, hulls};
use rasant::crowd::{BodyId, CrowdError, DashMeets, WithBodies};
use rasant::glam::{Vec2, Vec3};
use rasant::{
    Actions, Carrier, Controller, Crowd, CrowdBody, Effect, Event, Geometry, Hull, HullShape, Intent,
    Keyframe, Level, Mode, PathEnd, Piece, Steering, Tuning, Vector, Zone,
};

const DT: f32 = 1.0 / 60.0;

fn at<V: Vector>(x: f32, y: f32, z: f32) -> V {
    V::from_array([x, y, z])
}

fn add<V: Geometry>(crowd: &mut Crowd<V>, level: &Level<V>, mut body: CrowdBody<V>) -> BodyId {
    body.body.find_footing(level);
    crowd.add(body).unwrap()
}

fn person<V: Geometry>(place: V) -> CrowdBody<V> {
    CrowdBody::new(Tuning::default(), capsule(), place)
}

fn run<V: Geometry>(
    crowd: &mut Crowd<V>,
    level: &mut Level<V>,
    ticks: usize,
    mut intent: impl FnMut(BodyId, usize) -> Intent,
) {
    for tick in 0..ticks {
        level.advance(DT);
        crowd.tick(&*level, DT, |id, _| intent(id, tick));
    }
}

#[test]
fn a_dash_stops_at_passes_or_pushes_another_body() {
    fn dash<V: Geometry>(dash: DashMeets, hull: Hull, rate: u32) -> [f32; 2] {
        let level = floor::<V>(50.0);
        let mut crowd = Crowd::new();
        let body = |x: f32| CrowdBody::new(Tuning::default(), hull, at::<V>(x, 0.0, 0.0));
        let mut runner = CrowdBody { dash, ..body(0.0) };
        runner.body.tuning.dash.charges = 1.0;
        runner.body.tuning.dash.distance = 4.0;
        let runner = add(&mut crowd, &level, runner);
        let other = add(&mut crowd, &level, body(1.6));
        for tick in 0..rate {
            crowd.tick(&level, 1.0 / rate as f32, |id, _| match (id == runner, tick) {
                (true, 5) => Intent::steering(1.0, 0.0).pressing(Actions::DASH),
                _ => Intent::default(),
            });
        }
        [runner, other].map(|id| crowd[id].body.position().to_array()[0])
    }
    fn check<V: Geometry>(hull: Hull, rate: u32) {
        let case = format!("{hull:?} at {rate}/s");
        let kept = 2.0 * (hull.half_width() + hull.clearance());
        let [runner, other] = dash::<V>(DashMeets::Stop, hull, rate);
        assert!((runner - (1.6 - kept)).abs() < 0.02 && other == 1.6, "stop: {runner} {other}, {case}");
        let [runner, other] = dash::<V>(DashMeets::Pass, hull, rate);
        assert!(runner > 3.0 && other == 1.6, "pass: {runner} {other}, {case}");
        let [runner, other] = dash::<V>(DashMeets::Push, hull, rate);
        assert!(runner > 3.0 && (other - runner - kept).abs() < 0.1, "push: {runner} {other}, {case}");
    }
    for hull in hulls() {
        for rate in [30, 60, 144] {
            check::<Vec2>(hull, rate);
            check::<Vec3>(hull, rate);
        }
    }
}

#[test]
fn a_dash_that_ends_inside_another_body_separates_the_two() {
    for distance in [1.2, 1.5, 1.8] {
        let mut level = floor::<Vec3>(50.0);
        let mut crowd = Crowd::new();
        let mut runner = CrowdBody { dash: DashMeets::Pass, ..person(Vec3::ZERO) };
        runner.body.tuning.dash.charges = 1.0;
        runner.body.tuning.dash.distance = distance;
        let runner = add(&mut crowd, &level, runner);
        let other = add(&mut crowd, &level, person(Vec3::X * 1.5));
        run(&mut crowd, &mut level, 90, |id, tick| match (id == runner, tick) {
            (true, 5) => Intent::steering(1.0, 0.0).pressing(Actions::DASH),
            _ => Intent::default(),
        });
        let apart = (crowd[runner].body.position() - crowd[other].body.position()).length();
        assert!(apart >= 0.7, "{apart} m apart after a dash of {distance} m");
        let moves = [runner, other].iter().any(|&id| crowd[id].body.velocity().length() > 0.01);
        assert!(!moves, "they stand");
    }
}

#[test]
fn a_respawned_body_passes_through_others_for_a_time() {
    for seconds in [0.0f32, 1.0] {
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0)).unwrap());
        let hazard = Zone::new(Vec2::new(5.0, 0.0), Vec2::new(6.0, 2.0), Effect::Hazard);
        builder.add_zone(hazard);
        let place = Effect::CheckpointAt { place: Vec2::ZERO };
        builder.add_zone(Zone::new(Vec2::new(-1.0, 0.0), Vec2::new(1.0, 2.0), place));
        let mut level = builder.build().unwrap();
        let mut crowd = Crowd::new();
        let ghost = CrowdBody { passes_after_respawn: seconds, ..person(Vec2::ZERO) };
        let ghost = add(&mut crowd, &level, ghost);
        let right = |id| Intent::steering(if id == ghost { 1.0 } else { 0.0 }, 0.0);
        // It walks into the hazard, and another body comes to stand before the checkpoint.
        let mut respawned = false;
        while !respawned {
            run(&mut crowd, &mut level, 1, |id, _| right(id));
            respawned = crowd.events(ghost).contains(&Event::Respawned);
            assert!(crowd[ghost].body.position().x < 6.0, "the hazard returns it");
        }
        assert_eq!(crowd[ghost].passes_for, seconds);
        let other = add(&mut crowd, &level, person(Vec2::X * 1.5));
        run(&mut crowd, &mut level, 50, |id, _| right(id));
        let passed = crowd[ghost].body.position().x > 1.5;
        assert_eq!(passed, seconds > 0.0, "{}", crowd[ghost].body.position());
        assert_eq!(crowd[other].body.position().x, 1.5);
        // After that time it is stopped from either side.
        run(&mut crowd, &mut level, 40, |_, _| Intent::default());
        let side = if passed { 1.0 } else { -1.0 };
        run(&mut crowd, &mut level, 120, |id, _| {
            Intent::steering(if id == ghost { -side } else { 0.0 }, 0.0)
        });
        let stopped = 1.5 + 0.71 * side;
        assert!((crowd[ghost].body.position().x - stopped).abs() < 0.02, "{}", crowd[ghost].body.position());
    }
}

#[test]
fn layers_and_masks_decide_who_meets_whom() {
    use rasant::Layers;
    for (one, other, meets) in [
        ((Layers::only(1), Layers::ALL), (Layers::only(2), Layers::ALL), true),
        ((Layers::only(1), Layers::only(2)), (Layers::only(2), Layers::only(1)), true),
        ((Layers::only(1), Layers::only(1)), (Layers::only(2), Layers::ALL), false),
        ((Layers::only(1), Layers::ALL), (Layers::only(2), Layers::only(2)), false),
    ] {
        let mut level = floor::<Vec2>(50.0);
        let mut crowd = Crowd::new();
        let walker = CrowdBody { layers: one.0, mask: one.1, ..person(Vec2::ZERO) };
        let walker = add(&mut crowd, &level, walker);
        add(&mut crowd, &level, CrowdBody { layers: other.0, mask: other.1, ..person(Vec2::X * 2.0) });
        run(&mut crowd, &mut level, 90, |id, _| {
            if id == walker { Intent::steering(1.0, 0.0) } else { Intent::default() }
        });
        assert_eq!(crowd[walker].body.position().x < 1.5, meets, "{one:?} {other:?}");
    }
}

#[test]
fn events_and_the_state_name_the_other_body() {
    let level = floor::<Vec3>(50.0);
    let mut crowd = Crowd::new();
    let walker = add(&mut crowd, &level, person(Vec3::ZERO));
    let other = add(&mut crowd, &level, person(Vec3::X * 2.0));
    let jumper = crowd.add(person(Vec3::new(-4.0, 3.0, 0.0))).unwrap();
    let below = add(&mut crowd, &level, CrowdBody::crate_of(50.0, cube(1.0), Vec3::X * -4.0));
    let mut met = Vec::new();
    let mut landed = Vec::new();
    for _ in 0..90 {
        crowd.tick(&level, DT, |id, _| Intent::steering(if id == walker { 1.0 } else { 0.0 }, 0.0));
        for event in crowd.events(walker) {
            if let Event::WallMet { piece, .. } = event {
                met.push(piece.body());
            }
        }
        for event in crowd.events(jumper) {
            if let Event::Landed { piece, .. } = event {
                landed.push(piece.body());
            }
        }
    }
    assert_eq!((met, landed), (vec![Some(other)], vec![Some(below)]));
    assert_eq!(crowd[jumper].body.state().footing.piece.body(), Some(below));
    assert_eq!(crowd[walker].body.state().touching.beside.map(|wall| wall.piece.body()), Some(Some(other)));
    assert_eq!(crowd.touching(other).map(|contact| contact.other).collect::<Vec<_>>(), [walker]);
    let contact = crowd.touching(walker).next().unwrap();
    assert!(contact.normal.x < -0.999 && contact.gap > 0.0 && contact.gap < 0.015, "{contact:?}");
}

#[test]
fn a_body_on_another_one_rides_jumps_off_and_falls_when_that_is_removed() {
    fn ride<V: Geometry>(hull: Hull) {
        let mut level = floor::<V>(50.0);
        let mut crowd = Crowd::new();
        let mut table = CrowdBody::new(Tuning::default(), cube(1.2), at::<V>(0.0, 0.0, 0.0));
        table.body.tuning.jump.height = 1.0;
        let below = add(&mut crowd, &level, table);
        let rider = CrowdBody::new(Tuning::default(), hull, at::<V>(0.0, 1.3, 0.0));
        let jump = rider.body.tuning.jump.height;
        let rider = crowd.add(rider).unwrap();
        run(&mut crowd, &mut level, 30, |_, _| Intent::default());
        let start = crowd[rider].body.position() - crowd[below].body.position();
        assert_eq!(crowd[rider].body.state().footing.piece.body(), Some(below));
        run(&mut crowd, &mut level, 60, |id, _| Intent::steering(if id == below { 0.5 } else { 0.0 }, 0.0));
        let rode = crowd[rider].body.position() - crowd[below].body.position();
        assert!((rode - start).length() < 1e-4, "{start:?} {rode:?}");
        assert!(crowd[below].body.position().to_array()[0] > 1.5);
        // It jumps as high above the box as above the ground, and lands on the box again.
        let mut top = 0.0f32;
        for tick in 0..90 {
            let jumps = Intent::default().pressing(Actions::JUMP);
            crowd.tick(&level, DT, |id, _| if id == rider && tick == 30 { jumps } else { Intent::default() });
            let tops = crowd.events(rider).iter().filter_map(|event| match event {
                Event::Apex { position } => Some(position.height()),
                _ => None,
            });
            top = tops.fold(top, f32::max);
        }
        assert!((top - 1.2 - jump).abs() < 0.05, "{top} m for a jump of {jump} m, {hull:?}");
        assert!((crowd[rider].body.position().height() - 1.2).abs() < 0.05);
        crowd.remove(below).unwrap();
        run(&mut crowd, &mut level, 60, |_, _| Intent::default());
        let height = crowd[rider].body.position().height();
        assert!(height < 0.02 && crowd[rider].body.state().mode == Mode::Grounded, "{height}");
        assert!(crowd.get(below).is_none() && crowd.len() == 1 && !crowd.is_empty());
        crowd.remove(rider).unwrap();
        assert!(crowd.is_empty() && crowd.iter().next().is_none() && crowd.events(rider).is_empty());
    }
    for hull in hulls() {
        ride::<Vec2>(hull);
        ride::<Vec3>(hull);
    }
}

#[test]
fn a_head_bumps_into_a_body_above() {
    let mut level = blocks::<Vec2>(&[
        ([-20.0, -1.0, 0.0], [20.0, 0.0, 0.0]),
        ([-1.5, 2.3, 0.0], [-0.4, 2.4, 0.0]),
        ([0.4, 2.3, 0.0], [1.5, 2.4, 0.0]),
    ]);
    let mut crowd = Crowd::new();
    let jumper = add(&mut crowd, &level, person(Vec2::ZERO));
    let bridge = Hull::new(HullShape::Box { width: 1.6, depth: 0.5, height: 0.4, rounding: 0.0 }).unwrap();
    let above = add(&mut crowd, &level, CrowdBody::crate_of(80.0, bridge, Vec2::Y * 2.41));
    let mut bumped = Vec::new();
    run(&mut crowd, &mut level, 20, |_, _| Intent::default());
    let rest = crowd[above].body.position();
    for tick in 0..60 {
        let jumps = Intent::default().pressing(Actions::JUMP);
        crowd.tick(&level, DT, |id, _| if id == jumper && tick == 0 { jumps } else { Intent::default() });
        for event in crowd.events(jumper) {
            if let Event::BumpedHead { piece, .. } = event {
                bumped.push(piece.body());
            }
        }
    }
    assert_eq!(bumped, [Some(above)]);
    assert_eq!(crowd[above].body.position(), rest, "heads lift nothing");
}

#[test]
fn a_body_between_a_lift_and_another_body_is_crushed() {
    // A wall that comes down the corridor, and a crate against the wall at its end.
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(5.0, 0.0), Vec2::new(6.0, 3.0)).unwrap());
    let wall = builder.add_carrier(Carrier::on_path(
        vec![Keyframe::new(0.0, Vec2::ZERO), Keyframe::new(4.0, Vec2::X * 3.6)],
        PathEnd::Stop,
    ));
    builder.add(Piece::block(Vec2::new(-1.0, 0.05), Vec2::new(0.0, 3.0)).unwrap().riding(wall));
    let mut level = builder.build().unwrap();
    let mut crowd = Crowd::new();
    let victim = add(&mut crowd, &level, person(Vec2::X * 3.0));
    let load = add(&mut crowd, &level, CrowdBody::crate_of(60.0, cube(0.9), Vec2::X * 4.5));
    let mut crushed = Vec::new();
    for tick in 0..270 {
        level.advance(DT);
        crowd.tick(&level, DT, |_, _| Intent::default());
        for id in [victim, load] {
            let events = crowd.events(id).iter().filter(|event| **event == Event::Crushed);
            crushed.extend(events.map(|_| (id == victim, tick)));
        }
    }
    assert_eq!(crushed.iter().map(|(who, _)| *who).collect::<Vec<_>>(), [true], "{crushed:?}");
}

#[test]
fn a_push_never_goes_through_a_wall_and_never_adds_speed() {
    fn push<V: Geometry>(seed: u64) {
        let mut dice = Dice(seed);
        let half = 3.0;
        let mut walls = vec![([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0])];
        for side in [-1.0f32, 1.0] {
            let near = side * half;
            let far = side * (half + 1.0);
            walls.push(([near.min(far), 0.0, -9.0], [near.max(far), 3.0, 9.0]));
            walls.push(([-9.0, 0.0, near.min(far)], [9.0, 3.0, near.max(far)]));
        }
        let mut level = blocks::<V>(&walls[..if V::DIMENSION == 2 { 2 } else { 5 }]);
        if V::DIMENSION == 2 {
            level = blocks::<V>(&[walls[0], walls[1], walls[3]]);
        }
        let mut crowd = Crowd::new();
        let hulls = hulls();
        for number in 0..5 {
            let mut body = if number < 2 {
                CrowdBody { strength: 500.0, ..person(at::<V>(0.0, 0.0, 0.0)) }
            } else {
                CrowdBody::crate_of(
                    dice.number(5.0, 90.0),
                    cube(dice.number(0.5, 0.9)),
                    at::<V>(0.0, 0.0, 0.0),
                )
            };
            if number == 1 {
                body.body.hull = hulls[dice.below(4)];
            }
            let place = at::<V>(-2.4 + 1.2 * number as f32, 0.0, dice.number(-0.3, 0.3));
            body.body.restore(rasant::State::at(place));
            add(&mut crowd, &level, body);
        }
        let ids: Vec<BodyId> = crowd.iter().map(|(id, _)| id).collect();
        let mut steer = [[0.0f32; 2]; 2];
        for tick in 0..600 {
            if tick % 30 == 0 {
                steer = [0, 1].map(|_| [dice.number(-1.0, 1.0), dice.number(-1.0, 1.0)]);
            }
            let before: Vec<V> = ids.iter().map(|&id| crowd[id].body.position()).collect();
            level.advance(DT);
            crowd.tick(&level, DT, |id, _| {
                let number = ids.iter().position(|&known| known == id).unwrap();
                steer.get(number).map_or(Intent::default(), |[x, y]| Intent::steering(*x, *y))
            });
            for (number, &id) in ids.iter().enumerate() {
                let place = crowd[id].body.position().to_array();
                let inside = place[0].abs() < half && place[2].abs() < half && place[1] > -0.01;
                assert!(inside, "body {number} at {place:?} in tick {tick}, seed {seed}");
                let moved = (crowd[id].body.position() - before[number]).length() / DT;
                // No body is faster than one that walks, with the correction of a gap by some millimetres.
                let allowed = if place[1] > 0.02 { 12.0 } else { 5.0 };
                assert!(moved < allowed, "body {number} at {moved} m/s in tick {tick}, seed {seed}");
            }
        }
    }
    for seed in 0..12 {
        push::<Vec2>(seed);
        push::<Vec3>(seed);
    }
}

/// Pushing has one event at its beginning, and one at its end.
#[test]
fn a_push_is_met_once_and_left_once() {
    fn push<V: Geometry>(hull: Hull, rate: f32) {
        let level = floor::<V>(500.0);
        let mut crowd = Crowd::new();
        let mut porter = CrowdBody::new(Tuning::default(), hull, V::ZERO);
        porter.strength = 150.0;
        let porter = add(&mut crowd, &level, porter);
        add(&mut crowd, &level, CrowdBody::crate_of(60.0, cube(1.0), at(2.0, 0.0, 0.0)));
        let (mut met, mut left) = (0, 0);
        let ticks = (4.0 * rate) as usize;
        for tick in 0..ticks {
            let steer = if tick < ticks * 3 / 4 { 1.0 } else { -1.0 };
            crowd.tick(&level, 1.0 / rate, |id, _| {
                Intent::steering(if id == porter { steer } else { 0.0 }, 0.0)
            });
            met += crowd.events(porter).iter().filter(|event| matches!(event, Event::WallMet { .. })).count();
            left += crowd.events(porter).iter().filter(|event| matches!(event, Event::WallLeft)).count();
            let is_pushing = met > 0 && tick < ticks * 3 / 4;
            let is_at_wall = crowd[porter].body.state().touching.is_at_wall();
            assert!(is_at_wall || !is_pushing, "{hull:?} at {rate}/s");
        }
        assert_eq!((met, left), (1, 1), "{hull:?} at {rate}/s in {} dimensions", V::DIMENSION);
    }
    for hull in hulls() {
        for rate in [24.0, 60.0, 144.0] {
            push::<Vec2>(hull, rate);
            push::<Vec3>(hull, rate);
        }
    }
}

/// Wherever within a tick it reaches the load, it goes on at the speed of the push.
#[test]
fn a_body_that_walks_into_a_load_is_not_stopped_by_it() {
    fn push<V: Geometry>(hull: Hull, rate: f32, gap: f32) -> f32 {
        let level = floor::<V>(500.0);
        let mut crowd = Crowd::new();
        let porter = CrowdBody { strength: 150.0, ..CrowdBody::new(Tuning::default(), hull, V::ZERO) };
        let porter = add(&mut crowd, &level, porter);
        let load = CrowdBody::crate_of(60.0, cube(1.0), at(hull.half_width() + 0.5 + gap, 0.0, 0.0));
        let load = add(&mut crowd, &level, load);
        let start = crowd[load].body.position();
        let speed = crowd[porter].body.tuning.walk.speed;
        let pushed = speed * (1.0 - 60.0 / 150.0);
        for _ in 0..(3.0 * rate) as usize {
            let before = crowd[porter].body.velocity().length();
            crowd.tick(&level, 1.0 / rate, |id, _| {
                Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0)
            });
            let now = crowd[porter].body.velocity().length();
            let least = before.min(0.95 * pushed);
            assert!(now >= least, "from {before} to {now} m/s, {hull:?} at {rate}/s, {gap} m");
        }
        (crowd[load].body.position() - start).length()
    }
    for hull in hulls() {
        for gap in [1.0, 1.01, 1.03, 1.055] {
            let fine = push::<Vec2>(hull, 480.0, gap);
            for rate in [24.0, 30.0, 60.0, 144.0] {
                for moved in [push::<Vec2>(hull, rate, gap), push::<Vec3>(hull, rate, gap)] {
                    assert!((moved - fine).abs() < 0.04, "{moved} and {fine} m, {hull:?} at {rate}/s");
                }
            }
        }
    }
}

/// Seen from above, a body pushes another one past a corner that both hardly pass. Its speed may change,
/// but not up and down from tick to tick. (At 30 ticks per second it does so up to seven times.)
#[test]
fn a_load_is_pushed_past_a_corner_without_jerks() {
    let level = blocks::<Vec2>(&[
        ([-10.0, 1.0, 0.0], [30.0, 2.0, 0.0]),
        ([-10.0, -2.0, 0.0], [30.0, -1.0, 0.0]),
        ([3.0, 0.2, 0.0], [5.0, 1.0, 0.0]),
    ]);
    for rate in [60.0f32, 144.0] {
        for aside in [-0.05f32, 0.0, 0.05] {
            let mut tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
            tuning.walk.speed = 5.0;
            let ball = |radius, x, y| CrowdBody::new(tuning, Hull::ball(radius).unwrap(), Vec2::new(x, y));
            let mut crowd = Crowd::new();
            let porter = CrowdBody { strength: 200.0, ..ball(0.3, -2.0, aside) };
            let porter = add(&mut crowd, &level, porter);
            add(&mut crowd, &level, CrowdBody { mass: 65.0, ..ball(0.28, 0.0, 0.0) });
            let mut speeds = Vec::new();
            for _ in 0..(5.0 * rate) as usize {
                crowd.tick(&level, 1.0 / rate, |id, _| {
                    Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0)
                });
                speeds.push(crowd[porter].body.velocity().length());
            }
            let turns = speeds.windows(3).filter(|three| {
                let [before, after] = [three[1] - three[0], three[2] - three[1]];
                before * after < 0.0 && before.abs().min(after.abs()) > 0.2
            });
            let turns = turns.count();
            assert!(turns <= 4, "{turns} changes of direction at {rate}/s, {aside} m aside");
            assert!(crowd[porter].body.position().x > 5.0);
        }
    }
}

#[test]
fn a_body_that_is_too_weak_pushes_nothing() {
    let mut level = floor::<Vec2>(50.0);
    let mut crowd = Crowd::new();
    let porter = add(&mut crowd, &level, CrowdBody { strength: 80.0, ..person(Vec2::ZERO) });
    let load = add(&mut crowd, &level, CrowdBody::crate_of(81.0, cube(1.0), Vec2::X * 2.0));
    run(&mut crowd, &mut level, 90, |id, _| Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0));
    assert_eq!(crowd[load].body.position().x, 2.0);
    // Nor what is on top of what it could push alone.
    crowd[load].mass = 40.0;
    let upper = crowd.add(CrowdBody::crate_of(41.0, cube(1.0), Vec2::new(2.0, 1.05))).unwrap();
    run(&mut crowd, &mut level, 30, |_, _| Intent::default());
    run(&mut crowd, &mut level, 90, |id, _| Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0));
    assert_eq!(crowd[load].body.position().x, 2.0);
    crowd.remove(upper);
    run(&mut crowd, &mut level, 60, |id, _| Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0));
    assert!(crowd[load].body.position().x > 3.0);
}

#[test]
fn two_in_a_corridor_that_is_wide_enough_pass_each_other() {
    for width in [1.6f32, 2.0] {
        for offset in [0.01f32, 0.05, 0.2] {
            let side = 0.5 * width;
            let mut level = blocks::<Vec3>(&[
                ([-20.0, -1.0, -9.0], [20.0, 0.0, 9.0]),
                ([-20.0, 0.0, side], [20.0, 3.0, side + 1.0]),
                ([-20.0, 0.0, -side - 1.0], [20.0, 3.0, -side]),
            ]);
            let mut crowd = Crowd::new();
            let one = add(&mut crowd, &level, person(Vec3::new(-3.0, 0.0, offset)));
            let other = add(&mut crowd, &level, person(Vec3::new(3.0, 0.0, 0.0)));
            run(&mut crowd, &mut level, 300, |id, _| {
                Intent::steering(if id == one { 1.0 } else { -1.0 }, 0.0)
            });
            let [one, other] = [one, other].map(|id| crowd[id].body.position().x);
            assert!(one > 2.0 && other < -2.0, "{one} {other} at {offset} m in {width} m");
        }
    }
}

#[test]
fn crates_fall_stand_on_gentle_slopes_and_slide_down_steep_ones() {
    fn on<V: Slope>(angle: f32) -> f32 {
        let mut level = V::slope(angle.to_radians());
        let mut crowd = Crowd::new();
        let load = crowd.add(CrowdBody::crate_of(40.0, cube(0.8), at::<V>(0.0, 1.5, 0.0))).unwrap();
        run(&mut crowd, &mut level, 60, |_, _| Intent::default());
        let start = crowd[load].body.position();
        run(&mut crowd, &mut level, 60, |_, _| Intent::default());
        (crowd[load].body.position() - start).length()
    }
    for angle in [0.0, 10.0, 30.0, 40.0] {
        assert_eq!((on::<Vec2>(angle), on::<Vec3>(angle)), (0.0, 0.0), "{angle} degrees");
    }
    for angle in [55.0, 65.0] {
        assert!(on::<Vec2>(angle) > 1.0 && on::<Vec3>(angle) > 1.0, "{angle} degrees");
    }
}

#[test]
fn crates_float_in_water_or_lie_on_its_ground() {
    fn in_water<V: Geometry>(sinks: bool) -> f32 {
        let mut builder = Level::builder();
        builder.add(Piece::block(at::<V>(-9.0, -5.0, -9.0), at(9.0, -4.0, 9.0)).unwrap());
        builder.add_zone(Zone::new(at::<V>(-9.0, -4.0, -9.0), at(9.0, 0.0, 9.0), Effect::Water));
        let mut level = builder.build().unwrap();
        let mut crowd = Crowd::new();
        let mut load = CrowdBody::crate_of(40.0, cube(0.8), at::<V>(0.0, 0.5, 0.0));
        if sinks {
            load.body.tuning.swim.float_speed = -1.5;
        }
        let load = crowd.add(load).unwrap();
        run(&mut crowd, &mut level, 600, |_, _| Intent::default());
        assert!(crowd[load].body.velocity().length() < 0.05);
        crowd[load].body.position().height()
    }
    for height in [in_water::<Vec2>(false), in_water::<Vec3>(false)] {
        assert!((-0.8..0.0).contains(&height), "floats at {height}");
    }
    for height in [in_water::<Vec2>(true), in_water::<Vec3>(true)] {
        assert!((-4.001..-3.95).contains(&height), "lies at {height}");
    }
}

#[test]
fn a_stack_of_three_rests_to_the_bit_also_on_a_lift() {
    fn stack<V: Geometry>(moves: bool) {
        let mut builder = Level::builder();
        let lift = builder.add_carrier(Carrier::on_path(
            vec![Keyframe::new(0.0, V::ZERO), Keyframe::new(2.0, if moves { V::UP * 2.0 } else { V::ZERO })],
            PathEnd::BackAndForth,
        ));
        builder.add(Piece::block(at::<V>(-3.0, -1.0, -3.0), at(3.0, 0.0, 3.0)).unwrap().riding(lift));
        let mut level = builder.build().unwrap();
        let mut crowd = Crowd::new();
        let ids: Vec<BodyId> = (0..3)
            .map(|number| {
                let place = at::<V>(0.1 * number as f32, 0.02 + 0.83 * number as f32, 0.0);
                crowd.add(CrowdBody::crate_of(20.0, cube(0.8), place)).unwrap()
            })
            .collect();
        run(&mut crowd, &mut level, 60, |_, _| Intent::default());
        let gaps = |crowd: &Crowd<V>| {
            [0, 1].map(|n| crowd[ids[n + 1]].body.position() - crowd[ids[n]].body.position())
        };
        let start = gaps(&crowd);
        let places = ids.iter().map(|&id| crowd[id].body.position()).collect::<Vec<_>>();
        for tick in 0..300 {
            level.advance(DT);
            crowd.tick(&level, DT, |_, _| Intent::default());
            for (now, start) in gaps(&crowd).iter().zip(&start) {
                let off = (*now - *start).length();
                assert!(off <= if moves { 1e-4 } else { 0.0 }, "{off} m in tick {tick}");
            }
            let events: usize = ids.iter().map(|&id| crowd.events(id).len()).sum();
            assert_eq!(events, 0, "in tick {tick}");
            if !moves {
                assert_eq!(places, ids.iter().map(|&id| crowd[id].body.position()).collect::<Vec<_>>());
            }
        }
    }
    for moves in [false, true] {
        stack::<Vec2>(moves);
        stack::<Vec3>(moves);
    }
}

#[test]
fn bad_numbers_and_a_full_crowd_are_refused() {
    let mut crowd = Crowd::<Vec2>::new();
    for body in [
        CrowdBody { mass: 0.0, ..person(Vec2::ZERO) },
        CrowdBody { mass: f32::NAN, ..person(Vec2::ZERO) },
        CrowdBody { strength: -1.0, ..person(Vec2::ZERO) },
        CrowdBody { passes_for: f32::NAN, ..person(Vec2::ZERO) },
    ] {
        let error = crowd.add(body).unwrap_err();
        assert!(error.to_string().contains("expected a number"), "{error}");
    }
    for _ in 0..BodyId::MAX {
        crowd.add(person(Vec2::ZERO)).unwrap();
    }
    assert_eq!(crowd.add(person(Vec2::ZERO)), Err(CrowdError::Full));
    assert_eq!(BodyId::numbered(BodyId::MAX as u16), None);
    let first = crowd.iter().next().unwrap().0;
    crowd.remove(first).unwrap();
    let again = crowd.add(person(Vec2::ZERO)).unwrap();
    assert_ne!(first, again);
    assert!(crowd.get(first).is_none() && crowd.get_mut(first).is_none() && crowd.remove(first).is_none());
}

#[test]
fn intents_toward_a_point_arrive_by_every_steering() {
    fn arrive<V: Geometry>(steering: Steering, point: V, within: f32) {
        for rate in [24, 60, 144] {
            let level = floor::<V>(50.0);
            let tuning = Tuning { steering, ..Tuning::default() };
            let mut body = Controller::new(tuning, capsule(), V::ZERO);
            let mut level = level;
            if steering.is_from_above(V::DIMENSION) {
                level = blocks::<V>(&[([40.0, 40.0, 0.0], [41.0, 41.0, 0.0])]);
            }
            let mut furthest = 0.0f32;
            for _ in 0..6 * rate {
                body.tick(&Intent::toward(point, &body), &level, 1.0 / rate as f32);
                furthest = furthest.max(body.position().length());
            }
            let off = body.position() - point;
            let off = if steering.is_from_above(V::DIMENSION) { off } else { off.with_height(0.0) };
            assert!(off.length() < within, "{steering:?} at {rate}/s: {:?}, off by {off:?}", body.position());
            assert!(
                furthest < point.length() + within + 0.02,
                "{steering:?} at {rate}/s went past: {furthest}"
            );
        }
    }
    arrive::<Vec2>(Steering::Side, Vec2::X * -5.0, 0.02);
    for steering in [Steering::Plan, Steering::View, Steering::Body] {
        arrive::<Vec2>(steering, Vec2::new(-4.0, 3.0), 0.03);
    }
    for steering in [Steering::Plan, Steering::View, Steering::Body] {
        arrive::<Vec3>(steering, Vec3::new(-4.0, 0.0, 3.0), 0.03);
    }
    arrive::<Vec3>(Steering::Gaze, Vec3::new(-4.0, 0.0, 3.0), 0.3);
    arrive::<Vec2>(Steering::Hop, Vec2::new(-4.2, 3.0), 0.75);
    arrive::<Vec3>(Steering::Hop, Vec3::new(-4.2, 0.0, 3.0), 0.75);
}

#[test]
fn a_crate_is_pulled_at_the_speed_at_which_it_is_pushed() {
    fn pull<V: Geometry>(rate: u32) -> f32 {
        let level = floor::<V>(80.0);
        let mut crowd = Crowd::new();
        let load = add(&mut crowd, &level, CrowdBody::crate_of(50.0, cube(1.0), at::<V>(-0.89, 0.0, 0.0)));
        let porter = CrowdBody { strength: 200.0, pulls: Some(load), ..person(at::<V>(0.0, 0.0, 0.0)) };
        let porter = add(&mut crowd, &level, porter);
        let mut start = 0.0;
        for tick in 0..4 * rate {
            if tick == 2 * rate {
                start = crowd[load].body.position().to_array()[0];
            }
            let steer = |id| Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0);
            crowd.tick(&level, 1.0 / rate as f32, |id, _| steer(id));
            let gap = crowd.touching(porter).find(|contact| contact.other == load);
            assert!(tick < rate / 4 || gap.is_some(), "they part in tick {tick} at {rate}/s");
        }
        let speed = (crowd[load].body.position().to_array()[0] - start) / 2.0;
        // It lets go.
        crowd[porter].pulls = None;
        let place = crowd[load].body.position();
        for _ in 0..rate {
            let steer = |id| Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0);
            crowd.tick(&level, 1.0 / rate as f32, |id, _| steer(id));
        }
        assert!((crowd[load].body.position() - place).length() < 0.01);
        speed
    }
    let expected = Tuning::default().walk.speed * (1.0 - 50.0 / 200.0);
    for rate in [30, 60, 144] {
        for speed in [pull::<Vec2>(rate), pull::<Vec3>(rate)] {
            assert!((speed / expected - 1.0).abs() < 0.05, "{speed} m/s at {rate}/s, expected {expected}");
        }
    }
}

#[test]
fn bodies_with_a_spacing_step_aside_until_they_have_it_and_rest() {
    let mut level = floor::<Vec3>(50.0);
    let mut crowd = Crowd::new();
    let mut dice = Dice(5);
    for number in 0..16 {
        let place = Vec3::new((number % 4) as f32, 0.0, (number / 4) as f32) * 0.75;
        let off = Vec3::new(dice.number(-0.01, 0.01), 0.0, dice.number(-0.01, 0.01));
        add(&mut crowd, &level, CrowdBody { spacing: 0.5, ..person(place + off) });
    }
    run(&mut crowd, &mut level, 600, |_, _| Intent::default());
    let places: Vec<Vec3> = crowd.iter().map(|(_, body)| body.body.position()).collect();
    for (number, place) in places.iter().enumerate() {
        for other in &places[..number] {
            assert!(place.distance(*other) > 0.7 + 0.49, "{place} {other}");
        }
    }
    run(&mut crowd, &mut level, 10, |_, _| Intent::default());
    assert!(crowd.iter().zip(&places).all(|((_, body), place)| body.body.position() == *place));
}

#[test]
fn a_host_with_its_own_loop_passes_other_bodies_to_one_tick() {
    for hull in hulls() {
        let level = floor::<Vec3>(50.0);
        let mut guard = Controller::new(Tuning::default(), hull, Vec3::X * 3.0);
        guard.find_footing(&level);
        let mut player = Controller::new(Tuning::default(), capsule(), Vec3::ZERO);
        player.find_footing(&level);
        let id = BodyId::numbered(7).unwrap();
        let mut met = Vec::new();
        for _ in 0..120 {
            let around = WithBodies::new(&level).with(id, &guard, Vec3::ZERO);
            for event in player.tick(&Intent::steering(1.0, 0.0), &around, DT) {
                if let Event::WallMet { piece, .. } = event {
                    met.push(piece.body());
                }
            }
        }
        assert_eq!(met, [Some(id)], "{hull:?}");
        assert!(player.position().x < 3.0 - 0.35 - 0.3, "{hull:?}");
    }
    // It rides on a body that moves.
    let level = floor::<Vec2>(50.0);
    let mut cart = Controller::new(Tuning::default(), cube(1.5), Vec2::ZERO);
    cart.find_footing(&level);
    let mut rider = Controller::new(Tuning::default(), capsule(), Vec2::Y * 1.6);
    for tick in 0..180 {
        let before = cart.position();
        cart.tick(&Intent::steering(if tick < 30 { 0.0 } else { 0.5 }, 0.0), &level, DT);
        let around =
            WithBodies::new(&level).with(BodyId::numbered(0).unwrap(), &cart, cart.position() - before);
        rider.tick(&Intent::default(), &around, DT);
    }
    let off = rider.position() - cart.position();
    assert!(cart.position().x > 3.0 && off.x.abs() < 0.01, "{off}");
}

#[cfg(feature = "serde")]
#[test]
fn a_saved_crowd_goes_on_to_the_same_bits() {
    let mut level = floor::<Vec3>(50.0);
    let mut crowd = Crowd::new();
    let ids: Vec<BodyId> = (0..9)
        .map(|number| {
            let place = Vec3::new((number % 3) as f32, 0.0, (number / 3) as f32) * 0.8;
            add(&mut crowd, &level, CrowdBody { strength: 90.0, ..person(place) })
        })
        .collect();
    crowd.remove(ids[4]).unwrap();
    let steer = |id: BodyId, tick: usize| {
        let number = ids.iter().position(|&known| known == id).unwrap();
        if number < 4 { Intent::steering((number + tick / 20) as f32 - 2.5, 0.4) } else { Intent::default() }
    };
    run(&mut crowd, &mut level, 50, steer);
    let text = serde_json::to_string(&crowd).unwrap();
    let mut read: Crowd<Vec3> = serde_json::from_str(&text).unwrap();
    assert_eq!(read.checksum(), crowd.checksum());
    run(&mut crowd, &mut level.clone(), 100, steer);
    run(&mut read, &mut level, 100, steer);
    assert_eq!(read.checksum(), crowd.checksum());
    // A broken save is refused.
    for broken in
        [text.replacen("\"free\":[4]", "\"free\":[3]", 1), text.replacen("\"mass\":70.0", "\"mass\":-1.0", 1)]
    {
        assert_ne!(broken, text);
        let error = serde_json::from_str::<Crowd<Vec3>>(&broken).unwrap_err().to_string();
        assert!(error.contains("free places") || error.contains("mass is -1"), "{error}");
    }
}
