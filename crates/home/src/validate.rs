//! What can be said against a home without any catalogue: missing names, dangling references, impossible numbers, loops.

use std::collections::HashSet;

use busy_hen_units::{Metres, SquareMetres, Watts};

use crate::fault::{Fault, Faults};
use crate::house::{PerBand, Position};
use crate::kit::{Kit, MainsVolts};
use crate::setup::{Aerial, FirmwareUpdates, Setup, Via};
use crate::{Brief, Home, Hours, House, LengthUnit, Neighbour, Plan, RoomId};

/// Longest name that is kept, characters.
const NAME_LIMIT: usize = 80;
/// Longest free text that is kept, characters.
const TEXT_LIMIT: usize = 4000;
/// A plan faster than this is a typing slip, Mb/s.
const PLAN_LIMIT_MBPS: f64 = 100_000.0;
/// Most rooms of a home.
pub const ROOMS_LIMIT: usize = 400;
/// Most typed lines of a level.
const LINES_LIMIT: usize = 400;
/// Most devices of a setup.
const DEVICES_LIMIT: usize = 40;
/// Longest name of a network, bytes (IEEE 802.11-2020, 9.4.2.2).
const NETWORK_NAME_BYTES: usize = 32;
/// Farthest coordinate from the origin, metres.
const REACH_LIMIT_M: f64 = 1000.0;

/// Gathers faults with the place they are at, told in the home's unit.
struct Check {
    units: LengthUnit,
    faults: Vec<Fault>,
}

impl Check {
    fn that(&mut self, holds: bool, pointer: impl Into<String>, message: impl Into<String>) {
        if !holds {
            self.faults.push(Fault { pointer: pointer.into(), message: message.into() });
        }
    }

    /// That a length lies within its limits; `told` gets it and them in words.
    fn length(
        &mut self,
        length: Metres,
        limits: std::ops::RangeInclusive<f64>,
        pointer: String,
        told: impl FnOnce(&str, &str) -> String,
    ) {
        let words = |length| self.units.in_words(length);
        let (low, high) = (words(Metres::new(*limits.start())), words(Metres::new(*limits.end())));
        let message = told(&words(length), &format!("{low} to {high}"));
        self.that(limits.contains(&length.get()), pointer, message);
    }

    /// How far from its origin a home reaches, in words.
    fn reach(&self) -> String {
        self.units.in_words(Metres::new(REACH_LIMIT_M))
    }

    fn name(&mut self, name: &str, pointer: &str, what: &str) {
        self.that(!name.trim().is_empty(), pointer, format!("{what} needs a name."));
        self.that(
            name.chars().count() <= NAME_LIMIT,
            pointer,
            format!("{what} has a name of over {NAME_LIMIT} characters; shorten it."),
        );
        self.that(
            !name.chars().any(is_unseen),
            pointer,
            format!("{what} has a line break or an invisible character in its name; type the name anew."),
        );
    }

    fn text(&mut self, text: &str, pointer: &str, what: &str) {
        self.that(
            text.chars().count() <= TEXT_LIMIT,
            pointer,
            format!("{what} is longer than {TEXT_LIMIT} characters; shorten it."),
        );
    }

    fn hours(&mut self, hours: Option<Hours>, pointer: &str) {
        self.that(
            hours.is_none_or(|hours| hours.from < 24 && hours.to < 24),
            pointer,
            "Hours are 0 to 23; leave them empty when they are not known.",
        );
    }

    fn unique<T: std::hash::Hash + Eq>(&mut self, items: impl Iterator<Item = (T, String)>, what: &str) {
        let mut seen = HashSet::new();
        for (item, pointer) in items {
            let fresh = seen.insert(item);
            self.that(fresh, pointer, format!("{what} stands here twice; change one of them."));
        }
    }
}

/// Whether a character can't be seen in a name or turns the order of what follows: control, zero-width and direction characters
/// (Unicode categories Cc and Cf), but for the two joiners that some scripts are written with.
fn is_unseen(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}' | '\u{200e}' | '\u{200f}' | '\u{feff}')
        || matches!(c, '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e007f}')
}

