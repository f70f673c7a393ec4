//! Doors, windows and stairs: those that are drawn, and those that every home has though nobody drew them.

use busy_hen_catalogue::{Material, materials};
use busy_hen_home::{Opening, OpeningKind, PerBand, Side, Stairwell};

use super::lines::fittings::{FittedOpening, FittedStairs, meeting};
use super::lines::thing::Gap;
use super::parts::{Floor, Guess, Hole, PlanRoom, Stands, There, Wall, WallOpening};
use super::shapes::{Rect, Stretch};

/// Height of a door, m.
const DOOR_HEIGHT: f64 = 2.0;
/// Lower and upper edge of a window, m.
const WINDOW_EDGES: (f64, f64) = (0.9, 2.1);
/// Width of a door that nobody drew, m.
const DOOR_WIDTH: f64 = 0.8;
/// Two rooms share a door only along at least so much wall, m.
const DOOR_NEEDS: f64 = 0.9;
/// Part of an outer side that a window nobody drew takes where it is small and where it is large, and the least side that has one, m.
const WINDOW_PARTS: (f64, f64) = (0.2, 0.5);
const WINDOW_NEEDS: f64 = 1.2;
/// A hole for stairs that nobody drew, m.
const STAIRS: (f64, f64) = (0.9, 2.2);
/// Fills doors that nobody drew.
const DOOR: &str = "door";

/// Coordinates that differ by less are one, m.
const SAME: f64 = 1e-6;

/// What fills a gap.
const OPEN: &str = "open";
const SIDES: [Side; 4] = [Side::North, Side::East, Side::South, Side::West];

/// Puts openings that lines say into the walls they lie in. A door between rooms usually stands open, others are shut, where nobody says.
pub fn said_openings(walls: &mut [Wall], rooms: &[PlanRoom], openings: &[FittedOpening], glazing: &'static Material) {
    for own in openings {
        let middle = f64::midpoint(own.along.0, own.along.1);
        let level = rooms[own.room].level;
        let Some(wall) = on_line(walls, level, &own.wall).find(|wall| wall.from <= middle && middle <= wall.to) else {
            continue;
        };
        let usual = match own.kind {
            Gap::Door => materials::find(DOOR),
            Gap::Window => Some(glazing),
            Gap::Gap => materials::find(OPEN),
        };
        let said = own.material.as_ref().and_then(|key| materials::find(&key.0));
        let Some(material) = said.or(usual) else { continue };
        let open = own.open.unwrap_or(match own.kind {
            Gap::Door => !wall.envelope,
            Gap::Window => false,
            Gap::Gap => true,
        });
        wall.openings.push(WallOpening {
            from: own.along.0.max(wall.from),
            to: own.along.1.min(wall.to),
            low: own.edges.0,
            high: own.edges.1,
            kind: if own.kind == Gap::Window { OpeningKind::Window } else { OpeningKind::Door },
            material,
            stands: if open { Stands::Open } else { Stands::Shut },
            assumed: false,
            there: There::Always,
            more: PerBand::default(),
            source: Some(own.source),
        });
    }
}

/// Puts drawn openings into the walls they lie in; one whose side has no wall there is of no account.
pub fn drawn_openings(walls: &mut [Wall], rooms: &[PlanRoom], openings: &[Opening]) {
    for opening in openings {
        let Some(room) = rooms.iter().find(|room| room.id == opening.room_id) else { continue };
        let Some(material) = materials::find(&opening.material.0) else { continue };
        let side = room.rect.side(opening.side);
        let middle = side.from + opening.along_part * (side.to - side.from);
        let Some(wall) = on_line(walls, room.level, &side).find(|wall| wall.from <= middle && middle <= wall.to) else {
            continue;
        };
        let half = opening.width_m.get() / 2.0;
        let (low, high) = if opening.kind == OpeningKind::Door { (0.0, DOOR_HEIGHT) } else { WINDOW_EDGES };
        wall.openings.push(WallOpening {
            from: (middle - half).max(wall.from),
            to: (middle + half).min(wall.to),
            low,
            high,
            kind: opening.kind,
            material,
            stands: if opening.open { Stands::Open } else { Stands::Shut },
            assumed: false,
            there: There::Always,
            more: PerBand::default(),
            source: None,
        });
    }
}

/// Walls of a level that lie on the line of this stretch.
fn on_line<'a>(walls: &'a mut [Wall], level: usize, line: &Stretch) -> impl Iterator<Item = &'a mut Wall> {
    let (north_south, at) = (line.north_south, line.at);
    walls
        .iter_mut()
        .filter(move |wall| wall.level == level && wall.north_south == north_south && (wall.at - at).abs() < SAME)
}

