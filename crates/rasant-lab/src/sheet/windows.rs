//! How late and how early a press still counts: after an edge, before a landing, beside a wall.

use rasant::moves::Jump;
use rasant::{Actions, Event, Geometry, Intent, State};

use super::course::{FAR, Rider, Track, blocks, floor, is_jump, is_landing};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::ground::long_enough;
use super::search::greatest_whole;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "jump";
                "coyote-time", "s", "Latest press after walking off an edge that still jumps.";
                "coyote-ticks", "ticks", "That time in ticks at the game's rate.";
                "coyote-distance", "m", "Distance past the end of the ground of that press, walking.";
                "coyote-run-distance", "m", "Distance past the end of the ground of that press, running.";
            ],
            measure: coyote::<V>,
        },
        Course {
            kinds: kinds![
                of "jump";
                "buffer-time", "s", "Earliest press before a landing that still jumps at it.";
                "buffer-ticks", "ticks", "That time in ticks at the game's rate.";
            ],
            measure: buffer::<V>,
        },
        Course {
            kinds: kinds![
                of "wall";
                "wall-grace-time", "s", "Latest press after leaving a wall that still jumps off it.";
                "wall-grace-ticks", "ticks", "That time in ticks at the game's rate.";
            ],
            measure: grace::<V>,
        },
    ]
}

/// The positions within a tick at which an edge or the ground is reached, as fractions.
const PHASES: [f64; 4] = [0.0, 0.25, 0.5, 0.75];

/// The subject without anything else that answers a press of jump.
fn only<V: Geometry>(subject: &Subject) -> Option<Subject> {
    let mut subject = subject.that_only_jumps();
    subject.tuning.jump.air_count = 0.0;
    subject.walks::<V>().then_some(subject)
}

/// The number of ticks for a time, plus some more.
fn ticks_for(seconds: f32, track_dt: f64) -> usize {
    (f64::from(seconds) / track_dt).ceil() as usize + 4
}

/// A window in ticks: the number of ticks after the first one in which a press still counts.
#[derive(Clone, Copy)]
struct Late {
    ticks: usize,
    /// The distance from losing the ground to the start of that tick, in metres.
    distance: f64,
}

fn coyote<V: Geometry>(subject: &Subject) -> Measured {
    let Some(subject) = only::<V>(subject) else { return Measured::new() };
    let knobs = subject.tuning.jump;
    let rider = Rider::of::<V>(&subject);
    let (walk, run) = (subject.tuning.walk.speed.abs(), subject.tuning.run.speed);
    let walking = late_jump::<V>(&subject, &rider.ahead, walk, 0.0);
    let running =
        (run > 0.0).then(|| late_jump::<V>(&subject, &rider.ahead.holding(Actions::RUN), run, 0.0)).flatten();
    let game = subject.in_game();
    let in_game = PHASES.map(|phase| late_jump::<V>(&game, &rider.ahead, walk, phase));
    let ticks = in_game.iter().map(|late| late.map_or(0, |late| late.ticks + 1)).min();
    let tick = subject.dt();
    let distance = |late: Option<Late>| late.map_or(0.0, |late| late.distance);
    let target = |speed: f32| f64::from(speed * knobs.coyote_time);
    vec![
        (
            "coyote-time",
            value(walking.map_or(0.0, |late| late.ticks as f64 * tick))
                .knob(knobs.coyote_time)
                .within(2.0 * tick),
        ),
        ("coyote-ticks", value(ticks.map(|ticks| ticks as f64))),
        (
            "coyote-distance",
            value(distance(walking)).target(target(walk)).within(2.0 * tick * f64::from(walk)),
        ),
        (
            "coyote-run-distance",
            value((run > 0.0).then(|| distance(running)))
                .target(target(run))
                .within(2.0 * tick * f64::from(run)),
        ),
    ]
}

/// Walks off an edge, which is a fraction of a tick further for a `phase`, and jumps as late as
/// possible.
fn late_jump<V: Geometry>(subject: &Subject, ahead: &Intent, speed: f32, phase: f64) -> Option<Late> {
    /// Seconds on the ground at full speed before the edge.
    const BEFORE: f32 = 0.1;
    let run_up = long_enough(subject, speed) as f32 + BEFORE;
    let edge = speed * (run_up + (phase * subject.dt()) as f32);
    let level = blocks(&[([-FAR, -1.0], [edge, 0.0])]).build().expect("a floor");
    let mut track = Track::<V>::new(subject, level, V::ZERO);
    let leaves = |event: &Event<V>| matches!(event, Event::LeftGround { .. });
    if !track.until(2.0 * f64::from(run_up) + 2.0, ahead, leaves) {
        return None;
    }
    let left = *track.body.state();
    // The ground is behind, and nothing is below.
    track.begin();
    let from = track.last().x;
    let mut at = |ticks: usize| {
        track.body.restore(left);
        track.begin();
        for _ in 0..ticks {
            track.tick(ahead);
        }
        let distance = track.last().x - from;
        let jumps = track.tick(&ahead.pressing(Actions::JUMP)).iter().any(is_jump);
        jumps.then_some(distance)
    };
    let most = ticks_for(subject.tuning.jump.coyote_time, subject.dt());
    let ticks = greatest_whole(most, |ticks| at(ticks).is_some())?;
    let distance = at(ticks)?;
    Some(Late { ticks, distance })
}

