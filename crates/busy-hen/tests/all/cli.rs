//! The program as a person or script runs it.

use std::process::Command;

use assert_cmd::cargo::cargo_bin;
use serde_json::{Value, json};

use crate::rig::serve;

fn output(arguments: &[&str]) -> (Option<i32>, String, String) {
    let output = Command::new(cargo_bin("busy-hen")).args(arguments).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (output.status.code(), text(output.stdout), text(output.stderr))
}

#[test]
fn help_tells_what_the_program_is_for_and_what_it_takes() {
    let (code, text, _) = output(&["serve", "--help"]);
    assert_eq!(code, Some(0));
    for words in ["--data <FILE>", "--listen <ADDR>", "made when it is not there", "127.0.0.1:8080"] {
        assert!(text.contains(words), "{words} is not in:\n{text}");
    }
    assert!(output(&["--help"]).1.contains("estimates, not certification"));
}

#[test]
fn what_can_not_be_done_is_one_sentence_and_exit_code_2() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("not-a-database.db");
    std::fs::write(&file, "this is a shopping list, not a database, and long enough to be read as one").unwrap();
    let (code, _, told) = output(&["serve", "--data", file.to_str().unwrap(), "--listen", "127.0.0.1:0"]);
    assert_eq!(code, Some(2));
    assert!(told.contains("can't be used"), "{told}");
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = taken.local_addr().unwrap().to_string();
    let database = folder.path().join("good.db");
    let (code, _, told) = output(&["serve", "--data", database.to_str().unwrap(), "--listen", &address]);
    assert_eq!(code, Some(2));
    assert!(told.contains("choose another with --listen"), "{told}");
    assert_eq!(output(&["serve", "--listen", "nowhere"]).0, Some(2));
    let (code, _, told) = output(&["serve", "--data", database.to_str().unwrap(), "--listen", "0.0.0.0:0"]);
    assert_eq!(code, Some(2));
    assert!(told.contains("--open-to-network") && told.contains("asks for a pass phrase"), "{told}");
    let _first = serve(&database, &[]);
    let (code, _, told) = output(&["serve", "--data", database.to_str().unwrap(), "--listen", "127.0.0.1:0"]);
    assert_eq!(code, Some(2));
    assert!(told.contains("another Busy Hen uses this file"), "{told}");
}

#[test]
fn the_api_description_is_printed() {
    let (code, text, _) = output(&["openapi"]);
    assert_eq!(code, Some(0));
    let description: Value = serde_json::from_str(&text).unwrap();
    assert!(description["paths"]["/api/homes/{home}"]["get"].is_object());
}

/// A folder with the made-up example as a home file in it, after this change.
fn home_file(change: impl FnOnce(&mut Value)) -> (tempfile::TempDir, String) {
    let folder = tempfile::tempdir().unwrap();
    let (code, text, _) = output(&["example"]);
    assert_eq!(code, Some(0));
    let mut file: Value = serde_json::from_str(&text).unwrap();
    change(&mut file);
    let path = folder.path().join("home.json");
    std::fs::write(&path, file.to_string()).unwrap();
    let path = path.to_str().unwrap().to_owned();
    (folder, path)
}

fn predicted(arguments: &[&str]) -> Value {
    let (code, text, told) = output(&[&["predict"], arguments, &["--json", "--day", "2026-11-01"]].concat());
    assert_eq!(code, Some(0), "{told}");
    serde_json::from_str(&text).unwrap()
}

