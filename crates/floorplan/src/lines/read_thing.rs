//! What a line says to be in a room.
//!
//! ```text
//! SIDE|all|wall to NAME  MATERIAL [LENGTH]                        what a side is made of, how thick
//! door|window|gap  SIDE|to NAME  [at LENGTH [from SIDE]]  [LENGTH wide]  [LENGTH high]  [LENGTH sill]  [MATERIAL]  [open|shut]
//! stairs  [SIZE]  [SIDE [SIDE]]  [at EAST, SOUTH]
//! chimney|column|cabinet|hedge|garden wall|car|house  [SIZE]  [SIDE [SIDE]]  [at EAST, SOUTH [to EAST, SOUTH]]  [LENGTH high]  [LENGTH deep]
//! power|network|coax socket  SIDE  [at LENGTH]  [called NAME]  [circuit NAME]  [ends NAME]  [sealed|dead]
//! line entry  SIDE  [at LENGTH]  [in metal cabinet|in wooden cabinet]
//! ```
//! `at` counts from the west or north end of a side to the near edge; `part 2` names a part of a room of several.

use busy_hen_catalogue::materials;
use busy_hen_home::{MaterialKey, ObstacleKind};
use busy_hen_units::Metres;

use super::cursor::Cursor;
use super::thing::{Gap, Housing, Opening, Place, Socket, SocketKind, SocketState, Thing, What};
use super::tokens::Token;
use super::words::{material_called, material_like, side_named};
use super::wrong::Wrong;

/// First words of things, as they are offered.
pub(super) const THINGS: [(&str, Begins); 24] = [
    ("door", Begins::Opening(Gap::Door)),
    ("window", Begins::Opening(Gap::Window)),
    ("gap", Begins::Opening(Gap::Gap)),
    ("opening", Begins::Opening(Gap::Gap)),
    ("stairs", Begins::Stairs),
    ("stair", Begins::Stairs),
    ("chimney breast", Begins::Solid(ObstacleKind::Concrete)),
    ("chimney", Begins::Solid(ObstacleKind::Concrete)),
    ("column", Begins::Solid(ObstacleKind::Concrete)),
    ("metal cabinet", Begins::Solid(ObstacleKind::MetalCabinet)),
    ("cabinet", Begins::Solid(ObstacleKind::MetalCabinet)),
    ("fridge", Begins::Solid(ObstacleKind::MetalCabinet)),
    ("boiler", Begins::Solid(ObstacleKind::MetalCabinet)),
    ("garden wall", Begins::Solid(ObstacleKind::GardenWall)),
    ("hedge", Begins::Solid(ObstacleKind::Hedge)),
    ("trees", Begins::Solid(ObstacleKind::Hedge)),
    ("car", Begins::Solid(ObstacleKind::Car)),
    ("house", Begins::Solid(ObstacleKind::OtherHouse)),
    ("power socket", Begins::Socket(SocketKind::Power)),
    ("socket", Begins::Socket(SocketKind::Power)),
    ("network socket", Begins::Socket(SocketKind::Network)),
    ("coax socket", Begins::Socket(SocketKind::Coax)),
    ("line entry", Begins::Socket(SocketKind::LineEntry)),
    ("wall", Begins::Wall),
];

/// What a first word begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Begins {
    Opening(Gap),
    Stairs,
    Solid(ObstacleKind),
    Socket(SocketKind),
    Wall,
}

/// Words that end the name after "to", "called", "circuit" or "ends".
const AFTER_NAMES: [&str; 14] = [
    "at", "open", "shut", "closed", "called", "named", "circuit", "ends", "sealed", "dead", "part", "in", "from", "of",
];

/// Whether something in a room begins here.
pub(super) fn begins_thing(tokens: &[Token]) -> bool {
    begins(&mut Cursor { chars: &[], tokens, next: 0, unit: busy_hen_home::LengthUnit::Metre }).is_some()
}

