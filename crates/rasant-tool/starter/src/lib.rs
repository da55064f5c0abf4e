//! What the game has of its own: a move.

use rasant::moves::{Answer, Fall, Law, Move, MoveSet, Proposal, Senses, Standard, Words};
use rasant::state::Name;
use rasant::{Actions, Geometry, Tuning};
use rasant_lab::Game;

rasant::knobs! {
    /// A kite that slows a fall while its action is held.
    pub struct Kite {
        /// The speed of a fall under it.
        fall_speed: "kite.fall_speed", MetresPerSecond, 1.5, 0.1..25.0;
    }
}

impl<V: Geometry> Move<V> for Kite {
    const NAME: Name = Name::new("kite");
    const WORDS: Words = Words::MODE;
    type Memory = ();

    fn actions(&self, _tuning: &Tuning) -> Actions {
        Actions::own(0)
    }

    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        let held = senses.intent.held.contains(Actions::own(0));
        if !held || senses.standing() || senses.velocity.height() > 0.0 {
            return Answer::Nothing;
        }
        let fall = Fall { terminal_speed: Some(self.fall_speed), brake: 40.0, ..Fall::default() };
        Proposal { law: Law::Fall(fall), ..Proposal::of(Name::new("kite")) }.into()
    }
}

/// Asked before the moves of the library.
static MOVES: MoveSet = MoveSet::of::<(Kite, Standard)>();

/// What files and the tool are to know of the game.
pub fn game() -> Game {
    Game { moves: Some(&MOVES), ..Game::default() }
}
