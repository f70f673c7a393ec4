//! The home file: what is written is read again, the schema tells the truth, and no bad file does more than get one clear answer.

use busy_hen_catalogue::clients;
use busy_hen_demo::{canal_terrace, gasworks_flat, lock_house};
use busy_hen_floorplan::Plan;
use busy_hen_formats::{HomeFile, RoundRecord, home_file_schema};
use busy_hen_home::{Doors, Home, Side, Situation, TestKind, WallChoice};
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_testkit::homes::any_home;
use busy_hen_testkit::runs::{round, run, tested};
use jiff::civil::date;
use proptest::prelude::*;
use serde_json::{Value, json};

/// The terrace with a round of two runs.
fn terrace() -> HomeFile {
    let mut home = canal_terrace();
    // As files of before kept what lines say now.
    home.house.walls = [Side::North, Side::East, Side::South]
        .map(|side| WallChoice {
            room_id: home.house.rooms[0].id,
            side,
            material: "brick215".into(),
            thickness_m: None,
        })
        .into();
    let spots = vec![home.house.spots[0].id, home.house.spots[1].id];
    let round = round("r", home.setups[0].id, spots.clone());
    let runs = vec![run(&round, spots[0], 80.0), run(&round, spots[1], 40.0)];
    let tested = Some(tested(&home, &round));
    HomeFile::new(home, vec![RoundRecord { round, tested, runs }])
}

#[test]
fn what_is_written_is_read_again() {
    let files = [terrace(), HomeFile::new(gasworks_flat(), vec![]), HomeFile::new(lock_house(), vec![])];
    for file in files.into_iter().chain((0..50).map(|number| HomeFile::new(any_home(number), vec![]))) {
        let text = file.to_text().unwrap();
        assert_eq!(HomeFile::read(text.as_bytes()).unwrap(), file);
    }
}

#[test]
fn every_home_fits_the_schema_and_the_schema_refuses_what_does_not() {
    let schema = home_file_schema().unwrap();
    let validator = jsonschema::draft202012::new(&schema).unwrap();
    let value = |file: &HomeFile| serde_json::to_value(file).unwrap();
    assert!(validator.is_valid(&value(&terrace())));
    for number in 0..50 {
        let value = value(&HomeFile::new(any_home(number), vec![]));
        let errors: Vec<String> = validator.iter_errors(&value).map(|e| format!("{}: {e}", e.instance_path)).collect();
        assert!(errors.is_empty(), "home {number}: {errors:?}");
    }
    let mut wrong = value(&terrace());
    wrong["home"]["setups"][0]["devices"][0]["mode"] = "toaster".into();
    assert!(!validator.is_valid(&wrong));
    wrong = value(&terrace());
    wrong["home"]["house"]["levels"][0]["hight_m"] = 2.0.into();
    assert!(!validator.is_valid(&wrong), "fields that are not known are refused");
    wrong = value(&terrace());
    wrong["home"].as_object_mut().unwrap().remove("setups");
    assert!(!validator.is_valid(&wrong));
}

/// Files as earlier versions wrote them: all of them are still read, and come out as the newest.
#[test]
fn every_kept_file_of_an_older_version_is_still_read() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../testkit/data/kept");
    let mut versions = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_none_or(|extension| extension != "json") {
            continue;
        }
        let text = std::fs::read(&path).unwrap();
        let file = HomeFile::read(&text).unwrap_or_else(|faults| panic!("{}: {:?}", path.display(), faults.list()));
        versions.push(file.version);
        let now = jiff::Timestamp::UNIX_EPOCH;
        let file = file.with_all_tested(now);
        let plain = HomeFile::new(file.home.clone(), Vec::new());
        let newest = HomeFile { format: plain.format, version: plain.version, ..file };
        let again = HomeFile::read(newest.to_text().unwrap().as_bytes()).unwrap();
        assert!(again == newest && again.rounds.iter().all(|record| record.tested.is_some()), "{}", path.display());
        predicts(&again.home);
    }
    versions.sort_unstable();
    assert_eq!(versions, [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11], "one kept file of every version");
}

#[test]
fn the_committed_schema_is_the_one_of_the_types() {
    let committed: Value = serde_json::from_str(include_str!("../../../../docs/home-file.schema.json")).unwrap();
    assert_eq!(committed, home_file_schema().unwrap(), "run `cargo xtask api` and commit");
}

