//! Situations from practice: readings of the trade (common practice) with layouts of our own that fit them.

use std::path::{Path, PathBuf};

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Band, Doors, Home, Situation, TestKind};
use busy_hen_predict::{Knowledge, Model, Prediction, Question};
use jiff::civil::date;

/// One reading.
#[derive(Debug, Clone)]
pub struct PracticeRow {
    /// Name of its home file, which tells the layout.
    pub file: String,
    /// Letter of the setup.
    pub setup: String,
    /// Where it was taken.
    pub at: PracticeAt,
    /// Key of the test device.
    pub client: String,
    /// The band it was held to; none when it chose.
    pub band: Option<Band>,
    /// How far the test reached.
    pub reach: TestKind,
    /// Least that was read, Mb/s.
    pub low: f64,
    /// Most that was read, Mb/s.
    pub high: f64,
    /// What was told.
    pub what: String,
}

impl PracticeRow {
    /// What is predicted for it in this home.
    ///
    /// # Panics
    /// When the home has not its setup.
    #[must_use]
    pub fn predicted_in(&self, home: &Home) -> Prediction {
        let row = self;
        let setup = home.setups.iter().find(|own| own.letter == row.setup).expect("its setup");
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        let question = Question {
            client: clients::find(&row.client).expect("its test device"),
            band: row.band,
            situation: Situation::Alone,
            doors: Doors::AsLeft,
            reach: row.reach,
            day: date(2026, 11, 1),
        };
        let model = Model::new(home, setup, &plan, question, &kept);
        match row.at {
            PracticeAt::Place(x, y, level) => {
                let room = plan.room_at(level, x, y).map(|room| room.id);
                model.at(plan.in_hand(level, x, y), room)
            }
            PracticeAt::Signal(wanted) => {
                // Straight out into the yard until it is as weak as that.
                let at = |x: f64| model.at(plan.in_hand(0, x, 2.0), None);
                let heard = |x: f64| at(x).served.map_or(-200.0, |served| served.signal_dbm.get());
                let (mut near, mut far) = (6.0, 400.0);
                for _ in 0..40 {
                    let middle = (near + far) / 2.0;
                    if heard(middle) > wanted { near = middle } else { far = middle }
                }
                at(near)
            }
        }
    }

    /// By what factor the prediction is off what was read: 1 within it.
    #[must_use]
    pub fn factor(&self, found: &Prediction) -> f64 {
        let middle = found.down.middle.get();
        middle / middle.clamp(self.low, self.high)
    }

    /// Whether the likely range holds some of what was read.
    #[must_use]
    pub fn is_held_by(&self, found: &Prediction) -> bool {
        found.down.poor.get() <= self.high && self.low <= found.down.good.get()
    }
}

/// Where a reading was taken.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum PracticeAt {
    /// East, south (m) and level.
    Place(f64, f64, usize),
    /// Where the signal is so strong, dBm.
    Signal(f64),
}

fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("data/practice")
}

/// All readings, in the order of the fixture.
///
/// # Panics
/// When the fixture can't be read.
#[must_use]
pub fn rows() -> Vec<PracticeRow> {
    let mut reader = csv::Reader::from_path(folder().join("readings.csv")).expect("the fixture");
    reader
        .records()
        .map(|record| {
            let record = record.expect("a row");
            let own = |index: usize| record.get(index).unwrap_or_default();
            let number = |text: &str| text.trim().parse::<f64>().expect("a number");
            let at = match own(2).strip_prefix("where the signal is ") {
                Some(signal) => PracticeAt::Signal(number(signal.trim_end_matches(" dBm"))),
                None => {
                    let parts: Vec<f64> = own(2).split(',').map(number).collect();
                    PracticeAt::Place(parts[0], parts[1], parts[2] as usize)
                }
            };
            PracticeRow {
                file: own(0).trim_end_matches(".json").into(),
                setup: own(1).into(),
                at,
                client: own(3).into(),
                band: (own(4) == "5").then_some(Band::Ghz5),
                reach: if own(5) == "local" { TestKind::Local } else { TestKind::Internet },
                low: number(own(7)),
                high: number(own(8)),
                what: own(10).into(),
            }
        })
        .collect()
}

/// The home of a row.
///
/// # Panics
/// When the fixture can't be read.
#[must_use]
pub fn home(file: &str) -> Home {
    let text = std::fs::read_to_string(folder().join(format!("{file}.json"))).expect("the fixture");
    let mut value: serde_json::Value = serde_json::from_str(&text).expect("JSON");
    serde_json::from_value(value["home"].take()).expect("a home")
}
