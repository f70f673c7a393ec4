//! The page of grammar: what a house line may say, each with an example in either unit that reads as it stands.

use serde::Serialize;
use utoipa::ToSchema;

use super::read_thing::THINGS;

/// One thing that a line may say.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Saying {
    /// What it is for, in a few words.
    pub what: &'static str,
    /// An example in metres; it may be put in after a room called Hall.
    pub metres: &'static str,
    /// The same in feet and inches.
    pub feet: &'static str,
    /// What else may be written there.
    pub more: &'static str,
}

const fn say(what: &'static str, metres: &'static str, feet: &'static str, more: &'static str) -> Saying {
    Saying { what, metres, feet, more }
}

/// All of them, in the order one needs them.
pub const GRAMMAR: [Saying; 20] = [
    say(
        "a room: name, width (east) x depth (south)",
        "Hall 2 x 5",
        "Hall 6'6\" x 16'",
        "lengths as 4.2, 4,2, 420 cm, 12', 12'6, 12 ft 6½ in",
    ),
    say(
        "where it lies",
        "Kitchen 4.2 x 3.6 east of Hall",
        "Kitchen 14' x 12' east of Hall",
        "north, east, south, west of; or at and two lengths: east and south of the first corner",
    ),
    say(
        "lined up otherwise",
        "Study 3 x 2.5 west of Hall flush south",
        "Study 10' x 8' west of Hall flush south",
        "flush and a side, centred, offset and a length",
    ),
    say(
        "an L-shape: one room, no wall between",
        "Diner 4.2 x 3 + 2.4 x 2.7 south east of Hall",
        "Diner 14' x 10' + 8' x 9' south east of Hall",
        "as many parts as it has",
    ),
    say(
        "a bay",
        "Lounge 4 x 3.6 + bay 2 x 0.6 north centred east of Hall",
        "Lounge 13' x 12' + bay 6' x 2' north centred east of Hall",
        "",
    ),
    say(
        "a building of its own",
        "Garage 3 x 5.5 9 east of Hall",
        "Garage 10' x 18' 30' east of Hall",
        "how far off stands before the side",
    ),
    say(
        "a garden, balcony or yard",
        "Garden 9 x 12 south of Hall outdoors",
        "Garden 30' x 40' south of Hall outdoors",
        "",
    ),
    say("over a room of another level", "Landing 2 x 5 above Hall", "Landing 6'6\" x 16' above Hall", "above, below"),
    say(
        "a door",
        "- door to Hall; door south at 0.6 0.9 wide shut",
        "- door to Hall; door south at 2' 3' wide shut",
        "which side or to which room, how far along it, how wide, open or shut, of what",
    ),
    say(
        "a window",
        "- window east at 0.8 1.6 wide coated",
        "- window east at 2'6\" 5' wide coated",
        "sill and high say its edges",
    ),
    say("a gap without a door", "- gap north 1.2 wide", "- gap north 4' wide", ""),
    say(
        "what a side is made of",
        "- north brick; wall to Hall stone 0.4; west open",
        "- north brick; wall to Hall stone 1'4\"; west open",
        "stud, block, brick, thick brick, cavity, stone, concrete, glass, foil; all for all sides",
    ),
    say(
        "stairs up",
        "- stairs 0.9 x 2.4 at 0.1, 1.5",
        "- stairs 3' x 8' at 6\", 5'",
        "at, or sides: stairs north west",
    ),
    say("a chimney breast or column", "- chimney 1.4 x 0.4 west", "- chimney 4'6\" x 1'4\" west", ""),
    say(
        "tall metal",
        "- metal cabinet 0.6 x 0.6 south east",
        "- metal cabinet 2' x 2' south east",
        "fridge and boiler too",
    ),
    say(
        "in a garden",
        "- hedge south 1.8 high; garden wall west; car at 0.1, 0.4",
        "- hedge south 6' high; garden wall west; car at 3\", 1'",
        "house, trees; at E, S to E, S",
    ),
    say(
        "a power socket",
        "- power socket west at 1.2 circuit kitchen",
        "- power socket west at 4' circuit kitchen",
        "",
    ),
    say(
        "a network or coax socket",
        "- network socket north at 0.4 called 3 ends Hall",
        "- network socket north at 1'6\" called 3 ends Hall",
        "sealed, dead",
    ),
    say(
        "where the line enters",
        "- line entry north at 0.3 in metal cabinet",
        "- line entry north at 1' in metal cabinet",
        "in wooden cabinet",
    ),
    say("of a room by its name; a comment", "Hall: door north # to the street", "Hall: door north # to the street", ""),
];

/// Words that may follow a size: where a room lies and how it is lined up.
pub const PLACE_WORDS: [&str; 11] =
    ["east of", "west of", "north of", "south of", "above", "below", "flush", "centred", "offset", "outdoors", "at"];

/// Words that may stand in a thing of a room, what it is first.
#[must_use]
pub fn thing_words() -> Vec<&'static str> {
    let more = [
        "to",
        "north",
        "east",
        "south",
        "west",
        "all",
        "at",
        "from",
        "wide",
        "high",
        "deep",
        "sill",
        "open",
        "shut",
        "called",
        "circuit",
        "ends",
        "sealed",
        "dead",
        "in metal cabinet",
        "in wooden cabinet",
        "part",
    ];
    THINGS.iter().map(|(words, _)| *words).chain(more).collect()
}
