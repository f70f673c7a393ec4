//! Phones that measure: pairing at the bench, and what a paired phone may ask and send.

use std::net::IpAddr;

use actix_web::http::{StatusCode, header};
use actix_web::web::{Data, Path};
use actix_web::{FromRequest, HttpRequest, HttpResponse, dev::Payload, get, post};
use busy_hen_engine::check::check_run;
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::measuring::enough::{Enough, enough};
use busy_hen_engine::measuring::{SlowLeg, Spoiled, TestFigures, figures, slow_leg};
use busy_hen_engine::needs::{Need, Verdict, room_need, verdict};
use busy_hen_engine::readings::conditions::in_words;
use busy_hen_engine::readings::{Summary, summarise};
use busy_hen_engine::watch::Watch;
use busy_hen_home::raw::RawTest;
use busy_hen_home::{
    AsTested, CarriedBy, LevelId, Outcome, Round, RoundId, Run, RunId, Source, SpotId, TestKind, Under, local_day,
};
use busy_hen_store::{Editor, Pairing, RoundRecord};
use busy_hen_units::Metres;
use jiff::{SignedDuration, Timestamp};
use qrcode::QrCode;
use qrcode::render::svg;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::rounds::spot_name;
use crate::body::Body;
use crate::error::ApiError;
use crate::interfaces::{Interface, interfaces, of_home};
use crate::problems::{Acting, Storing, Testing};
use crate::state::{AppState, Readings};
use crate::tokens::{digest, fresh};
use crate::views::{Drawing, drawing};

/// How long a paired phone may begin tests.
const PAIRED_FOR: SignedDuration = SignedDuration::from_hours(12);
/// How long after that it may still send what it had saved.
const SENDS_FOR: SignedDuration = SignedDuration::from_hours(24 * 30);
/// Header with which a phone says who it is.
const PHONE: &str = "busy-hen-phone";
/// Name under which the steps of phones would stand; their readings are no steps.
const PHONES: &str = "phone";

/// A way for a phone to get in.
#[derive(Debug, Serialize, ToSchema)]
pub struct NewPhone {
    /// When no new test may begin any more.
    #[schema(value_type = String, format = DateTime)]
    pub expires_at: Timestamp,
    /// Whether other machines reach this one at all.
    pub open_to_network: bool,
    /// The same page under each address of this machine.
    pub doors: Vec<Door>,
}

/// One address of this machine with the page for the phone.
#[derive(Debug, Serialize, ToSchema)]
pub struct Door {
    /// The interface.
    pub interface: Interface,
    /// Address of the page, with the token behind the `#`.
    pub url: String,
    /// The same as a QR code, SVG.
    pub qr_svg: String,
}

/// What a phone shows.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneView {
    /// Name of the home.
    pub home_name: String,
    /// Letter and name of the setup.
    pub setup: String,
    /// The conditions of the round, in words.
    pub words: String,
    /// How far the tests of the round reach.
    pub kind: TestKind,
    /// The far end to test to as well; none where the round is of local tests, or no far end is known.
    pub far_end: Option<FarEnd>,
    /// How many runs each spot is to get.
    pub runs_per_spot: u32,
    /// When no new test may begin any more.
    #[schema(value_type = String, format = DateTime)]
    pub expires_at: Timestamp,
    /// Whether a new test may begin now.
    pub may_test: bool,
    /// The house as it was when the round began.
    pub drawing: Drawing,
    /// Its spots in walking order.
    pub spots: Vec<PhoneSpot>,
    /// Where to go next; none when all have runs enough.
    pub next: Option<SpotId>,
}

/// A spot as a phone shows it.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneSpot {
    /// The spot.
    pub spot_id: SpotId,
    /// Room, and spot where the room has several.
    pub name: String,
    /// The level it is on; none when it has no place in the drawing.
    pub level_id: Option<LevelId>,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// What its room needs.
    pub need: Option<Need>,
    /// Runs that count, by the test of the application, as far as `words` say.
    pub runs: usize,
    /// What they come to.
    pub summary: Option<Summary>,
    /// Judged against the need; none for local tests, which don't show what the family gets.
    pub verdict: Option<Verdict>,
    /// Whether there are enough.
    pub enough: Enough,
    /// Whether one may go on.
    pub done: bool,
}

