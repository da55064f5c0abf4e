//! The list of moves, as a type.

use alloc::vec::Vec;
use core::any::Any;
use core::cell::RefCell;
use core::fmt;
use core::marker::PhantomData;

use glam::{Vec2, Vec3};
use smallvec::SmallVec;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::state::{Events, Memories, Name, Refusal, State, Tag, Tags};
use crate::tuning::{Knob, KnobTable, Own, Tuning};

use super::{
    Answer, Dash, DropDown, Glide, Hop, Jump, KnobsIn, Ladder, Ledge, Memory, Move, MoveWords, Outcome,
    Proposal, Roll, Senses, Slam, Swim, WallSlide,
};

/// The moves of the library, in the order in which they are asked.
pub type Standard =
    crate::moves![Hop, Roll, Dash, Slam, Ladder, Ledge, Swim, DropDown, Jump, WallSlide, Glide];

/// Moves in an order: `()` for none, `(Move, Rest)` for one before a list, and
/// [`Then<List, Move>`](Then) for one after a list. [`moves!`](macro@crate::moves) writes
/// longer ones.
pub trait Moves<V: Geometry>: 'static {
    /// How many words their memories take.
    const WORDS: usize;

    /// A number for their names, in order.
    #[doc(hidden)]
    const LIST: u32;

    /// Names what they remember.
    #[doc(hidden)]
    const TAGS: Tags;

    /// What they can be tuned by, beside the fields of a tuning.
    const KNOBS: &'static KnobTable;

    /// Adds the words of each move.
    #[doc(hidden)]
    fn words(all: &mut Vec<MoveWords>);

    /// Adds the name and the actions of each move that has actions with these numbers.
    #[doc(hidden)]
    fn controls(tuning: &Tuning, at: &mut Place, all: &mut Vec<(Name, Actions)>);

    /// Asks each in turn, until one takes charge; says whether one does.
    #[doc(hidden)]
    fn ask(senses: &Senses<'_, V>, at: &mut Place, decision: &mut Decision<V>) -> bool;

    /// Lets each keep what it remembers.
    #[doc(hidden)]
    fn remember(senses: &Senses<'_, V>, taken: &Taken<'_, V>, at: &mut Place, state: &mut State<V>);
}

/// A list of moves, and one that is asked after them.
#[derive(Debug)]
pub struct Then<L, M>(PhantomData<(L, M)>);

/// Writes a list of moves from their names, in the order in which they are asked.
///
/// ```
/// use rasant::moves::{Jump, WallSlide};
/// use rasant::moves::MoveSet;
/// use rasant::Tuning;
///
/// static NO_MORE: MoveSet = MoveSet::of::<rasant::moves![Jump, WallSlide]>();
/// let jumps_and_slides = Tuning::default().with_moves(&NO_MORE);
/// # let _ = jumps_and_slides;
/// ```
#[macro_export]
macro_rules! moves {
    () => { () };
    ($First:ty $(, $Rest:ty)* $(,)?) => { ($First, $crate::moves![$($Rest),*]) };
}

/// Where a move stands in a list: its number, and where its knobs and memory begin.
#[doc(hidden)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Place {
    number: u8,
    knob: usize,
    word: usize,
}

/// Refusals on the way to who takes charge.
#[doc(hidden)]
pub type Refusals = SmallVec<[Refusal; 12]>;

/// What became of a tick, before it is said to each move.
#[doc(hidden)]
#[derive(Debug)]
pub struct Taken<'a, V> {
    pub(crate) events: &'a Events<V>,
    pub(crate) by: Option<u8>,
    pub(crate) began: bool,
    pub(crate) unasked: bool,
    pub(crate) landed_for: f32,
    pub(crate) locks_jump: bool,
    pub(crate) refused: &'a RefCell<Refusals>,
}

