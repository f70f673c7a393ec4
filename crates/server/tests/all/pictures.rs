//! Pictures: taken in from the bench and from a phone, shown, taken along in the home file.

use actix_web::http::{Method, StatusCode};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use busy_hen_home::RoundId;
use busy_hen_server::tokens::digest;
use serde_json::{Value, json};
use uuid::Uuid;

use crate::rig::{With, api};

const AT: &str = "2026-11-20T10:00:00Z";

/// A PNG, made here so that the tests need no file.
fn png(width: u32, height: u32) -> Vec<u8> {
    let mut bytes = std::io::Cursor::new(Vec::new());
    image::RgbImage::from_pixel(width, height, image::Rgb([180, 120, 60]))
        .write_to(&mut bytes, image::ImageFormat::Png)
        .unwrap();
    bytes.into_inner()
}

/// A JPEG of some bytes whose head says that it is of this size (ITU-T T.81, B.2.2).
fn claims_to_be(width: u16, height: u16) -> Vec<u8> {
    let mut jpeg = Vec::new();
    image::RgbImage::new(16, 16).write_with_encoder(image::codecs::jpeg::JpegEncoder::new(&mut jpeg)).unwrap();
    let frame = jpeg.windows(2).position(|two| two == [0xff, 0xc0]).unwrap();
    jpeg[frame + 5..frame + 7].copy_from_slice(&height.to_be_bytes());
    jpeg[frame + 7..frame + 9].copy_from_slice(&width.to_be_bytes());
    jpeg
}

fn query(id: Uuid, what: &str, of: &Value, note: &str) -> String {
    format!("?id={id}&{what}={}&at={AT}&note={note}", of.as_str().unwrap())
}

