//! Compares the movement sheet with physics in f64 that shares no code with the library: each
//! figure is computed from the knobs as the guide describes them.

use fastrand::Rng;
use rasant::{Hull, Steering, Tuning};
use rasant_lab::files::TuningFile;
use rasant_lab::sheet::{Figures, GAME_RATE, RATE, sheet};

/// The knobs of a tuning, in f64.
struct Knobs<'a>(&'a Tuning);

impl Knobs<'_> {
    fn get(&self, path: &str) -> f64 {
        f64::from(self.0.get(path).unwrap_or_else(|error| panic!("{error}")))
    }

    fn gravity(&self) -> f64 {
        match self.get("jump.gravity") {
            0.0 => 2.0 * self.get("jump.height") / self.get("jump.rise_time").powi(2),
            given => given,
        }
    }

    /// The take-off speed for a height, with lighter gravity around the top.
    fn speed_for(&self, height: f64) -> f64 {
        let (gravity, slow, fraction) =
            (self.gravity(), self.get("fall.apex_speed"), self.get("fall.apex_gravity"));
        let top = if slow > 0.0 { slow * slow / (2.0 * gravity * fraction) } else { 0.0 };
        if slow > 0.0 && height < top {
            return (2.0 * gravity * fraction * height).sqrt();
        }
        (2.0 * gravity * (height - top) + slow * slow).sqrt()
    }

    fn take_off(&self) -> f64 {
        match self.get("jump.take_off_speed") {
            0.0 => self.speed_for(self.get("jump.height")),
            given => given,
        }
    }

    /// The downward acceleration at an upward speed. Lighter gravity around the top applies on the
    /// rise while jump is held, and during the fall always.
    fn weight(&self, speed: f64, held: bool) -> f64 {
        let slow = self.get("fall.apex_speed");
        let round_top = speed.abs() < slow && (held || speed < 0.0);
        let factor = match speed {
            _ if round_top => self.get("fall.apex_gravity"),
            up if up > 0.0 && held => 1.0,
            up if up > 0.0 => self.get("jump.cut_gravity"),
            _ => self.get("fall.gravity"),
        };
        self.gravity() * factor
    }

    /// A flight from a speed upward until it is `down` below its start: its height, the time
    /// of its top, its whole time and the speed at its end.
    fn flight(&self, speed: f64, held_for: f64, down: f64) -> Flight {
        const STEP: f64 = 1e-4;
        let terminal = self.get("fall.terminal_speed");
        let (mut v, mut y, mut t) = (speed, 0.0f64, 0.0);
        let mut flight = Flight { height: 0.0, top: 0.0, time: 0.0, speed: 0.0, path: vec![(0.0, 0.0)] };
        while v > 0.0 || y > -down {
            // Compared at the middle of the step, so that a change of the acceleration is half
            // included.
            let held = t + 0.5 * STEP < held_for;
            let half = v - 0.5 * STEP * self.weight(v, held);
            let next = (v - STEP * self.weight(half, held)).max(-terminal);
            (y, t) = (y + 0.5 * (v + next) * STEP, t + STEP);
            if y > flight.height {
                (flight.height, flight.top) = (y, t);
            }
            flight.path.push((t, y));
            v = next;
        }
        flight.time = t + (y + down) / v.abs().max(1e-9);
        flight.speed = -v;
        flight
    }

    /// The speed of a fall from rest after some seconds, and its depth.
    fn fallen(&self, seconds: f64) -> (f64, f64) {
        const STEP: f64 = 1e-5;
        let (mut speed, mut depth) = (0.0f64, 0.0);
        for _ in 0..(seconds / STEP).round() as usize {
            let next =
                (speed + STEP * self.weight(-speed - 1e-9, false)).min(self.get("fall.terminal_speed"));
            depth += 0.5 * (speed + next) * STEP;
            speed = next;
        }
        (speed, depth)
    }

    /// The distance along the ground, and the speed at the end, of a body that steers for a speed
    /// in the air for `time` seconds, from another speed in the same direction.
    fn drift(&self, from: f64, target: f64, time: f64) -> (f64, f64) {
        if self.get("air.keep") >= 0.5 && target > 0.0 && from > target {
            return (from * time, from);
        }
        let knob = if target.abs() >= from.abs() { "air.reach_time" } else { "air.stop_time" };
        let rate = self.get("walk.speed").abs() / self.get(knob);
        let needed = ((target - from).abs() / rate).min(time);
        let reached = from + (target - from).signum() * rate * needed;
        (0.5 * (from + reached) * needed + reached * (time - needed), reached)
    }
}

struct Flight {
    height: f64,
    top: f64,
    time: f64,
    speed: f64,
    /// Times and heights.
    path: Vec<(f64, f64)>,
}

impl Flight {
    /// The first time at `fraction` of the height, and the time above it.
    fn above(&self, fraction: f64) -> (f64, f64) {
        let is_above = |point: &&(f64, f64)| point.1 >= fraction * self.height;
        let first = self.path.iter().find(is_above).unwrap().0;
        let last = self.path.iter().rev().find(is_above).unwrap().0;
        (first, last - first)
    }
}

