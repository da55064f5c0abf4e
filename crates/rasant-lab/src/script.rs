//! The small language for inputs.
//!
//! One instruction a line; `#` starts a comment.
//!
//! ```text
//! line   = "at" time ":" what [ "for" time ]
//! what   = "steer" ( direction | number number )
//!        | "press" action
//!        | "look" number "deg" [ number "deg" ]
//! time   = number "s"
//! direction = "left" | "right" | "up" | "down" | "forward" | "back"
//! action = "jump" | "dash" | "run" | "crouch" | "own-0" … "own-27"
//! ```
//!
//! A steer lasts until the next one unless it says for how long; while two
//! overlap, the later line counts. A press without a length lasts 0.1 s. What
//! begins at a time is seen by the first tick that starts then or later.

use std::ops::Range;

use rasant::glam::Vec2;
use rasant::{Actions, Intent, Look, Tape};
use thiserror::Error;
use winnow::ascii::{float, space0, space1};
use winnow::combinator::{alt, cut_err, opt, preceded, terminated};
use winnow::error::{ContextError, ErrMode, StrContext, StrContextValue};
use winnow::prelude::*;
use winnow::stream::{LocatingSlice, Location};
use winnow::token::take_while;

/// Inputs over time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Script {
    steps: Vec<Step>,
}

/// One instruction.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Step {
    /// When it begins, in seconds.
    pub at: f64,
    /// What is done.
    pub what: Doing,
    /// How long, in seconds.
    pub lasting: Option<f64>,
}

/// What an instruction does.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Doing {
    /// Steers.
    Steer(Vec2),
    /// Holds an action down.
    Press(Actions),
    /// Looks somewhere.
    Look(Look),
}

/// What is wrong with a script, and where.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{message}, expected {expected}")]
pub struct ScriptError {
    span: Range<usize>,
    message: String,
    expected: String,
}

impl ScriptError {
    /// The bytes that are wrong, what is wrong with them, and what was
    /// expected.
    #[must_use]
    pub fn into_parts(self) -> (Range<usize>, String, String) {
        (self.span, self.message, self.expected)
    }
}

/// A press without a length lasts this long, in seconds.
const PRESS: f64 = 0.1;

impl Script {
    /// Parses a script.
    ///
    /// # Errors
    /// A [`ScriptError`] at the first place that is not understood.
    pub fn parse(text: &str) -> Result<Self, ScriptError> {
        let mut steps = Vec::new();
        let mut start = 0;
        for line in text.split('\n') {
            let code = line.split('#').next().unwrap_or("");
            if !code.trim().is_empty() {
                steps.push(parse_line(code, start)?);
            }
            start += line.len() + 1;
        }
        Ok(Self { steps })
    }

    /// The instructions, in the order of the text.
    #[must_use]
    pub fn steps(&self) -> &[Step] {
        &self.steps
    }

    /// The intents of `ticks` ticks at `rate` ticks a second.
    #[must_use]
    pub fn tape(&self, rate: u32, ticks: usize) -> Tape {
        let mut before = Actions::NONE;
        (0..ticks)
            .map(|tick| {
                let mut intent = self.held_at(tick, rate);
                intent.pressed = intent.held.without(before);
                intent.released = before.without(intent.held);
                before = intent.held;
                intent
            })
            .collect()
    }

    fn held_at(&self, tick: usize, rate: u32) -> Intent {
        let mut intent = Intent::default();
        for (number, step) in self.steps.iter().enumerate() {
            let (first, end) = self.ticks_of(number, rate);
            if !(first..end).contains(&tick) {
                continue;
            }
            match step.what {
                Doing::Steer(steer) => intent.steer = steer,
                Doing::Press(actions) => intent.held |= actions,
                Doing::Look(look) => intent.look = look,
            }
        }
        intent
    }

