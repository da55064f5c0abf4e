//! A body at rest costs little, and wakes on the first change.

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, capsule, upright_box};
use crate::everything::town;
use rasant::controller::tick_into;
use rasant::glam::{Vec2, Vec3};
use rasant::level::{Found, Placement};
use rasant::space::Bounds;
use rasant::state::Events;
use rasant::{
    Actions, Carrier, CarrierId, Controller, Geometry, Hull, Intent, Layers, Level, Piece, State, Surface,
    SurfaceId, Surroundings, Tuning, Vector,
};
use std::cell::Cell;

/// A level that counts the queries for pieces.
struct Counted<V> {
    level: Level<V>,
    queries: Cell<u32>,
}

impl<V: Vector> Surroundings<V> for Counted<V> {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        self.queries.set(self.queries.get() + 1);
        self.level.pieces(region, mask, found);
    }

    fn surface(&self, id: SurfaceId) -> Surface<V> {
        self.level.surface(id)
    }

    fn ride(&self, id: CarrierId) -> rasant::level::Ride<V> {
        self.level.ride(id)
    }

    fn moving(&self, region: &Bounds<V>, found: impl FnMut(CarrierId)) {
        self.level.moving(region, found);
    }

    fn stamp(&self, region: &Bounds<V>) -> Option<u64> {
        self.level.stamp(region)
    }
}

/// A floor, a platform that the host moves at the body's feet, and another far away.
fn platforms<V: Geometry>() -> Counted<V> {
    let mut builder = Level::builder();
    let corner = |x, y, z| V::from_array([x, y, z]);
    builder.add(Piece::block(corner(-50.0, -1.0, -50.0), corner(50.0, 0.0, 50.0)).unwrap());
    for x in [0.0, 40.0] {
        let carrier = builder.add_carrier(Carrier::set_by_host().starting_at(Placement::default()));
        let (min, max) = (corner(x - 1.0, 0.0, -1.0), corner(x + 1.0, 0.5, 1.0));
        builder.add(Piece::block(min, max).unwrap().riding(carrier));
    }
    Counted { level: builder.build().unwrap(), queries: Cell::new(0) }
}

const DT: f32 = 1.0 / 60.0;

fn on_the_platform<V: Geometry>() -> (Counted<V>, Controller<V>) {
    let mut world = platforms::<V>();
    let mut body = Controller::new(Tuning::default(), capsule(), V::UP * 0.6);
    for _ in 0..120 {
        world.level.advance(DT);
        body.tick(&Intent::default(), &world, DT);
    }
    assert!(body.state().footing.is_firm());
    world.queries.set(0);
    (world, body)
}

/// Returns the number of queries in ten ticks.
fn queries<V: Geometry>(world: &mut Counted<V>, body: &mut Controller<V>, intent: &Intent) -> u32 {
    world.queries.set(0);
    for _ in 0..10 {
        world.level.advance(DT);
        body.tick(intent, &*world, DT);
    }
    world.queries.get()
}

