//! The lines of a script.

use std::collections::BTreeMap;
use std::ops::Range;

use rasant::glam::Vec2;
use rasant::state::Name;
use rasant::{Actions, Look};
use thiserror::Error;

use super::circumstance::Circumstance;

/// Inputs over time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Script {
    pub(super) steps: Vec<Step>,
}

/// One instruction.
#[derive(Clone, Debug, PartialEq)]
pub struct Step {
    /// The line of the text, from 1; for reports.
    pub line: usize,
    /// What begins it.
    pub start: Start,
    /// How much later it begins, in seconds.
    pub later: f64,
    /// What is done.
    pub what: Doing,
    /// How long.
    pub lasting: Lasting,
}

impl Step {
    /// The circumstances that begin and end it.
    pub fn circumstances(&self) -> impl Iterator<Item = &Circumstance> {
        let start = match &self.start {
            Start::When(circumstance) | Start::Whenever(circumstance) => Some(circumstance),
            _ => None,
        };
        let end = if let Lasting::Until(circumstance) = &self.lasting { Some(circumstance) } else { None };
        start.into_iter().chain(end)
    }
}

/// What begins an instruction.
#[derive(Clone, Debug, PartialEq)]
pub enum Start {
    /// A time from the start of the trial, in seconds.
    At(f64),
    /// The beginning of the instruction before.
    Then,
    /// The first time that something holds, once the instruction before has
    /// begun.
    When(Circumstance),
    /// Each time that something comes to hold, once the instruction before has
    /// begun.
    Whenever(Circumstance),
    /// Again and again, so many seconds apart, once the instruction before has
    /// begun.
    Every(f64),
}

/// How long an instruction lasts.
#[derive(Clone, Debug, PartialEq)]
pub enum Lasting {
    /// A press for a moment, a steer or look until the next.
    Usual,
    /// So many seconds.
    For(f64),
    /// Until something holds.
    Until(Circumstance),
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
    /// The game does something to the body.
    Host(Host),
}

/// What a game does to a body. Vectors are in the world; in two dimensions
/// without their third number.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Host {
    /// Throws it, with a velocity in m/s.
    Launch([f32; 3]),
    /// Throws it back, with a velocity in m/s, and takes control away while it
    /// lasts.
    Knock([f32; 3]),
    /// Moves it, by a displacement in metres, spread over as long as it lasts.
    Move([f32; 3]),
    /// Leads it along its facing, as the trial's track of that name goes: all of it, in as
    /// long as it lasts.
    Along(Name),
}

impl Host {
    /// Its name, as in scripts.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Launch(_) => "launch",
            Self::Knock(_) => "knock",
            Self::Move(_) | Self::Along(_) => "move",
        }
    }
}

/// What is wrong with a script, and where.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{message}, expected {expected}")]
pub struct ScriptError {
    pub(super) span: Range<usize>,
    pub(super) message: String,
    pub(super) expected: String,
}

impl ScriptError {
    /// The bytes that are wrong, what is wrong with them, and what was
    /// expected.
    #[must_use]
    pub fn into_parts(self) -> (Range<usize>, String, String) {
        (self.span, self.message, self.expected)
    }
}

impl Script {
    /// A script of instructions, in this order.
    #[must_use]
    pub fn from_steps(steps: Vec<Step>) -> Self {
        Self { steps }
    }

    /// The instructions, in the order of the text.
    #[must_use]
    pub fn steps(&self) -> &[Step] {
        &self.steps
    }

    /// Lets what moves along a track last as long as that does, in seconds, where nothing else is
    /// said.
    /// Where there is no such track: the line, and the track's name.
    pub(crate) fn follow(&mut self, tracks: &BTreeMap<Name, f64>) -> Result<(), (usize, Name)> {
        for step in &mut self.steps {
            let Doing::Host(Host::Along(name)) = step.what else { continue };
            let seconds = *tracks.get(&name).ok_or((step.line, name))?;
            if step.lasting == Lasting::Usual {
                step.lasting = Lasting::For(seconds);
            }
        }
        Ok(())
    }

    /// The first instruction that is the game's and not the player's: no tape
    /// holds it.
    #[must_use]
    pub fn first_of_the_host(&self) -> Option<(usize, &'static str)> {
        self.steps.iter().find_map(|step| match step.what {
            Doing::Host(host) => Some((step.line, host.name())),
            _ => None,
        })
    }
}
