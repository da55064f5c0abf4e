//! Rollback: a general package's own test of synchronisation plays every frame again from
//! seven frames back, and compares checksums.

use ggrs::{Config, GgrsRequest, PredictRepeatLast, SessionBuilder};
use rasant::animation::Overlay;
use rasant::glam::{Vec2, Vec3};
use rasant::level::LevelSnapshot;
use rasant::{Actions, Controller, Crowd, CrowdBody, Geometry, Hull, Intent, Level, Look, State};
use serde::{Deserialize, Serialize};

use crate::common::lives::{any_intent, any_tuning};
use crate::common::{Dice, capsule, upright_box};
use crate::everything::town;

const DT: f32 = 1.0 / 60.0;
const PLAYERS: usize = 2;
const ACTIONS: [Actions; 5] = [Actions::JUMP, Actions::DASH, Actions::RUN, Actions::CROUCH, Actions::own(1)];

/// What a player sends: small, and the same on every machine.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
struct Sent {
    steer: [i8; 2],
    look: [i16; 2],
    held: u8,
}

impl Sent {
    fn of(intent: &Intent) -> Self {
        let held = ACTIONS.iter().enumerate();
        let bits = held.filter(|(_, action)| intent.held.intersects(**action)).map(|(place, _)| 1 << place);
        Self {
            steer: intent.steer.to_array().map(|part| (part * 100.0) as i8),
            look: [intent.look.yaw, intent.look.pitch].map(|angle| (angle * 5000.0) as i16),
            held: bits.sum(),
        }
    }

    /// The intent, given the actions that were held before.
    fn intent(self, before: Actions) -> Intent {
        let held = ACTIONS.iter().enumerate().filter(|(place, _)| self.held & (1 << place) != 0);
        let held = held.fold(Actions::NONE, |all, (_, action)| all | *action);
        let [yaw, pitch] = self.look.map(|angle| f32::from(angle) / 5000.0);
        Intent {
            steer: Vec2::from_array(self.steer.map(|part| f32::from(part) / 100.0)),
            look: Look { yaw, pitch },
            held,
            pressed: held.difference(before),
            released: before.difference(held),
        }
    }
}

/// All that a frame leads from.
#[derive(Clone)]
struct Saved<V: Geometry> {
    frame: u32,
    bodies: [(State<V>, Option<Overlay>); PLAYERS],
    held: [Actions; PLAYERS],
    level: LevelSnapshot<V>,
}

struct Game<V>(std::marker::PhantomData<V>);

impl<V: Geometry> Config for Game<V> {
    type Input = Sent;
    type InputPredictor = PredictRepeatLast;
    type State = Saved<V>;
    type Address = u8;
}

struct Running<V: Geometry> {
    frame: u32,
    bodies: [Controller<V>; PLAYERS],
    held: [Actions; PLAYERS],
    level: Level<V>,
}

impl<V: Geometry> Running<V> {
    fn saved(&self) -> Saved<V> {
        let of = |body: &Controller<V>| (*body.state(), body.overlay().copied());
        let bodies = [0, 1].map(|player| of(&self.bodies[player]));
        Saved { frame: self.frame, bodies, held: self.held, level: self.level.snapshot() }
    }

    fn load(&mut self, saved: &Saved<V>) {
        (self.frame, self.held) = (saved.frame, saved.held);
        self.level.restore(&saved.level);
        for (body, (state, overlay)) in self.bodies.iter_mut().zip(saved.bodies) {
            body.restore(state);
            body.restore_overlay(overlay);
        }
    }

    fn advance(&mut self, sent: &[Sent]) {
        self.level.advance(DT);
        for ((body, held), sent) in self.bodies.iter_mut().zip(&mut self.held).zip(sent) {
            // What a game does, too, follows from the frame.
            if self.frame % 777 == 333 {
                body.throw(V::UP * 9.0 + V::RIGHT);
            }
            let intent = sent.intent(*held);
            body.tick(&intent, &self.level, DT);
            *held = intent.held;
        }
        self.frame += 1;
    }

    fn checksum(&self) -> u128 {
        let [first, second] = [0, 1].map(|player| u128::from(self.bodies[player].state().checksum()));
        first << 64 | second
    }
}

