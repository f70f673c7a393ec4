//! What a plan lacks: what is not said yet, or can't be meant so; each with where it is and what one press would do.

use busy_hen_home::{House, LengthUnit, LevelId, MaterialKey, OpeningKind, RoomId, Side};
use busy_hen_units::Metres;
use serde::Serialize;
use utoipa::ToSchema;

use super::lines::fittings::meeting;
use super::lines::lengths::say_length;
use super::lines::rewrite::Change;
use super::lines::same_name;
use super::lines::words::side_word;
use super::parts::{PlanRoom, There};
use super::plan::Plan;
use super::shapes::Rect;

/// Rooms nearer than this to one another, with a gap between, are likely meant to touch, m.
const NARROW_GAP: (f64, f64) = (0.015, 0.4);
/// A room indoors larger than this is likely mistyped, m².
const LARGE_ROOM: f64 = 120.0;
/// A room upstairs lies over nothing when less than this part of it lies over rooms.
const HELD_UP: f64 = 0.1;

/// Something a plan lacks.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Missing {
    /// One sentence.
    pub told: String,
    /// The level it is about.
    pub level_id: Option<LevelId>,
    /// Line of its text, counted from 0.
    pub line: Option<usize>,
    /// The room it is about.
    pub room_id: Option<RoomId>,
    /// What may be done about it, each by one press.
    pub remedies: Vec<MissingRemedy>,
}

/// What may be done about something that a plan lacks.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MissingRemedy {
    /// What it does, in a few words.
    pub label: String,
    /// What it does.
    pub does: Action,
}

/// What a remedy does.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[serde(tag = "what", rename_all = "snake_case")]
pub enum Action {
    /// Writes into the lines.
    Write {
        /// What is written, one after the other.
        changes: Vec<Change>,
    },
    /// Says what the floor under a level is made of.
    Floor {
        /// The level.
        level_id: LevelId,
        /// What it is made of.
        material: MaterialKey,
    },
    /// Opens the choice of what houses of a look and age are made of.
    ChooseLook,
    /// Says which new name a room without a line has now.
    NowCalled {
        /// The room.
        room_id: RoomId,
        /// The name in its line.
        name: String,
    },
    /// Lets a room without a line go, with what was noted of it.
    LetGo {
        /// The room.
        room_id: RoomId,
    },
}

impl Missing {
    fn new(told: impl Into<String>) -> Self {
        Self { told: told.into(), level_id: None, line: None, room_id: None, remedies: Vec::new() }
    }

    fn of(plan: &Plan, room: &PlanRoom, told: impl Into<String>) -> Self {
        Self {
            level_id: Some(plan.levels[room.level].id),
            line: Some(room.line),
            room_id: Some(room.id),
            ..Self::new(told)
        }
    }

    fn or(mut self, label: impl Into<String>, does: Action) -> Self {
        self.remedies.push(MissingRemedy { label: label.into(), does });
        self
    }

    fn or_write(self, label: impl Into<String>, changes: Vec<Change>) -> Self {
        self.or(label, Action::Write { changes })
    }
}

/// What a house lacks, the most telling first; what is wrong with single lines is told beside them.
#[must_use]
pub fn missing(house: &House, plan: &Plan, unit: LengthUnit) -> Vec<Missing> {
    let mut list = Vec::new();
    without_lines(house, plan, &mut list);
    materials(house, &mut list);
    doors(plan, &mut list);
    stairs(house, plan, &mut list);
    gaps(plan, unit, &mut list);
    odd_rooms(plan, unit, &mut list);
    if !plan.rooms.is_empty() && !plan.sockets.iter().any(is_line_entry) {
        list.push(Missing::new(
            "Where the internet line enters is not said; write “line entry” and its side in that room.",
        ));
    }
    list
}

fn is_line_entry(own: &super::lines::fittings::FittedSocket) -> bool {
    own.socket.kind == super::lines::thing::SocketKind::LineEntry
}

fn without_lines(house: &House, plan: &Plan, list: &mut Vec<Missing>) {
    for room in house.rooms.iter().filter(|room| plan.room(room.id).is_none()) {
        // While its line is wrong the line tells it.
        let faulty = plan.faults.iter().any(|fault| fault.level_id == room.level_id);
        if faulty {
            continue;
        }
        let told = format!("{} has no line any more; what was noted or measured there is kept.", room.name);
        let mut lack = Missing { room_id: None, level_id: Some(room.level_id), ..Missing::new(told) };
        let new = |own: &&PlanRoom| {
            plan.levels[own.level].id == room.level_id
                && house.rooms.iter().all(|known| known.id == own.id || !same_name(&known.name, &own.name))
        };
        for own in plan.rooms.iter().filter(new).take(4) {
            let does = Action::NowCalled { room_id: room.id, name: own.name.clone() };
            lack = lack.or(format!("it is {} now", own.name), does);
        }
        list.push(lack.or("let it go", Action::LetGo { room_id: room.id }));
    }
}

