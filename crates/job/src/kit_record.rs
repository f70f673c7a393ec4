//! What became of kit over all homes of an installer: its share of the ceiling, what a radio hop left, how far it reached, how long it
//! took to come back, how warm it ran, what went wrong, and how long it took to set up. What a stand-in made up counts for nothing.

use std::collections::{BTreeMap, BTreeSet};

use busy_hen_catalogue::{Catalogue, clients};
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Device, DeviceId, DeviceNote, Drill, Failure, Home, KitKey, LengthUnit, Purpose, Run, Setup, SpotId, TestKind,
    Tick, Warmth,
};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::summary::Figures;
use busy_hen_predict::{Knowledge, Question, network_of};
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::marks::{drop_out, rows};
use busy_hen_units::MbitPerSec;
use serde::Serialize;
use utoipa::ToSchema;

use crate::drills::{Phase, took};

/// Homes below which a figure says little of the next.
const FEW_HOMES: usize = 3;
/// Longest pause between two ticks that is work and no break, minutes.
const BREAK_MIN: f64 = 45.0;
/// Ticks of a device below which its setting up was not ticked along the way.
const TICKS_LEAST: usize = 3;

/// A home with what was done in it.
#[derive(Debug)]
pub struct HomeDone<'a> {
    /// The home as it stands.
    pub home: &'a Home,
    /// Rounds, each in the home as it stood.
    pub taken: Vec<Taken<'a>>,
    /// What became of the steps of run sheets.
    pub ticks: &'a [Tick],
    /// Drills that were run.
    pub drills: &'a [Drill],
    /// What was noted of devices.
    pub notes: &'a [DeviceNote],
}

/// What became of one kit.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct KitRecord {
    /// The kit.
    #[schema(value_type = String)]
    pub kit: KitKey,
    /// What it is called.
    pub name: String,
    /// Homes in which something was seen of it.
    pub homes: usize,
    /// Unit of length of the home that was worked at last.
    pub units: LengthUnit,
    /// Part of the ceiling that arrived at spots it served, in local tests.
    pub share: Option<Over>,
    /// Part of what its upstream device gave beside itself that it gave beside itself, over a radio hop.
    pub hop_leaves: Option<Over>,
    /// How far from the house it held on range walks, m.
    pub range_m: Option<Over>,
    /// How long it took to come back.
    pub recovery: Vec<Recovery>,
    /// Minutes to set one up, as ticked along the way.
    pub setup_minutes: Option<Over>,
    /// Notes by how warm its case was: cool, warm, hot.
    pub warmth: [usize; 3],
    /// Faults that were noted.
    pub faults: Vec<String>,
    /// What to think of these numbers; empty where there are enough.
    pub told: String,
}

/// Figures over several observations in several homes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Over {
    /// The figures.
    pub figures: Figures,
    /// Observations: spots, hops, walks, devices.
    pub count: usize,
    /// Homes they are from.
    pub homes: usize,
}

/// How long a part of drills of one kind took with a kit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Recovery {
    /// Whether it lost its power; else its backhaul was pulled.
    pub of_power: bool,
    /// The part.
    pub part: Phase,
    /// How long, s.
    pub took_s: Over,
}

/// How long a failure commonly took with the kit of the device that failed; nothing of failures of no single device.
#[must_use]
pub fn recovery_of(records: &[KitRecord], setup: &Setup, failure: Failure) -> Vec<Recovery> {
    let (power, device) = match failure {
        Failure::Power { device } => (true, device),
        Failure::Backhaul { device } => (false, device),
        _ => return Vec::new(),
    };
    let kit = setup.device(device).map(|own| &own.kit);
    let record = records.iter().find(|own| Some(&own.kit) == kit);
    record.map_or_else(Vec::new, |own| own.recovery.iter().filter(|one| one.of_power == power).copied().collect())
}

/// Observations with the home each is from.
type Lot = Vec<(usize, f64)>;

#[derive(Debug, Default)]
struct Seen {
    share: Lot,
    hop_leaves: Lot,
    range_m: Lot,
    recovery: BTreeMap<(bool, Phase), Lot>,
    setup_minutes: Lot,
    warmth: [usize; 3],
    faults: Vec<String>,
    homes: BTreeSet<usize>,
}

fn over(lot: &Lot) -> Option<Over> {
    let homes: BTreeSet<usize> = lot.iter().map(|(home, _)| *home).collect();
    let figures = Figures::of(lot.iter().map(|(_, value)| *value).collect())?;
    Some(Over { figures, count: lot.len(), homes: homes.len() })
}

