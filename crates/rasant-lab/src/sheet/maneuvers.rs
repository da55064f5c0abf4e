//! Figures of timed moves: dashes, rolls, hops.

use rasant::glam::Vec2;
use rasant::{Actions, Event, Geometry, Intent, Phase};

use super::course::{Rider, Track, floor, is_jump, nothing};
use super::figure::{Course, Measured, Subject, Value, kinds, value};

pub(super) fn courses<V: Geometry>() -> Vec<Course> {
    vec![
        Course {
            kinds: kinds![
                of "dash";
                "dash-delay", "s", "Time from the press of a dash until it moves.";
                "dash-distance", "m", "Distance of a dash on level ground.";
                "dash-time", "s", "Time for which it moves.";
                "dash-recovery-time", "s", "Time after that in which the body recovers.";
                "dash-top-speed", "m/s", "Highest speed of a dash.";
                "dash-end-speed", "m/s", "Speed kept at its end, without braking.";
                "dash-cooldown", "s", "Time from the end of a dash to the next.";
                "dash-turn", "°", "Angle by which steering to the side turns a dash.";
            ],
            measure: dash::<V>,
        },
        Course {
            kinds: kinds![
                of "dash";
                "dashes-in-a-row", "dashes", "Dashes on the ground, one after another, until one is refused; if standing restores none.";
                "dash-recharge-time", "s", "Time between two dashes on the ground when no charge is left.";
                "air-dashes", "dashes", "Dashes in the air without a landing.";
                "air-dash-distance", "m", "Distance of a dash in the air.";
                "air-dash-drop", "m", "Height that the body falls meanwhile.";
                "dash-angle", "°", "Angle between the facing and a dash that is steered 30° off it: upward in a side view.";
            ],
            measure: more_dashes::<V>,
        },
        Course {
            kinds: kinds![
                of "roll";
                "roll-delay", "s", "Time from the press of a roll until it moves.";
                "roll-distance", "m", "Distance of a roll on level ground.";
                "roll-time", "s", "Time for which it moves.";
                "roll-recovery-time", "s", "Time after that in which the body recovers.";
                "roll-top-speed", "m/s", "Highest speed of a roll.";
                "roll-end-speed", "m/s", "Speed kept at its end, without braking.";
                "roll-cooldown", "s", "Time from the end of a roll to the next.";
                "roll-turn", "°", "Angle by which steering to the side turns a roll.";
                "roll-jump-delay", "s", "Time from the press of a roll to the first jump that is accepted.";
            ],
            measure: roll::<V>,
        },
        Course {
            kinds: kinds![
                of "hop";
                "hop-length", "m", "Distance of a hop.";
                "hop-time", "s", "Duration of a hop.";
                "hop-interval", "s", "Time from the start of a hop to the next, steering all the time.";
                "run-hop-length", "m", "Distance of a hop with run held.";
                "run-hop-time", "s", "Duration of a hop with run held.";
            ],
            measure: hop::<V>,
        },
    ]
}

/// The measured values of a dash or a roll.
struct Driving {
    delay: Value,
    distance: Value,
    time: Value,
    recovery: Value,
    top_speed: Value,
    end_speed: Value,
    cooldown: Value,
    turn: Value,
}

/// The phases of a maneuver, in seconds, and its motion.
struct Driven {
    /// From the press to the start of the motion.
    startup: f64,
    /// The displacement along x and up, in metres.
    displacement: [f64; 2],
    /// The duration of the motion.
    active: f64,
    recovery: f64,
    /// The highest speed.
    fastest: f64,
}

