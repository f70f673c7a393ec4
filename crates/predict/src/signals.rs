//! Losses from devices to the cells of a grid, kept by the caller from one question to the next: a device that has not moved, in a
//! house that has not changed, is not worked out again.

use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use busy_hen_floorplan::{Point, View};
use busy_hen_home::{Aerial, Enclosure};
use busy_hen_radio::cache::Cache;
use busy_hen_radio::propagation::aerial::Pattern;
use busy_hen_radio::propagation::{DiffuseField, PropagationModel, Radiosity, Sensitivity, Sight};
use busy_hen_units::{Db, Megahertz};

use super::grid::Grid;
use crate::path::Node;
use crate::path::network::{Access, Network};
use crate::path::nodes::enclosure_loss;
use crate::progress::Watch;

/// Cells whose views are kept, over all grids; a grid finer than that looks anew each time.
const VIEWS_KEPT: usize = 120_000;
/// Losses kept, over all grids, devices and frequencies.
const LOSSES_KEPT: usize = 8_000_000;

/// Losses from one device to every cell of a grid, row by row: one list for each frequency.
pub type Losses = Arc<Vec<Vec<Db>>>;

/// What was worked out before.
#[derive(Debug)]
pub struct Signals {
    losses: Cache<u64, Losses>,
    views: Cache<u64, Arc<Vec<View>>>,
}

impl Default for Signals {
    fn default() -> Self {
        Self { losses: Cache::new(LOSSES_KEPT), views: Cache::new(VIEWS_KEPT) }
    }
}

/// A grid on a level of a house whose doors stand one way.
pub struct Field<'a, 'p> {
    /// The house.
    pub waves: &'a PropagationModel<'p>,
    /// Its fingerprint.
    pub fingerprint: u64,
    /// Level of the grid.
    pub level: usize,
    /// The grid.
    pub grid: &'a Grid,
}

impl Signals {
    /// Losses from a device to every cell at each of these frequencies.
    ///
    /// # Complexity
    /// O(cells x (walls + surfaces of a room)) for a device that is new or has moved, else one look-up.
    pub fn of(&self, field: &Field<'_, '_>, node: &Node, frequencies: &[Megahertz], watch: &Watch) -> Losses {
        let key = field.key_of(node, frequencies);
        if let Some(known) = self.losses.get(&key) {
            return known;
        }
        let losses = Arc::new(field.losses(node, frequencies, self.views(field).as_deref(), watch));
        // What was stopped half-way is of no account to anyone else.
        let weight = losses.iter().map(Vec::len).sum();
        if watch.is_stopped() { losses } else { self.losses.keep(key, losses, weight) }
    }

    /// What every cell sees of the surfaces around it; none for a grid too fine to keep that.
    fn views(&self, field: &Field<'_, '_>) -> Option<Arc<Vec<View>>> {
        if field.grid.cells() > VIEWS_KEPT {
            return None;
        }
        let plan = field.waves.plan;
        let look = |(): &mut (), _, (x, y)| plan.surfaces.view(&plan.in_hand(field.level, x, y));
        let key = field.key().finish();
        Some(self.views.get_or_make(key, |views| views.len(), || Arc::new(field.grid.over_cells(|| (), look))))
    }
}

/// Adds what a device's losses follow from to a hash: its place, its aerials, what it stands in.
pub(super) fn hash_sender(node: &Node, hasher: &mut DefaultHasher) {
    let aerial = match node.aerial {
        Aerial::BuiltIn => [0.0; 4],
        Aerial::Rods { gain_dbi, lean, towards } => [1.0 + gain_dbi.get(), lean.get(), towards.get(), 0.0],
        Aerial::Sector { gain_dbi, width, height, towards } => {
            [-gain_dbi.get(), width.get(), height.get(), towards.get()]
        }
    };
    let place = [node.at.x, node.at.y, node.at.z];
    place.into_iter().chain(aerial).for_each(|number| number.to_bits().hash(hasher));
    (node.enclosure as u8).hash(hasher);
}

impl Field<'_, '_> {
    fn key(&self) -> DefaultHasher {
        let mut hasher = DefaultHasher::new();
        (self.fingerprint, self.level, self.waves.doors as u8).hash(&mut hasher);
        self.grid.hash_into(&mut hasher);
        hasher
    }

    fn key_of(&self, node: &Node, frequencies: &[Megahertz]) -> u64 {
        let mut hasher = self.key();
        hash_sender(node, &mut hasher);
        frequencies.iter().for_each(|frequency| frequency.get().to_bits().hash(&mut hasher));
        hasher.finish()
    }

