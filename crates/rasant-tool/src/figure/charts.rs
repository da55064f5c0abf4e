//! Height, speed and inputs over time.

use plotters::coord::Shift;
use plotters::prelude::*;
use rasant::glam::Vec3;
use rasant_lab::files::unit_in;
use rasant_lab::{Row, Trace, World};

use super::marks::{self, mark_of};
use super::palette::{FINE, GROUNDED, INK, MIST, NORMAL, PRESSED, SMALL, px, wide};
use super::{Chart, Drawn, line_by_mode, text};

/// The up and the unit of the world of a chart.
pub(super) struct Axes {
    up: [f32; 3],
    scale: f32,
}

impl Axes {
    pub fn of(world: &World) -> Self {
        Self { up: world.up_axis().direction::<Vec3>().to_array(), scale: world.scale() }
    }

    /// The height of a point, in units of the level.
    pub fn height(&self, point: [f32; 3]) -> f64 {
        f64::from(point.iter().zip(self.up).map(|(part, up)| part * up).sum::<f32>())
    }

    /// The name of a chart, with its unit.
    pub fn named(&self, name: &str, unit: &'static str) -> String {
        format!("{name} ({})", unit_in(unit, self.scale))
    }
}

/// Height of the underside over time, with the events on it. Of a body without up, y.
pub fn height<DB: DrawingBackend>(
    area: &DrawingArea<DB, Shift>,
    trace: &Trace,
    axes: &Axes,
    has_no_up: bool,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let at = |point: [f32; 3]| if has_no_up { f64::from(point[1]) } else { axes.height(point) };
    let of = |row: &Row| at(row.position);
    let mut chart = over_time(area, &[trace], &of, &axes.named(if has_no_up { "y" } else { "height" }, "m"))?;
    line_by_mode(&mut chart, trace, 2, &|row| (row.time, of(row)))?;
    for (row, event) in trace.events() {
        if let Some((mark, _)) = mark_of(event) {
            marks::draw_in(&chart, mark, (row.time, at(event.position)))?;
        }
    }
    Ok(())
}

/// Speed over time.
pub fn speed<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trace: &Trace, axes: &Axes) -> Drawn
where
    DB::ErrorType: 'static,
{
    let mut chart = over_time(area, &[trace], &speed_of, &axes.named("speed", "m/s"))?;
    line_by_mode(&mut chart, trace, 2, &|row| (row.time, speed_of(row)))
}

/// The speed in any direction.
pub(super) fn speed_of(row: &Row) -> f64 {
    f64::from(row.velocity.iter().map(|part| part * part).sum::<f32>().sqrt())
}

/// A chart over the time of some runs.
pub(super) fn over_time<'a, DB: DrawingBackend>(
    area: &'a DrawingArea<DB, Shift>,
    traces: &[&Trace],
    of: &dyn Fn(&Row) -> f64,
    name: &str,
) -> Result<Chart<'a, DB>, Box<dyn std::error::Error>>
where
    DB::ErrorType: 'static,
{
    let duration = traces.iter().map(|trace| trace.duration()).fold(0.0, f64::max);
    let (least, most) = traces
        .iter()
        .flat_map(|trace| &trace.rows)
        .map(of)
        .fold((f64::MAX, f64::MIN), |(least, most), value| (least.min(value), most.max(value)));
    let spare = ((most - least) * 0.12).max(0.5);
    let mut chart = ChartBuilder::on(area)
        .margin_right(px(16))
        .margin_top(px(8))
        .x_label_area_size(px(22))
        .y_label_area_size(px(56))
        .build_cartesian_2d(0.0..duration, least - spare..most + spare)?;
    super::quiet(&mut chart.configure_mesh())
        .x_label_formatter(&|time| format!("{time:.1} s"))
        .y_label_formatter(&|value| format!("{value:.1}"))
        .x_labels(14)
        .y_labels(4)
        .draw()?;
    area.draw_text(name, &text(SMALL), (px(64), px(6)))?;
    Ok(chart)
}

/// The height of [`lanes`] with this width, both in pixels of the page.
pub fn height_of_lanes(trace: &Trace, width: u32) -> u32 {
    10 + LANE * all_lanes(trace, width).len() as u32
}

/// The height of a lane.
const LANE: u32 = 22;

