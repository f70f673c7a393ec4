//! What is worth knowing before anyone plugs in, drills or climbs: cautions that belong to the things of a setup.

use busy_hen_floorplan::Plan;
use busy_hen_home::{CableClass, Circuit, Home, PowerLineClass, SetupId, Uplink, Via};
use busy_hen_job::cautions::cautions;
use busy_hen_units::{MbitPerSec, Metres};

fn minded(via: Option<Via>, change: impl FnOnce(&mut Home)) -> Vec<String> {
    let mut home = busy_hen_demo::canal_terrace();
    home.setups.retain(|setup| setup.id == SetupId::named("B"));
    let to = home.setups[0].devices[0].id;
    if let Some(via) = via {
        home.setups[0].devices[1].uplink = Some(Uplink::new(to, via));
    }
    change(&mut home);
    let plan = Plan::new(&home.house, home.units);
    cautions(&home, &home.setups[0], &plan).into_iter().map(|caution| caution.message).collect()
}

fn has(list: &[String], words: &str) -> bool {
    list.iter().any(|message| message.contains(words))
}

#[test]
fn what_hangs_on_the_mains_brings_its_caution_along() {
    let via = Via::PowerLine {
        class: PowerLineClass::Sold500,
        length_m: Metres::new(20.0),
        circuit: Circuit::Other,
        strips: 1,
        noisy: false,
        reported_mbps: None,
    };
    assert!(has(&minded(Some(via), |_| {}), "licensed electrician"));
    assert_eq!(minded(None, |_| {}), Vec::<String>::new(), "by radio there is nothing to mind");
}

#[test]
fn a_coax_pair_and_a_drilled_cable_bring_theirs() {
    let via = Via::Coax { length_m: Metres::new(20.0), splitters: 1, port_mbps: MbitPerSec::new(1000.0) };
    assert!(has(&minded(Some(via), |_| {}), "filter"));
    let cable = || Some(Via::cable(CableClass::Cat6));
    assert!(has(&minded(cable(), |home| home.brief.may_drill = false), "drilling"));
    assert!(!has(&minded(cable(), |_| {}), "drilling"), "the owner may");
}

#[test]
fn what_stands_out_in_the_garden_is_told() {
    let list = minded(None, |home| home.setups[0].devices[0].at.y_m = Metres::new(15.0));
    assert!(has(&list, "made for it"), "{list:?}");
}
