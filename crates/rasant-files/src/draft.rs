//! A level that is being changed, part by part.
//!
//! The draft is the file's own text, so that its comments and its order stay, and
//! what was changed is read by the same strict reader as any file: what that refuses
//! changes nothing.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, Value};

use crate::attached::{Attached, Remembering, below};
use crate::entry::{Entry, Fields};
use crate::level::{World, level_from, level_source};
use crate::{Files, Problem, Source};

/// The text of a level file, and the changes made to it.
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
    /// Which of the file's lists it is in.
    pub of: Parts,
    /// Its place there, from 0.
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

/// One way of a carrier.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
pub struct Way {
    /// In metres, along each axis.
    pub by: Vec<f64>,
    /// How long it takes.
    pub seconds: f64,
}

/// A change of a draft.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
#[serde(tag = "do", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Change {
    /// A new part, at the end of its list.
    Add {
        /// Its list.
        of: Parts,
        /// What it says.
        fields: Fields,
    },
    /// Other values of a part; those without one go.
    Set {
        /// Which.
        part: Part,
        /// What is to be said instead.
        fields: BTreeMap<String, Option<Entry>>,
    },
    /// A part elsewhere.
    Shift {
        /// Which.
        part: Part,
        /// In metres, along each axis.
        by: Vec<f64>,
    },
    /// The same part once more.
    Copy {
        /// Which.
        part: Part,
        /// How far from it, in metres along each axis.
        by: Vec<f64>,
    },
    /// Several, as one.
    All {
        /// The changes, in their order.
        changes: Vec<Change>,
    },
    /// A part no more.
    Delete {
        /// Which.
        part: Part,
    },
    /// A piece or zone that goes to and fro, or stands still again.
    Ride {
        /// Which.
        part: Part,
        /// How far from where it is, in metres along each axis; nowhere for none.
        by: Option<Vec<f64>>,
        /// Seconds of one way.
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

/// The keys under which a part's points are.
const POINTS: [&str; 6] = ["block", "box", "polygon", "segment", "solid", "facet"];

impl LevelDraft {
    /// A draft of a level file's text, one that names no other file.
    #[must_use]
    pub fn new(text: &str) -> Self {
        Self { text: text.to_owned(), attached: Attached::default() }
    }

    /// A draft of a level file, and of what it names: those files are not read again. With the
    /// level that it makes.
    ///
    /// # Errors
    /// A [`Problem`] with the file, with those that it names, or with what is in them.
    pub fn read(files: &dyn Files, path: &Path) -> Result<(Self, World), Problem> {
        Self::of(level_source(files, path)?, files, path)
    }

    /// The same text with what it names read again, from beside `base`, and the level that it
    /// makes now.
    ///
    /// # Errors
    /// A [`Problem`] with those files, or with what is in them.
    pub fn again(&self, files: &dyn Files, base: &Path) -> Result<(Self, World), Problem> {
        let name = base.display().to_string().into();
        Self::of(Source { name, text: self.text.as_str().into() }, files, base)
    }

    fn of(source: Source, files: &dyn Files, path: &Path) -> Result<(Self, World), Problem> {
        let remembering = Remembering::new(files, path);
        let world = level_from(&source, &remembering, path)?;
        Ok((Self { text: source.text.to_string(), attached: remembering.attached() }, world))
    }

    /// The paths of what it names, from its folder on, but for what is outside of that.
    pub fn named(&self) -> impl Iterator<Item = &Path> {
        self.attached.iter().map(|(path, _)| path).filter(|path| !path.starts_with("_"))
    }

    /// Its text, a level file.
    #[must_use]
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Each part that can be changed, with what its file says of it, and how far and
    /// how long one way of its carrier is. Meshes and height grids are no parts.
    ///
    /// # Errors
    /// A [`Problem`] when the text is no TOML.
    pub fn parts(&self) -> Result<Vec<(Part, Fields, Option<Way>)>, Problem> {
        let mut document = self.document()?;
        let carriers = document.get("carriers").cloned().unwrap_or_default();
        let mut parts = Vec::new();
        for of in [Parts::Piece, Parts::Zone] {
            let tables = tables_of(&mut document, of)?;
            for (number, table) in tables.iter().enumerate() {
                let fields =
                    table.iter().filter_map(|(key, item)| Some((key.to_owned(), entry(item.as_value()?)?)));
                let way =
                    table.get("carrier").and_then(Item::as_str).and_then(|name| way(carriers.get(name)?));
                parts.push((Part { of, number }, fields.collect(), way));
            }
        }
        Ok(parts)
    }

    /// The draft after a change, and the level that it makes.
    ///
    /// # Errors
    /// A [`Problem`] when there is no such part, or when what comes out is no level:
    /// what is wrong in it, and where.
    pub fn changed(&self, change: &Change) -> Result<(Self, World), Problem> {
        let mut document = self.document()?;
        apply(&mut document, change)?;
        let draft = Self { text: document.to_string(), attached: self.attached.clone() };
        let world = draft.world()?;
        Ok((draft, world))
    }

    /// The level that it makes.
    ///
    /// # Errors
    /// A [`Problem`] with any key or value in it.
    pub fn world(&self) -> Result<World, Problem> {
        let source = Source { name: NAME.into(), text: self.text.as_str().into() };
        level_from(&source, &self.attached, Path::new(""))
    }

    /// The draft as files elsewhere: the text of a level, and what it names, in a folder
    /// beside it.
    ///
    /// # Errors
    /// A [`Problem`] when the text is no TOML.
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

/// How far a carrier goes from its first place to its last, and in how many seconds;
/// nothing for one that has not two.
fn way(carrier: &Item) -> Option<Way> {
    let path = carrier.get("path")?.as_array()?;
    let [first, .., last] = path.iter().collect::<Vec<_>>()[..] else { return None };
    let key = |of: &Value, name: &str| entry(of.as_inline_table()?.get(name)?);
    let point = |of: &Value| match key(of, "offset")? {
        Entry::List(items) => Some(items.iter().filter_map(Entry::number).collect::<Vec<f64>>()),
        _ => None,
    };
    let seconds = |of: &Value| key(of, "time")?.number();
    let by = point(last)?.iter().zip(point(first)?).map(|(to, from)| to - from).collect();
    Some(Way { by, seconds: seconds(last)? - seconds(first)? })
}

/// The key of files of geometry.
const GEOMETRY: &str = "geometry";

/// What a draft is called where something is wrong in it.
const NAME: &str = "the place";

fn wrong(what: &dyn std::fmt::Display) -> Problem {
    Problem::unreadable(std::path::Path::new(NAME), &what.to_string())
}

/// The tables of a list, written in whatever form.
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
            Err(_) => return Err(wrong(&format!("`{key}` is no list of tables"))),
        }
    }
    item.as_array_of_tables_mut().ok_or_else(|| wrong(&"no list of tables"))
}

