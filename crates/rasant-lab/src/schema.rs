//! JSON Schemas of the files, for editors that check TOML against one.
//!
//! The schema of tunings is made from the table of knobs, so an editor can show a knob's meaning,
//! unit and range.

use rasant::glam::Vec3;
use rasant::state::EVENTS;
use rasant::tuning::{Knob, Unit};
use rasant::{Face, Steering};
use serde_json::{Map, Value, json};

use crate::expect::{Figure, MEASURES};
use crate::trial::{MOST_BODIES, Meets};
use rasant_files::{EASINGS, Game, PATH_ENDS, UpAxis};

const DRAFT: &str = "https://json-schema.org/draft/2020-12/schema";

/// The schema of tuning files of a game.
#[must_use]
pub fn tuning(game: &Game) -> Value {
    let mut schema = tuning_table(game);
    schema["$schema"] = json!(DRAFT);
    schema["title"] = json!("A tuning");
    schema
}

fn tuning_table(game: &Game) -> Value {
    let names = |names: Vec<&str>| json!({ "enum": names });
    let mut properties = Map::new();
    properties.insert("title".to_owned(), text("The title."));
    properties.insert("steering".to_owned(), names(Steering::NAMES.iter().map(|(name, _)| *name).collect()));
    properties.insert("face".to_owned(), names(Face::NAMES.iter().map(|(name, _)| *name).collect()));
    properties.insert("hull".to_owned(), hull());
    let scale = scale();
    properties.insert("scale".to_owned(), scale.clone());
    properties.insert("up".to_owned(), up());
    // The ranges of lengths, speeds and accelerations follow the scale.
    let mut in_metres = Map::new();
    for group in game.tuning().knobs().chunk_by(|a, b| group_of(a) == group_of(b)) {
        let knobs = group.iter().map(|&one| (name_of(one).to_owned(), knob(one))).collect();
        properties.insert(group_of(group[0]).to_owned(), table(knobs, &[]));
        let ranges: Map<String, Value> =
            group.iter().filter(|one| follows_scale(one)).map(|one| range(one)).collect();
        in_metres.insert(group_of(group[0]).to_owned(), json!({ "properties": ranges }));
    }
    let mut all = table(properties, &[]);
    all["if"] = json!({ "not": { "required": ["scale"] } });
    all["then"] = json!({ "properties": in_metres });
    all
}

fn scale() -> Value {
    let mut scale = within(1e-3, 1e4);
    scale["description"] = json!("Units of length per metre, as 32 for numbers in pixels.");
    scale
}

fn up() -> Value {
    json!({
        "enum": UpAxis::NAMES.map(|(name, _)| name),
        "description": "The axis that points up; in two dimensions y or -y.",
    })
}

/// Returns true if the range of a knob is multiplied by the scale of its tuning.
fn follows_scale(knob: &Knob) -> bool {
    let twice = knob.scaled(2.0);
    (twice.min, twice.max) != (knob.min, knob.max)
}

/// The range of a knob in metres, by its name.
fn range(knob: &Knob) -> (String, Value) {
    (name_of(knob).to_owned(), json!({ "minimum": short(knob.min), "maximum": short(knob.max) }))
}

fn group_of(knob: &Knob) -> &'static str {
    knob.path.split_once('.').map_or("", |(group, _)| group)
}

fn name_of(knob: &Knob) -> &'static str {
    knob.path.split_once('.').map_or(knob.path, |(_, name)| name)
}

fn knob(knob: &Knob) -> Value {
    let unit = knob.unit.sign();
    let of = if unit.is_empty() { String::new() } else { format!(" In {unit}.") };
    let description = format!("{}{of}", knob.meaning.trim());
    match knob.unit {
        Unit::Switch => {
            json!({ "type": "boolean", "default": knob.default >= 0.5, "description": description })
        }
        _ if follows_scale(knob) => json!({
            "type": "number",
            "default": short(knob.default),
            "description": description,
        }),
        whole => json!({
            "type": if whole == Unit::Count { "integer" } else { "number" },
            "minimum": short(knob.min),
            "maximum": short(knob.max),
            "default": short(knob.default),
            "description": description,
        }),
    }
}

/// A number as it is written: 0.1, not the binary number nearest to it.
fn short(number: f32) -> Value {
    number.to_string().parse::<f64>().map_or(Value::Null, |number| json!(number))
}

