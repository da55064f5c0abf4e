//! Slopes, steps, crests, seams, rest.

use crate::common::{Dice, RATES, Run, Slope, blocks, capsule, floor, upright_box};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::Sides;
use rasant::state::FootingKind;
use rasant::{Actions, Geometry, Hull, Intent, Layers, Level, Mode, Piece, SurfaceId, Tuning, Vector};

const RIGHT: fn() -> Intent = || Intent::steering(1.0, 0.0);

fn rests<V: Slope>(hull: Hull, degrees: f32) {
    let level = V::slope(degrees.to_radians());
    let mut run = Run::new(Tuning::default(), hull, V::UP, 60);
    run.run(&level, 1.0, Intent::steering(0.3, 0.0));
    run.run(&level, 0.5, Intent::default());
    let at = *run.body.state();
    assert!(at.footing.is_firm(), "{degrees} degrees");
    run.run(&level, 10_000.0 / 60.0, Intent::default());
    let now = run.body.state();
    assert_eq!(now.position, at.position, "{degrees} degrees");
    assert_eq!(now.remainder, at.remainder, "{degrees} degrees");
    assert_eq!(now.velocity, V::ZERO);
    // The gap to the ground is the clearance, measured along its normal.
    let gap = gap(&run, &level);
    assert!((gap - 0.005).abs() < 3e-4, "{gap} m on {degrees} degrees");
}

fn gap<V: Geometry>(run: &Run<V>, level: &Level<V>) -> f32 {
    let reach = rasant::space::Bounds { min: V::splat(-0.5), max: V::splat(0.5) };
    let patch = rasant::contact::Patch::gather(run.body.state().frame(), &run.body.hull, reach, level);
    patch.nearest(V::ZERO, 0.5).map_or(f32::INFINITY, |nearest| nearest.distance)
}

#[test]
fn ten_thousand_ticks_at_rest_on_a_slope_change_no_bit() {
    for degrees in [0.0, 1.0, 7.0, 20.0, 33.0, 45.0, 49.5] {
        for hull in [capsule(), upright_box()] {
            rests::<Vec2>(hull, degrees);
            rests::<Vec3>(hull, degrees);
        }
    }
}

fn footing_after<V: Slope>(hull: Hull, degrees: f32) -> (FootingKind, usize) {
    let level = V::slope(degrees.to_radians());
    let mut run = Run::new(Tuning::default(), hull, V::UP, 60);
    run.run(&level, 0.4, Intent::default());
    let footing = run.body.state().footing.kind;
    let mut changes = 0;
    for _ in 0..60 {
        let before = run.body.state().footing.kind;
        run.tick(&level, RIGHT());
        changes += usize::from(before != run.body.state().footing.kind);
    }
    (footing, changes)
}

#[test]
fn a_degree_under_the_steepest_walks_a_degree_over_slides_and_nothing_flickers() {
    for hull in [capsule(), upright_box()] {
        for (degrees, expected) in [
            (49.0, FootingKind::Firm),
            (50.0, FootingKind::Firm),
            (51.0, FootingKind::Steep),
            (70.0, FootingKind::Steep),
        ] {
            assert_eq!(footing_after::<Vec2>(hull, degrees), (expected, 0), "{degrees} degrees");
            assert_eq!(footing_after::<Vec3>(hull, degrees), (expected, 0), "{degrees} degrees");
        }
    }
}

#[test]
fn steering_up_a_slope_that_is_too_steep_gains_no_height() {
    let level = Vec2::slope(55f32.to_radians());
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::UP, 60);
    run.run(&level, 0.2, RIGHT());
    let mut before = run.body.position().y;
    for _ in 0..120 {
        run.tick(&level, RIGHT());
        assert!(run.body.position().y <= before);
        before = run.body.position().y;
    }
}

