//! Criterion benchmarks: whole ticks and single sweeps, beside a general
//! library's casts.
#![allow(missing_docs)]

mod scenes;

use criterion::{BatchSize, Criterion, criterion_group, criterion_main};
use rasant::glam::{Vec2, Vec3};
use rasant::{Geometry, Level, State};
use scenes::{Crowd, General2, General3, boxes_level, rolling_level, sweep_once, way};

fn space(c: &mut Criterion) {
    let level = rolling_level(128);
    let general = General3::new(128);
    let crowd = Crowd::on(&level, 55.0);
    let cast = |body: &State<Vec3>| general.cast(body.position, way(body));
    compare(c, "3d, 2000 bodies on 32768 triangles", &level, &crowd, cast);
}

fn plane(c: &mut Criterion) {
    let level = boxes_level();
    let general = General2::new();
    let crowd = Crowd::on(&level, 370.0);
    let cast = |body: &State<Vec2>| general.cast(body.position, way(body));
    compare(c, "2d, 2000 bodies on 512 boxes", &level, &crowd, cast);
}

fn compare<V: Geometry>(
    c: &mut Criterion,
    scene: &str,
    level: &Level<V>,
    crowd: &Crowd<V>,
    cast: impl Fn(&State<V>) -> f32,
) {
    let mut group = c.benchmark_group(scene);
    group.sample_size(20);
    group.bench_function("tick", |b| {
        b.iter_batched_ref(|| crowd.clone(), |crowd| crowd.tick(level), BatchSize::LargeInput);
    });
    group.bench_function("gather and sweep", |b| {
        b.iter(|| crowd.bodies.iter().map(|body| sweep_once(level, body, way(body))).sum::<f32>());
    });
    group.bench_function("general cast", |b| {
        b.iter(|| crowd.bodies.iter().map(&cast).sum::<f32>());
    });
    group.finish();
}

criterion_group!(benches, space, plane);
criterion_main!(benches);
