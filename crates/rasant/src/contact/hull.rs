//! The body's collision shape.

use thiserror::Error;

use crate::level::Layers;
use crate::space::{MAX_LENGTH, MIN_LENGTH, ScaleError, Vector};

/// A body's collision shape, upright along the body's up.
///
/// The position of a body is the middle of its underside, or the centre of the whole hull for a
/// body seen from above. Around the shape is the clearance, a thin gap that is kept to every piece:
/// feet stand that far above the ground, and the pose is drawn without it.
///
/// ```
/// use rasant::{Hull, Layers};
///
/// let hull = Hull::capsule(0.35, 1.8)?.with_mask(Layers::GROUND);
/// assert_eq!((hull.height(), hull.half_width()), (1.8, 0.35));
/// assert!(Hull::ball(-1.0).is_err());
/// # Ok::<(), rasant::contact::HullError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize), serde(try_from = "Unchecked"))]
pub struct Hull {
    shape: HullShape,
    clearance: f32,
    mask: Layers,
    /// The height of the body's position above the underside, which does not change in a crouch.
    origin: f32,
}

/// A hull that was read by serde and is not yet checked.
#[cfg(feature = "serde")]
#[derive(serde::Deserialize)]
struct Unchecked {
    shape: HullShape,
    clearance: f32,
    mask: Layers,
    origin: f32,
}

#[cfg(feature = "serde")]
impl TryFrom<Unchecked> for Hull {
    type Error = HullError;

    fn try_from(read: Unchecked) -> Result<Self, HullError> {
        let Unchecked { shape, clearance, mask, origin } = read;
        let hull = Self::new(shape)?.with_clearance(clearance)?.with_mask(mask);
        range("origin", origin, 0.0, f32::MAX)?;
        Ok(Self { origin, ..hull })
    }
}

/// The shape of a hull.
///
/// ```
/// use rasant::{Hull, HullShape};
///
/// let crate_like = HullShape::Box { width: 0.8, depth: 0.5, height: 1.5, rounding: 0.1 };
/// assert_eq!(Hull::new(crate_like)?.shape(), crate_like);
/// # Ok::<(), rasant::contact::HullError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum HullShape {
    /// An upright capsule; in two dimensions a stadium.
    Capsule {
        /// The radius of the round ends and the side.
        radius: f32,
        /// The length from end to end, at least twice the radius.
        height: f32,
    },
    /// A ball; in two dimensions a disc.
    Ball {
        /// The radius, above 0.
        radius: f32,
    },
    /// A box along the body's axes.
    Box {
        /// Along x.
        width: f32,
        /// Along z; not used in two dimensions.
        depth: f32,
        /// Along up.
        height: f32,
        /// The radius of its edges and corners, from 0 to half its smallest side.
        rounding: f32,
    },
}

/// Why a hull cannot be made.
///
/// ```
/// use rasant::Hull;
///
/// let error = Hull::capsule(0.4, 0.5).unwrap_err();
/// println!("{error}"); // the height must be at least twice the radius
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Error)]
#[non_exhaustive]
pub enum HullError {
    /// A size is outside [`MIN_LENGTH`] to [`MAX_LENGTH`], or NaN.
    #[error("{name} is {value}, expected a number above 0, from {MIN_LENGTH} to {MAX_LENGTH} m")]
    Size {
        /// The size.
        name: &'static str,
        /// The value.
        value: f32,
    },
    /// A size is outside the range that the others allow.
    #[error("{name} is {value}, expected {least} to {most}")]
    Range {
        /// The size.
        name: &'static str,
        /// The value.
        value: f32,
        /// The smallest value allowed.
        least: f32,
        /// The largest value allowed.
        most: f32,
    },
}

/// The default clearance, as a fraction of half the hull's width: 5 mm for a width of 0.7 m.
const CLEARANCE: f32 = 1.0 / 70.0;

