//! Where a rate has settled: what comes before is the ramp of the connection, not the speed of the link.

use busy_hen_home::raw::Arrived;

/// Length of a step of the rate series, ms.
pub const STEP_MS: f64 = 50.0;
/// Steps in a batch.
const BATCH: usize = 5;
/// Batches below which nothing can be said of a series.
const BATCHES_LEAST: usize = 6;

/// The rate in even steps from the first byte to the last, Mb/s: what had arrived is taken to arrive evenly between two counts.
#[must_use]
pub fn rates(arrived: &[Arrived]) -> Vec<f64> {
    let (Some(first), Some(last)) = (arrived.first(), arrived.last()) else { return Vec::new() };
    let begun = first.at_ms.get();
    let steps = ((last.at_ms.get() - begun) / STEP_MS).floor();
    if !(1.0..100_000.0).contains(&steps) {
        return Vec::new();
    }
    let mut at = 0;
    let mut bytes_by = |ms: f64| {
        while at + 2 < arrived.len() && arrived[at + 1].at_ms.get() < ms {
            at += 1;
        }
        let (a, b) = (arrived[at], arrived[(at + 1).min(arrived.len() - 1)]);
        let span = b.at_ms.get() - a.at_ms.get();
        let part = if span > 0.0 { ((ms - a.at_ms.get()) / span).clamp(0.0, 1.0) } else { 1.0 };
        a.bytes as f64 + part * (b.bytes as f64 - a.bytes as f64)
    };
    let mut before = bytes_by(begun);
    (1..=steps as usize)
        .map(|step| {
            let now = bytes_by(begun + step as f64 * STEP_MS);
            let rate = (now - before) * 8.0 / (STEP_MS * 1000.0);
            before = now;
            rate
        })
        .collect()
}

/// Index of the first value that belongs to the settled part; none when the series is too short to tell.
///
/// # Source
/// MSER-5 (White, "An effective truncation heuristic for bias reduction in simulation output", Simulation 69, 1997; White, Cobb and
/// Spratt 2000): of the means of batches of five, cut off as many as make the standard error of the mean of the rest least, at most
/// half of them.
#[must_use]
pub fn settled_from(series: &[f64]) -> Option<usize> {
    let batches: Vec<f64> = series.chunks_exact(BATCH).map(|batch| batch.iter().sum::<f64>() / BATCH as f64).collect();
    if batches.len() < BATCHES_LEAST {
        return None;
    }
    let error = |cut: usize| {
        let rest = &batches[cut..];
        let count = rest.len() as f64;
        let mean = rest.iter().sum::<f64>() / count;
        rest.iter().map(|value| (value - mean).powi(2)).sum::<f64>() / (count * count)
    };
    (0..=batches.len() / 2).min_by(|a, b| error(*a).total_cmp(&error(*b))).map(|cut| cut * BATCH)
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_units::Millis;

    fn arrived(counts: &[(f64, u64)]) -> Vec<Arrived> {
        counts.iter().map(|(at, bytes)| Arrived { at_ms: Millis::new(*at), bytes: *bytes }).collect()
    }

    #[test]
    fn counts_become_rates_in_even_steps() {
        // 1 MB in 80 ms is 100 Mb/s, then nothing for 120 ms.
        let series = rates(&arrived(&[(1000.0, 0), (1080.0, 1_000_000), (1200.0, 1_000_000)]));
        let wanted = [100.0, 60.0, 0.0, 0.0];
        assert!(series.iter().zip(wanted).all(|(a, b)| (a - b).abs() < 1e-9), "{series:?}");
        assert_eq!(series.len(), 4);
        assert!(rates(&[]).is_empty() && rates(&arrived(&[(5.0, 10)])).is_empty());
    }

    #[test]
    fn the_ramp_is_cut_off_and_a_level_series_is_kept_whole() {
        let wave = |index: usize| 80.0 + ((index * 7919) % 13) as f64 / 6.5 - 1.0;
        let ramp = |index: usize| if index < 20 { 4.0 * index as f64 } else { wave(index) };
        let series: Vec<f64> = (0..120).map(ramp).collect();
        assert_eq!(settled_from(&series), Some(20));
        let level: Vec<f64> = (0..120).map(|_| 80.0).collect();
        assert_eq!(settled_from(&level), Some(0));
        assert_eq!(settled_from(&level[..29]), None, "five batches and a rest");
    }

    #[test]
    fn a_flash_at_the_beginning_does_not_count() {
        let series: Vec<f64> = (0..100).map(|index| if index < 10 { 900.0 } else { 100.0 }).collect();
        assert_eq!(settled_from(&series), Some(10));
    }
}
