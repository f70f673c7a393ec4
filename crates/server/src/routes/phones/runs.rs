//! What a phone measured comes in.

use std::net::IpAddr;

use actix_web::http::StatusCode;
use actix_web::web::{Data, ReqData};
use actix_web::{HttpResponse, post};
use busy_hen_formats::Station;
use busy_hen_home::{
    CarriedBy, DeviceId, Faults, Mark, Outcome, PlanId, Purpose, Round, Run, RunId, Source, TestKind, local_day,
};
use busy_hen_job::check::check_new_run;
use busy_hen_store::{Pairing, RoundRecord};
use busy_hen_survey::measuring;
use busy_hen_survey::measuring::{SlowLeg, Spoiled, TestFigures, figures, slow_leg};
use busy_hen_survey::readings::words::in_words;
use busy_hen_units::Metres;
use jiff::{SignedDuration, Timestamp};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::sent::{Beyond, PhoneResult, PhoneRun};
use super::typed::Figures;
use super::{PhoneHeader, measured_at, over, reached, reaching};
use crate::body::Body;
use crate::error::ApiError;
use crate::interfaces::of_home;
use crate::problems::{Storing, Testing};
use crate::routes::rounds::ask_about_ceiling;
use crate::state::AppState;

/// How long after it began a run is still what the kit reports on: two legs, and the way here.
const REPORTED_FOR: SignedDuration = SignedDuration::from_secs(120);

/// A run that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneKept {
    /// The run as it is kept.
    pub run: Run,
    /// What came of it in words, where it was no test of speed.
    pub told: Option<String>,
    /// The run beyond the line that went with it.
    pub beyond: Option<Run>,
    /// Which part of the way was the slow one, where both were tested.
    pub slow_leg: Option<SlowLeg>,
    /// Why the part beyond the line does not count, where it was spoiled.
    pub beyond_problem: Option<String>,
    /// What the kit reports of who served, or why that is not known; none where it reports nothing.
    pub kit: Option<String>,
}

/// What is to be kept of a request.
#[derive(Default)]
struct Read {
    runs: Vec<Run>,
    samples: Vec<(RunId, Vec<u8>)>,
    slow: Option<SlowLeg>,
    beyond_problem: Option<String>,
}

/// Takes a run of a paired phone. A run that is there already is kept as it was.
#[utoipa::path(tag = "phones", params(PhoneHeader), request_body = PhoneRun,
    responses((status = CREATED, description = "The run as it is kept.", body = PhoneKept), Storing, Testing))]
#[post("/runs")]
pub async fn phone_run(
    state: Data<AppState>,
    pairing: ReqData<Pairing>,
    new: Body<PhoneRun>,
) -> Result<HttpResponse, ApiError> {
    let now = state.now();
    let new = new.into_inner();
    let new = PhoneRun { at: measured_at(new.at, new.sent_at, now), ..new };
    over(&pairing, new.at, now)?;
    let (home_id, record) = state.store.round(pairing.round).await?;
    let home = state.store.home(home_id).await?.home;
    let plan_id = home.brief.plan_of(record.round.kind, local_day(new.at)).map(|plan| plan.id);
    if new.details.walked.is_some_and(|walked| !walked.from.is_sound() || !walked.to.is_sound()) {
        return Err(Faults::one("/details/walked", "There is no such place on earth.").into());
    }
    let figures_read = Figures::of(&new, &home)?;
    let other_way = other_way(&state, &new.result).await;
    let Read { mut runs, samples, slow, beyond_problem } =
        read(&state, &new, (&pairing, &record.round), (&figures_read, plan_id), other_way)?;
    let kit = match reported(&state, &new, &pairing, &record, now).await {
        None => None,
        Some(Ok(seen)) => {
            runs.iter_mut().for_each(|run| seen.words_of(run));
            Some(seen.words)
        }
        Some(Err(words)) => Some(words),
    };
    for run in &runs {
        check_new_run(&record.tested.home, &record.round, run)?;
    }
    if let (PhoneResult::Shown { over_ceiling_confirmed: false, .. }, [run]) = (&new.result, runs.as_slice()) {
        ask_about_ceiling(&home, &record, run)?;
    }
    let mut kept = state.store.add_runs(pairing.round, &runs, &samples, None).await?.into_iter();
    let run = kept.next().ok_or_else(|| ApiError::Internal("a run that was kept is gone".into()))?;
    let told = in_words(&run.outcome);
    let kept = PhoneKept { run, told, beyond: kept.next(), slow_leg: slow, beyond_problem, kit };
    Ok(HttpResponse::build(StatusCode::CREATED).json(kept))
}