impl Home {
    /// Checks all that can be checked without a catalogue; `job::check` adds materials, kit and radio rules.
    ///
    /// # Errors
    /// Every fault, each with a JSON pointer into the home.
    pub fn validate(&self) -> Result<(), Faults> {
        let mut check = Check { units: self.units, faults: Vec::new() };
        check.name(&self.name, "/name", "The home");
        if let Some(example) = &self.example {
            check.text(example, "/example", "Where to begin");
        }
        let passwords = self.passwords.iter().enumerate();
        check.unique(passwords.clone().map(|(i, own)| (own.id, format!("/passwords/{i}/id"))), "This id of a password");
        for (index, own) in passwords {
            check.name(&own.what, &format!("/passwords/{index}/what"), "A password");
            check.text(&own.network, &format!("/passwords/{index}/network"), "The name of a network");
            check.text(&own.sealed, &format!("/passwords/{index}/sealed"), "An encrypted password");
        }
        if let Some(decision) = &self.decision {
            check.text(&decision.because, "/decision/because", "The reason");
            let there = self.setup(decision.setup_id).is_some();
            check.that(
                there,
                "/decision/setup_id",
                "The setup that was decided on is not in the home; choose another.",
            );
        }
        brief(&self.brief, &self.house, &mut check);
        house(&self.house, &mut check);
        openings(&self.house, &mut check);
        obstacles(&self.house, &mut check);
        corrections(&self.house, &mut check);
        neighbours(&self.air, &mut check);
        own_kit(&self.own_kit, &mut check);
        check.unique(
            self.setups.iter().enumerate().map(|(i, s)| (s.letter.clone(), format!("/setups/{i}/letter"))),
            "This setup letter",
        );
        check.unique(self.setups.iter().enumerate().map(|(i, s)| (s.id, format!("/setups/{i}/id"))), "This setup id");
        check.that(self.setups.len() <= 100, "/setups", "A home has at most 100 setups here; remove some.");
        for (index, one) in self.setups.iter().enumerate() {
            setup(one, &self.house, &format!("/setups/{index}"), &mut check);
        }
        Faults::check(check.faults)
    }
}

fn brief(brief: &Brief, house: &House, check: &mut Check) {
    check.text(&brief.complaint, "/brief/complaint", "The complaint");
    check.text(&brief.constraints, "/brief/constraints", "The text on constraints");
    check.that(
        brief.budget.is_none_or(|budget| budget.is_finite() && budget >= 0.0),
        "/brief/budget",
        "The budget must be zero or more; leave it empty when it is not known.",
    );
    plans(&brief.plans, ("/brief/plans", "plan"), check);
    if let Some(second) = &brief.second_line {
        plans(&second.plans, ("/brief/second_line/plans", "second line’s plan"), check);
    }
    check.unique(brief.all_plans().map(|plan| (plan.id, "/brief/plans".to_owned())), "This plan id");
    check.text(&brief.drilling, "/brief/drilling", "What may be drilled");
    check.text(&brief.router.what, "/brief/router/what", "The present router");
    family(brief, house, check);
    check.unique(brief.uses.iter().enumerate().map(|(i, u)| (u.id, format!("/brief/uses/{i}/id"))), "This use id");
    for (index, one) in brief.uses.iter().enumerate() {
        let at = format!("/brief/uses/{index}");
        check.that(
            house.room(one.room_id).is_some(),
            format!("{at}/room_id"),
            "A use is in a room that the house does not have; choose another room.",
        );
        check.that(
            (1..=50).contains(&one.people),
            format!("{at}/people"),
            format!("{} people at once cannot be right; enter 1 to 50.", one.people),
        );
        check.text(&one.who, &format!("{at}/who"), "The name of who does it");
        check.hours(one.hours, &format!("{at}/hours"));
    }
}

/// The plans of one line.
fn plans(list: &[Plan], (at, what): (&str, &str), check: &mut Check) {
    for (index, plan) in list.iter().enumerate() {
        for (field, rate) in [("down_mbps", plan.down_mbps), ("up_mbps", plan.up_mbps)] {
            check.that(
                rate.get() > 0.0 && rate.get() <= PLAN_LIMIT_MBPS,
                format!("{at}/{index}/{field}"),
                format!("The {what} from {} must be over 0 and at most {PLAN_LIMIT_MBPS} Mb/s.", plan.from),
            );
        }
        for (field, usual) in [("usual_down_mbps", plan.usual_down_mbps), ("usual_up_mbps", plan.usual_up_mbps)] {
            check.that(
                usual.is_none_or(|usual| usual.get() > 0.0 && usual.get() <= PLAN_LIMIT_MBPS),
                format!("{at}/{index}/{field}"),
                format!(
                    "What the {what} from {} usually gives must be over 0; leave it empty when it is not known.",
                    plan.from
                ),
            );
        }
        check.that(
            plan.price_a_month.is_none_or(|price| price.is_finite() && (0.0..=1e6).contains(&price)),
            format!("{at}/{index}/price_a_month"),
            format!(
                "The price of the {what} from {} must be zero or more; leave it empty when it is not known.",
                plan.from
            ),
        );
    }
    check.unique(list.iter().enumerate().map(|(i, p)| (p.from, format!("{at}/{i}/from"))), "A plan from this date");
}

