//! The stand-in phone: walks a round spot by spot and posts its readings over the interface that a phone uses.

use std::time::Duration;

use busy_hen_engine::catalogue::clients;
use busy_hen_engine::predict::Question;
use busy_hen_home::{AsTested, HomeId, Round, RoundId, Run, local_day};
use jiff::Timestamp;
use reqwest::header::{COOKIE, HeaderMap, HeaderValue};
use serde::Deserialize;
use serde_json::{Value, json};
use thiserror::Error;

use crate::truth::Truth;

/// What stopped a walk.
#[derive(Debug, Error)]
pub enum WalkError {
    /// The server could not be reached or answered something else than expected.
    #[error("The stand-in phone could not reach the server: {0}")]
    Http(#[from] reqwest::Error),
    /// The server refused.
    #[error("{0}")]
    Refused(String),
    /// The round names something that this version does not know.
    #[error("The stand-in phone does not know this round's {0}.")]
    Unknown(&'static str),
}

/// A stand-in phone that talks to one server.
#[derive(Debug, Clone)]
pub struct Phone {
    /// Address of the server, such as `http://127.0.0.1:8080`.
    pub server: String,
    /// Time between two runs.
    pub pace: Duration,
    /// Cookie by which a locked bench lets it in; none where it is not locked.
    pub cookie: Option<String>,
}

#[derive(Deserialize)]
struct OpenedRound {
    home_id: HomeId,
    round: Round,
    tested: AsTested,
}

impl Phone {
    /// Walks a round to its end: at each spot, the runs that are still missing.
    ///
    /// # Errors
    /// [`WalkError`] when the server can't be reached or refuses; what was posted before stays.
    pub async fn walk(&self, home: HomeId, round: RoundId, seed: u64) -> Result<(), WalkError> {
        // The server is on this machine or in this house; a proxy would not find it.
        let mut headers = HeaderMap::new();
        if let Some(cookie) = self.cookie.as_ref().and_then(|cookie| HeaderValue::from_str(cookie).ok()) {
            headers.insert(COOKIE, cookie);
        }
        let client = reqwest::Client::builder().no_proxy().default_headers(headers).build()?;
        let view: Value = self.get(&client, &format!("/api/rounds/{round}")).await?;
        let OpenedRound { home_id, round, tested } =
            serde_json::from_value(view.clone()).map_err(|_| WalkError::Unknown("shape"))?;
        if home_id != home {
            return Err(WalkError::Unknown("home"));
        }
        let setup = tested.home.setup(round.setup_id).cloned().ok_or(WalkError::Unknown("setup"))?;
        let question = Question {
            client: clients::find(&round.client).ok_or(WalkError::Unknown("test device"))?,
            band: round.band,
            situation: round.situation,
            doors: round.doors,
            reach: round.kind,
            day: local_day(Timestamp::now()),
        };
        let truth = Truth::new(tested.home, seed);
        for spot in &round.spots {
            for number in taken(&view, &spot.to_string())..round.runs_per_spot {
                tokio::time::sleep(self.pace).await;
                if let Some(run) = truth.run(&setup, &round, question, (*spot, number), Timestamp::now()) {
                    self.post(&client, &run).await?;
                }
            }
        }
        Ok(())
    }

    async fn get<T: for<'de> Deserialize<'de>>(&self, client: &reqwest::Client, path: &str) -> Result<T, WalkError> {
        Ok(client.get(format!("{}{path}", self.server)).send().await?.error_for_status()?.json().await?)
    }

    async fn post(&self, client: &reqwest::Client, run: &Run) -> Result<(), WalkError> {
        let mut body = json!(run);
        if let Some(fields) = body.as_object_mut() {
            // What the server itself decides is not sent.
            for own in ["round_id", "plan_id", "void", "corrected"] {
                fields.remove(own);
            }
        }
        let url = format!("{}/api/rounds/{}/runs", self.server, run.round_id);
        let answer = client.post(url).json(&json!({ "runs": [body] })).send().await?;
        if answer.status().is_success() {
            return Ok(());
        }
        let problem: Value = answer.json().await?;
        let detail = problem["detail"].as_str().unwrap_or("the server refused a reading");
        Err(WalkError::Refused(format!("The stand-in phone was refused: {detail}")))
    }
}

/// Runs that a spot of the round has already.
fn taken(view: &Value, spot: &str) -> u32 {
    let spots = view["spots"].as_array();
    let row = spots.and_then(|spots| spots.iter().find(|row| row["spot_id"] == spot));
    let count = row.and_then(|row| row["run_count"].as_u64()).unwrap_or(0);
    u32::try_from(count).unwrap_or(u32::MAX)
}
