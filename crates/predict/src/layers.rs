//! Layers of the lit map: what is asked of each place, in shades with their own words.

use busy_hen_floorplan::Plan;
use busy_hen_home::{Band, Home, Setup, SetupId};
use busy_hen_units::{Db, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::grid::Grid;
use super::map::{CoverageMap, FineLine, Rings, polygons};
use super::palette::{DIVERGING, Hatch, RAMP, Shade};
use super::{Model, Prediction};
use crate::needs::ServiceStep;
use crate::path::chain::figure;
use crate::path::direction::Direction;
use crate::progress::Watch;

/// What the map shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Layer {
    /// What works there, in service steps.
    #[default]
    Works,
    /// How much of the plan arrives.
    PlanShare,
    /// The signal in a band.
    Signal {
        /// The band.
        band: Band,
    },
    /// Which device serves.
    Serves,
    /// How far apart the ends of the likely range lie.
    Doubt,
    /// How surely the signal is known.
    Known,
    /// How much more or less arrives than by the tables alone, without what readings taught.
    Learnt,
    /// How much more or less arrives than with another setup.
    Difference {
        /// That setup.
        setup_id: SetupId,
    },
}

/// Where a shade of a layer holds; drawn over one another in their order.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Shaded {
    /// The shade, an index into the layer's own.
    pub shade: usize,
    /// Its polygons.
    pub polygons: Vec<Rings>,
}

/// Least part of the plan of each shade.
const SHARES: [f64; 6] = [0.05, 0.1, 0.25, 0.5, 0.75, 0.95];
/// Least signal of each shade, dBm: steps that practice speaks in.
const SIGNALS: [f64; 7] = [-88.0, -82.0, -76.0, -70.0, -64.0, -58.0, -50.0];
/// Least ratio of the good end of the likely range to the poor one, of each shade beyond the first.
const DOUBTS: [f64; 4] = [1.5, 2.5, 5.0, 15.0];
/// Least standard deviation of the signal of each shade beyond the first, dB.
const SURE: [f64; 4] = [2.5, 3.5, 4.5, 6.0];
/// Least ratio to the other setup of each shade but the lowest. Within a quarter is alike: single runs scatter by as much.
const RATIOS: [f64; 4] = [0.5, 0.8, 1.25, 2.0];
/// A speed below this is as good as none in a ratio, Mb/s.
const NOTHING_MBPS: f64 = 0.1;

/// The shades of a layer: what each stands for.
#[must_use]
pub fn shades(layer: Layer, home: &Home, setup: &Setup) -> Vec<Shade> {
    match layer {
        Layer::Works => ServiceStep::ALL
            .iter()
            .map(|step| {
                let asks = step.asks().map(|(down, up, _)| format!("{}/{}", short(down.get()), short(up.get())));
                Shade::new(RAMP[*step as usize], step.name(), asks)
            })
            .collect(),
        Layer::PlanShare => ramp("less", SHARES.iter().map(|part| format!("{:.0} %", 100.0 * part)), "of the plan"),
        Layer::Signal { .. } => ramp("not held", SIGNALS.iter().map(|dbm| format!("{dbm:.0} dBm")), "and more"),
        Layer::Serves => std::iter::once(Shade::new(RAMP[0], "nobody", None))
            .chain(setup.devices.iter().enumerate().map(|(index, device)| {
                let shade = Shade::new(RAMP[9 - (3 * index) % 8], device.name.clone(), None);
                match (3 * index) / 8 % 4 {
                    0 => shade,
                    1 => shade.hatched(Hatch::Rising),
                    2 => shade.hatched(Hatch::Falling),
                    _ => shade.hatched(Hatch::Crossed),
                }
            }))
            .collect(),
        Layer::Doubt => {
            let names = ["sure: within 1.5 times", "within 2.5 times", "within 5 times", "within 15 times", "anything"];
            let hatch = [None, None, Some(Hatch::Rising), Some(Hatch::Rising), Some(Hatch::Crossed)];
            let colours = [RAMP[9], RAMP[7], RAMP[6], RAMP[4], RAMP[2]];
            let shade = |((name, colour), hatch): ((&str, &str), Option<Hatch>)| Shade {
                hatch,
                ..Shade::new(colour, name, None)
            };
            names.into_iter().zip(colours).zip(hatch).map(shade).collect()
        }
        Layer::Known => {
            let names = ["sure to 2.5 dB", "to 3.5 dB", "to 4.5 dB", "to 6 dB", "less sure"];
            let hatch = [None, None, None, Some(Hatch::Rising), Some(Hatch::Crossed)];
            let colours = [RAMP[9], RAMP[8], RAMP[6], RAMP[4], RAMP[2]];
            let shade = |((name, colour), hatch): ((&str, &str), Option<Hatch>)| Shade {
                hatch,
                ..Shade::new(colour, name, None)
            };
            names.into_iter().zip(colours).zip(hatch).map(shade).collect()
        }
        Layer::Learnt => against("the tables"),
        Layer::Difference { setup_id } => {
            against(home.setup(setup_id).map_or("the other", |other| other.letter.as_str()))
        }
    }
}

