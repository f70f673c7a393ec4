//! One typed line of a house: `Kitchen 4.2 x 3.6 east of Hall`.
//!
//! ```text
//! NAME WIDTH x DEPTH [where] [flush SIDE | centred] [offset LENGTH [, LENGTH]] [outdoors]
//! where: north|south|east|west of NAME | above NAME | below NAME | at EAST, SOUTH
//! ```
//! Width runs east, depth south. A length is `4.2`, `4.2 m`, `420 cm`, `12 ft`, `12'6"`; without a unit it is in the home's own.
//! `#` begins a comment.

use busy_hen_home::{LengthUnit, Side};
use busy_hen_units::Metres;
use serde::Serialize;
use utoipa::ToSchema;

/// Shortest side of a room, m.
const SHORTEST: f64 = 0.3;
/// Longest side of a room or area, m.
const LONGEST: f64 = 100.0;
/// Farthest that `at` or `offset` may reach, m.
const REACH: f64 = 500.0;

/// A line as it was read, not yet placed.
#[derive(Debug, Clone, PartialEq)]
pub struct RoomLine {
    /// Name of the room.
    pub name: String,
    /// East-west size.
    pub width: Metres,
    /// North-south size.
    pub depth: Metres,
    /// Where it lies; none for the first room of a level.
    pub anchor: Option<Anchor>,
    /// How it lines up with its anchor.
    pub align: Align,
    /// Shift from there: along the shared side, or east and south.
    pub offset: (Metres, Metres),
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// What a room's place is told from.
#[derive(Debug, Clone, PartialEq)]
pub enum Anchor {
    /// On this side of another room of the level.
    Beside(Side, Named),
    /// Over a room of another level.
    Above(Named),
    /// Under a room of another level.
    Below(Named),
    /// At this place, east and south of the origin.
    At(Metres, Metres),
}

/// A name in a line, with the place where it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Named {
    /// The name.
    pub name: String,
    /// First character, counted from 0.
    pub from: usize,
    /// After the last character.
    pub to: usize,
}

/// How a room lines up with its anchor along the shared side.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Align {
    /// Flush at the north or west end.
    Start,
    /// Flush at the south or east end.
    End,
    /// Middle to middle.
    Centre,
}

/// What is wrong with a line: which characters, and what to do.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Wrong {
    /// First character at fault, counted from 0.
    pub from: usize,
    /// After the last character at fault.
    pub to: usize,
    /// One sentence: what is wrong and what to do.
    pub message: String,
}

#[derive(Debug, Clone, PartialEq)]
enum Kind {
    Word(String),
    Length(Metres),
    Times,
}

#[derive(Debug, Clone, PartialEq)]
struct Token {
    kind: Kind,
    from: usize,
    to: usize,
}

/// Reads one line; `None` for an empty line or a comment.
///
/// # Errors
/// What is wrong and where, when the line can't be understood.
pub fn read(text: &str, unit: LengthUnit) -> Result<Option<RoomLine>, Wrong> {
    let chars: Vec<char> = text.chars().take_while(|c| *c != '#').collect();
    let tokens = tokens(&chars, unit);
    if tokens.is_empty() {
        return Ok(None);
    }
    Reader { chars: &chars, tokens: &tokens, next: 0 }.line().map(Some)
}

fn tokens(chars: &[char], unit: LengthUnit) -> Vec<Token> {
    let mut list: Vec<Token> = Vec::new();
    let mut at = 0;
    while at < chars.len() {
        let c = chars[at];
        if c.is_whitespace() || c == ',' || c == ';' {
            at += 1;
            continue;
        }
        if let Some((length, to)) = length(chars, at, unit) {
            list.push(Token { kind: Kind::Length(length), from: at, to });
            at = to;
            let after_length = chars.get(at).is_some_and(|c| matches!(c, 'x' | 'X' | '×' | '*'));
            if after_length && starts_number(chars, at + 1) {
                list.push(Token { kind: Kind::Times, from: at, to: at + 1 });
                at += 1;
            }
            continue;
        }
        let from = at;
        while at < chars.len() && !chars[at].is_whitespace() && !matches!(chars[at], ',' | ';') {
            at += 1;
        }
        let word: String = chars[from..at].iter().collect();
        let kind = match word.to_lowercase().as_str() {
            "x" | "×" | "*" | "by" => Kind::Times,
            _ => Kind::Word(word),
        };
        list.push(Token { kind, from, to: at });
    }
    list
}

