//! What may be wrong with cables, coax, mains and outlets.

use busy_hen_floorplan::Point;
use busy_hen_floorplan::lines::fittings::FittedSocket;
use busy_hen_floorplan::lines::thing::SocketKind;
use busy_hen_home::{CableClass, Circuit, Device, Tenure, Via};
use busy_hen_predict::path::ethernet::ethernet_goodput;
use busy_hen_predict::path::pairs::{PowerLine, coax_loss};
use busy_hen_units::{MbitPerSec, Metres};

use super::case::{Case, Found};
use super::rule::Rule;
use crate::parts::list::LONGEST;

/// Loss beyond which a coax pair begins to slow down, dB (engineering estimate, as the pair's own).
const COAX_SOUND_DB: f64 = 50.0;
/// A power outlet is near within the reach of its own lead.
const LEAD: Metres = Metres::new(2.0);
/// The router stands at the line within so much of where it enters.
const AT_ENTRY: Metres = Metres::new(3.0);

pub(super) fn look(case: &Case<'_>, found: &mut Vec<Found>) {
    for (device, index) in case.devices() {
        port(case, device, index, found);
        outlet(case, device, index, found);
        let Some(uplink) = &device.uplink else { continue };
        let set = |via: Via| case.with(device, |own| own.uplink.iter_mut().for_each(|up| up.via = via.clone()));
        match &uplink.via {
            Via::Cable { class, .. } => {
                if *class == CableClass::Cat5 {
                    let what = format!("The cable to {} is Cat 5, or unmarked.", device.name);
                    let better = set(Via::cable(CableClass::Cat6));
                    found.push(Found::new(Rule::OldCable, Some(device), what).fix("Cat 6", better));
                }
                laid(case, device, &set, found);
            }
            Via::Coax { length_m, splitters, port_mbps } => {
                let loss = coax_loss(*length_m, *splitters);
                if loss.get() > COAX_SOUND_DB {
                    let what = format!("The coax to {} loses {loss:.0} over {splitters} splitters.", device.name);
                    let straight = set(Via::Coax { length_m: *length_m, splitters: 0, port_mbps: *port_mbps });
                    found.push(
                        Found::new(Rule::Splitters, Some(device), what).fix("take out what nothing hangs on", straight),
                    );
                }
            }
            Via::PowerLine { .. } => power_line(case, device, &uplink.via, &set, found),
            Via::Radio { .. } | Via::BestRadio => {}
        }
    }
}

/// Whether a cable can be laid, and whether it is.
fn laid(case: &Case<'_>, device: &Device, set: &dyn Fn(Via) -> busy_hen_home::Setup, found: &mut Vec<Found>) {
    let Some(run) = case.parts.cables.iter().find(|run| run.device_id == device.id) else { return };
    let name = &device.name;
    let brief = &case.home.brief;
    match &run.route {
        None => {
            let what = format!("No way leads a cable to {name} over what is drawn.");
            found.push(Found::new(Rule::NoWay, Some(device), what));
        }
        Some(way) if way.length_m > LONGEST => {
            let what = format!("The cable to {name} would be {} long.", case.home.units.in_words(way.length_m));
            found.push(Found::new(Rule::CableTooLong, Some(device), what));
        }
        Some(way) => {
            let rented = brief.tenure == Tenure::Rented;
            if let Some(hole) = way.holes.first().filter(|_| rented || !brief.may_drill) {
                let why = if rented { "the home is rented" } else { "drilling is not agreed in the brief" };
                let what = format!("The cable to {name} needs a hole ({}), and {why}.", hole.what);
                found.push(Found::new(Rule::MayNotDrill, Some(device), what));
            }
        }
    }
    if let Some(Via::Cable { class, loose: true, riser }) = device.uplink.as_ref().map(|up| &up.via) {
        let what = format!("The cable to {name} lies loose, for a trial.");
        let fixed = set(Via::Cable { class: *class, loose: false, riser: *riser });
        found.push(Found::new(Rule::LooseCable, Some(device), what).fix("lay it for good", fixed));
    }
}

