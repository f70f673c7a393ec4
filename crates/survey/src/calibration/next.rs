//! The spot whose reading would teach most, and the question whose answer would.

use std::collections::HashMap;
use std::f64::consts::SQRT_2;

use busy_hen_floorplan::Plan;
use busy_hen_floorplan::parts::Stands;
use busy_hen_home::{Home, OpeningKind, RoomId, Setup, SpotId};
use busy_hen_predict::calibration::prior::{Path, READING_DB, shadow};
use busy_hen_predict::calibration::{Calibration, Unknown};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::PartOfHouse;
use busy_hen_units::{Db, MbitPerSec};
use nalgebra::DVector;
use serde::Serialize;
use utoipa::ToSchema;

use super::lessons::part_name;

/// A spot to read next.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Proposal {
    /// The spot.
    pub spot_id: SpotId,
    /// Its room.
    pub room_id: RoomId,
    /// Rooms of which it is expected to settle whether their needs are met: a count, mostly a part of one.
    pub settles: f64,
    /// Part of all doubt in the home, as a variance, that it is expected to take away.
    pub takes_of_doubt: f64,
    /// Rooms that it tells most about, its own first when it does.
    pub about: Vec<RoomId>,
}

impl Proposal {
    /// Why it is worth it, in words.
    #[must_use]
    pub fn in_words(&self, plan: &Plan) -> String {
        let name = |id: &RoomId| plan.room(*id).map(|room| room.name.as_str());
        let rooms: Vec<&str> = self.about.iter().filter_map(name).collect();
        let about = match rooms[..] {
            [] => "this place".to_owned(),
            [one] => one.to_owned(),
            [ref first @ .., last] => format!("{} and {last}", first.join(", ")),
        };
        let doubt = 100.0 * self.takes_of_doubt;
        if self.settles >= WORTH_SETTLING {
            format!("decides whether the needs of {about} are met, which is in doubt")
        } else if doubt >= 1.0 {
            format!("tells most of {about}: {doubt:.0} % of all that is not known here")
        } else {
            "tells little that is not known".to_owned()
        }
    }
}

/// What is to be known: whether a room gets what it needs at a spot.
struct Target {
    spot: SpotId,
    room: RoomId,
    path: Path,
    leans: Vec<(Unknown, f64)>,
    /// How much more the link may lose until the need is not met any more, dB; none without a need.
    margin: Option<f64>,
}

/// What doubt counts for beside what is decided: rooms without needs want to be known too, but less.
const PLAIN_DOUBT: f64 = 0.02;
/// How far margins are looked for, dB.
const MARGINS: f64 = 40.0;
/// Rooms' worth of decisions that a reading is said to settle.
const WORTH_SETTLING: f64 = 0.03;
/// Rooms named as a reason.
const NAMED: usize = 3;
/// A room that a reading takes less of the doubt of, as a part, is no reason for it.
const WORTH_NAMING: f64 = 0.08;

/// Spots that are not among these, those whose reading would teach most first.
///
/// A spot is worth what its reading is expected to take of wrong decisions (needs taken to be met that are not, or the other way
/// round) over all spots of rooms, and a little for doubt as such.
///
/// # Complexity
/// O(spots^2 x observations)
///
/// # Source
/// Expected value of sample information for normal beliefs (Raiffa and Schlaifer 1961, from memory).
#[must_use]
pub fn next_spots(model: &Model<'_>, done: &[SpotId]) -> Vec<Proposal> {
    let targets = targets(model);
    let beliefs = Beliefs::new(model.learnt(), &targets);
    let whole: f64 = (0..targets.len()).map(|t| beliefs.covariance(t, t)).sum();
    let mut list: Vec<(f64, Proposal)> = model
        .wanted(targets.iter().enumerate())
        .filter(|(_, own)| !done.contains(&own.spot))
        .map(|(candidate, own)| {
            let heard = beliefs.covariance(candidate, candidate) + READING_DB * READING_DB;
            let (mut settles, mut taken) = (0.0, 0.0);
            let mut about: Vec<(f64, RoomId)> = Vec::new();
            for (t, target) in targets.iter().enumerate() {
                let before = beliefs.covariance(t, t);
                let explained = (beliefs.covariance(t, candidate).powi(2) / heard).min(0.99 * before);
                taken += explained;
                let decided =
                    target.margin.map_or(0.0, |margin| wrong(margin, before) - wrong_after(margin, before, explained));
                settles += decided;
                about.push((explained / before * (0.05 + decided.max(0.0)), target.room));
            }
            about.retain(|(worth, _)| *worth > WORTH_NAMING * 0.05);
            about.sort_by(|a, b| b.0.total_cmp(&a.0));
            let mut rooms: Vec<RoomId> = Vec::new();
            for (_, room) in about {
                if !rooms.contains(&room) && rooms.len() < NAMED {
                    rooms.push(room);
                }
            }
            let takes_of_doubt = taken / whole.max(f64::MIN_POSITIVE);
            let worth = settles + PLAIN_DOUBT * targets.len() as f64 * takes_of_doubt;
            (worth, Proposal { spot_id: own.spot, room_id: own.room, settles, takes_of_doubt, about: rooms })
        })
        .collect();
    list.sort_by(|a, b| b.0.total_cmp(&a.0));
    list.into_iter().map(|(_, proposal)| proposal).collect()
}

