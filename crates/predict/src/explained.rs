//! What the prediction says to a complaint: what would explain it.

use busy_hen_catalogue::{Client, clients};
use busy_hen_floorplan::Plan;
use busy_hen_home::{Complaint, ComplaintId, Doors, Enclosure, FamilyDevice, Home, Setup, Situation, TestKind};
use busy_hen_units::MbitPerSec;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use super::ledger::{LedgerRow, Measured};
use super::{Knowledge, Model, Question};
use crate::needs::{BUSY_EVENING, Verdict};
use crate::path::chain::figure;
use crate::path::direction::Direction;

/// A download below this part of the plan is worth telling: less than half of what is paid for arrives.
const MUCH_LOST: f64 = 0.5;
/// A download that falls below this part of itself under other conditions is worth telling; within it, it is within what runs scatter.
const FALLS: f64 = 0.6;

/// What the prediction says to a complaint.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Explained {
    /// The complaint.
    pub complaint_id: ComplaintId,
    /// Whether something of it would explain the complaint.
    pub explains: bool,
    /// What arrives in the room, what limits it, and what makes it worse.
    pub told: String,
}

/// What a setup's prediction says to a complaint about a room: what arrives there, what limits it, and whether a busy family or shut doors
/// would make it much worse, or kit out of its cabinet much better. None when it names no room, or the installer has noted what answered it.
#[must_use]
pub fn explained(
    home: &Home,
    setup: &Setup,
    plan: &Plan,
    complaint: &Complaint,
    day: Date,
    kept: &Knowledge,
) -> Option<Explained> {
    let room = complaint.room_id.filter(|_| complaint.answer.trim().is_empty())?;
    let room = plan.room(room)?;
    let client = client_in(&home.brief.devices, complaint)?;
    let reach = if goes_by_the_home_network(home, complaint) { TestKind::Local } else { TestKind::Internet };
    let quiet = Question { client, band: None, situation: Situation::Alone, doors: Doors::AsLeft, reach, day };
    let ask = |setup: &Setup, question: Question| {
        let model = Model::new(home, setup, plan, question, kept);
        let row = model.row(room, &Measured::default());
        (model.network().plan_cap(Direction::Down), row)
    };
    let (sold, row) = ask(setup, quiet);
    let arrives = row.predicted.down.middle;
    let mut told = vec![first(&row, setup, client, sold)];
    let mut explains = row.predicted_verdict == Some(Verdict::NotMet)
        || arrives.get() <= 0.0
        || sold.is_some_and(|sold| arrives < sold * MUCH_LOST);
    let mut worse = |words: &str, question: Question| {
        let (_, row) = ask(setup, question);
        let left = row.predicted.down.middle;
        if arrives.get() > 0.0 && left < arrives * FALLS {
            explains = true;
            told.push(format!("{words} {}.", figure(left)));
        }
    };
    let evening = |hours: busy_hen_home::Hours| hours.meet(&BUSY_EVENING);
    if complaint.hours.is_none_or(evening) {
        worse("While the family is busy", Question { situation: Situation::BusyEvening, ..quiet });
    }
    worse("With all doors shut", Question { doors: Doors::Shut, ..quiet });
    if setup.devices.iter().any(|device| device.enclosure != Enclosure::Open) {
        let mut open = setup.clone();
        open.devices.iter_mut().for_each(|device| device.enclosure = Enclosure::Open);
        let (_, row) = ask(&open, quiet);
        let freed = row.predicted.down.middle;
        if freed * FALLS > arrives {
            told.push(format!("Out of its cabinet the kit would give {} there.", figure(freed)));
        }
    }
    if !explains {
        // A complaint is about what the family has: another setup is asked whether it cures it.
        let has = home.in_force.and_then(|id| home.setup(id)).or(home.setups.first()).filter(|has| has.id != setup.id);
        let there = has.and_then(|has| explained(home, has, plan, complaint, day, kept)).filter(|own| own.explains);
        told.push(match there.zip(has) {
            Some((_, has)) => format!("Setup {} explains it; this one would cure it.", has.letter),
            None => "That does not explain it: ask with which device, to where and when it happens, and test it then."
                .into(),
        });
    }
    Some(Explained { complaint_id: complaint.id, explains, told: told.join(" ") })
}

/// What the family uses in the complaint's room: what is fixed there, else what roams.
fn client_in(devices: &[FamilyDevice], complaint: &Complaint) -> Option<&'static Client> {
    let there = devices.iter().find(|own| own.room_id.is_some() && own.room_id == complaint.room_id);
    let roams = || devices.iter().find(|own| own.room_id.is_none());
    there.or_else(roams).map_or(Some(clients::usual()), |own| clients::find(own.class.as_str()))
}

/// Whether all that is done in the room goes by the home network, so that the line has no part in it.
#[must_use]
pub fn goes_by_the_home_network(home: &Home, complaint: &Complaint) -> bool {
    let mut there = home.brief.uses.iter().filter(|own| Some(own.room_id) == complaint.room_id).peekable();
    there.peek().is_some() && there.all(|own| own.activity.is_local())
}

fn first(row: &LedgerRow, setup: &Setup, client: &Client, sold: Option<MbitPerSec>) -> String {
    let with = format!("With {} ({})", setup.letter, setup.name);
    let what = client.name;
    if row.no_port {
        return format!("{with} no port stands in {} to plug this in: {what}.", row.name);
    }
    let down = &row.predicted.down;
    if down.middle.get() <= 0.0 {
        return format!("{with} nothing holds in {} ({what}).", row.name);
    }
    let of = match (row.need.filter(|_| row.predicted_verdict == Some(Verdict::NotMet)), sold) {
        (Some(need), _) if down.middle < need.down_mbps => format!(" where {} are needed", figure(need.down_mbps)),
        (Some(need), _) if row.predicted.up.middle < need.up_mbps => {
            format!(" and sends {} where {} are needed", figure(row.predicted.up.middle), figure(need.up_mbps))
        }
        (Some(need), _) => {
            format!(" at {:.0} ms, where {:.0} ms may be had", row.predicted.latency_ms.get(), need.latency_ms.get())
        }
        (None, Some(sold)) => format!(" of the {} that the plan gives", figure(sold)),
        (None, None) => String::new(),
    };
    let range = format!("likely {} to {}; {what}", figure(down.poor), figure(down.good));
    let limit = row.limited_by.as_ref().map_or(String::new(), |link| format!(": the {link} limits it"));
    format!("{with} {} is predicted to get {} ({range}){of}{limit}.", row.name, figure(down.middle))
}
