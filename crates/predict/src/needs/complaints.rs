//! Complaints, each open until a reading or a finding answers it.

use busy_hen_home::{Complaint, ComplaintId, Situation};
use serde::Serialize;
use utoipa::ToSchema;

use super::activity::{BUSY_EVENING, Need};
use super::evening::RunningLine;
use super::verdict::{Verdict, measured};
use crate::summary::Summary;

/// What can be said to a complaint.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ComplaintState {
    /// The complaint.
    pub complaint_id: ComplaintId,
    /// Whether it is still open.
    pub open: bool,
    /// What answers it, or what would.
    pub told: String,
}

/// What was measured in a complaint's room: what the runs come to, and on which day.
pub struct MeasuredThere {
    /// Figures of the runs.
    pub summary: Summary,
    /// The day, as it is told.
    pub day: String,
    /// Whether a stand-in made the readings up.
    pub made_up: bool,
    /// Who was busy meanwhile.
    pub situation: Situation,
    /// Letter of the setup it was measured with.
    pub setup: String,
}

/// What answers a complaint, by what its room needs and was measured to get, and by what the line is asked for.
#[must_use]
pub fn state_of(
    complaint: &Complaint,
    need: Option<&Need>,
    there: Option<&MeasuredThere>,
    line: Option<&RunningLine>,
) -> ComplaintState {
    let state = |open: bool, told: String| ComplaintState { complaint_id: complaint.id, open, told };
    if !complaint.answer.trim().is_empty() {
        return state(false, complaint.answer.trim().to_owned());
    }
    let evening = complaint.hours.is_none_or(|hours| (0..24).any(|hour| hours.hold(hour) && BUSY_EVENING.hold(hour)));
    let too_little = line.filter(|line| line.is_too_little());
    if let Some(line) = too_little.filter(|_| evening) {
        return state(false, format!("The line explains it: {}. {}", line.told, line.advice).trim().to_owned());
    }
    if complaint.room_id.is_none() {
        let told =
            "Open: say which room it is about, or test at the router by cable whether the line gives what it should.";
        return state(true, told.into());
    }
    let Some(need) = need else {
        return state(true, "Open: note what is done in this room, so that there is something to judge by.".into());
    };
    let Some(there) = there else {
        return state(true, "Open: nothing was measured there yet.".into());
    };
    let (got, asked) = (there.summary.down_mbps.median, need.down_mbps.get());
    let source = if there.made_up { "made-up readings" } else { "readings" };
    let source = format!("{source} of {} with {}", there.day, there.setup);
    match measured(need, &there.summary, there.situation) {
        Verdict::NotMet => {
            let told = format!("The {source} show it: {got:.0} Mb/s down there, {asked:.0} are needed.");
            state(there.made_up, if there.made_up { format!("Open: {told} They are of a stand-in.") } else { told })
        }
        _ if complaint.comes_and_goes => {
            let told = format!(
                "Open: the {source} were good ({got:.0} Mb/s); it comes and goes, so test at its hours or leave a watch."
            );
            state(true, told)
        }
        _ => {
            let told = format!(
                "Open: the {source} meet the need ({got:.0} of {asked:.0} Mb/s); ask what is done when it happens."
            );
            state(true, told)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::RoomId;
    use busy_hen_units::{MbitPerSec, Millis};

    fn complaint() -> Complaint {
        Complaint {
            id: ComplaintId::named("c"),
            words: "films stall".into(),
            room_id: Some(RoomId::named("r")),
            comes_and_goes: false,
            hours: None,
            answer: String::new(),
        }
    }

    fn need() -> Need {
        Need { down_mbps: MbitPerSec::new(25.0), up_mbps: MbitPerSec::new(1.0), latency_ms: Millis::new(500.0) }
    }

    #[test]
    fn it_stays_open_until_something_answers_it() {
        let own = complaint();
        assert!(state_of(&own, None, None, None).told.contains("note what is done"));
        assert!(state_of(&own, Some(&need()), None, None).told.contains("nothing was measured"));
        let nowhere = Complaint { room_id: None, ..complaint() };
        assert!(state_of(&nowhere, None, None, None).told.contains("which room"));
        let answered = Complaint { answer: "the old repeater".into(), ..complaint() };
        let state = state_of(&answered, None, None, None);
        assert!(!state.open && state.told == "the old repeater");
    }

    #[test]
    fn a_line_that_is_too_thin_answers_what_happens_in_the_evening_and_no_other_complaint() {
        let line = RunningLine {
            hour: 19,
            need: need(),
            plan_down_mbps: Some(MbitPerSec::new(10.0)),
            plan_up_mbps: None,
            told: "busy evening 90 of 50 down, 3 of 10 up: the download is too little".into(),
            advice: String::new(),
        };
        assert!(!state_of(&complaint(), Some(&need()), None, Some(&line)).open);
        let morning = Complaint { hours: Some(busy_hen_home::Hours { from: 6, to: 9 }), ..complaint() };
        assert!(state_of(&morning, Some(&need()), None, Some(&line)).open);
    }
}
