//! A world, a hull and a tuning of another size give the same motion.

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, capsule, upright_box};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::LevelBuilder;
use rasant::state::Name;
use rasant::tuning::KnobError;
use rasant::{
    Carrier, Controller, Effect, Event, Geometry, Hull, HullShape, Intent, Keyframe, Layers, Level, PathEnd,
    Piece, Plan, Steering, Surface, SurfaceId, Tuning, Vector, Zone,
};

const SCALES: [f32; 5] = [1.0 / 64.0, 0.25, 2.0, 16.0, 64.0];

/// Pieces of a dimension that are not boxes along the axes, `scale` times as large.
trait Rubble: Geometry {
    fn rubble(builder: &mut LevelBuilder<Self>, dice: &mut Dice, scale: f32);
}

impl Rubble for Vec2 {
    fn rubble(builder: &mut LevelBuilder<Vec2>, dice: &mut Dice, scale: f32) {
        for _ in 0..30 {
            let at = dice.vector::<Vec2>(20.0) * Vec2::new(1.0, 0.2);
            let size = dice.number(0.2, 1.6);
            let corners = 3 + dice.below(5);
            let outline: Vec<Vec2> = (0..corners)
                .map(|i| at + Vec2::from_angle(i as f32 * std::f32::consts::TAU / corners as f32) * size)
                .map(|corner| corner * scale)
                .collect();
            builder.add(match dice.below(4) {
                0 => Piece::ball(at * scale, 0.5 * size * scale).unwrap(),
                1 => Piece::segment(outline[0], outline[1], rasant::level::Sides::Both).unwrap(),
                _ => Piece::polygon(&outline).unwrap(),
            });
        }
    }
}

impl Rubble for Vec3 {
    fn rubble(builder: &mut LevelBuilder<Vec3>, dice: &mut Dice, scale: f32) {
        for _ in 0..25 {
            let at = dice.vector::<Vec3>(14.0) * Vec3::new(1.0, 0.15, 0.6);
            let half = Vec3::splat(0.1) + dice.vector::<Vec3>(1.2).abs();
            let turn = Quat::from_axis_angle(dice.direction(), dice.number(0.0, 3.0));
            let corners: Vec<Vec3> = (0..7).map(|_| (at + dice.vector::<Vec3>(1.5)) * scale).collect();
            builder.add(match dice.below(3) {
                0 => Piece::solid(&corners).unwrap(),
                1 => Piece::ball(at * scale, half.x * scale).unwrap(),
                _ => Piece::turned_box(at * scale, half * scale, turn).unwrap(),
            });
        }
        let height = |x: i32, z: i32| 0.4 + 0.35 * ((x * 7 + z * 13) as f32).sin();
        let mut corners = Vec::new();
        let mut triangles = Vec::new();
        for x in 0..20 {
            for z in 0..20 {
                corners.push(Vec3::new(x as f32 - 10.0, height(x, z), z as f32 - 10.0) * scale);
                if x > 0 && z > 0 {
                    let [a, b, c, d] = [(x - 1, z - 1), (x, z - 1), (x - 1, z), (x, z)]
                        .map(|(x, z)| u32::try_from(20 * x + z).unwrap());
                    triangles.extend([[a, c, b], [b, c, d]]);
                }
            }
        }
        builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
    }
}

