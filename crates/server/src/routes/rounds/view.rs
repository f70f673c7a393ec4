//! A round with all that was measured in it.

use std::collections::HashMap;
use std::sync::Arc;

use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, get};
use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    AsTested, Forecast, Home, HomeId, LevelId, Mark, Purpose, RoomId, Round, RoundId, Run, RunId, SpotId, Under,
    local_day,
};
use busy_hen_job::changes::since_tested;
use busy_hen_predict::Prediction;
use busy_hen_predict::conditions::beside;
use busy_hen_predict::forecast::forecasts;
use busy_hen_predict::needs::{Need, Verdict, room_need, verdict};
use busy_hen_predict::summary::{Summary, outliers, summarise};
use busy_hen_radio::propagation::LAW;
use busy_hen_store::RoundRecord;
use busy_hen_survey::readings::compare::change_percent;
use busy_hen_survey::readings::marks;
use busy_hen_survey::readings::marks::{DropOut, MarkRow};
use busy_hen_survey::readings::rush::{Rush, rushes};
use busy_hen_survey::readings::words::{holds, in_words, rule};
use busy_hen_units::Metres;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use crate::drawing::{Drawing, drawing};
use crate::error::ApiError;
use crate::problems::Reading;
use crate::state::{AppState, Readings};

/// A round with all that was measured in it. Everything told of it comes from the home as it was taken in it.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundView {
    /// The round.
    pub round: Round,
    /// The home it belongs to.
    pub home_id: HomeId,
    /// What it was taken in.
    pub tested: AsTested,
    /// Version of the law that predicts today.
    pub law_now: String,
    /// What has changed since that bears on its readings, as told of the past.
    pub changed_since: Vec<String>,
    /// Whether the stand-in phone made up any of its runs.
    pub made_up: bool,
    /// Name of the test device.
    pub client_name: String,
    /// Spots in walking order.
    pub spots: Vec<SpotRow>,
    /// What was found mark by mark, in rounds that go by marks.
    pub marks: Vec<MarkShown>,
    /// The mark that served best, in a trial.
    pub best: Option<Mark>,
    /// Where a range walk dropped out.
    pub drop_out: Option<DropOut>,
    /// The round of the same purpose whose marks stand beside these; none when there is none.
    pub beside: Option<Beside>,
    /// All that could stand there, the newest first.
    pub besides: Vec<Beside>,
    /// By what it is judged whether a check of use holds.
    pub check_rule: String,
    /// Phones that began together, the newest lot first.
    pub rushes: Vec<Rush>,
    /// The house as it was tested.
    pub drawing: Drawing,
    /// Whether the stand-in phone is walking it.
    pub walking: bool,
    /// What stopped the stand-in phone, when something did.
    pub walk_error: Option<String>,
    /// Whether the address of its kit's report came with a file, and nobody here has said yet that it may be asked.
    pub kit_report_unsaid: bool,
}

/// A spot of a round.
#[derive(Debug, Serialize, ToSchema)]
pub struct SpotRow {
    /// The spot.
    pub spot_id: SpotId,
    /// Its room.
    pub room_id: RoomId,
    /// Room, and spot where the room has several.
    pub name: String,
    /// The level it is on; none when it has no place in the drawing.
    pub level_id: Option<LevelId>,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// Whether the house still has it.
    pub there: bool,
    /// What the room needed.
    pub need: Option<Need>,
    /// How many runs there are under the conditions of the round.
    pub run_count: usize,
    /// How many there are under any.
    pub run_total: usize,
    /// The newest runs in the order they were taken, at most thirty; the rest by the runs of the round.
    pub runs: Vec<Run>,
    /// Runs under the conditions of the round that are far off the others; they count all the same.
    pub outliers: Vec<RunId>,
    /// What those come to that were taken under the conditions of the round.
    pub summary: Option<Summary>,
    /// What those come to that were taken under other conditions, alike ones together.
    pub otherwise: Vec<Otherwise>,
    /// What checks of use came to, newest first.
    pub checks: Vec<Checked>,
    /// Judged against the need of that day.
    pub verdict: Option<Verdict>,
    /// What was predicted as the round began; none in rounds from before that was kept.
    pub forecast: Option<Forecast>,
    /// What today's law predicts for the home as it stood then; none when the room had no place in the drawing.
    pub predicted: Option<Prediction>,
    /// Whether the two are more than half a percent apart.
    pub differs: bool,
    /// Median down against what was predicted that day, or else by today's law, percent.
    pub gap_percent: Option<f64>,
}

/// A mark, and what an earlier round found there.
#[derive(Debug, Serialize, ToSchema)]
pub struct MarkShown {
    /// What was found.
    #[serde(flatten)]
    pub row: MarkRow,
    /// What speaks against the kit's own status there.
    pub against_status: Option<String>,
    /// The same mark in the other round.
    pub other: Option<MarkRow>,
}

