//! A level that is being made of what files say, and the names of what is in it.

use std::collections::BTreeMap;

use rasant::level::LevelBuilder;
use rasant::{Carrier, CarrierId, Effect, Geometry, Layers, Level, PathEnd, Surface, SurfaceId, Zone};

use crate::Problem;
use crate::game::game;
use crate::table::{Table, Value};

/// A level that is being made, with the names of what is in it.
pub(super) struct Making<V> {
    pub title: Option<String>,
    pub builder: LevelBuilder<V>,
    pub names: Names,
    pub looks: Vec<Look>,
    pub zones: Vec<String>,
    pub start: Option<V>,
    pub left_out: LeftOut,
}

impl<V: Geometry> Making<V> {
    pub fn new(layers: Vec<String>) -> Self {
        Self {
            title: None,
            builder: Level::builder(),
            names: Names { layers, ..Names::default() },
            looks: vec![Look { name: "plain".to_owned(), sound: "plain".to_owned() }],
            zones: Vec::new(),
            start: None,
            left_out: LeftOut::new(),
        }
    }

    pub fn surface(&mut self, surface: Surface<V>, look: Look) -> SurfaceId {
        let id = self.builder.add_surface(surface);
        self.names.surfaces.insert(look.name.clone(), id);
        self.looks.push(look);
        id
    }

    pub fn carrier(&mut self, name: &str, carrier: Carrier<V>) -> CarrierId {
        let id = self.builder.add_carrier(carrier);
        self.names.carriers.insert(name.to_owned(), id);
        self.names.carrier_order.push(name.to_owned());
        id
    }

    pub fn zone(&mut self, zone: Zone<V>, name: String) {
        self.builder.add_zone(zone);
        self.zones.push(name);
    }

    pub fn leave_out(&mut self, what: impl Into<String>) {
        *self.left_out.entry(what.into()).or_default() += 1;
    }
}

/// What was left out of a level, in words, and how often.
pub type LeftOut = BTreeMap<String, usize>;

/// What a surface is called, and sounds like.
#[derive(Clone, Debug, PartialEq)]
pub struct Look {
    /// Its name in the file; `plain` for the one that needs none.
    pub name: String,
    /// The name of its sound; the surface's own if none is given.
    pub sound: String,
}

/// The names that pieces refer to.
#[derive(Default)]
pub(super) struct Names {
    pub surfaces: BTreeMap<String, SurfaceId>,
    pub carriers: BTreeMap<String, CarrierId>,
    pub carrier_order: Vec<String>,
    pub layers: Vec<String>,
}

impl Names {
    pub fn surface_and_layers(&self, table: &mut Table<'_>) -> Result<(SurfaceId, Layers), Problem> {
        let surface = match table.get("surface") {
            Some(value) => found(&self.surfaces, value, "surface")?,
            None => SurfaceId::default(),
        };
        let layers = match table.get("layer") {
            Some(value) => {
                let name = value.text()?;
                let place = self.layers.iter().position(|layer| layer == name).ok_or_else(|| {
                    let known = self.layers.iter().map(String::as_str);
                    value.unknown(&format!("there is no layer \"{name}\""), name, known)
                })?;
                Layers::only(place as u32)
            }
            None => Layers::GROUND,
        };
        Ok((surface, layers))
    }
}

pub(super) fn found<T: Copy>(
    known: &BTreeMap<String, T>,
    value: Value<'_>,
    what: &str,
) -> Result<T, Problem> {
    let name = value.text()?;
    known.get(name).copied().ok_or_else(|| {
        let names = known.keys().map(String::as_str);
        value.unknown(&format!("there is no {what} \"{name}\""), name, names)
    })
}

/// What becomes of a path at its end, with its name.
pub const PATH_ENDS: [(&str, PathEnd); 3] =
    [("loop", PathEnd::Loop), ("back-and-forth", PathEnd::BackAndForth), ("stop", PathEnd::Stop)];

/// What a zone can be called in a file, a game's own names among them.
pub fn zone_names<V: Geometry>() -> Vec<(&'static str, Effect<V>)> {
    let own = game().zones.iter().map(|&(name, number)| (name, Effect::Own(number)));
    zone_kinds::<V>().into_iter().map(|kind| (kind.name(), kind)).chain(own).collect()
}

/// A zone of every kind, before it is told more.
fn zone_kinds<V: Geometry>() -> [Effect<V>; 11] {
    [
        Effect::Ladder { front: V::ZERO },
        Effect::Wind { push: V::ZERO },
        Effect::Slow { pace: 0.5 },
        Effect::Floor { surface: SurfaceId(0) },
        Effect::Water,
        Effect::Hazard,
        Effect::Goal,
        Effect::Checkpoint,
        Effect::Gravity { up: V::UP },
        Effect::Planet,
        Effect::Own(0),
    ]
}
