//! What a part of a drawing or a model is, by the words that stand on it.
//!
//! | word | what it makes |
//! | --- | --- |
//! | `solid` | solid, as is all that says nothing |
//! | `one-way` | solid, but only to feet that come down on it |
//! | `one-sided` | a line that is solid from its left side only |
//! | `ladder`, `water`, `wind`, `hazard`, … | a zone: the box round it; several words, several effects |
//! | `platform` | it and what is in it moves, on the path that it says |
//! | `start` | where a body begins: the middle of its underside |
//! | `path` | the way of a platform, that is not itself there |
//! | `ignore` | nothing |
//! | `surface-NAME`, `layer-NAME`, `on-NAME` | of which surface, on which layer, on which carrier |
//!
//! Words go down to what is inside. Numbers are data beside them (`data-push="0 15"` in a
//! drawing, `"push": [0, 15, 0]` among the extras of a model), in metres and in the axes of
//! the level.

use std::collections::BTreeMap;

use percent_encoding::percent_decode_str;
use rasant::glam::Vec2;
use rasant::level::Effects;
use rasant::space::Bounds;
use rasant::{CarrierId, Effect, Geometry, Layers, PathEnd, Piece, Surface, SurfaceId, Zone};

use crate::making::{Look, Making, PATH_ENDS, zone_names};
use crate::table::nearest;

/// What a part is.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) enum Role {
    #[default]
    Solid,
    Zone(Vec<String>),
    Start,
    Path,
    Ignored,
}

/// All that words tell of a part, those of what it is in among them.
#[derive(Clone, Debug)]
pub(super) struct Told {
    pub role: Role,
    pub one_way: bool,
    pub one_sided: bool,
    pub surface: SurfaceId,
    pub layers: Layers,
    pub carrier: Option<CarrierId>,
}

/// The words and data that stand on one part.
#[derive(Clone, Debug, Default)]
pub(super) struct Said {
    pub words: Vec<String>,
    /// Those of the words that begin a name, perhaps one that another program gave.
    pub named: Vec<String>,
    pub data: BTreeMap<String, String>,
}

/// Whether a name that begins with this word says what its part is. (Editors number their
/// paths `path1`, `path2`, …, and what is called a floor is to be stood on.)
pub(super) fn is_role(word: &str) -> bool {
    !["path", "floor"].contains(&word)
        && (ROLES.contains(&word) || zone_names::<Vec2>().iter().any(|(name, _)| *name == word))
}

/// What is wrong in words or data: what was found, and what was expected.
pub(super) type Wrong = (String, String);

const ROLES: [&str; 9] =
    ["solid", "one-way", "one-sided", "platform", "start", "path", "ignore", "root", "zone"];
const NAMED: [&str; 3] = [SURFACE, "layer-", "on-"];
/// What stands before the name of a surface.
const SURFACE: &str = "surface-";
/// Bytes of a word that is no other one, misspelt.
const LONG: usize = 40;
/// Numbers of surfaces, with their ranges.
const FACTORS: [(&str, f32, f32); 4] =
    [("traction", 0.001, 100.0), ("pace", 0.0, 100.0), ("bounce", 0.0, 1.0), ("grip", 0.0, 100.0)];
