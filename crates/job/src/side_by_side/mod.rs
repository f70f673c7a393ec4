//! Setups side by side: what is predicted and measured of each, what their readings show, and which to keep.
//!
//! [`readings`](busy_hen_survey::readings) has the statistics; here they are asked about a home: which readings stand for which setup ([`sides`]),
//! whether they are alike ([`facts`]), what is known for the choice ([`candidates`]) and for the rules ([`evidence`]).

mod asked;
mod candidates;
mod evidence;
mod facts;
mod sides;
mod table;
mod trials;
mod views;

use busy_hen_home::{Home, SpotId};

use crate::parts::{Parts, parts};
pub use asked::Asked;
use busy_hen_floorplan::Plan;
use busy_hen_predict::Knowledge;
use busy_hen_predict::needs::verdict;
use busy_hen_predict::path::direction::Direction;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::compare::{Cell, Column, Comparison, Measure, Sides, compare};
use busy_hen_survey::readings::findings::reading_findings;
use busy_hen_survey::readings::verdict::choose;
use sides::{Side, places, sides};
use table::Table;
pub use views::{ComparedCell, ComparedSetup, ComparedSpot, Score, SideBySide, Trial};

/// Sets setups side by side: each spot measured under one set of conditions, with what the readings show and which setup to keep.
///
/// # Complexity
/// O(columns x spots x runs^2) for the statistics, and a network a column over a house that is prepared once
#[must_use]
pub fn side_by_side(home: &Home, plan: &Plan, taken: &[Taken<'_>], asked: &Asked<'_>, kept: &Knowledge) -> SideBySide {
    let places = places(home, plan, asked, kept);
    let sides = sides(home, plan, taken, asked, kept, &places);
    Table { home, taken, kept, asked, places, sides }.answer()
}

impl Table<'_> {
    fn answer(&self) -> SideBySide {
        let Self { home, asked, places, sides, .. } = self;
        let spots: Vec<SpotId> = places.iter().map(|place| place.spot_id).collect();
        let plans: Vec<_> = home.brief.all_plans().collect();
        let how = Sides {
            reference: asked.reference,
            measure: asked.measure,
            shown: asked.shown,
            kind: asked.question.reach,
            share_of: asked.share_of_plan.then_some(&plans[..]),
        };
        let columns: Vec<Column<'_>> = sides.iter().map(|side| side.column.clone()).collect();
        let compared = compare(&spots, &columns, &how);
        // For the choice it is download that counts, whatever is looked at.
        let by_down = match asked.measure {
            Measure::Down if !asked.share_of_plan => compared.clone(),
            _ => compare(&spots, &columns, &Sides { measure: Measure::Down, share_of: None, ..how }),
        };
        let scores: Vec<Score> = sides.iter().map(|side| side.score(places)).collect();
        let parts: Vec<Parts> = sides.iter().map(|side| parts(home, side.setup, side.model.plan)).collect();
        let candidates = self.candidates(&scores, &parts, &by_down);
        let Comparison { rows, whole, unlike, runs_for_a_fifth } = compared;
        let rows = rows.into_iter().enumerate().map(|(row, cells)| {
            let place = &places[row];
            let cells = cells.into_iter().zip(sides).map(|(cell, side)| self.cell(row, side, cell)).collect();
            ComparedSpot {
                spot_id: place.spot_id,
                room_id: place.room_id,
                name: place.name.clone(),
                spot_name: place.spot_name.to_owned(),
                need: place.need,
                cells,
            }
        });
        let like_for_like = !unlike.iter().any(|own| own.parts_columns);
        let columns = sides.iter().zip(whole).zip(scores.into_iter().zip(parts.iter().map(|own| own.total)));
        SideBySide {
            columns: columns.map(|((side, whole), (score, price))| side.compared(whole, score, price)).collect(),
            rows: rows.collect(),
            trials: self.trials(),
            walks: self.walks(),
            findings: reading_findings(&self.evidence()),
            unlike,
            runs_for_a_fifth,
            choice: choose(&candidates, asked.weights, like_for_like),
            decision: home.decision.clone(),
        }
    }

    fn cell(&self, row: usize, side: &Side<'_>, cell: Cell) -> ComparedCell {
        let (place, predicted, network) = (&self.places[row], &side.predictions[row], side.model.network());
        let summary = side.summaries.get(&place.spot_id);
        let ceiling = network.ceiling(Direction::Down);
        let scale = match network.plan_cap(Direction::Down) {
            Some(plan) if self.asked.share_of_plan && self.asked.measure == Measure::Down => 1.0 / plan.get().max(0.1),
            _ => 1.0,
        };
        ComparedCell {
            verdict: place
                .need
                .as_ref()
                .zip(summary)
                .map(|(need, summary)| verdict::measured(need, summary, side.situation())),
            share_of_ceiling: summary.map(|own| own.down_mbps.median / ceiling.get().max(0.1)),
            predicted: match self.asked.measure {
                Measure::Down => {
                    [predicted.down.poor, predicted.down.middle, predicted.down.good].map(|rate| rate.get() * scale)
                }
                Measure::Up => [predicted.up.poor, predicted.up.middle, predicted.up.good].map(|rate| rate.get()),
                Measure::Idle => [predicted.latency_ms.get(); 3],
                Measure::Loaded => [predicted.loaded_ms.get(); 3],
            },
            predicted_verdict: side.predicted_verdict(place, row),
            cell,
        }
    }
}
