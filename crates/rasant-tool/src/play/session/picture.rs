//! A level and a body as the page draws them.

use rasant::level::Shape as Solid;
use rasant::state::FootingKind;
use rasant::{Actions, Controller, Geometry, HullShape, Level, Vector};
use rasant_lab::Row;
use rasant_lab::files::{LevelDraft, LevelFile, shape_name, zone_fields};
use rasant_lab::live::{Attempt, Ticked};
use rasant_lab::trace::{Cell, Column, columns};

use crate::play::messages::{
    Body, ColumnInfo, Debug, DebugContact, DebugTimer, Event, Hull, Maneuver, Outline, Place, PlacePart,
    Shape, Tick, Value, Zone, ZoneKind,
};

/// A point in full precision.
fn exact<V: Vector>(v: V) -> Vec<f64> {
    v.to_array().into_iter().take(V::DIMENSION).map(f64::from).collect()
}

/// A point to be drawn: to a tenth of a millimetre, which makes messages shorter.
fn rounded<V: Vector>(v: V) -> Vec<f64> {
    exact(v).into_iter().map(|part| (part * 1e4).round() / 1e4).collect()
}

/// All of a place that does not move. The pieces of the file come first, in its order;
/// shapes on carriers are where the carriers are now.
pub fn place<V: Geometry>(file: &LevelFile<V>, draft: &LevelDraft) -> Place {
    let mut shapes = Vec::new();
    file.level.each_shape(|shape, tag| {
        shapes.push(Shape {
            outline: outline(&shape),
            surface: tag.surface.0,
            carrier: tag.carrier.map(|carrier| carrier.0),
            one_way: tag.one_way,
        });
    });
    let mut zones = Vec::new();
    file.level.each_zone(|id, zone| {
        let mut kinds: Vec<&'static str> = zone.effects.iter().map(|effect| effect.name()).collect();
        if kinds.is_empty() {
            kinds.push("zone");
        }
        zones.push(Zone {
            name: file.zones.get(usize::from(id.0)).cloned().unwrap_or_default(),
            kinds,
            min: exact(zone.bounds.min),
            max: exact(zone.bounds.max),
        });
    });
    let bounds = file.level.bounds();
    let parts = draft.parts().unwrap_or_default().into_iter();
    Place {
        trial: String::new(),
        title: file.title.clone(),
        dimensions: V::DIMENSION,
        rate: 0,
        shapes,
        zones,
        surfaces: file.looks.iter().map(|look| look.name.clone()).collect(),
        min: exact(bounds.min),
        max: exact(bounds.max),
        kinds: zone_fields::<V>().into_iter().map(|(kind, fields)| ZoneKind { kind, fields }).collect(),
        parts: parts.map(|(part, fields, ride)| PlacePart { part, fields, ride }).collect(),
        columns: plotted(V::DIMENSION)
            .map(|column| ColumnInfo { name: column.name, unit: column.unit })
            .collect(),
        reshaped: false,
        changed: false,
        source: None,
    }
}

/// The columns of a trace that can be plotted over time: all but the time itself, and the
/// events, which are marked in every plot.
fn plotted(dimensions: usize) -> impl Iterator<Item = &'static Column> {
    columns(dimensions).filter(|column| !matches!(column.name, "tick" | "time_s" | "events"))
}

/// The column of that name, if it can be plotted.
pub fn column(name: &str, dimensions: usize) -> Option<&'static Column> {
    plotted(dimensions).find(|column| column.name == name)
}

fn outline<V: Vector>(shape: &Solid<'_, V>) -> Outline {
    let all = |points: &[V]| points.iter().map(|&at| rounded(at)).collect::<Vec<_>>();
    match shape {
        Solid::Ball { centre, radius } => Outline::Ball { centre: rounded(*centre), radius: *radius },
        Solid::Segment { ends, .. } => Outline::Segment { points: all(&ends[..]) },
        Solid::Polygon { points } | Solid::Facet { points, .. } => {
            Outline::Polygon { points: all(&points[..]) }
        }
        Solid::Solid { points, faces } => {
            Outline::Solid { points: all(points), faces: faces.iter().map(|part| u16::from(*part)).collect() }
        }
    }
}

/// Where the carriers have taken what rides on them: each such shape, in the order of
/// [`place`].
pub fn carried<V: Geometry>(level: &Level<V>) -> Vec<Outline> {
    let mut moved = Vec::new();
    level.each_shape(|shape, tag| {
        if tag.carrier.is_some() {
            moved.push(outline(&shape));
        }
    });
    moved
}

