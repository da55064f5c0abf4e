//! An oracle that shares no code with the library: the depth of a hull in pieces, by plain
//! distances in double precision.

use rasant::glam::{DVec2, DVec3};
use rasant::{Hull, HullShape};

/// A hull's core in space and what it is rounded by: a segment or a box.
#[derive(Clone, Copy, Debug)]
pub struct Body {
    /// From the core's middle to its greatest corner.
    pub half: DVec3,
    pub radius: f64,
    /// From the body's position up to the middle of its core.
    pub lift: f64,
}

impl Body {
    pub fn of(hull: &Hull) -> Self {
        let (half, radius, height) = match hull.shape() {
            HullShape::Capsule { radius, height } => {
                (DVec3::new(0.0, f64::from(height) / 2.0 - f64::from(radius), 0.0), radius, height)
            }
            HullShape::Ball { radius } => (DVec3::ZERO, radius, 2.0 * radius),
            HullShape::Box { width, depth, height, rounding } => {
                let whole = DVec3::new(width.into(), height.into(), depth.into());
                (whole / 2.0 - DVec3::splat(rounding.into()), rounding, height)
            }
        };
        Self { half, radius: radius.into(), lift: f64::from(height) / 2.0 }
    }

    fn is_segment(&self) -> bool {
        self.half.x <= 0.0 && self.half.z <= 0.0
    }

    /// How deep the bare hull at `position` is in a triangle, in metres; below 0 by
    /// (at most) how far it is away.
    pub fn depth_in_triangle(&self, position: DVec3, triangle: [DVec3; 3]) -> f64 {
        let corners = triangle.map(|corner| corner - position - DVec3::Y * self.lift);
        if self.is_segment() {
            let end = DVec3::Y * self.half.y;
            return self.radius - segment_to_triangle(-end, end, corners);
        }
        let apart = self.apart(corners);
        if apart <= 0.0 || apart >= self.radius {
            return self.radius - apart;
        }
        self.radius - self.box_to_triangle(corners)
    }

    /// How far a box about the origin and a triangle are apart along the axis along
    /// which they are furthest apart; below 0 when they overlap.
    fn apart(&self, corners: [DVec3; 3]) -> f64 {
        let own = [DVec3::X, DVec3::Y, DVec3::Z];
        let edges = [0, 1, 2].map(|i| corners[(i + 1) % 3] - corners[i]);
        let crossed = edges.iter().flat_map(|edge| own.map(|axis| edge.cross(axis)));
        let all = own.into_iter().chain([edges[0].cross(edges[1])]).chain(crossed);
        all.filter_map(DVec3::try_normalize)
            .map(|axis| {
                let reach = axis.abs().dot(self.half);
                let places = corners.map(|corner| corner.dot(axis));
                let least = places.into_iter().fold(f64::INFINITY, f64::min);
                let most = places.into_iter().fold(f64::NEG_INFINITY, f64::max);
                (least - reach).max(-reach - most)
            })
            .fold(f64::NEG_INFINITY, f64::max)
    }

    fn box_to_triangle(&self, corners: [DVec3; 3]) -> f64 {
        let sign = |bit: usize, i: usize| if i >> bit & 1 == 1 { 1.0 } else { -1.0 };
        let own: Vec<DVec3> =
            (0..8).map(|i| self.half * DVec3::new(sign(0, i), sign(1, i), sign(2, i))).collect();
        let mut least = f64::INFINITY;
        for i in 0..8 {
            least = least.min(point_to_triangle(own[i], corners));
            for bit in [1, 2, 4] {
                if i & bit == 0 {
                    for edge in 0..3 {
                        let far = corners[(edge + 1) % 3];
                        least = least.min(segment_to_segment(own[i], own[i | bit], corners[edge], far));
                    }
                }
            }
        }
        corners
            .into_iter()
            .fold(least, |least, corner| least.min((corner - corner.clamp(-self.half, self.half)).length()))
    }

    /// How deep the hull at `position` in the plane is in a convex outline, which
    /// may be a segment or a point rounded by `rounding`.
    pub fn depth_in_outline(&self, position: DVec2, outline: &[DVec2], rounding: f64) -> f64 {
        let half = DVec2::new(self.half.x, self.half.y);
        let middle = position + DVec2::Y * self.lift;
        let points: Vec<DVec2> = outline.iter().map(|&point| point - middle).collect();
        let sum = self.radius + rounding;
        let n = points.len();
        let mut axes = vec![DVec2::X, DVec2::Y];
        for i in 0..n {
            axes.extend((points[(i + 1) % n] - points[i]).perp().try_normalize());
        }
        let apart = axes
            .iter()
            .map(|axis| {
                let reach = axis.abs().dot(half);
                let places = points.iter().map(|point| point.dot(*axis));
                let least = places.clone().fold(f64::INFINITY, f64::min);
                let most = places.fold(f64::NEG_INFINITY, f64::max);
                (least - reach).max(-reach - most)
            })
            .fold(f64::NEG_INFINITY, f64::max);
        if apart <= 0.0 || apart >= sum {
            return sum - apart;
        }
        let own = [(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)].map(|(x, y)| half * DVec2::new(x, y));
        let mut least = f64::INFINITY;
        for i in 0..n {
            least = least.min((points[i] - points[i].clamp(-half, half)).length());
            for corner in own {
                least = least.min(point_to_segment(
                    corner.extend(0.0),
                    points[i].extend(0.0),
                    points[(i + 1) % n].extend(0.0),
                ));
            }
        }
        sum - least
    }
}

