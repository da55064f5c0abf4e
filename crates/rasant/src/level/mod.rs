//! The world around a body: pieces, surfaces, layers, carriers, zones.
//!
//! The library owns no world. Once per tick it asks an implementation of [`Surroundings`] which
//! pieces are near. [`Level`] is the implementation that comes with the library: a tree of the
//! pieces that do not move, and beside it the pieces that ride on carriers.

mod body_id;
mod build;
mod carrier;
mod edits;
mod grid;
mod index;
mod layers;
mod mesh;
mod outline;
mod piece;
mod pieces;
mod placement;
mod riders;
mod seams;
mod slots;
mod snapshot;
mod surface;
mod surroundings;
mod tree;
mod zone;

use alloc::collections::BTreeMap;
use alloc::sync::Arc;
use alloc::vec::Vec;
pub use body_id::BodyId;
pub use build::{LevelBuilder, LevelError};
use carrier::ride_of;
pub use carrier::{Carrier, CarrierId, Easing, Keyframe, PathEnd};
use core::hash::Hasher as _;
pub(crate) use index::Index;
pub use layers::Layers;
pub use mesh::{HeightGrid, MeshShape};
pub use piece::{Piece, PieceError, PieceId, RoundBox, Seams, Shape, Sides, Tag};
use pieces::{Form, Pieces};
pub use placement::{Placement, Ride};
pub use snapshot::LevelSnapshot;
pub use surface::{Surface, SurfaceId};
pub use surroundings::{AnySurroundings, Found, Surroundings, Visitor};
pub use zone::{Effect, Effects, Zone, ZoneId};

use smallvec::SmallVec;

use crate::memory::in_a_word;
use crate::space::{Bounds, Vector};
use crate::summer::Summer;
use riders::Riders;

in_a_word! {
    PieceId: |word| PieceId(word), |value| value.0;
    CarrierId: |word| CarrierId(word as u16), |value| value.0.into();
    ZoneId: |word| ZoneId(word as u16), |value| value.0.into();
    SurfaceId: |word| SurfaceId(word as u16), |value| value.0.into();
}

/// Pieces, surfaces, carriers and zones, indexed for fast queries. Built by a [`LevelBuilder`].
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Carrier, Effect, Keyframe, Level, PathEnd, Piece, Zone};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-5.0, -1.0), Vec2::new(5.0, 0.0))?);
/// let path = [(0.0, 0.0), (2.0, 3.0)];
/// let path = path.map(|(time, y)| Keyframe::new(time, Vec2::new(0.0, y)));
/// let lift = builder.add_carrier(Carrier::on_path(path.to_vec(), PathEnd::BackAndForth));
/// builder.add(Piece::block(Vec2::new(1.0, 0.0), Vec2::new(3.0, 0.2))?.riding(lift));
/// builder.add_zone(Zone::new(Vec2::new(4.0, 0.0), Vec2::new(5.0, 2.0), Effect::Goal));
/// let mut level = builder.build()?;
///
/// level.advance(1.0);
/// assert_eq!(level.carrier(lift).at(level.time()).offset().y, 1.5);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Level<V> {
    pieces: Pieces<V>,
    /// The pieces of the builder: a snapshot is saved as what differs from them.
    built: Pieces<V>,
    /// Pieces and zones on carriers.
    riders: Arc<Riders<V>>,
    surfaces: Arc<Vec<Surface<V>>>,
    carriers: Arc<Vec<Carrier<V>>>,
    zones: Arc<Vec<Zone<V>>>,
    /// The numbers of those that were removed, sorted.
    removed_zones: Arc<Vec<u16>>,
    /// The index of the zones that do not ride on a carrier.
    zone_index: Arc<Index<V>>,
    /// The time before the last tick, and the current time.
    before: f64,
    time: f64,
    bounds: Bounds<V>,
    /// The checksum of everything that changes by edits only.
    sum: u64,
    /// Places that the host stored, by kind.
    marks: Arc<BTreeMap<u16, Vec<V>>>,
}

