//! Zones act from their borders on, at any tick rate and speed.

use crate::common::{Dice, Run, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Effect, Event, Geometry, Hull, Intent, Level, Piece, Tuning, Vector, Zone, ZoneId};

const RATES: [u32; 6] = [24, 30, 60, 90, 144, 240];

fn spread<V: Vector>(places: &[V]) -> f32 {
    let apart = |a: &V| places.iter().map(|b| (*a - *b).length()).fold(0.0, f32::max);
    places.iter().map(apart).fold(0.0, f32::max)
}

/// A floor, and zones over it given by their borders along x.
pub fn level<V: Geometry>(zones: &[(f32, f32, Effect<V>)]) -> Level<V> {
    let mut builder = Level::builder();
    let corner = |x, y, z| V::from_array([x, y, z]);
    builder.add(Piece::block(corner(-300.0, -1.0, -60.0), corner(300.0, 0.0, 60.0)).unwrap());
    for (from, to, effect) in zones {
        builder.add_zone(Zone::new(corner(*from, -1.0, -60.0), corner(*to, 90.0, 60.0), *effect));
    }
    builder.build().unwrap()
}

/// Where bodies that are thrown or walk through these zones end, at each rate.
fn ends<V: Geometry>(level: &Level<V>, hull: Hull, thrown: Option<V>, seconds: f32) -> Vec<V> {
    let end = |rate: u32| {
        let mut tuning = Tuning::default();
        tuning.walk.reach_time = 0.0;
        let mut run = Run::new(tuning, hull, V::UP * hull.clearance(), rate);
        run.body.find_footing(level);
        if let Some(velocity) = thrown {
            run.body.throw(velocity);
        }
        run.run(level, seconds, Intent::steering(1.0, 0.0));
        run.body.position()
    };
    RATES.into_iter().map(end).collect()
}

#[test]
fn wind_water_and_mud_act_alike_at_any_rate() {
    fn alike<V: Geometry>() {
        let effects = [
            Effect::Wind { push: V::UP * 40.0 },
            Effect::Wind { push: V::RIGHT * -30.0 },
            Effect::Slow { pace: 0.3 },
        ];
        for effect in effects {
            for hull in [capsule(), upright_box()] {
                for (from, to) in [(1.37, 2.9), (1.37, 30.0), (1.0, 1.21)] {
                    let level = level(&[(from, to, effect)]);
                    for thrown in [None, Some(V::RIGHT * 6.0 + V::UP * 9.0)] {
                        let ends = ends(&level, hull, thrown, 1.0);
                        let apart = spread(&ends);
                        assert!(
                            apart < 0.02,
                            "{effect:?} {from} to {to}, {thrown:?}, {hull:?}: {apart} m {ends:?}"
                        );
                    }
                }
            }
        }
    }
    alike::<Vec2>();
    alike::<Vec3>();
}

#[test]
fn another_gravity_begins_at_the_border_at_any_rate() {
    fn alike<V: Geometry>() {
        let level = level::<V>(&[(1.37, 60.0, Effect::Gravity { up: V::RIGHT * -1.0 })]);
        let thrown = V::RIGHT * 5.0 + V::UP * 14.0;
        for hull in [capsule(), Hull::ball(0.4).unwrap()] {
            let ends = ends(&level, hull, Some(thrown), 0.5);
            assert!(spread(&ends) < 0.05, "{hull:?}: {ends:?}");
        }
    }
    alike::<Vec2>();
    alike::<Vec3>();
}

#[test]
fn no_body_is_too_fast_for_a_thin_hazard() {
    fn never<V: Geometry>() {
        let mut dice = Dice(5);
        for rate in RATES {
            for thickness in [0.02, 0.1, 0.4] {
                for _ in 0..20 {
                    let from = dice.number(2.0, 9.0);
                    let mut level = level::<V>(&[(from, from + thickness, Effect::Hazard)]);
                    level.advance(1.0 / rate as f32);
                    let mut tuning = Tuning::default();
                    tuning.dash.charges = 1.0;
                    tuning.dash.active = 0.2;
                    tuning.dash.distance = 0.2 * dice.number(60.0, 100.0);
                    let mut run = Run::new(tuning, capsule(), V::UP * 0.005, rate);
                    run.body.find_footing(&level);
                    run.tick(&level, Intent::steering(1.0, 0.0).pressing(Actions::DASH));
                    run.run(&level, 0.3, Intent::default());
                    let names: Vec<_> = run.events.iter().map(|(_, event)| event.name()).collect();
                    assert_eq!(run.count("respawned"), 1, "{rate}/s {from} {thickness}: {names:?}");
                    assert_eq!((run.count("zone-entered"), run.count("zone-left")), (1, 1));
                    assert!(run.body.position().component(0) < 1e-3);
                }
            }
        }
    }
    never::<Vec2>();
    never::<Vec3>();
}

/// A press in a tick that is cut at a border is one press.
#[test]
fn a_press_at_a_border_is_seen_once() {
    let level = level::<Vec2>(&[(1.0, 30.0, Effect::Slow { pace: 0.9 })]);
    for rate in RATES {
        for tick in 0..rate as usize / 2 {
            let mut tuning = Tuning::default();
            tuning.jump.air_count = 3.0;
            let mut run = Run::new(tuning, capsule(), Vec2::Y * 0.005, rate);
            run.body.find_footing(&level);
            for now in 0..rate as usize {
                let steer = Intent::steering(1.0, 0.0);
                run.tick(&level, if now == tick { steer.pressing(Actions::JUMP) } else { steer });
            }
            assert_eq!(run.jumps().len(), 1, "{rate}/s, tick {tick}");
        }
    }
}

#[test]
fn zones_that_act_come_before_those_that_only_tell() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-30.0, -1.0), Vec2::new(30.0, 0.0)).unwrap());
    for number in 0..14 {
        builder.add_zone(Zone::new(Vec2::new(2.0, 0.0), Vec2::new(9.0, 9.0), Effect::Own(number)));
    }
    builder.add_zone(Zone::new(Vec2::new(3.0, 0.0), Vec2::new(9.0, 9.0), Effect::Slow { pace: 0.5 }));
    builder.add_zone(Zone::new(Vec2::new(6.0, 0.0), Vec2::new(9.0, 9.0), Effect::Hazard));
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::Y * 0.005, 60);
    run.run(&level, 1.1, Intent::steering(1.0, 0.0));
    assert!((run.body.velocity().x - 2.0).abs() < 1e-3, "{}", run.body.velocity());
    assert!(run.body.state().zones.contains(ZoneId(14)));
    run.run(&level, 3.0, Intent::steering(1.0, 0.0));
    assert!(run.events.iter().any(|(_, event)| matches!(event, Event::Respawned)));
    let _ = floor::<Vec3>(1.0);
}
