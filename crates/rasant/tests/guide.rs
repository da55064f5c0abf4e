//! The figures of the guide: what each problem looks like in code as it is often written, and
//! here. Each is measured as it is drawn; `RASANT_BLESS=1` writes them.

use std::path::Path;

use plotters::prelude::*;
use rasant::glam::{Vec2, Vec3};
use rasant::level::{Keyframe, PathEnd};
use rasant::{
    Actions, Bindings, Carrier, Controller, DeviceEvent, Hull, Intent, Key, Level, Look, Piece, Press,
    Sampler, Steering, Tuning,
};
use std::time::Duration;

/// Points of a curve.
type Points = Vec<(f64, f64)>;

/// A figure: curves of the wrong and of the right.
struct Figure<'a> {
    name: &'a str,
    title: &'a str,
    across: &'a str,
    up: &'a str,
    wrong: Vec<(String, Points)>,
    right: Vec<(String, Points)>,
}

impl Figure<'_> {
    /// Compares the file with the measurement, or writes it.
    fn check(&self) {
        let path = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/guide/figures"))
            .join(self.name)
            .with_extension("svg");
        let drawn = self.drawn();
        if std::env::var_os("RASANT_BLESS").is_some() {
            std::fs::write(&path, &drawn).unwrap();
        }
        let there = std::fs::read_to_string(&path).unwrap_or_default();
        assert!(there == drawn, "{} is not as it is drawn now: RASANT_BLESS=1 writes it", path.display());
    }

    fn drawn(&self) -> String {
        const COLOURS: [RGBColor; 2] = [RGBColor(0xD2, 0x6A, 0x00), RGBColor(0x12, 0x57, 0x9C)];
        let ink = RGBColor(0x23, 0x2C, 0x3A);
        let text = |size: u32| ("Roboto, Helvetica, Arial, sans-serif", size).into_font().color(&ink);
        let all = || self.wrong.iter().chain(&self.right).flat_map(|(_, points)| points);
        let ends = |of: fn(&(f64, f64)) -> f64| {
            all().map(of).fold((f64::MAX, f64::MIN), |(low, high), at| (low.min(at), high.max(at)))
        };
        let (x, y) = (ends(|at| at.0), ends(|at| at.1));
        let spare = 0.06 * (y.1 - y.0).max(1e-3);
        let mut svg = String::new();
        {
            let page = SVGBackend::with_string(&mut svg, (760, 320)).into_drawing_area();
            page.fill(&RGBColor(0xF6, 0xF3, 0xEC)).unwrap();
            page.draw_text(self.title, &text(15), (16, 8)).unwrap();
            let mut chart = ChartBuilder::on(&page)
                .margin_top(34)
                .margin_right(170)
                .margin_left(8)
                .margin_bottom(8)
                .x_label_area_size(40)
                .y_label_area_size(60)
                .build_cartesian_2d(x.0..x.1, y.0 - spare..y.1 + spare)
                .unwrap();
            chart
                .configure_mesh()
                .light_line_style(TRANSPARENT)
                .bold_line_style(RGBColor(0xC4, 0xC2, 0xBC).mix(0.5))
                .label_style(text(13))
                .axis_desc_style(text(13))
                .x_labels(7)
                .y_labels(6)
                .x_desc(self.across)
                .y_desc(self.up)
                .draw()
                .unwrap();
            let mut line = 0;
            for (kind, (curves, colour)) in [&self.wrong, &self.right].into_iter().zip(COLOURS).enumerate() {
                for (number, (word, points)) in curves.iter().enumerate() {
                    // The wrong curves are distinguished by their dashes.
                    let dash = 3 + 3 * number as i32;
                    let (points, style) = (points.iter().copied(), colour.stroke_width(2));
                    match kind {
                        0 => drop(
                            chart.draw_series(DashedLineSeries::new(points, dash as u32, 4, style)).unwrap(),
                        ),
                        _ => drop(chart.draw_series(LineSeries::new(points, style)).unwrap()),
                    }
                    let at = 44 + 20 * line;
                    let dashes =
                        if kind == 0 { (606..626).step_by(dash as usize + 4).collect() } else { vec![606] };
                    let length = if kind == 0 { dash } else { 24 };
                    for start in dashes {
                        let sample = vec![(start, at + 7), ((start + length).min(630), at + 7)];
                        page.draw(&PathElement::new(sample, style)).unwrap();
                    }
                    page.draw_text(word, &text(13), (636, at)).unwrap();
                    line += 1;
                }
            }
            page.present().unwrap();
        }
        svg
    }
}

