//! All typed lines of a house, placed: rooms as rectangles, and what is wrong with the lines that can't be.

use busy_hen_home::{LengthUnit, Level, LevelId, ROOMS_LIMIT, Side};
use serde::Serialize;
use utoipa::ToSchema;

use super::line::{Align, Anchor, Named, RoomLine, Wrong, read};
use super::shapes::Rect;

/// Two rooms of one level may overlap by this much before it is called a fault, m: paces are not that exact.
const OVERLAP_TOLERANCE: f64 = 0.02;

/// A room that its line places.
#[derive(Debug, Clone, PartialEq)]
pub struct Placed {
    /// The level.
    pub level_id: LevelId,
    /// Line of the level's text, counted from 0.
    pub line: usize,
    /// Name as typed.
    pub name: String,
    /// Where it lies.
    pub rect: Rect,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// What is wrong with a typed line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct LineFault {
    /// The level.
    pub level_id: LevelId,
    /// Line of the level's text, counted from 0.
    pub line: usize,
    /// Characters at fault and what to do.
    #[serde(flatten)]
    pub wrong: Wrong,
}

/// What all typed lines of a house come to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Typed {
    /// Rooms in the order of their lines.
    pub rooms: Vec<Placed>,
    /// Faults in the order of their lines.
    pub faults: Vec<LineFault>,
}

struct Pending<'a> {
    level: &'a Level,
    line_index: usize,
    first_of_level: bool,
    line: RoomLine,
    length: usize,
    rect: Option<Rect>,
}

/// Draws the typed lines of all levels; a wrong line is told and the rest still stands.
///
/// The first room of a level lies at the origin unless its line says otherwise; lines may refer to later ones.
#[must_use]
pub fn draw(levels: &[Level], unit: LengthUnit) -> Typed {
    let mut faults = Vec::new();
    let mut pending = read_all(levels, unit, &mut faults);
    loop {
        let mut moved = false;
        for index in 0..pending.len() {
            if pending[index].rect.is_none()
                && let Some(rect) = place(&pending[index], &pending)
            {
                pending[index].rect = Some(rect);
                moved = true;
            }
        }
        if !moved {
            break;
        }
    }
    let mut rooms: Vec<Placed> = Vec::new();
    for room in &pending {
        let fault = |from, to, message| LineFault {
            level_id: room.level.id,
            line: room.line_index,
            wrong: Wrong { from, to, message },
        };
        let Some(rect) = room.rect else {
            faults.push(unplaced(room, &pending));
            continue;
        };
        let overlapped = rooms
            .iter()
            .filter(|other| other.level_id == room.level.id)
            .find(|other| other.rect.overlap(&rect).is_some_and(|(w, d)| w.min(d) > OVERLAP_TOLERANCE));
        if let Some(other) = overlapped {
            let depth = other.rect.overlap(&rect).map_or(0.0, |(w, d)| w.min(d));
            let message = format!(
                "{} would overlap {} by {depth:.2} m; change a size or add an offset.",
                room.line.name, other.name
            );
            faults.push(fault(0, room.length, message));
            continue;
        }
        rooms.push(Placed {
            level_id: room.level.id,
            line: room.line_index,
            name: room.line.name.clone(),
            rect,
            outdoors: room.line.outdoors,
        });
    }
    let order = |id: LevelId| levels.iter().position(|level| level.id == id);
    faults.sort_by_key(|fault| (order(fault.level_id), fault.line));
    Typed { rooms, faults }
}

fn read_all<'a>(levels: &'a [Level], unit: LengthUnit, faults: &mut Vec<LineFault>) -> Vec<Pending<'a>> {
    let mut pending: Vec<Pending<'a>> = Vec::new();
    for level in levels {
        let mut first_of_level = true;
        for (line_index, text) in level.lines.lines().enumerate() {
            let fault = |wrong| LineFault { level_id: level.id, line: line_index, wrong };
            let length = text.chars().count();
            let line = match read(text, unit) {
                Ok(None) => continue,
                Err(wrong) => {
                    faults.push(fault(wrong));
                    continue;
                }
                Ok(Some(line)) => line,
            };
            if pending.iter().any(|room| same_name(&room.line.name, &line.name)) {
                let message = format!("There is already a room called {}; give this one another name.", line.name);
                faults.push(fault(Wrong { from: 0, to: line.name.chars().count().min(length), message }));
                continue;
            }
            if pending.len() >= ROOMS_LIMIT {
                let message = format!("A home has at most {ROOMS_LIMIT} rooms here; remove some lines.");
                faults.push(fault(Wrong { from: 0, to: length, message }));
                continue;
            }
            pending.push(Pending { level, line_index, first_of_level, line, length, rect: None });
            first_of_level = false;
        }
    }
    pending
}

