//! A jump by its height and its time; a second one in the air; a press a little too late
//! (coyote time) and a little too early (the buffer); and never one more than there are.

use rasant::glam::Vec2;
use rasant::{Actions, Controller, Event, Hull, Intent, JumpKind, Level, Piece, Tuning};

const DT: f32 = 1.0 / 60.0;

/// What came of it.
pub struct Outcome {
    /// How high the first jump rose, in metres, and after how many seconds.
    pub top: (f32, f32),
    /// What jumps came of four presses in the air.
    pub in_the_air: Vec<JumpKind>,
    /// What jump came of a press 50 ms after the edge.
    pub late: Option<JumpKind>,
    /// After how many ticks on the ground a press 50 ms before it jumped.
    pub early: usize,
}

fn body(tuning: Tuning, at: Vec2) -> Result<Controller<Vec2>, Box<dyn std::error::Error>> {
    Ok(Controller::new(tuning, Hull::capsule(0.35, 1.8)?, at))
}

fn jump_of(body: &Controller<Vec2>) -> Option<JumpKind> {
    body.events().iter().find_map(|event| if let Event::Jumped { kind } = event { Some(*kind) } else { None })
}

/// Plays it.
pub fn run() -> Result<Outcome, Box<dyn std::error::Error>> {
    let mut builder = Level::builder();
    builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(2.0, 0.0))?);
    let level = builder.build()?;
    let mut tuning = Tuning::default();
    tuning.jump.height = 2.2;
    tuning.jump.rise_time = 0.4;
    tuning.jump.air_count = 1.0;
    let press = Intent::default().pressing(Actions::JUMP);
    let hold = Intent::default().holding(Actions::JUMP);

    let mut up = body(tuning, Vec2::ZERO)?;
    up.find_footing(&level);
    up.tick(&press, &level, DT);
    let (mut top, mut ticks) = ((0.0, 0.0), 1);
    while !up.events().iter().any(|event| matches!(event, Event::Apex { .. })) {
        up.tick(&hold, &level, DT);
        ticks += 1;
    }
    for event in up.events() {
        if let Event::Apex { position } = event {
            top = (position.y, ticks as f32 * DT);
        }
    }
    // Pressed again and again: the one in the air, and refusals.
    let in_the_air: Vec<JumpKind> = (0..4)
        .filter_map(|_| {
            up.tick(&press, &level, DT);
            jump_of(&up)
        })
        .collect();

    let mut late = body(tuning, Vec2::new(1.0, 0.0))?;
    late.find_footing(&level);
    while late.state().footing.is_firm() {
        late.tick(&Intent::steering(1.0, 0.0), &level, DT);
    }
    for _ in 0..2 {
        late.tick(&Intent::steering(1.0, 0.0), &level, DT);
    }
    late.tick(&Intent::steering(1.0, 0.0).pressing(Actions::JUMP), &level, DT);

    // Falling, and pressed three ticks before the ground; its air jump is taken away.
    tuning.jump.air_count = 0.0;
    let mut early = body(tuning, Vec2::new(-4.0, 1.0))?;
    while early.position().y + 3.0 * early.velocity().y * DT > 0.0 {
        early.tick(&Intent::default(), &level, DT);
    }
    early.tick(&press, &level, DT);
    let waited = (0..10).take_while(|_| {
        early.tick(&hold, &level, DT);
        jump_of(&early).is_none()
    });
    Ok(Outcome { top, in_the_air, late: jump_of(&late), early: waited.count() })
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let Outcome { top: (height, time), in_the_air, late, early } = run()?;
    println!("rose {height:.3} m in {time:.3} s; in the air: {in_the_air:?}");
    println!("50 ms late: {late:?}; 50 ms early: it jumped {early} ticks later, on the ground");
    Ok(())
}
