//! What readings themselves say is wrong: rules over what was measured, each with what to check next.

use busy_hen_home::{CarriedBy, Outcome, RoomId, Run, SpotId, TestKind};
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_predict::path::chain::figure;
use busy_hen_predict::summary::{Summary, quantile};
use busy_hen_units::MbitPerSec;
use busy_hen_units::words::listed;

/// A rule over readings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReadingRule {
    /// A speed above all that could let it through.
    AboveCeiling,
    /// A cable slower than the air.
    CableBelowRadio,
    /// The same number in every setup.
    SameEverywhere,
    /// More up than down.
    MoreUpThanDown,
    /// The cable at the router far under the plan.
    WiredUnderPlan,
    /// Runs that lie far apart.
    Spread,
    /// A link rate told as a speed.
    LinkRateAsSpeed,
    /// Runs that did not go by the home's network.
    WrongNetwork,
    /// One room far off what was predicted, others near it.
    OneRoomOff,
    /// The busy evening much worse than another hour.
    EveningWorse,
}

impl ReadingRule {
    /// All of them.
    pub const ALL: [Self; 10] = [
        Self::AboveCeiling,
        Self::CableBelowRadio,
        Self::SameEverywhere,
        Self::MoreUpThanDown,
        Self::WiredUnderPlan,
        Self::Spread,
        Self::LinkRateAsSpeed,
        Self::WrongNetwork,
        Self::OneRoomOff,
        Self::EveningWorse,
    ];
}

/// Something that readings show.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReadingFinding {
    /// The rule.
    pub rule: ReadingRule,
    /// The spot it is about; none when it is about all.
    pub spot_id: Option<SpotId>,
    /// What was seen, in words.
    pub what: String,
    /// What to check next.
    pub next: String,
}

/// What was measured of one spot in one setup, beside what was to be expected.
#[derive(Debug, Clone)]
pub struct SpotReadings<'a> {
    /// The spot.
    pub spot: SpotId,
    /// Its room.
    pub room: RoomId,
    /// What people call the place.
    pub place: String,
    /// Letter of the setup.
    pub setup: String,
    /// What its runs come to.
    pub summary: Summary,
    /// Its runs.
    pub runs: Vec<&'a Run>,
    /// Predicted download, poor, middle and good end.
    pub predicted: (f64, f64, f64),
    /// The most that anything can reach in the setup, down and up: the plan, or the router's port; Mb/s.
    pub ceiling: Option<(f64, f64)>,
    /// The part of the house that most hangs on there, in words.
    pub hangs_on: Option<String>,
}

/// All that rules look at.
#[derive(Debug, Clone, Default)]
pub struct Evidence<'a> {
    /// How far the tests reach.
    pub kind: Option<TestKind>,
    /// What the plan gives, down; Mb/s.
    pub plan_down: Option<f64>,
    /// Median of the cable at the router, down; Mb/s.
    pub wired_down: Option<f64>,
    /// What was measured, spot by spot and setup by setup.
    pub spots: Vec<SpotReadings<'a>>,
    /// Median downloads of the same spot and setup: in the quiet, and in the busy evening; with the place.
    pub evenings: Vec<(String, f64, f64)>,
    /// Runs that were taken, whether or not they count.
    pub taken: Vec<&'a Run>,
}

/// What counts as above a ceiling: tests scatter by some percent.
const ABOVE: f64 = 1.06;
/// Speeds within this part of each other are the same.
const SAME: f64 = 0.03;
/// A speed this near to the ceiling is at it.
const AT_CEILING: f64 = 0.9;
/// More up than down by this ratio is looked at.
const MORE_UP: f64 = 1.2;
/// A cable under this part of the plan is far under it.
const UNDER_PLAN: f64 = 0.85;
/// A middle half wider than this part of the median is a wide spread.
const WIDE: f64 = 0.4;
/// Runs below which nothing is said of spread.
const SPREAD_FROM: usize = 4;
/// A speed so near to the link rate, as a part, is none.
const LINK_RATE: f64 = 0.02;
/// The ratio to what was predicted from which a room is far off it.
const FAR_OFF: f64 = 2.0;
/// The ratio within which the others are near it.
const NEAR: f64 = 1.5;
/// An evening under this part of the quiet is much worse.
const WORSE: f64 = 0.6;

fn mbps(value: f64) -> String {
    figure(MbitPerSec::new(value))
}

