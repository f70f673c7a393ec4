//! What a typed line says to be in a room: walls of another material, doors, windows, stairs, what stands in the way, sockets.

use busy_hen_home::{MaterialKey, ObstacleKind, Side};
use busy_hen_units::Metres;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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

/// Something that a line puts into a room.
#[derive(Debug, Clone, PartialEq)]
pub struct Thing {
    /// First character of it in its line, counted from 0.
    pub from: usize,
    /// After the last character.
    pub to: usize,
    /// What it is.
    pub what: What,
    /// Where it is.
    pub place: Place,
}

/// What a thing is.
#[derive(Debug, Clone, PartialEq)]
pub enum What {
    /// A side, or all of them, made of this; as thick as this where that is not usual.
    Wall {
        /// What it is made of.
        material: MaterialKey,
        /// How thick its main layer is, where that is said.
        thickness: Option<Metres>,
    },
    /// A door, window or gap.
    Opening(Opening),
    /// A hole in the floor above, for stairs.
    Stairs {
        /// East-west and north-south size, where that is said.
        size: Option<(Metres, Metres)>,
    },
    /// Something tall in the way.
    Solid {
        /// What it is.
        kind: ObstacleKind,
        /// East-west and north-south size, where that is said.
        size: Option<(Metres, Metres)>,
        /// Its height, where that is said.
        height: Option<Metres>,
        /// How deep it is, where that is said.
        depth: Option<Metres>,
    },
    /// A socket, or where the line enters.
    Socket(Socket),
}

/// A door, window or gap as it is said.
#[derive(Debug, Clone, PartialEq)]
pub struct Opening {
    /// What it is.
    pub kind: Gap,
    /// How wide; the usual when not said.
    pub width: Option<Metres>,
    /// How high its upper edge lies; the usual when not said.
    pub top: Option<Metres>,
    /// How high its lower edge lies; the usual when not said.
    pub sill: Option<Metres>,
    /// What its leaf or pane is made of; the usual when not said.
    pub material: Option<MaterialKey>,
    /// Whether it usually stands open; doors between rooms do when nobody says.
    pub open: Option<bool>,
}

/// Kind of opening.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Gap {
    /// A door.
    Door,
    /// A window.
    Window,
    /// A gap without a door.
    Gap,
}

/// A socket as it is said.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Socket {
    /// What it is.
    pub kind: SocketKind,
    /// What is written on it.
    pub label: Option<String>,
    /// The power circuit it is on.
    pub circuit: Option<String>,
    /// Where its cable ends.
    pub ends: Option<String>,
    /// What can be said of its state.
    pub state: SocketState,
    /// What the line enters in.
    pub housing: Housing,
}

/// Kind of socket.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SocketKind {
    /// A mains outlet.
    #[default]
    Power,
    /// A network socket.
    Network,
    /// A cable-television socket.
    Coax,
    /// Where the internet line enters.
    LineEntry,
}

/// What can be said of a socket.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SocketState {
    /// Nothing against it.
    #[default]
    Usable,
    /// Sealed or painted over.
    Sealed,
    /// Its cable leads nowhere.
    Dead,
}

/// What the line enters in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Housing {
    /// The open room.
    #[default]
    Open,
    /// A cabinet of metal.
    MetalCabinet,
    /// A cabinet of wood.
    WoodCabinet,
}

/// Where a thing is, in its room.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Place {
    /// The sides it is at: one for what is in a wall, two for a corner; none where it is not said.
    pub sides: Vec<Side>,
    /// The room beyond the wall it is in.
    pub beyond: Option<Named>,
    /// Which part of a room of several, counted from 0.
    pub part: Option<usize>,
    /// How far it is: along its side, or east and south of the room's north-west corner.
    pub at: Option<(Metres, Option<Metres>)>,
    /// The end of the side that `at` counts from; west or north when not said.
    pub from: Option<Side>,
    /// Its other end, east and south of the room's north-west corner.
    pub to: Option<(Metres, Metres)>,
    /// Characters that say `at` and what belongs to it; where they would stand when nothing is said.
    pub at_span: (usize, usize),
}
