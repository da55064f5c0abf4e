//! The settle stage: footing, mode, facing, gait, events. It is the only stage that writes the
//! state or emits events of the tick.

use crate::contact::{Geometry, HullShape};
use crate::moves::{self, Jump, Proposal, Sensed};
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::{Frame, Vector};
use crate::state::{
    Air, Changes, Departure, Event, Events, Footing, FootingKind, Gait, Maneuver, Mode, Mutes, Name, Niche,
    Owner, Phase, Rise, Span, State, WALL_SLIDE, WallTouch, emit,
};
use crate::thresholds::{drawing, feet, rounding, walls};
use crate::travel::{ContactKind, Stand, turned_onto};
use crate::tuning::{Face, Steering, Tuning};

use super::charge::{Charge, SLIDING};
use super::go::{Incident, Outcome};

/// Writes the outcome of a tick into `state`, which is still the one from before except for its
/// position.
pub(super) fn settle<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    state: &mut State<V>,
    events: &mut Events<V>,
) {
    let (tuning, frame, dt) = (sensed.tuning, sensed.frame, sensed.dt);
    take_over(sensed, charge, outcome, state, events);
    if !outcome.incidents.is_empty() && !stays_down(sensed, charge, outcome) {
        emit_incidents(outcome, frame, sensed.state.carry_over.crushed.is_some(), events);
    }
    state.velocity = frame.world(outcome.velocity);
    state.ground_velocity = frame.world(outcome.ground_velocity);
    state.footing = match &outcome.stand {
        Some(stand) if !sensed.from_above => footing(stand, outcome.at, frame),
        _ => Footing::none(state.up),
    };
    state.from_above = sensed.from_above;
    let standing = state.footing.is_firm() || sensed.from_above;
    state.velocity_owner = charge.owner;
    state.carry_over.crushed = outcome.crushed;
    state.carry_over.step_lead = if standing { outcome.ahead } else { 0.0 };
    state.air = air(sensed, charge, outcome, standing);
    if standing {
        leave_ladder(state, events);
    }
    let beside = state.touching.is_at_wall() || state.touching.ceiling || charge.mode == SLIDING;
    if beside || !outcome.contacts.is_empty() {
        report_contacts(sensed, state, charge, outcome, events);
    }
    face(sensed, charge, state);
    if state.maneuver.as_ref().is_some_and(|maneuver| maneuver.plan.exact) {
        end_exactly(state, dt);
    }
    let bounced = outcome.bounced();
    if bounced && state.maneuver.as_ref().is_some_and(Maneuver::drives) {
        // What the ground bounces is no longer driven.
        break_off(state, name_of(charge), events);
    }
    count_maneuver(state, name_of(charge), (dt, sensed.span), events);
    state.pending.changes -= Changes::LED;
    state.pending.displacement = V::ZERO;
    let ends = bounced || (standing && charge.ends_by_standing());
    let of_move = if let Mode::Move(name) = charge.mode { Some(name).filter(|_| !ends) } else { None };
    state.mode = mode(state, name_of(charge), of_move, charge.mode == SLIDING || outcome.slides, standing);
    if matches!(sensed.state.mode, Mode::Move(_)) || matches!(state.mode, Mode::Move(_)) {
        emit_moves(sensed.state.moved(), state.moved(), events);
    }
    spin(tuning, state, dt);
    draw_after(sensed, outcome, state, standing);
    stride(sensed, state, outcome, events);
    step_gait(sensed, charge, outcome.velocity, events, state);
}

/// Writes what was decided, and emits its events: what was refused and released, and what begins.
#[inline(always)] // called once
fn take_over<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    state: &mut State<V>,
    events: &mut Events<V>,
) {
    (state.touching.beside, state.touching.kick) = (sensed.wall, sensed.kick);
    state.rides = None;
    state.posture.target_height = 0.0;
    let quiet = charge.chosen.is_none()
        && charge.refused.is_empty()
        && charge.leaves.is_none()
        && state.ladder.is_none()
        && state.maneuver.is_none();
    if !quiet {
        take_over_aloud(sensed, charge, outcome, state, events);
    }
}

