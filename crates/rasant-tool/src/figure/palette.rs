//! The colours and marks of every figure, defined once.
//!
//! Modes differ in dashes as well as in colour, events in the shape of their mark, and no two
//! things differ only by red and green.

use plotters::style::RGBColor;

/// The page.
pub const PAPER: RGBColor = RGBColor(0xF6, 0xF3, 0xEC);
/// Text and axes.
pub const INK: RGBColor = RGBColor(0x23, 0x2C, 0x3A);
/// Secondary text, grids and outlines.
pub const MIST: RGBColor = RGBColor(0xC4, 0xC2, 0xBC);
/// Solid pieces, and their outlines.
pub const STONE: RGBColor = RGBColor(0xA9, 0xAD, 0xB3);
pub const STONE_RIM: RGBColor = RGBColor(0x6E, 0x76, 0x82);
/// One-way pieces.
pub const AWNING: RGBColor = RGBColor(0x7A, 0x5C, 0x8E);
/// The body.
pub const BODY: RGBColor = RGBColor(0x23, 0x2C, 0x3A);
/// The other bodies of a trial.
pub const OTHER_BODY: RGBColor = RGBColor(0x6B, 0x5B, 0x2E);
/// On foot.
pub const GROUNDED: RGBColor = RGBColor(0x12, 0x57, 0x9C);
/// In the air.
pub const AIRBORNE: RGBColor = RGBColor(0xD2, 0x6A, 0x00);
/// Sliding down a wall.
pub const WALL_SLIDE: RGBColor = RGBColor(0x9B, 0x2F, 0xAE);
/// On a ladder.
pub const LADDER: RGBColor = RGBColor(0x00, 0x7A, 0x5E);
/// In a maneuver.
pub const MANEUVER: RGBColor = RGBColor(0x23, 0x2C, 0x3A);
/// Other moves of the list.
pub const OTHER_MOVE: RGBColor = RGBColor(0x8A, 0x3B, 0x1F);
/// Zones.
pub const ZONE: RGBColor = RGBColor(0x4F, 0x8F, 0xC0);
/// The names of zones.
pub const ZONE_WORD: RGBColor = RGBColor(0x2B, 0x5F, 0x86);
/// Normals of the ground.
pub const NORMAL: RGBColor = RGBColor(0x00, 0x6D, 0x77);
/// What the player pressed.
pub const PRESSED: RGBColor = RGBColor(0x8C, 0x1D, 0x5C);

/// Lines of several runs, which differ by colour and by dashes.
pub const SERIES: [(RGBColor, Option<(u32, u32)>); 5] = [
    (RGBColor(0x12, 0x57, 0x9C), None),
    (RGBColor(0xD2, 0x6A, 0x00), Some((9, 4))),
    (RGBColor(0x9B, 0x2F, 0xAE), Some((3, 3))),
    (RGBColor(0x00, 0x7A, 0x5E), Some((14, 3))),
    (RGBColor(0x23, 0x2C, 0x3A), Some((6, 6))),
];

/// The typeface shipped with the tool, and the fallbacks of a browser.
pub const TYPEFACE: &str = "Roboto, Helvetica, Arial, sans-serif";
/// The smallest size of text. In SVG it is 1/1.24 of that in pixels, 12.9, and in a report at 1280
/// pixels slightly less: 12.4.
pub const SMALL: u32 = 16;
/// Headings.
pub const LARGE: u32 = 20;

/// Drawing units per pixel. Shapes are placed on whole units, so a path would have steps if a unit
/// were a pixel.
pub const FINE: u32 = 8;

/// Pixels as drawing units.
pub const fn px(pixels: i32) -> i32 {
    pixels * FINE as i32
}

/// A width in pixels as drawing units.
pub const fn wide(pixels: u32) -> u32 {
    pixels * FINE
}
