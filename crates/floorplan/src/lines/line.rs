//! One typed line of a house: a room with its size and place, and what is in it.
//!
//! ```text
//! NAME SIZE [+ SIZE SIDE [lined up]] ... [where] [lined up] [outdoors] [; THING] ...
//! - THING [; THING] ...             of the room on the line above
//! NAME: THING [; THING] ...         of any room
//! where:     [LENGTH] SIDE of NAME | above NAME | below NAME | at EAST, SOUTH
//! lined up:  flush SIDE | centred | offset LENGTH [, LENGTH]
//! ```
//! Width runs east, depth south. `#` begins a comment. Things are in [`super::read_thing`].

use busy_hen_home::{LengthUnit, Side};
use busy_hen_units::Metres;

use super::cursor::Cursor;
use super::lengths::{Spoken, say_length, text, write_length};
use super::read_thing::{begins_thing, read_thing};
use super::thing::{Named, Thing};
use super::tokens::{Kind, Token, tokens};
use super::words::side_word;
use super::wrong::Wrong;

/// Shortest and longest side of a room, m.
const SIDES: (f64, f64) = (0.3, 100.0);
/// A side indoors that is longer needs its unit written: it may be centimetres, m.
const DOUBTFUL: f64 = 30.0;
/// Unmarked decimals below this in a home of feet may be metres, ft.
const MAY_BE_METRES: f64 = 8.0;
const NAME_LIMIT: usize = 60;

/// A line as it was read, not yet placed.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// What it is of.
    pub of: Of,
    /// What it puts there.
    pub things: Vec<Thing>,
    /// What is wrong with things; the rest of the line stands.
    pub wrongs: Vec<Wrong>,
}

/// What a line is of.
#[derive(Debug, Clone, PartialEq)]
pub enum Of {
    /// A room of its own.
    Room(Box<RoomLine>),
    /// The room of the line above.
    Above,
    /// The room of this name.
    Named(Named),
}

/// The room that a line is of.
#[derive(Debug, Clone, PartialEq)]
pub struct RoomLine {
    /// Its name.
    pub name: Named,
    /// East-west and north-south size of it, or of its first part.
    pub size: (Metres, Metres),
    /// Characters that say the size.
    pub size_span: (usize, usize),
    /// The number that its width begins with, and whether it is a whole one without a unit.
    pub width_as_typed: (f64, bool),
    /// What is added to its first part, no wall between.
    pub parts: Vec<Part>,
    /// Where it lies; none for the first room of a level.
    pub anchor: Option<Anchor>,
    /// How far it stands off from the room it lies beside.
    pub gap: Metres,
    /// How it lines up with its anchor.
    pub align: Align,
    /// Shift from there: along the shared side, or east and south.
    pub offset: (Metres, Metres),
    /// Whether it is an outdoor area.
    pub outdoors: bool,
    /// Characters that say where it lies, from just past its size.
    pub place_span: (usize, usize),
    /// What is taken as it stands and may be meant otherwise.
    pub doubt: Option<Wrong>,
}

/// A part added to a room.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// East-west and north-south size.
    pub size: (Metres, Metres),
    /// Characters that say the size.
    pub size_span: (usize, usize),
    /// Side of the first part that it is added to.
    pub side: Side,
    /// How it lines up with that side.
    pub align: Align,
    /// Shift along that side.
    pub offset: Metres,
    /// Characters that say side, line-up and shift.
    pub place_span: (usize, usize),
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

/// Words that end the name of the room a place is told from.
const AFTER_NAMES: [&str; 10] =
    ["flush", "centred", "centered", "offset", "outdoors", "outdoor", "outside", "at", "above", "below"];

