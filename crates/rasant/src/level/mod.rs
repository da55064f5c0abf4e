//! What is around a body: pieces, surfaces, layers, carriers.
//!
//! The library owns no world. It asks whoever implements [`Surroundings`]
//! which pieces are near, once a tick. [`Level`] is the implementation we
//! ship: an index over pieces that stay where they are, and beside it the few
//! that ride on carriers.

mod build;
mod carrier;
mod index;
mod layers;
mod piece;
mod riders;
mod seams;
mod surface;
mod surroundings;
mod zone;

use alloc::collections::BTreeMap;
use alloc::vec::Vec;
pub use build::{HeightGrid, LevelBuilder, LevelError};
use carrier::Set;
pub use carrier::{Carrier, CarrierId, Keyframe, PathEnd, Placement, Ride};
use core::hash::Hasher as _;
use index::Index;
pub use layers::Layers;
pub use piece::{Piece, PieceError, PieceId, Seams, Shape, Sides, Tag};
pub use surface::{Surface, SurfaceId};
pub use surroundings::{AnySurroundings, Errand, Found, Surroundings};
pub use zone::{Effect, Effects, Zone, ZoneId};

use smallvec::SmallVec;

use crate::memory::in_a_word;
use crate::space::{Bounds, Vector};
use crate::summer::Summer;
use piece::Stored;
use riders::Riders;

in_a_word! {
    PieceId: |word| PieceId(word), |value| value.0;
    CarrierId: |word| CarrierId(word as u16), |value| value.0.into();
    ZoneId: |word| ZoneId(word as u16), |value| value.0.into();
    SurfaceId: |word| SurfaceId(word as u16), |value| value.0.into();
}

/// Pieces, surfaces and carriers, indexed for fast questions.
///
/// Made by a [`LevelBuilder`].
#[derive(Clone, Debug)]
pub struct Level<V> {
    points: Vec<V>,
    faces: Vec<u8>,
    pieces: Vec<Stored>,
    index: Index<V>,
    /// Pieces and zones on carriers.
    riders: Riders<V>,
    vertices: Vec<V>,
    triangles: Vec<Triangle>,
    triangle_index: Index<V>,
    mesh_tags: Vec<(Tag, Layers)>,
    surfaces: Vec<Surface<V>>,
    carriers: Vec<Carrier<V>>,
    zones: Vec<Zone<V>>,
    /// Over the zones that stay where they are.
    zone_index: Index<V>,
    /// The time before the last tick, and now.
    before: f64,
    time: f64,
    bounds: Bounds<V>,
    /// The sum of all that stays as it is.
    sum: u64,
    /// Places of the host's, by kind.
    marks: BTreeMap<u16, Vec<V>>,
}

/// All that changes in a level: see [`Level::snapshot`].
#[derive(Clone, Debug, PartialEq)]
pub struct LevelSnapshot<V> {
    before: f64,
    time: f64,
    /// The carriers that the host sets, in order.
    set: Vec<Set<V>>,
}

/// A triangle of a mesh; `mesh` is the index of its tag.
#[derive(Clone, Copy, Debug)]
struct Triangle {
    corners: [u32; 3],
    seams: Seams,
    mesh: u16,
}

