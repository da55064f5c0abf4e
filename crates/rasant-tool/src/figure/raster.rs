//! Converts SVG to PNG, with the typeface shipped in the tool.

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};

use super::letters;

/// Renders an SVG as a PNG with the same size. Fonts of the system are not used.
pub fn png(svg: &str) -> Result<Vec<u8>, String> {
    let svg = letters::outlined(svg)?;
    let tree = Tree::from_str(&svg, &Options::default()).map_err(|error| error.to_string())?;
    let size = tree.size().to_int_size();
    let mut pixels = Pixmap::new(size.width(), size.height()).ok_or("the figure has no size")?;
    resvg::render(&tree, Transform::identity(), &mut pixels.as_mut());
    pixels.encode_png().map_err(|error| error.to_string())
}