/// What a figure must be, and by how much it may be off beside half a percent: a tick, or
/// what the course finds to.
fn expected(
    name: &str,
    knobs: &Knobs<'_>,
    [jump, tap]: &[Flight; 2],
    hull: &Hull,
    dimensions: usize,
) -> (f64, f64) {
    let get = |path: &str| knobs.get(path);
    let walk = get("walk.speed").abs();
    let steep = get("slope.max_angle_deg").to_radians();
    let on_slope = |factor: f64| walk * (1.0 + (factor - 1.0) * (steep - 0.0087).sin() / steep.sin());
    let air_jump = |number: i32| get("jump.air_height") * get("jump.air_change").powi(number);
    let terminal = get("fall.terminal_speed");
    let tick = 1.0 / f64::from(RATE);
    let game = f64::from(GAME_RATE);
    let gap = 2.0 * f64::from(hull.clearance()) + 1e-3;
    let dash_speed = get("dash.distance") / get("dash.active") * (1.0 + get("dash.curve").abs());
    let roll_speed = get("roll.distance") / get("roll.active") * (1.0 + get("roll.curve").abs());
    let whole_dash = get("dash.startup") + get("dash.active") + get("dash.recovery") + get("dash.cooldown");
    let air_count = get("jump.air_count");
    // A body that hardly speeds up beside how quickly it falls is not pressed against the block.
    let presses = walk / get("air.reach_time") > 0.5 * knobs.gravity() * get("fall.gravity");
    let weak = if presses { 0.0 } else { get("jump.lip") };
    let by_view = dimensions == 3 && knobs.0.steering.in_dimension(3) == Steering::View;
    let side = if by_view { get("walk.side") } else { 1.0 };
    // Walking by the look swims where it looks, a degree past the pitch that walks.
    let gaze = get("turn.gaze_deg").abs() + 1.003;
    let pitched = dimensions == 3 && knobs.0.steering == Steering::Gaze && gaze > get("swim.pitch_deg");
    let swims_down = if pitched { gaze.to_radians().cos() } else { 1.0 };
    let by_body = dimensions == 3 && knobs.0.steering == Steering::Body;
    let back = if by_view || by_body { get("walk.back") } else { 1.0 };
    match name {
        "walk-back-speed" => (walk * get("walk.back"), 0.0),
        "walk-side-speed" => (walk * get("walk.side"), 0.0),
        "footfall-rate" => (walk / get("walk.stride"), 0.02),
        "run-reach-distance" => (0.5 * get("run.speed").powi(2) / walk * get("walk.reach_time"), 1e-4),
        "run-stop-distance" => (0.5 * get("run.speed").powi(2) / walk * get("walk.stop_time"), 1e-4),
        "run-turn-time" => (get("walk.turn_time") * get("run.speed") / walk, 1e-4),
        "run-turn-distance" => (0.5 * get("run.speed").powi(2) / walk * get("walk.turn_time"), 1e-4),
        "crouch-reach-time" => (get("walk.reach_time") * get("crouch.speed") / walk, 1e-4),
        "crouch-stop-time" => (get("walk.stop_time") * get("crouch.speed") / walk, 1e-4),
        "crouch-stop-distance" => (0.5 * get("crouch.speed").powi(2) / walk * get("walk.stop_time"), 1e-4),
        "crouch-turn-time" => (get("walk.turn_time") * get("crouch.speed") / walk, 1e-4),
        "steep-slide-speed" => (slides(knobs).0, 0.0),
        "steep-slide-time" => (slides(knobs).1, 3.0 * tick),
        "steep-slide-across" => (
            (walk * side * get("slope.slide_steer")).min(0.2 * walk / get("air.reach_time")),
            2.0 * walk * tick / get("air.reach_time"),
        ),
        "walk-gap" => (f64::from(hull.height()), gap),
        "crouch-gap" => (get("crouch.height"), gap),
        "roll-gap" => (get("roll.height"), gap),
        "take-off-speed" => (knobs.take_off(), 1e-3),
        "jump-gravity" => (knobs.weight(0.9 * knobs.take_off(), true), 2e-2),
        "jump-half-time" => (jump.above(0.5).0, 2e-3),
        "fall-to-rise" => ((jump.time - jump.top) / jump.top, 1e-3),
        "hang-time" => (jump.above(0.9).1, 2e-3),
        "jump-interval" => (jump.time, 2.0 * tick),
        "jump-onto-height" => ((jump.height + get("jump.lip")).max(get("slope.step_height")), gap + weak),
        "corner-nudge" => (get("jump.corner"), gap),
        "fast-fall-speed" => (terminal.max(get("fall.fast_speed")), 0.0),
        "fast-fall-time" => (fast_fall(knobs, jump.height), 2.0 * tick),
        "air-reach-time" => (get("air.reach_time"), 1e-4),
        "air-stop-time" => (get("air.stop_time"), 1e-4),
        "air-stop-distance" => (0.5 * walk * get("air.stop_time"), 1e-4),
        "air-turn-time" => (get("air.turn_time"), 1e-4),
        "air-turn-distance" => (0.5 * walk * get("air.turn_time"), 1e-4),
        "air-kept-speed" => {
            let lost = if get("air.keep") >= 0.5 { 0.0 } else { 0.2 * walk / get("air.stop_time") };
            (walk + (walk - lost).max(0.0), 2.0 * tick * walk / get("air.stop_time"))
        }
        "glide-reach-time" => {
            let (mut speed, mut time) = (0.0, 0.0);
            while speed < 0.5 * get("glide.fall_speed").min(terminal) {
                speed += knobs.weight(-speed - 1e-9, false) * get("glide.gravity") * 1e-5;
                time += 1e-5;
            }
            (time, 1e-3)
        }
        "glide-brake-time" => {
            ((1.0 - 2.0 * get("glide.fall_speed") / terminal) * get("glide.brake_time"), 2.0 * tick)
        }
        "glide-steer-time" => (get("glide.pace") * get("air.reach_time") * get("glide.times"), 1e-3),
        "glide-time" => (get("glide.max_time"), 2.0 * tick),
        "coyote-time" => (get("jump.coyote_time"), 2.0 * tick),
        "coyote-ticks" => (get("jump.coyote_time") * game, 1.1),
        "coyote-distance" => (walk * get("jump.coyote_time"), 2.0 * walk * tick),
        "coyote-run-distance" => (get("run.speed") * get("jump.coyote_time"), 2.0 * get("run.speed") * tick),
        "buffer-time" => (get("jump.buffer_time"), 2.0 * tick),
        "buffer-ticks" => (get("jump.buffer_time") * game, 1.1),
        "wall-grace-time" => (get("wall.grace_time"), 2.0 * tick),
        "wall-grace-ticks" => (get("wall.grace_time") * game, 1.1),
        "wall-touch-speed" => match get("wall.by_touch") >= 0.5 {
            true => (get("wall.slide_speed").min(knobs.fallen(0.5).0), 0.02),
            false => (knobs.fallen(0.5).0, 0.02),
        },
        "wall-air-jumps" => (get("wall.gives_jumps").round() * air_count, 0.0),
        "wall-return-gain" => (returns(knobs).unwrap().gain, returns(knobs).unwrap().slack),
        "wall-return-time" => {
            let crossing = returns(knobs).unwrap();
            (crossing.time, 0.01 + crossing.slack / 9.0)
        }
        "wall-return-distance" => (returns(knobs).unwrap().distance, 0.01),
        "wall-jumps-in-a-row" => (returns(knobs).map_or(1.0, |_| get("wall.in_a_row")), 0.0),
        "wall-climb-height" => {
            let count = get("wall.in_a_row");
            let Crossing { gain, slack, .. } = returns(knobs).unwrap();
            (count * gain, slack * count)
        }
        "shaft-gain" => (crosses(knobs, back).0, 0.05),
        "shaft-height" => (crosses(knobs, back).1, 0.2),
        "ladder-air-jumps" => (get("ladder.gives_jumps").round() * air_count, 0.0),
        "ladder-wait-time" => (get("ladder.wait_time"), 3.0 * tick),
        "dash-delay" => (get("dash.startup"), 0.2 * tick),
        "dash-recovery-time" => (get("dash.recovery"), 0.2 * tick),
        "dash-end-speed" => (get("dash.end_speed").min(dash_speed), 0.01),
        "dash-turn" => (get("dash.turn_deg") * get("dash.active"), 3.0 * tick * get("dash.turn_deg")),
        "dashes-in-a-row" => (dashes_until_refused(knobs, whole_dash), 0.0),
        "dash-recharge-time" => (whole_dash.max(get("dash.recharge_time")), 3.0 * tick),
        "air-dashes" => (get("dash.charges").min(get("dash.air_count")), 0.0),
        "air-dash-distance" => (get("dash.distance"), 1e-3),
        "air-dash-drop" => (
            get("dash.gravity")
                * (knobs.fallen(get("dash.startup") + get("dash.active")).1
                    - knobs.fallen(get("dash.startup")).1),
            0.01,
        ),
        "dash-angle" => (dash_angle(knobs, dimensions, side), 0.1),
        "roll-delay" => (get("roll.startup"), 0.2 * tick),
        "roll-recovery-time" => (get("roll.recovery"), 0.2 * tick),
        "roll-top-speed" => (roll_speed, 0.0),
        "roll-end-speed" => (get("roll.end_speed").min(roll_speed), 0.01),
        "roll-cooldown" => (get("roll.cooldown"), 0.2 * tick),
        "roll-turn" => (get("roll.turn_deg") * get("roll.active"), 3.0 * tick * get("roll.turn_deg")),
        "roll-jump-delay" => {
            let phases = ["startup", "active", "recovery"];
            let mutes = |phase: &str| get(&format!("roll.{phase}_mutes")).round() as u32 & 2 != 0;
            let lasts = |phase: &str| get(&format!("roll.{phase}")) > 2.0 * tick;
            let locked = phases.iter().take_while(|phase| mutes(phase) || !lasts(phase));
            (locked.map(|phase| get(&format!("roll.{phase}"))).sum(), 2.0 * tick)
        }
        "hop-interval" => (get("hop.time") + get("hop.cooldown"), 0.3 * tick),
        "run-hop-length" => (get("hop.length") * get("hop.run_steps"), 1e-3),
        "run-hop-time" => {
            let by_steps = get("hop.time") * get("hop.run_steps");
            (
                if get("hop.run_time") > 0.0 && get("hop.run_steps") > 1.0 {
                    get("hop.run_time")
                } else {
                    by_steps
                },
                0.3 * tick,
            )
        }
        "gaze-angle" => (get("turn.gaze_deg"), 0.05),
        "steer-delay-time" | "jump-delay-time" => (1.0 / game, 0.0),
        "swim-reach-time" => (get("swim.reach_time") * swims_down, 1e-3),
        "float-depth" => (get("swim.float") * f64::from(hull.height()), 1e-3),
        "neutral-depth" => (get("swim.neutral_depth"), 0.01),
        "swim-pitch" => (get("swim.pitch_deg"), 0.1),
        "ledge-jump-reach" => {
            let up = knobs.flight(knobs.speed_for(get("ledge.jump_height")), f64::INFINITY, 0.0).top;
            // Away from the wall in the tick of the take-off.
            let (first, speed) = knobs.drift(get("ledge.jump_away"), walk * back, tick);
            (first + knobs.drift(speed, 0.0, up - tick).0, 1e-2)
        }
        "ledge-along-speed" => (get("ledge.along_speed") * side, 2e-3),
        "ledge-wait-time" => (get("ledge.wait_time"), 2.0 * tick),
        "ledge-highest" => (jump.height + get("ledge.height") + get("ledge.window"), 0.02),
        "ledge-reach" => (get("ledge.reach"), gap),
        "ledge-window" => (get("ledge.window"), gap),
        "ledge-pull-time" => {
            let above = get("ledge.window").min(0.1);
            (get("ledge.reach").hypot(above) / get("ledge.pull_speed"), 0.02)
        }
        "slam-delay" => (get("slam.startup"), 2.0 * tick),
        "slam-time" => (get("slam.startup") + 5.0 / get("slam.speed"), 2.0 * tick),
        "walk-speed" => (walk, 0.0),
        "walk-reach-time" => (get("walk.reach_time"), 1e-4),
        "walk-reach-distance" => (0.5 * walk * get("walk.reach_time"), 1e-4),
        "walk-stop-time" => (get("walk.stop_time"), 1e-4),
        "walk-stop-distance" => (0.5 * walk * get("walk.stop_time"), 1e-4),
        "walk-turn-time" => (get("walk.turn_time"), 1e-4),
        "walk-turn-distance" => (0.5 * walk * get("walk.turn_time"), 1e-4),
        "run-speed" => (get("run.speed"), 0.0),
        "run-reach-time" => (get("walk.reach_time") * get("run.speed") / walk, 1e-4),
        "run-stop-time" => (get("walk.stop_time") * get("run.speed") / walk, 1e-4),
        "crouch-speed" => (get("crouch.speed"), 0.0),
        "slope-climbed" => (get("slope.max_angle_deg"), 0.05),
        "uphill-speed" => (on_slope(get("slope.uphill")), 0.0),
        "downhill-speed" => (on_slope(get("slope.downhill")), 0.0),
        // A step may exceed the knob by a clearance, because the body hovers by that height.
        "step-climbed" => (get("slope.step_height"), f64::from(hull.clearance()) + 1e-3),
        "drop-followed" => (get("slope.ground_snap"), f64::from(hull.clearance()) + 1e-3),
        "jump-height" => (jump.height, 1e-4),
        "jump-rise-time" => (jump.top, 1e-4),
        "jump-fall-time" => (jump.time - jump.top, 1e-4),
        "jump-air-time" => (jump.time, 1e-4),
        "jump-landing-speed" => (jump.speed, 1e-3),
        "tap-height" => (tap.height, 1e-4),
        "tap-air-time" => (tap.time, 1e-4),
        "air-jump-1-height" => (air_jump(0), 1e-4),
        "air-jump-2-height" => (air_jump(1), 1e-4),
        "air-jump-3-height" => (air_jump(2), 1e-4),
        "all-jumps-height" => {
            let count = get("jump.air_count") as i32;
            (jump.height + (0..count).map(air_jump).sum::<f64>(), 3e-3)
        }
        "standing-jump-distance" => (knobs.drift(0.0, walk, jump.time).0, walk * tick),
        "walking-jump-distance" => (walk * jump.time, walk * tick),
        "running-jump-distance" => (get("run.speed") * jump.time, get("run.speed") * tick),
        "dashing-jump-distance" => dashing(knobs, jump),
        "terminal-speed" => (terminal, 0.0),
        "terminal-drop" => {
            let slow = if get("fall.apex_speed") > 0.0 { get("fall.apex_speed").min(terminal) } else { 0.0 };
            let light = slow * slow / (2.0 * knobs.gravity() * get("fall.apex_gravity"));
            let heavy = (terminal * terminal - slow * slow) / (2.0 * knobs.gravity() * get("fall.gravity"));
            (light + heavy, 1e-3)
        }
        "wall-slide-speed" => (get("wall.slide_speed").min(terminal), 0.0),
        "wall-jump-height" => (get("wall.jump_height"), 1e-4),
        "wall-jump-reach" => {
            let up = knobs.flight(knobs.speed_for(get("wall.jump_height")), f64::INFINITY, 0.0).top;
            (knobs.drift(get("wall.jump_away"), 0.0, up).0, 1e-3)
        }
        "ladder-up-speed" => (get("ladder.up_speed"), 0.0),
        "ladder-down-speed" => (get("ladder.down_speed") * back, 0.0),
        "ladder-slide-speed" => (get("ladder.slide_speed") * back, 0.0),
        "dash-distance" => (get("dash.distance"), 1e-4),
        "dash-time" => (get("dash.active"), 1e-4),
        // At the ends of ticks: the steepest part of a drive within one.
        "dash-top-speed" => {
            (get("dash.distance") / get("dash.active") * (1.0 + get("dash.curve").abs()), 0.0)
        }
        "dash-cooldown" => {
            let comes_back = get("dash.charges") > 1.0 || get("dash.from_ground") >= 0.5;
            let drive = whole_dash - get("dash.cooldown");
            let recharge = if comes_back { 0.0 } else { get("dash.recharge_time") - drive };
            (get("dash.cooldown").max(recharge), 2.0 * 0.1 * tick)
        }
        "roll-distance" => (get("roll.distance"), 1e-4),
        "roll-time" => (get("roll.active"), 1e-4),
        "hop-length" => (get("hop.length"), 1e-4),
        "hop-time" => (get("hop.time"), 2.0 * 0.1 * tick),
        "turn-rate" => (get("turn.rate_deg"), 0.05),
        "turn-half-time" => (45.0 / get("turn.rate_deg"), 1e-4),
        "steer-delay" | "jump-delay" => (0.0, 0.0),
        "glide-fall-speed" => (get("glide.fall_speed").min(terminal), 0.0),
        "glide-distance" => (walk * get("glide.pace") / get("glide.fall_speed").min(terminal), 0.0),
        "swim-speed" => (get("swim.speed") * swims_down, 0.0),
        "dive-speed" => (get("swim.dive_speed"), 0.0),
        "sink-depth" => (sunk(knobs).0, 0.01),
        "surface-time" => (sunk(knobs).1, 0.03),
        "swim-jump-height" => (get("swim.jump_height"), 1e-3),
        "ledge-jump-height" => (get("ledge.jump_height"), 1e-3),
        "ladder-jump-height" => (get("ladder.jump_height"), 1e-3),
        "ledge-climb-time" => (get("ledge.climb_time"), 2.0 * tick),
        "slam-speed" => (get("slam.speed"), 0.0),
        "slam-recovery-time" => (get("slam.recovery"), 2.0 * tick),
        _ => panic!("no physics for {name}"),
    }
}

