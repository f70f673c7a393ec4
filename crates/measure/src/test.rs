//! The line of a test: a WebSocket over which it waits for its turn and then exchanges, idle and under load.

use std::sync::Arc;
use std::time::Duration;

use actix_web::web::{Data, Payload, Query};
use actix_web::{HttpRequest, HttpResponse, rt};
use actix_ws::{Message, MessageStream, Session};
use tokio::time::{Instant, timeout, timeout_at};

use crate::far_side::{Asked, AskedBy, FarSide, Gathering, Refused, Seen, Turn};
use crate::guests::{Guest, Held};
use crate::turns;
use crate::turns::Waiting;

/// Longest that a test may hold its turn.
const LONGEST: Duration = Duration::from_secs(90);
/// Silence after which a turn goes to the next: more than an exchange may take ([`PATIENCE_MS`] of the phone, 6 s). The line stays, for calls that measure
/// how long a gap is.
const GIVES_WAY: Duration = Duration::from_secs(8);
/// Silence after which a phone that waits for its turn has gone; it answers what it is asked meanwhile.
const ASKED_EVERY: Duration = Duration::from_secs(4);
/// Longest that exchanges without a test may go on, with gaps of any length: a walk through a house and round it, a drill until all is back.
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
    let guest = Guest::of(&asked.token, &request);
    let held = far.lines.take(guest).ok_or(Refused::TooMany)?;
    let (answer, session, messages) = actix_ws::handle(&request, body).map_err(|_| Refused::NoSocket)?;
    match asked.turn {
        Turn::Alone => rt::spawn(hold(held, seen, (far, guest), session, messages)),
        Turn::Beside => rt::spawn(beside(held, seen, session, messages)),
        Turn::Gather => rt::spawn(gathered(held, far.gather(), session, messages)),
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

/// A test that goes alone.
async fn hold(
    _held: Held,
    seen: Arc<Seen>,
    (far, guest): (Data<FarSide>, Guest),
    mut session: Session,
    mut messages: MessageStream,
) {
    let turn = match far.turns.take(guest) {
        Ok(turn) => Some(turn),
        Err(waiting) => wait(waiting, &mut session, &mut messages).await,
    };
    let Some(turn) = turn else { return };
    run(&seen, LONGEST, Some(turn), session, messages).await;
}

async fn beside(_held: Held, seen: Arc<Seen>, session: Session, messages: MessageStream) {
    run(&seen, LONGEST_BESIDE, None, session, messages).await;
}

async fn run(
    seen: &Seen,
    longest: Duration,
    turn: Option<turns::Turn>,
    mut session: Session,
    mut messages: MessageStream,
) {
    if session.text("go").await.is_err() {
        return;
    }
    let _ = timeout(longest, exchange(seen, turn, &mut session, &mut messages)).await;
    let _ = session.close(None).await;
}

/// Tells how long it is until all begin, and then to begin, and by which name they go together.
async fn gathered(_held: Held, own: Gathering, mut session: Session, mut messages: MessageStream) {
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

/// Waits for the turn; none when the device went away meanwhile, also without a word: it is asked for a sign of life.
async fn wait(mut own: Waiting, session: &mut Session, messages: &mut MessageStream) -> Option<turns::Turn> {
    session.text("wait").await.ok()?;
    let mut asked = false;
    let mut until = Instant::now() + ASKED_EVERY;
    loop {
        tokio::select! {
            turn = own.turn() => return turn,
            message = timeout_at(until, messages.recv()) => {
                match message {
                    Ok(Some(Ok(Message::Ping(bytes)))) => session.pong(&bytes).await.ok()?,
                    Ok(Some(Ok(Message::Close(_)) | Err(_)) | None) => return None,
                    Ok(Some(Ok(_))) => {}
                    Err(_) if asked => return None,
                    Err(_) => {
                        session.ping(b"").await.ok()?;
                        (asked, until) = (true, Instant::now() + GIVES_WAY);
                        continue;
                    }
                }
                (asked, until) = (false, Instant::now() + ASKED_EVERY);
            }
        }
    }
}

/// Answers until the device closes the line. Where it says nothing for a while its turn, if it has one, goes to the next, and the line stays.
async fn exchange(seen: &Seen, mut turn: Option<turns::Turn>, session: &mut Session, messages: &mut MessageStream) {
    loop {
        let message = match timeout(GIVES_WAY, messages.recv()).await {
            Ok(Some(Ok(message))) => message,
            Ok(_) => return,
            Err(_) => {
                drop(turn.take());
                continue;
            }
        };
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
