//! Ways for cables: along walls, through door openings and up the stairs, and where nothing else leads there, through a drilled hole.

use std::cmp::Ordering;
use std::collections::BinaryHeap;

use busy_hen_home::{LevelId, OpeningKind, Position, RoomId};
use busy_hen_units::Metres;
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_floorplan::parts::Guess;
use busy_hen_floorplan::{Plan, PlanRoom, Rect, Wall};

// Source of all that follows but the slack: engineering estimates (`docs/MODEL.md`, section 3). They decide whether one would rather walk round.

/// Side of a cell of the grid that ways are looked for on, m.
const CELL: f64 = 0.25;
/// A cable lies along a wall when it is no farther from it than this, m.
const ALONG: f64 = 0.3;
/// How much longer than one along a wall a way across an open floor seems: somebody trips over it.
const ACROSS: f64 = 3.0;
/// How much longer a way outdoors seems: it is buried or clipped, and wants cable made for that.
const OUTDOORS: f64 = 1.5;
/// Metres of cable that one would rather lay than drill an inner wall, an outer wall, or a floor.
const WALL_WORTH: f64 = 8.0;
const OUTER_WALL_WORTH: f64 = 12.0;
const FLOOR_WORTH: f64 = 12.0;
/// Those of somebody who may not drill: only where nothing else leads there.
const FORBIDDEN: f64 = 1000.0;
/// Slack to leave: a part of the way, and at each end, m: common practice.
const SLACK_PART: f64 = 0.1;
const SLACK_END: f64 = 0.5;
/// What is put up so near under the ceiling hangs from it, m.
const FROM_THE_CEILING: f64 = 0.3;
/// How far around the house a way outdoors may lead, m.
const MARGIN: f64 = 1.5;

/// The way of a cable.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Route {
    /// Its stretches from the upstream end, one a level it lies on.
    pub stretches: Vec<Stretch>,
    /// How long the way is, up and down walls included.
    pub way_m: Metres,
    /// How much of that is outdoors.
    pub outdoors_m: Metres,
    /// Length to cut or buy: the way and slack, in whole metres.
    pub length_m: Metres,
    /// Where it must be drilled.
    pub holes: Vec<DrilledHole>,
    /// Whether it goes through a door that nobody drew, so that it is worth a look.
    pub by_undrawn_door: bool,
}

/// A stretch of the way on one level.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Stretch {
    /// The level.
    pub level_id: LevelId,
    /// Its corners.
    pub points: Vec<Corner>,
}

/// A corner of a way.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Corner {
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
}

/// A hole to be drilled for a cable.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DrilledHole {
    /// The level; that under a floor.
    pub level_id: LevelId,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// What is drilled, in words.
    pub what: String,
    /// Whether it leads outdoors.
    pub outer: bool,
}

/// How a way may lead.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Asked {
    /// Whether it may be drilled.
    pub may_drill: bool,
    /// The room in which it goes from storey to storey; none for the stairs.
    pub riser: Option<RoomId>,
    /// Whether it is somebody's who walks: across the floor as well as along walls, and through doors alone.
    pub on_foot: bool,
}

/// A step of a way through the grid.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Step {
    Plain,
    Door { undrawn: bool },
    Wall(usize),
    Stairs,
    Floor,
}

/// The ways that cables may take in a house: a grid of 25 cm, made once for all of them.
pub struct Ways<'a> {
    plan: &'a Plan,
    west: f64,
    north: f64,
    columns: usize,
    rows: usize,
    /// Room of each cell, level by level; none outside of all.
    rooms: Vec<Option<usize>>,
    /// Whether a cell lies along a wall.
    along: Vec<bool>,
    /// The level that the ground around the house belongs to.
    ground: usize,
}

#[derive(PartialEq)]
struct Next {
    cost: f64,
    cell: usize,
}

