//! Bytes in both directions.

use std::sync::{Arc, LazyLock};
use std::time::Duration;

use actix_web::body::SizedStream;
use actix_web::http::header::{self, ContentEncoding};
use actix_web::web::{Data, Payload, Query};
use actix_web::{HttpRequest, HttpResponse};
use bytes::Bytes;
use futures_util::{StreamExt, stream};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

use tokio::time::{Instant, timeout};

use crate::connection::{Progress, Sending, cut_when_stalled};
use crate::far_side::{Asked, FarSide, Refused};
use crate::guests::Guest;

/// Most bytes of one request in either direction: no test of some seconds needs more.
const MOST: u64 = 4 << 30;

/// A transfer of which nothing comes or goes for so long has ended: more than a gap that a phone waits through.
const STALLS: Duration = Duration::from_secs(10);
/// Longest that one may take: as a turn.
const LONGEST: Duration = Duration::from_secs(90);

/// What is sent, over and over: random, so that nothing on the way can make it smaller.
static BLOCK: LazyLock<Bytes> = LazyLock::new(|| {
    let mut block = vec![0; 256 * 1024];
    ChaCha8Rng::seed_from_u64(1).fill_bytes(&mut block);
    Bytes::from(block)
});

pub(crate) async fn down(
    far: Data<FarSide>,
    asked: Query<Asked>,
    request: HttpRequest,
) -> Result<HttpResponse, actix_web::Error> {
    far.of(&asked, &request, false).await?;
    let held = far.transfers.take(Guest::of(&asked.token, &request)).ok_or(Refused::TooMany)?;
    let total = asked.bytes.min(MOST);
    let progress = Arc::new(Progress::default());
    cut_when_stalled(&request, Arc::clone(&progress), STALLS, LONGEST);
    let sending = (held, Sending(progress));
    let blocks = stream::unfold((total, sending), |(left, sending)| async move {
        sending.1.0.step();
        let part = BLOCK.slice(..BLOCK.len().min(usize::try_from(left).unwrap_or(usize::MAX)));
        (left > 0).then(|| (Ok::<_, std::io::Error>(part.clone()), (left - part.len() as u64, sending)))
    });
    Ok(HttpResponse::Ok()
        .content_type("application/octet-stream")
        .insert_header((header::CACHE_CONTROL, "no-store, no-transform"))
        .insert_header(ContentEncoding::Identity)
        .body(SizedStream::new(total, Box::pin(blocks))))
}

pub(crate) async fn up(
    far: Data<FarSide>,
    asked: Query<Asked>,
    request: HttpRequest,
    mut body: Payload,
) -> Result<HttpResponse, actix_web::Error> {
    let seen = far.of(&asked, &request, false).await?;
    let _held = far.transfers.take(Guest::of(&asked.token, &request)).ok_or(Refused::TooMany)?;
    let (mut total, until) = (0, Instant::now() + LONGEST);
    while let Some(part) = timeout(STALLS, body.next()).await.map_err(|_| Refused::Stalled)? {
        if Instant::now() > until {
            return Err(Refused::Stalled.into());
        }
        let part = part?;
        seen.count(part.len());
        total += part.len() as u64;
        if total > MOST {
            break;
        }
    }
    Ok(HttpResponse::NoContent().insert_header((header::CACHE_CONTROL, "no-store")).finish())
}
