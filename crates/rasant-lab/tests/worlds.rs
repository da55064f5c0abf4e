//! Worlds in other units and with another up: the same motion as in metres with y up.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Intent, Level, Piece, Vector};
use rasant_lab::files::{
    Game, LevelFile, TuningFile, UpAxis, found_start, read_tuning, write_svg, write_tuning,
};
use rasant_lab::survey::warnings;
use rasant_lab::{Files, OnDisk, Problem, World, read_level, read_trial, run};
use toml::{Table, Value};

/// Texts under names, and all else on the disk, in the folder of the demo's levels.
#[derive(Default)]
struct Written(BTreeMap<PathBuf, String>);

impl Written {
    fn with(mut self, name: &str, text: impl Into<String>) -> Self {
        self.0.insert(name.into(), text.into());
        self
    }
}

fn demo(inside: impl AsRef<Path>) -> PathBuf {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo")).join(inside)
}

impl Files for Written {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        self.0.get(path).map_or_else(|| OnDisk.read(&demo("levels").join(path)), |text| Ok(text.clone()))
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        OnDisk.read_bytes(&demo("levels").join(path))
    }
}

fn level(text: &str) -> Result<World, Problem> {
    read_level(&Written::default().with("level.toml", text), Path::new("level.toml"))
}

fn plane(text: &str) -> LevelFile<Vec2> {
    match level(text).unwrap() {
        World::Plane(file) => file,
        World::Space(_) => panic!("three dimensions"),
    }
}

fn space(text: &str) -> LevelFile<Vec3> {
    match level(text).unwrap() {
        World::Space(file) => file,
        World::Plane(_) => panic!("two dimensions"),
    }
}

/// A world that is like one in metres with y up.
#[derive(Clone, Copy)]
struct Like {
    up: UpAxis,
    scale: f64,
}

impl Like {
    fn direction(self, [x, y, z]: [f64; 3]) -> [f64; 3] {
        match self.up {
            UpAxis::Y => [x, y, z],
            UpAxis::MinusY => [x, -y, -z],
            UpAxis::Z => [x, -z, y],
            UpAxis::MinusZ => [x, z, -y],
        }
    }

    fn point(self, of: [f64; 3]) -> [f64; 3] {
        self.direction(of).map(|part| part * self.scale)
    }

    fn numbers(self, list: &[Value], scale: f64) -> Value {
        let number = |value: &Value| value.as_float().or(value.as_integer().map(|it| it as f64)).unwrap();
        let mut point = [0.0; 3];
        point.iter_mut().zip(list).for_each(|(part, value)| *part = number(value));
        let there = self.direction(point).map(|part| Value::Float(part * scale + 0.0));
        Value::Array(there[..list.len()].to_vec())
    }

    /// Every point of a value. Two opposite corners stay the lowest and the highest.
    fn points(self, value: &Value) -> Value {
        let list = value.as_array().unwrap();
        match list.first() {
            Some(Value::Array(_)) => Value::Array(list.iter().map(|point| self.points(point)).collect()),
            _ => self.numbers(list, self.scale),
        }
    }

    fn corners(self, value: &Value) -> Value {
        let points = self.points(value);
        let [a, b] = [0, 1].map(|at| {
            let list = points[at].as_array().unwrap();
            list.iter().map(|part| part.as_float().unwrap()).collect::<Vec<f64>>()
        });
        let side = |pick: fn(f64, f64) -> f64| {
            Value::Array(a.iter().zip(&b).map(|(a, b)| Value::Float(pick(*a, *b))).collect())
        };
        Value::Array(vec![side(f64::min), side(f64::max)])
    }

    /// A table of a level file, converted key by key.
    fn table(self, table: &Table) -> Table {
        let length = |value: &Value| {
            let metres = value.as_float().unwrap_or_else(|| value.as_integer().unwrap() as f64);
            Value::Float(metres * self.scale)
        };
        let convert = |(key, value): (&String, &Value)| {
            let there = match (key.as_str(), value) {
                ("block" | "box", _) => self.corners(value),
                ("polygon" | "segment" | "solid" | "facet" | "start" | "offset" | "centre", _)
                | ("from" | "to" | "place" | "push" | "drift", _) => self.points(value),
                ("front" | "axis", Value::Array(list)) => self.numbers(list, 1.0),
                ("up", Value::Array(list)) => self.numbers(list, 1.0),
                ("radius" | "rounding" | "grow", _) => length(value),
                // From x towards y: the other direction, where y points down.
                ("turn_deg", Value::Array(list)) => self.numbers(list, 1.0),
                ("turn_deg", _) if self.up == UpAxis::MinusY && !table.contains_key("axis") => {
                    let degrees = value.as_float().unwrap_or_else(|| value.as_integer().unwrap() as f64);
                    Value::Float(-degrees)
                }
                (_, Value::Table(inner)) => Value::Table(self.table(inner)),
                (_, Value::Array(list)) if list.first().is_some_and(Value::is_table) => {
                    let inner = list.iter().map(|one| Value::Table(self.table(one.as_table().unwrap())));
                    Value::Array(inner.collect())
                }
                _ => value.clone(),
            };
            (key.clone(), there)
        };
        table.iter().map(convert).collect()
    }

