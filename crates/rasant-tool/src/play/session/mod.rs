//! The session of a page: an attempt, its numbers with undo, ghosts, figures.

mod bindings;
mod files;
mod open;
mod picture;
mod place;
mod share;

use rasant::glam::{Vec2, Vec3};
use rasant::input::{PadAxis, PadButton, PointerButton};
use rasant::state::Name;
use rasant::{Actions, Bindings, Steering, Vector};
use rasant_lab::files::{HULL_SHAPES, LevelDraft, TuningFile, shape_name};
use rasant_lab::live::{Attempt, Ticked, turned};
use rasant_lab::sheet::{Figures, Rates, Sheet};
use rasant_lab::trace::Column;
use rasant_lab::{Problem, Trial};

use super::Setting;
use super::messages::{
    Answer, Control, Figure, Frame, Ghost, Ghosts, Hello, KnobInfo, Link, Numbers, PlayerInput, Replayed,
    Request, Series, milliseconds,
};
use crate::files::{level_names, names, tuning_names};
use open::{Geometry, Opened, Source};

/// The maximum number of undo steps.
const STEPS: usize = 500;
/// The maximum number of ghosts.
const GHOSTS: usize = 6;
/// The maximum number of ticks of a series, which a page plots.
const LONGEST_SERIES: usize = 20_000;

/// An attempt in either dimension.
#[derive(Clone)]
enum Live {
    Plane(Box<Attempt<Vec2>>),
    Space(Box<Attempt<Vec3>>),
}

/// Runs the same code on an attempt of either dimension.
macro_rules! with {
    ($live:expr, $attempt:ident => $do:expr) => {
        match $live {
            Live::Plane($attempt) => $do,
            Live::Space($attempt) => $do,
        }
    };
}
use with;

/// What an undo step restores.
#[derive(Clone)]
enum Step {
    Numbers(Box<TuningFile>),
    Place(LevelDraft),
}

pub struct Session {
    setting: Setting,
    /// The trial or level, and the tuning, as they were requested.
    name: String,
    tuning: Option<String>,
    /// The trial that a recording is based on, except for its inputs.
    trial: Trial,
    live: Live,
    /// The current place, and the place in its file.
    draft: LevelDraft,
    written: LevelDraft,
    level: Option<Source>,
    geometry: Geometry,
    /// The numbers in their file.
    file: TuningFile,
    source: Option<Source>,
    /// The bindings in their file.
    bindings: Bindings,
    bindings_source: Option<Source>,
    undo: Vec<Step>,
    redo: Vec<Step>,
    /// The number that is being dragged, with the id of the drag.
    drag: Option<(String, u32)>,
    kept: [Option<TuningFile>; 2],
    ghosts: Vec<Ghost>,
    replays: bool,
    debug: bool,
    /// The columns that ticks carry.
    columns: Vec<&'static Column>,
    /// The number of changes, so that outdated figures are measured again.
    changes: u64,
    /// Whether figures of the last change have yet to be measured, and whether some are being
    /// measured.
    stale: bool,
    measuring: bool,
    /// The figures of the numbers in the file.
    before: Option<Sheet>,
}

/// Figures to be measured on another thread.
pub struct Measuring {
    change: u64,
    numbers: TuningFile,
    file: Option<TuningFile>,
    dimensions: usize,
    rate: u32,
    figures: Figures,
    replayed: Option<Live>,
}

/// Measured figures.
pub struct Measured {
    change: u64,
    figures: Sheet,
    before: Option<Sheet>,
    replayed: Option<Replayed>,
}

impl Measuring {
    pub fn measure(self) -> Measured {
        let rates = Rates { course: self.rate, game: self.rate };
        let of = |file: &TuningFile| self.figures.sheet(file, self.dimensions, rates);
        let replayed = self.replayed.map(|live| {
            with!(live, attempt => {
                let (new, old) = (attempt.replayed(&self.numbers), attempt.path());
                let parts = new.parts_from(&old);
                let path = picture::path(&new.positions);
                Replayed { path, summary: new.summary, before: old.summary, parts }
            })
        });
        let (figures, before) = (of(&self.numbers), self.file.as_ref().map(of));
        Measured { change: self.change, figures, before, replayed }
    }
}

