//! Level files.
//!
//! ```toml
//! title = "First roofs"
//! dimensions = 2                  # or 3
//! up = "y"                        # the axis that points up, or "-y", "z", "-z"
//! scale = 1                       # units of length per metre, as 32 for numbers in pixels
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
//! block = [[0, 0], [6, 4]]        # or polygon, segment, ball, capsule, solid, facet, cylinder
//! turn_deg = 20                   # in 3D [x, y, z]
//! rounding = 0.2
//! surface = "slate"
//!
//! [[zone]]
//! box = [[2, 0], [2.6, 5]]
//! kind = "ladder"                 # or wind, slow, hazard, goal, …
//! ```
//!
//! Doors, switches and crumbling floors: see [`Mechanisms`].

use std::path::Path;
use std::sync::Arc;

use rasant::glam::{EulerRot, Quat, Vec2, Vec3};
use rasant::level::{Effects, HeightGrid, MeshShape, PieceError, Placement, Sides};
use rasant::{
    Carrier, CarrierId, Effect, Geometry, Keyframe, Layers, Level, PathEnd, Piece, PieceId, Surface,
    SurfaceId, Zone, ZoneId,
};

use crate::assembly::{Assembly, EASINGS, LeftOut, Look, Names, PATH_ENDS, found};
use crate::axes::{UpAxis, scale_of};
use crate::entry::{Entry, Fields};
use crate::geometry::{Import, add_flat, add_spatial, around};
use crate::mechanisms::{Crumble, Deed, Mechanisms, Switch};
use crate::table::{Table, Value, parse};
use crate::tiles::add_tiles;
use crate::{Files, Game, Problem, Source};

/// A level of either dimension.
#[derive(Clone, Debug)]
pub enum World {
    /// Two dimensions.
    Plane(LevelFile<Vec2>),
    /// Three dimensions.
    Space(LevelFile<Vec3>),
}

/// A level with its names and other contents of its file.
#[derive(Clone, Debug)]
pub struct LevelFile<V> {
    /// The title.
    pub title: String,
    /// The geometry.
    pub level: Level<V>,
    /// The name and sound of each surface, by [`rasant::SurfaceId`].
    pub looks: Vec<Look>,
    /// The name of each zone, by [`rasant::ZoneId`].
    pub zones: Vec<String>,
    /// The name of each carrier, by [`rasant::CarrierId`].
    pub carriers: Vec<String>,
    /// The name of each layer, by its number. The first is `ground`.
    pub layers: Vec<String>,
    /// The named pieces, zones and carriers, and what happens to them while the level is played.
    pub mechanisms: Mechanisms<V>,
    /// Where a body starts, if the file says so: the middle of the underside.
    pub start: Option<V>,
    /// The axis that points up, if the file says so. Positions are as the file has them: see
    /// [`up`](Self::up).
    pub up: Option<UpAxis>,
    /// Units of length per metre, if the file says so. Lengths are as the file has them: see
    /// [`scale`](Self::scale).
    pub scale: Option<f32>,
    /// What files of geometry contained that the level does not, with counts.
    pub left_out: LeftOut,
    /// The pieces of the `[[piece]]` tables, in their order.
    pub(crate) part_ids: Arc<Vec<PieceId>>,
}

impl<V> LevelFile<V> {
    /// The ids of the pieces of the `[[piece]]` tables, in their order.
    #[must_use]
    pub fn part_ids(&self) -> &[PieceId] {
        &self.part_ids
    }
}

/// Reads a level file.
///
/// # Errors
/// A [`Problem`] with the file, or with any key or value in it.
pub fn read_level(files: &dyn Files, path: &Path) -> Result<World, Problem> {
    level_from(&level_source(files, path)?, files, path)
}

/// The text of a level file. A file of geometry alone becomes the text of a level with only that
/// file.
pub fn level_source(files: &dyn Files, path: &Path) -> Result<Source, Problem> {
    let text = match around(path) {
        Some(text) => text,
        None => files.read(path)?,
    };
    Ok(Source { name: path.display().to_string().into(), text: text.into() })
}

