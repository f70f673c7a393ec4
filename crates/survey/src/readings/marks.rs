//! Rounds that go by marks: outlets, places of a node, distances, marks along a route.

use busy_hen_home::{Band, KitStatus, Mark, Run, Situation};
use busy_hen_units::{Dbm, MbitPerSec, Metres};
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_predict::needs::{Need, Verdict, verdict};
use busy_hen_predict::summary::{Summary, quantile, summarise};

/// What was found at one mark.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MarkRow {
    /// The mark.
    pub mark: Mark,
    /// Runs there that count.
    pub runs: usize,
    /// What the tests of speed come to.
    pub summary: Option<Summary>,
    /// Judged against the need.
    pub verdict: Option<Verdict>,
    /// What was heard of each band.
    pub heard: Vec<HeardBand>,
    /// What the kit showed there last.
    pub kit_status: Option<KitStatus>,
}

/// What was heard of one band at a mark: medians.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct HeardBand {
    /// The band; none when not known.
    pub band: Option<Band>,
    /// Signal.
    pub signal_dbm: Option<Dbm>,
    /// Negotiated link rate.
    pub link_rate_mbps: Option<MbitPerSec>,
}

/// The runs of a round by their marks, in the order of the marks' distances, or else as they were first taken; judged by what their room
/// needs and by who was busy.
#[must_use]
pub fn rows(runs: &[Run], need: Option<(&Need, Situation)>) -> Vec<MarkRow> {
    let mut lots: Vec<(&Mark, Vec<&Run>)> = Vec::new();
    for run in runs.iter().filter(|run| run.counts()) {
        let Some(mark) = &run.mark else { continue };
        match lots.iter_mut().find(|(own, _)| *own == mark) {
            Some((_, lot)) => lot.push(run),
            None => lots.push((mark, vec![run])),
        }
    }
    // Out and back are two walks; each in its own direction.
    let way = |mark: &Mark| mark.distance_m.map_or(0.0, |far| if mark.returning { -far.get() } else { far.get() });
    lots.sort_by(|(a, _), (b, _)| a.returning.cmp(&b.returning).then(way(a).total_cmp(&way(b))));
    lots.into_iter().map(|(mark, lot)| row(mark, &lot, need)).collect()
}

fn row(mark: &Mark, runs: &[&Run], need: Option<(&Need, Situation)>) -> MarkRow {
    let summary = summarise(runs.iter().copied());
    let mut bands: Vec<Option<Band>> = runs
        .iter()
        .filter(|run| run.signal_dbm.is_some() || run.link_rate_mbps.is_some())
        .map(|run| run.band)
        .collect();
    bands.sort_unstable();
    bands.dedup();
    let median = |band: Option<Band>, of: &dyn Fn(&Run) -> Option<f64>| {
        let mut values: Vec<f64> = runs.iter().filter(|run| run.band == band).filter_map(|run| of(run)).collect();
        values.sort_by(f64::total_cmp);
        quantile(&values, 0.5)
    };
    MarkRow {
        mark: mark.clone(),
        runs: runs.len(),
        verdict: need.zip(summary).map(|((need, situation), own)| verdict::measured(need, &own, situation)),
        summary,
        heard: bands
            .into_iter()
            .map(|band| HeardBand {
                band,
                signal_dbm: median(band, &|run| run.signal_dbm.map(|own| own.get())).map(Dbm::new),
                link_rate_mbps: median(band, &|run| run.link_rate_mbps.map(|own| own.get())).map(MbitPerSec::new),
            })
            .collect(),
        kit_status: runs.iter().max_by_key(|run| run.at).and_then(|run| run.kit_status),
    }
}

/// How far a range walk held.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct DropOut {
    /// The farthest distance at which it held on the way out.
    pub held_m: Option<Metres>,
    /// The nearest distance beyond that at which it did not; none while it was not walked to the end.
    pub lost_m: Option<Metres>,
    /// The farthest distance at which it was there again on the way back.
    pub back_m: Option<Metres>,
}

/// Where a range walk dropped out and came back: a mark holds when more than half of its runs had a connection.
#[must_use]
pub fn drop_out(rows: &[MarkRow]) -> DropOut {
    let holds = |row: &&MarkRow| row.summary.is_some_and(|own| own.without_connection * 2 < own.runs);
    let of = |returning: bool| {
        let mut list: Vec<(f64, bool)> = rows
            .iter()
            .filter(|row| row.mark.returning == returning && row.summary.is_some())
            .filter_map(|row| Some((row.mark.distance_m?.get(), holds(&row))))
            .collect();
        list.sort_by(|a, b| a.0.total_cmp(&b.0));
        list
    };
    let (out, back) = (of(false), of(true));
    let farthest = |list: &[(f64, bool)]| list.iter().rfind(|(_, holds)| *holds).map(|(far, _)| *far);
    let held = farthest(&out);
    let lost = out.iter().find(|(far, holds)| !holds && held.is_none_or(|held| *far > held)).map(|(far, _)| *far);
    DropOut { held_m: held.map(Metres::new), lost_m: lost.map(Metres::new), back_m: farthest(&back).map(Metres::new) }
}

/// The mark that served best: need met before not met, then the most download; of places of a node, by what the weak room gets.
/// None before anything was tested.
#[must_use]
pub fn best(rows: &[MarkRow]) -> Option<&Mark> {
    let rank = |row: &MarkRow| {
        let judged = match row.verdict {
            Some(Verdict::Met) => 2,
            Some(Verdict::JustMet | Verdict::Likely) => 1,
            Some(Verdict::NotMet) | None => 0,
        };
        (judged, row.summary.map_or(0.0, |own| own.down_mbps.median))
    };
    rows.iter()
        .filter(|row| !row.mark.beside_node && row.summary.is_some_and(|own| own.down_mbps.median > 0.0))
        .max_by(|a, b| rank(a).0.cmp(&rank(b).0).then(rank(a).1.total_cmp(&rank(b).1)))
        .map(|row| &row.mark)
}

/// What speaks against a kit's own status at a mark, in words; none where both agree or one of them is missing. Where a node is carried
/// about, only a test beside it speaks of its uplink: what the weak room gets has a hop more.
///
/// # Source
/// Kit shows "good" where its uplink carries what hangs on it (common practice); here that is the need of the weak room.
#[must_use]
pub fn against_status(row: &MarkRow, carried: bool) -> Option<String> {
    if carried && !row.mark.beside_node {
        return None;
    }
    let (status, verdict) = (row.kit_status?, row.verdict?);
    let met = verdict != Verdict::NotMet;
    let down = row.summary?.down_mbps.median;
    match (status, met) {
        (KitStatus::Good, false) => {
            Some(format!("The kit says good, but {down:.0} Mb/s arrive, less than is needed: go by the test."))
        }
        (KitStatus::Poor | KitStatus::Lost, true) => {
            Some(format!("The kit says poor, but {down:.0} Mb/s arrive, enough for the need: go by the test."))
        }
        _ => None,
    }
}
