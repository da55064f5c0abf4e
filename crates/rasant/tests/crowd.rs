//! Bodies that meet each other, judged in doubles, at the ticks and between them.

use crate::common::lives::{any_intent as any_intent_of_all, any_tuning, meddle};
use crate::common::{Dice, capsule, core_of, cube, floor, hulls};
use crate::everything::town;
use rasant::crowd::{BodyId, DashMeets};
use rasant::glam::{DVec3, Vec2, Vec3};
use rasant::{
    Actions, Carrier, Controller, Crowd, CrowdBody, Effect, Geometry, Hull, Intent, Keyframe, Level, PathEnd,
    Piece, Tuning, Vector, Zone,
};

/// A hull in doubles: the centre and half extents of its core, and its radius.
#[derive(Clone, Copy)]
struct Judged {
    centre: DVec3,
    half: DVec3,
    radius: f64,
    is_flat: bool,
}

fn double(vector: impl Vector) -> DVec3 {
    Vec3::from_array(vector.to_array()).as_dvec3()
}

impl Judged {
    fn of<V: Geometry>(body: &Controller<V>) -> Self {
        let (state, hull) = (body.state(), body.present_hull());
        let core = core_of::<V>(&hull);
        let middle = state.frame().world(core.middle);
        let centre = double(state.position) + double(state.remainder) + double(middle);
        Self { centre, half: double(core.half), radius: core.radius.into(), is_flat: V::DIMENSION == 2 }
    }

    /// The distance between two hulls with the same up; below 0 if they overlap.
    fn gap(&self, other: &Self) -> f64 {
        let mut beyond = (other.centre - self.centre).abs() - self.half - other.half;
        if self.is_flat {
            // In two dimensions no gap is along z, and no overlap ends there.
            beyond.z = f64::NEG_INFINITY;
        }
        let outside = beyond.max(DVec3::ZERO).length();
        let inside = beyond.max_element().min(0.0);
        outside + inside - self.radius - other.radius
    }

    fn blend(&self, to: &Self, fraction: f64) -> Self {
        Self {
            centre: self.centre.lerp(to.centre, fraction),
            half: self.half.lerp(to.half, fraction),
            ..*self
        }
    }
}

fn judged<V: Geometry>(crowd: &Crowd<V>) -> Vec<Judged> {
    crowd.iter().map(|(_, body)| Judged::of(&body.body)).collect()
}

/// The smallest gap between any two, at the ends of a tick and at some places between them.
fn least_gap(before: &[Judged], after: &[Judged]) -> f64 {
    let mut least = f64::INFINITY;
    for one in 0..before.len() {
        for other in 0..one {
            let far = (before[one].centre - before[other].centre).length();
            if far
                > 12.0 * (before[one].radius + before[one].half.length() + before[other].half.length() + 1.0)
            {
                continue;
            }
            for step in 0..=8 {
                let at = f64::from(step) / 8.0;
                let [a, b] = [one, other].map(|body| before[body].blend(&after[body], at));
                least = least.min(a.gap(&b));
            }
        }
    }
    least
}

fn at<V: Vector>(x: f32, y: f32, z: f32) -> V {
    V::from_array([x, y, z])
}

/// A crowd on a floor with bodies at these places, all with the same hull.
fn crowd_of<V: Geometry>(hull: Hull, places: &[V], level: &Level<V>) -> (Crowd<V>, Vec<BodyId>) {
    let mut crowd = Crowd::new();
    let ids = places
        .iter()
        .map(|&place| {
            let mut body = CrowdBody::new(Tuning::default(), hull, place);
            body.body.find_footing(level);
            crowd.add(body).unwrap()
        })
        .collect();
    (crowd, ids)
}