/// A run as a phone sends it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PhoneRun {
    /// Its id, made by the phone, so that sending twice keeps it once.
    pub id: RunId,
    /// Where it was taken.
    pub spot_id: SpotId,
    /// When it was taken.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What came of it.
    pub result: PhoneResult,
}

/// What came of a run on a phone.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum PhoneResult {
    /// A test to the machine that serves the page.
    Tested {
        /// The id under which the test had its line.
        test: Uuid,
        /// Its samples.
        raw: Box<RawTest>,
        /// The same beyond the line, right after it.
        #[serde(default)]
        beyond: Option<Box<Beyond>>,
    },
    /// No connection could be had here.
    NoConnection {},
}

/// A test to the far end, right after the one within the home.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Beyond {
    /// Id of the run it makes.
    pub id: RunId,
    /// Its samples.
    pub raw: RawTest,
}

/// The far end beyond the line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FarEnd {
    /// Its address, as `http://far.example:8090`.
    pub url: String,
    /// The token it asks for.
    pub token: String,
}

impl std::str::FromStr for FarEnd {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (url, token) = text.split_once('#').ok_or("the token is missing; the far end prints it behind a #")?;
        let host = url.split_once("://").filter(|(scheme, _)| ["http", "https"].contains(scheme));
        let sound = host.is_some_and(|(_, host)| {
            !host.is_empty() && host.chars().all(|own| own.is_ascii_alphanumeric() || ".:-[]".contains(own))
        });
        if !sound || token.is_empty() {
            return Err(format!("{text} is no address of a far end, such as http://far.example:8090#token"));
        }
        Ok(Self { url: url.to_owned(), token: token.to_owned() })
    }
}

/// A run that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneKept {
    /// The run as it is kept.
    pub run: Run,
    /// The run beyond the line that went with it.
    pub beyond: Option<Run>,
    /// Which part of the way was the slow one, where both were tested.
    pub slow_leg: Option<SlowLeg>,
    /// Why the part beyond the line does not count, where it was spoiled.
    pub beyond_problem: Option<String>,
}

/// Who a phone says it is.
#[derive(Debug, Clone, IntoParams)]
#[into_params(parameter_in = Header)]
pub struct PhoneHeader {
    /// The token that the phone was paired by.
    #[param(rename = "Busy-Hen-Phone")]
    #[allow(dead_code)] // for the description only
    token: String,
}

/// The token of a phone.
#[derive(Debug)]
pub struct Phone(String);

impl FromRequest for Phone {
    type Error = ApiError;
    type Future = std::future::Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let token = request.headers().get(PHONE).and_then(|value| value.to_str().ok());
        std::future::ready(token.map(|token| Self(token.to_owned())).ok_or(ApiError::NotPaired))
    }
}

impl Phone {
    async fn pairing(&self, state: &AppState) -> Result<Pairing, ApiError> {
        state.store.paired(&digest(&self.0)).await?.ok_or(ApiError::NotPaired)
    }
}

/// Makes a way for a phone to get in: a token that can test and add readings to this round, and nothing else.
#[utoipa::path(tag = "phones", params(("round" = RoundId, Path)),
    responses((status = CREATED, description = "The addresses to choose from.", body = NewPhone), Acting))]
#[post("/api/rounds/{round}/phones")]
pub async fn pair_phone(
    state: Data<AppState>,
    round: Path<RoundId>,
    request: HttpRequest,
) -> Result<HttpResponse, ApiError> {
    let token = fresh();
    let now = state.now();
    let expires_at = now + PAIRED_FOR;
    state.store.pair(&digest(&token), *round, (now, expires_at)).await?;
    let port = request.headers().get(header::HOST).and_then(|host| host.to_str().ok()).and_then(port_of);
    let open_to_network = state.names.open_to_network;
    let doors = interfaces(open_to_network).into_iter().map(|interface| {
        let host = match interface.address {
            IpAddr::V4(address) => address.to_string(),
            IpAddr::V6(address) => format!("[{address}]"),
        };
        let port = port.map(|port| format!(":{port}")).unwrap_or_default();
        let url = format!("http://{host}{port}/phone#{token}");
        let code = QrCode::new(&url).map_err(|error| ApiError::Internal(error.to_string()))?;
        let qr_svg = code.render::<svg::Color<'_>>().min_dimensions(220, 220).build();
        Ok(Door { interface, url, qr_svg })
    });
    let doors = doors.collect::<Result<_, ApiError>>()?;
    Ok(HttpResponse::Created().json(NewPhone { expires_at, open_to_network, doors }))
}

