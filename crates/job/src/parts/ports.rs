//! Which cable goes to which port, and what feeds what.

use busy_hen_home::{Device, DeviceId, RoomId, Setup, Via};
use busy_hen_units::{MbitPerSec, Watts};
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_catalogue::{Catalogue, Kit};
use busy_hen_floorplan::Plan;
use busy_hen_units::words::counted;

/// The ports of a device towards the home.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PortMap {
    /// The device.
    pub device_id: DeviceId,
    /// Its name.
    pub name: String,
    /// How many ports its kit has; none when nobody noted that.
    #[schema(maximum = 255)]
    pub ports: Option<u8>,
    /// Link speed of each.
    pub speed_mbps: MbitPerSec,
    /// What goes to them, by port.
    pub used: Vec<UsedPort>,
    /// Power that those which feed give together; none when none feeds.
    pub feeds_w: Option<Watts>,
    /// Most that what hangs on them needs.
    pub needs_w: Watts,
    /// What is wrong with it, in words; empty when nothing is.
    pub short: String,
    /// Whether power is what it is short of, not ports.
    pub short_of_power: bool,
}

/// A port that something goes to.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UsedPort {
    /// Its number, counted from 1.
    #[schema(maximum = 255)]
    pub port: u8,
    /// The device at the other end.
    pub device_id: DeviceId,
    /// Its name.
    pub name: String,
    /// Whether the port feeds it.
    pub feeds: bool,
}

/// How a device that its cable feeds gets its power.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FedBy {
    /// A port of the device it hangs on.
    Port,
    /// The injector in its box.
    InjectorInBox,
    /// An injector that is still to be bought.
    InjectorToBuy,
}

/// A device in a room that something can be plugged into: one that is itself not fed by air.
#[must_use]
pub fn plug_in<'a>(setup: &'a Setup, plan: &Plan, room: RoomId) -> Option<&'a Device> {
    let stands_here = |device: &&Device| plan.room_of(&device.at).is_some_and(|own| own.id == room);
    let by_air = |device: &Device| device.uplink.as_ref().is_some_and(|up| up.via.is_radio());
    setup.devices.iter().filter(stands_here).find(|device| !by_air(device))
}

/// Whether something goes by a wire into a port of the device upstream.
fn takes_port(via: &Via) -> bool {
    !via.is_radio()
}

/// How a device that its cable feeds gets its power; none for one that a plug feeds.
#[must_use]
pub fn fed_by(device: &Device, setup: &Setup, catalogue: &Catalogue) -> Option<FedBy> {
    let kit = catalogue.kit(&device.kit.0).filter(|kit| kit.powered_by_cable)?;
    let uplink = device.uplink.as_ref().filter(|up| matches!(up.via, Via::Cable { .. }));
    let upstream = uplink.and_then(|up| setup.device(up.to)).and_then(|up| catalogue.kit(&up.kit.0));
    let in_box = kit.facts.in_box.contains(&busy_hen_home::BoxItem::Injector);
    Some(match upstream {
        Some(upstream) if upstream.facts.feeding_ports > 0 => FedBy::Port,
        _ if in_box => FedBy::InjectorInBox,
        _ => FedBy::InjectorToBuy,
    })
}

/// The ports of every device that has some, or that something goes to.
#[must_use]
pub fn port_maps(setup: &Setup, catalogue: &Catalogue) -> Vec<PortMap> {
    setup.devices.iter().filter_map(|device| port_map(device, setup, catalogue)).collect()
}

fn port_map(device: &Device, setup: &Setup, catalogue: &Catalogue) -> Option<PortMap> {
    let kit = catalogue.kit(&device.kit.0)?;
    let hanging: Vec<&Device> = setup
        .devices
        .iter()
        .filter(|own| own.uplink.as_ref().is_some_and(|up| up.to == device.id && takes_port(&up.via)))
        .collect();
    if hanging.is_empty() && kit.facts.lan_ports.is_none_or(|ports| ports == 0) {
        return None;
    }
    let mut used: Vec<UsedPort> = Vec::new();
    let mut twice = None;
    let asked = |own: &Device| own.uplink.as_ref().and_then(|up| up.port);
    let mut ordered = hanging;
    // Those with a port of their choice first, then those that are fed, which take the ports that feed.
    let fed = |own: &Device| fed_by(own, setup, catalogue) == Some(FedBy::Port);
    ordered.sort_by_key(|own| (asked(own).is_none(), !fed(own)));
    for own in ordered {
        let free = |used: &[UsedPort]| (1..=255).find(|port| used.iter().all(|taken| taken.port != *port));
        let port = asked(own).or_else(|| free(&used)).unwrap_or(255);
        if used.iter().any(|taken| taken.port == port) {
            twice = Some(port);
        }
        used.push(UsedPort { port, device_id: own.id, name: own.name.clone(), feeds: fed(own) });
    }
    used.sort_by_key(|own| own.port);
    let needs_of = |own: &UsedPort| {
        let kit = setup.device(own.device_id).and_then(|own| catalogue.kit(&own.kit.0));
        kit.filter(|_| own.feeds).and_then(|kit| kit.facts.needs_w).unwrap_or_default()
    };
    let needs = used.iter().map(needs_of).sum::<Watts>();
    let (short, short_of_power) = short(device, kit, &used, needs, twice);
    Some(PortMap {
        device_id: device.id,
        name: device.name.clone(),
        ports: kit.facts.lan_ports,
        speed_mbps: kit.lan_port_mbps,
        feeds_w: kit.facts.feeds_w.filter(|_| kit.facts.feeding_ports > 0),
        needs_w: needs,
        short,
        short_of_power,
        used,
    })
}

/// What does not go, in one sentence, and whether that is power.
fn short(device: &Device, kit: &Kit, used: &[UsedPort], needs: Watts, twice: Option<u8>) -> (String, bool) {
    let name = &device.name;
    if let Some(port) = twice {
        return (format!("Two cables go to port {port} of {name}; give one of them another."), false);
    }
    if let Some(ports) = kit.facts.lan_ports
        && used.iter().any(|own| own.port > ports)
    {
        let told = match (ports, used.len()) {
            (0, _) => format!("{name} has no port towards the home, and {} to it.", go(used.len())),
            (_, cables) if cables <= usize::from(ports) => {
                format!("{name} has {}, and a cable goes to one beyond them.", counted(ports.into(), "port"))
            }
            _ => {
                format!(
                    "{name} has {} and {} to it: a switch makes more.",
                    counted(ports.into(), "port"),
                    go(used.len())
                )
            }
        };
        return (told, false);
    }
    let fed = used.iter().filter(|own| own.feeds).count();
    let told = match kit.facts.feeds_w {
        _ if fed > usize::from(kit.facts.feeding_ports) => {
            format!(
                "{fed} devices are to be fed by {name}, and {} of it feed.",
                counted(kit.facts.feeding_ports.into(), "port")
            )
        }
        Some(gives) if needs > gives => {
            format!("What {name} feeds needs up to {needs:.0}, and its ports give {gives:.0} together.")
        }
        _ => String::new(),
    };
    let of_power = !told.is_empty();
    (told, of_power)
}

fn go(cables: usize) -> String {
    if cables == 1 { "1 cable goes".into() } else { format!("{cables} cables go") }
}
