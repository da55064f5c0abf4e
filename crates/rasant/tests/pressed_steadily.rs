//! A body that is pushed steadily against something: no storm of events.

use crate::common::{Run, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::{Carrier, Effect, Geometry, Intent, Keyframe, Level, PathEnd, Piece, Surface, Tuning, Zone};

/// What pushes, in m/s and m/s² along x, and how the body is steered.
struct Push {
    name: &'static str,
    drift: f32,
    wind: f32,
    /// How fast the wall recedes.
    recedes: f32,
    steer: f32,
}

const PUSHES: [Push; 11] = [
    Push { name: "a conveyor back", drift: -3.0, wind: 0.0, recedes: 0.0, steer: 1.0 },
    Push { name: "a conveyor back, hardly slower", drift: -3.9, wind: 0.0, recedes: 0.0, steer: 1.0 },
    Push { name: "a conveyor back, as fast", drift: -4.0, wind: 0.0, recedes: 0.0, steer: 1.0 },
    Push { name: "a conveyor back, half steered", drift: -1.9, wind: 0.0, recedes: 0.0, steer: 0.5 },
    Push { name: "a conveyor to the wall", drift: 2.0, wind: 0.0, recedes: 0.0, steer: 0.0 },
    Push { name: "a wall that recedes", drift: 0.0, wind: 0.0, recedes: 0.5, steer: 1.0 },
    Push { name: "a wall that recedes fast", drift: 0.0, wind: 0.0, recedes: 3.0, steer: 1.0 },
    Push { name: "a wall that recedes, on a conveyor", drift: -1.0, wind: 0.0, recedes: 1.0, steer: 1.0 },
    Push { name: "wind to the wall", drift: 0.0, wind: 10.0, recedes: 0.0, steer: 0.0 },
    Push { name: "wind back", drift: 0.0, wind: -10.0, recedes: 0.0, steer: 1.0 },
    Push { name: "strong wind back", drift: 0.0, wind: -30.0, recedes: 0.0, steer: 1.0 },
];

fn place<V: Geometry>(push: &Push, floor: bool) -> Level<V> {
    let corner = |x, y, z| V::from_array([x, y, z]);
    let mut builder = Level::builder();
    let band = builder.add_surface(Surface { drift: V::RIGHT * push.drift, ..Surface::default() });
    if floor {
        let block = Piece::block(corner(-90.0, -1.0, -90.0), corner(90.0, 0.0, 90.0)).unwrap();
        builder.add(block.made_of(band));
    }
    let keys = [(0.0, 0.0f32), (9.0, 9.0 * push.recedes)];
    let path = keys.map(|(time, x)| Keyframe::new(time, V::RIGHT * x));
    let carrier = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::Stop));
    let wall = Piece::block(corner(1.0, -200.0, -90.0), corner(2.0, 30.0, 90.0)).unwrap();
    builder.add(if push.recedes > 0.0 { wall.riding(carrier) } else { wall });
    if push.wind != 0.0 {
        let effect = Effect::Wind { push: V::RIGHT * push.wind };
        builder.add_zone(Zone::new(corner(-90.0, -200.0, -90.0), corner(90.0, 90.0, 90.0), effect));
    }
    builder.build().unwrap()
}

#[test]
fn a_wall_is_met_once_and_not_left_under_a_steady_push() {
    fn check<V: Geometry>() {
        let mut wrong = Vec::new();
        for (push, floor) in PUSHES.iter().flat_map(|push| [(push, true), (push, false)]) {
            let mut level = place::<V>(push, floor);
            for (hull, rate) in
                [capsule(), upright_box()].into_iter().flat_map(|hull| [24, 60, 144].map(|rate| (hull, rate)))
            {
                level.set_time(0.0, 1.0 / rate as f32);
                let mut run = Run::new(Tuning::default(), hull, V::from_array([0.3, 0.005, 0.0]), rate);
                run.body.find_footing(&level);
                for tick in 0..3 * rate {
                    level.advance(1.0 / rate as f32);
                    let steer = if tick < rate { 1.0 } else { push.steer };
                    run.tick(&level, Intent::steering(steer, 0.0));
                }
                let all = run.count("wall-met") + run.count("wall-left");
                if all > 3 {
                    wrong.push(format!("{}, {floor}, {rate}/s, {hull:?}: {all}", push.name));
                }
                let gap =
                    1.0 + push.recedes * run.seconds() - hull.half_width() - run.body.position().component(0);
                // One that is hardly faster takes its time.
                if push.steer == 1.0 && push.drift > -3.5 && floor && gap > 0.05 {
                    wrong.push(format!("{}, {rate}/s, {hull:?}: {gap} m from the wall", push.name));
                }
            }
        }
        assert!(wrong.is_empty(), "{wrong:#?}");
    }
    check::<Vec2>();
    check::<Vec3>();
}
