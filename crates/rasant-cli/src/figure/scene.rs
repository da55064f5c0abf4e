//! The level, the path through it, the body at intervals, inputs and events.

use plotters::coord::Shift;
use plotters::prelude::*;
use rasant::glam::{Vec2, Vec3};
use rasant::{Geometry, HullShape, Level, Shape, Tag};
use rasant_lab::{Row, Trace, Trial, World};

use super::marks::{self, Mark, mark_of};
use super::palette::{
    AFOOT, ALOFT, AWNING, BODY, MIST, NORMAL, PAPER, PRESSED, SMALL, STONE, STONE_RIM, px, wide,
};
use super::{Chart, Drawn, line_by_mode, text};

/// Metres of level shown round the path at least.
const MARGIN: f64 = 1.6;
/// Seconds between two outlines of the body.
const INTERVAL: f64 = 0.25;

pub fn draw<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trial: &Trial, trace: &Trace) -> Drawn
where
    DB::ErrorType: 'static,
{
    let height = f64::from(trial.tuning.hull.height());
    let view = View::of(trace, height, area.dim_in_pixel());
    let mut chart = ChartBuilder::on(area)
        .margin_right(px(16))
        .x_label_area_size(px(22))
        .y_label_area_size(px(56))
        .build_cartesian_2d(view.x.0..view.x.1, view.y.0..view.y.1)?;
    chart
        .configure_mesh()
        .disable_mesh()
        .axis_style(MIST.stroke_width(wide(1)))
        .label_style(text(SMALL))
        .x_label_formatter(&|x| format!("{x:.0} m"))
        .y_label_formatter(&|y| format!("{y:.0} m"))
        .x_labels(16)
        .y_labels(7)
        .draw()?;
    match &trial.world {
        World::Plane(file) => draw_level(&mut chart, &file.level, trace.duration())?,
        World::Space(file) => draw_level(&mut chart, &file.level, trace.duration())?,
    }
    draw_bodies(&mut chart, trial, trace)?;
    line_by_mode(&mut chart, trace, 3, &|row| place(row.position))?;
    draw_presses(&mut chart, trace, height)?;
    for (_, event) in trace.events() {
        if let Some((mark, _)) = mark_of(event) {
            marks::draw_in(&chart, mark, place(event.position))?;
        }
    }
    draw_legend(area, trace)
}

/// What part of the level is shown: the path with a margin, as wide and high
/// as the area's pixels ask for.
struct View {
    x: (f64, f64),
    y: (f64, f64),
}

impl View {
    fn of(trace: &Trace, body_height: f64, (width, height): (u32, u32)) -> Self {
        let (mut x, mut y) = ((f64::MAX, f64::MIN), (f64::MAX, f64::MIN));
        for row in &trace.rows {
            let at = place(row.position);
            x = (x.0.min(at.0), x.1.max(at.0));
            y = (y.0.min(at.1), y.1.max(at.1 + body_height));
        }
        let (x, y) = ((x.0 - MARGIN, x.1 + MARGIN), (y.0 - MARGIN, y.1 + MARGIN));
        // Less the axes' labels; the legend has a strip of its own on top.
        let (pixels_x, pixels_y) =
            (f64::from(width) - f64::from(px(72)), f64::from(height) - f64::from(px(22)));
        let scale = f64::max((x.1 - x.0) / pixels_x, (y.1 - y.0) / pixels_y);
        let widen = |range: (f64, f64), pixels: f64| {
            let spare = (pixels * scale - (range.1 - range.0)) / 2.0;
            (range.0 - spare, range.1 + spare)
        };
        Self { x: widen(x, pixels_x), y: widen(y, pixels_y) }
    }
}

/// A point as seen from the side.
fn place(at: [f32; 3]) -> (f64, f64) {
    (f64::from(at[0]), f64::from(at[1]))
}

