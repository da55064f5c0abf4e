//! Runs a trial.

use std::collections::BTreeMap;

use rasant::contact::Patch;
use rasant::space::Bounds;
use rasant::state::{Departure, Name};
use rasant::{Controller, Event, Geometry, Intent, Level, State, SurfaceId, ZoneId};

use crate::expect::Figure;
use crate::played::{Run, summary};
use crate::script::{ByTheHost, Host, Played, Player, Script};
use crate::trace::{EventRow, Row, Trace};
use crate::trial::{Inputs, Trial};
use rasant_files::{LevelFile, Mechanisms, RootTrack, World};

/// Simulates a trial.
#[must_use]
pub fn run(trial: &Trial) -> Run {
    run_at(trial, trial.rate, 1)
}

/// Simulates a trial at another rate, in ticks per second, with inputs that change only every
/// `ticks_an_input` ticks. A recording is played as if it were of this rate.
#[must_use]
pub fn run_at(trial: &Trial, rate: u32, ticks_an_input: usize) -> Run {
    match &trial.world {
        World::Plane(file) => play(trial, file, rate, ticks_an_input),
        World::Space(file) => play(trial, file, rate, ticks_an_input),
    }
}

fn play<V: Geometry>(trial: &Trial, file: &LevelFile<V>, rate: u32, ticks_an_input: usize) -> Run {
    let mut level = file.level.clone();
    let mut mechanisms = file.mechanisms.clone();
    let start = V::from_array(trial.start);
    let mut body = Controller::new(trial.tuning.tuning, trial.tuning.hull, start);
    body.find_footing(&level);
    let ticks = (f64::from(trial.duration) * f64::from(rate)).round().max(1.0) as usize;
    let dt = 1.0 / rate as f32;
    let measures_depth = trial.expectations.iter().any(|one| one.figure == Figure::Penetration);
    let mut deepest = 0.0f32;
    let none = Script::default();
    let (script, recorded) = match &trial.inputs {
        Inputs::Script(script) => (script, None),
        Inputs::Tape(tape) => (&none, Some(tape)),
    };
    let mut player = Player::new(script, rate).every(ticks_an_input);
    let mut rows = Vec::with_capacity(ticks + 1);
    let mut intents = Vec::with_capacity(ticks);
    rows.push(row(&body, (0, rate), &Intent::default(), body.position().to_array(), file));
    for tick in 0..ticks {
        let Played { intent, host } = player.tick(&rows[tick]);
        let intent = recorded.map_or(intent, |tape| tape.at(tick));
        for done in &host {
            by_the_host(&mut body, done, &trial.tracks, dt);
            in_the_level(&mut level, &mut mechanisms, done);
        }
        mechanisms.begin_tick(&mut level, dt);
        level.advance(dt);
        body.tick(&intent, &level, dt);
        mechanisms.observe(&level, body.state(), body.events());
        rows.push(row(&body, (tick + 1, rate), &intent, rows[tick].position, file));
        intents.push(intent);
        if measures_depth {
            deepest = deepest.max(depth(&body, &level));
        }
    }
    let trace = Trace { dimensions: V::DIMENSION, rate, rows };
    let has_up = !trial.tuning.tuning.steering.is_from_above(V::DIMENSION);
    let summary = summary(&trial.title, &trace, has_up);
    let never_began = player.waiting().collect();
    let never_counted = player.never_counted().collect();
    let penetration_m = measures_depth.then_some(deepest);
    Run { tape: intents.into_iter().collect(), trace, summary, never_began, never_counted, penetration_m }
}

/// Applies what a script says that the game does to a body.
fn by_the_host<V: Geometry>(
    body: &mut Controller<V>,
    &ByTheHost { ref what, lasts, since, begins }: &ByTheHost,
    tracks: &BTreeMap<Name, RootTrack>,
    dt: f32,
) {
    let lasts = lasts as f32;
    match what {
        Host::Throw(velocity) if begins => body.throw(V::from_array(*velocity)),
        Host::Knock(velocity) if begins => body.knock_back(V::from_array(*velocity), lasts),
        Host::Move(displacement) if lasts > 0.0 => {
            // The part of its time in this tick; none in the last, in which the body comes to rest.
            let [from, to] = [since as f32, since as f32 + dt].map(|time| time.min(lasts));
            body.root_motion(V::from_array(*displacement) * ((to - from) / lasts));
        }
        Host::Move(displacement) => body.root_motion(V::from_array(*displacement)),
        Host::Along(name) => {
            if let Some(track) = tracks.get(name) {
                let at = |time: f32| time / lasts.max(dt) * track.duration();
                let (from, to) = (at(since as f32), at(since as f32 + dt));
                let State { facing, up, .. } = *body.state();
                body.root_motion(track.displacement(from, to, facing, up));
            }
        }
        // The others are done to the level.
        _ => {}
    }
}