/// The shades of a ratio to something.
fn against(other: &str) -> Vec<Shade> {
    let names = [
        format!("less than half of {other}"),
        format!("less than {other}"),
        format!("like {other}"),
        format!("more than {other}"),
        format!("twice {other} and more"),
    ];
    let hatch = [Some(Hatch::Crossed), Some(Hatch::Falling), None, None, Some(Hatch::Rising)];
    let shade = |((name, colour), hatch)| Shade { hatch, ..Shade::new(colour, name, None) };
    names.into_iter().zip(DIVERGING).zip(hatch).map(shade).collect()
}

/// A shade below and one for each figure, lit by their order.
fn ramp(below: &str, figures: impl ExactSizeIterator<Item = String>, what: &str) -> Vec<Shade> {
    let count = figures.len();
    let lit = move |index: usize| RAMP[(index + 1) * (RAMP.len() - 1) / count];
    let shades = figures.enumerate().map(|(index, figure)| Shade::new(lit(index), what, Some(figure)));
    std::iter::once(Shade::new(RAMP[0], below, None)).chain(shades).collect()
}

/// A figure as short as it reads.
fn short(value: f64) -> String {
    if value.fract() == 0.0 { format!("{value:.0}") } else { format!("{value:.1}") }
}

impl Model<'_> {
    /// A level in the shades of a layer; `other` is the model of the setup that a difference is to.
    ///
    /// # Complexity
    /// As the map's; for the likely range O(cells x tries) instead.
    #[must_use]
    pub fn shaded(
        &self,
        level: usize,
        cell: Metres,
        layer: Layer,
        map: &CoverageMap,
        other: Option<&Model<'_>>,
        watch: &Watch,
    ) -> Vec<Shaded> {
        if layer == Layer::Works {
            let shaded =
                |band: &super::map::StepBand| Shaded { shade: band.step as usize, polygons: band.polygons.clone() };
            return map.bands.iter().map(shaded).collect();
        }
        let Some(bounds) = self.plan.bounds(level) else { return Vec::new() };
        let grid = Grid::new(&bounds, cell);
        match layer {
            Layer::Works => Vec::new(),
            Layer::PlanShare => {
                let Some(plan) = self.network().plan_cap(Direction::Down) else { return Vec::new() };
                let values = self.downs(level, &grid, watch).iter().map(|down| down / plan.get()).collect::<Vec<_>>();
                steps(&grid, &values, &SHARES, 1)
            }
            Layer::Signal { band } => steps(&grid, &self.signals_in(level, &grid, band, watch), &SIGNALS, 1),
            Layer::Serves => {
                let serving = self.serving(level, &grid, watch);
                (0..self.network().nodes.len())
                    .filter_map(|node| {
                        let mask: Vec<f64> =
                            serving.iter().map(|own| f64::from(u8::from(*own == Some(node)))).collect();
                        let polygons = polygons(&grid, &mask, &[0.5], false).pop()?;
                        (!polygons.is_empty()).then_some(Shaded { shade: node + 1, polygons })
                    })
                    .collect()
            }
            Layer::Doubt => {
                let ratio = |prediction: &Prediction| {
                    prediction.down.good.get().max(NOTHING_MBPS) / prediction.down.poor.get().max(NOTHING_MBPS)
                };
                let values = grid.over_cells(
                    || (),
                    |(), _, (x, y)| {
                        if watch.is_stopped() {
                            return 1.0;
                        }
                        let room = self.plan.room_at(level, x, y).map(|room| room.id);
                        ratio(&self.at(self.plan.in_hand(level, x, y), room))
                    },
                );
                let all =
                    Shaded { shade: 0, polygons: polygons(&grid, &values, &[0.0], false).pop().unwrap_or_default() };
                std::iter::once(all).chain(steps(&grid, &values, &DOUBTS, 1)).collect()
            }
            Layer::Known => {
                let values = grid.over_cells(
                    || (),
                    |(), _, (x, y)| {
                        let at = self.plan.in_hand(level, x, y);
                        if watch.is_stopped() || self.plan.room_at(level, x, y).is_none() {
                            return 0.0;
                        }
                        self.sure(at).map_or(f64::MAX.sqrt(), Db::get)
                    },
                );
                let all =
                    Shaded { shade: 0, polygons: polygons(&grid, &values, &[0.0], false).pop().unwrap_or_default() };
                std::iter::once(all).chain(steps(&grid, &values, &SURE, 1)).collect()
            }
            Layer::Difference { .. } | Layer::Learnt => {
                let Some(other) = other else { return Vec::new() };
                let (own, theirs) = (self.downs(level, &grid, watch), other.downs(level, &grid, watch));
                let values: Vec<f64> =
                    own.iter().zip(&theirs).map(|(a, b)| a.max(NOTHING_MBPS) / b.max(NOTHING_MBPS)).collect();
                let all =
                    Shaded { shade: 0, polygons: polygons(&grid, &values, &[0.0], false).pop().unwrap_or_default() };
                std::iter::once(all).chain(steps(&grid, &values, &RATIOS, 1)).collect()
            }
        }
    }
}

