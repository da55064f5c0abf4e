//! The small language for inputs: by time, and by circumstance.
//!
//! What is scripted by circumstance survives a change of the tuning: "jump
//! before the gutter" is still that when the body has become quicker.
//!
//! One instruction a line; `#` starts a comment.
//!
//! ```text
//! line   = start [ "+" time ] ":" what [ "for" time | "until" circumstance ]
//! start  = "at" time                      from the start of the trial
//!        | "then"                         as the line above begins
//!        | "when" circumstance            the first time it holds, once the line above has begun
//!        | "on" event                     short for: when on event
//!        | "whenever" circumstance        each time it comes to hold, once the line above has begun
//!        | "every" time                   again and again, once the line above has begun
//! what   = "steer" ( direction | number number )
//!        | "press" action
//!        | "look" number "deg" [ number "deg" ]
//!        | ( "launch" | "knock" | "move" ) number number [ number ]
//! circumstance = fact { "and" fact }
//! fact   = [ "not" ] ( "on" event | quantity ( "<" | ">" ) number [ unit ] | state )
//! event  = an event's name, alone or with its detail: landed, jumped wall; a detail
//!        | with signs, or with the words and, until or for, in quotes:
//!        | zone-entered "here, there and for all"
//! quantity = "x" | "y" | "z" | "speed" | "rise"
//! state  = "grounded" | "airborne" | the name of a move | "maneuver"
//!        | "rising" | "falling" | "crouched" | "at wall"
//! time   = number "s"
//! direction = "left" | "right" | "up" | "down" | "forward" | "back"
//! action = "jump" | "dash" | "run" | "crouch" | "own-0" … "own-27"
//! ```
//!
//! A steer lasts until the next one unless it says for how long; while two overlap,
//! the one that began later counts, and of two that began together the later line. A
//! press without a length lasts 0.1 s; one that begins while its action is held lets go
//! of it first, so that it is a press all the same. What begins at a time is seen by the
//! first tick that starts then or later; what begins by a circumstance, by the tick after
//! the one that brought it about. Two lines that follow each other are not begun by one
//! and the same event. What is repeated with a delay begins as often as it came.
//!
//! `launch`, `knock` and `move` are what a game does to a body, not a player: a
//! velocity in m/s in the world, one that takes control away for as long as it
//! lasts, and a displacement in metres spread over that time; `along` and a track's name in
//! its place leads the body as an animation does.

mod circumstance;
mod line;
mod parse;
mod player;

pub use circumstance::{Circumstance, Fact, Quantity, Situation};
pub use line::{Doing, Host, Lasting, Script, ScriptError, Start, Step};
pub use player::{ByTheHost, Played, Player};
