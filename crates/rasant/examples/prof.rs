#![allow(missing_docs)]
#[path = "../benches/scenes/mod.rs"]
mod scenes;
fn main() {
    let three = std::env::args().nth(1).as_deref() == Some("3");
    if three {
        let level = scenes::rolling_level(128);
        let mut crowd = scenes::Crowd::on(&level, 55.0);
        let s: Vec<_> = crowd.bodies.iter().map(|b| *b.state()).collect();
        let mut n = 0;
        for b in &crowd.bodies { let p = rasant::Patch::gather(b.state().frame(), &b.hull, rasant::Bounds{min: rasant::glam::Vec3::new(-0.3,-0.65,-0.3), max: rasant::glam::Vec3::new(0.3,0.6,0.3)}, &level); n += p.len(); }
        eprintln!("avg obstacles {}", n as f32 / 2000.0);
        let t = std::time::Instant::now();
        for _ in 0..std::env::args().nth(2).map_or(30, |n| n.parse().unwrap()) { for (b, s) in crowd.bodies.iter_mut().zip(&s) { b.restore(*s); } for _ in 0..20 { crowd.tick(&level); } }
        eprintln!("{} ns", t.elapsed().as_nanos() / (2000 * 600));
    } else {
        let level = scenes::boxes_level();
        let mut crowd = scenes::Crowd::on(&level, 370.0);
        let s: Vec<_> = crowd.bodies.iter().map(|b| *b.state()).collect();
        let t = std::time::Instant::now();
        for _ in 0..std::env::args().nth(2).map_or(60, |n| n.parse().unwrap()) { for (b, s) in crowd.bodies.iter_mut().zip(&s) { b.restore(*s); } for _ in 0..20 { crowd.tick(&level); } }
        eprintln!("{} ns", t.elapsed().as_nanos() / (2000 * 1200));
    }
}
