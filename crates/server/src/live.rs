//! Tells open tabs of changes made elsewhere, over a WebSocket: event streams would use up a browser's connections.

use std::time::Duration;

use actix_web::web::{Data, Path, Payload};
use actix_web::{HttpRequest, HttpResponse, get, rt};
use actix_ws::{Message, Session};
use busy_hen_home::HomeId;
use busy_hen_store::{Standing, StoreError};
use serde::Serialize;
use tokio::sync::broadcast::error::RecvError;
use utoipa::ToSchema;

use crate::error::ApiError;
use crate::problems::Reading;
use crate::state::AppState;

/// How often one looks without having been told: a change whose teller went away is found then.
const LOOK: Duration = Duration::from_secs(2);
/// A tab that has not answered for so long is gone.
const GONE: u32 = 15;

/// Where a home stands, as sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Standings {
    /// Number of the revision in force; none when the home was deleted.
    pub revision: Option<i64>,
    /// Number of the state of its rounds and runs.
    pub readings: Option<i64>,
}

/// Tells of every change of a home, as a WebSocket: first where it stands, then each time it stands elsewhere.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = SWITCHING_PROTOCOLS, description = "Messages are JSON text of the form `Standings`."), Reading))]
#[get("/homes/{home}/live")]
pub async fn live(
    state: Data<AppState>,
    home: Path<HomeId>,
    request: HttpRequest,
    body: Payload,
) -> Result<HttpResponse, ApiError> {
    let home = *home;
    let told = state.store.listen();
    state.store.standing(home).await?;
    let (answer, session, messages) =
        actix_ws::handle(&request, body).map_err(|_| ApiError::Query("this address is a WebSocket".into()))?;
    rt::spawn(tell(state, home, session, messages, told));
    Ok(answer)
}

async fn tell(
    state: Data<AppState>,
    home: HomeId,
    mut session: Session,
    mut messages: actix_ws::MessageStream,
    mut told: tokio::sync::broadcast::Receiver<HomeId>,
) {
    let mut last = None;
    let mut silent = 0;
    loop {
        let now = match state.store.standing(home).await {
            Ok(Standing { revision, readings }) => Standings { revision: Some(revision), readings: Some(readings) },
            Err(StoreError::NotFound(_)) => Standings { revision: None, readings: None },
            Err(_) => break,
        };
        if last != Some(now) {
            let Ok(text) = serde_json::to_string(&now) else { break };
            if session.text(text).await.is_err() {
                return;
            }
            last = Some(now);
        }
        if now.revision.is_none() {
            break;
        }
        loop {
            tokio::select! {
                change = told.recv() => match change {
                    Ok(changed) if changed == home => break,
                    Ok(_) => {}
                    Err(RecvError::Lagged(_)) => break,
                    Err(RecvError::Closed) => return,
                },
                message = messages.recv() => match message {
                    Some(Ok(Message::Ping(bytes))) => {
                        silent = 0;
                        if session.pong(&bytes).await.is_err() { return; }
                    }
                    Some(Ok(Message::Close(_)) | Err(_)) | None => return,
                    Some(Ok(_)) => silent = 0,
                },
                () = tokio::time::sleep(LOOK) => {
                    silent += 1;
                    if silent > GONE || session.ping(b"").await.is_err() { return; }
                    break;
                }
            }
        }
    }
    let _ = session.close(None).await;
}
