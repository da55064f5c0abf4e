//! Levels that are edited between ticks: the same as built at once, and noticed by bodies.

use rasant::contact::Queries;
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::{Easing, LevelError, MeshShape, Placement};
use rasant::{
    Carrier, CarrierId, Controller, Effect, Event, Geometry, Hull, Intent, Keyframe, Layers, Level, Mode,
    PathEnd, Piece, PieceId, Surface, SurfaceId, Surroundings, Tuning, Zone, ZoneId,
};

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, Run, capsule, hulls};

/// A dimension with random pieces.
trait Made: Geometry {
    fn piece(dice: &mut Dice) -> Piece<Self>;
}

impl Made for Vec2 {
    fn piece(dice: &mut Dice) -> Piece<Self> {
        let centre = Self::new(dice.number(-12.0, 12.0), dice.number(-0.5, 5.0));
        let half = Self::new(dice.number(0.1, 2.0), dice.number(0.1, 0.6));
        match dice.below(6) {
            0 => Piece::ball(centre, half.y).unwrap(),
            1 => Piece::block(centre - half, centre + half).unwrap().one_way(),
            2 => Piece::block(centre - half, centre + half).unwrap(),
            3 => Piece::capsule(centre - half, centre + half, half.y).unwrap(),
            4 => Piece::rounded_block(centre - half, centre + half, 0.9 * half.min_element()).unwrap(),
            _ => Piece::turned_rectangle(centre, half, dice.number(0.0, 3.0)).unwrap(),
        }
    }
}

impl Made for Vec3 {
    fn piece(dice: &mut Dice) -> Piece<Self> {
        let centre = Self::new(dice.number(-8.0, 8.0), dice.number(-0.5, 4.0), dice.number(-8.0, 8.0));
        let half = Self::new(dice.number(0.1, 2.0), dice.number(0.1, 0.6), dice.number(0.1, 2.0));
        match dice.below(8) {
            0 => Piece::ball(centre, half.y).unwrap(),
            1 => Piece::block(centre - half, centre + half).unwrap().one_way(),
            2 => Piece::block(centre - half, centre + half).unwrap(),
            3 => Piece::capsule(centre - half, centre + half, half.y).unwrap(),
            4 => Piece::rounded_block(centre - half, centre + half, 0.9 * half.min_element()).unwrap(),
            5 => Piece::cylinder(centre, centre + dice.direction::<Vec3>() * half.x, half.z).unwrap(),
            6 => Piece::mesh(hill(dice)).moved_by(centre).unwrap(),
            _ => {
                let turn = Quat::from_axis_angle(dice.direction(), dice.number(0.0, 3.0));
                Piece::turned_box(centre, half, turn).unwrap()
            }
        }
    }
}

/// A small mesh: a folded sheet of four triangles.
fn hill(dice: &mut Dice) -> MeshShape<Vec3> {
    let corners = [(-1.5, -1.5), (1.5, -1.5), (-1.5, 1.5), (1.5, 1.5), (0.0, 0.0)];
    let corners = corners.map(|(x, z)| Vec3::new(x, dice.number(-0.3, 0.3), z));
    MeshShape::new(&corners, &[[0, 4, 1], [1, 4, 3], [3, 4, 2], [2, 4, 0]]).unwrap()
}

fn floor<V: Geometry>() -> Piece<V> {
    Piece::block(V::from_array([-15.0, -1.0, -15.0]), V::from_array([15.0, 0.0, 15.0])).unwrap()
}

/// A level with a floor, a barge and some pieces, partly on the barge.
fn harbour<V: Made>(dice: &mut Dice) -> (Level<V>, CarrierId) {
    let mut builder = Level::builder();
    builder.add(floor());
    let path = [0.0, 4.0].map(|time| Keyframe::new(time, V::RIGHT * time).turned(0.3 * time));
    let barge = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::BackAndForth));
    for _ in 0..30 {
        let piece = V::piece(dice);
        builder.add(if dice.below(5) == 0 { piece.riding(barge) } else { piece });
    }
    (builder.build().unwrap(), barge)
}

