//! Lists of moves, as types.

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

/// The moves of the library, in the order in which they are consulted.
pub type Standard =
    crate::moves![Hop, Roll, Dash, Slam, Ladder, Ledge, Swim, DropDown, Jump, WallSlide, Glide];

/// A list of moves in an order: `()` for none, `(Move, Rest)` for a move before a list, and
/// [`Then<List, Move>`](Then) for a move after a list. [`moves!`](macro@crate::moves) writes longer
/// ones.
pub trait Moves<V: Geometry>: 'static {
    /// The number of words of all their memories.
    const WORDS: usize;

    /// A hash of their names, in order.
    #[doc(hidden)]
    const LIST: u32;

    /// Identifies their memories.
    #[doc(hidden)]
    const TAGS: Tags;

    /// The knobs of moves that are not fields of a tuning.
    const KNOBS: &'static KnobTable;

    /// Appends the words of each move.
    #[doc(hidden)]
    fn words(all: &mut Vec<MoveWords>);

    /// Appends the name and the actions of each move that has actions with this tuning.
    #[doc(hidden)]
    fn controls(tuning: &Tuning, at: &mut Place, all: &mut Vec<(Name, Actions)>);

    /// Consults each move in turn, until one takes charge. Returns true if one does.
    #[doc(hidden)]
    fn ask(senses: &Senses<'_, V>, at: &mut Place, decision: &mut Decision<V>) -> bool;

    /// Lets each move update its memory.
    #[doc(hidden)]
    fn remember(senses: &Senses<'_, V>, chosen: &TickOutcome<'_, V>, at: &mut Place, state: &mut State<V>);
}

/// A list of moves, and a move that is consulted after them.
#[derive(Debug)]
pub struct Then<L, M>(PhantomData<(L, M)>);

/// Writes a list of moves from their names, in the order in which they are consulted.
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

/// The position of a move in a list: its number, and where its knobs and memory begin.
#[doc(hidden)]
#[derive(Clone, Copy, Debug, Default)]
pub struct Place {
    number: u8,
    knob: usize,
    word: usize,
}

/// The refusals of a tick.
#[doc(hidden)]
pub type Refusals = SmallVec<[Refusal; 12]>;

/// The outcome of a tick, before each move sees it.
#[doc(hidden)]
#[derive(Debug)]
pub struct TickOutcome<'a, V> {
    pub(crate) events: &'a Events<V>,
    pub(crate) by: Option<u8>,
    pub(crate) began: bool,
    pub(crate) none_consulted: bool,
    pub(crate) landed_for: f32,
    pub(crate) mutes_jump: bool,
    pub(crate) refused: &'a RefCell<Refusals>,
}

/// The knobs of a move: a field of the tuning, or the values of its list from index `at` on.
#[inline(always)] // a place is known when it is compiled
fn knobs_of<V: Geometry, M: Move<V>>(tuning: &Tuning, at: usize) -> M {
    match M::KNOBS_IN {
        KnobsIn::Field(of) => *of(tuning),
        KnobsIn::List => M::read(tuning.own.values(at)),
    }
}

#[inline(always)] // a place is known when it is compiled
fn consult_one<V: Geometry, M: Move<V>>(
    senses: &Senses<'_, V>,
    at: &mut Place,
    decision: &mut Decision<V>,
) -> bool {
    let Place { number, knob, word } = *at;
    *at = past::<V, M>(*at);
    let knobs = knobs_of::<V, M>(senses.tuning, knob);
    if !knobs.is_enabled() {
        return false;
    }
    match knobs.propose(senses, &senses.state.memories.read(word)) {
        Answer::Nothing => false,
        Answer::Refuses(what) => {
            decision.refused.push(what);
            false
        }
        Answer::Takes(proposal) => {
            decision.chosen = Some(Chosen { number, name: M::NAME, proposal });
            true
        }
    }
}

