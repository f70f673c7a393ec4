//! Two setups room by room, and whether their columns are like for like.

use std::collections::BTreeSet;

use busy_hen_home::{Band, Doors, PlanId, RoomId, Round, Run, Situation, TestKind};
use serde::Serialize;
use utoipa::ToSchema;

use super::summary::{Summary, summarise};
use crate::catalogue::clients;

/// Fewer runs than this at a spot and chance decides.
const FEW_RUNS: usize = 3;

/// What was measured of one setup by tests of one kind.
#[derive(Debug, Clone, Default)]
pub struct Column<'a> {
    /// Rounds of that kind, with their runs.
    pub rounds: Vec<(&'a Round, Vec<&'a Run>)>,
    /// Whether the setup has counting runs of the other kind only.
    pub other_kind_only: bool,
}

/// The conditions under which a column was measured.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
struct Conditions {
    clients: BTreeSet<String>,
    bands: BTreeSet<Option<Band>>,
    plans: BTreeSet<Option<PlanId>>,
    doors: BTreeSet<Doors>,
    situations: BTreeSet<Situation>,
}

/// Two columns set side by side.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Comparison {
    /// Rooms with what both columns measured.
    pub rooms: Vec<RoomChange>,
    /// Why the columns are not like for like, one sentence each; empty when they are.
    pub warnings: Vec<String>,
}

/// What changed in one room.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RoomChange {
    /// The room.
    pub room_id: RoomId,
    /// What the reference measured at the room's worst spot.
    pub reference: Option<Summary>,
    /// What the other measured at the room's worst spot.
    pub other: Option<Summary>,
    /// Change of the median download, percent; none when either is missing or the reference is zero.
    pub change_percent: Option<f64>,
}

/// Sets two columns side by side. `spots` names the rooms in order, each with its spots' runs picked by `belongs`.
#[must_use]
pub fn compare(
    rooms: &[RoomId],
    belongs: impl Fn(&Run) -> Option<RoomId>,
    (reference_name, reference): (&str, &Column<'_>),
    (other_name, other): (&str, &Column<'_>),
    kind: TestKind,
) -> Comparison {
    let of = |column: &Column<'_>, room: RoomId| worst_spot(column.runs().filter(|run| belongs(run) == Some(room)));
    let rooms = rooms
        .iter()
        .map(|room| {
            let (reference, other) = (of(reference, *room), of(other, *room));
            RoomChange { room_id: *room, change_percent: change(reference.as_ref(), other.as_ref()), reference, other }
        })
        .collect();
    Comparison { rooms, warnings: warnings((reference_name, reference), (other_name, other), kind) }
}

/// The summary of the spot with the lowest median download: a room is as good as its worst spot.
pub fn worst_spot<'a>(runs: impl Iterator<Item = &'a Run>) -> Option<Summary> {
    let runs: Vec<&Run> = runs.collect();
    let spots: BTreeSet<_> = runs.iter().map(|run| run.spot_id).collect();
    spots
        .into_iter()
        .filter_map(|spot| summarise(runs.iter().copied().filter(|run| run.spot_id == spot)))
        .min_by(|a, b| a.down_mbps.median.total_cmp(&b.down_mbps.median))
}

fn change(reference: Option<&Summary>, other: Option<&Summary>) -> Option<f64> {
    change_percent(reference?.down_mbps.median, other?.down_mbps.median)
}

/// Change from one speed to another, percent; none from nothing.
#[must_use]
pub fn change_percent(reference: f64, other: f64) -> Option<f64> {
    (reference > 0.0).then(|| (other / reference - 1.0) * 100.0)
}

impl<'a> Column<'a> {
    fn runs(&self) -> impl Iterator<Item = &'a Run> {
        self.rounds.iter().flat_map(|(_, runs)| runs.iter().copied())
    }

    fn conditions(&self) -> Conditions {
        let mut conditions = Conditions::default();
        for (round, runs) in &self.rounds {
            let counting: Vec<_> = runs.iter().filter(|run| run.counts()).collect();
            if counting.is_empty() {
                continue;
            }
            conditions.clients.insert(round.client.clone());
            conditions.bands.insert(round.band);
            conditions.doors.insert(round.doors);
            conditions.situations.insert(round.situation);
            conditions.plans.extend(counting.iter().map(|run| run.plan_id));
        }
        conditions
    }

    fn fewest_runs(&self) -> Option<usize> {
        let spots: BTreeSet<_> = self.runs().filter(|run| run.counts()).map(|run| run.spot_id).collect();
        spots.into_iter().map(|spot| self.runs().filter(|run| run.counts() && run.spot_id == spot).count()).min()
    }
}

fn warnings(
    (reference_name, reference): (&str, &Column<'_>),
    (other_name, other): (&str, &Column<'_>),
    kind: TestKind,
) -> Vec<String> {
    let mut list = Vec::new();
    let (wanted, there) = match kind {
        TestKind::Local => ("local", "internet"),
        TestKind::Internet => ("internet", "local"),
    };
    for (name, column) in [(reference_name, reference), (other_name, other)] {
        if column.other_kind_only {
            list.push(format!("{name} has {there} tests only; run {wanted} ones, the two can't be compared."));
        }
        if let Some(fewest) = column.fewest_runs().filter(|fewest| *fewest < FEW_RUNS) {
            let runs = if fewest == 1 { "one run".to_owned() } else { format!("{fewest} runs") };
            list.push(format!("{name} has a spot with only {runs}; chance may decide there, take five."));
        }
    }
    let (a, b) = (reference.conditions(), other.conditions());
    if a.clients.is_empty() || b.clients.is_empty() {
        return list;
    }
    let mut differ = |same: bool, what: &str, left: String, right: String| {
        if !same {
            list.push(format!(
                "Not like for like: {what} was {left} for {reference_name} and {right} for {other_name}."
            ));
        }
    };
    let client = |keys: &BTreeSet<String>| {
        joined(keys, |key| clients::find(key).map_or(key.clone(), |client| client.name.to_owned()))
    };
    let band = |bands: &BTreeSet<Option<Band>>| {
        joined(bands, |band| band.map_or("any band".to_owned(), |band| band.to_string()))
    };
    differ(a.clients == b.clients, "the test device", client(&a.clients), client(&b.clients));
    differ(a.bands == b.bands, "the band", band(&a.bands), band(&b.bands));
    differ(
        a.doors == b.doors,
        "the state of the doors",
        joined(&a.doors, |doors| door_name(*doors).to_owned()),
        joined(&b.doors, |doors| door_name(*doors).to_owned()),
    );
    differ(
        a.situations == b.situations,
        "the household",
        joined(&a.situations, |s| situation_name(*s).to_owned()),
        joined(&b.situations, |s| situation_name(*s).to_owned()),
    );
    if kind == TestKind::Internet && a.plans != b.plans {
        list.push(format!(
            "Not like for like: the internet plan in force was not the same for {reference_name} and {other_name}."
        ));
    }
    list
}

fn joined<T>(items: &BTreeSet<T>, name: impl Fn(&T) -> String) -> String {
    items.iter().map(name).collect::<Vec<_>>().join(" and ")
}

fn door_name(doors: Doors) -> &'static str {
    match doors {
        Doors::AsLeft => "as people leave them",
        Doors::Open => "open",
        Doors::Shut => "shut",
    }
}

fn situation_name(situation: Situation) -> &'static str {
    match situation {
        Situation::Alone => "quiet",
        Situation::BusyEvening => "busy",
    }
}
