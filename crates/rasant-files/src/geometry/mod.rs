//! Levels from files of other programs.
//!
//! ```toml
//! [[geometry]]
//! file = "canal.svg"      # beside this file; in 3D a .glb, .gltf or .obj
//! scale = 0.01            # units of the level a unit of the file: metres, unless the level has a scale
//! offset = [0, 0]         # what all of it is moved by
//! surface = "slate"       # of what does not say its own
//! ```
//!
//! The words in the class, label or name of an element of a drawing or a node of a model give its
//! meaning: see `attributes.rs`. Whatever is left out is counted by kind.

#[cfg(any(feature = "drawings", feature = "models"))]
mod attributes;
#[cfg(feature = "drawings")]
mod flat;
#[cfg(feature = "models")]
mod gltf;
#[cfg(feature = "models")]
mod model;
#[cfg(feature = "models")]
mod motion;
#[cfg(feature = "models")]
mod obj;
#[cfg(any(feature = "drawings", feature = "models"))]
mod spatial;
#[cfg(feature = "drawings")]
mod split;
#[cfg(feature = "drawings")]
mod svg;
#[cfg(feature = "models")]
mod tracks;
#[cfg(any(feature = "drawings", feature = "models"))]
mod triangles;

use std::path::{Path, PathBuf};

use rasant::glam::{DAffine3, DQuat, DVec3, Vec2, Vec3};
use rasant::{Geometry, Layers, SurfaceId};

use crate::assembly::Assembly;
use crate::axes::{UpAxis, length_in};
use crate::table::{Table, Value};
use crate::{Files, Problem, beside};

#[cfg(feature = "models")]
pub use tracks::{RootTrack, read_root_track};

/// The extensions of drawings.
const DRAWINGS: [&str; 1] = ["svg"];
/// The extensions of models.
const MODELS: [&str; 3] = ["glb", "gltf", "obj"];

/// A file of geometry that a level refers to.
pub(super) struct Import<'a, V> {
    /// The name of the file in the text of the level.
    named: Value<'a>,
    files: &'a dyn Files,
    path: PathBuf,
    /// Units of the level per unit of the file. `None` for what the file says itself, in metres.
    scale: Option<f32>,
    /// Units of the level per metre.
    level_scale: f32,
    /// The offset of the whole geometry.
    offset: V,
    /// The largest error of a flattened curve.
    tolerance: f32,
    /// The axis of a model that points up.
    up: UpAxis,
    /// The axis of the level that does.
    level_up: UpAxis,
    surface: SurfaceId,
    layers: Layers,
}

impl<'a, V: Geometry> Import<'a, V> {
    pub fn of(
        mut table: Table<'a>,
        assembly: &Assembly<V>,
        files: &'a dyn Files,
        path: &Path,
    ) -> Result<Self, Problem> {
        let named = table.need("file", "the path of a drawing or a model")?;
        let level_scale = assembly.scale;
        let mut length =
            |key: &str, range| table.get(key).map(|value| length_in(value, range, level_scale)).transpose();
        let scale = length("scale", 1e-6..=1e6)?;
        let tolerance = length("tolerance", 1e-4..=10.0)?.unwrap_or(TOLERANCE * level_scale);
        let offset = table.get("offset").map(Value::vector).transpose()?.unwrap_or(V::ZERO);
        let up = UpAxis::read(&mut table, 3)?;
        let (surface, layers) = assembly.names.surface_and_layers(&mut table)?;
        table.finish()?;
        let path = beside(path, named.text()?);
        let (up, level_up) = (up.unwrap_or_default(), assembly.up);
        Ok(Self { named, files, path, scale, level_scale, offset, tolerance, up, level_up, surface, layers })
    }

