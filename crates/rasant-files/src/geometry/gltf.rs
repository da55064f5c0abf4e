//! Levels modelled in three dimensions: glTF 2.0, as text or binary.
//!
//! Lengths are metres, y is up and the model's front faces +z, as the format says. The words in the
//! name of a node and its extras give its meaning: `class` has more words, other keys are data. An
//! animated node moves with everything inside it, on a path of its own.

use std::collections::{HashMap, HashSet};

use gltf::mesh::Mode;
use gltf::{Node, Semantic};
use rasant::glam::{DAffine3, DQuat, DVec3, Vec3};
use rasant::{Carrier, CarrierId, Keyframe, PathEnd};

use super::Import;
use super::attributes::{Attributes, Labels, Role, Wrong, define_surfaces};
use super::model::Model;
use super::motion::{MOST_KEYS, Motions};
use super::spatial::{Part, Parts, labels_in_name};
use super::triangles::MOST;
use crate::Game;
use crate::Problem;
use crate::assembly::Assembly;

/// The maximum number of corners of all nodes.
const MOST_READ: usize = 60_000_000;
/// The maximum depth of nested nodes.
pub(super) const DEEPEST: usize = 200;

/// Adds a model to a level.
pub(super) fn add(import: &Import<'_, Vec3>, assembly: &mut Assembly<Vec3>) -> Result<(), Problem> {
    let model = Model::read(import.files, &import.path)?;
    let motions = Motions::of(&model, &mut |what| assembly.leave_out(what))?;
    let to_level = import.model_to_level();
    let nodes: Vec<Node<'_>> = model.document.nodes().collect();
    check_counts(&model, &nodes)?;
    let holding = holding_meshes(&nodes);
    let (parts, seen, game) = (Parts::default(), HashMap::new(), assembly.game);
    let mut reader =
        Reader { model: &model, nodes, holding, motions, to_level, assembly, parts, seen, keys: 0 };
    let wrong = |node: &Node<'_>, (found, expected): Wrong| {
        model.problem(format!("{}: {found}", name_of(node))).expecting(expected)
    };
    let labels = |node: &Node<'_>| labels_of(node, &game).map_err(|why| wrong(node, why));
    let all = reader.nodes.iter().map(labels).collect::<Result<Vec<_>, _>>()?;
    define_surfaces(&all, reader.assembly).map_err(|(number, why)| wrong(&reader.nodes[number], why))?;
    for extension in model.document.extensions_used() {
        reader.assembly.leave_out(format!("extension {extension}"));
    }
    let attributes = Attributes::new(import.surface, import.layers);
    for root in roots(&model) {
        reader.node(&root, &attributes, &Chain::default())?;
    }
    let Reader { parts, assembly, .. } = reader;
    parts.finish(assembly).map_err(|(found, expected)| model.problem(found).expecting(expected))
}

/// The nodes of the scene that the file shows, or of its first scene. Without scenes, all nodes
/// that are in no other.
fn roots(model: &Model) -> Vec<Node<'_>> {
    let document = &model.document;
    match document.default_scene().or_else(|| document.scenes().next()) {
        Some(scene) => scene.nodes().collect(),
        None => {
            let inner = document.nodes().flat_map(|node| node.children()).map(|node| node.index());
            let inner: HashSet<usize> = inner.collect();
            document.nodes().filter(|node| !inner.contains(&node.index())).collect()
        }
    }
}

struct Reader<'a, 'm> {
    model: &'a Model,
    nodes: Vec<Node<'a>>,
    holding: Vec<bool>,
    motions: Motions,
    to_level: DAffine3,
    assembly: &'m mut Assembly<Vec3>,
    parts: Parts,
    /// The nodes that were visited, each with its parent; `None` for the scene itself.
    seen: HashMap<usize, Option<usize>>,
    /// The number of keyframes of all carriers so far.
    keys: usize,
}

/// The nodes from the root down to one, and the position of the carrier that it rides on.
#[derive(Clone, Default)]
struct Chain {
    nodes: Vec<usize>,
    origin: DVec3,
}