#[actix_web::test]
async fn a_phone_takes_a_picture_once_of_its_own_home_and_the_bench_shows_it() {
    let api = api().await;
    let round = api.round().await;
    let id: RoundId = round["round"]["id"].as_str().unwrap().parse().unwrap();
    let now = jiff::Timestamp::now();
    let later = now + jiff::SignedDuration::from_hours(1);
    api.store.pair(&digest("camera"), id, (now, later), false).await.unwrap();
    let phone = With { phone: Some("camera"), kind: Some("image/png"), ..With::default() };
    let spot = &round["spots"][0]["spot_id"];
    let own = Uuid::new_v4();
    let path = format!("/api/phone/pictures{}", query(own, "spot", spot, "socket%20behind%20the%20bench"));
    for _ in 0..2 {
        let (status, _, body) = api.ask_bytes(Method::POST, &path, Some(png(2000, 1000)), phone.clone()).await;
        assert_eq!(status, StatusCode::CREATED, "{}", String::from_utf8_lossy(&body));
    }
    let list = api.get(&api.at("/pictures")).await;
    assert_eq!(list.as_array().unwrap().len(), 1, "sent twice, kept once");
    assert_eq!(list[0]["shows"], json!({ "kind": "spot", "spot_id": spot }));
    assert_eq!(list[0]["note"], "socket behind the bench");
    let (status, kind, jpeg) = api.ask_bytes(Method::GET, &format!("/api/pictures/{own}"), None, With::default()).await;
    assert_eq!((status, kind.as_str()), (StatusCode::OK, "image/jpeg"));
    let seen = image::load_from_memory_with_format(&jpeg, image::ImageFormat::Jpeg).unwrap();
    assert_eq!((seen.width(), seen.height()), (1280, 640));

    // Another picture under the same id is refused, and what is there stays.
    let (status, _, body) = api.ask_bytes(Method::POST, &path, Some(png(900, 900)), phone.clone()).await;
    assert_eq!(status, StatusCode::CONFLICT, "{}", String::from_utf8_lossy(&body));
    let (_, _, still) = api.ask_bytes(Method::GET, &format!("/api/pictures/{own}"), None, With::default()).await;
    assert_eq!(still, jpeg);
    // Ten kilobytes that unpack to gigabytes are told by their head.
    let huge = query(Uuid::new_v4(), "spot", spot, "");
    let claims = claims_to_be(60_000, 60_000);
    let (status, _, _) =
        api.ask_bytes(Method::POST, &format!("/api/phone/pictures{huge}"), Some(claims), phone.clone()).await;
    assert_eq!(status, StatusCode::UNSUPPORTED_MEDIA_TYPE);

    // Nothing that is not of this home, and nothing that is no picture.
    let stranger = query(Uuid::new_v4(), "spot", &json!(Uuid::new_v4().to_string()), "");
    let nothing = format!("?id={}&at={AT}", Uuid::new_v4());
    for path in [stranger, nothing] {
        let path = format!("/api/phone/pictures{path}");
        let (status, _, body) = api.ask_bytes(Method::POST, &path, Some(png(9, 9)), phone.clone()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{}", String::from_utf8_lossy(&body));
    }
    let path = format!("/api/phone/pictures{}", query(Uuid::new_v4(), "spot", spot, ""));
    let (status, _, body) = api.ask_bytes(Method::POST, &path, Some(b"<svg/>".to_vec()), phone.clone()).await;
    assert_eq!(status, StatusCode::UNSUPPORTED_MEDIA_TYPE);
    assert!(String::from_utf8_lossy(&body).contains("send a JPEG, PNG or WebP"));
    let nobody = With { phone: Some("nobody"), ..phone.clone() };
    assert_eq!(api.ask_bytes(Method::POST, &path, Some(png(9, 9)), nobody).await.0, StatusCode::UNAUTHORIZED);
    assert_eq!(api.get(&api.at("/pictures")).await.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn pictures_of_a_device_go_out_and_come_in_with_the_home_and_go_when_thrown_away() {
    let api = api().await;
    let device = api.view().await["home"]["setups"][0]["devices"][0]["id"].clone();
    let own = Uuid::new_v4();
    let path = api.at(&format!("/pictures{}", query(own, "device", &device, "")));
    let with = With { kind: Some("image/png"), ..With::default() };
    let (status, _, _) = api.ask_bytes(Method::POST, &path, Some(png(300, 200)), with).await;
    assert_eq!(status, StatusCode::CREATED);
    let mut file = api.get(&api.at("/file")).await;
    assert_eq!(file["pictures"][0]["picture"]["shows"]["device_id"], device);
    let (status, home) = api.send(Method::POST, "/api/home-files", file.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{home}");
    let path = format!("/api/homes/{}/pictures", home["id"].as_str().unwrap());
    let again = api.get(&path).await;
    assert_eq!(again[0]["shows"]["device_id"], device);
    assert_ne!(again[0]["id"], json!(own), "with a name of its own, so that a file can come in twice");

    // Out, in and out again it is the same, byte for byte; what somebody put behind it, or a camera into it, does not come in.
    let path = format!("/api/homes/{}/file", home["id"].as_str().unwrap());
    let second = api.get(&path).await;
    assert_eq!(second["pictures"][0]["jpeg"], file["pictures"][0]["jpeg"]);
    let bytes = STANDARD.decode(file["pictures"][0]["jpeg"].as_str().unwrap()).unwrap();
    let exif = [&bytes[..2], &[0xff, 0xe1, 0, 14], b"Exif\x00\x0051.5 N", &bytes[2..]].concat();
    for changed in [[&bytes[..], b"the key is under the pot"].concat(), exif] {
        file["pictures"][0]["jpeg"] = json!(STANDARD.encode(&changed));
        let (status, home) = api.send(Method::POST, "/api/home-files", file.clone()).await;
        assert_eq!(status, StatusCode::CREATED, "{home}");
        let path = format!("/api/homes/{}/pictures", home["id"].as_str().unwrap());
        let picture = format!("/api/pictures/{}", api.get(&path).await[0]["id"].as_str().unwrap());
        let (_, _, kept) = api.ask_bytes(Method::GET, &picture, None, With::default()).await;
        for note in [&b"pot"[..], b"51.5"] {
            assert!(!kept.windows(note.len()).any(|own| own == note));
        }
    }

    file["pictures"][0]["jpeg"] = json!("bm8gcGljdHVyZQ==");
    let (status, problem) = api.send(Method::POST, "/api/home-files", file).await;
    let fault = &problem["faults"][0]["pointer"];
    assert_eq!((status, fault), (StatusCode::UNPROCESSABLE_ENTITY, &json!("/pictures/0/jpeg")));

    let path = format!("/api/pictures/{own}");
    assert_eq!(api.ask(Method::DELETE, &path, None, With::default()).await.0, StatusCode::NO_CONTENT);
    assert_eq!(api.ask(Method::DELETE, &path, None, With::default()).await.0, StatusCode::NOT_FOUND);
    assert_eq!(api.ask(Method::GET, &path, None, With::default()).await.0, StatusCode::NOT_FOUND);
    assert_eq!(api.get(&api.at("/pictures")).await, json!([]));
}

#[actix_web::test]
async fn a_picture_of_a_phone_whose_clock_is_off_is_of_the_benchs_time_and_a_code_that_has_ended_sends_only_older_ones()
{
    let api = api().await;
    let round = api.round().await;
    let id: RoundId = round["round"]["id"].as_str().unwrap().parse().unwrap();
    let hours = jiff::SignedDuration::from_hours;
    let now = jiff::Timestamp::now();
    api.store.pair(&digest("open"), id, (now, now + hours(1)), false).await.unwrap();
    api.store.pair(&digest("ended"), id, (now - hours(13), now - hours(1)), false).await.unwrap();
    let spot = round["spots"][0]["spot_id"].as_str().unwrap().to_owned();
    let send = async |code: &str, at: jiff::Timestamp, sent_at: jiff::Timestamp| {
        let phone = With { phone: Some(code), kind: Some("image/png"), ..With::default() };
        let path = format!("/api/phone/pictures?id={}&spot={spot}&at={at}&sent_at={sent_at}&note=", Uuid::new_v4());
        let (status, _, body) = api.ask_bytes(Method::POST, &path, Some(png(20, 10)), phone).await;
        (status, serde_json::from_slice::<Value>(&body).unwrap())
    };
    for ahead in [hours(13), hours(-13), hours(24 * 365)] {
        let (status, kept) = send("open", now + ahead, now + ahead).await;
        assert_eq!(status, StatusCode::CREATED, "{kept}");
        let at: jiff::Timestamp = kept["at"].as_str().unwrap().parse().unwrap();
        assert!(at.duration_since(now).abs() < jiff::SignedDuration::from_secs(60), "{at}");
    }
    assert_eq!(send("ended", now, now).await.0, StatusCode::FORBIDDEN);
    assert_eq!(send("ended", now - hours(2), now).await.0, StatusCode::CREATED, "taken in time");
    assert_eq!(
        send("ended", now + hours(11), now + hours(13)).await.0,
        StatusCode::CREATED,
        "by a clock that is off too"
    );
}