/// A file with one value changed, the place that is to be named, and words that are to be in the sentence.
fn refused(at: &str, value: Value, pointer: &str, words: &str) {
    let mut file = serde_json::to_value(terrace()).unwrap();
    let (parent, field) = at.rsplit_once('/').unwrap();
    match file.pointer_mut(parent).unwrap() {
        Value::Object(object) => {
            object.insert(field.to_owned(), value);
        }
        Value::Array(list) => list[field.parse::<usize>().unwrap()] = value,
        other => panic!("{other}"),
    }
    let faults = HomeFile::read(file.to_string().as_bytes()).unwrap_err();
    let first = &faults.list()[0];
    assert_eq!(first.pointer, pointer, "{}", first.message);
    assert!(first.message.contains(words), "{}", first.message);
}

/// As [`refused`], where the place that is named is the one that was changed.
fn refused_there(at: &str, value: impl Into<Value>, words: &str) {
    refused(at, value.into(), at, words);
}

#[test]
fn each_thing_that_is_wrong_is_told_with_its_place() {
    refused_there("/format", "shopping list", "home file says");
    refused_there("/version", 99, "newest");
    refused_there("/rounds/0/tested", Value::Null, "missing");
    refused_there("/rounds/0/tested/home/region", "XX", "choose a country");
    refused_there("/version", 0, "newest");
    refused_there("/extra", 1, "unknown field");
    refused_there("/home", Value::Null, "null");
    refused_there("/home/region", "XX", "choose a country");
    refused_there("/home/units", "cubits", "unknown variant");
    refused_there("/home/brief/plans/0/from", "last spring", "does not fit");
    refused_there("/home/brief/plans/1/down_mbps", -3, "over 0");
    refused_there("/home/setups/0/devices/0/hardware_address", "kitchen", "six pairs");
    refused_there("/home/house/levels/0/height_m", "2.6", "string");
    refused_there("/home/house/levels/0/floor", "cheese", "floor material");
    refused_there("/home/house/walls/2/side", "up", "unknown variant");
    refused_there("/home/house/walls/0/thickness_m", 9, "1.5 m");
    refused_there("/home/house/spots/0/east_part", 1.5, "outside");
    refused_there("/home/setups/1/devices/1/uplink/to", "x", "UUID");
    refused_there("/home/setups/0/devices/0/kit", "toaster", "catalogue");
    refused_there("/home/setups/0/devices/0/radios/1/channel", 37, "37");
    refused_there("/rounds/0/round/client", "abacus", "catalogue");
    refused_there("/rounds/0/runs/0/outcome/down_mbps", -1, "Download");
    let other = json!(terrace().home.setups[0].id);
    refused_there("/rounds/0/runs/1/round_id", other.clone(), "another");
    let aerial = json!({ "kind": "rods", "gain_dbi": 40, "lean": 0, "towards": 0 });
    refused("/home/setups/0/devices/0/aerial", aerial, "/home/setups/0/devices/0/aerial/gain_dbi", "gain");
    let room = terrace().home.house.rooms[0].id;
    let door = json!([{ "room_id": room, "side": "north", "kind": "door", "material": "wood_door", "open": true,
                        "along_part": 2, "width_m": 0.8 }]);
    refused("/home/house/openings", door, "/home/house/openings/0/along_part", "beyond the end");
    let heard =
        json!([{ "id": other, "band": "5", "channel": 35, "width_mhz": 20, "signal_dbm": -60, "busy_part": 0.2 }]);
    refused("/home/air", heard, "/home/air/0/channel", "35");
    let same = json!(terrace().rounds[0].runs[0].id);
    let mut file = serde_json::to_value(terrace()).unwrap();
    file["rounds"][0]["runs"][0]["id"] = same.clone();
    file["rounds"][0]["runs"][1]["id"] = same;
    assert_eq!(HomeFile::read(file.to_string().as_bytes()).unwrap_err().list()[0].pointer, "/rounds/0/runs/1/id");
}

#[test]
fn what_is_no_json_is_told_with_its_line() {
    let told = |text: &[u8]| HomeFile::read(text).unwrap_err().list()[0].clone();
    assert!(told(b"").message.contains("line 1"), "{}", told(b"").message);
    assert!(told(b"{ \"format\": \"busy-hen home\",\n  oops").message.contains("line 2"));
    assert!(told(&[0xff, 0xfe, 0x00]).message.contains("not JSON"));
    assert!(told(b"[1, 2]").pointer.len() < 3);
    let twice = terrace().to_text().unwrap() + "{}";
    assert!(told(twice.as_bytes()).message.contains("something else follows"));
    let huge = terrace().to_text().unwrap().replacen("\"height_m\": 2.7", "\"height_m\": 1e999", 1);
    assert_eq!(told(huge.as_bytes()).pointer, "/home/house/levels/0/height_m");
    let deep = "[".repeat(100_000);
    assert!(told(deep.as_bytes()).message.len() < 300);
}

