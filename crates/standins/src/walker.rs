//! The stand-in phone: is paired as phones are, walks a round spot by spot and sends samples as a phone's test would record them.

use std::time::Duration;

use busy_hen_catalogue::clients;
use busy_hen_home::raw::{Interruption, RawTest};
use busy_hen_home::{AsTested, HomeId, Purpose, Round, RoundId, RunId, Situation, SpotId, TestKind, local_day};
use busy_hen_predict::Question;
use jiff::Timestamp;
use rand::RngExt;
use rand_chacha::ChaCha8Rng;
use reqwest::header::{COOKIE, HeaderMap, HeaderValue};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use thiserror::Error;
use tokio::sync::watch;
use uuid::Uuid;

use crate::samples::{Link, test_over};
use crate::truth::{Run, Truth};

/// Runs of every so many that a fault hits.
const FAULT_EVERY: u32 = 4;
/// Times that a spoiled run is tried again.
const TRIES: u32 = 3;

/// What may go wrong on a walk, by a switch.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Mishap {
    /// A call comes in: the page is covered.
    Covered,
    /// The connection is gone for a moment.
    DropOut,
    /// The family is at home, though the round says that nobody is.
    BusyEvening,
    /// The phone slips to mobile data in the middle of a test.
    MobileData,
}

/// How a walk goes.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Manner {
    /// Seed of the hidden house.
    pub seed: u64,
    /// What goes wrong.
    pub mishaps: Vec<Mishap>,
}

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

/// A phone that was paired, in its hidden house.
struct Paired<'a> {
    phone: &'a Phone,
    client: reqwest::Client,
    token: String,
    truth: Truth,
    manner: &'a Manner,
    round: Round,
    tested: AsTested,
}

impl Phone {
    /// Walks a round to its end, or until it is called back between two runs: at each spot, the runs that are still missing.
    ///
    /// # Errors
    /// [`WalkError`] when the server can't be reached or refuses; what was sent before stays.
    pub async fn walk(
        &self,
        home: HomeId,
        round: RoundId,
        manner: &Manner,
        mut called_back: watch::Receiver<bool>,
    ) -> Result<(), WalkError> {
        // The server is on this machine or in this house; a proxy would not find it.
        let mut headers = HeaderMap::new();
        if let Some(cookie) = self.cookie.as_ref().and_then(|cookie| HeaderValue::from_str(cookie).ok()) {
            headers.insert(COOKIE, cookie);
        }
        let client = reqwest::Client::builder().no_proxy().default_headers(headers).build()?;
        let asked = client.get(format!("{}/api/rounds/{round}", self.server)).send().await?.error_for_status()?;
        let view: Value = asked.json().await?;
        let OpenedRound { home_id, round, tested } =
            serde_json::from_value(view.clone()).map_err(|_| WalkError::Unknown("shape"))?;
        if home_id != home {
            return Err(WalkError::Unknown("home"));
        }
        if round.purpose.is_marked() || matches!(round.purpose, Purpose::ApplicationCheck | Purpose::HandOverWalk) {
            return Err(WalkError::Refused(
                "The stand-in phone only walks from room to room; take a real phone for this round.".to_owned(),
            ));
        }
        let pairing = client
            .post(format!("{}/api/rounds/{}/phones", self.server, round.id))
            .json(&json!({ "stand_in": true }))
            .send()
            .await?
            .error_for_status()?;
        let pairing: Value = pairing.json().await?;
        let door = pairing["doors"][0]["url"].as_str().and_then(|url| url.split_once('#'));
        let token = door.map(|(_, token)| token.to_owned()).ok_or(WalkError::Unknown("way in"))?;
        let truth = Truth::new(tested.home.clone(), manner.seed);
        let paired = Paired { phone: self, client, token, truth, manner, round, tested };
        for spot in &paired.round.spots {
            for number in taken(&view, &spot.to_string())..paired.round.runs_per_spot {
                let waits = tokio::time::timeout(self.pace, called_back.wait_for(|back| *back));
                if waits.await.is_ok() || *called_back.borrow() {
                    return Ok(());
                }
                paired.test(*spot, number).await?;
            }
        }
        Ok(())
    }
}

