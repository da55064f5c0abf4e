//! Turns the outlines of a drawing into pieces and zones.

use rasant::Piece;
use rasant::glam::Vec2;
use rasant::level::Sides;
use rasant::space::Bounds;

use super::attributes::{Attributes, Labels, Role, Wrong};
use super::split::{Fill, convex_parts};
use crate::assembly::Assembly;
use crate::axes::UpAxis;

/// The outlines of one element, in units of the level.
#[derive(Default)]
pub(super) struct Outlines {
    pub closed: Vec<Vec<Vec2>>,
    pub open: Vec<Vec<Vec2>>,
    pub fill: Fill,
    /// Centre and radius, if it is a disc.
    pub disc: Option<(Vec2, f32)>,
}

impl Outlines {
    fn points(&self) -> Vec<Vec2> {
        let disc = self.disc.map(|(centre, radius)| [centre - radius, centre + radius]);
        self.closed.iter().chain(&self.open).flatten().copied().chain(disc.into_iter().flatten()).collect()
    }
}

/// Adds outlines according to their attributes.
pub(super) fn add(
    mut outlines: Outlines,
    attributes: &Attributes,
    labels: &Labels,
    assembly: &mut Assembly<Vec2>,
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
        assembly.leave_out("element without a point");
        return Ok(());
    }
    let Bounds { min, max } = Bounds::around(&points);
    match &attributes.role {
        Role::Ignored | Role::Path => Ok(()),
        Role::Start => {
            let under = if assembly.up == UpAxis::MinusY { max.y } else { min.y };
            assembly.start = Some(Vec2::new((min.x + max.x) * 0.5, under));
            Ok(())
        }
        Role::Zone(words) => attributes.add_zone(words, Bounds { min, max }, labels, assembly),
        Role::Solid => solid(outlines, attributes, labels, assembly),
    }
}

/// The maximum number of crossings of outlines that are cut.
const MOST_CROSSINGS: f64 = 1e6;

/// An estimate of how often outlines cross themselves and each other, from a sample of their lines.
fn crossings(outlines: &[Vec<Vec2>]) -> f64 {
    /// The number of pairs of lines in the sample.
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
    // Steps through the lines that share no factor with common numbers of lines.
    let at = |number: usize, step: usize| lines[number.wrapping_mul(step) % lines.len()];
    let met = (0..LOOKED_AT).filter(|number| cross(at(*number, 7919), at(*number, 104_729))).count();
    pairs * met as f64 / LOOKED_AT as f64
}

fn solid(
    outlines: Outlines,
    attributes: &Attributes,
    labels: &Labels,
    assembly: &mut Assembly<Vec2>,
) -> Result<(), Wrong> {
    let radius = labels.number_in("grow", 0.0, 1e9)?.unwrap_or(0.0) as f32;
    let grown = |piece: Piece<Vec2>| piece.grown(radius);
    if let Some((centre, own)) = outlines.disc {
        match Piece::ball(centre, own).and_then(grown) {
            Ok(ball) => {
                assembly.builder.add(attributes.made(ball));
            }
            Err(_) => assembly.leave_out("disc without an area"),
        }
        return Ok(());
    }
    let sides = if attributes.one_sided { Sides::Left } else { Sides::Both };
    for ends in outlines.open.iter().flat_map(|line| line.windows(2)) {
        // Left is as it is seen, with up at the top.
        let is_mirrored = attributes.one_sided && assembly.up == UpAxis::MinusY;
        let [from, to] = if is_mirrored { [ends[1], ends[0]] } else { [ends[0], ends[1]] };
        match Piece::segment(from, to, sides).and_then(grown) {
            Ok(segment) => {
                assembly.builder.add(attributes.made(segment));
            }
            Err(_) => assembly.leave_out("line without a length"),
        }
    }
    if let [outline] = &outlines.closed[..]
        && let Ok(piece) = Piece::polygon(outline).and_then(grown)
    {
        assembly.builder.add(attributes.made(piece));
        return Ok(());
    }
    if outlines.closed.is_empty() {
        return Ok(());
    }
    let crossings = crossings(&outlines.closed);
    if crossings > MOST_CROSSINGS {
        let found = format!("found outlines with about {crossings:.0} crossings");
        return Err((found, format!("at most {MOST_CROSSINGS:.0}")));
    }
    let mut filled = 0;
    for part in convex_parts(&outlines.closed, outlines.fill) {
        if let Ok(piece) = Piece::polygon(&part).and_then(grown) {
            assembly.builder.add(attributes.made(piece));
            filled += 1;
        }
    }
    if filled == 0 {
        assembly.leave_out("outline without an area");
    }
    Ok(())
}