/// The greatest speed of a slide down a slope that is 10° too steep, and the time to half of it.
fn slides(knobs: &Knobs<'_>) -> (f64, f64) {
    const STEP: f64 = 1e-5;
    let sine = (knobs.get("slope.max_angle_deg") + 10.0).to_radians().sin();
    let top = knobs.get("slope.slide_speed").min(knobs.get("fall.terminal_speed") / sine);
    let (mut speed, mut time) = (0.0, 0.0);
    while speed < 0.5 * top {
        speed += knobs.weight(-speed * sine - 1e-9, false) * sine * STEP;
        time += STEP;
    }
    (top, time)
}

/// The time of a fast fall from rest by a depth.
fn fast_fall(knobs: &Knobs<'_>, depth: f64) -> f64 {
    const STEP: f64 = 1e-5;
    let pull = knobs.gravity() * knobs.get("fall.gravity") * knobs.get("fall.fast_gravity");
    let top = knobs.get("fall.terminal_speed").max(knobs.get("fall.fast_speed"));
    let (mut speed, mut fallen, mut time) = (0.0f64, 0.0, 0.0);
    while fallen < depth {
        speed = (speed + pull * STEP).min(top);
        fallen += speed * STEP;
        time += STEP;
    }
    time
}

/// A jump off a wall until a wall is met, without rising.
struct Crossing {
    gain: f64,
    time: f64,
    distance: f64,
    /// How much the gain changes if the wall is met 2 cm earlier.
    slack: f64,
}

