//! What is worth knowing of a setup before anyone drills or buys: mistakes that practice keeps meeting, and cautions for safety.

use busy_hen_home::{Band, Device, DeviceId, Enclosure, Home, Mode, PowerLineClass, Setup, Steering, Via};
use serde::Serialize;
use utoipa::ToSchema;

use crate::geometry::Plan;
use crate::path::pairs::{PowerLine, coax_loss};
use crate::spectrum::{Block, Region, block, region};

/// Kind of caution.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CautionKind {
    /// Someone may get hurt, or break the law.
    Safety,
    /// It will work worse than it looks.
    Craft,
}

/// Something worth knowing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Caution {
    /// Kind of caution.
    pub kind: CautionKind,
    /// The device it is about; none when it is about the setup.
    pub device: Option<DeviceId>,
    /// One sentence or two: what, and what to do.
    pub message: String,
}

const BANDS: [Band; 3] = [Band::Ghz2_4, Band::Ghz5, Band::Ghz6];

/// Loss beyond which a coax pair begins to slow down, dB (engineering estimate, as the pair's own).
const COAX_SOUND_DB: f64 = 50.0;

/// Everything worth knowing of a setup, safety first.
///
/// # Source
/// Common practice; radio rules from [`crate::spectrum::region`].
#[must_use]
pub fn cautions(home: &Home, setup: &Setup, plan: &Plan) -> Vec<Caution> {
    let mut list = Vec::new();
    let region = region::find(&home.region);
    for device in &setup.devices {
        of_device(device, setup, home, plan, &mut list);
        if let Some(region) = region {
            of_radios(device, region, plan, &mut list);
        }
    }
    let serving = setup.devices.iter().filter(|device| device.radios.iter().any(|radio| radio.on && radio.serves));
    if serving.count() > 1 && setup.steering != Steering::Guided {
        let message = match setup.steering {
            Steering::OneName => {
                "Several devices share a name and none guides: phones cling to the router until its signal is poor."
            }
            _ => "Every device has a name of its own: phones stay on the router's until it is gone.",
        };
        list.push(Caution { kind: CautionKind::Craft, device: None, message: message.to_owned() });
    }
    one_channel(setup, &mut list);
    list.sort_by_key(|caution| caution.kind);
    list
}

/// Own devices that serve on overlapping channels of their own choice: they take turns where they hear each other.
fn one_channel(setup: &Setup, list: &mut Vec<Caution>) {
    let serving = |device: &'_ Device| -> Vec<Block> {
        let wired = device.uplink.as_ref().is_none_or(|uplink| !uplink.via.is_radio());
        let radios = device.radios.iter().filter(|radio| wired && radio.on && radio.serves);
        radios.filter_map(|radio| block(radio.band, radio.channel, radio.width_mhz)).collect()
    };
    let all: Vec<(&Device, Vec<Block>)> = setup.devices.iter().map(|device| (device, serving(device))).collect();
    for (index, (device, blocks)) in all.iter().enumerate() {
        for (other, theirs) in &all[..index] {
            let shared: Vec<String> = BANDS
                .iter()
                .filter(|band| {
                    let here =
                        |list: &[Block]| list.iter().filter(|own| own.band == **band).copied().collect::<Vec<_>>();
                    let (a, b) = (here(blocks), here(theirs));
                    a.iter().any(|own| b.iter().any(|other| own.overlaps(other)))
                })
                .map(ToString::to_string)
                .collect();
            if !shared.is_empty() {
                let message = format!(
                    "{} and {} both serve on one channel at {}: they take turns there; set one of them to another.",
                    other.name,
                    device.name,
                    shared.join(" and ")
                );
                list.push(Caution { kind: CautionKind::Craft, device: Some(device.id), message });
            }
        }
    }
}

