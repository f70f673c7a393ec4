//! Setups and their devices.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, delete, post, put};
use busy_hen_catalogue::Catalogue;
use busy_hen_catalogue::spectrum::region;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Device, DeviceId, Faults, Home, HomeId, Kit, KitKey, LevelId, Mode, Position, RoomId, Setup, SetupId, Steering,
};
use busy_hen_job::check::check;
use busy_hen_job::findings::{Rule, findings};
use busy_hen_job::placing::{Stand, highest, line_entry, put_up_as_usual, standing_place, usual_height};
use busy_hen_job::series::{NewIds, usual_series};
use busy_hen_predict::Question;
use busy_hen_store::Change;
use busy_hen_units::Metres;
use jiff::civil::Date;
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};

use super::editing::{editing, view};
use super::known::{About, Known};
use super::predict::Ask;
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Editing, Removing};
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
    /// Where it stands; by an outlet of its room, or in its middle, where nobody says.
    pub at: Option<Standing>,
    /// The room it stands in; where neither is said, where the line enters, or the first room.
    pub room_id: Option<RoomId>,
}

/// Where a device is put.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Standing {
    /// The level.
    pub level_id: LevelId,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// Above the floor; as such kit is mounted where nobody says.
    pub height_m: Option<Metres>,
}

fn find(home: &mut Home, id: SetupId) -> Result<&mut Setup, ApiError> {
    home.setups.iter_mut().find(|setup| setup.id == id).ok_or(ApiError::NotFound("setup"))
}

