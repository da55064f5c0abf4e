//! What a tick leaves behind: footing, mode, facing, gait, events.

use crate::space::{Frame, Vector};
use crate::travel::{ContactKind, Stand};

use super::event::{Event, Events};
use super::local::{Local, Outcome};
use super::state::{Footing, FootingKind, Gait, Mode, Owner, State};

pub(super) fn settle<V: Vector>(
    state: &mut State<V>,
    body: &Local<V>,
    outcome: &Outcome<V>,
    frame: &Frame<V>,
    wish: V,
    dt: f32,
    events: &mut Events<V>,
) {
    state.velocity = frame.world(outcome.velocity);
    state.ground_velocity = frame.world(outcome.ground_velocity);
    state.footing = match &outcome.stand {
        Some(stand) => footing(stand, outcome.at, frame),
        None => Footing::none(state.up),
    };
    state.mode = if state.footing.is_firm() { Mode::Afoot } else { Mode::Aloft };
    state.velocity_owner = body.owner;
    if state.footing.is_firm() || outcome.velocity.height() <= 0.0 {
        state.rising_from_jump = false;
        state.jump_cut = false;
    }
    count_time(state, body, dt);
    report_contacts(state, outcome, frame, events);
    face(state, frame, wish, body.turn);
    step_gait(state, outcome.velocity, dt);
}

/// Counts how long the feet have been off the ground, and a press has waited.
fn count_time<V: Vector>(state: &mut State<V>, body: &Local<V>, dt: f32) {
    state.jump_waits = (state.jump_waits - dt).max(0.0);
    if state.footing.is_firm() {
        state.aloft_time = 0.0;
        state.left_by_jump = false;
    } else if body.mode == Mode::Aloft {
        state.aloft_time += dt;
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

fn report_contacts<V: Vector>(
    state: &mut State<V>,
    outcome: &Outcome<V>,
    frame: &Frame<V>,
    events: &mut Events<V>,
) {
    let mut against_wall = false;
    for contact in &outcome.contacts {
        match contact.kind {
            ContactKind::Ceiling if contact.speed > 0.0 => {
                events.push(Event::BumpedHead { speed: contact.speed });
            }
            ContactKind::Wall | ContactKind::Steep if !against_wall => {
                against_wall = true;
                if !state.against_wall && contact.kind == ContactKind::Wall {
                    let normal = frame.world(contact.normal);
                    events.push(Event::WallMet { normal, speed: contact.speed });
                }
            }
            _ => {}
        }
    }
    state.against_wall = against_wall;
}

/// Faces where the steering points; keeps facing when it stops, and turns along
/// with a carrier.
fn face<V: Vector>(state: &mut State<V>, frame: &Frame<V>, wish: V, turn: f32) {
    match wish.direction() {
        Some(direction) => {
            state.facing = frame.world(direction);
            state.facing_owner = Owner::Walk;
        }
        None if turn != 0.0 && V::DIMENSION == 3 => {
            state.facing = frame.world(frame.local(state.facing).turned(turn));
            state.facing_owner = Owner::Carrier;
        }
        None => state.facing_owner = Owner::Nobody,
    }
}

fn step_gait<V: Vector>(state: &mut State<V>, velocity: V, dt: f32) {
    /// Slower than this, in m/s, is standing.
    const STANDING: f32 = 0.02;
    let gait = match state.mode {
        Mode::Afoot if velocity.length() > STANDING => Gait::Walk,
        Mode::Afoot => Gait::Idle,
        Mode::Aloft if velocity.height() > 0.0 => Gait::Rise,
        Mode::Aloft => Gait::Fall,
    };
    if gait == state.gait {
        state.gait_age += dt;
    } else {
        state.gait = gait;
        state.gait_age = 0.0;
    }
}
