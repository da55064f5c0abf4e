//! Durations that add up without drift.

use core::fmt;
use core::ops::{AddAssign, SubAssign};

use crate::memory::Memory;

/// A duration in units of 1/131,072 s, so that the ticks of hours add up to hours. It saturates at
/// nine hours.
///
/// A tick is a whole number of units, and the rest is counted with the next
/// ([`CarryOver::uncounted`](super::CarryOver::uncounted)): a span differs by at most one unit from
/// the sum of its ticks.
///
/// ```
/// use rasant::state::Span;
///
/// let mut since = Span::of(0.25);
/// since += Span::of(0.25);
/// assert!(since.reaches(0.5) && since.is_within(0.5) && !since.reaches(0.51));
/// assert_eq!(since.seconds(), 0.5);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Span(u32);

/// Units per second.
const PARTS: f32 = 131_072.0;

impl Span {
    /// No time.
    pub const ZERO: Self = Self(0);
    /// The largest error of counting in units: one at the beginning, and one at the end.
    const OFF: u32 = 2;

    /// The span nearest to `seconds`. Zero for negative values and NaN.
    #[must_use]
    pub fn of(seconds: f32) -> Self {
        // The conversion to an integer saturates, and maps NaN to 0.
        Self((f64::from(seconds) * f64::from(PARTS) + 0.5) as u32)
    }

    /// The duration in seconds.
    #[must_use]
    pub fn seconds(self) -> f32 {
        (f64::from(self.0) / f64::from(PARTS)) as f32
    }

    /// Returns true if at least this many seconds have passed.
    #[must_use]
    pub fn reaches(self, seconds: f32) -> bool {
        self.0.saturating_add(Self::OFF) >= Self::of(seconds).0
    }

    /// Returns true if it lasts no longer than this many seconds.
    #[must_use]
    pub fn is_within(self, seconds: f32) -> bool {
        self.0 <= Self::of(seconds).0.saturating_add(Self::OFF)
    }

    /// Returns true if nothing is left of it, when it is counted down.
    #[must_use]
    pub fn is_over(self) -> bool {
        self.0 <= Self::OFF
    }

    /// The duration of a tick of `dt` seconds. The rest, in units, stays in `uncounted`.
    pub(crate) fn tick(dt: f32, uncounted: &mut f32) -> Self {
        let parts = f64::from(dt) * f64::from(PARTS) + f64::from(*uncounted);
        let counted = parts as u32;
        *uncounted = (parts - f64::from(counted)) as f32;
        if *uncounted >= 1.0 {
            // Longer than the range.
            *uncounted = 0.0;
        }
        Self(counted)
    }
}

impl AddAssign for Span {
    fn add_assign(&mut self, other: Self) {
        self.0 = self.0.saturating_add(other.0);
    }
}

impl SubAssign for Span {
    fn sub_assign(&mut self, other: Self) {
        self.0 = self.0.saturating_sub(other.0);
    }
}

impl fmt::Display for Span {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.seconds().fmt(f)
    }
}

impl Memory for Span {
    const WORDS: usize = 1;

    fn read(words: &[u32]) -> Self {
        Self(words[0])
    }

    fn write(&self, words: &mut [u32]) {
        words[0] = self.0;
    }
}
