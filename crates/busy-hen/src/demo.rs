//! The demo homes with readings of the simulated walker.

use busy_hen_catalogue::clients;
use busy_hen_home::{
    Doors, Home, HomeId, Outcome, Purpose, Round, RoundId, Run, RunId, SetupId, Situation, Source, TestKind, WatchId,
    WatchLog, local_day,
};
use busy_hen_predict::forecast::as_tested;
use busy_hen_predict::{Knowledge, Question};
use busy_hen_server::Examples;
use busy_hen_standins::long_watch::Days;
use busy_hen_standins::samples::test_over;
use busy_hen_standins::truth::{self, Met, Truth};
use busy_hen_store::{RoundRecord, Store, StoreError, Whole};
use busy_hen_survey::measuring::figures;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};

/// Seed of the canal terrace's hidden truth.
const SEED: u64 = 14;
/// What the stand-in phone met by chance: readings in which a hand-over that comes too late shows.
const CHANCE: &str = "a";
/// Runs at each spot.
const RUNS: u32 = 5;

/// The demo homes, as the server asks for them.
pub struct DemoHomes;

impl Examples for DemoHomes {
    fn homes(&self, now: Timestamp) -> Vec<(HomeId, Whole)> {
        homes(now)
    }
}

/// Puts the demo homes into a store that holds no home yet: all of them or none.
pub async fn fill(store: &Store) -> Result<(), StoreError> {
    let now = Timestamp::now();
    if !store.heads(local_day(now), "").await?.is_empty() {
        return Ok(());
    }
    store.create_all(&homes(now), now).await
}

/// The demo homes with the rounds that the stand-in phone walked in one of them.
fn homes(now: Timestamp) -> Vec<(HomeId, Whole)> {
    let home = busy_hen_demo::canal_terrace();
    let days_ago = |days: i64| now - SignedDuration::from_hours(24 * days);
    let later = SignedDuration::from_mins(40);
    let walks = [
        ("A", "phone_ax", TestKind::Local, usize::MAX, days_ago(9)),
        ("A", "phone_ax", TestKind::Internet, usize::MAX, days_ago(9) + later),
        ("B", "phone_ax", TestKind::Local, 7, days_ago(2)),
        ("B", "phone_ax", TestKind::Internet, usize::MAX, days_ago(2) + later),
        // Another test device: not like for like, and the comparison says so.
        ("C", "laptop_ax", TestKind::Internet, 9, days_ago(1)),
    ];
    let kept = Knowledge::default();
    let rounds = walks.into_iter().filter_map(|(letter, client, kind, spots, begun)| {
        let (round, runs) = walked(&home, SetupId::named(letter), client, kind, spots, begun);
        let tested = as_tested(&home, &round, (begun, local_day(begun)), &kept)?;
        Some((RoundRecord { round, tested }, runs))
    });
    let rounds = rounds.collect();
    let plain = |home| (HomeId::random(), Whole::new(home));
    vec![
        plain(busy_hen_demo::lock_house()),
        plain(busy_hen_demo::gasworks_flat()),
        (HomeId::random(), Whole { rounds, watches: vec![watched(now)], ..Whole::new(home) }),
    ]
}

/// The last seven days of a stand-in home, watched.
fn watched(now: Timestamp) -> WatchLog {
    let first = local_day(now - SignedDuration::from_hours(24 * 8));
    Days::new(SEED, first, 7, &TimeZone::system()).log(WatchId::random(), 30)
}

/// A round through the first `spots` spots, walked by the stand-in phone.
fn walked(
    home: &Home,
    setup: SetupId,
    client: &str,
    kind: TestKind,
    spots: usize,
    begun: Timestamp,
) -> (Round, Vec<Run>) {
    let round = Round {
        id: RoundId::random(),
        setup_id: setup,
        begun,
        client: client.into(),
        band: None,
        kind,
        doors: Doors::AsLeft,
        situation: Situation::Alone,
        runs_per_spot: RUNS,
        spots: home.house.spots.iter().map(|spot| spot.id).collect(),
        purpose: Purpose::Rooms,
        on_record: None,
        confirmed: Vec::new(),
        trial: None,
    };
    let day = local_day(begun);
    let mut runs = Vec::new();
    let (Some(client), Some(tested)) = (clients::find(&round.client), home.setup(setup)) else { return (round, runs) };
    let question = Question { client, band: None, situation: round.situation, doors: round.doors, reach: kind, day };
    let truth = Truth::new(home.clone(), SEED);
    // What is met hangs on setup and test, not on the identity that a round gets each time anew: the demo reads alike wherever it is opened.
    let chance = RoundId::named(&format!("{CHANCE} {} {kind:?}", setup.0)).0;
    let mut at = begun;
    for spot in round.spots.iter().take(spots) {
        for number in 0..RUNS {
            at += SignedDuration::from_secs(25);
            let which = truth::Run { spot: *spot, round: chance, number };
            let met = truth.meets(tested, &question, which);
            runs.extend(
                read(met, &truth, (&round, which), at)
                    .map(|run| Run { plan_id: home.brief.plan_of(round.kind, day).map(|plan| plan.id), ..run }),
            );
        }
    }
    (round, runs)
}

/// The run that is read from the samples of what was met; a spoiled one is none.
fn read(met: Option<Met>, truth: &Truth, (round, which): (&Round, truth::Run), at: Timestamp) -> Option<Run> {
    let run = |outcome| Run::new(RunId::random(), round.id, which.spot, at, Source::Walker, outcome);
    let Some(met) = met else { return Some(run(Outcome::NoConnection)) };
    let mut rng = truth.rng(&[which.spot.0.as_u128(), which.round.as_u128(), u128::from(which.number), 1]);
    let found = figures(&test_over(&met.link, &mut rng)).ok()?;
    Some(Run {
        serving: Some(met.serving),
        band: Some(met.band),
        signal_dbm: Some(met.signal_dbm),
        link_rate_mbps: Some(met.link_rate_mbps),
        trace_mbps: found.down.trace_mbps.clone(),
        ..run(found.outcome())
    })
}
