//! Levels modelled as glTF and OBJ: what nodes become, what moves, and what is dropped.

use std::f32::consts::FRAC_1_SQRT_2;
use std::path::Path;

use rasant::glam::{Vec2, Vec3};
use rasant::level::Shape;
use rasant::{Effect, Level, PathEnd};
use rasant_lab::files::{LevelFile, read_level, read_root_track};
use rasant_lab::{OnDisk, World};
use serde_json::json;

use crate::common::Bytes;
use crate::common::glb::{Glb, container};

fn spatial(name: &str, files: &Bytes) -> Result<LevelFile<Vec3>, String> {
    match read_level(files, Path::new(name)) {
        Ok(World::Space(file)) => Ok(file),
        Ok(World::Plane(_)) => panic!("a model is of three dimensions"),
        Err(problem) => Err(problem.to_string()),
    }
}

fn read(glb: &Glb) -> Result<LevelFile<Vec3>, String> {
    spatial("yard.glb", &Bytes::of("yard.glb", glb.bytes()))
}

fn triangles(level: &Level<Vec3>) -> Vec<[Vec3; 3]> {
    let mut all = Vec::new();
    level.each_shape(|shape, tag| {
        if let Shape::Facet { points, .. } = shape
            && tag.carrier.is_none()
        {
            all.push([points[0], points[1], points[2]]);
        }
    });
    all
}

/// The volume that closed triangles hold, positive where they look outward.
fn volume(triangles: &[[Vec3; 3]]) -> f32 {
    triangles.iter().map(|[a, b, c]| a.dot(b.cross(*c)) / 6.0).sum()
}

#[test]
fn nodes_are_placed_as_those_that_they_are_in_and_meshes_used_again() {
    let mut glb = Glb::default();
    let brick = glb.block(Vec3::ZERO, Vec3::ONE);
    let inner = glb.node(json!({ "mesh": brick, "translation": [1, 0, 0], "scale": [2, 1, 1] }));
    glb.node(json!({ "children": [inner], "rotation": [0, FRAC_1_SQRT_2, 0, FRAC_1_SQRT_2], "translation": [0, 5, 0] }));
    glb.node(json!({ "mesh": brick, "matrix": [1,0,0,0, 0,1,0,0, 0,0,-1,0, 10,0,0,1] }));
    let file = read(&glb).unwrap();
    let all = triangles(&file.level);
    assert_eq!(all.len(), 24);
    // A quarter turn about up takes +x to -z.
    let turned: Vec<Vec3> = all.concat().into_iter().filter(|corner| corner.y > 4.0).collect();
    let (min, max) = turned.iter().fold((Vec3::MAX, Vec3::MIN), |(a, b), of| (a.min(*of), b.max(*of)));
    assert!(min.distance(Vec3::new(0.0, 5.0, -3.0)) < 1e-5 && max.distance(Vec3::new(1.0, 6.0, -1.0)) < 1e-5);
    // Mirrored or not, they look outward: boxes of 2 and of 1 m³.
    assert!((volume(&all) - 3.0).abs() < 1e-4, "{}", volume(&all));
}

#[test]
fn words_and_extras_define_a_node() {
    let mut glb = Glb::default();
    let brick = glb.block(Vec3::ZERO, Vec3::ONE);
    glb.node(json!({ "name": "floor surface-slate", "mesh": brick, "extras": { "traction": 0.5, "sound": "slate" } }));
    glb.node(json!({ "name": "Ladder.002", "mesh": brick, "translation": [3, 0, 0], "extras": { "front": [0, 0, -1] } }));
    glb.node(json!({ "name": "gust", "mesh": brick, "extras": { "class": "wind water", "push": [0, 9, 0], "name": "spray" } }));
    glb.node(json!({ "name": "awning one-way", "mesh": brick, "translation": [6, 2, 0] }));
    glb.node(json!({ "name": "start", "translation": [1, 1, 2] }));
    glb.node(json!({ "name": "Lamp", "camera": 0 }));
    let mut model = glb.json();
    model["cameras"] = json!([{ "type": "perspective", "perspective": { "yfov": 1.0, "znear": 0.1 } }]);
    let file = spatial("a.glb", &Bytes::of("a.glb", container(&model, glb.data()))).unwrap();
    assert_eq!((file.title.as_str(), file.start), ("a", Some(Vec3::new(1.0, 1.0, 2.0))));
    assert_eq!(file.looks[1].name, "slate");
    assert_eq!(file.level.surfaces()[1].traction, 0.5);
    assert_eq!(file.zones, ["ladder", "spray"]);
    let [ladder, gust] = file.level.all_zones() else { panic!() };
    assert!(matches!(ladder.effects.iter().next(), Some(Effect::Ladder { front }) if *front == Vec3::NEG_Z));
    assert_eq!(ladder.bounds.min, Vec3::new(3.0, 0.0, 0.0));
    let effects: Vec<_> = gust.effects.iter().map(Effect::name).collect();
    assert_eq!(effects, ["wind", "water"]);
    let awning: Vec<_> = file.level.all_pieces().collect();
    assert!(matches!(awning[0].shape(), Shape::Solid { .. }) && awning[0].one_way);
    assert_eq!(file.left_out.keys().collect::<Vec<_>>(), ["camera"]);
}

