//! What an internet line was measured to give, where that is less than is sold.

use busy_hen_home::{Home, Plan, PlanId, Situation, TestKind};
use busy_hen_units::MbitPerSec;

use super::direction::Direction;
use crate::needs::busy_need;

/// The most that a line was measured to give under a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct LineCap {
    /// The plan.
    pub plan_id: PlanId,
    /// Whether the family was busy meanwhile.
    pub situation: Situation,
    /// Which way.
    pub direction: Direction,
    /// What came through in the middle.
    pub gives: MbitPerSec,
    /// How and when it was measured, in words.
    pub told: String,
}

/// What a line gives in a situation, and what says so; none where it was not measured to give less than is sold.
///
/// Busy, what others take meanwhile is added to what was measured, as predictions take it off again.
#[must_use]
pub fn held(
    caps: &[LineCap],
    home: &Home,
    (plan, reach): (&Plan, TestKind),
    situation: Situation,
    direction: Direction,
) -> Option<(MbitPerSec, String)> {
    let (down, up) = plan.gives();
    let sold = if direction == Direction::Down { down } else { up };
    let of = |wanted: Situation| {
        caps.iter().find(move |own| (own.plan_id, own.situation, own.direction) == (plan.id, wanted, direction))
    };
    let alone = of(Situation::Alone).map(|own| (own.gives, own.told.clone()));
    let busy = of(Situation::BusyEvening).filter(|_| situation == Situation::BusyEvening).map(|own| {
        let needs = home.house.rooms.iter().filter_map(|room| busy_need(&home.brief, room.id, reach));
        let others: f64 =
            needs.map(|need| if direction == Direction::Down { need.down_mbps } else { need.up_mbps }.get()).sum();
        (MbitPerSec::new(own.gives.get() + others), own.told.clone())
    });
    let least = [alone, busy].into_iter().flatten().min_by(|a, b| a.0.get().total_cmp(&b.0.get()))?;
    (least.0 < sold).then_some(least)
}
