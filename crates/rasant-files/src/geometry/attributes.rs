//! The meaning of a part of a drawing or a model, by the words on it.
//!
//! | word | meaning |
//! | --- | --- |
//! | `solid` | solid, which is the default |
//! | `one-way` | solid, but only to feet that come down on it |
//! | `one-sided` | a line that is solid from its left side only |
//! | `ladder`, `water`, `wind`, `hazard`, … | a zone: its bounding box; several words, several effects |
//! | `platform` | it moves with everything inside it, on the path that it names |
//! | `start` | where a body starts: the middle of its underside |
//! | `path` | the path of a platform, which is not part of the level |
//! | `ignore` | not part of the level |
//! | `surface-NAME`, `layer-NAME`, `on-NAME` | its surface, its layer, its carrier |
//!
//! Words apply to nested parts. Numbers are data beside them (`data-push="0 15"` in a drawing,
//! `"push": [0, 15, 0]` in the extras of a model), in metres and in the axes of the level.

use std::collections::BTreeMap;

use percent_encoding::percent_decode_str;
use rasant::glam::Vec2;
use rasant::level::Effects;
use rasant::space::Bounds;
use rasant::{CarrierId, Effect, Geometry, Layers, PathEnd, Piece, Surface, SurfaceId, Zone};

use crate::Game;
use crate::assembly::{Assembly, Look, PATH_ENDS};
use crate::table::nearest;

/// The role of a part.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) enum Role {
    #[default]
    Solid,
    Zone(Vec<String>),
    Start,
    Path,
    Ignored,
}

/// The attributes of a part, from its own words and those of its parents.
#[derive(Clone, Debug)]
pub(super) struct Attributes {
    pub role: Role,
    pub one_way: bool,
    pub one_sided: bool,
    pub surface: SurfaceId,
    pub layers: Layers,
    pub carrier: Option<CarrierId>,
}

/// The words and data on one part.
#[derive(Clone, Debug, Default)]
pub(super) struct Labels {
    pub words: Vec<String>,
    /// The words that begin a name, which another program may have generated.
    pub named: Vec<String>,
    pub data: BTreeMap<String, String>,
}

/// Returns true if a name that begins with this word gives the role of its part. (Editors number
/// their paths `path1`, `path2`, …, and what is called a floor is to be stood on.)
pub(super) fn is_role(word: &str, game: &Game) -> bool {
    !["path", "floor"].contains(&word)
        && (ROLES.contains(&word) || game.zone_kinds::<Vec2>().iter().any(|(name, _)| *name == word))
}

/// A problem with words or data: what was found, and what was expected.
pub(super) type Wrong = (String, String);

const ROLES: [&str; 9] =
    ["solid", "one-way", "one-sided", "platform", "start", "path", "ignore", "root", "zone"];
const NAMED: [&str; 3] = [SURFACE, "layer-", "on-"];
/// The prefix of the name of a surface.
const SURFACE: &str = "surface-";
/// The length in bytes above which a word is no misspelling.
const LONG: usize = 40;
/// The factors of surfaces, with their ranges.
const FACTORS: [(&str, f32, f32); 4] =
    [("traction", 0.001, 100.0), ("pace", 0.0, 100.0), ("bounce", 0.0, 1.0), ("grip", 0.0, 100.0)];
/// The keys of all data.
const DATA: [&str; 20] = [
    "grow",
    "traction",
    "pace",
    "bounce",
    "grip",
    "drift",
    "sound",
    "push",
    "up",
    "number",
    "front",
    "place",
    "name",
    "keyframes",
    "path",
    "seconds",
    "end",
    "origin",
    "scale",
    "layers",
];

impl Labels {
    /// Adds words from the beginning of a name.
    pub fn extend_by_name(&mut self, words: impl IntoIterator<Item = String>) {
        for word in words {
            self.named.push(word.clone());
            self.words.push(word);
        }
    }

    /// Returns true if a word occurs in names only, and not where only words with a meaning occur.
    pub fn is_named(&self, word: &str) -> bool {
        let count = |all: &[String]| all.iter().filter(|labels| *labels == word).count();
        count(&self.named) > 0 && count(&self.named) == count(&self.words)
    }

    pub fn contains(&self, word: &str) -> bool {
        self.words.iter().any(|labels| labels == word)
    }

