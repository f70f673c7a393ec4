//! The propagation model of the product: a house at one frequency, and the loss between any two of its places.
//!
//! Two parts of the power add up:
//!
//! - **straight**: free space along the line, less what its walls, floors and obstacles take. A line that just misses a drawn door
//!   or window bends round its edges (knife edge), so rooms do not go dark beside a door frame.
//! - **scattered**: what walls, floors and furniture throw back fills each room as light fills a room with pale walls, and leaks
//!   into the next through the walls and, more, through what stands open. The rooms' fields follow from a balance of power:
//!   what comes in is what goes out. So a shut door, a window to the garden and a long corridor do what they do in a house,
//!   and many heavy walls saturate without a constant that says so.
//!
//! # Source
//! Power balance of coupled cavities: D. A. Hill et al., IEEE Trans. Electromagn. Compat. 36 (1994) 169; room electromagnetics:
//! J. B. Andersen et al., IEEE Antennas Propag. Mag. 49 (2007) 27 (both from memory). Applied to rooms with walls that pass power,
//! in `docs/MODEL.md`.

use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use busy_hen_catalogue::materials::oblique_loss;
use busy_hen_floorplan::parts::WallOpening;
use busy_hen_floorplan::surfaces::{View, VisiblePart};
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::Doors;
use busy_hen_units::{Db, Megahertz, Metres};
use nalgebra::DVector;

use super::aerial::Pattern;
use super::balance::{Joined, Prepared, Sends, Takes};
use super::distance::{NEAREST, clutter_loss, free_space_loss, unsaid_loss};
use super::edge::{intrusion, knife_edge, wavelength};
use super::outdoors::ground_loss;
use super::sight::{Crossing, Element, Sight};
use crate::cache::Cache;

/// Version of the law, kept with what it forecast: raised whenever its figures change.
pub const LAW: &str = "waves 4";

/// What stands against a wall or floor of a home and runs in it, dB a crossing. Published models of lived-in homes take 4 to 7 dB for a
/// wall or floor that is lighter in the laboratory (IEEE 802.11-14/0980: 5 a wall; ITU-R P.1238: 5 to 7 a timber floor; both from memory);
/// the difference is fitted to readings of practice.
const AGAINST_A_WALL_DB: f64 = 2.0;

/// Pairs of cells of houses whose balances are kept.
const PREPARED_KEPT: usize = 4_000_000;

/// An edge deeper in shadow than this lets nothing by that counts.
const EDGE_OUT_OF_SIGHT: f64 = 12.0;

/// A house at one frequency, its doors standing one way.
#[derive(Debug, Clone)]
pub struct Radiosity<'a> {
    pub(super) plan: &'a Plan,
    pub(super) at: Arc<Prepared>,
}

/// Houses prepared before, by their fingerprints, kept by the caller from one question to the next.
#[derive(Debug)]
pub struct HouseCache(Cache<(u64, Doors, u64), Arc<Prepared>>);

impl Default for HouseCache {
    fn default() -> Self {
        Self(Cache::new(PREPARED_KEPT))
    }
}

/// A house at every frequency asked for, each worked out once.
#[derive(Debug)]
pub struct PropagationModel<'a> {
    /// The house.
    pub plan: &'a Plan,
    /// How its doors stand.
    pub doors: Doors,
    made: Mutex<Vec<Radiosity<'a>>>,
    kept: Option<(&'a HouseCache, u64)>,
}

impl<'a> PropagationModel<'a> {
    /// The house with its doors standing so.
    #[must_use]
    pub fn new(plan: &'a Plan, doors: Doors) -> Self {
        Self { plan, doors, made: Mutex::default(), kept: None }
    }

    /// The same, taking what was prepared before for a house of this fingerprint.
    #[must_use]
    pub fn keeping(plan: &'a Plan, doors: Doors, kept: &'a HouseCache, fingerprint: u64) -> Self {
        Self { kept: Some((kept, fingerprint)), ..Self::new(plan, doors) }
    }

    /// The house at this frequency.
    #[must_use]
    pub fn at(&self, frequency: Megahertz) -> Radiosity<'a> {
        let bits = frequency.get().to_bits();
        let of = |made: &[Radiosity<'a>]| made.iter().find(|waves| waves.at.frequency.get().to_bits() == bits).cloned();
        if let Some(known) = of(&self.lock()) {
            return known;
        }
        let prepare = || Arc::new(Prepared::new(self.plan, frequency, self.doors));
        let at = match self.kept {
            Some((kept, fingerprint)) => kept.0.get_or_make(
                (fingerprint, self.doors, bits),
                |_| self.plan.surfaces.cells.len().pow(2).max(1),
                prepare,
            ),
            None => prepare(),
        };
        let waves = Radiosity { plan: self.plan, at };
        let mut made = self.lock();
        if of(&made).is_none() {
            made.push(waves.clone());
        }
        waves
    }

