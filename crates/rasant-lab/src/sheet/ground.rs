//! Figures on foot: speeds, and the times and distances to reach them, to stop and to reverse;
//! slopes, steps, crests.

use rasant::level::LevelBuilder;
use rasant::state::FootingKind;
use rasant::{Actions, Event, Geometry, Intent, State, Steering};

use super::course::{FAR, Rider, Track, blocks, floor};
use super::figure::{Course, Measured, Subject, Value, kinds, value};
use super::search::{greatest, greatest_of};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "walk";
                "walk-speed", "m/s", "Speed on level ground with full steering.";
                "walk-reach-time", "s", "Time from standing to the walking speed.";
                "walk-reach-distance", "m", "Distance covered in that time.";
                "walk-stop-time", "s", "Time from the walking speed to standing, after letting go.";
                "walk-stop-distance", "m", "Distance covered in that time.";
                "walk-turn-time", "s", "Time from the walking speed to standing, steering back.";
                "walk-turn-distance", "m", "Distance covered in that time.";
            ],
            measure: walking::<V>,
        },
        Course {
            kinds: kinds![
                of "walk";
                "walk-back-speed", "m/s", "Speed backwards, relative to the look.";
                "walk-side-speed", "m/s", "Speed sideways, relative to the look.";
                "footfall-rate", "/s", "Footfalls per second at the walking speed.";
            ],
            measure: strides::<V>,
        },
        Course {
            kinds: kinds![
                of "run";
                "run-speed", "m/s", "Speed on level ground with full steering and run held.";
                "run-reach-time", "s", "Time from standing to the running speed.";
                "run-reach-distance", "m", "Distance covered in that time.";
                "run-stop-time", "s", "Time from the running speed to standing, after letting go.";
                "run-stop-distance", "m", "Distance covered in that time.";
                "run-turn-time", "s", "Time from the running speed to standing, steering back.";
                "run-turn-distance", "m", "Distance covered in that time.";
            ],
            measure: running::<V>,
        },
        Course {
            kinds: kinds![
                of "crouch";
                "crouch-speed", "m/s", "Speed on level ground with full steering and crouch held.";
                "crouch-reach-time", "s", "Time from standing to the crouching speed.";
                "crouch-stop-time", "s", "Time from the crouching speed to standing, after letting go.";
                "crouch-stop-distance", "m", "Distance covered in that time.";
                "crouch-turn-time", "s", "Time from the crouching speed to standing, steering back.";
            ],
            measure: crouching::<V>,
        },
        Course {
            kinds: kinds![of "slope"; "slope-climbed", "°", "Steepest slope that can be walked up.";],
            measure: steepest::<V>,
        },
        Course {
            kinds: kinds![
                of "slope" "walk";
                "uphill-speed", "m/s", "Speed up a slope half a degree below the steepest, along the slope.";
                "downhill-speed", "m/s", "Speed down such a slope, along it.";
            ],
            measure: up_and_down::<V>,
        },
        Course {
            kinds: kinds![
                of "slope" "fall" "air";
                "steep-slide-speed", "m/s", "Highest speed of sliding down a slope 10° too steep to stand on.";
                "steep-slide-time", "s", "Time from rest to half of that speed.";
                "steep-slide-across", "m/s", "Speed across such a slope after sliding for 0.2 s, steering across.";
            ],
            measure: sliding::<V>,
        },
        Course {
            kinds: kinds![
                of "slope";
                "step-climbed", "m", "Highest step that can be walked up.";
                "drop-followed", "m", "Highest step that can be walked down slowly without leaving the ground.";
            ],
            measure: steps::<V>,
        },
    ]
}

/// A time in seconds that is longer than any body takes to reach its speed.
pub(super) fn long_enough(subject: &Subject, speed: f32) -> f64 {
    let walk = &subject.tuning.walk;
    let slowest = walk.reach_time.max(walk.stop_time).max(walk.turn_time);
    // The rates are those of the walking speed.
    let factor = (speed / walk.speed.abs().max(1e-3)).max(1.0);
    f64::from(slowest * factor) * 1.05 + 0.05
}

