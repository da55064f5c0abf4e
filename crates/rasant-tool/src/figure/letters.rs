//! Text as outlines of the shipped typeface, for a rasteriser without fonts.

use resvg::usvg::roxmltree::{Document, Node};
use ttf_parser::gpos::{PairAdjustment, PositioningSubtable};
use ttf_parser::opentype_layout::LayoutTable;
use ttf_parser::{Face, GlyphId, OutlineBuilder, Tag};

static TYPEFACE: &[u8] = include_bytes!("../../fonts/Roboto-Regular.ttf");

/// Replaces every text of an SVG by the outlines of its letters, laid out as a browser does:
/// kerned, and aligned at its start, middle or end.
pub fn outlined(svg: &str) -> Result<String, String> {
    let document = Document::parse(svg).map_err(|error| error.to_string())?;
    let typeface = Typeface::shipped()?;
    let mut all = String::with_capacity(2 * svg.len());
    let mut copied = 0;
    for text in document.descendants().filter(|node| node.has_tag_name("text")) {
        all += &svg[copied..text.range().start];
        all += &typeface.path_of(&text);
        copied = text.range().end;
    }
    Ok(all + &svg[copied..])
}

/// A typeface with its kerning.
struct Typeface {
    face: Face<'static>,
    pairs: Vec<PairAdjustment<'static>>,
}

impl Typeface {
    fn shipped() -> Result<Self, String> {
        let face = Face::parse(TYPEFACE, 0).map_err(|error| error.to_string())?;
        let pairs = face.tables().gpos.map_or_else(Vec::new, |table| kerning(&table));
        Ok(Self { face, pairs })
    }

    /// A text as a path with the same position, size and colour.
    fn path_of(&self, text: &Node<'_, '_>) -> String {
        let number = |name: &str| text.attribute(name).and_then(|value| value.parse::<f32>().ok());
        let size = number("font-size").unwrap_or_default();
        let em = size / f32::from(self.face.units_per_em());
        // Shifted down by a fraction of the size, to align the middle or top of the line.
        let lowered = text.attribute("dy").and_then(|dy| dy.strip_suffix("em")?.parse::<f32>().ok());
        let letters = self.letters(text.text().unwrap_or_default().trim());
        let width: f32 = letters.iter().map(|(_, advance)| em * advance).sum();
        let begin = match text.attribute("text-anchor") {
            Some("middle") => -0.5 * width,
            Some("end") => -width,
            _ => 0.0,
        };
        let mut pen = Pen {
            x: number("x").unwrap_or_default() + begin,
            y: number("y").unwrap_or_default() + size * lowered.unwrap_or_default(),
            em,
            path: String::new(),
        };
        for (glyph, advance) in letters {
            self.face.outline_glyph(glyph, &mut pen);
            pen.x += em * advance;
        }
        let mut path = format!("<path d=\"{}\"", pen.path);
        for name in ["fill", "opacity", "transform"] {
            if let Some(value) = text.attribute(name) {
                path += &format!(" {name}=\"{value}\"");
            }
        }
        path + "/>"
    }

    /// The letters of a line, each with its advance in the typeface's units.
    fn letters(&self, line: &str) -> Vec<(GlyphId, f32)> {
        let glyphs: Vec<GlyphId> =
            line.chars().map(|letter| self.face.glyph_index(letter).unwrap_or_default()).collect();
        let advance = |place: usize, glyph: GlyphId| {
            let own = self.face.glyph_hor_advance(glyph).unwrap_or_default();
            let closer = glyphs.get(place + 1).map_or(0, |&next| self.closer(glyph, next));
            f32::from(own) + f32::from(closer)
        };
        glyphs.iter().enumerate().map(|(place, &glyph)| (glyph, advance(place, glyph))).collect()
    }

    /// The kerning between two letters.
    fn closer(&self, first: GlyphId, second: GlyphId) -> i16 {
        let found = self.pairs.iter().find_map(|pairs| {
            let covered = pairs.coverage().get(first)?;
            let (value, _) = match pairs {
                PairAdjustment::Format1 { sets, .. } => sets.get(covered)?.get(second)?,
                PairAdjustment::Format2 { classes, matrix, .. } => {
                    matrix.get((classes.0.get(first), classes.1.get(second)))?
                }
            };
            Some(value.x_advance)
        });
        found.unwrap_or_default()
    }
}

/// The pairs of a typeface's kerning (the feature `kern` of OpenType's table
/// `GPOS`).
fn kerning<'a>(table: &LayoutTable<'a>) -> Vec<PairAdjustment<'a>> {
    let kern = Tag::from_bytes(b"kern");
    let lookups = table.features.into_iter().filter(|feature| feature.tag == kern);
    let lookups = lookups.flat_map(|feature| feature.lookup_indices.into_iter());
    let tables = lookups.filter_map(|index| table.lookups.get(index)).flat_map(|lookup| {
        lookup.subtables.into_iter::<PositioningSubtable<'a>>().filter_map(|subtable| match subtable {
            PositioningSubtable::Pair(pairs) => Some(pairs),
            _ => None,
        })
    });
    tables.collect()
}

/// Writes a glyph's outline as path data.
struct Pen {
    x: f32,
    y: f32,
    /// Drawing units per unit of the typeface.
    em: f32,
    path: String,
}

impl Pen {
    fn put<const N: usize>(&mut self, command: char, points: [(f32, f32); N]) {
        self.path.push(command);
        for (x, y) in points {
            self.path += &format!("{:.2} {:.2} ", self.x + self.em * x, self.y - self.em * y);
        }
    }
}

impl OutlineBuilder for Pen {
    fn move_to(&mut self, x: f32, y: f32) {
        self.put('M', [(x, y)]);
    }

    fn line_to(&mut self, x: f32, y: f32) {
        self.put('L', [(x, y)]);
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        self.put('Q', [(x1, y1), (x, y)]);
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        self.put('C', [(x1, y1), (x2, y2), (x, y)]);
    }

    fn close(&mut self) {
        self.path.push('Z');
    }
}