impl<V: Vector> Level<V> {
    /// Stores the places of one kind for the game's own moves, from this tick on: anchors, targets,
    /// the corners of a rail. `kind` is a number of the game's own. Moves read them by
    /// [`Senses::marks`](crate::moves::Senses::marks).
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::{Level, Surroundings};
    ///
    /// const ANCHORS: u16 = 0;
    /// let mut level = Level::<Vec2>::builder().build()?;
    /// level.set_marks(ANCHORS, vec![Vec2::new(3.0, 5.0)]);
    /// assert_eq!(level.mark(ANCHORS, 0), Some(Vec2::new(3.0, 5.0)));
    /// # Ok::<(), rasant::level::LevelError>(())
    /// ```
    pub fn set_marks(&mut self, kind: u16, places: Vec<V>) {
        Arc::make_mut(&mut self.marks).insert(kind, places);
    }

    /// A new, empty builder.
    #[must_use]
    pub fn builder() -> LevelBuilder<V> {
        LevelBuilder::new()
    }

    /// The bounds of all pieces, and of those that were removed. Those on carriers count where they
    /// are at time 0, or where they were added.
    #[must_use]
    pub fn bounds(&self) -> Bounds<V> {
        self.bounds
    }

    /// The number of pieces. Each triangle of a mesh counts as one.
    #[must_use]
    pub fn len(&self) -> usize {
        self.pieces.count()
    }

    /// Returns true if there are no pieces.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Calls `seen` with every piece and triangle at its current position, for drawing, in the order
    /// of the ids.
    pub fn each_shape(&self, seen: impl FnMut(Shape<'_, V>, Tag)) {
        self.each_shape_at(1.0, seen);
    }

    /// As [`Self::each_shape`], at a fraction `blend` of the time from the last tick but one (0) to the
    /// last tick (1), as [`Controller::pose`](crate::Controller::pose): for drawing what moves where
    /// the drawn bodies stand on it.
    pub fn each_shape_at(&self, blend: f32, mut seen: impl FnMut(Shape<'_, V>, Tag)) {
        for (id, piece) in self.pieces.all() {
            let placement = match piece.carrier {
                Some(carrier) => between_ticks(&self.ride(carrier), blend),
                None => Placement::default(),
            };
            let tag = piece.tag(id);
            let Some(mesh) = &piece.mesh else {
                moved(&piece.points, placement, |points| seen(piece.shape_at(points), tag));
                continue;
            };
            mesh.each(|triangle, surface| {
                if let Shape::Facet { points, seams } = triangle {
                    let tag = Tag { surface: surface.unwrap_or(tag.surface), ..tag };
                    let points: SmallVec<[V; 3]> =
                        points.iter().map(|&point| placement.apply(point + piece.points[0])).collect();
                    seen(Shape::Facet { points: &points, seams }, tag);
                }
            });
        }
    }

    /// Every piece in the order of the ids. The points of a piece on a carrier are relative to the
    /// carrier's origin.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::level::Shape;
    /// use rasant::{Level, Piece};
    ///
    /// let mut builder = Level::builder();
    /// let roof = Piece::block(Vec2::ZERO, Vec2::new(6.0, 4.0))?.one_way();
    /// builder.add(roof.clone());
    /// let level = builder.build()?;
    /// assert_eq!(level.all_pieces().next(), Some(roof.clone()));
    /// assert!(matches!(roof.shape(), Shape::Polygon { points, .. } if points.len() == 4));
    /// # Ok::<(), rasant::level::LevelError>(())
    /// ```
    pub fn all_pieces(&self) -> impl Iterator<Item = Piece<V>> + '_ {
        self.pieces_by_id().map(|(_, piece)| piece)
    }

    /// Every piece with its id, in the order of the ids.
    pub fn pieces_by_id(&self) -> impl Iterator<Item = (PieceId, Piece<V>)> + '_ {
        (0..self.pieces.next()).filter_map(|id| Some((PieceId(id), self.pieces.get(id)?)))
    }

