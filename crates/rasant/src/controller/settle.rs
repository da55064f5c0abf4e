//! What a tick leaves behind: footing, mode, facing, gait, events.

use crate::input::Intent;
use crate::space::{Frame, Vector};
use crate::travel::{ContactKind, Stand};
use crate::tuning::{Face, Steering, Tuning};

use super::event::{Event, Events, tell};
use super::local::{Local, Outcome};
use super::moves::{self, ManeuverKind, Phase};
use super::state::{Footing, FootingKind, Gait, Mode, Owner, State};

#[allow(clippy::too_many_arguments)] // the stage's inputs, each once
pub(super) fn settle<V: Vector>(
    tuning: &Tuning,
    state: &mut State<V>,
    body: &Local<V>,
    outcome: &Outcome<V>,
    frame: &Frame<V>,
    intent: &Intent,
    dt: f32,
    events: &mut Events<V>,
) {
    state.velocity = frame.world(outcome.velocity);
    state.ground_velocity = frame.world(outcome.ground_velocity);
    state.footing = match &outcome.stand {
        Some(stand) if !body.from_above => footing(stand, outcome.at, frame),
        _ => Footing::none(state.up),
    };
    state.from_above = body.from_above;
    let standing = state.footing.is_firm() || body.from_above;
    state.velocity_owner = body.owner;
    state.held = outcome.held;
    state.ahead = if standing { outcome.ahead } else { 0.0 };
    if standing || outcome.velocity.height() <= 0.0 {
        state.rising_from_jump = false;
        state.jump_cut = false;
    }
    if standing {
        leave_ladder(state, events);
    }
    let beside = state.against_wall || body.mode == Mode::WallSlide;
    if beside || !outcome.contacts.is_empty() {
        report_contacts(state, body, outcome, frame, events);
    }
    face(tuning, state, body, frame, intent, dt);
    if state.maneuver.as_ref().is_some_and(|maneuver| maneuver.kind == ManeuverKind::Hop) {
        end_hop_exactly(state, dt);
    }
    moves::finish(state, dt, events);
    state.root_motion = None;
    state.mode = mode(state, body.mode == Mode::WallSlide || outcome.slides, standing);
    count_time(state, standing, outcome.off_for, dt);
    spin(tuning, state, standing);
    stride(tuning, state, outcome, dt, events);
    step_gait(tuning, state, body, outcome.velocity, dt);
}

/// Who is in charge of the body now.
fn mode<V: Vector>(state: &State<V>, slides: bool, standing: bool) -> Mode {
    if state.maneuver.is_some() {
        Mode::Maneuver
    } else if standing {
        Mode::Afoot
    } else if state.ladder.is_some() {
        Mode::Ladder
    } else if slides && state.against_wall {
        Mode::WallSlide
    } else {
        Mode::Aloft
    }
}

fn leave_ladder<V: Vector>(state: &mut State<V>, events: &mut Events<V>) {
    if let Some(zone) = state.ladder.take() {
        tell(events, Event::LadderLeft { zone });
    }
}

/// A hop that met nothing ends on the very bit it was to end on, across the
/// body's up.
#[inline(never)]
fn end_hop_exactly<V: Vector>(state: &mut State<V>, dt: f32) {
    /// What rounding may have lost on the way, as a share of it.
    const ROUNDING: f32 = 1e-3;
    let Some(hop) = state.maneuver.filter(|hop| hop.plan.phase(hop.age + dt) == Phase::Rest) else {
        return;
    };
    let target = hop.origin + hop.direction * hop.plan.distance;
    let off = (target - state.position).slid_along(state.up);
    if off.length() <= ROUNDING * hop.plan.distance {
        state.position = target + state.up * (state.position - target).dot(state.up);
        state.remainder = V::ZERO;
    }
    state.velocity = V::ZERO;
}

/// Counts how long the feet have been off the ground, of which `off_for` is in
/// this tick, and a press has waited.
fn count_time<V: Vector>(state: &mut State<V>, standing: bool, off_for: f32, dt: f32) {
    state.jump_waits = (state.jump_waits - dt).max(0.0);
    if standing {
        state.aloft_time = 0.0;
        state.left_by_jump = false;
    } else {
        state.aloft_time += off_for;
    }
}

