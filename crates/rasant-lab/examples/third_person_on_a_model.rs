//! A third-person character on a level from a modelling program, in 30 lines.
use rasant::glam::Vec3;
use rasant::{Actions, Controller, Hull, Intent, Look, Steering, Tuning};
use rasant_lab::{OnDisk, World, files::read_level};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let usual = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/levels/bell-loft.glb").to_owned();
    let file = std::env::args().nth(1).unwrap_or(usual);
    let World::Space(mut world) = read_level(&OnDisk, file.as_ref())? else {
        return Err("a drawing is flat".into());
    };
    let start = world.start.unwrap_or(Vec3::Y * 2.0);
    let tuning = Tuning { steering: Steering::View, ..Tuning::default() };
    let mut body = Controller::new(tuning, Hull::capsule(0.3, 1.8)?, start);
    body.find_footing(&world.level);
    for tick in 0..300 {
        // The input of a stick, a mouse and a button: to the stairs, and up.
        let yaw = if body.position().x < 4.0 { -1.57 } else { 0.0 };
        let intent = Intent { look: Look { yaw, pitch: 0.0 }, ..Intent::steering(0.0, 1.0) };
        let press = if tick == 60 { Actions::JUMP } else { Actions::NONE };
        world.level.advance(1.0 / 60.0);
        body.tick(&intent.pressing(press), &world.level, 1.0 / 60.0);
    }
    println!("came to {:.2}", body.pose(1.0).position);
    Ok(())
}
