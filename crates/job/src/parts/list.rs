//! What a setup takes that is not there yet: kit by the cheapest packs, cables by length, what feeds them, with prices.

use std::collections::BTreeMap;
use std::sync::OnceLock;

use busy_hen_catalogue::{Catalogue, Kit};
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Aerial, BoxItem, CableClass, Device, DeviceId, Home, LengthUnit, Pack, PowerLineClass, Setup, Via,
};
use busy_hen_predict::path::ethernet::cable_name;
use busy_hen_units::{MbitPerSec, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::cabling::{Asked, Route, Ways};
use super::ports::{FedBy, PortMap, fed_by, port_maps};

/// All that a setup is put together from.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Parts {
    /// What is to be bought, kit first.
    pub lines: Vec<PartLine>,
    /// What all of it costs, in the family's currency; none where a price is missing.
    pub total: Option<f64>,
    /// What goes on a year for fees.
    pub fees_a_year: f64,
    /// What the family will spend, from the brief.
    pub budget: Option<f64>,
    /// How cost and budget stand to each other, in words.
    pub told: String,
    /// Ports, device by device.
    pub ports: Vec<PortMap>,
    /// Cables with their ways.
    pub cables: Vec<CableRun>,
}

/// A line of the list.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PartLine {
    /// What it is.
    pub what: String,
    /// How many, or how much.
    pub count: f64,
    /// Of what: piece, pack of two, m.
    pub unit: String,
    /// Price of all of it; none when nobody noted one.
    pub price: Option<f64>,
    /// What it is for.
    pub for_what: String,
    /// Whether the price is what such a thing commonly costs, not the installer's own.
    pub usual_price: bool,
}

/// A cable of the setup.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CableRun {
    /// The device it leads to.
    pub device_id: DeviceId,
    /// Its name.
    pub name: String,
    /// The device it comes from.
    pub from_id: DeviceId,
    /// That one's name.
    pub from_name: String,
    /// The port there, counted from 1.
    #[schema(maximum = 255)]
    pub port: Option<u8>,
    /// Its class.
    pub class: CableClass,
    /// Its class in words.
    pub class_name: &'static str,
    /// Whether it lies loose, for a trial.
    pub loose: bool,
    /// Its way; none where none was found.
    pub route: Option<Route>,
    /// What is to be known about it, in words.
    pub told: String,
    /// What is wrong with it, in words; empty when nothing is.
    pub cannot: String,
}

/// Longest cable of a network, m: ISO/IEC 11801-1, channel of 100 m.
pub const LONGEST: Metres = Metres::new(100.0);

#[derive(Debug, Deserialize)]
struct Price {
    key: String,
    name: String,
    unit: String,
    price: f64,
}

/// What a part commonly costs.
///
/// # Source
/// `data/parts.csv`: round figures of what such parts are commonly sold for (common practice).
fn price(key: &str) -> Option<&'static Price> {
    static TABLE: OnceLock<Vec<Price>> = OnceLock::new();
    let table = TABLE.get_or_init(|| {
        let rows = csv::Reader::from_reader(include_str!("../../data/parts.csv").as_bytes()).into_deserialize();
        rows.map(|row| row.expect("the table is part of the program and read by a test")).collect()
    });
    table.iter().find(|own| own.key == key)
}

/// What a setup takes that is not there yet.
#[must_use]
pub fn parts(home: &Home, setup: &Setup, plan: &Plan) -> Parts {
    let catalogue = Catalogue::of(home);
    let ports = port_maps(setup, &catalogue);
    let cables = cables(home, setup, plan, &ports);
    let mut lines = kit_lines(home, setup, &catalogue);
    lines.extend(pair_lines(setup, &catalogue));
    lines.extend(aerial_lines(setup, &catalogue));
    lines.extend(feed_lines(setup, &catalogue));
    lines.extend(cable_lines(&cables, setup, &catalogue).into_iter().map(|line| in_units(line, home.units)));
    let total = lines.iter().map(|line| line.price).sum::<Option<f64>>();
    let fees =
        setup.devices.iter().filter_map(|own| catalogue.kit(&own.kit.0)).filter_map(|kit| kit.facts.fee_a_year).sum();
    Parts {
        told: in_words(total, home.brief.budget, &lines),
        fees_a_year: fees,
        budget: home.brief.budget,
        total,
        lines,
        ports,
        cables,
    }
}