    pub fn data(&self, key: &str) -> Option<&str> {
        self.data.get(key).map(String::as_str)
    }

    /// The numbers of a key.
    pub fn numbers(&self, key: &str) -> Result<Option<Vec<f64>>, Wrong> {
        let Some(text) = self.data(key) else { return Ok(None) };
        numbers_of(key, text).map(Some)
    }

    /// The number of a key, within a range.
    pub fn number_in(&self, key: &str, least: f64, most: f64) -> Result<Option<f64>, Wrong> {
        match self.numbers(key)?.as_deref() {
            None => Ok(None),
            Some(&[number]) if (least..=most).contains(&number) => Ok(Some(number)),
            Some(_) => {
                let found = self.data(key).unwrap_or("");
                Err((format!("found `{key}` of `{found}`"), format!("one number, {least} to {most}")))
            }
        }
    }

    /// The vector of a key.
    pub fn vector<V: Geometry>(&self, key: &str) -> Result<Option<V>, Wrong> {
        match self.numbers(key)? {
            None => Ok(None),
            Some(numbers) if numbers.len() == V::DIMENSION => {
                let mut parts = [0.0; 3];
                parts.iter_mut().zip(&numbers).for_each(|(part, number)| *part = *number as f32);
                Ok(Some(V::from_array(parts)))
            }
            Some(numbers) => Err((
                format!("found `{key}` of {} numbers", numbers.len()),
                format!("{} numbers", V::DIMENSION),
            )),
        }
    }

    /// What the carrier does at the end of its path, if the data say so.
    pub fn end(&self) -> Result<Option<PathEnd>, Wrong> {
        let Some(end) = self.data("end") else { return Ok(None) };
        let known = PATH_ENDS.iter().find(|(name, _)| *name == end).map(|(_, end)| *end);
        known.map(Some).ok_or_else(|| {
            let names: Vec<&str> = PATH_ENDS.iter().map(|(name, _)| *name).collect();
            (format!("found `end` of `{end}`"), format!("one of: {}", names.join(", ")))
        })
    }

    /// Returns true if a surface is named.
    pub fn names_a_surface(&self) -> bool {
        self.words.iter().any(|word| word.starts_with(SURFACE))
    }

    /// Records the words that have no meaning here.
    pub fn leave_out_unknown<V: Geometry>(&self, assembly: &mut Assembly<V>) {
        let zones = assembly.game.zone_kinds::<V>();
        let known = || ROLES.iter().copied().chain(zones.iter().map(|(name, _)| *name));
        for word in &self.words {
            let is_named = NAMED.iter().any(|prefix| word.starts_with(prefix));
            if is_named || known().any(|known| known == word) {
                continue;
            }
            match Some(word).filter(|word| word.len() < LONG).and_then(|word| nearest(word, known())) {
                Some(near) => assembly.leave_out(format!("word `{word}` (`{near}`?)")),
                None => assembly.leave_out(format!("word `{word}`")),
            }
        }
        for key in self.data.keys().filter(|key| !DATA.contains(&key.as_str())) {
            match Some(key).filter(|key| key.len() < LONG).and_then(|key| nearest(key, DATA)) {
                Some(near) => assembly.leave_out(format!("data `{key}` (`{near}`?)")),
                None => assembly.leave_out(format!("data `{key}`")),
            }
        }
    }
}

/// Defines all surfaces that are named, in the order of their first occurrence, with the factors
/// beside one of their words. An error comes with the number of its part.
pub(super) fn define_surfaces<V: Geometry>(
    all: &[Labels],
    assembly: &mut Assembly<V>,
) -> Result<(), (usize, Wrong)> {
    let zones = assembly.game.zone_kinds::<V>();
    let is_zone =
        |labels: &Labels| labels.words.iter().any(|word| zones.iter().any(|(name, _)| name == word));
    let has_numbers = |labels: &Labels| {
        let numbers = ["traction", "bounce", "grip", "drift", "sound"];
        numbers.iter().any(|key| labels.data.contains_key(*key))
            || (!is_zone(labels) && labels.data.contains_key("pace"))
    };
    let mut named: Vec<(String, Option<usize>)> = Vec::new();
    for (number, labels) in all.iter().enumerate() {
        for name in labels.words.iter().filter_map(|word| word.strip_prefix(SURFACE)) {
            let name = percent_decode_str(name).decode_utf8_lossy().into_owned();
            let place = named.iter().position(|(known, _)| *known == name).unwrap_or_else(|| {
                named.push((name, None));
                named.len() - 1
            });
            if named[place].1.is_none() && has_numbers(labels) {
                named[place].1 = Some(number);
            }
        }
    }
    for (name, number) in named {
        let none = Labels::default();
        let labels = number.map_or(&none, |number| &all[number]);
        surface_of(&name, labels, assembly, is_zone(labels)).map_err(|wrong| (number.unwrap_or(0), wrong))?;
    }
    Ok(())
}

