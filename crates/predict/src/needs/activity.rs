//! Activities turned into needed speed and delay.

use busy_hen_home::{Activity, Brief, Hours, RoomId, RoomUse, TestKind};
use busy_hen_units::{MbitPerSec, Millis};
use serde::Serialize;
use utoipa::ToSchema;

/// The busy evening, in which everything goes on whose hours nobody said: common practice.
pub const BUSY_EVENING: Hours = Hours { from: 19, to: 23 };

/// What a room, or the home, must get.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Need {
    /// Download.
    pub down_mbps: MbitPerSec,
    /// Upload.
    pub up_mbps: MbitPerSec,
    /// Longest round trip that will do.
    pub latency_ms: Millis,
}

/// What one person doing this needs.
///
/// # Source
/// Planning values, from memory of what the services themselves ask for; the call's round trip keeps one-way delay well under
/// the 150 ms of ITU-T G.114, and the game's under what players notice. Camera: sends HD without pause; a broadcast sends full HD.
/// Files at home: what makes a large one open without waiting; a game from a machine at home is a film that must not lag. A crowd of
/// guests is counted a head.
#[must_use]
pub fn need_of(activity: Activity) -> Need {
    let (down, up, latency) = match activity {
        Activity::Mail => (0.5, 0.2, 1000.0),
        Activity::Music => (1.0, 0.1, 1000.0),
        Activity::Browsing => (3.0, 0.3, 500.0),
        Activity::Call => (4.0, 3.0, 150.0),
        Activity::HdFilm => (8.0, 0.3, 500.0),
        Activity::UhdFilm => (25.0, 0.5, 500.0),
        Activity::Game => (5.0, 1.0, 60.0),
        Activity::HomeOffice => (20.0, 8.0, 100.0),
        Activity::Camera => (0.2, 4.0, 1000.0),
        Activity::LiveBroadcast => (1.0, 8.0, 200.0),
        Activity::LocalFiles => (80.0, 20.0, 500.0),
        Activity::LocalGame => (40.0, 2.0, 30.0),
        Activity::GuestCrowd => (2.0, 0.5, 500.0),
        Activity::PaymentTerminal => (0.2, 0.2, 1000.0),
    };
    Need { down_mbps: MbitPerSec::new(down), up_mbps: MbitPerSec::new(up), latency_ms: Millis::new(latency) }
}

/// Everything that goes on in a room at once, by the line or, asked of the home's own network, that too: speeds add, the strictest delay
/// holds. None when nothing is done there.
#[must_use]
pub fn room_need(brief: &Brief, room: RoomId, kind: TestKind) -> Option<Need> {
    sum(brief, |one| one.room_id == room && (kind == TestKind::Local || !one.activity.is_local()))
}

/// What of it goes on in the busy evening.
#[must_use]
pub fn busy_need(brief: &Brief, room: RoomId, kind: TestKind) -> Option<Need> {
    let in_the_evening = |one: &RoomUse| one.hours.is_none_or(|hours| hours.meet(&BUSY_EVENING));
    sum(brief, |one| {
        one.room_id == room && in_the_evening(one) && (kind == TestKind::Local || !one.activity.is_local())
    })
}

/// What all uses come to that are included; none where none is.
pub(super) fn sum(brief: &Brief, included: impl Fn(&RoomUse) -> bool) -> Option<Need> {
    brief
        .uses
        .iter()
        .filter(|one| included(one))
        .map(|one| {
            let need = need_of(one.activity);
            let people = f64::from(one.people);
            Need { down_mbps: need.down_mbps * people, up_mbps: need.up_mbps * people, ..need }
        })
        .reduce(|a, b| Need {
            down_mbps: a.down_mbps + b.down_mbps,
            up_mbps: a.up_mbps + b.up_mbps,
            latency_ms: a.latency_ms.min(b.latency_ms),
        })
}

/// What of a need is met least, with what there is of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[serde(tag = "of", rename_all = "snake_case")]
pub enum Shortfall {
    /// The download.
    Download {
        /// What arrives.
        has_mbps: MbitPerSec,
        /// What is needed.
        needs_mbps: MbitPerSec,
    },
    /// The upload.
    Upload {
        /// What arrives.
        has_mbps: MbitPerSec,
        /// What is needed.
        needs_mbps: MbitPerSec,
    },
    /// The delay.
    Delay {
        /// How soon an answer comes.
        has_ms: Millis,
        /// How soon it is needed.
        needs_ms: Millis,
    },
}

impl Need {
    /// The part of it that these figures meet least, also where they meet all.
    #[must_use]
    pub fn least_met(&self, down: MbitPerSec, up: MbitPerSec, latency: Millis) -> Shortfall {
        let part = |has: f64, needs: f64| if needs > 0.0 { has / needs } else { f64::INFINITY };
        let parts = [
            part(down.get(), self.down_mbps.get()),
            part(up.get(), self.up_mbps.get()),
            part(self.latency_ms.get(), latency.get()),
        ];
        // Where nothing arrives it is the download that is told of.
        let least = parts.iter().enumerate().min_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |(index, _)| index);
        match least {
            1 => Shortfall::Upload { has_mbps: up, needs_mbps: self.up_mbps },
            2 => Shortfall::Delay { has_ms: latency, needs_ms: self.latency_ms },
            _ => Shortfall::Download { has_mbps: down, needs_mbps: self.down_mbps },
        }
    }

    /// Whether these figures meet every part.
    #[must_use]
    pub fn met_by(&self, down: MbitPerSec, up: MbitPerSec, latency: Millis) -> bool {
        down >= self.down_mbps && up >= self.up_mbps && latency <= self.latency_ms
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::UseId;

    fn used(room: &str, activity: Activity, people: u32) -> RoomUse {
        RoomUse { id: UseId::random(), room_id: RoomId::named(room), activity, people, who: String::new(), hours: None }
    }

    #[test]
    fn a_room_needs_the_sum_of_speeds_and_the_strictest_delay() {
        let brief = Brief {
            uses: vec![
                used("box", Activity::Call, 1),
                used("box", Activity::HdFilm, 1),
                used("den", Activity::Game, 2),
            ],
            ..Brief::default()
        };
        let need = room_need(&brief, RoomId::named("box"), TestKind::Internet).unwrap();
        assert!((need.down_mbps.get() - 12.0).abs() < 1e-9);
        assert!((need.up_mbps.get() - 3.3).abs() < 1e-9);
        assert!((need.latency_ms.get() - 150.0).abs() < 1e-9);
        assert_eq!(room_need(&brief, RoomId::named("loft"), TestKind::Internet), None);
    }

    #[test]
    fn what_stays_at_home_is_asked_of_the_home_network_alone() {
        let brief = Brief {
            uses: vec![used("den", Activity::Browsing, 1), used("den", Activity::LocalFiles, 1)],
            ..Brief::default()
        };
        let of = |kind| room_need(&brief, RoomId::named("den"), kind).unwrap().down_mbps.get();
        assert!((of(TestKind::Internet) - 3.0).abs() < 1e-9);
        assert!((of(TestKind::Local) - 83.0).abs() < 1e-9);
    }
}
