//! Ledges: taken hold of from the air, hung from, climbed, let go of, jumped off.

use crate::contact::Geometry;
use crate::input::Actions;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::cosine;
use crate::state::{Gait, Locks, Mode, Name, Refusal};

use super::{Answer, Law, Move, Outcome, Proposal, Senses, no_knobs};

/// Takes hold of the edge of a wall that it falls past while it is steered into it.
/// Hanging, jump or steering up climbs, steering away with jump jumps off, and crouch or
/// steering down lets go.
#[derive(Clone, Copy, Debug)]
pub struct Ledge;

no_knobs!(Ledge);

crate::memory! {
    /// A climb under way, and the time until the next hold.
    pub struct Holding {
        /// The way up that is left of a climb, in metres, and that onto the ledge.
        climbs: Option<(f32, f32)>,
        /// Seconds for which it takes no other.
        wait: f32,
    }
}

/// How much of the steering must point into a wall to take its edge, and away from it to
/// jump off.
const INTO: f32 = 0.3;
/// How far up or down the steer must point, of 1.
const STEERED: f32 = 0.5;
/// How much of a climb goes up; the rest goes onto the ledge.
const UP: f32 = 0.6;
/// How far onto the ledge hands look for it, in clearances beyond the hull's.
const ONTO: f32 = 6.0;
/// A wall leans by less than this either way, as the height of its normal.
const UPRIGHT: f32 = 0.35;
/// How far above its ledge a body that climbs it comes, in clearances.
const OVER: f32 = 2.0;
/// Heights between the edge and as high as the ground behind it could rise that are tried for a
/// climb.
const HEIGHTS: f32 = 8.0;
/// Cosines of angles are at least this, and closer than this the same.
const LEAST_COSINE: f32 = 1e-3;

/// An edge within reach, in the body's frame, as it will be at the end of the tick.
struct Edge<V> {
    /// From the wall to the body, level, of length 1.
    out: V,
    /// The way to where the body hangs from it.
    to_hang: V,
    /// How far its top is above the feet.
    top: f32,
    carrier: Option<crate::level::CarrierId>,
}

impl<V: Geometry> Move<V> for Ledge {
    const NAME: Name = Name::new("ledge");
    type Memory = Holding;

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, holding: &Holding) -> Answer<V> {
        if senses.tuning.ledge.reach <= 0.0 || senses.from_above || senses.standing() {
            return Answer::Nothing;
        }
        let holds = senses.state.mode == Mode::Move(<Self as Move<V>>::NAME);
        if holds { goes_on(senses, holding) } else { takes(senses, holding) }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, holding: &mut Holding) {
        let ledge = &senses.tuning.ledge;
        if ledge.reach <= 0.0 {
            return;
        }
        let name = Mode::Move(<Self as Move<V>>::NAME);
        holding.wait = (holding.wait - senses.dt).max(0.0);
        if outcome.is_mine() && outcome.state.mode == name {
            holding.climbs = after(senses, holding);
            return;
        }
        holding.climbs = None;
        if senses.state.mode == name {
            holding.wait = ledge.wait_time;
        }
    }
}

/// Takes hold of an edge that it comes past.
#[inline(never)]
fn takes<V: Geometry>(senses: &Senses<'_, V>, holding: &Holding) -> Answer<V> {
    let comes_past = senses.velocity.height() <= 0.0 && !senses.intent.held.has(Actions::CROUCH);
    if !comes_past || holding.wait - senses.dt > 0.0 || senses.maneuver().is_some() {
        return Answer::Nothing;
    }
    let Some(ahead) = senses.wish.direction() else { return Answer::Nothing };
    match edge(senses, ahead) {
        Some(edge) if senses.wish.dot(edge.out) < -INTO => hangs(senses, &edge).into(),
        _ => Answer::Nothing,
    }
}

/// Nearer than this to where it hangs, in clearances, the body is there.
const THERE: f32 = 0.02;

