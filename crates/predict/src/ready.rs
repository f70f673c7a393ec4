//! Losses of a whole setup made ready, and what its rooms get from them: one what-if of a search for places.

use std::sync::Arc;

use busy_hen_catalogue::spectrum::block;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Home, Setup, Situation};
use busy_hen_radio::propagation::PropagationModel;
use busy_hen_units::{Db, Megahertz};

use super::evaluator::{Evaluator, Middle};
use super::losses::{Site, Spot, losses};
use super::{Knowledge, Question};
use crate::needs::busy_need;
use crate::path::line::LineCap;
use crate::path::network::{Access, Network};
use crate::path::{LinkTables, Node};

/// Losses from sites to the middles of all rooms, and from each site to each other, at some frequencies.
#[derive(Debug)]
pub struct Ready {
    frequencies: Vec<Megahertz>,
    rooms: usize,
    /// By site, then frequency: rooms first, then sites.
    losses: Vec<Vec<Vec<Db>>>,
    /// What lines were measured to give.
    line: Arc<[LineCap]>,
}

impl Ready {
    /// Losses of the devices of a setup where they stand, at the frequencies of its radios.
    #[must_use]
    pub fn new(setup: &Setup, plan: &Plan, question: &Question, kept: &Knowledge) -> Self {
        let waves = PropagationModel::keeping(plan, question.doors, &kept.houses, plan.fingerprint());
        let placed = |device: &busy_hen_home::Device| {
            Some(Site { at: plan.place(&device.at)?, aerial: device.aerial, enclosure: device.enclosure })
        };
        let sites: Vec<Site> = setup.devices.iter().filter_map(placed).collect();
        let mut frequencies: Vec<Megahertz> = Vec::new();
        for radio in setup.devices.iter().flat_map(|device| &device.radios) {
            let Some(block) = block(radio.band, radio.channel, radio.width_mhz) else { continue };
            if !frequencies.contains(&block.centre) {
                frequencies.push(block.centre);
            }
        }
        Self { line: kept.line.clone(), ..Self::over_sites(&waves, &sites, frequencies) }
    }

    /// Losses from each of these sites to the middles of all rooms and to each other site.
    ///
    /// # Complexity
    /// O(sites x frequencies x cells^2 + sites x (rooms + sites) x (walls + frequencies x surfaces of a room)); sites are spread over the
    /// cores when the feature `parallel` is on.
    #[must_use]
    pub fn over_sites(waves: &PropagationModel<'_>, sites: &[Site], frequencies: Vec<Megahertz>) -> Self {
        let plan = waves.plan;
        let rooms = plan.rooms.iter().map(|room| Spot::in_hand(plan, plan.middle_of(room)));
        let spots: Vec<Spot> = rooms.chain(sites.iter().map(|site| Spot::of_site(plan, *site))).collect();
        let of = |site: &Site| losses(waves, site, &spots, &frequencies);
        #[cfg(feature = "parallel")]
        let losses = {
            use rayon::prelude::*;
            sites.par_iter().map(of).collect()
        };
        #[cfg(not(feature = "parallel"))]
        let losses = sites.iter().map(of).collect();
        Self { frequencies, rooms: plan.rooms.len(), losses, line: Arc::default() }
    }

    /// Place of a frequency among those that are ready; of one that is not, the nearest.
    fn frequency(&self, asked: Megahertz) -> usize {
        let off = |f: &Megahertz| (f.get() - asked.get()).abs();
        let nearest = self.frequencies.iter().enumerate().min_by(|a, b| off(a.1).total_cmp(&off(b.1)));
        nearest.map_or(0, |(index, _)| index)
    }

    /// Loss from a site to the middle of a room.
    #[must_use]
    pub fn to_room(&self, site: usize, frequency: Megahertz, room: usize) -> Db {
        self.losses[site][self.frequency(frequency)][room]
    }

    /// Loss from a site to another.
    #[must_use]
    pub fn to_site(&self, from: usize, frequency: Megahertz, to: usize) -> Db {
        self.losses[from][self.frequency(frequency)][self.rooms + to]
    }

    /// The middle figures of every room of the plan when each device of the setup stands at the site of the same place in the list.
    #[must_use]
    pub fn middles(
        &self,
        home: &Home,
        setup: &Setup,
        plan: &Plan,
        question: &Question,
        tables: &LinkTables,
    ) -> Vec<Middle> {
        let at: Vec<usize> = (0..setup.devices.len()).collect();
        self.middles_at(home, setup, plan, (question, tables), &at)
    }

    /// The same when each device stands at the site that `at` names for it.
    ///
    /// # Complexity
    /// O(rooms x accesses) look-ups
    #[must_use]
    pub fn middles_at(
        &self,
        home: &Home,
        setup: &Setup,
        plan: &Plan,
        (question, tables): (&Question, &LinkTables),
        at: &[usize],
    ) -> Vec<Middle> {
        let between = |_: &[Node], (upstream, own): (usize, usize), frequency: Megahertz| {
            self.to_site(at[upstream], frequency, at[own])
        };
        let mut network = Network::over_losses(home, setup, plan, (question.day, question.reach), &between, tables);
        network.hold_line(home, &self.line, question.day, question.situation);
        let to_room = |network: &Network<'_>, accesses: &[Access], room: usize| -> Vec<Db> {
            let middle = plan.middle_of(&plan.rooms[room]);
            let loss = |access: &Access| {
                let plugged = access.plugged(network, plan, middle);
                plugged.unwrap_or_else(|| self.to_room(at[access.node], access.block.centre, room))
            };
            accesses.iter().map(loss).collect()
        };
        let busy = question.situation == Situation::BusyEvening;
        let evaluator = Evaluator::new(network, question, tables, |network, accesses| {
            plan.rooms
                .iter()
                .enumerate()
                .map(|(index, room)| match busy_need(&home.brief, room.id, question.reach).filter(|_| busy) {
                    Some(need) => (Some(need), to_room(network, accesses, index)),
                    None => (None, Vec::new()),
                })
                .collect()
        });
        (0..plan.rooms.len())
            .map(|room| evaluator.middle(&to_room(&evaluator.network, &evaluator.accesses, room), room))
            .collect()
    }
}