/// The names of all data.
const DATA: [&str; 19] = [
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

impl Said {
    /// Adds words that begin a name.
    pub fn extend_by_name(&mut self, words: impl IntoIterator<Item = String>) {
        for word in words {
            self.named.push(word.clone());
            self.words.push(word);
        }
    }

    /// True if a word stands in a name alone, and nowhere where only this program's words stand.
    pub fn is_named(&self, word: &str) -> bool {
        let count = |all: &[String]| all.iter().filter(|said| *said == word).count();
        count(&self.named) > 0 && count(&self.named) == count(&self.words)
    }

    pub fn contains(&self, word: &str) -> bool {
        self.words.iter().any(|said| said == word)
    }

    pub fn data(&self, key: &str) -> Option<&str> {
        self.data.get(key).map(String::as_str)
    }

    /// Numbers under a key, as many as there are.
    pub fn numbers(&self, key: &str) -> Result<Option<Vec<f64>>, Wrong> {
        let Some(text) = self.data(key) else { return Ok(None) };
        numbers_of(key, text).map(Some)
    }

    /// One number of a range under a key.
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

    /// A vector under a key.
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

    /// What becomes of a path at its end, if it is said.
    pub fn end(&self) -> Result<Option<PathEnd>, Wrong> {
        let Some(end) = self.data("end") else { return Ok(None) };
        let known = PATH_ENDS.iter().find(|(name, _)| *name == end).map(|(_, end)| *end);
        known.map(Some).ok_or_else(|| {
            let names: Vec<&str> = PATH_ENDS.iter().map(|(name, _)| *name).collect();
            (format!("found `end` of `{end}`"), format!("one of: {}", names.join(", ")))
        })
    }

    /// Whether a surface is named here.
    pub fn names_a_surface(&self) -> bool {
        self.words.iter().any(|word| word.starts_with(SURFACE))
    }

    /// Leaves out, by name, what means nothing here.
    pub fn leave_out_unknown<V: Geometry>(&self, making: &mut Making<V>) {
        let zones = zone_names::<V>();
        let known = || ROLES.iter().copied().chain(zones.iter().map(|(name, _)| *name));
        for word in &self.words {
            let is_named = NAMED.iter().any(|prefix| word.starts_with(prefix));
            if is_named || known().any(|known| known == word) {
                continue;
            }
            match Some(word).filter(|word| word.len() < LONG).and_then(|word| nearest(word, known())) {
                Some(near) => making.leave_out(format!("word `{word}` (`{near}`?)")),
                None => making.leave_out(format!("word `{word}`")),
            }
        }
        for key in self.data.keys().filter(|key| !DATA.contains(&key.as_str())) {
            match Some(key).filter(|key| key.len() < LONG).and_then(|key| nearest(key, DATA)) {
                Some(near) => making.leave_out(format!("data `{key}` (`{near}`?)")),
                None => making.leave_out(format!("data `{key}`")),
            }
        }
    }
}

/// Makes all surfaces that are named, in the order in which they are first, with the numbers
/// that stand beside one of their words. What is wrong comes with the number of what says it.
pub(super) fn define_surfaces<V: Geometry>(
    all: &[Said],
    making: &mut Making<V>,
) -> Result<(), (usize, Wrong)> {
    let zones = zone_names::<V>();
    let is_zone = |said: &Said| said.words.iter().any(|word| zones.iter().any(|(name, _)| name == word));
    let has_numbers = |said: &Said| {
        let numbers = ["traction", "bounce", "grip", "drift", "sound"];
        numbers.iter().any(|key| said.data.contains_key(*key))
            || (!is_zone(said) && said.data.contains_key("pace"))
    };
    let mut named: Vec<(String, Option<usize>)> = Vec::new();
    for (number, said) in all.iter().enumerate() {
        for name in said.words.iter().filter_map(|word| word.strip_prefix(SURFACE)) {
            let name = percent_decode_str(name).decode_utf8_lossy().into_owned();
            let place = named.iter().position(|(known, _)| *known == name).unwrap_or_else(|| {
                named.push((name, None));
                named.len() - 1
            });
            if named[place].1.is_none() && has_numbers(said) {
                named[place].1 = Some(number);
            }
        }
    }
    for (name, number) in named {
        let none = Said::default();
        let said = number.map_or(&none, |number| &all[number]);
        surface_of(&name, said, making, is_zone(said)).map_err(|wrong| (number.unwrap_or(0), wrong))?;
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

impl Told {
    pub fn new(surface: SurfaceId, layers: Layers) -> Self {
        Self { role: Role::Solid, one_way: false, one_sided: false, surface, layers, carrier: None }
    }

    /// What a part inside this one is.
    pub fn inside<V: Geometry>(&self, said: &Said, making: &mut Making<V>) -> Result<Self, Wrong> {
        let mut told = self.clone();
        let zones = zone_names::<V>();
        let mut effects: Vec<String> =
            said.words.iter().filter(|word| zones.iter().any(|(name, _)| name == word)).cloned().collect();
        // A name that another program gave may begin so by accident: what lacks its numbers is one.
        if !effects.is_empty()
            && effects.iter().all(|word| said.is_named(word))
            && let Err((found, _)) = self.effects::<V>(&effects, said)
        {
            making.leave_out(format!("name that begins with a word: {found}"));
            effects.clear();
        }
        if said.contains("ignore") {
            told.role = Role::Ignored;
        } else if said.contains("start") {
            told.role = Role::Start;
        } else if said.contains("path") {
            told.role = Role::Path;
        } else if !effects.is_empty() {
            told.role = Role::Zone(effects);
        } else if ["solid", "one-way", "one-sided"].iter().any(|word| said.contains(word)) {
            told.role = Role::Solid;
        }
        told.one_way = (told.one_way && !said.contains("solid")) || said.contains("one-way");
        told.one_sided = (told.one_sided && !said.contains("solid")) || said.contains("one-sided");
        for word in &said.words {
            let named = |prefix: &str| {
                let name = word.strip_prefix(prefix)?;
                Some(percent_decode_str(name).decode_utf8_lossy().into_owned())
            };
            if let Some(name) = named(SURFACE) {
                told.surface = surface_of(&name, said, making, matches!(told.role, Role::Zone(_)))?;
            } else if let Some(name) = named("layer-") {
                told.layers = layer_of(&name, making)?;
            } else if let Some(name) = named("on-") {
                told.carrier = Some(making.names.carriers.get(&name).copied().ok_or_else(|| {
                    let known: Vec<&str> = making.names.carriers.keys().map(String::as_str).collect();
                    (format!("there is no carrier \"{name}\""), format!("one of: {}", known.join(", ")))
                })?);
            }
        }
        Ok(told)
    }

    /// A piece as it is told to be.
    pub fn made<V: Geometry>(&self, piece: Piece<V>) -> Piece<V> {
        let mut piece = piece.made_of(self.surface).on_layers(self.layers);
        (piece.one_way, piece.carrier) = (self.one_way, self.carrier);
        piece
    }

    /// Adds a zone as it is told to be.
    pub fn add_zone<V: Geometry>(
        &self,
        words: &[String],
        bounds: Bounds<V>,
        said: &Said,
        making: &mut Making<V>,
    ) -> Result<(), Wrong> {
        let mut zone = Zone::new(bounds.min, bounds.max, self.effects(words, said)?);
        zone.carrier = self.carrier;
        making.zone(zone, said.data("name").unwrap_or(&words[0]).to_owned());
        Ok(())
    }

    /// The effects of a zone, with what its data say.
    fn effects<V: Geometry>(&self, words: &[String], said: &Said) -> Result<Effects<V>, Wrong> {
        let kinds = zone_names::<V>();
        let effect = |word: &String| {
            let kind = kinds.iter().find(|(name, _)| name == word).map(|(_, kind)| *kind);
            let mut effect = kind.unwrap_or(Effect::Own(0));
            match &mut effect {
                Effect::Ladder { front } => *front = said.vector("front")?.unwrap_or(V::ZERO),
                Effect::Checkpoint => {
                    if let Some(place) = said.vector("place")? {
                        effect = Effect::CheckpointAt { place };
                    }
                }
                Effect::Floor { surface } => *surface = self.surface,
                Effect::Wind { push } => *push = needed(said.vector("push")?, word, "push", "m/s²")?,
                Effect::Slow { pace } => {
                    *pace = needed(said.number_in("pace", 0.0, 10.0)?, word, "pace", "a factor")? as f32;
                }
                Effect::Gravity { up } => {
                    *up = needed(said.vector("up")?, word, "up", "a direction")?;
                    if up.direction().is_none() {
                        return Err((
                            "found an up of no direction".to_owned(),
                            "a vector that is not zero".to_owned(),
                        ));
                    }
                }
                Effect::Own(number) if word == "own" => {
                    let said = said.number_in("number", 0.0, 65_535.0)?;
                    *number = needed(said, word, "number", "the game's own")? as u16;
                }
                _ => {}
            }
            Ok(effect)
        };
        let effects = words.iter().map(effect).collect::<Result<Vec<_>, Wrong>>()?;
        Effects::of(&effects).ok_or_else(|| {
            let most = Effects::<V>::MOST;
            (format!("found {} effects of one zone", effects.len()), format!("at most {most}"))
        })
    }
}

fn needed<T>(value: Option<T>, word: &str, key: &str, unit: &str) -> Result<T, Wrong> {
    value.ok_or_else(|| (format!("`{word}` has no `{key}`"), format!("a `{key}`: {unit}")))
}

/// The surface of that name; one that is new has the numbers that stand beside the word.
fn surface_of<V: Geometry>(
    name: &str,
    said: &Said,
    making: &mut Making<V>,
    is_zone: bool,
) -> Result<SurfaceId, Wrong> {
    let known =
        if name == "plain" { Some(SurfaceId::default()) } else { making.names.surfaces.get(name).copied() };
    if let Some(known) = known {
        return Ok(known);
    }
    let mut surface = Surface::<V>::default();
    let slots = [&mut surface.traction, &mut surface.pace, &mut surface.bounce, &mut surface.grip];
    for (slot, (key, least, most)) in slots.into_iter().zip(FACTORS) {
        // A zone's pace is its own.
        if is_zone && key == "pace" {
            continue;
        }
        if let Some(number) = said.number_in(key, least.into(), most.into())? {
            *slot = number as f32;
        }
    }
    surface.drift = said.vector("drift")?.unwrap_or(V::ZERO);
    let sound = said.data("sound").unwrap_or(name).to_owned();
    Ok(making.surface(surface, Look { name: name.to_owned(), sound }))
}

/// The layer of that name, a new one if it is new.
fn layer_of<V: Geometry>(name: &str, making: &mut Making<V>) -> Result<Layers, Wrong> {
    let layers = &mut making.names.layers;
    let number = layers.iter().position(|layer| layer == name).unwrap_or_else(|| {
        layers.push(name.to_owned());
        layers.len() - 1
    });
    if number >= 32 {
        return Err((format!("layer `{name}` is the 33rd"), "at most 32 layers".to_owned()));
    }
    Ok(Layers::only(number as u32))
}
