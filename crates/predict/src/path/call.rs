//! How a call sounds: the E-model.

use busy_hen_units::Millis;
use serde::Serialize;
use utoipa::ToSchema;

/// Speech that a packet holds, ms.
const PACKET_MS: f64 = 20.0;
/// Least play-out buffer, ms.
const PLAY_OUT_MS: f64 = 40.0;
/// Coding and hand-set, ms.
const ENDS_MS: f64 = 10.0;
/// Burstiness of loss that a concealing decoder copes with: G.711 with packet-loss concealment (ITU-T G.113, appendix I).
pub const CONCEALED_BPL: f64 = 25.1;

/// How a call would sound.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, ToSchema)]
pub struct CallQuality {
    /// Transmission rating R, 0 to 93.2.
    pub rating: f64,
    /// Mean opinion, 1 (bad) to 4.5 (excellent).
    pub opinion: f64,
}

/// One-way delay from mouth to ear: half of the round trip, a packet, the play-out buffer and the ends.
#[must_use]
pub fn mouth_to_ear(round_trip: Millis, jitter: Millis) -> Millis {
    Millis::new(round_trip.get() / 2.0 + PACKET_MS + PLAY_OUT_MS.max(2.0 * jitter.get()) + ENDS_MS)
}

/// How a call sounds over a path with this round trip, jitter and random loss (percent).
#[must_use]
pub fn call_quality(round_trip: Millis, jitter: Millis, loss_percent: f64) -> CallQuality {
    let rating = rating(mouth_to_ear(round_trip, jitter), loss_percent, CONCEALED_BPL);
    CallQuality { rating, opinion: opinion(rating) }
}

/// All of the E-model's inputs at their default values.
mod defaults {
    /// Sending and receiving loudness, dB.
    pub const SLR: f64 = 8.0;
    pub const RLR: f64 = 2.0;
    /// Sidetone, dB.
    pub const STMR: f64 = 15.0;
    /// Talker echo loudness, dB.
    pub const TELR: f64 = 65.0;
    /// Weighted echo path loss, dB.
    pub const WEPL: f64 = 110.0;
    /// Quantising distortion units.
    pub const QDU: f64 = 1.0;
    /// Circuit noise, dBm0p.
    pub const NC: f64 = -70.0;
    /// Noise floor at the receive side, dBmp.
    pub const NFOR: f64 = -64.0;
    /// Room noise at either side, dB(A).
    pub const PS: f64 = 35.0;
    pub const PR: f64 = 35.0;
    /// D-factors of either side.
    pub const DS: f64 = 3.0;
    pub const DR: f64 = 3.0;
}

/// Transmission rating R for a one-way delay and random packet loss, all other inputs at their defaults.
///
/// # Source
/// ITU-T G.107 (06/2015), clauses 7.1 to 7.5.
#[must_use]
pub fn rating(one_way: Millis, loss_percent: f64, bpl: f64) -> f64 {
    signal_to_noise() - simultaneous(one_way) - delay_impairment(one_way) - loss_impairment(loss_percent, bpl)
}

/// Basic signal-to-noise ratio Ro (clause 7.2).
fn signal_to_noise() -> f64 {
    use defaults::{DR, DS, NC, NFOR, PR, PS, RLR, SLR, STMR};
    let olr = SLR + RLR;
    let nos = PS - SLR - DS - 100.0 + 0.004 * (PS - olr - DS - 14.0).powi(2);
    let effective_room = PR + 10.0 * (1.0 + 10f64.powf((10.0 - (STMR + DR)) / 10.0)).log10();
    let nor = RLR - 121.0 + effective_room + 0.008 * (effective_room - 35.0).powi(2);
    let nfo = NFOR + RLR;
    let no = 10.0 * [NC, nos, nor, nfo].iter().map(|level| 10f64.powf(level / 10.0)).sum::<f64>().log10();
    15.0 - 1.5 * (SLR + no)
}

