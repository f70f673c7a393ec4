//! All typed lines of a house, placed: rooms with what is in them, and what is wrong with the lines.

use busy_hen_home::{LengthUnit, Level, LevelId};
use busy_hen_units::Metres;

use super::anchor::beside_overlap;
use super::cut_out::over_a_room;
use super::fittings::{Fitter, Fittings, Source};
use super::lengths::say_length;
use super::line::Anchor;
use super::place::{LineFault, OfRoom, Pending, Placed, find, nearest, overlap, place_all, read_all, rects, same_name};
use super::thing::Named;
use super::wrong::Wrong;

/// Most things that lines put into rooms.
const THINGS_LIMIT: usize = 2000;

/// What all typed lines of a house come to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Typed {
    /// Rooms in the order of their lines.
    pub rooms: Vec<Placed>,
    /// What is in them.
    pub fittings: Fittings,
    /// Faults in the order of their lines.
    pub faults: Vec<LineFault>,
    /// What is taken as it stands and may be meant otherwise.
    pub doubts: Vec<LineFault>,
}

/// Draws the typed lines of all levels; a wrong line is told and the rest still stands.
///
/// The first room of a level lies at the origin unless its line says otherwise; lines may refer to later ones.
#[must_use]
pub fn draw(levels: &[Level], unit: LengthUnit) -> Typed {
    let mut faults = Vec::new();
    let (mut pending, of_rooms) = read_all(levels, unit, &mut faults);
    place_all(&mut pending);
    let mut rooms: Vec<Placed> = Vec::new();
    for room in &pending {
        let fault = |wrong| LineFault { level_id: room.level.id, line: room.line_index, wrong };
        let Some(rect) = room.rect else {
            faults.push(fault(unplaced(room, &pending)));
            continue;
        };
        let rects = rects(&room.line, rect);
        let of_level = || rooms.iter().filter(|other| other.level_id == room.level.id);
        // Something may be built in a garden: what is indoors and what is outdoors do not dispute a place.
        let overlapped = of_level()
            .filter(|other| other.outdoors == room.line.outdoors)
            .find_map(|other| Some((other, overlap(&other.rects, &rects)?)));
        if let Some((other, (width, depth))) = overlapped {
            let by = say_length(Metres::new(width.min(depth)), unit);
            let told =
                format!("{} would overlap {} by {by}; change a size or shift it.", room.line.name.name, other.name);
            let wrong = Wrong::new(room.line.name.from, room.length, told);
            faults.push(fault(beside_overlap(wrong, room, &pending, &of_level().cloned().collect::<Vec<_>>(), unit)));
            continue;
        }
        rooms.push(Placed {
            level_id: room.level.id,
            line: room.line_index,
            name: room.line.name.name.clone(),
            rects,
            outdoors: room.line.outdoors,
        });
    }
    let fittings = fit_all(&rooms, of_rooms, unit, &pending, &mut faults);
    let order = |id: LevelId| levels.iter().position(|level| level.id == id);
    faults.sort_by_key(|fault| (order(fault.level_id), fault.line, fault.wrong.from));
    let over_rooms = (0..pending.len()).filter(|index| pending[*index].line.outdoors).filter_map(|index| {
        let area = &pending[index];
        let own = rooms.iter().find(|room| (room.level_id, room.line) == (area.level.id, area.line_index))?;
        let wrong = over_a_room(index, &pending, (&own.rects, &rooms), unit)?;
        Some(LineFault { level_id: area.level.id, line: area.line_index, wrong })
    });
    let doubts = pending.iter().filter_map(|room| ambiguity(room, &pending, unit)).chain(over_rooms).collect();
    Typed { rooms, fittings, faults, doubts }
}

/// What may be meant otherwise: a size in another unit, or the end of a name as the beginning of a size ("Kitchen 4 2 x 3").
fn ambiguity(room: &Pending<'_>, all: &[Pending<'_>], unit: LengthUnit) -> Option<LineFault> {
    if let Some(wrong) = &room.line.doubt {
        return Some(LineFault { level_id: room.level.id, line: room.line_index, wrong: wrong.clone() });
    }
    let name = &room.line.name;
    let (stem, number) = name.name.rsplit_once(' ')?;
    let number: f64 = number.parse().ok().filter(|number: &f64| number.fract() == 0.0)?;
    let begins_alike = |other: &&Pending<'_>| other.line.name.name.to_lowercase().starts_with(&stem.to_lowercase());
    let (width, is_whole) = room.line.width_as_typed;
    let (most, mark) = match unit {
        LengthUnit::Metre => (10.0, "."),
        LengthUnit::Foot => (12.0, "'"),
    };
    if !is_whole || width >= most || number < 1.0 || all.iter().filter(begins_alike).count() > 1 {
        return None;
    }
    let told = format!("“{}” is taken as the name; if {number} {width} is a length, write it as one.", name.name);
    let from = name.to - number.to_string().len();
    let end = from + number.to_string().len();
    let wrong = Wrong::new(name.from, name.to, told).or_at(end, room.line.size_span.0, mark);
    Some(LineFault { level_id: room.level.id, line: room.line_index, wrong })
}

