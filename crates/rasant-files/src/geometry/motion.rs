//! The motion of nodes of a model, from its animations.

use std::collections::HashMap;

use gltf::animation::{Interpolation, Property};
use gltf::scene::Transform;
use gltf::{Animation, Node};
use rasant::glam::{DAffine3, DMat4, DQuat, DVec3};

use super::model::Model;
use crate::Problem;

/// The maximum number of keyframes on the paths of one file.
pub(super) const MOST_KEYS: usize = 200_000;
/// Seconds between keyframes on a path that is not straight.
const FINE: f64 = 1.0 / 30.0;

/// A value over time.
struct Curve<T> {
    times: Vec<f64>,
    /// One value per time. Smooth curves have three: the tangent in, the value, the tangent out.
    values: Vec<T>,
    how: Interpolation,
}

/// The motion of one node.
#[derive(Default)]
struct Motion {
    place: Option<Curve<DVec3>>,
    turn: Option<Curve<DQuat>>,
}

/// The motion of each animated node, by its number.
pub(super) struct Motions(HashMap<usize, Motion>);

impl Motions {
    /// The motions of all animations of a model; if several animate one node, the first counts.
    /// What is left out is reported to `left_out`.
    pub fn of(model: &Model, left_out: &mut dyn FnMut(&str)) -> Result<Self, Problem> {
        let mut all = Self(HashMap::new());
        for animation in model.document.animations() {
            all.add(model, &animation, left_out)?;
        }
        let keys: usize = all.0.values().map(|motion| motion.times().len()).sum();
        if keys > MOST_KEYS {
            return Err(model
                .problem(format!("found {keys} keys of animations"))
                .expecting(format!("at most {MOST_KEYS}")));
        }
        Ok(all)
    }

    /// The motions of one animation.
    pub fn of_one(model: &Model, animation: &Animation<'_>) -> Result<Self, Problem> {
        let mut all = Self(HashMap::new());
        all.add(model, animation, &mut |_| {})?;
        Ok(all)
    }

    fn add(
        &mut self,
        model: &Model,
        animation: &Animation<'_>,
        left_out: &mut dyn FnMut(&str),
    ) -> Result<(), Problem> {
        for channel in animation.channels() {
            let target = channel.target();
            let number = target.node().index();
            let sampler = channel.sampler();
            let how = sampler.interpolation();
            let count = sampler.input().count().max(sampler.output().count());
            if count > 3 * MOST_KEYS {
                let found = format!("animation {}: found {count} keys", animation.index());
                return Err(model.problem(found).expecting(format!("at most {MOST_KEYS}")));
            }
            let name = || format!("animation {}", animation.index());
            match target.property() {
                Property::Translation => {
                    let values: Vec<[f32; 3]> = model.floats(&sampler.output())?;
                    let values = values.into_iter().map(|[x, y, z]| DVec3::new(x.into(), y.into(), z.into()));
                    let curve = Curve::new(model, &sampler.input(), values.collect(), how, &name)?;
                    self.put(number, |motion| &mut motion.place, curve, left_out);
                }
                Property::Rotation => {
                    let values: Vec<[f32; 4]> = model.floats(&sampler.output())?;
                    let values = values.into_iter().map(|parts| DQuat::from_array(parts.map(f64::from)));
                    let curve = Curve::new(model, &sampler.input(), values.collect(), how, &name)?;
                    self.put(number, |motion| &mut motion.turn, curve, left_out);
                }
                Property::Scale => left_out("animation of a scale"),
                Property::MorphTargetWeights => left_out("animation of a mesh's shape"),
            }
        }
        Ok(())
    }

    fn put<T>(
        &mut self,
        number: usize,
        slot: fn(&mut Motion) -> &mut Option<Curve<T>>,
        curve: Curve<T>,
        left_out: &mut dyn FnMut(&str),
    ) {
        let slot = slot(self.0.entry(number).or_default());
        match slot {
            None => *slot = Some(curve),
            Some(_) => left_out("second animation of a node"),
        }
    }

    pub fn moves(&self, number: usize) -> bool {
        self.0.contains_key(&number)
    }

    /// The placement of the last node of a chain at a time, with the first node inside `above`.
    pub fn placed(&self, nodes: &[Node<'_>], chain: &[usize], above: DAffine3, time: f64) -> DAffine3 {
        chain.iter().fold(above, |above, number| {
            let node = &nodes[*number];
            above * self.0.get(number).map_or_else(|| local_of(node), |motion| motion.at(node, time))
        })
    }

    /// The times at which the last node of a chain must be sampled so that straight lines
    /// approximate its path: in order, from 0.
    pub fn times(&self, chain: &[usize]) -> Vec<f64> {
        let moving: Vec<&Motion> = chain.iter().filter_map(|number| self.0.get(number)).collect();
        let mut times: Vec<f64> = moving.iter().flat_map(|motion| motion.times()).collect();
        times.push(0.0);
        times.sort_by(f64::total_cmp);
        times.dedup();
        let is_straight = matches!(moving[..], [only] if only.is_straight() && chain.last().is_some_and(|last| self.moves(*last)));
        if is_straight {
            return times;
        }
        let ends = times.last().copied().unwrap_or(0.0);
        let fine = (0..((ends / FINE) as usize).min(MOST_KEYS + 1)).map(|number| number as f64 * FINE);
        times.extend(fine);
        times.sort_by(f64::total_cmp);
        times.dedup_by(|later, before| *later - *before < 1e-6);
        times
    }
}

impl Motion {
    /// The placement of the node in its parent at a time.
    fn at(&self, node: &Node<'_>, time: f64) -> DAffine3 {
        let (scale, turn, place) = local_of(node).to_scale_rotation_translation();
        let place = self.place.as_ref().map_or(place, |curve| curve.at(time));
        let turn = self.turn.as_ref().map_or(turn, |curve| curve.at(time).normalize());
        DAffine3::from_scale_rotation_translation(scale, turn, place)
    }