/// A round that another one stands beside.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Beside {
    /// The round.
    pub round_id: RoundId,
    /// Letter and name of its setup.
    pub setup: String,
    /// When it was begun.
    #[schema(value_type = String, format = DateTime)]
    pub begun: Timestamp,
    /// What of its conditions is otherwise, in words; empty when like is set beside like.
    pub otherwise: String,
}

/// A check of use, in words.
#[derive(Debug, Serialize, ToSchema)]
pub struct Checked {
    /// The run.
    pub run_id: RunId,
    /// What came of it.
    pub words: String,
    /// Whether it holds; none where nothing was to hold.
    pub holds: Option<bool>,
    /// What was noted with it.
    pub note: Option<String>,
}

/// Runs of a spot that were taken under other conditions than the round's.
#[derive(Debug, Serialize, ToSchema)]
pub struct Otherwise {
    /// What was otherwise, in words.
    pub words: String,
    /// The conditions.
    pub under: Under,
    /// What the runs come to.
    pub summary: Summary,
}

/// What is to stand beside a round.
#[derive(Debug, Deserialize, IntoParams)]
pub struct BesideAsk {
    /// The round whose marks stand beside its own; the newest earlier one of the same purpose when left out.
    pub beside: Option<RoundId>,
}

/// Runs of a spot that a round shows without being asked for more.
const RUNS_SHOWN: usize = 30;

/// A round with its newest runs, figures and verdicts.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), BesideAsk),
    responses((status = OK, description = "The round.", body = RoundView), Reading))]
#[get("/rounds/{round}")]
pub async fn open_round(
    state: Data<AppState>,
    round: Path<RoundId>,
    ask: Query<BesideAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, record) = state.store.round(*round).await?;
    Ok(HttpResponse::Ok().json(view(&state, home_id, record, ask.beside).await?))
}

pub(super) async fn view(
    state: &Data<AppState>,
    home_id: HomeId,
    record: RoundRecord,
    asked: Option<RoundId>,
) -> Result<RoundView, ApiError> {
    let RoundRecord { round, tested } = record;
    // Asked before the runs are read: a round that is told to be walked to its end is shown with all of them.
    let (walking, walk_error) = state.walks.state(round.id);
    let now = state.store.home(home_id).await?.home;
    let kit_report_unsaid = match round.on_record.as_ref().and_then(|own| own.kit_report.as_ref()) {
        Some(address) => !state.store.kit_address_is_said(home_id, address).await?,
        None => false,
    };
    let readings = state.readings(home_id).await?;
    let mut shown = HashMap::new();
    for spot in &round.spots {
        if readings.of(round.id).iter().any(|run| run.spot_id == *spot) {
            let most = u32::try_from(RUNS_SHOWN).unwrap_or(u32::MAX);
            shown.insert(*spot, state.store.runs(round.id, Some(*spot), None, most).await?);
        }
    }
    let work = state.clone();
    state
        .places
        .compute_of(home_id, move |watch| {
            let client = clients::find(&round.client);
            let predicted = forecasts(&tested.home, &round, local_day(round.begun), &work.kept.wanted_by(watch));
            let runs = readings.of(round.id);
            let plan = Plan::new(&tested.home.house, tested.home.units);
            let spots = round.spots.iter().map(|id| SpotRow {
                there: now.house.spots.iter().any(|spot| spot.id == *id),
                ..spot_row(*id, &round, (&tested, &plan), &predicted, runs, shown.remove(id).unwrap_or_default())
            });
            let spots: Vec<SpotRow> = spots.collect();
            let need = spots.first().and_then(|spot| spot.need);
            let marks = marks::rows(runs, need.as_ref().map(|own| (own, round.situation)));
            let besides = if round.purpose.is_marked() { besides(&round, &readings) } else { Vec::new() };
            let chosen =
                besides.iter().find(|own| asked.map_or(own.begun < round.begun, |asked| own.round_id == asked));
            let chosen = chosen.cloned();
            let runs_of =
                |own: &Beside| marks::rows(readings.of(own.round_id), need.as_ref().map(|own| (own, round.situation)));
            let others = chosen.as_ref().map(runs_of).unwrap_or_default();
            Ok(RoundView {
                drawing: drawing(&tested.home, &plan),
                best: marks::best(&marks).filter(|_| round.purpose.is_trial()).cloned(),
                drop_out: (round.purpose == Purpose::RangeWalk).then(|| marks::drop_out(&marks)),
                check_rule: rule(),
                rushes: rushes(runs),
                beside: chosen,
                besides,
                marks: marks
                    .into_iter()
                    .map(|row| MarkShown {
                        against_status: marks::against_status(&row, round.purpose == Purpose::PlacementTrial),
                        other: others.iter().find(|other| other.mark == row.mark).cloned(),
                        row,
                    })
                    .collect(),
                home_id,
                law_now: LAW.to_owned(),
                changed_since: since_tested(&tested.home, round.setup_id, &now),
                made_up: runs.iter().any(|run| run.counts() && run.is_made_up()),
                client_name: client.map_or(round.client.clone(), |client| client.name.to_owned()),
                spots,
                walking,
                walk_error,
                kit_report_unsaid,
                tested,
                round,
            })
        })
        .await
}