/// Begins a maneuver with an intent and continues with `rest` until its recovery is over.
fn driven<V: Geometry>(track: &mut Track<V>, intent: &Intent, rest: &Intent) -> Option<Driven> {
    track.begin();
    let mut press = *intent;
    let (mut active, mut recovery) = (None, None);
    for _ in 0..(60.0 / track.dt) as usize {
        let before = *track.last();
        let mut is_over = false;
        for event in track.tick(&press) {
            match event {
                Event::ManeuverPhase { phase: Phase::Active, .. } => active = Some(before),
                Event::ManeuverPhase { phase: Phase::Recovery, .. } => recovery = Some(()),
                Event::ManeuverPhase { phase: Phase::Cooldown, .. } => is_over = true,
                _ => {}
            }
        }
        press = *rest;
        if recovery == Some(()) || (is_over && recovery.is_none()) {
            let first = active?;
            let last = *track.last();
            let ended = is_over
                || track.until(60.0, rest, |event| {
                    matches!(event, Event::ManeuverPhase { phase: Phase::Cooldown, .. })
                });
            let displacements =
                track.log.windows(2).map(|pair| pair[1].state.position - pair[0].state.position);
            let fastest = displacements
                .map(|displacement| f64::from(displacement.length()) / track.dt)
                .fold(0.0, f64::max);
            return ended.then(|| Driven {
                startup: first.time,
                displacement: [(last.x - first.x).abs(), last.y - first.y],
                active: last.time - first.time,
                recovery: track.last().time - last.time,
                fastest,
            });
        }
    }
    None
}

/// The stop time from the walking speed, in seconds, of a body that hardly brakes.
const HARDLY: f64 = 10.0;

/// The common parts of dash and roll.
struct Drive {
    press: Intent,
    startup: f32,
    distance: f32,
    active: f32,
    recovery: f32,
    curve: f32,
    end_speed: f32,
    cooldown: f32,
    turn: f32,
    /// Seconds until a used charge returns, if there are charges.
    recharge: Option<f32>,
}

impl Drive {
    fn mean_speed(&self) -> f32 {
        self.distance / self.active
    }

    fn top_speed(&self) -> f32 {
        self.mean_speed() * (1.0 + self.curve.abs())
    }

    /// Delay, distance, time, recovery, top speed, end speed, cooldown, turn.
    fn values<V: Geometry>(&self, coarse: &Subject) -> Option<Driving> {
        let subject = &coarse.finer();
        let rest = Rider::of::<V>(subject).rest;
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        let driven = driven(&mut track, &self.press, &rest)?;
        let tick = subject.dt();
        let again = self.next(&mut track, &rest);
        let turned = self.turned::<V>(coarse, &rest);
        // Two ticks of hardly braking.
        let brakes = 2.0 * coarse.dt() * f64::from(coarse.tuning.walk.speed.abs()) / HARDLY;
        Some(Driving {
            delay: value(driven.startup).knob(self.startup).within(2.0 * tick),
            distance: value(driven.displacement[0]).knob(self.distance),
            time: value(driven.active).knob(self.active).within(2.0 * tick),
            recovery: value(driven.recovery).knob(self.recovery).within(2.0 * tick),
            top_speed: value(driven.fastest).knob(self.top_speed()),
            end_speed: value(self.end::<V>(coarse, &rest))
                .knob(self.end_speed.min(self.top_speed()))
                .within(brakes),
            cooldown: value(again)
                .target(self.recharge.is_none().then_some(f64::from(self.cooldown)))
                .within(2.0 * tick),
            turn: value(turned)
                .knob((self.turn * self.active).to_degrees())
                .within(f64::from(self.turn.to_degrees()) * 2.0 * coarse.dt()),
        })
    }

    /// Presses in every tick from the end of a maneuver on. Returns the time at which the next one
    /// begins.
    fn next<V: Geometry>(&self, track: &mut Track<V>, rest: &Intent) -> Option<f64> {
        let begins = |event: &Event<V>| {
            matches!(event, Event::ManeuverPhase { phase: Phase::Startup | Phase::Active, .. })
        };
        track.begin();
        let press = rest.pressing(self.press.pressed);
        for _ in 0..(f64::from(self.cooldown + self.recharge.unwrap_or(0.0) + 1.0) / track.dt) as usize {
            let before = track.last().time;
            if track.tick(&press).iter().any(begins) {
                return Some(before);
            }
        }
        None
    }

