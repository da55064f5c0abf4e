//! Values of a level file, as a page edits them.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// What a part says, by its keys.
pub type Fields = BTreeMap<String, Entry>;

/// A value of a part, as its file has it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
#[serde(untagged)]
pub enum Entry {
    /// `true` or `false`.
    Flag(bool),
    /// A number, as short as it can be.
    Number(f64),
    /// A text.
    Text(String),
    /// A point, or a list of them.
    List(Vec<Entry>),
    /// A ball.
    Table(Fields),
}
