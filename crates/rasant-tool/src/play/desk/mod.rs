//! What one page has: an attempt, its numbers with their undo, ghosts, figures.

mod keep;
mod shape;

use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rasant::glam::{Vec2, Vec3};
use rasant::input::{PadAxis, PadButton};
use rasant::{Bindings, Clock, Vector};
use rasant_lab::files::{LevelDraft, TuningFile};
use rasant_lab::live::{Attempt, Told, turned};
use rasant_lab::sheet::{Sheet, sheet};
use rasant_lab::{Problem, Summary, Trial, World};
use serde_json::{Value, json};

use super::asks::{Ask, Said, milliseconds};
use super::{Setting, scene};
use crate::commands::knobs;
use crate::files;

/// Steps of undo that are kept.
const STEPS: usize = 500;
/// Ghosts that are kept.
const GHOSTS: usize = 6;

/// An attempt in either dimension.
#[derive(Clone)]
enum Live {
    Plane(Box<Attempt<Vec2>>),
    Space(Box<Attempt<Vec3>>),
}

/// Does the same with an attempt of either dimension.
macro_rules! with {
    ($live:expr, $attempt:ident => $do:expr) => {
        match $live {
            Live::Plane($attempt) => $do,
            Live::Space($attempt) => $do,
        }
    };
}
use with;

struct Ghost {
    title: String,
    path: Vec<Value>,
    summary: Summary,
}

/// What a step of undo puts back.
#[derive(Clone)]
enum Step {
    Numbers(Box<TuningFile>),
    Place(LevelDraft),
}

/// A file that the numbers, or the place, come from.
struct Source {
    path: PathBuf,
    seen: Option<SystemTime>,
}

/// The files of geometry that the place names.
#[derive(Default)]
struct Named {
    /// What they are beside.
    base: PathBuf,
    files: Vec<Source>,
}

impl Named {
    fn of(draft: &LevelDraft, base: &Path) -> Self {
        let source = |named: &Path| {
            let path = base.with_file_name("").join(named);
            Source { seen: modified(&path), path }
        };
        Self { base: base.to_owned(), files: draft.named().map(source).collect() }
    }
}

pub struct Desk {
    setting: Setting,
    /// What is played, as it was asked for.
    name: String,
    /// What an attempt that is recorded is of, but for its inputs.
    trial: Trial,
    live: Live,
    /// The place as it is, and as its file has it.
    draft: LevelDraft,
    written: LevelDraft,
    level: Option<Source>,
    named: Named,
    /// The numbers as their file has them.
    file: TuningFile,
    source: Option<Source>,
    undo: Vec<Step>,
    redo: Vec<Step>,
    drag: Option<(String, u32)>,
    places: [Option<TuningFile>; 2],
    ghosts: Vec<Ghost>,
    replays: bool,
    inside: bool,
    /// Counts the turns, so that only figures of the last are shown.
    turn: u64,
    /// Whether the figures of the last turn are yet to be measured, and whether some
    /// are being measured.
    stale: bool,
    measuring: bool,
    /// The figures of the file's own numbers.
    before: Option<Sheet>,
}

/// Something to be measured away from the page's own time.
pub struct Measuring {
    turn: u64,
    numbers: TuningFile,
    file: Option<TuningFile>,
    dimensions: usize,
    rate: u32,
    replayed: Option<Live>,
}

/// What was measured.
pub struct Measured {
    turn: u64,
    figures: Sheet,
    before: Option<Sheet>,
    /// The path, what it comes to, what it came to as it was, and after how many ticks
    /// the two part.
    replayed: Option<(Vec<Value>, Summary, Summary, Option<usize>)>,
}

impl Measuring {
    pub fn measure(self) -> Measured {
        let of = |file: &TuningFile| sheet(file, self.dimensions, self.rate);
        let replayed = self.replayed.map(|live| {
            with!(live, attempt => {
                let (new, old) = (attempt.replayed(&self.numbers), attempt.path());
                let parts = new.parts_from(&old);
                (scene::path(&new.positions), new.summary, old.summary, parts)
            })
        });
        Measured { turn: self.turn, figures: of(&self.numbers), before: self.file.as_ref().map(of), replayed }
    }
}

