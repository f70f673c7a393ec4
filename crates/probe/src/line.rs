//! The line of a test: exchanges over a WebSocket, each answer with the count and the clock of the far side.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use busy_hen_home::raw::{Arrived, RoundTrip};
use busy_hen_units::Millis;
use futures_util::stream::{SplitSink, SplitStream};
use futures_util::{SinkExt, StreamExt};
use tokio::net::TcpStream;
use tokio::sync::watch;
use tokio::task::JoinHandle;
use tokio_tungstenite::tungstenite::Message;
use tokio_tungstenite::{MaybeTlsStream, WebSocketStream, connect_async};

type Socket = WebSocketStream<MaybeTlsStream<TcpStream>>;

/// What goes on while an exchange is under way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Part {
    Idle,
    Down,
    Up,
}

/// What the line has shown.
#[derive(Debug, Default)]
pub(crate) struct Seen {
    pub idle: Vec<RoundTrip>,
    pub down: Vec<RoundTrip>,
    pub up: Vec<RoundTrip>,
    /// Counts of the far side during the upload, by its clock.
    pub received: Vec<Arrived>,
    pub broken: bool,
    asked: HashMap<u64, (f64, Part)>,
}

pub(crate) struct Line {
    sink: SplitSink<Socket, Message>,
    seen: Arc<Mutex<Seen>>,
    /// Number of the last exchange that was answered.
    answered: watch::Receiver<u64>,
    reader: JoinHandle<()>,
    began: Instant,
    number: u64,
}

impl Line {
    /// Opens the line and waits for its turn.
    pub async fn open(address: &str, began: Instant) -> Result<Self, String> {
        let (socket, _) = connect_async(address.replacen("http", "ws", 1)).await.map_err(|error| error.to_string())?;
        let (sink, mut stream) = socket.split();
        loop {
            match stream.next().await {
                Some(Ok(Message::Text(text))) if text.as_str() == "go" => break,
                Some(Ok(Message::Close(_)) | Err(_)) | None => return Err("the line was closed before its turn".into()),
                Some(Ok(_)) => {}
            }
        }
        let seen = Arc::new(Mutex::new(Seen::default()));
        let (tell, answered) = watch::channel(0);
        let reader = tokio::spawn(read(stream, Arc::clone(&seen), tell, began));
        Ok(Self { sink, seen, answered, reader, began, number: 0 })
    }

    /// Begins an exchange; false when the line is broken.
    pub async fn exchange(&mut self, part: Part) -> bool {
        self.number += 1;
        let at = self.began.elapsed().as_secs_f64() * 1000.0;
        self.seen.lock().unwrap_or_else(PoisonError::into_inner).asked.insert(self.number, (at, part));
        self.sink.send(Message::text(self.number.to_string())).await.is_ok() && !self.reader.is_finished()
    }

    /// Makes an exchange; false when it was not answered in time.
    pub async fn exchange_and_wait(&mut self, part: Part, patience: Duration) -> bool {
        if !self.exchange(part).await {
            return false;
        }
        let number = self.number;
        let answered = self.answered.wait_for(|last| *last >= number);
        matches!(tokio::time::timeout(patience, answered).await, Ok(Ok(_)))
    }

    /// Ends the line: what it has shown.
    pub async fn close(mut self) -> Seen {
        let broken = self.reader.is_finished();
        let _ = self.sink.close().await;
        self.reader.abort();
        let mut seen = std::mem::take(&mut *self.seen.lock().unwrap_or_else(PoisonError::into_inner));
        seen.broken = broken;
        seen
    }
}

async fn read(mut stream: SplitStream<Socket>, seen: Arc<Mutex<Seen>>, tell: watch::Sender<u64>, began: Instant) {
    while let Some(Ok(message)) = stream.next().await {
        let Message::Text(text) = message else { continue };
        let now = began.elapsed().as_secs_f64() * 1000.0;
        let mut words = text.as_str().split(' ');
        let (number, bytes, far) = (words.next(), words.next(), words.next());
        let Some((number, (bytes, far))) = number
            .and_then(|number| number.parse::<u64>().ok())
            .zip(bytes.and_then(|bytes| bytes.parse().ok()).zip(far.and_then(|far| far.parse::<f64>().ok())))
        else {
            continue;
        };
        let mut seen = seen.lock().unwrap_or_else(PoisonError::into_inner);
        let Some((at, part)) = seen.asked.remove(&number) else { continue };
        let far_ms = Millis::new(far);
        let trip = RoundTrip { at_ms: Millis::new(at), took_ms: Millis::new(now - at), far_ms };
        match part {
            Part::Idle => seen.idle.push(trip),
            Part::Down => seen.down.push(trip),
            Part::Up => {
                seen.up.push(trip);
                seen.received.push(Arrived { at_ms: far_ms, bytes });
            }
        }
        drop(seen);
        tell.send_if_modified(|last| {
            let newer = number > *last;
            *last = number.max(*last);
            newer
        });
    }
}
