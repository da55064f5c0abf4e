//! Poses between two ticks.

use crate::common::{Run, Slope, blocks, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::level::{Placement, Ride};
use rasant::{
    Carrier, Controller, Effect, Geometry, Hull, Intent, Keyframe, Level, PathEnd, Piece, Tuning, Vector,
    Zone,
};

fn right() -> Intent {
    Intent::steering(1.0, 0.0)
}

#[test]
fn the_ground_under_the_feet_is_as_far_below_as_the_pose_says() {
    fn check<V: Slope>() {
        let hulls = [
            (capsule(), 0.0),
            (upright_box(), 0.0),
            (Hull::ball(0.5).unwrap(), 0.0),
            (capsule().centred(), 0.5 * capsule().height()),
        ];
        for degrees in [0.0f32, 5.0, 20.0, 37.0, 44.0] {
            let level = V::slope(degrees.to_radians());
            for (hull, middle) in hulls {
                let mut body = Controller::new(Tuning::default(), hull, V::UP * (0.9 + hull.height()));
                for _ in 0..200 {
                    body.tick(&Intent::default(), &level, 1.0 / 60.0);
                }
                assert!(body.state().footing.is_firm(), "{degrees} {hull:?}");
                for tick in 0..20 {
                    for blend in [0.0, 0.3, 1.0] {
                        let pose = body.pose(blend);
                        let under = pose.position - pose.up * (pose.hover + middle);
                        // On the slope through the origin.
                        let [x, y, _] = under.to_array();
                        let off = y - x * degrees.to_radians().tan();
                        assert!(off.abs() < 1e-3, "{off} m off at {degrees} degrees, tick {tick}, {hull:?}");
                    }
                    body.tick(&right(), &level, 1.0 / 60.0);
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
    // In the air there is no ground to be above.
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::UP * 3.0, 60);
    run.tick(&floor::<Vec2>(9.0), Intent::default());
    assert_eq!(run.body.pose(0.5).hover, 0.0);
}

#[test]
fn up_turns_over_between_two_ticks_where_gravity_changes() {
    fn check<V: Geometry>(up: V) {
        let mut builder = Level::builder();
        builder.add(Piece::block(V::from_array([-9.0, -1.0, -9.0]), V::from_array([9.0, 0.0, 9.0])).unwrap());
        let (low, high) = (V::from_array([2.0, -9.0, -9.0]), V::from_array([9.0, 9.0, 9.0]));
        builder.add_zone(Zone::new(low, high, Effect::Gravity { up }));
        let level = builder.build().unwrap();
        let mut run = Run::new(Tuning::default(), capsule(), V::ZERO, 60);
        run.body.find_footing(&level);
        while run.body.state().up == V::UP {
            run.tick(&level, right());
        }
        let ups: Vec<V> = (0..=10).map(|tenth| run.body.pose(tenth as f32 / 10.0).up).collect();
        assert_eq!((ups[0], ups[10]), (V::UP, up));
        for pair in ups.windows(2) {
            // Evenly, and never of another length than 1.
            assert!((pair[0].length() - 1.0).abs() < 1e-5);
            let turned = pair[0].dot(pair[1]).clamp(-1.0, 1.0).acos();
            assert!((turned - 0.1 * V::UP.dot(up).acos()).abs() < 1e-3, "{ups:?}");
        }
        run.tick(&level, Intent::default());
        assert_eq!(run.body.pose(0.5).up, up);
    }
    for angle in [0.4f32, 1.5, 2.9, std::f32::consts::PI] {
        check(Vec2::new(angle.sin(), angle.cos()));
        check(Vec3::new(angle.sin(), angle.cos(), 0.0));
    }
    check(-Vec3::UP);
}

#[test]
fn a_rider_is_drawn_on_its_deck_at_every_blend() {
    fn check<V: Geometry>(turn: f32) {
        let key = |time: f32, x: f32, y: f32, turn: f32| {
            Keyframe::new(time, V::from_array([x, y, 0.0])).turned(turn)
        };
        let mut builder = Level::builder();
        let path = vec![key(0.0, 0.0, 0.0, 0.0), key(2.0, 3.0, 1.0, turn)];
        let deck = builder.add_carrier(Carrier::on_path(path, PathEnd::BackAndForth));
        let block = Piece::block(V::from_array([-2.0, -1.0, -2.0]), V::from_array([2.0, 0.0, 2.0])).unwrap();
        builder.add(block.riding(deck));
        let mut level = builder.build().unwrap();
        let mut body = Controller::new(Tuning::default(), capsule(), V::from_array([1.0, 0.0, 0.5]));
        body.find_footing(&level);
        let dt = 1.0 / 24.0;
        let mut stood = None;
        for tick in 0..200 {
            level.advance(dt);
            body.tick(&Intent::default(), &level, dt);
            let ride = level.carrier(deck).ride();
            for blend in [0.0f32, 0.25, 0.5, 0.9, 1.0, f32::NAN, -1.0, 7.0] {
                let on_deck = ride.blended(blend).undo(body.pose(blend).position);
                let at = *stood.get_or_insert(on_deck);
                // As it stood from the beginning: it neither sinks nor slides in the picture.
                assert!((on_deck - at).length() < 2e-3, "{on_deck:?}, {at:?} at {blend} in tick {tick}");
            }
        }
    }
    check::<Vec2>(0.0);
    check::<Vec3>(0.0);
    check::<Vec3>(1.5);
    let still = Ride::<Vec3> { from: Placement::default(), to: Placement::new(Vec3::X, 3.1) };
    assert_eq!((still.blended(0.0), still.blended(1.0)), (still.from, still.to));
}

/// For a box on steps as for a capsule: no frame moves further than its speed allows, except for
/// smoothing.
#[test]
fn boxes_and_capsules_are_drawn_up_steps_alike() {
    let level =
        blocks::<Vec2>(&[([-9.0, -1.0, -9.0], [0.0, 0.0, 9.0]), ([0.0, -1.0, -9.0], [9.0, 0.15, 9.0])]);
    let highest = |hull: Hull| {
        let mut run = Run::new(Tuning::default(), hull, Vec2::new(-2.0, 0.0), 60);
        run.body.find_footing(&level);
        let (mut last, mut most) = (run.body.pose(1.0).position, 0.0f32);
        for _ in 0..80 {
            run.tick(&level, right());
            for quarter in 1..=4 {
                let now = run.body.pose(quarter as f32 / 4.0).position;
                most = most.max((now - last).length());
                last = now;
            }
        }
        assert!(last.y > 0.14);
        most
    };
    let (box_most, capsule_most) = (highest(upright_box()), highest(capsule()));
    assert!(
        box_most < 0.045 && capsule_most < 0.045,
        "{box_most} m and {capsule_most} m in a 240th of a second"
    );
}

#[test]
fn the_walking_cycle_passes_0_and_a_half_at_the_footfalls_of_alternating_feet() {
    fn check<V: Geometry>(rate: u32, stride: f32, speed: f32) {
        let mut tuning = Tuning::default();
        tuning.walk.stride = stride;
        tuning.walk.speed = speed;
        let level = floor::<V>(200.0);
        let mut body = Controller::new(tuning, capsule(), V::ZERO);
        body.find_footing(&level);
        assert_eq!(body.pose(1.0).stride, 0.0);
        let forward = if V::DIMENSION == 2 { right() } else { Intent::steering(0.0, 1.0) };
        let (mut last, mut footfalls, mut cycles) = (0.0f32, 0u32, 0u32);
        for _ in 0..4 * rate {
            body.tick(&forward, &level, 1.0 / rate as f32);
            let down = body.events().contains(&rasant::Event::Footfall { surface: Some(Default::default()) });
            // It never runs back within a tick, and a half or a whole is passed with each footfall.
            let mut crossings = 0;
            for tenth in 0..=10 {
                let phase = body.pose(tenth as f32 / 10.0).stride;
                assert!((0.0..1.0).contains(&phase), "{phase}");
                let forward = if phase < last - 1e-4 { phase + 1.0 - last } else { phase - last };
                assert!((-1e-4..0.5).contains(&forward), "from {last} to {phase}");
                crossings += u32::from((phase >= 0.5) != (last >= 0.5));
                last = phase;
            }
            assert_eq!(crossings, u32::from(down), "at {last}, footfall: {down}");
            footfalls += u32::from(down);
            cycles += u32::from(down && last < 0.5);
        }
        assert!(footfalls > 3, "{footfalls} footfalls");
        assert_eq!(cycles, footfalls / 2, "the right foot is the first");
        body.tick(&forward.pressing(rasant::Actions::JUMP), &level, 1.0 / rate as f32);
        assert_eq!(body.pose(1.0).stride, 0.0, "off the ground");
    }
    for rate in [24, 60, 144] {
        for (stride, speed) in [(0.8, 4.0), (1.37, 6.5), (0.31, 1.0)] {
            check::<Vec2>(rate, stride, speed);
            check::<Vec3>(rate, stride, speed);
        }
    }
}

#[test]
fn a_maneuver_shows_its_phases_in_order_each_from_0_to_1() {
    use rasant::Phase;
    let mut tuning = Tuning::default();
    for (knob, value) in
        [("dash.charges", 1.0), ("dash.startup", 0.11), ("dash.active", 0.23), ("dash.recovery", 0.17)]
    {
        tuning.set(knob, value).unwrap();
    }
    let level = floor::<Vec2>(90.0);
    let mut body = Controller::new(tuning, capsule(), Vec2::ZERO);
    body.find_footing(&level);
    assert_eq!(body.pose(1.0).maneuver, None);
    let mut seen: Vec<(Phase, f32)> = Vec::new();
    for tick in 0..60 {
        let intent = if tick == 3 { right().pressing(rasant::Actions::DASH) } else { right() };
        body.tick(&intent, &level, 1.0 / 60.0);
        let pose = body.pose(1.0);
        assert!((pose.velocity - body.velocity()).length() < 1e-6);
        if let Some(maneuver) = pose.maneuver {
            assert_eq!(maneuver.name, rasant::state::Name::new("dash"));
            assert!((0.0..=1.0).contains(&maneuver.progress));
            if let Some(&(phase, progress)) = seen.last() {
                assert!(maneuver.phase != phase || maneuver.progress > progress, "{seen:?}");
            }
            seen.push((maneuver.phase, maneuver.progress));
        }
    }
    let ticks = |phase: Phase| seen.iter().filter(|(one, _)| *one == phase).count() as f32 / 60.0;
    assert!((ticks(Phase::Startup) - 0.11).abs() < 0.034, "{seen:?}");
    assert!((ticks(Phase::Active) - 0.23).abs() < 0.034, "{seen:?}");
    assert!((ticks(Phase::Recovery) - 0.17).abs() < 0.034, "{seen:?}");
    assert!(seen.windows(2).all(|pair| pair[0].0 as u8 <= pair[1].0 as u8), "{seen:?}");
}
