//! Levels drawn as SVG.
//!
//! A unit of the drawing is a metre, unless the root's `data-scale` or the level's `scale` says
//! otherwise. x points right; y, which points down in a drawing, points up in the level, unless that
//! says `up = "-y"`. What a browser fills
//! is solid, with open outlines closed. Lines that are not filled are walls without thickness.
//! Closed outlines are solid whether they are filled or not.

mod shapes;
mod styles;

use std::collections::{HashMap, HashSet};
use std::ops::Range;

use kurbo::{Affine, Point, Shape};
use percent_encoding::percent_decode_str;
use rasant::glam::{DVec2, Vec2};
use rasant::{Carrier, Keyframe, PathEnd};
use roxmltree::{Document, Node, ParsingOptions};
use svgtypes::ViewBox;

use super::Import;
use super::attributes::{Attributes, Labels, Role, Wrong, define_surfaces, numbers_of};
use super::flat::add as add_outlines;
use super::spatial::labels_in_name;
use crate::Game;
use crate::assembly::{Assembly, EASINGS};
use crate::axes::UpAxis;
use crate::{Problem, Source};
use shapes::{Drawn, closed};
use styles::Styles;

/// The maximum number of nodes.
const MOST_NODES: u32 = 1_000_000;
/// The maximum number of elements; those that are reused count again.
const MOST_ELEMENTS: usize = 200_000;
/// The maximum depth of nested groups and uses.
const DEEPEST: usize = 100;

/// Adds a drawing to a level.
pub(super) fn add(import: &Import<'_, Vec2>, assembly: &mut Assembly<Vec2>) -> Result<(), Problem> {
    let text = import.files.read(&import.path)?;
    let source = Source { name: import.path.display().to_string().into(), text: text.into() };
    let options = ParsingOptions { nodes_limit: MOST_NODES, allow_dtd: true, ..ParsingOptions::default() };
    let document = Document::parse_with_options(&source.text, options).map_err(|error| {
        let at = offset_of(&source.text, error.pos());
        let problem = Problem::at(&source, at..at, format!("not valid XML: {error}"));
        match error {
            roxmltree::Error::NodesLimitReached => problem.expecting(format!("at most {MOST_NODES} nodes")),
            _ => problem,
        }
    })?;
    let game = assembly.game;
    let mut reader = Reader::new(&source, &document, import, assembly)?;
    let root = document.root_element();
    let elements = document.descendants().filter(Node::is_element);
    let naming = elements
        .map(|element| (element, labels_of(element, &game)))
        .filter(|(_, labels)| labels.names_a_surface());
    let (elements, labels): (Vec<_>, Vec<_>) = naming.unzip();
    define_surfaces(&labels, reader.assembly)
        .map_err(|(number, wrong)| reader.wrong(elements[number], wrong))?;
    let plain = Attributes::new(import.surface, import.layers);
    let of_root = plain.inside(&labels_of(root, &game), reader.assembly);
    let attributes = of_root.map_err(|wrong| reader.wrong(root, wrong))?;
    reader.look_inside(root, &attributes, DVec2::ZERO, reader.root, 0)
}

/// The byte at a row and a column, both from 1.
fn offset_of(text: &str, at: roxmltree::TextPos) -> usize {
    let line =
        text.split_inclusive('\n').take(at.row.saturating_sub(1) as usize).map(str::len).sum::<usize>();
    let columns = text[line..].chars().take(at.col.saturating_sub(1) as usize).map(char::len_utf8);
    line + columns.sum::<usize>()
}

struct Reader<'a, 'm> {
    source: &'a Source,
    styles: Styles<'a>,
    ids: HashMap<&'a str, Node<'a, 'a>>,
    /// The ids of elements that are paths of platforms.
    paths: HashSet<&'a str>,
    assembly: &'m mut Assembly<Vec2>,
    /// The transform from the drawing's units to those of the level.
    root: Affine,
    tolerance: f64,
    elements: usize,
    points: usize,
    platforms: usize,
}

