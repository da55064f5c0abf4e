//! Level files.
//!
//! ```toml
//! title = "First roofs"
//! dimensions = 2                  # or 3
//!
//! [surfaces.slate]
//! traction = 0.9
//! sound = "slate"
//!
//! [carriers.barge]
//! path = [{ time = 0, offset = [0, 0] }, { time = 4, offset = [6, 0] }]
//! end = "back-and-forth"          # or "loop", "stop"
//!
//! [[piece]]
//! block = [[0, 0], [6, 4]]        # or polygon, segment, ball, solid, facet
//! turn_deg = 20                   # in 3D [x, y, z]
//! surface = "slate"
//!
//! [[zone]]
//! box = [[2, 0], [2.6, 5]]
//! kind = "ladder"                 # or wind, slow, hazard, goal, …
//! ```

use std::path::Path;

use rasant::glam::{EulerRot, Quat, Vec2, Vec3};
use rasant::level::{Effects, HeightGrid, PieceError, Sides};
use rasant::{Carrier, Effect, Geometry, Keyframe, Level, Piece, Surface, Zone};

use crate::entry::{Entry, Fields};
use crate::geometry::{Asked, add_flat, add_spatial, around};
use crate::making::{LeftOut, Look, Making, Names, PATH_ENDS, found, zone_names};
use crate::table::{Table, Value, parse};
use crate::tiles::add_tiles;
use crate::{Files, Problem, Source};

/// A level of either dimension.
#[derive(Clone, Debug)]
pub enum World {
    /// Two dimensions.
    Plane(LevelFile<Vec2>),
    /// Three dimensions.
    Space(LevelFile<Vec3>),
}

/// A level with what its file says beside the geometry.
#[derive(Clone, Debug)]
pub struct LevelFile<V> {
    /// What it is called.
    pub title: String,
    /// The geometry.
    pub level: Level<V>,
    /// How each surface is drawn and sounds, by [`rasant::SurfaceId`].
    pub looks: Vec<Look>,
    /// What each zone is called, by [`rasant::ZoneId`].
    pub zones: Vec<String>,
    /// What each carrier is called, by [`rasant::CarrierId`].
    pub carriers: Vec<String>,
    /// What each layer is called, by its number; the first is `ground`.
    pub layers: Vec<String>,
    /// Where a body begins, if the level says so: the middle of the underside.
    pub start: Option<V>,
    /// What files of geometry had in them that the level has not, and how often.
    pub left_out: LeftOut,
}

/// Reads a level file.
///
/// # Errors
/// A [`Problem`] with the file, or with any key or value in it.
pub fn read_level(files: &dyn Files, path: &Path) -> Result<World, Problem> {
    level_from(&level_source(files, path)?, files, path)
}

/// The text of a level file. A file of geometry alone is a level of nothing else.
pub fn level_source(files: &dyn Files, path: &Path) -> Result<Source, Problem> {
    let text = match around(path) {
        Some(text) => text,
        None => files.read(path)?,
    };
    Ok(Source { name: path.display().to_string().into(), text: text.into() })
}

/// A level from its file's text; the files that it names are beside `path`.
pub fn level_from(source: &Source, files: &dyn Files, path: &Path) -> Result<World, Problem> {
    parse(source, |mut table| {
        let dimensions = match table.get("dimensions") {
            Some(value) => (value, value.number()?),
            None => return Ok(World::Plane(level_of(table, files, path)?)),
        };
        match dimensions {
            (_, 2.0) => Ok(World::Plane(level_of(table, files, path)?)),
            (_, 3.0) => Ok(World::Space(level_of(table, files, path)?)),
            (value, other) => Err(value.problem(format!("found {other}")).expecting("2 or 3")),
        }
    })
}

