//! Who has charge of a tick, and what is to be done in it.

use crate::contact::Geometry;
use crate::input::Actions;
use crate::level::PieceId;
use crate::moves::{self, Decision, Law, Proposal, Sensed, Senses, Turning, UnderWay};
use crate::space::Vector;
use crate::state::{
    Departure, JumpKind, Locks, Maneuver, ManeuverKind, Mode, Owner, Phase, Refusal, WallKick,
};

use super::drive;

/// What is decided of a tick.
pub(super) struct Charge<'a, V> {
    /// Who is in charge of it.
    pub mode: Mode,
    /// Who drives the velocity.
    pub owner: Owner,
    /// The motion law.
    pub law: Law<V>,
    /// The velocity that it begins with, in the body's frame.
    pub velocity: V,
    /// Where the player wants to go, if that counts.
    pub wish: V,
    /// What the player is kept from.
    pub locks: Locks,
    /// The maneuver that is under way or begins.
    pub under_way: Option<&'a UnderWay<V>>,
    /// Whether it begins.
    pub begins: bool,
    /// Whether a rise goes on with jump let go.
    pub cut: bool,
    /// Why the feet leave the ground before it.
    pub leaves: Option<Departure>,
    /// The jump that takes off.
    pub jumps: Option<JumpKind>,
    /// Whether the player's key for jumps has started it.
    pub by_key: bool,
    /// What the move that takes charge proposes, and its place in the list.
    pub taken: Option<&'a (u8, Proposal<V>)>,
    /// What was refused on the way to that.
    pub refused: &'a [Refusal],
}

impl<'a, V: Geometry> Charge<'a, V> {
    /// The body does what it does by itself.
    #[inline(always)] // called once
    pub fn by_itself(sensed: &'a Sensed<'_, V>) -> Self {
        let standing = sensed.standing();
        Self {
            mode: if standing { Mode::Grounded } else { Mode::Airborne },
            owner: if standing { Owner::Walk } else { Owner::Air },
            law: Law::Usual,
            velocity: sensed.velocity,
            wish: sensed.wish,
            locks: sensed.locks,
            under_way: sensed.under_way,
            begins: false,
            cut: sensed.cut,
            leaves: None,
            jumps: None,
            by_key: false,
            taken: None,
            refused: &[],
        }
    }

    /// Whether a maneuver or the host has the body, in part at least.
    pub fn in_maneuver(&self, sensed: &Sensed<'_, V>) -> bool {
        self.under_way.is_some() || sensed.led.is_some()
    }

    /// The last jump off a wall, this tick's among them, with its normal in the body's
    /// frame.
    pub fn kick(&self, sensed: &Sensed<'_, V>) -> Option<WallKick<V>> {
        let now = || Some(moves::kicked(sensed.tuning, &sensed.wall?, sensed.kick));
        let kick = if self.jumps == Some(JumpKind::Wall) { now() } else { sensed.kick };
        kick.map(|kick| WallKick { normal: sensed.frame.local(kick.normal), ..kick })
    }

    /// The one-way platform that the body is let through.
    pub fn passes(&self) -> Option<PieceId> {
        self.taken.and_then(|(_, proposal)| proposal.passes)
    }

    /// Whether a move or a maneuver drives the body.
    pub fn in_charge(&self) -> bool {
        self.taken.is_some() || self.drives().is_some()
    }

    /// Whether the body is let through every one-way platform.
    pub fn passes_one_way(&self) -> bool {
        self.taken.is_some_and(|(_, proposal)| proposal.passes_one_way)
    }

    /// Whether what has charge falls, or lets the body stand at the end of its way: it is
    /// over as soon as the feet are on the ground.
    pub fn ends_by_standing(&self) -> bool {
        matches!(self.law, Law::Fall(_) | Law::Hold { lands: true, .. })
    }

    /// The maneuver that drives the body.
    pub fn drives(&self) -> Option<&'a UnderWay<V>> {
        self.under_way.filter(|under_way| under_way.maneuver.drives())
    }
}

/// Room for what is decided, so that it is not moved about.
pub(super) struct Slots<V> {
    pub decision: Decision<V>,
    pub begun: Option<UnderWay<V>>,
}

impl<V> Slots<V> {
    pub fn empty() -> Self {
        Self { decision: Decision::none(), begun: None }
    }
}

/// Decides a tick: the host leads, or the first move that takes charge has it, or the
/// maneuver that is under way, or the body does what it does by itself.
#[inline(always)] // called once
pub(super) fn decide<'a, V: Geometry>(
    charge: &mut Charge<'a, V>,
    senses: &Senses<'_, V>,
    slots: &'a mut Slots<V>,
) {
    let Slots { decision, begun } = slots;
    if senses.led.is_some() {
        // What is under way goes on, and locks what it locks.
        charge.locks = charge.under_way.map_or(Locks::ALL, |under_way| under_way.locks);
        charge.wish = V::ZERO;
        (charge.mode, charge.owner) = (Mode::Maneuver, Owner::Maneuver);
        if senses.led.is_some_and(|way| way.height() > 0.0) && !senses.from_above {
            charge.leaves = Some(Departure::Maneuver);
        }
        return;
    }
    if senses.state.is_held() {
        // Nothing is to be had of what holds it fast.
        return go_on(charge, senses);
    }
    moves::decide(senses, decision);
    charge.refused = &decision.refused;
    match &decision.taken {
        Some(taken) => take_charge(charge, senses, taken, begun),
        None => go_on(charge, senses),
    }
}

