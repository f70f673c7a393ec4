//! The lamplight map of one level: service scores over a grid, their contours, and dead zones.

use busy_hen_floorplan::Point;
use busy_hen_home::{Band, DeviceId, RoomId, Situation};
use busy_hen_radio::propagation::Sight;
use busy_hen_units::{Db, MbitPerSec, Megahertz, Metres, SquareMetres};
use serde::Serialize;
use utoipa::ToSchema;

use super::grid::Grid;
use super::signals::{Field, Losses};
use super::{Model, Prediction};
use crate::needs::{Need, ServiceStep, Shortfall, step};
use crate::path::direction::Direction;
use crate::path::hop::{HopKind, Medium};
use crate::path::network::Access;
use crate::path::{Chain, LinkKind};
use crate::progress::Watch;

/// Where no radio of a band serves at all, dBm.
const UNHEARD_DBM: f64 = -140.0;

/// Closed rings of a polygon, each flat as x, y, x, y ... in metres; the first is the outside, the others are holes.
pub type Rings = Vec<Vec<f64>>;

/// One level lit.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CoverageMap {
    /// Side of a cell.
    pub cell_m: Metres,
    /// Area of each service step that occurs, as polygons.
    pub bands: Vec<StepBand>,
    /// Where a room's need is not met.
    pub dead_zones: Vec<DeadZone>,
    /// Outlines of all dead zones.
    pub dead_outlines: Vec<Rings>,
    /// Fine lines within the steps.
    pub fine_lines: Vec<FineLine>,
}

/// Where one service step holds, or a better one.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct StepBand {
    /// The step.
    pub step: ServiceStep,
    /// Its polygons.
    pub polygons: Vec<Rings>,
}

/// A fine line within a step: where just so much arrives.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FineLine {
    /// The figure, Mb/s down.
    pub figure: String,
    /// Whether it is where the whole plan arrives.
    pub whole_plan: bool,
    /// Outlines of where at least that arrives.
    pub outlines: Vec<Rings>,
    /// A place on it to write the figure at, east; none where it runs along the walls alone.
    pub x_m: Option<Metres>,
    /// The same, south.
    pub y_m: Option<Metres>,
}

/// Part of a room where its need is not met.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DeadZone {
    /// The room.
    pub room_id: RoomId,
    /// How large it is.
    pub area_m2: SquareMetres,
    /// The room's whole area.
    pub room_area_m2: SquareMetres,
    /// A place in it, east.
    pub x_m: Metres,
    /// A place in it, south.
    pub y_m: Metres,
    /// Least that arrives in it.
    pub worst_down_mbps: MbitPerSec,
    /// What limits it at its worst, in words.
    pub cause: String,
}

/// What carries a backhaul hop.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Carrier {
    /// Network cable.
    Cable,
    /// A pair of adapters on coax.
    Coax,
    /// A pair of adapters on the mains wiring.
    PowerLine,
    /// The air.
    Radio,
}

/// A backhaul hop as drawn on the map.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DrawnHop {
    /// The device.
    pub device: DeviceId,
    /// The device it leads to.
    pub to: DeviceId,
    /// What carries it.
    pub by: Carrier,
    /// What it carries towards the device; none when it can't work.
    pub down_mbps: Option<MbitPerSec>,
    /// Length of the straight line.
    pub distance_m: Metres,
    /// Why it carries that much, or why it can't work.
    pub detail: String,
}

/// A place of a grid, with all that is predicted for it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct GridPlace {
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// The room it lies in.
    pub room_id: RoomId,
    /// What a client gets there.
    pub prediction: Prediction,
    /// The link that limits; none where nothing holds.
    pub limiting: Option<LinkKind>,
    /// The link that would limit next if that one were mended.
    pub runner_up: Option<LinkKind>,
}

