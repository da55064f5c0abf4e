//! What a trial expects of its run, and what was measured.

use std::fmt;
use std::sync::Arc;

use serde::Serialize;

use crate::played::{Run, Summary};
use crate::script::Circumstance;
use crate::trace::Row;
use rasant_files::unit_in;

/// A figure of a run, and its expected range.
#[derive(Clone, Debug, PartialEq)]
pub struct Expectation {
    /// The body whose run counts; `None` for the trial's own.
    pub body: Option<Arc<str>>,
    /// The figure.
    pub figure: Figure,
    /// The part of the run that counts; `None` for all of it.
    pub meanwhile: Option<Circumstance>,
    /// The smallest allowed value; negative infinity for none.
    pub least: f64,
    /// The largest allowed value; infinity for none.
    pub most: f64,
}

/// A figure of a run.
#[derive(Clone, Debug, PartialEq)]
pub enum Figure {
    /// A number of the summary.
    Summary(&'static Measure),
    /// The number of times that an event happens.
    Count(String),
    /// Seconds until something first holds; infinite if it never does.
    TimeTo(Circumstance),
    /// The fraction of the time for which something holds.
    Always(Circumstance),
    /// The smallest speed along the ground or, in the air, perpendicular to up, in m/s.
    Slowest,
    /// The largest such speed.
    Quickest,
    /// The largest depth of the hull inside a piece, in metres.
    Penetration,
    /// The smallest gap to another body at the end of a tick, in metres; below 0 if the hulls overlap.
    LeastGap(Arc<str>),
    /// The largest such gap.
    MostGap(Arc<str>),
}

/// A number of the summary with its name and unit.
pub struct Measure {
    /// The name, as in files.
    pub name: &'static str,
    /// The unit; empty for a count.
    pub unit: &'static str,
    /// The meaning, in a sentence.
    pub meaning: &'static str,
    of: fn(&Summary) -> f64,
}

/// Every number of the summary that a trial can expect.
pub const MEASURES: &[Measure] = &[
    Measure {
        name: "distance",
        unit: "m",
        meaning: "Distance along x from the start to the end; negative in the direction of −x. Not the length of the path.",
        of: |summary| summary.distance_m.into(),
    },
    Measure {
        name: "travelled",
        unit: "m",
        meaning: "Length of the path, summed over all ticks.",
        of: |summary| summary.travelled_m,
    },
    Measure {
        name: "highest",
        unit: "m",
        meaning: "Greatest height (along y) of the underside above its start, including the exact tops of rises; none for a body seen from above.",
        of: |summary| summary.highest_m.map_or(f64::INFINITY, f64::from),
    },
    Measure {
        name: "fastest",
        unit: "m/s",
        meaning: "Greatest speed in any direction, at the end of a tick.",
        of: |summary| summary.fastest_m_per_s.into(),
    },
    Measure {
        name: "airborne",
        unit: "s",
        meaning: "Time in the mode airborne: without ladders, wall slides and maneuvers.",
        of: |summary| summary.airborne_s,
    },
    Measure {
        name: "hardest-landing",
        unit: "m/s",
        meaning: "Greatest downward speed of a landing; 0 without a landing.",
        of: |summary| summary.hardest_landing_m_per_s.into(),
    },
    Measure {
        name: "shortest-gait",
        unit: "s",
        meaning: "Shortest time for which a gait was shown from its beginning to its end.",
        of: shortest_gait,
    },
    Measure {
        name: "end-x",
        unit: "m",
        meaning: "Final position of the middle of the underside, along x.",
        of: |summary| end(summary, 0),
    },
    Measure { name: "end-y", unit: "m", meaning: "Along y.", of: |summary| end(summary, 1) },
    Measure {
        name: "end-z",
        unit: "m",
        meaning: "Along z, in three dimensions.",
        of: |summary| end(summary, 2),
    },
];

/// Infinite if no gait was shown from its beginning to its end.
fn shortest_gait(summary: &Summary) -> f64 {
    summary.gaits.iter().filter_map(|gait| gait.shortest_s).fold(f64::INFINITY, f64::min)
}

fn end(summary: &Summary, axis: usize) -> f64 {
    summary.end_m.get(axis).copied().unwrap_or(0.0).into()
}

impl Measure {
    /// Returns true if it exists in worlds of 2 or 3 dimensions.
    #[must_use]
    pub fn is_in(&self, dimensions: usize) -> bool {
        dimensions == 3 || self.name != "end-z"
    }

