//! Figures of turning, walking by the look, and the delay of the body's response.

use rasant::{Actions, Face, Geometry, Intent, Steering};

use super::course::{Rider, Track, floor};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::search::greatest_of;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "turn";
                "turn-rate", "°/s", "Highest turning rate of the body.";
                "turn-half-time", "s", "Time for half of a turn by a right angle.";
            ],
            measure: turn::<V>,
        },
        Course {
            kinds: kinds![of "turn"; "gaze-angle", "°", "Pitch of the look past which the body walks.";],
            measure: gaze::<V>,
        },
        Course {
            kinds: kinds![
                of;
                "steer-delay", "ticks", "Ticks after the one that sees a steer until the body moves, at the game's rate.";
                "jump-delay", "ticks", "Ticks after the one that sees a press of jump until the body rises, at the game's rate.";
                "steer-delay-time", "s", "Longest time from a steer to the end of the tick that moves, at the game's rate.";
                "jump-delay-time", "s", "Longest time from a press of jump to the end of the tick that rises, at the game's rate.";
            ],
            measure: delay::<V>,
        },
    ]
}

fn turn<V: Geometry>(subject: &Subject) -> Measured {
    let tuning = &subject.tuning;
    let turns = V::DIMENSION == 3 || subject.is_from_above::<V>();
    let drives = tuning.steering == Steering::Body && tuning.face == Face::Course;
    if !turns || tuning.face == Face::Host || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    track.run(0.2, &rider.ahead);
    let from = track.last().state.facing;
    let quarter = std::f32::consts::FRAC_PI_2;
    let mut aside = rider.ahead;
    if drives {
        aside = Intent { steer: rasant::glam::Vec2::new(-1.0, 0.0), ..rider.rest };
    } else if tuning.steering.in_dimension(V::DIMENSION) == Steering::Plan {
        aside.steer = rasant::glam::Vec2::new(0.0, aside.steer.x);
    } else {
        aside.look.yaw += quarter;
    }
    track.begin();
    let turned = |track: &Track<V>| from.turn_to(track.last().state.facing).abs();
    let (mut fastest, mut half) = (0.0f64, None);
    let mut before = 0.0;
    for _ in 0..(20.0 / track.dt) as usize {
        track.tick(&aside);
        let now = turned(&track);
        fastest = fastest.max(f64::from(now - before) / track.dt);
        if half.is_none() && now >= 0.5 * quarter {
            // At a constant rate within the tick.
            let fraction = f64::from((0.5 * quarter - before) / (now - before));
            half = Some(track.log[track.log.len() - 2].time + fraction * track.dt);
        }
        if now >= 0.99 * quarter {
            break;
        }
        before = now;
    }
    let knobs = tuning.turn;
    let soft = knobs.half_life > 0.0 && !drives;
    let at_once = !drives && !soft && knobs.rate == 0.0;
    let rate = if drives && knobs.rate == 0.0 { 180.0 } else { f64::from(knobs.rate.to_degrees()) };
    let half_target = match (soft, at_once) {
        (true, _) if knobs.rate == 0.0 => Some(f64::from(knobs.half_life)),
        (false, false) => Some(45.0 / rate),
        _ => None,
    };
    vec![
        ("turn-rate", value((!at_once).then(|| fastest.to_degrees())).target((!soft).then_some(rate))),
        ("turn-half-time", value(if at_once { Some(0.0) } else { half }).target(half_target)),
    ]
}

fn gaze<V: Geometry>(subject: &Subject) -> Measured {
    let gaze = subject.tuning.turn.gaze.to_degrees();
    if subject.tuning.steering.in_dimension(V::DIMENSION) != Steering::Gaze || subject.hops() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let walks_at = |degrees: f64| {
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        let mut intent = rest;
        intent.look.pitch = degrees.to_radians() as f32;
        track.run(0.1, &intent);
        track.last().state.position != track.log[0].state.position
    };
    let down = gaze < 0.0;
    let pitch = if down {
        greatest_of(-89.9, 89.9, 0.01, walks_at)
    } else {
        greatest_of(-89.9, 89.9, 0.01, |degrees| walks_at(-degrees)).map(|degrees| -degrees)
    };
    vec![("gaze-angle", value(pitch).knob(gaze).within(0.02))]
}

/// The delays of the response to a steer and a press, at the game's rate.
fn delay<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &subject.in_game();
    let rider = Rider::of::<V>(subject);
    let until_moved = |press: &Intent, held: &Intent| {
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        track.run(0.05, &rider.rest);
        track.begin();
        let start = track.last().state.position;
        let mut intent = *press;
        (0..(2.0 / track.dt) as usize)
            .find(|_| {
                track.tick(&intent);
                intent = *held;
                track.last().state.position != start
            })
            .map(|tick| tick as f64)
    };
    let jumps = !subject.is_from_above::<V>() && !subject.hops();
    let press = rider.rest.pressing(Actions::JUMP);
    let steer = until_moved(&rider.ahead, &rider.ahead);
    let jump = jumps.then(|| until_moved(&press, &rider.rest.holding(Actions::JUMP))).flatten();
    // A press right after the start of a tick is seen by the next one, a whole tick later.
    let time = |ticks: Option<f64>| ticks.map(|ticks| (ticks + 1.0) * subject.dt());
    vec![
        ("steer-delay", value(steer)),
        ("jump-delay", value(jump)),
        ("steer-delay-time", value(time(steer))),
        ("jump-delay-time", value(time(jump))),
    ]
}
