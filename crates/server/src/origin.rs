//! Who may call: the server listens where every page in the same browser can reach it, and a page may even give its own name to our
//! address. So the name that we are called by must be one of ours, on reads too, and a browser's word that another origin asks is heeded.

use std::net::IpAddr;

/// The names that the server may be called by.
#[derive(Debug, Clone, Default)]
pub struct Names {
    /// Whether other machines may call it for as long as it runs.
    pub open_to_network: bool,
    /// Host names that lead to it, besides `localhost`.
    pub more: Vec<String>,
}

impl Names {
    /// Whether a `Host` header names this server.
    ///
    /// Addresses can't be given away to somebody else's name, so any will do on an open server and loopback ones on a closed one.
    #[must_use]
    pub fn own(&self, host: &str, open: bool) -> bool {
        let name = match host.strip_prefix('[') {
            Some(rest) => rest.split_once(']').map_or("", |(name, _)| name),
            None => host.rsplit_once(':').map_or(host, |(name, _)| name),
        };
        match name.parse::<IpAddr>() {
            Ok(address) => open || address.is_loopback(),
            Err(_) => {
                name.eq_ignore_ascii_case("localhost") || self.more.iter().any(|own| own.eq_ignore_ascii_case(name))
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_that_somebody_gave_to_our_address_is_not_ours() {
        let closed = Names::default();
        for own in ["localhost", "localhost:8080", "127.0.0.1:8080", "[::1]:8080", "LOCALHOST:1"] {
            assert!(closed.own(own, false), "{own}");
        }
        for foreign in ["evil.example:8080", "192.168.1.5:8080", "", "localhost.evil.example", "[::2]:1"] {
            assert!(!closed.own(foreign, false), "{foreign}");
        }
        let open = Names { open_to_network: true, more: vec!["bench.local".into()] };
        assert!(
            open.own("192.168.1.5:8080", true) && open.own("Bench.local:8080", true) && !open.own("evil.example", true)
        );
    }
}