/// The family's devices, what they want, and what they complain of.
fn family(brief: &Brief, house: &House, check: &mut Check) {
    let there = |room: Option<RoomId>| room.is_none_or(|room| house.room(room).is_some());
    let (devices, complaints) = (&brief.devices, &brief.complaints);
    check.that(devices.len() <= 200, "/brief/devices", "At most 200 entries of devices are kept; join some.");
    check.that(complaints.len() <= 100, "/brief/complaints", "At most 100 complaints are kept; join some.");
    check.unique(devices.iter().enumerate().map(|(i, d)| (d.id, format!("/brief/devices/{i}/id"))), "This device id");
    check.unique(
        complaints.iter().enumerate().map(|(i, c)| (c.id, format!("/brief/complaints/{i}/id"))),
        "This complaint id",
    );
    let wants = brief.wants.iter().enumerate();
    check.unique(wants.map(|(i, want)| (*want, format!("/brief/wants/{i}"))), "This wish");
    for (index, device) in devices.iter().enumerate() {
        let at = format!("/brief/devices/{index}");
        check.text(&device.name, &format!("{at}/name"), "The name of a device");
        check.that(
            (1..=200).contains(&device.count),
            format!("{at}/count"),
            format!("{} of one device cannot be right; enter 1 to 200.", device.count),
        );
        check.that(
            there(device.room_id),
            format!("{at}/room_id"),
            "A device is in a room that the house does not have; choose another room.",
        );
    }
    for (index, complaint) in complaints.iter().enumerate() {
        let at = format!("/brief/complaints/{index}");
        check.text(&complaint.words, &format!("{at}/words"), "A complaint");
        check.text(&complaint.answer, &format!("{at}/answer"), "The answer to a complaint");
        check.that(
            there(complaint.room_id),
            format!("{at}/room_id"),
            "A complaint is about a room that the house does not have; choose another room.",
        );
        check.hours(complaint.hours, &format!("{at}/hours"));
    }
}

fn house(house: &House, check: &mut Check) {
    check
        .unique(house.levels.iter().enumerate().map(|(i, l)| (l.id, format!("/house/levels/{i}/id"))), "This level id");
    check.unique(
        house.levels.iter().enumerate().map(|(i, l)| (l.name.to_lowercase(), format!("/house/levels/{i}/name"))),
        "A level of this name",
    );
    check.that(house.levels.len() <= 12, "/house/levels", "A home has at most 12 levels here; remove some.");
    for (index, level) in house.levels.iter().enumerate() {
        let at = format!("/house/levels/{index}");
        check.name(&level.name, &format!("{at}/name"), "A level");
        check.text(&level.lines, &format!("{at}/lines"), "The text of a level");
        check.that(
            level.lines.lines().count() <= LINES_LIMIT,
            format!("{at}/lines"),
            format!("{} has over {LINES_LIMIT} lines; spread them over levels or homes.", level.name),
        );
        check.length(level.height_m, 1.8..=8.0, format!("{at}/height_m"), |height, limits| {
            format!("{} is {height} high; a level is {limits} from floor to floor.", level.name)
        });
        if let Some(tracing) = level.tracing {
            let far = [tracing.x_m, tracing.y_m].iter().any(|at| at.get().abs() > REACH_LIMIT_M);
            check.that(
                !far && (0.5..=REACH_LIMIT_M).contains(&tracing.width_m.get())
                    && (0.0..=1.0).contains(&tracing.shows_part),
                format!("{at}/tracing"),
                format!("The picture under {} lies too far off, or is too small or large; place it anew.", level.name),
            );
        }
    }
    let rooms = house.rooms.len();
    check.that(
        rooms <= ROOMS_LIMIT,
        "/house/rooms",
        format!(
            "The house has {rooms} rooms; at most {ROOMS_LIMIT} are computed here, so split it into several homes."
        ),
    );
    check.unique(
        house.rooms.iter().enumerate().map(|(i, r)| (r.name.to_lowercase(), format!("/house/rooms/{i}/name"))),
        "A room of this name",
    );
    check.unique(house.rooms.iter().enumerate().map(|(i, r)| (r.id, format!("/house/rooms/{i}/id"))), "This room id");
    for (index, room) in house.rooms.iter().enumerate() {
        let at = format!("/house/rooms/{index}");
        check.name(&room.name, &format!("{at}/name"), "A room");
        check.that(
            house.level(room.level_id).is_some(),
            format!("{at}/level_id"),
            format!("{} lies on a level that the house does not have.", room.name),
        );
    }
    check.unique(
        house.walls.iter().enumerate().map(|(i, w)| ((w.room_id, w.side), format!("/house/walls/{i}"))),
        "This wall",
    );
    for (index, wall) in house.walls.iter().enumerate() {
        check.that(
            house.room(wall.room_id).is_some(),
            format!("/house/walls/{index}/room_id"),
            "A wall belongs to a room that the house does not have.",
        );
        check.that(
            wall.thickness_m.is_none_or(|thickness| (0.005..=1.5).contains(&thickness.get())),
            format!("/house/walls/{index}/thickness_m"),
            "A wall is 0.005 to 1.5 m thick; leave the thickness empty when it is the usual one.",
        );
    }
    check.that(house.spots.len() <= 2000, "/house/spots", "A home has at most 2000 spots here; remove some.");
    check.unique(house.spots.iter().enumerate().map(|(i, s)| (s.id, format!("/house/spots/{i}/id"))), "This spot id");
    for (index, spot) in house.spots.iter().enumerate() {
        let at = format!("/house/spots/{index}");
        check.that(
            house.room(spot.room_id).is_some(),
            format!("{at}/room_id"),
            "A spot lies in a room that the house does not have.",
        );
        for (field, part) in [("east_part", spot.east_part), ("south_part", spot.south_part)] {
            check.that(
                (0.0..=1.0).contains(&part),
                format!("{at}/{field}"),
                "A spot lies outside of its room; move it inside.",
            );
        }
    }
}

