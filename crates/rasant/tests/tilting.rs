//! Carriers that rotate about any axis, that ease in and out, and that ride on other carriers.

use crate::common::lives::any_intent;
use crate::common::{Dice, Run, capsule, upright_box};
use crate::wheels::{depth, hulls};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::{Easing, Placement};
use rasant::state::FootingKind;
use rasant::{
    Actions, Carrier, CarrierId, Controller, Event, Geometry, Intent, Keyframe, Level, Mode, PathEnd, Piece,
    Tuning, Vector,
};

const RATE: u32 = 60;
const TAU: f32 = std::f32::consts::TAU;

fn corner<V: Vector>(x: f32, y: f32, z: f32) -> V {
    V::from_array([x, y, z])
}

/// A deck of 6 m, with its top through the origin, that tilts by an angle to either side about an
/// axis, easing in and out.
fn deck<V: Geometry>(axis: V, angle: f32, half_period: f32) -> Level<V> {
    let mut builder = Level::builder();
    let key = |time, angle| Keyframe::new(time, V::ZERO).turned_about(axis, angle).eased(Easing::InOut);
    let keys = vec![
        key(0.0, 0.0),
        key(0.5 * half_period, angle),
        key(1.5 * half_period, -angle),
        key(2.0 * half_period, 0.0),
    ];
    let carrier = builder.add_carrier(Carrier::on_path(keys, PathEnd::Loop));
    let piece = Piece::block(corner(-3.0, -0.4, -3.0), corner(3.0, 0.0, 3.0)).unwrap();
    builder.add(piece.riding(carrier));
    builder.build().unwrap()
}

fn tick<V: Geometry>(run: &mut Run<V>, level: &mut Level<V>, intent: Intent) {
    level.advance(1.0 / run.rate as f32);
    run.tick(level, intent);
}

/// On a deck that tilts by no more than can be walked, a rider stands still on its place of the deck
/// and keeps its footing. After every whole period it is where it was.
#[test]
fn a_rider_keeps_its_place_on_a_tilting_deck() {
    fn keeps<V: Geometry>(axis: V, at: V) {
        for hull in hulls() {
            let mut level = deck(axis, 0.5, 3.0);
            let mut run = Run::new(Tuning::default(), hull, at, RATE);
            run.body.find_footing(&level);
            let mut after = Vec::new();
            for number in 1..=6 * 6 * RATE {
                tick(&mut run, &mut level, Intent::default());
                let state = run.body.state();
                assert_eq!(state.footing.kind, FootingKind::Firm, "{hull:?} {axis:?} tick {number}");
                assert_eq!(state.mode, Mode::Grounded);
                let deep = depth(&run.body, &level);
                assert!(deep < 1e-4, "{hull:?} {axis:?} tick {number}: {deep} m inside");
                if number % (6 * RATE) == 0 {
                    after.push(run.body.position());
                }
            }
            assert!(run.events.is_empty(), "{hull:?} {axis:?}: {:?}", run.events);
            let drift = after.iter().map(|&position| (position - at).length()).fold(0.0, f32::max);
            assert!(drift < 0.03, "{hull:?} {axis:?}: drifts by {drift}");
        }
    }
    keeps::<Vec2>(Vec2::Y, Vec2::new(1.5, 0.0));
    for axis in [Vec3::Z, Vec3::X, Vec3::new(1.0, 0.0, 1.0), Vec3::new(0.3, 1.0, -0.5)] {
        keeps::<Vec3>(axis, Vec3::new(1.0, 0.0, -1.5));
    }
}

/// Beyond the steepest slope that can be walked, riders slide; back below it they stand again.
#[test]
fn a_deck_that_tilts_too_far_lets_its_rider_slide() {
    for hull in hulls() {
        let mut level = deck(Vec3::Z, 1.2, 4.0);
        let mut run = Run::new(Tuning::default(), hull, Vec3::new(-2.0, 0.0, 0.0), RATE);
        run.body.find_footing(&level);
        let steepest = run.body.tuning.slope.max_angle;
        let (mut was_steep, mut last_firm) = (false, 0.0f32);
        for _ in 0..2 * RATE {
            tick(&mut run, &mut level, Intent::default());
            let angle = level.carrier(CarrierId(0)).ride().to.up().dot(Vec3::Y).acos();
            match run.body.state().footing.kind {
                FootingKind::Firm => last_firm = last_firm.max(angle),
                FootingKind::Steep => was_steep = true,
                FootingKind::None => {}
            }
        }
        assert!(was_steep, "{hull:?}");
        assert!((last_firm - steepest).abs() < 0.03, "{hull:?}: firm up to {last_firm} of {steepest}");
    }
}

