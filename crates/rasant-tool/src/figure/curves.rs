//! The response of figures to knobs: curves over one knob, a map over two.

use plotters::coord::Shift;
use plotters::prelude::*;
use rasant_lab::vary::{Axis, Variation};

use super::palette::{INK, LARGE, MIST, PAPER, SERIES, SMALL, px, wide};
use super::{Drawn, Picture, text};
use crate::output::{Failure, number};

/// The maximum number of figures, one panel each.
pub const PANELS: usize = 6;
/// The height of the heading, in pixels.
const HEADING: u32 = 64;
/// The smallest cell of a map that shows its number, in pixels.
const ROOM: (i32, i32) = (52, 22);

impl Picture {
    /// Draws figures of a variation by their indices: curves over one knob, each in a panel; the
    /// first of them as a map over two.
    pub fn of_variation(variation: &Variation, figures: &[usize]) -> Result<Self, Failure> {
        Self::drawn(super::SIZE, |root| {
            let (heading, rest) = root.split_vertically(wide(HEADING));
            let ranges: Vec<String> = variation.axes.iter().map(range_in_words).collect();
            heading.draw_text(&variation.title, &text(LARGE), (px(16), px(10)))?;
            heading.draw_text(&ranges.join(" · "), &text(SMALL + 1), (px(16), px(38)))?;
            match (&variation.axes[..], figures) {
                ([axis], _) => draw_curves(&rest, variation, axis, figures),
                ([across, up], [first, ..]) => draw_map(&rest, variation, (up, across), *first),
                _ => Ok(()),
            }
        })
    }
}

fn range_in_words(axis: &Axis) -> String {
    let end = |value: Option<&f32>| value.map_or(String::new(), |value| number((*value).into(), axis.unit));
    let count = axis.values.len();
    format!("{} from {} to {}, {count} values", axis.knob, end(axis.values.first()), end(axis.values.last()))
}

/// A name with its unit, for an axis.
fn with_unit(name: &str, unit: &str) -> String {
    if unit.is_empty() { name.to_owned() } else { format!("{name} ({unit})") }
}

/// A number of an axis, in few digits.
fn tick(value: f64) -> String {
    number(value, "")
}

fn draw_curves<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    variation: &Variation,
    axis: &Axis,
    figures: &[usize],
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let shown = &figures[..figures.len().min(PANELS)];
    let columns = if shown.len() > 3 { 2 } else { 1 };
    let panels = area.split_evenly((shown.len().div_ceil(columns).max(1), columns));
    for (&figure, panel) in shown.iter().zip(&panels) {
        let (name, unit) = variation.figures[figure];
        let points: Vec<(f64, Option<f64>)> = variation
            .points
            .iter()
            .map(|point| (f64::from(point.values[0]), point.measured[figure]))
            .collect();
        let (least, most) = points
            .iter()
            .filter_map(|point| point.1)
            .fold((f64::MAX, f64::MIN), |(least, most), value| (least.min(value), most.max(value)));
        let (least, most) = if least > most { (0.0, 1.0) } else { (least, most) };
        let spare = ((most - least) * 0.12).max(1e-3 * most.abs()).max(1e-6);
        // The values of a knob may be in falling order.
        let ends = axis.values.iter().fold((f64::MAX, f64::MIN), |(low, high), &value| {
            (low.min(value.into()), high.max(value.into()))
        });
        // Points at the ends are kept clear of the axis and its numbers.
        let aside = ((ends.1 - ends.0) * 0.02).max(1e-6);
        let mut chart = ChartBuilder::on(panel)
            .margin_right(px(24))
            .margin_top(px(26))
            .margin_bottom(px(10))
            .x_label_area_size(px(38))
            .y_label_area_size(px(64))
            .build_cartesian_2d(ends.0 - aside..ends.1 + aside, least - spare..most + spare)?;
        super::quiet(&mut chart.configure_mesh())
            .x_label_formatter(&|value| tick(*value))
            .y_label_formatter(&|value| tick(*value))
            .x_labels(10)
            .y_labels(6)
            .x_desc(with_unit(&axis.knob, axis.unit))
            .axis_desc_style(text(SMALL))
            .draw()?;
        panel.draw_text(&with_unit(name, unit), &text(SMALL + 1), (px(64), px(4)))?;
        // The line is interrupted where there is no figure.
        for part in points.chunk_by(|a, b| a.1.is_some() == b.1.is_some()) {
            let line: Vec<(f64, f64)> = part.iter().filter_map(|(x, y)| y.map(|y| (*x, y))).collect();
            chart.draw_series([PathElement::new(line.clone(), SERIES[0].0.stroke_width(wide(2)))])?;
            if points.len() <= 60 {
                chart.draw_series(line.iter().map(|&at| Circle::new(at, px(3), SERIES[0].0.filled())))?;
            }
        }
    }
    Ok(())
}

