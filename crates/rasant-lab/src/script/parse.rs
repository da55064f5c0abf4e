//! The parser of scripts.

use rasant::glam::Vec2;
use rasant::state::{EVENTS, Name};
use rasant::{Actions, Look};
use std::str::FromStr;
use std::sync::Arc;

use winnow::ascii::{float, space0, space1};
use winnow::combinator::{alt, cut_err, eof, fail, opt, preceded, repeat, separated, terminated};
use winnow::error::{ContextError, ErrMode, StrContext, StrContextValue};
use winnow::prelude::*;
use winnow::stream::{LocatingSlice, Location, Stateful};
use winnow::token::{one_of, take_while};

use crate::vocabulary::Vocabulary;

use super::circumstance::{Circumstance, ENDS, Fact, Quantity, Situation};
use super::line::{Command, Host, Lasting, Script, ScriptError, Start, Step, Target};
use rasant_files::{Deed, renamed};

/// A line, with the words of the moves.
type Input<'a> = Stateful<LocatingSlice<&'a str>, &'a Vocabulary>;

/// Parses the instructions of a text.
pub(super) fn script(text: &str, vocabulary: &Vocabulary) -> Result<Vec<Step>, ScriptError> {
    let mut steps = Vec::new();
    let mut start = 0;
    for (number, line) in text.split('\n').enumerate() {
        let code = without_comment(line);
        if !code.trim().is_empty() {
            let step = whole(code, start, vocabulary, step)?;
            steps.push(Step { line: number + 1, ..step });
        }
        start += line.len() + 1;
    }
    Ok(steps)
}

/// A line without its comment. A `#` within a name in quotes starts none.
fn without_comment(line: &str) -> &str {
    let mut is_quoted = false;
    let end = line.char_indices().find(|(_, sign)| {
        is_quoted ^= *sign == '"';
        *sign == '#' && !is_quoted
    });
    &line[..end.map_or(line.len(), |(end, _)| end)]
}

/// Parses a text that is one circumstance.
fn circumstance_alone(text: &str, vocabulary: &Vocabulary) -> Result<Circumstance, ScriptError> {
    whole(text, 0, vocabulary, preceded(space0, circumstance))
}

/// Parses a whole line, which starts at `offset` of the text.
fn whole<'a, T>(
    line: &'a str,
    offset: usize,
    vocabulary: &'a Vocabulary,
    parser: impl Parser<Input<'a>, T, ErrMode<ContextError>>,
) -> Result<T, ScriptError> {
    let mut input = Stateful { input: LocatingSlice::new(line), state: vocabulary };
    let parsed = terminated(parser, (space0, opt("\r"), eof.context(expects("the end of the line"))))
        .parse_next(&mut input);
    parsed.map_err(|error| {
        let place = input.current_token_start();
        let rest = line[place..].trim_start();
        let start = line.len() - rest.len();
        let word = rest.split_whitespace().next().unwrap_or("");
        let message =
            if word.is_empty() { "the line ends here".to_owned() } else { format!("found `{word}`") };
        let expected = match (renamed(word.trim_end_matches([':', ','])), error) {
            (Some(new), _) => format!("`{new}`, its new name"),
            (None, ErrMode::Cut(context) | ErrMode::Backtrack(context)) => expectation(&context),
            (None, ErrMode::Incomplete(_)) => "more".to_owned(),
        };
        ScriptError { span: offset + start..offset + start + word.len().max(1), message, expected }
    })
}

const STARTS: &str = "`at`, `then`, `when`, `on`, `whenever` or `every`";
const DOINGS: &str = "`steer`, `press`, `look`, `walk`, `follow`, `throw`, `knock`, `move`, `open`, \
    `close`, `remove`, `restore`, `carry` or `turn`";
const FACTS: &str = "x, y, z, speed or rise with `<` or `>` and a number, `gap to` and a body, \
    `on` and an event, or one of grounded, airborne, wall-slide, ladder, maneuver, rising, falling, crouched, at wall";

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
    all.first().cloned().unwrap_or_else(|| STARTS.to_owned())
}