impl Hull {
    /// A hull with this shape, stopped by every layer. Its clearance is 1/140 of its width: 5 mm
    /// for a width of 0.7 m.
    ///
    /// # Errors
    /// If a size is not above 0, a capsule is lower than twice its radius, or a rounding is more
    /// than half the smallest side.
    pub fn new(shape: HullShape) -> Result<Self, HullError> {
        shape.check()?;
        let hull = Self { shape, clearance: 0.0, mask: Layers::ALL, origin: 0.0 };
        Ok(Self { clearance: CLEARANCE * hull.half_width(), ..hull })
    }

    /// An upright capsule.
    ///
    /// # Errors
    /// If a size is not above 0 or the height is less than twice the radius.
    pub fn capsule(radius: f32, height: f32) -> Result<Self, HullError> {
        Self::new(HullShape::Capsule { radius, height })
    }

    /// A ball.
    ///
    /// # Errors
    /// If the radius is not above 0.
    pub fn ball(radius: f32) -> Result<Self, HullError> {
        Self::new(HullShape::Ball { radius })
    }

    /// An upright box with equal width and depth and sharp edges.
    ///
    /// # Errors
    /// If a size is not above 0.
    pub fn upright_box(width: f32, height: f32) -> Result<Self, HullError> {
        Self::new(HullShape::Box { width, depth: width, height, rounding: 0.0 })
    }

    /// The hull with another clearance, in metres.
    ///
    /// # Errors
    /// If the clearance is not above 0.
    pub fn with_clearance(mut self, clearance: f32) -> Result<Self, HullError> {
        // It may be far smaller than any size.
        if !(clearance > 0.0 && clearance <= MAX_LENGTH) {
            return Err(HullError::Size { name: "clearance", value: clearance });
        }
        self.clearance = clearance;
        Ok(self)
    }

    /// The hull with another shape. Its clearance, mask and origin stay. A centred hull stays
    /// centred.
    ///
    /// # Errors
    /// As [`Self::new`].
    pub fn with_shape(self, shape: HullShape) -> Result<Self, HullError> {
        let new = Self::new(shape)?.with_clearance(self.clearance)?.with_mask(self.mask);
        Ok(if self.origin > 0.0 { new.centred() } else { new })
    }

    /// The hull, stopped only by pieces on these layers.
    #[must_use]
    pub fn with_mask(mut self, layers: Layers) -> Self {
        self.mask = layers;
        self
    }

    /// The hull centred on its position, instead of standing on it: for a body whose origin is its
    /// centre, and for one seen from above, which has no underside. In a crouch its feet stay where
    /// they are: the position is then as high above them as before.
    #[must_use]
    pub fn centred(mut self) -> Self {
        self.origin = 0.5 * self.height();
        self
    }

    /// The height of the body's position above the underside.
    pub(crate) fn origin(&self) -> f32 {
        self.origin
    }

    /// The centre, from the body's position.
    #[must_use]
    pub fn middle<V: Vector>(&self) -> V {
        V::UP * (0.5 * self.height() - self.origin)
    }

    /// The hull at another height: a crouch. Never lower than its round ends.
    #[must_use]
    pub fn at_height(mut self, new: f32) -> Self {
        match &mut self.shape {
            HullShape::Capsule { radius, height } => *height = new.max(2.0 * *radius),
            HullShape::Ball { .. } => {}
            HullShape::Box { width, height, rounding, .. } => {
                *height = new.max(2.0 * *rounding).max(LEAST_HEIGHT * *width);
            }
        }
        self
    }

    /// The hull `factor` times as large, with its clearance.
    ///
    /// # Errors
    /// If `factor` is not a finite number above 0.
    pub fn scaled(mut self, factor: f32) -> Result<Self, ScaleError> {
        ScaleError::check(factor)?;
        self.origin *= factor;
        match &mut self.shape {
            HullShape::Capsule { radius, height } => {
                (*radius, *height) = (*radius * factor, *height * factor)
            }
            HullShape::Ball { radius } => *radius *= factor,
            HullShape::Box { width, depth, height, rounding } => {
                for side in [width, depth, height, rounding] {
                    *side *= factor;
                }
            }
        }
        self.clearance *= factor;
        Ok(self)
    }

