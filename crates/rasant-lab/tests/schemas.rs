//! The schemas take every file that the reader takes, and refuse what it
//! refuses.

use std::fs;
use std::path::Path;

use boon::{Compiler, SchemaIndex, Schemas};
use rasant::tuning::KNOBS;
use rasant_lab::files::Game;
use rasant_lab::schema;
use serde_json::{Value, json};

pub struct Validator {
    schemas: Schemas,
    root: SchemaIndex,
}

impl Validator {
    fn validate(&self, value: &Value) -> Result<(), String> {
        self.schemas.validate(value, self.root).map_err(|error| format!("{error:#}"))
    }

    pub fn is_valid(&self, value: &Value) -> bool {
        self.validate(value).is_ok()
    }
}

pub fn validator(schema: &Value) -> Validator {
    const PLACE: &str = "schema.json";
    let (mut schemas, mut compiler) = (Schemas::new(), Compiler::new());
    compiler.add_resource(PLACE, schema.clone()).expect("it is JSON");
    let root = compiler.compile(PLACE, &mut schemas).expect("it is a schema");
    Validator { schemas, root }
}

fn read(path: &Path) -> Value {
    let text = fs::read_to_string(path).unwrap();
    let table: toml::Table = toml::from_str(&text).unwrap();
    serde_json::to_value(table).unwrap()
}

#[test]
fn every_shipped_file_is_as_its_schema_says() {
    let demo = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
    for (folder, schema) in [
        ("tunings", schema::tuning(&Game::default())),
        ("levels", schema::level(&Game::default())),
        ("trials", schema::trial(&Game::default())),
    ] {
        let validator = validator(&schema);
        let paths = fs::read_dir(demo.join(folder)).unwrap().map(|entry| entry.unwrap().path());
        // Drawings and models have schemas of their own.
        for path in paths.filter(|path| path.extension().is_some_and(|ending| ending == "toml")) {
            if let Err(error) = validator.validate(&read(&path)) {
                panic!("{}: {error}", path.display());
            }
        }
    }
}

#[test]
fn every_knob_is_in_the_schema_with_its_range() {
    let schema = schema::tuning(&Game::default());
    let validator = validator(&schema);
    for knob in KNOBS {
        let (group, name) = knob.path.split_once('.').unwrap();
        let with = |value: Value| json!({ group: { name: value } });
        assert!(schema["properties"][group]["properties"][name]["description"].is_string(), "{}", knob.path);
        assert!(!validator.is_valid(&with(json!("much"))), "{}", knob.path);
        if knob.unit == rasant::tuning::Unit::Switch {
            assert!(validator.is_valid(&with(json!(true))), "{}", knob.path);
            continue;
        }
        let (least, most) = (f64::from(knob.min), f64::from(knob.max));
        assert!(validator.is_valid(&with(json!(f64::from(knob.default)))), "{}", knob.path);
        assert!(validator.is_valid(&with(json!(most))), "{}", knob.path);
        assert!(!validator.is_valid(&with(json!(most + 1.0))), "{}", knob.path);
        assert!(!validator.is_valid(&with(json!(least - 1.0))), "{}", knob.path);
    }
}

#[test]
fn the_schema_refuses_everything_that_the_reader_refuses() {
    let trial = json!({ "level": "l", "tuning": "t", "start": [0, 0], "duration": 1 });
    let with = |key: &str, value: Value| {
        let mut trial = trial.clone();
        trial[key] = value;
        trial
    };
    let trials = validator(&schema::trial(&Game::default()));
    assert!(trials.is_valid(&trial));
    for wrong in [
        with("durations", json!(1)),
        with("start", json!([0])),
        with("rate", json!(0)),
        with("expect", json!([{ "figure": "hihgest" }])),
        with("expect", json!([{ "count": "landet" }])),
        with("tuning", json!({ "wolk": {} })),
    ] {
        assert!(!trials.is_valid(&wrong), "{wrong}");
    }
    let levels = validator(&schema::level(&Game::default()));
    for wrong in [
        json!({ "dimensions": 4 }),
        json!({ "piece": [{ "blok": [[0, 0], [1, 1]] }] }),
        json!({ "zone": [{ "box": [[0, 0], [1, 1]], "kind": "windy" }] }),
    ] {
        assert!(!levels.is_valid(&wrong), "{wrong}");
    }
}