/// Hangs, climbs or lets go.
#[inline(never)]
fn goes_on<V: Geometry>(senses: &Senses<'_, V>, holding: &Holding) -> Answer<V> {
    let faced = senses.frame.local(senses.state.facing).flat().direction().unwrap_or(V::RIGHT);
    if let Some(left) = holding.climbs {
        return climbs(senses, faced, left).into();
    }
    let Some(edge) = held_edge(senses, faced) else { return Answer::Nothing };
    let pressed = senses.intent.pressed.has(Actions::JUMP);
    let away = senses.wish.dot(edge.out) > INTO;
    let ledge = &senses.tuning.ledge;
    if senses.intent.pressed.has(Actions::CROUCH) || senses.steered_up() < -STEERED {
        return Answer::Nothing;
    }
    if pressed && away && ledge.jump_height > 0.0 {
        let up = V::UP * senses.tuning.speed_to_rise(ledge.jump_height);
        let velocity = senses.ground_velocity + edge.out * ledge.jump_away + up;
        return Proposal::jump_off(<Ledge as Move<V>>::NAME, velocity).into();
    }
    if let Some(way) = begins_to_climb(senses, &edge) {
        return climbs(senses, -edge.out, way).into();
    }
    let refused = pressed.then_some(Refusal::Move(<Ledge as Move<V>>::NAME));
    Proposal { refused, ..hangs(senses, &edge) }.into()
}

/// The way of a climb that is asked for, where there is room for it.
fn begins_to_climb<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Option<(f32, f32)> {
    let asks = senses.intent.pressed.has(Actions::JUMP) || senses.steered_up() > STEERED;
    if asks { way_up(senses, edge) } else { None }
}

/// What is left of a climb after this tick; nothing where it does not climb, or is up.
fn after<V: Geometry>(senses: &Senses<'_, V>, holding: &Holding) -> Option<(f32, f32)> {
    let begins = || {
        let hung = senses.state.mode == Mode::Move(<Ledge as Move<V>>::NAME);
        let faced = senses.frame.local(senses.state.facing).flat().direction().filter(|_| hung)?;
        begins_to_climb(senses, &held_edge(senses, faced)?)
    };
    let (up, onto) = holding.climbs.or_else(begins)?;
    let faced = senses.frame.local(senses.state.facing).flat().direction().unwrap_or(V::RIGHT);
    let (goes_up, goes_onto) = part(senses, (up, onto), -faced);
    Some((up - goes_up, onto - goes_onto))
}

/// How far a climb goes up and then onto the ledge, where there is room for it and ground that can be
/// walked on. The top may rise or fall from the edge on.
fn way_up<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Option<(f32, f32)> {
    let over = OVER * senses.hull.clearance();
    let onto = way_onto(senses, edge.out);
    let steepest = cosine(senses.tuning.slope.max_angle).max(LEAST_COSINE);
    let slope = (1.0 - steepest * steepest).sqrt() / steepest;
    // The ground behind the edge rises by no more than the steepest slope does, and the climb goes no
    // higher than there is room.
    let from = senses.carried_by();
    let (least, most) = (edge.top + over, edge.top + over + onto * slope);
    let most = most * senses.sweep(from, V::UP * most).map_or(1.0, |hit| hit.time);
    let is_free = |up: f32| up <= most && senses.sweep(from + V::UP * up, edge.out * -onto).is_none();
    let step = (most - least).max(0.0) / HEIGHTS;
    let up = (0..=HEIGHTS as u32).map(|number| least + step * number as f32).find(|&up| is_free(up))?;
    // Where it comes to stand must hold it.
    let end = from + V::UP * up - edge.out * onto;
    let below = up + 2.0 * onto * slope;
    let ground = senses.sweep(end, V::UP * -below)?;
    (ground.face.height() >= steepest - LEAST_COSINE).then_some((up, onto))
}

fn way_onto<V: Geometry>(senses: &Senses<'_, V>, out: V) -> f32 {
    2.0 * senses.hull.extent(out) + OVER * senses.hull.clearance()
}

/// How far up and onto the ledge a climb goes in this tick: first all the way up, so that it does
/// not cut the corner.
fn part<V: Geometry>(senses: &Senses<'_, V>, (up, onto): (f32, f32), out: V) -> (f32, f32) {
    let ledge = &senses.tuning.ledge;
    if up > 0.0 {
        let whole_up = ledge.height + OVER * senses.hull.clearance();
        let speed = whole_up / (UP * ledge.climb_time);
        return (up.min(speed * senses.dt), 0.0);
    }
    let speed = way_onto(senses, out) / ((1.0 - UP) * ledge.climb_time);
    (0.0, onto.min(speed * senses.dt))
}

