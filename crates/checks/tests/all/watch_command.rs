//! The command that leaves a watch behind.

use busy_hen_job::long_watch::watch_command;

#[test]
fn the_router_comes_first_and_ways_by_radio_are_said() {
    let mut setup = busy_hen_demo::canal_terrace().setups[1].clone();
    setup.devices.reverse();
    let router = setup.devices.iter_mut().find(|own| own.uplink.is_none()).expect("a router");
    router.settings_address = "192.168.1.1".into();
    router.name = "Mum's \"router\"".into();
    let found = watch_command(&setup);
    assert_eq!(
        found.command,
        "busy-hen watch --device \"Mum's router=192.168.1.1\" --device \"Landing node=ADDRESS,radio\""
    );
    assert_eq!(found.without_address, ["Landing node"]);
}