/// Seconds that a jump off a wall is watched.
const WATCHED: f64 = 20.0;
/// Metres under the take-off at which a wall is out of reach.
const DEEPEST: f64 = 50.0;

/// A jump off a wall, steered back to it at once.
fn returns(knobs: &Knobs<'_>) -> Option<Crossing> {
    const STEP: f64 = 1e-4;
    let get = |path: &str| knobs.get(path);
    let walk = get("walk.speed").abs();
    let (mut x, mut y, mut time) = (0.0f64, 0.0, 0.0);
    let (mut vx, mut vy) = (get("wall.jump_away"), knobs.speed_for(get("wall.jump_height")));
    let mut distance = 0.0f64;
    while time < WATCHED && y > -DEEPEST {
        let weak = if time < get("wall.back_time") { get("wall.back").max(1e-6) } else { 1.0 };
        let knob = if vx > 0.0 { "air.turn_time" } else { "air.reach_time" };
        vx = (vx - weak * walk / get(knob) * STEP).max(-walk);
        let next = (vy - knobs.weight(vy, true) * STEP).max(-get("fall.terminal_speed"));
        x = (x + vx * STEP).max(0.0);
        y += 0.5 * (vy + next) * STEP;
        vy = next;
        time += STEP;
        distance = distance.max(x);
        if x <= 0.0 && vy <= 0.0 {
            let slack = 0.03 + 0.02 / vx.abs() * vy.abs();
            return Some(Crossing { gain: y, time, distance, slack });
        }
    }
    None
}