impl<'a, 'm> Reader<'a, 'm> {
    fn new(
        source: &'a Source,
        document: &'a Document<'a>,
        import: &Import<'_, Vec2>,
        assembly: &'m mut Assembly<Vec2>,
    ) -> Result<Self, Problem> {
        let element = document.root_element();
        if element.tag_name().name() != "svg" {
            let found = format!("found <{}>", element.tag_name().name());
            return Err(Problem::at(source, name_of(element), found).expecting("<svg>"));
        }
        let mut ids = HashMap::new();
        let mut paths = HashSet::new();
        for node in document.descendants().filter(Node::is_element) {
            if let Some(id) = node.attribute("id") {
                ids.entry(id).or_insert(node);
            }
            paths.extend(node.attribute("data-path").map(|path_name| path_name.trim_start_matches('#')));
        }
        let labels = labels_of(element, &assembly.game);
        let at = |wrong: Wrong| Problem::at(source, name_of(element), wrong.0).expecting(wrong.1);
        let own = labels.number_in("scale", 1e-6, 1e6).map_err(at)?;
        let in_level = |metres: f64| metres * f64::from(import.level_scale);
        let scale = import.scale.map_or_else(|| in_level(own.unwrap_or(1.0)), f64::from);
        for layer in labels.data("layers").unwrap_or("").split_whitespace() {
            let layer = percent_decode_str(layer).decode_utf8_lossy();
            if !assembly.names.layers.iter().any(|known| *known == layer) {
                assembly.names.layers.push(layer.into_owned());
            }
        }
        if assembly.names.layers.len() > 32 {
            let found = format!("found {} layers", assembly.names.layers.len() - 1);
            return Err(at((found, "at most 31".to_owned())));
        }
        let title = element.children().find(|child| child.tag_name().name() == "title");
        if let Some(text) = title.and_then(|title| title.text()) {
            let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
            assembly.title.get_or_insert(line.replace(char::is_control, "\u{fffd}"));
        }
        let offset = import.offset.as_dvec2();
        let down = if import.level_up == UpAxis::MinusY { scale } else { -scale };
        let root = Affine::new([scale, 0.0, 0.0, down, offset.x, offset.y]);
        let tolerance = f64::from(import.tolerance);
        let styles = Styles::read(document);
        Ok(Self {
            source,
            styles,
            ids,
            paths,
            assembly,
            root,
            tolerance,
            elements: 0,
            points: 0,
            platforms: 0,
        })
    }

    fn problem(&self, at: Range<usize>, found: impl Into<String>, expected: impl Into<String>) -> Problem {
        Problem::at(self.source, at, found).expecting(expected)
    }

    fn wrong(&self, node: Node<'_, '_>, (found, expected): Wrong) -> Problem {
        self.problem(name_of(node), found, expected)
    }

    fn look_inside(
        &mut self,
        node: Node<'a, 'a>,
        attributes: &Attributes,
        origin: DVec2,
        to_level: Affine,
        depth: usize,
    ) -> Result<(), Problem> {
        if depth > DEEPEST {
            return Err(self.problem(
                name_of(node),
                format!("found groups {depth} deep, or a use of itself"),
                format!("at most {DEEPEST}"),
            ));
        }
        node.children()
            .filter(Node::is_element)
            .try_for_each(|child| self.element(child, attributes, origin, to_level, depth))
    }

