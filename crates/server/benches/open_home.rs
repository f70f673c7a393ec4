//! Opening a home with 12 rooms, 4 setups and 5,000 runs over the HTTP interface, with readings read before and anew; and with 2,000 homes
//! of 12 rooms, the list of them and opening one.
#![allow(missing_docs)]

use std::hint::black_box;

use actix_web::test;
use actix_web::web::Data;
use busy_hen_demo::canal_terrace;
use busy_hen_home::{HomeId, RoundId, Setup, SetupId};
use busy_hen_server::{AppState, Names, application};
use busy_hen_store::{RoundRecord, Store, Whole};
use busy_hen_testkit::runs::{BEGUN, round, run, tested};
use busy_hen_units::MbitPerSec;
use criterion::{Criterion, criterion_group, criterion_main};

const RUNS: usize = 5000;
const ROUNDS: usize = 20;
const HOMES: usize = 2000;

async fn filled(folder: &std::path::Path) -> (Store, HomeId) {
    let store = Store::open(&folder.join("bench.db")).await.expect("a database");
    let id = HomeId::named("bench");
    let mut home = canal_terrace();
    let devices = home.setups[2].devices.clone();
    home.setups.push(Setup::new(SetupId::named("D"), "D", "fourth", devices));
    let spots: Vec<_> = home.house.spots.iter().map(|spot| spot.id).collect();
    let rounds = (0..ROUNDS).map(|number| {
        let mut round = round("bench", home.setups[number % 4].id, spots.clone());
        round.id = RoundId::named(&number.to_string());
        let taken = (0..RUNS / ROUNDS).map(|index| {
            let mut run = run(&round, spots[index % spots.len()], 50.0 + index as f64);
            run.trace_mbps = vec![MbitPerSec::new(50.0); 24];
            run
        });
        let taken = taken.collect();
        (RoundRecord { tested: tested(&home, &round), round }, taken)
    });
    let rounds = rounds.collect();
    store.import(id, &Whole { rounds, ..Whole::new(home.clone()) }, BEGUN).await.expect("a home");
    (store, id)
}

fn open_home(criterion: &mut Criterion) {
    let system = actix_web::rt::System::new();
    let folder = tempfile::tempdir().expect("a folder");
    let (store, id) = system.block_on(filled(folder.path()));
    let fresh = || Data::new(AppState::new(store.clone(), None, Names::default()));
    let read = async |state: &Data<AppState>, path: &str| {
        let service = test::init_service(application(state.clone())).await;
        let request = test::TestRequest::get().uri(path).insert_header(("host", "localhost")).to_request();
        let body = test::call_and_read_body(&service, request).await;
        assert!(body.len() > 1000);
        black_box(body.len())
    };
    let path = format!("/api/homes/{id}");
    let state = fresh();
    let mut group = criterion.benchmark_group("open a home of 12 rooms, 4 setups, 5000 runs");
    group.sample_size(30);
    group.bench_function("readings read before", |bencher| bencher.iter(|| system.block_on(read(&state, &path))));
    group.bench_function("readings read anew", |bencher| {
        bencher.iter_batched(fresh, |state| system.block_on(read(&state, &path)), criterion::BatchSize::PerIteration);
    });
    group.finish();

    let home = canal_terrace();
    let ids: Vec<HomeId> = (0..HOMES).map(|number| HomeId::named(&format!("home {number}"))).collect();
    system.block_on(async {
        for some in ids.chunks(100) {
            let homes: Vec<_> = some.iter().map(|id| (*id, Whole::new(home.clone()))).collect();
            store.create_all(&homes, BEGUN).await.expect("homes");
        }
        read(&state, "/api/homes").await;
    });
    let mut group = criterion.benchmark_group("2000 homes of 12 rooms");
    group.sample_size(30);
    group.bench_function("the list", |bencher| bencher.iter(|| system.block_on(read(&state, "/api/homes"))));
    let mut next = ids.iter().cycle();
    group.bench_function("opening one after another", |bencher| {
        bencher.iter(|| {
            let path = format!("/api/homes/{}", next.next().expect("a cycle has no end"));
            system.block_on(read(&state, &path))
        });
    });
    group.finish();
}

criterion_group!(benches, open_home);
criterion_main!(benches);
