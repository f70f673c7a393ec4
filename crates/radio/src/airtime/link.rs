//! What TCP gets over a pair of radios at a given path loss.

use busy_hen_catalogue::phy::noise::thermal_noise;
use busy_hen_catalogue::phy::radio::received;
use busy_hen_catalogue::phy::snr::snr_needed;
use busy_hen_catalogue::phy::{Mcs, RadioEnd, Standard};
use busy_hen_catalogue::spectrum::channels::WIDTHS;
use busy_hen_home::{Band, Generation};
use busy_hen_units::{Db, Dbm, MbitPerSec, Megahertz};

use super::goodput::{Stream, tcp_goodput};

/// Points and weights of five-point Gauss-Hermite quadrature for a normal variable (Abramowitz and Stegun table 25.10, rescaled).
const QUADRATURE: [(f64, f64); 5] = [
    (0.0, 0.533_333),
    (1.355_626, 0.222_076),
    (-1.355_626, 0.222_076),
    (2.856_970, 0.011_257),
    (-2.856_970, 0.011_257),
];
/// How much a channel varies about its mean while a test runs, dB (engineering estimate).
const CHANNEL_SPREAD_DB: f64 = 2.0;

/// What a link carries at one path loss.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Link {
    /// Signal at the far end.
    pub rssi: Dbm,
    /// TCP goodput from near to far; zero when the link does not hold.
    pub down: MbitPerSec,
    /// TCP goodput from far to near; zero when the link does not hold.
    pub up: MbitPerSec,
    /// Usual link rate from near to far.
    pub link_rate: MbitPerSec,
    /// Width that serves best.
    pub width: Megahertz,
    /// Usual modulation and coding; none when the link does not hold.
    pub mcs: Option<Mcs>,
}

/// One way of sending, with the signal it needs.
#[derive(Debug, Clone, Copy)]
struct Way {
    stream: Stream,
    rate: MbitPerSec,
    need: Db,
}

/// Ways of sending from one end to the other at one width, fastest first (ties: fewer streams).
fn options(band: Band, from: &RadioEnd, to: &RadioEnd, width: Megahertz) -> Vec<Way> {
    let generation = from.generation.min(to.generation);
    let mut list = Vec::new();
    for streams in 1..=from.streams.min(to.streams) {
        for mcs in 0..=generation.highest_mcs() {
            let short_window = from.short_aggregate || to.short_aggregate;
            let stream = Stream { band, generation, width, streams, mcs, short_window };
            if let (Some(rate), Some(need)) = (stream.phy_rate(), snr_needed(mcs, streams, from.streams, to.streams)) {
                list.push(Way { stream, rate, need });
            }
        }
    }
    list.sort_by(|a, b| b.rate.get().total_cmp(&a.rate.get()).then(a.stream.streams.cmp(&b.stream.streams)));
    list
}

/// Widths both ends have, up to this one.
fn widths(near: &RadioEnd, far: &RadioEnd, limit: Megahertz) -> impl Iterator<Item = Megahertz> {
    let widest = near.max_width.min(far.max_width).min(limit);
    WIDTHS.into_iter().filter(move |width| *width <= widest)
}

/// A link of two radios on a channel, ready to be asked at any path loss.
#[derive(Debug, Clone)]
struct Pair {
    near: RadioEnd,
    far: RadioEnd,
    /// By width: ways down, ways up.
    ways: Vec<(Megahertz, Vec<Way>, Vec<Way>)>,
}

impl Pair {
    fn new(band: Band, near: &RadioEnd, far: &RadioEnd, width: Megahertz) -> Self {
        let ways = widths(near, far, width)
            .map(|width| (width, options(band, near, far, width), options(band, far, near, width)))
            .collect();
        Self { near: *near, far: *far, ways }
    }