pub(super) fn numbers_of(key: &str, text: &str) -> Result<Vec<f64>, Wrong> {
    let words = text.split([' ', ',', '\t', '\n', '\r']).filter(|word| !word.is_empty());
    let number = |word: &str| {
        let number = word.parse::<f64>().ok().filter(|number| (*number as f32).is_finite());
        number.ok_or_else(|| (format!("found `{word}` in `{key}`"), "finite numbers".to_owned()))
    };
    words.map(number).collect()
}

impl Attributes {
    pub fn new(surface: SurfaceId, layers: Layers) -> Self {
        Self { role: Role::Solid, one_way: false, one_sided: false, surface, layers, carrier: None }
    }

    /// The attributes of a part inside this one.
    pub fn inside<V: Geometry>(&self, labels: &Labels, assembly: &mut Assembly<V>) -> Result<Self, Wrong> {
        let mut attributes = self.clone();
        let zones = assembly.game.zone_kinds::<V>();
        let mut effects: Vec<String> =
            labels.words.iter().filter(|word| zones.iter().any(|(name, _)| name == word)).cloned().collect();
        // A generated name may begin with such a word by accident: without the numbers that the
        // word needs, it is only a name.
        if !effects.is_empty()
            && effects.iter().all(|word| labels.is_named(word))
            && let Err((found, _)) = self.effects(&effects, labels, &zones)
        {
            assembly.leave_out(format!("name that begins with a word with a meaning: {found}"));
            effects.clear();
        }
        if labels.contains("ignore") {
            attributes.role = Role::Ignored;
        } else if labels.contains("start") {
            attributes.role = Role::Start;
        } else if labels.contains("path") {
            attributes.role = Role::Path;
        } else if !effects.is_empty() {
            attributes.role = Role::Zone(effects);
        } else if ["solid", "one-way", "one-sided"].iter().any(|word| labels.contains(word)) {
            attributes.role = Role::Solid;
        }
        attributes.one_way = (attributes.one_way && !labels.contains("solid")) || labels.contains("one-way");
        attributes.one_sided =
            (attributes.one_sided && !labels.contains("solid")) || labels.contains("one-sided");
        for word in &labels.words {
            let named = |prefix: &str| {
                let name = word.strip_prefix(prefix)?;
                Some(percent_decode_str(name).decode_utf8_lossy().into_owned())
            };
            if let Some(name) = named(SURFACE) {
                attributes.surface =
                    surface_of(&name, labels, assembly, matches!(attributes.role, Role::Zone(_)))?;
            } else if let Some(name) = named("layer-") {
                attributes.layers = layer_of(&name, assembly)?;
            } else if let Some(name) = named("on-") {
                attributes.carrier = Some(assembly.names.carriers.get(&name).copied().ok_or_else(|| {
                    let known: Vec<&str> = assembly.names.carriers.keys().map(String::as_str).collect();
                    (format!("there is no carrier \"{name}\""), format!("one of: {}", known.join(", ")))
                })?);
            }
        }
        Ok(attributes)
    }

    /// A piece with these attributes.
    pub fn made<V: Geometry>(&self, piece: Piece<V>) -> Piece<V> {
        let mut piece = piece.made_of(self.surface).on_layers(self.layers);
        (piece.one_way, piece.carrier) = (self.one_way, self.carrier);
        piece
    }

    /// Adds a zone with these attributes.
    pub fn add_zone<V: Geometry>(
        &self,
        words: &[String],
        bounds: Bounds<V>,
        labels: &Labels,
        assembly: &mut Assembly<V>,
    ) -> Result<(), Wrong> {
        let mut zone =
            Zone::new(bounds.min, bounds.max, self.effects(words, labels, &assembly.game.zone_kinds::<V>())?);
        zone.carrier = self.carrier;
        assembly.zone(zone, labels.data("name").unwrap_or(&words[0]).to_owned());
        Ok(())
    }

