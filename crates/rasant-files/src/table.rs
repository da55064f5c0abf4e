//! A strict reader for a TOML table.
//!
//! Each key is requested by name; [`Table::finish`] then reports keys that were not requested.

use std::ops::{Range, RangeInclusive};

use rasant::Vector;
use toml::Spanned;
use toml::de::{DeArray, DeTable, DeValue};

use crate::renamed::renamed;
use crate::{Problem, Source};

/// A table of a file, with the keys requested so far.
#[derive(Debug)]
pub struct Table<'a> {
    source: &'a Source,
    table: &'a DeTable<'a>,
    span: Range<usize>,
    path: String,
    read_keys: Vec<String>,
}

/// A value with its position.
#[derive(Clone, Copy, Debug)]
pub struct Value<'a> {
    source: &'a Source,
    value: &'a Spanned<DeValue<'a>>,
}

/// Parses a whole file and reads its table with `read`.
pub fn parse<R>(source: &Source, read: impl FnOnce(Table<'_>) -> Result<R, Problem>) -> Result<R, Problem> {
    let (parsed, errors) = DeTable::parse_recoverable(&source.text);
    let place = |error: &toml::de::Error| error.span().unwrap_or(0..0);
    if let Some(first) = errors.iter().min_by_key(|error| place(error).start) {
        return Err(Problem::at(source, place(first), format!("not valid TOML: {}", first.message())));
    }
    read(Table { source, table: parsed.get_ref(), span: 0..0, path: String::new(), read_keys: Vec::new() })
}

/// The new name of `found`, or else the known word nearest to it, if one is near.
#[must_use]
pub fn nearest<'a>(found: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    /// The length in bytes above which a word is no misspelling: comparing longer words takes long.
    const LONG: usize = 64;
    let known: Vec<&str> = known.into_iter().collect();
    if let Some(word) = renamed(found).and_then(|new| known.iter().find(|word| **word == new)) {
        return Some(word);
    }
    known
        .into_iter()
        .filter(|_| found.len() <= LONG)
        .map(|word| (strsim::damerau_levenshtein(found, word), word))
        .min()
        .filter(|(distance, word)| *distance <= 1 + word.len() / 3)
        .map(|(_, word)| word)
}

impl<'a> Table<'a> {
    /// The value of a key, if it exists.
    pub fn get(&mut self, key: &str) -> Option<Value<'a>> {
        self.read_keys.push(key.to_owned());
        let (_, value) = self.table.iter().find(|(name, _)| name.get_ref().as_ref() == key)?;
        Some(Value { source: self.source, value })
    }

    /// The value of a key that is required.
    pub fn need(&mut self, key: &str, expected: &str) -> Result<Value<'a>, Problem> {
        if let Some(value) = self.get(key) {
            return Ok(value);
        }
        // A key that is spelled almost like this one is a misspelling of it.
        let unread = self
            .table
            .iter()
            .filter(|(name, _)| !self.read_keys.iter().any(|read_keys| read_keys == name.get_ref()));
        for (name, _) in unread {
            if nearest(name.get_ref(), [key]).is_some() {
                let found = self.path_of(name.get_ref());
                return Err(Problem::at(self.source, name.span(), format!("unknown key `{found}`"))
                    .expecting(format!("`{key}`?")));
            }
        }
        let place = if self.path.is_empty() { String::new() } else { format!(" in [{}]", self.path) };
        let message = format!("`{key}` is missing{place}");
        Err(Problem::at(self.source, self.span.clone(), message).expecting(expected))
    }

    /// The table under a key, if it exists.
    pub fn table(&mut self, key: &str) -> Result<Option<Table<'a>>, Problem> {
        let path = self.path_of(key);
        self.get(key).map(|value| value.table(path)).transpose()
    }

    /// The tables of an array of tables; none if the key does not exist.
    pub fn tables(&mut self, key: &str) -> Result<Vec<Table<'a>>, Problem> {
        let path = self.path_of(key);
        let Some(value) = self.get(key) else { return Ok(Vec::new()) };
        let items = value.items()?;
        items.into_iter().map(|item| item.table(path.clone())).collect()
    }

    /// The keys of this table that have not been requested, with their values.
    pub fn rest(&mut self) -> Vec<(&'a str, Value<'a>)> {
        let source = self.source;
        let rest: Vec<_> = self
            .table
            .iter()
            .map(|(name, value)| (name.get_ref().as_ref(), Value { source, value }))
            .filter(|(name, _)| !self.read_keys.iter().any(|read_keys| read_keys == name))
            .collect();
        self.read_keys.extend(rest.iter().map(|(name, _)| (*name).to_owned()));
        rest
    }

    /// Reports keys that were not requested.
    pub fn finish(self) -> Result<(), Problem> {
        for (name, _) in self.table {
            let found = name.get_ref().as_ref();
            if !self.read_keys.iter().any(|read_keys| read_keys == found) {
                return Err(unknown(
                    self.source,
                    name.span(),
                    &format!("unknown key `{}`", self.path_of(found)),
                    found,
                    self.read_keys.iter().map(String::as_str),
                ));
            }
        }
        Ok(())
    }

    /// A problem with this table as a whole.
    pub fn problem(&self, message: impl Into<String>) -> Problem {
        Problem::at(self.source, self.span.clone(), message)
    }

    fn path_of(&self, key: &str) -> String {
        if self.path.is_empty() { key.to_owned() } else { format!("{}.{key}", self.path) }
    }
}

