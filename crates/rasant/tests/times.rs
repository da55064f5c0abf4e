//! Times last as long as they say, at every rate and for hours.

use crate::common::{RATES, Run, capsule, floor};
use rasant::glam::{Vec2, Vec3};
use rasant::moves::{Dash, Jump};
use rasant::state::Name;
use rasant::state::Span;
use rasant::{Actions, Event, Geometry, Intent, Phase, Piece, Plan, Refusal, Tuning};

/// Rates whose ticks are no round number of anything.
const ODD_RATES: [f32; 6] = [23.976, 30.0, 59.94, 61.7, 144.0, 240.0];

#[test]
fn ticks_add_up_to_hours_without_drift() {
    fn check<V: Geometry>(rate: f32, seconds: f64) {
        let level = floor::<V>(20.0);
        let mut run = Run::new(Tuning::default(), capsule(), V::ZERO, 60);
        run.body.find_footing(&level);
        let dt = 1.0 / rate;
        let ticks = (seconds * f64::from(rate)) as u32;
        for _ in 0..ticks {
            run.body.tick(&Intent::default(), &level, dt);
        }
        let events = f64::from(run.body.state().animation.gait_age.seconds());
        let all = f64::from(ticks) * f64::from(dt);
        assert!((events - all).abs() < 1e-3, "{events} of {all} s at {rate}");
    }
    check::<Vec2>(60.0, 3600.0);
    check::<Vec3>(240.0, 3600.0);
    for rate in ODD_RATES {
        check::<Vec2>(rate, 700.0);
        check::<Vec3>(rate, 300.0);
    }
}

#[test]
fn dashes_come_back_after_their_time_to_within_a_tick_again_and_again() {
    for rate in ODD_RATES {
        for recharge in [0.48f32, 3.1, 600.0] {
            let level = floor::<Vec2>(40.0);
            let mut tuning = Tuning::default();
            for (path, number) in [
                ("dash.charges", 9.0),
                ("dash.recharge_time", recharge),
                ("dash.from_ground", 0.0),
                ("dash.cooldown", 0.0),
                ("dash.active", 0.05),
                ("dash.distance", 0.1),
            ] {
                tuning.set(path, number).unwrap();
            }
            let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
            run.body.find_footing(&level);
            let dt = 1.0 / rate;
            let (mut begun, mut since, mut seen) = (None, 0u32, 0);
            let times = if recharge > 100.0 { 1 } else { 3 };
            let mut left = 9;
            for tick in 0u32.. {
                // Three at once.
                let presses = left > 6 && seen == 0 && run.body.state().maneuver.is_none();
                let intent =
                    if presses { Intent::default().pressing(Actions::DASH) } else { Intent::default() };
                run.body.tick(&intent, &level, dt);
                let now = run.body.state().memory::<Dash>().left(&tuning);
                if now < left {
                    begun.get_or_insert(tick);
                }
                if now > left {
                    seen += 1;
                    // The first is used in the tick that begins the waiting.
                    since = tick - begun.unwrap();
                    let (after, asked) =
                        (f64::from(since) * f64::from(dt), f64::from(recharge) * f64::from(seen));
                    assert!(
                        (after - asked).abs() < f64::from(dt) + 1e-4,
                        "dash {seen} came back after {after} s instead of {asked} at {rate}"
                    );
                    if seen == times {
                        break;
                    }
                }
                left = now;
            }
            assert!(since > 0);
        }
    }
}

