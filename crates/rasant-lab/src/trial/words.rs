//! Checks events and circumstances against a level.

use std::collections::BTreeMap;
use std::sync::Arc;

use rasant::Phase;
use rasant::animation::Overlay;
use rasant::state::{EVENTS, Name};

use rasant::{Effect, Geometry, Level};

use crate::script::{Circumstance, Host, Quantity};
use crate::vocabulary::Vocabulary;
use rasant_files::{Deed, Game, LevelFile, World, nearest};

/// The possible details of events.
pub(super) struct Words {
    surfaces: Vec<String>,
    zones: Vec<String>,
    /// The named things of the level, with what can be done to them, and whether it is a carrier that
    /// the host moves.
    named: BTreeMap<String, (Vec<Deed>, bool)>,
    /// The names of the bodies, the trial's own first.
    bodies: Vec<Arc<str>>,
    /// 2 or 3.
    pub dimensions: usize,
    /// True if a zone of the level is a ladder.
    has_ladders: bool,
    has_water: bool,
    /// True if the moves are a game's own list.
    has_own_moves: bool,
    /// The words of the moves.
    pub vocabulary: Vocabulary,
}

/// Whether a level has ladders, and water.
fn kinds_of_zones<V: Geometry>(level: &Level<V>) -> (bool, bool) {
    let has = |is: fn(&Effect<V>) -> bool| level.all_zones().iter().any(|zone| zone.effects.iter().any(is));
    (has(|effect| matches!(effect, Effect::Ladder { .. })), has(|effect| matches!(effect, Effect::Water)))
}

/// The named things of a level, with what can be done to them.
fn named<V: Geometry>(file: &LevelFile<V>) -> BTreeMap<String, (Vec<Deed>, bool)> {
    let all = file.mechanisms.names().map(|name| {
        let deeds = Deed::ALL.into_iter().map(|(.., deed)| deed);
        let deeds = deeds.filter(|deed| file.mechanisms.can(*deed, name)).collect();
        (name.to_owned(), (deeds, file.mechanisms.can_carry(&file.level, name)))
    });
    all.collect()
}

impl Words {
    pub fn of(world: &World, game: &Game, bodies: &[Arc<str>]) -> Self {
        let (looks, zones, dimensions) = match world {
            World::Plane(file) => (&file.looks, &file.zones, 2),
            World::Space(file) => (&file.looks, &file.zones, 3),
        };
        let (has_ladders, has_water) = match world {
            World::Plane(file) => kinds_of_zones(&file.level),
            World::Space(file) => kinds_of_zones(&file.level),
        };
        let surfaces = looks.iter().map(|look| look.name.clone()).collect();
        Self {
            surfaces,
            zones: zones.clone(),
            named: match world {
                World::Plane(file) => named(file),
                World::Space(file) => named(file),
            },
            bodies: bodies.to_vec(),
            dimensions,
            has_ladders,
            has_water,
            vocabulary: Vocabulary::of(&game.tuning()),
            has_own_moves: game.moves.is_some(),
        }
    }

    /// Checks that the level has what an event needs. The error says what was expected.
    fn check_place(&self, name: &str, detail: Option<&str>) -> Result<(), String> {
        let lacks = |what: &str| Err(format!("a level with {what}: this one has none"));
        match (name, detail) {
            ("ladder-grabbed" | "ladder-left", _) | ("jumped" | "left-ground", Some("ladder"))
                if !self.has_ladders =>
            {
                lacks("a ladder")
            }
            ("zone-entered" | "zone-left", None) if self.zones.is_empty() => lacks("a zone"),
            ("move-began" | "move-ended" | "jumped" | "refused", Some("swim")) if !self.has_water => {
                lacks("water")
            }
            _ => Ok(()),
        }
    }

    /// Checks that the level has what a command is about. The error says what is wrong and what was
    /// expected.
    pub fn check_host(&self, host: &Host) -> Result<(), (String, String)> {
        let Some(target) = host.target() else { return Ok(()) };
        let can = |(deeds, is_carried): &(Vec<Deed>, bool)| match host {
            Host::Deed(deed, _) => deeds.contains(deed),
            _ => *is_carried,
        };
        let verb = host.name();
        let wrong = match self.named.get(target) {
            Some(known) if can(known) => return Ok(()),
            Some(_) => format!("\"{target}\" is nothing that can be used with `{verb}`"),
            None => format!("nothing in the level has the name \"{target}\""),
        };
        let known: Vec<&str> =
            self.named.iter().filter(|(_, known)| can(known)).map(|(name, _)| name.as_str()).collect();
        let what = if matches!(host, Host::Deed(..)) {
            "a piece, zone or door with a name"
        } else {
            "a carrier with `path = \"host\"`"
        };
        let expected = match (nearest(target, known.iter().copied()), &known[..]) {
            (Some(near), _) => format!("\"{near}\"?"),
            (None, []) => format!("{what}; the level has none"),
            (None, known) => format!("one of: {}", known.join(", ")),
        };
        Err((wrong, expected))
    }