/// A body that jumps off a rotating carrier has the velocity of the point that it stood on.
#[test]
fn a_jump_off_a_rotating_deck_starts_with_the_velocity_of_the_point() {
    for (axis, at) in [
        (Vec3::Z, Vec3::new(2.0, 0.0, 0.5)),
        (Vec3::X, Vec3::new(0.5, 0.0, 2.0)),
        (Vec3::Y, Vec3::new(2.0, 0.0, -1.0)),
        (Vec3::new(1.0, 1.0, -1.0).normalize(), Vec3::new(1.5, 0.0, 1.0)),
    ] {
        for hull in [capsule(), upright_box()] {
            let mut builder = Level::builder();
            let speed = 0.4;
            let keys = [0.0, 10.0]
                .map(|time| Keyframe::new(time, Vec3::ZERO).turned_about(axis, speed * (time - 0.25)));
            let carrier = builder.add_carrier(Carrier::on_path(keys.to_vec(), PathEnd::Stop));
            let piece = Piece::block(Vec3::new(-3.0, -0.4, -3.0), Vec3::new(3.0, 0.0, 3.0)).unwrap();
            builder.add(piece.riding(carrier));
            let mut level = builder.build().unwrap();
            let start = level.carrier(carrier).ride().to.apply(at);
            let mut tuning = Tuning::default();
            tuning.air.stop_time = 1e6;
            let mut run = Run::new(tuning, hull, start + Vec3::Y * 0.02, RATE);
            run.body.find_footing(&level);
            for _ in 0..15 {
                tick(&mut run, &mut level, Intent::default());
            }
            let point = run.body.position() + run.body.state().footing.point;
            let still = run.body.velocity();
            let expected = (axis * speed).cross(point);
            // A box touches a tilting deck with one side, and the next tick with another.
            let beside = if hull == upright_box() { 1.5 * speed * hull.half_width() + 0.02 } else { 0.02 };
            assert!(
                (still - expected).length() < beside,
                "{axis} {hull:?}: rides at {still}, not {expected}"
            );
            tick(&mut run, &mut level, Intent::default().pressing(Actions::JUMP));
            let jump = (2.0 * run.body.tuning.gravity() * run.body.tuning.jump.height).sqrt();
            let own = run.body.velocity() - Vec3::Y * (jump - run.body.tuning.gravity() / RATE as f32);
            assert!(
                (own - expected).flat().length() < 0.03 + beside,
                "{axis} {hull:?}: {own}, not {expected}"
            );
        }
    }
}

/// On a turntable, and in a gondola that stays upright on a wheel, a rider stays within a
/// millimetre of its place over ten turns.
#[test]
fn a_rider_follows_ten_turns_within_a_millimetre() {
    fn follows<V: Geometry>(level: &mut Level<V>, on: CarrierId, start: V, turn: f32) {
        for hull in [capsule(), upright_box()] {
            let mut level = level.clone();
            let mut run = Run::new(Tuning::default(), hull, start, RATE);
            run.body.find_footing(&level);
            let own = level.carrier(on).ride().to.undo(run.body.position());
            for _ in 0..(10.0 * turn) as u32 * RATE {
                tick(&mut run, &mut level, Intent::default());
                let now = level.carrier(on).ride().to.undo(run.body.position());
                assert!((now - own).flat().length() < 1e-3, "{hull:?}: {now:?} instead of {own:?}");
                assert!((now - own).height().abs() < 1e-3, "{hull:?}: {now:?} instead of {own:?}");
            }
            assert!(run.events.is_empty(), "{hull:?}: {:?}", run.events);
        }
    }
    // The turntable.
    let mut builder = Level::builder();
    let keys = [(0.0, 0.0), (6.0, TAU)].map(|(time, turn)| Keyframe::new(time, Vec3::ZERO).turned(turn));
    let table = builder.add_carrier(Carrier::on_path(keys.to_vec(), PathEnd::Loop));
    builder.add(Piece::block(Vec3::new(-4.0, -0.4, -4.0), Vec3::new(4.0, 0.0, 4.0)).unwrap().riding(table));
    follows(&mut builder.build().unwrap(), table, Vec3::new(3.0, 0.0, 1.0), 6.0);
    // The gondola.
    fn gondola<V: Geometry>(axis: V) {
        let mut builder = Level::builder();
        let turning = |time: f32, turn: f32, offset: V| Keyframe::new(time, offset).turned_about(axis, turn);
        let round = [(0.0, 0.0), (12.0, TAU)].map(|(time, turn)| turning(time, turn, V::UP * 8.0));
        let wheel = builder.add_carrier(Carrier::on_path(round.to_vec(), PathEnd::Loop));
        let back = [(0.0, 0.0), (12.0, -TAU)].map(|(time, turn)| turning(time, turn, V::RIGHT * 6.0));
        let gondola = builder.add_carrier(Carrier::on_path(back.to_vec(), PathEnd::Loop).riding(wheel));
        let floor = Piece::block(corner(-1.0, -0.2, -1.0), corner(1.0, 0.0, 1.0)).unwrap();
        builder.add(floor.riding(gondola));
        let mut level = builder.build().unwrap();
        let start = V::UP * 8.0 + V::RIGHT * 6.3;
        follows(&mut level, gondola, start, 12.0);
    }
    gondola::<Vec2>(Vec2::Y);
    gondola::<Vec3>(Vec3::Z);
}

