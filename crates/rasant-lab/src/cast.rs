//! The bodies of a trial in its level, and what moves them.

use std::collections::BTreeMap;
use std::sync::Arc;

use rasant::contact::Patch;
use rasant::crowd::BodyId;
use rasant::space::Bounds;
use rasant::state::{Departure, Name};
use rasant::{Controller, Crowd, Event, Geometry, Intent, Level, PieceId, State, SurfaceId, Tape, ZoneId};

use crate::script::{ByTheHost, Host, Played, Player, Target};
use crate::trace::{EventRow, Row};
use crate::trial::{Inputs, PLAYER, Trial};
use rasant_files::{LevelFile, Mechanisms, RootTrack};

/// The bodies of a trial: its own first, then the others in the order of the file.
#[derive(Clone, Debug)]
pub(crate) struct Cast<V: Geometry> {
    pub crowd: Crowd<V>,
    pub ids: Vec<BodyId>,
    /// The names, in the order of the ids.
    names: Arc<[Arc<str>]>,
    /// The pairs whose gaps rows have.
    gaps: Arc<[(usize, usize)]>,
}

/// What moves a body.
#[derive(Clone, Debug)]
pub(crate) enum Mover {
    Script(Box<Player>),
    /// A recording, and the number of its ticks that have passed.
    Tape(Tape, usize),
}

impl Mover {
    /// Inputs that change only every `ticks_an_input` ticks.
    pub fn of(inputs: &Inputs, rate: u32, ticks_an_input: usize) -> Self {
        match inputs {
            Inputs::Script(script) => Self::Script(Box::new(Player::new(script, rate).every(ticks_an_input))),
            Inputs::Tape(tape) => Self::Tape(tape.clone(), 0),
        }
    }

    /// The output for a tick, with the body as in `row` before it.
    pub fn tick(&mut self, row: &Row, toward: impl FnOnce(&Target) -> Intent) -> Played {
        match self {
            Self::Script(player) => player.tick(row, toward),
            Self::Tape(tape, passed) => {
                let intent = tape.at(*passed);
                *passed += 1;
                Played { intent, host: Vec::new() }
            }
        }
    }
}

impl<V: Geometry> Cast<V> {
    /// The bodies of a trial at their starts.
    pub fn of(trial: &Trial) -> Self {
        let (crowd, ids) = trial.crowd();
        let names =
            [PLAYER.into()].into_iter().chain(trial.others.iter().map(|other| Arc::clone(&other.name)));
        Self { crowd, ids, names: names.collect(), gaps: trial.gaps().into() }
    }

    /// The number of bodies.
    pub fn len(&self) -> usize {
        self.ids.len()
    }

    /// The name of a body.
    pub fn name(&self, number: usize) -> &Arc<str> {
        &self.names[number]
    }

    /// A body; 0 is the trial's own.
    pub fn body(&self, number: usize) -> &Controller<V> {
        &self.crowd[self.ids[number]].body
    }

    /// A body, to change it.
    pub fn body_mut(&mut self, number: usize) -> &mut Controller<V> {
        &mut self.crowd[self.ids[number]].body
    }

    fn named(&self, name: &str) -> Option<BodyId> {
        let number = self.names.iter().position(|other| **other == *name)?;
        Some(self.ids[number])
    }

    /// Puts every body that starts on ground onto it.
    pub fn find_footing(&mut self, level: &Level<V>) {
        for number in 0..self.len() {
            self.body_mut(number).find_footing(level);
        }
    }

    /// The intent that walks to a target.
    pub fn toward(&self, number: usize, target: &Target) -> Intent {
        let point = match target {
            Target::Point(point) => V::from_array(*point),
            Target::Body(name) => match self.named(name) {
                Some(id) => self.crowd[id].body.position(),
                None => return Intent::default(),
            },
        };
        Intent::toward(point, self.body(number))
    }

    /// Advances the level, its mechanisms and all bodies by one tick; the intents are in the order of
    /// the bodies.
    pub fn tick(&mut self, file: &mut LevelFile<V>, intents: &[Intent], dt: f32) {
        file.mechanisms.begin_tick(&mut file.level, dt);
        file.level.advance(dt);
        let mut intents = intents.iter();
        // The crowd asks for them in the order in which the bodies were added.
        self.crowd.tick(&file.level, dt, |_, _| intents.next().copied().unwrap_or_default());
        for number in 0..self.len() {
            let body = self.body(number);
            file.mechanisms.observe(&file.level, body.state(), body.events());
        }
    }

    /// Applies what a script says that the game does to a body.
    pub fn by_the_host(
        &mut self,
        number: usize,
        &ByTheHost { ref what, lasts, since, begins }: &ByTheHost,
        tracks: &BTreeMap<Name, RootTrack>,
        dt: f32,
    ) {
        let body = self.body_mut(number);
        let lasts = lasts as f32;
        match what {
            Host::Throw(velocity) if begins => body.throw(V::from_array(*velocity)),
            Host::Knock(velocity) if begins => body.knock_back(V::from_array(*velocity), lasts),
            Host::Move(displacement) if lasts > 0.0 => {
                // The part of its time in this tick; none in the last, in which the body comes to rest.
                let [from, to] = [since as f32, since as f32 + dt].map(|time| time.min(lasts));
                body.root_motion(V::from_array(*displacement) * ((to - from) / lasts));
            }
            Host::Move(displacement) => body.root_motion(V::from_array(*displacement)),
            Host::Along(name) => {
                if let Some(track) = tracks.get(name) {
                    let at = |time: f32| time / lasts.max(dt) * track.duration();
                    let (from, to) = (at(since as f32), at(since as f32 + dt));
                    let State { facing, up, .. } = *body.state();
                    body.root_motion(track.displacement(from, to, facing, up));
                }
            }
            // The others are done to the level.
            _ => {}
        }
    }

