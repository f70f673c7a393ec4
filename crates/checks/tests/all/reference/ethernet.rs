//! Ethernet goodput against the frame arithmetic of IEEE 802.3.

use busy_hen_predict::path::ethernet_goodput;
use busy_hen_testkit::checks::check;
use busy_hen_units::MbitPerSec;

#[test]
fn what_tcp_gets_of_a_port() {
    for (id, link) in [(77, 1000.0), (78, 100.0), (79, 2500.0), (181, 10.0), (182, 5000.0), (183, 10_000.0)] {
        check(id).assert(ethernet_goodput(MbitPerSec::new(link)).get());
    }
}

/// Common practice: a gigabit plan measures about 940 by wire.
#[test]
fn common_practice_about_940_by_wire_on_a_gigabit_plan() {
    let got = ethernet_goodput(MbitPerSec::new(1000.0)).get();
    assert!((got - 940.0).abs() < 5.0, "{got}");
}
