//! Setups and their devices.

use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, delete, post, put};
use busy_hen_engine::catalogue::kit;
use busy_hen_engine::check::check;
use busy_hen_engine::spectrum::region;
use busy_hen_home::{
    Aerial, Device, DeviceId, Enclosure, Faults, Home, HomeId, KitKey, Mode, Position, Setup, SetupId,
};
use serde::Deserialize;
use utoipa::ToSchema;

use super::homes::view;
use crate::error::{ApiError, Problem};
use crate::state::AppState;
use crate::views::HomeView;

/// A new setup, empty or a copy.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewSetup {
    /// What it is.
    pub name: String,
    /// The setup to copy; none for an empty one.
    pub copy_of: Option<SetupId>,
}

/// A device to be placed; modes, channels and uplink come as the kit usually does and can be changed then.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewDevice {
    /// Its type.
    pub kit: KitKey,
    /// Where it stands.
    pub at: Position,
}

fn find(home: &mut Home, id: SetupId) -> Result<&mut Setup, ApiError> {
    home.setups.iter_mut().find(|setup| setup.id == id).ok_or(ApiError::NotFound("setup"))
}

/// Makes a setup.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path)), request_body = NewSetup,
    responses((status = CREATED, body = HomeView), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes/{home}/setups")]
pub async fn create_setup(
    state: Data<AppState>,
    home: Path<HomeId>,
    new: Json<NewSetup>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let devices = match new.copy_of {
            Some(id) => copied(&find(home, id)?.devices),
            None => Vec::new(),
        };
        let letter = home.next_setup_letter();
        home.setups.push(Setup::new(SetupId::random(), &letter, new.name.trim(), devices));
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, None, "new setup", state.now(), change).await?;
    Ok(HttpResponse::Created().json(view(&state, stored).await?.into_inner()))
}

/// Devices with new identities, their uplinks leading to each other as before.
fn copied(devices: &[Device]) -> Vec<Device> {
    let ids: Vec<(DeviceId, DeviceId)> = devices.iter().map(|device| (device.id, DeviceId::random())).collect();
    let new = |old: DeviceId| ids.iter().find(|(own, _)| *own == old).map_or(old, |(_, new)| *new);
    let mut copies = devices.to_vec();
    for device in &mut copies {
        device.id = new(device.id);
        if let Some(uplink) = &mut device.uplink {
            uplink.to = new(uplink.to);
        }
    }
    copies
}

/// Changes a setup.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = Setup,
    responses((status = OK, body = HomeView), (status = NOT_FOUND, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[put("/api/homes/{home}/setups/{setup}")]
pub async fn put_setup(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    edit: Json<Setup>,
) -> Result<Json<HomeView>, ApiError> {
    let (home, setup) = *ids;
    let mut edit = edit.into_inner();
    edit.id = setup;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        *find(home, setup)? = edit;
        Ok(check(home)?)
    };
    let stored = state.store.change(home, None, "edit of a setup", state.now(), change).await?;
    view(&state, stored).await
}

/// Deletes a setup that has no rounds.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path)),
    responses((status = OK, body = HomeView), (status = CONFLICT, body = Problem)))]
#[delete("/api/homes/{home}/setups/{setup}")]
pub async fn delete_setup(state: Data<AppState>, ids: Path<(HomeId, SetupId)>) -> Result<Json<HomeView>, ApiError> {
    let (home, setup) = *ids;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        find(home, setup)?;
        home.setups.retain(|own| own.id != setup);
        Ok(())
    };
    let stored = state.store.change(home, None, "deleted setup", state.now(), change).await?;
    view(&state, stored).await
}

/// Places a device; the first of a setup is the router at the line, any other hangs on it.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = NewDevice,
    responses((status = CREATED, body = HomeView), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes/{home}/setups/{setup}/devices")]
pub async fn add_device(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    new: Json<NewDevice>,
) -> Result<HttpResponse, ApiError> {
    let (home, setup) = *ids;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let region = region::find(&home.region).ok_or(ApiError::NotFound("country"))?;
        let setup = find(home, setup)?;
        let kit = kit::find(&new.kit.0)
            .ok_or_else(|| Faults::one("/kit", "This kit is not in the catalogue; choose another from the tray."))?;
        let root = setup.root().map(|device| device.id);
        if root.is_none() && !kit.modes.contains(&Mode::Router) {
            return Err(Faults::one("/kit", "The first device is where the line enters; place a router first.").into());
        }
        let (mode, uplink) = match root {
            None => (Mode::Router, None),
            Some(root) => {
                let mode = kit.modes.iter().copied().find(|mode| *mode != Mode::Router).unwrap_or(kit.modes[0]);
                (mode, Some(kit.usual_uplink(mode, root)))
            }
        };
        let name = free_name(setup, mode);
        setup.devices.push(Device {
            id: DeviceId::random(),
            name,
            kit: new.kit.clone(),
            mode,
            at: new.at,
            enclosure: Enclosure::Open,
            aerial: Aerial::BuiltIn,
            managed_queue: false,
            radios: kit.radio_settings(region),
            uplink,
        });
        Ok(check(home)?)
    };
    let stored = state.store.change(home, None, "placed device", state.now(), change).await?;
    Ok(HttpResponse::Created().json(view(&state, stored).await?.into_inner()))
}

/// Takes a device off a setup; what hung on it then hangs on what it hung on.
#[utoipa::path(tag = "setups",
    params(("home" = HomeId, Path), ("setup" = SetupId, Path), ("device" = DeviceId, Path)),
    responses((status = OK, body = HomeView), (status = NOT_FOUND, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[delete("/api/homes/{home}/setups/{setup}/devices/{device}")]
pub async fn take_off_device(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId, DeviceId)>,
) -> Result<Json<HomeView>, ApiError> {
    let (home, setup, device) = *ids;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let setup = find(home, setup)?;
        setup.device(device).ok_or(ApiError::NotFound("device"))?;
        setup.take_off(device).map_err(|fault| Faults::one(fault.pointer, fault.message))?;
        Ok(check(home)?)
    };
    let stored = state.store.change(home, None, "device taken off", state.now(), change).await?;
    view(&state, stored).await
}

/// A name by what the device does, with a number from the second on.
fn free_name(setup: &Setup, mode: Mode) -> String {
    let word = match mode {
        Mode::Router => "Router",
        Mode::AccessPoint => "Access point",
        Mode::MeshNode => "Node",
        Mode::Repeater => "Repeater",
        Mode::Switch => "Switch",
    };
    let taken = |name: &str| setup.devices.iter().any(|device| device.name == name);
    let numbered = (2..).map(|number| format!("{word} {number}"));
    std::iter::once(word.to_owned()).chain(numbered).find(|name| !taken(name)).unwrap_or_default()
}
