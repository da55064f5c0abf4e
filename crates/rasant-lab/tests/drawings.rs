//! Levels drawn as SVG: the parts that elements become, the parts that are left out, and the round
//! trip.

use std::path::Path;

use fastrand::Rng;
use rasant::glam::Vec2;
use rasant::level::{Easing, Shape, Sides};
use rasant::{Effect, Layers, PathEnd};
use rasant_lab::files::{Game, LevelFile, not_in_svg, read_level, write_svg};
use rasant_lab::{OnDisk, Trial, World, read_trial, run};

use crate::common::Bytes;

const NAMESPACE: &str = "xmlns=\"http://www.w3.org/2000/svg\"";

fn drawn(inner: &str) -> Result<LevelFile<Vec2>, String> {
    read_svg(&format!("<svg {NAMESPACE}>{inner}</svg>"))
}

fn read_svg(text: &str) -> Result<LevelFile<Vec2>, String> {
    match read_level(&Bytes::of("yard.svg", text), Path::new("yard.svg")) {
        Ok(World::Plane(file)) => Ok(file),
        Ok(World::Space(_)) => panic!("a drawing is flat"),
        Err(problem) => Err(problem.to_string()),
    }
}

fn outlines(file: &LevelFile<Vec2>) -> Vec<Vec<Vec2>> {
    let points = |piece: rasant::Piece<Vec2>| match piece.shape() {
        Shape::Polygon { points, .. } => points.to_vec(),
        Shape::Segment { ends, .. } => ends.to_vec(),
        _ => Vec::new(),
    };
    file.level.all_pieces().map(points).collect()
}

fn area(outline: &[Vec2]) -> f64 {
    let next = |i: usize| outline[(i + 1) % outline.len()].as_dvec2();
    (0..outline.len()).map(|i| outline[i].as_dvec2().perp_dot(next(i))).sum::<f64>() / 2.0
}

#[test]
fn every_element_becomes_the_part_that_its_words_name() {
    let file = drawn(
        r##"<title>Dyers' yard</title>
        <rect x="0" y="0" width="10" height="1"/>
        <circle cx="3" cy="-2" r="0.5" class="surface-felt" data-traction="2" data-sound="thud"/>
        <line x1="5" y1="-3" x2="8" y2="-3" class="one-sided"/>
        <polyline points="5,-6 8,-6 8,-7" fill="none" class="one-way layer-lanterns"/>
        <rect id="ladder-2" x="9" y="-4" width="1" height="4"/>
        <rect class="water wind" data-push="4 0" data-name="race" x="20" y="0" width="5" height="3"/>
        <g class="surface-felt"><path d="M 12 0 L 14 0 L 14 -1 Z"/></g>
        <rect class="start" x="1" y="-1.8" width="0.6" height="1.8"/>
        <rect class="ignore" x="0" y="0" width="99" height="99"/>"##,
    )
    .unwrap();
    assert_eq!(file.title, "Dyers' yard");
    let shapes: Vec<_> = file.level.all_pieces().collect();
    assert_eq!(shapes.len(), 6);
    let floor = [[0.0, -1.0], [10.0, -1.0], [10.0, 0.0], [0.0, 0.0]].map(Vec2::from);
    assert!(matches!(shapes[0].shape(), Shape::Polygon { points, .. }
        if points.len() == 4 && floor.iter().all(|corner| points.contains(corner))));
    assert!(
        matches!(shapes[1].shape(), Shape::Ball { centre, radius: 0.5 } if centre == Vec2::new(3.0, 2.0))
    );
    assert!(matches!(shapes[2].shape(), Shape::Segment { sides: Sides::Left, .. }));
    assert!(shapes[3].one_way && shapes[4].one_way && shapes[3].layers == Layers::only(1));
    assert_eq!(file.layers, ["ground", "lanterns"]);
    assert_eq!((file.looks[1].name.as_str(), file.looks[1].sound.as_str()), ("felt", "thud"));
    assert_eq!(file.level.surfaces()[1].traction, 2.0);
    assert_eq!(shapes[5].surface, shapes[1].surface);
    assert_eq!(file.start, Some(Vec2::new(1.3, 0.0)));
    assert_eq!(file.zones, ["ladder", "race"]);
    let zones = file.level.all_zones();
    assert_eq!((zones[0].bounds.min, zones[0].bounds.max), (Vec2::new(9.0, 0.0), Vec2::new(10.0, 4.0)));
    let effects: Vec<_> = zones[1].effects.iter().collect();
    assert!(matches!(effects[..], [Effect::Water, Effect::Wind { push }] if *push == Vec2::new(4.0, 0.0)));
    assert!(file.left_out.is_empty(), "{:?}", file.left_out);
}

