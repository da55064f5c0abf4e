//! The other bodies of a trial, and how its bodies meet.
//!
//! ```toml
//! strength = 150                  # of the trial's own body, whose name is `player`
//!
//! [[body]]
//! name = "porter"
//! tuning = "porter.toml"          # or a [body.tuning] table
//! start = [6, 0]
//! mass = 90
//! script = "at 0 s: follow player"
//!
//! [[body]]
//! name = "chest"
//! crate = { shape = "box", width = 1, height = 1 }
//! mass = 40
//! start = [3, 0]
//!
//! [[body]]
//! name = "stroller"               # stroller-1 to stroller-12
//! count = 12
//! step = [1.5, 0]                 # from one to the next
//! tuning = "stroller.toml"
//! start = [10, 0]
//! ```

use std::path::Path;
use std::sync::Arc;

use rasant::crowd::DashMeets;
use rasant::{Controller, CrowdBody, Geometry, Steering, Tape};
use rasant_files::table::{Table, Value};
use rasant_files::{Files, Problem, TuningFile, hull_of};

use crate::script::Script;

/// The name of a trial's own body.
pub const PLAYER: &str = "player";

/// The maximum number of other bodies in a trial.
pub const MOST_BODIES: usize = 500;

/// The inputs of a trial.
#[derive(Clone, Debug)]
pub enum Inputs {
    /// A script.
    Script(Script),
    /// A recording.
    Tape(Tape),
}

/// A body of a trial beside its own one.
#[derive(Clone, Debug)]
pub struct OtherBody {
    /// The name, which no other body of the trial has.
    pub name: Arc<str>,
    /// The tuning.
    pub tuning: TuningFile,
    /// Where the middle of the underside starts; z is 0 in two dimensions.
    pub start: [f32; 3],
    /// How it meets others.
    pub meets: Meets,
    /// The inputs.
    pub inputs: Inputs,
    /// The text of its script; empty without one.
    pub script: String,
    /// True if a second player moves it on the page, instead of its inputs.
    pub is_second_player: bool,
}

/// How a body meets others: the fields of [`CrowdBody`] that a trial sets.
#[derive(Clone, Debug, PartialEq)]
pub struct Meets {
    /// In kilograms.
    pub mass: f32,
    /// The mass that it can just not push, in kilograms.
    pub strength: f32,
    /// The gap below which it steps aside, in metres.
    pub spacing: f32,
    /// What its dash does to other bodies.
    pub dash: DashMeets,
    /// The name of the body that it pulls.
    pub pulls: Option<Arc<str>>,
    /// Seconds for which it passes through others after a respawn.
    pub passes_after_respawn: f32,
}

impl Default for Meets {
    /// As [`CrowdBody::new`] has them.
    fn default() -> Self {
        let TuningFile { tuning, hull, .. } = TuningFile::default();
        let CrowdBody { mass, strength, spacing, dash, passes_after_respawn, .. } =
            CrowdBody::new(tuning, hull, rasant::glam::Vec2::ZERO);
        Self { mass, strength, spacing, dash, pulls: None, passes_after_respawn }
    }
}