#[test]
fn two_that_walk_at_each_other_stand_still() {
    fn stand<V: Geometry>(hull: Hull, rate: u32) {
        let level = floor::<V>(50.0);
        let (mut crowd, ids) = crowd_of(hull, &[at::<V>(-2.0, 0.0, 0.0), at(2.0, 0.0, 0.0)], &level);
        let mut before = judged(&crowd);
        for tick in 0..4 * rate {
            let steer = |id| Intent::steering(if id == ids[0] { 1.0 } else { -1.0 }, 0.0);
            let places: Vec<V> = crowd.iter().map(|(_, body)| body.body.position()).collect();
            crowd.tick(&level, 1.0 / rate as f32, |id, _| steer(id));
            let after = judged(&crowd);
            let gap = least_gap(&before, &after);
            assert!(gap > 1e-3, "{gap} m at tick {tick}, {rate}/s, {hull:?}");
            before = after;
            if tick > 2 * rate {
                for (number, &id) in ids.iter().enumerate() {
                    let moved = (crowd[id].body.position() - places[number]).length();
                    assert!(moved < 1e-5, "{moved} m at tick {tick}, {rate}/s, {hull:?}");
                    assert!(crowd.events(id).is_empty(), "{:?} at tick {tick}", crowd.events(id));
                }
            }
        }
        let gap = judged(&crowd)[0].gap(&judged(&crowd)[1]);
        assert!(gap < 0.02, "{gap} m apart");
        assert_eq!(crowd.touching(ids[0]).map(|contact| contact.other).collect::<Vec<_>>(), [ids[1]]);
    }
    for hull in hulls() {
        for rate in [24, 60, 144] {
            stand::<Vec2>(hull, rate);
            stand::<Vec3>(hull, rate);
        }
    }
}

#[test]
fn a_body_that_passes_at_a_centimetre_is_not_disturbed() {
    for hull in hulls() {
        for rate in [30, 60, 144] {
            let level = floor::<Vec3>(50.0);
            // One along x, the other at its side, a centimetre from hull to hull.
            let depth =
                2.0 * f64::from(core_of::<Vec3>(&hull).radius) + 2.0 * double(core_of::<Vec3>(&hull).half).z;
            let places = [
                at::<Vec3>(-3.0, 0.0, 0.0),
                at(3.0, 0.0, depth as f32 + 0.0101_f32.max(2.02 * hull.clearance())),
            ];
            let (mut crowd, ids) = crowd_of(hull, &places, &level);
            let mut alone: Vec<Controller<Vec3>> = ids.iter().map(|&id| crowd[id].body.clone()).collect();
            for _ in 0..2 * rate {
                let steer = |id| Intent::steering(if id == ids[0] { 1.0 } else { -1.0 }, 0.0);
                crowd.tick(&level, 1.0 / rate as f32, |id, _| steer(id));
                for (body, &id) in alone.iter_mut().zip(&ids) {
                    body.tick(&steer(id), &level, 1.0 / rate as f32);
                    assert_eq!(body.state().checksum(), crowd[id].body.state().checksum(), "{hull:?} {rate}");
                }
            }
        }
    }
}

#[test]
fn a_body_far_from_others_moves_as_if_alone() {
    let level = floor::<Vec2>(50.0);
    let (mut crowd, ids) = crowd_of(capsule(), &[at::<Vec2>(-20.0, 0.0, 0.0), at(20.0, 0.0, 0.0)], &level);
    let mut alone = crowd[ids[0]].body.clone();
    let mut dice = Dice(3);
    for tick in 0..600 {
        let intent = if tick % 40 == 7 {
            Intent::steering(dice.number(-1.0, 1.0), 0.0).pressing(Actions::JUMP)
        } else {
            Intent::steering(dice.number(-1.0, 1.0), 0.0)
        };
        crowd.tick(&level, 1.0 / 60.0, |id, _| if id == ids[0] { intent } else { Intent::default() });
        alone.tick(&intent, &level, 1.0 / 60.0);
        assert_eq!(alone.state().checksum(), crowd[ids[0]].body.state().checksum());
    }
}