const RATES: [u32; 3] = [30, 60, 144];

fn named(word: &str, points: Points) -> (String, Points) {
    (word.to_owned(), points)
}

fn last((_, points): &(String, Points)) -> f64 {
    points.last().unwrap().1
}

fn highest((_, points): &(String, Points)) -> f64 {
    points.iter().map(|at| at.1).fold(f64::MIN, f64::max)
}

fn level(pieces: &[([f32; 2], [f32; 2])]) -> Level<Vec2> {
    let mut builder = Level::builder();
    for (from, to) in pieces {
        builder.add(Piece::block(Vec2::from(*from), Vec2::from(*to)).unwrap());
    }
    builder.build().unwrap()
}

fn body(tuning: Tuning, at: Vec2, level: &Level<Vec2>) -> Controller<Vec2> {
    let mut body = Controller::new(tuning, Hull::capsule(0.35, 1.8).unwrap(), at);
    body.find_footing(level);
    body
}

#[test]
fn gravity_that_piles_up() {
    const DT: f64 = 1.0 / 60.0;
    let tuning = Tuning::default();
    let gravity = f64::from(tuning.gravity());
    // Pulled down in every tick, and put back onto the floor.
    let stood = (2.0 * gravity).min(25.0);
    let wrong =
        (0..24).map(|tick| (f64::from(tick) * DT, (stood + f64::from(tick) * DT * gravity).min(25.0)));
    let place = level(&[([-9.0, -1.0], [0.0, 0.0])]);
    let mut walker = body(tuning, Vec2::new(-1.0, 0.0), &place);
    for _ in 0..120 {
        walker.tick(&Intent::default(), &place, DT as f32);
    }
    let mut right = Points::new();
    while right.len() < 24 {
        walker.tick(&Intent::steering(1.0, 0.0), &place, DT as f32);
        if !right.is_empty() || !walker.state().footing.is_firm() {
            right.push((right.len() as f64 * DT, f64::from(-walker.velocity().y)));
        }
    }
    assert!(right[0].1 < 0.5 && stood > 20.0, "{}", right[0].1);
    Figure {
        name: "body",
        title: "Off an edge after two seconds of standing",
        across: "time since the edge (s)",
        up: "speed downward (m/s)",
        wrong: vec![named("gravity piles up", wrong.collect())],
        right: vec![named("here", right)],
    }
    .check();
}

#[test]
fn two_keys_that_are_faster_than_one() {
    const DT: f32 = 1.0 / 60.0;
    let mut tuning = Tuning { steering: Steering::Plan, ..Tuning::default() };
    tuning.walk.speed = 5.0;
    let place = Level::<Vec2>::builder().build().unwrap();
    let mut walker = Controller::new(tuning, Hull::ball(0.4).unwrap(), Vec2::ZERO);
    let diagonal = |tick: i32| (f64::from(tick) / 60.0, f64::from(tick) / 60.0 * 5.0 * 2f64.sqrt());
    let right: Points = (0..=60)
        .map(|tick| {
            if tick > 0 {
                walker.tick(&Intent::steering(1.0, 1.0), &place, DT);
            }
            (f64::from(tick) / 60.0, f64::from(walker.position().length()))
        })
        .collect();
    assert!((4.7..5.0).contains(&right[60].1), "{}", right[60].1);
    Figure {
        name: "walking",
        title: "Two keys at once, at 5 m/s",
        across: "time (s)",
        up: "distance (m)",
        wrong: vec![named("each key adds its own", (0..=60).map(diagonal).collect())],
        right: vec![named("here", right)],
    }
    .check();
}

