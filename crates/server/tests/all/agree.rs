//! What views say of one thing is one figure, and nothing that is offered breaks a rule that the findings hold: over the demo, homes of practice
//! and homes of any shape, with and without readings. `AGREE_HOMES` says how many of the last there are.

use std::collections::BTreeSet;

use actix_web::body::MessageBody;
use actix_web::dev::{Service, ServiceResponse};
use actix_web::http::{Method, StatusCode};
use busy_hen_demo::{canal_terrace, gasworks_flat, lock_house};
use busy_hen_home::{Complaint, ComplaintId, Doors, Home, HomeId, RoomId, Round, RoundId, Situation, Source, TestKind};
use busy_hen_store::{RoundRecord, Whole};
use busy_hen_testkit::homes::any_home;
use busy_hen_testkit::practice;
use busy_hen_testkit::runs::{BEGUN, round, run, tested};
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;
use serde_json::{Value, json};

use crate::rig;
use crate::rig::api;

/// Homes of any shape in a short run.
const FEW: u64 = 6;
/// Rooms of a home that are looked into one by one.
const ROOMS: usize = 4;

/// A home as it stands in storage, and what is found wrong with what is said of it.
struct Asked<'a, S> {
    api: &'a rig::Api<S>,
    id: HomeId,
    name: String,
    wrong: Vec<String>,
    /// Complaints whose answers were looked at.
    complaints: usize,
}

/// Readings of every spot in a home's first setup: some fast, some slow, some none.
fn readings(home: &Home, rng: &mut ChaCha8Rng) -> Vec<(RoundRecord, Vec<busy_hen_home::Run>)> {
    let spots: Vec<_> = home.house.spots.iter().map(|own| own.id).collect();
    let Some(setup) = home.setups.first().filter(|_| !spots.is_empty()) else { return Vec::new() };
    let kinds = [TestKind::Internet, TestKind::Local];
    let of_kind = |kind: TestKind| {
        let own = round("agree", setup.id, spots.clone());
        let own = Round {
            id: RoundId::random(),
            kind,
            doors: Doors::AsLeft,
            situation: Situation::Alone,
            client: "phone_ax".into(),
            ..own
        };
        let mut runs = Vec::new();
        for spot in &spots {
            let typical = rng.random_range(0.3_f64..6.0).exp();
            for _ in 0..rng.random_range(0..4) {
                let down = typical * rng.random_range(0.7..1.3);
                runs.push(busy_hen_home::Run { source: Source::Typed, ..run(&own, *spot, down) });
            }
        }
        (RoundRecord { tested: tested(home, &own), round: own }, runs)
    };
    kinds.map(of_kind).into()
}

/// A complaint about every room in which something is done.
fn complained_of(home: &Home) -> Vec<Complaint> {
    let rooms: BTreeSet<RoomId> = home.brief.uses.iter().map(|own| own.room_id).collect();
    let about = |room: RoomId| Complaint {
        id: ComplaintId::random(),
        words: "it is slow".into(),
        room_id: Some(room),
        comes_and_goes: false,
        hours: None,
        answer: String::new(),
    };
    rooms.into_iter().map(about).collect()
}

/// The rules that are broken and must not be; a copy's devices are others, so they are not told apart. What is found for its gain alone is told
/// when that is large enough: it was there before.
fn grave(findings: &Value) -> BTreeSet<String> {
    let own =
        findings.as_array().into_iter().flatten().filter(|own| own["grave"] == true && own["basis"] != "computed");
    own.map(|own| own["rule"].to_string()).collect()
}

fn close(a: &Value, b: &Value) -> bool {
    match (a.as_f64(), b.as_f64()) {
        (Some(a), Some(b)) => (a - b).abs() <= 1e-9 * a.abs().max(1.0),
        _ => a == b,
    }
}