/// A random crowd on a floor with walls and a lift, and what its bodies do.
fn wild_crowd<V: Geometry>(seed: u64, count: usize, sizes: f32) -> (Level<V>, Vec<CrowdBody<V>>) {
    let mut dice = Dice(seed);
    let spread = (count as f32).sqrt() * if V::DIMENSION == 2 { 3.0 } else { 1.2 } * sizes.sqrt();
    let mut builder = Level::builder();
    let half = 2.0 * spread + 20.0;
    builder.add(Piece::block(at::<V>(-half, -1.0, -half), at(half, 0.0, half)).unwrap());
    for _ in 0..4 {
        let place: V = dice.vector::<V>(spread).with_height(0.0);
        let size = V::splat(dice.number(0.2, 1.5));
        builder.add(Piece::block(place - size, place + size).unwrap());
    }
    let lift = builder.add_carrier(Carrier::on_path(
        vec![Keyframe::new(0.0, V::ZERO), Keyframe::new(1.5, V::UP * 2.0)],
        PathEnd::BackAndForth,
    ));
    let place: V = dice.vector::<V>(spread).with_height(0.0);
    builder.add(
        Piece::block(place - V::splat(1.5).with_height(0.3), place + V::splat(1.5).with_height(0.1))
            .unwrap()
            .riding(lift),
    );
    let level = builder.build().unwrap();
    let mut bodies: Vec<CrowdBody<V>> = Vec::new();
    let mut tries = 0;
    while bodies.len() < count && tries < 400 * count {
        tries += 1;
        let hull = hulls()[dice.below(4)].scaled(dice.number(1.0, sizes)).unwrap();
        let place = dice.vector::<V>(spread).with_height(dice.number(0.05, 3.0));
        let mut tuning = Tuning::default();
        tuning.dash.charges = 2.0;
        let mut body = CrowdBody::new(tuning, hull, place);
        body.strength = if dice.below(3) == 0 { 200.0 } else { 0.0 };
        body.mass = dice.number(5.0, 100.0);
        body.spacing = if dice.below(5) == 0 { 0.3 } else { 0.0 };
        body.dash = if dice.below(4) == 0 { DashMeets::Push } else { DashMeets::Stop };
        let judge = Judged::of(&body.body);
        let is_free = bodies.iter().all(|other| judge.gap(&Judged::of(&other.body)) > 0.05);
        if is_free && rasant::controller::has_room(&hull, body.body.state(), &level) {
            bodies.push(body);
        }
    }
    (level, bodies)
}

fn any_intent(dice: &mut Dice, held: &mut Intent) -> Intent {
    if dice.below(20) == 0 {
        *held = Intent::steering(dice.number(-1.0, 1.0), dice.number(-1.0, 1.0));
    }
    match dice.below(60) {
        0 => held.pressing(Actions::JUMP),
        1 => held.pressing(Actions::DASH),
        _ => *held,
    }
}

/// How a random crowd is run.
#[derive(Clone, Copy)]
struct Wild {
    seed: u64,
    count: usize,
    /// The largest size, in sizes of the smallest.
    sizes: f32,
    rate: f32,
    ticks: usize,
}

/// The order in which the bodies are added, and what happens during the run.
#[derive(Clone, Copy, PartialEq)]
enum Variant {
    Plain,
    Backwards,
    /// Goes back to a snapshot of crowd and level in the middle.
    Rewound,
    #[cfg(feature = "rayon")]
    Threads,
}

/// A random crowd while it runs.
#[derive(Clone)]
struct Run<V: Geometry> {
    wild: Wild,
    crowd: Crowd<V>,
    level: Level<V>,
    /// The number of each body in the order of creation, and its id.
    ids: Vec<(usize, BodyId)>,
    dice: Vec<(Dice, Intent)>,
    before: Vec<Judged>,
    tick: usize,
}

impl<V: Geometry> Run<V> {
    fn new(wild: Wild, variant: Variant) -> Self {
        let (level, bodies) = wild_crowd::<V>(wild.seed, wild.count, wild.sizes);
        let dice =
            (0..bodies.len() as u64).map(|number| (Dice(wild.seed * 1000 + number), Intent::default()));
        let dice = dice.collect();
        let mut crowd = Crowd::new();
        let mut numbered: Vec<(usize, CrowdBody<V>)> = bodies.into_iter().enumerate().collect();
        if variant == Variant::Backwards {
            numbered.reverse();
        }
        let mut ids: Vec<(usize, BodyId)> =
            numbered.into_iter().map(|(number, body)| (number, crowd.add(body).unwrap())).collect();
        ids.sort_unstable();
        let before = judged(&crowd);
        Self { wild, crowd, level, ids, dice, before, tick: 0 }
    }

