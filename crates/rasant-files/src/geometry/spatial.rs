//! Turns the meshes of a model into pieces and zones.

use rasant::glam::Vec3;
use rasant::space::Bounds;
use rasant::{Layers, Piece, SurfaceId};

use super::attributes::{Attributes, Labels, Role, Wrong, is_role};
use super::triangles::{MOST, Triangles};
use crate::Game;
use crate::assembly::Assembly;

/// The contents of one node or object.
pub(super) struct Part {
    /// In the level, or relative to the carrier's origin if it rides.
    pub triangles: Vec<[Vec3; 3]>,
    /// Where a body starts, if this is a start without a mesh.
    pub start: Option<Vec3>,
}

/// The meshes of a file. Triangles that do not move and share a surface and a layer are one mesh.
#[derive(Default)]
pub(super) struct Parts {
    meshes: Vec<(SurfaceId, Layers, Triangles)>,
    count: usize,
    degenerate: usize,
    duplicates: usize,
}

impl Parts {
    /// Adds a part according to its attributes.
    pub fn add(
        &mut self,
        part: Part,
        attributes: &Attributes,
        labels: &Labels,
        assembly: &mut Assembly<Vec3>,
    ) -> Result<(), Wrong> {
        self.count += part.triangles.len();
        if self.count > MOST {
            return Err((format!("found more than {MOST} triangles"), "fewer".to_owned()));
        }
        let corners: Vec<Vec3> = part.triangles.iter().flatten().copied().collect();
        if let Some(far) = corners.iter().find(|corner| !corner.is_finite()) {
            return Err((format!("found a corner at {far}"), "one in the level".to_owned()));
        }
        if attributes.role == Role::Start {
            let bounds = (!corners.is_empty()).then(|| Bounds::around(&corners));
            let up: Vec3 = assembly.up.direction();
            let under = bounds.map(|Bounds { min, max }| {
                let (middle, half) = ((min + max) * 0.5, (max - min) * 0.5);
                middle - up * half.dot(up.abs())
            });
            assembly.start = under.or(part.start).or(assembly.start);
            return Ok(());
        }
        if corners.is_empty() {
            return Ok(());
        }
        match &attributes.role {
            Role::Zone(words) => attributes.add_zone(words, Bounds::around(&corners), labels, assembly)?,
            Role::Solid if attributes.carrier.is_some() || attributes.one_way => {
                self.pieces(part, attributes, assembly)
            }
            Role::Solid => {
                let of = |(surface, layers, _): &(SurfaceId, Layers, Triangles)| {
                    (*surface, *layers) == (attributes.surface, attributes.layers)
                };
                let place = self.meshes.iter().position(of).unwrap_or_else(|| {
                    self.meshes.push((attributes.surface, attributes.layers, Triangles::default()));
                    self.meshes.len() - 1
                });
                part.triangles.iter().for_each(|corners| self.meshes[place].2.add(*corners));
            }
            Role::Start | Role::Path | Role::Ignored => {}
        }
        Ok(())
    }

    /// A mesh that moves, or is solid from above only, becomes pieces: one if it is convex, and
    /// otherwise one facet per triangle.
    fn pieces(&mut self, part: Part, attributes: &Attributes, assembly: &mut Assembly<Vec3>) {
        let mut triangles = Triangles::default();
        part.triangles.iter().for_each(|corners| triangles.add(*corners));
        self.degenerate += triangles.degenerate;
        self.duplicates += triangles.duplicates;
        let whole = triangles.is_convex().then(|| Piece::solid(&triangles.vertices).ok()).flatten();
        let facets = || {
            let corners = |of: &[u32; 3]| of.map(|corner| triangles.vertices[corner as usize]);
            triangles.corners.iter().filter_map(|of| Piece::facet(&corners(of)).ok()).collect()
        };
        let pieces: Vec<Piece<Vec3>> = whole.map_or_else(facets, |whole| vec![whole]);
        for piece in pieces {
            assembly.builder.add(attributes.made(piece));
        }
    }

    /// Adds the meshes to the level, and counts the dropped triangles.
    pub fn finish(self, assembly: &mut Assembly<Vec3>) -> Result<(), Wrong> {
        let Self { meshes, mut degenerate, mut duplicates, .. } = self;
        for (surface, layers, triangles) in meshes {
            degenerate += triangles.degenerate;
            duplicates += triangles.duplicates;
            if !triangles.corners.is_empty() {
                assembly
                    .builder
                    .add_mesh(&triangles.vertices, &triangles.corners, surface, layers)
                    .map_err(|error| (error.to_string(), "a mesh".to_owned()))?;
            }
        }
        let dropped = [("triangle without an area", degenerate), ("duplicate triangle", duplicates)];
        for (what, count) in dropped.into_iter().filter(|(_, count)| *count > 0) {
            *assembly.left_out.entry(what.to_owned()).or_default() += count;
        }
        Ok(())
    }
}

/// The labels in a name. The first word may be the role of the part, and any word may name its
/// surface and the like; the others are only a name. What a program appends to a word is ignored:
/// `Ladder.001` and `ladder_north` are ladders.
pub(super) fn labels_in_name(name: &str, game: &Game) -> Labels {
    let plain = |word: &str| {
        let word = word.split(['_', '.', ':']).next().unwrap_or("").to_lowercase();
        word.trim_end_matches(|sign: char| sign.is_ascii_digit()).trim_end_matches('-').to_owned()
    };
    let meant = |(number, word): (usize, &str)| {
        let has_a_name = ["surface-", "layer-"].iter().any(|prefix| word.starts_with(prefix));
        if has_a_name {
            let (before, behind) = word.rsplit_once('.').unwrap_or((word, ""));
            let is_numbered = !behind.is_empty() && behind.bytes().all(|sign| sign.is_ascii_digit());
            return Some(if is_numbered { before } else { word }.to_owned());
        }
        let word = plain(word);
        let is_meant =
            if number == 0 { is_role(&word, game) } else { ["one-way", "one-sided"].contains(&&*word) };
        is_meant.then_some(word)
    };
    let words = name.split([' ', ',', ';']).filter(|word| !word.is_empty());
    let mut labels = Labels::default();
    labels.extend_by_name(words.enumerate().filter_map(meant));
    labels
}
