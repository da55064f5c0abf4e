//! Trial files.
//!
//! ```toml
//! title = "Across the first roof"
//! level = "first-roofs.toml"      # beside this file
//! tuning = "lamplighter.toml"     # or a [tuning] table
//! start = [1.0, 4.0]              # the middle of the underside
//! rate = 60                       # ticks a second
//! duration = 8.0                  # seconds
//! script = """
//! at 0.5 s: steer right for 3 s
//! at 1.2 s: press jump for 0.2 s
//! """
//! # or a recording, beside this file
//! # tape = "first-roof.tape"
//!
//! [[expect]]
//! figure = "highest"
//! is = 1.9
//! within = 0.01
//! ```

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use rasant::crowd::BodyId;
use rasant::state::{EVENTS, Name};
use rasant::{Clock, Crowd, CrowdBody, Geometry, Tape};

use rasant_files::geometry::around;
use rasant_files::table::{Embedded, Table, Value, parse};
use rasant_files::{
    Files, LevelDraft, LevelFile, Problem, RootTrack, Source, TuningFile, World, beside, found_start,
    level_source, overlap_at, read_level, read_root_track, renamed,
};

mod bodies;
mod words;

use crate::expect::{Expectation, Figure, MEASURES};
use crate::played::Run;
use crate::script::{Circumstance, Command, Fact, Script, ScriptError, Situation, Start, Step, Target};
pub use bodies::{Inputs, MOST_BODIES, Meets, OtherBody, PLAYER};
use bodies::{Written, tuning_in};
use words::Words;

/// A level, a tuning, a start and inputs.
#[derive(Clone, Debug)]
pub struct Trial {
    /// The title.
    pub title: String,
    /// The level.
    pub world: World,
    /// The tuning of the body.
    pub tuning: TuningFile,
    /// Where the middle of the underside starts; z is 0 in two dimensions.
    pub start: [f32; 3],
    /// Ticks per second.
    pub rate: u32,
    /// The duration, in seconds.
    pub duration: f32,
    /// The inputs.
    pub inputs: Inputs,
    /// How the body meets others.
    pub meets: Meets,
    /// The other bodies.
    pub others: Vec<OtherBody>,
    /// The tracks of animations that its script uses.
    pub tracks: BTreeMap<Name, RootTrack>,
    /// The expectations.
    pub expectations: Vec<Expectation>,
}

impl Trial {
    /// A trial of 10 s at 60 ticks per second with one body, no inputs and no expectations.
    #[must_use]
    pub fn of(world: World, tuning: TuningFile, start: [f32; 3]) -> Self {
        let title = match &world {
            World::Plane(file) => file.title.clone(),
            World::Space(file) => file.title.clone(),
        };
        Self {
            title,
            world,
            tuning,
            start,
            rate: 60,
            duration: 10.0,
            inputs: Inputs::Script(Script::default()),
            meets: Meets::default(),
            others: Vec::new(),
            tracks: BTreeMap::new(),
            expectations: Vec::new(),
        }
    }

    /// The trial with another tuning.
    #[must_use]
    pub fn with_tuning(&self, tuning: TuningFile) -> Self {
        Self { tuning, ..self.clone() }
    }

    /// How deep its body would start inside something and what that is, a piece or another body, if
    /// it would.
    #[must_use]
    pub fn starts_inside(&self) -> Option<(f32, String)> {
        let start = self.start;
        let in_piece =
            overlap_in(&self.world, start, &self.tuning).map(|(depth, _)| (depth, "a piece".to_owned()));
        in_piece.or_else(|| match &self.world {
            World::Plane(_) => self.starts_in_a_body::<rasant::glam::Vec2>(),
            World::Space(_) => self.starts_in_a_body::<rasant::glam::Vec3>(),
        })
    }

    /// How deep its body would start inside another one, and the name of that.
    fn starts_in_a_body<V: Geometry>(&self) -> Option<(f32, String)> {
        let (crowd, ids) = self.crowd::<V>();
        let (own, others) = ids.split_first()?;
        others.iter().zip(&self.others).find_map(|(id, other)| {
            let depth = -crowd.gap(*own, *id)?;
            (depth > 0.0).then(|| (depth, format!("\"{}\"", other.name)))
        })
    }

