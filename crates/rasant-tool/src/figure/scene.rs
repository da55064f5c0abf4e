//! The level, the path through it, the body at intervals, inputs and events.

use std::collections::HashMap;

use plotters::coord::Shift;
use plotters::prelude::*;
use rasant::glam::{DVec3, Vec3};
use rasant::level::{Shape, Tag};
use rasant::{Effect, Geometry, HullShape, Level, Vector};
use rasant_lab::files::{LevelFile, TuningFile, UpAxis};
use rasant_lab::{Row, Run, Trace, Trial, World};

use super::marks::{self, Mark, mark_of};
use super::palette::{
    AWNING, BODY, MIST, NORMAL, OTHER_BODY, PAPER, PRESSED, SMALL, STONE, STONE_RIM, ZONE, ZONE_WORD, px,
    wide,
};
use super::{Chart, Drawn, line_by_mode, lines_in, text};

/// The margin around the path, in metres.
const MARGIN: f64 = 1.6;
/// The height of the legend above the level, in pixels.
pub const LEGEND: i32 = 28;
/// Seconds between two outlines of the body.
const INTERVAL: f64 = 0.25;

pub fn draw<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trial: &Trial, run: &Run) -> Drawn
where
    DB::ErrorType: 'static,
{
    let eye = Eye::of(&run.trace, &trial.world);
    let (_, height) = area.dim_in_pixel();
    let below = |area: &DrawingArea<DB, Shift>| area.split_vertically(height as i32).0;
    if eye.from == From::Above {
        // The plan, and beside it a view that shows heights.
        let (plan, oblique) = area.split_horizontally(area.dim_in_pixel().0 as i32 / 2);
        draw_seen(&below(&plan), trial, run, eye)?;
        draw_seen(&below(&oblique), trial, run, Eye { from: From::Oblique, ..eye })?;
        Ok(())
    } else {
        draw_seen(area, trial, run, eye)
    }
}

/// Draws a level alone, with numbered marks.
pub fn draw_whole<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    world: &World,
    marked: &[[f32; 3]],
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let (_, height) = area.dim_in_pixel();
    match world {
        World::Plane(_) => draw_marked(area, world, Eye::new(From::Side, world), marked),
        World::Space(_) => {
            let (plan, oblique) = area.split_horizontally(area.dim_in_pixel().0 as i32 / 2);
            let below = |area: &DrawingArea<DB, Shift>| area.split_vertically(height as i32).0;
            draw_marked(&below(&plan), world, Eye::new(From::Above, world), marked)?;
            draw_marked(&below(&oblique), world, Eye::new(From::Oblique, world), marked)
        }
    }
}

fn draw_marked<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    world: &World,
    eye: Eye,
    marked: &[[f32; 3]],
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let seen = match world {
        World::Plane(file) => whole(&file.level, eye),
        World::Space(file) => whole(&file.level, eye),
    };
    let mut chart = stage_of(area, world, eye, seen, 0.0)?;
    let mut labels = Labels::default();
    for (number, at) in marked.iter().enumerate() {
        marks::draw_number(&chart, number + 1, eye.place(*at))?;
        labels.keep_off(chart.backend_coord(&eye.place(*at)));
    }
    match world {
        World::Plane(file) => name_zones(&mut chart, eye, &file.level, &file.zones, &mut labels),
        World::Space(file) => name_zones(&mut chart, eye, &file.level, &file.zones, &mut labels),
    }
}

/// The bounds of a level with its zones, and a margin.
fn whole<V: Geometry>(level: &Level<V>, eye: Eye) -> Seen {
    let mut bounds = level.bounds();
    level.each_zone(|_, zone| bounds = bounds.joined(zone.bounds));
    let [min, max] = [bounds.min, bounds.max].map(V::to_array);
    let corners = (0..8).map(|bits: usize| {
        eye.place(std::array::from_fn(|axis| if bits >> axis & 1 == 1 { max[axis] } else { min[axis] }))
    });
    let all: Vec<(f64, f64)> = corners.collect();
    let [x, y] = bounds_of(&all);
    ((x.0 - MARGIN, x.1 + MARGIN), (y.0 - MARGIN, y.1 + MARGIN))
}

/// Returns true if a run is so much higher than wide that its scene should be, too.
pub fn is_tall(trial: &Trial, run: &Run) -> bool {
    let eye = Eye::of(&run.trace, &trial.world);
    let (x, y) = extent(&traces_of(run), eye, eye.metres(trial.tuning.hull.height()));
    eye.from == From::Side && y.1 - y.0 > 0.9 * (x.1 - x.0)
}

fn draw_seen<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trial: &Trial, run: &Run, eye: Eye) -> Drawn
where
    DB::ErrorType: 'static,
{
    let trace = &run.trace;
    let height = eye.metres(trial.tuning.hull.height());
    let mut chart = stage(area, trial, eye, &traces_of(run))?;
    draw_others(&mut chart, eye, trial, run)?;
    draw_bodies(&mut chart, eye, trial, trace)?;
    line_by_mode(&mut chart, trace, 3, &|row| eye.place(row.position))?;
    let mut labels = Labels::default();
    for (_, event) in trace.events() {
        if let Some((mark, _)) = mark_of(event) {
            let at = eye.place(event.position);
            marks::draw_in(&chart, mark, at)?;
            labels.keep_off(chart.backend_coord(&at));
        }
    }
    draw_presses(&mut chart, eye, trace, if eye.from == From::Above { 0.4 } else { height }, &mut labels)?;
    name_others(&mut chart, eye, trial, run, &mut labels)?;
    match &trial.world {
        World::Plane(file) => name_zones(&mut chart, eye, &file.level, &file.zones, &mut labels),
        World::Space(file) => name_zones(&mut chart, eye, &file.level, &file.zones, &mut labels),
    }
}