/// The runs that a request makes, all figures worked out.
fn read(
    state: &AppState,
    new: &PhoneRun,
    (pairing, round): (&Pairing, &Round),
    (typed, plan_id): (&Figures, Option<PlanId>),
    other_way: Option<Spoiled>,
) -> Result<Read, ApiError> {
    let run = |id: RunId, kind: TestKind, outcome: Outcome| {
        let run = one(new, pairing, round, (id, kind, outcome));
        typed.put_into(Run { plan_id, ..run })
    };
    let tested = |id: RunId, kind: TestKind, found: &TestFigures| Run {
        trace_mbps: found.down.trace_mbps.clone(),
        ..run(id, kind, found.outcome())
    };
    let mut read = Read::default();
    match &new.result {
        PhoneResult::Tested { test, raw, beyond } => {
            came_from_home(state, *test)?;
            let within = figures(raw).map_err(ApiError::Spoiled)?;
            read.runs.push(tested(new.id, TestKind::Local, &within));
            read.samples.push((new.id, gzip(raw)?));
            if let Some(Beyond { id, raw, .. }) = beyond.as_deref() {
                match other_way.map_or_else(|| figures(raw), Err) {
                    Ok(found) => {
                        read.slow = Some(slow_leg(&within, &found));
                        read.runs.push(tested(*id, TestKind::Internet, &found));
                        read.samples.push((*id, gzip(raw)?));
                    }
                    // The part within the home stands by itself.
                    Err(spoiled) => read.beyond_problem = Some(spoiled.to_string()),
                }
            }
        }
        PhoneResult::Film { reach, raw } => {
            let check = measuring::film(raw).map_err(ApiError::Spoiled)?;
            read.runs.push(run(new.id, *reach, Outcome::Film { check }));
            read.samples.push((new.id, gzip(raw)?));
        }
        PhoneResult::Call { reach, raw } => {
            let check = measuring::call(raw).map_err(ApiError::Spoiled)?;
            read.runs.push(run(new.id, *reach, Outcome::Call { check }));
            read.samples.push((new.id, gzip(raw)?));
        }
        PhoneResult::Walked { raw } => {
            let check = measuring::walk(raw).map_err(ApiError::Spoiled)?;
            read.runs.push(run(new.id, TestKind::Local, Outcome::Walked { check }));
            read.samples.push((new.id, gzip(raw)?));
        }
        PhoneResult::Shown { reach, .. } => {
            if new.details.under.as_ref().is_none_or(|under| under.tool.is_none()) {
                return Err(Faults::one("/details/under/tool", "Say which test showed this.").into());
            }
            let outcome = typed.shown.clone().ok_or_else(|| ApiError::Internal("figures were not read".into()))?;
            let source = if pairing.stand_in { Source::Walker } else { Source::Typed };
            read.runs.push(Run { source, ..run(new.id, *reach, outcome) });
        }
        // None of these says how far anything reached: readings of what the round asks.
        PhoneResult::Heard {} => read.runs.push(run(new.id, reached(state, round, pairing), Outcome::Heard)),
        PhoneResult::NoConnection {} => {
            read.runs.push(run(new.id, reached(state, round, pairing), Outcome::NoConnection))
        }
        PhoneResult::Skipped {} => read.runs.push(run(new.id, reached(state, round, pairing), Outcome::Skipped)),
    }
    Ok(read)
}

/// What carries a test beyond the line: that which the round is about.
fn beyond_of(round: &Round) -> TestKind {
    if round.kind.is_internet() { round.kind } else { TestKind::Internet }
}

/// One run with all that goes with it.
fn one(new: &PhoneRun, pairing: &Pairing, round: &Round, (id, kind, outcome): (RunId, TestKind, Outcome)) -> Run {
    let details = new.details.clone();
    // A page knows within and beyond; which line carries is the round's to say.
    let kind = if kind.is_internet() { beyond_of(round) } else { kind };
    let under = reaching(kind, details.under.unwrap_or_else(|| round.under()));
    let source = if pairing.stand_in { Source::Walker } else { Source::Phone };
    Run {
        carried_by: if round.purpose == Purpose::WiredCeiling { CarriedBy::Cable } else { CarriedBy::HomeWifi },
        serving: details.serving,
        band: details.band,
        under: Some(under).filter(|under| *under != round.under()),
        mark: details.mark.map(|mark| Mark {
            // To the metre: a phone knows no better.
            distance_m: details.walked.map(|own| Metres::new(own.from.to(&own.to).get().round())).or(mark.distance_m),
            ..mark
        }),
        note: details.note.map(|note| note.trim().to_owned()).filter(|note| !note.is_empty()),
        kit_status: details.kit_status,
        together: details.together,
        ..Run::new(id, round.id, new.spot_id, new.at, source, outcome)
    }
}

