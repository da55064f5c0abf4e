//! The thresholds of the motion, all in one place, each with a name and a reason.
//!
//! None is a knob, because no game has a reason to change it. None is a length in metres: lengths
//! are multiples of the hull's [`clearance`](crate::Hull::clearance), the others are fractions,
//! angles or times. Tolerances of the geometry itself are beside its formulas in `contact`.

/// How far the player must steer.
pub mod steering {
    /// Steering by at least this (of 1) chooses a direction: up or down a ladder or a ledge, down
    /// through a platform, a hop, a fast fall. It is half of the stick's range, because less may be
    /// drift.
    pub const CHOSEN: f32 = 0.5;
    /// Steering toward or away from a wall by at least this (of 1) is intended: holding on, jumping
    /// off. It is below [`CHOSEN`], because an oblique wall gets only a part of the steering.
    pub const MEANT: f32 = 0.3;
    /// Less steering up or down in water (of 1) is ignored.
    pub const IN_WATER: f32 = 0.1;
}

/// What counts as a wall, a ceiling, or the same wall.
pub mod walls {
    /// The height of the normal of a wall that leans back by 1 degree. Planes that lean back
    /// further are steep ground.
    pub const MAX_HEIGHT: f32 = 0.0175;
    /// The height of the normal of a wall that leans over by 60 degrees. Planes that lean over
    /// further are ceilings.
    pub const MIN_HEIGHT: f32 = -0.866;
    /// The height of the normal of a wall whose edge can be held: 20 degrees in either direction. A
    /// ledge needs a wall that is closer to vertical than a wall slide does.
    pub const LEDGE_HEIGHT: f32 = 0.35;
    /// Walls whose normals differ by less than 26 degrees (this is the cosine) are the same wall:
    /// jumps off them are in a row, and a slide on steep ground goes on from one facet to the next.
    pub const ONE_WALL: f32 = 0.9;
    /// The largest angle between the walls at two places along one ledge, as a cosine: 30 degrees.
    /// With less, hands could not follow a round tower.
    pub const ONE_LEDGE: f32 = 0.866;
    /// Walls whose normals differ by less than 8 degrees (this is the cosine) are the same wall to
    /// a body that was pressed against it in the last tick.
    pub const SAME_WALL: f32 = 0.99;
    /// How long a body counts as at a wall that it no longer touches, in tenths of a millisecond:
    /// three to four ticks at 60 per second.
    pub const LINGERS: u16 = 600;
    /// Steering within the angle with this cosine of a wall's normal leads away from the wall.
    pub const AWAY: f32 = 0.5;
    /// A body that moves away from a wall faster than this fraction of its top speed has left it.
    pub const LEAVES: f32 = 0.1;
    /// A body that moves on faster than this fraction of its top speed has passed the end of a wall.
    pub const PASSES: f32 = 0.5;
    /// The largest gap to a wall that counts as touched, in clearances.
    pub const BESIDE: f32 = 3.0;
    /// Corners whose normal points down by less than this are beside the head, not above it.
    pub const BESIDE_HEAD: f32 = -0.02;
}

/// Ledges. Lengths are in clearances.
pub mod ledges {
    /// How far below its edge the wall is probed.
    pub const BELOW_EDGE: f32 = 6.0;
    /// How far to both sides of the centre of the body the wall must continue.
    pub const ASIDE: f32 = 8.0;
    /// The fraction of the duration of a climb that goes up. The rest goes onto the ledge.
    pub const UP: f32 = 0.6;
    /// How far onto the ledge, beyond the hull, the ground is probed.
    pub const ONTO: f32 = 6.0;
    /// How far above the ledge a climbing body rises.
    pub const OVER: f32 = 2.0;
    /// The number of heights that are tried for a climb, between the edge and the highest that the
    /// ground behind it could rise to.
    pub const HEIGHTS: f32 = 8.0;
    /// The smallest cosine of a slope. Cosines that differ by less are equal.
    pub const MIN_COSINE: f32 = 1e-3;
}

/// Moves of the library.
pub mod moves {
    /// A slam slower than this fraction of its speed is blocked.
    pub const SLAM_STUCK: f32 = 0.1;
    /// A body slower than this fraction of the walking speed cannot start a roll without steering.
    pub const ROLL_COASTS: f32 = 0.025;
    /// A body is out of the water when it is higher than this above its floating position, as a
    /// fraction of the hull's height.
    pub const OUT_OF_WATER: f32 = 0.1;
    /// Seconds in which a body near its floating position reaches it. A shorter time looks like a
    /// jerk.
    pub const SETTLING: f32 = 0.15;
    /// The fraction of the water's braking that a body relies on to stop at its floating position.
    /// Less than 1, so that it does not overshoot.
    pub const SLOWS: f32 = 0.6;
    /// A body is where it hangs or floats if it is nearer to it than this, in clearances.
    pub const THERE: f32 = 0.02;
}

