//! Tuning files.
//!
//! ```toml
//! title = "The lamplighter"
//! scale = 1             # units of length per metre, as 32 for numbers in pixels
//! up = "y"              # the axis that points up: "y", "-y", "z" or "-z"
//!
//! [hull]
//! shape = "capsule"     # capsule, ball or box
//! radius = 0.3
//! height = 1.7
//!
//! steering = "view"     # usual, side, plan, view, body, gaze, hop
//! face = "eyes"         # course, eyes, host
//!
//! [walk]                # each knob as in `rasant knobs`
//! speed = 4.2
//! ```

use std::path::Path;

use rasant::tuning::{KnobError, Unit};
use rasant::{Face, Hull, HullShape, Steering, Tuning};

use crate::axes::{UpAxis, scale_of};
use crate::numbers::{HULL_KNOBS, shape_name};
use crate::renamed::renamed;
use crate::table::{Table, Value, parse};
use crate::{Files, Game, Problem, Source};

/// A tuning with its hull.
///
/// In a file with a `scale`, lengths, speeds and accelerations are in units of which so many are a
/// metre, as pixels. They stay in these units: see [`Tuning::scaled`].
#[derive(Clone, Debug, PartialEq)]
pub struct TuningFile {
    /// The title.
    pub title: String,
    /// How the body moves.
    pub tuning: Tuning,
    /// The hull of the body.
    pub hull: Hull,
    /// The axis that points up in the levels of this tuning, if the file states it. A level with another
    /// axis does not accept the tuning: see [`World::suit`](crate::World::suit).
    pub up: Option<UpAxis>,
}

impl Default for TuningFile {
    /// Every knob at its default, with the default hull: a capsule, 1.7 m high and 0.6 m wide.
    fn default() -> Self {
        Game::default().tuning_file()
    }
}

impl TuningFile {
    /// The same motion in a unit of which `factor` are one of the present unit: see
    /// [`Tuning::scaled`].
    ///
    /// # Errors
    /// If the factor is not a finite number above 0.
    pub fn scaled(&self, factor: f32) -> Result<Self, rasant::ScaleError> {
        let (tuning, hull) = (self.tuning.scaled(factor)?, self.hull.scaled(factor)?);
        Ok(Self { tuning, hull, ..self.clone() })
    }
}

/// Reads a tuning file.
///
/// # Errors
/// A [`Problem`] with the file, or with any key or value in it.
pub fn read_tuning(files: &dyn Files, path: &Path) -> Result<TuningFile, Problem> {
    let source = Source { name: path.display().to_string().into(), text: files.read(path)?.into() };
    parse(&source, |table| tuning_of(table, &files.game().tuning()))
}