/// Shapes as polygons seen from the side.
trait Outlined: Geometry {
    fn outlines(shape: &Shape<'_, Self>) -> Vec<Vec<(f64, f64)>>;
}

impl Outlined for Vec2 {
    fn outlines(shape: &Shape<'_, Vec2>) -> Vec<Vec<(f64, f64)>> {
        match *shape {
            Shape::Ball { centre, radius } => vec![round(centre.x, centre.y, radius)],
            Shape::Segment { ends, .. } => vec![seen(&ends)],
            Shape::Polygon { points } => vec![seen(points)],
            _ => Vec::new(),
        }
    }
}

impl Outlined for Vec3 {
    fn outlines(shape: &Shape<'_, Vec3>) -> Vec<Vec<(f64, f64)>> {
        match *shape {
            Shape::Ball { centre, radius } => vec![round(centre.x, centre.y, radius)],
            Shape::Facet { points, .. } => vec![seen(points)],
            Shape::Solid { points, mut faces } => {
                let mut all = Vec::new();
                while let Some((&count, rest)) = faces.split_first() {
                    let (face, rest) = rest.split_at(usize::from(count));
                    let corners: Vec<Vec3> = face.iter().map(|&corner| points[usize::from(corner)]).collect();
                    all.push(seen(&corners));
                    faces = rest;
                }
                all
            }
            _ => Vec::new(),
        }
    }
}

fn seen<V: Geometry>(points: &[V]) -> Vec<(f64, f64)> {
    points.iter().map(|point| place(point.to_array())).collect()
}

fn round(x: f32, y: f32, radius: f32) -> Vec<(f64, f64)> {
    arc(f64::from(x), f64::from(y), f64::from(radius), 0.0, 2.0)
}

/// Points of an arc, its angles in half turns.
fn arc(x: f64, y: f64, radius: f64, from: f64, to: f64) -> Vec<(f64, f64)> {
    (0..=24)
        .map(|i| std::f64::consts::PI * (from + (to - from) * f64::from(i) / 24.0))
        .map(|angle| (x + radius * angle.cos(), y + radius * angle.sin()))
        .collect()
}

fn draw_level<DB: DrawingBackend, V: Outlined>(chart: &mut Chart<'_, DB>, level: &Level<V>, end: f64) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut pieces: Vec<(Vec<(f64, f64)>, Tag)> = Vec::new();
    level.each_shape(|shape, tag| {
        pieces.extend(V::outlines(&shape).into_iter().map(|outline| (outline, tag)));
    });
    for (outline, tag) in &pieces {
        let (fill, rim) = if tag.one_way { (AWNING, AWNING) } else { (STONE, STONE_RIM) };
        if outline.len() > 2 {
            chart.draw_series([Polygon::new(outline.clone(), fill.filled())])?;
        }
        let closed: Vec<_> = outline.iter().chain(outline.first()).copied().collect();
        chart.draw_series([PathElement::new(closed, rim.stroke_width(wide(1)))])?;
    }
    draw_carriers_later(chart, level, end)
}

/// What rides on carriers, once more and dashed, where it is at the end.
fn draw_carriers_later<DB: DrawingBackend, V: Outlined>(
    chart: &mut Chart<'_, DB>,
    level: &Level<V>,
    end: f64,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut later = level.clone();
    later.advance(end as f32);
    let mut outlines = Vec::new();
    later.each_shape(|shape, tag| {
        if tag.carrier.is_some() {
            outlines.extend(V::outlines(&shape));
        }
    });
    for outline in outlines {
        let closed: Vec<_> = outline.iter().chain(outline.first()).copied().collect();
        chart.draw_series(DashedLineSeries::new(
            closed,
            wide(5),
            wide(4),
            STONE_RIM.stroke_width(wide(1)),
        ))?;
    }
    Ok(())
}

fn draw_bodies<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, trial: &Trial, trace: &Trace) -> Drawn
where
    DB::ErrorType: 'static,
{
    let every = ((INTERVAL * f64::from(trace.rate)).round() as usize).max(1);
    for row in trace.rows.iter().step_by(every) {
        let outline = body_outline(trial.tuning.hull.shape(), place(row.position));
        chart.draw_series([PathElement::new(outline, BODY.mix(0.3).stroke_width(wide(1)))])?;
        draw_footing(chart, row)?;
    }
    if let Some(last) = trace.rows.last() {
        let outline = body_outline(trial.tuning.hull.shape(), place(last.position));
        chart.draw_series([Polygon::new(outline.clone(), BODY.mix(0.2).filled())])?;
        chart.draw_series([PathElement::new(outline, BODY.stroke_width(wide(2)))])?;
    }
    Ok(())
}

/// The normal of the ground under the feet: with a full head where it can be walked, an open one where it is too
/// steep.
fn draw_footing<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, row: &Row) -> Drawn
where
    DB::ErrorType: 'static,
{
    /// In metres of the level.
    const LENGTH: f64 = 0.7;
    if row.footing == "none" {
        return Ok(());
    }
    let (x, y) = place(row.position);
    let (nx, ny) = place(row.normal);
    let tip = (x + nx * LENGTH, y + ny * LENGTH);
    chart.draw_series([PathElement::new(vec![(x, y), tip], NORMAL.stroke_width(wide(1)))])?;
    let fill = if row.footing == "firm" { NORMAL } else { PAPER };
    chart.draw_series([Circle::new(tip, px(3), fill.filled())])?;
    chart.draw_series([Circle::new(tip, px(3), NORMAL.stroke_width(wide(1)))])?;
    Ok(())
}