/// Every spot of the house where something serves.
fn targets(model: &Model<'_>) -> Vec<Target> {
    model
        .wanted(&model.home().house.spots)
        .filter_map(|spot| {
            let (_, at) = model.plan.spot(spot)?;
            let losses = model.losses(at).middle;
            let (access, _) = model.evaluator.associate(&losses)?;
            if model.evaluator.accesses[access].port.is_some() {
                return None;
            }
            let path = model.path(access, at);
            let leans = model.sensitivities_of_link(access, &path);
            let margin = model.need(spot.room_id).map(|need| {
                let seat = model.seat(Some(spot.room_id));
                let own = &model.evaluator.accesses[access];
                let met = |more: f64| {
                    let link = own.air.carried(&own.table, losses[access] + Db::new(more));
                    let arrives = |way| model.evaluator.arrives(seat, &(access, link), way);
                    need.down_mbps <= arrives(Direction::Down) && need.up_mbps <= arrives(Direction::Up)
                };
                let (mut low, mut high) = (-MARGINS, MARGINS);
                for _ in 0..16 {
                    let middle = f64::midpoint(low, high);
                    if met(middle) { low = middle } else { high = middle }
                }
                low
            });
            Some(Target { spot: spot.id, room: spot.room_id, path, leans, margin })
        })
        .collect()
}

/// Covariances of what is not known at the targets, after what was learnt.
struct Beliefs {
    before: Vec<Vec<f64>>,
    solved: Vec<DVector<f64>>,
}

impl Beliefs {
    fn new(learnt: Option<&Calibration>, targets: &[Target]) -> Self {
        let mut numbers: HashMap<&Unknown, usize> = HashMap::new();
        let rows: Vec<HashMap<usize, f64>> = targets
            .iter()
            .map(|own| {
                let of = own.leans.iter().map(|(unknown, lean)| {
                    let count = numbers.len();
                    (*numbers.entry(unknown).or_insert(count), *lean)
                });
                of.collect()
            })
            .collect();
        let dot = |a: &HashMap<usize, f64>, b: &HashMap<usize, f64>| -> f64 {
            a.iter().filter_map(|(unknown, lean)| Some(lean * b.get(unknown)?)).sum()
        };
        let before = (0..targets.len())
            .map(|i| (0..=i).map(|j| dot(&rows[i], &rows[j]) + shadow(&targets[i].path, &targets[j].path)).collect())
            .collect();
        let solved = learnt
            .map_or_else(Vec::new, |learnt| targets.iter().map(|own| learnt.solved(&own.path, &own.leans)).collect());
        Self { before, solved }
    }

    fn covariance(&self, a: usize, b: usize) -> f64 {
        let before = self.before[a.max(b)][a.min(b)];
        match (self.solved.get(a), self.solved.get(b)) {
            (Some(one), Some(other)) if a == b => (before - one.dot(other)).max(0.01 * before),
            (Some(one), Some(other)) => before - one.dot(other),
            _ => before,
        }
    }
}

/// A question to the family whose answer decides something.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DoorQuestion {
    /// In words.
    pub told: String,
    /// The room that it decides most for.
    pub room_id: RoomId,
    /// What arrives there when the door is shut.
    pub shut_mbps: MbitPerSec,
    /// What arrives there when it stands open.
    pub open_mbps: MbitPerSec,
}

