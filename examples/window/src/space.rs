//! Draws in three dimensions: faces, sorted by distance.

use rasant::camera::View;
use rasant::glam::{Quat, Vec2, Vec3};
use rasant::level::Shape;
use rasant::{Hull, HullShape, Level, Pose};

use crate::canvas::{AWNING, Canvas, Drawn, Rgb, STONE};

/// Faces of bodies and marks are sorted as if they were this much nearer than those of the level, in
/// metres: half the size of a face of the level.
pub(crate) const NEARER: f32 = 0.75;

/// Anything closer to the camera is clipped.
const NEAR: f32 = 0.05;

/// A face on the screen.
#[derive(Debug)]
pub(crate) struct Face {
    pub distance: f32,
    pub corners: Vec<Vec2>,
    pub colour: Rgb,
    /// True if its edges are drawn.
    pub edged: bool,
}

#[derive(Debug)]
pub(crate) struct Eye {
    at: Vec3,
    right: Vec3,
    up: Vec3,
    ahead: Vec3,
    /// Pixels per metre at a distance of one metre.
    scale: f32,
    middle: Vec2,
}

impl Eye {
    pub fn of(view: &View, size: Vec2) -> Self {
        let View { eye, ahead, up } = *view;
        Self { at: eye, right: ahead.cross(up), up, ahead, scale: 0.9 * size.y, middle: size / 2.0 }
    }

    /// Projects a face, with its shade. `None` for a face that is seen from behind.
    pub fn face(&self, corners: &[Vec3], colour: Rgb) -> Option<Face> {
        let normal = (corners[1] - corners[0]).cross(corners[2] - corners[0]).normalize_or_zero();
        if normal.dot(corners[0] - self.at) > 0.0 {
            return None;
        }
        let seen: Vec<Vec3> = corners
            .iter()
            .map(|corner| *corner - self.at)
            .map(|by| Vec3::new(by.dot(self.right), by.dot(self.up), by.dot(self.ahead)))
            .collect();
        // Marks and bodies stand in front of the floor that they are on.
        let distance = -NEARER + seen.iter().map(|at| at.length()).sum::<f32>() / seen.len() as f32;
        let mut points = Vec::new();
        for i in 0..seen.len() {
            let (from, to) = (seen[i], seen[(i + 1) % seen.len()]);
            if from.z > NEAR {
                points.push(from);
            }
            if (from.z > NEAR) != (to.z > NEAR) {
                points.push(from.lerp(to, (NEAR - from.z) / (to.z - from.z)));
            }
        }
        let on_screen = |at: &Vec3| self.middle + Vec2::new(at.x, -at.y) * (self.scale / at.z);
        let light = 0.65 + 0.35 * normal.dot(Vec3::new(0.3, 0.85, 0.43));
        let corners: Vec<Vec2> = points.iter().map(on_screen).collect();
        let colour = colour.map(|part| (f32::from(part) * light) as u8);
        (corners.len() > 2).then_some(Face { distance, corners, colour, edged: false })
    }
}

impl Drawn for Vec3 {
    fn level(canvas: &mut Canvas, level: &Level<Self>, blend: f32) {
        level.each_shape_at(blend, |shape, tag| {
            let colour = if tag.one_way { AWNING } else { STONE };
            match shape {
                Shape::Ball { centre, radius } => canvas.ball(centre, radius, colour),
                other => other.each_outline(|face| cut(face, &mut |part| canvas.edged_face(part, colour))),
            }
        });
    }

    fn hull(canvas: &mut Canvas, hull: &Hull, pose: &Pose<Self>, colour: Rgb) {
        // Upright, with its position at the origin.
        let middle = hull.middle::<Vec3>() + Vec3::Y * pose.lift;
        let upright = Quat::from_rotation_arc(Vec3::Y, pose.up);
        let mut add = |face: &[Vec3]| {
            let corners: Vec<Vec3> = face.iter().map(|corner| pose.position + upright * *corner).collect();
            canvas.face(&corners, colour);
        };
        match hull.shape() {
            HullShape::Capsule { radius, height } => {
                lathe(middle, &rings(radius, 0.5 * height - radius), &mut add);
            }
            HullShape::Ball { radius } => lathe(middle, &rings(radius, 0.0), &mut add),
            HullShape::Box { width, depth, height, .. } => {
                let half = 0.5 * Vec3::new(width, height, depth);
                boxed(middle - half, middle + half, &mut add);
            }
        }
        // A nose shows the facing.
        let facing = upright.inverse() * pose.facing;
        let nose = middle + facing * (hull.half_width() * 0.9) + Vec3::Y * (0.25 * hull.height());
        lathe(nose, &rings(0.09, 0.0), &mut add);
    }

