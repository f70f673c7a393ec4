//! The insides of rooms, piece by piece: what each piece is, what lies beyond it, and how much of the view it fills.

use super::cell::Cell;
use super::exchange::{self, Shares};
use super::parts::{Floor, PlanLevel, PlanRoom, There, Wall};
use super::shapes::{Point, Rect};
use super::surface::{Axis, SAME, Surface, SurfaceMaterial};
use super::visible_part;
pub use super::visible_part::VisiblePart;
use super::waveguide::Box;

/// A room longer than this many times its width is cut into pieces: its light is not alike all along.
const LONGEST_TO_WIDTH: f64 = 1.25;
/// Pieces are not made shorter than this, m.
const SHORTEST_PIECE: f64 = 1.8;
/// Pieces of surface narrower than this are left out, m.
const SLIVER: f64 = 0.01;
/// Parts of power smaller than this are left out between buildings.
const FAINTEST: f64 = 1e-6;
/// Openings that fill less of the view than this are not looked through: what passes them is taken to be mixed.
const LEAST_OPENING: f64 = 2e-4;
/// Longest piece of wall, m: what lights one end of it does not light the other.
const LONGEST_PIECE_OF_WALL: f64 = 2.0;
/// All surfaces of a house.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Surfaces {
    /// Rooms, long ones in parts.
    pub cells: Vec<Cell>,
    /// Their surfaces, cell by cell.
    pub list: Vec<Surface>,
    /// Those that face outdoors sideways, by index.
    pub outer: Vec<usize>,
    /// For each surface, the surfaces of other buildings that face it outdoors, with the part of what leaves it that reaches each.
    facing: Vec<Vec<(usize, f64)>>,
    /// What can be seen of a room through an opening from the other side, opening by opening.
    pub glimpses: Vec<VisiblePart>,
    /// For each surface, its glimpses, from the first to just past the last; none for what is no opening between rooms.
    glimpses_of: Vec<(usize, usize)>,
    /// For each surface, the pieces of its own room that it exchanges power with, and of the room beyond, each with its share.
    exchanges: Vec<(Shares, Shares)>,
    /// Height of each level's floor, and of the highest ceiling.
    heights: Vec<f64>,
}

/// What a place sees of the surfaces around it: index and part of the view.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct View {
    /// The cell it lies in; none outdoors.
    pub cell: Option<usize>,
    /// Surfaces in sight, with the part of the view that each fills.
    pub parts: Vec<(usize, f64)>,
    /// What is seen through openings to other rooms: index of the glimpse, and the part of the view that it fills.
    pub through: Vec<(usize, f64)>,
}

impl Surfaces {
    /// Finds the surfaces of all indoor rooms.
    #[must_use]
    pub fn new(levels: &[PlanLevel], rooms: &[PlanRoom], walls: &[Wall], floors: &[Floor]) -> Self {
        let mut heights: Vec<f64> = levels.iter().map(|level| level.z).collect();
        heights.push(levels.last().map_or(0.0, |level| level.z + level.height));
        let mut cells: Vec<Cell> = Vec::new();
        let mut together: Vec<std::ops::Range<usize>> = Vec::new();
        for room in rooms.iter().filter(|room| !room.outdoors) {
            // Each part of a room of several is a room to light, open to the others.
            for part in room.rects() {
                let first = cells.len();
                let pieces = pieces(part).into_iter();
                let inside = Box::new(part, heights[room.level], heights[room.level + 1]);
                cells.extend(pieces.map(|rect| Cell { level: room.level, rect, area: 0.0, room: (0, 0), inside }));
                together.push(first..cells.len());
            }
        }
        let mut list = Vec::new();
        for room in together {
            let from = list.len();
            for index in room.clone() {
                let first = list.len();
                sides(index, &cells, walls, &heights, &mut list);
                floor_and_ceiling(index, &cells, floors, &heights, &mut list);
                cells[index].area = list[first..].iter().map(Surface::area).sum();
            }
            cells[room].iter_mut().for_each(|cell| cell.room = (from, list.len()));
        }
        let outer: Vec<usize> =
            (0..list.len()).filter(|i| list[*i].beyond.is_none() && list[*i].axis != Axis::Z).collect();
        let facing = facing(&list, &outer);
        let exchanges = exchange::all(&cells, &list);
        let (glimpses, glimpses_of) = visible_part::all(&cells, &list);
        Self { cells, list, outer, facing, glimpses, glimpses_of, exchanges, heights }
    }

