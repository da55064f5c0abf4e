//! Errors in an input, with their position.

use std::fmt;
use std::ops::Range;
use std::path::Path;
use std::sync::Arc;

/// A file's name and text.
#[derive(Clone, Debug, PartialEq)]
pub struct Source {
    /// The path of the file.
    pub name: Arc<str>,
    /// Its whole text.
    pub text: Arc<str>,
}

/// An error in an input: where, what, and what was expected.
#[derive(Clone, PartialEq)]
pub struct Problem {
    file: Arc<str>,
    text: Option<Arc<str>>,
    span: Option<Range<usize>>,
    message: String,
    expected: Option<String>,
}

impl Problem {
    /// A file that cannot be read.
    #[must_use]
    pub fn unreadable(path: &Path, reason: &str) -> Self {
        Self {
            file: path.display().to_string().into(),
            text: None,
            span: None,
            message: format!("cannot be read: {reason}"),
            expected: None,
        }
    }

    /// An error in a file that is not text, or in a file as a whole.
    pub fn of_file(path: &Path, message: impl Into<String>) -> Self {
        Self { message: message.into(), ..Self::unreadable(path, "") }
    }

    /// An error at a position in a text.
    pub fn at(source: &Source, span: Range<usize>, message: impl Into<String>) -> Self {
        Self {
            file: source.name.clone(),
            text: Some(source.text.clone()),
            span: Some(span),
            message: message.into(),
            expected: None,
        }
    }

    /// The problem with what was expected.
    #[must_use]
    pub fn expecting(mut self, expected: impl Into<String>) -> Self {
        self.expected = Some(expected.into());
        self
    }

    /// The name of the file.
    #[must_use]
    pub fn file(&self) -> &str {
        &self.file
    }

    /// The text of the file, if it could be read.
    #[must_use]
    pub fn text(&self) -> Option<&str> {
        self.text.as_deref()
    }

    /// The range of the text that is wrong, in bytes.
    #[must_use]
    pub fn span(&self) -> Option<Range<usize>> {
        self.span.clone()
    }

    /// What is wrong.
    #[must_use]
    pub fn message(&self) -> &str {
        &self.message
    }

    /// What was expected instead.
    #[must_use]
    pub fn expected(&self) -> Option<&str> {
        self.expected.as_deref()
    }

    /// Line and column of the start, both from 1. Columns count characters.
    #[must_use]
    pub fn place(&self) -> Option<(usize, usize)> {
        let (text, span) = (self.text.as_ref()?, self.span.as_ref()?);
        let before = text.get(..span.start)?;
        let line = before.matches('\n').count() + 1;
        let column = before.rsplit('\n').next().unwrap_or("").chars().count() + 1;
        Some((line, column))
    }
}

impl fmt::Display for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", self.file)?;
        if let Some((line, column)) = self.place() {
            write!(f, ":{line}:{column}")?;
        }
        write!(f, ": {}", self.message)?;
        if let Some(expected) = &self.expected {
            write!(f, ", expected {expected}")?;
        }
        Ok(())
    }
}

/// As [`fmt::Display`], without the text of the file: a `main` that returns the error prints it so.
impl fmt::Debug for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

impl std::error::Error for Problem {}