    fn element(
        &mut self,
        node: Node<'a, 'a>,
        attributes: &Attributes,
        mut origin: DVec2,
        to_level: Affine,
        depth: usize,
    ) -> Result<(), Problem> {
        const SVG: &str = "http://www.w3.org/2000/svg";
        let tag = node.tag_name();
        let is_foreign = tag.namespace().is_some_and(|space| space != SVG);
        let is_silent = ["title", "desc", "metadata", "defs", "style", "symbol", "script"];
        if is_foreign || is_silent.contains(&tag.name()) {
            return Ok(());
        }
        self.elements += 1;
        if self.elements > MOST_ELEMENTS {
            let found = format!("found more than {MOST_ELEMENTS} elements, counting reused ones again");
            return Err(self.problem(name_of(node), found, "fewer"));
        }
        let labels = labels_of(node, &self.assembly.game);
        if self.is_hidden(node) {
            self.assembly.leave_out("hidden element");
            return Ok(());
        }
        if is_of_the_page(node) {
            self.assembly.leave_out("element with a length in %");
            return Ok(());
        }
        let mut attributes =
            attributes.inside(&labels, self.assembly).map_err(|wrong| self.wrong(node, wrong))?;
        labels.leave_out_unknown(self.assembly);
        for left in ["clip-path", "mask", "marker-end", "filter"] {
            if self.styles.get(node, left).is_some_and(|value| value != "none") {
                self.assembly.leave_out(format!("property `{left}`"));
            }
        }
        if node.attribute("id").is_some_and(|id| self.paths.contains(id)) {
            attributes.role = Role::Path;
        }
        let to_level = to_level * self.transform_of(node)?;
        let is_static = !["keyframes", "path"].iter().any(|key| labels.data(key).is_some());
        if labels.is_named("platform") && is_static {
            self.assembly
                .leave_out("name that begins with `platform`, without `data-keyframes` or `data-path`");
        } else if labels.contains("platform") {
            let (carrier, its_origin) = self.platform(node, &labels)?;
            self.platforms += 1;
            let name = labels.data("name").or(node.attribute("id")).map(str::to_owned);
            let name = name.unwrap_or_else(|| format!("platform-{}", self.platforms));
            attributes.carrier = Some(self.assembly.carrier(&name, carrier));
            origin = its_origin;
        }
        match tag.name() {
            "g" | "a" => self.look_inside(node, &attributes, origin, to_level, depth + 1),
            "switch" => self.first_branch(node, &attributes, origin, to_level, depth + 1),
            "svg" => {
                let to_level = to_level * self.shift_of(node)? * self.view_of(node, node)?;
                self.look_inside(node, &attributes, origin, to_level, depth + 1)
            }
            "use" => {
                let to_level = to_level * self.shift_of(node)?;
                let Some(found) = self.used(node) else {
                    self.assembly.leave_out("`use` of an element that does not exist");
                    return Ok(());
                };
                if found.tag_name().name() == "symbol" {
                    let to_level = to_level * self.view_of(node, found)?;
                    return self.look_inside(found, &attributes, origin, to_level, depth + 1);
                }
                if depth >= DEEPEST {
                    return self.look_inside(found, &attributes, origin, to_level, depth + 1);
                }
                self.element(found, &attributes, origin, to_level, depth + 1)
            }
            name => match self.shape(node, to_level)? {
                Some(shape) => {
                    let outlines = self.outlines(node, shape, to_level, origin)?;
                    add_outlines(outlines, &attributes, &labels, self.assembly)
                        .map_err(|wrong| self.wrong(node, wrong))
                }
                None => {
                    self.assembly.leave_out(format!("<{name}>"));
                    Ok(())
                }
            },
        }
    }

    /// Reads the first element of a `switch` that requires no extension or language, as an English
    /// viewer would, and none after it.
    fn first_branch(
        &mut self,
        node: Node<'a, 'a>,
        attributes: &Attributes,
        origin: DVec2,
        to_level: Affine,
        depth: usize,
    ) -> Result<(), Problem> {
        let is_shown = |branch: &Node<'_, '_>| {
            let language = branch.attribute("systemLanguage");
            let is_known = language.is_none_or(|all| all.split(',').any(|one| one.trim().starts_with("en")));
            is_known && branch.attribute("requiredExtensions").is_none_or(str::is_empty)
        };
        let branch = node.children().filter(Node::is_element).find(is_shown);
        branch.map_or(Ok(()), |branch| self.element(branch, attributes, origin, to_level, depth))
    }

    fn is_hidden(&self, node: Node<'a, 'a>) -> bool {
        self.styles.get(node, "display") == Some("none")
            || self.styles.inherited(node, "visibility").is_some_and(|value| value != "visible")
    }