    /// The speed right after the motion of a body that hardly brakes.
    fn end<V: Geometry>(&self, subject: &Subject, rest: &Intent) -> Option<f64> {
        let mut subject = *subject;
        let walk = &mut subject.tuning.walk;
        (walk.stop_time, walk.turn_time) = (HARDLY as f32, HARDLY as f32);
        let mut track = Track::<V>::new(&subject, floor(&subject), V::ZERO);
        let ends = |event: &Event<V>| {
            matches!(event, Event::ManeuverPhase { phase: Phase::Recovery | Phase::Cooldown, .. })
        };
        track.until(60.0, &self.press, ends).then(|| {
            track.tick(rest);
            track.last().vx.abs()
        })
    }

    /// The angle in degrees by which steering to the side turns the motion.
    fn turned<V: Geometry>(&self, subject: &Subject, rest: &Intent) -> Option<f64> {
        let mut intent = Rider::aside::<V>(subject, rest).filter(|_| self.turn > 0.0)?;
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        let begins = |event: &Event<V>| matches!(event, Event::ManeuverPhase { phase: Phase::Active, .. });
        if !track.until(60.0, &self.press, begins) {
            return None;
        }
        let direction = |track: &Track<V>| track.last().state.maneuver.map(|maneuver| maneuver.direction);
        let from = direction(&track)?;
        // Steered at a right angle to its direction, which the steering follows.
        let (mut turned, mut before) = (0.0, from);
        let side = intent.steer;
        for _ in 0..(f64::from(self.active) / track.dt) as usize {
            intent.steer = Vec2::from_angle(-turned as f32).rotate(side);
            track.tick(&intent);
            let Some(now) = direction(&track) else { break };
            turned += f64::from(before.turn_to(now).abs());
            before = now;
        }
        Some(turned.to_degrees())
    }
}

fn dash<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.dash;
    if knobs.charges < 1.0 || subject.hops() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let drive = Drive {
        press: rest.pressing(Actions::DASH),
        startup: knobs.startup,
        distance: knobs.distance,
        active: knobs.active,
        recovery: knobs.recovery,
        curve: knobs.curve,
        end_speed: knobs.end_speed,
        cooldown: knobs.cooldown,
        turn: knobs.turn,
        recharge: (knobs.from_ground < 0.5 && knobs.charges < 2.0).then_some(knobs.recharge_time),
    };
    let Some(driving) = drive.values::<V>(subject) else { return Measured::new() };
    vec![
        ("dash-delay", driving.delay),
        ("dash-distance", driving.distance),
        ("dash-time", driving.time),
        ("dash-recovery-time", driving.recovery),
        ("dash-top-speed", driving.top_speed),
        ("dash-end-speed", driving.end_speed),
        ("dash-cooldown", driving.cooldown),
        ("dash-turn", driving.turn),
    ]
}

fn more_dashes<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.dash;
    if knobs.charges < 1.0 || subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let press = rider.rest.pressing(Actions::DASH);
    let whole = f64::from(knobs.startup + knobs.active + knobs.recovery + knobs.cooldown);
    let spent = (knobs.from_ground < 0.5).then(|| spent::<V>(subject, &press, whole));
    let (count, recharge) = spent.unzip();
    let in_air = (!subject.is_from_above::<V>()).then(|| {
        let mut track = Track::<V>::new(subject, nothing(), V::ZERO);
        // Each as soon as possible; none returns meanwhile.
        track.body.tuning.dash.recharge_time = 0.0;
        count_dashes(&mut track, &press, (whole + 4.0 * subject.dt()) * 10.0)
    });
    let drop = (!subject.is_from_above::<V>() && knobs.air_count >= 1.0)
        .then(|| {
            let fine = subject.finer();
            let mut track = Track::<V>::new(&fine, nothing(), V::ZERO);
            driven(&mut track, &press, &rider.rest).map(|driven| driven.displacement)
        })
        .flatten();
    let tick = subject.dt();
    vec![
        ("dashes-in-a-row", value(count.flatten())),
        (
            "dash-recharge-time",
            value(recharge.flatten()).target(whole.max(knobs.recharge_time.into())).within(2.0 * tick),
        ),
        ("air-dashes", value(in_air).target(f64::from(knobs.air_count.min(knobs.charges)))),
        ("air-dash-distance", value(drop.map(|displacement| displacement[0])).knob(knobs.distance)),
        ("air-dash-drop", value(drop.map(|displacement| -displacement[1]))),
        ("dash-angle", value(angle::<V>(subject, &rider))),
    ]
}

