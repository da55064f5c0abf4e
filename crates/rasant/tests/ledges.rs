//! Ledges: grabbed ledges are held, and tops on which a body can stand can be climbed.

use crate::common::{Dice, Run, capsule, upright_box};
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::state::Name;
use rasant::{Actions, Geometry, Hull, HullShape, Intent, Level, Mode, Piece, Tuning, Vector};

const LEDGE: Mode = Mode::Move(Name::new("ledge"));

fn hulls() -> [Hull; 4] {
    let rounded = HullShape::Box { width: 0.6, depth: 0.5, height: 1.6, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()]
}

fn climber() -> Tuning {
    let mut tuning = Tuning::default();
    tuning.ledge.reach = 0.3;
    tuning.ledge.height = 1.4;
    tuning
}

/// A cliff whose face is at `x` = 1 and whose top, at height 0 there, rises at an angle in degrees
/// away from the edge, and in space to the side at another; all of it turned about the vertical.
trait Cliff: Geometry {
    fn cliff(rise: f32, aside: f32, turn: f32) -> Level<Self>;
}

impl Cliff for Vec2 {
    fn cliff(rise: f32, _: f32, _: f32) -> Level<Vec2> {
        let mut builder = Level::builder();
        let (top, far) = (Vec2::new(1.0, 0.0), 8.0 * rise.to_radians().tan());
        let foot = -40.0;
        let outline = [Vec2::new(1.0, foot), Vec2::new(9.0, foot), Vec2::new(9.0, far), top];
        builder.add(Piece::polygon(&outline).unwrap());
        builder.build().unwrap()
    }
}

impl Cliff for Vec3 {
    fn cliff(rise: f32, aside: f32, turn: f32) -> Level<Vec3> {
        let (rise, aside) = (rise.to_radians().tan(), aside.to_radians().tan());
        let turn = Quat::from_rotation_y(turn.to_radians());
        let corner = |x: f32, z: f32, low: bool| {
            let y = if low { -40.0 } else { (x - 1.0) * rise + z * aside };
            turn * Vec3::new(x, y, z)
        };
        let corners: Vec<Vec3> = [(1.0, -6.0), (1.0, 6.0), (9.0, -6.0), (9.0, 6.0)]
            .into_iter()
            .flat_map(|(x, z)| [corner(x, z, true), corner(x, z, false)])
            .collect();
        let mut builder = Level::builder();
        builder.add(Piece::solid(&corners).unwrap());
        builder.build().unwrap()
    }
}

/// A body beside the cliff, its feet at `height`, and the steer toward the face.
fn beside<V: Cliff>(hull: Hull, rate: u32, height: f32, turn: f32) -> (Run<V>, Intent) {
    let toward = if V::DIMENSION == 3 { V::RIGHT.turned(turn.to_radians()) } else { V::RIGHT };
    let gap = if V::DIMENSION == 3 && matches!(hull.shape(), HullShape::Box { .. }) { 1.45 } else { 1.0 };
    let place = toward * (1.0 - gap * hull.half_width() - 0.05) + V::UP * height;
    let parts = toward.to_array();
    let steer = if V::DIMENSION == 3 { (parts[0], -parts[2]) } else { (1.0, 0.0) };
    (Run::new(climber(), hull, place, rate), Intent::steering(steer.0, steer.1))
}

#[test]
fn a_ledge_grabbed_in_a_fall_is_held() {
    fn holds<V: Cliff>() {
        let level = V::cliff(0.0, 0.0, 0.0);
        let mut dice = Dice(3);
        let (mut taken, mut lost) = (0, Vec::new());
        for hull in hulls() {
            for (rate, speed) in
                [24, 30, 60, 144].into_iter().flat_map(|rate| [3.0, 9.0, 20.0, 25.0].map(|v| (rate, v)))
            {
                for _ in 0..8 {
                    let (mut run, steer) = beside::<V>(hull, rate, dice.number(0.0, 1.5), 0.0);
                    run.body.throw(V::UP * -speed);
                    run.run(&level, 0.6, steer);
                    let began = run.events.iter().filter(|(_, event)| event.name() == "move-began").count();
                    taken += began;
                    if began > 0 && run.body.state().mode != LEDGE {
                        lost.push((hull.shape(), rate, speed));
                    }
                }
            }
        }
        assert!(taken > 300 && lost.is_empty(), "{taken} taken, {} lost: {lost:?}", lost.len());
    }
    holds::<Vec2>();
    holds::<Vec3>();
}