/// The traces of all bodies.
fn traces_of(run: &Run) -> Vec<&Trace> {
    run.bodies().map(|(_, run)| &run.trace).collect()
}

/// The rectangles of the labels that were placed, in pixels: left, top, right, bottom.
#[derive(Default)]
struct Labels(Vec<[i32; 4]>);

impl Labels {
    /// Keeps labels off a mark.
    fn keep_off(&mut self, (x, y): (i32, i32)) {
        self.0.push([x - px(7), y - px(7), x + px(7), y + px(7)]);
    }

    /// The first of some positions, given by the upper left corner, at which a text with this size
    /// covers nothing else.
    fn place(&mut self, (width, height): (i32, i32), places: &[(i32, i32)]) -> Option<(i32, i32)> {
        let rect = |(x, y): (i32, i32)| [x, y, x + width, y + height];
        let is_free = |it: &[i32; 4]| {
            self.0
                .iter()
                .all(|other| it[2] <= other[0] || other[2] <= it[0] || it[3] <= other[1] || other[3] <= it[1])
        };
        let free = places.iter().copied().find(|place| is_free(&rect(*place)))?;
        self.0.push(rect(free));
        Some(free)
    }
}

/// Draws the part of the level that these runs pass through, with axes.
pub(super) fn stage<'a, DB: DrawingBackend>(
    area: &'a DrawingArea<DB, Shift>,
    trial: &Trial,
    eye: Eye,
    traces: &[&Trace],
) -> Result<Chart<'a, DB>, Box<dyn std::error::Error>>
where
    DB::ErrorType: 'static,
{
    let seen = extent(traces, eye, eye.metres(trial.tuning.hull.height()));
    let end = traces.first().map_or(0.0, |trace| trace.duration());
    stage_of(area, &trial.world, eye, seen, end)
}

/// The visible range, across and up.
type Seen = ((f64, f64), (f64, f64));

/// Draws the visible part of a level with axes, and where its carriers will be at `end`.
fn stage_of<'a, DB: DrawingBackend>(
    area: &'a DrawingArea<DB, Shift>,
    world: &World,
    eye: Eye,
    seen: Seen,
    end: f64,
) -> Result<Chart<'a, DB>, Box<dyn std::error::Error>>
where
    DB::ErrorType: 'static,
{
    let view = View::of(seen, area.dim_in_pixel());
    let mut chart = ChartBuilder::on(area)
        .margin_right(px(16))
        .margin_top(px(LEGEND))
        .x_label_area_size(px(22))
        .y_label_area_size(px(56))
        .build_cartesian_2d(view.x.0..view.x.1, view.y.0..view.y.1)?;
    chart
        .configure_mesh()
        .disable_mesh()
        .axis_style(MIST.stroke_width(wide(1)))
        .label_style(text(SMALL))
        .x_label_formatter(&|metres| eye.label(*metres, false))
        .y_label_formatter(&|metres| eye.label(*metres, true))
        // In the oblique view, the axes are not lengths.
        .x_labels(if eye.from == From::Oblique { 0 } else { (area.dim_in_pixel().0 / wide(76)) as usize })
        .y_labels(if eye.from == From::Oblique { 0 } else { 7 })
        .draw()?;
    match world {
        World::Plane(file) => draw_level(&mut chart, eye, file, end)?,
        World::Space(file) => draw_level(&mut chart, eye, file, end)?,
    }
    Ok(chart)
}

/// The part of the level that is shown: the path with a margin, with the aspect ratio of the area.
struct View {
    x: (f64, f64),
    y: (f64, f64),
}

impl View {
    fn of((x, y): Seen, (width, height): (u32, u32)) -> Self {
        // Without the labels of the axes. The legend has a strip of its own on top.
        let (pixels_x, pixels_y) =
            (f64::from(width) - f64::from(px(72)), f64::from(height) - f64::from(px(22 + LEGEND)));
        let scale = f64::max((x.1 - x.0) / pixels_x, (y.1 - y.0) / pixels_y);
        let widen = |range: (f64, f64), pixels: f64| {
            let spare = (pixels * scale - (range.1 - range.0)) / 2.0;
            (range.0 - spare, range.1 + spare)
        };
        Self { x: widen(x, pixels_x), y: widen(y, pixels_y) }
    }
}

/// The range of some runs, with a margin.
fn extent(traces: &[&Trace], eye: Eye, body_height: f64) -> Seen {
    let above = if eye.from == From::Above { 0.0 } else { body_height };
    let (mut x, mut y) = ((f64::MAX, f64::MIN), (f64::MAX, f64::MIN));
    for row in traces.iter().flat_map(|trace| &trace.rows) {
        let at = eye.place(row.position);
        x = (x.0.min(at.0), x.1.max(at.0));
        y = (y.0.min(at.1), y.1.max(at.1 + above));
    }
    ((x.0 - MARGIN, x.1 + MARGIN), (y.0 - MARGIN, y.1 + MARGIN))
}

