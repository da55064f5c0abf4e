//! A level that is edited part by part.
//!
//! The draft is the text of the file, so that its comments and order stay. The result of a change
//! is read by the same strict reader as any file; if that reports a problem, nothing changes.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, Value};

use crate::attached::{Attached, Remembering, below};
use crate::chunks::{PieceEdit, chunk_of, edit};
use crate::entry::{Entry, Fields};
use crate::level::{World, level_from, level_source};
use crate::{Files, Game, Problem, Source};

/// The text of a level file, with the changes made to it.
#[derive(Clone, Debug, PartialEq)]
pub struct LevelDraft {
    text: String,
    attached: Attached,
}

/// Files by their paths.
pub type Packed = Vec<(PathBuf, Vec<u8>)>;

/// A piece or a zone of a draft.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case", deny_unknown_fields)]
pub struct Part {
    /// The list of the file that it is in.
    pub of: Parts,
    /// Its index there, from 0.
    pub number: usize,
}

/// A list of parts in a level file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Parts {
    /// `[[piece]]`
    Piece,
    /// `[[zone]]`
    Zone,
}

/// The path of a carrier between its first and its last keyframe.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
pub struct PathLeg {
    /// The displacement in metres, along each axis.
    pub by: Vec<f64>,
    /// The duration.
    pub seconds: f64,
}

/// A change to a draft.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
#[serde(tag = "do", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Change {
    /// Adds a part at the end of its list.
    Add {
        /// The list.
        of: Parts,
        /// The fields of the part.
        fields: Fields,
    },
    /// Sets fields of a part. Fields without a value are removed.
    Set {
        /// The part.
        part: Part,
        /// The new values.
        fields: BTreeMap<String, Option<Entry>>,
    },
    /// Moves a part.
    Shift {
        /// The part.
        part: Part,
        /// The displacement in metres, along each axis.
        by: Vec<f64>,
    },
    /// Adds a copy of a part.
    Copy {
        /// The part.
        part: Part,
        /// The displacement of the copy, in metres along each axis.
        by: Vec<f64>,
    },
    /// Several changes as one.
    All {
        /// The changes, in order.
        changes: Vec<Change>,
    },
    /// Removes a part.
    Delete {
        /// The part.
        part: Part,
    },
    /// Makes a piece or zone move to and fro, or stand still again.
    Ride {
        /// The part.
        part: Part,
        /// The displacement from where it is, in metres along each axis. `None` to stand still.
        by: Option<Vec<f64>>,
        /// Seconds from one end to the other.
        seconds: f64,
    },
}

impl Parts {
    fn key(self) -> &'static str {
        match self {
            Self::Piece => "piece",
            Self::Zone => "zone",
        }
    }
}

/// The keys that hold the points of a part.
const POINTS: [&str; 6] = ["block", "box", "polygon", "segment", "solid", "facet"];

impl LevelDraft {
    /// A draft of the text of a level file that refers to no other file.
    #[must_use]
    pub fn new(text: &str) -> Self {
        Self { text: text.to_owned(), attached: Attached::default() }
    }

    /// The draft, with what a game adds to files.
    #[must_use]
    pub fn in_game(mut self, game: Game) -> Self {
        self.attached.game = game;
        self
    }

    /// What the game adds to files.
    #[must_use]
    pub fn game(&self) -> Game {
        self.attached.game
    }

    /// Reads a draft of a level file, with the files that it refers to: those are not read again.
    /// Returns the draft and its level.
    ///
    /// # Errors
    /// A [`Problem`] with the file, with a file that it refers to, or with their contents.
    pub fn read(files: &dyn Files, path: &Path) -> Result<(Self, World), Problem> {
        Self::of(level_source(files, path)?, files, path)
    }

    /// Reads the files that the text refers to again, relative to `base`. Returns the draft and its
    /// level.
    ///
    /// # Errors
    /// A [`Problem`] with those files, or with their contents.
    pub fn again(&self, files: &dyn Files, base: &Path) -> Result<(Self, World), Problem> {
        let name = base.display().to_string().into();
        Self::of(Source { name, text: self.text.as_str().into() }, files, base)
    }

    fn of(source: Source, files: &dyn Files, path: &Path) -> Result<(Self, World), Problem> {
        let remembering = Remembering::new(files, path);
        let world = level_from(&source, &remembering, path)?;
        Ok((Self { text: source.text.to_string(), attached: remembering.attached() }, world))
    }

    /// The paths of the files that it refers to, relative to its folder. Files outside of that
    /// folder are omitted.
    pub fn named(&self) -> impl Iterator<Item = &Path> {
        self.attached.iter().map(|(path, _)| path).filter(|path| !path.starts_with("_"))
    }

