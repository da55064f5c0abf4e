//! A jump in the air, a press a little too late (coyote time) and a little too early (the buffer);
//! and never more jumps than the tuning has.

mod sketch;

use rasant::glam::Vec2;
use rasant::state::Name;
use rasant::{Actions, Controller, Event, Hull, Intent, Level, Piece, Tuning};
use sketch::Sketch;

const DT: f32 = 1.0 / 60.0;

/// The result of the example.
pub struct Outcome {
    /// The jumps that followed from four presses in the air.
    pub in_the_air: Vec<Name>,
    /// The jump that followed from a press 50 ms after the edge.
    pub late: Option<Name>,
    /// The number of ticks after which a press 50 ms before the ground jumped.
    pub early: usize,
}

fn jump_of(body: &Controller<Vec2>) -> Option<Name> {
    body.events().iter().find_map(|event| if let Event::Jumped { kind } = event { Some(*kind) } else { None })
}

/// Runs the example.
pub fn run(sketch: &mut Sketch) -> Result<Outcome, Box<dyn std::error::Error>> {
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(2.0, 0.0))?);
    let level = builder.build()?;
    sketch.level(&level);
    let mut tuning = Tuning::default();
    tuning.jump.air_count = 1.0;
    let hull = Hull::capsule(0.35, 1.8)?;
    let right = Intent::steering(1.0, 0.0);
    let mut tick = |body: &mut Controller<Vec2>, intent: Intent| {
        body.tick(&intent, &level, DT);
        sketch.see(body.position());
    };

    // Jump, and press again and again: one air jump, then refusals.
    let mut again = Controller::new(tuning, hull, Vec2::new(-6.0, 0.0));
    again.find_footing(&level);
    tick(&mut again, right.pressing(Actions::JUMP));
    let presses = (0..4).filter_map(|_| {
        (0..6).for_each(|_| tick(&mut again, right));
        tick(&mut again, right.pressing(Actions::JUMP));
        jump_of(&again)
    });
    let in_the_air: Vec<Name> = presses.collect();

    let mut late = Controller::new(tuning, hull, Vec2::new(1.0, 0.0));
    late.find_footing(&level);
    while late.state().footing.is_firm() {
        tick(&mut late, right);
    }
    (0..2).for_each(|_| tick(&mut late, right));
    tick(&mut late, right.pressing(Actions::JUMP));

    // Fall without an air jump, and press three ticks before the ground.
    tuning.jump.air_count = 0.0;
    let mut early = Controller::new(tuning, hull, Vec2::new(-4.0, 1.0));
    while early.position().y + 3.0 * early.velocity().y * DT > 0.0 {
        tick(&mut early, right);
    }
    tick(&mut early, right.pressing(Actions::JUMP));
    let waited = (0..10).take_while(|_| {
        tick(&mut early, right.holding(Actions::JUMP));
        jump_of(&early).is_none()
    });
    Ok(Outcome { in_the_air, late: jump_of(&late), early: waited.count() })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let Outcome { in_the_air, late, early } = run(&mut sketch)?;
    println!("in the air: {in_the_air:?}; 50 ms late: {late:?}; 50 ms early: jumped {early} ticks later");
    sketch.write()
}