    /// The pieces of its own room that a surface sees, with their shares.
    #[must_use]
    pub fn before(&self, index: usize) -> &[(usize, f64)] {
        &self.exchanges[index].0
    }

    /// The pieces of the room beyond that a surface sees, with their shares; none where it is outdoors.
    #[must_use]
    pub fn behind(&self, index: usize) -> &[(usize, f64)] {
        &self.exchanges[index].1
    }

    /// Surfaces of other buildings, or of another wing, that face a surface outdoors: index, and the part of what leaves the
    /// surface sideways that reaches it.
    pub fn facing(&self, index: usize) -> impl Iterator<Item = (usize, f64)> + '_ {
        self.facing[index].iter().copied()
    }

    /// The field that falls on a surface, when there is so much in each cell.
    #[must_use]
    pub fn field_before(&self, index: usize, field: &[f64]) -> f64 {
        self.before(index).iter().map(|(cell, share)| share * field[*cell]).sum()
    }

    /// The field that a surface sees behind it, when there is so much in each cell.
    #[must_use]
    pub fn field_behind(&self, index: usize, field: &[f64]) -> f64 {
        self.behind(index).iter().map(|(cell, share)| share * field[*cell]).sum()
    }

    /// Whether the room beyond a surface is seen through it in this view.
    #[must_use]
    pub fn looks_through(&self, view: &View, index: usize) -> bool {
        let (first, past) = self.glimpses_of[index];
        view.through.iter().any(|(own, _)| (first..past).contains(own))
    }

    /// The cell that holds a place; none outdoors.
    #[must_use]
    pub fn cell_at(&self, place: &Point) -> Option<usize> {
        self.cells.iter().position(|cell| {
            self.heights[cell.level] <= place.z
                && place.z < self.heights[cell.level + 1]
                && cell.rect.contains(place.x, place.y)
        })
    }

    /// By how much more arrives from one place to another than in the open: what the sides of a long room guide where both are in it, or
    /// what floor and ceiling guide where both are in one storey.
    #[must_use]
    pub fn waveguide_gain(&self, a: (&Point, Option<usize>), b: (&Point, Option<usize>)) -> f64 {
        match (a.1.map(|cell| &self.cells[cell]), b.1.map(|cell| &self.cells[cell])) {
            (Some(own), Some(other)) if own.room == other.room && own.inside.is_waveguide() => {
                own.inside.waveguide_gain(a.0, b.0)
            }
            (Some(own), Some(other)) if own.level == other.level => own.inside.storey_waveguide_gain(a.0, b.0),
            _ => 1.0,
        }
    }

    /// What arrives from one place to another by grazing the walls of a long room that one of them is in, through an opening to the
    /// other's room: wall and opening by index, and the part of what would arrive in the open.
    pub fn beams(
        &self,
        a: (&Point, Option<usize>),
        b: (&Point, Option<usize>),
    ) -> impl Iterator<Item = (usize, usize, f64)> + '_ {
        let (a, b) = ((*a.0, a.1), (*b.0, b.1));
        [(a, b), (b, a)].into_iter().flat_map(move |((near, own), (far, other))| {
            let long = own.map(|cell| &self.cells[cell]).filter(|cell| cell.inside.is_waveguide());
            let other =
                other.map(|cell| self.cells[cell].room).filter(|room| long.is_some_and(|own| own.room != *room));
            let range = if other.is_some() { long.map_or((0, 0), |own| own.room) } else { (0, 0) };
            (range.0..range.1).filter_map(move |index| {
                let surface = &self.list[index];
                let SurfaceMaterial::Opening(wall, opening) = surface.stuff else { return None };
                surface.beyond.filter(|beyond| Some(self.cells[*beyond].room) == other)?;
                let part = long?.inside.through(surface, &near, &far);
                (part > 0.0).then_some((wall, opening, part))
            })
        })
    }

    /// What a place sees: its room's surfaces, or outdoors the outsides of the house that face it.
    #[must_use]
    pub fn view(&self, place: &Point) -> View {
        let mut view = View::default();
        self.set_view(place, &mut view);
        view
    }

    /// The same in the memory of an earlier view, for maps of many cells.
    pub fn set_view(&self, place: &Point, view: &mut View) {
        view.parts.clear();
        view.through.clear();
        view.cell = self.cell_at(place);
        match view.cell {
            Some(cell) => {
                // A room has no corners to look round: from anywhere in it one sees all of it, also where it is in pieces.
                let (first, past) = self.cells[cell].room;
                let goes_on = |surface: &Surface| {
                    surface.stuff == SurfaceMaterial::Open
                        && surface.beyond.is_some_and(|beyond| self.cells[beyond].room == (first, past))
                };
                view.parts.reserve(past - first);
                view.parts.extend(
                    (first..past).filter(|i| !goes_on(&self.list[*i])).map(|i| (i, self.list[i].part_of_view(place))),
                );
                for (index, part) in view.parts.iter().filter(|(_, part)| *part > LEAST_OPENING) {
                    let (first, past) = self.glimpses_of[*index];
                    if first < past {
                        view.through.reserve(past - first);
                        let glimpses = &self.glimpses[first..past];
                        visible_part::through(&self.list[*index], place, *part, glimpses, first, &mut view.through);
                    }
                }
            }
            None => view.parts.extend(
                self.outer
                    .iter()
                    .filter(|i| self.list[**i].outward(place) > 0.0)
                    .map(|i| (*i, self.list[*i].part_of_view(place))),
            ),
        }
    }
}

