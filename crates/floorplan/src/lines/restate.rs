//! Lines of a home whose lengths are told in another unit from now on: what has no unit of its own gets the one it was meant in.

use busy_hen_home::LengthUnit;

use super::line::{Anchor, Of, read};
use super::tokens::{Kind, tokens};

/// The same text where unmarked lengths were meant in this unit, with that unit written.
#[must_use]
pub fn restate(lines: &str, was: LengthUnit) -> String {
    let lines: Vec<String> = lines.split('\n').map(|line| restate_line(line, was)).collect();
    lines.join("\n")
}

fn restate_line(line: &str, was: LengthUnit) -> String {
    let mark = match was {
        LengthUnit::Metre => " m",
        LengthUnit::Foot => " ft",
    };
    let chars: Vec<char> = line.chars().collect();
    let said = chars.iter().position(|c| *c == '#').unwrap_or(chars.len());
    let list = tokens(&chars[..said]);
    // Of a line that is wrong, names are not known: what is a length by its place or its form is one.
    let meant = read(line, was).ok().flatten();
    let mut names: Vec<(usize, usize)> = Vec::new();
    match meant.as_ref().map(|meant| &meant.of) {
        Some(Of::Room(room)) => {
            names.push((room.name.from, room.name.to));
            if let Some(Anchor::Beside(_, named) | Anchor::Above(named) | Anchor::Below(named)) = &room.anchor {
                names.push((named.from, named.to));
            }
        }
        Some(Of::Named(named)) => names.push((named.from, named.to)),
        Some(Of::Above) | None => {}
    }
    let things = meant.iter().flat_map(|meant| &meant.things);
    names.extend(things.filter_map(|thing| thing.place.beyond.as_ref()).map(|named| (named.from, named.to)));
    let mut text: Vec<char> = chars.clone();
    let mut after_word = "";
    let mut ends: Vec<usize> = Vec::new();
    for (index, token) in list.iter().enumerate() {
        if let Kind::Word(word) = &token.kind {
            after_word = word;
            continue;
        }
        let Kind::Length(length) = token.kind else { continue };
        let named = names.iter().any(|(from, to)| *from <= token.from && token.to <= *to);
        let numbered = length.plain && matches!(after_word, "part" | "called" | "named" | "circuit" | "ends");
        // One that takes its unit from the other of a size has one.
        let other =
            |at: Option<usize>| at.and_then(|at| list.get(at)).and_then(|own| own.length()).and_then(|own| own.unit);
        let is_times = |at: Option<usize>| at.and_then(|at| list.get(at)).is_some_and(|own| own.kind == Kind::Times);
        let sized = (is_times(Some(index + 1)), is_times(index.checked_sub(1)));
        let shares = sized.0 && other(Some(index + 2)).is_some() || sized.1 && other(index.checked_sub(2)).is_some();
        let certain = !length.plain || sized.0 || sized.1 || matches!(after_word, "at" | "offset");
        let is_length = if meant.is_some() { !named } else { certain };
        if length.unit.is_none() && is_length && !numbered && !shares {
            ends.push(token.to);
        }
    }
    for end in ends.into_iter().rev() {
        text.splice(end..end, mark.chars());
    }
    text.into_iter().collect()
}
