//! Signal over noise that each rate needs at the aerial.

use busy_hen_units::Db;

use super::rate::Mcs;

/// SNR of a single stream on a single aerial by MCS, dB.
///
/// # Source
/// Receiver sensitivities of IEEE 802.11 (table 27-51 and its like) less thermal noise, less the standard's allowance of 10 dB
/// noise figure and 5 dB implementation margin, less 3 dB for real receivers; agrees within 1.4 dB with bit-interleaved
/// coded-modulation capacity plus 4 dB (`docs/MODEL.md`).
const THRESHOLD_DB: [f64; 14] = [1.0, 4.0, 6.0, 9.0, 13.0, 17.0, 18.0, 19.0, 24.0, 26.0, 29.0, 31.0, 34.0, 37.0];
/// Power that amplifiers take back at high MCS, dB (engineering estimate).
const BACK_OFF_DB: [f64; 14] = [0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 2.0, 2.0, 3.0, 3.0, 4.0, 4.0, 5.0, 5.0];
/// Distortion of both radios together, below which no SNR helps, dB (fitted).
const DISTORTION_DB: f64 = 40.0;

/// Margin for fading with this many spare aerials, dB (capacity loss in Rayleigh fading, typical of MCS 2 to 11).
fn fading_margin(spare: u8) -> f64 {
    match spare {
        0 | 1 => 3.0,
        2 => 1.5,
        3 => 1.0,
        _ => 0.7,
    }
}

/// SNR needed at the aerial for this MCS on `streams` streams from `senders` to `receivers` aerials; none when it can't be reached.
///
/// More streams share the power, spare receiving aerials combine, spare sending aerials steer (at 0.7 of the ideal gain).
///
/// # Source
/// `docs/MODEL.md`, section 2.
#[must_use]
pub fn snr_needed(mcs: Mcs, streams: u8, senders: u8, receivers: u8) -> Option<Db> {
    if streams == 0 || streams > senders.min(receivers) {
        return None;
    }
    let threshold = *THRESHOLD_DB.get(usize::from(mcs))?;
    let clean = Db::new(-threshold).ratio() - Db::new(-DISTORTION_DB).ratio();
    if clean <= 0.0 {
        return None;
    }
    let (s, senders_f) = (f64::from(streams), f64::from(senders));
    let spare_receivers = receivers - streams + 1;
    let mut diversity = spare_receivers;
    let mut need = -10.0 * clean.log10() + BACK_OFF_DB[usize::from(mcs)] + 10.0 * s.log10()
        - 10.0 * f64::from(spare_receivers).log10();
    if senders > streams {
        need -= 0.7 * 10.0 * (senders_f / s).log10();
        diversity = diversity.max(senders - streams + 1);
    }
    Some(Db::new(need + fading_margin(diversity)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn streams_beyond_the_aerials_are_refused() {
        assert!(snr_needed(4, 3, 4, 2).is_none());
        assert!(snr_needed(4, 0, 2, 2).is_none());
        assert!(snr_needed(14, 1, 2, 2).is_none());
    }

    #[test]
    fn more_aerials_never_need_more_signal() {
        for mcs in 0..=13 {
            let few = snr_needed(mcs, 1, 1, 1).unwrap();
            assert!(snr_needed(mcs, 1, 2, 1).unwrap() < few);
            assert!(snr_needed(mcs, 1, 1, 2).unwrap() < few);
        }
    }
}
