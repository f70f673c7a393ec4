//! Which walls, floors and openings a path leans on, and how much: what learning from readings needs to know.

use busy_hen_floorplan::surface::SurfaceMaterial;
use busy_hen_floorplan::surfaces::{Surfaces, View};
use busy_hen_home::{LevelId, WallKey};
use busy_hen_units::Db;
use nalgebra::DVector;
use serde::Serialize;
use utoipa::ToSchema;

use super::Sight;
use super::balance::Joined;
use super::edge::wavelength;
use super::radiosity::{DiffuseField, Radiosity};
use super::sight::Element;

/// A part of the house that a path may lean on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartOfHouse {
    /// A piece of wall.
    Wall(WallKey),
    /// An opening of a piece of wall, counted from west or north.
    Opening {
        /// The piece.
        wall: WallKey,
        /// Which of its openings.
        opening: usize,
    },
    /// The floor under a level.
    FloorUnder(LevelId),
}

/// How much a path leans on a part: by how many decibels its loss grows for each that the part takes more.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Sensitivity {
    /// The part.
    pub on: PartOfHouse,
    /// Decibels a decibel, 0 or more.
    pub db_per_db: f64,
}

/// Parts that count for less than this are left out, dB a dB.
const FAINT: f64 = 1e-4;

impl Radiosity<'_> {
    /// What a path leans on, most first.
    ///
    /// The loss is that of straight and scattered power together, so what one wall takes more is felt by as much of the power as goes
    /// through it: derivatives of [`Radiosity::loss`], that of the scattered part by the adjoint of the balance of power.
    ///
    /// # Complexity
    /// O(surfaces + cells^2)
    #[must_use]
    pub fn sensitivities(
        &self,
        sight: &Sight,
        from: &View,
        glow: &DiffuseField,
        to: &View,
        gain: Db,
    ) -> Vec<Sensitivity> {
        let straight = (gain - self.straight(sight) - self.stands_about(sight)).ratio();
        let lambda = wavelength(self.frequency()).get();
        let scale = lambda * lambda / std::f64::consts::PI;
        let beams: Vec<(usize, usize, f64)> =
            self.beams(sight, self.at.takes(None)).map(|(w, o, part)| (w, o, part * gain.ratio())).collect();
        let whole = straight + beams.iter().map(|(.., part)| part).sum::<f64>() + self.scattered(glow, to);
        let plan = self.plan;
        let mut sums: Vec<(PartOfHouse, f64)> = Vec::new();
        let mut add = |on: PartOfHouse, part: f64| match sums.iter_mut().find(|(own, _)| *own == on) {
            Some((_, sum)) => *sum += part,
            None => sums.push((on, part)),
        };
        for crossing in &sight.crossings {
            let on = match crossing.element {
                Element::Wall(wall) => match crossing.opening(plan) {
                    Some(opening) => PartOfHouse::Opening { wall: plan.walls[wall].key, opening },
                    None => PartOfHouse::Wall(plan.walls[wall].key),
                },
                Element::Floor(floor) => PartOfHouse::FloorUnder(plan.levels[plan.floors[floor].above].id),
                Element::Upright(_) => continue,
            };
            add(on, straight / whole * self.solid_part(crossing));
        }
        for (wall, opening, part) in beams {
            add(PartOfHouse::Opening { wall: plan.walls[wall].key, opening }, part / whole);
        }
        let ways = self.at.joined.iter().zip(plan.guesses()).zip(&glow.fields);
        for ((joined, guess), field) in ways {
            let by_surface = self.scattered_by_passing(joined, field, from, to);
            for (surface, passing) in plan.surfaces.list.iter().zip(by_surface) {
                let on = match surface.stuff {
                    SurfaceMaterial::Opening(wall, opening)
                        if plan.walls[wall].openings[opening].there.is_in(*guess) =>
                    {
                        PartOfHouse::Opening { wall: plan.walls[wall].key, opening }
                    }
                    SurfaceMaterial::Wall(wall) | SurfaceMaterial::Opening(wall, _) => {
                        PartOfHouse::Wall(plan.walls[wall].key)
                    }
                    SurfaceMaterial::Hole(floor, hole) if plan.floors[floor].holes[hole].there.is_in(*guess) => {
                        continue;
                    }
                    SurfaceMaterial::Floor(floor) | SurfaceMaterial::Hole(floor, _) => {
                        PartOfHouse::FloorUnder(plan.levels[plan.floors[floor].above].id)
                    }
                    SurfaceMaterial::Open | SurfaceMaterial::Ground | SurfaceMaterial::Roof => continue,
                };
                add(on, scale * passing / whole / self.at.joined.len() as f64);
            }
        }
        let mut list: Vec<Sensitivity> = sums
            .into_iter()
            .filter(|(_, sum)| *sum >= FAINT)
            .map(|(on, db_per_db)| Sensitivity { on, db_per_db })
            .collect();
        list.sort_by(|a, b| b.db_per_db.total_cmp(&a.db_per_db).then(a.on.cmp(&b.on)));
        list
    }

    /// For each surface, what the scattered power would gain by if so much more passed it, times what passes it now, when rooms are
    /// joined one way.
    fn scattered_by_passing(&self, joined: &Joined, field: &[f64], from: &View, to: &View) -> Vec<f64> {
        let surfaces = &self.plan.surfaces;
        let (cells, list) = (&surfaces.cells, &surfaces.list);
        let (passes, returns) = (&joined.passes, &joined.returns);
        let glimpses = |view: &'_ View| {
            view.through.iter().map(|(own, part)| (surfaces.glimpses[*own], *part)).collect::<Vec<_>>()
        };
        let mut gained = vec![0.0; list.len()];
        // How much the receiver gets for a unit of field in each cell, and for a unit that a surface sends.
        let mut heard = vec![0.0; cells.len()];
        let mut looks = vec![0.0; list.len()];
        let indoors = to.cell.is_some();
        for (index, part) in &to.parts {
            if indoors {
                looks[*index] += part;
            } else {
                heard[list[*index].cell] += part * passes[*index];
                gained[*index] += part * field[list[*index].cell];
            }
        }
        for (own, part) in glimpses(to) {
            looks[own.seen] += part * passes[own.opening];
        }
        for (index, part) in looks.iter().enumerate().filter(|(_, part)| **part > 0.0) {
            heard[list[index].cell] += part * returns[index];
            if !surfaces.looks_through(to, index) {
                surfaces.behind(index).iter().for_each(|(cell, share)| heard[*cell] += part * passes[index] * share);
                gained[index] += part * surfaces.field_behind(index, field);
            }
            for (other, form) in surfaces.facing(index) {
                let across = form * field[list[other].cell];
                heard[list[other].cell] += part * passes[index] * form * passes[other];
                gained[index] += part * across * passes[other];
                gained[other] += part * passes[index] * across;
            }
        }
        for (own, part) in glimpses(from) {
            gained[own.opening] += looks[own.seen] * returns[own.seen] * part / list[own.seen].area();
        }
        for (own, part) in glimpses(to) {
            let surface = own.seen;
            let across: f64 = surfaces.facing(surface).map(|(i, form)| form * passes[i] * field[list[i].cell]).sum();
            let lit: f64 = view_of(surfaces, from, surface, passes) * returns[surface] / list[surface].area();
            gained[own.opening] += part
                * (returns[surface] * field[list[surface].cell]
                    + passes[surface] * (surfaces.field_behind(surface, field) + across)
                    + lit);
        }
        let heard = DVector::from_iterator(cells.len(), heard.iter().zip(cells).map(|(heard, cell)| heard / cell.area));
        // What a unit of power that enters each cell is worth to the receiver.
        let worth = joined.echo(self.plan).tr_mul(&heard);
        // What power on a surface is worth for all that passes it.
        let behind = |index: usize| surfaces.field_behind(index, worth.as_slice());
        let mut passed_on = |index: usize, power: f64, sees_behind: bool| {
            if !sees_behind {
                gained[index] += behind(index) * power;
            }
            for (other, form) in surfaces.facing(index) {
                let across = worth[list[other].cell] * power * form;
                gained[index] += across * passes[other];
                gained[other] += across * passes[index];
            }
        };
        for (own, part) in glimpses(from) {
            passed_on(own.seen, part * passes[own.opening], false);
        }
        for (index, part) in from.parts.iter().filter(|_| from.cell.is_some()) {
            passed_on(*index, *part, surfaces.looks_through(from, *index));
        }
        for (index, surface) in list.iter().enumerate() {
            passed_on(index, surfaces.field_before(index, field) * surface.area(), false);
        }
        for (own, part) in glimpses(from) {
            let (surface, cell) = (own.seen, list[own.seen].cell);
            let across: f64 = surfaces.facing(surface).map(|(i, form)| form * passes[i] * worth[list[i].cell]).sum();
            gained[own.opening] +=
                part * (returns[surface] * worth[cell] + passes[surface] * (behind(surface) + across));
        }
        for (index, part) in from.parts.iter().filter(|_| from.cell.is_none()) {
            gained[*index] += worth[list[*index].cell] * part;
        }
        gained.iter().zip(passes).map(|(gained, passes)| gained * passes).collect()
    }
}

/// Power of a transmitter with this view that falls on a surface straight or through an opening.
fn view_of(surfaces: &Surfaces, from: &View, surface: usize, passes: &[f64]) -> f64 {
    let own = from.parts.iter().filter(|(index, _)| from.cell.is_some() && *index == surface).map(|(_, part)| *part);
    let through = from.through.iter().map(|(own, part)| (surfaces.glimpses[*own], part));
    let through = through.filter(|(own, _)| own.seen == surface).map(|(own, part)| part * passes[own.opening]);
    own.chain(through).sum()
}