    /// The shape.
    #[must_use]
    pub fn shape(&self) -> HullShape {
        self.shape
    }

    /// The gap that is kept to every piece, in metres.
    #[must_use]
    pub fn clearance(&self) -> f32 {
        self.clearance
    }

    /// The layers that stop it.
    #[must_use]
    pub fn mask(&self) -> Layers {
        self.mask
    }

    /// The height from underside to top.
    #[must_use]
    pub fn height(&self) -> f32 {
        match self.shape {
            HullShape::Capsule { height, .. } | HullShape::Box { height, .. } => height,
            HullShape::Ball { radius } => 2.0 * radius,
        }
    }

    /// The largest distance from the centre to the side, along x.
    #[must_use]
    pub fn half_width(&self) -> f32 {
        match self.shape {
            HullShape::Capsule { radius, .. } | HullShape::Ball { radius } => radius,
            HullShape::Box { width, .. } => 0.5 * width,
        }
    }

    /// The extent from the centre along a unit direction in the body's frame, in metres.
    pub(crate) fn extent<V: Vector>(&self, direction: V) -> f32 {
        let core = self.core::<V>();
        core.half.dot(direction.abs()) + core.radius
    }

    /// The core and radius for contact.
    #[must_use]
    pub(crate) fn core<V: Vector>(&self) -> Core<V> {
        let (half, radius) = match self.shape {
            HullShape::Capsule { radius, height } => (V::UP * (0.5 * height - radius).max(0.0), radius),
            HullShape::Ball { radius } => (V::ZERO, radius),
            HullShape::Box { width, depth, height, rounding } => {
                let half = [width, height, depth].map(|side| (0.5 * side - rounding).max(0.0));
                (V::from_array(half), rounding)
            }
        };
        // A core this short would be lost in rounding beside its position: an edge without a
        // length.
        let least = LEAST_CORE * radius;
        let half = V::from_array(half.to_array().map(|half| if half < least { 0.0 } else { half }));
        Core { half, radius, middle: self.middle() }
    }
}

/// The smallest height of a lowered box, as a fraction of its width.
const LEAST_HEIGHT: f32 = 1e-3;

/// Half the length of a core, in radii, below which it counts as a point.
const LEAST_CORE: f32 = 2e-5;

/// A hull without its rounding: a point, an upright segment or an upright box, and the radius of
/// the rounding.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Core<V> {
    /// Half its extents along the body's axes.
    pub half: V,
    /// The rounding.
    pub radius: f32,
    /// Its centre, from the body's position.
    pub middle: V,
}

impl<V: Vector> Core<V> {
    /// Half the height of the hull, in metres. Tolerances are fractions of it.
    pub fn size(&self) -> f32 {
        self.radius + self.half.component(1)
    }
}

impl HullShape {
    fn check(&self) -> Result<(), HullError> {
        match *self {
            Self::Capsule { radius, height } => {
                size("radius", radius)?;
                size("height", height)?;
                range("height", height, 2.0 * radius, MAX_LENGTH)
            }
            Self::Ball { radius } => size("radius", radius),
            Self::Box { width, depth, height, rounding } => {
                size("width", width)?;
                size("depth", depth)?;
                size("height", height)?;
                range("rounding", rounding, 0.0, 0.5 * width.min(depth).min(height))
            }
        }
    }
}

fn size(name: &'static str, value: f32) -> Result<(), HullError> {
    if (MIN_LENGTH..=MAX_LENGTH).contains(&value) { Ok(()) } else { Err(HullError::Size { name, value }) }
}

fn range(name: &'static str, value: f32, least: f32, most: f32) -> Result<(), HullError> {
    if (least..=most).contains(&value) { Ok(()) } else { Err(HullError::Range { name, value, least, most }) }
}
