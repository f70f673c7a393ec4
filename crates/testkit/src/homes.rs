//! Homes of any shape that the rules allow, each from a number: what laws that hold in every home are tried on.

use std::collections::HashSet;

use std::sync::Arc;

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, Kit, MaterialUse, kit, materials};
use busy_hen_floorplan::{HouseEdit, settle};
use busy_hen_home::{
    AccessLine, Activity, Aerial, Band, CableClass, Circuit, Device, DeviceId, Enclosure, Home, LengthUnit, Level,
    LevelId, MaterialKey, Mode, Neighbour, NeighbourId, Obstacle, ObstacleId, ObstacleKind, Opening, OpeningKind, Plan,
    PlanId, Position, PowerLineClass, RoomId, RoomUse, Setup, SetupId, Side, SpotId, Stairwell, Steering, Uplink,
    UseId, Via, WallChoice,
};
use busy_hen_job::check::check;
use busy_hen_units::{Db, Dbm, Degrees, MbitPerSec, Megahertz, Metres};
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;

const SIDES: [Side; 4] = [Side::North, Side::East, Side::South, Side::West];
const BANDS: [Band; 3] = [Band::Ghz2_4, Band::Ghz5, Band::Ghz6];

/// The home that always belongs to this number: one to three levels, up to five rooms each, and some of all that can be drawn, placed and
/// set. Rooms may overlap, as they do while someone types.
///
/// # Panics
/// When the home breaks a rule: then this generator, or the rule, is wrong.
#[must_use]
pub fn any_home(number: u64) -> Home {
    let mut rng = ChaCha8Rng::seed_from_u64(number);
    let mut home = Home::new("Any home", "GB", LengthUnit::Metre);
    house(&mut home, &mut rng);
    needs(&mut home, &mut rng);
    home.air = (0..rng.random_range(0..6)).map(|i| neighbour(i, &mut rng)).collect();
    home.setups = (0..rng.random_range(1..3)).map(|s| setup(s, &home, &mut rng)).collect();
    if let Err(faults) = check(&home) {
        panic!("home {number}: {:?}", faults.list());
    }
    home
}

fn pick<T: Copy>(rng: &mut ChaCha8Rng, list: &[T]) -> T {
    *list.choose(rng).expect("a list to pick from has something in it")
}

fn metres(rng: &mut ChaCha8Rng, low: f64, high: f64) -> Metres {
    Metres::new(rng.random_range(low..high))
}

fn material(rng: &mut ChaCha8Rng, category: MaterialUse) -> MaterialKey {
    let fitting: Vec<&str> =
        materials::all().iter().filter(|one| one.category == category).map(|one| one.key.as_str()).collect();
    MaterialKey::from(pick(rng, &fitting))
}