/// Reads one line; `None` for an empty line or a comment.
///
/// # Errors
/// What is wrong and where, when its room can't be understood; what is wrong with a thing in it is told in the line.
pub fn read(line: &str, unit: LengthUnit) -> Result<Option<Line>, Wrong> {
    let chars: Vec<char> = line.chars().take_while(|c| *c != '#').collect();
    let tokens = tokens(&chars);
    let Some(first) = tokens.first() else { return Ok(None) };
    let mut pieces = tokens.split(|token| token.kind == Kind::Semicolon);
    let head = pieces.next().unwrap_or_default();
    let colon = head.iter().position(|token| token.kind == Kind::Colon);
    let sized =
        colon.is_some_and(|colon| Cursor { chars: &chars, tokens: head, next: colon + 1, unit }.size().is_some());
    let mut wrongs = Vec::new();
    let mut things = Vec::new();
    let (of, own) = match (&first.kind, colon) {
        (Kind::Dash, _) => (Of::Above, Some(&head[1..])),
        (_, Some(colon)) if !sized => {
            let mut cursor = Cursor { chars: &chars, tokens: &head[..colon], next: 0, unit };
            let named = cursor.name((first.from, head[colon].to), &[])?;
            if let Some(left) = cursor.peek() {
                return Err(Wrong::new(left.from, left.to, "Before the colon should stand the name of a room."));
            }
            (Of::Named(named), Some(&head[colon + 1..]))
        }
        _ => {
            let head: Vec<Token> = head.iter().filter(|token| token.kind != Kind::Colon).cloned().collect();
            bad(&head)?;
            (Of::Room(Box::new(Cursor { chars: &chars, tokens: &head, next: 0, unit }.room()?)), None)
        }
    };
    for piece in own.into_iter().chain(pieces).filter(|piece| !piece.is_empty()) {
        let thing = bad(piece).and_then(|()| read_thing(&mut Cursor { chars: &chars, tokens: piece, next: 0, unit }));
        match thing {
            Ok(thing) => things.push(thing),
            Err(wrong) => wrongs.push(wrong),
        }
    }
    Ok(Some(Line { of, things, wrongs }))
}

fn bad(tokens: &[Token]) -> Result<(), Wrong> {
    let found = tokens.iter().find_map(|token| match &token.kind {
        Kind::Bad(wrong) => Some(wrong.clone()),
        _ => None,
    });
    found.map_or(Ok(()), Err)
}