/// Where each threshold is reached, as shades from `first` on.
fn steps(grid: &Grid, values: &[f64], thresholds: &[f64], first: usize) -> Vec<Shaded> {
    let reached = polygons(grid, values, thresholds, true).into_iter().enumerate();
    reached
        .filter(|(_, polygons)| !polygons.is_empty())
        .map(|(index, polygons)| Shaded { shade: first + index, polygons })
        .collect()
}

/// Side of a cell that lights all of a house at once while something is dragged: finer in a small house.
#[must_use]
pub fn cell_for(plan: &Plan) -> Metres {
    /// Cells that are lit within a tenth of a second on a slow laptop (measured: `cargo bench map`).
    const CELLS: f64 = 5000.0;
    let area: f64 = (0..plan.levels.len()).filter_map(|level| plan.bounds(level)).map(|b| b.width * b.depth).sum();
    Metres::new((area / CELLS).sqrt().clamp(0.2, 1.0))
}

/// Figures of fine lines, Mb/s: what lies between the steps.
const FINE: [f64; 15] = [1.0, 2.0, 6.0, 12.0, 18.0, 40.0, 60.0, 80.0, 150.0, 200.0, 350.0, 420.0, 600.0, 700.0, 800.0];
/// Part of the plan that counts as all of it.
const WHOLE: f64 = 0.97;
/// How far from the walls of its room a figure is written at least, m.
const CLEAR_M: f64 = 0.6;

impl Model<'_> {
    /// Fine lines of a level, with where the plan arrives whole.
    pub(super) fn fine_lines(&self, level: usize, grid: &Grid, downs: &[f64]) -> Vec<FineLine> {
        let whole = self.network().plan_cap(Direction::Down).map(|plan| plan.get() * WHOLE);
        let inside: Vec<f64> = (0..grid.cells())
            .filter(|index| {
                let (x, y) = grid.centre(*index);
                self.plan.room_at(level, x, y).is_some()
            })
            .map(|index| downs[index])
            .collect();
        let (least, most) = inside.iter().fold((f64::INFINITY, 0.0_f64), |(a, b), down| (a.min(*down), b.max(*down)));
        let beside = |figure: f64| whole.is_some_and(|whole| (figure / whole).ln().abs() < 0.15);
        let thresholds: Vec<(f64, bool)> = FINE
            .iter()
            .filter(|figure| !beside(**figure))
            .map(|figure| (*figure, false))
            .chain(whole.map(|whole| (whole, true)))
            .filter(|(figure, _)| least < *figure && *figure < most)
            .collect();
        let levels: Vec<f64> = thresholds.iter().map(|(figure, _)| *figure).collect();
        let outlines = polygons(grid, downs, &levels, true);
        outlines
            .into_iter()
            .zip(thresholds)
            .map(|(outlines, (at, whole_plan))| {
                let place = self.clear_place(level, &outlines);
                let told = if whole_plan { at / WHOLE } else { at };
                FineLine {
                    figure: figure(busy_hen_units::MbitPerSec::new(told)).replace(" Mb/s", ""),
                    whole_plan,
                    outlines,
                    x_m: place.map(|(x, _)| Metres::new(x)),
                    y_m: place.map(|(_, y)| Metres::new(y)),
                }
            })
            .collect()
    }

    /// The place of a line that lies farthest from the walls of its room.
    fn clear_place(&self, level: usize, outlines: &[Rings]) -> Option<(f64, f64)> {
        let rings = outlines.iter().flatten();
        let places = rings.flat_map(|ring| ring.chunks_exact(2).map(|at| (at[0], at[1])));
        let clear = |(x, y): (f64, f64)| {
            let room = self.plan.room_at(level, x, y)?;
            let bounds = room.bounds();
            let clear =
                (x - bounds.x).min(bounds.x + bounds.width - x).min(y - bounds.y).min(bounds.y + bounds.depth - y);
            Some((clear, (x, y)))
        };
        let best = places.filter_map(clear).max_by(|a, b| a.0.total_cmp(&b.0))?;
        (best.0 >= CLEAR_M).then_some(best.1)
    }
}
