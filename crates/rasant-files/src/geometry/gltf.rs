//! Levels modelled in three dimensions: glTF 2.0, as text or binary.
//!
//! Its lengths are metres, y is up and the model's front looks along +z, as the format says.
//! What a node is, the words of its name tell, and its extras: `class` has more words, other
//! keys are data. A node that is animated takes what is in it along, on a path of its own.

use std::collections::{HashMap, HashSet};

use gltf::mesh::Mode;
use gltf::{Node, Semantic};
use rasant::glam::{DAffine3, DVec3, Vec3};
use rasant::{Carrier, CarrierId, Keyframe, PathEnd};

use super::Asked;
use super::model::Model;
use super::motion::{MOST_KEYS, Motions};
use super::spatial::{Part, Parts, said_by_name};
use super::told::{Role, Said, Told, Wrong, define_surfaces};
use super::triangles::MOST;
use crate::Problem;
use crate::making::Making;

/// Corners that are read at most, of all nodes.
const MOST_READ: usize = 60_000_000;
/// Nodes in nodes at most.
pub(super) const DEEPEST: usize = 200;

/// Adds a model to a level.
pub(super) fn add(asked: &Asked<'_, Vec3>, making: &mut Making<Vec3>) -> Result<(), Problem> {
    let model = Model::read(asked.files, &asked.path)?;
    let motions = Motions::of(&model, &mut |what| making.leave_out(what))?;
    let to_level = asked.model_to_level();
    let nodes: Vec<Node<'_>> = model.document.nodes().collect();
    check_counts(&model, &nodes)?;
    let holding = holding_meshes(&nodes);
    let (parts, seen) = (Parts::default(), HashMap::new());
    let mut reader =
        Reader { model: &model, nodes, holding, motions, to_level, making, parts, seen, keys: 0 };
    let wrong = |node: &Node<'_>, (found, expected): Wrong| {
        model.problem(format!("{}: {found}", name_of(node))).expecting(expected)
    };
    let said = |node: &Node<'_>| said_of(node).map_err(|why| wrong(node, why));
    let all = reader.nodes.iter().map(said).collect::<Result<Vec<_>, _>>()?;
    define_surfaces(&all, reader.making).map_err(|(number, why)| wrong(&reader.nodes[number], why))?;
    for extension in model.document.extensions_used() {
        reader.making.leave_out(format!("extension {extension}"));
    }
    let told = Told::new(asked.surface, asked.layers);
    for root in roots(&model) {
        reader.node(&root, &told, &Chain::default())?;
    }
    let Reader { parts, making, .. } = reader;
    parts.finish(making).map_err(|(found, expected)| model.problem(found).expecting(expected))
}

/// The nodes of the scene that the file shows, or of its first; without any, all that are in
/// no other.
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
    making: &'m mut Making<Vec3>,
    parts: Parts,
    /// The nodes met, and the one that each was met in; none for the scene itself.
    seen: HashMap<usize, Option<usize>>,
    /// Places on the paths of all carriers so far.
    keys: usize,
}

/// The nodes from the root down to one, and where the carrier is that it rides on.
#[derive(Clone, Default)]
struct Chain {
    nodes: Vec<usize>,
    origin: DVec3,
}