fn materials(house: &House, list: &mut Vec<Missing>) {
    let unsaid = |key: &MaterialKey| key.0.starts_with("unsaid");
    let said: Vec<&str> =
        [(&house.outer_wall, "outer walls"), (&house.inner_wall, "inner walls"), (&house.windows, "windows")]
            .into_iter()
            .filter(|(key, _)| unsaid(key))
            .map(|(_, what)| what)
            .collect();
    if !said.is_empty() && !house.levels.is_empty() {
        let told = format!("What {} are made of is not said; choose the look and age of the house.", and(&said));
        list.push(Missing::new(told).or("by look and age", Action::ChooseLook));
    }
    for level in house.levels.iter().skip(1).filter(|level| unsaid(&level.floor)) {
        let floor = |material: &str| Action::Floor { level_id: level.id, material: material.into() };
        let lack = Missing {
            level_id: Some(level.id),
            ..Missing::new(format!("The floor under {} is not said.", level.name))
        };
        list.push(lack.or("timber", floor("timber_floor")).or("concrete", floor("concrete_floor")));
    }
}

fn and(words: &[&str]) -> String {
    match words {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [first @ .., last] => format!("{} and {last}", first.join(", ")),
    }
}

/// Rooms that nobody can enter by what is said, and the doors that would do.
fn doors(plan: &Plan, list: &mut Vec<Missing>) {
    let without: Vec<&PlanRoom> = plan.rooms.iter().filter(|room| plan.misses_door(room)).collect();
    let Some(first) = without.first() else { return };
    let door = |room: &PlanRoom| {
        let beside =
            plan.rooms.iter().filter(|other| !other.outdoors && other.level == room.level && other.id != room.id);
        let rects = |room: &PlanRoom| room.rects().copied().collect::<Vec<Rect>>();
        let touching =
            |a: &PlanRoom, b: &PlanRoom| meeting(&rects(a), &rects(b)).filter(|(_, _, on)| on.to - on.from >= 0.7);
        let touched = |own: &PlanRoom| {
            plan.rooms
                .iter()
                .filter(|other| other.level == own.level && !other.outdoors && touching(own, other).is_some())
                .count()
        };
        let hall = beside.filter(|other| touching(room, other).is_some()).max_by_key(|other| touched(other))?;
        // Two rooms that would open to each other need one door.
        Some(Change::AddThing { room: room.name.clone(), words: format!("door to {}", hall.name) })
    };
    let mut changes: Vec<Change> = Vec::new();
    for room in &without {
        let Some(Change::AddThing { room: name, words }) = door(room) else { continue };
        let back = |own: &Change| matches!(own, Change::AddThing { room, words: own } if words == format!("door to {room}") && *own == format!("door to {name}"));
        if !changes.iter().any(back) {
            changes.push(Change::AddThing { room: name, words });
        }
    }
    let names: Vec<&str> = without.iter().take(5).map(|room| room.name.as_str()).collect();
    let more =
        if without.len() > 5 { format!("{} rooms, {} among them,", without.len(), and(&names)) } else { and(&names) };
    let verb = if without.len() == 1 { "has" } else { "have" };
    let mut lack =
        Missing::of(plan, first, format!("{more} {verb} no door said; both ways that it may be are reckoned with."));
    if !changes.is_empty() {
        let label = match &changes[..] {
            [Change::AddThing { words, .. }] => words.clone(),
            _ => format!("put {} doors, each to its hall", changes.len()),
        };
        lack = lack.or_write(label, changes);
    }
    list.push(lack);
}

fn stairs(house: &House, plan: &Plan, list: &mut Vec<Missing>) {
    if !house.around.stairs {
        return;
    }
    for floor in &plan.floors {
        if floor.holes.iter().any(|hole| !hole.assumed) {
            continue;
        }
        let below = &plan.levels[floor.above - 1];
        let above = &plan.levels[floor.above];
        let hole = floor
            .holes
            .iter()
            .find(|hole| matches!(hole.there, There::Always | There::In(super::parts::Guess::ByHall)));
        let Some(hole) = hole else { continue };
        let (x, y) = (hole.rect.x + hole.rect.width / 2.0, hole.rect.y + hole.rect.depth / 2.0);
        let Some(room) = plan.room_at(floor.above - 1, x, y) else { continue };
        let lack =
            Missing::of(plan, room, format!("Where the stairs from {} to {} are is not said.", below.name, above.name));
        list.push(lack.or_write(
            format!("stairs in {}", room.name),
            vec![Change::AddThing { room: room.name.clone(), words: "stairs".into() }],
        ));
    }
}