/// Counts the dashes that begin while dash is pressed in every tick.
fn count_dashes<V: Geometry>(track: &mut Track<V>, press: &Intent, seconds: f64) -> f64 {
    let begins = is_begin(track.body.tuning.dash.startup);
    let mut count = 0;
    for _ in 0..(seconds / track.dt) as usize {
        count += usize::from(track.tick(press).iter().any(&begins));
    }
    count as f64
}

/// Returns true for the beginning of a maneuver: of its startup, if it has one.
fn is_begin<V>(startup: f32) -> impl Fn(&Event<V>) -> bool {
    let first = if startup > 0.0 { Phase::Startup } else { Phase::Active };
    move |event| matches!(event, Event::ManeuverPhase { phase, .. } if *phase == first)
}

/// Dashes on the ground, each as soon as possible. Returns how many there are before one is refused
/// because none is left, and the time between the last two of some more.
fn spent<V: Geometry>(subject: &Subject, press: &Intent, whole: f64) -> (Option<f64>, Option<f64>) {
    /// The number of dashes after the refusal.
    const MORE: usize = 3;
    /// The maximum number of dashes before one is refused.
    const MOST: usize = 30;
    let dash = subject.tuning.dash;
    let is_first = is_begin(dash.startup);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let (mut begun, mut before_refusal) = (Vec::new(), None);
    let each = whole.max(f64::from(dash.recharge_time)) + 4.0 * track.dt;
    for _ in 0..(each * (MOST + MORE) as f64 / track.dt) as usize {
        let before = track.last().time;
        let events = track.tick(press);
        if events.iter().any(&is_first) {
            begun.push(before);
        }
        let is_empty =
            |event: &Event<V>| matches!(event, Event::Refused { what } if what.is("dash", "empty"));
        if before_refusal.is_none() && events.iter().any(is_empty) {
            before_refusal = Some(begun.len());
        }
        let is_enough = match before_refusal {
            Some(count) => dash.recharge_time <= 0.0 || begun.len() >= count + MORE,
            None => begun.len() >= MOST,
        };
        if is_enough {
            break;
        }
    }
    let last = before_refusal
        .filter(|count| begun.len() >= count + 2)
        .map(|_| begun[begun.len() - 1] - begun[begun.len() - 2]);
    (before_refusal.map(|count| count as f64), last)
}

/// The angle between the facing and a dash in the air that is steered 30° off it, in degrees.
fn angle<V: Geometry>(subject: &Subject, rider: &Rider) -> Option<f64> {
    let off = 30f32.to_radians();
    let sign = subject.tuning.walk.speed.signum();
    let flat = rider.ahead.steer;
    let level = if subject.is_from_above::<V>() { floor(subject) } else { nothing() };
    let mut track = Track::<V>::new(subject, level, V::ZERO);
    // The direction at the start.
    track.body.tuning.dash.turn = 0.0;
    // In a side view upward, else to the side.
    let steer = if V::DIMENSION == 2 && !subject.is_from_above::<V>() {
        Vec2::new(flat.x * off.cos(), off.sin() * sign.abs())
    } else {
        flat * off.cos() + Rider::aside::<V>(subject, &rider.rest)?.steer * off.sin()
    };
    let dash = Intent { steer, ..rider.rest.pressing(Actions::DASH) };
    let facing = track.last().state.facing;
    track.until(60.0, &dash, is_begin(subject.tuning.dash.startup));
    let direction = track.last().state.maneuver?.direction;
    Some(f64::from(2.0 * (0.5 * (facing - direction).length()).min(1.0).asin()).to_degrees())
}