/// Reads a level from the text of its file. The files that it refers to are relative to `path`.
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

/// Reading of what only one dimension has.
pub(crate) trait Pieces: Geometry {
    /// Reads the shape of a piece under its own key. `None` if it has none of this dimension's
    /// keys.
    fn own_shape(table: &mut Table<'_>, up: UpAxis) -> Result<Option<Piece<Self>>, Problem>;
    /// A box rotated about its centre by `turn`.
    fn turned_box(centre: Self, half: Self, turn: Value<'_>, up: UpAxis) -> Result<Piece<Self>, Problem>;
    /// The keys of [`Self::own_shape`] and those of both dimensions, for messages.
    const SHAPES: &'static str;
    /// Reads meshes and height grids, or tiles.
    fn meshes<'a>(
        table: &mut Table<'a>,
        assembly: &mut Assembly<Self>,
        switches: &mut Switches<'a>,
    ) -> Result<(), Problem>;
    /// Reads a file of geometry.
    fn geometry(import: &Import<'_, Self>, assembly: &mut Assembly<Self>) -> Result<(), Problem>;
}

impl Pieces for Vec2 {
    const SHAPES: &'static str = "a shape: `block`, `ball`, `capsule`, `polygon` or `segment`";

    fn own_shape(table: &mut Table<'_>, up: UpAxis) -> Result<Option<Piece<Vec2>>, Problem> {
        if let Some(value) = table.get("polygon") {
            return made(value, Piece::polygon(&value.vectors()?)).map(Some);
        }
        let sides = [("both", Sides::Both), ("left", Sides::Left)];
        let sides = table.get("sides").map(|value| value.choice(&sides)).transpose()?;
        let Some(value) = table.get("segment") else { return Ok(None) };
        let [mut from, mut to] = two(value)?;
        // Left is as it is seen, with up at the top.
        if up == UpAxis::MinusY && sides == Some(Sides::Left) {
            (from, to) = (to, from);
        }
        made(value, Piece::segment(from, to, sides.unwrap_or_default())).map(Some)
    }

    fn turned_box(centre: Vec2, half: Vec2, turn: Value<'_>, _up: UpAxis) -> Result<Piece<Vec2>, Problem> {
        let angle = turn.number_in(-360.0..=360.0, "°")?.to_radians();
        made(turn, Piece::turned_rectangle(centre, half, angle))
    }

    fn meshes<'a>(
        table: &mut Table<'a>,
        assembly: &mut Assembly<Vec2>,
        switches: &mut Switches<'a>,
    ) -> Result<(), Problem> {
        let tiles = table.tables("tiles")?;
        tiles.into_iter().try_for_each(|tiles| add_tiles(tiles, assembly, switches))
    }

    fn geometry(import: &Import<'_, Vec2>, assembly: &mut Assembly<Vec2>) -> Result<(), Problem> {
        add_flat(import, assembly)
    }
}

impl Pieces for Vec3 {
    const SHAPES: &'static str = "a shape: `block`, `ball`, `capsule`, `cylinder`, `solid` or `facet`";

    fn own_shape(table: &mut Table<'_>, _up: UpAxis) -> Result<Option<Piece<Vec3>>, Problem> {
        if let Some(value) = table.get("solid") {
            return made(value, Piece::solid(&value.vectors()?)).map(Some);
        }
        if let Some(value) = table.get("cylinder") {
            let (from, to, radius) = rod(value, "cylinder")?;
            return made(value, Piece::cylinder(from, to, radius)).map(Some);
        }
        let Some(value) = table.get("facet") else { return Ok(None) };
        made(value, Piece::facet(&value.vectors()?)).map(Some)
    }

    fn turned_box(centre: Vec3, half: Vec3, turn: Value<'_>, up: UpAxis) -> Result<Piece<Vec3>, Problem> {
        let [x, y, z] = turn.vector::<Vec3>()?.to_array().map(f32::to_radians);
        // About up last.
        let turned = match up {
            UpAxis::Y | UpAxis::MinusY => Quat::from_euler(EulerRot::YXZ, y, x, z),
            UpAxis::Z | UpAxis::MinusZ => Quat::from_euler(EulerRot::ZXY, z, x, y),
        };
        made(turn, Piece::turned_box(centre, half, turned))
    }

