//! The lines of a script.

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;

use rasant::glam::Vec2;
use rasant::state::Name;
use rasant::{Actions, Look};
use rasant_files::Deed;
use thiserror::Error;

use super::circumstance::Circumstance;

/// A script: inputs over time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Script {
    pub(super) steps: Arc<Vec<Step>>,
}

/// One instruction.
#[derive(Clone, Debug, PartialEq)]
pub struct Step {
    /// The line of the text, from 1, for reports.
    pub line: usize,
    /// When it begins.
    pub start: Start,
    /// The delay, in seconds.
    pub later: f64,
    /// The command.
    pub what: Command,
    /// How long it lasts.
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

/// When an instruction begins.
#[derive(Clone, Debug, PartialEq)]
pub enum Start {
    /// A time from the start of the trial, in seconds.
    At(f64),
    /// When the instruction before begins.
    Then,
    /// The first time that something holds after the instruction before has begun.
    When(Circumstance),
    /// Each time that something starts to hold after the instruction before has begun.
    Whenever(Circumstance),
    /// Repeatedly, with this many seconds between, after the instruction before has begun.
    Every(f64),
}

/// How long an instruction lasts.
#[derive(Clone, Debug, PartialEq)]
pub enum Lasting {
    /// A press for a moment, a steer or look until the next one.
    Usual,
    /// This many seconds.
    For(f64),
    /// Until something holds.
    Until(Circumstance),
}

/// What an instruction does.
#[derive(Clone, Debug, PartialEq)]
pub enum Command {
    /// Steers.
    Steer(Vec2),
    /// Holds an action down.
    Press(Actions),
    /// Sets the look.
    Look(Look),
    /// Walks straight to a place, as by [`Intent::toward`](rasant::Intent::toward).
    Walk(Target),
    /// Something that the game does to the body.
    Host(Host),
}

/// Where a body walks.
#[derive(Clone, Debug, PartialEq)]
pub enum Target {
    /// A point in the world, in metres; in two dimensions the third number is ignored.
    Point([f32; 3]),
    /// The present place of the body with this name.
    Body(Arc<str>),
}

/// What a game does to a body, or to its level. Vectors are in the world; in two dimensions the
/// third number is ignored.
#[derive(Clone, Debug, PartialEq)]
pub enum Host {
    /// Throws it with a velocity in m/s.
    Throw([f32; 3]),
    /// Knocks it back with a velocity in m/s, and takes control away for its duration.
    Knock([f32; 3]),
    /// Moves it by a displacement in metres, spread over its duration.
    Move([f32; 3]),
    /// Leads it along its facing by all of the trial's track with this name, within its duration.
    Along(Name),
    /// Does something to everything in the level with this name.
    Deed(Deed, Arc<str>),
    /// Moves the carrier of the host with this name by a displacement in metres, within its
    /// duration.
    Carry(Arc<str>, [f32; 3]),
    /// Rotates the carrier of the host with this name by an angle in radians, within its duration.
    Turn(Arc<str>, f32),
}

impl Host {
    /// The name, as in scripts.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Throw(_) => "throw",
            Self::Knock(_) => "knock",
            Self::Move(_) | Self::Along(_) => "move",
            Self::Deed(deed, _) => {
                Deed::ALL.iter().find(|(.., known)| known == deed).map_or("open", |(name, ..)| name)
            }
            Self::Carry(..) => "carry",
            Self::Turn(..) => "turn",
        }
    }

    /// The name of the thing in the level that it is about, if it is about one.
    #[must_use]
    pub fn target(&self) -> Option<&str> {
        match self {
            Self::Deed(_, name) | Self::Carry(name, _) | Self::Turn(name, _) => Some(name),
            Self::Throw(_) | Self::Knock(_) | Self::Move(_) | Self::Along(_) => None,
        }
    }
}

/// An error in a script, with its position.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{message}, expected {expected}")]
pub struct ScriptError {
    pub(super) span: Range<usize>,
    pub(super) message: String,
    pub(super) expected: String,
}

impl ScriptError {
    /// The range in bytes, what is wrong, and what was expected.
    #[must_use]
    pub fn into_parts(self) -> (Range<usize>, String, String) {
        (self.span, self.message, self.expected)
    }
}

impl Script {
    /// A script of these instructions, in this order.
    #[must_use]
    pub fn from_steps(steps: Vec<Step>) -> Self {
        Self { steps: Arc::new(steps) }
    }

    /// The instructions, in the order of the text.
    #[must_use]
    pub fn steps(&self) -> &[Step] {
        &self.steps
    }

    /// Sets the duration of motion along a track to that of the track, in seconds, if none is
    /// given. The error is the line and the name of a track that does not exist.
    pub(crate) fn follow(&mut self, tracks: &BTreeMap<Name, f64>) -> Result<(), (usize, Name)> {
        for step in Arc::make_mut(&mut self.steps) {
            let Command::Host(Host::Along(name)) = step.what else { continue };
            let seconds = *tracks.get(&name).ok_or((step.line, name))?;
            if step.lasting == Lasting::Usual {
                step.lasting = Lasting::For(seconds);
            }
        }
        Ok(())
    }

    /// The first instruction of the game, not the player, which a tape cannot contain.
    #[must_use]
    pub fn first_of_the_host(&self) -> Option<(usize, &'static str)> {
        self.steps.iter().find_map(|step| match &step.what {
            Command::Host(host) => Some((step.line, host.name())),
            _ => None,
        })
    }
}