fn in_words(total: Option<f64>, budget: Option<f64>, lines: &[PartLine]) -> String {
    let unpriced = lines.iter().filter(|line| line.price.is_none()).count();
    match (total, budget) {
        _ if lines.is_empty() => "Nothing is to be bought.".into(),
        (None, _) => format!("{unpriced} of {} lines have no price yet.", lines.len()),
        (Some(total), Some(budget)) if total > budget => {
            format!("{total:.0} in all: {:.0} over the family's {budget:.0}.", total - budget)
        }
        (Some(total), Some(budget)) => format!("{total:.0} in all, of {budget:.0} that the family will spend."),
        (Some(total), None) => format!("{total:.0} in all."),
    }
}

/// A line that is sold by length, in the home's unit.
fn in_units(line: PartLine, units: LengthUnit) -> PartLine {
    match units {
        LengthUnit::Foot if line.unit == "m" => {
            PartLine { count: Metres::new(line.count).feet().ceil(), unit: "ft".into(), ..line }
        }
        _ => line,
    }
}

/// The cheapest way to buy so many: how many singly, how many of each pack, and the price; none without a price.
#[must_use]
pub fn cheapest(wanted: usize, single: Option<f64>, packs: &[Pack]) -> Option<(usize, Vec<usize>, f64)> {
    // Cheapest for at least so many, from none upwards.
    let mut best: Vec<Option<(usize, Vec<usize>, f64)>> = vec![None; wanted + 1];
    best[0] = Some((0, vec![0; packs.len()], 0.0));
    for need in 1..=wanted {
        let from = |count: usize| best[need.saturating_sub(count)].clone();
        let mut ways = Vec::new();
        if let Some((price, (singles, taken, cost))) = single.zip(from(1)) {
            ways.push((singles + 1, taken, cost + price));
        }
        for (index, pack) in packs.iter().enumerate() {
            if let Some((singles, mut taken, cost)) = from(usize::from(pack.count)) {
                taken[index] += 1;
                ways.push((singles, taken, cost + pack.price));
            }
        }
        best[need] = ways.into_iter().min_by(|a, b| a.2.total_cmp(&b.2));
    }
    best.pop().flatten()
}

fn kit_lines(home: &Home, setup: &Setup, catalogue: &Catalogue) -> Vec<PartLine> {
    let mut counts: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
    for device in setup.devices.iter().filter(|own| !own.there_already) {
        counts.entry(device.kit.0.as_str()).or_default().push(&device.name);
    }
    let mut lines = Vec::new();
    for kit in catalogue.all() {
        let Some(names) = counts.get(kit.key.as_str()) else { continue };
        let own = home.own_kit.iter().any(|own| own.key == kit.key);
        let line = |count: usize, unit: String, price: Option<f64>| PartLine {
            what: kit.name.clone(),
            count: count as f64,
            unit,
            price,
            for_what: names.join(", "),
            usual_price: price.is_some() && !own,
        };
        match cheapest(names.len(), kit.facts.price, &kit.facts.packs) {
            None => lines.push(line(names.len(), "piece".into(), None)),
            Some((singles, taken, _)) => {
                for (pack, count) in kit.facts.packs.iter().zip(taken).filter(|(_, count)| *count > 0) {
                    lines.push(line(count, format!("pack of {}", pack.count), Some(pack.price * count as f64)));
                }
                if singles > 0 {
                    lines.push(line(singles, "piece".into(), kit.facts.price.map(|price| price * singles as f64)));
                }
            }
        }
    }
    lines
}

fn part(key: &str, count: f64, for_what: String) -> Option<PartLine> {
    let own = price(key)?;
    Some(PartLine {
        what: own.name.clone(),
        count,
        unit: own.unit.clone(),
        price: Some((own.price * count * 100.0).round() / 100.0),
        for_what,
        usual_price: true,
    })
}

