//! What can be said against a brief.

use super::check::Check;
use crate::{Brief, House, Plan, RoomId};

/// A plan faster than this is a typing slip, Mb/s.
const PLAN_LIMIT_MBPS: f64 = 100_000.0;

pub(super) fn brief(brief: &Brief, house: &House, check: &mut Check) {
    check.text(&brief.complaint, "/brief/complaint", "The complaint");
    check.text(&brief.constraints, "/brief/constraints", "The text on constraints");
    check.that(
        brief.budget.is_none_or(|budget| budget.is_finite() && budget >= 0.0),
        "/brief/budget",
        "The budget must be zero or more; leave it empty when it is not known.",
    );
    plans(&brief.plans, ("/brief/plans", "plan"), check);
    if let Some(second) = &brief.second_line {
        plans(&second.plans, ("/brief/second_line/plans", "second line’s plan"), check);
    }
    check.unique(brief.all_plans().map(|plan| (plan.id, "/brief/plans".to_owned())), "This plan id");
    check.text(&brief.drilling, "/brief/drilling", "What may be drilled");
    check.text(&brief.router.what, "/brief/router/what", "The present router");
    family(brief, house, check);
    check.unique(brief.uses.iter().enumerate().map(|(i, u)| (u.id, format!("/brief/uses/{i}/id"))), "This use id");
    for (index, one) in brief.uses.iter().enumerate() {
        let at = format!("/brief/uses/{index}");
        check.that(
            house.room(one.room_id).is_some(),
            format!("{at}/room_id"),
            "A use is in a room that the house does not have; choose another room.",
        );
        check.that(
            (1..=50).contains(&one.people),
            format!("{at}/people"),
            format!("{} people at once cannot be right; enter 1 to 50.", one.people),
        );
        check.text(&one.who, &format!("{at}/who"), "The name of who does it");
        check.hours(one.hours, &format!("{at}/hours"));
    }
}

/// The plans of one line.
pub(super) fn plans(list: &[Plan], (at, what): (&str, &str), check: &mut Check) {
    for (index, plan) in list.iter().enumerate() {
        for (field, rate) in [("down_mbps", plan.down_mbps), ("up_mbps", plan.up_mbps)] {
            check.that(
                rate.get() > 0.0 && rate.get() <= PLAN_LIMIT_MBPS,
                format!("{at}/{index}/{field}"),
                format!("The {what} from {} must be over 0 and at most {PLAN_LIMIT_MBPS} Mb/s.", plan.from),
            );
        }
        for (field, usual) in [("usual_down_mbps", plan.usual_down_mbps), ("usual_up_mbps", plan.usual_up_mbps)] {
            check.that(
                usual.is_none_or(|usual| usual.get() > 0.0 && usual.get() <= PLAN_LIMIT_MBPS),
                format!("{at}/{index}/{field}"),
                format!(
                    "What the {what} from {} usually gives must be over 0; leave it empty when it is not known.",
                    plan.from
                ),
            );
        }
        check.that(
            plan.price_a_month.is_none_or(|price| price.is_finite() && (0.0..=1e6).contains(&price)),
            format!("{at}/{index}/price_a_month"),
            format!(
                "The price of the {what} from {} must be zero or more; leave it empty when it is not known.",
                plan.from
            ),
        );
    }
    check.unique(list.iter().enumerate().map(|(i, p)| (p.from, format!("{at}/{i}/from"))), "A plan from this date");
}

/// The family's devices, what they want, and what they complain of.
pub(super) fn family(brief: &Brief, house: &House, check: &mut Check) {
    let there = |room: Option<RoomId>| room.is_none_or(|room| house.room(room).is_some());
    let (devices, complaints) = (&brief.devices, &brief.complaints);
    check.that(devices.len() <= 200, "/brief/devices", "At most 200 entries of devices are kept; join some.");
    check.that(complaints.len() <= 100, "/brief/complaints", "At most 100 complaints are kept; join some.");
    check.unique(devices.iter().enumerate().map(|(i, d)| (d.id, format!("/brief/devices/{i}/id"))), "This device id");
    check.unique(
        complaints.iter().enumerate().map(|(i, c)| (c.id, format!("/brief/complaints/{i}/id"))),
        "This complaint id",
    );
    let wants = brief.wants.iter().enumerate();
    check.unique(wants.map(|(i, want)| (*want, format!("/brief/wants/{i}"))), "This wish");
    for (index, device) in devices.iter().enumerate() {
        let at = format!("/brief/devices/{index}");
        check.text(&device.name, &format!("{at}/name"), "The name of a device");
        check.that(
            (1..=200).contains(&device.count),
            format!("{at}/count"),
            format!("{} of one device cannot be right; enter 1 to 200.", device.count),
        );
        check.that(
            there(device.room_id),
            format!("{at}/room_id"),
            "A device is in a room that the house does not have; choose another room.",
        );
    }
    for (index, complaint) in complaints.iter().enumerate() {
        let at = format!("/brief/complaints/{index}");
        check.text(&complaint.words, &format!("{at}/words"), "A complaint");
        check.text(&complaint.answer, &format!("{at}/answer"), "The answer to a complaint");
        check.that(
            there(complaint.room_id),
            format!("{at}/room_id"),
            "A complaint is about a room that the house does not have; choose another room.",
        );
        check.hours(complaint.hours, &format!("{at}/hours"));
    }
}