/// Something of everything, `scale` times as large.
fn course<V: Rubble>(seed: u64, scale: f32) -> Level<V> {
    let mut dice = Dice(seed);
    let mut builder = Level::builder();
    let point = |x: f32, y: f32, z: f32| V::from_array([x, y, z]) * scale;
    let mud = builder.add_surface(Surface { traction: 0.3, pace: 0.5, ..Surface::default() });
    let spring = builder.add_surface(Surface { bounce: 0.7, ..Surface::default() });
    let band = builder.add_surface(Surface { drift: V::RIGHT * (2.0 * scale), ..Surface::default() });
    let mut carrier = |start: V, displacement: V, turn: f32, time: f32| {
        let first = Keyframe::new(0.0, start);
        let path = vec![first, Keyframe::new(time, start + displacement).turned(turn)];
        builder.add_carrier(Carrier::on_path(path, PathEnd::BackAndForth))
    };
    let lift = carrier(V::ZERO, V::UP * (4.0 * scale), 0.0, 3.0);
    let wheel = carrier(point(5.0, 2.0, 0.0), V::RIGHT * scale, 3.0, 3.0);
    let block = |min: [f32; 3], max: [f32; 3]| {
        Piece::block(V::from_array(min) * scale, V::from_array(max) * scale).unwrap()
    };
    builder.add(block([-25.0, -2.0, -12.0], [25.0, 0.0, 12.0]));
    builder.add(block([-26.0, -2.0, -12.0], [-25.0, 30.0, 12.0]));
    builder.add(block([25.0, -2.0, -12.0], [26.0, 30.0, 12.0]));
    for step in 0..6 {
        let (x, y) = (4.0 + 0.4 * step as f32, 0.2 * (step + 1) as f32);
        builder.add(block([x, 0.0, -4.0], [x + 0.4, y, 4.0]));
    }
    builder.add(block([-3.0, 0.0, -6.0], [-2.0, 2.2, 6.0]));
    builder.add(block([-6.0, 1.3, -6.0], [-4.5, 3.0, 6.0]));
    builder.add(block([10.0, 0.0, -6.0], [12.0, 0.3, 6.0]).made_of(mud));
    builder.add(block([12.0, 0.0, -6.0], [15.0, 0.4, 6.0]).made_of(spring));
    builder.add(block([15.0, 0.0, -6.0], [20.0, 0.5, 6.0]).made_of(band));
    builder.add(block([-20.0, 2.8, -5.0], [-12.0, 3.0, 5.0]).one_way());
    builder.add(block([-11.0, 0.0, -3.0], [-8.0, 0.4, 3.0]).riding(lift));
    builder.add(block([-3.0, -0.3, -3.0], [3.0, 0.0, 3.0]).riding(wheel));
    V::rubble(&mut builder, &mut dice, scale);
    let mut zone = |min: [f32; 3], max: [f32; 3], effect: Effect<V>| {
        builder.add_zone(Zone::new(V::from_array(min) * scale, V::from_array(max) * scale, effect));
    };
    zone([-15.3, 0.0, -4.0], [-14.7, 6.0, 4.0], Effect::Ladder { front: V::ZERO });
    zone([20.0, 0.0, -6.0], [22.0, 9.0, 6.0], Effect::Wind { push: V::UP * (60.0 * scale) });
    zone([-8.0, 0.0, -12.0], [-5.0, 4.0, 12.0], Effect::Water);
    zone([0.0, 3.0, -6.0], [4.0, 7.0, 6.0], Effect::Gravity { up: V::UP * -3.0 });
    zone([23.5, 0.0, -12.0], [25.0, 0.4, 12.0], Effect::Hazard);
    zone([0.0, 0.0, -4.0], [2.0, 4.0, 4.0], Effect::Checkpoint);
    builder.build().unwrap()
}

/// The numbers of an event that grow with the world, at a scale of 1.
fn at_scale_1<V: Vector>(event: &Event<V>, scale: f32) -> String {
    match *event {
        Event::Landed { speed, surface, .. } => format!("landed {} {surface:?}", speed / scale),
        Event::Bounced { speed, .. } => format!("bounced {}", speed / scale),
        Event::BumpedHead { speed, .. } => format!("bumped {}", speed / scale),
        Event::WallMet { normal, speed, .. } => format!("wall {normal:?} {}", speed / scale),
        Event::Apex { position } => format!("apex {:?}", position * (1.0 / scale)),
        ref other => format!("{other:?}"),
    }
}