#[test]
fn an_animated_node_moves_its_contents_on_its_path() {
    let mut glb = Glb::default();
    let brick = glb.block(Vec3::splat(-0.5), Vec3::splat(0.5));
    let post = glb.node(json!({ "mesh": brick, "translation": [0, 1, 0] }));
    let lift = glb.node(json!({ "name": "lift", "mesh": brick, "children": [post] }));
    glb.node(json!({ "children": [lift], "translation": [10, 0, 0], "scale": [2, 2, 2] }));
    let wheel = glb.node(json!({ "name": "wheel", "mesh": brick, "translation": [0, 3, 0] }));
    let quarter = [0.0, 0.0, 0.0, 1.0, 0.0, FRAC_1_SQRT_2, 0.0, FRAC_1_SQRT_2];
    glb.animation("Rise", &[(lift, "translation", "LINEAR", &[0.0, 2.0], &[0.0, 0.0, 0.0, 0.0, 1.5, 0.0])]);
    glb.animation(
        "Turn",
        &[
            (wheel, "rotation", "LINEAR", &[0.5, 4.5], &quarter),
            (wheel, "scale", "LINEAR", &[0.0, 1.0], &[1.0; 6]),
        ],
    );
    let file = read(&glb).unwrap();
    assert_eq!(file.carriers, ["lift", "wheel"]);
    let [rising, turning] = file.level.carriers() else { panic!() };
    assert_eq!(rising.end(), PathEnd::BackAndForth);
    let keys: Vec<_> = rising.path().iter().map(|key| (key.time, key.offset, key.turn)).collect();
    assert_eq!(keys, [(0.0, Vec3::new(10.0, 0.0, 0.0), 0.0), (2.0, Vec3::new(10.0, 3.0, 0.0), 0.0)]);
    let turns: Vec<_> = turning.path().iter().map(|key| (key.time, key.turn)).collect();
    assert!(turns[0] == (0.0, 0.0) && turns.last().unwrap().0 == 4.5);
    assert!((turns.last().unwrap().1 - std::f32::consts::FRAC_PI_2).abs() < 1e-5);
    // The blocks are solids about the origin of what carries them, twice as large on the lift.
    let riding: Vec<_> =
        file.level.all_pieces().map(|piece| (piece.carrier.unwrap().0, piece.shape().to_points())).collect();
    assert_eq!(riding.iter().map(|(carrier, _)| *carrier).collect::<Vec<_>>(), [0, 0, 1]);
    let top = |points: &[Vec3]| points.iter().map(|point| point.y).fold(f32::MIN, f32::max);
    assert_eq!((top(&riding[0].1), top(&riding[1].1), top(&riding[2].1)), (1.0, 3.0, 0.5));
    assert_eq!(file.left_out.keys().collect::<Vec<_>>(), ["animation of a scale"]);
}

/// The corners of a shape.
trait ToPoints {
    fn to_points(&self) -> Vec<Vec3>;
}

impl ToPoints for Shape<'_, Vec3> {
    fn to_points(&self) -> Vec<Vec3> {
        match self {
            Shape::Solid { points, .. } | Shape::Facet { points, .. } => points.to_vec(),
            _ => Vec::new(),
        }
    }
}

