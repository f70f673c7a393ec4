//! Opening a home with 12 rooms, 4 setups and 5,000 runs over the HTTP interface: with readings read before, and anew.
#![allow(missing_docs)]

use std::hint::black_box;

use actix_web::web::Data;
use actix_web::{App, test};
use busy_hen_demo::canal_terrace;
use busy_hen_home::{HomeId, RoundId, Setup, SetupId};
use busy_hen_server::{AppState, configure, extractors};
use busy_hen_store::Store;
use busy_hen_testkit::runs;
use busy_hen_units::MbitPerSec;
use criterion::{Criterion, criterion_group, criterion_main};
use utoipa_actix_web::AppExt;

const RUNS: usize = 5000;
const ROUNDS: usize = 20;

async fn filled(folder: &std::path::Path) -> (Store, HomeId) {
    let store = Store::open(&folder.join("bench.db")).await.expect("a database");
    let id = HomeId::named("bench");
    let mut home = canal_terrace();
    let devices = home.setups[2].devices.clone();
    home.setups.push(Setup::new(SetupId::named("D"), "D", "fourth", devices));
    store.create(id, &home, jiff::Timestamp::UNIX_EPOCH).await.expect("a home");
    let spots: Vec<_> = home.house.spots.iter().map(|spot| spot.id).collect();
    for number in 0..ROUNDS {
        let mut round = runs::round("bench", home.setups[number % 4].id, spots.clone());
        round.id = RoundId::named(&number.to_string());
        store.create_round(id, &round).await.expect("a round");
        let taken: Vec<_> = (0..RUNS / ROUNDS)
            .map(|index| {
                let mut run = runs::run(&round, spots[index % spots.len()], 50.0 + index as f64);
                run.trace_mbps = vec![MbitPerSec::new(50.0); 24];
                run
            })
            .collect();
        store.add_runs(round.id, &taken).await.expect("runs");
    }
    (store, id)
}

fn open_home(criterion: &mut Criterion) {
    let system = actix_web::rt::System::new();
    let folder = tempfile::tempdir().expect("a folder");
    let (store, id) = system.block_on(filled(folder.path()));
    let state = Data::new(AppState::new(store, None));
    let (app, _) = App::new()
        .into_utoipa_app()
        .app_data(state.clone())
        .map(|app| app.configure(extractors))
        .configure(configure)
        .split_for_parts();
    let service = system.block_on(test::init_service(app));
    let open = || async {
        let request = test::TestRequest::get().uri(&format!("/api/homes/{id}")).to_request();
        let body = test::call_and_read_body(&service, request).await;
        assert!(body.len() > 1000);
        black_box(body.len())
    };
    let mut group = criterion.benchmark_group("open a home of 12 rooms, 4 setups, 5000 runs");
    group.sample_size(30);
    group.bench_function("readings read before", |bencher| bencher.iter(|| system.block_on(open())));
    group.bench_function("readings read anew", |bencher| {
        bencher.iter(|| {
            system.block_on(async {
                state.forget_readings(id).await;
                open().await
            })
        });
    });
    group.finish();
}

criterion_group!(benches, open_home);
criterion_main!(benches);