    fn geometry(import: &Import<'_, Vec3>, assembly: &mut Assembly<Vec3>) -> Result<(), Problem> {
        add_spatial(import, assembly)
    }

    fn meshes<'a>(
        table: &mut Table<'a>,
        assembly: &mut Assembly<Vec3>,
        _switches: &mut Switches<'a>,
    ) -> Result<(), Problem> {
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
            let surfaces = match mesh.get("surfaces") {
                Some(list) => own_surfaces(list, corners.len(), &assembly.names)?,
                None => vec![None; corners.len()],
            };
            let shape = MeshShape::with_surfaces(&vertices, &corners, &surfaces);
            let shape = shape.map_err(|error| triangles.problem(error.to_string()))?;
            add_piece(Piece::mesh(shape), mesh, assembly)?;
        }
        for mut grid in table.tables("heights")? {
            let heights = grid.need("heights", "a list of heights above the corner")?;
            let read = HeightGrid {
                corner: grid.need("corner", "the point of the first height")?.vector()?,
                spacing: grid.need("spacing", "the distances between columns and between rows")?.vector()?,
                columns: grid.need("columns", "the number of heights in a row")?.whole_in(2..=65_536, "")?
                    as usize,
                heights: heights.items()?.into_iter().map(Value::number).collect::<Result<_, _>>()?,
            };
            let shape = read
                .shape_along(assembly.up.direction())
                .map_err(|error| heights.problem(error.to_string()))?;
            add_piece(Piece::mesh(shape), grid, assembly)?;
        }
        Ok(())
    }
}

/// The surfaces of the triangles of a mesh: a name for each, or `""` for that of the mesh.
fn own_surfaces(list: Value<'_>, triangles: usize, names: &Names) -> Result<Vec<Option<SurfaceId>>, Problem> {
    let items = list.items()?;
    if items.len() != triangles {
        return Err(list
            .problem(format!("found {} surfaces", items.len()))
            .expecting(format!("one for each of {triangles} triangles, \"\" for that of the mesh")));
    }
    let of = |value: Value<'_>| match value.text()? {
        "" => Ok(None),
        _ => found(&names.surfaces, value, "surface").map(Some),
    };
    items.into_iter().map(of).collect()
}

