//! What learning and comparing cost: 12 rooms with 300 readings calibrated, six setups at 20 spots with ten runs each compared.
#![allow(missing_docs)]

use std::hint::black_box;

use busy_hen_home::{Band, Round, Run, SetupId, SpotId, TestKind};
use busy_hen_predict::Knowledge;
use busy_hen_predict::conditions::groups;
use busy_hen_survey::calibration::calibrate;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::compare::{Column, Measure, ShownBy, Sides, compare};
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::Dbm;
use criterion::{Criterion, criterion_group, criterion_main};

fn calibrating(criterion: &mut Criterion) {
    let home = busy_hen_demo::canal_terrace();
    let mut rounds: Vec<(Round, Vec<Run>)> = Vec::new();
    for (number, setup) in ["A", "B", "C", "B", "C"].into_iter().enumerate() {
        let own = round(&format!("{setup} {number}"), SetupId::named(setup), Vec::new());
        let runs = home.house.spots.iter().take(12).enumerate().flat_map(|(place, spot)| {
            let own = &own;
            (0..5).map(move |nth| Run {
                signal_dbm: Some(Dbm::new(-50.0 - 2.0 * place as f64 - f64::from(nth))),
                band: Some(Band::Ghz5),
                ..run(own, spot.id, 80.0)
            })
        });
        let runs = runs.collect();
        rounds.push((own, runs));
    }
    let count: usize = rounds.iter().map(|(_, runs)| runs.len()).sum();
    let kept = Knowledge::default();
    criterion.bench_function(&format!("calibrate, {count} readings"), |bencher| {
        bencher.iter(|| {
            let taken: Vec<Taken<'_>> = rounds.iter().map(|(round, runs)| Taken { round, home: &home, runs }).collect();
            black_box(calibrate(&taken, &kept).map(|own| own.runs().len()))
        });
    });
}

fn compared(criterion: &mut Criterion) {
    let spots: Vec<SpotId> = (0..20).map(|spot| SpotId::named(&spot.to_string())).collect();
    let rounds: Vec<(Round, Vec<Run>)> = (0..6)
        .map(|setup| {
            let own = round("r", SetupId::named(&setup.to_string()), spots.clone());
            let one = |(place, spot): (usize, &SpotId)| {
                let middle = 40.0 + 3.0 * place as f64 + 5.0 * f64::from(setup);
                (0..10).map(|nth| run(&own, *spot, middle * (1.0 + 0.01 * f64::from(nth * 7 % 10)))).collect::<Vec<_>>()
            };
            let runs = spots.iter().enumerate().flat_map(one).collect();
            (own, runs)
        })
        .collect();
    let columns: Vec<Column<'_>> = rounds
        .iter()
        .map(|(round, runs)| Column { group: groups([(round, runs.as_slice())]).pop(), ..Column::default() })
        .collect();
    let sides = Sides {
        reference: 0,
        measure: Measure::Down,
        shown: ShownBy::Median,
        kind: TestKind::Internet,
        share_of: None,
    };
    criterion.bench_function("compare, 6 setups, 20 spots, 10 runs", |bencher| {
        bencher.iter(|| black_box(compare(&spots, &columns, &sides).rows.len()));
    });
}

criterion_group!(benches, calibrating, compared);
criterion_main!(benches);
