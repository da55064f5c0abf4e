//! Tests of the library through its public interface. They are one program, so that their
//! dependencies are compiled and linked once.

// Each example has its own picture.
#![allow(clippy::duplicate_mod)]

mod common;

mod air;
mod animated;
mod answered;
mod anywhere;
mod borders;
mod broken_numbers;
mod camera;
mod carriers;
mod checkpoints;
mod clock_and_knobs;
mod crests;
mod crowd;
mod differential;
mod edits;
mod elsewhere;
mod everything;
mod examples;
mod game_loop;
mod golden;
mod gravity_zones;
mod ground;
mod guide;
mod input;
mod interfaces;
mod jumps;
mod kept;
mod ladders;
mod ledges;
mod listed;
mod looking;
mod maneuvers;
mod meeting;
mod meshes;
mod mirrors;
mod motion;
mod own_moves;
mod pose;
mod pressed;
mod pressed_steadily;
mod queries;
mod rates;
mod reported;
mod requests;
mod resting;
mod rollback;
mod scale;
mod seamed;
mod soak;
mod stairs;
mod storms;
mod surfaces;
mod tilting;
mod times;
mod tops;
mod turned_up;
mod walking;
mod walls_and_ladders;
mod water;
mod wedged;
mod wheels;
