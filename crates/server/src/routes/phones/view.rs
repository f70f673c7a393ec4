//! What a phone shows.

use actix_web::web::{Data, Query, ReqData};
use actix_web::{HttpResponse, get};
use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Activity, AsTested, Band, DeviceId, Doors, Home, LengthUnit, LevelId, Mark, Outcome, Purpose, Round, RoundId, Run,
    Situation, Source, SpotId, TestKind, Under,
};
use busy_hen_predict::conditions::in_words;
use busy_hen_predict::needs::{Need, Verdict, need_of, room_need, verdict};
use busy_hen_predict::progress::Watch;
use busy_hen_predict::summary::{Summary, summarise};
use busy_hen_store::{Pairing, RoundRecord};
use busy_hen_survey::measuring::enough::{Enough, enough};
use busy_hen_survey::readings::marks;
use busy_hen_survey::readings::marks::{DropOut, MarkRow};
use busy_hen_survey::readings::words::{self, shown_by};
use busy_hen_units::{MbitPerSec, Metres};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::{PhoneHeader, reached, reaching};
use crate::drawing::{Drawing, drawing};
use crate::error::ApiError;
use crate::far_end::FarEnd;
use crate::problems::Testing;
use crate::routes::rounds::spot_name;
use crate::state::{AppState, Readings};

/// Under what the phone tests now, where that is not what the round says; all of it or nothing.
#[derive(Debug, Clone, Deserialize, IntoParams)]
pub struct PhoneAsk {
    /// Key of the phone's class; the conditions of the round when left out.
    pub client: Option<String>,
    /// The band it is held to; left out when it chooses.
    pub band: Option<Band>,
    /// How the doors stand.
    pub doors: Option<Doors>,
    /// Whether others are busy.
    pub situation: Option<Situation>,
}

impl PhoneAsk {
    fn under(self, round: &Round) -> Under {
        let Some(client) = self.client else { return round.under() };
        Under {
            client,
            band: self.band,
            doors: self.doors.unwrap_or(round.doors),
            situation: self.situation.unwrap_or(round.situation),
            ..round.under()
        }
    }
}

/// What a phone shows.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneView {
    /// The round.
    pub round_id: RoundId,
    /// What it is for.
    pub purpose: Purpose,
    /// Name of the home.
    pub home_name: String,
    /// Letter and name of the setup.
    pub setup: String,
    /// The conditions in words.
    pub words: String,
    /// The conditions of the round.
    pub under: Under,
    /// How far the tests of the round reach.
    pub kind: TestKind,
    /// The far end to test to as well; none where the round is of local tests, or no far end is known.
    pub far_end: Option<FarEnd>,
    /// How many runs each spot is to get.
    pub runs_per_spot: u32,
    /// When no new test may begin any more.
    #[schema(value_type = String, format = DateTime)]
    pub expires_at: Timestamp,
    /// Unit in which lengths are shown.
    pub units: LengthUnit,
    /// Classes that the phone may be of.
    pub clients: Vec<PhoneClass>,
    /// Devices that may serve it.
    pub devices: Vec<PhoneDevice>,
    /// Rate of the data of a film.
    pub film_mbps: MbitPerSec,
    /// Rate of the data of a call, each way.
    pub call_mbps: MbitPerSec,
    /// The house as it was when the round began.
    pub drawing: Drawing,
    /// Its spots in walking order.
    pub spots: Vec<PhoneSpot>,
    /// Where to go next; none when all have runs enough.
    pub next: Option<SpotId>,
    /// What was found mark by mark, in rounds that go by marks.
    pub marks: Vec<MarkRow>,
    /// The mark that served best, in a trial.
    pub best: Option<Mark>,
    /// Where a range walk dropped out.
    pub drop_out: Option<DropOut>,
}

/// A class that a phone may be of.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneClass {
    /// Key in the catalogue.
    pub key: String,
    /// Name for people.
    pub name: String,
    /// Bands it has.
    pub bands: Vec<Band>,
}

/// A device that may serve a phone.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneDevice {
    /// The device.
    pub id: DeviceId,
    /// What it is called.
    pub name: String,
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
    /// Whether it was passed over last.
    pub skipped: bool,
    /// What checks and other tests there came to, newest first.
    pub checks: Vec<String>,
}

/// What a paired phone shows: the round's spots, and where to go next.
#[utoipa::path(tag = "phones", params(PhoneHeader, PhoneAsk),
    responses((status = OK, description = "What to show.", body = PhoneView), Testing))]
#[get("")]
pub async fn phone_view(
    state: Data<AppState>,
    pairing: ReqData<Pairing>,
    asked: Query<PhoneAsk>,
) -> Result<HttpResponse, ApiError> {
    let (_, record) = state.store.round(pairing.round).await?;
    if !pairing.may_test(state.now()) {
        return Err(ApiError::PairingOver);
    }
    Ok(HttpResponse::Ok().json(view(&state, &pairing, record, asked.into_inner()).await?))
}

async fn view(
    state: &AppState,
    pairing: &Pairing,
    RoundRecord { round, tested }: RoundRecord,
    asked: PhoneAsk,
) -> Result<PhoneView, ApiError> {
    let readings = state.readings(pairing.home).await?;
    let (far_end, kind) = (state.far_end(), reached(state, &round, pairing));
    let own = if pairing.stand_in { Source::Walker } else { Source::Phone };
    let expires_at = pairing.ends_at();
    // Off the threads that take readings: pages that look must not hold up pages that send.
    let work = move |_: &Watch| {
        let under = reaching(kind, asked.under(&round));
        Ok(shown(&round, &tested, &readings, &under, own, (expires_at, far_end)))
    };
    state.places.compute_of(pairing.home, work).await
}

