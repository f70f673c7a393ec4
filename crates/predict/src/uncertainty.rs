//! How far off a prediction may be: what is not known of a home, each thing by itself, in tries that are the same every time.
//!
//! What all links of a home share (how heavy its walls really are, the device in hand, how well the medium is used, what the line
//! delivers) is one number a try; what each link has for itself (its shadow, its two radios) is one a link. The ends of a range are
//! the tenth and the ninetieth of a hundred tries.

use std::sync::OnceLock;

use busy_hen_units::{Db, MbitPerSec};
use statrs::distribution::{ContinuousCDF, Normal};

/// Tries. A prime, so that every thing that is not known goes through all of them in another order.
pub const DRAWS: usize = 61;
/// A primitive root of that prime: tries form a lattice (Korobov 1959), even in every two of its dimensions.
const ROOT: usize = 35;

/// Shadowing by people and furniture, dB. IEEE 802.11-14/0980 has 5 for homes with all else in it; with what walls, law and radios leave
/// open, which are counted apart here, this comes to 5 to 7. Held to by the study of `standins/tests/study.rs`.
const SHADOW_DB: f64 = 4.5;
/// Part of that which a place has for all devices, since what stands beside it stands there for all.
const OF_THE_PLACE: f64 = 0.5;
/// How far a radio of a kind is off the next: some 3 dB between the weakest and the best of a handful (common practice).
const RADIO_DB: f64 = 1.5;
/// How far walls and the law itself are off in an empty house, dB for each by which a way loses more than the first figure: what is
/// lost in the open is known, what is lost in walls and round corners is not. Fitted to the traced houses, and bounded.
const HOUSE: (f64, f64) = (48.0, 0.09);
/// Bounds of that, dB.
const HOUSE_BOUNDS: (f64, f64) = (1.3, 5.0);
/// Part of it that is alike all over the home: its walls are all heavier than the table says, or all lighter.
const OF_THE_HOUSE: f64 = 0.5;
/// What doors that nobody drew add between two devices, dB (engineering estimate).
const GUESSED_DB: f64 = 3.0;
/// Use of the medium: implementations differ by so much, as a part (engineering estimate).
const EFFICIENCY: f64 = 0.08;
/// What a line delivers of what was sold (engineering estimate).
const LINE: f64 = 0.025;
/// Most of the time that neighbours take where nobody noted them, and where they are noted, besides what is (engineering estimates).
const NEIGHBOURS: (f64, f64) = (0.2, 0.1);

/// What is not known of a home, apart from its devices.
#[derive(Debug, Clone, Copy)]
enum Unknown {
    House,
    Client,
    Efficiency,
    Line,
    Neighbours,
    Place,
    Guess,
}

/// Unknowns that a home has one of.
const SHARED: usize = 7;

/// One of the tries.
#[derive(Debug, Clone, Copy)]
pub struct Draw(usize);

/// All of them.
pub fn draws() -> impl Iterator<Item = Draw> {
    (0..DRAWS).map(Draw)
}

impl Draw {
    /// Its place in the list.
    #[must_use]
    pub fn index(self) -> usize {
        self.0
    }

    /// Which of all equal parts the unknown of this number is in.
    fn rank(self, number: usize) -> usize {
        let step = (0..number % (DRAWS - 1)).fold(1, |step, _| step * ROOT % DRAWS);
        (self.0 * step + number * number + 13 * number) % DRAWS
    }

    fn even(self, number: usize) -> f64 {
        (self.rank(number) as f64 + 0.5) / DRAWS as f64
    }

    fn normal(self, number: usize) -> f64 {
        static QUANTILES: OnceLock<Vec<f64>> = OnceLock::new();
        let list = QUANTILES.get_or_init(|| {
            let normal = Normal::standard();
            (0..DRAWS).map(|rank| normal.inverse_cdf((rank as f64 + 0.5) / DRAWS as f64)).collect()
        });
        list[self.rank(number)]
    }

    /// How much more a client's link to a device loses than predicted.
    #[must_use]
    pub fn of_client(self, node: usize, loss: Db) -> Db {
        let house = of_house(loss).get();
        let common = SHADOW_DB * OF_THE_PLACE * self.normal(Unknown::Place as usize)
            + house * OF_THE_HOUSE * self.normal(Unknown::House as usize)
            + RADIO_DB * self.normal(Unknown::Client as usize);
        let own = square(SHADOW_DB) * (1.0 - square(OF_THE_PLACE))
            + square(house) * (1.0 - square(OF_THE_HOUSE))
            + square(RADIO_DB);
        Db::new(common + own.sqrt() * self.normal(SHARED + 2 * node))
    }

