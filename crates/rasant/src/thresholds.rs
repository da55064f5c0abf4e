//! The thresholds of the motion, defined together: each with a name and a reason, none twice.
//!
//! None is a knob, because no game has a reason to change it, and none is a length in metres:
//! lengths are in clearances of the hull ([`Hull::clearance`](crate::Hull::clearance)), others are
//! fractions, angles or times. Tolerances of the geometry itself stand beside its formulas in
//! `contact`.

/// How far the player must steer.
pub mod steering {
    /// Steering by at least this, of 1, chooses a direction: up or down a ladder or a ledge, down
    /// through a platform, a hop, a fast fall. Half of the stick: less may be drift.
    pub const CHOSEN: f32 = 0.5;
    /// Steering toward or away from a wall, of 1, from which it is meant: holding on, jumping off.
    /// Below [`CHOSEN`], because a wall that stands aslant gets a part of the steering only.
    pub const MEANT: f32 = 0.3;
    /// Less steering up or down in water, of 1, is none.
    pub const IN_WATER: f32 = 0.1;
}

/// What counts as a wall, a ceiling, or one wall.
pub mod walls {
    /// The height of the normal of a wall that leans back by 1 degree. A plane that leans back
    /// further is steep ground.
    pub const MAX_HEIGHT: f32 = 0.0175;
    /// The height of the normal of a wall that leans over by 60 degrees. A plane that leans over
    /// further is a ceiling.
    pub const MIN_HEIGHT: f32 = -0.866;
    /// The height of the normal of a wall whose edge hands can hold: 20 degrees either way. Hands
    /// need a wall that is more upright than a slide does.
    pub const LEDGE_HEIGHT: f32 = 0.35;
    /// Walls whose normals are this alike, as a cosine (26 degrees), are one wall: jumps off them
    /// are in a row, and a slide on steep ground goes on from one facet to the next.
    pub const ONE_WALL: f32 = 0.9;
    /// The walls at two places along one ledge, as a cosine: 30 degrees. Less and hands could not
    /// follow a round tower.
    pub const ONE_LEDGE: f32 = 0.866;
    /// Walls whose normals differ by less than 8 degrees, as a cosine, are the same wall to a body
    /// that was pressed against it in the last tick.
    pub const SAME_WALL: f32 = 0.99;
    /// How far a wall may be to count as touched, in clearances.
    pub const BESIDE: f32 = 3.0;
    /// Corners whose normal points down by less than this are beside the head, not over it.
    pub const BESIDE_HEAD: f32 = -0.02;
}

/// Ledges, in clearances where nothing else is said.
pub mod ledges {
    /// How far under its edge a wall is looked for before the middle of the body.
    pub const BELOW_EDGE: f32 = 6.0;
    /// How far to both sides of the middle of the body a wall must go on.
    pub const ASIDE: f32 = 8.0;
    /// How much of the time of a climb goes up, of 1; the rest goes onto the ledge.
    pub const UP: f32 = 0.6;
    /// How far onto the ledge hands look for it, beyond the hull.
    pub const ONTO: f32 = 6.0;
    /// How far above its ledge a body that climbs it comes.
    pub const OVER: f32 = 2.0;
    /// Heights between the edge and as high as the ground behind it could rise that are tried for
    /// a climb: a count.
    pub const HEIGHTS: f32 = 8.0;
    /// Cosines of slopes are at least this, and closer than this the same.
    pub const MIN_COSINE: f32 = 1e-3;
}

/// Moves of the library.
pub mod moves {
    /// A slam slower than this fraction of its speed is held up by something.
    pub const SLAM_STUCK: f32 = 0.1;
    /// A body slower than this fraction of the walking speed does not coast into a roll.
    pub const ROLL_COASTS: f32 = 0.025;
    /// Higher than this above where it floats, as a fraction of the hull's height, a body is out of
    /// the water.
    pub const OUT_OF_WATER: f32 = 0.1;
    /// Seconds to come to the place where the body floats from nearby: shorter is a jerk.
    pub const SETTLING: f32 = 0.15;
    /// How much of the braking of water a body counts on to stop where it floats: less than all of
    /// it, so that it does not come too far.
    pub const SLOWS: f32 = 0.6;
    /// Nearer than this to where it hangs or floats, in clearances, the body is there.
    pub const THERE: f32 = 0.02;
}

