//! The line of a test: a WebSocket over which it waits for its turn and then exchanges, idle and under load.

use std::sync::Arc;
use std::time::Duration;

use actix_web::rt;
use actix_web::web::{Data, Payload, Query};
use actix_web::{HttpRequest, HttpResponse};
use actix_ws::{Message, MessageStream, Session};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

use crate::{Asked, AskedBy, FarSide, Gathering, Refused, Seen, Turn};

/// Longest that a test may hold its turn.
const LONGEST: Duration = Duration::from_secs(90);
/// Silence after which a test has ended.
const SILENCE: Duration = Duration::from_secs(15);
/// Longest that exchanges without a test may go on: a walk through a house and round it.
const LONGEST_BESIDE: Duration = Duration::from_secs(30 * 60);
/// Longest exchange, bytes: a number, and what fills it up to the rate of a call.
const EXCHANGE_MOST: usize = 32 * 1024;

pub(crate) async fn line(
    far: Data<FarSide>,
    asked: Query<Asked>,
    request: HttpRequest,
    body: Payload,
) -> Result<HttpResponse, actix_web::Error> {
    let seen = far.of(&asked, &request, true).await?;
    let (answer, session, messages) = actix_ws::handle(&request, body).map_err(|_| Refused::NoSocket)?;
    match asked.turn {
        Turn::Alone => rt::spawn(hold(seen, Arc::clone(&far.turn), session, messages)),
        Turn::Beside => rt::spawn(beside(seen, session, messages)),
        Turn::Gather => rt::spawn(gathered(far.gather(), session, messages)),
    };
    Ok(answer)
}

/// The address that a device is seen to come from.
pub(crate) async fn seen(
    far: Data<FarSide>,
    asked: Query<AskedBy>,
    request: HttpRequest,
) -> Result<HttpResponse, actix_web::Error> {
    if !far.tokens.may_test(&asked.token).await {
        return Err(Refused::Token.into());
    }
    let address = request.peer_addr().map(|address| address.ip().to_canonical().to_string()).unwrap_or_default();
    Ok(HttpResponse::Ok().content_type("text/plain; charset=utf-8").body(address))
}

async fn hold(seen: Arc<Seen>, turn: Arc<Semaphore>, mut session: Session, mut messages: MessageStream) {
    let Some(_turn) = wait(turn, &mut session, &mut messages).await else { return };
    run(&seen, LONGEST, session, messages).await;
}

async fn beside(seen: Arc<Seen>, session: Session, messages: MessageStream) {
    run(&seen, LONGEST_BESIDE, session, messages).await;
}

async fn run(seen: &Seen, longest: Duration, mut session: Session, mut messages: MessageStream) {
    if session.text("go").await.is_err() {
        return;
    }
    let _ = tokio::time::timeout(longest, exchange(seen, &mut session, &mut messages)).await;
    let _ = session.close(None).await;
}

/// Tells how long it is until all begin, and then to begin, and by which name they go together.
async fn gathered(own: Gathering, mut session: Session, mut messages: MessageStream) {
    let left = own.begins.saturating_duration_since(std::time::Instant::now());
    if session.text(format!("wait {}", left.as_millis())).await.is_err() {
        return;
    }
    tokio::select! {
        () = tokio::time::sleep(left) => {
            let _ = session.text(format!("go {}", own.id)).await;
            let _ = session.close(None).await;
        }
        () = async { while let Some(Ok(_)) = messages.recv().await {} } => {}
    }
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
