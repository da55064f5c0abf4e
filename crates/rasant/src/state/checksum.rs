//! A number for all the bits of a state.
//!
//! Every number of it goes in as its bits, every name and choice as the derived
//! [`Hash`] gives them: in the order of their declaration, as whole numbers of 8 bytes.
//! Nothing of it depends on the platform. The fields are named one by one, so that none
//! can be forgotten.

use core::hash::{Hash, Hasher};

use crate::space::Vector;
use crate::summer::Summer;

use super::{
    Air, Crushed, Dashes, Footing, Gait, Hops, Jumps, LadderRest, Maneuver, Memories, Mode, Owner, Plan,
    Span, State, Untold, WallKick, WallTouch, Zones,
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
        gait,
        gait_age,
        air,
        jumps,
        passing,
        ahead,
        crushed,
        against_wall,
        against_ceiling,
        wall,
        kick,
        lowered,
        crouched,
        ladder,
        ladder_rest,
        maneuver,
        cooldown,
        dashes,
        hops,
        memories,
        rides,
        asked_height,
        uncounted,
        root_motion,
        untold,
        from_above,
        zones,
        checkpoint,
        checkpoint_pending,
        home_up,
        stride,
        spin,
        behind,
        rolled,
    } = *state;
    for vector in [position, remainder, velocity, ground_velocity, up, right, facing, checkpoint, home_up] {
        sum.vector(vector);
    }
    let Jumps { wait, air: jumps_left, counted } = jumps;
    let LadderRest { left } = ladder_rest;
    for number in [ahead, lowered, asked_height, uncounted, stride, spin, behind, rolled, wait, left] {
        sum.number(number);
    }
    let Footing { kind, normal, point, surface, carrier, piece, one_way } = footing;
    sum.vector(normal);
    sum.vector(point);
    let choices: (Mode, Owner, Owner, Gait, Option<Crushed>) =
        (mode, velocity_owner, facing_owner, gait, crushed);
    (choices, kind, surface, carrier, piece, jumps_left, counted).hash(&mut sum);
    let flags = [one_way, against_wall, against_ceiling, crouched, from_above, checkpoint_pending];
    sum.write_u8(flags.iter().fold(0, |all, &flag| all << 1 | u8::from(flag)));
    let counted: (Span, Span, Option<Air>, Dashes, Hops) = (gait_age, cooldown, air, dashes, hops);
    counted.hash(&mut sum);
    let held: (Memories, Option<Untold>, Zones) = (memories, untold, zones);
    (passing, ladder, rides, held).hash(&mut sum);
    sum.option(root_motion, Summer::vector);
    sum.option(wall, |sum, WallTouch { normal, surface, away_for, niche: _ }| {
        sum.vector(normal);
        sum.number(away_for);
        surface.hash(sum);
    });
    sum.option(kick, |sum, WallKick { normal, in_a_row, back_for, niche: _ }| {
        sum.vector(normal);
        sum.number(back_for);
        sum.write_u8(in_a_row);
    });
    sum.option(maneuver, |sum, Maneuver { kind, plan, direction, origin, age }| {
        sum.vector(direction);
        sum.vector(origin);
        sum.number(age);
        kind.hash(sum);
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
        locks,
    } = *plan;
    for number in [startup, active, recovery, cooldown, distance, curve, turn_rate, end_speed, height, arc] {
        sum.number(number);
    }
    (gravity, locks).hash(sum);
}
