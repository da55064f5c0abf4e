//! Ladders as they are drawn: shallow, half in a wall, under a hatch.

use crate::common::{Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Effect, Geometry, Hull, Intent, Level, Piece, Tuning, Zone};

fn hulls() -> [Hull; 3] {
    [capsule(), upright_box(), Hull::capsule(0.25, 1.2).unwrap()]
}

fn corner<V: Geometry>(x: f32, y: f32, z: f32) -> V {
    V::from_array([x, y, z])
}

/// A wall whose face is at `x` = 1, with its roof at 4 m, and a ladder before it that is `depth` deep,
/// of which `inside` is in the wall.
fn before_a_wall<V: Geometry>(depth: f32, inside: f32) -> Level<V> {
    let mut builder = Level::builder();
    builder.add(Piece::block(corner(-9.0, -1.0, -9.0), corner(9.0, 0.0, 9.0)).unwrap());
    builder.add(Piece::block(corner(1.0, 0.0, -9.0), corner(9.0, 4.0, 9.0)).unwrap());
    let front = if V::DIMENSION == 3 { V::RIGHT * -1.0 } else { V::ZERO };
    let ladder = Effect::Ladder { front };
    builder.add_zone(Zone::new(
        corner(1.0 + inside - depth, 0.0, -0.4),
        corner(1.0 + inside, 4.0, 0.4),
        ladder,
    ));
    builder.build().unwrap()
}

/// Up a ladder: by the stick in two dimensions, into the wall in three.
fn up<V: Geometry>() -> Intent {
    if V::DIMENSION == 3 { Intent::steering(1.0, 0.0) } else { Intent::steering(0.0, 1.0) }
}

