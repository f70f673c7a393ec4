//! What may be wrong with radios: where they stand, how they hear, and on which channel.

use busy_hen_catalogue::kit::offered_channels;
use busy_hen_catalogue::spectrum::channels::THREE;
use busy_hen_catalogue::spectrum::{Block, block};
use busy_hen_home::{Band, Device, Enclosure, Mode, Position, Setup, Via};
use busy_hen_predict::needs::room_need;
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::path::hop::HopKind;
use busy_hen_radio::airtime::Air;
use busy_hen_units::{MbitPerSec, Megahertz, Metres};

use super::case::{Case, Found};
use super::rule::Rule;

const BANDS: [Band; 3] = [Band::Ghz2_4, Band::Ghz5, Band::Ghz6];
/// Two own devices nearer than this stand beside one another.
const BESIDE: Metres = Metres::new(2.0);
/// Share of airtime below which a channel is as good as free.
const FREE: f64 = 0.02;

pub(super) fn look(case: &Case<'_>, found: &mut Vec<Found>) {
    for (device, index) in case.devices() {
        enclosure(case, device, found);
        hop(case, device, index, found);
        for radio in 0..device.radios.len() {
            channel(case, device, radio, found);
        }
        switched_off(case, device, found);
    }
    one_channel(case, found);
    old_wifi(case, found);
    let serves = |device: &Device| device.radios.iter().any(|radio| radio.on && radio.serves);
    if !case.setup.devices.is_empty() && !case.setup.devices.iter().any(serves) {
        let mut setup = case.setup.clone();
        setup.devices.iter_mut().flat_map(|own| &mut own.radios).for_each(|radio| {
            (radio.on, radio.serves) = (true, true);
        });
        found.push(
            Found::new(Rule::NothingServes, None, "No radio of this setup serves phones.".into())
                .fix("switch them on", setup),
        );
    }
}

fn enclosure(case: &Case<'_>, device: &Device, found: &mut Vec<Found>) {
    if device.radios.iter().all(|radio| !radio.on) {
        return; // radios that are off lose nothing in a cabinet
    }
    let (rule, place) = match device.enclosure {
        Enclosure::Open => return,
        Enclosure::Cupboard => (Rule::Cupboard, "a cupboard"),
        Enclosure::MetalCabinet => (Rule::MetalCabinet, "a metal cabinet"),
    };
    let what = format!("{} stands in {place}.", device.name);
    let out = case.with(device, |own| own.enclosure = Enclosure::Open);
    found.push(Found::new(rule, Some(device), what).fix("take it out", out));
}

