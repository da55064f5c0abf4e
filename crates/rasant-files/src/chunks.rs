//! Changes of single pieces of a draft, without reading the rest of the file again.
//!
//! The text of a piece is a chunk of the file: its header, its keys, and the comments above it. A
//! change reads and writes the chunk of its piece only, and edits the level, so its cost does not
//! grow with what else is in the file, except for copying the text.

use std::ops::Range;
use std::sync::Arc;

use rasant::{Geometry, Piece, PieceId};
use toml_edit::DocumentMut;

use crate::draft::{Change, Part, Parts, apply};
use crate::level::{LevelFile, Pieces, piece_alone};
use crate::table::parse;
use crate::{Problem, Source};

/// What a change did to the pieces of a file, in order.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PieceEdit {
    /// The piece with this number was changed.
    Set(usize),
    /// A piece was added at the end, with this number.
    Added(usize),
    /// The piece with this number was removed: those after it have moved up.
    Removed(usize),
}

/// Applies a change to a text and its level. `None` if it is not a change of pieces alone, or if
/// something about it is unusual or wrong: then the whole file has to be read.
pub(crate) fn edit<V: Pieces>(
    text: &mut String,
    file: &mut LevelFile<V>,
    change: &Change,
) -> Option<Vec<PieceEdit>> {
    let mut edits = Vec::new();
    edit_one(text, file, change, &mut edits)?;
    Some(edits)
}

fn edit_one<V: Pieces>(
    text: &mut String,
    file: &mut LevelFile<V>,
    change: &Change,
    edits: &mut Vec<PieceEdit>,
) -> Option<()> {
    let of_piece = |part: &Part| (part.of == Parts::Piece).then_some(part.number);
    match change {
        Change::All { changes } => changes.iter().try_for_each(|change| edit_one(text, file, change, edits)),
        Change::Set { part, .. } | Change::Shift { part, .. } => {
            let number = of_piece(part)?;
            let range = chunk(text, number, file.part_ids.len())?;
            let (written, piece) = changed(&text[range.clone()], change, file)?;
            let id = *file.part_ids.get(number)?;
            file.level.replace(id, piece).ok().filter(|is_there| *is_there)?;
            text.replace_range(range, &written);
            edits.push(PieceEdit::Set(number));
            Some(())
        }
        Change::Copy { part, by } => {
            let number = of_piece(part)?;
            let range = chunk(text, number, file.part_ids.len())?;
            let shift = Change::Shift { part: Part { of: Parts::Piece, number: 0 }, by: by.clone() };
            let (written, piece) = changed(&text[range], &shift, file)?;
            // Without the comments about the first.
            let start = written.find("[[piece]]")?;
            add(text, file, &written[start..], piece, edits)
        }
        Change::Add { of: Parts::Piece, .. } => {
            let mut document = DocumentMut::new();
            apply(&mut document, change).ok()?;
            let written = document.to_string();
            let piece = read(written.trim_start(), file)?;
            add(text, file, written.trim_start(), piece, edits)
        }
        Change::Delete { part } => {
            let number = of_piece(part)?;
            if file.level.len() < 2 {
                return None;
            }
            let range = chunk(text, number, file.part_ids.len())?;
            read(&text[range.clone()], file)?;
            let id = *file.part_ids.get(number)?;
            if !file.level.remove(id) {
                return None;
            }
            Arc::make_mut(&mut file.part_ids).remove(number);
            text.replace_range(range, "");
            edits.push(PieceEdit::Removed(number));
            Some(())
        }
        Change::Add { .. } | Change::Ride { .. } => None,
    }
}

/// Adds a piece after the last one of the file.
fn add<V: Geometry>(
    text: &mut String,
    file: &mut LevelFile<V>,
    written: &str,
    piece: Piece<V>,
    edits: &mut Vec<PieceEdit>,
) -> Option<()> {
    let count = file.part_ids.len();
    let end = chunk(text, count.checked_sub(1)?, count)?.end;
    let id: PieceId = file.level.add(piece).ok()?;
    let before = if text[..end].ends_with('\n') { "\n" } else { "\n\n" };
    text.insert_str(end, &format!("{before}{}\n", written.trim_end()));
    Arc::make_mut(&mut file.part_ids).push(id);
    edits.push(PieceEdit::Added(count));
    Some(())
}

/// The chunk of a piece after a change, and the piece that it is then.
fn changed<V: Pieces>(chunk: &str, change: &Change, file: &LevelFile<V>) -> Option<(String, Piece<V>)> {
    // What a piece with a name does may change with it.
    read(chunk, file)?;
    let mut document: DocumentMut = chunk.parse().ok()?;
    let mut alone = change.clone();
    if let Change::Set { part, .. } | Change::Shift { part, .. } = &mut alone {
        part.number = 0;
    }
    apply(&mut document, &alone).ok()?;
    let written = document.to_string();
    let piece = read(&written, file)?;
    Some((written, piece))
}

/// Reads the piece of a chunk. `None` if it is wrong, has a name, or crumbles.
fn read<V: Pieces>(chunk: &str, file: &LevelFile<V>) -> Option<Piece<V>> {
    let source = Source { name: "".into(), text: chunk.into() };
    let piece: Result<Option<Piece<V>>, Problem> = parse(&source, |table| piece_alone(table, file));
    piece.ok()?
}

/// The text of a piece, with the comments above it.
pub(crate) fn chunk_of(text: &str, number: usize, pieces: usize) -> Option<&str> {
    chunk(text, number, pieces).map(|range| &text[range])
}

/// The chunk of a piece. `None` if the text has not this many pieces as tables of their own, or holds
/// texts of several lines, in which a header may be.
fn chunk(text: &str, number: usize, pieces: usize) -> Option<Range<usize>> {
    if text.contains("\"\"\"") || text.contains("'''") {
        return None;
    }
    let line_at = |start: usize| text[start..].split('\n').next().unwrap_or("").trim();
    let first = text.starts_with('[').then_some(0);
    let starts = first.into_iter().chain(text.match_indices("\n[").map(|(at, _)| at + 1));
    let (mut found, mut own, mut next) = (0, None, None);
    for start in starts.filter(|start| is_header(line_at(*start))) {
        if own.is_some() && next.is_none() {
            next = Some(start);
        }
        if line_at(start).starts_with("[[piece]]") {
            own = own.or((found == number).then_some(start));
            found += 1;
        }
    }
    let own = own.filter(|_| found == pieces)?;
    Some(content_before(text, own)..next.map_or(text.len(), |next| content_before(text, next)))
}

/// The end of the last line before a place that is no comment and not empty.
fn content_before(text: &str, place: usize) -> usize {
    let mut end = place;
    for line in text[..place].split_inclusive('\n').rev() {
        let content = line.trim();
        if !content.is_empty() && !content.starts_with('#') {
            break;
        }
        end -= line.len();
    }
    end
}

/// Returns true if a line is the header of a table.
fn is_header(line: &str) -> bool {
    let line = line.split('#').next().unwrap_or("").trim_end();
    let is_name = |sign: char| sign.is_alphanumeric() || "_-.\"' ".contains(sign);
    let inner = line.strip_prefix('[').and_then(|line| line.strip_suffix(']'));
    let inner =
        inner.map(|line| line.strip_prefix('[').and_then(|line| line.strip_suffix(']')).unwrap_or(line));
    inner.is_some_and(|inner| !inner.is_empty() && inner.chars().all(is_name))
}
