//! The spots that are compared, and what is known of each setup at them.

use std::collections::HashMap;

use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{Home, RoomId, Round, Setup, Situation, SpotId, local_day};
use busy_hen_predict::conditions::{Group, groups};
use busy_hen_predict::needs::{Need, Verdict, verdict};
use busy_hen_predict::summary::Summary;
use busy_hen_predict::{Knowledge, Model, Prediction};
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::compare::{Against, Column, choose_alike};

use super::asked::{Asked, alike};
use super::facts::{of_rounds, of_setup};
use super::views::{ComparedSetup, Score};
use crate::changes::since_tested;

/// A spot with its place.
pub struct Place<'a> {
    pub spot_id: SpotId,
    pub room_id: RoomId,
    pub name: String,
    pub spot_name: &'a str,
    pub at: Point,
    pub need: Option<Need>,
}

/// A setup with what is known of it, in the order of the places.
pub struct Side<'a> {
    pub setup: &'a Setup,
    pub round: Option<&'a Round>,
    pub column: Column<'a>,
    pub model: Model<'a>,
    pub predictions: Vec<Prediction>,
    pub summaries: HashMap<SpotId, Summary>,
}

/// Spots of all rooms that have a place, worst of the reference first.
pub fn places<'a>(home: &'a Home, plan: &Plan, asked: &Asked<'_>, kept: &Knowledge) -> Vec<Place<'a>> {
    let model = Model::new(home, asked.columns[asked.reference].0, plan, asked.question, kept);
    let mut list: Vec<(f64, Place<'a>)> = kept
        .wanted(&home.house.spots)
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

/// Rooms in the order of their first spots, with what they are called.
pub fn rooms<'p>(places: &'p [Place<'_>]) -> Vec<(RoomId, &'p str)> {
    let mut list: Vec<(RoomId, &str)> = Vec::new();
    for place in places {
        if list.iter().all(|(room, _)| *room != place.room_id) {
            list.push((place.room_id, &place.name));
        }
    }
    list
}

/// Each column with the readings that are alike in all, as far as there are such.
pub fn sides<'a>(
    home: &'a Home,
    plan: &'a Plan,
    taken: &'a [Taken<'a>],
    asked: &'a Asked<'a>,
    kept: &'a Knowledge,
    places: &[Place<'_>],
) -> Vec<Side<'a>> {
    let of = |(setup, round): &(&Setup, Option<&Round>)| {
        let (setup, round) = (setup.id, round.map(|own| own.id));
        let own = move |own: &&Taken<'_>| own.round.setup_id == setup && round.is_none_or(|id| own.round.id == id);
        taken.iter().filter(own)
    };
    let lists = asked.columns.iter().map(|column| alike(of(column), asked)).collect();
    let groups_alike = choose_alike(lists, &asked.conditions);
    let other_kind = |group: &Group<'_>| group.conditions.under.kind != asked.question.reach;
    let side = |(column, group): (&'a (&'a Setup, Option<&'a Round>), Option<Group<'a>>)| {
        let (setup, round) = *column;
        let model = Model::new(home, setup, plan, asked.question, kept);
        Side {
            setup,
            round,
            // One for each place, also where nobody waits for them any more.
            predictions: places
                .iter()
                .map(
                    |place| {
                        if kept.is_wanted() { model.at(place.at, Some(place.room_id)) } else { Prediction::default() }
                    },
                )
                .collect(),
            summaries: group.as_ref().map(Group::summaries).unwrap_or_default(),
            column: Column {
                other_kind_only: round.is_none()
                    && group.is_none()
                    && groups(of(column).map(|own| (own.round, own.runs))).iter().any(other_kind),
                ..stands(home, (setup, round), taken, asked, group)
            },
            model,
        }
    };
    asked.columns.iter().zip(groups_alike).map(side).collect()
}

/// The readings of a column, with what should be alike in them.
fn stands<'a>(
    home: &Home,
    (setup, round): (&Setup, Option<&Round>),
    taken: &[Taken<'_>],
    asked: &Asked<'_>,
    group: Option<Group<'a>>,
) -> Column<'a> {
    let newest = group.as_ref().and_then(|group| group.rounds.iter().max_by_key(|round| round.begun));
    let tested = newest.and_then(|round| taken.iter().find(|own| own.round.id == round.id)).map(|own| own.home);
    let tested_setup = tested.and_then(|home| home.setup(setup.id));
    let when = round.map(|round| format!(" on {}", local_day(round.begun))).unwrap_or_default();
    Column {
        setup_id: Some(setup.id),
        name: format!("{} {}{when}", setup.letter, setup.name),
        other_kind_only: false,
        changed_since: tested.map(|tested| since_tested(tested, setup.id, home)).unwrap_or_default(),
        facts: of_rounds(newest.copied(), tested_setup, asked.question.reach),
        of_setup: tested_setup.map(|tested| of_setup(tested, group.as_ref())).unwrap_or_default(),
        group,
    }
}

impl Side<'_> {
    /// Whether the product itself made its readings up.
    pub fn made_up(&self) -> bool {
        self.column.group.as_ref().is_some_and(|group| group.conditions.made_up)
    }

    /// Who was busy while it was measured.
    pub fn situation(&self) -> Situation {
        self.column.group.as_ref().map_or(Situation::Alone, |group| group.conditions.under.situation)
    }

    /// The prediction judged by what the room needs.
    pub fn predicted_verdict(&self, place: &Place<'_>, row: usize) -> Option<Verdict> {
        let predicted = &self.predictions[row];
        place.need.map(|need| verdict::predicted(&need, &predicted.down, &predicted.up, predicted.felt_ms))
    }

    /// The measurement judged. What was made up is no measurement and meets nobody's need.
    pub fn measured_verdict(&self, place: &Place<'_>) -> Option<Verdict> {
        let summary = self.summaries.get(&place.spot_id).filter(|_| !self.made_up())?;
        place.need.as_ref().map(|need| verdict::measured(need, summary, self.situation()))
    }

    /// How many rooms' needs a setup meets: a room is as good as its worst spot.
    pub fn score(&self, places: &[Place<'_>]) -> Score {
        let mut score = Score::default();
        for (room, _) in rooms(places) {
            let here = || places.iter().enumerate().filter(move |(_, place)| place.room_id == room);
            if here().all(|(_, place)| place.need.is_none()) {
                continue;
            }
            let predicted = here().filter_map(|(row, own)| self.predicted_verdict(own, row)).min();
            let measured = here().filter_map(|(_, own)| self.measured_verdict(own)).min();
            score.rooms_with_need += 1;
            score.predicted_met += usize::from(predicted > Some(Verdict::NotMet));
            score.measured += usize::from(measured.is_some());
            score.measured_met += usize::from(measured > Some(Verdict::NotMet));
        }
        score
    }

    pub fn compared(&self, whole: Option<Against>, score: Score, price: Option<f64>) -> ComparedSetup {
        ComparedSetup {
            setup_id: self.setup.id,
            round_id: self.round.map(|round| round.id),
            begun: self.round.map(|round| round.begun),
            letter: self.setup.letter.clone(),
            name: self.setup.name.clone(),
            conditions: self.column.group.as_ref().map(|group| group.conditions.in_words()),
            made_up: self.made_up(),
            whole,
            score,
            price,
        }
    }
}
