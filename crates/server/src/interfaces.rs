//! The machine's own interfaces: under which addresses a phone may find it, and what its cable lets through.

use std::net::IpAddr;

use if_addrs::IfAddr;
use serde::Serialize;
use utoipa::ToSchema;

/// An address of this machine.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Interface {
    /// The address.
    #[schema(value_type = String)]
    pub address: IpAddr,
    /// What the system calls the interface.
    pub name: String,
    /// Whether it is of Wi-Fi; none when the system does not tell.
    pub wireless: Option<bool>,
    /// Negotiated speed of its cable, Mb/s; none when the system does not tell.
    pub port_mbps: Option<u32>,
    /// Length of the network's part of the address, bits.
    #[serde(skip)]
    prefix: u32,
}

impl Interface {
    /// Whether an address lies in the network of this interface.
    fn holds(&self, address: IpAddr) -> bool {
        let same = |own: u128, other: u128, bits: u32| {
            let free = bits - self.prefix.min(bits);
            free >= 128 || own >> free == other >> free
        };
        match (self.address, address) {
            (IpAddr::V4(own), IpAddr::V4(other)) => same(u32::from(own).into(), u32::from(other).into(), 32),
            (IpAddr::V6(own), IpAddr::V6(other)) => same(own.into(), other.into(), 128),
            _ => false,
        }
    }
}

/// All addresses at which other machines may find this one, or only its own when none but it may call.
#[must_use]
pub fn interfaces(open_to_network: bool) -> Vec<Interface> {
    let found = if_addrs::get_if_addrs().unwrap_or_default().into_iter();
    found
        .filter(|own| own.is_loopback() != open_to_network && !own.is_link_local())
        .map(|own| {
            let prefix = match &own.addr {
                IfAddr::V4(v4) => u32::from(v4.netmask).count_ones(),
                IfAddr::V6(v6) => u128::from(v6.netmask).count_ones(),
            };
            let told = |file: &str| std::fs::read_to_string(format!("/sys/class/net/{}/{file}", own.name)).ok();
            Interface {
                address: own.ip(),
                wireless: told("type")
                    .map(|_| std::path::Path::new(&format!("/sys/class/net/{}/wireless", own.name)).exists()),
                // The system says -1 where it does not know.
                port_mbps: told("speed").and_then(|text| text.trim().parse().ok()),
                prefix,
                name: own.name,
            }
        })
        .collect()
}

/// Whether an address is of a network that this machine is in.
#[must_use]
pub fn of_home(address: IpAddr) -> bool {
    address.is_loopback() || interfaces(true).iter().any(|own| own.holds(address))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(address: &str, prefix: u32) -> Interface {
        let address = address.parse().expect("an address");
        Interface { address, name: String::new(), wireless: None, port_mbps: None, prefix }
    }

    #[test]
    fn a_network_holds_its_own_addresses_and_no_others() {
        let holds = |own: &str, prefix, other: &str| at(own, prefix).holds(other.parse().expect("an address"));
        assert!(holds("192.168.1.5", 24, "192.168.1.77") && !holds("192.168.1.5", 24, "192.168.2.77"));
        assert!(holds("10.1.2.3", 8, "10.200.0.1") && !holds("10.1.2.3", 8, "100.64.0.1"));
        assert!(holds("fd00::1", 64, "fd00::abcd") && !holds("fd00::1", 64, "fd00:0:0:1::1"));
        assert!(!holds("192.168.1.5", 24, "fd00::1") && holds("1.2.3.4", 0, "9.9.9.9"));
    }

    #[test]
    fn a_closed_server_is_found_on_its_own_machine_only() {
        assert!(interfaces(false).iter().all(|own| own.address.is_loopback()));
        assert!(interfaces(true).iter().all(|own| !own.address.is_loopback()));
        assert!(of_home("127.0.0.1".parse().expect("an address")));
    }
}