fn walking<V: Geometry>(subject: &Subject) -> Measured {
    let walk = subject.tuning.walk;
    if walk.speed == 0.0 || subject.hops() {
        return Measured::new();
    }
    let SpeedFactors { top, reach, stop, turn } = factors::<V>(subject, Actions::NONE, walk.speed.abs());
    vec![
        ("walk-speed", top),
        ("walk-reach-time", reach[0]),
        ("walk-reach-distance", reach[1]),
        ("walk-stop-time", stop[0]),
        ("walk-stop-distance", stop[1]),
        ("walk-turn-time", turn[0]),
        ("walk-turn-distance", turn[1]),
    ]
}

fn running<V: Geometry>(subject: &Subject) -> Measured {
    let run = subject.tuning.run.speed;
    if subject.tuning.walk.speed == 0.0 || run == 0.0 || subject.hops() {
        return Measured::new();
    }
    let SpeedFactors { top, reach, stop, turn } = factors::<V>(subject, Actions::RUN, run);
    vec![
        ("run-speed", top),
        ("run-reach-time", reach[0]),
        ("run-reach-distance", reach[1]),
        ("run-stop-time", stop[0]),
        ("run-stop-distance", stop[1]),
        ("run-turn-time", turn[0]),
        ("run-turn-distance", turn[1]),
    ]
}

fn crouching<V: Geometry>(subject: &Subject) -> Measured {
    let crouch = subject.tuning.crouch;
    if !subject.walks::<V>() || crouch.height >= subject.hull.height() {
        return Measured::new();
    }
    let SpeedFactors { top, reach, stop, turn } = factors::<V>(subject, Actions::CROUCH, crouch.speed);
    vec![
        ("crouch-speed", top),
        ("crouch-reach-time", reach[0]),
        ("crouch-stop-time", stop[0]),
        ("crouch-stop-distance", stop[1]),
        ("crouch-turn-time", turn[0]),
    ]
}

/// The speed of a gait, and the times and distances to reach it, to stop and to reverse.
struct SpeedFactors {
    top: Value,
    reach: [Value; 2],
    stop: [Value; 2],
    turn: [Value; 2],
}

/// Measures walking with some actions held, which should reach `speed`. The rates at which it
/// changes are those of the walking speed.
fn factors<V: Geometry>(subject: &Subject, held: Actions, speed: f32) -> SpeedFactors {
    let walk = subject.tuning.walk;
    let rider = Rider::of::<V>(subject);
    let (ahead, rest) = (rider.ahead.holding(held), rider.rest.holding(held));
    let enough = long_enough(subject, speed);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    // A crouch takes effect at the end of a tick.
    track.run(2.0 * track.dt, &rest);
    let (top, reach) = speed_up(&mut track, &ahead, enough);
    let stop = come_to_rest(&mut track, &rest, enough);
    let turn = rider.back.and_then(|back| {
        track.run(enough, &ahead);
        come_to_rest(&mut track, &back.holding(held), enough)
    });
    let fraction = f64::from(speed / walk.speed.abs());
    let ramp = |measured: Option<(f64, f64)>, time: f32| {
        let target = fraction * f64::from(time);
        let (time, distance) = measured.unzip();
        [value(time).target(target), value(distance).target(0.5 * f64::from(speed) * target)]
    };
    SpeedFactors {
        top: value(top).knob(speed),
        reach: ramp(reach, walk.reach_time),
        stop: ramp(stop, walk.stop_time),
        turn: ramp(turn, walk.turn_time),
    }
}

