//! Checks a level with a tuning.

use rasant::glam::Vec3;
use rasant::{Effect, Event, Geometry, Intent, Steering, Zone};
use serde::Serialize;

use super::faces::{Axes, Face, Probe, Rim, faces, rims};
use crate::sheet::{RATE, reach};
use rasant_files::{LevelFile, TuningFile, World, overlap_at};

/// Something in a level that may be unintended.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Warning {
    /// The kind: `slope`, `step`, `gap`, `head-room`, `seam`, `crack`, `sliver`, `start`, `ladder`,
    /// `size` or `skipped`.
    pub kind: &'static str,
    /// A description, with its numbers and the related knob. Lengths are in metres.
    pub what: String,
    /// The position of the first one in the units of the level, with as many numbers as it has
    /// dimensions.
    pub at: Vec<f32>,
    /// The number of places with the same description.
    pub count: usize,
}

/// The distance of an angle from the steepest that is walked, in degrees.
const SLOPE: f32 = 2.0;
/// The difference of a step from the step height, in metres.
const STEP: f32 = 0.01;
/// The difference of a gap from the jump: as a fraction, and in metres.
const GAP: (f32, f32) = (0.02, 0.05);
/// The range of height differences of floors that are meant to be flush, in metres.
const SEAM: (f32, f32) = (5e-4, 0.01);
/// The width below which a face is a sliver, in metres.
const SLIVER: f32 = 1e-3;
/// The size in metres above which a level may have another scale.
const LARGE: f32 = 5000.0;
/// The size in metres below which it may have.
const SMALL: f32 = 1.0;
/// The maximum number of pieces, triangles included, of a level that is checked.
const MOST_PIECES: usize = 300_000;
/// The maximum number of rims that are compared with each other.
const MOST_RIMS: usize = 6000;

/// What may be unintended in a level for a body with this tuning. Places with the same description
/// are reported together.
#[must_use]
pub fn warnings(world: &World, tuning: &TuningFile) -> Vec<Warning> {
    match world {
        World::Plane(file) => Survey::new(file, tuning).all(),
        World::Space(file) => Survey::new(file, tuning).all(),
    }
}

/// Returns true if there is air above the middle of a face.
fn is_open<V: Geometry>(face: &Face, probe: &Probe<'_, V>) -> bool {
    !probe.is_inside(face.middle() + face.normal * 0.002)
}

struct Survey<'a, V> {
    file: &'a LevelFile<V>,
    tuning: &'a TuningFile,
    /// The same tuning in metres.
    in_metres: TuningFile,
    axes: Axes<V>,
    found: Vec<Warning>,
}

impl<'a, V: Geometry> Survey<'a, V> {
    fn new(file: &'a LevelFile<V>, tuning: &'a TuningFile) -> Self {
        let in_metres = tuning.scaled(1.0 / file.scale()).unwrap_or_else(|_| tuning.clone());
        Self { file, tuning, in_metres, axes: Axes::of(file), found: Vec::new() }
    }

    fn all(mut self) -> Vec<Warning> {
        self.size();
        self.start();
        let count = self.file.level.len();
        if count > MOST_PIECES {
            let what = format!(
                "only levels with at most {MOST_PIECES} pieces and triangles are checked; this one has {count}"
            );
            self.warn("skipped", what, self.axes.seen(self.file.level.bounds().min));
            return self.found;
        }
        let all = faces(&self.file.level, &self.axes);
        self.slivers(&all);
        // A body seen from above walks over no ground.
        if !self.tuning.tuning.steering.is_from_above(V::DIMENSION) {
            let Some(probe) = Probe::new(&self.file.level, self.axes, &self.tuning.hull) else {
                return self.found;
            };
            // What another piece covers is no ground.
            let all: Vec<Face> =
                all.into_iter().filter(|face| face.normal.y > 0.0 && is_open(face, &probe)).collect();
            self.slopes(&all);
            let steepest = self.tuning.tuning.slope.max_angle;
            let walkable: Vec<&Face> =
                all.iter().filter(|face| face.angle() <= steepest && !face.rides).collect();
            let ledges = self.rims(&walkable, &probe);
            self.gaps(&ledges, &probe);
            self.head_room(&walkable, &probe);
            self.ladders();
        }
        self.found
    }

