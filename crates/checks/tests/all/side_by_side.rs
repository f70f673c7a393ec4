//! Setups of a whole home side by side: which readings stand for which, and what follows for the choice.

use busy_hen_catalogue::clients;
use busy_hen_demo::canal_terrace;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    CarriedBy, Doors, Home, Purpose, Round, RoundId, Run, RunId, SetupId, Situation, Source, SpotId, TestKind, Under,
};
use busy_hen_job::side_by_side::{Asked, SideBySide, side_by_side};
use busy_hen_predict::conditions::Conditions;
use busy_hen_predict::{Knowledge, Question};
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::compare::{Measure, ShownBy};
use busy_hen_survey::readings::ratio::Call;
use busy_hen_survey::readings::verdict::Weights;
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::MbitPerSec;
use jiff::civil::date;
use jiff::{Span, ToSpan};

/// A home, its rounds with their runs, and how it is asked about.
struct Bench {
    home: Home,
    rounds: Vec<(Round, Vec<Run>)>,
    columns: Vec<(&'static str, Option<RoundId>)>,
    kind: TestKind,
    share_of_plan: bool,
}

impl Bench {
    fn new(letters: &[&'static str]) -> Self {
        let columns = letters.iter().map(|letter| (*letter, None)).collect();
        Self { home: canal_terrace(), rounds: Vec::new(), columns, kind: TestKind::Internet, share_of_plan: false }
    }

    fn spots(&self) -> Vec<SpotId> {
        self.home.house.spots.iter().map(|own| own.id).collect()
    }

    /// Runs at every spot that bring this, a percent apart, as a visit of its own.
    fn read(&mut self, name: &str, letter: &str, down: f64, later: Span) -> &mut (Round, Vec<Run>) {
        let spots = self.spots();
        let mut round = round(name, SetupId::named(letter), spots.clone());
        round.kind = self.kind;
        round.begun += later;
        let runs = spots.iter().flat_map(|spot| (0..6).map(|n| (*spot, down * (1.0 + 0.01 * f64::from(n)))));
        let runs = runs.map(|(spot, down)| Run { at: round.begun, ..run(&round, spot, down) }).collect();
        self.rounds.push((round, runs));
        self.rounds.last_mut().unwrap()
    }

    fn answer(&self) -> SideBySide {
        let kept = Knowledge::default();
        let plan = Plan::new(&self.home.house, self.home.units);
        let taken: Vec<Taken<'_>> =
            self.rounds.iter().map(|(round, runs)| Taken { round, home: &self.home, runs }).collect();
        let find = |id: &RoundId| self.rounds.iter().map(|own| &own.0).find(|own| own.id == *id).unwrap();
        let asked = Asked {
            columns: self
                .columns
                .iter()
                .map(|(letter, id)| (self.home.setup(SetupId::named(letter)).unwrap(), id.as_ref().map(find)))
                .collect(),
            reference: 0,
            question: Question {
                client: clients::find("phone_ax").unwrap(),
                band: None,
                situation: Situation::Alone,
                doors: Doors::AsLeft,
                reach: self.kind,
                day: date(2026, 10, 2),
            },
            conditions: Conditions {
                made_up: false,
                under: Under {
                    kind: self.kind,
                    client: "phone_ax".into(),
                    band: None,
                    doors: Doors::AsLeft,
                    situation: Situation::Alone,
                    tool: None,
                },
            },
            measure: Measure::Down,
            shown: ShownBy::Median,
            share_of_plan: self.share_of_plan,
            weights: Weights::default(),
        };
        side_by_side(&self.home, &plan, &taken, &asked, &kept)
    }
}

#[test]
fn without_readings_there_are_predictions_and_no_verdict_that_rests_on_measurement() {
    let told = Bench::new(&["A", "C"]).answer();
    assert_eq!(told.rows.len(), canal_terrace().house.spots.len());
    assert!(told.rows.iter().flat_map(|row| &row.cells).all(|own| own.verdict.is_none() && own.cell.values.is_empty()));
    assert!(told.rows.iter().flat_map(|row| &row.cells).all(|own| own.predicted[0] <= own.predicted[2]));
    let [a, c] = [&told.columns[0].score, &told.columns[1].score];
    assert!(c.predicted_met > a.predicted_met, "three devices and a cable to the pottery serve more rooms");
    assert_eq!((a.measured, c.measured), (0, 0));
    assert_eq!(told.choice.keep, Some(SetupId::named("C")));
    assert!(!told.choice.measured);
    // Where the need is met least by the reference comes first.
    assert_eq!(told.rows[0].name, "Pottery");
}

#[test]
fn alike_readings_decide_and_a_room_is_as_good_as_its_worst_spot() {
    let mut bench = Bench::new(&["A", "B"]);
    bench.read("a", "A", 200.0, 0.hours());
    bench.read("b", "B", 300.0, 1.hours());
    let told = bench.answer();
    let whole = told.columns[1].whole.as_ref().unwrap();
    assert_eq!(whole.better, Some(true));
    assert!((whole.ratio.ratio - 1.5).abs() < 0.02, "{whole:?}");
    assert!(told.columns[0].whole.is_none(), "the reference stands against nothing");
    assert!(told.choice.measured);
    let score = &told.columns[0].score;
    assert_eq!((score.measured, score.measured_met), (score.rooms_with_need, score.rooms_with_need));
    // One bad spot, and its room is not met.
    let spot = bench.home.house.spots.iter().find(|own| own.room_id == told.rows[0].room_id).unwrap().id;
    let (round, runs) = &mut bench.rounds[0];
    for own in runs.iter_mut().filter(|own| own.spot_id == spot) {
        *own = run(round, spot, 0.3);
    }
    assert_eq!(bench.answer().columns[0].score.measured_met, score.rooms_with_need - 1);
}

#[test]
fn what_the_product_made_up_meets_nobodys_need_and_is_set_against_no_measurement() {
    let mut bench = Bench::new(&["A", "B"]);
    bench.read("a", "A", 60.0, 0.hours());
    let (_, runs) = bench.read("b", "B", 300.0, 1.hours());
    runs.iter_mut().for_each(|own| own.source = Source::Walker);
    let told = bench.answer();
    assert!(told.columns[1].made_up && !told.columns[0].made_up);
    assert_eq!(told.columns[1].score.measured, 0);
    assert!(told.columns[1].whole.is_none());
    assert!(told.rows.iter().all(|row| row.cells[1].cell.against.is_none()));
}

#[test]
fn a_round_alone_shows_its_own_runs_and_is_no_setup_to_choose() {
    let mut bench = Bench::new(&["A"]);
    bench.read("first", "A", 60.0, 0.hours());
    bench.read("second", "A", 90.0, 48.hours());
    let all = bench.answer();
    assert_eq!(all.rows[0].cells[0].cell.values.len(), 12, "a setup is all that is alike");
    bench.columns = vec![("A", Some(RoundId::named("first"))), ("A", Some(RoundId::named("second")))];
    let told = bench.answer();
    let shown = |column: usize| told.rows[0].cells[column].cell.figures.unwrap().median;
    assert!((60.0..63.0).contains(&shown(0)) && (90.0..95.0).contains(&shown(1)));
    assert_eq!(told.choice.keep, None);
    assert!(told.columns.iter().all(|own| own.round_id.is_some() && own.begun.is_some()));
}

#[test]
fn tests_of_the_other_kind_are_told_and_never_mixed_in() {
    let mut bench = Bench::new(&["A", "B"]);
    bench.read("a", "A", 60.0, 0.hours());
    bench.kind = TestKind::Local;
    bench.read("b", "B", 300.0, 1.hours());
    let told = bench.answer();
    assert!(told.rows.iter().all(|row| row.cells[0].cell.values.is_empty()), "internet runs in a local column");
    assert!(told.unlike.iter().any(|own| own.told.contains('A')), "{:?}", told.unlike);
    // A round with both kinds is no lack.
    bench.read("a local", "A", 70.0, 2.hours());
    assert!(bench.answer().unlike.iter().all(|own| !own.told.contains("only")), "{:?}", bench.answer().unlike);
}

#[test]
fn what_the_chosen_setup_is_predicted_to_lose_is_to_be_tested_again() {
    let mut bench = Bench::new(&["C", "A"]);
    bench.home.brief.uses.clear();
    let told = bench.answer();
    // Nothing is needed anywhere, so the one that is there already and costs nothing is kept.
    assert_eq!(told.choice.keep, Some(SetupId::named("A")));
    let pottery = |told: &SideBySide| told.choice.retest.iter().any(|own| own.starts_with("Pottery "));
    assert!(pottery(&told), "it loses the point in the pottery: {:?}", told.choice);
    assert!(told.choice.retest.iter().all(|own| !own.starts_with("Front room ")), "the router stays where it is");
    // More money buys the other; how steady the two are nobody knows.
    let [otherwise] = &told.choice.otherwise[..] else { panic!("{:?}", told.choice) };
    assert!(otherwise.contains("if speed decided") && otherwise.contains("more may be spent"), "{otherwise}");
    assert!(!otherwise.contains("steadiness"), "{otherwise}");
    assert!(!told.choice.measured);
    bench.read("a", "A", 60.0, 0.hours());
    assert!(!pottery(&bench.answer()), "what was tested is not to be tested again");
    assert!(bench.answer().choice.measured, "readings count where nobody noted a need, too");
}

#[test]
fn a_trial_by_turns_pairs_runs_and_says_whose_turn_it_is() {
    let mut bench = Bench::new(&["A", "B"]);
    let spot = bench.spots()[0];
    let trial = SetupId::named("t").0;
    for (name, letter, downs) in [("t a", "A", vec![50.0, 52.0, 49.0]), ("t b", "B", vec![80.0, 79.0])] {
        let mut round = round(name, SetupId::named(letter), vec![spot]);
        (round.trial, round.runs_per_spot) = (Some(trial), 8);
        let runs = downs.into_iter().map(|down| run(&round, spot, down)).collect();
        bench.rounds.push((round, runs));
    }
    let told = bench.answer();
    let [own] = &told.trials[..] else { panic!("{:?}", told.trials) };
    assert_eq!(own.pairs, [(50.0, 80.0), (52.0, 79.0)]);
    assert_eq!((own.turn, own.wanted), (Some(1), 8), "A was run once more than B");
    assert!(matches!(own.against.as_ref().unwrap().call, Call::CantTell { .. }), "two pairs show nothing");
    // A setup that stands in no column has no trial here.
    bench.columns.pop();
    assert!(bench.answer().trials.is_empty());
}

#[test]
fn a_part_of_the_plan_makes_readings_of_two_plans_alike() {
    let mut bench = Bench::new(&["A", "B"]);
    let plans: Vec<_> = bench.home.brief.plans.iter().map(|own| (own.id, own.gives().0.get())).collect();
    for (index, letter) in ["A", "B"].into_iter().enumerate() {
        let (id, gives) = plans[index];
        let (_, runs) = bench.read(letter, letter, 0.5 * gives, 0.hours());
        runs.iter_mut().for_each(|own| own.plan_id = Some(id));
    }
    let apart = bench.answer();
    assert!(apart.unlike.iter().any(|own| own.share_helps), "{:?}", apart.unlike);
    assert!(apart.columns[1].whole.as_ref().unwrap().ratio.ratio > 2.0);
    bench.share_of_plan = true;
    let share = bench.answer();
    assert!((share.columns[1].whole.as_ref().unwrap().ratio.ratio - 1.0).abs() < 0.02);
    assert!((share.rows[0].cells[0].cell.figures.unwrap().median - 0.5).abs() < 0.03);
    assert!(share.rows[0].cells[0].predicted[2] <= 1.0 + 1e-9, "a part of the plan is at most all of it");
}

#[test]
fn a_wired_ceiling_far_under_the_plan_is_found_beside_what_the_rooms_got() {
    let mut bench = Bench::new(&["A", "B"]);
    bench.read("a", "A", 60.0, 0.hours());
    let spot = bench.spots()[0];
    let mut ceiling = round("ceiling", SetupId::named("A"), vec![spot]);
    ceiling.purpose = Purpose::WiredCeiling;
    let wired = (0..3).map(|n| Run {
        id: RunId::named(&format!("wired {n}")),
        carried_by: CarriedBy::Cable,
        ..run(&ceiling, spot, 95.0)
    });
    let wired = wired.collect();
    bench.rounds.push((ceiling, wired));
    let gives = MbitPerSec::new(bench.home.brief.plan_on(date(2026, 10, 2)).unwrap().gives().0.get());
    assert!(gives.get() > 200.0, "the plan of the example");
    let told = bench.answer();
    assert!(told.findings.iter().any(|own| own.what.contains("95")), "{:#?}", told.findings);
}