/// Spins a body in the air of a jump, evenly over the time that it would take
/// to come down again where it took off; then, and on its feet, it is flat.
fn spin<V: Vector>(tuning: &Tuning, state: &mut State<V>, standing: bool) {
    let jumping = state.left_by_jump && state.mode == Mode::Aloft;
    if tuning.jump.spin == 0.0 || standing || !jumping {
        state.spin = 0.0;
        return;
    }
    let rise = tuning.take_off_speed() / tuning.gravity();
    let fall = (2.0 * tuning.jump_height() / (tuning.gravity() * tuning.fall.gravity)).sqrt();
    let share = state.aloft_time / (rise + fall);
    state.spin = if share < 1.0 { tuning.jump.spin * share } else { 0.0 };
}

/// Counts the way on foot, and tells the footfalls.
fn stride<V: Vector>(
    tuning: &Tuning,
    state: &mut State<V>,
    outcome: &Outcome<V>,
    dt: f32,
    events: &mut Events<V>,
) {
    if state.mode != Mode::Afoot || tuning.walk.stride <= 0.0 || outcome.velocity == V::ZERO {
        state.stride = 0.0;
        return;
    }
    state.stride += outcome.velocity.length() * dt;
    if state.stride >= tuning.walk.stride {
        // Faster than a stride a tick is one footfall a tick.
        state.stride %= tuning.walk.stride;
        let surface = (state.footing.kind != FootingKind::None).then_some(state.footing.surface);
        tell(events, Event::Footfall { surface });
    }
}

/// Puts a body that was aloft on its feet, at rest.
pub(super) fn stand<V: Vector>(state: &mut State<V>, stand: &Stand<V>, at: V, frame: &Frame<V>) {
    state.footing = footing(stand, at, frame);
    state.mode = Mode::Afoot;
    state.gait = Gait::Idle;
    state.aloft_time = 0.0;
    state.velocity = V::ZERO;
}

fn footing<V: Vector>(stand: &Stand<V>, at: V, frame: &Frame<V>) -> Footing<V> {
    let Stand { firm, normal, point, tag } = *stand;
    Footing {
        kind: if firm { FootingKind::Firm } else { FootingKind::Steep },
        normal: frame.world(normal),
        point: frame.world(point - at),
        surface: tag.surface,
        carrier: tag.carrier,
        piece: tag.piece,
        one_way: tag.one_way,
    }
}

#[inline(never)]
fn report_contacts<V: Vector>(
    state: &mut State<V>,
    body: &Local<V>,
    outcome: &Outcome<V>,
    frame: &Frame<V>,
    events: &mut Events<V>,
) {
    // A slide that a touch is enough for does not press against its wall.
    let mut against_wall = body.mode == Mode::WallSlide && state.wall.away_for == 0.0;
    for contact in &outcome.contacts {
        match contact.kind {
            ContactKind::Ceiling if contact.speed > 0.0 => {
                tell(events, Event::BumpedHead { speed: contact.speed });
            }
            ContactKind::Wall => {
                let normal = frame.world(contact.normal);
                if !state.against_wall && !against_wall {
                    tell(events, Event::WallMet { normal, speed: contact.speed });
                }
                against_wall = true;
                state.wall.normal = normal;
                state.wall.surface = contact.tag.surface;
                state.wall.away_for = 0.0;
            }
            ContactKind::Steep => against_wall |= state.against_wall,
            _ => {}
        }
    }
    if state.against_wall && !against_wall {
        tell(events, Event::WallLeft);
    }
    state.against_wall = against_wall;
}