    /// The first tick of a step and the first after it.
    fn ticks_of(&self, number: usize, rate: u32) -> (usize, usize) {
        let step = &self.steps[number];
        // A time that is meant to be a tick's own may be off in the last place.
        let tick_of = |time: f64| (time * f64::from(rate) - 1e-6).ceil().max(0.0) as usize;
        let first = tick_of(step.at);
        let end = match (step.what, step.lasting) {
            (_, Some(time)) => tick_of(step.at + time).max(first + 1),
            (Doing::Press(_), None) => tick_of(step.at + PRESS).max(first + 1),
            _ => usize::MAX,
        };
        (first, end)
    }
}

type Input<'a> = LocatingSlice<&'a str>;

fn parse_line(line: &str, offset: usize) -> Result<Step, ScriptError> {
    let mut input = LocatingSlice::new(line);
    let parsed = terminated(
        step,
        (space0, opt("\r"), winnow::combinator::eof.context(expects("the end of the line"))),
    )
    .parse_next(&mut input);
    parsed.map_err(|error| {
        let place = input.current_token_start();
        let rest = line[place..].trim_start();
        let start = line.len() - rest.len();
        let word = rest.split_whitespace().next().unwrap_or("");
        let message =
            if word.is_empty() { "the line ends here".to_owned() } else { format!("found `{word}`") };
        let expected = match error {
            ErrMode::Cut(context) | ErrMode::Backtrack(context) => expectation(&context),
            ErrMode::Incomplete(_) => "more".to_owned(),
        };
        ScriptError { span: offset + start..offset + start + word.len().max(1), message, expected }
    })
}

fn expects(what: &'static str) -> StrContext {
    StrContext::Expected(StrContextValue::Description(what))
}

fn expectation(context: &ContextError) -> String {
    let all: Vec<String> = context
        .context()
        .filter_map(|part| match part {
            StrContext::Expected(value) => Some(value.to_string()),
            _ => None,
        })
        .collect();
    all.first().cloned().unwrap_or_else(|| "`at TIME s: steer, press or look`".to_owned())
}

fn step(input: &mut Input<'_>) -> ModalResult<Step> {
    let at = preceded((space0, word("at").context(expects("`at`"))), cut_err(time)).parse_next(input)?;
    cut_err((space0, ':').context(expects("`:`"))).parse_next(input)?;
    let what = cut_err(preceded(space0, doing)).parse_next(input)?;
    let lasting = opt(preceded((space1, word("for")), cut_err(time))).parse_next(input)?;
    Ok(Step { at, what, lasting })
}

fn time(input: &mut Input<'_>) -> ModalResult<f64> {
    preceded(space0, terminated(float::<_, f64, _>, (space0, "s")))
        .verify(|time| time.is_finite() && *time >= 0.0)
        .context(expects("a time, as in `1.5 s`"))
        .parse_next(input)
}

fn doing(input: &mut Input<'_>) -> ModalResult<Doing> {
    let start = *input;
    let verb = take_while(1.., |c: char| c.is_ascii_alphabetic())
        .context(expects("`steer`, `press` or `look`"))
        .parse_next(input)?;
    match verb {
        "steer" => cut_err(preceded(space1, steer))
            .context(expects(
                "a direction (left, right, up, down, forward, back) or two numbers from -1 to 1",
            ))
            .parse_next(input),
        "press" => cut_err(preceded(space1, press))
            .context(expects("an action: jump, dash, run, crouch, or own-0 to own-27"))
            .parse_next(input),
        "look" => cut_err(preceded(space1, look))
            .context(expects("a yaw and perhaps a pitch, as in `90 deg -10 deg`"))
            .parse_next(input),
        _ => {
            *input = start;
            let mut error = ContextError::new();
            error.push(expects("`steer`, `press` or `look`"));
            Err(ErrMode::Cut(error))
        }
    }
}

fn steer(input: &mut Input<'_>) -> ModalResult<Doing> {
    let numbers = (float::<_, f32, _>, preceded(space1, float::<_, f32, _>))
        .verify(|(x, y)| x.abs() <= 1.0 && y.abs() <= 1.0)
        .map(|(x, y)| Vec2::new(x, y));
    let direction = alt((
        word("left").value(Vec2::NEG_X),
        word("right").value(Vec2::X),
        word("up").value(Vec2::Y),
        word("down").value(Vec2::NEG_Y),
        word("forward").value(Vec2::Y),
        word("back").value(Vec2::NEG_Y),
    ));
    alt((direction, numbers)).map(Doing::Steer).parse_next(input)
}

