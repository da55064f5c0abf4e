//! Tunings, players and hosts at random.

use rasant::animation::OverlayPlan;
use rasant::glam::Vec2;
use rasant::state::Name;
use rasant::tuning::KNOBS;
use rasant::{Actions, Controller, Face, Geometry, Intent, Look, Plan, Steering, Tuning};

use super::Dice;

/// Returns a random tuning: every knob in its range, most near their default, so that bodies do
/// move.
pub fn any_tuning(dice: &mut Dice, dimension: usize) -> Tuning {
    let mut tuning = Tuning::default();
    let wild = [
        "wall.",
        "dash.",
        "roll.",
        "ladder.",
        "hop.",
        "turn.",
        "air.keep",
        "jump.repeat",
        "ledge.reach",
        "glide.fall_speed",
        "swim.",
    ];
    for knob in KNOBS.iter().filter(|knob| !is_apart(knob.path)) {
        let (least, most) = match knob.unit {
            rasant::tuning::Unit::Switch | rasant::tuning::Unit::Count => {
                (knob.min, knob.max.min(knob.min + 3.0))
            }
            _ if wild.iter().any(|group| knob.path.starts_with(group)) => (knob.min, knob.max.min(12.0)),
            _ => {
                let near = 0.6 * knob.default.abs();
                ((knob.default - near).max(knob.min), (knob.default + near).min(knob.max))
            }
        };
        let value = dice.number(least, most.max(least + 1e-6)).clamp(knob.min, knob.max);
        tuning.set(knob.path, if knob.unit.is_whole() { value.round() } else { value }).unwrap();
    }
    tuning.roll.action = 1.0;
    tuning.ledge.reach = tuning.ledge.reach.min(0.5);
    tuning.glide.fall_speed = tuning.glide.fall_speed.min(4.0);
    tuning.glide.max_time = dice.number(0.0, 5.0);
    tuning.dash.charges = tuning.dash.charges.max(1.0);
    tuning.dash.active = tuning.dash.active.clamp(0.05, 0.4);
    tuning.roll.active = tuning.roll.active.clamp(0.1, 0.6);
    tuning.jump.corner = dice.number(0.0, 0.3);
    tuning.jump.lip = dice.number(0.0, 0.3);
    // In the plane, mostly a side view: the others have no gravity.
    let steerings = if dimension == 2 && dice.below(4) > 0 { 2 } else { Steering::NAMES.len() };
    tuning.steering = Steering::NAMES[dice.below(steerings)].1;
    tuning.face = Face::NAMES[dice.below(3)].1;
    set_apart(&mut tuning);
    tuning
}

/// Returns true for knobs that [`set_apart`] sets: switches of whole moves, which are mostly on, and
/// knobs that only change what is drawn.
fn is_apart(path: &str) -> bool {
    let groups = ["camera.", "overlay.", "walk.lean_time", "fall.landing_time"];
    let switches = ["hop.repeat", "roll.in_air", "jump.edge_spin"];
    path.ends_with(".enabled")
        || groups.iter().any(|group| path.starts_with(group))
        || switches.contains(&path)
}

fn set_apart(tuning: &mut Tuning) {
    let mut dice = Dice(u64::from(tuning.walk.speed.to_bits()));
    for knob in KNOBS.iter().filter(|knob| is_apart(knob.path) && !knob.path.starts_with("camera.")) {
        let value = match knob.unit {
            rasant::tuning::Unit::Switch => {
                f32::from(u8::from((dice.below(10) == 0) != (knob.default == 1.0)))
            }
            rasant::tuning::Unit::Count => 1.0,
            _ => dice.number(knob.min, knob.max.min(1.0)),
        };
        tuning.set(knob.path, value).unwrap();
    }
}

pub fn any_intent(dice: &mut Dice, before: &Intent) -> Intent {
    let mut intent = Intent { pressed: Actions::NONE, released: Actions::NONE, ..*before };
    if dice.below(12) == 0 {
        let steers = [(0.0, 0.0), (1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0), (0.7, 0.7), (-0.6, 0.9)];
        let (x, y) = steers[dice.below(steers.len())];
        intent.steer = Vec2::new(x, y);
        intent.look = Look { yaw: dice.number(-4.0, 4.0), pitch: dice.number(-1.5, 1.5) };
    }
    let actions = [Actions::JUMP, Actions::DASH, Actions::RUN, Actions::CROUCH, Actions::own(1)];
    for action in actions {
        if dice.below(18) == 0 {
            if intent.held.intersects(action) {
                intent = intent.releasing(action);
            } else {
                intent = intent.pressing(action);
            }
        }
    }
    intent
}

/// Things a host does now and then; whether it did one.
pub fn meddle<V: Geometry>(body: &mut Controller<V>, dice: &mut Dice) -> bool {
    let what = dice.below(400);
    match what {
        0 => body.throw(dice.vector(15.0)),
        1 => body.knock_back(dice.vector(10.0), dice.number(0.0, 0.6)),
        2 => body.root_motion(dice.vector(0.3)),
        3 => {
            let plan = Plan {
                startup: 0.1,
                active: 0.3,
                recovery: 0.1,
                distance: 3.0,
                gravity: true,
                ..Plan::default()
            };
            body.begin(Name::new("own"), plan, dice.direction());
        }
        4 => body.break_off(),
        5 => body.teleport(body.position() + V::UP * 0.5),
        6 => body.begin_overlay(Name::new("wave"), OverlayPlan { pace: 0.5, ..OverlayPlan::default() }),
        _ => {}
    }
    what < 7
}