    fn level(self, text: &str) -> String {
        let mut table = self.table(&text.parse::<Table>().unwrap());
        table.insert("up".to_owned(), self.up.name().into());
        table.insert("scale".to_owned(), self.scale.into());
        table.to_string()
    }
}

/// The position in the first trace of every row, and in the other one as it would be there.
fn apart(like: Like, metres: &rasant_lab::Run, other: &rasant_lab::Run) -> f64 {
    let rows = metres.trace.rows.iter().zip(&other.trace.rows);
    let off = rows.map(|(a, b)| {
        let there = like.point(a.position.map(f64::from));
        let by = there.iter().zip(b.position).map(|(a, b)| (a - f64::from(b)).powi(2)).sum::<f64>();
        by.sqrt() / like.scale
    });
    off.fold(0.0, f64::max)
}

#[test]
fn trials_of_the_demo_are_the_same_in_other_worlds() {
    let mut played = [0; 2];
    for entry in std::fs::read_dir(demo("trials")).unwrap() {
        let path = entry.unwrap().path();
        let text = std::fs::read_to_string(&path).unwrap();
        let table: Table = text.parse().unwrap();
        let script = table.get("script").and_then(Value::as_str).unwrap_or("");
        // Positions and directions in scripts are not converted here.
        let names_places =
            ["when x", "when y", "throw", "move", "knock", "walk to", "turn ", "carry", " z ", "x >"];
        if names_places.iter().any(|word| script.contains(word)) || table.contains_key("body") {
            continue;
        }
        let metres = read_trial(&OnDisk, &path).unwrap();
        let reference = run(&metres);
        let level = std::fs::read_to_string(path.parent().unwrap().join(table["level"].as_str().unwrap()));
        // A drawing or a model alone.
        let Ok(level) = level else { continue };
        if !table["level"].as_str().unwrap().ends_with(".toml") {
            continue;
        }
        let worlds = match metres.dimensions() {
            2 => vec![(UpAxis::Y, 32.0), (UpAxis::MinusY, 1.0), (UpAxis::MinusY, 16.0)],
            _ => vec![(UpAxis::MinusY, 1.0), (UpAxis::Z, 1.0), (UpAxis::Z, 64.0), (UpAxis::MinusZ, 0.5)],
        };
        for (up, scale) in worlds {
            let like = Like { up, scale };
            let tuning = metres.tuning.scaled(scale as f32).unwrap();
            let mut trial = table.clone();
            for dropped in ["expect", "tracks"] {
                trial.remove(dropped);
            }
            trial.insert("level".to_owned(), "level.toml".into());
            trial.insert("tuning".to_owned(), "tuning.toml".into());
            trial.remove("start");
            let start = like.point(metres.start.map(f64::from));
            let start = start[..metres.dimensions()].iter().map(|part| Value::Float(*part)).collect();
            trial.insert("start".to_owned(), Value::Array(start));
            let files = Written::default()
                .with("level.toml", like.level(&level))
                .with("tuning.toml", write_tuning(&tuning))
                .with("trial.toml", trial.to_string());
            let there = read_trial(&files, Path::new("trial.toml"))
                .unwrap_or_else(|problem| panic!("{}, {}: {problem}", path.display(), up.name()));
            let other = run(&there);
            let off = apart(like, &reference, &other);
            assert!(off < 2e-3, "{}: {off} m apart, {} up, {scale} units a metre", path.display(), up.name());
            let [a, b] = [&reference, &other].map(|run| (run.summary.jumps, run.summary.landings));
            assert_eq!(a, b, "{}", path.display());
            let highest = |run: &rasant_lab::Run, scale: f64| {
                run.summary.highest_m.map(|highest| (f64::from(highest) / scale * 1e3).round())
            };
            let [a, b] = [highest(&reference, 1.0), highest(&other, scale)];
            assert!(
                (a.unwrap_or(0.0) - b.unwrap_or(0.0)).abs() <= 2.0 && a.is_some() == b.is_some(),
                "{a:?}, {b:?}"
            );
        }
        played[metres.dimensions() - 2] += 1;
    }
    assert!(played[0] >= 8 && played[1] >= 3, "{played:?} trials were compared");
}