fn ten_thousand_frames<V: Geometry>(seed: u64) {
    let mut dice = Dice(seed);
    let bodies: [Controller<V>; PLAYERS] = [capsule(), upright_box()].map(|hull: Hull| {
        Controller::new(
            any_tuning(&mut dice, V::DIMENSION),
            hull,
            V::UP * 1.0 + V::RIGHT * dice.number(-1.0, 2.0),
        )
    });
    let mut game = Running { frame: 0, bodies, held: [Actions::NONE; PLAYERS], level: town::<V>() };
    let session = SessionBuilder::<Game<V>>::new().with_num_players(PLAYERS).unwrap();
    let mut session = session.with_check_distance(7).start_synctest_session().unwrap();
    let mut intents = [Intent::default(); PLAYERS];
    for _ in 0..10_000 {
        for (player, intent) in intents.iter_mut().enumerate() {
            *intent = any_intent(&mut dice, intent);
            session.add_local_input(player, Sent::of(intent)).unwrap();
        }
        // It fails where a checksum is another than it was.
        for request in session.advance_frame().unwrap() {
            match request {
                GgrsRequest::SaveGameState { cell, frame } => {
                    cell.save(frame, Some(game.saved()), Some(game.checksum()));
                }
                GgrsRequest::LoadGameState { cell, .. } => game.load(&cell.load().unwrap()),
                GgrsRequest::AdvanceFrame { inputs } => {
                    let sent: Vec<Sent> = inputs.iter().map(|(sent, _)| *sent).collect();
                    game.advance(&sent);
                }
            }
        }
    }
    assert_eq!(game.frame, 10_000);
}

/// Four players that meet each other.
struct Four;

impl Config for Four {
    type Input = Sent;
    type InputPredictor = PredictRepeatLast;
    type State = (Crowd<Vec3>, [Actions; 4], LevelSnapshot<Vec3>);
    type Address = u8;
}

#[test]
fn eight_frames_of_rollback_change_nothing_for_four_players_who_meet() {
    let mut dice = Dice(4);
    let mut level = town::<Vec3>();
    let mut crowd = Crowd::new();
    for number in 0..4 {
        let hull = [capsule(), upright_box()][number % 2];
        let place = Vec3::Y + Vec3::X * (1.2 * number as f32 - 2.0);
        let body = CrowdBody::new(any_tuning(&mut dice, 3), hull, place);
        crowd.add(CrowdBody { strength: 200.0, ..body }).unwrap();
    }
    let mut held = [Actions::NONE; 4];
    let session = SessionBuilder::<Four>::new().with_num_players(4).unwrap().with_max_prediction_window(9);
    let mut session = session.with_check_distance(8).start_synctest_session().unwrap();
    let mut intents = [Intent::default(); 4];
    let mut touched = 0;
    for _ in 0..3000 {
        for (player, intent) in intents.iter_mut().enumerate() {
            *intent = any_intent(&mut dice, intent);
            session.add_local_input(player, Sent::of(intent)).unwrap();
        }
        // It fails where a checksum is another than it was.
        for request in session.advance_frame().unwrap() {
            match request {
                GgrsRequest::SaveGameState { cell, frame } => {
                    let sum = u128::from(crowd.checksum());
                    cell.save(frame, Some((crowd.clone(), held, level.snapshot())), Some(sum));
                }
                GgrsRequest::LoadGameState { cell, .. } => {
                    let saved = cell.load().unwrap();
                    (crowd, held) = (saved.0, saved.1);
                    level.restore(&saved.2);
                }
                GgrsRequest::AdvanceFrame { inputs } => {
                    level.advance(DT);
                    let mut next = inputs.iter().zip(held).map(|((sent, _), held)| sent.intent(held));
                    let mut now = Vec::new();
                    crowd.tick(&level, DT, |_, _| {
                        now.push(next.next().unwrap());
                        now[now.len() - 1]
                    });
                    held.iter_mut().zip(now).for_each(|(held, intent)| *held = intent.held);
                    touched += crowd.iter().map(|(id, _)| crowd.touching(id).count()).sum::<usize>();
                }
            }
        }
    }
    assert!(touched > 300, "they met in {touched} ticks");
}

#[test]
fn seven_frames_of_rollback_in_every_frame_change_nothing_in_2d() {
    ten_thousand_frames::<Vec2>(1);
}

#[test]
fn seven_frames_of_rollback_in_every_frame_change_nothing_in_3d() {
    ten_thousand_frames::<Vec3>(2);
}