/// Whether two names mean the same room.
#[must_use]
pub fn same_name(a: &str, b: &str) -> bool {
    a.trim().to_lowercase() == b.trim().to_lowercase()
}

fn find<'a>(rooms: &'a [Pending<'_>], named: &Named) -> Option<&'a Pending<'a>> {
    rooms.iter().find(|room| same_name(&room.line.name, &named.name))
}

fn place(room: &Pending<'_>, all: &[Pending<'_>]) -> Option<Rect> {
    let (width, depth) = (room.line.width.get(), room.line.depth.get());
    let (along, south) = (room.line.offset.0.get(), room.line.offset.1.get());
    let aligned = |start: f64, length: f64, own: f64| match room.line.align {
        Align::Start => start,
        Align::End => start + length - own,
        Align::Centre => start + (length - own) / 2.0,
    };
    let (x, y) = match &room.line.anchor {
        None if room.first_of_level => (along, south),
        None => return None,
        Some(Anchor::At(east, south)) => (east.get(), south.get()),
        Some(Anchor::Beside(side, named)) => {
            let other = find(all, named).filter(|other| other.level.id == room.level.id)?.rect?;
            match side {
                Side::North => (aligned(other.x, other.width, width) + along, other.y - depth),
                Side::South => (aligned(other.x, other.width, width) + along, other.y + other.depth),
                Side::West => (other.x - width, aligned(other.y, other.depth, depth) + along),
                Side::East => (other.x + other.width, aligned(other.y, other.depth, depth) + along),
            }
        }
        Some(Anchor::Above(named) | Anchor::Below(named)) => {
            let other = find(all, named).filter(|other| other.level.id != room.level.id)?.rect?;
            (aligned(other.x, other.width, width) + along, aligned(other.y, other.depth, depth) + south)
        }
    };
    Some(Rect::new(x, y, width, depth))
}

/// Why a line that reads well has no place.
fn unplaced(room: &Pending<'_>, all: &[Pending<'_>]) -> LineFault {
    let (from, to, message) = match &room.line.anchor {
        None | Some(Anchor::At(..)) => {
            (0, room.length, format!("Say where {} lies, as in “east of {}”.", room.line.name, first_name(room, all)))
        }
        Some(Anchor::Beside(_, named)) => (named.from, named.to, no_neighbour(room, named, all, true)),
        Some(Anchor::Above(named) | Anchor::Below(named)) => {
            (named.from, named.to, no_neighbour(room, named, all, false))
        }
    };
    LineFault { level_id: room.level.id, line: room.line_index, wrong: Wrong { from, to, message } }
}

fn first_name<'a>(room: &Pending<'_>, all: &'a [Pending<'_>]) -> &'a str {
    all.iter().find(|other| other.level.id == room.level.id).map_or("Hall", |other| other.line.name.as_str())
}