#[test]
fn warnings_and_starts_are_the_same_in_other_worlds() {
    let mut count = 0;
    for entry in std::fs::read_dir(demo("levels")).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_none_or(|ending| ending != "toml") {
            continue;
        }
        let text = std::fs::read_to_string(&path).unwrap();
        let name = path.file_name().unwrap().to_str().unwrap();
        let metres = level(&text).unwrap();
        let tuning = TuningFile::default();
        let ups: &[UpAxis] = match metres.dimension() {
            2 => &[UpAxis::MinusY],
            _ => &[UpAxis::Z, UpAxis::MinusY],
        };
        for &up in ups {
            let like = Like { up, scale: 32.0 };
            let other = level(&like.level(&text)).unwrap_or_else(|problem| panic!("{name}: {problem}"));
            let scaled = tuning.scaled(32.0).unwrap();
            let kinds = |world: &World, tuning: &TuningFile| {
                let mut all: Vec<(&str, usize)> =
                    warnings(world, tuning).iter().map(|one| (one.kind, one.count)).collect();
                all.sort_unstable();
                all
            };
            if name == "bell-loft.toml" && up == UpAxis::Z {
                // The side of a ladder in its model is written for y up: data are in the level's axes.
                continue;
            }
            assert_eq!(kinds(&metres, &tuning), kinds(&other, &scaled), "{name} with {} up", up.name());
            let stands = match (&metres, &other) {
                (World::Plane(_), World::Plane(file)) => lands(file, &scaled),
                (World::Space(_), World::Space(file)) => lands(file, &scaled),
                _ => panic!("{name} has another dimension"),
            };
            assert!(stands, "{name} with {} up: nothing to stand on at the start that was found", up.name());
            count += 1;
        }
    }
    assert!(count > 25, "{count} worlds");
}

/// Returns true if a body at the start that is found for it stands there within a moment.
fn lands<V: rasant::Geometry>(file: &LevelFile<V>, tuning: &TuningFile) -> bool {
    let mut body = file.body(tuning, V::from_array(found_start(file, tuning)));
    (0..30).any(|_| {
        body.tick(&Intent::default(), &file.level, 1.0 / 60.0);
        body.state().footing.is_firm() || body.state().mode.name() != "airborne"
    })
}

#[test]
fn bodies_walk_to_points_whatever_is_up() {
    for steering in [rasant::Steering::View, rasant::Steering::Plan, rasant::Steering::Body] {
        for up in [Vec3::Y, Vec3::NEG_Y, Vec3::Z, Vec3::NEG_Z] {
            let far = Vec3::splat(20.0) - up.abs() * 19.5;
            let floor = Piece::block(-far - up * 0.5, far - up * 0.5).unwrap();
            let mut builder = Level::builder();
            builder.add(floor);
            let level = builder.build().unwrap();
            let mut tuning = TuningFile::default();
            tuning.tuning.steering = steering;
            let mut body = Controller::new(tuning.tuning, tuning.hull, up * 0.01).with_up(up);
            let goal = body.state().right * 3.0 + body.state().facing * 4.0;
            for _ in 0..400 {
                let intent = Intent::toward(goal, &body);
                body.tick(&intent, &level, 1.0 / 60.0);
            }
            let off = (body.position() - goal).length();
            assert!(off < 0.1, "{steering:?}, {up} up: {off} m from the goal, at {}", body.position());
        }
    }
}

#[test]
fn tiles_hang_from_the_corner_with_y_down() {
    let rows = "rows = [\"@.==\", \"#..#\", \"####\"]\n[tiles.legend]\n\"@\" = { start = true }\n";
    let up = plane(&format!("[[tiles]]\ncorner = [2, 10]\n{rows}"));
    let down = plane(&format!("up = \"-y\"\nscale = 8\n[[tiles]]\ncorner = [16, -104]\n{rows}"));
    assert_eq!(down.level.bounds().min, Vec2::new(16.0, -104.0));
    assert_eq!(down.level.bounds().max, Vec2::new(16.0 + 32.0, -80.0));
    let there = |of: Vec2| Vec2::new(of.x, -of.y) * 8.0;
    assert_eq!(down.start, up.start.map(there));
    let boxes = |file: &LevelFile<Vec2>| {
        let all = file.level.all_pieces().map(|piece| (piece.bounds(), piece.one_way));
        all.collect::<Vec<_>>()
    };
    for ((a, shelf), (b, other)) in boxes(&up).into_iter().zip(boxes(&down)) {
        let corners = [there(a.min), there(a.max)];
        let apart =
            (corners[0].min(corners[1]) - b.min).length() + (corners[0].max(corners[1]) - b.max).length();
        assert!(apart < 1e-4 && shelf == other, "{a:?} became {b:?}");
    }
}

