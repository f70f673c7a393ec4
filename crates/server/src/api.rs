//! Every endpoint, and what is told of them: the OpenAPI description, and which methods an address takes.

use std::sync::OnceLock;

use actix_web::dev::ResourceDef;
use actix_web::middleware::from_fn;
use actix_web::{App, HttpRequest, HttpResponse, web};
use utoipa::openapi::schema::AdditionalProperties;
use utoipa::openapi::{RefOr, Schema};
use utoipa_actix_web::service_config::ServiceConfig;
use utoipa_actix_web::{AppExt, scope};

use crate::error::ApiError;
use crate::routes::phones;
use crate::{gate, live, problems, routes};

/// All endpoints, under `/api`. What is not declared open here lies behind the lock, also what is not there at all.
pub fn configure(config: &mut ServiceConfig<'_>) {
    config.service(
        scope("/api")
            .configure(open)
            .service(scope("/phone").configure(of_phones).wrap(from_fn(phones::only_paired)))
            .service(scope("").configure(locked).wrap(from_fn(gate::only_unlocked))),
    );
}

/// Open to whoever reaches the bench: the lock itself.
fn open(config: &mut ServiceConfig<'_>) {
    use crate::routes::lock;
    config.service(lock::look_at_lock).service(lock::set_lock).service(lock::open_lock).service(lock::close_lock);
}

/// Open to phones, by their codes.
fn of_phones(config: &mut ServiceConfig<'_>) {
    config
        .service(phones::phone_view)
        .service(phones::phone_run)
        .service(phones::phone_picture)
        .service(routes::numbers::phone_numbers)
        .default_service(web::to(nothing));
}

/// Open to whoever is in.
fn locked(config: &mut ServiceConfig<'_>) {
    use crate::routes::{
        calibration, catalogue, compare, drills, far_end, files, fitting, homes, house, jobs, kit_record, network,
        numbers, parts, passwords, pictures, predict, rounds, setups, watches, zones,
    };
    config
        .service(catalogue::catalogue)
        .service(homes::list_homes)
        .service(homes::create_home)
        .service(homes::open_home)
        .service(homes::delete_home)
        .service(homes::list_deleted_homes)
        .service(homes::bring_home_back)
        .service(homes::throw_home_away)
        .service(homes::put_brief)
        .service(homes::archive_home)
        .service(homes::open_examples)
        .service(homes::undo)
        .service(homes::redo)
        .service(live::live)
        .service(homes::add_family)
        .service(house::draw)
        .service(house::put_house)
        .service(house::rewrite_lines)
        .service(house::length)
        .service(numbers::read_numbers)
        .service(house::house_text)
        .service(house::put_house_text)
        .service(house::house_geojson)
        .service(house::house_svg)
        .service(house::put_air)
        .service(files::export_home)
        .service(files::import_home)
        .service(setups::create_setup)
        .service(setups::put_setup)
        .service(setups::delete_setup)
        .service(setups::go_on_in_a_copy)
        .service(setups::add_device)
        .service(setups::take_off_device)
        .service(predict::coverage)
        .service(predict::grid)
        .service(predict::chain)
        .service(predict::complaints)
        .service(predict::finding)
        .service(predict::evening)
        .service(predict::series)
        .service(setups::mend)
        .service(setups::make_series)
        .service(setups::order_setups)
        .service(setups::put_in_force)
        .service(zones::dead_zones)
        .service(zones::room_remedies)
        .service(zones::try_remedy)
        .service(calibration::learnt)
        .service(calibration::put_tables_alone)
        .service(calibration::next)
        .service(fitting::run_sheet)
        .service(fitting::put_tick)
        .service(passwords::make_password)
        .service(passwords::keep_password)
        .service(passwords::open_password)
        .service(passwords::forget_password)
        .service(fitting::kit_looks)
        .service(fitting::hand_overs)
        .service(fitting::hand_over_walk)
        .service(drills::listening)
        .service(drills::drill_marks)
        .service(drills::setup_drills)
        .service(drills::add_drill)
        .service(drills::remove_drill)
        .service(drills::probe)
        .service(far_end::look_at_far_end)
        .service(far_end::try_far_end)
        .service(far_end::note_far_end)
        .service(far_end::forget_far_end)
        .service(network::look_at_network)
        .service(network::open_network)
        .service(network::close_network)
        .service(kit_record::kit_record)
        .service(watches::list_watches)
        .service(watches::bring_watch)
        .service(watches::open_watch)
        .service(watches::watch_log)
        .service(watches::remove_watch)
        .service(watches::add_device_note)
        .service(watches::remove_device_note)
        .service(parts::setup_parts)
        .service(parts::setup_parts_csv)
        .service(parts::put_own_kit)
        .service(parts::add_own_kit)
        .service(parts::own_kit_table)
        .service(parts::kit_table)
        .service(parts::kit_table_schema)
        .service(rounds::create_round)
        .service(rounds::open_round)
        .service(rounds::delete_round)
        .service(rounds::allow_kit_report)
        .service(rounds::way)
        .service(rounds::again)
        .service(rounds::look_at_changes)
        .service(rounds::see_effect)
        .service(rounds::add_runs)
        .service(rounds::list_runs)
        .service(rounds::correct_run)
        .service(rounds::void_run)
        .service(rounds::walk)
        .service(rounds::stop_walk)
        .service(rounds::readings_csv)
        .service(rounds::readings_schema)
        .service(rounds::read_table)
        .service(rounds::samples)
        .service(phones::pair_phone)
        .service(phones::list_codes)
        .service(phones::withdraw_code)
        .service(pictures::list_pictures)
        .service(pictures::add_picture)
        .service(pictures::show_picture)
        .service(pictures::remove_picture)
        .service(compare::compare_setups)
        .service(compare::put_decision)
        .service(jobs::look_at_job)
        .service(jobs::result_of_job)
        .service(jobs::call_off_job)
        .default_service(web::to(nothing));
}

