//! Open pages hear of changes made elsewhere, over a WebSocket of the running program.

use std::time::Duration;

use futures_util::{SinkExt, StreamExt};
use serde_json::{Value, json};
use tokio::net::TcpStream;
use tokio_tungstenite::tungstenite::client::IntoClientRequest;
use tokio_tungstenite::tungstenite::{Error, Message};
use tokio_tungstenite::{MaybeTlsStream, WebSocketStream, connect_async};

use crate::rig::serve;

type Page = WebSocketStream<MaybeTlsStream<TcpStream>>;

/// What is told next; none when the server ends it.
async fn next(page: &mut Page) -> Option<Value> {
    loop {
        match tokio::time::timeout(Duration::from_secs(20), page.next()).await.expect("an answer in time") {
            Some(Ok(Message::Text(text))) => return Some(serde_json::from_str(text.as_str()).unwrap()),
            Some(Ok(Message::Ping(_) | Message::Pong(_))) => {}
            _ => return None,
        }
    }
}

async fn refused(address: String, header: Option<(&'static str, &'static str)>) -> u16 {
    let mut request = address.into_client_request().unwrap();
    if let Some((name, value)) = header {
        request.headers_mut().insert(name, value.parse().unwrap());
    }
    match connect_async(request).await {
        Err(Error::Http(answer)) => answer.status().as_u16(),
        other => panic!("taken: {other:?}"),
    }
}

#[tokio::test]
async fn every_open_page_is_told_where_a_home_stands_until_it_is_gone() {
    let folder = tempfile::tempdir().unwrap();
    let server = serve(&folder.path().join("live.db"), &[]);
    let http = reqwest::Client::builder().no_proxy().build().unwrap();
    let new = json!({ "name": "Rope walk", "region": "GB", "units": "m" });
    let home: Value =
        http.post(format!("{}/api/homes", server.address)).json(&new).send().await.unwrap().json().await.unwrap();
    let path = format!("/api/homes/{}", home["id"].as_str().unwrap());
    let socket = format!("{}{path}/live", server.address.replace("http", "ws"));

    let (mut one, _) = connect_async(&socket).await.unwrap();
    let (mut other, _) = connect_async(&socket).await.unwrap();
    let first = next(&mut one).await.unwrap();
    assert_eq!(first["revision"], home["revision"]);
    assert_eq!(next(&mut other).await.unwrap(), first);
    // What a page sends is of no account, and takes nobody's line away.
    one.send(Message::text("nonsense")).await.unwrap();

    let brief = json!({ "name": "Rope loft", "region": "GB", "units": "m", "brief": home["home"]["brief"] });
    let answer = http
        .put(format!("{}{path}/brief", server.address))
        .header("if-match", format!("\"{}\"", home["revision"]))
        .json(&brief)
        .send()
        .await
        .unwrap();
    let changed: Value = answer.json().await.unwrap();
    for page in [&mut one, &mut other] {
        let told = next(page).await.unwrap();
        assert_eq!(told["revision"], changed["revision"]);
        assert!(told["revision"].as_i64() > first["revision"].as_i64());
    }

    http.delete(format!("{}{path}", server.address)).send().await.unwrap().error_for_status().unwrap();
    for page in [&mut one, &mut other] {
        assert_eq!(next(page).await.unwrap(), json!({ "revision": null, "readings": null }));
        assert_eq!(next(page).await, None, "there is nothing more to tell");
    }
    assert_eq!(refused(socket.clone(), None).await, 404);
}

#[tokio::test]
async fn pages_of_other_sites_hear_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let server = serve(&folder.path().join("live.db"), &[]);
    let socket = format!("{}/api/homes/{}/live", server.address.replace("http", "ws"), uuid::Uuid::new_v4());
    assert_eq!(refused(socket.clone(), None).await, 404);
    assert_eq!(refused(socket.clone(), Some(("origin", "http://elsewhere.example"))).await, 403);
    assert!([403, 421].contains(&refused(socket, Some(("host", "elsewhere.example"))).await));
}