fn press(input: &mut Input<'_>) -> ModalResult<Doing> {
    take_while(1.., |c: char| c.is_ascii_alphanumeric() || c == '-')
        .verify_map(Actions::named)
        .map(Doing::Press)
        .parse_next(input)
}

fn look(input: &mut Input<'_>) -> ModalResult<Doing> {
    let degrees = |input: &mut Input<'_>| -> ModalResult<f32> {
        terminated(float::<_, f32, _>, (space0, "deg"))
            .verify(|angle| angle.is_finite())
            .map(f32::to_radians)
            .parse_next(input)
    };
    (degrees, opt(preceded(space1, degrees)))
        .map(|(yaw, pitch)| Doing::Look(Look { yaw, pitch: pitch.unwrap_or(0.0) }))
        .parse_next(input)
}

/// A whole word.
fn word<'a>(known: &'static str) -> impl Parser<Input<'a>, &'a str, ErrMode<ContextError>> {
    take_while(1.., |c: char| c.is_ascii_alphanumeric() || c == '-').verify(move |found: &str| found == known)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_script_becomes_a_tape() {
        let script = Script::parse(
            "at 0 s: steer right for 0.5 s   # off we go\n\n\
             at 0.1 s: press jump for 0.2 s\n\
             at 0.3s: steer -0.5 0.25\n\
             at 0 s: look 90 deg -10 deg\r",
        )
        .unwrap();
        let tape = script.tape(10, 6);
        let steers: Vec<Vec2> = tape.intents().iter().map(|intent| intent.steer).collect();
        let later = Vec2::new(-0.5, 0.25);
        assert_eq!(steers, [Vec2::X, Vec2::X, Vec2::X, later, later, later]);
        let jumps: Vec<(bool, bool, bool)> = tape
            .intents()
            .iter()
            .map(|i| (i.pressed.has(Actions::JUMP), i.held.has(Actions::JUMP), i.released.has(Actions::JUMP)))
            .collect();
        let (no, pressed, held, released) =
            ((false, false, false), (true, true, false), (false, true, false), (false, false, true));
        assert_eq!(jumps, [no, pressed, held, released, no, no]);
        assert!((tape.at(0).look.yaw - 90f32.to_radians()).abs() < 1e-6);
    }

    #[test]
    fn a_press_shorter_than_a_tick_is_still_one_tick_long() {
        let script = Script::parse("at 0.11 s: press jump for 0.001 s").unwrap();
        let tape = script.tape(10, 5);
        let presses: Vec<bool> = tape.intents().iter().map(|i| i.pressed.has(Actions::JUMP)).collect();
        assert_eq!(presses, [false, false, true, false, false]);
    }

    #[test]
    fn what_is_not_understood_is_shown_where_it_stands() {
        for (text, span, words) in [
            ("at 1 s: stear left", 8..13, "`steer`, `press` or `look`"),
            ("\nat 1 s: press jmup", 15..19, "jump, dash"),
            ("at 1: steer left", 4..5, "1.5 s"),
            ("at -1 s: steer left", 3..5, "1.5 s"),
            ("at 1 s steer left", 7..12, "`:`"),
            ("at 1 s: steer leftish", 14..21, "a direction"),
            ("at 1 s: steer 2 0", 14..15, "-1 to 1"),
            ("at 1 s: steer left for", 22..23, "1.5 s"),
            ("at 1 s: steer left fro 2 s", 19..22, "the end of the line"),
            ("around 1 s: steer left", 0..6, "`at`"),
        ] {
            let error = Script::parse(text).unwrap_err();
            assert_eq!(error.span, span, "{text}: {error}");
            assert!(error.expected.contains(words), "{text}: {error}");
        }
    }
}
