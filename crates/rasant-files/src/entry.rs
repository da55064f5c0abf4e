//! Values of a level file, as the page edits them.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// The fields of a part, by their keys.
pub type Fields = BTreeMap<String, Entry>;

/// The value of a field.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "json-schema", derive(schemars::JsonSchema))]
#[serde(untagged)]
pub enum Entry {
    /// `true` or `false`.
    Flag(bool),
    /// A number, with the fewest digits.
    Number(f64),
    /// A text.
    Text(String),
    /// A point, or a list of them.
    List(Vec<Entry>),
    /// A ball.
    Table(Fields),
}
