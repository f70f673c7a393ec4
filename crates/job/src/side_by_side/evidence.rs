//! What the rules over readings look at.

use busy_hen_home::{CarriedBy, Purpose, Run, Situation, local_hour};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::summary::Figures;
use busy_hen_survey::calibration::lessons::part_name;
use busy_hen_survey::readings::compare::Measure;
use busy_hen_survey::readings::findings::{Evidence, SpotReadings};

use super::table::Table;

/// First and last hour of an evening, and of what is set against it.
const EVENING: std::ops::Range<f64> = 18.0..23.0;
const DAYTIME: std::ops::Range<f64> = 9.0..17.0;

impl Table<'_> {
    pub(super) fn evidence(&self) -> Evidence<'_> {
        let question = &self.asked.question;
        Evidence {
            kind: Some(question.reach),
            plan_down: self.home.brief.plan_of(question.reach, question.day).map(|plan| plan.gives().0.get()),
            wired_down: self.wired_down(),
            spots: self.spots(),
            evenings: self.evenings(),
            taken: self.sides.iter().flat_map(|side| self.rounds_of(side)).flat_map(|own| own.runs).collect(),
        }
    }

    /// What a cable at the router brings in the middle.
    fn wired_down(&self) -> Option<f64> {
        let of = |round: &busy_hen_home::Round| {
            round.purpose == Purpose::WiredCeiling && round.kind == self.asked.question.reach
        };
        let runs = self.taken.iter().filter(|own| of(own.round)).flat_map(|own| own.runs);
        let wired = runs.filter(|run| run.counts() && run.carried_by == CarriedBy::Cable);
        Figures::of(wired.filter_map(|run| Measure::Down.of(run)).collect()).map(|own| own.median)
    }

    /// What was read at each spot of each setup, spot by spot.
    fn spots(&self) -> Vec<SpotReadings<'_>> {
        let mut list = Vec::new();
        for (row, place) in self.places.iter().enumerate() {
            for side in &self.sides {
                let (Some(summary), Some(group)) = (side.summaries.get(&place.spot_id), &side.column.group) else {
                    continue;
                };
                let predicted = &side.predictions[row].down;
                let network = side.model.network();
                let leans = side.model.sensitivities(place.at).unwrap_or_default();
                list.push(SpotReadings {
                    spot: place.spot_id,
                    room: place.room_id,
                    place: place.name.clone(),
                    setup: side.setup.letter.clone(),
                    summary: *summary,
                    runs: group.runs.iter().copied().filter(|run| run.spot_id == place.spot_id).collect(),
                    predicted: (predicted.poor.get(), predicted.middle.get(), predicted.good.get()),
                    ceiling: Some((network.ceiling(Direction::Down).get(), network.ceiling(Direction::Up).get())),
                    hangs_on: leans.first().map(|lean| part_name(side.model.plan, lean.on)),
                });
            }
        }
        list
    }

    /// Median downloads of one spot in the quiet and in the evening.
    fn evenings(&self) -> Vec<(String, f64, f64)> {
        let mut list = Vec::new();
        for side in &self.sides {
            for place in &self.places {
                let (mut quiet, mut busy) = (Vec::new(), Vec::new());
                let counts = |run: &&Run| run.counts() && run.is_of_room() && run.spot_id == place.spot_id;
                let runs =
                    self.rounds_of(side).flat_map(|own| own.runs.iter().filter(counts).map(|run| (run, own.round)));
                for (run, round) in runs {
                    let under = run.under(round);
                    let of_kind = under.kind == self.asked.question.reach;
                    let Some(down) = Measure::Down.of(run).filter(|_| of_kind) else { continue };
                    let hour = local_hour(run.at);
                    if under.situation == Situation::BusyEvening || EVENING.contains(&hour) {
                        busy.push(down);
                    } else if DAYTIME.contains(&hour) {
                        quiet.push(down);
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
}
