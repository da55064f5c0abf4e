//! The figure of a run: the level with the path through it, and below it
//! height, speed and inputs over time.

mod charts;
mod curves;
mod letters;
mod marks;
mod overlay;
mod palette;
mod raster;
mod scene;

use std::path::Path;

use plotters::chart::MeshStyle;
use plotters::coord::types::RangedCoordf64;
use plotters::prelude::*;
use rasant_lab::files::{unit_in, unit_of};
use rasant_lab::{Row, Run, Trace, Trial, World};

pub use curves::PANELS;
pub use overlay::letter;

use crate::output::{Failure, ending};
use crate::outputs::Outputs;
use palette::{
    AIRBORNE, FINE, GROUNDED, INK, LADDER, LARGE, MANEUVER, MIST, OTHER_MOVE, PAPER, SMALL, TYPEFACE,
    WALL_SLIDE, px, wide,
};

/// The result of drawing.
type Drawn = Result<(), Box<dyn std::error::Error>>;

type Chart<'a, DB> = ChartContext<'a, DB, Cartesian2d<RangedCoordf64, RangedCoordf64>>;

const SIZE: (u32, u32) = (1280, 800);
/// Heights of the parts in pixels, from the top: heading, level, height, speed. The inputs get the
/// rest.
const HEADING: u32 = 64;
const SCENE: u32 = 410;
const CHART: u32 = 128;
/// The width of the scene of a tall run, beside its charts.
const TALL: u32 = 420;

/// A drawing, as SVG.
pub struct Picture(String);

impl Picture {
    /// The figure of a run.
    pub fn of_run(trial: &Trial, run: &Run) -> Result<Self, Failure> {
        let above = HEADING + SCENE + 2 * CHART;
        let is_tall = scene::is_tall(trial, run);
        let lanes = charts::height_of_lanes(&run.trace, if is_tall { SIZE.0 - TALL } else { SIZE.0 });
        let size = (SIZE.0, SIZE.1.max(above + lanes));
        Self::drawn(size, |root| {
            let figure = Figure { trial, run };
            let (heading, rest) = root.split_vertically(wide(HEADING));
            let legend = rest.clone();
            // A tall scene is beside the charts, as high as all of them.
            let (scene, rest) = if is_tall {
                let (scene, charts) = rest.split_horizontally(wide(TALL));
                (scene, charts.split_vertically(wide(scene::LEGEND as u32)).1)
            } else {
                rest.split_vertically(wide(SCENE))
            };
            let chart = if is_tall { (SCENE + 2 * CHART) / 2 - 14 } else { CHART };
            let (height, rest) = rest.split_vertically(wide(chart));
            let (speed, lanes) = rest.split_vertically(wide(chart));
            figure.draw_heading(&heading)?;
            scene::draw(&scene, trial, run)?;
            scene::draw_legend(&legend, trial, run)?;
            let axes = charts::Axes::of(&trial.world);
            charts::height(&height, &run.trace, &axes, figure.has_no_up())?;
            charts::speed(&speed, &run.trace, &axes)?;
            charts::lanes(&lanes, &run.trace)
        })
    }

    /// The figure of a level, with numbered marks.
    pub fn of_level(
        world: &World,
        heading: &str,
        line: &str,
        marked: &[(String, [f32; 3])],
    ) -> Result<Self, Failure> {
        /// The height of a line of the list, and the maximum number of lines.
        const ROW: u32 = 20;
        const MOST: usize = 16;
        let shown = marked.len().min(MOST);
        let more = marked.len() - shown;
        let list = (shown + usize::from(more > 0)) as u32 * ROW;
        Self::drawn(SIZE, |root| {
            let (top, rest) = root.split_vertically(wide(HEADING));
            top.draw_text(heading, &text(LARGE), (px(16), px(10)))?;
            top.draw_text(line, &text(SMALL + 1), (px(16), px(38)))?;
            let (scene, below) = rest.split_vertically(wide(SIZE.1 - HEADING - list - 16));
            let places: Vec<[f32; 3]> = marked.iter().take(shown).map(|(_, at)| *at).collect();
            scene::draw_whole(&scene, world, &places)?;
            for (number, (what, _)) in marked.iter().take(shown).enumerate() {
                let y = px(8) + px(ROW as i32) * number as i32;
                below.draw_text(&format!("{}", number + 1), &text(SMALL), (px(20), y))?;
                below.draw_text(what, &text(SMALL), (px(52), y))?;
            }
            if more > 0 {
                let y = px(8) + px(ROW as i32) * shown as i32;
                below.draw_text(&format!("and {more} more"), &text(SMALL), (px(52), y))?;
            }
            Ok(())
        })
    }