fn power_line(
    case: &Case<'_>,
    device: &Device,
    via: &Via,
    set: &dyn Fn(Via) -> busy_hen_home::Setup,
    found: &mut Vec<Found>,
) {
    let Via::PowerLine { class, length_m, circuit, strips, noisy, .. } = via.clone() else { return };
    let name = &device.name;
    let other =
        |strips: u8, noisy: bool| set(Via::PowerLine { class, length_m, circuit, strips, noisy, reported_mbps: None });
    if strips > 0 {
        let what = format!(
            "The power-line pair to {name} hangs on {strips} power {}.",
            if strips == 1 { "strip" } else { "strips" }
        );
        let straight = other(0, noisy);
        found.push(Found::new(Rule::PowerStrip, Some(device), what).fix("plug both ends into the wall", straight));
    }
    if noisy {
        let what = format!("A noisy appliance shares an outlet with the power-line pair to {name}.");
        found.push(Found::new(Rule::NoisyOutlet, Some(device), what).fix("plug it in elsewhere", other(strips, false)));
    }
    if circuit == Circuit::OtherBoard {
        let what = format!("The power-line pair to {name} spans two boards or phases, or an arc-fault breaker.");
        found.push(Found::new(Rule::OtherBoard, Some(device), what));
    }
    let Some(pair) = PowerLine::of(via) else { return };
    let passes = pair.goodput();
    if let Some(plan) = case.plan_down().filter(|plan| *plan > passes) {
        let what = format!("The power-line pair to {name} passes {passes:.0} of the plan's {plan:.0}.");
        let mut under = Found::new(Rule::PowerLineUnderPlan, Some(device), what);
        if case.home.brief.may_drill {
            under = under.fix("lay a cable", set(Via::cable(CableClass::Cat6)));
        }
        found.push(under);
    }
}

/// A port on the way that is slower than the plan.
fn port(case: &Case<'_>, device: &Device, index: usize, found: &mut Vec<Found>) {
    let Some(plan) = case.plan_down() else { return };
    let kit = &case.network.nodes[index].kit;
    let wired = device.uplink.as_ref().is_none_or(|uplink| !uplink.via.is_radio());
    let port = kit.uplink_port_mbps;
    // A gigabit plan is sold by what a gigabit port passes.
    if wired && ethernet_goodput(port) < plan * 0.9 {
        let speed = |rate: MbitPerSec| busy_hen_predict::path::chain::port_name(rate);
        let what = format!("The {} port of {} lies under a plan of {plan:.0}.", speed(port), device.name);
        found.push(Found::new(Rule::SlowPort, Some(device), what));
    }
}

/// What needs mains power and stands away from every outlet that is drawn on its storey.
fn outlet(case: &Case<'_>, device: &Device, index: usize, found: &mut Vec<Found>) {
    let (Some(room), Some(at)) = (case.room_of(device), case.plan.place(&device.at)) else { return };
    let away = |socket: &FittedSocket| {
        let there = Point { x: socket.at.0, y: socket.at.1, z: at.z };
        at.distance(&there)
    };
    let drawn = || case.plan.sockets.iter();
    let on_storey = |socket: &&FittedSocket| case.plan.rooms[socket.room].level == room.level;
    if device.uplink.is_none() {
        let entry = drawn().find(|own| own.socket.kind == SocketKind::LineEntry).filter(on_storey).map(away);
        if let Some(entry) = entry.filter(|away| *away > AT_ENTRY) {
            let told = case.home.units.in_words(entry);
            let what = format!("{} stands {told} from where the line enters.", device.name);
            found.push(Found::new(Rule::AwayFromEntry, Some(device), what));
        }
    }
    if case.network.nodes[index].kit.powered_by_cable {
        return;
    }
    let outlets =
        drawn().filter(|own| own.socket.kind == SocketKind::Power && case.plan.rooms[own.room].id == room.id).map(away);
    // Where no outlet of the room is drawn, nobody looked yet.
    let Some(nearest) = outlets.reduce(Metres::min) else { return };
    if nearest > LEAD {
        let what = format!(
            "{} stands {} from the nearest outlet that is drawn in {}.",
            device.name,
            case.home.units.in_words(nearest),
            room.name
        );
        found.push(Found::new(Rule::NoOutlet, Some(device), what));
    }
}
