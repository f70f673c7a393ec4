//! What readings say a line gives under a plan: it may give less than is sold, never more.

use busy_hen_catalogue::{Catalogue, clients};
use busy_hen_home::{CarriedBy, Home, Outcome, Plan, Run, Situation, TestKind, local_day};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::path::ethernet::ethernet_goodput;
use busy_hen_predict::path::line::LineCap;
use busy_hen_predict::summary::Figures;
use busy_hen_units::MbitPerSec;

use crate::calibration::evidence::Taken;
use crate::measuring::TOLD_APART;

/// Fewer runs than this say nothing of a line.
const LEAST_RUNS: usize = 3;

/// What rounds say of the lines, for each plan, situation and way by the newest that says anything.
///
/// A run says something where it went by cable, or right after one within the home that was clearly faster, and where it is clearly below all
/// else on its way; a test by air beyond the line alone never does. What was typed as usual later than a round goes before it.
#[must_use]
pub fn line_caps(taken: &[Taken<'_>], home: &Home) -> Vec<LineCap> {
    let mut newest_first: Vec<&Taken<'_>> = taken.iter().collect();
    newest_first.sort_by_key(|own| std::cmp::Reverse(own.round.begun));
    let mut caps: Vec<LineCap> = Vec::new();
    for plan in home.brief.all_plans() {
        for situation in [Situation::Alone, Situation::BusyEvening] {
            for direction in [Direction::Down, Direction::Up] {
                let of = |own: &&Taken<'_>| typed_since(plan, own.home, direction).is_none();
                let stands = newest_first.iter().copied().take_while(of);
                caps.extend(stands.filter_map(|own| cap_of(own, plan, situation, direction)).next());
            }
        }
    }
    caps
}

/// What is typed as usual of a plan now and was not when a home was tested.
fn typed_since(plan: &Plan, tested: &Home, direction: Direction) -> Option<MbitPerSec> {
    let usual = |plan: &Plan| match direction {
        Direction::Down => plan.usual_down_mbps,
        Direction::Up => plan.usual_up_mbps,
    };
    let then = tested.brief.all_plans().find(|own| own.id == plan.id).and_then(usual);
    usual(plan).filter(|now| Some(*now) != then)
}

fn cap_of(own: &Taken<'_>, plan: &Plan, situation: Situation, direction: Direction) -> Option<LineCap> {
    let beyond = |run: &&Run| {
        let under = run.under(own.round);
        let reaches = under.kind.is_internet() && under.situation == situation && run.plan_id == Some(plan.id);
        reaches && run.counts() && !run.is_made_up() && run.together.is_none()
    };
    let (wired, by_air): (Vec<&Run>, Vec<&Run>) =
        own.runs.iter().filter(beyond).partition(|run| run.carried_by == CarriedBy::Cable);
    let wired: Vec<f64> = wired.into_iter().filter_map(|run| rate(run, direction)).collect();
    let past_the_home = by_air.into_iter().filter_map(|run| {
        let within = own.runs.iter().find(|other| is_leg_of(other, run, own))?;
        let (far, home) = (rate(run, direction)?, rate(within, direction)?);
        (far < TOLD_APART * home).then_some(far)
    });
    let past_the_home: Vec<f64> = past_the_home.collect();
    let median =
        |rates: Vec<f64>| Figures::of(rates.clone()).map(|own| own.median).filter(|_| rates.len() >= LEAST_RUNS);
    let by_cable = median(wired).filter(|gives| is_below_ports(own, *gives));
    let (gives, how) = match (by_cable, median(past_the_home)) {
        (Some(gives), _) => (gives, "by cable"),
        (None, Some(gives)) => (gives, "beside a faster local test"),
        (None, None) => return None,
    };
    let way = if direction == Direction::Down { "down" } else { "up" };
    let told = format!("{gives:.0} {way} measured {how} on {}", local_day(own.round.begun));
    Some(LineCap { plan_id: plan.id, situation, direction, gives: MbitPerSec::new(gives), told })
}

fn rate(run: &Run, direction: Direction) -> Option<f64> {
    match (&run.outcome, direction) {
        (Outcome::Measured { down_mbps, .. }, Direction::Down) => Some(down_mbps.get()),
        (Outcome::Measured { up_mbps, .. }, Direction::Up) => Some(up_mbps.get()),
        _ => None,
    }
}

/// Whether a run is the leg within the home of one beyond the line: both were taken by one press.
fn is_leg_of(own: &Run, beyond: &Run, taken: &Taken<'_>) -> bool {
    let alike = (own.at, own.spot_id, own.source) == (beyond.at, beyond.spot_id, beyond.source);
    alike && own.counts() && own.under(taken.round).kind == TestKind::Local
}

/// Ports that a test machine of which nothing is known may have, Mb/s.
const PORTS: [f64; 3] = [100.0, 1000.0, 2500.0];

/// Whether what came through by cable is clearly below the ports on its way: those of the router, and that of the device that tests; where
/// that isn't known, what just fills a port is taken to be held back by it.
fn is_below_ports(own: &Taken<'_>, gives: f64) -> bool {
    let Some(router) = own.home.setup(own.round.setup_id).and_then(|setup| setup.root()) else { return false };
    let Some(kit) = Catalogue::of(own.home).kit(&router.kit.0).cloned() else { return false };
    let clearly = |port: MbitPerSec| gives < TOLD_APART * ethernet_goodput(port).get();
    let tests_by = match clients::find(&own.round.client).and_then(|client| client.port_mbps) {
        Some(port) => clearly(port),
        None => {
            PORTS.map(MbitPerSec::new).into_iter().all(|port| clearly(port) || gives > ethernet_goodput(port).get())
        }
    };
    tests_by && clearly(kit.uplink_port_mbps) && clearly(kit.lan_port_mbps)
}