    /// Draws with `draw` on a page with a size in pixels.
    fn drawn(
        size: (u32, u32),
        draw: impl FnOnce(&DrawingArea<SVGBackend<'_>, plotters::coord::Shift>) -> Drawn,
    ) -> Result<Self, Failure> {
        let mut svg = String::new();
        let fine = (size.0 * FINE, size.1 * FINE);
        let done = (|| {
            let root = SVGBackend::with_string(&mut svg, fine).into_drawing_area();
            root.fill(&PAPER)?;
            draw(&root)?;
            root.present()?;
            Ok::<(), Box<dyn std::error::Error>>(())
        })();
        done.map_err(|error| Failure::Figure(error.to_string()))?;
        // Shown at its size in pixels, drawn in finer units.
        let fine = format!("width=\"{}\" height=\"{}\"", fine.0, fine.1);
        let shown = format!("width=\"{}\" height=\"{}\"", size.0, size.1);
        Ok(Self(svg.replacen(&fine, &shown, 1)))
    }

    /// Checks that a path has a format that can be drawn.
    pub fn check(path: &Path) -> Result<(), Failure> {
        match ending(path).as_str() {
            "svg" | "png" => Ok(()),
            _ if Outputs::is_standard(path) => Ok(()),
            _ => Err(Failure::Argument(format!(
                "--figure {}: expected the extension .svg or .png",
                path.display()
            ))),
        }
    }

    /// The bytes of a file, by the extension of its name: SVG for standard output.
    pub fn bytes(&self, path: &Path) -> Result<Vec<u8>, Failure> {
        if ending(path) == "png" {
            raster::png(&self.0).map_err(Failure::Figure)
        } else {
            Ok(self.0.clone().into_bytes())
        }
    }

    /// The SVG's text.
    pub fn svg(&self) -> &str {
        &self.0
    }
}

/// The figure of a run.
struct Figure<'a> {
    trial: &'a Trial,
    run: &'a Run,
}

impl Figure<'_> {
    /// Returns true if the body has no up.
    fn has_no_up(&self) -> bool {
        self.trial.tuning.tuning.steering.is_from_above(self.run.trace.dimensions)
    }

    fn draw_heading<DB: DrawingBackend>(&self, area: &DrawingArea<DB, plotters::coord::Shift>) -> Drawn
    where
        DB::ErrorType: 'static,
    {
        let summary = &self.run.summary;
        let rest = match summary.highest_m {
            None => format!("fastest {:.2} {}", summary.fastest_m_per_s, unit_in("m/s", summary.scale)),
            Some(highest) => format!(
                "highest {highest:.2} {} above the start · jumps {}, landings {}",
                unit_of(summary.scale),
                summary.jumps,
                summary.landings
            ),
        };
        area.draw_text(&summary.title, &text(LARGE), (px(16), px(10)))?;
        let line = format!(
            "{} · {} ticks/s · {:.2} s · {:.2} {} along · {}",
            self.trial.tuning.title,
            summary.rate,
            summary.duration_s,
            summary.distance_m,
            unit_of(summary.scale),
            rest,
        );
        area.draw_text(&line, &text(SMALL + 1), (px(16), px(38)))?;
        Ok(())
    }
}

/// Text with a size in the figure's typeface.
fn text(size: u32) -> TextStyle<'static> {
    TextStyle::from((TYPEFACE, wide(size)).into_font()).color(&INK)
}

/// The style of a mode's line.
#[derive(Clone, Copy)]
struct Line<'a> {
    mode: &'a str,
    word: &'a str,
    color: RGBColor,
    /// The lengths of dashes and gaps, in pixels.
    dash: Option<(u32, u32)>,
    /// The additional width, in pixels.
    wider: u32,
}

