//! Braking by a constant rate and a drag, as in water.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;

/// A deceleration of rate + drag × speed².
pub struct Brake {
    /// In m/s².
    pub rate: f32,
    /// In 1/m.
    pub drag: f32,
}

impl Brake {
    /// Returns the speed after at most `time` seconds of slowing to `least`, the distance, and the
    /// seconds it took.
    ///
    /// With c = √(drag / rate), the angle tan⁻¹(c·v) falls evenly, by √(rate·drag) per second. A
    /// change of the speed from v to w takes ln((1 + c²v²) / (1 + c²w²)) / 2·drag metres.
    pub fn slowed(&self, from: f32, least: f32, time: f32) -> (f32, f32, f32) {
        let Self { rate, drag } = *self;
        let is_even = drag * from * from < 1e-4 * rate;
        let c = (drag / rate).sqrt();
        let angle = |speed: f32| if is_even { 0.0 } else { libm::atanf(c * speed) };
        let needed =
            if is_even { (from - least) / rate } else { (angle(from) - angle(least)) / (rate * drag).sqrt() };
        let took = needed.min(time);
        let to = if needed <= time {
            least
        } else if is_even {
            from - rate * took
        } else {
            libm::tanf(angle(from) - (rate * drag).sqrt() * took) / c
        };
        let distance = if is_even {
            0.5 * (from + to) * took
        } else {
            let grows = (drag * (from * from - to * to)) / (rate + drag * to * to);
            libm::log1pf(grows) / (2.0 * drag)
        };
        (to, distance, took)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// One long tick equals many short ones, each by Euler's rule in doubles.
    #[test]
    fn a_brake_is_the_same_in_one_tick_or_many() {
        for (rate, drag) in [(20.0, 0.0), (27.0, 0.2), (5.0, 1.0), (90.0, 1e-5)] {
            for (from, least, time) in [(20.0, 0.0, 0.1), (8.0, 2.0, 1.0), (3.0, 0.0, 0.05)] {
                let (to, distance, took) = Brake { rate, drag }.slowed(from, least, time);
                let (mut speed, mut driven, mut passed) = (f64::from(from), 0.0, 0.0);
                let step = 1e-6;
                while speed > f64::from(least) && passed < f64::from(time) {
                    driven += speed * step;
                    speed -= (f64::from(rate) + f64::from(drag) * speed * speed) * step;
                    passed += step;
                }
                assert!((f64::from(to) - speed).abs() < 1e-3, "{rate} {drag} {from}: {to}, {speed}");
                assert!(
                    (f64::from(distance) - driven).abs() < 1e-3,
                    "{rate} {drag} {from}: {distance}, {driven}"
                );
                assert!((f64::from(took) - passed).abs() < 1e-4, "{rate} {drag} {from}: {took}, {passed}");
            }
        }
    }
}