/// The ground below the feet. Lengths are in clearances.
pub mod feet {
    /// The ground is looked for within this distance first, as is anything else that holds a body
    /// that leans on a slope.
    pub const NEAR: f32 = 8.0;
    /// A shorter fall is no landing.
    pub const MIN_FALL: f32 = 0.04;
    /// A body that would bounce less high stays on the ground.
    pub const MIN_BOUNCE: f32 = 2.5;
    /// The smallest advance onto a step.
    pub const MIN_ADVANCE: f32 = 3.0;
    /// How far behind the body the slope is probed.
    pub const BEHIND: f32 = 4.0;
    /// Seconds that fast feet look ahead for the ground: one tick at 60 per second. The knob
    /// `slope.ground_snap` is defined by it.
    pub const AHEAD: f32 = 1.0 / 60.0;
    /// Ticks longer than this times [`AHEAD`] are walked in parts. Slightly above 1, so that a tick
    /// of 1/60 s is one part whatever its rounding.
    pub const LONG_TICK: f32 = 1.01;
    /// The maximum number of parts: those of a tick of 0.13 s. A longer tick has longer parts.
    pub const MAX_PARTS: f32 = 8.0;
    /// Seconds after the feet left the ground in which the body still counts as walking.
    pub const JUST_LEFT: f32 = 0.05;
    /// A body that advances toward a slope by less than this fraction of its intended speed is
    /// stopped by it.
    pub const STOPPED: f32 = 0.1;
    /// The sine of the smallest angle between wall and ground: 0.06 degrees. Flatter corners are
    /// rounding errors. Normals and tilts that differ by less are equal.
    pub const MIN_ANGLE: f32 = 1e-3;
}

/// Zones. Lengths are in clearances.
pub mod zones {
    /// How far past a border the body is placed where a tick is split at that border.
    pub const MARGIN: f32 = 0.1;
    /// A body that was in a zone stays in it until it is this far outside. Without this, a body
    /// that bobs on wind or in water enters and leaves in every tick. Found by trial: with half of
    /// it, bodies at 30 ticks per second still did.
    pub const STAYS: f32 = 6.0;
    /// Up directions whose difference is shorter than this are the same.
    pub const SAME_UP: f32 = 1e-5;
}

/// What is drawn.
pub mod drawing {
    /// A body slower than this fraction of the walking speed stands.
    pub const STANDS: f32 = 0.005;
    /// A body faster than this multiple of the walking speed runs.
    pub const RUNS: f32 = 1.05;
    /// The cosine of 60 degrees: a body that moves further aside from its facing strafes.
    pub const ASIDE: f32 = 0.5;
    /// The shortest time for which a gait is shown if only the speed changed, in seconds: three
    /// frames at 60 per second. A shorter change of animation is a flicker.
    pub const FLICKER: f32 = 0.05;
    /// A body whose facing turns faster than this while it stands turns on the spot, in radians per
    /// second.
    pub const TURNS: f32 = 0.5;
    /// The cosine of the smallest angle to the middle of the screen at which a facing mirrors a sprite.
    pub const MIRRORS: f32 = 0.1;
    /// A smaller lean, as a multiple of gravity, is none.
    pub const LEANS: f32 = 1e-3;
    /// A smaller strength of a landing is none.
    pub const LANDS: f32 = 0.01;
    /// A spin that a landing cuts short ends this many times faster than in the air.
    pub const SPIN_ENDS_FASTER: f32 = 3.0;
    /// A height above what walking explains, in clearances, from which it is a step whose drawing
    /// is softened.
    pub const STEP: f32 = 1.0;
    /// A smaller offset, in clearances, is invisible.
    pub const SEEN: f32 = 0.02;
    /// A body faces its target if the angle is smaller than this, in radians.
    pub const FACES: f32 = 1e-5;
    /// The turning rate of a body that is steered by its own axes and has none set: half a turn per
    /// second, in radians.
    pub const TURN_RATE: f32 = core::f32::consts::PI;
}

/// Tolerances for rounding.
pub mod rounding {
    /// Of a displacement along planes, or a speed, as a fraction of it: a micrometre in a tenth of
    /// a metre. It is invisible, and single precision is well below it.
    pub const OF_LENGTH: f32 = 1e-5;
    /// Of a displacement along one plane after several, as a fraction of it.
    pub const ALONG_PLANE: f32 = 1e-4;
    /// Of a speed away from the ground, as a fraction of it.
    pub const OFF_GROUND: f32 = 1e-4;
    /// Of a cosine, so that a plane at exactly the steepest angle does not flicker.
    pub const OF_COSINE: f32 = 1e-4;
    /// Of the distance of a maneuver that ends exactly, as a fraction of it.
    pub const OF_MANEUVER: f32 = 1e-3;
    /// Of a rise along a ceiling, as a fraction of the speed of a jump.
    pub const OF_RISE: f32 = 1e-6;
    /// Smaller turns, in radians, are straight.
    pub const STRAIGHT: f32 = 1e-6;
    /// If no more than this fraction of a fall leads down after it was deflected, the fall makes no
    /// progress.
    pub const LEVEL: f32 = 1e-3;
}

