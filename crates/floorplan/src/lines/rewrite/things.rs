//! Doors, windows and other things of rooms: moved, taken out, put in.

use busy_hen_home::{LengthUnit, Level, LevelId, MaterialKey, Side};
use busy_hen_units::Metres;

use super::edit::{CanNot, Edit, apply};
use super::snap::{round, step};
use crate::lines::anchor::SAME;
use crate::lines::draw::draw;
use crate::lines::fittings::{FittedOpening, Source};
use crate::lines::lengths::write_length;
use crate::lines::line::{Of, read};
use crate::lines::place::{Pending, same_name};
use crate::lines::thing::{Place, Thing, What};
use crate::lines::words::{material_word, side_word};
use crate::lines::write::at_clause;

/// A line of things longer than this is carried on in another, characters.
pub(super) const LONG_LINE: usize = 90;

/// The thing that begins at this character of a line, with the line.
pub(super) fn thing_at(
    levels: &[Level],
    unit: LengthUnit,
    (level_id, line, from): (LevelId, usize, usize),
) -> Result<(Thing, String), CanNot> {
    let gone = || CanNot("This is no longer there; the lines have changed.".into());
    let level = levels.iter().find(|level| level.id == level_id).ok_or_else(gone)?;
    let text = level.lines.split('\n').nth(line).ok_or_else(gone)?;
    let read = read(text, unit).ok().flatten().ok_or_else(gone)?;
    let thing = read.things.into_iter().find(|thing| thing.from == from).ok_or_else(gone)?;
    Ok((thing, text.to_owned()))
}

pub(super) fn move_thing(
    levels: &[Level],
    unit: LengthUnit,
    at: (LevelId, usize, usize),
    (dx, dy): (f64, f64),
    snap: bool,
) -> Result<Edit, CanNot> {
    let (thing, _) = thing_at(levels, unit, at)?;
    let typed = draw(levels, unit);
    let source = Source { level_id: at.0, line: at.1, from: at.2 };
    let whole = |value: f64| if snap { (value / step(unit)).round() * step(unit) } else { value };
    let length = |metres: f64| write_length(Metres::new(round(metres)), unit);
    let clause = if let Some(own) = typed.fittings.openings.iter().find(|own| own.source == source) {
        let by = if own.wall.north_south { dy } else { dx };
        along_clause(own, by, thing.place.from, whole, unit)
    } else if let Some(own) = typed.fittings.stairs.iter().find(|own| own.source == source) {
        let room = typed.rooms[own.room].rects[thing.place.part.unwrap_or(0)];
        let x = whole(own.rect.x + dx - room.x).clamp(0.0, (room.width - own.rect.width).max(0.0));
        let y = whole(own.rect.y + dy - room.y).clamp(0.0, (room.depth - own.rect.depth).max(0.0));
        format!("at {}, {}", length(x), length(y))
    } else if let Some(own) = typed.fittings.sockets.iter().find(|own| own.source == source) {
        let room = typed.rooms[own.room].rects[thing.place.part.unwrap_or(0)];
        match own.side {
            Some(side) => {
                let wall = room.side(side);
                let along = if wall.north_south { own.at.1 + dy } else { own.at.0 + dx };
                let along = whole(along - wall.from).clamp(0.0, wall.to - wall.from);
                at_clause(Metres::new(round(along)), None, unit)
            }
            None => {
                let x = whole(own.at.0 + dx - room.x).clamp(0.0, room.width);
                let y = whole(own.at.1 + dy - room.y).clamp(0.0, room.depth);
                format!("at {}, {}", length(x), length(y))
            }
        }
    } else if let Some(own) = typed.fittings.solids.iter().find(|own| own.source == source) {
        let room = typed.rooms[own.room].rects[thing.place.part.unwrap_or(0)];
        let ends = [own.ends.0, own.ends.1].map(|(x, y)| (x - room.x + dx, y - room.y + dy));
        match &thing.what {
            // What has an outline is told by its corner, what is a line by its ends.
            What::Solid { .. } if is_outlined(&thing.place, &thing.what) => {
                let half = own.depth / 2.0;
                let (low_x, low_y) = (ends[0].0.min(ends[1].0), ends[0].1.min(ends[1].1));
                let along_x = (ends[0].1 - ends[1].1).abs() < SAME;
                let corner = if along_x { (low_x, low_y - half) } else { (low_x - half, low_y) };
                format!("at {}, {}", length(whole(corner.0)), length(whole(corner.1)))
            }
            _ => {
                let [a, b] = ends.map(|(x, y)| format!("{}, {}", length(whole(x)), length(whole(y))));
                format!("at {a} to {b}")
            }
        }
    } else {
        return Err(CanNot("This has no place in the house yet; mend its line first.".into()));
    };
    let (from, to) = thing.place.at_span;
    let with = if from == to { format!(" {clause}") } else { clause };
    Ok(Edit { level_id: at.0, line: at.1, from, to, with })
}

