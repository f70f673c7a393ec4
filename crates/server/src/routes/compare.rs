//! Two setups room by room.

use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, get};
use busy_hen_engine::changes::since_tested;
use busy_hen_engine::needs::{Need, Verdict, verdict};
use busy_hen_engine::predict::{Model, Prediction};
use busy_hen_engine::readings::compare::{Column, change_percent, compare as side_by_side};
use busy_hen_engine::readings::conditions::choose_pair;
use busy_hen_engine::readings::{Group, Summary};
use busy_hen_engine::watch::Watch;
use busy_hen_home::{Doors, Home, HomeId, RoomId, Setup, SetupId, Situation, SpotId, TestKind};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::predict::Ask;
use crate::error::ApiError;
use crate::problems::Comparing;
use crate::state::{AppState, Readings};

/// Which setups, by which kind of test.
#[derive(Debug, Deserialize, IntoParams)]
pub struct CompareAsk {
    /// The setup that changes are counted from.
    pub reference: SetupId,
    /// The setup set against it.
    pub other: SetupId,
    /// Kind of test.
    pub kind: TestKind,
    /// Key of the device that predictions are for.
    pub client: String,
    /// Situation that predictions are for.
    pub situation: Situation,
}

/// Two setups side by side.
#[derive(Debug, Serialize, ToSchema)]
pub struct CompareView {
    /// Rooms, worst of the other setup first.
    pub rooms: Vec<RoomPair>,
    /// Why the columns are not like for like; empty when they are.
    pub warnings: Vec<String>,
    /// How many needs each setup meets.
    pub reference_score: Score,
    /// How many needs each setup meets.
    pub other_score: Score,
}

/// How many rooms' needs a setup meets.
#[derive(Debug, Default, Serialize, ToSchema)]
pub struct Score {
    /// Rooms that need something.
    pub rooms_with_need: usize,
    /// Of these, met or likely by prediction.
    pub predicted_met: usize,
    /// Of these, measured.
    pub measured: usize,
    /// Of these, met or just met by measurement.
    pub measured_met: usize,
}

/// One room in both setups.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoomPair {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// What it needs.
    pub need: Option<Need>,
    /// The spot that the figures are of; none where they are not of one spot.
    pub spot_id: Option<SpotId>,
    /// Name of that spot, where the room has several.
    pub spot_name: String,
    /// The reference.
    pub reference: RoomSide,
    /// The other.
    pub other: RoomSide,
    /// Change of the measured median download at that spot, percent.
    pub measured_change_percent: Option<f64>,
    /// Change of the predicted download there, percent.
    pub predicted_change_percent: Option<f64>,
}

/// One room in one setup.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoomSide {
    /// What is predicted.
    pub predicted: Prediction,
    /// The prediction judged.
    pub predicted_verdict: Option<Verdict>,
    /// What was measured.
    pub measured: Option<Summary>,
    /// The measurement judged.
    pub measured_verdict: Option<Verdict>,
    /// Whether the product made that measurement up.
    pub made_up: bool,
}

/// Sets two setups side by side: each room at one spot, measured under one set of conditions.
#[utoipa::path(tag = "compare", params(("home" = HomeId, Path), CompareAsk),
    responses((status = OK, description = "The two side by side.", body = CompareView), Comparing))]
