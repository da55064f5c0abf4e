//! Ledges: grabbed from the air, hung from, climbed, released, jumped off.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::cosine;
use crate::state::{Gait, Mode, Mutes, Name, Refusal};
use crate::thresholds::{ledges, moves, rounding, steering, walls};

use super::{Answer, KnobsIn, Law, Move, Outcome, Proposal, Senses, Words};

pub use knobs::Ledge;

const NAME: Name = Name::new("ledge");

crate::memory! {
    /// A climb in progress, and the time until the next grab.
    pub struct Holding {
        /// Above 0, the remaining length of a climb in metres: up, and then onto the ledge. Below
        /// 0, the seconds for which no ledge can be grabbed.
        left: f32,
    }
}

/// A climb, or the rest of one.
#[derive(Clone, Copy)]
struct Climb {
    /// The distance up, in metres.
    up: f32,
    /// The distance onto the ledge, in metres.
    onto: f32,
    /// True if there is only room to crouch.
    low: bool,
}

impl Holding {
    /// The rest of the climb, for a body that faces the wall, if it is climbing.
    fn climb<V: Geometry>(self, senses: &Senses<'_, V>, faced: V) -> Option<Climb> {
        let onto = free_path_onto(senses, -faced);
        let up = self.left - onto;
        let is_up = up < rounding::OF_LENGTH * onto;
        // It has requested a lower hull since it began.
        let low = senses.state.posture.target_height > 0.0;
        let climb = || Climb { up: if is_up { 0.0 } else { up }, onto: self.left.min(onto), low };
        (self.left > 0.0).then(climb)
    }

    /// Seconds for which no ledge can be grabbed.
    fn wait(self) -> f32 {
        (-self.left).max(0.0)
    }
}

/// An edge within reach, in the body's frame, at the end of the tick.
struct Edge<V> {
    /// From the wall to the body, horizontal, of length 1.
    out: V,
    /// The displacement to the hanging position.
    to_hang: V,
    /// The height of its top above the feet.
    top: f32,
    carrier: Option<crate::level::CarrierId>,
    /// True if the body moves along it.
    moves: bool,
    /// True if the wall under it is touched at a corner.
    is_corner: bool,
}

impl<V: Geometry> Move<V> for Ledge {
    const NAME: Name = NAME;
    const WORDS: Words =
        Words::MODE.gaits(&["climb-up", "ledge-move"]).jumps(&["ledge"]).refusals(&[Refusal::of(NAME)]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.ledge);
    type Memory = Holding;

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, holding: &Holding) -> Answer<V> {
        if senses.tuning.ledge.reach <= 0.0 || senses.from_above || senses.standing() {
            return Answer::Nothing;
        }
        let holds = senses.state.mode == Mode::Move(NAME);
        if holds { goes_on(senses, holding) } else { takes(senses, holding) }
    }

    #[inline(always)]
    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, holding: &mut Holding) {
        let ledge = &senses.tuning.ledge;
        if ledge.reach <= 0.0 {
            return;
        }
        let name = Mode::Move(NAME);
        let wait = (holding.wait() - senses.dt).max(0.0);
        if outcome.is_mine() && outcome.state.mode == name {
            let climb = after(senses, *holding);
            holding.left = climb.map_or(0.0, |climb| (climb.up + climb.onto).max(f32::MIN_POSITIVE));
            return;
        }
        holding.left = -wait;
        if senses.state.mode == name {
            holding.left = -ledge.wait_time;
        }
    }
}

/// Grabs an edge that the body passes.
#[inline(never)]
fn takes<V: Geometry>(senses: &Senses<'_, V>, holding: &Holding) -> Answer<V> {
    // Out of water a rim is grabbed while rising, too.
    let comes_past = (senses.velocity.height() <= 0.0 || senses.water.is_some())
        && !senses.intent.held.contains(Actions::CROUCH);
    if !comes_past || holding.wait() - senses.dt > 0.0 || senses.maneuver().is_some() {
        return Answer::Nothing;
    }
    let Some(ahead) = senses.steer.direction() else { return Answer::Nothing };
    match edge(senses, ahead) {
        Some(edge) if senses.steer.dot(edge.out) < -steering::MEANT => hangs(senses, &edge).into(),
        _ => Answer::Nothing,
    }
}