/// The knobs of a move: a field of the tuning, or the numbers of its list from the place `at` on.
#[inline(always)] // a place is known when it is compiled
fn knobs_of<V: Geometry, M: Move<V>>(tuning: &Tuning, at: usize) -> M {
    match M::KNOBS_IN {
        KnobsIn::Field(of) => *of(tuning),
        KnobsIn::List => M::read(tuning.own.values(at)),
    }
}

#[inline(always)] // a place is known when it is compiled
fn ask_one<V: Geometry, M: Move<V>>(
    senses: &Senses<'_, V>,
    at: &mut Place,
    decision: &mut Decision<V>,
) -> bool {
    let Place { number, knob, word } = *at;
    *at = past::<V, M>(*at);
    let knobs = knobs_of::<V, M>(senses.tuning, knob);
    match knobs.propose(senses, &senses.state.memories.read(word)) {
        Answer::Nothing => false,
        Answer::Refuses(what) => {
            decision.refused.push(what);
            false
        }
        Answer::Takes(proposal) => {
            decision.taken = Some(Chosen { number, name: M::NAME, proposal });
            true
        }
    }
}

#[inline(always)]
fn remember_one<V: Geometry, M: Move<V>>(
    senses: &Senses<'_, V>,
    taken: &Taken<'_, V>,
    at: &mut Place,
    state: &mut State<V>,
) {
    let Place { number, knob, word } = *at;
    *at = past::<V, M>(*at);
    let mut memory = state.memories.read(word);
    let Taken { events, by, began, unasked, landed_for, locks_jump, refused } = *taken;
    let outcome = Outcome { state, events, by, own: number, began, unasked, landed_for, locks_jump, refused };
    knobs_of::<V, M>(senses.tuning, knob).remember(senses, &outcome, &mut memory);
    state.memories.write(word, &memory);
}

fn controls_of_one<V: Geometry, M: Move<V>>(tuning: &Tuning, at: &mut Place, all: &mut Vec<(Name, Actions)>) {
    let actions = knobs_of::<V, M>(tuning, at.knob).actions(tuning);
    *at = past::<V, M>(*at);
    if !actions.is_empty() {
        all.push((M::NAME, actions));
    }
}

/// The number of a list with one more move.
const fn listed(list: u32, name: Name) -> u32 {
    let sum = list.wrapping_mul(0x9E37_79B1).wrapping_add(name.hash32());
    if sum == 0 { 1 } else { sum }
}

const fn tag_of<V: Geometry, M: Move<V>>() -> Tag {
    Tag::of(M::NAME, M::Memory::WORDS)
}

/// The knobs of a move that are among the numbers of a list.
const fn listed_knobs<V: Geometry, M: Move<V>>() -> &'static [Knob] {
    match M::KNOBS_IN {
        KnobsIn::List => M::KNOBS,
        KnobsIn::Field(_) => &[],
    }
}

fn words_of<V: Geometry, M: Move<V>>() -> MoveWords {
    MoveWords { name: M::NAME, words: M::WORDS }
}

fn past<V: Geometry, M: Move<V>>(at: Place) -> Place {
    Place {
        number: at.number + 1,
        knob: at.knob + listed_knobs::<V, M>().len(),
        word: at.word + M::Memory::WORDS,
    }
}

impl<V: Geometry> Moves<V> for () {
    const WORDS: usize = 0;
    const LIST: u32 = 1;
    const TAGS: Tags = Tags::NONE;
    const KNOBS: &'static KnobTable = &KnobTable { head: None, rest: [None; 2] };

    fn words(_: &mut Vec<MoveWords>) {}

    fn controls(_: &Tuning, _: &mut Place, _: &mut Vec<(Name, Actions)>) {}

    fn ask(_: &Senses<'_, V>, _: &mut Place, _: &mut Decision<V>) -> bool {
        false
    }

    fn remember(_: &Senses<'_, V>, _: &Taken<'_, V>, _: &mut Place, _: &mut State<V>) {}
}