fn house(home: &mut Home, rng: &mut ChaCha8Rng) {
    let mut first = String::new();
    for l in 0..rng.random_range(1..4) {
        let mut lines = Vec::new();
        for r in 0..rng.random_range(1..6) {
            let size = format!("{:.1} x {:.1}", rng.random_range(0.8..9.0), rng.random_range(0.8..9.0));
            let place = match (l, r) {
                (0, 0) => String::new(),
                (_, 0) => format!(" above {first}"),
                _ => {
                    format!(" {} of Room {l}{}", pick(rng, &["north", "east", "south", "west"]), rng.random_range(0..r))
                }
            };
            let outdoors = if r > 0 && rng.random_bool(0.15) { " outdoors" } else { "" };
            lines.push(format!("Room {l}{r} {size}{place}{outdoors}"));
        }
        if l == 0 {
            first = "Room 00".into();
        }
        home.house.levels.push(Level {
            id: LevelId::named(&l.to_string()),
            name: format!("Level {l}"),
            height_m: metres(rng, 1.9, 4.0),
            floor: material(rng, MaterialUse::Floor),
            lines: lines.join("\n"),
            tracing: None,
        });
    }
    home.house.outer_wall = material(rng, MaterialUse::Wall);
    home.house.inner_wall = material(rng, MaterialUse::Wall);
    home.house.windows = material(rng, MaterialUse::Wall);
    let edit = HouseEdit::from(&*home);
    settle(home, edit, &HashSet::new(), RoomId::named, SpotId::named);
    let rooms: Vec<RoomId> = home.house.rooms.iter().map(|room| room.id).collect();
    if rooms.is_empty() {
        return;
    }
    for room in &rooms {
        let side = pick(rng, &SIDES);
        if rng.random_bool(0.4) {
            let thickness_m = rng.random_bool(0.5).then(|| metres(rng, 0.01, 0.8));
            let material = material(rng, MaterialUse::Wall);
            home.house.walls.push(WallChoice { room_id: *room, side, material, thickness_m });
        }
    }
    for _ in 0..rng.random_range(0..8) {
        home.house.openings.push(Opening {
            room_id: pick(rng, &rooms),
            side: pick(rng, &SIDES),
            kind: pick(rng, &[OpeningKind::Door, OpeningKind::Window]),
            material: material(rng, MaterialUse::Wall),
            open: rng.random(),
            along_part: rng.random_range(0.0..=1.0),
            width_m: metres(rng, 0.3, 3.0),
        });
    }
    for _ in 0..rng.random_range(0..3) {
        home.house.stairwells.push(Stairwell {
            room_id: pick(rng, &rooms),
            east_part: rng.random(),
            south_part: rng.random(),
            width_m: metres(rng, 0.5, 3.0),
            depth_m: metres(rng, 0.5, 3.0),
        });
    }
    for o in 0..rng.random_range(0..4) {
        let (from, to) = (place(home, rng), place(home, rng));
        home.house.obstacles.push(Obstacle {
            id: ObstacleId::named(&o.to_string()),
            kind: pick(rng, &ObstacleKind::ALL),
            level_id: from.level_id,
            from_x_m: from.x_m,
            from_y_m: from.y_m,
            to_x_m: to.x_m,
            to_y_m: to.y_m,
            height_m: metres(rng, 0.3, 9.0),
            depth_m: metres(rng, 0.0, 9.0),
        });
    }
}

/// A place in the home or a little outside of it.
fn place(home: &Home, rng: &mut ChaCha8Rng) -> Position {
    let level = rng.random_range(0..home.house.levels.len());
    let (x_m, y_m) = (metres(rng, -9.0, 15.0), metres(rng, -9.0, 15.0));
    Position { level_id: home.house.levels[level].id, x_m, y_m, height_m: metres(rng, 0.0, 3.5) }
}

fn needs(home: &mut Home, rng: &mut ChaCha8Rng) {
    let rooms: Vec<RoomId> = home.house.rooms.iter().map(|room| room.id).collect();
    for u in 0..if rooms.is_empty() { 0 } else { rng.random_range(0..6) } {
        home.brief.uses.push(RoomUse {
            id: UseId::named(&u.to_string()),
            room_id: pick(rng, &rooms),
            activity: pick(rng, &Activity::ALL),
            people: rng.random_range(1..5),
            who: String::new(),
            hours: None,
        });
    }
    if rng.random_bool(0.8) {
        home.brief.plans.push(Plan::sold(
            PlanId::named("plan"),
            jiff::civil::date(2026, 1, 1),
            (rng.random_range(0.5..10_000.0), rng.random_range(0.1..10_000.0)),
            AccessLine::Fibre,
        ));
    }
}

fn neighbour(number: i32, rng: &mut ChaCha8Rng) -> Neighbour {
    let band = pick(rng, &BANDS);
    let channel = pick(rng, if band == Band::Ghz2_4 { &[1, 4, 6, 11, 13] } else { &[37, 53, 101] });
    let channel = if band == Band::Ghz5 { channel - 1 } else { channel };
    Neighbour {
        id: NeighbourId::named(&number.to_string()),
        band,
        channel,
        width_mhz: Megahertz::new(20.0),
        signal_dbm: Dbm::new(rng.random_range(-100.0..-30.0)),
        busy_part: rng.random_range(0.0..=1.0),
    }
}