/// A problem with an unknown word: names the nearest known word, or all of them.
fn unknown<'k>(
    source: &Source,
    span: Range<usize>,
    message: &str,
    found: &str,
    known: impl Iterator<Item = &'k str> + Clone,
) -> Problem {
    let problem = Problem::at(source, span, message);
    match nearest(found, known.clone()) {
        Some(near) if renamed(found).is_some_and(|new| new == near) => {
            problem.expecting(format!("`{near}`, its new name"))
        }
        Some(near) => problem.expecting(format!("`{near}`?")),
        None => {
            let all: Vec<String> = known.map(|word| format!("`{word}`")).collect();
            problem.expecting(format!("one of {}", all.join(", ")))
        }
    }
}

impl<'a> Value<'a> {
    /// The position in the source, in bytes.
    pub fn span(&self) -> Range<usize> {
        self.value.span()
    }

    /// A problem with this value.
    pub fn problem(&self, message: impl Into<String>) -> Problem {
        Problem::at(self.source, self.value.span(), message)
    }

    fn wrong(&self, expected: &str) -> Problem {
        let found = match self.value.get_ref() {
            DeValue::String(text) => format!("found the text \"{text}\""),
            DeValue::Integer(number) => format!("found {}", number.as_str()),
            DeValue::Float(number) => format!("found {}", number.as_str()),
            DeValue::Boolean(flag) => format!("found {flag}"),
            DeValue::Datetime(_) => "found a date".to_owned(),
            DeValue::Array(_) => "found a list".to_owned(),
            DeValue::Table(_) => "found a table".to_owned(),
        };
        self.problem(found).expecting(expected)
    }

    /// Returns true if the value is a table.
    pub fn is_table(&self) -> bool {
        self.value.get_ref().is_table()
    }

    /// The value as a table, called `path` in problems.
    ///
    /// # Errors
    /// If it is something else.
    pub fn table(self, path: String) -> Result<Table<'a>, Problem> {
        match self.value.get_ref() {
            DeValue::Table(table) => {
                Ok(Table { source: self.source, table, span: self.value.span(), path, read_keys: Vec::new() })
            }
            _ => Err(self.wrong("a table")),
        }
    }

    /// The value as a list.
    ///
    /// # Errors
    /// If it is something else.
    pub fn items(self) -> Result<Vec<Value<'a>>, Problem> {
        let source = self.source;
        match self.value.get_ref() {
            DeValue::Array(items) => {
                let items: &DeArray<'a> = items;
                Ok(items.iter().map(|value| Value { source, value }).collect())
            }
            _ => Err(self.wrong("a list")),
        }
    }

    /// The value as one line of text for people: without control characters, which no drawing and
    /// no terminal shows.
    pub fn line(self) -> Result<&'a str, Problem> {
        let text = self.text()?;
        match text.chars().find(|sign| sign.is_control()) {
            None => Ok(text),
            Some(sign) => {
                let found = format!("found the control character U+{:04X}", u32::from(sign));
                Err(self.problem(found).expecting("a line of text"))
            }
        }
    }

    /// The value as a text.
    ///
    /// # Errors
    /// If it is something else.
    pub fn text(self) -> Result<&'a str, Problem> {
        match self.value.get_ref() {
            DeValue::String(text) => Ok(text.as_ref()),
            _ => Err(self.wrong("a text")),
        }
    }

    /// The value as a boolean.
    ///
    /// # Errors
    /// If it is something else.
    pub fn flag(self) -> Result<bool, Problem> {
        match self.value.get_ref() {
            DeValue::Boolean(flag) => Ok(*flag),
            _ => Err(self.wrong("true or false")),
        }
    }

    /// The value as an integer, in any radix.
    fn integer(&self) -> Option<i64> {
        let DeValue::Integer(number) = self.value.get_ref() else { return None };
        i64::from_str_radix(number.as_str(), number.radix()).ok()
    }

    /// The value as a finite number.
    pub fn number(self) -> Result<f32, Problem> {
        let expected = "a finite number";
        let number = match self.value.get_ref() {
            // Directly from the text, not through another number type.
            DeValue::Integer(number) if number.radix() == 10 => number.as_str().parse::<f32>().ok(),
            DeValue::Float(number) => number.as_str().parse::<f32>().ok(),
            _ => self.integer().map(|number| number as f32),
        };
        number.filter(|number| number.is_finite()).ok_or_else(|| self.wrong(expected))
    }

    /// The value as a finite number within a range. `unit` is for messages.
    pub fn number_in(self, range: RangeInclusive<f32>, unit: &str) -> Result<f32, Problem> {
        let number = self.number()?;
        if range.contains(&number) {
            Ok(number)
        } else {
            let expected = format!("{} to {} {unit}", range.start(), range.end());
            Err(self.wrong(expected.trim_end()))
        }
    }

    /// The value as a whole number within a range. `unit` is for messages.
    pub fn whole_in(self, range: RangeInclusive<u32>, unit: &str) -> Result<u32, Problem> {
        let number: Option<f64> = match self.value.get_ref() {
            DeValue::Float(number) => number.as_str().parse().ok(),
            _ => self.integer().map(|number| number as f64),
        };
        let whole =
            number.filter(|number| number.fract() == 0.0 && (0.0..=f64::from(u32::MAX)).contains(number));
        match whole.map(|number| number as u32).filter(|number| range.contains(number)) {
            Some(number) => Ok(number),
            None => {
                let expected = format!("a whole number, {} to {} {unit}", range.start(), range.end());
                Err(self.wrong(expected.trim_end()))
            }
        }
    }

    /// The value as a vector with as many numbers as `V` has.
    pub fn vector<V: Vector>(self) -> Result<V, Problem> {
        let expected = format!("a list of {} numbers", V::DIMENSION);
        let items = self.items().map_err(|_| self.wrong(&expected))?;
        if items.len() != V::DIMENSION {
            return Err(self.problem(format!("found a list of {}", items.len())).expecting(expected));
        }
        let mut numbers = [0.0; 3];
        for (number, item) in numbers.iter_mut().zip(items) {
            *number = item.number()?;
        }
        Ok(V::from_array(numbers))
    }

    /// The value as a list of vectors.
    pub fn vectors<V: Vector>(self) -> Result<Vec<V>, Problem> {
        self.items()?.into_iter().map(Value::vector).collect()
    }

    /// The value as one of some words.
    pub fn choice<T: Copy>(self, choices: &[(&str, T)]) -> Result<T, Problem> {
        let found = self.text()?;
        let known = choices.iter().map(|(word, _)| *word);
        choices
            .iter()
            .find(|(word, _)| *word == found)
            .map(|(_, choice)| *choice)
            .ok_or_else(|| self.unknown(&format!("unknown word \"{found}\""), found, known))
    }

    /// A problem with an unknown word.
    pub fn unknown<'k>(
        &self,
        message: &str,
        found: &str,
        known: impl Iterator<Item = &'k str> + Clone,
    ) -> Problem {
        unknown(self.source, self.span(), message, found, known)
    }

    /// The value as a text in a language of its own.
    pub fn embedded(self) -> Result<Embedded<'a>, Problem> {
        Ok(Embedded { text: self.text()?, value: self })
    }
}

