//! Taken along, and pushed, by carriers.
