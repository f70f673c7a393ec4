//! The connection that a request came by, to be cut where the other end has stopped taking what is sent: nothing above it can end that.

use std::any::Any;
use std::net::Shutdown;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Duration;

use actix_web::HttpRequest;
use actix_web::dev::Extensions;
use actix_web::rt::{net::TcpStream, spawn};
use socket2::Socket;

/// How often one looks how far something has come.
const LOOKS: Duration = Duration::from_secs(1);

/// A connection, as it is noted when it is made.
#[derive(Debug, Clone)]
pub struct Connection(Arc<Socket>);

impl Connection {
    /// Notes a connection for the requests that come by it; to be given to a server's `on_connect`.
    pub fn note(connection: &dyn Any, notes: &mut Extensions) {
        if let Some(stream) = connection.downcast_ref::<TcpStream>() {
            Self::note_stream(stream, notes);
        }
    }

    /// The same of a plain stream, such as lies under an encrypted one.
    pub fn note_stream(stream: &TcpStream, notes: &mut Extensions) {
        if let Ok(own) = socket2::SockRef::from(stream).try_clone() {
            notes.insert(Self(Arc::new(own)));
        }
    }
}

/// How far something that is sent has come.
#[derive(Debug, Default)]
pub(crate) struct Progress {
    parts: AtomicU64,
    ended: AtomicBool,
}

impl Progress {
    pub fn step(&self) {
        self.parts.fetch_add(1, Ordering::Relaxed);
    }
}

/// Tells that what was sent has ended, when it is dropped.
#[derive(Debug)]
pub(crate) struct Sending(pub Arc<Progress>);

impl Drop for Sending {
    fn drop(&mut self) {
        self.0.ended.store(true, Ordering::Relaxed);
    }
}

/// Cuts the connection of a request when nothing more of an answer could be sent for so long, or not all of it within so long.
pub(crate) fn cut_when_stalled(request: &HttpRequest, progress: Arc<Progress>, stalls: Duration, longest: Duration) {
    let Some(Connection(socket)) = request.conn_data::<Connection>().cloned() else { return };
    spawn(async move {
        let (mut last, mut still, mut whole) = (0, Duration::ZERO, Duration::ZERO);
        while !progress.ended.load(Ordering::Relaxed) {
            if still >= stalls || whole >= longest {
                let _ = socket.shutdown(Shutdown::Both);
                return;
            }
            tokio::time::sleep(LOOKS).await;
            let now = progress.parts.load(Ordering::Relaxed);
            still = if now == last { still + LOOKS } else { Duration::ZERO };
            (last, whole) = (now, whole + LOOKS);
        }
    });
}
