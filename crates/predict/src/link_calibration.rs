//! What readings taught, put to the radios of a network: by how much their links lose more, and how sure that is.

use busy_hen_floorplan::Point;
use busy_hen_units::Db;

use super::evaluator::Losses;
use crate::calibration::{Calibration, Links, Path};
use crate::path::network::{Access, Network};

/// What was learnt, ready for the radios that a client may join.
pub struct LinkCalibration<'a> {
    learnt: &'a Calibration,
    /// Radio by radio, in the order of the accesses.
    links: Vec<Links>,
}

impl<'a> LinkCalibration<'a> {
    /// For the radios of a network.
    #[must_use]
    pub fn new(learnt: &'a Calibration, network: &Network<'_>, accesses: &[Access], client: &str) -> Self {
        let radios = accesses.iter().filter(|access| access.port.is_none());
        let links = radios.map(|access| {
            let node = &network.nodes[access.node];
            learnt.links(node.id, access.band, node.at, client)
        });
        Self { learnt, links: links.collect() }
    }

    /// How much more each radio's link to a place loses.
    #[must_use]
    pub fn more(&self, at: Point) -> Vec<Db> {
        let near = self.learnt.near(at);
        self.links.iter().map(|links| links.at(at, &near)).collect()
    }

    /// Adds it to losses, which have the radios first.
    pub fn add(&self, losses: &mut Losses, at: Point) {
        let more = self.more(at);
        for list in std::iter::once(&mut losses.middle).chain(&mut losses.each) {
            list.iter_mut().zip(&more).for_each(|(loss, more)| *loss += *more);
        }
    }
}

/// How much more a hop between two devices loses than the house says.
#[must_use]
pub fn of_hop(learnt: Option<&Calibration>, path: &Path) -> Db {
    learnt.map_or(Db::new(0.0), |learnt| learnt.more_of_hop(path))
}