/// Turns the body toward where it is steered, looks or drives; keeps its facing
/// when there is nothing of that, and turns it along with a carrier.
fn face<V: Vector>(
    tuning: &Tuning,
    state: &mut State<V>,
    body: &Local<V>,
    frame: &Frame<V>,
    intent: &Intent,
    dt: f32,
) {
    let mut facing = frame.local(state.facing);
    let mut owner = Owner::Nobody;
    if body.turn != 0.0 && V::DIMENSION == 3 {
        facing = whole(facing.turned(body.turn));
        owner = Owner::Carrier;
    }
    if body.in_maneuver && body.locks.turn {
        owner = Owner::Maneuver;
        if let Some(direction) = state.maneuver.filter(|maneuver| maneuver.drives()).and_then(|maneuver| {
            let ahead = frame.local(maneuver.direction);
            if body.from_above { ahead } else { ahead.flat() }.direction()
        }) {
            facing = direction;
        }
    } else if tuning.steering == Steering::Body && tuning.face == Face::Steer {
        /// The turn of a body whose turning rate is not given, in radians a second.
        const USUAL: f32 = std::f32::consts::PI;
        let rate = if tuning.turn.rate > 0.0 { tuning.turn.rate } else { USUAL };
        let turn = -intent.safe_steer().x * rate * dt;
        if turn != 0.0 {
            facing = whole(facing.turned(turn));
            owner = Owner::Walk;
        }
    } else if let Some(wanted) = wanted_facing(tuning, body, intent) {
        facing =
            if V::DIMENSION == 2 && !body.from_above { wanted } else { turned(tuning, facing, wanted, dt) };
        owner = if tuning.face == Face::Look { Owner::Look } else { Owner::Walk };
    }
    if owner != Owner::Nobody {
        state.facing = frame.world(facing);
    }
    state.facing_owner = owner;
}

/// A direction, of length 1 again after turns that round.
fn whole<V: Vector>(direction: V) -> V {
    direction.direction().unwrap_or(direction)
}

fn wanted_facing<V: Vector>(tuning: &Tuning, body: &Local<V>, intent: &Intent) -> Option<V> {
    match tuning.face {
        Face::Steer if V::DIMENSION == 2 && !body.from_above => {
            let right = body.wish.component(0) * body.top;
            (right != 0.0).then(|| V::RIGHT * right.signum())
        }
        Face::Steer => (body.wish * body.top.signum()).direction(),
        Face::Look if intent.look.yaw.is_finite() && (V::DIMENSION == 3 || body.from_above) => {
            Some(V::FORWARD.turned(intent.look.yaw))
        }
        Face::Look | Face::Fixed => None,
    }
}

/// The facing after a tick's turn by the shorter way: at once, at a rate, or by
/// half of what is left every half-life.
fn turned<V: Vector>(tuning: &Tuning, facing: V, wanted: V, dt: f32) -> V {
    let turn = &tuning.turn;
    /// Nearer than this, in radians, is there.
    const THERE: f32 = 1e-5;
    let at_once = turn.rate <= 0.0 && turn.half_life <= 0.0;
    if at_once || (facing - wanted).length_squared() < THERE * THERE {
        return wanted;
    }
    let angle = facing.turn_to(wanted);
    let mut step = angle;
    if turn.half_life > 0.0 {
        step = angle * (1.0 - libm::exp2f(-dt / turn.half_life));
    }
    if turn.rate > 0.0 {
        step = step.clamp(-turn.rate * dt, turn.rate * dt);
    }
    if step == angle { wanted } else { whole(facing.turned(step)) }
}

fn step_gait<V: Vector>(tuning: &Tuning, state: &mut State<V>, body: &Local<V>, velocity: V, dt: f32) {
    /// Slower than this, as a share of the walking speed, is standing.
    const STANDING: f32 = 0.005;
    /// Faster than this times the walking speed is running.
    const RUNNING: f32 = 1.05;
    let walk = tuning.walk.speed.abs();
    let faster = |speed: f32| velocity.length_squared() > speed * speed;
    let gait = match state.mode {
        Mode::Maneuver => state.maneuver.as_ref().map_or(Gait::Idle, |maneuver| maneuver.kind.gait()),
        Mode::WallSlide => Gait::WallSlide,
        Mode::Ladder => Gait::Climb,
        Mode::Afoot if state.crouched => Gait::Crouch,
        Mode::Afoot if !faster(STANDING * walk) => Gait::Idle,
        Mode::Afoot if faster(RUNNING * walk * body.surface.pace.max(1.0)) => Gait::Run,
        Mode::Afoot => Gait::Walk,
        Mode::Aloft if velocity.height() > 0.0 => Gait::Rise,
        Mode::Aloft if state.footing.kind == FootingKind::Steep => Gait::Slide,
        Mode::Aloft => Gait::Fall,
    };
    if gait == state.gait {
        state.gait_age += dt;
    } else {
        state.gait = gait;
        state.gait_age = 0.0;
    }
}