    /// The transform from the `viewBox` of an element to the size of `sized`: centred, and as large
    /// as fits. None without both.
    fn view_of(&mut self, sized: Node<'a, 'a>, element: Node<'a, 'a>) -> Result<Affine, Problem> {
        let Some(text) = element.attribute("viewBox") else { return Ok(Affine::IDENTITY) };
        let Ok(view) = text.parse::<ViewBox>() else {
            self.assembly.leave_out("invalid `viewBox`");
            return Ok(Affine::IDENTITY);
        };
        let [own_width, own_height] = [self.length(element, "width")?, self.length(element, "height")?];
        let width = self.length(sized, "width")?.or(own_width);
        let height = self.length(sized, "height")?.or(own_height);
        let (Some(width), Some(height)) = (width, height) else {
            self.assembly.leave_out("`viewBox` of an element without width and height");
            return Ok(Affine::IDENTITY);
        };
        let [across, down] = [width / view.w, height / view.h];
        let fits = across.min(down);
        let scale = match element.attribute("preserveAspectRatio").map(str::trim) {
            Some("none") => [across, down],
            _ => [fits, fits],
        };
        let middle = Affine::translate((0.5 * width, 0.5 * height));
        let from = Affine::translate((-(view.x + 0.5 * view.w), -(view.y + 0.5 * view.h)));
        Ok(middle * Affine::scale_non_uniform(scale[0], scale[1]) * from)
    }

    /// The target of a `use`, if it exists.
    fn used(&self, node: Node<'a, 'a>) -> Option<Node<'a, 'a>> {
        const LINK: &str = "http://www.w3.org/1999/xlink";
        let link = node.attribute("href").or(node.attribute((LINK, "href")))?;
        self.ids.get(link.trim().strip_prefix('#')?).copied()
    }

    /// The carrier of a platform, and the position of its origin in the level.
    fn platform(&mut self, node: Node<'a, 'a>, labels: &Labels) -> Result<(Carrier<Vec2>, DVec2), Problem> {
        let source = self.source;
        let wrong = |(found, expected): Wrong| Problem::at(source, name_of(node), found).expecting(expected);
        let end = labels.end().map_err(wrong)?;
        let origin = match labels.numbers("origin").map_err(wrong)?.as_deref() {
            None => DVec2::ZERO,
            Some(&[x, y]) => DVec2::new(x, y),
            Some(_) => {
                return Err(wrong((
                    "found an `origin` that is not a point".to_owned(),
                    "two numbers".to_owned(),
                )));
            }
        };
        if let Some(text) = labels.data("keyframes") {
            let path = keyframes_of(text, origin).map_err(wrong)?;
            return Ok((Carrier::on_path(path, end.unwrap_or_default()), origin));
        }
        let Some(path_name) = labels.data("path").map(|path_name| path_name.trim_start_matches('#')) else {
            let found = "a platform without a path".to_owned();
            return Err(wrong((found, "`data-keyframes`, or `data-path` and `data-seconds`".to_owned())));
        };
        let seconds = labels.number_in("seconds", 0.001, 1e6).map_err(wrong)?;
        let seconds = seconds.ok_or_else(|| {
            wrong((
                "a path without a time".to_owned(),
                "`data-seconds`: the time for the whole path".to_owned(),
            ))
        })?;
        let Some(&drawn) = self.ids.get(path_name) else {
            return Err(wrong((format!("there is no path `{path_name}`"), "the id of a path".to_owned())));
        };
        let (points, is_closed) = self.path_points(drawn)?;
        let lengths: Vec<f64> = points.windows(2).map(|ends| ends[0].distance(ends[1])).collect();
        let whole: f64 = lengths.iter().sum();
        if whole <= 0.0 {
            return Err(wrong((
                format!("the path `{path_name}` has no length"),
                "a path with a length".to_owned(),
            )));
        }
        let mut elapsed = 0.0;
        let mut path = vec![Keyframe::new(0.0, origin.as_vec2())];
        for (point, length) in points[1..].iter().zip(lengths) {
            elapsed += length;
            let time = (elapsed / whole * seconds) as f32;
            if path.last().is_some_and(|last| time > last.time) {
                let by = *point - points[0];
                path.push(Keyframe::new(time, (origin + DVec2::new(by.x, by.y)).as_vec2()));
            }
        }
        let usual = if is_closed { PathEnd::Loop } else { PathEnd::BackAndForth };
        Ok((Carrier::on_path(path, end.unwrap_or(usual)), origin))
    }