/// Bars that rotate about any axis, on a carrier or on one that rides on another, push bodies aside,
/// and are never inside of one that is not reported as crushed.
#[test]
fn bars_that_rotate_about_any_axis_are_met_where_they_are() {
    let (mut ticks_inside, mut crushed, mut pushed) = (0, 0, 0);
    let mut wrong = Vec::new();
    for seed in 0..400 {
        let mut dice = Dice(seed);
        let mut builder = Level::builder();
        builder.add(Piece::block(Vec3::new(-60.0, -1.0, -60.0), Vec3::new(60.0, 0.0, 60.0)).unwrap());
        let axis: Vec3 = dice.direction();
        let degrees = dice.number(0.5, 6.0);
        let keys = [(0.0, 0.0), (360.0 / degrees / RATE as f32, TAU)];
        let keys = keys.map(|(time, turn)| Keyframe::new(time, Vec3::Y * 4.0).turned_about(axis, turn));
        let mut carrier = builder.add_carrier(Carrier::on_path(keys.to_vec(), PathEnd::Loop));
        if dice.below(2) == 0 {
            let nod = [(0.0, -0.5), (2.0, 0.5)].map(|(time, angle)| {
                Keyframe::new(time, Vec3::X * dice.number(-1.0, 1.0))
                    .turned_about(dice.direction(), angle)
                    .eased(Easing::InOut)
            });
            let nodding = Carrier::on_path(nod.to_vec(), PathEnd::BackAndForth);
            carrier = builder.add_carrier(nodding.riding(carrier));
        }
        let long = dice.number(2.0, 6.0);
        let thin = dice.number(0.1, 0.3);
        let piece = match dice.below(3) {
            0 => Piece::block(Vec3::new(0.0, -thin, -thin), Vec3::new(long, thin, thin)),
            1 => Piece::capsule(Vec3::ZERO, Vec3::X * long, thin),
            _ => Piece::rounded_block(Vec3::new(0.0, -thin, -thin), Vec3::new(long, thin, thin), 0.5 * thin),
        };
        builder.add(piece.unwrap().riding(carrier));
        let mut level = builder.build().unwrap();
        let hull = hulls()[dice.below(4)];
        let mut body = Controller::new(Tuning::default(), hull, dice.vector::<Vec3>(4.0).with_y(0.01));
        body.find_footing(&level);
        let mut intent = Intent::default();
        // One that starts inside of a bar waits until it is free.
        let mut free = false;
        for tick in 0..600 {
            level.advance(1.0 / RATE as f32);
            intent = any_intent(&mut dice, &intent);
            body.tick(&intent, &level, 1.0 / RATE as f32);
            let deep = depth(&body, &level);
            free |= deep < 0.0;
            crushed += u32::from(body.events().iter().any(|event| matches!(event, Event::Crushed)));
            pushed += u32::from(body.velocity().length() > 1.0);
            if free && body.state().carry_over.crushed.is_none() && deep > 1e-3 {
                ticks_inside += 1;
                wrong.push((seed, tick, deep));
            }
        }
    }
    assert!(
        wrong.is_empty(),
        "{ticks_inside} ticks inside, {crushed} crushed: {:?}",
        &wrong[..wrong.len().min(9)]
    );
    assert!(pushed > 1000, "{pushed}");
}

