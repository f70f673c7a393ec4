//! Bytes in both directions.

use std::sync::LazyLock;

use actix_web::body::SizedStream;
use actix_web::http::header::{self, ContentEncoding};
use actix_web::web::{Data, Payload, Query};
use actix_web::{HttpRequest, HttpResponse};
use bytes::Bytes;
use futures_util::{StreamExt, stream};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

use crate::{Asked, FarSide};

/// Most bytes of one request in either direction: no test of some seconds needs more.
const MOST: u64 = 4 << 30;

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
    let total = asked.bytes.min(MOST);
    let blocks = stream::unfold(total, |left| async move {
        let part = BLOCK.slice(..BLOCK.len().min(usize::try_from(left).unwrap_or(usize::MAX)));
        (left > 0).then(|| (Ok::<_, std::io::Error>(part.clone()), left - part.len() as u64))
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
    let mut total = 0;
    while let Some(part) = body.next().await {
        let part = part?;
        seen.count(part.len());
        total += part.len() as u64;
        if total > MOST {
            break;
        }
    }
    Ok(HttpResponse::NoContent().insert_header((header::CACHE_CONTROL, "no-store")).finish())
}
