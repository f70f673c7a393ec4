//! A law of loss for comparison: walls by material, with fixed ways round them by doors and stairs.

use busy_hen_floorplan::Plan;
use busy_hen_units::{Db, Megahertz, Metres};

use super::distance::{NEAREST, free_space_loss};
use super::sight::{Element, Sight};

/// Up to this distance the law is as clear as free space, m.
const BREAKPOINT: f64 = 5.0;
/// Decibels a decade beyond the breakpoint (IEEE 802.11-14/0980, residential).
const SLOPE: f64 = 35.0;

/// Loss with distance: free space to 5 m, then 35 dB a decade; nearer than 0.5 m counts as 0.5 m.
///
/// # Source
/// IEEE 802.11-14/0980 (residential path loss) without its walls.
#[must_use]
pub fn distance_loss(distance: Metres, frequency: Megahertz) -> Db {
    let d = distance.get().max(NEAREST);
    free_space_loss(Metres::new(d.min(BREAKPOINT)), frequency)
        + Db::new(SLOPE * (d.max(BREAKPOINT) / BREAKPOINT).log10())
}

/// Loss along a line by this law.
#[must_use]
pub fn multi_wall_loss(plan: &Plan, sight: &Sight, frequency: Megahertz) -> Db {
    let parts = sight.crossings.iter().filter_map(|crossing| {
        let angle = crossing.from_normal();
        Some(match crossing.element {
            Element::Wall(index) => {
                let wall = &plan.walls[index];
                let material = crossing.opening(plan).map_or(wall.material, |o| wall.openings[o].material);
                let barrier = if wall.envelope { Barrier::Envelope } else { Barrier::Inner };
                (material.loss(frequency, angle), barrier)
            }
            Element::Floor(index) => (plan.floors[index].material.loss(frequency, angle), Barrier::Floor),
            Element::Upright(_) => return None,
        })
    });
    let parts: Vec<(Db, Barrier)> = parts.collect();
    let through = parts.iter().map(|(loss, _)| *loss).sum();
    distance_loss(sight.distance, frequency)
        + crossing_loss(through, parts.into_iter().map(|(_, barrier)| barrier), frequency)
}

/// Kind of element a straight line crosses, for the way round it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Barrier {
    /// Inner wall or opening: doors lead round it.
    Inner,
    /// Floor: the stairwell leads round it.
    Floor,
    /// Outer or party wall: nothing but its own windows and doors.
    Envelope,
}

impl Barrier {
    /// What the way round one such element costs, dB (fitted; doorways, stairwell, envelope).
    fn round_db(self) -> f64 {
        match self {
            Self::Inner => 5.0,
            Self::Floor => 13.0,
            Self::Envelope => 15.0,
        }
    }
}

/// Cost of turning off the straight line at all, at 5.5 GHz, dB (fitted).
const ROUND_BASE_DB: f64 = 7.0;

/// Loss of all elements between two places, from the sum of their own losses and from their kinds.
///
/// The power that goes through and the power that goes round add up, so many or heavy walls saturate: each further wall costs
/// the way round it instead of its full loss.
///
/// # Source
/// COST 231's finding that further walls cost less and less, with each wall's own material.
#[must_use]
pub fn crossing_loss(through: Db, barriers: impl IntoIterator<Item = Barrier>, frequency: Megahertz) -> Db {
    let mut round = 0.0;
    let mut any = false;
    for barrier in barriers {
        any = true;
        round += barrier.round_db();
    }
    if !any {
        return Db::new(0.0);
    }
    round += ROUND_BASE_DB + 10.0 * (frequency.get() / 5500.0).log10();
    (-Db::of_ratio((-through).ratio() + Db::new(-round).ratio())).max(Db::new(0.0))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const FIVE: Megahertz = Megahertz::new(5500.0);

    #[test]
    fn nothing_between_costs_nothing() {
        assert!(crossing_loss(Db::new(0.0), [], FIVE).get().abs() < 1e-12);
    }

    #[test]
    fn three_concrete_walls_saturate() {
        let loss = crossing_loss(Db::new(63.0), [Barrier::Inner; 3], FIVE).get();
        assert!((loss - 22.0).abs() < 0.05, "{loss}");
    }

    proptest! {
        #[test]
        fn one_more_wall_is_never_less_loss(walls in prop::collection::vec(0.5f64..40.0, 0..8), more in 0.5f64..40.0) {
            let before = crossing_loss(Db::new(walls.iter().sum()), vec![Barrier::Inner; walls.len()], FIVE);
            let after = crossing_loss(
                Db::new(walls.iter().sum::<f64>() + more), vec![Barrier::Inner; walls.len() + 1], FIVE);
            prop_assert!(after >= before);
        }
    }
}