/// What the last of five jumps between two walls gains, and all of them.
fn crosses(knobs: &Knobs<'_>, back: f64) -> (f64, f64) {
    const STEP: f64 = 1e-4;
    let get = |path: &str| knobs.get(path);
    let across = |speed: f64| {
        let (mut x, mut y) = (0.0, 0.0);
        let (mut vx, mut vy) = (get("wall.jump_away"), knobs.speed_for(get("wall.jump_height")));
        while x < 2.0 || vy > 0.0 {
            let rate =
                get("walk.speed").abs() / get(if vx > speed { "air.stop_time" } else { "air.reach_time" });
            let keeps = get("air.keep") >= 0.5 && vx > speed;
            vx += if keeps { 0.0 } else { (speed - vx).clamp(-rate * STEP, rate * STEP) };
            let next = (vy - knobs.weight(vy, true) * STEP).max(-get("fall.terminal_speed"));
            (x, y, vy) = (x + vx * STEP, y + 0.5 * (vy + next) * STEP, next);
        }
        y
    };
    let walk = get("walk.speed").abs();
    let there = across(walk * back);
    (there, 3.0 * there + 2.0 * across(walk))
}

/// Dashes on the ground, as soon as each is to be had, until none is left.
fn dashes_until_refused(knobs: &Knobs<'_>, whole: f64) -> f64 {
    let (charges, recharge) = (knobs.get("dash.charges"), knobs.get("dash.recharge_time"));
    let (mut count, mut now, mut spent, mut since) = (0.0, 0.0, 0.0, 0.0);
    while spent < charges && count < 40.0 {
        if spent == 0.0 {
            since = now;
        }
        count += 1.0;
        spent += 1.0;
        now += whole;
        while recharge > 0.0 && spent > 0.0 && now - since >= recharge {
            since += recharge;
            spent -= 1.0;
        }
    }
    count
}

