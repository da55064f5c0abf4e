//! What a body knows between two jumps.

/// Presses that wait, and jumps that are left.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Jumps {
    /// Seconds for which a press of jump still waits for the ground.
    pub wait: f32,
    /// Jumps left in the air.
    pub air: u8,
    /// One more than there were in all, by the tuning, when they were last counted; 0 before that.
    #[cfg_attr(feature = "serde", serde(default))]
    pub(crate) counted: u8,
}
