//! Figures of ladders.

use rasant::level::LevelBuilder;
use rasant::moves::Jump;
use rasant::state::Name;
use rasant::{Actions, Effect, Event, Geometry, Intent, Level, Mode, Zone};

use super::course::{FAR, Rider, Track, is_top};
use super::figure::{Course, Measured, Subject, kinds, value};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![Course {
        kinds: kinds![
            of "ladder";
            "ladder-up-speed", "m/s", "Speed up a ladder.";
            "ladder-down-speed", "m/s", "Speed down a ladder.";
            "ladder-slide-speed", "m/s", "Speed of sliding down a ladder.";
            "ladder-jump-height", "m", "Height of a jump off a ladder.";
            "ladder-air-jumps", "jumps", "Jumps in the air that a ladder restores.";
            "ladder-wait-time", "s", "Time from a jump off a ladder until a ladder can be grabbed again.";
        ],
        measure: ladder::<V>,
    }]
}

fn ladder<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.ladder;
    if subject.is_from_above::<V>() || subject.hops() {
        return Measured::new();
    }
    let subject = &subject.that_only_jumps();
    let rider = Rider::of::<V>(subject);
    // In two dimensions a ladder is climbed by steering up, in three by steering against its front.
    let side_view = V::DIMENSION == 2;
    let up = if side_view { Intent::steering(0.0, 1.0) } else { rider.ahead };
    let down = if side_view { Some(Intent::steering(0.0, -1.0)) } else { rider.back };
    let mut track = Track::<V>::new(subject, endless(), V::ZERO);
    let mut climbs = |intent: &Intent| {
        // The first tick enters the zone, the second grabs the ladder.
        track.run(4.0 * track.dt, intent);
        let holds = track.last().state.mode == Mode::Move(Name::new("ladder"));
        holds.then(|| track.last().vy.abs())
    };
    let rises = climbs(&up);
    let steers_back = !side_view && subject.tuning.walk.back != 1.0;
    let target = |speed: f32| (!steers_back).then_some(f64::from(speed));
    let falls = down.and_then(|down| climbs(&down));
    let slides = down.and_then(|down| climbs(&down.holding(Actions::CROUCH)));
    let holds = rises.is_some() && track.last().state.mode == Mode::Move(Name::new("ladder"));
    let held = *track.body.state();
    let jump = (holds && knobs.jump_height > 0.0).then(|| {
        track.begin();
        let jumps = rider.rest.pressing(Actions::JUMP).holding(Actions::JUMP);
        track.until(60.0, &jumps, is_top);
        track.last().top.map(|top| top[1] - track.log[0].y)
    });
    let air_count = subject.tuning.jump.air_count;
    let air_jumps = (holds && air_count > 0.0).then(|| {
        track.body.restore(held);
        air_jumps(&mut track, &rider.rest)
    });
    let waits = (holds && knobs.jump_height > 0.0).then(|| {
        track.body.restore(held);
        track.begin();
        track.tick(&rider.rest.pressing(Actions::JUMP));
        let taken = |event: &Event<V>| matches!(event, Event::LadderGrabbed { .. });
        track.until(f64::from(knobs.wait_time) + 1.0, &up, taken).then(|| track.last().time)
    });
    vec![
        ("ladder-up-speed", value(rises).knob(knobs.up_speed)),
        ("ladder-down-speed", value(falls).target(target(knobs.down_speed))),
        ("ladder-slide-speed", value(slides).target(target(knobs.slide_speed))),
        ("ladder-jump-height", value(jump.flatten()).knob(knobs.jump_height)),
        ("ladder-air-jumps", value(air_jumps)),
        ("ladder-wait-time", value(waits.flatten()).knob(knobs.wait_time).within(2.0 * subject.dt())),
    ]
}

/// A ladder without ends. In three dimensions its front faces negative x.
fn endless<V: Geometry>() -> Level<V> {
    let halves = V::from_array([0.3, FAR, 0.3]);
    let front = if V::DIMENSION == 2 { V::ZERO } else { -V::RIGHT };
    let mut builder: LevelBuilder<V> = Level::builder();
    builder.add_zone(Zone::new(-halves, halves, Effect::Ladder { front }));
    builder.build().expect("one zone")
}

/// Jumps off and in the air until no jump is left. Returns the number of jumps in the air.
pub(super) fn air_jumps<V: Geometry>(track: &mut Track<V>, rest: &Intent) -> f64 {
    /// More jumps than any tuning has.
    const MOST: usize = 12;
    let mut count = 0;
    for _ in 0..MOST {
        let events = track.tick(&rest.pressing(Actions::JUMP));
        let is_air = |event: &&Event<V>| matches!(event, Event::Jumped { kind: Jump::AIR });
        count += events.iter().filter(is_air).count();
        track.tick(rest);
    }
    count as f64
}
