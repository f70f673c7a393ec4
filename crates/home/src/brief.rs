//! The brief: plans, people and what they do where, tenure and constraints.

use busy_hen_units::MbitPerSec;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::id::{ComplaintId, FamilyDeviceId, PlanId, RoomId, UseId};
use crate::test_kind::TestKind;

/// What the family has, wants and allows.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Brief {
    /// The complaint, in the family's words.
    pub complaint: String,
    /// Who owns the walls.
    pub tenure: Tenure,
    /// Whether walls may be drilled for cable.
    pub may_drill: bool,
    /// Whether network sockets stand in some rooms.
    pub network_sockets: bool,
    /// Whether cable-television sockets stand in some rooms.
    pub coax_sockets: bool,
    /// What the family will spend, in its own currency; absent when not asked.
    pub budget: Option<f64>,
    /// Anything else that binds: where the line enters, what may be switched off when.
    pub constraints: String,
    /// Internet plans of the line that is used first, each from the date it holds.
    pub plans: Vec<Plan>,
    /// A line beside it, with plans of its own; none where there is one line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub second_line: Option<SecondLine>,
    /// Who does what in which room.
    pub uses: Vec<RoomUse>,
    /// What may be drilled and what not, in the family's words; empty when not asked.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub drilling: String,
    /// The router there is.
    #[serde(default)]
    pub router: PresentRouter,
    /// The family's devices.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub devices: Vec<FamilyDevice>,
    /// What the network must be able to do.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub wants: Vec<Want>,
    /// Complaints, each kept open until something answers it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub complaints: Vec<Complaint>,
}

/// The router there is before anything is changed.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PresentRouter {
    /// What it is, in the family's words.
    pub what: String,
    /// Whether it can be put in bridge mode, so that another does the routing; absent when nobody has looked.
    pub can_bridge: Option<bool>,
}

/// Some devices of one class that the family has.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FamilyDevice {
    /// Identifies the entry.
    pub id: FamilyDeviceId,
    /// What the family calls it; may be empty.
    pub name: String,
    /// Its class, a key of the catalogue's test devices: streams, width, generation.
    pub class: String,
    /// How many of them.
    pub count: u32,
    /// Whether it stands still, so that a cable may serve it.
    pub fixed: bool,
    /// The room it is used in; none for one that roams.
    pub room_id: Option<RoomId>,
}

/// Something that the network must be able to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Want {
    /// Rules for children: hours, what may be looked at.
    ChildRules,
    /// A private network of one's own to dial into.
    OwnVpn,
    /// A hub for lamps, locks and sensors.
    SmartHomeHub,
    /// Wi-Fi that goes on and off by the clock.
    Schedules,
    /// A network for guests.
    GuestNetwork,
    /// Every setting within reach.
    FullControl,
}

impl Want {
    /// All of them, as they are offered.
    pub const ALL: [Self; 6] =
        [Self::ChildRules, Self::OwnVpn, Self::SmartHomeHub, Self::Schedules, Self::GuestNetwork, Self::FullControl];
}

/// What the family complains of.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Complaint {
    /// Identifies the complaint.
    pub id: ComplaintId,
    /// In the family's words.
    pub words: String,
    /// The room it is about; none when it is about all of them.
    pub room_id: Option<RoomId>,
    /// Whether it comes and goes.
    pub comes_and_goes: bool,
    /// The hours at which it happens; none when at any.
    pub hours: Option<Hours>,
    /// What has answered it, as the installer wrote it down; empty while it is open.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub answer: String,
}

/// Some hours of a day, from one to before another; past midnight when the second is the lower.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Hours {
    /// First hour, 0 to 23.
    #[schema(maximum = 23)]
    pub from: u8,
    /// The hour at which it ends, 0 to 23.
    #[schema(maximum = 23)]
    pub to: u8,
}

impl Hours {
    /// Whether an hour lies in them; equal ends mean the whole day.
    #[must_use]
    pub fn hold(&self, hour: u8) -> bool {
        match self.from.cmp(&self.to) {
            std::cmp::Ordering::Less => self.from <= hour && hour < self.to,
            std::cmp::Ordering::Equal => true,
            std::cmp::Ordering::Greater => hour >= self.from || hour < self.to,
        }
    }

    /// Whether some hour lies in both.
    #[must_use]
    pub fn meet(&self, other: &Self) -> bool {
        (0..24).any(|hour| self.hold(hour) && other.hold(hour))
    }
}

impl Brief {
    /// The plan in force on this day: the one with the latest start not after it.
    #[must_use]
    pub fn plan_on(&self, day: Date) -> Option<&Plan> {
        in_force(&self.plans, day)
    }

    /// The plan that limits a test of this kind on this day; of a local test it is on record and limits nothing.
    #[must_use]
    pub fn plan_of(&self, kind: TestKind, day: Date) -> Option<&Plan> {
        match kind {
            TestKind::SecondLine => in_force(&self.second_line.as_ref()?.plans, day),
            TestKind::Local | TestKind::Internet => self.plan_on(day),
        }
    }

    /// The plans of every line.
    pub fn all_plans(&self) -> impl Iterator<Item = &Plan> {
        self.plans.iter().chain(self.second_line.iter().flat_map(|second| &second.plans))
    }
}

fn in_force(plans: &[Plan], day: Date) -> Option<&Plan> {
    plans.iter().filter(|plan| plan.from <= day).max_by_key(|plan| plan.from)
}

/// A line beside the one that is used first.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SecondLine {
    /// When it carries.
    pub carries: SecondLineUse,
    /// Its plans, each from the date it holds.
    pub plans: Vec<Plan>,
}

