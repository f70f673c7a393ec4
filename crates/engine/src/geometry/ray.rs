//! The straight line between two places: what it crosses, how slantingly, and how much of it runs outdoors.

use busy_hen_units::{Db, Degrees, Megahertz, Metres};

use super::plan::{Plan, Point, Rect};
use crate::catalogue::Material;
use crate::propagation::{Barrier, crossing_loss, distance_loss};

/// One wall or floor on the line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Crossing {
    /// What it is made of.
    pub material: &'static Material,
    /// Kind of element, for the way round it.
    pub barrier: Barrier,
    /// Angle of the line from the element's normal.
    pub from_normal: Degrees,
    /// What the element costs more than its material says.
    pub more: Db,
}

/// The straight line between two places of a house.
#[derive(Debug, Clone, PartialEq)]
pub struct Sight {
    /// Its length.
    pub distance: Metres,
    /// What it crosses.
    pub crossings: Vec<Crossing>,
    /// Part of it that runs outdoors, 0 to 1.
    pub outdoors: f64,
}

impl Sight {
    /// The line from `a` to `b`; the same, but for the order of crossings, as from `b` to `a`.
    ///
    /// # Complexity
    /// O(walls + floors x rooms)
    #[must_use]
    pub fn between(plan: &Plan, a: Point, b: Point) -> Self {
        let mut sight = Self { distance: Metres::default(), crossings: Vec::new(), outdoors: 0.0 };
        sight.set_between(plan, a, b);
        sight
    }

    /// The same as [`Sight::between`] in the memory of an earlier line, for maps of many cells.
    pub fn set_between(&mut self, plan: &Plan, a: Point, b: Point) {
        self.distance = a.distance(&b);
        self.crossings.clear();
        let length = self.distance.get();
        if length < 1e-9 {
            self.outdoors = 0.0;
            return;
        }
        let (dx, dy, dz) = (b.x - a.x, b.y - a.y, b.z - a.z);
        for wall in &plan.walls {
            let (start, run, other_start, other_run) =
                if wall.north_south { (a.x, dx, a.y, dy) } else { (a.y, dy, a.x, dx) };
            if (start < wall.at) == (start + run < wall.at) {
                continue;
            }
            let t = (wall.at - start) / run;
            let along = other_start + t * other_run;
            let z = a.z + t * dz - plan.levels[wall.level].z;
            if along < wall.from || along > wall.to || z < 0.0 || z > plan.levels[wall.level].height {
                continue;
            }
            self.crossings.push(Crossing {
                material: wall.material,
                barrier: if wall.envelope { Barrier::Envelope } else { Barrier::Inner },
                from_normal: from_normal(run, length),
                more: wall.more,
            });
        }
        for floor in &plan.floors {
            if (a.z < floor.z) == (b.z < floor.z) {
                continue;
            }
            let t = (floor.z - a.z) / dz;
            let (x, y) = (a.x + t * dx, a.y + t * dy);
            let indoors = |level: usize| plan.room_at(level, x, y).is_some_and(|room| !room.outdoors);
            if indoors(floor.above) || indoors(floor.above - 1) {
                self.crossings.push(Crossing {
                    material: floor.material,
                    barrier: Barrier::Floor,
                    from_normal: from_normal(dz, length),
                    more: floor.more,
                });
            }
        }
        self.outdoors = 1.0 - indoor_part(plan, a, b).min(1.0);
    }

    /// Loss along the line in this band.
    #[must_use]
    pub fn loss(&self, frequency: Megahertz) -> Db {
        let through: Db =
            self.crossings.iter().map(|c| (c.material.loss(frequency, c.from_normal) + c.more).max(Db::new(0.0))).sum();
        distance_loss(self.distance, frequency, self.outdoors)
            + crossing_loss(through, self.crossings.iter().map(|crossing| crossing.barrier), frequency)
    }

    /// What lies on the line, in words: "2 walls, 1 floor", or "nothing".
    #[must_use]
    pub fn in_words(&self) -> String {
        let count = |wanted: &[Barrier]| self.crossings.iter().filter(|c| wanted.contains(&c.barrier)).count();
        let parts: Vec<String> = [
            (count(&[Barrier::Inner]), "inner wall"),
            (count(&[Barrier::Envelope]), "outer wall"),
            (count(&[Barrier::Floor]), "floor"),
        ]
        .into_iter()
        .filter(|(n, _)| *n > 0)
        .map(|(n, what)| format!("{n} {what}{}", if n == 1 { "" } else { "s" }))
        .collect();
        if parts.is_empty() { "nothing in the way".to_owned() } else { parts.join(", ") }
    }
}