fn starts_number(chars: &[char], at: usize) -> bool {
    chars.get(at).is_some_and(char::is_ascii_digit)
}

/// A plain number at this place, and where it ends.
fn number(chars: &[char], from: usize) -> Option<(f64, usize)> {
    let mut to = from;
    if chars.get(to) == Some(&'-') {
        to += 1;
    }
    if !starts_number(chars, to) {
        return None;
    }
    while chars.get(to).is_some_and(|c| c.is_ascii_digit()) {
        to += 1;
    }
    if chars.get(to) == Some(&'.') && starts_number(chars, to + 1) {
        to += 1;
        while chars.get(to).is_some_and(|c| c.is_ascii_digit()) {
            to += 1;
        }
    }
    let text: String = chars[from..to].iter().collect();
    text.parse().ok().map(|value| (value, to))
}

/// A unit right after a number (one space allowed before letters), as metres a unit, and where it ends.
fn unit_at(chars: &[char], at: usize) -> Option<(f64, usize)> {
    let ends = |to: usize| chars.get(to).is_none_or(|c| !c.is_alphanumeric());
    let start = if chars.get(at) == Some(&' ') { at + 1 } else { at };
    let rest: String = chars[start.min(chars.len())..].iter().take(4).collect::<String>().to_lowercase();
    let foot = Metres::PER_FOOT;
    for (symbol, size) in [("feet", foot), ("cm", 0.01), ("ft", foot), ("in", foot / 12.0), ("m", 1.0)] {
        // A number may be glued to the x of "12ft x 10ft" or to the figures of "12ft6in".
        let to = start + symbol.chars().count();
        let glued = chars.get(to).is_some_and(|c| c.is_ascii_digit() || matches!(c, 'x' | 'X' | '×'));
        if rest.starts_with(symbol) && (ends(to) || glued) {
            return Some((size, to));
        }
    }
    match chars.get(at) {
        Some('\'' | '′' | '’') => Some((foot, at + 1)),
        Some('"' | '″' | '”') => Some((foot / 12.0, at + 1)),
        _ => None,
    }
}

fn length(chars: &[char], from: usize, unit: LengthUnit) -> Option<(Metres, usize)> {
    let (value, mut to) = number(chars, from)?;
    let own = match unit {
        LengthUnit::Metre => 1.0,
        LengthUnit::Foot => Metres::PER_FOOT,
    };
    let Some((size, after)) = unit_at(chars, to) else {
        let glued_word = chars.get(to).is_some_and(|c| c.is_alphabetic() && !matches!(c, 'x' | 'X'));
        return (!glued_word).then_some((Metres::new(value * own), to));
    };
    to = after;
    let mut metres = value * size;
    let is_feet = (size - Metres::PER_FOOT).abs() < 1e-9;
    let inches_from = if chars.get(to) == Some(&' ') { to + 1 } else { to };
    if is_feet && let Some((inches, end)) = number(chars, inches_from) {
        let inch = unit_at(chars, end).filter(|(size, _)| (size * 12.0 - Metres::PER_FOOT).abs() < 1e-9);
        if let Some((size, after)) = inch {
            metres += inches * size;
            to = after;
        }
    }
    Some((Metres::new(metres), to))
}

struct Reader<'a> {
    chars: &'a [char],
    tokens: &'a [Token],
    next: usize,
}