    /// The surfaces, by [`SurfaceId`]. The first is the plain surface.
    #[must_use]
    pub fn surfaces(&self) -> &[Surface<V>] {
        &self.surfaces
    }

    /// The carriers, by [`CarrierId`], with those that were removed.
    #[must_use]
    pub fn carriers(&self) -> &[Carrier<V>] {
        &self.carriers
    }

    /// The zones as they were added, by [`ZoneId`]. The bounds of a zone on a carrier are relative
    /// to the carrier's origin.
    #[must_use]
    pub fn all_zones(&self) -> &[Zone<V>] {
        &self.zones
    }

    /// The time of the carriers, in seconds.
    #[must_use]
    pub fn time(&self) -> f64 {
        self.time
    }

    /// Begins a tick of `dt` seconds: moves the carriers along their paths, and to where the host
    /// placed them ([`Self::place`]). Call it once per tick, before the ticks of the bodies.
    pub fn advance(&mut self, dt: f32) {
        self.before = self.time;
        self.time += f64::from(dt);
        if !self.carriers.is_empty() {
            let carriers = Arc::make_mut(&mut self.carriers);
            Arc::make_mut(&mut self.riders).advance(carriers, self.time);
        }
    }

    /// Moves the carriers with paths to their placements at `time`, at the end of a tick of `dt`
    /// seconds. Carriers that the host places stay where they are; a [`Self::snapshot`] includes
    /// them.
    pub fn set_time(&mut self, time: f64, dt: f32) {
        self.put_at(time - f64::from(dt), time);
    }

    /// Everything that changes in a level. With it and the states of the bodies, a game replays to
    /// the same bits.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::level::{Keyframe, PathEnd};
    /// use rasant::{Carrier, Level};
    ///
    /// let mut builder = Level::<Vec2>::builder();
    /// let path = [0.0, 2.0].map(|time| Keyframe::new(time, Vec2::X * time));
    /// let raft = builder.add_carrier(Carrier::on_path(path.into(), PathEnd::BackAndForth));
    /// let mut level = builder.build()?;
    /// level.advance(0.5);
    /// let kept = level.snapshot();
    /// level.advance(0.5);
    /// level.restore(&kept);
    /// assert_eq!(level.carrier(raft).ride().to.offset(), Vec2::X * 0.5);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn snapshot(&self) -> LevelSnapshot<V> {
        LevelSnapshot::of(self)
    }

    /// Restores a snapshot of this level, or of one that was built with the same calls: its time, its
    /// carriers, surfaces, zones and marks, and all edits of pieces.
    pub fn restore(&mut self, snapshot: &LevelSnapshot<V>) {
        snapshot.restore_to(self);
    }

    /// Moves the carriers with paths to their placements for a tick from one time to another.
    fn put_at(&mut self, before: f64, time: f64) {
        (self.before, self.time) = (before, time);
        let carriers = Arc::make_mut(&mut self.carriers);
        for number in 0..carriers.len() {
            let parent = ride_of(carriers, carriers[number].parent());
            carriers[number].go_to(before, time, parent);
        }
        Arc::make_mut(&mut self.riders).put(carriers);
    }

    /// A carrier.
    ///
    /// # Panics
    /// If the level never had such a carrier.
    #[must_use]
    pub fn carrier(&self, id: CarrierId) -> &Carrier<V> {
        self.carriers.get(usize::from(id.0)).unwrap_or_else(|| self.has_no(id))
    }

    #[cold]
    fn has_no(&self, CarrierId(id): CarrierId) -> ! {
        panic!("the level has no carrier {id}: it has {}", self.carriers.len())
    }

    /// Places a carrier of the host in the tick that the next [`Self::advance`] begins. It carries
    /// its riders along and pushes what is in its path. A carrier that has not been placed yet is
    /// there at once, without carrying riders. The placement is relative to the carrier that it rides
    /// on, if it rides on one. A placement that is not finite is ignored, as is one of a carrier with
    /// a path, or of one that was removed.
    ///
    /// # Panics
    /// If the level never had such a carrier.
    pub fn place(&mut self, carrier: CarrierId, placement: Placement<V>) {
        if usize::from(carrier.0) >= self.carriers.len() {
            self.has_no(carrier);
        }
        let number = usize::from(carrier.0);
        if placement.is_finite() && !self.carriers[number].is_removed() {
            let carriers = Arc::make_mut(&mut self.carriers);
            let parent = ride_of(carriers, carriers[number].parent());
            carriers[number].place(placement, parent);
            Arc::make_mut(&mut self.riders).placed(carriers, carrier.0);
        }
    }

    /// Calls `seen` with every zone at its current position, for drawing.
    pub fn each_zone(&self, seen: impl FnMut(ZoneId, Zone<V>)) {
        self.each_zone_at(1.0, seen);
    }

    /// As [`Self::each_zone`], between the last two ticks: see [`Self::each_shape_at`].
    pub fn each_zone_at(&self, blend: f32, mut seen: impl FnMut(ZoneId, Zone<V>)) {
        for number in (0..self.zones.len() as u32).map(|number| number as u16) {
            if let Some(zone) = self.live_zone(number) {
                seen(ZoneId(number), self.placed_at(zone, blend));
            }
        }
    }

    /// A zone at the current placement of its carrier.
    fn placed(&self, zone: &Zone<V>) -> Zone<V> {
        self.placed_at(zone, 1.0)
    }

    fn placed_at(&self, zone: &Zone<V>, blend: f32) -> Zone<V> {
        match zone.carrier.and_then(|id| self.carriers.get(usize::from(id.0))) {
            Some(carrier) => {
                Zone { bounds: between_ticks(&carrier.ride(), blend).moved(&zone.bounds), ..*zone }
            }
            None => *zone,
        }
    }
}

