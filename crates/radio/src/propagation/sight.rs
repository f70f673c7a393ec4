//! The straight line between two places: what it crosses, how slantingly, and how much of it runs outdoors.

use busy_hen_floorplan::{Plan, Point, Rect};
use busy_hen_units::{Degrees, Metres};

use super::outdoors::obstacle_name;

/// What a line crosses.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Element {
    /// Wall of the plan, by index.
    Wall(usize),
    /// Floor of the plan, by index.
    Floor(usize),
    /// Upright obstacle of the plan, by index.
    Upright(usize),
}

/// One crossing of the line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Crossing {
    /// What is crossed.
    pub element: Element,
    /// Cosine of the line's angle from the element's normal.
    pub cosine: f64,
    /// How much a step along the wall, and one up it, move away from the line: 1 when square to it.
    pub squareness: (f64, f64),
    /// Where along the wall it is crossed; of no account for other elements.
    pub along: f64,
    /// Height of the crossing over the floor of the wall's level, or over the ground for an obstacle.
    pub height: f64,
    /// From the one end to the crossing.
    pub before: Metres,
    /// From the crossing to the other end.
    pub after: Metres,
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
    /// Heights of its ends over the lowest floor.
    pub heights: (Metres, Metres),
    /// By how much more arrives along it than in the open, since the sides of a long room, or floor and ceiling, guide.
    pub guided: f64,
    /// What grazes the walls of a long room at one end and goes through an opening to the other: wall and opening by index, and the part
    /// of what would arrive in the open.
    pub beams: Vec<(usize, usize, f64)>,
}

impl Sight {
    /// The line from `a` to `b`; the same, but for the order of crossings, as from `b` to `a`.
    ///
    /// # Complexity
    /// O(walls + rooms + floors x rooms)
    #[must_use]
    pub fn between(plan: &Plan, a: Point, b: Point) -> Self {
        let none = Metres::default();
        let mut sight = Self {
            distance: none,
            crossings: Vec::new(),
            outdoors: 0.0,
            heights: (none, none),
            guided: 1.0,
            beams: Vec::new(),
        };
        sight.set_between(plan, a, b);
        sight
    }

    /// The same as [`Sight::between`] in the memory of an earlier line, for maps of many cells.
    pub fn set_between(&mut self, plan: &Plan, a: Point, b: Point) {
        self.distance = a.distance(&b);
        self.heights = (Metres::new(a.z), Metres::new(b.z));
        self.crossings.clear();
        self.guided = 1.0;
        self.beams.clear();
        let length = self.distance.get();
        if length < 1e-9 {
            self.outdoors = 0.0;
            return;
        }
        self.cross_walls(plan, a, b);
        self.cross_floors(plan, a, b);
        self.cross_uprights(plan, a, b);
        let envelope = |c: &Crossing| matches!(c.element, Element::Wall(index) if plan.walls[index].envelope);
        let cells = [a, b].map(|end| plan.surfaces.cell_at(&end));
        let drawn = |(wall, opening, _): &(usize, usize, f64)| !plan.walls[*wall].openings[*opening].assumed;
        self.beams.extend(plan.surfaces.beams((&a, cells[0]), (&b, cells[1])).filter(drawn));
        let inside = cells.map(|cell| cell.is_some());
        self.outdoors = match inside {
            [true, true] if !self.crossings.iter().any(envelope) => 0.0,
            [false, false] if self.crossings.is_empty() => 1.0,
            _ => 1.0 - indoor_part(plan, a, b).min(1.0),
        };
        if self.outdoors == 0.0 {
            self.guided = plan.surfaces.waveguide_gain((&a, cells[0]), (&b, cells[1]));
        }
    }

    fn crossing(&self, element: Element, t: f64, cosine: f64) -> Crossing {
        let length = self.distance.get();
        Crossing {
            element,
            cosine,
            squareness: (1.0, 1.0),
            along: 0.0,
            height: 0.0,
            before: Metres::new(t * length),
            after: Metres::new((1.0 - t) * length),
        }
    }