/// A test whose parts came from several addresses, or from outside of the home's network, was carried by another network.
fn came_from_home(state: &AppState, test: Uuid) -> Result<(), ApiError> {
    match state.far_side.addresses(test).as_deref() {
        // Sent long afterwards, or after a restart: nothing is known against it.
        None | Some([]) => Ok(()),
        Some([one]) if of_home(*one) => Ok(()),
        Some(_) => Err(ApiError::Spoiled(Spoiled::OtherNetwork)),
    }
}

/// What speaks against the part beyond the line: a far end that saw the phone elsewhere than at this home.
async fn other_way(state: &AppState, result: &PhoneResult) -> Option<Spoiled> {
    let PhoneResult::Tested { beyond: Some(beyond), .. } = result else { return None };
    let seen: IpAddr = beyond.seen_from.as_ref()?.parse().ok()?;
    let by_our_line = state.far_end()?.by_our_line(seen).await?;
    (!by_our_line).then_some(Spoiled::OtherWay)
}

/// What the kit reports of a phone.
struct Reported {
    station: Station,
    serving: Option<DeviceId>,
    words: String,
}

impl Reported {
    /// Puts into a run what the kit knows and the phone did not say.
    fn words_of(&self, run: &mut Run) {
        run.serving = run.serving.or(self.serving);
        run.band = run.band.or(self.station.band);
        // A channel means something with its band alone.
        if run.band == self.station.band {
            run.channel = run.channel.or(self.station.channel);
            run.width_mhz = run.width_mhz.or(self.station.width_mhz);
        }
        run.signal_dbm = run.signal_dbm.or(self.station.signal_dbm);
        run.link_rate_mbps = run.link_rate_mbps.or(self.station.link_rate_mbps);
    }
}

/// Who serves this phone by the kit's own report, or why that is not known; none where no report belongs to the run.
async fn reported(
    state: &AppState,
    new: &PhoneRun,
    pairing: &Pairing,
    record: &RoundRecord,
    now: Timestamp,
) -> Option<Result<Reported, String>> {
    let address = record.round.on_record.as_ref()?.kit_report.as_ref()?;
    let PhoneResult::Tested { test, .. } = &new.result else { return None };
    // What the kit says now is not of a run that waited on the phone.
    let phone =
        state.far_side.addresses(*test)?.first().copied().filter(|_| now.duration_since(new.at) < REPORTED_FOR)?;
    // It may have come with a file from another home.
    if !state.store.kit_address_is_said(pairing.home, address).await.unwrap_or(false) {
        return Some(Err(
            "The kit’s report was not asked: its address came with a file. Allow it at the bench, under the round."
                .into(),
        ));
    }
    let report = match crate::kit::report(address).await {
        Ok(report) => report,
        Err(why) => return Some(Err(format!("The kit’s report can’t be read: {why}."))),
    };
    if report.stand_in && !pairing.stand_in {
        return Some(Err("The kit’s report is a stand-in’s; nothing was taken from it.".to_owned()));
    }
    let Some(station) = report.station(phone) else {
        return Some(Err(format!("The kit’s report does not know this phone, {phone}.")));
    };
    let devices = record.tested.home.setup(record.round.setup_id).map_or(&[][..], |setup| &setup.devices);
    let device = crate::kit::device(devices, &station.served_by);
    let by = device.map_or_else(|| format!("{}, which is no device here", station.served_by), |own| own.name.clone());
    let band = station.band.map(|band| format!(", {band}")).unwrap_or_default();
    let words = format!("Served by {by}{band}, as the kit reports.");
    Some(Ok(Reported { station: station.clone(), serving: device.map(|own| own.id), words }))
}

fn gzip(raw: &impl Serialize) -> Result<Vec<u8>, ApiError> {
    let mut into = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
    serde_json::to_writer(&mut into, raw)?;
    into.finish().map_err(|error| ApiError::Internal(error.to_string()))
}