#[inline(always)]
fn remember_one<V: Geometry, M: Move<V>>(
    senses: &Senses<'_, V>,
    chosen: &TickOutcome<'_, V>,
    at: &mut Place,
    state: &mut State<V>,
) {
    let Place { number, knob, word } = *at;
    *at = past::<V, M>(*at);
    let knobs = knobs_of::<V, M>(senses.tuning, knob);
    if !knobs.is_enabled() {
        return state.memories.write(word, &M::Memory::read(&[0; Memories::WORDS]));
    }
    let mut memory = state.memories.read(word);
    let TickOutcome { events, by, began, none_consulted, landed_for, mutes_jump, refused } = *chosen;
    let outcome =
        Outcome { state, events, by, own: number, began, none_consulted, landed_for, mutes_jump, refused };
    knobs.remember(senses, &outcome, &mut memory);
    state.memories.write(word, &memory);
}

fn controls_of_one<V: Geometry, M: Move<V>>(tuning: &Tuning, at: &mut Place, all: &mut Vec<(Name, Actions)>) {
    let knobs = knobs_of::<V, M>(tuning, at.knob);
    let actions = knobs.actions(tuning);
    *at = past::<V, M>(*at);
    if knobs.is_enabled() && !actions.is_empty() {
        all.push((M::NAME, actions));
    }
}

/// The hash of a list with one more move.
const fn listed(list: u32, name: Name) -> u32 {
    let sum = list.wrapping_mul(0x9E37_79B1).wrapping_add(name.hash32());
    if sum == 0 { 1 } else { sum }
}

const fn tag_of<V: Geometry, M: Move<V>>() -> Tag {
    Tag::of(M::NAME, M::Memory::WORDS)
}

/// The knobs of a move that are stored with the list.
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

    fn remember(_: &Senses<'_, V>, _: &TickOutcome<'_, V>, _: &mut Place, _: &mut State<V>) {}
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
        consult_one::<V, M>(senses, at, decision) || L::ask(senses, at, decision)
    }

    #[inline(always)]
    fn remember(senses: &Senses<'_, V>, chosen: &TickOutcome<'_, V>, at: &mut Place, state: &mut State<V>) {
        remember_one::<V, M>(senses, chosen, at, state);
        L::remember(senses, chosen, at, state);
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
        L::ask(senses, at, decision) || consult_one::<V, M>(senses, at, decision)
    }

    #[inline(always)]
    fn remember(senses: &Senses<'_, V>, chosen: &TickOutcome<'_, V>, at: &mut Place, state: &mut State<V>) {
        L::remember(senses, chosen, at, state);
        remember_one::<V, M>(senses, chosen, at, state);
    }
}

/// The move that takes charge of a tick, with its proposal.
#[doc(hidden)]
#[derive(Debug)]
pub struct Chosen<V> {
    /// Its number in the list.
    pub(crate) number: u8,
    pub(crate) name: Name,
    pub(crate) proposal: Proposal<V>,
}

/// The decision of the moves about a tick.
#[doc(hidden)]
#[derive(Debug)]
pub struct Decision<V> {
    pub(crate) refused: Refusals,
    /// The move that takes charge.
    pub(crate) chosen: Option<Chosen<V>>,
}

impl<V> Decision<V> {
    /// No move takes charge.
    pub(crate) fn none() -> Self {
        Self { refused: Refusals::new(), chosen: None }
    }
}