/// Placements that the host sets about any axis are interpolated about one axis, and a carrier on a
/// carrier of the host goes along.
#[test]
fn hosts_tilt_carriers_and_their_children() {
    let mut builder = Level::builder();
    let ship = builder.add_carrier(Carrier::set_by_host().starting_at(Placement::default()));
    let mast = [(0.0, 0.0), (4.0, 2.0)].map(|(time, height)| Keyframe::new(time, Vec3::Y * height));
    let lift = builder.add_carrier(Carrier::on_path(mast.to_vec(), PathEnd::BackAndForth).riding(ship));
    builder.add(Piece::block(Vec3::new(-1.0, -0.2, -1.0), Vec3::new(1.0, 0.0, 1.0)).unwrap().riding(lift));
    let mut level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::ZERO, RATE);
    run.body.find_footing(&level);
    for number in 0..240 {
        let time = number as f32 / RATE as f32;
        let roll = Quat::from_rotation_z(0.3 * time.sin()) * Quat::from_rotation_x(0.2 * (1.3 * time).sin());
        let placement = Placement::rotated(Vec3::new(2.0 * time, 0.0, 0.0), roll);
        level.place(ship, placement);
        tick(&mut run, &mut level, Intent::default());
        let ride = level.carrier(lift).ride();
        let expected = placement.apply(Vec3::Y * (0.5 * level.time() as f32));
        assert!((ride.to.offset() - expected).length() < 1e-4);
        assert!((ride.to.up() - roll * Vec3::Y).length() < 1e-5);
        let half = ride.blended(0.5);
        assert!((half.right().length() - 1.0).abs() < 1e-5 && half.right().dot(half.up()).abs() < 1e-5);
        assert!(run.body.state().footing.is_firm(), "tick {number}");
        let own = ride.to.undo(run.body.position());
        assert!(own.flat().length() < 0.05, "tick {number}: {own}");
    }
}

/// A body on a carrier faces along with it, by the part of its rotation that is about up.
#[test]
fn riders_turn_by_the_rotation_about_up() {
    let ride = |axis: Vec3, angle: f32| {
        let from = Placement::turned_about(Vec3::ZERO, axis, 0.4);
        rasant::level::Ride { from, to: Placement::turned_about(Vec3::ZERO, axis, 0.4 + angle) }
    };
    assert!((ride(Vec3::Y, 0.1).turn() - 0.1).abs() < 1e-6);
    assert!((ride(Vec3::Y, 0.1).turn_about(Vec3::NEG_Y) + 0.1).abs() < 1e-6);
    assert!(ride(Vec3::X, 0.1).turn().abs() < 1e-6);
    // A drum that rolls past half a turn.
    for step in 0..100 {
        let placement = |step: i32| Placement::turned_about(Vec3::ZERO, Vec3::Z, 0.1 * step as f32);
        let ride = rasant::level::Ride { from: placement(step), to: placement(step + 1) };
        assert!(ride.turn().abs() < 1e-5, "step {step}: {}", ride.turn());
    }
    let tilted = ride(Vec3::new(0.0, 1.0, 1.0).normalize(), 0.1);
    assert!((tilted.turn() - 0.1 * 0.5f32.sqrt()).abs() < 1e-3, "{}", tilted.turn());
}

/// Keyframes ease by their formulas, and are reached exactly.
#[test]
fn keyframes_ease_as_documented() {
    for easing in Easing::ALL {
        let keys = [(1.0, 0.0), (3.0, 4.0)];
        let keys = keys.map(|(time, x)| Keyframe::new(time, Vec2::X * x).turned(0.5 * x).eased(easing));
        let carrier = Carrier::on_path(keys.to_vec(), PathEnd::BackAndForth);
        for step in 0..=20 {
            let t = step as f32 / 20.0;
            let fraction = match easing {
                Easing::In => t * t,
                Easing::Out => 1.0 - (1.0 - t) * (1.0 - t),
                Easing::InOut => 3.0 * t * t - 2.0 * t * t * t,
                _ => t,
            };
            for time in [1.0 + 2.0 * t, 5.0 - 2.0 * t] {
                let at = carrier.at(f64::from(time));
                assert!((at.offset().x - 4.0 * fraction).abs() < 1e-5, "{easing:?} at {time}");
                let right = Vec2::from_angle(2.0 * fraction);
                assert!((at.right() - right).length() < 1e-5, "{easing:?} at {time}");
            }
        }
    }
    // Between two axes, along the shorter arc, with both ends exact.
    let keys = [(0.0, Vec3::X, 0.8), (2.0, Vec3::Z, -0.6)];
    let keys = keys.map(|(time, axis, angle)| Keyframe::new(time, Vec3::ZERO).turned_about(axis, angle));
    let carrier = Carrier::on_path(keys.to_vec(), PathEnd::Stop);
    let ends = [Quat::from_rotation_x(0.8), Quat::from_rotation_z(-0.6)];
    for (time, expected) in [(0.0, ends[0]), (1.0, ends[0].slerp(ends[1], 0.5)), (2.0, ends[1])] {
        let at = carrier.at(time);
        assert!((at.right() - expected * Vec3::X).length() < 1e-5, "{time}");
        assert!((at.up() - expected * Vec3::Y).length() < 1e-5, "{time}");
    }
}
