//! Draws in two dimensions.

use rasant::glam::Vec2;
use rasant::level::Shape;
use rasant::{Effect, Hull, HullShape, Level, Pose};
use tiny_skia::{Path, PathBuilder, Rect, Transform};

use crate::canvas::{AWNING, Canvas, Drawn, PAPER, Rgb, STONE, WARNING, path_of};

const ZONE: Rgb = [0xC9, 0xDD, 0xEA];

impl Drawn for Vec2 {
    fn level(canvas: &mut Canvas, level: &Level<Self>, blend: f32) {
        level.each_zone_at(blend, |_, zone| {
            let (min, max) = (zone.bounds.min, zone.bounds.max);
            match zone.effects.iter().next() {
                Some(Effect::Own(_) | Effect::Goal) | None => {}
                Some(Effect::Hazard) => teeth(canvas, min, max),
                Some(_) => canvas.block(min, max, ZONE),
            }
            if zone.effects.iter().any(|effect| matches!(effect, Effect::Ladder { .. })) {
                let apart = 0.35 * canvas.unit;
                let rungs = (1..).map(|rung| min.y + apart * rung as f32).take_while(|y| *y < max.y);
                for y in rungs {
                    canvas.line(&[Vec2::new(min.x, y), Vec2::new(max.x, y)], 0.06, STONE);
                }
            }
        });
        level.each_shape_at(blend, |shape, tag| {
            let colour = if tag.one_way { AWNING } else { STONE };
            match shape {
                Shape::Ball { centre, radius } => canvas.ball(centre, radius, colour),
                Shape::Segment { ends, .. } => canvas.line(&ends, 0.05, colour),
                _ => shape.each_outline(|points| canvas.fill(path_of(points, true).as_ref(), colour)),
            }
        });
    }

    fn hull(canvas: &mut Canvas, hull: &Hull, pose: &Pose<Self>, colour: Rgb) {
        // Upright, with its position at the origin.
        let middle = hull.middle::<Vec2>() + Vec2::Y * pose.lift;
        let (half, radius) = match hull.shape() {
            HullShape::Capsule { radius, height } => (Vec2::new(radius, 0.5 * height), radius),
            HullShape::Ball { radius } => (Vec2::splat(radius), radius),
            HullShape::Box { width, height, rounding, .. } => {
                (Vec2::new(0.5 * width, 0.5 * height), rounding)
            }
        };
        // It leans about its feet, spins about its middle, and a landing squashes it.
        let lean = -pose.lean.y * pose.mirror * 0.3;
        let squash = 1.0 - 0.35 * pose.landing;
        let right = pose.up.rotate(if canvas.is_down { Vec2::Y } else { Vec2::NEG_Y });
        let turned = Transform::from_rotate_at(pose.spin.to_degrees(), middle.x, middle.y)
            .post_scale(1.0 / squash.sqrt(), squash)
            .post_concat(Transform::from_rotate(lean.to_degrees()))
            .post_concat(Transform::from_row(right.x, right.y, pose.up.x, pose.up.y, 0.0, 0.0))
            .post_translate(pose.position.x, pose.position.y);
        canvas.fill_turned(rounded(middle, half, radius).as_ref(), colour, turned);
        // A body seen from above has its position in its middle.
        let seen_from_above = hull.middle::<Vec2>() == Vec2::ZERO;
        let raised = if seen_from_above { 0.0 } else { 0.5 * half.y };
        let facing = Vec2::new(pose.facing.dot(right), pose.facing.dot(pose.up));
        let nose = middle + facing * (0.55 * half.x) + Vec2::Y * raised;
        let size = 0.07 * canvas.unit;
        canvas.fill_turned(PathBuilder::from_circle(nose.x, nose.y, size).as_ref(), PAPER, turned);
    }

    fn ball(canvas: &mut Canvas, centre: Self, radius: f32, colour: Rgb) {
        canvas.fill(PathBuilder::from_circle(centre.x, centre.y, radius).as_ref(), colour);
    }

    fn block(canvas: &mut Canvas, min: Self, max: Self, colour: Rgb) {
        let path = Rect::from_ltrb(min.x, min.y, max.x, max.y).map(PathBuilder::from_rect);
        canvas.fill(path.as_ref(), colour);
    }
}

/// A row of teeth, half a metre wide each.
fn teeth(canvas: &mut Canvas, min: Vec2, max: Vec2) {
    let count = ((max.x - min.x) / (0.5 * canvas.unit)).round().max(1.0);
    let (base, tip) = if canvas.is_down { (max.y, min.y) } else { (min.y, max.y) };
    let width = (max.x - min.x) / count;
    for number in 0..count as u32 {
        let left = min.x + width * number as f32;
        let corners =
            [Vec2::new(left, base), Vec2::new(left + width, base), Vec2::new(left + 0.5 * width, tip)];
        canvas.fill(path_of(&corners, true).as_ref(), WARNING);
    }
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
