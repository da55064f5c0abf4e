//! Figures of water: swimming, floating, falls into it, jumps out of it.

use rasant::{Actions, Effect, Geometry, Intent, Level, Steering, Zone};

use super::course::{FAR, Rider, Sample, Track, in_move, is_top};
use super::figure::{Course, Measured, Subject, kinds, value};
use super::search::greatest_of;

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "swim";
                "swim-speed", "m/s", "Speed of swimming.";
                "swim-reach-time", "s", "Time from rest to it.";
                "dive-speed", "m/s", "Speed of diving.";
            ],
            measure: swim::<V>,
        },
        Course {
            kinds: kinds![
                of "swim";
                "float-depth", "m", "Depth of the feet under the surface while the body floats.";
                "neutral-depth", "m", "Depth below that at which the body stops floating up.";
                "swim-pitch", "°", "Largest pitch of the look with which the body swims horizontally.";
            ],
            measure: floats::<V>,
        },
        Course {
            kinds: kinds![
                of "swim" "fall" "jump";
                "sink-depth", "m", "Depth of a fall of 1 m below the floating position.";
                "surface-time", "s", "Time from there to 5 cm below the floating position.";
                "swim-jump-height", "m", "Height of a jump out of the water.";
            ],
            measure: falls_in::<V>,
        },
    ]
}

/// Seconds after which a speed is constant.
const STEADY: f64 = 6.0;

fn swims<V: Geometry>(subject: &Subject) -> bool {
    !subject.is_from_above::<V>() && subject.tuning.swim.speed > 0.0 && !subject.hops()
}

fn swim<V: Geometry>(subject: &Subject) -> Measured {
    if !swims::<V>(subject) {
        return Measured::new();
    }
    let knobs = subject.tuning.swim;
    let rider = Rider::of::<V>(subject);
    let mut track = Track::<V>::new(subject, water(), V::UP * -subject.hull.height());
    // All speeds change at the same rate.
    let steady = 1.1 * f64::from(knobs.reach_time * (1.0 + knobs.dive_speed / knobs.speed)) + 0.2;
    track.run(2.0 * track.dt, &rider.rest);
    track.begin();
    let speed = |track: &mut Track<V>, intent: &Intent, of: fn(&Track<V>) -> f64| {
        track.run(steady, intent);
        in_move(track, "swim").then(|| of(track))
    };
    let along = speed(&mut track, &rider.ahead, |track| track.last().vx.abs());
    let ahead = track.last().vx;
    let down = speed(&mut track, &rider.rest.holding(Actions::CROUCH), |track| -track.last().vy);
    let reached = along.and_then(|_| track.moment(|sample| (sample.x, sample.vx), ahead));
    // With walking by the look, swimming follows the look.
    let level = subject.tuning.steering.in_dimension(V::DIMENSION) != Steering::Gaze;
    let target = |number: f32| level.then_some(f64::from(number));
    vec![
        ("swim-speed", value(along).target(target(knobs.speed))),
        ("swim-reach-time", value(reached.map(|reached| reached.0)).target(target(knobs.reach_time))),
        ("dive-speed", value(down).knob(knobs.dive_speed)),
    ]
}

/// Endless water with its surface at height 0.
fn water<V: Geometry>() -> Level<V> {
    let mut builder = Level::builder();
    builder.add_zone(Zone::new(-V::splat(FAR), V::splat(FAR).with_height(0.0), Effect::Water));
    builder.build().expect("one zone")
}

fn floats<V: Geometry>(subject: &Subject) -> Measured {
    if !swims::<V>(subject) {
        return Measured::new();
    }
    let knobs = subject.tuning.swim;
    let rider = Rider::of::<V>(subject);
    let floats = f64::from(knobs.float * subject.hull.height());
    let rises = knobs.float_speed > 0.0;
    let depth = (rises && knobs.neutral_depth <= 0.0).then(|| {
        let mut track = Track::<V>::new(subject, water(), V::UP * -(0.3 + floats as f32));
        track.settle(STEADY, &rider.rest);
        -track.last().y
    });
    let neutral = (rises && knobs.neutral_depth > 0.0).then(|| {
        let floats_up = |under: f64| {
            let mut track = Track::<V>::new(subject, water(), V::UP * -((floats + under) as f32));
            track.run(0.2, &rider.rest);
            track.last().y > track.log[0].y + 1e-4
        };
        greatest_of(0.0, f64::from(knobs.neutral_depth) + 1.0, 1e-3, floats_up)
    });
    let swims_level = |degrees: f64| {
        let mut track = Track::<V>::new(subject, water(), V::UP * -(4.0 + floats as f32));
        let mut intent = rider.ahead;
        intent.look.pitch = -degrees.to_radians() as f32;
        track.run(0.2, &intent);
        // Without its own buoyancy.
        let mut still = Track::<V>::new(subject, water(), V::UP * -(4.0 + floats as f32));
        still.run(0.2, &rider.rest);
        track.last().y > still.last().y - 1e-4
    };
    // By the stick in two dimensions.
    let pitched = V::DIMENSION == 3 && subject.tuning.steering.in_dimension(3) == Steering::View;
    let pitch = pitched.then(|| greatest_of(0.0, 89.9, 0.02, swims_level));
    vec![
        ("float-depth", value(depth).target(floats)),
        ("neutral-depth", value(neutral.flatten()).knob(knobs.neutral_depth).within(0.01)),
        ("swim-pitch", value(pitch.flatten()).knob(knobs.pitch.to_degrees()).within(0.1)),
    ]
}

fn falls_in<V: Geometry>(subject: &Subject) -> Measured {
    /// The height of the fall, in metres.
    const HEIGHT: f32 = 1.0;
    /// The distance to the floating position, in metres, that counts as floating.
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
    track.settle(STEADY, &rider.rest);
    let depth = |sample: &Sample<V>| f64::from(floats) - sample.y;
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
        track.until(STEADY, &rider.rest.pressing(Actions::JUMP).holding(Actions::JUMP), is_top);
        track.last().top.map(|top| top[1] - from)
    });
    vec![
        ("sink-depth", value(Some(deepest).filter(|deepest| floats_up && *deepest > 0.0))),
        ("surface-time", value(surfaces)),
        ("swim-jump-height", value(jump.flatten()).knob(knobs.jump_height)),
    ]
}

/// The time between a sample and the next at which a quantity reaches a value, by linear
/// interpolation.
fn crossing<V: Geometry>(
    track: &Track<V>,
    at: usize,
    of: impl Fn(&Sample<V>) -> f64,
    value: f64,
) -> Option<f64> {
    let (before, after) = (track.log.get(at)?, track.log.get(at + 1)?);
    let (from, to) = (of(before), of(after));
    let fraction = if to == from { 0.0 } else { ((value - from) / (to - from)).clamp(0.0, 1.0) };
    Some(before.time + (after.time - before.time) * fraction)
}