    /// The effects of a zone, with their data.
    fn effects<V: Geometry>(
        &self,
        words: &[String],
        labels: &Labels,
        kinds: &[(&str, Effect<V>)],
    ) -> Result<Effects<V>, Wrong> {
        let effect = |word: &String| {
            let kind = kinds.iter().find(|(name, _)| name == word).map(|(_, kind)| *kind);
            let mut effect = kind.unwrap_or(Effect::Own(0));
            match &mut effect {
                Effect::Ladder { front } => *front = labels.vector("front")?.unwrap_or(V::ZERO),
                Effect::Checkpoint => {
                    if let Some(place) = labels.vector("place")? {
                        effect = Effect::CheckpointAt { place };
                    }
                }
                Effect::Floor { surface } => *surface = self.surface,
                Effect::Wind { push } => *push = needed(labels.vector("push")?, word, "push", "m/s²")?,
                Effect::Slow { pace } => {
                    *pace = needed(labels.number_in("pace", 0.0, 10.0)?, word, "pace", "a factor")? as f32;
                }
                Effect::Weight { factor } => {
                    let value = labels.number_in("factor", 0.0, 10.0)?;
                    *factor = needed(value, word, "factor", "a factor on gravity")? as f32;
                }
                Effect::Gravity { up } => {
                    *up = needed(labels.vector("up")?, word, "up", "a direction")?;
                    if up.direction().is_none() {
                        return Err((
                            "found an `up` without a direction".to_owned(),
                            "a vector that is not zero".to_owned(),
                        ));
                    }
                }
                Effect::Own(number) if word == "own" => {
                    let labels = labels.number_in("number", 0.0, 65_535.0)?;
                    *number = needed(labels, word, "number", "the game's own")? as u16;
                }
                _ => {}
            }
            Ok(effect)
        };
        let effects = words.iter().map(effect).collect::<Result<Vec<_>, Wrong>>()?;
        Effects::of(&effects).ok_or_else(|| {
            let most = Effects::<V>::MAX;
            (format!("found {} effects in one zone", effects.len()), format!("at most {most}"))
        })
    }
}

fn needed<T>(value: Option<T>, word: &str, key: &str, unit: &str) -> Result<T, Wrong> {
    value.ok_or_else(|| (format!("`{word}` has no `{key}`"), format!("a `{key}`: {unit}")))
}

/// The surface with this name. A new one gets the factors beside the word.
fn surface_of<V: Geometry>(
    name: &str,
    labels: &Labels,
    assembly: &mut Assembly<V>,
    is_zone: bool,
) -> Result<SurfaceId, Wrong> {
    let known =
        if name == "plain" { Some(SurfaceId::default()) } else { assembly.names.surfaces.get(name).copied() };
    if let Some(known) = known {
        return Ok(known);
    }
    let mut surface = Surface::<V>::default();
    let slots = [&mut surface.traction, &mut surface.pace, &mut surface.bounce, &mut surface.grip];
    for (slot, (key, least, most)) in slots.into_iter().zip(FACTORS) {
        // The pace of a zone belongs to the zone.
        if is_zone && key == "pace" {
            continue;
        }
        if let Some(number) = labels.number_in(key, least.into(), most.into())? {
            *slot = number as f32;
        }
    }
    surface.drift = labels.vector("drift")?.unwrap_or(V::ZERO);
    let sound = labels.data("sound").unwrap_or(name).to_owned();
    Ok(assembly.surface(surface, Look { name: name.to_owned(), sound }))
}

/// The layer with this name, created if it is new.
fn layer_of<V: Geometry>(name: &str, assembly: &mut Assembly<V>) -> Result<Layers, Wrong> {
    let layers = &mut assembly.names.layers;
    let number = layers.iter().position(|layer| layer == name).unwrap_or_else(|| {
        layers.push(name.to_owned());
        layers.len() - 1
    });
    if number >= 32 {
        return Err((format!("layer `{name}` is the 33rd"), "at most 32 layers".to_owned()));
    }
    Ok(Layers::only(number as u32))
}
