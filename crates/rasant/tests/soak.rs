//! Places at random, with everything in them, and bodies that do everything: never
//! inside anything, never stuck in the air, never without a number, and to the same
//! bits again.
//!
//! `RASANT_SOAK` is how many ticks are run, in all; see the README. A case that fails
//! names its seed: `RASANT_SOAK_FROM` begins there. `RASANT_SHARD=2/4` is the second of four
//! parts of all that.

use std::thread;

use crate::common::judge::{Body, Triangles};
use crate::common::lives::{any_intent, any_tuning, meddle};
use crate::common::surfaces::SURFACES;
use crate::common::{Dice, capsule, core_of, upright_box};
use rasant::glam::{DVec2, DVec3, Quat, Vec2, Vec3};
use rasant::level::{self, Easing, LevelBuilder, Shape, Sides, Tag};
use rasant::space::Bounds;
use rasant::{
    Carrier, CarrierId, Controller, Effect, Event, Geometry, Hull, HullShape, Intent, Keyframe, Layers,
    Level, Mode, PathEnd, Piece, PieceId, State, Steering, SurfaceId, Surroundings, Tuning, Vector, Zone,
    ZoneId,
};

/// Ticks of the ordinary run, in both dimensions together.
const FEW: u64 = 96_000;
/// Ticks of one body.
const LIFE: u64 = 1_000;
/// Bodies in one place.
const LIVES: u64 = 12;
/// Metres that a body may be inside something.
const MOST_INSIDE: f64 = 1e-3;
const RATES: [f32; 7] = [24.0, 30.0, 60.0, 61.7, 120.0, 144.0, 240.0];

/// The dimension's own part of a soak.
trait Place: Geometry {
    /// Pieces that stay where they are.
    fn furnish(builder: &mut LevelBuilder<Self>, dice: &mut Dice);
    /// A block turned anyhow.
    fn turned_block(dice: &mut Dice, middle: Self, half: Self) -> Piece<Self>;
    /// What a judge knows of what stays.
    type Still;
    fn still(level: Level<Self>) -> Self::Still;
    /// Whether a place is in the midst of something, further from its surface than
    /// the judge sees.
    fn is_buried(level: &Level<Self>, place: Self) -> bool;
    /// How deep a body is in what stays and in what moves now.
    fn depth(still: &Self::Still, movers: &Level<Self>, state: &State<Self>, hull: &Hull) -> f64;
}

fn double(point: impl Vector) -> DVec3 {
    Vec3::from_array(point.to_array()).as_dvec3()
}

/// A body's own frame, in doubles.
struct Frame {
    origin: DVec3,
    axes: [DVec3; 3],
}

impl Frame {
    fn of<V: Vector>(state: &State<V>) -> Self {
        let (right, up) = (double(state.right), double(state.up));
        let back = if V::DIMENSION == 2 { DVec3::Z } else { right.cross(up) };
        Self { origin: double(state.position) + double(state.remainder), axes: [right, up, back] }
    }

    fn local(&self, point: DVec3) -> DVec3 {
        let from = point - self.origin;
        let [x, y, z] = self.axes.map(|axis| axis.dot(from));
        DVec3::new(x, y, z)
    }
}

fn body_of<V: Geometry>(hull: &Hull) -> Body {
    Body { lift: f64::from(core_of::<V>(hull).middle.height()), ..Body::of(hull) }
}

/// Whether a shape is one to be outside of.
fn is_solid(tag: Tag) -> bool {
    !tag.one_way
}

impl Place for Vec2 {
    fn furnish(builder: &mut LevelBuilder<Vec2>, dice: &mut Dice) {
        // A rolling line, or thin ground, and outlines all over it.
        let mut at = Vec2::new(-26.0, dice.number(-1.0, 1.0));
        while at.x < 26.0 {
            let next = at + Vec2::new(dice.number(0.3, 3.0), dice.number(-1.2, 1.2));
            builder.add(Piece::segment(at, next, Sides::Both).unwrap());
            at = next;
        }
        for _ in 0..24 {
            let at: Vec2 = dice.vector::<Vec2>(20.0) * Vec2::new(1.0, 0.3);
            let corners = 3 + dice.below(6);
            let size = dice.number(0.2, 2.5);
            let turn = dice.number(0.0, 6.3);
            let outline: Vec<Vec2> = (0..corners)
                .map(|i| {
                    let angle = turn + i as f32 * std::f32::consts::TAU / corners as f32;
                    at + Vec2::from_angle(angle) * size
                })
                .collect();
            let piece = match dice.below(5) {
                0 => Piece::ball(at, size),
                1 => Piece::block(at, at + Vec2::new(size, 0.5 * size)),
                _ => Piece::polygon(&outline),
            };
            if let Ok(piece) = piece {
                builder.add(if dice.below(6) == 0 { piece.one_way() } else { piece });
            }
        }
        // A wall turned anyhow, of flush pieces.
        let (start, turn) = (dice.vector::<Vec2>(15.0), dice.number(0.0, 6.3));
        for number in 0..6 {
            let middle = start + Vec2::from_angle(turn) * (number as f32);
            builder.add(Piece::turned_rectangle(middle, Vec2::new(0.5, 0.4), turn).unwrap());
        }
    }