fn hop(case: &Case<'_>, device: &Device, index: usize, found: &mut Vec<Found>) {
    let (Some(hop), Some(uplink)) = (&case.network.nodes[index].uplink, &device.uplink) else { return };
    let Some(upstream) = case.setup.device(uplink.to) else { return };
    let midway = || case.with(device, |own| own.at = between(&upstream.at, &device.at));
    let name = &device.name;
    if device.mode == Mode::Repeater && upstream.mode == Mode::Repeater {
        let what = format!("{name} repeats what {} repeats.", upstream.name);
        let mut repair = Found::new(Rule::RepeaterChain, Some(device), what);
        if let Some(root) = case.setup.root() {
            let straight = case.with(device, |own| own.uplink.iter_mut().for_each(|up| up.to = root.id));
            repair = repair.fix(format!("let it hear {} itself", root.name), straight);
        }
        found.push(repair);
    }
    match &hop.kind {
        HopKind::Broken(why) => {
            let what = format!("{name} has no way to the router: {}.", why.in_words(name, &upstream.name));
            found.push(Found::new(Rule::DeadHop, Some(device), what).fix(
                "take the radio that holds best",
                case.with(device, |own| {
                    own.radios.iter_mut().for_each(|radio| radio.on = true);
                    own.uplink.iter_mut().for_each(|up| up.via = Via::BestRadio);
                }),
            ));
        }
        HopKind::Radio { block, shared, loss, table, .. } => {
            let passes = case.network.hop_goodput(index, Direction::Down, busy_hen_units::Db::new(0.0), &[]);
            let signal = table.at(*loss).rssi;
            let needed = needed_behind(case, device);
            if passes.get() <= 0.0 {
                let what = format!("{name} hears nothing of {} ({signal:.0}).", upstream.name);
                found.push(
                    Found::new(Rule::DeadHop, Some(device), what).fix("bring it half-way to the router", midway()),
                );
            } else if passes < needed {
                let what = format!(
                    "{name} hears {} at {signal:.0} and passes {passes:.0}; the rooms near it need {needed:.0}.",
                    upstream.name
                );
                found.push(
                    Found::new(Rule::WeakHop, Some(device), what).fix("bring it half-way to the router", midway()),
                );
            }
            if *shared {
                let what =
                    format!("{name} serves phones on the {} radio that carries its way to the router.", block.band);
                let spare = device.radios.iter().position(|radio| !radio.serves && radio.band != Band::Ghz2_4);
                let (words, via) = match spare {
                    Some(radio) => ("use the radio kept for backhaul", Via::Radio { radio }),
                    None => ("give it a cable", Via::cable(busy_hen_home::CableClass::Cat6)),
                };
                let mended = case.with(device, |own| own.uplink.iter_mut().for_each(|up| up.via = via.clone()));
                found.push(Found::new(Rule::SharedBackhaul, Some(device), what).fix(words, mended));
            }
            if block.band == Band::Ghz2_4 && device.radios.iter().any(|radio| radio.band != Band::Ghz2_4) {
                let what = format!("{name} reaches {} at 2.4 GHz.", upstream.name);
                let best = case.with(device, |own| {
                    own.radios.iter_mut().for_each(|radio| radio.on = true);
                    own.uplink.iter_mut().for_each(|up| up.via = Via::BestRadio);
                });
                found
                    .push(Found::new(Rule::SlowBandHop, Some(device), what).fix("take the band that holds best", best));
            }
            newer_behind_older(case, device, upstream, block.band, found);
            wont_pair(case, device, upstream, found);
        }
        HopKind::Wired { .. } => {}
    }
}

/// A mesh node that is to join what is not of its family.
fn wont_pair(case: &Case<'_>, device: &Device, upstream: &Device, found: &mut Vec<Found>) {
    let kit = |of: &Device| case.catalogue.kit(&of.kit.0).cloned();
    let family = |of: &Device| kit(of).and_then(|kit| kit.facts.steers_with.clone());
    if device.mode != Mode::MeshNode || family(device).is_some() && family(device) == family(upstream) {
        return;
    }
    let what =
        format!("{} is to join {} by radio and is not of its family: most won’t pair.", device.name, upstream.name);
    let mut found_so = Found::new(Rule::WontPair, Some(device), what);
    if kit(device).is_some_and(|kit| kit.modes.contains(&Mode::AccessPoint)) && case.home.brief.may_drill {
        let cabled = case.with(device, |own| {
            own.mode = Mode::AccessPoint;
            own.uplink.iter_mut().for_each(|up| up.via = Via::cable(busy_hen_home::CableClass::Cat6));
        });
        found_so = found_so.fix("make it an access point with a cable", cabled);
    }
    found.push(found_so);
}

fn newer_behind_older(case: &Case<'_>, device: &Device, upstream: &Device, band: Band, found: &mut Vec<Found>) {
    let generation = |of: &Device| {
        let node = case.network.nodes.iter().find(|node| node.id == of.id)?;
        node.kit.radios.iter().filter(|radio| radio.band == band).map(|radio| radio.generation).max()
    };
    let (Some(own), Some(theirs)) = (generation(device), generation(upstream)) else { return };
    if own > theirs {
        let what = format!("{} is newer than {}, which it hangs on by radio.", device.name, upstream.name);
        found.push(Found::new(Rule::NewerBehindOlder, Some(device), what));
    }
}

