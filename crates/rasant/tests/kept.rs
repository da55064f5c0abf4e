//! What is written down and read back: names, and all plain data through serde.

use rasant::glam::{Vec2, Vec3};
use rasant::{
    Actions, Departure, FootingKind, Heading, JumpKind, Key, Mode, Name, NameError, Owner, PadButton, Phase,
    Steering,
};

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
    there_and_back(&[Mode::Afoot, Mode::WallSlide, Mode::Move(Name::new("swing"))]);
    there_and_back(&[FootingKind::None, FootingKind::Firm, FootingKind::Steep]);
    there_and_back(&[Owner::Nobody, Owner::Look, Owner::Move]);
    there_and_back(&[JumpKind::Late, JumpKind::Move(Name::new("swim"))]);
    there_and_back(&[Departure::Edge, Departure::Placed]);
    there_and_back(&[Phase::Windup, Phase::Rest]);
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
    use rasant::{Bindings, Event, Intent, State, Tape, Tuning};

    fn there_and_back<T>(one: &T) -> T
    where
        T: serde::Serialize + serde::de::DeserializeOwned,
    {
        let text = serde_json::to_string(one).unwrap();
        serde_json::from_str(&text).unwrap_or_else(|error| panic!("{error}: {text}"))
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