/// Other rounds of the same purpose, the newest first.
fn besides(round: &Round, readings: &Readings) -> Vec<Beside> {
    let alike = |own: &&Arc<RoundRecord>| own.round.purpose == round.purpose && own.round.id != round.id;
    let told = |own: &Arc<RoundRecord>| {
        let setup = own.tested.home.setup(own.round.setup_id);
        Beside {
            round_id: own.round.id,
            setup: setup.map(|setup| format!("{} {}", setup.letter, setup.name)).unwrap_or_default(),
            begun: own.round.begun,
            otherwise: beside(&own.round.under(), &round.under()),
        }
    };
    readings.rounds.iter().rev().filter(alike).map(told).collect()
}

fn spot_row(
    id: SpotId,
    round: &Round,
    (tested, plan): (&AsTested, &Plan),
    predicted: &HashMap<SpotId, Prediction>,
    all: &[Run],
    runs: Vec<Run>,
) -> SpotRow {
    let home = &tested.home;
    let spot = home.house.spots.iter().find(|spot| spot.id == id);
    let room_id = spot.map_or(RoomId(id.0), |spot| spot.room_id);
    let place = spot.and_then(|spot| plan.spot(spot));
    let here = || all.iter().filter(|run| run.spot_id == id);
    let own = || here().filter(|run| run.is_of_room());
    let checked = |run: &Run| {
        let words = in_words(&run.outcome)?;
        Some(Checked { run_id: run.id, words, holds: holds(&run.outcome), note: run.note.clone() })
    };
    let mut checks: Vec<Checked> = here().filter(|run| run.void.is_none()).filter_map(checked).collect();
    checks.reverse();
    // What another tool showed under the conditions of the round counts where nothing else was taken.
    let with_any_tool = |run: &Run| Under { tool: None, ..run.under(round) } == round.under();
    let by_own_test = own().any(|run| run.under(round) == round.under());
    let as_the_round = |run: &&Run| {
        let tool = !by_own_test || run.under(round).tool.is_none();
        tool && with_any_tool(run)
    };
    let summary = summarise(own().filter(as_the_round));
    let need = room_need(&home.brief, room_id, round.kind);
    let forecast = tested.forecasts.iter().find(|forecast| forecast.spot_id == id).cloned();
    let predicted = predicted.get(&id).cloned();
    let then = forecast.as_ref().map(|forecast| forecast.down.middle.get());
    let today = predicted.as_ref().map(|predicted| predicted.down.middle.get());
    let gap = |summary: &Summary| change_percent(then.or(today)?, summary.down_mbps.median);
    SpotRow {
        spot_id: id,
        room_id,
        name: spot_name(home, id),
        level_id: place.map(|(level, _)| plan.levels[level].id),
        x_m: Metres::new(place.map_or(0.0, |(_, point)| point.x)),
        y_m: Metres::new(place.map_or(0.0, |(_, point)| point.y)),
        there: true,
        verdict: need.zip(summary).map(|(need, summary)| verdict::measured(&need, &summary, round.situation)),
        need,
        gap_percent: summary.as_ref().and_then(gap),
        // The tables may have learnt since, and the home may have changed: only another law predicts otherwise of the same.
        differs: tested.law.as_deref() != Some(LAW)
            && then.zip(today).is_some_and(|(then, today)| (then - today).abs() > 0.005 * then.max(today)),
        outliers: outliers(own().filter(as_the_round)),
        run_count: own().filter(as_the_round).count(),
        run_total: here().count(),
        checks,
        otherwise: otherwise(round, own().filter(|run| run.under(round) != round.under())),
        summary,
        forecast,
        predicted,
        runs,
    }
}

/// Runs sorted by their conditions, with what each lot comes to.
fn otherwise<'a>(round: &Round, runs: impl Iterator<Item = &'a Run>) -> Vec<Otherwise> {
    let mut lots: Vec<(&Under, Vec<&Run>)> = Vec::new();
    for run in runs {
        let Some(under) = &run.under else { continue };
        match lots.iter_mut().find(|(own, _)| *own == under) {
            Some((_, lot)) => lot.push(run),
            None => lots.push((under, vec![run])),
        }
    }
    lots.into_iter()
        .filter_map(|(under, lot)| {
            Some(Otherwise { words: beside(under, &round.under()), under: under.clone(), summary: summarise(lot)? })
        })
        .collect()
}

pub(crate) fn spot_name(home: &Home, id: SpotId) -> String {
    let Some(spot) = home.house.spots.iter().find(|spot| spot.id == id) else { return String::new() };
    let room = home.house.room(spot.room_id).map_or("", |room| room.name.as_str());
    if spot.name.is_empty() { room.to_owned() } else { format!("{room}, {}", spot.name) }
}