/// Adapters on coax and mains wiring; an end that the device brings itself still needs one at the router.
fn pair_lines(setup: &Setup, catalogue: &Catalogue) -> Vec<PartLine> {
    let pair = |device: &Device| {
        let key = match device.uplink.as_ref().map(|up| &up.via)? {
            Via::Coax { .. } => "coax",
            Via::PowerLine { class: PowerLineClass::Sold200, .. } => "power_line_200",
            Via::PowerLine { class: PowerLineClass::Sold500, .. } => "power_line_500",
            Via::PowerLine { class: PowerLineClass::Sold1000, .. } => "power_line_1000",
            Via::PowerLine { class: PowerLineClass::Sold2000, .. } => "power_line_2000",
            Via::Cable { .. } | Via::Radio { .. } | Via::BestRadio => return None,
        };
        if device.there_already {
            return None;
        }
        let brings_end = catalogue.kit(&device.kit.0).is_some_and(|kit| kit.power_line.is_some()) && key != "coax";
        let mut line = part(key, 1.0, device.name.clone())?;
        if brings_end {
            // Its own end is in the kit's price; the other is about half of a pair.
            line.what = format!("other end for {}: half of a {}", device.name, line.what);
            line.unit = "piece".into();
            line.price = line.price.map(|price| price / 2.0);
        }
        Some(line)
    };
    setup.devices.iter().filter_map(pair).collect()
}

/// Whether a device wears other aerials than its kit comes with; where they point does not count.
fn wears_spare_aerial(device: &Device, kit: &Kit) -> bool {
    match (&device.aerial, &kit.aerial) {
        (Aerial::BuiltIn, Aerial::BuiltIn) => false,
        (Aerial::Rods { gain_dbi: own, .. }, Aerial::Rods { gain_dbi: usual, .. })
        | (Aerial::Sector { gain_dbi: own, .. }, Aerial::Sector { gain_dbi: usual, .. }) => own != usual,
        _ => true,
    }
}

fn aerial_lines(setup: &Setup, catalogue: &Catalogue) -> Vec<PartLine> {
    let spare = |device: &Device| {
        let kit = catalogue.kit(&device.kit.0).filter(|kit| wears_spare_aerial(device, kit))?;
        let key = match device.aerial {
            Aerial::Rods { .. } => "rods",
            Aerial::Sector { .. } => "sector",
            Aerial::BuiltIn => return None,
        };
        let mut line = part(key, 1.0, device.name.clone())?;
        if !kit.facts.takes_aerials {
            line.for_what = format!("{}, whose kit is not known to take one: look before you buy", device.name);
        }
        Some(line)
    };
    setup.devices.iter().filter_map(spare).collect()
}

fn feed_lines(setup: &Setup, catalogue: &Catalogue) -> Vec<PartLine> {
    let mut lines = Vec::new();
    for (key, fast) in [("injector", false), ("injector_fast", true)] {
        let needs = |device: &&Device| {
            let quick = catalogue.kit(&device.kit.0).is_some_and(|kit| kit.uplink_port_mbps > MbitPerSec::new(1000.0));
            fed_by(device, setup, catalogue) == Some(FedBy::InjectorToBuy) && quick == fast && !device.there_already
        };
        let names: Vec<&str> = setup.devices.iter().filter(needs).map(|own| own.name.as_str()).collect();
        if !names.is_empty() {
            lines.extend(part(key, names.len() as f64, names.join(", ")));
        }
    }
    lines
}

/// The cables of a setup with their ways.
fn cables(home: &Home, setup: &Setup, plan: &Plan, ports: &[PortMap]) -> Vec<CableRun> {
    let may_drill = home.brief.may_drill;
    let ways = Ways::new(plan);
    let mut runs = Vec::new();
    for device in &setup.devices {
        let Some(uplink) = &device.uplink else { continue };
        let Via::Cable { class, loose, riser } = uplink.via else { continue };
        let Some(upstream) = setup.device(uplink.to) else { continue };
        // A loose cable for a trial goes where a foot can, and nothing is drilled for it.
        let asked = Asked { may_drill: may_drill && !loose, riser: riser.filter(|_| !loose), on_foot: false };
        let way = ways.as_ref().and_then(|ways| ways.route(&upstream.at, &device.at, asked));
        let port = ports.iter().find(|own| own.device_id == upstream.id);
        let port = port.and_then(|own| own.used.iter().find(|used| used.device_id == device.id)).map(|used| used.port);
        runs.push(CableRun {
            device_id: device.id,
            name: device.name.clone(),
            from_id: upstream.id,
            from_name: upstream.name.clone(),
            port,
            class,
            class_name: cable_name(class),
            loose,
            told: way.as_ref().map_or_else(String::new, |way| way_in_words(way, home)),
            cannot: cannot(way.as_ref(), home, loose),
            route: way,
        });
    }
    runs
}