#[inline(never)]
fn take_over_aloud<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    state: &mut State<V>,
    events: &mut Events<V>,
) {
    let late = charge.chosen.and_then(|chosen| chosen.proposal.refused);
    for &what in charge.refused.iter().chain(&late) {
        emit(events, Event::Refused { what });
    }
    let proposal = charge.chosen.map(|chosen| &chosen.proposal);
    let ladder = proposal.and_then(|proposal| proposal.ladder);
    if state.ladder != ladder {
        leave_ladder(state, events);
    }
    let goes_on = charge.under_way.filter(|_| !charge.begins);
    match goes_on {
        Some(under_way) => state.maneuver = Some(under_way.maneuver),
        None => break_off(state, sensed.state.mode.name(), events),
    }
    // A body that is held fast neither jumps nor leaves the ground.
    if let Some(kind) = charge.jumps.filter(|_| !outcome.is_held()) {
        emit(events, Event::Jumped { kind });
        if kind == Jump::WALL {
            state.touching.kick =
                state.touching.beside.map(|wall| moves::kicked(sensed.tuning, &wall, state.touching.kick));
            state.touching.beside = None;
        }
        state.animation.spin = 0.0;
    }
    let stays = !sensed.ground.firm || outcome.is_held() || stays_down(sensed, charge, outcome);
    if let Some(by) = charge.leaves.filter(|_| !stays) {
        let of = charge.chosen.filter(|_| by == Departure::Move).map(|chosen| chosen.name);
        emit(events, Event::LeftGround { by, of });
    }
    if let Some(zone) = ladder.filter(|_| state.ladder != ladder) {
        emit(events, Event::LadderGrabbed { zone });
        state.ladder = ladder;
    }
    if let Some(under_way) = charge.under_way.filter(|_| charge.begins) {
        let maneuver = under_way.maneuver;
        state.maneuver = Some(maneuver);
        emit(events, Event::ManeuverPhase { name: under_way.name, phase: maneuver.phase() });
    }
    if let Some(Proposal { rides, height, .. }) = proposal {
        state.rides = *rides;
        state.posture.target_height = height.unwrap_or(0.0);
    }
}

/// Returns true if a standing body that is driven off the ground is still on it at the end of the
/// tick: the throw was too weak, or something above and beside it holds it down.
fn stays_down<V: Geometry>(sensed: &Sensed<'_, V>, charge: &Charge<'_, V>, outcome: &Outcome<V>) -> bool {
    let driven = match charge.leaves {
        Some(Departure::Maneuver | Departure::Throw) => true,
        // If a move says that the feet leave the ground, they do.
        Some(Departure::Move) => charge.chosen.is_some_and(|chosen| chosen.proposal.leaves.is_none()),
        _ => false,
    };
    driven && sensed.ground.firm && outcome.only_lands()
}

/// Emits events for what happened during travel. A body that was crushed before gets no new event.
#[cold]
#[inline(never)]
fn emit_incidents<V: Geometry>(
    outcome: &Outcome<V>,
    frame: &Frame<V>,
    crushed: bool,
    events: &mut Events<V>,
) {
    for incident in &outcome.incidents {
        events.push(match *incident {
            Incident::Crushed if crushed => continue,
            Incident::Crushed => Event::Crushed,
            Incident::OffAnEdge => Event::LeftGround { by: Departure::Edge, of: None },
            Incident::Landed { speed, surface, piece, .. } => Event::Landed { speed, surface, piece },
            Incident::Bounced { speed, piece } => Event::Bounced { speed, piece },
            Incident::Apex { at } => Event::Apex { position: frame.world_point(at) },
        });
    }
}

/// Emits events for the moves of the list that have charge of the body now, and had before.
#[inline(never)]
fn emit_moves<V: Copy>(before: Option<Name>, now: Option<Name>, events: &mut Events<V>) {
    if before == now {
        return;
    }
    if let Some(name) = before {
        emit(events, Event::MoveEnded { name });
    }
    if let Some(name) = now {
        emit(events, Event::MoveBegan { name });
    }
}

