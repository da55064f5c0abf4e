//! Figures of jumps (heights, times, distances) and falls.

use rasant::{Actions, Event, Geometry, Intent, Level, Tuning};

use super::course::{FAR, Rider, Sample, Track, blocks, floor, is_jump, is_landing, is_top, nothing};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::ground::long_enough;
use super::search::{greatest, greatest_of};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "jump" "fall";
                "take-off-speed", "m/s", "Upward speed at the take-off of a jump.";
                "jump-gravity", "m/s²", "Gravity at the start of a rise, with jump held.";
                "jump-height", "m", "Height of a jump, with jump held.";
                "jump-half-time", "s", "Time from the take-off to half of that height.";
                "jump-rise-time", "s", "Time from the take-off to the top.";
                "jump-fall-time", "s", "Time from the top back to the ground.";
                "jump-air-time", "s", "Both together.";
                "fall-to-rise", "×", "The fall time, as a multiple of the rise time.";
                "hang-time", "s", "Time within a tenth of the height below the top.";
                "jump-landing-speed", "m/s", "Downward speed at the landing.";
            ],
            measure: full_jump::<V>,
        },
        Course {
            kinds: kinds![
                of "jump" "fall";
                "tap-height", "m", "Height of a jump with jump pressed for 0.05 s.";
                "tap-air-time", "s", "Time from the take-off to the landing.";
            ],
            measure: tap::<V>,
        },
        Course {
            kinds: kinds![
                of "jump";
                "jump-interval", "s", "Time between two jumps with jump held all the time.";
                "jump-onto-height", "m", "Highest block that can be jumped onto from beside it.";
                "corner-nudge", "m", "Largest overlap of the head with the corner of a ceiling that a jump is nudged past.";
            ],
            measure: obstacles::<V>,
        },
        Course {
            kinds: kinds![
                of "jump";
                "air-jump-1-height", "m", "Height of the first jump in the air above its take-off.";
                "air-jump-2-height", "m", "Height of the second jump in the air.";
                "air-jump-3-height", "m", "Height of the third jump in the air.";
                "all-jumps-height", "m", "Height of all jumps together, each at the top of the one before.";
            ],
            measure: air_jumps::<V>,
        },
        Course {
            kinds: kinds![
                of "jump" "walk" "run" "air";
                "standing-jump-distance", "m", "Distance of a jump from standing, steering from the take-off.";
                "walking-jump-distance", "m", "Distance of a jump at the walking speed.";
                "running-jump-distance", "m", "Distance of a jump with run held.";
                "dashing-jump-distance", "m", "Distance of such a jump with a dash at its top.";
            ],
            measure: distances::<V>,
        },
        Course {
            kinds: kinds![
                of "fall";
                "terminal-speed", "m/s", "Highest speed of a fall.";
                "terminal-drop", "m", "Depth of a fall that reaches it.";
            ],
            measure: fall::<V>,
        },
        Course {
            kinds: kinds![
                of "fall";
                "fast-fall-speed", "m/s", "Highest speed of a fast fall.";
                "fast-fall-time", "s", "Time from the top of a jump to the ground, falling fast.";
            ],
            measure: fast_fall::<V>,
        },
    ]
}

/// The duration of a tap, in seconds.
const TAP: f64 = 0.05;

/// A jump in place, with jump held for this long: the track from take-off to landing, and the
/// landing.
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

/// A landing on the ground.
#[derive(Clone, Copy)]
struct Landing {
    /// The time in seconds since the log began.
    time: f64,
    /// The downward speed, in m/s.
    speed: f64,
}

/// Continues until the landing, with an intent for each moment of the log.
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
        // Evenly accelerated up to the speed of the landing, constant from there.
        let gains = if gravity > 1e-3 { (speed + before.vy) / gravity } else { 0.0 };
        let rest = gains + (fallen - 0.5 * gains * (speed - before.vy)) / speed;
        return Some(Landing { time: before.time + rest.clamp(0.0, track.dt), speed });
    }
    None
}

