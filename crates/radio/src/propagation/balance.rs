//! The balance of power of a house at a frequency: what its surfaces take, throw back and pass on, and the field that follows, inverted once.

use std::sync::OnceLock;

use busy_hen_catalogue::Material;
use busy_hen_catalogue::materials::mean_loss;
use busy_hen_catalogue::spectrum::channels::band_of;
use busy_hen_floorplan::Plan;
use busy_hen_floorplan::parts::{Floor, Guess, Stands, Wall, WallOpening};
use busy_hen_floorplan::surface::SurfaceMaterial;
use busy_hen_home::{Doors, OpeningKind};
use busy_hen_units::{Db, Degrees, Megahertz, Metres};
use nalgebra::DMatrix;

use super::outdoors::through;
use super::slab;

/// What slanting costs a wall that is lit from all sides alike, dB: 0.8 by the oblique rule averaged over Lambert's cosine, and somewhat
/// more for what grazes, fitted to the traced houses.
pub(super) const ALL_SIDES_DB: f64 = 1.1;
/// The ground throws back so much of what falls on it.
pub(super) const GROUND_REFLECTS: f64 = 0.2;

/// What a house takes and throws back at one frequency, its doors standing one way: all that does not depend on where anyone stands.
#[derive(Debug)]
pub struct Prepared {
    pub(super) frequency: Megahertz,
    /// What its parts take, on the average over what they may be made of.
    pub(super) takes: Takes,
    /// The same in each way that the home may be; empty where all is known.
    pub(super) takes_each: Vec<Takes>,
    /// Loss straight through each upright obstacle, dB.
    pub(super) uprights: Vec<f64>,
    /// What its surfaces do, in each way that its rooms may be joined.
    pub(super) joined: Vec<Joined>,
}

/// What the parts of a house take at normal incidence, dB.
#[derive(Debug, Clone)]
pub(super) struct Takes {
    /// Each wall.
    pub(super) walls: Vec<f64>,
    /// Each opening of each wall, as it stands.
    pub(super) openings: Vec<Vec<f64>>,
    /// Each floor.
    pub(super) floors: Vec<f64>,
}

/// What the surfaces of a house do when its rooms are joined one way.
#[derive(Debug)]
pub(super) struct Joined {
    /// Part of the power on each surface that passes it.
    pub(super) passes: Vec<f64>,
    /// Part of the power on each surface that is thrown back.
    pub(super) returns: Vec<f64>,
    /// Power under way in each cell (rows) when one unit enters another (columns), worked out when first asked for.
    pub(super) echo: OnceLock<DMatrix<f64>>,
}

/// What every surface sends towards a place in its sight, in the order of the plan's surfaces.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Sends {
    /// Into the surface's own cell.
    pub(super) inside: Vec<f64>,
    /// Outdoors; nothing for surfaces with a cell beyond.
    pub(super) outside: Vec<f64>,
    /// By each glimpse through an opening more than the mean of the room beyond, which the opening itself sends.
    pub(super) through: Vec<f64>,
}

impl Sends {
    pub(super) fn mean(each: &[Self]) -> Self {
        let mean = |list: fn(&Self) -> &Vec<f64>| {
            let count = each.len() as f64;
            (0..list(&each[0]).len()).map(|i| each.iter().map(|own| list(own)[i]).sum::<f64>() / count).collect()
        };
        Self { inside: mean(|own| &own.inside), outside: mean(|own| &own.outside), through: mean(|own| &own.through) }
    }
}

impl Prepared {
    /// The house at this frequency with its doors as they stand, or all open, or all shut.
    #[must_use]
    pub fn new(plan: &Plan, frequency: Megahertz, doors: Doors) -> Self {
        let guesses = plan.guesses();
        let each: Vec<Takes> = if plan.materials().any(|own| own.either.is_some()) {
            guesses.iter().map(|guess| Takes::new(plan, frequency, doors, guess.is_heavy())).collect()
        } else {
            Vec::new()
        };
        let takes = match each.as_slice() {
            [light, heavy] => Takes::mean(light, heavy),
            _ => Takes::new(plan, frequency, doors, false),
        };
        let mut prepared = Self {
            frequency,
            takes,
            takes_each: each,
            uprights: plan.uprights.iter().map(|one| through(one.kind, one.depth, frequency).get()).collect(),
            joined: Vec::new(),
        };
        prepared.joined = guesses
            .iter()
            .enumerate()
            .map(|(way, guess)| prepared.joined(plan, *guess, prepared.takes(Some(way))))
            .collect();
        prepared
    }

    /// What its parts take in one way that the home may be, or on the average.
    pub(super) fn takes(&self, way: Option<usize>) -> &Takes {
        way.and_then(|way| self.takes_each.get(way)).unwrap_or(&self.takes)
    }

    pub(super) fn joined(&self, plan: &Plan, guess: Guess, takes: &Takes) -> Joined {
        let (mut passes, mut returns) = (Vec::new(), Vec::new());
        for surface in &plan.surfaces.list {
            let stuff = match surface.stuff {
                // What is elsewhere this way is a piece of its wall or floor.
                SurfaceMaterial::Opening(w, o) if !plan.walls[w].openings[o].there.is_in(guess) => {
                    SurfaceMaterial::Wall(w)
                }
                SurfaceMaterial::Hole(f, h) if !plan.floors[f].holes[h].there.is_in(guess) => SurfaceMaterial::Floor(f),
                stuff => stuff,
            };
            let (loss, reflects) = self.surface(plan, stuff, takes);
            let through = if loss > 0.0 { Db::new(-loss - ALL_SIDES_DB).ratio() } else { 1.0 };
            passes.push(through);
            returns.push(reflects.min(1.0 - through));
        }
        Joined { passes, returns, echo: OnceLock::new() }
    }

