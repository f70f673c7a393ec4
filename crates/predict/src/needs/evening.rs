//! What goes on at once: hour by hour, and against the plan, in one running line.

use busy_hen_home::{Brief, Hours};
use busy_hen_units::MbitPerSec;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use super::activity::{BUSY_EVENING, Need, sum};

/// A plan is called cheaper when it has this much more than the busiest hour needs: common practice.
const SPARE: f64 = 1.25;
/// Download and upload of plans as they are commonly sold, Mb/s: common practice.
const SOLD: [(f64, f64); 8] = [
    (36.0, 7.0),
    (67.0, 15.0),
    (100.0, 20.0),
    (150.0, 30.0),
    (300.0, 50.0),
    (500.0, 70.0),
    (900.0, 110.0),
    (1000.0, 1000.0),
];

/// What the busiest hour needs of the line, and how that stands to the plan.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RunningLine {
    /// The hour, or the first of the busy evening, in which most of the plan is asked for.
    #[schema(maximum = 23)]
    pub hour: u8,
    /// What goes on then needs of the line.
    pub need: Need,
    /// Download that the plan in force gives.
    pub plan_down_mbps: Option<MbitPerSec>,
    /// Upload that the plan in force gives.
    pub plan_up_mbps: Option<MbitPerSec>,
    /// All of it in one line, with what hurts.
    pub told: String,
    /// What is worth asking about the plan: too small, or larger than is needed; empty when neither.
    pub advice: String,
}

impl RunningLine {
    /// Whether the plan gives less than is asked.
    #[must_use]
    pub fn is_too_little(&self) -> bool {
        self.plan_down_mbps.is_some_and(|down| self.need.down_mbps > down)
            || self.plan_up_mbps.is_some_and(|up| self.need.up_mbps > up)
    }
}

/// A part of the day in which all that goes on overlaps: the busy evening as a whole, or an hour outside of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Slot(u8);

impl Slot {
    fn all() -> impl Iterator<Item = Self> {
        (0..24).filter(|hour| *hour == BUSY_EVENING.from || !BUSY_EVENING.hold(*hour)).map(Self)
    }

    fn is_evening(self) -> bool {
        BUSY_EVENING.hold(self.0)
    }

    fn in_words(self) -> String {
        if self.is_evening() { "busy evening".to_owned() } else { format!("busiest at {}:00", self.0) }
    }

    /// What goes on by the line in it; none when nothing does.
    fn need(self, brief: &Brief) -> Option<Need> {
        let holds = |hours: Option<Hours>| match self.is_evening() {
            true => hours.is_none_or(|own| own.meet(&BUSY_EVENING)),
            false => hours.unwrap_or(BUSY_EVENING).hold(self.0),
        };
        sum(brief, |own| !own.activity.is_local() && holds(own.hours))
    }
}

/// The busiest time against the plan in force, of download and of upload; none when nothing goes on by the line.
#[must_use]
pub fn running_line(brief: &Brief, today: Date) -> Option<RunningLine> {
    let plan = brief.plan_on(today);
    let gives = plan.map(busy_hen_home::Plan::gives);
    let slots: Vec<(Slot, Need)> = Slot::all().filter_map(|slot| Some((slot, slot.need(brief)?))).collect();
    let most = |of: fn(&Need) -> MbitPerSec| slots.iter().reduce(|a, b| if of(&b.1) > of(&a.1) { b } else { a });
    let (by_down, by_up) = (most(|need| need.down_mbps)?, most(|need| need.up_mbps)?);
    let need = Need {
        down_mbps: by_down.1.down_mbps,
        up_mbps: by_up.1.up_mbps,
        latency_ms: by_down.1.latency_ms.min(by_up.1.latency_ms),
    };
    let (asks_down, asks_up) = (figure(need.down_mbps), figure(need.up_mbps));
    // Without a plan download alone says when it is busiest.
    let parts = gives.map(|(down, up)| (need.down_mbps.get() / down.get(), need.up_mbps.get() / up.get()));
    let hour = if parts.is_some_and(|(down, up)| up > down) { by_up.0.0 } else { by_down.0.0 };
    let told_down = by_down.0.in_words();
    let told_up = if by_up.0 == by_down.0 { ", ".to_owned() } else { format!("; {} ", by_up.0.in_words()) };
    let told = match (gives, parts) {
        (Some((down, up)), Some(parts)) => {
            let hurts = match (parts.0 > 1.0, parts.1 > 1.0) {
                (true, true) => ": both are too little",
                (true, false) => ": the download is too little",
                (false, true) => ": the upload is too little",
                (false, false) if parts.0.max(parts.1) < 0.5 => ": enough",
                (false, false) if parts.1 > parts.0 => ": it is nearest with the upload",
                (false, false) => ": it is nearest with the download",
            };
            format!("{told_down} {asks_down} of {} down{told_up}{asks_up} of {} up{hurts}", figure(down), figure(up))
        }
        _ => format!("{told_down} needs {asks_down} down{told_up}{asks_up} up; no plan is in force today"),
    };
    Some(RunningLine {
        hour,
        need,
        plan_down_mbps: gives.map(|(down, _)| down),
        plan_up_mbps: gives.map(|(_, up)| up),
        told,
        advice: gives.map_or_else(String::new, |gives| advice(&need, gives, plan.and_then(|plan| plan.price_a_month))),
    })
}

