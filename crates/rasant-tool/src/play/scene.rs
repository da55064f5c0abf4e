//! A level and a body as a page draws them.

use rasant::level::Shape;
use rasant::state::FootingKind;
use rasant::{Controller, Geometry, HullShape, Level, Vector};
use rasant_lab::files::{LevelDraft, LevelFile, zone_fields};
use rasant_lab::live::Attempt;
use serde_json::{Value, json};

fn point<V: Vector>(v: V) -> Value {
    let [x, y, z] = v.to_array();
    if V::DIMENSION == 2 { json!([x, y]) } else { json!([x, y, z]) }
}

/// A point to be drawn: to a tenth of a millimetre, which is shorter to tell.
fn drawn_at<V: Vector>(v: V) -> Value {
    let parts = v.to_array().map(|part| (f64::from(part) * 1e4).round() / 1e4);
    json!(parts[..V::DIMENSION])
}

/// All that stands still in a page's picture: shapes (those on carriers where the
/// carriers are now; the pieces of the file first, in its order), zones, surfaces.
pub fn place<V: Geometry>(file: &LevelFile<V>) -> Value {
    let mut shapes = Vec::new();
    file.level.each_shape(|shape, tag| {
        let mut drawn = drawn(&shape);
        drawn["surface"] = json!(tag.surface.0);
        if let Some(carrier) = tag.carrier {
            drawn["carrier"] = json!(carrier.0);
        }
        if tag.one_way {
            drawn["oneWay"] = json!(true);
        }
        shapes.push(drawn);
    });
    let mut zones = Vec::new();
    file.level.each_zone(|id, zone| {
        zones.push(json!({
            "name": file.zones.get(usize::from(id.0)),
            "kind": zone.effects.iter().next().map_or("zone", |effect| effect.name()),
            "kinds": zone.effects.iter().map(|effect| effect.name()).collect::<Vec<_>>(),
            "min": point(zone.bounds.min),
            "max": point(zone.bounds.max),
        }));
    });
    let bounds = file.level.bounds();
    let kinds =
        zone_fields::<V>().into_iter().map(|(kind, fields)| json!({ "kind": kind, "fields": fields }));
    json!({
        "kinds": kinds.collect::<Vec<_>>(),
        "title": file.title,
        "dimensions": V::DIMENSION,
        "shapes": shapes,
        "zones": zones,
        "surfaces": file.looks.iter().map(|look| &look.name).collect::<Vec<_>>(),
        "min": point(bounds.min),
        "max": point(bounds.max),
    })
}

/// What a file says of each part that can be changed, and how far it rides.
pub fn parts(draft: &LevelDraft) -> Vec<Value> {
    let told = |(part, fields, ride)| json!({ "part": part, "fields": fields, "ride": ride });
    draft.parts().unwrap_or_default().into_iter().map(told).collect()
}

fn drawn<V: Vector>(shape: &Shape<'_, V>) -> Value {
    let all = |points: &[V]| points.iter().map(|&at| drawn_at(at)).collect::<Vec<_>>();
    match shape {
        Shape::Ball { centre, radius } => json!({ "centre": drawn_at(*centre), "radius": radius }),
        Shape::Segment { ends, .. } => json!({ "line": all(ends) }),
        Shape::Polygon { points } | Shape::Facet { points, .. } => json!({ "points": all(points) }),
        Shape::Solid { points, faces } => json!({ "points": all(points), "faces": faces }),
    }
}

/// Where the carriers have taken what rides on them: each shape on one, in the order
/// of [`place`].
pub fn carried<V: Geometry>(level: &Level<V>) -> Vec<Value> {
    let mut moved = Vec::new();
    level.each_shape(|shape, tag| {
        if tag.carrier.is_some() {
            moved.push(drawn(&shape));
        }
    });
    moved
}

/// The body now: where it is drawn, what it does and why.
pub fn body<V: Geometry>(attempt: &Attempt<V>) -> Value {
    let body = attempt.body();
    let (state, pose) = (body.state(), body.pose(attempt.blend()));
    let footing = &state.footing;
    let looks = &attempt.file().looks;
    let intent = attempt.intent();
    json!({
        "tick": attempt.tick(),
        "ticks": attempt.len(),
        "paused": attempt.is_paused(),
        "stretch": attempt.stretch().map(|ticks| [ticks.start, ticks.end]),
        "at": drawn_at(pose.position),
        "feet": point(state.position),
        "up": point(state.up),
        "facing": point(state.facing),
        "velocity": drawn_at(body.velocity()),
        "speed": state.ground_speed(),
        "rising": body.velocity().dot(state.up),
        "mode": state.mode.to_string(),
        "gait": state.gait.to_string(),
        "drives": state.velocity_owner.to_string(),
        "turns": state.facing_owner.to_string(),
        "footing": footing.kind.to_string(),
        "slope": footing.angle(state.up),
        "surface": (footing.kind != FootingKind::None)
            .then(|| looks.get(usize::from(footing.surface.0)).map(|look| &look.name)),
        "steer": [intent.steer.x, intent.steer.y],
        "look": [intent.look.yaw, intent.look.pitch],
        "hull": hull(body),
    })
}

/// What goes on in the body: what counts time, what it touches, and where a jump held
/// and a jump tapped would lead from here.
pub fn inside<V: Geometry>(attempt: &Attempt<V>, frame: &mut Value) {
    let view = attempt.body().debug_view(&attempt.file().level);
    let timers: Vec<Value> = view.timers.iter().map(|timer| json!([timer.name, timer.seconds])).collect();
    let contacts: Vec<Value> = view
        .contacts
        .iter()
        .map(|contact| json!([drawn_at(contact.point), drawn_at(contact.normal)]))
        .collect();
    let slope = &attempt.body().tuning.slope;
    frame["step"] = json!(slope.step_height);
    frame["snap"] = json!(slope.ground_snap);
    frame["timers"] = json!(timers);
    frame["contacts"] = json!(contacts);
    frame["arcs"] = json!(attempt.arcs().map(|arc| path(&arc)));
}

fn hull<V: Geometry>(body: &Controller<V>) -> Value {
    let hull = body.present_hull();
    let middle = hull.middle::<V>().height();
    match hull.shape() {
        HullShape::Capsule { radius, height } => {
            json!({ "radius": radius, "height": height, "middle": middle })
        }
        HullShape::Ball { radius } => json!({ "radius": radius, "height": 2.0 * radius, "middle": middle }),
        HullShape::Box { width, depth, height, .. } => {
            json!({ "width": width, "depth": depth, "height": height, "middle": middle })
        }
    }
}

/// A path, thinned to some hundred points.
pub fn path<V: Vector>(positions: &[V]) -> Vec<Value> {
    const MOST: usize = 600;
    let every = positions.len().div_ceil(MOST).max(1);
    positions.iter().step_by(every).chain(positions.last()).map(|&at| drawn_at(at)).collect()
}