    fn losses(&self, node: &Node, frequencies: &[Megahertz], views: Option<&Vec<View>>, watch: &Watch) -> Vec<Vec<Db>> {
        let plan = self.waves.plan;
        let lit: Vec<RadioField<'_>> =
            frequencies.iter().map(|f| RadioField::new(self.waves, node.at, node.enclosure, *f)).collect();
        let pattern = Pattern::new(&node.aerial);
        let start = || (Sight::between(plan, node.at, node.at), View::default());
        let rows = self.grid.over_cells(start, |(sight, own), index, (x, y)| {
            if watch.is_stopped() {
                return vec![Db::new(0.0); lit.len()];
            }
            let at = plan.in_hand(self.level, x, y);
            let view = match views {
                Some(views) => &views[index],
                None => {
                    plan.surfaces.set_view(&at, own);
                    &*own
                }
            };
            sight.set_between(plan, node.at, at);
            let gain = pattern.beyond_counted(node.at, at);
            lit.iter().map(|lit| lit.loss(sight, view, gain)).collect::<Vec<Db>>()
        });
        (0..lit.len()).map(|index| rows.iter().map(|row| row[index]).collect()).collect()
    }
}

/// A house lit by one radio.
pub struct RadioField<'a> {
    waves: Radiosity<'a>,
    from: View,
    glow: DiffuseField,
    enclosure: Db,
}

impl<'a> RadioField<'a> {
    /// The house lit from a place at this frequency.
    #[must_use]
    pub fn new(waves: &PropagationModel<'a>, at: Point, enclosure: Enclosure, frequency: Megahertz) -> Self {
        let house = waves.at(frequency);
        let from = waves.plan.surfaces.view(&at);
        let glow = house.diffuse_field(&from);
        Self { waves: house, from, glow, enclosure: enclosure_loss(enclosure, frequency) }
    }

    /// The house lit by a radio that a client may join.
    #[must_use]
    pub fn of_access(waves: &PropagationModel<'a>, network: &Network<'_>, access: &Access) -> Self {
        let node = &network.nodes[access.node];
        Self::new(waves, node.at, node.enclosure, access.block.centre)
    }

    /// Loss to a place along this line and with this view, when the device's aerials give so much more along the line.
    #[must_use]
    pub fn loss(&self, sight: &Sight, view: &View, gain: Db) -> Db {
        self.waves.loss(sight, &self.glow, view, gain) + self.enclosure
    }

    /// The same in each way that rooms may be joined; none where there is one alone.
    #[must_use]
    pub fn losses_each(&self, sight: &Sight, view: &View, gain: Db) -> Vec<Db> {
        self.waves.losses_each(sight, &self.glow, view, gain).into_iter().map(|loss| loss + self.enclosure).collect()
    }

    /// What that loss leans on.
    #[must_use]
    pub fn sensitivities(&self, sight: &Sight, view: &View, gain: Db) -> Vec<Sensitivity> {
        self.waves.sensitivities(sight, &self.from, &self.glow, view, gain)
    }
}

#[cfg(test)]
mod tests {
    use busy_hen_catalogue::{kit, materials};
    use busy_hen_floorplan::{Plan, PlanLevel, PlanRoom, Rect};
    use busy_hen_home::{DeviceId, Doors, LevelId, Mode, RoomId};
    use busy_hen_units::Metres;

    use super::*;

    /// An empty room of 5 x 4 m.
    fn plan() -> Plan {
        let level = PlanLevel { id: LevelId::named("ground"), name: "Ground".into(), z: 0.0, height: 2.6 };
        let room = PlanRoom {
            id: RoomId::named("room"),
            name: "Room".into(),
            level: 0,
            line: 0,
            rect: Rect::new(0.0, 0.0, 5.0, 4.0),
            more: Vec::new(),
            outdoors: false,
        };
        let roof = materials::find("timber_floor").unwrap();
        Plan::of_parts(vec![level], vec![room], Vec::new(), Vec::new(), roof)
    }

    fn node(plan: &Plan, x: f64) -> Node {
        Node {
            id: DeviceId::named("node"),
            name: "Node".into(),
            mode: Mode::AccessPoint,
            kit: kit::all()[0].clone(),
            at: plan.in_hand(0, x, 1.0),
            aerial: Aerial::BuiltIn,
            enclosure: Enclosure::Open,
            radios: Vec::new(),
            uplink: None,
        }
    }

    #[test]
    fn a_device_that_moves_is_worked_out_anew_and_no_other() {
        let plan = plan();
        let waves = PropagationModel::new(&plan, Doors::AsLeft);
        let grid = Grid::new(&Rect::new(0.0, 0.0, 5.0, 4.0), Metres::new(0.5));
        let field = Field { waves: &waves, fingerprint: plan.fingerprint(), level: 0, grid: &grid };
        let of = |signals: &Signals, x: f64| {
            signals.of(&field, &node(&plan, x), &[Megahertz::new(5500.0)], &Watch::default())
        };
        let signals = Signals::default();
        let (first, other) = (of(&signals, 1.0), of(&signals, 4.0));
        assert!(Arc::ptr_eq(&first, &of(&signals, 1.0)) && Arc::ptr_eq(&other, &of(&signals, 4.0)));
        let moved = of(&signals, 2.0);
        assert_ne!(first, moved);
        assert_eq!(moved, of(&Signals::default(), 2.0), "as without anything kept");
    }
}