fn from_normal(run: f64, length: f64) -> Degrees {
    Degrees::new((run.abs() / length).clamp(0.0, 1.0).acos().to_degrees())
}

/// Part of the line that lies inside indoor rooms, 0 to 1.
fn indoor_part(plan: &Plan, a: Point, b: Point) -> f64 {
    let mut part = 0.0;
    for room in plan.rooms.iter().filter(|room| !room.outdoors) {
        let level = &plan.levels[room.level];
        part += inside(&room.rect, level.z, level.z + level.height, a, b);
    }
    part
}

/// Part of the line from `a` to `b` inside a box (Liang and Barsky's clipping, in three dimensions).
fn inside(rect: &Rect, low: f64, high: f64, a: Point, b: Point) -> f64 {
    let (mut enter, mut leave) = (0.0f64, 1.0f64);
    for (start, run, from, to) in
        [(a.x, b.x - a.x, rect.x, rect.east()), (a.y, b.y - a.y, rect.y, rect.south()), (a.z, b.z - a.z, low, high)]
    {
        if run.abs() < 1e-12 {
            if start < from || start > to {
                return 0.0;
            }
            continue;
        }
        let (t1, t2) = ((from - start) / run, (to - start) / run);
        enter = enter.max(t1.min(t2));
        leave = leave.min(t1.max(t2));
    }
    (leave - enter).max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plan() -> Plan {
        let home = busy_hen_demo::canal_terrace();
        Plan::new(&home.house, home.units)
    }

    fn words(a: (usize, f64, f64), b: (usize, f64, f64)) -> String {
        let plan = plan();
        Sight::between(&plan, plan.in_hand(a.0, a.1, a.2), plan.in_hand(b.0, b.1, b.2)).in_words()
    }

    #[test]
    fn what_lies_between_two_places_is_told() {
        assert_eq!(words((0, 1.0, 1.0), (0, 2.0, 3.0)), "nothing in the way");
        assert_eq!(words((0, 1.0, 1.0), (0, 1.0, 6.0)), "1 inner wall");
        assert_eq!(words((0, 1.0, 8.0), (0, 1.0, 12.0)), "1 outer wall");
        assert_eq!(words((0, 1.0, 1.0), (1, 1.0, 1.5)), "1 floor");
        assert_eq!(words((0, 1.0, 1.0), (2, 1.0, 1.5)), "2 floors");
    }

    #[test]
    fn a_line_that_leaves_an_upper_window_crosses_no_floor_over_the_garden() {
        assert_eq!(words((1, 2.0, 8.5), (0, 2.0, 20.0)), "1 outer wall");
    }

    #[test]
    fn the_part_under_the_sky_is_told_apart() {
        let plan = plan();
        let sight = |y1, y2| Sight::between(&plan, plan.in_hand(0, 2.0, y1), plan.in_hand(0, 2.0, y2));
        assert!(sight(1.0, 3.0).outdoors.abs() < 1e-9);
        assert!((sight(12.0, 20.0).outdoors - 1.0).abs() < 1e-9);
        let kitchen_wall = 9.4;
        let half = sight(kitchen_wall - 2.0, kitchen_wall + 2.0);
        assert!((half.outdoors - 0.5).abs() < 1e-6, "{}", half.outdoors);
    }

    #[test]
    fn a_slanting_line_meets_a_wall_at_its_angle() {
        let plan = plan();
        let slanting = Sight::between(&plan, plan.in_hand(0, 0.5, 2.0), plan.in_hand(0, 2.5, 6.0));
        let crossing = slanting.crossings[0];
        assert!((crossing.from_normal.get() - (0.5f64).atan().to_degrees()).abs() < 1e-6);
    }

    #[test]
    fn a_wall_that_is_more_than_its_material_costs_that_more() {
        let mut plan = plan();
        let (a, b) = (plan.in_hand(0, 1.0, 3.5), plan.in_hand(0, 1.0, 4.5));
        let frequency = Megahertz::new(5500.0);
        let before = Sight::between(&plan, a, b).loss(frequency);
        for wall in &mut plan.walls {
            wall.more = Db::new(-100.0);
        }
        let glass_thin = Sight::between(&plan, a, b).loss(frequency);
        assert!(glass_thin < before);
        assert!(glass_thin >= distance_loss(a.distance(&b), frequency, 0.0), "never less than no wall");
    }

    #[test]
    fn from_a_place_to_itself_nothing_is_crossed() {
        let plan = plan();
        let here = plan.in_hand(0, 1.0, 1.0);
        let sight = Sight::between(&plan, here, here);
        assert!(sight.crossings.is_empty() && sight.loss(Megahertz::new(5500.0)).is_finite());
    }
}