impl<S, B> Asked<'_, S>
where
    S: Service<actix_http::Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    B: MessageBody + 'static,
{
    fn at(&self, rest: &str) -> String {
        format!("/api/homes/{}{rest}", self.id)
    }

    fn same(&mut self, what: &str, a: &Value, b: &Value) {
        if !close(a, b) {
            self.wrong.push(format!("{}: {what}: {a} beside {b}", self.name));
        }
    }

    fn holds(&mut self, what: impl FnOnce() -> String, so: bool) {
        if !so {
            self.wrong.push(format!("{}: {}", self.name, what()));
        }
    }

    async fn post(&self, rest: &str, body: Value) -> Value {
        let (status, answer) = self.api.send(Method::POST, &self.at(rest), body).await;
        assert!(status.is_success(), "{} {rest}: {answer}", self.name);
        answer
    }

    async fn figures(&mut self, setup: &Value, view: &Value, kind: &str, situation: &str) {
        let id = setup["id"].as_str().unwrap();
        let ask =
            json!({ "client": "phone_ax", "band": null, "situation": situation, "doors": "as_left", "kind": kind });
        let of = |what: &str| format!("/setups/{id}/{what}");
        let light =
            self.post(&of("coverage"), json!({ "ask": ask, "layer": { "kind": "works" }, "moved": null })).await;
        let ledger = light["ledger"].as_array().unwrap().clone();
        let zones = self.post(&of("dead-zones"), json!({ "ask": ask })).await;
        let zones = zones.as_array().unwrap().clone();
        let column = json!({ "setup_id": id });
        let compared = json!({
            "columns": [column], "reference": 0, "kind": kind, "client": "phone_ax", "situation": situation
        });
        let compared = self.post("/compare", compared).await;
        let told = format!("{} {kind} {situation}", setup["letter"].as_str().unwrap());

        for row in ledger.iter().take(ROOMS) {
            let what = |of: &str| format!("{told}, {}: {of}", row["name"]);
            if row["spot_id"].is_null() {
                continue;
            }
            let place = json!({ "ask": ask, "spot_id": row["spot_id"], "level_id": null, "x_m": null, "y_m": null, "moved": null });
            let chain = self.post(&of("chain"), place).await;
            let (got, own) = (&chain["prediction"], &row["predicted"]);
            for way in ["down", "up"] {
                self.same(&what(&format!("{way} of chain and ledger")), &got[way]["middle"], &own[way]["middle"]);
                if !chain["chain"].is_null() {
                    let arrives = &chain["chain"][format!("arrives_{way}_mbps")];
                    self.same(
                        &what(&format!("what arrives {way} and what is predicted")),
                        arrives,
                        &own[way]["middle"],
                    );
                }
            }
            if let Some(limiting) = chain["chain"]["limiting"].as_u64() {
                self.same(
                    &what("what limits"),
                    &chain["chain"]["links"][limiting as usize]["label"],
                    &row["limited_by"],
                );
            }
            let spot =
                |id: &Value| compared["rows"].as_array().unwrap().iter().find(|own| own["spot_id"] == *id).cloned();
            if let Some(beside) = spot(&row["spot_id"]) {
                let cell = &beside["cells"][0];
                self.same(
                    &what("predicted in the comparison and the ledger"),
                    &cell["predicted"][1],
                    &own["down"]["middle"],
                );
                self.same(&what("judged by prediction"), &cell["predicted_verdict"], &row["predicted_verdict"]);
                self.same(&what("needs"), &beside["need"], &row["need"]);
            }
            // Read under the same conditions it is the same reading.
            if let Some(beside) = spot(&row["measured_spot_id"]).filter(|_| row["measured_under"].is_null()) {
                let cell = &beside["cells"][0];
                self.same(
                    &what("measured in the comparison and the ledger"),
                    &cell["shown"],
                    &row["measured"]["down_mbps"]["median"],
                );
                self.same(&what("judged by readings"), &cell["verdict"], &row["measured_verdict"]);
            }
            // What is judged goes by what was measured, where there is any.
            let (judged, measured) = (&row["judged"], &row["measured_verdict"]);
            if !measured.is_null() && row["made_up"] == false {
                self.same(&what("verdict"), &judged["verdict"], measured);
                self.holds(|| what("a measured verdict is said to be predicted"), judged["measured"] == true);
            }
        }

        // Dead zones are what the ledger and the map say they are.
        for row in &ledger {
            let zone = zones.iter().find(|own| own["room_id"] == row["room_id"]);
            let short = row["predicted_verdict"] == "not_met" || row["measured_verdict"] == "not_met";
            let what = |of: &str| format!("{told}, {}: {of}", row["name"]);
            self.holds(|| what("not met, and no dead zone"), !short || zone.is_some() || row["no_port"] == true);
            let Some(zone) = zone else { continue };
            self.holds(|| what("a dead zone of a room that needs nothing"), !row["need"].is_null());
            let part = zone["area_m2"].as_f64().unwrap() / zone["room_area_m2"].as_f64().unwrap().max(0.01);
            let likely = zone["likely_part"].as_f64().unwrap();
            self.holds(|| what(&format!("all of it, yet {likely} likely: {zone}")), part < 0.9 || likely > 0.1);
            if row["measured_verdict"] == "not_met" && row["made_up"] == false {
                let short = &zone["short_of"];
                let low =
                    [("has_mbps", "needs_mbps", 1.0), ("has_ms", "needs_ms", -1.0)].iter().any(|(has, needs, sign)| {
                        short[*has]
                            .as_f64()
                            .zip(short[*needs].as_f64())
                            .is_some_and(|(has, needs)| sign * (needs - has) > 0.0)
                    });
                self.holds(|| what(&format!("measured short of what it has enough of: {zone}")), low);
            }
        }
        let lit = light["levels"].as_array().unwrap().iter().flat_map(|own| own["dead_zones"].as_array().unwrap());
        let lit: BTreeSet<String> = lit.map(|own| own["room_id"].to_string()).collect();
        let listed = zones.iter().filter(|own| own["area_m2"].as_f64().unwrap() > 0.0);
        let listed: BTreeSet<String> = listed.map(|own| own["room_id"].to_string()).collect();
        self.holds(|| format!("{told}: dead on the map {lit:?}, in the list {listed:?}"), lit == listed);

        // Rooms that get what they need are counted once.
        let needing = ledger.iter().filter(|own| !own["need"].is_null()).count();
        let met =
            ledger.iter().filter(|own| ["met", "likely"].contains(&own["predicted_verdict"].as_str().unwrap_or("")));
        let score = &compared["columns"][0]["score"];
        self.same(&format!("{told}: rooms with a need"), &score["rooms_with_need"], &json!(needing));
        self.same(&format!("{told}: rooms that are met"), &score["predicted_met"], &json!(met.clone().count()));
        let parts = self.api.get(&self.at(&of("parts"))).await;
        self.same(&format!("{told}: price"), &compared["columns"][0]["price"], &parts["total"]);

        if situation == "busy_evening" {
            let evening = self.post(&of("evening"), json!({ "ask": ask })).await;
            for room in evening["rooms"].as_array().unwrap() {
                let row = ledger.iter().find(|own| own["room_id"] == room["room_id"]).unwrap();
                let down = row["predicted"]["down"]["middle"].as_f64().unwrap();
                let reached = !room["served_by"].is_null();
                self.holds(
                    || format!("{told}, {}: nothing reaches it, beside {down}", row["name"]),
                    reached || down <= 0.0,
                );
            }
        } else if kind == "internet" {
            self.complaints(id, view).await;
        }
    }

    /// A complaint is answered with the figure of the ledger, for the device that the family uses there.
    async fn complaints(&mut self, setup: &str, view: &Value) {
        let brief = &view["home"]["brief"];
        let answers = self.api.get(&self.at(&format!("/setups/{setup}/complaints"))).await;
        for answer in answers.as_array().unwrap() {
            let all = brief["complaints"].as_array().unwrap();
            let complaint = all.iter().find(|own| own["id"] == answer["complaint_id"]).unwrap();
            let devices = brief["devices"].as_array().cloned().unwrap_or_default();
            let there = devices.iter().find(|own| own["room_id"] == complaint["room_id"]);
            let held = there.or_else(|| devices.iter().find(|own| own["room_id"].is_null()));
            let client = held.map_or(json!("phone_ax"), |own| own["class"].clone());
            let ask =
                json!({ "client": client, "band": null, "situation": "alone", "doors": "as_left", "kind": "internet" });
            let light = json!({ "ask": ask, "layer": { "kind": "works" }, "moved": null });
            let light = self.post(&format!("/setups/{setup}/coverage"), light).await;
            let ledger = light["ledger"].as_array().unwrap();
            let row = ledger.iter().find(|own| own["room_id"] == complaint["room_id"]).unwrap();
            // What goes by the home network alone is asked about that, and what has no port is told so.
            if row["need"].is_null() || row["no_port"] == true {
                continue;
            }
            self.complaints += 1;
            let told = answer["told"].as_str().unwrap();
            let down = row["predicted"]["down"]["middle"].as_f64().unwrap();
            let figure = if down < 10.0 { format!("{down:.1}") } else { format!("{down:.0}") };
            let so = down <= 0.0 || told.contains(&format!(" get {figure} "));
            self.holds(|| format!("complaint about {}: {told:?} beside {figure}", row["name"]), so);
        }
    }

    /// Nothing that is offered breaks what the setup keeps now.
    async fn offers(&mut self, setup: &Value, rng: &mut ChaCha8Rng) {
        let id = setup["id"].as_str().unwrap();
        let of = |what: &str| format!("/setups/{id}/{what}");
        let ask =
            json!({ "client": "phone_ax", "band": null, "situation": "alone", "doors": "as_left", "kind": "internet" });
        let findings = self.post(&of("findings"), json!({ "ask": ask })).await;
        let before = grave(&findings);
        let fixes: Vec<Value> =
            findings.as_array().unwrap().iter().filter(|own| own["fix"].is_string()).cloned().collect();
        for finding in fixes.iter().take(ROOMS) {
            let body =
                json!({ "ask": ask, "rule": finding["rule"], "device_id": finding["device_id"], "copy_named": null });
            self.tried(&of("mend"), body, (id, &before, &ask), &format!("fix {}", finding["fix"])).await;
        }
        let zones = self.post(&of("dead-zones"), json!({ "ask": ask })).await;
        for zone in zones.as_array().unwrap().iter().take(1) {
            let cures = self.post(&of("remedies"), json!({ "ask": ask, "room_id": zone["room_id"] })).await;
            for cure in cures.as_array().unwrap().iter().filter(|own| own["as_copy"] == true).take(ROOMS) {
                let body = json!({ "ask": ask, "room_id": zone["room_id"], "what": cure["what"] });
                self.tried(&of("try-remedy"), body, ("", &before, &ask), &format!("remedy {}", cure["what"])).await;
            }
        }
        // Kit as it is put up when nobody says more.
        let view = self.api.get(&self.at("")).await;
        let rooms: Vec<Value> = view["drawing"]["rooms"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|own| own["outdoors"] == false)
            .cloned()
            .collect();
        let keys = ["router_ax", "node_ax_dual", "node_ax_tri", "repeater_ac", "ap_ax", "ap_wall_ax", "mains_ac"];
        for key in keys {
            let Some(room) = rooms.choose(rng) else { break };
            let body = json!({ "kit": key, "room_id": room["room_id"] });
            self.tried(&of("devices"), body, (id, &before, &ask), &format!("{key} put into {}", room["name"])).await;
        }
    }

    /// Does something, looks what it breaks, and undoes it. Of an empty id the newest setup is looked at.
    async fn tried(
        &mut self,
        rest: &str,
        body: Value,
        (id, before, ask): (&str, &BTreeSet<String>, &Value),
        what: &str,
    ) {
        let (status, view) = self.api.send(Method::POST, &self.at(rest), body.clone()).await;
        if status == StatusCode::CONFLICT || status == StatusCode::UNPROCESSABLE_ENTITY {
            // Refused in words.
            return;
        }
        assert!(status.is_success(), "{}: {what}: {body}: {view}", self.name);
        let newest = view["home"]["setups"].as_array().unwrap().last().unwrap()["id"].as_str().unwrap().to_owned();
        let id = if id.is_empty() { newest.as_str() } else { id };
        let findings = self.post(&format!("/setups/{id}/findings"), json!({ "ask": ask })).await;
        // What goes by cable and by nothing else can't be put where no hole may be: the finding says so.
        let by_cable = ["router_ax", "ap_ax", "ap_wall_ax"].iter().any(|own| body["kit"] == *own);
        let excused = |rule: &String| by_cable && rule == "\"may_not_drill\"";
        let added: Vec<String> = grave(&findings).difference(before).filter(|own| !excused(own)).cloned().collect();
        let of_those = findings.as_array().unwrap().iter().filter(|own| added.contains(&own["rule"].to_string()));
        let told: Vec<String> = of_those.map(|own| format!("{} ({})", own["what"], own["fix"])).collect();
        self.holds(|| format!("{what} breaks {added:?}: {told:?}"), added.is_empty());
        let (status, answer) = self.api.send(Method::POST, &self.at("/undo"), json!({})).await;
        assert!(status.is_success(), "{}: {what}: {answer}", self.name);
    }

    async fn look(&mut self, rng: &mut ChaCha8Rng) {
        let view = self.api.get(&self.at("")).await;
        for setup in view["home"]["setups"].as_array().unwrap().iter().take(2) {
            for (kind, situation) in [("internet", "alone"), ("internet", "busy_evening"), ("local", "alone")] {
                self.figures(setup, &view, kind, situation).await;
            }
            self.offers(setup, rng).await;
            // The sheet fits what stands in the setup, each device once.
            let sheet = self.api.get(&self.at(&format!("/setups/{}/sheet", setup["id"].as_str().unwrap()))).await;
            let ids = |list: &Value, name: &str| -> Vec<String> {
                let mut own: Vec<String> = list.as_array().unwrap().iter().map(|own| own[name].to_string()).collect();
                own.sort();
                own
            };
            let (labels, devices) = (ids(&sheet["sheet"]["labels"], "device_id"), ids(&setup["devices"], "id"));
            self.holds(|| format!("labels of {labels:?} for {devices:?}"), labels == devices);
        }
        // The list of homes says what the ledger says.
        let heads = self.api.get("/api/homes").await;
        let head =
            heads.as_array().unwrap().iter().find(|own| own["id"] == self.id.to_string()).unwrap()["summary"].clone();
        let in_force = &head["in_force"];
        let all = view["home"]["setups"].as_array().unwrap();
        let Some(setup) = all.iter().find(|own| own["letter"] == in_force["letter"]) else { return };
        let ask =
            json!({ "client": "phone_ax", "band": null, "situation": "alone", "doors": "as_left", "kind": "internet" });
        let light = json!({ "ask": ask, "layer": { "kind": "works" }, "moved": null });
        let light = self.post(&format!("/setups/{}/coverage", setup["id"].as_str().unwrap()), light).await;
        if let Some(row) =
            light["ledger"].as_array().unwrap().iter().find(|own| own["name"] == in_force["worst"]["name"])
        {
            self.same(
                "the worst room in the list and the ledger",
                &in_force["worst"]["gets_mbps"],
                &row["predicted"]["down"]["middle"],
            );
        }
    }
}

