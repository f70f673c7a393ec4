//! The levels of a house as GeoJSON (RFC 7946), in metres of its own plane: the standard's coordinates are degrees on the globe, which a
//! house that nobody surveyed has none of, so this says so in a member of its own.

use busy_hen_floorplan::{Plan, Rect};
use serde_json::{Value, json};

/// A plan as a feature collection: rooms as polygons, walls and openings as lines, stairs as polygons, sockets as points. x runs east and y
/// north, both in metres from the north-west corner of the first room of the lowest level.
#[must_use]
pub fn plan_geojson(plan: &Plan) -> String {
    let level = |index: usize| json!({"level": plan.levels[index].name, "floor_m": round(plan.levels[index].z)});
    let mut features: Vec<Value> = Vec::new();
    for room in &plan.rooms {
        let parts: Vec<Value> = room.rects().map(ring).collect();
        let geometry = match &parts[..] {
            [one] => json!({"type": "Polygon", "coordinates": [one]}),
            several => json!({
                "type": "MultiPolygon",
                "coordinates": several.iter().map(|ring| json!([ring])).collect::<Vec<_>>(),
            }),
        };
        let kind = if room.outdoors { "area" } else { "room" };
        let area = json!({"kind": kind, "name": room.name, "area_m2": round(room.area().get())});
        features.push(feature(&geometry, &area, &level(room.level)));
    }
    for wall in &plan.walls {
        let ends = |from: f64, to: f64| {
            if wall.north_south { [[wall.at, -from], [wall.at, -to]] } else { [[from, -wall.at], [to, -wall.at]] }
        };
        let line = |from, to| json!({"type": "LineString", "coordinates": ends(from, to).map(|at| at.map(round))});
        let made_of = json!({"kind": "wall", "material": wall.material.name, "outer": wall.envelope});
        features.push(feature(&line(wall.from, wall.to), &made_of, &level(wall.level)));
        for own in wall.openings.iter().filter(|own| !own.assumed) {
            let what = json!({
                "kind": if own.kind == busy_hen_home::OpeningKind::Door { "door" } else { "window" },
                "material": own.material.name,
                "low_m": round(own.low),
                "high_m": round(own.high),
            });
            features.push(feature(&line(own.from, own.to), &what, &level(wall.level)));
        }
    }
    for floor in &plan.floors {
        for hole in floor.holes.iter().filter(|hole| !hole.assumed) {
            let geometry = json!({"type": "Polygon", "coordinates": [ring(&hole.rect)]});
            features.push(feature(&geometry, &json!({"kind": "stairs"}), &level(floor.above - 1)));
        }
    }
    for own in &plan.sockets {
        let geometry = json!({"type": "Point", "coordinates": [round(own.at.0), round(-own.at.1)]});
        let room = &plan.rooms[own.room];
        let what = json!({
            "kind": own.socket.kind,
            "room": room.name,
            "label": own.socket.label,
            "circuit": own.socket.circuit,
            "ends": own.socket.ends,
            "state": own.socket.state,
        });
        features.push(feature(&geometry, &what, &level(room.level)));
    }
    let collection = json!({
        "type": "FeatureCollection",
        "coordinates_are": "metres of the house's own plane, x east and y north; not longitude and latitude",
        "features": features,
    });
    format!("{collection:#}\n")
}

fn feature(geometry: &Value, own: &Value, of_level: &Value) -> Value {
    let mut properties = own.clone();
    if let (Some(all), Some(level)) = (properties.as_object_mut(), of_level.as_object()) {
        all.extend(level.clone());
    }
    json!({"type": "Feature", "geometry": geometry, "properties": properties})
}

/// A rectangle counter-clockwise, as the standard has outer rings.
fn ring(rect: &Rect) -> Value {
    let (w, e, n, s) = (round(rect.x), round(rect.east()), round(-rect.y), round(-rect.south()));
    json!([[w, s], [e, s], [e, n], [w, n], [w, s]])
}

fn round(metres: f64) -> f64 {
    (metres * 1000.0).round() / 1000.0 + 0.0
}
