//! Trials by turns between the setups, and their walks over one another.

use busy_hen_home::{Purpose, SetupId};
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::compare::{Against, Measure};
use busy_hen_survey::readings::ratio::by_turns;
use busy_hen_survey::readings::walks::{Walked, Walks, walks};

use super::table::Table;
use super::views::Trial;

impl Table<'_> {
    /// Trials by turns between these setups, newest first.
    pub(super) fn trials(&self) -> Vec<Trial> {
        let letter = |setup: SetupId| {
            self.sides.iter().find(|side| side.setup.id == setup).map(|side| side.setup.letter.clone())
        };
        let downs = |own: &Taken<'_>| -> Vec<f64> {
            own.runs.iter().filter(|run| run.counts()).filter_map(|run| Measure::Down.of(run)).collect()
        };
        let trial = |(index, first): (usize, &Taken<'_>)| {
            let trial = first.round.trial?;
            let second = self.taken[index + 1..].iter().find(|own| own.round.trial == Some(trial))?;
            let place = self.places.iter().find(|place| first.round.spots.contains(&place.spot_id))?;
            let (one, two) = (downs(first), downs(second));
            let wanted = first.round.runs_per_spot;
            let pairs: Vec<(f64, f64)> = one.iter().copied().zip(two.iter().copied()).collect();
            Some(Trial {
                spot_id: place.spot_id,
                place: place.name.clone(),
                round_ids: [first.round.id, second.round.id],
                letters: [letter(first.round.setup_id)?, letter(second.round.setup_id)?],
                wanted,
                turn: (pairs.len() < wanted as usize).then_some(u8::from(one.len() > two.len())),
                against: by_turns(&pairs).map(|own| Against::new(own, own.p, 1, Measure::Down)),
                pairs,
            })
        };
        let mut list: Vec<Trial> = self.taken.iter().enumerate().filter_map(trial).collect();
        list.reverse();
        list
    }

    /// The newest range walk and route walk of each setup, laid over one another.
    pub(super) fn walks(&self) -> Vec<Walks> {
        let of = |purpose: Purpose| {
            let walked = self.sides.iter().filter_map(|side| {
                let runs = self.rounds_of(side).filter(|own| own.round.purpose == purpose).last()?.runs;
                Some(Walked { setup_id: side.setup.id, letter: &side.setup.letter, runs })
            });
            walks(&walked.collect::<Vec<_>>(), purpose == Purpose::RangeWalk, self.home.units)
        };
        [Purpose::RangeWalk, Purpose::RouteWalk].into_iter().filter_map(of).collect()
    }
}
