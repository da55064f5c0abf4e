//! Figures of walls: sliding down them, jumping off them, and climbing by such jumps.

use rasant::moves::Jump;
use rasant::state::Name;
use rasant::{Actions, Event, Geometry, Intent, Mode, State};

use super::course::{FAR, Rider, Track, blocks, is_top};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::ladder::air_jumps;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "wall";
                "wall-slide-speed", "m/s", "Speed down a wall, steering into it.";
                "wall-touch-speed", "m/s", "Speed down along a wall 0.5 s after touching it, without steering.";
                "wall-jump-height", "m", "Height of a jump off a wall.";
                "wall-jump-reach", "m", "Distance of the top of that jump from the wall, without steering.";
                "wall-air-jumps", "jumps", "Jumps in the air after a jump off a wall, if all had been used before.";
            ],
            measure: wall::<V>,
        },
        Course {
            kinds: kinds![
                of "wall" "air";
                "wall-return-gain", "m", "Height gained from a jump off a wall to the next off the same wall, steering back.";
                "wall-return-time", "s", "Time from that jump until the body is back and no longer rises.";
                "wall-return-distance", "m", "Largest distance of the body from the wall meanwhile.";
                "wall-jumps-in-a-row", "jumps", "Jumps off one wall one after another, up to 20; 1 if it cannot be reached again.";
                "wall-climb-height", "m", "Height gained by all of them.";
            ],
            measure: one_wall::<V>,
        },
        Course {
            kinds: kinds![
                of "wall" "air";
                "shaft-gain", "m", "Height gained by the last of five jumps between two walls, 2 m apart for the body.";
                "shaft-height", "m", "Height gained by all five.";
            ],
            measure: two_walls::<V>,
        },
    ]
}

/// The longest jump off a wall that is watched, in seconds.
const LONGEST: f64 = 20.0;
/// The depth below the take-off, in metres, at which a wall is out of reach.
const DEEPEST: f64 = 50.0;

/// A body that touches a wall on the side of positive x, after falling beside it for 0.2 s.
fn beside<V: Geometry>(subject: &Subject) -> Track<V> {
    let near = subject.hull.half_width() + 2.0 * subject.hull.clearance();
    let level = blocks(&[([near, -FAR], [near + 1.0, FAR])]).build().expect("a wall");
    let mut track = Track::<V>::new(subject, level, V::ZERO);
    track.run(0.2, &Rider::of::<V>(subject).ahead);
    track
}

fn is_off_wall<V>(event: &Event<V>) -> bool {
    matches!(event, Event::Jumped { kind: Jump::WALL })
}

fn wall<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.wall;
    if !subject.walks::<V>() || (knobs.slide_speed <= 0.0 && knobs.jump_height <= 0.0) {
        return Measured::new();
    }
    let subject = &subject.that_only_jumps();
    let rider = Rider::of::<V>(subject);
    let mut track = beside::<V>(subject);
    let touching = *track.body.state();
    for _ in 0..(60.0 / track.dt) as usize {
        let before = track.last().vy;
        track.tick(&rider.ahead);
        if track.last().vy == before && track.last().state.mode == Mode::Move(Name::new("wall-slide")) {
            break;
        }
    }
    let slides = track.last().state.mode == Mode::Move(Name::new("wall-slide"));
    let slide_speed = slides.then_some(-track.last().vy);
    let loose = (knobs.slide_speed > 0.0).then(|| {
        track.body.restore(State { velocity: V::ZERO, ..touching });
        track.run(0.5, &rider.rest);
        -track.last().vy
    });
    track.body.restore(touching);
    track.begin();
    let jumped = track.tick(&rider.rest.pressing(Actions::JUMP)).iter().any(is_off_wall);
    let rises = jumped && track.until(60.0, &rider.rest.holding(Actions::JUMP), is_top);
    let from = track.log[0];
    let top = track.last().top.filter(|_| rises);
    let gives = (jumped && subject.tuning.jump.air_count > 0.0).then(|| {
        let mut far = State { position: touching.position - V::RIGHT * 9.0, ..touching };
        far.touching.beside = None;
        track.body.restore(far);
        // A buffered press would jump off the wall.
        track.body.tuning.jump.buffer_time = 0.0;
        air_jumps(&mut track, &rider.rest);
        let back = State { position: touching.position, velocity: V::ZERO, ..*track.body.state() };
        track.body.restore(back);
        track.run(0.1, &rider.ahead);
        track.tick(&rider.rest.pressing(Actions::JUMP));
        // Until the wall no longer counts.
        track.run(f64::from(knobs.grace_time) + 0.1, &rider.rest.holding(Actions::JUMP));
        air_jumps(&mut track, &rider.rest)
    });
    vec![
        ("wall-slide-speed", value(slide_speed).knob(knobs.slide_speed)),
        ("wall-touch-speed", value(loose)),
        ("wall-jump-height", value(top.map(|[_, y]| y - from.y)).knob(knobs.jump_height)),
        ("wall-jump-reach", value(top.map(|[x, _]| (x - from.x).abs()))),
        ("wall-air-jumps", value(gives)),
    ]
}