impl<V: Geometry, M: Move<V>, L: Moves<V>> Moves<V> for (M, L) {
    const WORDS: usize = M::Memory::WORDS + L::WORDS;
    const LIST: u32 = listed(L::LIST, M::NAME);
    const TAGS: Tags = Tags::NONE.with(tag_of::<V, M>()).then(L::TAGS);
    const KNOBS: &'static KnobTable =
        &KnobTable { head: Some(listed_knobs::<V, M>()), rest: [Some(L::KNOBS), None] };

    fn words(all: &mut Vec<MoveWords>) {
        all.push(words_of::<V, M>());
        L::words(all);
    }

    fn controls(tuning: &Tuning, at: &mut Place, all: &mut Vec<(Name, Actions)>) {
        controls_of_one::<V, M>(tuning, at, all);
        L::controls(tuning, at, all);
    }

    #[inline(always)]
    fn ask(senses: &Senses<'_, V>, at: &mut Place, decision: &mut Decision<V>) -> bool {
        ask_one::<V, M>(senses, at, decision) || L::ask(senses, at, decision)
    }

    #[inline(always)]
    fn remember(senses: &Senses<'_, V>, taken: &Taken<'_, V>, at: &mut Place, state: &mut State<V>) {
        remember_one::<V, M>(senses, taken, at, state);
        L::remember(senses, taken, at, state);
    }
}

impl<V: Geometry, L: Moves<V>, M: Move<V>> Moves<V> for Then<L, M>
where
    Self: 'static,
{
    const WORDS: usize = L::WORDS + M::Memory::WORDS;
    const LIST: u32 = listed(L::LIST, M::NAME);
    const TAGS: Tags = L::TAGS.with(tag_of::<V, M>());
    const KNOBS: &'static KnobTable = &KnobTable {
        head: None,
        rest: [Some(L::KNOBS), Some(&KnobTable { head: Some(listed_knobs::<V, M>()), rest: [None; 2] })],
    };

    fn words(all: &mut Vec<MoveWords>) {
        L::words(all);
        all.push(words_of::<V, M>());
    }

    fn controls(tuning: &Tuning, at: &mut Place, all: &mut Vec<(Name, Actions)>) {
        L::controls(tuning, at, all);
        controls_of_one::<V, M>(tuning, at, all);
    }

    #[inline(always)]
    fn ask(senses: &Senses<'_, V>, at: &mut Place, decision: &mut Decision<V>) -> bool {
        L::ask(senses, at, decision) || ask_one::<V, M>(senses, at, decision)
    }

    #[inline(always)]
    fn remember(senses: &Senses<'_, V>, taken: &Taken<'_, V>, at: &mut Place, state: &mut State<V>) {
        L::remember(senses, taken, at, state);
        remember_one::<V, M>(senses, taken, at, state);
    }
}

/// The move that takes charge of a tick, with what it proposes.
#[doc(hidden)]
#[derive(Debug)]
pub struct Chosen<V> {
    /// Its place in the list.
    pub(crate) number: u8,
    pub(crate) name: Name,
    pub(crate) proposal: Proposal<V>,
}

/// What moves decide of a tick.
#[doc(hidden)]
#[derive(Debug)]
pub struct Decision<V> {
    pub(crate) refused: Refusals,
    /// The move that takes charge.
    pub(crate) taken: Option<Chosen<V>>,
}

impl<V> Decision<V> {
    /// Nobody takes charge.
    pub(crate) fn none() -> Self {
        Self { refused: Refusals::new(), taken: None }
    }
}

