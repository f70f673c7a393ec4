//! Attacks on a bench that other machines reach, through its real doors: every operation in every spelling by whoever has no right to it, lines and transfers
//! that one code opens by the hundred, bodies that never end, and connections that say nothing. Those that take minutes are in the long run.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::sync::Arc;
use std::time::{Duration, Instant};

use busy_hen_home::{HomeId, RoundId, SetupId};
use busy_hen_server::tokens::digest;
use busy_hen_store::{Editor, RoundRecord, Store};
use busy_hen_testkit::runs::{BEGUN, round, tested};
use futures_util::{SinkExt, StreamExt};
use jiff::{SignedDuration, Timestamp};
use rustls::pki_types::ServerName;
use rustls::{ClientConfig, ClientConnection, RootCertStore, StreamOwned};
use serde_json::Value;
use tokio_tungstenite::connect_async;
use tokio_tungstenite::tungstenite::Message;
use uuid::Uuid;

use crate::rig::{Server, serve};

/// A database with the terrace, a round, a code that is open and one whose time is over.
async fn database(file: &Path, round_id: RoundId) {
    let store = Store::open(file).await.unwrap();
    let (home, terrace) = (HomeId::named("terrace"), busy_hen_demo::canal_terrace());
    store.create(home, &terrace, BEGUN).await.unwrap();
    let round =
        busy_hen_home::Round { id: round_id, ..round("r", terrace.setups[0].id, vec![terrace.house.spots[0].id]) };
    let record = RoundRecord { tested: tested(&terrace, &round), round };
    let now = Timestamp::now();
    store.create_round(home, 1, &record, "begin", (&Editor::default(), now)).await.unwrap();
    let hour = SignedDuration::from_hours(1);
    for code in ["open", "greedy", "phone"] {
        store.pair(&digest(code), round_id, (now, now + hour), false).await.unwrap();
    }
    store.pair(&digest("expired"), round_id, (now - hour * 13, now - hour), false).await.unwrap();
    store.close().await;
}

/// A connection to the bench, plain or encrypted, that says exactly what it is told to.
enum Door {
    Plain(TcpStream),
    Encrypted(Box<StreamOwned<ClientConnection, TcpStream>>),
}

impl Read for Door {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        match self {
            Self::Plain(own) => own.read(into),
            Self::Encrypted(own) => own.read(into),
        }
    }
}

impl Write for Door {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        match self {
            Self::Plain(own) => own.write(bytes),
            Self::Encrypted(own) => own.write(bytes),
        }
    }

    fn flush(&mut self) -> std::io::Result<()> {
        match self {
            Self::Plain(own) => own.flush(),
            Self::Encrypted(own) => own.flush(),
        }
    }
}

fn plain(server: &Server) -> TcpStream {
    let address = server.address.split_once("://").unwrap().1;
    let stream = TcpStream::connect(address).unwrap();
    stream.set_read_timeout(Some(Duration::from_secs(30))).unwrap();
    stream
}

/// What a request is answered: status, type and text, and whether the connection then ends.
struct Answer {
    ends: bool,
    status: u16,
    kind: String,
    text: String,
}

/// Says a request and hears its answer, over a connection that stays.
fn say(door: &mut Door, method: &str, target: &str, headers: &str) -> Answer {
    let body = if ["POST", "PUT"].contains(&method) { "{}" } else { "" };
    let kind = if body.is_empty() { String::new() } else { "content-type: application/json\r\n".to_owned() };
    let request = format!(
        "{method} {target} HTTP/1.1\r\nhost: 127.0.0.1\r\n{kind}{headers}content-length: {}\r\n\r\n{body}",
        body.len()
    );
    door.write_all(request.as_bytes()).unwrap();
    door.flush().unwrap();
    let mut head = Vec::new();
    while !head.ends_with(b"\r\n\r\n") {
        let mut byte = [0];
        assert_eq!(door.read(&mut byte).unwrap(), 1, "{method} {target}: {}", String::from_utf8_lossy(&head));
        head.push(byte[0]);
    }
    let head = String::from_utf8(head).unwrap();
    let header = |name: &str| {
        let mut lines = head.lines().filter_map(|line| line.split_once(": "));
        lines.find(|(own, _)| own.eq_ignore_ascii_case(name)).map(|(_, value)| value.to_owned())
    };
    let length = header("content-length").map_or(0, |own| own.parse().unwrap());
    let mut text = vec![0; length];
    door.read_exact(&mut text).unwrap();
    let status = head.split(' ').nth(1).unwrap().parse().unwrap();
    Answer {
        // What was sent and not read is not read later either.
        ends: header("connection").is_some_and(|own| own == "close") || !body.is_empty(),
        status,
        kind: header("content-type").unwrap_or_default(),
        text: String::from_utf8_lossy(&text).into_owned(),
    }
}

