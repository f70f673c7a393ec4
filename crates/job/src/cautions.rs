//! What is worth knowing before anyone plugs in, drills or climbs: cautions that belong to the things of a setup. They defer to local
//! codes and licensed practice; what works worse than it looks is told by [`crate::findings`].

use busy_hen_home::{Device, DeviceId, Home, Setup, Tenure, Via};
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_floorplan::Plan;

/// Kind of caution.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CautionKind {
    /// Someone may get hurt, or break the law.
    Safety,
    /// Somebody else may be troubled.
    Neighbours,
}

/// Something worth knowing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Caution {
    /// Kind of caution.
    pub kind: CautionKind,
    /// The device it is about; none when it is about the setup.
    pub device: Option<DeviceId>,
    /// One sentence or two: what, and what to do.
    pub message: String,
}

/// Everything worth knowing of a setup, safety first.
///
/// # Source
/// Common practice.
#[must_use]
pub fn cautions(home: &Home, setup: &Setup, plan: &Plan) -> Vec<Caution> {
    let mut list = Vec::new();
    for device in &setup.devices {
        of_device(device, home, plan, &mut list);
    }
    list.sort_by_key(|caution| caution.kind);
    list
}

fn of_device(device: &Device, home: &Home, plan: &Plan, list: &mut Vec<Caution>) {
    let uplink = device.uplink.as_ref().and_then(|uplink| of_uplink(device, &uplink.via, home));
    let said = of_place(device, plan).map(|told| (CautionKind::Safety, told)).into_iter().chain(uplink);
    list.extend(said.map(|(kind, message)| Caution { kind, device: Some(device.id), message }));
}

/// What is to be minded where a device stands; none where nothing is.
#[must_use]
pub fn of_place(device: &Device, plan: &Plan) -> Option<String> {
    let outdoors =
        plan.level_index(device.at.level_id).is_some() && plan.room_of(&device.at).is_none_or(|room| room.outdoors);
    outdoors.then(|| {
        format!(
            "{} stands outdoors: use kit made for it, keep off roofs and ladders alone, and have mains and lightning \
             protection done by a licensed electrician to local codes.",
            device.name
        )
    })
}

/// What is to be minded about what feeds a device; none where nothing is.
#[must_use]
pub fn of_uplink(device: &Device, via: &Via, home: &Home) -> Option<(CautionKind, String)> {
    let name = &device.name;
    match via {
        Via::Cable { .. } if home.brief.tenure == Tenure::Rented || !home.brief.may_drill => Some((
            CautionKind::Safety,
            format!("The cable to {name} may need drilling: ask the owner, and look for wires and pipes first."),
        )),
        Via::Coax { .. } => Some((
            CautionKind::Neighbours,
            format!("The coax pair to {name} needs a filter where the line enters, or neighbours hear it."),
        )),
        Via::PowerLine { .. } => Some((
            CautionKind::Safety,
            format!(
                "The power-line pair to {name} hangs on the mains: use sound wall outlets and open none; anything behind the \
                 outlet is for a licensed electrician."
            ),
        )),
        Via::Cable { .. } | Via::Radio { .. } | Via::BestRadio => None,
    }
}