#[test]
fn a_slope_too_steep_is_a_wall_to_walk_into() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add(Piece::polygon(&[Vec2::new(2.0, 0.0), Vec2::new(6.0, 0.0), Vec2::new(6.0, 6.0)]).unwrap());
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default();
    tuning.slope.max_angle = 40f32.to_radians();
    for speed in [4.0, 30.0] {
        tuning.walk.speed = speed;
        let mut run = Run::new(tuning, capsule(), Vec2::new(-5.0, 0.0), 60);
        run.body.find_footing(&level);
        run.run(&level, 3.0, RIGHT());
        assert_eq!(run.body.state().mode, Mode::Grounded, "at {speed} m/s");
        assert!(run.body.position().y < 0.01, "{} at {speed} m/s", run.body.position());
        assert_eq!(run.body.velocity(), Vec2::ZERO);
    }
}

/// Ten steps up to the right, then level ground.
fn stairs<V: Geometry>(rise: f32, course: f32) -> Level<V> {
    let mut corners = vec![([-9.0, -1.0, -5.0], [0.0, 0.0, 5.0])];
    for step in 0..10 {
        let (x, top) = (step as f32 * course, (step + 1) as f32 * rise);
        let end = if step == 9 { x + 20.0 } else { x + course };
        corners.push(([x, -1.0, -5.0], [end, top, 5.0]));
    }
    blocks(&corners)
}

fn climbs<V: Geometry>(hull: Hull, rise: f32, speed: f32, rate: u32) {
    let mut tuning = Tuning::default();
    tuning.walk.speed = speed;
    tuning.slope.step_height = 0.3;
    let level = stairs::<V>(rise, 0.4);
    let mut run = Run::new(tuning, hull, V::from_array([-3.0, 0.0, 0.0]), rate);
    run.body.find_footing(&level);
    run.run(&level, 1.0, RIGHT());
    let before = run.body.position();
    run.run(&level, 1.0, RIGHT());
    let displacement = run.body.position().component(0) - before.component(0);
    assert!(
        (displacement - speed).abs() < 0.02 * speed,
        "{displacement} m in a second up steps of {rise} m, {hull:?}"
    );
    run.run(&level, 6.0 / speed, RIGHT());
    let top = run.body.position().height();
    assert!((top - 10.0 * rise).abs() < 0.01, "{top}");
    // And down again, with the feet on the ground all the time.
    while run.body.position().component(0) > -1.0 {
        run.tick(&level, Intent::steering(-1.0, 0.0));
    }
    assert!(run.body.position().height() < 0.01, "{:?}", run.body.position());
    assert_eq!(run.count("left-ground"), 0, "{hull:?} {rise} m at {speed} m/s, {rate} Hz: {:?}", run.events);
}

#[test]
fn stairs_are_climbed_and_descended_without_losing_speed_or_the_ground() {
    for hull in [capsule(), upright_box(), Hull::ball(0.4).unwrap()] {
        for rise in [0.08, 0.2, 0.28] {
            for rate in [30, 60, 144] {
                climbs::<Vec2>(hull, rise, 4.0, rate);
                climbs::<Vec3>(hull, rise, 4.0, rate);
            }
        }
        climbs::<Vec2>(hull, 0.2, 0.7, 60);
        climbs::<Vec3>(hull, 0.2, 0.7, 60);
    }
}

#[test]
fn a_step_higher_than_the_curb_is_a_wall() {
    for hull in [capsule(), upright_box(), Hull::ball(0.6).unwrap()] {
        for (height, climbed) in [(0.29, true), (0.33, false), (0.5, false), (0.7, false)] {
            let level = blocks::<Vec3>(&[
                ([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]),
                ([1.0, 0.0, -9.0], [20.0, height, 9.0]),
            ]);
            let mut run = Run::new(Tuning::default(), hull, Vec3::ZERO, 60);
            run.body.find_footing(&level);
            run.run(&level, 3.0, RIGHT());
            assert_eq!(
                run.body.position().y > height - 0.01,
                climbed,
                "{height} m, {hull:?}: {}",
                run.body.position()
            );
        }
    }
}