/// An error for something that cannot be here.
fn refused<T>(expected: &'static str) -> ModalResult<T> {
    let mut error = ContextError::new();
    error.push(expects(expected));
    Err(ErrMode::Cut(error))
}

fn step(input: &mut Input<'_>) -> ModalResult<Step> {
    let start = preceded(space0, start).parse_next(input)?;
    let later = opt(preceded((space0, '+'), cut_err(time))).parse_next(input)?.unwrap_or(0.0);
    cut_err((space0, ':').context(expects("`:`"))).parse_next(input)?;
    let what = cut_err(preceded(space0, doing)).parse_next(input)?;
    let lasting = alt((
        preceded((space1, word("for")), cut_err(time)).map(Lasting::For),
        preceded((space1, word("until"), space1), cut_err(circumstance)).map(Lasting::Until),
    ));
    let lasting = match what {
        // They have no duration.
        Command::Host(Host::Throw(_) | Host::Deed(..)) => Lasting::Usual,
        _ => opt(lasting).parse_next(input)?.unwrap_or(Lasting::Usual),
    };
    let timeless = !matches!(lasting, Lasting::For(time) if time > 0.0);
    if timeless
        && matches!(what, Command::Host(Host::Knock(_) | Host::Move(_) | Host::Carry(..) | Host::Turn(..)))
    {
        return refused("`for` and how long, as in `for 0.3 s`");
    }
    Ok(Step { line: 0, start, later, what, lasting })
}

fn start(input: &mut Input<'_>) -> ModalResult<Start> {
    let place = *input;
    let word =
        take_while(1.., |c: char| c.is_ascii_alphabetic()).context(expects(STARTS)).parse_next(input)?;
    let condition = |input: &mut Input<'_>| cut_err(preceded(space1, circumstance)).parse_next(input);
    match word {
        "at" => cut_err(time).map(Start::At).parse_next(input),
        "then" => Ok(Start::Then),
        "when" => condition(input).map(Start::When),
        "whenever" => condition(input).map(Start::Whenever),
        "on" => {
            *input = place;
            cut_err(circumstance).map(Start::When).parse_next(input)
        }
        "every" => cut_err(time)
            .verify(|time| *time > 0.0)
            .context(expects("a time above 0, as in `1.5 s`"))
            .map(Start::Every)
            .parse_next(input),
        _ => {
            *input = place;
            refused(STARTS)
        }
    }
}

fn circumstance(input: &mut Input<'_>) -> ModalResult<Circumstance> {
    separated(1.., fact, (space1, word("and"), space1)).map(|facts| Circumstance { facts }).parse_next(input)
}

fn fact(input: &mut Input<'_>) -> ModalResult<Fact> {
    let not = opt(terminated(word("not"), space1)).parse_next(input)?.is_some();
    let place = *input;
    let Ok(first) = name(input) else { return refused(FACTS) };
    let situation = match first {
        "on" => preceded(space1, cut_err(event.context(expects("an event, as in `landed`"))))
            .map(Situation::On)
            .parse_next(input)?,
        "gap" => {
            let to = cut_err(preceded(space1, word("to"))).context(expects("`to` and the name of a body"));
            let (_, name) = (to, cut_err(body_name)).parse_next(input)?;
            match comparison(Quantity::X, "m").parse_next(input)? {
                Situation::Below(_, limit) => Situation::NearerThan(name, limit),
                Situation::Above(_, limit) => Situation::FurtherThan(name, limit),
                other => other,
            }
        }
        "at" => preceded(space1, cut_err(word("wall").context(expects("`wall`"))))
            .map(|_| Situation::Is("at wall".to_owned()))
            .parse_next(input)?,
        _ => {
            if let Some((_, quantity, unit)) = Quantity::NAMES.into_iter().find(|(name, ..)| *name == first) {
                comparison(quantity, unit).parse_next(input)?
            } else if input.state.states().contains(&first) {
                Situation::Is(first.to_owned())
            } else {
                *input = place;
                return refused(FACTS);
            }
        }
    };
    Ok(Fact { not, situation })
}

