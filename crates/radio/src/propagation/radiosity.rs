//! The law of the product: a house at one frequency, and the loss between any two of its places.
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

use std::sync::{Arc, Mutex, MutexGuard, OnceLock, PoisonError};

use busy_hen_home::{Doors, OpeningKind};
use busy_hen_units::{Db, Degrees, Megahertz, Metres};
use nalgebra::{DMatrix, DVector};

use super::aerial::Pattern;
use super::distance::{NEAREST, clutter_loss, free_space_loss, unsaid_loss};
use super::edge::{intrusion, knife_edge, wavelength};
use super::outdoors::{ground_loss, through};
use super::sight::{Crossing, Element, Sight};
use super::slab;
use crate::cache::Cache;
use busy_hen_catalogue::Material;
use busy_hen_catalogue::materials::{mean_loss, oblique_loss};
use busy_hen_catalogue::spectrum::channels::band_of;
use busy_hen_floorplan::Plan;
use busy_hen_floorplan::Point;
use busy_hen_floorplan::parts::{Floor, Guess, Stands, Wall, WallOpening};
use busy_hen_floorplan::surface::SurfaceMaterial;
use busy_hen_floorplan::surfaces::{View, VisiblePart};

/// Version of the law, kept with what it forecast: raised whenever its figures change.
pub const LAW: &str = "waves 4";

/// What slanting costs a wall that is lit from all sides alike, dB: 0.8 by the oblique rule averaged over Lambert's cosine, and somewhat
/// more for what grazes, fitted to the traced houses.
const ALL_SIDES_DB: f64 = 1.1;
/// What stands against a wall or floor of a home and runs in it, dB a crossing. Published models of lived-in homes take 4 to 7 dB for a
/// wall or floor that is lighter in the laboratory (IEEE 802.11-14/0980: 5 a wall; ITU-R P.1238: 5 to 7 a timber floor; both from memory);
/// the difference is fitted to readings of practice.
const AGAINST_A_WALL_DB: f64 = 2.0;
/// The ground throws back so much of what falls on it.
const GROUND_REFLECTS: f64 = 0.2;
/// Pairs of cells of houses whose balances are kept.
const PREPARED_KEPT: usize = 4_000_000;
/// An edge deeper in shadow than this lets nothing by that counts.
const EDGE_OUT_OF_SIGHT: f64 = 12.0;

/// What a house takes and throws back at one frequency, its doors standing one way: all that does not depend on where anyone stands.
#[derive(Debug)]
pub struct Prepared {
    frequency: Megahertz,
    /// What its parts take, on the average over what they may be made of.
    takes: Takes,
    /// The same in each way that the home may be; empty where all is known.
    takes_each: Vec<Takes>,
    /// Loss straight through each upright obstacle, dB.
    uprights: Vec<f64>,
    /// What its surfaces do, in each way that its rooms may be joined.
    pub(super) joined: Vec<Joined>,
}

/// What the parts of a house take at normal incidence, dB.
#[derive(Debug, Clone)]
pub(super) struct Takes {
    /// Each wall.
    walls: Vec<f64>,
    /// Each opening of each wall, as it stands.
    openings: Vec<Vec<f64>>,
    /// Each floor.
    floors: Vec<f64>,
}

/// What the surfaces of a house do when its rooms are joined one way.
#[derive(Debug)]
pub(super) struct Joined {
    /// Part of the power on each surface that passes it.
    pub(super) passes: Vec<f64>,
    /// Part of the power on each surface that is thrown back.
    pub(super) returns: Vec<f64>,
    /// Power under way in each cell (rows) when one unit enters another (columns), worked out when first asked for.
    echo: OnceLock<DMatrix<f64>>,
}

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

/// What every surface sends towards a place in its sight, in the order of the plan's surfaces.
#[derive(Debug, Clone, PartialEq)]
struct Sends {
    /// Into the surface's own cell.
    inside: Vec<f64>,
    /// Outdoors; nothing for surfaces with a cell beyond.
    outside: Vec<f64>,
    /// By each glimpse through an opening more than the mean of the room beyond, which the opening itself sends.
    through: Vec<f64>,
}

impl Sends {
    fn mean(each: &[Self]) -> Self {
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

    fn joined(&self, plan: &Plan, guess: Guess, takes: &Takes) -> Joined {
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
    fn surface(&self, plan: &Plan, stuff: SurfaceMaterial, takes: &Takes) -> (f64, f64) {
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
    fn new(plan: &Plan, frequency: Megahertz, doors: Doors, heavy: bool) -> Self {
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

    fn mean(one: &Self, other: &Self) -> Self {
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

/// Loss of a wall at normal incidence, dB: its table value, moved by what another thickness changes by the slab formula.
fn wall_loss(wall: &Wall, material: &Material, frequency: Megahertz) -> f64 {
    let table = material.loss(frequency, Degrees::new(0.0)) + wall.more.of(band_of(frequency));
    let thicker = wall.thickness.and_then(|thickness| {
        let usual = slab::stack(&material.key)?;
        let changed = slab::of_thickness(&usual, Metres::new(thickness));
        Some(slab::averaged_loss(&changed, frequency) - slab::averaged_loss(&usual, frequency))
    });
    (table + thicker.unwrap_or_default()).get().max(0.0)
}

/// Loss of an opening at normal incidence as it stands, dB.
fn opening_loss(opening: &WallOpening, material: &Material, frequency: Megahertz, doors: Doors) -> f64 {
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