    fn turned_block(dice: &mut Dice, middle: Vec2, half: Vec2) -> Piece<Vec2> {
        Piece::turned_rectangle(middle, half, dice.number(0.0, 6.3)).unwrap()
    }

    /// Its shapes, unmoved.
    type Still = Level<Vec2>;

    fn still(level: Level<Vec2>) -> Level<Vec2> {
        level
    }

    /// It sees all of an outline.
    fn is_buried(_: &Level<Vec2>, _: Vec2) -> bool {
        false
    }

    fn depth(still: &Level<Vec2>, movers: &Level<Vec2>, state: &State<Vec2>, hull: &Hull) -> f64 {
        let (frame, body) = (Frame::of(state), body_of::<Vec2>(hull));
        let mut deepest = f64::NEG_INFINITY;
        let mut judge = |shape: Shape<'_, Vec2>, tag| {
            let flat = |point: Vec2| {
                let local = frame.local(double(point));
                DVec2::new(local.x, local.y)
            };
            let (outline, rounding): (Vec<DVec2>, f32) = match shape {
                Shape::Polygon { points, .. } => (points.iter().map(|&point| flat(point)).collect(), 0.0),
                Shape::Segment { ends, .. } => (ends.map(flat).to_vec(), 0.0),
                Shape::Ball { centre, radius } => (vec![flat(centre)], radius),
                _ => return,
            };
            if is_solid(tag) {
                deepest = deepest.max(body.depth_in_outline(DVec2::ZERO, &outline, rounding.into()));
            }
        };
        still.each_shape(&mut judge);
        movers.each_shape(&mut judge);
        deepest
    }
}

fn triangles_of(shape: &Shape<'_, Vec3>, mut each: impl FnMut([DVec3; 3])) {
    let mut fan = |points: &[DVec3]| {
        (1..points.len().max(2) - 1).for_each(|i| each([points[0], points[i], points[i + 1]]));
    };
    match shape {
        Shape::Facet { points, .. } => fan(&points.iter().map(|&point| double(point)).collect::<Vec<_>>()),
        Shape::Solid { points, faces, .. } => {
            let mut faces = *faces;
            while let Some((&count, rest)) = faces.split_first() {
                let (face, rest) = rest.split_at(usize::from(count));
                faces = rest;
                let corners = face.iter().map(|&corner| double(points[usize::from(corner)]));
                fan(&corners.collect::<Vec<_>>());
            }
        }
        _ => {}
    }
}

impl Place for Vec3 {
    fn furnish(builder: &mut LevelBuilder<Vec3>, dice: &mut Dice) {
        let floor = Vec3::new(26.0, 1.0, 26.0);
        builder.add(Piece::turned_box(-Vec3::Y, floor, Quat::IDENTITY).unwrap());
        if dice.below(2) == 0 {
            // Rough ground or a closed surface, half sunk in the floor.
            let (mut corners, triangles) = SURFACES[dice.below(SURFACES.len())].mesh(24.0);
            let rough = [0.0, 0.1, 0.3][dice.below(3)];
            corners.iter_mut().for_each(|corner| *corner += dice.vector::<Vec3>(rough) + Vec3::Y * 2.0);
            builder.add_mesh(&corners, &triangles, SurfaceId::default(), Layers::GROUND).unwrap();
        }
        for _ in 0..24 {
            let at = dice.vector::<Vec3>(16.0) * Vec3::new(1.0, 0.25, 1.0) + Vec3::Y * 2.0;
            let half = Vec3::splat(0.05) + dice.vector::<Vec3>(2.0).abs();
            let turn = Quat::from_axis_angle(dice.direction(), dice.number(0.0, 3.0));
            let piece = match dice.below(5) {
                0 => Piece::block(at - half, at + half).unwrap(),
                1 => Piece::turned_box(at, half, Quat::from_rotation_y(dice.number(0.0, 3.0))).unwrap(),
                2 => {
                    Piece::solid(&(0..7).map(|_| at + dice.vector::<Vec3>(2.0)).collect::<Vec<_>>()).unwrap()
                }
                _ => Piece::turned_box(at, half, turn).unwrap(),
            };
            builder.add(if dice.below(6) == 0 { piece.one_way() } else { piece });
        }
        // Upright walls turned anyhow, of flush pieces.
        for _ in 0..2 {
            let start = dice.vector::<Vec3>(12.0) * Vec3::new(1.0, 0.1, 1.0);
            let turn = Quat::from_rotation_y(dice.number(0.0, 6.3));
            for number in 0..6 {
                let middle = start + turn * Vec3::X * (number as f32) + Vec3::Y;
                builder.add(Piece::turned_box(middle, Vec3::new(0.5, 1.5, 0.4), turn).unwrap());
            }
        }
    }