fn buffer<V: Geometry>(subject: &Subject) -> Measured {
    let Some(subject) = only::<V>(subject) else { return Measured::new() };
    let knobs = subject.tuning.jump;
    let early = early_jump::<V>(&subject, 0.0);
    let game = subject.in_game();
    let in_game = PHASES.map(|phase| early_jump::<V>(&game, phase));
    // The tick that lands is included.
    let ticks = in_game.iter().map(|ticks| ticks.map_or(0, |ticks| ticks + 1)).min();
    let tick = subject.dt();
    vec![
        (
            "buffer-time",
            value(early.map_or(0.0, |ticks| ticks as f64 * tick)).knob(knobs.buffer_time).within(2.0 * tick),
        ),
        ("buffer-ticks", value(ticks.map(|ticks| ticks as f64))),
    ]
}

/// Falls to the ground, from slightly higher for a `phase`, and presses jump as early as possible.
/// Returns the number of ticks before the landing.
fn early_jump<V: Geometry>(subject: &Subject, phase: f64) -> Option<usize> {
    /// Seconds of the fall beyond the buffer.
    const MORE: f32 = 0.1;
    let rest = Rider::of::<V>(subject).rest;
    let buffer = subject.tuning.jump.buffer_time + MORE;
    let Tuned { gravity, terminal } = Tuned::of(subject);
    // High enough to fall for that long.
    let height = (0.5 * gravity * buffer * buffer).min(terminal * buffer) + 0.5;
    let height = height + terminal.min(gravity * buffer) * (phase * subject.dt()) as f32;
    let mut track = Track::<V>::new(subject, floor(subject), V::UP * height);
    let start = *track.body.state();
    if !track.until(600.0, &rest, is_landing) {
        return None;
    }
    let landing = track.log.len() - 2;
    let jumps = |before: usize| {
        track.body.restore(start);
        for _ in 0..landing - before {
            track.tick(&rest);
        }
        // Up to the tick after the landing.
        let mut intent = rest.pressing(Actions::JUMP);
        (0..before + 2).any(|_| {
            let jumps = track.tick(&intent).iter().any(is_jump);
            intent = rest;
            jumps
        })
    };
    let most = ticks_for(subject.tuning.jump.buffer_time, subject.dt()).min(landing);
    greatest_whole(most, jumps)
}

/// Gravity while falling, and the terminal speed.
struct Tuned {
    gravity: f32,
    terminal: f32,
}

impl Tuned {
    fn of(subject: &Subject) -> Self {
        let tuning = &subject.tuning;
        Self { gravity: tuning.gravity() * tuning.fall.gravity, terminal: tuning.fall.terminal_speed }
    }
}

fn grace<V: Geometry>(subject: &Subject) -> Measured {
    let Some(subject) = only::<V>(subject) else { return Measured::new() };
    let knobs = subject.tuning.wall;
    if knobs.jump_height <= 0.0 {
        return Measured::new();
    }
    let fine = wall_jump::<V>(&subject);
    let in_game = wall_jump::<V>(&subject.in_game());
    let tick = subject.dt();
    vec![
        (
            "wall-grace-time",
            value(fine.map_or(0.0, |ticks| ticks as f64 * tick)).knob(knobs.grace_time).within(2.0 * tick),
        ),
        ("wall-grace-ticks", value(in_game.map_or(0.0, |ticks| (ticks + 1) as f64))),
    ]
}

/// Leaves a wall at once, far to the side, and jumps as late as possible. Returns the number of
/// ticks after leaving it.
fn wall_jump<V: Geometry>(subject: &Subject) -> Option<usize> {
    /// The distance to the side, in metres.
    const ASIDE: f32 = 3.0;
    let rider = Rider::of::<V>(subject);
    let near = subject.hull.half_width() + 2.0 * subject.hull.clearance();
    let level = blocks(&[([near, -FAR], [near + 1.0, FAR])]).build().expect("a wall");
    let mut track = Track::<V>::new(subject, level, V::ZERO);
    track.run(0.2, &rider.ahead);
    let beside = *track.body.state();
    let away = State { position: beside.position - V::RIGHT * ASIDE, velocity: V::ZERO, ..beside };
    let jumps = |ticks: usize| {
        track.body.restore(away);
        for _ in 0..ticks {
            track.tick(&rider.rest);
        }
        let is_wall = |event: &Event<V>| matches!(event, Event::Jumped { kind: Jump::WALL });
        track.tick(&rider.rest.pressing(Actions::JUMP)).iter().any(is_wall)
    };
    let most = ticks_for(subject.tuning.wall.grace_time, subject.dt());
    greatest_whole(most, jumps)
}
