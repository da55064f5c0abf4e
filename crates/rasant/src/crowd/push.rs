//! Pushing, pulling, stepping aside, and following.
//!
//! A body that steers into a lighter one pushes a load: the body before it, those before that one in
//! the same direction, and everything that stands on them. It begins in the tick in which it reaches
//! the first of them. All of them move in the same tick, at the fraction 1 − load / strength of the
//! speed of the body that pushes. So a push is not delayed from body to body, and no body gets a
//! velocity by it.

use alloc::vec::Vec;
use smallvec::SmallVec;

use crate::contact::Geometry;
use crate::thresholds::crowd as limits;

use super::tick::{Item, Pair, Pairs, Workers};

/// Computes the displacement by which each body is pushed in this tick.
pub(super) fn push<V: Geometry>(
    items: &mut [Item<V>],
    pairs: &[Pair<V>],
    of: &[SmallVec<[u32; 6]>],
    dt: f32,
) {
    // The sum of all pushes, the longest of them, and the highest of their speeds.
    let mut pushes: Vec<(V, f32, f32)> = Vec::new();
    for number in 0..items.len() {
        let item = &items[number];
        if item.strength <= 0.0 {
            continue;
        }
        for &pair in &of[number] {
            let pair = &pairs[pair as usize];
            let Some((other, along)) = beside_within(number as u32, pair, items, f32::INFINITY) else {
                continue;
            };
            // What it will only reach in this tick is pushed for the rest of the tick.
            let current = item.velocity.dot(along).max(0.0);
            let before =
                if pair.start.gap > limits::TOUCHING * pair.kept { pair.start.gap - pair.kept } else { 0.0 };
            if before > 0.0 && current * dt <= before {
                continue;
            }
            let speed = item.target.dot(along);
            if speed <= limits::PUSH_ALONG * item.target.length() || speed <= 0.0 {
                continue;
            }
            let Some(chain) = chain(number as u32, other, along, items, pairs, of) else { continue };
            let left = left_for(chain.load, item.strength);
            if left == 0.0 {
                continue;
            }
            let rest = if before > 0.0 { dt - before / current } else { dt };
            let pace = mean_speed(item, current, left * speed, rest);
            pushes.resize(items.len(), (V::ZERO, 0.0, 0.0));
            for member in chain.members {
                let (sum, longest, fastest) = &mut pushes[member as usize];
                *sum += along * (pace * rest);
                *longest = longest.max(pace * rest);
                *fastest = fastest.max(pace);
            }
        }
    }
    for (item, (sum, longest, fastest)) in items.iter_mut().zip(pushes) {
        (item.shove, item.shove_speed) = (sum.capped(longest), fastest);
    }
}

/// The fraction of its speed that a body has left with a load.
fn left_for(load: f32, strength: f32) -> f32 {
    let left = 1.0 - load / strength;
    // Not a number if both are infinite.
    if left > 0.0 { left } else { 0.0 }
}

/// The mean speed of a body in this tick, in which it accelerates from `current` toward `target`.
fn mean_speed<V>(item: &Item<V>, current: f32, target: f32, dt: f32) -> f32 {
    let next = target.min(current + item.acceleration * dt);
    0.5 * (current.min(next) + next)
}