#[test]
fn all_rooms_of_a_home_file_are_predicted_without_a_server() {
    let (_folder, file) = home_file(|_| {});
    let found = predicted(&[&file, "--setup", "a"]);
    assert_eq!(found["setup"], "A as found");
    let rooms = found["rooms"].as_array().unwrap();
    assert_eq!(rooms.len(), 12);
    assert_eq!((rooms[0]["name"].as_str(), rooms[0]["predicted_verdict"].as_str()), (Some("Pottery"), Some("not_met")));
    assert!(rooms.iter().any(|room| room["predicted"]["down"]["middle"] == 300.0), "the plan caps what is near");
    let (code, table, _) = output(&["predict", &file, "--rooms", "--busy", "--day", "2026-11-01"]);
    assert_eq!(code, Some(0));
    for words in ["room", "Mb/s", "Pottery", "nothing", "limited by", "not certification"] {
        assert!(table.contains(words), "{words} is not in:\n{table}");
    }
    let wired = predicted(&[&file, "--setup", "C", "--reach", "local"]);
    assert!(wired["findings"].as_array().unwrap().iter().any(|own| own["rule"] == "radar_bound"));
}

#[test]
fn a_laptop_by_cable_is_told_by_its_port() {
    let (_folder, file) = home_file(|_| {});
    let by_cable = ["predict", &file, "--setup", "C", "--client", "laptop_wired"];
    let (code, table, _) = output(&by_cable);
    assert_eq!(code, Some(0));
    assert!(table.contains("Pottery point, by cable") && table.contains("no port here"), "{table}");
    let (_, place, _) = output(&[&by_cable[..], &["--at", "2,2,Attic"]].concat());
    assert!(place.contains("No device with a port stands in this room."), "{place}");
    let (code, _, told) = output(&[&by_cable[..], &["--band", "5"]].concat());
    assert!(code != Some(0) && told.contains("by no band"), "{told}");
}

#[test]
fn a_typed_line_that_is_wrong_is_told_beside_what_could_be_predicted() {
    let (_folder, file) = home_file(|file| {
        let lines = &mut file["home"]["house"]["levels"][2]["lines"];
        *lines = format!("{}\nLoft 2 x 2 eats of Box room", lines.as_str().unwrap()).into();
    });
    let (code, table, _) = output(&["predict", &file]);
    assert_eq!(code, Some(0));
    assert!(table.contains("! Attic, line 5:") && table.contains("“eats”") && table.contains("Pottery"), "{table}");
    assert_eq!(predicted(&[&file])["faults"].as_array().unwrap().len(), 1);
    assert_eq!(predicted(&[&file, "--at", "1,1,0"])["faults"].as_array().unwrap().len(), 1, "of a place too");
    let (_, text, _) = output(&["predict", &file, "--at", "1,1,0"]);
    assert!(text.contains("! Attic, line 5:"), "{text}");
}

#[test]
fn a_place_is_explained_link_by_link_and_by_other_models() {
    let (_folder, file) = home_file(|_| {});
    let found = predicted(&[&file, "--setup", "B", "--at", "2.4,1.8,First", "--laws"]);
    assert_eq!(found["room"], "Front bedroom");
    let links = found["chain"]["links"].as_array().unwrap();
    assert!(links.len() >= 4 && links.iter().all(|link| !link["detail"].as_str().unwrap().is_empty()));
    assert_eq!(found["losses_db"][0]["by_law"].as_array().unwrap().len(), 6);
    let by_number = predicted(&[&file, "--setup", "B", "--at", "2.4,1.8,1"]);
    assert_eq!(by_number["prediction"], found["prediction"]);
    let shut = predicted(&[&file, "--setup", "A", "--at", "2,9,Ground", "--doors", "shut", "--band", "5"]);
    let open = predicted(&[&file, "--setup", "A", "--at", "2,9,Ground", "--doors", "open", "--band", "5"]);
    let signal = |found: &Value| found["prediction"]["served"]["signal_dbm"].as_f64().unwrap();
    assert!(signal(&open) > signal(&shut));
    let (_, text, _) = output(&["predict", &file, "--setup", "B", "--at", "2.4,1.8,First"]);
    assert!(text.contains("down ") && text.contains("if mended") && text.contains("hop to Landing node"), "{text}");
    assert_eq!(found["served_by"], "Landing node");
    for range in [&found["radio"]["link_rate_mbps"], &found["hops"][0]["down_mbps"]] {
        let [poor, middle, good] = [0, 1, 2].map(|end| range[end].as_f64().unwrap());
        assert!(poor <= middle && middle <= good && good > 0.0, "{range}");
    }
    let outside = predicted(&[&file, "--at", "-3,2,0"]);
    assert_eq!(outside["room"], Value::Null, "a place west of the house needs no =");
}

