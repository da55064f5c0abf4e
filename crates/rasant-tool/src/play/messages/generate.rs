//! Generates the page's types from the Rust types, through their JSON Schema.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::Path;

use schemars::generate::SchemaSettings;
use serde_json::{Map, Value};

use super::{Answer, Exported, Request};

/// Where a schema keeps the types that it names.
const NAMED: &str = "#/$defs/";

/// The types of all messages, by their names.
fn types() -> BTreeMap<String, Value> {
    let settings = SchemaSettings::draft2020_12();
    let request = settings.clone().for_deserialize().into_generator().into_root_schema_for::<Request>();
    let answer = settings.clone().for_serialize().into_generator().into_root_schema_for::<Answer>();
    let exported = settings.for_serialize().into_generator().into_root_schema_for::<Exported>();
    let mut all = BTreeMap::new();
    for (name, schema) in [("Request", request), ("Answer", answer), ("Exported", exported)] {
        let mut schema = schema.to_value();
        let named = schema.as_object_mut().and_then(|schema| schema.remove("$defs"));
        let named = named.and_then(|named| named.as_object().cloned()).unwrap_or_default();
        for (name, schema) in named.into_iter().chain([(name.to_owned(), schema)]) {
            let known = all.insert(name.clone(), schema.clone());
            assert!(known.is_none_or(|known| known == schema), "two types are called {name}");
        }
    }
    all
}

/// The alternatives of a union, if a schema is one.
fn alternatives(schema: &Value) -> Option<&Vec<Value>> {
    ["oneOf", "anyOf"].iter().find_map(|key| schema[key].as_array())
}

/// The fields of an object, if a schema is one with named fields.
fn fields(schema: &Value) -> Option<&Map<String, Value>> {
    schema["properties"].as_object()
}

fn literal(value: &Value) -> String {
    value.to_string()
}

/// The TypeScript type of a schema.
fn typescript(schema: &Value) -> String {
    let named = schema["$ref"].as_str().and_then(|path| path.strip_prefix(NAMED));
    if let Some(name) = named {
        return match fields(schema) {
            Some(_) => format!("{} & {name}", object(schema)),
            None => name.to_owned(),
        };
    }
    if let Some(all) = alternatives(schema) {
        return all.iter().map(typescript).collect::<Vec<_>>().join(" | ");
    }
    if let Some(all) = schema["enum"].as_array() {
        return all.iter().map(literal).collect::<Vec<_>>().join(" | ");
    }
    if let Some(value) = schema.get("const") {
        return literal(value);
    }
    match &schema["type"] {
        Value::Array(kinds) => {
            let one = |kind: &Value| {
                let mut schema = schema.clone();
                schema["type"] = kind.clone();
                typescript(&schema)
            };
            kinds.iter().map(one).collect::<Vec<_>>().join(" | ")
        }
        Value::String(kind) => match &**kind {
            "string" => "string".to_owned(),
            "number" | "integer" => "number".to_owned(),
            "boolean" => "boolean".to_owned(),
            "null" => "null".to_owned(),
            "array" => list(schema),
            "object" => object(schema),
            other => panic!("a type `{other}` in {schema}"),
        },
        other => panic!("no type but {other} in {schema}"),
    }
}

fn list(schema: &Value) -> String {
    if let Some(items) = schema["prefixItems"].as_array() {
        return format!("[{}]", items.iter().map(typescript).collect::<Vec<_>>().join(", "));
    }
    let item = typescript(&schema["items"]);
    match schema["maxItems"].as_u64().filter(|most| schema["minItems"].as_u64() == Some(*most)) {
        Some(count) => format!("[{}]", vec![item; count as usize].join(", ")),
        None => format!("Array<{item}>"),
    }
}

fn object(schema: &Value) -> String {
    let Some(fields) = fields(schema) else {
        return match schema.get("additionalProperties").filter(|of| of.is_object()) {
            Some(of) => format!("{{ [key: string]: {} }}", typescript(of)),
            None => "{}".to_owned(),
        };
    };
    let required = |name: &String| {
        schema["required"].as_array().is_some_and(|all| all.iter().any(|one| one.as_str() == Some(name)))
    };
    let field = |(name, of): (&String, &Value)| {
        format!("{name}{}: {}", if required(name) { "" } else { "?" }, typescript(of))
    };
    format!("{{ {} }}", fields.iter().map(field).collect::<Vec<_>>().join("; "))
}

fn comment(schema: &Value, indent: &str) -> String {
    let text = schema["description"].as_str().unwrap_or("").replace('\n', " ");
    if text.is_empty() { String::new() } else { format!("{indent}/** {text} */\n") }
}

/// The declaration of an object's type.
fn interface(name: &str, schema: &Value) -> String {
    let mut text = format!("export interface {name} {{\n");
    for (field, of) in fields(schema).into_iter().flatten() {
        let only = serde_json::json!({ "properties": { field: of }, "required": schema["required"] });
        text += &comment(of, "  ");
        let whole = object(&only);
        let _ = writeln!(
            text,
            "  {};",
            whole.strip_prefix("{ ").and_then(|one| one.strip_suffix(" }")).unwrap_or(&whole)
        );
    }
    text + "}\n"
}