    /// The bodies at their starts with their ids: the trial's own first, then the others in their
    /// order. `V` is a vector of the trial's dimension.
    #[must_use]
    pub fn crowd<V: Geometry>(&self) -> (Crowd<V>, Vec<BodyId>) {
        let mut crowd = Crowd::new();
        let up: V = self.world.up_axis().direction();
        let own = (&self.meets, self.meets.body(&self.tuning, self.start, up));
        let others =
            self.others.iter().map(|other| (&other.meets, other.meets.body(&other.tuning, other.start, up)));
        let (meets, bodies): (Vec<&Meets>, Vec<CrowdBody<V>>) = [own].into_iter().chain(others).unzip();
        // Trials have fewer bodies than a crowd can have, and numbers are checked where they are read.
        let ids: Vec<BodyId> = bodies.into_iter().filter_map(|body| crowd.add(body).ok()).collect();
        for (id, meets) in ids.iter().zip(meets) {
            let pulled = meets.pulls.as_deref().and_then(|name| self.number_of(name));
            crowd[*id].pulls = pulled.map(|number| ids[number]);
        }
        (crowd, ids)
    }

    /// The number of the body with a name: 0 for the trial's own.
    fn number_of(&self, name: &str) -> Option<usize> {
        match name {
            PLAYER => Some(0),
            _ => self.others.iter().position(|other| *other.name == *name).map(|place| place + 1),
        }
    }

