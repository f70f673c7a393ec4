//! The house as drawn.

use busy_hen_floorplan::lines::fittings::Source;
use busy_hen_floorplan::lines::thing::{Housing, SocketKind, SocketState};
use busy_hen_floorplan::missing::{Missing, missing};
use busy_hen_floorplan::parts::{PlanRoom, Stands};
use busy_hen_floorplan::{LineFault, Plan, Rect, Wall};
use busy_hen_home::{Home, LevelId, ObstacleKind, OpeningKind, RoomId};
use busy_hen_units::{Metres, SquareMetres};
use serde::Serialize;
use utoipa::ToSchema;

/// The house as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct Drawing {
    /// Levels from the lowest up.
    pub levels: Vec<DrawnLevel>,
    /// Indoor area of all levels.
    pub area_m2: SquareMetres,
    /// Rooms and areas that have a place.
    pub rooms: Vec<DrawnRoom>,
    /// Walls.
    pub walls: Vec<DrawnWall>,
    /// Doors and windows in them, drawn or assumed.
    pub openings: Vec<DrawnOpening>,
    /// Holes for stairs, drawn or assumed.
    pub stairs: Vec<DrawnStairs>,
    /// What stands in the way.
    pub solids: Vec<DrawnSolid>,
    /// Sockets, and where the line enters.
    pub sockets: Vec<DrawnSocket>,
    /// What the plan lacks.
    pub lacks: Vec<Missing>,
    /// What typed lines may mean otherwise.
    pub doubts: Vec<LineFault>,
    /// What is wrong with typed lines.
    pub faults: Vec<LineFault>,
}

/// A level as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnLevel {
    /// The level.
    pub level_id: LevelId,
    /// Its name.
    pub name: String,
    /// Indoor area.
    pub area_m2: SquareMetres,
    /// Length of all its walls, each counted once.
    pub walls_m: Metres,
    /// West edge of all it holds.
    pub x_m: Metres,
    /// North edge of all it holds.
    pub y_m: Metres,
    /// East-west size of all it holds.
    pub width_m: Metres,
    /// North-south size of all it holds.
    pub depth_m: Metres,
}

/// A room as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnRoom {
    /// The room; made from its name while it has not been saved.
    pub room_id: RoomId,
    /// Its level.
    pub level_id: LevelId,
    /// Its line in the level's text, counted from 0.
    pub line: usize,
    /// Its name.
    pub name: String,
    /// West side of all of it.
    pub x_m: Metres,
    /// North side of all of it.
    pub y_m: Metres,
    /// East-west size of all of it.
    pub width_m: Metres,
    /// North-south size of all of it.
    pub depth_m: Metres,
    /// Its parts; one, for most rooms.
    pub parts: Vec<DrawnPart>,
    /// Its area.
    pub area_m2: SquareMetres,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// A part of a room as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnPart {
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
}

impl From<&Rect> for DrawnPart {
    fn from(rect: &Rect) -> Self {
        let metres = Metres::new;
        Self { x_m: metres(rect.x), y_m: metres(rect.y), width_m: metres(rect.width), depth_m: metres(rect.depth) }
    }
}

/// Which characters of which line say something.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct SaidBy {
    /// The level.
    pub level_id: LevelId,
    /// Line of its text, counted from 0.
    pub line: usize,
    /// First character, counted from 0.
    pub from: usize,
}

impl From<Source> for SaidBy {
    fn from(Source { level_id, line, from }: Source) -> Self {
        Self { level_id, line, from }
    }
}

/// Something in the way as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnSolid {
    /// Its level.
    pub level_id: LevelId,
    /// What it is.
    pub kind: ObstacleKind,
    /// One end, east.
    pub x1_m: Metres,
    /// One end, south.
    pub y1_m: Metres,
    /// Other end, east.
    pub x2_m: Metres,
    /// Other end, south.
    pub y2_m: Metres,
    /// How wide its line is.
    pub across_m: Metres,
    /// What says it.
    pub said_by: Option<SaidBy>,
}

/// A socket as drawn, or where the line enters.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnSocket {
    /// Its level.
    pub level_id: LevelId,
    /// Its room.
    pub room_id: RoomId,
    /// East.
    pub x_m: Metres,
    /// South.
    pub y_m: Metres,
    /// What it is.
    pub kind: SocketKind,
    /// What is written on it.
    pub label: Option<String>,
    /// The power circuit it is on.
    pub circuit: Option<String>,
    /// Where its cable ends.
    pub ends: Option<String>,
    /// What can be said of its state.
    pub state: SocketState,
    /// What the line enters in.
    pub housing: Housing,
    /// What says it.
    pub said_by: SaidBy,
}

/// A wall as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnWall {
    /// Its level.
    pub level_id: LevelId,
    /// Begin, east.
    pub x1_m: Metres,
    /// Begin, south.
    pub y1_m: Metres,
    /// End, east.
    pub x2_m: Metres,
    /// End, south.
    pub y2_m: Metres,
    /// What it is made of.
    pub material: String,
    /// Whether it closes the building off.
    pub envelope: bool,
}

/// A door or window as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnOpening {
    /// Its level.
    pub level_id: LevelId,
    /// Begin, east.
    pub x1_m: Metres,
    /// Begin, south.
    pub y1_m: Metres,
    /// End, east.
    pub x2_m: Metres,
    /// End, south.
    pub y2_m: Metres,
    /// What it is.
    pub kind: OpeningKind,
    /// Whether it usually stands open.
    pub open: bool,
    /// Whether nobody drew it.
    pub assumed: bool,
    /// What says it.
    pub said_by: Option<SaidBy>,
}