    /// Its value in a summary.
    #[must_use]
    pub fn of(&self, summary: &Summary) -> f64 {
        (self.of)(summary)
    }
}

impl fmt::Debug for Measure {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name)
    }
}

impl PartialEq for Measure {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl Figure {
    /// The figures that need only a name, beside [`MEASURES`].
    pub const ALONE: [(&'static str, Self); 3] =
        [("slowest", Self::Slowest), ("quickest", Self::Quickest), ("penetration", Self::Penetration)];

    /// The name.
    #[must_use]
    pub fn name(&self) -> String {
        match self {
            Self::Summary(measure) => measure.name.to_owned(),
            Self::Count(event) => format!("count of {event}"),
            Self::TimeTo(what) => format!("time to {}", what.to_string().trim_start_matches("on ")),
            Self::Always(what) => format!("fraction of the time {what}"),
            Self::Slowest => "slowest".to_owned(),
            Self::Quickest => "quickest".to_owned(),
            Self::Penetration => "penetration".to_owned(),
            Self::LeastGap(name) => format!("smallest gap to {name}"),
            Self::MostGap(name) => format!("largest gap to {name}"),
        }
    }

    /// The unit; empty for a count and a fraction.
    #[must_use]
    pub fn unit(&self) -> &'static str {
        match self {
            Self::Summary(measure) => measure.unit,
            Self::Count(_) | Self::Always(_) => "",
            Self::TimeTo(_) => "s",
            Self::Slowest | Self::Quickest => "m/s",
            Self::Penetration | Self::LeastGap(_) | Self::MostGap(_) => "m",
        }
    }

    /// Returns true if it can be limited to the part of a run in which something holds. Numbers of
    /// the summary, and the depth inside a piece, are of the whole run.
    #[must_use]
    pub fn is_of_a_part(&self) -> bool {
        !matches!(self, Self::Summary(_) | Self::Penetration)
    }

    /// The smallest and the largest value that it can have in any run.
    #[must_use]
    pub fn possible(&self) -> (f64, f64) {
        match self {
            Self::Always(_) => (0.0, 1.0),
            Self::LeastGap(_) | Self::MostGap(_) => (f64::NEG_INFINITY, f64::INFINITY),
            Self::Summary(measure) if matches!(measure.name, "distance" | "end-x" | "end-y" | "end-z") => {
                (f64::NEG_INFINITY, f64::INFINITY)
            }
            _ => (0.0, f64::INFINITY),
        }
    }

    /// Returns true if it can be measured to have exactly this value: counts are whole, and what
    /// holds always or never has a fraction of 1 or 0.
    #[must_use]
    pub fn can_be_just(&self, number: f64) -> bool {
        match self {
            Self::Count(_) => number.fract() == 0.0,
            Self::Always(_) => number == 0.0 || number == 1.0,
            // It may be 0; every other value is as long, high or fast as it happens to be.
            _ => number == 0.0 && self.possible().0 == 0.0,
        }
    }

    /// The value in the ticks of a run for which `meanwhile` holds. Infinite if there is nothing to
    /// measure: `meanwhile` never holds, or what is waited for never happens. Numbers of the
    /// summary are always of the whole run.
    #[must_use]
    pub fn of(&self, run: &Run, meanwhile: Option<&Circumstance>) -> f64 {
        let counted = |row: &&Row| meanwhile.is_none_or(|circumstance| circumstance.holds(row));
        let rows = run.trace.rows[1..].iter().filter(counted);
        let speeds = |least: f64, better: fn(f64, f64) -> f64| {
            run.trace.rows[1..].iter().filter(counted).map(|row| f64::from(row.speed)).fold(least, better)
        };
        let gaps = |name: &str, none: f64, better: fn(f64, f64) -> f64| {
            let all = run.trace.rows.iter().filter(counted).filter_map(|row| row.gap_to(name));
            all.map(f64::from).fold(none, better)
        };
        match self {
            Self::Summary(measure) => measure.of(&run.summary),
            Self::LeastGap(name) => gaps(name, f64::INFINITY, f64::min),
            Self::MostGap(name) => gaps(name, f64::NEG_INFINITY, f64::max),
            Self::Count(event) => {
                let mut rows = rows.peekable();
                if meanwhile.is_some() && rows.peek().is_none() {
                    return f64::INFINITY;
                }
                rows.flat_map(|row| &row.events).filter(|one| one.is_called(event)).count() as f64
            }
            Self::TimeTo(what) => {
                // What holds at the start has happened at 0 s.
                let mut rows = run.trace.rows.iter().filter(counted);
                rows.find(|row| what.holds(row)).map_or(f64::INFINITY, |row| row.time)
            }
            Self::Always(what) => {
                let (all, held) = rows.fold((0usize, 0usize), |(all, held), row| {
                    (all + 1, held + usize::from(what.holds(row)))
                });
                if all == 0 { f64::INFINITY } else { held as f64 / all as f64 }
            }
            Self::Slowest => speeds(f64::INFINITY, f64::min),
            Self::Quickest => match speeds(-1.0, f64::max) {
                none if none < 0.0 => f64::INFINITY,
                most => most,
            },
            Self::Penetration => run.penetration_m.map_or(f64::INFINITY, f64::from),
        }
    }
}

/// The result of an expectation.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Finding {
    /// The name of the figure.
    pub figure: String,
    /// The measured value; `None` if it never happened.
    pub measured: Option<f64>,
    /// The expected range, in words.
    pub expected: String,
    /// The unit; empty for a count.
    pub unit: &'static str,
    /// True if the expectation holds.
    pub holds: bool,
}

impl Expectation {
    /// Compares the expectation with a run.
    #[must_use]
    pub fn hold_against(&self, run: &Run) -> Finding {
        let of_body = match &self.body {
            None => Some(run),
            Some(name) => run.of(name),
        };
        let measured = of_body.map_or(f64::INFINITY, |run| self.figure.of(run, self.meanwhile.as_ref()));
        let unit = unit_in(self.figure.unit(), run.summary.scale);
        let of = self.body.as_ref().map_or(String::new(), |name| format!("{name}: "));
        let name = format!("{of}{}", self.figure.name());
        Finding {
            figure: self.meanwhile.as_ref().map_or(name.clone(), |part| format!("{name} while {part}")),
            measured: measured.is_finite().then_some(measured),
            expected: self.range(unit),
            unit,
            holds: (self.least..=self.most).contains(&measured) && measured.is_finite(),
        }
    }

