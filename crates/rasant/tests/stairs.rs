//! Stairs taken at more than one tread per tick.

use crate::common::{RATES, Run, capsule, floor, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Geometry, Hull, HullShape, Intent, Level, Piece, Tuning};

/// Treads and rises, in metres.
const STAIRS: [[f32; 2]; 5] = [[0.3, 0.25], [0.25, 0.18], [0.4, 0.29], [0.15, 0.1], [0.55, 0.22]];

/// Stairs up to the right from `x` = 2, `count` steps, and the landing behind them.
fn stairs<V: Geometry>(count: usize, tread: f32, rise: f32) -> Level<V> {
    let mut builder = Level::builder();
    let mut block = |from: f32, to: f32, top: f32| {
        let (min, max) = (V::from_array([from, -2.0, -20.0]), V::from_array([to, top, 20.0]));
        builder.add(Piece::block(min, max).unwrap());
    };
    block(-60.0, 2.0, 0.0);
    for step in 0..count {
        let from = 2.0 + tread * step as f32;
        let top = rise * (step + 1) as f32;
        block(from, if step + 1 == count { from + 200.0 } else { from + tread }, top);
    }
    builder.build().unwrap()
}

fn hulls() -> [Hull; 4] {
    let rounded = HullShape::Box { width: 0.8, depth: 0.6, height: 1.5, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()]
}

/// The fraction of the distance that the same body covers on a floor.
fn covered<V: Geometry>(
    tuning: &Tuning,
    hull: Hull,
    rate: u32,
    [tread, rise]: [f32; 2],
    intents: &dyn Fn(usize) -> Intent,
    seconds: f32,
) -> f32 {
    let run = |level: &Level<V>| {
        let mut run = Run::new(*tuning, hull, V::ZERO, rate);
        run.body.find_footing(level);
        for tick in 0..(seconds * rate as f32) as usize {
            run.tick(level, intents(tick));
        }
        run.body.position().component(0)
    };
    run(&stairs::<V>(40, tread, rise)) / run(&floor::<V>(400.0))
}

fn fast_walks<V: Geometry>() {
    let mut wrong = Vec::new();
    let aside = if V::DIMENSION == 3 { 0.6 } else { 0.0 };
    for (hull, rate) in hulls().into_iter().flat_map(|hull| RATES.map(|rate| (hull, rate))) {
        for speed in [3.0, 6.0, 9.0, 12.0, 16.0, 24.0] {
            for (stairs, steer) in STAIRS.into_iter().flat_map(|stairs| [(stairs, 0.0), (stairs, aside)]) {
                let mut tuning = Tuning::default();
                tuning.walk.speed = speed;
                tuning.slope.step_height = 0.3;
                let intent = Intent::steering(1.0, steer);
                let fraction = covered::<V>(&tuning, hull, rate, stairs, &|_| intent, 6.0 / speed);
                if fraction < 0.97 {
                    wrong.push(format!("{hull:?} {rate}/s {speed} m/s {stairs:?} {steer}: {fraction}"));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} {wrong:#?}", wrong.len());
}

#[test]
fn stairs_are_climbed_at_any_speed() {
    fast_walks::<Vec2>();
    fast_walks::<Vec3>();
}

#[test]
fn a_dash_up_stairs_covers_its_distance() {
    fn dashes<V: Geometry>() {
        for hull in hulls() {
            for rate in RATES {
                let mut tuning = Tuning::default();
                tuning.dash.charges = 1.0;
                tuning.slope.step_height = 0.3;
                let dash = |tick: usize| {
                    let steers = Intent::steering(1.0, 0.0);
                    if tick == rate as usize / 5 { steers.pressing(Actions::DASH) } else { steers }
                };
                let fraction = covered::<V>(&tuning, hull, rate, [0.3, 0.25], &dash, 0.9);
                assert!(fraction > 0.97, "{hull:?} {rate}/s: {fraction}");
            }
        }
    }
    dashes::<Vec2>();
    dashes::<Vec3>();
}

/// How high a body stands after it has walked against one step for two seconds.
fn climbs<V: Geometry>(hull: Hull, rate: u32, step: f32, step_height: f32, speed: f32) -> f32 {
    let level = stairs::<V>(1, 1.0, step);
    let mut tuning = Tuning::default();
    tuning.slope.step_height = step_height;
    tuning.walk.speed = speed;
    let mut run = Run::new(tuning, hull, V::ZERO, rate);
    run.body.find_footing(&level);
    run.run(&level, 2.0 + 2.5 / speed, Intent::steering(1.0, 0.0));
    run.body.position().height()
}

#[test]
fn no_hull_climbs_more_than_the_step_height_at_any_rate() {
    let mut wrong = Vec::new();
    for hull in hulls().into_iter().chain([Hull::capsule(0.574, 1.8).unwrap(), Hull::ball(0.7).unwrap()]) {
        for rate in [24, 60, 240, 480, 960, 2000] {
            for (step, step_height) in
                [(0.5, 0.23), (0.3, 0.23), (0.24, 0.23), (0.22, 0.23), (0.3, 0.1), (0.09, 0.1), (0.05, 0.0)]
            {
                for speed in [0.5, 4.0] {
                    let top = climbs::<Vec2>(hull, rate, step, step_height, speed);
                    // A round hull rolls over an edge that it touches at a walkable angle.
                    let radius = match hull.shape() {
                        HullShape::Capsule { radius, .. } | HullShape::Ball { radius } => radius,
                        HullShape::Box { rounding, .. } => rounding,
                    };
                    let goes_over = 1.0 - step / radius > Tuning::default().slope.max_angle.cos();
                    if (top > 0.9 * step) != (step < step_height || goes_over) {
                        wrong.push(format!(
                            "{hull:?} {rate}/s, a step of {step} of {step_height}, {speed} m/s: {top}"
                        ));
                    }
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} {wrong:#?}", wrong.len());
}
