//! The order of events that is allowed.

use std::collections::BTreeSet;

use rasant::state::Name;
use rasant::{Event, Geometry, Mode, Phase, State, ZoneId};

/// Hears all events of a body and says which is out of place.
pub struct Grammar {
    standing: bool,
    at_wall: bool,
    ladder: Option<ZoneId>,
    crouched: bool,
    zones: BTreeSet<u16>,
    maneuver: Option<(Name, Phase)>,
    moved: Option<Name>,
    crushed: bool,
    overlay: Option<(Name, Phase)>,
    /// Whether the body has risen since its last apex.
    rose: bool,
}

impl Grammar {
    pub fn of<V: Geometry>(state: &State<V>) -> Self {
        Self {
            standing: state.footing.is_firm(),
            at_wall: state.touching.is_at_wall(),
            ladder: state.ladder,
            crouched: state.crouched,
            zones: state.zones.ids().iter().map(|zone| zone.0).collect(),
            maneuver: state.maneuver.as_ref().map(|maneuver| (state.mode.name(), maneuver.phase())),
            moved: match state.mode {
                // Those have events of their own.
                _ if state.maneuver.is_some() || state.ladder.is_some() => None,
                Mode::Move(name) if name != "wall-slide" => Some(name),
                _ => None,
            },
            crushed: state.carry_over.crushed.is_some(),
            overlay: None,
            rose: state.velocity.dot(state.up) > 0.0,
        }
    }

    /// Returns what is wrong with an event, or `None`.
    pub fn hear<V: Geometry>(&mut self, event: &Event<V>) -> Option<&'static str> {
        let wrong = |is_right: bool, what: &'static str| (!is_right).then_some(what);
        match *event {
            Event::LeftGround { .. } => wrong(std::mem::replace(&mut self.standing, false), "left no ground"),
            Event::Landed { .. } => wrong(!std::mem::replace(&mut self.standing, true), "stood already"),
            Event::WallMet { .. } => wrong(!std::mem::replace(&mut self.at_wall, true), "was at it already"),
            Event::WallLeft => wrong(std::mem::replace(&mut self.at_wall, false), "was at none"),
            Event::LadderGrabbed { zone } => wrong(self.ladder.replace(zone).is_none(), "held one already"),
            Event::LadderLeft { zone } => wrong(self.ladder.take() == Some(zone), "held another or none"),
            Event::Crouched => wrong(!std::mem::replace(&mut self.crouched, true), "crouched already"),
            Event::StoodUp => wrong(std::mem::replace(&mut self.crouched, false), "stood up already"),
            Event::ZoneEntered { zone } => wrong(self.zones.insert(zone.0), "was in it already"),
            Event::ZoneLeft { zone } => wrong(self.zones.remove(&zone.0), "was not in it"),
            Event::MoveBegan { name } => wrong(self.moved.replace(name).is_none(), "another had not ended"),
            Event::MoveEnded { name } => wrong(self.moved.take() == Some(name), "another had begun, or none"),
            Event::ManeuverPhase { name, phase: Phase::Cooldown } => wrong(
                self.maneuver.take().is_some_and(|(begun, _)| begun == name),
                "ended what had not begun",
            ),
            Event::ManeuverPhase { name, phase } => match self.maneuver.replace((name, phase)) {
                Some((begun, before)) => wrong(begun == name && before < phase, "came out of order"),
                None => None,
            },
            Event::OverlayPhase { name, phase: Phase::Cooldown } => {
                wrong(self.overlay.take().is_some_and(|(begun, _)| begun == name), "ended what had not begun")
            }
            Event::OverlayPhase { name, phase } => match self.overlay.replace((name, phase)) {
                Some((begun, before)) => wrong(begun == name && before < phase, "came out of order"),
                None => None,
            },
            Event::Respawned | Event::Teleported => {
                self.crushed = false;
                None
            }
            Event::Crushed => wrong(!std::mem::replace(&mut self.crushed, true), "was crushed already"),
            Event::Apex { .. } => wrong(std::mem::replace(&mut self.rose, false), "has not risen since"),
            Event::Jumped { .. } | Event::Bounced { .. } => {
                self.rose = true;
                None
            }
            _ => None,
        }
    }

    /// The last events must agree with the state.
    pub fn agrees<V: Geometry>(&mut self, state: &State<V>) -> Option<&'static str> {
        let now = Self::of(state);
        // Becoming free is not reported.
        self.crushed &= now.crushed;
        self.rose |= now.rose;
        let same = [
            (self.standing == now.standing, "standing"),
            (self.at_wall == now.at_wall, "at a wall"),
            (self.ladder == now.ladder, "ladder"),
            (self.crouched == now.crouched, "crouched"),
            (self.zones == now.zones, "zones"),
            (self.maneuver.map(|it| it.0) == now.maneuver.map(|it| it.0), "maneuver"),
            (self.moved == now.moved, "move"),
            (self.crushed == now.crushed, "crushed"),
        ];
        same.into_iter().find(|(same, _)| !same).map(|(_, what)| what)
    }
}
