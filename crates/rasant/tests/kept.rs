//! Writing and reading back: names, and all plain data through serde.

use rasant::glam::{Vec2, Vec3};
use rasant::input::PadButton;
use rasant::moves::{Heading, Jump};
use rasant::state::{FootingKind, Name, NameError, Owner};
use rasant::{Actions, Departure, Key, Mode, Phase, Steering};

#[test]
fn named_values_print_and_parse_their_names() {
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
    use rasant::level::Placement;
    use rasant::{
        Bindings, Carrier, CarrierId, Controller, Event, Geometry, Intent, Keyframe, Level, Mutes, PathEnd,
        Piece, Plan, State, Surroundings, Tape, Tuning, Vector,
    };

    fn there_and_back<T>(one: &T) -> T
    where
        T: serde::Serialize + serde::de::DeserializeOwned,
    {
        let text = serde_json::to_string(one).unwrap();
        serde_json::from_str(&text).unwrap_or_else(|error| panic!("{error}: {text}"))
    }

    /// A lift that the host sets, a barge on a path, and the marks of a game.
    fn quay<V: Geometry>() -> (Level<V>, CarrierId) {
        let corner = |x, y| V::from_array([x, y, -3.0]);
        let mut builder = Level::builder();
        builder.add(Piece::block(corner(-9.0, -1.0), V::from_array([9.0, 0.0, 3.0])).unwrap());
        let lift = builder.add_carrier(Carrier::set_by_host());
        builder.add(Piece::block(corner(-1.0, 0.0), V::from_array([1.0, 0.2, 3.0])).unwrap().riding(lift));
        let path = [0.0, 3.0].map(|time| Keyframe::new(time, V::RIGHT * time));
        let barge = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::BackAndForth));
        builder.add(Piece::block(corner(2.0, 0.0), V::from_array([4.0, 0.4, 3.0])).unwrap().riding(barge));
        let mut level = builder.build().unwrap();
        level.set_marks(7, vec![V::UP * 4.0]);
        (level, lift)
    }

    fn goes_on_after_loading<V: Geometry + serde::Serialize + serde::de::DeserializeOwned>(rate: u32) {
        let dt = 1.0 / rate as f32;
        let (mut level, lift) = quay::<V>();
        let mut body = Run::new(Tuning::default(), capsule(), V::UP * 0.3, rate).body;
        let tick = |body: &mut Controller<V>, level: &mut Level<V>, number: u32| {
            // Up and down, to 13 m, turning.
            let phase = number as f32 * dt * 0.7;
            let height = 13.0 * (0.5 - 0.5 * phase.cos());
            level.place(lift, Placement::new(V::UP * height, 0.2 * phase.sin()));
            level.advance(dt);
            let intent = if number.is_multiple_of(3 * rate) {
                Intent::default().pressing(rasant::Actions::JUMP)
            } else {
                Intent::default()
            };
            body.tick(&intent, level, dt);
        };
        for number in 0..4 * rate {
            tick(&mut body, &mut level, number);
        }
        assert!(body.position().height() > 9.0, "it rides: {:?}", body.position());
        // A new program loads the file, and builds the level again.
        let text = serde_json::to_string(&(body.state(), level.snapshot())).unwrap();
        let (state, snapshot): (State<V>, rasant::level::LevelSnapshot<V>) =
            serde_json::from_str(&text).unwrap();
        let mut loaded = quay::<V>().0;
        loaded.set_marks(7, Vec::new());
        loaded.restore(&snapshot);
        assert_eq!(loaded.mark(7, 0), Some(V::UP * 4.0));
        let mut other = Run::new(Tuning::default(), capsule(), V::ZERO, rate).body;
        other.restore(state);
        for number in 4 * rate..12 * rate {
            tick(&mut body, &mut level, number);
            tick(&mut other, &mut loaded, number);
            assert_eq!(body.state(), other.state(), "tick {number} at {rate}/s");
            assert_eq!(level.snapshot(), loaded.snapshot(), "tick {number} at {rate}/s");
        }
    }

    #[test]
    fn a_loaded_world_continues_with_the_same_bits() {
        for rate in [24, 60, 144] {
            goes_on_after_loading::<Vec2>(rate);
            goes_on_after_loading::<rasant::glam::Vec3>(rate);
        }
    }

    /// Everything that was added since the level was built is in its snapshot: surfaces, carriers on
    /// carriers about any axis, round pieces and meshes.
    #[test]
    fn additions_are_loaded_with_the_same_bits() {
        use rasant::glam::Vec3;
        use rasant::level::{Easing, LevelSnapshot, MeshShape};
        let (mut level, lift) = quay::<Vec3>();
        let ice = level.add_surface(rasant::Surface { traction: 0.3, ..rasant::Surface::default() }).unwrap();
        let keys = [(0.0, 0.0), (2.0, 0.3)].map(|(time, angle)| {
            Keyframe::new(time, Vec3::Y * 0.5).turned_about(Vec3::Z, angle).eased(Easing::InOut)
        });
        let tilting = Carrier::on_path(keys.to_vec(), PathEnd::BackAndForth).riding(lift);
        let tilting = level.add_carrier(tilting).unwrap();
        let corners = [(-2.0, -2.0), (-2.0, 2.0), (2.0, -2.0)].map(|(x, z)| Vec3::new(x, 0.0, z));
        let mesh = Piece::mesh(MeshShape::new(&corners, &[[0, 1, 2]]).unwrap()).made_of(ice);
        level.add(mesh.riding(tilting)).unwrap();
        level
            .add(Piece::capsule(Vec3::new(-5.0, 1.0, 0.0), Vec3::new(-3.0, 1.2, 0.0), 0.4).unwrap())
            .unwrap();
        let removed = level.add(Piece::ball(Vec3::ZERO, 1.0).unwrap()).unwrap();
        level.remove(removed);
        let mut body = Run::new(Tuning::default(), capsule(), Vec3::new(-1.0, 0.7, -1.0), 60).body;
        let tick = |body: &mut Controller<Vec3>, level: &mut Level<Vec3>, number: u32| {
            let phase = number as f32 / 60.0;
            level.place(
                lift,
                Placement::turned_about(Vec3::Y * phase.sin().abs(), Vec3::X, 0.1 * phase.sin()),
            );
            level.advance(1.0 / 60.0);
            let steer = if number % 200 < 40 { Intent::steering(0.3, 0.1) } else { Intent::default() };
            body.tick(&steer, level, 1.0 / 60.0);
        };
        (0..130).for_each(|number| tick(&mut body, &mut level, number));
        let text = serde_json::to_string(&(body.state(), level.snapshot())).unwrap();
        let (state, snapshot): (State<Vec3>, LevelSnapshot<Vec3>) = serde_json::from_str(&text).unwrap();
        let mut loaded = quay::<Vec3>().0;
        loaded.restore(&snapshot);
        let mut other = Run::new(Tuning::default(), capsule(), Vec3::ZERO, 60).body;
        other.restore(state);
        for number in 130..600 {
            tick(&mut body, &mut level, number);
            tick(&mut other, &mut loaded, number);
            assert_eq!(body.state(), other.state(), "tick {number}");
        }
        assert_eq!(level.snapshot(), loaded.snapshot());
        // Ids go on from where they were.
        let [one, two] =
            [&mut level, &mut loaded].map(|level| level.add(Piece::ball(Vec3::Y * 9.0, 1.0).unwrap()));
        assert_eq!(one, two);
    }

    #[test]
    fn invalid_snapshots_of_levels_are_refused() {
        let (level, _) = quay::<Vec2>();
        let text = serde_json::to_string(&level.snapshot()).unwrap();
        for (old, new, expected) in [
            ("\"right\":[1.0,0.0]", "\"right\":[7.0,0.0]", "axes of length 1"),
            ("\"up\":[0.0,1.0]", "\"up\":[1.0,0.0]", "at right angles"),
            ("\"7\":[[0.0,4.0]]", "\"7\":[[1e300,4.0]]", "a mark is not finite"),
            ("\"time\":0.0", "\"tick\":0.0", "time"),
        ] {
            assert!(text.contains(old), "{old} is not in {text}");
            let wrong =
                serde_json::from_str::<rasant::level::LevelSnapshot<Vec2>>(&text.replacen(old, new, 1));
            let error = wrong.unwrap_err().to_string();
            assert!(error.contains(expected), "{new}: {error}");
        }
    }

    /// Data that is read is checked like data that is constructed.
    #[test]
    fn invalid_data_is_refused_with_what_was_expected() {
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
        let error = refused(&Mutes::ALL, "7", "9");
        assert!(error.contains("the mutes are 9"), "{error}");
    }

    /// The next tick repairs a state whose directions are zero.
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