fn begins(cursor: &mut Cursor<'_>) -> Option<Begins> {
    THINGS.iter().find_map(|(words, what)| {
        let words: Vec<&str> = words.split(' ').collect();
        cursor.takes_all(&words).then_some(*what)
    })
}

/// What is said of a thing, in any order.
#[derive(Default)]
struct Said {
    place: Place,
    size: Option<(Metres, Metres)>,
    wide: Option<Metres>,
    high: Option<Metres>,
    deep: Option<Metres>,
    sill: Option<Metres>,
    open: Option<bool>,
    all_sides: bool,
    material: Option<(String, (usize, usize))>,
    thickness: Option<(Metres, (usize, usize))>,
    label: Option<String>,
    circuit: Option<String>,
    ends: Option<String>,
    state: SocketState,
    housing: Housing,
}

/// Reads one thing of a room.
///
/// # Errors
/// What is wrong with it, and where.
pub(super) fn read_thing(cursor: &mut Cursor<'_>) -> Result<Thing, Wrong> {
    let (from, to) = (cursor.tokens[0].from, cursor.tokens[cursor.tokens.len() - 1].to);
    let first = cursor.peek_word().unwrap_or_default();
    let of_side = side_named(first).is_some() || first == "all";
    let what = if of_side { Some(Begins::Wall) } else { begins(cursor) };
    let Some(what) = what else { return Err(not_known(cursor, from, to)) };
    let head = cursor.reached();
    let mut said = Said::default();
    said.place.at_span = (head, head);
    while cursor.next < cursor.tokens.len() {
        clause(cursor, &mut said, what)?;
    }
    if said.place.at.is_none() {
        // "at" goes behind the sides or the room beyond.
        said.place.at_span = (said.place.at_span.1, said.place.at_span.1);
    }
    let place = std::mem::take(&mut said.place);
    let material = said.material(what)?;
    let what = match what {
        Begins::Wall => {
            let (said_side, material) = (!place.sides.is_empty() || place.beyond.is_some() || said.all_sides, material);
            let told = "Write the side and what it is made of, as in “north brick”.";
            let material = material.filter(|_| said_side).ok_or_else(|| Wrong::new(from, to, told))?;
            What::Wall { material, thickness: said.thickness.map(|(length, _)| length) }
        }
        Begins::Opening(kind) => {
            if place.sides.is_empty() && place.beyond.is_none() {
                return Err(which_side(from, head));
            }
            if let Some((_, span)) = said.thickness {
                let told = "What is this length: how wide it is, or how far along the side?";
                let typed = cursor.source(span.0, span.1);
                return Err(Wrong::new(span.0, span.1, told).or(&format!("{typed} wide")).or(&format!("at {typed}")));
            }
            let (width, top, sill, open) = (said.wide, said.high, said.sill, said.open);
            What::Opening(Opening { kind, width, top, sill, material, open })
        }
        Begins::Stairs => What::Stairs { size: said.size },
        Begins::Solid(kind) => What::Solid { kind, size: said.size, height: said.high, depth: said.deep },
        Begins::Socket(kind) => {
            if place.sides.is_empty() && !matches!(place.at, Some((_, Some(_)))) {
                return Err(which_side(from, head));
            }
            let Said { label, circuit, ends, state, housing, .. } = said;
            What::Socket(Socket { kind, label, circuit, ends, state, housing })
        }
    };
    Ok(Thing { from, to, what, place })
}

fn which_side(from: usize, head: usize) -> Wrong {
    let told = "In which side? Write north, east, south or west, or “to” and the room beyond.";
    ["north", "east", "south", "west"]
        .iter()
        .fold(Wrong::new(from, head, told), |wrong, side| wrong.or_at(head, head, &format!(" {side}")))
}