impl<V: Vector> Level<V> {
    /// Sets the places of one kind that the host keeps for its own moves, as from this tick on:
    /// anchors, targets, the corners of a rail. `kind` is the host's own number.
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
        self.marks.insert(kind, places);
    }

    /// A builder with nothing in it.
    #[must_use]
    pub fn builder() -> LevelBuilder<V> {
        LevelBuilder::new()
    }

    /// The bounds of all pieces, those on carriers where they are at time 0.
    #[must_use]
    pub fn bounds(&self) -> Bounds<V> {
        self.bounds
    }

    /// How many pieces there are; each triangle of a mesh counts as one.
    #[must_use]
    pub fn len(&self) -> usize {
        self.pieces.len() + self.triangles.len()
    }

    /// Whether there is nothing to stand on or run into.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Calls `seen` with every piece and triangle where it is now, for
    /// drawing.
    pub fn each_shape(&self, mut seen: impl FnMut(Shape<'_, V>, Tag)) {
        for (number, stored) in self.pieces.iter().enumerate() {
            let tag = stored.tag.of(number);
            match tag.carrier {
                None => seen(stored.shape(&self.points, &self.faces), tag),
                Some(carrier) => {
                    let placement = self.carriers[usize::from(carrier.0)].ride().to;
                    self.moved_shape(stored, placement, |shape| seen(shape, tag));
                }
            }
        }
        for triangle in &self.triangles {
            seen(self.triangle_shape(triangle).shape(), self.mesh_tags[usize::from(triangle.mesh)].0);
        }
    }

    /// Every piece as it was added, its points about its carrier's origin; the triangles of
    /// meshes are not among them.
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
    /// assert!(matches!(roof.shape(), Shape::Polygon { points } if points.len() == 4));
    /// # Ok::<(), rasant::level::LevelError>(())
    /// ```
    pub fn all_pieces(&self) -> impl Iterator<Item = Piece<V>> + '_ {
        self.pieces.iter().map(|stored| stored.piece(&self.points, &self.faces))
    }

    /// What pieces are made of, by [`SurfaceId`]; the first is the plain surface.
    #[must_use]
    pub fn surfaces(&self) -> &[Surface<V>] {
        &self.surfaces
    }

    /// What moves, by [`CarrierId`].
    #[must_use]
    pub fn carriers(&self) -> &[Carrier<V>] {
        &self.carriers
    }

    /// The zones as they were added, by [`ZoneId`], those on carriers about its origin.
    #[must_use]
    pub fn all_zones(&self) -> &[Zone<V>] {
        &self.zones
    }

    /// Seconds that the carriers have moved for.
    #[must_use]
    pub fn time(&self) -> f64 {
        self.time
    }

    /// Begins a tick of `dt` seconds: moves the carriers on their paths, and those that the
    /// host sets to where it has put them ([`Self::place`]). Call it once a tick, before the
    /// ticks of the bodies.
    pub fn advance(&mut self, dt: f32) {
        self.before = self.time;
        self.time += f64::from(dt);
        self.riders.advance(&mut self.carriers, self.time);
    }

    /// Puts the carriers on paths where they are at `time`, at the end of a tick of
    /// `dt` seconds. Those that the host sets stay where they are: a [`Self::snapshot`]
    /// has them too.
    pub fn set_time(&mut self, time: f64, dt: f32) {
        self.put_at(time - f64::from(dt), time);
    }

    /// All that changes in a level, to be put back: with it and the states of the bodies,
    /// a game replays to the same bits.
    ///
    /// ```
    /// use rasant::glam::Vec2;
    /// use rasant::level::{Keyframe, PathEnd};
    /// use rasant::{Carrier, Level};
    ///
    /// let mut builder = Level::<Vec2>::builder();
    /// let path = [0.0, 2.0].map(|time| Keyframe { time, offset: Vec2::X * time, turn: 0.0 });
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
        let set = self.carriers.iter().filter_map(Carrier::set).collect();
        LevelSnapshot { before: self.before, time: self.time, set }
    }

    /// Puts a level back to where it was. A snapshot of another level puts back its time,
    /// and of its carriers as many as there are.
    pub fn restore(&mut self, snapshot: &LevelSnapshot<V>) {
        let set_by_host = self.carriers.iter_mut().filter(|carrier| carrier.set().is_some());
        set_by_host.zip(&snapshot.set).for_each(|(carrier, set)| carrier.put_back(*set));
        self.put_at(snapshot.before, snapshot.time);
    }

    /// Puts the carriers on paths where they are in a tick from one time to another.
    fn put_at(&mut self, before: f64, time: f64) {
        (self.before, self.time) = (before, time);
        for carrier in &mut self.carriers {
            carrier.go_to(before, time);
        }
        self.riders.put(&self.carriers);
    }

    /// One of the carriers.
    ///
    /// # Panics
    /// When the level has no such carrier.
    #[must_use]
    pub fn carrier(&self, id: CarrierId) -> &Carrier<V> {
        self.carriers.get(usize::from(id.0)).unwrap_or_else(|| self.has_no(id))
    }

    #[cold]
    fn has_no(&self, CarrierId(id): CarrierId) -> ! {
        panic!("the level has no carrier {id}: it has {}", self.carriers.len())
    }

    /// Puts a carrier that the host sets to `placement` in the tick that the next
    /// [`Self::advance`] begins. It carries its riders there, and pushes what is in its way.
    /// One that has been nowhere yet is there at once, and takes nobody along. A placement
    /// that is not finite is not taken, nor is one of a carrier on a path: that stays on it.
    ///
    /// # Panics
    /// When the level has no such carrier.
    pub fn place(&mut self, carrier: CarrierId, placement: Placement<V>) {
        if usize::from(carrier.0) >= self.carriers.len() {
            self.has_no(carrier);
        }
        if placement.is_finite() {
            self.carriers[usize::from(carrier.0)].place(placement);
            self.riders.placed(&self.carriers, carrier.0);
        }
    }

    /// Calls `seen` with every zone where it is now, for drawing.
    pub fn each_zone(&self, mut seen: impl FnMut(ZoneId, Zone<V>)) {
        for number in 0..self.zones.len() as u16 {
            seen(ZoneId(number), self.placed(&self.zones[usize::from(number)]));
        }
    }

    /// A zone where its carrier has taken it.
    fn placed(&self, zone: &Zone<V>) -> Zone<V> {
        match zone.carrier.and_then(|id| self.carriers.get(usize::from(id.0))) {
            Some(carrier) => Zone { bounds: carrier.ride().to.moved(&zone.bounds), ..*zone },
            None => *zone,
        }
    }

    fn triangle_shape(&self, triangle: &Triangle) -> TriangleShape<V> {
        TriangleShape {
            points: triangle.corners.map(|corner| self.vertices[corner as usize]),
            seams: triangle.seams,
            mesh: triangle.mesh,
        }
    }

    /// Calls `seen` with the shape of a piece moved to `placement`.
    fn moved_shape(&self, stored: &Stored, placement: Placement<V>, mut seen: impl FnMut(Shape<'_, V>)) {
        let moved: SmallVec<[V; 64]> =
            stored.points(&self.points).iter().map(|&point| placement.apply(point)).collect();
        seen(stored.shape_of(&moved, &self.faces));
    }
}