impl Session {
    /// A session for a setting.
    ///
    /// # Errors
    /// If a file cannot be read.
    pub fn new(setting: Setting) -> Result<Self, Problem> {
        let library = setting.library;
        let (name, tuning) = (setting.place.clone(), setting.tuning.clone());
        let bindings = open::bindings(setting.bindings.as_deref())?;
        let second = open::second_bindings(setting.second_bindings.as_deref())?;
        let opened = Opened::new(library, &name, tuning.as_deref(), [bindings.clone(), second])?;
        let Opened { trial, live, draft, level, geometry, file, source } = opened;
        let mut session = Self {
            bindings_source: setting.bindings.clone().map(Source::now),
            setting,
            name,
            tuning,
            trial,
            live,
            written: draft.clone(),
            draft,
            level,
            geometry,
            file,
            source,
            bindings,
            undo: Vec::new(),
            redo: Vec::new(),
            drag: None,
            kept: [None, None],
            ghosts: Vec::new(),
            replays: false,
            debug: false,
            columns: Vec::new(),
            changes: 0,
            stale: true,
            measuring: false,
            before: None,
        };
        session.plot(&["y_m".to_owned(), "speed_m_per_s".to_owned()]);
        Ok(session)
    }

    /// The first messages: everything that can be changed, played and opened.
    pub fn welcome(&self) -> Vec<Answer> {
        let mut trials = names();
        let levels = level_names();
        if ![&trials, &levels].iter().any(|names| names.contains(&self.setting.place)) {
            trials.insert(0, self.setting.place.clone());
        }
        let hello = Hello {
            knobs: self.knobs(),
            shapes: HULL_SHAPES.to_vec(),
            trials,
            levels,
            tunings: tuning_names(),
            pad_buttons: PadButton::ALL.iter().map(|button| button.name()).collect(),
            pad_axes: PadAxis::ALL.iter().map(|axis| axis.name()).collect(),
            pointer_buttons: PointerButton::ALL.iter().map(|button| button.name()).collect(),
        };
        std::iter::once(Answer::Hello(Box::new(hello))).chain(self.all()).collect()
    }

    /// Everything that changes when a trial is opened.
    fn all(&self) -> Vec<Answer> {
        vec![
            self.place_message(false),
            self.numbers_message(),
            self.bindings_message(),
            self.ghosts_message(),
            self.fresh_frame(),
        ]
    }

    /// The place, newly opened or `reshaped`.
    fn place_message(&self, reshaped: bool) -> Answer {
        let mut place = with!(&self.live, attempt => picture::place(attempt.file(), &self.draft));
        place.trial.clone_from(&self.name);
        place.rate = with!(&self.live, attempt => attempt.rate());
        place.reshaped = reshaped;
        place.changed = self.draft != self.written;
        place.source = self.level.as_ref().map(Source::shown);
        Answer::Place(Box::new(place))
    }

    fn numbers(&self) -> &TuningFile {
        with!(&self.live, attempt => attempt.numbers())
    }

    fn numbers_message(&self) -> Answer {
        let own = self.numbers();
        let value = |file: &TuningFile, path| file.number(path).filter(|_| file.is_described_by(path));
        let values =
            |file: &TuningFile| own.numbers().iter().map(|knob| value(file, knob.path)).collect::<Vec<_>>();
        let named = |actions: Actions| actions.each().filter_map(Actions::name).collect::<Vec<_>>();
        Answer::Numbers(Box::new(Numbers {
            title: own.title.clone(),
            values: values(own),
            file: values(&self.file),
            ranges: own.numbers().iter().map(|knob| own.range_of(knob.path)).collect(),
            shape: shape_name(&own.hull),
            file_shape: shape_name(&self.file.hull),
            source: self.source.as_ref().map(Source::shown),
            undo: self.undo.len(),
            redo: self.redo.len(),
            kept: self.kept.each_ref().map(Option::is_some),
            steering: own.tuning.steering.in_dimension(self.dimensions()).to_string(),
            controls: self
                .controls()
                .into_iter()
                .map(|(name, actions)| Control { name: name.to_string(), actions: named(actions) })
                .collect(),
            actions: named(self.used_actions()),
        }))
    }

