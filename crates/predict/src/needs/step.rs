//! Service steps: classes of what works at a place.

use busy_hen_units::{MbitPerSec, Millis};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What works at a place, from nothing to several things at once; each step holds all below it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ServiceStep {
    /// Nothing holds.
    #[default]
    Nothing,
    /// Messages and mail.
    Messages,
    /// Music and browsing.
    Music,
    /// A call.
    Call,
    /// HD film.
    HdFilm,
    /// 4K film.
    UhdFilm,
    /// Several at once.
    Several,
    /// Large files in the time of a coffee.
    LargeFiles,
    /// Half a gigabit.
    HalfGigabit,
    /// A gigabit port's worth.
    Gigabit,
}

/// Least download of each step above nothing, Mb/s; planning values as in [`super::activity::need_of`].
///
/// The three above "several at once" are common practice: a gigabit port passes about 940, so that its step begins at 900.
const DOWN: [f64; 9] = [0.5, 3.0, 4.0, 8.0, 25.0, 100.0, 250.0, 500.0, 900.0];
/// Least upload of each step above nothing, Mb/s.
const UP: [f64; 9] = [0.2, 0.3, 3.0, 3.0, 3.0, 15.0, 20.0, 30.0, 50.0];
/// Longest round trip of each step above nothing, ms.
const LATENCY: [f64; 9] = [1000.0, 500.0, 150.0, 150.0, 150.0, 100.0, 100.0, 100.0, 100.0];
/// How far below the first step the scale begins, as a ratio.
const BELOW_FIRST: f64 = 0.1;

impl ServiceStep {
    /// All steps, lowest first.
    pub const ALL: [Self; 10] = [
        Self::Nothing,
        Self::Messages,
        Self::Music,
        Self::Call,
        Self::HdFilm,
        Self::UhdFilm,
        Self::Several,
        Self::LargeFiles,
        Self::HalfGigabit,
        Self::Gigabit,
    ];

    /// Name for people.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Nothing => "nothing holds",
            Self::Messages => "messages and mail",
            Self::Music => "music and browsing",
            Self::Call => "a call",
            Self::HdFilm => "HD film",
            Self::UhdFilm => "4K film",
            Self::Several => "several at once",
            Self::LargeFiles => "large files",
            Self::HalfGigabit => "half a gigabit",
            Self::Gigabit => "a gigabit",
        }
    }

    /// The step that a score stands for.
    #[must_use]
    pub fn of_score(score: f64) -> Self {
        let index = score.clamp(0.0, (Self::ALL.len() - 1) as f64) as usize;
        Self::ALL[index]
    }

    /// Least download, least upload and longest round trip of the step; none for the lowest.
    #[must_use]
    pub fn asks(self) -> Option<(MbitPerSec, MbitPerSec, Millis)> {
        let index = (self as usize).checked_sub(1)?;
        Some((MbitPerSec::new(DOWN[index]), MbitPerSec::new(UP[index]), Millis::new(LATENCY[index])))
    }
}

/// How far up the steps these figures reach: its whole part is the step, its fraction the way to the next, so that contours can be
/// drawn between places. The worst of download, upload and delay decides.
#[must_use]
pub fn score(down: MbitPerSec, up: MbitPerSec, latency: Millis) -> f64 {
    if down.get() <= 0.0 || up.get() <= 0.0 || latency.get() <= 0.0 {
        return 0.0;
    }
    let delay = LATENCY.map(|limit| 1.0 / limit);
    reach(down.get(), &DOWN).min(reach(up.get(), &UP)).min(reach(1.0 / latency.get(), &delay))
}

/// How many thresholds (ascending) the value reaches, plus its way to the next on a logarithmic scale.
fn reach(value: f64, thresholds: &[f64]) -> f64 {
    let passed = thresholds.iter().take_while(|threshold| value >= **threshold).count();
    let Some(next) = thresholds.get(passed) else { return passed as f64 };
    let last = passed.checked_sub(1).map_or(thresholds[0] * BELOW_FIRST, |index| thresholds[index]);
    let way = (value / last).ln() / (next / last).ln();
    passed as f64 + way.clamp(0.0, 0.999)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn step(down: f64, up: f64, latency: f64) -> ServiceStep {
        ServiceStep::of_score(score(MbitPerSec::new(down), MbitPerSec::new(up), Millis::new(latency)))
    }

    #[test]
    fn each_step_begins_exactly_at_what_it_asks() {
        for own in ServiceStep::ALL {
            let Some((down, up, latency)) = own.asks() else { continue };
            assert_eq!(ServiceStep::of_score(score(down, up, latency)), own, "at least {own:?}");
            assert!(ServiceStep::of_score(score(down * 0.99, up, latency)) < own);
        }
    }

    #[test]
    fn the_worst_part_decides() {
        assert_eq!(step(100.0, 500.0, 5.0), ServiceStep::Several);
        assert_eq!(step(940.0, 940.0, 5.0), ServiceStep::Gigabit, "a gigabit port whole");
        assert_eq!(step(500.0, 1.0, 5.0), ServiceStep::Music, "a call needs upload");
        assert_eq!(step(500.0, 500.0, 600.0), ServiceStep::Messages, "a satellite's delay");
        assert_eq!(step(0.0, 5.0, 5.0), ServiceStep::Nothing);
    }

    proptest! {
        #[test]
        fn faster_is_never_a_lower_score(down in 0.01f64..500.0, up in 0.01f64..100.0, ms in 1.0f64..900.0, k in 1.0f64..3.0) {
            let at = |down, up, ms| score(MbitPerSec::new(down), MbitPerSec::new(up), Millis::new(ms));
            let base = at(down, up, ms);
            prop_assert!(at(down * k, up, ms) >= base);
            prop_assert!(at(down, up * k, ms) >= base);
            prop_assert!(at(down, up, ms / k) >= base);
        }
    }
}