    /// The largest depth of a body's bare hull inside something that is solid from all sides, in
    /// metres.
    pub fn depth(&self, number: usize, level: &Level<V>) -> f32 {
        let body = self.body(number);
        let hull = body.present_hull();
        let nowhere = Bounds { min: V::ZERO, max: V::ZERO };
        let patch = Patch::gather(body.state().frame(), &hull, nowhere, level);
        patch.overlap(V::ZERO, |tag| tag.one_way).map_or(0.0, |overlap| (-overlap.distance).max(0.0))
    }

    /// The row of a body after a tick. `before` is its position before it.
    pub fn row(
        &self,
        number: usize,
        (tick, rate): (usize, u32),
        intent: &Intent,
        before: [f32; 3],
        file: &LevelFile<V>,
    ) -> Row {
        let body = self.body(number);
        let state = body.state();
        let position = state.position.to_array();
        let steer = intent.safe_steer();
        let gaps = self.gaps.iter().filter(|(own, _)| *own == number).filter_map(|&(_, other)| {
            Some((Arc::clone(&self.names[other]), self.crowd.gap(self.ids[number], self.ids[other])?))
        });
        Row {
            tick,
            time: tick as f64 / f64::from(rate),
            position,
            velocity: body.velocity().to_array(),
            speed: state.ground_speed(),
            rise: body.velocity().dot(state.up),
            mode: state.mode.name(),
            driven_by: state.velocity_owner.name(),
            in_maneuver: state.maneuver.is_some(),
            hull_height: body.present_hull().height(),
            crouched: state.crouched,
            at_wall: state.touching.is_at_wall(),
            footing: state.footing.kind.name(),
            slope_deg: state.footing.angle(state.up).to_degrees(),
            normal: state.footing.normal.to_array(),
            gait: state.animation.gait.name(),
            facing: state.facing.to_array(),
            up: state.up.to_array(),
            steer: [steer.x, steer.y],
            held: intent.held,
            events: body.events().iter().map(|event| self.event(event, (before, position), file)).collect(),
            gaps: gaps.collect(),
        }
    }

    /// The name of the body that others meet as this piece, if it is one.
    fn met(&self, piece: PieceId) -> Option<&Arc<str>> {
        let met = piece.body()?;
        self.ids.iter().position(|id| *id == met).map(|number| &self.names[number])
    }

    /// An event of a tick that began at `took_off_at`, where jumps take off, and ended at `at`.
    fn event(
        &self,
        event: &Event<V>,
        (took_off_at, at): ([f32; 3], [f32; 3]),
        file: &LevelFile<V>,
    ) -> EventRow {
        let on = |surface: &SurfaceId| {
            file.looks.get(usize::from(surface.0)).map(|look| format!("on {}", look.name))
        };
        let zone_name = |zone: &ZoneId| file.zones.get(usize::from(zone.0)).cloned();
        let (position, speed, detail) = match event {
            Event::Jumped { kind } => (took_off_at, None, Some(kind.to_string())),
            Event::LeftGround { by: by @ Departure::Jump, .. } => (took_off_at, None, Some(by.to_string())),
            Event::LeftGround { by, of } => (at, None, Some(of.unwrap_or(by.name()).to_string())),
            Event::Apex { position } => (position.to_array(), None, None),
            Event::Landed { speed, surface, piece, .. } => {
                let body = self.met(*piece).map(|name| format!("on {name}"));
                (at, Some(*speed), body.or_else(|| on(surface)))
            }
            Event::Footfall { surface } => (at, None, surface.as_ref().and_then(on)),
            Event::BumpedHead { speed, piece, .. }
            | Event::WallMet { speed, piece, .. }
            | Event::Bounced { speed, piece, .. } => {
                (at, Some(*speed), self.met(*piece).map(|name| name.to_string()))
            }
            Event::LadderGrabbed { zone }
            | Event::LadderLeft { zone }
            | Event::ZoneEntered { zone }
            | Event::ZoneLeft { zone } => (at, None, zone_name(zone)),
            Event::ManeuverPhase { name, phase } | Event::OverlayPhase { name, phase } => {
                (at, None, Some(format!("{name} {phase}")))
            }
            Event::MoveBegan { name } | Event::MoveEnded { name } => (at, None, Some(name.to_string())),
            Event::Refused { what } => {
                let words = [Some(what.action.to_string()), what.cause.map(|cause| cause.to_string())];
                (at, None, Some(words.into_iter().flatten().collect::<Vec<_>>().join(" ")))
            }
            _ => (at, None, None),
        };
        let seconds = if let Event::Refused { what } = event { what.missed_by } else { None };
        EventRow { name: event.name(), position, speed, seconds, detail }
    }
}

/// Applies what a script says that the game does to the level.
pub(crate) fn in_the_level<V: Geometry>(
    level: &mut Level<V>,
    mechanisms: &mut Mechanisms<V>,
    done: &ByTheHost,
) {
    if !done.begins {
        return;
    }
    let seconds = done.lasts as f32;
    match &done.what {
        Host::Deed(deed, name) => {
            mechanisms.act(level, *deed, name);
        }
        Host::Carry(name, by) => {
            mechanisms.carry(level, name, V::from_array(*by), 0.0, seconds);
        }
        Host::Turn(name, angle) => {
            mechanisms.carry(level, name, V::ZERO, *angle, seconds);
        }
        Host::Throw(_) | Host::Knock(_) | Host::Move(_) | Host::Along(_) => {}
    }
}