fn openings(house: &House, check: &mut Check) {
    let (openings, stairs) = (house.openings.len(), house.stairwells.len());
    check.that(openings <= 500, "/house/openings", "A home has at most 500 doors and windows here; remove some.");
    check.that(stairs <= 50, "/house/stairwells", "A home has at most 50 stairwells here; remove some.");
    for (index, opening) in house.openings.iter().enumerate() {
        let at = format!("/house/openings/{index}");
        check.that(
            house.room(opening.room_id).is_some(),
            format!("{at}/room_id"),
            "An opening belongs to a room that the house does not have.",
        );
        check.that(
            (0.0..=1.0).contains(&opening.along_part),
            format!("{at}/along_part"),
            "An opening lies beyond the end of its wall; move it onto the wall.",
        );
        check.length(opening.width_m, 0.2..=12.0, format!("{at}/width_m"), |width, limits| {
            format!("An opening is {width} wide; it must be {limits}.")
        });
    }
    for (index, stairwell) in house.stairwells.iter().enumerate() {
        let at = format!("/house/stairwells/{index}");
        check.that(
            house.room(stairwell.room_id).is_some(),
            format!("{at}/room_id"),
            "Stairs rise from a room that the house does not have.",
        );
        for (field, part) in [("east_part", stairwell.east_part), ("south_part", stairwell.south_part)] {
            check.that(
                (0.0..=1.0).contains(&part),
                format!("{at}/{field}"),
                "Stairs lie outside of their room; move them inside.",
            );
        }
        for (field, size) in [("width_m", stairwell.width_m), ("depth_m", stairwell.depth_m)] {
            check.length(size, 0.4..=10.0, format!("{at}/{field}"), |size, limits| {
                format!("A hole for stairs measures {size}; it must be {limits}.")
            });
        }
    }
}

fn obstacles(house: &House, check: &mut Check) {
    let list = &house.obstacles;
    check.that(list.len() <= 100, "/house/obstacles", "A home has at most 100 obstacles here; remove some.");
    check.unique(list.iter().enumerate().map(|(i, o)| (o.id, format!("/house/obstacles/{i}/id"))), "This obstacle id");
    for (index, one) in list.iter().enumerate() {
        let at = format!("/house/obstacles/{index}");
        check.that(
            house.level(one.level_id).is_some(),
            format!("{at}/level_id"),
            "An obstacle stands on a level that the house does not have.",
        );
        let ends =
            [("from_x_m", one.from_x_m), ("from_y_m", one.from_y_m), ("to_x_m", one.to_x_m), ("to_y_m", one.to_y_m)];
        for (field, value) in ends {
            check.that(
                value.get().abs() <= REACH_LIMIT_M,
                format!("{at}/{field}"),
                format!("An obstacle lies over {} from the origin; bring it nearer.", check.reach()),
            );
        }
        check.length(one.height_m, 0.2..=40.0, format!("{at}/height_m"), |height, limits| {
            format!("An obstacle is {height} high; it must be {limits}.")
        });
        check.length(one.depth_m, 0.0..=200.0, format!("{at}/depth_m"), |depth, limits| {
            format!("An obstacle is {depth} deep; it must be {limits}.")
        });
    }
}

fn neighbours(air: &[Neighbour], check: &mut Check) {
    check.that(air.len() <= 200, "/air", "At most 200 neighbours' networks are kept; leave out the weakest.");
    check.unique(air.iter().enumerate().map(|(i, n)| (n.id, format!("/air/{i}/id"))), "This neighbour id");
    for (index, one) in air.iter().enumerate() {
        check.that(
            (-110.0..=0.0).contains(&one.signal_dbm.get()),
            format!("/air/{index}/signal_dbm"),
            format!("A neighbour is heard at {}; it must be -110 to 0 dBm.", one.signal_dbm),
        );
        check.that(
            (0.0..=1.0).contains(&one.busy_part),
            format!("/air/{index}/busy_part"),
            "A neighbour sends for 0 to 1 of the time.",
        );
    }
}