/// Where a figure is seen from. Its points are in metres, with up at the top, whatever the unit and the
/// up of the level.
#[derive(Clone, Copy)]
pub(super) struct Eye {
    pub from: From,
    up: UpAxis,
    /// Units of length per metre.
    scale: f32,
}

/// The direction of view, for a level with y up.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum From {
    /// x to the right, y up.
    Side,
    /// x to the right, −z up.
    Above,
    /// Oblique, from in front and above: x to the right, y up, −z up and to the right, shortened.
    Oblique,
}

impl Eye {
    pub(super) fn new(from: From, world: &World) -> Self {
        Self { from, up: world.up_axis(), scale: world.scale() }
    }

    /// A three-dimensional run that is wider than high is seen from above.
    pub(super) fn of(trace: &Trace, world: &World) -> Self {
        let eye = Self::new(From::Side, world);
        let span = |axis: usize| {
            let values = trace.rows.iter().map(|row| eye.seen(row.position)[axis]);
            values.clone().fold(f32::MIN, f32::max) - values.fold(f32::MAX, f32::min)
        };
        if trace.dimensions == 3 && span(2) > span(1) { Self { from: From::Above, ..eye } } else { eye }
    }

    /// A direction of the level as in a level with y up.
    fn turned(self, of: [f32; 3]) -> [f32; 3] {
        let up: Vec3 = self.up.direction();
        Vec3::from(of).in_axes(Vec3::right_for(up, Vec3::X), up).to_array()
    }

    /// A point of the level as in a level in metres with y up.
    fn seen(self, point: [f32; 3]) -> [f32; 3] {
        self.turned(point).map(|part| part / self.scale)
    }

    fn drawn(self, [x, y, z]: [f32; 3]) -> (f64, f64) {
        match self.from {
            From::Side => (f64::from(x), f64::from(y)),
            From::Above => (f64::from(x), f64::from(-z)),
            From::Oblique => (f64::from(x) - 0.35 * f64::from(z), f64::from(y) - 0.3 * f64::from(z)),
        }
    }

    pub(super) fn place(self, point: [f32; 3]) -> (f64, f64) {
        self.drawn(self.seen(point))
    }

    fn direction(self, of: [f32; 3]) -> (f64, f64) {
        self.drawn(self.turned(of))
    }

    /// A length of the level in metres.
    pub(super) fn metres(self, length: f32) -> f64 {
        f64::from(length / self.scale)
    }

    /// What the axes of the figure say at a point of the figure: the number in the level.
    fn label(self, metres: f64, is_height: bool) -> String {
        let is_down = is_height
            && match self.from {
                From::Side => matches!(self.up, UpAxis::MinusY | UpAxis::MinusZ),
                // As before: from above, −z in a level with y up.
                _ => self.up == UpAxis::MinusZ,
            };
        let length = metres * f64::from(self.scale) * if is_down { -1.0 } else { 1.0 };
        let unit = if self.scale == 1.0 { " m" } else { "" };
        // No zero with a sign.
        let length = length + 0.0;
        if (length - length.round()).abs() < 1e-6 {
            format!("{:.0}{unit}", length.round() + 0.0)
        } else {
            format!("{length:.1}{unit}")
        }
    }
}

/// Converts a shape to polygons. A ball has none: it is drawn as a circle.
fn outlines<V: Geometry>(shape: &Shape<'_, V>) -> Vec<Vec<V>> {
    let mut all = Vec::new();
    if !matches!(shape, Shape::Ball { .. }) {
        shape.each_outline(|points| all.push(points.to_vec()));
    }
    all
}

/// A shape as closed lines.
fn drawn<V: Geometry>(eye: Eye, shape: &Shape<'_, V>) -> Vec<Vec<(f64, f64)>> {
    match *shape {
        Shape::Ball { centre, radius } => vec![round(eye, centre, radius)],
        _ => outlines(shape).iter().map(|face| seen(eye, face)).collect(),
    }
}

/// Edges between two faces in one plane, which are not drawn.
#[derive(Default)]
struct Edges(HashMap<[[u32; 3]; 2], Vec<DVec3>>);

impl Edges {
    fn of<V: Geometry>(level: &Level<V>) -> Self {
        let mut edges = Self::default();
        level.each_shape(|shape, _| {
            for face in outlines(&shape).into_iter().filter(|face| face.len() > 2) {
                let corners: Vec<DVec3> =
                    face.iter().map(|corner| Vec3::from(corner.to_array()).as_dvec3()).collect();
                let across =
                    (2..corners.len()).map(|i| (corners[i - 1] - corners[0]).cross(corners[i] - corners[0]));
                let normal = across.sum::<DVec3>().normalize_or_zero();
                for i in 0..face.len() {
                    edges.0.entry(Self::key(face[i], face[(i + 1) % face.len()])).or_default().push(normal);
                }
            }
        });
        edges
    }

    fn key<V: Geometry>(from: V, to: V) -> [[u32; 3]; 2] {
        let mut ends = [from, to].map(|end| end.to_array().map(|part| (part + 0.0).to_bits()));
        ends.sort_unstable();
        ends
    }

