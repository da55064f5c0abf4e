//! Runs drawn over each other: the path of each, with ghosts of the later bodies, and their heights
//! and speeds.

use plotters::coord::Shift;
use plotters::prelude::*;
use rasant_lab::compare::Parting;
use rasant_lab::{Row, Run, Trial};

use super::charts::Axes;
use super::palette::{INK, LARGE, MIST, PAPER, SERIES, SMALL, px, wide};
use super::scene::{self, Eye, From};
use super::{Chart, Drawn, Picture, charts, text};
use crate::output::Failure;

/// Heights of the parts in pixels, from the top. The speeds get the rest.
const HEADING: u32 = 84;
const SCENE: u32 = 410;
const CHART: u32 = 153;

/// The name of run `number` in figures and tables: A, B, C.
pub fn letter(number: usize) -> String {
    char::from(b'A' + (number % 26) as u8).to_string()
}

impl Picture {
    /// Draws runs of one trial over each other, and where each later one diverges from the first.
    pub fn of_comparison(runs: &[(Trial, Run)], partings: &[Parting]) -> Result<Self, Failure> {
        Self::drawn(super::SIZE, |root| {
            let (heading, rest) = root.split_vertically(wide(HEADING));
            let (scene, rest) = rest.split_vertically(wide(SCENE));
            let (height, speed) = rest.split_vertically(wide(CHART));
            draw_heading(&heading, runs)?;
            draw_scene(&scene, runs, partings)?;
            let Some((first, _)) = runs.first() else { return Ok(()) };
            let axes = Axes::of(&first.world);
            draw_chart(
                &height,
                runs,
                partings,
                &|row| axes.height(row.position),
                &axes.named("height", "m"),
            )?;
            draw_chart(&speed, runs, partings, &charts::speed_of, &axes.named("speed", "m/s"))
        })
    }
}

fn draw_heading<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, runs: &[(Trial, Run)]) -> Drawn
where
    DB::ErrorType: 'static,
{
    let Some((trial, _)) = runs.first() else { return Ok(()) };
    area.draw_text(&format!("{}: {} tunings", trial.title, runs.len()), &text(LARGE), (px(16), px(10)))?;
    let mut x = px(16);
    for (number, (trial, _)) in runs.iter().enumerate() {
        let words = format!("{}: {}", letter(number), trial.tuning.title);
        draw_key(area, number, (x, px(52)))?;
        area.draw_text(&words, &text(SMALL + 1), (x + px(40), px(44)))?;
        x += px(70 + 15 * words.chars().count() as i32 / 2);
    }
    draw_parting_mark(area, (x + px(6), px(52)))?;
    area.draw_text("where it diverges from A", &text(SMALL + 1), (x + px(20), px(44)))?;
    Ok(())
}

/// Draws a piece of a run's line.
fn draw_key<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, number: usize, (x, y): (i32, i32)) -> Drawn
where
    DB::ErrorType: 'static,
{
    let (color, dash) = SERIES[number % SERIES.len()];
    let (full, gap) = dash.unwrap_or((32, 0));
    let mut from = 0;
    while from < 32 {
        let to = (from + full).min(32);
        let ends = vec![(x + px(from as i32), y), (x + px(to as i32), y)];
        area.draw(&PathElement::new(ends, color.stroke_width(wide(3))))?;
        from = to + gap;
    }
    Ok(())
}

fn draw_parting_mark<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, at: (i32, i32)) -> Drawn
where
    DB::ErrorType: 'static,
{
    area.draw(&Circle::new(at, px(6), PAPER.filled()))?;
    area.draw(&Circle::new(at, px(6), INK.stroke_width(wide(2))))?;
    area.draw(&Circle::new(at, px(2), INK.filled()))?;
    Ok(())
}

fn draw_scene<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    runs: &[(Trial, Run)],
    partings: &[Parting],
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let Some((first, run)) = runs.first() else { return Ok(()) };
    let eye = Eye::of(&run.trace, &first.world);
    let traces: Vec<_> = runs.iter().map(|(_, run)| &run.trace).collect();
    let mut chart = scene::stage(area, first, eye, &traces)?;
    for (number, (trial, run)) in runs.iter().enumerate().rev() {
        let color = SERIES[number % SERIES.len()].0;
        for row in scene::now_and_then(&run.trace) {
            let outline = scene::outline_of(eye, trial, row);
            chart.draw_series([PathElement::new(outline, color.mix(0.35).stroke_width(wide(1)))])?;
        }
        if let Some(last) = run.trace.rows.last() {
            let outline = scene::outline_of(eye, trial, last);
            chart.draw_series([Polygon::new(outline.clone(), color.mix(0.15).filled())])?;
            chart.draw_series([PathElement::new(outline, color.stroke_width(wide(2)))])?;
        }
    }
    for (number, (_, run)) in runs.iter().enumerate().rev() {
        draw_line(&mut chart, number, 3, run, &|row| eye.place(row.position))?;
    }
    for (number, (trial, run)) in runs.iter().enumerate() {
        if let Some(last) = run.trace.rows.last() {
            let (x, y) = eye.place(last.position);
            // Above the head, one above the other where they end together.
            let over = if eye.from == From::Side { eye.metres(trial.tuning.hull.height()) } else { 0.4 };
            let style = text(LARGE).color(&SERIES[number % SERIES.len()].0);
            let up = px(-24 - 20 * number as i32);
            chart.draw_series([
                EmptyElement::at((x, y + over)) + Text::new(letter(number), (px(-6), up), style)
            ])?;
        }
    }
    for place in partings.iter().filter_map(|parting| parting.first.as_ref()) {
        mark_in(&chart, eye.place(place.at_m))?;
    }
    Ok(())
}

fn mark_in<DB: DrawingBackend>(chart: &Chart<'_, DB>, at: (f64, f64)) -> Drawn
where
    DB::ErrorType: 'static,
{
    let area = chart.plotting_area();
    let (x, y) = area.map_coordinate(&at);
    let (left, top) = area.get_base_pixel();
    draw_parting_mark(&area.strip_coord_spec(), (x - left, y - top))
}

fn draw_line<DB: DrawingBackend>(
    chart: &mut Chart<'_, DB>,
    number: usize,
    width: u32,
    run: &Run,
    of: &dyn Fn(&Row) -> (f64, f64),
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let (color, dash) = SERIES[number % SERIES.len()];
    let points = run.trace.rows.iter().map(of).collect();
    super::draw_line(chart, points, color.stroke_width(wide(width)), dash)
}

fn draw_chart<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    runs: &[(Trial, Run)],
    partings: &[Parting],
    of: &dyn Fn(&Row) -> f64,
    name: &str,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let traces: Vec<_> = runs.iter().map(|(_, run)| &run.trace).collect();
    let mut chart = charts::over_time(area, &traces, of, name)?;
    for (number, (_, run)) in runs.iter().enumerate().rev() {
        draw_line(&mut chart, number, 2, run, &|row| (row.time, of(row)))?;
    }
    let Some((_, first)) = runs.first() else { return Ok(()) };
    for place in partings.iter().filter_map(|parting| parting.first.as_ref()) {
        let at = (place.time_s, of(&first.trace.rows[place.tick]));
        let upright = chart.as_coord_spec().get_y_range();
        chart.draw_series(DashedLineSeries::new(
            vec![(at.0, upright.start), (at.0, upright.end)],
            wide(2),
            wide(4),
            MIST.stroke_width(wide(2)),
        ))?;
        mark_in(&chart, at)?;
    }
    Ok(())
}
