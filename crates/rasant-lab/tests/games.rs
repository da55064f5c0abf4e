//! A program can use several games. What a game adds is a value, so they do not affect each other.

use std::path::Path;

use rasant::Effect;
use rasant_lab::files::{
    Files, Game as FileGame, GameFiles, LevelDraft, TuningFile, edit_tuning, read_tuning, write_svg,
    write_tuning,
};
use rasant_lab::sheet::{FigureKind, Figures, OwnFigure};
use rasant_lab::vary::{Axis, Measuring};
use rasant_lab::{Game, Problem, Script, Vocabulary, World, read_level, read_trial, run, schema};

/// The game of a new project, with its move.
#[path = "../../rasant-tool/starter/src/lib.rs"]
mod starter;

static SLOWNESS: OwnFigure = OwnFigure {
    kind: FigureKind {
        name: "kite-speed",
        unit: "m/s",
        meaning: "The speed of a fall under the kite.",
        groups: &[],
    },
    measure: |file, _, _| file.number("kite.fall_speed").map(f64::from),
};

fn promenade() -> Game {
    Game {
        moves: starter::game().moves,
        figures: std::slice::from_ref(&SLOWNESS),
        zones: &[("bandstand", 7)],
    }
}

/// Files in a list, of a game.
struct Listed(&'static [(&'static str, &'static str)], FileGame);

impl Files for Listed {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let found = self.0.iter().find(|(name, _)| path == Path::new(name));
        found.map(|(_, text)| (*text).to_owned()).ok_or_else(|| Problem::unreadable(path, "not listed"))
    }

    fn game(&self) -> FileGame {
        self.1
    }
}

const FILES: &[(&str, &str)] = &[
    ("slow.toml", "title = \"Slow\"\n[hull]\nshape = \"ball\"\nradius = 0.4\n[kite]\nfall_speed = 2.5\n"),
    (
        "pier.toml",
        "[[piece]]\nblock = [[-9, -1], [9, 0]]\n[[zone]]\nbox = [[3, 0], [4, 2]]\nkind = \"bandstand\"\n",
    ),
    (
        "drop.toml",
        "level = \"pier.toml\"\ntuning = \"slow.toml\"\nstart = [0, 9]\nduration = 2\n\
         script = \"\"\"\nat 0 s: press own-0 for 9 s\nwhen kite + 1 s: steer right\n\"\"\"\n\
         [[expect]]\nfigure = \"quickest\"\nwhile = \"kite\"\nat_most = 3.5\n",
    ),
];

#[test]
fn two_games_in_one_program_read_the_same_files_differently() {
    let (own, plain) = (Listed(FILES, promenade().in_files()), Listed(FILES, FileGame::default()));
    let read = |name: &str| read_tuning(&own, Path::new(name));
    let slow = read("slow.toml").unwrap();
    assert_eq!(slow.number("kite.fall_speed"), Some(2.5));
    let unknown = read_tuning(&plain, Path::new("slow.toml")).unwrap_err().to_string();
    assert!(unknown.contains("kite"), "{unknown}");

    let World::Plane(pier) = read_level(&own, Path::new("pier.toml")).unwrap() else { panic!() };
    assert!(pier.level.all_zones()[0].effects.iter().any(|effect| matches!(effect, Effect::Own(7))));
    let unknown = read_level(&plain, Path::new("pier.toml")).unwrap_err().to_string();
    assert!(unknown.contains("bandstand"), "{unknown}");

    let trial = read_trial(&own, Path::new("drop.toml")).unwrap();
    let done = run(&trial);
    let fastest = done.trace.rows.iter().map(|row| -row.velocity[1]).fold(0.0, f32::max);
    assert!((fastest - 2.5).abs() < 0.05, "{fastest} m/s under the kite");
    assert!(done.trace.rows.last().unwrap().position[0] > 0.5, "it steers once under the kite");
    assert!(read_trial(&plain, Path::new("drop.toml")).is_err());
}

#[test]
fn files_of_a_game_are_read_back_in_that_game() {
    let game = promenade().in_files();
    let mut file = game.tuning_file();
    file.set_number("kite.fall_speed", 3.0).unwrap();
    file.set_number("jump.height", 2.5).unwrap();
    let text: &'static str = write_tuning(&file).leak();
    let read = |text: &'static str| {
        let files: &'static [(&str, &str)] = vec![("it.toml", text)].leak();
        read_tuning(&Listed(files, game), Path::new("it.toml")).unwrap()
    };
    assert_eq!(read(text), file);

    let mut other = file.clone();
    other.set_number("kite.fall_speed", 4.0).unwrap();
    let edited: &'static str = edit_tuning(text, &other).unwrap().leak();
    assert_eq!(read(edited).number("kite.fall_speed"), Some(4.0));
    assert_eq!(read(edited).number("jump.height"), Some(2.5));

    let World::Plane(pier) = read_level(&Listed(FILES, game), Path::new("pier.toml")).unwrap() else {
        panic!()
    };
    assert!(write_svg(&pier, &game).contains("bandstand"));
    assert!(!write_svg(&pier, &FileGame::default()).contains("class=\"zone bandstand"));

    let files = GameFiles { files: Listed(FILES, FileGame::default()), game };
    let (draft, _) = LevelDraft::read(&files, Path::new("pier.toml")).unwrap();
    assert!(draft.world().is_ok(), "a draft knows its game");
    assert!(LevelDraft::new(draft.text()).world().is_err());
    assert!(LevelDraft::new(draft.text()).in_game(game).world().is_ok());
}

#[test]
fn scripts_schemas_and_figures_know_a_games_own() {
    let game = promenade();
    let words = Vocabulary::of(&game.in_files().tuning());
    let script = "when kite: steer left";
    assert!(Script::parse(script, &words).is_ok());
    assert!(script.parse::<Script>().unwrap_err().to_string().contains("kite"));

    let schema = schema::tuning(&game.in_files());
    assert_eq!(schema["properties"]["kite"]["properties"]["fall_speed"]["default"], 1.5);
    assert!(schema::tuning(&FileGame::default())["properties"]["kite"].is_null());
    assert!(schema::level(&game.in_files()).to_string().contains("bandstand"));
    assert_eq!(game.in_files().nearest_number("kite.fall_sped"), Some("kite.fall_speed"));

    let figures = game.figures();
    assert_eq!(figures.nearest("kite-sped"), Some("kite-speed"));
    assert!(Figures::default().kind("kite-speed").is_none());
    let file = game.in_files().tuning_file();
    assert_eq!(figures.sheet(&file, 2, 60).get("kite-speed"), Some(1.5));
    assert_eq!(Figures::default().sheet_of(&file, 2, 60, &|_| false).get("kite-speed"), None);

    let axis = Axis::parse(&file, "kite.fall_speed", "1:3:1").unwrap();
    let measuring = Measuring::Sheet { dimensions: 2, rates: 60.into(), figures };
    let mut changed = file.clone();
    changed.set_number(&axis.knob, axis.values[2]).unwrap();
    assert_eq!(measuring.of(&changed, &["kite-speed"]), [Some(3.0)]);
    assert!(Axis::parse(&TuningFile::default(), "kite.fall_speed", "1:3:1").is_err());
}