#[test]
fn feet_follow_the_ground_over_a_crest_but_not_after_a_jump() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::polygon(&[Vec2::new(-10.0, 0.0), Vec2::new(0.0, 0.0), Vec2::new(0.0, 3.0)]).unwrap());
    builder.add(Piece::polygon(&[Vec2::new(0.0, 0.0), Vec2::new(6.0, 0.0), Vec2::new(0.0, 3.0)]).unwrap());
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default();
    tuning.walk.speed = 7.0;
    let start = Vec2::new(-7.0, 1.2);
    let mut run = Run::new(tuning, capsule(), start, 60);
    run.run(&level, 0.2, Intent::default());
    run.run(&level, 1.6, RIGHT());
    assert!(run.body.position().x > 2.0, "{}", run.body.position());
    assert_eq!(run.count("left-ground"), 0);

    tuning.jump.height = 0.15;
    let mut run = Run::new(tuning, capsule(), start, 60);
    run.run(&level, 0.2, Intent::default());
    run.run(&level, 0.95, RIGHT());
    run.tick(&level, RIGHT().pressing(Actions::JUMP));
    assert_eq!(run.body.state().mode, Mode::Airborne);
    run.tick(&level, RIGHT());
    assert_eq!(run.body.state().mode, Mode::Airborne, "a low jump is not pulled back");
}

