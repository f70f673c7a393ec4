//! What is forecast for a round as it begins, and kept with it.

use std::collections::HashMap;

use busy_hen_catalogue::clients;
use busy_hen_home::{AsTested, Forecast, Home, Round, SpotId};
use busy_hen_radio::propagation::LAW;
use jiff::Timestamp;
use jiff::civil::Date;

use super::{Knowledge, Model, Prediction, Question};

/// What the law predicts for the spots of a round in a home, under the plan of that day; nothing when the home lacks what the round names.
#[must_use]
pub fn forecasts(home: &Home, round: &Round, day: Date, kept: &Knowledge) -> HashMap<SpotId, Prediction> {
    let (Some(setup), Some(client)) = (home.setup(round.setup_id), clients::find(&round.client)) else {
        return HashMap::new();
    };
    let question =
        Question { client, band: round.band, situation: round.situation, doors: round.doors, reach: round.kind, day };
    let plan = kept.plan(home);
    let model = Model::new(home, setup, &plan, question, kept);
    let spots = home.house.spots.iter().filter(|spot| round.spots.contains(&spot.id));
    kept.wanted(spots).filter_map(|spot| Some((spot.id, model.at(plan.spot(spot)?.1, Some(spot.room_id))))).collect()
}

/// What a round is taken in, kept at this moment, with what is forecast for it; none when the home has no such setup.
#[must_use]
pub fn as_tested(home: &Home, round: &Round, (now, day): (Timestamp, Date), kept: &Knowledge) -> Option<AsTested> {
    let setup = home.setup(round.setup_id)?.clone();
    // A kept password has no business in a reading, where it would outlive being thrown away.
    let home = Home { setups: vec![setup], passwords: Vec::new(), ..home.clone() };
    let found = forecasts(&home, round, day, kept);
    let forecasts = round.spots.iter().filter_map(|spot| Some(forecast_of(*spot, found.get(spot)?))).collect();
    Some(AsTested { kept_at: now, law: Some(LAW.to_owned()), home, forecasts })
}

fn forecast_of(spot_id: SpotId, predicted: &Prediction) -> Forecast {
    Forecast {
        spot_id,
        down: predicted.down,
        up: predicted.up,
        latency_ms: predicted.latency_ms,
        served_by: predicted.served.map(|served| served.device).or(predicted.plugged_into),
        band: predicted.served.map(|served| served.band),
        signal_dbm: predicted.served.map(|served| served.signal_dbm),
    }
}
