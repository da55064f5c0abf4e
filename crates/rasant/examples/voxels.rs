//! A host with its own three-dimensional world: voxels in a set. The library receives those in the
//! region that it asks for, as blocks.

mod sketch;

use sketch::Sketch;
use std::collections::HashSet;

use rasant::glam::Vec3;
use rasant::level::{Found, Tag};
use rasant::space::Bounds;
use rasant::{Actions, Hull, Intent, Layers, State, Surroundings, Tuning, tick};

struct Voxels(HashSet<[i32; 3]>);

impl Surroundings<Vec3> for Voxels {
    fn pieces(&self, region: &Bounds<Vec3>, _stopped_by: Layers, found: &mut impl Found<Vec3>) {
        let cells = |axis: usize| region.min[axis].floor() as i32..=region.max[axis].floor() as i32;
        for x in cells(0) {
            for y in cells(1) {
                for z in cells(2) {
                    if self.0.contains(&[x, y, z]) {
                        let corner = Vec3::new(x as f32, y as f32, z as f32);
                        found.block(corner, corner + 1.0, Tag::default());
                    }
                }
            }
        }
    }
}

/// Returns the final position, and the number of jumps.
pub fn run(sketch: &mut Sketch) -> Result<(Vec3, usize), Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    // A floor, and stairs of whole cells along x.
    let mut cells = HashSet::new();
    for x in -4..30 {
        for z in -4..4 {
            let top = (x / 3).clamp(0, 5);
            cells.extend((-1..top).map(|y| [x, y, z]));
        }
    }
    let world = Voxels(cells);
    let (tuning, hull) = (Tuning::default(), Hull::upright_box(0.6, 1.8)?);
    let mut state = State::at(Vec3::new(0.5, 0.5, 0.0));
    let mut jumps = 0;
    for _ in 0..400 {
        // Jump at obstacles that are higher than a step.
        let mut intent = Intent::steering(1.0, 0.0).holding(Actions::JUMP);
        if state.touching.wall && state.footing.is_firm() {
            intent = intent.pressing(Actions::JUMP);
            jumps += 1;
        }
        tick(&tuning, &hull, &mut state, &intent, &world, DT);
        sketch.see(state.position);
    }
    Ok((state.position, jumps))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let (at, jumps) = run(&mut sketch)?;
    println!("came to {at:.2} with {jumps} jumps");
    sketch.write()
}