impl Cursor<'_> {
    fn room(&mut self) -> Result<RoomLine, Wrong> {
        let is_size = |three: &[Token]| {
            three[0].length().is_some() && three[1].kind == Kind::Times && three[2].length().is_some()
        };
        let size_at = self.tokens.windows(3).position(is_size).ok_or_else(|| self.no_size())?;
        let name = self.room_name(size_at)?;
        self.next = size_at;
        let (width, depth) = (self.tokens[size_at].clone(), self.tokens[size_at + 2].clone());
        let (size, size_span) = self.size().ok_or_else(|| self.no_size())?;
        if self.peek().is_some_and(|token| token.kind == Kind::Times) {
            let third = self.tokens.get(self.next + 1).map_or(self.reached(), |token| token.to);
            let told = "Three lengths stand here; a room is width x depth.";
            let wrong = Wrong::new(size_span.0, third, told);
            let number = text(self.chars, width.from, width.to);
            let rest = text(self.chars, depth.from, third);
            return Err(wrong.or(&format!("{number} {rest}")));
        }
        let mut line = RoomLine {
            name,
            size,
            size_span,
            width_as_typed: width.length().map_or((0.0, false), |length| (length.value, length.plain)),
            parts: Vec::new(),
            anchor: None,
            gap: Metres::default(),
            align: Align::Start,
            offset: (Metres::default(), Metres::default()),
            outdoors: false,
            place_span: (size_span.1, size_span.1),
            doubt: None,
        };
        while self.peek().is_some_and(|token| token.kind == Kind::Plus) {
            let part = self.part()?;
            line.parts.push(part);
        }
        let placed_from = self.reached();
        while self.next < self.tokens.len() {
            self.clause(&mut line)?;
        }
        line.place_span = (placed_from, self.reached());
        line.doubt = self.check_size(size, (&width, &depth), line.outdoors)?;
        for part in &line.parts {
            self.in_bounds(part.size, part.size_span)?;
        }
        Ok(line)
    }

    fn no_size(&self) -> Wrong {
        let all = (0, self.chars.iter().rposition(|c| !c.is_whitespace()).map_or(0, |last| last + 1));
        let example = match self.unit {
            LengthUnit::Metre => "Kitchen 4.2 x 3.6",
            LengthUnit::Foot => "Kitchen 14' x 12'",
        };
        let wrong =
            Wrong::new(all.0, all.1, format!("No size here; write width x depth after the name, as in “{example}”."));
        // Two lengths without an x between, or with another mark.
        let lengths: Vec<&Token> = self.tokens.iter().filter(|token| token.length().is_some()).collect();
        if let [a, b] = lengths[..]
            && a.from > 0
        {
            let piece = |token: &Token| text(self.chars, token.from, token.to);
            let wrong = Wrong { from: a.from, to: b.to, ..wrong };
            return wrong.or(&format!("{} x {}", piece(a), piece(b)));
        }
        // A name and a size run together: "Kitchen4.2x3.6".
        let first = self.tokens.first().filter(|token| token.word().is_some());
        if let Some(token) = first
            && let Some(figure) = self.chars[token.from..token.to].iter().position(char::is_ascii_digit)
            && figure > 0
        {
            let at = token.from + figure;
            return wrong.or_at(at, at, " ");
        }
        if begins_thing(self.tokens) {
            let told = "This is no room; what is in a room stands after a dash, under the room's line.";
            return Wrong::new(all.0, all.1, told).or_at(0, 0, "- ");
        }
        wrong
    }

    /// The name before the size: nothing that may be meant as a length is taken for a part of it.
    fn room_name(&self, size_at: usize) -> Result<Named, Wrong> {
        let size = &self.tokens[size_at];
        let mut before = &self.tokens[..size_at];
        if before.last().is_some_and(|token| token.kind == Kind::Comma) {
            before = &before[..before.len() - 1];
        }
        let (Some(first), Some(last)) = (before.first(), before.last()) else {
            return Err(Wrong::new(0, size.to, "No name here; write the room's name before its size."));
        };
        if let Some(odd) = before.iter().find(|token| !token.may_be_name()) {
            let what = text(self.chars, odd.from, odd.to);
            let wrong = match odd.kind {
                Kind::Length(_) => {
                    let told =
                        format!("“{what}” stands before the size and belongs to no name; is it part of the size?");
                    self.with_joined(Wrong::new(odd.from, size.to, told), odd, size)
                }
                _ => Wrong::new(odd.from, odd.to, format!("“{what}” can't be part of a name.")).or(""),
            };
            return Err(wrong);
        }
        let name = self.source(first.from, last.to);
        if name.chars().count() > NAME_LIMIT {
            let told = format!("This name is over {NAME_LIMIT} characters long; shorten it.");
            return Err(Wrong::new(first.from, last.to, told));
        }
        Ok(Named { name, from: first.from, to: last.to })
    }

    /// Offers feet and inches where two lengths stand together: `12' 6' x`.
    fn with_joined(&self, wrong: Wrong, odd: &Token, size: &Token) -> Wrong {
        match (odd.length(), size.length()) {
            (Some(feet), Some(inches)) if inches.value < 12.0 && feet.value.fract() == 0.0 => {
                wrong.or(&format!("{}'{}\"", feet.value, inches.value))
            }
            _ => wrong,
        }
    }

    /// Whether a size can be that of a room, and what about it is doubtful.
    fn check_size(
        &self,
        size: (Metres, Metres),
        tokens: (&Token, &Token),
        outdoors: bool,
    ) -> Result<Option<Wrong>, Wrong> {
        let (Some(width), Some(depth)) = (tokens.0.length(), tokens.1.length()) else { return Ok(None) };
        let span = (tokens.0.from, tokens.1.to);
        let unmarked = width.unit.is_none() && depth.unit.is_none();
        let as_unit = |unit: &str| {
            let number = |token: &Token| text(self.chars, token.from, token.to);
            format!("{}{unit} x {}{unit}", number(tokens.0), number(tokens.1))
        };
        let longest = size.0.get().max(size.1.get());
        let may_be_metres = |one: Spoken| one.decimal && one.value < MAY_BE_METRES;
        if unmarked && self.unit == LengthUnit::Foot && (may_be_metres(width) || may_be_metres(depth)) {
            let told = "These may be feet or metres; write which.";
            return Err(Wrong::new(span.0, span.1, told).or(&as_unit(" m")).or(&as_unit(" ft")));
        }
        if unmarked && longest > if outdoors { SIDES.1 } else { DOUBTFUL } {
            let told = format!(
                "{} would be a long room; write the unit that is meant.",
                say_length(Metres::new(longest), self.unit)
            );
            let own = if self.unit == LengthUnit::Foot { " ft" } else { " m" };
            let wrong = Wrong::new(span.0, span.1, told).or(&as_unit(" cm"));
            if longest > SIDES.1 {
                return Err(wrong);
            }
            return self.in_bounds(size, span).map(|()| Some(wrong.or(&as_unit(own))));
        }
        self.in_bounds(size, span).map(|()| None)
    }

    fn in_bounds(&self, size: (Metres, Metres), span: (usize, usize)) -> Result<(), Wrong> {
        let out = [size.0, size.1].into_iter().find(|side| !(SIDES.0..=SIDES.1).contains(&side.get()));
        out.map_or(Ok(()), |side| {
            let say = |metres: f64| say_length(Metres::new(metres), self.unit);
            let told =
                format!("{} can't be the side of a room; it is {} to {}.", say(side.get()), say(SIDES.0), say(SIDES.1));
            Err(Wrong::new(span.0, span.1, told))
        })
    }

    /// `+ SIZE SIDE [lined up]`.
    fn part(&mut self) -> Result<Part, Wrong> {
        let plus = self.tokens[self.next].clone();
        self.next += 1;
        self.takes(&["bay"]);
        let example = if self.unit == LengthUnit::Foot { "+ 8' x 9' south" } else { "+ 2.4 x 2.7 south" };
        let told = format!("After the plus should stand the size of what is added, and its side, as in “{example}”.");
        let (size, size_span) = self.size().ok_or_else(|| Wrong::new(plus.from, plus.to, told.clone()))?;
        let side = if self.is_side_of(0) { None } else { self.side() };
        let side = side.ok_or_else(|| {
            let word = |side| format!(" {}", side_word(side));
            Wrong::new(plus.from, size_span.1, "On which side of the room is this added?")
                .or_at(size_span.1, size_span.1, &word(Side::South))
                .or_at(size_span.1, size_span.1, &word(Side::East))
                .or_at(size_span.1, size_span.1, &word(Side::North))
                .or_at(size_span.1, size_span.1, &word(Side::West))
        })?;
        let mut part = Part {
            size,
            size_span,
            side,
            align: Align::Start,
            offset: Metres::default(),
            place_span: (size_span.1, self.reached()),
        };
        loop {
            let word = self.peek().map_or((0, 0), |token| (token.from, token.to));
            if self.takes(&["flush"]) {
                part.align = self.flush(word)?;
            } else if self.takes(&["centred", "centered"]) {
                part.align = Align::Centre;
            } else if self.takes(&["offset"]) {
                part.offset = self.length(word, self.offset_example())?;
            } else {
                break;
            }
        }
        part.place_span.1 = self.reached();
        Ok(part)
    }

    fn offset_example(&self) -> &'static str {
        if self.unit == LengthUnit::Foot { "offset 1'6\"" } else { "offset 0.5" }
    }

    fn flush(&mut self, after: (usize, usize)) -> Result<Align, Wrong> {
        let side = self
            .side()
            .ok_or_else(|| Wrong::new(after.0, after.1, "Write the side after “flush”, as in “flush south”."))?;
        Ok(if matches!(side, Side::North | Side::West) { Align::Start } else { Align::End })
    }

    fn clause(&mut self, line: &mut RoomLine) -> Result<(), Wrong> {
        if self.comma() {
            return Ok(());
        }
        let token = self.tokens[self.next].clone();
        let span = (token.from, token.to);
        if let Some(gap) = token.length() {
            if !self.is_side_of(1) {
                return Err(self.left_over(&token, line));
            }
            line.gap = gap.metres(self.unit);
            self.next += 1;
        }
        if self.is_side_of(0) {
            let side = self.side().unwrap_or(Side::East);
            self.takes(&["of"]);
            let name = self.name(span, &AFTER_NAMES)?;
            return set_anchor(line, Anchor::Beside(side, name), span);
        }
        let Some(word) = token.word().map(str::to_owned) else {
            return Err(Wrong::new(
                span.0,
                span.1,
                format!("“{}” is not understood here.", self.source(span.0, span.1)),
            ));
        };
        self.next += 1;
        match word.as_str() {
            "above" | "over" => {
                let name = self.name(span, &AFTER_NAMES)?;
                set_anchor(line, Anchor::Above(name), span)
            }
            "below" | "under" => {
                let name = self.name(span, &AFTER_NAMES)?;
                set_anchor(line, Anchor::Below(name), span)
            }
            "at" => {
                let example = if self.unit == LengthUnit::Foot { "at 10', 5'" } else { "at 3, 1.5" };
                let missing = |wrong: Wrong| Wrong {
                    message: format!("Two lengths should follow, east and south, as in “{example}”."),
                    ..wrong
                };
                let east = self.length(span, example).map_err(missing)?;
                let last = self.tokens[self.next - 1].clone();
                let south = self.another_length().ok_or_else(|| {
                    let wrong = missing(Wrong::new(span.0, last.to, ""));
                    let typed = text(self.chars, last.from, last.to);
                    let apart = typed.replacen(',', ", ", 1);
                    if apart == typed { wrong } else { wrong.or_at(last.from, last.to, &apart) }
                })?;
                set_anchor(line, Anchor::At(east, south), span)
            }
            "flush" => {
                line.align = self.flush(span)?;
                Ok(())
            }
            "centred" | "centered" => {
                line.align = Align::Centre;
                Ok(())
            }
            "offset" => {
                let along = self.length(span, self.offset_example())?;
                line.offset = (along, self.another_length().unwrap_or_default());
                Ok(())
            }
            "outdoors" | "outdoor" | "outside" => {
                line.outdoors = true;
                Ok(())
            }
            _ => Err(self.not_understood(&token, &word)),
        }
    }

    fn left_over(&self, token: &Token, line: &RoomLine) -> Wrong {
        let typed = text(self.chars, token.from, token.to);
        let wrong = Wrong::new(token.from, token.to, format!("“{typed}” is left over; what is it for?"));
        if line.anchor.is_some() { wrong.or(&format!("offset {typed}")) } else { wrong }
    }

    fn not_understood(&self, token: &Token, word: &str) -> Wrong {
        if super::words::side_named(word).is_some() {
            let told = format!("Write “{word} of” and the name of a room.");
            let wrong = Wrong::new(token.from, token.to, told);
            let next_is_name = self.peek().is_some_and(Token::may_be_name);
            return if next_is_name { wrong.or(&format!("{word} of")) } else { wrong };
        }
        if begins_thing(&self.tokens[self.next - 1..]) {
            let told = format!("Before “{word}” a semicolon should stand: it is something in the room.");
            return Wrong::new(token.from, token.to, told).or(&format!("; {word}"));
        }
        let told = format!("“{word}” is not understood here; write where the room lies, as in “east of Hall”.");
        let wrong = Wrong::new(token.from, token.to, told);
        let known = ["north", "east", "south", "west", "above", "below", "flush", "centred", "offset", "outdoors"];
        let nearest = known
            .iter()
            .map(|own| (strsim::jaro_winkler(own, word), *own))
            .filter(|(likeness, _)| *likeness > 0.8)
            .max_by(|a, b| a.0.total_cmp(&b.0));
        match nearest {
            Some((_, own)) => wrong.or(own),
            None => wrong,
        }
    }
}

