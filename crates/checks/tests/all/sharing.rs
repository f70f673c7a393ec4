//! How airtime is shared, against a simulation slot by slot.

use busy_hen_radio::airtime::airtime_share;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// Slots of back-off, 0 to 15, as best effort begins with (IEEE 802.11 clause 10.3).
const WINDOW: u32 = 16;
/// Slots that a transmission takes: 4 ms of 9 us each.
const BURST: u32 = 444;

/// Part of the airtime that a sender gets that always has something to send, beside others that want these parts: each draws a back-off, the
/// lowest sends, those that draw alike all send and all lose.
fn simulated(wants: &[f64], seed: u64) -> f64 {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let count = wants.len() + 1;
    let mut waiting = vec![0.0f64; count];
    let mut back_off: Vec<u32> = (0..count).map(|_| rng.random_range(0..WINDOW)).collect();
    let (mut slots, mut ours) = (0u64, 0u64);
    while slots < 40_000_000 {
        waiting[0] = 1.0;
        let ready: Vec<usize> = (0..count).filter(|i| waiting[*i] >= 1.0).collect();
        let first = ready.iter().map(|i| back_off[*i]).min().unwrap_or(0);
        let senders: Vec<usize> = ready.iter().copied().filter(|i| back_off[*i] == first).collect();
        let passed = first + BURST;
        slots += u64::from(passed);
        ready.iter().for_each(|i| back_off[*i] -= first);
        for sender in &senders {
            back_off[*sender] = rng.random_range(0..WINDOW);
        }
        if let [alone] = senders.as_slice() {
            waiting[*alone] -= 1.0;
            ours += if *alone == 0 { u64::from(BURST) } else { 0 };
        }
        for (want, waits) in wants.iter().zip(&mut waiting[1..]) {
            // Work arrives at a steady rate; nobody hoards more than a few bursts.
            *waits = (*waits + want * f64::from(passed) / f64::from(BURST)).min(3.0);
        }
    }
    ours as f64 / slots as f64
}

#[test]
fn the_share_of_one_more_keeps_to_a_slot_simulation() {
    for wants in [&[0.6][..], &[0.6, 0.001], &[0.2], &[0.3, 0.3], &[1.0, 1.0], &[0.1, 1.0], &[0.05, 0.05, 0.05]] {
        let (share, simulated) = (airtime_share(wants), simulated(wants, 7));
        // Collisions and back-off, which goodput counts by itself, take up to a tenth of it.
        assert!(simulated <= share + 0.02 && simulated >= 0.85 * share - 0.02, "{wants:?}: {share} and {simulated}");
    }
}
