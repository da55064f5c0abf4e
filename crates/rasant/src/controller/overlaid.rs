//! The overlay of a body in a tick: begun by an action, slowing the steering, counted, reported.

use crate::animation::Overlay;
use crate::input::Intent;
use crate::state::{Event, Events, Phase};
use crate::tuning::Tuning;

/// Begins the overlay that an intent asks for. Returns the intent as the overlay slows it.
pub(super) fn take_in(overlay: &mut Option<Overlay>, tuning: &Tuning, intent: &Intent) -> Intent {
    if let Some((name, plan)) = Overlay::asked_for(&tuning.overlay, intent) {
        *overlay = Some(Overlay::begun(name, plan, overlay.as_ref()));
    }
    overlay.map_or(*intent, |overlay| overlay.slowed(intent))
}

/// Counts a tick of `dt` seconds, and emits the phases that were entered in it.
pub(super) fn advance<V: Copy>(overlay: &mut Option<Overlay>, dt: f32, events: &mut Events<V>) {
    let Some(running) = overlay else { return };
    if let Some(name) = running.replaces.take() {
        events.push(Event::OverlayPhase { name, phase: Phase::Cooldown });
    }
    for time in [0.0, dt] {
        running.age += time;
        let phase = running.phase();
        if running.emitted != Some(phase) {
            events.push(Event::OverlayPhase { name: running.name, phase });
            running.emitted = Some(phase);
        }
        if phase == Phase::Cooldown {
            *overlay = None;
            return;
        }
    }
}