/// What became of all kit of which something was seen, by its name; homes in the order in which they were worked at, the last first.
#[must_use]
pub fn kit_records(deeds: &[HomeDone<'_>], kept: &Knowledge) -> Vec<KitRecord> {
    let mut all: BTreeMap<KitKey, Seen> = BTreeMap::new();
    for (index, deed) in kept.wanted(deeds.iter().enumerate()) {
        let mut put = |kit: &KitKey, add: &mut dyn FnMut(&mut Seen)| {
            let seen = all.entry(kit.clone()).or_default();
            seen.homes.insert(index);
            add(seen);
        };
        for taken in kept.wanted(&deed.taken) {
            of_round(taken, kept, &mut |kit, what, value| {
                put(kit, &mut |seen| what.of(seen).push((index, value)));
            });
        }
        for drill in deed.drills.iter().filter(|own| !own.stopped) {
            let (of_power, device) = match drill.failure {
                Failure::Power { device } => (true, device),
                Failure::Backhaul { device } => (false, device),
                _ => continue,
            };
            let Some(device) = deed.home.setup(drill.setup_id).and_then(|own| own.device(device)) else { continue };
            for part in Phase::ALL {
                let Some(s) = took(drill, part) else { continue };
                put(&device.kit, &mut |seen| seen.recovery.entry((of_power, part)).or_default().push((index, s)));
            }
        }
        for (device, minutes) in deed.home.setups.iter().flat_map(|setup| minutes_of(setup, deed.ticks)) {
            put(&device.kit, &mut |seen| seen.setup_minutes.push((index, minutes)));
        }
        for note in deed.notes {
            let Some(device) = deed.home.setup(note.setup_id).and_then(|own| own.device(note.device_id)) else {
                continue;
            };
            put(&device.kit, &mut |seen| {
                if let Some(warmth) = note.warmth {
                    seen.warmth[match warmth {
                        Warmth::Cool => 0,
                        Warmth::Warm => 1,
                        Warmth::Hot => 2,
                    }] += 1;
                }
                if note.fault {
                    seen.faults.push(note.text.clone());
                }
            });
        }
    }
    let name = |key: &KitKey| {
        let known = deeds.iter().find_map(|deed| Catalogue::of(deed.home).kit(&key.0).map(|kit| kit.name.clone()));
        known.unwrap_or_else(|| key.0.clone())
    };
    let units = deeds.first().map(|deed| deed.home.units).unwrap_or_default();
    let mut list: Vec<KitRecord> = all.into_iter().map(|(key, seen)| seen.record(name(&key), key, units)).collect();
    list.sort_by(|a, b| a.name.cmp(&b.name));
    list
}

impl Seen {
    fn record(self, name: String, kit: KitKey, units: LengthUnit) -> KitRecord {
        let homes = self.homes.len();
        let recovery = self.recovery.iter().filter_map(|((of_power, part), lot)| {
            Some(Recovery { of_power: *of_power, part: *part, took_s: over(lot)? })
        });
        let told = match homes {
            1 => "One home: it says how it was there, and little of the next.".to_owned(),
            2..FEW_HOMES => format!("{homes} homes: too few to say what is usual."),
            _ => String::new(),
        };
        KitRecord {
            kit,
            name,
            homes,
            units,
            share: over(&self.share),
            hop_leaves: over(&self.hop_leaves),
            range_m: over(&self.range_m),
            recovery: recovery.collect(),
            setup_minutes: over(&self.setup_minutes),
            warmth: self.warmth,
            faults: self.faults,
            told,
        }
    }
}

/// What a round may show of a kit.
#[derive(Debug, Clone, Copy)]
enum What {
    Share,
    HopLeaves,
    Range,
}

impl What {
    fn of(self, seen: &mut Seen) -> &mut Lot {
        match self {
            Self::Share => &mut seen.share,
            Self::HopLeaves => &mut seen.hop_leaves,
            Self::Range => &mut seen.range_m,
        }
    }
}

fn of_round(taken: &Taken<'_>, kept: &Knowledge, put: &mut dyn FnMut(&KitKey, What, f64)) {
    let Taken { round, home, runs } = *taken;
    let Some(setup) = home.setup(round.setup_id) else { return };
    let measured: Vec<&Run> = runs.iter().filter(|run| run.counts() && !run.is_made_up()).collect();
    if round.purpose == Purpose::RangeWalk {
        let own: Vec<Run> = measured.iter().map(|run| (*run).clone()).collect();
        let (held, server) = (drop_out(&rows(&own, None)).held_m, farthest_server(setup, &measured));
        if let Some((held, server)) = held.zip(server) {
            put(&server.kit, What::Range, held.get());
        }
        return;
    }
    if round.kind != TestKind::Local || round.purpose.is_marked() {
        return;
    }
    let Some(client) = clients::find(&round.client) else { return };
    let plan = Plan::new(&home.house, home.units);
    let day = busy_hen_home::local_day(round.begun);
    let question =
        Question { client, band: round.band, situation: round.situation, doors: round.doors, reach: round.kind, day };
    let ceiling = network_of(home, setup, &plan, &question, kept).ceiling(Direction::Down);
    let mut at: BTreeMap<(SpotId, DeviceId), Vec<f64>> = BTreeMap::new();
    for run in measured.iter().filter(|run| run.is_of_room()) {
        let Some((down, server)) = down_of(run).zip(run.serving) else { continue };
        at.entry((run.spot_id, server)).or_default().push(down.get());
    }
    let medians: Vec<(SpotId, &Device, f64)> = at
        .into_iter()
        .filter_map(|((spot, server), values)| Some((spot, setup.device(server)?, Figures::of(values)?.median)))
        .collect();
    for (_, server, median) in &medians {
        put(&server.kit, What::Share, median / ceiling.get().max(0.1));
    }
    // Beside itself: the best spot in its own room.
    let beside = |device: &Device| {
        let room = plan.room_of(&device.at)?.id;
        let in_room = |spot: &SpotId| home.house.spots.iter().any(|own| own.id == *spot && own.room_id == room);
        let own = medians.iter().filter(|(spot, server, _)| server.id == device.id && in_room(spot));
        own.map(|(_, _, median)| *median).reduce(f64::max)
    };
    for device in &setup.devices {
        let Some(up) = device.uplink.as_ref().filter(|up| up.via.is_radio()) else { continue };
        let upstream = setup.device(up.to).and_then(beside).filter(|own| *own > 0.0);
        if let Some((own, upstream)) = beside(device).zip(upstream) {
            put(&device.kit, What::HopLeaves, own / upstream);
        }
    }
}

fn down_of(run: &Run) -> Option<MbitPerSec> {
    match run.outcome {
        busy_hen_home::Outcome::Measured { down_mbps, .. } => Some(down_mbps),
        _ => None,
    }
}

/// The device that served where a range walk held farthest; a setup of one device has no other.
fn farthest_server<'a>(setup: &'a Setup, runs: &[&Run]) -> Option<&'a Device> {
    let far = |run: &&&Run| run.mark.as_ref().and_then(|own| own.distance_m).map_or(0.0, |own| own.get());
    let served = runs.iter().filter(|run| run.serving.is_some() && down_of(run).is_some());
    let farthest = served.max_by(|a, b| far(a).total_cmp(&far(b))).and_then(|run| setup.device(run.serving?));
    farthest.or_else(|| setup.root().filter(|_| setup.devices.len() == 1))
}

/// Minutes that each device took to set up: from each of its ticks back to the one before, whosever that was, breaks left out.
fn minutes_of<'a>(setup: &'a Setup, ticks: &[Tick]) -> Vec<(&'a Device, f64)> {
    let mut own: Vec<&Tick> = ticks.iter().filter(|tick| tick.setup_id == setup.id).collect();
    own.sort_by_key(|tick| tick.at);
    let mut sums: BTreeMap<DeviceId, (usize, f64)> = BTreeMap::new();
    for pair in own.windows(2) {
        let minutes = pair[1].at.duration_since(pair[0].at).as_secs_f64() / 60.0;
        let id = pair[1].step.rsplit(' ').next().and_then(|id| id.parse::<DeviceId>().ok());
        if let Some(id) = id.filter(|_| minutes <= BREAK_MIN) {
            let sum = sums.entry(id).or_default();
            *sum = (sum.0 + 1, sum.1 + minutes);
        }
    }
    let told = sums.into_iter().filter(|(_, (count, _))| *count >= TICKS_LEAST);
    told.filter_map(|(id, (_, minutes))| Some((setup.device(id)?, minutes))).collect()
}
