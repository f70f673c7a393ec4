//! Faults gathered with the place they are at, and what holds of every name, text and length.

use std::collections::HashSet;

use busy_hen_units::Metres;

use crate::fault::Fault;
use crate::{Hours, LengthUnit};

/// Longest name that is kept, characters.
pub(super) const NAME_LIMIT: usize = 80;

/// Longest free text that is kept, characters.
pub(super) const TEXT_LIMIT: usize = 4000;

/// Farthest coordinate from the origin, metres.
pub(super) const REACH_LIMIT_M: f64 = 1000.0;

/// Gathers faults with the place they are at, told in the home's unit.
pub(super) struct Check {
    pub units: LengthUnit,
    pub faults: Vec<Fault>,
}

impl Check {
    pub fn that(&mut self, holds: bool, pointer: impl Into<String>, message: impl Into<String>) {
        if !holds {
            self.faults.push(Fault { pointer: pointer.into(), message: message.into() });
        }
    }

    /// That a length lies within its limits; `told` gets it and them in words.
    pub fn length(
        &mut self,
        length: Metres,
        limits: std::ops::RangeInclusive<f64>,
        pointer: String,
        told: impl FnOnce(&str, &str) -> String,
    ) {
        let words = |length| self.units.in_words(length);
        let (low, high) = (words(Metres::new(*limits.start())), words(Metres::new(*limits.end())));
        let message = told(&words(length), &format!("{low} to {high}"));
        self.that(limits.contains(&length.get()), pointer, message);
    }

    /// How far from its origin a home reaches, in words.
    pub fn reach(&self) -> String {
        self.units.in_words(Metres::new(REACH_LIMIT_M))
    }

    pub fn name(&mut self, name: &str, pointer: &str, what: &str) {
        self.that(!name.trim().is_empty(), pointer, format!("{what} needs a name."));
        self.that(
            name.chars().count() <= NAME_LIMIT,
            pointer,
            format!("{what} has a name of over {NAME_LIMIT} characters; shorten it."),
        );
        self.that(
            !name.chars().any(is_unseen),
            pointer,
            format!("{what} has a line break or an invisible character in its name; type the name anew."),
        );
    }

    pub fn text(&mut self, text: &str, pointer: &str, what: &str) {
        self.that(
            text.chars().count() <= TEXT_LIMIT,
            pointer,
            format!("{what} is longer than {TEXT_LIMIT} characters; shorten it."),
        );
    }

    pub fn hours(&mut self, hours: Option<Hours>, pointer: &str) {
        self.that(
            hours.is_none_or(|hours| hours.from < 24 && hours.to < 24),
            pointer,
            "Hours are 0 to 23; leave them empty when they are not known.",
        );
    }

    pub fn unique<T: std::hash::Hash + Eq>(&mut self, items: impl Iterator<Item = (T, String)>, what: &str) {
        let mut seen = HashSet::new();
        for (item, pointer) in items {
            let fresh = seen.insert(item);
            self.that(fresh, pointer, format!("{what} stands here twice; change one of them."));
        }
    }
}

/// Whether a character can't be seen in a name or turns the order of what follows: control, zero-width and direction characters
/// (Unicode categories Cc and Cf), but for the two joiners that some scripts are written with.
pub(super) fn is_unseen(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}' | '\u{200e}' | '\u{200f}' | '\u{feff}')
        || matches!(c, '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e007f}')
}