fn note(text: impl Into<String>) -> Value {
    json!({ "tell": "note", "text": text.into() })
}

/// A message that says what is wrong.
pub fn problem(text: &str) -> Value {
    json!({ "tell": "problem", "text": text })
}

/// The last message of a desk that cannot be.
pub fn gone(problem: &Problem) -> Value {
    json!({ "tell": "problem", "text": problem.to_string() })
}

fn modified(path: &PathBuf) -> Option<SystemTime> {
    std::fs::metadata(path).and_then(|about| about.modified()).ok()
}

impl Desk {
    /// A desk at which what was set is played.
    ///
    /// # Errors
    /// When a file cannot be read.
    pub fn new(setting: Setting) -> Result<Self, Problem> {
        let (name, tuning) = (setting.place.clone(), setting.tuning.clone());
        let Opened { trial, live, draft, level, named, file, source } =
            Opened::new(&name, tuning.as_deref())?;
        Ok(Self {
            setting,
            name,
            trial,
            live,
            written: draft.clone(),
            draft,
            level,
            named,
            file,
            source,
            undo: Vec::new(),
            redo: Vec::new(),
            drag: None,
            places: [None, None],
            ghosts: Vec::new(),
            replays: false,
            inside: false,
            turn: 0,
            stale: true,
            measuring: false,
            before: None,
        })
    }

    /// What a page is told first: all that can be turned, played and opened.
    pub fn welcome(&self) -> Vec<Value> {
        let mut trials = files::names();
        let levels = files::level_names();
        if ![&trials, &levels].iter().any(|names| names.contains(&self.setting.place)) {
            trials.insert(0, self.setting.place.clone());
        }
        let names = |names: &mut dyn Iterator<Item = &'static str>| names.collect::<Vec<_>>();
        let hello = json!({
            "tell": "hello",
            "knobs": knobs::rows(""),
            "trials": trials,
            "levels": levels,
            "tunings": files::tuning_names(),
            "buttons": names(&mut PadButton::ALL.iter().map(|button| button.name())),
            "axes": names(&mut PadAxis::ALL.iter().map(|axis| axis.name())),
        });
        [vec![hello], self.all()].concat()
    }

    /// Everything that a newly opened trial changes.
    fn all(&self) -> Vec<Value> {
        vec![self.place_told(false), self.numbers_told(), self.ghosts_told(), self.frame_told(Vec::new())]
    }

    /// The place, newly opened or `reshaped`.
    fn place_told(&self, reshaped: bool) -> Value {
        let mut place = with!(&self.live, attempt => scene::place(attempt.file()));
        place["tell"] = json!("place");
        place["trial"] = json!(self.name);
        place["rate"] = json!(with!(&self.live, attempt => attempt.rate()));
        place["parts"] = json!(scene::parts(&self.draft));
        place["reshaped"] = json!(reshaped);
        place["changed"] = json!(self.draft != self.written);
        place["source"] = json!(self.level.as_ref().map(|level| level.path.display().to_string()));
        place
    }

    fn numbers(&self) -> &TuningFile {
        with!(&self.live, attempt => attempt.numbers())
    }

    fn numbers_told(&self) -> Value {
        let numbers = self.numbers();
        let values = |file: &TuningFile| {
            rasant_lab::knobs()
                .iter()
                .map(|knob| file.tuning.get(knob.path).unwrap_or(knob.default))
                .collect::<Vec<f32>>()
        };
        json!({
            "tell": "numbers",
            "title": numbers.title,
            "values": values(numbers),
            "file": values(&self.file),
            "source": self.source.as_ref().map(|source| source.path.display().to_string()),
            "undo": self.undo.len(),
            "redo": self.redo.len(),
            "kept": self.places.each_ref().map(Option::is_some),
            "steering": steering(numbers),
        })
    }

    fn ghosts_told(&self) -> Value {
        let ghosts: Vec<Value> = self
            .ghosts
            .iter()
            .map(|ghost| json!({ "title": ghost.title, "path": ghost.path, "sums": ghost.summary }))
            .collect();
        json!({ "tell": "ghosts", "ghosts": ghosts, "replays": self.replays })
    }

