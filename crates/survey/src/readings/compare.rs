//! Any number of setups side by side: spot by spot with what runs show, and whether the columns are like for like.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use busy_hen_home::{Outcome, Plan, PlanId, Run, SetupId, SpotId, TestKind, local_hour};
use busy_hen_predict::conditions::{Conditions, Group, choose};
use busy_hen_predict::summary::Figures;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::interval::median_interval;
use super::rank_test::runs_needed_at;
use super::ratio::{Call, LEVEL, Ratio, Reading, RestsOn, holm, ratio, together};

/// Fewer runs than this at a spot and chance decides.
const FEW_RUNS: usize = 3;
/// Runs that lie farther apart than this belong to two visits, hours.
const VISIT_GAP_HOURS: f64 = 3.0;
/// Hours of the day farther apart than this are not alike.
const ALIKE_HOURS: f64 = 3.0;
/// A difference that one wants to see: a fifth.
const WANTED_RATIO: f64 = 1.2;

/// Which figure of runs is compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Measure {
    /// Download.
    #[default]
    Down,
    /// Upload.
    Up,
    /// Round trip with nothing else going on.
    Idle,
    /// Round trip while the test loads the link.
    Loaded,
}

impl Measure {
    /// Whether more of it is better.
    #[must_use]
    pub fn more_is_better(self) -> bool {
        matches!(self, Self::Down | Self::Up)
    }

    /// This figure of a run; none where it was not taken.
    #[must_use]
    pub fn of(self, run: &Run) -> Option<f64> {
        match (&run.outcome, self) {
            (Outcome::Measured { down_mbps, .. }, Self::Down) => Some(down_mbps.get()),
            (Outcome::Measured { up_mbps, .. }, Self::Up) => Some(up_mbps.get()),
            (Outcome::Measured { idle_ms, .. }, Self::Idle) => idle_ms.map(|ms| ms.get()),
            (Outcome::Measured { loaded_ms, .. }, Self::Loaded) => loaded_ms.map(|ms| ms.get()),
            (Outcome::NoConnection, Self::Down | Self::Up) => Some(0.0),
            _ => None,
        }
    }
}

/// Which figure of several runs is shown large.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ShownBy {
    /// The median.
    #[default]
    Median,
    /// The best.
    Best,
    /// The mean.
    Mean,
}

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
    /// Facts of its rounds that should be alike in all columns, each with what it was: far end, firmware, test machine.
    pub facts: Vec<(&'static str, String)>,
    /// The setup it is of, for facts that should be alike only within one.
    pub setup_id: Option<SetupId>,
    /// Those facts: channels, own networks on air, who served most.
    pub of_setup: Vec<(&'static str, String)>,
}

/// How readings are put side by side.
#[derive(Debug, Clone, Copy)]
pub struct Sides<'a> {
    /// Place of the column that the others are set against.
    pub reference: usize,
    /// The figure.
    pub measure: Measure,
    /// What is shown of several runs.
    pub shown: ShownBy,
    /// How far the tests reach.
    pub kind: TestKind,
    /// Plans, when their part that arrived is compared in place of the speed.
    pub share_of: Option<&'a [&'a Plan]>,
}

impl Sides<'_> {
    /// The figure of a run, as a part of the plan in force that day where that is compared; none where it was not taken.
    fn of(&self, run: &Run) -> Option<f64> {
        let value = self.measure.of(run)?;
        let Some(plans) = self.share_of.filter(|_| self.measure.more_is_better()) else { return Some(value) };
        let (down, up) = plans.iter().find(|plan| Some(plan.id) == run.plan_id)?.gives();
        let plan = if self.measure == Measure::Down { down } else { up };
        (plan.get() > 0.0).then(|| value / plan.get())
    }
}

/// Columns set side by side.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Comparison {
    /// A row a spot, in the order they were asked for, each with a cell a column.
    pub rows: Vec<Vec<Cell>>,
    /// All spots together, a column against the reference; none for the reference itself and where nothing is in common.
    pub whole: Vec<Option<Against>>,
    /// Why the columns are not like for like; empty when they are.
    pub unlike: Vec<Unlike>,
    /// How many runs each spot needs for a difference of a fifth to show; none without runs enough to tell how they spread.
    pub runs_for_a_fifth: Option<u32>,
}

