//! The line of a test: a WebSocket over which it waits for its turn and then exchanges, idle and under load.

use std::sync::Arc;
use std::time::Duration;

use actix_web::rt;
use actix_web::web::{Data, Payload, Query};
use actix_web::{HttpRequest, HttpResponse};
use actix_ws::{Message, MessageStream, Session};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

use crate::{Asked, FarSide, Refused, Seen};

/// Longest that a test may hold its turn.
const LONGEST: Duration = Duration::from_secs(90);
/// Silence after which a test has ended.
const SILENCE: Duration = Duration::from_secs(15);
/// Longest exchange, bytes: a number.
const EXCHANGE_MOST: usize = 20;

pub(crate) async fn line(
    far: Data<FarSide>,
    asked: Query<Asked>,
    request: HttpRequest,
    body: Payload,
) -> Result<HttpResponse, actix_web::Error> {
    let seen = far.of(&asked, &request, true).await?;
    let (answer, session, messages) = actix_ws::handle(&request, body).map_err(|_| Refused::NoSocket)?;
    rt::spawn(hold(seen, Arc::clone(&far.turn), session, messages));
    Ok(answer)
}

async fn hold(seen: Arc<Seen>, turn: Arc<Semaphore>, mut session: Session, mut messages: MessageStream) {
    let Some(_turn) = wait(turn, &mut session, &mut messages).await else { return };
    if session.text("go").await.is_err() {
        return;
    }
    let _ = tokio::time::timeout(LONGEST, exchange(&seen, &mut session, &mut messages)).await;
    let _ = session.close(None).await;
}

/// Waits for the turn; none when the device went away meanwhile.
async fn wait(
    turn: Arc<Semaphore>,
    session: &mut Session,
    messages: &mut MessageStream,
) -> Option<OwnedSemaphorePermit> {
    if let Ok(free) = Arc::clone(&turn).try_acquire_owned() {
        return Some(free);
    }
    session.text("wait").await.ok()?;
    let own = turn.acquire_owned();
    tokio::pin!(own);
    loop {
        tokio::select! {
            turn = &mut own => return turn.ok(),
            message = messages.recv() => match message {
                Some(Ok(Message::Ping(bytes))) => session.pong(&bytes).await.ok()?,
                Some(Ok(Message::Close(_)) | Err(_)) | None => return None,
                Some(Ok(_)) => {}
            },
        }
    }
}

async fn exchange(seen: &Seen, session: &mut Session, messages: &mut MessageStream) {
    while let Ok(Some(Ok(message))) = tokio::time::timeout(SILENCE, messages.recv()).await {
        let sent = match message {
            Message::Text(number) if number.len() <= EXCHANGE_MOST => session.text(seen.answer(&number)).await,
            Message::Ping(bytes) => session.pong(&bytes).await,
            Message::Close(_) => return,
            _ => Ok(()),
        };
        if sent.is_err() {
            return;
        }
    }
}