    fn turned_block(dice: &mut Dice, middle: Vec3, half: Vec3) -> Piece<Vec3> {
        let turn = Quat::from_axis_angle(dice.direction(), dice.number(0.0, 0.7));
        Piece::turned_box(middle, half, turn).unwrap()
    }

    type Still = Triangles;

    fn still(level: Level<Vec3>) -> Triangles {
        let mut all = Vec::new();
        level.each_shape(|shape, tag| {
            if is_solid(tag) {
                triangles_of(&shape, |triangle| all.push(triangle));
            }
        });
        Triangles::new(all)
    }

    fn is_buried(level: &Level<Vec3>, place: Vec3) -> bool {
        let mut buried = false;
        level.each_shape(|shape, _| {
            if !matches!(shape, Shape::Solid { .. }) {
                return;
            }
            let mut behind_all = true;
            triangles_of(&shape, |[a, b, c]| {
                behind_all &= (b - a).cross(c - a).dot(double(place) - a) < 0.0;
            });
            buried |= behind_all;
        });
        buried
    }

    fn depth(still: &Self::Still, movers: &Level<Vec3>, state: &State<Vec3>, hull: &Hull) -> f64 {
        let (frame, body) = (Frame::of(state), body_of::<Vec3>(hull));
        let mut deepest = f64::NEG_INFINITY;
        let mut judge = |triangle: &[DVec3; 3]| {
            let local = triangle.map(|corner| frame.local(corner));
            deepest = deepest.max(body.depth_in_triangle(DVec3::ZERO, local));
        };
        let middle = frame.origin + frame.axes[1] * body.lift;
        still.each_near(middle, body.half.length() + body.radius + 0.01, &mut judge);
        movers.each_shape(|shape, tag| {
            if is_solid(tag) {
                triangles_of(&shape, |triangle| judge(&triangle));
            }
        });
        deepest
    }
}

/// What moves: lifts, ferries, wheels and presses, some tilted; and zones.
fn moving<V: Place>(builder: &mut LevelBuilder<V>, dice: &mut Dice) {
    let mut before = None;
    for number in 0..5 {
        let at: V = dice.vector::<V>(14.0).with_height(dice.number(-0.5, 4.0));
        let displacement: V = match number {
            0 => V::UP * dice.number(1.0, 5.0),
            1 => V::UP * -at.height() + V::UP * dice.number(-0.3, 0.6), // a press
            _ => dice.vector::<V>(8.0) * dice.number(0.2, 1.0),
        };
        let time = dice.number(0.4, 4.0);
        let turn = if number == 4 { dice.number(-6.0, 6.0) } else { 0.0 };
        let keys = [
            (0.0, V::ZERO, 0.0),
            (time, displacement, turn),
            (time + dice.number(0.0, 1.0), displacement, turn),
        ];
        // About any axis, at a constant speed or from rest to rest, and some on the one before.
        let axis = if dice.below(2) == 0 { V::UP } else { dice.direction() };
        let easing = Easing::ALL[dice.below(Easing::ALL.len())];
        let turn = if dice.below(4) == 0 { dice.number(-1.5, 1.5) } else { turn };
        let path = keys.map(|(time, offset, part)| {
            let turn = if part == 0.0 && time == 0.0 { 0.0 } else { turn };
            Keyframe::new(time, at + offset).turned_about(axis, turn).eased(easing)
        });
        let carrier = Carrier::on_path(path.to_vec(), PathEnd::BackAndForth);
        let parent = before.filter(|_| dice.below(3) == 0);
        let carrier = builder.add_carrier(parent.map_or(carrier.clone(), |parent| carrier.riding(parent)));
        before = Some(carrier);
        for _ in 0..1 + dice.below(2) {
            let half = V::splat(1.2).with_height(dice.number(0.05, 0.6));
            let place: V = dice.vector::<V>(1.5);
            let piece = if dice.below(2) == 0 {
                V::turned_block(dice, place, half)
            } else {
                Piece::block(place - half, place + half).unwrap()
            };
            let piece = piece.riding(carrier);
            builder.add(if dice.below(5) == 0 { piece.one_way() } else { piece });
        }
    }
    let kinds = [
        Effect::Wind { push: V::UP * dice.number(0.0, 60.0) + dice.vector::<V>(9.0) },
        Effect::Slow { pace: dice.number(0.1, 2.0) },
        Effect::Ladder { front: V::ZERO },
        Effect::Gravity { up: dice.direction() },
        Effect::Water,
    ];
    let ups = [0; 3].map(|_| Effect::Gravity { up: dice.direction() });
    for kind in kinds.into_iter().chain(ups) {
        let at: V = dice.vector(15.0);
        builder.add_zone(Zone::new(at, at + V::splat(dice.number(1.0, 5.0)), kind));
    }
}