/// The two ends of a tick that a list of moves has a part in, and its actions.
struct Ends<V: Geometry> {
    tags: Tags,
    words: fn() -> Vec<MoveWords>,
    controls: fn(&Tuning) -> Vec<(Name, Actions)>,
    decide: fn(&Senses<'_, V>, &mut Decision<V>),
    remember: fn(&Senses<'_, V>, &Taken<'_, V>, &mut State<V>),
}

impl<V: Geometry> Ends<V> {
    const fn of<L: Moves<V>>() -> Self {
        Self {
            tags: L::TAGS,
            words: words_by::<V, L>,
            controls: controls_by::<V, L>,
            decide: decide_by::<V, L>,
            remember: remember_by::<V, L>,
        }
    }
}

fn words_by<V: Geometry, L: Moves<V>>() -> Vec<MoveWords> {
    let mut all = Vec::new();
    L::words(&mut all);
    all
}

fn controls_by<V: Geometry, L: Moves<V>>(tuning: &Tuning) -> Vec<(Name, Actions)> {
    let mut all = Vec::new();
    L::controls(tuning, &mut Place::default(), &mut all);
    all
}

#[inline(always)] // for ours, into the tick
fn decide_by<V: Geometry, L: Moves<V>>(senses: &Senses<'_, V>, decision: &mut Decision<V>) {
    L::ask(senses, &mut Place::default(), decision);
}

#[inline(always)]
fn remember_by<V: Geometry, L: Moves<V>>(senses: &Senses<'_, V>, taken: &Taken<'_, V>, state: &mut State<V>) {
    L::remember(senses, taken, &mut Place::default(), state);
}

/// The ends of a tuning's own list; nothing for ours.
fn ends<V: Geometry>(tuning: &Tuning) -> Option<&'static Ends<V>> {
    tuning.own.table?;
    tuning.own.moves.into_iter().flatten().find_map(|moves| moves.downcast_ref())
}

/// Puts the memories of a state where the tuning's list of moves has them.
pub(crate) fn arrange<V: Geometry>(tuning: &Tuning, state: &mut State<V>) {
    match ends::<V>(tuning) {
        Some(ends) => state.memories.arrange(&ends.tags),
        None => state.memories.arrange(&<Standard as Moves<V>>::TAGS),
    }
}

/// Asks the tuning's moves who takes charge of a tick.
pub(crate) fn decide<V: Geometry>(senses: &Senses<'_, V>, decision: &mut Decision<V>) {
    match ends(senses.tuning) {
        Some(ends) => (ends.decide)(senses, decision),
        None => decide_by::<V, Standard>(senses, decision),
    }
}

/// Lets the tuning's moves remember a tick.
pub(crate) fn remember<V: Geometry>(senses: &Senses<'_, V>, taken: &Taken<'_, V>, state: &mut State<V>) {
    match ends(senses.tuning) {
        Some(ends) => (ends.remember)(senses, taken, state),
        None => remember_by::<V, Standard>(senses, taken, state),
    }
}

/// A list of moves that tunings can be for: made once, as a `static`.
pub struct MoveSet {
    list: u32,
    knobs: &'static KnobTable,
    moves: [Option<&'static (dyn Any + Send + Sync)>; 2],
}

/// The ends of a list, made once.
struct EndsOf<V, L>(PhantomData<(V, L)>);

impl<V: Geometry, L: Moves<V>> EndsOf<V, L> {
    const ENDS: &'static Ends<V> = {
        assert!(L::WORDS <= Memories::WORDS, "the moves of a list remember more than a state has room for");
        assert!(L::KNOBS.len() <= Own::MAX, "the moves of a list have more knobs than a tuning has room for");
        &Ends::of::<L>()
    };
}

impl fmt::Debug for MoveSet {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("MoveSet").field("knobs", self.knobs).finish_non_exhaustive()
    }
}

impl MoveSet {
    /// A list for both two and three dimensions.
    #[must_use]
    pub const fn of<L: Moves<Vec2> + Moves<Vec3>>() -> Self {
        Self {
            list: <L as Moves<Vec2>>::LIST,
            knobs: <L as Moves<Vec2>>::KNOBS,
            moves: [Some(EndsOf::<Vec2, L>::ENDS), Some(EndsOf::<Vec3, L>::ENDS)],
        }
    }

    /// A list for two dimensions; in three its tunings have the standard one.
    #[must_use]
    pub const fn in_plane<L: Moves<Vec2>>() -> Self {
        Self { list: L::LIST, knobs: L::KNOBS, moves: [Some(EndsOf::<Vec2, L>::ENDS), None] }
    }

