//! A picture of an example's run, written with `--figure FILE.svg`.
//!
//! Three dimensions are drawn from in front and above.

use std::error::Error;

use plotters::prelude::*;
use rasant::{Geometry, Level};

/// The paths of bodies through a level.
#[derive(Default)]
pub struct Sketch {
    file: Option<String>,
    outlines: Vec<Vec<(f64, f64)>>,
    paths: Vec<Vec<(f64, f64)>>,
}

impl Sketch {
    /// Returns a sketch that is written if the command line asks for it.
    pub fn asked() -> Self {
        let file = std::env::args().skip_while(|word| word != "--figure").nth(1);
        Self { file, ..Self::default() }
    }

    /// Adds the pieces of a level.
    pub fn level<V: Geometry>(&mut self, level: &Level<V>) {
        level.each_shape(|shape, _| shape.each_outline(|points| self.outline(points)));
    }

    fn outline<V: Geometry>(&mut self, points: &[V]) {
        self.outlines.push(points.iter().chain(points.first()).copied().map(seen).collect());
    }

    /// Adds a position of a body. A jump of the position begins another path.
    pub fn see<V: Geometry>(&mut self, at: V) {
        let at = seen(at);
        let goes_on = |path: &&mut Vec<(f64, f64)>| {
            path.last().is_some_and(|last| (last.0 - at.0).hypot(last.1 - at.1) < 0.5)
        };
        match self.paths.last_mut().filter(goes_on) {
            Some(path) => path.push(at),
            None => self.paths.push(vec![at]),
        }
    }

    /// Writes the picture, if the command line asked for it.
    pub fn write(&self) -> Result<(), Box<dyn Error>> {
        const MARGIN: f64 = 1.0;
        let Some(file) = &self.file else { return Ok(()) };
        let (low, high) = self.paths.iter().flatten().fold(((9e9, 9e9), (-9e9, -9e9)), |(low, high), at| {
            let (low, high): ((f64, f64), (f64, f64)) = (low, high);
            ((low.0.min(at.0), low.1.min(at.1)), (high.0.max(at.0), high.1.max(at.1)))
        });
        let wide = (high.0 - low.0 + 2.0 * MARGIN).max((high.1 - low.1 + 2.0 * MARGIN) * 1.6);
        let middle = ((low.0 + high.0) / 2.0, (low.1 + high.1) / 2.0);
        let page = SVGBackend::new(file, (960, 600)).into_drawing_area();
        page.fill(&RGBColor(0xF6, 0xF3, 0xEC))?;
        let mut chart = ChartBuilder::on(&page)
            .margin(16)
            .x_label_area_size(24)
            .y_label_area_size(40)
            .build_cartesian_2d(
                middle.0 - wide / 2.0..middle.0 + wide / 2.0,
                middle.1 - wide / 3.2..middle.1 + wide / 3.2,
            )?;
        chart.configure_mesh().disable_mesh().draw()?;
        let stone = RGBColor(0x6E, 0x76, 0x82);
        chart.draw_series(self.outlines.iter().map(|line| Polygon::new(line.clone(), stone.mix(0.25))))?;
        chart.draw_series(self.outlines.iter().map(|line| PathElement::new(line.clone(), stone)))?;
        let path = RGBColor(0x12, 0x57, 0x9C).stroke_width(2);
        chart.draw_series(self.paths.iter().map(|line| PathElement::new(line.clone(), path)))?;
        page.present()?;
        println!("wrote {file}");
        Ok(())
    }
}

/// Projects a point onto the picture.
fn seen<V: Geometry>(at: V) -> (f64, f64) {
    let [x, y, z] = at.to_array().map(f64::from);
    if V::DIMENSION == 2 { (x, y) } else { (x - 0.35 * z, y - 0.3 * z) }
}