#[test]
fn a_body_at_rest_asks_for_nothing_until_something_is_another() {
    fn check<V: Geometry>() {
        let none = Intent::default();
        let (mut world, mut body) = on_the_platform::<V>();
        let stood = body.state().animation.gait_age.seconds();
        assert_eq!(queries(&mut world, &mut body, &none), 0);
        assert!(
            (body.state().animation.gait_age.seconds() - stood - 10.0 * DT).abs() < 1e-4,
            "its time goes on"
        );
        // Far away it does not matter; under the feet it does.
        world.level.place(CarrierId(1), Placement::new(V::UP, 0.0));
        assert_eq!(queries(&mut world, &mut body, &none), 0);
        world.level.place(CarrierId(0), Placement::new(V::UP * -0.1, 0.0));
        assert!(queries(&mut world, &mut body, &none) > 0);
        queries(&mut world, &mut body, &none);
        assert_eq!(queries(&mut world, &mut body, &none), 0, "at rest again, lower");
        // Whatever else is another.
        body.tuning.walk.speed = 3.0;
        assert!(queries(&mut world, &mut body, &none) > 0);
        body.hull = Hull::capsule(0.3, 1.7).unwrap();
        assert!(queries(&mut world, &mut body, &none) > 0);
        assert!(queries(&mut world, &mut body, &none.holding(Actions::own(3))) > 0);
        queries(&mut world, &mut body, &none);
        body.throw(V::UP * 3.0);
        assert!(queries(&mut world, &mut body, &none) > 9);
        assert!(body.state().air.is_some());
        for _ in 0..20 {
            queries(&mut world, &mut body, &none);
        }
        assert_eq!(queries(&mut world, &mut body, &none), 0);
        // A level in which the platform is not there.
        let mut other = platforms::<V>();
        other.level.place(CarrierId(0), Placement::new(V::RIGHT * 9.0, 0.0));
        other.level.advance(DT);
        other.level.advance(DT);
        assert!(queries(&mut other, &mut body, &none) > 0);
        assert!(body.state().air.is_some() || body.position().height() < 0.3);
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// With rests and without, lives are the same to the bit.
#[test]
fn a_controller_equals_ticks_of_plain_data() {
    fn same<V: Geometry>(first: u64) {
        let mut rests = 0;
        for seed in first..first + 40 {
            let mut dice = Dice(seed);
            let mut level = town::<V>();
            let tuning = any_tuning(&mut dice, V::DIMENSION);
            let hull = [capsule(), upright_box(), Hull::ball(0.45).unwrap()][dice.below(3)];
            let start = V::from_array([dice.number(-20.0, 20.0), 1.5, dice.number(-3.0, 3.0)]);
            let mut body = Controller::new(tuning, hull, start);
            let mut state = State::at(start);
            let mut events = Events::new();
            let mut intent = Intent::default();
            for tick in 0..1500 {
                intent = if dice.below(120) == 0 { any_intent(&mut dice, &intent) } else { intent };
                intent = Intent { pressed: Actions::NONE, released: Actions::NONE, ..intent };
                if dice.below(90) == 0 {
                    intent = Intent::default();
                }
                level.advance(DT);
                let before = *body.state();
                tick_into(&tuning, &hull, &mut state, &intent, &level, DT, &mut events);
                body.tick(&intent, &level, DT);
                assert_eq!(body.state().checksum(), state.checksum(), "seed {seed}, tick {tick}");
                assert_eq!(body.events(), &*events, "seed {seed}, tick {tick}");
                rests += u32::from(before.position == state.position);
            }
        }
        assert!(rests > 10_000, "{rests} ticks at rest");
    }
    same::<Vec2>(1);
    same::<Vec3>(1001);
}

/// Levels that differ in anything have another stamp.
#[test]
fn a_stamp_tells_levels_apart() {
    let block = || Piece::block(Vec3::ZERO, Vec3::ONE).unwrap();
    let level = |change: &dyn Fn(&mut rasant::level::LevelBuilder<Vec3>)| {
        let mut builder = Level::builder();
        change(&mut builder);
        let level: Level<Vec3> = builder.build().unwrap();
        level.stamp(&Bounds { min: Vec3::splat(-9.0), max: Vec3::splat(9.0) }).unwrap()
    };
    let slippery = Surface { traction: 0.1, ..Surface::default() };
    let stamps = [
        level(&|_| {}),
        level(&|builder| {
            builder.add(block());
        }),
        level(&|builder| {
            builder.add(block().one_way());
        }),
        level(&|builder| {
            builder.add(block().on_layers(Layers::NONE));
        }),
        level(&|builder| {
            builder.add_surface(slippery);
            builder.add(block());
        }),
        level(&|builder| {
            let id = builder.add_surface(slippery);
            builder.add(block().made_of(id));
        }),
        level(&|builder| {
            builder.add(Piece::block(Vec3::ZERO, Vec3::new(1.0, 1.0, 1.0 + f32::EPSILON)).unwrap());
        }),
        level(&|builder| {
            builder.add(block());
            builder.add_zone(rasant::Zone::new(Vec3::ZERO, Vec3::ONE, rasant::Effect::Goal));
        }),
    ];
    let different: std::collections::BTreeSet<u64> = stamps.iter().copied().collect();
    assert_eq!(different.len(), stamps.len());
    let again = level(&|builder| {
        builder.add(block());
    });
    assert_eq!(again, stamps[1]);
}
