//! Approaching a velocity at constant rates.

use crate::space::Vector;

/// The durations that define how a velocity approaches its target: from 0 to `speed`, from it to 0,
/// and the reversal.
#[derive(Clone, Copy)]
pub struct Times {
    pub speed: f32,
    pub reach: f32,
    pub stop: f32,
    pub turn: f32,
}

impl Times {
    /// Returns the velocity after `dt` seconds of changing from `from` to `target`, and the
    /// displacement.
    pub fn approach<V: Vector>(&self, from: V, target: V, dt: f32) -> (V, V) {
        if from == target {
            return (target, target * dt);
        }
        let against = from.dot(target);
        if against < 0.0 {
            // On a reversal, the velocity changes at the turning rate until nothing is left of the
            // old direction, and at the reaching rate from there.
            let change = target - from;
            let fraction = -against / change.dot(target);
            let standing = from + change * fraction;
            let (velocity, displacement, left) = ramp(from, standing, self.rate(self.turn), dt);
            if left <= 0.0 {
                return (velocity, displacement);
            }
            let (velocity, more, left) = ramp(standing, target, self.rate(self.reach), left);
            return (velocity, displacement + more + velocity * left);
        }
        let slower = target.length_squared() < from.length_squared();
        let time = if slower { self.stop } else { self.reach };
        let (velocity, displacement, left) = ramp(from, target, self.rate(time), dt);
        (velocity, displacement + velocity * left)
    }

    fn rate(&self, time: f32) -> f32 {
        if time > 0.0 { self.speed / time } else { f32::INFINITY }
    }
}

/// Changes a velocity evenly toward `to` for at most `dt` seconds. Returns the velocity, the
/// displacement, and the time left when `to` is reached.
pub fn ramp<V: Vector>(from: V, to: V, rate: f32, dt: f32) -> (V, V, f32) {
    let change = to - from;
    let needed = change.length() / rate;
    if needed.is_nan() || needed <= dt {
        let time = if needed.is_nan() { 0.0 } else { needed };
        (to, (from + to) * (0.5 * time), dt - time)
    } else {
        let reached = from + change * (dt / needed);
        (reached, (from + reached) * (0.5 * dt), 0.0)
    }
}

/// Returns the speed after `time` seconds at a constant rate between two speeds, and the distance.
pub fn approach_speed(from: f32, to: f32, rate: f32, time: f32) -> (f32, f32) {
    let needed = (to - from).abs() / rate;
    if needed <= time {
        return (to, 0.5 * (from + to) * needed + to * (time - needed));
    }
    let end = from + (to - from).signum() * rate * time;
    (end, 0.5 * (from + end) * time)
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::Vec2;

    /// The displacement of one tick equals the sum over many short ones.
    #[test]
    fn a_displacement_is_the_integral_whatever_the_tick() {
        let times = Times { speed: 4.0, reach: 0.13, stop: 0.07, turn: 0.05 };
        for (from, target) in [(0.0, 4.0), (4.0, 0.0), (4.0, -4.0), (-1.0, 2.5), (3.0, 1.0)] {
            let (whole, displacement) = times.approach(Vec2::X * from, Vec2::X * target, 0.1);
            let (mut velocity, mut sum) = (Vec2::X * from, Vec2::ZERO);
            for _ in 0..1000 {
                let (next, step) = times.approach(velocity, Vec2::X * target, 1e-4);
                velocity = next;
                sum += step;
            }
            assert!((whole - velocity).length() < 1e-3, "{from} to {target}");
            assert!((displacement - sum).length() < 1e-4, "{from} to {target}: {displacement} {sum}");
        }
    }
}
