//! Searches for the largest or smallest number for which something holds.

/// The largest number from `least` to `most` for which `holds` is true, to within `slack`; `None`
/// if it holds nowhere. What holds for a number must hold for all smaller ones.
pub(super) fn greatest_of(
    least: f64,
    most: f64,
    slack: f64,
    mut holds: impl FnMut(f64) -> bool,
) -> Option<f64> {
    if holds(most) {
        return Some(most);
    }
    let (mut low, mut high) = (least, most);
    while high - low > slack {
        let middle = 0.5 * (low + high);
        if holds(middle) { low = middle } else { high = middle }
    }
    (low > least).then_some(low)
}

/// The smallest number from `least` to `most` for which `holds` is true, to within `slack`; `None`
/// if it does not hold at `most`. What holds for a number must hold for all larger ones.
pub(super) fn least_of(least: f64, most: f64, slack: f64, mut holds: impl FnMut(f64) -> bool) -> Option<f64> {
    if !holds(most) {
        return None;
    }
    let (mut low, mut high) = (least, most);
    while high - low > slack {
        let middle = 0.5 * (low + high);
        if holds(middle) { high = middle } else { low = middle }
    }
    Some(high)
}

/// The largest height or depth for which `holds` is true, searched for around an expected one, to
/// within 0.2 mm; `None` if it holds nowhere, or up to 100 m.
pub(super) fn greatest(target: f64, mut holds: impl FnMut(f64) -> bool) -> Option<f64> {
    /// The distance in metres that counts as no limit.
    const ENDLESS: f64 = 100.0;
    let mut most = target + 0.02;
    while holds(most) {
        most *= 2.0;
        if most > ENDLESS {
            return None;
        }
    }
    greatest_of(0.0, most, 2e-4, &mut holds)
}

/// The largest whole number up to `most` for which `holds` is true, by doubling and bisection;
/// `None` if it does not hold for 0. What holds for a number must hold for all smaller ones.
pub(super) fn greatest_whole(most: usize, mut holds: impl FnMut(usize) -> bool) -> Option<usize> {
    if !holds(0) {
        return None;
    }
    let (mut low, mut high) = (0, 1);
    while high <= most && holds(high) {
        (low, high) = (high, 2 * high);
    }
    high = high.min(most + 1);
    while high - low > 1 {
        let middle = low + (high - low) / 2;
        if holds(middle) { low = middle } else { high = middle }
    }
    Some(low)
}
