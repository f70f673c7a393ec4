//! What is drawn, written as a line says it.

use busy_hen_home::{LengthUnit, Side};
use busy_hen_units::Metres;

use super::lengths::write_length;
use super::thing::{Gap, Housing, Opening, Place, Socket, SocketKind, SocketState, Thing, What};
use super::words::{material_word, side_word};

/// `at LENGTH [from SIDE]`.
#[must_use]
pub fn at_clause(along: Metres, from: Option<Side>, unit: LengthUnit) -> String {
    let at = format!("at {}", write_length(along, unit));
    from.map_or(at.clone(), |side| format!("{at} from {}", side_word(side)))
}

/// A thing as a line says it.
#[must_use]
pub fn write_thing(thing: &Thing, unit: LengthUnit) -> String {
    let length = |metres: Metres| write_length(metres, unit);
    let size = |size: (Metres, Metres)| format!("{} x {}", length(size.0), length(size.1));
    let mut words: Vec<String> = Vec::new();
    match &thing.what {
        What::Wall { material, thickness } => {
            let all = thing.place.sides.is_empty() && thing.place.beyond.is_none();
            words.extend(all.then(|| "all".to_owned()));
            if thing.place.beyond.is_some() {
                words.push("wall".into());
            }
            words.extend(place(&thing.place, unit));
            words.push(material_word(&material.0).to_owned());
            words.extend(thickness.map(length));
        }
        What::Opening(Opening { kind, width, top, sill, material, open }) => {
            words.push(gap_word(*kind).into());
            words.extend(place(&thing.place, unit));
            words.extend(width.map(|width| format!("{} wide", length(width))));
            words.extend(sill.map(|sill| format!("{} sill", length(sill))));
            words.extend(top.map(|top| format!("{} high", length(top))));
            words.extend(material.as_ref().map(|key| material_word(&key.0).to_owned()));
            words.extend(open.map(|open| if open { "open".to_owned() } else { "shut".to_owned() }));
        }
        What::Stairs { size: own } => {
            words.push("stairs".into());
            words.extend(own.map(size));
            words.extend(place(&thing.place, unit));
        }
        What::Solid { kind, size: own, height, depth } => {
            words.push(solid_word(*kind).into());
            words.extend(own.map(size));
            words.extend(place(&thing.place, unit));
            words.extend(height.map(|height| format!("{} high", length(height))));
            words.extend(depth.map(|depth| format!("{} deep", length(depth))));
        }
        What::Socket(Socket { kind, label, circuit, ends, state, housing }) => {
            words.push(socket_word(*kind).into());
            words.extend(place(&thing.place, unit));
            words.extend(label.as_ref().map(|label| format!("called {label}")));
            words.extend(circuit.as_ref().map(|circuit| format!("circuit {circuit}")));
            words.extend(ends.as_ref().map(|ends| format!("ends {ends}")));
            match state {
                SocketState::Usable => {}
                SocketState::Sealed => words.push("sealed".into()),
                SocketState::Dead => words.push("dead".into()),
            }
            match housing {
                Housing::Open => {}
                Housing::MetalCabinet => words.push("in metal cabinet".into()),
                Housing::WoodCabinet => words.push("in wooden cabinet".into()),
            }
        }
    }
    words.join(" ")
}

fn place(place: &Place, unit: LengthUnit) -> Vec<String> {
    let length = |metres: Metres| write_length(metres, unit);
    let mut words: Vec<String> = place.sides.iter().map(|side| side_word(*side).to_owned()).collect();
    words.extend(place.beyond.as_ref().map(|named| format!("to {}", named.name)));
    words.extend(place.part.map(|part| format!("part {}", part + 1)));
    match place.at {
        Some((east, Some(south))) => words.push(format!("at {}, {}", length(east), length(south))),
        Some((along, None)) => words.push(at_clause(along, place.from, unit)),
        None => {}
    }
    words.extend(place.to.map(|(east, south)| format!("to {}, {}", length(east), length(south))));
    words
}

/// The word that begins an opening.
#[must_use]
pub fn gap_word(kind: Gap) -> &'static str {
    match kind {
        Gap::Door => "door",
        Gap::Window => "window",
        Gap::Gap => "gap",
    }
}

fn solid_word(kind: busy_hen_home::ObstacleKind) -> &'static str {
    use busy_hen_home::ObstacleKind as Kind;
    match kind {
        Kind::GardenWall => "garden wall",
        Kind::Hedge => "hedge",
        Kind::Car => "car",
        Kind::OtherHouse => "house",
        Kind::MetalCabinet => "metal cabinet",
        Kind::Concrete => "column",
    }
}

fn socket_word(kind: SocketKind) -> &'static str {
    match kind {
        SocketKind::Power => "power socket",
        SocketKind::Network => "network socket",
        SocketKind::Coax => "coax socket",
        SocketKind::LineEntry => "line entry",
    }
}
