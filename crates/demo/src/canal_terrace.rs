//! The canal terrace: narrow, three levels, brick, with a pottery workshop at the end of its garden.

use busy_hen_home::{
    AccessLine, Activity, Band, Home, LengthUnit, LevelId, Mode, Neighbour, NeighbourId, Obstacle, ObstacleId,
    ObstacleKind, Opening, OpeningKind, Plan, PlanId, RoomId, Setup, SetupId, Side, Stairwell,
};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz, Metres};
use jiff::civil::date;

use crate::build::{device, level, settle_rooms, used, wall};

/// The canal terrace with three setups and its needs; no runs.
#[must_use]
pub fn canal_terrace() -> Home {
    let mut home = Home::new("Canal terrace with pottery", "GB", LengthUnit::Metre);
    home.house.levels = vec![
        level(
            "Ground",
            2.7,
            "concrete_floor",
            "# street and canal to the north\n\
             Front room 3.4 x 4.0\n\
             Hall 1.4 x 6.6 east of Front room\n\
             Back room 3.4 x 2.6 south of Front room\n\
             Kitchen 4.8 x 2.8 south of Back room\n\
             Garden 4.8 x 15 south of Kitchen outdoors\n\
             Pottery 4.4 x 4.2 south of Garden",
        ),
        level(
            "First",
            2.6,
            "timber_floor_ufh",
            "Front bedroom 4.8 x 3.6 above Front room\n\
             Study 3.2 x 3.0 south of Front bedroom\n\
             Landing 1.6 x 3.0 east of Study\n\
             Bathroom 4.8 x 2.8 south of Study",
        ),
        level(
            "Attic",
            2.3,
            "timber_floor_ufh",
            "Attic bedroom 4.8 x 4.4 above Front bedroom\n\
             Box room 4.8 x 2.6 south of Attic bedroom",
        ),
    ];
    home.house.outer_wall = "stone400".into();
    home.house.inner_wall = "brick105".into();
    settle_rooms(&mut home);
    home.house.walls = vec![
        wall("Front room", Side::South, "brick215"),
        wall("Kitchen", Side::North, "stone400"),
        wall("Kitchen", Side::South, "lowe"),
        wall("Kitchen", Side::East, "cavity"),
        wall("Kitchen", Side::West, "cavity"),
        wall("Study", Side::South, "brick215"),
        wall("Landing", Side::South, "plasterboard"),
        wall("Landing", Side::West, "plasterboard"),
        wall("Box room", Side::North, "foil"),
    ];
    home.house.openings = vec![
        opening("Kitchen", Side::North, OpeningKind::Door, "door", true, 0.3, 0.8),
        opening("Kitchen", Side::South, OpeningKind::Door, "lowe", false, 0.5, 1.6),
        opening("Pottery", Side::North, OpeningKind::Door, "door", false, 0.25, 0.9),
        opening("Pottery", Side::North, OpeningKind::Window, "glass", false, 0.7, 1.4),
    ];
    home.house.stairwells = vec![Stairwell {
        room_id: RoomId::named("Hall"),
        east_part: 0.5,
        south_part: 0.7,
        width_m: Metres::new(0.9),
        depth_m: Metres::new(2.4),
    }];
    home.house.obstacles = vec![Obstacle {
        id: ObstacleId::named("hedge"),
        kind: ObstacleKind::Hedge,
        level_id: LevelId::named("Ground"),
        from_x_m: Metres::new(0.4),
        from_y_m: Metres::new(23.0),
        to_x_m: Metres::new(3.2),
        to_y_m: Metres::new(23.0),
        height_m: Metres::new(1.9),
        depth_m: Metres::new(0.8),
    }];
    home.air = vec![
        neighbour("next door", Band::Ghz2_4, 1, 20.0, -71.0, 0.12),
        neighbour("across the canal", Band::Ghz2_4, 11, 20.0, -79.0, 0.08),
        neighbour("next door, 5 GHz", Band::Ghz5, 36, 80.0, -83.0, 0.05),
    ];
    home.brief.complaint =
        "Films stall in the attic, uploads crawl on busy evenings, nothing at all in the pottery.".into();
    home.brief.constraints =
        "Line enters at the street window of the front room. Kiln days are Tuesdays: nothing off then.".into();
    home.brief.may_drill = true;
    home.brief.budget = Some(420.0);
    home.brief.plans = vec![
        plan("old", date(2022, 4, 1), 76.0, 19.0, AccessLine::Dsl),
        plan("new", date(2026, 2, 1), 300.0, 40.0, AccessLine::Fibre),
    ];
    home.brief.uses = vec![
        used("Front room", "all", Activity::UhdFilm, 1),
        used("Study", "Ottilie, Bram", Activity::HomeOffice, 2),
        used("Study", "Ottilie", Activity::Call, 1),
        used("Kitchen", "whoever cooks", Activity::Music, 1),
        used("Back room", "Gran", Activity::Browsing, 1),
        used("Front bedroom", "", Activity::HdFilm, 1),
        used("Attic bedroom", "Fenn", Activity::UhdFilm, 1),
        used("Attic bedroom", "Fenn", Activity::Game, 1),
        used("Box room", "", Activity::Mail, 1),
        used("Garden", "", Activity::Music, 1),
        used("Pottery", "Ottilie", Activity::Call, 1),
        used("Pottery", "", Activity::Music, 1),
    ];
    home.setups = setups();
    home
}