#[test]
fn every_interpolation_is_that_of_the_format() {
    let at = |how: &str, values: &[f32], time: f32| {
        let mut glb = Glb::default();
        let brick = glb.block(Vec3::ZERO, Vec3::ONE);
        let node = glb.node(json!({ "mesh": brick, "name": "raft" }));
        glb.animation("Go", &[(node, "translation", how, &[0.0, 1.0, 3.0], values)]);
        let file = read(&glb).unwrap();
        file.level.carriers()[0].at(f64::from(time)).offset().x
    };
    let along = |x: [f32; 3]| x.map(|x| [x, 0.0, 0.0]).concat();
    assert!((at("LINEAR", &along([0.0, 2.0, 4.0]), 2.0) - 3.0).abs() < 1e-5);
    assert_eq!(at("STEP", &along([0.0, 2.0, 4.0]), 0.9), 0.0);
    assert_eq!(at("STEP", &along([0.0, 2.0, 4.0]), 2.9), 2.0);
    // Values 0, 2, 4 with a speed of 1 m/s at the second: halfway through the last second
    // and a half the cubic of the specification gives 2·½ + 4·½ + 2·(1·⅛ − 0·⅛) = 3.25.
    let smooth =
        along([0.0, 0.0, 0.0]).into_iter().chain(along([0.0, 2.0, 1.0])).chain(along([0.0, 4.0, 0.0]));
    assert!((at("CUBICSPLINE", &smooth.collect::<Vec<_>>(), 2.0) - 3.25).abs() < 2e-3);
}

#[test]
fn triangles_without_an_area_and_those_there_twice_are_dropped_and_counted() {
    let mut glb = Glb::default();
    let [a, b, c, d] = [Vec3::ZERO, Vec3::X, Vec3::Z, Vec3::new(1.0, 0.0, 1.0)];
    // Each corner is there again for another triangle, as exporters write them.
    let mesh = glb.mesh(
        &[a, c, b, b, c, d, a, b, c, a, b, b, a, b, b * 0.5],
        &[[0, 1, 2], [3, 4, 5], [6, 7, 8], [9, 10, 11], [12, 13, 14]],
    );
    glb.node(json!({ "mesh": mesh }));
    let file = read(&glb).unwrap();
    assert_eq!(triangles(&file.level).len(), 2);
    let left: Vec<_> = file.left_out.iter().map(|(what, count)| (what.as_str(), *count)).collect();
    assert_eq!(left, [("duplicate triangle", 1), ("triangle without an area", 2)]);
}

#[test]
fn plain_meshes_have_faces_of_any_outline_and_numbers_of_both_kinds() {
    let text = "# a yard\nmtllib a.mtl\no yard\nv 0 0 0\nv 0 0 4\nv 4 0 4\nv 4 0 0\nv 2 0 1\nvn 0 1 0\n\
        f 1//1 2//1 3//1 4//1 5//1\no ladder.001\nv 0 1 0\nv 1 1 0\nv 0 3 1\nf -3 -2 -1\ng surface-felt\nf 1 2 3\n\
        curv 0 1\n";
    let file = spatial("a.obj", &Bytes::of("a.obj", text)).unwrap();
    // The notch at the fifth corner is open: 16 m² less the triangle of 2 m².
    let flat = |of: &[Vec3; 3]| (of[1] - of[0]).cross(of[2] - of[0]).y / 2.0;
    let all = triangles(&file.level);
    let yard: f32 = all.iter().map(flat).sum();
    assert!((yard - 14.0).abs() < 1e-4, "{yard}");
    assert_eq!(file.zones, ["ladder", "ladder"]);
    assert_eq!(file.left_out.keys().collect::<Vec<_>>(), ["statement `curv`"]);
    let level = "dimensions = 3\n[[geometry]]\nfile = \"a.obj\"\nup = \"z\"\nscale = 2\noffset = [0, 0, 1]\n";
    let mut files = Bytes::of("a.obj", "v 0 0 0\nv 1 0 0\nv 0 1 3\nf 1 2 3\n");
    files.0.insert("l.toml".to_owned(), level.into());
    let file = spatial("l.toml", &files).unwrap();
    let tip = triangles(&file.level).concat().into_iter().max_by(|a, b| a.y.total_cmp(&b.y)).unwrap();
    assert!(tip.distance(Vec3::new(0.0, 6.0, -1.0)) < 1e-5, "{tip}");
}