/// Computes the displacement of each body that another one pulls, and slows down the one that pulls.
pub(super) fn pull<V: Geometry>(
    items: &mut [Item<V>],
    pairs: &[Pair<V>],
    of: &[SmallVec<[u32; 6]>],
    dt: f32,
) {
    for number in 0..items.len() {
        let item = &items[number];
        let Some(pulled) = item.pulls else { continue };
        let held = of[number].iter().find_map(|&pair| {
            let pair = &pairs[pair as usize];
            let (other, along) = beside_within(number as u32, pair, items, limits::PULLED)?;
            (items[other as usize].id == pulled).then_some((other, along, pair.start.gap - pair.kept))
        });
        let Some((other, along, gap)) = held else { continue };
        let away = -item.target.dot(along);
        if away <= 0.0 || !item.stands || !items[other as usize].stands {
            continue;
        }
        let mut loads: SmallVec<[u32; 8]> = SmallVec::new();
        add_riders(other, items, pairs, of, &mut loads);
        if loads.contains(&(number as u32)) {
            continue;
        }
        let load =
            items[other as usize].mass + loads.iter().map(|&rider| items[rider as usize].mass).sum::<f32>();
        let left = left_for(load, item.strength);
        let speed = mean_speed(item, item.velocity.length(), left * item.target.length(), dt);
        let direction = item.target.direction().unwrap_or(-along);
        // The gap that has opened is closed again.
        let closes = if left > 0.0 { along * -gap.clamp(0.0, speed * dt) } else { V::ZERO };
        items[other as usize].shove += direction * (speed * dt) + closes;
        items[number].intent.steer *= left;
        items[number].target *= left;
    }
}

/// Lets bodies that are nearer to each other than their spacing step aside.
pub(super) fn spread<V: Geometry>(items: &mut [Item<V>], pairs: &[Pair<V>], dt: f32) {
    for pair in pairs {
        let [a, b] = pair.bodies;
        for (own, toward) in [(a, pair.start.normal), (b, -pair.start.normal)] {
            let item = &mut items[own as usize];
            let deficit = item.spacing - pair.start.gap;
            let along = if item.from_above { toward } else { toward.slid_along(item.up) };
            let is_beside = along.length() >= limits::BESIDE;
            if deficit < limits::SPREAD_LEAST || !item.stands || pair.rides || !is_beside {
                continue;
            }
            if let Some(along) = along.direction() {
                let most = limits::SPREAD_SPEED * item.walk_speed;
                let speed = (0.5 * deficit / limits::SPREAD_TIME).min(most);
                item.shove -= along * (speed * dt);
            }
        }
    }
}

/// The other body of a pair that touch beside each other, and the direction to it along the ground.
fn beside<V: Geometry>(own: u32, pair: &Pair<V>, items: &[Item<V>]) -> Option<(u32, V)> {
    beside_within(own, pair, items, limits::TOUCHING)
}

/// The same, for a gap of up to `most` times the gap that they keep.
fn beside_within<V: Geometry>(own: u32, pair: &Pair<V>, items: &[Item<V>], most: f32) -> Option<(u32, V)> {
    if pair.start.gap > most * pair.kept {
        return None;
    }
    let (other, normal) = pair.from(own, &pair.start);
    let item = &items[own as usize];
    let along = if item.from_above { normal } else { normal.slid_along(item.up) };
    let is_beside = along.length() >= limits::BESIDE;
    Some((other, along.direction().filter(|_| is_beside)?))
}

/// What is pushed together.
struct Chain {
    /// Their mass, with what stands on them.
    load: f32,
    members: SmallVec<[u32; 8]>,
}

/// The bodies that `pusher` pushes by pushing `first` along a direction. `None` if it stands on one
/// of them, or one of them is in the air.
fn chain<V: Geometry>(
    pusher: u32,
    first: u32,
    along: V,
    items: &[Item<V>],
    pairs: &[Pair<V>],
    of: &[SmallVec<[u32; 6]>],
) -> Option<Chain> {
    let mut chain = Chain { load: 0.0, members: SmallVec::new() };
    chain.members.push(first);
    let mut loads: SmallVec<[u32; 8]> = SmallVec::new();
    let mut next = 0;
    while let Some(&member) = chain.members.get(next) {
        next += 1;
        let item = &items[member as usize];
        if items[pusher as usize].carrier == Some(member) || !item.stands || next > limits::MAX_CHAIN {
            return None;
        }
        chain.load += item.mass;
        for &pair in &of[member as usize] {
            let pair = &pairs[pair as usize];
            let Some((other, direction)) = beside(member, pair, items) else { continue };
            let is_ahead = direction.dot(along) > limits::SAME_DIRECTION;
            if other != pusher && is_ahead && !chain.members.contains(&other) {
                chain.members.push(other);
            }
        }
        add_riders(member, items, pairs, of, &mut loads);
    }
    chain.load += loads.iter().map(|&rider| items[rider as usize].mass).sum::<f32>();
    Some(chain)
}

