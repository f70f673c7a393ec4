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