fn setup(number: u32, home: &Home, rng: &mut ChaCha8Rng) -> Setup {
    let mut devices: Vec<Device> = Vec::new();
    for d in 0..rng.random_range(0..6) {
        let root = devices.is_empty();
        let fits = |kit: &&Arc<Kit>| !root || kit.modes.contains(&Mode::Router);
        let kit = kit::all().iter().filter(fits).collect::<Vec<_>>().choose(rng).copied().expect("kit for every place");
        let mode = if root { Mode::Router } else { pick(rng, &kit.modes) };
        let to = (!root).then(|| devices[rng.random_range(0..devices.len())].id);
        devices.push(Device {
            id: DeviceId::named(&format!("{number} {d}")),
            name: format!("Device {d}"),
            kit: kit.key.as_str().into(),
            mode,
            at: place(home, rng),
            enclosure: pick(rng, &[Enclosure::Open, Enclosure::Cupboard, Enclosure::MetalCabinet]),
            aerial: aerial(rng),
            managed_queue: rng.random(),
            firmware: None,
            hardware_address: None,
            settings_address: String::new(),
            hands_out: None,
            network_name: String::new(),
            guest_network: String::new(),
            there_already: false,
            radios: radios(kit, rng),
            uplink: to.map(|to| Uplink::new(to, via(mode, kit, rng))),
        });
    }
    let mut setup = Setup::new(SetupId::named(&number.to_string()), &format!("S{number}"), "any", devices);
    setup.steering = pick(rng, &[Steering::Guided, Steering::OneName, Steering::OwnNames]);
    setup
}

fn radios(kit: &Kit, rng: &mut ChaCha8Rng) -> Vec<busy_hen_home::RadioSetting> {
    let region = region::find("GB").expect("the table of regions has GB");
    let mut radios = kit.radio_settings(region);
    for radio in &mut radios {
        radio.on = rng.random_bool(0.85);
        radio.serves = rng.random_bool(0.8);
        let channels = region.legal_primaries(radio.band, radio.width_mhz);
        if rng.random_bool(0.5) && !channels.is_empty() {
            radio.channel = pick(rng, &channels);
        }
    }
    radios
}

fn aerial(rng: &mut ChaCha8Rng) -> Aerial {
    let degrees = |rng: &mut ChaCha8Rng, low: f64, high: f64| Degrees::new(rng.random_range(low..=high));
    match rng.random_range(0..3) {
        0 => Aerial::BuiltIn,
        1 => Aerial::Rods {
            gain_dbi: Db::new(rng.random_range(1.5..=12.0)),
            lean: degrees(rng, 0.0, 90.0),
            towards: degrees(rng, 0.0, 360.0),
        },
        _ => Aerial::Sector {
            gain_dbi: Db::new(rng.random_range(2.0..=24.0)),
            width: degrees(rng, 5.0, 180.0),
            height: degrees(rng, 5.0, 180.0),
            towards: degrees(rng, 0.0, 360.0),
        },
    }
}

fn via(mode: Mode, kit: &Kit, rng: &mut ChaCha8Rng) -> Via {
    let radio_allowed = !kit.radios.is_empty() && !matches!(mode, Mode::AccessPoint | Mode::Switch);
    let kinds: &[u8] = match (mode, radio_allowed) {
        (Mode::Repeater, _) => &[0, 1],
        (_, true) => &[0, 1, 2, 3, 4],
        (_, false) => &[2, 3, 4],
    };
    match pick(rng, kinds) {
        0 => Via::Radio { radio: rng.random_range(0..kit.radios.len()) },
        1 => Via::BestRadio,
        2 => Via::cable(pick(rng, &[CableClass::Cat5, CableClass::Cat5e, CableClass::Cat6, CableClass::Cat6a])),
        3 => Via::Coax {
            length_m: metres(rng, 0.0, 200.0),
            splitters: rng.random_range(0..6),
            port_mbps: MbitPerSec::new(pick(rng, &[100.0, 1000.0, 2500.0])),
        },
        _ => Via::PowerLine {
            class: pick(
                rng,
                &[PowerLineClass::Sold200, PowerLineClass::Sold500, PowerLineClass::Sold1000, PowerLineClass::Sold2000],
            ),
            length_m: metres(rng, 0.0, 200.0),
            circuit: pick(rng, &[Circuit::Same, Circuit::Other, Circuit::OtherBoard]),
            strips: rng.random_range(0..4),
            noisy: rng.random(),
            reported_mbps: rng.random::<bool>().then(|| MbitPerSec::new(rng.random_range(5.0..1500.0_f64).round())),
        },
    }
}