/// The angle between the facing and a dash that is steered 30° off it.
fn dash_angle(knobs: &Knobs<'_>, dimensions: usize, side: f64) -> f64 {
    let by_side = dimensions == 2 || knobs.0.steering == Steering::Body;
    let steered = (30f64.to_radians().tan() * side).atan().to_degrees();
    match (knobs.get("dash.by_facing") >= 0.5, knobs.get("dash.eight_directions") >= 0.5) {
        (true, _) => 0.0,
        // Upward in a side view.
        (false, true) if dimensions == 2 => 45.0,
        _ if by_side => 0.0,
        (false, true) => (steered / 45.0).round() * 45.0,
        (false, false) => steered,
    }
}

/// How deep a fall of 1 m sinks under where the body floats, and the time from there to 5 cm under it.
fn sunk(knobs: &Knobs<'_>) -> (f64, f64) {
    const STEP: f64 = 1e-4;
    let get = |path: &str| knobs.get(path);
    let (gravity, drag) = (knobs.gravity() * get("fall.gravity"), get("swim.drag"));
    let (mut speed, mut depth) = (knobs.flight(0.0, f64::INFINITY, 1.0).speed, 0.0);
    while speed > 0.0 {
        depth += speed * STEP;
        speed -= (gravity / get("swim.sink") + drag * speed * speed) * STEP;
    }
    // Up at the rate of swimming, no faster than it floats, and than it can stop.
    let rate = get("swim.speed") / get("swim.reach_time");
    let (mut left, mut rise, mut time) = (depth, 0.0f64, 0.0);
    while left > 0.05 {
        let stops = (left / 0.15).min((2.0 * 0.6 * rate * left).sqrt());
        let target = stops.min(get("swim.float_speed"));
        rise += (target - rise).clamp(-rate * STEP, rate * STEP);
        (left, time) = (left - rise * STEP, time + STEP);
    }
    (depth, time)
}

/// A jump at running speed, with a dash at its top that no gravity works in: up, the dash,
/// and down from rest at what speed is left.
fn dashing(knobs: &Knobs<'_>, jump: &Flight) -> (f64, f64) {
    let get = |path: &str| knobs.get(path);
    let run = get("run.speed");
    let fastest = get("dash.distance") / get("dash.active") * (1.0 + get("dash.curve").abs());
    let left = get("dash.end_speed").min(fastest);
    // From rest at the height of the top; with gravity in the dash, from its beginning.
    let falls = knobs.flight(0.0, f64::INFINITY, jump.height).time;
    let slack = 3.0 * (run + fastest) / f64::from(RATE);
    let (active, curve) = (get("dash.active"), get("dash.curve"));
    let mut down = falls;
    if get("dash.gravity") >= 0.5 {
        let startup = get("dash.startup");
        down = falls - active - startup;
        if down < 0.0 {
            let fraction = ((falls - startup) / active).clamp(0.0, 1.0);
            let driven = get("dash.distance") * ((1.0 + curve) * fraction - curve * fraction * fraction);
            return (run * jump.top + driven, 2.0 * slack);
        }
    }
    // Steering is locked until the recovery is over.
    let locked = get("dash.recovery").min(down);
    let (braked, speed) = if left > 0.0 { knobs.drift(left, 0.0, locked) } else { (0.0, 0.0) };
    let (steered, _) = knobs.drift(speed, run, down - locked);
    (run * jump.top + get("dash.distance") + braked + steered, slack)
}