/// The state in the air; `None` for a standing body.
fn air<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    standing: bool,
) -> Option<Air> {
    if standing {
        return None;
    }
    // A body that stood until now left by an edge, or by what was decided.
    let mut air = sensed.state.air.unwrap_or_else(|| Air::left(Departure::Edge));
    let by = if charge.jumps.is_some() { Some(Departure::Jump) } else { charge.leaves };
    if let Some(by) = by.filter(|_| !outcome.is_held()) {
        let rise = if charge.by_key { Rise::Held } else { Rise::Over };
        air = Air { by, rise, ..air };
    }
    if air.rise != Rise::Over && charge.cut {
        air.rise = Rise::Cut;
    }
    if outcome.velocity.height() <= 0.0 {
        air.rise = Rise::Over;
    }
    air.time += if outcome.off_for < sensed.dt { Span::of(outcome.off_for) } else { sensed.span };
    Some(air)
}

/// The mode of the body now.
fn mode<V: Geometry>(
    state: &State<V>,
    maneuver: Name,
    of_move: Option<Name>,
    slides: bool,
    standing: bool,
) -> Mode {
    if state.maneuver.is_some() {
        Mode::Move(maneuver)
    } else if let Some(name) = of_move.filter(|&name| name != WALL_SLIDE) {
        Mode::Move(name)
    } else if standing {
        Mode::Grounded
    } else if slides && state.touching.wall {
        SLIDING
    } else {
        Mode::Airborne
    }
}

fn leave_ladder<V: Vector>(state: &mut State<V>, events: &mut Events<V>) {
    if let Some(zone) = state.ladder.take() {
        emit(events, Event::LadderLeft { zone });
    }
}

/// The name of the maneuver that is running or has begun.
fn name_of<V: Geometry>(charge: &Charge<'_, V>) -> Name {
    charge.under_way.map_or_else(Name::default, |under_way| under_way.name)
}

/// Cancels a maneuver.
fn break_off<V: Vector>(state: &mut State<V>, name: Name, events: &mut Events<V>) {
    if let Some(maneuver) = state.maneuver.take() {
        state.cooldown = Span::of(maneuver.plan.cooldown);
        emit(events, Event::ManeuverPhase { name, phase: Phase::Cooldown });
    }
}

/// Advances a maneuver by a tick: emits the phases that it entered, and ends it after the last.
fn count_maneuver<V: Vector>(
    state: &mut State<V>,
    name: Name,
    (dt, span): (f32, Span),
    events: &mut Events<V>,
) {
    state.cooldown -= span;
    if state.maneuver.is_some() {
        come_into_phase(state, name, dt, events);
    }
}

#[inline(never)]
fn come_into_phase<V: Vector>(state: &mut State<V>, name: Name, dt: f32, events: &mut Events<V>) {
    let Some(maneuver) = &mut state.maneuver else { return };
    let before = maneuver.phase();
    maneuver.age += dt;
    let now = maneuver.phase();
    if now == before {
        return;
    }
    if now == Phase::Cooldown {
        let over = (maneuver.age - maneuver.plan.duration()).max(0.0);
        break_off(state, name, events);
        // It ended within the tick.
        state.cooldown -= Span::of(over);
    } else {
        emit(events, Event::ManeuverPhase { name, phase: now });
    }
}

/// A maneuver that ends exactly and that nothing stopped ends on the bits of its target,
/// perpendicular to the body's up.
#[inline(never)]
fn end_exactly<V: Vector>(state: &mut State<V>, dt: f32) {
    let Some(hop) = state.maneuver.filter(|hop| hop.plan.phase_at(hop.age + dt) == Phase::Cooldown) else {
        return;
    };
    let target = hop.origin + hop.direction * hop.plan.distance;
    let off = (target - state.position).slid_along(state.up);
    if off.length() <= rounding::OF_MANEUVER * hop.plan.distance {
        state.position = target + state.up * (state.position - target).dot(state.up);
        state.remainder = V::ZERO;
    }
    state.velocity = V::ZERO;
}