/// What readings show, rule by rule.
#[must_use]
pub fn reading_findings(evidence: &Evidence<'_>) -> Vec<ReadingFinding> {
    let mut list = Vec::new();
    for rule in ReadingRule::ALL {
        match rule {
            ReadingRule::AboveCeiling => above_ceiling(evidence, &mut list),
            ReadingRule::CableBelowRadio => cable_below_radio(evidence, &mut list),
            ReadingRule::SameEverywhere => same_everywhere(evidence, &mut list),
            ReadingRule::MoreUpThanDown => more_up(evidence, &mut list),
            ReadingRule::WiredUnderPlan => wired_under_plan(evidence, &mut list),
            ReadingRule::Spread => spread(evidence, &mut list),
            ReadingRule::LinkRateAsSpeed => link_rate(evidence, &mut list),
            ReadingRule::WrongNetwork => wrong_network(evidence, &mut list),
            ReadingRule::OneRoomOff => one_room_off(evidence, &mut list),
            ReadingRule::EveningWorse => evening_worse(evidence, &mut list),
        }
    }
    list
}

fn put(list: &mut Vec<ReadingFinding>, rule: ReadingRule, spot: Option<SpotId>, what: String, next: &str) {
    list.push(ReadingFinding { rule, spot_id: spot, what, next: next.to_owned() });
}

fn above_ceiling(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    for own in &evidence.spots {
        let Some((down, _)) = own.ceiling.filter(|(down, _)| own.summary.down_mbps.median > ABOVE * down) else {
            continue;
        };
        let what = format!(
            "{} in {} reads {}, more than the {} that can come through.",
            own.setup,
            own.place,
            mbps(own.summary.down_mbps.median),
            mbps(down)
        );
        put(
            list,
            ReadingRule::AboveCeiling,
            Some(own.spot),
            what,
            "Look at what the brief says of the plan, whether the test was a local one, and which network the phone was on.",
        );
    }
}

fn cable_below_radio(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    let Some(wired) = evidence.wired_down else { return };
    let best = evidence.spots.iter().max_by(|a, b| a.summary.down_mbps.median.total_cmp(&b.summary.down_mbps.median));
    if let Some(own) = best.filter(|own| own.summary.down_mbps.median > ABOVE * wired) {
        let what = format!(
            "By cable the router gives {}, by air {} in {}.",
            mbps(wired),
            mbps(own.summary.down_mbps.median),
            own.place
        );
        put(
            list,
            ReadingRule::CableBelowRadio,
            Some(own.spot),
            what,
            "Test the cable, its port and the machine it was tested with: one of them negotiates less.",
        );
    }
}

fn same_everywhere(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    let mut spots: Vec<SpotId> = evidence.spots.iter().map(|own| own.spot).collect();
    spots.dedup();
    let mut places: Vec<(&str, f64, Vec<&str>)> = Vec::new();
    for spot in spots {
        let here: Vec<&SpotReadings<'_>> = evidence.spots.iter().filter(|own| own.spot == spot).collect();
        let medians: Vec<f64> = here.iter().map(|own| own.summary.down_mbps.median).collect();
        let (low, high) = medians.iter().fold((f64::INFINITY, 0.0_f64), |(l, h), own| (l.min(*own), h.max(*own)));
        let met = here.iter().all(|own| own.ceiling.is_none_or(|(ceiling, _)| low >= AT_CEILING * ceiling));
        let setups: Vec<&str> = here.iter().map(|own| own.setup.as_str()).collect();
        if here.len() >= 2
            && low > 0.0
            && high - low <= SAME * high
            && met
            && places.iter().all(|own| own.0 != here[0].place && own.2 == setups)
        {
            places.push((&here[0].place, high, setups));
        }
    }
    if let Some((first, speed, setups)) = places.first() {
        let others = places.len() - 1;
        let others = if others > 0 { format!(" and {others} places more") } else { String::new() };
        let what = format!(
            "{} read {} in {first}{others}: a ceiling is met, not the setups compared.",
            listed(setups.iter().copied()),
            mbps(*speed)
        );
        let next = if evidence.kind.is_some_and(TestKind::is_internet) {
            "Run local tests there: they go past the line and show what each setup can do."
        } else {
            "They share a limit: a port of the router, its cable, or the machine that answers the test."
        };
        put(list, ReadingRule::SameEverywhere, None, what, next);
    }
}

fn more_up(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    for own in &evidence.spots {
        let (down, up) = (own.summary.down_mbps.median, own.summary.up_mbps.median);
        if down <= 0.0 || up < MORE_UP * down {
            continue;
        }
        let over = own.ceiling.is_some_and(|(_, most)| up > ABOVE * most);
        let what = format!("{} in {} reads {} up and {} down.", own.setup, own.place, mbps(up), mbps(down));
        let next = if over {
            "More goes up than the line lets through: the two figures were swapped, or it was another network."
        } else {
            "Can it be? Download shares the air with what others fetch, and a far phone hears worse than it sends: run it again when nobody else is busy."
        };
        put(list, ReadingRule::MoreUpThanDown, Some(own.spot), what, next);
    }
}

