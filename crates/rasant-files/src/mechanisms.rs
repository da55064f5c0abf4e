//! What changes in a level while it is played: doors, switches and crumbling floors.
//!
//! ```toml
//! [carriers.gate]                 # opens along its path, and closes back along it
//! door = [{ time = 0 }, { time = 1.5, offset = [0, 3], ease = "in-out" }]
//!
//! [carriers.crate]                # a body that walks into it pushes it along its path
//! pushed = [{ time = 0 }, { time = 3, offset = [4, 0] }]
//!
//! [carriers.crane]                # placed by the game, or by a script
//! path = "host"
//!
//! [[piece]]
//! name = "plank"
//! block = [[2, 3], [4, 3.2]]
//! crumbles = { after = 0.5, back = 4 }
//!
//! [[zone]]
//! kind = "switch"
//! box = [[0, 0], [1, 2]]
//! opens = "gate"                  # or closes, removes, restores
//! for = 5                         # seconds, then it is undone
//! ```

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use rasant::level::{Easing, Placement};
use rasant::state::FootingKind;
use rasant::{
    Carrier, CarrierId, Event, Geometry, Keyframe, Level, PathEnd, Piece, PieceId, State, Zone, ZoneId,
};

/// What can be done to named things of a level.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Deed {
    /// Opens a door along its path. Named pieces that are not on a door are removed.
    Open,
    /// Closes a door, and puts such pieces back.
    Close,
    /// Removes pieces and zones.
    Remove,
    /// Puts removed pieces and zones back.
    Restore,
}

impl Deed {
    /// Every deed with its name in scripts and its key in level files.
    pub const ALL: [(&'static str, &'static str, Self); 4] = [
        ("open", "opens", Self::Open),
        ("close", "closes", Self::Close),
        ("remove", "removes", Self::Remove),
        ("restore", "restores", Self::Restore),
    ];

    /// The deed that undoes it.
    #[must_use]
    pub fn undone(self) -> Self {
        match self {
            Self::Open => Self::Close,
            Self::Close => Self::Open,
            Self::Remove => Self::Restore,
            Self::Restore => Self::Remove,
        }
    }
}

/// A piece that vanishes some time after a body stood on it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Crumble {
    pub piece: PieceId,
    /// In seconds.
    pub after: f32,
    /// Seconds until it is there again, if it ever is.
    pub back: Option<f32>,
}

/// A zone that does something to named things when a body enters it.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Switch {
    pub zone: ZoneId,
    pub deed: Deed,
    pub target: String,
    /// Seconds after which it is undone, if it is.
    pub lasts: Option<f32>,
}

/// A carrier that moves along its path when it is opened or closed, or pushed.
#[derive(Clone, Debug)]
pub(crate) struct Door<V> {
    pub carrier: CarrierId,
    /// From closed to open.
    pub path: Carrier<V>,
    /// True for something that bodies push along its path.
    pub is_pushed: bool,
}

/// The named things of a level, and what happens to them.
#[derive(Clone, Debug, Default)]
pub(crate) struct Plan<V> {
    /// The direction of up; zero for that of every world.
    pub up: V,
    pub pieces: BTreeMap<String, Vec<PieceId>>,
    pub zones: BTreeMap<String, Vec<ZoneId>>,
    pub carriers: BTreeMap<String, CarrierId>,
    pub doors: Vec<Door<V>>,
    pub crumbles: Vec<Crumble>,
    pub switches: Vec<Switch>,
    /// The pieces that may vanish while a level is played by hand.
    pub vanishing: BTreeSet<u32>,
}

