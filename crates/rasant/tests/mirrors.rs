//! In the mirror everything is the same, to the bit.

use crate::common::{Dice, Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Actions, Geometry, Hull, Intent, Level, Piece, Tuning, Vector};

/// Random blocks on a floor, and the same mirrored.
fn town_and_mirror<V: Geometry>(dice: &mut Dice) -> [Level<V>; 2] {
    let mut builders = [Level::<V>::builder(), Level::builder()];
    let mut add = |middle: V, half: V| {
        let other = middle - V::RIGHT * (2.0 * middle.component(0));
        for (builder, middle) in builders.iter_mut().zip([middle, other]) {
            builder.add(Piece::block(middle - half, middle + half).unwrap());
        }
    };
    add(-V::UP, V::splat(20.0).with_height(1.0));
    for _ in 0..14 {
        let middle: V = dice.vector(8.0);
        let half: V = dice.vector::<V>(1.4).abs() + V::splat(0.1);
        add(middle.with_height(dice.number(-0.5, 1.5)), half);
    }
    builders.map(|builder| builder.build().unwrap())
}

fn mirrored<V: Vector>(v: V) -> V {
    v - V::RIGHT * (2.0 * v.component(0))
}

fn is_the_same<V: Geometry>(hull: Hull) {
    let mut dice = Dice(7);
    for town in 0..60 {
        let levels = town_and_mirror::<V>(&mut dice);
        let start = V::RIGHT * 0.3 + V::UP * 4.0;
        let mut runs = [start, mirrored(start)].map(|at| Run::new(Tuning::default(), hull, at, 60));
        let mut steer = Vec2::ZERO;
        for tick in 0..600 {
            if tick % 40 == 0 {
                steer = dice.vector(1.0);
            }
            let jumps = dice.below(30) == 0;
            for (side, (run, level)) in [1.0, -1.0].into_iter().zip(runs.iter_mut().zip(&levels)) {
                let intent = Intent::steering(steer.x * side, if V::DIMENSION == 2 { 0.0 } else { steer.y });
                run.tick(level, if jumps { intent.pressing(Actions::JUMP) } else { intent });
            }
            let [own, other] = runs.each_ref().map(|run| run.body.state());
            let case = format!("{hull:?} in town {town}, tick {tick}");
            assert_eq!(own.position, mirrored(other.position), "{case}");
            assert_eq!(own.velocity, mirrored(other.velocity), "{case}");
            assert_eq!(own.footing.kind, other.footing.kind, "{case}");
        }
    }
}

#[test]
fn among_blocks_a_body_does_the_same_in_the_mirror_to_the_bit() {
    for hull in [capsule(), upright_box()] {
        is_the_same::<Vec2>(hull);
        is_the_same::<Vec3>(hull);
    }
}