    fn at(&self, loss: Db) -> Link {
        let down_rssi = received(&self.near, &self.far, loss);
        let up_rssi = received(&self.far, &self.near, loss);
        let snr_down = |width| down_rssi - thermal_noise(width, self.far.noise_figure);
        let snr_up = |width| up_rssi - thermal_noise(width, self.near.noise_figure);
        let best_down = best_rate(self.ways.iter().map(|(width, down, _)| (down, snr_down(*width))));
        let best_up = best_rate(self.ways.iter().map(|(width, _, up)| (up, snr_up(*width))));
        let mut link = Link {
            rssi: down_rssi,
            down: MbitPerSec::default(),
            up: MbitPerSec::default(),
            link_rate: MbitPerSec::default(),
            width: WIDTHS[0],
            mcs: None,
        };
        let (Some((down_rate, _)), Some((up_rate, _))) = (best_down, best_up) else { return link };
        for (width, down, up) in &self.ways {
            let mean = mean_goodput(down, snr_down(*width), up_rate);
            if mean > link.down {
                link.down = mean;
                link.width = *width;
                if let Some(usual) = fastest(down, snr_down(*width)) {
                    (link.link_rate, link.mcs) = (usual.rate, Some(usual.stream.mcs));
                }
            }
            link.up = link.up.max(mean_goodput(up, snr_up(*width), down_rate));
        }
        link
    }
}

fn fastest(options: &[Way], snr: Db) -> Option<&Way> {
    options.iter().find(|option| option.need <= snr)
}

fn best_rate<'a>(ways: impl Iterator<Item = (&'a Vec<Way>, Db)>) -> Option<(MbitPerSec, Mcs)> {
    ways.filter_map(|(options, snr)| fastest(options, snr))
        .map(|option| (option.rate, option.stream.mcs))
        .max_by(|a, b| a.0.get().total_cmp(&b.0.get()))
}

fn mean_goodput(options: &[Way], snr: Db, back: MbitPerSec) -> MbitPerSec {
    QUADRATURE
        .iter()
        .map(|(shift, weight)| {
            fastest(options, snr + Db::new(CHANNEL_SPREAD_DB * shift))
                .and_then(|option| tcp_goodput(&option.stream, back))
                .unwrap_or_default()
                * *weight
        })
        .sum()
}

/// Lowest path loss of a table, dB; below the loss at half a metre in any band.
const TABLE_FROM_DB: f64 = 25.0;
/// Step of a table, dB.
const TABLE_STEP_DB: f64 = 0.25;
/// Entries of a table: up to 165 dB, where no link of any kit holds.
const TABLE_LEN: usize = 561;

/// What a pair of radios carries, tabulated over path loss so that a map of thousands of cells costs look-ups only.
///
/// Between entries rates are linear; steps of a quarter decibel keep the error under the model's own.
#[derive(Debug, Clone)]
pub struct LinkTable {
    near: RadioEnd,
    far: RadioEnd,
    entries: Vec<Link>,
}

impl LinkTable {
    /// The table of a link from `near` (towards the router) to `far` on a channel of this width.
    #[must_use]
    pub fn new(band: Band, near: &RadioEnd, far: &RadioEnd, width: Megahertz) -> Self {
        let pair = Pair::new(band, near, far, width);
        let entries =
            (0..TABLE_LEN).map(|index| pair.at(Db::new(TABLE_FROM_DB + TABLE_STEP_DB * index as f64))).collect();
        Self { near: *near, far: *far, entries }
    }

    /// The table of a cable that carries so much: all of it where it is plugged in, at no loss, and nothing where it is not.
    #[must_use]
    pub fn of_cable(goodput: MbitPerSec) -> Self {
        let end = RadioEnd {
            generation: Generation::Be,
            streams: 1,
            max_width: WIDTHS[0],
            eirp: Dbm::new(100.0),
            gain: Db::new(0.0),
            body: Db::new(0.0),
            noise_figure: Db::new(0.0),
            short_aggregate: false,
        };
        let carries =
            |rate| Link { rssi: end.eirp, down: rate, up: rate, link_rate: rate, width: WIDTHS[0], mcs: None };
        let plugged = TABLE_LEN / 2;
        let entry = |index| carries(if index < plugged { goodput } else { MbitPerSec::default() });
        Self { near: end, far: end, entries: (0..TABLE_LEN).map(entry).collect() }
    }