/// Rooms with a hand's breadth between, that are likely meant to touch.
fn gaps(plan: &Plan, unit: LengthUnit, list: &mut Vec<Missing>) {
    let indoors: Vec<&PlanRoom> = plan.rooms.iter().filter(|room| !room.outdoors).collect();
    for (index, a) in indoors.iter().enumerate() {
        for b in indoors.iter().skip(index + 1).filter(|b| b.level == a.level) {
            let Some((side, by)) = narrow_gap(a, b) else { continue };
            let told = format!("Between {} and {} is a gap of {}.", a.name, b.name, say_length(Metres::new(by), unit));
            let (east, south) = match side {
                Side::East => (-by, 0.0),
                Side::West => (by, 0.0),
                Side::South => (0.0, -by),
                Side::North => (0.0, by),
            };
            let outward = if matches!(side, Side::East | Side::South) { by } else { -by };
            let shift =
                Change::MoveRoom { room: b.name.clone(), east_m: Metres::new(east), south_m: Metres::new(south) };
            let grow = Change::MoveSide { room: a.name.clone(), part: 0, side, by_m: Metres::new(outward) };
            let lack = Missing::of(plan, b, told)
                .or_write(format!("shift {}", b.name), vec![shift])
                .or_write(format!("widen {} {}", a.name, side_word(side)), vec![grow]);
            list.push(lack);
        }
    }
}

/// The side of the first room beyond which the second lies, with a narrow gap, and how wide that is, m.
fn narrow_gap(a: &PlanRoom, b: &PlanRoom) -> Option<(Side, f64)> {
    let (own, other) = (&a.rect, &b.rect);
    let beside = own.y.max(other.y) + 0.3 < own.south().min(other.south());
    let over = own.x.max(other.x) + 0.3 < own.east().min(other.east());
    let gaps = [
        (Side::East, other.x - own.east(), beside),
        (Side::West, own.x - other.east(), beside),
        (Side::South, other.y - own.south(), over),
        (Side::North, own.y - other.south(), over),
    ];
    gaps.into_iter()
        .find(|(_, gap, faces)| *faces && NARROW_GAP.0 < *gap && *gap < NARROW_GAP.1)
        .map(|(side, gap, _)| (side, gap))
}

fn odd_rooms(plan: &Plan, unit: LengthUnit, list: &mut Vec<Missing>) {
    for room in plan.rooms.iter().filter(|room| !room.outdoors) {
        if room.area().get() > LARGE_ROOM {
            let sides = format!(
                "{} x {}",
                say_length(Metres::new(room.rect.width), unit),
                say_length(Metres::new(room.rect.depth), unit)
            );
            let told =
                format!("{} would be {sides}; is it an outdoor area, or are its lengths in another unit?", room.name);
            list.push(Missing::of(plan, room, told));
        }
        let Some(below) = room.level.checked_sub(1) else { continue };
        let held: f64 = plan
            .rooms
            .iter()
            .filter(|other| other.level == below)
            .flat_map(|other| other.rects())
            .flat_map(|under| room.rects().filter_map(move |own| own.overlap(under)))
            .map(|(w, d)| w * d)
            .sum();
        let has_below = plan.rooms.iter().any(|other| other.level == below);
        if has_below && held < HELD_UP * room.area().get() {
            let told = format!(
                "{} lies over nothing on {}; write “above” and the room under it.",
                room.name, plan.levels[below].name
            );
            list.push(Missing::of(plan, room, told));
        }
    }
}

impl Plan {
    /// Whether no way into an indoor room is said: no door or gap in its walls, and no side open to another room.
    #[must_use]
    pub fn misses_door(&self, room: &PlanRoom) -> bool {
        if room.outdoors {
            return false;
        }
        let beside =
            |wall: &super::parts::Wall| wall.level == room.level && room.rects().any(|rect| wall.is_beside(rect));
        let walls = || self.walls.iter().filter(|wall| beside(wall));
        let door = walls().any(|wall| {
            wall.openings.iter().any(|own| {
                let here = room.rects().any(|rect| wall.is_beside_between(rect, own.from, own.to));
                !own.assumed && own.kind == OpeningKind::Door && here
            })
        });
        if door {
            return false;
        }
        let rects: Vec<Rect> = room.rects().copied().collect();
        let open =
            self.rooms.iter().filter(|other| other.level == room.level && other.id != room.id && !other.outdoors).any(
                |other| {
                    let others: Vec<Rect> = other.rects().copied().collect();
                    meeting(&rects, &others).is_some_and(|(_, _, shared)| {
                        let middle = shared.middle();
                        !self.walls.iter().any(|wall| {
                            wall.level == room.level
                                && wall.north_south == shared.north_south
                                && (wall.at - shared.at).abs() < 1e-3
                                && wall.from <= middle
                                && middle <= wall.to
                        })
                    })
                },
            );
        !open
    }
}