#[test]
fn what_is_wrong_with_a_home_file_is_one_sentence_with_its_place_and_exit_code_2() {
    let refused = |arguments: &[&str], words: &str| {
        let (code, out, told) = output(&[&["predict"], arguments].concat());
        assert_eq!((code, out.as_str()), (Some(2), ""), "{told}");
        assert!(told.contains(words) && !told.contains("panicked"), "{words} is not in: {told}");
        assert_eq!(told.trim().lines().count(), 1, "{told}");
    };
    let (_folder, file) = home_file(|file| file["home"]["house"]["levels"][1]["height_m"] = 0.2.into());
    refused(&[&file], "at /home/house/levels/1/height_m: First is 0.2 m high");
    let (_folder, file) = home_file(|file| file["home"]["setups"][0]["devices"][0]["kit"] = "toaster".into());
    refused(&[&file], "/home/setups/0/devices/0/kit");
    let (folder, file) = home_file(|_| {});
    refused(&[&file, "--setup", "Q"], "it has A, B, C");
    refused(&[&file, "--at", "over there"], "metres east");
    refused(&[&file, "--at", "1,2,Cellar"], "this house has Ground, First, Attic");
    refused(&[&file, "--client", "abacus"], "choose one of");
    refused(&[&file, "--band", "6"], "no 6 GHz radio; it has 2.4 GHz and 5 GHz");
    let cut = folder.path().join("cut.json");
    std::fs::write(&cut, &std::fs::read(&file).unwrap()[..3000]).unwrap();
    refused(&[cut.to_str().unwrap()], "not JSON from here on");
    refused(&["/nowhere/home.json"], "can't be read");
}

#[test]
fn the_schema_of_the_home_file_is_printed() {
    let (code, text, _) = output(&["schema"]);
    assert_eq!(code, Some(0));
    let schema: Value = serde_json::from_str(&text).unwrap();
    assert_eq!(schema["title"], "Busy Hen home file");
}

#[tokio::test]
async fn the_demo_is_put_in_once_and_every_page_is_served_from_the_program() {
    let folder = tempfile::tempdir().unwrap();
    let database = folder.path().join("demo.db");
    for _ in 0..2 {
        let server = serve(&database, &["--demo"]);
        let homes: Value = reqwest::get(format!("{}/api/homes", server.address)).await.unwrap().json().await.unwrap();
        assert_eq!(homes.as_array().unwrap().len(), 3);
        let page = reqwest::get(format!("{}/homes/x/brief", server.address)).await.unwrap();
        let policy = page.headers()["content-security-policy"].to_str().unwrap().to_owned();
        assert!(policy.starts_with("default-src 'self'"), "{policy}");
        let missing = reqwest::get(format!("{}/api/nowhere", server.address)).await.unwrap();
        assert_eq!(missing.status(), 404);
    }
}

#[tokio::test]
async fn a_page_of_another_site_can_change_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let server = serve(&folder.path().join("origin.db"), &["--demo"]);
    let homes: Value = reqwest::get(format!("{}/api/homes", server.address)).await.unwrap().json().await.unwrap();
    let undo = format!("{}/api/homes/{}/undo", server.address, homes[0]["id"].as_str().unwrap());
    let from = |origin: &str| reqwest::Client::new().post(&undo).json(&json!({})).header("origin", origin).send();
    let refused = from("http://elsewhere.example").await.unwrap();
    assert_eq!(refused.status(), 403);
    assert_eq!(refused.json::<Value>().await.unwrap()["code"], "foreign");
    assert_eq!(from(&server.address).await.unwrap().status(), 409, "let through: there is nothing to undo");
}
