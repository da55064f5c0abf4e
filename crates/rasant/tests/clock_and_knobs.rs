//! Frames in, ticks out; numbers in, knobs turned.

use std::time::Duration;

use proptest::prelude::*;
use rasant::clock::ClockError;
use rasant::tuning::{KNOBS, KnobError};
use rasant::{Clock, Tuning};

proptest! {
    #[test]
    fn no_time_is_lost_or_made_whatever_the_frames(
        rate in 1u32..1000,
        frames in prop::collection::vec(0u64..400_000_000, 1..200),
    ) {
        let mut clock = Clock::new(rate).unwrap().with_max_ticks(20);
        let (mut ticks, mut dropped, mut blend) = (0u64, Duration::ZERO, 0.0);
        for &nanos in &frames {
            let due = clock.frame(Duration::from_nanos(nanos));
            prop_assert!(due.ticks <= 20);
            prop_assert!((0.0..1.0).contains(&due.blend));
            ticks += u64::from(due.ticks);
            dropped += due.dropped;
            blend = f64::from(due.blend);
        }
        let given: u64 = frames.iter().sum();
        let used = (ticks as f64 + blend) / f64::from(rate) + dropped.as_secs_f64();
        prop_assert!((used - given as f64 * 1e-9).abs() < 1e-6, "{used} s used of {given} ns");
    }

    #[test]
    fn a_knob_accepts_values_in_its_range_only(fraction in 0f32..=1.0, beyond in 0.01f32..1e6) {
        for knob in KNOBS {
            let mut tuning = Tuning::default();
            let value = (knob.min + (knob.max - knob.min) * fraction).clamp(knob.min, knob.max);
            let value = if knob.unit.is_whole() { value.round() } else { value };
            tuning.set(knob.path, value).unwrap();
            let back = tuning.get(knob.path).unwrap();
            prop_assert!((back - value).abs() <= 1e-5 * value.abs().max(1.0), "{}: {back}", knob.path);
            prop_assert!(tuning.checked().is_ok());
            let part = if knob.unit.is_whole() { knob.min + 0.5 } else { f32::NAN };
            for wrong in [knob.max + beyond, knob.min - beyond, f32::NAN, f32::INFINITY, part] {
                let before = tuning;
                let refused = matches!(tuning.set(knob.path, wrong), Err(KnobError::Range { .. }));
                prop_assert!(refused, "{} took {wrong}", knob.path);
                prop_assert_eq!(before, tuning);
            }
        }
    }
}

#[test]
fn a_clock_of_no_ticks_and_a_knob_of_no_name_are_refused() {
    assert_eq!(Clock::new(0), Err(ClockError::Rate(0)));
    assert_eq!(Clock::new(10_001), Err(ClockError::Rate(10_001)));
    let unknown = KnobError::Unknown("walk.sped".to_owned());
    assert_eq!(Tuning::default().get("walk.sped"), Err(unknown.clone()));
    assert_eq!(Tuning::default().set("walk.sped", 1.0), Err(unknown));
}

#[test]
fn a_tuning_that_says_nothing_has_the_defaults_of_its_knobs() {
    for knob in KNOBS {
        let value = Tuning::default().get(knob.path).unwrap();
        assert!((value - knob.default).abs() < 1e-4, "{} is {value}", knob.path);
    }
}

#[test]
fn a_tuning_broken_in_code_is_found_out_by_name() {
    let mut tuning = Tuning::default();
    tuning.jump.height = f32::NAN;
    let Err(KnobError::Range { knob, .. }) = tuning.checked() else { panic!("it is broken") };
    assert_eq!(knob.path, "jump.height");
}
