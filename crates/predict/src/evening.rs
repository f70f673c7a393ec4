//! The busy evening as one picture: who takes what of the plan, and of each channel's airtime, while all of it overlaps.

use busy_hen_catalogue::spectrum::Block;
use busy_hen_home::{DeviceId, RoomId, Situation};
use busy_hen_radio::airtime::neighbours::Turn;
use busy_hen_units::MbitPerSec;
use serde::Serialize;
use utoipa::ToSchema;

use super::Model;
use crate::needs::busy_need;
use crate::path::hop::HopKind;

/// The busy evening of a setup.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Evening {
    /// Rooms in which something goes on, in the order of the house.
    pub rooms: Vec<BusyRoom>,
    /// Download that the plan in force gives, and what is asked of it.
    pub plan_down: Option<Taken>,
    /// Upload likewise.
    pub plan_up: Option<Taken>,
    /// Channels that anything goes by, the fullest first.
    pub channels: Vec<BusyChannel>,
    /// What wiring things that stand still would free, most first.
    pub frees: Vec<Frees>,
    /// The whole of it in a sentence or two.
    pub told: String,
}

/// A room in which something goes on.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BusyRoom {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// Download it asks for.
    pub down_mbps: MbitPerSec,
    /// Upload it asks for.
    pub up_mbps: MbitPerSec,
    /// The device that serves it; none where nothing reaches.
    pub served_by: Option<DeviceId>,
    /// Its name.
    pub served_by_name: String,
}

/// A resource, and what is asked of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Taken {
    /// What there is.
    pub gives_mbps: MbitPerSec,
    /// What is asked of it by each room, as a part of what there is.
    pub parts: Vec<RoomPart>,
    /// All of it together; over 1 is more than there is.
    pub sum: f64,
}

/// What a room asks of a resource.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RoomPart {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// Part of the resource.
    pub part: f64,
}

/// A channel, or several that overlap, with what is asked of its airtime.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BusyChannel {
    /// Band, channels and the devices that use it, in words.
    pub name: String,
    /// What each room's traffic takes, over all hops that it makes here.
    pub parts: Vec<RoomPart>,
    /// What neighbours take.
    pub neighbours: f64,
    /// All of it together; over 1 is more than there is.
    pub sum: f64,
}

/// What a cable to things that stand still in a room would free of a channel.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Frees {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// What stands still there.
    pub what: String,
    /// The channel.
    pub channel: String,
    /// Part of its airtime.
    pub part: f64,
}

/// Channels that overlap, directly or by way of each other.
struct Group {
    blocks: Vec<Block>,
}

impl Group {
    fn holds(&self, block: &Block) -> bool {
        self.blocks.iter().any(|own| own.overlaps(block))
    }
}

