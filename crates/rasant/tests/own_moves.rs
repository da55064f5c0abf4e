//! Six moves of a game's own in one list, by public calls only: a grapple, a rail, a slide, a charged
//! jump, a climb that tires, and a run along walls.

use crate::common::grammar::Grammar;
use crate::common::{Dice, Run, blocks, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::{
    Answer, Fall, Law, Move, MoveSet, Outcome, Proposal, Senses, SetMotion, Standard, Toward,
};
use rasant::state::{Memories, Name, Span};
use rasant::{Actions, Event, Gait, Geometry, Intent, Level, Mode, Refusal, Tuning};

/// Kinds of marks that the host keeps.
const ANCHORS: u16 = 0;
const RAIL: u16 = 1;

const GRAPPLE: Actions = Actions::own(0);
const CHARGE: Actions = Actions::own(1);
const CLIMB: Actions = Actions::own(2);

type All = (Grapple, (Rail, (Slide, (Charged, (Climb, (WallRun, Standard))))));
static ALL: MoveSet = MoveSet::of::<All>();
static SOME: MoveSet = MoveSet::of::<(Climb, (Grapple, Standard))>();

fn tuning() -> Tuning {
    Tuning::default().with_moves(&ALL)
}

rasant::knobs! {
    /// Pulled to an anchor while its action is held.
    struct Grapple {
        /// How far an anchor may be.
        reach: "grapple.reach", Metres, 9.0, 0.0..100.0;
        /// The speed toward it.
        speed: "grapple.speed", MetresPerSecond, 12.0, 0.0..100.0;
    }
}

rasant::memory! {
    struct Hook<V> {
        /// In the world.
        anchor: Option<V>,
    }
}

impl Grapple {
    fn anchor<V: Geometry>(&self, senses: &Senses<'_, V>, hook: &Hook<V>) -> Option<V> {
        if !senses.intent.held.contains(GRAPPLE) || senses.maneuver().is_some() {
            return None;
        }
        if let Some(anchor) = hook.anchor {
            return Some(senses.frame.local_point(anchor));
        }
        let near = |a: &V, b: &V| a.length_squared().total_cmp(&b.length_squared());
        let pressed = senses.intent.pressed.contains(GRAPPLE);
        senses.marks(ANCHORS).filter(|anchor| pressed && anchor.length() < self.reach).min_by(near)
    }
}

impl<V: Geometry> Move<V> for Grapple {
    const NAME: Name = Name::new("grapple");
    type Memory = Hook<V>;

    fn propose(&self, senses: &Senses<'_, V>, hook: &Hook<V>) -> Answer<V> {
        let Some(anchor) = self.anchor(senses, hook) else {
            let pressed = senses.intent.pressed.contains(GRAPPLE);
            return if pressed {
                Answer::Refuses(Refusal::of(<Self as Move<V>>::NAME))
            } else {
                Answer::Nothing
            };
        };
        let to = anchor - senses.hull.middle::<V>();
        let along = to.direction().unwrap_or(V::ZERO);
        let displacement = along * (self.speed * senses.dt).min(to.length());
        let law = Law::Set(SetMotion {
            displacement,
            from: along * self.speed,
            to: along * self.speed,
            gravity: false,
        });
        Proposal { law, ..Proposal::of(<Self as Move<V>>::NAME) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, hook: &mut Hook<V>) {
        let held = self.anchor(senses, hook).filter(|_| outcome.is_mine());
        hook.anchor = held.map(|anchor| senses.frame.world_point(anchor));
    }
}

rasant::knobs! {
    /// Down a rail of marks, once the feet come down on it.
    struct Rail {
        /// The speed along it.
        speed: "rail.speed", MetresPerSecond, 8.0, 0.0..100.0;
    }
}

rasant::memory! {
    struct OnRail {
        /// How far it is along the rail, and a metre; 0 when it is on none.
        along: f32,
    }
}

/// The point of a line of marks at a distance from its beginning; nothing past its end.
fn point_at<V: Geometry>(marks: &[V], mut along: f32) -> Option<V> {
    for pair in marks.windows(2) {
        let (displacement, length) = (pair[1] - pair[0], (pair[1] - pair[0]).length());
        if along <= length {
            return Some(pair[0] + displacement * (along / length));
        }
        along -= length;
    }
    None
}

impl Rail {
    /// The position on the rail in this tick: from before, or where the body lands on it.
    fn along<V: Geometry>(senses: &Senses<'_, V>, rail: &OnRail, marks: &[V]) -> Option<f32> {
        if rail.along > 0.0 {
            return Some(rail.along - 1.0);
        }
        let falls = senses.velocity.height() < 0.0 && !senses.standing() && senses.maneuver().is_none();
        let near = 0.3;
        (0..200)
            .map(|step| step as f32 * 0.2)
            .find(|&along| falls && point_at(marks, along).is_some_and(|point| point.length() < near))
    }
}

impl<V: Geometry> Move<V> for Rail {
    const NAME: Name = Name::new("rail");
    type Memory = OnRail;

    fn propose(&self, senses: &Senses<'_, V>, rail: &OnRail) -> Answer<V> {
        let name = <Self as Move<V>>::NAME;
        let marks: Vec<V> = senses.marks(RAIL).collect();
        let Some(along) = Self::along(senses, rail, &marks) else { return Answer::Nothing };
        let next = along + self.speed * senses.dt;
        let (Some(here), Some(to)) = (point_at(&marks, along), point_at(&marks, next)) else {
            return Answer::Nothing;
        };
        let velocity = (to - here) * (1.0 / senses.dt);
        if senses.intent.pressed.contains(Actions::JUMP) {
            return Proposal::jump_off(name, velocity + V::UP * 6.0).into();
        }
        Proposal { law: Law::Hold { displacement: to, velocity, lands: false }, ..Proposal::of(name) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, rail: &mut OnRail) {
        let marks: Vec<V> = senses.marks(RAIL).collect();
        let jumps = outcome.events.iter().any(|event| matches!(event, Event::Jumped { .. }));
        let along = Self::along(senses, rail, &marks).filter(|_| outcome.is_mine() && !jumps);
        rail.along = along.map_or(0.0, |along| along + self.speed * senses.dt + 1.0);
    }
}

rasant::knobs! {
    /// A slide along the ground, pressed by crouch while running.
    struct Slide {
        /// The speed that it begins with.
        speed: "slide.speed", MetresPerSecond, 9.0, 0.0..100.0;
        /// How long it takes.
        time: "slide.time", Seconds, 0.6, 0.0..10.0;
    }
}

rasant::memory! {
    struct Sliding {
        left: f32,
    }
}

impl Slide {
    fn left<V: Geometry>(&self, senses: &Senses<'_, V>, sliding: &Sliding) -> f32 {
        let runs = senses.velocity.length() > 1.05 * senses.tuning.walk.speed;
        let begins = senses.intent.pressed.contains(Actions::CROUCH) && senses.standing() && runs;
        if begins && senses.maneuver().is_none() { self.time } else { sliding.left }
    }
}

impl<V: Geometry> Move<V> for Slide {
    const NAME: Name = Name::new("slide");
    type Memory = Sliding;

    fn propose(&self, senses: &Senses<'_, V>, sliding: &Sliding) -> Answer<V> {
        let left = self.left(senses, sliding);
        let Some(ahead) = senses.velocity.flat().direction() else { return Answer::Nothing };
        if left <= 0.0 || !senses.standing() {
            return Answer::Nothing;
        }
        let speed = |left: f32| self.speed * (left / self.time).max(0.0);
        let (from, to) = (speed(left), speed(left - senses.dt));
        let displacement = SetMotion {
            displacement: ahead * (0.5 * (from + to) * senses.dt),
            from: ahead * from,
            to: ahead * to,
            gravity: true,
        };
        let height = Some(0.6 * senses.hull.height());
        Proposal { law: Law::Set(displacement), height, ..Proposal::of(<Self as Move<V>>::NAME) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, sliding: &mut Sliding) {
        let left = self.left(senses, sliding) - senses.dt;
        sliding.left = if outcome.is_mine() { left.max(0.0) } else { 0.0 };
    }
}

rasant::knobs! {
    /// A jump that is higher the longer its action is held on the ground.
    struct Charged {
        /// The height of a full one.
        height: "charged.height", Metres, 4.0, 0.0..100.0;
        /// How long that takes.
        time: "charged.time", Seconds, 0.8, 0.01..10.0;
    }
}

impl<V: Geometry> Move<V> for Charged {
    const NAME: Name = Name::new("charged");
    /// Seconds for which it has been held.
    type Memory = f32;

    fn propose(&self, senses: &Senses<'_, V>, charge: &f32) -> Answer<V> {
        if *charge <= 0.0 || !senses.standing() || senses.intent.held.contains(CHARGE) {
            return Answer::Nothing;
        }
        let height = self.height * (*charge / self.time).min(1.0);
        let up = V::UP * senses.tuning.speed_to_rise(height);
        Proposal::jump_off(<Self as Move<V>>::NAME, senses.velocity.flat() + senses.ground_velocity + up)
            .into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, charge: &mut f32) {
        let charges = outcome.state.footing.is_firm() && senses.intent.held.contains(CHARGE);
        *charge = if charges { *charge + senses.dt } else { 0.0 };
    }
}

rasant::knobs! {
    /// Up a wall while its action is held, until one is tired.
    struct Climb {
        /// The speed up.
        speed: "climb.speed", MetresPerSecond, 2.0, 0.0..100.0;
        /// Seconds until it is tired.
        stamina: "climb.stamina", Seconds, 1.5, 0.0..100.0;
    }
}

impl Climb {
    fn wall<V: Geometry>(&self, senses: &Senses<'_, V>, tired: f32) -> bool {
        let near = 4.0 * senses.hull.clearance();
        senses.intent.held.contains(CLIMB)
            && tired < self.stamina
            && senses.maneuver().is_none()
            && senses
                .sweep(V::ZERO, senses.heading() * near)
                .is_some_and(|hit| hit.normal.height().abs() < 0.1)
    }
}

impl<V: Geometry> Move<V> for Climb {
    const NAME: Name = Name::new("climb");
    /// Seconds that it has climbed since it stood.
    type Memory = f32;

    fn propose(&self, senses: &Senses<'_, V>, tired: &f32) -> Answer<V> {
        if !self.wall(senses, *tired) {
            return Answer::Nothing;
        }
        let toward = Toward { velocity: V::UP * self.speed, time: 0.1, speed: self.speed, lands: false };
        Proposal { law: Law::Toward(toward), ..Proposal::of(<Self as Move<V>>::NAME) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, tired: &mut f32) {
        if outcome.is_mine() {
            *tired += senses.dt;
        } else if outcome.state.footing.is_firm() {
            *tired = 0.0;
        }
    }
}

rasant::knobs! {
    /// Slowly down along a wall that is beside, while run is held.
    struct WallRun {
        /// How long, between two landings.
        time: "wall_run.time", Seconds, 0.8, 0.0..10.0;
    }
}

impl<V: Geometry> Move<V> for WallRun {
    const NAME: Name = Name::new("wall-run");
    /// How long it has run since it stood.
    type Memory = Span;

    fn propose(&self, senses: &Senses<'_, V>, ran: &Span) -> Answer<V> {
        let near = 0.4;
        let heading = senses.heading();
        let beside = if V::DIMENSION == 3 { heading.turned(std::f32::consts::FRAC_PI_2) } else { heading };
        let is_beside = [beside, -beside].iter().any(|side| senses.sweep(V::ZERO, *side * near).is_some());
        let runs =
            senses.intent.held.contains(Actions::RUN) && !senses.standing() && senses.maneuver().is_none();
        if !runs || !is_beside || ran.seconds() >= self.time {
            return Answer::Nothing;
        }
        let fall = Fall { gravity: 0.1, ..Fall::default() };
        Proposal { law: Law::Fall(fall), ..Proposal::of(<Self as Move<V>>::NAME) }.into()
    }

    fn remember(&self, senses: &Senses<'_, V>, outcome: &Outcome<'_, V>, ran: &mut Span) {
        if outcome.is_mine() {
            *ran += senses.span;
        } else if senses.standing() {
            *ran = Span::ZERO;
        }
    }
}

/// A floor with walls, anchors over it, and a rail that leads down across it.
fn yard<V: Geometry>() -> Level<V> {
    let mut level = blocks::<V>(&[
        ([-12.0, -1.0, -12.0], [12.0, 0.0, 12.0]),
        ([4.0, 0.0, -12.0], [6.0, 5.0, 12.0]),
        ([-12.0, 0.0, -12.0], [-9.0, 8.0, 12.0]),
    ]);
    level.set_marks(ANCHORS, vec![V::from_array([-3.0, 6.0, 0.0]), V::from_array([1.0, 7.0, 1.0])]);
    level.set_marks(
        RAIL,
        vec![V::from_array([-8.0, 3.0, 0.0]), V::from_array([0.0, 2.0, 0.0]), V::from_array([3.0, 1.0, 0.0])],
    );
    level
}

#[test]
fn each_of_six_own_moves_has_its_effect() {
    fn check<V: Geometry>() {
        let level = yard::<V>();
        for rate in [30, 60, 144] {
            let start = |at: [f32; 3]| {
                let mut run = Run::new(tuning(), capsule(), V::from_array(at), rate);
                run.body.find_footing(&level);
                run
            };
            let name = |name: &str| Mode::Move(Name::new(name.to_owned().leak()));
            // To the nearest anchor, and it stays there.
            let mut run = start([-4.0, 0.005, 0.0]);
            run.tick(&level, Intent::default().pressing(GRAPPLE));
            run.run(&level, 1.0, Intent::default().holding(GRAPPLE));
            let anchor = run.body.state().memory::<Grapple>().anchor.unwrap();
            let middle = run.body.position() + run.body.hull.middle::<V>();
            assert!((middle - anchor).length() < 0.05, "{middle:?} {anchor:?}");
            // Down the rail to its end.
            let mut run = start([-6.0, 4.0, 0.0]);
            run.run(&level, 0.5, Intent::default());
            assert_eq!(run.body.state().mode, name("rail"));
            assert!(run.body.state().memory::<Rail>().along > 1.0);
            assert!((run.body.velocity().length() - 8.0).abs() < 0.1);
            run.run(&level, 2.0, Intent::default());
            assert!(run.body.position().component(0) > 2.9, "{:?}", run.body.position());
            // A slide of half the speed times the time.
            let mut run = start([-6.0, 0.005, 0.0]);
            let runs = Intent::steering(1.0, 0.0).holding(Actions::RUN);
            run.run(&level, 0.5, runs);
            let from = run.body.position().component(0);
            run.tick(&level, Intent::default().pressing(Actions::CROUCH));
            run.run(&level, 0.6 - 1.0 / rate as f32, Intent::default().holding(Actions::CROUCH));
            let slid = run.body.position().component(0) - from;
            assert!((slid - 2.7).abs() < 0.06, "{slid} m at {rate}/s");
            // A jump as high as it was charged.
            let mut run = start([0.0, 0.005, 0.0]);
            run.run(&level, 0.4, Intent::default().holding(CHARGE));
            run.run(&level, 1.0, Intent::default());
            assert_eq!(run.jumps(), [Name::new("charged")]);
            let charged = (0.4 * rate as f32).round() / rate as f32;
            let (rose, expected) = (run.apex().unwrap().height() - 0.005, 4.0 * charged / 0.8);
            assert!((rose - expected).abs() < 0.01, "{rose} m");
            // Up a wall until it is tired.
            let mut run = start([3.6, 0.005, 0.0]);
            run.run(&level, 0.3, Intent::steering(1.0, 0.0));
            run.run(&level, 1.45, Intent::steering(1.0, 0.0).holding(CLIMB));
            assert_eq!(run.body.state().mode, name("climb"));
            let climbed = run.body.position().height();
            assert!((2.6..3.0).contains(&climbed), "{climbed} m");
            run.run(&level, 0.4, Intent::steering(1.0, 0.0).holding(CLIMB));
            assert!(run.body.velocity().height() < 0.0, "it is tired");
            // A tenth of gravity along a wall.
            let mut run = start([3.64, 4.0, 0.0]);
            let along = if V::DIMENSION == 3 { Intent::steering(0.0, 1.0) } else { Intent::default() };
            run.run(&level, 0.6, along.holding(Actions::RUN));
            let fell = 4.0 - run.body.position().height();
            let expected = 0.5 * 0.1 * tuning().gravity() * 0.36;
            assert!((fell - expected).abs() < 0.05, "{fell} m, not {expected}");
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Their memories fill what a state has for them to the last word.
#[test]
fn six_memories_fit_and_outlive_a_change_of_the_list() {
    assert_eq!(Memories::WORDS - Memories::OURS, 4 + 5);
    fn check<V: Geometry>() {
        let level = yard::<V>();
        let mut run = Run::new(tuning(), capsule(), V::from_array([-4.0, 0.005, 0.0]), 60);
        run.body.find_footing(&level);
        run.tick(&level, Intent::default().pressing(GRAPPLE));
        run.run(&level, 0.1, Intent::default().holding(GRAPPLE));
        let anchor = run.body.state().memory::<Grapple>().anchor;
        assert!(anchor.is_some());
        // Another position in another list; the pull continues.
        run.body.tuning = run.body.tuning.with_moves(&SOME);
        run.run(&level, 0.1, Intent::default().holding(GRAPPLE));
        assert_eq!(run.body.state().memory::<Grapple>().anchor, anchor);
        assert_eq!(run.body.state().memory::<Climb>(), 0.0);
        assert_eq!(run.body.state().mode, Mode::Move(Name::new("grapple")));
        assert_eq!(run.count("move-ended"), 0);
        // A list without it forgets the memory, and the body is released.
        run.body.tuning = Tuning::default();
        run.run(&level, 0.1, Intent::default().holding(GRAPPLE));
        assert_eq!((run.body.state().memory::<Grapple>().anchor, run.count("move-ended")), (None, 1));
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn random_lives_with_six_own_moves_keep_to_the_grammar() {
    fn check<V: Geometry>() {
        let level = yard::<V>();
        let mut seen = std::collections::BTreeSet::new();
        for life in 0..160 {
            let mut dice = Dice(life);
            let rate = [30, 60, 144][dice.below(3)];
            let hull = [capsule(), upright_box()][dice.below(2)];
            let mut run = Run::new(tuning(), hull, V::from_array([dice.number(-7.0, 3.0), 4.0, 0.0]), rate);
            let mut grammar = Grammar::of(run.body.state());
            let (mut steer, mut forward, mut held) = (0.0, 0.0, Actions::NONE);
            for tick in 0..rate * 8 {
                let before = held;
                // At first it runs, and then slides.
                if tick < 2 * rate {
                    (steer, held) =
                        (-1.0, Actions::RUN | if tick > rate { Actions::CROUCH } else { Actions::NONE });
                } else if dice.below(rate as usize / 3) == 0 {
                    (steer, forward) = (dice.number(-1.5, 1.5), dice.number(-1.0, 1.0));
                    let all = [GRAPPLE, CHARGE, CLIMB, Actions::RUN, Actions::CROUCH, Actions::JUMP];
                    held = all
                        .into_iter()
                        .filter(|_| dice.below(2) == 0)
                        .fold(Actions::NONE, |sum, one| sum | one);
                }
                let (pressed, released) = (held.difference(before), before.difference(held));
                let events = run.events.len();
                run.tick(&level, Intent { held, pressed, released, ..Intent::steering(steer, forward) });
                for (_, event) in &run.events[events..] {
                    assert_eq!(grammar.hear(event), None, "life {life}: {event:?}");
                }
                let state = run.body.state();
                assert_eq!(grammar.agrees(state), None, "life {life}");
                assert!(state.is_finite());
                if let Gait::Move(name) = state.animation.gait {
                    seen.insert(name);
                }
            }
        }
        for name in ["grapple", "rail", "slide", "climb", "wall-run"] {
            assert!(seen.contains(&Name::new(name.to_owned().leak())), "never {name}: {seen:?}");
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Throws itself up from the ground, or along it, by the velocity of an ordinary tick.
#[derive(Clone, Copy, Default)]
struct Push;

impl rasant::tuning::Knobs for Push {
    const KNOBS: &'static [rasant::tuning::Knob] = &[];
    fn read(_: &[f32]) -> Self {
        Self
    }
    fn write(&self, _: &mut [f32]) {}
    fn slot(&mut self, _: &str) -> Option<&mut f32> {
        None
    }
}

impl<V: Geometry> Move<V> for Push {
    const NAME: Name = Name::new("push");
    type Memory = ();

    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        let velocity = if senses.intent.pressed.contains(CHARGE) {
            V::UP * 8.0
        } else if senses.intent.pressed.contains(CLIMB) {
            V::RIGHT * 8.0 + senses.ground_velocity
        } else {
            return Answer::Nothing;
        };
        Proposal { velocity: Some(velocity), ..Proposal::of(<Self as Move<V>>::NAME) }.into()
    }
}

#[test]
fn a_velocity_that_is_set_on_the_ground_is_reached() {
    static PUSH: MoveSet = MoveSet::of::<(Push, Standard)>();
    fn check<V: Geometry>() {
        let level = yard::<V>();
        for rate in [30, 60, 144] {
            let mut run = Run::new(Tuning::default().with_moves(&PUSH), capsule(), V::UP * 0.005, rate);
            run.body.find_footing(&level);
            run.tick(&level, Intent::default().pressing(CHARGE));
            run.run(&level, 1.0, Intent::default());
            let expected = 64.0 / (2.0 * run.body.tuning.gravity());
            assert!((run.apex().unwrap().height() - 0.005 - expected).abs() < 0.01, "{:?}", run.apex());
            let before = run.body.position();
            run.tick(&level, Intent::default().pressing(CLIMB));
            run.run(&level, 1.0, Intent::default());
            // It brakes like a walking body.
            let tuning = run.body.tuning;
            let expected = 8.0 * 8.0 / (2.0 * tuning.walk.speed / tuning.walk.stop_time);
            let slid = run.body.position().component(0) - before.component(0);
            assert!((slid - expected).abs() < 0.02, "{slid} m, not {expected}");
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// What serde cannot read is not lost in silence.
#[cfg(feature = "serde")]
#[test]
fn a_tuning_read_by_serde_keeps_the_numbers_of_its_own_moves() {
    let mut before = tuning();
    before.set("grapple.reach", 4.5).unwrap();
    let text = serde_json::to_string(&before).unwrap();
    let read: Tuning = serde_json::from_str(&text).unwrap();
    assert!(read.is_detached() && read != before, "it has no moves");
    assert!(read.checked().unwrap_err().to_string().contains("with_moves"));
    let whole = read.with_moves(&ALL);
    assert_eq!(whole, before);
    assert_eq!(whole.get("grapple.reach"), Ok(4.5));
    assert_eq!(whole.checked(), Ok(()));
    // Another list does not take numbers that are not its own.
    assert_eq!(read.with_moves(&SOME).get("grapple.reach"), Ok(9.0));
}
