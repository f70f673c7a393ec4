//! The conditions that make readings comparable, and the choice of readings that are alike.

use busy_hen_home::{Band, Doors, Round, Run, Situation, SpotId, TestKind};
use jiff::Timestamp;
use serde::Serialize;
use std::collections::HashMap;
use utoipa::ToSchema;

use super::summary::{Summary, summarise};
use crate::catalogue::clients;

/// All that must be alike in readings before they are put into one figure or set against each other.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, ToSchema)]
pub struct Conditions {
    /// Whether the product itself made the readings up; such never stand beside measured ones.
    pub made_up: bool,
    /// How far the test reached.
    pub kind: TestKind,
    /// Key of the test device.
    pub client: String,
    /// The band it was held to; none when it chose.
    pub band: Option<Band>,
    /// How the doors stood.
    pub doors: Doors,
    /// Whether the family was busy.
    pub situation: Situation,
}

impl Conditions {
    /// Those of a round.
    #[must_use]
    pub fn of(round: &Round, made_up: bool) -> Self {
        Self {
            made_up,
            kind: round.kind,
            client: round.client.clone(),
            band: round.band,
            doors: round.doors,
            situation: round.situation,
        }
    }

    /// Whether all but who took the readings is alike.
    #[must_use]
    pub fn alike(&self, other: &Self) -> bool {
        *self == Self { made_up: self.made_up, ..other.clone() }
    }

    /// What differs from others, as "the test device", this one's, the other's; empty when alike.
    #[must_use]
    pub fn differences(&self, other: &Self) -> Vec<(&'static str, String, String)> {
        let client = |one: &Self| clients::find(&one.client).map_or(one.client.clone(), |found| found.name.to_owned());
        let band = |one: &Self| one.band.map_or("any band".to_owned(), |band| band.to_string());
        let parts: [(&'static str, String, String); 4] = [
            ("the test device", client(self), client(other)),
            ("the band", band(self), band(other)),
            ("the state of the doors", door_name(self.doors).to_owned(), door_name(other.doors).to_owned()),
            ("the household", situation_name(self.situation).to_owned(), situation_name(other.situation).to_owned()),
        ];
        parts.into_iter().filter(|(_, own, others)| own != others).collect()
    }

    /// In words: "laptop, ax, two streams, 160 MHz, 5 GHz, doors shut, busy".
    #[must_use]
    pub fn in_words(&self) -> String {
        let client = clients::find(&self.client).map_or(self.client.as_str(), |found| found.name);
        let band = self.band.map_or("any band".to_owned(), |band| band.to_string());
        format!("{client}; {band}; doors {}; {}", door_name(self.doors), situation_name(self.situation))
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

/// All counting runs of some rounds, sorted into groups of alike ones.
#[must_use]
pub fn groups<'a>(rounds: impl IntoIterator<Item = (&'a Round, &'a [Run])>) -> Vec<Group<'a>> {
    let mut list: Vec<Group<'a>> = Vec::new();
    for (round, runs) in rounds {
        for made_up in [false, true] {
            let counting: Vec<&Run> = runs.iter().filter(|run| run.counts() && run.is_made_up() == made_up).collect();
            if counting.is_empty() {
                continue;
            }
            let conditions = Conditions::of(round, made_up);
            match list.iter_mut().find(|group| group.conditions == conditions) {
                Some(group) => {
                    group.rounds.push(round);
                    group.runs.extend(counting);
                }
                None => list.push(Group { conditions, rounds: vec![round], runs: counting }),
            }
        }
    }
    list
}

/// How well a group answers a question: measured before made up, asked for before others, newest first.
fn rank(group: &Group<'_>, asked: &Conditions) -> (bool, bool, Option<Timestamp>) {
    (!group.conditions.made_up, group.conditions.alike(asked), group.newest())
}

/// The group that answers a question best.
#[must_use]
pub fn choose<'a>(groups: Vec<Group<'a>>, asked: &Conditions) -> Option<Group<'a>> {
    groups.into_iter().max_by(|a, b| rank(a, asked).cmp(&rank(b, asked)))
}

/// Of two lists, the two groups to set against each other: alike ones where there are any, measured and asked for first.
#[must_use]
pub fn choose_pair<'a>(
    reference: Vec<Group<'a>>,
    other: Vec<Group<'a>>,
    asked: &Conditions,
) -> (Option<Group<'a>>, Option<Group<'a>>) {
    let alike = |group: &&Group<'_>| other.iter().any(|own| own.conditions == group.conditions);
    let best = reference.iter().filter(alike).max_by(|a, b| rank(a, asked).cmp(&rank(b, asked)));
    let Some(conditions) = best.map(|group| group.conditions.clone()) else {
        return (choose(reference, asked), choose(other, asked));
    };
    let of = |groups: Vec<Group<'a>>| groups.into_iter().find(|group| group.conditions == conditions);
    (of(reference), of(other))
}
