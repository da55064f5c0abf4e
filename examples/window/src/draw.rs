//! Draws the level, the trail and the body in two dimensions.

use rasant::glam::Vec2;
use rasant::level::Shape;
use rasant::{Effect, HullShape};
use tiny_skia::{Color, FillRule, LineCap, Paint, Path, PathBuilder, Pixmap, Rect, Stroke, Transform};

use crate::Failure;
use crate::game::{Drawn, Game};

/// Red, green and blue.
pub type Rgb = [u8; 3];

/// Pixels per metre.
const SCALE: f32 = 56.0;
pub const PAPER: Rgb = [0xF6, 0xF3, 0xEC];
pub const STONE: Rgb = [0xA9, 0xAD, 0xB3];
pub const AWNING: Rgb = [0x7A, 0x5C, 0x8E];
const ZONE: Rgb = [0xC9, 0xDD, 0xEA];
const TRAIL: Rgb = [0xD2, 0x6A, 0x00];
pub const BODY: Rgb = [0x12, 0x57, 0x9C];
const NOSE: Rgb = [0xF6, 0xF3, 0xEC];

impl Drawn for Vec2 {
    fn draw(game: &Game<Vec2>, size: (u32, u32)) -> Result<Pixmap, Failure> {
        frame(game, size)
    }
}

fn frame(game: &Game<Vec2>, (width, height): (u32, u32)) -> Result<Pixmap, Failure> {
    let mut picture = Pixmap::new(width, height).ok_or("the window has no size")?;
    picture.fill(Color::from_rgba8(PAPER[0], PAPER[1], PAPER[2], 255));
    let pose = game.pose();
    // The body stays in the middle, a little low.
    let (x, y) =
        (0.5 * width as f32 - pose.position.x * SCALE, 0.62 * height as f32 + pose.position.y * SCALE);
    let seen = Transform::from_row(SCALE, 0.0, 0.0, -SCALE, x, y);
    game.level().each_zone(|_, zone| {
        let (min, max) = (zone.bounds.min, zone.bounds.max);
        fill(&mut picture, rectangle(min, max).as_ref(), ZONE, seen);
        if zone.effects.iter().any(|effect| matches!(effect, Effect::Ladder { .. })) {
            let rungs = (1..).map(|rung| min.y + 0.35 * rung as f32).take_while(|y| *y < max.y);
            for y in rungs {
                line(&mut picture, &[Vec2::new(min.x, y), Vec2::new(max.x, y)], STONE, 0.06, seen);
            }
        }
    });
    game.level().each_shape(|shape, tag| {
        let colour = if tag.one_way { AWNING } else { STONE };
        match shape {
            Shape::Ball { centre, radius } => {
                fill(
                    &mut picture,
                    PathBuilder::from_circle(centre.x, centre.y, radius).as_ref(),
                    colour,
                    seen,
                );
            }
            Shape::Segment { ends, .. } => line(&mut picture, &ends, colour, 0.05, seen),
            _ => shape.each_outline(|points| fill(&mut picture, outline(points).as_ref(), colour, seen)),
        }
    });
    // Up to the drawn position, between the last two ticks.
    let been = game.trail();
    let mut trail = been[..been.len().saturating_sub(1)].to_vec();
    trail.push(pose.position);
    line(&mut picture, &trail, TRAIL, 0.04, seen);
    draw_body(&mut picture, game, seen);
    Ok(picture)
}

fn draw_body(picture: &mut Pixmap, game: &Game<Vec2>, seen: Transform) {
    let hull = game.body().present_hull();
    let pose = game.pose();
    let middle = pose.position + hull.middle::<Vec2>() + Vec2::Y * pose.lift;
    let (half, radius) = match hull.shape() {
        HullShape::Capsule { radius, height } => (Vec2::new(radius, 0.5 * height), radius),
        HullShape::Ball { radius } => (Vec2::splat(radius), radius),
        HullShape::Box { width, height, rounding, .. } => (Vec2::new(0.5 * width, 0.5 * height), rounding),
    };
    let turned = seen.pre_concat(Transform::from_rotate_at(pose.spin.to_degrees(), middle.x, middle.y));
    fill(picture, rounded(middle, half, radius).as_ref(), BODY, turned);
    let nose = middle + pose.facing * (0.55 * half.x);
    fill(picture, PathBuilder::from_circle(nose.x, nose.y + 0.5 * half.y, 0.07).as_ref(), NOSE, turned);
}

/// A rounded box, equal to the outline of a stroke round a smaller box.
fn rounded(middle: Vec2, half: Vec2, radius: f32) -> Option<Path> {
    /// The distance of the control points of a quarter circle from its ends.
    const HANDLE: f32 = 0.552_284_8;
    let inner = half - Vec2::splat(radius);
    let mut path = PathBuilder::new();
    let corners = [(1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0), (1.0, -1.0)];
    for (i, (x, y)) in corners.into_iter().enumerate() {
        let centre = middle + Vec2::new(x * inner.x, y * inner.y);
        let (from, to) = if x * y > 0.0 { (Vec2::X * x, Vec2::Y * y) } else { (Vec2::Y * y, Vec2::X * x) };
        let (start, end) = (centre + from * radius, centre + to * radius);
        let (a, b) = (start + to * (radius * HANDLE), end + from * (radius * HANDLE));
        if i == 0 {
            path.move_to(start.x, start.y)
        } else {
            path.line_to(start.x, start.y)
        }
        path.cubic_to(a.x, a.y, b.x, b.y, end.x, end.y);
    }
    path.close();
    path.finish()
}

fn rectangle(min: Vec2, max: Vec2) -> Option<Path> {
    Rect::from_ltrb(min.x, min.y, max.x, max.y).map(PathBuilder::from_rect)
}

pub fn outline(points: &[Vec2]) -> Option<Path> {
    let mut path = PathBuilder::new();
    for (i, point) in points.iter().enumerate() {
        if i == 0 { path.move_to(point.x, point.y) } else { path.line_to(point.x, point.y) }
    }
    path.close();
    path.finish()
}

fn fill(picture: &mut Pixmap, path: Option<&Path>, [red, green, blue]: Rgb, seen: Transform) {
    let mut paint = Paint::default();
    paint.set_color_rgba8(red, green, blue, 255);
    if let Some(path) = path {
        picture.fill_path(path, &paint, FillRule::Winding, seen, None);
    }
}

fn line(picture: &mut Pixmap, points: &[Vec2], [red, green, blue]: Rgb, width: f32, seen: Transform) {
    let mut paint = Paint::default();
    paint.set_color_rgba8(red, green, blue, 255);
    let mut path = PathBuilder::new();
    for (i, point) in points.iter().enumerate() {
        if i == 0 { path.move_to(point.x, point.y) } else { path.line_to(point.x, point.y) }
    }
    if let Some(path) = path.finish() {
        let stroke = Stroke { width, line_cap: LineCap::Round, ..Stroke::default() };
        picture.stroke_path(&path, &paint, &stroke, seen, None);
    }
}
