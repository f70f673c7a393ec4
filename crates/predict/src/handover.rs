//! Where each radio should hand a client over: computed from the house, the setup and what readings taught.
//!
//! A threshold is a signal: under it a client is sent to another device. Set too low, clients cling where another device would serve them
//! better (too sticky); set too high, they are sent off where nothing else serves as well (too eager). The signal at which both cost least
//! over the whole home is the one proposed. Devices are weighed against one another within a band: from band to band a phone is steered by
//! the device it is on. At 2.4 GHz it lies higher than at 5 GHz, since the far device stays loud there: common practice
//! has it some 10 dB.

use busy_hen_floorplan::Point;
use busy_hen_home::{Band, DeviceId, Steering};
use busy_hen_units::{Db, Dbm, Metres};
use serde::Serialize;
use utoipa::ToSchema;

use super::Model;
use super::evaluator::LEAVES;
use crate::path::direction::Direction;

/// Places lie so far apart.
const CELL: Metres = Metres::new(1.0);
/// Another device serves better from this ratio on: less is not worth a hand-over.
pub const BETTER: f64 = 1.25;
/// Beyond what large files take nobody notices which device serves, Mb/s: the step of that name (`needs/step.rs`).
pub const ENOUGH: f64 = 250.0;
/// Signals that a threshold is looked for among, dBm: what the setting of most kit spans (common practice).
const THRESHOLDS: std::ops::RangeInclusive<i32> = -88..=-50;
/// A threshold nearer than this to another does the same, dB: readings scatter by more.
const WORTH_SETTING: f64 = 3.0;
/// A room is named when at least this part of it is meant.
const NAMED: f64 = 0.15;

/// Where a radio should hand a client over.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct HandOverAt {
    /// The device.
    pub device_id: DeviceId,
    /// Index of the radio among its own.
    pub radio: usize,
    /// Its band.
    pub band: Band,
    /// What is set; none when it is left to the client.
    pub set_dbm: Option<Dbm>,
    /// What would cost least.
    pub proposed_dbm: Dbm,
    /// Whether it is worth setting: some room feels it, and it is far enough from what is set.
    pub worth_setting: bool,
    /// Rooms where clients cling to it, as it is set, though another device serves better.
    pub clings: Vec<String>,
    /// Rooms where clients are sent off, as it is set, though nothing else serves as well.
    pub sent_off: Vec<String>,
    /// In one sentence.
    pub told: String,
}

/// A place as one radio and the best of the others serve it.
struct Served {
    room: usize,
    signal: f64,
    /// Logarithm of what the best other device brings over what this radio does.
    gain: f64,
}