impl Eq for Next {}
impl Ord for Next {
    fn cmp(&self, other: &Self) -> Ordering {
        other.cost.total_cmp(&self.cost).then_with(|| other.cell.cmp(&self.cell))
    }
}
impl PartialOrd for Next {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl<'a> Ways<'a> {
    /// The ways of a house; none while nothing is drawn.
    ///
    /// # Complexity
    /// O(cells x rooms), 16 cells a square metre.
    #[must_use]
    pub fn new(plan: &'a Plan) -> Option<Self> {
        let all: Rect = plan.rooms.iter().map(PlanRoom::bounds).reduce(|a, b| a.around(&b))?;
        let (west, north) = (all.x - MARGIN, all.y - MARGIN);
        let columns = ((all.width + 2.0 * MARGIN) / CELL).ceil() as usize;
        let rows = ((all.depth + 2.0 * MARGIN) / CELL).ceil() as usize;
        let outdoors = plan.rooms.iter().find(|room| room.outdoors).map(|room| room.level);
        let lowest_over_ground = || plan.levels.iter().position(|level| level.z >= -0.5).unwrap_or(0);
        let mut grid = Self {
            plan,
            west,
            north,
            columns,
            rows,
            rooms: Vec::new(),
            along: Vec::new(),
            ground: outdoors.unwrap_or_else(lowest_over_ground),
        };
        for level in 0..plan.levels.len() {
            for cell in 0..columns * rows {
                let (x, y) = grid.middle(cell);
                grid.rooms.push(plan.room_index_at(level, x, y));
            }
        }
        grid.along = (0..grid.rooms.len()).map(|cell| grid.is_along(cell)).collect();
        Some(grid)
    }

    /// The shortest way of a cable between two places; none where the places are in no room, or nothing leads from one to the other.
    ///
    /// Corners are those of the grid, so that a length is true to about half a metre.
    ///
    /// # Complexity
    /// O(cells log cells), and the walls of a level at each border of a room.
    #[must_use]
    pub fn route(&self, from: &Position, to: &Position, asked: Asked) -> Option<Route> {
        let (start, end) = (self.cell_at(from)?, self.cell_at(to)?);
        let (mut best, mut came) = (vec![f64::INFINITY; self.rooms.len()], vec![None; self.rooms.len()]);
        let mut heap = BinaryHeap::from([Next { cost: 0.0, cell: start }]);
        best[start] = 0.0;
        while let Some(Next { cost, cell }) = heap.pop() {
            if cell == end {
                break;
            }
            if cost > best[cell] {
                continue;
            }
            for (next, length, step) in self.steps(cell, asked) {
                let seems = cost + self.seems(cell, next, length, step, asked);
                if seems < best[next] {
                    best[next] = seems;
                    came[next] = Some((cell, length, step));
                    heap.push(Next { cost: seems, cell: next });
                }
            }
        }
        best[end].is_finite().then(|| self.in_words(start, end, &came, (from, to)))
    }

    fn a_level(&self) -> usize {
        self.columns * self.rows
    }

    fn level(&self, cell: usize) -> usize {
        cell / self.a_level()
    }

    fn middle(&self, cell: usize) -> (f64, f64) {
        let own = cell % self.a_level();
        let (column, row) = (own % self.columns, own / self.columns);
        (self.west + (column as f64 + 0.5) * CELL, self.north + (row as f64 + 0.5) * CELL)
    }

    fn cell_at(&self, at: &Position) -> Option<usize> {
        let level = self.plan.level_index(at.level_id)?;
        let index = |value: f64, from: f64, count: usize| {
            let index = ((value - from) / CELL).floor();
            (index >= 0.0 && index < count as f64).then_some(index as usize)
        };
        let (column, row) =
            (index(at.x_m.get(), self.west, self.columns)?, index(at.y_m.get(), self.north, self.rows)?);
        let cell = level * self.a_level() + row * self.columns + column;
        // Where nothing is drawn there is ground, or nothing to lay a cable on.
        (self.rooms[cell].is_some() || level == self.ground).then_some(cell)
    }

    /// Whether an edge of its room, or of the house, is near.
    fn is_along(&self, cell: usize) -> bool {
        let (x, y) = self.middle(cell);
        let (level, own) = (self.level(cell), self.rooms[cell]);
        [(ALONG, 0.0), (-ALONG, 0.0), (0.0, ALONG), (0.0, -ALONG)]
            .iter()
            .any(|(dx, dy)| self.plan.room_index_at(level, x + dx, y + dy) != own)
    }

    fn is_outdoors(&self, cell: usize) -> bool {
        self.rooms[cell].is_none_or(|room| self.plan.rooms[room].outdoors)
    }

    fn steps(&self, cell: usize, asked: Asked) -> impl Iterator<Item = (usize, f64, Step)> + '_ {
        let own = cell % self.a_level();
        let (column, row) = (own % self.columns, own / self.columns);
        let beside = [
            (column + 1 < self.columns).then(|| cell + 1),
            (column > 0).then(|| cell - 1),
            (row + 1 < self.rows).then(|| cell + self.columns),
            (row > 0).then(|| cell - self.columns),
        ];
        let flat = beside.into_iter().flatten().filter_map(move |next| Some((next, CELL, self.across(cell, next)?)));
        let level = self.level(cell);
        let above = (level + 1 < self.plan.levels.len()).then(|| (cell + self.a_level(), level));
        let below = level.checked_sub(1).map(|below| (cell - self.a_level(), below));
        let upright = [above, below].into_iter().flatten().filter_map(move |(next, lower)| {
            let height = self.plan.levels[lower].height;
            Some((next, height, self.through_floor(cell.min(next), cell.max(next), asked)?))
        });
        flat.chain(upright)
    }

