//! What typed lines put into rooms, placed in the house.

use busy_hen_home::{LengthUnit, LevelId, MaterialKey, ObstacleKind, Side};
use busy_hen_units::Metres;

use super::lengths::say_length;
use super::place::{Placed, nearest, same_name};
use super::thing::{Gap, Opening, Place, Socket, Thing, What};
use super::words::side_word;
use super::write::at_clause;
use super::wrong::Wrong;
use crate::shapes::{Rect, Stretch};

/// Usual widths of a door, a window and a gap, m: common practice.
const USUAL_WIDTHS: (f64, f64, f64) = (0.8, 1.2, 0.9);
/// Upper edge of a door, and lower edge and height of a window, where nothing else is said, m.
const DOOR_TOP: f64 = 2.0;
const WINDOW: (f64, f64) = (0.9, 1.2);
/// Usual hole for stairs, across and along, m.
const STAIRS: (f64, f64) = (0.9, 2.2);
/// Two rooms meet along at least so much wall, m.
const MEETING: f64 = 0.05;
/// Lengths along a side that differ by less are one, m.
const SAME: f64 = 0.002;

/// Which characters of which line say something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Source {
    /// The level.
    pub level_id: LevelId,
    /// Line of its text, counted from 0.
    pub line: usize,
    /// First character, counted from 0.
    pub from: usize,
}

/// All that lines put into rooms; a room is told by its place in the list of rooms.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Fittings {
    /// Sides made of something else.
    pub walls: Vec<FittedWall>,
    /// Doors, windows and gaps.
    pub openings: Vec<FittedOpening>,
    /// Holes for stairs.
    pub stairs: Vec<FittedStairs>,
    /// What stands in the way.
    pub solids: Vec<FittedSolid>,
    /// Sockets.
    pub sockets: Vec<FittedSocket>,
}

impl Fittings {
    /// The same, whichever lines say it.
    #[must_use]
    pub fn without_sources(mut self) -> Self {
        self.each(|_, source| (source.line, source.from) = (0, 0));
        self
    }

    /// The same with rooms told by other numbers.
    #[must_use]
    pub fn with_rooms(mut self, number: impl Fn(usize) -> usize) -> Self {
        self.each(|room, _| *room = number(*room));
        self
    }

    fn each(&mut self, mut change: impl FnMut(&mut usize, &mut Source)) {
        self.walls.iter_mut().for_each(|own| change(&mut own.room, &mut own.source));
        self.openings.iter_mut().for_each(|own| change(&mut own.room, &mut own.source));
        self.stairs.iter_mut().for_each(|own| change(&mut own.room, &mut own.source));
        self.solids.iter_mut().for_each(|own| change(&mut own.room, &mut own.source));
        self.sockets.iter_mut().for_each(|own| change(&mut own.room, &mut own.source));
    }
}

/// A side of a room made of something else.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedWall {
    /// The room.
    pub room: usize,
    /// The part of it; all of them when none is said.
    pub part: Option<usize>,
    /// The side.
    pub side: Side,
    /// From where to where along it; all of it when nothing is said.
    pub along: Option<(f64, f64)>,
    /// What it is made of.
    pub material: MaterialKey,
    /// How thick, m, where that is not usual.
    pub thickness: Option<f64>,
    /// What says so.
    pub source: Source,
}

/// A door, window or gap in a wall.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedOpening {
    /// The room.
    pub room: usize,
    /// The side it is in.
    pub side: Side,
    /// The line of its wall, as long as the side.
    pub wall: Stretch,
    /// Where it begins and ends along its wall.
    pub along: (f64, f64),
    /// Its lower and upper edge above the floor, m.
    pub edges: (f64, f64),
    /// What it is.
    pub kind: Gap,
    /// What fills it; the usual when not said.
    pub material: Option<MaterialKey>,
    /// Whether it usually stands open; as is usual when not said.
    pub open: Option<bool>,
    /// What says so.
    pub source: Source,
}

/// A hole for stairs.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedStairs {
    /// The room they rise from.
    pub room: usize,
    /// Where the hole lies.
    pub rect: Rect,
    /// What says so.
    pub source: Source,
}

/// Something that stands in the way.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedSolid {
    /// The room or area it stands in.
    pub room: usize,
    /// What it is.
    pub kind: ObstacleKind,
    /// Its ends, x and y.
    pub ends: ((f64, f64), (f64, f64)),
    /// How high, m; to the ceiling when not said.
    pub height: Option<f64>,
    /// How deep, m.
    pub depth: f64,
    /// What says so.
    pub source: Source,
}

/// A socket.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedSocket {
    /// The room.
    pub room: usize,
    /// Where it is, x and y.
    pub at: (f64, f64),
    /// Side it is in; none for one in the floor.
    pub side: Option<Side>,
    /// What it is.
    pub socket: Socket,
    /// What says so.
    pub source: Source,
}