/// The same flat floor built in many variants: the walk over each must be the walk over one slab.
#[test]
fn a_floor_of_many_pieces_feels_like_one() {
    let walk = |level: &Level<Vec3>, hull| {
        let mut run = Run::new(Tuning::default(), hull, Vec3::new(-8.0, 0.0, 0.13), 60);
        run.body.find_footing(level);
        let mut places = Vec::new();
        for tick in 0..240 {
            let intent = Intent::steering(0.9, 0.3 * (tick as f32 * 0.05).sin());
            run.tick(level, intent);
            places.push(run.body.position());
            assert_eq!(run.body.state().footing.normal, Vec3::Y, "the normal of a seam is that of the floor");
        }
        assert_eq!(run.events.len(), run.count("footfall"), "{:?}", run.events);
        places
    };
    let slab = floor::<Vec3>(10.0);
    let tiles: Vec<_> = (0..400)
        .map(|i| {
            let (x, z) = ((i % 20) as f32 - 10.0, (i / 20) as f32 - 10.0);
            ([x, -1.0, z], [x + 1.0, 0.0, z + 1.0])
        })
        .collect();
    let mut grid = Level::builder();
    let heights = rasant::level::HeightGrid {
        corner: Vec3::new(-10.0, 0.0, -10.0),
        spacing: Vec2::splat(0.37),
        columns: 60,
        heights: vec![0.0; 3600],
    };
    grid.add_heights(&heights, SurfaceId::default(), Layers::GROUND).unwrap();
    let mut fan = Level::builder();
    let rim: Vec<Vec3> =
        (0..24).map(|i| Vec3::X.turned(i as f32 * std::f32::consts::TAU / 24.0) * 12.0).collect();
    let vertices: Vec<Vec3> = std::iter::once(Vec3::new(-4.0, 0.0, 0.0)).chain(rim).collect();
    let triangles: Vec<[u32; 3]> = (0..24).map(|i| [0, 1 + i, 1 + (i + 1) % 24]).collect();
    fan.add_mesh(&vertices, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    let mut loose = Level::builder();
    for [a, b, c] in &triangles {
        // No shared vertices: every edge counts as exposed.
        loose.add(Piece::facet(&[*a, *b, *c].map(|corner| vertices[corner as usize])).unwrap());
    }
    for hull in [capsule(), upright_box(), Hull::ball(0.5).unwrap()] {
        let expected = walk(&slab, hull);
        for (name, level) in [
            ("tiles", blocks(&tiles)),
            ("grid", grid.clone().build().unwrap()),
            ("fan", fan.clone().build().unwrap()),
            ("loose", loose.clone().build().unwrap()),
        ] {
            for (tick, (a, b)) in walk(&level, hull).iter().zip(&expected).enumerate() {
                assert!((*a - *b).length() < 2e-4, "{name}, tick {tick}: {a} against {b}, {hull:?}");
            }
        }
    }
}

#[test]
fn a_wall_of_many_pieces_slides_like_one() {
    let mut tiles = vec![([-20.0, -1.0, -20.0], [20.0, 0.0, 20.0])];
    for i in 0..40 {
        let z = i as f32 * 0.8 - 16.0;
        tiles.push(([2.0, 0.0, z], [3.0, 1.0, z + 0.8]));
        tiles.push(([2.0, 1.0, z], [3.0, 3.0, z + 0.8]));
    }
    let level = blocks::<Vec3>(&tiles);
    for hull in [capsule(), upright_box()] {
        let mut run = Run::new(Tuning::default(), hull, Vec3::new(0.0, 0.0, 10.0), 60);
        run.body.find_footing(&level);
        run.run(&level, 1.0, Intent::steering(0.8, 0.6));
        let from = run.body.position();
        run.run(&level, 3.0, Intent::steering(0.8, 0.6));
        let displacement = run.body.position() - from;
        assert!(
            (displacement.z + 3.0 * 2.4).abs() < 0.01
                && displacement.x.abs() < 1e-3
                && displacement.y.abs() < 1e-4,
            "{displacement}"
        );
    }
}

#[test]
fn a_walk_across_a_slope_keeps_its_height_and_round_a_cone_its_speed() {
    let level = Vec3::slope(35f32.to_radians());
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::UP, 60);
    run.run(&level, 1.0, Intent::steering(0.0, 1.0));
    let from = run.body.position();
    run.run(&level, 2.0, Intent::steering(0.0, 1.0));
    let displacement = run.body.position() - from;
    assert!((displacement - Vec3::new(0.0, 0.0, -8.0)).length() < 0.01, "{displacement}");

    // A cone of 30 degrees with 64 sides; walking always straight across.
    let mut cone = Level::builder();
    let rim = |i: u32| Vec3::X.turned(i as f32 * std::f32::consts::TAU / 64.0) * 20.0;
    let mut vertices = vec![Vec3::Y * 20.0 * 30f32.to_radians().tan()];
    vertices.extend((0..64).map(rim));
    let triangles: Vec<[u32; 3]> = (0..64).map(|i| [0, 1 + i, 1 + (i + 1) % 64]).collect();
    cone.add_mesh(&vertices, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    let cone = cone.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec3::new(8.0, 8.0, 0.0), 60);
    run.run(&cone, 1.0, Intent::default());
    let mut displacement = 0.0;
    for tick in 0..600 {
        let out = run.body.position().flat().direction().unwrap();
        let across = out.turned(std::f32::consts::FRAC_PI_2);
        let from = run.body.position();
        run.tick(&cone, Intent::steering(across.x, -across.z));
        if tick >= 30 {
            displacement += (run.body.position() - from).length();
        }
        assert!(run.body.state().footing.is_firm(), "tick {tick}");
    }
    assert!((displacement - 4.0 * 570.0 / 60.0).abs() < 0.1, "{displacement} m in {} s", 570.0 / 60.0);
}

#[test]
fn a_dash_keeps_its_speed_up_a_slope() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-30.0, -1.0), Vec2::new(0.0, 0.0)).unwrap());
    builder.add(Piece::polygon(&[Vec2::ZERO, Vec2::new(60.0, 0.0), Vec2::new(60.0, 40.0)]).unwrap());
    let level = builder.build().unwrap();
    let mut tuning = Tuning::default();
    tuning.walk.speed = 40.0;
    for hull in [capsule(), upright_box()] {
        let mut run = Run::new(tuning, hull, Vec2::new(-20.0, 0.0), 60);
        run.body.find_footing(&level);
        let mut displacement = 0.0;
        for tick in 0..60 {
            let from = run.body.position();
            run.tick(&level, RIGHT());
            let step = (run.body.position() - from).length();
            displacement += if tick >= 10 { step } else { 0.0 };
        }
        // Into the slope's foot the capsule's path is a little shorter.
        assert!((displacement - 40.0 * 50.0 / 60.0).abs() < 0.25, "{displacement}");
        assert!(run.body.state().footing.is_firm());
    }
}