fn level_of<V: Pieces>(
    mut table: Table<'_>,
    files: &dyn Files,
    path: &Path,
) -> Result<LevelFile<V>, Problem> {
    let title = table.get("title").map(Value::line).transpose()?.map(str::to_owned);
    let up = UpAxis::read(&mut table, V::DIMENSION)?;
    let scale = scale_of(&mut table)?;
    let axes = (up.unwrap_or_default(), scale.unwrap_or(1.0));
    let mut assembly = Assembly::<V>::new(layers_of(&mut table)?, axes, files.game());
    if let Some(mut surfaces) = table.table("surfaces")? {
        for (name, value) in surfaces.rest() {
            let (surface, look) = surface_of(name, value)?;
            assembly.surface(surface, look);
        }
    }
    if let Some(mut carriers) = table.table("carriers")? {
        add_carriers(carriers.rest(), &mut assembly)?;
    }
    let own_start = table.get("start").map(|value| value.vector()).transpose()?;
    let mut part_ids = Vec::new();
    for mut piece in table.tables("piece")? {
        let shape = shape_of::<V>(&mut piece, assembly.up)?;
        let common = Common::of(&mut piece, &assembly.names)?;
        part_ids.push(common.add(shape, &mut assembly));
        piece.finish()?;
    }
    let mut switches = Vec::new();
    V::meshes(&mut table, &mut assembly, &mut switches)?;
    for geometry in table.tables("geometry")? {
        V::geometry(&Import::of(geometry, &assembly, files, path)?, &mut assembly)?;
    }
    let kinds = assembly.game.zone_kinds::<V>();
    for mut zone in table.tables("zone")? {
        let value = zone.need("box", "two opposite corners")?;
        let [corner, opposite]: [V; 2] = two(value)?;
        let read = zone_of(&mut zone, &assembly.names, &kinds)?;
        zone.finish()?;
        read.add(corner, opposite, &mut assembly, &mut switches);
    }
    let Assembly { builder, names, looks, zones, start: included, left_out, title: drawn, mut plan, .. } =
        assembly;
    plan.switches = switches.iter().map(|(_, switch)| switch.clone()).collect();
    let mechanisms = Mechanisms::new(plan);
    for (value, Switch { deed, target, .. }) in switches {
        if !mechanisms.can(deed, &target) {
            let message = format!("there is no piece, zone or door \"{target}\"");
            let names: Vec<&str> = mechanisms.names().collect();
            return Err(value.unknown(&message, &target, names.iter().copied()));
        }
    }
    let level = builder.build().map_err(|error| table.problem(error.to_string()))?;
    if level.is_empty() {
        return Err(table
            .problem("the level has no pieces: there is nothing to stand on")
            .expecting("at least one [[piece]], or a file of [[geometry]] with some"));
    }
    table.finish()?;
    let title = title.or(drawn).unwrap_or_else(|| "untitled".to_owned());
    let Names { carrier_order: carriers, layers, .. } = names;
    let part_ids = Arc::new(part_ids);
    // The file's own start counts more than one of a drawing, a model or a map.
    let start = own_start.or(included);
    Ok(LevelFile {
        title,
        level,
        looks,
        zones,
        carriers,
        layers,
        mechanisms,
        start,
        up,
        scale,
        left_out,
        part_ids,
    })
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

/// Adds the carriers of a file: those that ride on another one after that one.
fn add_carriers<V: Geometry>(
    mut all: Vec<(&str, Value<'_>)>,
    assembly: &mut Assembly<V>,
) -> Result<(), Problem> {
    while !all.is_empty() {
        let before = all.len();
        let mut waiting = Vec::new();
        for (name, value) in all {
            let mut table = value.table(format!("carriers.{name}"))?;
            let parent = table.get("on");
            let known = match parent {
                Some(on) => assembly.names.carriers.get(on.text()?).copied().map(Some),
                None => Some(None),
            };
            match known {
                Some(parent) => add_carrier(name, table, parent, assembly)?,
                None => waiting.push((name, value)),
            }
        }
        if waiting.len() == before
            && let Some((name, value)) = waiting.first()
        {
            let mut table = value.table(format!("carriers.{name}"))?;
            let on = table.need("on", "the name of a carrier")?;
            let names = waiting
                .iter()
                .map(|(name, _)| *name)
                .chain(assembly.names.carriers.keys().map(String::as_str));
            let other = on.text()?;
            let rides = waiting.iter().any(|(waiting, _)| *waiting == other);
            return Err(if rides {
                on.problem(format!("carrier \"{name}\" rides on itself, through \"{other}\""))
                    .expecting("carriers that lead to one that rides on none")
            } else {
                on.unknown(&format!("there is no carrier \"{other}\""), other, names)
            });
        }
        all = waiting;
    }
    Ok(())
}

fn add_carrier<V: Geometry>(
    name: &str,
    mut table: Table<'_>,
    parent: Option<CarrierId>,
    assembly: &mut Assembly<V>,
) -> Result<(), Problem> {
    for (key, is_pushed) in [("door", false), ("pushed", true)] {
        if let Some(value) = table.get(key) {
            let path = Carrier::on_path(path_of(value, assembly.up)?, PathEnd::Stop);
            assembly.door(name, path, parent, is_pushed);
            return table.finish();
        }
    }
    let end = table.get("end").map(|value| value.choice(&PATH_ENDS)).transpose()?;
    let value = table.need("path", "a list of keyframes, { time, offset, turn_deg }, or \"host\"")?;
    let carrier = if value.text().is_ok_and(|text| text == "host") {
        Carrier::set_by_host().starting_at(Placement::default())
    } else {
        Carrier::on_path(path_of(value, assembly.up)?, end.unwrap_or_default())
    };
    assembly.carrier(name, parent.map_or(carrier.clone(), |parent| carrier.riding(parent)));
    table.finish()
}

/// Reads the keyframes of a path.
fn path_of<V: Geometry>(value: Value<'_>, up: UpAxis) -> Result<Vec<Keyframe<V>>, Problem> {
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
        let offset = key.get("offset").map(Value::vector).transpose()?.unwrap_or(V::ZERO);
        let turn = key.get("turn_deg").map(Value::number).transpose()?.unwrap_or(0.0).to_radians();
        let mut frame = Keyframe::new(seconds, offset).turned_about(up.direction(), turn);
        if V::DIMENSION == 3
            && let Some(axis) = key.get("axis")
        {
            let along: V = axis.vector()?;
            if along.direction().is_none() {
                return Err(axis.problem("found no direction").expecting("a vector that is not zero"));
            }
            frame = frame.turned_about(along, turn);
        }
        if let Some(ease) = key.get("ease") {
            frame = frame.eased(ease.choice(&EASINGS)?);
        }
        path.push(frame);
        key.finish()?;
    }
    if path.is_empty() {
        return Err(value.problem("found no keyframe").expecting("at least one"));
    }
    Ok(path)
}

/// Reads the shape of a piece.
fn shape_of<V: Pieces>(table: &mut Table<'_>, up: UpAxis) -> Result<Piece<V>, Problem> {
    let shape = if let Some(value) = table.get("block") {
        Some(block_of(value, table, up)?)
    } else if let Some(value) = table.get("ball") {
        let mut ball = value.table("piece.ball".to_owned())?;
        let centre = ball.need("centre", "a point")?.vector()?;
        let radius = ball.need("radius", "a length")?.number()?;
        ball.finish()?;
        Some(made(value, Piece::ball(centre, radius))?)
    } else if let Some(value) = table.get("capsule") {
        let (from, to, radius) = rod(value, "capsule")?;
        Some(made(value, Piece::capsule(from, to, radius))?)
    } else {
        V::own_shape(table, up)?
    };
    let Some(piece) = shape else {
        return Err(table.problem("the piece has no shape").expecting(V::SHAPES));
    };
    match table.get("grow") {
        Some(value) => made(value, piece.grown(value.number()?)),
        None => Ok(piece),
    }
}

/// A box, rotated or with round edges.
fn block_of<V: Pieces>(value: Value<'_>, table: &mut Table<'_>, up: UpAxis) -> Result<Piece<V>, Problem> {
    let [min, max]: [V; 2] = two(value)?;
    let block = made(value, Piece::block(min, max))?;
    let rounding = table.get("rounding");
    let radius = rounding.map(Value::number).transpose()?.unwrap_or(0.0);
    let block = match rounding {
        Some(value) => made(value, Piece::rounded_block(min, max, radius))?,
        None => block,
    };
    let Some(turn) = table.get("turn_deg") else { return Ok(block) };
    let half = (max - min) * 0.5 - V::splat(radius);
    made(turn, V::turned_box((min + max) * 0.5, half, turn, up)?.grown(radius))
}

/// The two ends and the radius of a capsule or cylinder.
fn rod<V: Geometry>(value: Value<'_>, kind: &str) -> Result<(V, V, f32), Problem> {
    let mut table = value.table(format!("piece.{kind}"))?;
    let from = table.need("from", "a point: one end of the axis")?.vector()?;
    let to = table.need("to", "a point: the other end of the axis")?.vector()?;
    let radius = table.need("radius", "a length")?.number()?;
    table.finish()?;
    Ok((from, to, radius))
}

/// The keys that all pieces have.
pub(crate) struct Common<'a> {
    surface: SurfaceId,
    layers: Layers,
    one_way: bool,
    carrier: Option<CarrierId>,
    name: Option<&'a str>,
    /// After how many seconds it crumbles, and returns.
    crumbles: Option<(f32, Option<f32>)>,
}

