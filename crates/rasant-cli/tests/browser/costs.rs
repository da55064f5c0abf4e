//! What the live page costs on the machine at hand. Run with
//! `cargo test --release -p rasant-cli --features costs --test browser costs -- --nocapture --test-threads 1`:
//! the figures are printed. `RASANT_MINUTES` is how long the page is watched, 30 if not set.

use std::time::{Duration, Instant};

use fantoccini::actions::KeyAction;
use serde_json::json;

use super::Tool;
use super::client::Page;
use super::driver::Browser;

/// Megabytes that a process has in memory, and seconds of processor time that it has used, as
/// Linux says.
fn of_process(process: u32) -> (f64, f64) {
    let read = |file: &str| std::fs::read_to_string(format!("/proc/{process}/{file}")).unwrap();
    let status = read("status");
    let resident = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).unwrap();
    let kilobytes: f64 = resident.trim().split(' ').next().unwrap().parse().unwrap();
    let stat = read("stat");
    let fields: Vec<&str> = stat.rsplit(") ").next().unwrap().split(' ').collect();
    let ticks: f64 = fields[11].parse::<f64>().unwrap() + fields[12].parse::<f64>().unwrap();
    (kilobytes / 1024.0, ticks / 100.0)
}

#[tokio::test]
async fn half_an_hour_keeps_the_tools_memory_and_its_time() {
    let folder = tempfile::tempdir().unwrap();
    let tool = Tool::start(folder.path(), &["demo:stair-tower"]);
    let mut page = Page::open(&tool).await;
    page.receive("frame").await;
    page.ask(json!({ "request": "debug", "on": true })).await;
    let mut bytes = page.receive("frame").await.to_string().len();
    let (first, from) = of_process(tool.process());
    let keys = ["KeyW", "KeyD", "KeyA", "KeyS", "Space"];
    let (mut frames, mut most) = (0, 0.0f64);
    // A quarter of a second a frame, as quickly as it can be had.
    while frames < 35 * 60 * 4 {
        let key = json!({ "input": "key", "at": 1.0, "code": keys[frames % 5], "down": frames / 5 % 2 == 0 });
        page.ask(json!({ "request": "frame", "ms": 250.0, "events": [key] })).await;
        bytes = bytes.max(page.receive("frame").await.to_string().len());
        frames += 1;
        if frames % 500 == 0 {
            most = most.max(of_process(tool.process()).0);
            tokio::time::sleep(Duration::from_millis(300)).await;
        }
        tokio::time::sleep(Duration::from_millis(2)).await;
    }
    let (last, to) = of_process(tool.process());
    let ticks = frames as f64 * 15.0;
    println!("35 minutes: {first:.0} MB at first, {most:.0} MB at most, {last:.0} MB at last");
    println!("{:.1} microseconds of processor a tick, its messages included", (to - from) / ticks * 1e6);
    println!("{bytes} bytes in a frame of 15 ticks at most");
    assert!(last < first + 200.0, "{first} to {last} MB");
}

/// Opens every panel that is drawn in each frame.
async fn show_everything(browser: &Browser) {
    for id in ["#show-debug", "#show-figure", "#show-plot", "#show-pad", "#tab-figures"] {
        browser.click(id).await;
    }
    browser.value("document.getElementById('stage').focus()").await;
}

#[tokio::test]
async fn the_delay_of_a_key_is_measured() {
    const EVENTS: usize = 1000;
    for trial in ["demo:first-roof", "demo:stair-tower"] {
        let folder = tempfile::tempdir().unwrap();
        let tool = Tool::start(folder.path(), &[trial]);
        let browser = Browser::start().await;
        browser.open(&tool).await;
        show_everything(&browser).await;
        browser
            .value("window.frames_ = 0; (function next() { frames_++; requestAnimationFrame(next) })()")
            .await;
        let (start, tick) = (Instant::now(), browser.number("return rasant.frame.tick").await);
        while browser.number("return rasant.latency.length").await < EVENTS as f64 {
            let mut keys = Vec::new();
            for _ in 0..20 {
                let pause = |ms| KeyAction::Pause { duration: Duration::from_millis(ms) };
                keys.extend([
                    KeyAction::Down { value: 'd' },
                    pause(37),
                    KeyAction::Up { value: 'd' },
                    pause(23),
                ]);
            }
            browser.keys(keys).await;
        }
        let seconds = start.elapsed().as_secs_f64();
        let ticks = browser.number("return rasant.frame.tick").await - tick;
        let frames = browser.number("return frames_").await;
        let all = browser.value("return rasant.latency.map((one) => one[0])").await;
        let mut all: Vec<f64> = serde_json::from_value(all).unwrap();
        all.sort_by(f64::total_cmp);
        assert_eq!(all.len(), EVENTS);
        println!(
            "{trial}: {EVENTS} events with all panels open are seen after {:.1} ms in the median, {:.1} ms for 99 of 100, {:.1} ms at worst",
            all[EVENTS / 2],
            all[EVENTS * 99 / 100],
            all[EVENTS - 1],
        );
        println!("{:.1} ticks and {:.1} frames a second", ticks / seconds, frames / seconds);
        let drawing = browser.value("return rasant.drawTimes").await;
        let mut drawing: Vec<f64> = serde_json::from_value(drawing).unwrap();
        drawing.sort_by(f64::total_cmp);
        println!(
            "a frame is drawn in {:.1} ms in the median, {:.1} ms for 99 of 100",
            drawing[drawing.len() / 2],
            drawing[drawing.len() * 99 / 100]
        );
    }
}

#[tokio::test]
async fn half_an_hour_keeps_the_pages_memory() {
    let minutes: u64 = std::env::var("RASANT_MINUTES").map_or(30, |text| text.parse().unwrap());
    let folder = tempfile::tempdir().unwrap();
    let tool = Tool::start(folder.path(), &["demo:first-roof"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    show_everything(&browser).await;
    let mut heaps = Vec::new();
    for minute in 0..=minutes {
        let end = Instant::now() + Duration::from_secs(if minute == 0 { 5 } else { 60 });
        while Instant::now() < end {
            for key in ['d', ' ', 'a', 'r'] {
                browser.hold(key, Duration::from_millis(if key == 'r' { 30 } else { 700 })).await;
            }
        }
        // Bytes that are in use, after all that is not has been collected.
        let heap = browser.value("window.gc?.(); return performance.memory.usedJSHeapSize").await;
        heaps.push(heap.as_f64().unwrap() / 1e6);
    }
    println!("the page's heap over {minutes} minutes, MB: {heaps:.1?}");
    let (early, late) = (heaps[heaps.len() / 3], heaps[heaps.len() - 1]);
    assert!(late < 1.5 * early + 10.0, "{early} to {late} MB");
}