fn of_device(device: &Device, setup: &Setup, home: &Home, plan: &Plan, list: &mut Vec<Caution>) {
    let name = &device.name;
    let mut say = |kind, message: String| list.push(Caution { kind, device: Some(device.id), message });
    let outdoors = stands_outdoors(device, plan);
    if outdoors {
        say(
            CautionKind::Safety,
            format!(
                "{name} stands outdoors: use kit made for it, keep off roofs and ladders alone, and have mains and lightning \
                 protection done by a licensed electrician to local codes."
            ),
        );
    }
    match device.enclosure {
        // Radios that are off lose nothing in a cabinet.
        Enclosure::MetalCabinet if device.radios.iter().all(|radio| !radio.on) => {}
        Enclosure::MetalCabinet => {
            say(
                CautionKind::Craft,
                format!("{name} stands in a metal cabinet, which takes most of its signal; move it out."),
            );
        }
        Enclosure::Cupboard => {
            say(CautionKind::Craft, format!("{name} stands in a cupboard: leave it air, it runs warm."));
        }
        Enclosure::Open => {}
    }
    let Some(uplink) = &device.uplink else { return };
    let upstream = setup.device(uplink.to);
    if device.mode == Mode::Router {
        let other = upstream.map_or("the router", |upstream| upstream.name.as_str());
        say(
            CautionKind::Craft,
            format!(
                "{name} routes again behind {other}: addresses are translated twice, and neither side can be reached from the \
                 other. Set one of them to pass everything on unless two separate networks are wanted."
            ),
        );
    }
    if device.mode == Mode::Repeater && upstream.is_some_and(|upstream| upstream.mode == Mode::Repeater) {
        say(CautionKind::Craft, format!("{name} repeats a repeater: each repeat halves what is left."));
    }
    match &uplink.via {
        Via::Cable { .. } => {
            if home.brief.tenure == busy_hen_home::Tenure::Rented || !home.brief.may_drill {
                say(
                    CautionKind::Safety,
                    format!(
                        "The cable to {name} may need drilling: ask the owner, and look for wires and pipes first."
                    ),
                );
            }
        }
        Via::Coax { length_m, splitters, .. } => {
            let loss = coax_loss(*length_m, *splitters);
            if loss.get() > COAX_SOUND_DB {
                say(
                    CautionKind::Craft,
                    format!("The coax to {name} loses {loss:.0}: take out splitters that nothing hangs on."),
                );
            }
            say(
                CautionKind::Craft,
                format!("The coax pair to {name} needs a filter where the line enters, or neighbours hear it."),
            );
        }
        Via::PowerLine { .. } => {
            let Some(pair) = PowerLine::of(&uplink.via) else { return };
            power_line(name, &pair, home, &mut say);
        }
        Via::Radio { .. } | Via::BestRadio => {}
    }
}

fn power_line(name: &str, pair: &PowerLine, home: &Home, say: &mut impl FnMut(CautionKind, String)) {
    say(
        CautionKind::Safety,
        format!(
            "The power-line pair to {name} hangs on the mains: use sound wall outlets and open none; anything behind the \
             outlet is for a licensed electrician."
        ),
    );
    if pair.strips > 0 {
        say(
            CautionKind::Craft,
            format!("Plug both power-line adapters of {name} into the wall, not into a power strip."),
        );
    }
    let goodput = pair.goodput();
    if home.brief.plans.iter().any(|plan| plan.down_mbps > goodput) {
        let slow = matches!(pair.class, PowerLineClass::Sold200 | PowerLineClass::Sold500);
        let why = if slow { "it is of a slow class" } else { "of the wiring between its outlets" };
        let because = if slow { "since" } else { "because" };
        say(
            CautionKind::Craft,
            format!("The power-line pair to {name} passes {goodput:.0}, less than the plan, {because} {why}."),
        );
    }
}

fn of_radios(device: &Device, region: &Region, plan: &Plan, list: &mut Vec<Caution>) {
    let outdoors = stands_outdoors(device, plan);
    let mut waits = Vec::new();
    // A radio that carries the uplink works on the channel upstream, not on its own setting.
    let follows = |index: usize| match device.uplink.as_ref().map(|uplink| &uplink.via) {
        Some(Via::Radio { radio }) => *radio == index,
        Some(Via::BestRadio) => true,
        _ => false,
    };
    let own = device.radios.iter().enumerate().filter(|(index, radio)| radio.on && !follows(*index));
    for (_, radio) in own {
        let Some(block) = block(radio.band, radio.channel, radio.width_mhz) else { continue };
        let (name, band, channel) = (&device.name, radio.band, radio.channel);
        let mut say = |kind, message| list.push(Caution { kind, device: Some(device.id), message });
        if outdoors && region.is_indoor_only(&block) {
            say(
                CautionKind::Safety,
                format!(
                    "{name} stands outdoors, where channel {channel} in {band} is not allowed in {}; choose another.",
                    region.name
                ),
            );
        }
        if let Some(seconds) = region.radar_wait(&block) {
            waits.push(format!("{seconds} s on channel {channel}"));
        }
    }
    if !waits.is_empty() {
        let message = format!(
            "{} shares spectrum with radar: it listens {} before it sends, and leaves when it hears one.",
            device.name,
            waits.join(", ")
        );
        list.push(Caution { kind: CautionKind::Craft, device: Some(device.id), message });
    }
}

