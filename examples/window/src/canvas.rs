//! Draws levels, bodies and marks, in two dimensions from the side and in three from a camera.

use rasant::camera::View;
use rasant::glam::{Vec2, Vec3};
use rasant::{Controller, Geometry, Hull, Level, Pose};
use tiny_skia::{Color, FillRule, LineCap, Paint, Path, PathBuilder, Pixmap, Stroke, Transform};

use crate::space::{Eye, Face, NEARER};

/// Red, green and blue.
pub type Rgb = [u8; 3];

pub const PAPER: Rgb = [0xF6, 0xF3, 0xEC];
pub const STONE: Rgb = [0xA9, 0xAD, 0xB3];
/// Of what is solid from above only.
pub const AWNING: Rgb = [0x7A, 0x5C, 0x8E];
pub const TRAIL: Rgb = [0xD2, 0x6A, 0x00];
pub const BODY: Rgb = [0x12, 0x57, 0x9C];
pub const LAMP: Rgb = [0xE8, 0xA5, 0x1C];
/// Of what hurts.
pub const WARNING: Rgb = [0xB0, 0x2A, 0x37];

/// A picture that is being drawn.
#[derive(Debug)]
pub struct Canvas {
    pub(crate) picture: Pixmap,
    /// From metres to pixels, in two dimensions.
    seen: Transform,
    /// True if y points down, and the units of length per metre, in two dimensions.
    pub(crate) is_down: bool,
    pub(crate) unit: f32,
    eye: Option<Eye>,
    /// What is drawn in three dimensions, sorted by distance at the end.
    faces: Vec<Face>,
    pub(crate) title: Option<String>,
}

/// A dimension that can be drawn.
pub trait Drawn: Geometry {
    /// Draws a level between two ticks.
    fn level(canvas: &mut Canvas, level: &Level<Self>, blend: f32);
    /// Draws a hull in a pose.
    fn hull(canvas: &mut Canvas, hull: &Hull, pose: &Pose<Self>, colour: Rgb);
    /// Draws a disc or a ball.
    fn ball(canvas: &mut Canvas, centre: Self, radius: f32, colour: Rgb);
    /// Draws a box along the axes.
    fn block(canvas: &mut Canvas, min: Self, max: Self, colour: Rgb);
}

impl Canvas {
    /// An empty picture, or `None` if it has no size.
    #[must_use]
    pub fn new((width, height): (u32, u32)) -> Option<Self> {
        let mut picture = Pixmap::new(width, height)?;
        picture.fill(colour_of(PAPER));
        let seen = Transform::identity();
        Some(Self { picture, seen, is_down: false, unit: 1.0, eye: None, faces: Vec::new(), title: None })
    }

    /// The width and height in pixels.
    #[must_use]
    pub fn size(&self) -> Vec2 {
        Vec2::new(self.picture.width() as f32, self.picture.height() as f32)
    }

    /// Draws a level of two dimensions with another up or another unit: those of a
    /// `rasant_files::LevelFile`, as `file.up()` and `file.scale()`. Call it before looking.
    pub fn world(&mut self, up: Vec2, units_per_metre: f32) {
        (self.is_down, self.unit) = (up.y < 0.0, units_per_metre);
    }

    /// Looks at a point from the side, or from above, with a picture that is `height` metres high.
    pub fn look_from_the_side(&mut self, middle: Vec2, height: f32) {
        let size = self.size();
        let scale = size.y / (height * self.unit);
        let upward = if self.is_down { scale } else { -scale };
        let shift = 0.5 * size - Vec2::new(middle.x * scale, middle.y * upward);
        self.seen = Transform::from_row(scale, 0.0, 0.0, upward, shift.x, shift.y);
    }

    /// Looks from a camera in three dimensions.
    pub fn look(&mut self, view: &View) {
        self.eye = Some(Eye::of(view, self.size()));
    }

    /// Returns true if it looks in three dimensions.
    #[must_use]
    pub fn is_in_space(&self) -> bool {
        self.eye.is_some()
    }