/// Spins a body during a jump, at a constant rate over the time that it takes to come down to the
/// height of its take-off. If it lands sooner, on higher ground, the spin finishes there more
/// quickly.
fn spin<V: Vector>(tuning: &Tuning, state: &mut State<V>, dt: f32) {
    if state.animation.spin == 0.0 && tuning.jump.spin == 0.0 {
        return;
    }
    let jumping = state.air.filter(|air| {
        let spins = match air.by {
            Departure::Jump => true,
            Departure::Edge => tuning.jump.edge_spin >= 0.5,
            _ => false,
        };
        spins && state.mode == Mode::Airborne
    });
    let rise = tuning.take_off_speed() / tuning.gravity();
    let fall = (2.0 * tuning.jump_height() / (tuning.gravity() * tuning.fall.gravity)).sqrt();
    let fraction = match jumping {
        Some(air) => air.time.seconds() / (rise + fall),
        None if state.animation.spin != 0.0 => {
            state.animation.spin / tuning.jump.spin + drawing::SPIN_ENDS_FASTER * dt / (rise + fall)
        }
        None => return,
    };
    state.animation.spin = if fraction < 1.0 { tuning.jump.spin * fraction } else { 0.0 };
}

/// Updates what is only drawn: how far the drawn feet lag behind a step that they took, and how far
/// a ball has rolled.
fn draw_after<V: Geometry>(
    sensed: &Sensed<'_, V>,
    outcome: &Outcome<V>,
    state: &mut State<V>,
    standing: bool,
) {
    let Sensed { tuning, dt, .. } = *sensed;
    let clearance = sensed.hull.clearance();
    let half_life = tuning.slope.soften_time;
    if standing && sensed.ground.firm && half_life > 0.0 {
        let along = 0.5 * (sensed.velocity.height() + outcome.velocity.height()) * dt;
        let stepped = outcome.at.height() - sensed.carried_by().height() - along;
        if stepped.abs() > drawing::STEP * clearance {
            let most = tuning.slope.step_height.max(tuning.slope.ground_snap);
            state.animation.step_offset = (state.animation.step_offset - stepped).clamp(-most, most);
        }
    }
    if state.animation.step_offset != 0.0 {
        let left =
            if half_life > 0.0 { state.animation.step_offset * libm::exp2f(-dt / half_life) } else { 0.0 };
        state.animation.step_offset = if left.abs() < drawing::SEEN * clearance { 0.0 } else { left };
    }
    if let HullShape::Ball { radius } = sensed.hull.shape()
        && (standing || state.animation.rolled != 0.0)
    {
        let ahead =
            if V::DIMENSION == 2 && !sensed.from_above { V::RIGHT } else { sensed.frame.local(state.facing) };
        // Along the ground, at its slope.
        let along = match &outcome.stand {
            Some(stand) if !sensed.from_above => turned_onto(ahead, stand.normal),
            _ => ahead,
        };
        let rolled = state.animation.rolled
            + if standing { (outcome.at - sensed.carried_by()).dot(along) / radius } else { 0.0 };
        let turns = libm::roundf(rolled / core::f32::consts::TAU);
        state.animation.rolled = rolled - turns * core::f32::consts::TAU;
    }
}

/// Counts the distance walked, and emits the footfalls.
fn stride<V: Geometry>(
    sensed: &Sensed<'_, V>,
    state: &mut State<V>,
    outcome: &Outcome<V>,
    events: &mut Events<V>,
) {
    let Sensed { tuning, floor, dt, .. } = *sensed;
    if state.mode != Mode::Grounded || tuning.walk.stride <= 0.0 {
        state.animation.stride = 0.0;
        return;
    }
    let length = tuning.walk.stride;
    let (before, after) = (state.animation.stride, state.animation.stride + outcome.velocity.length() * dt);
    state.animation.stride = after;
    // Several strides in one tick are one footfall.
    if after >= 2.0 * length || (before < length && after >= length) {
        state.animation.stride %= 2.0 * length;
        let stood_on = (state.footing.kind != FootingKind::None).then_some(state.footing.surface);
        let surface = stood_on.or(floor);
        emit(events, Event::Footfall { surface });
    }
}

