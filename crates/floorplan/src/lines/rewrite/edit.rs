//! A piece of a line that takes the place of another.

use busy_hen_home::{LengthUnit, Level, LevelId};
use thiserror::Error;

use crate::lines::line::RoomLine;
use crate::lines::place::Pending;

/// Why something can't be done on the drawing, in one sentence.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("{0}")]
pub struct CanNot(pub String);

/// A piece of a line that takes the place of another.
pub(super) struct Edit {
    pub level_id: LevelId,
    pub line: usize,
    pub from: usize,
    pub to: usize,
    pub with: String,
}

pub(super) fn edit_of(room: &Pending<'_>, (from, to): (usize, usize), with: String) -> Edit {
    Edit { level_id: room.level.id, line: room.line_index, from, to, with }
}

pub(super) fn place_edit(room: &Pending<'_>, line: &RoomLine, unit: LengthUnit) -> Edit {
    let words = line.write_place(unit);
    let with = if words.is_empty() { words } else { format!(" {words}") };
    edit_of(room, room.line.place_span, with)
}

/// Does the edits, the last of a line first, so that places stay what they are.
pub(super) fn apply(levels: &mut [Level], mut edits: Vec<Edit>) {
    edits.sort_by_key(|edit| std::cmp::Reverse((edit.line, edit.from)));
    for edit in edits {
        let Some(level) = levels.iter_mut().find(|level| level.id == edit.level_id) else { continue };
        let mut lines: Vec<String> = level.lines.split('\n').map(str::to_owned).collect();
        if let Some(line) = lines.get_mut(edit.line) {
            let chars: Vec<char> = line.chars().collect();
            let (from, to) = (edit.from.min(chars.len()), edit.to.min(chars.len()));
            *line = chars[..from].iter().copied().chain(edit.with.chars()).chain(chars[to..].iter().copied()).collect();
        }
        level.lines = lines.join("\n");
    }
}

pub(super) fn append_line(level: &mut Level, line: &str) {
    let kept = level.lines.trim_end_matches(['\n', ' ']).len();
    level.lines.truncate(kept);
    if !level.lines.is_empty() {
        level.lines.push('\n');
    }
    level.lines.push_str(line);
}