/// Simultaneous impairments Is (clause 7.3).
fn simultaneous(one_way: Millis) -> f64 {
    use defaults::{QDU, RLR, SLR, STMR, TELR};
    let no = (15.0 - signal_to_noise()) / 1.5 - SLR;
    let olr = SLR + RLR;
    let xolr = olr + 0.2 * (64.0 + no - RLR);
    let iolr = 20.0 * ((1.0 + (xolr / 8.0).powi(8)).powf(1.0 / 8.0) - xolr / 8.0);
    let stmro = -10.0 * (10f64.powf(-STMR / 10.0) + (-one_way.get() / 4.0).exp() * 10f64.powf(-TELR / 10.0)).log10();
    let part = |x: f64, p: f64| (1.0 + x.powf(p)).powf(1.0 / p);
    let ist = 12.0 * part((stmro - 13.0) / 6.0, 8.0)
        - 28.0 * (1.0 + ((stmro + 1.0) / 19.4).powi(35)).powf(1.0 / 35.0)
        - 13.0 * (1.0 + ((stmro - 3.0) / 33.0).powi(13)).powf(1.0 / 13.0)
        + 29.0;
    let q = 37.0 - 15.0 * QDU.log10();
    let g = 1.07 + 0.258 * q + 0.0602 * q * q;
    let z = 46.0 / 30.0 - g / 40.0;
    let y = (signal_to_noise() - 100.0) / 15.0 + 46.0 / 8.4 - g / 9.0;
    let iq = 15.0 * (1.0 + 10f64.powf(y) + 10f64.powf(z)).log10();
    iolr + ist + iq
}

/// Delay impairment Id (clause 7.4): talker echo, listener echo and pure delay.
///
/// Both echo paths take the same time as the path itself: T = Ta, Tr = 2 Ta.
#[must_use]
pub fn delay_impairment(one_way: Millis) -> f64 {
    use defaults::{RLR, SLR, TELR, WEPL};
    let t = one_way.get();
    let ro = signal_to_noise();
    let no = (15.0 - ro) / 1.5 - SLR;
    let terv = TELR - 40.0 * ((1.0 + t / 10.0) / (1.0 + t / 150.0)).log10() + 6.0 * (-0.3 * t * t).exp();
    let re = 80.0 + 2.5 * (terv - 14.0);
    let roe = -1.5 * (no - RLR);
    let idte = ((roe - re) / 2.0 + ((roe - re).powi(2) / 4.0 + 100.0).sqrt() - 1.0) * (1.0 - (-t).exp());
    let rle = 10.5 * (WEPL + 7.0) * (2.0 * t + 1.0).powf(-0.25);
    let idle = (ro - rle) / 2.0 + ((ro - rle).powi(2) / 4.0 + 169.0).sqrt();
    idte + idle + pure_delay(one_way)
}

/// Impairment by too long a delay with perfect echo control, Idd (clause 7.4).
#[must_use]
pub fn pure_delay(one_way: Millis) -> f64 {
    let t = one_way.get();
    if t <= 100.0 {
        return 0.0;
    }
    let x = (t / 100.0).log2();
    25.0 * ((1.0 + x.powi(6)).powf(1.0 / 6.0) - 3.0 * (1.0 + (x / 3.0).powi(6)).powf(1.0 / 6.0) + 2.0)
}

/// Delay impairment by the short form `0.024 Ta + 0.11 (Ta - 177.3)+`.
///
/// # Source
/// R. G. Cole and J. H. Rosenbluth, ACM SIGCOMM CCR 31 (2001): a fit to G.107.
#[must_use]
pub fn short_delay_impairment(one_way: Millis) -> f64 {
    let t = one_way.get();
    0.024 * t + 0.11 * (t - 177.3).max(0.0)
}

/// Impairment by random packet loss Ie,eff of a codec without impairment of its own (clause 7.5).
#[must_use]
pub fn loss_impairment(loss_percent: f64, bpl: f64) -> f64 {
    95.0 * loss_percent / (loss_percent + bpl)
}

/// Mean opinion for a rating.
///
/// # Source
/// ITU-T G.107 annex B; its cubic dips below 1 for ratings under 6.5, which are held at 1.
#[must_use]
pub fn opinion(rating: f64) -> f64 {
    if rating <= 0.0 {
        return 1.0;
    }
    if rating >= 100.0 {
        return 4.5;
    }
    let cubic = 1.0 + 0.035 * rating + 7e-6 * rating * (rating - 60.0) * (100.0 - rating);
    cubic.max(1.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_good_path_sounds_good_and_a_satellite_does_not() {
        let good = call_quality(Millis::new(20.0), Millis::new(2.0), 0.0);
        let far = call_quality(Millis::new(620.0), Millis::new(20.0), 1.0);
        assert!(good.opinion > 4.2, "{good:?}");
        assert!(far.opinion < 3.6, "{far:?}");
    }

    proptest! {
        #[test]
        fn more_delay_or_loss_never_sounds_better(rtt in 1.0f64..900.0, more in 0.0f64..200.0, loss in 0.0f64..20.0) {
            let at = |rtt: f64, loss: f64| call_quality(Millis::new(rtt), Millis::new(3.0), loss).opinion;
            prop_assert!(at(rtt + more, loss) <= at(rtt, loss) + 0.01);
            prop_assert!(at(rtt, loss + 1.0) <= at(rtt, loss) + 1e-9);
        }
    }
}