/// What was measured at one spot of one setup.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct Cell {
    /// Each run's figure, lowest first: Mb/s, ms, or parts of the plan.
    pub values: Vec<f64>,
    /// What is shown of them; none without runs.
    pub shown: Option<f64>,
    /// Median and middle half.
    pub figures: Option<Figures>,
    /// Ends of the 95 % interval of the median; none of fewer than two runs.
    #[schema(value_type = Option<Vec<f64>>)]
    pub interval: Option<(f64, f64)>,
    /// Against the same spot of the reference; none for the reference itself, and where one of the two has no runs.
    pub against: Option<Against>,
}

/// One set of runs against that of the reference.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Against {
    /// The ratio, with its interval and what it rests on.
    #[serde(flatten)]
    pub ratio: Ratio,
    /// Probability that chance alone makes the difference, once all spots that were looked at are counted (Holm).
    pub adjusted_p: Option<f64>,
    /// What that says.
    pub call: Call,
    /// Whether it is better than the reference, when it is beyond the noise.
    pub better: Option<bool>,
    /// In words.
    pub told: String,
}

/// Something that keeps columns from being like for like.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Unlike {
    /// In words.
    pub told: String,
    /// Whether parts of the plan can be compared in place of speeds.
    pub share_helps: bool,
    /// Whether it parts two columns that are set against each other.
    pub parts_columns: bool,
}

/// Sets columns side by side at these spots.
///
/// # Complexity
/// O(columns x spots x runs^2)
#[must_use]
pub fn compare(spots: &[SpotId], columns: &[Column<'_>], sides: &Sides<'_>) -> Comparison {
    let visits = visits(columns.iter().filter_map(|column| column.group.as_ref()).flat_map(|own| &own.runs));
    let read: Vec<HashMap<SpotId, Vec<Reading>>> =
        columns.iter().map(|column| readings(column, sides, &visits)).collect();
    let made_up = |column: &Column<'_>| column.group.as_ref().map(|group| group.conditions.made_up);
    let none = Vec::new();
    let of = |column: usize, spot: &SpotId| read[column].get(spot).unwrap_or(&none);
    let mut rows: Vec<Vec<Cell>> =
        spots.iter().map(|spot| (0..columns.len()).map(|own| Cell::of(of(own, spot), sides)).collect()).collect();
    let mut whole = vec![None; columns.len()];
    for (index, column) in columns.iter().enumerate() {
        // What the product made up is never set against what was measured.
        if index == sides.reference || made_up(column) != made_up(&columns[sides.reference]) {
            continue;
        }
        let pairs: Vec<(usize, Ratio)> = spots
            .iter()
            .enumerate()
            .filter_map(|(row, spot)| Some((row, ratio(of(sides.reference, spot), of(index, spot))?)))
            .collect();
        let known: Vec<f64> = pairs.iter().map(|(_, own)| own.p.unwrap_or(1.0)).collect();
        for ((row, own), adjusted) in pairs.iter().zip(holm(&known)) {
            let adjusted = own.p.map(|_| adjusted);
            rows[*row][index].against = Some(Against::new(*own, adjusted, pairs.len(), sides.measure));
        }
        let both: Vec<(Vec<Reading>, Vec<Reading>)> = pairs
            .iter()
            .map(|(row, _)| (of(sides.reference, &spots[*row]).clone(), of(index, &spots[*row]).clone()))
            .collect();
        whole[index] = together(&both).map(|own| Against::new(own, own.p, 1, sides.measure));
    }
    let looked_at = rows.iter().filter(|row| row.iter().filter(|cell| !cell.values.is_empty()).count() > 1).count();
    let runs_for_a_fifth = spread(&rows).map(|spread| {
        let by_power = runs_needed_at(spread, WANTED_RATIO, LEVEL / looked_at.max(1) as f64);
        by_power.max(least_runs(looked_at))
    });
    Comparison { rows, whole, unlike: unlike(columns, sides), runs_for_a_fifth }
}

/// Fewest runs of two setups that a rank test over so many spots can show anything with.
#[must_use]
pub fn least_runs(spots: usize) -> u32 {
    let ways = |runs: u32| (1..=runs).map(|i| f64::from(runs + i) / f64::from(i)).product::<f64>();
    (2..=20).find(|runs| 2.0 / ways(*runs) * spots.max(1) as f64 <= LEVEL).unwrap_or(20)
}

/// How runs at one spot spread in the middle, as a part; none where no spot has three.
fn spread(rows: &[Vec<Cell>]) -> Option<f64> {
    let cells = rows.iter().flatten().filter(|cell| cell.values.len() >= FEW_RUNS);
    let mut spreads: Vec<f64> = cells
        .filter_map(|cell| {
            let own = Figures::of(cell.values.clone())?;
            let squares: f64 = cell.values.iter().map(|value| (value - own.mean).powi(2)).sum();
            (own.mean > 0.0).then(|| (squares / (cell.values.len() as f64 - 1.0)).sqrt() / own.mean)
        })
        .collect();
    spreads.sort_by(f64::total_cmp);
    busy_hen_predict::summary::quantile(&spreads, 0.5)
}

/// Which visit each moment belongs to: visits are parted by three hours without a run.
fn visits<'r>(runs: impl Iterator<Item = &'r &'r Run>) -> Vec<(Timestamp, usize)> {
    let mut moments: Vec<Timestamp> = runs.map(|run| run.at).collect();
    moments.sort();
    let mut list: Vec<(Timestamp, usize)> = Vec::with_capacity(moments.len());
    for moment in moments {
        let visit = list.last().map_or(0, |(last, visit)| {
            let hours = (moment.as_second() - last.as_second()) as f64 / 3600.0;
            visit + usize::from(hours > VISIT_GAP_HOURS)
        });
        list.push((moment, visit));
    }
    list
}

