//! What rides on carriers is found wherever they go, and what cannot be named is
//! refused.

use std::collections::BTreeSet;

use crate::common::{Dice, Run, capsule};
use rasant::glam::{Vec2, Vec3};
use rasant::level::{Found, LevelError, Placement, Shape, Tag};
use rasant::space::Bounds;
use rasant::{
    Carrier, CarrierId, Effect, Geometry, Intent, Keyframe, Layers, Level, PathEnd, Piece, PieceId, Surface,
    SurfaceId, Surroundings, Tuning, Vector, Zone,
};

/// What a level gives for a region.
struct Answers<V> {
    pieces: Vec<(PieceId, Vec<V>)>,
    carriers: Vec<CarrierId>,
}

impl<V: Vector> Found<V> for Answers<V> {
    fn piece(&mut self, shape: Shape<'_, V>, tag: Tag) {
        self.pieces.push((tag.piece, corners(&shape)));
        self.carriers.extend(tag.carrier);
    }
}

fn corners<V: Vector>(shape: &Shape<'_, V>) -> Vec<V> {
    match shape {
        Shape::Polygon { points, .. } | Shape::Facet { points, .. } | Shape::Solid { points, .. } => {
            points.to_vec()
        }
        _ => panic!("only blocks here"),
    }
}

/// Some carriers on paths and some that the host sets, one of them with many pieces,
/// and zones on some.
fn fair<V: Geometry>(dice: &mut Dice, count: usize) -> Level<V> {
    let mut builder = Level::builder();
    for number in 0..count {
        let keys = (0..2 + dice.below(3)).scan(0.0, |time, key| {
            *time += if key == 0 { 0.0 } else { dice.number(0.0, 3.0) };
            let turn = if number % 3 == 0 { dice.number(-6.0, 6.0) } else { 0.0 };
            Some(Keyframe::new(*time, dice.vector(60.0)).turned(turn))
        });
        let ends = [PathEnd::Loop, PathEnd::BackAndForth, PathEnd::Stop];
        let carrier = if number % 4 == 1 {
            Carrier::set_by_host()
        } else {
            Carrier::on_path(keys.collect(), ends[number % 3])
        };
        let carrier = builder.add_carrier(carrier);
        for _ in 0..if number == 5 { 90 } else { dice.below(4) } {
            let at: V = dice.vector(if number == 5 { 20.0 } else { 3.0 });
            builder.add(Piece::block(at, at + V::splat(dice.number(0.2, 2.0))).unwrap().riding(carrier));
        }
        if number % 2 == 0 {
            let at: V = dice.vector(4.0);
            builder.add_zone(Zone::new(at, at + V::splat(2.0), Effect::Own(1)).riding(carrier));
        }
    }
    for _ in 0..30 {
        let at: V = dice.vector(60.0);
        builder.add_zone(Zone::new(at, at + V::splat(dice.number(0.5, 9.0)), Effect::Goal));
    }
    builder.build().unwrap()
}

/// Whether some point of the solid round some corners is within a region: a hundred
/// are tried.
fn reaches_into<V: Vector>(corners: &[V], region: &Bounds<V>, dice: &mut Dice) -> bool {
    let one = |point: V| Bounds { min: point, max: point };
    Bounds::around(corners).overlaps(region)
        && (0..100).any(|_| {
            let shares: Vec<f32> = corners.iter().map(|_| dice.number(0.0, 1.0).powi(6)).collect();
            let all: f32 = shares.iter().sum();
            let sum = corners
                .iter()
                .zip(&shares)
                .fold(V::ZERO, |sum, (&corner, fraction)| sum + corner * (fraction / all));
            one(sum).overlaps(region)
        })
}