/// The body now.
pub fn body<V: Geometry>(attempt: &Attempt<V>) -> Body {
    let body = attempt.body();
    let (state, pose) = (body.state(), body.pose(attempt.blend()));
    let footing = &state.footing;
    let looks = &attempt.file().looks;
    let intent = attempt.intent();
    let stands = footing.kind != FootingKind::None;
    Body {
        at: rounded(pose.position),
        feet: exact(state.position),
        up: exact(pose.up),
        facing: exact(pose.facing),
        velocity: rounded(pose.velocity),
        speed: state.ground_speed(),
        rise: body.velocity().dot(state.up),
        mode: state.mode.to_string(),
        gait: pose.gait.to_string(),
        gait_age: pose.gait_age,
        stride: pose.stride,
        maneuver: pose.maneuver.map(|maneuver| Maneuver {
            name: maneuver.name.to_string(),
            phase: maneuver.phase.to_string(),
            progress: maneuver.progress,
        }),
        spin: pose.spin,
        rolled: pose.rolled,
        lift: pose.lift,
        hover: pose.hover,
        velocity_owner: state.velocity_owner.to_string(),
        facing_owner: state.facing_owner.to_string(),
        footing: footing.kind.to_string(),
        slope: footing.angle(state.up),
        surface: looks.get(usize::from(footing.surface.0)).filter(|_| stands).map(|look| look.name.clone()),
        hull: hull(body),
        steer: intent.safe_steer().into(),
        look: [intent.look.yaw, intent.look.pitch],
        held: intent.held.each().filter_map(Actions::name).collect(),
    }
}

/// What goes on in the body: what it touches, what counts time, and where a jump held and a
/// jump tapped would go from here.
pub fn debug<V: Geometry>(attempt: &Attempt<V>) -> Debug {
    let body = attempt.body();
    let (state, view) = (body.state(), body.debug_view(&attempt.file().level));
    let stands = state.footing.kind != FootingKind::None;
    let contact = |contact: &rasant::controller::DebugContact<V>| DebugContact {
        point: rounded(contact.point),
        normal: rounded(contact.normal),
        gap: contact.gap,
    };
    Debug {
        step: body.tuning.slope.step_height,
        snap: body.tuning.slope.ground_snap,
        steered: rounded(body.steered(&attempt.intent())),
        normal: stands.then(|| rounded(state.footing.normal)),
        ground: stands.then(|| rounded(state.position + state.footing.point)),
        contacts: view.contacts.iter().map(contact).collect(),
        timers: view
            .timers
            .iter()
            .map(|timer| DebugTimer { name: timer.name, seconds: timer.seconds })
            .collect(),
        arcs: attempt.arcs().map(|arc| path(&arc)),
    }
}

fn hull<V: Geometry>(body: &Controller<V>) -> Hull {
    let hull = body.present_hull();
    let (width, height, depth, rounding) = match hull.shape() {
        HullShape::Capsule { radius, height } => (2.0 * radius, height, 2.0 * radius, radius),
        HullShape::Ball { radius } => (2.0 * radius, 2.0 * radius, 2.0 * radius, radius),
        HullShape::Box { width, depth, height, rounding } => (width, height, depth, rounding),
    };
    let middle = hull.middle::<V>().height();
    let standing = body.hull.height();
    Hull { shape: shape_name(&hull), width, height, depth, rounding, middle, standing }
}

/// A tick, with the columns that are plotted.
pub fn tick(row: &Row, refused: &[String], columns: &[&'static Column], dimensions: usize) -> Tick {
    let drawn = |at: [f32; 3]| at[..dimensions].iter().map(|part| f64::from(*part)).collect::<Vec<_>>();
    let mut refused = refused.iter();
    let events = row.events.iter().map(|event| Event {
        name: event.name,
        detail: event.detail.clone(),
        words: if event.name == "refused" { refused.next().cloned() } else { None },
        at: drawn(event.position),
        speed: event.speed,
    });
    let value = |cell: Cell| cell.number().map_or_else(|| Value::Text(cell.to_string()), Value::Number);
    Tick {
        tick: row.tick,
        feet: drawn(row.position),
        height: row.hull_height,
        mode: row.mode.to_string(),
        maneuver: row.in_maneuver,
        events: events.collect(),
        values: columns.iter().map(|column| value(column.of(row, dimensions))).collect(),
    }
}

/// The ticks of a frame.
pub fn ticks(ticked: &[Ticked], columns: &[&'static Column], dimensions: usize) -> Vec<Tick> {
    ticked.iter().map(|one| tick(&one.row, &one.refused, columns, dimensions)).collect()
}

/// How many ticks there are between two points of a thinned path.
pub fn path_step(ticks: usize) -> usize {
    const MOST: usize = 600;
    ticks.div_ceil(MOST).max(1)
}

/// A path, thinned to some hundred points.
pub fn path<V: Vector>(positions: &[V]) -> Vec<Vec<f64>> {
    let every = path_step(positions.len());
    positions.iter().step_by(every).chain(positions.last()).map(|&at| rounded(at)).collect()
}