fn not_known(cursor: &Cursor<'_>, from: usize, to: usize) -> Wrong {
    let word = cursor.peek_word().unwrap_or_default();
    let span = cursor.peek().map_or((from, to), |token| (token.from, token.to));
    let told = format!(
        "“{}” is nothing known in a room; write a door, window, stairs, chimney, socket, or a side and its material.",
        cursor.source(span.0, span.1)
    );
    let like = THINGS
        .iter()
        .map(|(known, _)| (strsim::jaro_winkler(known, word), *known))
        .filter(|(likeness, _)| *likeness > 0.8)
        .max_by(|a, b| a.0.total_cmp(&b.0));
    let wrong = Wrong::new(span.0, span.1, told);
    like.map_or(wrong.clone(), |(_, known)| wrong.or(known))
}

fn clause(cursor: &mut Cursor<'_>, said: &mut Said, what: Begins) -> Result<(), Wrong> {
    let token = cursor.tokens[cursor.next].clone();
    let span = (token.from, token.to);
    let feet = cursor.unit == busy_hen_home::LengthUnit::Foot;
    if cursor.comma() {
        return Ok(());
    }
    if let Some((size, _)) = cursor.size() {
        said.size = Some(size);
        return Ok(());
    }
    if token.length().is_some() {
        return measure(cursor, said, span);
    }
    if let Some(side) = cursor.side() {
        if said.place.sides.contains(&side) {
            return Err(Wrong::new(span.0, span.1, "This side stands here twice."));
        }
        said.place.sides.push(side);
        said.place.at_span = (span.1, span.1);
        return Ok(());
    }
    let Some(word) = token.word().map(str::to_owned) else {
        return Err(Wrong::new(span.0, span.1, "This is not understood here."));
    };
    cursor.next += 1;
    match word.as_str() {
        "all" if what == Begins::Wall => said.all_sides = true,
        "wall" | "side" | "sides" | "walls" | "of" | "along" | "in" | "up" | "breast" if cursor_fits(cursor, &word) => {
        }
        "to" if cursor.peek().is_some_and(|next| next.length().is_some()) => {
            let example = if feet { "at 2', 3' to 8', 3'" } else { "at 0.5, 1 to 2.5, 1" };
            let east = cursor.length(span, example)?;
            let south = cursor.another_length().ok_or_else(|| {
                Wrong::new(span.0, cursor.reached(), format!("Two lengths should follow, as in “{example}”."))
            })?;
            said.place.to = Some((east, south));
            said.place.at_span.1 = cursor.reached();
        }
        "to" => {
            let mut named = cursor.name(span, &AFTER_NAMES)?;
            if what == Begins::Wall {
                // "wall to Hall brick": the name goes as far as a material does not begin.
                named = before_material(cursor, named)?;
            }
            said.place.at_span = (named.to, named.to);
            said.place.beyond = Some(named);
        }
        "at" => {
            let along = cursor.length(span, if feet { "at 2'6\"" } else { "at 0.8" })?;
            let wants_two = matches!(what, Begins::Stairs | Begins::Solid(_)) || said.place.sides.is_empty();
            let second = if wants_two { cursor.another_length() } else { None };
            said.place.at = Some((along, second));
            said.place.at_span = (span.0, cursor.reached());
        }
        "from" => {
            let side = cursor.side().ok_or_else(|| {
                Wrong::new(
                    span.0,
                    span.1,
                    "After “from” should stand the end that is counted from: north, east, south or west.",
                )
            })?;
            said.place.from = Some(side);
            said.place.at_span.1 = cursor.reached();
        }
        "open" if matches!(what, Begins::Opening(_)) => said.open = Some(true),
        "shut" | "closed" => said.open = Some(false),
        "part" => {
            let number = cursor.peek().and_then(Token::length).filter(|n| n.plain && (1.0..=20.0).contains(&n.value));
            let number = number.ok_or_else(|| {
                Wrong::new(
                    span.0,
                    span.1,
                    "After “part” should stand which, counted from 1: “part 2” is what was added first.",
                )
            })?;
            cursor.next += 1;
            said.place.part = Some(number.value as usize - 1);
        }
        "called" | "named" => said.label = Some(cursor.name(span, &AFTER_NAMES)?.name),
        "circuit" => said.circuit = Some(cursor.name(span, &AFTER_NAMES)?.name),
        "ends" => {
            cursor.takes(&["in", "at"]);
            said.ends = Some(cursor.name(span, &AFTER_NAMES)?.name);
        }
        "sealed" => said.state = SocketState::Sealed,
        "dead" => said.state = SocketState::Dead,
        "metal" if matches!(what, Begins::Socket(_)) => {
            cursor.takes(&["cabinet", "cupboard"]);
            said.housing = Housing::MetalCabinet;
        }
        "wood" | "wooden" if matches!(what, Begins::Socket(_)) => {
            cursor.takes(&["cabinet", "cupboard"]);
            said.housing = Housing::WoodCabinet;
        }
        _ => {
            let (words, from) = match said.material.take() {
                Some((words, (from, to))) if to + 1 >= span.0 => (format!("{words} {word}"), from),
                Some((_, (from, to))) => {
                    return Err(Wrong::new(from, to, "Two materials stand here; keep one."));
                }
                None => (word, span.0),
            };
            said.material = Some((words, (from, span.1)));
        }
    }
    Ok(())
}