/// What a body did, tick by tick, at a scale of 1.
fn life<V: Rubble>(seed: u64, scale: f32) -> Vec<String> {
    let mut dice = Dice(seed);
    let mut level = course::<V>(seed, scale);
    let rounded = HullShape::Box { width: 0.8, depth: 0.5, height: 1.5, rounding: 0.1 };
    let hulls = [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()];
    let hull = hulls[dice.below(hulls.len())].scaled(scale).unwrap();
    let mut tuning = any_tuning(&mut dice, V::DIMENSION);
    tuning.slope.soften_time = 0.1;
    if dice.below(2) == 0 {
        tuning.steering = Steering::Usual;
    }
    let tuning = tuning.scaled(scale).unwrap();
    let start = V::from_array([dice.number(-20.0, 20.0), 5.0, dice.number(-3.0, 3.0)]) * scale;
    let mut body = Controller::new(tuning, hull, start);
    let rate = [24.0, 30.0, 60.0, 144.0][dice.below(4)];
    let mut intent = Intent::default();
    let mut log = Vec::new();
    for _ in 0..600 {
        intent = any_intent(&mut dice, &intent);
        match dice.below(200) {
            0 => body.throw(dice.vector::<V>(15.0) * scale),
            1 => body.knock_back(dice.vector::<V>(10.0) * scale, 0.3),
            2 => body.root_motion(dice.vector::<V>(0.3) * scale),
            3 => {
                let plan = Plan { active: 0.3, distance: 3.0 * scale, gravity: true, ..Plan::default() };
                body.begin(Name::new("own"), plan, dice.direction());
            }
            _ => {}
        }
        level.advance(1.0 / rate);
        let events: Vec<String> =
            body.tick(&intent, &level, 1.0 / rate).iter().map(|event| at_scale_1(event, scale)).collect();
        let (state, back) = (body.state(), 1.0 / scale);
        log.push(format!(
            "{:?} {:?} {:?} {:?} {} {} {:?} {:?} {:?} {} {} {} {:?} {}",
            state.position * back,
            state.remainder * back,
            state.velocity * back,
            state.facing,
            state.mode,
            state.animation.gait,
            state.footing.normal,
            body.pose(0.5).position * back,
            state.carry_over.crushed,
            state.carry_over.step_lead * back,
            state.animation.step_offset * back,
            state.animation.stride * back,
            state.touching.beside,
            events.join(", "),
        ));
    }
    log
}

fn alike_at_all_scales<V: Rubble>(first: u64, lives: u64) {
    for seed in first..first + lives {
        let usual = life::<V>(seed, 1.0);
        for scale in SCALES {
            let scaled = life::<V>(seed, scale);
            let parts = usual.iter().zip(&scaled).position(|(a, b)| a != b);
            if let Some(tick) = parts {
                panic!(
                    "seed {seed}, {scale} times as large, tick {tick}:\n{}\n{}\n{}",
                    usual[tick.saturating_sub(1)],
                    usual[tick],
                    scaled[tick]
                );
            }
        }
    }
}

#[test]
fn in_the_plane_motion_is_the_same_to_the_bit_at_any_power_of_two() {
    alike_at_all_scales::<Vec2>(1, 150);
}

#[test]
fn in_space_motion_is_the_same_to_the_bit_at_any_power_of_two() {
    alike_at_all_scales::<Vec3>(1001, 100);
}

/// A hull made larger is the hull of the larger sizes.
#[test]
fn a_scaled_hull_is_one_of_scaled_sizes() {
    for scale in SCALES {
        let larger = Hull::capsule(0.35 * scale, 1.8 * scale).unwrap();
        assert_eq!(capsule().scaled(scale).unwrap(), larger);
        assert_eq!(
            upright_box().scaled(scale).unwrap(),
            Hull::upright_box(0.7 * scale, 1.8 * scale).unwrap()
        );
    }
}

#[test]
fn ranges_of_knobs_grow_with_the_scale() {
    let mut tuning = Tuning::default().scaled(32.0).unwrap();
    assert_eq!(tuning.checked(), Ok(()));
    tuning.set("jump.height", 3200.0).unwrap();
    assert_eq!(tuning.checked(), Ok(()));
    assert!(matches!(
        tuning.set("jump.height", 3201.0),
        Err(KnobError::Range { knob, .. }) if knob.range().to_string() == "0.32 to 3200 m"
    ));
    assert!(tuning.set("jump.coyote_time", 32.0).is_err(), "times do not grow");
    let back = tuning.scaled(1.0 / 32.0).unwrap();
    assert_eq!((back.scale, back.jump.height), (1.0, 100.0));
    for factor in [0.0, -1.0, f32::NAN, f32::INFINITY] {
        let expected = "expected a finite number above 0";
        assert!(tuning.scaled(factor).unwrap_err().to_string().ends_with(expected));
        assert!(capsule().scaled(factor).unwrap_err().to_string().ends_with(expected));
    }
}
