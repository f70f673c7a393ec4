//! What may be wrong with the kit itself: ports, power, weather, what it lacks, what it costs.

use busy_hen_home::{Comes, Control, Device, Enclosure, Kit, Want, Warmth, Weather};

use super::case::{Case, Found};
use super::rule::Rule;

pub(super) fn look(case: &Case<'_>, found: &mut Vec<Found>) {
    for map in case.parts.ports.iter().filter(|map| !map.short.is_empty()) {
        let rule = if map.short_of_power { Rule::TooLittlePower } else { Rule::NoFreePort };
        found.push(Found::new(rule, case.setup.device(map.device_id), map.short.clone()));
    }
    for (device, index) in case.devices() {
        let kit = &case.network.nodes[index].kit;
        weather(case, device, kit, found);
        heat(case, device, kit, found);
    }
    for want in &case.home.brief.wants {
        must(case, *want, found);
    }
    let (total, budget) = (case.parts.total, case.parts.budget);
    if let Some((total, budget)) = total.zip(budget).filter(|(total, budget)| total > budget) {
        let what = format!("It costs {total:.0}, {:.0} more than the family will spend.", total - budget);
        found.push(Found::new(Rule::OverBudget, None, what));
    }
}

fn weather(case: &Case<'_>, device: &Device, kit: &Kit, found: &mut Vec<Found>) {
    let Some(room) = case.room_of(device).filter(|room| room.outdoors) else { return };
    if kit.facts.weather == Weather::Indoors {
        let what = format!("{} is not made for outdoors and stands in {}.", device.name, room.name);
        found.push(Found::new(Rule::NotForOutdoors, Some(device), what));
    }
}

fn heat(case: &Case<'_>, device: &Device, kit: &Kit, found: &mut Vec<Found>) {
    if device.enclosure != Enclosure::Open && kit.facts.warmth == Some(Warmth::Hot) {
        let what = format!("{} runs hot, and stands where no air gets to it.", device.name);
        let open = case.with(device, |own| own.enclosure = Enclosure::Open);
        found.push(Found::new(Rule::HotInside, Some(device), what).fix("put it in the open", open));
    }
}

/// How a kit comes with something wanted; none when nobody noted it.
fn comes(kit: &Kit, want: Want) -> Option<Comes> {
    let noted = kit.facts.functions.iter().find(|own| own.what == want).map(|own| own.comes);
    match (want, kit.facts.control) {
        (Want::FullControl, Some(Control::Full)) => noted.or(Some(Comes::Included)),
        (Want::FullControl, Some(Control::Simple)) => noted.or(Some(Comes::Lacking)),
        _ => noted,
    }
}

/// A network has a function when the device that routes has it, or any that serves.
fn must(case: &Case<'_>, want: Want, found: &mut Vec<Found>) {
    let kits: Vec<&Kit> =
        case.devices().map(|(_, index)| &*case.network.nodes[index].kit).filter(|kit| !kit.radios.is_empty()).collect();
    let noted: Vec<Comes> = kits.iter().filter_map(|kit| comes(kit, want)).collect();
    if noted.is_empty() || noted.contains(&Comes::Included) {
        return;
    }
    let name = want_in_words(want);
    if noted.contains(&Comes::ForAFee) {
        let what = format!("The family wants {name}: this kit has that for a fee.");
        found.push(Found::new(Rule::MustForAFee, None, what));
    } else {
        let what = format!("The family wants {name}, and no kit here has that.");
        found.push(Found::new(Rule::MustLacking, None, what));
    }
}

fn want_in_words(want: Want) -> &'static str {
    match want {
        Want::ChildRules => "rules for children",
        Want::OwnVpn => "a private network to dial into",
        Want::SmartHomeHub => "a hub for lamps, locks and sensors",
        Want::Schedules => "Wi-Fi that goes on and off by the clock",
        Want::GuestNetwork => "a network for guests",
        Want::FullControl => "every setting within reach",
    }
}