fn hull() -> Value {
    let above = json!({ "type": "number", "exclusiveMinimum": 0 });
    let one = |shape: &str, sizes: &[&str], more: &[&str]| {
        let mut properties = Map::new();
        properties.insert("shape".to_owned(), json!({ "const": shape }));
        properties.insert("clearance".to_owned(), above.clone());
        for size in sizes {
            properties.insert((*size).to_owned(), above.clone());
        }
        for size in more {
            properties.insert((*size).to_owned(), json!({ "type": "number", "minimum": 0 }));
        }
        table(properties, &[&["shape"], sizes].concat())
    };
    json!({ "oneOf": [
        one("capsule", &["radius", "height"], &[]),
        one("ball", &["radius"], &[]),
        one("box", &["width", "height"], &["depth", "rounding"]),
    ] })
}

/// The schema of trial files of a game.
#[must_use]
pub fn trial(game: &Game) -> Value {
    let number = json!({ "type": "number" });
    let measures = MEASURES.iter().map(|one| one.name);
    let figures: Vec<&str> = Figure::ALONE.iter().map(|(name, _)| *name).chain(measures).collect();
    let event = format!("^({})( .*)?$", EVENTS.join("|"));
    let mut expectation = table(
        object(json!({
            "figure": { "enum": figures },
            "count": { "type": "string", "pattern": event },
            "time_to": text("An event, or a circumstance."),
            "always": text("A circumstance."),
            "least_gap": text("A body: the smallest gap to it, in metres."),
            "most_gap": text("A body: the largest gap to it, in metres."),
            "body": text("The body whose run counts; without it, the trial's own, `player`."),
            "while": text("A circumstance: the part of the run that counts."),
            "is": number, "within": { "type": "number", "minimum": 0 },
            "at_least": number, "at_most": number,
        })),
        &[],
    );
    expectation["oneOf"] = one_of(&["figure", "count", "time_to", "always", "least_gap", "most_gap"]);
    expectation["anyOf"] = one_of(&["always", "is", "at_least", "at_most"]);
    expectation["dependentRequired"] = json!({ "within": ["is"] });
    let not_both = |other: &str| json!({ "not": { "required": ["is", other] } });
    expectation["allOf"] = json!([not_both("at_least"), not_both("at_most")]);
    let track = table(
        object(json!({
            "file": text("The path of a glTF file, beside this one."),
            "animation": text("The name of an animation in it. Its root leads the body."),
        })),
        &["file", "animation"],
    );
    let tuning =
        json!({ "oneOf": [text("The path of a tuning file, beside this one."), tuning_table(game)] });
    let meets = object(json!({
        "mass": within(1e-3, 1e6), "strength": within(0.0, 1e9), "spacing": within(0.0, 100.0),
        "passes_after_respawn": within(0.0, 3600.0),
        "dash": { "enum": Meets::DASHES.map(|(word, _)| word) },
        "pulls": text("The name of the body that it pulls."),
    }));
    let mut body_keys = object(json!({
        "name": text("The name, for scripts and expectations."),
        "tuning": tuning,
        "crate": hull(),
        "start": point(),
        "count": { "type": "integer", "minimum": 1, "maximum": MOST_BODIES },
        "step": point(),
        "player": { "const": 2 },
        "script": text("The inputs."),
        "tape": text("The path of a recording, beside this file."),
    }));
    body_keys.extend(meets.clone());
    let mut body = table(body_keys, &["name", "start"]);
    body["oneOf"] = one_of(&["tuning", "crate"]);
    body["not"] = json!({ "required": ["script", "tape"] });
    let mut keys = meets;
    keys.extend(object(json!({
        "title": text("The title."),
        "level": text("The path of a level file, beside this one."),
        "tuning": tuning,
        "body": { "type": "array", "items": body },
        "start": point(),
        "rate": { "type": "integer", "minimum": 1, "maximum": 10_000, "default": 60 },
        "duration": { "type": "number", "minimum": 0.01, "maximum": 3600 },
        "tracks": { "type": "object", "additionalProperties": track },
        "script": text("The inputs."),
        "tape": text("The path of a recording, beside this file."),
        "expect": { "type": "array", "items": expectation },
    })));
    let mut schema = table(keys, &["level", "tuning"]);
    schema["anyOf"] = one_of(&["duration", "tape"]);
    schema["not"] = json!({ "required": ["script", "tape"] });
    schema["$schema"] = json!(DRAFT);
    schema["title"] = json!("A trial");
    schema
}

