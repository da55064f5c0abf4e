//! Critically damped springs, solved exactly.

use crate::space::Vector;

/// A point on a critically damped spring.
///
/// It solves x″ = ω²·(target − x) − 2·ω·x′ in closed form for a target that moves straight, so that
/// the result does not depend on how a time is divided into steps.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(super) struct Spring<V> {
    pub at: V,
    pub velocity: V,
}

/// ω times the time in which 90 % of a sudden step are made up: the solution of (1 + x)·e⁻ˣ = 0.1.
const SETTLED: f32 = 3.889_72;

impl<V: Vector> Spring<V> {
    /// A spring at rest.
    pub fn at(at: V) -> Self {
        Self { at, velocity: V::ZERO }
    }

    /// The spring after `time` seconds in which its target moves from `from` with `velocity`. It makes up
    /// 90 % of a sudden step within `settle_time` seconds, 0 for at once.
    pub fn after(&self, time: f32, settle_time: f32, (from, velocity): (V, V)) -> Self {
        if settle_time <= 0.0 {
            return Self { at: from + velocity * time, velocity };
        }
        let omega = SETTLED / settle_time;
        // The point that moves with the target, behind it by 2·v/ω, solves the equation.
        let behind = from - velocity * (2.0 / omega);
        let offset = self.at - behind;
        let change = self.velocity - velocity + offset * omega;
        let decay = libm::expf(-omega * time);
        let left = (offset + change * time) * decay;
        let speed = change * decay - left * omega;
        Self { at: behind + velocity * time + left, velocity: velocity + speed }
    }
}
