//! The motion of a model's root in an animation, for leading a body.

use std::path::Path;

use rasant::Geometry;
use rasant::glam::{DAffine3, Vec3};

use super::gltf::{DEEPEST, labels_of};
use super::model::Model;
use super::motion::Motions;
use crate::table::nearest;
use crate::{Files, Game, Problem};

/// How an animation moves its model, as a displacement from its initial position.
///
/// The model faces +z, with +y up, as in glTF: its motion along that axis becomes the body's motion
/// along its facing.
///
/// ```no_run
/// use rasant::glam::Vec3;
/// use rasant::{Controller, Hull, Intent, Level, Tuning};
/// use rasant_files::OnDisk;
/// use rasant_files::read_root_track;
/// # fn main() -> Result<(), Box<dyn std::error::Error>> {
/// # let level = Level::<Vec3>::builder().build()?;
/// let roll = read_root_track(&OnDisk, "lamplighter.glb".as_ref(), "Roll")?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec3::ZERO);
/// let dt = 1.0 / 60.0;
/// let mut time = 0.0;
/// while time < roll.duration() {
///     body.root_motion(roll.displacement(time, time + dt, body.state().facing, Vec3::Y));
///     body.tick(&Intent::default(), &level, dt);
///     time += dt;
/// }
/// # Ok(()) }
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct RootTrack {
    /// Times in seconds, and positions in the model's axes.
    keys: Vec<(f32, Vec3)>,
}

impl RootTrack {
    /// The duration, in seconds.
    #[must_use]
    pub fn duration(&self) -> f32 {
        self.keys.last().map_or(0.0, |(time, _)| *time)
    }

    /// The position of the root at a time, in metres from its initial position: +x to its left, +y
    /// up, +z forward. Constant before the first key and after the last.
    #[must_use]
    pub fn place(&self, time: f32) -> Vec3 {
        let after = self.keys.partition_point(|(key, _)| *key <= time);
        match (after.checked_sub(1).map(|before| self.keys[before]), self.keys.get(after)) {
            (Some((from, start)), Some(&(to, end))) => start.lerp(end, (time - from) / (to - from)),
            (Some((_, last)), None) => last,
            (None, first) => first.map_or(Vec3::ZERO, |(_, place)| *place),
        }
    }

    /// The displacement of a body that faces along `facing`, with this `up`, from one time to
    /// another: the argument of [`Controller::root_motion`](rasant::Controller::root_motion). In
    /// two dimensions the sideways component is dropped.
    #[must_use]
    pub fn displacement<V: Geometry>(&self, from: f32, to: f32, facing: V, up: V) -> V {
        let by = self.place(to) - self.place(from);
        let right = facing.crease(up).unwrap_or(V::ZERO);
        facing * by.z + up * by.y - right * by.x
    }
}

/// Reads how an animation of a glTF file moves its root: the node named `root` (in its name or the
/// `class` of its extras), or else the first animated node in the order of the scene.
///
/// # Errors
/// A [`Problem`] with the file, or if it has no such animation, or the animation moves no node.
pub fn read_root_track(files: &dyn Files, path: &Path, animation: &str) -> Result<RootTrack, Problem> {
    let model = Model::read(files, path)?;
    let names: Vec<&str> = model.document.animations().filter_map(|found| found.name()).collect();
    let found =
        model.document.animations().find(|found| found.name() == Some(animation)).ok_or_else(|| {
            let expected = match nearest(animation, names.iter().copied()) {
                Some(near) => format!("`{near}`?"),
                None => format!("one of: {}", names.join(", ")),
            };
            model.problem(format!("there is no animation `{animation}`")).expecting(expected)
        })?;
    let motions = Motions::of_one(&model, &found)?;
    let mut above = vec![None; model.document.nodes().len()];
    for node in model.document.nodes() {
        node.children().for_each(|child| above[child.index()] = Some(node.index()));
    }
    let nodes: Vec<gltf::Node<'_>> = model.document.nodes().collect();
    let moved = || nodes.iter().filter(|node| motions.moves(node.index()));
    let depth =
        |node: &&gltf::Node<'_>| chain_to(node.index(), &above).map_or(usize::MAX, |chain| chain.len());
    let is_root = |node: &&gltf::Node<'_>| {
        labels_of(node, &Game::default()).is_ok_and(|labels| labels.contains("root"))
            || node.name().is_some_and(|name| name.eq_ignore_ascii_case("root"))
    };
    let root = moved().find(is_root).or_else(|| moved().min_by_key(depth));
    let root = root.ok_or_else(|| {
        model
            .problem(format!("the animation `{animation}` moves no node"))
            .expecting("an animation that moves the root")
    })?;
    let chain = chain_to(root.index(), &above).ok_or_else(|| {
        let found = format!("node {}: it is nested {DEEPEST} nodes deep, or in itself", root.index());
        model.problem(found).expecting("fewer")
    })?;
    let placed = |time: f64| motions.placed(&nodes, &chain, DAffine3::IDENTITY, time).translation;
    let first = placed(0.0);
    let keys = motions.times(&chain).into_iter().map(|time| (time as f32, (placed(time) - first).as_vec3()));
    Ok(RootTrack { keys: keys.collect() })
}

/// The nodes from the outermost down to this one; `None` if they are nested too deep, or in
/// themselves.
fn chain_to(number: usize, above: &[Option<usize>]) -> Option<Vec<usize>> {
    let upward = std::iter::successors(Some(number), |number| above[*number]);
    let mut chain: Vec<usize> = upward.take(DEEPEST + 1).collect();
    chain.reverse();
    (chain.len() <= DEEPEST).then_some(chain)
}