    fn step(&mut self, variant: Variant) {
        let Wild { seed, count, sizes, rate, .. } = self.wild;
        let dt = 1.0 / rate;
        self.level.advance(dt);
        let intents: Vec<Intent> = self.dice.iter_mut().map(|(dice, held)| any_intent(dice, held)).collect();
        let ids = &self.ids;
        let intent = |id: BodyId| intents[ids.iter().find(|known| known.1 == id).unwrap().0];
        match variant {
            #[cfg(feature = "rayon")]
            Variant::Threads => self.crowd.tick_parallel(&self.level, dt, |id, _| intent(id)),
            _ => self.crowd.tick(&self.level, dt, |id, _| intent(id)),
        }
        let after = judged(&self.crowd);
        let gap = least_gap(&self.before, &after);
        let tick = self.tick;
        assert!(
            gap > -1e-5,
            "{gap} m at tick {tick} of seed {seed}, {count} bodies at {rate}/s, sizes to {sizes}"
        );
        self.before = after;
        self.tick += 1;
    }

    /// The bits of the position and the velocity of each body.
    fn motions(&self) -> Vec<[u32; 6]> {
        let of = |&(_, id): &(usize, BodyId)| {
            let [x, y, z] = self.crowd[id].body.position().to_array().map(f32::to_bits);
            let [u, v, w] = self.crowd[id].body.velocity().to_array().map(f32::to_bits);
            [x, y, z, u, v, w]
        };
        self.ids.iter().map(of).collect()
    }
}

/// Runs a random crowd, and returns the motion at the end.
fn run_wild<V: Geometry>(wild: Wild, variant: Variant) -> Vec<[u32; 6]> {
    let mut run = Run::<V>::new(wild, variant);
    while run.tick < wild.ticks {
        if variant == Variant::Rewound && run.tick == wild.ticks / 2 {
            let snapshot = run.clone();
            (0..20).for_each(|_| run.step(variant));
            run = snapshot;
        }
        run.step(variant);
    }
    run.motions()
}

/// Every variant of a random crowd moves to the same bits, and no two bodies ever overlap.
fn check_wild<V: Geometry>(wild: Wild) {
    let plain = run_wild::<V>(wild, Variant::Plain);
    assert_eq!(plain, run_wild::<V>(wild, Variant::Backwards), "order, seed {}", wild.seed);
    assert_eq!(plain, run_wild::<V>(wild, Variant::Rewound), "snapshot, seed {}", wild.seed);
    #[cfg(feature = "rayon")]
    assert_eq!(plain, run_wild::<V>(wild, Variant::Threads), "threads, seed {}", wild.seed);
}

#[test]
fn random_crowds_never_overlap_in_any_order() {
    for (seed, count, sizes, rate) in [
        (1, 2, 1.01, 60.0),
        (2, 12, 1.01, 60.0),
        (3, 30, 1.5, 30.0),
        (4, 40, 2.0, 144.0),
        (5, 60, 1.01, 24.0),
        (6, 20, 20.0, 60.0),
        (7, 200, 1.2, 60.0),
    ] {
        let wild = Wild { seed, count, sizes, rate, ticks: if count > 100 { 40 } else { 200 } };
        check_wild::<Vec2>(wild);
        check_wild::<Vec3>(wild);
    }
}

/// Runs a check with several seeds in both dimensions: `RASANT_SOAK_CROWDS` is how many, from
/// `RASANT_SOAK_FROM` on.
fn soak(check: impl Fn(u64, usize) + std::panic::RefUnwindSafe) {
    let number =
        |name: &str, usual: u64| std::env::var(name).map_or(usual, |value| value.parse().expect("a number"));
    let (from, seeds) = (number("RASANT_SOAK_FROM", 100), number("RASANT_SOAK_CROWDS", 2));
    let cases = (from..from + seeds).flat_map(|seed| [(seed, 2), (seed, 3)]);
    let fails =
        |&(seed, dimension): &(u64, usize)| std::panic::catch_unwind(|| check(seed, dimension)).is_err();
    let failed: Vec<(u64, usize)> = cases.filter(fails).collect();
    assert!(failed.is_empty(), "seeds and dimensions that failed: {failed:?}");
}

