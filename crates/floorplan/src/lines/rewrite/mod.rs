//! What is done on the drawing, written into the lines: what the installer typed stays, comments and order kept, but for the piece that
//! says what was changed.

mod edit;
mod rooms;
mod snap;
mod things;

use busy_hen_home::{LengthUnit, Level, LevelId, MaterialKey, Side};
use busy_hen_units::Metres;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::anchor::placed_at;
use super::line::{Of, read};
use super::place::placed;
use super::wrong::Wrong;
use crate::shapes::Rect;
pub use edit::CanNot;
use edit::{apply, edit_of, place_edit};
pub use rooms::opposite;
use rooms::{add_room, copy_level, find, move_side, rect_of, renamed};
use snap::{snapped, snapped_whole};
pub(crate) use things::add_thing;
use things::{move_thing, remove_thing, set_wall, thing_at};

/// Something done on the drawing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "what", rename_all = "snake_case")]
pub enum Change {
    /// A room is moved; rooms that are placed from it go along.
    MoveRoom {
        /// Its name.
        room: String,
        /// East.
        east_m: Metres,
        /// South.
        south_m: Metres,
    },
    /// A side of a room is moved, with all rooms on both sides of that wall; everything else stays.
    MoveSide {
        /// Its name.
        room: String,
        /// Which part of it, counted from 0.
        part: usize,
        /// The side.
        side: Side,
        /// How far east or south.
        by_m: Metres,
    },
    /// A part of a room gets another size; its north-west corner stays.
    SetSize {
        /// Its name.
        room: String,
        /// Which part of it, counted from 0.
        part: usize,
        /// The size in the words of a line, as in "14' x 10'".
        size: String,
    },
    /// A door, window, stairs, socket or other thing is moved: along its wall, or about its room.
    MoveThing {
        /// The level whose text says it.
        level_id: LevelId,
        /// Line of that text, counted from 0.
        line: usize,
        /// First character of it.
        from: usize,
        /// East.
        east_m: Metres,
        /// South.
        south_m: Metres,
    },
    /// A thing is taken out.
    RemoveThing {
        /// The level whose text says it.
        level_id: LevelId,
        /// Line of that text, counted from 0.
        line: usize,
        /// First character of it.
        from: usize,
    },
    /// A room is drawn.
    AddRoom {
        /// Its level.
        level_id: LevelId,
        /// West side.
        x_m: Metres,
        /// North side.
        y_m: Metres,
        /// East-west size.
        width_m: Metres,
        /// North-south size.
        depth_m: Metres,
        /// Whether it is an outdoor area.
        outdoors: bool,
    },
    /// Something is put into a room, in the words of a line.
    AddThing {
        /// The room's name.
        room: String,
        /// What, as in "door north".
        words: String,
    },
    /// A side of a room is made of something else, or as the rest of the house.
    SetWall {
        /// The room's name.
        room: String,
        /// The side.
        side: Side,
        /// What it is made of; none to say nothing of it.
        material: Option<MaterialKey>,
        /// How thick, where that is not usual.
        thickness_m: Option<Metres>,
    },
    /// The rooms of a level are drawn once more on another, each over its like.
    CopyLevel {
        /// The level that is copied.
        of: LevelId,
        /// The level that they come to.
        to: LevelId,
    },
    /// A room gets another name, also where other lines name it.
    Rename {
        /// Its name.
        room: String,
        /// Its new name.
        to: String,
    },
}

/// Writes a change into the lines of the levels; `snap` lets it catch on other rooms and whole steps.
///
/// # Errors
/// [`CanNot`] when the change makes no sense: nothing of that name, no room for it.
pub fn rewrite(levels: &[Level], unit: LengthUnit, change: &Change, snap: bool) -> Result<Vec<Level>, CanNot> {
    let all = placed(levels, unit);
    let finite = |value: &Metres| value.get().is_finite() && value.get().abs() < 1000.0;
    let mut levels = levels.to_vec();
    match change {
        Change::MoveRoom { room, east_m, south_m } if finite(east_m) && finite(south_m) => {
            let index = find(&all, room)?;
            let rect = rect_of(&all, index)?;
            let wanted = Rect::new(rect.x + east_m.get(), rect.y + south_m.get(), rect.width, rect.depth);
            let wanted = if snap { snapped(&wanted, &rect, &all, index, unit) } else { wanted };
            let line = placed_at(&all, index, &wanted);
            if line != all[index].line {
                apply(&mut levels, vec![place_edit(&all[index], &line, unit)]);
            }
        }
        Change::MoveSide { room, part, side, by_m } if finite(by_m) => {
            let index = find(&all, room)?;
            let edits = move_side(&all, index, (*part, *side, by_m.get()), unit, snap)?;
            apply(&mut levels, edits);
        }
        Change::SetSize { room, part, size } => {
            let index = find(&all, room)?;
            let line = &all[index].line;
            let span = match part.checked_sub(1) {
                None => line.size_span,
                Some(added) => {
                    line.parts.get(added).ok_or_else(|| CanNot("This room has no such part.".into()))?.size_span
                }
            };
            let size = size.trim();
            let is_size = |wrong: Wrong| CanNot(wrong.message);
            let as_line = read(&format!("Room {size}"), unit).map_err(is_size)?;
            if !matches!(as_line.map(|line| line.of), Some(Of::Room(room)) if room.name.name == "Room" && room.parts.is_empty() && room.anchor.is_none())
            {
                return Err(CanNot("Write width x depth, and nothing else.".into()));
            }
            apply(&mut levels, vec![edit_of(&all[index], span, size.to_owned())]);
        }
        Change::MoveThing { level_id, line, from, east_m, south_m } if finite(east_m) && finite(south_m) => {
            let edit = move_thing(&levels, unit, (*level_id, *line, *from), (east_m.get(), south_m.get()), snap)?;
            apply(&mut levels, vec![edit]);
        }
        Change::RemoveThing { level_id, line, from } => {
            let (thing, text) = thing_at(&levels, unit, (*level_id, *line, *from))?;
            remove_thing(&mut levels, *level_id, *line, &thing, &text);
        }
        Change::AddRoom { level_id, x_m, y_m, width_m, depth_m, outdoors }
            if [x_m, y_m, width_m, depth_m].into_iter().all(finite) =>
        {
            let rect = Rect::new(x_m.get(), y_m.get(), width_m.get(), depth_m.get());
            let rect = if snap { snapped_whole(&rect, &all, *level_id, unit) } else { rect };
            add_room(&mut levels, &all, *level_id, &rect, *outdoors, unit)?;
        }
        Change::AddThing { room, words } => {
            let index = find(&all, room)?;
            let words = words.replace(['\n', ';', '#'], " ");
            add_thing(&mut levels, &all[index], words.trim());
        }
        Change::SetWall { room, side, material, thickness_m } => {
            let index = find(&all, room)?;
            set_wall(&mut levels, &all[index], unit, *side, material.as_ref().map(|key| (key, *thickness_m)))?;
        }
        Change::CopyLevel { of, to } => copy_level(&mut levels, &all, *of, *to, unit)?,
        Change::Rename { room, to } => {
            find(&all, room)?;
            let to = to.split_whitespace().collect::<Vec<_>>().join(" ");
            let edits = renamed(&levels, unit, room, &to);
            apply(&mut levels, edits);
        }
        _ => return Err(CanNot("This lies too far away.".into())),
    }
    Ok(levels)
}