/// The exact top of the first rise: its height above the log's start, and its time.
fn top<V: Geometry>(track: &Track<V>) -> Option<(f64, f64)> {
    let at = track.log.iter().position(|sample| sample.top.is_some())?;
    let [_, height] = track.log[at].top?;
    let before = &track.log[at - 1];
    // Evenly decelerated until the top: y = v·t/2.
    let rest = 2.0 * (height - before.y) / before.vy;
    let rest = if before.vy > 0.0 { rest } else { 0.0 };
    Some((height - track.log[0].y, before.time + rest.clamp(0.0, track.dt)))
}

fn full_jump<V: Geometry>(subject: &Subject) -> Measured {
    let Some((track, landed)) = jump::<V>(subject, f64::INFINITY) else { return Measured::new() };
    let tuning = &subject.tuning;
    let (height, rise) = top(&track).unzip();
    let (gravity, target) = (f64::from(tuning.gravity()), f64::from(tuning.jump_height()));
    let down = gravity * f64::from(tuning.fall.gravity);
    let hits = (2.0 * down * target).sqrt();
    // One number sets it only if gravity is constant while rising, and while falling.
    let even = tuning.fall.apex_speed == 0.0;
    let lands = even && hits <= f64::from(tuning.fall.terminal_speed);
    let up_time = even.then(|| f64::from(tuning.take_off_speed()) / gravity);
    let down_time = lands.then(|| hits / down);
    let both = up_time.zip(down_time).map(|(up, down)| up + down);
    let fall = rise.map(|rise| landed.time - rise);
    let (take_off, slows) = first_tick(&track);
    vec![
        ("take-off-speed", value(take_off).knob(tuning.take_off_speed())),
        ("jump-gravity", value(slows).target(even.then_some(gravity))),
        ("jump-height", value(height).target(target)),
        ("jump-half-time", value(height.and_then(|height| first_above(&track, 0.5 * height)))),
        ("jump-rise-time", value(rise).target(up_time)),
        ("jump-fall-time", value(fall).target(down_time)),
        ("jump-air-time", value(landed.time).target(both)),
        ("fall-to-rise", value(fall.zip(rise).map(|(fall, rise)| fall / rise))),
        ("hang-time", value(height.and_then(|height| time_above(&track, 0.9 * height)))),
        ("jump-landing-speed", value(landed.speed).target(lands.then_some(hits))),
    ]
}

/// The upward speed at the start of the first tick, and its deceleration: exact if that is
/// constant.
fn first_tick<V: Geometry>(track: &Track<V>) -> (Option<f64>, Option<f64>) {
    let [start, first, ..] = &track.log[..] else { return (None, None) };
    let take_off = 2.0 * (first.y - start.y) / track.dt - first.vy;
    // Over some ticks, because the difference of two speeds is rounded.
    let rising = track.log[1..].iter().take_while(|sample| sample.vy > 0.5 * first.vy).count().min(8);
    let slows = (rising > 1).then(|| {
        let last = &track.log[rising];
        (first.vy - last.vy) / (last.time - first.time)
    });
    (Some(take_off), slows)
}

fn height_of<V>(track: &Track<V>, sample: &Sample<V>) -> f64
where
    V: Geometry,
{
    sample.y - track.log[0].y
}

/// The first time at which the body is `height` above the start.
fn first_above<V: Geometry>(track: &Track<V>, height: f64) -> Option<f64> {
    let at = track.log.iter().position(|sample| height_of(track, sample) >= height)?;
    between(track, at.checked_sub(1)?, height)
}

/// The time between a sample and the next at which the body is at a height.
fn between<V: Geometry>(track: &Track<V>, at: usize, height: f64) -> Option<f64> {
    let (before, after) = (track.log.get(at)?, track.log.get(at + 1)?);
    let [from, to] = [before, after].map(|sample| height_of(track, sample));
    let fraction = if to == from { 0.0 } else { (height - from) / (to - from) };
    Some(before.time + fraction * (after.time - before.time))
}

/// How long the body is higher than `height` above the start.
fn time_above<V: Geometry>(track: &Track<V>, height: f64) -> Option<f64> {
    let up = first_above(track, height)?;
    let last = track.log.iter().rposition(|sample| height_of(track, sample) >= height)?;
    Some(between(track, last, height)? - up)
}

fn tap<V: Geometry>(subject: &Subject) -> Measured {
    let Some((track, landed)) = jump::<V>(subject, TAP) else { return Measured::new() };
    vec![("tap-height", value(top(&track).map(|top| top.0))), ("tap-air-time", value(landed.time))]
}

