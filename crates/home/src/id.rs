//! Identifiers, one type a thing, so that a room's is never taken for a spot's.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

macro_rules! id {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(
            Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema, IntoParams,
        )]
        #[serde(transparent)]
        #[into_params(names("id"))]
        pub struct $name(pub Uuid);

        impl $name {
            /// A new random identifier.
            #[must_use]
            pub fn random() -> Self {
                Self(Uuid::new_v4())
            }

            /// The identifier that always belongs to this name: for demo data and tests.
            #[must_use]
            pub fn named(name: &str) -> Self {
                Self(Uuid::new_v5(&Uuid::NAMESPACE_OID, name.as_bytes()))
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                self.0.fmt(f)
            }
        }

        impl FromStr for $name {
            type Err = uuid::Error;
            fn from_str(text: &str) -> Result<Self, Self::Err> {
                Uuid::parse_str(text).map(Self)
            }
        }
    };
}

id!(
    /// Identifies a home.
    HomeId
);
id!(
    /// Identifies an internet plan of a home.
    PlanId
);
id!(
    /// Identifies one use of a room (who does what there).
    UseId
);
id!(
    /// Identifies an entry of the family's devices.
    FamilyDeviceId
);
id!(
    /// Identifies a complaint.
    ComplaintId
);
id!(
    /// Identifies a level of a house.
    LevelId
);
id!(
    /// Identifies a room or outdoor area.
    RoomId
);
id!(
    /// Identifies a spot where one tests.
    SpotId
);
id!(
    /// Identifies an obstacle.
    ObstacleId
);
id!(
    /// Identifies a neighbour's network.
    NeighbourId
);
id!(
    /// Identifies a setup.
    SetupId
);
id!(
    /// Identifies a device placed in a setup.
    DeviceId
);
id!(
    /// Identifies a round of tests.
    RoundId
);
id!(
    /// Identifies a single run.
    RunId
);
id!(
    /// Identifies a picture.
    PictureId
);
id!(
    /// Identifies a drill.
    DrillId
);
id!(
    /// Identifies a watch.
    WatchId
);
id!(
    /// Identifies a note on a device.
    NoteId
);
id!(
    /// Identifies a password that is kept.
    PasswordId
);
