//! Whether two machines of one home reached a far end by the same line.

use std::net::IpAddr;

/// Bits of an IPv6 address that a line's own prefix has at least (RFC 6177: sites get a /48 to a /64; the shortest is compared).
const SITE_BITS: u32 = 48;

/// Whether the far end saw both come from one line; none where that can't be told, since one came by IPv4 and the other by IPv6.
///
/// Machines behind one router share its public IPv4 address (RFC 3022), or lie in one IPv6 site. A relay that hides a phone, a VPN
/// and mobile data come from elsewhere.
#[must_use]
pub fn same_line(one: IpAddr, other: IpAddr) -> Option<bool> {
    match (one.to_canonical(), other.to_canonical()) {
        (IpAddr::V4(one), IpAddr::V4(other)) => Some(one == other),
        (IpAddr::V6(one), IpAddr::V6(other)) => {
            let site = |address: std::net::Ipv6Addr| u128::from(address) >> (128 - SITE_BITS);
            Some(site(one) == site(other))
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_relay_is_told_from_the_line_where_both_have_addresses_of_one_kind() {
        // Addresses of documentation (RFC 5737, RFC 3849).
        for (one, other, same) in [
            ("203.0.113.9", "203.0.113.9", Some(true)),
            ("203.0.113.9", "::ffff:203.0.113.9", Some(true)),
            ("203.0.113.9", "198.51.100.7", Some(false)),
            ("2001:db8:1:2::5", "2001:db8:1:ff::9", Some(true)),
            ("2001:db8:1:2::5", "2001:db8:2:2::5", Some(false)),
            ("203.0.113.9", "2001:db8:1:2::5", None),
        ] {
            assert_eq!(same_line(one.parse().unwrap(), other.parse().unwrap()), same, "{one} {other}");
        }
    }
}