#[test]
fn a_shallow_ladder_before_a_wall_or_half_in_it_is_climbed() {
    fn check<V: Geometry>() {
        let mut wrong = Vec::new();
        for hull in hulls() {
            for rate in [30, 60, 144] {
                for (depth, inside) in
                    [(0.2, 0.0), (0.3, 0.0), (0.4, 0.0), (0.3, 0.15), (0.4, 0.2), (0.6, 0.5)]
                {
                    for away in [0.02, 0.1] {
                        let level = before_a_wall::<V>(depth, inside);
                        let from = corner::<V>(1.0 - hull.half_width() - away, hull.clearance(), 0.0);
                        let mut run = Run::new(Tuning::default(), hull, from, rate);
                        run.body.find_footing(&level);
                        run.run(&level, 2.5, up::<V>());
                        if V::DIMENSION == 2 {
                            run.run(&level, 0.5, Intent::steering(1.0, 0.0));
                        }
                        let state = run.body.state();
                        let (taken, landed) = (run.count("ladder-grabbed"), run.count("landed"));
                        let met = run.count("wall-met");
                        let up_there = state.position.height() > 3.9 && state.footing.is_firm();
                        if !up_there || taken != 1 || landed > 1 || met > 2 {
                            wrong.push(format!(
                                "{:?} {rate}/s {depth} {inside} {away}: at {:?}, taken {taken}, landed {landed}, met {met}",
                                hull.shape(),
                                state.position
                            ));
                        }
                    }
                }
            }
        }
        assert!(wrong.is_empty(), "{} wrong: {:#?}", wrong.len(), &wrong[..wrong.len().min(6)]);
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_shallow_ladder_is_climbed_down_from_the_roof() {
    let mut wrong = Vec::new();
    for hull in hulls() {
        for rate in [30, 60, 144] {
            for (depth, inside) in [(0.2, 0.0), (0.3, 0.0), (0.4, 0.0), (0.4, 0.2), (0.9, 0.0)] {
                let level = before_a_wall::<Vec3>(depth, inside);
                let from = Vec3::new(1.5, 4.0 + hull.clearance(), 0.0);
                let mut run = Run::new(Tuning::default(), hull, from, rate);
                run.body.find_footing(&level);
                // To the ladder, and down it.
                run.run(&level, 3.5, Intent::steering(-1.0, 0.0));
                let (taken, fastest) = (run.count("ladder-grabbed"), fastest_landing(&run));
                if taken != 1 || fastest > 3.0 || run.body.position().y > 0.1 {
                    wrong.push(format!(
                        "{:?} {rate}/s {depth} {inside}: at {}, taken {taken}, landed at {fastest} m/s",
                        hull.shape(),
                        run.body.position()
                    ));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} wrong: {:#?}", wrong.len(), &wrong[..wrong.len().min(6)]);
}

fn fastest_landing<V: Geometry>(run: &Run<V>) -> f32 {
    let speed = |(_, event): &(usize, rasant::Event<V>)| match event {
        rasant::Event::Landed { speed, .. } => *speed,
        _ => 0.0,
    };
    run.events.iter().map(speed).fold(0.0, f32::max)
}

/// A shaft under a roof, closed by a hatch of one-way boards, with a ladder in its middle or at its
/// wall.
fn under_a_hatch<V: Geometry>(front: V, boards: usize, half: f32) -> Level<V> {
    let mut builder = Level::builder();
    builder.add(Piece::block(corner(-9.0, -1.0, -9.0), corner(9.0, 0.0, 9.0)).unwrap());
    for (min, max) in [
        ([-9.0, 3.5, -9.0], [-half, 4.0, 9.0]),
        ([half, 3.5, -9.0], [9.0, 4.0, 9.0]),
        ([-half, 3.5, -9.0], [half, 4.0, -half]),
        ([-half, 3.5, half], [half, 4.0, 9.0]),
    ] {
        if V::DIMENSION == 3 || min[2] == -9.0 && max[2] == 9.0 {
            builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap());
        }
    }
    let wide = 2.0 * half / boards as f32;
    for number in 0..boards {
        let from = -half + wide * number as f32;
        let board = Piece::block(corner(from, 3.9, -half), corner(from + wide, 4.0, half)).unwrap();
        builder.add(board.one_way());
    }
    let ladder = Effect::Ladder { front };
    builder.add_zone(Zone::new(corner(-0.4, 0.0, -0.4), corner(0.4, 4.0, 0.4), ladder));
    builder.build().unwrap()
}

#[test]
fn a_ladder_under_a_hatch_is_climbed_down_and_up() {
    fn check<V: Geometry>() {
        let mut wrong = Vec::new();
        for hull in hulls() {
            for rate in [30, 60, 144] {
                for boards in [1, 3] {
                    for (front, half) in [(V::ZERO, 0.6), (V::RIGHT, 0.6), (V::RIGHT * -1.0, 0.9)] {
                        if V::DIMENSION == 2 && front != V::ZERO {
                            continue;
                        }
                        for start in [-0.5, -0.2, 0.0, 0.3] {
                            let level = under_a_hatch::<V>(front, boards, half);
                            let from = corner::<V>(start, 4.0 + hull.clearance(), 0.1);
                            let mut run = Run::new(Tuning::default(), hull, from, rate);
                            run.body.find_footing(&level);
                            let down = if front == V::ZERO {
                                Intent::steering(0.0, -1.0)
                            } else {
                                Intent::steering(front.component(0), 0.0)
                            };
                            // Only at the ladder itself does down mean down it.
                            let at_hand = start.abs() <= 0.4;
                            run.run(&level, 2.5, down);
                            let taken = run.count("ladder-grabbed");
                            let fastest = fastest_landing(&run);
                            let low = run.body.position().height();
                            run.run(&level, 2.5, Intent { steer: -down.steer, ..down });
                            let high = run.body.position().height();
                            let ok = !at_hand || (taken == 1 && fastest < 3.0 && low < 0.1 && high > 3.9);
                            if !ok || run.count("landed") > 4 {
                                wrong.push(format!(
                                    "{:?} {rate}/s, {boards} boards, front {front:?}, from {start}: taken {taken}, {fastest} m/s, {low} {high} {:?}",
                                    hull.shape(),
                                    run.events.iter().map(|(_, e)| e.name()).take(9).collect::<Vec<_>>()
                                ));
                            }
                        }
                    }
                }
            }
        }
        assert!(wrong.is_empty(), "{} wrong: {:#?}", wrong.len(), &wrong[..wrong.len().min(6)]);
    }
    check::<Vec2>();
    check::<Vec3>();
}