    /// The moves that actions start, with the current numbers.
    fn controls(&self) -> Vec<(Name, Actions)> {
        match self.dimensions() {
            2 => self.numbers().tuning.controls::<Vec2>(),
            _ => self.numbers().tuning.controls::<Vec3>(),
        }
    }

    /// The actions that have an effect with the current numbers: those of moves, running, and
    /// crouching.
    fn used_actions(&self) -> Actions {
        let usual = match self.numbers().tuning.steering {
            Steering::Hop => Actions::RUN,
            _ => Actions::RUN | Actions::CROUCH,
        };
        self.controls().iter().fold(usual, |all, (_, actions)| all | *actions)
    }

    fn ghosts_message(&self) -> Answer {
        Answer::Ghosts(Ghosts { ghosts: self.ghosts.clone(), replays: self.replays })
    }

    fn frame_message(&self, ticked: &[Ticked]) -> Answer {
        self.frame_with(ticked, |_| ())
    }

    fn fresh_frame(&self) -> Answer {
        self.frame_with(&[], |frame| frame.fresh = true)
    }

    /// The numbers of the tuning, with their ranges in its units.
    fn knobs(&self) -> Vec<KnobInfo> {
        let file = self.numbers();
        file.numbers().into_iter().map(|knob| KnobInfo::of(knob, file.tuning.scale)).collect()
    }

    fn frame_with(&self, ticked: &[Ticked], change: impl FnOnce(&mut Frame)) -> Answer {
        let mut frame = with!(&self.live, attempt => Frame {
            tick: attempt.tick(),
            length: attempt.len(),
            paused: attempt.is_paused(),
            stretch: attempt.stretch().map(|ticks| [ticks.start, ticks.end]),
            fresh: false,
            requested: false,
            body: picture::body(attempt),
            camera: picture::camera(attempt),
            others: picture::others(attempt),
            ticks: picture::ticks(ticked, &self.columns, self.dimensions()),
            carried: picture::carried(attempt.file()),
            debug: self.debug.then(|| picture::debug(attempt)),
        });
        change(&mut frame);
        Answer::Frame(Box::new(frame))
    }

    /// Answers a message. No message can end the session.
    pub fn hear(&mut self, text: &str) -> Vec<Answer> {
        match serde_json::from_str::<Request>(text) {
            Ok(request) => self.answer(request),
            Err(error) => vec![Answer::problem(format!("a message was not understood: {error}"))],
        }
    }

