//! Median and spread of the runs at a spot.

use busy_hen_home::{CarriedBy, Outcome, Run, SetupId, Situation, SpotId};
use busy_hen_predict::needs::{Need, Verdict, verdict};
use busy_hen_predict::summary::{Summary, outliers, summarise};
use busy_hen_units::{MbitPerSec, Millis};

fn run(down: Option<f64>) -> Run {
    let spot = SpotId::named("s");
    let round = busy_hen_testkit::runs::round("r", SetupId::named("A"), vec![spot]);
    match down {
        Some(down) => busy_hen_testkit::runs::run(&round, spot, down),
        None => Run { outcome: Outcome::NoConnection, ..busy_hen_testkit::runs::run(&round, spot, 0.0) },
    }
}

fn summary(downs: &[f64]) -> Summary {
    summarise(&downs.iter().map(|down| run(Some(*down))).collect::<Vec<_>>()).unwrap()
}

fn judged(downs: &[f64]) -> Verdict {
    let need = Need { down_mbps: MbitPerSec::new(30.0), up_mbps: MbitPerSec::new(1.0), latency_ms: Millis::new(100.0) };
    verdict::measured(&need, &summary(downs), Situation::Alone)
}

#[test]
fn under_ten_runs_the_low_run_is_the_lowest_and_from_ten_the_quantile() {
    assert!((summary(&[50.0, 40.0, 10.0]).down_mbps.low - 10.0).abs() < 1e-9);
    let ten: Vec<f64> = (1..=10).map(f64::from).collect();
    assert!((summary(&ten).down_mbps.low - 1.9).abs() < 1e-9);
}

#[test]
fn a_run_far_off_the_others_is_told_and_still_counts() {
    let runs: Vec<Run> = [50.0, 52.0, 49.0, 51.0, 12.0].iter().map(|down| run(Some(*down))).collect();
    assert_eq!(outliers(&runs), [runs[4].id]);
    assert_eq!(summarise(&runs).unwrap().runs, 5);
    assert_eq!(outliers(&runs[1..]), [], "too few to say");
}

#[test]
fn a_need_is_met_just_met_or_not() {
    assert_eq!(judged(&[40.0, 45.0, 31.0]), Verdict::Met);
    assert_eq!(judged(&[40.0, 45.0, 12.0]), Verdict::JustMet, "one bad run");
    assert_eq!(judged(&[20.0, 45.0, 12.0]), Verdict::NotMet);
}

#[test]
fn void_runs_and_runs_over_mobile_data_do_not_count_but_lost_connections_do() {
    let void = Run { void: Some("a call came in".into()), ..run(Some(500.0)) };
    let mobile = Run { carried_by: CarriedBy::MobileData, ..run(Some(500.0)) };
    let runs = [run(Some(30.0)), void, mobile, run(None), run(None)];
    let summary = summarise(&runs).unwrap();
    assert_eq!((summary.runs, summary.without_connection), (3, 2));
    assert!(summary.down_mbps.median.abs() < 1e-12);
    assert!((summary.idle_ms.unwrap().median - 12.0).abs() < 1e-12);
    assert!(summarise(&runs[1..3]).is_none());
}