/// Puts a body that was in the air on its feet, at rest.
pub(super) fn stand<V: Vector>(state: &mut State<V>, stand: &Stand<V>, at: V, frame: &Frame<V>) {
    state.footing = footing(stand, at, frame);
    state.mode = Mode::Grounded;
    state.animation.gait = Gait::Idle;
    state.air = None;
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

/// Emits bumped heads, and walls that were touched and left. Ground too steep to walk on is a wall
/// to a standing body that walks into it.
#[inline(never)]
fn report_contacts<V: Geometry>(
    sensed: &Sensed<'_, V>,
    state: &mut State<V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    events: &mut Events<V>,
) {
    let frame = sensed.frame;
    // A slide that needs only a touch does not press against its wall.
    let touches = state.touching.beside.is_some_and(|wall| wall.away_for == 0.0);
    let mut against_wall = charge.mode == SLIDING && touches;
    let mut against_ceiling = false;
    let was_at_wall = state.touching.is_at_wall();
    if let Some(wall) = state.touching.beside.filter(|_| against_wall && !was_at_wall) {
        emit(events, Event::WallMet { normal: wall.normal, speed: 0.0, piece: wall.piece });
    }
    let walks = charge.mode == Mode::Grounded && sensed.ground.firm && state.footing.is_firm();
    let walks_into = |normal: V| walks && normal.flat().dot(charge.steer) < 0.0;
    for contact in &outcome.contacts {
        match contact.kind {
            ContactKind::Ceiling => {
                // A body that is still pressed against it had its event.
                let rises = contact.speed > 0.0 && outcome.rises;
                if rises && !state.touching.ceiling && !against_ceiling {
                    emit(events, Event::BumpedHead { speed: contact.speed, piece: contact.tag.piece });
                }
                against_ceiling = true;
            }
            ContactKind::Steep if !walks_into(contact.normal) => against_wall |= state.touching.wall,
            ContactKind::Wall | ContactKind::Steep => {
                let normal = frame.world(contact.normal);
                if !was_at_wall && !against_wall {
                    emit(events, Event::WallMet { normal, speed: contact.speed, piece: contact.tag.piece });
                }
                against_wall = true;
                state.touching.beside = Some(WallTouch {
                    normal,
                    surface: contact.tag.surface,
                    piece: contact.tag.piece,
                    away_for: 0.0,
                    niche: Niche::Used,
                });
            }
            _ => {}
        }
    }
    if was_at_wall && !against_wall {
        let wall = state.touching.beside.or(sensed.state.touching.beside);
        let touched = state.touching.wall;
        against_wall = touched && wall.is_some_and(|wall| still_stops(sensed, charge, outcome, &wall));
        if !against_wall {
            if stays_at(sensed, charge, outcome, wall.as_ref()) {
                state.touching.linger(touched, sensed.dt);
            } else {
                state.touching.lingers = 0;
            }
            if state.touching.lingers == 0 {
                emit(events, Event::WallLeft);
            }
        }
    }
    if against_wall {
        state.touching.lingers = 0;
        state.touching.beside = state.touching.beside.or(sensed.state.touching.beside);
    }
    (state.touching.wall, state.touching.ceiling) = (against_wall, against_ceiling);
}

/// Returns true if steep ground that the body walked into still stops it, whether it touched it
/// again or not: judged by how little it advances in that direction. Feet that have just left the
/// ground still count as walking.
fn still_stops<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    wall: &WallTouch<V>,
) -> bool {
    let walks =
        sensed.state.air.is_none_or(|air| air.by == Departure::Edge && air.time.seconds() < feet::JUST_LEFT);
    let normal = sensed.frame.local(wall.normal);
    let out = normal.flat().direction().unwrap_or(V::ZERO);
    let into = -outcome.velocity.dot(out);
    let pushes = charge.steer.dot(out) < 0.0;
    walks && normal.height() > walls::MAX_HEIGHT && pushes && into < feet::STOPPED * sensed.top
}