/// Doors, switches and crumbling floors of a level, and the named things that a game or a script
/// changes. A clone is a snapshot: it shares all that does not change.
///
/// Each tick: [`begin_tick`](Self::begin_tick), [`Level::advance`], the ticks of the bodies, and
/// [`observe`](Self::observe) for each body.
///
/// ```
/// use rasant::{Controller, Hull, Intent, Tuning};
/// use rasant_files::{Deed, OnDisk, World, level_from};
///
/// let text = r#"
/// [[piece]]
/// block = [[-5, -1], [5, 0]]
/// [[piece]]
/// name = "plank"
/// block = [[-1, 1], [1, 1.2]]
/// "#;
/// let source = rasant_files::Source { name: "pier".into(), text: text.into() };
/// let World::Plane(mut file) = level_from(&source, &OnDisk, "pier".as_ref())? else { unreachable!() };
/// assert_eq!(file.level.len(), 2);
/// let plank = file.mechanisms.pieces("plank")[0];
/// assert!(file.mechanisms.act(&mut file.level, Deed::Remove, "plank"));
/// assert!(file.level.piece(plank).is_none());
/// assert!(file.mechanisms.act(&mut file.level, Deed::Restore, "plank"));
/// assert!(file.level.piece(plank).is_some());
/// # Ok::<(), rasant_files::Problem>(())
/// ```
#[derive(Clone, Debug)]
pub struct Mechanisms<V> {
    plan: Arc<Plan<V>>,
    /// Seconds since the start.
    time: f64,
    /// What is to happen, with its time, the earliest first.
    due: Vec<(f64, Due)>,
    doors: Vec<Course>,
    /// The removed pieces.
    removed: BTreeMap<u32, Piece<V>>,
    /// The motions of carriers of the host that have begun and not ended.
    motions: Vec<Motion<V>>,
}

/// Where a door is.
#[derive(Clone, Copy, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Course {
    /// The position on its path, in seconds.
    at: f64,
    /// The direction along the path: 1 to open, −1 to close, 0 to stay.
    direction: f64,
    /// The time of the last push.
    pushed: Option<f64>,
}

#[derive(Clone, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
enum Due {
    Deed(Deed, String),
    Vanish(usize),
    Return(usize),
}

/// A motion of a carrier that the host places.
#[derive(Clone, Debug)]
struct Motion<V> {
    carrier: CarrierId,
    path: Carrier<V>,
    began: f64,
    lasts: f64,
}

impl<V: Geometry> Default for Mechanisms<V> {
    fn default() -> Self {
        Self::new(Plan::default())
    }
}

impl<V: Geometry> Mechanisms<V> {
    pub(crate) fn new(mut plan: Plan<V>) -> Self {
        let switched = plan.switches.iter().filter_map(|switch| plan.pieces.get(&switch.target)).flatten();
        let crumbling = plan.crumbles.iter().map(|crumble| &crumble.piece);
        plan.vanishing = switched.chain(crumbling).map(|piece| piece.0).collect();
        let doors = vec![Course::default(); plan.doors.len()];
        let plan = Arc::new(plan);
        Self { plan, time: 0.0, due: Vec::new(), doors, removed: BTreeMap::new(), motions: Vec::new() }
    }

    /// Returns true if nothing happens by itself and nothing was changed, so that the level is the
    /// same at every time, except for its carriers with paths.
    #[must_use]
    pub fn is_still(&self) -> bool {
        let Plan { doors, crumbles, switches, .. } = &*self.plan;
        let plans_nothing = doors.is_empty() && crumbles.is_empty() && switches.is_empty();
        plans_nothing && self.due.is_empty() && self.removed.is_empty() && self.motions.is_empty()
    }

    /// The pieces with a name, in the order of the file.
    #[must_use]
    pub fn pieces(&self, name: &str) -> &[PieceId] {
        self.plan.pieces.get(name).map_or(&[], Vec::as_slice)
    }

    /// The zones with a name, in the order of the file.
    #[must_use]
    pub fn zones(&self, name: &str) -> &[ZoneId] {
        self.plan.zones.get(name).map_or(&[], Vec::as_slice)
    }

    /// The carrier with a name.
    #[must_use]
    pub fn carrier(&self, name: &str) -> Option<CarrierId> {
        self.plan.carriers.get(name).copied()
    }

    /// Returns true if a switch or a step on it can make a piece vanish.
    #[must_use]
    pub fn may_vanish(&self, piece: PieceId) -> bool {
        self.plan.vanishing.contains(&piece.0)
    }

    /// The pieces that are removed now, by id.
    pub fn removed(&self) -> impl Iterator<Item = (PieceId, &Piece<V>)> {
        self.removed.iter().map(|(id, piece)| (PieceId(*id), piece))
    }

