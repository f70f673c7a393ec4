//! Setups side by side, what their readings show, and which to keep.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post, put};
use busy_hen_engine::catalogue::Catalogue;
use busy_hen_engine::changes::since_tested;
use busy_hen_engine::check::check;
use busy_hen_engine::geometry::{Plan, Point};
use busy_hen_engine::learning::lessons::part_name;
use busy_hen_engine::needs::{Need, Verdict, verdict};
use busy_hen_engine::parts::{Parts, parts};
use busy_hen_engine::path::network::Direction;
use busy_hen_engine::predict::{Kept, Model, Prediction, Question};
use busy_hen_engine::readings::compare::{
    Against, Cell, Column, Comparison, Measure, ShownBy, Sides, Unlike, choose_alike, compare,
};
use busy_hen_engine::readings::findings::{Evidence, ReadingFinding, SpotReadings, reading_findings};
use busy_hen_engine::readings::ratio::by_turns;
use busy_hen_engine::readings::verdict::{Candidate, Choice, Weights, choose};
use busy_hen_engine::readings::walks::{Walked, Walks, walks};
use busy_hen_engine::readings::{Figures, Group, Summary};
use busy_hen_engine::watch::Watch;
use busy_hen_home::{
    Band, CarriedBy, Control, Decision, DeviceId, Doors, Faults, Home, HomeId, Purpose, RoomId, Round, RoundId, Run,
    Setup, SetupId, Situation, SpotId, TestKind, local_day, local_hour,
};
use busy_hen_store::RoundRecord;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::homes::{editing, view};
use super::predict::Ask;
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing};
use crate::state::{AppState, Readings};
use crate::views::HomeView;

/// Most setups that are set side by side.
const COLUMNS: usize = 12;

/// Which setups, how.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CompareAsk {
    /// The columns, in their order.
    pub columns: Vec<ColumnAsk>,
    /// Place of the one that the others are set against, counted from 0.
    pub reference: usize,
    /// Kind of test.
    pub kind: TestKind,
    /// Key of the device that predictions are for.
    pub client: String,
    /// Situation that predictions are for.
    pub situation: Situation,
    /// Which figure of the runs.
    #[serde(default)]
    pub measure: Measure,
    /// What is shown of several runs.
    #[serde(default)]
    pub shown: ShownBy,
    /// Whether the part of the plan that arrives is compared in place of the speed.
    #[serde(default)]
    pub share_of_plan: bool,
    /// What counts how much in the choice.
    #[serde(default)]
    pub weights: Weights,
}

/// A setup with all that was measured of it, or one of its rounds alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ColumnAsk {
    /// The setup.
    pub setup_id: SetupId,
    /// The round; none for all that is alike.
    #[serde(default)]
    pub round_id: Option<RoundId>,
}

/// Setups side by side.
#[derive(Debug, Serialize, ToSchema)]
pub struct CompareView {
    /// A column a setup.
    pub columns: Vec<ColumnView>,
    /// A row a spot, worst of the reference first.
    pub rows: Vec<ComparedSpot>,
    /// Why the columns are not like for like; empty when they are.
    pub unlike: Vec<Unlike>,
    /// What the readings show that is to be looked at.
    pub findings: Vec<ReadingFinding>,
    /// Runs that each spot needs for a difference of a fifth to show.
    pub runs_for_a_fifth: Option<u32>,
    /// Which setup to keep.
    pub choice: Choice,
    /// What the installer decided, where somebody did.
    pub decision: Option<Decision>,
    /// Trials by turns between the setups, newest first.
    pub trials: Vec<TrialView>,
    /// Range walks and route walks of the setups, laid over one another.
    pub walks: Vec<Walks>,
}