    fn frame_told(&self, told: Vec<Told>) -> Value {
        with!(&self.live, attempt => {
            let mut frame = scene::body(attempt);
            if self.inside {
                scene::inside(attempt, &mut frame);
            }
            frame["tell"] = json!("frame");
            frame["told"] = json!(told);
            frame["carried"] = json!(scene::carried(&attempt.file().level));
            frame
        })
    }

    /// The first frame of an attempt.
    fn fresh_frame(&self) -> Value {
        let mut frame = self.frame_told(Vec::new());
        frame["fresh"] = json!(true);
        frame
    }

    /// Answers a message. Nothing that it says can end the desk.
    pub fn hear(&mut self, text: &str) -> Vec<Value> {
        match serde_json::from_str::<Ask>(text) {
            Ok(ask) => self.answer(ask),
            Err(error) => vec![problem(&format!("a message was not understood: {error}"))],
        }
    }

    fn answer(&mut self, ask: Ask) -> Vec<Value> {
        match ask {
            Ask::Frame { ms, events } => return vec![self.frame(ms, &events)],
            Ask::Open { trial, tuning } => return self.open(trial, tuning.as_deref()),
            Ask::Turn { knob, value, drag } => return self.turn_knob(&knob, value, drag),
            Ask::Reset { knobs } => {
                let mut numbers = self.numbers().clone();
                for knob in &knobs {
                    let Ok(value) = self.file.tuning.get(knob) else {
                        return vec![problem(&format!("there is no knob `{knob}`"))];
                    };
                    // What a file has is in its range.
                    let _ = numbers.tuning.set(knob, value);
                }
                self.change(numbers);
            }
            Ask::Undo => {
                if let Some(step) = self.undo.pop() {
                    let (back, answers) = self.put_back(step);
                    self.redo.push(back);
                    return answers;
                }
            }
            Ask::Redo => {
                if let Some(step) = self.redo.pop() {
                    let (back, answers) = self.put_back(step);
                    self.undo.push(back);
                    return answers;
                }
            }
            Ask::Shape { change } => return self.shape(&change),
            Ask::SavePlace { name } => {
                return match self.save_place(name.as_deref()) {
                    Ok(path) => vec![note(format!("saved to {}", path.display())), self.place_told(true)],
                    Err(why) => vec![problem(&why)],
                };
            }
            Ask::Start { at } => {
                if at.len() < self.dimensions() || !at.iter().all(|part| part.is_finite()) {
                    return vec![problem("a start is a point of finite numbers")];
                }
                let at = [at[0], at[1], at.get(2).copied().unwrap_or(0.0)];
                with!(&mut self.live, attempt => attempt.start_at(Vector::from_array(at)));
                return vec![self.fresh_frame()];
            }
            Ask::Tape { from, to } => return vec![self.tape(&from, &to)],
            Ask::Repeat { ticks } => {
                with!(&mut self.live, attempt => match ticks {
                    Some([from, to]) => attempt.repeat(from..to),
                    None => attempt.end_stretch(),
                });
                return vec![self.frame_told(Vec::new()), self.numbers_told()];
            }
            Ask::Keep { place } => {
                let numbers = self.numbers().clone();
                if let Some(kept) = self.places.get_mut(place) {
                    *kept = Some(numbers);
                }
            }
            Ask::Take { place } => {
                if let Some(numbers) = self.places.get(place).cloned().flatten() {
                    self.change(numbers);
                }
            }
            Ask::Save { name } => return self.save(name.as_deref()),
            Ask::Record { name } => {
                return vec![match self.record(&name) {
                    Ok((path, words)) => note(format!(
                        "recorded; `rasant check {}` plays and checks it{words}",
                        path.display()
                    )),
                    Err(why) => problem(&why),
                }];
            }
            Ask::Pause { on } => {
                with!(&mut self.live, attempt => {
                    attempt.let_go();
                    attempt.pause(on);
                });
                return vec![self.frame_told(Vec::new())];
            }
            Ask::Speed { by } => {
                with!(&mut self.live, attempt => attempt.set_speed(by));
                return Vec::new();
            }
            Ask::Seek { tick } => {
                with!(&mut self.live, attempt => attempt.seek(tick));
                return vec![self.frame_told(Vec::new())];
            }
            Ask::Restart => {
                with!(&mut self.live, attempt => attempt.restart());
                return vec![self.fresh_frame()];
            }
            Ask::Ghost => {
                if self.ghosts.len() == GHOSTS {
                    self.ghosts.remove(0);
                }
                let title = self.numbers().title.clone();
                let (path, summary) = with!(&self.live, attempt => {
                    let path = attempt.path();
                    (scene::path(&path.positions), path.summary)
                });
                self.ghosts.push(Ghost { title, path, summary });
                return vec![self.ghosts_told()];
            }
            Ask::Forget { ghost } => {
                if ghost < self.ghosts.len() {
                    self.ghosts.remove(ghost);
                }
                return vec![self.ghosts_told()];
            }
            Ask::Inside { on } => {
                self.inside = on;
                return vec![self.frame_told(Vec::new())];
            }
            Ask::Replay { on } => {
                self.replays = on;
                self.stale |= on;
                return vec![self.ghosts_told()];
            }
        }
        vec![self.numbers_told()]
    }

