//! How the cost of a map grows with cells, radios and walls, and what a device that moves costs: a home of three levels and 200 m2
//! with 60 walls and six radios.
#![allow(missing_docs)]

use std::collections::HashSet;

use std::hint::black_box;

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, clients, kit};
use busy_hen_floorplan::{HouseEdit, Plan, settle};
use busy_hen_home::{
    Device, DeviceId, Doors, Home, LengthUnit, Level, LevelId, Mode, Position, RoomId, Setup, SetupId, Side, Situation,
    SpotId, TestKind, WallChoice,
};
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::Metres;
use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use jiff::civil::date;

const LEVELS: [&str; 3] = ["ground", "first", "second"];

/// Three levels of 8 x 8.4 m, each of `columns` x 3 rooms: 3 x 3 rooms make some 20 wall pieces a level.
fn home(columns: usize, devices: usize) -> Home {
    let mut home = Home::new("Bench", "GB", LengthUnit::Metre);
    let width = 8.0 / columns as f64;
    home.house.levels = LEVELS
        .iter()
        .map(|level| {
            let room = |column: usize, row: usize| format!("{level} {column}{row}");
            let mut lines = Vec::new();
            for row in 0..3 {
                for column in 0..columns {
                    let size = format!("{width:.3} x 2.8");
                    let place = match (column, row) {
                        (0, 0) => String::new(),
                        (0, row) => format!(" south of {}", room(0, row - 1)),
                        (column, row) => format!(" east of {}", room(column - 1, row)),
                    };
                    lines.push(format!("{} {size}{place}", room(column, row)));
                }
            }
            Level {
                id: LevelId::named(level),
                name: (*level).into(),
                height_m: Metres::new(2.6),
                floor: "timber_floor".into(),
                lines: lines.join("\n"),
                tracing: None,
            }
        })
        .collect();
    // Every other wall of another material, so that walls in line do not join into one.
    home.house.walls = LEVELS
        .iter()
        .flat_map(|level| (0..columns).flat_map(move |c| (0..3).map(move |r| (*level, c, r))))
        .filter(|(_, column, row)| (column + row) % 2 == 0)
        .flat_map(|(level, column, row)| {
            let room_id = RoomId::named(&format!("{level} {column}{row}"));
            [Side::East, Side::South].map(|side| WallChoice {
                room_id,
                side,
                material: "brick105".into(),
                thickness_m: None,
            })
        })
        .collect();
    let edit = HouseEdit::from(&home);
    settle(&mut home, edit, &HashSet::new(), RoomId::named, SpotId::named);
    let devices = (0..devices)
        .map(|index| {
            let id = DeviceId::named(&index.to_string());
            let kit = kit::find("router_be").expect("in the catalogue");
            let mode = if index == 0 { Mode::Router } else { Mode::AccessPoint };
            Device {
                radios: kit.radio_settings(region::find("GB").expect("in the table")),
                uplink: (index > 0).then(|| kit.usual_uplink(mode, DeviceId::named("0"))),
                ..Device::bare(
                    id,
                    index.to_string(),
                    kit.key.as_str(),
                    mode,
                    Position {
                        level_id: LevelId::named(LEVELS[index % 3]),
                        x_m: Metres::new(1.0 + 2.5 * index as f64),
                        y_m: Metres::new(2.0 + index as f64),
                        height_m: Metres::new(1.0),
                    },
                )
            }
        })
        .collect();
    home.setups = vec![Setup::new(SetupId::named("A"), "A", "bench", devices)];
    home
}

fn question() -> Question {
    Question {
        client: clients::find("laptop_be").expect("in the catalogue"),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach: TestKind::Local,
        day: date(2026, 11, 1),
    }
}

/// The map of all three levels.
fn whole_map(home: &Home, plan: &Plan, cell: f64, kept: &Knowledge) -> usize {
    let model = Model::new(home, &home.setups[0], plan, question(), kept);
    (0..3).map(|level| model.coverage(level, Metres::new(cell)).bands.len()).sum()
}

/// Link tables worked out, signals not: as when the house has just been changed.
fn tables_only(home: &Home, plan: &Plan) -> Knowledge {
    let kept = Knowledge::default();
    drop(Model::new(home, &home.setups[0], plan, question(), &kept));
    kept
}

fn fresh(criterion: &mut Criterion, group: &str, cases: &[(String, Home, f64)]) {
    let mut group = criterion.benchmark_group(group);
    group.sample_size(20);
    for (name, home, cell) in cases {
        let plan = Plan::new(&home.house, home.units);
        group.bench_function(BenchmarkId::from_parameter(name), |bencher| {
            bencher.iter_batched(
                || tables_only(home, &plan),
                |kept| black_box(whole_map(home, &plan, *cell, &kept)),
                criterion::BatchSize::PerIteration,
            );
        });
    }
    group.finish();
}

fn map(criterion: &mut Criterion) {
    let walls = |home: &Home| Plan::new(&home.house, home.units).walls.len();
    let cells = [0.5, 0.25, 0.1].map(|cell| (format!("{cell} m"), home(3, 2), cell));
    println!("{} walls, 6 radios", walls(&home(3, 2)));
    fresh(criterion, "three levels, 200 m2, six radios, by cell", &cells);
    let radios = [1, 2, 4].map(|devices| (format!("{} radios", 3 * devices), home(3, devices), 0.25));
    fresh(criterion, "by radios, 0.25 m", &radios);
    let by_walls = [2, 3, 6].map(|columns| {
        let home = home(columns, 2);
        (format!("{} walls", walls(&home)), home, 0.25)
    });
    fresh(criterion, "by walls, 0.25 m", &by_walls);

    let mut group = criterion.benchmark_group("one of four devices moves, 0.1 m");
    group.sample_size(20);
    let mut home = home(3, 4);
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    whole_map(&home, &plan, 0.1, &kept);
    group.bench_function("nothing moved", |bencher| bencher.iter(|| black_box(whole_map(&home, &plan, 0.1, &kept))));
    group.bench_function("one moved", |bencher| {
        let mut step = 0.0;
        bencher.iter(|| {
            step += 0.001;
            home.setups[0].devices[1].at.x_m = Metres::new(2.0 + step % 3.0);
            black_box(whole_map(&home, &plan, 0.1, &kept))
        });
    });
    group.finish();
}

criterion_group!(benches, map);
criterion_main!(benches);