fn port_of(host: &str) -> Option<u16> {
    host.rsplit_once(':').filter(|(_, port)| !port.ends_with(']')).and_then(|(_, port)| port.parse().ok())
}

/// What a paired phone shows: the round's spots, and where to go next.
#[utoipa::path(tag = "phones", params(PhoneHeader),
    responses((status = OK, description = "What to show.", body = PhoneView), Testing))]
#[get("/api/phone")]
pub async fn phone_view(state: Data<AppState>, phone: Phone) -> Result<HttpResponse, ApiError> {
    let pairing = phone.pairing(&state).await?;
    let (_, record) = state.store.round(pairing.round).await?;
    Ok(HttpResponse::Ok().json(view(&state, &pairing, record).await?))
}

/// Takes a run of a paired phone. A run that is there already is kept as it was.
#[utoipa::path(tag = "phones", params(PhoneHeader), request_body = PhoneRun,
    responses((status = CREATED, description = "The run as it is kept.", body = PhoneKept), Storing, Testing))]
#[post("/api/phone/runs")]
pub async fn phone_run(state: Data<AppState>, phone: Phone, new: Body<PhoneRun>) -> Result<HttpResponse, ApiError> {
    let pairing = phone.pairing(&state).await?;
    let new = new.into_inner();
    let now = state.now();
    // What was begun in time is taken later too: it waited on the phone.
    if new.at > pairing.expires_at || now > pairing.expires_at + SENDS_FOR {
        return Err(ApiError::PairingOver);
    }
    let (home_id, record) = state.store.round(pairing.round).await?;
    let plan_id = state.store.home(home_id).await?.home.brief.plan_on(local_day(new.at)).map(|plan| plan.id);
    let round = &record.round;
    let run = |id: RunId, kind: TestKind, found: Option<&TestFigures>| Run {
        id,
        round_id: round.id,
        spot_id: new.spot_id,
        at: new.at,
        source: Source::Phone,
        outcome: found.map_or(Outcome::NoConnection, TestFigures::outcome),
        carried_by: CarriedBy::HomeWifi,
        serving: None,
        band: None,
        channel: None,
        width_mhz: None,
        signal_dbm: None,
        link_rate_mbps: None,
        plan_id,
        trace_mbps: found.map(|found| found.down.trace_mbps.clone()).unwrap_or_default(),
        void: None,
        corrected: Vec::new(),
        under: Some(Under { kind, ..round.under() }).filter(|under| *under != round.under()),
    };
    let (mut runs, mut samples, mut slow, mut beyond_problem) = (Vec::new(), Vec::new(), None, None);
    match &new.result {
        PhoneResult::Tested { test, raw, beyond } => {
            came_from_home(&state, *test)?;
            let within = figures(raw).map_err(ApiError::Spoiled)?;
            runs.push(run(new.id, TestKind::Local, Some(&within)));
            samples.push((new.id, gzip(raw)?));
            if let Some(Beyond { id, raw }) = beyond.as_deref() {
                match figures(raw) {
                    Ok(found) => {
                        slow = Some(slow_leg(&within, &found));
                        runs.push(run(*id, TestKind::Internet, Some(&found)));
                        samples.push((*id, gzip(raw)?));
                    }
                    // The part within the home stands by itself.
                    Err(spoiled) => beyond_problem = Some(spoiled.to_string()),
                }
            }
        }
        // Without a connection nothing lies beyond either: a reading of what the round asks.
        PhoneResult::NoConnection {} => runs.push(run(new.id, judged(&state, round).kind, None)),
    }
    for run in &runs {
        check_run(&record.tested.home, round, run)?;
    }
    let by = Editor::new(PHONES);
    let mut kept =
        state.store.add_runs(pairing.round, &runs, &samples, "run of a phone", (&by, now)).await?.into_iter();
    let run = kept.next().ok_or_else(|| ApiError::Internal("a run that was kept is gone".into()))?;
    let kept = PhoneKept { run, beyond: kept.next(), slow_leg: slow, beyond_problem };
    Ok(HttpResponse::build(StatusCode::CREATED).json(kept))
}

