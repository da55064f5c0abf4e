//! Writes a level as a drawing that reads back to the same level.

use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};
use rasant::glam::{DVec2, Vec2};
use rasant::level::{Shape, Sides};
use rasant::space::Bounds;
use rasant::{CarrierId, Effect, Layers, Surface, SurfaceId};
use xmlwriter::{Options, XmlWriter};

use crate::assembly::{EASINGS, PATH_ENDS};
use crate::axes::UpAxis;
use crate::{Game, LevelFile};

/// The style of the drawing in a browser.
const STYLE: &str = "
    svg { background: #f6f3ec }
    polygon, circle { fill: #a9adb3; stroke: #6e7682; stroke-width: 0.02 }
    polyline { fill: none; stroke: #6e7682; stroke-width: 0.08 }
    .one-way { fill: #7a5c8e; stroke: #7a5c8e }
    .platform polygon, .platform circle { fill: #7f93a8 }
    .zone { fill: #4f8fc0; fill-opacity: 0.3; stroke: #4f8fc0 }
    .start { fill: #12579c }
";

/// Writes a two-dimensional level as SVG, in the units of the level, with up at the top. It reads back
/// to the same level, to the bit: with `up` and `scale` in the text of the level that refers to the
/// drawing, where it has them. Zones of the game's own have the names that the game gives them.
///
/// ```
/// use rasant_files::{Game, read_level, write_svg};
/// # use rasant_files::{Files, Problem, World};
/// # use std::path::Path;
/// # struct Kept(String);
/// # impl Files for Kept {
/// #     fn read(&self, _: &Path) -> Result<String, Problem> { Ok(self.0.clone()) }
/// # }
/// # let written = |text: &str| Kept(text.to_owned());
/// let file = written("[[piece]]\nblock = [[0, 0], [6, 4]]\none_way = true\n");
/// let World::Plane(roof) = read_level(&file, Path::new("roof.toml"))? else { unreachable!() };
/// let drawing = write_svg(&roof, &Game::default());
/// let World::Plane(again) = read_level(&written(&drawing), Path::new("roof.svg"))? else { unreachable!() };
/// assert!(again.level.all_pieces().eq(roof.level.all_pieces()));
/// # Ok::<(), Problem>(())
/// ```
///
/// What a drawing cannot hold is left out; [`not_in_svg`] lists it.
#[must_use]
pub fn write_svg(file: &LevelFile<Vec2>, game: &Game) -> String {
    Writer { file, game, xml: XmlWriter::new(Options::default()) }.written()
}

/// What [`write_svg`] leaves out of a level, in words. Pieces on carriers that do not move in a
/// drawing are written where they start.
#[must_use]
pub fn not_in_svg(file: &LevelFile<Vec2>) -> Vec<String> {
    let mut all = file.mechanisms.contents();
    if let Some(up) = file.up.filter(|up| *up != UpAxis::Y) {
        all.push(format!("`up = \"{}\"`: write it in the level that refers to the drawing", up.name()));
    }
    if let Some(scale) = file.scale.filter(|scale| *scale != 1.0) {
        all.push(format!("`scale = {scale}`: write it in the level that refers to the drawing"));
    }
    for (carrier, name) in file.level.carriers().iter().zip(&file.carriers) {
        if carrier.parent().is_some() {
            all.push(format!("the motion of carrier \"{name}\", which rides on another one"));
        } else if carrier.path().is_empty() {
            all.push(format!("the motion of carrier \"{name}\", which the game moves"));
        }
    }
    all
}

struct Writer<'a> {
    file: &'a LevelFile<Vec2>,
    game: &'a Game,
    xml: XmlWriter,
}

impl Writer<'_> {
    fn written(mut self) -> String {
        const MARGIN: f32 = 1.0;
        let level = &self.file.level;
        let zones = level.all_zones().iter().map(|zone| zone.bounds);
        let whole = zones.fold(level.bounds(), |all, zone| all.joined(zone));
        let Bounds { min, max } = whole.widened(Vec2::splat(MARGIN));
        self.xml.start_element("svg");
        self.xml.write_attribute("xmlns", "http://www.w3.org/2000/svg");
        let upper = if self.is_down() { min.y } else { -max.y };
        let view = format!("{} {upper} {} {}", min.x, max.x - min.x, max.y - min.y);
        self.xml.write_attribute("viewBox", &view);
        if self.file.layers.len() > 1 {
            let names: Vec<String> = self.file.layers[1..].iter().map(|name| word_of(name)).collect();
            self.attribute("data-layers", &names.join(" "));
        }
        self.text("title", &self.file.title);
        self.text("style", STYLE);
        for number in 1..level.surfaces().len() {
            self.surface(number);
        }
        if let Some(start) = self.file.start {
            self.xml.start_element("circle");
            self.xml.write_attribute("class", "start");
            self.disc(start.as_dvec2(), 0.0);
        }
        for number in 0..level.carriers().len() {
            self.carrier(number);
        }
        self.on(None);
        self.xml.end_document()
    }

    /// Returns true if y points down in the level, as in a drawing.
    fn is_down(&self) -> bool {
        self.file.up == Some(UpAxis::MinusY)
    }

    /// A point of the level in the coordinates of the drawing.
    fn drawn(&self, of: DVec2) -> DVec2 {
        if self.is_down() { of } else { DVec2::new(of.x, 0.0 - of.y) }
    }

    fn text(&mut self, element: &str, text: &str) {
        self.xml.start_element(element);
        self.xml.set_preserve_whitespaces(true);
        self.xml.write_text(&escaped(text));
        self.xml.end_element();
        self.xml.set_preserve_whitespaces(false);
    }

    /// An empty group that defines a surface.
    fn surface(&mut self, number: usize) {
        let surface = &self.file.level.surfaces()[number];
        let look = &self.file.looks[number];
        let plain = Surface::<Vec2>::default();
        self.xml.start_element("g");
        self.attribute("class", &format!("surface-{}", word_of(&look.name)));
        let factors = [
            ("data-traction", surface.traction, plain.traction),
            ("data-pace", surface.pace, plain.pace),
            ("data-bounce", surface.bounce, plain.bounce),
            ("data-grip", surface.grip, plain.grip),
        ];
        for (name, factor, _) in factors.into_iter().filter(|(_, factor, plain)| factor != plain) {
            self.xml.write_attribute(name, &factor);
        }
        if surface.drift != plain.drift {
            self.xml.write_attribute("data-drift", &point(surface.drift.as_dvec2()));
        }
        if look.sound != look.name {
            self.attribute("data-sound", &look.sound);
        }
        self.xml.end_element();
    }

    /// A group that moves, drawn at its initial position.
    fn carrier(&mut self, number: usize) {
        let carrier = &self.file.level.carriers()[number];
        if carrier.parent().is_some() || carrier.path().is_empty() {
            return self.on(Some(CarrierId(number as u16)));
        }
        let origin = carrier.path().first().map_or(DVec2::ZERO, |first| first.offset.as_dvec2());
        self.xml.start_element("g");
        self.xml.write_attribute("class", "platform");
        self.attribute("data-name", &self.file.carriers[number]);
        if origin != DVec2::ZERO {
            self.xml.write_attribute("data-origin", &point(origin));
        }
        let keys = carrier.path().iter().map(|key| {
            let by = point(key.offset.as_dvec2() - origin);
            let ease = EASINGS.iter().find(|(_, easing)| *easing == key.easing && *easing != EASINGS[0].1);
            let ease = ease.map_or(String::new(), |(name, _)| format!(" {name}"));
            match key.turn {
                0.0 => format!("{} {by}{ease}", key.time),
                turn => format!("{} {by} {}{ease}", key.time, f64::from(turn).to_degrees()),
            }
        });
        self.xml.write_attribute("data-keyframes", &keys.collect::<Vec<_>>().join("; "));
        if let Some((end, _)) = PATH_ENDS.iter().find(|(_, end)| *end == carrier.end()) {
            self.xml.write_attribute("data-end", end);
        }
        self.on(Some(CarrierId(number as u16)));
        self.xml.end_element();
    }

    /// The pieces and zones on a carrier, or on none.
    fn on(&mut self, carrier: Option<CarrierId>) {
        let level = &self.file.level;
        let origin = carrier.map_or(DVec2::ZERO, |id| {
            let carrier = level.carrier(id);
            match carrier.path().first().filter(|_| carrier.parent().is_none()) {
                Some(first) => first.offset.as_dvec2(),
                None => carrier.ride().to.offset().as_dvec2(),
            }
        });
        for piece in level.all_pieces().filter(|piece| piece.carrier == carrier) {
            let mut words = Vec::new();
            if piece.surface != SurfaceId::default() {
                words.push(format!(
                    "surface-{}",
                    word_of(&self.file.looks[usize::from(piece.surface.0)].name)
                ));
            }
            for number in piece.layers.numbers().filter(|_| piece.layers != Layers::GROUND) {
                words.push(format!("layer-{}", word_of(&self.file.layers[number as usize])));
            }
            if piece.one_way {
                words.push("one-way".to_owned());
            }
            let mut grow = 0.0;
            let (element, points) = match piece.shape() {
                Shape::Polygon { points, rounding } => {
                    grow = rounding;
                    ("polygon", points.to_vec())
                }
                Shape::Capsule { ends, radius } => {
                    grow = radius;
                    ("polyline", ends.to_vec())
                }
                Shape::Segment { ends, sides } => {
                    if sides == Sides::Left {
                        words.push("one-sided".to_owned());
                    }
                    let is_mirrored = sides == Sides::Left && self.is_down();
                    ("polyline", if is_mirrored { vec![ends[1], ends[0]] } else { ends.to_vec() })
                }
                Shape::Ball { centre, radius } => {
                    self.xml.start_element("circle");
                    self.class(&words);
                    self.disc(centre.as_dvec2() + origin, radius);
                    continue;
                }
                // Three-dimensional shapes.
                _ => continue,
            };
            self.xml.start_element(element);
            self.class(&words);
            if grow > 0.0 {
                self.xml.write_attribute("data-grow", &grow);
            }
            self.points(&points, origin);
            self.xml.end_element();
        }
        for (number, zone) in level.all_zones().iter().enumerate() {
            if zone.carrier == carrier {
                self.zone(number, origin);
            }
        }
    }

    fn zone(&mut self, number: usize, origin: DVec2) {
        let zone = &self.file.level.all_zones()[number];
        let mut words = vec!["zone".to_owned()];
        let mut data: Vec<(&str, String)> = Vec::new();
        for effect in zone.effects.iter() {
            let name = match *effect {
                Effect::Own(own) => self.game.zone_name(own),
                _ => None,
            };
            words.push(name.unwrap_or(effect.name()).to_owned());
            match *effect {
                Effect::Wind { push } => data.push(("data-push", point(push.as_dvec2()))),
                Effect::Slow { pace } => data.push(("data-pace", pace.to_string())),
                Effect::Weight { factor } => data.push(("data-factor", factor.to_string())),
                Effect::Gravity { up } => data.push(("data-up", point(up.as_dvec2()))),
                Effect::Own(own) if name.is_none() => data.push(("data-number", own.to_string())),
                Effect::CheckpointAt { place } => data.push(("data-place", point(place.as_dvec2()))),
                Effect::Ladder { front } if front != Vec2::ZERO => {
                    data.push(("data-front", point(front.as_dvec2())))
                }
                Effect::Floor { surface: SurfaceId(id) } if id > 0 => {
                    words.push(format!("surface-{}", word_of(&self.file.looks[usize::from(id)].name)));
                }
                _ => {}
            }
        }
        data.push(("data-name", self.file.zones[number].clone()));
        let Bounds { min, max } = zone.bounds;
        self.xml.start_element("polygon");
        self.class(&words);
        for (key, value) in data {
            self.attribute(key, &value);
        }
        self.points(&[min, Vec2::new(max.x, min.y), max, Vec2::new(min.x, max.y)], origin);
        self.xml.end_element();
    }

    fn attribute(&mut self, name: &str, value: &str) {
        self.xml.write_attribute(name, &escaped(value));
    }

    fn class(&mut self, words: &[String]) {
        if !words.is_empty() {
            self.attribute("class", &words.join(" "));
        }
    }

    fn points(&mut self, points: &[Vec2], origin: DVec2) {
        let drawn = points.iter().map(|of| point(self.drawn(of.as_dvec2() + origin)));
        self.xml.write_attribute("points", &drawn.collect::<Vec<_>>().join(" "));
    }

    fn disc(&mut self, centre: DVec2, radius: f32) {
        let DVec2 { x, y } = self.drawn(centre);
        self.xml.write_attribute("cx", &x);
        self.xml.write_attribute("cy", &y);
        self.xml.write_attribute("r", &radius);
        self.xml.end_element();
    }
}

/// A name as one word of a class. Characters that would end the word are percent-encoded.
fn word_of(name: &str) -> String {
    const ENDS: &AsciiSet = &CONTROLS.add(b' ').add(b'%');
    utf8_percent_encode(name, ENDS).to_string()
}

/// A text in XML. Characters that XML does not allow are dropped.
fn escaped(text: &str) -> String {
    let mut escaped = String::new();
    for sign in text.chars() {
        match sign {
            '&' => escaped += "&amp;",
            '<' => escaped += "&lt;",
            '\n' => escaped += "&#10;",
            '\t' => escaped += "&#9;",
            '\r' => escaped += "&#13;",
            sign if sign.is_control() || matches!(sign, '\u{fffe}' | '\u{ffff}') => {}
            sign => escaped.push(sign),
        }
    }
    escaped
}

fn point(of: DVec2) -> String {
    format!("{},{}", of.x, of.y)
}
