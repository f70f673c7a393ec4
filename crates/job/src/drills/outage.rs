//! What a single failure will do: which way nodes go, and what each room keeps.

use busy_hen_floorplan::Plan;
use busy_hen_home::{Device, DeviceId, Failure, Home, Plan as LinePlan, RoomId, SecondLineUse, Setup, TestKind};
use busy_hen_predict::ledger::{LedgerRow, Measured};
use busy_hen_predict::needs::Verdict;
use busy_hen_predict::path::chain::figure;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::MbitPerSec;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use super::reselection::{Standing, reselect};
use crate::fitting::old_devices;

/// What a room keeps.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Keeps {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// Download before, at its worst spot.
    pub before_mbps: MbitPerSec,
    /// Download while it lasts.
    pub left_mbps: MbitPerSec,
    /// Whether what the room needs is still met; none where it needs nothing.
    pub met: Option<bool>,
    /// Whether it was met before.
    pub was_met: Option<bool>,
    /// Whether it loses enough to speak of: a tenth.
    pub loses: bool,
}

/// A device that goes another way.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct OtherWay {
    /// The device.
    pub device_id: DeviceId,
    /// What it then hangs on.
    pub to: DeviceId,
    /// What that hop carries.
    pub carries_mbps: MbitPerSec,
}

/// What a failure will do.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Outage {
    /// The failure.
    pub failure: Failure,
    /// What is done, in words: "pull the power of Landing node".
    pub doing: String,
    /// What is to be seen, in sentences.
    pub told: Vec<String>,
    /// Devices that go another way, the first to find it leading.
    pub rejoined: Vec<OtherWay>,
    /// Devices that find none.
    pub lost: Vec<DeviceId>,
    /// Whether a second line takes over by itself.
    pub takes_over: bool,
    /// What each room keeps, the one that loses most first.
    pub rooms: Vec<Keeps>,
}

/// All that can fail by itself in a setup.
#[must_use]
pub fn failures(home: &Home, setup: &Setup) -> Vec<Failure> {
    let nodes = || setup.devices.iter().filter(|own| own.uplink.is_some());
    let mut list: Vec<Failure> = nodes().map(|own| Failure::Power { device: own.id }).collect();
    if nodes().count() > 1 {
        list.push(Failure::AllNodes);
    }
    let wired = nodes().filter(|own| own.uplink.as_ref().is_some_and(|up| !up.via.is_radio()));
    list.extend(wired.map(|own| Failure::Backhaul { device: own.id }));
    list.extend(setup.root().map(|own| Failure::Power { device: own.id }));
    list.extend([Failure::Line, Failure::Everything]);
    list.extend(forgotten(home, setup).map(|own| Failure::OldNetwork { device: own.id }));
    list
}

/// What a room must keep of its speed not to be spoken of.
const SPOKEN_OF: f64 = 0.9;

/// What is asked with: the house, the question, and what was worked out before.
pub type Asked<'a> = (&'a Plan, &'a Question, &'a Knowledge);

fn ledger(home: &Home, setup: &Setup, (plan, question, kept): Asked<'_>) -> Vec<LedgerRow> {
    Model::new(home, setup, plan, *question, kept).ledger(&Measured::default())
}

/// What each single failure of a setup will do.
///
/// # Complexity
/// As [`rejoin`], and a ledger, for each failure
#[must_use]
pub fn outages(home: &Home, setup: &Setup, asked: Asked<'_>) -> Vec<Outage> {
    let before = ledger(home, setup, asked);
    let each = asked.2.wanted(failures(home, setup));
    each.filter_map(|failure| outage_of(home, setup, failure, asked, &before)).collect()
}

/// What one failure will do. None where it is of a device that is not in the setup.
#[must_use]
pub fn outage(home: &Home, setup: &Setup, failure: Failure, asked: Asked<'_>) -> Option<Outage> {
    outage_of(home, setup, failure, asked, &ledger(home, setup, asked))
}

