//! Walls, ladders, dashes, rolls, hops, turns, and how soon a press is felt.

use rasant::level::LevelBuilder;
use rasant::{Actions, Effect, Event, Face, Geometry, Intent, Level, Mode, Phase, Steering, Zone};

use super::course::{FAR, Rider, Track, blocks, floor};
use super::{Course, Measured, Subject, kinds};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "wall";
                "wall-slide-speed", "m/s", "The speed down a wall, steering into it.";
                "wall-jump-height", "m", "How high a jump off it rises.";
                "wall-jump-reach", "m", "How far from the wall its top is.";
            ],
            measure: wall::<V>,
        },
        Course {
            kinds: kinds![
                of "ladder";
                "ladder-up-speed", "m/s", "The speed up a ladder.";
                "ladder-down-speed", "m/s", "The speed down it.";
                "ladder-slide-speed", "m/s", "The speed of sliding down it.";
                "ladder-jump-height", "m", "How high a jump off it rises.";
            ],
            measure: ladder::<V>,
        },
        Course {
            kinds: kinds![
                of "dash";
                "dash-distance", "m", "How far a dash on the flat drives.";
                "dash-time", "s", "How long.";
                "dash-top-speed", "m/s", "Its greatest speed.";
                "dash-cooldown", "s", "From its end to the next.";
            ],
            measure: dash::<V>,
        },
        Course {
            kinds: kinds![
                of "roll";
                "roll-distance", "m", "How far a roll on the flat drives.";
                "roll-time", "s", "How long.";
            ],
            measure: roll::<V>,
        },
        Course {
            kinds: kinds![
                of "hop";
                "hop-length", "m", "How far a hop goes.";
                "hop-time", "s", "How long it takes.";
            ],
            measure: hop::<V>,
        },
        Course {
            kinds: kinds![
                of "turn";
                "turn-rate", "°/s", "How quickly the body turns.";
                "turn-half-time", "s", "The time for half of a turn by a right angle.";
            ],
            measure: turn::<V>,
        },
        Course {
            kinds: kinds![
                of;
                "steer-delay", "ticks", "Whole ticks between the one that sees a steer and the one that moves.";
                "jump-delay", "ticks", "Whole ticks between the one that sees a press of jump and the one that rises.";
            ],
            measure: delay::<V>,
        },
    ]
}

fn wall<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.wall;
    if !subject.walks::<V>() || knobs.slide_speed <= 0.0 {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let half = subject.hull.half_width() + 2.0 * subject.hull.clearance();
    let level = blocks(&[([half, -FAR], [half + 1.0, FAR])]).build().expect("a few sound pieces");
    let mut track = Track::<V>::new(subject, level, V::ZERO);
    // Until it slides, and then until its speed no longer changes.
    track.run(0.3, &rider.ahead);
    for _ in 0..(10.0 / track.dt) as usize {
        let before = track.last().vy;
        track.tick(&rider.ahead);
        if track.last().vy == before && track.last().state.mode == Mode::WallSlide {
            break;
        }
    }
    let slides = track.last().state.mode == Mode::WallSlide;
    let speed = slides.then_some((-track.last().vy, f64::from(knobs.slide_speed)));
    track.begin();
    let jumped = knobs.jump_height > 0.0
        && track
            .tick(&rider.rest.pressing(Actions::JUMP))
            .iter()
            .any(|event| matches!(event, Event::Jumped { .. }));
    let rises = jumped && track.until(60.0, &rider.rest.holding(Actions::JUMP), is_top);
    let from = track.log[0];
    let top = track.last().top.filter(|_| rises);
    vec![
        (speed.map(|it| it.0), speed.map(|it| it.1)),
        (top.map(|[_, y]| y - from.y), Some(knobs.jump_height.into())),
        (top.map(|[x, _]| (x - from.x).abs()), None),
    ]
}

fn is_top<V>(event: &Event<V>) -> bool {
    matches!(event, Event::Apex { .. })
}

fn ladder<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.ladder;
    if subject.is_from_above::<V>() || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    // In two dimensions a ladder is climbed by steering up, in three by
    // steering against its front.
    let side_view = V::DIMENSION == 2;
    let up = if side_view { Intent::steering(0.0, 1.0) } else { rider.ahead };
    let down = if side_view { Some(Intent::steering(0.0, -1.0)) } else { rider.back };
    let halves = V::from_array([0.3, FAR, 0.3]);
    let kind = Effect::Ladder { front: if side_view { V::ZERO } else { -V::RIGHT } };
    let mut builder: LevelBuilder<V> = Level::builder();
    builder.add_zone(Zone::new(-halves, halves, kind));
    let mut track = Track::<V>::new(subject, builder.build().expect("a few sound pieces"), V::ZERO);
    let mut climbs = |intent: &Intent| {
        // The first tick enters the zone, the second takes hold.
        track.run(4.0 * track.dt, intent);
        let holds = track.last().state.mode == Mode::Ladder;
        holds.then(|| track.last().vy.abs())
    };
    let rises = climbs(&up);
    let steers_back = !side_view && subject.tuning.walk.back != 1.0;
    let asked = |speed: f32| (!steers_back).then_some(f64::from(speed));
    let falls = down.and_then(|down| climbs(&down));
    let slides = down.and_then(|down| climbs(&down.holding(Actions::CROUCH)));
    let holds = rises.is_some() && track.last().state.mode == Mode::Ladder;
    let jump = (holds && knobs.jump_height > 0.0).then(|| {
        let mut subject = *subject;
        subject.tuning.glide.fall_speed = 0.0;
        track.body.tuning = subject.tuning;
        track.begin();
        let jumps = rider.rest.pressing(Actions::JUMP).holding(Actions::JUMP);
        track.until(60.0, &jumps, |event| matches!(event, Event::Apex { .. }));
        track.last().top.map(|top| top[1] - track.log[0].y)
    });
    vec![
        (rises, Some(knobs.up_speed.into())),
        (falls, asked(knobs.down_speed)),
        (slides, asked(knobs.slide_speed)),
        (jump.flatten(), Some(knobs.jump_height.into())),
    ]
}