/// A trial by turns.
#[derive(Debug, Serialize, ToSchema)]
pub struct TrialView {
    /// The spot.
    pub spot_id: SpotId,
    /// What the place is called.
    pub place: String,
    /// Round of the first setup, and of the second.
    pub round_ids: [RoundId; 2],
    /// Letters of the two.
    pub letters: [String; 2],
    /// How many pairs are wanted.
    pub wanted: u32,
    /// Pairs so far: what the first reached and what the second, Mb/s down.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub pairs: Vec<(f64, f64)>,
    /// Which of the two is to be run now, 0 or 1; none when all is run.
    #[schema(maximum = 1)]
    pub turn: Option<u8>,
    /// The second against the first, each pair in itself; none before the first pair.
    pub against: Option<Against>,
}

/// A setup, or one of its rounds.
#[derive(Debug, Serialize, ToSchema)]
pub struct ColumnView {
    /// The setup.
    pub setup_id: SetupId,
    /// The round, where the column is of one alone.
    pub round_id: Option<RoundId>,
    /// When that was begun.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub begun: Option<jiff::Timestamp>,
    /// Its letter.
    pub letter: String,
    /// Its name.
    pub name: String,
    /// Conditions of its readings, in words; none without readings.
    pub conditions: Option<String>,
    /// Whether the product made them up.
    pub made_up: bool,
    /// All spots together against the reference.
    pub whole: Option<Against>,
    /// How many needs it meets.
    pub score: Score,
    /// What it costs to buy; none where a price is missing.
    pub price: Option<f64>,
}

/// How many rooms' needs a setup meets.
#[derive(Debug, Default, Clone, Serialize, ToSchema)]
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

/// One spot in all setups.
#[derive(Debug, Serialize, ToSchema)]
pub struct ComparedSpot {
    /// The spot.
    pub spot_id: SpotId,
    /// Its room.
    pub room_id: RoomId,
    /// Name of the room.
    pub name: String,
    /// Name of the spot, where the room has several.
    pub spot_name: String,
    /// What the room needs.
    pub need: Option<Need>,
    /// A cell a column.
    pub cells: Vec<CellView>,
}

/// One spot in one setup.
#[derive(Debug, Serialize, ToSchema)]
pub struct CellView {
    /// What was measured.
    #[serde(flatten)]
    pub cell: Cell,
    /// The measurement judged by the room's need.
    pub verdict: Option<Verdict>,
    /// What part of the most that can come through arrived in the middle: of the plan or the router's port.
    pub share_of_ceiling: Option<f64>,
    /// What is predicted of the same figure: poor end, middle and good end.
    pub predicted: [f64; 3],
    /// The prediction judged.
    pub predicted_verdict: Option<Verdict>,
}

/// A setup with what is known of it.
struct Side<'a> {
    setup: &'a Setup,
    round: Option<&'a Round>,
    column: Column<'a>,
    model: Model<'a>,
    predictions: Vec<Prediction>,
    summaries: std::collections::HashMap<SpotId, Summary>,
}

/// A spot with its place.
struct Place<'a> {
    spot_id: SpotId,
    room_id: RoomId,
    name: String,
    spot_name: &'a str,
    at: Point,
    need: Option<Need>,
}

/// Sets setups side by side: each spot measured under one set of conditions, with what the readings show and which setup to keep.
#[utoipa::path(tag = "compare", params(("home" = HomeId, Path)), request_body = CompareAsk,
    responses((status = OK, description = "The setups side by side.", body = CompareView), Computing))]