    /// Returns true if an edge is between two faces in one plane, or of one round surface.
    fn is_inner<V: Geometry>(&self, from: V, to: V, is_round: bool) -> bool {
        /// The smallest cosines between the normals of faces that are drawn as one: in a plane, and of
        /// a round surface, whose faces are up to 15 degrees apart.
        const SAME: [f64; 2] = [0.9999, 0.93];
        let same = SAME[usize::from(is_round)];
        matches!(self.0.get(&Self::key(from, to)).map(Vec::as_slice), Some([a, b]) if a.dot(*b).abs() > same)
    }
}

/// The height of the top of a shape, in metres.
fn top_of<V: Geometry>(eye: Eye, shape: &Shape<'_, V>) -> f32 {
    let height = |point: &V| eye.seen(point.to_array())[1];
    let highest = |points: &[V]| points.iter().map(height).fold(f32::MIN, f32::max);
    match shape {
        Shape::Ball { centre, radius } => height(centre) + radius / eye.scale,
        _ => outlines(shape).iter().map(|points| highest(points)).fold(f32::MIN, f32::max),
    }
}

fn seen<V: Geometry>(eye: Eye, points: &[V]) -> Vec<(f64, f64)> {
    points.iter().map(|point| eye.place(point.to_array())).collect()
}

fn round<V: Geometry>(eye: Eye, centre: V, radius: f32) -> Vec<(f64, f64)> {
    let (x, y) = eye.place(centre.to_array());
    arc(x, y, eye.metres(radius), 0.0, 2.0)
}

/// Points of an arc, with angles in half turns.
fn arc(x: f64, y: f64, radius: f64, from: f64, to: f64) -> Vec<(f64, f64)> {
    (0..=24)
        .map(|i| std::f64::consts::PI * (from + (to - from) * f64::from(i) / 24.0))
        .map(|angle| (x + radius * angle.cos(), y + radius * angle.sin()))
        .collect()
}

/// A piece for drawing.
struct Outline {
    points: Vec<(f64, f64)>,
    /// Its edges, as lines.
    rim: Vec<Vec<(f64, f64)>>,
    tag: Tag,
    /// The height of its top.
    top: f32,
    /// The depth for drawing: nearer pieces are drawn later.
    near: f64,
}

fn draw_level<DB: DrawingBackend, V: Geometry>(
    chart: &mut Chart<'_, DB>,
    eye: Eye,
    file: &LevelFile<V>,
    end: f64,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let level = &file.level;
    let mut pieces: Vec<Outline> = Vec::new();
    let edges = Edges::of(level);
    level.each_shape(|shape, tag| {
        let top = top_of(eye, &shape);
        let round = is_round(&shape);
        let rim = |face: &Vec<V>| {
            let ends = (0..face.len()).map(|i| [face[i], face[(i + 1) % face.len()]]);
            ends.filter(|[from, to]| !edges.is_inner(*from, *to, round))
                .map(|ends| seen(eye, &ends))
                .collect()
        };
        let mut outlines: Vec<_> = match shape {
            Shape::Ball { .. } => {
                drawn(eye, &shape).into_iter().map(|round| (round.clone(), vec![round])).collect()
            }
            _ => outlines(&shape).iter().map(|face| (seen(eye, face), rim(face))).collect(),
        };
        outlines.retain(|(points, _)| is_seen(chart, points));
        let near = match eye.from {
            From::Side => 0.0,
            From::Above => f64::from(top),
            // The centre is nearer if it is further in front and higher up.
            From::Oblique => nearness(eye, &shape),
        };
        pieces.extend(outlines.into_iter().map(|(points, rim)| Outline { points, rim, tag, top, near }));
    });
    pieces.sort_by(|a, b| a.near.total_cmp(&b.near));
    let lowest = pieces.iter().map(|piece| piece.top).fold(f32::MAX, f32::min);
    for Outline { points, rim, tag, top, .. } in &pieces {
        let (fill, ink) = if tag.one_way { (AWNING, AWNING) } else { (STONE, STONE_RIM) };
        // From above the ground is nearly the colour of paper, and what stands on it darker. In the
        // oblique view, pieces in front are translucent, and pieces that only frame the scene are
        // faint.
        let fraction = match eye.from {
            From::Side => 1.0,
            From::Above => (0.25 + 0.3 * f64::from(top - lowest)).min(1.0),
            From::Oblique if frames(chart, points) => 0.08,
            From::Oblique => 0.3,
        };
        if points.len() > 2 {
            chart.draw_series([Polygon::new(points.clone(), fill.mix(fraction).filled())])?;
            // Otherwise a hair of paper would show between two adjacent pieces.
            if eye.from == From::Side {
                let closed = points.iter().chain(points.first()).copied().collect::<Vec<_>>();
                chart.draw_series([PathElement::new(closed, fill.stroke_width(wide(1)))])?;
            }
        }
        chart
            .draw_series(rim.iter().map(|line| PathElement::new(line.clone(), ink.stroke_width(wide(1)))))?;
    }
    draw_zones(chart, eye, level)?;
    draw_carriers_later(chart, eye, file, end)
}

/// Returns true for shapes that are drawn with many flat faces in place of a round one.
fn is_round<V>(shape: &Shape<'_, V>) -> bool {
    /// The number of corners of a solid from which on it stands for something round.
    const MANY: usize = 32;
    match shape {
        Shape::Capsule { .. } => true,
        Shape::Solid { points, rounding, .. } => *rounding > 0.0 || points.len() >= MANY,
        _ => false,
    }
}

