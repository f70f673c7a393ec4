//! Common families: what they do, with which devices, put into the rooms of a house by what those are called. Made up, after common practice.

use busy_hen_home::{Activity, FamilyDevice, FamilyDeviceId, Home, Hours, Room, RoomId, RoomUse, UseId};
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_floorplan::Plan;

/// A family to begin from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Family {
    /// What it is.
    pub name: &'static str,
    #[serde(skip)]
    uses: &'static [Habit],
    #[serde(skip)]
    devices: &'static [(&'static str, &'static str, u32, Option<Kind>)],
}

/// What somebody does in a kind of room: how many at once, from which hour to which.
type Habit = (Kind, Activity, u32, Option<(u8, u8)>);

/// A kind of room, known by its name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    Living,
    Study,
    MainBedroom,
    OtherBedroom,
    Kitchen,
    Outdoors,
}

impl Kind {
    fn words(self) -> &'static [&'static str] {
        match self {
            Self::Living => &["living", "lounge", "sitting", "front room", "parlour", "salon", "family"],
            Self::Study => &["study", "office", "work", "den", "box room"],
            Self::MainBedroom => &["main bed", "master", "front bed", "bedroom 1", "bedroom", "bed"],
            Self::OtherBedroom => &["back bed", "small bed", "attic bed", "child", "nursery", "bedroom 2", "bedroom"],
            Self::Kitchen => &["kitchen", "diner", "dining"],
            Self::Outdoors => &["garden", "yard", "terrace", "balcony"],
        }
    }
}

const EVENING: Option<(u8, u8)> = Some((19, 23));
const DAY: Option<(u8, u8)> = Some((9, 17));

/// All of them.
pub const FAMILIES: [Family; 5] = [
    Family {
        name: "one person, works from home",
        uses: &[
            (Kind::Study, Activity::HomeOffice, 1, DAY),
            (Kind::Living, Activity::UhdFilm, 1, EVENING),
            (Kind::Kitchen, Activity::Music, 1, EVENING),
        ],
        devices: &[
            ("phone", "phone_ax", 1, None),
            ("laptop", "laptop_ax", 1, None),
            ("television", "laptop_ac", 1, Some(Kind::Living)),
        ],
    },
    Family {
        name: "couple, both at home offices",
        uses: &[
            (Kind::Study, Activity::HomeOffice, 1, DAY),
            (Kind::MainBedroom, Activity::HomeOffice, 1, DAY),
            (Kind::Living, Activity::UhdFilm, 1, EVENING),
            (Kind::Kitchen, Activity::Browsing, 1, EVENING),
        ],
        devices: &[
            ("phones", "phone_ax", 2, None),
            ("laptops", "laptop_ax", 2, None),
            ("television", "laptop_ac", 1, Some(Kind::Living)),
        ],
    },
    Family {
        name: "family with school children",
        uses: &[
            (Kind::Living, Activity::UhdFilm, 1, EVENING),
            (Kind::OtherBedroom, Activity::Game, 1, Some((16, 22))),
            (Kind::OtherBedroom, Activity::HdFilm, 1, EVENING),
            (Kind::Study, Activity::HomeOffice, 1, DAY),
            (Kind::Kitchen, Activity::Music, 1, EVENING),
            (Kind::MainBedroom, Activity::Browsing, 1, EVENING),
        ],
        devices: &[
            ("phones", "phone_ax", 4, None),
            ("laptops", "laptop_ax", 2, None),
            ("console", "laptop_ac", 1, Some(Kind::OtherBedroom)),
            ("television", "laptop_ac", 1, Some(Kind::Living)),
        ],
    },
    Family {
        name: "shared home, four grown-ups",
        uses: &[
            (Kind::Living, Activity::UhdFilm, 1, EVENING),
            (Kind::MainBedroom, Activity::Call, 1, EVENING),
            (Kind::OtherBedroom, Activity::Game, 1, Some((20, 1))),
            (Kind::Study, Activity::LiveBroadcast, 1, EVENING),
            (Kind::Kitchen, Activity::Browsing, 2, EVENING),
        ],
        devices: &[
            ("phones", "phone_ax", 4, None),
            ("laptops", "laptop_ax", 4, None),
            ("television", "laptop_ac", 1, Some(Kind::Living)),
        ],
    },
    Family {
        name: "guest house or small shop",
        uses: &[
            (Kind::Living, Activity::GuestCrowd, 8, EVENING),
            (Kind::Kitchen, Activity::PaymentTerminal, 1, Some((9, 22))),
            (Kind::Study, Activity::HomeOffice, 1, DAY),
            (Kind::Outdoors, Activity::Camera, 1, Some((0, 0))),
        ],
        devices: &[("payment terminal", "camera_n", 1, Some(Kind::Kitchen)), ("laptop", "laptop_ax", 1, None)],
    },
];

impl Family {
    /// What this family does in the rooms of a home, and with what: each in the room whose name fits best, the largest one where none does.
    #[must_use]
    pub fn in_home(
        &self,
        home: &Home,
        new_use: impl Fn(usize) -> UseId,
        new_device: impl Fn(usize) -> FamilyDeviceId,
        known_class: impl Fn(&str) -> bool,
    ) -> (Vec<RoomUse>, Vec<FamilyDevice>) {
        let plan = Plan::to_draw(&home.house, home.units);
        let area = |room: &Room| plan.room(room.id).map_or(0.0, |own| own.area().get());
        let indoors = |room: &&Room| plan.room(room.id).is_none_or(|own| !own.outdoors);
        let mut taken: Vec<RoomId> = Vec::new();
        let mut room_for = |kind: Kind| -> Option<RoomId> {
            let rooms = &home.house.rooms;
            let named = kind.words().iter().find_map(|word| {
                let fits = rooms.iter().filter(|room| room.name.to_lowercase().contains(word));
                fits.min_by_key(|room| taken.contains(&room.id))
            });
            let largest = || rooms.iter().filter(indoors).max_by(|a, b| area(a).total_cmp(&area(b)));
            let room = if kind == Kind::Outdoors { named } else { named.or_else(largest) }?;
            taken.push(room.id);
            Some(room.id)
        };
        let hours = |own: Option<(u8, u8)>| own.map(|(from, to)| Hours { from, to });
        let uses = self.uses.iter().enumerate().filter_map(|(index, (kind, activity, people, when))| {
            Some(RoomUse {
                id: new_use(index),
                room_id: room_for(*kind)?,
                activity: *activity,
                people: *people,
                who: String::new(),
                hours: hours(*when),
            })
        });
        let uses: Vec<RoomUse> = uses.collect();
        let devices = self.devices.iter().enumerate().filter(|(_, (_, class, _, _))| known_class(class));
        let devices = devices.map(|(index, (name, class, count, kind))| FamilyDevice {
            id: new_device(index),
            name: (*name).to_owned(),
            class: (*class).to_owned(),
            count: *count,
            fixed: kind.is_some(),
            room_id: kind.and_then(&mut room_for),
        });
        let devices = devices.collect();
        (uses, devices)
    }
}