/// Hangs, climbs or lets go.
#[inline(never)]
fn goes_on<V: Geometry>(senses: &Senses<'_, V>, holding: &Holding) -> Answer<V> {
    let faced = senses.frame.local(senses.state.facing).flat().direction().unwrap_or(V::RIGHT);
    if let Some(left) = holding.climb(senses, faced) {
        return climbs(senses, faced, left).into();
    }
    let Some(edge) = held_edge(senses, faced) else { return Answer::Nothing };
    let pressed = senses.intent.pressed.contains(Actions::JUMP);
    let away = senses.steer.dot(edge.out) > steering::MEANT;
    let ledge = &senses.tuning.ledge;
    if senses.intent.pressed.contains(Actions::CROUCH) || senses.steered_up() < -steering::CHOSEN {
        return Answer::Nothing;
    }
    if pressed && away && ledge.jump_height > 0.0 {
        let up = V::UP * senses.tuning.speed_to_rise(ledge.jump_height);
        let velocity = senses.ground_velocity + edge.out * ledge.jump_away + up;
        return Proposal::jump_off(NAME, velocity).into();
    }
    if let Some(displacement) = begins_to_climb(senses, &edge) {
        return climbs(senses, -edge.out, displacement).into();
    }
    let refused = pressed.then_some(Refusal::of(NAME));
    let edge = along(senses, &edge).unwrap_or(edge);
    Proposal { refused, ..hangs(senses, &edge) }.into()
}

/// The edge a little further along, if it is steered sideways and the ledge continues.
fn along<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Option<Edge<V>> {
    let ledge = &senses.tuning.ledge;
    let sideways = senses.steered.flat().slid_along(edge.out);
    let is_there = edge.to_hang.length() < 2.0 * senses.hull.clearance();
    if V::DIMENSION == 2 || ledge.along_speed <= 0.0 || sideways.length() < steering::MEANT || !is_there {
        return None;
    }
    let step = sideways * (ledge.along_speed * senses.dt);
    let from = senses.carried_by();
    let free = senses.sweep(from, step).map_or(1.0, |hit| hit.time);
    let step = step * free;
    let next = edge_from(senses, -edge.out, step, ledge.window)?;
    let goes_on = free > 0.0 && next.out.dot(edge.out) > walls::ONE_LEDGE && !next.is_corner;
    let is_in_reach = (next.to_hang - step).length() <= step.length() + 2.0 * senses.hull.clearance();
    // To the side at the set speed; up, down and to the wall by as much as that needs.
    (goes_on && is_in_reach).then_some(Edge { moves: true, ..next })
}

/// The displacement of a climb that the player asked for, if there is room for it.
fn begins_to_climb<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Option<Climb> {
    let asks = senses.intent.pressed.contains(Actions::JUMP) || senses.steered_up() > steering::CHOSEN;
    if asks { is_free_above(senses, edge) } else { None }
}

/// The rest of a climb after this tick; `None` if it does not climb, or is finished.
fn after<V: Geometry>(senses: &Senses<'_, V>, holding: Holding) -> Option<Climb> {
    let faced = senses.frame.local(senses.state.facing).flat().direction();
    let begins = || {
        let hung = senses.state.mode == Mode::Move(NAME);
        begins_to_climb(senses, &held_edge(senses, faced.filter(|_| hung)?)?)
    };
    let faced = faced.unwrap_or(V::RIGHT);
    let climb = holding.climb(senses, faced).or_else(begins)?;
    let (goes_up, goes_onto) = part(senses, climb, -faced);
    Some(Climb { up: climb.up - goes_up, onto: climb.onto - goes_onto, ..climb })
}

