//! A level that is assembled from files, and the names in it.

use std::collections::BTreeMap;

use rasant::level::{Easing, LevelBuilder};
use rasant::{
    Carrier, CarrierId, Effect, Geometry, Layers, Level, PathEnd, Piece, PieceId, Surface, SurfaceId, Zone,
    ZoneId,
};

use crate::axes::UpAxis;
use crate::mechanisms::{Door, Plan, set_by_host};
use crate::table::{Table, Value};
use crate::{Game, Problem};

/// A level that is assembled, with the names in it.
pub(super) struct Assembly<V> {
    pub title: Option<String>,
    pub builder: LevelBuilder<V>,
    pub names: Names,
    pub looks: Vec<Look>,
    pub zones: Vec<String>,
    pub start: Option<V>,
    /// The axis that points up.
    pub up: UpAxis,
    /// Units of length per metre.
    pub scale: f32,
    pub left_out: LeftOut,
    /// The named things, and what happens to them.
    pub plan: Plan<V>,
    /// What the game adds to files.
    pub game: Game,
}

impl<V: Geometry> Assembly<V> {
    pub fn new(layers: Vec<String>, (up, scale): (UpAxis, f32), game: Game) -> Self {
        Self {
            title: None,
            builder: Level::builder(),
            names: Names { layers, ..Names::default() },
            looks: vec![Look { name: "plain".to_owned(), sound: "plain".to_owned() }],
            zones: Vec::new(),
            start: None,
            up,
            scale,
            left_out: LeftOut::new(),
            plan: Plan { up: up.direction(), ..Plan::default() },
            game,
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
        self.plan.carriers.insert(name.to_owned(), id);
        id
    }

    /// Adds a door that moves along `path` from closed to open, or something that is pushed along it,
    /// on another carrier if it rides on one.
    pub fn door(
        &mut self,
        name: &str,
        path: Carrier<V>,
        parent: Option<CarrierId>,
        is_pushed: bool,
    ) -> CarrierId {
        let door = set_by_host(&path);
        let id = self.carrier(name, parent.map_or(door.clone(), |parent| door.riding(parent)));
        self.plan.doors.push(Door { carrier: id, path, is_pushed });
        id
    }

    /// Adds a piece, with its name if it has one.
    pub fn piece(&mut self, piece: Piece<V>, name: Option<&str>) -> PieceId {
        let id = self.builder.add(piece);
        if let Some(name) = name {
            self.plan.pieces.entry(name.to_owned()).or_default().push(id);
        }
        id
    }

    pub fn zone(&mut self, zone: Zone<V>, name: String) -> ZoneId {
        let id = self.builder.add_zone(zone);
        self.plan.zones.entry(name.clone()).or_default().push(id);
        self.zones.push(name);
        id
    }

    pub fn leave_out(&mut self, what: impl Into<String>) {
        *self.left_out.entry(what.into()).or_default() += 1;
    }
}

/// The things that were left out of a level, in words, with their counts.
pub type LeftOut = BTreeMap<String, usize>;

/// The name and sound of a surface.
#[derive(Clone, Debug, PartialEq)]
pub struct Look {
    /// Its name in the file; `plain` for the default surface.
    pub name: String,
    /// The name of its sound. By default the name of the surface.
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

/// What a carrier does at the end of its path, with names.
pub const PATH_ENDS: [(&str, PathEnd); 3] =
    [("loop", PathEnd::Loop), ("back-and-forth", PathEnd::BackAndForth), ("stop", PathEnd::Stop)];

/// How a carrier moves from a keyframe to the next, with names.
pub const EASINGS: [(&str, Easing); 4] =
    [("linear", Easing::Linear), ("in", Easing::In), ("out", Easing::Out), ("in-out", Easing::InOut)];

/// An effect of every kind, with default values.
pub(super) fn zone_kinds<V: Geometry>() -> [Effect<V>; 12] {
    [
        Effect::Ladder { front: V::ZERO },
        Effect::Wind { push: V::ZERO },
        Effect::Slow { pace: 0.5 },
        Effect::Weight { factor: 0.5 },
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