#[post("/api/homes/{home}/compare")]
pub async fn compare_setups(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Body<CompareAsk>,
) -> Result<HttpResponse, ApiError> {
    let asked = asked.into_inner();
    let ask = Ask {
        client: asked.client.clone(),
        band: None,
        situation: asked.situation,
        doors: Doors::AsLeft,
        kind: asked.kind,
    };
    if asked.columns.is_empty() || asked.columns.len() > COLUMNS {
        return Err(Faults::one("/columns", "Compare 1 to 12 setups or rounds.").into());
    }
    let reference = asked.reference;
    if reference >= asked.columns.len() {
        return Err(Faults::one("/reference", "The reference is one of the columns that are compared.").into());
    }
    let question = ask.question(state.today())?;
    let stored = state.store.home(*home).await?.home;
    let readings = state.readings(*home).await?;
    let places = state.places.clone();
    let compared = move |_: &Watch| {
        let home = &stored;
        let find = |own: &ColumnAsk| home.setup(own.setup_id).ok_or(ApiError::NotFound("setup"));
        let setups: Vec<&Setup> = asked.columns.iter().map(find).collect::<Result<_, _>>()?;
        let round = |own: &ColumnAsk| match own.round_id {
            None => Ok(None),
            Some(id) => readings
                .rounds
                .iter()
                .map(|record| &record.round)
                .find(|round| round.id == id && round.setup_id == own.setup_id)
                .map(Some)
                .ok_or(ApiError::NotFound("round")),
        };
        let rounds: Vec<Option<&Round>> = asked.columns.iter().map(round).collect::<Result<_, _>>()?;
        let kept = readings.kept(&state.kept, home);
        let plan = kept.plan(home);
        let places = spots(home, &plan, setups[reference], question, &kept);
        let lists = setups
            .iter()
            .zip(&rounds)
            .map(|(setup, round)| match round {
                Some(round) => readings.groups_of(round, asked.kind),
                None => readings.groups(setup.id, asked.kind),
            })
            .collect();
        let groups = choose_alike(lists, &ask.conditions());
        let sides: Vec<Side<'_>> = setups
            .iter()
            .zip(groups)
            .zip(&rounds)
            .map(|((setup, group), round)| {
                let model = Model::new(home, setup, &plan, question, &kept);
                let predictions = places.iter().map(|place| model.at(place.at, Some(place.room_id))).collect();
                let summaries = group.as_ref().map(Group::summaries).unwrap_or_default();
                let column = column(&readings, home, (setup, *round), group, asked.kind);
                Side { setup, round: *round, column, model, predictions, summaries }
            })
            .collect();
        Ok(told(home, &readings, (&asked, question, reference), &kept, &places, &sides))
    };
    Ok(HttpResponse::Ok().json(places.compute(compared).await?))
}

/// Spots of all rooms that have a place, worst of the reference first.
fn spots<'a>(home: &'a Home, plan: &Plan, reference: &Setup, question: Question, kept: &Kept) -> Vec<Place<'a>> {
    let model = Model::new(home, reference, plan, question, kept);
    let mut list: Vec<(f64, Place<'a>)> = home
        .house
        .spots
        .iter()
        .filter_map(|spot| {
            let (_, at) = plan.spot(spot)?;
            let room = plan.room(spot.room_id)?;
            let several = home.house.spots.iter().filter(|own| own.room_id == room.id).count() > 1;
            let need = model.need(room.id);
            let down = model.at(at, Some(room.id)).down.middle.get();
            let worth = need.map_or(1e9 + down, |need| down / need.down_mbps.get());
            let spot_name = if several { spot.name.as_str() } else { "" };
            Some((worth, Place { spot_id: spot.id, room_id: room.id, name: room.name.clone(), spot_name, at, need }))
        })
        .collect();
    list.sort_by(|a, b| a.0.total_cmp(&b.0).then_with(|| a.1.name.cmp(&b.1.name)));
    list.into_iter().map(|(_, place)| place).collect()
}

