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
                of "ledge";
                "ledge-climb-time", "s", "The time from hanging by an edge to standing on it.";
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
    let water = V::splat(FAR).with_height(0.0);
    let mut builder = Level::builder();
    builder.add_zone(Zone::new(-V::splat(FAR), water, Effect::Water));
    let level = builder.build().expect("one zone");
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, level, V::UP * -subject.hull.height());
    let mut speed = |intent: &Intent, of: fn(&Track<V>) -> f64| {
        track.run(EVEN, intent);
        in_move(&track, "swim").then(|| of(&track))
    };
    let along = speed(&rider.ahead, |track| track.last().vx.abs());
    let down = speed(&rider.rest.holding(Actions::CROUCH), |track| -track.last().vy);
    let knobs = subject.tuning.swim;
    vec![(along, Some(knobs.speed.into())), (down, Some(knobs.dive_speed.into()))]
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
    track.begin();
    let climbs = rider.ahead.pressing(Actions::JUMP);
    let up = track.until(60.0, &climbs, |event| matches!(event, Event::Landed { .. }));
    vec![(up.then(|| track.last().time), Some(knobs.climb_time.into()))]
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
