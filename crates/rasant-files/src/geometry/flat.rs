//! What becomes of the outlines of a drawing.

use rasant::Piece;
use rasant::glam::Vec2;
use rasant::level::Sides;
use rasant::space::Bounds;

use super::split::{Fill, convex_parts};
use super::told::{Role, Said, Told, Wrong};
use crate::making::Making;

/// The outlines of one element, in the level's metres.
#[derive(Default)]
pub(super) struct Outlines {
    pub closed: Vec<Vec<Vec2>>,
    pub open: Vec<Vec<Vec2>>,
    pub fill: Fill,
    /// Centre and radius, where it is a disc.
    pub disc: Option<(Vec2, f32)>,
}

impl Outlines {
    fn points(&self) -> Vec<Vec2> {
        let disc = self.disc.map(|(centre, radius)| [centre - radius, centre + radius]);
        self.closed.iter().chain(&self.open).flatten().copied().chain(disc.into_iter().flatten()).collect()
    }
}

/// Adds what outlines are told to be.
pub(super) fn add(
    mut outlines: Outlines,
    told: &Told,
    said: &Said,
    making: &mut Making<Vec2>,
) -> Result<(), Wrong> {
    for outline in outlines.closed.iter_mut().chain(&mut outlines.open) {
        outline.dedup();
    }
    for outline in &mut outlines.closed {
        while outline.len() > 1 && outline.first() == outline.last() {
            outline.pop();
        }
    }
    let points = outlines.points();
    if points.is_empty() {
        making.leave_out("element without a point");
        return Ok(());
    }
    let Bounds { min, max } = Bounds::around(&points);
    match &told.role {
        Role::Ignored | Role::Path => Ok(()),
        Role::Start => {
            making.start = Some(Vec2::new((min.x + max.x) * 0.5, min.y));
            Ok(())
        }
        Role::Zone(words) => told.add_zone(words, Bounds { min, max }, said, making),
        Role::Solid => solid(outlines, told, making),
    }
}

/// Crossings of outlines that are cut at most.
const MOST_CROSSINGS: f64 = 1e6;

/// About how often outlines cross themselves and each other, by some of their lines.
fn crossings(outlines: &[Vec<Vec2>]) -> f64 {
    /// Pairs of lines that are looked at.
    const LOOKED_AT: usize = 20_000;
    let ends = |outline: &Vec<Vec2>| {
        let outline = outline.clone();
        (0..outline.len()).map(move |i| [outline[i], outline[(i + 1) % outline.len()]]).collect::<Vec<_>>()
    };
    let lines: Vec<[Vec2; 2]> = outlines.iter().flat_map(ends).collect();
    let pairs = 0.5 * (lines.len() as f64).powi(2);
    if pairs <= MOST_CROSSINGS {
        return 0.0;
    }
    let side = |[from, to]: [Vec2; 2], at: Vec2| (to - from).perp_dot(at - from) > 0.0;
    let cross = |a: [Vec2; 2], b: [Vec2; 2]| side(a, b[0]) != side(a, b[1]) && side(b, a[0]) != side(b, a[1]);
    // Steps through them that have no factor in common with their number's usual ones.
    let at = |number: usize, step: usize| lines[number.wrapping_mul(step) % lines.len()];
    let met = (0..LOOKED_AT).filter(|number| cross(at(*number, 7919), at(*number, 104_729))).count();
    pairs * met as f64 / LOOKED_AT as f64
}

fn solid(outlines: Outlines, told: &Told, making: &mut Making<Vec2>) -> Result<(), Wrong> {
    if let Some((centre, radius)) = outlines.disc {
        match Piece::ball(centre, radius) {
            Ok(ball) => {
                making.builder.add(told.made(ball));
            }
            Err(_) => making.leave_out("disc without an area"),
        }
        return Ok(());
    }
    let sides = if told.one_sided { Sides::Left } else { Sides::Both };
    for ends in outlines.open.iter().flat_map(|line| line.windows(2)) {
        match Piece::segment(ends[0], ends[1], sides) {
            Ok(segment) => {
                making.builder.add(told.made(segment));
            }
            Err(_) => making.leave_out("line without a length"),
        }
    }
    if let [outline] = &outlines.closed[..]
        && let Ok(piece) = Piece::polygon(outline)
    {
        making.builder.add(told.made(piece));
        return Ok(());
    }
    if outlines.closed.is_empty() {
        return Ok(());
    }
    let crossings = crossings(&outlines.closed);
    if crossings > MOST_CROSSINGS {
        let found = format!("found outlines that cross themselves and each other some {crossings:.0} times");
        return Err((found, format!("{MOST_CROSSINGS:.0} times at most")));
    }
    let mut filled = 0;
    for part in convex_parts(&outlines.closed, outlines.fill) {
        if let Ok(piece) = Piece::polygon(&part) {
            making.builder.add(told.made(piece));
            filled += 1;
        }
    }
    if filled == 0 {
        making.leave_out("outline without an area");
    }
    Ok(())
}