/// Where two indoor rooms of one level share enough wall for a door.
fn touch(a: &PlanRoom, b: &PlanRoom) -> Option<Stretch> {
    if a.id == b.id || a.level != b.level || a.outdoors || b.outdoors {
        return None;
    }
    let rects = |room: &PlanRoom| room.rects().copied().collect::<Vec<_>>();
    let (_, _, shared) = meeting(&rects(a), &rects(b))?;
    (shared.to - shared.from >= DOOR_NEEDS).then_some(shared)
}

/// How many rooms of its level a room touches.
fn neighbours(room: &PlanRoom, rooms: &[PlanRoom]) -> usize {
    rooms.iter().filter(|other| touch(room, other).is_some()).count()
}

/// Of these rooms the one that most others touch, the first of those that are alike: a hall or landing.
fn most_touched<'a>(of: impl Iterator<Item = &'a PlanRoom>, rooms: &[PlanRoom]) -> Option<&'a PlanRoom> {
    of.max_by_key(|room| (neighbours(room, rooms), std::cmp::Reverse(room.line)))
}

/// A room that so many others touch is a hall or landing.
const HALL_TOUCHES: usize = 4;

/// Gives every indoor room that has no way in drawn its doors, in each of the ways that a home may be joined: to the neighbour that most
/// rooms touch; and to the rooms beside it, a hall left out.
pub fn assumed_doors(walls: &mut [Wall], rooms: &[PlanRoom]) {
    let mut doors: Vec<(Stretch, usize, Guess)> = Vec::new();
    let add = |doors: &mut Vec<(Stretch, usize, Guess)>, shared: Stretch, level: usize, guess: Guess| {
        let same = |own: &Stretch| {
            own.north_south == shared.north_south
                && (own.at - shared.at).abs() < SAME
                && (own.middle() - shared.middle()).abs() < SAME
        };
        if !doors.iter().any(|(own, at, way)| *at == level && *way == guess && same(own)) {
            doors.push((shared, level, guess));
        }
    };
    for room in rooms.iter().filter(|room| !room.outdoors) {
        let touching = || rooms.iter().filter_map(|other| Some((other, touch(room, other)?)));
        let ways: Vec<Stretch> = touching().map(|(_, shared)| shared).collect();
        if ways.iter().any(|shared| is_way_in(walls, room.level, shared)) {
            continue;
        }
        let hub = most_touched(touching().map(|(other, _)| other), rooms).map(|hub| hub.id);
        for (other, shared) in touching() {
            if Some(other.id) == hub {
                add(&mut doors, shared, room.level, Guess::ByHall);
            }
            if Some(other.id) != hub || neighbours(other, rooms) < HALL_TOUCHES {
                add(&mut doors, shared, room.level, Guess::RoomToRoom);
            }
        }
    }
    put_doors(walls, &doors);
}

/// Puts these doors into their walls; one that is there in every way is put once.
fn put_doors(walls: &mut [Wall], doors: &[(Stretch, usize, Guess)]) {
    let Some(material) = materials::find(DOOR) else { return };
    for (shared, level, guess) in doors {
        let middle = shared.middle();
        let Some(wall) = on_line(walls, *level, shared).find(|wall| wall.from <= middle && middle <= wall.to) else {
            continue;
        };
        let (from, to) = (middle - DOOR_WIDTH / 2.0, middle + DOOR_WIDTH / 2.0);
        let twin = wall.openings.iter_mut().find(|own| own.assumed && (own.from - from).abs() < SAME);
        if let Some(twin) = twin {
            twin.there = There::Always;
            continue;
        }
        wall.openings.push(WallOpening {
            from,
            to,
            low: 0.0,
            high: DOOR_HEIGHT,
            kind: OpeningKind::Door,
            material,
            stands: Stands::Open,
            assumed: true,
            there: There::In(*guess),
            more: PerBand::default(),
            source: None,
        });
    }
}

/// Whether a shared stretch is open, or has a door drawn in it.
fn is_way_in(walls: &mut [Wall], level: usize, shared: &Stretch) -> bool {
    let middle = shared.middle();
    let mut open = true;
    for wall in on_line(walls, level, shared) {
        open &= !(wall.from <= middle && middle <= wall.to);
        let drawn = wall.openings.iter().any(|opening| {
            !opening.assumed
                && opening.kind == OpeningKind::Door
                && opening.from < shared.to
                && shared.from < opening.to
        });
        if drawn {
            return true;
        }
    }
    open
}

