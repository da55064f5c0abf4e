//! On foot: speeds, the times and ways to them, slopes, steps, crests.

use rasant::level::LevelBuilder;
use rasant::state::FootingKind;
use rasant::{Actions, Geometry, Intent};

use super::course::{FAR, Rider, Track, blocks, floor};
use super::{Course, Measured, Subject, kinds};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "walk";
                "walk-speed", "m/s", "The speed of a full steer on the flat.";
                "walk-reach-time", "s", "The time from standing to it.";
                "walk-reach-distance", "m", "The distance covered meanwhile.";
                "walk-stop-time", "s", "The time from it to standing, after letting go.";
                "walk-stop-distance", "m", "The distance covered meanwhile.";
                "walk-turn-time", "s", "The time from it to standing, steering back.";
                "walk-turn-distance", "m", "The distance covered meanwhile.";
            ],
            measure: walking::<V>,
        },
        Course {
            kinds: kinds![
                of "run";
                "run-speed", "m/s", "The speed of a full steer, run held.";
                "run-reach-time", "s", "The time from standing to it.";
                "run-stop-time", "s", "The time from it to standing, after letting go.";
            ],
            measure: running::<V>,
        },
        Course {
            kinds: kinds![of "crouch"; "crouch-speed", "m/s", "The speed of a full steer, crouch held.";],
            measure: crouching::<V>,
        },
        Course {
            kinds: kinds![of "slope"; "slope-climbed", "°", "The steepest slope that is walked up.";],
            measure: steepest::<V>,
        },
        Course {
            kinds: kinds![
                of "slope" "walk";
                "uphill-speed", "m/s", "The speed along a slope half a degree under the steepest, up it.";
                "downhill-speed", "m/s", "The speed along such a slope, down it.";
            ],
            measure: up_and_down::<V>,
        },
        Course {
            kinds: kinds![
                of "slope";
                "step-climbed", "m", "The highest step that is walked up.";
                "drop-followed", "m", "The deepest step that is walked down, slowly, without leaving the ground.";
            ],
            measure: steps::<V>,
        },
    ]
}

/// Longer than any body takes to come to its speed, in seconds.
pub(super) fn long_enough(subject: &Subject, speed: f32) -> f64 {
    let walk = &subject.tuning.walk;
    let slowest = walk.reach_time.max(walk.stop_time).max(walk.turn_time);
    // Rates are those of the walking speed.
    let share = (speed / walk.speed.abs().max(1e-3)).max(1.0);
    f64::from(slowest * share) * 1.05 + 0.05
}

fn walking<V: Geometry>(subject: &Subject) -> Measured {
    let walk = subject.tuning.walk;
    let asked = f64::from(walk.speed.abs());
    if asked == 0.0 || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let enough = long_enough(subject, walk.speed.abs());
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let up_to = speed_up(&mut track, &rider.ahead, enough);
    let stop = come_to_rest(&mut track, &rider.rest, enough);
    let turn = rider.back.map(|back| {
        track.run(enough, &rider.ahead);
        come_to_rest(&mut track, &back, enough)
    });
    let half = 0.5 * asked;
    let ramp = |measured: Option<(f64, f64)>, time: f32| {
        let time = f64::from(time);
        [(measured.map(|it| it.0), Some(time)), (measured.map(|it| it.1), Some(half * time))]
    };
    let mut numbers = vec![(Some(up_to.0), Some(asked))];
    numbers.extend(ramp(up_to.1, walk.reach_time));
    numbers.extend(ramp(stop, walk.stop_time));
    numbers.extend(ramp(turn.flatten(), walk.turn_time));
    numbers
}

/// Steers until the speed is the top one: that, and the time and way to it.
fn speed_up<V: Geometry>(track: &mut Track<V>, ahead: &Intent, enough: f64) -> (f64, Option<(f64, f64)>) {
    track.begin();
    track.run(enough, ahead);
    let top = track.last().vx;
    (top, track.moment(|sample| (sample.x, sample.vx), top))
}

