//! Airborne: jumps, their heights, times and ways; falls.

use rasant::{Actions, Event, Geometry, Intent, Level, Tuning};

use super::course::{Rider, Track, floor};
use super::ground::long_enough;
use super::{Course, Measured, Subject, kinds};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "jump" "fall";
                "jump-height", "m", "How high a jump rises, jump held.";
                "jump-rise-time", "s", "The time from its take-off to its top.";
                "jump-fall-time", "s", "The time from there back to the ground.";
                "jump-air-time", "s", "Both together.";
                "jump-landing-speed", "m/s", "The speed downward at the landing.";
            ],
            measure: full_jump::<V>,
        },
        Course {
            kinds: kinds![
                of "jump" "fall";
                "tap-height", "m", "How high a jump rises, jump pressed for 0.05 s.";
                "tap-air-time", "s", "The time from its take-off to its landing.";
            ],
            measure: tap::<V>,
        },
        Course {
            kinds: kinds![
                of "jump";
                "air-jump-1-height", "m", "How high the first jump in the air rises above its take-off.";
                "air-jump-2-height", "m", "The second.";
                "air-jump-3-height", "m", "The third.";
                "all-jumps-height", "m", "How high all jumps together rise, each at the top of the one before.";
            ],
            measure: air_jumps::<V>,
        },
        Course {
            kinds: kinds![
                of "jump" "walk" "run" "air";
                "standing-jump-distance", "m", "How far a jump goes from standing, steered from its take-off.";
                "walking-jump-distance", "m", "How far it goes at walking speed.";
                "running-jump-distance", "m", "How far it goes, run held.";
                "dashing-jump-distance", "m", "How far it goes so, with a dash at its top.";
            ],
            measure: ways::<V>,
        },
        Course {
            kinds: kinds![
                of "fall";
                "terminal-speed", "m/s", "The greatest speed of a fall.";
                "terminal-drop", "m", "How deep a fall reaches it.";
            ],
            measure: fall::<V>,
        },
    ]
}

/// How long a tap is, in seconds.
const TAP: f64 = 0.05;

/// A jump in place, jump held for so long: the track from its take-off to its
/// landing, and that.
fn jump<V: Geometry>(subject: &Subject, held: f64) -> Option<(Track<V>, Landing)> {
    let subject = &subject.that_only_jumps();
    if subject.is_from_above::<V>() || subject.hops() {
        return None;
    }
    let rest = Rider::of::<V>(subject).rest;
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let (press, hold) = (rest.pressing(Actions::JUMP), rest.holding(Actions::JUMP));
    if !track.tick(&press).iter().any(|event| matches!(event, Event::Jumped { .. })) {
        return None;
    }
    let landing = landing(&mut track, &|time| if time < held { hold } else { rest })?;
    Some((track, landing))
}

/// A coming down on the ground.
#[derive(Clone, Copy)]
struct Landing {
    /// Its moment, in seconds since the log began.
    time: f64,
    /// The speed downward, in m/s.
    speed: f64,
}

/// Flies on until the landing, by the intent of each moment of the log.
fn landing<V: Geometry>(track: &mut Track<V>, intent: &dyn Fn(f64) -> Intent) -> Option<Landing> {
    let lands = |event: &Event<V>| match event {
        Event::Landed { speed, .. } => Some(f64::from(*speed)),
        _ => None,
    };
    for _ in 0..(600.0 / track.dt) as usize {
        // Rounded: a moment is a whole number of ticks.
        let now = track.last().time + 0.01 * track.dt;
        let Some(speed) = track.tick(&intent(now)).iter().find_map(lands) else { continue };
        let [.., earlier, before, after] = &track.log[..] else { return None };
        let gravity = (earlier.vy - before.vy) / track.dt;
        let fallen = before.y - after.y;
        // Evenly faster until the speed of the landing, and on with that.
        let gains = if gravity > 1e-3 { (speed + before.vy) / gravity } else { 0.0 };
        let rest = gains + (fallen - 0.5 * gains * (speed - before.vy)) / speed;
        return Some(Landing { time: before.time + rest.clamp(0.0, track.dt), speed });
    }
    None
}

/// The exact top of the first rise: how high above the log's start, and when.
fn top<V: Geometry>(track: &Track<V>) -> Option<(f64, f64)> {
    let at = track.log.iter().position(|sample| sample.top.is_some())?;
    let [_, height] = track.log[at].top?;
    let before = &track.log[at - 1];
    // Evenly slower until it: y = v·t/2.
    let rest = 2.0 * (height - before.y) / before.vy;
    let rest = if before.vy > 0.0 { rest } else { 0.0 };
    Some((height - track.log[0].y, before.time + rest.clamp(0.0, track.dt)))
}

fn full_jump<V: Geometry>(subject: &Subject) -> Measured {
    let Some((track, landed)) = jump::<V>(subject, f64::INFINITY) else { return Measured::new() };
    let tuning = &subject.tuning;
    let (height, rise) = top(&track).unzip();
    let (gravity, asked) = (f64::from(tuning.gravity()), f64::from(tuning.jump_height()));
    let down = gravity * f64::from(tuning.fall.gravity);
    let hits = (2.0 * down * asked).sqrt();
    // One number says it only where gravity is one on the way up, one down.
    let even = tuning.fall.apex_speed == 0.0;
    let lands = even && hits <= f64::from(tuning.fall.terminal_speed);
    let up_time = even.then(|| f64::from(tuning.take_off_speed()) / gravity);
    let down_time = lands.then(|| hits / down);
    let both = up_time.zip(down_time).map(|(up, down)| up + down);
    vec![
        (height, Some(asked)),
        (rise, up_time),
        (rise.map(|rise| landed.time - rise), down_time),
        (Some(landed.time), both),
        (Some(landed.speed), lands.then_some(hits)),
    ]
}

