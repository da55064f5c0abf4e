//! Recorded intents.
//!
//! # The text form
//! ```text
//! rasant-tape 1
//! 60 ticks a second
//! 24 0 0 0 0 - - -
//! 1 1 0 0 0 jump jump -
//! 11 1 0 0 0 jump - -
//! ```
//! After two header lines, there is one line for every run of equal intents: the number of ticks,
//! steer x and y, yaw and pitch in radians, and the actions held, pressed and released, joined by
//! `+`, or `-` for none. Numbers are written so that they read back to the same bits. A steer that
//! is not finite counts as none and is written so; a look that is not finite is written as `-`.
//! Empty lines, and everything after `#`, are ignored.

use alloc::borrow::ToOwned;
use alloc::format;
use alloc::string::String;
use alloc::string::ToString;
use alloc::vec::Vec;
use core::fmt::Write;
use core::ops::Range;

use glam::Vec2;
use thiserror::Error;

use super::{Actions, Intent, Look};

/// Recorded intents, one per tick. Replayed from the same state they give the same bits.
///
/// ```
/// use rasant::{Actions, Intent, Tape};
///
/// let mut tape = Tape::new();
/// tape.record(Intent::steering(1.0, 0.0).pressing(Actions::JUMP));
/// tape.record(Intent::steering(1.0, 0.0).holding(Actions::JUMP));
/// let (read, rate) = Tape::from_text(&tape.to_text(60))?;
/// assert_eq!((read, rate), (tape, 60));
/// # Ok::<(), rasant::input::TapeError>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Tape {
    intents: Vec<Intent>,
}

/// Why the text of a tape cannot be read.
///
/// ```
/// use rasant::Tape;
///
/// let error = Tape::from_text("rasant-tape 1\n60 ticks a second\n1 0 0\n").unwrap_err();
/// assert_eq!(error.line, 3);
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("line {line}: found {found}, expected {expected}")]
pub struct TapeError {
    /// The line, from 1.
    pub line: usize,
    /// What was found.
    pub found: String,
    /// What was expected.
    pub expected: String,
}

/// The first line of every tape. The number grows when the format changes.
const HEAD: &str = "rasant-tape 1";
/// The maximum number of ticks: four and a half hours at 240 per second.
const MOST: usize = 4_000_000;

impl Tape {
    /// An empty tape.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Appends the intent of the next tick.
    pub fn record(&mut self, intent: Intent) {
        self.intents.push(intent);
    }

    /// The intents, first tick first.
    #[must_use]
    pub fn intents(&self) -> &[Intent] {
        &self.intents
    }

    /// The intent of a tick, from 0. After the end, the default intent.
    #[must_use]
    pub fn at(&self, tick: usize) -> Intent {
        self.intents.get(tick).copied().unwrap_or_default()
    }

    /// The number of ticks.
    #[must_use]
    pub fn len(&self) -> usize {
        self.intents.len()
    }