/// How far a climb goes up and then onto the ledge, if there is room for it, upright or crouching,
/// and ground that can be walked on. The top may rise or fall from the edge on.
fn is_free_above<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Option<Climb> {
    let (height, low) = (senses.hull.height(), senses.tuning.crouch.height);
    let upright = is_free_above_at_height(senses, edge, height);
    match upright {
        None if low < height => Some(Climb { low: true, ..is_free_above_at_height(senses, edge, low)? }),
        climb => climb,
    }
}

fn is_free_above_at_height<V: Geometry>(
    senses: &Senses<'_, V>,
    edge: &Edge<V>,
    height: f32,
) -> Option<Climb> {
    let sweep = |from: V, displacement: V| senses.sweep_at_height(from, displacement, height);
    let over = ledges::OVER * senses.hull.clearance();
    let onto = free_path_onto(senses, edge.out);
    let steepest = cosine(senses.tuning.slope.max_angle).max(ledges::MIN_COSINE);
    let slope = (1.0 - steepest * steepest).sqrt() / steepest;
    // The ground behind the edge rises by no more than the steepest slope does, and the climb goes
    // no higher than there is room.
    let from = senses.carried_by();
    let (least, most) = (edge.top + over, edge.top + over + onto * slope);
    let most = most * sweep(from, V::UP * most).map_or(1.0, |hit| hit.time);
    let is_free = |up: f32| up <= most && sweep(from + V::UP * up, edge.out * -onto).is_none();
    let step = (most - least).max(0.0) / ledges::HEIGHTS;
    let up =
        (0..=ledges::HEIGHTS as u32).map(|number| least + step * number as f32).find(|&up| is_free(up))?;
    // The ground where it ends must hold it.
    let end = from + V::UP * up - edge.out * onto;
    let below = up + 2.0 * onto * slope;
    let ground = sweep(end, V::UP * -below)?;
    (ground.face.height() >= steepest - ledges::MIN_COSINE).then_some(Climb { up, onto, low: false })
}

fn free_path_onto<V: Geometry>(senses: &Senses<'_, V>, out: V) -> f32 {
    2.0 * senses.hull.extent(out) + ledges::OVER * senses.hull.clearance()
}

/// How far up and onto the ledge a climb goes in this tick: first up to the top, so that it does
/// not cut the corner.
fn part<V: Geometry>(senses: &Senses<'_, V>, Climb { up, onto, .. }: Climb, out: V) -> (f32, f32) {
    let ledge = &senses.tuning.ledge;
    if up > 0.0 {
        let whole_up = ledge.height + ledges::OVER * senses.hull.clearance();
        let speed = whole_up / (ledges::UP * ledge.climb_time);
        return (up.min(speed * senses.dt), 0.0);
    }
    let speed = free_path_onto(senses, out) / ((1.0 - ledges::UP) * ledge.climb_time);
    (0.0, onto.min(speed * senses.dt))
}

fn climbs<V: Geometry>(senses: &Senses<'_, V>, ahead: V, left: Climb) -> Proposal<V> {
    let (goes_up, goes_onto) = part(senses, left, -ahead);
    let displacement = V::UP * goes_up + ahead * goes_onto;
    let lands = left.up <= goes_up && left.onto <= goes_onto;
    let carrier = senses.carrier();
    // When it is up and there is nothing to stand on, it falls.
    let done = left.up + left.onto <= rounding::OF_LENGTH * free_path_onto(senses, -ahead);
    let mode = if done { Mode::Airborne } else { Mode::Move(NAME) };
    Proposal {
        mode,
        law: Law::Hold { displacement, velocity: senses.ground_velocity, lands },
        mutes: (Mutes::STEER | Mutes::TURN),
        facing: Some(ahead),
        gait: Some(Gait::Move(Name::new("climb-up"))),
        height: left.low.then_some(senses.tuning.crouch.height),
        rides: carrier,
        ..Proposal::of(NAME)
    }
}

