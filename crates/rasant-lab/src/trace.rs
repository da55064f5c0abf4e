//! What happened, tick by tick.

use std::io::{self, Write};

use rasant::Actions;
use rasant::state::Name;
use serde::Serialize;

/// What happened, tick by tick. Row 0 is the start; row `n` is after tick `n`.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Trace {
    /// 2 or 3.
    pub dimensions: usize,
    /// Ticks a second.
    pub rate: u32,
    /// One row a tick.
    pub rows: Vec<Row>,
}

/// The state after a tick, and what the player wanted in it.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Row {
    /// Which tick; 0 is the start.
    pub tick: usize,
    /// Seconds from the start, as the tick ends.
    pub time: f64,
    /// The middle of the underside, in metres.
    pub position: [f32; 3],
    /// In m/s, as the tick ends. Steps, pushes out of walls and what is put elsewhere are in
    /// the position alone.
    pub velocity: [f32; 3],
    /// Along the ground or, airborne, across up, in m/s.
    pub speed: f32,
    /// Along up, in m/s.
    pub rise: f32,
    /// Who is in charge.
    #[serde(serialize_with = "as_text")]
    pub mode: Name,
    /// Who drove the velocity.
    #[serde(serialize_with = "as_text")]
    pub driven_by: Name,
    /// How high the hull is, in metres.
    pub hull_height: f32,
    /// Whether it is lower than the body's own.
    pub crouched: bool,
    /// Whether a wall is touched.
    pub at_wall: bool,
    /// What the feet stand on.
    #[serde(serialize_with = "as_text")]
    pub footing: Name,
    /// The ground's angle in degrees.
    pub slope_deg: f32,
    /// The normal of the ground; up when on nothing.
    pub normal: [f32; 3],
    /// What an animation shows.
    #[serde(serialize_with = "as_text")]
    pub gait: Name,
    /// Where the body faces.
    pub facing: [f32; 3],
    /// The steer.
    pub steer: [f32; 2],
    /// The actions held.
    #[serde(serialize_with = "action_names")]
    pub held: Actions,
    /// What happened in the tick.
    pub events: Vec<EventRow>,
}

/// Something that happened, with where and how hard.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct EventRow {
    /// The event's name.
    pub name: &'static str,
    /// Where it happened, in metres: a jump where it took off, a top at the top, all else
    /// where the body is as the tick ends.
    pub position: [f32; 3],
    /// The speed that goes with it, in m/s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub speed: Option<f32>,
    /// The seconds that go with it: what a refused press missed by.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seconds: Option<f32>,
    /// What else there is to say, in words that [`Self::is_called`] knows.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub detail: Option<String>,
}

impl EventRow {
    /// Whether it goes by `name`: its own, or its own and its detail, as in
    /// `jumped wall` or `zone-entered goal`. Of what is refused, and of maneuvers, the
    /// first word of the detail is enough: `refused dash` is also `refused dash empty`.
    #[must_use]
    pub fn is_called(&self, name: &str) -> bool {
        match name.split_once(' ') {
            None => self.name == name,
            Some((own, asked)) => {
                let detail = self.detail.as_deref().unwrap_or("");
                let in_parts = matches!(own, "refused" | "maneuver-phase");
                let part = detail.split(' ').next().filter(|_| in_parts);
                self.name == own && (detail == asked || part == Some(asked))
            }
        }
    }
}

impl EventRow {
    /// All of it as text: its name, its detail, and its numbers by their names in SI units,
    /// as in `landed on tiles speed=5.6 x=3.01 y=1`.
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
    /// The seconds that it covers.
    #[must_use]
    pub fn duration(&self) -> f64 {
        self.rows.last().map_or(0.0, |row| row.time)
    }

    /// The first tick after which a position or a velocity is no number, or none that
    /// anything moves by: further than 10,000 km, faster than 10,000 km/s.
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

    /// Writes a line a tick as CSV, with a line of names first.
    ///
    /// # Errors
    /// When `out` cannot be written to.
    pub fn write_csv(&self, out: impl Write) -> io::Result<()> {
        let mut csv = csv::Writer::from_writer(out);
        let axes = &AXES[..self.dimensions];
        let per_axis = |suffix: &str| axes.iter().map(|axis| format!("{axis}_{suffix}")).collect::<Vec<_>>();
        let mut names = vec!["tick".to_owned(), "time_s".to_owned()];
        names.extend(per_axis("m"));
        names.extend(axes.iter().map(|axis| format!("v{axis}_m_per_s")));
        names.extend(
            [
                "speed_m_per_s",
                "rise_m_per_s",
                "mode",
                "driven_by",
                "hull_height_m",
                "crouched",
                "at_wall",
                "footing",
                "slope_deg",
                "gait",
            ]
            .map(str::to_owned),
        );
        names.extend(axes.iter().map(|axis| format!("normal_{axis}")));
        names.extend(axes.iter().map(|axis| format!("facing_{axis}")));
        names.extend(["steer_x", "steer_y", "held", "events"].map(str::to_owned));
        csv.write_record(&names)?;
        for row in &self.rows {
            let mut fields = vec![row.tick.to_string(), row.time.to_string()];
            let mut numbers = |numbers: &[f32]| fields.extend(numbers.iter().map(f32::to_string));
            numbers(&row.position[..self.dimensions]);
            numbers(&row.velocity[..self.dimensions]);
            numbers(&[row.speed, row.rise]);
            fields.extend([row.mode, row.driven_by].map(|name| name.to_string()));
            fields.push(row.hull_height.to_string());
            fields.extend([row.crouched, row.at_wall].map(|flag| flag.to_string()));
            fields.push(row.footing.to_string());
            fields.push(row.slope_deg.to_string());
            fields.push(row.gait.to_string());
            fields.extend(row.normal[..self.dimensions].iter().map(f32::to_string));
            fields.extend(row.facing[..self.dimensions].iter().map(f32::to_string));
            fields.extend(row.steer.iter().map(f32::to_string));
            let held: Vec<String> = row.held.each().filter_map(Actions::name).collect();
            fields.push(held.join(" "));
            let events: Vec<String> =
                row.events.iter().map(|event| event.in_words(self.dimensions)).collect();
            fields.push(events.join("; "));
            csv.write_record(&fields)?;
        }
        csv.flush()
    }

    /// Writes a JSON object a tick, a line each.
    ///
    /// # Errors
    /// When `out` cannot be written to.
    pub fn write_json_lines(&self, mut out: impl Write) -> io::Result<()> {
        for row in &self.rows {
            serde_json::to_writer(&mut out, row)?;
            out.write_all(b"\n")?;
        }
        out.flush()
    }
}