fn roll<V: Geometry>(subject: &Subject) -> Measured {
    let knobs = subject.tuning.roll;
    if knobs.action < 0.0 || subject.hops() {
        return Measured::new();
    }
    let rest = Rider::of::<V>(subject).rest;
    let drive = Drive {
        press: rest.pressing(Actions::own(knobs.action.round() as u32)),
        startup: knobs.startup,
        distance: knobs.distance,
        active: knobs.active,
        recovery: knobs.recovery,
        curve: knobs.curve,
        end_speed: knobs.end_speed,
        cooldown: knobs.cooldown,
        turn: knobs.turn,
        recharge: None,
    };
    let Some(driving) = drive.values::<V>(subject) else { return Measured::new() };
    let whole = f64::from(knobs.startup + knobs.active + knobs.recovery);
    let jump = (!subject.is_from_above::<V>()).then(|| first_jump::<V>(subject, &drive.press, whole));
    vec![
        ("roll-delay", driving.delay),
        ("roll-distance", driving.distance),
        ("roll-time", driving.time),
        ("roll-recovery-time", driving.recovery),
        ("roll-top-speed", driving.top_speed),
        ("roll-end-speed", driving.end_speed),
        ("roll-cooldown", driving.cooldown),
        ("roll-turn", driving.turn),
        ("roll-jump-delay", value(jump.flatten())),
    ]
}

/// The time from the press of a maneuver to the first jump, with jump pressed in every tick.
fn first_jump<V: Geometry>(subject: &Subject, press: &Intent, whole: f64) -> Option<f64> {
    let mut subject = *subject;
    // A buffered press does not count as accepted.
    subject.tuning.jump.buffer_time = 0.0;
    let rest = Rider::of::<V>(&subject).rest;
    let mut track = Track::<V>::new(&subject, floor(&subject), V::ZERO);
    track.tick(press);
    for _ in 0..((whole + 1.0) / track.dt) as usize {
        let before = track.last().time;
        if track.tick(&rest.pressing(Actions::JUMP)).iter().any(is_jump) {
            return Some(before);
        }
    }
    None
}

fn hop<V: Geometry>(subject: &Subject) -> Measured {
    let subject = &subject.finer();
    let knobs = subject.tuning.hop;
    if !subject.hops() {
        return Measured::new();
    }
    let rider = Rider::of::<V>(subject);
    let hops = |held: Actions| {
        let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
        driven(&mut track, &rider.ahead.holding(held), &rider.rest)
    };
    let Some(hop) = hops(Actions::NONE) else { return Measured::new() };
    let run = hops(Actions::RUN);
    let mut track = Track::<V>::new(subject, floor(subject), V::ZERO);
    let begins = is_begin(0.0);
    let first = track.until(10.0, &rider.ahead, &begins).then(|| track.last().time);
    let second = track.until(60.0, &rider.ahead, &begins).then(|| track.last().time);
    let steps = knobs.run_steps.round();
    let run_time = if knobs.run_time > 0.0 && steps > 1.0 { knobs.run_time } else { steps * knobs.time };
    let tick = subject.dt();
    let both = first.zip(second).map(|(first, second)| second - first);
    vec![
        ("hop-length", value(hop.displacement[0]).knob(knobs.length)),
        ("hop-time", value(hop.active).knob(knobs.time).within(2.0 * tick)),
        ("hop-interval", value(both).knob(knobs.time + knobs.cooldown).within(2.0 * tick)),
        ("run-hop-length", value(run.as_ref().map(|run| run.displacement[0])).knob(steps * knobs.length)),
        ("run-hop-time", value(run.map(|run| run.active)).knob(run_time).within(2.0 * tick)),
    ]
}