/// What the rooms need that lie nearer to this device than to any other of the setup.
fn needed_behind(case: &Case<'_>, device: &Device) -> MbitPerSec {
    let place = |own: &Device| case.plan.place(&own.at);
    let rooms = case.plan.rooms.iter().filter(|room| {
        let middle = case.plan.middle_of(room);
        let far = |own: &Device| place(own).map_or(f64::INFINITY, |at| at.distance(&middle).get());
        case.setup.devices.iter().all(|other| other.id == device.id || far(device) < far(other))
    });
    rooms
        .filter_map(|room| room_need(&case.home.brief, room.id, case.question.reach))
        .map(|need| need.down_mbps)
        .fold(MbitPerSec::default(), |sum, own| sum + own)
}

/// A place half-way from one device to another, on the storey of the second where they differ.
fn between(a: &Position, b: &Position) -> Position {
    let half = |a: Metres, b: Metres| a + (b - a) * 0.5;
    Position { x_m: half(a.x_m, b.x_m), y_m: half(a.y_m, b.y_m), ..*b }
}

/// Whether a radio works on its own channel, and not on that of the device upstream.
fn own_channel(device: &Device, radio: usize) -> bool {
    match device.uplink.as_ref().map(|uplink| &uplink.via) {
        Some(Via::Radio { radio: carries }) => *carries != radio,
        Some(Via::BestRadio) => false,
        _ => true,
    }
}

fn channel(case: &Case<'_>, device: &Device, index: usize, found: &mut Vec<Found>) {
    let radio = &device.radios[index];
    let Some(own) =
        block(radio.band, radio.channel, radio.width_mhz).filter(|_| radio.on && own_channel(device, index))
    else {
        return;
    };
    let (name, band) = (&device.name, radio.band);
    let outdoors = case.room_of(device).is_none_or(|room| room.outdoors);
    let legal = |width: Megahertz| case.region.map(|region| region.legal_primaries(band, width)).unwrap_or_default();
    let set = |channel: u16, width: Megahertz| {
        let mut setup = case.setup.clone();
        let devices = setup.devices.iter_mut().filter(|other| other.id == device.id);
        devices.flat_map(|own| own.radios.get_mut(index)).for_each(|radio| {
            (radio.channel, radio.width_mhz) = (channel, width);
        });
        setup
    };
    let able = able_width(case, device, index).unwrap_or(radio.width_mhz);
    let used = block(band, radio.channel, radio.width_mhz.min(able)).unwrap_or(own);
    if let Some(region) = case.region {
        // Where the device's own other radio is, this one would only share the air with it.
        let beside = device.radios.iter().enumerate().filter(|(other, own)| *other != index && own.on);
        let beside: Vec<Block> = beside.filter_map(|(_, own)| block(own.band, own.channel, own.width_mhz)).collect();
        let free = |channel: &u16| {
            block(band, *channel, radio.width_mhz).is_some_and(|other| {
                let barred = region.needs_dfs(&other) || outdoors && region.is_indoor_only(&other);
                !barred && !beside.iter().any(|own| own.overlaps(&other))
            })
        };
        let other = legal(radio.width_mhz).into_iter().find(free);
        if outdoors && region.is_indoor_only(&own) {
            let what = format!(
                "{name} stands outdoors on channel {} at {band}, which {} allows indoors only.",
                radio.channel, region.name
            );
            let mut wrong = Found::new(Rule::IndoorChannelOutdoors, Some(device), what);
            if let Some(other) = other {
                wrong = wrong.fix(format!("channel {other}"), set(other, radio.width_mhz));
            }
            found.push(wrong);
        } else if let Some((other, seconds)) =
            other.zip(region.radar_wait(&used).filter(|_| carries_something(case, device, index)))
        {
            let what = format!(
                "{name} is on channel {} at {band}, which radar has first call on: {seconds} s of listening.",
                radio.channel
            );
            // Where the country offers nothing else as wide, it is no mistake to be there.
            let bound = Found::new(Rule::RadarBound, Some(device), what);
            found.push(bound.fix(format!("channel {other}"), set(other, radio.width_mhz)));
        }
    }
    let twenty = Megahertz::new(20.0);
    let takes =
        |own: &Block| Air::on(own, &case.home.air).turns.iter().map(|turn| turn.part).fold(0.0, |sum, part| sum + part);
    let quietest = |channels: &[u16], width: Megahertz| {
        let blocks = channels.iter().filter_map(|channel| Some((*channel, block(band, *channel, width)?)));
        blocks.map(|(channel, own)| (channel, takes(&own))).min_by(|a, b| a.1.total_cmp(&b.1))
    };
    if band == Band::Ghz2_4 {
        let best = quietest(&THREE, twenty).map_or(radio.channel, |(channel, _)| channel);
        if radio.width_mhz > twenty {
            let what = format!("{name} is {:.0} wide at 2.4 GHz.", radio.width_mhz);
            found.push(Found::new(Rule::WideIn2_4, Some(device), what).fix("20 MHz", set(best, twenty)));
        } else if !THREE.contains(&radio.channel) {
            let what = format!("{name} is on channel {} at 2.4 GHz, between 1, 6 and 11.", radio.channel);
            found.push(
                Found::new(Rule::BetweenChannels, Some(device), what).fix(format!("channel {best}"), set(best, twenty)),
            );
        }
    }
    let offered =
        |width: Megahertz| case.region.map(|own| offered_channels(own, band, width, outdoors)).unwrap_or_default();
    if let Some((channel, part)) = quietest(&offered(radio.width_mhz), radio.width_mhz) {
        let now = takes(&own);
        if now > part + FREE {
            let what = format!(
                "Neighbours take {:.0} % of channel {} at {band}, where {name} is, and {:.0} % of channel {channel}.",
                100.0 * now,
                radio.channel,
                100.0 * part
            );
            let quiet = set(channel, radio.width_mhz);
            found.push(Found::new(Rule::BusyChannel, Some(device), what).fix(format!("channel {channel}"), quiet));
        }
    }
    narrow(case, device, index, found, &|width| {
        quietest(&offered(width), width).map(|(channel, _)| set(channel, width))
    });
}