fn point_to_segment(point: DVec3, a: DVec3, b: DVec3) -> f64 {
    let along = b - a;
    let squared = along.length_squared();
    let fraction = if squared > 0.0 { ((point - a).dot(along) / squared).clamp(0.0, 1.0) } else { 0.0 };
    (point - a - along * fraction).length()
}

/// By the unbounded lines where these come nearest within both, and by the ends.
fn segment_to_segment(a: DVec3, b: DVec3, c: DVec3, d: DVec3) -> f64 {
    let ends = [
        point_to_segment(a, c, d),
        point_to_segment(b, c, d),
        point_to_segment(c, a, b),
        point_to_segment(d, a, b),
    ];
    let least = ends.into_iter().fold(f64::INFINITY, f64::min);
    let (u, v, w) = (b - a, d - c, a - c);
    let across = u.cross(v);
    let squared = across.length_squared();
    if squared <= 1e-24 * u.length_squared() * v.length_squared() {
        return least;
    }
    let s = v.cross(w).dot(across) / squared;
    let t = u.cross(w).dot(across) / squared;
    let crosses = (0.0..=1.0).contains(&s) && (0.0..=1.0).contains(&t);
    if crosses { least.min((w + u * s - v * t).length()) } else { least }
}

fn point_to_triangle(point: DVec3, corners: [DVec3; 3]) -> f64 {
    let edges = (0..3).map(|i| point_to_segment(point, corners[i], corners[(i + 1) % 3]));
    let least = edges.fold(f64::INFINITY, f64::min);
    let Some(normal) = (corners[1] - corners[0]).cross(corners[2] - corners[0]).try_normalize() else {
        return least;
    };
    if is_over(point, corners, normal) { least.min(normal.dot(point - corners[0]).abs()) } else { least }
}

fn is_over(point: DVec3, corners: [DVec3; 3], normal: DVec3) -> bool {
    (0..3).all(|i| normal.dot((corners[(i + 1) % 3] - corners[i]).cross(point - corners[i])) >= 0.0)
}

fn segment_to_triangle(a: DVec3, b: DVec3, corners: [DVec3; 3]) -> f64 {
    if let Some(normal) = (corners[1] - corners[0]).cross(corners[2] - corners[0]).try_normalize() {
        let (from, to) = (normal.dot(a - corners[0]), normal.dot(b - corners[0]));
        if from * to < 0.0 && is_over(a + (b - a) * (from / (from - to)), corners, normal) {
            return 0.0;
        }
    }
    let edges = (0..3).map(|i| segment_to_segment(a, b, corners[i], corners[(i + 1) % 3]));
    let ends = [point_to_triangle(a, corners), point_to_triangle(b, corners)];
    edges.chain(ends).fold(f64::INFINITY, f64::min)
}

/// Triangles sorted into cells, so that few are examined.
pub struct Triangles {
    all: Vec<[DVec3; 3]>,
    cells: std::collections::HashMap<[i32; 3], Vec<u32>>,
    side: f64,
}

impl Triangles {
    pub fn new(all: Vec<[DVec3; 3]>) -> Self {
        let side = 2.0;
        let mut cells = std::collections::HashMap::<_, Vec<u32>>::new();
        for (number, corners) in all.iter().enumerate() {
            let least = corners.iter().fold(DVec3::INFINITY, |least, corner| least.min(*corner));
            let most = corners.iter().fold(DVec3::NEG_INFINITY, |most, corner| most.max(*corner));
            each_cell(least, most, side, |cell| cells.entry(cell).or_default().push(number as u32));
        }
        Self { all, cells, side }
    }

    /// Calls `f` with every triangle that may be within `reach` of a place, some twice.
    pub fn each_near(&self, place: DVec3, reach: f64, mut f: impl FnMut(&[DVec3; 3])) {
        each_cell(place - DVec3::splat(reach), place + DVec3::splat(reach), self.side, |cell| {
            self.cells.get(&cell).into_iter().flatten().for_each(|&number| f(&self.all[number as usize]));
        });
    }

    /// How deep a body is in the triangles, and in which it is deepest.
    pub fn depth(&self, body: &Body, position: DVec3) -> f64 {
        let reach = body.half + DVec3::splat(body.radius + 0.01);
        let middle = position + DVec3::Y * body.lift;
        let mut deepest = f64::NEG_INFINITY;
        each_cell(middle - reach, middle + reach, self.side, |cell| {
            for &number in self.cells.get(&cell).into_iter().flatten() {
                deepest = deepest.max(body.depth_in_triangle(position, self.all[number as usize]));
            }
        });
        deepest
    }
}

fn each_cell(least: DVec3, most: DVec3, side: f64, mut f: impl FnMut([i32; 3])) {
    let cell = |at: DVec3| (at / side).to_array().map(|part| part.floor() as i32);
    let (from, to) = (cell(least), cell(most));
    for x in from[0]..=to[0] {
        for y in from[1]..=to[1] {
            for z in from[2]..=to[2] {
                f([x, y, z]);
            }
        }
    }
}