/// The depth of a shape in the oblique view, by its centre.
fn nearness<V: Geometry>(eye: Eye, shape: &Shape<'_, V>) -> f64 {
    let middle = |points: &[V]| {
        let sum = points.iter().fold(V::ZERO, |sum, point| sum + *point);
        (sum * (1.0 / points.len().max(1) as f32)).to_array()
    };
    let middle_of_it = match shape {
        Shape::Ball { centre, .. } => centre.to_array(),
        Shape::Segment { ends, .. } | Shape::Capsule { ends, .. } => middle(ends),
        Shape::Polygon { points, .. } | Shape::Solid { points, .. } => middle(points),
        Shape::Facet { points, .. } => middle(points),
        Shape::Mesh { .. } => outlines(shape).first().map_or([0.0; 3], |points| middle(points)),
    };
    let [_, y, z] = eye.seen(middle_of_it);
    f64::from(z) + 0.5 * f64::from(y)
}

/// The bounds of points.
fn bounds_of(points: &[(f64, f64)]) -> [(f64, f64); 2] {
    let over = |of: fn(&(f64, f64)) -> f64| {
        points.iter().map(of).fold((f64::MAX, f64::MIN), |(least, most), at| (least.min(at), most.max(at)))
    };
    [over(|point| point.0), over(|point| point.1)]
}

/// Returns true if something is in the visible part of the level.
fn is_seen<DB: DrawingBackend>(chart: &Chart<'_, DB>, points: &[(f64, f64)]) -> bool {
    let [x, y] = bounds_of(points);
    let (shown_x, shown_y) = (chart.x_range(), chart.y_range());
    x.0 <= shown_x.end && x.1 >= shown_x.start && y.0 <= shown_y.end && y.1 >= shown_y.start
}

/// Returns true if something is as wide or as high as the visible part.
fn frames<DB: DrawingBackend>(chart: &Chart<'_, DB>, points: &[(f64, f64)]) -> bool {
    let [x, y] = bounds_of(points);
    let (shown_x, shown_y) = (chart.x_range(), chart.y_range());
    x.1 - x.0 > 0.8 * (shown_x.end - shown_x.start) || y.1 - y.0 > 0.8 * (shown_y.end - shown_y.start)
}

/// The outline of a zone.
fn corners_of<V: Geometry>(eye: Eye, zone: &rasant::Zone<V>) -> Vec<(f64, f64)> {
    let (min, max) = (zone.bounds.min.to_array(), zone.bounds.max.to_array());
    match eye.from {
        From::Oblique => {
            // The front and the back, and the lines between them: a box.
            let [a, b] = [min, max].map(|corner| eye.seen(corner));
            let low: [f32; 3] = std::array::from_fn(|axis| a[axis].min(b[axis]));
            let high: [f32; 3] = std::array::from_fn(|axis| a[axis].max(b[axis]));
            [
                [low[0], low[1], high[2]],
                [high[0], low[1], high[2]],
                [high[0], low[1], low[2]],
                [high[0], high[1], low[2]],
                [low[0], high[1], low[2]],
                [low[0], high[1], high[2]],
                [low[0], low[1], high[2]],
            ]
            .map(|corner| eye.drawn(corner))
            .to_vec()
        }
        _ => {
            let (a, b) = (eye.place(min), eye.place(max));
            vec![a, (b.0, a.1), b, (a.0, b.1), a]
        }
    }
}

/// Draws zones as pale boxes.
fn draw_zones<DB: DrawingBackend, V: Geometry>(chart: &mut Chart<'_, DB>, eye: Eye, level: &Level<V>) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut zones = Vec::new();
    level.each_zone(|_, zone| zones.push(zone));
    for zone in zones {
        let corners = corners_of(eye, &zone);
        if !is_seen(chart, &corners) {
            continue;
        }
        chart.draw_series([Polygon::new(corners.clone(), ZONE.mix(0.18).filled())])?;
        let style = ZONE.stroke_width(wide(1));
        chart.draw_series(DashedLineSeries::new(corners, wide(2), wide(3), style))?;
        if zone.effects.iter().any(|effect| matches!(effect, Effect::Ladder { .. })) && eye.from == From::Side
        {
            let (a, b) = (eye.place(zone.bounds.min.to_array()), eye.place(zone.bounds.max.to_array()));
            draw_rungs(chart, (a.0, a.1.min(b.1)), (b.0, a.1.max(b.1)))?;
        }
    }
    Ok(())
}