/// The name of a message of the tool: `FrameMessage` for `frame`.
fn message_name(schema: &Value) -> String {
    let tag = schema["properties"]["message"]["const"].as_str().unwrap_or("");
    let mut letters = tag.chars();
    let first = letters.next().map(|letter| letter.to_ascii_uppercase());
    format!("{}{}Message", first.map(String::from).unwrap_or_default(), letters.as_str())
}

/// The declarations: a type each.
fn declarations() -> String {
    let mut text = String::from(
        "// The messages between the page and the tool. Generated from the Rust types in\n\
         // src/play/messages: do not edit.\n",
    );
    for (name, schema) in types() {
        text += "\n";
        text += &comment(&schema, "");
        match (alternatives(&schema), fields(&schema)) {
            // Each of the tool's messages has a name of its own.
            (Some(all), _) if name == "Answer" => {
                let names: Vec<String> = all.iter().map(message_name).collect();
                let _ = writeln!(text, "export type Answer = {};", names.join(" | "));
                for (name, one) in names.iter().zip(all) {
                    text += "\n";
                    text += &comment(one, "");
                    text += &interface(name, one);
                }
            }
            (Some(all), _) => {
                let _ = writeln!(text, "export type {name} =");
                for (number, one) in all.iter().enumerate() {
                    let end = if number + 1 == all.len() { ";" } else { "" };
                    text += &comment(one, "  ");
                    let _ = writeln!(text, "  | {}{end}", typescript(one));
                }
            }
            (None, Some(_)) => text += &interface(&name, &schema),
            _ => {
                let _ = writeln!(text, "export type {name} = {};", typescript(&schema));
            }
        }
    }
    text + "\n/** Which fields each message has: see messages.js. */\nexport const FIELDS: Record<string, unknown>;\n"
}

/// The fields that a value of a schema may have, for the check at run time: 0 for what has
/// none, a type's name, `{ list }`, `{ map }`, `{ fields }`, or `{ tag, of }`.
fn shape(schema: &Value) -> Value {
    let own = fields(schema).map(|fields| {
        let shapes: Map<String, Value> =
            fields.iter().map(|(name, schema)| (name.clone(), shape(schema))).collect();
        serde_json::json!({ "fields": shapes })
    });
    if let Some(name) = schema["$ref"].as_str().and_then(|path| path.strip_prefix(NAMED)) {
        return match own {
            Some(mut own) => {
                own["and"] = name.into();
                own
            }
            None => name.into(),
        };
    }
    if let Some(all) = alternatives(schema) {
        let tag = |one: &Value| {
            let tagged = fields(one)?.iter().find(|(_, field)| field.get("const").is_some());
            tagged.map(|(name, field)| (name.clone(), field["const"].as_str().unwrap_or("").to_owned()))
        };
        if let Some((name, _)) = all.first().and_then(tag) {
            let of: Map<String, Value> =
                all.iter().filter_map(|one| Some((tag(one)?.1, shape(one)))).collect();
            return serde_json::json!({ "tag": name, "of": of });
        }
        // Something or nothing is as the something.
        let some: Vec<Value> = all.iter().map(shape).filter(|one| *one != 0).collect();
        return if some.len() == 1 { some[0].clone() } else { Value::from(0) };
    }
    if let Some(own) = own {
        return own;
    }
    let wrapped = |key: &str, of: &Value| match shape(of) {
        Value::Number(_) => Value::from(0),
        other => serde_json::json!({ key: other }),
    };
    if schema["items"].is_object() {
        wrapped("list", &schema["items"])
    } else if schema["additionalProperties"].is_object() {
        wrapped("map", &schema["additionalProperties"])
    } else {
        Value::from(0)
    }
}

fn script() -> String {
    let shapes: Map<String, Value> = types()
        .iter()
        .filter(|(name, _)| *name != "Request")
        .map(|(name, of)| (name.clone(), shape(of)))
        .collect();
    let lines: Vec<String> = shapes.iter().map(|(name, shape)| format!("  {name}: {shape},\n")).collect();
    format!(
        "// The fields of the tool's messages, by which the page refuses others. Generated from\n\
         // the Rust types in src/play/messages: do not edit.\n\nexport const FIELDS = {{\n{}}};\n",
        lines.concat()
    )
}

#[test]
fn the_messages_types_of_the_page_are_those_of_the_tool() {
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("page");
    for (name, text) in [("messages.d.ts", declarations()), ("messages.js", script())] {
        let path = page.join(name);
        if std::env::var_os("RASANT_BLESS").is_some() {
            std::fs::write(&path, &text).unwrap();
        }
        let committed = std::fs::read_to_string(&path).unwrap_or_default();
        assert_eq!(committed, text, "page/{name} is out of date: see src/play/messages/mod.rs");
    }
}
