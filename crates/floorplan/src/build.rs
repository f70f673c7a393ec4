//! From a house as it was typed to its geometry.

use busy_hen_catalogue::{Material, materials};
use busy_hen_home::{BuildingPart, House, LengthUnit, RoomId, WallChoice};
use busy_hen_units::Metres;

use super::lines::fittings::FittedWall;
use super::lines::{Typed, draw, same_name};
use super::openings::{
    assumed_doors, assumed_stairs, assumed_windows, drawn_openings, drawn_stairs, said_openings, said_stairs,
};
use super::parts::{Floor, PlanLevel, PlanRoom, Upright};
use super::plan::Plan;
use super::surfaces::Surfaces;
use super::walls::walls;

/// What covers the highest rooms where nobody says: boards and tiles.
const ROOF: &str = "ceiling";

impl Plan {
    /// Builds the geometry of a house; rooms whose lines are wrong are left out and told in `faults`.
    ///
    /// A material that the catalogue does not hold is taken as the plainest wall; `check` refuses it before that.
    #[must_use]
    pub fn new(house: &House, unit: LengthUnit) -> Self {
        let drawn = Self::to_draw(house, unit);
        let surfaces = Surfaces::new(&drawn.levels, &drawn.rooms, &drawn.walls, &drawn.floors);
        Self { surfaces, ..drawn }
    }

    /// The same without the insides of rooms: enough to draw it, and quick enough for every key.
    #[must_use]
    pub fn to_draw(house: &House, unit: LengthUnit) -> Self {
        let typed = draw(&house.levels, unit);
        let mut z = 0.0;
        let mut levels = Vec::new();
        let mut floors = Vec::new();
        for (index, level) in house.levels.iter().enumerate() {
            if index > 0 {
                let material = material(&level.floor.0);
                let more = house.correction(BuildingPart::FloorUnder(level.id));
                floors.push(Floor { z, material, above: index, holes: Vec::new(), more });
            }
            let height = level.height_m.get();
            levels.push(PlanLevel { id: level.id, name: level.name.clone(), z, height });
            z += height;
        }
        let Typed { rooms: placed, fittings, faults, doubts } = typed;
        let rooms: Vec<PlanRoom> = placed
            .into_iter()
            .map(|placed| {
                let level = house.levels.iter().position(|level| level.id == placed.level_id).unwrap_or(0);
                let id = house
                    .rooms
                    .iter()
                    .find(|room| same_name(&room.name, &placed.name))
                    .map_or_else(|| RoomId::named(&placed.name.to_lowercase()), |room| room.id);
                let (rect, more) = (placed.rects[0], placed.rects[1..].to_vec());
                PlanRoom { id, name: placed.name, level, line: placed.line, rect, more, outdoors: placed.outdoors }
            })
            .collect();
        let said = |room: RoomId, part: Option<usize>, side, along: Option<f64>| {
            let here = |own: &&FittedWall| {
                let on_part = own.part.is_none() || part.is_none() || own.part == part;
                let on_it = own.along.zip(along).is_none_or(|((from, to), along)| from <= along && along <= to);
                rooms[own.room].id == room && own.side == side && on_part && on_it
            };
            // What is said of a piece goes before what is said of the side.
            let walls = || fittings.walls.iter().filter(here);
            let own = walls().find(|own| own.along.is_some()).or_else(|| walls().find(|own| own.part.is_some()));
            own.or_else(|| walls().next()).map(|own| (material(&own.material.0), own.thickness))
        };
        let listed = |room: RoomId, side| {
            house
                .walls
                .iter()
                .find(|WallChoice { room_id, side: own, .. }| *room_id == room && *own == side)
                .map(|choice| (material(&choice.material.0), choice.thickness_m.map(Metres::get)))
        };
        let mut walls = walls(
            &rooms,
            levels.len(),
            |room, part, side, along| said(room, Some(part), side, Some(along)).or_else(|| listed(room, side)),
            material(&house.inner_wall.0),
            material(&house.outer_wall.0),
        );
        for wall in &mut walls {
            wall.more = house.correction(BuildingPart::Wall(wall.key));
        }
        let glazing = material(&house.windows.0);
        said_openings(&mut walls, &rooms, &fittings.openings, glazing);
        drawn_openings(&mut walls, &rooms, &house.openings);
        assumed_doors(&mut walls, &rooms);
        let any_said =
            |room: &PlanRoom, side| said(room.id, None, side, None).is_some() || listed(room.id, side).is_some();
        assumed_windows(&mut walls, &rooms, any_said, glazing);
        said_stairs(&mut floors, &rooms, &fittings.stairs);
        drawn_stairs(&mut floors, &rooms, &house.stairwells);
        if house.around.stairs {
            assumed_stairs(&mut floors, &rooms);
        }
        let mut uprights: Vec<Upright> = house
            .obstacles
            .iter()
            .filter_map(|one| {
                let foot = levels.iter().find(|level| level.id == one.level_id)?.z;
                Some(Upright {
                    kind: one.kind,
                    from: (one.from_x_m.get(), one.from_y_m.get()),
                    to: (one.to_x_m.get(), one.to_y_m.get()),
                    foot,
                    top: foot + one.height_m.get(),
                    depth: one.depth_m,
                    source: None,
                })
            })
            .collect();
        uprights.extend(fittings.solids.iter().map(|own| {
            let level = &levels[rooms[own.room].level];
            Upright {
                kind: own.kind,
                from: own.ends.0,
                to: own.ends.1,
                foot: level.z,
                top: level.z + own.height.unwrap_or(level.height),
                depth: Metres::new(own.depth),
                source: Some(own.source),
            }
        }));
        let over = house.around.above.as_ref().map_or(ROOF, |above| above.0.as_str());
        Self {
            uprights,
            faults,
            doubts,
            sockets: fittings.sockets,
            underneath: house.around.below.as_ref().map(|below| material(&below.0)),
            levels,
            rooms,
            walls,
            floors,
            roof: material(over),
            surfaces: Surfaces::default(),
        }
    }
}

