//! What events can be told in a place, with their details.

use rasant::Phase;
use rasant::state::{Departure, EVENTS, JumpKind, ManeuverKind, Name};

use super::World;
use super::nearest;
use crate::game::game;

/// The words that events may have behind their names.
pub(super) struct Words {
    surfaces: Vec<String>,
    zones: Vec<String>,
    /// 2 or 3.
    pub dimensions: usize,
}

/// Moves of the library that are told as they begin and end.
const MOVES: [&str; 4] = ["ledge", "swim", "glide", "slam"];
/// What can be refused beside moves, and why.
const ASKED: [&str; 6] = ["jump", "dash", "roll", "stand-up", "up", "hop"];
const CAUSES: [&str; 9] = [
    "no-footing",
    "locked",
    "wall-limit",
    "empty",
    "air-limit",
    "cooldown",
    "no-room",
    "blocked",
    "under-way",
];

impl Words {
    pub fn of(world: &World) -> Self {
        let (looks, zones, dimensions) = match world {
            World::Plane(file) => (&file.looks, &file.zones, 2),
            World::Space(file) => (&file.looks, &file.zones, 3),
        };
        let surfaces = looks.iter().map(|look| look.name.clone()).collect();
        Self { surfaces, zones: zones.clone(), dimensions }
    }

    /// Whether an event, alone or with a detail, can be told; what was expected where it
    /// cannot.
    pub fn check(&self, event: &str) -> Result<(), String> {
        let (name, detail) =
            event.split_once(' ').map_or((event, None), |(name, detail)| (name, Some(detail)));
        let Some(detail) = detail else { return one_of(name, EVENTS) };
        let own_moves = game().moves.is_some();
        match name {
            // Some moves take off by themselves.
            "jumped" if own_moves => one_word(detail),
            "jumped" => {
                let kinds = names(JumpKind::NAMED, JumpKind::name);
                one_of(detail, &[kinds, MOVES.map(str::to_owned).to_vec()].concat())
            }
            "left-ground" => one_of(detail, &names(Departure::NAMED, Departure::name)),
            "landed" | "footfall" => {
                let on = detail.strip_prefix("on ").unwrap_or(detail);
                one_of(on, &self.surfaces).map_err(|expected| format!("`on` and a surface: {expected}"))
            }
            "ladder-taken" | "ladder-left" | "zone-entered" | "zone-left" => one_of(detail, &self.zones),
            "maneuver-phase" => {
                let (kind, phase) = detail.split_once(' ').unwrap_or((detail, "startup"));
                let kinds = [
                    ManeuverKind::Dash,
                    ManeuverKind::Roll,
                    ManeuverKind::Hop,
                    ManeuverKind::Knockback,
                    // A game's own all go by one name.
                    ManeuverKind::Own(0),
                ];
                one_of(kind, &names(&kinds, ManeuverKind::name))?;
                one_of(phase, &names(Phase::NAMED, Phase::name))
            }
            "move-began" | "move-ended" if own_moves => one_word(detail),
            "move-began" | "move-ended" => one_of(detail, &MOVES),
            "refused" => {
                let (asked, cause) = detail.split_once(' ').unwrap_or((detail, CAUSES[0]));
                if own_moves {
                    one_word(asked)?
                } else {
                    one_of(asked, &[&ASKED[..], &MOVES].concat())?
                }
                if own_moves { one_word(cause) } else { one_of(cause, &CAUSES) }
            }
            _ => Err(format!("`{name}` alone")),
        }
    }
}

/// A list of a game's own has words of its own.
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
        None if known.is_empty() => "a name: there is none here".to_owned(),
        None => format!("one of {}", all.by_ref().collect::<Vec<_>>().join(", ")),
    })
}
