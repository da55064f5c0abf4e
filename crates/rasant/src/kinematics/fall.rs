//! Rising and falling under a gravity that depends on the speed.
//!
//! Between two moments at which the acceleration changes, the speed changes evenly, and the
//! distance is the mean of both speeds times the time: d = (v₀ + v₁)·t / 2. The moments are
//! computed exactly, so that the sum does not depend on the tick rate.

use smallvec::SmallVec;

/// The maximum number of parts of a tick: past the cut, around the top, down, at the terminal
/// speed.
pub const PARTS: usize = 6;

/// A part of a tick in which the acceleration is constant.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Part {
    pub time: f32,
    pub distance: f32,
    pub from: f32,
    pub to: f32,
}

impl Part {
    /// Splits the part at `time` seconds from the start of the tick. The first half is empty if
    /// that is before the part.
    pub fn cut_at(&self, time: f32) -> [Self; 2] {
        let none = Self { time: 0.0, distance: 0.0, ..*self };
        if time <= 0.0 {
            return [Self { to: self.from, ..none }, *self];
        }
        let between = self.from + (self.to - self.from) * (time / self.time);
        let distance = 0.5 * (self.from + between) * time;
        let first = Self { time, distance, from: self.from, to: between };
        [
            first,
            Self { time: self.time - time, distance: self.distance - distance, from: between, to: self.to },
        ]
    }
}

/// The downward accelerations, in m/s² (below 0 where wind lifts), and the speeds between which
/// each applies.
pub struct Weights {
    /// Rising, faster than around the top.
    pub rising: f32,
    /// Rising around the top, if it differs from `rising`.
    pub top_rising: Option<f32>,
    /// Falling around the top, if it differs from `falling`.
    pub top_falling: Option<f32>,
    /// Falling, faster than around the top.
    pub falling: f32,
    /// The speed below which the body is around the top.
    pub slow: f32,
    /// The largest speed of a fall, and of a lift by wind.
    pub terminal: f32,
}

impl Weights {
    /// Returns true if a body at rest rises.
    pub fn lift(&self) -> bool {
        self.at(0.0, true).0 <= 0.0 && self.at(0.0, false).0 < 0.0
    }

    /// The acceleration just above an upward speed (or just below it, going down), and the speeds
    /// between which it applies.
    fn at(&self, speed: f32, down: bool) -> (f32, f32, f32) {
        let above = if down { speed > 0.0 } else { speed >= 0.0 };
        if above {
            let beyond = if down { speed > self.slow } else { speed >= self.slow };
            match self.top_rising {
                Some(top) if !beyond => (top, 0.0, self.slow),
                Some(_) => (self.rising, self.slow, self.terminal),
                None => (self.rising, 0.0, self.terminal),
            }
        } else {
            // Around the top, too, nothing falls faster than the terminal speed.
            let slow = self.slow.min(self.terminal);
            let beyond = if down { -speed >= slow } else { -speed > slow };
            match self.top_falling {
                Some(top) if !beyond => (top, -slow, 0.0),
                Some(_) => (self.falling, -self.terminal, -slow),
                None => (self.falling, -self.terminal, 0.0),
            }
        }
    }
}

/// The parts of a tick that begins with an upward speed: split where the acceleration changes, and
/// limited to the terminal speed.
pub fn fall(speed: f32, weights: &Weights, dt: f32) -> SmallVec<[Part; PARTS]> {
    let mut parts = SmallVec::new();
    let (mut from, mut left) = (speed.max(-weights.terminal), dt);
    while left > 0.0 && parts.len() < PARTS - 1 {
        let (sinking, least, _) = weights.at(from, true);
        let (lifted, _, most) = weights.at(from, false);
        // The body sinks, wind lifts it, or it hovers.
        let (rate, to) = if sinking > 0.0 && from > least {
            (sinking, least)
        } else if lifted < 0.0 && from < most {
            (lifted, most)
        } else {
            break;
        };
        let time = ((from - to) / rate).min(left);
        let reached = if time < left || (from - to) == rate * left { to } else { from - rate * left };
        parts.push(Part { time, distance: 0.5 * (from + reached) * time, from, to: reached });
        (from, left) = (reached, left - time);
    }
    if left > 0.0 || parts.is_empty() {
        parts.push(Part { time: left, distance: from * left, from, to: from });
    }
    parts
}

/// A [`fall`] that first slows down to the terminal speed at a rate, if it begins faster.
pub fn braked_fall(speed: f32, weights: &Weights, rate: f32, dt: f32) -> SmallVec<[Part; PARTS]> {
    let time = ((-weights.terminal - speed) / rate).min(dt);
    if time.is_nan() || time <= 0.0 {
        return fall(speed, weights, dt);
    }
    let to = speed + rate * time;
    let mut parts = SmallVec::new();
    parts.push(Part { time, distance: 0.5 * (speed + to) * time, from: speed, to });
    if dt - time > 0.0 {
        parts.extend(fall(to, weights, dt - time));
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;

    fn weights(terminal: f32) -> Weights {
        let (gravity, heavier) = (20.0, 30.0);
        Weights {
            rising: gravity,
            top_rising: None,
            top_falling: None,
            falling: heavier,
            slow: 0.0,
            terminal,
        }
    }

    #[test]
    fn a_fall_ends_at_the_terminal_speed() {
        let parts = fall(-1.0, &weights(3.0), 1.0);
        assert_eq!(parts.last().unwrap().to, -3.0);
        let distance: f32 = parts.iter().map(|part| part.distance).sum();
        assert!(distance > -3.0 && distance < -2.9);
        assert_eq!(parts.iter().map(|part| part.time).sum::<f32>(), 1.0);
    }

    /// One long tick equals many short ones, however gravity changes within it.
    #[test]
    fn a_fall_is_the_same_in_one_tick_or_many() {
        let lighter = |slow: f32, top: f32| Weights {
            top_rising: Some(top),
            top_falling: Some(top),
            slow,
            ..weights(9.0)
        };
        let lifted = Weights { rising: -5.0, falling: 8.0, ..weights(9.0) };
        for weights in [weights(9.0), lighter(1.5, 6.0), lighter(3.0, 2.0), lifted] {
            for start in [-9.0, -2.0, -0.5, 0.0, 0.4, 2.0, 7.0] {
                let whole = fall(start, &weights, 0.5);
                let (mut speed, mut distance) = (start, 0.0);
                for _ in 0..5000 {
                    for part in fall(speed, &weights, 1e-4) {
                        (speed, distance) = (part.to, distance + part.distance);
                    }
                }
                let sum: f32 = whole.iter().map(|part| part.distance).sum();
                assert!((whole.last().unwrap().to - speed).abs() < 5e-3, "from {start}: {whole:?}, {speed}");
                assert!((sum - distance).abs() < 5e-3, "from {start}: {sum}, {distance}");
            }
        }
    }
}
