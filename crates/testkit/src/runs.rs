//! Rounds and runs to test with; made-up figures.

use busy_hen_home::{
    AsTested, Doors, Home, Outcome, Purpose, Round, RoundId, Run, RunId, SetupId, Situation, Source, SpotId, TestKind,
};
use busy_hen_units::{MbitPerSec, Millis};
use jiff::Timestamp;

/// When made-up rounds and runs were taken: 2026-10-01, 09:00 UTC.
pub const BEGUN: Timestamp = Timestamp::constant(1_790_845_200, 0);

/// A round of internet tests with an ax phone at these spots.
#[must_use]
pub fn round(name: &str, setup_id: SetupId, spots: Vec<SpotId>) -> Round {
    Round {
        id: RoundId::named(name),
        setup_id,
        begun: BEGUN,
        client: "phone_ax".into(),
        band: None,
        kind: TestKind::Internet,
        doors: Doors::AsLeft,
        situation: Situation::Alone,
        runs_per_spot: 5,
        spots,
        purpose: Purpose::Rooms,
        on_record: None,
        confirmed: Vec::new(),
        trial: None,
    }
}

/// The home as such a round was taken in it, with nothing forecast.
#[must_use]
pub fn tested(home: &Home, round: &Round) -> AsTested {
    let setups = home.setups.iter().filter(|setup| setup.id == round.setup_id).cloned().collect();
    AsTested { kept_at: round.begun, law: None, home: Home { setups, ..home.clone() }, forecasts: Vec::new() }
}

/// A typed run with this download, and a tenth of it up.
#[must_use]
pub fn run(round: &Round, spot_id: SpotId, down: f64) -> Run {
    let outcome = Outcome::Measured {
        down_mbps: MbitPerSec::new(down),
        up_mbps: MbitPerSec::new(down / 10.0),
        idle_ms: Some(Millis::new(12.0)),
        loaded_ms: Some(Millis::new(60.0)),
        jitter_ms: None,
        loss_percent: None,
    };
    Run::new(RunId::random(), round.id, spot_id, BEGUN, Source::Typed, outcome)
}
