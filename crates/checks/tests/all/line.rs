//! What readings say of the line: by cable or past a faster home, three runs or more, newest first, and never by air alone.

use std::sync::Arc;

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{CarriedBy, Doors, Home, Round, Run, RunId, SetupId, Situation, Source, SpotId, TestKind, Under};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::calibration::line::line_caps;
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::MbitPerSec;
use jiff::ToSpan;
use jiff::civil::date;

struct Tried {
    home: Home,
    rounds: Vec<(Round, Vec<Run>)>,
}

impl Tried {
    /// The terrace with a plan that is sold as 500 down.
    fn new() -> Self {
        let mut home = busy_hen_demo::canal_terrace();
        home.brief.plans.truncate(1);
        home.brief.plans[0].down_mbps = MbitPerSec::new(500.0);
        home.brief.plans[0].usual_down_mbps = None;
        for setup in &mut home.setups {
            setup.devices[0].kit = "router_ax".into();
        }
        Self { home, rounds: Vec::new() }
    }

    fn spot(&self) -> SpotId {
        self.home.house.spots[0].id
    }

    /// A round of internet tests an hour after the last, each of these changed as is said.
    fn takes(&mut self, downs: &[f64], change: impl Fn(&Round, Run) -> Vec<Run>) -> &mut Round {
        let hours = i64::try_from(self.rounds.len()).unwrap();
        let mut own = round(&format!("r{hours}"), SetupId::named("A"), vec![self.spot()]);
        own.client = "laptop_ax".into();
        own.begun += hours.hours();
        let plan_id = Some(self.home.brief.plans[0].id);
        let of = |(number, down): (usize, &f64)| {
            let id = RunId::named(&format!("{hours} {number}"));
            change(&own, Run { id, plan_id, at: own.begun, ..run(&own, self.spot(), *down) })
        };
        let runs = downs.iter().enumerate().flat_map(of).collect();
        self.rounds.push((own, runs));
        &mut self.rounds.last_mut().unwrap().0
    }

    fn kept(&self) -> Knowledge {
        let taken: Vec<Taken<'_>> =
            self.rounds.iter().map(|(round, runs)| Taken { round, home: &self.home, runs }).collect();
        Knowledge::default().with_line(&Arc::from(line_caps(&taken, &self.home)))
    }

    /// What the plan lets through in a prediction, and how the chain tells it.
    fn plan(&self, situation: Situation) -> (MbitPerSec, String) {
        let (plan, kept) = (Plan::new(&self.home.house, self.home.units), self.kept());
        let question = Question {
            client: clients::find("phone_ax").unwrap(),
            band: None,
            situation,
            doors: Doors::AsLeft,
            reach: TestKind::Internet,
            day: date(2026, 11, 1),
        };
        let model = Model::new(&self.home, &self.home.setups[0], &plan, question, &kept);
        let room = &plan.rooms[0];
        let chain = model.chain(plan.middle_of(room), Some(room.id)).unwrap();
        (model.network().plan_cap(Direction::Down).unwrap(), chain.links[0].detail.clone())
    }
}

fn wired(_: &Round, run: Run) -> Vec<Run> {
    vec![Run { carried_by: CarriedBy::Cable, ..run }]
}

fn by_air(_: &Round, run: Run) -> Vec<Run> {
    vec![run]
}

/// Right after a test within the home that read so much.
fn past(within: f64) -> impl Fn(&Round, Run) -> Vec<Run> {
    move |round, far| {
        let local = Under { kind: TestKind::Local, ..round.under() };
        let home = run(round, far.spot_id, within);
        vec![Run { id: RunId::named(&format!("{} home", far.id.0)), at: far.at, under: Some(local), ..home }, far]
    }
}

#[test]
fn three_runs_by_cable_lower_what_the_line_gives_and_are_named() {
    let mut tried = Tried::new();
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0));
    tried.takes(&[230.0, 232.0], wired);
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0), "two runs say nothing");
    tried.takes(&[230.0, 232.0, 228.0], wired);
    let (gives, told) = tried.plan(Situation::Alone);
    assert_eq!(gives, MbitPerSec::new(230.0));
    assert!(told.contains("230 down measured by cable on 2026-"), "{told}");
    assert!(
        tried.plan(Situation::BusyEvening).0 <= MbitPerSec::new(230.0),
        "a line that gives little alone gives no more when busy"
    );
    tried.takes(&[320.0, 322.0, 318.0], wired);
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(320.0), "the newest round rules");
    tried.takes(&[520.0, 521.0, 519.0], wired);
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0), "it only lowers");
}

#[test]
fn a_test_by_air_counts_only_past_a_home_that_is_clearly_faster() {
    let mut tried = Tried::new();
    tried.takes(&[230.0; 3], by_air);
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0), "by air alone it may be the air");
    tried.takes(&[230.0; 3], past(240.0));
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0), "the home gives as little");
    tried.takes(&[230.0; 3], past(700.0));
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(230.0));
}

#[test]
fn what_a_port_or_a_made_up_walk_holds_back_is_not_the_line() {
    let mut tried = Tried::new();
    for setup in &mut tried.home.setups {
        setup.devices[0].kit = "repeater_ac".into();
    }
    tried.takes(&[93.0; 3], wired);
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0), "a port of 100 Mb/s held it back");
    let mut tried = Tried::new();
    tried.takes(&[230.0; 3], |round, run| wired(round, Run { source: Source::Walker, ..run }));
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0), "a stand-in measures nothing");
}

#[test]
fn what_is_typed_as_usual_later_goes_before_a_round_and_a_busy_one_says_nothing_of_the_quiet() {
    let mut tried = Tried::new();
    tried.takes(&[230.0; 3], wired).situation = Situation::BusyEvening;
    assert_eq!(tried.plan(Situation::Alone).0, MbitPerSec::new(500.0));
    assert!(tried.plan(Situation::BusyEvening).0 < MbitPerSec::new(500.0));
    let mut tried = Tried::new();
    tried.takes(&[230.0; 3], wired);
    let taken_in = tried.home.clone();
    tried.home.brief.plans[0].usual_down_mbps = Some(MbitPerSec::new(400.0));
    let taken: Vec<Taken<'_>> =
        tried.rounds.iter().map(|(round, runs)| Taken { round, home: &taken_in, runs }).collect();
    let down = line_caps(&taken, &tried.home).into_iter().find(|own| own.direction == Direction::Down);
    assert_eq!(down, None, "somebody knows better by now");
}