    /// A list for three dimensions; in two its tunings have the standard one.
    #[must_use]
    pub const fn in_space<L: Moves<Vec3>>() -> Self {
        Self { list: L::LIST, knobs: L::KNOBS, moves: [None, Some(EndsOf::<Vec3, L>::ENDS)] }
    }
}

impl<V: Geometry> State<V> {
    /// What a move of the list keeps from tick to tick: for drawing a rope, or a bar of stamina. As at
    /// first where the last tick was by a list without this move.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::moves::Glide;
    /// use rasant::State;
    /// use rasant::state::Span;
    ///
    /// let state = State::at(Vec2::ZERO);
    /// let glided: Span = state.memory::<Glide>();
    /// assert_eq!(glided.seconds(), 0.0);
    /// ```
    #[must_use]
    pub fn memory<M: Move<V>>(&self) -> M::Memory {
        self.memories.find(tag_of::<V, M>())
    }

    /// Replaces what a move of the list keeps: to give back a jump in the air, or to fill a store of
    /// dashes. Returns false, and changes nothing, where the last tick was by a list without this
    /// move. A state that has had no tick has the memories of the moves of the library.
    ///
    /// ```
    /// use rasant::State;
    /// use rasant::glam::Vec2;
    /// use rasant::moves::{Dash, Dashes};
    ///
    /// let mut state = State::at(Vec2::ZERO);
    /// let full = Dashes { spent: 0, ..state.memory::<Dash>() };
    /// assert!(state.set_memory::<Dash>(full));
    /// ```
    pub fn set_memory<M: Move<V>>(&mut self, memory: M::Memory) -> bool {
        if !self.memories.is_arranged() {
            self.memories.arrange(&<Standard as Moves<V>>::TAGS);
        }
        self.memories.replace(tag_of::<V, M>(), &memory)
    }
}

impl Tuning {
    /// The moves of the tuning's list that actions start or keep going, in the order in
    /// which they are asked, each with its actions: for help screens and touch controls.
    /// What is switched off by a knob is left out. Steering, running and crouching are
    /// not moves, and are not in the list.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Actions, Tuning};
    ///
    /// let mut tuning = Tuning::default();
    /// tuning.set("roll.action", 2.0)?;
    /// let roll = tuning.controls::<Vec2>().into_iter().find(|(name, _)| *name == "roll");
    /// assert_eq!(roll.map(|(_, actions)| actions), Some(Actions::own(2)));
    /// # Ok::<(), rasant::tuning::KnobError>(())
    /// ```
    #[must_use]
    pub fn controls<V: Geometry>(&self) -> Vec<(Name, Actions)> {
        match ends::<V>(self) {
            Some(ends) => (ends.controls)(self),
            None => controls_by::<V, Standard>(self),
        }
    }

    /// The words of the moves of the tuning's list, in the order in which they are asked: for
    /// scripts, traces, documents and screens.
    ///
    /// ```
    /// use rasant::Tuning;
    /// use rasant::glam::Vec2;
    ///
    /// let moves = Tuning::default().words::<Vec2>();
    /// let dash = moves.iter().find(|known| known.name == "dash").expect("it is one of the library's");
    /// assert!(dash.words.is_maneuver && dash.words.refusals.iter().any(|what| what.is("dash", "empty")));
    /// ```
    #[must_use]
    pub fn words<V: Geometry>(&self) -> Vec<MoveWords> {
        match ends::<V>(self) {
            Some(ends) => (ends.words)(),
            None => words_by::<V, Standard>(),
        }
    }

    /// The tuning for another list of moves. Knobs of moves that it had before keep
    /// their values, the others begin with their defaults.
    #[must_use]
    pub fn with_moves(self, moves: &MoveSet) -> Self {
        self.with_table(moves.knobs, moves.moves, moves.list)
    }
}
