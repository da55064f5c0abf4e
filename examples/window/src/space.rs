//! Draws the level and the body in three dimensions, from behind the body: faces from the farthest
//! to the nearest, shaded by their direction.

use rasant::HullShape;
use rasant::glam::{Vec2, Vec3};
use rasant::level::Shape;
use tiny_skia::{Color, FillRule, Paint, Pixmap, Transform};

use crate::Failure;
use crate::draw::{AWNING, BODY, PAPER, Rgb, STONE, outline};
use crate::game::{Drawn, Game};

/// The distance of the camera behind the body, and above its middle, in metres.
const BEHIND: f32 = 5.0;
const OVER: f32 = 0.8;
/// Anything closer to the camera is clipped.
const NEAR: f32 = 0.05;

impl Drawn for Vec3 {
    fn draw(game: &Game<Vec3>, size: (u32, u32)) -> Result<Pixmap, Failure> {
        let mut picture = Pixmap::new(size.0, size.1).ok_or("the window has no size")?;
        picture.fill(Color::from_rgba8(PAPER[0], PAPER[1], PAPER[2], 255));
        let camera = Camera::behind(game, size);
        let mut faces: Vec<(f32, Vec<Vec2>, Rgb)> = Vec::new();
        let mut add = |corners: &[Vec3], colour: Rgb| faces.extend(camera.face(corners, colour));
        game.level().each_shape(|shape, tag| {
            let colour = if tag.one_way { AWNING } else { STONE };
            match shape {
                Shape::Ball { centre, radius } => {
                    lathe(centre, &rings(radius, 0.0), |face| add(face, colour));
                }
                other => other.each_outline(|face| add(face, colour)),
            }
        });
        body(game, |face| add(face, BODY));
        faces.sort_by(|a, b| b.0.total_cmp(&a.0));
        for (_, corners, colour) in faces {
            face(&mut picture, &corners, colour);
        }
        Ok(picture)
    }
}

/// Fills a face with hard edges, so that nothing shows between two adjacent ones.
fn face(picture: &mut Pixmap, corners: &[Vec2], [red, green, blue]: Rgb) {
    let mut paint = Paint { anti_alias: false, ..Paint::default() };
    paint.set_color_rgba8(red, green, blue, 255);
    if let Some(path) = outline(corners) {
        picture.fill_path(&path, &paint, FillRule::Winding, Transform::identity(), None);
    }
}

struct Camera {
    at: Vec3,
    right: Vec3,
    up: Vec3,
    ahead: Vec3,
    /// Pixels per metre at a distance of one metre.
    scale: f32,
    middle: Vec2,
}

impl Camera {
    fn behind(game: &Game<Vec3>, (width, height): (u32, u32)) -> Self {
        let ahead = game.look().direction();
        let right = ahead.cross(Vec3::Y).normalize_or(Vec3::X);
        let pose = game.pose();
        let hull = game.body().present_hull();
        let middle = pose.position + hull.middle::<Vec3>() + Vec3::Y * (pose.lift + OVER);
        let size = Vec2::new(width as f32, height as f32);
        Self {
            at: middle - ahead * BEHIND,
            right,
            up: right.cross(ahead),
            ahead,
            scale: 0.9 * size.y,
            middle: size / 2.0,
        }
    }

    /// Projects a face: its distance, its corners in pixels, its shade.
    fn face(&self, corners: &[Vec3], [red, green, blue]: Rgb) -> Option<(f32, Vec<Vec2>, Rgb)> {
        let normal = (corners[1] - corners[0]).cross(corners[2] - corners[0]).normalize_or_zero();
        if normal.dot(corners[0] - self.at) > 0.0 {
            return None;
        }
        let seen: Vec<Vec3> = corners
            .iter()
            .map(|corner| *corner - self.at)
            .map(|by| Vec3::new(by.dot(self.right), by.dot(self.up), by.dot(self.ahead)))
            .collect();
        let far = seen.iter().map(|at| at.length()).sum::<f32>() / seen.len() as f32;
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
        let shade = |part: u8| (f32::from(part) * light) as u8;
        let points: Vec<Vec2> = points.iter().map(on_screen).collect();
        (points.len() > 2).then(|| (far, points, [shade(red), shade(green), shade(blue)]))
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

fn body(game: &Game<Vec3>, mut add: impl FnMut(&[Vec3])) {
    let hull = game.body().present_hull();
    let pose = game.pose();
    let middle = pose.position + hull.middle::<Vec3>() + Vec3::Y * pose.lift;
    match hull.shape() {
        HullShape::Capsule { radius, height } => {
            lathe(middle, &rings(radius, 0.5 * height - radius), &mut add)
        }
        HullShape::Ball { radius } => lathe(middle, &rings(radius, 0.0), &mut add),
        HullShape::Box { width, height, .. } => {
            let (half, radius) = (0.5 * height, 0.5 * width);
            lathe(middle, &[(0.0, -half), (radius, -half), (radius, half), (0.0, half)], &mut add);
        }
    }
    // A nose shows the facing.
    let nose = middle + pose.facing * (hull.half_width() * 0.9) + Vec3::Y * (0.25 * hull.height());
    lathe(nose, &rings(0.09, 0.0), &mut add);
}