fn readings(column: &Column<'_>, sides: &Sides<'_>, visits: &[(Timestamp, usize)]) -> HashMap<SpotId, Vec<Reading>> {
    let mut list: HashMap<SpotId, Vec<Reading>> = HashMap::new();
    for run in column.group.iter().flat_map(|group| &group.runs) {
        let Some(value) = sides.of(run) else { continue };
        let visit = visits.binary_search_by(|(at, _)| at.cmp(&run.at)).map_or(0, |index| visits[index].1);
        list.entry(run.spot_id).or_default().push(Reading { visit, value });
    }
    list.into_iter().map(|(spot, own)| (spot, thinned(own))).collect()
}

/// Readings of one spot that are set against others at most. Nobody takes as many by hand; what a machine adds beyond makes differences no surer here.
const READINGS_MOST: usize = 240;

/// The same readings, or of very many so many that stand for all: of each visit its quantiles, as many as its part of all. Fewer readings than there are
/// never make a difference look surer than it is.
fn thinned(readings: Vec<Reading>) -> Vec<Reading> {
    if readings.len() <= READINGS_MOST {
        return readings;
    }
    let all = readings.len();
    let mut by_visit: BTreeMap<usize, Vec<f64>> = BTreeMap::new();
    readings.iter().for_each(|own| by_visit.entry(own.visit).or_default().push(own.value));
    let of_visit = |(visit, mut values): (usize, Vec<f64>)| {
        values.sort_by(f64::total_cmp);
        let count = (values.len() * READINGS_MOST / all).max(1);
        let step = values.len() as f64 / count as f64;
        (0..count).map(move |own| Reading { visit, value: values[((own as f64 + 0.5) * step) as usize] })
    };
    by_visit.into_iter().flat_map(of_visit).collect()
}

impl Cell {
    fn of(readings: &[Reading], sides: &Sides<'_>) -> Self {
        let mut values: Vec<f64> = readings.iter().map(|own| own.value).collect();
        values.sort_by(f64::total_cmp);
        let figures = Figures::of(values.clone());
        let best = if sides.measure.more_is_better() { values.last() } else { values.first() };
        let shown = figures.map(|own| match sides.shown {
            ShownBy::Median => own.median,
            ShownBy::Best => best.copied().unwrap_or(own.median),
            ShownBy::Mean => own.mean,
        });
        Self { interval: median_interval(&values), values, shown, figures, against: None }
    }
}

impl Against {
    /// What a ratio says, once all that were looked at are counted.
    #[must_use]
    pub fn new(ratio: Ratio, adjusted_p: Option<f64>, looked_at: usize, measure: Measure) -> Self {
        let call = ratio.call(adjusted_p, looked_at);
        let better = (call == Call::Beyond).then_some((ratio.ratio > 1.0) == measure.more_is_better());
        Self { told: in_words(&ratio, call), ratio, adjusted_p, call, better }
    }
}