    /// Its end towards the router.
    #[must_use]
    pub fn end(&self) -> RadioEnd {
        self.near
    }

    /// What the link carries at this path loss.
    #[must_use]
    pub fn at(&self, loss: Db) -> Link {
        let place = ((loss.get() - TABLE_FROM_DB) / TABLE_STEP_DB).clamp(0.0, (TABLE_LEN - 1) as f64);
        let index = (place as usize).min(TABLE_LEN - 2);
        let part = place - index as f64;
        let (low, high) = (&self.entries[index], &self.entries[index + 1]);
        let nearest = if part < 0.5 { low } else { high };
        Link {
            rssi: received(&self.near, &self.far, loss),
            down: low.down + (high.down - low.down) * part,
            up: low.up + (high.up - low.up) * part,
            ..*nearest
        }
    }

    /// SNR of 20 MHz at the end that hears the other worse, as answers are sent at.
    #[must_use]
    pub fn answered_at(&self, loss: Db) -> Db {
        let snr = |from: &RadioEnd, to: &RadioEnd| received(from, to, loss) - thermal_noise(WIDTHS[0], to.noise_figure);
        snr(&self.far, &self.near).min(snr(&self.near, &self.far))
    }

    /// The most the link can carry, with the two ends side by side.
    #[must_use]
    pub fn ceiling(&self) -> Link {
        self.entries[0]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn router() -> RadioEnd {
        RadioEnd {
            generation: Generation::Ax,
            streams: 2,
            max_width: Megahertz::new(80.0),
            eirp: Dbm::new(23.0),
            gain: Db::new(2.0),
            body: Db::new(0.0),
            noise_figure: Db::new(6.0),
            short_aggregate: false,
        }
    }

    fn table() -> LinkTable {
        let phone = busy_hen_catalogue::clients::find("phone_ax").unwrap().radio(Band::Ghz5).unwrap();
        LinkTable::new(Band::Ghz5, &router(), &phone, Megahertz::new(80.0))
    }

    /// Loss at which the phone of the reference hears the router at this level.
    fn loss_for(rssi: f64) -> Db {
        Db::new(23.0 - 4.0 - 3.0 - rssi)
    }

    #[test]
    fn goodput_against_signal_keeps_to_the_reference_text() {
        for (rssi, expected) in
            [(-40.0, 907.0), (-50.0, 757.0), (-60.0, 519.0), (-65.0, 358.0), (-80.0, 116.0), (-90.0, 23.0)]
        {
            let got = table().at(loss_for(rssi));
            assert!((got.down.get() - expected).abs() <= 2.0, "{rssi} dBm: {} not {expected}", got.down);
            assert!((got.rssi.get() - rssi).abs() < 1e-9);
        }
    }

    #[test]
    fn more_loss_is_never_more_speed() {
        let table = table();
        let rates: Vec<f64> = (0..600).map(|i| table.at(Db::new(30.0 + 0.2 * f64::from(i))).down.get()).collect();
        assert!(rates.windows(2).all(|pair| pair[1] <= pair[0] + 1e-9));
        assert!(rates[599].abs() < 1e-12);
    }

    #[test]
    fn the_older_end_sets_the_generation() {
        let old = busy_hen_catalogue::clients::find("phone_ac").unwrap().radio(Band::Ghz5).unwrap();
        let link = LinkTable::new(Band::Ghz5, &router(), &old, Megahertz::new(80.0)).ceiling();
        assert!((link.link_rate.get() - 433.3).abs() < 0.1, "one ac stream at 80 MHz");
    }
}