/// Draws the names of zones, each at a corner where it covers nothing else. A name without room, or
/// of a zone that is not visible, is left out.
fn name_zones<DB: DrawingBackend, V: Geometry>(
    chart: &mut Chart<'_, DB>,
    eye: Eye,
    level: &Level<V>,
    names: &[String],
    labels: &mut Labels,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut zones = Vec::new();
    level.each_zone(|id, zone| zones.push((id, zone)));
    let area = chart.plotting_area().strip_coord_spec();
    let (shown_x, shown_y) = chart.plotting_area().get_pixel_range();
    for (id, zone) in zones {
        let corners = corners_of(eye, &zone);
        if !is_seen(chart, &corners) {
            continue;
        }
        let name = &names[usize::from(id.0)];
        let (width, height) = chart.plotting_area().estimate_text_size(name, &text(SMALL))?;
        let (width, height) = (width as i32, height as i32);
        let [x, y] = bounds_of(&corners);
        let (left, top) = chart.backend_coord(&(x.0, y.1));
        let (right, bottom) = chart.backend_coord(&(x.1, y.0));
        let beside = [
            (right + px(4), top + px(2)),
            (left - px(4) - width, top + px(2)),
            (left, top - px(2) - height),
            (left + px(4), top + px(4)),
            (right + px(4), bottom - px(2) - height),
            (left - px(4) - width, bottom - px(2) - height),
            (left, bottom + px(2)),
        ];
        let within = |&(x, y): &(i32, i32)| {
            x >= shown_x.start && x + width <= shown_x.end && y >= shown_y.start && y + height <= shown_y.end
        };
        let places: Vec<(i32, i32)> = beside.into_iter().filter(within).collect();
        if let Some((x, y)) = labels.place((width, height), &places) {
            let (x, y) = (x - shown_x.start, y - shown_y.start);
            let paper = [(x - px(2), y - px(1)), (x + width + px(2), y + height + px(1))];
            area.draw(&Rectangle::new(paper, PAPER.mix(0.7).filled()))?;
            area.draw_text(name, &text(SMALL).color(&ZONE_WORD), (x, y))?;
        }
    }
    Ok(())
}

fn draw_rungs<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, a: (f64, f64), b: (f64, f64)) -> Drawn
where
    DB::ErrorType: 'static,
{
    /// The distance between two rungs, in metres.
    const APART: f64 = 0.35;
    /// The maximum number of rungs; those of a taller ladder are further apart.
    const MOST: f64 = 300.0;
    let apart = APART.max((b.1 - a.1) / MOST);
    let count = ((b.1 - a.1) / apart) as usize;
    for number in 1..=count {
        let y = a.1 + apart * number as f64;
        chart.draw_series([PathElement::new(vec![(a.0, y), (b.0, y)], ZONE.stroke_width(wide(2)))])?;
    }
    Ok(())
}

/// Draws the pieces on carriers again, dashed, where they are at the end; those on doors where the
/// doors lead.
fn draw_carriers_later<DB: DrawingBackend, V: Geometry>(
    chart: &mut Chart<'_, DB>,
    eye: Eye,
    file: &LevelFile<V>,
    end: f64,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut later = file.level.clone();
    file.mechanisms.open_all(&mut later);
    later.advance(end as f32);
    let edges = Edges::of(&later);
    let mut lines: Vec<Vec<(f64, f64)>> = Vec::new();
    later.each_shape(|shape, tag| {
        if tag.carrier.is_none() {
            return;
        }
        let round = is_round(&shape) && V::DIMENSION == 3;
        if !round {
            let closed = drawn(eye, &shape).into_iter().map(|mut points| {
                points.extend(points.first().copied());
                points
            });
            lines.extend(closed);
            return;
        }
        for face in outlines(&shape) {
            let ends = (0..face.len()).map(|i| [face[i], face[(i + 1) % face.len()]]);
            let rim = ends.filter(|[from, to]| !edges.is_inner(*from, *to, true));
            lines.extend(rim.map(|ends| seen(eye, &ends)));
        }
    });
    for line in lines {
        chart.draw_series(DashedLineSeries::new(line, wide(5), wide(4), STONE_RIM.stroke_width(wide(1))))?;
    }
    Ok(())
}

/// Draws the other bodies of a trial: a dashed outline at their start, their path, and a filled
/// outline at their end.
fn draw_others<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, eye: Eye, trial: &Trial, run: &Run) -> Drawn
where
    DB::ErrorType: 'static,
{
    for (other, (_, run)) in trial.others.iter().zip(&run.others) {
        let [Some(first), Some(last)] = [run.trace.rows.first(), run.trace.rows.last()] else { continue };
        let outline = |row| outline_of_body(eye, &other.tuning, trial.dimensions(), row);
        let thin = OTHER_BODY.mix(0.7).stroke_width(wide(1));
        let path: Vec<(f64, f64)> = run.trace.rows.iter().map(|row| eye.place(row.position)).collect();
        chart.draw_series([PathElement::new(path, thin)])?;
        chart.draw_series(DashedLineSeries::new(outline(first), wide(3), wide(3), thin))?;
        chart.draw_series([Polygon::new(outline(last), OTHER_BODY.mix(0.25).filled())])?;
        chart.draw_series([PathElement::new(outline(last), OTHER_BODY.stroke_width(wide(2)))])?;
    }
    Ok(())
}

/// Writes the names of the other bodies where they end, as far as there is room.
fn name_others<DB: DrawingBackend>(
    chart: &mut Chart<'_, DB>,
    eye: Eye,
    trial: &Trial,
    run: &Run,
    labels: &mut Labels,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let run_names = || run.others.iter().map(|(name, _)| &**name);
    for (other, (name, run)) in trial.others.iter().zip(&run.others) {
        let Some(last) = run.trace.rows.last() else { continue };
        let outline = outline_of_body(eye, &other.tuning, trial.dimensions(), last);
        let [_, y] = bounds_of(&outline);
        let [top, foot] = [y.1, y.0].map(|y| chart.backend_coord(&(eye.place(last.position).0, y)));
        let style = text(SMALL).color(&OTHER_BODY);
        let word = number_in_row(name, run_names()).unwrap_or(name);
        let (width, tall) = chart.plotting_area().estimate_text_size(word, &style)?;
        let (width, tall) = (width as i32, tall as i32);
        let places = [
            (top.0 - width / 2, top.1 - px(4) - tall),
            (foot.0 - width / 2, foot.1 + px(4)),
            (top.0 - width / 2, top.1 - px(22) - tall),
        ];
        if let Some(place) = labels.place((width, tall), &places) {
            let area = chart.plotting_area().strip_coord_spec();
            let (left, above) = chart.plotting_area().get_base_pixel();
            area.draw_text(word, &style, (place.0 - left, place.1 - above))?;
        }
    }
    Ok(())
}