    /// The points of a platform's path in the level, and whether it is closed.
    fn path_points(&mut self, node: Node<'a, 'a>) -> Result<(Vec<Point>, bool), Problem> {
        let mut to_level = Affine::IDENTITY;
        for above in node.ancestors().filter(Node::is_element) {
            to_level = self.transform_of(above)? * to_level;
        }
        let to_level = self.root * to_level;
        let path = match self.shape(node, to_level)? {
            Some(Drawn::Path(path)) => path,
            Some(Drawn::Round(ellipse)) => closed(ellipse.to_path(self.exact(to_level))),
            None => {
                return Err(self.problem(
                    name_of(node),
                    "this is not a path",
                    "a path, a line or another shape",
                ));
            }
        };
        let mut lines = self.flattened(node, &(to_level * path))?.into_iter();
        let (mut points, is_closed) = lines.next().unwrap_or_default();
        if lines.next().is_some() {
            self.assembly.leave_out("second part of a platform's path");
        }
        points.extend(points.first().copied().filter(|first| is_closed && points.last() != Some(first)));
        Ok((points, is_closed))
    }
}

/// Parses keyframes: `time x y [turn] [easing]`, separated by semicolons.
fn keyframes_of(text: &str, origin: DVec2) -> Result<Vec<Keyframe<Vec2>>, Wrong> {
    let mut path: Vec<Keyframe<Vec2>> = Vec::new();
    for key in text.split(';').filter(|key| !key.trim().is_empty()) {
        let mut easing = EASINGS[0].1;
        let mut numbers = key.trim();
        if let Some((rest, word)) = numbers.rsplit_once(char::is_whitespace)
            && let Some((_, named)) = EASINGS.iter().find(|(name, _)| *name == word)
        {
            (numbers, easing) = (rest, *named);
        }
        let (time, x, y, turn) = match numbers_of("keyframes", numbers)?[..] {
            [time, x, y] => (time, x, y, 0.0),
            [time, x, y, turn] => (time, x, y, turn),
            _ => {
                return Err((
                    format!("found the keyframe `{}`", key.trim()),
                    "`TIME X Y`, or `TIME X Y DEGREES`, with an easing after it".to_owned(),
                ));
            }
        };
        let offset = (origin + DVec2::new(x, y)).as_vec2();
        let turn = turn.to_radians() as f32;
        let keyframe = Keyframe::new(time as f32, offset).turned(turn).eased(easing);
        if path.last().map_or(time < 0.0, |last| keyframe.time <= last.time) {
            return Err((
                format!("found a keyframe at {time} s"),
                "a time after the one before, from 0".to_owned(),
            ));
        }
        path.push(keyframe);
    }
    if path.is_empty() {
        return Err(("found no keyframe".to_owned(), "at least one".to_owned()));
    }
    Ok(path)
}

/// Returns true if an element's size is a percentage of the page: it is then not part of a level.
fn is_of_the_page(node: Node<'_, '_>) -> bool {
    let lengths = ["x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "x1", "y1", "x2", "y2"];
    lengths.iter().any(|length| node.attribute(*length).is_some_and(|value| value.trim_end().ends_with('%')))
}

/// The position of an element's name.
fn name_of(node: Node<'_, '_>) -> Range<usize> {
    let start = node.range().start;
    let end = start + 1 + node.tag_name().name().len();
    start..end.min(node.range().end)
}

/// The labels of an element: from its class, the label that an editor gives, the beginning of its
/// id, and its data.
fn labels_of(node: Node<'_, '_>, game: &Game) -> Labels {
    let mut labels = Labels::default();
    for attribute in node.attributes() {
        let value = attribute.value();
        match attribute.name() {
            "class" => labels.words.extend(value.split_whitespace().map(str::to_owned)),
            // Given by editors: most labels are only names.
            "label" => labels.extend_by_name(labels_in_name(value, game).words),
            // Ids are unique: `ladder-2` is a ladder.
            "id" => {
                let word =
                    value.trim_end_matches(|sign: char| sign.is_ascii_digit()).trim_end_matches(['-', '_']);
                if super::attributes::is_role(word, game) {
                    labels.extend_by_name([word.to_owned()]);
                }
            }
            name => {
                if let Some(key) = name.strip_prefix("data-") {
                    labels.data.insert(key.to_owned(), value.to_owned());
                }
            }
        }
    }
    labels
}
