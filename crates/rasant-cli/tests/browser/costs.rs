//! What the live page costs, on the machine at hand: run with `RASANT_COSTS=1`, in the
//! release profile, they print their figures. Without it they are skipped.

use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, KeyAction, KeyActions};
use serde_json::json;

use super::Tool;
use super::browser::Browser;
use super::socket::Page;

fn are_asked_for() -> bool {
    let asked = std::env::var_os("RASANT_COSTS").is_some();
    if !asked {
        println!("skipped: RASANT_COSTS is not set");
    }
    asked
}

/// Megabytes that a process has in memory, and seconds of processor time that it has
/// had, as Linux tells.
fn of_process(process: u32) -> Option<(f64, f64)> {
    let status = std::fs::read_to_string(format!("/proc/{process}/status")).ok()?;
    let resident = status.lines().find_map(|line| line.strip_prefix("VmRSS:"))?;
    let kilobytes: f64 = resident.trim().split(' ').next()?.parse().ok()?;
    let stat = std::fs::read_to_string(format!("/proc/{process}/stat")).ok()?;
    let fields: Vec<&str> = stat.rsplit(") ").next()?.split(' ').collect();
    let ticks: f64 = fields[11].parse::<f64>().ok()? + fields[12].parse::<f64>().ok()?;
    Some((kilobytes / 1024.0, ticks / 100.0))
}

#[tokio::test]
async fn half_an_hour_keeps_its_memory_and_its_time() {
    if !are_asked_for() {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let tool = Tool::start(folder.path(), &["demo:stair-tower"]);
    let mut page = Page::open(&tool).await;
    page.told("frame").await;
    page.ask(json!({ "ask": "inside", "on": true })).await;
    let mut bytes = page.told("frame").await.to_string().len();
    let before = of_process(tool.process());
    let keys = ["KeyW", "KeyD", "KeyA", "KeyS", "Space"];
    let (mut frames, mut most) = (0, 0.0f64);
    // A quarter of a second a frame, as quickly as it can be had.
    while frames < 35 * 60 * 4 {
        let key = json!([keys[frames % 5], frames / 5 % 2 == 0]);
        page.ask(json!({ "ask": "frame", "ms": 250.0, "events": [{ "at": 1.0, "key": key }] })).await;
        bytes = bytes.max(page.told("frame").await.to_string().len());
        frames += 1;
        if frames % 500 == 0 {
            most = most.max(of_process(tool.process()).map_or(0.0, |(megabytes, _)| megabytes));
            tokio::time::sleep(Duration::from_millis(300)).await;
        }
        tokio::time::sleep(Duration::from_millis(2)).await;
    }
    if let Some(((first, from), (last, to))) = before.zip(of_process(tool.process())) {
        let ticks = frames as f64 * 15.0;
        println!("35 minutes: {first:.0} MB at first, {most:.0} MB at most, {last:.0} MB at last");
        println!(
            "{:.1} microseconds of processor a tick, all that it tells included",
            (to - from) / ticks * 1e6
        );
        println!("{bytes} bytes a frame at most, {:.0} kB/s at 60 frames a second", bytes as f64 * 0.06);
        assert!(last < first + 200.0, "{first} to {last} MB");
    }
}

#[tokio::test]
async fn a_key_is_seen_so_long_after() {
    const EVENTS: usize = 1000;
    if !are_asked_for() {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let tool = Tool::start(folder.path(), &["demo:first-roof"]);
    let Some(browser) = Browser::start().await else { return };
    browser.open(&tool).await;
    for id in ["show-inside", "show-plot", "show-pad", "tab-figures"] {
        browser.click(id).await;
    }
    browser.value("window.frames_ = 0; (function next() { frames_++; requestAnimationFrame(next) })()").await;
    let (start, tick) = (Instant::now(), browser.number("return rasant.frame.tick").await);
    browser.value("document.getElementById('stage').focus()").await;
    while browser.number("return rasant.latency.length").await < EVENTS as f64 {
        let mut keys = KeyActions::new("keys".to_owned());
        for _ in 0..20 {
            keys = keys
                .then(KeyAction::Down { value: 'd' })
                .then(KeyAction::Pause { duration: Duration::from_millis(37) })
                .then(KeyAction::Up { value: 'd' })
                .then(KeyAction::Pause { duration: Duration::from_millis(23) });
        }
        browser.client.perform_actions(keys).await.unwrap();
    }
    let seconds = start.elapsed().as_secs_f64();
    let ticks = browser.number("return rasant.frame.tick").await - tick;
    let frames = browser.number("return frames_").await;
    let all = browser.value("return rasant.latency.map((one) => one[0])").await;
    let mut all: Vec<f64> = serde_json::from_value(all).unwrap();
    all.sort_by(f64::total_cmp);
    let (median, worst) = (all[all.len() / 2], all[all.len() - 1]);
    println!(
        "{} events with all panels open: seen after {median:.1} ms in the median ({:.1} ticks), {:.1} ms for 99 of 100, {worst:.1} ms at worst ({:.1} ticks)",
        all.len(),
        median * 0.06,
        all[all.len() * 99 / 100],
        worst * 0.06,
    );
    println!("{:.1} ticks and {:.1} frames a second", ticks / seconds, frames / seconds);
    assert_eq!(all.len(), EVENTS);
}