#[test]
fn crowds_of_further_seeds_never_overlap() {
    soak(|seed, dimension| {
        let mut dice = Dice(seed);
        let rate = [24.0, 30.0, 60.0, 61.7, 120.0, 144.0][dice.below(6)];
        let count = [2, 5, 10, 30, 80, 200][dice.below(6)];
        let sizes = [1.001, 1.5, 4.0, 20.0][dice.below(4)];
        let wild = Wild { seed, count, sizes, rate, ticks: 300 };
        if dimension == 2 { check_wild::<Vec2>(wild) } else { check_wild::<Vec3>(wild) }
    });
}

#[test]
fn the_gap_between_two_bodies_is_that_of_their_hulls() {
    fn check<V: Geometry>(dice: &mut Dice, hulls: [Hull; 2]) {
        let [own, other] = [0, 1].map(|_| {
            let part = |dice: &mut Dice| dice.below(6000) as f32 * 1e-3 - 3.0;
            V::from_array([part(dice), part(dice), part(dice)])
        });
        let mut crowd = Crowd::new();
        let [a, b] = [(hulls[0], own), (hulls[1], other)]
            .map(|(hull, place)| crowd.add(CrowdBody::new(Tuning::default(), hull, place)).unwrap());
        let expected = judged(&crowd)[0].gap(&judged(&crowd)[1]);
        let gap = f64::from(crowd.gap(a, b).unwrap());
        assert!((gap - expected).abs() < 1e-5, "{gap} and {expected}, {hulls:?} at {own:?} and {other:?}");
        assert_eq!(crowd.gap(b, a), crowd.gap(a, b));
        crowd.remove(b).unwrap();
        assert_eq!(crowd.gap(a, b), None);
    }
    let mut dice = Dice(3);
    for _ in 0..100 {
        for one in hulls() {
            for other in hulls() {
                check::<Vec2>(&mut dice, [one, other]);
                check::<Vec3>(&mut dice, [one, other]);
            }
        }
    }
}

#[test]
fn a_body_that_follows_keeps_its_gap_and_does_not_stutter() {
    let cases = hulls().into_iter().flat_map(|hull| [24u32, 30, 60, 144].map(|rate| (hull, rate)));
    for (hull, rate) in cases {
        for steering in [0.3f32, 0.5, 0.8] {
            let level = floor::<Vec2>(500.0);
            let places = [0.0, -2.0, -3.0, -4.0].map(|x| at::<Vec2>(x, 0.0, 0.0));
            let (mut crowd, ids) = crowd_of(hull, &places, &level);
            let mut speeds: Vec<f32> = Vec::new();
            let mut gaps: Vec<f64> = Vec::new();
            for tick in 0..6 * rate {
                let steer = |id| Intent::steering(if id == ids[0] { steering } else { 1.0 }, 0.0);
                crowd.tick(&level, 1.0 / rate as f32, |id, _| steer(id));
                if tick > 4 * rate {
                    speeds.extend(ids[1..].iter().map(|&id| crowd[id].body.velocity().x));
                    let judged = judged(&crowd);
                    gaps.extend(judged.windows(2).map(|two| two[0].gap(&two[1])));
                }
            }
            let spread = |values: &[f32]| {
                values.iter().copied().fold(f32::MIN, f32::max)
                    - values.iter().copied().fold(f32::MAX, f32::min)
            };
            assert!(spread(&speeds) < 0.01, "{} m/s at {rate}/s, {hull:?}", spread(&speeds));
            // The followers keep the gap at which they stopped getting closer, which depends on the hull.
            for place in 0..ids.len() - 1 {
                let own: Vec<f64> = gaps.iter().skip(place).step_by(ids.len() - 1).copied().collect();
                let least = own.iter().copied().fold(f64::MAX, f64::min);
                let most = own.iter().copied().fold(f64::MIN, f64::max);
                assert!(most - least < 1e-4 && least > 0.005 && most < 0.02, "{least} to {most} m, {hull:?}");
            }
        }
    }
}