/// Which outer surfaces face each other, and how much of what leaves one reaches the other: `cos cos A / (pi r^2)`, bounded near by
/// their own size, so that the form factors of the two, times their areas, are equal.
fn facing(list: &[Surface], outer: &[usize]) -> Vec<Vec<(usize, f64)>> {
    let mut table = vec![Vec::new(); list.len()];
    for i in outer {
        for j in outer {
            let (a, b) = (list[*i].middle(), list[*j].middle());
            let (off, back) = (list[*i].outward(&b), list[*j].outward(&a));
            if off <= SLIVER || back <= SLIVER {
                continue;
            }
            let r = a.distance(&b).get();
            let near = (list[*i].area() + list[*j].area()) / 2.0;
            let form = (off / r) * (back / r) * list[*j].area() / (std::f64::consts::PI * r * r + near);
            if form * list[*i].area() / list[*j].area().max(SLIVER) > FAINTEST && form > FAINTEST {
                table[*i].push((*j, form));
            }
        }
    }
    table
}

/// A room in pieces that are not much longer than wide.
fn pieces(rect: &Rect) -> Vec<Rect> {
    let count = |length: f64, width: f64| {
        ((length / (LONGEST_TO_WIDTH * width).max(SHORTEST_PIECE)).round() as usize).clamp(1, 40)
    };
    let (columns, rows) = (count(rect.width, rect.depth), count(rect.depth, rect.width));
    let (width, depth) = (rect.width / columns as f64, rect.depth / rows as f64);
    (0..rows)
        .flat_map(|row| (0..columns).map(move |column| (column, row)))
        .map(|(column, row)| Rect { x: rect.x + column as f64 * width, y: rect.y + row as f64 * depth, width, depth })
        .collect()
}

/// Sorted places to cut at, ends included, slivers left out.
fn spans(mut cuts: Vec<f64>, from: f64, to: f64) -> Vec<(f64, f64)> {
    cuts.retain(|cut| *cut > from + SAME && *cut < to - SAME);
    cuts.extend([from, to]);
    cuts.sort_by(f64::total_cmp);
    cuts.windows(2).map(|pair| (pair[0], pair[1])).filter(|(a, b)| b - a > SLIVER).collect()
}

