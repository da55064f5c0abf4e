//! A small language for inputs, by time and by circumstance.
//!
//! Inputs by circumstance survive a change of the tuning: "jump before the gutter" remains correct
//! if the body becomes faster.
//!
//! One instruction per line; `#` starts a comment.
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
//!        | "walk to" number number [ number ] | "follow" name
//!        | ( "throw" | "knock" | "move" ) number number [ number ]
//!        | ( "open" | "close" | "remove" | "restore" ) name
//!        | "carry" name number number [ number ] | "turn" name number "deg"
//! circumstance = fact { "and" fact }
//! fact   = [ "not" ] ( "on" event | quantity ( "<" | ">" ) number [ unit ] | state )
//!        | [ "not" ] "gap to" name ( "<" | ">" ) number [ "m" ]
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
//! A steer lasts until the next one unless it has a duration. If two overlap, the one that began
//! later counts, and of two that began together the later line. A press without a duration lasts
//! 0.1 s; if it begins while its action is held, the action is released first, so that it still
//! counts as a press. An instruction that begins at a time is seen by the first tick that starts
//! then or later; one that begins by a circumstance, by the tick after the one in which it came to
//! hold. Two consecutive lines are not begun by the same event. A repeated instruction with a delay
//! begins as often as its circumstance came to hold.
//!
//! `walk to` and `follow` are steers straight to a point and to another body, with the look that the
//! steering needs for it. A name is that of a body of the trial; the trial's own body is `player`.
//!
//! `throw`, `knock` and `move` are done by the game, not a player: a velocity in m/s in the world,
//! a velocity that takes control away for its duration, and a displacement in metres spread over
//! its duration. `move along` and the name of a track leads the body as an animation does.
//!
//! The game also changes the level, by the names in its file: `open "gate"` and `close "gate"`,
//! `remove "plank"` and `restore "plank"`; `carry "crane" 0 3 for 2 s` moves a carrier with
//! `path = "host"` by a displacement in metres, and `turn "bridge" 90 deg for 2 s` rotates one,
//! both from rest to rest. A name of one word needs no quotes.

mod circumstance;
mod line;
mod parse;
mod player;

pub use circumstance::{Circumstance, Fact, Quantity, Situation};
pub use line::{Command, Host, Lasting, Script, ScriptError, Start, Step, Target};
pub use player::{ByTheHost, Played, Player};