/// The same pieces, built at once.
fn rebuilt<V: Made>(level: &Level<V>, dt: f32) -> Level<V> {
    let mut builder = Level::builder();
    for carrier in level.carriers() {
        builder.add_carrier(carrier.clone());
    }
    for piece in level.all_pieces() {
        builder.add(piece);
    }
    let mut level_again = builder.build().unwrap();
    level_again.set_time(level.time(), dt);
    level_again
}

fn edit_at_random<V: Made>(level: &mut Level<V>, barge: CarrierId, dice: &mut Dice, ids: &mut Vec<PieceId>) {
    let id = ids[dice.below(ids.len())];
    match dice.below(9) {
        0 | 1 => {
            let piece = V::piece(dice);
            let piece = if dice.below(5) == 0 { piece.riding(barge) } else { piece };
            ids.push(level.add(piece).unwrap());
        }
        2 => {
            let old = level.piece(id);
            assert_eq!(level.remove(id), old.is_some());
            assert!(!level.remove(id) && level.piece(id).is_none());
            if let Some(old) = old.filter(|_| dice.below(2) == 0) {
                assert!(level.put_back(id, old.clone()).unwrap() && !level.put_back(id, old).unwrap());
            }
        }
        6 => {
            // A carrier with a piece on it, on the barge or on no carrier.
            let axis = dice.vector::<V>(1.0);
            let path = [0.0, 3.0].map(|time| {
                Keyframe::new(time, axis * time).turned_about(axis, 0.2 * time).eased(Easing::InOut)
            });
            let carrier = Carrier::on_path(path.to_vec(), PathEnd::BackAndForth);
            let carrier = if dice.below(2) == 0 { carrier.riding(barge) } else { carrier };
            let carrier = level.add_carrier(carrier).unwrap();
            ids.push(level.add(V::piece(dice).riding(carrier)).unwrap());
        }
        7 => {
            // One of those again.
            let number = 1 + dice.below(level.carriers().len());
            let carrier = CarrierId(number as u16);
            let on =
                |level: &Level<V>| level.all_pieces().filter(|piece| piece.carrier == Some(carrier)).count();
            let was_there = level.carriers().get(number).is_some_and(|carrier| !carrier.is_removed());
            assert_eq!(level.remove_carrier(carrier), was_there);
            assert!(!level.remove_carrier(carrier) && on(level) == 0);
        }
        3 => {
            let new = V::piece(dice);
            let was_there = level.piece(id).is_some();
            assert_eq!(level.replace(id, new.clone()).unwrap(), was_there);
            assert_eq!(level.piece(id), was_there.then_some(new));
        }
        4 => {
            if let Some(piece) = level.piece(id) {
                level.replace(id, piece.moved_by(dice.vector::<V>(0.5)).unwrap()).unwrap();
            }
        }
        _ => {
            let layers = if dice.below(2) == 0 { Layers::NONE } else { Layers::GROUND };
            assert_eq!(level.set_layers(id, layers), level.piece(id).is_some());
        }
    }
}

/// Any history of edits leaves a level that moves bodies as one that is built at once does.
fn any_history_equals_a_fresh_level<V: Made>(seeds: u64) {
    for seed in 0..seeds {
        let mut dice = Dice(seed);
        let (mut level, barge) = harbour::<V>(&mut dice);
        let mut ids: Vec<_> = (1..31).map(PieceId).collect();
        for round in 0..6 {
            (0..dice.below(40)).for_each(|_| edit_at_random(&mut level, barge, &mut dice, &mut ids));
            // Any rate, hull and tuning.
            let rate = [24, 60, 61, 144, 240][dice.below(5)];
            let dt = 1.0 / rate as f32;
            level.set_time(level.time(), dt);
            let mut fresh = rebuilt(&level, dt);
            assert_eq!(level.len(), fresh.len(), "seed {seed}");
            assert!(level.all_pieces().eq(fresh.all_pieces()), "seed {seed}");
            for body in 0..3 {
                let start = V::UP * 6.0 + V::RIGHT * dice.number(-6.0, 6.0);
                let hull = hulls()[dice.below(4)];
                let tuning = if body == 0 { Tuning::default() } else { any_tuning(&mut dice, V::DIMENSION) };
                let mut bodies = [0, 1].map(|_| Controller::new(tuning, hull, start));
                let mut intent = Intent::default();
                let (kept, kept_fresh) = (level.snapshot(), fresh.snapshot());
                for tick in 0..150 {
                    intent = any_intent(&mut dice, &intent);
                    for (level, body) in [&mut level, &mut fresh].into_iter().zip(&mut bodies) {
                        level.advance(dt);
                        body.tick(&intent, level, dt);
                    }
                    let [a, b] = [0, 1].map(|i| (bodies[i].position(), bodies[i].velocity()));
                    assert_eq!(
                        a, b,
                        "seed {seed}, round {round}, body {body}, tick {tick}, {rate}/s, {hull:?}"
                    );
                }
                level.restore(&kept);
                fresh.restore(&kept_fresh);
            }
        }
    }
}

