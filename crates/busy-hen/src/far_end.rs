//! A far end beyond the line: serves tests and nothing else.

use std::net::{SocketAddr, TcpListener};

use busy_hen_measure::{FarSide, OneToken, serve_far_end};
use busy_hen_server::tokens::fresh;
use busy_hen_standins::line::{Line, Plug};
use busy_hen_standins::plug;

/// Serves until interrupted.
pub fn far_end(
    listen: SocketAddr,
    token: Option<String>,
    line: Option<(Line, Option<SocketAddr>)>,
) -> Result<(), String> {
    crate::terminal::take_connections();
    actix_web::rt::System::new().block_on(async {
        let listener = TcpListener::bind(listen)
            .map_err(|error| format!("can't listen on {listen}: {error}; choose another with --listen"))?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        let token = token.unwrap_or_else(fresh);
        if token.is_empty() {
            return Err("an empty token would let anybody test; leave --token out, or give one".into());
        }
        crate::terminal::tell(format_args!("The far end is at http://{address}#{token}"));
        crate::terminal::tell("Start the bench with --far-end and this address, as it is reached from the home.");
        let far_side = FarSide::new(Box::new(OneToken(token)));
        let Some((line, hand)) = line else {
            return serve_far_end(listener, far_side).await.map_err(|error| format!("serving failed: {error}"));
        };
        crate::terminal::tell(
            "It stands behind a stand-in line: what is measured over it is made up, for trying things out.",
        );
        let behind = TcpListener::bind(("127.0.0.1", 0)).map_err(|error| error.to_string())?;
        let inside = behind.local_addr().map_err(|error| error.to_string())?;
        listener.set_nonblocking(true).map_err(|error| error.to_string())?;
        let outside = tokio::net::TcpListener::from_std(listener).map_err(|error| error.to_string())?;
        let plug = Plug::default();
        let pulled = async {
            let Some(hand) = hand else { return std::future::pending().await };
            let at = TcpListener::bind(hand)?;
            crate::terminal::tell(format_args!(
                "PUT http://{}/pull?for_ms=20000&second_after_ms=8000 pulls the line, and has a second one take over",
                at.local_addr()?
            ));
            plug::serve(at, plug.clone()).await
        };
        tokio::select! {
            pulled = pulled => pulled,
            served = serve_far_end(behind, far_side) => served,
            relayed = line.relay_by(outside, inside, &plug) => relayed,
        }
        .map_err(|error| format!("serving failed: {error}"))
    })
}