/// Returns true if a body that touches its wall no longer may touch it again soon: it is not steered
/// away from it, does not move away, and does not move on past its end. (Another body moves away while
/// it is pushed.)
fn stays_at<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    outcome: &Outcome<V>,
    wall: Option<&WallTouch<V>>,
) -> bool {
    // Feet on the ground forget a wall after the first tick without contact.
    let Some(wall) = wall else { return charge.steer != V::ZERO };
    let normal = sensed.frame.local(wall.normal);
    let out = if sensed.from_above { normal } else { normal.flat().direction().unwrap_or(V::ZERO) };
    let into = -outcome.velocity.dot(out);
    let moves_on = into > walls::PASSES * sensed.top && wall.piece.body().is_none();
    let moves_off = into < -walls::LEAVES * sensed.top;
    charge.steer.dot(out) < walls::AWAY * charge.steer.length() && !moves_on && !moves_off
}

/// Turns the body toward where it is steered, looks or is driven. Without any of these it keeps its
/// facing, which turns with a carrier.
fn face<V: Geometry>(sensed: &Sensed<'_, V>, charge: &Charge<'_, V>, state: &mut State<V>) {
    let Sensed { tuning, frame, intent, dt, .. } = *sensed;
    let mut facing = frame.local(state.facing);
    let mut owner = Owner::Nobody;
    if sensed.turn != 0.0 && V::DIMENSION == 3 {
        facing = whole(facing.turned(sensed.turn));
        owner = Owner::Carrier;
    }
    let proposed = charge.chosen.and_then(|chosen| chosen.proposal.facing?.direction());
    if let Some(direction) = proposed {
        (facing, owner) = (direction, charge.owner);
    } else if charge.in_maneuver(sensed) && charge.mutes.contains(Mutes::TURN) {
        owner = Owner::Maneuver;
        if let Some(direction) = charge.drives().and_then(|under_way| {
            let ahead = frame.local(under_way.maneuver.direction);
            if sensed.from_above { ahead } else { ahead.flat() }.direction()
        }) {
            facing = if V::DIMENSION == 2 && !sensed.from_above {
                direction
            } else {
                turned(tuning, facing, direction, dt)
            };
        }
    } else if charge.mutes.contains(Mutes::TURN) {
        owner = charge.owner;
    } else if tuning.steering == Steering::Body && tuning.face == Face::Course {
        let rate = if tuning.turn.rate > 0.0 { tuning.turn.rate } else { drawing::TURN_RATE };
        let turn = -intent.safe_steer().x * rate * dt;
        if turn != 0.0 {
            facing = whole(facing.turned(turn));
            owner = Owner::Walk;
        }
    } else if let Some(target) = target_facing(sensed, charge) {
        facing =
            if V::DIMENSION == 2 && !sensed.from_above { target } else { turned(tuning, facing, target, dt) };
        owner = if tuning.face == Face::Eyes { Owner::Look } else { Owner::Walk };
    }
    if owner != Owner::Nobody {
        state.facing = frame.world(facing);
    }
    state.facing_owner = owner;
}

/// A direction, normalised again after rotations that round.
fn whole<V: Vector>(direction: V) -> V {
    direction.direction().unwrap_or(direction)
}

fn target_facing<V: Geometry>(sensed: &Sensed<'_, V>, charge: &Charge<'_, V>) -> Option<V> {
    let Sensed { tuning, intent, from_above, top, .. } = *sensed;
    match tuning.face {
        Face::Course if V::DIMENSION == 2 && !from_above => {
            let right = charge.steer.component(0) * top;
            (right != 0.0).then(|| V::RIGHT * right.signum())
        }
        Face::Course => (charge.steer * top.signum()).direction(),
        Face::Eyes if intent.look.yaw.is_finite() && (V::DIMENSION == 3 || from_above) => {
            Some(V::FORWARD.turned(intent.look.yaw))
        }
        Face::Eyes | Face::Host => None,
    }
}