/// The functions of a list at both ends of a tick, and for its actions.
struct Ends<V: Geometry> {
    tags: Tags,
    words: fn() -> Vec<MoveWords>,
    controls: fn(&Tuning) -> Vec<(Name, Actions)>,
    decide: fn(&Senses<'_, V>, &mut Decision<V>),
    remember: fn(&Senses<'_, V>, &TickOutcome<'_, V>, &mut State<V>),
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
fn remember_by<V: Geometry, L: Moves<V>>(
    senses: &Senses<'_, V>,
    chosen: &TickOutcome<'_, V>,
    state: &mut State<V>,
) {
    L::remember(senses, chosen, &mut Place::default(), state);
}

/// The functions of a tuning's own list; `None` for the moves of the library.
fn ends<V: Geometry>(tuning: &Tuning) -> Option<&'static Ends<V>> {
    tuning.own.table?;
    tuning.own.moves.into_iter().flatten().find_map(|moves| moves.downcast_ref())
}

/// Moves the memories of a state to where the tuning's list of moves has them.
pub(crate) fn arrange<V: Geometry>(tuning: &Tuning, state: &mut State<V>) {
    match ends::<V>(tuning) {
        Some(ends) => state.memories.arrange(&ends.tags),
        None => state.memories.arrange(&<Standard as Moves<V>>::TAGS),
    }
}

/// Consults the tuning's moves about a tick.
pub(crate) fn decide<V: Geometry>(senses: &Senses<'_, V>, decision: &mut Decision<V>) {
    match ends(senses.tuning) {
        Some(ends) => (ends.decide)(senses, decision),
        None => decide_by::<V, Standard>(senses, decision),
    }
}

/// Lets the tuning's moves update their memories after a tick.
pub(crate) fn remember<V: Geometry>(
    senses: &Senses<'_, V>,
    chosen: &TickOutcome<'_, V>,
    state: &mut State<V>,
) {
    match ends(senses.tuning) {
        Some(ends) => (ends.remember)(senses, chosen, state),
        None => remember_by::<V, Standard>(senses, chosen, state),
    }
}

/// A list of moves for tunings: made once, as a `static`.
///
/// ```
/// use rasant::moves::{Dash, Jump, MoveSet};
/// use rasant::{Tuning, moves};
///
/// static FEW: MoveSet = MoveSet::of::<moves![Jump, Dash]>(); // no walls, ladders, ledges
/// let tuning = Tuning::default().with_moves(&FEW);
/// assert_eq!(tuning.words::<rasant::glam::Vec2>().len(), 2);
/// ```
pub struct MoveSet {
    list: u32,
    knobs: &'static KnobTable,
    moves: [Option<&'static (dyn Any + Send + Sync)>; 2],
}

/// The functions of a list, as a constant.
struct EndsOf<V, L>(PhantomData<(V, L)>);

impl<V: Geometry, L: Moves<V>> EndsOf<V, L> {
    const ENDS: &'static Ends<V> = {
        assert!(L::WORDS <= Memories::WORDS, "the moves of a list need more memory than a state has");
        assert!(L::KNOBS.len() <= Own::MAX, "the moves of a list have more knobs than a tuning can store");
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

    /// A list for two dimensions. In three, its tunings use the moves of the library.
    #[must_use]
    pub const fn in_plane<L: Moves<Vec2>>() -> Self {
        Self { list: L::LIST, knobs: L::KNOBS, moves: [Some(EndsOf::<Vec2, L>::ENDS), None] }
    }

    /// A list for three dimensions. In two, its tunings use the moves of the library.
    #[must_use]
    pub const fn in_space<L: Moves<Vec3>>() -> Self {
        Self { list: L::LIST, knobs: L::KNOBS, moves: [None, Some(EndsOf::<Vec3, L>::ENDS)] }
    }
}

impl<V: Geometry> State<V> {
    /// The memory of a move of the list: for drawing a rope, or a bar of stamina. The initial
    /// memory if the last tick was by a list without this move.
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

    /// Replaces the memory of a move of the list: to restore a jump in the air, or to refill a
    /// store of dashes. Returns false, and changes nothing, if the last tick was by a list without
    /// this move. A state that has had no tick has the memories of the moves of the library.
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
    /// The moves of the tuning's list that actions start or sustain, in the order in which they are
    /// consulted, each with its actions: for help screens and touch controls. Moves that a knob
    /// switches off are left out. Steering, running and crouching are not moves, and are not in the
    /// list.
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

    /// The words of the moves of the tuning's list, in the order in which they are consulted: for
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

    /// The tuning for another list of moves. Knobs of moves that it had before keep their values;
    /// the others get their defaults.
    #[must_use]
    pub fn with_moves(self, moves: &MoveSet) -> Self {
        self.with_table(moves.knobs, moves.moves, moves.list)
    }
}