fn no_neighbour(room: &Pending<'_>, named: &Named, all: &[Pending<'_>], same_level: bool) -> String {
    let Some(other) = find(all, named) else {
        let nearest = all
            .iter()
            .filter(|other| !same_name(&other.line.name, &room.line.name))
            .map(|other| (strsim::jaro_winkler(&other.line.name.to_lowercase(), &named.name.to_lowercase()), other))
            .filter(|(likeness, _)| *likeness > 0.75)
            .max_by(|a, b| a.0.total_cmp(&b.0));
        return match nearest {
            Some((_, other)) => {
                format!("There is no room called {}; did you mean {}?", named.name, other.line.name)
            }
            None => format!("There is no room called {}; name one that has a line of its own.", named.name),
        };
    };
    if same_name(&other.line.name, &room.line.name) {
        format!("{} can't be placed by itself; name another room.", room.line.name)
    } else if same_level != (other.level.id == room.level.id) {
        if same_level {
            format!("{} is on another level; write “above {}” or “below {0}”.", other.line.name, other.line.name)
        } else {
            format!("{} is on this same level; write “east of {}” or another side.", other.line.name, other.line.name)
        }
    } else {
        format!("{} has no place of its own yet; mend its line first.", other.line.name)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_units::Metres;

    fn level(name: &str, lines: &str) -> Level {
        Level {
            id: LevelId::named(name),
            name: name.into(),
            height_m: Metres::new(2.6),
            floor: "timber_floor".into(),
            lines: lines.into(),
        }
    }

    fn rect(typed: &Typed, name: &str) -> (f64, f64, f64, f64) {
        let rect = typed.rooms.iter().find(|room| room.name == name).unwrap().rect;
        (rect.x, rect.y, rect.width, rect.depth)
    }

    fn faults(lines: &str) -> Vec<String> {
        draw(&[level("g", lines)], LengthUnit::Metre).faults.into_iter().map(|fault| fault.wrong.message).collect()
    }

    #[test]
    fn rooms_lie_where_their_lines_say() {
        let typed = draw(
            &[
                level(
                    "ground",
                    "Hall 2 x 5\nKitchen 4 x 3 east of Hall\nLounge 4 x 2 east of Hall flush south\n\
                     Porch 1 x 1 north of Hall centred\nStore 1 x 2 west of Hall offset 0.5",
                ),
                level("upper", "Landing 2 x 5 above Hall\nAttic 3 x 3 above Kitchen offset 0.5, 0.25"),
            ],
            LengthUnit::Metre,
        );
        assert_eq!(typed.faults, []);
        assert_eq!(rect(&typed, "Kitchen"), (2.0, 0.0, 4.0, 3.0));
        assert_eq!(rect(&typed, "Lounge"), (2.0, 3.0, 4.0, 2.0));
        assert_eq!(rect(&typed, "Porch"), (0.5, -1.0, 1.0, 1.0));
        assert_eq!(rect(&typed, "Store"), (-1.0, 0.5, 1.0, 2.0));
        assert_eq!(rect(&typed, "Attic"), (2.5, 0.25, 3.0, 3.0));
    }

    #[test]
    fn a_line_may_refer_to_a_later_one() {
        let typed = draw(&[level("g", "Hall 2 x 5\nA 1 x 1 east of B\nB 1 x 1 east of Hall")], LengthUnit::Metre);
        assert_eq!(rect(&typed, "A"), (3.0, 0.0, 1.0, 1.0));
    }

    #[test]
    fn a_wrong_line_is_marked_and_the_rest_still_draws() {
        let typed = draw(
            &[level("g", "Hall 2 x 5\nKitchen 4 x 3 east of Hal\nLounge 4 x 3 west of Hall\nBath ?")],
            LengthUnit::Metre,
        );
        assert_eq!(typed.rooms.iter().map(|room| room.name.as_str()).collect::<Vec<_>>(), ["Hall", "Lounge"]);
        assert_eq!(typed.faults.iter().map(|fault| fault.line).collect::<Vec<_>>(), [1, 3]);
        assert!(typed.faults[0].wrong.message.contains("did you mean Hall?"));
    }

    #[test]
    fn what_can_not_be_placed_says_why() {
        assert!(faults("Hall 2 x 2\nBath 2 x 2")[0].contains("Say where Bath lies, as in “east of Hall”"));
        assert!(faults("Hall 2 x 2\nhall 3 x 3 east of Hall")[0].contains("already a room"));
        assert!(faults("Hall 2 x 2\nA 2 x 2 east of A")[0].contains("by itself"));
        assert!(faults("Hall 2 x 2\nA 2 x 2 east of B\nB 2 x 2 east of A")[0].contains("no place of its own"));
        assert!(faults("Hall 2 x 2\nA 2 x 2 above Hall")[0].contains("same level"));
        assert!(
            faults("Hall 2 x 2\nA 2 x 2 east of Hall\nB 2 x 2 east of Hall offset 1")[0]
                .contains("overlap A by 1.00 m")
        );
    }
}