#[test]
fn heights_rise_along_the_up_of_their_level() {
    let grid = "[[heights]]\nspacing = [2, 3]\ncolumns = 3\nheights = [0, 0, 0, 0, 1, 0, 0, 0, 0]\n";
    for (up, corner, top) in [
        ("y", "[0, 5, 0]", Vec3::new(2.0, 6.0, 3.0)),
        ("-y", "[0, 5, 0]", Vec3::new(2.0, 4.0, 3.0)),
        ("z", "[0, 0, 5]", Vec3::new(2.0, 3.0, 6.0)),
        ("-z", "[0, 0, 5]", Vec3::new(2.0, 3.0, 4.0)),
    ] {
        let file = space(&format!("dimensions = 3\nup = \"{up}\"\n{grid}corner = {corner}\n"));
        let tuning = TuningFile::default();
        // A body that falls from above the top stands on it, so its front is up.
        let mut body = file.body(&tuning, top + file.up() * 0.5);
        for _ in 0..60 {
            body.tick(&Intent::default(), &file.level, 1.0 / 60.0);
        }
        assert!(body.state().footing.is_firm(), "{up}: {:?}", body.state().footing);
        assert!((body.position() - top).length() < 0.1, "{up}: at {}", body.position());
    }
}

#[test]
fn walls_are_solid_from_the_left_that_is_seen() {
    let wall = "[[piece]]\nblock = [[-9, -9], [9, -8]]\n[[piece]]\nsides = \"left\"\n";
    // A wall from the floor to the top: its left is where x is smaller, as it is seen.
    for (head, segment) in [("", "[[0, 0], [0, 3]]"), ("up = \"-y\"\n", "[[0, 0], [0, -3]]")] {
        let file = plane(&format!("{head}{wall}segment = {segment}\n"));
        let up = file.up().y;
        let stops = |from: f32, steer: f32| {
            let mut body = file.body(&TuningFile::default(), Vec2::new(from, up));
            for _ in 0..15 {
                body.tick(&Intent::steering(steer, 0.0), &file.level, 1.0 / 60.0);
            }
            (body.position().x - from).abs() < 0.5
        };
        assert!(stops(-0.5, 1.0) && !stops(0.5, -1.0), "{head}");
    }
}

#[test]
fn a_drawing_of_a_level_with_y_down_reads_back_to_the_bit() {
    let like = Like { up: UpAxis::MinusY, scale: 32.0 };
    for name in ["first-roofs.toml", "fairground.toml", "back-alley.toml"] {
        let text = std::fs::read_to_string(demo("levels").join(name)).unwrap();
        let file = plane(&like.level(&text));
        let drawing = write_svg(&file, &Game::default());
        let around = "up = \"-y\"\nscale = 32\n[[geometry]]\nfile = \"a.svg\"\nscale = 1\n";
        let files = Written::default().with("level.toml", around).with("a.svg", drawing);
        let Ok(World::Plane(again)) = read_level(&files, Path::new("level.toml")) else { panic!("{name}") };
        // In the order of drawing: what does not ride first.
        let shown = |file: &LevelFile<Vec2>| {
            let mut all: Vec<String> =
                file.level.all_pieces().map(|piece| format!("{:?}", piece.shape())).collect();
            all.sort_unstable();
            all
        };
        assert_eq!(shown(&file), shown(&again), "{name}");
        assert_eq!(file.start, again.start, "{name}");
    }
}

