//! What the core answers for the demo, the homes of practice and the traced houses is what it answered before: numbers to 1e-9, words exactly.
//!
//! Whoever moves code changes nothing here. What is changed on purpose is written anew by `SNAPSHOT=write cargo test --package busy-hen-checks
//! snapshot`, and its commit says why.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use busy_hen_demo::{canal_terrace, gasworks_flat, lock_house};
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{DeviceId, Doors, Home, Round, Run, RunId, Setup, Situation, SpotId, TestKind, Under};
use busy_hen_job::drills::outages;
use busy_hen_job::findings::findings;
use busy_hen_job::fitting::sheet;
use busy_hen_job::parts::parts;
use busy_hen_job::side_by_side::{Asked, side_by_side};
use busy_hen_predict::conditions::Conditions;
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::Radiosity;
use busy_hen_radio::propagation::published::ComparedModel;
use busy_hen_survey::calibration::calibrate;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::calibration::lessons::lessons;
use busy_hen_survey::readings::compare::{Measure, ShownBy};
use busy_hen_survey::readings::verdict::Weights;
use busy_hen_testkit::traced::{TracedHouse, houses, points};
use busy_hen_testkit::{practice, runs};
use busy_hen_units::{Dbm, Megahertz};
use jiff::civil::{Date, date};
use serde::Serialize;
use serde_json::{Value, json};

/// The day that every question is asked on.
const DAY: Date = date(2026, 11, 1);
/// Places at which coverage is looked at in a home.
const PLACES: usize = 200;
/// How far numbers may be apart, as a part of them, or at all where they are small.
const APART: f64 = 1e-9;

fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("data/snapshot")
}

/// As it is kept: numbers to more digits than they are held to, and no more.
fn as_kept(of: &impl Serialize) -> Value {
    let mut value = serde_json::to_value(of).unwrap();
    shorten(&mut value);
    value
}

fn shorten(value: &mut Value) {
    match value {
        Value::Number(number) if number.is_f64() => {
            let short: f64 = format!("{:.10e}", number.as_f64().unwrap()).parse().unwrap();
            *value = json!(short);
        }
        Value::Array(list) => list.iter_mut().for_each(shorten),
        Value::Object(of) => of.values_mut().for_each(shorten),
        _ => {}
    }
}

/// The part of a number of a Halton sequence (Halton 1960): fixed places that lie evenly.
fn halton(mut number: usize, base: usize) -> f64 {
    let (mut part, mut found) = (1.0, 0.0);
    while number > 0 {
        part /= base as f64;
        found += part * (number % base) as f64;
        number /= base;
    }
    found
}

/// What arrives at fixed places: down, up, delay and signal.
fn coverage(plan: &Plan, model: &Model<'_>) -> Value {
    let at = |index: usize| {
        let room = &plan.rooms[index % plan.rooms.len()];
        let x = room.rect.x + room.rect.width * halton(index + 1, 2);
        let y = room.rect.y + room.rect.depth * halton(index + 1, 3);
        let got = model.at(plan.in_hand(room.level, x, y), Some(room.id));
        let signal = got.served.as_ref().map(|own| own.signal_dbm.get());
        as_kept(&(got.down.middle, got.up.middle, got.felt_ms, signal))
    };
    (0..if plan.rooms.is_empty() { 0 } else { PLACES }).map(at).collect()
}

fn of_setup(home: &Home, setup: &Setup, plan: &Plan, kept: &Knowledge) -> Value {
    let usual = Question::usual(DAY);
    let ledger = |question: Question| {
        let model = Model::new(home, setup, plan, question, kept);
        as_kept(&model.ledger(&Measured::default()))
    };
    let model = Model::new(home, setup, plan, usual, kept);
    let chain = |spot: &busy_hen_home::Spot| {
        let (_, at): (_, Point) = plan.spot(spot)?;
        Some(as_kept(&model.chain(at, Some(spot.room_id))))
    };
    json!({
        "setup": setup.letter,
        "ledger": ledger(usual),
        "coverage": coverage(plan, &model),
        "chains": home.house.spots.iter().step_by(3).filter_map(chain).collect::<Vec<_>>(),
        "findings": as_kept(&findings(home, setup, plan, usual, kept)),
        "parts": as_kept(&parts(home, setup, plan)),
        "sheet": as_kept(&sheet(home, setup, plan)),
        "outages": as_kept(&outages(home, setup, (plan, &usual, kept))),
    })
}

