//! Re-lighting the map while a device is dragged: the demo home at the bench's grid and finer.
#![allow(missing_docs)]

use std::hint::black_box;
use std::sync::Arc;

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, clients, kit};
use busy_hen_floorplan::Plan;
use busy_hen_home::{Band, DeviceId, Doors, Home, Mode, Position, Run, Situation, TestKind};
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_survey::calibration::calibrate;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::{Dbm, Metres};
use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use jiff::civil::date;

fn question() -> Question {
    Question {
        client: clients::find("phone_ax").expect("in the catalogue"),
        band: None,
        situation: Situation::BusyEvening,
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    }
}

/// What the server does for one step of a drag: geometry, network, ledger, and one level lit.
fn step_of_a_drag(home: &Home, setup: usize, level: usize, cell: f64, tables: &Knowledge) -> usize {
    let plan = tables.plan(home);
    let model = Model::new(home, &home.setups[setup], &plan, question(), tables);
    model.coverage(level, Metres::new(cell)).bands.len() + model.ledger(&Measured::default()).len() + model.hops().len()
}

/// The demo home with ten more mesh nodes in setup B, one a room.
fn twelve(mut home: Home) -> Home {
    let plan = Plan::new(&home.house, home.units);
    let kit = kit::find("node_ax_tri").expect("in the catalogue");
    let root = home.setups[1].devices[0].id;
    for (index, room) in plan.rooms.iter().take(10).enumerate() {
        let middle = plan.middle_of(room);
        let mut node = home.setups[1].devices[1].clone();
        node.id = DeviceId::named(&index.to_string());
        node.name = index.to_string();
        node.kit = kit.key.as_str().into();
        node.at = Position {
            level_id: home.house.levels[room.level].id,
            x_m: Metres::new(middle.x),
            y_m: Metres::new(middle.y),
            height_m: Metres::new(1.0),
        };
        node.radios = kit.radio_settings(region::find("GB").expect("in the table"));
        node.uplink = Some(kit.usual_uplink(Mode::MeshNode, root));
        home.setups[1].devices.push(node);
    }
    home
}

fn relight(criterion: &mut Criterion) {
    let home = busy_hen_demo::canal_terrace();
    let tables = Knowledge::default();
    let mut group = criterion.benchmark_group("drag step, setup C, ground level with garden");
    for cell in [0.5, 0.25, 0.1] {
        group.bench_function(BenchmarkId::from_parameter(format!("{cell} m")), |bencher| {
            bencher.iter(|| black_box(step_of_a_drag(&home, 2, 0, cell, &tables)));
        });
    }
    group.finish();
    let mut group = criterion.benchmark_group("drag step by setup, 0.25 m");
    for (setup, letter) in ["A: 1 device", "B: 2 devices", "C: 3 devices"].iter().enumerate() {
        group.bench_function(BenchmarkId::from_parameter(letter), |bencher| {
            bencher.iter(|| black_box(step_of_a_drag(&home, setup, 0, 0.25, &tables)));
        });
    }
    group.finish();
    // Eleven stand and one moves, in a home that was learnt of: what stands is not worked out again.
    let home = twelve(home);
    let setup = &home.setups[1];
    let spots = home.house.spots.iter().enumerate();
    let own = round("B", setup.id, Vec::new());
    let runs: Vec<Run> = spots
        .map(|(place, spot)| Run {
            signal_dbm: Some(Dbm::new(-50.0 - 2.0 * place as f64)),
            band: Some(Band::Ghz5),
            ..run(&own, spot.id, 80.0)
        })
        .collect();
    let taught = tables.having(calibrate(&[Taken { round: &own, home: &home, runs: &runs }], &tables).map(Arc::new));
    let mut moving = home.clone();
    let mut step = 0.0;
    criterion.bench_function("drag step, 12 devices, learnt of, 0.25 m", |bencher| {
        bencher.iter(|| {
            step += 0.001;
            moving.setups[1].devices[1].at.x_m = Metres::new(1.5 + step % 2.0);
            black_box(step_of_a_drag(&moving, 1, 0, 0.25, &taught))
        });
    });
    criterion.bench_function("first step of all, tables not yet worked out", |bencher| {
        bencher.iter(|| black_box(step_of_a_drag(&home, 2, 0, 0.25, &Knowledge::default())));
    });
}

criterion_group!(benches, relight);
criterion_main!(benches);