#[test]
fn any_history_equals_a_fresh_level_in_2d() {
    any_history_equals_a_fresh_level::<Vec2>(150);
}

#[test]
fn any_history_equals_a_fresh_level_in_3d() {
    any_history_equals_a_fresh_level::<Vec3>(80);
}

/// Rolling back ticks in which the level was edited, and playing them again, gives the same bits.
fn edits_are_rolled_back<V: Made>() {
    for seed in 0..12 {
        let mut dice = Dice(seed);
        let (mut level, barge) = harbour::<V>(&mut dice);
        let mut body = Run::new(Tuning::default(), capsule(), V::UP * 3.0, 60).body;
        let mut ids: Vec<_> = (1..31).map(PieceId).collect();
        let mut inputs = Dice(seed + 100);
        for frame in 0..120 {
            let (state, kept, kept_ids) = (*body.state(), level.snapshot(), ids.clone());
            let edits = inputs.bits();
            let play = |level: &mut Level<V>, body: &mut Controller<V>, ids: &mut Vec<PieceId>| {
                let mut dice = Dice(edits);
                for _ in 0..4 {
                    if dice.below(3) == 0 {
                        edit_at_random(level, barge, &mut dice, ids);
                    }
                    let intent = any_intent(&mut dice, &Intent::default());
                    level.advance(1.0 / 60.0);
                    body.tick(&intent, level, 1.0 / 60.0);
                }
                (body.state().checksum(), level.snapshot())
            };
            let first = play(&mut level, &mut body, &mut ids);
            body.restore(state);
            level.restore(&kept);
            ids = kept_ids;
            let again = play(&mut level, &mut body, &mut ids);
            assert!(first == again, "seed {seed}, frame {frame}");
        }
    }
}

#[test]
fn edits_are_rolled_back_to_the_same_bits() {
    edits_are_rolled_back::<Vec2>();
    edits_are_rolled_back::<Vec3>();
}

/// A clone is a world of its own.
#[test]
fn a_clone_is_not_changed_by_edits() {
    let mut dice = Dice(5);
    let (mut level, barge) = harbour::<Vec2>(&mut dice);
    let mut ids: Vec<_> = (1..31).map(PieceId).collect();
    (0..50).for_each(|_| edit_at_random(&mut level, barge, &mut dice, &mut ids));
    let clone = level.clone();
    let before: Vec<_> = clone.all_pieces().collect();
    (0..200).for_each(|_| edit_at_random(&mut level, barge, &mut dice, &mut ids));
    assert_eq!(clone.all_pieces().collect::<Vec<_>>(), before);
    assert_ne!(level.all_pieces().collect::<Vec<_>>(), before);
}

/// A body that has come to rest on a floor.
fn standing<V: Geometry>(hull: Hull, rate: u32) -> (Level<V>, PieceId, Run<V>) {
    let mut builder = Level::builder();
    let plank = builder.add(floor());
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), hull, V::ZERO, rate);
    run.run(&level, 2.0, Intent::default());
    run.events.clear();
    (level, plank, run)
}