fn own_kit(list: &[Kit], check: &mut Check) {
    check.that(list.len() <= 200, "/own_kit", "At most 200 types of device of one's own are kept; remove some.");
    check.unique(list.iter().enumerate().map(|(i, k)| (k.key.clone(), format!("/own_kit/{i}/key"))), "This key");
    for (index, kit) in list.iter().enumerate() {
        let at = format!("/own_kit/{index}");
        check.name(&kit.key, &format!("{at}/key"), "A type of device");
        check.name(&kit.name, &format!("{at}/name"), "A type of device");
        check.that(
            !kit.modes.is_empty(),
            format!("{at}/modes"),
            format!("{} needs a mode it can be set to.", kit.name),
        );
        check.that(
            kit.radios.len() <= 8,
            format!("{at}/radios"),
            format!("{} has over 8 radios; remove some.", kit.name),
        );
        for (field, port) in [("uplink_port_mbps", kit.uplink_port_mbps), ("lan_port_mbps", kit.lan_port_mbps)] {
            check.that(
                (10.0..=100_000.0).contains(&port.get()),
                format!("{at}/{field}"),
                format!("A port of {} must be 10 to 100000 Mb/s.", kit.name),
            );
        }
        for (r, radio) in kit.radios.iter().enumerate() {
            check.that(
                (1..=8).contains(&radio.streams),
                format!("{at}/radios/{r}/streams"),
                format!("A radio of {} has 1 to 8 streams.", kit.name),
            );
        }
        kit_facts(kit, &format!("{at}/facts"), check);
    }
}

fn kit_facts(kit: &Kit, at: &str, check: &mut Check) {
    let (facts, name) = (&kit.facts, &kit.name);
    let mut within = |value: Option<f64>, low: f64, high: f64, field: &str, what: &str| {
        check.that(
            value.is_none_or(|value| (low..=high).contains(&value)),
            format!("{at}/{field}"),
            format!("The {what} of {name} must be {low} to {high}; leave it empty when it is not known."),
        );
    };
    within(facts.feeds_w.map(Watts::get), 0.0, 2000.0, "feeds_w", "power in watts that the ports give");
    within(facts.needs_w.map(Watts::get), 0.0, 500.0, "needs_w", "power in watts that is needed");
    within(facts.price, 0.0, 100_000.0, "price", "price");
    within(facts.fee_a_year, 0.0, 10_000.0, "fee_a_year", "fee a year");
    within(facts.warranty_years, 0.0, 50.0, "warranty_years", "warranty in years");
    let area = facts.claimed_area_m2.map(SquareMetres::get);
    within(area, 1.0, 10_000.0, "claimed_area_m2", "area in square metres that its maker claims");
    for (index, pack) in facts.packs.iter().enumerate() {
        within(Some(pack.price), 0.0, 100_000.0, &format!("packs/{index}/price"), "price of a pack");
        within(Some(f64::from(pack.count)), 2.0, 20.0, &format!("packs/{index}/count"), "number in a pack");
    }
    check.that(facts.packs.len() <= 8, format!("{at}/packs"), format!("{name} is sold in at most 8 packs here."));
    check.that(
        facts.lan_ports.is_none_or(|ports| ports <= 64 && facts.feeding_ports <= ports),
        format!("{at}/lan_ports"),
        format!("{name} has 0 to 64 ports, and no more of them feed than there are."),
    );
    let range = |own: MainsVolts| 10.0 <= own.from_v.get() && own.from_v <= own.to_v && own.to_v.get() <= 500.0;
    check.that(
        facts.mains_v.is_none_or(range),
        format!("{at}/mains_v"),
        format!("The mains voltage of {name} is 10 to 500 V, the lower first."),
    );
    check.unique(
        facts.functions.iter().enumerate().map(|(i, own)| (own.what, format!("{at}/functions/{i}"))),
        "This function",
    );
    check.text(&facts.known_here, &format!("{at}/known_here"), &format!("What {name} is known to do"));
    if let Some(family) = &facts.steers_with {
        check.name(family, &format!("{at}/steers_with"), "A family of kit");
    }
}

fn corrections(house: &House, check: &mut Check) {
    let list = &house.corrections;
    check.that(list.len() <= 5000, "/house/corrections", "At most 5000 corrections are kept; remove some.");
    check.unique(
        list.iter().enumerate().map(|(i, one)| (one.of, format!("/house/corrections/{i}/of"))),
        "A correction of this part",
    );
    for (index, one) in list.iter().enumerate() {
        let PerBand { ghz_2_4, ghz_5, ghz_6 } = one.more_db;
        check.that(
            [ghz_2_4, ghz_5, ghz_6].iter().all(|more| more.get().abs() <= 60.0),
            format!("/house/corrections/{index}/more_db"),
            "A correction is at most 60 dB either way.",
        );
    }
}