/// A jump off a wall, until it reaches this or another wall.
#[derive(Clone, Copy)]
struct Crossing {
    /// The height gained, in metres.
    gain: f64,
    time: f64,
    /// The largest distance from the take-off, in metres.
    distance: f64,
}

/// Jumps, steered by `intent`, until the body is at `to` along x and no longer rises.
fn crosses<V: Geometry>(track: &mut Track<V>, intent: &Intent, to: f64) -> Option<Crossing> {
    track.begin();
    let start = *track.last();
    let hold = intent.holding(Actions::JUMP);
    if !track.tick(&hold.pressing(Actions::JUMP)).iter().any(is_off_wall) {
        return None;
    }
    let near = 4.0 * f64::from(track.body.hull.clearance());
    let mut distance = 0.0f64;
    for _ in 0..(LONGEST / track.dt) as usize {
        track.tick(&hold);
        let last = *track.last();
        distance = distance.max((last.x - start.x).abs());
        let touches = last.state.touching.beside.is_some_and(|wall| wall.away_for == 0.0);
        if touches && (last.x - to).abs() < near && last.vy <= 0.0 {
            return Some(Crossing { gain: last.y - start.y, time: last.time, distance });
        }
        if last.y < start.y - DEEPEST {
            break;
        }
    }
    None
}

fn one_wall<V: Geometry>(subject: &Subject) -> Measured {
    /// The maximum number of jumps in a row.
    const MOST: usize = 20;
    if !subject.walks::<V>() || subject.tuning.wall.jump_height <= 0.0 {
        return Measured::new();
    }
    let mut subject = subject.that_only_jumps();
    // Back at the wall, only a jump off it counts.
    subject.tuning.jump.air_count = 0.0;
    let ahead = Rider::of::<V>(&subject).ahead;
    let mut track = beside::<V>(&subject);
    let at = track.last().x;
    let start = track.last().y;
    let mut first = None;
    let (mut jumps, mut height) = (0, None);
    while jumps < MOST {
        let from = *track.body.state();
        let Some(crossing) = crosses(&mut track, &ahead, at) else {
            // The last jump may end elsewhere; it counts if it took off.
            track.body.restore(from);
            let takes_off = track.tick(&ahead.pressing(Actions::JUMP)).iter().any(is_off_wall);
            jumps += usize::from(takes_off);
            break;
        };
        jumps += 1;
        first = first.or(Some(crossing));
        height = Some(track.last().y - start);
    }
    vec![
        ("wall-return-gain", value(first.map(|crossing| crossing.gain))),
        ("wall-return-time", value(first.map(|crossing| crossing.time))),
        ("wall-return-distance", value(first.map(|crossing| crossing.distance))),
        ("wall-jumps-in-a-row", value((jumps > 0).then_some(jumps as f64))),
        ("wall-climb-height", value(height)),
    ]
}

fn two_walls<V: Geometry>(subject: &Subject) -> Measured {
    /// The distance between touching one wall and touching the other, in metres.
    const ACROSS: f32 = 2.0;
    const JUMPS: usize = 5;
    if !subject.walks::<V>() || subject.tuning.wall.jump_height <= 0.0 {
        return Measured::new();
    }
    let mut subject = subject.that_only_jumps();
    subject.tuning.jump.air_count = 0.0;
    let rider = Rider::of::<V>(&subject);
    let Some(back) = rider.back else { return Measured::new() };
    let gap = subject.hull.half_width() + subject.hull.clearance();
    let walls = [([gap, -FAR], [gap + 1.0, FAR]), ([-ACROSS - gap - 1.0, -FAR], [-ACROSS - gap, FAR])];
    let mut track = Track::<V>::new(&subject, blocks(&walls).build().expect("two walls"), V::ZERO);
    track.run(0.2, &rider.ahead);
    let start = track.last().y;
    let mut last = None;
    for jump in 0..JUMPS {
        let (steer, to) = if jump % 2 == 0 { (&back, -f64::from(ACROSS)) } else { (&rider.ahead, 0.0) };
        let Some(crossing) = crosses(&mut track, steer, to) else { return Measured::new() };
        last = Some(crossing.gain);
    }
    vec![("shaft-gain", value(last)), ("shaft-height", value(track.last().y - start))]
}
