//! Figures of ledges: reached, held, climbed, jumped off.

use rasant::{Actions, Event, Geometry, Intent, State};

use super::course::{FAR, Rider, Track, blocks, in_move, is_landing, is_top};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::search::greatest_of;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "ledge";
                "ledge-climb-time", "s", "Time from hanging by an edge to standing on it.";
                "ledge-jump-height", "m", "Height of a jump off an edge, from the hanging position.";
                "ledge-jump-reach", "m", "Distance of the top of that jump from the wall, without steering.";
                "ledge-along-speed", "m/s", "Speed along an edge.";
                "ledge-wait-time", "s", "Time from letting go of an edge until one can be grabbed again.";
            ],
            measure: hanging::<V>,
        },
        Course {
            kinds: kinds![
                of "ledge" "jump";
                "ledge-highest", "m", "Highest edge above the ground that a jump from standing reaches.";
                "ledge-reach", "m", "Largest distance from a wall at which the body grabs its edge.";
                "ledge-window", "m", "Largest height above the hands at which an edge is grabbed.";
                "ledge-pull-time", "s", "Time from grabbing an edge at that distance to hanging from it.";
            ],
            measure: reaching::<V>,
        },
    ]
}

/// The longest fall or jump that is watched, in seconds.
const WATCHED: f64 = 6.0;

fn grabs<V: Geometry>(subject: &Subject) -> bool {
    !subject.is_from_above::<V>() && subject.tuning.ledge.reach > 0.0 && subject.walks::<V>()
}

fn is_grabbed<V>(event: &Event<V>) -> bool {
    matches!(event, Event::MoveBegan { name } if *name == "ledge")
}

/// A wall whose edge is at height 0, in front of a body that falls with its hands `above` metres
/// over the edge, `gap` metres in front of the wall.
fn before_a_wall<V: Geometry>(subject: &Subject, gap: f32, above: f32) -> Track<V> {
    let near = subject.hull.half_width() + gap;
    let level = blocks(&[([near, -FAR], [FAR, 0.0])]).build().expect("a block");
    Track::new(subject, level, V::UP * (above - subject.tuning.ledge.height))
}

fn hanging<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.ledge;
    if !grabs::<V>(subject) {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let mut track = before_a_wall::<V>(subject, 0.1, 0.5 * knobs.height);
    let hangs = track.until(WATCHED, &rider.ahead, is_grabbed);
    track.run(0.5, &rider.ahead);
    if !hangs || !in_move(&track, "ledge") {
        return Measured::new();
    }
    let hung = *track.body.state();
    track.begin();
    let climbs = track.until(60.0, &rider.ahead.pressing(Actions::JUMP), is_landing);
    let climb_time = climbs.then(|| track.last().time);
    track.body.restore(hung);
    track.begin();
    let top = rider.back.filter(|_| knobs.jump_height > 0.0).and_then(|back| {
        track.tick(&back.pressing(Actions::JUMP).holding(Actions::JUMP));
        track.until(WATCHED, &rider.rest.holding(Actions::JUMP), is_top);
        let from = track.log[0];
        track.last().top.map(|[x, y]| (y - from.y, (x - from.x).abs()))
    });
    let (height, reach) = top.unzip();
    let aside = Rider::aside::<V>(subject, &rider.rest);
    let along = aside.filter(|_| V::DIMENSION == 3 && knobs.along_speed > 0.0).map(|aside| {
        track.body.restore(hung);
        track.run(0.1, &aside);
        let from = track.last().state.position;
        track.run(0.5, &aside);
        let ticks = (0.5 / track.dt).ceil();
        f64::from((track.last().state.position - from).length()) / (ticks * track.dt)
    });
    vec![
        ("ledge-climb-time", value(climb_time).knob(knobs.climb_time).within(2.0 * subject.dt())),
        ("ledge-jump-height", value(height).knob(knobs.jump_height)),
        ("ledge-jump-reach", value(reach)),
        ("ledge-along-speed", value(along).knob(knobs.along_speed * Rider::side_factor::<V>(subject))),
        (
            "ledge-wait-time",
            value(wait_time(&mut track, hung, &rider)).knob(knobs.wait_time).within(2.0 * subject.dt()),
        ),
    ]
}

