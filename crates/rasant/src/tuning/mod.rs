//! Every number a designer turns.
//!
//! [`Tuning`] is plain data: read a field, write a field. The same numbers are
//! reached by path through [`Tuning::get`] and [`Tuning::set`], and described
//! by [`KNOBS`], which files, documents and sliders are made from.

mod knob;
mod own;

use crate::name::NameError;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::space::ScaleError;
use alloc::borrow::ToOwned;
use knob::knobs;
pub use knob::{Knob, KnobError, Range, Unit};
pub use own::{KnobTable, Own, OwnKnobs};

knobs! {
    /// How a body moves. Lengths in metres, times in seconds, angles in
    /// radians, switches 0 or 1.
    Tuning;

    rules {
        /// How steer becomes a direction.
        steering: Steering;
        /// What the body turns toward.
        face: Face;
    }

    /// Walking on firm footing.
    walk: Walk {
        /// Top speed along the surface while steering fully. Below 0, steering leads
        /// the opposite way in every move; up and down, and turning, stay.
        speed: "walk.speed", MetresPerSecond, 4.0, -100.0..100.0;
        /// Time from standing to the walking speed. Running and crouching speed
        /// up at the same rate.
        reach_time: "walk.reach_time", Seconds, 0.1, 0.0..10.0;
        /// Time from the walking speed to standing after letting go.
        stop_time: "walk.stop_time", Seconds, 0.08, 0.0..10.0;
        /// Time from the walking speed to standing while steering the other way.
        turn_time: "walk.turn_time", Seconds, 0.06, 0.0..10.0;
        /// A factor on the speed backwards, against the look.
        back: "walk.back", Factor, 1.0, 0.0..2.0;
        /// A factor on the speed sideways to the look.
        side: "walk.side", Factor, 1.0, 0.0..2.0;
        /// The distance between two footfalls; 0 for none.
        stride: "walk.stride", Metres, 0.8, 0.0..10.0;
    }

    /// Running: while run is held.
    run: RunKnobs {
        /// Top speed while running.
        speed: "run.speed", MetresPerSecond, 6.5, 0.0..100.0;
    }

    /// Crouching: while crouch is held on the ground, and for as long as there
    /// is no room to stand up.
    crouch: Crouch {
        /// How high the hull is then; that of the hull itself, or more, for none.
        height: "crouch.height", Metres, 1.1, 0.01..100.0;
        /// Top speed while crouching.
        speed: "crouch.speed", MetresPerSecond, 2.0, 0.0..100.0;
    }

    /// Moving sideways while airborne.
    air: Air {
        /// Time from no sideways speed to the walking speed, airborne.
        reach_time: "air.reach_time", Seconds, 0.25, 0.0..10.0;
        /// Time from the walking speed to none after letting go, airborne.
        stop_time: "air.stop_time", Seconds, 0.6, 0.0..60.0;
        /// Time from the walking speed to none while steering the other way, airborne.
        turn_time: "air.turn_time", Seconds, 0.2, 0.0..10.0;
        /// Whether a speed above the top speed is kept while steering along it.
        /// Off sheds it at the rate of the stop time.
        keep: "air.keep", Switch, 0.0, 0.0..1.0;
    }

    /// Jumping from firm footing, and the gravity that goes with it.
    jump: Jump {
        /// How high the feet rise above the take-off.
        height: "jump.height", Metres, 1.8, 0.01..100.0;
        /// Time from the take-off to the top. Height and time give the
        /// gravity, 2 × height / time², and the take-off speed, 2 × height / time.
        rise_time: "jump.rise_time", Seconds, 0.36, 0.02..10.0;
        /// Gravity given as such, in place of the rise time; 0 to use that.
        gravity: "jump.gravity", MetresPerSecondSquared, 0.0, 0.0..10000.0;
        /// The take-off speed given as such, in place of the height; 0 to use that.
        take_off_speed: "jump.take_off_speed", MetresPerSecond, 0.0, 0.0..1000.0;
        /// How many times heavier gravity is for the rest of a rise once jump is
        /// let go: 1 lets every jump reach its height, but for lighter gravity round
        /// the top, which is for who holds jump.
        cut_gravity: "jump.cut_gravity", Factor, 1.0, 1.0..50.0;
        /// Coyote time: how long after walking off an edge a jump still takes off.
        coyote_time: "jump.coyote_time", Seconds, 0.08, 0.0..2.0;
        /// Jump buffer: how long a press in the air waits for the ground.
        buffer_time: "jump.buffer_time", Seconds, 0.1, 0.0..2.0;
        /// How many more jumps there are in the air; given back by landing, and by
        /// ladders and jumps off walls where their knobs `gives_jumps` say so.
        air_count: "jump.air_count", Count, 0.0, 0.0..9.0;
        /// How high a jump in the air rises.
        air_height: "jump.air_height", Metres, 1.2, 0.01..100.0;
        /// How high each jump in the air rises beside the one before it, as a
        /// factor.
        air_change: "jump.air_change", Factor, 1.0, 0.05..4.0;
        /// Whether holding jump jumps again at every landing.
        repeat: "jump.repeat", Switch, 0.0, 0.0..1.0;
        /// How far to the side a rising head is nudged round the corner of a
        /// ceiling.
        corner: "jump.corner", Metres, 0.0, 0.0..10.0;
        /// How far below a lip the feet may be to be nudged onto it.
        lip: "jump.lip", Metres, 0.0, 0.0..10.0;
        /// How far the body spins in the air of a jump, ending flat on landing.
        spin: "jump.spin_deg", Degrees, 0.0, -3600.0..3600.0;
    }

    /// Falling.
    fall: Fall {
        /// Gravity on the way down, as a factor on that of the rise.
        gravity: "fall.gravity", Factor, 1.0, 0.05..20.0;
        /// The speed that falling never exceeds.
        terminal_speed: "fall.terminal_speed", MetresPerSecond, 25.0, 0.1..1000.0;
        /// Slower than this up or down, gravity is that of the top; 0 for none.
        apex_speed: "fall.apex_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Gravity round the top, as a factor on that of the rise: on the way up while
        /// jump is held, on the way down always. A jump still rises to its height: its
        /// take-off is slower for it.
        apex_gravity: "fall.apex_gravity", Factor, 1.0, 0.05..1.0;
        /// Gravity of a fast fall, while steering down or holding crouch on the
        /// way down, as a factor on that of the fall.
        fast_gravity: "fall.fast_gravity", Factor, 1.0, 1.0..50.0;
        /// The terminal speed of a fast fall; below the usual one, that counts.
        fast_speed: "fall.fast_speed", MetresPerSecond, 0.0, 0.0..1000.0;
    }

    /// Slopes, steps and crests.
    slope: Slope {
        /// The largest angle of a surface that can be walked and stood on. A round
        /// foot over an edge rests on the ground behind it while it touches the edge
        /// at no more than this angle; further out it slips off, unless ground to
        /// stand on is no further below than the feet step up or follow down.
        max_angle: "slope.max_angle_deg", Degrees, 50.0, 0.0..85.0;
        /// The highest step that walking takes without a jump.
        step_height: "slope.step_height", Metres, 0.3, 0.0..10.0;
        /// How far down the feet follow the ground over a crest or down stairs. A fast body
        /// leaves a crest where the ground over the next 1/60 s is further below.
        ground_snap: "slope.ground_snap", Metres, 0.35, 0.0..10.0;
        /// A factor on the speed straight up the steepest slope; less of it on
        /// gentler ones, by the rise a metre along the slope.
        uphill: "slope.uphill", Factor, 1.0, 0.0..2.0;
        /// A factor on the speed straight down the steepest slope; less of it on gentler ones.
        downhill: "slope.downhill", Factor, 1.0, 0.0..2.0;
        /// The speed along ground too steep to stand on that sliding down it
        /// never exceeds.
        slide_speed: "slope.slide_speed", MetresPerSecond, 25.0, 0.1..1000.0;
        /// The half-life in which what is drawn follows a step, up or down; 0 for at
        /// once. The body itself is on the step at once.
        soften_time: "slope.soften_time", Seconds, 0.05, 0.0..2.0;
        /// How much of the air's steering works while sliding down steep ground.
        slide_steer: "slope.slide_steer", Factor, 1.0, 0.0..1.0;
    }

    /// Riding on carriers.
    ride: RideKnobs {
        /// The acceleration of the ground, downward or in a stop on the way up,
        /// beyond which feet let go of it; 0 for never. That is the default: riders
        /// keep to a lift that falls faster than they would, and one that stops
        /// dead throws nobody. With the acceleration of gravity, the first is left
        /// behind, and the second throws its rider with the velocity it had; less than
        /// that of the fall counts as that.
        let_go: "ride.let_go", MetresPerSecondSquared, 0.0, 0.0..10000.0;
    }

    /// Sliding down walls and jumping off them.
    wall: Wall {
        /// The speed of a slide down a wall; 0 for no slide.
        slide_speed: "wall.slide_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Whether a touch is enough. Off asks for steering into the wall.
        by_touch: "wall.by_touch", Switch, 0.0, 0.0..1.0;
        /// How high a jump off a wall rises; 0 for none.
        jump_height: "wall.jump_height", Metres, 0.0, 0.0..100.0;
        /// The speed away from the wall at the take-off.
        jump_away: "wall.jump_away", MetresPerSecond, 5.0, 0.0..100.0;
        /// How long after leaving a wall a jump off it still takes off.
        grace_time: "wall.grace_time", Seconds, 0.08, 0.0..2.0;
        /// How long after the take-off steering back is weak.
        back_time: "wall.back_time", Seconds, 0.2, 0.0..10.0;
        /// How weak it is then: a factor on steering toward the wall.
        back: "wall.back", Factor, 0.1, 0.0..1.0;
        /// How many jumps in a row there are off walls that face the same way.
        in_a_row: "wall.in_a_row", Count, 9.0, 0.0..99.0;
        /// Whether a jump off a wall gives back the jumps in the air.
        gives_jumps: "wall.gives_jumps", Switch, 0.0, 0.0..1.0;
    }

    /// Ladders.
    ladder: Ladder {
        /// The speed up a ladder.
        up_speed: "ladder.up_speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The speed down a ladder.
        down_speed: "ladder.down_speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The speed of sliding down it, steering down with crouch held.
        slide_speed: "ladder.slide_speed", MetresPerSecond, 6.0, 0.0..100.0;
        /// How high a jump off a ladder rises; 0 only lets go.
        jump_height: "ladder.jump_height", Metres, 0.8, 0.0..100.0;
        /// How long after letting go a ladder is not taken hold of again.
        wait_time: "ladder.wait_time", Seconds, 0.25, 0.0..10.0;
        /// Whether a ladder gives back the jumps in the air.
        gives_jumps: "ladder.gives_jumps", Switch, 1.0, 0.0..1.0;
    }

    /// Turning the body.
    turn: Turn {
        /// How quickly it turns; 0 at once. Steering by the body turns at this
        /// rate, and at 180° a second where it is 0.
        rate: "turn.rate_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The time in which half of a turn is done, for turning softly; 0 for
        /// none.
        half_life: "turn.half_life", Seconds, 0.0, 0.0..10.0;
        /// Walking where one looks: past this pitch. Below 0 it is past it
        /// downward.
        gaze: "turn.gaze_deg", Degrees, -25.0, -89.0..89.0;
    }

    /// A dash, by the action dash.
    dash: Dash {
        /// How many dashes are in store at most; 0 for no dash.
        charges: "dash.charges", Count, 0.0, 0.0..9.0;
        /// How far it goes.
        distance: "dash.distance", Metres, 3.5, 0.0..1000.0;
        /// How long it drives.
        active: "dash.active", Seconds, 0.18, 0.01..10.0;
        /// How long it holds still before.
        startup: "dash.startup", Seconds, 0.0, 0.0..10.0;
        /// How long it keeps the body after.
        recovery: "dash.recovery", Seconds, 0.0, 0.0..10.0;
        /// How long after that the next may begin.
        cooldown: "dash.cooldown", Seconds, 0.3, 0.0..60.0;
        /// How the speed falls off: 0 evenly fast, 1 from twice the mean speed
        /// to none, -1 the other way.
        curve: "dash.curve", Factor, 0.0, -1.0..1.0;
        /// How quickly steering turns it on its way.
        turn: "dash.turn_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The speed kept at its end; that of the dash itself at most.
        end_speed: "dash.end_speed", MetresPerSecond, 4.0, 0.0..1000.0;
        /// Whether gravity works meanwhile.
        gravity: "dash.gravity", Switch, 0.0, 0.0..1.0;
        /// Whether it goes where the body faces. Off asks the steering first.
        by_facing: "dash.by_facing", Switch, 0.0, 0.0..1.0;
        /// Whether it keeps to eight directions; in a side view, up and down
        /// among them.
        eight_ways: "dash.eight_ways", Switch, 0.0, 0.0..1.0;
        /// How many there are between leaving the ground and landing.
        air_count: "dash.air_count", Count, 1.0, 0.0..9.0;
        /// Whether standing gives all of them back.
        from_ground: "dash.from_ground", Switch, 1.0, 0.0..1.0;
        /// The time that gives one back; 0 for never.
        recharge_time: "dash.recharge_time", Seconds, 0.0, 0.0..600.0;
    }

    /// Taking hold of edges from the air, hanging from them and climbing up.
    ledge: Ledge {
        /// How far before a wall hands reach for its edge; 0 for no ledges.
        reach: "ledge.reach", Metres, 0.0, 0.0..10.0;
        /// How high above the feet the edge is that hands hold.
        height: "ledge.height", Metres, 1.6, 0.05..100.0;
        /// How far above or below the hands an edge may be to be taken.
        window: "ledge.window", Metres, 0.25, 0.01..10.0;
        /// How quickly the body comes to hang.
        pull_speed: "ledge.pull_speed", MetresPerSecond, 6.0, 0.1..100.0;
        /// The speed along it, where it is steered sideways; 0 for not at all. Only in space.
        along_speed: "ledge.along_speed", MetresPerSecond, 1.2, 0.0..100.0;
        /// How long climbing up takes. Where there is only room to crouch, the body climbs into a
        /// crouch.
        climb_time: "ledge.climb_time", Seconds, 0.4, 0.01..10.0;
        /// How high a jump off it rises; 0 for none.
        jump_height: "ledge.jump_height", Metres, 1.2, 0.0..100.0;
        /// The speed away from the wall of that jump.
        jump_away: "ledge.jump_away", MetresPerSecond, 4.0, 0.0..100.0;
        /// How long after letting go it takes no other.
        wait_time: "ledge.wait_time", Seconds, 0.3, 0.0..10.0;
    }

    /// Swimming: in water deep enough to float in.
    swim: Swim {
        /// The speed of a full wish, in every direction: up and down by the stick in a side view, by
        /// the look in space. 0 for sinking like a stone.
        speed: "swim.speed", MetresPerSecond, 2.5, 0.0..100.0;
        /// The time from rest to that speed and back.
        reach_time: "swim.reach_time", Seconds, 0.5, 0.0..10.0;
        /// How deep a body sinks after a low fall, as a fraction of the height of the fall.
        sink: "swim.sink", Factor, 1.0, 0.05..20.0;
        /// How much more strongly water brakes a fast fall, a metre: by this times the square of the
        /// speed. 0 makes every fall as deep as it is high, times `swim.sink`.
        drag: "swim.drag", PerMetre, 0.2, 0.0..100.0;
        /// How much of the hull's height floats under the surface.
        float: "swim.float", Factor, 0.75, 0.05..1.0;
        /// The speed with which it floats up; below 0 it sinks with that.
        float_speed: "swim.float_speed", MetresPerSecond, 1.5, -100.0..100.0;
        /// Deeper than this under where it floats, it stays where it is; 0 for floating up from
        /// everywhere.
        neutral_depth: "swim.neutral_depth", Metres, 0.0, 0.0..1000.0;
        /// Swimming forward goes where one looks, up or down, from this pitch on; 90 for never.
        pitch: "swim.pitch_deg", Degrees, 30.0, 0.0..90.0;
        /// The speed down while crouch is held, and up while jump is.
        dive_speed: "swim.dive_speed", MetresPerSecond, 2.0, 0.0..100.0;
        /// How high above where it floats a jump out of the water rises; 0 for none.
        jump_height: "swim.jump_height", Metres, 1.2, 0.0..100.0;
    }

    /// Gliding: while jump is held on the way down.
    glide: Glide {
        /// The speed of a fall then; 0 for no gliding.
        fall_speed: "glide.fall_speed", MetresPerSecond, 0.0, 0.0..100.0;
        /// Gravity on the way to that speed, as a factor on that of the fall.
        gravity: "glide.gravity", Factor, 0.5, 0.01..1.0;
        /// The time from the terminal speed to none, of a faster fall that is braked.
        brake_time: "glide.brake_time", Seconds, 0.4, 0.0..10.0;
        /// A factor on the speed sideways.
        pace: "glide.pace", Factor, 1.0, 0.0..4.0;
        /// A factor on the times in which steering changes that: above 1, it is
        /// slower.
        times: "glide.times", Factor, 1.5, 0.01..20.0;
        /// How long it glides between two landings; 0 for as long as it likes.
        max_time: "glide.max_time", Seconds, 0.0, 0.0..600.0;
    }

    /// Slamming down from the air, by one of the game's own actions.
    slam: Slam {
        /// Which of the game's own actions begins it, 0 to 27; -1 for no slam.
        action: "slam.action", Count, -1.0, -1.0..27.0;
        /// How long it hangs in the air before.
        startup: "slam.startup", Seconds, 0.12, 0.0..10.0;
        /// The speed down.
        speed: "slam.speed", MetresPerSecond, 20.0, 0.1..1000.0;
        /// How long the ground keeps the body after.
        recovery: "slam.recovery", Seconds, 0.25, 0.0..10.0;
    }

    /// A roll along the ground, by one of the game's own actions.
    roll: Roll {
        /// Which of the game's own actions begins it, 0 to 27; -1 for no roll.
        action: "roll.action", Count, -1.0, -1.0..27.0;
        /// How far it goes.
        distance: "roll.distance", Metres, 3.0, 0.0..1000.0;
        /// How long it drives.
        active: "roll.active", Seconds, 0.4, 0.01..10.0;
        /// How long it holds still before.
        startup: "roll.startup", Seconds, 0.05, 0.0..10.0;
        /// How long it keeps the body after.
        recovery: "roll.recovery", Seconds, 0.15, 0.0..10.0;
        /// How long after that the next may begin.
        cooldown: "roll.cooldown", Seconds, 0.2, 0.0..60.0;
        /// How the speed falls off, as of a dash.
        curve: "roll.curve", Factor, 0.3, -1.0..1.0;
        /// How quickly steering turns it on its way.
        turn: "roll.turn_deg", DegreesPerSecond, 0.0, 0.0..7200.0;
        /// The speed kept at its end; that of the roll itself at most.
        end_speed: "roll.end_speed", MetresPerSecond, 2.0, 0.0..1000.0;
        /// How high the hull is meanwhile.
        height: "roll.height", Metres, 0.9, 0.01..100.0;
        /// What the startup locks: the sum of 1 for steering, 2 for jumping and 4
        /// for turning.
        startup_locks: "roll.startup_locks", Count, 7.0, 0.0..7.0;
        /// What the drive locks.
        active_locks: "roll.active_locks", Count, 7.0, 0.0..7.0;
        /// What the recovery locks.
        recovery_locks: "roll.recovery_locks", Count, 3.0, 0.0..7.0;
    }

    /// Walking by whole steps, with steering by hops.
    hop: Hop {
        /// The length of a step.
        length: "hop.length", Metres, 1.0, 0.01..100.0;
        /// How long a step takes.
        time: "hop.time", Seconds, 0.2, 0.01..10.0;
        /// How high its arc is drawn.
        arc: "hop.arc", Metres, 0.25, 0.0..100.0;
        /// How many steps are one hop while run is held.
        run_steps: "hop.run_steps", Count, 2.0, 1.0..9.0;
        /// How long a hop of several steps takes; 0 for as long as its steps one by one.
        run_time: "hop.run_time", Seconds, 0.0, 0.0..10.0;
        /// Whether steering on the way waits for its end. Off refuses it.
        queue: "hop.queue", Switch, 1.0, 0.0..1.0;
        /// How long it stands between two hops.
        cooldown: "hop.cooldown", Seconds, 0.0, 0.0..10.0;
    }
}

