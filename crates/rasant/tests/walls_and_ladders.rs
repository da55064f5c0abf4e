//! Wall slides, wall jumps, ladders and the other zones.

use crate::common::{Run, blocks, capsule, upright_box};
use rasant::glam::{Vec2, Vec3};
use rasant::level::LevelBuilder;
use rasant::moves::Jump;
use rasant::state::Name;
use rasant::state::Owner;
use rasant::{
    Actions, Carrier, Controller, Effect, Event, Gait, Geometry, Intent, Keyframe, Level, Mode, PathEnd,
    Piece, Steering, Surface, Tuning, Zone, ZoneId,
};

const JUMP: fn() -> Intent = || Intent::default().pressing(Actions::JUMP);
const RIGHT: fn() -> Intent = || Intent::steering(1.0, 0.0);
const LEFT: fn() -> Intent = || Intent::steering(-1.0, 0.0);

fn climber() -> Tuning {
    let mut tuning = Tuning::default();
    tuning.wall.slide_speed = 1.5;
    tuning.wall.jump_height = 1.6;
    tuning
}

/// A shaft 3 m wide between two walls 40 m high, with a floor.
fn shaft<V: Geometry>() -> Level<V> {
    blocks(&[
        ([-9.0, -1.0, -9.0], [9.0, 0.0, 9.0]),
        ([-3.0, 0.0, -9.0], [-1.5, 40.0, 9.0]),
        ([1.5, 0.0, -9.0], [3.0, 40.0, 9.0]),
    ])
}

/// A body that falls beside the right wall, steering into it.
fn on_the_wall<V: Geometry>(tuning: Tuning, level: &Level<V>) -> Run<V> {
    let mut run = Run::new(tuning, capsule(), V::UP * 20.0 + V::RIGHT * 1.1, 60);
    run.run(level, 0.5, RIGHT());
    run
}