/// The time from letting go until an edge is grabbed again, with the body held beside it.
fn wait_time<V: Geometry>(track: &mut Track<V>, hung: State<V>, rider: &Rider) -> Option<f64> {
    track.body.restore(hung);
    track.begin();
    track.tick(&rider.rest.pressing(Actions::CROUCH));
    if in_move(track, "ledge") {
        return None;
    }
    let most = f64::from(track.body.tuning.ledge.wait_time) + 1.0;
    for _ in 0..(most / track.dt) as usize {
        let beside = State { position: hung.position, velocity: V::ZERO, ..*track.body.state() };
        track.body.restore(beside);
        let before = track.last().time;
        if track.tick(&rider.ahead).iter().any(is_grabbed) {
            return Some(before);
        }
    }
    None
}

fn reaching<V: Geometry>(subject: &Subject) -> Measured {
    /// The resolution, in metres.
    const SLACK: f64 = 2e-4;
    let knobs = subject.tuning.ledge;
    if !grabs::<V>(subject) {
        return Measured::new();
    }
    let ahead = Rider::of::<V>(subject).ahead;
    let highest = highest_edge::<V>(subject, &ahead);
    // Falling straight down: it is steered at the wall, but hardly moves.
    let mut slow = *subject;
    slow.tuning.walk.speed = 1e-4_f32.copysign(subject.tuning.walk.speed);
    slow.tuning.glide.fall_speed = 0.0;
    let from_a_distance = |gap: f64, above: f64| {
        let mut track = before_a_wall::<V>(&slow, gap as f32, above as f32);
        let grabbed = track.until(0.5, &ahead, is_grabbed);
        (track, grabbed)
    };
    let clearance = f64::from(subject.hull.clearance());
    let reach = greatest_of(0.0, f64::from(knobs.reach) + 0.5, SLACK, |gap| from_a_distance(gap, 0.1).1);
    // It must grab in the first tick, before it falls.
    let near = 2.0 * clearance;
    let at_once = |under: f64| {
        let mut track = before_a_wall::<V>(&slow, near as f32, -under as f32);
        track.tick(&ahead).iter().any(is_grabbed)
    };
    let window = greatest_of(0.0, f64::from(knobs.window) + 0.5, SLACK, at_once);
    let pull = reach.and_then(|reach| {
        let (mut track, grabbed) = from_a_distance(reach - SLACK, 0.1);
        track.begin();
        let mut still = None;
        for _ in 0..(2.0 / track.dt) as usize {
            let before = *track.last();
            track.tick(&ahead);
            if grabbed && track.last().state.position == before.state.position {
                still = Some(before.time);
                break;
            }
        }
        still
    });
    vec![
        ("ledge-highest", value(highest)),
        ("ledge-reach", value(reach).knob(knobs.reach).within(2.0 * clearance + SLACK)),
        ("ledge-window", value(window).knob(knobs.window).within(2.0 * clearance + SLACK)),
        ("ledge-pull-time", value(pull)),
    ]
}

/// The highest edge that a jump from standing close to the wall grabs, or lands on.
fn highest_edge<V: Geometry>(subject: &Subject, ahead: &Intent) -> Option<f64> {
    /// The resolution, in metres.
    const SLACK: f64 = 1e-3;
    let mut subject = subject.coarser();
    subject.tuning.glide.fall_speed = 0.0;
    let hold = ahead.holding(Actions::JUMP);
    let reaches = |height: f64| {
        let near = subject.hull.half_width() + 0.05;
        let level = blocks(&[([-FAR, -1.0], [FAR, 0.0]), ([near, 0.0], [FAR, height as f32])]);
        let mut track = Track::<V>::new(&subject, level.build().expect("a floor and a wall"), V::ZERO);
        let is_end = |event: &Event<V>| is_grabbed(event) || is_landing(event);
        track.until(WATCHED, &hold.pressing(Actions::JUMP), is_end);
        // A round foot lands on the edge before the jump is at its top.
        in_move(&track, "ledge") || {
            track.run(0.2, ahead);
            track.last().y > height - 0.01
        }
    };
    let knobs = subject.tuning.ledge;
    let most = subject.tuning.jump_height() + knobs.height + knobs.window + 1.0;
    greatest_of(0.0, f64::from(most), SLACK, reaches)
}