/// Losses from one radio over a grid.
struct OverGrid {
    /// Those of its device.
    losses: Losses,
    /// Which of them.
    frequency: usize,
    /// How much more readings taught; empty without any.
    more: Vec<Db>,
}

impl OverGrid {
    fn at(&self, cell: usize) -> Db {
        self.losses[self.frequency][cell] + self.more.get(cell).copied().unwrap_or_default()
    }
}

/// One cell of the lit map.
#[derive(Debug, Clone, Copy)]
struct Cell {
    score: f64,
    down: f64,
    fails: bool,
    room: Option<usize>,
}

impl Model<'_> {
    /// Lights one level on a grid of this cell size, over all its rooms and outdoor areas.
    ///
    /// # Complexity
    /// O(cells x (walls + surfaces of a room)) for each device that is new or has moved since the last question, and O(cells x
    /// radios) to put them together.
    #[must_use]
    pub fn coverage(&self, level: usize, cell: Metres) -> CoverageMap {
        self.coverage_watched(level, cell, &Watch::default())
    }

    /// The same, to be stopped half-way.
    #[must_use]
    pub fn coverage_watched(&self, level: usize, cell: Metres, watch: &Watch) -> CoverageMap {
        let Some(bounds) = self.plan.bounds(level) else {
            return CoverageMap {
                cell_m: cell,
                bands: Vec::new(),
                dead_zones: Vec::new(),
                dead_outlines: Vec::new(),
                fine_lines: Vec::new(),
            };
        };
        let grid = Grid::new(&bounds, cell);
        let needs: Vec<Option<Need>> = self.plan.rooms.iter().map(|room| self.need(room.id)).collect();
        let cells = self.cells(level, &grid, &needs, watch);
        CoverageMap {
            cell_m: Metres::new(grid.cell),
            bands: bands(&grid, &cells),
            dead_zones: self.dead_zones(level, &grid, &cells),
            dead_outlines: dead_outlines(&grid, &cells),
            fine_lines: self.fine_lines(level, &grid, &cells.iter().map(|cell| cell.down).collect::<Vec<_>>()),
        }
    }

    /// Download in each cell, Mb/s.
    pub(super) fn downs(&self, level: usize, grid: &Grid, watch: &Watch) -> Vec<f64> {
        let needs = vec![None; self.plan.rooms.len()];
        self.cells(level, grid, &needs, watch).iter().map(|cell| cell.down).collect()
    }

    /// The strongest signal in a band in each cell, dBm; far below everything where no radio of the band serves.
    pub(super) fn signals_in(&self, level: usize, grid: &Grid, band: Band, watch: &Watch) -> Vec<f64> {
        let losses = self.grid_losses(level, grid, watch);
        let accesses = self.evaluator.accesses.iter().filter(|access| access.port.is_none());
        let of_band: Vec<_> = accesses.zip(&losses).filter(|(access, _)| access.band == band).collect();
        let signal = |index: usize| {
            let rssi = |(access, losses): &(&Access, &OverGrid)| access.table.at(losses.at(index)).rssi.get();
            of_band.iter().map(rssi).fold(UNHEARD_DBM, f64::max)
        };
        (0..grid.cells()).map(signal).collect()
    }

    /// The device that serves in each cell, as a place in the list of nodes; none where nothing holds.
    pub(super) fn serving(&self, level: usize, grid: &Grid, watch: &Watch) -> Vec<Option<usize>> {
        let losses = self.grid_losses(level, grid, watch);
        grid.over_cells(Vec::new, |of_cell, index, (x, y)| {
            of_cell.clear();
            of_cell.extend(losses.iter().map(|own| own.at(index)));
            of_cell.extend(self.plugged(self.plan.in_hand(level, x, y)));
            self.evaluator.associate(of_cell).map(|(access, _)| self.evaluator.accesses[access].node)
        })
    }

    /// Predicts a level place by place, with the limiting link of each; places outside of all rooms are left out.
    #[must_use]
    pub fn grid(&self, level: usize, cell: Metres, watch: &Watch) -> Vec<GridPlace> {
        let Some(bounds) = self.plan.bounds(level) else { return Vec::new() };
        let grid = Grid::new(&bounds, cell);
        watch.begin(grid.cells());
        let place = |index: usize| {
            watch.step();
            let (x, y) = grid.centre(index);
            let room_id = self.plan.room_at(level, x, y)?.id;
            let at = self.plan.in_hand(level, x, y);
            let chain = self.chain(at, Some(room_id));
            let kind = |pick: fn(&Chain) -> Option<usize>| {
                chain.as_ref().and_then(|chain| pick(chain).map(|index| chain.links[index].kind))
            };
            Some(GridPlace {
                x_m: Metres::new(x),
                y_m: Metres::new(y),
                room_id,
                prediction: self.at(at, Some(room_id)),
                limiting: kind(|chain| chain.limiting),
                runner_up: kind(|chain| chain.runner_up),
            })
        };
        (0..grid.cells()).take_while(|_| !watch.is_stopped()).filter_map(place).collect()
    }

    fn cells(&self, level: usize, grid: &Grid, needs: &[Option<Need>], watch: &Watch) -> Vec<Cell> {
        let losses = self.grid_losses(level, grid, watch);
        grid.over_cells(Vec::new, |of_cell, index, (x, y)| {
            if watch.is_stopped() {
                return Cell { score: 0.0, down: 0.0, fails: false, room: None };
            }
            of_cell.clear();
            of_cell.extend(losses.iter().map(|own| own.at(index)));
            of_cell.extend(self.plugged(self.plan.in_hand(level, x, y)));
            self.cell(level, (x, y), of_cell, needs)
        })
    }

    /// Losses from every port that a client may plug into, in the order of the accesses, which has them last.
    fn plugged(&self, at: Point) -> impl Iterator<Item = Db> + '_ {
        self.evaluator.accesses.iter().filter_map(move |access| access.plugged(self.network(), self.plan, at))
    }

    /// Losses from every radio that a client may join, in the order of the accesses.
    fn grid_losses(&self, level: usize, grid: &Grid, watch: &Watch) -> Vec<OverGrid> {
        let field = Field { waves: &self.waves, fingerprint: self.fingerprint, level, grid };
        let mut list: Vec<OverGrid> = Vec::new();
        for (index, node) in self.network().nodes.iter().enumerate() {
            let radio = |access: &&Access| access.node == index && access.port.is_none();
            let own = self.evaluator.accesses.iter().filter(radio);
            let frequencies: Vec<Megahertz> = own.map(|access| access.block.centre).collect();
            if frequencies.is_empty() {
                continue;
            }
            let losses = self.kept.signals.of(&field, node, &frequencies, watch);
            let of = |frequency| OverGrid { losses: Losses::clone(&losses), frequency, more: Vec::new() };
            list.extend((0..frequencies.len()).map(of));
        }
        if let Some(taught) = &self.taught {
            let more = grid.over_cells(|| (), |(), _, (x, y)| taught.more(self.plan.in_hand(level, x, y)));
            for (radio, own) in list.iter_mut().enumerate() {
                own.more = more.iter().map(|cell| cell[radio]).collect();
            }
        }
        list
    }

    fn cell(&self, level: usize, (x, y): (f64, f64), losses: &[Db], needs: &[Option<Need>]) -> Cell {
        let room = self.plan.room_index_at(level, x, y);
        let seat = room.unwrap_or(self.plan.rooms.len());
        let Some(joined) = self.evaluator.associate(losses) else {
            let fails = room.is_some_and(|room| needs[room].is_some()) && !self.evaluator.plugged_in;
            return Cell { score: 0.0, down: 0.0, fails, room };
        };
        let arrives = |way: Direction| self.evaluator.arrives(seat, &joined, way);
        let (down, up) = (arrives(Direction::Down), arrives(Direction::Up));
        let latency = self.evaluator.felt(self.evaluator.latency(joined.0, &joined.1, seat).median, down, seat);
        let fails = room.and_then(|room| needs[room]).is_some_and(|need| !need.met_by(down, up, latency));
        Cell { score: step::score(down, up, latency), down: down.get(), fails, room }
    }

    fn dead_zones(&self, level: usize, grid: &Grid, cells: &[Cell]) -> Vec<DeadZone> {
        let rooms = self.plan.rooms.iter().enumerate().filter(|(_, room)| room.level == level);
        rooms
            .filter_map(|(index, room)| {
                let dead: Vec<usize> =
                    (0..cells.len()).filter(|i| cells[*i].fails && cells[*i].room == Some(index)).collect();
                let worst = *dead.iter().min_by(|a, b| cells[**a].down.total_cmp(&cells[**b].down))?;
                let (x, y) = grid.centre(worst);
                let area = dead.len() as f64 * grid.cell * grid.cell;
                Some(DeadZone {
                    room_id: room.id,
                    area_m2: SquareMetres::new(area).min(room.area()),
                    room_area_m2: room.area(),
                    x_m: Metres::new(x),
                    y_m: Metres::new(y),
                    worst_down_mbps: MbitPerSec::new(cells[worst].down),
                    cause: {
                        let at = self.plan.in_hand(level, x, y);
                        self.cause(at, room.id, self.least_met(at, room.id))
                    },
                })
            })
            .collect()
    }

    /// What of a room's need is met least at a place, by prediction; none where it needs nothing.
    pub fn least_met(&self, at: Point, room: RoomId) -> Option<Shortfall> {
        let got = self.evaluator.middle(&self.losses(at).middle, self.seat(Some(room)));
        self.need(room).map(|need| need.least_met(got.down, got.up, got.latency))
    }

    /// Why a place lacks what it is short of, in words: the link that limits it, or what makes answers late.
    pub fn cause(&self, at: Point, room: RoomId, short_of: Option<Shortfall>) -> String {
        if let Some(Shortfall::Delay { has_ms, needs_ms }) = short_of
            && has_ms > needs_ms
        {
            let network = self.network();
            let busy = self.question.situation == Situation::BusyEvening;
            let root = network.nodes.iter().find(|own| own.uplink.is_none());
            return match root.filter(|_| busy && !network.managed_queue) {
                Some(root) => format!("{} lets its queue grow while the line or the air is full", root.name),
                None => "the delays of the line and of every hop add up".to_owned(),
            };
        }
        let chain = self.chain(at, Some(room));
        let link = chain.as_ref().and_then(|chain| chain.limiting.map(|index| &chain.links[index]));
        link.map_or_else(
            || "no radio of the setup is heard here".to_owned(),
            |link| format!("{}: {}", link.label, link.detail),
        )
    }

    /// Backhaul hops for drawing.
    #[must_use]
    pub fn hops(&self) -> Vec<DrawnHop> {
        let nodes = &self.network().nodes;
        nodes
            .iter()
            .enumerate()
            .filter_map(|(index, node)| {
                let hop = node.uplink.as_ref()?;
                let sight = Sight::between(self.plan, node.at, nodes[hop.to].at);
                let (by, detail) = match &hop.kind {
                    HopKind::Wired { medium, narrowest, .. } => {
                        let (by, what) = match medium {
                            Medium::Cable => (Carrier::Cable, "cable"),
                            Medium::Coax => (Carrier::Coax, "coax pair"),
                            Medium::PowerLine { .. } => (Carrier::PowerLine, "power-line pair"),
                        };
                        (by, format!("{what}, limited by {}", narrowest.in_words()))
                    }
                    HopKind::Radio { block, loss, table, .. } => {
                        let between = sight.in_words(self.plan);
                        (Carrier::Radio, format!("{}, {:.0}, {between}", block.band, table.at(*loss).rssi))
                    }
                    HopKind::Broken(why) => (Carrier::Radio, why.in_words(&node.name, &nodes[hop.to].name)),
                };
                let down = self.network().hop_goodput(index, Direction::Down, Db::new(0.0), &[]);
                let broken = matches!(hop.kind, HopKind::Broken(_));
                Some(DrawnHop {
                    device: node.id,
                    to: nodes[hop.to].id,
                    by,
                    down_mbps: (!broken).then_some(down),
                    distance_m: sight.distance,
                    detail,
                })
            })
            .collect()
    }
}