/// The ways to write a path that might be read as another.
fn spellings(path: &str) -> Vec<String> {
    let encoded = |at: usize| format!("{}%{:02x}{}", &path[..at], path.as_bytes()[at], &path[at + 1..]);
    let last = path.len() - 1;
    vec![
        path.to_owned(),
        encoded(1),
        encoded(2),
        encoded(last),
        path.bytes().map(|own| if own == b'/' { "/".to_owned() } else { format!("%{own:02X}") }).collect(),
        format!("/{path}"),
        path.replacen("/api/", "/api//", 1),
        path.replacen("/api/", "/api/./", 1),
        path.replacen("/api/", "/x/../api/", 1),
        path.replacen("/api/", "/api/lock/../", 1),
        path.replacen("/api/", "/api%2f", 1),
        path.replacen("/api/", "/%2561pi/", 1),
        path.replacen("/api/", "/API/", 1),
        path.replacen("/api/", "/api/phone/../", 1),
        format!("{path}/"),
        format!("{path}?x=/api/lock"),
        format!("http://127.0.0.1{path}"),
    ]
}

/// To whom an operation is open.
#[derive(Clone, Copy, PartialEq)]
enum OpenTo {
    All,
    Phones,
    Nobody,
}

/// What nobody who has no right to it may be answered: anything but that it is locked, that there is nothing, or a page.
fn holds(answer: &Answer, open: OpenTo, caller: &str, what: &str) {
    let problem = serde_json::from_str::<Value>(&answer.text).unwrap_or_default();
    let harmless = match (answer.status, problem["code"].as_str()) {
        (401, Some("locked" | "not_paired")) | (404, Some("not_found")) | (405, Some("method")) | (400, _) => true,
        // The front end answers every other address with its page, which holds nothing.
        (200, _) => answer.kind.starts_with("text/html"),
        // A code whose time is over may still send what was measured before; an empty body is nothing such.
        (403, Some("pairing_over")) | (415 | 422, _) => open == OpenTo::Phones && caller == "expired",
        _ => false,
    };
    let its_own = open == OpenTo::All || open == OpenTo::Phones && caller == "phone";
    assert!(harmless || its_own, "{caller}: {what}: {} {}", answer.status, answer.text);
}

