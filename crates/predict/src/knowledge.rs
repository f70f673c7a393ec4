//! What is known before a question is asked.

use std::sync::Arc;

use busy_hen_floorplan::Plan;
use busy_hen_home::Home;
use busy_hen_radio::cache::Cache;
use busy_hen_radio::propagation::HouseCache;

use crate::calibration::Calibration;
use crate::path::LinkTables;
use crate::path::line::LineCap;
use crate::progress::Watch;
use crate::signals::Signals;

/// What is known before a question is asked: what was worked out before, which changes no answer, and what readings taught, which does.
#[derive(Debug, Default, Clone)]
pub struct Knowledge {
    /// What pairs of radios carry.
    pub tables: Arc<LinkTables>,
    /// Houses at a frequency.
    pub houses: Arc<HouseCache>,
    pub(crate) signals: Arc<Signals>,
    /// What is left of how far links are unsure.
    pub(crate) unsure: Arc<UncertaintyCache>,
    /// What readings taught of the home.
    pub learnt: Option<Arc<Calibration>>,
    /// What its lines were measured to give.
    pub line: Arc<[LineCap]>,
    /// Whether anybody still waits for the answer.
    pub(crate) asked: Watch,
}

/// How many links' unsureness is kept: some tens of devices, heard everywhere in a large home.
const UNSURE_KEPT: usize = 200_000;

/// What is left of how far links are unsure, by what it follows from.
#[derive(Debug)]
pub(crate) struct UncertaintyCache(pub(crate) Cache<u64, f64>);

impl Default for UncertaintyCache {
    fn default() -> Self {
        Self(Cache::new(UNSURE_KEPT))
    }
}

impl Knowledge {
    /// The same with this learnt of a home; with nothing of any, when none is given.
    #[must_use]
    pub fn having(&self, learnt: Option<Arc<Calibration>>) -> Self {
        Self { learnt, ..self.clone() }
    }

    /// The same with what lines were measured to give.
    #[must_use]
    pub fn with_line(&self, line: &Arc<[LineCap]>) -> Self {
        Self { line: line.clone(), ..self.clone() }
    }

    /// The same for whoever waits by this: once it is stopped, what is still computed ends soon and is of no account.
    #[must_use]
    pub fn wanted_by(&self, asked: &Watch) -> Self {
        Self { asked: asked.clone(), ..self.clone() }
    }

    /// Whether the answer is still wanted. Asked before each part of a computation that may be long; what is kept for others is never cut short.
    #[must_use]
    pub fn is_wanted(&self) -> bool {
        !self.asked.is_stopped()
    }

    /// So much of a list as is still wanted.
    pub fn wanted<I: IntoIterator>(&self, list: I) -> impl Iterator<Item = I::Item> {
        list.into_iter().take_while(|_| self.is_wanted())
    }

    /// The house of a home, with what was learnt of its parts.
    #[must_use]
    pub fn plan(&self, home: &Home) -> Plan {
        match &self.learnt {
            Some(learnt) => learnt.plan(home),
            None => Plan::new(&home.house, home.units),
        }
    }
}