#[test]
fn meshes_of_other_programs_are_read_whatever_their_names_and_encodings() {
    // Names in Latin-1, statements on two lines, names that begin with our words by accident.
    let mut text =
        b"# caf\xe9\no wind turbine\nv 0 0 0\nv 4 0 \\\n 0\nv 0 0 -4\nf 1 \\\r\n2 3\ng b\xf6den\nf 1 2 3\n"
            .to_vec();
    let read = |bytes: &[u8]| {
        let mut files = Bytes::of("a.obj", "");
        files.0.insert("a.obj".to_owned(), bytes.to_vec());
        spatial("a.obj", &files)
    };
    let file = read(&text).unwrap();
    assert_eq!((triangles(&file.level).len(), file.zones.len()), (1, 0));
    let left: Vec<&str> = file.left_out.keys().map(String::as_str).collect();
    assert!(left.iter().any(|what| what.contains("`wind` has no `push`")), "{left:?}");
    // Places are those in the file as it is.
    text.extend_from_slice(b"v 1 \\\n x 0\n");
    assert!(read(&text).unwrap_err().starts_with("a.obj:12:2: found `x`"), "{}", read(&text).unwrap_err());
    // Out of reach of any number.
    assert!(read(b"v 0 0 0\nv 9e18 0 0\nv 0 0 -4\nf 1 2 3\n").unwrap_err().contains("expected"));

    let mut glb = Glb::default();
    let brick = glb.block(Vec3::ZERO, Vec3::ONE);
    glb.node(json!({ "name": "Platform", "mesh": brick }));
    glb.node(json!({ "name": "gravity well", "mesh": brick, "translation": [4.0, 0.0, 0.0] }));
    let mut model = glb.json();
    let with =
        |model: &serde_json::Value| spatial("a.glb", &Bytes::of("a.glb", container(model, glb.data())));
    for (name, is_read) in [
        ("KHR_mesh_quantization", true),
        ("KHR_materials_unlit", true),
        ("KHR_texture_transform", true),
        ("KHR_draco_mesh_compression", false),
        ("EXT_meshopt_compression", false),
    ] {
        model["extensionsUsed"] = json!([name]);
        model["extensionsRequired"] = json!([name]);
        let read = with(&model);
        assert_eq!(read.is_ok(), is_read, "{name}: {:?}", read.err());
        if let Err(why) = read {
            assert!(why.contains(&format!("it needs the extension {name}")), "{why}");
        }
    }
}