fn comparison<'a>(
    quantity: Quantity,
    unit: &'static str,
) -> impl Parser<Input<'a>, Situation, ErrMode<ContextError>> {
    let sign = preceded(space0, one_of(['<', '>'])).context(expects("`<` or `>`"));
    let number = preceded(space0, float::<_, f32, _>)
        .verify(|number: &f32| number.is_finite())
        .context(expects("a number"));
    let unit = opt(preceded(space0, alt(("m/s", "m")).verify(move |found: &str| found == unit)));
    (cut_err(sign), terminated(cut_err(number), unit)).map(move |(sign, number)| match sign {
        '<' => Situation::Below(quantity, number),
        _ => Situation::Above(quantity, number),
    })
}

/// The name of an event, with its detail if there is one: in quotes, or all words up to a sign, or
/// to `and`, `until` or `for`.
fn event(input: &mut Input<'_>) -> ModalResult<String> {
    let place = *input;
    let first = name(input)?;
    if !EVENTS.contains(&first) {
        *input = place;
        return fail.parse_next(input);
    }
    if let Some(detail) = opt(preceded(space1, quoted)).parse_next(input)? {
        return Ok([first, detail].join(" "));
    }
    let is_old = |word: &str| first == "maneuver-phase" && renamed(word).is_some();
    let more = preceded(space1, detail_word.verify(|word: &str| !ENDS.contains(&word) && !is_old(word)));
    let words: Vec<&str> = repeat(0.., more).parse_next(input)?;
    Ok([&[first], &words[..]].concat().join(" "))
}

fn quoted<'a>(input: &mut Input<'a>) -> ModalResult<&'a str> {
    let closing = '"'.context(expects("`\"` at the end of the name"));
    preceded('"', cut_err(terminated(take_while(1.., |c: char| c != '"'), closing))).parse_next(input)
}

fn detail_word<'a>(input: &mut Input<'a>) -> ModalResult<&'a str> {
    take_while(1.., |c: char| !c.is_whitespace() && !":+,\"".contains(c)).parse_next(input)
}

fn name<'a>(input: &mut Input<'a>) -> ModalResult<&'a str> {
    take_while(1.., |c: char| c.is_ascii_alphanumeric() || c == '-').parse_next(input)
}

/// The longest time, in seconds: longer than any trial.
const LONGEST: f64 = 1e5;

fn time(input: &mut Input<'_>) -> ModalResult<f64> {
    preceded(space0, terminated(float::<_, f64, _>, (space0, "s")))
        .verify(|time| (0.0..=LONGEST).contains(time))
        .context(expects("a time up to 100000 s, as in `1.5 s`"))
        .parse_next(input)
}

fn doing(input: &mut Input<'_>) -> ModalResult<Command> {
    let start = *input;
    let verb =
        take_while(1.., |c: char| c.is_ascii_alphabetic()).context(expects(DOINGS)).parse_next(input)?;
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
            .context(expects("a yaw and optionally a pitch, as in `90 deg -10 deg`"))
            .parse_next(input),
        "walk" => {
            let to = preceded(space1, word("to"));
            preceded(cut_err(to).context(expects("`to` and a point, as in `walk to 5 0`")), point)
                .map(|point| Command::Walk(Target::Point(point)))
                .parse_next(input)
        }
        "follow" => cut_err(body_name).map(|name| Command::Walk(Target::Body(name))).parse_next(input),
        "throw" => host(Host::Throw).parse_next(input),
        "knock" => host(Host::Knock).parse_next(input),
        "move" => alt((along, host(Host::Move))).parse_next(input),
        "carry" => {
            let name = cut_err(target).parse_next(input)?;
            point.map(|by| Command::Host(Host::Carry(name.clone(), by))).parse_next(input)
        }
        "turn" => {
            let name = cut_err(target).parse_next(input)?;
            let angle = preceded(space1, terminated(float::<_, f32, _>, (space0, "deg")));
            cut_err(angle.verify(|angle| angle.is_finite()))
                .context(expects("an angle, as in `90 deg`"))
                .map(|angle| Command::Host(Host::Turn(name.clone(), angle.to_radians())))
                .parse_next(input)
        }
        _ if let Some((.., deed)) = Deed::ALL.into_iter().find(|(name, ..)| *name == verb) => {
            cut_err(target).map(|name| Command::Host(Host::Deed(deed, name))).parse_next(input)
        }
        _ => {
            *input = start;
            refused(DOINGS)
        }
    }
}

