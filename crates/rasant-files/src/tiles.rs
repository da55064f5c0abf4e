//! Levels of rows of characters.
//!
//! ```toml
//! [[tiles]]
//! corner = [0, 0]     # the lower left one
//! size = 1.0          # how wide and high a tile is, in metres
//! rows = [            # the first is the top
//!     "..........",
//!     "....===...",
//!     "##......##",
//!     "##########",
//! ]
//! ```
//!
//! Tiles that lie flush against each other become one piece, so that nothing is between them.

use rasant::Piece;
use rasant::glam::Vec2;
use rasant::level::LevelBuilder;

use crate::Problem;
use crate::making::Names;
use crate::table::{Table, Value};

/// What a sign is: solid, a shelf that holds from above, or nothing.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Tile {
    Solid,
    Shelf,
    Nothing,
}

/// How much of a tile's height, its upper part, a shelf is.
const SHELF: f32 = 0.2;
/// Tiles of a table at most.
const MOST: usize = 1_000_000;

/// Tiles from some column to another, in one row or more.
#[derive(Clone, Copy)]
struct Run {
    from: usize,
    to: usize,
    top: usize,
    bottom: usize,
    tile: Tile,
}

pub(super) fn add_tiles(
    mut table: Table<'_>,
    names: &Names,
    builder: &mut LevelBuilder<Vec2>,
) -> Result<(), Problem> {
    let corner: Vec2 = table.need("corner", "the lower left corner")?.vector()?;
    let size = table.get("size").map(|value| value.number_in(0.01..=1000.0, "m")).transpose()?.unwrap_or(1.0);
    let rows = table.need("rows", "a list of texts, the top row first")?;
    let read = read_rows(rows)?;
    let (surface, layers) = names.surface_and_layers(&mut table)?;
    table.finish()?;
    let height = read.len();
    for run in merged(&read) {
        let at = |column: usize, row: usize| corner + Vec2::new(column as f32, (height - row) as f32) * size;
        let (mut low, high) = (at(run.from, run.bottom + 1), at(run.to, run.top));
        if run.tile == Tile::Shelf {
            low = Vec2::new(low.x, high.y - SHELF * size);
        }
        let piece = Piece::block(low, high).map_err(|error| rows.problem(error.to_string()))?;
        let piece = piece.made_of(surface).on_layers(layers);
        builder.add(if run.tile == Tile::Shelf { piece.one_way() } else { piece });
    }
    Ok(())
}

fn read_rows(rows: Value<'_>) -> Result<Vec<Vec<Tile>>, Problem> {
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
        let tiles = text.chars().enumerate().map(|(column, sign)| match sign {
            '#' => Ok(Tile::Solid),
            '=' => Ok(Tile::Shelf),
            '.' | ' ' => Ok(Tile::Nothing),
            _ => Err(row
                .problem(format!("found `{sign}` in column {}", column + 1))
                .expecting("`#` for what is solid, `=` for a shelf that holds from above, `.` for nothing")),
        });
        read.push(tiles.collect::<Result<Vec<_>, _>>()?);
    }
    Ok(read)
}

/// Runs of like tiles, those of solid ones that are as long and flush above each other as one.
fn merged(rows: &[Vec<Tile>]) -> Vec<Run> {
    let mut whole: Vec<Run> = Vec::new();
    let mut above: Vec<Run> = Vec::new();
    for (row, tiles) in rows.iter().enumerate() {
        let mut column = 0;
        let mut here = Vec::new();
        for part in tiles.chunk_by(|a, b| a == b) {
            let (from, to, tile) = (column, column + part.len(), part[0]);
            column = to;
            if tile == Tile::Nothing {
                continue;
            }
            let same = |run: &&Run| (run.from, run.to, run.tile) == (from, to, tile) && tile == Tile::Solid;
            let top = above.iter().find(same).map_or(row, |run| run.top);
            here.push(Run { from, to, top, bottom: row, tile });
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