    fn answer(&mut self, request: Request) -> Vec<Answer> {
        match request {
            Request::Frame { ms, events } => vec![self.frame(ms, &events)],
            Request::Open { trial, tuning } => self.open(trial, tuning.as_deref()),
            Request::OpenLink { trial, tuning, shape, numbers, tape, second_tape, tick } => {
                self.open_link(Link { trial, tuning, shape, numbers, tape, second_tape, tick })
            }
            Request::Turn { knob, value, drag } => self.turn(&knob, value, drag),
            Request::HullShape { shape } => self.change_shape(&shape),
            Request::Reset { knobs } => self.reset(&knobs),
            Request::Undo {} => self.take_back(),
            Request::Redo {} => self.make_again(),
            Request::Keep { slot } => {
                let numbers = self.numbers().clone();
                if let Some(kept) = self.kept.get_mut(slot) {
                    *kept = Some(numbers);
                }
                vec![self.numbers_message()]
            }
            Request::Take { slot } => {
                if let Some(numbers) = self.kept.get(slot).cloned().flatten() {
                    self.change(numbers);
                }
                vec![self.numbers_message()]
            }
            Request::Save { name } => self.save(name.as_deref()),
            Request::ChangePlace { change } => self.change_place(&change),
            Request::SavePlace { name } => match self.save_place(name.as_deref()) {
                Ok(path) => {
                    vec![Answer::note(format!("saved to {}", path.display())), self.place_message(true)]
                }
                Err(why) => vec![Answer::problem(why)],
            },
            Request::Start { at } => self.start(&at),
            Request::Measure { from, to } => vec![self.measure(&from, &to)],
            Request::Repeat { ticks } => {
                with!(&mut self.live, attempt => match ticks {
                    Some([from, to]) => attempt.repeat(from..to),
                    None => attempt.end_stretch(),
                });
                vec![self.frame_message(&[]), self.numbers_message()]
            }
            Request::Record { name } => vec![match self.record(&name) {
                Ok((path, words)) => Answer::note(format!(
                    "recorded; `rasant check {}` plays and checks it{words}",
                    path.display()
                )),
                Err(why) => Answer::problem(why),
            }],
            Request::Pause { on } => {
                with!(&mut self.live, attempt => {
                    attempt.let_go();
                    attempt.pause(on);
                });
                vec![self.frame_message(&[])]
            }
            Request::Speed { factor } => {
                with!(&mut self.live, attempt => attempt.set_speed(factor));
                Vec::new()
            }
            Request::Seek { tick } => {
                with!(&mut self.live, attempt => attempt.seek(tick));
                vec![self.frame_message(&[])]
            }
            Request::Step {} => {
                let ticked = with!(&mut self.live, attempt => attempt.step_on());
                vec![self.frame_message(&[ticked])]
            }
            Request::Restart {} => {
                with!(&mut self.live, attempt => attempt.restart());
                vec![self.fresh_frame()]
            }
            Request::KeepGhost {} => self.keep_ghost(),
            Request::ForgetGhost { ghost } => {
                if ghost < self.ghosts.len() {
                    self.ghosts.remove(ghost);
                }
                vec![self.ghosts_message()]
            }
            Request::Debug { on } => {
                self.debug = on;
                vec![self.frame_message(&[])]
            }
            Request::ReplayInputs { on } => {
                self.replays = on;
                self.stale |= on;
                vec![self.ghosts_message()]
            }
            Request::Columns { columns } => self.plot(&columns),
            Request::Series { from, to } => vec![self.series(from, to)],
            Request::Bind { meaning, chord } => self.bind(&meaning, &chord),
            Request::Unbind { meaning, chord } => self.unbind(&meaning, &chord),
            Request::ResetBindings {} => self.reset_bindings(),
            Request::SaveBindings { name } => self.save_bindings(name.as_deref()),
            Request::Link {} => vec![self.link()],
            Request::Export { name } => vec![match self.export(&name) {
                Ok(path) => Answer::note(format!("written to {}: any browser opens it", path.display())),
                Err(why) => Answer::problem(why),
            }],
        }
    }

    fn frame(&mut self, ms: f64, events: &[PlayerInput]) -> Answer {
        let events: Vec<_> = events.iter().filter_map(PlayerInput::event).collect();
        let ticked = with!(&mut self.live, attempt => attempt.frame(milliseconds(ms), &events));
        self.frame_with(&ticked, |frame| frame.requested = true)
    }

    fn open(&mut self, name: String, tuning: Option<&str>) -> Vec<Answer> {
        match self.try_open(name, tuning) {
            Ok(()) => self.all(),
            Err(why) => vec![Answer::problem(why)],
        }
    }

    /// Opens a shipped place, or the one that the tool was started with: a page can read no other
    /// file.
    fn try_open(&mut self, name: String, tuning: Option<&str>) -> Result<(), String> {
        let is_own = name == self.setting.place;
        // The place that the tool was started with has the tuning that it was started with.
        let tuning = tuning.map(str::to_owned).or(self.setting.tuning.clone().filter(|_| is_own));
        let is_shipped = |name: &String| name.starts_with("demo:");
        let known = tuning.as_ref().is_none_or(is_shipped) || (is_own && tuning == self.setting.tuning);
        if !((is_own || is_shipped(&name)) && known) {
            return Err("only what is shipped, and what `rasant play` was given, can be opened".to_owned());
        }
        let library = self.setting.library;
        let bindings = with!(&self.live, attempt => attempt.bindings().map(Clone::clone));
        let opened = Opened::new(library, &name, tuning.as_deref(), bindings)
            .map_err(|problem| problem.to_string())?;
        let Opened { trial, live, draft, level, geometry, file, source } = opened;
        (self.name, self.tuning, self.trial, self.live) = (name, tuning, trial, live);
        (self.written, self.draft, self.level, self.geometry) = (draft.clone(), draft, level, geometry);
        (self.file, self.source) = (file, source);
        (self.undo, self.redo, self.ghosts) = (Vec::new(), Vec::new(), Vec::new());
        (self.drag, self.before, self.stale) = (None, None, true);
        self.changes += 1;
        let dimensions = self.dimensions();
        self.columns.retain(|column| picture::column(column.name, dimensions).is_some());
        Ok(())
    }

