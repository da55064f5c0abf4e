//! A host with its own world: a grid of tiles in a plain `Vec`.
//!
//! The library never sees the grid. Once per tick it asks for the pieces in a region, and the host
//! answers from its own data.

use rasant::glam::Vec2;
use rasant::level::{Found, Tag};
use rasant::space::Bounds;
use rasant::{Actions, Hull, Intent, Layers, PieceId, State, Surroundings, Tuning, tick};

/// `#` is solid, `=` is a one-way shelf; the first row is the top.
const MAP: &str = "\
..........................
.......===................
..................###.....
............##............
##.....###..##..........##
##########################";

/// Rows of tiles, the lowest first.
struct TileWorld(Vec<&'static [u8]>);

impl Surroundings<Vec2> for TileWorld {
    fn pieces(&self, region: &Bounds<Vec2>, _stopped_by: Layers, found: &mut impl Found<Vec2>) {
        // Coordinates below 0 are clamped to cell 0, because there are no tiles further down or
        // left.
        let cells = |least: f32, most: f32| least as usize..=most as usize;
        for row in cells(region.min.y, region.max.y) {
            for column in cells(region.min.x, region.max.x) {
                let Some(tile) = self.0.get(row).and_then(|tiles| tiles.get(column)) else { continue };
                let corner = Vec2::new(column as f32, row as f32);
                let tag = Tag { piece: PieceId((row * 1000 + column) as u32), ..Tag::default() };
                match tile {
                    b'#' => found.block(corner, corner + 1.0, tag),
                    b'=' => {
                        let tag = Tag { one_way: true, ..tag };
                        found.block(corner + Vec2::new(0.0, 0.8), corner + 1.0, tag);
                    }
                    _ => {}
                }
            }
        }
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let world = TileWorld(MAP.lines().rev().map(str::as_bytes).collect());
    let mut tuning = Tuning::default();
    tuning.jump.height = 2.3;
    let hull = Hull::capsule(0.3, 1.4)?;
    let mut state = State::at(Vec2::new(3.0, 1.0));
    let mut trail = Vec::new();
    for number in 0..260 {
        let mut intent = Intent::steering(1.0, 0.0);
        if [66, 128, 190].contains(&number) {
            intent = intent.pressing(Actions::JUMP);
        }
        let events = tick(&tuning, &hull, &mut state, &intent, &world, 1.0 / 60.0);
        for event in &events {
            println!("{:.2} s: {event:?} at {:.2}", number as f32 / 60.0, state.position);
        }
        trail.push(state.position);
    }
    // Prints the map with the trail of the feet.
    for (row, tiles) in world.0.iter().enumerate().rev() {
        let here = |column: usize| trail.iter().any(|at| (at.x as usize, at.y as usize) == (column, row));
        let sign = |(column, tile): (usize, &u8)| if here(column) { 'o' } else { char::from(*tile) };
        println!("{}", tiles.iter().enumerate().map(sign).collect::<String>());
    }
    Ok(())
}
