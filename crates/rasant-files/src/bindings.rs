//! Binding files.
//!
//! ```toml
//! opposites = "neither"           # or "last", "first"
//!
//! [actions]
//! jump = ["Space", "pad:south"]
//! own-0 = ["ShiftLeft + KeyE"]    # a chord
//!
//! [steer]
//! left = ["KeyA", "pad:left"]
//! stick = "left"
//! ```

use std::path::Path;

use rasant::input::{Direction, Gesture, Meaning, Source as Button};
use rasant::input::{LookRule, Opposites, Stick, Zoning};
use rasant::{Actions, Bindings};

use crate::table::{Table, Value, nearest, parse};
use crate::tuning::put;
use crate::{Files, Problem, Source};

const OPPOSITES: [(&str, Opposites); 3] =
    [("last", Opposites::Last), ("first", Opposites::First), ("neither", Opposites::Neither)];
const STICKS: [(&str, Option<Stick>); 3] =
    [("left", Some(Stick::Left)), ("right", Some(Stick::Right)), ("none", None)];
const ZONES: [(&str, Zoning); 2] = [("round", Zoning::Round), ("per-axis", Zoning::PerAxis)];

/// Reads a binding file. Actions that it does not mention are unbound; rules that it does not
/// mention have their defaults.
///
/// # Errors
/// A [`Problem`] with the file, or with any key or value in it. An unknown key, button or axis
/// names the nearest known one.
pub fn read_bindings(files: &dyn Files, path: &Path) -> Result<Bindings, Problem> {
    let source = Source { name: path.display().to_string().into(), text: files.read(path)?.into() };
    parse(&source, bindings_of)
}

fn bindings_of(mut table: Table<'_>) -> Result<Bindings, Problem> {
    let mut bindings = Bindings::none();
    if let Some(value) = table.get("opposites") {
        bindings.opposites = value.choice(&OPPOSITES)?;
    }
    if let Some(mut actions) = table.table("actions")? {
        for (name, value) in actions.rest() {
            let action = Actions::named(name).ok_or_else(|| {
                let own = (0..28).map(|number| format!("own-{number}")).collect::<Vec<_>>();
                let known =
                    ["jump", "dash", "run", "crouch"].into_iter().chain(own.iter().map(String::as_str));
                value.unknown(&format!("there is no action \"{name}\""), name, known)
            })?;
            bind(&mut bindings, value, Meaning::Action(action))?;
        }
    }
    if let Some(steer) = table.table("steer")? {
        steer_of(&mut bindings, steer)?;
    }
    if let Some(look) = table.table("look")? {
        bindings.look = look_of(look)?;
    }
    table.finish()?;
    Ok(bindings)
}

fn bind(bindings: &mut Bindings, value: Value<'_>, meaning: Meaning) -> Result<(), Problem> {
    for item in value.items()? {
        let (gesture, chord) = Gesture::named(item.text()?).map_err(|error| {
            let problem = item.problem(error.to_string());
            let names: Vec<String> = Button::names().collect();
            let rasant::input::SourceError::Unknown(found) = &error else { return problem };
            match nearest(found, names.iter().map(String::as_str)) {
                Some(near) => problem.expecting(format!("`{near}`?")),
                None => problem
                    .expecting("a `code` of W3C UI Events, `pad:…`, `pointer:…`, `wheel:up` or `wheel:down`"),
            }
        })?;
        match (gesture, meaning) {
            (None, _) => bindings.bind(chord, meaning),
            (Some(gesture), Meaning::Action(action)) => bindings.bind_gesture(chord, gesture, action),
            (Some(gesture), _) => {
                return Err(item
                    .problem(format!("found a gesture, `{gesture}`"))
                    .expecting("a chord alone: only actions have gestures"));
            }
        }
    }
    Ok(())
}

fn steer_of(bindings: &mut Bindings, mut table: Table<'_>) -> Result<(), Problem> {
    for (name, direction) in Direction::NAMES {
        if let Some(value) = table.get(name) {
            bind(bindings, value, Meaning::Steer(direction))?;
        }
    }
    if let Some(value) = table.get("stick") {
        bindings.stick = value.choice(&STICKS)?;
    }
    let shaping = &mut bindings.shaping;
    if let Some(value) = table.get("zones") {
        shaping.zones = value.choice(&ZONES)?;
    }
    let numbers = [
        ("dead_zone", &mut shaping.dead_zone, 0.0..=0.9, ""),
        ("outer_zone", &mut shaping.outer_zone, 0.0..=0.9, ""),
        ("curve", &mut shaping.curve, 0.1..=10.0, ""),
        ("rise_time", &mut bindings.rise_time, 0.0..=10.0, "s"),
        ("fall_time", &mut bindings.fall_time, 0.0..=10.0, "s"),
    ];
    for (key, slot, range, unit) in numbers {
        if let Some(value) = table.get(key) {
            *slot = value.number_in(range, unit)?;
        }
    }
    for (key, slot) in [("invert_x", &mut shaping.invert_x), ("invert_y", &mut shaping.invert_y)] {
        if let Some(value) = table.get(key) {
            *slot = value.flag()?;
        }
    }
    table.finish()
}

fn look_of(mut table: Table<'_>) -> Result<LookRule, Problem> {
    let mut look = LookRule::default();
    if let Some(value) = table.get("stick") {
        look.stick = value.choice(&STICKS)?;
    }
    if let Some(value) = table.get("stick_rate_deg") {
        look.stick_rate = value.number_in(0.0..=3600.0, "°/s")?.to_radians();
    }
    if let Some(value) = table.get("per_count_deg") {
        look.per_count = value.number_in(0.0..=90.0, "°")?.to_radians();
    }
    if let Some(value) = table.get("invert_y") {
        look.invert_y = value.flag()?;
    }
    table.finish()?;
    Ok(look)
}

