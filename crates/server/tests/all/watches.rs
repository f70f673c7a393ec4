//! Long watches over the interface: logs in and out, what they show, and notes on devices.

use actix_web::http::{Method, StatusCode};
use busy_hen_home::SetupId;
use serde_json::{Value, json};
use uuid::Uuid;

use crate::rig::api;

const ID: &str = "7f67ab11-7961-496c-b094-52bf6eee43fa";

/// The log of a watch over a router and a node, ten minutes a line from this hour of 2 November; the node answers none in the last.
fn log(from: u32, stretches: u32) -> String {
    let target = |name: &str, way: &str| json!({ "name": name, "address": "192.0.2.1:80", "way": way });
    let targets = [target("Router", "wire"), target("Landing node", "radio")];
    let head =
        json!({ "line": "watch", "id": ID, "made_up": false, "by_wire": true, "every_s": 10, "targets": targets });
    let mut text = format!("{head}\n{}\n", json!({ "line": "start", "at": format!("2026-11-02T{from:02}:00:00Z") }));
    for number in 0..stretches {
        let at = |own: u32| format!("2026-11-02T{:02}:{:02}:00Z", from + own / 6, own % 6 * 10);
        let took = json!({ "min_ms": 0.4, "median_ms": 0.5, "max_ms": 9.0 });
        let well = json!({ "asked": 60, "lost": 0, "took": took });
        let node = if number + 1 == stretches { json!({ "asked": 60, "lost": 60 }) } else { well.clone() };
        let (from, to) = (at(number), at(number + 1));
        text += &format!("{}\n", json!({ "line": "stretch", "from": from, "to": to, "of": [well, node] }));
        if number + 1 == stretches {
            text += &format!("{}\n", json!({ "line": "drop", "target": 1, "from": from, "to": to, "ended": false }));
        }
    }
    text
}

#[actix_web::test]
async fn a_log_comes_in_goes_on_and_goes_out_and_home_with_its_home() {
    let api = api().await;
    let path = api.at("/watches");
    let bring = async |path: &str, text: String| {
        let (status, _, answer) = api.raw(Method::POST, path, Some(text)).await;
        (status, serde_json::from_str::<Value>(&answer).unwrap())
    };
    assert_eq!(api.get(&path).await["watches"], json!([]));
    let (status, kept) = bring(&path, log(3, 6)).await;
    assert_eq!((status, kept["until"].as_str().unwrap()), (StatusCode::CREATED, "2026-11-02T04:00:00Z"));
    // The same once more, then a longer one of the same watch that has let its first hour go: one watch, with all of it.
    bring(&path, log(3, 6)).await;
    let (_, kept) = bring(&path, log(4, 12)).await;
    assert_eq!(kept["begun"], "2026-11-02T03:00:00Z");
    let list = api.get(&path).await;
    assert_eq!(list["watches"].as_array().unwrap().len(), 1);
    let told = api.get(&format!("{path}/{ID}")).await;
    assert_eq!(told["days"][0]["targets"][0]["asked"], 18 * 60, "no knock twice");
    assert_eq!(told["days"][0]["targets"][1]["drops"].as_array().unwrap().len(), 2);
    assert!(told["findings"].to_string().contains("Landing node did not answer"), "{}", told["findings"]);
    let stop = api.view().await["route"].as_array().unwrap().last().unwrap().clone();
    assert_eq!((stop["name"].as_str(), stop["note"].as_str()), (Some("watch"), Some("3 hours watched")));
    // Out as its lines, which come in again as the same.
    let text = api.raw(Method::GET, &format!("{path}/{ID}/log"), None).await.2;
    assert!(text.starts_with("{\"line\":\"watch\""), "{text}");
    bring(&path, text).await;
    assert_eq!(api.get(&format!("{path}/{ID}")).await, told);
    // With its home, as a file.
    let file = api.get(&api.at("/file")).await;
    let (status, view) = api.send(Method::POST, "/api/home-files", file).await;
    assert_eq!(status, StatusCode::CREATED, "{view}");
    let other = format!("/api/homes/{}/watches/{ID}", view["id"].as_str().unwrap());
    assert_eq!(api.get(&other).await, told);
    // Taken away, it is gone here alone.
    let gone = api.send(Method::DELETE, &format!("{path}/{ID}"), Value::Null).await;
    assert_eq!(gone.0, StatusCode::NO_CONTENT);
    api.refused(Method::GET, &format!("{path}/{ID}"), None, 404, "not_found").await;
    assert_eq!(api.get(&other).await, told);
}

