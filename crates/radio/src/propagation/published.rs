//! Published laws of indoor loss, offered for comparison; the product itself uses [`super::waves`].

use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::Aerial;
use busy_hen_units::{Db, Megahertz, Metres};

use super::aerial::Pattern;
use super::distance::{NEAREST, free_space_loss};
use super::multi_wall::multi_wall_loss;
use super::radiosity::Radiosity;
use super::sight::{Element, Sight};

/// Within this distance IEEE's law is free space, m.
const BREAKPOINT: f64 = 5.0;

/// A law of loss.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ComparedModel {
    /// The product's own: straight line and coupled rooms.
    Radiosity,
    /// The same with nothing and nobody in the house.
    EmptyHouse,
    /// Walls by material, saturating by fixed ways round.
    MultiWall,
    /// IEEE 802.11-14/0980, residential.
    Residential,
    /// ITU-R P.1238, homes.
    P1238,
    /// COST 231 multi-wall.
    Cost231,
}

impl ComparedModel {
    /// All laws, with the key and name of each.
    pub const ALL: [(Self, &'static str, &'static str); 6] = [
        (Self::Radiosity, "waves", "straight line and coupled rooms (the product's own)"),
        (Self::EmptyHouse, "empty_house", "the same with nothing and nobody in the house"),
        (Self::MultiWall, "multi_wall", "walls by material with fixed ways round"),
        (Self::Residential, "residential", "IEEE 802.11-14/0980 residential"),
        (Self::P1238, "p1238", "ITU-R P.1238 for homes"),
        (Self::Cost231, "cost231", "COST 231 multi-wall"),
    ];

    /// Loss between two places of a house, for aerials without pattern.
    #[must_use]
    pub fn loss(self, plan: &Plan, waves: &Radiosity<'_>, from: Point, to: Point) -> Db {
        let sight = Sight::between(plan, from, to);
        let frequency = waves.frequency();
        let walls = |light: Option<bool>| {
            sight
                .crossings
                .iter()
                .filter(|crossing| match crossing.element {
                    Element::Wall(index) => {
                        crossing.opening(plan).is_none() && light.is_none_or(|light| light == is_light(plan, index))
                    }
                    _ => false,
                })
                .count()
        };
        let floors = sight.crossings.iter().filter(|c| matches!(c.element, Element::Floor(_))).count();
        match self {
            Self::Radiosity => {
                let plain = Pattern::new(&Aerial::BuiltIn);
                waves.between((from, &plain), (to, &plain))
            }
            Self::EmptyHouse => waves.empty(from, to),
            Self::MultiWall => multi_wall_loss(plan, &sight, frequency),
            Self::Residential => residential_loss(sight.distance, frequency, walls(None), floors),
            Self::P1238 => p1238_loss(sight.distance, frequency, floors),
            Self::Cost231 => cost231_loss(sight.distance, frequency, walls(Some(true)), walls(Some(false)), floors),
        }
    }
}

/// Light walls lose less than this at 5.5 GHz, dB.
const LIGHT_DB: f64 = 6.0;

fn is_light(plan: &Plan, wall: usize) -> bool {
    plan.walls[wall].material.loss_db[1] < LIGHT_DB
}

/// What floors lose together: `18.3 F^((F+2)/(F+1) - 0.46)`.
///
/// # Source
/// COST 231 final report, section 4.7; IEEE 802.11-14/0980 uses the same.
#[must_use]
pub fn floor_loss(floors: usize) -> Db {
    if floors == 0 {
        return Db::new(0.0);
    }
    let f = floors as f64;
    Db::new(18.3 * f.powf((f + 2.0) / (f + 1.0) - 0.46))
}

/// Residential loss: `40.05 + 20 log10(f/2.4) + 20 log10(min(d,5)) + [d > 5] 35 log10(d/5) + floors + 5 W`.
///
/// # Source
/// IEEE 802.11-14/0980, scenario 1.
#[must_use]
pub fn residential_loss(distance: Metres, frequency: Megahertz, walls: usize, floors: usize) -> Db {
    Db::new(
        40.05
            + 20.0 * (frequency.get() / 2400.0).log10()
            + 20.0 * distance.get().clamp(NEAREST, BREAKPOINT).log10()
            + 35.0 * (distance.get() / BREAKPOINT).max(1.0).log10()
            + 5.0 * walls as f64,
    ) + floor_loss(floors)
}

/// Loss by site-general law for homes: `20 log10 f - 28 + 28 log10 d + floors`, with 5 dB a floor at 2.4 GHz and 7 above.
///
/// # Source
/// ITU-R P.1238, coefficients for residential buildings (from memory).
#[must_use]
pub fn p1238_loss(distance: Metres, frequency: Megahertz, floors: usize) -> Db {
    let a_floor = if frequency.get() < 3000.0 { 5.0 } else { 7.0 };
    Db::new(
        20.0 * frequency.get().log10() - 28.0 + 28.0 * distance.get().max(NEAREST).log10() + a_floor * floors as f64,
    )
}

/// Multi-wall loss: free space + 3.4 dB a light wall + 6.9 a heavy one + floors.
///
/// # Source
/// COST 231 final report, section 4.7, constants fitted at 1.8 GHz (from memory).
#[must_use]
pub fn cost231_loss(distance: Metres, frequency: Megahertz, light: usize, heavy: usize, floors: usize) -> Db {
    free_space_loss(distance.max(Metres::new(NEAREST)), frequency)
        + Db::new(3.4 * light as f64 + 6.9 * heavy as f64)
        + floor_loss(floors)
}