    /// How much more the hop of a device towards the router loses than predicted.
    #[must_use]
    pub fn of_hop(self, node: usize, loss: Db, guessed: bool) -> Db {
        let house = of_house(loss).get();
        let doors = if guessed { GUESSED_DB } else { 0.0 };
        let own =
            square(SHADOW_DB) + square(house) * (1.0 - square(OF_THE_HOUSE)) + 2.0 * square(RADIO_DB) + square(doors);
        let common = house * OF_THE_HOUSE * self.normal(Unknown::House as usize);
        Db::new(common + own.sqrt() * self.normal(SHARED + 2 * node + 1))
    }

    /// What links carry of what is predicted, the medium being used better or worse and neighbours taking their part; `unsure` is what
    /// readings left of how far its use is off.
    #[must_use]
    pub fn of_air(self, neighbours_noted: bool, unsure: f64) -> f64 {
        let most = if neighbours_noted { NEIGHBOURS.1 } else { NEIGHBOURS.0 };
        let theirs = most * self.even(Unknown::Neighbours as usize).powi(2);
        (EFFICIENCY * unsure * self.normal(Unknown::Efficiency as usize)).exp() * (1.0 - theirs)
    }

    /// What the line delivers of what was sold.
    #[must_use]
    pub fn of_line(self) -> f64 {
        (LINE * self.normal(Unknown::Line as usize)).exp()
    }

    /// Which of so many ways rooms are joined in.
    #[must_use]
    pub fn guess(self, ways: usize) -> usize {
        self.rank(Unknown::Guess as usize) * ways / DRAWS
    }
}

/// How far walls and the law may be off where a way loses this much: one standard deviation.
#[must_use]
pub fn of_house(loss: Db) -> Db {
    let (known, per_db) = HOUSE;
    Db::new((per_db * (loss.get() - known)).clamp(HOUSE_BOUNDS.0, HOUSE_BOUNDS.1))
}

/// How far the signal of a client's link that loses this much may be off in all: one standard deviation.
#[must_use]
pub fn of_signal(loss: Db) -> Db {
    Db::new((square(SHADOW_DB) + square(of_house(loss).get()) + 2.0 * square(RADIO_DB)).sqrt())
}

fn square(of: f64) -> f64 {
    of * of
}

/// The poor and the good end of what the tries came to: 10 and 90 %.
#[must_use]
pub fn ends<T: Copy>(mut found: Vec<T>, order: impl Fn(&T, &T) -> std::cmp::Ordering) -> Option<(T, T)> {
    found.sort_by(order);
    let at = |part: f64| found.get(((found.len().max(1) - 1) as f64 * part).round() as usize).copied();
    Some((at(0.1)?, at(0.9)?))
}

/// The ends of speeds.
#[must_use]
pub fn rate_ends(found: Vec<MbitPerSec>) -> (MbitPerSec, MbitPerSec) {
    ends(found, |a, b| a.get().total_cmp(&b.get())).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tries_are_even_in_every_unknown_and_no_two_go_together() {
        let of = |number: usize| -> Vec<f64> { draws().map(|own| own.normal(number)).collect() };
        let mean = |list: &[f64]| list.iter().sum::<f64>() / DRAWS as f64;
        for a in 0..SHARED + 12 {
            let own = of(a);
            let spread = own.iter().map(|z| z * z).sum::<f64>() / DRAWS as f64;
            assert!(mean(&own).abs() < 1e-9 && (0.93..1.01).contains(&spread), "{a}: {spread}");
            for b in 0..a {
                let together = own.iter().zip(of(b)).map(|(x, y)| x * y).sum::<f64>() / DRAWS as f64;
                assert!(together.abs() < 0.25, "{a} and {b}: {together}");
            }
        }
    }

    #[test]
    fn more_in_the_way_is_known_less_well() {
        let spread = |loss: f64| {
            let found: Vec<f64> = draws().map(|own| own.of_client(0, Db::new(loss)).get()).collect();
            let (poor, good) = ends(found, f64::total_cmp).unwrap();
            good - poor
        };
        assert!((11.0..15.0).contains(&spread(60.0)), "{}", spread(60.0));
        assert!(spread(100.0) > spread(60.0) + 1.0);
    }
}