/// Readings of each setup at all spots: a fixed scatter, so that statistics and calibration have something to weigh.
fn readings(home: &Home) -> Vec<(Round, Vec<Run>)> {
    let spots: Vec<SpotId> = home.house.spots.iter().map(|spot| spot.id).collect();
    let of = |(number, setup): (usize, &Setup)| {
        let round = runs::round(&format!("round {number}"), setup.id, spots.clone());
        let taken = (0..5 * spots.len()).map(|index| {
            let part = halton(1 + index + 97 * number, 5);
            let run = runs::run(&round, spots[index / 5], 20.0 + 300.0 * part * halton(1 + index / 5, 3));
            let signal_dbm = Some(Dbm::new(-45.0 - 30.0 * part));
            Run { id: RunId::named(&format!("{number} {index}")), signal_dbm, ..run }
        });
        let taken = taken.collect();
        (round, taken)
    };
    home.setups.iter().enumerate().map(of).collect()
}

/// A home, setup by setup.
fn of_home(home: &Home) -> Value {
    let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
    home.setups.iter().map(|setup| of_setup(home, setup, &plan, &kept)).collect()
}

/// What else is asked of the homes of the demo: a busy evening, tests within the home, readings and what they teach.
fn of_demo(home: &Home) -> Value {
    let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
    let question = Question::usual(DAY);
    let under = Under {
        kind: question.reach,
        client: question.client.key.to_owned(),
        band: None,
        doors: Doors::AsLeft,
        situation: question.situation,
        tool: None,
    };
    let asked = Asked {
        columns: home.setups.iter().map(|setup| (setup, None)).collect(),
        reference: 0,
        question,
        conditions: Conditions { made_up: false, under },
        measure: Measure::default(),
        shown: ShownBy::default(),
        share_of_plan: false,
        weights: Weights::default(),
    };
    let readings = readings(home);
    let taken: Vec<Taken<'_>> = readings.iter().map(|(round, runs)| Taken { round, home, runs }).collect();
    let learnt = calibrate(&taken, &kept).map(std::sync::Arc::new);
    let device = |id: DeviceId| home.setups.iter().find_map(|setup| setup.device(id)).unwrap().name.clone();
    let taught = learnt.as_ref().map(|own| lessons(own, &own.plan(home), &device, false));
    let calibrated = kept.having(learnt);
    let calibrated_plan = calibrated.plan(home);
    let ledger = |setup: &Setup| {
        let model = Model::new(home, setup, &calibrated_plan, question, &calibrated);
        as_kept(&model.ledger(&Measured::default()))
    };
    let asked_otherwise = |question: Question| {
        let ledger = |setup| as_kept(&Model::new(home, setup, &plan, question, &kept).ledger(&Measured::default()));
        home.setups.iter().map(ledger).collect::<Vec<_>>()
    };
    json!({
        "busy": asked_otherwise(Question { situation: Situation::BusyEvening, ..question }),
        "within": asked_otherwise(Question { reach: TestKind::Local, ..question }),
        "compared": (!home.setups.is_empty()).then(|| as_kept(&side_by_side(home, &plan, &taken, &asked, &kept))),
        "lessons": as_kept(&taught),
        "calibrated": home.setups.iter().map(ledger).collect::<Vec<_>>(),
    })
}