#[actix_web::test]
async fn views_say_one_figure_of_one_thing_and_nothing_offered_breaks_a_rule() {
    let many = std::env::var("AGREE_HOMES").ok().and_then(|text| text.parse().ok()).unwrap_or(FEW);
    let api = api().await;
    let mut homes: Vec<(String, Home)> = vec![
        ("terrace".into(), canal_terrace()),
        ("flat".into(), gasworks_flat()),
        ("lock house".into(), lock_house()),
    ];
    let practised = ["brick-upstairs-rooms", "concrete-node-midway-rooms"];
    homes.extend(practised.map(|file| (file.to_owned(), practice::home(file))));
    homes.extend((0..many).map(|number| (format!("home {number}"), any_home(number))));
    let (mut wrong, mut complaints) = (Vec::new(), 0);
    for (index, (name, mut home)) in homes.into_iter().enumerate() {
        home.brief.complaints = complained_of(&home);
        let mut rng = ChaCha8Rng::seed_from_u64(index as u64);
        let id = HomeId::random();
        let rounds = if index % 2 == 0 { readings(&home, &mut rng) } else { Vec::new() };
        api.store.import(id, &Whole { rounds, ..Whole::new(home) }, BEGUN).await.unwrap();
        let mut asked = Asked { api: &api, id, name, wrong: Vec::new(), complaints: 0 };
        asked.look(&mut rng).await;
        wrong.extend(asked.wrong);
        complaints += asked.complaints;
    }
    assert!(complaints > 20, "{complaints} complaints were answered");
    assert!(wrong.is_empty(), "{} of them:\n{}", wrong.len(), wrong.join("\n"));
}