async fn every_operation_in_every_spelling(encrypted: bool) {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    let round = RoundId::random();
    database(&file, round).await;
    let made = rcgen::generate_simple_self_signed(vec!["localhost".into(), "127.0.0.1".into()]).unwrap();
    let (cert, key) = (folder.path().join("cert.pem"), folder.path().join("key.pem"));
    std::fs::write(&cert, made.cert.pem()).unwrap();
    std::fs::write(&key, made.signing_key.serialize_pem()).unwrap();
    let mut words = vec!["--open-to-network"];
    if encrypted {
        words.extend(["--tls-cert", cert.to_str().unwrap(), "--tls-key", key.to_str().unwrap()]);
    }
    let server = serve(&file, &words);
    let mut roots = RootCertStore::empty();
    roots.add(made.cert.der().clone()).unwrap();
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let config = ClientConfig::builder_with_provider(provider).with_safe_default_protocol_versions().unwrap();
    let config = Arc::new(config.with_root_certificates(roots).with_no_client_auth());
    let open = move || {
        let stream = plain(&server);
        if !encrypted {
            return Door::Plain(stream);
        }
        let name = ServerName::try_from("localhost").unwrap();
        let connection = ClientConnection::new(Arc::clone(&config), name).unwrap();
        Door::Encrypted(Box::new(StreamOwned::new(connection, stream)))
    };
    let tried = tokio::task::spawn_blocking(move || {
        let document = serde_json::to_value(busy_hen_server::openapi()).unwrap();
        let (home, setup) = (HomeId::named("terrace").to_string(), SetupId::named("A").to_string());
        let mut tried = 0;
        for (path, operations) in document["paths"].as_object().unwrap() {
            let is_open = match path.as_str() {
                "/api/lock" => OpenTo::All,
                "/api/phone" | "/api/phone/runs" | "/api/phone/pictures" => OpenTo::Phones,
                _ => OpenTo::Nobody,
            };
            let path = path.replace("{home}", &home).replace("{setup}", &setup).replace("{round}", &round.to_string());
            // Whatever else there is, by an id that is none.
            let path: String = path
                .split('/')
                .map(|part| if part.starts_with('{') { round.to_string() } else { part.to_owned() })
                .collect::<Vec<_>>()
                .join("/");
            let mut door = open();
            for method in ["get", "post", "put", "delete"].iter().filter(|method| operations[**method].is_object()) {
                for spelling in spellings(&path) {
                    for (caller, headers) in [
                        ("nobody", String::new()),
                        ("phone", "busy-hen-phone: open\r\n".to_owned()),
                        ("expired", "busy-hen-phone: expired\r\ncookie: busy-hen-session=guessed\r\n".to_owned()),
                    ] {
                        let answer = say(&mut door, &method.to_uppercase(), &spelling, &headers);
                        holds(&answer, is_open, caller, &format!("{method} {spelling}"));
                        tried += 1;
                        if answer.ends || answer.status == 400 {
                            door = open();
                        }
                    }
                }
            }
        }
        // Nothing was read, changed or deleted: the home is there for whoever gets in.
        let mut door = open();
        let set = "{\"pass_phrase\":\"clay, glaze and kiln\"}";
        let request = format!(
            "PUT /api/lock HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\ncontent-length: {}\r\n\r\n{set}",
            set.len()
        );
        door.write_all(request.as_bytes()).unwrap();
        let mut answer = [0; 4096];
        let read = door.read(&mut answer).unwrap();
        let head = String::from_utf8_lossy(&answer[..read]).into_owned();
        let cookie = head.lines().find_map(|line| line.strip_prefix("set-cookie: ")).unwrap();
        assert_eq!(cookie.contains("; Secure"), encrypted, "{cookie}");
        let cookie = cookie.split(';').next().unwrap().to_owned();
        let inside = say(&mut door, "GET", &format!("/api/homes/{home}"), &format!("cookie: {cookie}\r\n"));
        let view: Value = serde_json::from_str(&inside.text).unwrap();
        assert_eq!((inside.status, &view["revision"]), (200, &serde_json::json!(2)), "{}", inside.text);
        // What is open stays so: pages, what they load, tests by their own codes.
        for (target, kind) in
            [("/", "text/html"), ("/phone", "text/html"), ("/homes/x", "text/html"), ("/icon.svg", "image/svg+xml")]
        {
            let page = say(&mut door, "GET", target, "");
            assert!(page.status == 200 && page.kind.starts_with(kind), "{target}: {} {}", page.status, page.kind);
        }
        assert_eq!(say(&mut door, "GET", "/measure/seen?token=open", "").status, 200);
        assert_eq!(say(&mut door, "GET", "/measure/seen?token=expired", "").status, 401);
        let nothing = say(&mut door, "GET", "/api/nothing/here", &format!("cookie: {cookie}\r\n"));
        assert!(nothing.status == 404 && nothing.kind.starts_with("application/problem+json"), "{}", nothing.kind);
        tried
    });
    let tried = tried.await.unwrap();
    assert!(tried > 4000, "{tried}");
}

#[tokio::test(flavor = "multi_thread")]
async fn no_spelling_of_any_operation_passes_the_lock() {
    every_operation_in_every_spelling(false).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn no_spelling_of_any_operation_passes_the_lock_of_the_encrypted_door() {
    every_operation_in_every_spelling(true).await;
}

fn line(server: &Server, code: &str, turn: &str) -> String {
    let socket = server.address.replacen("http", "ws", 1);
    format!("{socket}/measure/line?token={code}&test={}&turn={turn}", Uuid::new_v4())
}

/// One code opens lines by the hundred; another phone tests all the same, and soon.
#[tokio::test(flavor = "multi_thread")]
async fn one_code_does_not_keep_others_from_testing() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &[]);
    let mut held = Vec::new();
    let mut refused = 0;
    for _ in 0..200 {
        match connect_async(line(&server, "greedy", "alone")).await {
            Ok((socket, _)) => held.push(socket),
            Err(error) => {
                assert!(error.to_string().contains("429"), "{error}");
                refused += 1;
            }
        }
    }
    assert_eq!((held.len(), refused), (64, 136));
    drop(held.split_off(40));
    // Those that hold and wait say nothing at all: the turn passes on when the first is silent.
    let began = Instant::now();
    let (mut phone, _) = loop {
        if let Ok(own) = connect_async(line(&server, "phone", "alone")).await {
            break own;
        }
        tokio::task::yield_now().await;
    };
    let heard = async {
        loop {
            match phone.next().await.unwrap().unwrap() {
                Message::Text(text) if text.as_str() == "go" => break,
                _ => {}
            }
        }
    };
    tokio::time::timeout(Duration::from_secs(30), heard).await.expect("its turn");
    assert!(began.elapsed() < Duration::from_secs(30));
    phone.send(Message::text("1")).await.unwrap();
    let answer = phone.next().await.unwrap().unwrap().into_text().unwrap();
    assert!(answer.as_str().starts_with("1 0 "), "{answer}");
}