fn tap<V: Geometry>(subject: &Subject) -> Measured {
    let Some((track, landed)) = jump::<V>(subject, TAP) else { return Measured::new() };
    vec![(top(&track).map(|it| it.0), None), (Some(landed.time), None)]
}

fn air_jumps<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &subject.that_only_jumps();
    let count = subject.tuning.jump.air_count.round() as u8;
    if subject.is_from_above::<V>() || subject.hops() || count == 0 {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let hold = rest.holding(Actions::JUMP);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let start = track.last().y;
    let mut heights = Vec::new();
    for _ in 0..=count {
        track.begin();
        track.tick(&rest.pressing(Actions::JUMP));
        for _ in 0..(60.0 / track.dt) as usize {
            track.tick(&hold);
            if track.last().vy <= 0.0 {
                break;
            }
        }
        heights.push(top(&track).map(|it| it.0));
    }
    let highest = track.log.iter().map(|sample| sample.y).fold(start, f64::max) - start;
    let mut numbers = vec![(None, None); 3];
    for (number, slot) in numbers.iter_mut().enumerate().take(usize::from(count)) {
        let asked = f64::from(subject.tuning.air_jump_height(number as u8));
        *slot = (heights[number + 1], Some(asked));
    }
    numbers.push((Some(highest), None));
    numbers
}

fn ways<V: Geometry>(subject: &Subject) -> Measured {
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let runs = subject.tuning.run.speed > 0.0;
    let dashes = subject.tuning.dash.charges >= 1.0 && subject.tuning.dash.air_count >= 1.0;
    let run = rider.ahead.holding(Actions::RUN);
    let fast = if runs { run } else { rider.ahead };
    vec![
        (way::<V>(subject, None, &rider.ahead, false), None),
        (way::<V>(subject, Some(&rider.ahead), &rider.ahead, false), None),
        (runs.then(|| way::<V>(subject, Some(&run), &run, false)).flatten(), None),
        (dashes.then(|| way::<V>(subject, Some(&fast), &fast, true)).flatten(), None),
    ]
}

/// A run-up of so many seconds is longer than any body takes to come to its speed.
fn run_up_time(subject: &Subject) -> f64 {
    let Tuning { walk, run, .. } = subject.tuning;
    long_enough(subject, walk.speed.abs().max(run.speed))
}

/// What [`super::reach`] says.
pub(super) fn reach<V: Geometry>(subject: &Subject, rise: f64) -> Option<f64> {
    let subject = &subject.that_only_jumps();
    /// Seconds that a jump is watched.
    const LONGEST: f64 = 30.0;
    if !subject.walks::<V>() {
        return None;
    }
    let ahead = Rider::of::<V>(subject).ahead;
    let ahead = if subject.tuning.run.speed > 0.0 { ahead.holding(Actions::RUN) } else { ahead };
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    track.run(run_up_time(subject), &ahead);
    track.begin();
    let start = *track.last();
    let jumped =
        track.tick(&ahead.pressing(Actions::JUMP)).iter().any(|event| matches!(event, Event::Jumped { .. }));
    if !jumped {
        return None;
    }
    // A jump needs its ground for the take-off alone, and may come down below it.
    track.level = Level::builder().build().ok()?;
    let held = ahead.holding(Actions::JUMP);
    for _ in 0..(LONGEST / track.dt) as usize {
        track.tick(&held);
        let [.., before, after] = &track.log[..] else { return None };
        let [from, to] = [before, after].map(|sample| sample.y - start.y - rise);
        if after.vy <= 0.0 && to <= 0.0 {
            let share = if from > 0.0 { from / (from - to) } else { return None };
            return Some(before.x + (after.x - before.x) * share - start.x);
        }
    }
    None
}

/// How far a jump goes, after a run-up, until it comes down where it took off.
fn way<V: Geometry>(subject: &Subject, run_up: Option<&Intent>, ahead: &Intent, dash: bool) -> Option<f64> {
    let subject = &subject.that_only_jumps();
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    if let Some(run_up) = run_up {
        track.run(run_up_time(subject), run_up);
        track.begin();
    }
    let start = track.last().x;
    track.tick(&ahead.pressing(Actions::JUMP));
    let held = ahead.holding(Actions::JUMP);
    if dash {
        track.until(60.0, &held, |event| matches!(event, Event::Apex { .. }));
        track.tick(&ahead.pressing(Actions::DASH));
    }
    let landed = landing(&mut track, &|_| held)?;
    Some(track.x_at(landed.time) - start)
}

fn fall<V: Geometry>(subject: &Subject) -> Measured {
    if subject.is_from_above::<V>() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let asked = f64::from(subject.tuning.fall.terminal_speed);
    let mut track = Track::<V>::new(subject, Level::builder().build().expect("a few sound pieces"), V::ZERO);
    for _ in 0..(120.0 / track.dt) as usize {
        let before = track.last().vy;
        track.tick(&rest);
        if track.last().vy >= before {
            break;
        }
    }
    let fastest = -track.last().vy;
    let drop = track.moment(|sample| (-sample.y, -sample.vy), fastest).map(|(_, drop)| drop);
    vec![(Some(fastest), Some(asked)), (drop, None)]
}