impl Paired<'_> {
    /// One run at a spot; where something goes wrong that spoils it, it is tried again as a person would.
    async fn test(&self, spot: SpotId, number: u32) -> Result<(), WalkError> {
        for attempt in 0..TRIES {
            let run = Run { spot, round: self.round.id.0, number: number + 1000 * attempt };
            let mut rng = self.truth.rng(&[spot.0.as_u128(), u128::from(run.number), 1]);
            let mishap = self.mishap(number, attempt, &mut rng);
            let body = self.sent(run, mishap, &mut rng)?;
            if let Some(test) = body["result"]["test"].as_str() {
                if mishap == Some(Mishap::MobileData) {
                    self.slip(test).await?;
                } else if self.kit_report().is_some() {
                    self.line(&self.client, test).await?;
                    self.tell_kit(spot).await;
                }
            }
            if self.send(&body).await? {
                return Ok(());
            }
        }
        Ok(())
    }

    /// What goes wrong in this run; a second try goes well.
    fn mishap(&self, number: u32, attempt: u32, rng: &mut ChaCha8Rng) -> Option<Mishap> {
        let hits = attempt == 0 && number % FAULT_EVERY == 1 && !self.manner.mishaps.is_empty();
        hits.then(|| self.manner.mishaps[rng.random_range(0..self.manner.mishaps.len())])
    }

    /// The run as a phone sends it.
    fn sent(&self, run: Run, mishap: Option<Mishap>, rng: &mut ChaCha8Rng) -> Result<Value, WalkError> {
        let setup = self.tested.home.setup(self.round.setup_id).ok_or(WalkError::Unknown("setup"))?;
        let under = self.round.under();
        let busy = mishap == Some(Mishap::BusyEvening);
        let question = |reach: TestKind| -> Result<Question, WalkError> {
            Ok(Question {
                client: clients::find(&under.client).ok_or(WalkError::Unknown("test device"))?,
                band: under.band,
                situation: if busy { Situation::BusyEvening } else { under.situation },
                doors: under.doors,
                reach,
                day: local_day(Timestamp::now()),
            })
        };
        let within = self.truth.meets(setup, &question(TestKind::Local)?, run);
        let beyond = self.truth.meets(setup, &question(self.round.kind)?, run);
        let body = |result: Value, details: Value| json!({ "id": RunId::random(), "spot_id": run.spot, "at": Timestamp::now(), "result": result, "details": details });
        let (Some(within), false) = (within, mishap == Some(Mishap::DropOut)) else {
            return Ok(body(json!({ "kind": "no_connection" }), json!({})));
        };
        let mut raw = |link: &Link| -> RawTest {
            let mut raw = test_over(link, rng);
            raw.interruptions.extend((mishap == Some(Mishap::Covered)).then_some(Interruption::Hidden));
            raw
        };
        let first = raw(&within.link);
        let beyond = beyond
            .filter(|_| self.round.kind.is_internet())
            .map(|beyond| json!({ "id": RunId::random(), "raw": raw(&beyond.link) }));
        // Where the kit reports who serves, the phone itself knows as little as real ones do.
        let details = if self.kit_report().is_some() {
            json!({})
        } else {
            json!({
                "serving": within.serving, "band": within.band,
                "signal_dbm": within.signal_dbm, "link_rate_mbps": within.link_rate_mbps,
            })
        };
        Ok(body(json!({ "kind": "tested", "test": Uuid::new_v4(), "raw": first, "beyond": beyond }), details))
    }

    /// Begins a test under two addresses, as a phone does that slips to another network meanwhile.
    async fn slip(&self, test: &str) -> Result<(), WalkError> {
        for address in [[127, 0, 0, 1], [127, 0, 0, 2]] {
            let client =
                reqwest::Client::builder().no_proxy().local_address(std::net::IpAddr::from(address)).build()?;
            self.line(&client, test).await?;
        }
        Ok(())
    }

    /// Opens the line of a test. That nothing is measured over it does not matter: the far side has seen the address.
    async fn line(&self, client: &reqwest::Client, test: &str) -> Result<(), WalkError> {
        let line = format!("{}/measure/line?token={}&test={test}", self.phone.server, self.token);
        client.get(line).send().await?;
        Ok(())
    }

    fn kit_report(&self) -> Option<&str> {
        self.round.on_record.as_ref()?.kit_report.as_deref()
    }

    /// Is heard by the [stand-in kit](crate::kit) at this spot; real kit has no ear for it, and needs none.
    async fn tell_kit(&self, spot: SpotId) {
        let Some(origin) = self.kit_report().and_then(|report| report.strip_suffix("/report.json")) else { return };
        let heard = format!("{origin}/phone?address=127.0.0.1&spot={spot}&client={}", self.round.client);
        let _ = self.client.put(heard).send().await;
    }

    /// Sends a run; false when it was refused as spoiled, which a phone tests again.
    async fn send(&self, body: &Value) -> Result<bool, WalkError> {
        let url = format!("{}/api/phone/runs", self.phone.server);
        let answer = self.client.post(url).header("Busy-Hen-Phone", &self.token).json(body).send().await?;
        if answer.status().is_success() {
            return Ok(true);
        }
        let problem: Value = answer.json().await?;
        if problem["code"] == "spoiled" {
            return Ok(false);
        }
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