fn a_removed_floor_drops_bodies<V: Geometry>() {
    let edits: [fn(&mut Level<V>, PieceId); 3] = [
        |level, plank| assert!(level.remove(plank)),
        |level, plank| assert!(level.set_layers(plank, Layers::NONE)),
        |level, plank| {
            let aside = level.piece(plank).unwrap().moved_by(V::RIGHT * 99.0).unwrap();
            assert!(level.replace(plank, aside).unwrap());
        },
    ];
    for (number, hull) in hulls().into_iter().enumerate() {
        let rate = [24, 60, 144, 240][number];
        for edit in edits {
            let (mut level, plank, mut run) = standing::<V>(hull, rate);
            edit(&mut level, plank);
            run.tick(&level, Intent::default());
            assert_eq!(run.count("left-ground"), 1, "{hull:?} {:?}", run.events);
            assert!(run.body.velocity().height() < 0.0 && run.body.state().mode == Mode::Airborne);
            // Ground that comes back holds it again.
            level.add(floor::<V>().moved_by(V::UP * -3.0).unwrap()).unwrap();
            run.run(&level, 1.5, Intent::default());
            assert!(run.body.state().footing.is_firm(), "{hull:?}");
        }
    }
}

#[test]
fn a_body_falls_in_the_tick_after_its_floor_is_removed() {
    a_removed_floor_drops_bodies::<Vec2>();
    a_removed_floor_drops_bodies::<Vec3>();
}

/// A resting body notices a wall that is added beside it, a block that is put over it, and a new
/// surface underfoot.
#[test]
fn resting_bodies_notice_edits() {
    for hull in hulls() {
        let (mut level, plank, mut run) = standing::<Vec2>(hull, 60);
        let ice = level.add_surface(Surface { traction: 0.1, ..Surface::default() }).unwrap();
        assert!(level.set_surface(plank, ice).unwrap());
        run.tick(&level, Intent::default());
        assert_eq!(run.body.state().footing.surface, ice);
        // A crate over it: pushed out, or reported crushed.
        level.add(Piece::block(Vec2::new(-0.2, 0.0), Vec2::new(2.0, 1.0)).unwrap()).unwrap();
        run.run(&level, 0.1, Intent::default());
        let mut overlapped = false;
        level.overlaps(&hull, run.body.position(), Layers::ALL, |near| overlapped |= near.distance < -1e-3);
        let moved = run.body.position().x.abs() + run.body.position().y.abs();
        assert!(moved > 0.05 || run.count("crushed") == 1, "{hull:?} noticed nothing");
        assert!(!overlapped || run.count("crushed") == 1, "{:?} {:?}", run.body.position(), run.events);
    }
}

/// Zones that are removed, switched on again, changed and added.
#[test]
fn bodies_notice_edits_of_zones() {
    let (mut level, _, run) = standing::<Vec2>(capsule(), 60);
    let mut body = run.body;
    let tick = |body: &mut Controller<Vec2>, level: &Level<Vec2>| {
        body.tick(&Intent::default(), level, 1.0 / 60.0).to_vec()
    };
    let pond = Zone::new(Vec2::new(-3.0, 0.0), Vec2::new(3.0, 0.5), Effect::Slow { pace: 0.5 });
    let zone = level.add_zone(pond).unwrap();
    assert!(tick(&mut body, &level).contains(&Event::ZoneEntered { zone }));
    assert!(level.remove_zone(zone) && !level.remove_zone(zone));
    assert!(tick(&mut body, &level).contains(&Event::ZoneLeft { zone }));
    assert!(level.replace_zone(zone, pond).unwrap());
    assert!(tick(&mut body, &level).contains(&Event::ZoneEntered { zone }));
    let mut seen = Vec::new();
    level.each_zone(|id, _| seen.push(id));
    assert_eq!(seen, [zone]);
}

/// A ladder, a ledge and a wall that vanish let go of the body.
#[test]
fn vanished_ladders_and_walls_let_go() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(floor());
    let wall = builder.add(Piece::block(Vec2::new(2.0, 0.0), Vec2::new(3.0, 20.0)).unwrap());
    let rungs = Effect::Ladder { front: Vec2::ZERO };
    let ladder = builder.add_zone(Zone::new(Vec2::new(-5.0, 0.0), Vec2::new(-4.0, 9.0), rungs));
    let built = builder.build().unwrap();
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 2.0;
    let hull = Hull::capsule(0.3, 1.7).unwrap();

    let mut level = built.clone();
    let mut run = Run::new(tuning, hull, Vec2::new(1.65, 12.0), 60);
    run.run(&level, 0.5, Intent::steering(1.0, 0.0));
    assert_eq!(run.body.state().mode.to_string(), "wall-slide");
    level.remove(wall);
    run.run(&level, 0.1, Intent::steering(1.0, 0.0));
    assert_eq!(run.body.state().mode, Mode::Airborne);
    assert_eq!(run.count("wall-left"), 1);

    let mut level = built.clone();
    let mut run = Run::new(tuning, hull, Vec2::new(-4.5, 0.0), 60);
    run.run(&level, 1.0, Intent::steering(0.0, 1.0));
    assert_eq!(run.body.state().mode.to_string(), "ladder");
    level.remove_zone(ladder);
    run.run(&level, 0.1, Intent::default());
    assert_eq!((run.body.state().mode, run.count("ladder-left")), (Mode::Airborne, 1));
}