impl Reader<'_> {
    fn line(&mut self) -> Result<RoomLine, Wrong> {
        let size_at = self
            .tokens
            .windows(3)
            .position(|three| {
                matches!(
                    three,
                    [
                        Token { kind: Kind::Length(_), .. },
                        Token { kind: Kind::Times, .. },
                        Token { kind: Kind::Length(_), .. }
                    ]
                )
            })
            .ok_or_else(|| {
                self.wrong(
                    0,
                    self.chars.len(),
                    "No size here; write width x depth after the name, as in “Kitchen 4.2 x 3.6”.",
                )
            })?;
        let name = self.source(0, size_at);
        if name.is_empty() {
            return Err(self.wrong(0, self.tokens[size_at].to, "No name here; write the room's name before its size."));
        }
        if name.chars().count() > 60 {
            return Err(self.wrong(0, self.tokens[size_at].from, "This name is over 60 characters long; shorten it."));
        }
        let width = self.side(size_at)?;
        let depth = self.side(size_at + 2)?;
        let mut line = RoomLine {
            name,
            width,
            depth,
            anchor: None,
            align: Align::Start,
            offset: (Metres::default(), Metres::default()),
            outdoors: false,
        };
        self.next = size_at + 3;
        while self.next < self.tokens.len() {
            self.clause(&mut line)?;
        }
        Ok(line)
    }

    fn side(&self, index: usize) -> Result<Metres, Wrong> {
        let token = &self.tokens[index];
        match token.kind {
            Kind::Length(length) if (SHORTEST..=LONGEST).contains(&length.get()) => Ok(length),
            Kind::Length(length) => Err(self.wrong(
                token.from,
                token.to,
                format!("{length:.2} can't be the side of a room; it is {SHORTEST} to {LONGEST} m."),
            )),
            _ => Err(self.wrong(token.from, token.to, "A length should stand here.")),
        }
    }

    fn clause(&mut self, line: &mut RoomLine) -> Result<(), Wrong> {
        let token = self.tokens[self.next].clone();
        let word = match &token.kind {
            Kind::Word(word) => word.to_lowercase(),
            Kind::Length(_) | Kind::Times => {
                return Err(self.wrong(
                    token.from,
                    token.to,
                    "This number is left over; is an “offset” missing before it?",
                ));
            }
        };
        self.next += 1;
        if let Some(side) = side_named(&word) {
            if !self.word_is("of") {
                return Err(self.wrong(token.from, token.to, format!("Write “{word} of” and the name of a room.")));
            }
            self.next += 1;
            let name = self.name(&token)?;
            return self.set_anchor(line, Anchor::Beside(side, name), &token);
        }
        match word.as_str() {
            "above" => {
                let name = self.name(&token)?;
                self.set_anchor(line, Anchor::Above(name), &token)
            }
            "below" => {
                let name = self.name(&token)?;
                self.set_anchor(line, Anchor::Below(name), &token)
            }
            "at" => {
                let (east, south) = self.two_lengths(&token)?;
                self.set_anchor(line, Anchor::At(east, south), &token)
            }
            "flush" => {
                let side = self.tokens.get(self.next).and_then(|next| match &next.kind {
                    Kind::Word(word) => side_named(&word.to_lowercase()),
                    _ => None,
                });
                let Some(side) = side else {
                    return Err(self.wrong(token.from, token.to, "Write the side after “flush”, as in “flush south”."));
                };
                self.next += 1;
                line.align = if matches!(side, Side::North | Side::West) { Align::Start } else { Align::End };
                Ok(())
            }
            "centred" | "centered" => {
                line.align = Align::Centre;
                Ok(())
            }
            "offset" => {
                let along = self.length(&token)?;
                let south = self.length(&token).unwrap_or_default();
                line.offset = (along, south);
                Ok(())
            }
            "outdoors" | "outdoor" | "outside" => {
                line.outdoors = true;
                Ok(())
            }
            _ => Err(self.wrong(
                token.from,
                token.to,
                format!("“{}” is not understood here; write where the room lies, as in “east of Hall”.", word),
            )),
        }
    }

    fn set_anchor(&self, line: &mut RoomLine, anchor: Anchor, token: &Token) -> Result<(), Wrong> {
        if line.anchor.is_some() {
            return Err(self.wrong(token.from, token.to, "This line says twice where the room lies; keep one."));
        }
        line.anchor = Some(anchor);
        Ok(())
    }

    fn length(&mut self, after: &Token) -> Result<Metres, Wrong> {
        match self.tokens.get(self.next) {
            Some(Token { kind: Kind::Length(length), .. }) if length.get().abs() <= REACH => {
                self.next += 1;
                Ok(*length)
            }
            Some(Token { kind: Kind::Length(length), from, to }) => {
                Err(self.wrong(*from, *to, format!("{length:.0} is too far; stay within {REACH} m.")))
            }
            _ => Err(self.wrong(after.from, after.to, "A length should follow, as in “offset 1.2”.")),
        }
    }

    fn two_lengths(&mut self, after: &Token) -> Result<(Metres, Metres), Wrong> {
        let missing =
            self.wrong(after.from, after.to, "Two lengths should follow, east and south, as in “at 3.0, 1.5”.");
        let east = self.length(after).map_err(|_| missing.clone())?;
        let south = self.length(after).map_err(|_| missing)?;
        Ok((east, south))
    }

    fn name(&mut self, after: &Token) -> Result<Named, Wrong> {
        let first = self.next;
        while self.tokens.get(self.next).is_some_and(|token| !self.begins_clause(token)) {
            self.next += 1;
        }
        if first == self.next {
            return Err(self.wrong(after.from, after.to, "The name of a room should follow."));
        }
        let (from, to) = (self.tokens[first].from, self.tokens[self.next - 1].to);
        Ok(Named { name: self.source(first, self.next), from, to })
    }

    fn begins_clause(&self, token: &Token) -> bool {
        match &token.kind {
            Kind::Word(word) => {
                matches!(
                    word.to_lowercase().as_str(),
                    "flush" | "centred" | "centered" | "offset" | "outdoors" | "outdoor" | "outside"
                )
            }
            _ => false,
        }
    }

    fn word_is(&self, expected: &str) -> bool {
        matches!(self.tokens.get(self.next), Some(Token { kind: Kind::Word(word), .. }) if word.to_lowercase() == expected)
    }

    /// The text of these tokens as it was typed, single-spaced.
    fn source(&self, first: usize, end: usize) -> String {
        let (Some(from), Some(to)) = (self.tokens.get(first), end.checked_sub(1).and_then(|i| self.tokens.get(i)))
        else {
            return String::new();
        };
        if first >= end {
            return String::new();
        }
        let text: String = self.chars[from.from..to.to].iter().collect();
        text.split_whitespace().collect::<Vec<_>>().join(" ")
    }

    fn wrong(&self, from: usize, to: usize, message: impl Into<String>) -> Wrong {
        Wrong { from, to, message: message.into() }
    }
}

