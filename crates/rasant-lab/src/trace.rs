//! Traces: what happened, tick by tick.

use std::io::{self, Write};
use std::sync::Arc;

use rasant::Actions;
use rasant::state::Name;
use serde::Serialize;

/// What happened, tick by tick. Row 0 is the start; row `n` is after tick `n`.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Trace {
    /// 2 or 3.
    pub dimensions: usize,
    /// Ticks per second.
    pub rate: u32,
    /// One row per tick.
    pub rows: Vec<Row>,
}

/// The state after a tick, and the player's input in it.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Row {
    /// The tick; 0 is the start.
    pub tick: usize,
    /// Seconds from the start to the end of the tick.
    pub time: f64,
    /// The middle of the underside, in metres.
    pub position: [f32; 3],
    /// In m/s, at the end of the tick. Steps, pushes out of walls and teleports are in the position
    /// only.
    pub velocity: [f32; 3],
    /// The speed along the ground or, in the air, perpendicular to up, in m/s.
    pub speed: f32,
    /// The speed along up, in m/s.
    pub rise: f32,
    /// The mode.
    #[serde(serialize_with = "as_text")]
    pub mode: Name,
    /// What drove the velocity.
    #[serde(serialize_with = "as_text")]
    pub driven_by: Name,
    /// True if a maneuver is running. Its name is the mode.
    #[serde(skip)]
    pub in_maneuver: bool,
    /// The height of the hull, in metres.
    pub hull_height: f32,
    /// True if the hull is lower than the body's own.
    pub crouched: bool,
    /// True if the body is at a wall: from `wall-met` to `wall-left`.
    pub at_wall: bool,
    /// What the feet stand on.
    #[serde(serialize_with = "as_text")]
    pub footing: Name,
    /// The angle of the ground in degrees.
    pub slope_deg: f32,
    /// The normal of the ground; up if there is none.
    pub normal: [f32; 3],
    /// The gait for animations.
    #[serde(serialize_with = "as_text")]
    pub gait: Name,
    /// The facing.
    pub facing: [f32; 3],
    /// The direction of up, of length 1.
    pub up: [f32; 3],
    /// The steer.
    pub steer: [f32; 2],
    /// The actions that are held.
    #[serde(serialize_with = "action_names")]
    pub held: Actions,
    /// The events of the tick.
    pub events: Vec<EventRow>,
    /// The gaps to other bodies in metres, below 0 if the hulls overlap: those that the trial asks
    /// for.
    #[serde(skip)]
    pub gaps: Vec<(Arc<str>, f32)>,
}

impl Row {
    /// The gap to the body with a name, in metres, if the trial asks for it.
    #[must_use]
    pub fn gap_to(&self, name: &str) -> Option<f32> {
        self.gaps.iter().find(|(other, _)| **other == *name).map(|(_, gap)| *gap)
    }
}

/// An event, with its position and speed.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct EventRow {
    /// The name.
    pub name: &'static str,
    /// The position, in metres: of a jump where it took off, of an apex at the top, of all others
    /// where the body is at the end of the tick.
    pub position: [f32; 3],
    /// A speed, in m/s, if the event has one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub speed: Option<f32>,
    /// Seconds, if the event has them: by how much a refused press missed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seconds: Option<f32>,
    /// Details, in words that [`Self::is_called`] knows.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub detail: Option<String>,
}

impl EventRow {
    /// Returns true if it has this name: its own, or its own with its detail, as in `jumped wall`
    /// or `zone-entered goal`; `landed on tiles` is `landed tiles` too. For refusals and maneuvers, the first word of the detail suffices:
    /// `refused dash` includes `refused dash empty`.
    #[must_use]
    pub fn is_called(&self, name: &str) -> bool {
        match name.split_once(' ') {
            None => self.name == name,
            Some((own, asked)) => {
                let detail = self.detail.as_deref().unwrap_or("");
                let in_parts = matches!(own, "refused" | "maneuver-phase" | "overlay-phase");
                let part = detail.split(' ').next().filter(|_| in_parts);
                let on = detail.strip_prefix("on ");
                self.name == own && [Some(detail), part, on].contains(&Some(asked))
            }
        }
    }
}

impl EventRow {
    /// The event as text: its name, its detail, and its numbers by their names in SI units, as in
    /// `landed on tiles speed=5.6 x=3.01 y=1`.
    #[must_use]
    pub fn in_words(&self, dimensions: usize) -> String {
        let mut words = vec![self.name.to_owned()];
        words.extend(self.detail.clone());
        words.extend(self.speed.map(|speed| format!("speed={speed}")));
        words.extend(self.seconds.map(|seconds| format!("seconds={seconds}")));
        words.extend(
            AXES.iter().zip(&self.position).take(dimensions).map(|(axis, part)| format!("{axis}={part}")),
        );
        words.join(" ")
    }
}