    /// Every pair of a body and another one between which the scripts or the expectations need the
    /// gap: indices, 0 for the trial's own body.
    pub(crate) fn gaps(&self) -> Vec<(usize, usize)> {
        let number = |name: &str| self.number_of(name);
        let scripts = std::iter::once(&self.inputs).chain(self.others.iter().map(|other| &other.inputs));
        let in_scripts = scripts.enumerate().flat_map(|(own, inputs)| {
            let Inputs::Script(script) = inputs else { return Vec::new() };
            let names = script.steps().iter().flat_map(Step::circumstances).flat_map(Circumstance::gaps);
            names.filter_map(|name| Some((own, number(name)?))).collect()
        });
        let in_expectations = self.expectations.iter().flat_map(|one| {
            let own = one.body.as_deref().and_then(number).unwrap_or(0);
            one.gaps().filter_map(|name| Some((own, number(name)?))).collect::<Vec<_>>()
        });
        let mut all: Vec<(usize, usize)> = in_scripts.chain(in_expectations).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// 2 or 3.
    #[must_use]
    pub fn dimensions(&self) -> usize {
        match &self.world {
            World::Plane(_) => 2,
            World::Space(_) => 3,
        }
    }
}

/// Reads a trial file and the files that it refers to.
///
/// # Errors
/// A [`Problem`] with any of the files, with any key or value in them, or if the body would start
/// inside a piece.
pub fn read_trial(files: &dyn Files, path: &Path) -> Result<Trial, Problem> {
    let source = Source { name: path.display().to_string().into(), text: files.read(path)?.into() };
    parse(&source, |table| trial_of(table, files, path))
}

/// A trial for playing, with the text of its level.
#[derive(Clone, Debug)]
pub struct Place {
    /// The trial.
    pub trial: Trial,
    /// The level file; `None` for a file of geometry alone.
    pub level: Option<PathBuf>,
    /// That file, or the file of geometry. The paths in the draft are relative to it.
    pub base: PathBuf,
    /// The text of that file, with the files that it refers to.
    pub draft: LevelDraft,
}

/// Reads a trial, or a level, which becomes a trial without inputs: a body of the default tuning
/// that starts where it can stand.
///
/// # Errors
/// A [`Problem`] with the file or those that it refers to.
pub fn read_place(files: &dyn Files, path: &Path) -> Result<Place, Problem> {
    let source = level_source(files, path)?;
    // A file that is neither is read as a trial, to report what is wrong with it.
    let is_level = parse(&source, |mut table| Ok(PARTS.iter().any(|part| table.get(part).is_some())))?;
    if !is_level {
        let trial = read_trial(files, path)?;
        let level = parse(&source, |mut table| {
            Ok(beside(path, table.need("level", "the path of a level file")?.text()?))
        })?;
        let (draft, _) = LevelDraft::read(files, &level)?;
        let base = level.clone();
        return Ok(Place { trial, draft, level: is_written(&level).then_some(level), base });
    }
    let (draft, world) = LevelDraft::read(files, path)?;
    let tuning = files.game().tuning_file();
    let tuning = tuning.scaled(world.scale()).unwrap_or(tuning);
    let start = match &world {
        World::Plane(file) => first_place(file, &tuning),
        World::Space(file) => first_place(file, &tuning),
    };
    let trial = Trial::of(world, tuning, start);
    Ok(Place { trial, draft, level: is_written(path).then(|| path.to_owned()), base: path.to_owned() })
}

/// The piece of a level that a body would overlap most at `start`, with the depth.
fn overlap_in(world: &World, start: [f32; 3], tuning: &TuningFile) -> Option<(f32, u32)> {
    match world {
        World::Plane(file) => overlap_at(rasant::Vector::from_array(start), file, tuning),
        World::Space(file) => overlap_at(rasant::Vector::from_array(start), file, tuning),
    }
}

/// A level's own start, for a body that does not overlap a piece there.
fn own_start(
    start: [f32; 3],
    table: &Table<'_>,
    world: &World,
    tuning: &TuningFile,
) -> Result<[f32; 3], Problem> {
    match overlap_in(world, start, tuning) {
        None => Ok(start),
        Some((depth, piece)) => {
            let found = format!("the level's own start would be {depth} m inside piece {piece}");
            Err(table.problem(found).expecting("`start`: a point outside of every piece"))
        }
    }
}

/// Where a body starts: where the level says, or where it can stand.
fn first_place<V: Geometry>(file: &LevelFile<V>, tuning: &TuningFile) -> [f32; 3] {
    file.start.map_or_else(|| found_start(file, tuning), V::to_array)
}

/// Returns true if a level has a text of its own.
fn is_written(level: &Path) -> bool {
    around(level).is_none()
}

/// Keys of levels that trials do not have.
pub(crate) const PARTS: [&str; 7] = ["dimensions", "piece", "zone", "mesh", "heights", "tiles", "geometry"];

/// Writes a trial that plays a recording, with the results of its run as expectations: lengths
/// within a centimetre, times within two ticks, exact counts.
///
/// `level`, `tuning` and `tape` are paths relative to the trial's folder, and so are those of the
/// other bodies: the tuning of each, and its recording unless it follows its script.
#[must_use]
pub fn write_recorded_trial(
    trial: &Trial,
    run: &Run,
    (level, tuning, tape): (&str, &str, &str),
    others: &[(String, Option<String>)],
) -> String {
    let quoted = |text: &str| toml::Value::from(text).to_string();
    let dimensions = run.trace.dimensions;
    let start: Vec<String> = trial.start[..dimensions].iter().map(f32::to_string).collect();
    let mut text = format!(
        "title = {}\nlevel = {}\ntuning = {}\ntape = {}\nstart = [{}]\n",
        quoted(&run.summary.title),
        quoted(level),
        quoted(tuning),
        quoted(tape),
        start.join(", ")
    );
    text += &trial.meets.text();
    for (body, (tuning, tape)) in trial.others.iter().zip(others) {
        text += &bodies::table_text(body, tuning, tape.as_deref(), dimensions);
    }
    for measure in MEASURES {
        let is = measure.of(&run.summary);
        if !is.is_finite() || !measure.is_in(dimensions) {
            continue;
        }
        let within = if measure.unit == "s" {
            2.0 / f64::from(run.trace.rate)
        } else {
            0.01 * f64::from(run.summary.scale)
        };
        text += &format!("\n[[expect]]\nfigure = \"{}\"\nis = {is:.3}\nwithin = {within:.3}\n", measure.name);
    }
    let crushed = run.trace.rows.iter().flat_map(|row| &row.events).filter(|event| event.name == "crushed");
    let counts =
        [("jumped", run.summary.jumps), ("landed", run.summary.landings), ("crushed", crushed.count())];
    for (event, count) in counts {
        text += &format!("\n[[expect]]\ncount = \"{event}\"\nis = {count}\n");
    }
    text
}

/// The maximum number of ticks of a trial: four and a half hours at 60 per second.
pub(crate) const MOST_TICKS: usize = 1_000_000;

fn trial_of(mut table: Table<'_>, files: &dyn Files, path: &Path) -> Result<Trial, Problem> {
    let title = table.get("title").map(Value::line).transpose()?.unwrap_or("untitled").to_owned();
    let level = table.need("level", "the path of a level file")?.text()?;
    let mut world = read_level(files, &beside(path, level))?;
    let named_tuning = table.need("tuning", "the path of a tuning file, or a [tuning] table")?;
    let tuning = tuning_in(named_tuning, files, path)?;
    suited(&mut world, &tuning, named_tuning)?;
    let pulls = table.get("pulls");
    let meets = Meets::read(&mut table)?;
    let mut written = Vec::new();
    let mut names = vec![Arc::from(PLAYER)];
    for table in table.tables("body")? {
        let one = match &world {
            World::Plane(_) => written_body::<rasant::glam::Vec2>(table, &names, &tuning, files, path)?,
            World::Space(_) => written_body::<rasant::glam::Vec3>(table, &names, &tuning, files, path)?,
        };
        for body in &one.bodies {
            suited(&mut world, &body.tuning, one.start)?;
        }
        names.extend(one.bodies.iter().map(|body| Arc::clone(&body.name)));
        if names.len() > MOST_BODIES + 1 {
            let message = format!("there are {} other bodies", names.len() - 1);
            return Err(one.start.problem(message).expecting(format!("at most {MOST_BODIES}")));
        }
        written.push(one);
    }
    let words = Words::of(&world, &files.game(), &names);
    for value in written.iter().filter_map(|one| one.pulls).chain(pulls) {
        let name = value.text()?;
        words.check_body(name).map_err(|(wrong, expected)| value.problem(wrong).expecting(expected))?;
    }
    let own = match &world {
        World::Plane(file) => file.start.map(rasant::Vector::to_array),
        World::Space(file) => file.start.map(rasant::Vector::to_array),
    };
    let start = match (table.get("start"), own) {
        (None, Some(own)) => own_start(own, &table, &world, &tuning)?,
        (start, _) => {
            let expected = "a point: the middle of the underside";
            let start = start.map_or_else(|| table.need("start", expected), Ok)?;
            match &world {
                World::Plane(file) => clear_start(start, file, &tuning)?,
                World::Space(file) => clear_start(start, file, &tuning)?,
            }
        }
    };
    let given_rate = match table.get("rate") {
        Some(value) => {
            let rate = value.whole_in(1..=10_000, "ticks a second")?;
            Some(Clock::new(rate).map_err(|error| value.problem(error.to_string()))?.rate())
        }
        None => None,
    };
    let tracks = tracks_of(&mut table, files, path)?;
    let script = table.get("script");
    let recorded = match table.get("tape") {
        Some(value) if script.is_some() => {
            return Err(value.problem("there is a script as well").expecting("either a script or a tape"));
        }
        Some(value) => Some((value, tape_of(value, files, path, given_rate)?)),
        None => None,
    };
    let rate = given_rate.or(recorded.as_ref().map(|(_, (_, rate))| *rate)).unwrap_or(60);
    let stated = match &recorded {
        Some(_) => table.get("duration"),
        None => Some(table.need("duration", "a time in seconds")?),
    };
    let recorded_for = recorded.as_ref().map_or(0.0, |(_, (tape, _))| tape.len() as f32 / rate as f32);
    let duration = stated.map_or(Ok(recorded_for.max(0.01)), |value| value.number_in(0.01..=3600.0, "s"))?;
    let ticks = f64::from(duration) * f64::from(rate);
    if ticks > MOST_TICKS as f64 {
        let what = format!("{duration} s at {rate} ticks/s are {ticks:.0} ticks");
        let problem = stated.map_or_else(|| table.problem(what.clone()), |value| value.problem(what.clone()));
        return Err(problem.expecting(format!("at most {MOST_TICKS}")));
    }
    let inputs = match recorded {
        Some((_, (tape, _))) => Inputs::Tape(tape),
        None => Inputs::Script(
            script.map(|value| script_of(value, &words, &tracks, duration)).transpose()?.unwrap_or_default(),
        ),
    };
    let expectations = table
        .tables("expect")?
        .into_iter()
        .map(|table| expectation_of(table, &words, duration))
        .collect::<Result<_, _>>()?;
    let mut others = Vec::new();
    let mut second: Option<Value<'_>> = None;
    for Written { mut bodies, start, script, tape, .. } in written {
        let inputs = match (script, tape) {
            (_, Some(value)) => Inputs::Tape(tape_of(value, files, path, Some(rate))?.0),
            (Some(value), None) => Inputs::Script(script_of(value, &words, &tracks, duration)?),
            (None, None) => Inputs::Script(Script::default()),
        };
        for body in &mut bodies {
            body.inputs = inputs.clone();
        }
        let seats = bodies.iter().filter(|body| body.is_second_player).count();
        if seats > 1 || (seats == 1 && second.is_some()) {
            return Err(start.problem("more than one body is the second player's").expecting("at most one"));
        }
        if seats == 1 {
            second = Some(start);
        }
        others.extend(bodies.into_iter().map(|body| (body, start)));
    }
    table.finish()?;
    let (others, starts): (Vec<OtherBody>, Vec<Value<'_>>) = others.into_iter().unzip();
    let trial =
        Trial { title, world, tuning, start, rate, duration, inputs, meets, others, tracks, expectations };
    match &trial.world {
        World::Plane(_) => check_starts::<rasant::glam::Vec2>(&trial, &starts)?,
        World::Space(_) => check_starts::<rasant::glam::Vec3>(&trial, &starts)?,
    }
    Ok(trial)
}

/// Checks that a tuning is one of the level's world.
fn suited(world: &mut World, tuning: &TuningFile, at: Value<'_>) -> Result<(), Problem> {
    world.suit(tuning).map_err(|error| at.problem(error.to_string()).expecting(error.expected()))
}

/// Reads a `[[body]]` table with its tuning.
fn written_body<'a, V: Geometry>(
    table: Table<'a>,
    names: &[Arc<str>],
    own: &TuningFile,
    files: &dyn Files,
    path: &Path,
) -> Result<Written<'a>, Problem> {
    bodies::written::<V>(table, names, own, |value| tuning_in(value, files, path))
}

