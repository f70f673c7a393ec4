//! How a device is put up when nobody says more: where the line enters or near an outlet, as high as such kit is mounted, on channels of
//! its own.

use busy_hen_catalogue::AsItComes;
use busy_hen_catalogue::spectrum::{Block, Region, block};
use busy_hen_floorplan::lines::thing::{SocketKind, SocketState};
use busy_hen_floorplan::{Plan, PlanRoom, Point};
use busy_hen_home::{Device, DeviceId, Home, Kit, LevelId, Mode, Position, RadioSetting, Setup, Uplink, Via};
use busy_hen_predict::{Knowledge, Question};
use busy_hen_units::Metres;

use crate::findings::Broken;

/// How far from a wall, and from an outlet in it, a device stands, m (engineering estimate).
const OFF_THE_WALL: f64 = 0.3;

/// A place on a level, of no height yet.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stand {
    /// The level.
    pub level_id: LevelId,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
}

impl Stand {
    fn at(plan: &Plan, room: &PlanRoom, (x, y): (f64, f64)) -> Self {
        Self { level_id: plan.levels[room.level].id, x_m: Metres::new(x), y_m: Metres::new(y) }
    }

    /// The place at a height above its floor.
    #[must_use]
    pub fn high(self, height_m: Metres) -> Position {
        Position { level_id: self.level_id, x_m: self.x_m, y_m: self.y_m, height_m }
    }
}

impl From<Position> for Stand {
    fn from(own: Position) -> Self {
        Self { level_id: own.level_id, x_m: own.x_m, y_m: own.y_m }
    }
}

/// A device that is to be put up.
pub struct Unit<'a> {
    /// Its identity.
    pub id: DeviceId,
    /// Its name.
    pub name: String,
    /// What it is.
    pub kit: &'a Kit,
    /// What it does.
    pub mode: Mode,
    /// Where it is put.
    pub at: Position,
    /// What it hangs on; none for what stands at the line.
    pub uplink: Option<Uplink>,
}

/// A unit as it comes beside what a setup has: by cable on channels of its own, by radio on those of what it hangs on.
#[must_use]
pub fn put_up(unit: Unit<'_>, setup: &Setup, plan: &Plan, region: &Region) -> Device {
    let Unit { id, name, kit, mode, at, uplink } = unit;
    let outdoors = is_outdoors(plan, &at.into());
    let upstream = uplink.as_ref().filter(|own| own.via.is_radio()).and_then(|own| setup.device(own.to));
    let mut radios =
        kit.radio_settings_beside(region, outdoors, &if upstream.is_some() { vec![] } else { taken(setup) });
    if let Some(upstream) = upstream {
        let by = uplink.as_ref().and_then(|own| if let Via::Radio { radio } = own.via { Some(radio) } else { None });
        for (index, own) in radios.iter_mut().enumerate() {
            follow(own, upstream, region, (outdoors, by.is_none_or(|by| by == index)));
        }
    }
    Device { aerial: kit.aerial, radios, uplink, ..Device::bare(id, name, kit.key.as_str(), mode, at) }
}

/// A device of this kit beside what a setup has, in the first of its modes that breaks no rule, by the uplink that such kit comes with; in the
/// first of all where each breaks one, which the findings then tell. Its name is given by its mode.
#[must_use]
pub fn put_up_as_usual(
    (home, setup, plan, region): (&Home, &Setup, &Plan, &Region),
    (id, kit, at): (DeviceId, &Kit, Position),
    name: impl Fn(Mode) -> String,
    question: Question,
) -> Device {
    let device = |mode: Mode, uplink: Option<Uplink>| {
        put_up(Unit { id, name: name(mode), kit, mode, at, uplink }, setup, plan, region)
    };
    let Some(root) = setup.root() else { return device(Mode::Router, None) };
    // What is not the first hangs on it, a router too where it can be nothing else.
    let behind = kit.modes.iter().filter(|mode| **mode != Mode::Router);
    let mut ways: Vec<Device> = behind.map(|mode| device(*mode, Some(kit.usual_uplink(*mode, root.id)))).collect();
    if ways.is_empty() {
        ways.push(device(Mode::Router, Some(kit.usual_uplink(Mode::Router, root.id))));
    }
    let kept = Knowledge::default();
    let before = Broken::of(home, setup, plan, question, &kept);
    let keeps = |own: &&Device| {
        let mut with = setup.clone();
        with.devices.push((*own).clone());
        !Broken::of(home, &with, plan, question, &kept).adds_to(&before)
    };
    ways.iter().find(keeps).unwrap_or(&ways[0]).clone()
}

