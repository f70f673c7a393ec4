//! Short ways to write a home down.

use std::collections::HashSet;

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, kit};
use busy_hen_floorplan::{HouseEdit, settle};
use busy_hen_home::{Activity, Device, DeviceId, Home, Level, LevelId, Mode, Position, RoomId, RoomUse, SpotId, UseId};
use busy_hen_units::Metres;

/// A level; its id follows from its name.
pub fn level(name: &str, height: f64, floor: &str, lines: &str) -> Level {
    Level {
        id: LevelId::named(name),
        name: name.into(),
        height_m: Metres::new(height),
        floor: floor.into(),
        lines: lines.into(),
        tracing: None,
    }
}

/// Gives every drawn room its identity and a spot in its middle.
pub fn settle_rooms(home: &mut Home) {
    let edit = HouseEdit::from(&*home);
    settle(home, edit, &HashSet::new(), RoomId::named, SpotId::named);
}

/// One use of a room.
pub fn used(room: &str, who: &str, activity: Activity, people: u32) -> RoomUse {
    RoomUse {
        id: UseId::named(&format!("{room} {who} {activity:?}")),
        room_id: RoomId::named(room),
        activity,
        people,
        who: who.into(),
        hours: None,
    }
}

/// A device as it comes from the catalogue, hung on `to` as it usually is.
pub fn device(setup: &str, name: &str, kit_key: &str, mode: Mode, place: (&str, f64, f64), to: Option<&str>) -> Device {
    let kit = kit::find(kit_key).expect("demo homes use kit of the catalogue");
    let region = region::find("GB").expect("the table of regions has GB");
    let id = |name: &str| DeviceId::named(&format!("{setup} {name}"));
    let (level, x, y) = place;
    Device {
        radios: kit.radio_settings(region),
        uplink: to.map(|to| kit.usual_uplink(mode, id(to))),
        ..Device::bare(
            id(name),
            name,
            kit_key,
            mode,
            Position {
                level_id: LevelId::named(level),
                x_m: Metres::new(x),
                y_m: Metres::new(y),
                height_m: Metres::new(1.0),
            },
        )
    }
}