/// Pieces that only one dimension has.
trait Pieces: Geometry {
    /// Reads the shape of a piece under its own key; nothing if it has none of
    /// the dimension's.
    fn own_shape(table: &mut Table<'_>) -> Result<Option<Piece<Self>>, Problem>;
    /// A box turned about its middle as `turn` says.
    fn turned_box(centre: Self, half: Self, turn: Value<'_>) -> Result<Piece<Self>, Problem>;
    /// The keys of [`Self::own_shape`] and those of both dimensions.
    const SHAPES: &'static str;
    /// Reads meshes and height grids, or tiles.
    fn meshes(table: &mut Table<'_>, making: &mut Making<Self>) -> Result<(), Problem>;
    /// Reads a file of geometry.
    fn geometry(asked: &Asked<'_, Self>, making: &mut Making<Self>) -> Result<(), Problem>;
}

impl Pieces for Vec2 {
    const SHAPES: &'static str = "a shape: `block`, `ball`, `polygon` or `segment`";

    fn own_shape(table: &mut Table<'_>) -> Result<Option<Piece<Vec2>>, Problem> {
        if let Some(value) = table.get("polygon") {
            return made(value, Piece::polygon(&value.vectors()?)).map(Some);
        }
        let sides = [("both", Sides::Both), ("left", Sides::Left)];
        let sides = table.get("sides").map(|value| value.choice(&sides)).transpose()?;
        let Some(value) = table.get("segment") else { return Ok(None) };
        let [from, to] = two(value)?;
        made(value, Piece::segment(from, to, sides.unwrap_or_default())).map(Some)
    }

    fn turned_box(centre: Vec2, half: Vec2, turn: Value<'_>) -> Result<Piece<Vec2>, Problem> {
        let angle = turn.number_in(-360.0..=360.0, "°")?.to_radians();
        made(turn, Piece::turned_rectangle(centre, half, angle))
    }

    fn meshes(table: &mut Table<'_>, making: &mut Making<Vec2>) -> Result<(), Problem> {
        let tiles = table.tables("tiles")?;
        tiles.into_iter().try_for_each(|tiles| add_tiles(tiles, &making.names, &mut making.builder))
    }

    fn geometry(asked: &Asked<'_, Vec2>, making: &mut Making<Vec2>) -> Result<(), Problem> {
        add_flat(asked, making)
    }
}

impl Pieces for Vec3 {
    const SHAPES: &'static str = "a shape: `block`, `ball`, `solid` or `facet`";

    fn own_shape(table: &mut Table<'_>) -> Result<Option<Piece<Vec3>>, Problem> {
        if let Some(value) = table.get("solid") {
            return made(value, Piece::solid(&value.vectors()?)).map(Some);
        }
        let Some(value) = table.get("facet") else { return Ok(None) };
        made(value, Piece::facet(&value.vectors()?)).map(Some)
    }

    fn turned_box(centre: Vec3, half: Vec3, turn: Value<'_>) -> Result<Piece<Vec3>, Problem> {
        let [x, y, z] = turn.vector::<Vec3>()?.to_array().map(f32::to_radians);
        let turned = Piece::turned_box(centre, half, Quat::from_euler(EulerRot::YXZ, y, x, z));
        made(turn, turned)
    }

    fn geometry(asked: &Asked<'_, Vec3>, making: &mut Making<Vec3>) -> Result<(), Problem> {
        add_spatial(asked, making)
    }

    fn meshes(table: &mut Table<'_>, making: &mut Making<Vec3>) -> Result<(), Problem> {
        let Making { names, builder, .. } = making;
        for mut mesh in table.tables("mesh")? {
            let vertices: Vec<Vec3> = mesh.need("vertices", "a list of points")?.vectors()?;
            let triangles = mesh.need("triangles", "a list of three vertex numbers each")?;
            let corners = triangles
                .items()?
                .into_iter()
                .map(|value| {
                    let last = vertices.len().saturating_sub(1) as u32;
                    let numbers = value.items()?.into_iter().map(|number| number.whole_in(0..=last, ""));
                    let numbers = numbers.collect::<Result<Vec<u32>, _>>()?;
                    <[u32; 3]>::try_from(numbers).map_err(|numbers| {
                        value
                            .problem(format!("found {} numbers", numbers.len()))
                            .expecting("three vertex numbers")
                    })
                })
                .collect::<Result<Vec<_>, Problem>>()?;
            let (surface, layers) = names.surface_and_layers(&mut mesh)?;
            builder
                .add_mesh(&vertices, &corners, surface, layers)
                .map_err(|error| triangles.problem(error.to_string()))?;
            mesh.finish()?;
        }
        for mut grid in table.tables("heights")? {
            let heights = grid.need("heights", "a list of heights in metres")?;
            let read = HeightGrid {
                corner: grid.need("corner", "the point of the first height")?.vector()?,
                spacing: grid.need("spacing", "the distances along x and z")?.vector()?,
                columns: grid.need("columns", "how many heights a row has")?.whole_in(2..=65_536, "")?
                    as usize,
                heights: heights.items()?.into_iter().map(Value::number).collect::<Result<_, _>>()?,
            };
            let (surface, layers) = names.surface_and_layers(&mut grid)?;
            builder
                .add_heights(&read, surface, layers)
                .map_err(|error| heights.problem(error.to_string()))?;
            grid.finish()?;
        }
        Ok(())
    }
}

fn level_of<V: Pieces>(
    mut table: Table<'_>,
    files: &dyn Files,
    path: &Path,
) -> Result<LevelFile<V>, Problem> {
    let title = table.get("title").map(Value::line).transpose()?.map(str::to_owned);
    let mut making = Making::<V>::new(layers_of(&mut table)?);
    if let Some(mut surfaces) = table.table("surfaces")? {
        for (name, value) in surfaces.rest() {
            let (surface, look) = surface_of(name, value)?;
            making.surface(surface, look);
        }
    }
    if let Some(mut carriers) = table.table("carriers")? {
        for (name, value) in carriers.rest() {
            let carrier = carrier_of(value.table(format!("carriers.{name}"))?)?;
            making.carrier(name, carrier);
        }
    }
    if let Some(value) = table.get("start") {
        making.start = Some(value.vector()?);
    }
    for piece in table.tables("piece")? {
        let piece = piece_of(piece, &making.names)?;
        making.builder.add(piece);
    }
    V::meshes(&mut table, &mut making)?;
    for geometry in table.tables("geometry")? {
        V::geometry(&Asked::of(geometry, &making.names, files, path)?, &mut making)?;
    }
    for zone in table.tables("zone")? {
        let (zone, name) = zone_of(zone, &making.names)?;
        making.zone(zone, name);
    }
    let Making { builder, names, looks, zones, start, left_out, title: drawn } = making;
    let level = builder.build().map_err(|error| table.problem(error.to_string()))?;
    if level.is_empty() {
        return Err(table
            .problem("the level has no pieces: there is nothing to stand on")
            .expecting("at least one [[piece]], or a file of [[geometry]] with some"));
    }
    table.finish()?;
    let title = title.or(drawn).unwrap_or_else(|| "untitled".to_owned());
    let Names { carrier_order: carriers, layers, .. } = names;
    Ok(LevelFile { title, level, looks, zones, carriers, layers, start, left_out })
}

fn layers_of(table: &mut Table<'_>) -> Result<Vec<String>, Problem> {
    let mut layers = vec!["ground".to_owned()];
    if let Some(value) = table.get("layers") {
        for item in value.items()? {
            layers.push(item.text()?.to_owned());
        }
        if layers.len() > 32 {
            return Err(value.problem(format!("found {} layers", layers.len() - 1)).expecting("at most 31"));
        }
    }
    Ok(layers)
}

fn surface_of<V: Geometry>(name: &str, value: Value<'_>) -> Result<(Surface<V>, Look), Problem> {
    let mut table = value.table(format!("surfaces.{name}"))?;
    let mut surface = Surface::<V>::default();
    let mut factor = |key: &str, slot: &mut f32, least: f32, most: f32| -> Result<(), Problem> {
        if let Some(value) = table.get(key) {
            *slot = value.number_in(least..=most, "")?;
        }
        Ok(())
    };
    factor("traction", &mut surface.traction, 0.001, 100.0)?;
    factor("pace", &mut surface.pace, 0.0, 100.0)?;
    factor("bounce", &mut surface.bounce, 0.0, 1.0)?;
    factor("grip", &mut surface.grip, 0.0, 100.0)?;
    if let Some(value) = table.get("drift") {
        surface.drift = value.vector()?;
    }
    let sound = table.get("sound").map(Value::text).transpose()?.unwrap_or(name).to_owned();
    table.finish()?;
    Ok((surface, Look { name: name.to_owned(), sound }))
}

fn carrier_of<V: Geometry>(mut table: Table<'_>) -> Result<Carrier<V>, Problem> {
    let end = table.get("end").map(|value| value.choice(&PATH_ENDS)).transpose()?;
    let value = table.need("path", "a list of keyframes: { time, offset, turn_deg }")?;
    let mut path: Vec<Keyframe<V>> = Vec::new();
    for item in value.items()? {
        let mut key = item.table("path".to_owned())?;
        let time = key.need("time", "seconds from the start of the path")?;
        let seconds = time.number_in(0.0..=1e6, "s")?;
        if path.last().is_some_and(|last| seconds <= last.time) {
            return Err(time
                .problem(format!("found {seconds} s"))
                .expecting("a later time than the keyframe before"));
        }
        path.push(Keyframe {
            time: seconds,
            offset: key.get("offset").map(Value::vector).transpose()?.unwrap_or(V::ZERO),
            turn: key.get("turn_deg").map(Value::number).transpose()?.unwrap_or(0.0).to_radians(),
        });
        key.finish()?;
    }
    if path.is_empty() {
        return Err(value.problem("found no keyframe").expecting("at least one"));
    }
    table.finish()?;
    Ok(Carrier::on_path(path, end.unwrap_or_default()))
}

fn piece_of<V: Pieces>(mut table: Table<'_>, names: &Names) -> Result<Piece<V>, Problem> {
    let shape = if let Some(value) = table.get("block") {
        let [min, max]: [V; 2] = two(value)?;
        let block = made(value, Piece::block(min, max))?;
        match table.get("turn_deg") {
            Some(turn) => Some(V::turned_box((min + max) * 0.5, (max - min) * 0.5, turn)?),
            None => Some(block),
        }
    } else if let Some(value) = table.get("ball") {
        let mut ball = value.table("piece.ball".to_owned())?;
        let centre = ball.need("centre", "a point")?.vector()?;
        let radius = ball.need("radius", "a length in metres")?.number()?;
        ball.finish()?;
        Some(made(value, Piece::ball(centre, radius))?)
    } else {
        V::own_shape(&mut table)?
    };
    let Some(mut piece) = shape else {
        return Err(table.problem("the piece has no shape").expecting(V::SHAPES));
    };
    (piece.surface, piece.layers) = names.surface_and_layers(&mut table)?;
    piece.one_way = table.get("one_way").map(Value::flag).transpose()?.unwrap_or(false);
    if let Some(value) = table.get("carrier") {
        piece.carrier = Some(found(&names.carriers, value, "carrier")?);
    }
    if let Some(value) = table.get("name") {
        value.text()?;
    }
    table.finish()?;
    Ok(piece)
}

/// The kinds of zone that a file of a level can have, each with what else it says, as it
/// may be at first.
#[must_use]
pub fn zone_fields<V: Geometry>() -> Vec<(&'static str, Fields)> {
    let point = |of: V| {
        let parts = of.to_array().into_iter().take(V::DIMENSION);
        Entry::List(parts.map(|part| Entry::Number(part.into())).collect())
    };
    let fields = |kind: Effect<V>| match kind {
        Effect::Wind { .. } => Some(("push", point(V::UP * 15.0))),
        Effect::Slow { pace } => Some(("pace", Entry::Number(pace.into()))),
        Effect::Gravity { up } => Some(("up", point(up))),
        Effect::Own(number) => Some(("number", Entry::Number(number.into()))),
        // What files do not know yet.
        _ => None,
    };
    let named = |(name, kind): (&'static str, Effect<V>)| {
        let told = if name == kind.name() { fields(kind) } else { None };
        (name, told.map(|(key, value)| (key.to_owned(), value)).into_iter().collect())
    };
    zone_names::<V>().into_iter().map(named).collect()
}

fn zone_of<V: Pieces>(mut table: Table<'_>, names: &Names) -> Result<(Zone<V>, String), Problem> {
    let value = table.need("box", "two opposite corners")?;
    let [corner, opposite]: [V; 2] = two(value)?;
    let kinds = zone_names::<V>();
    let mut effects: Vec<Effect<V>> = Vec::new();
    let several = table.get("effects");
    for value in several.map(Value::items).transpose()?.unwrap_or_default() {
        effects.push(effect_of(value, &kinds, &mut table, names)?);
    }
    if several.is_none() {
        let value = table.need("kind", "what the zone is, as \"ladder\"")?;
        effects.push(effect_of(value, &kinds, &mut table, names)?);
    }
    let first = effects.first().map_or("zone", Effect::name);
    let name = table.get("name").map(Value::text).transpose()?.unwrap_or(first).to_owned();
    let Some(effects) = Effects::of(&effects) else {
        let found = format!("found {} effects", effects.len());
        return Err(table.problem(found).expecting(format!("at most {}", Effects::<V>::MOST)));
    };
    let mut zone = Zone::new(corner, opposite, effects);
    if let Some(value) = table.get("carrier") {
        zone = zone.riding(found(&names.carriers, value, "carrier")?);
    }
    table.finish()?;
    Ok((zone, name))
}

/// An effect with what else the zone's table says of it.
fn effect_of<V: Pieces>(
    named: Value<'_>,
    kinds: &[(&str, Effect<V>)],
    table: &mut Table<'_>,
    names: &Names,
) -> Result<Effect<V>, Problem> {
    let mut effect = named.choice(kinds)?;
    match &mut effect {
        Effect::Ladder { front } => {
            if let Some(value) = table.get("front") {
                *front = value.vector()?;
            }
        }
        Effect::Floor { surface } => {
            if let Some(value) = table.get("surface") {
                *surface = found(&names.surfaces, value, "surface")?;
            }
        }
        Effect::Wind { push } => *push = table.need("push", "an acceleration in m/s²")?.vector()?,
        Effect::Checkpoint => {
            if let Some(value) = table.get("place") {
                effect = Effect::CheckpointAt { place: value.vector()? };
            }
        }
        Effect::Slow { pace } => *pace = table.need("pace", "a factor")?.number_in(0.0..=10.0, "")?,
        Effect::Gravity { up } => {
            let value = table.need("up", "a direction")?;
            *up = value.vector()?;
            if up.direction().is_none() {
                return Err(value.problem("found no direction").expecting("a vector that is not zero"));
            }
        }
        Effect::Own(number) if named.text()? == "own" => {
            *number = table.need("number", "the game's own number")?.whole_in(0..=65_535, "")? as u16;
        }
        // The others are no more than their name.
        _ => {}
    }
    Ok(effect)
}

fn two<V: Geometry>(value: Value<'_>) -> Result<[V; 2], Problem> {
    let points: Vec<V> = value.vectors()?;
    <[V; 2]>::try_from(points)
        .map_err(|points| value.problem(format!("found {} points", points.len())).expecting("two points"))
}

fn made<T>(value: Value<'_>, made: Result<T, PieceError>) -> Result<T, Problem> {
    made.map_err(|error| value.problem(error.to_string()))
}
