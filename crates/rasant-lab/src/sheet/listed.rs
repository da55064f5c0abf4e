//! Gliding, swimming, ledges and slams.

use rasant::{Actions, Effect, Event, Geometry, Intent, Level, Mode, Zone};

use super::course::{FAR, Rider, Track, blocks, floor};
use super::{Course, Measured, Subject, kinds};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "glide";
                "glide-fall-speed", "m/s", "The speed of a fall while it glides.";
                "glide-distance", "m", "How far it glides for each metre that it sinks, steered ahead.";
            ],
            measure: glide::<V>,
        },
        Course {
            kinds: kinds![
                of "swim";
                "swim-speed", "m/s", "The speed of swimming.";
                "dive-speed", "m/s", "The speed of diving.";
            ],
            measure: swim::<V>,
        },
        Course {
            kinds: kinds![
                of "swim" "fall" "jump";
                "sink-depth", "m", "How deep a fall of 1 m sinks under where the body floats.";
                "surface-time", "s", "The time from there to 5 cm under where it floats.";
                "swim-jump-height", "m", "How high a jump out of the water rises.";
            ],
            measure: falls_in::<V>,
        },
        Course {
            kinds: kinds![
                of "ledge";
                "ledge-climb-time", "s", "The time from hanging by an edge to standing on it.";
                "ledge-jump-height", "m", "How high a jump off an edge rises, from where the body hangs.";
            ],
            measure: ledge::<V>,
        },
        Course {
            kinds: kinds![
                of "slam";
                "slam-speed", "m/s", "The speed with which a slam meets the ground.";
                "slam-recovery-time", "s", "The time from there until the body moves again.";
            ],
            measure: slam::<V>,
        },
    ]
}

/// Long enough for what comes to an even speed, in seconds.
const EVEN: f64 = 6.0;

fn in_move<V: Geometry>(track: &Track<V>, name: &str) -> bool {
    matches!(track.last().state.mode, Mode::Move(known) if known == name)
}

fn nothing<V: Geometry>() -> Level<V> {
    Level::builder().build().expect("no pieces")
}

fn glide<V: Geometry>(subject: &Subject) -> Measured {
    if subject.is_from_above::<V>() || subject.tuning.glide.fall_speed <= 0.0 || subject.hops() {
        return Measured::new();
    }
    let mut subject = *subject;
    subject.tuning.glide.max_time = 0.0;
    let rider = Rider::of::<V>(&subject);
    let mut track = Track::<V>::new(&subject, nothing(), V::ZERO);
    track.run(EVEN, &rider.ahead.holding(Actions::JUMP));
    if !in_move(&track, "glide") {
        return Measured::new();
    }
    let sinks = -track.last().vy;
    vec![
        (Some(sinks), Some(subject.tuning.glide.fall_speed.min(subject.tuning.fall.terminal_speed).into())),
        ((sinks > 0.0).then(|| track.last().vx.abs() / sinks), None),
    ]
}

fn swim<V: Geometry>(subject: &Subject) -> Measured {
    if subject.is_from_above::<V>() || subject.tuning.swim.speed <= 0.0 || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, water(), V::UP * -subject.hull.height());
    let mut speed = |intent: &Intent, of: fn(&Track<V>) -> f64| {
        track.run(EVEN, intent);
        in_move(&track, "swim").then(|| of(&track))
    };
    let along = speed(&rider.ahead, |track| track.last().vx.abs());
    let down = speed(&rider.rest.holding(Actions::CROUCH), |track| -track.last().vy);
    let knobs = subject.tuning.swim;
    vec![(along, Some(knobs.speed.into())), (down, Some(knobs.dive_speed.into()))]
}

/// Water without end, its surface at 0.
fn water<V: Geometry>() -> Level<V> {
    let mut builder = Level::builder();
    builder.add_zone(Zone::new(-V::splat(FAR), V::splat(FAR).with_height(0.0), Effect::Water));
    builder.build().expect("one zone")
}