/// The number of a body in a row of bodies, as in `porter-3`; none if it stands alone.
fn number_in_row<'a>(name: &'a str, mut all: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let parts = |name: &'a str| {
        let (row, number) = name.rsplit_once('-')?;
        number.parse::<u32>().is_ok().then_some((row, number))
    };
    let (row, number) = parts(name)?;
    all.any(|other| other != name && parts(other).is_some_and(|(of, _)| of == row)).then_some(number)
}

fn draw_bodies<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, eye: Eye, trial: &Trial, trace: &Trace) -> Drawn
where
    DB::ErrorType: 'static,
{
    let from_above = trial.tuning.tuning.steering.is_from_above(trace.dimensions);
    let outline = |row: &Row| outline_of(eye, trial, row);
    for row in now_and_then(trace) {
        chart.draw_series([PathElement::new(outline(row), BODY.mix(0.3).stroke_width(wide(1)))])?;
        if from_above || eye.from != From::Side {
            draw_facing(chart, eye, row)?;
        } else {
            draw_footing(chart, eye, row)?;
        }
    }
    if let Some(last) = trace.rows.last() {
        let outline = outline(last);
        chart.draw_series([Polygon::new(outline.clone(), BODY.mix(0.2).filled())])?;
        chart.draw_series([PathElement::new(outline, BODY.stroke_width(wide(2)))])?;
    }
    Ok(())
}

/// Rows that are a quarter of a second apart.
pub(super) fn now_and_then(trace: &Trace) -> impl Iterator<Item = &Row> {
    trace.rows.iter().step_by(((INTERVAL * f64::from(trace.rate)).round() as usize).max(1))
}

/// The closed outline of a trial's body in a row.
pub(super) fn outline_of(eye: Eye, trial: &Trial, row: &Row) -> Vec<(f64, f64)> {
    outline_of_body(eye, &trial.tuning, trial.dimensions(), row)
}

/// The closed outline of a body with a tuning in a row.
fn outline_of_body(eye: Eye, tuning: &TuningFile, dimensions: usize, row: &Row) -> Vec<(f64, f64)> {
    let hull = tuning.hull;
    let (x, y) = eye.place(row.position);
    match eye.from {
        From::Side | From::Oblique => {
            // The outline stands on the body's position.
            let from_above = tuning.tuning.steering.is_from_above(dimensions);
            let below = if from_above { 0.5 * eye.metres(row.hull_height) } else { 0.0 };
            let upright = body_outline(eye, hull.at_height(row.hull_height).shape(), (x, y - below));
            turned(upright, (x, y), eye.direction(row.up))
        }
        From::Above => arc(x, y, eye.metres(hull.half_width()), 0.0, 2.0),
    }
}

/// An outline rotated about a point for another up, in a side view.
fn turned(outline: Vec<(f64, f64)>, (x, y): (f64, f64), up: (f64, f64)) -> Vec<(f64, f64)> {
    let length = up.0.hypot(up.1);
    if length < 0.1 {
        return outline;
    }
    let (sine, cosine) = (-up.0 / length, up.1 / length);
    let turn = |(px, py): (f64, f64)| {
        let (right, high) = (px - x, py - y);
        (x + right * cosine - high * sine, y + right * sine + high * cosine)
    };
    outline.into_iter().map(turn).collect()
}

/// Draws a line from the body along its facing.
fn draw_facing<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, eye: Eye, row: &Row) -> Drawn
where
    DB::ErrorType: 'static,
{
    /// In metres.
    const LENGTH: f64 = 0.55;
    let (x, y) = eye.place(row.position);
    let (fx, fy) = eye.direction(row.facing);
    let tip = (x + fx * LENGTH, y + fy * LENGTH);
    chart.draw_series([PathElement::new(vec![(x, y), tip], NORMAL.stroke_width(wide(1)))])?;
    chart.draw_series([Circle::new(tip, px(2), NORMAL.filled())])?;
    Ok(())
}