fn set_anchor(line: &mut RoomLine, anchor: Anchor, span: (usize, usize)) -> Result<(), Wrong> {
    if line.anchor.is_some() {
        return Err(Wrong::new(span.0, span.1, "This line says twice where the room lies; keep one."));
    }
    line.anchor = Some(anchor);
    Ok(())
}

impl RoomLine {
    /// What a line says of its place: beside which room, how far off, lined up and shifted how.
    #[must_use]
    pub fn write_place(&self, unit: LengthUnit) -> String {
        let length = |metres: Metres| write_length(metres, unit);
        let is_zero = |metres: Metres| metres.get().abs() < 0.0005;
        let mut words: Vec<String> = Vec::new();
        if !is_zero(self.gap) {
            words.push(length(self.gap));
        }
        match &self.anchor {
            None => {}
            Some(Anchor::Beside(side, named)) => words.push(format!("{} of {}", side_word(*side), named.name)),
            Some(Anchor::Above(named)) => words.push(format!("above {}", named.name)),
            Some(Anchor::Below(named)) => words.push(format!("below {}", named.name)),
            Some(Anchor::At(east, south)) => words.push(format!("at {}, {}", length(*east), length(*south))),
        }
        let beside = match &self.anchor {
            Some(Anchor::Beside(side, _)) => Some(*side),
            _ => None,
        };
        match self.align {
            Align::Start => {}
            Align::Centre => words.push("centred".into()),
            Align::End => words.push(format!("flush {}", side_word(end_of(beside)))),
        }
        match (is_zero(self.offset.0), is_zero(self.offset.1)) {
            (true, true) => {}
            (_, true) => words.push(format!("offset {}", length(self.offset.0))),
            _ => words.push(format!("offset {}, {}", length(self.offset.0), length(self.offset.1))),
        }
        if self.outdoors {
            words.push("outdoors".into());
        }
        words.join(" ")
    }
}

/// The end that a room flush at the end of this side touches.
fn end_of(side: Option<Side>) -> Side {
    match side {
        Some(Side::East | Side::West) => Side::South,
        _ => Side::East,
    }
}