fn advice(need: &Need, (down, up): (MbitPerSec, MbitPerSec), price: Option<f64>) -> String {
    let (wants_down, wants_up) = (need.down_mbps.get(), need.up_mbps.get());
    let would_do =
        SOLD.iter().find(|(sold_down, sold_up)| *sold_down >= SPARE * wants_down && *sold_up >= SPARE * wants_up);
    match would_do {
        Some((sold_down, sold_up)) if wants_down > down.get() || wants_up > up.get() => {
            format!("A plan of about {sold_down:.0}/{sold_up:.0} would carry it; no kit makes the line faster.")
        }
        Some((sold_down, sold_up)) if *sold_down <= 0.5 * down.get() && *sold_up <= up.get() => {
            let paid =
                price.map_or_else(String::new, |price| format!(" {price:.0} a month is paid for the one in force."));
            format!("A cheaper plan of about {sold_down:.0}/{sold_up:.0} would carry it too, if it is sold here.{paid}")
        }
        _ => String::new(),
    }
}

fn figure(rate: MbitPerSec) -> String {
    if rate.get() < 9.95 && rate.get().fract() > 0.05 {
        format!("{:.1}", rate.get())
    } else {
        format!("{:.0}", rate.get())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::{AccessLine, Activity, Plan, PlanId, RoomId, RoomUse, UseId};
    use jiff::civil::date;

    fn used(activity: Activity, people: u32, hours: Option<(u8, u8)>) -> RoomUse {
        let hours = hours.map(|(from, to)| Hours { from, to });
        RoomUse { id: UseId::random(), room_id: RoomId::named("r"), activity, people, who: String::new(), hours }
    }

    fn brief(down: f64, up: f64, uses: Vec<RoomUse>) -> Brief {
        let sold = Plan::sold(PlanId::named("p"), date(2026, 1, 1), (down, up), AccessLine::Fibre);
        let plan = Plan { price_a_month: Some(44.0), ..sold };
        Brief { plans: vec![plan], uses, ..Brief::default() }
    }

    fn line_of(brief: &Brief) -> RunningLine {
        running_line(brief, date(2026, 6, 1)).unwrap()
    }

    #[test]
    fn what_hurts_is_told() {
        let uses = || {
            vec![used(Activity::UhdFilm, 2, None), used(Activity::Call, 4, None), used(Activity::HomeOffice, 1, None)]
        };
        assert_eq!(
            line_of(&brief(300.0, 40.0, uses())).told,
            "busy evening 86 of 300 down, 21 of 40 up: it is nearest with the upload"
        );
        let thin = line_of(&brief(300.0, 10.0, uses()));
        assert_eq!(thin.told, "busy evening 86 of 300 down, 21 of 10 up: the upload is too little");
        assert!(thin.advice.starts_with("A plan of about 150/30 would carry it"), "{}", thin.advice);
        let wide = line_of(&brief(900.0, 110.0, vec![used(Activity::UhdFilm, 1, None)]));
        assert!(wide.told.ends_with(": enough"));
        assert_eq!(
            wide.advice,
            "A cheaper plan of about 36/7 would carry it too, if it is sold here. 44 a month is paid for the one in force."
        );
    }

    #[test]
    fn only_what_overlaps_adds_up_and_what_stays_at_home_asks_nothing_of_the_line() {
        let uses = vec![
            used(Activity::HomeOffice, 3, Some((9, 17))),
            used(Activity::UhdFilm, 1, Some((20, 23))),
            used(Activity::Game, 1, Some((22, 1))),
            used(Activity::LocalFiles, 4, None),
        ];
        let day = line_of(&brief(100.0, 20.0, uses));
        assert_eq!(
            (day.hour, day.told.as_str()),
            (9, "busiest at 9:00 60 of 100 down, 24 of 20 up: the upload is too little")
        );
        let night =
            brief(100.0, 20.0, vec![used(Activity::Game, 2, Some((22, 1))), used(Activity::HdFilm, 1, Some((0, 1)))]);
        assert!((line_of(&night).need.down_mbps.get() - 18.0).abs() < 1e-9, "past midnight");
        assert_eq!(running_line(&brief(1.0, 1.0, vec![used(Activity::LocalGame, 1, None)]), date(2026, 6, 1)), None);
    }

    #[test]
    fn the_busiest_times_of_download_and_of_upload_are_told_apart() {
        let uses = vec![used(Activity::UhdFilm, 2, Some((20, 23))), used(Activity::HomeOffice, 1, Some((9, 17)))];
        let line = line_of(&brief(300.0, 10.0, uses));
        assert_eq!(
            (line.hour, line.told.as_str()),
            (9, "busy evening 50 of 300 down; busiest at 9:00 8 of 10 up: it is nearest with the upload")
        );
    }

    #[test]
    fn what_a_plan_usually_gives_counts_and_not_what_is_sold() {
        let mut brief = brief(300.0, 40.0, vec![used(Activity::UhdFilm, 4, None)]);
        brief.plans[0].usual_down_mbps = Some(MbitPerSec::new(80.0));
        assert_eq!(line_of(&brief).told, "busy evening 100 of 80 down, 2 of 40 up: the download is too little");
    }
}
