//! Gaps in exchanges that go on without a break: of a call, and of a walk from one device to the next.

use busy_hen_home::raw::{Interruption, RawCall, RawWalk, RoundTrip};
use busy_hen_home::{CallCheck, Gap, WalkCheck};
use busy_hen_units::Millis;

use super::spoiled::{came_between, trips_sound};
use super::{Spoiled, median};

/// Silence by which a call is broken, ms.
///
/// # Source
/// ITU-T G.114: a one-way delay of 400 ms is the most that networks should be planned for.
pub const CALL_GAP_MS: f64 = 400.0;
/// Silence that counts as a gap of a walk, ms: what a call covers up without a word (engineering estimate, twice the 150 ms of
/// ITU-T G.114 less the pause between two exchanges).
const WALK_GAP_MS: f64 = 250.0;
/// Shortest call that says whether it holds, ms.
const HELD_LEAST_MS: f64 = 10_000.0;
/// Shortest walk, ms.
const WALKED_LEAST_MS: f64 = 3000.0;

/// What a call did.
///
/// # Errors
/// [`Spoiled`] when something came between or it was too short. A connection that broke and stayed away is a gap to the end.
pub fn call(raw: &RawCall) -> Result<CallCheck, Spoiled> {
    let list = silences(&raw.trips, raw.held_ms, &raw.interruptions, CALL_GAP_MS)?;
    if raw.held_ms.get() < HELD_LEAST_MS {
        return Err(Spoiled::CutShort);
    }
    let longest = list.iter().map(|(_, lasted)| *lasted).fold(0.0, f64::max);
    Ok(CallCheck {
        rate_mbps: raw.rate_mbps,
        delay_ms: delay(&raw.trips)?,
        gaps: u32::try_from(list.len()).unwrap_or(u32::MAX),
        longest_gap_ms: Millis::new(longest.round()),
        held_ms: Millis::new(raw.held_ms.get().round()),
    })
}

/// What a walk did, each gap with the spot that had been passed last.
///
/// # Errors
/// [`Spoiled`] when something else than a broken connection came between, or it was too short.
pub fn walk(raw: &RawWalk) -> Result<WalkCheck, Spoiled> {
    let list = silences(&raw.trips, raw.walked_ms, &raw.interruptions, WALK_GAP_MS)?;
    let in_order = raw.passed.is_sorted_by(|a, b| a.at_ms.get() <= b.at_ms.get());
    let first = raw.passed.first().filter(|_| in_order).ok_or(Spoiled::Nonsense)?;
    if raw.walked_ms.get() < WALKED_LEAST_MS {
        return Err(Spoiled::CutShort);
    }
    let after = |at: f64| raw.passed.iter().rfind(|passed| passed.at_ms.get() <= at).unwrap_or(first).spot_id;
    let gap = |(at, lasted): &(f64, f64)| Gap {
        at_ms: Millis::new(at.round()),
        lasted_ms: Millis::new(lasted.round()),
        after: after(*at),
    };
    Ok(WalkCheck {
        delay_ms: delay(&raw.trips)?,
        walked_ms: Millis::new(raw.walked_ms.get().round()),
        gaps: list.iter().map(gap).collect(),
    })
}

fn delay(trips: &[RoundTrip]) -> Result<Millis, Spoiled> {
    let median = median(trips.iter().map(|trip| trip.took_ms.get()).collect()).ok_or(Spoiled::TooFewExchanges)?;
    Ok(super::tenth(median))
}

/// Times between two answers, or to the end, that are longer than this, each with when it began, ms.
fn silences(
    trips: &[RoundTrip],
    length: Millis,
    interruptions: &[Interruption],
    longer_than: f64,
) -> Result<Vec<(f64, f64)>, Spoiled> {
    let others: Vec<_> = interruptions.iter().filter(|own| **own != Interruption::Broken).copied().collect();
    came_between(&others)?;
    if !trips_sound(trips) || !(0.0..=3.6e6).contains(&length.get()) {
        return Err(Spoiled::Nonsense);
    }
    let mut answered: Vec<f64> = trips.iter().map(|trip| (trip.at_ms + trip.took_ms).get()).collect();
    answered.push(0.0);
    answered.sort_by(f64::total_cmp);
    answered.push(length.get());
    Ok(answered
        .windows(2)
        .map(|pair| (pair[0], pair[1] - pair[0]))
        .filter(|(_, lasted)| *lasted > longer_than)
        .collect())
}
