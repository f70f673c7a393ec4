//! All that setups side by side are made of.

use busy_hen_home::Home;
use busy_hen_predict::Knowledge;
use busy_hen_survey::calibration::evidence::Taken;

use super::asked::Asked;
use super::sides::{Place, Side};

/// All that the answer is made of.
pub struct Table<'a> {
    pub home: &'a Home,
    pub taken: &'a [Taken<'a>],
    pub kept: &'a Knowledge,
    pub asked: &'a Asked<'a>,
    pub places: Vec<Place<'a>>,
    pub sides: Vec<Side<'a>>,
}

impl Table<'_> {
    /// Rounds of a setup, with their runs.
    pub fn rounds_of(&self, side: &Side<'_>) -> impl Iterator<Item = &Taken<'_>> {
        self.taken.iter().filter(|own| own.round.setup_id == side.setup.id)
    }
}