    fn frame(&mut self, ms: f64, events: &[Said]) -> Value {
        let events: Vec<_> = events.iter().filter_map(Said::event).collect();
        let told = with!(&mut self.live, attempt => attempt.frame(milliseconds(ms), &events));
        let mut frame = self.frame_told(told);
        frame["asked"] = json!(true);
        frame
    }

    fn open(&mut self, name: String, tuning: Option<&str>) -> Vec<Value> {
        // A page opens what is shipped and what the tool was started with: it reads
        // no other file.
        let is_own = name == self.setting.place;
        // What the tool was started with comes back whole.
        let tuning = tuning.map(str::to_owned).or(self.setting.tuning.clone().filter(|_| is_own));
        let is_shipped = |name: &String| name.starts_with("demo:");
        let known = tuning.as_ref().is_none_or(is_shipped) || (is_own && tuning == self.setting.tuning);
        if !((is_own || is_shipped(&name)) && known) {
            return vec![problem("only what is shipped, and what `rasant play` was given, can be opened")];
        }
        match Opened::new(&name, tuning.as_deref()) {
            Ok(Opened { trial, live, draft, level, named, file, source }) => {
                self.named = named;
                (self.name, self.trial, self.live) = (name, trial, live);
                (self.written, self.draft, self.level) = (draft.clone(), draft, level);
                (self.file, self.source) = (file, source);
                (self.undo, self.redo, self.ghosts) = (Vec::new(), Vec::new(), Vec::new());
                (self.drag, self.before, self.stale) = (None, None, true);
                self.turn += 1;
                self.all()
            }
            Err(failure) => vec![problem(&failure.to_string())],
        }
    }

    fn turn_knob(&mut self, knob: &str, value: f32, drag: Option<u32>) -> Vec<Value> {
        match turned(self.numbers(), knob, value) {
            Ok(numbers) => {
                let drag = drag.map(|drag| (knob.to_owned(), drag));
                if drag.is_some() && drag == self.drag {
                    self.put(numbers);
                } else {
                    self.change(numbers);
                }
                self.drag = drag;
                vec![self.numbers_told()]
            }
            Err(error) => vec![problem(&error.to_string()), self.numbers_told()],
        }
    }

    /// Other numbers, with a step of undo.
    fn change(&mut self, numbers: TuningFile) {
        if *self.numbers() != numbers {
            self.step(Step::Numbers(Box::new(self.numbers().clone())));
            self.put(numbers);
        }
        self.drag = None;
    }

    /// Keeps what is put back by an undo.
    fn step(&mut self, step: Step) {
        if self.undo.len() == STEPS {
            self.undo.remove(0);
        }
        self.undo.push(step);
        self.redo.clear();
    }

    /// Puts back what a step holds; gives the step that takes that back, and what to
    /// tell.
    fn put_back(&mut self, step: Step) -> (Step, Vec<Value>) {
        self.drag = None;
        match step {
            Step::Numbers(numbers) => {
                let back = Step::Numbers(Box::new(self.numbers().clone()));
                self.put(*numbers);
                (back, vec![self.numbers_told()])
            }
            Step::Place(draft) => {
                let back = Step::Place(self.draft.clone());
                // What was a level once is one.
                let answers = match draft.world() {
                    Ok(world) => self.put_place(draft, world),
                    Err(why) => vec![problem(&why.to_string())],
                };
                (back, answers)
            }
        }
    }

