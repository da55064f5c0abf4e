//! What a body is doing: plain data, copied to be kept.

use crate::level::{CarrierId, PieceId, SurfaceId};
use crate::space::{Frame, Vector};

/// All that a tick knows of a body and leaves behind.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct State<V> {
    /// The middle of the underside, in world coordinates.
    pub position: V,
    /// What rounding took from the position: the body is at `position` +
    /// `remainder`.
    pub remainder: V,
    /// In m/s. On firm footing it lies along the ground and is relative to it.
    pub velocity: V,
    /// The velocity of the ground under the feet, in m/s: that of its carrier.
    /// Zero aloft; what leaves the ground takes it along.
    pub ground_velocity: V,
    /// Where the body's up points, of length 1.
    pub up: V,
    /// Where the player's right points, of length 1, perpendicular to `up`.
    /// It is carried along when `up` changes.
    pub right: V,
    /// Where the body faces, of length 1.
    pub facing: V,
    /// Who is in charge of the body.
    pub mode: Mode,
    /// Who drove the velocity in the last tick.
    pub velocity_owner: Owner,
    /// Who drove the facing in the last tick.
    pub facing_owner: Owner,
    /// What the feet stand on.
    pub footing: Footing<V>,
    /// What an animation should show.
    pub gait: Gait,
    /// Seconds since the gait began.
    pub gait_age: f32,
    /// Whether the body is on its way up from a jump.
    pub rising_from_jump: bool,
    /// Whether jump was let go during that rise.
    pub jump_cut: bool,
    /// Whether the feet last left the ground by a jump.
    pub left_by_jump: bool,
    /// Seconds since the feet left the ground; 0 on it.
    pub aloft_time: f32,
    /// Seconds for which a press of jump still waits for the ground.
    pub jump_waits: f32,
    /// Jumps left in the air.
    pub air_jumps: u8,
    /// The one-way platform that the body lets itself fall through.
    pub passing: Option<PieceId>,
    /// Whether it came against a wall in the last tick.
    pub against_wall: bool,
}

/// Who is in charge of the body.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Mode {
    /// On firm footing.
    Afoot,
    /// In the air, or sliding on ground that is too steep.
    Aloft,
}

/// Which part of the controller drove something.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Owner {
    /// Nothing: it stayed as it was.
    Nobody,
    /// Steering on foot.
    Walk,
    /// Steering and gravity aloft.
    Air,
    /// A jump's take-off.
    Jump,
    /// What the body rides on.
    Carrier,
}

/// Whether the feet stand, and can walk.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum FootingKind {
    /// On nothing.
    None,
    /// On walkable ground.
    Firm,
    /// Touching ground that is too steep.
    Steep,
}

/// What the feet stand on.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Footing<V> {
    /// Whether the feet stand, and can walk.
    pub kind: FootingKind,
    /// The ground's normal, of length 1; the body's up when on nothing.
    pub normal: V,
    /// Where the hull touches the ground, from the body's position.
    pub point: V,
    /// What the ground is made of.
    pub surface: SurfaceId,
    /// What the ground rides on.
    pub carrier: Option<CarrierId>,
    /// Which piece the ground is.
    pub piece: PieceId,
    /// Whether it is solid from above only.
    pub one_way: bool,
}

impl<V: Vector> Footing<V> {
    /// No footing.
    #[must_use]
    pub fn none(up: V) -> Self {
        Self {
            kind: FootingKind::None,
            normal: up,
            point: V::ZERO,
            surface: SurfaceId::default(),
            carrier: None,
            piece: PieceId::default(),
            one_way: false,
        }
    }

    /// The ground's angle in radians, 0 for level ground.
    #[must_use]
    pub fn angle(&self, up: V) -> f32 {
        libm::acosf(self.normal.dot(up).clamp(-1.0, 1.0))
    }

    /// Whether the feet are on walkable ground.
    #[must_use]
    pub fn is_firm(&self) -> bool {
        self.kind == FootingKind::Firm
    }
}

/// What an animation should show.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Gait {
    /// Standing.
    Idle,
    /// Walking.
    Walk,
    /// On the way up.
    Rise,
    /// On the way down.
    Fall,
}

impl Gait {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Idle => "idle",
            Self::Walk => "walk",
            Self::Rise => "rise",
            Self::Fall => "fall",
        }
    }
}

impl Mode {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Afoot => "afoot",
            Self::Aloft => "aloft",
        }
    }
}

impl FootingKind {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Firm => "firm",
            Self::Steep => "steep",
        }
    }
}

impl Owner {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Nobody => "nobody",
            Self::Walk => "walk",
            Self::Air => "air",
            Self::Jump => "jump",
            Self::Carrier => "carrier",
        }
    }
}

impl<V: Vector> State<V> {
    /// A body aloft at `position`, at rest, with the world's up and right.
    #[must_use]
    pub fn at(position: V) -> Self {
        Self {
            position,
            remainder: V::ZERO,
            velocity: V::ZERO,
            ground_velocity: V::ZERO,
            up: V::UP,
            right: V::RIGHT,
            facing: if V::DIMENSION == 2 { V::RIGHT } else { V::FORWARD },
            mode: Mode::Aloft,
            velocity_owner: Owner::Nobody,
            facing_owner: Owner::Nobody,
            footing: Footing::none(V::UP),
            gait: Gait::Fall,
            gait_age: 0.0,
            rising_from_jump: false,
            jump_cut: false,
            left_by_jump: false,
            aloft_time: f32::MAX,
            jump_waits: 0.0,
            air_jumps: 0,
            passing: None,
            against_wall: false,
        }
    }

    /// The same state with `up` pointing elsewhere; right follows by the
    /// shortest way. A vector too short to have a direction changes nothing.
    #[must_use]
    pub fn with_up(mut self, up: V) -> Self {
        if let Some(up) = up.direction() {
            self.up = up;
            self.right = V::right_for(up, self.right);
            let facing = self.facing.slid_along(up).direction();
            self.facing = facing.unwrap_or(self.right);
            self.footing = Footing::none(up);
            self.mode = Mode::Aloft;
        }
        self
    }

    /// The body's own frame.
    #[must_use]
    pub fn frame(&self) -> Frame<V> {
        Frame::new(self.position, self.remainder, self.right, self.up)
    }

    /// The speed along the ground or, aloft, across `up`, in m/s.
    #[must_use]
    pub fn ground_speed(&self) -> f32 {
        self.velocity.slid_along(self.footing.normal).length()
    }
}