#[test]
fn a_level_four_kilometres_away_behaves_as_at_the_origin() {
    let far = Vec2::new(4000.0, 4000.0);
    let level_at = |origin: Vec2| {
        let mut builder = Level::<Vec2>::builder();
        let mut add = |points: &[Vec2]| {
            let moved: Vec<Vec2> = points.iter().map(|point| *point + origin).collect();
            builder.add(Piece::polygon(&moved).unwrap());
        };
        add(&[Vec2::new(-20.0, -1.0), Vec2::new(0.0, -1.0), Vec2::ZERO, Vec2::new(-20.0, 0.0)]);
        add(&[Vec2::new(0.0, -1.0), Vec2::new(8.0, -1.0), Vec2::new(8.0, 3.0), Vec2::ZERO]);
        add(&[Vec2::new(8.0, -1.0), Vec2::new(20.0, -1.0), Vec2::new(20.0, 3.25), Vec2::new(8.0, 3.25)]);
        builder.build().unwrap()
    };
    let go = |origin: Vec2| {
        let level = level_at(origin);
        let mut run = Run::new(Tuning::default(), capsule(), origin - Vec2::X * 4.0, 60);
        run.body.find_footing(&level);
        let mut places = Vec::new();
        for tick in 0..240 {
            let intent = if tick == 150 { RIGHT().pressing(Actions::JUMP) } else { RIGHT() };
            run.tick(&level, intent);
            let state = run.body.state();
            places.push((state.position - origin) + state.remainder);
        }
        places
    };
    for (tick, (near, away)) in go(Vec2::ZERO).iter().zip(go(far)).enumerate() {
        assert!((*near - away).length() < 1e-3, "tick {tick}: {near} against {away}");
    }
}

#[test]
fn a_one_way_platform_lets_rise_and_holds_from_above() {
    fn check<V: Geometry>() {
        let mut builder = Level::<V>::builder();
        builder.add(Piece::block(V::from_array([-5.0, -1.0, -5.0]), V::from_array([5.0, 0.0, 5.0])).unwrap());
        let awning = Piece::block(V::from_array([-5.0, 1.0, -5.0]), V::from_array([5.0, 1.2, 5.0])).unwrap();
        builder.add(awning.one_way());
        let level = builder.build().unwrap();
        for hull in [capsule(), upright_box()] {
            let mut run = Run::new(Tuning::default(), hull, V::ZERO, 60);
            run.body.find_footing(&level);
            run.run(&level, 0.3, Intent::steering(0.5, 0.0));
            assert!(run.body.position().height() < 0.1, "walks under it");
            run.tick(&level, Intent::default().pressing(Actions::JUMP));
            run.run(&level, 1.5, Intent::default());
            assert!((run.body.position().height() - 1.205).abs() < 1e-3, "{:?}", run.body.position());
            assert_eq!(run.count("bumped-head"), 0);
        }
    }
    check::<Vec2>();
    check::<Vec3>();
    // A segment drawn left to right is solid from above alone.
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::segment(Vec2::new(-5.0, 0.0), Vec2::new(5.0, 1.0), Sides::Left).unwrap());
    let level = builder.build().unwrap();
    let mut above = Run::new(Tuning::default(), capsule(), Vec2::Y * 3.0, 60);
    above.run(&level, 1.0, Intent::default());
    assert!(above.body.state().footing.is_firm());
    let mut below = Run::new(Tuning::default(), capsule(), Vec2::Y * -2.5, 60);
    let rising = rasant::State { velocity: Vec2::Y * 14.0, ..*below.body.state() };
    below.body.restore(rising);
    below.run(&level, 2.0, Intent::default());
    assert!(below.body.state().footing.is_firm() && below.body.position().y > 0.4);
}

