//! Criterion benchmarks: whole ticks and single sweeps, beside a general
//! library's casts.
#![allow(missing_docs)]

mod scenes;

use std::hint::black_box;

use criterion::{BatchSize, Criterion, criterion_group, criterion_main};
use rasant::glam::Vec2;
use scenes::{BODIES, Crowd, General2, General3, boxes_level, rolling_level, sweep_once, way};

fn space(c: &mut Criterion) {
    let level = rolling_level(128);
    let crowd = Crowd::on(&level, 55.0);
    let general = General3::new(128);
    let mut group = c.benchmark_group("3d, 2000 bodies on 32768 triangles");
    group.sample_size(20);
    group.bench_function("tick", |b| {
        b.iter_batched_ref(
            || Crowd { bodies: crowd.bodies.clone(), intents: crowd.intents.clone() },
            |crowd| crowd.tick(&level),
            BatchSize::LargeInput,
        );
    });
    group.bench_function("gather and sweep", |b| {
        b.iter(|| crowd.bodies.iter().map(|body| sweep_once(&level, body, way(body))).sum::<f32>());
    });
    group.bench_function("general cast", |b| {
        b.iter(|| crowd.bodies.iter().map(|body| general.cast(body.position(), way(body))).sum::<f32>());
    });
    group.finish();
}

fn plane(c: &mut Criterion) {
    let level = boxes_level();
    let crowd = Crowd::<Vec2>::on(&level, 370.0);
    let general = General2::new();
    let mut group = c.benchmark_group("2d, 2000 bodies on 512 boxes");
    group.sample_size(20);
    group.bench_function("tick", |b| {
        b.iter_batched_ref(
            || Crowd { bodies: crowd.bodies.clone(), intents: crowd.intents.clone() },
            |crowd| crowd.tick(&level),
            BatchSize::LargeInput,
        );
    });
    group.bench_function("gather and sweep", |b| {
        b.iter(|| crowd.bodies.iter().map(|body| sweep_once(&level, body, way(body))).sum::<f32>());
    });
    group.bench_function("general cast", |b| {
        b.iter(|| crowd.bodies.iter().map(|body| general.cast(body.position(), way(body))).sum::<f32>());
    });
    group.finish();
    black_box(BODIES);
}

criterion_group!(benches, space, plane);
criterion_main!(benches);
