//! A far end beyond the line: serves tests and nothing else.

use std::net::{SocketAddr, TcpListener};

use busy_hen_measure::{FarSide, OneToken, serve_far_end};
use busy_hen_server::tokens::fresh;

/// Serves until interrupted.
pub fn far_end(listen: SocketAddr, token: Option<String>) -> Result<(), String> {
    actix_web::rt::System::new().block_on(async {
        let listener = TcpListener::bind(listen)
            .map_err(|error| format!("can't listen on {listen}: {error}; choose another with --listen"))?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        let token = token.unwrap_or_else(fresh);
        println!("The far end is at http://{address}#{token}");
        println!("Start the bench with --far-end and this address, as it is reached from the home.");
        serve_far_end(listener, FarSide::new(Box::new(OneToken(token))))
            .await
            .map_err(|error| format!("serving failed: {error}"))
    })
}