/// Blocks that a setup's devices serve on.
fn taken(setup: &Setup) -> Vec<Block> {
    let radios = setup.devices.iter().flat_map(|own| &own.radios).filter(|own| own.on && own.serves);
    radios.filter_map(|own| block(own.band, own.channel, own.width_mhz)).collect()
}

/// A node that hangs by radio works on the channel of what it hangs on; by a radio that does not carry it there, not on one that radar has first
/// call on.
fn follow(own: &mut RadioSetting, upstream: &Device, region: &Region, (outdoors, carries): (bool, bool)) {
    let theirs = upstream.radios.iter().find(|other| other.on && other.band == own.band && other.serves == own.serves);
    let Some(theirs) = theirs else { return };
    let may_be = |block: Block| {
        let barred = outdoors && region.is_indoor_only(&block) || !carries && region.needs_dfs(&block);
        region.allows(&block) && !barred
    };
    if block(own.band, theirs.channel, own.width_mhz).is_some_and(may_be) {
        own.channel = theirs.channel;
    }
}

/// Whether a place lies outdoors; what no room holds does.
fn is_outdoors(plan: &Plan, at: &Stand) -> bool {
    plan.room_of(&at.high(Metres::default())).is_none_or(|room| room.outdoors)
}

/// The height at which kit is put up at a place.
#[must_use]
pub fn usual_height(plan: &Plan, kit: &Kit, at: &Stand) -> Metres {
    let storey = plan.level_index(at.level_id).map_or(0.0, |level| plan.levels[level].height);
    kit.usual_height(Metres::new(storey), is_outdoors(plan, at))
}

/// Where the internet line enters, as drawn; none where nobody said.
#[must_use]
pub fn line_entry(plan: &Plan) -> Option<Stand> {
    let entry = plan.sockets.iter().find(|own| own.socket.kind == SocketKind::LineEntry)?;
    let room = &plan.rooms[entry.room];
    Some(Stand::at(plan, room, off_the_wall(plan, room, entry.at)))
}

/// Where a device stands in a room: by the outlet nearest to its middle that can be used, else in its middle, as what hangs from the
/// ceiling does.
#[must_use]
pub fn standing_place(plan: &Plan, room: &PlanRoom, kit: &Kit) -> Stand {
    let middle = plan.middle_of(room);
    let from_middle = |at: &(f64, f64)| (at.0 - middle.x).hypot(at.1 - middle.y);
    let usable = plan.sockets.iter().filter(|own| {
        let here = plan.rooms[own.room].id == room.id;
        here && own.socket.kind == SocketKind::Power && own.socket.state == SocketState::Usable
    });
    let outlet = usable.map(|own| own.at).min_by(|a, b| from_middle(a).total_cmp(&from_middle(b)));
    let at = outlet.filter(|_| !kit.powered_by_cable).map(|at| off_the_wall(plan, room, at));
    Stand::at(plan, room, at.unwrap_or((middle.x, middle.y)))
}

/// A place in a wall, moved into the room.
fn off_the_wall(plan: &Plan, room: &PlanRoom, (x, y): (f64, f64)) -> (f64, f64) {
    let Point { x: to_x, y: to_y, .. } = plan.middle_of(room);
    let away = (to_x - x).hypot(to_y - y);
    let part = if away > OFF_THE_WALL { OFF_THE_WALL / away } else { 1.0 };
    (x + (to_x - x) * part, y + (to_y - y) * part)
}

/// The highest that a device may be put at a place; none outdoors.
#[must_use]
pub fn highest(plan: &Plan, at: &Position) -> Option<Metres> {
    let level = plan.level_index(at.level_id)?;
    (!is_outdoors(plan, &(*at).into())).then(|| Metres::new(plan.levels[level].height))
}