fn told(
    home: &Home,
    readings: &Readings,
    (asked, question, reference): (&CompareAsk, Question, usize),
    kept: &Kept,
    places: &[Place<'_>],
    sides: &[Side<'_>],
) -> CompareView {
    let spot_ids: Vec<SpotId> = places.iter().map(|place| place.spot_id).collect();
    let how = Sides {
        reference,
        measure: asked.measure,
        shown: asked.shown,
        kind: asked.kind,
        share_of: asked.share_of_plan.then_some(&home.brief.plans[..]),
    };
    let columns: Vec<Column<'_>> = sides.iter().map(|side| side.column.clone()).collect();
    let compared = compare(&spot_ids, &columns, &how);
    // For the choice it is download that counts, whatever is looked at.
    let by_down = match asked.measure {
        Measure::Down if !asked.share_of_plan => compared.clone(),
        _ => compare(&spot_ids, &columns, &Sides { measure: Measure::Down, share_of: None, ..how }),
    };
    let scores: Vec<Score> = sides.iter().map(|side| score(places, side)).collect();
    let parts: Vec<Parts> = sides.iter().map(|side| parts(home, side.setup, side.model.plan)).collect();
    let candidates = candidates(home, (question, kept), places, sides, (&scores, &parts), (&by_down, reference));
    let evidence = evidence(home, readings, &question, places, sides);
    let Comparison { rows, whole, unlike, runs_for_a_fifth } = compared;
    let rows = rows.into_iter().enumerate().map(|(row, cells)| ComparedSpot {
        spot_id: places[row].spot_id,
        room_id: places[row].room_id,
        name: places[row].name.clone(),
        spot_name: places[row].spot_name.to_owned(),
        need: places[row].need,
        cells: cells
            .into_iter()
            .zip(sides)
            .map(|(cell, side)| cell_view(&places[row], row, side, cell, asked))
            .collect(),
    });
    let like_for_like = !unlike.iter().any(|own| own.parts_columns);
    CompareView {
        trials: trials(readings, places, sides),
        walks: all_walks(home, readings, sides),
        rows: rows.collect(),
        findings: reading_findings(&evidence),
        unlike,
        runs_for_a_fifth,
        choice: choose(&candidates, asked.weights, like_for_like),
        decision: home.decision.clone(),
        columns: sides
            .iter()
            .zip(whole)
            .zip(scores.into_iter().zip(parts.iter().map(|own| own.total)))
            .map(|((side, whole), (score, price))| ColumnView {
                setup_id: side.setup.id,
                round_id: side.round.map(|round| round.id),
                begun: side.round.map(|round| round.begun),
                letter: side.setup.letter.clone(),
                name: side.setup.name.clone(),
                conditions: side.column.group.as_ref().map(|group| group.conditions.in_words()),
                made_up: made_up(side),
                whole,
                score,
                price,
            })
            .collect(),
    }
}

fn made_up(side: &Side<'_>) -> bool {
    side.column.group.as_ref().is_some_and(|group| group.conditions.made_up)
}

fn predicted_verdict(need: Option<&Need>, predicted: &Prediction) -> Option<Verdict> {
    need.map(|need| verdict::predicted(need, &predicted.down, &predicted.up, predicted.latency_ms))
}

fn cell_view(place: &Place<'_>, row: usize, side: &Side<'_>, cell: Cell, asked: &CompareAsk) -> CellView {
    let predicted = &side.predictions[row];
    let summary = side.summaries.get(&place.spot_id);
    let ceiling = side.model.network().ceiling(Direction::Down);
    let scale = match side.model.network().plan_cap(Direction::Down) {
        Some(plan) if asked.share_of_plan && asked.measure == Measure::Down => 1.0 / plan.get().max(0.1),
        _ => 1.0,
    };
    CellView {
        verdict: place.need.as_ref().zip(summary).map(|(need, summary)| verdict::measured(need, summary)),
        share_of_ceiling: summary.map(|own| own.down_mbps.median / ceiling.get().max(0.1)),
        predicted: match asked.measure {
            Measure::Down => [predicted.down.poor, predicted.down.middle, predicted.down.good].map(|r| r.get() * scale),
            Measure::Up => [predicted.up.poor, predicted.up.middle, predicted.up.good].map(|rate| rate.get()),
            Measure::Idle => [predicted.latency_ms.get(); 3],
            Measure::Loaded => [predicted.loaded_ms.get(); 3],
        },
        predicted_verdict: predicted_verdict(place.need.as_ref(), predicted),
        cell,
    }
}

/// How many rooms' needs a setup meets: a room is as good as its worst spot.
fn score(places: &[Place<'_>], side: &Side<'_>) -> Score {
    let mut score = Score::default();
    for (room, _) in rooms(places) {
        let here = || places.iter().enumerate().filter(move |(_, place)| place.room_id == room);
        if here().all(|(_, place)| place.need.is_none()) {
            continue;
        }
        let predicted =
            here().filter_map(|(row, own)| predicted_verdict(own.need.as_ref(), &side.predictions[row])).min();
        let measured = here().filter_map(|(_, own)| measured_verdict(own, side)).min();
        score.rooms_with_need += 1;
        score.predicted_met += usize::from(predicted > Some(Verdict::NotMet));
        score.measured += usize::from(measured.is_some());
        score.measured_met += usize::from(measured > Some(Verdict::NotMet));
    }
    score
}

/// What was made up is no measurement and meets nobody's need.
fn measured_verdict(place: &Place<'_>, side: &Side<'_>) -> Option<Verdict> {
    let summary = side.summaries.get(&place.spot_id).filter(|_| !made_up(side))?;
    place.need.as_ref().map(|need| verdict::measured(need, summary))
}

/// Rooms in the order of their first spots, with what they are called.
fn rooms<'p>(places: &'p [Place<'_>]) -> Vec<(RoomId, &'p str)> {
    let mut list: Vec<(RoomId, &str)> = Vec::new();
    for place in places {
        if list.iter().all(|(room, _)| *room != place.room_id) {
            list.push((place.room_id, &place.name));
        }
    }
    list
}

fn candidates(
    home: &Home,
    (question, kept): (Question, &Kept),
    places: &[Place<'_>],
    sides: &[Side<'_>],
    (scores, parts): (&[Score], &[Parts]),
    (compared, reference): (&Comparison, usize),
) -> Vec<Candidate> {
    let catalogue = Catalogue::of(home);
    // With a local test the line is out of the way.
    let past_the_line: Vec<Vec<f64>> = sides
        .iter()
        .map(|side| {
            let local = Question { reach: TestKind::Local, ..question };
            let model = Model::new(home, side.setup, side.model.plan, local, kept);
            places.iter().map(|place| model.at(place.at, Some(place.room_id)).down.middle.get()).collect()
        })
        .collect();
    let mean_ratio = |own: &[f64], others: &[f64]| {
        let logs: Vec<f64> = own.iter().zip(others).map(|(a, b)| (a.max(0.5) / b.max(0.5)).ln()).collect();
        (logs.iter().sum::<f64>() / logs.len().max(1) as f64).exp()
    };
    let downs: Vec<Vec<f64>> =
        sides.iter().map(|side| side.predictions.iter().map(|own| own.down.middle.get()).collect()).collect();
    sides
        .iter()
        .enumerate()
        // A round alone is no setup of its own to choose.
        .filter(|(_, side)| side.round.is_none())
        .map(|(index, side)| {
            let holes =
                parts[index].cables.iter().filter_map(|own| own.route.as_ref()).map(|route| route.holes.len()).sum();
            let spreads = compared.rows.iter().filter_map(|row| {
                let figures = row[index].figures.filter(|own| own.median > 0.0 && row[index].values.len() > 2)?;
                Some((figures.upper_quartile - figures.lower_quartile) / figures.median)
            });
            let control = side.setup.root().and_then(|device| catalogue.kit(&device.kit.0)?.facts.control);
            let (score, spread) = (&scores[index], Figures::of(spreads.collect()).map(|own| own.median));
            let judged = |place: &Place<'_>, row: usize| {
                measured_verdict(place, side).or_else(|| predicted_verdict(place.need.as_ref(), &side.predictions[row]))
            };
            let mut met = 0;
            let mut worst: Option<(String, f64)> = None;
            let mut retest = Vec::new();
            for (room, name) in rooms(places) {
                let here: Vec<(usize, &Place<'_>)> =
                    places.iter().enumerate().filter(|(_, place)| place.room_id == room).collect();
                let least = here.iter().filter_map(|(row, place)| judged(place, *row)).min();
                met += usize::from(least > Some(Verdict::NotMet));
                for (row, place) in &here {
                    let measured = side.summaries.get(&place.spot_id).filter(|_| !made_up(side));
                    let down = measured.map_or(downs[index][*row], |own| own.down_mbps.median);
                    if let Some(need) = &place.need {
                        let part = down / need.down_mbps.get().max(0.1);
                        if worst.as_ref().is_none_or(|(_, least)| part < *least) {
                            worst = Some((name.to_owned(), part));
                        }
                    }
                    let loses = downs[index][*row] < 0.8 * downs[reference][*row] && downs[reference][*row] > 1.0;
                    if loses && measured.is_none() && !retest.contains(&name.to_owned()) {
                        retest.push(name.to_owned());
                    }
                }
            }
            Candidate {
                id: side.setup.id,
                name: format!("{}, {}", side.setup.letter, side.setup.name),
                letter: side.setup.letter.clone(),
                needs: (score.rooms_with_need, met, score.measured),
                worst,
                price: parts[index].total,
                spread,
                burden: (side.setup.devices.len(), holes),
                against: compared.whole[index].clone(),
                predicted_ratio: mean_ratio(&downs[index], &downs[reference]),
                ratio_past_the_line: mean_ratio(&past_the_line[index], &past_the_line[reference]),
                made_up: made_up(side),
                retest,
                full_control: control == Some(Control::Full),
            }
        })
        .collect()
}

fn evidence<'a>(
    home: &Home,
    readings: &'a Readings,
    question: &Question,
    places: &[Place<'_>],
    sides: &'a [Side<'_>],
) -> Evidence<'a> {
    let kind = question.reach;
    let network = sides.first().map(|side| side.model.network());
    let wired =
        readings.rounds.iter().filter(|own| own.round.purpose == Purpose::WiredCeiling && own.round.kind == kind);
    let wired: Vec<f64> = wired
        .flat_map(|own| readings.of(own.round.id))
        .filter(|run| run.counts() && run.carried_by == CarriedBy::Cable)
        .filter_map(|run| Measure::Down.of(run))
        .collect();
    let mut list = Vec::new();
    for side in sides {
        for (row, place) in places.iter().enumerate() {
            let (Some(summary), Some(group)) = (side.summaries.get(&place.spot_id), &side.column.group) else {
                continue;
            };
            let predicted = &side.predictions[row].down;
            let leans = side.model.leans(place.at).unwrap_or_default();
            list.push(SpotReadings {
                spot: place.spot_id,
                room: place.room_id,
                place: place.name.clone(),
                setup: side.setup.letter.clone(),
                summary: *summary,
                runs: group.runs.iter().copied().filter(|run| run.spot_id == place.spot_id).collect(),
                predicted: (predicted.poor.get(), predicted.middle.get(), predicted.good.get()),
                hangs_on: leans.first().map(|lean| part_name(side.model.plan, lean.on)),
            });
        }
    }
    list.sort_by_key(|own| places.iter().position(|place| place.spot_id == own.spot));
    let taken = sides.iter().flat_map(|side| readings.column(side.setup.id)).flat_map(|(_, runs)| runs).collect();
    let ceiling = network.map(|own| (own.ceiling(Direction::Down).get(), own.ceiling(Direction::Up).get()));
    Evidence {
        kind: Some(kind),
        ceiling,
        plan_down: home.brief.plan_on(question.day).map(|plan| plan.gives().0.get()),
        wired_down: Figures::of(wired).map(|own| own.median),
        spots: list,
        evenings: evenings(readings, kind, places, sides),
        taken,
    }
}

/// Trials by turns between these setups.
fn trials(readings: &Readings, places: &[Place<'_>], sides: &[Side<'_>]) -> Vec<TrialView> {
    let mut list: Vec<TrialView> = Vec::new();
    let of = |setup: SetupId| sides.iter().find(|side| side.setup.id == setup);
    for (index, first) in readings.rounds.iter().enumerate() {
        let Some(trial) = first.round.trial else { continue };
        let second = readings.rounds[index + 1..].iter().find(|own| own.round.trial == Some(trial));
        let (Some(second), Some(a)) = (second, of(first.round.setup_id)) else { continue };
        let Some(b) = of(second.round.setup_id) else { continue };
        let Some(place) = places.iter().find(|place| first.round.spots.contains(&place.spot_id)) else { continue };
        let downs = |round: RoundId| -> Vec<f64> {
            readings.of(round).iter().filter(|run| run.counts()).filter_map(|run| Measure::Down.of(run)).collect()
        };
        let (one, two) = (downs(first.round.id), downs(second.round.id));
        let wanted = first.round.runs_per_spot;
        let pairs: Vec<(f64, f64)> = one.iter().copied().zip(two.iter().copied()).collect();
        let turn = if one.len() <= two.len() { 0 } else { 1 };
        list.push(TrialView {
            spot_id: place.spot_id,
            place: place.name.clone(),
            round_ids: [first.round.id, second.round.id],
            letters: [a.setup.letter.clone(), b.setup.letter.clone()],
            wanted,
            turn: (pairs.len() < wanted as usize).then_some(turn),
            against: by_turns(&pairs).map(|own| Against::new(own, own.p, 1, Measure::Down)),
            pairs,
        });
    }
    list.reverse();
    list
}

/// The newest range walk and route walk of each setup, laid over one another.
fn all_walks(home: &Home, readings: &Readings, sides: &[Side<'_>]) -> Vec<Walks> {
    let of = |purpose: Purpose| {
        let newest = |side: &Side<'_>| {
            let own = |record: &&RoundRecord| record.round.setup_id == side.setup.id && record.round.purpose == purpose;
            readings.rounds.iter().rev().find(own).map(|record| record.round.id)
        };
        let list: Vec<Walked<'_>> = sides
            .iter()
            .filter_map(|side| {
                let runs = readings.of(newest(side)?);
                Some(Walked { setup_id: side.setup.id, letter: &side.setup.letter, runs })
            })
            .collect();
        walks(&list, purpose == Purpose::RangeWalk, home.units)
    };
    [Purpose::RangeWalk, Purpose::RouteWalk].into_iter().filter_map(of).collect()
}

/// First and last hour of an evening, and of what is set against it.
const EVENING: std::ops::Range<f64> = 18.0..23.0;
const DAYTIME: std::ops::Range<f64> = 9.0..17.0;

/// Median downloads of one spot in the quiet and in the evening.
fn evenings(readings: &Readings, kind: TestKind, places: &[Place<'_>], sides: &[Side<'_>]) -> Vec<(String, f64, f64)> {
    let mut list = Vec::new();
    for side in sides {
        for place in places {
            let (mut quiet, mut busy) = (Vec::new(), Vec::new());
            for (round, runs) in readings.column(side.setup.id) {
                let counts = |run: &&Run| run.counts() && run.is_of_room() && run.spot_id == place.spot_id;
                for run in runs.iter().filter(counts) {
                    let under = run.under(round);
                    let Some(down) = Measure::Down.of(run).filter(|_| under.kind == kind) else { continue };
                    let hour = local_hour(run.at);
                    if under.situation == Situation::BusyEvening || EVENING.contains(&hour) {
                        busy.push(down);
                    } else if DAYTIME.contains(&hour) {
                        quiet.push(down);
                    }
                }
            }
            if quiet.len() > 1
                && busy.len() > 1
                && let (Some(quiet), Some(busy)) = (Figures::of(quiet), Figures::of(busy))
            {
                list.push((place.name.clone(), quiet.median, busy.median));
            }
        }
    }
    list
}

fn column<'a>(
    readings: &'a Readings,
    home: &Home,
    (setup, round): (&Setup, Option<&Round>),
    group: Option<Group<'a>>,
    kind: TestKind,
) -> Column<'a> {
    let other = if kind == TestKind::Local { TestKind::Internet } else { TestKind::Local };
    let newest = group.as_ref().and_then(|group| group.rounds.iter().max_by_key(|round| round.begun));
    let record = newest.and_then(|round| readings.rounds.iter().find(|record| record.round.id == round.id));
    let mut facts = Vec::new();
    if let Some(on_record) = newest.and_then(|round| round.on_record.as_ref()) {
        facts.extend(on_record.far_end.clone().filter(|_| kind == TestKind::Internet).map(|own| ("the far end", own)));
        let machine = on_record.machine.as_ref().filter(|_| kind == TestKind::Local);
        let port = machine.and_then(|own| own.port_mbps);
        facts.extend(port.map(|own| ("the test machine's port", format!("{own:.0}"))));
    }
    let tested = record.and_then(|record| record.tested.home.setup(setup.id));
    let firmware = tested.and_then(Setup::root).and_then(|root| root.firmware.as_ref());
    facts.extend(firmware.map(|own| ("the router's firmware", own.version.clone())));
    let of_setup = tested.map(|tested| of_setup(tested, group.as_ref())).unwrap_or_default();
    let when = round.map(|round| format!(" on {}", local_day(round.begun))).unwrap_or_default();
    Column {
        setup_id: Some(setup.id),
        of_setup,
        name: format!("{} {}{when}", setup.letter, setup.name),
        other_kind_only: round.is_none() && group.is_none() && !readings.groups(setup.id, other).is_empty(),
        changed_since: record.map(|record| since_tested(&record.tested.home, setup.id, home)).unwrap_or_default(),
        group,
        facts,
    }
}

/// Facts that should be alike between readings of one setup: channels, own networks on air, and who served most.
fn of_setup(tested: &Setup, group: Option<&Group<'_>>) -> Vec<(&'static str, String)> {
    let channels = |band: Band| {
        let radios = tested.devices.iter().flat_map(|device| &device.radios);
        let mut list: Vec<String> =
            radios.filter(|radio| radio.on && radio.band == band).map(|radio| radio.channel.to_string()).collect();
        list.dedup();
        list.join(", ")
    };
    let mut names: Vec<&str> = tested.devices.iter().map(|device| device.network_name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let mut serving: Vec<(DeviceId, usize)> = Vec::new();
    for device in group.iter().flat_map(|group| &group.runs).filter_map(|run| run.serving) {
        match serving.iter_mut().find(|(own, _)| *own == device) {
            Some((_, count)) => *count += 1,
            None => serving.push((device, 1)),
        }
    }
    let most = serving.into_iter().max_by_key(|(_, count)| *count).and_then(|(id, _)| tested.device(id));
    let mut facts = vec![
        ("the channel at 2.4 GHz", channels(Band::Ghz2_4)),
        ("the channel at 5 GHz", channels(Band::Ghz5)),
        ("the number of own networks on air", names.len().to_string()),
    ];
    facts.extend(most.map(|device| ("the device that served most", device.name.clone())));
    facts
}

/// What the installer decides in place of what is proposed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DecisionAsk {
    /// The setup to keep and why; none to take the decision back.
    pub decision: Option<Decision>,
}

/// Keeps what the installer decided, with the reason; the setup is then the one in force.
#[utoipa::path(tag = "compare", params(("home" = HomeId, Path), EditHeaders), request_body = DecisionAsk,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/api/homes/{home}/decision")]
pub async fn put_decision(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    asked: Body<DecisionAsk>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        if let Some(decision) = &asked.decision {
            home.setup(decision.setup_id).ok_or(ApiError::NotFound("setup"))?;
            home.in_force = Some(decision.setup_id);
        }
        home.decision = asked.decision.clone();
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}