/// The placement of a carrier between two ticks.
fn between_ticks<V: Vector>(ride: &Ride<V>, blend: f32) -> Placement<V> {
    if blend < 1.0 { ride.blended(blend.max(0.0)) } else { ride.to }
}

/// Calls `seen` with the points moved to `placement`.
fn moved<V: Vector>(points: &[V], placement: Placement<V>, seen: impl FnOnce(&[V])) {
    let moved: SmallVec<[V; 64]> = points.iter().map(|&point| placement.apply(point)).collect();
    seen(&moved);
}

/// Passes a piece on a carrier, at the placement of the carrier.
fn find_carried<V: Vector>(
    piece: &Piece<V>,
    tag: Tag,
    placement: Placement<V>,
    region: &Bounds<V>,
    found: &mut impl Found<V>,
) {
    let Some(mesh) = &piece.mesh else {
        return moved(&piece.points, placement, |points| found.piece(piece.shape_at(points), tag));
    };
    let region = placement.unmoved(region);
    let offset = piece.points[0];
    let region = Bounds { min: region.min - offset, max: region.max - offset };
    mesh.query(&region, |triangle| {
        let points = triangle.points.map(|point| placement.apply(point + offset));
        let tag = Tag { surface: triangle.surface().unwrap_or(tag.surface), ..tag };
        found.piece(Shape::Facet { points: &points, seams: triangle.seams }, tag);
    });
}

