//! Figures in the air: steering, keeping a speed, gliding.

use rasant::{Actions, Geometry, State};

use super::airborne::fall_speed;
use super::course::{Rider, Track, in_move, nothing};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::ground::come_to_rest;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "air";
                "air-reach-time", "s", "Time from no sideways speed to the walking speed, in the air.";
                "air-stop-time", "s", "Time from the walking speed to none after letting go, in the air.";
                "air-stop-distance", "m", "Distance covered in that time.";
                "air-turn-time", "s", "Time from the walking speed to none, steering back in the air.";
                "air-turn-distance", "m", "Distance covered in that time.";
                "air-kept-speed", "m/s", "Speed left of twice the walking speed after 0.2 s in the air, steering along it.";
            ],
            measure: steering::<V>,
        },
        Course {
            kinds: kinds![
                of "glide";
                "glide-fall-speed", "m/s", "Speed of the fall in a glide.";
                "glide-distance", "m", "Distance for each metre of height, steering ahead.";
                "glide-reach-time", "s", "Time from rest to half of the fall speed of a glide.";
                "glide-brake-time", "s", "Time in which a glide brakes a fall at the terminal speed to twice its own.";
                "glide-steer-time", "s", "Time from no sideways speed to that of a steered glide.";
                "glide-time", "s", "Duration of a glide, up to 60 s.";
            ],
            measure: glide::<V>,
        },
    ]
}

fn steering<V: Geometry>(subject: &Subject) -> Measured {
    /// Seconds after which a speed above the top speed is measured.
    const KEPT: f64 = 0.2;
    let air = subject.tuning.air;
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let speed = subject.tuning.walk.speed.abs();
    let enough = f64::from(air.reach_time.max(air.stop_time).max(air.turn_time)) * 1.05 + 0.05;
    let mut track = Track::<V>::new(subject, nothing(), V::ZERO);
    track.run(enough, &rider.ahead);
    let top = track.last().vx;
    let reach = track.moment(|sample| (sample.x, sample.vx), top);
    let stop = come_to_rest(&mut track, &rider.rest, enough);
    let turn = rider.back.and_then(|back| {
        track.run(enough, &rider.ahead);
        come_to_rest(&mut track, &back, enough)
    });
    let fast = State { velocity: V::RIGHT * (2.0 * speed), ..*track.body.state() };
    track.body.restore(fast);
    track.run(KEPT, &rider.ahead);
    let kept = track.last().vx;
    let ramp = |measured: Option<(f64, f64)>, time: f32| {
        let (seconds, distance) = measured.unzip();
        [value(seconds).knob(time), value(distance).knob(0.5 * speed * time)]
    };
    let [reach_time, _] = ramp(reach, air.reach_time);
    let [stop_time, stop_distance] = ramp(stop, air.stop_time);
    let [turn_time, turn_distance] = ramp(turn, air.turn_time);
    vec![
        ("air-reach-time", reach_time),
        ("air-stop-time", stop_time),
        ("air-stop-distance", stop_distance),
        ("air-turn-time", turn_time),
        ("air-turn-distance", turn_distance),
        ("air-kept-speed", value(kept)),
    ]
}

fn glide<V: Geometry>(subject: &Subject) -> Measured {
    /// The longest glide that is watched, in seconds.
    const LONGEST: f64 = 60.0;
    let knobs = subject.tuning.glide;
    if subject.is_from_above::<V>() || knobs.fall_speed <= 0.0 || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut endless = *subject;
    endless.tuning.glide.max_time = 0.0;
    let held = rider.ahead.holding(Actions::JUMP);
    let mut track = Track::<V>::new(&endless, nothing(), V::ZERO);
    // Until neither speed changes.
    let steady = |track: &Track<V>| {
        let [.., before, last] = &track.log[..] else { return false };
        last.vx == before.vx && last.vy == before.vy
    };
    for _ in 0..(LONGEST / track.dt) as usize {
        track.tick(&held);
        if steady(&track) && in_move(&track, "glide") {
            break;
        }
    }
    if !in_move(&track, "glide") {
        return Measured::new();
    }
    let (sinks, goes) = (-track.last().vy, track.last().vx);
    let reached = track.moment(|sample| (-sample.y, -sample.vy), 0.5 * sinks);
    let steered = track.moment(|sample| (sample.x, sample.vx), goes);
    let terminal = fall_speed(subject);
    let twice = 2.0 * sinks;
    let braked = (twice < terminal).then(|| {
        let falling = State { velocity: V::UP * -(terminal as f32), ..*track.body.state() };
        track.body.restore(falling);
        track.begin();
        let held = rider.rest.holding(Actions::JUMP);
        for _ in 0..(LONGEST / track.dt) as usize {
            track.tick(&held);
            if -track.last().vy <= sinks {
                break;
            }
        }
        track.moment(|sample| (-sample.y, -sample.vy), twice)
    });
    let lasts = (knobs.max_time > 0.0).then(|| {
        let mut track = Track::<V>::new(subject, nothing(), V::ZERO);
        let held = rider.rest.holding(Actions::JUMP);
        let mut glided = 0;
        for _ in 0..(LONGEST.min(f64::from(knobs.max_time) + 2.0) / track.dt) as usize {
            track.tick(&held);
            glided += usize::from(in_move(&track, "glide"));
        }
        glided as f64 * track.dt
    });
    let time_target = Some(f64::from(knobs.max_time)).filter(|most| *most <= LONGEST);
    let target = f64::from(knobs.fall_speed).min(terminal);
    vec![
        ("glide-fall-speed", value(sinks).target(target)),
        ("glide-distance", value((sinks > 0.0).then(|| goes.abs() / sinks))),
        ("glide-reach-time", value(reached.map(|it| it.0))),
        ("glide-brake-time", value(braked.flatten().map(|it| it.0))),
        ("glide-steer-time", value(steered.map(|it| it.0))),
        ("glide-time", value(lasts).target(time_target).within(2.0 * subject.dt())),
    ]
}