/// What is below feet, in clearances where nothing else is said.
pub mod feet {
    /// Within this the ground is looked for first, and what else holds a body that leans on a
    /// slope.
    pub const NEAR: f32 = 8.0;
    /// A fall from less is no landing.
    pub const MIN_FALL: f32 = 0.04;
    /// A body stays on ground that would throw it less high.
    pub const MIN_BOUNCE: f32 = 2.5;
    /// The least advance onto a step.
    pub const MIN_ADVANCE: f32 = 3.0;
    /// How far behind the body the slope is looked for.
    pub const BEHIND: f32 = 4.0;
    /// Seconds that fast feet feel ahead for the ground: one usual tick. The knob
    /// `slope.ground_snap` is defined by it.
    pub const AHEAD: f32 = 1.0 / 60.0;
    /// Ticks longer than this times [`AHEAD`] are walked in parts: one of 1/60 s is one part,
    /// whatever its rounding.
    pub const LONG_TICK: f32 = 1.01;
    /// The most parts of a long tick, of 0.13 s; a longer one has longer parts.
    pub const MAX_PARTS: f32 = 8.0;
    /// Seconds since feet have left the ground in which they still count as walking.
    pub const JUST_LEFT: f32 = 0.05;
    /// A body that goes toward a slope by less than this fraction of the speed asked for is
    /// stopped by it.
    pub const STOPPED: f32 = 0.1;
    /// The sine of the least angle between wall and ground: 0.06 degrees. Flatter corners are
    /// rounding. Normals and tilts that differ by less are the same.
    pub const MIN_ANGLE: f32 = 1e-3;
}

/// Zones, in clearances.
pub mod zones {
    /// How far past a border the body is put where a tick is cut in two there.
    pub const MARGIN: f32 = 0.1;
    /// A body that was in a zone stays in it until it is this far outside. Without this a body that
    /// bobs on wind or in water comes in and out in every tick. Chosen by trial: with half of it,
    /// bodies at 30 ticks per second still did so.
    pub const STAYS: f32 = 6.0;
    /// Directions of up that differ by less, as a distance, are the same.
    pub const SAME_UP: f32 = 1e-5;
}

/// What is drawn.
pub mod drawing {
    /// A body slower than this fraction of the walking speed stands.
    pub const STANDS: f32 = 0.005;
    /// A body faster than this times the walking speed runs.
    pub const RUNS: f32 = 1.05;
    /// The cosine of 60 degrees: a body that goes further aside from where it faces strafes.
    pub const ASIDE: f32 = 0.5;
    /// Seconds for which a gait is shown at least, where only the speed has changed: three frames
    /// at 60 a second, below which a change of animation is a flicker.
    pub const FLICKER: f32 = 0.05;
    /// How many times faster than in the air a spin that a landing cut short ends.
    pub const SPIN_ENDS_FASTER: f32 = 3.0;
    /// Height above what walking explains, in clearances, from which it is a step that is softened.
    pub const STEP: f32 = 1.0;
    /// An offset of less, in clearances, is not seen.
    pub const SEEN: f32 = 0.02;
    /// Nearer than this to where it turns, in radians, a body faces there.
    pub const FACES: f32 = 1e-5;
    /// The turn of a body that is steered by its own axes and whose turning rate is not given: half
    /// a turn a second, in radians.
    pub const TURN_RATE: f32 = core::f32::consts::PI;
}

/// What rounding may do.
pub mod rounding {
    /// To a displacement along planes or a speed, as a fraction of it: a micrometre in a tenth of a
    /// metre. It cannot be seen, and single precision stays well below.
    pub const OF_LENGTH: f32 = 1e-5;
    /// To a displacement along one plane after several, as a fraction of it.
    pub const ALONG_PLANE: f32 = 1e-4;
    /// To a speed away from the ground, as a fraction of it.
    pub const OFF_GROUND: f32 = 1e-4;
    /// To a cosine: a plane at exactly the steepest angle does not flicker.
    pub const OF_COSINE: f32 = 1e-4;
    /// To the distance of a maneuver that ends exactly, as a fraction of it.
    pub const OF_MANEUVER: f32 = 1e-3;
    /// To a rise along a ceiling, as a fraction of the speed of a jump.
    pub const OF_RISE: f32 = 1e-6;
    /// Turns of less, in radians, are straight.
    pub const STRAIGHT: f32 = 1e-6;
    /// A fall that is turned so far aside that no more than this fraction of it leads down goes
    /// nowhere.
    pub const LEVEL: f32 = 1e-3;
}

/// How pieces are gathered and pushed out of.
pub mod room {
    /// Clearances of room with which more is gathered.
    pub const MORE: f32 = 20.0;
    /// How many slacks further walls are felt that stand in the path at 3 degrees and more.
    pub const SLACKS_AHEAD: f32 = 20.0;
    /// Clearances by which any piece may be left, wherever that leads.
    pub const LEFT_BY: f32 = 4.0;
    /// The least push of a carrier, in slacks.
    pub const MIN_PUSH: f32 = 0.01;
    /// A one-way piece nearer than the clearance by more than this was above the feet, in slacks.
    pub const ABOVE_FEET: f32 = 1.25;
}