fn fit_all(
    rooms: &[Placed],
    of_rooms: Vec<OfRoom>,
    unit: LengthUnit,
    pending: &[Pending<'_>],
    faults: &mut Vec<LineFault>,
) -> Fittings {
    let mut fitter = Fitter { rooms, unit, found: Fittings::default() };
    let mut count = 0;
    for OfRoom { level_id, line, name, things } in of_rooms {
        let Some(index) = rooms.iter().position(|room| same_name(&room.name, &name)) else {
            // A room whose own line is wrong is told there.
            if pending.iter().all(|room| !same_name(&room.line.name.name, &name)) {
                let told = format!("There is no room called {name}; what is in a room stands under its line.");
                let wrong = Wrong::new(0, name.chars().count(), told);
                let like = nearest(&name, rooms.iter().map(|room| room.name.as_str()));
                let wrong = like.map_or(wrong.clone(), |like| wrong.or(like));
                faults.push(LineFault { level_id, line, wrong });
            }
            continue;
        };
        for thing in &things {
            count += 1;
            let fitted = if count > THINGS_LIMIT {
                let told =
                    format!("A home has at most {THINGS_LIMIT} doors, windows and other things here; remove some.");
                Err(Wrong::new(thing.from, thing.to, told))
            } else {
                fitter.fit(index, thing, Source { level_id, line, from: thing.from })
            };
            if let Err(wrong) = fitted {
                faults.push(LineFault { level_id, line, wrong });
            }
        }
    }
    fitter.found
}

/// Why a line that reads well has no place.
fn unplaced(room: &Pending<'_>, all: &[Pending<'_>]) -> Wrong {
    match &room.line.anchor {
        None | Some(Anchor::At(..)) => {
            let first = first_name(room, all);
            let told = format!("Say where {} lies, as in “east of {first}”.", room.line.name.name);
            let wrong = Wrong::new(room.line.name.from, room.line.size_span.1, told);
            let at = room.line.place_span.1;
            ["east", "south", "west", "north"]
                .iter()
                .fold(wrong, |wrong, side| wrong.or_at(at, at, &format!(" {side} of {first}")))
        }
        Some(Anchor::Beside(_, named)) => no_neighbour(room, named, all, true),
        Some(Anchor::Above(named) | Anchor::Below(named)) => no_neighbour(room, named, all, false),
    }
}

fn first_name<'a>(room: &Pending<'_>, all: &'a [Pending<'_>]) -> &'a str {
    all.iter().find(|other| other.level.id == room.level.id).map_or("Hall", |other| other.line.name.name.as_str())
}

fn no_neighbour(room: &Pending<'_>, named: &Named, all: &[Pending<'_>], same_level: bool) -> Wrong {
    let own = &room.line.name.name;
    let wrong = |told: String| Wrong::new(named.from, named.to, told);
    let Some(other) = find(all, named) else {
        let others = all.iter().map(|other| other.line.name.name.as_str()).filter(|other| !same_name(other, own));
        return match nearest(&named.name, others) {
            Some(other) => wrong(format!("There is no room called {}; did you mean {other}?", named.name)).or(other),
            None => wrong(format!("There is no room called {}; name one that has a line of its own.", named.name)),
        };
    };
    let name = &other.line.name.name;
    if same_name(name, own) {
        wrong(format!("{own} can't be placed by itself; name another room."))
    } else if same_level != (other.level.id == room.level.id) {
        if same_level {
            let told = format!("{name} is on another level; write “above {name}” or “below {name}”.");
            let from = room.line.place_span.0;
            let span = (from, named.to);
            wrong(told).or_at(span.0, span.1, &format!(" above {name}")).or_at(
                span.0,
                span.1,
                &format!(" below {name}"),
            )
        } else {
            wrong(format!("{name} is on this same level; write “east of {name}” or another side."))
        }
    } else {
        wrong(format!("{name} has no place of its own yet; mend its line first."))
    }
}