/// A line that measures gaps is kept through one of any length, and goes on where it was; only its turn passes on.
#[tokio::test(flavor = "multi_thread")]
async fn a_silent_call_or_walk_keeps_its_line_and_a_vanished_phone_gives_way_within_seconds() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &[]);
    let said = async |socket: &mut tokio_tungstenite::WebSocketStream<_>, word: &str| {
        while socket.next().await.unwrap().unwrap().into_text().unwrap().as_str() != word {}
    };
    let (mut call, _) = connect_async(line(&server, "phone", "alone")).await.unwrap();
    said(&mut call, "go").await;
    let (mut walk, _) = connect_async(line(&server, "phone", "beside")).await.unwrap();
    said(&mut walk, "go").await;
    let began = Instant::now();
    let (mut next, _) = connect_async(line(&server, "open", "alone")).await.unwrap();
    tokio::time::timeout(Duration::from_secs(20), said(&mut next, "go")).await.expect("the silent one gives way");
    assert!(began.elapsed() > Duration::from_secs(6), "a gap as long as an exchange may take is no vanishing");
    for silent in [&mut call, &mut walk] {
        silent.send(Message::text("7")).await.unwrap();
        let answer = silent.next().await.unwrap().unwrap().into_text().unwrap();
        assert!(answer.as_str().starts_with("7 "), "{answer}");
    }
}

/// Bodies that go on for ever, by whoever has shown no right to send one, are answered before they are read.
#[tokio::test(flavor = "multi_thread")]
async fn whoever_may_not_send_is_answered_before_anything_is_read_of_it() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &["--open-to-network"]);
    let asked = tokio::task::spawn_blocking(move || {
        for (target, kind, expected) in [
            ("/api/home-files", "application/json", "401"),
            ("/api/phone/runs", "application/json", "401"),
            (
                "/api/phone/pictures?id=00000000-0000-4000-8000-000000000000&at=2026-11-02T03:00:00Z",
                "image/jpeg",
                "401",
            ),
            ("/measure/up?token=nobody&test=00000000-0000-4000-8000-000000000000", "application/octet-stream", "401"),
            ("/api/lock", "application/json", "413"),
        ] {
            let mut stream = plain(&server);
            let head = format!(
                "POST {target} HTTP/1.1\r\nhost: 127.0.0.1\r\nbusy-hen-phone: nobody\r\ncontent-type: {kind}\r\ncontent-length: 3000000\r\n\r\n{{"
            );
            stream.write_all(head.as_bytes()).unwrap();
            let mut answer = [0; 512];
            let read = stream.read(&mut answer).unwrap();
            let answer = String::from_utf8_lossy(&answer[..read]).into_owned();
            assert_eq!(answer.split(' ').nth(1), Some(expected), "{target}: {answer}");
        }
    });
    asked.await.unwrap();
}

/// Connections that say nothing, or one byte now and then, take nothing from the page.
#[tokio::test(flavor = "multi_thread")]
async fn the_page_answers_while_hundreds_of_connections_say_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &["--open-to-network"]);
    let asked = tokio::task::spawn_blocking(move || {
        let mut silent: Vec<TcpStream> = (0..400).map(|_| plain(&server)).collect();
        for (number, stream) in silent.iter_mut().enumerate().filter(|(number, _)| number % 2 == 0) {
            let slow = if number % 4 == 0 {
                "GET / HT"
            } else {
                "POST /api/lock HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\ncontent-length: 40\r\n\r\n{"
            };
            stream.write_all(slow.as_bytes()).unwrap();
        }
        let mut door = Door::Plain(plain(&server));
        assert_eq!(say(&mut door, "GET", "/", "").status, 200);
        assert_eq!(say(&mut door, "GET", "/api/lock", "").status, 200);
        drop(silent);
    });
    asked.await.unwrap();
}

