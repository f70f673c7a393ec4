//! Going through the tokens of a line.

use busy_hen_home::{LengthUnit, Side};
use busy_hen_units::Metres;

use super::lengths::{say_length, text};
use super::thing::Named;
use super::tokens::{Kind, Token};
use super::words::side_named;
use super::wrong::Wrong;

/// Words behind a length that say what it measures.
const MEASURES: [&str; 10] = ["wide", "width", "high", "height", "tall", "deep", "depth", "sill", "up", "thick"];
/// Farthest that a place or shift may reach, m.
const REACH: f64 = 500.0;

pub(super) struct Cursor<'a> {
    pub chars: &'a [char],
    pub tokens: &'a [Token],
    pub next: usize,
    pub unit: LengthUnit,
}

impl<'a> Cursor<'a> {
    pub fn peek(&self) -> Option<&'a Token> {
        self.tokens.get(self.next)
    }

    pub fn peek_word(&self) -> Option<&'a str> {
        self.peek().and_then(Token::word)
    }

    /// Takes the next word when it is one of these.
    pub fn takes(&mut self, words: &[&str]) -> bool {
        let there = self.peek_word().is_some_and(|word| words.contains(&word));
        self.next += usize::from(there);
        there
    }

    /// Takes these words when they follow one another.
    pub fn takes_all(&mut self, words: &[&str]) -> bool {
        let there = words
            .iter()
            .enumerate()
            .all(|(ahead, word)| self.tokens.get(self.next + ahead).and_then(Token::word) == Some(word));
        self.next += if there { words.len() } else { 0 };
        there
    }

    pub fn side(&mut self) -> Option<Side> {
        let side = self.peek_word().and_then(side_named)?;
        self.next += 1;
        Some(side)
    }

    /// Whether a side and "of" come next.
    pub fn is_side_of(&self, ahead: usize) -> bool {
        let word = |at: usize| self.tokens.get(self.next + at).and_then(Token::word);
        word(ahead).and_then(side_named).is_some() && word(ahead + 1) == Some("of")
    }

    pub fn comma(&mut self) -> bool {
        let there = self.peek().is_some_and(|token| token.kind == Kind::Comma);
        self.next += usize::from(there);
        there
    }

    /// Two lengths with an x between; the unit of one holds for the other where that has none.
    pub fn size(&mut self) -> Option<((Metres, Metres), (usize, usize))> {
        let [width, times, depth] = self.tokens.get(self.next..self.next + 3)? else { return None };
        let (w, d) = (width.length()?, depth.length()?);
        (times.kind == Kind::Times).then(|| {
            self.next += 3;
            let size = (w.or_in(d.unit).metres(self.unit), d.or_in(w.unit).metres(self.unit));
            (size, (width.from, depth.to))
        })
    }

    /// The length that comes next, within reach.
    pub fn length(&mut self, after: (usize, usize), example: &str) -> Result<Metres, Wrong> {
        let told = || Wrong::new(after.0, after.1, format!("A length should follow, as in “{example}”."));
        let token = self.peek().ok_or_else(told)?;
        let length = token.length().ok_or_else(told)?.metres(self.unit);
        if length.get().abs() > REACH {
            let reach = say_length(Metres::new(REACH), self.unit);
            let told = format!("{} is too far; stay within {reach}.", say_length(length, self.unit));
            return Err(Wrong::new(token.from, token.to, told));
        }
        self.next += 1;
        Ok(length)
    }

    /// A second length, when one follows, with or without a comma.
    pub fn another_length(&mut self) -> Option<Metres> {
        let begun = self.next;
        self.comma();
        let length = self.peek().and_then(Token::length).map(|length| length.metres(self.unit));
        match length {
            // A length before a side and "of" is a distance of its own.
            Some(length) if length.get().abs() <= REACH && !self.is_side_of(1) && !self.is_measured() => {
                self.next += 1;
                Some(length)
            }
            _ => {
                self.next = begun;
                None
            }
        }
    }

    /// Whether a length comes next with what it measures: "0.9 wide" is no part of a name and no place.
    fn is_measured(&self) -> bool {
        let measures =
            self.tokens.get(self.next + 1).and_then(Token::word).is_some_and(|word| MEASURES.contains(&word));
        measures && self.peek().is_some_and(|token| token.length().is_some())
    }

    /// The name that comes next, up to what ends names.
    pub fn name(&mut self, after: (usize, usize), ends: &[&str]) -> Result<Named, Wrong> {
        let first = self.next;
        let goes_on = |token: &Token| token.may_be_name() && !token.word().is_some_and(|word| ends.contains(&word));
        while self.peek().is_some_and(goes_on) && !self.is_measured() {
            self.next += 1;
        }
        if first == self.next {
            return Err(Wrong::new(after.0, after.1, "The name of a room should follow."));
        }
        let (from, to) = (self.tokens[first].from, self.tokens[self.next - 1].to);
        Ok(Named { name: self.source(from, to), from, to })
    }

    /// The text from here to there as it was typed, single-spaced.
    pub fn source(&self, from: usize, to: usize) -> String {
        text(self.chars, from, to).split_whitespace().collect::<Vec<_>>().join(" ")
    }

    /// Where the token before this one ends.
    pub fn reached(&self) -> usize {
        self.next.checked_sub(1).and_then(|before| self.tokens.get(before)).map_or(0, |token| token.to)
    }
}