#[test]
fn jumps_that_depend_on_the_tick_rate() {
    let mut tuning = Tuning::default();
    (tuning.jump.height, tuning.jump.rise_time) = (1.8, 0.36);
    let (gravity, up) = (f64::from(tuning.gravity()), f64::from(tuning.take_off_speed()));
    let place = level(&[([-9.0, -1.0], [9.0, 0.0])]);
    let (mut wrong, mut right) = (Vec::new(), Vec::new());
    for rate in RATES {
        let dt = 1.0 / f64::from(rate);
        let ticks = (0.72 * f64::from(rate)) as u32;
        let (mut speed, mut height) = (up, 0.0);
        let naive = (0..=ticks).map(|tick| {
            let at = (f64::from(tick) * dt, height);
            speed -= gravity * dt;
            height = f64::max(height + speed * dt, 0.0);
            at
        });
        wrong.push((format!("speed, then place: {rate}/s"), naive.collect::<Points>()));
        let mut jumper = body(tuning, Vec2::ZERO, &place);
        let hold = Intent::default().holding(Actions::JUMP);
        let ours = (0..=ticks).map(|tick| {
            if tick > 0 {
                let intent = if tick == 1 { hold.pressing(Actions::JUMP) } else { hold };
                jumper.tick(&intent, &place, dt as f32);
            }
            (f64::from(tick) * dt, f64::from(jumper.position().y))
        });
        right.push((format!("here: {rate}/s"), ours.collect::<Points>()));
    }
    assert!(wrong[0..1].iter().all(|curve| highest(curve) < 1.69));
    assert!(
        right.iter().all(|curve| (highest(curve) - 1.8).abs() < 0.012),
        "{:?}",
        right.iter().map(highest).collect::<Vec<_>>()
    );
    Figure {
        name: "jumping",
        title: "A jump of 1.8 m at 30, 60 and 144 ticks a second",
        across: "time (s)",
        up: "height (m)",
        wrong,
        right,
    }
    .check();
}

#[test]
fn standing_that_creeps_down_a_slope() {
    let slope = 30f64.to_radians();
    let dt = 1.0 / 60.0;
    let gravity = f64::from(Tuning::default().gravity());
    // Gravity for a tick, then out of the ground along its normal: the rest points downhill.
    let creep = 0.5 * gravity * dt * dt * slope.sin();
    let mut builder = Level::builder();
    let rise = 9.0 * slope.tan() as f32;
    builder.add(Piece::polygon(&[Vec2::ZERO, Vec2::new(9.0, 0.0), Vec2::new(9.0, rise)]).unwrap());
    let place = builder.build().unwrap();
    let mut stander = body(Tuning::default(), Vec2::new(5.0, 5.0 * slope.tan() as f32 + 0.3), &place);
    for _ in 0..30 {
        stander.tick(&Intent::default(), &place, dt as f32);
    }
    let start = stander.position();
    let right: Points = (0..=240)
        .map(|tick| {
            stander.tick(&Intent::default(), &place, dt as f32);
            (f64::from(tick) * dt, f64::from((stander.position() - start).length()))
        })
        .collect();
    assert!(right.iter().all(|at| at.1 == 0.0));
    let wrong = (0..=240).map(|tick| (f64::from(tick) * dt, f64::from(tick) * creep));
    Figure {
        name: "slopes",
        title: "Standing on a slope of 30°",
        across: "time (s)",
        up: "crept (m)",
        wrong: vec![named("out along the normal", wrong.collect())],
        right: vec![named("here", right)],
    }
    .check();
}

#[test]
fn dashes_of_whole_ticks() {
    let mut tuning = Tuning::default();
    (tuning.dash.charges, tuning.dash.distance, tuning.dash.active) = (1.0, 4.0, 0.16);
    tuning.dash.end_speed = 0.0;
    let place = level(&[([-9.0, -1.0], [99.0, 0.0])]);
    let rates: Vec<u32> = (24..=144).step_by(4).collect();
    let wrong = rates.iter().map(|&rate| {
        let ticks = (0.16 * f64::from(rate)).ceil();
        (f64::from(rate), 25.0 * ticks / f64::from(rate))
    });
    let right: Points = rates
        .iter()
        .map(|&rate| {
            let dt = 1.0 / rate as f32;
            let mut dasher = body(tuning, Vec2::ZERO, &place);
            let from = dasher.position().x;
            dasher.tick(&Intent::default().pressing(Actions::DASH), &place, dt);
            for _ in 0..rate {
                dasher.tick(&Intent::default(), &place, dt);
            }
            let to = dasher.position().x;
            (f64::from(rate), f64::from(to - from))
        })
        .collect();
    assert!(right.iter().all(|at| (at.1 - 4.0).abs() < 0.02), "{right:?}");
    Figure {
        name: "moves",
        title: "A dash of 4 m in 0.16 s",
        across: "ticks a second",
        up: "distance (m)",
        wrong: vec![named("a speed, in whole ticks", wrong.collect())],
        right: vec![named("here", right)],
    }
    .check();
}