/// A maneuver under way goes on; wind takes who stands off its feet.
#[inline]
fn go_on<V: Geometry>(charge: &mut Charge<'_, V>, senses: &Senses<'_, V>) {
    if let Some(under_way) = charge.under_way {
        let maneuver = &under_way.maneuver;
        if maneuver.drives() || maneuver.kind == ManeuverKind::Knockback {
            charge.owner = Owner::Maneuver;
        }
        if under_way.leaves {
            charge.leaves = Some(Departure::Maneuver);
        }
    }
    if senses.push.height() > 0.0 && charge.mode == Mode::Grounded && !senses.from_above {
        let driven = charge.drives().is_some();
        if !driven && drive::is_lifted(senses, charge) {
            charge.mode = Mode::Airborne;
            charge.velocity = senses.velocity.flat() + senses.ground_velocity;
            charge.leaves = Some(Departure::Launch);
        }
    }
}

#[inline(never)]
fn take_charge<'a, V: Geometry>(
    charge: &mut Charge<'a, V>,
    senses: &Senses<'_, V>,
    taken: &'a (u8, Proposal<V>),
    begun: &'a mut Option<UnderWay<V>>,
) {
    let (_, proposal) = taken;
    charge.owner = proposal.owner;
    charge.law = proposal.law;
    charge.locks = proposal.locks;
    charge.under_way = None;
    charge.leaves = proposal.leaves;
    charge.jumps = proposal.jumps;
    if let Some(velocity) = proposal.velocity {
        charge.velocity = velocity;
    }
    match &proposal.begins {
        Some((kind, plan, direction)) if plan.phase_at(0.0) != Phase::Cooldown => {
            let direction = senses.frame.world(*direction);
            let (kind, plan) = (*kind, *plan);
            let maneuver = Maneuver { kind, plan, direction, origin: senses.state.position, age: 0.0 };
            let turning = Turning {
                intent: senses.intent,
                frame: senses.frame,
                from_above: senses.from_above,
                firm: senses.ground.firm,
                wish: senses.wish,
                dt: senses.dt,
            };
            let under_way = moves::under_way(&maneuver, &turning);
            charge.locks = under_way.locks;
            if under_way.leaves {
                charge.leaves = Some(Departure::Maneuver);
            }
            charge.under_way = Some(begun.insert(under_way));
            charge.begins = true;
        }
        // One that takes no time at all does not begin.
        Some(_) => {}
        None => charge.mode = proposal.mode,
    }
    charge.taken = Some(taken);
    if charge.locks.has(Locks::STEER) {
        charge.wish = V::ZERO;
    }
    if let Some(kind) = proposal.jumps {
        // Let go within its own tick, a press is as short as can be.
        charge.by_key = !matches!(kind, JumpKind::Move(_)) || senses.intent.pressed.has(Actions::JUMP);
        charge.cut = charge.by_key && !senses.intent.held.has(Actions::JUMP);
    }
    let stays = matches!(charge.mode, Mode::Grounded | Mode::Maneuver) || charge.begins;
    if senses.ground.firm && !stays && charge.leaves.is_none() {
        charge.leaves = match charge.mode {
            Mode::Move(_) if !keeps_to_the_ground(&charge.law) => Some(Departure::Move),
            Mode::Move(_) => None,
            _ => Some(Departure::Edge),
        };
    }
    if let Some(velocity) = proposal.velocity
        && senses.ground.firm
        && charge.leaves.is_none()
        && charge.law == Law::Usual
    {
        set_velocity_on_foot(charge, senses, velocity);
    }
}

/// Gives a move that stands and does what the body does by itself the velocity that it asks for: up from
/// the ground it leaves it, else the body goes on along the ground with it.
fn set_velocity_on_foot<V: Geometry>(charge: &mut Charge<'_, V>, senses: &Senses<'_, V>, velocity: V) {
    /// Less than this of a speed away from the ground is rounding.
    const ROUNDING: f32 = 1e-4;
    let on_ground = velocity - senses.ground_velocity;
    if on_ground.dot(senses.ground.normal) > ROUNDING * on_ground.length() {
        charge.leaves = Some(Departure::Move);
    } else {
        charge.velocity = on_ground;
    }
}

/// Whether a law leaves a body that stands on the ground that it is on.
fn keeps_to_the_ground<V: Vector>(law: &Law<V>) -> bool {
    match law {
        Law::Usual => true,
        Law::Set(set) => set.way.height() <= 0.0,
        Law::Fall(_) | Law::Toward(_) | Law::Hold { .. } => false,
    }
}