/// Makes a setup.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), EditHeaders), request_body = NewSetup,
    responses((status = CREATED, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/setups")]
pub async fn create_setup(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    new: Body<NewSetup>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let (devices, steering) = match new.copy_of {
            Some(id) => find(home, id).map(|setup| (copied(&setup.devices), setup.steering))?,
            None => (Vec::new(), Steering::default()),
        };
        let letter = home.next_setup_letter();
        let setup = Setup::new(SetupId::random(), &letter, new.name.trim(), devices);
        home.setups.push(Setup { steering, ..setup });
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// Devices with new identities, their uplinks leading to each other as before.
pub(crate) fn copied(devices: &[Device]) -> Vec<Device> {
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
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), EditHeaders), request_body = Setup,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/setups/{setup}")]
pub async fn put_setup(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (base, sender): (Base, Sender),
    edit: Body<Setup>,
) -> Result<HttpResponse, ApiError> {
    let (home, setup) = *ids;
    let mut edit = edit.into_inner();
    edit.id = setup;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let before = std::mem::replace(find(home, setup)?, edit);
        keep_under_the_ceiling(home, &before)?;
        Ok(check(home)?)
    };
    let stored = state.store.change(home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Whether what was measured of a setup may go with it.
#[derive(Debug, Deserialize, IntoParams)]
pub struct DeleteSetup {
    /// Its rounds may go too; undo brings back all of it. Else a setup that has rounds is not deleted.
    #[serde(default)]
    pub with_readings: bool,
}

/// Deletes a setup.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), DeleteSetup, EditHeaders),
    responses((status = OK, description = "The changed home.", body = HomeView), Removing))]
#[delete("/homes/{home}/setups/{setup}")]
pub async fn delete_setup(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (base, sender): (Base, Sender),
    asked: Query<DeleteSetup>,
) -> Result<HttpResponse, ApiError> {
    let (home, setup) = *ids;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        find(home, setup)?;
        home.setups.retain(|own| own.id != setup);
        home.in_force = home.in_force.filter(|own| *own != setup);
        home.decision = home.decision.take().filter(|own| own.setup_id != setup);
        Ok(())
    };
    let with = Change { with_readings: asked.with_readings, ..editing(&state, Some(base.0), &sender.0) };
    let stored = state.store.change(home, &with, change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Goes on in a copy: a new setup gets what this one is now, and this one is put back to what was tested in its newest round.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), EditHeaders), request_body = GoOn,
    responses((status = CREATED, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/setups/{setup}/go-on-in-a-copy")]
pub async fn go_on_in_a_copy(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (base, sender): (Base, Sender),
    ask: Body<GoOn>,
) -> Result<HttpResponse, ApiError> {
    let (home, setup) = *ids;
    let readings = state.readings(home).await?;
    let newest = readings.rounds.iter().rfind(|record| record.round.setup_id == setup);
    let tested = newest.and_then(|record| record.tested.home.setup(setup)).cloned();
    let tested =
        tested.ok_or_else(|| ApiError::Conflict("This setup was not tested yet; change it as it is.".into()))?;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let letter = home.next_setup_letter();
        let own = find(home, setup)?;
        let mut copy = Setup::new(SetupId::random(), &letter, ask.name.trim(), copied(&own.devices));
        copy.steering = own.steering;
        own.devices = tested.devices;
        own.steering = tested.steering;
        home.setups.push(copy);
        Ok(check(home)?)
    };
    let stored = state.store.change(home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// Does what a finding proposes, to the setup as it is stored now or to a copy of it: one step, to be undone.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), EditHeaders), request_body = Mend,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/setups/{setup}/mend")]
pub async fn mend(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (_base, sender): (Base, Sender),
    asked: Body<Mend>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let Mend { ask, rule, device_id, copy_named } = asked.into_inner();
    let question = ask.question(state.today())?;
    let known = Known::of(&state, home_id).await?;
    let revision = known.revision;
    let look = move |about: &About<'_>| {
        let mut found = findings(about.home, about.setup(setup_id)?, about.plan, question, about.kept).into_iter();
        let own = found.find(|own| own.rule == rule && own.device_id == device_id);
        own.and_then(|own| own.mended).ok_or_else(|| {
            ApiError::Conflict("This is no longer found in the setup; look at the findings anew.".into())
        })
    };
    let mended = known.work(look).await?;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        match &copy_named {
            Some(name) => {
                let letter = home.next_setup_letter();
                let copy = Setup::new(SetupId::random(), &letter, name.trim(), copied(&mended.devices));
                home.setups.push(Setup { steering: mended.steering, ..copy });
            }
            None => *find(home, setup_id)? = mended.clone(),
        }
        Ok(check(home)?)
    };
    let stored = state.store.change(home_id, &editing(&state, Some(revision), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Which kit to put through its usual series.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SeriesAsk {
    /// The question that finds the weak room.
    pub ask: Ask,
    /// The kit.
    pub kit: KitKey,
}

/// Makes the usual series of a kit, begun from where the line enters in this setup: alone, second unit by cable, by radio, in the weak room.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), EditHeaders), request_body = SeriesAsk,
    responses((status = CREATED, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/setups/{setup}/usual-series")]
pub async fn make_series(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (base, sender): (Base, Sender),
    asked: Body<SeriesAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let SeriesAsk { ask, kit } = asked.into_inner();
    let question = ask.question(state.today())?;
    let make = move |about: &About<'_>| {
        let (mut setup, mut device) = (SetupId::random, DeviceId::random);
        let mut ids = NewIds { setup: &mut setup, device: &mut device };
        let asked = (about.plan, question, about.kept);
        usual_series(about.home, about.setup(setup_id)?, &kit.0, asked, &mut ids).map_err(ApiError::Conflict)
    };
    let made = Known::of(&state, home_id).await?.work(make).await?;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        for mut setup in made.clone() {
            setup.letter = home.next_setup_letter();
            home.setups.push(setup);
        }
        Ok(check(home)?)
    };
    let stored = state.store.change(home_id, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// The setups in their order.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Order {
    /// All setups of the home; one that is left out comes last.
    pub setup_ids: Vec<SetupId>,
}

/// Puts the setups in another order.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), EditHeaders), request_body = Order,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/setup-order")]
pub async fn order_setups(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    order: Body<Order>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let place = |setup: &Setup| order.setup_ids.iter().position(|id| *id == setup.id).unwrap_or(usize::MAX);
        home.setups.sort_by_key(place);
        Ok(())
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Which setup is in force.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct InForce {
    /// The setup; none while nothing is decided.
    pub setup_id: Option<SetupId>,
}

/// Says which setup is fitted, or is to be.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), EditHeaders), request_body = InForce,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/in-force")]
pub async fn put_in_force(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    chosen: Body<InForce>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        if let Some(id) = chosen.setup_id {
            find(home, id)?;
        }
        home.in_force = chosen.setup_id;
        Ok(())
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Which finding to mend.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mend {
    /// The question it was found under.
    pub ask: Ask,
    /// The rule that found it.
    pub rule: Rule,
    /// The device it is about; none when it is about the setup.
    pub device_id: Option<DeviceId>,
    /// Name of the copy to mend; none to mend the setup itself.
    pub copy_named: Option<String>,
}

/// The copy to go on in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GoOn {
    /// What is different in it.
    pub name: String,
}

/// Places a device; the first of a setup is the router at the line, any other hangs on it.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), EditHeaders), request_body = NewDevice,
    responses((status = CREATED, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/setups/{setup}/devices")]
pub async fn add_device(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (base, sender): (Base, Sender),
    new: Body<NewDevice>,
) -> Result<HttpResponse, ApiError> {
    let (home, setup) = *ids;
    let change = |home: &mut Home| place(home, setup, &new, state.today());
    let stored = state.store.change(home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// Places a device as its kit usually comes: the first of a setup is the router at the line, any other hangs on it.
pub(super) fn place(home: &mut Home, setup_id: SetupId, new: &NewDevice, day: Date) -> Result<(), ApiError> {
    let region = region::find(&home.region).ok_or(ApiError::NotFound("country"))?;
    let (catalogue, units) = (Catalogue::of(home), home.units);
    let plan = Plan::new(&home.house, home.units);
    let setup = home.setup(setup_id).ok_or(ApiError::NotFound("setup"))?;
    let kit = catalogue
        .kit(&new.kit.0)
        .ok_or_else(|| Faults::one("/kit", "This kit is not in the catalogue; choose another from the tray."))?;
    let root = setup.root().map(|device| device.id);
    if root.is_none() && !kit.modes.contains(&Mode::Router) {
        return Err(Faults::one("/kit", "The first device is where the line enters; place a router first.").into());
    }
    let stand = stand_of(new, root.is_none(), &plan, kit)?;
    let high = new.at.and_then(|own| own.height_m);
    let at = stand.high(high.unwrap_or_else(|| usual_height(&plan, kit, &stand)));
    if let Some(highest) = highest(&plan, &at).filter(|highest| at.height_m > *highest) {
        return Err(too_high("/at/height_m", &plan, &at, units.in_words(highest)));
    }
    let at = plan.free_place(at, &setup.devices.iter().map(|device| device.at).collect::<Vec<_>>());
    let device = put_up_as_usual(
        (home, setup, &plan, region),
        (DeviceId::random(), kit, at),
        |mode| free_name(setup, mode),
        Question::usual(day),
    );
    find(home, setup_id)?.devices.push(device);
    Ok(check(home)?)
}

/// Where a device is to stand: where one says; else in the room one says, where the line enters for the first, or the first room.
fn stand_of(new: &NewDevice, is_first: bool, plan: &Plan, kit: &Kit) -> Result<Stand, ApiError> {
    if let Some(Standing { level_id, x_m, y_m, .. }) = new.at {
        return Ok(Stand { level_id, x_m, y_m });
    }
    let entry = line_entry(plan).filter(|_| is_first && new.room_id.is_none());
    let room = match new.room_id {
        Some(id) => Some(plan.room(id).ok_or(ApiError::NotFound("room"))?),
        None => plan.rooms.iter().find(|room| !room.outdoors),
    };
    let in_room = room.map(|room| standing_place(plan, room, kit));
    entry.or(in_room).ok_or_else(|| Faults::one("/at", "Draw a room first: a device stands in one.").into())
}

/// Refuses a device that was raised above its storey; one that was carried to a lower storey hangs as high as that allows.
fn keep_under_the_ceiling(home: &mut Home, before: &Setup) -> Result<(), ApiError> {
    let storeys = home.house.levels.clone();
    let raised = |device: &Device| {
        let was = before.device(device.id).map(|own| (own.at.level_id, own.at.height_m));
        let storey = storeys.iter().find(|level| level.id == device.at.level_id);
        was != Some((device.at.level_id, device.at.height_m))
            && storey.is_some_and(|level| device.at.height_m > level.height_m)
    };
    let Some(setup) = home.setup(before.id).filter(|setup| setup.devices.iter().any(raised)) else { return Ok(()) };
    let mut devices = setup.devices.clone();
    // Outdoors nothing is above: only now is it worth to see where each stands.
    let plan = Plan::new(&home.house, home.units);
    for (index, device) in devices.iter_mut().enumerate().filter(|(_, own)| raised(own)) {
        let Some(highest) = highest(&plan, &device.at) else { continue };
        let was = before.device(device.id).map(|own| own.at);
        if was.is_none_or(|was| was.height_m != device.at.height_m) {
            let pointer = format!("/devices/{index}/at/height_m");
            return Err(too_high(&pointer, &plan, &device.at, home.units.in_words(highest)));
        }
        device.at.height_m = highest;
    }
    find(home, before.id)?.devices = devices;
    Ok(())
}

fn too_high(pointer: &str, plan: &Plan, at: &Position, highest: String) -> ApiError {
    let level = plan.level_index(at.level_id).map_or("", |level| plan.levels[level].name.as_str());
    Faults::one(pointer, format!("{level} is {highest} high; set the device no higher than that.")).into()
}

/// Takes a device off a setup; what hung on it then hangs on what it hung on.
#[utoipa::path(tag = "setups",
    params(("home" = HomeId, Path), ("setup" = SetupId, Path), ("device" = DeviceId, Path), EditHeaders),
    responses((status = OK, description = "The changed home.", body = HomeView), Removing))]
#[delete("/homes/{home}/setups/{setup}/devices/{device}")]
pub async fn take_off_device(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId, DeviceId)>,
    (base, sender): (Base, Sender),
) -> Result<HttpResponse, ApiError> {
    let (home, setup, device) = *ids;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let setup = find(home, setup)?;
        setup.device(device).ok_or(ApiError::NotFound("device"))?;
        setup.take_off(device).map_err(|fault| Faults::one(fault.pointer, fault.message))?;
        Ok(check(home)?)
    };
    let stored = state.store.change(home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
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