/// The schema of level files of a game.
#[must_use]
pub fn level(game: &Game) -> Value {
    let number = json!({ "type": "number" });
    let flag = json!({ "type": "boolean" });
    let name = json!({ "type": "string" });
    let points = json!({ "type": "array", "items": point(), "minItems": 2 });
    let two = json!({ "type": "array", "items": point(), "minItems": 2, "maxItems": 2 });
    let surface = table(
        object(json!({
            "traction": within(0.001, 100.0), "pace": within(0.0, 100.0), "bounce": within(0.0, 1.0),
            "grip": within(0.0, 100.0), "drift": point(), "sound": name,
        })),
        &[],
    );
    let ends = PATH_ENDS.map(|(name, _)| name);
    let kinds = game.zone_kinds::<Vec3>().into_iter().map(|(name, _)| name).collect::<Vec<_>>();
    let easings = EASINGS.map(|(name, _)| name);
    let keyframe = table(
        object(json!({
            "time": within(0.0, 1e6), "offset": point(), "turn_deg": number,
            "axis": { "type": "array", "items": number, "minItems": 3, "maxItems": 3 },
            "ease": { "enum": easings },
        })),
        &["time"],
    );
    let path = json!({ "type": "array", "items": keyframe, "minItems": 1 });
    let mut carrier = table(
        object(json!({
            "path": { "anyOf": [path, { "const": "host" }] },
            "door": path, "pushed": path,
            "end": { "enum": ends },
            "on": text("The carrier that it rides on."),
        })),
        &[],
    );
    carrier["oneOf"] = one_of(&["path", "door", "pushed"]);
    let radius = json!({ "type": "number", "exclusiveMinimum": 0 });
    let ball = table(object(json!({ "centre": point(), "radius": radius })), &["centre", "radius"]);
    let rod =
        table(object(json!({ "from": point(), "to": point(), "radius": radius })), &["from", "to", "radius"]);
    let seconds = within(0.0, 1e5);
    let crumbles = table(object(json!({ "after": seconds, "back": seconds })), &["after"]);
    let mut piece = table(
        object(json!({
            "name": name, "surface": name, "layer": name, "carrier": name, "one_way": flag,
            "crumbles": crumbles, "grow": within(0.0, 1e9), "rounding": within(0.0, 1e9),
            "capsule": rod, "cylinder": rod,
            "block": two, "turn_deg": { "anyOf": [within(-360.0, 360.0), point()] },
            "ball": ball, "polygon": points, "segment": two,
            "sides": { "enum": ["both", "left"] }, "solid": points, "facet": points,
        })),
        &[],
    );
    piece["oneOf"] =
        one_of(&["block", "ball", "capsule", "cylinder", "polygon", "segment", "solid", "facet"]);
    let with_switch: Vec<&str> = kinds.iter().copied().chain(["switch"]).collect();
    let zone_fields = json!({
            "kind": { "enum": with_switch },
            "opens": name, "closes": name, "removes": name, "restores": name, "for": seconds,
            "effects": { "type": "array", "items": { "enum": kinds }, "minItems": 1, "maxItems": 4 }, "name": name, "carrier": name, "front": point(),
            "place": point(), "push": point(), "pace": within(0.0, 10.0), "up": point(), "surface": name,
            "number": { "type": "integer", "minimum": 0, "maximum": 65_535 },
    });
    let mut boxed = zone_fields.clone();
    boxed["box"] = two.clone();
    let mut zone = table(object(boxed), &["box"]);
    zone["anyOf"] = one_of(&["kind", "effects"]);
    zone["allOf"] = ZONE_FIELDS.iter().flat_map(|field| of_effect(*field)).collect();
    let triangle = json!({
        "type": "array", "items": { "type": "integer", "minimum": 0 }, "minItems": 3, "maxItems": 3
    });
    let mesh = table(
        object(json!({
            "vertices": points, "triangles": { "type": "array", "items": triangle },
            "surfaces": { "type": "array", "items": name },
            "surface": name, "layer": name, "carrier": name, "name": name, "one_way": flag,
            "crumbles": crumbles,
        })),
        &["vertices", "triangles"],
    );
    let heights = table(
        object(json!({
            "corner": point(), "spacing": point(),
            "columns": { "type": "integer", "minimum": 2, "maximum": 65_536 },
            "heights": { "type": "array", "items": number },
            "surface": name, "layer": name, "carrier": name, "name": name, "one_way": flag,
            "crumbles": crumbles,
        })),
        &["corner", "spacing", "columns", "heights"],
    );
    let mut meaning = zone_fields.clone();
    meaning["tile"] = json!({ "enum": ["solid", "shelf", "nothing"] });
    meaning["start"] = flag.clone();
    for key in ["layer", "one_way", "crumbles"] {
        meaning[key] = piece["properties"][key].clone();
    }
    let mut meaning = table(object(meaning), &[]);
    meaning["anyOf"] = one_of(&["tile", "kind", "effects", "start"]);
    let legend = json!({
        "type": "object", "propertyNames": { "pattern": "^.$" }, "additionalProperties": meaning
    });
    let tiles = table(
        object(json!({
            // In metres 0.01 to 1000.
            "corner": point(), "size": within(1e-5, 1e7),
            "rows": { "type": "array", "items": name }, "legend": legend,
            "surface": name, "layer": name, "carrier": name, "name": name, "one_way": flag,
            "crumbles": crumbles,
        })),
        &["corner", "rows"],
    );
    let geometry = table(
        object(json!({
            "file": text("The path of a drawing or a model, from this file's folder."),
            // In metres 1e-6 to 1e6 and 1e-4 to 10; the ranges follow the scale of the level.
            "scale": within(1e-9, 1e10), "offset": point(), "tolerance": within(1e-7, 1e5),
            "up": { "enum": UpAxis::NAMES.map(|(name, _)| name) }, "surface": name, "layer": name,
        })),
        &["file"],
    );
    let mut schema = table(
        object(json!({
            "title": text("The title."),
            "up": up(),
            "scale": scale(),
            "start": point(),
            "geometry": { "type": "array", "items": geometry },
            "dimensions": { "enum": [2, 3], "default": 2 },
            "layers": { "type": "array", "items": name },
            "surfaces": { "type": "object", "additionalProperties": surface },
            "carriers": { "type": "object", "additionalProperties": carrier },
            "piece": { "type": "array", "items": piece },
            "zone": { "type": "array", "items": zone },
            "mesh": { "type": "array", "items": mesh },
            "heights": { "type": "array", "items": heights },
            "tiles": { "type": "array", "items": tiles },
        })),
        &[],
    );
    schema["$schema"] = json!(DRAFT);
    schema["title"] = json!("A level");
    schema
}

