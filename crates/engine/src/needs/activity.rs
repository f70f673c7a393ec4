//! Activities turned into needed speed and delay.

use busy_hen_home::{Activity, Brief, RoomId};
use busy_hen_units::{MbitPerSec, Millis};
use serde::Serialize;
use utoipa::ToSchema;

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
/// the 150 ms of ITU-T G.114, and the game's under what players notice. Camera: sends HD without pause.
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
    };
    Need { down_mbps: MbitPerSec::new(down), up_mbps: MbitPerSec::new(up), latency_ms: Millis::new(latency) }
}

/// Everything that goes on in a room at once: speeds add, the strictest delay holds. None when nothing is done there.
#[must_use]
pub fn room_need(brief: &Brief, room: RoomId) -> Option<Need> {
    sum(brief, |id| id == room)
}

/// Everything that goes on in the home at once; none when nothing is.
#[must_use]
pub fn home_need(brief: &Brief) -> Option<Need> {
    sum(brief, |_| true)
}

fn sum(brief: &Brief, included: impl Fn(RoomId) -> bool) -> Option<Need> {
    brief
        .uses
        .iter()
        .filter(|one| included(one.room_id))
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

impl Need {
    /// Whether these figures meet every part.
    #[must_use]
    pub fn met_by(&self, down: MbitPerSec, up: MbitPerSec, latency: Millis) -> bool {
        down >= self.down_mbps && up >= self.up_mbps && latency <= self.latency_ms
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::{RoomUse, UseId};

    fn used(room: &str, activity: Activity, people: u32) -> RoomUse {
        RoomUse { id: UseId::random(), room_id: RoomId::named(room), activity, people, who: String::new() }
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
        let need = room_need(&brief, RoomId::named("box")).unwrap();
        assert!((need.down_mbps.get() - 12.0).abs() < 1e-9);
        assert!((need.up_mbps.get() - 3.3).abs() < 1e-9);
        assert!((need.latency_ms.get() - 150.0).abs() < 1e-9);
        let whole = home_need(&brief).unwrap();
        assert!((whole.down_mbps.get() - 22.0).abs() < 1e-9);
        assert!((whole.latency_ms.get() - 60.0).abs() < 1e-9);
        assert_eq!(room_need(&brief, RoomId::named("loft")), None);
    }
}
