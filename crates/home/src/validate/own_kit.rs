//! What can be said against own kit.

use busy_hen_units::{SquareMetres, Watts};

use super::check::Check;
use crate::kit::{Kit, MainsVolts};

pub(super) fn own_kit(list: &[Kit], check: &mut Check) {
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

pub(super) fn kit_facts(kit: &Kit, at: &str, check: &mut Check) {
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