const LINES: [Line<'static>; 5] = [
    Line { mode: "grounded", word: "grounded", color: GROUNDED, dash: None, wider: 0 },
    Line { mode: "airborne", word: "airborne", color: AIRBORNE, dash: Some((6, 4)), wider: 0 },
    Line { mode: "wall-slide", word: "wall slide", color: WALL_SLIDE, dash: Some((2, 3)), wider: 1 },
    Line { mode: "ladder", word: "ladder", color: LADDER, dash: Some((10, 2)), wider: 1 },
    Line { mode: "maneuver", word: "maneuver", color: MANEUVER, dash: None, wider: 2 },
];

/// The dashes for other moves, in the order in which they occur.
const OTHERS: [Option<(u32, u32)>; 3] = [Some((14, 3)), Some((5, 2)), Some((20, 8))];

/// The mode of a row; all maneuvers are drawn alike.
fn mode_of(row: &Row) -> &str {
    if row.in_maneuver { "maneuver" } else { row.mode.as_str() }
}

/// The lines of the modes in a trace: those of the list above, then other moves by their names.
fn lines_in(trace: &Trace) -> Vec<Line<'_>> {
    let occurs = |line: &Line<'_>| trace.rows.iter().any(|row| mode_of(row) == line.mode);
    let mut lines: Vec<Line<'_>> = LINES.into_iter().filter(occurs).collect();
    let mut others = 0;
    for row in &trace.rows {
        if !lines.iter().any(|line| mode_of(row) == line.mode) {
            let (mode, dash) = (mode_of(row), OTHERS[others % OTHERS.len()]);
            lines.push(Line { mode, word: mode, color: OTHER_MOVE, dash, wider: 1 });
            others += 1;
        }
    }
    lines
}

/// A line through a value of each row, with the colour and dashes of its mode.
fn line_by_mode<DB: DrawingBackend>(
    chart: &mut Chart<'_, DB>,
    trace: &Trace,
    width: u32,
    of: &dyn Fn(&Row) -> (f64, f64),
) -> Drawn
where
    DB::ErrorType: 'static,
{
    let lines = lines_in(trace);
    let put_back = |row: &Row| row.events.iter().any(|event| event.name == "respawned");
    for part in trace.rows.chunk_by(|a, b| mode_of(a) == mode_of(b) && !put_back(b)) {
        // Each part begins where the one before it ends, unless the body was teleported.
        let first = part[0].tick.saturating_sub(usize::from(!put_back(&part[0])));
        let points: Vec<(f64, f64)> = trace.rows[first..=part[part.len() - 1].tick].iter().map(of).collect();
        let Some(line) = lines.iter().find(|line| mode_of(&part[0]) == line.mode) else { continue };
        let Line { color, dash, wider, .. } = *line;
        draw_line(chart, points, color.stroke_width(wide(width + wider)), dash)?;
    }
    Ok(())
}

/// A line, solid or dashed.
fn draw_line<DB: DrawingBackend>(
    chart: &mut Chart<'_, DB>,
    points: Vec<(f64, f64)>,
    style: ShapeStyle,
    dash: Option<(u32, u32)>,
) -> Drawn
where
    DB::ErrorType: 'static,
{
    match dash {
        Some((full, gap)) => {
            chart.draw_series(DashedLineSeries::new(points, wide(full), wide(gap), style))?;
        }
        None => {
            chart.draw_series([PathElement::new(points, style)])?;
        }
    }
    Ok(())
}

/// Draws axes and grid lines in quiet colours.
fn quiet<'m, 'a, 'b, DB: DrawingBackend>(
    mesh: &'m mut MeshStyle<'a, 'b, RangedCoordf64, RangedCoordf64, DB>,
) -> &'m mut MeshStyle<'a, 'b, RangedCoordf64, RangedCoordf64, DB> {
    mesh.light_line_style(TRANSPARENT)
        .bold_line_style(MIST.mix(0.5).stroke_width(wide(1)))
        .axis_style(MIST.stroke_width(wide(1)))
        .label_style(text(SMALL))
}