#[test]
fn models_and_drawings_stand_upright_whatever_is_up() {
    // A tower of one by one by three metres, written with y up.
    let tower: String = (0..8)
        .map(|i| format!("v {} {} {}\n", i & 1, 3 * (i >> 1 & 1), i >> 2 & 1))
        .chain(["f 1 3 4 2\nf 5 6 8 7\nf 1 2 6 5\nf 3 7 8 4\nf 1 5 7 3\nf 2 4 8 6\n".to_owned()])
        .collect();
    for up in ["y", "-y", "z", "-z"] {
        let text = format!("dimensions = 3\nup = \"{up}\"\nscale = 10\n[[geometry]]\nfile = \"tower.obj\"\n");
        let files = Written::default().with("level.toml", text);
        struct Tower(Written, String);
        impl Files for Tower {
            fn read(&self, path: &Path) -> Result<String, Problem> {
                self.0.read(path)
            }
            fn read_bytes(&self, _: &Path) -> Result<Vec<u8>, Problem> {
                Ok(self.1.clone().into_bytes())
            }
        }
        let files = Tower(files, tower.clone());
        let Ok(World::Space(file)) = read_level(&files, Path::new("level.toml")) else { panic!("{up}") };
        let bounds = file.level.bounds();
        let size = bounds.max - bounds.min;
        assert!((size.dot(file.up().abs()) - 30.0).abs() < 1e-3, "{up}: {size}");
        assert!((size.x - 10.0).abs() < 1e-3, "{up}: {size}");
        let foot = if file.up().dot(Vec3::ONE) > 0.0 { bounds.min } else { bounds.max };
        assert!(foot.dot(file.up()).abs() < 1e-3, "{up}: it hangs, from {}", bounds.min);
    }
}

#[test]
fn what_is_wrong_with_a_world_is_said() {
    let said = |text: &str| level(text).err().map(|problem| problem.to_string()).unwrap_or_default();
    let floor = "[[piece]]\nblock = [[0, 0], [1, 1]]\n";
    for (head, words) in [
        ("up = \"z\"\n", "unknown word \"z\""),
        ("up = \"down\"\n", "\"y\", \"-y\""),
        ("up = 1\n", "a text"),
        ("scale = 0\n", "0.001 to 10000 units of length per metre"),
        ("scale = \"px\"\n", "a finite number"),
    ] {
        let found = said(&format!("{head}{floor}"));
        let plain = found.replace('`', "\"");
        assert!(plain.contains(words) || found.contains(words), "{head}: {found}");
        assert!(found.contains("level.toml:1:"), "{found}");
    }
    let tuned = |tuning: &str, level: &str| {
        let trial = "level = \"level.toml\"\ntuning = \"tuning.toml\"\nstart = [0, 20]\nduration = 1\n";
        let files = Written::default()
            .with("trial.toml", trial)
            .with("tuning.toml", tuning)
            .with("level.toml", format!("{level}{floor}"));
        read_trial(&files, Path::new("trial.toml"))
    };
    let other = tuned("scale = 16\n", "scale = 32\n").unwrap_err().to_string();
    assert!(other.contains("units of which 16 are a metre") && other.contains("scale = 32"), "{other}");
    let other = tuned("", "scale = 32\n").unwrap_err().to_string();
    assert!(other.contains("in metres") && other.contains("trial.toml:2:"), "{other}");
    let other = tuned("up = \"y\"\n", "up = \"-y\"\n").unwrap_err().to_string();
    assert!(other.contains("in the tuning, \"y\" is up, and in the level, \"-y\""), "{other}");
    assert!(tuned("up = \"z\"\n", "").is_err(), "two dimensions have no z");
    // What only the tuning says counts for the level.
    let one = tuned("up = \"-y\"\nscale = 4\n", "").unwrap();
    assert_eq!((one.world.up_axis(), one.world.scale()), (UpAxis::MinusY, 4.0));
    let files = Written::default().with("tuning.toml", "title = \"t\"\nup = \"-z\"\nscale = 0.25\n");
    let read = read_tuning(&files, Path::new("tuning.toml")).unwrap();
    let again = Written::default().with("tuning.toml", write_tuning(&read));
    assert_eq!(read_tuning(&again, Path::new("tuning.toml")).unwrap(), read);
}

#[test]
fn a_respawn_and_a_turn_keep_the_up_of_the_level() {
    for up in [Vec3::NEG_Y, Vec3::Z, Vec3::NEG_Z, Vec3::X, Vec3::new(0.6, 0.0, 0.8)] {
        let tuning = TuningFile::default();
        let mut body = Controller::new(tuning.tuning, tuning.hull, Vec3::ZERO).with_up(up);
        let state = *body.state();
        assert!((state.up - up).length() < 1e-6 && state.facing.dot(up).abs() < 1e-6);
        assert!((state.facing.dot(state.right)).abs() < 1e-6, "it faces ahead: {}", state.facing);
        let level = space("dimensions = 3\n[[piece]]\nblock = [[50, 50, 50], [51, 51, 51]]\n").level;
        body.respawn();
        body.tick(&Intent::default(), &level, 1.0 / 60.0);
        assert!((body.state().up - up).length() < 1e-6);
        assert!(Vector::dot(body.velocity(), up) < 0.0, "it falls down");
    }
}