/// Whether the device stands in an outdoor area or outside of all rooms.
fn stands_outdoors(device: &Device, plan: &Plan) -> bool {
    let Some(level) = plan.level_index(device.at.level_id) else { return false };
    plan.room_at(level, device.at.x_m.get(), device.at.y_m.get()).is_none_or(|room| room.outdoors)
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::{Circuit, SetupId, Uplink};
    use busy_hen_units::Metres;

    fn told(change: impl FnOnce(&mut Home)) -> Vec<String> {
        let mut home = busy_hen_demo::canal_terrace();
        home.setups.retain(|setup| setup.id == SetupId::named("B"));
        change(&mut home);
        let plan = Plan::new(&home.house, home.units);
        cautions(&home, &home.setups[0], &plan).into_iter().map(|caution| caution.message).collect()
    }

    fn has(list: &[String], words: &str) -> bool {
        list.iter().any(|message| message.contains(words))
    }

    #[test]
    fn the_mistakes_of_practice_are_told() {
        assert!(has(&told(|home| home.setups[0].devices[0].enclosure = Enclosure::MetalCabinet), "metal cabinet"));
        assert!(has(&told(|home| home.setups[0].devices[1].mode = Mode::Router), "translated twice"));
        assert!(has(&told(|home| home.setups[0].steering = Steering::OneName), "cling"));
        assert!(!has(&told(|_| {}), "translated twice"));
    }

    #[test]
    fn a_power_line_pair_brings_its_cautions_along() {
        let list = told(|home| {
            let to = home.setups[0].devices[0].id;
            let via = Via::PowerLine {
                class: PowerLineClass::Sold500,
                length_m: Metres::new(20.0),
                circuit: Circuit::Other,
                strips: 1,
                noisy: false,
                reported_mbps: None,
            };
            home.setups[0].devices[1].uplink = Some(Uplink { to, via });
        });
        assert!(has(&list, "licensed electrician") && has(&list, "power strip") && has(&list, "less than the plan"));
        assert!(list[0].contains("mains"), "safety first: {list:?}");
    }

    #[test]
    fn only_what_holds_is_told() {
        let off = told(|home| {
            let router = &mut home.setups[0].devices[0];
            router.enclosure = Enclosure::MetalCabinet;
            router.radios.iter_mut().for_each(|radio| radio.on = false);
        });
        assert!(!has(&off, "metal cabinet"), "its radios are off: {off:?}");
        let following = told(|home| {
            let radio = home.setups[0].devices[1].radios.iter_mut().rfind(|radio| radio.band == Band::Ghz5);
            radio.unwrap().channel = 100;
        });
        assert!(!has(&following, "radar"), "the uplink follows the router's channel 36: {following:?}");
        let cabled = |home: &mut Home| {
            let to = home.setups[0].devices[0].id;
            let node = &mut home.setups[0].devices[1];
            node.mode = Mode::AccessPoint;
            node.uplink = Some(Uplink { to, via: Via::Cable { class: busy_hen_home::CableClass::Cat6 } });
        };
        assert!(has(&told(cabled), "take turns there"), "{:?}", told(cabled));
        let apart = told(|home| {
            cabled(home);
            home.setups[0].devices[1].radios[0].channel = 11;
            home.setups[0].devices[1].radios[1].channel = 149;
        });
        assert!(!has(&apart, "take turns there"), "{apart:?}");
    }

    #[test]
    fn an_indoor_channel_out_in_the_garden_is_told() {
        let list = told(|home| home.setups[0].devices[0].at.y_m = Metres::new(15.0));
        assert!(has(&list, "not allowed in United Kingdom"), "{list:?}");
    }
}