fn obstacles<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &subject.that_only_jumps();
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let jump = subject.tuning.jump;
    let rider = Rider::of::<V>(subject);
    let target = f64::from(subject.tuning.jump_height() + jump.lip);
    let coarse = &subject.coarser();
    let onto = greatest(target, |height| gets_onto::<V>(coarse, &rider, height as f32));
    let nudge = (jump.corner > 0.0).then(|| {
        greatest_of(0.0, f64::from(jump.corner + 2.0 * subject.hull.half_width()), 2e-4, |overlap| {
            passes_corner::<V>(coarse, &rider, overlap as f32)
        })
    });
    vec![
        ("jump-interval", value((jump.repeat >= 0.5).then(|| interval::<V>(subject, &rider)).flatten())),
        ("jump-onto-height", value(onto)),
        (
            "corner-nudge",
            value(nudge.flatten()).knob(jump.corner).within(2.0 * f64::from(subject.hull.clearance())),
        ),
    ]
}

/// The time between the second take-off and the third, with jump held.
fn interval<V: Geometry>(subject: &Subject, rider: &Rider) -> Option<f64> {
    let hold = rider.rest.holding(Actions::JUMP);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let begins =
        track.until(1.0, &hold.pressing(Actions::JUMP), is_jump) && track.until(60.0, &hold, is_jump);
    let from = track.last().time;
    (begins && track.until(60.0, &hold, is_jump)).then(|| track.last().time - from)
}

/// Returns true if a jump beside a block lands on it.
fn gets_onto<V: Geometry>(subject: &Subject, rider: &Rider, height: f32) -> bool {
    let near = subject.hull.half_width() + 0.05;
    let level = blocks(&[([-FAR, -1.0], [FAR, 0.0]), ([near, 0.0], [FAR, height])]);
    let mut track = Track::<V>::new(subject, level.build().expect("a floor and a block"), V::ZERO);
    let hold = rider.ahead.holding(Actions::JUMP);
    track.until(60.0, &hold.pressing(Actions::JUMP), is_landing);
    // A round foot lands on the edge before the jump is at its top.
    track.run(0.2, &rider.ahead);
    track.last().y > f64::from(height) - 0.01
}

/// Returns true if a jump straight up is nudged past the corner of a ceiling that its head
/// overlaps.
fn passes_corner<V: Geometry>(subject: &Subject, rider: &Rider, overlap: f32) -> bool {
    let half = subject.hull.half_width();
    let under = subject.hull.height() + 0.3 * subject.tuning.jump_height();
    let ceiling = ([half - overlap, under], [FAR, under + 1.0]);
    let level = blocks(&[([-FAR, -1.0], [FAR, 0.0]), ceiling]).build().expect("a floor and a ceiling");
    let mut track = Track::<V>::new(subject, level, V::ZERO);
    let hold = rider.rest.holding(Actions::JUMP);
    track.until(60.0, &hold.pressing(Actions::JUMP), |event| is_top(event) || is_landing(event));
    track.last().top.is_some_and(|[_, height]| height > 0.9 * f64::from(subject.tuning.jump_height()))
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
    let rise = |number: u8| {
        let measured = (number < count).then(|| heights[usize::from(number) + 1]).flatten();
        value(measured).knob(subject.tuning.air_jump_height(number))
    };
    vec![
        ("air-jump-1-height", rise(0)),
        ("air-jump-2-height", rise(1)),
        ("air-jump-3-height", rise(2)),
        ("all-jumps-height", value(highest)),
    ]
}

fn distances<V: Geometry>(subject: &Subject) -> Measured {
    if !subject.walks::<V>() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let runs = subject.tuning.run.speed > 0.0;
    let dashes = subject.tuning.dash.charges >= 1.0 && subject.tuning.dash.air_count >= 1.0;
    let run = rider.ahead.holding(Actions::RUN);
    let fast = if runs { run } else { rider.ahead };
    let jumps = |run_up: Option<&Intent>, ahead: &Intent| distance::<V>(subject, run_up, ahead, None);
    let dash = dashes.then(|| fast.pressing(Actions::DASH));
    vec![
        ("standing-jump-distance", value(jumps(None, &rider.ahead))),
        ("walking-jump-distance", value(jumps(Some(&rider.ahead), &rider.ahead))),
        ("running-jump-distance", value(runs.then(|| jumps(Some(&run), &run)).flatten())),
        (
            "dashing-jump-distance",
            value(dash.and_then(|dash| distance::<V>(subject, Some(&fast), &fast, Some(&dash)))),
        ),
    ]
}

