//! The order in which spots are walked.

use std::collections::HashMap;

use busy_hen_home::{Home, SpotId};
use busy_hen_units::{MbitPerSec, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use busy_hen_floorplan::Plan;

/// What a level up or down is worth in steps on the flat, m: stairs and the way to them (engineering estimate).
const LEVEL_M: f64 = 12.0;

/// How a round walks its spots.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WalkingOrder {
    /// As they are listed.
    #[default]
    AsListed,
    /// A short way from the first one through all.
    ShortWay,
    /// Where least is predicted first, while the family is still patient.
    WorstFirst,
    /// Where least is predicted last, so that the way ends at what matters.
    WorstLast,
}

impl WalkingOrder {
    /// Whether it goes by what is predicted.
    #[must_use]
    pub fn is_by_forecast(self) -> bool {
        matches!(self, Self::WorstFirst | Self::WorstLast)
    }
}

/// The spots in this order. `expected` is what is predicted there; a spot without is taken for dead.
#[must_use]
pub fn walking_order(
    home: &Home,
    spots: &[SpotId],
    order: WalkingOrder,
    expected: &HashMap<SpotId, MbitPerSec>,
) -> Vec<SpotId> {
    let mut list = spots.to_vec();
    let of = |id: &SpotId| expected.get(id).map_or(0.0, |rate| rate.get());
    match order {
        WalkingOrder::AsListed => {}
        WalkingOrder::ShortWay => list = short_way(&places(home, spots), spots),
        WalkingOrder::WorstFirst => list.sort_by(|a, b| of(a).total_cmp(&of(b))),
        WalkingOrder::WorstLast => list.sort_by(|a, b| of(b).total_cmp(&of(a))),
    }
    list
}

/// Where a spot is; a spot without a place in the drawing is at the origin.
type Place = (usize, f64, f64);

fn places(home: &Home, spots: &[SpotId]) -> Vec<Place> {
    let plan = Plan::new(&home.house, home.units);
    let place = |id: &SpotId| {
        let spot = home.house.spots.iter().find(|spot| spot.id == *id)?;
        let (level, point) = plan.spot(spot)?;
        Some((level, point.x, point.y))
    };
    spots.iter().map(|id| place(id).unwrap_or_default()).collect()
}

fn apart(a: Place, b: Place) -> f64 {
    (a.1 - b.1).hypot(a.2 - b.2) + LEVEL_M * a.0.abs_diff(b.0) as f64
}

/// Length of a way through the spots of a home in this order.
#[must_use]
pub fn way_length(home: &Home, spots: &[SpotId]) -> Metres {
    Metres::new(places(home, spots).windows(2).map(|pair| apart(pair[0], pair[1])).sum())
}

/// A short way from the first place through all: the nearest next, then turned round piece by piece while that shortens it.
///
/// # Source
/// Nearest neighbour and 2-opt (Croes 1958, "A method for solving traveling-salesman problems"), with an open end.
fn short_way(places: &[Place], spots: &[SpotId]) -> Vec<SpotId> {
    let mut left: Vec<usize> = (1..places.len()).collect();
    let mut way: Vec<usize> = places.first().map(|_| 0).into_iter().collect();
    while let Some(&last) = way.last() {
        let near = |a: &(usize, &usize), b: &(usize, &usize)| {
            apart(places[last], places[*a.1]).total_cmp(&apart(places[last], places[*b.1]))
        };
        let Some((index, _)) = left.iter().enumerate().min_by(near) else { break };
        way.push(left.remove(index));
    }
    let gap = |way: &[usize], a: usize, b: usize| way.get(b).map_or(0.0, |end| apart(places[way[a]], places[*end]));
    let mut turned = true;
    while turned {
        turned = false;
        for from in 1..way.len() {
            for to in from + 1..way.len() {
                let now = gap(&way, from - 1, from) + gap(&way, to, to + 1);
                let then = apart(places[way[from - 1]], places[way[to]])
                    + way.get(to + 1).map_or(0.0, |end| apart(places[way[from]], places[*end]));
                if then < now - 1e-9 {
                    way[from..=to].reverse();
                    turned = true;
                }
            }
        }
    }
    way.into_iter().map(|index| spots[index]).collect()
}