impl Meets {
    /// Every word for what a dash does to other bodies.
    pub const DASHES: [(&'static str, DashMeets); 3] =
        [("stop", DashMeets::Stop), ("pass", DashMeets::Pass), ("push", DashMeets::Push)];

    /// A body with these numbers, which pulls nothing yet.
    #[must_use]
    pub fn body<V: Geometry>(&self, tuning: &TuningFile, start: [f32; 3], up: V) -> CrowdBody<V> {
        let &Self { mass, strength, spacing, dash, passes_after_respawn, .. } = self;
        let body = Controller::new(tuning.tuning, tuning.hull, V::from_array(start)).with_up(up);
        let body = CrowdBody::from(body);
        CrowdBody { mass, strength, spacing, dash, passes_after_respawn, ..body }
    }

    /// Reads the keys from the table of a body.
    pub(super) fn read(table: &mut Table<'_>) -> Result<Self, Problem> {
        let own = Self::default();
        let mut number = |key: &str, range, unit: &str, own: f32| {
            table.get(key).map_or(Ok(own), |value| value.number_in(range, unit))
        };
        Ok(Self {
            mass: number("mass", 1e-3..=1e6, "kg", own.mass)?,
            strength: number("strength", 0.0..=1e9, "kg", own.strength)?,
            spacing: number("spacing", 0.0..=100.0, "m", own.spacing)?,
            passes_after_respawn: number(
                "passes_after_respawn",
                0.0..=3600.0,
                "s",
                own.passes_after_respawn,
            )?,
            dash: table.get("dash").map_or(Ok(own.dash), |value| value.choice(&Self::DASHES))?,
            pulls: table.get("pulls").map(|value| value.text().map(Arc::from)).transpose()?,
        })
    }

    /// The keys, as they are written in the table of a body: those that are not as usual.
    pub(super) fn text(&self) -> String {
        let usual = Self::default();
        let numbers = [
            ("mass", self.mass, usual.mass),
            ("strength", self.strength, usual.strength),
            ("spacing", self.spacing, usual.spacing),
            ("passes_after_respawn", self.passes_after_respawn, usual.passes_after_respawn),
        ];
        let numbers = numbers.into_iter().filter(|(_, value, usual)| value != usual);
        let mut text: String = numbers.map(|(key, value, _)| format!("{key} = {value}\n")).collect();
        if self.dash != usual.dash {
            let word =
                Self::DASHES.iter().find(|(_, dash)| *dash == self.dash).map_or("stop", |(word, _)| word);
            text += &format!("dash = \"{word}\"\n");
        }
        if let Some(name) = &self.pulls {
            text += &format!("pulls = {}\n", toml::Value::from(&**name));
        }
        text
    }
}

/// A `[[body]]` table whose inputs are not read yet, because they may name any body.
pub(super) struct Written<'a> {
    /// The bodies, with empty inputs.
    pub bodies: Vec<OtherBody>,
    /// The start in the file, for problems.
    pub start: Value<'a>,
    /// The script in the file.
    pub script: Option<Value<'a>>,
    /// The recording in the file.
    pub tape: Option<Value<'a>>,
    /// The name of the body that it pulls, in the file.
    pub pulls: Option<Value<'a>>,
}

/// Reads a `[[body]]` table; `tuning_of` reads its tuning. `own` is the tuning of the trial's own body:
/// crates have its unit of length, and do not fall where it is seen from above.
pub(super) fn written<'a, V: Geometry>(
    mut table: Table<'a>,
    known: &[Arc<str>],
    own: &TuningFile,
    tuning_of: impl FnOnce(Value<'a>) -> Result<TuningFile, Problem>,
) -> Result<Written<'a>, Problem> {
    let named = table.need("name", "a name for the body, which scripts and expectations use")?;
    let name = named.line()?;
    if name.is_empty() || name.contains('"') {
        return Err(named
            .problem(format!("`{name}` cannot be a name"))
            .expecting("one word or more, without quotes"));
    }
    let kind = table.get("crate");
    let tuning = match (table.get("tuning"), kind) {
        (Some(_), Some(kind)) => {
            return Err(kind.problem("there is a tuning as well").expecting("either a tuning or a crate"));
        }
        (Some(value), None) => tuning_of(value)?,
        (None, Some(kind)) => {
            let hull = hull_of(kind.table("body.crate".to_owned())?)?;
            let tuning = CrowdBody::crate_of(1.0, hull, V::ZERO).body.tuning;
            let scale = own.tuning.scale;
            let mut tuning = tuning.scaled(scale).map_err(|error| kind.problem(error.to_string()))?;
            tuning.scale = scale;
            // Seen from above, nothing falls.
            let is_from_above = own.tuning.steering.is_from_above(V::DIMENSION);
            tuning.steering = if is_from_above { Steering::Plan } else { tuning.steering };
            TuningFile { title: name.to_owned(), tuning, hull, up: None }
        }
        (None, None) => table
            .need("tuning", "the path of a tuning file, a [body.tuning] table, or `crate` with a hull")
            .and_then(tuning_of)?,
    };
    let meets = Meets::read(&mut table)?;
    let pulls = table.get("pulls");
    let start = table.need("start", "a point: the middle of the underside")?;
    let first: V = start.vector()?;
    let count =
        table.get("count").map(|value| value.whole_in(1..=MOST_BODIES as u32, "bodies")).transpose()?;
    let step = match (table.get("step"), count) {
        (Some(value), None) => {
            return Err(value.problem("a step without a count").expecting("`count` beside it"));
        }
        (Some(value), Some(_)) => value.vector()?,
        (None, Some(2..)) => table.need("step", "the displacement from one body to the next")?.vector()?,
        (None, _) => V::ZERO,
    };
    let is_second_player = match table.get("player") {
        Some(value) if value.number()? == 2.0 => true,
        Some(value) => {
            return Err(value
                .problem("there is no such player")
                .expecting("2: the trial's own body is the first"));
        }
        None => false,
    };
    let (script, tape) = (table.get("script"), table.get("tape"));
    if let (Some(_), Some(tape)) = (script, tape) {
        return Err(tape.problem("there is a script as well").expecting("either a script or a tape"));
    }
    let script_text = script.map(Value::text).transpose()?.unwrap_or_default().to_owned();
    table.finish()?;
    let each = |number: u32| OtherBody {
        name: if count.is_some() { format!("{name}-{}", number + 1).into() } else { name.into() },
        tuning: tuning.clone(),
        start: (first + step * number as f32).to_array(),
        meets: meets.clone(),
        inputs: Inputs::Script(Script::default()),
        script: script_text.clone(),
        is_second_player,
    };
    let bodies: Vec<OtherBody> = (0..count.unwrap_or(1)).map(each).collect();
    if let Some(taken) = bodies.iter().find(|body| *body.name == *PLAYER || known.contains(&body.name)) {
        let what = match &*taken.name {
            PLAYER => format!("\"{PLAYER}\" is the trial's own body"),
            name => format!("two bodies have the name \"{name}\""),
        };
        return Err(named.problem(what).expecting("another name"));
    }
    Ok(Written { bodies, start, script, tape, pulls })
}