/// The chords of a meaning as text, with their gestures.
fn texts(bindings: &Bindings, meaning: Meaning) -> Vec<String> {
    let gestures = bindings.gestures.iter().filter(|(_, _, action)| Meaning::Action(*action) == meaning);
    let gestures = gestures.map(|(chord, gesture, _)| format!("{gesture} {chord}"));
    bindings.chords_of(meaning).map(ToString::to_string).chain(gestures).collect()
}

/// The text of a binding file that reads back to the same bindings.
#[must_use]
pub fn write_bindings(bindings: &Bindings) -> String {
    let chords = |meaning: Meaning| -> toml::Value {
        texts(bindings, meaning).into_iter().map(toml::Value::String).collect::<Vec<_>>().into()
    };
    let named = |names: &[(&str, Option<Stick>)], stick: Option<Stick>| {
        names.iter().find(|(_, known)| *known == stick).map_or("none", |(name, _)| name).to_owned()
    };
    let mut actions = toml::Table::new();
    let mut steer = toml::Table::new();
    let by_gestures = bindings.gestures.iter().map(|(_, _, action)| Meaning::Action(*action));
    let all_meanings = bindings.chords.iter().map(|(_, meaning)| *meaning).chain(by_gestures);
    for meaning in all_meanings {
        match &meaning {
            Meaning::Action(action) => {
                actions.insert(action.name().unwrap_or_default(), chords(meaning));
            }
            Meaning::Steer(direction) => {
                let name = Direction::NAMES
                    .iter()
                    .find(|(_, known)| known == direction)
                    .map_or("", |(name, _)| name);
                steer.insert(name.to_owned(), chords(meaning));
            }
            // Files cannot express this yet.
            _ => {}
        }
    }
    let shaping = &bindings.shaping;
    let word = |names: &[(&str, Zoning)]| {
        names.iter().find(|(_, known)| *known == shaping.zones).map_or("round", |(name, _)| name).to_owned()
    };
    steer.insert("stick".to_owned(), named(&STICKS, bindings.stick).into());
    steer.insert("zones".to_owned(), word(&ZONES).into());
    for (key, number) in [
        ("dead_zone", shaping.dead_zone),
        ("outer_zone", shaping.outer_zone),
        ("curve", shaping.curve),
        ("rise_time", bindings.rise_time),
        ("fall_time", bindings.fall_time),
    ] {
        steer.insert(key.to_owned(), short(number));
    }
    steer.insert("invert_x".to_owned(), shaping.invert_x.into());
    steer.insert("invert_y".to_owned(), shaping.invert_y.into());
    let mut look = toml::Table::new();
    look.insert("stick".to_owned(), named(&STICKS, bindings.look.stick).into());
    look.insert("stick_rate_deg".to_owned(), short(bindings.look.stick_rate.to_degrees()));
    look.insert("per_count_deg".to_owned(), short(bindings.look.per_count.to_degrees()));
    look.insert("invert_y".to_owned(), bindings.look.invert_y.into());
    let mut all = toml::Table::new();
    let opposites = OPPOSITES.iter().find(|(_, known)| *known == bindings.opposites);
    all.insert("opposites".to_owned(), opposites.map_or("neither", |(name, _)| name).into());
    for (key, table) in [("actions", actions), ("steer", steer), ("look", look)] {
        all.insert(key.to_owned(), table.into());
    }
    all.to_string()
}

/// Replaces the chords in the text of a binding file. Comments, order and everything else stay,
/// including the rules of sticks and of the look.
///
/// # Errors
/// A [`Problem`] with the text.
pub fn edit_bindings(text: &str, bindings: &Bindings) -> Result<String, Problem> {
    let source = Source { name: "the binding file".into(), text: text.into() };
    let held = parse(&source, bindings_of)?;
    let broken = |error: &dyn std::fmt::Display| {
        Problem::unreadable(Path::new("the binding file"), &error.to_string())
    };
    let mut document: toml_edit::DocumentMut =
        text.parse().map_err(|error: toml_edit::TomlError| broken(&error))?;
    let mut meanings: Vec<Meaning> = Vec::new();
    for (_, meaning) in held.chords.iter().chain(&bindings.chords) {
        if !meanings.contains(meaning) {
            meanings.push(*meaning);
        }
    }
    for meaning in meanings {
        if texts(&held, meaning) == texts(bindings, meaning) {
            continue;
        }
        let (group, key) = match meaning {
            Meaning::Action(action) => ("actions", action.name().unwrap_or_default()),
            Meaning::Steer(direction) => {
                let name = Direction::NAMES
                    .iter()
                    .find(|(_, known)| *known == direction)
                    .map_or("", |(name, _)| name);
                ("steer", name.to_owned())
            }
            _ => continue,
        };
        let chords: toml_edit::Array = texts(bindings, meaning).into_iter().collect();
        put(&mut document, group, &key, chords.into()).map_err(|error| broken(&error))?;
    }
    Ok(document.to_string())
}

/// A number as the shortest text that reads back to it, not as the double nearest to it.
fn short(number: f32) -> toml::Value {
    let shortest = number.to_string().parse().unwrap_or(f64::from(number));
    toml::Value::Float(shortest)
}