/// The closed outline of a hull whose underside's middle is at `(x, y)`.
fn body_outline(shape: HullShape, (x, y): (f64, f64)) -> Vec<(f64, f64)> {
    let rounded = |half: f64, height: f64, radius: f64| {
        let (side, low, high) = (half - radius, y + radius, y + height - radius);
        let mut points = arc(x + side, high, radius, 0.0, 0.5);
        points.extend(arc(x - side, high, radius, 0.5, 1.0));
        points.extend(arc(x - side, low, radius, 1.0, 1.5));
        points.extend(arc(x + side, low, radius, 1.5, 2.0));
        points.push(points[0]);
        points
    };
    match shape {
        HullShape::Capsule { radius, height } => rounded(radius.into(), height.into(), radius.into()),
        HullShape::Ball { radius } => rounded(radius.into(), 2.0 * f64::from(radius), radius.into()),
        HullShape::Box { width, height, rounding, .. } => {
            rounded(0.5 * f64::from(width), height.into(), rounding.into())
        }
    }
}

/// A word over the head where an action was pressed.
fn draw_presses<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, trace: &Trace, height: f64) -> Drawn
where
    DB::ErrorType: 'static,
{
    for (row, word) in presses(trace) {
        let (x, y) = place(row.position);
        let over = (x, y + height);
        chart.draw_series([EmptyElement::at(over)
            + PathElement::new(vec![(0, px(-4)), (0, px(-16))], PRESSED.stroke_width(wide(2)))
            + Polygon::new(vec![(px(-4), px(-8)), (px(4), px(-8)), (0, px(-2))], PRESSED.filled())
            + Text::new(word, (px(-14), px(-32)), text(SMALL).color(&PRESSED))])?;
    }
    Ok(())
}

/// Rows in which an action was pressed, with its name.
pub fn presses(trace: &Trace) -> impl Iterator<Item = (&Row, String)> {
    trace.rows.windows(2).flat_map(|pair| {
        let pressed = pair[1].held.without(pair[0].held);
        // Where the body was when the press was seen.
        pressed.each().filter_map(rasant::Actions::name).map(|name| (&pair[0], name))
    })
}

/// The marks that occur, each with its meaning, in a row under the heading.
fn draw_legend<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trace: &Trace) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut known: Vec<(Mark, &str)> = Vec::new();
    for (_, event) in trace.events() {
        known.extend(mark_of(event).filter(|mark| !known.contains(mark)));
    }
    let (mut x, y) = (px(72), px(14));
    for (line, word) in [(false, "on foot"), (true, "aloft")] {
        let (color, dashes): (RGBColor, &[i32]) =
            if line { (ALOFT, &[0, px(12), px(16), px(28)]) } else { (AFOOT, &[0, px(28)]) };
        for dash in dashes.chunks(2) {
            area.draw(&PathElement::new(
                vec![(x + dash[0], y), (x + dash[1], y)],
                color.stroke_width(wide(3)),
            ))?;
        }
        area.draw_text(word, &text(SMALL), (x + px(34), y - px(7)))?;
        x += px(50 + 8 * word.len() as i32);
    }
    for (filled, word) in [(true, "normal, firm"), (false, "normal, too steep")] {
        if !trace.rows.iter().any(|row| row.footing == if filled { "firm" } else { "steep" }) {
            continue;
        }
        area.draw(&PathElement::new(
            vec![(x - px(6), y + px(6)), (x, y - px(2))],
            NORMAL.stroke_width(wide(1)),
        ))?;
        area.draw(&Circle::new((x, y - px(3)), px(3), if filled { NORMAL } else { PAPER }.filled()))?;
        area.draw(&Circle::new((x, y - px(3)), px(3), NORMAL.stroke_width(wide(1))))?;
        area.draw_text(word, &text(SMALL), (x + px(12), y - px(7)))?;
        x += px(34 + 7 * word.len() as i32);
    }
    for (mark, word) in known {
        marks::draw(area, mark, (x, y))?;
        area.draw_text(word, &text(SMALL), (x + px(12), y - px(7)))?;
        x += px(34 + 7 * word.len() as i32);
    }
    Ok(())
}