impl Reader<'_, '_> {
    fn node(&mut self, node: &Node<'_>, attributes: &Attributes, chain: &Chain) -> Result<(), Problem> {
        let wrong = |(found, expected): Wrong| {
            self.model.problem(format!("{}: {found}", name_of(node))).expecting(expected)
        };
        let inner = chain.nodes.last().copied();
        if let Some(other) = self.seen.insert(node.index(), inner) {
            let place = |of: Option<usize>| of.map_or("the scene".to_owned(), |of| format!("node {of}"));
            let found = format!("it is in {}, and in {}", place(inner), place(other));
            return Err(wrong((found, "in one".to_owned())));
        }
        if chain.nodes.len() > DEEPEST {
            return Err(wrong((format!("found nodes {DEEPEST} deep"), "fewer".to_owned())));
        }
        let labels = labels_of(node, &self.assembly.game).map_err(wrong)?;
        let mut attributes = attributes.inside(&labels, self.assembly).map_err(wrong)?;
        labels.leave_out_unknown(self.assembly);
        let mut chain = chain.clone();
        chain.nodes.push(node.index());
        if attributes.role != Role::Ignored && self.motions.moves(node.index()) && self.holding[node.index()]
        {
            let (carrier, origin) = self.carrier(node, &labels, &chain.nodes)?;
            (attributes.carrier, chain.origin) = (Some(carrier), origin);
        } else if labels.contains("platform") {
            self.assembly.leave_out("platform without an animation: it stays where it is");
        }
        let to_level = self.placed(&chain.nodes, 0.0);
        if !to_level.is_finite() {
            return Err(wrong(("a transform that is not finite".to_owned(), "finite numbers".to_owned())));
        }
        for (is_there, what) in [
            (node.camera().is_some(), "camera"),
            (node.skin().is_some(), "skin: the mesh is read without it"),
        ] {
            if is_there {
                self.assembly.leave_out(what);
            }
        }
        let about = DAffine3::from_translation(-chain.origin) * to_level;
        let triangles = match node.mesh() {
            Some(mesh) => self.triangles(&mesh, &about)?,
            None => Vec::new(),
        };
        let start = Some(to_level.translation.as_vec3());
        let part = Part { triangles, start };
        let wrong = |(found, expected): Wrong| {
            self.model.problem(format!("{}: {found}", name_of(node))).expecting(expected)
        };
        self.parts.add(part, &attributes, &labels, self.assembly).map_err(wrong)?;
        node.children().try_for_each(|child| self.node(&child, &attributes, &chain))
    }

    /// The placement of the last node of a chain in the level at a time.
    fn placed(&self, chain: &[usize], time: f64) -> DAffine3 {
        self.motions.placed(&self.nodes, chain, self.to_level, time)
    }

    /// The carrier for an animated node, and its initial placement.
    fn carrier(
        &mut self,
        node: &Node<'_>,
        labels: &Labels,
        chain: &[usize],
    ) -> Result<(CarrierId, DVec3), Problem> {
        let times = self.motions.times(chain);
        self.keys += times.len();
        if self.keys > MOST_KEYS {
            let found = format!(
                "{}: found more than {MOST_KEYS} keyframes on the paths of all carriers",
                name_of(node)
            );
            return Err(self.model.problem(found).expecting("fewer, or shorter animations"));
        }
        let at = |time: f64| {
            let (_, turn, place) = self.placed(chain, time).to_scale_rotation_translation();
            (turn, place)
        };
        let (first_turn, origin) = at(0.0);
        let mut path: Vec<Keyframe<Vec3>> = Vec::new();
        let turns: Vec<(f64, DQuat, DVec3)> = times
            .into_iter()
            .map(|time| {
                let (turn, place) = at(time);
                (time, turn * first_turn.inverse(), place)
            })
            .collect();
        let up = self.assembly.up.direction::<Vec3>().as_dvec3();
        let is_askew = turns.iter().any(|(_, turn, _)| turn.xyz().reject_from_normalized(up).length() > 1e-3);
        for (time, turn, place) in turns {
            let keyframe = Keyframe::new(time as f32, place.as_vec3());
            if is_askew {
                let (axis, angle) = turn.to_axis_angle();
                path.push(keyframe.turned_about(axis.as_vec3(), angle as f32));
                continue;
            }
            let angle = 2.0 * turn.xyz().dot(up).atan2(turn.w);
            // The rotation that is nearest to the previous one.
            let before = path.last().map_or(0.0, |last| f64::from(last.turn));
            let whole = std::f64::consts::TAU;
            let angle = angle + ((before - angle) / whole).round() * whole;
            path.push(keyframe.turned_about(up.as_vec3(), angle as f32));
        }
        path.dedup_by(|later, before| later.time <= before.time);
        let is_round = match (path.first(), path.last()) {
            (Some(first), Some(last)) => first.offset.distance(last.offset) < 1e-4,
            _ => true,
        };
        let wrong = |(found, expected): Wrong| {
            self.model.problem(format!("{}: {found}", name_of(node))).expecting(expected)
        };
        let usual = if is_round { PathEnd::Loop } else { PathEnd::BackAndForth };
        let end = labels.end().map_err(wrong)?.unwrap_or(usual);
        let name = node.name().map_or_else(|| format!("platform-{}", node.index()), str::to_owned);
        Ok((self.assembly.carrier(&name, Carrier::on_path(path, end)), origin))
    }

