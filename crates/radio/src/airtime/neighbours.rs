//! What neighbours' networks leave of a channel: those that are heard take turns, those that are not add noise.

use busy_hen_catalogue::phy::noise::thermal_noise;
use busy_hen_catalogue::spectrum::channels::{Block, block, centre};
use busy_hen_catalogue::spectrum::mask::overlap;
use busy_hen_home::Neighbour;
use busy_hen_units::{Db, Dbm, Milliwatts};

use super::end;
use super::link::{Link, LinkTable};

/// A network on our channel at or above this is heard, and takes turns (IEEE 802.11: preamble detection at 20 MHz).
const HEARD: Dbm = Dbm::new(-82.0);
/// Other energy at or above this keeps a sender waiting (IEEE 802.11: energy detection at 20 MHz).
const ENERGY: Dbm = Dbm::new(-62.0);
/// Noise figure of the home's receivers.
const NOISE_FIGURE: Db = Db::new(6.0);
/// Noise that lifts the floor by less than this is of no account.
const FAINT: Db = Db::new(0.05);

/// A neighbour's network that takes turns with ours.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Turn {
    /// Its place in the list of neighbours.
    pub neighbour: usize,
    /// Part of the airtime that it takes.
    pub part: f64,
}

/// What neighbours make of a channel.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Air {
    /// Networks that ours waits for.
    pub turns: Vec<Turn>,
    /// Part of the time in which others' noise is there.
    pub noisy_part: f64,
    /// How much it then lifts the noise floor.
    pub noise: Db,
}

impl Air {
    /// What these neighbours make of this channel.
    #[must_use]
    pub fn on(own: &Block, neighbours: &[Neighbour]) -> Self {
        let floor = thermal_noise(own.width, NOISE_FIGURE);
        let mut air = Self::default();
        let (mut quiet, mut energy) = (1.0, 0.0);
        let here = |one: &&Neighbour| one.band == own.band && one.busy_part > 0.0;
        for (neighbour, one) in neighbours.iter().enumerate().filter(|(_, one)| here(one)) {
            let Some(theirs) = block(one.band, one.channel, one.width_mhz) else { continue };
            let caught = one.signal_dbm + overlap(own, &theirs);
            let same_channel = own.overlaps(&theirs) && aligned(own, one);
            if (same_channel && one.signal_dbm >= HEARD) || caught >= ENERGY {
                air.turns.push(Turn { neighbour, part: one.busy_part });
            } else if Db::of_ratio(1.0 + (caught - floor).ratio()) > FAINT {
                quiet *= 1.0 - one.busy_part;
                energy += one.busy_part * Milliwatts::from(caught).get();
            }
        }
        air.noisy_part = 1.0 - quiet;
        if air.noisy_part > 0.0 {
            let mean = energy / air.noisy_part / Milliwatts::from(floor).get();
            air.noise = Db::of_ratio(1.0 + mean);
        }
        air
    }

    /// What a link carries in this air: quiet for a part of the time, noisy for the rest, and of it what is answered.
    #[must_use]
    pub fn carried(&self, table: &LinkTable, loss: Db) -> Link {
        let quiet = table.at(loss);
        let answered = end::answered_part(table, loss);
        if self.noisy_part <= 0.0 {
            return Link { down: quiet.down * answered, up: quiet.up * answered, ..quiet };
        }
        let noisy = table.at(loss + self.noise);
        let mix = |a, b| (a * (1.0 - self.noisy_part) + b * self.noisy_part) * answered;
        Link { down: mix(quiet.down, noisy.down), up: mix(quiet.up, noisy.up), ..quiet }
    }
}

/// Whether the neighbour's primary channel is one of ours, so that its preambles are understood.
fn aligned(own: &Block, neighbour: &Neighbour) -> bool {
    let offset = (centre(neighbour.band, neighbour.channel) - own.low()).get() - 10.0;
    let inside = offset > -1.0 && offset < own.width.get() - 20.0 + 1.0;
    inside && (offset / 20.0 - (offset / 20.0).round()).abs() < 0.05
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::airtime::end::is_at_its_end;
    use busy_hen_catalogue::phy::RadioEnd;
    use busy_hen_catalogue::{clients, kit};
    use busy_hen_home::{Band, NeighbourId};
    use busy_hen_units::Megahertz;

    fn heard(channel: u16, signal: f64, busy: f64) -> Neighbour {
        Neighbour {
            id: NeighbourId::random(),
            band: Band::Ghz2_4,
            channel,
            width_mhz: Megahertz::new(20.0),
            signal_dbm: Dbm::new(signal),
            busy_part: busy,
        }
    }

    fn parts(air: &Air) -> Vec<f64> {
        air.turns.iter().map(|turn| turn.part).collect()
    }

    fn six() -> Block {
        block(Band::Ghz2_4, 6, Megahertz::new(20.0)).unwrap()
    }

    #[test]
    fn a_neighbour_on_the_channel_takes_turns_and_one_beside_it_is_noise() {
        let same = Air::on(&six(), &[heard(6, -75.0, 0.3)]);
        assert_eq!((parts(&same), same.noisy_part), (vec![0.3], 0.0));
        let beside = Air::on(&six(), &[heard(8, -75.0, 0.3)]);
        assert!(beside.turns.is_empty() && (beside.noisy_part - 0.3).abs() < 1e-9);
        assert!(beside.noise.get() > 10.0);
    }

    #[test]
    fn one_far_off_in_frequency_or_faint_is_nothing() {
        for quiet in [heard(11, -80.0, 0.5), heard(6, -105.0, 0.5), heard(6, -60.0, 0.0)] {
            let air = Air::on(&six(), &[quiet]);
            assert!(air.turns.is_empty() && air.noise.get() < 1.5, "{air:?}");
        }
    }

    #[test]
    fn one_beside_the_channel_and_very_near_is_waited_for_too() {
        assert_eq!(parts(&Air::on(&six(), &[heard(8, -50.0, 0.4)])), [0.4]);
    }

    #[test]
    fn wide_channels_hear_neighbours_on_any_of_their_parts() {
        let own = block(Band::Ghz5, 36, Megahertz::new(80.0)).unwrap();
        let other = |channel| Neighbour { band: Band::Ghz5, ..heard(channel, -70.0, 0.2) };
        assert_eq!(parts(&Air::on(&own, &[other(48)])), [0.2]);
        assert!(Air::on(&own, &[other(52)]).turns.is_empty());
    }

    #[test]
    fn a_phone_falls_off_by_three_within_four_decibels_and_half_of_that_within_the_last() {
        let phone = clients::find("phone_ax").unwrap().radio(Band::Ghz5).unwrap();
        let router =
            RadioEnd { streams: 4, eirp: kit::node_eirp(Band::Ghz5), gain: Db::new(2.15), body: Db::new(0.0), ..phone };
        let table = LinkTable::new(Band::Ghz5, &router, &phone, Megahertz::new(80.0));
        let at = |dbm: f64| {
            let loss = Db::new(table.at(Db::new(80.0)).rssi.get() + 80.0 - dbm);
            (Air::default().carried(&table, loss).down.get(), is_at_its_end(&table, loss))
        };
        let (far, near, last) = (at(-80.0), at(-83.0), at(-84.0));
        assert!((2.5..5.0).contains(&(far.0 / last.0)), "{far:?} {last:?}");
        assert!(near.0 / last.0 > 1.5, "{near:?} {last:?}");
        assert!(!far.1 && near.1 && last.1);
    }
}