/// How steer becomes a direction.
///
/// In two dimensions, all but [`Steering::Side`] make a body seen from above:
/// it has no gravity and no up, and moves over the whole plane.
///
/// ```
/// use rasant::{Face, Steering, Tuning};
///
/// // A third person: the stick goes where the camera looks, the body turns to where it goes.
/// let tuning = Tuning { steering: Steering::View, face: Face::Steer, ..Tuning::default() };
/// assert_eq!(tuning.steering, Steering::View);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Steering {
    /// [`Steering::Side`] in two dimensions, [`Steering::View`] in three.
    #[default]
    Usual,
    /// Left and right only.
    Side,
    /// The screen's axes, however one looks.
    Plan,
    /// Turned by the yaw of the look.
    View,
    /// Sideways turns the body, forward and back drive it where it faces.
    Body,
    /// Walks where one looks while the pitch is past `turn.gaze_deg`.
    Gaze,
    /// By whole steps along the screen's axes.
    Hop,
}

/// What a body turns toward.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
#[non_exhaustive]
pub enum Face {
    /// Where it is steered; it stays when the steering stops.
    #[default]
    Steer,
    /// Where the player looks.
    Look,
    /// It does not turn.
    Fixed,
}

impl Steering {
    /// Every way, with its name in files.
    pub const NAMES: [(&'static str, Self); 7] = [
        ("usual", Self::Usual),
        ("side", Self::Side),
        ("plan", Self::Plan),
        ("view", Self::View),
        ("body", Self::Body),
        ("gaze", Self::Gaze),
        ("hop", Self::Hop),
    ];

    /// The way meant in a world of two or three dimensions.
    #[must_use]
    pub fn in_dimension(self, dimension: usize) -> Self {
        match (self, dimension) {
            (Self::Usual, 2) => Self::Side,
            (Self::Usual, _) => Self::View,
            (other, _) => other,
        }
    }

    /// Whether it makes a body without gravity and up, in a world of two
    /// dimensions.
    #[must_use]
    pub fn is_from_above(self, dimension: usize) -> bool {
        dimension == 2 && !matches!(self, Self::Usual | Self::Side)
    }
}

impl Face {
    /// Every rule, with its name in files.
    pub const NAMES: [(&'static str, Self); 3] =
        [("steer", Self::Steer), ("look", Self::Look), ("fixed", Self::Fixed)];
}

macro_rules! by_names {
    ($($Type:ident)*) => {$(
        impl core::fmt::Display for $Type {
            fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
                f.pad(Self::NAMES.iter().find(|(_, one)| one == self).map_or("", |(name, _)| name))
            }
        }

        impl core::str::FromStr for $Type {
            type Err = NameError;

            fn from_str(text: &str) -> Result<Self, NameError> {
                let known = Self::NAMES.iter().find(|(name, _)| *name == text);
                known.map(|(_, one)| *one).ok_or_else(|| NameError::unknown(text))
            }
        }
    )*};
}

by_names! { Steering Face }

impl Tuning {
    /// Gravity of a rise as a rate in m/s²: `jump.gravity` where it is given,
    /// else 2 × jump height / rise time², from h = g·t²/2.
    #[must_use]
    pub fn gravity(&self) -> f32 {
        if self.jump.gravity > 0.0 {
            return self.jump.gravity;
        }
        2.0 * self.jump.height / (self.jump.rise_time * self.jump.rise_time)
    }

