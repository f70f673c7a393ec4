//! A typed line cut into words, lengths and marks, each with its place.

use super::lengths::{Spoken, read_length};
use super::wrong::Wrong;

/// A piece of a line.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Token {
    pub kind: Kind,
    /// First character, counted from 0.
    pub from: usize,
    /// After the last character.
    pub to: usize,
}

#[derive(Debug, Clone, PartialEq)]
pub(super) enum Kind {
    /// A word, in small letters.
    Word(String),
    Length(Spoken),
    Times,
    Plus,
    Comma,
    Semicolon,
    Colon,
    /// A dash before the things of a room.
    Dash,
    /// What looks like a length and is none.
    Bad(Wrong),
}

impl Token {
    pub fn word(&self) -> Option<&str> {
        match &self.kind {
            Kind::Word(word) => Some(word),
            _ => None,
        }
    }

    pub fn length(&self) -> Option<Spoken> {
        match self.kind {
            Kind::Length(length) => Some(length),
            _ => None,
        }
    }

    /// Whether it may be part of a name: a word, or a whole number without a mark.
    pub fn may_be_name(&self) -> bool {
        match &self.kind {
            Kind::Word(_) => true,
            Kind::Length(length) => length.plain,
            _ => false,
        }
    }
}

/// Cuts a line, its comment left out.
pub(super) fn tokens(chars: &[char]) -> Vec<Token> {
    let mut list: Vec<Token> = Vec::new();
    let mut at = 0;
    while at < chars.len() {
        let c = chars[at];
        let next = chars.get(at + 1);
        let ends = |at: usize| chars.get(at).is_none_or(|c| c.is_whitespace());
        if c.is_whitespace() {
            at += 1;
            continue;
        }
        let mark = match c {
            ',' if !starts_length(chars, at) => Some(Kind::Comma),
            ';' => Some(Kind::Semicolon),
            '+' => Some(Kind::Plus),
            ':' => Some(Kind::Colon),
            '×' | '*' => Some(Kind::Times),
            '-' | '–' | '•' if list.is_empty() && ends(at + 1) => Some(Kind::Dash),
            'x' | 'X' if next.is_none_or(|c| c.is_whitespace()) || starts_length(chars, at + 1) => Some(Kind::Times),
            _ => None,
        };
        if let Some(kind) = mark {
            list.push(Token { kind, from: at, to: at + 1 });
            at += 1;
            continue;
        }
        match read_length(chars, at) {
            Some(Ok((length, to))) if !is_glued(chars, to) => {
                list.push(Token { kind: Kind::Length(length), from: at, to });
                at = to;
            }
            Some(Err(wrong)) => {
                let to = wrong.to.max(at + 1);
                list.push(Token { kind: Kind::Bad(wrong), from: at, to });
                at = to;
            }
            _ => {
                let from = at;
                while at < chars.len() && !chars[at].is_whitespace() && !matches!(chars[at], ',' | ';' | ':') {
                    at += 1;
                }
                at = at.max(from + 1);
                let word: String = chars[from..at].iter().collect::<String>().to_lowercase();
                let kind = if word == "by" { Kind::Times } else { Kind::Word(word) };
                list.push(Token { kind, from, to: at });
            }
        }
    }
    list
}

fn starts_length(chars: &[char], at: usize) -> bool {
    chars.get(at).is_some_and(|c| c.is_ascii_digit() || "½¼¾⅓⅔⅛⅜⅝⅞".contains(*c))
        || matches!(chars.get(at), Some('.')) && chars.get(at + 1).is_some_and(char::is_ascii_digit)
}

/// Whether letters go on right after a number, as in "2nd"; the x of a size does not count.
fn is_glued(chars: &[char], to: usize) -> bool {
    match chars.get(to) {
        Some('x' | 'X') => !(starts_length(chars, to + 1) || chars.get(to + 1).is_none_or(|c| c.is_whitespace())),
        Some(c) => c.is_alphanumeric(),
        None => false,
    }
}
