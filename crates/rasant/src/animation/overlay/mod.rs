//! Actions that play over the motion.

pub(crate) mod knobs;

use crate::input::{Actions, Intent};
use crate::state::{Name, Phase, Phases};

use knobs::OverlayKnobs;

/// A running action of the upper body: plain data.
///
/// [`Controller::begin_overlay`](crate::Controller::begin_overlay) begins one, and so does the game's
/// own action `overlay.action`. The body has at most one; another one replaces it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Overlay {
    /// The name, for choosing the clip.
    pub name: Name,
    /// The plan.
    pub plan: OverlayPlan,
    /// Seconds since it began.
    pub age: f32,
    /// The phase of the last event.
    pub(crate) emitted: Option<Phase>,
    /// The overlay that it replaces, if the end of that has not been reported.
    pub(crate) replaces: Option<Name>,
}

/// The course of an overlay.
///
/// ```
/// use rasant::animation::OverlayPlan;
/// use rasant::Phase;
///
/// let swing = OverlayPlan { startup: 0.1, active: 0.2, recovery: 0.3, pace: 0.5 };
/// assert_eq!(swing.phase_at(0.15), Phase::Active);
/// assert_eq!(swing.phase_at(0.7), Phase::Cooldown); // it is over
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct OverlayPlan {
    /// Seconds of the first phase.
    pub startup: f32,
    /// Seconds of the active phase. Infinite for one that lasts until the game ends it, as for a load
    /// that is carried.
    pub active: f32,
    /// Seconds of the last phase.
    pub recovery: f32,
    /// The factor on the steering, 0 to 1.
    pub pace: f32,
}

impl Default for OverlayPlan {
    /// Half a second, which does not slow the legs.
    fn default() -> Self {
        Self { startup: 0.0, active: 0.5, recovery: 0.0, pace: 1.0 }
    }
}

impl OverlayPlan {
    /// The phase at an age in seconds. [`Phase::Cooldown`] if it is over.
    #[must_use]
    pub fn phase_at(&self, age: f32) -> Phase {
        self.phases().at(age)
    }

    fn phases(&self) -> Phases {
        let Self { startup, active, recovery, .. } = *self;
        Phases { startup, active, recovery }
    }

    /// The plan without NaN and negative numbers, and with a pace of 0 to 1.
    pub(crate) fn sound(self) -> Self {
        let Self { startup, active, recovery, pace } = self;
        // `max` answers the other number if one is NaN. Infinite times are finite in the state, because
        // formats such as JSON have no infinity.
        let [startup, active, recovery, pace] =
            [startup, active, recovery, pace].map(|number: f32| number.clamp(0.0, f32::MAX).max(0.0));
        Self { startup, active, recovery, pace: pace.min(1.0) }
    }
}

impl Overlay {
    /// The name of the overlay that the knobs describe.
    pub const BY_ACTION: Name = Name::new("overlay");

    /// An overlay that begins and replaces another one.
    pub(crate) fn begun(name: Name, plan: OverlayPlan, before: Option<&Self>) -> Self {
        let replaces = before.and_then(|before| before.replaces.or(before.emitted.map(|_| before.name)));
        Self { name, plan: plan.sound(), age: 0.0, emitted: None, replaces }
    }

    /// The overlay that these knobs begin with an intent, if any.
    pub(crate) fn asked_for(knobs: &OverlayKnobs, intent: &Intent) -> Option<(Name, OverlayPlan)> {
        let OverlayKnobs { action, startup, active, recovery, pace } = *knobs;
        let pressed = intent.pressed.intersects(Actions::of_knob(action));
        pressed.then_some((Self::BY_ACTION, OverlayPlan { startup, active, recovery, pace }))
    }

    /// The current phase.
    #[must_use]
    pub fn phase(&self) -> Phase {
        self.plan.phase_at(self.age)
    }

    /// The fraction of the current phase that has passed, 0 to 1; 0 for a phase without an end.
    #[must_use]
    pub fn progress(&self) -> f32 {
        self.plan.phases().progress_at(self.age)
    }

    /// The same overlay in its last phase. What was before it counts as done.
    pub(crate) fn ended(self) -> Self {
        let OverlayPlan { startup, active, .. } = self.plan;
        let plan = OverlayPlan { startup: 0.0, active: 0.0, ..self.plan };
        match self.phase() {
            Phase::Recovery => Self { plan, age: self.age - startup - active, ..self },
            _ => Self { plan, age: 0.0, ..self },
        }
    }

    /// The intent, with steering that is slowed by the pace.
    pub(crate) fn slowed(&self, intent: &Intent) -> Intent {
        Intent { steer: intent.steer * self.plan.pace, ..*intent }
    }
}
