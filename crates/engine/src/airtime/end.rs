//! The end of a link's range: answers are lost before the link is, and what was sent is sent again.

use busy_hen_units::Db;

use super::link::LinkTable;

/// SNR at 20 MHz at which half of the answers at a basic rate get through.
const ANSWER_NEEDS: Db = Db::new(4.15);
/// How fast that falls off, dB.
const ANSWER_SLOPE_DB: f64 = 0.72;
/// With less than this answered a link is at its end.
const MOSTLY: f64 = 0.9;

/// Part of the work that is left when answers from the weaker end, mostly a phone, are lost, are asked for again, and rates fall back.
///
/// # Source
/// Common practice: a phone that carries some 230 Mb/s at -80 dBm carries 130 at -83 and 65 at -84; place and slope are fitted to that.
#[must_use]
pub fn answered_part(table: &LinkTable, loss: Db) -> f64 {
    1.0 / (1.0 + ((ANSWER_NEEDS - table.answered_at(loss)).get() / ANSWER_SLOPE_DB).exp())
}

/// Whether a link that loses this much is at its end, where a phone may slip to another band or to mobile data.
#[must_use]
pub fn is_at_its_end(table: &LinkTable, loss: Db) -> bool {
    answered_part(table, loss) < MOSTLY
}

#[cfg(test)]
mod tests {
    use busy_hen_home::Band;
    use busy_hen_units::Megahertz;

    use super::*;
    use crate::airtime::Air;
    use crate::catalogue::{clients, kit};
    use crate::phy::RadioEnd;

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