fn climbs<V: Geometry>(senses: &Senses<'_, V>, ahead: V, left: (f32, f32)) -> Proposal<V> {
    let (goes_up, goes_onto) = part(senses, left, -ahead);
    let way = V::UP * goes_up + ahead * goes_onto;
    let lands = left.0 <= goes_up && left.1 <= goes_onto;
    let carrier = senses.carrier();
    // When it is up and there is nothing to stand on, it falls.
    let done = left.0 <= 0.0 && left.1 <= 0.0;
    let mode = if done { Mode::Airborne } else { Mode::Move(<Ledge as Move<V>>::NAME) };
    Proposal {
        mode,
        law: Law::Hold { way, velocity: senses.ground_velocity, lands },
        locks: Locks::STEER.and(Locks::TURN),
        facing: Some(ahead),
        gait: Some(Gait::Move(Name::new("climb-up"))),
        rides: carrier,
        ..Proposal::of(<Ledge as Move<V>>::NAME)
    }
}

fn hangs<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Proposal<V> {
    let way = if edge.to_hang.length() < THERE * senses.hull.clearance() {
        V::ZERO
    } else {
        edge.to_hang.capped(senses.tuning.ledge.pull_speed * senses.dt)
    };
    Proposal {
        law: Law::Hold { way, velocity: V::ZERO, lands: false },
        velocity: Some(V::ZERO),
        locks: Locks::STEER.and(Locks::TURN),
        facing: Some(-edge.out),
        rides: edge.carrier,
        ..Proposal::of(<Ledge as Move<V>>::NAME)
    }
}

/// The edge of a wall ahead that hands reach, or have come past in the last tick.
fn edge<V: Geometry>(senses: &Senses<'_, V>, ahead: V) -> Option<Edge<V>> {
    let fallen = (-senses.velocity.height()).max(0.0) * senses.dt;
    edge_within(senses, ahead, senses.tuning.ledge.window + fallen)
}

/// How often the height that is looked in for a held edge is doubled, at most.
const DOUBLINGS: usize = 8;

/// The edge that the body holds. It may yet be on its way up to it, from as far below as a fall
/// has taken it past.
fn held_edge<V: Geometry>(senses: &Senses<'_, V>, ahead: V) -> Option<Edge<V>> {
    let ledge = &senses.tuning.ledge;
    let most = ledge.window + ledge.height;
    let mut past = ledge.window;
    for _ in 0..DOUBLINGS {
        let edge = edge_within(senses, ahead, past);
        if edge.is_some() || past >= most {
            return edge;
        }
        past = (2.0 * past).min(most);
    }
    edge_within(senses, ahead, most)
}

/// The edge of a wall ahead that is no more than `past` above the hands, and no more than
/// `ledge.window` below.
fn edge_within<V: Geometry>(senses: &Senses<'_, V>, ahead: V, past: f32) -> Option<Edge<V>> {
    let ledge = &senses.tuning.ledge;
    let (hull, feet) = (senses.hull, senses.feet());
    let from = senses.carried_by();
    let wall = senses.sweep(from, ahead * ledge.reach)?;
    if wall.normal.height().abs() > UPRIGHT {
        return None;
    }
    let out = wall.normal.flat().direction()?;
    // Down onto its top.
    let onto = hull.extent(out) + (ONTO + 1.0) * hull.clearance();
    let across = from + ahead * (ledge.reach * wall.time) - out * onto;
    let above = feet + across + V::UP * (ledge.height + past);
    let top = senses.look(above, V::UP * -(past + ledge.window))?;
    if top.normal.height() < cosine(senses.tuning.slope.max_angle) || top.time <= 0.0 {
        return None;
    }
    let height = ledge.height + past - top.time * (past + ledge.window) - hull.clearance();
    let to_wall = ahead * (ledge.reach * wall.time);
    let to_hang = to_wall.flat() + V::UP * (height - ledge.height);
    Some(Edge { out, to_hang, top: height, carrier: top.tag.carrier.or(wall.tag.carrier) })
}