    fn lock(&self) -> MutexGuard<'_, Vec<Radiosity<'a>>> {
        self.made.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// How the rooms glow when a transmitter shines: on the average over the ways that they may be joined, and in each.
#[derive(Debug, Clone, PartialEq)]
pub struct DiffuseField {
    /// On the average: where nobody drew the doors, power averages over both ways.
    mean: Sends,
    /// In each way, in the order of the house's guesses; empty where there is one alone.
    each: Vec<Sends>,
    /// Power under way in each cell, over the cell's area, in each way.
    pub(super) fields: Vec<Vec<f64>>,
}

impl<'a> Radiosity<'a> {
    /// The house at this frequency with its doors as they stand, or all open, or all shut.
    #[must_use]
    pub fn new(plan: &'a Plan, frequency: Megahertz, doors: Doors) -> Self {
        Self { plan, at: Arc::new(Prepared::new(plan, frequency, doors)) }
    }

    /// The frequency it is for.
    #[must_use]
    pub fn frequency(&self) -> Megahertz {
        self.at.frequency
    }

    /// Loss along the straight line: free space, and what the line crosses; without clutter.
    #[must_use]
    pub fn straight(&self, sight: &Sight) -> Db {
        self.straight_in(sight, self.at.takes(None))
    }

    fn straight_in(&self, sight: &Sight, takes: &Takes) -> Db {
        let crossed: f64 = sight.crossings.iter().map(|crossing| self.crossing(crossing, takes)).sum();
        free_space_loss(sight.distance.max(Metres::new(NEAREST)), self.at.frequency) + Db::new(crossed)
            - Db::of_ratio(sight.guided)
    }

    /// Part of the straight power at a crossing that goes through what is crossed, and not past it by the edge of an opening.
    pub(super) fn solid_part(&self, crossing: &Crossing) -> f64 {
        match crossing.element {
            Element::Wall(index) if crossing.opening(self.plan).is_none() => {
                let solid = self.at.takes.walls[index] + oblique_loss(crossing.cosine);
                let through = Db::new(-solid).ratio();
                through / Db::new(-self.crossing(crossing, &self.at.takes)).ratio()
            }
            _ => 1.0,
        }
    }

    fn crossing(&self, crossing: &Crossing, takes: &Takes) -> f64 {
        let oblique = |loss: f64| if loss > 0.0 { loss + oblique_loss(crossing.cosine) } else { 0.0 };
        match crossing.element {
            Element::Floor(index) => oblique(takes.floors[index]),
            Element::Upright(index) => self.past_upright(index, crossing),
            Element::Wall(index) => match crossing.opening(self.plan) {
                Some(opening) => oblique(takes.openings[index][opening]),
                None => {
                    let wall = &self.plan.walls[index];
                    let solid = oblique(takes.walls[index]);
                    if wall.openings.iter().all(|opening| opening.assumed) {
                        return solid;
                    }
                    let beside: f64 = wall
                        .openings
                        .iter()
                        .zip(&takes.openings[index])
                        .filter(|(opening, _)| !opening.assumed)
                        .map(|(opening, loss)| self.beside_opening(opening, oblique(*loss), crossing))
                        .sum();
                    -Db::of_ratio(Db::new(-solid).ratio() + beside).get()
                }
            },
        }
    }

    /// Part of the power that bends through an opening beside which the line meets the wall.
    fn beside_opening(&self, opening: &WallOpening, loss: f64, crossing: &Crossing) -> f64 {
        let edge = |off: f64, square: f64| {
            intrusion(Metres::new(off * square), crossing.before, crossing.after, self.at.frequency)
        };
        let sideways = (opening.from - crossing.along).max(crossing.along - opening.to);
        let upwards = (opening.low - crossing.height).max(crossing.height - opening.high);
        let (across, up) = (edge(sideways, crossing.squareness.0), edge(upwards, crossing.squareness.1));
        if across > EDGE_OUT_OF_SIGHT || up > EDGE_OUT_OF_SIGHT {
            return 0.0;
        }
        (-(knife_edge(across) + knife_edge(up) + Db::new(loss))).ratio()
    }

    /// Through an obstacle or over it, whichever lets more by; both add.
    fn past_upright(&self, index: usize, crossing: &Crossing) -> f64 {
        let one = &self.plan.uprights[index];
        if crossing.height < one.foot {
            return 0.0;
        }
        let over = Metres::new(one.top - crossing.height);
        let nu = intrusion(over, crossing.before, crossing.after, self.at.frequency);
        let past = (-knife_edge(nu)).ratio();
        let through = if nu > 0.0 { Db::new(-self.at.uprights[index]).ratio() } else { 0.0 };
        -Db::of_ratio((past + through).min(1.0)).get()
    }

    /// How the rooms glow when a transmitter shines at the place that this view is from.
    ///
    /// # Complexity
    /// O(surfaces + cells^2), besides what the house itself costs once
    #[must_use]
    pub fn diffuse_field(&self, from: &View) -> DiffuseField {
        let (mut each, fields): (Vec<Sends>, Vec<Vec<f64>>) =
            self.at.joined.iter().map(|joined| self.diffuse_field_of(joined, from)).unzip();
        let mean = Sends::mean(&each);
        if each.len() == 1 {
            each.clear();
        }
        DiffuseField { mean, each, fields }
    }

    fn diffuse_field_of(&self, joined: &Joined, from: &View) -> (Sends, Vec<f64>) {
        let surfaces = &self.plan.surfaces;
        let (cells, list) = (&surfaces.cells, &surfaces.list);
        let (passes, returns) = (&joined.passes, &joined.returns);
        let mut first = vec![0.0; cells.len()];
        // What goes through a surface that so much falls on from inside.
        let enters = |first: &mut Vec<f64>, index: usize, part: f64| {
            for (beyond, share) in surfaces.behind(index) {
                first[*beyond] += passes[index] * part * share;
            }
            for (other, form) in surfaces.facing(index) {
                first[list[other].cell] += passes[index] * part * form * passes[other];
            }
        };
        for (index, part) in &from.parts {
            let surface = &list[*index];
            if from.cell.is_none() {
                first[surface.cell] += passes[*index] * part;
                continue;
            }
            first[surface.cell] += returns[*index] * part;
            if !surfaces.looks_through(from, *index) {
                enters(&mut first, *index, *part);
            }
        }
        for (glimpse, part) in &from.through {
            let VisiblePart { opening, seen, .. } = surfaces.glimpses[*glimpse];
            let part = passes[opening] * part;
            first[list[seen].cell] += returns[seen] * part;
            enters(&mut first, seen, part);
        }
        // Power under way in each cell, over the cell's area, when so much enters each at first.
        let power = joined.echo(self.plan) * DVector::from_vec(first);
        let field: Vec<f64> = power.iter().zip(cells).map(|(power, cell)| power / cell.area).collect();
        let mut inside: Vec<f64> = list
            .iter()
            .enumerate()
            .map(|(index, surface)| {
                let beyond = surfaces.field_behind(index, &field);
                let across: f64 =
                    surfaces.facing(index).map(|(other, form)| form * passes[other] * field[list[other].cell]).sum();
                returns[index] * field[surface.cell] + passes[index] * (beyond + across)
            })
            .collect();
        if from.cell.is_some() {
            for (index, part) in &from.parts {
                inside[*index] += returns[*index] * part / list[*index].area();
            }
        }
        for (glimpse, part) in &from.through {
            let VisiblePart { opening, seen, .. } = surfaces.glimpses[*glimpse];
            inside[seen] += passes[opening] * returns[seen] * part / list[seen].area();
        }
        let outside = list.iter().enumerate().map(|(i, surface)| passes[i] * field[surface.cell]).collect();
        let glimpse =
            |own: &VisiblePart| passes[own.opening] * (inside[own.seen] - surfaces.field_behind(own.opening, &field));
        let through = surfaces.glimpses.iter().map(glimpse).collect();
        (Sends { inside, outside, through }, field)
    }

    /// Part of the transmitted power that reaches an aerial without gain by scattering, where the place has this view.
    #[must_use]
    pub fn scattered(&self, glow: &DiffuseField, view: &View) -> f64 {
        self.scattered_of(&glow.mean, view)
    }

    fn scattered_of(&self, sends: &Sends, view: &View) -> f64 {
        let lambda = wavelength(self.at.frequency).get();
        let sum =
            |parts: &[(usize, f64)], sends: &[f64]| -> f64 { parts.iter().map(|(i, part)| part * sends[*i]).sum() };
        let own = if view.cell.is_some() { &sends.inside } else { &sends.outside };
        lambda * lambda / std::f64::consts::PI * (sum(&view.parts, own) + sum(&view.through, &sends.through))
    }

    /// Loss from one place to another with aerials of these patterns at their ends, as straight as the kit counts them.
    #[must_use]
    pub fn between(&self, from: (Point, &Pattern), to: (Point, &Pattern)) -> Db {
        let surfaces = &self.plan.surfaces;
        let sight = Sight::between(self.plan, from.0, to.0);
        let gain = from.1.beyond_counted(from.0, to.0) + to.1.beyond_counted(to.0, from.0);
        let glow = self.diffuse_field(&surfaces.view(&from.0));
        self.loss(&sight, &glow, &surfaces.view(&to.0), gain)
    }

    /// Loss between two places of the home as people live in it: straight and scattered power together, and what furniture, people and
    /// ground take.
    ///
    /// `gain` is that of the two aerials together along the line, beyond the mean that the kit already counts; scattered power comes
    /// from all directions and so gets the mean.
    #[must_use]
    pub fn loss(&self, sight: &Sight, glow: &DiffuseField, view: &View, gain: Db) -> Db {
        self.together(
            sight,
            self.direct(sight, gain, self.stands_about(sight), &self.at.takes),
            self.scattered(glow, view),
        ) + clutter_loss(sight.distance, sight.outdoors, self.at.frequency)
    }

    /// The same in each way that rooms may be joined; none where there is one alone.
    #[must_use]
    pub fn losses_each(&self, sight: &Sight, glow: &DiffuseField, view: &View, gain: Db) -> Vec<Db> {
        let about = self.stands_about(sight);
        let direct = |way: usize| self.direct(sight, gain, about, self.at.takes(Some(way)));
        let clutter = clutter_loss(sight.distance, sight.outdoors, self.at.frequency);
        let each = glow.each.iter().enumerate();
        each.map(|(way, sends)| self.together(sight, direct(way), self.scattered_of(sends, view)) + clutter).collect()
    }

    /// Loss from one place to another of the house with nothing and nobody in it.
    #[must_use]
    pub fn empty(&self, from: Point, to: Point) -> Db {
        let surfaces = &self.plan.surfaces;
        let glow = self.diffuse_field(&surfaces.view(&from));
        let scattered = self.scattered(&glow, &surfaces.view(&to));
        let sight = Sight::between(self.plan, from, to);
        self.together(&sight, self.direct(&sight, Db::new(0.0), Db::new(0.0), &self.at.takes), scattered)
    }

    /// What stands on a straight line of a home that people live in: against the walls and floors that it crosses and in them, wardrobes
    /// and shelves, pipes and wires; and outdoors what nobody told.
    pub(super) fn stands_about(&self, sight: &Sight) -> Db {
        let upright = |crossing: &&Crossing| matches!(crossing.element, Element::Upright(_));
        let solid = |crossing: &&Crossing| !upright(crossing) && crossing.opening(self.plan).is_none();
        let against = AGAINST_A_WALL_DB * sight.crossings.iter().filter(solid).count() as f64;
        let told: f64 =
            sight.crossings.iter().filter(upright).map(|crossing| self.crossing(crossing, &self.at.takes)).sum();
        Db::new(against) + unsaid_loss(sight.distance * sight.outdoors, Db::new(told))
    }

    /// What goes straight, and besides it along long rooms.
    fn direct(&self, sight: &Sight, gain: Db, about: Db, takes: &Takes) -> f64 {
        let beams: f64 = self.beams(sight, takes).map(|(.., part)| part).sum();
        (gain - about - self.straight_in(sight, takes)).ratio() + beams * gain.ratio()
    }

    /// Part of the transmitted power that goes by the walls of a long room and through its openings: wall and opening by index, and the
    /// part that reaches an aerial without gain.
    pub(super) fn beams<'s>(
        &'s self,
        sight: &'s Sight,
        takes: &'s Takes,
    ) -> impl Iterator<Item = (usize, usize, f64)> + 's {
        let open = (-free_space_loss(sight.distance.max(Metres::new(NEAREST)), self.at.frequency)).ratio();
        sight.beams.iter().map(move |(wall, opening, part)| {
            (*wall, *opening, open * part * Db::new(-takes.openings[*wall][*opening]).ratio())
        })
    }

    fn together(&self, sight: &Sight, direct: f64, scattered: f64) -> Db {
        let outdoors = sight.distance * sight.outdoors;
        -Db::of_ratio(direct + scattered) + ground_loss(outdoors, sight.heights, self.at.frequency)
    }
}