/// Adds everything that stands on a body.
fn add_riders<V: Geometry>(
    below: u32,
    items: &[Item<V>],
    pairs: &[Pair<V>],
    of: &[SmallVec<[u32; 6]>],
    loads: &mut SmallVec<[u32; 8]>,
) {
    let mut from = loads.len();
    let mut under = below;
    loop {
        for &pair in &of[under as usize] {
            for rider in pairs[pair as usize].bodies {
                if items[rider as usize].carrier == Some(under) && !loads.contains(&rider) {
                    loads.push(rider);
                }
            }
        }
        let Some(&next) = loads.get(from) else { return };
        (under, from) = (next, from + 1);
    }
}

/// A body that is close before another one, in its direction.
struct Ahead {
    other: u32,
    /// The part of the target speed of the one behind that is toward it, in m/s.
    toward: f32,
    /// The speed that it can reach in the tick, whatever it is steered to.
    most: f32,
    /// The speed to which it is steered; infinite for what is pushed.
    target: f32,
    /// The least speed that it keeps.
    least: f32,
}

/// Lets a body that walks close behind another one walk at its pace: its steering is scaled down, so
/// that it need not be stopped in every tick.
pub(super) fn keep_pace<V: Geometry, S>(
    items: &mut [Item<V>],
    pairs: &Pairs<V>,
    dt: f32,
    workers: &impl Workers<S>,
) {
    let ahead = workers.map(items.len(), |number| ahead_of(number as u32, items, pairs, dt));
    let behind: Vec<(usize, &SmallVec<[Ahead; 2]>)> =
        ahead.iter().enumerate().filter(|(_, ahead)| !ahead.is_empty()).collect();
    if behind.is_empty() {
        return;
    }
    let mut paces = alloc::vec![1.0f32; items.len()];
    // In a queue, each body walks at the pace of the one before it, which may itself be slowed down.
    for _ in 0..limits::PACE_ROUNDS {
        let mut has_changed = false;
        for &(number, ahead) in &behind {
            for Ahead { other, toward, most, target, least } in ahead {
                let speed = most.min(target * paces[*other as usize]).max(*least);
                if speed > limits::SLOWEST * toward && speed < *toward && speed / toward < paces[number] {
                    paces[number] = speed / toward;
                    has_changed = true;
                }
            }
        }
        if !has_changed {
            break;
        }
    }
    for (item, pace) in items.iter_mut().zip(paces) {
        item.intent.steer *= pace;
    }
}

/// The bodies that one walks close behind.
fn ahead_of<V: Geometry>(number: u32, items: &[Item<V>], pairs: &Pairs<V>, dt: f32) -> SmallVec<[Ahead; 2]> {
    let item = &items[number as usize];
    let top = item.target.length();
    let mut all = SmallVec::new();
    if top == 0.0 {
        return all;
    }
    for &pair in &pairs.of[number as usize] {
        let Some((other, along)) = beside(number, &pairs.list[pair as usize], items) else { continue };
        let ahead = &items[other as usize];
        let toward = item.target.dot(along);
        if toward <= limits::STRAIGHT_AT * top {
            continue;
        }
        let own = ahead.velocity.dot(along);
        if ahead.target.dot(along) < 0.0 {
            continue;
        }
        if ahead.shove == V::ZERO {
            let (most, target) = (own + ahead.acceleration * dt, ahead.target.dot(along));
            all.push(Ahead { other, toward, most, target, least: own });
        } else {
            // The speed of a pushed body is that of its displacement, which grows as the one that
            // pushes it accelerates.
            let pushed = ahead.shove.dot(along) / dt;
            let speed = 2.0 * pushed - item.velocity.dot(along).clamp(0.0, pushed.max(0.0));
            all.push(Ahead { other, toward, most: speed, target: f32::INFINITY, least: speed });
        }
    }
    all
}