/// For each step above nothing, the polygons where at least it holds; drawn over one another, lowest first.
fn bands(grid: &Grid, cells: &[Cell]) -> Vec<StepBand> {
    let scores: Vec<f64> = cells.iter().map(|cell| cell.score).collect();
    let thresholds: Vec<f64> = (1..ServiceStep::ALL.len()).map(|step| step as f64).collect();
    polygons(grid, &scores, &thresholds, true)
        .into_iter()
        .zip(&ServiceStep::ALL[1..])
        .filter(|(polygons, _)| !polygons.is_empty())
        .map(|(polygons, step)| StepBand { step: *step, polygons })
        .collect()
}

fn dead_outlines(grid: &Grid, cells: &[Cell]) -> Vec<Rings> {
    let mask: Vec<f64> = cells.iter().map(|cell| f64::from(u8::from(cell.fails))).collect();
    polygons(grid, &mask, &[0.5], false).pop().unwrap_or_default()
}

/// A ring without the points that lie on the way from the one before to the one after: along walls there is one a cell.
fn corners(ring: impl Iterator<Item = [f64; 2]>) -> Vec<f64> {
    let goes_on = |a: [f64; 2], b: [f64; 2], c: [f64; 2]| {
        let ((x1, y1), (x2, y2)) = ((b[0] - a[0], b[1] - a[1]), (c[0] - b[0], c[1] - b[1]));
        (x1 * y2 - x2 * y1).abs() < 1e-9 && x1 * x2 + y1 * y2 >= 0.0
    };
    let mut kept: Vec<[f64; 2]> = Vec::new();
    for point in ring {
        while let [.., a, b] = kept[..]
            && goes_on(a, b, point)
        {
            kept.pop();
        }
        kept.push(point);
    }
    kept.concat()
}

