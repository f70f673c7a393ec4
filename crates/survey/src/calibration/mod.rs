//! Calibration of a home by its readings: what they say ([`evidence`]), what was learnt in words ([`lessons`]), what would teach most
//! ([`next`]), and what the line was measured to give ([`line`]).

pub mod evidence;
pub mod lessons;
pub mod line;
pub mod next;

use busy_hen_predict::Knowledge;
use busy_hen_predict::calibration::Calibration;
use busy_hen_predict::calibration::observation::{AirShare, Observation};
use evidence::{Taken, observe};

/// Times that everything is predicted anew with what was learnt and fitted again: leaning changes as walls do.
const PASSES: usize = 2;

/// Learns from rounds, each in the home as it stood. Measured readings go before made-up ones; where there are both, the latter count for
/// nothing. None where no reading says anything.
///
/// # Complexity
/// O(rounds x house) to predict and O(observations^3) to fit, twice
#[must_use]
pub fn calibrate(taken: &[Taken<'_>], kept: &Knowledge) -> Option<Calibration> {
    let kept = kept.having(None);
    calibrate_from(|learnt| {
        let (mut observations, mut shares): (Vec<Observation>, Vec<AirShare>) = (Vec::new(), Vec::new());
        for own in taken {
            let (more, air) = observe(own, learnt, &kept);
            observations.extend(more);
            shares.extend(air);
        }
        (observations, shares)
    })
}

/// Learns from observations, made anew in the house as it was learnt to be before.
pub fn calibrate_from(
    observed: impl Fn(Option<&Calibration>) -> (Vec<Observation>, Vec<AirShare>),
) -> Option<Calibration> {
    let mut learnt: Option<Calibration> = None;
    for _ in 0..PASSES {
        let (mut observations, mut shares) = observed(learnt.as_ref());
        if observations.iter().any(|own| !own.made_up) {
            observations.retain(|own| !own.made_up);
            shares.retain(|own| !own.made_up);
        }
        learnt = Some(Calibration::new(observations, &shares, learnt.as_ref())?);
    }
    learnt
}