#[test]
fn after_a_maneuver_the_next_waits_for_the_reported_time() {
    for rate in ODD_RATES {
        for rest in [0.0f32, 0.02, 0.3, 0.48, 7.0, 60.0] {
            let level = floor::<Vec3>(40.0);
            let mut tuning = Tuning::default();
            tuning.set("dash.cooldown", rest).unwrap();
            tuning.set("dash.active", 0.2).unwrap();
            tuning.set("dash.charges", 1.0).unwrap();
            let mut run = Run::new(tuning, capsule(), Vec3::ZERO, 60);
            run.body.find_footing(&level);
            let dt = 1.0 / rate;
            let press = Intent::default().pressing(Actions::DASH);
            let (mut over, mut tick) = (None, 0u32);
            run.body.tick(&press, &level, dt);
            loop {
                tick += 1;
                let steer = if over.is_some() { press } else { Intent::default() };
                let events = run.body.tick(&steer, &level, dt);
                let phase = |chosen| {
                    events
                        .iter()
                        .any(|event| matches!(event, Event::ManeuverPhase { phase, .. } if *phase == chosen))
                };
                if phase(Phase::Active) && over.is_some() {
                    break;
                }
                if phase(Phase::Cooldown) {
                    over = Some(tick);
                }
                for event in events {
                    if let Event::Refused { what: Refusal { missed_by: Some(left), .. } } = event {
                        assert!(*left > 0.0 && *left <= rest + dt, "{left} of {rest} s");
                    }
                }
            }
            let (began, least) = (f64::from(tick) * f64::from(dt), 0.2 + f64::from(rest));
            assert!(over.is_some_and(|over| over < tick), "it was over before");
            assert!(
                began > least - 1e-3 && began < least + f64::from(dt) + 1e-4,
                "again {began} s after it began, with {rest} s of cooldown at {rate}"
            );
        }
    }
}

#[test]
fn coyote_time_is_the_same_to_within_a_tick_at_every_rate() {
    for rate in RATES {
        for coyote in [0.05f32, 0.12, 0.5, 2.0] {
            let mut builder = rasant::Level::<Vec2>::builder();
            builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(0.0, 0.0)).unwrap());
            let level = builder.build().unwrap();
            let mut tuning = Tuning::default();
            tuning.set("jump.coyote_time", coyote).unwrap();
            tuning.set("jump.air_count", 0.0).unwrap();
            let dt = 1.0 / rate as f32;
            let jumps_after = |ticks: u32| {
                let mut run = Run::new(tuning, capsule(), Vec2::new(-0.5, 0.0), rate);
                run.body.find_footing(&level);
                let steer = Intent::steering(1.0, 0.0);
                while run.count("left-ground") == 0 {
                    run.tick(&level, steer);
                }
                // What of the tick is over since the edge.
                let off = run.body.state().air.unwrap().time.seconds();
                for _ in 0..ticks {
                    run.tick(&level, steer);
                }
                run.tick(&level, steer.pressing(Actions::JUMP));
                (off + ticks as f32 * dt, run.jumps() == [Jump::LATE])
            };
            let most = (coyote / dt) as u32 + 3;
            for ticks in 0..most {
                let (after, jumps) = jumps_after(ticks);
                assert_eq!(jumps, after <= coyote + 2e-5, "{after} s of {coyote} at {rate}");
            }
        }
    }
}

#[test]
fn a_span_equals_its_seconds_and_accepts_any_number() {
    for seconds in [0.0f32, 0.01, 1.0 / 3.0, 59.94, 3599.5, 30_000.0] {
        let span = Span::of(seconds);
        assert!((span.seconds() - seconds).abs() <= 4e-6 + seconds * f32::EPSILON, "{seconds}");
        assert!(span.reaches(seconds) && span.is_within(seconds));
        assert!(!span.reaches(seconds + 1e-2) && span.reaches(seconds - 1e-2));
    }
    for nothing in [-1.0, f32::NAN, f32::NEG_INFINITY] {
        assert_eq!(Span::of(nothing), Span::ZERO);
    }
    let mut longest = Span::of(f32::INFINITY);
    longest += longest;
    assert!(longest.seconds() > 9.0 * 3600.0);
    let mut nothing = Span::ZERO;
    nothing -= longest;
    assert!(nothing.is_over());
}

#[test]
fn a_hosts_own_maneuver_of_a_minute_lasts_a_minute() {
    for rate in ODD_RATES {
        let level = floor::<Vec2>(20.0);
        let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
        run.body.find_footing(&level);
        let plan = Plan { startup: 20.0, active: 20.0, distance: 2.0, recovery: 20.0, ..Plan::default() };
        run.body.begin(Name::new("own-1"), plan, Vec2::X);
        let dt = 1.0 / rate;
        let mut ticks = 0u32;
        while ticks == 0 || run.body.state().maneuver.is_some() {
            run.body.tick(&Intent::default(), &level, dt);
            ticks += 1;
        }
        let lasted = f64::from(ticks) * f64::from(dt);
        assert!((lasted - 60.0).abs() < f64::from(dt) + 1e-3, "{lasted} s at {rate}");
    }
}
