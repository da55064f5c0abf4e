//! Figures of slams.

use rasant::{Actions, Event, Geometry};

use super::course::{Rider, Track, floor, in_move};
use super::figure::{Course, Measured, Subject, kinds, value};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![Course {
        kinds: kinds![
            of "slam";
            "slam-delay", "s", "Time from the press of a slam until the body moves down.";
            "slam-time", "s", "Time from the press to the ground 5 m below.";
            "slam-speed", "m/s", "Speed with which a slam hits the ground.";
            "slam-recovery-time", "s", "Time from there until the body moves again.";
        ],
        measure: slam::<V>,
    }]
}

fn slam<V: Geometry>(subject: &Subject) -> Measured {
    /// The height above the ground at the press, in metres.
    const HEIGHT: f32 = 5.0;
    /// The longest slam that is watched, in seconds.
    const LONGEST: f64 = 30.0;
    let knobs = subject.tuning.slam;
    if subject.is_from_above::<V>() || knobs.action < 0.0 || !subject.walks::<V>() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, floor(subject), V::UP * HEIGHT);
    let mut intent = rider.rest.pressing(Actions::own(knobs.action as u32));
    let (mut delay, mut met) = (None, None);
    for _ in 0..(LONGEST / track.dt) as usize {
        let before = *track.last();
        let landing = track.tick(&intent).iter().find_map(|event| match event {
            Event::Landed { speed, .. } => Some(f64::from(*speed)),
            _ => None,
        });
        if delay.is_none() && track.last().y < before.y {
            // It moves at the speed of the slam for the part of the tick after the start.
            let moved = (before.y - track.last().y) / f64::from(knobs.speed);
            delay = Some(track.last().time - moved.min(track.dt));
        }
        if let Some(speed) = landing {
            // It moves at that speed until it stands.
            let fallen = before.y - track.last().y;
            met = Some((before.time + (fallen / speed).min(track.dt), speed));
            break;
        }
        intent = rider.rest;
    }
    let Some((time, speed)) = met.filter(|_| in_move(&track, "slam")) else { return Measured::new() };
    track.begin();
    let free = track.until(60.0, &rider.rest, |event| matches!(event, Event::MoveEnded { .. }));
    let tick = subject.dt();
    let fall = f64::from(HEIGHT - subject.hull.clearance()) / f64::from(knobs.speed);
    vec![
        ("slam-delay", value(delay).knob(knobs.startup).within(2.0 * tick)),
        ("slam-time", value(time).target(f64::from(knobs.startup) + fall).within(2.0 * tick)),
        ("slam-speed", value(speed).knob(knobs.speed)),
        (
            "slam-recovery-time",
            value(free.then(|| track.last().time)).knob(knobs.recovery).within(2.0 * tick),
        ),
    ]
}