    fn warn(&mut self, kind: &'static str, what: String, at: Vec3) {
        match self.found.iter_mut().find(|known| known.kind == kind && known.what == what) {
            Some(known) => known.count += 1,
            None => {
                let at = self.axes.in_level(at).to_array()[..V::DIMENSION].to_vec();
                self.found.push(Warning { kind, what, at, count: 1 });
            }
        }
    }

    fn size(&mut self) {
        let bounds = self.file.level.bounds();
        let size = (bounds.max - bounds.min).length() / self.file.scale();
        if !(SMALL..=LARGE).contains(&size) {
            let what = format!("the level is {size:.2} m across; check its `scale`");
            self.warn("size", what, self.axes.seen(bounds.min));
        }
    }

    fn start(&mut self) {
        let Some(start) = self.file.start else { return };
        if let Some((depth, piece)) = overlap_at(start, self.file, self.tuning) {
            let depth = depth / self.file.scale();
            let what = format!("the start is {depth:.3} m inside piece {piece}");
            self.warn("start", what, self.axes.seen(start));
        }
    }

    fn slivers(&mut self, all: &[Face]) {
        let is_narrow = |face: &Face| face.width().is_some_and(|width| width < SLIVER);
        let mut narrow: Vec<Vec3> = all.iter().filter(|face| is_narrow(face)).map(Face::middle).collect();
        // Each flat piece is one face.
        let axes = self.axes;
        self.file.level.each_shape(|shape, _| {
            if let rasant::level::Shape::Polygon { points, .. } = shape {
                let corners = points.iter().map(|point| axes.seen(*point)).collect();
                let whole = Face { corners, normal: Vec3::Z, rides: false };
                narrow.extend(is_narrow(&whole).then(|| whole.middle()));
            }
        });
        for at in narrow {
            self.warn("sliver", format!("narrower than {} mm", SLIVER * 1000.0), at);
        }
    }

    fn slopes(&mut self, all: &[Face]) {
        let steepest = self.tuning.tuning.slope.max_angle.to_degrees();
        for face in all {
            let angle = face.angle().to_degrees();
            if (angle - steepest).abs() <= SLOPE {
                let held = if angle <= steepest { "walked on" } else { "slid down" };
                let what = format!(
                    "a slope of {angle:.1}°, {held}: it differs from slope.max_angle, {steepest:.1}°, by {:.1}°",
                    (angle - steepest).abs()
                );
                self.warn("slope", what, face.middle());
            }
        }
    }

    /// Checks steps and seams at the rims. Returns the rims at which the ground ends.
    fn rims(&mut self, walkable: &[&Face], probe: &Probe<'_, V>) -> Vec<Rim> {
        /// The distance from the rim to beside it, and to beyond a crack, in metres.
        const BESIDE: f32 = 0.002;
        const BEYOND: f32 = 0.03;
        /// The height above the rim from which probes look down.
        const OVER: f32 = 0.004;
        let step = self.in_metres.tuning.slope.step_height;
        let deep = (2.0 * step).max(1.0);
        let mut ledges = Vec::new();
        for rim in rims(walkable) {
            let beside = |out: f32| {
                let from = rim.at + rim.out * out + Vec3::Y * OVER;
                // If the ground continues, or something stands there, there is no drop.
                if probe.is_inside(from) {
                    Some(0.0)
                } else {
                    probe.below(from, deep).map(|drop| drop - OVER)
                }
            };
            let (near, mid, far) = (beside(BESIDE), beside(2.0 * BESIDE), beside(BEYOND));
            // Ground that slopes away from the rim, however steeply, is flush with it: the drop at
            // the rim itself counts.
            let near = match (near, mid) {
                (Some(near), Some(mid)) if mid > near => Some((2.0 * near - mid).max(0.0)),
                _ => near,
            };
            match (near, far) {
                (Some(drop), _) if (SEAM.0..SEAM.1).contains(&drop) => {
                    let what = format!("floors whose heights differ by {:.1} mm", drop * 1000.0);
                    self.warn("seam", what, rim.at);
                }
                (near, Some(drop)) if drop.abs() < SEAM.1 && near.is_none_or(|near| near > SEAM.1) => {
                    let what = format!("a crack, narrower than {:.0} mm", BEYOND * 1000.0);
                    self.warn("crack", what, rim.at);
                }
                (Some(drop), _) if step > 0.0 && (drop - step).abs() <= STEP => {
                    let held = if drop <= step { "walked up" } else { "a wall" };
                    let what = format!(
                        "a step of {drop:.3} m, {held}: it differs from slope.step_height, {step:.3} m, by {:.1} mm",
                        (drop - step).abs() * 1000.0
                    );
                    self.warn("step", what, rim.at);
                }
                (near, _) if near.is_none_or(|drop| drop > step) => ledges.push(rim),
                _ => {}
            }
        }
        ledges
    }