#[test]
fn riders_that_leave_their_lift() {
    let dt = 1.0 / 60.0;
    let gravity = f64::from(Tuning::default().gravity());
    let lift = |time: f64| 2.0 * (1.0 - (2.0 * time).cos());
    // Falls by itself, and is put onto the deck where that has come up to it.
    let (mut feet, mut speed) = (0.0f64, 0.0);
    let wrong: Points = (0..=200)
        .map(|tick| {
            let time = f64::from(tick) * dt;
            // The deck of the tick before: the rider is moved first.
            let deck = lift(time - dt);
            speed -= gravity * dt;
            feet += speed * dt;
            if feet <= deck {
                (feet, speed) = (deck, 0.0);
            }
            (time, 1000.0 * (feet - lift(time)))
        })
        .collect();
    let key = |tick: i32| {
        let time = f64::from(tick) * dt;
        Keyframe::new(time as f32, Vec2::Y * lift(time) as f32)
    };
    let mut builder = Level::builder();
    let carrier = builder.add_carrier(Carrier::on_path((0..=240).map(key).collect(), PathEnd::Stop));
    builder.add(Piece::block(Vec2::new(-2.0, -0.3), Vec2::new(2.0, 0.0)).unwrap().riding(carrier));
    let mut place = builder.build().unwrap();
    let mut rider = body(Tuning::default(), Vec2::ZERO, &place);
    let right: Points = (0..=200)
        .map(|tick| {
            if tick > 0 {
                place.advance(dt as f32);
                rider.tick(&Intent::default(), &place, dt as f32);
            }
            let deck = place.carrier(carrier).ride().to.offset().y;
            (f64::from(tick) * dt, 1000.0 * f64::from(rider.position().y - deck))
        })
        .collect();
    assert!(right.iter().all(|at| (4.0..6.0).contains(&at.1)), "{right:?}");
    assert!(wrong.iter().any(|at| at.1 < -40.0));
    Figure {
        name: "platforms",
        title: "On a lift that goes up and down: the gap under the feet",
        across: "time (s)",
        up: "gap (mm)",
        wrong: vec![named("moved first, and fallen", wrong)],
        right: vec![named("here: the clearance", right)],
    }
    .check();
}

#[test]
fn turning_by_a_fraction_a_tick() {
    let place = Level::<Vec3>::builder().build().unwrap();
    let mut tuning = Tuning { steering: Steering::View, ..Tuning::default() };
    tuning.turn.half_life = 0.1;
    let (mut wrong, mut right) = (Vec::new(), Vec::new());
    for rate in RATES {
        let dt = 1.0 / f64::from(rate);
        let ticks = (0.6 * f64::from(rate)) as u32;
        let mut angle = 0.0;
        let naive = (0..=ticks).map(|tick| {
            let at = (f64::from(tick) * dt, angle);
            angle += (90.0 - angle) * 0.1;
            at
        });
        wrong.push((format!("a tenth a tick: {rate}/s"), naive.collect::<Points>()));
        let mut turner = Controller::new(tuning, Hull::capsule(0.35, 1.8).unwrap(), Vec3::ZERO);
        turner.tick(&Intent::steering(0.0, 0.01), &place, dt as f32);
        let look = Look { yaw: -std::f32::consts::FRAC_PI_2, pitch: 0.0 };
        let ours = (0..=ticks).map(|tick| {
            if tick > 0 {
                turner.tick(&Intent { look, ..Intent::steering(0.0, 1.0) }, &place, dt as f32);
            }
            let facing = turner.state().facing;
            (f64::from(tick) * dt, f64::from(Vec3::NEG_Z.angle_between(facing)).to_degrees())
        });
        right.push((format!("half in 0.1 s: {rate}/s"), ours.collect::<Points>()));
    }
    let apart = |curves: &[(String, Points)]| last(&curves[2]) - last(&curves[0]);
    assert!(apart(&wrong) > 10.0 && apart(&right).abs() < 0.5, "{} {}", apart(&wrong), apart(&right));
    Figure {
        name: "steering",
        title: "Turning by 90° at 30, 60 and 144 ticks a second",
        across: "time (s)",
        up: "turned (°)",
        wrong,
        right,
    }
    .check();
}