fn everything_is_found<V: Geometry>(seed: u64) {
    let mut dice = Dice(seed);
    let mut level = fair::<V>(&mut dice, 40);
    let mut seen = 0;
    for tick in 0..600 {
        if tick % 97 == 50 {
            let time = f64::from(dice.number(0.0, 20.0));
            level.set_time(time, 1.0 / 60.0);
        }
        for number in (1..40u16).step_by(4) {
            if dice.below(3) > 0 {
                continue;
            }
            // Now and then far beyond where anything was.
            let reach = if dice.below(50) == 0 { 4000.0 } else { 40.0 };
            level.place(CarrierId(number), Placement::new(dice.vector(reach), dice.number(-1.0, 1.0)));
        }
        level.advance(1.0 / 60.0);
        let centre: V = dice.vector(60.0);
        let half = V::splat(dice.number(3.0, 18.0));
        let region = Bounds { min: centre - half, max: centre + half };
        let mut answers = Answers { pieces: Vec::new(), carriers: Vec::new() };
        level.pieces(&region, Layers::ALL, &mut answers);
        let found: BTreeSet<u32> = answers.pieces.iter().map(|piece| piece.0.0).collect();
        assert_eq!(found.len(), answers.pieces.len(), "none is found twice");
        let mut all = BTreeSet::new();
        level.each_shape(|shape, tag| {
            if reaches_into(&corners(&shape), &region, &mut dice) {
                all.insert(tag.piece.0);
            }
        });
        assert!(found.is_superset(&all), "tick {tick}: {all:?} in {found:?}");
        seen += all.len();

        let mut near = Vec::new();
        level.zones(&region, |zone| near.push(zone));
        let mut expected = Vec::new();
        level.each_zone(|id, zone| {
            if zone.bounds.overlaps(&region) {
                expected.push(id);
            }
        });
        assert_eq!(near, expected, "tick {tick}");

        let mut moving = BTreeSet::new();
        level.moving(&region, |carrier| assert!(moving.insert(carrier.0)));
        for carrier in answers.carriers {
            let ride = level.ride(carrier);
            assert!(ride.from == ride.to || moving.contains(&carrier.0), "tick {tick}");
        }
    }
    assert!(seen > 300, "{seen} pieces in all regions");
}

#[test]
fn riding_pieces_are_found_wherever_the_carrier_is() {
    everything_is_found::<Vec2>(3);
    everything_is_found::<Vec3>(4);
}

#[test]
fn a_carrier_at_rest_keeps_its_position() {
    let mut builder = Level::<Vec2>::builder();
    let stop = |time, x| Keyframe::new(time, Vec2::X * x);
    let lift = builder.add_carrier(Carrier::on_path(vec![stop(0.0, 0.0), stop(1.0, 3.0)], PathEnd::Stop));
    let hosts = builder.add_carrier(Carrier::set_by_host().starting_at(Placement::default()));
    builder.add(Piece::block(Vec2::ZERO, Vec2::ONE).unwrap().riding(lift));
    let mut level = builder.build().unwrap();
    for _ in 0..90 {
        level.advance(1.0 / 60.0);
    }
    for carrier in [lift, hosts] {
        let ride = level.ride(carrier);
        assert_eq!(ride.from, ride.to);
    }
    assert_eq!(level.ride(lift).to.offset(), Vec2::X * 3.0);
    // Placed once, it has moved in one tick only.
    level.place(hosts, Placement::new(Vec2::Y, 0.0));
    level.advance(1.0 / 60.0);
    assert_ne!(level.ride(hosts).from, level.ride(hosts).to);
    level.advance(1.0 / 60.0);
    assert_eq!(level.ride(hosts).from, level.ride(hosts).to);
    level.place(hosts, Placement::new(Vec2::NAN, 0.0));
    level.place(lift, Placement::new(Vec2::Y, 0.0));
    level.advance(1.0 / 60.0);
    assert_eq!(level.ride(hosts).to.offset(), Vec2::Y);
    level.set_time(0.5, 1.0 / 60.0);
    assert!((level.ride(lift).to.offset() - Vec2::X * 1.5).length() < 1e-5);
    level.advance(0.25);
    assert!((level.ride(lift).to.offset() - Vec2::X * 2.25).length() < 1e-5);
}

