//! What becomes of the meshes of a model.

use rasant::glam::Vec3;
use rasant::space::Bounds;
use rasant::{Layers, Piece, SurfaceId};

use super::told::{Role, Said, Told, Wrong, is_role};
use super::triangles::{MOST, Triangles};
use crate::making::Making;

/// What one node or object has.
pub(super) struct Part {
    /// In the level; about its carrier's origin if it rides.
    pub triangles: Vec<[Vec3; 3]>,
    /// Where a body begins, if this is a start without a mesh.
    pub start: Option<Vec3>,
}

/// The meshes of a file: what stays where it is and is of one surface, on one layer, is one.
#[derive(Default)]
pub(super) struct Parts {
    meshes: Vec<(SurfaceId, Layers, Triangles)>,
    count: usize,
    degenerate: usize,
    duplicates: usize,
}

impl Parts {
    /// Adds what a part is told to be.
    pub fn add(
        &mut self,
        part: Part,
        told: &Told,
        said: &Said,
        making: &mut Making<Vec3>,
    ) -> Result<(), Wrong> {
        self.count += part.triangles.len();
        if self.count > MOST {
            return Err((format!("found more than {MOST} triangles"), "fewer".to_owned()));
        }
        let corners: Vec<Vec3> = part.triangles.iter().flatten().copied().collect();
        if let Some(far) = corners.iter().find(|corner| !corner.is_finite()) {
            return Err((format!("found a corner at {far}"), "one in the level".to_owned()));
        }
        if told.role == Role::Start {
            let bounds = (!corners.is_empty()).then(|| Bounds::around(&corners));
            let under = bounds
                .map(|Bounds { min, max }| Vec3::new((min.x + max.x) * 0.5, min.y, (min.z + max.z) * 0.5));
            making.start = under.or(part.start).or(making.start);
            return Ok(());
        }
        if corners.is_empty() {
            return Ok(());
        }
        match &told.role {
            Role::Zone(words) => told.add_zone(words, Bounds::around(&corners), said, making)?,
            Role::Solid if told.carrier.is_some() || told.one_way => self.pieces(part, told, making),
            Role::Solid => {
                let of = |(surface, layers, _): &(SurfaceId, Layers, Triangles)| {
                    (*surface, *layers) == (told.surface, told.layers)
                };
                let place = self.meshes.iter().position(of).unwrap_or_else(|| {
                    self.meshes.push((told.surface, told.layers, Triangles::default()));
                    self.meshes.len() - 1
                });
                part.triangles.iter().for_each(|corners| self.meshes[place].2.add(*corners));
            }
            Role::Start | Role::Path | Role::Ignored => {}
        }
        Ok(())
    }

    /// A mesh that moves, or holds from above only, is pieces: one where it is convex, and
    /// a facet a triangle where it is not.
    fn pieces(&mut self, part: Part, told: &Told, making: &mut Making<Vec3>) {
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
            making.builder.add(told.made(piece));
        }
    }

    /// Adds the meshes to the level, and counts what was dropped.
    pub fn finish(self, making: &mut Making<Vec3>) -> Result<(), Wrong> {
        let Self { meshes, mut degenerate, mut duplicates, .. } = self;
        for (surface, layers, triangles) in meshes {
            degenerate += triangles.degenerate;
            duplicates += triangles.duplicates;
            if !triangles.corners.is_empty() {
                making
                    .builder
                    .add_mesh(&triangles.vertices, &triangles.corners, surface, layers)
                    .map_err(|error| (error.to_string(), "a mesh".to_owned()))?;
            }
        }
        let dropped =
            [("triangle without an area", degenerate), ("triangle that is there twice", duplicates)];
        for (what, count) in dropped.into_iter().filter(|(_, count)| *count > 0) {
            *making.left_out.entry(what.to_owned()).or_default() += count;
        }
        Ok(())
    }
}

/// What the words of a name say: the first what the part is, if it means anything, and any
/// of them of which surface it is and the like; the others are a name and no more. What a
/// program puts behind a word is no part of it: `Ladder.001` and `ladder_north` are ladders.
pub(super) fn said_by_name(name: &str) -> Said {
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
        let is_meant = if number == 0 { is_role(&word) } else { ["one-way", "one-sided"].contains(&&*word) };
        is_meant.then_some(word)
    };
    let words = name.split([' ', ',', ';']).filter(|word| !word.is_empty());
    let mut said = Said::default();
    said.extend_by_name(words.enumerate().filter_map(meant));
    said
}