/// Draws the normal of the ground under the feet: with a filled arrowhead if it can be walked, an
/// open one if it is too steep.
fn draw_footing<DB: DrawingBackend>(chart: &mut Chart<'_, DB>, eye: Eye, row: &Row) -> Drawn
where
    DB::ErrorType: 'static,
{
    /// In metres.
    const LENGTH: f64 = 0.7;
    if row.footing == "none" {
        return Ok(());
    }
    let (x, y) = eye.place(row.position);
    let (nx, ny) = eye.direction(row.normal);
    let tip = (x + nx * LENGTH, y + ny * LENGTH);
    chart.draw_series([PathElement::new(vec![(x, y), tip], NORMAL.stroke_width(wide(1)))])?;
    let fill = if row.footing == "firm" { NORMAL } else { PAPER };
    chart.draw_series([Circle::new(tip, px(3), fill.filled())])?;
    chart.draw_series([Circle::new(tip, px(3), NORMAL.stroke_width(wide(1)))])?;
    Ok(())
}

/// The closed outline of a hull with the middle of its underside at `(x, y)`.
fn body_outline(eye: Eye, shape: HullShape, (x, y): (f64, f64)) -> Vec<(f64, f64)> {
    let rounded = |half: f64, height: f64, radius: f64| {
        let (side, low, high) = (half - radius, y + radius, y + height - radius);
        let mut points = arc(x + side, high, radius, 0.0, 0.5);
        points.extend(arc(x - side, high, radius, 0.5, 1.0));
        points.extend(arc(x - side, low, radius, 1.0, 1.5));
        points.extend(arc(x + side, low, radius, 1.5, 2.0));
        points.push(points[0]);
        points
    };
    let metres = |length: f32| eye.metres(length);
    match shape {
        HullShape::Capsule { radius, height } => rounded(metres(radius), metres(height), metres(radius)),
        HullShape::Ball { radius } => rounded(metres(radius), 2.0 * metres(radius), metres(radius)),
        HullShape::Box { width, height, rounding, .. } => {
            rounded(0.5 * metres(width), metres(height), metres(rounding))
        }
    }
}

/// Draws a word above the head where an action was pressed, if there is room. The inputs below show
/// every press.
fn draw_presses<DB: DrawingBackend>(
    chart: &mut Chart<'_, DB>,
    eye: Eye,
    trace: &Trace,
    height: f64,
    labels: &mut Labels,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    for (row, word) in presses(trace) {
        let (x, y) = eye.place(row.position);
        let over = (x, y + height);
        chart.draw_series([EmptyElement::at(over)
            + PathElement::new(vec![(0, px(-4)), (0, px(-16))], PRESSED.stroke_width(wide(2)))
            + Polygon::new(vec![(px(-4), px(-8)), (px(4), px(-8)), (0, px(-2))], PRESSED.filled())])?;
        let pixel = chart.backend_coord(&over);
        let (width, tall) = chart.plotting_area().estimate_text_size(&word, &text(SMALL))?;
        let (width, tall) = (width as i32, tall as i32);
        let up = |rows: i32| (pixel.0 - width / 2, pixel.1 - px(18) - rows * (tall + px(2)) - tall);
        let beside = [(pixel.0 + px(8), pixel.1 - px(16)), (pixel.0 - px(8) - width, pixel.1 - px(16))];
        let places = [up(0), up(1), beside[0], beside[1]];
        if let Some(place) = labels.place((width, tall), &places) {
            let aside = (place.0 - pixel.0, place.1 - pixel.1);
            chart.draw_series([
                EmptyElement::at(over) + Text::new(word, aside, text(SMALL).color(&PRESSED))
            ])?;
        }
    }
    Ok(())
}

/// Rows in which an action was pressed, with the name of the action.
pub fn presses(trace: &Trace) -> impl Iterator<Item = (&Row, String)> {
    trace.rows.windows(2).flat_map(|pair| {
        let pressed = pair[1].held.difference(pair[0].held);
        // The position of the body when the press was seen.
        pressed.each().filter_map(rasant::Actions::name).map(|name| (&pair[0], name))
    })
}

/// Draws the marks that occur, each with its meaning, in a row under the heading.
pub fn draw_legend<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trial: &Trial, run: &Run) -> Drawn
where
    DB::ErrorType: 'static,
{
    let trace = &run.trace;
    let eye = Eye::of(trace, &trial.world);
    let mut known: Vec<(Mark, &str)> = Vec::new();
    for (_, event) in trace.events() {
        known.extend(mark_of(event).filter(|mark| !known.contains(mark)));
    }
    let (mut x, y) = (px(72), px(14));
    for line in lines_in(trace) {
        let (full, gap) = line.dash.unwrap_or((28, 0));
        let mut from = 0;
        while from < 28 {
            let to = (from + full).min(28);
            let ends = [from, to].map(|at| (x + px(at as i32), y));
            area.draw(&PathElement::new(ends.to_vec(), line.color.stroke_width(wide(3 + line.wider))))?;
            from = to + gap;
        }
        area.draw_text(line.word, &text(SMALL), (x + px(34), y - px(7)))?;
        x += px(50 + 7 * line.word.len() as i32);
    }
    if eye.from == From::Above {
        area.draw_text("seen from above, and obliquely", &text(SMALL), (x, y - px(7)))?;
        x += px(208);
    }
    if !run.others.is_empty() {
        let word = "another body: start, path, end";
        let corners = |x: i32| {
            vec![
                (x, y - px(7)),
                (x + px(8), y - px(7)),
                (x + px(8), y + px(7)),
                (x, y + px(7)),
                (x, y - px(7)),
            ]
        };
        let thin = OTHER_BODY.mix(0.7).stroke_width(wide(1));
        area.draw(&PathElement::new(corners(x), thin))?;
        area.draw(&PathElement::new(vec![(x + px(4), y + px(7)), (x + px(24), y + px(7))], thin))?;
        area.draw(&Polygon::new(corners(x + px(20)), OTHER_BODY.mix(0.4).filled()))?;
        area.draw_text(word, &text(SMALL), (x + px(34), y - px(7)))?;
        x += px(50 + 7 * word.len() as i32);
    }
    for (filled, word) in [(true, "normal, firm"), (false, "normal, too steep")] {
        if eye.from == From::Above
            || !trace.rows.iter().any(|row| row.footing == if filled { "firm" } else { "steep" })
        {
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