impl Model<'_> {
    /// Where each radio that serves should hand a client over; nothing where one device alone serves.
    ///
    /// # Complexity
    /// O(places x radios), places a metre apart
    #[must_use]
    pub fn hand_overs(&self) -> Vec<HandOverAt> {
        let accesses = &self.evaluator.accesses;
        let mut nodes: Vec<usize> = accesses.iter().filter(|own| own.port.is_none()).map(|own| own.node).collect();
        nodes.dedup();
        if nodes.len() < 2 {
            return Vec::new();
        }
        let mut of: Vec<Vec<Served>> = accesses.iter().map(|_| Vec::new()).collect();
        for (room, place) in self.wanted(self.places()) {
            let losses = self.losses(place).middle;
            let seat = self.seat(Some(self.plan.rooms[room].id));
            let links: Vec<(f64, f64)> = accesses
                .iter()
                .zip(&losses)
                .enumerate()
                .map(|(index, (access, loss))| {
                    let link = access.air.carried(&access.table, *loss);
                    let arrives = self.evaluator.arrives(seat, &(index, link), Direction::Down);
                    (link.rssi.get(), arrives.get().min(ENOUGH))
                })
                .collect();
            for (index, access) in accesses.iter().enumerate().filter(|(_, own)| own.port.is_none()) {
                let (signal, own) = links[index];
                let others = accesses.iter().zip(&links).filter(|(other, _)| {
                    other.port.is_none() && other.node != access.node && other.band == access.band
                });
                let best = others.map(|(_, (_, down))| *down).fold(0.0, f64::max);
                // Where it is heard by nobody, nobody is handed over.
                if own > 0.0 && signal > f64::from(*THRESHOLDS.start()) - 10.0 {
                    of[index].push(Served { room, signal, gain: (best.max(0.1) / own).ln() });
                }
            }
        }
        let told = |(index, served): (usize, Vec<Served>)| self.hand_over_of(index, &served);
        of.into_iter().enumerate().filter_map(told).collect()
    }

    /// Places a metre apart in all rooms, with their room.
    fn places(&self) -> Vec<(usize, Point)> {
        let mut list = Vec::new();
        for (level, _) in self.plan.levels.iter().enumerate() {
            let Some(bounds) = self.plan.bounds(level) else { continue };
            let steps = |length: f64| (length / CELL.get()).ceil().max(1.0) as usize;
            for row in 0..steps(bounds.depth) {
                for column in 0..steps(bounds.width) {
                    let x = bounds.x + (column as f64 + 0.5) * CELL.get();
                    let y = bounds.y + (row as f64 + 0.5) * CELL.get();
                    let Some(room) = self.plan.room_at(level, x, y) else { continue };
                    let index = self.plan.rooms.iter().position(|own| own.id == room.id);
                    list.extend(index.map(|index| (index, self.plan.in_hand(level, x, y))));
                }
            }
        }
        list
    }

    fn hand_over_of(&self, index: usize, served: &[Served]) -> Option<HandOverAt> {
        let access = &self.evaluator.accesses[index];
        let node = &self.network().nodes[access.node];
        let better = BETTER.ln();
        // Clinging costs what another would bring more; being sent off, what the other brings less.
        let cost = |threshold: f64| -> f64 {
            let own = |place: &Served| match place.signal < threshold {
                true => (-place.gain).max(0.0),
                false => {
                    if place.gain > better {
                        place.gain
                    } else {
                        0.0
                    }
                }
            };
            served.iter().map(own).sum()
        };
        // Nothing to decide where no place is better served elsewhere.
        served.iter().find(|own| own.gain > better)?;
        // Below what carries the rooms' needs nobody is kept.
        let carries = self.signal_that_carries(index, served);
        let lowest = THRESHOLDS.map(f64::from).find(|own| *own >= carries).unwrap_or(carries);
        // Of thresholds that cost alike, the one that sends off least.
        let proposed = THRESHOLDS
            .map(f64::from)
            .filter(|own| *own >= lowest)
            .min_by(|a, b| cost(*a).total_cmp(&cost(*b)).then(a.total_cmp(b)))?;
        let set = node.radios.get(access.radio).and_then(|own| own.hand_over);
        // Left alone a client leaves as the evaluator has it.
        let now = set.unwrap_or(LEAVES).get();
        // Kit that steers sends phones where they are served best, and names of their own are left by nobody.
        let steering = self.network().steering;
        let decides = steering == Steering::OneName || (steering == Steering::Guided && set.is_some());
        let clings = self.named(served, |own| decides && own.signal >= now && own.gain > better);
        // Left alone nobody is sent off: a client waits for a device that is much stronger.
        let sent_off = self.named(served, |own| decides && set.is_some() && own.signal < now && own.gain < -better);
        let name = format!("{}, {}", node.name, access.band);
        let felt = match (&clings[..], &sent_off[..]) {
            ([], []) => None,
            (rooms, []) => Some(format!("phones cling to it in {}", rooms.join(", "))),
            ([], rooms) => Some(format!("phones are sent off in {}", rooms.join(", "))),
            (cling, off) => {
                Some(format!("phones cling to it in {}, and are sent off in {}", cling.join(", "), off.join(", ")))
            }
        };
        let felt = felt.filter(|_| (proposed - now).abs() >= WORTH_SETTING);
        let worth_setting = felt.is_some();
        let told = match (felt, set) {
            (Some(felt), _) => format!("{name}: hand over below {proposed:.0} dBm: {felt}."),
            (None, Some(_)) => format!("{name}: as it is set will do."),
            (None, None) if steering == Steering::Guided => format!("{name}: leave it to the kit, which steers."),
            (None, None) if steering == Steering::OwnNames => {
                format!("{name}: a name of its own is left only once it is gone.")
            }
            (None, None) => format!("{name}: leave it to the phone."),
        };
        Some(HandOverAt {
            device_id: node.id,
            radio: access.radio,
            band: access.band,
            set_dbm: set,
            proposed_dbm: Dbm::new(proposed),
            worth_setting,
            clings,
            sent_off,
            told,
        })
    }

    /// The least signal at which an access still carries what the rooms need where it is heard, as far as it ever does.
    fn signal_that_carries(&self, index: usize, served: &[Served]) -> f64 {
        let access = &self.evaluator.accesses[index];
        let mut rooms: Vec<usize> = served.iter().map(|own| own.room).collect();
        rooms.dedup();
        let needs = rooms.iter().filter_map(|room| self.need(self.plan.rooms[*room].id));
        let links: Vec<_> = (30..140).map(|loss| access.air.carried(&access.table, Db::new(f64::from(loss)))).collect();
        let least = |need: crate::needs::Need| {
            let enough = links.iter().filter(|link| link.down >= need.down_mbps && link.up >= need.up_mbps);
            enough.map(|link| link.rssi.get()).reduce(f64::min)
        };
        needs.filter_map(least).fold(f64::from(*THRESHOLDS.start()), f64::max).min(f64::from(*THRESHOLDS.end()))
    }

    /// Rooms of which a good part is so.
    fn named(&self, served: &[Served], is: impl Fn(&Served) -> bool) -> Vec<String> {
        let rooms = self.plan.rooms.iter().enumerate();
        rooms
            .filter(|(index, _)| {
                let here: Vec<&Served> = served.iter().filter(|own| own.room == *index).collect();
                let meant = here.iter().filter(|own| is(own)).count();
                meant > 0 && meant as f64 >= NAMED * here.len() as f64
            })
            .map(|(_, room)| room.name.clone())
            .collect()
    }
}