fn wired_under_plan(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    let (Some(wired), Some(plan)) = (evidence.wired_down, evidence.plan_down) else { return };
    if evidence.kind.is_some_and(TestKind::is_internet) && wired < UNDER_PLAN * plan {
        let what = format!("By cable at the router {} arrive of the {} that are paid for.", mbps(wired), mbps(plan));
        put(
            list,
            ReadingRule::WiredUnderPlan,
            None,
            what,
            "Test at the box of the line itself, at another hour, and ask the provider before any Wi-Fi is changed.",
        );
    }
}

fn spread(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    for own in &evidence.spots {
        let figures = &own.summary.down_mbps;
        let wide = figures.upper_quartile - figures.lower_quartile;
        if own.summary.runs >= SPREAD_FROM && figures.median > 0.0 && wide > WIDE * figures.median {
            let what = format!(
                "Runs of {} in {} lie between {} and {}.",
                own.setup,
                own.place,
                mbps(figures.low),
                mbps(figures.high)
            );
            put(
                list,
                ReadingRule::Spread,
                Some(own.spot),
                what,
                "See whether the phone changes device or band between runs, and whether somebody else is busy; run six more.",
            );
        }
    }
}

fn link_rate(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    for own in &evidence.spots {
        let quoted = own.runs.iter().find(|run| match (&run.outcome, run.link_rate_mbps) {
            (Outcome::Measured { down_mbps, .. }, Some(rate)) => {
                rate.get() > 0.0 && (down_mbps.get() / rate.get() - 1.0).abs() < LINK_RATE
            }
            _ => false,
        });
        if let Some(rate) = quoted.and_then(|run| run.link_rate_mbps) {
            let what =
                format!("A run of {} in {} reads just its link rate, {}.", own.setup, own.place, mbps(rate.get()));
            put(
                list,
                ReadingRule::LinkRateAsSpeed,
                Some(own.spot),
                what,
                "A link rate is no speed: half to two thirds of it arrive. Type what a test shows.",
            );
        }
    }
}

fn wrong_network(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    let slipped = |run: &&&Run| matches!(run.carried_by, CarriedBy::MobileData | CarriedBy::OtherWifi);
    let count = evidence.taken.iter().filter(slipped).count();
    if count > 0 {
        let runs = if count == 1 { "One run went".to_owned() } else { format!("{count} runs went") };
        let what = format!("{runs} by another network and do not count.");
        put(
            list,
            ReadingRule::WrongNetwork,
            None,
            what,
            "Switch mobile data off and forget other networks on the phone, then run them again.",
        );
    }
}

fn one_room_off(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    let mut setups: Vec<&str> = evidence.spots.iter().map(|own| own.setup.as_str()).collect();
    setups.sort_unstable();
    setups.dedup();
    for setup in setups {
        let here: Vec<&SpotReadings<'_>> = evidence.spots.iter().filter(|own| own.setup == setup).collect();
        let off = |own: &SpotReadings<'_>| own.summary.down_mbps.median.max(0.1) / own.predicted.1.max(0.1);
        let far: Vec<&&SpotReadings<'_>> = here.iter().filter(|own| off(own).ln().abs() > FAR_OFF.ln()).collect();
        let near = here.iter().filter(|own| off(own).ln().abs() <= NEAR.ln()).count();
        let ([own], true) = (&far[..], here.len() >= 4 && near + 1 >= here.len() - here.len() / 4) else { continue };
        let what = format!(
            "{} in {} reads {} where {} was predicted; all other rooms are as predicted.",
            own.setup,
            own.place,
            mbps(own.summary.down_mbps.median),
            mbps(own.predicted.1)
        );
        let by = own
            .hangs_on
            .as_ref()
            .map(|part| format!(" Most hangs on {part}: is it what was written down?"))
            .unwrap_or_default();
        let next = format!("See which device serves there, and whether a door stood otherwise.{by}");
        put(list, ReadingRule::OneRoomOff, Some(own.spot), what, &next);
    }
}

fn evening_worse(evidence: &Evidence<'_>, list: &mut Vec<ReadingFinding>) {
    let ratios: Vec<f64> =
        evidence.evenings.iter().filter(|(_, quiet, _)| *quiet > 0.0).map(|(_, quiet, busy)| busy / quiet).collect();
    let mut sorted = ratios.clone();
    sorted.sort_by(f64::total_cmp);
    let Some(middle) = quantile(&sorted, 0.5).filter(|middle| *middle < WORSE) else { return };
    let worst = evidence.evenings.iter().min_by(|a, b| (a.2 / a.1.max(0.1)).total_cmp(&(b.2 / b.1.max(0.1))));
    let Some((place, quiet, busy)) = worst else { return };
    let what = format!(
        "In the busy evening {:.0} % of the quiet is left, in {place} {} of {}.",
        100.0 * middle,
        mbps(*busy),
        mbps(*quiet)
    );
    put(
        list,
        ReadingRule::EveningWorse,
        None,
        what,
        "Tell the line from the air: run a local test in the evening. If that holds, it is the plan or the provider; if not, the channel.",
    );
}