#[test]
fn steering_into_a_wall_slides_down_it_slowly_and_letting_go_falls_fast() {
    fn check<V: Geometry>() {
        let level = shaft::<V>();
        let mut run = on_the_wall(climber(), &level);
        let state = run.body.state();
        assert_eq!(
            (state.mode, state.velocity_owner, state.animation.gait),
            (Mode::Move(Name::new("wall-slide")), Owner::Wall, Gait::Move(Name::new("wall-slide")))
        );
        assert!((run.body.velocity().height() + 1.5).abs() < 1e-4);
        assert_eq!(run.count("wall-met"), 1);
        run.run(&level, 0.3, Intent::default());
        assert_eq!(run.body.state().mode, Mode::Airborne);
        assert!(run.body.velocity().height() < -6.0);
        assert_eq!(run.count("wall-left"), 1);
        // By touch it needs no steering; without the knob there is no slide.
        let mut by_touch = climber();
        by_touch.wall.by_touch = 1.0;
        let mut run = on_the_wall(by_touch, &level);
        run.run(&level, 0.3, Intent::default());
        assert_eq!(run.body.state().mode, Mode::Move(Name::new("wall-slide")));
        assert_eq!(on_the_wall(Tuning::default(), &level).body.state().mode, Mode::Airborne);
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_surface_grips_better_worse_or_not_at_all() {
    for (grip, expected) in [(1.0, -1.5), (3.0, -0.5), (0.5, -3.0)] {
        let (run, _) = slide_on(grip);
        assert!(
            (run.body.velocity().y - expected).abs() < 1e-4,
            "{} m/s at grip {grip}",
            run.body.velocity().y
        );
    }
    let (mut run, level) = slide_on(0.0);
    assert_eq!(run.body.state().mode, Mode::Airborne);
    run.tick(&level, JUMP());
    assert_eq!(run.count("jumped"), 0, "nothing to kick off from");

    fn slide_on(grip: f32) -> (Run<Vec2>, Level<Vec2>) {
        let mut builder = Level::builder();
        let surface = builder.add_surface(Surface { grip, ..Surface::default() });
        builder.add(Piece::block(Vec2::new(1.5, 0.0), Vec2::new(3.0, 40.0)).unwrap().made_of(surface));
        let level = builder.build().unwrap();
        let mut run = on_the_wall(climber(), &level);
        run.run(&level, 0.1, RIGHT());
        (run, level)
    }
}

#[test]
fn a_jump_off_a_wall_leads_up_and_away_and_cannot_be_steered_back_at_once() {
    fn check<V: Geometry>() {
        let level = shaft::<V>();
        let mut run = on_the_wall(climber(), &level);
        let start = run.body.position();
        run.tick(&level, RIGHT().pressing(Actions::JUMP));
        assert_eq!(run.jumps(), [Jump::WALL]);
        let away = -run.body.velocity().component(0);
        assert!((4.5..=5.0).contains(&away), "{away} m/s away, steering back");
        run.run(&level, 0.15, RIGHT().holding(Actions::JUMP));
        let late = -run.body.velocity().component(0);
        assert!(late > 4.0, "{late} m/s away while steering back is weak");
        run.run(&level, 0.4, RIGHT().holding(Actions::JUMP));
        assert!(run.body.velocity().component(0) > -4.0, "then it counts again");
        let rise = run.apex().unwrap().height() - start.height();
        assert!((rise - 1.6).abs() < 2e-3, "{rise} m");
    }
    check::<Vec2>();
    check::<Vec3>();
}

#[test]
fn a_wall_jump_takes_off_within_the_grace_time_after_leaving_and_not_later() {
    let level = shaft::<Vec2>();
    for (wait, jumps) in [(0.06, true), (0.15, false)] {
        let mut run = on_the_wall(climber(), &level);
        run.run(&level, wait, LEFT());
        run.tick(&level, LEFT().pressing(Actions::JUMP));
        assert_eq!(run.jumps() == [Jump::WALL], jumps, "{wait} s after");
    }
}

#[test]
fn one_wall_cannot_be_climbed_for_ever_but_two_can() {
    let level = shaft::<Vec2>();
    let climb = |both: bool| {
        let mut tuning = climber();
        tuning.wall.in_a_row = 2.0;
        tuning.wall.back_time = 0.05;
        let mut run = on_the_wall(tuning, &level);
        let mut into = 1.0;
        for _ in 0..900 {
            let slides = run.body.state().mode == Mode::Move(Name::new("wall-slide"));
            let intent = Intent::steering(into, 0.0);
            run.tick(
                &level,
                if slides { intent.pressing(Actions::JUMP) } else { intent.holding(Actions::JUMP) },
            );
            if slides && both {
                into = -into;
            }
            if run.body.state().footing.is_firm() {
                break;
            }
        }
        run
    };
    let one = climb(false);
    assert_eq!(one.jumps().len(), 2, "then it slides to the ground");
    let events =
        |event: &Event<Vec2>| matches!(event, Event::Refused { what } if what.is("jump", "wall-limit"));
    assert!(one.events.iter().any(|(_, event)| events(event)));
    assert!(climb(true).jumps().len() > 6);
}

/// A ladder from the ground to a one-way landing flush with its top, 6 m up.
fn ladder_tower<V: Geometry>(front: V) -> (LevelBuilder<V>, Zone<V>) {
    let mut builder = Level::builder();
    let point = |x: f32, y: f32, z: f32| V::from_array([x, y, z]);
    builder.add(Piece::block(point(-9.0, -1.0, -9.0), point(9.0, 0.0, 9.0)).unwrap());
    builder.add(Piece::block(point(-2.0, 5.8, -2.0), point(2.0, 6.0, 2.0)).unwrap().one_way());
    let zone = Zone::new(point(-0.3, 0.0, -0.3), point(0.3, 6.0, 0.3), Effect::Ladder { front });
    (builder, zone)
}

fn at_the_ladder<V: Geometry>(front: V) -> (Run<V>, Level<V>) {
    let (mut builder, zone) = ladder_tower(front);
    builder.add_zone(zone);
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), V::RIGHT * 0.2, 60);
    run.body.find_footing(&level);
    run.tick(&level, Intent::default());
    (run, level)
}