impl Reader<'_, '_> {
    fn node(&mut self, node: &Node<'_>, told: &Told, chain: &Chain) -> Result<(), Problem> {
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
        let said = said_of(node).map_err(wrong)?;
        let mut told = told.inside(&said, self.making).map_err(wrong)?;
        said.leave_out_unknown(self.making);
        let mut chain = chain.clone();
        chain.nodes.push(node.index());
        if told.role != Role::Ignored && self.motions.moves(node.index()) && self.holding[node.index()] {
            let (carrier, origin) = self.carrier(node, &said, &chain.nodes)?;
            (told.carrier, chain.origin) = (Some(carrier), origin);
        } else if said.contains("platform") {
            self.making.leave_out("platform without an animation: it stays where it is");
        }
        let to_level = self.placed(&chain.nodes, 0.0);
        if !to_level.is_finite() {
            return Err(wrong(("a transform without end".to_owned(), "finite numbers".to_owned())));
        }
        for (is_there, what) in [
            (node.camera().is_some(), "camera"),
            (node.skin().is_some(), "skin: the mesh is as it is without"),
        ] {
            if is_there {
                self.making.leave_out(what);
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
        self.parts.add(part, &told, &said, self.making).map_err(wrong)?;
        node.children().try_for_each(|child| self.node(&child, &told, &chain))
    }

    /// Where the last node of a chain is in the level at a time.
    fn placed(&self, chain: &[usize], time: f64) -> DAffine3 {
        self.motions.placed(&self.nodes, chain, self.to_level, time)
    }

    /// The carrier that an animated node is, and where it is at first.
    fn carrier(
        &mut self,
        node: &Node<'_>,
        said: &Said,
        chain: &[usize],
    ) -> Result<(CarrierId, DVec3), Problem> {
        let times = self.motions.times(chain);
        self.keys += times.len();
        if self.keys > MOST_KEYS {
            let found = format!("{}: found more than {MOST_KEYS} places on the ways of all", name_of(node));
            return Err(self.model.problem(found).expecting("fewer, or shorter animations"));
        }
        let at = |time: f64| {
            let (_, turn, place) = self.placed(chain, time).to_scale_rotation_translation();
            (turn, place)
        };
        let (first_turn, origin) = at(0.0);
        let mut path: Vec<Keyframe<Vec3>> = Vec::new();
        let mut is_askew = false;
        for time in times {
            let (turn, place) = at(time);
            let turned = turn * first_turn.inverse();
            is_askew |= turned.x.hypot(turned.z) > 1e-3;
            let angle = 2.0 * turned.y.atan2(turned.w);
            // The way round that is nearest to the one before.
            let before = path.last().map_or(0.0, |last| f64::from(last.turn));
            let whole = std::f64::consts::TAU;
            let angle = angle + ((before - angle) / whole).round() * whole;
            path.push(Keyframe { time: time as f32, offset: place.as_vec3(), turn: angle as f32 });
        }
        path.dedup_by(|later, before| later.time <= before.time);
        if is_askew {
            self.making.leave_out("turn of a platform about another axis than up");
            path.iter_mut().for_each(|key| key.turn = 0.0);
        }
        let is_round = match (path.first(), path.last()) {
            (Some(first), Some(last)) => first.offset.distance(last.offset) < 1e-4,
            _ => true,
        };
        let wrong = |(found, expected): Wrong| {
            self.model.problem(format!("{}: {found}", name_of(node))).expecting(expected)
        };
        let usual = if is_round { PathEnd::Loop } else { PathEnd::BackAndForth };
        let end = said.end().map_err(wrong)?.unwrap_or(usual);
        let name = node.name().map_or_else(|| format!("platform-{}", node.index()), str::to_owned);
        Ok((self.making.carrier(&name, Carrier::on_path(path, end)), origin))
    }

    /// The triangles of a mesh, placed.
    fn triangles(&mut self, mesh: &gltf::Mesh<'_>, placed: &DAffine3) -> Result<Vec<[Vec3; 3]>, Problem> {
        let mut all = Vec::new();
        for primitive in mesh.primitives() {
            let Some(positions) = primitive.get(&Semantic::Positions) else { continue };
            if !matches!(primitive.mode(), Mode::Triangles | Mode::TriangleStrip | Mode::TriangleFan) {
                self.making.leave_out("points or lines of a mesh");
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
                // Every other one goes the other way round.
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

/// Looks, before anything is read, at how much is to be.
fn check_counts(model: &Model, nodes: &[Node<'_>]) -> Result<(), Problem> {
    let of = |primitive: gltf::Primitive<'_>| {
        let positions = primitive.get(&Semantic::Positions).map_or(0, |positions| positions.count());
        positions.saturating_add(primitive.indices().map_or(0, |indices| indices.count()))
    };
    let counts =
        nodes.iter().filter_map(Node::mesh).flat_map(|mesh| mesh.primitives().map(of).collect::<Vec<_>>());
    let count = counts.fold(0usize, usize::saturating_add);
    if count > MOST_READ {
        let found = format!("found {count} corners, those used again counted again");
        return Err(model.problem(found).expecting(format!("at most {MOST_READ}")));
    }
    Ok(())
}

/// The nodes that have, or hold, a mesh: only those can be ridden on.
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

/// What is said of a node: by its name and its extras.
pub(super) fn said_of(node: &Node<'_>) -> Result<Said, Wrong> {
    let mut said = said_by_name(node.name().unwrap_or(""));
    let Some(extras) = node.extras() else { return Ok(said) };
    let extras: serde_json::Value = serde_json::from_str(extras.get())
        .map_err(|error| (format!("broken extras: {error}"), "JSON".to_owned()))?;
    let serde_json::Value::Object(extras) = extras else { return Ok(said) };
    for (key, value) in extras {
        let text = match &value {
            serde_json::Value::String(text) => text.clone(),
            serde_json::Value::Array(items) => {
                items.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
            }
            other => other.to_string(),
        };
        if key == "class" {
            said.words.extend(text.split_whitespace().map(str::to_owned));
        } else {
            said.data.insert(key, text);
        }
    }
    Ok(said)
}