    /// Draws a level as it is between its last two ticks: its pieces, and in two dimensions its zones.
    pub fn level<V: Drawn>(&mut self, level: &Level<V>, blend: f32) {
        V::level(self, level, blend);
    }

    /// Draws a body as it is between its last two ticks.
    pub fn body<V: Drawn>(&mut self, body: &Controller<V>, blend: f32, colour: Rgb) {
        V::hull(self, &body.present_hull(), &body.pose(blend), colour);
    }

    /// Draws a disc, or a ball in three dimensions.
    pub fn ball<V: Drawn>(&mut self, centre: V, radius: f32, colour: Rgb) {
        V::ball(self, centre, radius, colour);
    }

    /// Draws a box along the axes.
    pub fn block<V: Drawn>(&mut self, min: V, max: V, colour: Rgb) {
        V::block(self, min, max, colour);
    }

    /// Draws a line in two dimensions, with a width in metres.
    pub fn line(&mut self, points: &[Vec2], width: f32, colour: Rgb) {
        if let Some(path) = path_of(points, false) {
            let stroke = Stroke { width: width * self.unit, line_cap: LineCap::Round, ..Stroke::default() };
            self.picture.stroke_path(&path, &paint_of(colour, true), &stroke, self.seen, None);
        }
    }

    /// Sets the title of the window, as for a score.
    pub fn title(&mut self, text: impl Into<String>) {
        self.title = Some(text.into());
    }

    /// The finished picture.
    #[must_use]
    pub fn finish(mut self) -> Pixmap {
        self.faces.sort_by(|a, b| b.distance.total_cmp(&a.distance));
        for Face { corners, colour, edged, .. } in std::mem::take(&mut self.faces) {
            // With hard edges, so that nothing shows between two adjacent faces.
            if let Some(path) = path_of(&corners, true) {
                let all = Transform::identity();
                self.picture.fill_path(&path, &paint_of(colour, false), FillRule::Winding, all, None);
                if edged {
                    let edge = paint_of(colour.map(|part| part / 8 * 7), true);
                    self.picture.stroke_path(&path, &edge, &Stroke::default(), all, None);
                }
            }
        }
        self.picture
    }

    pub(crate) fn fill(&mut self, path: Option<&Path>, colour: Rgb) {
        self.fill_turned(path, colour, Transform::identity());
    }

    pub(crate) fn fill_turned(&mut self, path: Option<&Path>, colour: Rgb, turned: Transform) {
        if let Some(path) = path {
            let seen = self.seen.pre_concat(turned);
            self.picture.fill_path(path, &paint_of(colour, true), FillRule::Winding, seen, None);
        }
    }

    /// Adds a face in three dimensions.
    pub(crate) fn face(&mut self, corners: &[Vec3], colour: Rgb) {
        if let Some(eye) = &self.eye {
            self.faces.extend(eye.face(corners, colour));
        }
    }

    /// Adds a face with visible edges.
    pub(crate) fn edged_face(&mut self, corners: &[Vec3], colour: Rgb) {
        if let Some(eye) = &self.eye {
            self.faces.extend(eye.face(corners, colour).map(|face| Face {
                edged: true,
                distance: face.distance + NEARER,
                ..face
            }));
        }
    }
}

fn colour_of([red, green, blue]: Rgb) -> Color {
    Color::from_rgba8(red, green, blue, 255)
}

fn paint_of(colour: Rgb, anti_alias: bool) -> Paint<'static> {
    let mut paint = Paint { anti_alias, ..Paint::default() };
    paint.set_color(colour_of(colour));
    paint
}

pub(crate) fn path_of(points: &[Vec2], closed: bool) -> Option<Path> {
    let mut path = PathBuilder::new();
    for (i, point) in points.iter().enumerate() {
        if i == 0 { path.move_to(point.x, point.y) } else { path.line_to(point.x, point.y) }
    }
    if closed {
        path.close();
    }
    path.finish()
}