#[test]
fn a_ladder_is_climbed_to_its_top_and_down_again_without_a_hop() {
    fn check<V: Geometry>(front: V, up: Intent, down: Intent) {
        let (mut run, level) = at_the_ladder(front);
        run.tick(&level, up);
        assert_eq!(
            (run.body.state().mode, run.count("ladder-grabbed")),
            (Mode::Move(Name::new("ladder")), 1)
        );
        assert_eq!(run.body.state().velocity_owner, Owner::Ladder);
        run.run(&level, 1.0, up);
        assert!((run.body.velocity().height() - 2.5).abs() < 1e-4);
        assert!(run.body.position().component(0).abs() < 1e-3, "drawn to its middle");
        assert_eq!(run.body.state().animation.gait, Gait::Move(Name::new("climb")));
        let height = run.body.position().height();
        run.run(&level, 0.5, Intent::default());
        assert_eq!(run.body.position().height(), height, "it stops and stays");
        let mut highest = 0f32;
        for _ in 0..180 {
            let climbs = run.body.state().mode == Mode::Move(Name::new("ladder"));
            run.tick(&level, if climbs { up } else { Intent::default() });
            highest = highest.max(run.body.position().height());
        }
        assert!((highest - 6.005).abs() < 1e-3, "no hop at the top: {highest} m");
        assert_eq!((run.body.state().mode, run.count("ladder-left")), (Mode::Grounded, 1));
        // And down from the top, through the landing, to the ground.
        run.run(&level, 0.3, Intent::default());
        run.tick(&level, down);
        assert_eq!(
            (run.body.state().mode, run.count("ladder-grabbed")),
            (Mode::Move(Name::new("ladder")), 2)
        );
        run.run(&level, 3.0, down);
        assert_eq!(run.body.state().mode, Mode::Grounded);
        assert!((run.body.position().height() - 0.005).abs() < 1e-3);
        assert_eq!(run.count("apex"), 0);
    }
    let (up, down) = (Intent::steering(0.0, 1.0), Intent::steering(0.0, -1.0));
    check::<Vec2>(Vec2::ZERO, up, down);
    check::<Vec3>(Vec3::ZERO, up, down);
    // A ladder on a wall to the left: steering into it climbs.
    check::<Vec3>(Vec3::X, LEFT(), RIGHT());
}

#[test]
fn a_ladder_is_slid_down_faster_and_left_by_a_jump_a_drop_or_to_the_side() {
    let up = Intent::steering(0.0, 1.0);
    let climbed = || {
        let (mut run, level) = at_the_ladder::<Vec2>(Vec2::ZERO);
        run.run(&level, 1.5, up);
        run.events.clear();
        (run, level)
    };
    let (mut run, level) = climbed();
    run.run(&level, 0.2, Intent::steering(0.0, -1.0).holding(Actions::CROUCH));
    assert!((run.body.velocity().y + 6.0).abs() < 1e-4);

    let (mut run, level) = climbed();
    let height = run.body.position().y;
    run.tick(&level, RIGHT().pressing(Actions::JUMP));
    assert_eq!(run.jumps(), [Name::new("ladder")]);
    run.run(&level, 0.6, RIGHT().holding(Actions::JUMP));
    let rise = run.apex().unwrap().y - height;
    assert!((rise - 0.8).abs() < 2e-3, "{rise} m");

    let (mut run, level) = climbed();
    run.tick(&level, Intent::steering(0.0, -1.0).pressing(Actions::JUMP));
    assert_eq!((run.body.state().mode, run.jumps().len()), (Mode::Airborne, 0));

    let (mut run, level) = climbed();
    run.run(&level, 0.2, RIGHT());
    assert_eq!((run.body.state().mode, run.count("ladder-left")), (Mode::Airborne, 1));

    // Falling past it, steering up takes hold, but not right after letting go.
    let (mut run, level) = climbed();
    run.tick(&level, Intent::steering(0.0, -1.0).pressing(Actions::JUMP));
    run.run(&level, 0.1, up);
    assert_eq!(run.body.state().mode, Mode::Airborne);
    run.run(&level, 0.2, up);
    assert_eq!(run.body.state().mode, Mode::Move(Name::new("ladder")));
}

#[test]
fn a_ladder_on_a_carrier_takes_its_climber_along() {
    let (mut builder, zone) = ladder_tower(Vec2::ZERO);
    let keys = [(0.0, 0.0), (20.0, 20.0)];
    let path = keys.map(|(time, x)| Keyframe::new(time, Vec2::X * x));
    let carrier = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::Stop));
    let id = builder.add_zone(zone.riding(carrier));
    let mut level = builder.build().unwrap();
    let mut body = Controller::new(Tuning::default(), capsule(), Vec2::ZERO);
    body.find_footing(&level);
    let dt = 1.0 / 60.0;
    for tick in 0..120 {
        level.advance(dt);
        body.tick(&Intent::steering(0.0, if tick < 60 { 1.0 } else { 0.0 }), &level, dt);
    }
    assert_eq!(body.state().ladder, Some(id));
    assert!((body.position().x - level.time() as f32).abs() < 0.02, "{}", body.position());
    // A jump off it takes its speed along.
    level.advance(dt);
    body.tick(&JUMP(), &level, dt);
    assert!((0.85..=1.0).contains(&body.velocity().x), "{}", body.velocity());
}