#[test]
fn a_push_has_the_expected_speed_at_every_rate() {
    for rate in [30u32, 60, 144] {
        for count in [1usize, 4] {
            let level = floor::<Vec2>(500.0);
            let mut crowd = Crowd::new();
            let mut porter = CrowdBody::new(Tuning::default(), capsule(), Vec2::ZERO);
            porter.strength = 200.0;
            porter.body.find_footing(&level);
            let speed = porter.body.tuning.walk.speed;
            let porter = crowd.add(porter).unwrap();
            let crates: Vec<BodyId> = (0..count)
                .map(|number| {
                    let place = Vec2::new(1.5 + 1.02 * number as f32, 0.0);
                    let mut load = CrowdBody::crate_of(25.0, cube(1.0), place);
                    load.body.find_footing(&level);
                    crowd.add(load).unwrap()
                })
                .collect();
            let mut start = 0.0;
            for tick in 0..4 * rate {
                if tick == 2 * rate {
                    start = crowd[crates[0]].body.position().x;
                }
                let steer = |id| Intent::steering(if id == porter { 1.0 } else { 0.0 }, 0.0);
                crowd.tick(&level, 1.0 / rate as f32, |id, _| steer(id));
            }
            let pushed = (crowd[crates[0]].body.position().x - start) / 2.0;
            let expected = speed * (1.0 - 25.0 * count as f32 / 200.0);
            let off = (pushed / expected - 1.0).abs();
            assert!(off < 0.05, "{pushed} m/s with {count} crates at {rate}/s, expected {expected}");
            assert!((crowd[porter].body.velocity().x - expected).abs() < 0.05 * expected);
        }
    }
}

/// Bodies with random tunings and all moves in a level with lifts, wheels, ladders, wind, hazards and
/// a zone in which up is down.
fn in_town<V: Geometry>(seed: u64, count: usize, ticks: usize) {
    let mut dice = Dice(seed);
    let rate = [24.0, 30.0, 60.0, 144.0][dice.below(4)];
    let mut level = town::<V>();
    let mut crowd = Crowd::new();
    let mut tries = 0;
    while crowd.len() < count && tries < 100 * count {
        tries += 1;
        let hull = hulls()[dice.below(4)];
        let place = at::<V>(dice.number(-28.0, 28.0), dice.number(0.1, 12.0), dice.number(-11.0, 11.0));
        let mut tuning = any_tuning(&mut dice, V::DIMENSION);
        if tuning.steering.is_from_above(V::DIMENSION) {
            tuning.steering = rasant::Steering::Side;
        }
        let mut body = CrowdBody::new(tuning, hull, place);
        body.strength = [0.0, 150.0][dice.below(2)];
        body.dash = if dice.below(4) == 0 { DashMeets::Push } else { DashMeets::Stop };
        let judge = Judged::of(&body.body);
        let is_free = crowd.iter().all(|(_, other)| judge.gap(&Judged::of(&other.body)) > 0.05);
        if is_free && rasant::controller::has_room(&hull, body.body.state(), &level) {
            crowd.add(body).unwrap();
        }
    }
    let ids: Vec<BodyId> = crowd.iter().map(|(id, _)| id).collect();
    let mut intents = vec![Intent::default(); ids.len()];
    // Pairs of which one was put back into the other.
    let mut inside: Vec<[usize; 2]> = Vec::new();
    let mut before = judged(&crowd);
    let mut touched = 0;
    for tick in 0..ticks {
        level.advance(1.0 / rate);
        for intent in &mut intents {
            *intent = any_intent_of_all(&mut dice, intent);
        }
        for &id in &ids {
            meddle(&mut crowd[id].body, &mut dice);
        }
        crowd.tick(&level, 1.0 / rate, |id, _| intents[ids.binary_search(&id).unwrap()]);
        let after = judged(&crowd);
        let respawned: Vec<bool> =
            ids.iter().map(|&id| crowd.events(id).iter().any(rasant::Event::is_elsewhere)).collect();
        for one in 0..ids.len() {
            for other in 0..one {
                let pair = [other, one];
                if respawned[one] || respawned[other] {
                    inside.push(pair);
                }
                let gap = after[one].gap(&after[other]);
                if inside.contains(&pair) {
                    if gap > 0.0 {
                        inside.retain(|known| *known != pair);
                    }
                    continue;
                }
                let least = (0..=4).map(|step| {
                    let fraction = f64::from(step) / 4.0;
                    let [a, b] = pair.map(|body| before[body].blend(&after[body], fraction));
                    a.gap(&b)
                });
                let least = least.fold(gap, f64::min);
                assert!(least > -1e-5, "{pair:?}: {least} m in tick {tick} of seed {seed} at {rate}/s");
                touched += usize::from(gap < 0.02);
            }
        }
        before = after;
    }
    assert!(touched > 0, "no two bodies met, seed {seed}");
}

