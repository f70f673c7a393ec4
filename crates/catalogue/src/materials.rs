//! Wall, floor and opening materials with their loss at normal incidence.

use std::sync::OnceLock;

use busy_hen_units::{Db, Degrees, Megahertz};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Frequencies at which the table states losses, MHz.
const TABLE_MHZ: [f64; 3] = [2437.0, 5500.0, 6200.0];

/// Steepest angle from the normal at which the oblique rule holds, degrees; flatter rays are taken at it.
const STEEPEST: f64 = 75.0;

/// Where a material is used.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MaterialUse {
    /// Inner or outer wall.
    Wall,
    /// Usually an outer wall.
    #[serde(rename = "outer wall")]
    OuterWall,
    /// Fills a side with glass, a door, or nothing.
    Opening,
    /// Floor between levels.
    Floor,
}

/// A material of walls, floors or openings.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Material {
    /// Key in the home file.
    pub key: String,
    /// Name for people, thicknesses in millimetres.
    pub name: String,
    /// Name for people who measure in feet and inches.
    pub name_in_inches: String,
    /// Where it is used.
    pub category: MaterialUse,
    /// Loss at normal incidence at 2437, 5500 and 6200 MHz, dB.
    pub loss_db: [f64; 3],
    /// Part of the power that falls on it from all sides and is thrown back, 0 to 1.
    pub reflects_part: f64,
    /// The light and the heavy material that it may be, by key, where nobody said which; its own figures are their mean.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub either: Option<[&'static str; 2]>,
}

/// What a part of a house is made of when nobody said: key, name, use, and the light and the heavy one of what is common there.
const UNSAID: [(&str, &str, MaterialUse, [&str; 2]); 4] = [
    ("unsaid_inner", "stud or brick, not said", MaterialUse::Wall, ["plasterboard", "brick105"]),
    ("unsaid_outer", "cavity or stone, not said", MaterialUse::OuterWall, ["cavity", "stone400"]),
    ("unsaid_glazing", "plain or coated double glazing, not said", MaterialUse::Opening, ["dg", "lowe"]),
    ("unsaid_floor", "timber or concrete, not said", MaterialUse::Floor, ["timber_floor", "concrete_floor"]),
];

#[derive(Deserialize)]
struct Row {
    key: String,
    name: String,
    category: MaterialUse,
    use_2437_db: f64,
    use_5500_db: f64,
    use_6200_db: f64,
    reflects_part: f64,
}

/// All materials, in the order they are offered.
///
/// # Source
/// `data/materials.csv`: slab values by ITU-R P.2040 averaged over +-10 % thickness, plus an engineering estimate for studs,
/// mortar, moisture and pipes, against measured ranges from memory (see `docs/MODEL.md`). What they throw back: half-spaces of
/// P.2040 brick and concrete under light from all sides return 0.17 and 0.21 of it, taken as 0.2; metal-backed ones 0.8 (estimate).
pub fn all() -> &'static [Material] {
    static TABLE: OnceLock<Vec<Material>> = OnceLock::new();
    TABLE.get_or_init(|| {
        let said = csv::Reader::from_reader(include_str!("../data/materials.csv").as_bytes())
            .deserialize()
            .map(|row| {
                let row: Row = row.expect("the table is part of the program and read by a test");
                Material {
                    key: row.key,
                    name_in_inches: in_inches(&row.name),
                    name: row.name,
                    category: row.category,
                    loss_db: [row.use_2437_db, row.use_5500_db, row.use_6200_db],
                    reflects_part: row.reflects_part,
                    either: None,
                }
            })
            .collect();
        with_unsaid(said)
    })
}

/// A name with its millimetres as the nearest quarter of an inch.
fn in_inches(name: &str) -> String {
    let inches = |millimetres: f64| {
        let quarters = (millimetres / 25.4 * 4.0).round().max(1.0);
        let (whole, part) = ((quarters / 4.0).floor(), ["", "¼", "½", "¾"][(quarters % 4.0) as usize]);
        if whole > 0.0 { format!("{whole}{part}\"") } else { format!("{part}\"") }
    };
    let mut words: Vec<String> = name.split(' ').map(str::to_owned).collect();
    while let Some(at) = words.iter().position(|word| word.trim_end_matches(',') == "mm").filter(|at| *at > 0) {
        let Ok(millimetres) = words[at - 1].parse::<f64>() else { break };
        let comma = if words[at].ends_with(',') { "," } else { "" };
        words[at - 1] = inches(millimetres) + comma;
        words.remove(at);
    }
    words.join(" ")
}

/// These and what may be either of two of them: power averages over both.
fn with_unsaid(mut said: Vec<Material>) -> Vec<Material> {
    let unsaid: Vec<Material> = UNSAID
        .iter()
        .filter_map(|(key, name, category, either)| {
            let find = |key: &str| said.iter().find(|own| own.key == key);
            let (light, heavy) = (find(either[0])?, find(either[1])?);
            Some(Material {
                key: (*key).into(),
                name: (*name).into(),
                name_in_inches: (*name).into(),
                category: *category,
                loss_db: std::array::from_fn(|band| {
                    let mean = mean_loss(Db::new(light.loss_db[band]), Db::new(heavy.loss_db[band]));
                    (mean.get() * 10.0).round() / 10.0
                }),
                reflects_part: (light.reflects_part + heavy.reflects_part) / 2.0,
                either: Some(*either),
            })
        })
        .collect();
    said.extend(unsaid);
    said
}