/// Writes a tuning file: its hull, its rules, and every knob that is not at its default. It reads
/// back to the same tuning.
#[must_use]
pub fn write_tuning(file: &TuningFile) -> String {
    let quoted = |text: &str| toml::Value::from(text).to_string();
    let name = |names: &[(&'static str, Steering)]| {
        names.iter().find(|(_, it)| *it == file.tuning.steering).map_or("usual", |(name, _)| *name)
    };
    let mut text = format!("title = {}\n", quoted(&file.title));
    let scale = file.tuning.scale;
    if scale != 1.0 {
        text += &format!("scale = {scale}\n");
    }
    if let Some(up) = file.up {
        text += &format!("up = \"{}\"\n", up.name());
    }
    if file.tuning.steering != Steering::default() {
        text += &format!("steering = \"{}\"\n", name(&Steering::NAMES));
    }
    if file.tuning.face != Face::default()
        && let Some((face, _)) = Face::NAMES.iter().find(|(_, it)| *it == file.tuning.face)
    {
        text += &format!("face = \"{face}\"\n");
    }
    text += &format!("\n[hull]\nshape = \"{}\"\n", shape_name(&file.hull));
    for (key, size) in sizes(file) {
        text += &format!("{key} = {size}\n");
    }
    let mut group = "";
    for knob in file.tuning.knobs() {
        let knob = knob.scaled(scale);
        let value = file.tuning.get(knob.path).unwrap_or(knob.default);
        // Converting degrees to radians and back may change the last digit.
        let value = if (value - knob.default).abs() <= 4.0 * f32::EPSILON * value.abs() {
            knob.default
        } else {
            value
        };
        if value == knob.default {
            continue;
        }
        let (own, key) = group_of(knob.path);
        if own != group {
            text += &format!("\n[{own}]\n");
            group = own;
        }
        let shown = if knob.unit == Unit::Switch { (value >= 0.5).to_string() } else { value.to_string() };
        text += &format!("{key} = {shown}\n");
    }
    text
}

/// The sizes that describe a file's hull, by their keys.
fn sizes(file: &TuningFile) -> impl Iterator<Item = (&'static str, f32)> {
    let own = HULL_KNOBS.iter().filter(|knob| file.is_described_by(knob.path));
    own.filter_map(|knob| Some((group_of(knob.path).1, file.number(knob.path)?)))
}

/// Replaces the numbers in the text of a tuning file, including those of its hull. Comments, order
/// and everything else stay, including the rules `steering` and `face`.
///
/// # Errors
/// A [`Problem`] with the text.
pub fn edit_tuning(text: &str, numbers: &TuningFile) -> Result<String, Problem> {
    let source = Source { name: "the tuning file".into(), text: text.into() };
    let held = parse(&source, |table| tuning_of(table, &with_defaults(numbers.tuning)))?;
    let broken =
        |error: &dyn std::fmt::Display| Problem::unreadable(Path::new("the tuning file"), &error.to_string());
    let mut document: toml_edit::DocumentMut =
        text.parse().map_err(|error: toml_edit::TomlError| broken(&error))?;
    for knob in numbers.tuning.knobs() {
        let (old, new) = (held.tuning.get(knob.path), numbers.tuning.get(knob.path));
        let (Ok(old), Ok(new)) = (old, new) else { continue };
        if old == new {
            continue;
        }
        let (group, key) = group_of(knob.path);
        let value: toml_edit::Value = match knob.unit {
            Unit::Switch => (new >= 0.5).into(),
            unit if unit.is_whole() => (new.round() as i64).into(),
            // The shortest text that reads back to the same number.
            _ => new.to_string().parse::<f64>().unwrap_or(f64::from(new)).into(),
        };
        put(&mut document, group, key, value).map_err(|error| broken(&error))?;
    }
    edit_hull(&mut document, &held, numbers).map_err(|error| broken(&error))?;
    Ok(document.to_string())
}

/// Updates the sizes of the hull that differ, and its shape, in the text.
fn edit_hull(
    document: &mut toml_edit::DocumentMut,
    held: &TuningFile,
    numbers: &TuningFile,
) -> Result<(), String> {
    if held.hull == numbers.hull {
        return Ok(());
    }
    let is_new = document.get("hull").is_none();
    let shape = shape_name(&numbers.hull);
    if is_new || shape != shape_name(&held.hull) {
        put(document, "hull", "shape", shape.into())?;
    }
    for (key, size) in sizes(numbers) {
        let path = HULL_KNOBS.iter().find(|knob| group_of(knob.path).1 == key).map_or("", |knob| knob.path);
        if is_new || !held.is_described_by(path) || held.number(path) != Some(size) {
            put(document, "hull", key, size.to_string().parse().unwrap_or(f64::from(size)).into())?;
        }
    }
    // Keys that the new shape does not have would be errors.
    if let Some(table) = document.get_mut("hull").and_then(toml_edit::Item::as_table_like_mut) {
        for knob in HULL_KNOBS.iter().filter(|knob| !numbers.is_described_by(knob.path)) {
            table.remove(group_of(knob.path).1);
        }
    }
    Ok(())
}

/// Sets a value in a table of a document. The table is created if it does not exist. Comments
/// beside a value stay.
pub fn put(
    document: &mut toml_edit::DocumentMut,
    group: &str,
    key: &str,
    value: toml_edit::Value,
) -> Result<(), String> {
    let table = document.entry(group).or_insert(toml_edit::table());
    let table = table.as_table_like_mut().ok_or_else(|| format!("`{group}` is not a table"))?;
    match table.get_mut(key).and_then(toml_edit::Item::as_value_mut) {
        Some(there) => {
            let decor = there.decor().clone();
            *there = value;
            *there.decor_mut() = decor;
        }
        None => {
            table.insert(key, toml_edit::value(value));
        }
    }
    Ok(())
}

/// The default tuning, with the same list of moves.
fn with_defaults(mut tuning: Tuning) -> Tuning {
    for knob in tuning.knobs() {
        let default = knob.scaled(tuning.scale).default;
        tuning.set(knob.path, default).expect("a default is in its range");
    }
    tuning
}

/// The problem with a facing that has its name of an earlier version.
fn renamed_face(value: Value<'_>) -> Option<Problem> {
    let found = value.text().ok()?;
    let new = renamed(&format!("face.{found}"))?;
    let new = new.strip_prefix("face.")?;
    Some(value.problem(format!("unknown word \"{found}\"")).expecting(format!("`{new}`, its new name")))
}

/// Reads a tuning from its table. Numbers that it does not mention are those of `base`.
///
/// # Errors
/// A [`Problem`] with any key or value in it.
pub fn tuning_of(mut table: Table<'_>, base: &Tuning) -> Result<TuningFile, Problem> {
    let title = table.get("title").map(Value::line).transpose()?.unwrap_or("untitled").to_owned();
    let scale = scale_of(&mut table)?.unwrap_or(base.scale);
    let up = UpAxis::read(&mut table, 3)?;
    let scaled = |error: rasant::ScaleError| table.problem(error.to_string());
    let mut tuning = base.scaled(scale / base.scale).map_err(scaled)?;
    let own_hull = TuningFile::default().hull.scaled(scale).map_err(scaled)?;
    // Not the product, which may differ from it in the last digit.
    tuning.scale = scale;
    let hull = match table.table("hull")? {
        Some(hull) => hull_of(hull)?,
        None => own_hull,
    };
    if let Some(value) = table.get("steering") {
        tuning.steering = value.choice(&Steering::NAMES)?;
    }
    if let Some(value) = table.get("face") {
        tuning.face = value.choice(&Face::NAMES).map_err(|problem| renamed_face(value).unwrap_or(problem))?;
    }
    let all = tuning.knobs();
    let mut groups: Vec<&str> = all.iter().map(|knob| group_of(knob.path).0).collect();
    groups.dedup();
    for group in groups {
        let Some(mut group_table) = table.table(group)? else { continue };
        for knob in all.iter().filter(|knob| group_of(knob.path).0 == group) {
            if let Some(value) = group_table.get(group_of(knob.path).1) {
                set(&mut tuning, knob.path, value)?;
            }
        }
        group_table.finish()?;
    }
    table.finish()?;
    Ok(TuningFile { title, tuning, hull, up })
}

/// The group and the name of a knob, from its path.
fn group_of(path: &str) -> (&str, &str) {
    path.split_once('.').unwrap_or(("", path))
}

fn set(tuning: &mut Tuning, path: &str, value: Value<'_>) -> Result<(), Problem> {
    let switch = tuning.knob(path).is_ok_and(|knob| knob.unit == Unit::Switch);
    let number = if switch { f32::from(u8::from(value.flag()?)) } else { value.number()? };
    match tuning.set(path, number) {
        Ok(()) => Ok(()),
        Err(KnobError::Range { knob, value: found }) => {
            Err(value.problem(format!("`{path}` is {found}")).expecting(knob.range().to_string()))
        }
        Err(error) => Err(value.problem(error.to_string())),
    }
}

/// Reads a hull from its table: `shape` and its sizes, and optionally `clearance`.
///
/// # Errors
/// A [`Problem`] with any key or value in it.
pub fn hull_of(mut table: Table<'_>) -> Result<Hull, Problem> {
    #[derive(Clone, Copy)]
    enum Form {
        Capsule,
        Ball,
        Box,
    }
    let forms = [("capsule", Form::Capsule), ("ball", Form::Ball), ("box", Form::Box)];
    let form = table.need("shape", "\"capsule\", \"ball\" or \"box\"")?.choice(&forms)?;
    let mut size = |key: &str| -> Result<f32, Problem> { table.need(key, "a length")?.number() };
    let shape = match form {
        Form::Capsule => HullShape::Capsule { radius: size("radius")?, height: size("height")? },
        Form::Ball => HullShape::Ball { radius: size("radius")? },
        Form::Box => {
            let (width, height) = (size("width")?, size("height")?);
            let depth = table.get("depth").map(Value::number).transpose()?.unwrap_or(width);
            let rounding = table.get("rounding").map(Value::number).transpose()?.unwrap_or(0.0);
            HullShape::Box { width, depth, height, rounding }
        }
    };
    let clearance = table.get("clearance").map(Value::number).transpose()?;
    let whole = |error: rasant::contact::HullError| table.problem(format!("the hull's {error}"));
    let hull = Hull::new(shape).map_err(whole)?;
    let hull = match clearance {
        Some(clearance) => hull.with_clearance(clearance).map_err(whole)?,
        None => hull,
    };
    table.finish()?;
    Ok(hull)
}
