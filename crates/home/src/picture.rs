//! Pictures that were taken into a spot, a device, a room's walls and sockets, or that show a plan to trace over.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::id::{DeviceId, LevelId, PictureId, RoomId, SpotId};

/// What is known of a picture; the picture itself is kept apart.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Picture {
    /// Identifies the picture; made by whoever took it, so that sending it twice keeps it once.
    pub id: PictureId,
    /// What it shows.
    pub shows: Shows,
    /// When it was taken.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What was noted with it; empty when nothing was.
    #[serde(default)]
    pub note: String,
}

/// What a picture shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Shows {
    /// A spot where one tests.
    Spot {
        /// The spot.
        spot_id: SpotId,
    },
    /// A device, as it stands or as it is wired.
    Device {
        /// The device.
        device_id: DeviceId,
    },
    /// A wall or socket of a room; its note says which.
    Room {
        /// The room.
        room_id: RoomId,
    },
    /// A plan of a level, to trace over.
    Plan {
        /// The level.
        level_id: LevelId,
    },
}
