//! Splits outlines into convex parts.

use i_triangle::float::convex::ConvexSplitStrategy;
use i_triangle::float::delaunay::Delaunay;
use i_triangle::float::triangulator::Triangulator;
use i_triangle::i_overlay::core::fill_rule::FillRule;
use i_triangle::int::validation::Validation;
use rasant::glam::Vec2;

/// What counts as inside of outlines that cross themselves or each other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Fill {
    #[default]
    NonZero,
    EvenOdd,
}

/// The maximum number of corners of a part.
pub(super) const MOST_CORNERS: usize = 64;

/// Convex parts that fill outlines without gaps, with holes left open.
pub(super) fn convex_parts(outlines: &[Vec<Vec2>], fill: Fill) -> Vec<Vec<Vec2>> {
    let contours: Vec<Vec<[f64; 2]>> = outlines
        .iter()
        .map(|outline| outline.iter().map(|point| point.as_dvec2().to_array()).collect())
        .collect();
    let points: usize = contours.iter().map(Vec::len).sum();
    let rule = match fill {
        Fill::NonZero => FillRule::NonZero,
        Fill::EvenOdd => FillRule::EvenOdd,
    };
    let validation = Validation::<i64>::with_fill_rule(rule);
    let mut triangulator = Triangulator::<u32, i64>::new(points, validation, Default::default());
    let mut cut = Delaunay::default();
    triangulator.delaunay_into(&contours, &mut cut);
    let parts = cut.to_convex_polygons_with_max_vertices(MOST_CORNERS, ConvexSplitStrategy::default());
    let point = |[x, y]: [f64; 2]| Vec2::new(x as f32, y as f32);
    parts.into_iter().map(|part| part.into_iter().map(point).collect()).collect()
}
