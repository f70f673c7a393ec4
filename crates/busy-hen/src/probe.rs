//! A test from a shell: the ceiling of a wired machine, or of anything without a browser.

use busy_hen_home::raw::RawTest;
use busy_hen_probe::{Place, measure};
use busy_hen_survey::measuring::{TestFigures, figures};
use serde_json::{Value, json};
use uuid::Uuid;

/// What to test.
pub struct Options {
    /// Address with its token, as a bench or a far end shows it.
    pub address: String,
    /// Name of the spot whose run it is to be; posted to no spot when left out.
    pub spot: Option<String>,
    /// The mark that the run belongs to, in rounds that go by marks.
    pub mark: Option<String>,
    /// Whether to print JSON.
    pub json: bool,
}

/// Tests, posts the run where a spot is named, and tells the figures.
pub fn probe(options: &Options) -> Result<String, String> {
    let place: Place = options.address.parse().map_err(|error| format!("{error}"))?;
    place.check().map_err(|error| error.to_string())?;
    let runtime = tokio::runtime::Runtime::new().map_err(|error| error.to_string())?;
    runtime.block_on(async {
        let client = reqwest::Client::builder().no_proxy().build().map_err(|error| error.to_string())?;
        // Asked before the test, so that a wrong name costs no time.
        let spot = match &options.spot {
            Some(name) => Some(spot_of(&client, &place, name).await?),
            None => None,
        };
        let (test, at) = (Uuid::new_v4(), jiff::Timestamp::now());
        let raw = measure(&place, test).await.map_err(|error| error.to_string())?;
        let found = figures(&raw).map_err(|spoiled| spoiled.to_string())?;
        if let Some(spot) = &spot {
            post(&client, &place, &run(spot, (test, at), &raw, options.mark.as_deref())).await?;
        }
        if options.json {
            return serde_json::to_string_pretty(&found).map(|text| text + "\n").map_err(|error| error.to_string());
        }
        let kept = options.spot.as_ref().map(|name| format!("Kept as a run at {name}.\n")).unwrap_or_default();
        Ok(in_words(&place, &found) + &kept)
    })
}

fn in_words(place: &Place, found: &TestFigures) -> String {
    let loaded = |ms: Option<busy_hen_units::Millis>| ms.map_or("not taken".to_owned(), |ms| format!("{ms:.1}"));
    format!(
        "To {}:\n  down  {:.1}, settled after {:.0}, {} under load\n  up    {:.1}, settled after {:.0}, {} under load\n  idle  \
         {:.1}, jitter {:.1}\nLoss is not measured: the connection sends again what was lost.\n",
        place.origin,
        found.down.rate_mbps,
        found.down.after_ms,
        loaded(found.down.loaded_ms),
        found.up.rate_mbps,
        found.up.after_ms,
        loaded(found.up.loaded_ms),
        found.idle_ms,
        found.jitter_ms,
    )
}

fn run(spot: &Value, (test, at): (Uuid, jiff::Timestamp), raw: &RawTest, mark: Option<&str>) -> Value {
    let result = json!({ "kind": "tested", "test": test, "raw": raw });
    let details = json!({ "mark": mark.map(|name| json!({ "name": name })) });
    json!({ "id": Uuid::new_v4(), "spot_id": spot, "at": at.to_string(), "result": result, "details": details })
}

async fn spot_of(client: &reqwest::Client, place: &Place, name: &str) -> Result<Value, String> {
    let view = ask(client.get(format!("{}/api/phone", place.origin)), place).await?;
    let spots = view["spots"].as_array().map(Vec::as_slice).unwrap_or_default();
    let found = spots.iter().find(|spot| spot["name"].as_str().is_some_and(|own| own.eq_ignore_ascii_case(name)));
    found.map(|spot| spot["spot_id"].clone()).ok_or_else(|| {
        let names: Vec<&str> = spots.iter().filter_map(|spot| spot["name"].as_str()).collect();
        format!("the round has no spot called {name}; it has {}", names.join(", "))
    })
}

async fn post(client: &reqwest::Client, place: &Place, run: &Value) -> Result<(), String> {
    ask(client.post(format!("{}/api/phone/runs", place.origin)).json(run), place).await.map(|_| ())
}

async fn ask(request: reqwest::RequestBuilder, place: &Place) -> Result<Value, String> {
    let answer = request.header("busy-hen-phone", &place.token).send().await.map_err(|error| error.to_string())?;
    let good = answer.status().is_success();
    let body: Value = answer.json().await.map_err(|error| error.to_string())?;
    if good { Ok(body) } else { Err(body["detail"].as_str().unwrap_or("the bench refused").to_owned()) }
}