/// A door that decides less than this, as a ratio of what arrives, is not asked about.
const DECIDES: f64 = 1.3;
/// ... and less than this, Mb/s.
const DECIDES_MBPS: f64 = 5.0;

/// The door whose state decides most of what rooms get: first those that decide whether a need is met. None where none does.
///
/// # Complexity
/// O(doors x rooms x radios), the house prepared anew for each door and state
#[must_use]
pub fn door_question(
    home: &Home,
    setup: &Setup,
    plan: &Plan,
    question: Question,
    kept: &Knowledge,
) -> Option<DoorQuestion> {
    let with = |wall: usize, opening: usize, stands: Stands| {
        let mut changed = plan.clone();
        changed.walls[wall].openings[opening].stands = stands;
        let model = Model::new(home, setup, &changed, question, kept);
        let spots = home.house.spots.iter().filter_map(|spot| Some((spot.room_id, changed.spot(spot)?.1)));
        spots
            .map(|(room, at)| {
                let losses = model.losses(at).middle;
                let got = model.evaluator.middle(&losses, model.seat(Some(room)));
                (room, got.down, model.need(room).map(|need| need.met_by(got.down, got.up, got.latency)))
            })
            .collect::<Vec<_>>()
    };
    let mut best: Option<((bool, f64), DoorQuestion)> = None;
    for (wall, own) in plan.walls.iter().enumerate() {
        for (opening, door) in own.openings.iter().enumerate() {
            // What nobody drew is asked about elsewhere, and an open gap has no leaf.
            if door.kind != OpeningKind::Door || door.assumed || own.envelope || door.material.loss_db[0] <= 0.0 {
                continue;
            }
            let (shut, open) = (with(wall, opening, Stands::Shut), with(wall, opening, Stands::Open));
            for ((room, low, met), (_, high, met_open)) in shut.into_iter().zip(open) {
                let (less, more) = (low.min(high), low.max(high));
                if (more - less).get() < DECIDES_MBPS || more.get() < DECIDES * less.get() {
                    continue;
                }
                let worth = (met != met_open, more.get() / less.get().max(0.1));
                if best.as_ref().is_none_or(|(own, _)| worth > *own) {
                    let name = part_name(plan, PartOfHouse::Opening { wall: own.key, opening });
                    let room_name = plan.room(room).map_or("a room", |room| room.name.as_str());
                    let told = format!(
                        "Is {name} usually shut? It decides between {low:.0} (shut) and {high:.0} (open) in {room_name}."
                    );
                    best = Some((worth, DoorQuestion { told, room_id: room, shut_mbps: low, open_mbps: high }));
                }
            }
        }
    }
    best.map(|(_, question)| question)
}

/// Probability that a decision by the sign of a margin is wrong.
fn wrong(margin: f64, variance: f64) -> f64 {
    0.5 * libm::erfc(margin.abs() / (variance.sqrt() * SQRT_2))
}

/// What that is expected to be once so much of the variance is explained: the margin will have moved by as much.
fn wrong_after(margin: f64, variance: f64, explained: f64) -> f64 {
    /// Nodes and weights of Gauss-Hermite quadrature for a normal variable (Abramowitz and Stegun, table 25.10).
    const NODES: [(f64, f64); 5] = [
        (0.0, 0.533_333_333),
        (1.355_626_18, 0.222_075_922),
        (-1.355_626_18, 0.222_075_922),
        (2.856_970_014, 0.011_257_411),
        (-2.856_970_014, 0.011_257_411),
    ];
    let (left, moves) = (variance - explained, explained.sqrt());
    NODES.iter().map(|(z, weight)| weight * wrong(margin + z * moves, left)).sum()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_reading_settles_most_where_it_is_undecided_and_nothing_where_it_is_clear() {
        let gain = |margin: f64, explained: f64| wrong(margin, 25.0) - wrong_after(margin, 25.0, explained);
        assert!(gain(1.0, 20.0) > 0.2, "{}", gain(1.0, 20.0));
        assert!(gain(25.0, 20.0) < 1e-3);
        assert!(gain(1.0, 20.0) > gain(1.0, 5.0));
        assert!(gain(1.0, 0.0).abs() < 1e-9);
    }
}
