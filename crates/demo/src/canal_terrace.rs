//! The canal terrace: narrow, three levels, brick, with a pottery workshop at the end of its garden.

use busy_hen_home::{
    AccessLine, Activity, Band, Home, LengthUnit, Mode, Neighbour, NeighbourId, Plan, PlanId, Setup, SetupId,
};
use busy_hen_units::{Dbm, Megahertz};
use jiff::civil::date;

use crate::build::{device, level, settle_rooms, used};

/// The canal terrace with three setups and its needs; no runs.
#[must_use]
pub fn canal_terrace() -> Home {
    let mut home = Home::new("Canal terrace with pottery", "GB", LengthUnit::Metre);
    home.house.levels = vec![
        level(
            "Ground",
            2.7,
            "concrete_floor",
            "# street and canal to the north
Front room 3.4 x 4.0
- south thick brick
- line entry north at 0.3; power socket west at 0.4 circuit front; power socket east at 3.2 circuit front
Hall 1.4 x 6.6 east of Front room
- stairs 0.9 x 2.4 at 0.25, 3.42; power socket west at 6.2 circuit back
Back room 3.4 x 2.6 south of Front room
- power socket west at 1.1 circuit back
Kitchen 4.8 x 2.8 south of Back room  # built on about 1970
- north stone; south coated glazing; east cavity; west cavity
- door north at 1.04 0.8 wide timber open; door south at 1.6 1.6 wide coated glazing shut
- power socket west at 1.4 circuit kitchen
Garden 4.8 x 15 south of Kitchen outdoors
- hedge at 0.4, 13.6 to 3.2, 13.6 1.9 high 0.8 deep
Pottery 4.4 x 4.2 south of Garden
- door north at 0.65 0.9 wide timber shut; window north at 2.38 1.4 wide glass
- power socket east at 1 circuit kiln; power socket west at 3 circuit kiln",
        ),
        level(
            "First",
            2.6,
            "timber_floor_ufh",
            "Front bedroom 4.8 x 3.6 above Front room
Study 3.2 x 3.0 south of Front bedroom
- south thick brick; power socket west at 1.5 circuit upstairs
Landing 1.6 x 3.0 east of Study
- south stud; west stud; power socket east at 0.5 circuit upstairs
Bathroom 4.8 x 2.8 south of Study",
        ),
        level(
            "Attic",
            2.3,
            "timber_floor_ufh",
            "Attic bedroom 4.8 x 4.4 above Front bedroom
- power socket west at 1 circuit upstairs
Box room 4.8 x 2.6 south of Attic bedroom
- north foil",
        ),
    ];
    home.house.outer_wall = "stone400".into();
    home.house.inner_wall = "brick105".into();
    settle_rooms(&mut home);
    home.air = vec![
        neighbour("next door", Band::Ghz2_4, 1, 20.0, -71.0, 0.12),
        neighbour("across the canal", Band::Ghz2_4, 11, 20.0, -79.0, 0.08),
        neighbour("next door, 5 GHz", Band::Ghz5, 36, 80.0, -83.0, 0.05),
    ];
    home.example = Some("Begin at Setups: compare what the attic gets in A, B and C, and why.".into());
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
    Plan::sold(PlanId::named(name), from, (down, up), line)
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
    let mut found = device("A", "Router", "router_ac", Mode::Router, by_the_door, None);
    found.there_already = true;
    vec![
        setup("A", "as found", vec![found]),
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
        assert_eq!(busy_hen_floorplan::draw(&home.house.levels, home.units).faults, []);
        assert_eq!(home.house.rooms.len(), 12);
        busy_hen_job::check::check(&home).unwrap();
    }
}
