//! Link tables that have been worked out already, kept by the caller from one question to the next.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use busy_hen_home::Band;
use busy_hen_units::Megahertz;

use crate::phy::{Generation, LinkTable, RadioEnd};

/// Most tables kept; a home uses a few dozen.
const KEPT: usize = 512;

type EndKey = (Generation, u8, [u64; 5]);
type Key = (Band, u64, EndKey, EndKey);

/// Tables by the pair of radios they are for. A table depends on nothing else, so keeping it changes no answer.
#[derive(Debug, Default)]
pub struct LinkTables(Mutex<HashMap<Key, Arc<LinkTable>>>);

impl LinkTables {
    /// The table of a link from `near` (towards the router) to `far` on a channel of this width.
    #[must_use]
    pub fn get(&self, band: Band, near: &RadioEnd, far: &RadioEnd, width: Megahertz) -> Arc<LinkTable> {
        let key = (band, width.get().to_bits(), end_key(near), end_key(far));
        let mut tables = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(table) = tables.get(&key) {
            return Arc::clone(table);
        }
        if tables.len() >= KEPT {
            tables.clear();
        }
        let table = Arc::new(LinkTable::new(band, near, far, width));
        tables.insert(key, Arc::clone(&table));
        table
    }
}

fn end_key(end: &RadioEnd) -> EndKey {
    let numbers = [end.max_width.get(), end.eirp.get(), end.gain.get(), end.body.get(), end.noise_figure.get()];
    (end.generation, end.streams, numbers.map(f64::to_bits))
}
