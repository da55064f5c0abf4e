//! The library, through its public interface: one program, so that what all
//! tests stand on is compiled and linked once.

// Each example has its own picture.
#![allow(clippy::duplicate_mod)]

mod common;

mod air;
mod answered;
mod anywhere;
mod borders;
mod broken_numbers;
mod carriers;
mod checkpoints;
mod clock_and_knobs;
mod crests;
mod differential;
mod doors;
mod elsewhere;
mod everything;
mod examples;
mod game_loop;
mod golden;
mod gravity_zones;
mod ground;
mod guide;
mod input;
mod jumps;
mod kept;
mod ladders;
mod ledges;
mod listed;
mod looking;
mod maneuvers;
mod meshes;
mod mirrors;
mod motion;
mod own_moves;
mod pose;
mod pressed;
mod pressed_steadily;
mod rates;
mod requests;
mod resting;
mod rollback;
mod scale;
mod seamed;
mod soak;
mod stairs;
mod storms;
mod surfaces;
mod times;
mod told;
mod tops;
mod turned_up;
mod walking;
mod walls_and_ladders;
mod water;
mod wedged;
mod wheels;
