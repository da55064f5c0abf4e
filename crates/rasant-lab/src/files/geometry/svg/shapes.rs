//! The shapes of a drawing, and their outlines in the level.

use kurbo::{Affine, BezPath, Ellipse, PathEl, Point, Rect, RoundedRect, Shape};
use rasant::glam::{DVec2, Vec2};
use roxmltree::Node;
use svgtypes::{
    Length, LengthUnit, NumberListParser, PointsParser, SimplePathSegment, SimplifyingPathParser, Transform,
};

use super::super::super::Problem;
use super::super::flat::Outlines;
use super::super::split::Fill;
use super::{Reader, name_of, style_of};

/// Points of all outlines at most.
const MOST_POINTS: usize = 2_000_000;
/// Metres from the origin at most.
const FARTHEST: f64 = 1e6;

/// A shape as it is drawn.
pub enum Drawn {
    Path(BezPath),
    Round(Ellipse),
}

impl<'a> Reader<'a, '_> {
    pub fn transform_of(&self, node: Node<'a, 'a>) -> Result<Affine, Problem> {
        let Some(attribute) = node.attribute_node("transform") else { return Ok(Affine::IDENTITY) };
        match attribute.value().parse::<Transform>() {
            Ok(Transform { a, b, c, d, e, f }) if [a, b, c, d, e, f].iter().all(|part| part.is_finite()) => {
                Ok(Affine::new([a, b, c, d, e, f]))
            }
            Ok(_) => Err(self.problem(attribute.range_value(), "a transform without end", "finite numbers")),
            Err(error) => Err(self.problem(
                attribute.range_value(),
                format!("no transform: {error}"),
                "as `translate(1 2)`",
            )),
        }
    }

    /// How far `x` and `y` move what is in an element.
    pub fn shift_of(&self, node: Node<'a, 'a>) -> Result<Affine, Problem> {
        let [x, y] = [self.length(node, "x")?, self.length(node, "y")?];
        Ok(Affine::translate((x.unwrap_or(0.0), y.unwrap_or(0.0))))
    }

    /// A length in the drawing's units: at 96 of them an inch, as CSS has it.
    fn length(&self, node: Node<'a, 'a>, name: &str) -> Result<Option<f64>, Problem> {
        let Some(attribute) = node.attribute_node(name) else { return Ok(None) };
        let wrong = |found: String| {
            self.problem(
                attribute.range_value(),
                found,
                "a length in the drawing's units, px, mm, cm, in, pt or pc",
            )
        };
        let Length { number, unit } =
            attribute.value().parse::<Length>().map_err(|error| wrong(format!("`{name}`: {error}")))?;
        let inch = 96.0;
        let unit = match unit {
            LengthUnit::None | LengthUnit::Px => 1.0,
            LengthUnit::Mm => inch / 25.4,
            LengthUnit::Cm => inch / 2.54,
            LengthUnit::In => inch,
            LengthUnit::Pt => inch / 72.0,
            LengthUnit::Pc => inch / 6.0,
            _ => return Err(wrong(format!("`{name}` is of `{}`", attribute.value()))),
        };
        match number * unit {
            length if length.is_finite() => Ok(Some(length)),
            _ => Err(wrong(format!("`{name}` is of `{}`", attribute.value()))),
        }
    }

    fn lengths<const N: usize>(&self, node: Node<'a, 'a>, names: [&str; N]) -> Result<[f64; N], Problem> {
        let mut lengths = [0.0; N];
        for (length, name) in lengths.iter_mut().zip(names) {
            *length = self.length(node, name)?.unwrap_or(0.0);
        }
        Ok(lengths)
    }

    /// The shape of an element; nothing if it is none.
    pub fn shape(&self, node: Node<'a, 'a>, to_level: Affine) -> Result<Option<Drawn>, Problem> {
        /// How exact arcs become curves, in units: far below any tolerance.
        const EXACT: f64 = 1e-6;
        Ok(Some(match node.tag_name().name() {
            "rect" => {
                let [x, y, width, height] = self.lengths(node, ["x", "y", "width", "height"])?;
                let [rx, ry] = [self.length(node, "rx")?, self.length(node, "ry")?];
                let radius = rx.or(ry).unwrap_or(0.0);
                let rect = Rect::new(x, y, x + width, y + height);
                if radius > 0.0 {
                    Drawn::Path(RoundedRect::from_rect(rect, radius).to_path(self.exact(to_level)))
                } else {
                    Drawn::Path(rect.to_path(EXACT))
                }
            }
            "circle" => {
                let [x, y, radius] = self.lengths(node, ["cx", "cy", "r"])?;
                Drawn::Round(Ellipse::new((x, y), (radius, radius), 0.0))
            }
            "ellipse" => {
                let [x, y, rx, ry] = self.lengths(node, ["cx", "cy", "rx", "ry"])?;
                Drawn::Round(Ellipse::new((x, y), (rx, ry), 0.0))
            }
            "line" => {
                let [x, y, to_x, to_y] = self.lengths(node, ["x1", "y1", "x2", "y2"])?;
                let mut path = BezPath::new();
                path.move_to((x, y));
                path.line_to((to_x, to_y));
                Drawn::Path(path)
            }
            "polyline" | "polygon" => {
                let attribute = node.attribute_node("points");
                let points = attribute.map_or("", |attribute| attribute.value());
                let mut count = 0;
                for number in NumberListParser::from(points) {
                    number.map_err(|error| {
                        let at = attribute.map_or(name_of(node), |attribute| attribute.range_value());
                        self.problem(at, format!("`points`: {error}"), "numbers, two a point")
                    })?;
                    count += 1;
                }
                if count % 2 == 1 {
                    let found = format!("found {count} numbers in `points`");
                    return Err(self.problem(name_of(node), found, "two a point"));
                }
                let mut path = BezPath::new();
                for (number, point) in PointsParser::from(points).enumerate() {
                    if number == 0 { path.move_to(point) } else { path.line_to(point) }
                }
                if node.tag_name().name() == "polygon" && !path.is_empty() {
                    path.close_path();
                }
                Drawn::Path(path)
            }
            "path" => Drawn::Path(self.path_of(node)?),
            _ => return Ok(None),
        }))
    }

    /// How exact curves are to be in the units of an element.
    pub fn exact(&self, to_level: Affine) -> f64 {
        let size = to_level.determinant().abs().sqrt();
        (self.tolerance * 0.1 / size.max(1e-9)).clamp(1e-9, 1e6)
    }

    fn path_of(&self, node: Node<'a, 'a>) -> Result<BezPath, Problem> {
        let mut path = BezPath::new();
        let Some(attribute) = node.attribute_node("d") else { return Ok(path) };
        for segment in SimplifyingPathParser::from(attribute.value()) {
            let segment = segment.map_err(|error| {
                self.problem(attribute.range_value(), format!("no path: {error}"), "as `M 0 0 L 4 0 L 4 2 Z`")
            })?;
            match segment {
                SimplePathSegment::MoveTo { x, y } => path.move_to((x, y)),
                SimplePathSegment::LineTo { x, y } => path.line_to((x, y)),
                SimplePathSegment::CurveTo { x1, y1, x2, y2, x, y } => {
                    path.curve_to((x1, y1), (x2, y2), (x, y))
                }
                SimplePathSegment::Quadratic { x1, y1, x, y } => path.quad_to((x1, y1), (x, y)),
                SimplePathSegment::ClosePath => path.close_path(),
            }
        }
        Ok(path)
    }

    /// Outlines in the level, their points about `origin`.
    pub fn outlines(
        &mut self,
        node: Node<'a, 'a>,
        shape: Drawn,
        to_level: Affine,
        origin: DVec2,
    ) -> Result<Outlines, Problem> {
        let mut outlines = Outlines { fill: fill_of(node), ..Outlines::default() };
        let local = |point: Point| (DVec2::new(point.x, point.y) - origin).as_vec2();
        let path = match shape {
            Drawn::Path(path) => path,
            Drawn::Round(ellipse) => {
                let radii = (to_level * ellipse).radii();
                if (radii.x - radii.y).abs() <= 1e-9 * radii.x.abs() {
                    let centre = to_level * ellipse.center();
                    self.check(node, centre)?;
                    outlines.disc = Some((local(centre), (radii.x + radii.y) as f32 * 0.5));
                    return Ok(outlines);
                }
                closed(ellipse.to_path(self.exact(to_level)))
            }
        };
        for (points, is_closed) in self.flattened(node, &(to_level * path))? {
            let points: Vec<Vec2> = points.into_iter().map(local).collect();
            if is_closed { outlines.closed.push(points) } else { outlines.open.push(points) }
        }
        Ok(outlines)
    }

    fn check(&self, node: Node<'a, 'a>, point: Point) -> Result<(), Problem> {
        if point.x.abs() <= FARTHEST && point.y.abs() <= FARTHEST {
            return Ok(());
        }
        let found = format!("found a point at {} m, {} m of the level", point.x, point.y);
        Err(self.problem(
            name_of(node),
            found,
            format!("{FARTHEST} m from its origin at most: is its scale right?"),
        ))
    }

    /// The lines of a path of the level, and whether each is closed.
    pub fn flattened(
        &mut self,
        node: Node<'a, 'a>,
        path: &BezPath,
    ) -> Result<Vec<(Vec<Point>, bool)>, Problem> {
        for element in path.elements() {
            if let Some(point) = element.end_point() {
                self.check(node, point)?;
            }
            match *element {
                PathEl::QuadTo(a, _) => self.check(node, a)?,
                PathEl::CurveTo(a, b, _) => {
                    self.check(node, a)?;
                    self.check(node, b)?;
                }
                _ => {}
            }
        }
        let mut lines: Vec<(Vec<Point>, bool)> = Vec::new();
        let mut count = self.points;
        let most = MOST_POINTS;
        // One element of the path at a time, so that what is too much is seen in time.
        let mut at = Point::ZERO;
        let mut first = Point::ZERO;
        for element in path.elements() {
            let ends = element.end_point().unwrap_or(first);
            match element {
                PathEl::MoveTo(point) => {
                    lines.push((vec![*point], false));
                    first = *point;
                }
                PathEl::ClosePath => {
                    if let Some((_, is_closed)) = lines.last_mut() {
                        *is_closed = true;
                    }
                }
                other => {
                    if lines.last().is_none_or(|(_, is_closed)| *is_closed) {
                        lines.push((vec![at], false));
                        first = at;
                    }
                    let line = lines.last_mut().map(|(line, _)| line);
                    let line = line.unwrap_or_else(|| unreachable!("a line was begun above"));
                    let piece = [PathEl::MoveTo(at), *other];
                    kurbo::flatten(piece, self.tolerance, |part| {
                        if let PathEl::LineTo(point) = part {
                            line.push(point);
                            count += 1;
                        }
                    });
                }
            }
            at = ends;
            if count > most {
                return Err(self.problem(
                    name_of(node),
                    format!("found more than {most} points"),
                    "fewer: a greater tolerance, or a smaller scale",
                ));
            }
        }
        self.points = count;
        for (line, is_closed) in &mut lines {
            *is_closed |= line.len() > 3 && line.first() == line.last();
        }
        Ok(lines)
    }
}

pub fn closed(mut path: BezPath) -> BezPath {
    if path.elements().last() != Some(&PathEl::ClosePath) {
        path.close_path();
    }
    path
}

fn fill_of(node: Node<'_, '_>) -> Fill {
    let rule = node.ancestors().find_map(|node| style_of(node, "fill-rule"));
    if rule == Some("evenodd") { Fill::EvenOdd } else { Fill::NonZero }
}