#[test]
fn transforms_units_scales_and_uses_place_a_shape() {
    let corner = |inner: &str| {
        let file = drawn(inner).unwrap();
        let points = outlines(&file).concat();
        points.iter().copied().reduce(Vec2::max).unwrap()
    };
    let near = |inner: &str, x: f32, y: f32| {
        let found = corner(inner);
        assert!(found.distance(Vec2::new(x, y)) < 1e-4, "{inner}: {found}");
    };
    near(r#"<g transform="translate(3 4)"><rect width="2" height="2" transform="scale(2)"/></g>"#, 7.0, -4.0);
    near(r#"<rect width="2" height="1" transform="rotate(90)"/>"#, 0.0, 0.0);
    near(r#"<rect x="1in" y="-2.54cm" width="25.4mm" height="72pt"/>"#, 192.0, 96.0);
    near(
        r##"<defs><rect id="brick" width="1" height="1"/></defs><use href="#brick" x="4" y="-2"/>"##,
        5.0,
        2.0,
    );
    near(r#"<svg x="10" y="0"><rect width="1" height="1"/></svg>"#, 11.0, 0.0);
    let scaled =
        read_svg(&format!("<svg {NAMESPACE} data-scale='0.01'><rect width='300' height='100'/></svg>"));
    assert_eq!(scaled.unwrap().level.bounds().max, Vec2::new(3.0, 0.0));
    let text = "[[geometry]]\nfile = \"a.svg\"\nscale = 0.5\noffset = [10, 20]\n";
    let mut files = Bytes::of("a.svg", format!("<svg {NAMESPACE}><rect width='2' height='2'/></svg>"));
    files.0.insert("level.toml".to_owned(), text.into());
    let World::Plane(moved) = read_level(&files, Path::new("level.toml")).unwrap() else { panic!() };
    assert_eq!(
        (moved.level.bounds().min, moved.level.bounds().max),
        (Vec2::new(10.0, 19.0), Vec2::new(11.0, 20.0))
    );
}

/// Whether a point is inside of outlines, by how often a ray crosses them.
fn winding(outlines: &[Vec<Vec2>], point: Vec2) -> i32 {
    let mut count = 0;
    for outline in outlines {
        for i in 0..outline.len() {
            let (a, b) = (outline[i], outline[(i + 1) % outline.len()]);
            if (a.y > point.y) != (b.y > point.y) {
                let x = a.x + (point.y - a.y) / (b.y - a.y) * (b.x - a.x);
                count += i32::from(x > point.x) * if b.y > a.y { 1 } else { -1 };
            }
        }
    }
    count
}

#[test]
fn outlines_of_any_form_are_filled_by_convex_pieces_and_nothing_else_is() {
    let mut rng = Rng::with_seed(20);
    for case in 0..60 {
        // Stars, folded outlines, and rings with a hole.
        let corners = rng.usize(5..24);
        let star = |scale: f32, rng: &mut Rng| -> Vec<Vec2> {
            (0..corners)
                .map(|i| {
                    let angle = i as f32 / corners as f32 * std::f32::consts::TAU;
                    Vec2::from_angle(angle) * scale * (0.4 + 0.6 * rng.f32())
                })
                .collect()
        };
        let mut whole = vec![star(5.0, &mut rng)];
        if case % 3 == 1 {
            whole.push(star(1.5, &mut rng));
        }
        if case % 3 == 2 {
            rng.shuffle(&mut whole[0]);
        }
        let even_odd = case % 2 == 0;
        let path: String = whole
            .iter()
            .map(|outline| {
                let points: Vec<_> =
                    outline.iter().map(|point| format!("{} {}", point.x, -point.y)).collect();
                format!("M {} Z ", points.join(" L "))
            })
            .collect();
        let rule = if even_odd { "evenodd" } else { "nonzero" };
        let file = drawn(&format!("<path style='fill-rule:{rule}' d='{path}'/>")).unwrap();
        let parts = outlines(&file);
        let mut inside = 0;
        for _ in 0..400 {
            let point = Vec2::new(rng.f32() * 10.0 - 5.0, rng.f32() * 10.0 - 5.0);
            let around = winding(&whole, point);
            let is_solid = if even_odd { around % 2 != 0 } else { around != 0 };
            let within = parts.iter().filter(|part| winding(std::slice::from_ref(part), point) != 0).count();
            inside += usize::from(is_solid);
            assert_eq!(within, usize::from(is_solid), "case {case}, {point}");
        }
        assert!(inside > 10, "case {case}");
        // Corners of the outline are corners of pieces, to the bit.
        if case % 3 == 0 {
            let all = parts.concat();
            assert!(whole[0].iter().all(|corner| all.contains(corner)), "case {case}");
            let sum: f64 = parts.iter().map(|part| area(part)).sum();
            assert!((sum - area(&whole[0])).abs() < 1e-4 * sum.abs());
        }
    }
}

#[test]
fn curves_are_as_near_as_the_tolerance() {
    for tolerance in [0.2f32, 0.01, 0.001] {
        let text = format!("[[geometry]]\nfile = \"a.svg\"\ntolerance = {tolerance}\n");
        let ellipse = format!("<svg {NAMESPACE}><ellipse rx='6' ry='2'/></svg>");
        let mut files = Bytes::of("a.svg", ellipse);
        files.0.insert("level.toml".to_owned(), text.into());
        let World::Plane(file) = read_level(&files, Path::new("level.toml")).unwrap() else { panic!() };
        let sum: f64 = outlines(&file).iter().map(|part| area(part)).sum();
        let (whole, round) = (std::f64::consts::PI * 12.0, 27.0);
        assert!((whole - sum).abs() < f64::from(tolerance) * round, "{tolerance}: {sum}");
        for point in outlines(&file).concat() {
            // On the ellipse, or inside where pieces meet.
            assert!((point.x / 6.0).hypot(point.y / 2.0) < 1.0 + tolerance, "{point}");
        }
    }
}

#[test]
fn a_platform_follows_its_drawn_path_in_its_time() {
    let file = drawn(
        r##"<rect width="40" height="1"/>
        <path id="track" d="M 100 50 h 6 v -3" transform="translate(7 7)"/>
        <g class="platform" id="barge" data-path="#track" data-seconds="9">
            <rect x="2" y="-1" width="3" height="0.5"/>
            <rect class="water" x="2" y="-2" width="3" height="1"/>
        </g>
        <rect class="platform" data-keyframes="0 0 0; 2 0 4 90" data-origin="5 5" data-end="stop" x="5" y="-6" width="1" height="1"/>"##,
    )
    .unwrap();
    assert_eq!(file.carriers, ["barge", "platform-2"]);
    let [barge, hoist] = file.level.carriers() else { panic!() };
    let keys: Vec<_> = barge.path().iter().map(|key| (key.time, key.offset)).collect();
    assert_eq!(keys, [(0.0, Vec2::ZERO), (6.0, Vec2::new(6.0, 0.0)), (9.0, Vec2::new(6.0, 3.0))]);
    assert_eq!((barge.end(), hoist.end()), (PathEnd::BackAndForth, PathEnd::Stop));
    // About its own origin.
    assert_eq!(hoist.path()[0].offset, Vec2::new(5.0, 5.0));
    assert_eq!(hoist.path()[1].offset, Vec2::new(5.0, 9.0));
    let riding: Vec<_> = file.level.all_pieces().filter(|piece| piece.carrier.is_some()).collect();
    assert_eq!(riding.len(), 2);
    assert!(
        matches!(riding[1].shape(), Shape::Polygon { points, .. } if points.contains(&Vec2::new(0.0, 0.0)))
    );
    assert!(file.level.all_zones()[0].carrier.is_some());
    // The drawn path itself is not geometry.
    assert_eq!(file.level.all_pieces().count(), 3);
}

#[test]
fn names_and_surfaces_are_found_wherever_they_stand() {
    // The numbers of a surface stand after its first use; a label is a name; numbers run on.
    let file = drawn(
        r##"<polygon class="surface-ice" points="0,0 4,0 4-1"/>
        <g class="surface-ice" data-traction="0.1"/>
        <rect id="Layer_1" xmlns:i="https://editor.example" i:label="Layer 1" y="2" width="3" height="1"/>
        <rect xmlns:i="https://editor.example" i:label="Ladder north" x="9" width="1" height="3"/>"##,
    )
    .unwrap();
    assert_eq!(file.level.surfaces()[1].traction, 0.1);
    assert_eq!((file.zones.len(), file.level.all_pieces().count()), (1, 2));
    assert!(file.left_out.is_empty(), "{:?}", file.left_out);
}

#[test]
fn other_contents_of_a_drawing_are_counted_by_kind() {
    let file = drawn(
        r##"<rect width="9" height="1" class="cls-1 laddr" clip-path="url(#c)"/>
        <text x="1" y="1">Mind the step</text><text>twice</text><image href="x.png"/>
        <rect width="100%" height="100%" fill="white"/>
        <g display="none"><rect width="1" height="1"/></g>
        <path d="M 0 0 L 1 0 L 2 0 Z"/> <rect data-puhs="1" x="2" width="1" height="1"/>"##,
    )
    .unwrap();
    let left: Vec<(&str, usize)> =
        file.left_out.iter().map(|(what, count)| (what.as_str(), *count)).collect();
    assert_eq!(
        left,
        [
            ("<image>", 1),
            ("<text>", 2),
            ("data `puhs` (`push`?)", 1),
            ("element with a length in %", 1),
            ("hidden element", 1),
            ("outline without an area", 1),
            ("property `clip-path`", 1),
            ("word `cls-1`", 1),
            ("word `laddr` (`ladder`?)", 1),
        ]
    );
}

/// Whether two levels are the same, to the bit and to the name.
fn assert_same(a: &LevelFile<Vec2>, b: &LevelFile<Vec2>) {
    let all = |file: &LevelFile<Vec2>| -> Vec<String> {
        // Those on carriers come first in a drawing.
        let mut pieces: Vec<String> = file
            .level
            .all_pieces()
            .map(|piece| {
                let carrier = piece.carrier.map(|id| &file.carriers[usize::from(id.0)]);
                format!(
                    "{carrier:?} {:?} {:?} {:?} {}",
                    piece.shape(),
                    piece.surface,
                    piece.layers,
                    piece.one_way
                )
            })
            .collect();
        let zones = file.level.all_zones().iter().zip(&file.zones).map(|zone| format!("{zone:?}"));
        pieces.extend(zones);
        pieces.sort();
        pieces
    };
    assert_eq!(all(a), all(b));
    assert_eq!(a.level.surfaces(), b.level.surfaces());
    let paths = |file: &LevelFile<Vec2>| -> Vec<String> {
        file.level
            .carriers()
            .iter()
            .map(|carrier| format!("{:?} {:?}", carrier.path(), carrier.end()))
            .collect()
    };
    assert_eq!(paths(a), paths(b));
    let names = |file: &LevelFile<Vec2>| {
        (file.title.clone(), file.looks.clone(), file.carriers.clone(), file.layers.clone(), file.start)
    };
    assert_eq!(names(a), names(b));
}

#[test]
fn a_level_written_as_a_drawing_is_read_again_to_the_bit() {
    let trials = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/trials"));
    let (mut count, mut left_out) = (0, Vec::new());
    for entry in std::fs::read_dir(trials).unwrap() {
        let trial = read_trial(&OnDisk, &entry.unwrap().path()).unwrap();
        let World::Plane(file) = &trial.world else { continue };
        if !not_in_svg(file).is_empty() {
            left_out.push(trial.title.clone());
            continue;
        }
        let again = read_svg(&write_svg(file, &Game::default()))
            .unwrap_or_else(|why| panic!("{}: {why}", trial.title));
        assert!(again.left_out.is_empty(), "{:?}", again.left_out);
        assert_same(file, &again);
        // And it is played alike.
        let drawn = Trial { world: World::Plane(again), ..trial.clone() };
        let paths = [run(&trial), run(&drawn)].map(|run| {
            let place =
                |row: &rasant_lab::Row| (row.position.map(f32::to_bits), row.velocity.map(f32::to_bits));
            run.trace.rows.iter().map(place).collect::<Vec<_>>()
        });
        assert!(paths[0] == paths[1], "{}", trial.title);
        count += 1;
    }
    assert!(count > 10);
    left_out.sort();
    let expected = [
        "Across the old scaffold",
        "The crate under the ledge",
        "Through the lock gate",
        "Up by the fair's wheel",
    ];
    assert_eq!(left_out, expected);
    // Odd numbers, all that a level can have.
    let mut rng = Rng::with_seed(7);
    for _ in 0..30 {
        let text = odd_level(&mut rng);
        let World::Plane(file) = read_level(&Bytes::of("level.toml", text.as_str()), Path::new("level.toml"))
            .unwrap_or_else(|why| panic!("{why}\n{text}"))
        else {
            panic!()
        };
        assert_same(&file, &read_svg(&write_svg(&file, &Game::default())).unwrap());
    }
}

/// Round shapes and eased paths are in drawings, and what is not is listed.
#[test]
fn drawings_hold_round_shapes_and_easings_and_list_what_they_lack() {
    let text = r#"
[carriers.lift]
path = [{ time = 0, ease = "in-out" }, { time = 2, offset = [0, 3], turn_deg = 20, ease = "out" }]
[carriers.crane]
path = "host"
[carriers.gate]
door = [{ time = 0 }, { time = 1, offset = [0, 3] }]
[carriers.gondola]
on = "lift"
path = [{ time = 0, offset = [1, 2] }]
[[piece]]
block = [[-9, -1], [9, 0]]
rounding = 0.2
[[piece]]
polygon = [[0, 1], [2, 1], [1, 2]]
grow = 0.25
[[piece]]
capsule = { from = [3, 1], to = [5, 2], radius = 0.4 }
carrier = "lift"
[[piece]]
name = "leaf"
block = [[6, 0], [6.4, 3]]
carrier = "gate"
"#;
    let World::Plane(file) = read_level(&Bytes::of("level.toml", text), Path::new("level.toml")).unwrap()
    else {
        panic!()
    };
    let lacks = not_in_svg(&file);
    assert_eq!(lacks.len(), 4, "{lacks:?}");
    for word in ["door \"gate\"", "carrier \"crane\"", "carrier \"gate\"", "\"gondola\", which rides"] {
        assert!(lacks.iter().any(|lack| lack.contains(word)), "{word}: {lacks:?}");
    }
    let again = read_svg(&write_svg(&file, &Game::default())).unwrap();
    let shapes = |file: &LevelFile<Vec2>| {
        let pieces = file.level.all_pieces();
        let mut shapes: Vec<String> = pieces.map(|piece| format!("{:?}", piece.shape())).collect();
        shapes.sort();
        shapes
    };
    assert_eq!(shapes(&file), shapes(&again));
    let easings: Vec<_> = again.level.carriers()[0].path().iter().map(|key| key.easing).collect();
    assert_eq!(easings, [Easing::InOut, Easing::Out]);
}

fn odd_level(rng: &mut Rng) -> String {
    let mut number = || (rng.f32() - 0.5) * 10f32.powi(rng.i32(-2..4));
    let [a, b, c, d, e, f, g, h] = std::array::from_fn(|_| number());
    format!(
        "title = \"<odd> & \\\"quoted\\\"\"\nstart = [{a}, {b}]\nlayers = [\"lanterns\", \"fences\"]\n\
        [surfaces.\"wet & old % slate\"]\ntraction = {t}\nsound = \"clink\"\n[surfaces.belt]\ndrift = [{c}, {d}]\npace = 0.3\n\
        [carriers.barge]\npath = [{{ time = 0.1, offset = [{e}, {f}] }}, {{ time = 3.7, offset = [{g}, {h}], turn_deg = {a} }}]\nend = \"stop\"\n\
        [carriers.hoist]\npath = [{{ time = 0, offset = [0, 0] }}, {{ time = {t}, offset = [{b}, 1] }}]\n\
        [[piece]]\nblock = [[{a}, {b}], [{a2}, {b2}]]\nturn_deg = {turn}\nsurface = \"belt\"\ncarrier = \"barge\"\n\
        [[piece]]\nball = {{ centre = [{c}, {d}], radius = {t} }}\nlayer = \"fences\"\n\
        [[piece]]\nball = {{ centre = [{c}, {d}], radius = {t} }}\ncarrier = \"hoist\"\n\
        [[piece]]\nsegment = [[{e}, {f}], [{g}, {h}]]\nsides = \"left\"\none_way = true\nsurface = \"wet & old % slate\"\n\
        [[zone]]\nbox = [[{a}, {c}], [{b}, {d}]]\neffects = [\"wind\", \"slow\", \"floor\"]\npush = [{e}, {f}]\npace = 0.7\nsurface = \"wet & old % slate\"\nname = \"gale & rain\"\n\
        [[zone]]\nbox = [[{e}, {c}], [{f}, {d}]]\nkind = \"ladder\"\ncarrier = \"barge\"\n\
        [[zone]]\nbox = [[{e}, {c}], [{f}, {d}]]\neffects = [\"own\", \"gravity\"]\nnumber = 7\nup = [{g}, {h}]\n",
        turn = c % 300.0,
        a2 = a + a.abs() + 1.0,
        b2 = b + b.abs() + 1.0,
        t = 0.01 + h.abs().min(90.0),
    )
}

#[test]
fn a_broken_drawing_says_where_what_and_what_was_expected() {
    let said = |inner: &str| drawn(inner).unwrap_err();
    let at = NAMESPACE.len() + 7;
    let cases = [
        (r#"<rect width="3ells" height="1"/>"#, "expected a length in the drawing's units"),
        (r#"<path d="M 0 0 L x"/>"#, "expected as `M 0 0 L 4 0 L 4 2 Z`"),
        (r#"<polygon points="0,0 1"/>"#, "found 3 numbers in `points`, expected two a point"),
        (r#"<g transform="turn(4)"/>"#, "invalid transform"),
        (r##"<use href="#missing"/>"##, "the level has no pieces"),
        (r#"<rect class="wind" width="1" height="1"/>"#, "`wind` has no `push`, expected a `push`: m/s²"),
        (r#"<rect class="platform" width="1" height="1"/>"#, "a platform without a path"),
        (
            r#"<rect class="platform" data-keyframes="1 0 0; 1 0 1" width="1" height="1"/>"#,
            "a keyframe at 1 s",
        ),
        (r#"<rect class="platform" data-path="x" width="1" height="1"/>"#, "a path without a time"),
        (r#"<rect class="surface-ice" data-traction="0" width="1" height="1"/>"#, "one number, 0.001"),
        (r#"<rect class="on-barge" width="1" height="1"/>"#, "there is no carrier \"barge\""),
        (r#"<rect width="1e30" height="1"/>"#, "Check its scale"),
        (r#"<rect width="1" height="1">"#, "not valid XML"),
        (r#"<text/>"#, "the level has no pieces"),
    ];
    for (inner, expected) in cases {
        let why = said(inner);
        assert!(why.contains(expected), "{inner}: {why}");
        if !expected.contains("no pieces") {
            assert!(why.starts_with("yard.svg:1:"), "{why}");
        }
    }
    assert!(said(r#"<rect width="3ells" height="1"/>"#).starts_with(&format!("yard.svg:1:{}", at + 13)));
    let spatial = "dimensions = 3\n[[geometry]]\nfile = \"a.svg\"\n";
    let why = read_level(&Bytes::of("l.toml", spatial), Path::new("l.toml")).unwrap_err().to_string();
    assert_eq!(
        why,
        "l.toml:3:8: found a file with the extension `.svg` in a level of 3 dimensions, expected one with the extension .glb, .gltf, .obj"
    );
}

#[test]
fn drawings_that_would_fill_the_memory_are_refused() {
    let doubled: String =
        (1..40).map(|i| format!("<g id='g{i}'><use href='#g{0}'/><use href='#g{0}'/></g>", i - 1)).collect();
    let laughs =
        drawn(&format!("<defs><rect id='g0' width='1' height='1'/>{doubled}</defs><use href='#g39'/>"));
    assert!(laughs.unwrap_err().contains("more than 200000 elements"));
    let own = drawn("<g id='a'><use href='#a'/></g>").unwrap_err();
    assert!(own.contains("a use of itself"), "{own}");
    let deep = format!("{}<rect width='1' height='1'/>{}", "<g>".repeat(5000), "</g>".repeat(5000));
    assert!(drawn(&deep).unwrap_err().contains("groups 101 deep"));
    let entities: String = ('b'..='z')
        .zip('a'..)
        .map(|(name, of)| format!("<!ENTITY {name} '{}'>", format!("&{of};").repeat(9)))
        .collect();
    let bomb =
        format!("<!DOCTYPE svg [<!ENTITY a 'ha'>{entities}]><svg {NAMESPACE}><title>&z;</title></svg>");
    assert!(read_svg(&bomb).unwrap_err().contains("not valid XML"));
    let mut rng = Rng::with_seed(3);
    let scribble: String =
        (0..9000).map(|_| format!("L {} {} ", rng.f32() * 90.0, rng.f32() * 90.0)).collect();
    let why = drawn(&format!("<path d='M 0 0 {scribble} Z'/>")).unwrap_err();
    assert!(why.contains("found outlines with about"), "{why}");
    // One as long that does not cross itself is cut.
    let comb: String = (0..6000).map(|tooth| format!("L {} {} ", tooth / 2, 1 + tooth % 2)).collect();
    assert!(drawn(&format!("<path d='M 0 0 {comb} L 3000 0 Z'/>")).unwrap().level.len() > 1000);
    let curves = format!("<path d='M 0 0 {}'/>", "C 9e5 9e5 -9e5 9e5 0 1 ".repeat(400));
    assert!(drawn(&curves).unwrap_err().contains("points, expected fewer"));
}

/// Returns true if a piece covers a point.
fn covers(file: &LevelFile<Vec2>, at: Vec2) -> bool {
    file.level.all_pieces().any(|piece| match piece.shape() {
        Shape::Polygon { points, .. } => (0..points.len())
            .all(|i| (points[(i + 1) % points.len()] - points[i]).perp_dot(at - points[i]) >= 0.0),
        Shape::Ball { centre, radius } => centre.distance(at) <= radius,
        _ => false,
    })
}

fn segments(file: &LevelFile<Vec2>) -> usize {
    file.level.all_pieces().filter(|piece| matches!(piece.shape(), Shape::Segment { .. })).count()
}

#[test]
fn filled_shapes_are_solid_and_outlines_closed_within_rounding_are_closed() {
    // A disc of arcs whose ends are a hundredth apart, filled or only stroked.
    for fill in ["", "fill='none'", "style='fill:none'"] {
        let file = drawn(&format!("<path {fill} d='M8 15A7 7 0 1 1 8 1a7 7 0 0 1 0 14'/>")).unwrap();
        assert!(covers(&file, Vec2::new(8.0, -8.0)) && covers(&file, Vec2::new(2.0, -9.0)), "{fill}");
        assert!(!covers(&file, Vec2::new(1.5, -1.5)) && segments(&file) == 0, "{fill}");
    }
    // An open line is filled, unless it or what it is in says otherwise.
    let corner = "d='M 0 0 L 4 0 L 4 4'";
    let inside = Vec2::new(3.0, -1.0);
    for (drawing, filled) in [
        (format!("<path {corner}/>"), true),
        (format!("<g fill='none'><path {corner}/></g>"), false),
        (format!("<g fill='none'><path fill='red' {corner}/></g>"), true),
        (format!("<style>.wire {{ fill: none }}</style><path class='wire' {corner}/>"), false),
        (format!("<style>g > path {{ fill: none }}</style><g><path {corner}/></g>"), false),
        (format!("<style>path {{ fill: none }} #a {{ fill: blue }}</style><path id='a' {corner}/>"), true),
        ("<polyline points='0,0 4,0 4,4'/>".to_owned(), true),
        ("<polyline points='0,0 4,0 4,4' style='fill: none'/>".to_owned(), false),
    ] {
        let file = drawn(&drawing).unwrap();
        assert_eq!((covers(&file, inside), segments(&file) == 0), (filled, filled), "{drawing}");
    }
    // A line has no inside.
    assert_eq!(segments(&drawn("<line x2='4' y2='1'/>").unwrap()), 1);
}

#[test]
fn stars_are_divided_into_convex_parts_that_cover_the_filled_area() {
    for (n, times) in [(5, 2), (7, 2), (7, 3), (8, 3), (9, 4), (13, 6), (12, 5)] {
        let corners: Vec<String> = (0..n)
            .map(|i| std::f64::consts::TAU * f64::from(i * times) / f64::from(n))
            .map(|angle| format!("{},{}", 5.0 * angle.cos(), 5.0 * angle.sin()))
            .collect();
        let points = corners.join(" ");
        let file = drawn(&format!("<polygon points='{points}'/>")).unwrap();
        assert!(covers(&file, Vec2::ZERO) && covers(&file, Vec2::new(4.9, 0.0)), "{n}/{times}");
        assert!(!covers(&file, Vec2::new(4.9, 1.0)), "{n}/{times}");
        let file = drawn(&format!("<polygon fill-rule='evenodd' points='{points}'/>")).unwrap();
        assert_eq!(covers(&file, Vec2::new(0.01, 0.02)), times % 2 == 1, "{n}/{times}");
    }
}

#[test]
fn drawings_of_other_programs_are_read_with_their_extra_elements() {
    let text = format!(
        r##"<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "svg11.dtd" [
            <!ENTITY unit "2"> ]>
        <svg {NAMESPACE}>
        <style>.hidden {{ display: none }} .moved {{ transform: translate(10px, 0) rotate(90deg) }}</style>
        <symbol id="tile" viewBox="0 0 100 100"><rect width="100" height="50"/></symbol>
        <use href="#tile" x="20" y="0" width="4" height="4"/>
        <use href="#missing"/>
        <svg x="30" viewBox="0 0 10 10" width="2" height="4"><rect width="10" height="10"/></svg>
        <rect id="wind" x="40" width="&unit;" height="2"/>
        <rect id="platform-7" x="140" width="2em" height="2"/>
        <rect x="90" width="20" height="10" rx="4" ry="1"/>
        <rect x="60" width="-2" height="2"/><circle cx="61" r="-1"/><ellipse cx="66" rx="3"/>
        <switch><rect systemLanguage="fr" x="70" width="2" height="2"/>
            <rect x="72" width="2" height="2"/><rect x="74" width="2" height="2"/></switch>
        <rect class="hidden" x="80" width="2" height="2"/>
        <rect class="moved" width="1" height="2"/>
        </svg>"##
    );
    let file = read_svg(&text).unwrap();
    for (x, y, solid) in [
        (21.0, -1.0, true),
        (21.0, -3.0, false),
        // In the middle of the room: as wide as that, and as high.
        (31.0, -2.0, true),
        (31.0, -0.5, false),
        (41.0, -1.0, true),
        (171.0, -1.0, true),
        (83.0, -1.0, false),
        (81.0, -1.0, false),
        // One radius is both.
        (66.0, -2.5, true),
        (63.5, 0.0, true),
        (71.0, -1.0, false),
        (73.0, -1.0, true),
        (75.0, -1.0, false),
        (9.0, -0.5, true),
        // An elliptic corner: further across than down.
        (90.5, -0.2, false),
        (90.5, -1.5, true),
        (94.5, -0.1, true),
    ] {
        assert_eq!(covers(&file, Vec2::new(x, y)), solid, "{x}, {y}");
    }
    let left: Vec<&str> = file.left_out.keys().map(String::as_str).collect();
    assert!(left.contains(&"`use` of an element that does not exist"), "{left:?}");
    assert!(left.iter().any(|what| what.contains("`wind` has no `push`")), "{left:?}");
    assert!(left.iter().any(|what| what.contains("begins with `platform`")), "{left:?}");
}

#[test]
fn one_number_takes_neither_all_memory_nor_all_time() {
    for shape in [
        "<circle r='1e300'/>",
        "<circle r='3e7'/>",
        "<ellipse rx='3.4e38' ry='1'/>",
        "<ellipse rx='1e8' ry='2e8'/>",
        "<rect width='1e12' height='1' rx='1e11'/>",
        "<path d='M0 0A1e38 1e38 0 0 1 5 5Z'/>",
        "<path d='M0 0a1e300 2 0 0 1 5 5Z'/>",
        "<path d='M0 0L1e30 0L0 1Z'/>",
        "<path d='M0 0C1e300 0 0 1e300 1 1'/>",
        "<g transform='scale(1e20)'><circle r='1'/></g>",
        "<g transform='scale(1e200)'><path d='M0 0A1 2 0 0 1 5 5Z'/></g>",
    ] {
        let why = drawn(shape).unwrap_err();
        assert!(why.contains("expected"), "{shape}: {why}");
    }
    let long = "a".repeat(2_000_000);
    let file = drawn(&format!("<rect width='1' height='1' class='{long}' data-{long}='1'/>")).unwrap();
    assert_eq!(file.level.len(), 1);
}
