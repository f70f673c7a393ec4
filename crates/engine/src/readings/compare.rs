//! Two setups room by room, and whether their columns are like for like.

use std::collections::{BTreeSet, HashMap};

use busy_hen_home::{PlanId, RoomId, SpotId, TestKind};
use serde::Serialize;
use utoipa::ToSchema;

use super::conditions::Group;
use super::summary::Summary;

/// Fewer runs than this at a spot and chance decides.
const FEW_RUNS: usize = 3;

/// What was measured of one setup by tests of one kind.
#[derive(Debug, Clone, Default)]
pub struct Column<'a> {
    /// Letter and name of the setup.
    pub name: String,
    /// The readings that stand in it; none when there are none of this kind.
    pub group: Option<Group<'a>>,
    /// Whether the setup has counting runs of the other kind only.
    pub other_kind_only: bool,
    /// What has changed in house, setup, air or plan since they were taken.
    pub changed_since: Vec<String>,
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
    /// The spot that both figures are of: of those measured in both, the one where the other has least; none when there is none.
    pub spot_id: Option<SpotId>,
    /// What the reference measured there; at its own worst spot when there is no spot in common.
    pub reference: Option<Summary>,
    /// What the other measured there; at its own worst spot when there is no spot in common.
    pub other: Option<Summary>,
    /// Change of the median download, percent; none without a spot in common, from zero, or between measured and made-up readings.
    pub change_percent: Option<f64>,
}

/// Sets two columns side by side. `rooms` names the rooms in order, each with its spots.
#[must_use]
pub fn compare(
    rooms: &[(RoomId, Vec<SpotId>)],
    reference: &Column<'_>,
    other: &Column<'_>,
    kind: TestKind,
) -> Comparison {
    let summaries = |column: &Column<'_>| column.group.as_ref().map(Group::summaries).unwrap_or_default();
    let (first, second) = (summaries(reference), summaries(other));
    let comparable = made_up(reference) == made_up(other) || made_up(reference).is_none() || made_up(other).is_none();
    let rooms = rooms
        .iter()
        .map(|(room_id, spots)| {
            let both = spots.iter().filter(|spot| first.contains_key(spot) && second.contains_key(spot));
            let spot_id =
                both.min_by(|a, b| second[a].down_mbps.median.total_cmp(&second[b].down_mbps.median)).copied();
            let of = |column: &HashMap<SpotId, Summary>| match spot_id {
                Some(spot) => column.get(&spot).copied(),
                None => worst(spots, column).map(|(_, summary)| summary),
            };
            let (reference, other) = (of(&first), of(&second));
            let change = |spot: SpotId| change_percent(first[&spot].down_mbps.median, second[&spot].down_mbps.median);
            let change_percent = spot_id.filter(|_| comparable).and_then(change);
            RoomChange { room_id: *room_id, spot_id, reference, other, change_percent }
        })
        .collect();
    Comparison { rooms, warnings: warnings(reference, other, kind) }
}

fn made_up(column: &Column<'_>) -> Option<bool> {
    column.group.as_ref().map(|group| group.conditions.made_up)
}

/// The spot of a room with the lowest median download: a room is as good as its worst spot.
#[must_use]
pub fn worst(spots: &[SpotId], measured: &HashMap<SpotId, Summary>) -> Option<(SpotId, Summary)> {
    let there = spots.iter().filter_map(|spot| Some((*spot, *measured.get(spot)?)));
    there.min_by(|a, b| a.1.down_mbps.median.total_cmp(&b.1.down_mbps.median))
}

/// Change from one speed to another, percent; none from nothing.
#[must_use]
pub fn change_percent(reference: f64, other: f64) -> Option<f64> {
    (reference > 0.0).then(|| (other / reference - 1.0) * 100.0)
}

fn warnings(reference: &Column<'_>, other: &Column<'_>, kind: TestKind) -> Vec<String> {
    let mut list = Vec::new();
    let (wanted, there) = match kind {
        TestKind::Local => ("local", "internet"),
        TestKind::Internet => ("internet", "local"),
    };
    for column in [reference, other] {
        let name = &column.name;
        if column.other_kind_only {
            list.push(format!("{name} has {there} tests only; run {wanted} ones, the two can't be compared."));
        }
        let Some(group) = &column.group else { continue };
        if group.conditions.made_up {
            list.push(format!("The readings of {name} are made up by the stand-in phone; they prove nothing."));
        }
        if let Some(fewest) = group.summaries().values().map(|s| s.runs).min().filter(|fewest| *fewest < FEW_RUNS) {
            let runs = if fewest == 1 { "one run".to_owned() } else { format!("{fewest} runs") };
            list.push(format!("{name} has a spot with only {runs}; chance may decide there, take five."));
        }
        if !column.changed_since.is_empty() {
            list.push(format!("{name} was tested before {}.", column.changed_since.join(", before ")));
        }
    }
    let (Some(a), Some(b)) = (&reference.group, &other.group) else { return list };
    let (first, second) = (&reference.name, &other.name);
    if a.conditions.made_up != b.conditions.made_up {
        list.push("Not like for like: measured and made-up readings are not set against each other.".to_owned());
    }
    for (what, left, right) in a.conditions.differences(&b.conditions) {
        list.push(format!("Not like for like: {what} was {left} for {first} and {right} for {second}."));
    }
    let plans = |group: &Group<'_>| group.runs.iter().map(|run| run.plan_id).collect::<BTreeSet<Option<PlanId>>>();
    if kind == TestKind::Internet && plans(a) != plans(b) {
        list.push(format!("Not like for like: the internet plan in force was not the same for {first} and {second}."));
    }
    list
}