    /// The step from a cell to the next on its level; none where there is nothing to lay a cable on.
    fn across(&self, cell: usize, next: usize) -> Option<Step> {
        let level = self.level(cell);
        let (own, other) = (self.rooms[cell], self.rooms[next]);
        if other.is_none() && level != self.ground {
            return None;
        }
        if own == other {
            return Some(Step::Plain);
        }
        let (a, b) = (self.middle(cell), self.middle(next));
        let Some((index, wall, along)) = self.wall_between(level, a, b) else { return Some(Step::Plain) };
        let door = wall.openings.iter().find(|own| {
            own.kind == OpeningKind::Door && own.from <= along && along <= own.to && own.there.is_in(Guess::ByHall)
        });
        Some(match door {
            Some(door) => Step::Door { undrawn: door.assumed },
            None => Step::Wall(index),
        })
    }

    fn wall_between(&self, level: usize, a: (f64, f64), b: (f64, f64)) -> Option<(usize, &Wall, f64)> {
        self.plan.walls.iter().enumerate().filter(|(_, wall)| wall.level == level).find_map(|(index, wall)| {
            let (across, along) =
                if wall.north_south { ((a.0, b.0), (a.1 + b.1) / 2.0) } else { ((a.1, b.1), (a.0 + b.0) / 2.0) };
            let crosses = (across.0 - wall.at) * (across.1 - wall.at) <= 0.0 && (across.0 - across.1).abs() > 1e-9;
            (crosses && wall.from <= along && along <= wall.to).then_some((index, wall, along))
        })
    }

    /// The step from a cell to the one over it; none where one of them is in no room.
    fn through_floor(&self, lower: usize, upper: usize, asked: Asked) -> Option<Step> {
        let (Some(below), Some(above)) = (self.rooms[lower], self.rooms[upper]) else { return None };
        let rooms = &self.plan.rooms;
        if rooms[below].outdoors || rooms[above].outdoors {
            return None;
        }
        let (x, y) = self.middle(lower);
        let level = self.level(upper);
        let by_hand = |room: RoomId| rooms[below].id == room || rooms[above].id == room;
        match asked.riser {
            // By hand: through the floor of that room, and of no other.
            Some(room) if self.plan.room(room).is_some() => {
                (by_hand(room) && self.along[lower] && self.along[upper]).then_some(Step::Floor)
            }
            _ => {
                let floors = self.plan.floors.iter().filter(|floor| floor.above == level);
                let stairs = floors
                    .flat_map(|floor| &floor.holes)
                    .any(|hole| hole.there.is_in(Guess::ByHall) && hole.rect.contains(x, y));
                if stairs {
                    return Some(Step::Stairs);
                }
                (self.along[lower] && self.along[upper]).then_some(Step::Floor)
            }
        }
    }

    /// How long a step seems to somebody who chooses the way.
    fn seems(&self, cell: usize, next: usize, length: f64, step: Step, asked: Asked) -> f64 {
        let drilled = |worth: f64| if asked.may_drill { worth } else { FORBIDDEN + worth };
        let ground = |cell: usize| if self.is_outdoors(cell) { OUTDOORS } else { 1.0 };
        match step {
            Step::Wall(_) | Step::Floor if asked.on_foot => length + FORBIDDEN,
            Step::Plain if asked.on_foot => length,
            Step::Plain if self.along[cell] && self.along[next] => length * ground(next),
            Step::Plain => length * ACROSS.max(ground(next)),
            Step::Door { .. } => length,
            Step::Stairs => length * 1.2,
            Step::Wall(index) if self.plan.walls[index].envelope => length + drilled(OUTER_WALL_WORTH),
            Step::Wall(_) => length + drilled(WALL_WORTH),
            // One who asked for a riser has decided to drill there.
            Step::Floor => length + if asked.riser.is_some() { 0.0 } else { drilled(FLOOR_WORTH) },
        }
    }