/// Whether a thing in the way has an outline of its own, not only ends.
pub(super) fn is_outlined(place: &Place, what: &What) -> bool {
    use busy_hen_home::ObstacleKind as Kind;
    match what {
        What::Solid { kind, size, .. } => {
            place.to.is_none() && (size.is_some() || !matches!(kind, Kind::Hedge | Kind::GardenWall))
        }
        _ => false,
    }
}

pub(super) fn along_clause(
    own: &FittedOpening,
    by: f64,
    from: Option<Side>,
    whole: impl Fn(f64) -> f64,
    unit: LengthUnit,
) -> String {
    let width = own.along.1 - own.along.0;
    let length = own.wall.to - own.wall.from;
    let start = (own.along.0 + by - own.wall.from).clamp(0.0, (length - width).max(0.0));
    let from_end = matches!(from, Some(Side::East | Side::South));
    let told = if from_end { length - width - start } else { start };
    let told = whole(told).clamp(0.0, (length - width).max(0.0));
    at_clause(Metres::new(round(told)), from, unit)
}

pub(super) fn remove_thing(levels: &mut [Level], level_id: LevelId, line: usize, thing: &Thing, text: &str) {
    let chars: Vec<char> = text.chars().collect();
    let is_gap = |at: usize| chars.get(at).is_some_and(|c| c.is_whitespace() || *c == ';');
    let (mut from, mut to) = (thing.from, thing.to);
    while from > 0 && is_gap(from - 1) {
        from -= 1;
    }
    let only_dash = chars[..from].iter().all(|c| matches!(c, '-' | '–' | '•') || c.is_whitespace());
    let is_named = from > 0 && chars[from - 1] == ':';
    if only_dash || is_named {
        // The first of a line of things: what follows takes its place.
        from = thing.from;
        while is_gap(to) {
            to += 1;
        }
        if to >= chars.len() {
            let Some(level) = levels.iter_mut().find(|level| level.id == level_id) else { return };
            let mut lines: Vec<&str> = level.lines.split('\n').collect();
            if line < lines.len() {
                lines.remove(line);
            }
            level.lines = lines.join("\n");
            return;
        }
    }
    apply(levels, vec![Edit { level_id, line, from, to, with: String::new() }]);
}

/// Puts words into a room: on the line of things under it, or on one of its own.
pub(crate) fn add_thing(levels: &mut [Level], room: &Pending<'_>, words: &str) {
    let Some(level) = levels.iter_mut().find(|level| level.id == room.level.id) else { return };
    let mut lines: Vec<String> = level.lines.split('\n').map(str::to_owned).collect();
    let mut last = room.line_index;
    while lines.get(last + 1).is_some_and(|line| line.trim_start().starts_with('-')) {
        last += 1;
    }
    let carries_on = last > room.line_index
        && lines[last].chars().count() + words.chars().count() < LONG_LINE
        && !lines[last].contains('#');
    if carries_on {
        let kept = lines[last].trim_end().len();
        lines[last].truncate(kept);
        lines[last].push_str(&format!("; {words}"));
    } else {
        lines.insert(last + 1, format!("- {words}"));
    }
    level.lines = lines.join("\n");
}

pub(super) fn set_wall(
    levels: &mut [Level],
    room: &Pending<'_>,
    unit: LengthUnit,
    side: Side,
    made_of: Option<(&MaterialKey, Option<Metres>)>,
) -> Result<(), CanNot> {
    let words = made_of.map(|(key, thickness)| {
        let thick = thickness.map(|thick| format!(" {}", write_length(thick, unit))).unwrap_or_default();
        format!("{} {}{thick}", side_word(side), material_word(&key.0))
    });
    let says = |thing: &Thing| matches!(thing.what, What::Wall { .. }) && thing.place.sides == [side];
    let found = own_lines(levels, room, unit)
        .into_iter()
        .find_map(|(line, text, things)| things.into_iter().find(|thing| says(thing)).map(|thing| (line, text, thing)));
    match (found, words) {
        (Some((line, _, thing)), Some(words)) => {
            apply(levels, vec![Edit { level_id: room.level.id, line, from: thing.from, to: thing.to, with: words }]);
        }
        (Some((line, text, thing)), None) => remove_thing(levels, room.level.id, line, &thing, &text),
        (None, Some(words)) => add_thing(levels, room, &words),
        (None, None) => {}
    }
    Ok(())
}

/// Lines that say what is in a room: its own, those under it, and those that name it.
pub(super) fn own_lines(levels: &[Level], room: &Pending<'_>, unit: LengthUnit) -> Vec<(usize, String, Vec<Thing>)> {
    let name = &room.line.name.name;
    let mut list = Vec::new();
    let Some(level) = levels.iter().find(|level| level.id == room.level.id) else { return list };
    let mut above = false;
    for (index, text) in level.lines.split('\n').enumerate() {
        let Ok(Some(line)) = read(text, unit) else { continue };
        let own = match &line.of {
            Of::Room(own) => {
                above = same_name(&own.name.name, name);
                above
            }
            Of::Above => above,
            Of::Named(named) => same_name(&named.name, name),
        };
        if own {
            list.push((index, text.to_owned(), line.things));
        }
    }
    list
}