    /// Loss of a surface at normal incidence, and the part that it throws back.
    pub(super) fn surface(&self, plan: &Plan, stuff: SurfaceMaterial, takes: &Takes) -> (f64, f64) {
        match stuff {
            SurfaceMaterial::Open | SurfaceMaterial::Hole(..) => (0.0, 0.0),
            SurfaceMaterial::Wall(w) => (takes.walls[w], plan.walls[w].material.reflects_part),
            SurfaceMaterial::Opening(w, o) => (takes.openings[w][o], plan.walls[w].openings[o].material.reflects_part),
            SurfaceMaterial::Floor(f) => (takes.floors[f], plan.floors[f].material.reflects_part),
            SurfaceMaterial::Roof => (plan.roof.loss(self.frequency, Degrees::new(0.0)).get(), plan.roof.reflects_part),
            SurfaceMaterial::Ground => match plan.underneath {
                Some(floor) => (floor.loss(self.frequency, Degrees::new(0.0)).get(), floor.reflects_part),
                None => (f64::INFINITY, GROUND_REFLECTS),
            },
        }
    }
}

impl Takes {
    pub(super) fn new(plan: &Plan, frequency: Megahertz, doors: Doors, heavy: bool) -> Self {
        let band = band_of(frequency);
        let floor = |floor: &Floor| {
            let loss = floor.material.in_way(heavy).loss(frequency, Degrees::new(0.0));
            (loss + floor.more.of(band)).get().max(0.0)
        };
        let openings = |wall: &Wall| -> Vec<f64> {
            wall.openings.iter().map(|own| opening_loss(own, own.material.in_way(heavy), frequency, doors)).collect()
        };
        Self {
            walls: plan.walls.iter().map(|wall| wall_loss(wall, wall.material.in_way(heavy), frequency)).collect(),
            openings: plan.walls.iter().map(openings).collect(),
            floors: plan.floors.iter().map(floor).collect(),
        }
    }

    pub(super) fn mean(one: &Self, other: &Self) -> Self {
        let mean = |one: &[f64], other: &[f64]| -> Vec<f64> {
            let both = one.iter().zip(other);
            both.map(|(one, other)| mean_loss(Db::new(*one), Db::new(*other)).get()).collect()
        };
        Self {
            walls: mean(&one.walls, &other.walls),
            openings: one.openings.iter().zip(&other.openings).map(|(one, other)| mean(one, other)).collect(),
            floors: mean(&one.floors, &other.floors),
        }
    }
}

impl Joined {
    /// Power under way in each cell when one unit enters another: the balance of power of the whole house, solved once. None is
    /// thrown back for ever, since ground and outdoors take their part, so it has a solution.
    ///
    /// # Complexity
    /// O(cells^3), once
    pub(super) fn echo(&self, plan: &Plan) -> &DMatrix<f64> {
        self.echo.get_or_init(|| {
            let (cells, list) = (&plan.surfaces.cells, &plan.surfaces.list);
            let mut balance = DMatrix::<f64>::identity(cells.len(), cells.len());
            for (index, surface) in list.iter().enumerate() {
                for (cell, share) in plan.surfaces.before(index) {
                    let falls = share * surface.area() / cells[*cell].area;
                    for (beyond, part) in plan.surfaces.behind(index) {
                        balance[(*beyond, *cell)] -= self.passes[index] * falls * part;
                    }
                }
                let falls = surface.area() / cells[surface.cell].area;
                let mut goes = |to: usize, part: f64| balance[(to, surface.cell)] -= part;
                goes(surface.cell, self.returns[index] * falls);
                for (other, form) in plan.surfaces.facing(index) {
                    goes(list[other].cell, self.passes[index] * falls * form * self.passes[other]);
                }
            }
            balance.try_inverse().unwrap_or_else(|| DMatrix::identity(cells.len(), cells.len()))
        })
    }
}

/// Loss of a wall at normal incidence, dB: its table value, moved by what another thickness changes by the slab formula.
pub(super) fn wall_loss(wall: &Wall, material: &Material, frequency: Megahertz) -> f64 {
    let table = material.loss(frequency, Degrees::new(0.0)) + wall.more.of(band_of(frequency));
    let thicker = wall.thickness.and_then(|thickness| {
        let usual = slab::stack(&material.key)?;
        let changed = slab::of_thickness(&usual, Metres::new(thickness));
        Some(slab::averaged_loss(&changed, frequency) - slab::averaged_loss(&usual, frequency))
    });
    (table + thicker.unwrap_or_default()).get().max(0.0)
}

/// Loss of an opening at normal incidence as it stands, dB.
pub(super) fn opening_loss(opening: &WallOpening, material: &Material, frequency: Megahertz, doors: Doors) -> f64 {
    let shut = material.loss(frequency, Degrees::new(0.0));
    // Where the doors were said to stand open there is nothing that could take more.
    let said_open = opening.kind == OpeningKind::Door && doors == Doors::Open;
    let more = if said_open { Db::new(0.0) } else { opening.more.of(band_of(frequency)) };
    let stands = match (opening.kind, doors) {
        (OpeningKind::Door, Doors::Open) => Stands::Open,
        (OpeningKind::Door, Doors::Shut) => Stands::Shut,
        _ => opening.stands,
    };
    let usual = match stands {
        Stands::Open => Db::new(0.0),
        Stands::Shut => shut,
        Stands::Either => -Db::of_ratio((1.0 + (-shut).ratio()) / 2.0),
    };
    (usual + more).get().max(0.0)
}