    /// The way that was found, as it is told.
    fn in_words(
        &self,
        start: usize,
        end: usize,
        came: &[Option<(usize, f64, Step)>],
        (from, to): (&Position, &Position),
    ) -> Route {
        let mut cells = vec![(end, 0.0, Step::Plain)];
        while let Some((before, length, step)) =
            came[cells[cells.len() - 1].0].filter(|_| cells[cells.len() - 1].0 != start)
        {
            let last = cells.len() - 1;
            cells[last] = (cells[last].0, length, step);
            cells.push((before, 0.0, Step::Plain));
        }
        cells.reverse();
        let mut route = Route {
            stretches: Vec::new(),
            way_m: from.height_m + to.height_m,
            outdoors_m: Metres::default(),
            length_m: Metres::default(),
            holes: Vec::new(),
            by_undrawn_door: false,
        };
        for (index, (cell, length, step)) in cells.iter().enumerate() {
            let level_id = self.plan.levels[self.level(*cell)].id;
            let at = self.middle(*cell);
            match route.stretches.last_mut().filter(|own| own.level_id == level_id) {
                Some(own) => extend(&mut own.points, at),
                None => route.stretches.push(Stretch {
                    level_id,
                    points: vec![Corner { x_m: Metres::new(at.0), y_m: Metres::new(at.1) }],
                }),
            }
            route.way_m += Metres::new(*length);
            if self.is_outdoors(*cell) {
                route.outdoors_m += Metres::new(*length);
            }
            let before = cells[index.saturating_sub(1)].0;
            match step {
                Step::Door { undrawn } => route.by_undrawn_door |= undrawn,
                Step::Wall(wall) => route.holes.push(self.wall_hole(&self.plan.walls[*wall], before, *cell)),
                Step::Floor => route.holes.push(self.floor_hole(before.min(*cell), before.max(*cell))),
                Step::Plain | Step::Stairs => {}
            }
        }
        route.holes.extend([(start, from), (end, to)].into_iter().filter_map(|(cell, at)| self.ceiling_hole(cell, at)));
        route.length_m = Metres::new((route.way_m.get() * (1.0 + SLACK_PART) + 2.0 * SLACK_END).ceil());
        route
    }

    fn room_name(&self, cell: usize) -> &str {
        self.rooms[cell].map_or("outdoors", |room| self.plan.rooms[room].name.as_str())
    }

    fn wall_hole(&self, wall: &Wall, before: usize, after: usize) -> DrilledHole {
        let (a, b) = (self.middle(before), self.middle(after));
        let (x, y) = ((a.0 + b.0) / 2.0, (a.1 + b.1) / 2.0);
        DrilledHole {
            level_id: self.plan.levels[wall.level].id,
            x_m: Metres::new(if wall.north_south { wall.at } else { x }),
            y_m: Metres::new(if wall.north_south { y } else { wall.at }),
            what: format!(
                "wall between {} and {}, {}",
                self.room_name(before),
                self.room_name(after),
                wall.material.name
            ),
            outer: wall.envelope,
        }
    }

    /// What hangs from a ceiling gets its cable through it.
    fn ceiling_hole(&self, cell: usize, at: &Position) -> Option<DrilledHole> {
        let room = self.rooms[cell].map(|room| &self.plan.rooms[room]).filter(|room| !room.outdoors)?;
        let level = &self.plan.levels[room.level];
        let hangs = at.height_m.get() >= level.height - FROM_THE_CEILING;
        hangs.then(|| DrilledHole {
            level_id: level.id,
            x_m: at.x_m,
            y_m: at.y_m,
            what: format!("ceiling of {}", room.name),
            outer: false,
        })
    }

    fn floor_hole(&self, lower: usize, upper: usize) -> DrilledHole {
        let (x, y) = self.middle(lower);
        let level = self.level(upper);
        let floor = self.plan.floors.iter().find(|floor| floor.above == level);
        let material = floor.map_or("floor", |floor| floor.material.name.as_str());
        DrilledHole {
            level_id: self.plan.levels[self.level(lower)].id,
            x_m: Metres::new(x),
            y_m: Metres::new(y),
            what: format!("floor between {} and {}, {material}", self.room_name(lower), self.room_name(upper)),
            outer: false,
        }
    }
}

/// Adds a corner; one that only goes on straight takes the place of the last.
fn extend(points: &mut Vec<Corner>, (x, y): (f64, f64)) {
    let at = Corner { x_m: Metres::new(x), y_m: Metres::new(y) };
    if let [.., a, b] = points[..] {
        let straight = (b.x_m - a.x_m).get() * (at.y_m - b.y_m).get() - (b.y_m - a.y_m).get() * (at.x_m - b.x_m).get();
        if straight.abs() < 1e-9 {
            points.pop();
        }
    }
    points.push(at);
}