/// A run-up, in seconds, that is longer than any body takes to reach its speed.
fn run_up_time(subject: &Subject) -> f64 {
    let Tuning { walk, run, .. } = subject.tuning;
    long_enough(subject, walk.speed.abs().max(run.speed))
}

/// See [`super::reach`].
pub(super) fn reach<V: Geometry>(subject: &Subject, rise: f64) -> Option<f64> {
    let subject = &subject.that_only_jumps();
    /// The longest jump that is watched, in seconds.
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
    // A jump needs its ground for the take-off only, and may land below it.
    track.level = Level::builder().build().ok()?;
    let held = ahead.holding(Actions::JUMP);
    for _ in 0..(LONGEST / track.dt) as usize {
        track.tick(&held);
        let [.., before, after] = &track.log[..] else { return None };
        let [from, to] = [before, after].map(|sample| sample.y - start.y - rise);
        if after.vy <= 0.0 && to <= 0.0 {
            let fraction = if from > 0.0 { from / (from - to) } else { return None };
            return Some(before.x + (after.x - before.x) * fraction - start.x);
        }
    }
    None
}

/// The distance of a jump after a run-up, until it lands at the height of its take-off; with
/// another press at its top.
fn distance<V: Geometry>(
    subject: &Subject,
    run_up: Option<&Intent>,
    ahead: &Intent,
    at_top: Option<&Intent>,
) -> Option<f64> {
    let subject = &subject.that_only_jumps();
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    if let Some(run_up) = run_up {
        track.run(run_up_time(subject), run_up);
        track.begin();
    }
    let start = track.last().x;
    track.tick(&ahead.pressing(Actions::JUMP));
    let held = ahead.holding(Actions::JUMP);
    if let Some(press) = at_top {
        track.until(60.0, &held, is_top);
        track.tick(press);
    }
    let landed = landing(&mut track, &|_| held)?;
    Some(track.x_at(landed.time) - start)
}

fn fall<V: Geometry>(subject: &Subject) -> Measured {
    if subject.is_from_above::<V>() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let track = falls::<V>(subject, &rest);
    let fastest = -track.last().vy;
    let drop = track.moment(|sample| (-sample.y, -sample.vy), fastest).map(|(_, drop)| drop);
    vec![
        ("terminal-speed", value(fastest).knob(subject.tuning.fall.terminal_speed)),
        ("terminal-drop", value(drop)),
    ]
}

/// A fall from rest until its speed is constant.
fn falls<V: Geometry>(subject: &Subject, intent: &Intent) -> Track<V> {
    let mut track = Track::<V>::new(subject, nothing(), V::ZERO);
    for _ in 0..(120.0 / track.dt) as usize {
        let before = track.last().vy;
        track.tick(intent);
        if track.last().vy >= before {
            break;
        }
    }
    track
}

/// The terminal speed of a fall, in m/s.
pub(super) fn fall_speed(subject: &Subject) -> f64 {
    f64::from(subject.tuning.fall.terminal_speed)
}

fn fast_fall<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.fall;
    let falls_fast = knobs.fast_gravity > 1.0 || knobs.fast_speed > knobs.terminal_speed;
    let Some((track, _)) = jump::<V>(subject, f64::INFINITY).filter(|_| falls_fast) else {
        return Measured::new();
    };
    let rest = Rider::of::<V>(subject).rest;
    let (hold, fast) = (rest.holding(Actions::JUMP), rest.holding(Actions::CROUCH));
    let fastest = -self::falls::<V>(subject, &fast).last().vy;
    let time = top(&track).and_then(|(_, rise)| {
        let subject = &subject.that_only_jumps();
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        track.tick(&rest.pressing(Actions::JUMP));
        let landed = landing(&mut track, &|time| if time < rise { hold } else { fast })?;
        Some(landed.time - rise)
    });
    vec![
        ("fast-fall-speed", value(fastest).knob(knobs.terminal_speed.max(knobs.fast_speed))),
        ("fast-fall-time", value(time)),
    ]
}