    /// The text, a level file.
    #[must_use]
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Each part that can be changed, with its fields, and the path of its carrier. Meshes and
    /// height grids are not parts.
    ///
    /// # Errors
    /// A [`Problem`] if the text is not TOML.
    pub fn parts(&self) -> Result<Vec<(Part, Fields, Option<PathLeg>)>, Problem> {
        let mut document = self.document()?;
        let carriers = document.get("carriers").cloned().unwrap_or_default();
        let mut parts = Vec::new();
        for of in [Parts::Piece, Parts::Zone] {
            let tables = tables_of(&mut document, of)?;
            for (number, table) in tables.iter().enumerate() {
                let fields =
                    table.iter().filter_map(|(key, item)| Some((key.to_owned(), entry(item.as_value()?)?)));
                let path_leg = table
                    .get("carrier")
                    .and_then(Item::as_str)
                    .and_then(|name| path_leg(carriers.get(name)?));
                parts.push((Part { of, number }, fields.collect(), path_leg));
            }
        }
        Ok(parts)
    }

    /// Applies a change. Returns the new draft and its level.
    ///
    /// # Errors
    /// A [`Problem`] if there is no such part, or if the result is not a valid level.
    pub fn changed(&self, change: &Change) -> Result<(Self, World), Problem> {
        let mut document = self.document()?;
        apply(&mut document, change)?;
        let draft = Self { text: document.to_string(), attached: self.attached.clone() };
        let world = draft.world()?;
        Ok((draft, world))
    }

    /// As [`changed`](Self::changed), for a change of pieces without names: only those are read again,
    /// and `world`, the level of this draft, is edited. It takes milliseconds also in a level of
    /// 100,000 pieces. Returns the new draft, its level, and what was done to the pieces in order.
    /// `None` if the change is of another kind, or if the result would not be a valid level; then
    /// `changed` reads all of it, and says what is wrong.
    #[must_use]
    pub fn edited(&self, change: &Change, world: &World) -> Option<(Self, World, Vec<PieceEdit>)> {
        let (mut text, mut world) = (self.text.clone(), world.clone());
        let edits = match &mut world {
            World::Plane(file) => edit(&mut text, file, change)?,
            World::Space(file) => edit(&mut text, file, change)?,
        };
        Some((Self { text, attached: self.attached.clone() }, world, edits))
    }

    /// The fields of one of the `[[piece]]` tables, of which there are `pieces`. `None` if there is no
    /// such piece, or if it rides on a carrier.
    #[must_use]
    pub fn piece_fields(&self, number: usize, pieces: usize) -> Option<Fields> {
        let chunk = chunk_of(&self.text, number, pieces)?;
        let document: DocumentMut = chunk.parse().ok()?;
        let table = document.get("piece")?.as_array_of_tables()?.get(0)?;
        if table.contains_key("carrier") {
            return None;
        }
        let fields = table.iter().filter_map(|(key, item)| Some((key.to_owned(), entry(item.as_value()?)?)));
        Some(fields.collect())
    }

    /// The level of the draft.
    ///
    /// # Errors
    /// A [`Problem`] with any key or value in it.
    pub fn world(&self) -> Result<World, Problem> {
        let source = Source { name: NAME.into(), text: self.text.as_str().into() };
        level_from(&source, &self.attached, Path::new(""))
    }

    /// The draft for another place: the text of the level, and the files that it refers to, in a
    /// folder beside it.
    ///
    /// # Errors
    /// A [`Problem`] if the text is not TOML.
    pub fn packed(&self, folder: &str) -> Result<(String, Packed), Problem> {
        let mut document = self.document()?;
        if document.contains_key(GEOMETRY) {
            for table in array_of(&mut document, GEOMETRY)?.iter_mut() {
                if let Some(named) = table.get("file").and_then(Item::as_str) {
                    let parts = below(Path::new(named));
                    let parts = parts.iter().map(|part| part.to_string_lossy());
                    let path = std::iter::once(folder.into()).chain(parts).collect::<Vec<_>>().join("/");
                    put(table, "file", path.into());
                }
            }
        }
        let files = self.attached.iter();
        let files = files.map(|(path, bytes)| (Path::new(folder).join(path), bytes.to_vec())).collect();
        Ok((document.to_string(), files))
    }

    fn document(&self) -> Result<DocumentMut, Problem> {
        self.text.parse().map_err(|error: toml_edit::TomlError| wrong(&error))
    }
}