/// Passes the triangles of a mesh that overlap `region`.
#[inline(never)]
fn find_triangles<V: Vector>(
    mesh: &MeshShape<V>,
    offset: V,
    tag: Tag,
    region: &Bounds<V>,
    found: &mut impl Found<V>,
) {
    let is_moved = offset != V::ZERO;
    let region = Bounds { min: region.min - offset, max: region.max - offset };
    mesh.query(&region, |triangle| {
        let tag = Tag { surface: triangle.surface().unwrap_or(tag.surface), ..tag };
        if is_moved {
            let points = triangle.points.map(|point| point + offset);
            found.piece(Shape::Facet { points: &points, seams: triangle.seams }, tag);
        } else {
            found.piece(triangle.shape(), tag);
        }
    });
}

impl<V: Vector> Surroundings<V> for Level<V> {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        self.pieces.query(region, |item| {
            if !item.layers.intersects(mask) {
                return;
            }
            match &item.form {
                Form::Block(bounds) => found.block(bounds.min, bounds.max, item.tag()),
                Form::Other(piece) => match &piece.mesh {
                    None => found.piece(piece.shape(), item.tag()),
                    Some(mesh) => find_triangles(mesh, piece.points[0], item.tag(), region, found),
                },
            }
        });
        self.riders.near(region, |carrier| {
            let placement = self.carriers[usize::from(carrier)].ride().to;
            self.riders.pieces_on(carrier, placement, region, |id, piece| {
                if piece.layers.intersects(mask) {
                    find_carried(piece, piece.tag(id), placement, region, found);
                }
            });
        });
    }

    fn accept(&self, visitor: impl Visitor<V>) {
        visitor.visit_level(self);
    }

    fn surface(&self, id: SurfaceId) -> Surface<V> {
        self.surfaces.get(usize::from(id.0)).copied().unwrap_or_default()
    }

    fn ride(&self, id: CarrierId) -> Ride<V> {
        self.carriers.get(usize::from(id.0)).map_or_else(Ride::still, Carrier::ride)
    }

    fn zone(&self, id: ZoneId) -> Option<Zone<V>> {
        self.live_zone(id.0).map(|zone| self.placed(zone))
    }

    fn zones(&self, region: &Bounds<V>, mut found: impl FnMut(ZoneId)) {
        let all = |seen: &mut dyn FnMut(u32)| {
            self.zone_index.query(region, |number| {
                if self.zones[number as usize].bounds.overlaps(region) {
                    seen(number);
                }
            });
            self.riders.near(region, |carrier| {
                let placement = self.carriers[usize::from(carrier)].ride().to;
                self.riders.zones_on(carrier, placement, region, |number| seen(u32::from(number)));
            });
        };
        index::in_order::<16>(all, |number| found(ZoneId(number as u16)));
    }

    fn mark(&self, kind: u16, number: u32) -> Option<V> {
        self.marks.get(&kind)?.get(number as usize).copied()
    }

    #[inline]
    fn stamp(&self, region: &Bounds<V>) -> Option<u64> {
        if self.carriers.is_empty() {
            return Some(self.sum);
        }
        let mut sum = Summer::new();
        sum.word(self.sum);
        let mut is_still = true;
        self.riders.near(region, |carrier| {
            let ride = self.carriers[usize::from(carrier)].ride();
            if !self.riders.is_near(carrier, &ride, region) {
                return;
            }
            let Ride { from, to } = ride;
            is_still &= from == to;
            sum.word(u64::from(carrier));
            [to.offset(), to.right(), to.up()].into_iter().for_each(|vector| sum.vector(vector));
        });
        is_still.then(|| sum.finish())
    }

    #[inline]
    fn is_plain(&self) -> bool {
        self.riders.has_no_pieces() && self.zones.is_empty()
    }

    fn moving(&self, region: &Bounds<V>, mut found: impl FnMut(CarrierId)) {
        self.riders.near(region, |carrier| {
            let ride = self.carriers[usize::from(carrier)].ride();
            let mut is_near = false;
            if ride.from != ride.to {
                for placement in [ride.to, ride.from] {
                    self.riders.pieces_on(carrier, placement, region, |_, _| is_near = true);
                }
            }
            if is_near {
                found(CarrierId(carrier));
            }
        });
    }
}