    /// Checks that the trial has a body with a name. The error says what is wrong and what was
    /// expected.
    pub fn check_body(&self, name: &str) -> Result<(), (String, String)> {
        let wrong = || format!("there is no body \"{name}\"");
        one_of(name, &self.bodies).map_err(|expected| (wrong(), expected))
    }

    /// Checks the events and the axes in a circumstance. The error says what is wrong and what was
    /// expected.
    pub fn check_circumstance(&self, circumstance: &Circumstance) -> Result<(), (String, String)> {
        for event in circumstance.events() {
            self.check(event).map_err(|expected| (format!("there is no \"{event}\""), expected))?;
        }
        if self.dimensions == 2 && circumstance.asks_for_quantity(Quantity::Z) {
            return Err(("there is no z in two dimensions".to_owned(), "x or y".to_owned()));
        }
        for name in circumstance.gaps() {
            self.check_body(name)?;
        }
        for state in circumstance.states() {
            match state {
                "ladder" if !self.has_ladders => {
                    return Err(("the level has no ladder".to_owned(), "a level with one".to_owned()));
                }
                "swim" if !self.has_water => {
                    return Err(("the level has no water".to_owned(), "a level with water".to_owned()));
                }
                _ => {}
            }
        }
        Ok(())
    }

    /// Returns true if the trial has several bodies and one of this name.
    fn is_other_body(&self, name: &str) -> bool {
        self.bodies.len() > 1 && self.bodies.iter().any(|body| **body == *name)
    }

    /// Checks that an event, alone or with a detail, can happen. The error says what was expected.
    pub fn check(&self, event: &str) -> Result<(), String> {
        let (name, detail) =
            event.split_once(' ').map_or((event, None), |(name, detail)| (name, Some(detail)));
        self.check_place(name, detail)?;
        let Some(detail) = detail else { return one_of(name, EVENTS) };
        let own_moves = self.has_own_moves;
        let known = &self.vocabulary;
        match name {
            // Some moves take off by themselves.
            "jumped" if own_moves => one_word(detail),
            "jumped" => one_of(detail, &known.jumps()),
            "left-ground" => one_of(detail, &known.departures()),
            "landed" | "footfall" => {
                let on = detail.strip_prefix("on ").unwrap_or(detail);
                if name == "landed" && self.is_other_body(on) {
                    return Ok(());
                }
                one_of(on, &self.surfaces).map_err(|expected| format!("`on` and a surface: {expected}"))
            }
            "wall-met" | "bumped-head" | "bounced" if self.is_other_body(detail) => Ok(()),
            "ladder-grabbed" | "ladder-left" | "zone-entered" | "zone-left" => one_of(detail, &self.zones),
            "maneuver-phase" => {
                let (kind, phase) = detail.split_once(' ').unwrap_or((detail, "startup"));
                if !own_moves {
                    one_of(kind, &known.maneuvers())?;
                }
                one_of(phase, &names(Phase::NAMED, Phase::name))
            }
            "overlay-phase" => {
                let (name, phase) = detail.split_once(' ').unwrap_or((detail, "startup"));
                one_of(name, &[Overlay::BY_ACTION.as_str()])?;
                one_of(phase, &names(Phase::NAMED, Phase::name))
            }
            "move-began" | "move-ended" if own_moves => one_word(detail),
            "move-began" | "move-ended" => one_of(detail, &known.announced()),
            "refused" if own_moves => detail.split(' ').try_for_each(one_word),
            "refused" => refusal(detail, known),
            _ => Err(format!("`{name}` alone")),
        }
    }
}

/// Checks a refused action, and its reason if there is one.
fn refusal(detail: &str, known: &Vocabulary) -> Result<(), String> {
    let (action, cause) =
        detail.split_once(' ').map_or((detail, None), |(action, cause)| (action, Some(cause)));
    one_of(action, &known.refused())?;
    let causes = known.causes(action);
    match cause {
        None => Ok(()),
        Some(_) if causes.is_empty() => Err(format!("`refused {action}` alone")),
        Some(cause) => one_of(cause, &causes),
    }
}

/// A game's own list has words of its own.
fn one_word(word: &str) -> Result<(), String> {
    word.parse::<Name>().map(|_| ()).map_err(|error| error.to_string())
}

fn names<T: Copy>(all: &[T], name: fn(T) -> Name) -> Vec<String> {
    all.iter().map(|one| name(*one).to_string()).collect()
}

fn one_of(word: &str, known: &[impl AsRef<str>]) -> Result<(), String> {
    let mut all = known.iter().map(AsRef::as_ref);
    if all.clone().any(|one| one == word) {
        return Ok(());
    }
    Err(match nearest(word, all.clone()) {
        Some(near) => format!("`{near}`?"),
        None if known.is_empty() => "a name, but there is none here".to_owned(),
        None => format!("one of {}", all.by_ref().collect::<Vec<_>>().join(", ")),
    })
}
