//! Throughput of a path: the narrowest of its wired links and of the channels its radio hops share.

use busy_hen_units::MbitPerSec;

/// Everything of a path but its last radio link, so that a map asks thousands of times with only that one changed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Flow {
    /// Narrowest of all that does not share the last link's channel.
    pub cap: MbitPerSec,
    /// Sum of 1/goodput of the hops on the last link's channel, s/Mb.
    pub shared_inverse: f64,
    /// Part of that channel's airtime that is ours, times what repeating leaves of it.
    pub airtime: f64,
}

impl Flow {
    /// What arrives over the path when its last radio link carries this much: zero in any hop gives zero.
    ///
    /// # Source
    /// Each bit takes its turn on the channel once per hop, so times add: 1/T = sum of 1/G (`docs/MODEL.md`, section 3).
    #[must_use]
    pub fn arrives(&self, last: MbitPerSec) -> MbitPerSec {
        self.arrives_of(last, 1.0)
    }

    /// The same when the last channel carries this part of it all.
    #[must_use]
    pub fn arrives_of(&self, last: MbitPerSec, part: f64) -> MbitPerSec {
        if last.get() <= 0.0 || !self.shared_inverse.is_finite() {
            return MbitPerSec::default();
        }
        self.cap.min(MbitPerSec::new(part * self.airtime / (self.shared_inverse + 1.0 / last.get())))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn flow(cap: f64, others: &[f64]) -> Flow {
        Flow {
            cap: MbitPerSec::new(cap),
            shared_inverse: others.iter().map(|goodput| 1.0 / goodput).sum(),
            airtime: 1.0,
        }
    }

    #[test]
    fn a_dead_hop_gives_nothing() {
        assert_eq!(flow(500.0, &[0.0]).arrives(MbitPerSec::new(300.0)).get().to_bits(), 0.0f64.to_bits());
        assert_eq!(flow(500.0, &[]).arrives(MbitPerSec::new(0.0)).get().to_bits(), 0.0f64.to_bits());
    }

    #[test]
    fn a_wider_cap_never_lowers_a_path() {
        let narrow = flow(100.0, &[400.0]).arrives(MbitPerSec::new(600.0));
        assert!(flow(200.0, &[400.0]).arrives(MbitPerSec::new(600.0)) >= narrow);
    }
}