/// Gives every outer side that nobody said anything about a window, small in one way that a home may be and large in the other.
pub fn assumed_windows(
    walls: &mut [Wall],
    rooms: &[PlanRoom],
    said: impl Fn(&PlanRoom, Side) -> bool,
    glazing: &'static Material,
) {
    for room in rooms.iter().filter(|room| !room.outdoors) {
        let sides = SIDES.into_iter().filter(|side| !said(room, *side));
        for line in sides.flat_map(|side| room.rects().map(move |rect| rect.side(side))) {
            for wall in on_line(walls, room.level, &line).filter(|wall| wall.envelope) {
                let own = Stretch { from: line.from.max(wall.from), to: line.to.min(wall.to), ..line };
                let drawn = wall.openings.iter().any(|o| !o.assumed && o.from < own.to && own.from < o.to);
                if own.to - own.from < WINDOW_NEEDS || drawn {
                    continue;
                }
                let half = |part: f64| (own.to - own.from) * part / 2.0;
                let (small, large) = (half(WINDOW_PARTS.0), half(WINDOW_PARTS.1));
                let mut add = |from: f64, to: f64, there: There| {
                    wall.openings.push(WallOpening {
                        from: own.middle() + from,
                        to: own.middle() + to,
                        low: WINDOW_EDGES.0,
                        high: WINDOW_EDGES.1,
                        kind: OpeningKind::Window,
                        material: glazing,
                        stands: Stands::Shut,
                        assumed: true,
                        there,
                        more: PerBand::default(),
                        source: None,
                    });
                };
                add(-small, small, There::Always);
                add(-large, -small, There::In(Guess::RoomToRoom));
                add(small, large, There::In(Guess::RoomToRoom));
            }
        }
    }
}

/// Cuts drawn stairwells into the floor over their room.
pub fn drawn_stairs(floors: &mut [Floor], rooms: &[PlanRoom], stairwells: &[Stairwell]) {
    for stairwell in stairwells {
        let Some(room) = rooms.iter().find(|room| room.id == stairwell.room_id) else { continue };
        let Some(floor) = floors.iter_mut().find(|floor| floor.above == room.level + 1) else { continue };
        let (width, depth) = (stairwell.width_m.get(), stairwell.depth_m.get());
        let x = room.rect.x + stairwell.east_part * room.rect.width - width / 2.0;
        let y = room.rect.y + stairwell.south_part * room.rect.depth - depth / 2.0;
        let rect = Rect::new(x, y, width, depth);
        floor.holes.push(Hole { rect, assumed: false, there: There::Always, source: None });
    }
}

/// Cuts stairs that lines say into the floor over their room.
pub fn said_stairs(floors: &mut [Floor], rooms: &[PlanRoom], stairs: &[FittedStairs]) {
    for own in stairs {
        let above = rooms[own.room].level + 1;
        if let Some(floor) = floors.iter_mut().find(|floor| floor.above == above) {
            floor.holes.push(Hole { rect: own.rect, assumed: false, there: There::Always, source: Some(own.source) });
        }
    }
}

/// Cuts a hole for stairs into every floor that has none: where the halls of the two levels lie over each other, and in the other way
/// that a home may be, in the largest rooms that do.
pub fn assumed_stairs(floors: &mut [Floor], rooms: &[PlanRoom]) {
    for floor in floors.iter_mut().filter(|floor| floor.holes.is_empty()) {
        let of = |level: usize| rooms.iter().filter(move |room| room.level == level && !room.outdoors);
        let (below, above) = (floor.above - 1, floor.above);
        let hall = |level: usize| most_touched(of(level), rooms);
        let by_hall = hall(below).zip(hall(above)).and_then(|(below, above)| stairs_in(below, above));
        let pairs = of(below).flat_map(|own| of(above).map(move |over| (own, over)));
        let in_room = pairs
            .filter_map(|(own, over)| Some((own.rect.overlap(&over.rect)?, stairs_in(own, over)?)))
            .max_by(|(a, _), (b, _)| (a.0 * a.1).total_cmp(&(b.0 * b.1)))
            .map(|(_, stairs)| stairs);
        let mut add = |rect: Rect, there: There| floor.holes.push(Hole { rect, assumed: true, there, source: None });
        match (by_hall, in_room) {
            (Some(hall), Some(room)) if hall != room => {
                add(hall, There::In(Guess::ByHall));
                add(room, There::In(Guess::RoomToRoom));
            }
            (own, other) => own.or(other).into_iter().for_each(|rect| add(rect, There::Always)),
        }
    }
}