/// When a second line carries.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SecondLineUse {
    /// It takes over by itself when the first fails, and gives back.
    #[default]
    TakesOver,
    /// Somebody switches to it: a plug, a hotspot.
    ByHand,
    /// Both carry at once, each connection by one of them.
    Beside,
}

/// What the family pays for, from a date on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Identifies the plan in readings.
    pub id: PlanId,
    /// First day on which it holds.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// Download as sold.
    pub down_mbps: MbitPerSec,
    /// Upload as sold.
    pub up_mbps: MbitPerSec,
    /// Kind of line that carries it.
    pub line: AccessLine,
    /// Download that usually arrives, where it is known to differ from what is sold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub usual_down_mbps: Option<MbitPerSec>,
    /// Upload that usually arrives, where it is known to differ from what is sold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub usual_up_mbps: Option<MbitPerSec>,
    /// What it costs a month, in the family's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price_a_month: Option<f64>,
}

impl Plan {
    /// A plan of which only what is sold is known.
    #[must_use]
    pub fn sold(id: PlanId, from: Date, (down, up): (f64, f64), line: AccessLine) -> Self {
        Self {
            id,
            from,
            down_mbps: MbitPerSec::new(down),
            up_mbps: MbitPerSec::new(up),
            line,
            usual_down_mbps: None,
            usual_up_mbps: None,
            price_a_month: None,
        }
    }

    /// Download and upload that arrive: the usual where it is known, never more than is sold.
    #[must_use]
    pub fn gives(&self) -> (MbitPerSec, MbitPerSec) {
        let least = |sold: MbitPerSec, usual: Option<MbitPerSec>| usual.map_or(sold, |usual| usual.min(sold));
        (least(self.down_mbps, self.usual_down_mbps), least(self.up_mbps, self.usual_up_mbps))
    }
}

/// Kind of line into the home.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AccessLine {
    /// Fibre into the home.
    #[default]
    Fibre,
    /// Cable-television line.
    Cable,
    /// Telephone line.
    Dsl,
    /// Mobile network.
    Mobile,
    /// Low-orbit satellite.
    LowOrbit,
    /// Geostationary satellite.
    Geostationary,
}

/// Who owns the walls.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Tenure {
    /// The family owns the home.
    #[default]
    Owned,
    /// The family rents: ask before drilling.
    Rented,
    /// The home is still being built: cable can go in now.
    BeingBuilt,
}

/// Some people doing one thing in one room, at the busiest time of the day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RoomUse {
    /// Identifies the use.
    pub id: UseId,
    /// The room it happens in.
    pub room_id: RoomId,
    /// What is done.
    pub activity: Activity,
    /// How many do it at once.
    pub people: u32,
    /// Who, in the family's words; may be empty.
    pub who: String,
    /// When, where that is known; the busy evening when it is not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<Hours>,
}

/// What a person or thing does with the network.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Activity {
    /// Messages and mail.
    Mail,
    /// Music or radio.
    Music,
    /// Web pages and social feeds.
    Browsing,
    /// A video call.
    Call,
    /// A film in HD.
    HdFilm,
    /// A film in 4K.
    UhdFilm,
    /// A game played against others.
    Game,
    /// Work from home: calls, remote desktop, large files.
    HomeOffice,
    /// A camera that sends its picture out.
    Camera,
    /// Broadcasting live to many.
    LiveBroadcast,
    /// Films or files from a machine at home: it goes by the home network and not by the line.
    LocalFiles,
    /// A game from a machine at home: it goes by the home network and not by the line.
    LocalGame,
    /// A crowd of guests on the guest network.
    GuestCrowd,
    /// A payment terminal.
    PaymentTerminal,
}

impl Activity {
    /// All activities, lightest first as they are offered.
    pub const ALL: [Self; 14] = [
        Self::Mail,
        Self::Music,
        Self::Browsing,
        Self::Call,
        Self::HdFilm,
        Self::UhdFilm,
        Self::Game,
        Self::HomeOffice,
        Self::Camera,
        Self::LiveBroadcast,
        Self::LocalFiles,
        Self::LocalGame,
        Self::GuestCrowd,
        Self::PaymentTerminal,
    ];

    /// Whether it goes by the home network alone, so that no plan limits it.
    #[must_use]
    pub fn is_local(self) -> bool {
        matches!(self, Self::LocalFiles | Self::LocalGame)
    }

    /// Whether it is commonly done by something that stands still, so that a cable may carry it: common practice.
    #[must_use]
    pub fn stands_still(self) -> bool {
        use Activity::{Camera, Game, HdFilm, HomeOffice, LiveBroadcast, LocalFiles, LocalGame, UhdFilm};
        matches!(self, Camera | Game | HdFilm | HomeOffice | LiveBroadcast | LocalFiles | LocalGame | UhdFilm)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn plan(name: &str, from: Date) -> Plan {
        Plan::sold(PlanId::named(name), from, (100.0, 20.0), AccessLine::Fibre)
    }

    #[test]
    fn the_plan_in_force_is_the_latest_that_has_begun() {
        let brief =
            Brief { plans: vec![plan("new", date(2026, 6, 1)), plan("old", date(2024, 1, 1))], ..Brief::default() };
        assert_eq!(brief.plan_on(date(2026, 5, 31)).map(|p| p.id), Some(PlanId::named("old")));
        assert_eq!(brief.plan_on(date(2026, 6, 1)).map(|p| p.id), Some(PlanId::named("new")));
        assert_eq!(brief.plan_on(date(2023, 12, 31)), None);
    }
}
