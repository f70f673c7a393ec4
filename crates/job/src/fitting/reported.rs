//! Whether settings took, as the kit itself tells: its report set against the setup.

use busy_hen_home::{Device, ReportedDevice, Setup, TickOutcome};

use super::sheet::Sheet;
use super::step::{GUESTS_STEP, SheetStep, StepKind};

/// What a report answers of a step.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reported {
    /// The step.
    pub step: String,
    /// Seen, or not seen.
    pub outcome: TickOutcome,
    /// What the kit says.
    pub note: String,
}

/// What the kit's report says to the steps of a sheet that are looked at; steps that it says nothing to are left open. Also what keeps it
/// from saying more, in sentences.
#[must_use]
pub fn reported(sheet: &Sheet, setup: &Setup, devices: &[ReportedDevice]) -> (Vec<Reported>, Vec<String>) {
    let report = Of { setup, devices };
    let look = |step: &SheetStep| {
        let device = setup.device(step.device_id?)?;
        let (seen, note) = report.answer(step, device)?;
        let outcome = if seen { TickOutcome::Seen } else { TickOutcome::NotSeen };
        Some(Reported { step: step.key.clone(), outcome, note })
    };
    let mut answers: Vec<Reported> =
        sheet.steps.iter().filter(|own| own.kind == StepKind::Look).filter_map(look).collect();
    // That guests are kept apart only a guest sees; that they can't join at all the report tells.
    if let Some(note) = report.no_guests()
        && sheet.steps.iter().any(|own| own.key == GUESTS_STEP)
    {
        answers.push(Reported { step: GUESTS_STEP.to_owned(), outcome: TickOutcome::NotSeen, note });
    }
    (answers, report.missing())
}

struct Of<'a> {
    setup: &'a Setup,
    devices: &'a [ReportedDevice],
}

impl Of<'_> {
    fn find(&self, device: &Device) -> Option<&ReportedDevice> {
        let address = device.hardware_address.as_deref()?;
        self.devices.iter().find(|own| own.address == address)
    }

    /// Whether it is as set, and what the kit says; none where it says nothing to this.
    fn answer(&self, step: &SheetStep, device: &Device) -> Option<(bool, String)> {
        let own = self.find(device)?;
        match step.key.strip_suffix(&device.id.to_string())?.trim_end() {
            "uplink seen" => self.uplink(device, own),
            "channels seen" => channels(device, own),
            "firmware seen" => self.firmware(device, own),
            _ => None,
        }
    }

    fn uplink(&self, device: &Device, own: &ReportedDevice) -> Option<(bool, String)> {
        let planned = device.uplink.as_ref()?;
        let hangs_on = own.hangs_on.as_deref()?;
        let to = self.setup.devices.iter().find(|other| other.hardware_address.as_deref() == Some(hangs_on));
        let name = to.map_or("something else", |to| to.name.as_str());
        let by = match own.by_radio {
            Some(true) => ", by radio",
            Some(false) => ", by wire",
            None => "",
        };
        let as_planned = to.is_some_and(|to| to.id == planned.to);
        let way = own.by_radio.is_none_or(|radio| radio == planned.via.is_radio());
        Some((as_planned && way, format!("It hangs on {name}{by}.")))
    }

    fn firmware(&self, device: &Device, own: &ReportedDevice) -> Option<(bool, String)> {
        let version = own.version.as_deref()?;
        let others = self.setup.devices.iter().filter(|other| other.id != device.id && other.kit == device.kit);
        let versions: Vec<&str> = others.filter_map(|other| self.find(other)?.version.as_deref()).collect();
        (!versions.is_empty()).then(|| (versions.iter().all(|other| *other == version), format!("It runs {version}.")))
    }

    /// A device that serves no guest network though it is to; none where all do, or it tells no names.
    fn no_guests(&self) -> Option<String> {
        let mut guests = self.setup.devices.iter().filter(|own| !own.guest_network.is_empty());
        let lacking = guests.find(|own| {
            self.find(own).is_some_and(|reported| {
                let mut names = reported.radios.iter().flat_map(|radio| &radio.networks).peekable();
                names.peek().is_some() && names.all(|name| *name != own.guest_network)
            })
        })?;
        Some(format!("{} serves no network “{}”: guests can not join it.", lacking.name, lacking.guest_network))
    }

    /// What keeps the report from saying more.
    fn missing(&self) -> Vec<String> {
        let nameless = self.setup.devices.iter().filter(|own| own.hardware_address.is_none());
        let names: Vec<&str> = nameless.map(|own| own.name.as_str()).collect();
        let mut list = Vec::new();
        if !names.is_empty() {
            list.push(format!(
                "The report names devices by hardware address; note that of {} under Setups.",
                names.join(", ")
            ));
        }
        let addressed = self.setup.devices.iter().filter(|own| own.hardware_address.is_some());
        list.extend(
            addressed.filter(|own| self.find(own).is_none()).map(|own| format!("{} is not in the report.", own.name)),
        );
        list
    }
}

fn channels(device: &Device, own: &ReportedDevice) -> Option<(bool, String)> {
    let said = own.radios.iter().filter_map(|radio| Some((radio.band?, radio.channel?, radio.width_mhz)));
    let words: Vec<String> = said.clone().map(|(band, channel, _)| format!("{band} on channel {channel}")).collect();
    let on = device.radios.iter().filter(|radio| radio.on);
    let as_set = |radio: &busy_hen_home::RadioSetting| {
        said.clone().any(|(band, channel, width)| {
            band == radio.band && channel == radio.channel && width.is_none_or(|width| width == radio.width_mhz)
        })
    };
    (!words.is_empty()).then(|| (on.clone().all(as_set), format!("{}.", words.join(", "))))
}