    /// The times of the keys. Each step has another one just before it.
    fn times(&self) -> Vec<f64> {
        fn of<T>(curve: &Curve<T>) -> impl Iterator<Item = f64> + '_ {
            /// The duration of a step.
            const STEP: f64 = 1e-3;
            let steps = curve
                .times
                .iter()
                .filter(|_| curve.how == Interpolation::Step)
                .map(|time| (time - STEP).max(0.0));
            curve.times.iter().copied().chain(steps)
        }
        let places = self.place.iter().flat_map(of);
        let turns = self.turn.iter().flat_map(of);
        places.chain(turns).collect()
    }

    fn is_straight(&self) -> bool {
        let smooth = Interpolation::CubicSpline;
        self.place.as_ref().is_none_or(|curve| curve.how != smooth)
            && self.turn.as_ref().is_none_or(|curve| curve.how != smooth)
    }
}

/// A value that can be interpolated.
trait Blend: Copy {
    fn blend(self, to: Self, fraction: f64) -> Self;
    /// The weighted sum of four values.
    fn sum(parts: [(Self, f64); 4]) -> Self;
}

impl Blend for DVec3 {
    fn blend(self, to: Self, fraction: f64) -> Self {
        self.lerp(to, fraction)
    }
    fn sum(parts: [(Self, f64); 4]) -> Self {
        parts.into_iter().map(|(part, factor)| part * factor).sum()
    }
}

impl Blend for DQuat {
    fn blend(self, to: Self, fraction: f64) -> Self {
        self.normalize().slerp(to.normalize(), fraction)
    }
    fn sum(parts: [(Self, f64); 4]) -> Self {
        parts.into_iter().fold(DQuat::from_array([0.0; 4]), |sum, (part, factor)| sum + part * factor)
    }
}

impl<T: Blend> Curve<T> {
    fn new(
        model: &Model,
        times: &gltf::Accessor<'_>,
        values: Vec<T>,
        how: Interpolation,
        name: &dyn Fn() -> String,
    ) -> Result<Self, Problem> {
        let times: Vec<[f32; 1]> = model.floats(times)?;
        let times: Vec<f64> = times.into_iter().map(|[time]| time.into()).collect();
        let is_in_order =
            times.windows(2).all(|ends| ends[0] < ends[1]) && times.iter().all(|time| *time >= 0.0);
        if times.is_empty() || !is_in_order {
            let found = format!("{}: times that are not in order", name());
            return Err(model
                .problem(found)
                .expecting("at least one, each later than the one before, from 0 on"));
        }
        let each = if how == Interpolation::CubicSpline { 3 } else { 1 };
        if values.len() != times.len() * each {
            let found = format!("{}: {} values for {} times", name(), values.len(), times.len());
            return Err(model.problem(found).expecting(format!("{}", times.len() * each)));
        }
        Ok(Self { times, values, how })
    }

    /// The value at a time, as specified in appendix C.
    fn at(&self, time: f64) -> T {
        let each = if self.how == Interpolation::CubicSpline { 3 } else { 1 };
        let value = |key: usize| self.values[key * each + each / 2];
        let after = self.times.partition_point(|key| *key <= time);
        let Some(before) = after.checked_sub(1) else { return value(0) };
        if after == self.times.len() {
            return value(before);
        }
        let length = self.times[after] - self.times[before];
        let fraction = (time - self.times[before]) / length;
        match self.how {
            Interpolation::Step => value(before),
            Interpolation::Linear => value(before).blend(value(after), fraction),
            Interpolation::CubicSpline => {
                let (s2, s3) = (fraction * fraction, fraction * fraction * fraction);
                T::sum([
                    (value(before), 2.0 * s3 - 3.0 * s2 + 1.0),
                    (self.values[before * 3 + 2], length * (s3 - 2.0 * s2 + fraction)),
                    (value(after), -2.0 * s3 + 3.0 * s2),
                    (self.values[after * 3], length * (s3 - s2)),
                ])
            }
        }
    }
}

/// The placement of a node in its parent without animation.
fn local_of(node: &Node<'_>) -> DAffine3 {
    match node.transform() {
        Transform::Matrix { matrix } => {
            DAffine3::from_mat4(DMat4::from_cols_array_2d(&matrix.map(|column| column.map(f64::from))))
        }
        Transform::Decomposed { translation, rotation, scale } => DAffine3::from_scale_rotation_translation(
            DVec3::from_array(scale.map(f64::from)),
            DQuat::from_array(rotation.map(f64::from)),
            DVec3::from_array(translation.map(f64::from)),
        ),
    }
}