    fn turn(&mut self, knob: &str, value: f32, drag: Option<u32>) -> Vec<Answer> {
        match turned(self.numbers(), knob, value) {
            Ok(numbers) => {
                let drag = drag.map(|drag| (knob.to_owned(), drag));
                if drag.is_some() && drag == self.drag {
                    self.put(numbers);
                } else {
                    self.change(numbers);
                }
                self.drag = drag;
                vec![self.numbers_message()]
            }
            Err(error) => vec![Answer::problem(error.to_string()), self.numbers_message()],
        }
    }

    fn change_shape(&mut self, shape: &str) -> Vec<Answer> {
        let mut numbers = self.numbers().clone();
        match numbers.set_shape(shape) {
            Ok(()) => {
                self.change(numbers);
                vec![self.numbers_message(), self.frame_message(&[])]
            }
            Err(error) => vec![Answer::problem(error.to_string()), self.numbers_message()],
        }
    }

    /// Resets numbers to those of the file. With any size of the hull, its shape is reset first,
    /// and its other sizes with it if the shape was different.
    fn reset(&mut self, knobs: &[String]) -> Vec<Answer> {
        let mut numbers = self.numbers().clone();
        let is_size = |knob: &String| knob.starts_with("hull.");
        if knobs.iter().any(is_size) {
            let other_shape = shape_name(&numbers.hull) != shape_name(&self.file.hull);
            let all = knobs.iter().filter(|knob| is_size(knob)).count() > 1;
            if other_shape || all {
                numbers.hull = self.file.hull;
            }
        }
        for knob in knobs {
            let Some(value) = self.file.number(knob).filter(|_| self.file.is_described_by(knob)) else {
                if is_size(knob) {
                    continue;
                }
                return vec![Answer::problem(format!("there is no knob `{knob}`"))];
            };
            if let Err(error) = numbers.set_number(knob, value) {
                return vec![Answer::problem(error.to_string()), self.numbers_message()];
            }
        }
        self.change(numbers);
        vec![self.numbers_message()]
    }

    fn take_back(&mut self) -> Vec<Answer> {
        let Some(step) = self.undo.pop() else { return vec![self.numbers_message()] };
        self.redo.push(self.opposite(&step));
        self.put_back(step)
    }

    fn make_again(&mut self) -> Vec<Answer> {
        let Some(step) = self.redo.pop() else { return vec![self.numbers_message()] };
        self.undo.push(self.opposite(&step));
        self.put_back(step)
    }

    /// The step that restores the current value.
    fn opposite(&self, step: &Step) -> Step {
        match step {
            Step::Numbers(_) => Step::Numbers(Box::new(self.numbers().clone())),
            Step::Place(_) => Step::Place(self.draft.clone()),
        }
    }

    /// Restores a step.
    fn put_back(&mut self, step: Step) -> Vec<Answer> {
        self.drag = None;
        match step {
            Step::Numbers(numbers) => {
                self.put(*numbers);
                vec![self.numbers_message()]
            }
            // It was a valid level before.
            Step::Place(draft) => match draft.world() {
                Ok(world) => self.put_place(draft, world),
                Err(why) => vec![Answer::problem(why.to_string())],
            },
        }
    }

    fn start(&mut self, at: &[f32]) -> Vec<Answer> {
        if at.len() < self.dimensions() || !at.iter().all(|part| part.is_finite()) {
            return vec![Answer::problem("expected a point of finite numbers")];
        }
        let at = [at[0], at[1], at.get(2).copied().unwrap_or(0.0)];
        with!(&mut self.live, attempt => attempt.start_at(Vector::from_array(at)));
        vec![self.fresh_frame()]
    }

