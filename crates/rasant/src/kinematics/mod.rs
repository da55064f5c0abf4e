//! Motion laws in closed form: pure functions of numbers, exact over any duration.

mod approach;
mod brake;
mod fall;

pub use approach::{Times, approach_speed};
pub use brake::Brake;
pub use fall::{PARTS, Part, Weights, braked_fall, fall};