#[get("/api/homes/{home}/compare")]
pub async fn compare(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Query<CompareAsk>,
) -> Result<HttpResponse, ApiError> {
    let CompareAsk { reference, other, kind, client, situation } = asked.into_inner();
    let ask = Ask { client, band: None, situation, doors: Doors::AsLeft, kind };
    let question = ask.question(state.today())?;
    let stored = state.store.home(*home).await?.home;
    let readings = state.readings(*home).await?;
    let places = state.places.clone();
    let compared = move |_: &Watch| {
        let home = &stored;
        let find = |id| home.setup(id).ok_or(ApiError::NotFound("setup"));
        let (reference, other) = (find(reference)?, find(other)?);
        let kept = readings.kept(&state.kept, home);
        let plan = kept.plan(home);
        let models = [reference, other].map(|setup| Model::new(home, setup, &plan, question, &kept));
        let order = models[1].ledger(&readings.measured(other.id, &ask.conditions()));
        let spots = |room: RoomId| home.house.spots.iter().filter(move |spot| spot.room_id == room);
        let rooms: Vec<(RoomId, Vec<SpotId>)> =
            order.iter().map(|row| (row.room_id, spots(row.room_id).map(|spot| spot.id).collect())).collect();
        let conditions = ask.conditions();
        let (first, second) =
            choose_pair(readings.groups(reference.id, kind), readings.groups(other.id, kind), &conditions);
        let columns =
            [(reference, first), (other, second)].map(|(setup, group)| column(&readings, home, setup, group, kind));
        let measured = side_by_side(&rooms, &columns[0], &columns[1], kind);
        let mut scores = [Score::default(), Score::default()];
        let mut pairs = Vec::new();
        for (row, change) in order.iter().zip(measured.rooms) {
            let Some(room) = plan.room(row.room_id) else { continue };
            // Predictions of both are for the spot that was measured in both, else for the worst of the other.
            let spot_id = change.spot_id.or(row.spot_id);
            let spot = home.house.spots.iter().find(|spot| Some(spot.id) == spot_id);
            let at = spot.and_then(|spot| plan.spot(spot)).map_or_else(|| plan.middle_of(room), |(_, at)| at);
            let [own, others] = [(0, change.reference), (1, change.other)].map(|(index, measured): (usize, _)| {
                let made_up = columns[index].group.as_ref().is_some_and(|group| group.conditions.made_up);
                let side = side(row.need.as_ref(), models[index].at(at, Some(room.id)), measured, made_up);
                count(&mut scores[index], row.need.is_some(), &side);
                side
            });
            pairs.push(RoomPair {
                room_id: row.room_id,
                name: row.name.clone(),
                need: row.need,
                spot_id: spot_id
                    .filter(|_| change.spot_id.is_some() || (change.reference.is_none() && change.other.is_none())),
                spot_name: spot.map(|spot| spot.name.clone()).unwrap_or_default(),
                predicted_change_percent: change_percent(
                    own.predicted.down.middle.get(),
                    others.predicted.down.middle.get(),
                ),
                measured_change_percent: change.change_percent,
                reference: own,
                other: others,
            });
        }
        let [reference_score, other_score] = scores;
        Ok(CompareView { rooms: pairs, warnings: measured.warnings, reference_score, other_score })
    };
    Ok(HttpResponse::Ok().json(places.compute(compared).await?))
}

fn side(need: Option<&Need>, predicted: Prediction, measured: Option<Summary>, made_up: bool) -> RoomSide {
    RoomSide {
        predicted_verdict: need
            .map(|need| verdict::predicted(need, &predicted.down, &predicted.up, predicted.latency_ms)),
        measured_verdict: need.zip(measured.as_ref()).map(|(need, summary)| verdict::measured(need, summary)),
        made_up: made_up && measured.is_some(),
        predicted,
        measured,
    }
}

fn count(score: &mut Score, needs: bool, side: &RoomSide) {
    if !needs {
        return;
    }
    score.rooms_with_need += 1;
    score.predicted_met += usize::from(side.predicted_verdict > Some(Verdict::NotMet));
    // What was made up is no measurement and meets nobody's need.
    score.measured += usize::from(side.measured_verdict.is_some() && !side.made_up);
    score.measured_met += usize::from(side.measured_verdict > Some(Verdict::NotMet) && !side.made_up);
}

fn column<'a>(
    readings: &'a Readings,
    home: &Home,
    setup: &Setup,
    group: Option<Group<'a>>,
    kind: TestKind,
) -> Column<'a> {
    let other = if kind == TestKind::Local { TestKind::Internet } else { TestKind::Local };
    let newest = group.as_ref().and_then(|group| group.rounds.iter().max_by_key(|round| round.begun));
    let record = newest.and_then(|round| readings.rounds.iter().find(|record| record.round.id == round.id));
    Column {
        name: format!("{} {}", setup.letter, setup.name),
        other_kind_only: group.is_none() && !readings.groups(setup.id, other).is_empty(),
        changed_since: record.map(|record| since_tested(&record.tested.home, setup.id, home)).unwrap_or_default(),
        group,
    }
}