fn falls_in<V: Geometry>(subject: &Subject) -> Measured {
    /// Metres of the fall.
    const HEIGHT: f32 = 1.0;
    /// Metres under where it floats that count as being there.
    const NEAR: f64 = 0.05;
    let knobs = subject.tuning.swim;
    if subject.is_from_above::<V>() || knobs.speed <= 0.0 || subject.hops() {
        return Measured::new();
    }
    let mut subject = *subject;
    subject.tuning.glide.fall_speed = 0.0;
    let floats = -knobs.float * subject.hull.height();
    let rider = Rider::of::<V>(&subject);
    let mut track = Track::<V>::new(&subject, water(), V::UP * (floats + HEIGHT));
    track.run(EVEN, &rider.rest);
    let depth = |sample: &super::course::Sample<V>| f64::from(floats) - sample.y;
    let (at, deepest) = track
        .log
        .iter()
        .enumerate()
        .map(|(at, sample)| (at, depth(sample)))
        .fold((0, 0.0), |deepest, other| if other.1 > deepest.1 { other } else { deepest });
    let floats_up = knobs.float_speed > 0.0 && knobs.neutral_depth <= 0.0;
    let sinking = track.log[1..].iter().rposition(|sample| sample.vy < 0.0 && depth(sample) > NEAR);
    let turns = sinking.and_then(|last| crossing(&track, last + 1, |sample| sample.vy, 0.0));
    let last_under = track.log[at..].iter().position(|sample| depth(sample) <= NEAR);
    let back = last_under.and_then(|under| crossing(&track, (at + under).checked_sub(1)?, depth, NEAR));
    let surfaces = turns.zip(back).filter(|_| floats_up && deepest > NEAR).map(|(turns, back)| back - turns);
    let jump = (floats_up && knobs.jump_height > 0.0).then(|| {
        let from = track.last().y;
        track.begin();
        track.until(EVEN, &rider.rest.pressing(Actions::JUMP).holding(Actions::JUMP), is_apex);
        track.last().top.map(|top| top[1] - from)
    });
    vec![
        (Some(deepest).filter(|deepest| floats_up && *deepest > 0.0), None),
        (surfaces, None),
        (jump.flatten(), Some(knobs.jump_height.into())),
    ]
}

/// The moment between a sample and the next at which something comes to a value, evenly.
fn crossing<V: Geometry>(
    track: &Track<V>,
    at: usize,
    of: impl Fn(&super::course::Sample<V>) -> f64,
    value: f64,
) -> Option<f64> {
    let (before, after) = (track.log.get(at)?, track.log.get(at + 1)?);
    let (from, to) = (of(before), of(after));
    let fraction = if to == from { 0.0 } else { ((value - from) / (to - from)).clamp(0.0, 1.0) };
    Some(before.time + (after.time - before.time) * fraction)
}

fn is_apex<V>(event: &Event<V>) -> bool {
    matches!(event, Event::Apex { .. })
}

fn ledge<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.ledge;
    if subject.is_from_above::<V>() || knobs.reach <= 0.0 || !subject.walks::<V>() {
        return Measured::new();
    }
    // A wall whose edge the body falls past, and room below to hang.
    let half = subject.hull.half_width();
    let level = blocks(&[([half + 0.1, -FAR], [FAR, 0.0])]).build().expect("a block");
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, level, V::UP * -(0.5 * knobs.height));
    let hangs = track.until(EVEN, &rider.ahead, |event| is_begun(event, "ledge"));
    track.run(0.5, &rider.ahead);
    if !hangs || !in_move(&track, "ledge") {
        return Measured::new();
    }
    let hung = *track.body.state();
    track.begin();
    let climbs = rider.ahead.pressing(Actions::JUMP);
    let up = track.until(60.0, &climbs, |event| matches!(event, Event::Landed { .. }));
    let climb_time = up.then(|| track.last().time);
    track.body.restore(hung);
    track.begin();
    let jump = rider.back.filter(|_| knobs.jump_height > 0.0).and_then(|back| {
        track.until(EVEN, &back.pressing(Actions::JUMP).holding(Actions::JUMP), is_apex);
        let from = track.log[0].y;
        track.last().top.map(|top| top[1] - from)
    });
    vec![(climb_time, Some(knobs.climb_time.into())), (jump, Some(knobs.jump_height.into()))]
}

fn is_begun<V>(event: &Event<V>, name: &str) -> bool {
    matches!(event, Event::MoveBegan { name: known } if *known == name)
}

fn slam<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.slam;
    if subject.is_from_above::<V>() || knobs.action < 0.0 || !subject.walks::<V>() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, floor(subject), V::UP * 5.0);
    let press = rider.rest.pressing(Actions::own(knobs.action as u32));
    let mut met = None;
    let mut intent = press;
    for _ in 0..(EVEN / track.dt) as usize {
        met = track.tick(&intent).iter().find_map(|event| match event {
            Event::Landed { speed, .. } => Some(f64::from(*speed)),
            _ => None,
        });
        if met.is_some() {
            break;
        }
        intent = rider.rest;
    }
    if met.is_none() || !in_move(&track, "slam") {
        return Measured::new();
    }
    track.begin();
    let free = track.until(60.0, &rider.rest, |event| matches!(event, Event::MoveEnded { .. }));
    vec![(met, Some(knobs.speed.into())), (free.then(|| track.last().time), Some(knobs.recovery.into()))]
}