    fn keep_ghost(&mut self) -> Vec<Answer> {
        if self.ghosts.len() == GHOSTS {
            self.ghosts.remove(0);
        }
        let title = self.numbers().title.clone();
        let (path, every, summary) = with!(&self.live, attempt => {
            let path = attempt.path();
            (picture::path(&path.positions), picture::path_step(path.positions.len()), path.summary)
        });
        self.ghosts.push(Ghost { title, path, every, summary });
        vec![self.ghosts_message()]
    }

    /// Chooses the columns of the following ticks.
    fn plot(&mut self, names: &[String]) -> Vec<Answer> {
        let dimensions = self.dimensions();
        let mut columns = Vec::new();
        for name in names {
            let Some(column) = picture::column(name, dimensions) else {
                return vec![Answer::problem(format!("no column `{name}` can be plotted"))];
            };
            columns.push(column);
        }
        self.columns = columns;
        Vec::new()
    }

    fn series(&self, from: usize, to: usize) -> Answer {
        let from = from.max(to.saturating_sub(LONGEST_SERIES));
        let (dimensions, mut ticks) = (self.dimensions(), Vec::new());
        with!(&self.live, attempt => attempt.each_tick(from..to, |_, row| {
            ticks.push(picture::tick(row, &[], &self.columns, dimensions));
        }));
        Answer::Series(Series {
            columns: self.columns.iter().map(|column| column.name.to_owned()).collect(),
            ticks,
        })
    }

    /// Changes the numbers, with an undo step.
    fn change(&mut self, numbers: TuningFile) {
        if *self.numbers() != numbers {
            self.add_step(Step::Numbers(Box::new(self.numbers().clone())));
            self.put(numbers);
        }
        self.drag = None;
    }

    /// Stores an undo step.
    fn add_step(&mut self, step: Step) {
        if self.undo.len() == STEPS {
            self.undo.remove(0);
        }
        self.undo.push(step);
        self.redo.clear();
    }

    fn dimensions(&self) -> usize {
        match &self.live {
            Live::Plane(_) => Vec2::DIMENSION,
            Live::Space(_) => Vec3::DIMENSION,
        }
    }

    fn put(&mut self, numbers: TuningFile) {
        with!(&mut self.live, attempt => attempt.turn(numbers));
        self.changes += 1;
        self.stale = true;
    }

    /// The figures that should be measured now, if any.
    pub fn next_measuring(&mut self) -> Option<Measuring> {
        if !self.stale || self.measuring {
            return None;
        }
        (self.stale, self.measuring) = (false, true);
        let (dimensions, rate) = (self.dimensions(), with!(&self.live, attempt => attempt.rate()));
        Some(Measuring {
            change: self.changes,
            numbers: self.numbers().clone(),
            file: self.before.is_none().then(|| self.file.clone()),
            dimensions,
            rate,
            figures: self.setting.library.game.figures(),
            replayed: self.replays.then(|| self.live.clone()),
        })
    }

    /// Applies measured figures.
    pub fn measured(&mut self, measured: Measured) -> Vec<Answer> {
        self.measuring = false;
        if measured.before.is_some() {
            self.before = measured.before;
        }
        if measured.change != self.changes {
            self.stale = true;
        }
        let before = self.before.as_ref();
        let kinds = self.setting.library.game.figures();
        let figure = |reading: &rasant_lab::sheet::Reading| {
            let kind = kinds.kind(reading.name);
            Figure {
                name: reading.name,
                unit: reading.unit,
                value: reading.measured,
                file: before.and_then(|sheet| sheet.get(reading.name)),
                meaning: kind.map_or("", |kind| kind.meaning),
                groups: kind.map_or(&[], |kind| kind.groups),
            }
        };
        let figures = measured.figures.readings.iter().map(figure).collect();
        let replayed = measured.replayed.filter(|_| self.replays).map(|one| Answer::Replayed(Box::new(one)));
        std::iter::once(Answer::Figures { figures }).chain(replayed).collect()
    }
}