    fn cross_walls(&mut self, plan: &Plan, a: Point, b: Point) {
        let (dx, dy, dz) = (b.x - a.x, b.y - a.y, b.z - a.z);
        let length = self.distance.get();
        for (index, wall) in plan.walls.iter().enumerate() {
            let (start, run, other_start, other_run) =
                if wall.north_south { (a.x, dx, a.y, dy) } else { (a.y, dy, a.x, dx) };
            if (start < wall.at) == (start + run < wall.at) {
                continue;
            }
            let t = (wall.at - start) / run;
            let along = other_start + t * other_run;
            let height = a.z + t * dz - plan.levels[wall.level].z;
            // A wall holds its begin and not its end, so that a line through the joint of two in line meets one.
            if along < wall.from || along >= wall.to || height < 0.0 || height > plan.levels[wall.level].height {
                continue;
            }
            let square = |step: f64| (1.0 - (step / length).powi(2)).max(0.0).sqrt();
            self.crossings.push(Crossing {
                squareness: (square(other_run), square(dz)),
                along,
                height,
                ..self.crossing(Element::Wall(index), t, (run / length).abs())
            });
        }
    }

    fn cross_floors(&mut self, plan: &Plan, a: Point, b: Point) {
        let (dx, dy, dz) = (b.x - a.x, b.y - a.y, b.z - a.z);
        for (index, floor) in plan.floors.iter().enumerate() {
            if (a.z < floor.z) == (b.z < floor.z) {
                continue;
            }
            let t = (floor.z - a.z) / dz;
            let (x, y) = (a.x + t * dx, a.y + t * dy);
            let hole = floor.holes.iter().any(|hole| !hole.assumed && hole.rect.contains(x, y));
            let indoors = |level: usize| plan.room_at(level, x, y).is_some_and(|room| !room.outdoors);
            if !hole && (indoors(floor.above) || indoors(floor.above - 1)) {
                let cosine = (dz / self.distance.get()).abs();
                self.crossings.push(self.crossing(Element::Floor(index), t, cosine));
            }
        }
    }

    fn cross_uprights(&mut self, plan: &Plan, a: Point, b: Point) {
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        for (index, one) in plan.uprights.iter().enumerate() {
            let (ex, ey) = (one.to.0 - one.from.0, one.to.1 - one.from.1);
            let across = dx * ey - dy * ex;
            if across.abs() < 1e-12 {
                continue;
            }
            let (fx, fy) = (one.from.0 - a.x, one.from.1 - a.y);
            let t = (fx * ey - fy * ex) / across;
            let s = (fx * dy - fy * dx) / across;
            if (0.0..=1.0).contains(&t) && (0.0..=1.0).contains(&s) {
                let height = a.z + t * (b.z - a.z);
                self.crossings.push(Crossing { height, ..self.crossing(Element::Upright(index), t, 1.0) });
            }
        }
    }

    /// What lies on the line, in words: "2 inner walls, 1 floor", or "nothing in the way".
    #[must_use]
    pub fn in_words(&self, plan: &Plan) -> String {
        let mut parts: Vec<(usize, &str)> = vec![(0, "inner wall"), (0, "outer wall"), (0, "opening"), (0, "floor")];
        for crossing in &self.crossings {
            match crossing.element {
                Element::Wall(_) if crossing.opening(plan).is_some() => parts[2].0 += 1,
                Element::Wall(index) => parts[usize::from(plan.walls[index].envelope)].0 += 1,
                Element::Floor(_) => parts[3].0 += 1,
                Element::Upright(index) => parts.push((1, obstacle_name(plan.uprights[index].kind))),
            }
        }
        let words: Vec<String> = parts
            .into_iter()
            .filter(|(count, _)| *count > 0)
            .map(|(count, what)| {
                format!("{count} {what}{}", if count == 1 || what.ends_with("trees") { "" } else { "s" })
            })
            .collect();
        if words.is_empty() { "nothing in the way".to_owned() } else { words.join(", ") }
    }
}

impl Crossing {
    /// Index of the drawn opening of the wall that the line goes through; none when it goes through the wall itself.
    #[must_use]
    pub fn opening(&self, plan: &Plan) -> Option<usize> {
        let Element::Wall(wall) = self.element else { return None };
        plan.walls[wall].openings.iter().position(|opening| {
            !opening.assumed
                && opening.from <= self.along
                && self.along <= opening.to
                && opening.low <= self.height
                && self.height <= opening.high
        })
    }

    /// Angle of the line from the element's normal.
    #[must_use]
    pub fn from_normal(&self) -> Degrees {
        Degrees::new(self.cosine.clamp(0.0, 1.0).acos().to_degrees())
    }
}

/// Part of the line that lies inside indoor rooms, 0 to 1.
fn indoor_part(plan: &Plan, a: Point, b: Point) -> f64 {
    let mut part = 0.0;
    for room in plan.rooms.iter().filter(|room| !room.outdoors) {
        let level = &plan.levels[room.level];
        part += room.rects().map(|rect| inside(rect, level.z, level.z + level.height, a, b)).sum::<f64>();
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
