//! Ethernet goodput against the frame arithmetic of IEEE 802.3.

use busy_hen_engine::path::ethernet_goodput;
use busy_hen_testkit::checks::check;
use busy_hen_units::MbitPerSec;

#[test]
fn what_tcp_gets_of_a_port() {
    for (id, link) in [(77, 1000.0), (78, 100.0), (79, 2500.0)] {
        check(id).assert(ethernet_goodput(MbitPerSec::new(link)).get());
    }
}
