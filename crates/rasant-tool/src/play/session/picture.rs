//! A level and a body as the page draws them.

use std::collections::HashSet;

use rasant::camera::View;
use rasant::level::{Shape as Solid, Tag};
use rasant::state::FootingKind;
use rasant::{Actions, Controller, Geometry, HullShape, Intent, ManeuverPose, Piece, PieceId, Vector};
use rasant_lab::Row;
use rasant_lab::files::{self, LevelDraft, LevelFile, Part, Parts, shape_name, unit_in, zone_fields};
use rasant_lab::live::{Attempt, Ticked};
use rasant_lab::trace::{Cell, Column, columns};

use crate::play::messages::{
    Arm, Body, Camera, ColumnInfo, Debug, DebugContact, DebugTimer, Event, Hull, Maneuver, Other, Outline,
    PieceEdit, Place, PlacePart, Shape, Tick, Value, Zone, ZoneKind,
};

/// A point in full precision.
fn exact<V: Vector>(v: V) -> Vec<f64> {
    v.to_array().into_iter().take(V::DIMENSION).map(f64::from).collect()
}

/// A point for drawing: rounded to a tenth of a millimetre, which makes messages shorter.
fn rounded<V: Vector>(v: V) -> Vec<f64> {
    exact(v).into_iter().map(|part| (part * 1e4).round() / 1e4).collect()
}