/// Steers until the top speed is reached. Returns it, with the time and distance.
fn speed_up<V: Geometry>(track: &mut Track<V>, ahead: &Intent, enough: f64) -> (f64, Option<(f64, f64)>) {
    track.begin();
    track.run(enough, ahead);
    let top = track.last().vx;
    (top, track.moment(|sample| (sample.x, sample.vx), top))
}

/// The time and distance until the body stands, or reverses.
pub(super) fn come_to_rest<V: Geometry>(
    track: &mut Track<V>,
    intent: &Intent,
    enough: f64,
) -> Option<(f64, f64)> {
    track.begin();
    track.run(enough, intent);
    track.moment(|sample| (sample.x, sample.vx), 0.0)
}

/// Walking backwards and sideways, if the look decides what that is; footfalls.
fn strides<V: Geometry>(subject: &Subject) -> Measured {
    let walk = subject.tuning.walk;
    if walk.speed == 0.0 || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let speed = walk.speed.abs();
    let steady = |intent: &Intent, factor: f32| {
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        track.run(long_enough(subject, speed * factor), intent);
        f64::from(track.body.velocity().length())
    };
    let steering = subject.tuning.steering.in_dimension(V::DIMENSION);
    let by_look = steering == Steering::View;
    let back = (by_look || steering == Steering::Body)
        .then_some(rider.back)
        .flatten()
        .map(|back| steady(&back, walk.back));
    let aside = Rider::aside::<V>(subject, &rider.rest).filter(|_| by_look);
    let side = aside.map(|aside| steady(&aside, walk.side));
    vec![
        ("walk-back-speed", value(back).knob(speed * walk.back)),
        ("walk-side-speed", value(side).knob(speed * walk.side)),
        ("footfall-rate", value(footfall_rate::<V>(subject, &rider)).knob(speed / walk.stride)),
    ]
}

/// Footfalls per second at the walking speed, over at least 20 of them.
fn footfall_rate<V: Geometry>(subject: &Subject, rider: &Rider) -> Option<f64> {
    /// The number of footfalls.
    const COUNTED: usize = 20;
    /// The longest time per footfall, in seconds.
    const LONGEST: f64 = 10.0;
    let walk = subject.tuning.walk;
    if walk.stride <= 0.0 {
        return None;
    }
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    track.run(long_enough(subject, walk.speed.abs()), &rider.ahead);
    let mut falls = Vec::new();
    for _ in 0..(LONGEST * COUNTED as f64 / track.dt) as usize {
        let footfalls =
            track.tick(&rider.ahead).iter().filter(|event| matches!(event, Event::Footfall { .. }));
        let count = footfalls.count();
        let now = track.last().time;
        falls.extend(std::iter::repeat_n(now, count));
        if falls.len() > COUNTED {
            break;
        }
    }
    let (first, last) = (falls.first()?, falls.last()?);
    (last > first).then(|| (falls.len() - 1) as f64 / (last - first))
}

/// A body on a slope that rises by `angle` radians along x. The floor is level, and the body's up
/// leans.
fn on_slope<V: Geometry>(subject: &Subject, angle: f32) -> Track<V> {
    let up = V::UP * angle.cos() + V::RIGHT * angle.sin();
    let mut track = Track::<V>::new(subject, floor(subject), V::UP * (subject.hull.half_width() + 0.05));
    let leaning = track.body.state().with_up(up);
    track.body.restore(leaning);
    // Down onto it, and no further, even if it is too steep to stand on.
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
    let climbs = |degrees: f64| {
        let mut track = on_slope::<V>(subject, degrees.to_radians() as f32);
        track.run(0.1, &rider.ahead);
        track.last().state.footing.is_firm() && track.last().x > track.log[0].x
    };
    let most = greatest_of(0.0, 86.0, 0.02, climbs);
    vec![("slope-climbed", value(most).knob(subject.tuning.slope.max_angle.to_degrees()).within(0.02))]
}