    /// The upward speed at the take-off of a jump in m/s: `jump.take_off_speed`
    /// where it is given, else that which rises to the jump's height.
    #[must_use]
    pub fn take_off_speed(&self) -> f32 {
        if self.jump.take_off_speed > 0.0 {
            return self.jump.take_off_speed;
        }
        self.speed_to_rise(self.jump.height)
    }

    /// The height that a jump from the ground reaches, jump held: the height
    /// asked for, or what the take-off speed gives.
    #[must_use]
    pub fn jump_height(&self) -> f32 {
        if self.jump.take_off_speed <= 0.0 {
            return self.jump.height;
        }
        let (gravity, speed) = (self.gravity(), self.jump.take_off_speed);
        let slow = speed.min(self.fall.apex_speed);
        (speed * speed - slow * slow) / (2.0 * gravity)
            + slow * slow / (2.0 * gravity * self.fall.apex_gravity)
    }

    /// The upward speed in m/s that rises by `height`: √(2·g·h), less where
    /// gravity is lighter round the top. There, below the speed u, it is a·g, so
    /// that h = (v² − u²) / 2g + u² / 2ag.
    #[must_use]
    pub fn speed_to_rise(&self, height: f32) -> f32 {
        let gravity = self.gravity();
        let (slow, lighter) = (self.fall.apex_speed, self.fall.apex_gravity);
        let within_top = 2.0 * lighter * gravity * height;
        if within_top <= slow * slow {
            return within_top.sqrt();
        }
        (2.0 * gravity * height + slow * slow * (1.0 - 1.0 / lighter)).sqrt()
    }