/// The drive of a maneuver.
struct Driven {
    /// How far along x, in metres.
    way: f64,
    /// How long, in seconds.
    time: f64,
}

/// The drive of the maneuver that an intent begins.
fn driven<V: Geometry>(track: &mut Track<V>, intent: &Intent, rest: &Intent) -> Option<Driven> {
    let mut press = *intent;
    let mut first = None;
    for _ in 0..(60.0 / track.dt) as usize {
        let before = *track.last();
        let mut ended = false;
        for event in track.tick(&press) {
            match event {
                Event::ManeuverPhase { phase: Phase::Active, .. } => first = Some(before),
                Event::ManeuverPhase { phase: Phase::Recovery | Phase::Cooldown, .. } => ended = true,
                _ => {}
            }
        }
        if let Some(first) = first.filter(|_| ended) {
            let last = track.last();
            return Some(Driven { way: (last.x - first.x).abs(), time: last.time - first.time });
        }
        press = *rest;
    }
    None
}

/// The subject on courses whose figures are good to a tick only: ten times as
/// many of them.
fn finer(subject: &Subject) -> Subject {
    Subject { rate: subject.rate.saturating_mul(10).min(20_000), ..*subject }
}

fn dash<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &finer(subject);
    let knobs = subject.tuning.dash;
    if knobs.charges < 1.0 || subject.hops() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    track.begin();
    let Some(Driven { way, time }) = driven(&mut track, &rest.pressing(Actions::DASH), &rest) else {
        return Measured::new();
    };
    let fastest =
        track.log.windows(2).map(|pair| (pair[1].x - pair[0].x).abs() / track.dt).fold(0.0, f64::max);
    let again = next_dash(&mut track, &rest).map(|time| time - to_end(subject));
    vec![
        (Some(way), Some(knobs.distance.into())),
        (Some(time), Some(knobs.active.into())),
        (Some(fastest), Some(f64::from(knobs.distance / knobs.active * (1.0 + knobs.curve.abs())))),
        (again, Some(knobs.cooldown.into())),
    ]
}

/// From the press of a dash to the end of its recovery, in seconds.
fn to_end(subject: &Subject) -> f64 {
    let dash = subject.tuning.dash;
    f64::from(dash.startup + dash.active + dash.recovery)
}

/// When the next dash begins, dash being pressed in every tick from now on: in
/// seconds since the log began.
fn next_dash<V: Geometry>(track: &mut Track<V>, rest: &Intent) -> Option<f64> {
    let begins = |event: &Event<V>| {
        matches!(event, Event::ManeuverPhase { phase: Phase::Startup | Phase::Active, .. })
    };
    let dash = track.body.tuning.dash;
    let most = f64::from(dash.recovery + dash.cooldown + dash.recharge_time * dash.charges) + 1.0;
    for _ in 0..(most / track.dt) as usize {
        let before = track.last().time;
        if track.tick(&rest.pressing(Actions::DASH)).iter().any(begins) {
            return Some(before);
        }
    }
    None
}

fn roll<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &finer(subject);
    let knobs = subject.tuning.roll;
    if knobs.action < 0.0 || subject.hops() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let press = rest.pressing(Actions::own(knobs.action.round() as u32));
    let Some(Driven { way, time }) = driven(&mut track, &press, &rest) else { return Measured::new() };
    vec![(Some(way), Some(knobs.distance.into())), (Some(time), Some(knobs.active.into()))]
}

fn hop<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &finer(subject);
    let knobs = subject.tuning.hop;
    if !subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let Some(Driven { way, time }) = driven(&mut track, &rider.ahead, &rider.rest) else {
        return Measured::new();
    };
    vec![(Some(way), Some(knobs.length.into())), (Some(time), Some(knobs.time.into()))]
}

fn turn<V: Geometry>(subject: &Subject) -> Measured {
    let tuning = &subject.tuning;
    let turns = V::DIMENSION == 3 || subject.is_from_above::<V>();
    let drives = tuning.steering == Steering::Body && tuning.face == Face::Steer;
    if !turns || tuning.face == Face::Fixed || subject.hops() {
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
            // Evenly within the tick.
            let share = f64::from((0.5 * quarter - before) / (now - before));
            half = Some(track.log[track.log.len() - 2].time + share * track.dt);
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
    vec![
        ((!at_once).then(|| fastest.to_degrees()), (!soft).then_some(rate)),
        (
            if at_once { Some(0.0) } else { half },
            match (soft, at_once) {
                (true, _) if knobs.rate == 0.0 => Some(f64::from(knobs.half_life)),
                (false, false) => Some(45.0 / rate),
                _ => None,
            },
        ),
    ]
}

fn delay<V: Geometry>(subject: &Subject) -> Measured {
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
    vec![
        (until_moved(&rider.ahead, &rider.ahead), None),
        (jumps.then(|| until_moved(&press, &rider.rest.holding(Actions::JUMP))).flatten(), None),
    ]
}