fn plan(name: &str, from: jiff::civil::Date, down: f64, up: f64, line: AccessLine) -> Plan {
    Plan { id: PlanId::named(name), from, down_mbps: MbitPerSec::new(down), up_mbps: MbitPerSec::new(up), line }
}

fn opening(room: &str, side: Side, kind: OpeningKind, material: &str, open: bool, along: f64, width: f64) -> Opening {
    Opening {
        room_id: RoomId::named(room),
        side,
        kind,
        material: material.into(),
        open,
        along_part: along,
        width_m: Metres::new(width),
    }
}

fn neighbour(name: &str, band: Band, channel: u16, width: f64, signal: f64, busy_part: f64) -> Neighbour {
    Neighbour {
        id: NeighbourId::named(name),
        band,
        channel,
        width_mhz: Megahertz::new(width),
        signal_dbm: Dbm::new(signal),
        busy_part,
    }
}

fn setups() -> Vec<Setup> {
    let by_the_door = ("Ground", 0.4, 0.5);
    let on_the_landing = ("First", 4.4, 4.6);
    let setup = |letter: &str, name: &str, devices| Setup::new(SetupId::named(letter), letter, name, devices);
    let mut own_radio = device("C", "Landing node", "node_ax_tri", Mode::MeshNode, on_the_landing, Some("Front node"));
    own_radio.radios[1].channel = 52;
    vec![
        setup("A", "as found", vec![device("A", "Router", "router_ac", Mode::Router, by_the_door, None)]),
        setup(
            "B",
            "dual-band pair",
            vec![
                device("B", "Router", "node_ax_dual", Mode::Router, by_the_door, None),
                device("B", "Landing node", "node_ax_dual", Mode::MeshNode, on_the_landing, Some("Router")),
            ],
        ),
        setup(
            "C",
            "tri-band, pottery wired",
            vec![
                device("C", "Front node", "node_ax_tri", Mode::Router, by_the_door, None),
                own_radio,
                device("C", "Pottery point", "ap_ax", Mode::AccessPoint, ("Ground", 2.2, 27.4), Some("Front node")),
            ],
        ),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_terrace_is_drawn_whole_and_passes_every_check() {
        let home = canal_terrace();
        assert_eq!(busy_hen_engine::geometry::draw(&home.house.levels, home.units).faults, []);
        assert_eq!(home.house.rooms.len(), 12);
        busy_hen_engine::check::check(&home).unwrap();
    }
}