/// The name of something in the level: in quotes, or one word.
fn target(input: &mut Input<'_>) -> ModalResult<Arc<str>> {
    let expected = expects("the name of a piece, zone or carrier, as in `\"plank\"`");
    given_name.context(expected).parse_next(input)
}

/// The name of a body of the trial: in quotes, or one word.
fn body_name(input: &mut Input<'_>) -> ModalResult<Arc<str>> {
    given_name.context(expects("the name of a body, as in `\"porter\"`")).parse_next(input)
}

fn given_name(input: &mut Input<'_>) -> ModalResult<Arc<str>> {
    let word = take_while(1.., |c: char| c.is_alphanumeric() || c == '-' || c == '_');
    preceded(space1, alt((quoted, word)))
        .verify(|name: &str| !name.is_empty())
        .map(Arc::from)
        .parse_next(input)
}

/// Two or three numbers.
fn point(input: &mut Input<'_>) -> ModalResult<[f32; 3]> {
    let number = || preceded(space1, float::<_, f32, _>).verify(|number| number.is_finite());
    cut_err((number(), number(), opt(number())))
        .context(expects("two or three numbers, as in `3 8`"))
        .map(|(x, y, z)| [x, y, z.unwrap_or(0.0)])
        .parse_next(input)
}

/// Motion along a track.
fn along(input: &mut Input<'_>) -> ModalResult<Command> {
    let name = take_while(1.., |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_')
        .verify_map(|name: &str| name.parse::<Name>().ok())
        .context(expects("the name of one of the trial's tracks"));
    preceded((space1, word("along"), space1), cut_err(name))
        .map(|name| Command::Host(Host::Along(name)))
        .parse_next(input)
}

/// A command of the host: two or three numbers.
fn host<'a>(doing: fn([f32; 3]) -> Host) -> impl Parser<Input<'a>, Command, ErrMode<ContextError>> {
    point.map(move |by| Command::Host(doing(by)))
}

fn steer(input: &mut Input<'_>) -> ModalResult<Command> {
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
    alt((direction, numbers)).map(Command::Steer).parse_next(input)
}

fn press(input: &mut Input<'_>) -> ModalResult<Command> {
    take_while(1.., |c: char| c.is_ascii_alphanumeric() || c == '-')
        .verify_map(Actions::named)
        .map(Command::Press)
        .parse_next(input)
}

fn look(input: &mut Input<'_>) -> ModalResult<Command> {
    let degrees = |input: &mut Input<'_>| -> ModalResult<f32> {
        terminated(float::<_, f32, _>, (space0, "deg"))
            .verify(|angle| angle.is_finite())
            .map(f32::to_radians)
            .parse_next(input)
    };
    (degrees, opt(preceded(space1, degrees)))
        .map(|(yaw, pitch)| Command::Look(Look { yaw, pitch: pitch.unwrap_or(0.0) }))
        .parse_next(input)
}

/// A whole word.
fn word<'a>(known: &'static str) -> impl Parser<Input<'a>, &'a str, ErrMode<ContextError>> {
    take_while(1.., |c: char| c.is_ascii_alphanumeric() || c == '-').verify(move |found: &str| found == known)
}

impl Script {
    /// Parses a script for bodies with these moves.
    ///
    /// # Errors
    /// A [`ScriptError`] at the first place that cannot be understood.
    pub fn parse(text: &str, vocabulary: &Vocabulary) -> Result<Self, ScriptError> {
        script(text, vocabulary).map(Self::from_steps)
    }
}

