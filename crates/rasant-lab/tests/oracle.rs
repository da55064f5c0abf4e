//! The movement sheet against physics in f64 that shares no code with the library: from
//! the knobs' values, as the guide describes them, to what each figure must be.

use fastrand::Rng;
use rasant::{Hull, Steering, Tuning};
use rasant_lab::files::TuningFile;
use rasant_lab::sheet::{RATE, figure_kinds, sheet, sheet_of};

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

    /// The speed that rises just so high, with lighter gravity round the top.
    fn speed_for(&self, height: f64) -> f64 {
        let (gravity, slow, share) =
            (self.gravity(), self.get("fall.apex_speed"), self.get("fall.apex_gravity"));
        let top = if slow > 0.0 { slow * slow / (2.0 * gravity * share) } else { 0.0 };
        if slow > 0.0 && height < top {
            return (2.0 * gravity * share * height).sqrt();
        }
        (2.0 * gravity * (height - top) + slow * slow).sqrt()
    }

    fn take_off(&self) -> f64 {
        match self.get("jump.take_off_speed") {
            0.0 => self.speed_for(self.get("jump.height")),
            given => given,
        }
    }

    /// The acceleration downward at a speed upward. Lighter gravity round the top is for who
    /// holds jump on the way up, and for all on the way down.
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
        let mut flight = Flight { height: 0.0, top: 0.0, time: 0.0, speed: 0.0 };
        while v > 0.0 || y > -down {
            // By the middle of the step, so that a change of weight is halfway met.
            let held = t + 0.5 * STEP < held_for;
            let half = v - 0.5 * STEP * self.weight(v, held);
            let next = (v - STEP * self.weight(half, held)).max(-terminal);
            (y, t) = (y + 0.5 * (v + next) * STEP, t + STEP);
            if y > flight.height {
                (flight.height, flight.top) = (y, t);
            }
            v = next;
        }
        flight.time = t + (y + down) / v.abs().max(1e-9);
        flight.speed = -v;
        flight
    }

    /// The way along the ground of who steers `time` seconds in the air for a speed, from
    /// another: first at the turning rate, then at that of reaching or stopping.
    fn drift(&self, from: f64, target: f64, time: f64) -> (f64, f64) {
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
}

/// What a figure must be, and by how much it may be off beside half a percent: a tick, or
/// what the course finds to.
fn expected(name: &str, knobs: &Knobs<'_>, [jump, tap]: &[Flight; 2], hull: &Hull) -> (f64, f64) {
    let get = |path: &str| knobs.get(path);
    let walk = get("walk.speed").abs();
    let steep = get("slope.max_angle_deg").to_radians();
    let on_slope = |factor: f64| walk * (1.0 + (factor - 1.0) * (steep - 0.0087).sin() / steep.sin());
    let air_jump = |number: i32| get("jump.air_height") * get("jump.air_change").powi(number);
    let terminal = get("fall.terminal_speed");
    let tick = 1.0 / f64::from(RATE);
    match name {
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
        // A step may be a clearance higher than the knob says: the body is so far over it.
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
        "ladder-down-speed" => (get("ladder.down_speed"), 0.0),
        "ladder-slide-speed" => (get("ladder.slide_speed"), 0.0),
        "dash-distance" => (get("dash.distance"), 1e-4),
        "dash-time" => (get("dash.active"), 1e-4),
        // At the ends of ticks: the steepest part of a drive within one.
        "dash-top-speed" => {
            (get("dash.distance") / get("dash.active") * (1.0 + get("dash.curve").abs()), 0.0)
        }
        "dash-cooldown" => (get("dash.cooldown"), 2.0 * 0.1 * tick),
        "roll-distance" => (get("roll.distance"), 1e-4),
        "roll-time" => (get("roll.active"), 1e-4),
        "hop-length" => (get("hop.length"), 1e-4),
        "hop-time" => (get("hop.time"), 2.0 * 0.1 * tick),
        "turn-rate" => (get("turn.rate_deg"), 0.05),
        "turn-half-time" => (45.0 / get("turn.rate_deg"), 1e-4),
        "steer-delay" | "jump-delay" => (0.0, 0.0),
        "glide-fall-speed" => (get("glide.fall_speed").min(terminal), 0.0),
        "glide-distance" => (walk * get("glide.pace") / get("glide.fall_speed").min(terminal), 0.0),
        "swim-speed" => (get("swim.speed"), 0.0),
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
    // From rest at the height of the top.
    let down = knobs.flight(0.0, f64::INFINITY, jump.height).time;
    // Steering is locked until the recovery is over.
    let locked = get("dash.recovery").min(down);
    let (braked, speed) = if left > 0.0 { knobs.drift(left, 0.0, locked) } else { (0.0, 0.0) };
    let (steered, _) = knobs.drift(speed, run, down - locked);
    (run * jump.top + get("dash.distance") + braked + steered, 3.0 * (run + left) / f64::from(RATE))
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
    turn_on("dash.charges", 1.0);
    turn_on("roll.action", 1.0);
    turn_on("slam.action", 2.0);
    turn_on("ledge.reach", 0.3);
    turn_on("jump.air_count", f32::from(dice.u8(..4)));
    if dice.u8(..2) == 0 {
        turn_on("fall.apex_speed", 0.5 + 2.0 * dice.f32());
    }
    if dice.u8(..3) == 0 {
        // Given as such, and not by height and time.
        turn_on("jump.gravity", 15.0 + 25.0 * dice.f32());
        turn_on("jump.take_off_speed", 4.0 + 6.0 * dice.f32());
    }
    tuning.steering = match (dimensions, dice.u8(..8)) {
        (_, 0) => Steering::Hop,
        (3, 1) => Steering::Body,
        _ => Steering::Usual,
    };
    // A round foot climbs and follows more than the knobs say: it rolls over edges.
    TuningFile { title: "any".to_owned(), tuning, hull: Hull::upright_box(0.6, 1.7).unwrap() }
}

/// 300 tunings in the plane and 50 in space: all that the sheet measures is what physics
/// says, to half a percent and a tick, and every figure is met with.
#[test]
fn every_figure_of_the_sheet_is_that_of_an_independent_simulation() {
    let mut seen = std::collections::BTreeSet::new();
    let mut wrong = Vec::new();
    for (dimensions, count) in [(2, 300), (3, 50)] {
        for number in 0..count {
            let mut dice = Rng::with_seed(1000 * dimensions as u64 + number);
            let file = any_file(&mut dice, dimensions);
            let knobs = Knobs(&file.tuning);
            let jumps = [f64::INFINITY, 0.05].map(|held| knobs.flight(knobs.take_off(), held, 0.0));
            for reading in &sheet(&file, dimensions, RATE).readings {
                let (is, slack) = expected(reading.name, &knobs, &jumps, &file.hull);
                seen.insert(reading.name);
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
    let never: Vec<_> = figure_kinds().map(|kind| kind.name).filter(|name| !seen.contains(name)).collect();
    assert!(never.is_empty(), "never measured: {never:?}");
}

/// What depends on where within a tick an edge is come to is measured so slowly that it
/// does not.
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
                let at = |rate: u32| sheet_of(&file, 2, rate, &|kind| kind.name == figure).get(figure);
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
