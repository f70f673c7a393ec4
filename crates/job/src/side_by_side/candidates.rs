//! What is known of each setup for the choice.

use busy_hen_catalogue::Catalogue;
use busy_hen_home::{Control, TestKind};
use busy_hen_predict::needs::Verdict;
use busy_hen_predict::summary::Figures;
use busy_hen_predict::{Model, Question};
use busy_hen_survey::readings::compare::Comparison;
use busy_hen_survey::readings::verdict::Candidate;

use super::sides::{Place, Side, rooms};
use super::table::Table;
use super::views::Score;
use crate::parts::Parts;

/// A spot that gets less than this of what it has in the reference is tested again.
const LOSES: f64 = 0.8;

/// Download predicted at each place, Mb/s.
type Downs = Vec<f64>;

/// What a setup's rooms come to: measured where they were, else predicted.
struct Rooms {
    met: usize,
    worst: Option<(String, f64)>,
    retest: Vec<String>,
}

impl Table<'_> {
    /// The setups to choose from. A round alone is no setup of its own to choose.
    pub(super) fn candidates(&self, scores: &[Score], parts: &[Parts], compared: &Comparison) -> Vec<Candidate> {
        let catalogue = Catalogue::of(self.home);
        let downs: Vec<Downs> =
            self.sides.iter().map(|side| side.predictions.iter().map(|own| own.down.middle.get()).collect()).collect();
        // With a local test the line is out of the way.
        let past_the_line: Vec<Downs> = self.sides.iter().map(|side| self.past_the_line(side)).collect();
        let reference = self.asked.reference;
        let setups = self.sides.iter().enumerate().filter(|(_, side)| side.round.is_none());
        setups
            .map(|(index, side)| {
                let routes = parts[index].cables.iter().filter_map(|own| own.route.as_ref());
                let spreads = compared.rows.iter().filter_map(|row| {
                    let figures = row[index].figures.filter(|own| own.median > 0.0 && row[index].values.len() > 2)?;
                    Some((figures.upper_quartile - figures.lower_quartile) / figures.median)
                });
                let control = side.setup.root().and_then(|device| catalogue.kit(&device.kit.0)?.facts.control);
                let Rooms { met, worst, retest } = self.rooms_of(side, &downs[index], &downs[reference]);
                Candidate {
                    id: side.setup.id,
                    name: format!("{}, {}", side.setup.letter, side.setup.name),
                    letter: side.setup.letter.clone(),
                    needs: (scores[index].rooms_with_need, met, scores[index].measured),
                    spots_measured: if side.made_up() { 0 } else { side.summaries.len() },
                    worst,
                    price: parts[index].total,
                    spread: Figures::of(spreads.collect()).map(|own| own.median),
                    burden: (side.setup.devices.len(), routes.map(|route| route.holes.len()).sum()),
                    against: compared.whole[index].clone(),
                    predicted_ratio: mean_ratio(&downs[index], &downs[reference]),
                    ratio_past_the_line: mean_ratio(&past_the_line[index], &past_the_line[reference]),
                    made_up: side.made_up(),
                    retest,
                    full_control: control == Some(Control::Full),
                }
            })
            .collect()
    }

    fn past_the_line(&self, side: &Side<'_>) -> Downs {
        let local = Question { reach: TestKind::Local, ..self.asked.question };
        let model = Model::new(self.home, side.setup, side.model.plan, local, self.kept);
        self.places.iter().map(|place| model.at(place.at, Some(place.room_id)).down.middle.get()).collect()
    }

    fn rooms_of(&self, side: &Side<'_>, downs: &[f64], reference: &[f64]) -> Rooms {
        let judged =
            |place: &Place<'_>, row: usize| side.measured_verdict(place).or_else(|| side.predicted_verdict(place, row));
        let mut found = Rooms { met: 0, worst: None, retest: Vec::new() };
        for (room, name) in rooms(&self.places) {
            let here = || self.places.iter().enumerate().filter(|(_, place)| place.room_id == room);
            let least = here().filter_map(|(row, place)| judged(place, row)).min();
            found.met += usize::from(least > Some(Verdict::NotMet));
            for (row, place) in here() {
                let measured = side.summaries.get(&place.spot_id).filter(|_| !side.made_up());
                let down = measured.map_or(downs[row], |own| own.down_mbps.median);
                if let Some(need) = &place.need {
                    let part = down / need.down_mbps.get().max(0.1);
                    if found.worst.as_ref().is_none_or(|(_, least)| part < *least) {
                        found.worst = Some((name.to_owned(), part));
                    }
                }
                let loses = downs[row] < LOSES * reference[row] && reference[row] > 1.0;
                if loses && measured.is_none() && !found.retest.iter().any(|own| own == name) {
                    found.retest.push(name.to_owned());
                }
            }
        }
        found
    }
}

/// The ratio of two setups' speeds over all places, in the geometric mean.
fn mean_ratio(own: &[f64], others: &[f64]) -> f64 {
    let logs: Vec<f64> = own.iter().zip(others).map(|(a, b)| (a.max(0.5) / b.max(0.5)).ln()).collect();
    (logs.iter().sum::<f64>() / logs.len().max(1) as f64).exp()
}
