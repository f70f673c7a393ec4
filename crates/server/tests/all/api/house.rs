//! The house by the interface: drawn, dragged, in and out.

use actix_web::http::{Method, StatusCode};
use busy_hen_home::HomeId;
use serde_json::{Value, json};

use crate::rig::api;

#[actix_web::test]
async fn a_house_is_drawn_before_it_is_saved_and_wrong_lines_lose_nothing() {
    let api = api().await;
    let mut house = api.house().await;
    let lines = house["levels"][0]["lines"].as_str().unwrap().replace("Kitchen 4.8", "Kitchen 4.8 by mistake");
    house["levels"][0]["lines"] = lines.into();
    let (status, drawn) = api.send(Method::POST, &api.at("/drawing"), house.clone()).await;
    assert_eq!(status, StatusCode::OK);
    assert!(drawn["faults"][0]["message"].as_str().unwrap().contains("No size here"));
    assert_eq!(api.view().await["drawing"]["rooms"].as_array().unwrap().len(), 12, "nothing was saved");
    let (status, saved) = api.send(Method::PUT, &api.at("/house"), house).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(saved["home"]["house"]["rooms"].as_array().unwrap().len(), 12, "unplaced, but not lost");
    assert_eq!(saved["home"]["brief"]["uses"].as_array().unwrap().len(), 12);
}

#[actix_web::test]
async fn what_is_dragged_is_written_into_the_lines_and_nothing_is_saved() {
    let api = api().await;
    let before = api.view().await;
    let asked = async |change: Value| {
        let body = json!({ "house": api.house().await, "changes": [change], "snap": true });
        api.send(Method::POST, &api.at("/house/rewrite"), body).await
    };
    let wall = json!({ "what": "move_side", "room": "Pottery", "part": 0, "side": "south", "by_m": 0.52 });
    let (status, written) = asked(wall).await;
    assert_eq!(status, StatusCode::OK, "{written}");
    assert!(written["levels"][0]["lines"].as_str().unwrap().contains("Pottery 4.4 x 4.7 south of Garden"));
    let rooms = written["drawing"]["rooms"].as_array().unwrap();
    let pottery = rooms.iter().find(|room| room["name"] == "Pottery").unwrap();
    assert!((pottery["depth_m"].as_f64().unwrap() - 4.7).abs() < 1e-9);
    assert_eq!(api.view().await, before);
    for (change, told) in [
        (json!({ "what": "move_side", "room": "Pottery", "part": 0, "side": "south", "by_m": -4.1 }), "too narrow"),
        (json!({ "what": "move_room", "room": "Nowhere", "east_m": 1.0, "south_m": 0.0 }), "no line of a room"),
        (json!({ "what": "set_size", "room": "Pottery", "part": 0, "size": "4 by wide" }), "No size here"),
        (json!({ "what": "set_size", "room": "Pottery", "part": 7, "size": "4 x 4" }), "no such part"),
        (json!({ "what": "move_room", "room": "Pottery", "east_m": 1e9, "south_m": 0.0 }), "too far away"),
    ] {
        let (status, problem) = asked(change).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(problem["detail"].as_str().unwrap().contains(told), "{problem}");
    }
}

#[actix_web::test]
async fn a_house_goes_out_as_text_and_comes_in_and_a_bad_text_changes_nothing() {
    let api = api().await;
    let (status, kind, text) = api.raw(Method::GET, &api.at("/house.txt"), None).await;
    assert!(status.is_success() && kind.starts_with("text/plain"), "{kind}");
    assert!(text.lines().count() < 60, "the demo home in few lines");
    let before = api.view().await;
    let (status, same) = api.send(Method::PUT, &api.at("/house-text"), json!({ "text": text })).await;
    assert_eq!(status, StatusCode::OK, "{same}");
    assert_eq!(same["home"], before["home"], "without loss");
    let bad = text.replace("level First", "levels Frist");
    let bad = format!("{}\nlevel Ground, 2.7 high", bad);
    let (status, problem) = api.send(Method::PUT, &api.at("/house-text"), json!({ "text": bad })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().unwrap().contains("already a level called Ground"), "{problem}");
    assert_eq!(api.view().await["home"], before["home"]);
}

#[actix_web::test]
async fn a_change_of_unit_changes_no_length() {
    let api = api().await;
    let before = api.view().await;
    let home = &before["home"];
    let body = json!({ "name": home["name"], "region": home["region"], "units": "ft", "brief": home["brief"] });
    let (status, after) = api.send(Method::PUT, &api.at("/brief"), body).await;
    assert_eq!(status, StatusCode::OK);
    for part in ["rooms", "walls", "openings", "stairs", "faults"] {
        let without_places = |view: &Value| -> Vec<Value> {
            let mut list = view["drawing"][part].as_array().unwrap().clone();
            list.iter_mut().for_each(|own| drop(own.as_object_mut().unwrap().remove("said_by")));
            list
        };
        assert_eq!(without_places(&after), without_places(&before), "{part}");
    }
}

#[actix_web::test]
async fn lengths_are_read_and_drawings_go_out() {
    let api = api().await;
    let read = api.get("/api/length?typed=12%276&unit=ft").await;
    assert!((read["metres"].as_f64().unwrap() - 3.81).abs() < 1e-9);
    let (status, _, told) = api.raw(Method::GET, "/api/length?typed=wide&unit=m", None).await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && told.contains("is not a length"), "{told}");
    let collection = api.get(&api.at("/house.geojson")).await;
    assert_eq!(collection["type"], "FeatureCollection");
    assert!(collection["coordinates_are"].as_str().unwrap().contains("not longitude and latitude"));
    let features = collection["features"].as_array().unwrap();
    let count = |kind: &str| features.iter().filter(|own| own["properties"]["kind"] == kind).count();
    assert_eq!((count("room"), count("area"), count("line_entry")), (11, 1, 1));
    let level = api.view().await["home"]["house"]["levels"][0]["id"].as_str().unwrap().to_owned();
    let (status, kind, svg) = api.raw(Method::GET, &api.at(&format!("/house.svg?level={level}")), None).await;
    assert!(status.is_success() && kind.starts_with("image/svg+xml"), "{kind}");
    assert!(svg.contains("Pottery") && svg.contains("1 : 200"), "{svg}");
    let (status, _, _) = api.raw(Method::GET, &api.at(&format!("/house.svg?level={}", HomeId::random())), None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}