impl FromStr for Script {
    type Err = ScriptError;

    /// Parses a script for bodies with the moves of the library.
    fn from_str(text: &str) -> Result<Self, ScriptError> {
        Self::parse(text, &Vocabulary::default())
    }
}

impl Circumstance {
    /// Parses a circumstance for bodies with these moves.
    ///
    /// # Errors
    /// A [`ScriptError`] at the first place that cannot be understood.
    pub fn parse(text: &str, vocabulary: &Vocabulary) -> Result<Self, ScriptError> {
        circumstance_alone(text, vocabulary)
    }
}

impl FromStr for Circumstance {
    type Err = ScriptError;

    /// Parses a circumstance for bodies with the moves of the library.
    fn from_str(text: &str) -> Result<Self, ScriptError> {
        Self::parse(text, &Vocabulary::default())
    }
}

#[cfg(test)]
mod tests {
    use crate::script::{Circumstance, Script};

    #[test]
    fn unknown_words_are_reported_at_their_place() {
        for (text, span, words) in [
            ("at 1 s: stear left", 8..13, "`steer`, `press`"),
            ("\nat 1 s: press jmup", 15..19, "jump, dash"),
            ("at 1: steer left", 4..5, "1.5 s"),
            ("at -1 s: steer left", 3..5, "1.5 s"),
            ("at 1 s steer left", 7..12, "`:`"),
            ("at 1 s: steer leftish", 14..21, "a direction"),
            ("at 1 s: steer 2 0", 14..15, "-1 to 1"),
            ("at 1 s: steer left for", 22..23, "1.5 s"),
            ("at 1 s: steer left fro 2 s", 19..22, "the end of the line"),
            ("around 1 s: steer left", 0..6, "`at`, `then`"),
            ("when y ~ 3: steer left", 7..8, "`<` or `>`"),
            ("when y > high: steer left", 9..14, "a number"),
            ("when x > 3 m/s: steer left", 11..15, "`:`"),
            ("when flying: steer left", 5..12, "wall-slide"),
            ("when at ladder: steer left", 8..15, "`wall`"),
            ("on landet: steer left", 3..10, "an event"),
            ("every 0 s: press jump", 6..7, "above 0"),
            ("at 0 s: knock 3 4", 17..18, "`for`"),
            ("at 0 s: throw 3", 15..16, "two or three numbers"),
            ("at 0 s: throw 3 4 for 2 s", 18..21, "the end of the line"),
            ("on zone-entered \"the yard: press jump", 37..38, "at the end of the name"),
            ("at 0 s: walk 3 4", 13..14, "`to` and a point"),
            ("at 0 s: walk to 3", 17..18, "two or three numbers"),
            ("at 0 s: follow", 14..15, "the name of a body"),
            ("when gap < 3: steer left", 9..10, "`to` and the name of a body"),
            ("when gap to porter: steer left", 18..19, "`<` or `>`"),
            ("at 0 s: steer left until", 19..24, "the end of the line"),
            ("at 0 s: steer left until x > ", 29..30, "a number"),
        ] {
            let error = text.parse::<Script>().unwrap_err();
            assert!(error.expected.contains(words), "{text}: {error}");
            assert_eq!(error.span, span, "{text}: {error}");
        }
    }

    #[test]
    fn a_circumstance_reads_as_it_is_written() {
        for text in [
            "x > 11.4",
            "not airborne and speed < 0.1",
            "on zone-entered the lamp's yard and at wall",
            "on jumped wall",
            "on zone-entered \"here, there and for: all #1\" and at wall",
            "rise < -3 and not crouched",
            "gap to porter < 0.5 and not gap to \"the crate\" > 3",
        ] {
            assert_eq!(text.parse::<Circumstance>().unwrap().to_string(), text);
        }
        assert_eq!(
            "x > 3 m and speed<1 m/s".parse::<Circumstance>().unwrap().to_string(),
            "x > 3 and speed < 1"
        );
    }
}