/// The four upright sides of a cell.
fn sides(index: usize, cells: &[Cell], walls: &[Wall], heights: &[f64], list: &mut Vec<Surface>) {
    let cell = cells[index];
    let (z0, z1) = (heights[cell.level], heights[cell.level + 1]);
    let rect = cell.rect;
    let faces = [
        (true, rect.x, (rect.y, rect.south()), false),
        (true, rect.east(), (rect.y, rect.south()), true),
        (false, rect.y, (rect.x, rect.east()), false),
        (false, rect.south(), (rect.x, rect.east()), true),
    ];
    for (north_south, at, (from, to), cell_below) in faces {
        let on_line: Vec<usize> = (0..walls.len())
            .filter(|w| {
                let wall = &walls[*w];
                wall.level == cell.level && wall.north_south == north_south && (wall.at - at).abs() < 1e-3
            })
            .collect();
        let mut cuts: Vec<f64> = Vec::new();
        for wall in on_line.iter().map(|w| &walls[*w]) {
            cuts.extend([wall.from, wall.to]);
            cuts.extend(wall.openings.iter().flat_map(|opening| [opening.from, opening.to]));
        }
        for other in cells.iter().filter(|other| other.level == cell.level) {
            let r = &other.rect;
            cuts.extend(if north_south { [r.y, r.south()] } else { [r.x, r.east()] });
        }
        let pieces = spans(cuts, from, to).into_iter().flat_map(|(from, to)| {
            let count = ((to - from) / LONGEST_PIECE_OF_WALL).ceil();
            let at = move |step: usize| from + (to - from) * step as f64 / count;
            (0..count as usize).map(move |step| (at(step), at(step + 1)))
        });
        for u in pieces {
            let middle = (u.0 + u.1) / 2.0;
            let step = if cell_below { 0.02 } else { -0.02 };
            let (x, y) = if north_south { (at + step, middle) } else { (middle, at + step) };
            let beyond = cells.iter().position(|other| other.level == cell.level && other.rect.contains(x, y));
            let axis = if north_south { Axis::X } else { Axis::Y };
            let mut put = |v: (f64, f64), stuff| {
                if v.1 - v.0 > SLIVER {
                    list.push(Surface { cell: index, beyond, stuff, axis, at, cell_below, u, v });
                }
            };
            let wall = on_line.iter().find(|w| walls[**w].from <= middle && middle <= walls[**w].to);
            let Some(w) = wall.copied() else {
                put((z0, z1), SurfaceMaterial::Open);
                continue;
            };
            let opening = walls[w].openings.iter().position(|o| o.from <= middle && middle <= o.to);
            match opening {
                None => put((z0, z1), SurfaceMaterial::Wall(w)),
                Some(o) => {
                    let (low, high) =
                        ((z0 + walls[w].openings[o].low).min(z1), (z0 + walls[w].openings[o].high).min(z1));
                    put((z0, low), SurfaceMaterial::Wall(w));
                    put((low, high), SurfaceMaterial::Opening(w, o));
                    put((high, z1), SurfaceMaterial::Wall(w));
                }
            }
        }
    }
}

/// Floor and ceiling of a cell.
fn floor_and_ceiling(index: usize, cells: &[Cell], floors: &[Floor], heights: &[f64], list: &mut Vec<Surface>) {
    let cell = cells[index];
    let rect = cell.rect;
    for (at, cell_below) in [(heights[cell.level], false), (heights[cell.level + 1], true)] {
        let next = if cell_below { Some(cell.level + 1) } else { cell.level.checked_sub(1) };
        let above = if cell_below { cell.level + 1 } else { cell.level };
        let floor = floors.iter().position(|floor| floor.above == above);
        let (mut xs, mut ys) = (Vec::new(), Vec::new());
        let mut cut = |r: &Rect| {
            xs.extend([r.x, r.east()]);
            ys.extend([r.y, r.south()]);
        };
        cells.iter().filter(|other| Some(other.level) == next).for_each(|other| cut(&other.rect));
        floor.iter().flat_map(|floor| &floors[*floor].holes).for_each(|hole| cut(&hole.rect));
        for u in spans(xs, rect.x, rect.east()) {
            for v in spans(ys.clone(), rect.y, rect.south()) {
                let (x, y) = ((u.0 + u.1) / 2.0, (v.0 + v.1) / 2.0);
                let beyond = cells.iter().position(|other| Some(other.level) == next && other.rect.contains(x, y));
                let holes = floor.into_iter().flat_map(|floor| floors[floor].holes.iter().enumerate());
                let mut there =
                    holes.filter(|(_, hole)| hole.rect.contains(x, y)).map(|(index, hole)| (index, hole.there));
                let stuff = match (beyond, floor) {
                    (Some(_), Some(floor)) => match (there.next(), there.next()) {
                        (None, _) => SurfaceMaterial::Floor(floor),
                        (Some((hole, There::In(_))), None) => SurfaceMaterial::Hole(floor, hole),
                        _ => SurfaceMaterial::Open,
                    },
                    (Some(_), None) => SurfaceMaterial::Open,
                    (None, _) if cell_below => SurfaceMaterial::Roof,
                    (None, _) => SurfaceMaterial::Ground,
                };
                list.push(Surface { cell: index, beyond, stuff, axis: Axis::Z, at, cell_below, u, v });
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_long_room_is_cut_and_its_pieces_are_open_to_each_other() {
        let rect = Rect::new(0.0, 0.0, 12.0, 1.3);
        let parts = pieces(&rect);
        assert_eq!(parts.len(), 7);
        assert!((parts[6].east() - 12.0).abs() < 1e-9);
        assert_eq!(pieces(&Rect::new(0.0, 0.0, 4.0, 3.8)).len(), 1);
    }
}