/// The displacement of a carrier from its first keyframe to its last, and the duration. `None` if
/// it has fewer than two.
fn path_leg(carrier: &Item) -> Option<PathLeg> {
    let path = carrier.get("path")?.as_array()?;
    let [first, .., last] = path.iter().collect::<Vec<_>>()[..] else { return None };
    let key = |of: &Value, name: &str| entry(of.as_inline_table()?.get(name)?);
    let point = |of: &Value| match key(of, "offset")? {
        Entry::List(items) => Some(items.iter().filter_map(Entry::number).collect::<Vec<f64>>()),
        _ => None,
    };
    let seconds = |of: &Value| key(of, "time")?.number();
    let by = point(last)?.iter().zip(point(first)?).map(|(to, from)| to - from).collect();
    Some(PathLeg { by, seconds: seconds(last)? - seconds(first)? })
}

/// The key for files of geometry.
const GEOMETRY: &str = "geometry";

/// The name of a draft in problems.
const NAME: &str = "the place";

fn wrong(what: &dyn std::fmt::Display) -> Problem {
    Problem::unreadable(std::path::Path::new(NAME), &what.to_string())
}

/// The tables of a list, in either notation.
fn tables_of(document: &mut DocumentMut, of: Parts) -> Result<&mut toml_edit::ArrayOfTables, Problem> {
    array_of(document, of.key())
}

fn array_of<'a>(
    document: &'a mut DocumentMut,
    key: &str,
) -> Result<&'a mut toml_edit::ArrayOfTables, Problem> {
    let item = document.entry(key).or_insert_with(toml_edit::array);
    if !item.is_array_of_tables() {
        let whole = std::mem::take(item);
        match whole.into_array_of_tables() {
            Ok(tables) => *item = Item::ArrayOfTables(tables),
            Err(_) => return Err(wrong(&format!("`{key}` is not a list of tables"))),
        }
    }
    item.as_array_of_tables_mut().ok_or_else(|| wrong(&"not a list of tables"))
}

fn table_of(document: &mut DocumentMut, part: Part) -> Result<&mut Table, Problem> {
    let tables = tables_of(document, part.of)?;
    let there = tables.len();
    tables.get_mut(part.number).ok_or_else(|| {
        wrong(&format!("there is no {} {}, expected one of {there}", part.of.key(), part.number))
    })
}

pub(crate) fn apply(document: &mut DocumentMut, change: &Change) -> Result<(), Problem> {
    match change {
        Change::All { changes } => {
            for change in changes {
                apply(document, change)?;
            }
        }
        Change::Add { of, fields } => {
            let mut table = Table::new();
            for (key, field) in fields {
                table.insert(key, toml_edit::value(field.value()));
            }
            table.decor_mut().set_prefix("\n");
            tables_of(document, *of)?.push(table);
        }
        Change::Set { part, fields } => {
            let table = table_of(document, *part)?;
            for (key, field) in fields {
                match field {
                    Some(field) => put(table, key, field.value()),
                    None => {
                        table.remove(key);
                    }
                }
            }
        }
        Change::Shift { part, by } => shift(table_of(document, *part)?, by),
        Change::Copy { part, by } => {
            let mut copy = table_of(document, *part)?.clone();
            shift(&mut copy, by);
            // It comes after the last, wherever the first is.
            copy.set_position(None);
            copy.decor_mut().set_prefix("\n");
            tables_of(document, part.of)?.push(copy);
        }
        Change::Delete { part } => {
            table_of(document, *part)?;
            tables_of(document, part.of)?.remove(part.number);
        }
        Change::Ride { part, by: None, .. } => {
            table_of(document, *part)?.remove("carrier");
        }
        Change::Ride { part, by: Some(by), seconds } => {
            let table = table_of(document, *part)?;
            let own = table.get("carrier").and_then(Item::as_str).map(str::to_owned);
            let shared = own.as_ref().is_some_and(|own| riders(document, own) > 1);
            let name = own.filter(|_| !shared).unwrap_or_else(|| free_name(document));
            put(table_of(document, *part)?, "carrier", name.as_str().into());
            let carriers = document.entry("carriers").or_insert_with(implicit);
            let carriers = carriers.as_table_like_mut().ok_or_else(|| wrong(&"`carriers` is not a table"))?;
            if carriers.get(&name).is_none() {
                let mut table = Table::new();
                table.insert("end", toml_edit::value("back-and-forth"));
                table.decor_mut().set_prefix("\n");
                carriers.insert(&name, Item::Table(table));
            }
            let carrier = carriers.get_mut(&name).and_then(Item::as_table_like_mut);
            let carrier = carrier.ok_or_else(|| wrong(&format!("`carriers.{name}` is not a table")))?;
            let mut path = Array::new();
            path.push(keyframe(0.0, &vec![0.0; by.len()]));
            path.push(keyframe(*seconds, by));
            match carrier.get_mut("path").and_then(Item::as_value_mut) {
                Some(there) => replace(there, path.into()),
                None => {
                    carrier.insert("path", toml_edit::value(path));
                }
            }
        }
    }
    Ok(())
}