pub(crate) fn as_text<S: serde::Serializer>(name: &Name, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_str(name)
}

fn action_names<S: serde::Serializer>(actions: &Actions, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_seq(actions.each().filter_map(Actions::name))
}

const AXES: [&str; 3] = ["x", "y", "z"];

impl Trace {
    /// The duration in seconds.
    #[must_use]
    pub fn duration(&self) -> f64 {
        self.rows.last().map_or(0.0, |row| row.time)
    }

    /// The first tick after which a position or a velocity is not finite, or implausible: further
    /// than 10,000 km, faster than 10,000 km/s.
    #[must_use]
    pub fn first_broken(&self) -> Option<usize> {
        const BEYOND: f32 = 1e7;
        let sound = |row: &Row| row.position.iter().chain(&row.velocity).all(|number| number.abs() <= BEYOND);
        self.rows.iter().find(|row| !sound(row)).map(|row| row.tick)
    }

    /// Every event with its row.
    pub fn events(&self) -> impl Iterator<Item = (&Row, &EventRow)> {
        self.rows.iter().flat_map(|row| row.events.iter().map(move |event| (row, event)))
    }

    /// Writes the trace as CSV: a header, then one line per tick.
    ///
    /// # Errors
    /// If writing to `out` fails.
    pub fn write_csv(&self, out: impl Write) -> io::Result<()> {
        write_csv(&[("", self)], out)
    }

    /// Writes the trace as JSON Lines: one object per tick.
    ///
    /// # Errors
    /// If writing to `out` fails.
    pub fn write_json_lines(&self, out: impl Write) -> io::Result<()> {
        write_json_lines(&[("", self)], out)
    }
}

/// Writes the traces of several bodies with their names as CSV: a header, then for each tick one line
/// per body, with its name in the first column, `body`. One trace alone has no such column.
///
/// # Errors
/// If writing to `out` fails.
pub fn write_csv(bodies: &[(&str, &Trace)], out: impl Write) -> io::Result<()> {
    let mut csv = csv::Writer::from_writer(out);
    let dimensions = bodies.first().map_or(2, |(_, trace)| trace.dimensions);
    let columns: Vec<&Column> = columns(dimensions).collect();
    let named = |name: &str| (bodies.len() > 1).then(|| name.to_owned());
    let header = columns.iter().map(|column| column.name.to_owned());
    csv.write_record(named("body").into_iter().chain(header))?;
    for (name, row) in by_tick(bodies) {
        let cells = columns.iter().map(|column| column.of(row, dimensions).to_string());
        csv.write_record(named(name).into_iter().chain(cells))?;
    }
    csv.flush()
}

/// Writes the traces of several bodies with their names as JSON Lines: for each tick one object per
/// body, with its name in `body`. Those of one trace alone have no such field.
///
/// # Errors
/// If writing to `out` fails.
pub fn write_json_lines(bodies: &[(&str, &Trace)], mut out: impl Write) -> io::Result<()> {
    #[derive(Serialize)]
    struct Line<'a> {
        #[serde(skip_serializing_if = "Option::is_none")]
        body: Option<&'a str>,
        #[serde(flatten)]
        row: &'a Row,
    }
    for (name, row) in by_tick(bodies) {
        let body = (bodies.len() > 1).then_some(name);
        serde_json::to_writer(&mut out, &Line { body, row })?;
        out.write_all(b"\n")?;
    }
    out.flush()
}

/// The rows of several bodies with their names, tick by tick.
fn by_tick<'a>(bodies: &'a [(&'a str, &'a Trace)]) -> impl Iterator<Item = (&'a str, &'a Row)> {
    let ticks = bodies.iter().map(|(_, trace)| trace.rows.len()).max().unwrap_or(0);
    (0..ticks).flat_map(move |tick| {
        bodies.iter().filter_map(move |(name, trace)| Some((*name, trace.rows.get(tick)?)))
    })
}

/// A value of a row, as in a column of CSV.
#[derive(Clone, Debug, PartialEq)]
pub enum Cell {
    /// A whole number.
    Count(usize),
    /// A number in single precision.
    Single(f32),
    /// A number in double precision.
    Double(f64),
    /// True or false.
    Flag(bool),
    /// One or more words.
    Text(String),
}

impl Cell {
    /// The value as a number, if it is one; 0 and 1 for false and true.
    #[must_use]
    pub fn number(&self) -> Option<f64> {
        match self {
            Self::Count(count) => Some(*count as f64),
            Self::Single(number) => Some(f64::from(*number)),
            Self::Double(number) => Some(*number),
            Self::Flag(flag) => Some(f64::from(u8::from(*flag))),
            Self::Text(_) => None,
        }
    }
}

