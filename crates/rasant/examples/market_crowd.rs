//! Forty bodies in a market: thirty-six stand and step aside, three walk through, one is followed.

mod sketch;

use rasant::glam::Vec3;
use rasant::{Crowd, CrowdBody, Hull, Intent, Level, Piece, Tuning};
use sketch::Sketch;

/// The result of the example.
pub struct Outcome {
    /// Where the three that walk through it end, in metres along x.
    pub walked: Vec<f32>,
    /// The least distance between the middles of two bodies in any tick, in metres.
    pub closest: f32,
    /// The distance of the guard from the thief, which it follows, at the end.
    pub behind: f32,
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec3::new(-12.0, -1.0, -12.0), Vec3::new(12.0, 0.0, 12.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let person = |x: f32, z: f32| -> Result<_, Box<dyn std::error::Error>> {
        let body = CrowdBody::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec3::new(x, 0.0, z));
        Ok(CrowdBody { spacing: 0.15, ..body })
    };
    let mut crowd = Crowd::new();
    for number in 0..36 {
        // In rows, each half a place further than the one before.
        let (column, row) = ((number % 6) as f32, (number / 6) as f32);
        crowd.add(person(1.2 * (column - 2.5) + 0.3 * (row % 2.0), 1.2 * (row - 2.5))?)?;
    }
    let mut walkers = Vec::new();
    for z in [-2.4, 0.0] {
        walkers.push(crowd.add(CrowdBody { strength: 400.0, ..person(-7.0, z)? })?);
    }
    let thief = crowd.add(CrowdBody { strength: 400.0, ..person(-7.0, 2.4)? })?;
    walkers.push(thief);
    let guard = crowd.add(CrowdBody { strength: 400.0, ..person(-9.0, 3.0)? })?;
    let mut closest = f32::INFINITY;
    let mut paths = vec![Vec::new(); walkers.len()];
    for _ in 0..600 {
        let target = crowd[thief].body.position();
        crowd.tick(&level, DT, |id, body| {
            if id == guard && body.body.position().distance(target) > 0.9 {
                Intent::toward(target, &body.body)
            } else if walkers.contains(&id) && body.body.position().x < 8.0 {
                Intent::steering(1.0, 0.0)
            } else {
                Intent::default()
            }
        });
        let places: Vec<Vec3> = crowd.iter().map(|(_, body)| body.body.position()).collect();
        for (number, place) in places.iter().enumerate() {
            let near = places[..number].iter().map(|other| place.distance(*other));
            closest = near.fold(closest, f32::min);
        }
        for (path, &id) in paths.iter_mut().zip(&walkers) {
            path.push(crowd[id].body.position());
        }
    }
    paths.into_iter().flatten().for_each(|place| sketch.see(place));
    let walked = walkers.iter().map(|&id| crowd[id].body.position().x).collect();
    let behind = crowd[guard].body.position().distance(crowd[thief].body.position());
    Ok(Outcome { walked, closest, behind })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { walked, closest, behind } = run(&mut sketch)?;
    println!("they walked to {walked:.1?} m; no two came nearer than {closest:.3} m");
    println!("the guard is {behind:.2} m from the thief");
    sketch.write()
}
