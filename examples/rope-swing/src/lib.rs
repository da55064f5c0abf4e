//! A game's own move: swinging on a rope.
//!
//! A press in the air throws a rope up and ahead. Where it hits something, the body hangs from
//! there as long as the action is held, and swings. On release it keeps its velocity.
//!
//! This file contains the whole move: the knobs, the memory, the proposal of a tick, and a figure
//! for the sheet.

use rasant::glam::Vec2;
use rasant::level::CarrierId;
use rasant::moves::{Answer, Law, Move, MoveSet, Outcome, Proposal, Senses, SetMotion, Standard, Words};
use rasant::state::Name;
use rasant::{Actions, Controller, Departure, Geometry, Intent, Level, Piece, Refusal, Tuning};
use rasant_lab::OwnFigure;
use rasant_lab::files::TuningFile;
use rasant_lab::sheet::FigureKind;

/// The action that throws and holds the rope.
pub const ROPE: Actions = Actions::own(0);

/// The rope, followed by the library's moves.
pub static MOVES: MoveSet = MoveSet::of::<(Swing, Standard)>();

rasant::knobs! {
    /// Swinging on a rope.
    pub struct Swing {
        /// The length of the rope; 0 for no rope.
        reach: "swing.reach", Metres, 7.0, 0.0..100.0;
        /// The acceleration by which steering pumps the swing.
        pump: "swing.pump", MetresPerSecondSquared, 3.0, 0.0..100.0;
    }
}

rasant::memory! {
    /// The rope that is held.
    pub struct Rope<V> {
        /// The anchor in world coordinates, and the length of the rope.
        pub held: Option<(V, f32)>,
        /// The carrier of the anchor, which takes the rope along.
        moved_by: Option<CarrierId>,
    }
}

impl<V> Rope<V> {
    const NONE: Self = Self { held: None, moved_by: None };
}

const NAME: Name = Name::new("swing");

impl<V: Geometry> Move<V> for Swing {
    const NAME: Name = NAME;
    const WORDS: Words = Words::MODE.refusals(&[Refusal::of(NAME)]);
    type Memory = Rope<V>;

    fn actions(&self, _tuning: &Tuning) -> Actions {
        if self.reach > 0.0 { ROPE } else { Actions::NONE }
    }

    fn propose(&self, senses: &Senses<'_, V>, rope: &Rope<V>) -> Answer<V> {
        let pressed = senses.intent.pressed.contains(ROPE) && !senses.standing() && self.reach > 0.0;
        match self.holds(senses, rope).held {
            Some((anchor, length)) => self.swings(senses, anchor, length).into(),
            None if pressed => Answer::Refuses(Refusal::of(NAME)),
            None => Answer::Nothing,
        }
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, rope: &mut Rope<V>) {
        let lands = outcome.state.footing.is_firm();
        *rope = if outcome.is_mine() && !lands { self.holds(senses, rope) } else { Rope::NONE };
    }
}

impl Swing {
    /// Returns the rope that is held in this tick: the one from before, or a new one.
    fn holds<V: Geometry>(&self, senses: &Senses<'_, V>, rope: &Rope<V>) -> Rope<V> {
        if senses.maneuver().is_some() || !senses.intent.held.contains(ROPE) {
            return Rope::NONE;
        }
        if let Some((anchor, length)) = rope.held {
            let here = senses.frame.local_point(anchor);
            let moved = rope.moved_by.map_or(V::ZERO, |carrier| senses.displacement(carrier, here));
            return Rope { held: Some((senses.frame.world_point(here + moved), length)), ..*rope };
        }
        if !senses.intent.pressed.contains(ROPE) || senses.standing() {
            return Rope::NONE;
        }
        let hands = senses.hull.middle::<V>();
        let ahead =
            senses.heading() * std::f32::consts::FRAC_1_SQRT_2 + V::UP * std::f32::consts::FRAC_1_SQRT_2;
        let Some(hit) = senses.look(hands, ahead * self.reach) else { return Rope::NONE };
        let held = Some((senses.frame.world_point(hit.point), (hit.point - hands).length()));
        Rope { held, moved_by: hit.tag.carrier }
    }

    /// Computes a tick of a pendulum. The rope only pulls: closer to its anchor the body falls
    /// freely. While the rope is taut, the speed follows from the height, so the energy is constant
    /// at every tick rate, except for pumping.
    fn swings<V: Geometry>(&self, senses: &Senses<'_, V>, anchor: V, length: f32) -> Proposal<V> {
        /// Substeps of a tick.
        const PARTS: usize = 8;
        let gravity = senses.tuning.gravity() * senses.tuning.fall.gravity;
        let dt = senses.dt / PARTS as f32;
        let anchor = senses.frame.local_point(anchor);
        let hands = senses.hull.middle::<V>();
        let from = senses.velocity_in_world();
        let (mut at, mut velocity) = (hands, from);
        for _ in 0..PARTS {
            let pull = V::UP * -gravity + senses.steer * self.pump;
            let mut next = at + velocity * dt + pull * (0.5 * dt * dt);
            let mut after = velocity + pull * dt;
            let out = next - anchor;
            if out.length() >= length {
                let along = out.direction().unwrap_or(-V::UP);
                next = anchor + along * length;
                // The work of the pull along the rope's circle.
                let won = 2.0 * pull.dot(next - at);
                let speed = (velocity.length_squared() + won).max(0.0).sqrt();
                after =
                    after.slid_along(along).direction().map_or(V::ZERO, |displacement| displacement * speed);
            }
            (at, velocity) = (next, after);
        }
        let displacement = SetMotion { displacement: at - hands, from, to: velocity, gravity: false };
        let leaves = Some(Departure::Move);
        Proposal { law: Law::Set(displacement), leaves, ..Proposal::of(NAME) }
    }
}

/// The figure that the sheet measures.
pub static FIGURES: &[OwnFigure] = &[OwnFigure {
    kind: FigureKind {
        name: "swing-period",
        unit: "s",
        meaning: "The time of a swing to and fro, let go 45 degrees off a rope of half its reach.",
        groups: &["swing", "jump", "fall"],
    },
    measure: period,
}];

fn period(file: &TuningFile, dimensions: usize, rate: u32) -> Option<f64> {
    let swing = file.tuning.group::<Swing>();
    (dimensions == 2 && swing.reach > 0.0).then(|| measured(file, 0.5 * swing.reach, rate)).flatten()
}

/// Hangs a body from a beam and returns the time between two passes of the lowest point.
fn measured(file: &TuningFile, length: f32, rate: u32) -> Option<f64> {
    let mut builder = Level::builder();
    let beam = Piece::block(Vec2::new(-0.05, 0.0), Vec2::new(0.05, 0.1)).ok()?;
    builder.add(beam);
    let level = builder.build().ok()?;
    let angle = 45f32.to_radians();
    let hands = Vec2::new(-angle.sin(), -angle.cos()) * length;
    let middle = file.hull.middle::<Vec2>();
    let mut body = Controller::new(file.tuning, file.hull, hands - middle);
    let dt = 1.0 / rate as f32;
    body.tick(&Intent::default().pressing(ROPE), &level, dt);
    let (mut before, mut passes) = (hands.x, Vec::new());
    for tick in 1..20 * rate {
        body.tick(&Intent::default().holding(ROPE), &level, dt);
        let now = body.position().x;
        if before * now < 0.0 {
            let share = before / (before - now);
            passes.push(f64::from(tick as f32 + share) * f64::from(dt));
        }
        before = now;
    }
    (passes.len() > 2).then(|| passes[2] - passes[0])
}