/// A lane for the steer and one for each action, with bars while it is held; one for the gaits; and
/// some for the events.
pub fn lanes<DB: DrawingBackend>(area: &DrawingArea<DB, Shift>, trace: &Trace) -> Drawn
where
    DB::ErrorType: 'static,
{
    let (width, _) = area.dim_in_pixel();
    let (left, right) = (px(56), width as i32 - px(16));
    let pixel = |time: f64| left + ((right - left) as f64 * time / trace.duration().max(1e-9)).round() as i32;
    let step = px(LANE as i32);
    for (number, lane) in all_lanes(trace, width / FINE).iter().enumerate() {
        let top = px(4) + number as i32 * step;
        area.draw_text(&lane.name, &text(SMALL), (px(8), top + px(2)))?;
        area.draw(&PathElement::new(
            vec![(left, top + step - px(3)), (right, top + step - px(3))],
            MIST.stroke_width(wide(1)),
        ))?;
        for bar in &lane.bars {
            let (from, to) = (pixel(bar.from), pixel(bar.to).max(pixel(bar.from) + px(2)));
            let shade = bar.color.mix(if bar.lasts { 0.35 } else { 0.0 });
            area.draw(&Rectangle::new([(from, top + px(1)), (to, top + step - px(4))], shade.filled()))?;
            area.draw(&Rectangle::new(
                [(from, top + px(1)), (from + px(3), top + step - px(4))],
                bar.color.filled(),
            ))?;
            if to - from > px(LETTER * bar.word.len() as i32 + 10) {
                area.draw_text(&bar.word, &text(SMALL).color(&INK), (from + px(8), top + px(2)))?;
            }
        }
    }
    Ok(())
}

struct Lane {
    name: String,
    bars: Vec<Bar>,
}

struct Bar {
    from: f64,
    to: f64,
    word: String,
    color: RGBColor,
    /// True if it lasts from one end to the other; false for a mark at its beginning.
    lasts: bool,
}

/// The width of a letter, in pixels.
const LETTER: i32 = 7;

/// All lanes, from the top, for a width in pixels.
fn all_lanes(trace: &Trace, width: u32) -> Vec<Lane> {
    let dt = 1.0 / f64::from(trace.rate);
    let bars = |same: &dyn Fn(&Row, &Row) -> bool, word: &dyn Fn(&Row) -> Option<String>, color: RGBColor| {
        trace.rows[1..]
            .chunk_by(|a, b| same(a, b))
            .filter_map(|part| {
                let word = word(&part[0])?;
                Some(Bar { from: part[0].time - dt, to: part[part.len() - 1].time, word, color, lasts: true })
            })
            .collect::<Vec<_>>()
    };
    let mut lanes = vec![Lane {
        name: "steer".to_owned(),
        bars: bars(&|a, b| a.steer == b.steer, &|row| steer_word(row.steer), GROUNDED),
    }];
    let all = trace.rows.iter().fold(rasant::Actions::NONE, |all, row| all | row.held);
    for action in all.each() {
        let name = action.name().unwrap_or_default();
        lanes.push(Lane {
            bars: bars(
                &|a, b| a.held.intersects(action) == b.held.intersects(action),
                &|row| row.held.intersects(action).then(|| name.clone()),
                PRESSED,
            ),
            name: name.clone(),
        });
    }
    let shown = bars(&|a, b| a.gait == b.gait, &|row| Some(row.gait.to_string()), NORMAL);
    lanes.push(Lane { name: "shows".to_owned(), bars: shown });
    lanes.extend(event_lanes(trace, width));
    lanes
}

/// The events except footfalls, each with its name if there is room for it in one of a few lanes.
fn event_lanes(trace: &Trace, width: u32) -> Vec<Lane> {
    const MOST: usize = 6;
    // The width of the time axis in pixels, without its margins.
    let width = f64::from(width) - 72.0;
    let mut lanes: Vec<Lane> = Vec::new();
    let mut free = [0.0f64; MOST];
    for row in &trace.rows[1..] {
        let names: Vec<&str> =
            row.events.iter().map(|event| event.name).filter(|name| *name != "footfall").collect();
        if names.is_empty() {
            continue;
        }
        let word = names.join(", ");
        let takes = f64::from(LETTER * word.len() as i32 + 12) * trace.duration() / width;
        let place = free.iter().position(|from| *from <= row.time);
        let number = place.unwrap_or(0);
        if number == lanes.len() {
            lanes.push(Lane { name: if number == 0 { "events" } else { "" }.to_owned(), bars: Vec::new() });
        }
        let to = if place.is_some() { (row.time + takes).min(trace.duration()) } else { row.time };
        if place.is_some() {
            free[number] = row.time + takes;
        }
        lanes[number].bars.push(Bar { from: row.time, to, word, color: INK, lasts: false });
    }
    lanes
}

fn steer_word([x, y]: [f32; 2]) -> Option<String> {
    match (x, y) {
        (0.0, 0.0) => None,
        (1.0, 0.0) => Some("right".to_owned()),
        (-1.0, 0.0) => Some("left".to_owned()),
        (0.0, 1.0) => Some("up".to_owned()),
        (0.0, -1.0) => Some("down".to_owned()),
        _ => Some(format!("{x:.2}, {y:.2}")),
    }
}