/// Pieces that are added to a moving carrier ride on it, and riders of removed ones fall.
fn added_pieces_ride<V: Geometry>() {
    let mut level = Level::<V>::builder().build().unwrap();
    let lift = level.add_carrier(Carrier::set_by_host()).unwrap();
    let deck = Piece::block(V::from_array([-2.0, -0.2, -2.0]), V::from_array([2.0, 0.0, 2.0])).unwrap();
    let deck = level.add(deck.riding(lift)).unwrap();
    let mut body = Run::new(Tuning::default(), capsule(), V::ZERO, 60).body;
    let mut height = 0.0;
    let mut ride = |level: &mut Level<V>, body: &mut Controller<V>| {
        height += 1.0 / 60.0;
        level.place(lift, Placement::new(V::UP * height, 0.0));
        level.advance(1.0 / 60.0);
        body.tick(&Intent::default(), level, 1.0 / 60.0);
        body.position().height() - height
    };
    for _ in 0..60 {
        let gap = ride(&mut level, &mut body);
        assert!(gap.abs() < 0.01, "{gap}");
    }
    assert_eq!(body.state().footing.carrier, Some(lift));
    assert!(level.remove(deck));
    ride(&mut level, &mut body);
    assert!(body.state().mode == Mode::Airborne && body.state().footing.carrier.is_none());
    let gap = (0..20).map(|_| ride(&mut level, &mut body)).last().unwrap();
    assert!(gap < -0.1, "it falls: {gap}");
}

#[test]
fn pieces_added_to_carriers_ride() {
    added_pieces_ride::<Vec2>();
    added_pieces_ride::<Vec3>();
}

#[test]
fn ids_are_never_used_again_and_unknown_ones_are_refused() {
    let mut level = Level::<Vec2>::builder().build().unwrap();
    let first = level.add(floor()).unwrap();
    level.remove(first);
    let second = level.add(floor()).unwrap();
    assert_ne!(first, second);
    for unknown in [first, PieceId(99), PieceId(1 << 31), PieceId(u32::MAX)] {
        assert!(!level.remove(unknown) && !level.set_layers(unknown, Layers::ALL));
        assert!(!level.replace(unknown, floor()).unwrap());
        assert!(level.piece(unknown).is_none());
        assert!(!level.set_surface(unknown, SurfaceId::default()).unwrap());
    }
    let missing = |result: Result<PieceId, LevelError>| result.unwrap_err().to_string();
    assert_eq!(
        missing(level.add(floor().riding(CarrierId(4)))),
        "piece 2 refers to carrier 4, which is not there"
    );
    assert_eq!(
        missing(level.add(floor().made_of(SurfaceId(7)))),
        "piece 2 refers to surface 7, which is not there"
    );
    let wrong = Zone::new(Vec2::ZERO, Vec2::ONE, Effect::Gravity { up: Vec2::ZERO });
    assert!(level.add_zone(wrong).is_err() && !level.remove_zone(ZoneId(0)));
    let backwards = vec![Keyframe::new(-1.0, Vec2::ZERO)];
    assert!(level.add_carrier(Carrier::on_path(backwards, PathEnd::Loop)).is_err());
    assert_eq!(level.len(), 1);
}

