//! Loss in the hidden house: another law than the product predicts by, so that its numbers don't sit on the predictions.
//!
//! Walls by material with a table of its own, saturating by fixed ways round; each wall and floor is off its table by an error of its
//! own, each device by another, and furniture shadows whole corners at once rather than spot by spot.

use busy_hen_floorplan::{Plan, Point};
use busy_hen_radio::propagation::Sight;
use busy_hen_radio::propagation::multi_wall::{Barrier, crossing_loss, distance_loss};
use busy_hen_radio::propagation::sight::Element;
use busy_hen_units::{Db, Megahertz};
use rand::RngExt;
use rand_chacha::ChaCha8Rng;
use rand_distr::{Distribution, Normal};
use std::f64::consts::TAU;

/// Loss of walls, openings and floors at 5 GHz, dB (made up for the stand-in, within what tables of multi-wall laws state).
const TABLE: [(&str, f64); 24] = [
    ("plasterboard", 3.0),
    ("double_plasterboard", 4.5),
    ("block100", 6.0),
    ("brick105", 6.5),
    ("brick215", 10.0),
    ("cavity", 13.0),
    ("stone400", 18.0),
    ("concrete100", 12.0),
    ("concrete150", 16.0),
    ("concrete200", 20.0),
    ("rc200", 23.0),
    ("door", 3.0),
    ("hollow_door", 2.0),
    ("metal_door", 16.0),
    ("glass", 2.0),
    ("dg", 4.0),
    ("lowe", 18.0),
    ("foil", 24.0),
    ("mirror", 15.0),
    ("timber_floor", 8.0),
    ("timber_floor_ufh", 15.0),
    ("concrete_floor", 18.0),
    ("ceiling", 4.0),
    ("open", 0.0),
];
/// Of a material that the table does not have, dB.
const UNKNOWN_DB: f64 = 8.0;
/// Part of it at 2.4 GHz.
const LOW_BAND_PART: f64 = 0.7;
/// How far a wall or floor is off its table value, as a part of it.
const WALL_ERROR: f64 = 0.3;
/// How far a device is off what its sheet says, dB.
const DEVICE_ERROR_DB: f64 = 1.5;
/// How much furniture, pipes and people shadow, dB.
const SHADOW_DB: f64 = 3.5;
/// How far shadows reach, m.
const SHADOW_M: f64 = 2.0;
/// Waves that a field of shadows is made of.
const WAVES: usize = 24;

/// A hidden house.
pub(crate) struct Hidden {
    walls: Vec<f64>,
    floors: Vec<f64>,
}

impl Hidden {
    pub(crate) fn new(plan: &Plan, rng: &mut ChaCha8Rng) -> Self {
        let mut errors = |count: usize| (0..count).map(|_| (1.0 + normal(rng, WALL_ERROR)).clamp(0.4, 2.0)).collect();
        Self { walls: errors(plan.walls.len()), floors: errors(plan.floors.len()) }
    }

    /// Whether what nobody said the material of is the heavy one: a house is one of them, whoever knows.
    fn heavy(&self) -> bool {
        self.walls.first().is_some_and(|error| *error > 1.0)
    }

    /// Loss from one place to another without shadows.
    pub(crate) fn loss(&self, plan: &Plan, from: Point, to: Point, frequency: Megahertz) -> Db {
        let sight = Sight::between(plan, from, to);
        let parts = sight.crossings.iter().filter_map(|crossing| match crossing.element {
            Element::Wall(index) => {
                let wall = &plan.walls[index];
                let material = crossing.opening(plan).map_or(wall.material, |opening| wall.openings[opening].material);
                let barrier = if wall.envelope { Barrier::Envelope } else { Barrier::Inner };
                Some((table(&material.in_way(self.heavy()).key) * self.walls[index], barrier))
            }
            Element::Floor(index) => Some((
                table(&plan.floors[index].material.in_way(self.heavy()).key) * self.floors[index],
                Barrier::Floor,
            )),
            Element::Upright(_) => None,
        });
        let parts: Vec<(f64, Barrier)> = parts.collect();
        let of_band = if frequency.get() < 3000.0 { LOW_BAND_PART } else { 1.0 };
        let through = parts.iter().map(|(loss, _)| loss * of_band).sum();
        distance_loss(sight.distance, frequency)
            + crossing_loss(Db::new(through), parts.into_iter().map(|(_, barrier)| barrier), frequency)
    }
}

/// What a device sends less or more than its sheet says, and the shadows that its signal leaves in the house.
pub struct Shadows {
    device_db: f64,
    waves: Vec<[f64; 4]>,
}

impl Shadows {
    /// Those that this randomness makes.
    #[must_use]
    pub fn new(rng: &mut ChaCha8Rng) -> Self {
        let wave = |rng: &mut ChaCha8Rng| {
            let mut step = || normal(rng, 1.0 / SHADOW_M);
            let (x, y, z) = (step(), step(), step());
            [x, y, z, rng.random_range(0.0..TAU)]
        };
        Self { device_db: normal(rng, DEVICE_ERROR_DB), waves: (0..WAVES).map(|_| wave(rng)).collect() }
    }

    /// What all places lose more by the device.
    #[must_use]
    pub fn of_device(&self) -> Db {
        Db::new(self.device_db)
    }

    /// What a place loses more.
    ///
    /// # Source
    /// A sum of waves with normal wave numbers is a field whose correlation falls as a normal curve with distance (spectral method:
    /// Shinozuka and Deodatis 1991).
    #[must_use]
    pub fn at(&self, at: Point) -> Db {
        let sum: f64 = self.waves.iter().map(|[x, y, z, phase]| (x * at.x + y * at.y + z * at.z + phase).cos()).sum();
        Db::new(self.device_db + SHADOW_DB * (2.0 / WAVES as f64).sqrt() * sum)
    }
}

fn table(key: &str) -> f64 {
    TABLE.iter().find(|(own, _)| *own == key).map_or(UNKNOWN_DB, |(_, loss)| *loss)
}

pub(crate) fn normal(rng: &mut ChaCha8Rng, sigma: f64) -> f64 {
    Normal::new(0.0, sigma).map_or(0.0, |normal| normal.sample(rng))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rand::SeedableRng;

    #[test]
    fn shadows_are_alike_nearby_and_not_far_away() {
        let (mut near, mut far, mut all) = (0.0, 0.0, 0.0);
        for seed in 0..400 {
            let shadows = Shadows::new(&mut ChaCha8Rng::seed_from_u64(seed));
            let at = |x: f64| shadows.at(Point { x, y: 1.0, z: 1.0 }).get() - shadows.device_db;
            near += at(0.0) * at(0.5);
            far += at(0.0) * at(8.0);
            all += at(0.0) * at(0.0);
        }
        // Correlation exp(-d^2 / (2 * 2^2)): 0.97 at half a metre, nothing at eight.
        assert!((near / all - 0.97).abs() < 0.05, "{}", near / all);
        assert!((far / all).abs() < 0.2, "{}", far / all);
        assert!(((all / 400.0).sqrt() - SHADOW_DB).abs() < 0.5, "{}", (all / 400.0).sqrt());
    }

    #[test]
    fn every_material_of_the_catalogue_has_a_loss_here() {
        for material in busy_hen_catalogue::materials::all().iter().filter(|own| own.either.is_none()) {
            assert!(TABLE.iter().any(|(key, _)| *key == material.key), "{}", material.key);
        }
    }
}
