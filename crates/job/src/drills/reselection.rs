//! Which way devices of a mesh go once what they hung on is gone.
//!
//! A node that has lost its way takes the one on which a frame spends least airtime in sum: the airtime link metric of a mesh (IEEE Std
//! 802.11-2020, 14.9, from memory), here with what a hop carries in place of its link rate. Nodes whose way still stands keep it: common
//! practice. What is wired and has no radio that may carry an uplink waits for its cable.

use busy_hen_home::{DeviceId, Home, Mode, Setup, Uplink, Via};
use busy_hen_units::{Db, MbitPerSec};

use busy_hen_floorplan::Plan;
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::path::network::Network;
use busy_hen_predict::{Knowledge, Question, network_of};

/// A hop that carries less than this is none, Mb/s.
const HOLDS: f64 = 1.0;

/// A device that found another way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rejoined {
    /// The device.
    pub device: DeviceId,
    /// What it hangs on now.
    pub to: DeviceId,
    /// What that hop carries down.
    pub carries: MbitPerSec,
}

/// A setup as it stands after a failure.
#[derive(Debug, Clone, PartialEq)]
pub struct Standing {
    /// The devices that are still there, with their ways.
    pub setup: Setup,
    /// Those that took another way, the one that found it first leading.
    pub rejoined: Vec<Rejoined>,
    /// Those that are without one.
    pub lost: Vec<DeviceId>,
}

/// Whether a device looks for another way by itself.
fn seeks(mode: Mode) -> bool {
    matches!(mode, Mode::MeshNode | Mode::Repeater)
}

/// Whether a device takes another in: a mesh is one family, a repeater listens to anything that serves.
fn takes(upstream: Mode, own: Mode) -> bool {
    match own {
        Mode::MeshNode => matches!(upstream, Mode::Router | Mode::MeshNode),
        Mode::Repeater => upstream != Mode::Switch,
        _ => false,
    }
}

/// Ways of all devices once these hops are cut and this device is gone. Empty ways where it is the one at the line.
///
/// # Complexity
/// O(orphans^2 x devices) networks over losses that are known
#[must_use]
pub fn reselect(
    home: &Home,
    setup: &Setup,
    (gone, cut): (Option<DeviceId>, &[DeviceId]),
    (plan, question, kept): (&Plan, &Question, &Knowledge),
) -> Standing {
    let root = setup.root().map(|own| own.id).filter(|root| Some(*root) != gone);
    let (mut standing, mut orphans) = (Setup { devices: Vec::new(), ..setup.clone() }, Vec::new());
    for device in setup.devices.iter().filter(|own| Some(own.id) != gone) {
        match root {
            Some(root) if has_way(setup, device.id, root, (gone, cut)) => standing.devices.push(device.clone()),
            _ => orphans.push(device.clone()),
        }
    }
    let mut rejoined = Vec::new();
    loop {
        let tries = orphans.iter().enumerate().filter(|(_, own)| seeks(own.mode)).flat_map(|(index, own)| {
            let near = standing.devices.iter().filter(|upstream| takes(upstream.mode, own.mode));
            near.map(move |upstream| (index, upstream.id))
        });
        let found = kept.wanted(tries).filter_map(|(index, to)| {
            let mut tried = standing.clone();
            let mut device = orphans[index].clone();
            device.uplink = Some(Uplink::new(to, Via::BestRadio));
            let id = device.id;
            tried.devices.push(device);
            let network = network_of(home, &tried, plan, question, kept);
            let carries = hop_of(&network, id)?;
            Some((way(&network, id)?, tried, Rejoined { device: id, to, carries }))
        });
        // A way over something just joined is only as good as that something's own.
        let Some((_, tried, own)) = found.min_by(|a, b| a.0.total_cmp(&b.0)) else { break };
        standing = tried;
        orphans.retain(|orphan| orphan.id != own.device);
        rejoined.push(own);
        // What hangs on it by a wire comes along.
        while let Some(index) = orphans.iter().position(|orphan| {
            let up = orphan.uplink.as_ref().filter(|up| !up.via.is_radio() && !cut.contains(&orphan.id));
            up.is_some_and(|up| standing.device(up.to).is_some())
        }) {
            standing.devices.push(orphans.remove(index));
        }
    }
    // Devices stand in the order they had.
    standing.devices.sort_by_key(|own| setup.devices.iter().position(|device| device.id == own.id));
    Standing { setup: standing, rejoined, lost: orphans.into_iter().map(|own| own.id).collect() }
}

/// Whether the way of a device towards the line still stands.
fn has_way(setup: &Setup, device: DeviceId, root: DeviceId, (gone, cut): (Option<DeviceId>, &[DeviceId])) -> bool {
    let mut at = device;
    for _ in 0..=setup.devices.len() {
        if at == root {
            return true;
        }
        let up = setup.device(at).and_then(|own| own.uplink.as_ref());
        match up {
            Some(up) if !cut.contains(&at) && Some(up.to) != gone => at = up.to,
            _ => return false,
        }
    }
    false
}

/// What the hop of a device carries down; none where it holds nothing.
fn hop_of(network: &Network<'_>, device: DeviceId) -> Option<MbitPerSec> {
    let index = network.nodes.iter().position(|node| node.id == device)?;
    let carries = network.hop_goodput(index, Direction::Down, Db::new(0.0), &[]);
    (carries.get() >= HOLDS).then_some(carries)
}

/// Airtime of a device's way to the line, s/Mb; none where a hop of it holds nothing.
#[must_use]
pub fn way(network: &Network<'_>, device: DeviceId) -> Option<f64> {
    let mut at = network.nodes.iter().position(|node| node.id == device)?;
    let mut sum = 0.0;
    for _ in 0..network.nodes.len() {
        let Some(hop) = &network.nodes[at].uplink else { return Some(sum) };
        sum += 1.0 / hop_of(network, network.nodes[at].id)?.get();
        at = hop.to;
    }
    None
}