/// The time and way until the body stands, or turns.
fn come_to_rest<V: Geometry>(track: &mut Track<V>, intent: &Intent, enough: f64) -> Option<(f64, f64)> {
    track.begin();
    track.run(enough, intent);
    track.moment(|sample| (sample.x, sample.vx), 0.0)
}

fn running<V: Geometry>(subject: &Subject) -> Measured {
    let (walk, run) = (subject.tuning.walk, subject.tuning.run);
    if walk.speed == 0.0 || run.speed == 0.0 || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let enough = long_enough(subject, run.speed);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let (top, reached) = speed_up(&mut track, &rider.ahead.holding(Actions::RUN), enough);
    let stop = come_to_rest(&mut track, &rider.rest, enough);
    let share = f64::from(run.speed / walk.speed.abs());
    vec![
        (Some(top), Some(run.speed.into())),
        (reached.map(|it| it.0), Some(share * f64::from(walk.reach_time))),
        (stop.map(|it| it.0), Some(share * f64::from(walk.stop_time))),
    ]
}

fn crouching<V: Geometry>(subject: &Subject) -> Measured {
    let crouch = subject.tuning.crouch;
    if !subject.walks::<V>() || crouch.height >= subject.hull.height() {
        return Measured::new();
    }
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let ahead = Rider::of::<V>(subject).ahead.holding(Actions::CROUCH);
    track.run(long_enough(subject, crouch.speed), &ahead);
    vec![(Some(track.last().vx), Some(crouch.speed.into()))]
}

/// A body on a slope that rises by `angle` radians along x. It is the floor
/// that is level, and the body's up that leans.
fn on_slope<V: Geometry>(subject: &Subject, angle: f32) -> Track<V> {
    let up = V::UP * angle.cos() + V::RIGHT * angle.sin();
    let mut track = Track::<V>::new(subject, floor(subject), V::UP * (subject.hull.half_width() + 0.05));
    let leaning = track.body.state().with_up(up);
    track.body.restore(leaning);
    // Down onto it, and no further; if it is too steep to stand on, too.
    let rest = Rider::of::<V>(subject).rest;
    for _ in 0..(60.0 / track.dt) as usize {
        track.tick(&rest);
        if track.last().state.footing.kind != FootingKind::None {
            break;
        }
    }
    track.begin();
    track
}

fn steepest<V: Geometry>(subject: &Subject) -> Measured {
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let asked = f64::from(subject.tuning.slope.max_angle.to_degrees());
    let climbs = |degrees: f64| {
        let mut track = on_slope::<V>(subject, degrees.to_radians() as f32);
        track.run(0.1, &rider.ahead);
        track.last().state.footing.is_firm() && track.last().x > track.log[0].x
    };
    vec![(greatest_of(0.0, 86.0, 0.02, climbs), Some(asked))]
}