/// A hole for stairs as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnStairs {
    /// The level that the stairs rise from.
    pub level_id: LevelId,
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
    /// Whether nobody drew it.
    pub assumed: bool,
    /// What says it.
    pub said_by: Option<SaidBy>,
}

/// Ends of a stretch along a wall.
fn along(wall: &Wall, from: f64, to: f64) -> [Metres; 4] {
    let ends = if wall.north_south { [wall.at, from, wall.at, to] } else { [from, wall.at, to, wall.at] };
    ends.map(Metres::new)
}

/// The drawing of a home's plan.
#[must_use]
pub fn drawing(home: &Home, plan: &Plan) -> Drawing {
    let level_id = |index: usize| plan.levels[index].id;
    let metres = Metres::new;
    Drawing {
        levels: (0..plan.levels.len())
            .map(|index| {
                let bounds = plan.bounds(index);
                let edge = |pick: fn(&busy_hen_floorplan::Rect) -> f64| metres(bounds.as_ref().map_or(0.0, pick));
                let indoors = plan.rooms.iter().filter(|room| room.level == index && !room.outdoors);
                DrawnLevel {
                    level_id: level_id(index),
                    name: plan.levels[index].name.clone(),
                    area_m2: indoors.map(PlanRoom::area).sum(),
                    walls_m: plan
                        .walls
                        .iter()
                        .filter(|wall| wall.level == index)
                        .map(|wall| metres(wall.to - wall.from))
                        .sum(),
                    x_m: edge(|rect| rect.x),
                    y_m: edge(|rect| rect.y),
                    width_m: edge(|rect| rect.width),
                    depth_m: edge(|rect| rect.depth),
                }
            })
            .collect(),
        area_m2: plan.rooms.iter().filter(|room| !room.outdoors).map(PlanRoom::area).sum(),
        rooms: plan
            .rooms
            .iter()
            .map(|room| {
                let DrawnPart { x_m, y_m, width_m, depth_m } = DrawnPart::from(&room.bounds());
                DrawnRoom {
                    room_id: room.id,
                    level_id: level_id(room.level),
                    line: room.line,
                    name: room.name.clone(),
                    x_m,
                    y_m,
                    width_m,
                    depth_m,
                    parts: room.rects().map(DrawnPart::from).collect(),
                    area_m2: room.area(),
                    outdoors: room.outdoors,
                }
            })
            .collect(),
        walls: plan
            .walls
            .iter()
            .map(|wall| {
                let [x1_m, y1_m, x2_m, y2_m] = along(wall, wall.from, wall.to);
                let (level_id, material) = (level_id(wall.level), wall.material.key.clone());
                DrawnWall { level_id, x1_m, y1_m, x2_m, y2_m, material, envelope: wall.envelope }
            })
            .collect(),
        openings: plan
            .walls
            .iter()
            .flat_map(|wall| wall.openings.iter().map(move |opening| (wall, opening)))
            .map(|(wall, opening)| {
                let [x1_m, y1_m, x2_m, y2_m] = along(wall, opening.from, opening.to);
                DrawnOpening {
                    level_id: level_id(wall.level),
                    x1_m,
                    y1_m,
                    x2_m,
                    y2_m,
                    kind: opening.kind,
                    open: opening.stands == Stands::Open,
                    assumed: opening.assumed,
                    said_by: opening.source.map(SaidBy::from),
                }
            })
            .collect(),
        stairs: plan
            .floors
            .iter()
            .flat_map(|floor| floor.holes.iter().map(move |hole| (floor, hole)))
            .map(|(floor, hole)| DrawnStairs {
                level_id: level_id(floor.above - 1),
                x_m: metres(hole.rect.x),
                y_m: metres(hole.rect.y),
                width_m: metres(hole.rect.width),
                depth_m: metres(hole.rect.depth),
                assumed: hole.assumed,
                said_by: hole.source.map(SaidBy::from),
            })
            .collect(),
        solids: plan
            .uprights
            .iter()
            .filter_map(|own| {
                let level = plan.levels.iter().rev().find(|level| level.z <= own.foot + 1e-6)?;
                Some(DrawnSolid {
                    level_id: level.id,
                    kind: own.kind,
                    x1_m: metres(own.from.0),
                    y1_m: metres(own.from.1),
                    x2_m: metres(own.to.0),
                    y2_m: metres(own.to.1),
                    across_m: own.depth,
                    said_by: own.source.map(SaidBy::from),
                })
            })
            .collect(),
        sockets: plan
            .sockets
            .iter()
            .map(|own| DrawnSocket {
                level_id: own.source.level_id,
                room_id: plan.rooms[own.room].id,
                x_m: metres(own.at.0),
                y_m: metres(own.at.1),
                kind: own.socket.kind,
                label: own.socket.label.clone(),
                circuit: own.socket.circuit.clone(),
                ends: own.socket.ends.clone(),
                state: own.socket.state,
                housing: own.socket.housing,
                said_by: own.source.into(),
            })
            .collect(),
        lacks: missing(&home.house, plan, home.units),
        doubts: plan.doubts.clone(),
        faults: plan.faults.clone(),
    }
}