fn with_zone<V: Geometry>(zone: Zone<V>) -> (Level<V>, ZoneId) {
    let mut builder = Level::builder();
    let point = |x: f32, y: f32| V::from_array([x, y, x]);
    builder.add(Piece::block(point(-99.0, -1.0), point(99.0, 0.0)).unwrap());
    let id = builder.add_zone(zone);
    (builder.build().unwrap(), id)
}

fn events(run: &Run<Vec2>, id: ZoneId) -> (usize, usize) {
    let count = |chosen: Event<Vec2>| run.events.iter().filter(|(_, event)| *event == chosen).count();
    (count(Event::ZoneEntered { zone: id }), count(Event::ZoneLeft { zone: id }))
}

#[test]
fn coming_into_and_out_of_a_zone_is_reported_once_each() {
    for kind in [Effect::Goal, Effect::Own(7), Effect::Slow { pace: 0.5 }, Effect::Checkpoint] {
        let (level, id) = with_zone(Zone::new(Vec2::new(2.0, 0.0), Vec2::new(4.0, 3.0), kind));
        let mut run = Run::new(Tuning::default(), upright_box(), Vec2::ZERO, 60);
        run.body.find_footing(&level);
        run.run(&level, 0.7, RIGHT());
        assert_eq!(events(&run, id), (1, 0));
        assert!(run.body.state().zones.contains(id));
        let slowed = matches!(kind, Effect::Slow { .. });
        let speed = run.body.velocity().x;
        assert!((speed - if slowed { 2.0 } else { 4.0 }).abs() < 1e-4, "{speed} m/s in {kind:?}");
        run.run(&level, 2.0, RIGHT());
        assert_eq!(events(&run, id), (1, 1));
    }
}

#[test]
fn wind_carries_airborne_bodies_and_moves_standing_ones_a_little() {
    let zone = |push| Zone::new(Vec2::new(-99.0, 0.0), Vec2::new(99.0, 8.0), Effect::Wind { push });
    let tuning = Tuning::default();
    let (level, _) = with_zone(zone(Vec2::X * 5.0));
    let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    run.run(&level, 2.0, Intent::default());
    // Grounded: the push over the walk's stop time.
    assert!((run.body.position().x - 5.0 * 0.08 * 2.0).abs() < 0.02, "{}", run.body.position());
    run.tick(&level, JUMP());
    run.run(&level, 0.6, Intent::default().holding(Actions::JUMP));
    let speed = run.body.velocity().x;
    assert!((2.0..=3.0).contains(&speed), "airborne it comes to 5 m/s² x 0.6 s: {speed} m/s");

    // An updraft of more than gravity lifts the body off and carries it to the
    // zone's top.
    let (level, _) = with_zone(zone(Vec2::Y * (tuning.gravity() + 6.0)));
    let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    let mut highest = 0f32;
    for _ in 0..600 {
        run.tick(&level, Intent::default());
        highest = highest.max(run.body.position().y);
    }
    assert!(highest > 7.5, "{highest} m");
    assert!(run.count("left-ground") >= 1);
}

#[test]
fn a_hazard_puts_the_body_back_at_its_last_checkpoint() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(99.0, 0.0)).unwrap());
    builder.add_zone(Zone::new(Vec2::new(3.0, 0.0), Vec2::new(4.0, 3.0), Effect::Checkpoint));
    builder.add_zone(Zone::new(Vec2::new(8.0, 0.0), Vec2::new(9.0, 0.2), Effect::Hazard));
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    while run.count("respawned") == 0 {
        run.tick(&level, RIGHT());
        assert!(run.ticks < 600);
    }
    let at = run.body.position();
    assert!((2.6..2.8).contains(&at.x), "where its side came into the zone: {at}");
    assert_eq!(run.body.velocity(), Vec2::ZERO);
    // And again.
    run.run(&level, 1.6, RIGHT());
    assert_eq!(run.count("respawned"), 2);
}