/// How pieces are gathered, and how overlaps are resolved.
pub mod room {
    /// The margin with which more pieces are gathered, in clearances.
    pub const MORE: f32 = 20.0;
    /// Walls that the path meets at 3 degrees or more are felt up to this many slacks further.
    pub const SLACKS_AHEAD: f32 = 20.0;
    /// The distance, in clearances, within which any piece may be left in any direction.
    pub const LEFT_BY: f32 = 4.0;
    /// The smallest push of a carrier, in slacks.
    pub const MIN_PUSH: f32 = 0.01;
    /// A one-way piece that is nearer than the clearance by more than this was above the feet, in
    /// slacks.
    pub const ABOVE_FEET: f32 = 1.25;
}

/// Bodies that meet each other.
pub(crate) mod crowd {
    /// The gap below which two bodies are in conflict, as a fraction of the gap that they keep.
    /// (5 mm for bodies 0.7 m wide would let 3 of 7 million ticks overlap by 0.15 mm.)
    pub const LEAST_GAP: f32 = 0.85;
    /// The same for a body and its rider, which stands as near as feet stand to the ground.
    pub const LEAST_GAP_OF_RIDER: f32 = 0.25;
    /// Bodies that start nearer than that may come nearer by this factor.
    pub const LEAST_OF_START: f32 = 0.98;
    /// Bodies that overlap may come deeper by this fraction of the gap that they keep.
    pub const DEEPER: f32 = 1e-3;
    /// A displacement toward another body that is no more than this fraction of the gap is none.
    pub const APPROACH: f32 = 1e-3;
    /// Bodies that are no further apart than this many times the gap that they keep touch.
    pub const TOUCHING: f32 = 1.5;
    /// A body that is pulled is no further away than this many times the gap that they keep.
    pub const PULLED: f32 = 6.0;
    /// Bodies whose gap is smaller than their spacing by less than this stay, in metres.
    pub const SPREAD_LEAST: f32 = 2e-3;
    /// The time constant of stepping aside, in seconds.
    pub const SPREAD_TIME: f32 = 0.25;
    /// The greatest speed of stepping aside, as a fraction of the walking speed.
    pub const SPREAD_SPEED: f32 = 1.0 / 3.0;
    /// A body that is nearer than this fraction of the gap to one that it follows is no faster.
    pub const FOLLOWS_WITHIN: f32 = 0.995;
    /// The least length of the horizontal part of a normal between bodies that are beside each other.
    pub const BESIDE: f32 = 0.6;
    /// The least cosine between up and the direction from a body to one that is above it.
    pub const ABOVE: f32 = 0.7;
    /// The least part of a speed that is toward a body for pushing it.
    pub const PUSH_ALONG: f32 = 0.3;
    /// The least cosine between the steering of a body and the direction to one that it follows.
    pub const STRAIGHT_AT: f32 = 0.9;
    /// A body that is slower than this fraction of the speed of the one behind it is an obstacle, and
    /// is not followed.
    pub const SLOWEST: f32 = 0.02;
    /// A body whose target speed is below this fraction of its speed slows down.
    pub const NOT_SLOWER: f32 = 0.9;
    /// The number of bisections for the displacement of a body that a maneuver pushes.
    pub const RAM_ROUNDS: usize = 24;
    /// The number of bodies in a queue that walk at the same pace at once. Further ones need more
    /// ticks.
    pub const PACE_ROUNDS: usize = 8;
    /// The least cosine between a push and the direction to the next body that it moves.
    pub const SAME_DIRECTION: f32 = 0.7;
    /// Two bodies that approach each other more slowly than this, in m/s, share the room between
    /// them evenly.
    pub const EVEN_SPEED: f32 = 0.05;
    /// The speed at which overlapping bodies are separated: this many times their half height per
    /// second.
    pub const SEPARATION: f32 = 3.0;
    /// The extent of the box that stands for everything beyond a plane, in half heights.
    pub const PLANE_EXTENT: f32 = 16.0;
    /// The maximum number of bodies on top of each other.
    pub const MAX_STACK: u16 = 64;
    /// The maximum number of bodies that are pushed together.
    pub const MAX_CHAIN: usize = 64;
    /// The number of bodies in a queue that tick one after another. Further ones tick again.
    pub const MOST_WAVES: u16 = 8;
    /// After this many rounds of a tick, a body that is still in conflict stays where it was.
    pub const MAX_ROUNDS: usize = 12;
}