/// A ratio as people read it: "1.6 times", "12 times", "a third", "from nothing".
#[must_use]
pub fn times(ratio: f64) -> String {
    match ratio {
        r if r > 500.0 => "from nothing".to_owned(),
        r if r < 0.002 => "to nothing".to_owned(),
        r if r >= 9.95 => format!("{r:.0} times"),
        r if r >= 1.995 => format!("{r:.1} times"),
        r if r >= 0.995 => format!("{r:.2} times"),
        r => format!("{r:.2} of it"),
    }
}

fn in_words(ratio: &Ratio, call: Call) -> String {
    let middle = times(ratio.ratio);
    let ends = ratio.interval.map(|(low, high)| format!(" ({low:.2} to {high:.2})")).unwrap_or_default();
    let visits = if ratio.basis == RestsOn::OwnVisits { ", each on its own visit" } else { "" };
    match call {
        Call::Beyond => format!("{middle}{ends}: beyond the noise{visits}"),
        Call::NotShown if ratio.interval.is_some_and(|(low, high)| low > 1.0 || high < 1.0) => {
            format!("{middle}{ends} by itself; counting all rooms it isn’t sure{visits}")
        }
        Call::NotShown => format!("{middle}{ends}: no difference shown{visits}"),
        Call::CantTell { more } => {
            let runs = ratio.runs.0.min(ratio.runs.1);
            let have = if runs == 1 { "one run".to_owned() } else { format!("{runs} runs") };
            let more = more.map(|more| format!(": {more} more would")).unwrap_or_default();
            format!("{middle}: can’t tell with {have}{more}")
        }
    }
}

/// Change from one speed to another, percent; none from nothing.
#[must_use]
pub fn change_percent(reference: f64, other: f64) -> Option<f64> {
    (reference > 0.0).then(|| (other / reference - 1.0) * 100.0)
}

/// Of several setups' groups, one each to set side by side: those that are alike in most of them, measured and asked for first.
#[must_use]
pub fn choose_alike<'a>(lists: Vec<Vec<Group<'a>>>, asked: &Conditions) -> Vec<Option<Group<'a>>> {
    let mut kinds: Vec<&Conditions> = lists.iter().flatten().map(|group| &group.conditions).collect();
    kinds.sort();
    kinds.dedup();
    let shared =
        |own: &Conditions| lists.iter().filter(|list| list.iter().any(|group| group.conditions == *own)).count();
    let newest = |own: &Conditions| {
        let of = lists.iter().flatten().filter(|group| group.conditions == *own);
        of.flat_map(|group| &group.runs).map(|run| run.at).max()
    };
    // What an application elsewhere showed, pasted into one round, does not take the place of the columns' own test.
    let rank = |own: &Conditions| {
        (!own.made_up, shared(own) > 1, own.alike(asked), own.under.tool.is_none(), shared(own), newest(own))
    };
    let best = kinds.into_iter().max_by(|a, b| rank(a).cmp(&rank(b))).cloned();
    lists
        .into_iter()
        .map(|list| {
            let alike = best.as_ref().and_then(|best| list.iter().position(|group| group.conditions == *best));
            match alike {
                Some(index) => list.into_iter().nth(index),
                None => choose(list, asked),
            }
        })
        .collect()
}

