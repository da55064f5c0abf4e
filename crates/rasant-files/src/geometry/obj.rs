//! Plain meshes: Wavefront OBJ. Only vertices and faces are read.
//!
//! Lengths are metres and y is up, unless the level says otherwise. The words in the name of an
//! object or a group give its meaning, as for a node of a model.

use std::ops::Range;

use rasant::glam::Vec3;

use super::Import;
use super::attributes::Attributes;
use super::spatial::{Part, Parts, labels_in_name};
use super::triangles::cut;
use crate::assembly::Assembly;
use crate::{Problem, Source};

/// The maximum number of vertices.
const MOST_VERTICES: usize = 10_000_000;
/// Statements that are skipped, because they do not affect the shape.
const SILENT: [&str; 8] = ["vt", "vn", "vp", "s", "usemtl", "mtllib", "mg", "l"];

/// Adds the meshes of a file to a level.
pub(super) fn add(import: &Import<'_, Vec3>, assembly: &mut Assembly<Vec3>) -> Result<(), Problem> {
    let bytes = import.files.read_bytes(&import.path)?;
    // The format is older than UTF-8: names in it are often Latin-1, whose bytes are the
    // characters.
    let text = String::from_utf8(bytes)
        .unwrap_or_else(|error| error.into_bytes().into_iter().map(char::from).collect());
    let joined = with_lines_joined(&text);
    let source = Source { name: import.path.display().to_string().into(), text: text.into() };
    let to_level = import.model_to_level();
    let plain = Attributes::new(import.surface, import.layers);
    let mut parts = Parts::default();
    let (mut labels, mut attributes) = (labels_in_name("", &assembly.game), plain.clone());
    let mut vertices: Vec<Vec3> = Vec::new();
    let mut triangles: Vec<[Vec3; 3]> = Vec::new();
    let mut object = String::new();
    let mut line_start = 0;
    for line in joined.split_inclusive('\n') {
        let start = line_start;
        line_start += line.len();
        let words = words_of(line, start);
        let Some(((statement, at), arguments)) = words.split_first() else { continue };
        match *statement {
            "v" => {
                let place = vertex(&source, at, arguments)?;
                if vertices.len() == MOST_VERTICES {
                    let found = format!("found more than {MOST_VERTICES} vertices");
                    return Err(Problem::at(&source, at.clone(), found).expecting("fewer"));
                }
                vertices.push(to_level.transform_point3(place.as_dvec3()).as_vec3());
            }
            "f" => {
                triangles.extend(cut(&face(&source, at, arguments, &vertices)?));
            }
            "o" | "g" => {
                let done = std::mem::take(&mut triangles);
                let part = Part { triangles: done, start: None };
                parts.add(part, &attributes, &labels, assembly).map_err(|(found, expected)| {
                    Problem::at(&source, at.clone(), found).expecting(expected)
                })?;
                let name = arguments.iter().map(|(word, _)| *word).collect::<Vec<_>>().join(" ");
                let group = if *statement == "g" {
                    name
                } else {
                    object = name;
                    String::new()
                };
                labels = labels_in_name(&format!("{object} {group}"), &assembly.game);
                attributes = plain.inside(&labels, assembly).map_err(|(found, expected)| {
                    Problem::at(&source, at.clone(), found).expecting(expected)
                })?;
            }
            other if SILENT.contains(&other) || other.starts_with('#') => {}
            other => assembly.leave_out(format!("statement `{other}`")),
        }
    }
    let end = source.text.len();
    let part = Part { triangles, start: None };
    let wrong = |(found, expected)| Problem::at(&source, end..end, found).expecting(expected);
    parts.add(part, &attributes, &labels, assembly).map_err(wrong)?;
    parts.finish(assembly).map_err(wrong)
}

/// The text with a space in place of each backslash at the end of a line and of the line break:
/// each statement is then on one line, and every byte keeps its position.
fn with_lines_joined(text: &str) -> String {
    text.replace("\\\r\n", "   ").replace("\\\n", "  ")
}

/// The words of a line before a comment, with their positions.
fn words_of(line: &str, start: usize) -> Vec<(&str, Range<usize>)> {
    let line = line.split('#').next().unwrap_or("");
    let place = |word: &str| {
        let at = start + (word.as_ptr() as usize - line.as_ptr() as usize);
        at..at + word.len()
    };
    line.split_whitespace().map(|word| (word, place(word))).collect()
}

fn vertex(source: &Source, at: &Range<usize>, words: &[(&str, Range<usize>)]) -> Result<Vec3, Problem> {
    let mut place = [0.0f32; 3];
    for (number, part) in place.iter_mut().enumerate() {
        let Some((word, at)) = words.get(number) else {
            let found = format!("found a vertex with {} numbers", words.len());
            return Err(Problem::at(source, at.clone(), found).expecting("three"));
        };
        let read = word.parse::<f32>().ok().filter(|number| number.is_finite());
        *part = read.ok_or_else(|| {
            Problem::at(source, at.clone(), format!("found `{word}`")).expecting("a finite number")
        })?;
    }
    Ok(Vec3::from_array(place))
}

/// The corners of a face: numbers from 1, or negative numbers from the last vertex backwards.
fn face(
    source: &Source,
    at: &Range<usize>,
    words: &[(&str, Range<usize>)],
    vertices: &[Vec3],
) -> Result<Vec<Vec3>, Problem> {
    if words.len() < 3 {
        let found = format!("found a face with {} corners", words.len());
        return Err(Problem::at(source, at.clone(), found).expecting("three or more"));
    }
    let corner = |(word, at): &(&str, Range<usize>)| {
        let number = word.split('/').next().and_then(|number| number.parse::<i64>().ok());
        let place = number.and_then(|number| match number {
            1.. => usize::try_from(number - 1).ok(),
            0 => None,
            _ => vertices.len().checked_sub(usize::try_from(number.unsigned_abs()).ok()?),
        });
        place.and_then(|place| vertices.get(place)).copied().ok_or_else(|| {
            Problem::at(source, at.clone(), format!("found the corner `{word}`"))
                .expecting(format!("the number of a vertex above, 1 to {}", vertices.len()))
        })
    };
    words.iter().map(corner).collect()
}
