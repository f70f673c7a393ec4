//! How a channel's airtime is shared.

/// Part of the airtime left for one more sender, which always has something to send, when others want these parts of it.
///
/// Max-min fair: nobody gets more than they want, and what is left goes to all who want more alike. So the share `s` is where
/// `s + sum of min(want, s) = 1`: however busy the others are, one of n + 1 gets at least a turn of n + 1, and all that is idle.
///
/// # Complexity
/// O(n log n)
/// # Source
/// Fairness of the distributed coordination function, IEEE 802.11 clause 10.3; max-min fairness by filling up: Bertsekas and Gallager,
/// Data Networks, 2nd edition, 6.5.2 (from memory). Held to a slot simulation in `tests/sharing.rs`.
#[must_use]
pub fn airtime_share(others: impl Into<Vec<f64>>) -> f64 {
    let mut wants: Vec<f64> = others.into();
    wants.retain(|part| *part > 0.0);
    wants.sort_unstable_by(f64::total_cmp);
    let mut left = 1.0;
    for (index, want) in wants.iter().enumerate() {
        let share = left / (wants.len() - index + 1) as f64;
        if *want >= share {
            return share;
        }
        left -= want;
    }
    left
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_faint_second_sender_costs_next_to_nothing() {
        assert!((airtime_share([0.6]) - 0.5).abs() < 1e-12);
        assert!((airtime_share([0.6, 0.001]) - 0.4995).abs() < 1e-12);
        assert!((airtime_share([0.2]) - 0.8).abs() < 1e-12, "what is idle can be had");
        assert!((airtime_share([1.0, 1.0]) - 1.0 / 3.0).abs() < 1e-12);
        assert!((airtime_share([0.1, 1.0]) - 0.45).abs() < 1e-12);
        assert!((airtime_share(Vec::new()) - 1.0).abs() < 1e-12);
    }
}