fn table_of(document: &mut DocumentMut, part: Part) -> Result<&mut Table, Problem> {
    let tables = tables_of(document, part.of)?;
    let there = tables.len();
    tables.get_mut(part.number).ok_or_else(|| {
        wrong(&format!("there is no {} {}, expected one of {there}", part.of.key(), part.number))
    })
}

fn apply(document: &mut DocumentMut, change: &Change) -> Result<(), Problem> {
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
            // It comes after the last, whatever the place of the first.
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
            let carriers = carriers.as_table_like_mut().ok_or_else(|| wrong(&"`carriers` is no table"))?;
            if carriers.get(&name).is_none() {
                let mut table = Table::new();
                table.insert("end", toml_edit::value("back-and-forth"));
                table.decor_mut().set_prefix("\n");
                carriers.insert(&name, Item::Table(table));
            }
            let carrier = carriers.get_mut(&name).and_then(Item::as_table_like_mut);
            let carrier = carrier.ok_or_else(|| wrong(&format!("`carriers.{name}` is no table")))?;
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

/// How many parts ride on a carrier.
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

/// A value under a key, with what stands round the one before.
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

/// Every point of a part elsewhere.
fn shift(table: &mut Table, by: &[f64]) {
    for key in POINTS {
        if let Some(points) = table.get_mut(key).and_then(Item::as_array_mut) {
            for point in points.iter_mut().filter_map(Value::as_array_mut) {
                shift_point(point, by);
            }
        }
    }
    let centre = table.get_mut("ball").and_then(|ball| ball.get_mut("centre"));
    if let Some(centre) = centre.and_then(Item::as_array_mut) {
        shift_point(centre, by);
    }
}

fn shift_point(point: &mut Array, by: &[f64]) {
    for (part, by) in point.iter_mut().zip(by) {
        if let Some(before) = entry(part).as_ref().and_then(Entry::number) {
            replace(part, number(before + by));
        }
    }
}

/// A number as a level has it, as short as it can be.
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