#[test]
fn a_broken_model_says_where_what_and_what_was_expected() {
    let why = |change: &dyn Fn(&mut serde_json::Value)| {
        let mut glb = Glb::default();
        let brick = glb.block(Vec3::ZERO, Vec3::ONE);
        let a = glb.node(json!({ "name": "a", "mesh": brick }));
        glb.node(json!({ "name": "b", "children": [a] }));
        glb.animation("Go", &[(a, "translation", "LINEAR", &[0.0, 1.0], &[0.0; 6])]);
        let mut model = glb.json();
        change(&mut model);
        spatial("a.glb", &Bytes::of("a.glb", container(&model, glb.data()))).unwrap_err()
    };
    type Break<'a> = &'a dyn Fn(&mut serde_json::Value);
    let cases: [(&str, Break<'_>); 15] = [
        ("node 1 (`b`): it is in node 0, and in the scene, expected in one", &|m| {
            m["nodes"][0]["children"] = json!([1])
        }),
        ("accessor 0: 8000 elements of 12 bytes reach beyond their buffer", &|m| {
            m["accessors"][0]["count"] = json!(8000)
        }),
        ("accessor 0: 8 elements of 12 bytes reach beyond", &|m| {
            m["bufferViews"][0]["byteLength"] = json!(90)
        }),
        ("reach beyond their buffer", &|m| m["bufferViews"][0]["byteOffset"] = json!(u64::MAX)),
        ("found 30000000 elements, expected at most 20000000", &|m| {
            m["accessors"][0]["count"] = json!(30_000_000);
        }),
        ("mesh 0: a triangle of vertex 2, expected one below 2", &|m| m["accessors"][0]["count"] = json!(2)),
        ("mesh 0: an attribute of accessor 99, expected one below 4", &|m| {
            m["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = json!(99);
        }),
        ("animation 0: 2 values for 1 times, expected 1", &|m| m["accessors"][2]["count"] = json!(1)),
        ("accessor 2 has 3 numbers per element, expected 1", &|m| {
            m["animations"][0]["samplers"][0]["input"] = json!(0);
            m["accessors"][2]["type"] = json!("VEC3");
            m["animations"][0]["samplers"][0]["input"] = json!(2);
        }),
        ("buffer 0: 200 bytes, expected 9999", &|m| m["buffers"][0]["byteLength"] = json!(9999)),
        ("buffer 0: found `../secret`, expected data, or the path", &|m| {
            m["buffers"][0]["uri"] = json!("../secret")
        }),
        ("animation 0: it moves node 9, expected one below 2", &|m| {
            m["animations"][0]["channels"][0]["target"]["node"] = json!(9);
        }),
        ("animation 0: it moves an unknown property", &|m| {
            m["animations"][0]["channels"][0]["target"]["path"] = json!("colour");
        }),
        ("no base64", &|m| m["buffers"][0]["uri"] = json!("data:;base64,§")),
        ("node 0 (`a`): `wind` has no `push`", &|m| m["nodes"][0]["extras"] = json!({ "class": "wind" })),
    ];
    for (expected, change) in cases {
        let why = why(change);
        assert!(why.starts_with("a.glb: ") && why.contains(expected), "{expected}\n{why}");
    }
    let whole = {
        let mut glb = Glb::default();
        let brick = glb.block(Vec3::ZERO, Vec3::ONE);
        glb.node(json!({ "mesh": brick }));
        glb.bytes()
    };
    for cut in [0, 3, 4, 8, 11, 12, 19, 20, 60, whole.len() - 1] {
        let why = spatial("a.glb", &Bytes::of("a.glb", &whole[..cut])).unwrap_err();
        assert!(why.starts_with("a.glb"), "{cut}: {why}");
    }
    let text = spatial("a.gltf", &Bytes::of("a.gltf", "{\n  \"asset\": 7\n}")).unwrap_err();
    assert!(text.starts_with("a.gltf:2:"), "{text}");
    for (text, expected) in [
        ("v 0 0\n", "a.obj:1:1: found a vertex with 2 numbers, expected three"),
        ("v 0 0 nan\n", "a.obj:1:7: found `nan`, expected a finite number"),
        (
            "v 0 0 0\nf 1 1 2\n",
            "a.obj:2:7: found the corner `2`, expected the number of a vertex above, 1 to 1",
        ),
        ("v 0 0 0\nf 1 0 1\n", "a.obj:2:5: found the corner `0`"),
        ("f 1 2\n", "a.obj:1:1: found a face with 2 corners, expected three or more"),
    ] {
        let why = spatial("a.obj", &Bytes::of("a.obj", text)).unwrap_err();
        assert!(why.starts_with(expected), "{why}");
    }
    let many = format!("{{\"asset\":{{\"version\":\"2.0\"}},\"nodes\":[{}{{}}]}}", "{},".repeat(2_100_000));
    let why = spatial("a.gltf", &Bytes::of("a.gltf", many)).unwrap_err();
    assert!(why.contains("objects and lists"), "{why}");
}

#[test]
fn a_track_leads_a_body_along_its_facing() {
    let mut glb = Glb::default();
    let hips = glb.node(json!({ "name": "Hips" }));
    let root = glb.node(json!({ "name": "Rig", "children": [hips] }));
    glb.animation(
        "Roll",
        &[
            (hips, "rotation", "LINEAR", &[0.0, 1.0], &[0.0, 0.0, 0.0, 1.0, 1.0, 0.0, 0.0, 0.0]),
            (root, "translation", "LINEAR", &[0.25, 0.75], &[1.0, 0.0, 2.0, 1.5, 0.5, 5.0]),
        ],
    );
    let files = Bytes::of("a.glb", glb.bytes());
    let track = read_root_track(&files, Path::new("a.glb"), "Roll").unwrap();
    assert_eq!(track.duration(), 0.75);
    // Forward 3 m, up 0.5 m, and half a metre to its own left, from one quarter to three.
    let displacement = |facing: Vec3| track.displacement(0.0, 9.0, facing, Vec3::Y);
    assert!(
        displacement(Vec3::NEG_Z).distance(Vec3::new(-0.5, 0.5, -3.0)) < 1e-5,
        "{}",
        displacement(Vec3::NEG_Z)
    );
    assert!(displacement(Vec3::X).distance(Vec3::new(3.0, 0.5, -0.5)) < 1e-5, "{}", displacement(Vec3::X));
    assert!(track.displacement(0.0, 0.5, Vec2::NEG_X, Vec2::Y).distance(Vec2::new(-1.5, 0.25)) < 1e-5);
    assert_eq!(track.displacement(0.0, 0.25, Vec2::X, Vec2::Y), Vec2::ZERO);
    let why = read_root_track(&files, Path::new("a.glb"), "Rol").unwrap_err().to_string();
    assert_eq!(why, "a.glb: there is no animation `Rol`, expected `Roll`?");
}

/// The model that is shipped: a yard with stairs to a loft, a lift and a bow.
fn bell_loft() -> Glb {
    let mut glb = Glb::default();
    let block = |glb: &mut Glb, name: &str, min: [f32; 3], max: [f32; 3]| {
        let mesh = glb.block(Vec3::from(min), Vec3::from(max));
        glb.node(json!({ "name": name, "mesh": mesh }))
    };
    block(&mut glb, "yard surface-cobbles", [-8.0, -0.5, -8.0], [8.0, 0.0, 8.0]);
    block(&mut glb, "wall north surface-brick", [-8.0, 0.0, -8.5], [8.0, 5.0, -8.0]);
    block(&mut glb, "loft surface-planks", [2.0, 2.8, -8.0], [8.0, 3.0, -2.0]);
    block(&mut glb, "post surface-planks", [2.2, 0.0, -2.6], [2.5, 2.8, -2.3]);
    // Stairs: one tread, used again.
    let tread = glb.block(Vec3::new(-0.8, 0.0, -0.2), Vec3::new(0.8, 0.25, 0.2));
    for step in 0..12u8 {
        let (up, back) = (f32::from(step) * 0.25, f32::from(step) * 0.4);
        glb.node(
            json!({ "name": "tread surface-planks", "mesh": tread, "translation": [4.0, up, 2.6 - back] }),
        );
    }
    let rungs = glb.block(Vec3::new(7.2, 0.0, -2.0), Vec3::new(7.8, 3.0, -1.2));
    glb.node(json!({ "name": "ladder", "mesh": rungs, "extras": { "front": [0, 0, -1] } }));
    let boards = glb.block(Vec3::new(-1.0, -0.2, -1.0), Vec3::new(1.0, 0.0, 1.0));
    let lift = glb.node(json!({ "name": "lift", "mesh": boards, "translation": [-5, 0.2, -5] }));
    let rise = [-5.0, 0.2, -5.0, -5.0, 0.2, -5.0, -5.0, 3.0, -5.0, -5.0, 3.0, -5.0, -5.0, 0.2, -5.0];
    glb.animation("Lift", &[(lift, "translation", "LINEAR", &[0.0, 1.0, 4.0, 5.0, 8.0], &rise)]);
    glb.node(json!({ "name": "start", "translation": [0, 0, 5] }));
    let hips = glb.node(json!({ "name": "Hips" }));
    let rig = glb.node(json!({ "name": "root", "children": [hips], "extras": { "class": "ignore" } }));
    let bow = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.6, 0.0, 0.0, 0.6];
    glb.animation("Bow", &[(rig, "translation", "LINEAR", &[0.0, 0.3, 0.8, 1.2], &bow)]);
    glb
}

#[test]
fn the_shipped_model_is_the_one_that_is_made_here() {
    let path = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/levels/bell-loft.glb"));
    let made = bell_loft().bytes();
    if std::env::var_os("RASANT_BLESS").is_some() {
        std::fs::write(path, &made).unwrap();
    }
    assert!(std::fs::read(path).unwrap() == made, "RASANT_BLESS=1 writes it");
    let World::Space(file) = read_level(&OnDisk, path).unwrap() else { panic!() };
    assert_eq!((file.zones, file.carriers), (vec!["ladder".to_owned()], vec!["lift".to_owned()]));
}

#[test]
fn models_that_would_fill_the_memory_or_the_day_are_refused() {
    let why = |model: serde_json::Value, data: &[u8]| {
        spatial("a.glb", &Bytes::of("a.glb", container(&model, data))).unwrap_err()
    };
    let mut glb = Glb::default();
    let brick = glb.block(Vec3::ZERO, Vec3::ONE);
    let node = glb.node(json!({ "mesh": brick }));
    glb.animation("Go", &[(node, "translation", "LINEAR", &[0.0, 1.0], &[0.0; 6])]);
    // A long accessor of zeros with a value or two needs few bytes: used by many nodes, and as
    // keys.
    let mostly_zero = |model: &mut serde_json::Value, number: usize| {
        let accessor = &mut model["accessors"][number];
        accessor["count"] = json!(19_000_000);
        accessor.as_object_mut().unwrap().remove("bufferView");
        accessor["sparse"] = json!({
            "count": 1,
            "indices": { "bufferView": 1, "componentType": 5123 },
            "values": { "bufferView": 0 },
        });
    };
    let mut zeros = glb.json();
    mostly_zero(&mut zeros, 0);
    zeros["nodes"] = (0..9).map(|_| json!({ "mesh": 0 })).collect();
    zeros["scenes"][0]["nodes"] = json!([0, 1, 2, 3, 4, 5, 6, 7, 8]);
    let said = why(zeros, glb.data());
    assert!(said.contains("corners, counting reused ones again, expected at most 60000000"), "{said}");
    let mut keys = glb.json();
    mostly_zero(&mut keys, 2);
    let said = why(keys, glb.data());
    assert!(said.contains("animation 0: found 19000000 keys, expected at most 200000"), "{said}");
    // Nodes in each other, doubled again and again.
    let mut doubled = glb.json();
    let nodes = (0..60).map(|number| json!({ "children": [number + 1, number + 1] }));
    doubled["nodes"] = nodes.chain([json!({ "mesh": 0 })]).collect();
    doubled["scenes"][0]["nodes"] = json!([0]);
    assert!(why(doubled, glb.data()).contains("expected in one"));
    let deep = (0..5000).map(|number| json!({ "children": [number + 1] }));
    let mut nested = glb.json();
    nested["nodes"] = deep.chain([json!({ "mesh": 0 })]).collect();
    nested["scenes"][0]["nodes"] = json!([0]);
    assert!(why(nested.clone(), glb.data()).contains("nodes 200 deep"));
    nested["animations"][0]["channels"][0]["target"]["node"] = json!(4999);
    let deep = Bytes::of("a.glb", container(&nested, glb.data()));
    let said = read_root_track(&deep, Path::new("a.glb"), "Go").unwrap_err().to_string();
    assert!(said.contains("node 4999: it is nested 200 nodes deep"), "{said}");
    // Two that take years, one in the other.
    let mut slow = Glb::default();
    let brick = slow.block(Vec3::ZERO, Vec3::ONE);
    let inner = slow.node(json!({ "mesh": brick }));
    let outer = slow.node(json!({ "children": [inner] }));
    for node in [inner, outer] {
        slow.animation("Go", &[(node, "translation", "LINEAR", &[0.0, 1e9], &[0.0; 6])]);
    }
    assert!(read(&slow).unwrap_err().contains("more than 200000 keyframes on the paths"));
}

#[test]
fn a_model_is_the_same_in_one_file_in_two_and_as_text() {
    let glb = bell_loft();
    let whole = read(&glb).unwrap();
    let with_uri = |uri: &str| {
        let mut model = glb.json();
        model["buffers"][0]["uri"] = json!(uri);
        model.to_string()
    };
    let mut beside = Bytes::of("art/loft.gltf", with_uri("loft%20of%20bells.bin"));
    beside.0.insert("art/loft of bells.bin".to_owned(), glb.data().to_vec());
    let signs = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let base64: String = glb
        .data()
        .chunks(3)
        .flat_map(|three| {
            let word =
                three.iter().fold(0u32, |word, byte| word << 8 | u32::from(*byte)) << (8 * (3 - three.len()));
            let sign = move |at: usize| char::from(signs[(word >> (18 - 6 * at)) as usize & 63]);
            (0..4).map(move |at| if at <= three.len() { sign(at) } else { '=' })
        })
        .collect();
    let text = Bytes::of("a.gltf", with_uri(&format!("data:application/octet-stream;base64,{base64}")));
    for (name, files) in [("art/loft.gltf", beside), ("a.gltf", text)] {
        let again = spatial(name, &files).unwrap();
        assert!(triangles(&again.level) == triangles(&whole.level), "{name}");
        assert_eq!(
            (again.zones, again.carriers, again.start),
            (whole.zones.clone(), whole.carriers.clone(), whole.start)
        );
    }
    let alone = spatial("art/loft.gltf", &Bytes::of("art/loft.gltf", with_uri("missing.bin"))).unwrap_err();
    assert!(alone.contains("missing.bin: cannot be read"), "{alone}");
}
