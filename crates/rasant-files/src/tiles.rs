//! Levels from rows of characters.
//!
//! ```toml
//! [[tiles]]
//! corner = [0, 0]     # the lower left one, with y down the upper left one
//! size = 1.0          # how wide and high a tile is
//! rows = [            # the first is the top
//!     "@.........",
//!     "....===..^",
//!     "##......I#",
//!     "##########",
//! ]
//! [tiles.legend]      # what other characters stand for
//! "@" = { start = true }
//! "^" = { kind = "hazard" }                   # a zone, with its other keys
//! "I" = { tile = "solid", surface = "ice" }   # or "shelf", with the keys of a piece
//! ```
//!
//! Adjacent tiles become one piece or zone, so that there is no seam between them.

use std::collections::BTreeMap;

use rasant::Piece;
use rasant::glam::Vec2;

use crate::Problem;
use crate::assembly::Assembly;
use crate::axes::{UpAxis, length_in};
use crate::level::{Common, Switches, ZoneKeys, zone_of};
use crate::table::{Table, Value};

/// The meaning of a character.
enum Tile<'a> {
    Solid(Common<'a>),
    /// Solid from above.
    Shelf(Common<'a>),
    Zone(ZoneKeys<'a, Vec2>),
    Start,
    Nothing,
}

/// The thickness of a shelf, as a fraction of a tile's height.
const SHELF: f32 = 0.2;
/// The maximum number of tiles of a table.
const MOST: usize = 1_000_000;

/// Tiles of one character, from one column to another, in one or more rows.
#[derive(Clone, Copy)]
struct Run {
    from: usize,
    to: usize,
    top: usize,
    bottom: usize,
    sign: char,
}

pub(super) fn add_tiles<'a>(
    mut table: Table<'a>,
    assembly: &mut Assembly<Vec2>,
    switches: &mut Switches<'a>,
) -> Result<(), Problem> {
    let corner: Vec2 =
        table.need("corner", "the lower left corner; with y down the upper left one")?.vector()?;
    let size = table.get("size").map(|value| length_in(value, 0.01..=1000.0, assembly.scale)).transpose()?;
    let size = size.unwrap_or(assembly.scale);
    let legend = legend_of(&mut table, assembly)?;
    let rows = table.need("rows", "a list of texts, the top row first")?;
    let read = read_rows(rows, &legend)?;
    table.finish()?;
    let height = read.len();
    let is_down = assembly.up == UpAxis::MinusY;
    for run in merged(&read, &legend) {
        let at = |column: usize, row: usize| {
            corner + Vec2::new(column as f32, if is_down { row } else { height - row } as f32) * size
        };
        let [bottom, top] = [at(run.from, run.bottom + 1), at(run.to, run.top)];
        let (low, high) = (bottom.min(top), bottom.max(top));
        let block =
            |low: Vec2, high: Vec2| Piece::block(low, high).map_err(|error| rows.problem(error.to_string()));
        match &legend[&run.sign] {
            Tile::Solid(keys) => {
                keys.add(block(low, high)?, assembly);
            }
            Tile::Shelf(keys) => {
                let [low, high] = if is_down {
                    [low, Vec2::new(high.x, low.y + SHELF * size)]
                } else {
                    [Vec2::new(low.x, high.y - SHELF * size), high]
                };
                keys.add(block(low, high)?.one_way(), assembly);
            }
            Tile::Zone(keys) => keys.add(low, high, assembly, switches),
            Tile::Start => assembly.start = Some(Vec2::new((low.x + high.x) * 0.5, bottom.y)),
            Tile::Nothing => {}
        }
    }
    Ok(())
}

/// The characters with their meaning: `#`, `=`, `.` and the space, and those of the table's own
/// legend.
fn legend_of<'a>(
    table: &mut Table<'a>,
    assembly: &Assembly<Vec2>,
) -> Result<BTreeMap<char, Tile<'a>>, Problem> {
    let names = &assembly.names;
    let mut legend = BTreeMap::from([('.', Tile::Nothing), (' ', Tile::Nothing)]);
    legend.insert('#', Tile::Solid(Common::of(table, names)?));
    legend.insert('=', Tile::Shelf(Common::of(table, names)?));
    let Some(mut own) = table.table("legend")? else { return Ok(legend) };
    let kinds = assembly.game.zone_kinds::<Vec2>();
    for (key, value) in own.rest() {
        let mut signs = key.chars();
        let (Some(sign), None) = (signs.next(), signs.next()) else {
            return Err(value.problem(format!("found the key \"{key}\"")).expecting("one character"));
        };
        let mut meaning = value.table(format!("tiles.legend.{key}"))?;
        let tile = if let Some(kind) = meaning.get("tile") {
            match kind.choice(&[("solid", 0), ("shelf", 1), ("nothing", 2)])? {
                0 => Tile::Solid(Common::of(&mut meaning, names)?),
                1 => Tile::Shelf(Common::of(&mut meaning, names)?),
                _ => Tile::Nothing,
            }
        } else if meaning.get("start").map(Value::flag).transpose()?.unwrap_or(false) {
            Tile::Start
        } else if meaning.get("kind").is_some() || meaning.get("effects").is_some() {
            Tile::Zone(zone_of(&mut meaning, names, &kinds)?)
        } else {
            return Err(value.problem("found no meaning").expecting(
                "`tile = \"solid\"`, \"shelf\" or \"nothing\", `kind` of a zone, or `start = true`",
            ));
        };
        meaning.finish()?;
        legend.insert(sign, tile);
    }
    Ok(legend)
}