/// Every place in a document.
fn places(value: &Value, at: String, found: &mut Vec<String>) {
    match value {
        Value::Object(object) => {
            for (key, inner) in object {
                places(inner, format!("{at}/{}", key.replace('~', "~0").replace('/', "~1")), found);
            }
        }
        Value::Array(list) => list.iter().enumerate().for_each(|(i, inner)| places(inner, format!("{at}/{i}"), found)),
        _ => {}
    }
    found.push(at);
}

/// A change of a document: where, what, and a number that the change uses.
type Change = (prop::sample::Index, u8, f64);

fn change(file: &mut Value, (place, what, number): &Change) {
    let mut all = Vec::new();
    places(file, String::new(), &mut all);
    let index = place.index(all.len());
    let other = file.pointer(&all[(index * 7 + 3) % all.len()]).cloned().unwrap_or(Value::Null);
    let Some(value) = file.pointer_mut(&all[index]) else { return };
    match (what % 12, value.clone()) {
        (0, _) => *value = Value::Null,
        (1, Value::Number(old)) => *value = json!(old.as_f64().unwrap_or(1.0) * number),
        (2, Value::Number(old)) => *value = json!(old.as_f64().unwrap_or(1.0) + number),
        (3, Value::Number(_)) => *value = json!(number * 1e300),
        (4, Value::Array(list)) => *value = list.iter().chain(&list).cloned().collect(),
        (5, Value::Array(_)) => *value = json!([]),
        (6, Value::Object(object)) => *value = object.into_iter().skip(1).collect(),
        (7, Value::String(text)) => *value = json!(text.chars().rev().collect::<String>()),
        (8, Value::String(text)) => *value = json!(format!("{text}\n{text}")),
        (9, Value::Bool(old)) => *value = json!(!old),
        (10, _) => *value = other,
        (11, _) => *value = json!(number),
        (_, Value::Number(old)) => *value = json!(old.as_f64().unwrap_or(1.0) * (1.0 + number / 1000.0)),
        (_, Value::String(_)) => *value = other,
        _ => {}
    }
}

/// Predicts all rooms of a home that was read; every figure must be one.
fn predicts(home: &Home) {
    let plan = Plan::new(&home.house, home.units);
    let question = Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: Situation::BusyEvening,
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    };
    for setup in &home.setups {
        let kept = Knowledge::default();
        for row in Model::new(home, setup, &plan, question, &kept).ledger(&Measured::default()) {
            assert!(row.predicted.down.middle.is_finite() && row.predicted.loaded_ms.is_finite(), "{}", row.name);
        }
    }
}

proptest! {
    // `PROPTEST_CASES` makes it run longer; the account of a long run stands in docs/MODEL.md.
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_file_changed_anywhere_is_read_or_refused_with_a_place_in_it(
        number in 0u64..1000, changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>(), -100.0f64..100.0), 1..5)
    ) {
        let file = if number < 200 { terrace() } else { HomeFile::new(any_home(number), vec![]) };
        let mut file = serde_json::to_value(file).unwrap();
        for one in &changes {
            change(&mut file, one);
        }
        match HomeFile::read(file.to_string().as_bytes()) {
            Ok(read) => predicts(&read.home),
            Err(faults) => {
                for fault in faults.list() {
                    let inside = fault.pointer.rsplit_once('/').map_or("", |(parent, _)| parent);
                    prop_assert!(file.pointer(inside).is_some(), "{} is no place: {}", fault.pointer, fault.message);
                    prop_assert!(!fault.message.is_empty());
                }
            }
        }
    }

    #[test]
    fn bytes_changed_anywhere_never_break_the_reader(
        cut in any::<prop::sample::Index>(),
        changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 0..6)
    ) {
        let mut bytes = terrace().to_text().unwrap().into_bytes();
        for (place, byte) in &changes {
            let place = place.index(bytes.len());
            bytes[place] = *byte;
        }
        if changes.len() % 2 == 0 {
            bytes.truncate(cut.index(bytes.len()));
        }
        if let Ok(read) = HomeFile::read(&bytes) {
            predicts(&read.home);
        }
    }

    #[test]
    fn any_bytes_at_all_never_break_the_reader(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        prop_assert!(HomeFile::read(&bytes).is_err());
    }
}
