//! The marks of events: one shape each.

use plotters::coord::ranged1d::{AsRangedCoord, Ranged};
use plotters::prelude::*;
use plotters::style::text_anchor::{HPos, Pos, VPos};
use rasant_lab::EventRow;

use super::palette::{INK, PAPER, PRESSED, SMALL, TYPEFACE, px, wide};
use super::{Chart, Drawn};

/// The shape of a mark.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Mark {
    TriangleUp,
    TriangleDown,
    Ring,
    Diamond,
    Square,
    Bar,
    Cross,
    Star,
    Flag,
    Hash,
}

/// The mark of an event, and its name in the legend. A departure by a jump has the mark of the
/// jump.
pub fn mark_of(event: &EventRow) -> Option<(Mark, &'static str)> {
    Some(match event.name {
        "jumped" => (Mark::TriangleUp, "jumped"),
        "landed" => (Mark::TriangleDown, "landed"),
        "apex" => (Mark::Ring, "top of a rise"),
        "left-ground" if event.detail.as_deref() != Some("jump") => (Mark::Diamond, "left the ground"),
        "bumped-head" => (Mark::Square, "bumped head"),
        "wall-met" => (Mark::Bar, "met a wall"),
        "crushed" => (Mark::Cross, "crushed"),
        "bounced" => (Mark::Star, "bounced"),
        "respawned" => (Mark::Flag, "put back"),
        "refused" => (Mark::Hash, "refused"),
        _ => return None,
    })
}

/// Half the size of a mark in pixels.
const HALF: i32 = px(6);

/// Draws a mark centred on a pixel.
pub fn draw<DB: DrawingBackend>(
    area: &DrawingArea<DB, plotters::coord::Shift>,
    mark: Mark,
    (x, y): (i32, i32),
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let filled = INK.filled();
    let shape = |points: &[(i32, i32)]| {
        Polygon::new(points.iter().map(|(dx, dy)| (x + dx, y + dy)).collect::<Vec<_>>(), filled)
    };
    let h = HALF;
    let s = h - px(1);
    let bar = px(2);
    match mark {
        Mark::TriangleUp => area.draw(&shape(&[(-h, h), (h, h), (0, -h)]))?,
        Mark::TriangleDown => area.draw(&shape(&[(-h, -h), (h, -h), (0, h)]))?,
        Mark::Diamond => area.draw(&shape(&[(0, -h), (h, 0), (0, h), (-h, 0)]))?,
        Mark::Square => area.draw(&shape(&[(-s, -s), (s, -s), (s, s), (-s, s)]))?,
        Mark::Bar => area.draw(&shape(&[(-bar, -h), (bar, -h), (bar, h), (-bar, h)]))?,
        Mark::Star => area.draw(&shape(&[
            (0, -h),
            (s / 3, -s / 3),
            (h, 0),
            (s / 3, s / 3),
            (0, h),
            (-s / 3, s / 3),
            (-h, 0),
            (-s / 3, -s / 3),
        ]))?,
        Mark::Flag => area.draw(&shape(&[(-s, -h), (h, -s / 2), (-s + bar, 0), (-s + bar, h), (-s, h)]))?,
        Mark::Hash => {
            for d in [-s / 2, s / 2] {
                area.draw(&PathElement::new(
                    vec![(x + d, y - h), (x + d, y + h)],
                    INK.stroke_width(wide(2)),
                ))?;
                area.draw(&PathElement::new(
                    vec![(x - h, y + d), (x + h, y + d)],
                    INK.stroke_width(wide(2)),
                ))?;
            }
        }
        Mark::Ring => {
            area.draw(&Circle::new((x, y), s, PAPER.filled()))?;
            area.draw(&Circle::new((x, y), s, INK.stroke_width(wide(2))))?;
        }
        Mark::Cross => {
            area.draw(&PathElement::new(vec![(x - h, y - h), (x + h, y + h)], INK.stroke_width(wide(3))))?;
            area.draw(&PathElement::new(vec![(x - h, y + h), (x + h, y - h)], INK.stroke_width(wide(3))))?;
        }
    }
    Ok(())
}

/// Draws a mark at a point of a chart.
pub fn draw_in<DB, X, Y>(chart: &ChartContext<'_, DB, Cartesian2d<X, Y>>, mark: Mark, at: (f64, f64)) -> Drawn
where
    DB: DrawingBackend,
    DB::ErrorType: 'static,
    X: Ranged<ValueType = f64> + AsRangedCoord<Value = f64>,
    Y: Ranged<ValueType = f64> + AsRangedCoord<Value = f64>,
{
    let area = chart.plotting_area();
    let pixel = area.map_coordinate(&at);
    draw(&area.strip_coord_spec(), mark, offset(area, pixel))
}

/// Draws a number in a disc at a point of a chart.
pub fn draw_number<DB: DrawingBackend>(chart: &Chart<'_, DB>, number: usize, at: (f64, f64)) -> Drawn
where
    DB::ErrorType: 'static,
{
    let area = chart.plotting_area();
    let (x, y) = offset(area, area.map_coordinate(&at));
    let plain = area.strip_coord_spec();
    let disc = px(9);
    plain.draw(&Circle::new((x, y), disc, PRESSED.filled()))?;
    plain.draw(&Circle::new((x, y), disc, PAPER.stroke_width(wide(1))))?;
    let style = TextStyle::from((TYPEFACE, wide(SMALL)).into_font())
        .color(&PAPER)
        .pos(Pos::new(HPos::Center, VPos::Center));
    // Digits have no descenders.
    plain.draw(&Text::new(number.to_string(), (x, y + px(4)), style))?;
    Ok(())
}

/// A pixel of the whole drawing, relative to an area.
fn offset<DB: DrawingBackend, C: plotters::coord::CoordTranslate>(
    area: &DrawingArea<DB, C>,
    (x, y): (i32, i32),
) -> (i32, i32) {
    let (left, top) = area.get_base_pixel();
    (x - left, y - top)
}
