//! Re-lighting the map while a device is dragged: the demo home at the bench's grid and finer.
#![allow(missing_docs)]

use std::hint::black_box;

use busy_hen_engine::catalogue::clients;
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::predict::ledger::Measured;
use busy_hen_engine::predict::{Kept, Model, Question};
use busy_hen_home::{Doors, Home, Situation, TestKind};
use busy_hen_units::Metres;
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
fn step_of_a_drag(home: &Home, setup: usize, level: usize, cell: f64, tables: &Kept) -> usize {
    let plan = Plan::new(&home.house, home.units);
    let model = Model::new(home, &home.setups[setup], &plan, question(), tables);
    model.light(level, Metres::new(cell)).bands.len() + model.ledger(&Measured::default()).len() + model.hops().len()
}

fn relight(criterion: &mut Criterion) {
    let home = busy_hen_demo::canal_terrace();
    let tables = Kept::default();
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
    criterion.bench_function("first step of all, tables not yet worked out", |bencher| {
        bencher.iter(|| black_box(step_of_a_drag(&home, 2, 0, 0.25, &Kept::default())));
    });
}

criterion_group!(benches, relight);
criterion_main!(benches);