fn unlike(columns: &[Column<'_>], sides: &Sides<'_>) -> Vec<Unlike> {
    let mut list: Vec<Unlike> = Vec::new();
    let mut put = |told: String| list.push(Unlike { told, share_helps: false, parts_columns: false });
    let wanted = match sides.kind {
        TestKind::Local => "local ones",
        TestKind::Internet => "internet ones",
        TestKind::SecondLine => "ones by the second line",
    };
    for column in columns {
        let name = &column.name;
        if column.other_kind_only {
            put(format!("{name} has tests of another kind only; run {wanted}, the two can't be compared."));
        }
        let Some(group) = &column.group else { continue };
        if group.conditions.made_up {
            put(format!("The readings of {name} are made up by the stand-in phone; they prove nothing."));
        }
        if let Some(fewest) = group.summaries().values().map(|s| s.runs).min().filter(|fewest| *fewest < FEW_RUNS) {
            let runs = if fewest == 1 { "one run".to_owned() } else { format!("{fewest} runs") };
            put(format!("{name} has a spot with only {runs}; chance may decide there, take six."));
        }
        if !column.changed_since.is_empty() {
            put(format!("{name} was tested before {}.", column.changed_since.join(", before ")));
        }
    }
    let reference = &columns[sides.reference];
    let Some(own) = &reference.group else { return list };
    let not_like =
        |told: String| Unlike { told: format!("Not like for like: {told}"), share_helps: false, parts_columns: true };
    for (column, other) in columns.iter().filter_map(|column| Some((column, column.group.as_ref()?))) {
        if std::ptr::eq(column, reference) {
            continue;
        }
        let (first, second) = (&reference.name, &column.name);
        if own.conditions.made_up != other.conditions.made_up {
            let told = format!("measured and made-up readings are not set against each other ({first}, {second}).");
            list.push(not_like(told));
        }
        for (what, left, right) in own.conditions.differences(&other.conditions) {
            list.push(not_like(format!("{what} was {left} for {first} and {right} for {second}.")));
        }
        let plans = |group: &Group<'_>| group.runs.iter().map(|run| run.plan_id).collect::<BTreeSet<Option<PlanId>>>();
        if sides.kind.is_internet() && sides.share_of.is_none() && plans(own) != plans(other) {
            let told = format!("the internet plan in force was not the same for {first} and {second}.");
            list.push(Unlike { share_helps: true, ..not_like(told) });
        }
        if let (Some(one), Some(two)) = (hour(own), hour(other)) {
            let apart = (one - two).abs().min(24.0 - (one - two).abs());
            if apart > ALIKE_HOURS {
                list.push(not_like(format!(
                    "{first} was tested around {}, {second} around {}.",
                    clock(one),
                    clock(two)
                )));
            }
        }
        let same_setup = reference.setup_id.is_some() && reference.setup_id == column.setup_id;
        let of_setup = |own: &Column<'_>| if same_setup { own.of_setup.clone() } else { Vec::new() };
        let theirs: Vec<(&'static str, String)> = column.facts.iter().cloned().chain(of_setup(column)).collect();
        for (what, is) in reference.facts.iter().cloned().chain(of_setup(reference)) {
            let others = theirs.iter().find(|(own, _)| *own == what).map(|(_, is)| is);
            if let Some(others) = others.filter(|others| **others != is) {
                list.push(not_like(format!("{what} was {is} for {first} and {others} for {second}.")));
            }
        }
        let most = |group: &Group<'_>| group.summaries().values().map(|own| own.runs).max().unwrap_or(0);
        let (one, two) = (most(own), most(other));
        if one.max(two) > 2 * one.min(two) {
            list.push(not_like(format!("{first} has up to {one} runs a spot and {second} up to {two}.")));
        }
    }
    list
}

/// Middle hour of the day of a group's runs.
fn hour(group: &Group<'_>) -> Option<f64> {
    let mut hours: Vec<f64> = group.runs.iter().map(|run| local_hour(run.at)).collect();
    hours.sort_by(f64::total_cmp);
    busy_hen_predict::summary::quantile(&hours, 0.5)
}

fn clock(hour: f64) -> String {
    format!("{:02.0}:{:02.0}", hour.floor(), ((hour.fract() * 4.0).floor() * 15.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Readings of some visits, spread by a tenth about this.
    fn spread(count: usize, visits: usize, about: f64) -> Vec<Reading> {
        let part = |own: usize| (own * 7919 % 1000) as f64 / 1000.0 - 0.5;
        (0..count).map(|own| Reading { visit: own % visits, value: about * (1.0 + part(own) / 5.0) }).collect()
    }

    #[test]
    fn very_many_readings_are_set_against_others_by_their_quantiles_and_look_no_surer() {
        for (count, visits) in [(10_000, 1), (10_000, 7), (3000, 50)] {
            let (few, many) = (spread(200, visits, 80.0), spread(count, visits, 80.0));
            let thin = thinned(many.clone());
            assert!(thin.len() <= READINGS_MOST, "{count}: {}", thin.len());
            let middle = |list: &[Reading]| Figures::of(list.iter().map(|own| own.value).collect()).unwrap();
            let (all, kept) = (middle(&many), middle(&thin));
            assert!((all.median / kept.median - 1.0).abs() < 0.005, "{count}: {} {}", all.median, kept.median);
            assert!(
                thin.iter().all(|own| own.visit < visits)
                    && (0..visits).all(|own| thin.iter().any(|one| one.visit == own))
            );
            let told = ratio(&thin, &thinned(spread(count, visits, 88.0))).unwrap();
            assert!((told.ratio - 1.1).abs() < 0.01 && told.p.unwrap() < 0.01, "{told:?}");
            assert_eq!(thinned(few.clone()).len(), few.len(), "what a person takes is taken as it is");
        }
    }
}