/// Any tuning in which every figure has one meaning: each knob within what people use.
fn any_file(dice: &mut Rng, dimensions: usize) -> TuningFile {
    let mut tuning = Tuning::default();
    let mut set = |path: &str, low: f32, high: f32| {
        tuning.set(path, low + (high - low) * dice.f32()).unwrap();
    };
    for (path, low, high) in [
        ("walk.speed", 1.0, 9.0),
        ("run.speed", 1.0, 14.0),
        ("walk.reach_time", 0.0, 0.6),
        ("walk.stop_time", 0.0, 0.6),
        ("walk.turn_time", 0.0, 0.6),
        ("crouch.speed", 0.5, 4.0),
        ("crouch.height", 0.9, 1.4),
        ("slope.max_angle_deg", 10.0, 75.0),
        ("slope.uphill", 0.4, 1.4),
        ("slope.downhill", 0.6, 1.6),
        ("slope.step_height", 0.0, 0.8),
        ("slope.ground_snap", 0.0, 0.8),
        ("air.reach_time", 0.02, 0.6),
        ("air.stop_time", 0.05, 2.0),
        ("air.turn_time", 0.02, 0.6),
        ("walk.back", 0.5, 1.2),
        ("walk.side", 0.5, 1.2),
        ("walk.stride", 0.3, 1.5),
        ("slope.slide_speed", 3.0, 30.0),
        ("slope.slide_steer", 0.1, 1.0),
        ("jump.coyote_time", 0.0, 0.25),
        ("jump.buffer_time", 0.0, 0.25),
        ("jump.lip", 0.0, 0.25),
        ("jump.corner", 0.05, 0.25),
        ("fall.fast_gravity", 1.0, 3.0),
        ("fall.fast_speed", 0.0, 60.0),
        ("wall.grace_time", 0.0, 0.25),
        ("wall.back_time", 0.0, 0.4),
        ("wall.back", 0.0, 1.0),
        ("ladder.wait_time", 0.02, 0.5),
        ("dash.turn_deg", 20.0, 300.0),
        ("dash.recharge_time", 0.3, 2.0),
        ("roll.startup", 0.005, 0.1),
        ("roll.recovery", 0.0, 0.2),
        ("roll.cooldown", 0.02, 0.4),
        ("roll.curve", -0.9, 0.9),
        ("roll.turn_deg", 20.0, 200.0),
        ("roll.end_speed", 0.0, 6.0),
        ("roll.height", 0.7, 1.2),
        ("hop.cooldown", 0.0, 0.3),
        ("hop.run_time", 0.2, 0.6),
        ("glide.gravity", 0.2, 1.0),
        ("glide.brake_time", 0.1, 1.0),
        ("glide.times", 0.5, 2.0),
        ("glide.max_time", 0.3, 3.0),
        ("swim.reach_time", 0.2, 0.8),
        ("swim.float", 0.5, 0.9),
        ("swim.pitch_deg", 10.0, 60.0),
        ("ledge.height", 1.2, 1.7),
        ("ledge.window", 0.05, 0.4),
        ("ledge.pull_speed", 2.0, 9.0),
        ("ledge.along_speed", 0.5, 2.0),
        ("ledge.jump_away", 1.0, 6.0),
        ("ledge.wait_time", 0.05, 0.5),
        ("slam.startup", 0.0, 0.3),
        ("turn.gaze_deg", -60.0, 60.0),
        ("jump.height", 0.3, 5.0),
        ("jump.rise_time", 0.15, 0.8),
        ("jump.cut_gravity", 1.0, 6.0),
        ("jump.air_height", 0.2, 3.0),
        ("jump.air_change", 0.5, 1.5),
        ("fall.gravity", 0.6, 3.0),
        ("fall.terminal_speed", 8.0, 50.0),
        ("fall.apex_gravity", 0.3, 1.0),
        ("wall.slide_speed", 0.5, 6.0),
        ("wall.jump_height", 0.3, 3.0),
        ("wall.jump_away", 1.0, 9.0),
        ("ladder.up_speed", 0.5, 6.0),
        ("ladder.down_speed", 0.5, 6.0),
        ("ladder.slide_speed", 1.0, 9.0),
        ("dash.distance", 1.0, 8.0),
        ("dash.active", 0.08, 0.5),
        ("dash.startup", 0.0, 0.1),
        ("dash.recovery", 0.0, 0.1),
        ("dash.cooldown", 0.05, 0.8),
        ("dash.curve", -0.9, 0.9),
        ("dash.end_speed", 0.0, 6.0),
        ("roll.distance", 1.0, 6.0),
        ("roll.active", 0.2, 0.8),
        ("hop.length", 0.5, 2.0),
        ("hop.time", 0.1, 0.5),
        ("turn.rate_deg", 60.0, 1200.0),
        ("glide.fall_speed", 0.5, 3.0),
        ("glide.pace", 0.5, 2.0),
        ("swim.speed", 0.5, 4.0),
        ("swim.dive_speed", 0.5, 4.0),
        ("swim.sink", 0.3, 2.0),
        ("swim.drag", 0.0, 0.6),
        ("swim.float_speed", 0.5, 3.0),
        ("swim.jump_height", 0.3, 2.0),
        ("ledge.jump_height", 0.3, 2.0),
        ("ladder.jump_height", 0.3, 2.0),
        ("ledge.climb_time", 0.1, 0.8),
        ("slam.speed", 6.0, 30.0),
        ("slam.recovery", 0.05, 0.5),
    ] {
        set(path, low, high);
    }
    let mut turn_on = |path: &str, value: f32| tuning.set(path, value).unwrap();
    turn_on("dash.charges", f32::from(dice.u8(1..4)));
    turn_on("dash.air_count", f32::from(dice.u8(1..4)));
    turn_on("wall.in_a_row", f32::from(dice.u8(1..6)));
    turn_on("hop.run_steps", f32::from(dice.u8(1..4)));
    for (path, one_of) in [
        ("air.keep", 2),
        ("jump.repeat", 2),
        ("wall.by_touch", 3),
        ("wall.gives_jumps", 2),
        ("ladder.gives_jumps", 2),
        ("dash.gravity", 4),
        ("dash.by_facing", 4),
        ("dash.eight_directions", 2),
        ("dash.from_ground", 2),
    ] {
        turn_on(path, f32::from(u8::from(dice.u8(..one_of) == 0)));
    }
    for phase in ["startup", "active", "recovery"] {
        turn_on(&format!("roll.{phase}_mutes"), f32::from(dice.u8(..8)));
    }
    if dice.u8(..3) > 0 {
        turn_on("hop.run_time", 0.0);
    }
    if dice.u8(..4) == 0 {
        turn_on("swim.neutral_depth", 0.5 + 1.5 * dice.f32());
    }
    turn_on("roll.action", 1.0);
    turn_on("slam.action", 2.0);
    turn_on("ledge.reach", 0.3);
    turn_on("jump.air_count", f32::from(dice.u8(..4)));
    if dice.u8(..2) == 0 {
        turn_on("fall.apex_speed", 0.5 + 2.0 * dice.f32());
    }
    if dice.u8(..3) == 0 {
        // Given directly instead of by height and time.
        turn_on("jump.gravity", 15.0 + 25.0 * dice.f32());
        turn_on("jump.take_off_speed", 4.0 + 6.0 * dice.f32());
    }
    tuning.steering = match (dimensions, dice.u8(..8)) {
        (_, 0) => Steering::Hop,
        (3, 1) => Steering::Body,
        (3, 2) => Steering::Gaze,
        _ => Steering::Usual,
    };
    // A round foot climbs and follows more than the knobs say: it rolls over edges.
    TuningFile { title: "any".to_owned(), tuning, hull: Hull::upright_box(0.6, 1.7).unwrap(), up: None }
}