/// For each threshold, the polygons in which the values are at least that.
pub(super) fn polygons(grid: &Grid, values: &[f64], thresholds: &[f64], smooth: bool) -> Vec<Vec<Rings>> {
    let Ok(contours) = grid.contours(smooth).contours(values, thresholds) else { return Vec::new() };
    let round = |value: f64| (value * 100.0).round() / 100.0;
    contours
        .iter()
        .map(|contour| {
            let polygons = contour.geometry().0.iter();
            polygons
                .map(|polygon| {
                    std::iter::once(polygon.exterior())
                        .chain(polygon.interiors())
                        .map(|ring| corners(ring.0.iter().map(|point| [round(point.x), round(point.y)])))
                        .collect()
                })
                .collect()
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::corners;

    #[test]
    fn a_ring_keeps_its_corners_and_no_point_between_them() {
        let square = [[0.0, 0.0], [0.5, 0.0], [1.0, 0.0], [1.0, 0.0], [1.0, 2.0], [0.0, 2.0], [0.0, 1.0], [0.0, 0.0]];
        assert_eq!(corners(square.into_iter()), [0.0, 0.0, 1.0, 0.0, 1.0, 2.0, 0.0, 2.0, 0.0, 0.0]);
        let there_and_back = [[0.0, 0.0], [2.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 0.0]];
        assert_eq!(corners(there_and_back.into_iter()), there_and_back.concat(), "a point where it turns back is one");
        assert!(corners(std::iter::empty()).is_empty());
    }
}