/// Hangs from the cliff, and climbs. Whether it stands on the top then.
fn climbs<V: Cliff>(level: &Level<V>, hull: Hull, rate: u32, turn: f32) -> Result<(), String> {
    let (mut run, steer) = beside::<V>(hull, rate, -1.2, turn);
    run.run(level, 0.4, steer);
    if run.body.state().mode != LEDGE {
        return Err(format!("no hold: {:?} at {:?}", run.body.state().mode, run.body.position()));
    }
    run.tick(level, Intent::default().pressing(Actions::JUMP));
    run.run(level, 0.8, Intent::default());
    let state = run.body.state();
    if state.footing.is_firm() && state.position.height() > -0.5 {
        Ok(())
    } else {
        Err(format!(
            "{:?} {:?}",
            run.events.iter().map(|(_, event)| event.name()).collect::<Vec<_>>(),
            state.position
        ))
    }
}

#[test]
fn every_top_that_can_be_walked_on_can_be_climbed() {
    fn all<V: Cliff>() {
        let mut wrong = Vec::new();
        for hull in hulls() {
            for rise in [-40.0, -20.0, -5.0, 0.0, 2.0, 5.0, 10.0, 20.0, 30.0, 45.0] {
                for aside in if V::DIMENSION == 3 { vec![0.0, 5.0, 20.0] } else { vec![0.0] } {
                    let level = V::cliff(rise, aside, 0.0);
                    if let Err(why) = climbs::<V>(&level, hull, 60, 0.0) {
                        wrong.push(format!("{:?} rise {rise} aside {aside}: {why}", hull.shape()));
                    }
                }
            }
        }
        assert!(wrong.is_empty(), "{} {wrong:#?}", wrong.len());
    }
    all::<Vec2>();
    all::<Vec3>();
}

#[test]
fn a_wall_turned_anyhow_has_ledges_for_every_hull() {
    let mut wrong = Vec::new();
    for hull in hulls() {
        for turn in [0.0, 5.0, 10.0, 20.0, 30.0, 45.0, 60.0, 100.0, 222.0] {
            let level = Vec3::cliff(0.0, 0.0, turn);
            if let Err(why) = climbs::<Vec3>(&level, hull, 60, turn) {
                wrong.push(format!("{:?} turned {turn}: {why}", hull.shape()));
            }
        }
    }
    assert!(wrong.is_empty(), "{} {wrong:#?}", wrong.len());
}

/// A cliff whose top is a mesh with height differences of `by` metres per metre.
fn uneven(by: f32) -> Level<Vec3> {
    let mut dice = Dice(17);
    let (mut corners, mut triangles) = (Vec::new(), Vec::new());
    let rows = 60u32;
    for k in 0..=rows {
        let z = k as f32 * 0.5 - 15.0;
        let foot = corners.len() as u32;
        corners.push(Vec3::new(1.0, -40.0, z));
        for i in 0..12 {
            corners.push(Vec3::new(1.0 + 0.5 * i as f32, 0.5 * dice.number(-by, by), z));
        }
        if k > 0 {
            let at = |row: u32, i: u32| foot - 13 * (1 - row) + i;
            for i in 0..12 {
                let [a, b, c, d] = [at(0, i), at(1, i), at(0, i + 1), at(1, i + 1)];
                triangles.extend([[a, b, c], [b, d, c]]);
            }
        }
    }
    let mut builder = Level::builder();
    builder.add_mesh(&corners, &triangles, rasant::SurfaceId::default(), rasant::Layers::GROUND).unwrap();
    builder.build().unwrap()
}