/// What an address under `/api` that no handler took comes to.
async fn nothing(request: HttpRequest) -> Result<HttpResponse, ApiError> {
    Err(nothing_here(&request))
}

/// The OpenAPI description of the interface, made from the handlers themselves.
#[must_use]
pub fn openapi() -> utoipa::openapi::OpenApi {
    let (_, mut api) = App::new().into_utoipa_app().configure(configure).split_for_parts();
    let components = api.components.get_or_insert_default();
    components.schemas.extend(problems::schemas());
    components.schemas.insert("Standings".into(), <live::Standings as utoipa::PartialSchema>::schema());
    components.schemas.insert("HomeSummary".into(), <routes::homes::HomeSummary as utoipa::PartialSchema>::schema());
    components.schemas.values_mut().for_each(close_variants);
    api.info = utoipa::openapi::InfoBuilder::new()
        .title("Busy Hen")
        .version(env!("CARGO_PKG_VERSION"))
        .description(Some("Homes, their setups, predictions, rounds of tests and comparisons."))
        .build();
    api
}

/// Says of a tagged enum's variants with fields that they take no others: their readers refuse them, which the derive does not tell.
fn close_variants(schema: &mut RefOr<Schema>) {
    let RefOr::T(Schema::OneOf(one_of)) = schema else { return };
    for item in &mut one_of.items {
        if let RefOr::T(Schema::Object(variant)) = item
            && variant.properties.len() > 1
        {
            variant.additional_properties = Some(Box::new(AdditionalProperties::FreeForm(false)));
        }
    }
}

/// What a request to an address that no handler took comes to.
fn nothing_here(request: &HttpRequest) -> ApiError {
    let list = addresses().iter().find(|(address, _)| address.is_match(request.match_info().as_str()));
    list.map_or(ApiError::NoSuchPage, |(_, methods)| ApiError::Method(methods.clone()))
}

fn addresses() -> &'static [(ResourceDef, String)] {
    static LIST: OnceLock<Vec<(ResourceDef, String)>> = OnceLock::new();
    LIST.get_or_init(|| {
        let methods = |item: &utoipa::openapi::PathItem| {
            [(&item.get, "GET"), (&item.put, "PUT"), (&item.post, "POST"), (&item.delete, "DELETE")]
                .into_iter()
                .filter(|(operation, _)| operation.is_some())
                .map(|(_, name)| name)
                .collect::<Vec<_>>()
                .join(", ")
        };
        openapi().paths.paths.iter().map(|(path, item)| (ResourceDef::new(path.as_str()), methods(item))).collect()
    })
}
