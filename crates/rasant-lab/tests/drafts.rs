//! Single pieces of a draft are changed without reading the rest of the file again.

use fastrand::Rng;
use rasant::glam::Vec2;
use rasant_lab::files::{Change, Entry, Fields, LevelDraft, LevelFile, Part, Parts, PieceEdit, World};

fn plane(world: &World) -> &LevelFile<Vec2> {
    match world {
        World::Plane(file) => file,
        World::Space(_) => panic!("three dimensions"),
    }
}

const LEVEL: &str = r###"# The yard.
title = "A yard"   # with a comment
layers = ["crowd"]

[surfaces.ice]
traction = 0.3

# the floor
[[piece]]
block = [[-9, -1], [9, 0]]

[[piece]]
ball = { centre = [2, 1], radius = 0.5 }
surface = "ice"  # slippery

# A ramp, its points below each other.
[[piece]]
polygon = [
    [4, 0],
    [6, 0],
    [6, 1],
]
layer = "crowd"

[[zone]]
kind = "goal"
box = [[7, 0], [8, 1]]

[[piece]]
capsule = { from = [-4, 1], to = [-2, 1], radius = 0.2 }
rounding = 0
[[tiles]]
corner = [20, 0]
rows = ["##.##"]
"###;

fn fields(pairs: &[(&str, Entry)]) -> Fields {
    pairs.iter().map(|(key, value)| ((*key).to_owned(), value.clone())).collect()
}

fn points(corners: &[[f64; 2]]) -> Entry {
    Entry::List(corners.iter().map(|point| Entry::List(point.map(Entry::Number).to_vec())).collect())
}

fn any_change(rng: &mut Rng, pieces: usize) -> Change {
    let part = Part { of: Parts::Piece, number: rng.usize(0..pieces) };
    let by = vec![f64::from(rng.i32(-8..8)) * 0.25, f64::from(rng.i32(0..8)) * 0.25];
    match rng.u32(0..6) {
        0 => Change::Shift { part, by },
        1 => Change::Copy { part, by },
        2 if pieces > 2 => Change::Delete { part },
        3 => {
            let at = f64::from(rng.i32(-20..20));
            let block = points(&[[at, 2.0], [at + 1.0, 3.0]]);
            Change::Add { of: Parts::Piece, fields: fields(&[("block", block)]) }
        }
        4 => {
            Change::All { changes: vec![Change::Shift { part, by: by.clone() }, Change::Shift { part, by }] }
        }
        _ => {
            let surface = if rng.bool() { Some(Entry::Text("ice".to_owned())) } else { None };
            Change::Set { part, fields: [("surface".to_owned(), surface)].into() }
        }
    }
}

/// Any sequence of such changes leaves a text that is read as the level that was edited, and the same
/// pieces as reading the whole file after each change.
#[test]
fn edited_drafts_are_the_levels_that_their_texts_say() {
    for seed in 0..60 {
        let mut rng = Rng::with_seed(seed);
        // Without the key that a capsule does not have.
        let level = LEVEL.replace("rounding = 0\n", "");
        let mut draft = LevelDraft::new(&level);
        let mut slow = draft.clone();
        let mut world = draft.world().unwrap();
        for step in 0..30 {
            let pieces = plane(&world).part_ids().len();
            let change = any_change(&mut rng, pieces);
            let (next, edited, edits) = draft
                .edited(&change, &world)
                .unwrap_or_else(|| panic!("seed {seed}, step {step}: {change:?}\n{}", draft.text()));
            assert!(!edits.is_empty());
            let (slow_draft, slow_world) = slow.changed(&change).unwrap();
            (draft, world, slow) = (next, edited, slow_draft);
            let read = draft.world().unwrap_or_else(|why| panic!("seed {seed}: {why}\n{}", draft.text()));
            let of_parts = |world: &World| {
                let file = plane(world);
                let ids = file.part_ids().iter();
                ids.map(|id| file.level.piece(*id).unwrap()).collect::<Vec<_>>()
            };
            let expected = of_parts(&read);
            assert_eq!(of_parts(&world), expected, "seed {seed}, step {step}: {change:?}");
            assert_eq!(of_parts(&slow_world), expected, "seed {seed}, step {step}: {change:?}");
            assert_eq!(plane(&world).level.len(), plane(&read).level.len());
        }
        for comment in ["# The yard.", "# with a comment", "rows = [\"##.##\"]"] {
            assert!(draft.text().contains(comment), "{comment} is lost:\n{}", draft.text());
        }
    }
}

/// What is wrong or unusual is left to the reader of the whole file, which says what it is.
#[test]
fn other_changes_read_the_whole_file() {
    let level = LEVEL.replace("rounding = 0\n", "");
    let draft = LevelDraft::new(&level);
    let world = draft.world().unwrap();
    let part = |number| Part { of: Parts::Piece, number };
    let set = |number, key: &str, value| Change::Set {
        part: part(number),
        fields: [(key.to_owned(), Some(value))].into(),
    };
    for change in [
        set(0, "surface", Entry::Text("mud".to_owned())),
        set(0, "surface", Entry::Text("plain".to_owned())),
        set(0, "block", points(&[[0.0, 0.0], [0.0, 0.0]])),
        set(0, "colour", Entry::Text("red".to_owned())),
        set(9, "surface", Entry::Text("ice".to_owned())),
        Change::Delete { part: part(9) },
        Change::Add { of: Parts::Piece, fields: Fields::new() },
    ] {
        assert!(draft.edited(&change, &world).is_none(), "{change:?}");
        assert!(draft.changed(&change).is_err(), "{change:?}");
    }
    // Allowed, but of another kind.
    for change in [
        set(0, "name", Entry::Text("floor".to_owned())),
        Change::Shift { part: Part { of: Parts::Zone, number: 0 }, by: vec![1.0, 0.0] },
        Change::Ride { part: part(1), by: Some(vec![1.0, 0.0]), seconds: 2.0 },
    ] {
        assert!(draft.edited(&change, &world).is_none(), "{change:?}");
        assert!(draft.changed(&change).is_ok(), "{change:?}");
    }
    // A header in a text of several lines is none.
    let tricky = format!("title = '''\n[[piece]]\n'''\n{}", LEVEL.split_once('\n').unwrap().1);
    let tricky = LevelDraft::new(
        &tricky.replace("title = \"A yard\"   # with a comment\n", "").replace("rounding = 0\n", ""),
    );
    let shift = Change::Shift { part: part(1), by: vec![1.0, 0.0] };
    let title = tricky.world();
    assert!(title.is_err() || tricky.edited(&shift, &title.unwrap()).is_none());
    let (_, _, edits) = draft.edited(&shift, &world).unwrap();
    assert_eq!(edits, [PieceEdit::Set(1)]);
}