/// The corners of a triangle, gathered from its mesh.
struct TriangleShape<V> {
    points: [V; 3],
    seams: Seams,
    mesh: u16,
}

impl<V: Vector> TriangleShape<V> {
    fn shape(&self) -> Shape<'_, V> {
        Shape::Facet { points: &self.points, seams: self.seams }
    }
}

impl<V: Vector> Surroundings<V> for Level<V> {
    fn pieces(&self, region: &Bounds<V>, mask: Layers, found: &mut impl Found<V>) {
        self.index.query(region, |number| {
            let stored = &self.pieces[number as usize];
            if stored.layers.intersects(mask) {
                let tag = stored.tag.of(number as usize);
                match stored.block(&self.points) {
                    Some((min, max)) => found.block(min, max, tag),
                    None => found.piece(stored.shape(&self.points, &self.faces), tag),
                }
            }
        });
        self.triangle_index.query_places(region, |places| {
            // All are fetched before one is used: the machine waits for them at once.
            let mut near: SmallVec<[TriangleShape<V>; index::ROOM]> = SmallVec::new();
            near.extend(places.iter().map(|&place| self.triangle_shape(&self.triangles[place as usize])));
            for triangle in &near {
                let (tag, layers) = self.mesh_tags[usize::from(triangle.mesh)];
                if layers.intersects(mask) {
                    found.piece(triangle.shape(), tag);
                }
            }
        });
        self.riders.near(region, |carrier| {
            let placement = self.carriers[usize::from(carrier)].ride().to;
            self.riders.pieces_on(carrier, placement, region, |number| {
                let stored = &self.pieces[number as usize];
                if stored.layers.intersects(mask) {
                    let tag = stored.tag.of(number as usize);
                    self.moved_shape(stored, placement, |shape| found.piece(shape, tag));
                }
            });
        });
    }

    fn host(&self, errand: impl Errand<V>) {
        errand.in_level(self);
    }

    fn surface(&self, id: SurfaceId) -> Surface<V> {
        self.surfaces.get(usize::from(id.0)).copied().unwrap_or_default()
    }

    fn ride(&self, id: CarrierId) -> Ride<V> {
        self.carriers.get(usize::from(id.0)).map_or_else(Ride::still, Carrier::ride)
    }

    fn zone(&self, id: ZoneId) -> Option<Zone<V>> {
        self.zones.get(usize::from(id.0)).map(|zone| self.placed(zone))
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
            let Ride { from, to } = self.carriers[usize::from(carrier)].ride();
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
                    self.riders.pieces_on(carrier, placement, region, |_| is_near = true);
                }
            }
            if is_near {
                found(CarrierId(carrier));
            }
        });
    }
}