/// Checks that no body starts inside a piece or another body.
fn check_starts<V: Geometry>(trial: &Trial, starts: &[Value<'_>]) -> Result<(), Problem> {
    let (crowd, ids) = trial.crowd::<V>();
    for (number, (other, start)) in trial.others.iter().zip(starts).enumerate() {
        if let Some((depth, piece)) = overlap_in(&trial.world, other.start, &other.tuning) {
            let found = format!("\"{}\" would start {depth:.3} m inside piece {piece}", other.name);
            return Err(start.problem(found).expecting("a start outside every piece"));
        }
        let own = ids[number + 1];
        for (before, id) in ids[..=number].iter().enumerate() {
            let gap = crowd.gap(own, *id).unwrap_or(f32::INFINITY);
            if gap < 0.0 {
                let name = before.checked_sub(1).map_or(PLAYER, |place| &*trial.others[place].name);
                let found = format!("\"{}\" would start {:.3} m inside \"{name}\"", other.name, -gap);
                return Err(start.problem(found).expecting("a start outside every other body"));
            }
        }
    }
    Ok(())
}

/// Reads an expectation: one figure, optionally `while` something holds, and `is` with `within`,
/// `at_least` or `at_most`; or `always` something.
fn expectation_of(mut table: Table<'_>, words: &Words, duration: f32) -> Result<Expectation, Problem> {
    let mut figures = Vec::new();
    if let Some(value) = table.get("figure") {
        let measures = MEASURES.iter().filter(|one| one.is_in(words.dimensions));
        let summary = measures.map(|one| (one.name, Figure::Summary(one)));
        let known: Vec<(&str, Figure)> = Figure::ALONE.into_iter().chain(summary).collect();
        let choices: Vec<(&str, usize)> =
            known.iter().enumerate().map(|(number, (name, _))| (*name, number)).collect();
        figures.push(known[value.choice(&choices)?].1.clone());
    }
    if let Some(value) = table.get("count") {
        figures.push(Figure::Count(event_named(value, words)?));
    }
    if let Some(value) = table.get("time_to") {
        figures.push(Figure::TimeTo(event_or_circumstance(value, words)?));
    }
    for (key, figure) in [("least_gap", Figure::LeastGap as fn(_) -> _), ("most_gap", Figure::MostGap)] {
        if let Some(value) = table.get(key) {
            figures.push(figure(body_named(value, words)?));
        }
    }
    let body = table.get("body").map(|value| body_named(value, words)).transpose()?;
    let always = table.get("always").map(|value| circumstance_of(value, words)).transpose()?;
    if let Some(circumstance) = &always {
        figures.push(Figure::Always(circumstance.clone()));
    }
    let meanwhile = table.get("while").map(|value| circumstance_of(value, words)).transpose()?;
    let figure = match figures.len() {
        1 => figures.remove(0),
        count => {
            let message = format!("found {count} figures");
            return Err(table
                .problem(message)
                .expecting("one of `figure`, `count`, `time_to`, `always`, `least_gap`, `most_gap`"));
        }
    };
    let part = table.get("while");
    if let Some(part) = part.filter(|_| !figure.is_of_a_part()) {
        let message = format!("{} is measured over the whole run", figure.name());
        return Err(part
            .problem(message)
            .expecting("no `while`, or `count`, `time_to`, `always`, a gap, slowest or quickest"));
    }
    let (least, most) = bounds_of(&mut table, &figure, duration)?;
    table.finish()?;
    Ok(Expectation { body, figure, meanwhile, least, most })
}

/// The name of a body of the trial.
fn body_named(value: Value<'_>, words: &Words) -> Result<Arc<str>, Problem> {
    let name = value.text()?;
    words.check_body(name).map_err(|(wrong, expected)| value.problem(wrong).expecting(expected))?;
    Ok(name.into())
}

/// The smallest and the largest value that a figure may have: bounds that some runs keep and some
/// do not.
fn bounds_of(table: &mut Table<'_>, figure: &Figure, duration: f32) -> Result<(f64, f64), Problem> {
    let values = ["is", "within", "at_least", "at_most"].map(|key| table.get(key));
    let numbers = values.map(|value| value.map(|value| value.number().map(f64::from)).transpose());
    let [is, within, at_least, at_most] = numbers;
    let (is, within, at_least, at_most) = (is?, within?, at_least?, at_most?);
    // A problem with the bound at an index.
    let wrong = |place: usize, what: String| {
        values[place].map_or_else(|| table.problem(what.clone()), |value| value.problem(what.clone()))
    };
    let (least, most) = match (is, within, at_least, at_most) {
        (None, None, None, None) if matches!(figure, Figure::Always(_)) => (1.0, 1.0),
        (Some(_), Some(within), ..) if within < 0.0 => {
            return Err(wrong(1, format!("nothing is within {within}")).expecting("a number from 0"));
        }
        (Some(is), None, None, None) if !figure.can_be_just(is) => {
            let what = format!("{} is measured, and never exactly {is}", figure.name());
            return Err(wrong(0, what).expecting("`within` beside it"));
        }
        (Some(is), within, None, None) => {
            let within = within.unwrap_or(0.0);
            (is - within, is + within)
        }
        (None, None, None, None) | (Some(_), ..) | (_, Some(_), ..) => {
            return Err(table
                .problem("an expectation needs one bound")
                .expecting("`is` (and `within`), or `at_least`, `at_most` or both"));
        }
        (None, None, least, most) => (least.unwrap_or(f64::NEG_INFINITY), most.unwrap_or(f64::INFINITY)),
    };
    let (lowest, highest) = figure.possible();
    let stated = values.iter().position(Option::is_some).unwrap_or(0);
    let refuse = |what: &str| {
        let name = figure.name();
        let range = match (lowest.is_finite(), highest.is_finite()) {
            (true, true) => format!("a bound between {lowest} and {highest}, the range of {name}"),
            _ => format!("a bound above {lowest}, the lowest value of {name}"),
        };
        wrong(stated, what.to_owned()).expecting(range)
    };
    if least > most {
        let what = format!("no number is at least {least} and at most {most}");
        return Err(wrong(2, what).expecting("`at_least` below `at_most`"));
    }
    let longest = f64::from(duration);
    if figure.unit() == "s" && (least > longest || (most.is_finite() && most > longest && least <= lowest)) {
        let what = format!("the trial ends at {duration} s");
        return Err(wrong(stated, what).expecting("a time before that"));
    }
    if most < lowest || least > highest {
        return Err(refuse("this can never hold"));
    }
    if least <= lowest && most >= highest && lowest.is_finite() {
        return Err(refuse("this always holds"));
    }
    Ok((least, most))
}

/// The name of an event, with or without its detail.
fn event_named(value: Value<'_>, words: &Words) -> Result<String, Problem> {
    let name = value.text()?;
    let event = name.split(' ').next().unwrap_or("");
    if event == "maneuver-phase"
        && let Some(new) = name.split(' ').skip(1).find_map(renamed)
    {
        let problem = value.problem(format!("there is no such phase in \"{name}\""));
        return Err(problem.expecting(format!("`{new}`, its new name")));
    }
    if EVENTS.contains(&event) {
        check_event(name, words, |message| value.problem(message))?;
        return Ok(name.to_owned());
    }
    Err(value.unknown(&format!("there is no event \"{event}\""), event, EVENTS.iter().copied()))
}

/// The name of an event is that event; anything else is a circumstance.
fn event_or_circumstance(value: Value<'_>, words: &Words) -> Result<Circumstance, Problem> {
    let text = value.text()?;
    let reads_as_name = text.split(' ').next().is_some_and(|first| first.contains('-') || text == first);
    if words.vocabulary.states().contains(&text) || !(reads_as_name || event_named(value, words).is_ok()) {
        return circumstance_of(value, words);
    }
    let on = Situation::On(event_named(value, words)?);
    Ok(Circumstance { facts: vec![Fact { not: false, situation: on }] })
}

fn circumstance_of(value: Value<'_>, words: &Words) -> Result<Circumstance, Problem> {
    let text = value.embedded()?;
    let circumstance =
        Circumstance::parse(text.text, &words.vocabulary).map_err(|error| misread(text, error))?;
    let checked = words.check_circumstance(&circumstance);
    checked.map_err(|(wrong, expected)| value.problem(wrong).expecting(expected))?;
    Ok(circumstance)
}

/// An error in an embedded text.
fn misread(text: Embedded<'_>, error: ScriptError) -> Problem {
    let (span, message, expected) = error.into_parts();
    text.problem(span, message).expecting(expected)
}

/// The tracks of animations: `[tracks.bow]` with a `file` and the `animation` in it.
fn tracks_of(
    table: &mut Table<'_>,
    files: &dyn Files,
    path: &Path,
) -> Result<BTreeMap<Name, RootTrack>, Problem> {
    let mut tracks = BTreeMap::new();
    let Some(mut named) = table.table("tracks")? else { return Ok(tracks) };
    for (name, value) in named.rest() {
        let key = name.parse::<Name>().map_err(|error| value.problem(error.to_string()))?;
        let mut track = value.table(format!("tracks.{name}"))?;
        let file = track.need("file", "the path of a glTF file")?;
        let animation = track.need("animation", "the name of an animation in it")?.text()?;
        track.finish()?;
        tracks.insert(key, read_root_track(files, &beside(path, file.text()?), animation)?);
    }
    Ok(tracks)
}

fn script_of(
    value: Value<'_>,
    words: &Words,
    tracks: &BTreeMap<Name, RootTrack>,
    duration: f32,
) -> Result<Script, Problem> {
    let text = value.embedded()?;
    let mut script = Script::parse(text.text, &words.vocabulary).map_err(|error| misread(text, error))?;
    let place = |line: usize| {
        let start: usize = text.text.split_inclusive('\n').take(line - 1).map(str::len).sum();
        let line = text.text[start..].lines().next().unwrap_or("").trim_end();
        start + (line.len() - line.trim_start().len())..start + line.len()
    };
    let seconds = tracks.iter().map(|(name, track)| (*name, track.duration().into())).collect();
    script.follow(&seconds).map_err(|(line, name)| {
        let known: Vec<&str> = tracks.keys().map(|name| &**name).collect();
        let expected = match &known[..] {
            [] => "a table `[tracks.NAME]` with `file` and `animation`".to_owned(),
            _ => format!("one of: {}", known.join(", ")),
        };
        text.problem(place(line), format!("there is no track `{name}`")).expecting(expected)
    })?;
    for step in script.steps() {
        let at = place(step.line);
        for circumstance in step.circumstances() {
            let checked = words.check_circumstance(circumstance);
            checked.map_err(|(wrong, expected)| text.problem(at.clone(), wrong).expecting(expected))?;
        }
        if let Command::Walk(Target::Body(name)) = &step.what {
            words
                .check_body(name)
                .map_err(|(wrong, expected)| text.problem(at.clone(), wrong).expecting(expected))?;
        }
        if let Command::Host(host) = &step.what {
            let checked = words.check_host(host);
            checked.map_err(|(wrong, expected)| text.problem(at.clone(), wrong).expecting(expected))?;
        }
        if let Start::At(seconds) = step.start
            && seconds >= f64::from(duration)
        {
            let what = format!("{seconds} s is not before the end of the trial");
            return Err(text.problem(at, what).expecting(format!("a time below its duration, {duration} s")));
        }
    }
    Ok(script)
}

/// A problem if no event with that name can happen in a level.
fn check_event(event: &str, words: &Words, problem: impl Fn(String) -> Problem) -> Result<(), Problem> {
    words.check(event).map_err(|wrong| problem(format!("there is no \"{event}\"")).expecting(wrong))
}

/// The recording of a trial, and its rate, which must be the trial's.
fn tape_of(
    value: Value<'_>,
    files: &dyn Files,
    path: &Path,
    given_rate: Option<u32>,
) -> Result<(Tape, u32), Problem> {
    let named = beside(path, value.text()?);
    let text = files.read(&named)?;
    let (tape, rate) = Tape::from_text(&text).map_err(|error| {
        let source = Source { name: named.display().to_string().into(), text: text.as_str().into() };
        let start: usize = text.split_inclusive('\n').take(error.line - 1).map(str::len).sum();
        let length = text[start..].lines().next().map_or(0, str::len);
        Problem::at(&source, start..start + length, format!("found {}", error.found))
            .expecting(error.expected)
    })?;
    match given_rate {
        Some(stated) if stated != rate => {
            Err(value.problem(format!("the tape has {rate} ticks per second, the trial {stated}")))
        }
        _ => Ok((tape, rate)),
    }
}

/// The start, if the body does not overlap a piece there.
fn clear_start<V: Geometry>(
    value: Value<'_>,
    file: &LevelFile<V>,
    tuning: &TuningFile,
) -> Result<[f32; 3], Problem> {
    let start: V = value.vector()?;
    match overlap_at(start, file, tuning) {
        Some((depth, piece)) => Err(value
            .problem(format!("the body would start {depth:.3} m inside piece {piece}"))
            .expecting("a start outside every piece")),
        None => Ok(start.to_array()),
    }
}