impl<'a> Common<'a> {
    pub fn of(table: &mut Table<'a>, names: &Names) -> Result<Self, Problem> {
        let (surface, layers) = names.surface_and_layers(table)?;
        let one_way = table.get("one_way").map(Value::flag).transpose()?.unwrap_or(false);
        let carrier =
            table.get("carrier").map(|value| found(&names.carriers, value, "carrier")).transpose()?;
        let name = table.get("name").map(Value::text).transpose()?;
        let mut crumbles = None;
        if let Some(value) = table.get("crumbles") {
            let mut keys = value.table("crumbles".to_owned())?;
            let after = keys.need("after", "seconds from the first step on it")?.number_in(0.0..=1e5, "s")?;
            let back = keys.get("back").map(|value| value.number_in(0.0..=1e5, "s")).transpose()?;
            keys.finish()?;
            crumbles = Some((after, back));
        }
        Ok(Self { surface, layers, one_way, carrier, name, crumbles })
    }

    /// Adds a piece with these keys.
    pub fn add<V: Geometry>(&self, piece: Piece<V>, assembly: &mut Assembly<V>) -> PieceId {
        let id = assembly.piece(self.with(piece), self.name);
        let crumbles = self.crumbles.map(|(after, back)| Crumble { piece: id, after, back });
        assembly.plan.crumbles.extend(crumbles);
        id
    }