/// A text in a file, in a language of its own.
#[derive(Clone, Copy, Debug)]
pub struct Embedded<'a> {
    /// The text.
    pub text: &'a str,
    value: Value<'a>,
}

impl Embedded<'_> {
    /// A problem with some bytes of the text, at their position in the file.
    pub fn problem(&self, span: Range<usize>, message: impl Into<String>) -> Problem {
        let whole = self.value.span();
        let raw = &self.value.source.text[whole.clone()];
        let [start, end] = [span.start, span.end].map(|at| whole.start + place_in(raw, at));
        Problem::at(self.value.source, start..end.max(start), message)
    }
}

/// The position of the byte at `offset` of a TOML string in its raw form, with quotes and escapes.
fn place_in(raw: &str, offset: usize) -> usize {
    let quotes = match raw.get(..3) {
        Some(three @ ("\"\"\"" | "'''")) => three,
        _ => raw.get(..1).unwrap_or(""),
    };
    let newline = match &raw.as_bytes()[quotes.len()..] {
        [b'\n', ..] if quotes.len() == 3 => 1,
        [b'\r', b'\n', ..] if quotes.len() == 3 => 2,
        _ => 0,
    };
    let content = &raw[quotes.len() + newline..];
    let escapes = quotes.starts_with('"');
    let (mut at, mut read) = (0, 0);
    while read < offset {
        let Some(sign) = content[at..].chars().next() else { break };
        if sign == '\\' && escapes {
            let (length, stands_for) = escape(&content[at..]);
            at += length;
            read += stands_for;
        } else {
            at += sign.len_utf8();
            read += sign.len_utf8();
        }
    }
    quotes.len() + newline + at
}

/// The length of an escape sequence, and of the character it stands for, in bytes.
fn escape(text: &str) -> (usize, usize) {
    let digits = match text.as_bytes().get(1) {
        Some(b'x') => 2,
        Some(b'u') => 4,
        Some(b'U') => 8,
        Some(b' ' | b'\t' | b'\r' | b'\n') => {
            // The line continues at the next character that is not a space.
            let rest = text[1..].trim_start_matches([' ', '\t', '\r', '\n']);
            return (text.len() - rest.len(), 0);
        }
        next => return (1 + next.map_or(0, |_| 1), 1),
    };
    let code = text.get(2..2 + digits).and_then(|code| u32::from_str_radix(code, 16).ok());
    (2 + digits, code.and_then(char::from_u32).map_or(1, char::len_utf8))
}
