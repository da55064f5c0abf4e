//! The feel of the game, kept from being lost by a later change.

use std::path::Path;

use rasant_lab::{read_trial, run};

#[test]
fn the_first_steps_are_as_they_expect() {
    let files = {lib}::game().on_disk();
    let data = Path::new(env!("CARGO_MANIFEST_DIR")).join("data");
    let trial = read_trial(&files, &data.join("first-steps.toml")).unwrap_or_else(|problem| panic!("{problem}"));
    let done = run(&trial);
    for expectation in &trial.expectations {
        let finding = expectation.hold_against(&done);
        assert!(finding.holds, "{finding}");
    }
}