fn aerial(aerial: &Aerial, at: &str, name: &str, check: &mut Check) {
    let mut within = |value: f64, low: f64, high: f64, field: &str, what: &str| {
        check.that(
            (low..=high).contains(&value),
            format!("{at}/{field}"),
            format!("The {what} of {name}'s aerial is {value}; it must be {low} to {high}."),
        );
    };
    match aerial {
        Aerial::BuiltIn => {}
        Aerial::Rods { gain_dbi, lean, towards } => {
            within(gain_dbi.get(), 1.5, 12.0, "gain_dbi", "gain in dBi");
            within(lean.get(), 0.0, 90.0, "lean", "lean in degrees");
            within(towards.get(), 0.0, 360.0, "towards", "direction in degrees");
        }
        Aerial::Sector { gain_dbi, width, height, towards } => {
            within(gain_dbi.get(), 2.0, 24.0, "gain_dbi", "gain in dBi");
            within(width.get(), 5.0, 180.0, "width", "width in degrees");
            within(height.get(), 5.0, 180.0, "height", "height in degrees");
            within(towards.get(), 0.0, 360.0, "towards", "direction in degrees");
        }
    }
}

/// Coax and power-line pairs: lengths and counts that can be.
fn pair(via: &Via, at: &str, name: &str, check: &mut Check) {
    let (length, parts) = match via {
        Via::Coax { length_m, splitters, .. } => (length_m, ("splitters", *splitters)),
        Via::PowerLine { length_m, strips, .. } => (length_m, ("strips", *strips)),
        Via::Cable { .. } | Via::Radio { .. } | Via::BestRadio => return,
    };
    check.length(*length, 0.0..=500.0, format!("{at}/length_m"), |length, limits| {
        format!("The wiring to {name} is {length} long; it must be {limits}.")
    });
    let (field, count) = parts;
    check.that(
        count <= 10,
        format!("{at}/{field}"),
        format!("{count} {field} on the way to {name} cannot be right; enter at most 10."),
    );
    if let Via::PowerLine { reported_mbps: Some(rate), .. } = via {
        check.that(
            (1.0..=5000.0).contains(&rate.get()),
            format!("{at}/reported_mbps"),
            format!("The link rate that the power-line pair to {name} reports must be 1 to 5000 Mb/s."),
        );
    }
    if let Via::Coax { port_mbps, .. } = via {
        check.that(
            (10.0..=10_000.0).contains(&port_mbps.get()),
            format!("{at}/port_mbps"),
            format!("The port of the coax adapter to {name} must be 10 to 10000 Mb/s."),
        );
    }
}