/// Where two rooms meet, seen from the first: the side, the part of it and the stretch; the longest of several.
#[must_use]
pub fn meeting(a: &[Rect], b: &[Rect]) -> Option<(Side, usize, Stretch)> {
    let pairs = a.iter().enumerate().flat_map(|(part, own)| b.iter().map(move |other| (part, own, other)));
    let shared = pairs.flat_map(|(part, own, other)| {
        [(Side::North, Side::South), (Side::East, Side::West), (Side::South, Side::North), (Side::West, Side::East)]
            .into_iter()
            .filter_map(move |(side, opposite)| {
                let (one, two) = (own.side(side), other.side(opposite));
                let shared = Stretch { from: one.from.max(two.from), to: one.to.min(two.to), ..one };
                let meet = (one.at - two.at).abs() < SAME && shared.to - shared.from > MEETING;
                meet.then_some((side, part, shared))
            })
    });
    shared.max_by(|a, b| (a.2.to - a.2.from).total_cmp(&(b.2.to - b.2.from)))
}

pub(super) struct Fitter<'a> {
    pub rooms: &'a [Placed],
    pub unit: LengthUnit,
    pub found: Fittings,
}

/// Where along a wall a thing may be.
struct Spot {
    side: Side,
    /// The side of the room, all of it.
    wall: Stretch,
    /// The part of it that lies towards the room beyond, or all.
    within: Stretch,
}

