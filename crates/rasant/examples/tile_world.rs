//! A host with a world of its own: a tile grid in a plain `Vec`.
//!
//! The library never sees the grid. It asks for the pieces in a region, once a
//! tick, and the host answers from whatever it keeps.

use rasant::glam::Vec2;
use rasant::level::{Found, Tag};
use rasant::space::Bounds;
use rasant::{Actions, Hull, Intent, Layers, PieceId, State, Surroundings, Tuning, tick};

/// `#` is solid, `=` a shelf that holds from above; the first row is the top.
const MAP: &str = "\
..........................
.......===................
..................###.....
............##............
##.....###..##..........##
##########################";

struct TileWorld {
    columns: i32,
    rows: i32,
    tiles: Vec<u8>,
}

impl TileWorld {
    fn tile(&self, column: i32, row: i32) -> u8 {
        let inside = (0..self.columns).contains(&column) && (0..self.rows).contains(&row);
        if inside { self.tiles[((self.rows - 1 - row) * self.columns + column) as usize] } else { b'.' }
    }
}

impl Surroundings<Vec2> for TileWorld {
    fn pieces(&self, region: &Bounds<Vec2>, _stopped_by: Layers, found: &mut impl Found<Vec2>) {
        let cells = |least: f32, most: f32| least.floor() as i32..=most.floor() as i32;
        for row in cells(region.min.y, region.max.y) {
            for column in cells(region.min.x, region.max.x) {
                let tile = self.tile(column, row);
                let corner = Vec2::new(column as f32, row as f32);
                let piece = PieceId((row * self.columns + column) as u32);
                match tile {
                    b'#' => found.block(corner, corner + 1.0, Tag { piece, ..Tag::default() }),
                    b'=' => {
                        let tag = Tag { piece, one_way: true, ..Tag::default() };
                        found.block(corner + Vec2::new(0.0, 0.8), corner + 1.0, tag);
                    }
                    _ => {}
                }
            }
        }
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let rows: Vec<&str> = MAP.lines().collect();
    let world = TileWorld {
        columns: rows[0].len() as i32,
        rows: rows.len() as i32,
        tiles: rows.concat().into_bytes(),
    };
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
    print!("{}", drawn(&world, &trail));
    Ok(())
}

/// The map, with the trail of the feet in it.
fn drawn(world: &TileWorld, trail: &[Vec2]) -> String {
    let mut text = String::new();
    for row in (0..world.rows).rev() {
        for column in 0..world.columns {
            let here = |at: &Vec2| (at.x.floor() as i32, at.y.floor() as i32) == (column, row);
            text.push(if trail.iter().any(here) { 'o' } else { char::from(world.tile(column, row)) });
        }
        text.push('\n');
    }
    text
}