fn side_named(word: &str) -> Option<Side> {
    match word {
        "north" => Some(Side::North),
        "east" => Some(Side::East),
        "south" => Some(Side::South),
        "west" => Some(Side::West),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn ok(text: &str) -> RoomLine {
        read(text, LengthUnit::Metre).unwrap().unwrap()
    }

    fn wrong(text: &str) -> Wrong {
        read(text, LengthUnit::Metre).unwrap_err()
    }

    fn near(length: Metres, metres: f64) -> bool {
        (length.get() - metres).abs() < 1e-9
    }

    #[test]
    fn the_line_of_the_handbook_reads() {
        let line = ok("Kitchen 4.2 x 3.6 east of Hall");
        assert_eq!(line.name, "Kitchen");
        assert!(near(line.width, 4.2) && near(line.depth, 3.6));
        assert_eq!(line.anchor, Some(Anchor::Beside(Side::East, Named { name: "Hall".into(), from: 26, to: 30 })));
    }

    #[test]
    fn names_may_hold_figures_and_several_words() {
        let line = ok("Bedroom 2  3.1x4 north of 1st floor landing flush east");
        assert_eq!(line.name, "Bedroom 2");
        assert!(matches!(line.anchor, Some(Anchor::Beside(Side::North, named)) if named.name == "1st floor landing"));
        assert_eq!(line.align, Align::End);
    }

    #[test]
    fn lengths_read_in_metres_centimetres_feet_and_inches() {
        for (text, metres) in [
            ("A 4.2 x 1", 4.2),
            ("A 4.2m x 1", 4.2),
            ("A 420 cm x 1", 4.2),
            ("A 12 ft x 1", 3.6576),
            ("A 12ft x 10ft", 3.6576),
            ("A 12'6\" x 1", 3.81),
            ("A 12' 6\" x 1", 3.81),
            ("A 12ft 6in x 1", 3.81),
            ("A 4.2×1", 4.2),
            ("A 4.2 by 1", 4.2),
        ] {
            assert!(near(ok(text).width, metres), "{text}: {}", ok(text).width);
        }
        let in_feet = read("A 10 x 12", LengthUnit::Foot).unwrap().unwrap();
        assert!(near(in_feet.width, 3.048) && near(in_feet.depth, 3.6576));
    }

    #[test]
    fn offsets_places_and_outdoors_read() {
        let line = ok("Garden 5 x 12 south of Kitchen offset -0.5 outdoors # to the fence");
        assert!(line.outdoors && near(line.offset.0, -0.5));
        assert_eq!(ok("Shed 2 x 2 at 3, -1.5").anchor, Some(Anchor::At(Metres::new(3.0), Metres::new(-1.5))));
        assert!(matches!(ok("Loft 3 x 3 above Front bedroom").anchor, Some(Anchor::Above(_))));
    }

    #[test]
    fn empty_lines_and_comments_are_no_rooms() {
        assert_eq!(read("   ", LengthUnit::Metre), Ok(None));
        assert_eq!(read("# ground floor", LengthUnit::Metre), Ok(None));
    }

    #[test]
    fn what_is_wrong_is_told_with_its_place() {
        assert!(wrong("Kitchen").message.contains("No size"));
        assert!(wrong("4 x 3").message.contains("No name"));
        let misspelt = wrong("Kitchen 4 x 3 esat of Hall");
        assert_eq!((misspelt.from, misspelt.to), (14, 18));
        assert!(wrong("Kitchen 4 x 3 east Hall").message.contains("east of"));
        assert!(wrong("Kitchen 4 x 0.01").message.contains("can't be the side"));
        assert!(wrong("Kitchen 4 x 3 east of").message.contains("should follow"));
        assert!(wrong("Kitchen 4 x 3 east of A offset").message.contains("length should follow"));
        assert!(wrong("Kitchen 4 x 3 at 2").message.contains("Two lengths"));
        assert!(wrong("Kitchen 4 x 3 2.0").message.contains("left over"));
        assert!(wrong("Kitchen 999999 x 3").message.contains("can't be the side"));
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "\\PC{0,60}") {
            let _ = read(&text, LengthUnit::Metre);
        }

        #[test]
        fn likely_text_never_panics_and_marks_inside_the_line(
            text in "(Hall|Bed 2|x|4|3.5|12'6\"| x |m|ft|east|of|above|at|offset|,|#|flush| ){0,14}"
        ) {
            if let Err(wrong) = read(&text, LengthUnit::Foot) {
                prop_assert!(wrong.from <= wrong.to && wrong.to <= text.chars().count());
            }
        }
    }
}