    /// The transform from the file's units and axes to those of the level.
    fn model_to_level(&self) -> DAffine3 {
        use std::f64::consts::{FRAC_PI_2, PI};
        let scale = DVec3::splat(self.scale.unwrap_or(self.level_scale).into());
        // About x, which stays.
        let to_y = |axis: UpAxis| match axis {
            UpAxis::Y => DQuat::IDENTITY,
            UpAxis::MinusY => DQuat::from_rotation_x(PI),
            UpAxis::Z => DQuat::from_rotation_x(-FRAC_PI_2),
            UpAxis::MinusZ => DQuat::from_rotation_x(FRAC_PI_2),
        };
        let turn = if self.up == self.level_up {
            DQuat::IDENTITY
        } else {
            to_y(self.level_up).inverse() * to_y(self.up)
        };
        let offset = Vec3::from_array(self.offset.to_array()).as_dvec3();
        DAffine3::from_scale_rotation_translation(scale, turn, offset)
    }

    /// The problem for a kind of file that this program was built without.
    #[cfg(not(all(feature = "drawings", feature = "models")))]
    fn not_built(&self, ending: &str, feature: &str) -> Problem {
        let what = format!("this program was built without support for `.{ending}`");
        self.named.problem(what).expecting(format!("the feature `{feature}` of the crate `rasant-files`"))
    }

    /// The extension of the file, if it is one of `known`.
    fn ending(&self, known: &[&'static str]) -> Result<&'static str, Problem> {
        let ending = ending_of(&self.path);
        known.iter().copied().find(|known| *known == ending).ok_or_else(|| {
            let what = format!(
                "found a file with the extension `.{ending}` in a level of {} dimensions",
                V::DIMENSION
            );
            self.named.problem(what).expecting(format!("one with the extension .{}", known.join(", .")))
        })
    }
}

/// The default for the largest error of a flattened curve, in metres: 5 mm.
const TOLERANCE: f32 = 0.005;

fn ending_of(path: &Path) -> String {
    path.extension().map(|ending| ending.to_string_lossy().to_lowercase()).unwrap_or_default()
}

/// The text of a level for a file of geometry alone; `None` for other files.
#[must_use]
pub fn around(path: &Path) -> Option<String> {
    let ending = ending_of(path);
    let dimensions = match &*ending {
        drawing if DRAWINGS.contains(&drawing) => 2,
        model if MODELS.contains(&model) => 3,
        _ => return None,
    };
    let name = toml::Value::from(path.file_name()?.to_string_lossy().into_owned());
    let stem = toml::Value::from(path.file_stem()?.to_string_lossy().into_owned());
    // A drawing may have a title of its own.
    let title = if dimensions == 3 { format!("title = {stem}\n") } else { String::new() };
    Some(format!("{title}dimensions = {dimensions}\n\n[[geometry]]\nfile = {name}\n"))
}

/// Adds a drawing.
pub(super) fn add_flat(import: &Import<'_, Vec2>, assembly: &mut Assembly<Vec2>) -> Result<(), Problem> {
    let ending = import.ending(&DRAWINGS)?;
    read_drawing(import, ending, assembly)
}

/// Adds a model.
pub(super) fn add_spatial(import: &Import<'_, Vec3>, assembly: &mut Assembly<Vec3>) -> Result<(), Problem> {
    let ending = import.ending(&MODELS)?;
    read_model(import, ending, assembly)
}

#[cfg(feature = "drawings")]
fn read_drawing(import: &Import<'_, Vec2>, _: &str, assembly: &mut Assembly<Vec2>) -> Result<(), Problem> {
    svg::add(import, assembly)
}

#[cfg(not(feature = "drawings"))]
fn read_drawing(import: &Import<'_, Vec2>, ending: &str, _: &mut Assembly<Vec2>) -> Result<(), Problem> {
    Err(import.not_built(ending, "drawings"))
}

#[cfg(feature = "models")]
fn read_model(import: &Import<'_, Vec3>, ending: &str, assembly: &mut Assembly<Vec3>) -> Result<(), Problem> {
    if ending == "obj" { obj::add(import, assembly) } else { gltf::add(import, assembly) }
}

#[cfg(not(feature = "models"))]
fn read_model(import: &Import<'_, Vec3>, ending: &str, _: &mut Assembly<Vec3>) -> Result<(), Problem> {
    Err(import.not_built(ending, "models"))
}
