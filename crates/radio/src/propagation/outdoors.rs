//! Outdoors: reflection from the ground, hedges, cars, other houses.

use busy_hen_catalogue::materials;
use busy_hen_home::ObstacleKind;
use busy_hen_units::{Db, Megahertz, Metres};

use super::edge::wavelength;

/// Distance beyond which the reflection from level ground takes as much as it gives: `4 h1 h2 / lambda`.
///
/// # Source
/// Textbook two-ray model (crossover of 20 and 40 dB a decade).
#[must_use]
pub fn two_ray_breakpoint(height: Metres, other: Metres, frequency: Megahertz) -> Metres {
    Metres::new(4.0 * height.get() * other.get() / wavelength(frequency).get())
}

/// What the ground takes over a stretch under the open sky: 20 dB a decade more beyond the breakpoint.
#[must_use]
pub fn ground_loss(length: Metres, heights: (Metres, Metres), frequency: Megahertz) -> Db {
    let breakpoint = two_ray_breakpoint(heights.0, heights.1, frequency).get().max(1.0);
    Db::new(20.0 * (length.get() / breakpoint).max(1.0).log10())
}

/// Loss in so much foliage: `min(0.2 f^0.3 d^0.6, 1.37 f^0.42)`, f in MHz, d in m.
///
/// # Source
/// From memory: the early ITU form (CCIR Report 236-2) for d under 400 m, and the greatest loss of ITU-R P.833.
#[must_use]
pub fn vegetation_loss(depth: Metres, frequency: Megahertz) -> Db {
    let f = frequency.get();
    Db::new((0.2 * f.powf(0.3) * depth.get().powf(0.6)).min(1.37 * f.powf(0.42)))
}

/// A parked car, body and glass mixed, dB (engineering estimate: 5 to 10).
const CAR_DB: f64 = 8.0;
/// Outer walls that a line through another house crosses.
const HOUSE_WALLS: f64 = 2.0;

/// Loss straight through an obstacle, not over it.
///
/// # Source
/// Garden wall, metal and the walls of a house by the table of materials; hedge by [`vegetation_loss`]; car an estimate.
#[must_use]
pub fn through(kind: ObstacleKind, depth: Metres, frequency: Megahertz) -> Db {
    let material = |key: &str| {
        materials::find(key)
            .map_or(Db::new(0.0), |material| material.loss(frequency, busy_hen_units::Degrees::new(0.0)))
    };
    match kind {
        ObstacleKind::GardenWall => material("brick215"),
        ObstacleKind::Hedge => vegetation_loss(depth, frequency),
        ObstacleKind::Car => Db::new(CAR_DB),
        ObstacleKind::OtherHouse => material("cavity") * HOUSE_WALLS,
        ObstacleKind::MetalCabinet => material("metal_door") * 2.0,
        ObstacleKind::Concrete => material("concrete200") * 2.0,
    }
}

/// Name of a kind of obstacle for people.
#[must_use]
pub fn obstacle_name(kind: ObstacleKind) -> &'static str {
    match kind {
        ObstacleKind::GardenWall => "garden wall",
        ObstacleKind::Hedge => "hedge or trees",
        ObstacleKind::Car => "parked car",
        ObstacleKind::OtherHouse => "another house",
        ObstacleKind::MetalCabinet => "metal cabinet",
        ObstacleKind::Concrete => "column or shaft",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const FIVE: Megahertz = Megahertz::new(5500.0);

    #[test]
    fn a_house_is_more_than_a_wall_and_a_wall_more_than_a_thin_hedge() {
        let loss = |kind| through(kind, Metres::new(1.0), FIVE);
        assert!(loss(ObstacleKind::OtherHouse) > loss(ObstacleKind::GardenWall));
        assert!(loss(ObstacleKind::GardenWall) > loss(ObstacleKind::Hedge));
    }

    #[test]
    fn a_deep_wood_loses_no_more_than_the_ways_round_it_let_through() {
        let deep = vegetation_loss(Metres::new(390.0), FIVE).get();
        assert!((deep - 1.37 * 5500f64.powf(0.42)).abs() < 1e-9);
    }

    #[test]
    fn the_ground_takes_nothing_within_a_garden_and_much_across_a_field() {
        let heights = (Metres::new(2.0), Metres::new(1.5));
        assert!(ground_loss(Metres::new(30.0), heights, FIVE).get().abs() < 1e-12);
        assert!((ground_loss(Metres::new(2202.0), heights, FIVE).get() - 20.0).abs() < 0.01);
    }
}