fn material(key: &str) -> &'static Material {
    materials::find(key).unwrap_or(&materials::all()[0])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Wall;
    use busy_hen_home::{Level, LevelId, Room, Side};

    fn house() -> House {
        let level = |name: &str, lines: &str| Level {
            id: LevelId::named(name),
            name: name.into(),
            height_m: Metres::new(2.5),
            floor: "timber_floor".into(),
            lines: lines.into(),
            tracing: None,
        };
        let room = |name: &str, level: &str| Room {
            id: RoomId::named(name),
            name: name.into(),
            level_id: LevelId::named(level),
        };
        House {
            levels: vec![
                level("ground", "Hall 2 x 4\nKitchen 4 x 3 east of Hall\nYard 4 x 6 south of Kitchen outdoors"),
                level("upper", "Landing 2 x 4 above Hall"),
            ],
            rooms: vec![
                room("Hall", "ground"),
                room("Kitchen", "ground"),
                room("Yard", "ground"),
                room("Landing", "upper"),
            ],
            outer_wall: "cavity".into(),
            inner_wall: "plasterboard".into(),
            walls: vec![WallChoice {
                room_id: RoomId::named("Kitchen"),
                side: Side::West,
                material: "brick105".into(),
                thickness_m: None,
            }],
            ..House::default()
        }
    }

    fn at(plan: &Plan, north_south: bool, fixed: f64, along: f64) -> Vec<&Wall> {
        plan.walls
            .iter()
            .filter(|w| w.level == 0 && w.north_south == north_south && (w.at - fixed).abs() < 1e-9)
            .filter(|w| w.from < along && along < w.to)
            .collect()
    }

    #[test]
    fn rooms_that_touch_share_one_wall_and_its_chosen_material() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        let shared = at(&plan, true, 2.0, 1.5);
        assert_eq!(shared.len(), 1);
        assert_eq!((shared[0].material.key.as_str(), shared[0].envelope), ("brick105", false));
    }

    #[test]
    fn a_side_towards_an_outdoor_area_is_an_outer_wall_and_areas_have_none_of_their_own() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        assert_eq!(at(&plan, false, 3.0, 4.0)[0].material.key, "cavity");
        assert!(at(&plan, false, 3.0, 4.0)[0].envelope);
        assert!(at(&plan, true, 6.0, 5.0).is_empty(), "the yard's own east edge");
        assert!(at(&plan, true, 2.0, 3.5)[0].envelope, "the hall's end beside the yard");
    }

    #[test]
    fn an_open_side_is_no_wall() {
        let mut house = house();
        house.walls[0].material = "open".into();
        assert!(at(&Plan::new(&house, LengthUnit::Metre), true, 2.0, 1.5).is_empty());
    }

    #[test]
    fn levels_stack_and_floors_lie_between() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        assert!((plan.levels[1].z - 2.5).abs() < 1e-12);
        assert_eq!(plan.floors.len(), 1);
        assert_eq!(plan.room_at(0, 4.0, 3.0).map(|r| r.name.as_str()), Some("Kitchen"), "indoors goes first");
        assert!((plan.in_hand(1, 1.0, 1.0).z - 3.7).abs() < 1e-12);
    }
}