    /// Gaps between two ledges that a jump barely clears, or barely misses.
    fn gaps(&mut self, ledges: &[Rim], probe: &Probe<'_, V>) {
        if ledges.len() > MOST_RIMS {
            let what = format!(
                "gaps are only checked between at most {MOST_RIMS} ledges; there are {}",
                ledges.len()
            );
            return self.warn("skipped", what, ledges[0].at);
        }
        let mut reaches: Vec<(i32, Option<f32>)> = Vec::new();
        let in_metres = self.in_metres.clone();
        let mut reach_to = |rise: f32| {
            let key = (rise * 100.0).round() as i32;
            if let Some((_, known)) = reaches.iter().find(|(known, _)| *known == key) {
                return *known;
            }
            let found =
                reach(&in_metres, V::DIMENSION, RATE, f64::from(key) / 100.0).map(|reach| reach as f32);
            reaches.push((key, found));
            found
        };
        let Some(flat) = reach_to(0.0) else { return };
        let mut reported: Vec<(f32, f32, Vec3)> = Vec::new();
        for from in ledges {
            for to in ledges {
                let by = to.at - from.at;
                let gap = by.dot(from.out);
                let aside = (by.with_y(0.0) - from.out * gap).length();
                // The jump is the longest that falls at most twice its height.
                let is_across = from.out.dot(to.out) < -0.7 && aside <= from.half + to.half + 1e-3;
                if !is_across || gap < 0.3 || gap > 3.0 * flat || by.y > flat || by.y < -2.0 * flat {
                    continue;
                }
                let Some(longest) = reach_to(by.y) else { continue };
                let hair = (GAP.0 * longest).max(GAP.1);
                if (gap - longest).abs() > hair || !self.is_open(from, to, probe) {
                    continue;
                }
                let again = |(known, rise, at): &(f32, f32, Vec3)| {
                    (known - gap).abs() < 1e-3 && (rise - by.y).abs() < 1e-3 && at.distance(from.at) < flat
                };
                if reported.iter().any(again) {
                    continue;
                }
                reported.push((gap, by.y, from.at));
                let held = if gap <= longest { "cleared" } else { "missed" };
                let rise = match by.y {
                    rise if rise.abs() < 0.005 => "level".to_owned(),
                    rise if rise > 0.0 => format!("{rise:.2} m up"),
                    rise => format!("{:.2} m down", -rise),
                };
                let what = format!(
                    "a gap of {gap:.2} m, {rise}, {held} by {:.0} cm: the longest jump there goes {longest:.2} m",
                    (gap - longest).abs() * 100.0
                );
                self.warn("gap", what, from.at);
            }
        }
    }

    /// Returns true if there is nothing to walk on between two ledges.
    fn is_open(&self, from: &Rim, to: &Rim, probe: &Probe<'_, V>) -> bool {
        let deep = self.in_metres.tuning.slope.step_height.max(0.1);
        let height = from.at.y.max(to.at.y) + 0.01;
        (1..8).all(|eighth| {
            let between = from.at.lerp(to.at, eighth as f32 / 8.0).with_y(height);
            let drop = height - from.at.y.min(to.at.y) + deep;
            !probe.is_inside(between) && probe.below(between, drop).is_none()
        })
    }

