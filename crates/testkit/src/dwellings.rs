//! Homes that people might live in, each from a number: rooms in rows behind one another, doors between them, one to three storeys, and
//! kit where an installer might put it. What studies are held in, so that nothing is tuned to the demo.

use std::collections::HashSet;

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, kit};
use busy_hen_floorplan::{HouseEdit, Plan, settle};
use busy_hen_home::{
    Device, DeviceId, Home, LengthUnit, Level, LevelId, MaterialKey, Mode, Position, RoomId, Setup, SetupId, SpotId,
    Uplink, Via,
};
use busy_hen_job::check::check;
use busy_hen_units::Metres;
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;

const INNER: [&str; 4] = ["plasterboard", "double_plasterboard", "block100", "brick105"];
const OUTER: [&str; 3] = ["cavity", "brick215", "stone400"];
const FLOORS: [&str; 2] = ["timber_floor", "concrete_floor"];

/// The dwelling that always belongs to this number: its setup A is a router alone, B adds a node or two.
///
/// # Panics
/// When the home breaks a rule: then this generator, or the rule, is wrong.
#[must_use]
pub fn dwelling(number: u64) -> Home {
    let mut rng = ChaCha8Rng::seed_from_u64(number.wrapping_mul(0x9e37_79b9) ^ 0x0d0e);
    let mut home = Home::new("Dwelling", "GB", LengthUnit::Metre);
    let one = |rng: &mut ChaCha8Rng, list: &[&str]| MaterialKey::from(*list.choose(rng).expect("a list of materials"));
    home.house.inner_wall = one(&mut rng, &INNER);
    home.house.outer_wall = one(&mut rng, &OUTER);
    let levels = rng.random_range(1..=3_usize);
    let columns = rng.random_range(2..=3_usize);
    let rows = if levels == 1 { 4 } else { rng.random_range(2..=3_usize) };
    let widths: Vec<f64> = (0..columns).map(|_| rng.random_range(2.4..4.6)).collect();
    let depths: Vec<f64> = (0..rows).map(|_| rng.random_range(2.6..4.8)).collect();
    for level in 0..levels {
        let mut lines = Vec::new();
        for (row, depth) in depths.iter().enumerate() {
            for (column, width) in widths.iter().enumerate() {
                let place = match (level, row, column) {
                    (0, 0, 0) => String::new(),
                    (_, 0, 0) => " above Room 000".to_owned(),
                    (_, _, 0) => format!(" south of Room {level}{}0", row - 1),
                    _ => format!(" east of Room {level}{row}{}", column - 1),
                };
                let mut line = format!("Room {level}{row}{column} {width:.1} x {depth:.1}{place}");
                // Each room opens to the one before it in its row, or in its column.
                if column > 0 {
                    line += &format!("; door to Room {level}{row}{}", column - 1);
                } else if row > 0 {
                    line += &format!("; door to Room {level}{}0", row - 1);
                }
                line += "; window west";
                lines.push(line);
            }
        }
        if level + 1 < levels {
            lines[0] += "; stairs up";
        }
        home.house.levels.push(Level {
            id: LevelId::named(&level.to_string()),
            name: format!("Level {level}"),
            height_m: Metres::new(2.6),
            floor: one(&mut rng, &FLOORS),
            lines: lines.join("\n"),
            tracing: None,
        });
    }
    let edit = HouseEdit::from(&home);
    settle(&mut home, edit, &HashSet::new(), RoomId::named, SpotId::named);
    let plan = Plan::new(&home.house, home.units);
    assert!(plan.faults.is_empty(), "dwelling {number}: {:?}", plan.faults);
    let mut rooms: Vec<usize> = (0..plan.rooms.len()).collect();
    rooms.shuffle(&mut rng);
    // The line enters on the ground.
    let ground = rooms.iter().position(|room| plan.rooms[*room].level == 0).expect("a room on the ground");
    rooms.swap(0, ground);
    let mut beside = |room: usize, name: &str, key: &str, mode: Mode| {
        let middle = plan.middle_of(&plan.rooms[room]);
        let at = Position {
            level_id: plan.levels[plan.rooms[room].level].id,
            x_m: Metres::new(middle.x + rng.random_range(-0.8..0.8)),
            y_m: Metres::new(middle.y + rng.random_range(-0.8..0.8)),
            height_m: Metres::new(1.0),
        };
        let kit = kit::find(key).expect("kit of the catalogue");
        Device {
            radios: kit.radio_settings(region::find("GB").expect("a region")),
            ..Device::bare(DeviceId::named(name), name, key, mode, at)
        }
    };
    let router = beside(rooms[0], "Router", "node_ax_tri", Mode::Router);
    let mut devices = vec![router.clone()];
    for (index, room) in rooms[1..].iter().take(1 + plan.rooms.len() / 10).enumerate() {
        let mut node = beside(*room, &format!("Node {index}"), "node_ax_tri", Mode::MeshNode);
        node.uplink = Some(Uplink::new(router.id, Via::BestRadio));
        devices.push(node);
    }
    home.setups.push(Setup::new(SetupId::named("A"), "A", "router alone", vec![router]));
    home.setups.push(Setup::new(SetupId::named("B"), "B", "router and nodes", devices));
    if let Err(faults) = check(&home) {
        panic!("dwelling {number}: {:?}", faults.list());
    }
    home
}