    /// How high jump number `number` in the air rises, from 0.
    #[must_use]
    pub fn air_jump_height(&self, number: u8) -> f32 {
        self.jump.air_height * libm::powf(self.jump.air_change, f32::from(number))
    }

    /// The same motion in a world whose lengths are `factor` times as large, as
    /// in pixels: lengths and speeds grow, times and angles stay, and the knobs' ranges grow with
    /// them. Scale the hull and the level as well. For powers of two from 1/64 to 64 the
    /// motion is then the same to the bit.
    ///
    /// # Errors
    /// When `factor` is not a finite number above 0.
    ///
    /// ```
    /// use rasant::{Hull, Tuning};
    ///
    /// let pixels = 32.0; // in a metre
    /// let mut tuning = Tuning::default().scaled(pixels)?;
    /// tuning.set("walk.speed", 5.0 * pixels)?;
    /// let hull = Hull::capsule(0.35, 1.8)?.scaled(pixels)?;
    /// assert_eq!(hull.height(), 57.6);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn scaled(mut self, factor: f32) -> Result<Self, ScaleError> {
        ScaleError::check(factor)?;
        for knob in self.knobs() {
            if let Some(slot) = self.slot(knob.path) {
                *slot *= knob.unit.scale(factor);
            }
        }
        self.scale *= factor;
        Ok(self)
    }

