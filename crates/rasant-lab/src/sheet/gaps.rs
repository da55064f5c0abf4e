//! The lowest gaps that a body passes: walking, crouching, rolling.

use rasant::{Actions, Geometry, Intent};

use super::course::{FAR, Rider, Track, blocks};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::ground::long_enough;
use super::search::least_of;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![of; "walk-gap", "m", "Lowest gap that can be walked through upright.";],
            measure: walking::<V>,
        },
        Course {
            kinds: kinds![of "crouch"; "crouch-gap", "m", "Lowest gap that can be walked through crouching.";],
            measure: crouching::<V>,
        },
        Course {
            kinds: kinds![of "roll"; "roll-gap", "m", "Lowest gap that can be rolled through.";],
            measure: rolling::<V>,
        },
    ]
}

/// The thickness of the beam over a gap, in metres.
const BEAM: f32 = 0.05;
/// The resolution, in metres.
const SLACK: f64 = 2e-4;

fn walking<V: Geometry>(subject: &Subject) -> Measured {
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let ahead = Rider::of::<V>(subject).ahead;
    through::<V>("walk-gap", subject, subject.hull.height(), |track, _| track.tick(&ahead).is_empty())
}

fn crouching<V: Geometry>(subject: &Subject) -> Measured {
    let crouch = subject.tuning.crouch;
    if !subject.walks::<V>() || crouch.height >= subject.hull.height() || crouch.speed <= 0.0 {
        return Measured::new();
    }
    let ahead = Rider::of::<V>(subject).ahead.holding(Actions::CROUCH);
    through::<V>("crouch-gap", subject, crouch.height, |track, _| track.tick(&ahead).is_empty())
}

fn rolling<V: Geometry>(subject: &Subject) -> Measured {
    let roll = subject.tuning.roll;
    if !subject.walks::<V>() || roll.action < 0.0 || roll.height >= subject.hull.height() {
        return Measured::new();
    }
    // It must be through before it gets up.
    if roll.distance < 2.0 * START + BEAM + 2.0 * subject.hull.half_width() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let press = rest.pressing(Actions::own(roll.action.round() as u32));
    let intent = |tick: usize| -> Intent { if tick == 0 { press } else { rest } };
    through::<V>("roll-gap", subject, roll.height, |track, tick| track.tick(&intent(tick)).is_empty())
}

/// The distance from the body's front to the gap at the start, in metres.
const START: f32 = 0.05;

/// The smallest height of a gap that the body passes, driven by `tick`. The hull keeps its
/// clearance to the floor and to the beam.
fn through<V: Geometry>(
    name: &'static str,
    subject: &Subject,
    height: f32,
    tick: impl Fn(&mut Track<V>, usize) -> bool,
) -> Measured {
    let subject = &subject.coarser();
    let hull = &subject.hull;
    let half = hull.half_width();
    let is_through = |gap: f64| {
        let from = half + START;
        let beam = ([from, gap as f32], [from + BEAM, gap as f32 + 10.0]);
        let level = blocks(&[([-FAR, -1.0], [FAR, 0.0]), beam]).build().expect("a floor and a beam");
        let mut track = Track::<V>::new(subject, level, V::ZERO);
        let past = f64::from(from + BEAM);
        let distance = from + BEAM + half;
        let slowest = subject.tuning.walk.speed.abs().min(subject.tuning.crouch.speed.max(0.01));
        let roll = subject.tuning.roll;
        let seconds =
            f64::from(2.0 * distance / slowest + roll.startup + roll.active) + long_enough(subject, slowest);
        for number in 0..(seconds / track.dt) as usize {
            tick(&mut track, number);
            if track.last().x > past {
                return true;
            }
        }
        false
    };
    let gaps = 2.0 * f64::from(hull.clearance());
    let most = f64::from(hull.height()) + gaps + 0.05;
    vec![(name, value(least_of(0.0, most, SLACK, is_through)).knob(height).within(gaps + SLACK))]
}
