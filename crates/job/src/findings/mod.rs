//! Findings: mistakes and risks of a setup that practice keeps meeting, each with what it costs the family and its fix.
//!
//! A rule says where it holds and, where one action mends it, what the setup would be then. What that is worth is not guessed: the rooms
//! are predicted with and without.

mod buying;
mod case;
mod radio;
mod rule;
mod whole;
mod wiring;

use busy_hen_home::{DeviceId, Home, RoomId, Setup, Situation};
use busy_hen_units::MbitPerSec;
use serde::Serialize;
use utoipa::ToSchema;

use case::{Case, Found};
pub use rule::{Basis, Rule};

use busy_hen_floorplan::Plan;
use busy_hen_predict::evaluator::Middle;
use busy_hen_predict::needs::{Need, room_need};
use busy_hen_predict::ready::Ready;
use busy_hen_predict::{Knowledge, Question};

/// Least gain, as a part of what arrives, that is worth naming: less is within what runs scatter.
const WORTH_NAMING: f64 = 0.05;
/// A speed below which two setups are alike, Mb/s.
const LEAST_MBPS: f64 = 0.5;
/// Most rooms whose gain is told one by one.
const ROOMS_TOLD: usize = 3;

/// A mistake or risk that a rule has found.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Finding {
    /// The rule.
    pub rule: Rule,
    /// The device it is about; none when it is about the setup.
    pub device_id: Option<DeviceId>,
    /// What is wrong and where, in one sentence.
    pub what: String,
    /// Why it matters, for somebody who meets it for the first time.
    pub why: &'static str,
    /// What the rule rests on.
    pub basis: Basis,
    /// The one action that mends it, in words; none where hands or money are needed.
    pub fix: Option<String>,
    /// What mending gives, in words; none where nothing was computed.
    pub gain: Option<String>,
    /// Rooms that get noticeably more, most first.
    pub rooms: Vec<RoomGain>,
    /// What it costs the family, for ranking: doublings of speed lost, rooms with unmet needs counted more.
    pub cost: f64,
    /// Whether it is about harm, law or safety, and is never folded away.
    pub grave: bool,
    /// Why the installer put it aside; none when it stands.
    pub put_aside: Option<String>,
    /// The setup with the action done.
    #[serde(skip)]
    pub mended: Option<Setup>,
}

/// What a room gets now, and with the finding mended.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RoomGain {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// Download at its middle now.
    pub now_mbps: MbitPerSec,
    /// Download at its middle then.
    pub then_mbps: MbitPerSec,
}

/// All findings of a setup, what costs the family most first, and last what the installer put aside.
///
/// # Complexity
/// One what-if of the whole home a finding that one action mends.
#[must_use]
pub fn findings(home: &Home, setup: &Setup, plan: &Plan, question: Question, kept: &Knowledge) -> Vec<Finding> {
    let case = Case::of(home, setup, plan, question, kept);
    let before = Broken::of_case(&case);
    let mut found = Vec::new();
    for look in kept.wanted([radio::look, wiring::look, whole::look, buying::look]) {
        look(&case, &mut found);
    }
    let aside = |own: &Found| {
        let key = own.rule.key();
        let listed = setup.put_aside.iter().find(|one| one.rule == key && one.device_id == own.device);
        listed.map(|one| one.because.clone())
    };
    let middles = |setup: &Setup, question: &Question| {
        Ready::new(setup, plan, question, kept).middles(home, setup, plan, question, &kept.tables)
    };
    // A family feels a mistake in its busy evening: that decides what it costs.
    let busy = Question { situation: Situation::BusyEvening, ..question };
    let (now, now_busy) = (middles(setup, &question), middles(setup, &busy));
    let mut list: Vec<Finding> = kept
        .wanted(found)
        .filter_map(|own| {
            let then = own.mended.as_ref().map(|(_, mended)| (middles(mended, &question), middles(mended, &busy)));
            let rooms = then.as_ref().map_or_else(Vec::new, |(then, _)| gains(plan, &now, then));
            let cost = then.as_ref().map_or(0.0, |(_, then)| worth(home, plan, &busy, &now_busy, then));
            // What is only worth mending for its gain, and gains nothing here, is no mistake here.
            if own.rule.basis() == Basis::Computed && own.mended.is_some() && rooms.is_empty() && cost < 0.1 {
                return None;
            }
            let put_aside = aside(&own);
            let lost = then.as_ref().map_or_else(Vec::new, |(_, then)| losses(plan, &now_busy, then));
            // A fix that takes more than it gives is none, unless the law or somebody's safety asks for it.
            let harms = !own.rule.is_grave() && !lost.is_empty() && cost < 0.0;
            let breaks =
                |mended: &Setup| Broken::of(home, mended, plan, question, kept).besides(own.rule).adds_to(&before);
            let mended = own.mended.filter(|(_, mended)| !harms && mended != setup && !breaks(mended));
            let (fix, mended) = mended.unzip();
            Some(Finding {
                put_aside,
                rule: own.rule,
                device_id: own.device,
                what: own.what,
                why: own.rule.why(),
                basis: own.rule.basis(),
                gain: own
                    .gain
                    .filter(|_| mended.is_some())
                    .or_else(|| mended.as_ref().map(|_| gain_in_words(&rooms, &lost))),
                rooms,
                cost: cost + own.rule.weight(),
                grave: own.rule.is_grave(),
                fix,
                mended,
            })
        })
        .collect();
    list.sort_by(|a, b| a.put_aside.is_some().cmp(&b.put_aside.is_some()).then(b.cost.total_cmp(&a.cost)));
    list
}