impl std::fmt::Display for Cell {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Count(count) => count.fmt(f),
            Self::Single(number) => number.fmt(f),
            Self::Double(number) => number.fmt(f),
            Self::Flag(flag) => flag.fmt(f),
            Self::Text(text) => text.fmt(f),
        }
    }
}

/// A column of a trace.
#[derive(Clone, Copy)]
pub struct Column {
    /// The name, with its unit if it has one, as in the header of CSV.
    pub name: &'static str,
    /// The unit; empty for words, flags, directions and counts.
    pub unit: &'static str,
    /// The axis, if it belongs to one.
    axis: Option<usize>,
    value: fn(&Row, usize) -> Cell,
}

impl Column {
    /// Its value in a row of a trace of 2 or 3 dimensions.
    #[must_use]
    pub fn of(&self, row: &Row, dimensions: usize) -> Cell {
        (self.value)(row, dimensions)
    }
}

/// The columns of a trace of 2 or 3 dimensions, in the order of CSV.
///
/// ```
/// use rasant_lab::trace::{Row, columns};
///
/// let speed = columns(2).find(|column| column.name == "speed_m_per_s").expect("it is one");
/// assert_eq!(speed.of(&Row { speed: 3.5, ..Row::default() }, 2).number(), Some(3.5));
/// ```
pub fn columns(dimensions: usize) -> impl Iterator<Item = &'static Column> {
    COLUMNS.iter().filter(move |column| column.axis.is_none_or(|axis| axis < dimensions))
}

/// One line per column: its name, its unit, its axis, its value.
macro_rules! columns {
    ($($name:literal, $unit:literal, $axis:expr, $value:expr;)*) => {
        static COLUMNS: &[Column] =
            &[$(Column { name: $name, unit: $unit, axis: $axis, value: $value }),*];
    };
}

columns! {
    "tick", "", None, |row, _| Cell::Count(row.tick);
    "time_s", "s", None, |row, _| Cell::Double(row.time);
    "x_m", "m", Some(0), |row, _| Cell::Single(row.position[0]);
    "y_m", "m", Some(1), |row, _| Cell::Single(row.position[1]);
    "z_m", "m", Some(2), |row, _| Cell::Single(row.position[2]);
    "vx_m_per_s", "m/s", Some(0), |row, _| Cell::Single(row.velocity[0]);
    "vy_m_per_s", "m/s", Some(1), |row, _| Cell::Single(row.velocity[1]);
    "vz_m_per_s", "m/s", Some(2), |row, _| Cell::Single(row.velocity[2]);
    "speed_m_per_s", "m/s", None, |row, _| Cell::Single(row.speed);
    "rise_m_per_s", "m/s", None, |row, _| Cell::Single(row.rise);
    "mode", "", None, |row, _| Cell::Text(row.mode.to_string());
    "driven_by", "", None, |row, _| Cell::Text(row.driven_by.to_string());
    "hull_height_m", "m", None, |row, _| Cell::Single(row.hull_height);
    "crouched", "", None, |row, _| Cell::Flag(row.crouched);
    "at_wall", "", None, |row, _| Cell::Flag(row.at_wall);
    "footing", "", None, |row, _| Cell::Text(row.footing.to_string());
    "slope_deg", "°", None, |row, _| Cell::Single(row.slope_deg);
    "gait", "", None, |row, _| Cell::Text(row.gait.to_string());
    "normal_x", "", Some(0), |row, _| Cell::Single(row.normal[0]);
    "normal_y", "", Some(1), |row, _| Cell::Single(row.normal[1]);
    "normal_z", "", Some(2), |row, _| Cell::Single(row.normal[2]);
    "facing_x", "", Some(0), |row, _| Cell::Single(row.facing[0]);
    "facing_y", "", Some(1), |row, _| Cell::Single(row.facing[1]);
    "facing_z", "", Some(2), |row, _| Cell::Single(row.facing[2]);
    "up_x", "", Some(0), |row, _| Cell::Single(row.up[0]);
    "up_y", "", Some(1), |row, _| Cell::Single(row.up[1]);
    "up_z", "", Some(2), |row, _| Cell::Single(row.up[2]);
    "steer_x", "", None, |row, _| Cell::Single(row.steer[0]);
    "steer_y", "", None, |row, _| Cell::Single(row.steer[1]);
    "held", "", None, |row, _| {
        Cell::Text(row.held.each().filter_map(Actions::name).collect::<Vec<_>>().join(" "))
    };
    "events", "", None, |row, dimensions| {
        Cell::Text(row.events.iter().map(|event| event.in_words(dimensions)).collect::<Vec<_>>().join("; "))
    };
}