/// The facing after a tick's turn through the smaller angle: at once, at a rate, or by half of the rest
/// every half-life.
fn turned<V: Vector>(tuning: &Tuning, facing: V, target: V, dt: f32) -> V {
    let turn = &tuning.turn;
    let at_once = turn.rate <= 0.0 && turn.half_life <= 0.0;
    if at_once || (facing - target).length_squared() < drawing::FACES * drawing::FACES {
        return target;
    }
    let angle = facing.turn_to(target);
    let mut step = angle;
    if turn.half_life > 0.0 {
        step = angle * (1.0 - libm::exp2f(-dt / turn.half_life));
    }
    if turn.rate > 0.0 {
        step = step.clamp(-turn.rate * dt, turn.rate * dt);
    }
    if step == angle { target } else { whole(facing.turned(step)) }
}

/// How a body moves relative to its facing: sideways, backwards, or ahead.
fn sideways<V: Geometry>(sensed: &Sensed<'_, V>, state: &State<V>, velocity: V) -> Option<Gait> {
    let Tuning { face, steering, .. } = *sensed.tuning;
    if face == Face::Course && steering != Steering::Body {
        return None;
    }
    let course = if sensed.from_above { velocity } else { velocity.flat() };
    let ahead = course.direction()?.dot(sensed.frame.local(state.facing));
    match ahead {
        _ if ahead >= drawing::ASIDE => None,
        _ if ahead <= -drawing::ASIDE => Some(Gait::Back),
        _ => Some(Gait::Strafe),
    }
}

/// Returns true if a standing body turns visibly, by itself and not at once.
fn turns_on_the_spot<V: Geometry>(sensed: &Sensed<'_, V>, state: &State<V>) -> bool {
    let turn = &sensed.tuning.turn;
    let gradual = turn.rate > 0.0 || turn.half_life > 0.0 || sensed.tuning.steering == Steering::Body;
    let side_view = V::DIMENSION == 2 && !sensed.from_above;
    gradual
        && !side_view
        && matches!(state.facing_owner, Owner::Walk | Owner::Look)
        && (state.facing - sensed.state.facing).length() > drawing::TURNS * sensed.dt
}

/// Updates the gait. A change of speed alone never shows a gait for so short a time that it
/// flickers.
fn step_gait<V: Geometry>(
    sensed: &Sensed<'_, V>,
    charge: &Charge<'_, V>,
    velocity: V,
    events: &Events<V>,
    state: &mut State<V>,
) {
    let walk = sensed.tuning.walk.speed.abs();
    let faster = |speed: f32| velocity.length_squared() > speed * speed;
    let gait = match state.mode {
        Mode::Move(name) if state.maneuver.is_some() => Gait::Move(name),
        Mode::Move(name) => {
            let shown = charge.chosen.and_then(|chosen| chosen.proposal.gait);
            shown.unwrap_or(Gait::Move(name))
        }
        Mode::Grounded if state.crouched => Gait::Crouch,
        Mode::Grounded if !faster(drawing::STANDS * walk) => {
            if turns_on_the_spot(sensed, state) {
                Gait::Turn
            } else {
                Gait::Idle
            }
        }
        Mode::Grounded => sideways(sensed, state, velocity).unwrap_or_else(|| {
            let runs = faster(drawing::RUNS * walk * sensed.surface.pace.max(1.0));
            if runs { Gait::Run } else { Gait::Walk }
        }),
        Mode::Airborne if velocity.height() > 0.0 => Gait::Rise,
        Mode::Airborne if state.footing.kind == FootingKind::Steep => Gait::Slide,
        Mode::Airborne => Gait::Fall,
    };
    // Standing for one tick, between two hops or during a reversal, does not count.
    let moved = sensed.standing() && sensed.velocity != V::ZERO;
    let turns_back = gait == Gait::Idle && moved && sensed.steered != V::ZERO;
    let flickers = || {
        let tells = |event: &Event<V>| !matches!(event, Event::Footfall { .. });
        !state.animation.gait_age.reaches(drawing::FLICKER)
            && sensed.state.maneuver.is_none()
            && sensed.state.moved().is_none()
            && state.maneuver.is_none()
            && state.moved().is_none()
            && !events.iter().any(tells)
    };
    let goes_on = turns_back || (gait != state.animation.gait && flickers());
    if gait == state.animation.gait || goes_on {
        state.animation.gait_age += sensed.span;
    } else {
        state.animation.gait = gait;
        state.animation.gait_age = Span::ZERO;
    }
}