/// What a phone shows of a round.
fn shown(
    round: &Round,
    tested: &AsTested,
    readings: &Readings,
    under: &Under,
    source: Source,
    (expires_at, far_end): (Timestamp, Option<FarEnd>),
) -> PhoneView {
    let home = &tested.home;
    let plan = Plan::new(&home.house, home.units);
    let runs = readings.of(round.id);
    let spots: Vec<PhoneSpot> =
        round.spots.iter().map(|id| spot(*id, round, (under, source), home, &plan, runs)).collect();
    let marks = marks::rows(runs, spots.first().and_then(|spot| spot.need.as_ref()).map(|own| (own, round.situation)));
    let setup = home.setup(round.setup_id);
    let class = |client: &clients::Client| PhoneClass {
        key: client.key.to_owned(),
        name: client.name.to_owned(),
        bands: client.bands.iter().map(|own| own.band).collect(),
    };
    let device = |device: &busy_hen_home::Device| PhoneDevice { id: device.id, name: device.name.clone() };
    let call = need_of(Activity::Call);
    PhoneView {
        round_id: round.id,
        purpose: round.purpose,
        home_name: home.name.clone(),
        setup: setup.map(|own| format!("{} {}", own.letter, own.name)).unwrap_or_default(),
        words: in_words(under),
        under: round.under(),
        kind: under.kind,
        far_end: far_end.filter(|_| round.kind.is_internet()),
        runs_per_spot: round.runs_per_spot,
        expires_at,
        units: home.units,
        clients: clients::all().iter().map(class).collect(),
        devices: setup.into_iter().flat_map(|setup| &setup.devices).map(device).collect(),
        film_mbps: need_of(Activity::UhdFilm).down_mbps,
        call_mbps: if call.up_mbps > call.down_mbps { call.up_mbps } else { call.down_mbps },
        drawing: drawing(home, &plan),
        next: next_of(&spots, runs, source),
        spots,
        best: marks::best(&marks).filter(|_| round.purpose.is_trial()).cloned(),
        drop_out: (round.purpose == Purpose::RangeWalk).then(|| marks::drop_out(&marks)),
        marks,
    }
}

/// Where to go next: on from the spot that was tested last, once round.
fn next_of(spots: &[PhoneSpot], runs: &[Run], source: Source) -> Option<SpotId> {
    let last = runs.iter().filter(|run| run.source == source).max_by_key(|run| run.at).map(|run| run.spot_id);
    let from = spots.iter().position(|spot| Some(spot.spot_id) == last).unwrap_or(0);
    let mut onward = spots[from..].iter().chain(&spots[..from]);
    onward.find(|spot| !spot.done && !spot.skipped).map(|spot| spot.spot_id)
}

fn spot(
    id: SpotId,
    round: &Round,
    (under, source): (&Under, Source),
    home: &Home,
    plan: &Plan,
    all: &[Run],
) -> PhoneSpot {
    let here = || all.iter().filter(|run| run.spot_id == id);
    let own = |run: &&Run| run.counts() && run.mark.is_none() && run.source == source && run.under(round) == *under;
    let summary = summarise(here().filter(own));
    let rates: Vec<f64> = here()
        .filter(own)
        .filter_map(|run| match &run.outcome {
            Outcome::Measured { down_mbps, .. } => Some(down_mbps.get()),
            Outcome::NoConnection => Some(0.0),
            _ => None,
        })
        .collect();
    let spot = home.house.spots.iter().find(|spot| spot.id == id);
    let place = spot.and_then(|spot| plan.spot(spot));
    let need = spot.and_then(|spot| room_need(&home.brief, spot.room_id, round.kind));
    let state = enough(&rates);
    let mut checks: Vec<String> = here().filter(|run| run.counts()).filter_map(words_of).collect();
    checks.reverse();
    let checked = |wanted: fn(&Outcome) -> bool| here().any(|run| run.counts() && wanted(&run.outcome));
    PhoneSpot {
        spot_id: id,
        name: spot_name(home, id),
        level_id: place.map(|(level, _)| plan.levels[level].id),
        x_m: Metres::new(place.map_or(0.0, |(_, point)| point.x)),
        y_m: Metres::new(place.map_or(0.0, |(_, point)| point.y)),
        verdict: need.zip(summary).map(|(need, summary)| verdict::measured(&need, &summary, round.situation)),
        need,
        runs: rates.len(),
        summary,
        done: match round.purpose {
            Purpose::ApplicationCheck => {
                checked(|outcome| matches!(outcome, Outcome::Film { .. }))
                    && checked(|outcome| matches!(outcome, Outcome::Call { .. }))
            }
            Purpose::HandOverWalk => checked(|outcome| matches!(outcome, Outcome::Walked { .. })),
            _ => state.may_go_on(rates.len(), round.runs_per_spot),
        },
        skipped: here().max_by_key(|run| run.at).is_some_and(|run| matches!(run.outcome, Outcome::Skipped)),
        enough: state,
        checks,
    }
}

/// What came of a run in words, where it is not counted among the runs of this page's own test.
fn words_of(run: &Run) -> Option<String> {
    let tool = run.under.as_ref().and_then(|under| under.tool.as_deref());
    words::in_words(&run.outcome).or_else(|| shown_by(tool?, &run.outcome))
}
