//! What is asked of a model.

use busy_hen_catalogue::{Client, clients};
use busy_hen_home::{Band, Doors, Situation, TestKind};
use jiff::civil::Date;

/// What is asked of a model.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Question {
    /// The device people hold.
    pub client: &'static Client,
    /// The band it is held to; none when it chooses.
    pub band: Option<Band>,
    /// Whether the family is busy meanwhile.
    pub situation: Situation,
    /// How the doors stand.
    pub doors: Doors,
    /// How far the test reaches.
    pub reach: TestKind,
    /// The day, which decides the plan in force.
    pub day: Date,
}

impl Question {
    /// What is asked where nobody says: by what people hold, to the internet, while nobody else is busy.
    #[must_use]
    pub fn usual(day: Date) -> Self {
        let client = clients::usual();
        Self { client, band: None, situation: Situation::Alone, doors: Doors::AsLeft, reach: TestKind::Internet, day }
    }
}