/// Tunings in the plane and in space: all that the sheet measures is what physics says, to half a
/// percent and a tick, and every figure is met with. `RASANT_SHEETS` is how many times as many.
#[test]
fn every_figure_of_the_sheet_is_that_of_an_independent_simulation() {
    let mut seen = std::collections::BTreeSet::new();
    let mut wrong = Vec::new();
    let times: u64 = std::env::var("RASANT_SHEETS").ok().and_then(|text| text.parse().ok()).unwrap_or(1);
    for (dimensions, count) in [(2, 80), (3, 30)] {
        for number in 0..count * times {
            let mut dice = Rng::with_seed(1000 * dimensions as u64 + number);
            let file = any_file(&mut dice, dimensions);
            let knobs = Knobs(&file.tuning);
            let jumps = [f64::INFINITY, 0.05].map(|held| knobs.flight(knobs.take_off(), held, 0.0));
            for reading in &sheet(&file, dimensions, RATE).readings {
                let (is, slack) = expected(reading.name, &knobs, &jumps, &file.hull, dimensions);
                seen.insert(reading.name);
                // There is no mark if physics confirms the target.
                let meets_target =
                    reading.target.is_some_and(|target| (target - is).abs() <= 0.002 * target.abs());
                if meets_target && reading.differs {
                    wrong.push(format!("{dimensions}D {number}: a mark at {reading:?}"));
                }
                if (reading.measured - is).abs() > 0.005 * is.abs() + slack {
                    wrong.push(format!(
                        "{dimensions}D {number}: {} is {} of {is}",
                        reading.name, reading.measured
                    ));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
    let never: Vec<_> =
        Figures::default().kinds().map(|kind| kind.name).filter(|name| !seen.contains(name)).collect();
    assert!(never.is_empty(), "never measured: {never:?}");
}

/// Figures that depend on where within a tick an edge is reached are measured so slowly that this
/// does not matter.
#[test]
fn drops_are_the_same_at_any_rate_that_they_are_measured_with() {
    for number in 0..4 {
        let mut file = any_file(&mut Rng::with_seed(77 + number), 2);
        file.tuning.steering = Steering::Usual;
        for hull in
            [Hull::upright_box(0.6, 1.7).unwrap(), Hull::capsule(0.3, 1.7).unwrap(), Hull::ball(0.4).unwrap()]
        {
            file.hull = hull;
            {
                let figure = "drop-followed";
                let at = |rate: u32| {
                    Figures::default().sheet_of(&file, 2, rate, &|kind| kind.name == figure).get(figure)
                };
                let best = at(RATE);
                for rate in [60, 200] {
                    let near = match (at(rate), best) {
                        (Some(one), Some(other)) => (one - other).abs() < 0.008,
                        (one, other) => one.is_none() == other.is_none(),
                    };
                    assert!(
                        near,
                        "{figure} of {number}, {hull:?}: {:?} at {rate}, {best:?} at {RATE}",
                        at(rate)
                    );
                }
            }
        }
    }
}