fn outage_of(home: &Home, setup: &Setup, failure: Failure, asked: Asked<'_>, before: &[LedgerRow]) -> Option<Outage> {
    let anywhere = |id: DeviceId| home.setups.iter().find_map(|own| own.device(id));
    let name =
        |id: DeviceId| setup.device(id).or_else(|| anywhere(id)).map_or("a device".to_owned(), |own| own.name.clone());
    let nodes = || setup.devices.iter().filter(|own| own.uplink.is_some()).map(|own| own.id);
    let standing = match failure {
        Failure::Power { device } => {
            setup.device(device)?;
            reselect(home, setup, (Some(device), &[]), asked)
        }
        Failure::Backhaul { device } => {
            setup.device(device)?.uplink.as_ref()?;
            reselect(home, setup, (None, &[device]), asked)
        }
        // Whatever clings to it gets what it alone gives.
        Failure::OldNetwork { device } => {
            let old = forgotten(home, setup).find(|own| own.id == device)?;
            let alone = Setup { devices: vec![Device { uplink: None, ..old.clone() }], ..setup.clone() };
            Standing { setup: alone, rejoined: Vec::new(), lost: Vec::new() }
        }
        Failure::AllNodes => Standing { lost: nodes().collect(), ..alone(setup) },
        Failure::Line => Standing { setup: setup.clone(), rejoined: Vec::new(), lost: Vec::new() },
        Failure::Everything => {
            let lost = setup.devices.iter().map(|own| own.id).collect();
            Standing { setup: Setup { devices: Vec::new(), ..setup.clone() }, rejoined: Vec::new(), lost }
        }
    };
    let second = second_line(home, asked.1.day).filter(|_| failure == Failure::Line);
    let dead_line = failure == Failure::Line && asked.1.reach == TestKind::Internet;
    let nothing = (dead_line && second.is_none()) || standing.setup.devices.is_empty();
    let question = if dead_line { Question { reach: TestKind::SecondLine, ..*asked.1 } } else { *asked.1 };
    let after = (!nothing).then(|| ledger(home, &standing.setup, (asked.0, &question, asked.2)));
    let mut rooms: Vec<Keeps> = before.iter().map(|row| keeps(row, after.as_deref())).collect();
    rooms.sort_by(|a, b| {
        let loses = |own: &Keeps| own.left_mbps.get() / own.before_mbps.get().max(0.1);
        loses(a).total_cmp(&loses(b)).then_with(|| a.name.cmp(&b.name))
    });
    let told = in_words(&standing, (failure, second), &rooms, &name);
    Some(Outage {
        failure,
        doing: doing(failure, &name),
        told,
        rejoined: standing
            .rejoined
            .iter()
            .map(|own| OtherWay { device_id: own.device, to: own.to, carries_mbps: own.carries })
            .collect(),
        lost: standing.lost,
        takes_over: second.is_some_and(|(carries, _)| carries != SecondLineUse::ByHand),
        rooms,
    })
}

/// The device at the line and nothing else.
fn alone(setup: &Setup) -> Standing {
    let devices = setup.devices.iter().filter(|own| own.uplink.is_none()).cloned().collect();
    Standing { setup: Setup { devices, ..setup.clone() }, rejoined: Vec::new(), lost: Vec::new() }
}

fn keeps(before: &LedgerRow, after: Option<&[LedgerRow]>) -> Keeps {
    let row = after.and_then(|rows| rows.iter().find(|own| own.room_id == before.room_id));
    let met = |verdict: Option<Verdict>| verdict.map(|own| own != Verdict::NotMet);
    let before_mbps = before.predicted.down.middle;
    let left_mbps = row.map_or(MbitPerSec::default(), |own| own.predicted.down.middle);
    Keeps {
        room_id: before.room_id,
        name: before.name.clone(),
        before_mbps,
        left_mbps,
        loses: left_mbps.get() < SPOKEN_OF * before_mbps.get(),
        met: if row.is_some() { met(row.and_then(|own| own.predicted_verdict)) } else { before.need.map(|_| false) },
        was_met: met(before.predicted_verdict),
    }
}