    /// What the file plans to happen, in words.
    #[must_use]
    pub fn contents(&self) -> Vec<String> {
        let Plan { doors, crumbles, switches, carriers, .. } = &*self.plan;
        let name_of = |carrier: CarrierId| {
            carriers.iter().find(|(_, id)| **id == carrier).map_or("", |(name, _)| name.as_str())
        };
        let doors = doors.iter().map(|door| {
            let what = if door.is_pushed { "what is pushed" } else { "the door" };
            format!("{what} \"{}\"", name_of(door.carrier))
        });
        let switches = switches.iter().map(|switch| format!("the switch of \"{}\"", switch.target));
        let crumbles = crumbles.iter().map(|crumble| format!("the crumbling of piece {}", crumble.piece.0));
        doors.chain(switches).chain(crumbles).collect()
    }

    /// The names of everything that has one.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        let Plan { pieces, zones, carriers, .. } = &*self.plan;
        pieces.keys().chain(zones.keys()).chain(carriers.keys()).map(String::as_str)
    }

    /// Returns true if something that has this name can be changed by this deed.
    #[must_use]
    pub fn can(&self, deed: Deed, name: &str) -> bool {
        let door = self.door(name).filter(|door| !self.plan.doors[*door].is_pushed);
        let is_door = door.is_some() && matches!(deed, Deed::Open | Deed::Close);
        is_door || !self.pieces(name).is_empty() || !self.zones(name).is_empty()
    }

    fn door(&self, name: &str) -> Option<usize> {
        let carrier = self.carrier(name)?;
        self.plan.doors.iter().position(|door| door.carrier == carrier)
    }

    /// Does something to everything with a name. Returns false if there is nothing of this name that
    /// it can be done to.
    pub fn act(&mut self, level: &mut Level<V>, deed: Deed, name: &str) -> bool {
        if !self.can(deed, name) {
            return false;
        }
        if let Some(door) = self.door(name) {
            match deed {
                Deed::Open => self.doors[door].direction = 1.0,
                Deed::Close => self.doors[door].direction = -1.0,
                Deed::Remove | Deed::Restore => {}
            }
        }
        let plan = Arc::clone(&self.plan);
        let removes = matches!(deed, Deed::Open | Deed::Remove);
        for &piece in plan.pieces.get(name).into_iter().flatten() {
            if removes {
                self.vanish(level, piece);
            } else {
                self.put_back(level, piece);
            }
        }
        for &zone in plan.zones.get(name).into_iter().flatten() {
            if removes {
                level.remove_zone(zone);
            } else {
                let own: Option<Zone<V>> = level.all_zones().get(usize::from(zone.0)).copied();
                // It was valid before.
                let _ = own.map(|own| level.replace_zone(zone, own));
            }
        }
        true
    }

    /// Returns true if this is the name of a carrier that the host moves, and no door.
    #[must_use]
    pub fn can_carry(&self, level: &Level<V>, name: &str) -> bool {
        let is_set = |carrier: CarrierId| level.carrier(carrier).path().is_empty();
        self.door(name).is_none() && self.carrier(name).is_some_and(is_set)
    }

    /// Moves a carrier of the host by a displacement and a rotation counter-clockwise in radians,
    /// about up in three dimensions, from where it is, starting and ending at rest. Returns false if
    /// there is no such carrier, or if it has a path of its own.
    pub fn carry(&mut self, level: &Level<V>, name: &str, by: V, turn: f32, seconds: f32) -> bool {
        let Some(carrier) = self.carrier(name).filter(|_| self.can_carry(level, name)) else { return false };
        let from = self.placed_at(carrier);
        let path = [(0.0, from.0, from.1), (seconds.max(1e-3), from.0 + by, from.1 + turn)];
        let up = self.plan.up.direction().unwrap_or(V::UP);
        let key = |(time, offset, turn)| Keyframe::new(time, offset).turned_about(up, turn);
        let path = path.map(|of| key(of).eased(Easing::InOut));
        self.motions.retain(|motion| motion.carrier != carrier);
        let path = Carrier::on_path(path.to_vec(), PathEnd::Stop);
        self.motions.push(Motion { carrier, path, began: self.time, lasts: f64::from(seconds) });
        true
    }

    /// The offset and the rotation to which the last motion of a carrier leads.
    fn placed_at(&self, carrier: CarrierId) -> (V, f32) {
        let motion = self.motions.iter().find(|motion| motion.carrier == carrier);
        let last = motion.and_then(|motion| motion.path.path().last().copied());
        last.map_or((V::ZERO, 0.0), |key| (key.offset, key.turn))
    }

    /// Begins a tick of `dt` seconds: does what is due, and moves the doors. Call it before
    /// [`Level::advance`].
    pub fn begin_tick(&mut self, level: &mut Level<V>, dt: f32) {
        while self.due.first().is_some_and(|(time, _)| *time <= self.time + 1e-9) {
            match self.due.remove(0).1 {
                Due::Deed(deed, target) => {
                    self.act(level, deed, &target);
                }
                Due::Vanish(number) => {
                    let Crumble { piece, back, .. } = self.plan.crumbles[number];
                    self.vanish(level, piece);
                    if let Some(back) = back {
                        self.later(back, Due::Return(number));
                    }
                }
                Due::Return(number) => self.put_back(level, self.plan.crumbles[number].piece),
            }
        }
        self.time += f64::from(dt);
        let plan = Arc::clone(&self.plan);
        for (Door { carrier, path, .. }, course) in plan.doors.iter().zip(&mut self.doors) {
            let length = path.path().last().map_or(0.0, |last| f64::from(last.time));
            let before = course.at;
            course.at = (course.at + course.direction * f64::from(dt)).clamp(0.0, length);
            if course.at != before {
                level.place(*carrier, path.at(course.at));
            }
        }
        for Motion { carrier, path, began, lasts } in &self.motions {
            // One more tick, in which it comes to rest.
            if self.time - began <= lasts + f64::from(dt) {
                level.place(*carrier, path.at(self.time - began));
            }
        }
    }

    /// Places every door, and everything that can be pushed, at the end of its path in the next tick of
    /// a level: for drawing where it leads.
    pub fn open_all(&self, level: &mut Level<V>) {
        for Door { carrier, path, .. } in &self.plan.doors {
            if let Some(last) = path.path().last() {
                level.place(*carrier, path.at(f64::from(last.time)));
            }
        }
    }

    /// Notices what a body did in a tick: that it stands on a floor that crumbles, has entered a
    /// switch, or pushes something.
    pub fn observe(&mut self, level: &Level<V>, state: &State<V>, events: &[Event<V>]) {
        let plan = Arc::clone(&self.plan);
        self.push(level, state);
        if state.footing.kind != FootingKind::None {
            for (number, crumble) in plan.crumbles.iter().enumerate() {
                let is_due = || {
                    self.due.iter().any(
                        |(_, due)| matches!(due, Due::Vanish(other) | Due::Return(other) if *other == number),
                    )
                };
                if crumble.piece == state.footing.piece && !is_due() {
                    self.later(crumble.after, Due::Vanish(number));
                }
            }
        }
        for event in events {
            let Event::ZoneEntered { zone } = event else { continue };
            for Switch { deed, target, lasts, .. } in plan.switches.iter().filter(|one| one.zone == *zone) {
                // A switch that is entered again while it lasts starts again.
                self.due.retain(|(_, due)| {
                    !matches!(due, Due::Deed(other, name) if *other == deed.undone() && name == target)
                });
                self.later(0.0, Due::Deed(*deed, target.clone()));
                if let Some(lasts) = lasts {
                    self.later(*lasts, Due::Deed(deed.undone(), target.clone()));
                }
            }
        }
    }

    /// Moves what a body walks into along its path, as far as that leads away from the body.
    fn push(&mut self, level: &Level<V>, state: &State<V>) {
        /// The smallest cosine between the path and the direction of a push.
        const ALONG: f32 = 0.5;
        /// What is pushed moves on for this time in seconds after a touch, in which the body catches
        /// up with it.
        const GRACE: f64 = 0.15;
        if !self.plan.doors.iter().any(|door| door.is_pushed) {
            return;
        }
        let wall = state.touching.beside.filter(|_| state.touching.wall);
        let met = wall.and_then(|wall| level.piece(wall.piece)?.carrier);
        for (Door { carrier, path, is_pushed }, course) in self.plan.doors.iter().zip(&mut self.doors) {
            if !is_pushed {
                continue;
            }
            let is_recent = course.pushed.is_some_and(|time| self.time - time <= GRACE);
            let touch = wall.filter(|_| met == Some(*carrier));
            let Some(wall) = touch else {
                if !is_recent {
                    course.direction = 0.0;
                }
                continue;
            };
            // The direction of the path here, by a short part of it.
            let part = |by: f64| path.at((course.at + by).max(0.0)).offset();
            let along = (part(0.02) - part(-0.02)).direction().unwrap_or(V::ZERO);
            let toward = -along.dot(wall.normal);
            course.pushed = Some(self.time);
            course.direction = if toward.abs() < ALONG { 0.0 } else { f64::from(toward.signum()) };
        }
    }

    fn later(&mut self, seconds: f32, due: Due) {
        let time = self.time + f64::from(seconds);
        let place = self.due.partition_point(|(other, _)| *other <= time);
        self.due.insert(place, (time, due));
    }

    fn vanish(&mut self, level: &mut Level<V>, piece: PieceId) {
        if let Some(own) = level.piece(piece) {
            level.remove(piece);
            self.removed.insert(piece.0, own);
        }
    }

    fn put_back(&mut self, level: &mut Level<V>, piece: PieceId) {
        if let Some(own) = self.removed.remove(&piece.0) {
            // It was valid before, and surfaces are never removed. If its carrier was, it is lost.
            let _ = level.put_back(piece, own);
        }
    }
}