/// What a setup breaks of the rules that nothing proposed may break, with the device each is broken by.
#[derive(Debug, Clone, PartialEq)]
pub struct Broken(Vec<(Rule, Option<DeviceId>)>);

impl Broken {
    /// What a setup breaks.
    ///
    /// # Complexity
    /// O(devices²), and a search for the way of each cable
    #[must_use]
    pub fn of(home: &Home, setup: &Setup, plan: &Plan, question: Question, kept: &Knowledge) -> Self {
        Self::of_case(&Case::of(home, setup, plan, question, kept))
    }

    fn of_case(case: &Case<'_>) -> Self {
        let mut found = Vec::new();
        for look in [radio::look, wiring::look, whole::look_at_rules, buying::look] {
            look(case, &mut found);
        }
        Self(found.into_iter().filter(|own| own.rule.forbids()).map(|own| (own.rule, own.device)).collect())
    }

    fn besides(mut self, rule: Rule) -> Self {
        self.0.retain(|own| own.0 != rule);
        self
    }

    /// Whether something is broken here that was not before.
    #[must_use]
    pub fn adds_to(&self, before: &Self) -> bool {
        self.0.iter().any(|own| !before.0.contains(own))
    }
}

/// Rooms that get noticeably more, most first.
fn gains(plan: &Plan, now: &[Middle], then: &[Middle]) -> Vec<RoomGain> {
    let mut rooms: Vec<RoomGain> = plan
        .rooms
        .iter()
        .zip(now.iter().zip(then))
        .filter(|(_, (now, then))| {
            let (now, then) = (now.down.get(), then.down.get());
            then > now * (1.0 + WORTH_NAMING) && then - now > LEAST_MBPS
        })
        .map(|(room, (now, then))| RoomGain {
            room_id: room.id,
            name: room.name.clone(),
            now_mbps: now.down,
            then_mbps: then.down,
        })
        .collect();
    rooms.sort_by(|a, b| (b.then_mbps - b.now_mbps).get().total_cmp(&(a.then_mbps - a.now_mbps).get()));
    rooms
}

/// Rooms that get noticeably less, most first.
fn losses(plan: &Plan, now: &[Middle], then: &[Middle]) -> Vec<RoomGain> {
    gains(plan, then, now)
        .into_iter()
        .map(|own| RoomGain { now_mbps: own.then_mbps, then_mbps: own.now_mbps, ..own })
        .collect()
}

fn gain_in_words(rooms: &[RoomGain], lost: &[RoomGain]) -> String {
    if let (Some(most), true) = (lost.first(), rooms.is_empty()) {
        return format!(
            "costs {} speed: {:.0} instead of {:.0} Mb/s",
            most.name,
            most.then_mbps.get(),
            most.now_mbps.get()
        );
    }
    if rooms.is_empty() {
        return "hardly more speed".into();
    }
    let told: Vec<String> = rooms
        .iter()
        .take(ROOMS_TOLD)
        .map(|room| format!("{} {:.0} instead of {:.0}", room.name, room.then_mbps.get(), room.now_mbps.get()))
        .collect();
    let more = rooms.len().saturating_sub(ROOMS_TOLD);
    let rest = match more {
        0 => String::new(),
        1 => " and 1 room more".into(),
        _ => format!(" and {more} rooms more"),
    };
    format!("{}{rest} Mb/s", told.join(", "))
}

/// Doublings of speed, up to what a room can use, that mending gives; rooms whose need is not met count four times.
fn worth(home: &Home, plan: &Plan, question: &Question, now: &[Middle], then: &[Middle]) -> f64 {
    let met = |need: &Need, got: &Middle| need.met_by(got.down, got.up, got.latency);
    plan.rooms
        .iter()
        .zip(now.iter().zip(then))
        .map(|(room, (now, then))| {
            let need = room_need(&home.brief, room.id, question.reach);
            let doublings = ((then.down.get() + 1.0) / (now.down.get() + 1.0)).log2();
            let weight = match &need {
                Some(need) if !met(need, now) => 4.0,
                Some(_) => 1.0,
                None => 0.25,
            };
            let cured = need.is_some_and(|need| !met(&need, now) && met(&need, then));
            doublings * weight + if cured { 4.0 } else { 0.0 }
        })
        .sum()
}
