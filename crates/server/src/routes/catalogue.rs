//! What a setup is made of, and what the country allows.

use actix_web::get;
use actix_web::web::Json;
use busy_hen_catalogue::spectrum::channels::WIDTHS;
use busy_hen_catalogue::spectrum::{block, regions};
use busy_hen_catalogue::{Client, Kit, Material, clients, kit, materials};
use busy_hen_floorplan::lines::grammar::{GRAMMAR, PLACE_WORDS, Saying, thing_words};
use busy_hen_floorplan::lines::words::material_word;
use busy_hen_floorplan::starts::{LOOKS, LookAndAge, STARTS, Start};
use busy_hen_home::{Activity, Band, CableClass};
use busy_hen_predict::needs::activity::need_of;
use busy_hen_predict::needs::families::{FAMILIES, Family};
use busy_hen_predict::needs::{Need, ServiceStep};
use busy_hen_predict::path::ethernet::cable_name;
use busy_hen_units::{MbitPerSec, Megahertz, Millis};
use serde::Serialize;
use utoipa::ToSchema;

use crate::problems::Reading;

/// All lists that the interface offers choices from.
#[derive(Debug, Serialize, ToSchema)]
pub struct Catalogue {
    /// Wall, floor and opening materials.
    pub materials: Vec<Material>,
    /// Words for materials in house lines, in the order of the materials.
    pub material_words: Vec<&'static str>,
    /// Kit.
    #[schema(value_type = Vec<Kit>)]
    pub kit: Vec<std::sync::Arc<Kit>>,
    /// Test devices.
    pub clients: Vec<Client>,
    /// Activities with what one person needs for each.
    pub activities: Vec<ActivityNeed>,
    /// Service steps of the map, lowest first.
    pub steps: Vec<Step>,
    /// Countries with their legal channels.
    pub regions: Vec<RegionView>,
    /// Cable classes.
    pub cables: Vec<Cable>,
    /// Common families to begin a brief from.
    pub families: &'static [Family],
    /// Homes to begin from.
    pub starts: &'static [Start],
    /// What houses of a look and age are made of.
    pub looks: &'static [LookAndAge],
    /// Words of house lines that say where a room lies.
    pub place_words: &'static [&'static str],
    /// Words of house lines that say what is in a room.
    pub thing_words: Vec<&'static str>,
    /// How house lines are written: what one may say, with examples.
    pub grammar: &'static [Saying],
}

/// An activity and what it needs.
#[derive(Debug, Serialize, ToSchema)]
pub struct ActivityNeed {
    /// The activity.
    pub activity: Activity,
    /// What one person needs.
    pub need: Need,
}

/// A service step and what it asks.
#[derive(Debug, Serialize, ToSchema)]
pub struct Step {
    /// The step.
    pub step: ServiceStep,
    /// Its name.
    pub name: &'static str,
    /// Least download.
    pub down_mbps: Option<MbitPerSec>,
    /// Least upload.
    pub up_mbps: Option<MbitPerSec>,
    /// Longest round trip.
    pub latency_ms: Option<Millis>,
}

/// A country with its legal channels.
#[derive(Debug, Serialize, ToSchema)]
pub struct RegionView {
    /// ISO 3166 code.
    pub code: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Legal channels by band and width.
    pub channels: Vec<LegalChannels>,
}

/// Legal primary channels of a band at one width.
#[derive(Debug, Serialize, ToSchema)]
pub struct LegalChannels {
    /// The band.
    pub band: Band,
    /// The width.
    pub width_mhz: Megahertz,
    /// Legal primary channels.
    pub channels: Vec<u16>,
    /// Those of them that share spectrum with radar: the radio must listen first.
    pub radar: Vec<u16>,
}

/// A cable class.
#[derive(Debug, Serialize, ToSchema)]
pub struct Cable {
    /// The class.
    pub class: CableClass,
    /// Its name.
    pub name: &'static str,
}

/// All lists that the interface offers choices from.
#[utoipa::path(tag = "catalogue", responses((status = OK, description = "The lists.", body = Catalogue), Reading))]
#[get("/catalogue")]
pub async fn catalogue() -> Json<Catalogue> {
    Json(Catalogue {
        materials: materials::all().to_vec(),
        material_words: materials::all().iter().map(|own| material_word(&own.key)).collect(),
        kit: kit::all().to_vec(),
        clients: clients::all().to_vec(),
        activities: Activity::ALL.map(|activity| ActivityNeed { activity, need: need_of(activity) }).into(),
        steps: ServiceStep::ALL.map(step).into(),
        regions: regions().iter().map(region).collect(),
        cables: [CableClass::Cat5, CableClass::Cat5e, CableClass::Cat6, CableClass::Cat6a]
            .map(|class| Cable { class, name: cable_name(class) })
            .into(),
        families: &FAMILIES,
        starts: &STARTS,
        looks: &LOOKS,
        place_words: &PLACE_WORDS,
        thing_words: thing_words(),
        grammar: &GRAMMAR,
    })
}

fn step(step: ServiceStep) -> Step {
    let asks = step.asks();
    Step {
        step,
        name: step.name(),
        down_mbps: asks.map(|(down, _, _)| down),
        up_mbps: asks.map(|(_, up, _)| up),
        latency_ms: asks.map(|(_, _, latency)| latency),
    }
}

fn region(region: &'static busy_hen_catalogue::spectrum::Region) -> RegionView {
    let bands = [Band::Ghz2_4, Band::Ghz5, Band::Ghz6];
    let channels =
        bands.into_iter().flat_map(|band| WIDTHS.map(|width_mhz| (band, width_mhz))).map(|(band, width_mhz)| {
            let channels = region.legal_primaries(band, width_mhz);
            let by_radar =
                |channel: &u16| block(band, *channel, width_mhz).is_some_and(|block| region.needs_dfs(&block));
            LegalChannels { band, width_mhz, radar: channels.iter().copied().filter(by_radar).collect(), channels }
        });
    RegionView {
        code: region.code,
        name: region.name,
        channels: channels.filter(|legal| !legal.channels.is_empty()).collect(),
    }
}