/// Writes a `[[body]]` table; `tuning` and `tape` are paths relative to the trial's folder.
pub(super) fn table_text(body: &OtherBody, tuning: &str, tape: Option<&str>, dimensions: usize) -> String {
    let quoted = |text: &str| toml::Value::from(text).to_string();
    let start: Vec<String> = body.start[..dimensions].iter().map(f32::to_string).collect();
    let mut text = format!(
        "\n[[body]]\nname = {}\ntuning = {}\nstart = [{}]\n{}",
        quoted(&body.name),
        quoted(tuning),
        start.join(", "),
        body.meets.text()
    );
    if body.is_second_player {
        text += "player = 2\n";
    }
    match tape {
        Some(tape) => text += &format!("tape = {}\n", quoted(tape)),
        None if !body.script.is_empty() => text += &format!("script = {}\n", quoted(&body.script)),
        None => {}
    }
    text
}

/// The path of a tuning or its table.
pub(super) fn tuning_in(value: Value<'_>, files: &dyn Files, path: &Path) -> Result<TuningFile, Problem> {
    if value.is_table() {
        rasant_files::tuning_of(value.table("tuning".to_owned())?, &files.game().tuning())
    } else {
        rasant_files::read_tuning(files, &rasant_files::beside(path, value.text()?))
    }
}
