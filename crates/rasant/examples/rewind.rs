//! Snapshot and rewind: the state of a body is plain data, and a level's carriers are restored with
//! it. The same inputs then lead to the same bits.

mod sketch;

use rasant::glam::Vec2;
use rasant::{Actions, Carrier, Controller, Hull, Intent, Keyframe, Level, PathEnd, Piece, Tuning};
use sketch::Sketch;

/// Returns the checksums of the body at the end, the first time and after the rewind.
pub fn run(sketch: &mut Sketch) -> Result<[u64; 2], Box<dyn std::error::Error>> {
    const DT: f32 = 1.0 / 60.0;
    let frame = |time: f32, x: f32| Keyframe::new(time, Vec2::new(x, 0.0));
    let mut builder = Level::builder();
    let ferry =
        builder.add_carrier(Carrier::on_path(vec![frame(0.0, 0.0), frame(2.0, 5.0)], PathEnd::BackAndForth));
    builder.add(Piece::block(Vec2::new(-3.0, -0.5), Vec2::new(3.0, 0.0))?.riding(ferry));
    builder.add(Piece::block(Vec2::new(-30.0, -3.0), Vec2::new(30.0, -2.0))?);
    let mut level = builder.build()?;
    sketch.level(&level);
    let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
    let inputs = |tick: usize| {
        let steer = Intent::steering((tick as f32 * 0.13).sin(), 0.0);
        if tick.is_multiple_of(50) { steer.pressing(Actions::JUMP) } else { steer }
    };
    let mut play = |body: &mut Controller<Vec2>, level: &mut Level<Vec2>, ticks: std::ops::Range<usize>| {
        for tick in ticks {
            level.advance(DT);
            body.tick(&inputs(tick), level, DT);
            sketch.see(body.position());
        }
    };
    play(&mut body, &mut level, 0..100);
    let (then, there) = (*body.state(), level.snapshot());
    play(&mut body, &mut level, 100..400);
    let first = body.state().checksum();
    body.restore(then);
    level.restore(&there);
    play(&mut body, &mut level, 100..400);
    Ok([first, body.state().checksum()])
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sketch = Sketch::asked();
    let [first, again] = run(&mut sketch)?;
    println!("{first:016x} the first time, {again:016x} again");
    sketch.write()
}