/// Meshes are added after the level was built, moved, and ride on carriers; their triangles have
/// surfaces of their own.
#[test]
fn meshes_are_added_moved_and_carried() {
    let corners = [(-4.0, -4.0), (4.0, -4.0), (-4.0, 4.0), (4.0, 4.0)].map(|(x, z)| Vec3::new(x, 0.0, z));
    let triangles = [[0, 2, 1], [1, 2, 3]];
    let mut level = Level::<Vec3>::builder().build().unwrap();
    let ice = level.add_surface(Surface { traction: 0.2, ..Surface::default() }).unwrap();
    let wood = level.add_surface(Surface::default()).unwrap();
    let shape = MeshShape::with_surfaces(&corners, &triangles, &[None, Some(ice)]).unwrap();
    let path = [0.0, 2.0].map(|time| Keyframe::new(time, Vec3::Y * time).turned(0.1 * time));
    let lift = level.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::BackAndForth)).unwrap();
    let mesh = level.add(Piece::mesh(shape.clone()).made_of(wood).riding(lift)).unwrap();
    let far = level.add(Piece::mesh(shape).moved_by(Vec3::new(20.0, 3.0, 0.0)).unwrap()).unwrap();
    assert_eq!(level.len(), 4);
    let below = |level: &Level<Vec3>, x: f32, z: f32| {
        let hit = level.ray(Vec3::new(x, 9.0, z), -Vec3::Y, 20.0, Layers::ALL).unwrap();
        (hit.piece, hit.surface, (hit.point.y * 1e3).round() as i32)
    };
    assert_eq!(below(&level, -1.0, -1.0), (mesh, wood, 0));
    assert_eq!(below(&level, 1.0, 1.0), (mesh, ice, 0));
    assert_eq!(below(&level, 19.0, -1.0), (far, SurfaceId::default(), 3000));
    // A body rides on it, over the seam, which it does not feel.
    let mut body = Controller::new(Tuning::default(), capsule(), Vec3::new(-2.0, 0.0, -2.0));
    body.find_footing(&level);
    let mut met = 0;
    for tick in 0..100 {
        level.advance(1.0 / 60.0);
        let steer = if tick > 20 && tick < 60 { Intent::steering(0.7, -0.7) } else { Intent::default() };
        body.tick(&steer, &level, 1.0 / 60.0);
        met += body.events().iter().filter(|event| matches!(event, Event::WallMet { .. })).count();
        assert!(body.state().footing.is_firm(), "tick {tick}");
        assert_eq!(body.state().footing.piece, mesh);
    }
    assert_eq!(met, 0);
    let height = level.carrier(lift).ride().to.offset().y;
    assert!((body.position().y - height).abs() < 0.01 && height > 1.5);
    let Vec3 { x, z, .. } = body.position();
    assert_eq!(body.state().footing.surface, below(&level, x, z).1);
    // It is removed with its carrier, and the body falls.
    assert!(level.remove_carrier(lift));
    body.tick(&Intent::default(), &level, 1.0 / 60.0);
    assert!(!body.state().footing.is_firm());
    assert_eq!(level.len(), 2);
    let unknown = MeshShape::with_surfaces(&corners, &triangles, &[None, Some(SurfaceId(9))]).unwrap();
    assert!(matches!(level.add(Piece::mesh(unknown)), Err(LevelError::Missing { .. })));
    assert!(MeshShape::with_surfaces(&corners, &triangles, &[None]).is_err());
    assert!(MeshShape::new(&corners, &[[0, 1, 9]]).is_err());
}

/// Meshes are removed and hidden as a whole.
#[test]
fn meshes_are_removed_and_switched() {
    let mut builder = Level::<Vec3>::builder();
    let corners = [Vec3::new(-9.0, 0.0, -9.0), Vec3::new(-9.0, 0.0, 9.0), Vec3::new(9.0, 0.0, 0.0)];
    let mesh = builder.add_mesh(&corners, &[[0, 1, 2]], SurfaceId::default(), Layers::GROUND).unwrap();
    let mut level = builder.build().unwrap();
    let below = |level: &Level<Vec3>| level.ray(Vec3::Y, -Vec3::Y, 9.0, Layers::ALL).map(|hit| hit.piece);
    assert_eq!(below(&level), Some(mesh));
    assert!(level.set_layers(mesh, Layers::NONE));
    assert_eq!(below(&level), None);
    assert!(level.set_layers(mesh, Layers::GROUND));
    assert_eq!(below(&level), Some(mesh));
    assert!(level.remove(mesh) && !level.remove(mesh));
    assert_eq!(below(&level), None);
    let mut seen = 0;
    level.each_shape(|_, _| seen += 1);
    assert_eq!(seen, 0);
    assert!(level.mark(0, 0).is_none());
}
