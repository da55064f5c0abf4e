//! Rising and falling under a gravity that changes with the speed.
//!
//! Between two moments at which the acceleration changes, the speed changes evenly and the distance
//! is the mean of both speeds times the time: d = (v₀ + v₁)·t / 2. The moments are worked out exactly,
//! so that the sum does not depend on the tick rate.

use smallvec::SmallVec;

/// Most parts of a tick's rise or fall: past the cut, round the top, down, at the terminal speed.
pub const PARTS: usize = 6;

/// A part of a tick's rise or fall in which the acceleration is uniform.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Part {
    pub time: f32,
    pub distance: f32,
    pub from: f32,
    pub to: f32,
}

impl Part {
    /// The part up to `time` seconds from its start, before its end, and the rest. The first takes
    /// no time where the moment is before its start.
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

/// The accelerations downward, in m/s², below 0 where wind lifts, and the
/// speeds between which each holds.
pub struct Weights {
    /// Up, faster than round the top.
    pub rising: f32,
    /// Up, round the top, where it is not as on the rise.
    pub top_rising: Option<f32>,
    /// Down, round the top, where it is not as on the fall.
    pub top_falling: Option<f32>,
    /// Down, faster than round the top.
    pub falling: f32,
    /// The speed below which it is round the top.
    pub slow: f32,
    /// The speed that ends a fall, and a lift.
    pub terminal: f32,
}

impl Weights {
    /// Whether a body at rest rises.
    pub fn lift(&self) -> bool {
        self.at(0.0, true).0 <= 0.0 && self.at(0.0, false).0 < 0.0
    }

    /// The acceleration just above (or below, going down) an upward speed, and
    /// the speeds between which it holds.
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
            // Round the top, too, nothing falls faster than it may.
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

/// The rise and fall of a tick that begins with an upward speed: cut where the
/// acceleration changes, and at most at the terminal speed.
pub fn fall(speed: f32, weights: &Weights, dt: f32) -> SmallVec<[Part; PARTS]> {
    let mut parts = SmallVec::new();
    let (mut from, mut left) = (speed.max(-weights.terminal), dt);
    while left > 0.0 && parts.len() < PARTS - 1 {
        let (sinking, least, _) = weights.at(from, true);
        let (lifted, _, most) = weights.at(from, false);
        // It sinks, or wind lifts it, or it hangs.
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

/// A [`fall`] whose beginning, where it is faster than the terminal speed, is slowed to
/// that at a rate.
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

    /// However gravity changes within it, one long tick is the sum of many short ones.
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