fn hangs<V: Geometry>(senses: &Senses<'_, V>, edge: &Edge<V>) -> Proposal<V> {
    let displacement = if edge.to_hang.length() < moves::THERE * senses.hull.clearance() {
        V::ZERO
    } else {
        edge.to_hang.capped(senses.tuning.ledge.pull_speed * senses.dt)
    };
    let velocity = if edge.moves { displacement * (1.0 / senses.dt) } else { V::ZERO };
    let gait = if edge.moves { Gait::Move(Name::new("ledge-move")) } else { Gait::Move(NAME) };
    Proposal {
        law: Law::Hold { displacement, velocity, lands: false },
        velocity: Some(V::ZERO),
        mutes: (Mutes::STEER | Mutes::TURN),
        facing: Some(-edge.out),
        gait: Some(gait),
        rides: edge.carrier,
        ..Proposal::of(NAME)
    }
}

/// The edge of a wall ahead that hands reach, or have passed in the last tick.
fn edge<V: Geometry>(senses: &Senses<'_, V>, ahead: V) -> Option<Edge<V>> {
    let fallen = (-senses.velocity.height()).max(0.0) * senses.dt;
    edge_within(senses, ahead, senses.tuning.ledge.window + fallen)
}

/// How often the height that is searched for a held edge is doubled at most.
const DOUBLINGS: usize = 8;

/// The edge that the body holds. The body may still be rising to it, from as far below as a
/// fall has taken it.
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
    edge_from(senses, ahead, V::ZERO, past)
}

/// The edge that a body displaced by `step` would find. The displacement to the hanging position is
/// from where the body is.
fn edge_from<V: Geometry>(senses: &Senses<'_, V>, ahead: V, step: V, past: f32) -> Option<Edge<V>> {
    let ledge = &senses.tuning.ledge;
    let (hull, feet) = (senses.hull, senses.feet());
    let from = senses.carried_by() + step;
    let wall = senses.sweep(from, ahead * ledge.reach)?;
    if wall.normal.height().abs() > walls::LEDGE_HEIGHT {
        return None;
    }
    let out = wall.normal.flat().direction()?;
    // Down onto its top.
    let onto = hull.extent(out) + (ledges::ONTO + 1.0) * hull.clearance();
    let across = from + ahead * (ledge.reach * wall.time) - out * onto;
    let above = feet + across + V::UP * (ledge.height + past);
    let top = senses.look(above, V::UP * -(past + ledge.window))?;
    if top.normal.height() < cosine(senses.tuning.slope.max_angle) || top.time <= 0.0 {
        return None;
    }
    // A surface that holds no wall slide holds no hands.
    if senses.surface(&wall.tag).grip <= 0.0 || senses.surface(&top.tag).grip <= 0.0 {
        return None;
    }
    let height = ledge.height + past - top.time * (past + ledge.window) - hull.clearance();
    let to_wall = ahead * (ledge.reach * wall.time) + step;
    let to_hang = to_wall.flat() + V::UP * (height - ledge.height);
    // Past the end of a wall the hull touches its corner only.
    let is_corner = || {
        let below = feet + from + V::UP * (height - ledges::BELOW_EDGE * hull.clearance());
        let aside = out.turned(core::f32::consts::FRAC_PI_2) * (ledges::ASIDE * hull.clearance());
        let is_open = |aside: V| senses.look(below + aside, out * -(onto + ledge.reach)).is_none();
        is_open(aside) || is_open(-aside)
    };
    let is_corner = step != V::ZERO && is_corner();
    Some(Edge {
        out,
        to_hang,
        top: height,
        carrier: top.tag.carrier.or(wall.tag.carrier),
        moves: false,
        is_corner,
    })
}
