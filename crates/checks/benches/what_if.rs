//! What a search for places costs: losses of one device over many places made ready, then what-ifs of a whole setup from them.
#![allow(missing_docs)]

use std::hint::black_box;

use busy_hen_catalogue::clients;
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{Aerial, Doors, Enclosure, Home, Setup, SetupId, Situation, TestKind, Via};
use busy_hen_predict::losses::Site;
use busy_hen_predict::ready::Ready;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::PropagationModel;
use busy_hen_units::{Megahertz, Metres};
use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use jiff::civil::date;

/// The terrace with four devices in a setup: router, two nodes on radio and an access point on cable.
fn home() -> Home {
    let mut home = busy_hen_demo::canal_terrace();
    let mut devices = home.setups[2].devices.clone();
    let mut more = home.setups[1].devices[1].clone();
    more.name = "Fourth".into();
    more.at.x_m = Metres::new(2.0);
    if let Some(uplink) = &mut more.uplink {
        uplink.to = devices[0].id;
        uplink.via = Via::BestRadio;
    }
    devices.push(more);
    devices.truncate(4);
    home.setups.push(Setup::new(SetupId::named("four"), "D", "four devices", devices));
    home
}

fn question(situation: Situation) -> Question {
    Question {
        client: clients::find("phone_ax").expect("in the catalogue"),
        band: None,
        situation,
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    }
}

/// So many places spread over the levels of the house.
fn sites(plan: &Plan, count: usize) -> Vec<Site> {
    (0..count)
        .filter_map(|index| {
            let level = index % plan.levels.len();
            let bounds = plan.bounds(level)?;
            let part = (index as f64 + 0.5) / count as f64;
            let (x, y) = (bounds.x + bounds.width * (part * 7.3).fract(), bounds.y + bounds.depth * part);
            let at = Point { x, y, z: plan.levels[level].z + 1.0 };
            Some(Site { at, aerial: Aerial::BuiltIn, enclosure: Enclosure::Open })
        })
        .collect()
}

fn what_if(criterion: &mut Criterion) {
    let home = home();
    let plan = Plan::new(&home.house, home.units);
    let setup = home.setups.last().expect("just added");
    println!("{} rooms, {} devices", plan.rooms.len(), setup.devices.len());
    let bands = [2437.0, 5250.0, 6185.0].map(Megahertz::new);

    let mut group = criterion.benchmark_group("losses of a device over places x rooms x 3 bands, and between places");
    for places in [10, 20, 40, 80] {
        let sites = sites(&plan, places);
        group.bench_function(BenchmarkId::from_parameter(format!("{places} places")), |bencher| {
            bencher.iter(|| {
                let waves = PropagationModel::new(&plan, Doors::AsLeft);
                black_box(Ready::over_sites(&waves, &sites, bands.to_vec()))
            });
        });
    }
    group.finish();

    let mut group = criterion.benchmark_group("a setup of four devices, all rooms");
    for situation in [Situation::Alone, Situation::BusyEvening] {
        let asked = question(situation);
        let kept = Knowledge::default();
        let ready = Ready::new(setup, &plan, &asked, &kept);
        group.bench_function(
            BenchmarkId::new("middle figures from ready losses", format!("{situation:?}")),
            |bencher| {
                bencher.iter(|| black_box(ready.middles(&home, setup, &plan, &asked, &kept.tables)));
            },
        );
        group.bench_function(
            BenchmarkId::new("with likely ranges, from the house", format!("{situation:?}")),
            |bencher| {
                bencher.iter(|| {
                    let model = Model::new(&home, setup, &plan, asked, &kept);
                    black_box(
                        plan.rooms.iter().map(|room| model.at(plan.middle_of(room), Some(room.id))).collect::<Vec<_>>(),
                    )
                });
            },
        );
    }
    group.finish();
}

criterion_group!(benches, what_if);
criterion_main!(benches);
