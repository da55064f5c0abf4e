//! A checksum over all bits of a state.
//!
//! Every number contributes its bits, every name and choice what the derived [`Hash`] writes: in
//! the order of declaration, as whole numbers of 8 bytes. Nothing depends on the platform. The
//! fields are listed one by one, so that none can be forgotten.

use core::hash::{Hash, Hasher};

use crate::space::Vector;
use crate::summer::Summer;

use super::{
    Air, Animation, CarryOver, Changes, Crushed, Footing, Gait, Maneuver, Memories, Mode, Owner, Pending,
    Plan, Posture, Span, State, Touching, WallKick, WallTouch, Zones,
};

pub(super) fn checksum<V: Vector>(state: &State<V>) -> u64 {
    let mut sum = Summer::new();
    let State {
        position,
        remainder,
        velocity,
        ground_velocity,
        up,
        right,
        facing,
        mode,
        velocity_owner,
        facing_owner,
        footing,
        air,
        touching,
        posture,
        crouched,
        ladder,
        rides,
        maneuver,
        cooldown,
        memories,
        from_above,
        zones,
        home_up,
        checkpoint,
        animation,
        pending: Pending { displacement, changes, ended, ladder: let_go_of },
        carry_over: CarryOver { passed, is_passing, step_lead, uncounted, crushed, checkpoint_pending },
    } = *state;
    let Animation { gait, gait_age, stride, spin, step_offset, rolled } = animation;
    let Posture { lowered, target_height } = posture;
    let Touching { wall, ceiling, beside, kick, lingers } = touching;
    for vector in
        [position, remainder, velocity, ground_velocity, up, right, facing, checkpoint, home_up, displacement]
    {
        sum.vector(vector);
    }
    for number in [step_lead, lowered, target_height, uncounted, stride, spin, step_offset, rolled] {
        sum.number(number);
    }
    let Footing { kind, normal, point, surface, carrier, piece, one_way } = footing;
    sum.vector(normal);
    sum.vector(point);
    let choices: (Mode, Owner, Owner, Gait, Option<Crushed>) =
        (mode, velocity_owner, facing_owner, gait, crushed);
    (choices, kind, surface, carrier, piece).hash(&mut sum);
    let flags = [one_way, wall, ceiling, crouched, from_above, checkpoint_pending, is_passing];
    sum.write_u8(flags.iter().fold(0, |all, &flag| all << 1 | u8::from(flag)));
    sum.write_u16(lingers);
    let counted: (Span, Span, Option<Air>) = (gait_age, cooldown, air);
    counted.hash(&mut sum);
    let held: (Memories, Changes, Zones) = (memories, changes, zones);
    (passed, ladder, rides, held, ended, let_go_of).hash(&mut sum);
    sum.option(beside, |sum, WallTouch { normal, surface, piece, away_for, niche: _ }| {
        sum.vector(normal);
        sum.number(away_for);
        (surface, piece).hash(sum);
    });
    sum.option(kick, |sum, WallKick { normal, in_a_row, back_for, niche: _ }| {
        sum.vector(normal);
        sum.number(back_for);
        sum.write_u8(in_a_row);
    });
    sum.option(maneuver, |sum, Maneuver { plan, direction, origin, age }| {
        sum.vector(direction);
        sum.vector(origin);
        sum.number(age);
        plan_of(sum, &plan);
    });
    sum.finish()
}

fn plan_of(sum: &mut Summer, plan: &Plan) {
    let Plan {
        startup,
        active,
        recovery,
        cooldown,
        distance,
        curve,
        turn_rate,
        end_speed,
        height,
        arc,
        gravity,
        exact,
        mutes,
    } = *plan;
    for number in [startup, active, recovery, cooldown, distance, curve, turn_rate, end_speed, height, arc] {
        sum.number(number);
    }
    (gravity, exact, mutes).hash(sum);
}
