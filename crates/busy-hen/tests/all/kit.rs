//! Stand-in kit with faults, asked by the bench as real kit is: its report, its pages, and knocks at its devices.

use std::path::Path;
use std::time::{Duration, Instant};

use serde_json::{Value, json};

use crate::rig::serve;

/// Stand-in kit of setup C whose devices start two hundred times as quickly as real ones: where it reports, and the pages of its devices.
fn stand_in_kit(file: &Path) -> (std::process::Child, String, Vec<String>) {
    let mut child = std::process::Command::new(env!("CARGO_BIN_EXE_busy-hen"))
        .args(["stand-in-kit", file.to_str().unwrap(), "--setup", "C", "--listen", "127.0.0.1:0", "--seed", "13"])
        .args(["--devices", "127.0.0.1:0", "--quick", "200"])
        .args(["--fault", "wrong-parent", "--fault", "guests", "--fault", "channel"])
        .stdout(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    let lines = std::io::BufRead::lines(std::io::BufReader::new(child.stdout.take().unwrap()));
    let (mut report, mut pages) = (String::new(), Vec::new());
    for line in lines.map(Result::unwrap) {
        if let Some((_, address)) = line.split_once("reports at ") {
            report = address.to_owned();
        } else if let Some((page, _)) = line.split_once("  page of ") {
            pages.push(page.to_owned());
        } else if line.starts_with("PUT") {
            break;
        }
    }
    (child, report, pages)
}

#[tokio::test]
async fn what_kit_does_wrong_is_told_by_its_report_and_stands_in_the_sheet() {
    let folder = tempfile::tempdir().unwrap();
    let server = serve(&folder.path().join("kit.db"), &["--demo"]);
    let http = reqwest::Client::builder().no_proxy().build().unwrap();
    let ask = async |request: reqwest::RequestBuilder| -> Value {
        request.send().await.unwrap().error_for_status().unwrap().json().await.unwrap()
    };
    let homes = ask(http.get(format!("{}/api/homes", server.address))).await;
    let terrace = |home: &&Value| home["summary"]["name"].as_str().unwrap().starts_with("Canal");
    let home = homes.as_array().unwrap().iter().find(terrace).unwrap()["id"].as_str().unwrap().to_owned();
    let at = |rest: &str| format!("{}/api/homes/{home}{rest}", server.address);
    // Hardware addresses and a guest network, as an installer notes them.
    let mut setup = ask(http.get(at(""))).await["home"]["setups"][2].clone();
    for (index, device) in setup["devices"].as_array_mut().unwrap().iter_mut().enumerate() {
        device["hardware_address"] = json!(format!("02:1a:9f:00:3c:{index:02x}"));
        device["guest_network"] = json!("Kiln guests");
    }
    let id = setup["id"].as_str().unwrap().to_owned();
    let etag = http.get(at("")).send().await.unwrap().headers()["etag"].clone();
    ask(http.put(at(&format!("/setups/{id}"))).header("if-match", etag).json(&setup)).await;
    let path = folder.path().join("home.json");
    std::fs::write(&path, ask(http.get(at("/file"))).await.to_string()).unwrap();
    let (mut kit, report, pages) = stand_in_kit(&path);

    let looks =
        async || ask(http.post(at(&format!("/setups/{id}/kit-looks"))).json(&json!({ "kit_report": report }))).await;
    let landing = setup["devices"].as_array().unwrap().iter().find(|own| own["name"] == "Landing node").unwrap();
    let of = |view: &Value, step: &str| {
        let key = format!("{step} {}", landing["id"].as_str().unwrap());
        let ticks = view["view"]["ticks"].as_array().unwrap();
        ticks.iter().find(|own| own["step"] == key).cloned().unwrap_or_else(|| panic!("no {key}: {view}"))
    };
    let first = looks().await;
    let uplink = of(&first, "uplink seen");
    assert_eq!(uplink["outcome"]["kind"], "seen", "{uplink}");
    assert_eq!(uplink["by"], "stand-in kit, made up", "what is made up says so");
    let ticks = first["view"]["ticks"].as_array().unwrap();
    let (guests, others): (Vec<&Value>, Vec<&Value>) = ticks.iter().partition(|own| own["step"] == "guests apart");
    assert!(others.len() >= 5 && others.iter().all(|own| own["outcome"]["kind"] == "seen"), "{ticks:?}");
    assert!(guests[0]["note"].as_str().unwrap().ends_with("guests can not join it."), "{guests:?}");

    // A power cut: pages and knocks go, and come back.
    let off = report.replace("/report.json", "/off?for_ms=400");
    assert!(http.put(off).send().await.unwrap().status().is_success());
    let probe = async || {
        let address = pages[0].trim_start_matches("http://");
        let seen = ask(http.post(format!("{}/api/probe", server.address)).json(&json!({ "address": address }))).await;
        seen["answers"] == true
    };
    let until = async |wanted: bool| {
        let begun = Instant::now();
        while probe().await != wanted {
            assert!(begun.elapsed() < Duration::from_secs(10), "it never answered {wanted}");
        }
    };
    until(false).await;
    until(true).await;
    let begun = Instant::now();
    let after = loop {
        let now = looks().await;
        if !now["told"].to_string().contains("is not in the report") {
            break now;
        }
        assert!(begun.elapsed() < Duration::from_secs(10), "{}", now["told"]);
    };
    let uplink = of(&after, "uplink seen");
    assert_eq!(uplink["outcome"]["kind"], "not_seen", "{uplink}");
    assert_eq!(uplink["note"], "It hangs on Pottery point, by radio.");
    let moved = after["view"]["ticks"].as_array().unwrap().iter();
    let moved = moved.filter(|own| {
        own["step"].as_str().unwrap().starts_with("channels seen") && own["outcome"]["kind"] == "not_seen"
    });
    assert_eq!(moved.count(), 1, "one device's firmware moved its channels: {}", after["view"]["ticks"]);
    assert!(
        after["view"]["report"]["not_done"].to_string().contains("Landing node hangs on Front node"),
        "{}",
        after["view"]["report"]
    );
    let page = http.get(&pages[0]).send().await.unwrap().text().await.unwrap();
    assert!(page.contains("all of this is made up") && page.contains("<dt>light<dd>steady"), "{page}");
    kit.kill().unwrap();
    kit.wait().unwrap();

    // Kit that is gone, or no report, is told, and nothing changes.
    let path = at(&format!("/setups/{id}/kit-looks"));
    for wrong in [report.as_str(), "http://93.184.216.34/x", ""] {
        let answer = http.post(&path).json(&json!({ "kit_report": wrong })).send().await.unwrap();
        assert_eq!(answer.status(), 422, "{wrong}");
    }
}
