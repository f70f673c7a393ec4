//! Link tables that have been worked out already, kept by the caller from one question to the next.

use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use busy_hen_home::{Band, Generation, Neighbour};
use busy_hen_units::Megahertz;

use busy_hen_catalogue::phy::RadioEnd;
use busy_hen_catalogue::spectrum::Block;
use busy_hen_radio::airtime::{Air, LinkTable};
use busy_hen_radio::cache::Cache;

/// Most tables kept; a home uses a few dozen.
const KEPT: usize = 512;

type EndKey = (Generation, u8, bool, [u64; 5]);
type Key = (Band, u64, EndKey, EndKey);

/// Most channels kept with what neighbours make of them.
const AIRS_KEPT: usize = 1024;

/// Tables by the pair of radios they are for, and what neighbours make of channels. Neither depends on anything else, so keeping them
/// changes no answer.
#[derive(Debug)]
pub struct LinkTables {
    tables: Cache<Key, Arc<LinkTable>>,
    airs: Cache<(Band, u64, u64, u64), Arc<Air>>,
}

impl Default for LinkTables {
    fn default() -> Self {
        Self { tables: Cache::new(KEPT), airs: Cache::new(AIRS_KEPT) }
    }
}

impl LinkTables {
    /// The table of a link from `near` (towards the router) to `far` on a channel of this width.
    #[must_use]
    pub fn get(&self, band: Band, near: &RadioEnd, far: &RadioEnd, width: Megahertz) -> Arc<LinkTable> {
        let key = (band, width.get().to_bits(), end_key(near), end_key(far));
        self.tables.get_or_make(key, |_| 1, || Arc::new(LinkTable::new(band, near, far, width)))
    }

    /// What these neighbours make of a channel.
    #[must_use]
    pub fn air(&self, block: &Block, neighbours: &[Neighbour]) -> Arc<Air> {
        let mut hasher = DefaultHasher::new();
        for one in neighbours {
            let numbers = [one.width_mhz.get(), one.signal_dbm.get(), one.busy_part].map(f64::to_bits);
            (one.band, one.channel, numbers).hash(&mut hasher);
        }
        let key = (block.band, block.centre.get().to_bits(), block.width.get().to_bits(), hasher.finish());
        self.airs.get_or_make(key, |_| 1, || Arc::new(Air::on(block, neighbours)))
    }
}

fn end_key(end: &RadioEnd) -> EndKey {
    let numbers = [end.max_width.get(), end.eirp.get(), end.gain.get(), end.body.get(), end.noise_figure.get()];
    (end.generation, end.streams, end.short_aggregate, numbers.map(f64::to_bits))
}
