//! The contents of a level, and what may cause problems for movement.
//!
//! [`contents`] counts; [`warnings`] checks a level with a tuning: slopes at the limit of what can
//! be walked, steps and gaps that are barely possible or impossible, low ceilings, floors that are
//! not flush, slivers, starts inside walls, ladders that cannot be grabbed.

mod faces;
mod warnings;

use std::collections::HashSet;

use rasant::level::{PathEnd, Shape};
use rasant::{Geometry, SurfaceId};
use serde::Serialize;

use rasant_files::{LeftOut, LevelFile, PATH_ENDS, World};
pub use warnings::{Warning, warnings};

/// The contents of a level.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Contents {
    /// The title.
    pub title: String,
    /// 2 or 3.
    pub dimensions: usize,
    /// The axis that points up, as level files call it.
    pub up: &'static str,
    /// Units of length per metre. Positions and lengths here are in these units.
    pub scale: f32,
    /// The smallest corner of its bounding box, with as many numbers as it has dimensions.
    pub min: Vec<f32>,
    /// The largest corner.
    pub max: Vec<f32>,
    /// Kinds of pieces with their counts; each triangle of a mesh is one.
    pub pieces: Vec<(&'static str, usize)>,
    /// Surfaces, with the number of pieces of each.
    pub surfaces: Vec<(String, usize)>,
    /// Layers, with the number of pieces on each.
    pub layers: Vec<(String, usize)>,
    /// The zones.
    pub zones: Vec<ZoneSummary>,
    /// The carriers.
    pub carriers: Vec<CarrierSummary>,
    /// Where a body starts, if the level says so.
    pub start: Option<Vec<f32>>,
    /// What files of geometry contain that the level does not, with counts.
    pub left_out: LeftOut,
}

/// A summary of a zone.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ZoneSummary {
    /// The name.
    pub name: String,
    /// The names of its effects.
    pub effects: Vec<&'static str>,
    /// The smallest corner of its box.
    pub min: Vec<f32>,
    /// The largest corner.
    pub max: Vec<f32>,
}

/// A summary of a carrier.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct CarrierSummary {
    /// The name.
    pub name: String,
    /// The number of pieces on it.
    pub pieces: usize,
    /// The length of its path.
    pub distance_m: f32,
    /// The duration of its path, in seconds.
    pub time_s: f32,
    /// What it does at the end of its path; `None` for one that the host places.
    pub end: Option<&'static str>,
}

/// Lists the contents of a level.
#[must_use]
pub fn contents(world: &World) -> Contents {
    match world {
        World::Plane(file) => of(file),
        World::Space(file) => of(file),
    }
}

fn of<V: Geometry>(file: &LevelFile<V>) -> Contents {
    let level = &file.level;
    let numbers = |of: V| of.to_array()[..V::DIMENSION].to_vec();
    let mut pieces: Vec<(&'static str, usize)> = Vec::new();
    let mut surfaces: Vec<(String, usize)> = file.looks.iter().map(|look| (look.name.clone(), 0)).collect();
    let mut riders = vec![0; level.carriers().len()];
    let meshes: HashSet<u32> = level
        .pieces_by_id()
        .filter_map(|(id, piece)| matches!(piece.shape(), Shape::Mesh { .. }).then_some(id.0))
        .collect();
    let is_mesh = |piece: rasant::PieceId| meshes.contains(&piece.0);
    level.each_shape(|shape, tag| {
        let kind = match shape {
            Shape::Ball { .. } if V::DIMENSION == 2 => "disc",
            Shape::Ball { .. } => "ball",
            Shape::Segment { .. } => "segment",
            Shape::Capsule { .. } => "capsule",
            Shape::Polygon { .. } => "polygon",
            Shape::Facet { .. } if is_mesh(tag.piece) => "triangle of a mesh",
            Shape::Facet { .. } => "facet",
            Shape::Solid { .. } => "solid",
            Shape::Mesh { .. } => "mesh",
        };
        match pieces.iter_mut().find(|(known, _)| *known == kind) {
            Some((_, count)) => *count += 1,
            None => pieces.push((kind, 1)),
        }
        let SurfaceId(surface) = tag.surface;
        surfaces[usize::from(surface)].1 += 1;
        if let Some(carrier) = tag.carrier {
            riders[usize::from(carrier.0)] += 1;
        }
    });
    surfaces.retain(|(name, count)| *count > 0 || name != "plain");
    let on_layer = |number: usize| {
        let on = |layers: rasant::Layers| layers.numbers().any(|on| on as usize == number);
        level.all_pieces().filter(|piece| on(piece.layers)).count()
    };
    let layers =
        file.layers.iter().enumerate().skip(1).map(|(number, name)| (name.clone(), on_layer(number)));
    let zones = level.all_zones().iter().zip(&file.zones).map(|(zone, name)| ZoneSummary {
        name: name.clone(),
        effects: zone.effects.iter().map(rasant::Effect::name).collect(),
        min: numbers(zone.bounds.min),
        max: numbers(zone.bounds.max),
    });
    let carriers =
        level.carriers().iter().zip(&file.carriers).zip(riders).map(|((carrier, name), pieces)| {
            let path = carrier.path();
            let end = |end: PathEnd| PATH_ENDS.iter().find(|(_, known)| *known == end).map(|(name, _)| *name);
            CarrierSummary {
                name: name.clone(),
                pieces,
                distance_m: path.windows(2).map(|ends| (ends[1].offset - ends[0].offset).length()).sum(),
                time_s: path.last().map_or(0.0, |last| last.time),
                end: if path.is_empty() { None } else { end(carrier.end()) },
            }
        });
    let bounds = level.bounds();
    Contents {
        title: file.title.clone(),
        dimensions: V::DIMENSION,
        up: file.up.unwrap_or_default().name(),
        scale: file.scale(),
        min: numbers(bounds.min),
        max: numbers(bounds.max),
        pieces,
        surfaces,
        layers: layers.collect(),
        zones: zones.collect(),
        carriers: carriers.collect(),
        start: file.start.map(numbers),
        left_out: file.left_out.clone(),
    }
}