/// Devices that serve today, will not in this setup, and may be forgotten on the air.
fn forgotten<'a>(home: &'a Home, setup: &Setup) -> impl Iterator<Item = &'a Device> {
    old_devices(home, setup).into_iter().filter(|own| own.radios.iter().any(|radio| radio.on && radio.serves))
}

fn doing(failure: Failure, name: &dyn Fn(DeviceId) -> String) -> String {
    match failure {
        Failure::Power { device } => format!("pull the power of {}", name(device)),
        Failure::AllNodes => "pull the power of all nodes at once".into(),
        Failure::Backhaul { device } => format!("pull the cable that feeds {}", name(device)),
        Failure::Line => "pull the line".into(),
        Failure::OldNetwork { device } => format!("leave the Wi-Fi of the old {} on", name(device)),
        Failure::Everything => "switch everything off, as a power cut would".into(),
    }
}

/// When the second line carries, and what it then gives; none where there is none, or no plan of it is in force.
fn second_line(home: &Home, day: Date) -> Option<(SecondLineUse, &LinePlan)> {
    Some((home.brief.second_line.as_ref()?.carries, home.brief.plan_of(TestKind::SecondLine, day)?))
}

fn in_words(
    standing: &Standing,
    (failure, second): (Failure, Option<(SecondLineUse, &LinePlan)>),
    rooms: &[Keeps],
    name: &dyn Fn(DeviceId) -> String,
) -> Vec<String> {
    let mut list: Vec<String> = standing
        .rejoined
        .iter()
        .map(|own| {
            format!("{} goes by {}, which carries {} to it.", name(own.device), name(own.to), figure(own.carries))
        })
        .collect();
    let all_gone = matches!(failure, Failure::AllNodes | Failure::Everything);
    if !all_gone && !standing.lost.is_empty() {
        let names: Vec<String> = standing.lost.iter().map(|id| name(*id)).collect();
        let find = if names.len() == 1 { "finds" } else { "find" };
        list.push(format!("{} {find} no other way.", names.join(", ")));
    }
    match failure {
        Failure::Line if second.is_some() => {
            if let Some((carries, plan)) = second {
                let (down, up) = plan.gives();
                let how = match carries {
                    SecondLineUse::TakesOver => "The second line takes over, and gives back",
                    SecondLineUse::ByHand => "Somebody switches to the second line",
                    SecondLineUse::Beside => "All goes by the second line alone",
                };
                list.push(format!(
                    "{how}: {:.0} down and {:.0} up. Open calls and downloads may break.",
                    down.get(),
                    up.get()
                ));
            }
            list.push(kept(rooms));
        }
        Failure::Line => list.push("Nothing reaches the internet; what is at home stays reachable.".into()),
        Failure::OldNetwork { .. } => {
            list.push("Whatever knows its name may stay on it, without a word.".into());
            list.push(kept(rooms));
        }
        Failure::Everything => list.push("Nothing works until it is back.".into()),
        _ => {
            if rooms.iter().all(|own| own.left_mbps.get() <= 0.0) {
                list.push("Nothing is left in any room.".into());
                return list;
            }
            list.push(kept(rooms));
        }
    }
    list
}

/// Which rooms no longer have enough, in one sentence.
fn kept(rooms: &[Keeps]) -> String {
    // The room that loses most of what it needs is the one to stand in.
    let falls = rooms.iter().filter(|own| own.was_met == Some(true) && own.met == Some(false));
    let left = |own: &Keeps| match own.left_mbps.get() {
        0.0 => "nothing".to_owned(),
        _ => figure(own.left_mbps),
    };
    let names: Vec<String> = falls.map(|own| format!("{} ({} left)", own.name, left(own))).collect();
    if !names.is_empty() {
        return format!("No longer enough: {}.", names.join(", "));
    }
    match rooms.first().filter(|own| own.loses) {
        Some(own) => format!("No need is lost; {} loses most: {} left.", own.name, figure(own.left_mbps)),
        None => "No room loses much.".into(),
    }
}
