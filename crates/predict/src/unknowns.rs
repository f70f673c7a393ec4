//! What nobody drew or said and yet decides: the cheapest thing to ask about a room.

use busy_hen_floorplan::Point;
use busy_hen_floorplan::parts::PlanRoom;
use busy_hen_home::{OpeningKind, RoomId};
use busy_hen_units::MbitPerSec;
use serde::Serialize;
use utoipa::ToSchema;

use super::Model;

/// Speeds that differ by less than this factor are not worth a question.
const WORTH_ASKING: f64 = 1.5;
/// Nor those that differ by less than this.
const WORTH_MBPS: f64 = 10.0;

/// What nobody drew or said, and what it decides.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Undrawn {
    /// The room to begin at.
    pub room_id: RoomId,
    /// Its name.
    pub room: String,
    /// What to do about it, in words.
    pub ask: String,
    /// What arrives where it serves least.
    pub low_mbps: MbitPerSec,
    /// What arrives where it serves most.
    pub high_mbps: MbitPerSec,
}

impl Model<'_> {
    /// Whether what nobody drew or said decides what arrives at a place of a room, and what to ask first: what answers in one word before
    /// what is to be measured. None when it does not decide, or all is known.
    #[must_use]
    pub fn undrawn(&self, at: Point, room: RoomId) -> Option<Undrawn> {
        let losses = self.losses(at);
        let seat = self.seat(Some(room));
        let rates: Vec<MbitPerSec> = losses.each.iter().map(|way| self.evaluator.middle(way, seat).down).collect();
        let low = rates.iter().copied().reduce(MbitPerSec::min)?;
        let high = rates.iter().copied().reduce(MbitPerSec::max)?;
        if high.get() < WORTH_ASKING * low.get() || (high - low).get() < WORTH_MBPS {
            return None;
        }
        let serving = self.evaluator.associate(&losses.middle).map(|(access, _)| {
            let node = &self.network().nodes[self.evaluator.accesses[access].node];
            node.at
        });
        let with_it = serving.and_then(|at| self.plan.rooms.iter().find(|own| self.plan.holds(own, &at)));
        let here = self.plan.room(room)?;
        let ends = [Some(here), with_it].into_iter().flatten();
        let of = |room: &PlanRoom, ask: String| {
            Some(Undrawn { room_id: room.id, room: room.name.clone(), ask, low_mbps: low, high_mbps: high })
        };
        if self.plan.materials().any(|own| own.either.is_some()) {
            return of(here, "say what it is built of".to_owned());
        }
        let undrawn = |kind: OpeningKind| ends.clone().find(|own| self.plan.is_undrawn(own, kind));
        if ends.clone().any(|own| own.outdoors)
            && let Some(own) = undrawn(OpeningKind::Window)
        {
            return of(own, format!("draw the windows of {}", own.name));
        }
        let doors = |own: &PlanRoom| format!("draw the doors of {}", own.name);
        if let Some(own) = undrawn(OpeningKind::Door) {
            return of(own, doors(own));
        }
        if with_it.is_some_and(|own| own.level != here.level) && self.plan.has_undrawn_stairs() {
            return of(here, "draw the stairs".to_owned());
        }
        // Where both ends are drawn, it is a room between them.
        let own = self.plan.rooms.iter().find(|own| self.plan.is_undrawn(own, OpeningKind::Door))?;
        of(own, doors(own))
    }
}