/// Everything in a place that does not move. The pieces of the file come first, in its order.
/// Shapes on carriers are at the current positions of the carriers.
pub fn place<V: Geometry>(file: &LevelFile<V>, draft: &LevelDraft) -> Place {
    let mut shapes = Vec::new();
    each_shape(file, |shape, tag, _| {
        shapes.push(Shape {
            outline: outline(&shape),
            surface: tag.surface.0,
            moves: moves(file, &tag),
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
        scale: file.scale(),
        up: exact(file.up()),
        shapes,
        zones,
        surfaces: file.looks.iter().map(|look| look.name.clone()).collect(),
        min: exact(bounds.min),
        max: exact(bounds.max),
        kinds: zone_fields(&draft.game(), file)
            .into_iter()
            .map(|(kind, fields)| ZoneKind { kind, fields })
            .collect(),
        parts: parts.map(|(part, fields, ride)| PlacePart { part, fields, ride }).collect(),
        columns: plotted(V::DIMENSION)
            .map(|column| ColumnInfo { name: column.name, unit: unit_in(column.unit, file.scale()) })
            .collect(),
        reshaped: false,
        changed: false,
        source: None,
    }
}

/// The columns of a trace that can be plotted over time: all but the time itself, and the events,
/// which are marked in every plot.
fn plotted(dimensions: usize) -> impl Iterator<Item = &'static Column> {
    columns(dimensions).filter(|column| !matches!(column.name, "tick" | "time_s" | "events"))
}

/// The column with this name, if it can be plotted.
pub fn column(name: &str, dimensions: usize) -> Option<&'static Column> {
    plotted(dimensions).find(|column| column.name == name)
}

fn outline<V: Vector>(shape: &Solid<'_, V>) -> Outline {
    let all = |points: &[V]| points.iter().map(|&at| rounded(at)).collect::<Vec<_>>();
    match *shape {
        Solid::Ball { centre, radius } => Outline::Ball { centre: rounded(centre), radius },
        Solid::Segment { ends, .. } => Outline::Segment { points: all(&ends) },
        Solid::Facet { points, .. } => Outline::Polygon { points: all(points) },
        Solid::Solid { points, faces, rounding: 0.0 } => {
            Outline::Solid { points: all(points), faces: faces.iter().map(|part| u16::from(*part)).collect() }
        }
        _ if V::DIMENSION == 2 => {
            let mut points = Vec::new();
            shape.each_outline(|outline| points = all(outline));
            Outline::Polygon { points }
        }
        // What is round, as the solid of its flat faces.
        _ => {
            let (mut points, mut faces) = (Vec::new(), Vec::new());
            shape.each_outline(|outline| {
                faces.push(outline.len() as u16);
                faces.extend((points.len()..points.len() + outline.len()).map(|corner| corner as u16));
                points.extend(all(outline));
            });
            Outline::Solid { points, faces }
        }
    }
}

/// The edits of a level as the page applies them. `None` if the whole place has to be sent.
pub fn edits<V: Geometry>(
    file: &LevelFile<V>,
    draft: &LevelDraft,
    edits: &[files::PieceEdit],
) -> Option<Vec<PieceEdit>> {
    let pieces = file.part_ids().len();
    let sent = |number: usize, before: usize| {
        let id = *file.part_ids().get(number)?;
        let piece = file.level.piece(id)?;
        let Piece { surface, carrier, one_way, .. } = piece;
        if carrier.is_some() {
            return None;
        }
        let shape = Shape { outline: outline(&piece.shape()), surface: surface.0, moves: false, one_way };
        let fields = draft.piece_fields(number, pieces)?;
        let part = PlacePart { part: Part { of: Parts::Piece, number }, fields, ride: None };
        Some(PieceEdit { number, before, shape: Some(shape), part: Some(part) })
    };
    // Of several edits only the last state is known, so that numbers must not change between them.
    let moves = |edit: &files::PieceEdit| !matches!(edit, files::PieceEdit::Set(_));
    if edits.len() > 1 && edits.iter().any(moves) {
        return None;
    }
    let of = |edit: &files::PieceEdit| match *edit {
        files::PieceEdit::Set(number) => sent(number, 1),
        files::PieceEdit::Added(number) => sent(number, 0),
        files::PieceEdit::Removed(number) => Some(PieceEdit { number, before: 1, shape: None, part: None }),
    };
    edits.iter().map(of).collect()
}

/// Returns true if a shape rides on a carrier, or may vanish.
fn moves<V: Geometry>(file: &LevelFile<V>, tag: &Tag) -> bool {
    tag.carrier.is_some() || file.mechanisms.may_vanish(tag.piece)
}

/// Calls `seen` with every shape of a level, and whether it is there: first those of the parts of the
/// file in their order, then the others in the order of their ids.
fn each_shape<V: Geometry>(file: &LevelFile<V>, mut seen: impl FnMut(Solid<'_, V>, Tag, bool)) {
    let parts = file.part_ids();
    // Parts that were added by hand have higher ids than what the file has beside its parts.
    if parts.iter().zip(0..).all(|(part, place)| part.0 == place) {
        return each_by_id(file, seen);
    }
    let is_part: HashSet<u32> = parts.iter().map(|part| part.0).collect();
    for part in parts {
        let removed = || Some(file.mechanisms.removed().find(|(id, _)| id == part)?.1.clone());
        let (piece, is_there) = (file.level.piece(*part), file.level.piece(*part).is_some());
        if let Some(piece) = piece.or_else(removed) {
            let Piece { surface, carrier, one_way, .. } = piece;
            let tag = Tag { piece: *part, surface, carrier, one_way };
            let placement = carrier.map(|carrier| file.level.carrier(carrier).ride().to);
            piece.with_shape_at(placement.unwrap_or_default(), |shape| seen(shape, tag, is_there));
        }
    }
    each_by_id(file, |shape, tag, is_there| {
        if !is_part.contains(&tag.piece.0) {
            seen(shape, tag, is_there);
        }
    });
}

/// Calls `seen` with every shape of a level in the order of the pieces, and whether it is there.
fn each_by_id<V: Geometry>(file: &LevelFile<V>, mut seen: impl FnMut(Solid<'_, V>, Tag, bool)) {
    let mut removed = file.mechanisms.removed().peekable();
    let mut offer_removed = |up_to: Option<PieceId>, seen: &mut dyn FnMut(Solid<'_, V>, Tag, bool)| {
        while let Some((id, piece)) = removed.next_if(|(id, _)| up_to.is_none_or(|up_to| id.0 < up_to.0)) {
            let Piece { surface, carrier, one_way, .. } = *piece;
            let tag = Tag { piece: id, surface, carrier, one_way };
            match piece.shape() {
                Solid::Mesh { mesh, .. } => mesh.each(|triangle, _| seen(triangle, tag, false)),
                shape => seen(shape, tag, false),
            }
        }
    };
    file.level.each_shape(|shape, tag| {
        offer_removed(Some(tag.piece), &mut seen);
        seen(shape, tag, true);
    });
    offer_removed(None, &mut seen);
}

/// The current outlines of the shapes that move, in the order of [`place`].
pub fn carried<V: Geometry>(file: &LevelFile<V>) -> Vec<Outline> {
    let mut moved = Vec::new();
    each_shape(file, |shape, tag, is_there| {
        if moves(file, &tag) {
            let nothing = || match V::DIMENSION {
                2 => Outline::Polygon { points: Vec::new() },
                _ => Outline::Solid { points: Vec::new(), faces: Vec::new() },
            };
            moved.push(if is_there { outline(&shape) } else { nothing() });
        }
    });
    moved
}

/// The player's body.
pub fn body<V: Geometry>(attempt: &Attempt<V>) -> Body {
    drawn(attempt, attempt.body(), &attempt.intent())
}

/// The camera that follows the player's body.
pub fn camera<V: Geometry>(attempt: &Attempt<V>) -> Camera {
    let (focus, view) = attempt.view();
    let arm = |view: View| Arm { eye: view.eye.into(), ahead: view.ahead.into(), up: view.up.into() };
    Camera { focus: rounded(focus), arm: view.map(arm) }
}

fn maneuver(pose: ManeuverPose) -> Maneuver {
    Maneuver { name: pose.name.to_string(), phase: pose.phase.to_string(), progress: pose.progress }
}

/// The other bodies of the trial.
pub fn others<V: Geometry>(attempt: &Attempt<V>) -> Vec<Other> {
    let second = attempt.second_player();
    let other = |(name, body, intent): (&str, &Controller<V>, Intent)| Other {
        name: name.to_owned(),
        is_second_player: second == Some(name),
        body: drawn(attempt, body, &intent),
    };
    attempt.others().map(other).collect()
}

/// A body after the last tick, which had this intent.
fn drawn<V: Geometry>(attempt: &Attempt<V>, body: &Controller<V>, intent: &Intent) -> Body {
    let (state, pose) = (body.state(), body.pose(attempt.blend()));
    let footing = &state.footing;
    let looks = &attempt.file().looks;
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
        maneuver: pose.maneuver.map(maneuver),
        spin: pose.spin,
        rolled: pose.rolled,
        lift: pose.lift,
        hover: pose.hover,
        motion: pose.motion.into(),
        lean: pose.lean.into(),
        mirror: pose.mirror,
        turn_rate: pose.turn_rate,
        landing: pose.landing,
        overlay: pose.overlay.map(maneuver),
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

/// The inside of the body: its contacts and timers, and the paths of a jump held and a jump tapped
/// from here.
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

/// The number of ticks between two points of a thinned path.
pub fn path_step(ticks: usize) -> usize {
    const MOST: usize = 600;
    ticks.div_ceil(MOST).max(1)
}

/// A path, thinned to a few hundred points.
pub fn path<V: Vector>(positions: &[V]) -> Vec<Vec<f64>> {
    let every = path_step(positions.len());
    positions.iter().step_by(every).chain(positions.last()).map(|&at| rounded(at)).collect()
}
