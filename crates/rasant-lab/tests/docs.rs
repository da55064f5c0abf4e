//! The documents agree with the types.

use rasant::Tuning;
use rasant::tuning::KNOBS;
use rasant_lab::Vocabulary;
use rasant_lab::expect::MEASURES;
use rasant_lab::sheet::Figures;

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
        "| figure of a run | unit | meaning |\n| --- | --- | --- |\n",
        &measures.collect::<String>(),
    );
    let figures = Figures::default().kinds().map(|it| row(it.name, it.unit, it.meaning));
    holds_the_table(
        "traces.md",
        "| figure of the sheet | unit | meaning |\n| --- | --- | --- |\n",
        &figures.collect::<String>(),
    );
}

/// The words of each move are in the documents, and scripts and expectations take them.
#[test]
fn the_words_of_moves_are_in_the_documents_and_read() {
    let vocabulary = Vocabulary::of(&Tuning::default());
    let read =
        |name: &str| std::fs::read_to_string(format!("{}/../../docs/{name}", env!("CARGO_MANIFEST_DIR")));
    let (events, scripts) = (read("events.md").unwrap(), read("scripts.md").unwrap());
    let row = |event: &str| {
        let start = format!("| `{event}`");
        events
            .lines()
            .find(|line| line.starts_with(&start))
            .unwrap_or_else(|| panic!("no {event}"))
            .to_owned()
    };
    let refusals = &events[events.find("### What is refused").unwrap()..];
    let mut expected = Vec::new();
    for target in vocabulary.refused() {
        let causes = vocabulary.causes(target);
        for cause in &causes {
            assert!(refusals.contains(&format!("`{target} {cause}`")), "{target} {cause}");
            expected.push(format!("refused {target} {cause}"));
        }
        assert!(!causes.is_empty() || refusals.contains(&format!("`{target}`")), "{target}");
        expected.push(format!("refused {target}"));
    }
    for (event, words) in [("jumped", vocabulary.jumps()), ("move-began", vocabulary.announced())] {
        for word in words {
            assert!(row(event).contains(&format!("`{word}`")), "{event} {word}: {}", row(event));
            expected.push(format!("{event} {word}"));
        }
    }
    for word in vocabulary.departures() {
        assert!(row("left-ground").contains(&format!("`{word}`")), "{word}");
        expected.push(format!("left-ground {word}"));
    }
    for word in vocabulary.maneuvers() {
        assert!(row("maneuver-phase").contains(&format!("`{word}`")), "{word}");
        expected.push(format!("maneuver-phase {word} active"));
    }
    let trial =
        |more: &str| format!("level = \"level\"\ntuning = \"tuning\"\nstart = [0, 0]\nduration = 1\n{more}");
    // A ladder and water, without which some of the words are refused.
    let zone = |kind: &str| format!("[[zone]]\nbox = [[2, 0], [3, 4]]\nkind = \"{kind}\"\n");
    let level = [crate::common::LEVEL, &zone("ladder"), &zone("water")].concat();
    for words in expected {
        let text = trial(&format!("[[expect]]\ncount = \"{words}\"\nis = 0"));
        crate::common::read(&level, crate::common::TUNING, &text).unwrap_or_else(|e| panic!("{words}: {e}"));
    }
    for state in vocabulary.states() {
        assert!(scripts.contains(&format!("\"{state}\"")), "scripts.md has {state}");
    }
}