    fn ball(canvas: &mut Canvas, centre: Self, radius: f32, colour: Rgb) {
        lathe(centre, &rings(radius, 0.0), |face| canvas.face(face, colour));
    }

    fn block(canvas: &mut Canvas, min: Self, max: Self, colour: Rgb) {
        boxed(min, max, &mut |face| canvas.face(face, colour));
    }
}

/// The faces of a box along the axes.
fn boxed(min: Vec3, max: Vec3, add: &mut impl FnMut(&[Vec3])) {
    let at = |x: usize, y: usize, z: usize| {
        let ends = [min, max];
        Vec3::new(ends[x].x, ends[y].y, ends[z].z)
    };
    add(&[at(0, 0, 0), at(0, 0, 1), at(0, 1, 1), at(0, 1, 0)]);
    add(&[at(1, 0, 0), at(1, 1, 0), at(1, 1, 1), at(1, 0, 1)]);
    add(&[at(0, 0, 0), at(1, 0, 0), at(1, 0, 1), at(0, 0, 1)]);
    add(&[at(0, 1, 0), at(0, 1, 1), at(1, 1, 1), at(1, 1, 0)]);
    add(&[at(0, 0, 0), at(0, 1, 0), at(1, 1, 0), at(1, 0, 0)]);
    add(&[at(0, 0, 1), at(1, 0, 1), at(1, 1, 1), at(0, 1, 1)]);
}

/// Cuts a large face with four corners into smaller ones, because faces are sorted by their middle.
fn cut(face: &[Vec3], add: &mut impl FnMut(&[Vec3])) {
    /// The longest side in metres.
    const MOST: f32 = 1.5;
    let [a, b, c, d] = *face else { return add(face) };
    let (along, across) = (a.distance(b).max(c.distance(d)), b.distance(c).max(d.distance(a)));
    if along.max(across) <= MOST {
        add(face);
    } else if along > across {
        let (low, high) = (a.midpoint(b), d.midpoint(c));
        cut(&[a, low, high, d], add);
        cut(&[low, b, c, high], add);
    } else {
        let (left, right) = (a.midpoint(d), b.midpoint(c));
        cut(&[a, b, right, left], add);
        cut(&[left, right, c, d], add);
    }
}

/// The rings of a ball or a capsule, from below: radius and height, with a straight part of twice
/// `half`.
fn rings(radius: f32, half: f32) -> Vec<(f32, f32)> {
    const STEPS: i32 = 6;
    let ring = |step: i32, side: f32| {
        let angle = std::f32::consts::FRAC_PI_2 * step as f32 / STEPS as f32;
        (radius * angle.cos(), side * (half + radius * angle.sin()))
    };
    let below = (0..=STEPS).rev().map(|step| ring(step, -1.0));
    below.chain((0..=STEPS).map(|step| ring(step, 1.0))).collect()
}

/// The faces between rings about a vertical axis.
fn lathe(middle: Vec3, rings: &[(f32, f32)], mut add: impl FnMut(&[Vec3])) {
    const SIDES: usize = 16;
    let at = |(radius, height): (f32, f32), side: usize| {
        let (sin, cos) = (std::f32::consts::TAU * side as f32 / SIDES as f32).sin_cos();
        middle + Vec3::new(radius * sin, height, radius * cos)
    };
    for pair in rings.windows(2) {
        for side in 0..SIDES {
            let next = side + 1;
            let (a, b, c, d) = (at(pair[0], side), at(pair[0], next), at(pair[1], next), at(pair[1], side));
            // At a pole two of the corners coincide.
            if pair[0].0.abs() < 1e-5 { add(&[a, c, d]) } else { add(&[a, b, c, d]) }
        }
    }
}