fn up_and_down<V: Geometry>(subject: &Subject) -> Measured {
    /// How far below the steepest slope, in radians.
    const BELOW: f32 = 0.0087;
    let slope = subject.tuning.slope;
    if !subject.walks::<V>() || slope.max_angle <= BELOW {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let speed = subject.tuning.walk.speed.abs();
    let measured = |lean: f32, factor: f32| {
        let enough = long_enough(subject, speed * factor.max(1.0));
        let mut track = on_slope::<V>(subject, lean * (slope.max_angle - BELOW));
        track.run(enough, &rider.ahead);
        // A factor counts slightly less here, below the steepest slope.
        let whole = (factor == 1.0).then_some(f64::from(speed));
        value(track.last().vx).target(whole)
    };
    vec![("uphill-speed", measured(1.0, slope.uphill)), ("downhill-speed", measured(-1.0, slope.downhill))]
}

fn sliding<V: Geometry>(subject: &Subject) -> Measured {
    /// Degrees beyond the steepest slope that can be stood on.
    const BEYOND: f32 = 10.0;
    /// The steepest slope that is measured.
    const STEEPEST: f32 = 85.0;
    /// The longest slide, in seconds.
    const LONGEST: f64 = 60.0;
    /// The number of ticks over which a constant speed must be constant.
    const EVEN: usize = 40;
    /// Seconds of sliding across the slope.
    const ACROSS: f64 = 0.2;
    let degrees = subject.tuning.slope.max_angle.to_degrees() + BEYOND;
    if !subject.walks::<V>() || degrees > STEEPEST {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let mut track = on_slope::<V>(subject, degrees.to_radians());
    let start = State { velocity: V::ZERO, ..*track.body.state() };
    track.body.restore(start);
    track.begin();
    for _ in 0..(LONGEST / track.dt) as usize {
        track.tick(&rest);
        // It approaches its limit ever more slowly.
        let earlier = track.log.len().checked_sub(EVEN).map(|at| track.log[at].vx);
        if earlier.is_some_and(|earlier| track.last().vx >= earlier * (1.0 + 1e-6)) {
            break;
        }
    }
    if track.last().state.footing.kind != FootingKind::Steep {
        return Measured::new();
    }
    let top = -track.last().vx;
    let half = track.moment(|sample| (-sample.x, -sample.vx), 0.5 * top);
    let across = Rider::aside::<V>(subject, &rest).filter(|_| V::DIMENSION == 3).map(|aside| {
        track.body.restore(start);
        track.run(ACROSS, &aside);
        f64::from(track.body.velocity().component(2).abs())
    });
    vec![
        ("steep-slide-speed", value(top)),
        ("steep-slide-time", value(half.map(|half| half.0))),
        ("steep-slide-across", value(across)),
    ]
}

fn steps<V: Geometry>(subject: &Subject) -> Measured {
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let slope = subject.tuning.slope;
    let most = greatest(slope.step_height.into(), |height| climbs::<V>(subject, height as f32));
    let deepest = greatest(slope.ground_snap.into(), |depth| follows::<V>(subject, depth as f32));
    vec![
        ("step-climbed", value(most).knob(slope.step_height)),
        ("drop-followed", value(deepest).knob(slope.ground_snap)),
    ]
}

/// Returns true if the body walks up a step with this height at full speed.
fn climbs<V: Geometry>(subject: &Subject, height: f32) -> bool {
    let (half, speed) = (subject.hull.half_width(), subject.tuning.walk.speed.abs());
    // It reaches full speed before, and then is on the step, or well past its edge.
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

/// Returns true if the feet stay on the ground down a step of this depth. The position within a
/// tick at which a foot passes the edge decides how far a fast body rolls over it; a slow body
/// gives the same answer at any rate.
fn follows<V: Geometry>(subject: &Subject, depth: f32) -> bool {
    /// The distance per tick, in metres; longer for a wide body.
    const SLOWLY: f64 = 1e-3;
    /// The distance before the edge.
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
