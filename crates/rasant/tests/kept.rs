//! What is written down and read back: names, and all plain data through serde.

use rasant::glam::{Vec2, Vec3};
use rasant::input::PadButton;
use rasant::moves::{Heading, Jump};
use rasant::state::{FootingKind, Name, NameError, Owner};
use rasant::{Actions, Departure, Key, Mode, Phase, Steering};

#[test]
fn what_has_a_name_prints_and_reads_it() {
    fn there_and_back<T>(all: &[T])
    where
        T: std::fmt::Display + std::str::FromStr<Err = NameError> + PartialEq + std::fmt::Debug + Copy,
    {
        for &one in all {
            assert_eq!(one.to_string().parse::<T>().as_ref(), Ok(&one));
        }
        assert!("no such thing at all".parse::<T>().is_err());
    }
    there_and_back(&[Mode::Grounded, Mode::Move(Name::new("wall-slide")), Mode::Move(Name::new("swing"))]);
    there_and_back(&[FootingKind::None, FootingKind::Firm, FootingKind::Steep]);
    there_and_back(&[Owner::Nobody, Owner::Look, Owner::Move]);
    there_and_back(&[Jump::LATE, Name::new("swim")]);
    there_and_back(&[Departure::Edge, Departure::Placed]);
    there_and_back(&[Phase::Startup, Phase::Cooldown]);
    there_and_back(&[Key::named("KeyD").unwrap(), Key::named("Space").unwrap()]);
    there_and_back(&[PadButton::South, PadButton::LeftTrigger]);
    there_and_back(&Steering::NAMES.map(|(_, steering)| steering));
    assert_eq!(Heading::Left.vector::<Vec2>(), -Vec2::X);
    assert_eq!(Heading::Forward.vector::<Vec3>(), -Vec3::Z);
    assert!(Actions::named("own-28").is_none());
    for text in ["", "twelve bytes", "a\0b"] {
        assert!(matches!(text.parse::<Name>(), Err(NameError::Shape(_))), "{text:?}");
    }
}

#[cfg(feature = "serde")]
mod by_serde {
    use super::*;
    use crate::common::{Run, capsule, floor};
    use rasant::{Bindings, Event, Intent, Locks, Plan, State, Tape, Tuning, Vector};

    fn there_and_back<T>(one: &T) -> T
    where
        T: serde::Serialize + serde::de::DeserializeOwned,
    {
        let text = serde_json::to_string(one).unwrap();
        serde_json::from_str(&text).unwrap_or_else(|error| panic!("{error}: {text}"))
    }

    /// What is read is checked as what code makes is.
    #[test]
    fn what_cannot_be_is_refused_with_what_was_expected() {
        fn refused<T: serde::Serialize + serde::de::DeserializeOwned>(
            one: &T,
            old: &str,
            new: &str,
        ) -> String {
            let text = serde_json::to_string(one).unwrap();
            assert!(text.contains(old), "{old} is not in {text}");
            match serde_json::from_str::<T>(&text.replacen(old, new, 1)) {
                Ok(_) => panic!("{new} was taken"),
                Err(error) => error.to_string(),
            }
        }
        let hull = capsule();
        for (old, new, expected) in [
            ("\"radius\":0.35", "\"radius\":-0.35", "radius is -0.35, expected a number above 0"),
            ("\"height\":1.8", "\"height\":0.1", "height"),
            ("\"clearance\":0.005", "\"clearance\":0.0", "clearance is 0, expected a number above 0"),
            ("\"origin\":0.0", "\"origin\":-1.0", "origin"),
        ] {
            let error = refused(&hull, old, new);
            assert!(error.contains(expected), "{error}");
        }
        let many = format!("\"zones\":[{}]", vec!["1"; 200].join(","));
        let error = refused(&State::at(Vec2::ZERO), "\"zones\":[]", &many);
        assert!(error.contains("200") && error.contains("at most 10 zones"), "{error}");
        let error = refused(&Tuning::default(), "\"rise_time\":0.36", "\"rise_time\":-0.36");
        assert!(error.contains("`jump.rise_time` is -0.36, expected 0.02 to 10 s"), "{error}");
        let error = refused(&Locks::ALL, "7", "9");
        assert!(error.contains("locks are 9"), "{error}");
    }

    /// A state whose directions are none is mended at the door of the next tick.
    #[test]
    fn a_body_without_an_up_stands_up_at_the_next_tick() {
        let level = floor::<Vec2>(20.0);
        for up in [Vec2::ZERO, Vec2::splat(f32::NAN), Vec2::new(0.0, 3.0)] {
            let mut run = Run::new(Tuning::default(), capsule(), Vec2::UP, 60);
            let mut state = *run.body.state();
            state.up = up;
            run.body.restore(state);
            run.run(&level, 1.0, Intent::default());
            let state = run.body.state();
            assert!((state.up.length() - 1.0).abs() < 1e-3 && state.footing.is_firm(), "{up}: {state:?}");
        }
    }

    /// Numbers of a plan that are none count as 0.
    #[test]
    fn a_plan_of_broken_numbers_begins_and_ends() {
        let level = floor::<Vec2>(20.0);
        for broken in [f32::NAN, f32::INFINITY, -1.0, f32::NEG_INFINITY] {
            let mut run = Run::new(Tuning::default(), capsule(), Vec2::ZERO, 60);
            run.body.find_footing(&level);
            let plan = Plan {
                startup: broken,
                active: 0.2,
                distance: broken,
                curve: broken,
                height: broken,
                ..Plan::default()
            };
            run.body.begin(Name::new("own-1"), plan, Vec2::X);
            run.run(&level, 1.0, Intent::default());
            assert!(run.body.state().maneuver.is_none() && run.body.state().is_finite(), "{broken}");
        }
    }

    #[test]
    fn states_events_tapes_bindings_and_tunings_are_written_and_read_back() {
        let mut tuning = Tuning::default();
        tuning.glide.fall_speed = 2.0;
        tuning.dash.charges = 1.0;
        let level = floor::<Vec2>(20.0);
        let mut run = Run::new(tuning, capsule(), Vec2::ZERO, 60);
        let mut tape = Tape::new();
        for tick in 0..200 {
            let intent = Intent::steering((tick as f32 * 0.1).cos(), 0.0);
            let intent =
                if tick % 30 == 0 { intent.pressing(Actions::JUMP) } else { intent.holding(Actions::JUMP) };
            let intent = if tick % 70 == 0 { intent.pressing(Actions::DASH) } else { intent };
            tape.record(intent);
            run.tick(&level, intent);
            let state: State<Vec2> = there_and_back(run.body.state());
            assert_eq!(&state, run.body.state());
        }
        let events: Vec<Event<Vec2>> = run.events.iter().map(|(_, event)| *event).collect();
        assert!(events.len() > 10);
        assert_eq!(there_and_back(&events), events);
        assert_eq!(there_and_back(&tape), tape);
        assert_eq!(there_and_back(&Bindings::default()), Bindings::default());
        assert_eq!(there_and_back(&tuning), tuning);
    }
}
