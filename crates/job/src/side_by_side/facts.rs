//! Facts that should be alike in readings that are compared.

use busy_hen_home::{Band, DeviceId, Round, Setup, TestKind};

use busy_hen_predict::conditions::Group;

/// Facts that should be alike in all columns: far end, the test machine's port, the router's firmware.
pub fn of_rounds(newest: Option<&Round>, tested: Option<&Setup>, kind: TestKind) -> Vec<(&'static str, String)> {
    let mut facts = Vec::new();
    if let Some(on_record) = newest.and_then(|round| round.on_record.as_ref()) {
        facts.extend(on_record.far_end.clone().filter(|_| kind.is_internet()).map(|own| ("the far end", own)));
        let machine = on_record.machine.as_ref().filter(|_| kind == TestKind::Local);
        let port = machine.and_then(|own| own.port_mbps);
        facts.extend(port.map(|own| ("the test machine's port", format!("{own:.0}"))));
    }
    let firmware = tested.and_then(Setup::root).and_then(|root| root.firmware.as_ref());
    facts.extend(firmware.map(|own| ("the router's firmware", own.version.clone())));
    facts
}

/// Facts that should be alike between readings of one setup: channels, own networks on air, and who served most.
pub fn of_setup(tested: &Setup, group: Option<&Group<'_>>) -> Vec<(&'static str, String)> {
    let channels = |band: Band| {
        let radios = tested.devices.iter().flat_map(|device| &device.radios);
        let mut list: Vec<String> =
            radios.filter(|radio| radio.on && radio.band == band).map(|radio| radio.channel.to_string()).collect();
        list.dedup();
        list.join(", ")
    };
    let mut names: Vec<&str> = tested.devices.iter().map(|device| device.network_name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let mut serving: Vec<(DeviceId, usize)> = Vec::new();
    for device in group.iter().flat_map(|group| &group.runs).filter_map(|run| run.serving) {
        match serving.iter_mut().find(|(own, _)| *own == device) {
            Some((_, count)) => *count += 1,
            None => serving.push((device, 1)),
        }
    }
    let most = serving.into_iter().max_by_key(|(_, count)| *count).and_then(|(id, _)| tested.device(id));
    let mut facts = vec![
        ("the channel at 2.4 GHz", channels(Band::Ghz2_4)),
        ("the channel at 5 GHz", channels(Band::Ghz5)),
        ("the number of own networks on air", names.len().to_string()),
    ];
    facts.extend(most.map(|device| ("the device that served most", device.name.clone())));
    facts
}
