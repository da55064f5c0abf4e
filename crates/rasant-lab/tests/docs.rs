//! The documents agree with the types.

use rasant::tuning::KNOBS;
use rasant_lab::expect::MEASURES;
use rasant_lab::sheet::figure_kinds;

/// Set to rewrite the table instead of comparing it.
const BLESS: &str = "RASANT_BLESS";

/// Holds a table of a document, under its first two lines, against the rows that it must have.
fn holds_the_table(document: &str, head: &str, rows: &str) {
    let path = format!("{}/../../docs/{document}", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(&path).unwrap();
    let start = text.find(head).expect("the document has the table") + head.len();
    let end = start + text[start - 1..].find("\n\n").expect("the table ends");
    if std::env::var_os(BLESS).is_some() {
        std::fs::write(path, format!("{}{rows}{}", &text[..start], &text[end..])).unwrap();
    } else {
        assert_eq!(&text[start..end], rows, "run the tests with {BLESS}=1 to rewrite the table");
    }
}

fn sign(unit: &str) -> &str {
    if unit.is_empty() { "-" } else { unit }
}

#[test]
fn the_tables_in_the_documents_are_those_of_the_types() {
    let knob = |knob: &rasant::tuning::Knob| {
        let (unit, meaning) = (sign(knob.unit.sign()), knob.meaning.trim());
        format!(
            "| `{}` | {unit} | {} to {} | {} | {meaning} |\n",
            knob.path, knob.min, knob.max, knob.default
        )
    };
    holds_the_table(
        "files.md",
        "| knob | unit | range | default | meaning |\n| --- | --- | --- | --- | --- |\n",
        &KNOBS.iter().map(knob).collect::<String>(),
    );
    let row = |name: &str, unit: &str, meaning: &str| format!("| `{name}` | {} | {meaning} |\n", sign(unit));
    let measures = MEASURES.iter().map(|it| row(it.name, it.unit, it.meaning));
    holds_the_table(
        "traces.md",
        "| figure of a run | unit | what |\n| --- | --- | --- |\n",
        &measures.collect::<String>(),
    );
    let figures = figure_kinds().map(|it| row(it.name, it.unit, it.meaning));
    holds_the_table(
        "traces.md",
        "| figure of the sheet | unit | what |\n| --- | --- | --- |\n",
        &figures.collect::<String>(),
    );
}

/// The words of each refusal are in the documents, and an expectation takes them.
#[test]
fn refusals_are_called_in_the_documents_what_the_library_calls_them() {
    use rasant::Refusal;
    use rasant::state::ManeuverKind;
    let cooldown = |of| Refusal::Cooldown { of, left: 0.1 };
    let path = format!("{}/../../docs/events.md", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).unwrap();
    let table = &text[text.find("### What is refused").unwrap()..];
    for refusal in [
        Refusal::Jump { no_footing_for: None },
        Refusal::JumpLocked,
        Refusal::WallJump,
        Refusal::DashEmpty,
        Refusal::DashAirLimit,
        cooldown(ManeuverKind::Dash),
        cooldown(ManeuverKind::Roll),
        Refusal::NoFooting,
        Refusal::StandUp,
        Refusal::Up,
        Refusal::HopBlocked,
        Refusal::HopUnderWay,
    ] {
        let words = format!("{} {}", &*refusal.asked(), refusal.cause().unwrap());
        assert!(table.contains(&format!("`{words}`")), "{words}");
        let trial = format!(
            "level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 1\n[[expect]]\ncount = \"refused {words}\"\nis = 0"
        );
        crate::common::read(crate::common::LEVEL, crate::common::TUNING, &trial).unwrap();
    }
}
