//! Bodies in a general entity-component store: the body is a component, one system ticks all bodies
//! with their intents, others read their events and poses.
//!
//! For bodies that meet each other, keep a [`rasant::Crowd`] beside the store and a
//! [`rasant::crowd::BodyId`] as the component.

use hecs::{Entity, World};
use rasant::glam::Vec2;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Piece, Tuning};

/// Who decides where an entity goes.
enum Mind {
    /// Walks to a point and back.
    Patrol { ends: [Vec2; 2], goal: usize },
    /// Jumps when it stands.
    Frog,
}

/// The number of landings, as another component that a system writes.
#[derive(Default)]
struct Landings(u32);

fn think(world: &mut World) {
    for (mind, body, intent) in world.query_mut::<(&mut Mind, &Controller<Vec2>, &mut Intent)>() {
        *intent = match mind {
            Mind::Patrol { ends, goal } => {
                if (ends[*goal] - body.position()).x.abs() < 0.1 {
                    *goal = 1 - *goal;
                }
                Intent::toward(ends[*goal], body)
            }
            Mind::Frog if body.state().footing.is_firm() => Intent::default().pressing(Actions::JUMP),
            Mind::Frog => Intent::default().holding(Actions::JUMP),
        };
    }
}

fn move_bodies(world: &mut World, level: &Level<Vec2>, dt: f32) {
    for (body, intent, landings) in world.query_mut::<(&mut Controller<Vec2>, &Intent, &mut Landings)>() {
        let landed = |event: &&Event<Vec2>| matches!(event, Event::Landed { .. });
        landings.0 += body.tick(intent, level, dt).iter().filter(landed).count() as u32;
    }
}

/// Runs ten seconds. Returns where the guard is, and how often the frog has landed.
pub fn run() -> Result<(Vec2, u32), Box<dyn std::error::Error>> {
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-20.0, -1.0), Vec2::new(20.0, 0.0))?);
    let level = builder.build()?;
    let mut world = World::new();
    let mut spawn = |mind: Mind, at: Vec2| -> Result<Entity, Box<dyn std::error::Error>> {
        let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, at);
        body.find_footing(&level);
        Ok(world.spawn((mind, body, Intent::default(), Landings::default())))
    };
    let guard = spawn(Mind::Patrol { ends: [Vec2::X * 4.0, Vec2::X * -4.0], goal: 0 }, Vec2::ZERO)?;
    let frog = spawn(Mind::Frog, Vec2::X * 8.0)?;
    for _ in 0..600 {
        think(&mut world);
        move_bodies(&mut world, &level, 1.0 / 60.0);
    }
    let at = world.get::<&Controller<Vec2>>(guard)?.pose(1.0).position;
    let landings = world.get::<&Landings>(frog)?.0;
    Ok((at, landings))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let (at, landings) = run()?;
    println!("the guard is at {:.2} m; the frog has landed {landings} times", at.x);
    Ok(())
}