impl Fitter<'_> {
    /// Puts a thing into a room.
    ///
    /// # Errors
    /// What is wrong with it; it may be there all the same, where it can be.
    pub fn fit(&mut self, index: usize, thing: &Thing, source: Source) -> Result<(), Wrong> {
        let room = &self.rooms[index];
        if let Some(part) = thing.place.part
            && part >= room.rects.len()
        {
            let told = format!("{} has {} part(s).", room.name, room.rects.len());
            return Err(Wrong::new(thing.from, thing.to, told));
        }
        match &thing.what {
            What::Wall { material, thickness } => {
                let thickness = thickness.map(Metres::get);
                if thickness.is_some_and(|thick| !(0.005..=1.5).contains(&thick)) {
                    let (least, most) =
                        (say_length(Metres::new(0.005), self.unit), say_length(Metres::new(1.5), self.unit));
                    return Err(Wrong::new(thing.from, thing.to, format!("A wall is {least} to {most} thick.")));
                }
                let of = |side, part, along| FittedWall {
                    room: index,
                    part,
                    side,
                    along,
                    material: material.clone(),
                    thickness,
                    source,
                };
                if let Some((spot, part)) = self.beyond(index, thing)? {
                    self.found.walls.push(of(spot.side, Some(part), Some((spot.within.from, spot.within.to))));
                } else {
                    let all = [Side::North, Side::East, Side::South, Side::West];
                    let sides = if thing.place.sides.is_empty() { &all[..] } else { &thing.place.sides };
                    self.found.walls.extend(sides.iter().map(|side| of(*side, thing.place.part, None)));
                }
                Ok(())
            }
            What::Opening(opening) => self.opening(index, thing, opening, source),
            What::Stairs { size } => {
                let rect = self.rect_of(index, thing);
                let (short, long) = STAIRS;
                let usual = if rect.width < rect.depth { (short, long) } else { (long, short) };
                let size = size.map_or(usual, |(w, d)| (w.get(), d.get()));
                let (w, d) = (size.0.min(rect.width), size.1.min(rect.depth));
                let hole = place_in(&rect, &thing.place, (w, d));
                self.found.stairs.push(FittedStairs { room: index, rect: hole, source });
                self.inside(&rect, &hole, thing, "The stairs reach")
            }
            What::Solid { kind, size, height, depth } => {
                let size = size.map(|(w, d)| (w.get(), d.get()));
                self.solid(index, thing, *kind, (size, height.map(Metres::get), depth.map(Metres::get)), source)
            }
            What::Socket(socket) => {
                let rect = self.rect_of(index, thing);
                let (at, side) = if thing.place.sides.is_empty() {
                    let spot = place_in(&rect, &thing.place, (0.0, 0.0));
                    ((spot.x, spot.y), None)
                } else {
                    let side = thing.place.sides[0];
                    let wall = rect.side(side);
                    let along = along(&thing.place, &wall, 0.0).unwrap_or_else(|| wall.middle());
                    let along = along.clamp(wall.from, wall.to);
                    (if wall.north_south { (wall.at, along) } else { (along, wall.at) }, Some(side))
                };
                self.found.sockets.push(FittedSocket { room: index, at, side, socket: socket.clone(), source });
                let spot = Rect { x: at.0, y: at.1, width: 0.0, depth: 0.0 };
                self.inside(&rect, &spot, thing, "The socket lies")
            }
        }
    }

    fn rect_of(&self, index: usize, thing: &Thing) -> Rect {
        self.rooms[index].rects[thing.place.part.unwrap_or(0)]
    }

    /// Where the room and the one named in "to" meet, and in which part of the room; none when none is named.
    fn beyond(&self, index: usize, thing: &Thing) -> Result<Option<(Spot, usize)>, Wrong> {
        let Some(named) = &thing.place.beyond else { return Ok(None) };
        let room = &self.rooms[index];
        let other = self.rooms.iter().find(|other| same_name(&other.name, &named.name));
        let Some(other) = other else {
            let told = format!("No room called {} has a place in the house.", named.name);
            let wrong = Wrong::new(named.from, named.to, told);
            let like = nearest(&named.name, self.rooms.iter().map(|other| other.name.as_str()));
            return Err(like.map_or(wrong.clone(), |name| wrong.or(name)));
        };
        let met = (other.level_id == room.level_id).then(|| meeting(&room.rects, &other.rects)).flatten();
        let Some((side, part, within)) = met else {
            let told = format!("{} and {} share no wall.", room.name, other.name);
            return Err(Wrong::new(named.from, named.to, told));
        };
        Ok(Some((Spot { side, wall: room.rects[part].side(side), within }, part)))
    }

    fn opening(&mut self, index: usize, thing: &Thing, opening: &Opening, source: Source) -> Result<(), Wrong> {
        let spot = match self.beyond(index, thing)? {
            Some((spot, _)) => spot,
            None => {
                let side = thing.place.sides[0];
                let wall = self.rect_of(index, thing).side(side);
                Spot { side, wall, within: wall }
            }
        };
        let usual = match opening.kind {
            Gap::Door => USUAL_WIDTHS.0,
            Gap::Window => USUAL_WIDTHS.1,
            Gap::Gap => USUAL_WIDTHS.2,
        };
        let room_for = spot.within.to - spot.within.from;
        let width = opening.width.map_or(usual.min(room_for), Metres::get);
        let middle = spot.within.middle() - width / 2.0;
        let from = along(&thing.place, &spot.wall, width).unwrap_or(middle);
        let (sill, height) = match opening.kind {
            Gap::Window => WINDOW,
            _ => (0.0, DOOR_TOP),
        };
        let low = opening.sill.map_or(sill, Metres::get);
        let high = low + opening.top.map_or(height - if opening.kind == Gap::Window { 0.0 } else { low }, Metres::get);
        let kept = (from.max(spot.wall.from), (from + width).min(spot.wall.to));
        if kept.1 - kept.0 > 0.05 && high > low {
            self.found.openings.push(FittedOpening {
                room: index,
                side: spot.side,
                wall: spot.wall,
                along: kept,
                edges: (low, high),
                kind: opening.kind,
                material: opening.material.clone(),
                open: opening.open,
                source,
            });
        }
        let what = match opening.kind {
            Gap::Door => "door",
            Gap::Window => "window",
            Gap::Gap => "gap",
        };
        let length = spot.wall.to - spot.wall.from;
        if !(0.2..=12.0).contains(&width) || width > length + SAME {
            let told = format!(
                "A {what} {} wide does not go into a side of {}.",
                say_length(Metres::new(width), self.unit),
                say_length(Metres::new(length), self.unit)
            );
            return Err(Wrong::new(thing.from, thing.to, told));
        }
        let past = (spot.wall.from - from).max(from + width - spot.wall.to);
        if past > SAME {
            let told = format!(
                "This {what} reaches {} past the end of the {} side.",
                say_length(Metres::new(past), self.unit),
                side_word(spot.side)
            );
            // Not clamp(): a door as wide as its wall leaves an end that rounding puts before the start.
            let nearest = from.min(spot.wall.to - width).max(spot.wall.from) - spot.wall.from;
            let (at, span) = (at_clause(Metres::new(nearest), None, self.unit), thing.place.at_span);
            let with = if span.0 == span.1 { format!(" {at}") } else { at };
            return Err(Wrong::new(thing.from, thing.to, told).or_at(span.0, span.1, &with));
        }
        Ok(())
    }

    fn solid(
        &mut self,
        index: usize,
        thing: &Thing,
        kind: ObstacleKind,
        (size, height, depth): (Option<(f64, f64)>, Option<f64>, Option<f64>),
        source: Source,
    ) -> Result<(), Wrong> {
        let rect = self.rect_of(index, thing);
        let usual = match kind {
            ObstacleKind::Hedge => (None, 1.8, 0.8),
            ObstacleKind::GardenWall => (None, 1.8, 0.2),
            ObstacleKind::Car => (Some((1.8, 4.4)), 1.5, 0.0),
            ObstacleKind::OtherHouse => (Some((8.0, 8.0)), 7.0, 0.0),
            ObstacleKind::MetalCabinet => (Some((0.6, 0.6)), 1.8, 0.0),
            ObstacleKind::Concrete => (Some((1.4, 0.4)), f64::INFINITY, 0.0),
        };
        let place = &thing.place;
        let relative = |at: (Metres, Metres)| (rect.x + at.0.get(), rect.y + at.1.get());
        let (ends, outline) = match (place.at, place.to) {
            (Some((east, Some(south))), Some(to)) => ((relative((east, south)), relative(to)), None),
            _ if size.or(usual.0).is_none() => {
                let Some(side) = place.sides.first() else {
                    let told = "Along which side, or from where to where?";
                    return Err(["north", "east", "south", "west"]
                        .iter()
                        .fold(Wrong::new(thing.from, thing.to, told), |wrong, side| {
                            wrong.or_at(thing.to, thing.to, &format!(" {side}"))
                        }));
                };
                let line = rect.side(*side);
                let end = |along: f64| if line.north_south { (line.at, along) } else { (along, line.at) };
                ((end(line.from), end(line.to)), None)
            }
            _ => {
                let (w, d) = size.or(usual.0).unwrap_or_default();
                // A breast lies along the wall it stands at.
                let along_side = place.sides.first().is_some_and(|side| matches!(side, Side::East | Side::West));
                let (w, d) = if size.is_none() && along_side && w > d { (d, w) } else { (w, d) };
                let outline = place_in(&rect, place, (w.min(rect.width), d.min(rect.depth)));
                let (x, y) = (outline.x + outline.width / 2.0, outline.y + outline.depth / 2.0);
                let ends = if outline.width >= outline.depth {
                    ((outline.x, y), (outline.east(), y))
                } else {
                    ((x, outline.y), (x, outline.south()))
                };
                (ends, Some(outline))
            }
        };
        let height = height.or(Some(usual.1).filter(|usual| usual.is_finite()));
        let depth = depth.unwrap_or(outline.map_or(usual.2, |outline| outline.width.min(outline.depth)));
        if height.is_some_and(|height| !(0.2..=40.0).contains(&height)) || !(0.0..=200.0).contains(&depth) {
            let told = "This height or depth can't be; a thing in the way is 0.2 to 40 m high and up to 200 m deep.";
            return Err(Wrong::new(thing.from, thing.to, told));
        }
        self.found.solids.push(FittedSolid { room: index, kind, ends, height, depth, source });
        outline.map_or(Ok(()), |outline| self.inside(&rect, &outline, thing, "This reaches"))
    }

    /// Tells what lies outside of its room.
    fn inside(&self, rect: &Rect, own: &Rect, thing: &Thing, what: &str) -> Result<(), Wrong> {
        let past = [rect.x - own.x, rect.y - own.y, own.east() - rect.east(), own.south() - rect.south()];
        let past = past.into_iter().fold(0.0, f64::max);
        if past <= SAME {
            return Ok(());
        }
        let told = format!("{what} {} outside of its room.", say_length(Metres::new(past), self.unit));
        Err(Wrong::new(thing.from, thing.to, told))
    }
}