fn read_rows(rows: Value<'_>, legend: &BTreeMap<char, Tile<'_>>) -> Result<Vec<Vec<char>>, Problem> {
    let mut count = 0;
    let mut read = Vec::new();
    for row in rows.items()? {
        let text = row.text()?;
        count += text.len();
        if count > MOST {
            return Err(row
                .problem(format!("found more than {MOST} tiles"))
                .expecting("fewer, in several levels"));
        }
        if let Some((column, sign)) = text.chars().enumerate().find(|(_, sign)| !legend.contains_key(sign)) {
            return Err(row.problem(format!("found `{sign}` in column {}", column + 1)).expecting(
                "`#` for a solid tile, `=` for a shelf that is solid from above, `.` for nothing, or a \
                 character of `legend`",
            ));
        }
        read.push(text.chars().collect());
    }
    Ok(read)
}

/// Runs of equal tiles. Runs that are aligned vertically are merged, except those of shelves and
/// starts.
fn merged(rows: &[Vec<char>], legend: &BTreeMap<char, Tile<'_>>) -> Vec<Run> {
    let stacks = |sign: char| matches!(legend[&sign], Tile::Solid(_) | Tile::Zone(_));
    let mut whole: Vec<Run> = Vec::new();
    let mut above: Vec<Run> = Vec::new();
    for (row, tiles) in rows.iter().enumerate() {
        let mut column = 0;
        let mut here = Vec::new();
        for part in tiles.chunk_by(|a, b| a == b) {
            let (from, to, sign) = (column, column + part.len(), part[0]);
            column = to;
            if matches!(legend[&sign], Tile::Nothing) {
                continue;
            }
            let same = |run: &&Run| (run.from, run.to, run.sign) == (from, to, sign) && stacks(sign);
            let top = above.iter().find(same).map_or(row, |run| run.top);
            here.push(Run { from, to, top, bottom: row, sign });
        }
        let goes_on = |run: &Run| {
            here.iter().any(|other| other.top == run.top && other.from == run.from && other.top < row)
        };
        whole.extend(above.iter().filter(|run| !goes_on(run)));
        above = here;
    }
    whole.extend(above);
    whole
}