    /// The bodies to which it needs the gap.
    pub(crate) fn gaps(&self) -> impl Iterator<Item = &Arc<str>> {
        let (own, inner) = match &self.figure {
            Figure::LeastGap(name) | Figure::MostGap(name) => (Some(name), None),
            Figure::TimeTo(what) | Figure::Always(what) => (None, Some(what)),
            _ => (None, None),
        };
        own.into_iter().chain(inner.into_iter().chain(&self.meanwhile).flat_map(Circumstance::gaps))
    }

    fn range(&self, unit: &str) -> String {
        let range = match (self.least.is_finite(), self.most.is_finite()) {
            (true, true) if self.least == self.most => format!("{:.4}", self.least),
            (true, true) => format!("{:.4} to {:.4}", self.least, self.most),
            (true, false) => format!("at least {:.4}", self.least),
            _ => format!("at most {:.4}", self.most),
        };
        // Numbers without trailing zeros.
        let words = range.split(' ').map(|word| match word.contains('.') {
            true => word.trim_end_matches('0').trim_end_matches('.'),
            false => word,
        });
        let range: Vec<&str> = words.collect();
        format!("{} {unit}", range.join(" ")).trim_end().to_owned()
    }
}

impl fmt::Display for Finding {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let unit = self.unit;
        match self.measured {
            Some(measured) if unit.is_empty() => write!(f, "{} is {measured}", self.figure)?,
            Some(measured) => write!(f, "{} is {measured:.4} {unit}", self.figure)?,
            None => write!(f, "{} never happened", self.figure)?,
        }
        write!(f, ", expected {}", self.expected)
    }
}