#[test]
fn a_zone_of_other_gravity_tips_the_body_over_and_back() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(-9.0, 6.0), Vec2::new(9.0, 7.0)).unwrap());
    let kind = Effect::Gravity { up: -Vec2::Y };
    builder.add_zone(Zone::new(Vec2::new(2.0, 0.0), Vec2::new(5.0, 6.0), kind));
    let level = builder.build().unwrap();
    let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
    run.body.find_footing(&level);
    while run.body.state().up.y > 0.0 {
        run.tick(&level, RIGHT());
        assert!(run.ticks < 60);
    }
    run.run(&level, 0.8, Intent::default());
    assert!(run.body.state().footing.is_firm(), "it stands on the ceiling");
    assert!((run.body.position().y - 5.995).abs() < 1e-3);
    run.run(&level, 0.2, RIGHT());
    assert!(run.body.velocity().x > 3.9, "right is still right");
    run.run(&level, 0.8, RIGHT());
    run.run(&level, 1.0, Intent::default());
    assert_eq!(run.body.state().up, Vec2::Y);
    assert!((run.body.position().y - 0.005).abs() < 1e-3, "back on the floor: {}", run.body.position());
}

#[test]
fn a_checkpoint_passed_upside_down_respawns_the_body_upright() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0)).unwrap());
    builder.add(Piece::block(Vec2::new(-9.0, 6.0), Vec2::new(9.0, 7.0)).unwrap());
    let zone = |min: [f32; 2], max: [f32; 2], kind| Zone::new(Vec2::from(min), Vec2::from(max), kind);
    builder.add_zone(zone([-2.0, 0.0], [5.0, 6.0], Effect::Gravity { up: -Vec2::Y }));
    builder.add_zone(zone([1.0, 5.0], [2.0, 6.0], Effect::Checkpoint));
    builder.add_zone(zone([3.0, 5.0], [4.0, 6.0], Effect::Hazard));
    let level = builder.build().unwrap();
    let hull = capsule();
    let mut run = Run::new(Tuning::default(), hull, Vec2::new(0.0, 3.0), 60);
    run.run(&level, 1.0, Intent::default());
    assert!(run.body.state().footing.is_firm(), "it stands on the ceiling");
    while run.count("respawned") == 0 {
        run.tick(&level, RIGHT());
        assert!(run.ticks < 240);
    }
    let (feet, head) = (run.body.position().y, run.body.position().y + hull.height());
    assert!(feet > 0.0 && head < 6.0, "from {feet} m to {head} m, under the ceiling");
    assert_eq!(run.body.state().up, Vec2::Y);
}

/// Its position is its middle, in whatever direction up is.
#[test]
fn other_gravity_leaves_a_body_seen_from_above_where_it_is() {
    let mut builder = Level::<Vec2>::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -9.0), Vec2::new(9.0, -8.0)).unwrap());
    let kind = Effect::Gravity { up: -Vec2::Y };
    builder.add_zone(Zone::new(Vec2::new(1.0, -5.0), Vec2::new(4.0, 5.0), kind));
    let level = builder.build().unwrap();
    let tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
    while run.seconds() < 2.0 {
        let before = run.body.position();
        run.tick(&level, RIGHT());
        let displacement = run.body.position() - before;
        assert!(displacement.y == 0.0 && displacement.x < 0.1, "{displacement} in a tick");
    }
    assert_eq!(run.count("zone-entered"), 1);
    assert!(run.body.position().x > 5.0);
}

/// A ladder that leads up to a closed floor can be climbed, but not grabbed from above.
#[test]
fn a_ladder_under_a_solid_floor_is_not_grabbed_from_above() {
    fn check<V: Geometry>() {
        let mut builder = Level::builder();
        let corner = |x, y, z| V::from_array([x, y, z]);
        builder.add(Piece::block(corner(-9.0, -1.0, -9.0), corner(9.0, 0.0, 9.0)).unwrap());
        builder.add(Piece::block(corner(-9.0, 4.7, -9.0), corner(9.0, 5.0, 9.0)).unwrap());
        let ladder = Effect::Ladder { front: V::ZERO };
        builder.add_zone(Zone::new(corner(-0.4, 0.0, -0.4), corner(0.4, 5.0, 0.4), ladder));
        let level = builder.build().unwrap();
        for hull in [capsule(), upright_box()] {
            for rate in [30, 60, 144] {
                let mut run = Run::new(Tuning::default(), hull, V::UP * 5.01, rate);
                run.body.find_footing(&level);
                run.run(&level, 1.0, Intent::steering(0.0, -1.0));
                let names: Vec<_> = run.events.iter().map(|(_, event)| event.name()).collect();
                let walks = names.iter().all(|name| ["footfall", "zone-entered", "zone-left"].contains(name));
                assert!(walks, "{rate}/s {hull:?}: {names:?}");
                assert!(run.body.state().footing.is_firm());
            }
        }
    }
    check::<Vec2>();
    check::<Vec3>();
}