    /// The triangles of a mesh, transformed.
    fn triangles(&mut self, mesh: &gltf::Mesh<'_>, placed: &DAffine3) -> Result<Vec<[Vec3; 3]>, Problem> {
        let mut all = Vec::new();
        for primitive in mesh.primitives() {
            let Some(positions) = primitive.get(&Semantic::Positions) else { continue };
            if !matches!(primitive.mode(), Mode::Triangles | Mode::TriangleStrip | Mode::TriangleFan) {
                self.assembly.leave_out("points or lines of a mesh");
                continue;
            }
            let place =
                |[x, y, z]: [f32; 3]| placed.transform_point3(Vec3::new(x, y, z).as_dvec3()).as_vec3();
            let places: Vec<Vec3> = self.model.floats(&positions)?.into_iter().map(place).collect();
            let numbers: Vec<u32> = match primitive.indices() {
                Some(indices) => self.model.indices(&indices)?,
                None => (0..places.len() as u32).collect(),
            };
            if let Some(number) = numbers.iter().find(|number| **number as usize >= places.len()) {
                let found = format!("mesh {}: a triangle of vertex {number}", mesh.index());
                return Err(self.model.problem(found).expecting(format!("one below {}", places.len())));
            }
            let corner = |number: u32| places[number as usize];
            let triangle = |of: &[u32]| [corner(of[0]), corner(of[1]), corner(of[2])];
            match primitive.mode() {
                Mode::Triangles => all.extend(numbers.chunks_exact(3).map(triangle)),
                // Every other triangle has the reverse order.
                Mode::TriangleStrip => all.extend(numbers.windows(3).enumerate().map(|(number, of)| {
                    let [a, b, c] = triangle(of);
                    if number % 2 == 0 { [a, b, c] } else { [b, a, c] }
                })),
                _ => all.extend(
                    numbers
                        .get(1..)
                        .unwrap_or(&[])
                        .windows(2)
                        .map(|of| [corner(numbers[0]), corner(of[0]), corner(of[1])]),
                ),
            }
            if all.len() > MOST {
                return Err(self
                    .model
                    .problem(format!("found more than {MOST} triangles"))
                    .expecting("fewer"));
            }
        }
        if placed.matrix3.determinant() < 0.0 {
            all.iter_mut().for_each(|corners| corners.swap(0, 1));
        }
        Ok(all)
    }
}

/// Checks the size of a model before anything is read.
fn check_counts(model: &Model, nodes: &[Node<'_>]) -> Result<(), Problem> {
    let of = |primitive: gltf::Primitive<'_>| {
        let positions = primitive.get(&Semantic::Positions).map_or(0, |positions| positions.count());
        positions.saturating_add(primitive.indices().map_or(0, |indices| indices.count()))
    };
    let counts =
        nodes.iter().filter_map(Node::mesh).flat_map(|mesh| mesh.primitives().map(of).collect::<Vec<_>>());
    let count = counts.fold(0usize, usize::saturating_add);
    if count > MOST_READ {
        let found = format!("found {count} corners, counting reused ones again");
        return Err(model.problem(found).expecting(format!("at most {MOST_READ}")));
    }
    Ok(())
}

/// The nodes that have, or contain, a mesh: only those can be ridden on.
fn holding_meshes(nodes: &[Node<'_>]) -> Vec<bool> {
    let mut above = vec![Vec::new(); nodes.len()];
    for node in nodes {
        node.children().for_each(|child| above[child.index()].push(node.index()));
    }
    let mut holding = vec![false; nodes.len()];
    let mut next: Vec<usize> = nodes.iter().filter(|node| node.mesh().is_some()).map(Node::index).collect();
    while let Some(number) = next.pop() {
        if !std::mem::replace(&mut holding[number], true) {
            next.extend(&above[number]);
        }
    }
    holding
}

fn name_of(node: &Node<'_>) -> String {
    match node.name() {
        Some(name) => format!("node {} (`{name}`)", node.index()),
        None => format!("node {}", node.index()),
    }
}

/// The labels of a node: from its name and its extras.
pub(super) fn labels_of(node: &Node<'_>, game: &Game) -> Result<Labels, Wrong> {
    let mut labels = labels_in_name(node.name().unwrap_or(""), game);
    let Some(extras) = node.extras() else { return Ok(labels) };
    let extras: serde_json::Value = serde_json::from_str(extras.get())
        .map_err(|error| (format!("broken extras: {error}"), "JSON".to_owned()))?;
    let serde_json::Value::Object(extras) = extras else { return Ok(labels) };
    for (key, value) in extras {
        let text = match &value {
            serde_json::Value::String(text) => text.clone(),
            serde_json::Value::Array(items) => {
                items.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
            }
            other => other.to_string(),
        };
        if key == "class" {
            labels.words.extend(text.split_whitespace().map(str::to_owned));
        } else {
            labels.data.insert(key, text);
        }
    }
    Ok(labels)
}
