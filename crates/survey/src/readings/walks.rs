//! Walks of several setups laid over one another: speed over distance, or signal along a route.

use busy_hen_home::{LengthUnit, Run, SetupId};
use busy_hen_units::Metres;
use serde::Serialize;
use utoipa::ToSchema;

use super::marks::{MarkRow, rows};

/// Walks of one kind, laid over one another.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Walks {
    /// Whether they go away from the house, and not along a route through it.
    pub by_distance: bool,
    /// What is walked along: distances in metres, or the marks of the route in their order.
    pub stops: Vec<WalkStop>,
    /// A line a setup.
    pub lines: Vec<WalkLine>,
    /// Where one overtakes another, in words.
    pub told: Vec<String>,
}

/// A stop of a walk.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WalkStop {
    /// What it is called.
    pub name: String,
    /// How far along: metres, or its place in the route.
    pub along: f64,
}

/// What one setup showed along a walk.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WalkLine {
    /// The setup.
    pub setup_id: SetupId,
    /// Its letter.
    pub letter: String,
    /// A value a stop: median download in Mb/s over distance, strongest signal in dBm along a route; none where nothing was taken.
    pub values: Vec<Option<f64>>,
}

/// One setup's newest walk.
#[derive(Debug, Clone, Copy)]
pub struct Walked<'a> {
    /// The setup.
    pub setup_id: SetupId,
    /// Its letter.
    pub letter: &'a str,
    /// The runs of the walk.
    pub runs: &'a [Run],
}

/// Lays walks over one another; none with fewer than two.
#[must_use]
pub fn walks(list: &[Walked<'_>], by_distance: bool, units: LengthUnit) -> Option<Walks> {
    let found: Vec<Vec<(WalkStop, f64)>> = list.iter().map(|own| points(&rows(own.runs, None), by_distance)).collect();
    if found.iter().filter(|own| !own.is_empty()).count() < 2 {
        return None;
    }
    let mut stops: Vec<WalkStop> = Vec::new();
    for (stop, _) in found.iter().flatten() {
        if stops.iter().all(|own| own.name != stop.name) {
            stops.push(stop.clone());
        }
    }
    stops.sort_by(|a, b| a.along.total_cmp(&b.along));
    if !by_distance {
        stops.iter_mut().enumerate().for_each(|(place, own)| own.along = place as f64);
    }
    let lines: Vec<WalkLine> = list
        .iter()
        .zip(&found)
        .filter(|(_, own)| !own.is_empty())
        .map(|(walked, own)| WalkLine {
            setup_id: walked.setup_id,
            letter: walked.letter.to_owned(),
            values: stops.iter().map(|stop| own.iter().find(|one| one.0.name == stop.name).map(|one| one.1)).collect(),
        })
        .collect();
    let mut told = Vec::new();
    for (index, other) in lines.iter().enumerate() {
        for first in &lines[..index] {
            told.extend(overtakes(&stops, first, other).into_iter().map(|(along, ahead)| {
                let place = if by_distance {
                    units.in_words(Metres::new(along))
                } else {
                    stops.get(along.round() as usize).map(|stop| stop.name.clone()).unwrap_or_default()
                };
                let (winner, loser) =
                    if ahead { (&other.letter, &first.letter) } else { (&first.letter, &other.letter) };
                format!("{winner} overtakes {loser} at {place}.")
            }));
        }
    }
    Some(Walks { by_distance, stops, lines, told })
}

/// Places of a walk with what was found there: on the way out where it was walked both ways.
fn points(rows: &[MarkRow], by_distance: bool) -> Vec<(WalkStop, f64)> {
    rows.iter()
        .enumerate()
        .filter(|(_, row)| !row.mark.returning)
        .filter_map(|(place, row)| {
            if by_distance {
                let far = row.mark.distance_m?.get();
                return Some((WalkStop { name: format!("{far:.1}"), along: far }, row.summary?.down_mbps.median));
            }
            let strongest = row.heard.iter().filter_map(|own| own.signal_dbm).map(|own| own.get()).reduce(f64::max)?;
            Some((WalkStop { name: row.mark.name.clone(), along: place as f64 }, strongest))
        })
        .collect()
}

/// Where the second line goes past the first, or falls behind it again, along what both were walked over; straight between stops.
fn overtakes(stops: &[WalkStop], first: &WalkLine, second: &WalkLine) -> Vec<(f64, bool)> {
    let both: Vec<(f64, f64)> = stops
        .iter()
        .zip(first.values.iter().zip(&second.values))
        .filter_map(|(stop, (a, b))| Some((stop.along, (*b)? - (*a)?)))
        .filter(|(_, lead)| *lead != 0.0)
        .collect();
    let crossing = |pair: &[(f64, f64)]| {
        let [(from, before), (to, after)] = pair else { return None };
        (before.signum() != after.signum()).then(|| (from + (to - from) * before / (before - after), *after > 0.0))
    };
    both.windows(2).filter_map(crossing).collect()
}