#[test]
fn a_jump_that_ends_inside_a_thick_one_way_piece_falls_down_again() {
    fn check<V: Geometry>() {
        let mut builder = Level::<V>::builder();
        builder.add(Piece::block(V::from_array([-5.0, -1.0, -5.0]), V::from_array([5.0, 0.0, 5.0])).unwrap());
        let cloud = Piece::block(V::from_array([-5.0, 1.5, -5.0]), V::from_array([5.0, 2.5, 5.0])).unwrap();
        builder.add(cloud.one_way());
        let level = builder.build().unwrap();
        let rounded = rasant::HullShape::Box { width: 0.6, depth: 0.5, height: 1.5, rounding: 0.1 };
        for hull in [capsule(), upright_box(), Hull::ball(0.4).unwrap(), Hull::new(rounded).unwrap()] {
            let mut run = Run::new(Tuning::default(), hull, V::ZERO, 60);
            run.body.find_footing(&level);
            run.tick(&level, Intent::default().pressing(Actions::JUMP));
            run.run(&level, 1.5, Intent::default());
            assert!(
                (run.body.position().height() - 0.005).abs() < 1e-3,
                "{:?} {hull:?}",
                run.body.position()
            );
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_body_crouches_under_a_beam_and_stands_up_only_where_there_is_room() {
    fn check<V: Geometry>() {
        let beam = ([2.0, 1.2, -5.0], [4.0, 1.5, 5.0]);
        let level = blocks::<V>(&[([-9.0, -1.0, -9.0], [20.0, 0.0, 9.0]), beam]);
        for tall in [capsule(), upright_box()] {
            let low = tall.at_height(1.0);
            let mut run = Run::new(Tuning::default(), tall, V::ZERO, 60);
            run.body.find_footing(&level);
            run.run(&level, 1.0, RIGHT());
            assert!((run.body.position().component(0) - 1.645).abs() < 2e-3, "the beam stops it");
            assert!(run.body.change_hull(low, &level));
            run.run(&level, 0.3, RIGHT());
            assert!(run.body.position().component(0) > 2.0, "low, it goes under");
            assert!(!run.body.change_hull(tall, &level), "no room to stand up");
            assert_eq!(run.body.hull, low);
            run.run(&level, 0.8, RIGHT());
            assert!(run.body.change_hull(tall, &level), "room again at {:?}", run.body.position());
            assert!(run.body.state().footing.is_firm());
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_hull_is_stopped_by_its_own_layers_only() {
    const CROWD: Layers = Layers::only(3);
    let mut builder = Level::<Vec3>::builder();
    builder.add(Piece::block(Vec3::new(-9.0, -1.0, -9.0), Vec3::new(9.0, 0.0, 9.0)).unwrap());
    builder.add(Piece::block(Vec3::new(2.0, 0.0, -9.0), Vec3::new(3.0, 2.0, 9.0)).unwrap().on_layers(CROWD));
    let level = builder.build().unwrap();
    let reached = |layers| {
        let mut run = Run::new(Tuning::default(), capsule().with_mask(layers), Vec3::ZERO, 60);
        run.body.find_footing(&level);
        run.run(&level, 1.5, RIGHT());
        run.body.position().x
    };
    assert!((reached(Layers::ALL) - 1.645).abs() < 1e-3);
    assert!(reached(Layers::GROUND) > 5.0);
    assert!((reached(Layers::GROUND | CROWD) - 1.645).abs() < 1e-3);
}

#[test]
fn random_footing_is_never_lost_on_a_rolling_grid() {
    let mut dice = Dice(11);
    let columns = 48;
    let heights: Vec<f32> = (0..columns * columns)
        .map(|i| {
            let (x, z) = ((i % columns) as f32, (i / columns) as f32);
            0.7 * (x * 0.6).sin() + 0.7 * (z * 0.45).cos() + dice.number(-0.1, 0.1)
        })
        .collect();
    let grid = rasant::level::HeightGrid {
        corner: Vec3::new(-24.0, 0.0, -24.0),
        spacing: Vec2::splat(1.0),
        columns,
        heights,
    };
    let mut builder = Level::builder();
    builder.add_heights(&grid, SurfaceId::default(), Layers::GROUND).unwrap();
    let level = builder.build().unwrap();
    for hull in [capsule(), upright_box(), Hull::ball(0.3).unwrap()] {
        let mut run = Run::new(Tuning::default(), hull, Vec3::new(0.0, 5.0, 0.0), 60);
        run.run(&level, 2.0, Intent::default());
        for _ in 0..60 {
            let steer = dice.direction::<Vec2>();
            let home = -run.body.position().flat() * 0.05;
            for _ in 0..30 {
                run.tick(&level, Intent::steering(steer.x + home.x, steer.y - home.z));
                assert!(run.body.state().footing.is_firm(), "{:?} at {}", hull.shape(), run.body.position());
            }
        }
    }
}

#[test]
fn pressing_against_a_wall_is_one_meeting_at_any_rate() {
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([3.0, 0.0, 0.0], [4.0, 6.0, 0.0])]);
    for rate in [30, 60, 120, 240, 480, 1000] {
        for hull in [capsule(), upright_box()] {
            let mut run = Run::new(Tuning::default(), hull, Vec2::ZERO, rate);
            run.run(&level, 3.0, RIGHT());
            assert_eq!((run.count("wall-met"), run.count("wall-left")), (1, 0), "{rate} ticks a second");
            let stood = run.body.position();
            run.run(&level, 1.0, RIGHT());
            assert_eq!(run.body.position(), stood, "{rate} ticks a second");
            // In a jump along it, too; and left where it is left.
            run.tick(&level, RIGHT().pressing(Actions::JUMP));
            run.run(&level, 1.0, RIGHT());
            assert_eq!((run.count("wall-met"), run.count("wall-left")), (1, 0), "{rate} ticks a second");
            run.run(&level, 0.2, Intent::steering(-1.0, 0.0));
            assert_eq!((run.count("wall-met"), run.count("wall-left")), (1, 1), "{rate} ticks a second");
        }
    }
}

#[test]
fn a_body_pressed_against_a_wall_is_released_at_its_end() {
    let level = blocks::<Vec2>(&[([-9.0, -1.0, 0.0], [9.0, 0.0, 0.0]), ([3.0, 0.0, 0.0], [4.0, 1.2, 0.0])]);
    for rate in RATES {
        let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, rate);
        run.run(&level, 1.5, RIGHT());
        run.tick(&level, RIGHT().pressing(Actions::JUMP));
        run.run(&level, 1.0, RIGHT());
        assert!(run.body.position().x > 4.0, "{rate} ticks a second: over it");
    }
}

/// How far a body has slid off a level edge after a second over which it hangs out
/// by `over`, with ground `drop` below, how high it is and whether it stands.
fn off_an_edge<V: Geometry>(level: &Level<V>, out: V, over: f32, rate: u32) -> (f32, f32, bool) {
    let mut run = Run::new(Tuning::default(), capsule(), out * over + V::UP * 0.005, rate);
    run.body.find_footing(level);
    run.run(level, 1.0, Intent::default());
    let state = run.body.state();
    (state.position.dot(out) - over, state.position.height(), state.footing.is_firm())
}

#[test]
fn a_round_foot_slips_off_edges_by_one_rule_in_the_plane_and_in_space() {
    for drop in [0.2, 0.3, 0.34, 0.45, 0.6, 3.0] {
        let (top, low) = (Vec3::new(9.0, 2.0, 9.0), -1.0 - drop);
        let flat = blocks::<Vec2>(&[
            ([-9.0, -2.0, -9.0], [0.0, 0.0, 9.0]),
            ([-9.0, low - 1.0, -9.0], [9.0, low + 1.0, 9.0]),
        ]);
        for degrees in [0.0f32, 17.0, 133.3] {
            let turn = Quat::from_rotation_y(degrees.to_radians());
            let out = turn * Vec3::X;
            let mut builder = Level::builder();
            builder.add(Piece::turned_box(out * -9.0 - Vec3::Y * top.y, top, turn).unwrap());
            let ground = Vec3::new(30.0, 1.0, 30.0);
            builder.add(Piece::turned_box(Vec3::Y * low, ground, Quat::IDENTITY).unwrap());
            let level = builder.build().unwrap();
            for tenths in 0..35 {
                let over = 0.01 * tenths as f32;
                let plane = off_an_edge(&flat, Vec2::X, over, 60);
                let space = off_an_edge(&level, out, over, 60);
                let case = format!("{over} over {drop}, {degrees}: {plane:?} {space:?}");
                assert!((plane.0 - space.0).abs() < 2e-3 && (plane.1 - space.1).abs() < 2e-3, "{case}");
                assert_eq!(plane.2, space.2, "{case}");
                // Where feet neither step up nor follow down, it slips past the angle.
                let slips = (over / 0.355).asin() > 50f32.to_radians();
                if drop > 1.0 && ((over / 0.355).asin() - 50f32.to_radians()).abs() > 0.05 {
                    assert_eq!(space.1 < -0.5, slips, "{case}");
                }
                if drop < 0.31 {
                    assert!(plane.0.abs() < 1e-3, "{case}");
                }
            }
        }
    }
}

#[test]
fn ground_too_steep_to_walk_is_a_wall_for_a_walking_body() {
    fn check<V: Wedge>() {
        for hull in [capsule(), upright_box()] {
            for rate in [30, 60, 144] {
                for angle in [52.0f32, 60.0, 75.0, 85.0] {
                    // A foot of the slope at x = 3, rising to the right.
                    let rise = angle.to_radians().tan();
                    let mut builder = Level::builder();
                    builder.add(
                        Piece::block(V::from_array([-9.0, -1.0, -9.0]), V::from_array([40.0, 0.0, 9.0]))
                            .unwrap(),
                    );
                    for piece in V::wedge(3.0, rise) {
                        builder.add(piece);
                    }
                    let level = builder.build().unwrap();
                    let mut run = Run::new(Tuning::default(), hull, V::ZERO, rate);
                    run.run(&level, 0.3, Intent::default());
                    run.run(&level, 3.0, Intent::steering(1.0, 0.0));
                    let events = (run.count("wall-met"), run.count("wall-left"));
                    assert_eq!(events, (1, 0), "{angle} degrees at {rate}, {hull:?}");
                    assert!(run.body.state().touching.wall);
                    assert!(run.body.state().touching.beside.is_some());
                    run.run(&level, 0.5, Intent::steering(-1.0, 0.0));
                    assert_eq!((run.count("wall-met"), run.count("wall-left")), (1, 1));
                    assert!(!run.body.state().touching.wall);
                }
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

trait Wedge: Geometry {
    fn wedge(foot: f32, rise: f32) -> Vec<Piece<Self>>;
}

impl Wedge for Vec2 {
    fn wedge(foot: f32, rise: f32) -> Vec<Piece<Self>> {
        let corners = [Vec2::new(foot, 0.0), Vec2::new(foot + 4.0, 0.0), Vec2::new(foot + 4.0, 4.0 * rise)];
        vec![Piece::polygon(&corners).unwrap()]
    }
}

impl Wedge for Vec3 {
    fn wedge(foot: f32, rise: f32) -> Vec<Piece<Self>> {
        let mut corners = Vec::new();
        for z in [-9.0, 9.0] {
            corners.extend([
                Vec3::new(foot, 0.0, z),
                Vec3::new(foot + 4.0, 0.0, z),
                Vec3::new(foot + 4.0, 4.0 * rise, z),
            ]);
        }
        vec![Piece::solid(&corners).unwrap()]
    }
}