/// The widest channel that a radio can use.
fn able_width(case: &Case<'_>, device: &Device, index: usize) -> Option<Megahertz> {
    let node = case.network.nodes.iter().find(|node| node.id == device.id)?;
    node.kit.radios.get(index).map(|own| own.max_width_mhz)
}

/// Whether a radio serves phones, or carries the way of a device behind it.
fn carries_something(case: &Case<'_>, device: &Device, index: usize) -> bool {
    let radio = &device.radios[index];
    let own = block(radio.band, radio.channel, radio.width_mhz);
    let carries = |hop: &busy_hen_predict::path::hop::Hop| {
        let HopKind::Radio { block, .. } = &hop.kind else { return false };
        case.network.nodes[hop.to].id == device.id && own.is_some_and(|own| own.overlaps(block))
    };
    radio.serves || case.network.nodes.iter().filter_map(|node| node.uplink.as_ref()).any(carries)
}

/// A radio on a narrower channel than it can.
fn narrow(
    case: &Case<'_>,
    device: &Device,
    index: usize,
    found: &mut Vec<Found>,
    widened: &dyn Fn(Megahertz) -> Option<Setup>,
) {
    let radio = &device.radios[index];
    let most = Megahertz::new(80.0);
    let able = able_width(case, device, index).unwrap_or(most);
    if radio.band == Band::Ghz2_4 || radio.width_mhz >= able.min(most) {
        return;
    }
    let wide = able.min(most);
    let what = format!("{} is {:.0} wide at {}, and can {wide:.0}.", device.name, radio.width_mhz, radio.band);
    if let Some(setup) = widened(wide) {
        found.push(Found::new(Rule::NarrowChannel, Some(device), what).fix(format!("{wide:.0} wide"), setup));
    }
}

fn switched_off(case: &Case<'_>, device: &Device, found: &mut Vec<Found>) {
    let serves_else = device.radios.iter().any(|radio| radio.on && radio.serves);
    for (index, radio) in device.radios.iter().enumerate() {
        if radio.on || !serves_else {
            continue;
        }
        let what = format!("The {} radio of {} is off.", radio.band, device.name);
        let on = case.with(device, |own| {
            let radio = &mut own.radios[index];
            (radio.on, radio.serves) = (true, true);
        });
        found.push(Found::new(Rule::RadioOff, Some(device), what).fix("switch it on", on));
    }
}