fn any_hull(dice: &mut Dice) -> Hull {
    let rounded = HullShape::Box { width: 0.8, depth: 0.5, height: 1.5, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()][dice.below(4)]
}

/// A number that is none, now and then.
fn broken(dice: &mut Dice, number: f32) -> f32 {
    const BROKEN: [f32; 5] = [f32::NAN, f32::INFINITY, f32::NEG_INFINITY, 0.0, -1.0];
    if dice.below(300) == 0 { BROKEN[dice.below(BROKEN.len())] } else { number }
}

/// The result of the soak.
#[derive(Default)]
struct Found {
    ticks: u64,
    deepest: f64,
    crushed: u64,
    /// The longest time in ticks for which a body had a velocity and did not move.
    hung: u64,
}

/// A body in an earlier state, its time, and the inputs since.
type Kept<V> = (Controller<V>, f64, Vec<(Intent, f32)>);

/// One place, and some bodies in it one after the other.
fn live_in<V: Place>(seed: u64, found: &mut Found) {
    let mut dice = Dice(seed);
    let mut builder = Level::<V>::builder();
    V::furnish(&mut builder, &mut dice);
    let mut unmoved = builder.clone().build().unwrap();
    let mut still = V::still(unmoved.clone());
    let mut movers = Level::<V>::builder();
    moving(&mut movers, &mut Dice(seed));
    moving(&mut builder, &mut Dice(seed));
    let (mut level, mut movers) = (builder.build().unwrap(), movers.build().unwrap());
    for life in 0..LIVES {
        let hull = any_hull(&mut dice);
        let tuning = if dice.below(3) == 0 { Tuning::default() } else { any_tuning(&mut dice, V::DIMENSION) };
        let start = loop {
            let state = State::at(dice.vector::<V>(15.0).with_height(dice.number(0.5, 8.0)));
            let own = tuning_hull::<V>(&tuning, &hull);
            let middle = state.position + core_of::<V>(&own).middle;
            let is_outside = V::depth(&still, &movers, &state, &own) < -0.02;
            if is_outside && !V::is_buried(&level, middle) {
                break state;
            }
        };
        let rate = RATES[dice.below(RATES.len())];
        let mut body = Controller::new(tuning, hull, start.position);
        let mut intent = Intent::default();
        let mut kept: Option<Kept<V>> = None;
        let (mut hangs, mut was_put) = (0, false);
        let mut removed: Vec<(PieceId, Piece<V>)> = Vec::new();
        for tick in 0..LIFE {
            // Pieces vanish and come back, but not while the inputs are recorded for a replay.
            if dice.below(150) == 0 && !(LIFE / 2..=LIFE * 3 / 4).contains(&tick) {
                let id = PieceId(dice.below(unmoved.all_pieces().count() + removed.len()) as u32);
                if let Some(piece) = unmoved.piece(id) {
                    removed.push((id, piece));
                    assert!(level.remove(id) && unmoved.remove(id));
                } else if let Some((id, piece)) = removed.pop() {
                    assert!(level.put_back(id, piece.clone()).unwrap());
                    assert!(unmoved.put_back(id, piece).unwrap());
                    // It may come back over the body, which then has a tick to get out of it.
                    was_put = true;
                }
                still = V::still(unmoved.clone());
            }
            intent = any_intent(&mut dice, &intent);
            let mut now = intent;
            (now.steer.x, now.look.yaw) = (broken(&mut dice, now.steer.x), broken(&mut dice, now.look.yaw));
            let dt = broken(&mut dice, 1.0 / rate);
            if tick == LIFE / 2 {
                kept = Some((body.clone(), level.time(), Vec::new()));
            } else if !(LIFE / 2..=LIFE * 3 / 4).contains(&tick) {
                meddle(&mut body, &mut dice);
            }
            level.advance(1.0 / rate);
            movers.advance(1.0 / rate);
            let before = *body.state();
            body.tick(&now, &level, dt);
            let state = body.state();
            let case = format!("seed {seed}, life {life}, tick {tick} at {rate}/s, {hull:?}");
            assert!(state.is_finite(), "{case}: {state:?}");
            if let Some((_, _, tape)) = &mut kept
                && tick <= LIFE * 3 / 4
            {
                tape.push((now, dt));
            }
            found.ticks += 1;
            // If the time step was invalid, the carriers have advanced without the body.
            let passed = dt > 0.0 && dt.is_finite();
            let crushed = body.state().carry_over.crushed.is_some();
            found.crushed += u64::from(crushed);
            let put = |event: &Event<V>| matches!(event, Event::Respawned);
            let is_put = crushed || !passed || body.events().iter().any(put);
            if !is_put && !was_put {
                let depth = V::depth(&still, &movers, state, &body.present_hull());
                found.deepest = found.deepest.max(depth);
                assert!(depth < MOST_INSIDE, "{case}: {depth} m deep\n{before:?}\n{state:?}");
            }
            was_put = is_put;
            // With a velocity and a free path, it moves. Wind moves a standing body beside its
            // velocity, and may cancel it.
            let says = state.velocity + state.ground_velocity;
            let blown = says + drift(&level, state, body.tuning.walk.stop_time);
            let is_blown_back = blown.dot(says) < 0.5 * says.length_squared();
            let stays = state.position == before.position && state.remainder == before.remainder;
            let asked =
                passed && !crushed && !is_blown_back && says.length() > 0.2 && says.length() * dt > 1e-4;
            hangs = if stays && asked { hangs + 1 } else { 0 };
            found.hung = found.hung.max(hangs);
            assert!(hangs < 2, "{case}: {hangs} ticks at {says:?}\n{state:?}");
            if tick == LIFE * 3 / 4 {
                let (snapshot, time, tape) = kept.take().unwrap();
                replays(snapshot, time, &tape, &level, state, 1.0 / rate, &case);
            }
        }
        for (id, piece) in removed {
            assert!(level.put_back(id, piece.clone()).unwrap() && unmoved.put_back(id, piece).unwrap());
        }
        still = V::still(unmoved.clone());
    }
}

