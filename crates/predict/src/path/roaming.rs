//! Where a client that walks leaves one device for another.

use busy_hen_units::{Db, Dbm, Metres};

/// A step of a walk: how far along, and what is heard there of the serving device and of the candidate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Step {
    /// Way walked.
    pub at: Metres,
    /// Signal of the serving device.
    pub serving: Dbm,
    /// Signal of the candidate.
    pub candidate: Dbm,
}

/// Who decides that a client leaves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Leaving {
    /// The client: below the threshold, and only for a candidate so much stronger.
    ByClient(Db),
    /// The device: below the threshold, whatever the candidate.
    Enforced,
}

/// A hand-over.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HandOver {
    /// Where it happens.
    pub at: Metres,
    /// How much stronger the candidate then is.
    pub gap: Db,
}

/// The first place of a walk at which the client is handed over; none when it never is.
///
/// # Source
/// Common practice of roaming thresholds (`docs/MODEL.md`, section 3).
#[must_use]
pub fn hand_over(walk: &[Step], threshold: Dbm, leaving: Leaving) -> Option<HandOver> {
    walk.iter()
        .map(|step| (step, step.candidate - step.serving))
        .find(|(step, gap)| {
            step.serving < threshold
                && match leaving {
                    Leaving::ByClient(stronger) => *gap >= stronger,
                    Leaving::Enforced => true,
                }
        })
        .map(|(step, gap)| HandOver { at: step.at, gap })
}

/// The threshold that hands over by the time the candidate is this much stronger: the serving signal at the first such place.
#[must_use]
pub fn threshold_for(walk: &[Step], gap: Db) -> Option<Dbm> {
    walk.iter().find(|step| step.candidate - step.serving >= gap).map(|step| step.serving)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn walk() -> Vec<Step> {
        let step = |at: f64| Step {
            at: Metres::new(at),
            serving: Dbm::new(-50.0 - 2.0 * at),
            candidate: Dbm::new(-78.0 + 2.0 * at),
        };
        (0..=140).map(|i| step(f64::from(i) / 10.0)).collect()
    }

    #[test]
    fn a_client_waits_for_a_stronger_candidate_and_a_device_does_not() {
        let by_client = hand_over(&walk(), Dbm::new(-60.0), Leaving::ByClient(Db::new(8.0))).unwrap();
        assert!((by_client.at.get() - 9.0).abs() < 1e-9 && (by_client.gap.get() - 8.0).abs() < 1e-9);
        let enforced = hand_over(&walk(), Dbm::new(-60.0), Leaving::Enforced).unwrap();
        assert!((enforced.at.get() - 5.1).abs() < 1e-9, "{enforced:?}");
        assert_eq!(hand_over(&walk(), Dbm::new(-90.0), Leaving::Enforced), None);
    }

    #[test]
    fn a_threshold_that_hands_over_in_time_does_so() {
        let threshold = threshold_for(&walk(), Db::new(4.0)).unwrap();
        let found = hand_over(&walk(), threshold + Db::new(0.01), Leaving::ByClient(Db::new(4.0))).unwrap();
        assert!(found.gap.get() < 4.5);
    }
}