#[test]
fn presses_that_are_lost_between_ticks() {
    let mut sampler = Sampler::new(Bindings::default());
    let space = Key::named("Space").unwrap();
    let (mut polled, mut sampled) = (0, 0);
    let (mut wrong, mut right) = (vec![(0.0, 0.0)], vec![(0.0, 0.0)]);
    // Taps of 12 ms, every 0.213 s, and ticks of 16.7 ms that ask whether the key is down.
    let taps: Vec<(f64, f64)> =
        (0..40).map(|tap| f64::from(tap) * 0.213 + 0.004).map(|at| (at, at + 0.012)).collect();
    let mut said = 0;
    let mut was_down = false;
    for tick in 1..=520 {
        let now = f64::from(tick) / 60.0;
        while said < 2 * taps.len() {
            let (down, up) = taps[said / 2];
            let (at, press) = if said % 2 == 0 { (down, Press::Down) } else { (up, Press::Up) };
            if at > now {
                break;
            }
            sampler.event(Duration::from_secs_f64(at), DeviceEvent::Key(space, press));
            said += 1;
        }
        let is_down = taps.iter().any(|(down, up)| (*down..*up).contains(&now));
        polled += i32::from(is_down && !was_down);
        was_down = is_down;
        sampled += i32::from(sampler.tick(Duration::from_secs_f64(now)).pressed.contains(Actions::JUMP));
        wrong.push((now, f64::from(polled)));
        right.push((now, f64::from(sampled)));
    }
    assert_eq!(sampled, 40);
    assert!(polled < 36, "{polled}");
    Figure {
        name: "input",
        title: "Forty taps of 12 ms",
        across: "time (s)",
        up: "presses seen",
        wrong: vec![named("is the key down now?", wrong)],
        right: vec![named("here: events, with times", right)],
    }
    .check();
}

#[test]
fn animations_that_flicker_down_a_stair() {
    let dt = 1.0 / 60.0;
    let gravity = f64::from(Tuning::default().gravity());
    let stair: Vec<([f32; 2], [f32; 2])> = (0..14)
        .map(|step| step as f32)
        .map(|step| ([step * 0.5, -9.0], [step * 0.5 + 0.5, -0.2 * step]))
        .chain([([-6.0, -9.0], [0.0, 0.0]), ([7.0, -9.0], [20.0, -2.8])])
        .collect();
    let ground = |x: f64| if x < 0.0 { 0.0 } else { -0.2 * (x / 0.5).floor().min(14.0) };
    let (mut x, mut y, mut speed, mut changes, mut was) = (-2.0, 0.0f64, 0.0, 0, true);
    let wrong: Points = (0..=150)
        .map(|tick| {
            x += 4.0 * dt;
            speed -= gravity * dt;
            y += speed * dt;
            let on_ground = y <= ground(x);
            if on_ground {
                (y, speed) = (ground(x), 0.0);
            }
            changes += i32::from(on_ground != was);
            was = on_ground;
            (f64::from(tick) * dt, f64::from(changes))
        })
        .collect();
    let place = level(&stair);
    let mut walker = body(Tuning::default(), Vec2::new(-2.0, 0.0), &place);
    for _ in 0..10 {
        walker.tick(&Intent::steering(1.0, 0.0), &place, dt as f32);
    }
    let (mut gait, mut changes) = (walker.pose(1.0).gait, 0);
    let right: Points = (0..=150)
        .map(|tick| {
            walker.tick(&Intent::steering(1.0, 0.0), &place, dt as f32);
            let now = walker.pose(1.0).gait;
            changes += i32::from(now != gait);
            gait = now;
            (f64::from(tick) * dt, f64::from(changes))
        })
        .collect();
    assert_eq!(changes, 0);
    assert!(wrong[150].1 > 20.0 && walker.position().y < -2.7, "{} {}", wrong[150].1, walker.position());
    Figure {
        name: "telling",
        title: "Down a stair: changes of the animation",
        across: "time (s)",
        up: "changes",
        wrong: vec![named("on the ground now?", wrong)],
        right: vec![named("here: the gait", right)],
    }
    .check();
}