    /// Returns true if nothing is recorded.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.intents.is_empty()
    }

    /// The ticks of a range, as far as they exist. What is held at its start is pressed there, so
    /// that the result is a tape of its own.
    #[must_use]
    pub fn trimmed(&self, ticks: Range<usize>) -> Self {
        let end = ticks.end.min(self.len());
        let mut intents = self.intents[ticks.start.min(end)..end].to_vec();
        if let Some(first) = intents.first_mut() {
            first.pressed |= first.held;
        }
        Self { intents }
    }

    /// The ticks before `at`, then all of `other`, then the rest. Actions held on one side of a
    /// joint only are pressed or released there; those held on both sides are not. So a tape that
    /// is cut in two ([`Self::trimmed`]) and joined again is the same.
    #[must_use]
    pub fn spliced(&self, at: usize, other: &Tape) -> Self {
        let at = at.min(self.len());
        let mut intents = self.intents[..at].to_vec();
        intents.extend(&other.intents);
        intents.extend(&self.intents[at..]);
        for seam in [at, at + other.len()] {
            mend(&mut intents, seam);
        }
        Self { intents }
    }

    /// The tape with steer and look mirrored left to right.
    #[must_use]
    pub fn mirrored(&self) -> Self {
        let mirrored = |intent: &Intent| Intent {
            steer: Vec2::new(-intent.steer.x, intent.steer.y),
            look: Look { yaw: -intent.look.yaw, ..intent.look },
            ..*intent
        };
        self.intents.iter().map(mirrored).collect()
    }

    /// The text form, for a rate in ticks per second.
    #[must_use]
    pub fn to_text(&self, rate: u32) -> String {
        let mut text = format!("{HEAD}\n{rate} ticks a second\n");
        for run in self.intents.chunk_by(same) {
            let Intent { steer, look, held, pressed, released } = run[0];
            let steer = if steer.is_finite() { steer } else { Vec2::ZERO };
            let [held, pressed, released] = [held, pressed, released].map(words);
            // Writing to a string never fails.
            let _ = writeln!(
                text,
                "{} {} {} {} {} {held} {pressed} {released}",
                run.len(),
                steer.x,
                steer.y,
                looked(look.yaw),
                looked(look.pitch)
            );
        }
        text
    }

    /// Parses the text form. Returns the tape and its rate.
    ///
    /// # Errors
    /// A [`TapeError`] at the first line that cannot be understood.
    pub fn from_text(text: &str) -> Result<(Self, u32), TapeError> {
        let lines = text.lines().enumerate().map(|(number, line)| (number + 1, code(line)));
        let mut lines = lines.filter(|(_, line)| !line.is_empty());
        let wrong = |line: usize, found: &str, expected: &str| TapeError {
            line,
            found: if found.is_empty() { "nothing".to_owned() } else { format!("`{found}`") },
            expected: expected.to_owned(),
        };
        let (line, head) = lines.next().unwrap_or((1, ""));
        if head != HEAD {
            return Err(wrong(line, head, "`rasant-tape 1`"));
        }
        let (line, second) = lines.next().unwrap_or((line + 1, ""));
        let rate = second.strip_suffix(" ticks a second").and_then(|rate| rate.parse().ok());
        let rate: u32 = rate
            .filter(|rate| (1..=10_000).contains(rate))
            .ok_or_else(|| wrong(line, second, "`60 ticks a second`, 1 to 10000"))?;
        let mut intents = Vec::new();
        for (line, text) in lines {
            let fields: Vec<&str> = text.split_whitespace().collect();
            let [count, x, y, yaw, pitch, held, pressed, released] = fields[..] else {
                return Err(wrong(
                    line,
                    text,
                    "8 fields: ticks, steer x y, yaw, pitch, held, pressed, released",
                ));
            };
            let left = MOST - intents.len();
            let count = count.parse().ok().filter(|count| (1..=left).contains(count));
            let count = count.ok_or_else(|| {
                wrong(line, fields[0], "the number of ticks, at least 1, at most 4,000,000 in all")
            })?;
            let number = |text: &str| {
                let number = text.parse().ok().filter(|number: &f32| number.is_finite());
                number.ok_or_else(|| wrong(line, text, "a finite number"))
            };
            let angle = |text: &str| if text == "-" { Ok(f32::NAN) } else { number(text) };
            let set = |text: &str| {
                actions(text).ok_or_else(|| wrong(line, text, "actions joined by `+`, or `-` for none"))
            };
            let intent = Intent {
                steer: Vec2::new(number(x)?, number(y)?),
                look: Look { yaw: angle(yaw)?, pitch: angle(pitch)? },
                held: set(held)?,
                pressed: set(pressed)?,
                released: set(released)?,
            };
            intents.resize(intents.len() + count, intent);
        }
        Ok((Self { intents }, rate))
    }
}

/// A line without its comment.
fn code(line: &str) -> &str {
    line.split('#').next().unwrap_or("").trim()
}

/// Returns true if two intents are equal to the bit: −0 differs from 0.
fn same(a: &Intent, b: &Intent) -> bool {
    let bits = |i: &Intent| [i.steer.x, i.steer.y, i.look.yaw, i.look.pitch].map(f32::to_bits);
    bits(a) == bits(b) && (a.held, a.pressed, a.released) == (b.held, b.pressed, b.released)
}

fn looked(angle: f32) -> String {
    if angle.is_finite() { angle.to_string() } else { "-".to_owned() }
}

fn words(actions: Actions) -> String {
    let names: Vec<String> = actions.each().filter_map(Actions::name).collect();
    if names.is_empty() { "-".to_owned() } else { names.join("+") }
}

fn actions(text: &str) -> Option<Actions> {
    if text == "-" {
        return Some(Actions::NONE);
    }
    text.split('+').try_fold(Actions::NONE, |all, name| Some(all | Actions::named(name)?))
}

/// Makes the presses and releases of a tick fit what was held before it.
fn mend(intents: &mut [Intent], at: usize) {
    let before = at.checked_sub(1).map_or(Actions::NONE, |last| intents[last].held);
    if let Some(intent) = intents.get_mut(at) {
        // What is held across the joint is pressed only if it is released first, and what was not
        // held is released only if it is pressed first.
        let (pressed, released) = (intent.pressed, intent.released);
        intent.pressed = pressed.difference(before.difference(released)) | intent.held.difference(before);
        intent.released = (released & (before | pressed)) | before.difference(intent.held);
    }
}

impl FromIterator<Intent> for Tape {
    fn from_iter<I: IntoIterator<Item = Intent>>(intents: I) -> Self {
        Self { intents: intents.into_iter().collect() }
    }
}