    fn dimensions(&self) -> usize {
        match &self.live {
            Live::Plane(_) => Vec2::DIMENSION,
            Live::Space(_) => Vec3::DIMENSION,
        }
    }

    fn put(&mut self, numbers: TuningFile) {
        with!(&mut self.live, attempt => attempt.turn(numbers));
        self.turn += 1;
        self.stale = true;
    }

    /// What is to be measured now, if something is.
    pub fn next_measuring(&mut self) -> Option<Measuring> {
        if !self.stale || self.measuring {
            return None;
        }
        (self.stale, self.measuring) = (false, true);
        let (dimensions, rate) = (self.dimensions(), with!(&self.live, attempt => attempt.rate()));
        Some(Measuring {
            turn: self.turn,
            numbers: self.numbers().clone(),
            file: self.before.is_none().then(|| self.file.clone()),
            dimensions,
            rate,
            replayed: self.replays.then(|| self.live.clone()),
        })
    }

    /// Tells what was measured.
    pub fn measured(&mut self, measured: Measured) -> Vec<Value> {
        self.measuring = false;
        if measured.before.is_some() {
            self.before = measured.before;
        }
        if measured.turn != self.turn {
            self.stale = true;
        }
        let before = self.before.as_ref();
        let figures: Vec<Value> = measured
            .figures
            .readings
            .iter()
            .map(|reading| {
                json!({
                    "name": reading.name,
                    "unit": reading.unit,
                    "is": reading.measured,
                    "asked": reading.asked,
                    "was": before.and_then(|sheet| sheet.get(reading.name)),
                    "meaning": rasant_lab::sheet::figure_kind(reading.name).map(|kind| kind.meaning),
                    "groups": rasant_lab::sheet::figure_kind(reading.name).map(|kind| kind.groups),
                })
            })
            .collect();
        let mut answers = vec![json!({ "tell": "figures", "figures": figures })];
        if let Some((path, new, old, parts)) = measured.replayed {
            answers.push(
                json!({ "tell": "replayed", "path": path, "sums": new, "before": old, "parts": parts }),
            );
        }
        answers
    }
}

fn steering(numbers: &TuningFile) -> &'static str {
    let named = |of: &(&'static str, rasant::Steering)| of.1 == numbers.tuning.steering;
    rasant::Steering::NAMES.iter().find(|of| named(of)).map_or("usual", |of| of.0)
}

/// What is played, ready to be.
struct Opened {
    trial: Trial,
    live: Live,
    draft: LevelDraft,
    level: Option<Source>,
    named: Named,
    file: TuningFile,
    source: Option<Source>,
}

impl Opened {
    /// A trial or level with its own numbers or others.
    fn new(name: &str, tuning: Option<&str>) -> Result<Self, Problem> {
        let place = files::place(name)?;
        let is_shipped = name.starts_with("demo:");
        let trial = place.trial.clone();
        let file = match tuning {
            Some(spec) => files::tuning_or_problem(spec)?,
            None => trial.tuning.clone(),
        };
        let on_disk = |path: PathBuf| Source { seen: modified(&path), path };
        let source = tuning.filter(|spec| !spec.starts_with("demo:") && !spec.contains(','));
        let clock = Clock::new(trial.rate).unwrap_or_else(|_| Clock::new(60).expect("60 ticks a second"));
        let bindings = Bindings::default();
        let start = trial.start;
        let live = match trial.world.clone() {
            World::Plane(world) => {
                let start = Vec2::new(start[0], start[1]);
                Live::Plane(Box::new(Attempt::new(world, file.clone(), start, clock, bindings)))
            }
            World::Space(world) => {
                let start = Vec3::from_array(start);
                Live::Space(Box::new(Attempt::new(world, file.clone(), start, clock, bindings)))
            }
        };
        Ok(Self {
            trial,
            live,
            named: if is_shipped { Named::default() } else { Named::of(&place.draft, &place.base) },
            draft: place.draft,
            level: place.level.filter(|_| !is_shipped).map(on_disk),
            file,
            source: source.map(|spec| on_disk(PathBuf::from(spec))),
        })
    }
}