fn implicit() -> Item {
    let mut table = Table::new();
    table.set_implicit(true);
    Item::Table(table)
}

fn keyframe(time: f64, offset: &[f64]) -> Value {
    let mut table = InlineTable::new();
    table.insert("time", number(time));
    table.insert("offset", offset.iter().map(|&part| number(part)).collect::<Array>().into());
    table.into()
}

/// The number of parts on a carrier.
fn riders(document: &DocumentMut, carrier: &str) -> usize {
    let of = |key: &str| {
        let tables = document.get(key).and_then(Item::as_array_of_tables);
        tables.map_or(0, |tables| {
            tables.iter().filter(|table| table.get("carrier").and_then(Item::as_str) == Some(carrier)).count()
        })
    };
    of("piece") + of("zone")
}

/// A name that no carrier has.
fn free_name(document: &DocumentMut) -> String {
    let is_free = |name: &String| document.get("carriers").is_none_or(|all| all.get(name).is_none());
    (1..).map(|number| format!("lift-{number}")).find(is_free).unwrap_or_default()
}

/// Sets the value of a key, with the formatting of the previous one.
fn put(table: &mut Table, key: &str, value: Value) {
    match table.get_mut(key).and_then(Item::as_value_mut) {
        Some(there) => replace(there, value),
        None => {
            table.insert(key, toml_edit::value(value));
        }
    }
}

fn replace(there: &mut Value, value: Value) {
    let decor = there.decor().clone();
    *there = value;
    *there.decor_mut() = decor;
}

/// Moves every point of a part.
fn shift(table: &mut Table, by: &[f64]) {
    for key in POINTS {
        if let Some(points) = table.get_mut(key).and_then(Item::as_array_mut) {
            for point in points.iter_mut().filter_map(Value::as_array_mut) {
                shift_point(point, by);
            }
        }
    }
    for (key, point) in
        [("ball", "centre"), ("capsule", "from"), ("capsule", "to"), ("cylinder", "from"), ("cylinder", "to")]
    {
        let point = table.get_mut(key).and_then(|shape| shape.get_mut(point));
        if let Some(point) = point.and_then(Item::as_array_mut) {
            shift_point(point, by);
        }
    }
}

fn shift_point(point: &mut Array, by: &[f64]) {
    for (part, by) in point.iter_mut().zip(by) {
        if let Some(before) = entry(part).as_ref().and_then(Entry::number) {
            replace(part, number(before + by));
        }
    }
}

/// A number as the shortest text.
fn number(value: f64) -> Value {
    let value = f64::from(value as f32);
    if value.fract() == 0.0 && value.abs() < 1e6 {
        return (value as i64).into();
    }
    (value as f32).to_string().parse::<f64>().unwrap_or(value).into()
}

fn entry(value: &Value) -> Option<Entry> {
    Some(match value {
        Value::String(text) => Entry::Text(text.value().clone()),
        Value::Integer(whole) => Entry::Number(*whole.value() as f64),
        Value::Float(part) => Entry::Number(*part.value()),
        Value::Boolean(flag) => Entry::Flag(*flag.value()),
        Value::Array(items) => Entry::List(items.iter().map(entry).collect::<Option<_>>()?),
        Value::InlineTable(table) => Entry::Table(
            table.iter().map(|(key, value)| Some((key.to_owned(), entry(value)?))).collect::<Option<_>>()?,
        ),
        Value::Datetime(_) => return None,
    })
}

impl Entry {
    fn number(&self) -> Option<f64> {
        match self {
            Self::Number(number) => Some(*number),
            _ => None,
        }
    }

    fn value(&self) -> Value {
        match self {
            Self::Flag(flag) => (*flag).into(),
            Self::Number(value) => number(*value),
            Self::Text(text) => text.as_str().into(),
            Self::List(items) => items.iter().map(Self::value).collect::<Array>().into(),
            Self::Table(fields) => fields
                .iter()
                .map(|(key, field)| (key.as_str(), field.value()))
                .collect::<InlineTable>()
                .into(),
        }
    }
}
