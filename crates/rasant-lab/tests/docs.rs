//! The documents agree with the types.

use rasant::tuning::KNOBS;

/// Set to rewrite the table instead of comparing it.
const BLESS: &str = "RASANT_BLESS";

#[test]
fn the_table_of_knobs_in_the_documents_is_that_of_the_types() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/files.md");
    let text = std::fs::read_to_string(path).unwrap();
    let head = "| knob | unit | range | default | meaning |\n| --- | --- | --- | --- | --- |\n";
    let start = text.find(head).expect("the document has the table") + head.len();
    let end = start + text[start..].find("\n\n").expect("the table ends") + 1;
    let table: String = KNOBS
        .iter()
        .map(|knob| {
            let unit = if knob.unit.sign().is_empty() { "-" } else { knob.unit.sign() };
            format!(
                "| `{}` | {unit} | {} to {} | {} | {} |\n",
                knob.path,
                knob.min,
                knob.max,
                knob.default,
                knob.meaning.trim()
            )
        })
        .collect();
    if std::env::var_os(BLESS).is_some() {
        std::fs::write(path, format!("{}{table}{}", &text[..start], &text[end..])).unwrap();
    } else {
        assert_eq!(&text[start..end], table, "run the tests with {BLESS}=1 to rewrite the table");
    }
}