/// The velocity that wind gives to a standing body.
fn drift<V: Geometry>(level: &Level<V>, state: &State<V>, stop_time: f32) -> V {
    let pushes = state.zones.ids().iter().filter_map(|&id| match *level.zone(id)?.effects.iter().next()? {
        Effect::Wind { push } if state.from_above => Some(push),
        Effect::Wind { push } if state.mode == Mode::Grounded => Some(push - state.up * push.dot(state.up)),
        _ => None,
    });
    pushes.fold(V::ZERO, |all, push| all + push) * stop_time
}

/// The hull that a body has in a world seen as its tuning says.
fn tuning_hull<V: Geometry>(tuning: &Tuning, hull: &Hull) -> Hull {
    let side = matches!(tuning.steering, Steering::Side | Steering::Usual);
    if V::DIMENSION == 2 && !side { hull.centred() } else { *hull }
}

fn replays<V: Geometry>(
    mut body: Controller<V>,
    time: f64,
    tape: &[(Intent, f32)],
    level: &Level<V>,
    expected: &State<V>,
    step: f32,
    case: &str,
) {
    let mut level = level.clone();
    level.set_time(time, step);
    for (intent, dt) in tape {
        level.advance(step);
        body.tick(intent, &level, *dt);
    }
    assert_eq!(body.state().checksum(), expected.checksum(), "{case}: replayed to {:?}", body.state());
}

/// The tags that a query finds.
struct Tags(Vec<Tag>);