fn way_in_words(way: &Route, home: &Home) -> String {
    let say = |length| home.units.in_words(length);
    let mut told = format!("{} with slack", say(way.length_m));
    if way.outdoors_m.get() >= 0.5 {
        told.push_str(&format!(
            ", {} of it outdoors: cable made for that, and a drip loop where it comes in",
            say(way.outdoors_m)
        ));
    }
    match &way.holes[..] {
        [] => told.push_str(", nothing to drill"),
        [one] => told.push_str(&format!(", one hole: {}", one.what)),
        more => {
            let names: Vec<&str> = more.iter().map(|own| own.what.as_str()).collect();
            told.push_str(&format!(", {} holes: {}", more.len(), names.join("; ")));
        }
    }
    if way.by_undrawn_door {
        told.push_str("; it goes through a door that nobody drew");
    }
    told
}

fn cannot(way: Option<&Route>, home: &Home, loose: bool) -> String {
    let Some(way) = way else {
        return "No way leads there over what is drawn: a room without a place, or a building that stands apart."
            .into();
    };
    if way.length_m > LONGEST {
        return format!(
            "It would be {} long; a network cable reaches {} (ISO/IEC 11801): put a switch on the way.",
            home.units.in_words(way.length_m),
            home.units.in_words(LONGEST)
        );
    }
    match (&way.holes[..], home.brief.may_drill) {
        ([first, ..], _) if loose => format!("A loose cable does not get there without a hole: {}.", first.what),
        ([first, ..], false) => {
            format!("It can't be laid without drilling, which is not agreed in the brief: {}.", first.what)
        }
        _ => String::new(),
    }
}

/// Cables by class and metres, plugs, and what is added for outdoors; a cable from a box is used where it is long enough.
fn cable_lines(cables: &[CableRun], setup: &Setup, catalogue: &Catalogue) -> Vec<PartLine> {
    let mut lines = Vec::new();
    let in_box = |run: &CableRun, length: Metres| {
        let kit = setup.device(run.device_id).and_then(|own| catalogue.kit(&own.kit.0));
        kit.is_some_and(|kit| {
            kit.facts.in_box.iter().any(|item| matches!(item, BoxItem::Cable { length_m } if *length_m >= length))
        })
    };
    for (class, key) in [
        (CableClass::Cat5, "cat5e"),
        (CableClass::Cat5e, "cat5e"),
        (CableClass::Cat6, "cat6"),
        (CableClass::Cat6a, "cat6a"),
    ] {
        // Old cable is not bought: it lies there.
        let to_buy = |run: &&CableRun| run.class == class && class != CableClass::Cat5;
        let routed: Vec<(&CableRun, &Route)> =
            cables.iter().filter(to_buy).filter_map(|run| Some((run, run.route.as_ref()?))).collect();
        let bought: Vec<_> = routed.into_iter().filter(|(run, way)| !in_box(run, way.length_m)).collect();
        if bought.is_empty() {
            continue;
        }
        let names = || bought.iter().map(|(run, _)| run.name.clone()).collect::<Vec<_>>().join(", ");
        let metres: f64 = bought.iter().map(|(_, way)| way.length_m.get()).sum();
        let outdoors: f64 = bought.iter().map(|(_, way)| way.outdoors_m.get().ceil()).sum();
        lines.extend(part(key, metres, names()));
        if outdoors > 0.0 {
            lines.extend(part("outdoor", outdoors, names()));
        }
        lines.extend(part("plugs", bought.len() as f64, names()));
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn packs_are_taken_where_they_are_cheaper() {
        let packs = [Pack { count: 2, price: 165.0 }, Pack { count: 3, price: 230.0 }];
        let of = |count| cheapest(count, Some(90.0), &packs).unwrap();
        assert_eq!(of(1), (1, vec![0, 0], 90.0));
        assert_eq!(of(2), (0, vec![1, 0], 165.0));
        assert_eq!(of(3), (0, vec![0, 1], 230.0));
        assert_eq!(of(4), (1, vec![0, 1], 320.0));
        assert_eq!(of(5), (0, vec![1, 1], 395.0));
        // Two are cheaper as a pack of three when that is dear singly.
        assert_eq!(cheapest(2, Some(150.0), &packs[1..]).unwrap(), (0, vec![1], 230.0));
        assert_eq!(cheapest(2, None, &[]), None);
    }

    #[test]
    fn every_part_has_a_price() {
        for key in ["cat5e", "cat6", "cat6a", "outdoor", "plugs", "injector", "injector_fast", "coax", "rods", "sector"]
        {
            assert!(price(key).is_some_and(|own| own.price > 0.0), "{key}");
        }
    }
}
