//! The conditions that make readings comparable, and the choice of readings that are alike.

use std::collections::HashMap;

use busy_hen_catalogue::clients;
use busy_hen_home::{Doors, Round, Run, Situation, SpotId, TestKind, Under};
use jiff::Timestamp;
use serde::Serialize;
use utoipa::ToSchema;

use super::summary::{Summary, summarise};

/// All that must be alike in readings before they are put into one figure or set against each other.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, ToSchema)]
pub struct Conditions {
    /// Whether the product itself made the readings up; such never stand beside measured ones.
    pub made_up: bool,
    /// What they were taken under.
    #[serde(flatten)]
    pub under: Under,
}

impl Conditions {
    /// Whether all but who took the readings is alike.
    #[must_use]
    pub fn alike(&self, other: &Self) -> bool {
        *self == Self { made_up: self.made_up, ..other.clone() }
    }

    /// What differs from others, as "the test device", this one's, the other's; empty when alike.
    #[must_use]
    pub fn differences(&self, other: &Self) -> Vec<(&'static str, String, String)> {
        let client = |one: &Self| {
            clients::find(&one.under.client).map_or(one.under.client.clone(), |found| found.name.to_owned())
        };
        let band = |one: &Self| one.under.band.map_or("any band".to_owned(), |band| band.to_string());
        let tool = |one: &Self| one.under.tool.clone().unwrap_or_else(|| "the test of Busy Hen".to_owned());
        let parts: [(&'static str, String, String); 5] = [
            ("the test device", client(self), client(other)),
            ("the band", band(self), band(other)),
            ("the state of the doors", door_name(self.under.doors).to_owned(), door_name(other.under.doors).to_owned()),
            (
                "the household",
                situation_name(self.under.situation).to_owned(),
                situation_name(other.under.situation).to_owned(),
            ),
            ("the tool", tool(self), tool(other)),
        ];
        parts.into_iter().filter(|(_, own, others)| own != others).collect()
    }

    /// In words: "laptop, ax, two streams, 160 MHz, 5 GHz, doors shut, busy".
    #[must_use]
    pub fn in_words(&self) -> String {
        let Under { client, band, doors, situation, tool, .. } = &self.under;
        let client = clients::find(client).map_or(client.as_str(), |found| found.name);
        let band = band.map_or("any band".to_owned(), |band| band.to_string());
        let tool = tool.as_ref().map(|tool| format!("; tested by {tool}")).unwrap_or_default();
        format!("{client}; {band}; doors {}; {}{tool}", door_name(*doors), situation_name(*situation))
    }
}

/// Conditions with how far the test reached, in words: "local test; laptop, ...".
#[must_use]
pub fn in_words(under: &Under) -> String {
    format!("{}; {}", reach_name(under.kind), Conditions { made_up: false, under: under.clone() }.in_words())
}

/// What is otherwise under some conditions than under others, in words: "local test, doors shut".
#[must_use]
pub fn beside(under: &Under, others: &Under) -> String {
    let of = |under: &Under| Conditions { made_up: false, under: under.clone() };
    let mut words: Vec<String> = Vec::new();
    if under.kind != others.kind {
        words.push(reach_name(under.kind).to_owned());
    }
    words.extend(of(under).differences(&of(others)).into_iter().map(|(what, own, _)| match what {
        "the state of the doors" => format!("doors {own}"),
        _ => own,
    }));
    words.join(", ")
}

fn reach_name(kind: TestKind) -> &'static str {
    match kind {
        TestKind::Local => "local test",
        TestKind::Internet => "internet test",
        TestKind::SecondLine => "internet test by the second line",
    }
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

/// Readings that are alike.
#[derive(Debug, Clone)]
pub struct Group<'a> {
    /// Their conditions.
    pub conditions: Conditions,
    /// Their rounds.
    pub rounds: Vec<&'a Round>,
    /// Those of their runs that count.
    pub runs: Vec<&'a Run>,
}

impl Group<'_> {
    fn newest(&self) -> Option<Timestamp> {
        self.runs.iter().map(|run| run.at).max()
    }

    /// What they come to at each spot.
    #[must_use]
    pub fn summaries(&self) -> HashMap<SpotId, Summary> {
        let mut by_spot: HashMap<SpotId, Vec<&Run>> = HashMap::new();
        for run in &self.runs {
            by_spot.entry(run.spot_id).or_default().push(run);
        }
        by_spot.into_iter().filter_map(|(spot, runs)| Some((spot, summarise(runs)?))).collect()
    }
}

/// All counting tests of speed at the spots of rooms, sorted into groups of alike ones.
#[must_use]
pub fn groups<'a>(rounds: impl IntoIterator<Item = (&'a Round, &'a [Run])>) -> Vec<Group<'a>> {
    let mut list: Vec<Group<'a>> = Vec::new();
    for (round, runs) in rounds {
        for run in runs.iter().filter(|run| run.counts() && run.is_of_room()) {
            let conditions = Conditions { made_up: run.is_made_up(), under: run.under(round) };
            let group = match list.iter().position(|group| group.conditions == conditions) {
                Some(found) => &mut list[found],
                None => {
                    list.push(Group { conditions, rounds: Vec::new(), runs: Vec::new() });
                    let last = list.len() - 1;
                    &mut list[last]
                }
            };
            if group.rounds.last().is_none_or(|last| last.id != round.id) {
                group.rounds.push(round);
            }
            group.runs.push(run);
        }
    }
    list
}

/// How well a group answers a question: measured before made up, asked for before others, by the test of Busy Hen before what another tool
/// showed, newest first.
fn rank(group: &Group<'_>, asked: &Conditions) -> (bool, bool, bool, Option<Timestamp>) {
    let Conditions { made_up, under } = &group.conditions;
    (!made_up, group.conditions.alike(asked), under.tool.is_none(), group.newest())
}

/// The group that answers a question best.
#[must_use]
pub fn choose<'a>(groups: Vec<Group<'a>>, asked: &Conditions) -> Option<Group<'a>> {
    groups.into_iter().max_by(|a, b| rank(a, asked).cmp(&rank(b, asked)))
}