/// Stairs in the middle of where two rooms lie over each other; none where they don't.
fn stairs_in(below: &PlanRoom, above: &PlanRoom) -> Option<Rect> {
    let (width, depth) = below.rect.overlap(&above.rect)?;
    let (short, long) = STAIRS;
    let (w, d) = if width < depth { (short, long) } else { (long, short) };
    let (w, d) = (w.min(width), d.min(depth));
    let x = below.rect.x.max(above.rect.x) + (width - w) / 2.0;
    let y = below.rect.y.max(above.rect.y) + (depth - d) / 2.0;
    Some(Rect::new(x, y, w, d))
}

#[cfg(test)]
mod tests {
    use busy_hen_home::{House, LengthUnit, Level, LevelId, MaterialKey, Room, RoomId};
    use busy_hen_units::Metres;

    use super::*;
    use crate::Plan;

    fn house() -> House {
        let level = |name: &str, lines: &str| Level {
            id: LevelId::named(name),
            name: name.into(),
            height_m: Metres::new(2.5),
            floor: "timber_floor".into(),
            lines: lines.into(),
            tracing: None,
        };
        let room = |name: &str| Room { id: RoomId::named(name), name: name.into(), level_id: LevelId::named("ground") };
        House {
            levels: vec![
                level("ground", "Hall 1.5 x 6\nDen 3 x 3 east of Hall\nKitchen 3 x 3 south of Den"),
                level("upper", "Landing 1.5 x 6 above Hall\nBed 3 x 3 east of Landing"),
            ],
            rooms: vec![room("Hall"), room("Den"), room("Kitchen")],
            ..House::default()
        }
    }

    fn openings(house: &House) -> Vec<WallOpening> {
        let plan = Plan::new(house, LengthUnit::Metre);
        plan.walls.into_iter().filter(|wall| wall.level == 0).flat_map(|wall| wall.openings).collect()
    }

    fn doors(house: &House, guess: Guess) -> usize {
        let door = |own: &&WallOpening| own.kind == OpeningKind::Door && own.there.is_in(guess);
        openings(house).iter().filter(door).count()
    }

    fn door(room: &str, side: Side) -> Opening {
        Opening {
            room_id: RoomId::named(room),
            side,
            kind: OpeningKind::Door,
            material: MaterialKey::from("door"),
            open: true,
            along_part: 0.5,
            width_m: Metres::new(0.9),
        }
    }

    #[test]
    fn every_room_has_a_way_in_though_nobody_drew_it() {
        assert_eq!(doors(&house(), Guess::ByHall), 2, "den and kitchen each open to the hall");
        assert_eq!(doors(&house(), Guess::RoomToRoom), 3, "or to one another too: two rooms make no hall");
    }

    #[test]
    fn a_drawn_door_takes_the_place_of_the_assumed_one() {
        let mut house = house();
        house.openings = vec![door("Den", Side::South)];
        let found = openings(&house);
        let drawn: Vec<_> = found.iter().filter(|opening| !opening.assumed).collect();
        assert_eq!(drawn.len(), 1);
        assert_eq!(drawn[0].stands, Stands::Open);
        assert!((drawn[0].from - 2.55).abs() < 1e-9 && (drawn[0].to - 3.45).abs() < 1e-9, "{drawn:?}");
        assert_eq!(doors(&house, Guess::ByHall), 2, "den to kitchen as drawn; the hall still gets a door");
    }

    #[test]
    fn outer_sides_have_windows_unless_something_is_said_of_them() {
        let windows =
            |house: &House| openings(house).iter().filter(|opening| opening.kind == OpeningKind::Window).count();
        let all = windows(&house());
        let mut said = house();
        said.walls = vec![busy_hen_home::WallChoice {
            room_id: RoomId::named("Den"),
            side: Side::East,
            material: "cavity".into(),
            thickness_m: None,
        }];
        assert_eq!(windows(&said), all - 3, "a small one, and what makes it large");
    }

    #[test]
    fn stairs_lie_where_hall_and_landing_meet() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        let holes = &plan.floors[0].holes;
        assert_eq!(holes.len(), 2, "and, in the other way, in the largest rooms");
        assert_eq!(holes.iter().filter(|hole| hole.there.is_in(Guess::ByHall)).count(), 1);
        let rect = holes[0].rect;
        assert!(rect.x >= 0.0 && rect.east() <= 1.5 && rect.y >= 0.0 && rect.south() <= 6.0, "{rect:?}");
        let mut apart = house();
        apart.around.stairs = false;
        assert!(Plan::new(&apart, LengthUnit::Metre).floors[0].holes.is_empty(), "two homes over one another");
    }
}