/// Words that only join others: "in metal cabinet", "wall of brick".
fn cursor_fits(cursor: &Cursor<'_>, word: &str) -> bool {
    word != "in" || cursor.peek_word().is_some_and(|next| ["metal", "wood", "wooden", "a", "the"].contains(&next))
}

/// A length with what it is: wide, high, deep, sill; or left for a wall to be as thick.
fn measure(cursor: &mut Cursor<'_>, said: &mut Said, span: (usize, usize)) -> Result<(), Wrong> {
    let length = cursor.length(span, "0.8")?;
    let slot = match cursor.peek_word() {
        Some("wide" | "width") => &mut said.wide,
        Some("high" | "height" | "tall") => &mut said.high,
        Some("deep" | "depth") => &mut said.deep,
        Some("sill" | "up") => &mut said.sill,
        word => {
            cursor.next += usize::from(word == Some("thick"));
            said.thickness = Some((length, span));
            return Ok(());
        }
    };
    *slot = Some(length);
    cursor.next += 1;
    Ok(())
}

/// Parts the name of a room from the material that follows it.
fn before_material(cursor: &mut Cursor<'_>, named: super::thing::Named) -> Result<super::thing::Named, Wrong> {
    let end = cursor.next;
    let first = cursor.tokens.iter().position(|token| token.from == named.from).unwrap_or(end);
    for split in first + 1..end {
        let (from, to) = (cursor.tokens[split].from, cursor.tokens[end - 1].to);
        if material_called(&cursor.source(from, to)).is_some() {
            cursor.next = split;
            let to = cursor.tokens[split - 1].to;
            return Ok(super::thing::Named { name: cursor.source(named.from, to), from: named.from, to });
        }
    }
    Err(Wrong::new(
        named.from,
        named.to,
        "After the room should stand what the wall is made of, as in “wall to Hall brick”.",
    ))
}

impl Said {
    /// The material that is said, where this may have it.
    fn material(&self, what: Begins) -> Result<Option<MaterialKey>, Wrong> {
        let Some((words, (from, to))) = &self.material else { return Ok(None) };
        let told = format!("No material is called “{words}”.");
        let wrong = Wrong::new(*from, *to, told);
        if !matches!(what, Begins::Wall | Begins::Opening(_)) {
            return Err(Wrong::new(*from, *to, format!("“{words}” is not understood here.")));
        }
        let Some(key) = material_called(words) else {
            return Err(material_like(words).map_or(wrong.clone(), |name| wrong.or(name)));
        };
        let floor = materials::find(key).is_some_and(|own| own.category == materials::MaterialUse::Floor);
        if floor {
            return Err(Wrong::new(*from, *to, format!("“{words}” makes floors, not walls.")));
        }
        Ok(Some(MaterialKey::from(key)))
    }
}