impl<V: Vector> level::Found<V> for Tags {
    fn piece(&mut self, _: Shape<'_, V>, tag: Tag) {
        self.0.push(tag);
    }
}

/// Every answer that a level gives about a region.
fn answers<V: Geometry>(
    level: &Level<V>,
    region: &Bounds<V>,
) -> (Vec<Tag>, Vec<CarrierId>, Vec<ZoneId>, Option<u64>) {
    let (mut pieces, mut moving, mut zones) = (Tags(Vec::new()), Vec::new(), Vec::new());
    level.pieces(region, Layers::ALL, &mut pieces);
    level.moving(region, |carrier| moving.push(carrier));
    level.zones(region, |zone| zones.push(zone));
    (pieces.0, moving, zones, level.stamp(region))
}

/// A level that was advanced tick by tick and one that was set to the same time give the same
/// answers about every region, in the same order.
fn the_past_does_not_matter<V: Place>(seeds: std::ops::Range<u64>) {
    for seed in seeds {
        let mut builder = Level::<V>::builder();
        moving(&mut builder, &mut Dice(seed));
        let mut level = builder.build().unwrap();
        let fresh = level.clone();
        let mut dice = Dice(seed);
        let rate = RATES[dice.below(RATES.len())];
        for _ in 0..6 {
            (0..dice.below(300)).for_each(|_| level.advance(1.0 / rate));
            let mut set = if dice.below(2) == 0 { fresh.clone() } else { level.clone() };
            set.set_time(f64::from(dice.number(0.0, 50.0)), 1.0 / rate);
            set.set_time(level.time(), 1.0 / rate);
            // Whatever rides along is met where it is at the start of the tick, too.
            [&mut level, &mut set].into_iter().for_each(|level| level.advance(1.0 / rate));
            for _ in 0..500 {
                let size = dice.number(0.1, 4.0);
                let at: V = dice.vector(18.0);
                let region = Bounds { min: at - V::splat(size), max: at + V::splat(size) };
                let case = format!("seed {seed} at {} s in {region:?}", level.time());
                assert_eq!(answers(&level, &region), answers(&set, &region), "{case}");
            }
        }
    }
}

#[test]
fn what_a_level_answers_does_not_depend_on_its_past() {
    the_past_does_not_matter::<Vec2>(1..60);
    the_past_does_not_matter::<Vec3>(1..60);
}

fn soak<V: Place>(first: u64) {
    let ticks = std::env::var("RASANT_SOAK")
        .map_or(FEW, |ticks| ticks.replace('_', "").parse().expect("RASANT_SOAK is a number of ticks"));
    let first = std::env::var("RASANT_SOAK_FROM").map_or(first, |seed| seed.parse().expect("a seed"));
    // A part of the places, as K/N, to divide them among several machines.
    let (part, of) = std::env::var("RASANT_SHARD").map_or((1, 1), |shard| {
        let parts = shard.split_once('/').and_then(|(part, of)| Some((part.parse().ok()?, of.parse().ok()?)));
        parts.filter(|(part, of)| (1..=*of).contains(part)).expect("RASANT_SHARD is K/N")
    });
    let threads = 2;
    let each = ticks.div_ceil(2 * threads * LIVES * LIFE);
    let all = thread::scope(|scope| {
        let of = |thread: u64| {
            scope.spawn(move || {
                let mut found = Found { deepest: f64::NEG_INFINITY, ..Found::default() };
                let places = (0..each).map(|place| thread + threads * place);
                let ours = places.filter(|place: &u64| place % of == part - 1);
                ours.for_each(|place| live_in::<V>(first + place, &mut found));
                found
            })
        };
        let threads: Vec<_> = (0..threads).map(of).collect();
        threads.into_iter().map(|thread| thread.join().unwrap()).collect::<Vec<_>>()
    });
    let sum = |of: fn(&Found) -> u64| all.iter().map(of).sum::<u64>();
    let deepest = all.iter().map(|found| found.deepest).fold(f64::NEG_INFINITY, f64::max);
    let hung = all.iter().map(|found| found.hung).max().unwrap_or(0);
    println!(
        "{} dimensions, {} ticks: deepest {deepest:.1e} m, crushed in {}, hung for {hung} at most",
        V::DIMENSION,
        sum(|found| found.ticks),
        sum(|found| found.crushed)
    );
}

#[test]
fn soak_in_the_plane() {
    soak::<Vec2>(1);
}

#[test]
fn soak_in_space() {
    soak::<Vec3>(1_000_001);
}
