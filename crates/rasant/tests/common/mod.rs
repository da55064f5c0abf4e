//! Shared by the tests: small levels, and a body that a function runs.
#![allow(dead_code)]

pub mod grammar;
pub mod judge;
pub mod lives;
pub mod surfaces;

use rasant::glam::{Vec2, Vec3};
use rasant::state::Name;
use rasant::{Controller, Event, Geometry, Hull, HullShape, Intent, Level, Piece, Tuning, Vector};

pub const RATES: [u32; 5] = [30, 50, 60, 120, 240];

pub fn capsule() -> Hull {
    Hull::capsule(0.35, 1.8).unwrap()
}

pub fn upright_box() -> Hull {
    Hull::upright_box(0.7, 1.8).unwrap()
}

pub fn cube(size: f32) -> Hull {
    Hull::new(HullShape::Box { width: size, depth: size, height: size, rounding: 0.0 }).unwrap()
}

/// One hull of each kind.
pub fn hulls() -> [Hull; 4] {
    let rounded = HullShape::Box { width: 0.8, depth: 0.6, height: 1.5, rounding: 0.1 };
    [capsule(), upright_box(), Hull::ball(0.45).unwrap(), Hull::new(rounded).unwrap()]
}

/// A floor with its top at 0, from −`half` to `half`.
pub fn floor<V: Geometry>(half: f32) -> Level<V> {
    blocks(&[([-half, -1.0, -half], [half, 0.0, half])])
}

pub fn blocks<V: Geometry>(corners: &[([f32; 3], [f32; 3])]) -> Level<V> {
    let mut builder = Level::builder();
    for &(min, max) in corners {
        builder.add(Piece::block(V::from_array(min), V::from_array(max)).unwrap());
    }
    builder.build().unwrap()
}

/// A hull without its rounding.
pub struct Core<V> {
    pub half: V,
    pub radius: f32,
    pub middle: V,
}

pub fn core_of<V: Vector>(hull: &Hull) -> Core<V> {
    let (half, radius) = match hull.shape() {
        HullShape::Capsule { radius, height } => (V::UP * (0.5 * height - radius), radius),
        HullShape::Ball { radius } => (V::ZERO, radius),
        HullShape::Box { width, depth, height, rounding } => {
            let sides = [width, height, depth].map(|side| 0.5 * side - rounding);
            (V::from_array(sides), rounding)
        }
    };
    Core { half, radius, middle: hull.middle() }
}

/// A plane slope rising to the right at `angle`, through the origin.
pub trait Slope: Geometry {
    fn slope(angle: f32) -> Level<Self>;
}

impl Slope for Vec2 {
    fn slope(angle: f32) -> Level<Vec2> {
        let along = Vec2::new(angle.cos(), angle.sin()) * 50.0;
        let down = Vec2::new(angle.sin(), -angle.cos());
        let mut builder = Level::builder();
        builder.add(Piece::polygon(&[-along, -along + down, along + down, along]).unwrap());
        builder.build().unwrap()
    }
}

impl Slope for Vec3 {
    fn slope(angle: f32) -> Level<Vec3> {
        let along = Vec3::new(angle.cos(), angle.sin(), 0.0) * 50.0;
        let side = Vec3::Z * 50.0;
        let mut builder = Level::builder();
        builder
            .add_mesh(
                &[-along - side, -along + side, along + side, along - side],
                &[[0, 1, 2], [0, 2, 3]],
                rasant::SurfaceId::default(),
                rasant::Layers::GROUND,
            )
            .unwrap();
        builder.build().unwrap()
    }
}

/// A body and all that happened to it.
pub struct Run<V> {
    pub body: Controller<V>,
    pub rate: u32,
    pub events: Vec<(usize, Event<V>)>,
    pub ticks: usize,
}

impl<V: Geometry> Run<V> {
    pub fn new(tuning: Tuning, hull: Hull, at: V, rate: u32) -> Self {
        Self { body: Controller::new(tuning, hull, at), rate, events: Vec::new(), ticks: 0 }
    }

    pub fn tick(&mut self, level: &Level<V>, intent: Intent) {
        let dt = 1.0 / self.rate as f32;
        for event in self.body.tick(&intent, level, dt) {
            self.events.push((self.ticks, *event));
        }
        self.ticks += 1;
    }

    pub fn run(&mut self, level: &Level<V>, seconds: f32, intent: Intent) {
        for _ in 0..(seconds * self.rate as f32).round() as usize {
            self.tick(level, intent);
        }
    }

    pub fn seconds(&self) -> f32 {
        self.ticks as f32 / self.rate as f32
    }

    pub fn apex(&self) -> Option<V> {
        self.events.iter().find_map(|(_, event)| match event {
            Event::Apex { position } => Some(*position),
            _ => None,
        })
    }

    /// Which jumps took off, in order.
    pub fn jumps(&self) -> Vec<Name> {
        let kind = |(_, event): &(usize, Event<V>)| match event {
            Event::Jumped { kind } => Some(*kind),
            _ => None,
        };
        self.events.iter().filter_map(kind).collect()
    }

    pub fn count(&self, name: &str) -> usize {
        self.events.iter().filter(|(_, event)| event.name() == name).count()
    }
}

/// A small random source (SplitMix64), so that every run tests the same cases.
#[derive(Clone)]
pub struct Dice(pub u64);

impl Dice {
    pub fn bits(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let z = (self.0 ^ self.0 >> 30).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        let z = (z ^ z >> 27).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ z >> 31
    }

    /// Evenly in [least, most).
    pub fn number(&mut self, least: f32, most: f32) -> f32 {
        least + (most - least) * ((self.bits() >> 40) as f32 / (1u64 << 24) as f32)
    }

    pub fn below(&mut self, count: usize) -> usize {
        (self.bits() % count as u64) as usize
    }

    pub fn vector<V: Vector>(&mut self, reach: f32) -> V {
        V::from_array(std::array::from_fn(|_| self.number(-reach, reach)))
    }

    /// Of length 1, in any direction.
    pub fn direction<V: Vector>(&mut self) -> V {
        loop {
            let vector: V = self.vector(1.0);
            if (0.1..=1.0).contains(&vector.length()) {
                return vector.direction().unwrap();
            }
        }
    }
}
