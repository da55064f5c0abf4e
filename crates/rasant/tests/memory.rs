//! A tick takes nothing from the heap, and a state is small.

mod common;

use std::alloc::System;

use common::{Run, blocks, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Geometry, Hull, Intent, Level, State};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static HEAP: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

fn cluttered<V: Geometry>() -> Level<V> {
    let mut corners = vec![([-40.0, -1.0, -40.0], [40.0, 0.0, 40.0])];
    for i in 0..40 {
        let (x, z) = ((i * 7 % 40) as f32 - 20.0, (i * 13 % 40) as f32 - 20.0);
        let height = 0.2 + (i % 9) as f32 * 0.2;
        corners.push(([x, 0.0, z], [x + 0.8, height, z + 0.8]));
    }
    blocks(&corners)
}

fn takes_nothing<V: Geometry>() {
    let level = cluttered::<V>();
    for hull in [capsule(), upright_box()] {
        // The test runner's own thread takes from the heap now and then; what
        // ticks took would be taken each time.
        let least = (0..5).map(|_| taken_in_ticks(&level, hull)).min();
        assert_eq!(least, Some(0), "{hull:?}");
    }
}

/// How often the heap is asked for something in three thousand ticks.
fn taken_in_ticks<V: Geometry>(level: &Level<V>, hull: Hull) -> usize {
    let mut body = Run::new(rasant::Tuning::default(), hull, V::UP * 3.0, 60).body;
    let region = Region::new(HEAP);
    for tick in 0..3000 {
        let angle = tick as f32 * 0.013;
        let mut intent = Intent::steering(angle.cos(), angle.sin());
        if tick % 50 == 0 {
            intent = intent.pressing(Actions::JUMP);
        }
        body.tick(&intent, level, 1.0 / 60.0);
    }
    let change = region.change();
    assert!(body.position().is_finite());
    change.allocations + change.reallocations
}

// One test, so that no other thread uses the heap meanwhile.
#[test]
fn a_tick_takes_nothing_from_the_heap_and_a_state_is_small() {
    takes_nothing::<Vec2>();
    takes_nothing::<Vec3>();
    assert!(size_of::<State<Vec2>>() <= 512);
    assert!(size_of::<State<Vec3>>() <= 512);
    assert!(!std::mem::needs_drop::<State<Vec3>>());
}