/// From pale to dark: lightness alone shows the order.
fn shade(fraction: f64) -> RGBColor {
    const PALE: (f64, f64, f64) = (238.0, 236.0, 224.0);
    const MIDDLE: (f64, f64, f64) = (104.0, 160.0, 178.0);
    const DARK: (f64, f64, f64) = (18.0, 52.0, 92.0);
    let mix = |a: f64, b: f64, fraction: f64| (a + (b - a) * fraction).round() as u8;
    let (from, to, fraction) =
        if fraction < 0.5 { (PALE, MIDDLE, fraction * 2.0) } else { (MIDDLE, DARK, fraction * 2.0 - 1.0) };
    RGBColor(mix(from.0, to.0, fraction), mix(from.1, to.1, fraction), mix(from.2, to.2, fraction))
}

fn draw_map<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    variation: &Variation,
    (across, up): (&Axis, &Axis),
    figure: usize,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let (name, unit) = variation.figures[figure];
    let all = || variation.points.iter().filter_map(|point| point.measured[figure]);
    let (least, most) = (all().fold(f64::MAX, f64::min), all().fold(f64::MIN, f64::max));
    let fraction = |value: f64| if most > least { (value - least) / (most - least) } else { 0.5 };
    let (width, height) = area.dim_in_pixel();
    let (map, scale) = area.split_horizontally(width - wide(140));
    let (columns, rows) = (across.values.len() as f64, up.values.len() as f64);
    let mut chart = ChartBuilder::on(&map)
        .margin_right(px(16))
        .margin_top(px(30))
        .margin_bottom(px(10))
        .x_label_area_size(px(42))
        .y_label_area_size(px(72))
        .build_cartesian_2d(0.0..columns, 0.0..rows)?;
    let value_at = |axis: &Axis, place: f64| {
        axis.values.get(place as usize).map_or(String::new(), |value| tick((*value).into()))
    };
    // The numbers of the knobs are centred under their cells.
    let every = |count: f64, most: f64| (count / most).ceil().max(1.0) as usize;
    chart
        .configure_mesh()
        .disable_mesh()
        .axis_style(MIST.stroke_width(wide(1)))
        .label_style(text(SMALL))
        .x_labels(0)
        .y_labels(0)
        .x_desc(with_unit(&across.knob, across.unit))
        .axis_desc_style(text(SMALL))
        .draw()?;
    let title = format!("{} · up: {}", with_unit(name, unit), with_unit(&up.knob, up.unit));
    map.draw_text(&title, &text(SMALL + 1), (px(72), px(6)))?;
    let cell = (
        (wide(1) as f64).recip() * (map.dim_in_pixel().0 as f64 - px(88) as f64) / columns,
        (wide(1) as f64).recip() * (height as f64 - px(74) as f64) / rows,
    );
    let roomy = cell.0 as i32 >= ROOM.0 && cell.1 as i32 >= ROOM.1;
    for (index, point) in variation.points.iter().enumerate() {
        // The first knob is the vertical axis; the last one, which changes first, the horizontal.
        let (row, column) = (index / across.values.len(), index % across.values.len());
        let (x, y) = (column as f64, row as f64);
        let Some(value) = point.measured[figure] else { continue };
        chart.draw_series([Rectangle::new([(x, y), (x + 1.0, y + 1.0)], shade(fraction(value)).filled())])?;
        if roomy {
            let ink = if fraction(value) > 0.45 { PAPER } else { INK };
            let words = tick(value);
            let left = -px(7 * words.chars().count() as i32 / 2);
            chart.draw_series([EmptyElement::at((x + 0.5, y + 0.5))
                + Text::new(words, (left, px(-8)), text(SMALL).color(&ink))])?;
        }
    }
    let plotting = chart.plotting_area();
    for column in (0..across.values.len()).step_by(every(columns, 16.0)) {
        let (x, y) = plotting.map_coordinate(&(column as f64 + 0.5, 0.0));
        let words = value_at(across, column as f64);
        let (left, top) = map.get_base_pixel();
        let at = (x - left - px(7 * words.chars().count() as i32 / 2), y - top + px(6));
        map.draw_text(&words, &text(SMALL), at)?;
    }
    for row in (0..up.values.len()).step_by(every(rows, 24.0)) {
        let (x, y) = plotting.map_coordinate(&(0.0, row as f64 + 0.5));
        let words = value_at(up, row as f64);
        let (left, top) = map.get_base_pixel();
        let at = (x - left - px(8 + 7 * words.chars().count() as i32), y - top - px(8));
        map.draw_text(&words, &text(SMALL), at)?;
    }
    draw_scale(&scale, (least, most), unit)
}

/// The scale of the shades.
fn draw_scale<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    (least, most): (f64, f64),
    unit: &str,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    const STEPS: i32 = 64;
    let (top, height) = (px(30), area.dim_in_pixel().1 as i32 - px(74));
    for step in 0..STEPS {
        let fraction = f64::from(step) / f64::from(STEPS - 1);
        let from = top + height - height * (step + 1) / STEPS;
        // Overlapping the one below, so that there is no gap.
        let to = (top + height - height * step / STEPS + px(1)).min(top + height);
        area.draw(&Rectangle::new([(px(4), from), (px(26), to)], shade(fraction).filled()))?;
    }
    for fraction in [0.0, 0.25, 0.5, 0.75, 1.0] {
        let y = top + height - (f64::from(height) * fraction) as i32;
        area.draw_text(&number(least + (most - least) * fraction, unit), &text(SMALL), (px(34), y - px(8)))?;
    }
    Ok(())
}
