//! Made-up homes to look around in, brought by the program that serves.

use busy_hen_home::HomeId;
use busy_hen_store::Whole;
use jiff::Timestamp;

/// What makes them.
pub trait Examples: Send + Sync {
    /// The homes with new identities, their rounds dated from this moment backwards.
    fn homes(&self, now: Timestamp) -> Vec<(HomeId, Whole)>;
}