    /// Ceilings above walkable ground that are lower than the body, or than it is in a crouch.
    fn head_room(&mut self, walkable: &[&Face], probe: &Probe<'_, V>) {
        const OVER: f32 = 0.01;
        /// The distance between the places that are checked, in metres, and their maximum number
        /// per face.
        const APART: f32 = 0.5;
        const MOST: f32 = 100.0;
        let TuningFile { hull, tuning, .. } = self.in_metres.clone();
        let (whole, crouched) = (hull.height(), tuning.crouch.height.min(hull.height()));
        for face in walkable {
            let places: Vec<Vec3> = match face.corners[..] {
                [from, to] => {
                    let count = (from.distance(to) / APART).ceil().clamp(1.0, MOST);
                    (0..count as usize).map(|number| from.lerp(to, (number as f32 + 0.5) / count)).collect()
                }
                _ => vec![face.middle()],
            };
            for at in places {
                let from = at + Vec3::Y * OVER;
                if probe.is_inside(from) {
                    continue;
                }
                let Some(room) = probe.above(from, whole + hull.clearance()).map(|room| room + OVER) else {
                    continue;
                };
                // A much lower space is no path for anybody.
                if room < 0.5 * crouched {
                    continue;
                }
                let what = if room >= crouched + 2.0 * hull.clearance() {
                    format!("head room of {room:.2} m, crouching only: the hull is {whole:.2} m high")
                } else if crouched < whole {
                    format!("head room of {room:.2} m, too low: crouch.height is {crouched:.2} m")
                } else {
                    format!("head room of {room:.2} m, too low: the hull is {whole:.2} m high")
                };
                self.warn("head-room", what, at);
            }
        }
    }

    fn ladders(&mut self) {
        if self.tuning.tuning.ladder.up_speed <= 0.0 {
            return;
        }
        let zones = self.file.level.all_zones().iter().zip(&self.file.zones);
        let ladders = zones.filter_map(|(zone, name)| {
            let front = zone.effects.iter().find_map(|effect| match effect {
                Effect::Ladder { front } => Some(*front),
                _ => None,
            });
            front.filter(|_| zone.carrier.is_none()).map(|front| (*zone, front, name.clone()))
        });
        for (zone, front, name) in ladders.collect::<Vec<_>>() {
            if !self.can_be_taken(&zone, front) {
                let what = format!("the ladder `{name}` cannot be grabbed: a body at its box does not climb");
                self.warn("ladder", what, self.axes.seen(zone.bounds.centre()));
            }
        }
    }

    /// Returns true if a body that is put at a ladder, from whichever side there is room, grabs it.
    fn can_be_taken(&self, zone: &Zone<V>, front: V) -> bool {
        /// The number of seconds that are simulated.
        const TRIED: f32 = 1.0;
        let mut tuning = self.tuning.clone();
        let is_space = V::DIMENSION == 3;
        tuning.tuning.steering = if is_space { Steering::Plan } else { Steering::Side };
        let (up, right) = (self.file.up(), V::right_for(self.file.up(), V::RIGHT));
        let aside = V::from_array([0.0, 0.0, 1.0]).out_of_axes(right, up);
        let [middle, half] = [zone.bounds.centre(), (zone.bounds.max - zone.bounds.min) * 0.5];
        let high = half.dot(up.abs());
        let radius = self.tuning.hull.half_width();
        let heights = [-high + 0.01 * self.file.scale(), -0.4 * high, 0.0];
        let places = heights.into_iter().flat_map(|height| {
            [0.0, -0.9 * radius, 0.9 * radius].into_iter().flat_map(move |x| {
                [0.0, -0.9 * radius, 0.9 * radius].map(|z| middle + up * height + right * x + aside * z)
            })
        });
        let toward = -front;
        let mut level = self.file.level.clone();
        let dt = 1.0 / RATE as f32;
        for at in places {
            if overlap_at(at, self.file, &tuning).is_some() {
                continue;
            }
            let [x, _, z] = toward.in_axes(right, up).to_array();
            let steers = if toward == V::ZERO { [(0.0, 1.0), (0.0, -1.0)] } else { [(x, -z), (-x, z)] };
            for (x, y) in steers {
                let mut body = self.file.body(&tuning, at);
                body.find_footing(&level);
                for _ in 0..(TRIED / dt) as usize {
                    level.advance(dt);
                    body.tick(&Intent::steering(x, y), &level, dt);
                    if body.events().iter().any(|event| matches!(event, Event::LadderGrabbed { .. })) {
                        return true;
                    }
                }
            }
        }
        false
    }
}
