//! The air: neighbours' networks as they were heard in the home.

use busy_hen_units::{Dbm, Megahertz};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::band::Band;
use crate::id::NeighbourId;

/// A neighbour's network. No more is kept than sharing the air needs: neither its name nor whose it is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Neighbour {
    /// Identifies the entry.
    pub id: NeighbourId,
    /// Its band.
    pub band: Band,
    /// Its primary 20 MHz channel.
    #[schema(maximum = 65535)]
    pub channel: u16,
    /// Its channel width.
    pub width_mhz: Megahertz,
    /// Signal as heard where the home's devices stand.
    pub signal_dbm: Dbm,
    /// Part of the time it sends, in the situation asked about: 0 to 1.
    pub busy_part: f64,
}