/// The first placement of a door, or of a carrier of the host.
pub(crate) fn set_by_host<V: Geometry>(path: &Carrier<V>) -> Carrier<V> {
    Carrier::set_by_host().starting_at(if path.path().is_empty() {
        Placement::default()
    } else {
        path.at(0.0)
    })
}

/// The changing part of [`Mechanisms`], for a save: see [`Mechanisms::saved`].
#[cfg(feature = "serde")]
#[derive(Clone, Debug, serde::Serialize, serde::Deserialize)]
#[serde(bound(
    serialize = "V: Geometry + serde::Serialize",
    deserialize = "V: Geometry + serde::Deserialize<'de>"
))]
pub struct SavedMechanisms<V> {
    time: f64,
    due: Vec<(f64, Due)>,
    doors: Vec<Course>,
    removed: BTreeMap<u32, Piece<V>>,
    /// The carrier, the ends of its motion, when it began, and how long it lasts.
    motions: Vec<(CarrierId, Vec<Keyframe<V>>, f64, f64)>,
}

#[cfg(feature = "serde")]
impl<V: Geometry> Mechanisms<V> {
    /// The changing part, to be stored with [`Level::snapshot`] and the bodies. Needs the feature
    /// `serde`.
    #[must_use]
    pub fn saved(&self) -> SavedMechanisms<V> {
        let Self { time, due, doors, removed, motions, .. } = self;
        let motion = |motion: &Motion<V>| {
            let Motion { carrier, path, began, lasts } = motion;
            (*carrier, path.path().to_vec(), *began, *lasts)
        };
        SavedMechanisms {
            time: *time,
            due: due.clone(),
            doors: doors.clone(),
            removed: removed.clone(),
            motions: motions.iter().map(motion).collect(),
        }
    }