/// Own cabled devices that serve on overlapping channels.
fn one_channel(case: &Case<'_>, found: &mut Vec<Found>) {
    let serving = |device: &Device| -> Vec<(usize, Block)> {
        let wired = device.uplink.as_ref().is_none_or(|uplink| !uplink.via.is_radio());
        let radios = device.radios.iter().enumerate().filter(|(_, radio)| wired && radio.on && radio.serves);
        radios.filter_map(|(at, radio)| Some((at, block(radio.band, radio.channel, radio.width_mhz)?))).collect()
    };
    let all: Vec<(&Device, Vec<(usize, Block)>)> =
        case.setup.devices.iter().map(|device| (device, serving(device))).collect();
    for (index, (device, blocks)) in all.iter().enumerate() {
        for (other, theirs) in &all[..index] {
            let clash = blocks.iter().filter(|(_, own)| theirs.iter().any(|(_, other)| own.overlaps(other)));
            let clashes: Vec<&(usize, Block)> = clash.collect();
            if clashes.is_empty() {
                continue;
            }
            let bands: Vec<String> = BANDS
                .iter()
                .filter(|band| clashes.iter().any(|own| own.1.band == **band))
                .map(Band::to_string)
                .collect();
            let what = format!(
                "{} and {} serve on one channel at {} and take turns there.",
                other.name,
                device.name,
                bands.join(" and ")
            );
            let taken: Vec<Block> = all
                .iter()
                .filter(|(own, _)| own.id != device.id)
                .flat_map(|(_, own)| own.iter().map(|one| one.1))
                .collect();
            let outdoors = case.room_of(device).is_none_or(|room| room.outdoors);
            let apart = case.with(device, |own| {
                for (at, _) in &clashes {
                    let radio = &mut own.radios[*at];
                    let of = (radio.band, radio.width_mhz);
                    radio.channel = apart_from(case, outdoors, of, &taken).unwrap_or(radio.channel);
                }
            });
            let mut one = Found::new(Rule::OneChannel, Some(device), what);
            if apart != *case.setup {
                one = one.fix(format!("set {} to another", device.name), apart);
            }
            found.push(one);
        }
    }
}

/// A legal channel that overlaps none of these, without radar where there is one.
fn apart_from(case: &Case<'_>, outdoors: bool, (band, width): (Band, Megahertz), taken: &[Block]) -> Option<u16> {
    let region = case.region?;
    let apart = offered_channels(region, band, width, outdoors)
        .into_iter()
        .filter_map(|channel| Some((channel, block(band, channel, width)?)));
    let mut apart = apart.filter(|(_, own): &(u16, Block)| !taken.iter().any(|other| own.overlaps(other)));
    apart.next().map(|(channel, _)| channel)
}

/// A router at the line that serves beside a device which does so too and better.
fn old_wifi(case: &Case<'_>, found: &mut Vec<Found>) {
    let Some(root) = case.setup.root() else { return };
    let on = |device: &Device| device.radios.iter().any(|radio| radio.on && radio.serves);
    if !on(root) {
        return;
    }
    let newest = |device: &Device| {
        let node = case.network.nodes.iter().find(|node| node.id == device.id);
        node.and_then(|node| node.kit.radios.iter().map(|radio| radio.generation).max())
    };
    let beside = case.devices().find(|(device, _)| {
        let near = case.plan.place(&root.at).zip(case.plan.place(&device.at));
        device.id != root.id
            && on(device)
            && newest(device) > newest(root)
            && near.is_some_and(|(a, b)| a.distance(&b) <= BESIDE)
    });
    if let Some((device, _)) = beside {
        let what = format!("The Wi-Fi of {} is still on beside {}.", root.name, device.name);
        let off = case.with(root, |own| own.radios.iter_mut().for_each(|radio| radio.on = false));
        found.push(
            Found::new(Rule::OldWifiOn, Some(root), what).fix(format!("switch off the Wi-Fi of {}", root.name), off),
        );
    }
}