/// Hundreds ask for what takes a while and hang up: whoever asks next does not wait for all of that.
#[tokio::test]
async fn whoever_has_hung_up_is_computed_for_no_longer() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &[]);
    let (home, setup) = (HomeId::named("terrace"), SetupId::named("B"));
    let target = format!("/api/homes/{home}/setups/{setup}/findings");
    let ask = "{\"ask\":{\"client\":\"phone_ax\",\"band\":null,\"situation\":\"alone\",\"kind\":\"internet\"}}";
    let http = reqwest::Client::builder().no_proxy().build().unwrap();
    let took = async || {
        let began = Instant::now();
        let request =
            http.post(format!("{}{target}", server.address)).header("content-type", "application/json").body(ask);
        let answer = request.send().await.unwrap();
        assert_eq!(answer.status(), 200);
        answer.bytes().await.unwrap();
        began.elapsed()
    };
    took().await;
    let alone = took().await.max(took().await);
    for _ in 0..300 {
        let mut stream = plain(&server);
        let head = format!(
            "POST {target} HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\ncontent-length: {}\r\n\r\n{ask}",
            ask.len()
        );
        stream.write_all(head.as_bytes()).unwrap();
    }
    let after = took().await;
    assert!(after < alone * 40, "{after:?}, alone {alone:?}");
}

/// Thirty phones behind one address, with one code, all begin at the same moment.
#[tokio::test(flavor = "multi_thread")]
async fn thirty_phones_of_one_code_behind_one_address_test_at_once() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &[]);
    let http = reqwest::Client::builder().no_proxy().build().unwrap();
    let phone = async |test: Uuid| {
        let socket =
            format!("{}/measure/line?token=phone&test={test}&turn=beside", server.address.replacen("http", "ws", 1));
        let (mut line, _) = connect_async(socket).await.unwrap();
        assert_eq!(line.next().await.unwrap().unwrap().into_text().unwrap().as_str(), "go");
        let stream = async || {
            let path = format!("{}/measure/down?token=phone&test={test}&bytes=200000", server.address);
            http.get(path).send().await.unwrap().bytes().await.unwrap().len()
        };
        let streams = futures_util::future::join_all((0..4).map(|_| stream())).await;
        streams.into_iter().sum::<usize>()
    };
    let got = futures_util::future::join_all((0..30).map(|_| phone(Uuid::new_v4()))).await;
    assert_eq!(got, vec![800_000; 30]);
}

/// A download that nobody takes, an upload that stops coming and a pass phrase that never ends are cut, each by itself.
#[tokio::test(flavor = "multi_thread")]
async fn what_stalls_is_cut() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("attacked.db");
    database(&file, RoundId::random()).await;
    let server = serve(&file, &["--open-to-network"]);
    let test = Uuid::new_v4();
    let socket =
        format!("{}/measure/line?token=phone&test={test}&turn=beside", server.address.replacen("http", "ws", 1));
    let (_line, _) = connect_async(socket).await.unwrap();
    let cut = tokio::task::spawn_blocking(move || {
        let begin = |request: String| {
            let mut stream = plain(&server);
            stream.write_all(request.as_bytes()).unwrap();
            stream
        };
        let down = begin(format!(
            "GET /measure/down?token=phone&test={test}&bytes=2000000000 HTTP/1.1\r\nhost: 127.0.0.1\r\n\r\n"
        ));
        let mut up = begin(format!(
            "POST /measure/up?token=phone&test={test} HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 2000000000\r\n\r\nsome"
        ));
        let again = format!(
            "POST /measure/up?token=phone&test={test} HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 2000000000\r\n\r\nmore"
        );
        let mut words = begin(
            "POST /api/lock HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\ncontent-length: 90\r\n\r\n{".into(),
        );
        for stalled in [&mut up, &mut words] {
            let mut answer = [0; 64];
            let read = stalled.read(&mut answer).unwrap();
            assert!(String::from_utf8_lossy(&answer[..read]).starts_with("HTTP/1.1 408"), "{:?}", &answer[..read]);
        }
        // Once more as long: the download has stood still for twice what it may.
        let read = begin(again).read(&mut [0; 64]).unwrap();
        assert!(read > 0);
        // What was on its way still comes, then the end: far less than was asked for.
        let mut down = down;
        let (mut took, mut part) = (0, vec![0; 1 << 20]);
        while let Ok(read) = down.read(&mut part) {
            took += read;
            if read == 0 {
                break;
            }
        }
        took
    });
    let took = cut.await.unwrap();
    assert!(took < 500_000_000, "{took}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_far_end_takes_no_empty_token_and_bounds_what_one_opens() {
    let refused = std::process::Command::new(env!("CARGO_BIN_EXE_busy-hen"))
        .args(["far-end", "--listen", "127.0.0.1:0", "--token", ""])
        .output()
        .unwrap();
    assert!(
        !refused.status.success() && String::from_utf8_lossy(&refused.stderr).contains("empty token"),
        "{refused:?}"
    );
}