    /// Restores the changing part, beside [`Level::restore`]. Returns false, and changes nothing, if it
    /// was saved in another level, or its numbers are broken.
    pub fn restore(&mut self, saved: SavedMechanisms<V>) -> bool {
        let SavedMechanisms { time, due, doors, removed, motions } = saved;
        let crumbles = self.plan.crumbles.len();
        let is_known = |due: &Due| match due {
            Due::Deed(..) => true,
            Due::Vanish(number) | Due::Return(number) => *number < crumbles,
        };
        let is_sound = time.is_finite()
            && doors.len() == self.plan.doors.len()
            && doors.iter().all(|course| course.at.is_finite() && course.direction.is_finite())
            && due.iter().all(|(time, due)| time.is_finite() && is_known(due))
            && due.is_sorted_by(|one, next| one.0 <= next.0)
            && motions.iter().all(|(_, path, began, lasts)| {
                let keys = path.iter().all(|key| key.offset.is_finite() && key.turn.is_finite());
                keys && path.len() == 2 && path[0].time < path[1].time && (began + lasts).is_finite()
            });
        if !is_sound {
            return false;
        }
        let motion = |(carrier, path, began, lasts)| Motion {
            carrier,
            path: Carrier::on_path(path, PathEnd::Stop),
            began,
            lasts,
        };
        let motions = motions.into_iter().map(motion).collect();
        *self = Self { plan: Arc::clone(&self.plan), time, due, doors, removed, motions };
        true
    }
}