    /// A piece with these keys, without its name.
    fn with<V: Geometry>(&self, mut piece: Piece<V>) -> Piece<V> {
        let Self { surface, layers, one_way, carrier, .. } = *self;
        (piece.surface, piece.layers, piece.carrier) = (surface, layers, carrier);
        piece.one_way |= one_way;
        piece
    }
}

/// Reads a file that is one `[[piece]]` of another file. `None` if it has a name or crumbles, so that
/// it is more than a piece.
pub(crate) fn piece_alone<V: Pieces>(
    mut table: Table<'_>,
    file: &LevelFile<V>,
) -> Result<Option<Piece<V>>, Problem> {
    let numbered = |names: &[String]| names.iter().cloned().zip(0..).collect::<Vec<(String, u16)>>();
    let names = Names {
        surfaces: numbered(&file.looks.iter().map(|look| look.name.clone()).collect::<Vec<_>>())
            .into_iter()
            // The plain one has no name in files.
            .skip(1)
            .map(|(name, id)| (name, SurfaceId(id)))
            .collect(),
        carriers: numbered(&file.carriers).into_iter().map(|(name, id)| (name, CarrierId(id))).collect(),
        carrier_order: Vec::new(),
        layers: file.layers.clone(),
    };
    let mut piece = None;
    for mut one in table.tables("piece")? {
        let shape = shape_of::<V>(&mut one, file.up.unwrap_or_default())?;
        let common = Common::of(&mut one, &names)?;
        one.finish()?;
        let is_plain = common.name.is_none() && common.crumbles.is_none();
        piece = is_plain.then(|| common.with(shape));
    }
    table.finish()?;
    Ok(piece)
}

/// Adds a piece with the keys that all pieces have.
fn add_piece<V: Geometry>(
    piece: Piece<V>,
    mut table: Table<'_>,
    assembly: &mut Assembly<V>,
) -> Result<(), Problem> {
    Common::of(&mut table, &assembly.names)?.add(piece, assembly);
    table.finish()
}

/// The kinds of zone that a level file of the game can have, each with the other fields that the
/// kind needs and their initial values in this level.
#[must_use]
pub fn zone_fields<V: Geometry>(game: &Game, file: &LevelFile<V>) -> Vec<(&'static str, Fields)> {
    let point = |of: V| {
        let parts = of.to_array().into_iter().take(V::DIMENSION);
        Entry::List(parts.map(|part| Entry::Number(part.into())).collect())
    };
    let fields = |kind: Effect<V>| match kind {
        Effect::Wind { .. } => Some(("push", point(file.up() * (15.0 * file.scale())))),
        Effect::Slow { pace } => Some(("pace", Entry::Number(pace.into()))),
        Effect::Weight { factor } => Some(("factor", Entry::Number(factor.into()))),
        Effect::Gravity { .. } => Some(("up", point(file.up()))),
        Effect::Own(number) => Some(("number", Entry::Number(number.into()))),
        // Files cannot express this yet.
        _ => None,
    };
    let named = |(name, kind): (&'static str, Effect<V>)| {
        let more = if name == kind.name() { fields(kind) } else { None };
        (name, more.map(|(key, value)| (key.to_owned(), value)).into_iter().collect())
    };
    game.zone_kinds::<V>().into_iter().map(named).collect()
}

