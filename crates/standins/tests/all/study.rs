//! Whether likely ranges keep their word where the truth follows another law: thirty hidden houses behind three
//! drawn homes.
//! `cargo test -p busy-hen-standins --test standins-all study -- --nocapture` prints the table of `docs/MODEL.md`.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Doors, Situation, TestKind};
use busy_hen_predict::{Knowledge, Model, Prediction, Question};
use busy_hen_standins::truth::{Run, Truth};
use jiff::civil::date;
use uuid::Uuid;

/// How often the truth lay in its range, of how many.
#[derive(Default)]
struct Count {
    held: usize,
    under: usize,
    over: usize,
}

impl Count {
    fn put(&mut self, poor: f64, good: f64, found: f64) {
        if found < poor {
            self.under += 1;
        } else if found > good {
            self.over += 1;
        } else {
            self.held += 1;
        }
    }

    fn all(&self) -> usize {
        self.held + self.under + self.over
    }

    fn part(&self) -> f64 {
        self.held as f64 / self.all() as f64
    }

    fn tell(&self, what: &str) {
        let percent = |count: usize| 100.0 * count as f64 / self.all() as f64;
        let (held, under, over) = (percent(self.held), percent(self.under), percent(self.over));
        println!("| {what} | {} | {held:.0} % | {under:.0} % | {over:.0} % |", self.all());
    }
}

#[test]
fn eight_in_ten_of_what_another_model_gives_lies_in_the_range() {
    let (mut speed, mut signal) = (Count::default(), Count::default());
    let mut off = Vec::new();
    let homes = [busy_hen_demo::canal_terrace(), busy_hen_demo::gasworks_flat(), busy_hen_demo::lock_house()];
    for seed in 0..30_u64 {
        let home = homes[seed as usize % homes.len()].clone();
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        let truth = Truth::new(home.clone(), seed);
        for setup in home.setups.iter().filter(|setup| setup.root().is_some()) {
            let question = Question {
                client: clients::find("phone_ax").unwrap(),
                band: None,
                situation: Situation::Alone,
                doors: Doors::AsLeft,
                reach: TestKind::Local,
                day: date(2026, 11, 1),
            };
            let model = Model::new(&home, setup, &plan, question, &kept);
            for spot in &home.house.spots {
                let Some((_, at)) = plan.spot(spot) else { continue };
                let predicted: Prediction = model.at(at, Some(spot.room_id));
                let met = truth.meets(setup, &question, Run { spot: spot.id, round: Uuid::nil(), number: 0 });
                let down = met.map_or(0.0, |met| met.link.down.get());
                // Where both say that nothing holds there is no range to keep.
                if down > 0.0 || predicted.down.good.get() > 0.0 {
                    speed.put(predicted.down.poor.get(), predicted.down.good.get(), down);
                }
                if let (Some(met), Some(served)) = (met, predicted.served)
                    && met.serving == served.device
                    && met.band == served.band
                {
                    let (poor, good) = (served.poor_signal_dbm.get(), served.good_signal_dbm.get());
                    signal.put(poor, good, met.signal_dbm.get());
                    off.push(met.signal_dbm.get() - served.signal_dbm.get());
                }
            }
        }
    }
    println!("| | places | held | under | over |\n|---|---|---|---|---|");
    speed.tell("download");
    signal.tell("signal, where the same radio serves");
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    let spread = (off.iter().map(|own| (own - mean).powi(2)).sum::<f64>() / off.len() as f64).sqrt();
    println!("its signals lie {mean:+.1} dB off in the mean, {spread:.1} dB apart");
    assert!((0.75..=0.85).contains(&speed.part()), "{:.3}", speed.part());
    assert!((0.75..=0.85).contains(&signal.part()), "{:.3}", signal.part());
}