/// The conditions by which a phone's spots are judged: those of the round where a far end is known, else local ones, since all it then
/// measures goes to the machine that serves its page.
fn judged(state: &AppState, round: &Round) -> Under {
    match (round.kind, &state.far_end) {
        (TestKind::Internet, None) => Under { kind: TestKind::Local, ..round.under() },
        _ => round.under(),
    }
}

/// A test whose parts came from several addresses, or from outside of the home's network, was carried by another network.
fn came_from_home(state: &AppState, test: Uuid) -> Result<(), ApiError> {
    match state.far_side.addresses(test).as_deref() {
        // Sent long afterwards, or after a restart: nothing is known against it.
        None | Some([]) => Ok(()),
        Some([one]) if of_home(*one) => Ok(()),
        Some(_) => Err(ApiError::Spoiled(Spoiled::OtherNetwork)),
    }
}

fn gzip(raw: &RawTest) -> Result<Vec<u8>, ApiError> {
    let mut into = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
    serde_json::to_writer(&mut into, raw)?;
    into.finish().map_err(|error| ApiError::Internal(error.to_string()))
}

async fn view(state: &AppState, pairing: &Pairing, record: RoundRecord) -> Result<PhoneView, ApiError> {
    let RoundRecord { round, tested } = record;
    let readings = state.readings(pairing.home).await?;
    let (may_test, far_end, under) = (state.now() <= pairing.expires_at, state.far_end.clone(), judged(state, &round));
    let expires_at = pairing.expires_at;
    // Off the threads that take readings: pages that look must not hold up pages that send.
    let work = move |_: &Watch| Ok(shown(&round, &tested, &readings, under, (may_test, expires_at, far_end)));
    state.places.compute(work).await
}

/// What a phone shows of a round.
fn shown(
    round: &Round,
    tested: &AsTested,
    readings: &Readings,
    under: Under,
    (may_test, expires_at, far_end): (bool, Timestamp, Option<FarEnd>),
) -> PhoneView {
    let home = &tested.home;
    let plan = Plan::new(&home.house, home.units);
    let runs = readings.of(round.id);
    let spots: Vec<PhoneSpot> =
        round.spots.iter().map(|id| spot(*id, round, &under, &tested.home, &plan, runs)).collect();
    PhoneView {
        home_name: home.name.clone(),
        setup: home.setup(round.setup_id).map(|own| format!("{} {}", own.letter, own.name)).unwrap_or_default(),
        words: in_words(&under),
        kind: under.kind,
        far_end: far_end.filter(|_| round.kind == TestKind::Internet),
        runs_per_spot: round.runs_per_spot,
        expires_at,
        may_test,
        drawing: drawing(&plan),
        next: spots.iter().find(|spot| !spot.done).map(|spot| spot.spot_id),
        spots,
    }
}

fn spot(id: SpotId, round: &Round, under: &Under, home: &busy_hen_home::Home, plan: &Plan, all: &[Run]) -> PhoneSpot {
    let own =
        |run: &&Run| run.spot_id == id && run.counts() && run.source == Source::Phone && run.under(round) == *under;
    let summary = summarise(all.iter().filter(own));
    let rates: Vec<f64> = all
        .iter()
        .filter(own)
        .map(|run| match &run.outcome {
            Outcome::Measured { down_mbps, .. } => down_mbps.get(),
            Outcome::NoConnection => 0.0,
        })
        .collect();
    let spot = home.house.spots.iter().find(|spot| spot.id == id);
    let place = spot.and_then(|spot| plan.spot(spot));
    let need = spot.and_then(|spot| room_need(&home.brief, spot.room_id));
    let state = enough(&rates);
    PhoneSpot {
        spot_id: id,
        name: spot_name(home, id),
        level_id: place.map(|(level, _)| plan.levels[level].id),
        x_m: Metres::new(place.map_or(0.0, |(_, point)| point.x)),
        y_m: Metres::new(place.map_or(0.0, |(_, point)| point.y)),
        verdict: need.zip(summary).map(|(need, summary)| verdict::measured(&need, &summary)),
        need,
        runs: rates.len(),
        summary,
        done: state.may_go_on(rates.len(), round.runs_per_spot),
        enough: state,
    }
}