fn setup(setup: &Setup, house: &House, at: &str, check: &mut Check) {
    check.name(&setup.name, &format!("{at}/name"), "A setup");
    check.name(&setup.letter, &format!("{at}/letter"), "A setup's letter");
    check.text(&setup.why, &format!("{at}/why"), "Why a setup is tried");
    if let Some(series) = &setup.series {
        check.name(series, &format!("{at}/series"), "A series");
    }
    check.that(
        setup.put_aside.len() <= 200,
        format!("{at}/put_aside"),
        "At most 200 findings of a setup are put aside; take some back.",
    );
    check.unique(
        setup
            .put_aside
            .iter()
            .enumerate()
            .map(|(i, own)| ((own.rule.clone(), own.device_id), format!("{at}/put_aside/{i}"))),
        "This finding",
    );
    for (index, own) in setup.put_aside.iter().enumerate() {
        check.name(&own.rule, &format!("{at}/put_aside/{index}/rule"), "A rule");
        check.text(&own.because, &format!("{at}/put_aside/{index}/because"), "Why a finding is put aside");
    }
    let devices = &setup.devices;
    check.that(
        devices.len() <= DEVICES_LIMIT,
        format!("{at}/devices"),
        format!("A setup has at most {DEVICES_LIMIT} devices here; remove some."),
    );
    check.unique(devices.iter().enumerate().map(|(i, d)| (d.id, format!("{at}/devices/{i}/id"))), "This device id");
    check.unique(
        devices.iter().enumerate().map(|(i, d)| (d.name.to_lowercase(), format!("{at}/devices/{i}/name"))),
        "A device of this name",
    );
    let addressed = devices.iter().enumerate();
    let addressed = addressed
        .filter_map(|(i, d)| Some((d.hardware_address.clone()?, format!("{at}/devices/{i}/hardware_address"))));
    check.unique(addressed, "A device of this hardware address");
    let roots = devices.iter().filter(|device| device.uplink.is_none()).count();
    check.that(
        devices.is_empty() || roots == 1,
        format!("{at}/devices"),
        format!("Setup {} has {roots} devices at the line; exactly one has no uplink.", setup.letter),
    );
    for (index, device) in devices.iter().enumerate() {
        let at = format!("{at}/devices/{index}");
        check.name(&device.name, &format!("{at}/name"), "A device");
        position(&device.at, house, &format!("{at}/at"), &device.name, check);
        aerial(&device.aerial, &format!("{at}/aerial"), &device.name, check);
        if let Some(firmware) = &device.firmware {
            if !firmware.version.is_empty() {
                check.name(&firmware.version, &format!("{at}/firmware/version"), "The firmware of a device");
            }
            if let Some(FirmwareUpdates::Schedule { hours }) = firmware.updates {
                check.hours(Some(hours), &format!("{at}/firmware/updates/hours"));
            }
        }
        if let Some(address) = &device.hardware_address {
            let message = format!("The hardware address of {} is six pairs such as 02:1a:9f:00:3c:55.", device.name);
            check.that(is_hardware_address(address), format!("{at}/hardware_address"), message);
        }
        check.that(
            device.settings_address.is_empty() || device.settings_ip().is_some(),
            format!("{at}/settings_address"),
            format!("The settings of {} are at an address such as 192.168.1.2 or 192.168.1.2:8080.", device.name),
        );
        check.that(
            device.hands_out.is_none_or(|own| own.from <= own.to),
            format!("{at}/hands_out"),
            format!("The addresses that {} hands out go from the first to the last.", device.name),
        );
        for (field, name) in [("network_name", &device.network_name), ("guest_network", &device.guest_network)] {
            check.that(
                name.len() <= NETWORK_NAME_BYTES,
                format!("{at}/{field}"),
                format!(
                    "The name of a network has at most {NETWORK_NAME_BYTES} bytes (IEEE 802.11); shorten that of {}.",
                    device.name
                ),
            );
        }
        for (r, radio) in device.radios.iter().enumerate() {
            check.that(
                (0.0..=30.0).contains(&radio.turned_down_db.get()),
                format!("{at}/radios/{r}/turned_down_db"),
                format!("A radio of {} is turned down by 0 to 30 dB.", device.name),
            );
            check.that(
                radio.hand_over_dbm.is_none_or(|level| (-95.0..=-40.0).contains(&level.get())),
                format!("{at}/radios/{r}/hand_over_dbm"),
                format!(
                    "{} hands over at -95 to -40 dBm; leave it empty when it leaves that to the client.",
                    device.name
                ),
            );
        }
        let Some(uplink) = &device.uplink else { continue };
        check.that(
            uplink.port.is_none_or(|port| (1..=64).contains(&port)),
            format!("{at}/uplink/port"),
            format!("The port that {} goes to is counted from 1 to 64.", device.name),
        );
        check.that(
            setup.device(uplink.to).is_some() && uplink.to != device.id,
            format!("{at}/uplink/to"),
            format!("{} has an uplink to a device that is not in the setup; choose another.", device.name),
        );
        pair(&uplink.via, &format!("{at}/uplink/via"), &device.name, check);
        if let Via::Radio { radio } = uplink.via {
            check.that(
                radio < device.radios.len(),
                format!("{at}/uplink/via/radio"),
                format!(
                    "{} has no radio number {}; choose another for the uplink.",
                    device.name,
                    radio.saturating_add(1)
                ),
            );
        }
        check.that(
            !in_a_loop(setup, device.uplink.as_ref().map(|u| u.to)),
            format!("{at}/uplink/to"),
            format!("The uplinks from {} go round in a circle; lead one of them to the router.", device.name),
        );
    }
}

fn in_a_loop(setup: &Setup, first: Option<crate::DeviceId>) -> bool {
    let mut next = first;
    for _ in 0..=setup.devices.len() {
        match next.and_then(|id| setup.device(id)) {
            Some(device) => next = device.uplink.as_ref().map(|uplink| uplink.to),
            None => return false,
        }
    }
    true
}

fn position(place: &Position, house: &House, at: &str, name: &str, check: &mut Check) {
    check.that(
        house.level(place.level_id).is_some(),
        format!("{at}/level_id"),
        format!("{name} stands on a level that the house does not have; move it."),
    );
    for (field, value) in [("x_m", place.x_m), ("y_m", place.y_m)] {
        check.that(
            value.is_finite() && value.get().abs() <= REACH_LIMIT_M,
            format!("{at}/{field}"),
            format!("{name} stands over {} away; move it nearer.", check.reach()),
        );
    }
    check.length(place.height_m, 0.0..=12.0, format!("{at}/height_m"), |height, limits| {
        format!("{name} stands {height} above its floor; enter {limits}.")
    });
}

/// Six pairs of lower-case hexadecimal digits with colons between (IEEE 802, EUI-48).
fn is_hardware_address(text: &str) -> bool {
    let pairs: Vec<&str> = text.split(':').collect();
    let pair = |pair: &&str| pair.len() == 2 && pair.chars().all(|c| matches!(c, '0'..='9' | 'a'..='f'));
    pairs.len() == 6 && pairs.iter().all(pair)
}

#[cfg(test)]
mod tests {
    use crate::id::{DeviceId, LevelId, PlanId, RoomId, SetupId, UseId};
    use crate::*;
    use jiff::civil::date;

    fn device(name: &str, to: Option<&str>) -> Device {
        Device {
            uplink: to.map(|to| Uplink::new(DeviceId::named(to), Via::cable(CableClass::Cat6))),
            ..Device::bare(
                DeviceId::named(name),
                name,
                "router_ax",
                Mode::Router,
                Position {
                    level_id: LevelId::named("ground"),
                    x_m: Metres::new(1.0),
                    y_m: Metres::new(1.0),
                    height_m: Metres::new(1.0),
                },
            )
        }
    }

