//! The command that leaves a watch behind.

use busy_hen_home::{Device, Mode, Setup, SetupId, Via};
use serde::Serialize;
use utoipa::ToSchema;

/// What stands where an address was not noted.
const UNKNOWN: &str = "ADDRESS";

/// How to watch the devices of a setup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WatchCommand {
    /// The setup.
    pub setup_id: SetupId,
    /// The command for a shell, the router first.
    pub command: String,
    /// Devices whose address is not noted: it stands as ADDRESS in the command.
    pub without_address: Vec<String>,
}

/// The command that watches the devices of a setup.
#[must_use]
pub fn watch_command(setup: &Setup) -> WatchCommand {
    let mut devices: Vec<&Device> = setup.devices.iter().filter(|own| own.mode != Mode::Switch).collect();
    devices.sort_by_key(|own| own.uplink.is_some());
    let mut command = "busy-hen watch".to_owned();
    let mut without_address = Vec::new();
    for device in devices {
        let address = match device.settings_address.as_str() {
            "" => {
                without_address.push(device.name.clone());
                UNKNOWN
            }
            address => address,
        };
        // What a shell would read otherwise than as text is left out of the name.
        let name: String = device.name.chars().filter(|own| !"\"\\$`!=\n".contains(*own)).collect();
        let way = if by_radio(setup, device) { ",radio" } else { "" };
        command += &format!(" --device \"{name}={address}{way}\"");
    }
    WatchCommand { setup_id: setup.id, command, without_address }
}

/// Whether some hop of a device's way to the router goes by radio.
fn by_radio(setup: &Setup, device: &Device) -> bool {
    let mut at = Some(device);
    // No way is longer than there are devices.
    for _ in 0..=setup.devices.len() {
        let Some(uplink) = at.and_then(|own| own.uplink.as_ref()) else { return false };
        if matches!(uplink.via, Via::Radio { .. } | Via::BestRadio) {
            return true;
        }
        at = setup.device(uplink.to);
    }
    false
}