/// Applies what a script says that the game does to the level.
fn in_the_level<V: Geometry>(level: &mut Level<V>, mechanisms: &mut Mechanisms<V>, done: &ByTheHost) {
    if !done.begins {
        return;
    }
    let seconds = done.lasts as f32;
    match &done.what {
        Host::Deed(deed, name) => {
            mechanisms.act(level, *deed, name);
        }
        Host::Carry(name, by) => {
            mechanisms.carry(level, name, V::from_array(*by), 0.0, seconds);
        }
        Host::Turn(name, angle) => {
            mechanisms.carry(level, name, V::ZERO, *angle, seconds);
        }
        Host::Throw(_) | Host::Knock(_) | Host::Move(_) | Host::Along(_) => {}
    }
}

/// The largest depth of the bare hull inside something that is solid from all sides, in metres.
fn depth<V: Geometry>(body: &Controller<V>, level: &Level<V>) -> f32 {
    let hull = body.present_hull();
    let nowhere = Bounds { min: V::ZERO, max: V::ZERO };
    let patch = Patch::gather(body.state().frame(), &hull, nowhere, level);
    patch.overlap(V::ZERO, |tag| tag.one_way).map_or(0.0, |overlap| (-overlap.distance).max(0.0))
}

/// The row of a body after a tick. `before` is its position before it.
pub(crate) fn row<V: Geometry>(
    body: &Controller<V>,
    (tick, rate): (usize, u32),
    intent: &Intent,
    before: [f32; 3],
    file: &LevelFile<V>,
) -> Row {
    let state = body.state();
    let position = state.position.to_array();
    let steer = intent.safe_steer();
    Row {
        tick,
        time: tick as f64 / f64::from(rate),
        position,
        velocity: body.velocity().to_array(),
        speed: state.ground_speed(),
        rise: body.velocity().dot(state.up),
        mode: state.mode.name(),
        driven_by: state.velocity_owner.name(),
        in_maneuver: state.maneuver.is_some(),
        hull_height: body.present_hull().height(),
        crouched: state.crouched,
        at_wall: state.touching.wall,
        footing: state.footing.kind.name(),
        slope_deg: state.footing.angle(state.up).to_degrees(),
        normal: state.footing.normal.to_array(),
        gait: state.animation.gait.name(),
        facing: state.facing.to_array(),
        up: state.up.to_array(),
        steer: [steer.x, steer.y],
        held: intent.held,
        events: body.events().iter().map(|event| event_row(event, (before, position), file)).collect(),
    }
}

/// An event of a tick that began at `took_off_at`, where jumps take off, and ended at `at`.
fn event_row<V: Geometry>(
    event: &Event<V>,
    (took_off_at, at): ([f32; 3], [f32; 3]),
    file: &LevelFile<V>,
) -> EventRow {
    let on =
        |surface: &SurfaceId| file.looks.get(usize::from(surface.0)).map(|look| format!("on {}", look.name));
    let zone_name = |zone: &ZoneId| file.zones.get(usize::from(zone.0)).cloned();
    let (position, speed, detail) = match event {
        Event::Jumped { kind } => (took_off_at, None, Some(kind.to_string())),
        Event::LeftGround { by: by @ Departure::Jump, .. } => (took_off_at, None, Some(by.to_string())),
        Event::LeftGround { by, of } => (at, None, Some(of.unwrap_or(by.name()).to_string())),
        Event::Apex { position } => (position.to_array(), None, None),
        Event::Landed { speed, surface, .. } => (at, Some(*speed), on(surface)),
        Event::Footfall { surface } => (at, None, surface.as_ref().and_then(on)),
        Event::BumpedHead { speed, .. } | Event::WallMet { speed, .. } | Event::Bounced { speed, .. } => {
            (at, Some(*speed), None)
        }
        Event::LadderGrabbed { zone }
        | Event::LadderLeft { zone }
        | Event::ZoneEntered { zone }
        | Event::ZoneLeft { zone } => (at, None, zone_name(zone)),
        Event::ManeuverPhase { name, phase } => (at, None, Some(format!("{name} {phase}"))),
        Event::MoveBegan { name } | Event::MoveEnded { name } => (at, None, Some(name.to_string())),
        Event::Refused { what } => {
            let words = [Some(what.action.to_string()), what.cause.map(|cause| cause.to_string())];
            (at, None, Some(words.into_iter().flatten().collect::<Vec<_>>().join(" ")))
        }
        _ => (at, None, None),
    };
    let seconds = if let Event::Refused { what } = event { what.missed_by } else { None };
    EventRow { name: event.name(), position, speed, seconds, detail }
}