    fn home(devices: Vec<Device>) -> Home {
        let mut home = Home::new("Lock cottage", "GB", LengthUnit::Metre);
        home.house.levels.push(Level {
            id: LevelId::named("ground"),
            name: "Ground".into(),
            height_m: Metres::new(2.6),
            floor: "timber_floor".into(),
            lines: String::new(),
            tracing: None,
        });
        home.setups.push(Setup::new(SetupId::named("A"), "A", "As found", devices));
        home
    }

    fn pointers(home: &Home) -> Vec<String> {
        home.validate().err().map(|f| f.list().iter().map(|f| f.pointer.clone()).collect()).unwrap_or_default()
    }

    #[test]
    fn a_tree_of_uplinks_is_fine() {
        let home = home(vec![device("R", None), device("N", Some("R")), device("M", Some("N"))]);
        assert_eq!(pointers(&home), Vec::<String>::new());
    }

    #[test]
    fn uplinks_in_a_circle_are_found() {
        let home = home(vec![device("R", None), device("N", Some("M")), device("M", Some("N"))]);
        assert_eq!(pointers(&home), ["/setups/0/devices/1/uplink/to", "/setups/0/devices/2/uplink/to"]);
    }

    #[test]
    fn what_hung_on_a_device_taken_off_hangs_on_what_it_hung_on() {
        let mut home = home(vec![device("R", None), device("N", Some("R")), device("M", Some("N"))]);
        let setup = &mut home.setups[0];
        let told = setup.take_off(DeviceId::named("R")).unwrap_err().message;
        assert!(told.contains("The line enters at R"), "{told}");
        setup.take_off(DeviceId::named("N")).unwrap();
        assert_eq!(setup.devices[1].uplink.as_ref().map(|uplink| uplink.to), Some(DeviceId::named("R")));
        setup.take_off(DeviceId::named("M")).unwrap();
        setup.take_off(DeviceId::named("R")).unwrap();
        assert!(setup.devices.is_empty());
    }

    #[test]
    fn two_devices_at_the_line_are_found() {
        assert_eq!(pointers(&home(vec![device("R", None), device("N", None)])), ["/setups/0/devices"]);
    }

    #[test]
    fn all_faults_come_at_once_each_with_its_place() {
        let mut home = home(Vec::new());
        home.name = " ".into();
        home.house.levels[0].height_m = Metres::new(0.5);
        home.brief.uses.push(RoomUse {
            id: UseId::named("u"),
            room_id: RoomId::named("nowhere"),
            activity: Activity::Call,
            people: 0,
            who: String::new(),
            hours: None,
        });
        home.brief.plans.push(Plan::sold(PlanId::named("p"), date(2026, 1, 1), (f64::NAN, 20.0), AccessLine::Fibre));
        assert_eq!(
            pointers(&home),
            [
                "/name",
                "/brief/plans/0/down_mbps",
                "/brief/uses/0/room_id",
                "/brief/uses/0/people",
                "/house/levels/0/height_m"
            ]
        );
    }

    #[test]
    fn what_can_not_be_seen_in_a_name_is_refused_and_other_scripts_are_not() {
        for name in ["Kitchen\u{202e}", "Kit\u{200b}chen", "a\nb", "\u{feff}x"] {
            let mut home = home(Vec::new());
            home.name = name.into();
            assert_eq!(pointers(&home), ["/name"], "{name:?}");
        }
        for name in ["陶芸小屋", "Дом у канала", "می‌خواهم", "Çatı"] {
            let mut home = home(Vec::new());
            home.name = name.into();
            assert_eq!(pointers(&home), Vec::<String>::new(), "{name}");
        }
    }

    #[test]
    fn a_house_of_more_rooms_than_are_computed_is_told() {
        let mut home = home(Vec::new());
        home.house.rooms = (0..401)
            .map(|number| Room {
                id: RoomId::named(&number.to_string()),
                name: number.to_string(),
                level_id: LevelId::named("ground"),
            })
            .collect();
        assert_eq!(pointers(&home), ["/house/rooms"]);
    }

    #[test]
    fn letters_go_on_after_z() {
        let mut home = home(Vec::new());
        assert_eq!(home.next_setup_letter(), "B");
        home.setups = ('A'..='Z')
            .map(|letter| letter.to_string())
            .map(|letter| Setup::new(SetupId::named(&letter), &letter, "x", Vec::new()))
            .collect();
        assert_eq!(home.next_setup_letter(), "A1");
    }

    #[test]
    fn a_misspelt_field_is_refused_not_ignored() {
        let mut json = serde_json::to_value(home(Vec::new())).unwrap();
        json["house"]["outer_wal"] = "brick105".into();
        assert!(serde_json::from_value::<Home>(json).is_err());
    }
}