fn up_and_down<V: Geometry>(subject: &Subject) -> Measured {
    /// How far under the steepest, in radians.
    const UNDER: f32 = 0.0087;
    let slope = subject.tuning.slope;
    if !subject.walks::<V>() || slope.max_angle <= UNDER {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let speed = subject.tuning.walk.speed.abs();
    let measured = |lean: f32, factor: f32| {
        let enough = long_enough(subject, speed * factor.max(1.0));
        let mut track = on_slope::<V>(subject, lean * (slope.max_angle - UNDER));
        track.run(enough, &rider.ahead);
        // What a factor asks for is a little more here, short of the steepest.
        let whole = (factor == 1.0).then_some(f64::from(speed));
        (Some(track.last().vx), whole)
    };
    vec![measured(1.0, slope.uphill), measured(-1.0, slope.downhill)]
}

fn steps<V: Geometry>(subject: &Subject) -> Measured {
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let slope = subject.tuning.slope;
    vec![
        (
            greatest(slope.step_height.into(), |height| climbs::<V>(subject, height as f32)),
            Some(slope.step_height.into()),
        ),
        (
            greatest(slope.ground_snap.into(), |depth| follows::<V>(subject, depth as f32)),
            Some(slope.ground_snap.into()),
        ),
    ]
}

/// Whether a step of some height is walked up, at full speed.
fn climbs<V: Geometry>(subject: &Subject, height: f32) -> bool {
    let (half, speed) = (subject.hull.half_width(), subject.tuning.walk.speed.abs());
    // Up to full speed before; then on the step, or well past its edge.
    let edge = speed * long_enough(subject, speed) as f32 + half + 0.1;
    let level: LevelBuilder<V> = blocks(&[([-FAR, -1.0], [FAR, 0.0]), ([edge, 0.0], [FAR, height])]);
    let mut track = Track::new(subject, level.build().expect("a few sound pieces"), V::ZERO);
    let ahead = Rider::of::<V>(subject).ahead;
    let past = f64::from(edge + half + 0.05);
    for _ in 0..(past / f64::from(speed) * 1.5 / track.dt) as usize {
        track.tick(&ahead);
        let last = track.last();
        let is_up = last.y >= f64::from(height) - 1e-3
            && last.state.footing.is_firm()
            && last.x > f64::from(edge - half);
        if is_up || last.x > past {
            return true;
        }
    }
    false
}

/// Whether the feet stay on the ground down a step of some depth. Where in a tick a foot
/// comes past the edge decides how far a quick one rolls over it: a slow one tells what is
/// so at any rate.
fn follows<V: Geometry>(subject: &Subject, depth: f32) -> bool {
    /// How far it goes in a tick, in metres; a wide body further.
    const SLOWLY: f64 = 1e-3;
    /// How far it goes until the edge.
    const BEFORE: f32 = 0.02;
    let (half, full) = (subject.hull.half_width(), subject.tuning.walk.speed.abs());
    let slowly = SLOWLY.max(f64::from(half) / 300.0);
    let speed = full.min((slowly * f64::from(subject.rate)) as f32);
    let level: LevelBuilder<V> =
        blocks(&[([-FAR, -depth - 2.0], [FAR, -depth]), ([-FAR, -depth - 1.0], [BEFORE, 0.0])]);
    let mut track = Track::new(subject, level.build().expect("a few sound pieces"), V::ZERO);
    let rider = Rider::of::<V>(subject);
    let ahead = Intent { steer: rider.ahead.steer * (speed / full), ..rider.ahead };
    let past = f64::from(BEFORE + half + 0.05);
    for _ in 0..((past / f64::from(speed) * 2.0 + long_enough(subject, speed)) / track.dt) as usize {
        track.tick(&ahead);
        if !track.last().state.footing.is_firm() {
            return false;
        }
        if track.last().x > past {
            return true;
        }
    }
    false
}

/// The greatest height or depth that `holds`, about one that is asked for, to within a
/// fifth of a millimetre, if what holds, holds below; nothing if nothing does, nor where
/// there is no end to it.
fn greatest(asked: f64, holds: impl Fn(f64) -> bool) -> Option<f64> {
    /// No end, in metres.
    const ENDLESS: f64 = 100.0;
    let mut most = asked + 0.02;
    while holds(most) {
        most *= 2.0;
        if most > ENDLESS {
            return None;
        }
    }
    greatest_of(0.0, most, 2e-4, holds)
}

/// The greatest number of a range that `holds`, to within `slack`, if what
/// holds, holds below; nothing if nothing does.
pub(super) fn greatest_of(least: f64, most: f64, slack: f64, holds: impl Fn(f64) -> bool) -> Option<f64> {
    if holds(most) {
        return Some(most);
    }
    let (mut low, mut high) = (least, most);
    while high - low > slack {
        let middle = 0.5 * (low + high);
        if holds(middle) { low = middle } else { high = middle }
    }
    (low > least).then_some(low)
}
