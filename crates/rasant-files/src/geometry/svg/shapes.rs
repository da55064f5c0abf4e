//! The shapes of a drawing, and their outlines in the level.

use std::ops::Range;

use kurbo::{Affine, BezPath, Ellipse, PathEl, Point, Rect, RoundedRect, Shape};
use rasant::glam::{DVec2, Vec2};
use roxmltree::Node;
use svgtypes::{
    Length, LengthUnit, NumberListParser, PathParser, PathSegment, PointsParser, SimplePathSegment,
    SimplifyingPathParser, Transform,
};

use super::super::flat::Outlines;
use super::super::split::Fill;
use super::{Reader, name_of};
use crate::Problem;

/// The maximum number of points of all outlines.
const MOST_POINTS: usize = 2_000_000;
/// The largest coordinate, in metres.
const FARTHEST: f64 = 1e6;
/// The largest number in units of the drawing, before any transform. Checked before shapes become
/// curves.
const LONGEST: f64 = 1e9;
/// Ends of an outline that are nearer than this fraction of its size are the same point: drawings
/// are written with three to five digits.
const CLOSES: f64 = 2e-3;

/// A shape as it is drawn.
pub enum Drawn {
    Path(BezPath),
    Round(Ellipse),
}

impl<'a> Reader<'a, '_> {
    /// The transform of an element: from its style, if that can be read, or else from its
    /// attribute.
    pub fn transform_of(&self, node: Node<'a, 'a>) -> Result<Affine, Problem> {
        let attribute = node.attribute_node("transform");
        let styled = self.styles.get(node, "transform");
        if let Some(styled) = styled.filter(|styled| attribute.is_none_or(|own| own.value() != *styled)) {
            // Style sheets write units, attributes do not.
            let plain = styled.replace("px", "").replace("deg", "");
            if let Ok(transform) = plain.parse::<Transform>() {
                return Ok(affine(transform));
            }
        }
        let Some(attribute) = attribute else { return Ok(Affine::IDENTITY) };
        match attribute.value().parse::<Transform>().map(affine) {
            Ok(transform) if transform.is_finite() => Ok(transform),
            Ok(_) => {
                Err(self.problem(attribute.range_value(), "a transform that is not finite", "finite numbers"))
            }
            Err(error) => Err(self.problem(
                attribute.range_value(),
                format!("invalid transform: {error}"),
                "as `translate(1 2)`",
            )),
        }
    }

    /// The translation by `x` and `y`.
    pub fn shift_of(&self, node: Node<'a, 'a>) -> Result<Affine, Problem> {
        let [x, y] = [self.length(node, "x")?, self.length(node, "y")?];
        Ok(Affine::translate((x.unwrap_or(0.0), y.unwrap_or(0.0))))
    }

    /// A length in the drawing's units: 96 per inch, as in CSS.
    pub fn length(&self, node: Node<'a, 'a>, name: &str) -> Result<Option<f64>, Problem> {
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
            // For the default font.
            LengthUnit::Em => 16.0,
            LengthUnit::Ex => 8.0,
            _ => return Err(wrong(format!("`{name}` is `{}`", attribute.value()))),
        };
        match number * unit {
            length if length.abs() <= LONGEST => Ok(Some(length)),
            _ => {
                let found = format!("`{name}` is `{}`", attribute.value());
                let expected = format!("at most {LONGEST} units of the drawing. Check its scale");
                Err(self.problem(attribute.range_value(), found, expected))
            }
        }
    }

    fn lengths<const N: usize>(&self, node: Node<'a, 'a>, names: [&str; N]) -> Result<[f64; N], Problem> {
        let mut lengths = [0.0; N];
        for (length, name) in lengths.iter_mut().zip(names) {
            *length = self.length(node, name)?.unwrap_or(0.0);
        }
        Ok(lengths)
    }

    /// The shape of an element, if it has one.
    pub fn shape(&self, node: Node<'a, 'a>, to_level: Affine) -> Result<Option<Drawn>, Problem> {
        /// The precision with which arcs become curves, in units: far below any tolerance.
        const EXACT: f64 = 1e-6;
        Ok(Some(match node.tag_name().name() {
            "rect" => {
                let [x, y, width, height] = self.lengths(node, ["x", "y", "width", "height"])?;
                if width < 0.0 || height < 0.0 {
                    return Ok(Some(Drawn::Path(BezPath::new())));
                }
                let [rx, ry] = [self.length(node, "rx")?, self.length(node, "ry")?];
                let (rx, ry) = (rx.or(ry).unwrap_or(0.0), ry.or(rx).unwrap_or(0.0));
                let (rx, ry) = (rx.min(0.5 * width), ry.min(0.5 * height));
                if rx > 0.0 && ry > 0.0 {
                    // Rounded corners of a rectangle that is stretched to make them elliptic.
                    let squeeze = rx / ry;
                    let rect = Rect::new(0.0, 0.0, width, height * squeeze);
                    let round = RoundedRect::from_rect(rect, rx).to_path(self.exact(to_level));
                    let back = Affine::translate((x, y)) * Affine::scale_non_uniform(1.0, 1.0 / squeeze);
                    Drawn::Path(back * round)
                } else {
                    Drawn::Path(Rect::new(x, y, x + width, y + height).to_path(EXACT))
                }
            }
            "circle" => {
                let [x, y, radius] = self.lengths(node, ["cx", "cy", "r"])?;
                if radius < 0.0 {
                    return Ok(Some(Drawn::Path(BezPath::new())));
                }
                Drawn::Round(Ellipse::new((x, y), (radius, radius), 0.0))
            }
            "ellipse" => {
                let [x, y] = self.lengths(node, ["cx", "cy"])?;
                let [rx, ry] = [self.length(node, "rx")?, self.length(node, "ry")?];
                let (rx, ry) = (rx.or(ry).unwrap_or(0.0), ry.or(rx).unwrap_or(0.0));
                if rx < 0.0 || ry < 0.0 {
                    return Ok(Some(Drawn::Path(BezPath::new())));
                }
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

    /// The precision for curves in the units of an element.
    pub fn exact(&self, to_level: Affine) -> f64 {
        let size = to_level.determinant().abs().sqrt();
        (self.tolerance * 0.1 / size.max(1e-9)).clamp(1e-9, 1e6)
    }

    fn path_of(&self, node: Node<'a, 'a>) -> Result<BezPath, Problem> {
        let mut path = BezPath::new();
        let Some(attribute) = node.attribute_node("d") else { return Ok(path) };
        self.check_numbers(attribute.value(), attribute.range_value())?;
        for segment in SimplifyingPathParser::from(attribute.value()) {
            let segment = segment.map_err(|error| {
                self.problem(
                    attribute.range_value(),
                    format!("invalid path: {error}"),
                    "as `M 0 0 L 4 0 L 4 2 Z`",
                )
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

    /// Checks the numbers of a path before its arcs become curves: an infinite radius would give
    /// infinitely many. Text that is not a path is left to the parser.
    fn check_numbers(&self, text: &str, at: Range<usize>) -> Result<(), Problem> {
        for segment in PathParser::from(text).map_while(Result::ok) {
            let numbers = match segment {
                PathSegment::MoveTo { x, y, .. }
                | PathSegment::LineTo { x, y, .. }
                | PathSegment::SmoothQuadratic { x, y, .. } => [x, y, 0.0, 0.0, 0.0, 0.0],
                PathSegment::HorizontalLineTo { x, .. } => [x, 0.0, 0.0, 0.0, 0.0, 0.0],
                PathSegment::VerticalLineTo { y, .. } => [y, 0.0, 0.0, 0.0, 0.0, 0.0],
                PathSegment::CurveTo { x1, y1, x2, y2, x, y, .. } => [x1, y1, x2, y2, x, y],
                PathSegment::SmoothCurveTo { x2, y2, x, y, .. } => [x2, y2, x, y, 0.0, 0.0],
                PathSegment::Quadratic { x1, y1, x, y, .. } => [x1, y1, x, y, 0.0, 0.0],
                PathSegment::EllipticalArc { rx, ry, x, y, .. } => [rx, ry, x, y, 0.0, 0.0],
                PathSegment::ClosePath { .. } => [0.0; 6],
            };
            if let Some(far) = numbers.into_iter().find(|number| number.abs() > LONGEST) {
                let expected = format!("numbers up to {LONGEST} units");
                return Err(self.problem(at, format!("found {far} in a path"), expected));
            }
        }
        Ok(())
    }

    /// The outlines in the level, relative to `origin`. Filled ones are closed.
    pub fn outlines(
        &mut self,
        node: Node<'a, 'a>,
        shape: Drawn,
        to_level: Affine,
        origin: DVec2,
    ) -> Result<Outlines, Problem> {
        let mut outlines = Outlines { fill: self.fill_rule_of(node), ..Outlines::default() };
        let is_filled = self.is_filled(node);
        let local = |point: Point| (DVec2::new(point.x, point.y) - origin).as_vec2();
        let path = match shape {
            Drawn::Path(path) => path,
            Drawn::Round(ellipse) => {
                let radii = (to_level * ellipse).radii();
                let reach = Point::new(radii.x.max(radii.y), 0.0);
                self.check(node, reach)?;
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
            let fills = is_filled && points.len() > 2;
            if is_closed || fills { outlines.closed.push(points) } else { outlines.open.push(points) }
        }
        Ok(outlines)
    }

    fn check(&self, node: Node<'a, 'a>, point: Point) -> Result<(), Problem> {
        if point.x.abs() <= FARTHEST && point.y.abs() <= FARTHEST {
            return Ok(());
        }
        let found = format!("found a point at {} m, {} m in the level", point.x, point.y);
        Err(self.problem(
            name_of(node),
            found,
            format!("at most {FARTHEST} m from its origin. Check its scale"),
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
        // One element of the path at a time, so that too large a path is noticed early.
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
                    "fewer points: use a larger tolerance, or a smaller scale",
                ));
            }
        }
        self.points = count;
        for (line, is_closed) in &mut lines {
            if line.len() < 4 {
                continue;
            }
            let [first, .., last] = line[..] else { continue };
            let apart = first.distance(last);
            let size = line.iter().map(|point| point.distance(first)).fold(0.0, f64::max);
            // If the path closes itself, a short last line is probably intended.
            let near = if *is_closed { 0.25 * CLOSES } else { CLOSES };
            if apart <= near * size {
                *is_closed = true;
                line.pop();
            }
        }
        Ok(lines)
    }

    /// Returns true if an element is filled, as in a browser: everything but lines is, unless its
    /// fill is `none`.
    fn is_filled(&self, node: Node<'a, 'a>) -> bool {
        let fill = self.styles.inherited(node, "fill").map(str::trim);
        node.tag_name().name() != "line" && !matches!(fill, Some("none" | "transparent"))
    }

    fn fill_rule_of(&self, node: Node<'a, 'a>) -> Fill {
        let rule = self.styles.inherited(node, "fill-rule");
        if rule.map(str::trim) == Some("evenodd") { Fill::EvenOdd } else { Fill::NonZero }
    }
}

fn affine(Transform { a, b, c, d, e, f }: Transform) -> Affine {
    Affine::new([a, b, c, d, e, f])
}

pub fn closed(mut path: BezPath) -> BezPath {
    if path.elements().last() != Some(&PathEl::ClosePath) {
        path.close_path();
    }
    path
}