    /// The value of the knob at `path`, in the unit of files (angles in
    /// degrees).
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when there is no such knob.
    pub fn get(&self, path: &str) -> Result<f32, KnobError> {
        let knob = self.knob(path)?;
        let mut copy = *self;
        let slot = copy.slot(path).ok_or_else(|| KnobError::Unknown(path.to_owned()))?;
        Ok(*slot / knob.unit.in_code())
    }

    /// Turns the knob at `path` to `value`, in the unit of files (angles in
    /// degrees).
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when there is no such knob, [`KnobError::Range`]
    /// when the value is outside its range or NaN. The tuning is then as it
    /// was.
    pub fn set(&mut self, path: &str, value: f32) -> Result<(), KnobError> {
        let knob = self.knob(path)?.scaled(self.scale);
        let broken = knob.unit.is_whole() && value.fract() != 0.0;
        if broken || !(knob.min..=knob.max).contains(&value) {
            return Err(KnobError::Range { knob, value });
        }
        let slot = self.slot(path).ok_or_else(|| KnobError::Unknown(path.to_owned()))?;
        *slot = value * knob.unit.in_code();
        Ok(())
    }

    /// The description of the knob at `path`, with its range at a scale of 1: see
    /// [`Knob::scaled`].
    ///
    /// # Errors
    /// [`KnobError::Unknown`] when there is no such knob.
    pub fn knob(&self, path: &str) -> Result<&'static Knob, KnobError> {
        let ours = KNOBS.iter().find(|knob| knob.path == path);
        ours.or_else(|| self.own.knob(path)).ok_or_else(|| KnobError::Unknown(path.to_owned()))
    }

    /// Checks that every knob is within its range.
    ///
    /// # Errors
    /// [`KnobError::Range`] naming the first that is not, [`KnobError::Scale`], or
    /// [`KnobError::Detached`].
    pub fn checked(&self) -> Result<(), KnobError> {
        if self.is_detached() {
            return Err(KnobError::Detached);
        }
        self.in_range()
    }

    fn in_range(&self) -> Result<(), KnobError> {
        ScaleError::check(self.scale)?;
        self.knobs().into_iter().try_for_each(|knob| {
            let knob = knob.scaled(self.scale);
            let value = self.get(knob.path)?;
            // Degrees to radians and back may be off in the last place.
            let slack = knob.max.abs() * 4.0 * f32::EPSILON;
            if (knob.min - slack..=knob.max + slack).contains(&value) {
                Ok(())
            } else {
                Err(KnobError::Range { knob, value })
            }
        })
    }
}