#[actix_web::test]
async fn what_is_no_log_is_refused_and_leaves_nothing() {
    let api = api().await;
    let path = api.at("/watches");
    let bring = async |path: &str, text: String| {
        let (status, _, answer) = api.raw(Method::POST, path, Some(text)).await;
        (status, serde_json::from_str::<Value>(&answer).unwrap())
    };
    let good = log(3, 6);
    let of_line = |number: usize, with: &str| {
        let mut lines: Vec<&str> = good.lines().collect();
        lines[number] = with;
        lines.join("\n") + "\n"
    };
    let other_count = r#"{"line":"stretch","from":"2026-11-02T03:00:00Z","to":"2026-11-02T03:10:00Z","of":[]}"#;
    let backwards =
        r#"{"line":"drop","target":1,"from":"2026-11-02T03:10:00Z","to":"2026-11-02T03:00:00Z","ended":true}"#;
    let lost_more = other_count.replace("[]", r#"[{"asked":1,"lost":2},{"asked":1,"lost":1}]"#);
    for (wrong, told) in [
        (String::new(), "no log of a watch"),
        ("a shopping list\n".into(), "no log of a watch"),
        (of_line(0, r#"{"line":"start","at":"2026-11-02T03:00:00Z"}"#), "no log of a watch"),
        (of_line(4, "bread, milk"), "Line 5 is not as"),
        (of_line(4, other_count), "tells of each address"),
        (of_line(4, &lost_more), "tells of each address"),
        (of_line(4, backwards), "ends before it begins"),
        (good.replace("2026-11-02T04:00:00Z", "2036-11-02T04:00:00Z"), "spans two years at most"),
    ] {
        let (status, problem) = bring(&path, wrong).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(problem["faults"].to_string().contains(told), "{told}: {problem}");
    }
    assert_eq!(api.get(&path).await["watches"], json!([]));
    // A last line without its end was being written when the power went: the rest is read.
    let cut = &good[..good.len() - 20];
    let (status, _) = bring(&path, cut.to_owned()).await;
    assert_eq!(status, StatusCode::CREATED);
}

#[actix_web::test]
async fn an_older_copy_of_a_log_or_another_one_of_its_name_takes_nothing_away() {
    let api = api().await;
    let path = api.at("/watches");
    for (from, stretches) in [(3, 30), (4, 6), (3, 12)] {
        assert_eq!(api.raw(Method::POST, &path, Some(log(from, stretches))).await.0, StatusCode::CREATED);
    }
    let lines = |text: &str| text.lines().filter(|line| line.contains("\"stretch\"")).count();
    let kept = api.raw(Method::GET, &format!("{path}/{ID}/log"), None).await.2;
    assert_eq!(lines(&kept), 30);
    api.refused(Method::POST, &path, Some(log(3, 6).replacen("Landing node", "Kiln node", 1)), 409, "conflict").await;
    assert_eq!(api.raw(Method::GET, &format!("{path}/{ID}/log"), None).await.2, kept);
    // So the home still goes out and comes in.
    let file = api.get(&api.at("/file")).await;
    assert_eq!(api.send(Method::POST, "/api/home-files", file).await.0, StatusCode::CREATED);
}

/// A log of 2.5 kB with drops over twenty thousand years, and counts that overflow.
#[actix_web::test]
async fn a_log_of_years_and_counts_that_can_not_be_is_refused_and_the_bench_goes_on() {
    let api = api().await;
    let path = api.at("/watches");
    let drop = |from: &str, to: &str| {
        json!({ "line": "drop", "target": 1, "from": from, "to": to, "ended": false }).to_string()
    };
    let pings = |asked: u32, lost: u32| {
        let took = json!({ "min_ms": 0.4, "median_ms": 0.5, "max_ms": 9.0 });
        let own = json!({ "asked": asked, "lost": lost, "took": took });
        json!({ "line": "stretch", "from": "2026-11-02T04:00:00Z", "to": "2026-11-02T04:10:00Z", "of": [own, own] })
            .to_string()
    };
    let transfer =
        json!({ "line": "transfer", "at": "2026-11-02T03:10:00Z", "bytes": u64::MAX, "took_ms": 1.0, "whole": true });
    for wild in [
        (0..20).map(|_| drop("-009999-01-02T01:59:59Z", "9999-12-30T22:00:00Z") + "\n").collect::<String>(),
        drop("1970-01-01T00:00:00Z", "2026-11-02T03:10:00Z"),
        drop("2026-11-02T03:10:00Z", "2029-11-02T03:10:00Z"),
        pings(u32::MAX, 0),
        transfer.to_string(),
        json!({ "line": "start", "at": "9999-12-30T22:00:00Z" }).to_string(),
    ] {
        api.refused(Method::POST, &path, Some(log(3, 6) + &wild + "\n"), 422, "faults").await;
    }
    assert_eq!(api.get(&path).await["watches"], json!([]));
}

#[actix_web::test]
async fn notes_on_devices_are_kept_once_and_refused_where_they_say_nothing() {
    let api = api().await;
    let path = api.at("/device-notes");
    let note = json!({
        "id": Uuid::new_v4(), "setup_id": SetupId::named("B"), "device_id": null,
        "at": "2026-11-20T18:00:00Z", "warmth": "hot", "fault": false, "text": "stands in the sun"
    });
    let found = api.view().await["home"]["setups"][1]["devices"][1]["id"].clone();
    let with = |field: &str, value: Value| {
        let mut own = note.clone();
        own["device_id"] = found.clone();
        own[field] = value;
        own
    };
    let good = with("fault", json!(false));
    for _ in 0..2 {
        assert_eq!(api.send(Method::POST, &path, good.clone()).await.0, StatusCode::CREATED);
    }
    assert_eq!(api.get(&api.at("/watches")).await["notes"], json!([good]));
    let silent = {
        let mut own = with("text", json!(" "));
        own["warmth"] = Value::Null;
        own
    };
    for (wrong, told) in [
        (silent, "Say how warm"),
        (
            {
                let mut own = with("text", json!(""));
                own["fault"] = json!(true);
                own
            },
            "what the fault was",
        ),
        (with("text", json!("x".repeat(501))), "at most 500"),
    ] {
        let (status, problem) = api.send(Method::POST, &path, wrong).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(problem["faults"].to_string().contains(told), "{problem}");
    }
    let elsewhere = with("device_id", json!(Uuid::new_v4()));
    let elsewhere = {
        let mut own = elsewhere;
        own["id"] = json!(Uuid::new_v4());
        own
    };
    assert_eq!(api.send(Method::POST, &path, elsewhere).await.0, StatusCode::NOT_FOUND);
    let file = api.get(&api.at("/file")).await;
    assert_eq!(file["device_notes"], json!([good]));
    let own = format!("/api/device-notes/{}", good["id"].as_str().unwrap());
    assert_eq!(api.send(Method::DELETE, &own, Value::Null).await.0, StatusCode::NO_CONTENT);
    assert_eq!(api.get(&api.at("/watches")).await["notes"], json!([]));
}
