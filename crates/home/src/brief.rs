//! The brief: plans, people and what they do where, tenure and constraints.

use busy_hen_units::MbitPerSec;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::id::{PlanId, RoomId, UseId};

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
    /// Internet plans, each from the date it holds.
    pub plans: Vec<Plan>,
    /// Who does what in which room.
    pub uses: Vec<RoomUse>,
}

impl Brief {
    /// The plan in force on this day: the one with the latest start not after it.
    #[must_use]
    pub fn plan_on(&self, day: Date) -> Option<&Plan> {
        self.plans.iter().filter(|plan| plan.from <= day).max_by_key(|plan| plan.from)
    }
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
}

impl Activity {
    /// All activities, lightest first as they are offered.
    pub const ALL: [Self; 9] = [
        Self::Mail,
        Self::Music,
        Self::Browsing,
        Self::Call,
        Self::HdFilm,
        Self::UhdFilm,
        Self::Game,
        Self::HomeOffice,
        Self::Camera,
    ];
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn plan(name: &str, from: Date) -> Plan {
        Plan {
            id: PlanId::named(name),
            from,
            down_mbps: MbitPerSec::new(100.0),
            up_mbps: MbitPerSec::new(20.0),
            line: AccessLine::Fibre,
        }
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
