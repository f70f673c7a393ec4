//! What the program tells whoever started it, and asks of the system.

/// Connections that a server takes at once, where the system lets it: beyond what a network full of slow or silent ones opens.
const CONNECTIONS: u64 = 16_384;

/// Tells whoever started the program; one who has stopped listening does not end it.
pub fn tell(line: impl std::fmt::Display) {
    use std::io::Write;
    let _ = writeln!(std::io::stdout(), "{line}");
}

/// Lets the program take many connections at once; what the system allows it of that is as much as can be had.
pub fn take_connections() {
    if let Err(error) = rlimit::increase_nofile_limit(CONNECTIONS) {
        tracing::warn!(%error, "the number of connections could not be raised");
    }
}