impl Model<'_> {
    /// The busy evening; none when the model is asked about a client alone.
    #[must_use]
    pub fn evening(&self) -> Option<Evening> {
        if self.question.situation != Situation::BusyEvening {
            return None;
        }
        let demands = self.evaluator.demands();
        let rooms = || self.plan.rooms.iter().zip(demands).filter_map(|(room, demand)| Some((room, demand.as_ref()?)));
        let network = self.network();
        let busy: Vec<BusyRoom> = self
            .plan
            .rooms
            .iter()
            .zip(demands)
            .filter_map(|(room, demand)| {
                let need = busy_need(&self.home.brief, room.id, self.question.reach)?;
                let node = demand.as_ref().map(|own| &network.nodes[own.node]);
                Some(BusyRoom {
                    room_id: room.id,
                    name: room.name.clone(),
                    down_mbps: need.down_mbps,
                    up_mbps: need.up_mbps,
                    served_by: node.map(|node| node.id),
                    served_by_name: node.map_or_else(String::new, |node| node.name.clone()),
                })
            })
            .collect();
        let of_plan = |gives: MbitPerSec, asks: &dyn Fn(&crate::path::demand::Demand) -> MbitPerSec| {
            let parts: Vec<RoomPart> = rooms()
                .map(|(room, demand)| RoomPart {
                    room_id: room.id,
                    name: room.name.clone(),
                    part: asks(demand).get() / gives.get().max(1e-6),
                })
                .filter(|own| own.part > 0.0)
                .collect();
            Taken { gives_mbps: gives, sum: parts.iter().map(|own| own.part).sum(), parts }
        };
        let (plan_down, plan_up) = network.plan.unzip();
        let plan_down = plan_down.map(|gives| of_plan(gives, &|demand| demand.down));
        let plan_up = plan_up.map(|gives| of_plan(gives, &|demand| demand.up));
        let channels = self.busy_channels();
        let frees = self.frees(&channels);
        Some(Evening {
            told: in_words(plan_down.as_ref(), plan_up.as_ref(), &channels),
            rooms: busy,
            plan_down,
            plan_up,
            channels,
            frees,
        })
    }

    fn busy_channels(&self) -> Vec<BusyChannel> {
        let demands = self.evaluator.demands();
        let mut groups: Vec<Group> = Vec::new();
        for (block, _) in demands.iter().flatten().flat_map(|own| &own.airtime) {
            let mut joined = Group { blocks: vec![*block] };
            while let Some(index) = groups.iter().position(|own| joined.blocks.iter().any(|block| own.holds(block))) {
                joined.blocks.extend(groups.remove(index).blocks);
            }
            groups.push(joined);
        }
        let mut channels: Vec<BusyChannel> = groups.iter().map(|group| self.busy_channel(group)).collect();
        channels.sort_by(|a, b| b.sum.total_cmp(&a.sum).then_with(|| a.name.cmp(&b.name)));
        channels
    }

    fn busy_channel(&self, group: &Group) -> BusyChannel {
        let demands = self.evaluator.demands();
        let of_rooms = self.plan.rooms.iter().zip(demands).filter_map(|(room, demand)| {
            let here = demand.as_ref()?.airtime.iter().filter(|(block, _)| group.holds(block));
            let part = here.map(|(_, part)| part).sum::<f64>();
            (part > 0.0).then(|| RoomPart { room_id: room.id, name: room.name.clone(), part })
        });
        let parts: Vec<RoomPart> = of_rooms.collect();
        let neighbours = self.turns(group).iter().map(|turn| turn.part).sum::<f64>();
        BusyChannel {
            name: self.channel_name(group),
            sum: parts.iter().map(|own| own.part).sum::<f64>() + neighbours,
            parts,
            neighbours,
        }
    }

    /// Neighbours that take turns on any channel of a group, each once.
    fn turns(&self, group: &Group) -> Vec<Turn> {
        let network = self.network();
        let hops = network.nodes.iter().filter_map(|node| match &node.uplink.as_ref()?.kind {
            HopKind::Radio { block, air, .. } => Some((block, air)),
            _ => None,
        });
        let accesses = self.evaluator.accesses.iter().map(|access| (&access.block, &access.air));
        let mut list: Vec<Turn> = Vec::new();
        for turn in accesses.chain(hops).filter(|(block, _)| group.holds(block)).flat_map(|(_, air)| air.turns.iter()) {
            if list.iter().all(|own| own.neighbour != turn.neighbour) {
                list.push(*turn);
            }
        }
        list
    }

    fn channel_name(&self, group: &Group) -> String {
        let mut used: Vec<(u16, &str)> = Vec::new();
        for node in &self.network().nodes {
            for radio in node.radios.iter().filter(|radio| radio.on && group.holds(&radio.block)) {
                used.push((radio.block.centre_channel, node.name.as_str()));
            }
        }
        let (first, last) = group.blocks.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), block| {
            let (centre, half) = (block.centre.get(), block.width.get() / 2.0);
            (low.min(centre - half), high.max(centre + half))
        });
        let mut names: Vec<&str> = used.iter().map(|(_, name)| *name).collect();
        names.dedup();
        let band = group.blocks[0].band;
        format!("{band}, {first:.0} to {last:.0} MHz: {}", names.join(", "))
    }

    /// What wiring things that stand still would free of the channels their rooms go by.
    fn frees(&self, channels: &[BusyChannel]) -> Vec<Frees> {
        let mut list = Vec::new();
        for device in self.home.brief.devices.iter().filter(|own| own.fixed) {
            let Some(room_id) = device.room_id else { continue };
            for channel in channels {
                let Some(own) = channel.parts.iter().find(|own| own.room_id == room_id) else { continue };
                let what = if device.name.trim().is_empty() { "what stands still" } else { device.name.trim() };
                if list.iter().any(|known: &Frees| known.room_id == room_id && known.channel == channel.name) {
                    continue;
                }
                list.push(Frees {
                    room_id,
                    name: own.name.clone(),
                    what: what.into(),
                    channel: channel.name.clone(),
                    part: own.part,
                });
            }
        }
        list.sort_by(|a, b| b.part.total_cmp(&a.part));
        list
    }
}

fn percent(part: f64) -> String {
    format!("{:.0} %", part * 100.0)
}

fn in_words(down: Option<&Taken>, up: Option<&Taken>, channels: &[BusyChannel]) -> String {
    let mut parts = Vec::new();
    let mut of_plan = |name: &str, taken: Option<&Taken>| {
        if let Some(taken) = taken {
            let too_much = if taken.sum > 1.0 { ", more than there is" } else { "" };
            parts.push(format!("{} of the {name}{too_much}", percent(taken.sum)));
        }
    };
    of_plan("download", down);
    of_plan("upload", up);
    let line = if parts.is_empty() { String::new() } else { format!("All at once ask {}. ", parts.join(" and ")) };
    let air = match channels.first() {
        None => "Nothing goes by air.".into(),
        Some(fullest) if fullest.sum > 1.0 => format!(
            "The air is too full on {}: {} of its time is asked for, so all wait there.",
            fullest.name,
            percent(fullest.sum)
        ),
        Some(fullest) => format!("The fullest air is {}: {} of its time is taken.", fullest.name, percent(fullest.sum)),
    };
    line + &air
}