/// The kind of a zone that is a switch.
const SWITCH: &str = "switch";

/// What a switch does, with the value that names its target.
fn switch_of<'a>(table: &mut Table<'a>) -> Result<(Value<'a>, Switch), Problem> {
    let lasts = table.get("for").map(|value| value.number_in(0.0..=1e5, "s")).transpose()?;
    for (_, key, deed) in Deed::ALL {
        if let Some(value) = table.get(key) {
            let target = value.text()?.to_owned();
            return Ok((value, Switch { zone: ZoneId(0), deed, target, lasts }));
        }
    }
    Err(table
        .problem("the switch does nothing")
        .expecting("`opens`, `closes`, `removes` or `restores`, with a name"))
}

/// The switches of a file, each with the value that names its target.
pub(crate) type Switches<'a> = Vec<(Value<'a>, Switch)>;

/// A zone of a file, without its box.
pub(crate) struct ZoneKeys<'a, V> {
    effects: Effects<V>,
    name: String,
    carrier: Option<CarrierId>,
    switch: Option<(Value<'a>, Switch)>,
}

impl<'a, V: Geometry> ZoneKeys<'a, V> {
    /// Adds the zone between two opposite corners.
    pub fn add(&self, corner: V, opposite: V, assembly: &mut Assembly<V>, switches: &mut Switches<'a>) {
        let mut zone = Zone::new(corner, opposite, self.effects);
        zone.carrier = self.carrier;
        let id = assembly.zone(zone, self.name.clone());
        let switch = self.switch.as_ref();
        switches.extend(switch.map(|(value, switch)| (*value, Switch { zone: id, ..switch.clone() })));
    }
}

/// Reads the keys of a zone, without its box.
pub(crate) fn zone_of<'a, V: Geometry>(
    table: &mut Table<'a>,
    names: &Names,
    kinds: &[(&str, Effect<V>)],
) -> Result<ZoneKeys<'a, V>, Problem> {
    let mut effects: Vec<Effect<V>> = Vec::new();
    let mut switch = None;
    let several = table.get("effects");
    for value in several.map(Value::items).transpose()?.unwrap_or_default() {
        effects.push(effect_of(value, kinds, table, names)?);
    }
    if several.is_none() {
        let value = table.need("kind", "the kind of the zone, as \"ladder\"")?;
        if value.text().is_ok_and(|kind| kind == SWITCH) {
            switch = Some(switch_of(table)?);
        } else {
            effects.push(effect_of(value, kinds, table, names)?);
        }
    }
    let first = if switch.is_some() { SWITCH } else { effects.first().map_or("zone", Effect::name) };
    let name = table.get("name").map(Value::text).transpose()?.unwrap_or(first).to_owned();
    let Some(effects) = Effects::of(&effects) else {
        let found = format!("found {} effects", effects.len());
        return Err(table.problem(found).expecting(format!("at most {}", Effects::<V>::MAX)));
    };
    let carrier = table.get("carrier").map(|value| found(&names.carriers, value, "carrier")).transpose()?;
    Ok(ZoneKeys { effects, name, carrier, switch })
}

/// Reads an effect with its fields.
fn effect_of<V: Geometry>(
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
        Effect::Wind { push } => {
            *push = table.need("push", "an acceleration: lengths per second, per second")?.vector()?
        }
        Effect::Checkpoint => {
            if let Some(value) = table.get("place") {
                effect = Effect::CheckpointAt { place: value.vector()? };
            }
        }
        Effect::Slow { pace } => *pace = table.need("pace", "a factor")?.number_in(0.0..=10.0, "")?,
        Effect::Weight { factor } => {
            *factor = table.need("factor", "a factor on gravity")?.number_in(0.0..=10.0, "")?;
        }
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
        // The others have no fields.
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