/// Loss of what may take one or the other: that of the mean power.
#[must_use]
pub fn mean_loss(one: Db, other: Db) -> Db {
    -Db::of_ratio(((-one).ratio() + (-other).ratio()) / 2.0)
}

/// The material with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Material> {
    all().iter().find(|material| material.key == key)
}

impl Material {
    /// What it is in the light or the heavy way that a home may be; itself where it is known.
    #[must_use]
    pub fn in_way(&self, heavy: bool) -> &Self {
        self.either.and_then(|either| find(either[usize::from(heavy)])).unwrap_or(self)
    }

    /// Whether there is nothing there to cross.
    #[must_use]
    pub fn is_open(&self) -> bool {
        self.loss_db.iter().all(|loss| *loss <= 0.0)
    }

    /// Loss of crossing the material once.
    ///
    /// Between the table's frequencies the loss is linear in the logarithm of frequency, outside them it is that of the
    /// nearest. Oblique rays add `0.8 (1/cos theta - 1)` dB, with theta from the normal and at most 75 degrees: refraction keeps
    /// the inner path short, so the whole loss does not grow with 1/cos theta.
    ///
    /// # Source
    /// Least-squares fit to P.2040 slabs over angle, rms 1.35 dB (see `docs/MODEL.md`).
    #[must_use]
    pub fn loss(&self, frequency: Megahertz, from_normal: Degrees) -> Db {
        if self.is_open() {
            return Db::new(0.0);
        }
        Db::new(self.normal_loss(frequency.get()) + oblique_loss(from_normal.get().to_radians().cos()))
    }

    fn normal_loss(&self, mhz: f64) -> f64 {
        let [low, middle, high] = self.loss_db;
        let between = |f0: f64, f1: f64, a: f64, b: f64| a + (b - a) * (mhz / f0).ln() / (f1 / f0).ln();
        if mhz <= TABLE_MHZ[0] {
            low
        } else if mhz <= TABLE_MHZ[1] {
            between(TABLE_MHZ[0], TABLE_MHZ[1], low, middle)
        } else if mhz <= TABLE_MHZ[2] {
            between(TABLE_MHZ[1], TABLE_MHZ[2], middle, high)
        } else {
            high
        }
    }
}

/// What a slanting line loses more than a square one, dB: `0.8 (1/cos theta - 1)`, from the cosine of its angle from the normal.
#[must_use]
pub fn oblique_loss(cosine: f64) -> f64 {
    0.8 * (1.0 / cosine.abs().max(STEEPEST.to_radians().cos()) - 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thicknesses_are_told_in_inches_too() {
        let told = |key: &str| find(key).unwrap().name_in_inches.clone();
        assert_eq!(told("stone400"), "stone 15¾\"");
        assert_eq!(told("brick105"), "brick 4¼\", plastered both faces");
        assert_eq!(told("plasterboard"), "plasterboard stud wall 2 x ½\", 3\" gap");
        assert!(all().iter().all(|own| !own.name_in_inches.contains(" mm")));
    }

    #[test]
    fn what_nobody_said_lies_between_what_it_may_be() {
        for unsaid in all().iter().filter(|own| own.either.is_some()) {
            let (light, heavy) = (unsaid.in_way(false), unsaid.in_way(true));
            assert!(light.key != heavy.key && light.either.is_none() && heavy.either.is_none());
            for band in 0..3 {
                let (low, high) = (light.loss_db[band], heavy.loss_db[band]);
                assert!(low < unsaid.loss_db[band] && unsaid.loss_db[band] < low + 3.1, "{}", unsaid.key);
                assert!(low <= high);
            }
        }
        assert_eq!(find("brick105").unwrap().in_way(true).key, "brick105");
    }

    #[test]
    fn the_whole_table_reads_and_losses_grow_with_frequency() {
        assert!(all().len() >= 22);
        for material in all() {
            let [a, b, c] = material.loss_db;
            assert!(a <= b && b <= c && a >= 0.0, "{}", material.key);
        }
    }

    #[test]
    fn between_the_table_points_the_loss_lies_between() {
        let brick = find("brick105").unwrap();
        let loss = brick.loss(Megahertz::new(3660.0), Degrees::new(0.0)).get();
        assert!((loss - 6.0).abs() < 0.05, "geometric middle of 2437 and 5500 MHz: {loss}");
        assert!((brick.loss(Megahertz::new(900.0), Degrees::new(0.0)).get() - 5.0).abs() < 1e-9);
    }

    #[test]
    fn a_slanting_ray_loses_more_and_a_grazing_one_is_bounded() {
        let brick = find("brick105").unwrap();
        let at = |angle| brick.loss(Megahertz::new(5500.0), Degrees::new(angle)).get();
        assert!((at(60.0) - 7.8).abs() < 1e-9);
        assert!((at(89.9) - at(75.0)).abs() < 1e-12);
    }

    #[test]
    fn nothing_costs_nothing_at_any_angle() {
        let open = find("open").unwrap();
        assert!(open.is_open());
        assert!(open.loss(Megahertz::new(5500.0), Degrees::new(70.0)).get().abs() < 1e-12);
    }
}