#[test]
fn an_uneven_cliff_can_be_climbed_everywhere() {
    let mut wrong = Vec::new();
    for by in [0.05, 0.1, 0.2] {
        let level = uneven(by);
        for hull in [capsule(), upright_box()] {
            for place in 0..40 {
                let z = place as f32 * 0.6 - 12.0;
                let (mut run, steer) = beside::<Vec3>(hull, 60, -1.1, 0.0);
                let start = run.body.position() + Vec3::Z * z;
                run.body.restore(rasant::State::at(start));
                run.run(&level, 0.4, steer);
                if run.body.state().mode != LEDGE {
                    continue;
                }
                run.tick(&level, Intent::default().pressing(Actions::JUMP));
                run.run(&level, 1.0, Intent::default());
                if run.body.position().y < -0.5 {
                    wrong.push((by, hull.shape(), z));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} {wrong:?}", wrong.len());
}

#[test]
fn a_body_hangs_from_a_platform_that_turns() {
    use rasant::{Carrier, Keyframe, PathEnd};
    for hull in hulls() {
        for rate in [30, 60, 144] {
            for degrees in [10.0f32, 45.0, 90.0, -60.0] {
                let mut builder = Level::builder();
                let keys = [
                    (0.0, 0.0),
                    (1.0, 0.0),
                    (1.0 + 720.0 / degrees.abs(), 4.0 * std::f32::consts::PI * degrees.signum()),
                ]
                .map(|(time, turn)| Keyframe::new(time, Vec3::ZERO).turned(turn));
                let platform = builder.add_carrier(Carrier::on_path(keys.to_vec(), PathEnd::Stop));
                let (min, max) = (Vec3::new(-2.0, -6.0, -2.0), Vec3::new(2.0, 0.0, 2.0));
                builder.add(Piece::block(min, max).unwrap().riding(platform));
                let mut level = builder.build().unwrap();
                let start = Vec3::new(-2.0 - hull.half_width() - 0.05, -1.1, 0.3);
                let mut run = Run::new(climber(), hull, start, rate);
                let mut hung = 0;
                for tick in 0..4 * rate {
                    level.advance(1.0 / rate as f32);
                    run.tick(
                        &level,
                        if tick < rate / 2 { Intent::steering(1.0, 0.0) } else { Intent::default() },
                    );
                    hung += u32::from(run.body.state().mode == LEDGE);
                }
                assert!(hung > 3 * rate, "{:?} {rate}/s {degrees} degrees/s: {hung} ticks", hull.shape());
            }
        }
    }
}

/// A cliff with its face at `x` = 1 and its top at 0, 4 m wide in space, and over it a slab that leaves
/// `room`.
fn under_a_slab<V: Geometry>(room: f32) -> Level<V> {
    let mut builder = Level::builder();
    let corner = |x, y, z| V::from_array([x, y, z]);
    builder.add(Piece::block(corner(1.0, -9.0, -2.0), corner(9.0, 0.0, 2.0)).unwrap());
    builder.add(Piece::block(corner(1.0, room, -2.0), corner(9.0, room + 1.0, 2.0)).unwrap());
    builder.build().unwrap()
}

#[test]
fn a_ledge_with_room_to_crouch_is_climbed_into_a_crouch() {
    fn check<V: Cliff>() {
        for hull in [capsule(), upright_box()] {
            for rate in [30, 60, 144] {
                for room in [1.15, 1.3, 1.55, 1.7] {
                    let level = under_a_slab::<V>(room);
                    let (mut run, steer) = beside::<V>(hull, rate, -1.2, 0.0);
                    run.run(&level, 0.4, steer);
                    run.tick(&level, Intent::default().pressing(Actions::JUMP));
                    run.run(&level, 1.0, Intent::default());
                    let state = run.body.state();
                    let case = format!("{:?} {rate}/s, {room} m: {:?}", hull.shape(), run.events);
                    assert!(state.footing.is_firm() && state.crouched, "{case}");
                    assert_eq!(run.count("crouched"), 1, "{case}");
                    run.run(&level, 1.0, steer);
                    assert!(run.body.position().component(0) > 3.0, "it walks on, crouching: {case}");
                }
                let level = under_a_slab::<V>(1.05);
                let (mut run, steer) = beside::<V>(hull, rate, -1.2, 0.0);
                run.run(&level, 0.4, steer);
                run.tick(&level, Intent::default().pressing(Actions::JUMP));
                assert_eq!((run.count("refused"), run.body.state().mode), (1, LEDGE), "no room at all");
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// Along a wall at any angle, at the knob's speed, to its end and no further.
#[test]
fn it_moves_along_a_ledge_to_its_end() {
    for hull in [capsule(), upright_box()] {
        for rate in [30, 60, 144] {
            for turn in [0.0f32, 20.0, 67.0] {
                for aside in [-4.0, 0.0, 4.0] {
                    let level = Vec3::cliff(0.0, aside, turn);
                    let (mut run, steer) = beside::<Vec3>(hull, rate, -1.2, turn);
                    run.run(&level, 0.5, steer);
                    let hung = run.body.position();
                    let along = Vec3::Z.turned(turn.to_radians());
                    let sideways = Intent::steering(along.x, -along.z);
                    run.run(&level, 2.0, sideways);
                    let went = run.body.position() - hung;
                    let case = format!("{:?} {rate}/s, turned {turn}, aside {aside}", hull.shape());
                    let expected = along * (2.0 * run.body.tuning.ledge.along_speed);
                    assert!((went - expected).flat().length() < 0.05, "{case}: {went}, not {expected}");
                    // As far under the edge as it was.
                    let top = aside.to_radians().tan() * expected.length();
                    assert!((went.y - top).abs() < 0.03, "{case}: {} m up, not {top}", went.y);
                    run.run(&level, 6.0, sideways);
                    assert_eq!(run.body.state().mode, LEDGE, "{case}: it hangs at the end");
                    let end = run.body.position().dot(along);
                    assert!((5.0..6.15).contains(&end), "{case}: it stops at {end}");
                    assert_eq!(run.count("move-began"), 1, "{case}");
                }
            }
        }
    }
}

#[test]
fn surfaces_without_grip_are_not_grabbed() {
    fn check<V: Geometry>() {
        let mut builder = Level::builder();
        let corner = |x, y, z| V::from_array([x, y, z]);
        let slime = builder.add_surface(rasant::Surface { grip: 0.0, ..rasant::Surface::default() });
        let block = Piece::block(corner(1.0, -40.0, -2.0), corner(9.0, 0.0, 2.0)).unwrap();
        builder.add(block.made_of(slime));
        let level = builder.build().unwrap();
        let mut run = Run::new(climber(), capsule(), corner(0.6, -1.0, 0.0), 60);
        run.run(&level, 0.8, Intent::steering(1.0, 0.0));
        assert_eq!(run.count("move-began"), 0);
    }
    check::<Vec2>();
    check::<Vec3>();
}

/// A window of nothing finds an edge exactly at the hands, or none; the search ends.
#[test]
fn a_window_of_nothing_is_no_endless_search() {
    let level = Vec2::cliff(0.0, 0.0, 0.0);
    let (mut run, steer) = beside::<Vec2>(capsule(), 60, -1.39, 0.0);
    run.run(&level, 0.3, steer);
    assert_eq!(run.body.state().mode, LEDGE);
    run.body.tuning.ledge.window = 0.0;
    run.run(&level, 0.5, steer);
    assert!(run.body.position().y.is_finite());
}