#[test]
fn unknown_ids_are_refused_when_the_level_is_built() {
    let most = (1 << 16) - 1;
    let mut builder = Level::<Vec2>::builder();
    for _ in 0..most {
        builder.add_zone(Zone::new(Vec2::ZERO, Vec2::ONE, Effect::Goal));
    }
    assert!(builder.clone().build().is_ok());
    builder.add_zone(Zone::new(Vec2::ZERO, Vec2::ONE, Effect::Goal));
    let refused = builder.build().unwrap_err();
    assert_eq!(refused, LevelError::TooMany { what: "zones", count: most + 1, most });
    assert_eq!(refused.to_string(), "65536 zones, expected at most 65535");

    let mut builder = Level::<Vec2>::builder();
    for _ in 0..32_768 {
        builder.add_carrier(Carrier::set_by_host());
    }
    // The ids above are those of bodies in a crowd.
    let mut level = builder.clone().build().unwrap();
    let full = LevelError::TooMany { what: "carriers", count: 32_769, most: 32_768 };
    assert_eq!(level.add_carrier(Carrier::set_by_host()).unwrap_err(), full);
    builder.add_carrier(Carrier::set_by_host());
    assert_eq!(builder.build().unwrap_err(), full);
    let mut builder = Level::<Vec2>::builder();
    // One is there from the start.
    for _ in 0..most {
        builder.add_surface(Surface::default());
    }
    assert!(matches!(builder.build(), Err(LevelError::TooMany { what: "surfaces", .. })));

    let block = || Piece::block(Vec2::ZERO, Vec2::ONE).unwrap();
    let with = |piece: Piece<Vec2>| {
        let mut builder = Level::builder();
        builder.add(block());
        builder.add(piece);
        builder.build().unwrap_err().to_string()
    };
    assert_eq!(with(block().riding(CarrierId(3))), "piece 1 refers to carrier 3, which is not there");
    assert_eq!(with(block().made_of(SurfaceId(9))), "piece 1 refers to surface 9, which is not there");
    let mut builder = Level::<Vec2>::builder();
    builder.add_zone(Zone::new(Vec2::ZERO, Vec2::ONE, Effect::Goal).riding(CarrierId(0)));
    assert_eq!(builder.build().unwrap_err().to_string(), "zone 0 refers to carrier 0, which is not there");
}

/// A body does the same to the bit whatever there is elsewhere, and whatever the
/// level has been through before.
#[test]
fn distant_pieces_change_nothing() {
    let run = |elsewhere: usize, wear: usize| {
        let mut dice = Dice(9);
        let mut builder = Level::<Vec3>::builder();
        let floor = Piece::block(Vec3::new(-20.0, -1.0, -20.0), Vec3::new(20.0, 0.0, 20.0)).unwrap();
        builder.add(floor);
        let mut ferry = |offset: Vec3, displacement: Vec3| {
            let key = |time, offset| Keyframe::new(time, offset);
            let path = vec![key(0.0, offset), key(2.0, offset + displacement)];
            let carrier = builder.add_carrier(Carrier::on_path(path, PathEnd::BackAndForth));
            let block = Piece::block(Vec3::new(-1.0, -0.1, -1.0), Vec3::new(1.0, 0.1, 1.0)).unwrap();
            builder.add(block.riding(carrier));
        };
        ferry(Vec3::new(3.0, 0.2, 0.0), Vec3::new(4.0, 0.0, 0.0));
        ferry(Vec3::new(3.0, 0.3, 1.5), Vec3::new(0.0, 2.0, 0.0));
        for _ in 0..elsewhere {
            ferry(dice.vector::<Vec3>(300.0) + Vec3::Y * 400.0, dice.vector(5.0));
        }
        let mut level = builder.build().unwrap();
        for _ in 0..wear {
            level.advance(0.05);
        }
        level.set_time(0.0, 1.0 / 60.0);
        let mut run = Run::new(Tuning::default(), capsule(), Vec3::Y * 0.005, 60);
        for tick in 0..600 {
            level.advance(1.0 / 60.0);
            let angle = (tick / 90) as f32;
            run.tick(&level, Intent::steering(angle.cos(), 0.3 * angle.sin()));
        }
        run.body.state().checksum()
    };
    let plain = run(0, 0);
    assert_eq!(plain, run(500, 0));
    assert_eq!(plain, run(500, 700));
}