/// Losses between the places of a traced house, in the order of its file.
fn traced() -> Value {
    let all = points();
    let of = |house: &TracedHouse| {
        let plan = house.plan();
        let own = || all.iter().filter(|point| point.house == house.name);
        let bands: BTreeSet<u64> = own().map(|point| (1000.0 * point.band_ghz) as u64).collect();
        let losses = bands.into_iter().flat_map(|mhz| {
            let waves = Radiosity::new(&plan, Megahertz::new(mhz as f64), Doors::AsLeft);
            let of_band = own().filter(move |point| (1000.0 * point.band_ghz) as u64 == mhz).take(PLACES);
            of_band
                .map(|point| {
                    let (from, to) = point.ends();
                    ComparedModel::Radiosity.loss(&plan, &waves, from, to).get()
                })
                .collect::<Vec<_>>()
        });
        (house.name.clone(), as_kept(&losses.collect::<Vec<_>>()))
    };
    Value::Object(houses().iter().map(of).collect())
}

/// Where two answers differ, by place.
fn differ(at: &str, was: &Value, is: &Value, list: &mut Vec<String>) {
    match (was, is) {
        (Value::Number(a), Value::Number(b)) => {
            let (a, b) = (a.as_f64().unwrap(), b.as_f64().unwrap());
            if (a - b).abs() > APART * a.abs().max(1.0) {
                list.push(format!("{at}: {a} was, {b} is"));
            }
        }
        (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
            a.iter().zip(b).enumerate().for_each(|(index, (a, b))| differ(&format!("{at}/{index}"), a, b, list));
        }
        (Value::Object(a), Value::Object(b)) if a.keys().eq(b.keys()) => {
            a.iter().for_each(|(key, a)| differ(&format!("{at}/{key}"), a, &b[key], list));
        }
        _ if was == is => {}
        _ => list.push(format!("{at}: {was} was, {is} is")),
    }
}

/// Holds answers to what is kept of them, or keeps them.
fn held(name: &str, is: &Value) -> Vec<String> {
    let file = folder().join(format!("{name}.json"));
    if std::env::var_os("SNAPSHOT").is_some() {
        std::fs::create_dir_all(folder()).unwrap();
        std::fs::write(&file, serde_json::to_string(is).unwrap()).unwrap();
        return Vec::new();
    }
    let was: Value = serde_json::from_str(&std::fs::read_to_string(&file).unwrap()).unwrap();
    // As it is kept, so that what a text can't hold is the same on both sides.
    let is: Value = serde_json::from_str(&is.to_string()).unwrap();
    let mut list = Vec::new();
    differ(name, &was, &is, &mut list);
    list
}

#[test]
fn the_core_answers_as_it_answered() {
    let demo = [("canal-terrace", canal_terrace()), ("gasworks-flat", gasworks_flat()), ("lock-house", lock_house())];
    let files: BTreeSet<String> = practice::rows().into_iter().map(|row| row.file).collect();
    let mut wrong = held("traced", &traced());
    for (name, home) in &demo {
        wrong.extend(held(name, &of_home(home)));
        wrong.extend(held(&format!("{name}-more"), &of_demo(home)));
    }
    wrong.extend(files.iter().flat_map(|file| held(file, &of_home(&practice::home(file)))));
    assert!(
        wrong.is_empty(),
        "{} of them:\n{}",
        wrong.len(),
        wrong.iter().take(40).cloned().collect::<Vec<_>>().join("\n")
    );
}

#[test]
fn what_differs_is_found() {
    let found = |was: Value, is: Value| {
        let mut list = Vec::new();
        differ("", &was, &is, &mut list);
        list.len()
    };
    assert_eq!(found(json!({ "a": [1.0, "x"] }), json!({ "a": [1.0 + 1e-10, "x"] })), 0);
    for other in
        [json!({ "a": [1.000_001, "x"] }), json!({ "a": [1.0, "y"] }), json!({ "a": [1.0] }), json!({ "b": 1 })]
    {
        assert_eq!(found(json!({ "a": [1.0, "x"] }), other), 1);
    }
}