/// The keys of zones, the effect that each belongs to, and whether the effect requires it.
const ZONE_FIELDS: [(&str, &str, bool); 8] = [
    ("front", "ladder", false),
    ("push", "wind", true),
    ("pace", "slow", true),
    ("factor", "weight", true),
    ("up", "gravity", true),
    ("surface", "floor", false),
    ("place", "checkpoint", false),
    ("number", "own", true),
];

/// A key is allowed with its effect only, and perhaps required.
fn of_effect((key, effect, is_needed): (&str, &str, bool)) -> Vec<Value> {
    let has_it = json!({ "anyOf": [
        { "properties": { "kind": { "const": effect } }, "required": ["kind"] },
        { "properties": { "effects": { "contains": { "const": effect } } }, "required": ["effects"] },
    ] });
    let mut rules = vec![json!({ "if": { "required": [key] }, "then": has_it })];
    if is_needed {
        rules.push(json!({ "if": has_it, "then": { "required": [key] } }));
    }
    rules
}

/// For `oneOf` and `anyOf`: a table that has one of these keys.
fn one_of(keys: &[&str]) -> Value {
    keys.iter().map(|key| json!({ "required": [key] })).collect()
}

fn text(description: &str) -> Value {
    json!({ "type": "string", "description": description })
}

fn within(least: f64, most: f64) -> Value {
    json!({ "type": "number", "minimum": least, "maximum": most })
}

/// A point or vector of two or three numbers.
fn point() -> Value {
    json!({ "type": "array", "items": { "type": "number" }, "minItems": 2, "maxItems": 3 })
}

fn object(value: Value) -> Map<String, Value> {
    match value {
        Value::Object(map) => map,
        _ => Map::new(),
    }
}

/// A table with these keys and no others.
fn table(properties: Map<String, Value>, required: &[&str]) -> Value {
    json!({
        "type": "object",
        "properties": properties,
        "required": required,
        "additionalProperties": false,
    })
}
