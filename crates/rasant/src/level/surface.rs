//! The materials of pieces.

use crate::space::Vector;

/// The id of a surface of a level. 0 is the plain one, [`Surface::default`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct SurfaceId(pub u16);

/// The material of a piece.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Level, Piece, Surface};
///
/// let mut builder = Level::builder();
/// let ice = builder.add_surface(Surface { traction: 0.1, ..Surface::default() });
/// let belt = builder.add_surface(Surface { drift: Vec2::X * 2.0, ..Surface::default() });
/// builder.add(Piece::block(Vec2::ZERO, Vec2::ONE)?.made_of(ice));
/// builder.add(Piece::block(Vec2::X, Vec2::new(2.0, 1.0))?.made_of(belt));
/// # Ok::<(), rasant::level::PieceError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Surface<V> {
    /// How well feet grip. The times to accelerate, stop and reverse are divided by it. 1 is plain,
    /// 0.1 is wet ice. Above 0.
    pub traction: f32,
    /// A factor on the walking speed: 0.5 in mud.
    pub pace: f32,
    /// The velocity of the surface itself in m/s, as of a conveyor.
    pub drift: V,
    /// The fraction of the speed into the surface that is returned, 0 to 1.
    pub bounce: f32,
    /// How well hands grip a wall. The speed of a wall slide is divided by it. With 0, neither
    /// walls nor ledges can be held.
    pub grip: f32,
}

impl<V: Vector> Default for Surface<V> {
    fn default() -> Self {
        Self { traction: 1.0, pace: 1.0, drift: V::ZERO, bounce: 0.0, grip: 1.0 }
    }
}
