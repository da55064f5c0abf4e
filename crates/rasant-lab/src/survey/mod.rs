//! What is in a level, and what of it matters to movement.
//!
//! [`contents`] counts; [`warnings`] holds a level against a tuning: slopes at the limit of
//! what is walked, steps and gaps that are made or missed by a hair, low ceilings, floors that
//! are not flush, slivers, starts inside of walls, ladders that nobody can take.

mod faces;
mod warnings;

use rasant::level::{PathEnd, Shape};
use rasant::{Geometry, SurfaceId};
use serde::Serialize;

use rasant_files::{LeftOut, LevelFile, PATH_ENDS, World};
pub use warnings::{Warning, warnings};

/// What is in a level.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Contents {
    /// What it is called.
    pub title: String,
    /// 2 or 3.
    pub dimensions: usize,
    /// The least corner of a box round all of it, with as many numbers as it has dimensions.
    pub min: Vec<f32>,
    /// The greatest.
    pub max: Vec<f32>,
    /// Kinds of pieces, and how many there are; each triangle of a mesh is one.
    pub pieces: Vec<(&'static str, usize)>,
    /// Surfaces, and how many pieces are of each.
    pub surfaces: Vec<(String, usize)>,
    /// Layers, and how many pieces are on each.
    pub layers: Vec<(String, usize)>,
    /// The zones.
    pub zones: Vec<ZoneTold>,
    /// What moves.
    pub carriers: Vec<CarrierTold>,
    /// Where a body begins, if the level says so.
    pub start: Option<Vec<f32>>,
    /// What files of geometry have that the level has not, and how often.
    pub left_out: LeftOut,
}

/// A zone, as it is told.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ZoneTold {
    /// What it is called.
    pub name: String,
    /// The names of its effects.
    pub effects: Vec<&'static str>,
    /// The least corner of its box.
    pub min: Vec<f32>,
    /// The greatest.
    pub max: Vec<f32>,
}

/// A carrier, as it is told.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct CarrierTold {
    /// What it is called.
    pub name: String,
    /// How many pieces ride on it.
    pub pieces: usize,
    /// How long its path is, in metres.
    pub way_m: f32,
    /// How long it takes, in seconds.
    pub time_s: f32,
    /// What becomes of it at the end; nothing for one that the host sets.
    pub end: Option<&'static str>,
}

/// What is in a level.
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
    level.each_shape(|shape, tag| {
        let kind = match shape {
            Shape::Ball { .. } if V::DIMENSION == 2 => "disc",
            Shape::Ball { .. } => "ball",
            Shape::Segment { .. } => "segment",
            Shape::Polygon { .. } => "polygon",
            Shape::Facet { .. } if tag.piece.0 >> 31 == 1 => "triangle of a mesh",
            Shape::Facet { .. } => "facet",
            Shape::Solid { .. } => "solid",
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
    let zones = level.all_zones().iter().zip(&file.zones).map(|(zone, name)| ZoneTold {
        name: name.clone(),
        effects: zone.effects.iter().map(rasant::Effect::name).collect(),
        min: numbers(zone.bounds.min),
        max: numbers(zone.bounds.max),
    });
    let carriers =
        level.carriers().iter().zip(&file.carriers).zip(riders).map(|((carrier, name), pieces)| {
            let path = carrier.path();
            let end = |end: PathEnd| PATH_ENDS.iter().find(|(_, known)| *known == end).map(|(name, _)| *name);
            CarrierTold {
                name: name.clone(),
                pieces,
                way_m: path.windows(2).map(|ends| (ends[1].offset - ends[0].offset).length()).sum(),
                time_s: path.last().map_or(0.0, |last| last.time),
                end: if path.is_empty() { None } else { end(carrier.end()) },
            }
        });
    let bounds = level.bounds();
    Contents {
        title: file.title.clone(),
        dimensions: V::DIMENSION,
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