/// Where a thing of this width begins along its wall, when that is said.
fn along(place: &Place, wall: &Stretch, width: f64) -> Option<f64> {
    let (at, _) = place.at?;
    let from_end = matches!(place.from, Some(Side::East | Side::South));
    Some(if from_end { wall.to - at.get() - width } else { wall.from + at.get() })
}

/// Where a thing of this size stands in a room: at a place, at sides, or in the middle.
fn place_in(rect: &Rect, place: &Place, (width, depth): (f64, f64)) -> Rect {
    let mut x = rect.x + (rect.width - width) / 2.0;
    let mut y = rect.y + (rect.depth - depth) / 2.0;
    for side in &place.sides {
        match side {
            Side::North => y = rect.y,
            Side::South => y = rect.south() - depth,
            Side::West => x = rect.x,
            Side::East => x = rect.east() - width,
        }
    }
    match place.at {
        Some((east, Some(south))) => (x, y) = (rect.x + east.get(), rect.y + south.get()),
        Some((along, None)) => match (place.sides.first(), place.from) {
            (Some(Side::North | Side::South), Some(Side::East)) => x = rect.east() - width - along.get(),
            (Some(Side::North | Side::South), _) => x = rect.x + along.get(),
            (Some(_), Some(Side::South)) => y = rect.south() - depth - along.get(),
            (Some(_), _) => y = rect.y + along.get(),
            (None, _) => {}
        },
        None => {}
    }
    Rect { x, y, width, depth }
}