#[test]
fn bodies_with_all_moves_never_overlap_in_a_town() {
    soak(
        |seed, dimension| {
            if dimension == 2 { in_town::<Vec2>(seed, 14, 400) } else { in_town::<Vec3>(seed, 40, 400) }
        },
    );
}

/// The axis of a capsule or the centre of a ball in doubles, and its radius.
fn axis_of<V: Geometry>(body: &Controller<V>) -> ([DVec3; 2], f64) {
    let (state, core) = (body.state(), core_of::<V>(&body.present_hull()));
    let centre = double(state.position) + double(state.remainder) + double(state.frame().world(core.middle));
    let along = double(state.up) * f64::from(core.half.height());
    ([centre - along, centre + along], core.radius.into())
}

/// The distance between two segments, by a search over the first. The distance to the second is a
/// convex function.
fn distance([a, b]: [DVec3; 2], [c, d]: [DVec3; 2]) -> f64 {
    let to_second = |point: DVec3| {
        let along = d - c;
        let at = if along == DVec3::ZERO { 0.0 } else { (point - c).dot(along) / along.length_squared() };
        (c + along * at.clamp(0.0, 1.0) - point).length()
    };
    let (mut low, mut high) = (0.0f64, 1.0f64);
    for _ in 0..40 {
        let [one, other] = [low + (high - low) / 3.0, high - (high - low) / 3.0];
        if to_second(a.lerp(b, one)) < to_second(a.lerp(b, other)) {
            high = other;
        } else {
            low = one;
        }
    }
    to_second(a.lerp(b, 0.5 * (low + high)))
}

#[test]
fn bodies_with_different_ups_never_overlap_on_a_planet() {
    fn on_planet<V: Geometry>(seed: u64, count: usize) {
        let mut dice = Dice(seed);
        let mut builder = Level::builder();
        builder.add(Piece::ball(V::ZERO, 6.0).unwrap());
        builder.add_zone(Zone::new(V::splat(-20.0), V::splat(20.0), Effect::Planet));
        let level = builder.build().unwrap();
        let mut crowd = Crowd::new();
        let mut tries = 0;
        while crowd.len() < count && tries < 50 * count {
            tries += 1;
            let hull = [capsule(), Hull::ball(0.45).unwrap()][dice.below(2)];
            let body = CrowdBody::new(Tuning::default(), hull, dice.direction::<V>() * 6.4);
            let (axis, radius) = axis_of(&body.body);
            let is_free = crowd.iter().all(|(_, other)| {
                let (its, its_radius) = axis_of(&other.body);
                distance(axis, its) > radius + its_radius + 0.8
            });
            if is_free {
                crowd.add(CrowdBody { strength: [0.0, 150.0][dice.below(2)], ..body }).unwrap();
            }
        }
        let ids: Vec<BodyId> = crowd.iter().map(|(id, _)| id).collect();
        let mut held = vec![Intent::default(); ids.len()];
        let mut touched = 0;
        for tick in 0..250 {
            let intents: Vec<Intent> = held.iter_mut().map(|held| any_intent(&mut dice, held)).collect();
            crowd.tick(&level, 1.0 / 60.0, |id, _| intents[ids.binary_search(&id).unwrap()]);
            let all: Vec<_> = crowd.iter().map(|(_, body)| axis_of(&body.body)).collect();
            for (number, (axis, radius)) in all.iter().enumerate() {
                for (its, its_radius) in &all[..number] {
                    let gap = distance(*axis, *its) - radius - its_radius;
                    assert!(gap > -1e-5 || tick < 2, "{gap} m in tick {tick} of seed {seed}");
                    touched += usize::from(gap < 0.02);
                }
            }
        }
        assert!(touched > 20, "they met {touched} times");
    }
    for seed in 0..2 {
        on_planet::<Vec2>(seed, 10);
        on_planet::<Vec3>(seed, 40);
    }
}
